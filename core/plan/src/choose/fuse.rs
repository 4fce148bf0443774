//! Which fuse, and where: a quarter above the largest current, no more than any wire, switch or plug it protects,
//! and small enough that a short at the far end opens it at once.

use super::*;
use orthavis_model::document::{Consumer, FeedRef, FuseStyle};
use orthavis_model::edit::feed_mut;
use orthavis_model::laws::fuse::{BREAKS_BADLY, HEADROOM, PROMPT_MULTIPLE, Seat};
use orthavis_model::practice::{COLD_FILAMENT, above, within as keeps};
use orthavis_model::topology::Topology;
use orthavis_model::working::{Rule, fact, plain, quantity};
use orthavis_physics::protection;

/// What is asked.
#[derive(Clone, Debug)]
pub struct Ask {
    /// Largest current, A.
    pub current_a: f64,
    /// Least ampacity of the wires it protects, A.
    pub ampacity_a: f64,
    /// Least rating of switches and plugs there, A.
    pub parts_a: Option<f64>,
    /// Least current into a bolted short at the far end of what it protects, A.
    pub fault_a: f64,
    /// mm² sizes rather than AWG.
    pub metric: bool,
    /// Circuits in the tightest bundle of its zone.
    pub bundled: u32,
    /// Share of its ampacity that its wire in the hottest place keeps.
    pub heat_share: f64,
    /// Where it goes, in words.
    pub place: String,
    /// What it may have to interrupt there.
    pub seat: Seat,
    /// Current while the filaments behind it are cold, A; 0: there are none.
    pub cold_a: f64,
    /// What charges the capacitors of the modules behind it, A²s.
    pub charges_a2s: f64,
}

impl Ask {
    /// The smallest standard rating of a style that carries the current, with room for what rushes in at switch-on.
    fn rating_a(&self, style: FuseStyle) -> Option<f64> {
        let least = style.smallest_for(self.current_a)?;
        let holds = |rating: &&f64| Fuse::of(style, **rating).holds((self.cold_a, COLD_FILAMENT.1), self.charges_a2s);
        Some(style.ratings_a().iter().filter(|rating| **rating >= least).find(holds).copied().unwrap_or(least))
    }
}

const RATING: Rule = Rule {
    words: "The smallest standard rating far enough above the largest current, with room for cold filaments and for the capacitors of converters.",
    formula: "I_rated ≥ k·I_max",
    source: "Common practice for continuous load; standard ratings",
};
const FAULT: Rule = Rule {
    words: "A bolted short at the far end, over every resistance on the way out and back; behind a converter, the converter's limit.",
    formula: "I_fault = E / (R_source + ΣR)",
    source: "Ohm's law",
};
const OPENS: Rule = Rule {
    words: "How long a fuse of this style may take at that current, at most.",
    formula: "t(I_fault / I_rated), straight on log–log paper",
    source: "Slow limits of ISO 8820-3 (blade) and IEC 60127-2 (glass, ceramic); resettable ones representative",
};

/// One choice for each style.
///
/// # Errors
/// When the current is out of range.
pub fn fuse(ask: &Ask) -> Result<Vec<Choice>, ChooseError> {
    within("the current", ask.current_a, -1e-12, 10_000.0, "a current from 0 to 10,000 A")?;
    let mut choices: Vec<Choice> = ask.seat.usual().into_iter().map(|style| of_style(ask, style)).collect();
    // The sort keeps the order of what is usual there.
    rank(&mut choices, |choice| choice.caution.is_some());
    Ok(choices)
}

fn of_style(ask: &Ask, style: FuseStyle) -> Choice {
    let name = style.name();
    let Some(rating_a) = ask.rating_a(style) else {
        let mut none = Choice::new(
            format!("No {name} is large enough"),
            format!("{} and a quarter is more than the largest standard {name}; divide the load over several feeds.", plain(ask.current_a, "A")),
            Pick::Fuse { fuse: None, grow: None },
        );
        none.works = false;
        return none;
    };
    let sizes = if ask.metric { Gauge::Mm2(0.1) } else { Gauge::Awg(29) }.thicker();
    let grow = if above(rating_a, ask.ampacity_a) { sizes.into_iter().find(|gauge| gauge.ampacity_a(ask.bundled) * ask.heat_share >= rating_a) } else { None };
    let fuse = orthavis_model::document::Fuse::of(style, rating_a);
    let opens = fuse.opens_s(ask.fault_a);
    let (most_v, most_a) = style.stands();
    let short_a = ask.seat.short_a(&fuse);
    let first = grow.map_or(String::new(), |gauge| format!(" after the wire has grown to {}", gauge.name()));
    let mut choice = Choice::new(
        format!("{} {name}{first}", plain(rating_a, "A")),
        format!("{}. Carries {} at most; a short at the far end draws {}.", ask.place, plain(ask.current_a, "A"), plain(ask.fault_a, "A")),
        Pick::Fuse { fuse: Some(fuse), grow },
    );
    choice.caution = if let Some(parts_a) = ask.parts_a.filter(|parts| above(rating_a, *parts)) {
        choice.works = false;
        Some(format!("A switch or plug on the way stands only {}; put a larger one in.", plain(parts_a, "A")))
    } else if above(ask.seat.highest_v, most_v) {
        choice.works = false;
        Some(format!("It interrupts up to {}; here there may be {}.", plain(most_v, "V"), plain(ask.seat.highest_v, "V")))
    } else if above(short_a, most_a) {
        choice.works = keeps(short_a, BREAKS_BADLY.0 * most_a);
        Some(format!("It breaks {} at most; a short right behind it draws {}.", plain(most_a, "A"), plain(short_a, "A")))
    } else if above(PROMPT_MULTIPLE * rating_a, ask.fault_a) {
        Some("A short at the far end may draw too little to open it quickly: a converter limits it, or the wire is long and thin.".into())
    } else if style == FuseStyle::Ptc {
        Some("It resets by itself when it cools, leaks while it is open, and opens at less in a warm place.".into())
    } else {
        None
    };
    choice.figures = vec![
        fact(
            "rating_a",
            "Rating",
            "I_rated",
            rating_a,
            "A",
            &RATING,
            vec![quantity("I_max", "largest current", ask.current_a, "A"), quantity("k", "room to spare", HEADROOM, "1")],
        )
        .of_limit(ask.ampacity_a),
        fact(
            "headroom",
            "Largest current, against its rating",
            "I_max / I_rated",
            ask.current_a / rating_a,
            "1",
            &RATING,
            vec![
                quantity("I_max", "largest current", ask.current_a, "A"),
                quantity("I_rated", "rating", rating_a, "A"),
                quantity("k", "room to spare", HEADROOM, "1"),
            ],
        )
        .of_limit(1.0 / HEADROOM),
        fact("fault_a", "Short at the far end", "I_fault", ask.fault_a, "A", &FAULT, vec![quantity("I_rated", "rating", rating_a, "A")]),
    ];
    if let Some([_, seconds]) = opens {
        choice.figures.push(fact(
            "opens_s",
            "It opens within",
            "t",
            seconds,
            "s",
            &OPENS,
            vec![quantity("I_fault", "short", ask.fault_a, "A"), quantity("I_rated", "rating", rating_a, "A")],
        ));
    }
    choice
}

/// Fuses for a feed of a solved build, each with the change that takes it over, wire included.
///
/// # Errors
/// When there is no such feed, or the build has no steady state.
pub fn for_feed(build: &Build, id: &str) -> Result<Vec<Choice>, ChooseError> {
    let ask = ask_of(build, &orthavis_physics::points::points(build)?, id)?;
    let choices = fuse(&ask)?.into_iter().map(|choice| {
        let Pick::Fuse { fuse: Some(fuse), grow } = choice.pick.clone() else { return choice };
        choice.changing(build, |copy| put(copy, id, &fuse, grow))
    });
    tried(build, choices.collect())
}

/// Puts the fuse in, after every wire of its zone that is too thin has grown.
pub(super) fn put(build: &mut Build, id: &str, fuse: &orthavis_model::document::Fuse, grow: Option<Gauge>) -> Option<()> {
    if let Some(gauge) = grow {
        for thin in zone(build, id).into_iter().filter(|feed| build.ampacity_a(feed) < fuse.rating_a).map(|feed| feed.id).collect::<Vec<_>>() {
            feed_mut(build, &thin)?.gauge = gauge;
        }
    }
    feed_mut(build, id)?.fuse = Some(fuse.clone());
    Some(())
}

/// The feed and what its fuse protects.
fn zone<'a>(build: &'a Build, id: &str) -> Vec<FeedRef<'a>> {
    let graph = Topology::of(build);
    graph.wire(id).map_or_else(Vec::new, |first| graph.named(protection::protected(&graph, first)))
}

pub(super) fn ask_of(build: &Build, points: &[PointReport], id: &str) -> Result<Ask, ChooseError> {
    let graph = Topology::of(build);
    let wire = graph.wire(id).ok_or(ChooseError::Unknown { what: "feed", id: id.into() })?;
    let (feed, zone) = (graph.feed(wire), zone(build, id));
    let least = |values: &mut dyn Iterator<Item = f64>| values.fold(f64::INFINITY, f64::min);
    let parts = least(
        &mut zone.iter().flat_map(|wire| wire.feed.switch.iter().map(|s| s.rating_a).chain(wire.feed.contact_rating_a.filter(|_| wire.feed.contacts > 0))),
    );
    let place = match (feed.feed.from.as_str(), feed.consumer) {
        ("source", _) => "At the battery's plus, within a hand's width, before anything can be pinched".to_owned(),
        (from, Consumer::Light(_)) => format!("Right after `{from}`"),
        (from, _) => format!("Right after `{from}`, before the wire leaves"),
    };
    Ok(Ask {
        current_a: peaks(points).filter_map(|point| point.feeds.get(id)).map(|f| f.current_a.abs()).fold(0.0, f64::max),
        ampacity_a: least(&mut zone.iter().map(|wire| build.ampacity_a(wire))),
        heat_share: least(&mut zone.iter().map(|wire| build.heat_share(wire.consumer))),
        parts_a: parts.is_finite().then_some(parts),
        fault_a: least(&mut zone.iter().map(|wire| protection::fault_a(&graph, wire.feed))),
        metric: matches!(feed.feed.gauge, Gauge::Mm2(_)),
        bundled: zone.iter().map(|wire| wire.feed.bundled).max().unwrap_or(1),
        place,
        seat: protection::seat(&graph, feed.feed),
        cold_a: { points.iter().filter_map(|point| protection::inrush_a(&graph, wire, point, |_| true)).fold(0.0, f64::max) },
        charges_a2s: protection::charges_a2s(&graph, wire),
    })
}
