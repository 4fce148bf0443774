//! How thick a wire has to be: for its current, and for what it may lose on the way out and back.

use super::*;
use orthavis_model::laws::wire::COPPER_OHM_M;
use orthavis_model::practice;
use orthavis_model::practice::{DROP_EASY, DROP_MOST};
use orthavis_model::topology::Topology;
use orthavis_model::working::{Rule, fact, plain, quantity};

/// What is asked.
#[derive(Clone, Debug)]
pub struct Ask {
    /// Largest current, A.
    pub current_a: f64,
    /// One way, slack included, m.
    pub length_m: f64,
    /// Lowest voltage at the supply, V.
    pub supply_v: f64,
    /// Loaded circuits in the bundle.
    pub bundled: u32,
    /// Share of its ampacity that a wire keeps where it ends: less than 1 in a hot place.
    pub heat_share: f64,
    /// mm² sizes rather than AWG.
    pub metric: bool,
    /// Thinnest that a hand can trust there, mm².
    pub least_mm2: f64,
    /// What a frame that carries the return keeps of the voltage, with the currents of all that goes back by it, V.
    pub frame_v: Option<f64>,
    /// Fuse, switch and plugs, ohm.
    pub parts_ohm: f64,
    /// Rating of the fuse that protects it, A.
    pub fuse_a: Option<f64>,
}

const DROP: Rule = Rule {
    words: "What the wire takes of the voltage on the way out and back, with fuse, switch and plugs.",
    formula: "ΔV = I·(2·ρ·L/A + R_parts)",
    source: "Ohm's law; annealed copper at 20 °C (IEC 60028)",
};
const FRAME_DROP: Rule = Rule {
    words: "What the wire takes of the voltage on the way out, with fuse, switch and plugs, and the frame on the way back with all that it carries.",
    formula: "ΔV = I·(ρ·L/A + R_parts) + V_frame",
    source: "Ohm's law; annealed copper at 20 °C (IEC 60028); the frame as measured",
};
const SHARE: Rule = Rule { words: "Keep it to 3 % where that is easy, under 10 % always.", formula: "ΔV / V", source: "Budgets by common practice" };
const AMPACITY: Rule = Rule {
    words: "What the wire may carry before its insulation suffers, less in a bundle.",
    formula: "I ≤ I_ampacity·k_bundle",
    source: "Representative ampacities, PVC 80 °C in 30 °C free air",
};

/// The thinnest common wire for 3 % and for 10 % loss, and for its current alone.
///
/// # Errors
/// When a figure is out of range.
pub fn wire(ask: &Ask) -> Result<Vec<Choice>, ChooseError> {
    within("the supply voltage", ask.supply_v, 0.0, 1000.0, "a voltage above 0 and at most 1000 V")?;
    within("the current", ask.current_a, -1e-12, 10_000.0, "a current from 0 to 10,000 A")?;
    within("the length", ask.length_m, -1e-12, 10_000.0, "a length from 0 to 10,000 m")?;
    let mut sizes = if ask.metric { Gauge::Mm2(0.1) } else { Gauge::Awg(29) }.thicker();
    sizes.retain(|gauge| practice::within(ask.least_mm2, gauge.area_mm2()));
    let drop_v = |gauge: Gauge| {
        let wire_v = ask.current_a * gauge.ohm(ask.length_m);
        wire_v + ask.frame_v.unwrap_or(wire_v) + ask.current_a * ask.parts_ohm
    };
    let ampacity_a = |gauge: Gauge| gauge.ampacity_a(ask.bundled) * ask.heat_share;
    let carries = |gauge: &Gauge| ampacity_a(*gauge) >= ask.current_a.max(ask.fuse_a.unwrap_or(0.0));
    let thinnest = |share: f64| sizes.iter().copied().filter(carries).find(|gauge| drop_v(*gauge) <= share * ask.supply_v);
    let mut choices: Vec<Choice> = Vec::new();
    for limit in [DROP_EASY, DROP_MOST, f64::INFINITY] {
        let words = if limit.is_finite() { format!("loses under {:.0} %", 100.0 * limit) } else { "carries the current, whatever it loses".into() };
        let Some(gauge) = thinnest(limit) else { continue };
        if choices.iter().any(|known| matches!(known.pick, Pick::Wire { gauge: same } if same == gauge)) {
            continue;
        }
        let (drop, ampacity) = (drop_v(gauge), ampacity_a(gauge));
        let area = gauge.area_mm2();
        let share = drop / ask.supply_v;
        let mut choice = Choice::new(
            format!("{}: {words}", gauge.name()),
            format!("{:.1} % lost on the way, {} as heat; it may carry {}.", 100.0 * share, plain(drop * ask.current_a, "W"), plain(ampacity, "A")),
            Pick::Wire { gauge },
        );
        if share > DROP_MOST {
            choice.caution = Some("More than a tenth is lost: what it feeds is dimmer, and the wire warms.".into());
            choice.works = false;
        }
        let mut given = vec![
            quantity("I", "largest current", ask.current_a, "A"),
            quantity("ρ", "copper", COPPER_OHM_M, "ohm·m"),
            quantity("L", "length, one way", ask.length_m, "m"),
            quantity("A", "cross-section", area, "mm²"),
            quantity("R_parts", "fuse, switch and plugs", ask.parts_ohm, "ohm"),
        ];
        given.extend(ask.frame_v.map(|frame_v| quantity("V_frame", "lost in the frame", frame_v, "V")));
        choice.figures = vec![
            fact("drop_v", "Lost out and back", "ΔV", drop, "V", if ask.frame_v.is_some() { &FRAME_DROP } else { &DROP }, given),
            fact(
                "drop_share",
                "Of the supply",
                "ΔV/V",
                share,
                "1",
                &SHARE,
                vec![quantity("ΔV", "lost", drop, "V"), quantity("V", "supply, at its lowest", ask.supply_v, "V")],
            ),
            fact("current_a", "Largest current", "I", ask.current_a, "A", &AMPACITY, vec![quantity("I_ampacity", "it may carry", ampacity, "A")])
                .of_limit(ampacity),
        ];
        choices.push(choice);
    }
    Ok(choices)
}

/// Sizes for a feed of a solved build, each with the change that takes it over.
///
/// # Errors
/// When there is no such feed, or the build has no steady state.
pub fn for_feed(build: &Build, id: &str) -> Result<Vec<Choice>, ChooseError> {
    let ask = ask_of(build, &orthavis_physics::points::points(build)?, id)?;
    let choices = wire(&ask)?.into_iter().map(|choice| {
        let Pick::Wire { gauge } = choice.pick else { return choice };
        choice.changing(build, |copy| {
            orthavis_model::edit::feed_mut(copy, id)?.gauge = gauge;
            Some(())
        })
    });
    tried(build, choices.collect())
}

/// The question that a feed of a solved build puts.
pub(super) fn ask_of(build: &Build, points: &[PointReport], id: &str) -> Result<Ask, ChooseError> {
    let own = build.feed(id).ok_or(ChooseError::Unknown { what: "feed", id: id.into() })?;
    let feed = own.feed;
    let frame_v = |ohm: f64| {
        let framed: Vec<_> = build.feeds().into_iter().filter(|feed| feed.feed.by_frame(Some(ohm))).collect();
        let of = |point: &PointReport| framed.iter().filter_map(|feed| point.feeds.get(&feed.id)).map(|feed| feed.back_a).sum::<f64>().abs();
        ohm * peaks(points).map(of).fold(0.0, f64::max)
    };
    let topology = Topology::of(build);
    let supply = points.iter().map(|point| point.supply_v(build, &topology, &feed.from)).filter(|v| *v > 0.0);
    Ok(Ask {
        current_a: peaks(points).filter_map(|point| point.feeds.get(id)).map(|f| f.current_a.abs().max(f.back_a.abs())).fold(0.0, f64::max),
        length_m: feed.length_m,
        supply_v: supply.fold(1000.0, f64::min),
        bundled: feed.bundled,
        heat_share: build.heat_share(own.consumer),
        metric: matches!(feed.gauge, Gauge::Mm2(_)),
        least_mm2: practice::least_wire_mm2(build.vehicle.kind),
        frame_v: build.vehicle.frame_return_ohm.filter(|_| feed.return_path == orthavis_model::document::Return::Frame).map(frame_v),
        parts_ohm: feed.out_ohm() - feed.gauge.ohm(feed.length_m),
        fuse_a: topology.wire(id).and_then(|wire| topology.fuse_of(wire)).map(|fuse| fuse.rating_a),
    })
}
