//! A solved point as people look at it: the watt river from source to lights, and how brightly each light glows.
//!
//! Geometry is left to whoever draws. Every figure here carries its working.

mod parts;

use orthavis_judge::report::Report;
use orthavis_model::document::{Build, Consumer, Feed, FeedRef, Load};
use orthavis_model::laws::wire::COPPER_OHM_M;
use orthavis_model::practice::{BOUNCE, DROP_EASY};
use orthavis_model::states::Lit;
use orthavis_model::states::State;
use orthavis_model::topology::{Node, Topology};
use orthavis_model::working::{Fact, Rule, fact, quantity};
use orthavis_physics::circuits::flashing;
use orthavis_physics::points::PointReport;
use orthavis_physics::show::mean_lit;
use parts::{circuit, controller, converter, junction, light, source};
use serde::Serialize;
use std::collections::BTreeMap;

/// One scene at one state.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Picture {
    /// Scene id.
    pub scene: String,
    /// State of the source.
    pub state: State,
    /// Leaves the source for the lights, W.
    pub source_w: f64,
    /// Reaches the lights, W.
    pub lights_w: f64,
    /// Turns into heat on the way, W.
    pub heat_w: f64,
    /// Every stretch of the river, suppliers before what they feed.
    pub reaches: Vec<Reach>,
    /// Every light.
    pub glows: Vec<Glow>,
}

/// What a reach of the river is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum ReachKind {
    /// The battery or rail.
    Source,
    /// A point where one feed becomes several.
    Junction,
    /// A converter.
    Converter,
    /// A light.
    Light,
    /// A small circuit.
    Circuit,
    /// A controller.
    Controller,
}

/// A part with the feeds that lead to it.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Reach {
    /// Id of the part, or `source`.
    pub id: String,
    /// What people call it.
    pub name: String,
    /// What it is.
    pub kind: ReachKind,
    /// Its supplier. A strip that several supplies feed has a reach for each; those after the first bear the id of
    /// their feed.
    pub from: Option<String>,
    /// Leaves the supplier for it, W.
    pub sent_w: f64,
    /// Arrives at it, W.
    pub arrives_w: f64,
    /// Goes on from it (a light: becomes its own), W.
    pub leaves_w: f64,
    /// Whether the feed from the source has no fuse.
    pub unfused: bool,
    /// Its figures.
    pub facts: Vec<Fact>,
}

/// How a light looks.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Glow {
    /// Light id.
    pub id: String,
    /// Where it sits.
    pub place: String,
    /// Colour by name, but of pixels.
    pub colour: Option<String>,
    /// Red, green, blue asked for by the scene, of pixels.
    pub rgb: Option<[f64; 3]>,
    /// Light relative to rated, 0 when off.
    pub output: f64,
    /// Share of the time it is on.
    pub duty: f64,
    /// Whether it shines along its place, as strips and pixels do, and not from one point.
    pub along: bool,
    /// How long such a row is, m.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub row_m: Option<f64>,
    /// From LED to LED of such a row, m.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pitch_m: Option<f64>,
}

const KIRCHHOFF: Rule = Rule {
    words: "Found by solving the whole network at once: at every point the currents in and out balance.",
    formula: "ΣI = 0 at every node",
    source: "Kirchhoff's laws, Newton's method; balance kept to 1 nA",
};

/// The picture of one scene and state of a report; `None` where the report has no such point.
pub fn picture(build: &Build, report: &Report, scene: &str, state: State) -> Option<Picture> {
    let point = report.points.iter().find(|p| p.scene == scene && p.state == state)?;
    let mut reaches = vec![source(build, point)];
    for (feed, consumer) in suppliers_first(build) {
        reaches.push(match consumer {
            Consumer::Junction(i) => junction(build, point, i),
            Consumer::Converter(i) => converter(build, point, i),
            Consumer::Light(i) => light(build, point, i, &feed),
            Consumer::Circuit(i) => circuit(build, point, i),
            Consumer::Controller(i) => controller(build, point, i),
        });
    }
    let source_w = reaches.iter().filter(|reach| reach.from.as_deref() == Some("source")).map(|reach| reach.sent_w).sum();
    let lights_w = point.lights.values().map(|l| l.power_w).sum();
    let flashing = flashing(build);
    let lit = flashing.scenes.iter().find(|s| s.id == scene)?;
    // What moves is shown as it is in the mean.
    let mean = mean_lit(build, lit);
    let glows = build.lights.iter().enumerate().map(|(index, light)| {
        let here = lit.lights.get(&light.id);
        let moving = mean[index].each.as_deref().filter(|each| !each.is_empty()).map(|each| {
            let sum = each.iter().fold([0.0; 3], |sum: [f64; 3], one| std::array::from_fn(|channel| sum[channel] + one[channel]));
            let brightest = sum.iter().copied().fold(0.0, f64::max);
            (sum.map(|channel| if brightest > 0.0 { channel / brightest } else { 0.0 }), brightest / each.len() as f64)
        });
        let (colour, rgb) = match &light.load {
            Load::LedArray(array) => (Some(array.led.colour.clone()), None),
            Load::Pixels(_) => (None, moving.map(|(colour, _)| colour).or(here.map(|h| h.colour))),
            Load::Strip(_) | Load::Module(_) => (light.colour.clone(), None),
        };
        let asked = here.map_or(Lit::OFF, Lit::of);
        let output = point.lights.get(&light.id).map_or(0.0, |l| l.output);
        let output = moving.map_or_else(|| light.brightness(&asked, output), |(_, share)| share * output);
        Glow {
            id: light.id.clone(),
            place: light.place.clone(),
            colour,
            rgb,
            output,
            duty: here.map_or(1.0, |h| h.duty),
            along: matches!(light.load, Load::Strip(_) | Load::Pixels(_)),
            row_m: light.row_m(),
            pitch_m: light.row_pitch_m(),
        }
    });
    Some(Picture { scene: scene.into(), state, source_w, lights_w, heat_w: source_w - lights_w, glows: glows.collect(), reaches })
}

/// Every part with the first feed of each of its suppliers, each after that supplier.
fn suppliers_first(build: &Build) -> Vec<(String, Consumer)> {
    let graph = Topology::of(build);
    let mut order = Vec::new();
    let mut ready = vec![Node::Source];
    while let Some(supplier) = ready.pop() {
        let hanging = graph.hanging(supplier);
        for (index, wire) in hanging.iter().enumerate() {
            if hanging[..index].iter().any(|before| graph.to(*before) == graph.to(*wire)) {
                continue;
            }
            let feed = graph.feed(*wire);
            order.push((feed.id.clone(), feed.consumer));
            ready.push(graph.to(*wire));
        }
    }
    order
}

/// The feeds that lead from one supplier to a part: power sent and lost, whether one is unfused, and their facts.
struct Way {
    from: Option<String>,
    sent_w: f64,
    arrives_w: f64,
    unfused: bool,
    facts: Vec<Fact>,
}

/// The feeds beside this one that lead from the same supplier to the same part, itself first.
fn way(build: &Build, point: &PointReport, first: &str) -> Way {
    let feeds = build.feeds();
    let Some(own) = feeds.iter().find(|feed| feed.id == first) else {
        return Way { from: None, sent_w: 0.0, arrives_w: 0.0, unfused: false, facts: Vec::new() };
    };
    let (mut sent, mut lost, mut unfused) = (0.0, 0.0, false);
    for feed in feeds.iter().filter(|feed| feed.consumer == own.consumer && feed.feed.from == own.feed.from) {
        let Some(here) = point.feeds.get(&feed.id) else { continue };
        lost += here.loss_w;
        sent += here.sent_w;
        unfused |= feed.feed.from == "source" && feed.feed.fuse.is_none() && matches!(build.source, orthavis_model::document::Source::Battery(_));
    }
    Way { from: Some(own.feed.from.clone()), sent_w: sent, arrives_w: sent - lost, unfused, facts: carried(build, point, own) }
}

/// What a feed carries and loses, each against what it may.
fn carried(build: &Build, point: &PointReport, own: &FeedRef<'_>) -> Vec<Fact> {
    const DROP: Rule = Rule {
        words: "What wire, fuse, switch and plugs take of the voltage, on the way out and back. The limit is the usual budget for it.",
        formula: "ΔV = I·(ρ·L/A + R_parts) + I_back·ρ·L/A",
        source: "Ohm's law; annealed copper at 20 °C (IEC 60028)",
    };
    const FRAME_DROP: Rule = Rule {
        words: "What wire, fuse, switch and plugs take of the voltage on the way out, and the frame on the way back: it carries what everything there takes. The limit is the usual budget for it.",
        formula: "ΔV = I·(ρ·L/A + R_parts) + I_frame·R_frame − V_minus",
        source: "Ohm's law; annealed copper at 20 °C (IEC 60028); the frame as measured",
    };
    let feed = own.feed;
    let Some(here) = point.feeds.get(&own.id) else { return Vec::new() };
    let area = feed.gauge.area_mm2();
    let bundle = vec![quantity("A", "cross-section", area, "mm²"), quantity("n", "circuits in its bundle", f64::from(feed.bundled), "")];
    let current = fact("feed_a", "Current in its wire", "I", here.current_a, "A", &KIRCHHOFF, bundle).of_limit(build.ampacity_a(own));
    let mut given = vec![
        quantity("I", "current", here.current_a, "A"),
        quantity("ρ", "copper", COPPER_OHM_M, "ohm·m"),
        quantity("L", "length, one way", feed.length_m, "m"),
        quantity("A", "cross-section", area, "mm²"),
        quantity("R_parts", "fuse, switch and plugs", feed.out_ohm() - feed.gauge.ohm(feed.length_m), "ohm"),
    ];
    let frame_ohm = build.vehicle.frame_return_ohm.filter(|ohm| feed.by_frame(Some(*ohm)));
    if let Some(frame_ohm) = frame_ohm {
        let frame_a = frame_a(build, point);
        let raised_v = frame_a * frame_ohm - (here.drop_v - here.current_a * feed.out_ohm());
        given.extend([
            quantity("I_frame", "current of all that goes back by the frame", frame_a, "A"),
            quantity("R_frame", "the frame, measured", frame_ohm, "ohm"),
            quantity("V_minus", "minus of what feeds it, above the source's", if raised_v.abs() < 1e-9 { 0.0 } else { raised_v }, "V"),
        ]);
    } else {
        given.push(quantity("I_back", "current in its minus wire", here.back_a, "A"));
    }
    let rule = if frame_ohm.is_some() { &FRAME_DROP } else { &DROP };
    let drop = fact("drop_v", "Lost in its wire, out and back", "ΔV", here.drop_v, "V", rule, given);
    let budget_v = DROP_EASY * point.supply_v(build, &Topology::of(build), &feed.from);
    let mut facts = vec![current, if budget_v > 0.0 { drop.of_limit(budget_v) } else { drop }];
    facts.extend(moving(feed, here.current_a));
    facts
}

/// What goes back by the frame in all, A.
fn frame_a(build: &Build, point: &PointReport) -> f64 {
    let framed = build.feeds().into_iter().filter(|feed| feed.feed.by_frame(build.vehicle.frame_return_ohm));
    framed.filter_map(|feed| point.feeds.get(&feed.id)).map(|feed| feed.back_a).sum()
}

/// What a feed that goes over to something that moves wants.
fn moving(feed: &Feed, current_a: f64) -> Vec<Fact> {
    const FREE: Rule = Rule {
        words: "Wire that hangs free between where it is held on both sides: the arc that it follows, and a tenth more. Hold it at both ends, and let it bend nowhere tighter than ten times its thickness.",
        formula: "L = 1.1 · θ · r",
        source: "Length of an arc; common practice",
    };
    const LOST: Rule = Rule {
        words: "Share of the time in which the contact is open. Keep the ring clean and clear of the frame by 3 mm or more, and bring minus back by a contact of its own: grease in a bearing insulates.",
        formula: "t_open / t",
        source: "Measured, or a representative figure of small sprung contacts",
    };
    const HOLD: Rule = Rule {
        words: "A capacitor behind the contact that carries this current over a bounce while the voltage falls a little. The other way is a pack of its own in what turns.",
        formula: "C = I · t / ΔV",
        source: "Charge of a capacitor",
    };
    let Some(own) = &feed.moving else { return Vec::new() };
    let mut facts = Vec::new();
    if let (Some(free_m), Some(angle), Some(radius)) = (own.free_m(), own.angle_deg, own.radius_m) {
        let given = vec![quantity("θ", "angle, degrees", angle, "1"), quantity("r", "from the axis", radius, "m")];
        facts.push(fact("free_m", "Wire that hangs free", "L", free_m, "m", &FREE, given));
    }
    if own.bounce_share > 0.0 {
        let given = vec![quantity("R", "resistance of the contact", own.resistance_ohm, "ohm")];
        facts.push(fact("lost_share", "Time without contact", "t_open / t", own.bounce_share, "1", &LOST, given));
        let given = vec![quantity("I", "current", current_a, "A"), quantity("t", "a bounce", BOUNCE.0, "s"), quantity("ΔV", "fall", BOUNCE.1, "V")];
        facts.push(fact("hold_f", "A capacitor that carries it over", "C", current_a.abs() * BOUNCE.0 / BOUNCE.1, "F", &HOLD, given));
    }
    facts
}

/// Every feed by its id: the current against what its wire may carry in its bundle, the drop against 3 % of the
/// supply.
pub fn feeds(build: &Build, point: &PointReport) -> BTreeMap<String, Vec<Fact>> {
    build.feeds().into_iter().map(|feed| (feed.id.clone(), carried(build, point, &feed))).collect()
}

/// A part at the end of its way; what leaves it is what arrives unless it says otherwise.
fn reach(id: &str, kind: ReachKind, way: Way, leaves_w: Option<f64>, mut facts: Vec<Fact>) -> Reach {
    facts.extend(way.facts);
    Reach {
        id: id.to_owned(),
        // A strip bears its own name at each of its suppliers.
        name: id.split('#').next().unwrap_or(id).to_owned(),
        kind,
        from: way.from,
        sent_w: way.sent_w,
        arrives_w: way.arrives_w,
        leaves_w: leaves_w.unwrap_or(way.arrives_w),
        unfused: way.unfused,
        facts,
    }
}
