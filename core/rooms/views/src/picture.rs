//! A solved point as people look at it: the watt river from source to lights, and how brightly each light glows.
//!
//! Geometry is left to whoever draws. Every figure here carries its working.

use orthavis_judge::report::Report;
use orthavis_model::document::{Build, Consumer, Draw, Feed, FeedRef, Load};
use orthavis_model::laws::wire::COPPER_OHM_M;
use orthavis_model::practice::{BOUNCE, DROP_EASY};
use orthavis_model::states::Lit;
use orthavis_model::states::State;
use orthavis_model::topology::{Node, Topology};
use orthavis_model::working::{Fact, Quantity, Rule, fact, power, quantity};
use orthavis_physics::circuits::flashing;
use orthavis_physics::points::{LightReport, PointReport};
use orthavis_physics::show::mean_lit;
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

fn source(build: &Build, point: &PointReport) -> Reach {
    let here = &point.source;
    const TERMINAL: Rule = Rule {
        words: "The battery's own voltage less what its resistance takes.",
        formula: "V = E − I·R",
        source: "Thevenin source; cell voltages are representative",
    };
    let (_, ohm) = build.thevenin(point.state);
    let given = vec![
        quantity("E", "without load", here.emf_v, "V"),
        quantity("I", "drawn", here.current_a, "A"),
        quantity("R", "resistance of the source", ohm, "ohm"),
    ];
    let watts = here.terminal_v * here.current_a;
    Reach {
        id: "source".into(),
        name: build.source.called().into(),
        kind: ReachKind::Source,
        from: None,
        sent_w: watts,
        arrives_w: watts,
        leaves_w: watts,
        unfused: false,
        facts: vec![
            fact("terminal_v", "Voltage at its terminals", "V", here.terminal_v, "V", &TERMINAL, given),
            fact(
                "current_a",
                "Drawn from it, all together",
                "I",
                here.current_a,
                "A",
                &KIRCHHOFF,
                vec![quantity("I_0", "standing loads in it", build.standing_a(), "A")],
            )
            .of_limit(build.source.max_current_a()),
            power("power_w", "Power", here.terminal_v, here.current_a),
        ],
    }
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
        words: "What wire, fuse, switch and plugs take of the voltage, on the way out and back. Three hundredths of the supply is the usual budget.",
        formula: "ΔV = I·(ρ·L/A + R_parts) + I_back·ρ·L/A",
        source: "Ohm's law; annealed copper at 20 °C (IEC 60028)",
    };
    const FRAME_DROP: Rule = Rule {
        words: "What wire, fuse, switch and plugs take of the voltage on the way out, and the frame on the way back: it carries what everything there takes. Three hundredths of the supply is the usual budget.",
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

/// How the brightness of a light comes about.
fn brightness(load: &Load, here: &LightReport, level: f64) -> (&'static Rule, Vec<Quantity>) {
    const BY_CURRENT: Rule = Rule {
        words: "Light is taken as proportional to the LEDs' current, relative to rated.",
        formula: "output = I / I_rated",
        source: "Linear model; temperature and droop are outside it",
    };
    const BY_POWER: Rule =
        Rule { words: "A lamp with electronics of its own makes light of the power that it takes.", formula: "output = P / P_rated", source: "Linear model" };
    const FILAMENT: Rule = Rule {
        words: "A bulb's light falls steeply with its voltage.",
        formula: "output = level·(V / V_rated)^3.4",
        source: "Usual exponent of incandescent lamps",
    };
    const PIXELS: Rule = Rule {
        words: "What the channels carry of what the scene asks of them, summed over the pixels.",
        formula: "output = Σ I_c / Σ I_asked",
        source: "Linear model of a pixel's regulator",
    };
    let by_current = |rated_a: f64| (&BY_CURRENT, vec![quantity("I", "current", here.current_a, "A"), quantity("I_rated", "rated current", rated_a, "A")]);
    match load {
        Load::LedArray(array) => by_current(f64::from(array.parallel) * array.led.if_a),
        Load::Strip(strip) => {
            let rows = strip.recut.as_ref().map_or(1.0, |recut| f64::from(recut.groups));
            by_current(f64::from(strip.segments()) * rows * strip.power_w_per_m * strip.segment_m / strip.voltage_v)
        }
        Load::Pixels(_) => (&PIXELS, Vec::new()),
        Load::Module(module) => match module.draw {
            Draw::ConstantPower => (&BY_POWER, vec![quantity("P", "power", here.power_w, "W"), quantity("P_rated", "rated power", module.power_w, "W")]),
            Draw::Filament => {
                let volts = [quantity("V", "voltage", here.voltage_v, "V"), quantity("V_rated", "rated voltage", module.voltage_v, "V")];
                (&FILAMENT, std::iter::once(quantity("level", "asked by the scene", level, "1")).chain(volts).collect())
            }
            Draw::ConstantCurrent | Draw::Resistive => by_current(module.power_w / module.voltage_v),
        },
    }
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
        words: "A capacitor behind the contact that carries this current over 5 ms while the voltage falls by half a volt. The other way is a pack of its own in what turns.",
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

/// What a small circuit takes itself stays in it; the rest goes on to its lights.
fn circuit(build: &Build, point: &PointReport, index: usize) -> Reach {
    let part = &build.circuits[index];
    let way = way(build, point, &part.id);
    let sent: f64 = build.feeds_from(&part.id).filter_map(|feed| point.feeds.get(&feed.id)).map(|feed| feed.sent_w).sum();
    reach(&part.id, ReachKind::Circuit, way, Some(sent), Vec::new())
}

/// What a controller takes stays in it.
fn controller(build: &Build, point: &PointReport, index: usize) -> Reach {
    let part = &build.controllers[index];
    reach(&part.id, ReachKind::Controller, way(build, point, &part.id), Some(0.0), Vec::new())
}

fn junction(build: &Build, point: &PointReport, index: usize) -> Reach {
    let part = &build.junctions[index];
    let way = way(build, point, &part.id);
    reach(&part.id, ReachKind::Junction, way, None, Vec::new())
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

fn converter(build: &Build, point: &PointReport, index: usize) -> Reach {
    let part = &build.converters[index];
    let way = way(build, point, &part.id);
    let here = &point.converters[&part.id];
    const INPUT: Rule = Rule {
        words: "The input gives the output's power, what the converter itself loses, and its idle current.",
        formula: "I_in = V_out·I_out / (η·V_in) + I_idle",
        source: "Power balance of a switching converter",
    };
    const HEAT: Rule = Rule {
        words: "What goes in less what comes out stays in the converter as heat.",
        formula: "P_heat = V_in·I_in − V_out·I_out",
        source: "Conservation of energy",
    };
    const LINEAR: Rule = Rule {
        words: "A linear regulator passes its output current on and burns the difference in voltage.",
        formula: "I_in = I_out + I_idle",
        source: "Series regulator",
    };
    let linear = part.conversion.efficiency().is_none();
    let given = vec![
        quantity("V_in", "input voltage", here.in_v, "V"),
        quantity("I_in", "input current", here.in_a, "A"),
        quantity("V_out", "output voltage", here.out_v, "V"),
        quantity("I_out", "output current", here.out_a, "A"),
    ];
    let mut input = vec![
        quantity("V_out", "output voltage", here.out_v, "V"),
        quantity("I_out", "output current", here.out_a, "A"),
        quantity("V_in", "input voltage", here.in_v, "V"),
    ];
    if let Some(efficiency) = part.conversion.efficiency() {
        input.push(quantity("η", "efficiency at this input", efficiency.at(here.in_v).value, "1"));
    }
    input.push(quantity("I_idle", "idle current", part.idle_a, "A"));
    let in_fact = fact("in_a", "Input current", "I_in", here.in_a, "A", if linear { &LINEAR } else { &INPUT }, input);
    let facts = vec![
        fact("in_v", "Input voltage", "V_in", here.in_v, "V", &KIRCHHOFF, vec![]),
        match part.max_in_a {
            Some(limit) => in_fact.of_limit(limit),
            None => in_fact,
        },
        fact("out_v", "Output voltage", "V_out", here.out_v, "V", &KIRCHHOFF, vec![]),
        fact("out_a", "Output current", "I_out", here.out_a, "A", &KIRCHHOFF, vec![]).of_limit(part.max_out_a),
        fact("loss_w", "Heat", "P_heat", here.loss_w, "W", &HEAT, given),
    ];
    let leaves_w = way.arrives_w - here.loss_w;
    reach(&part.id, ReachKind::Converter, way, Some(leaves_w), facts)
}

fn light(build: &Build, point: &PointReport, index: usize, feed: &str) -> Reach {
    let part = &build.lights[index];
    let way = way(build, point, feed);
    let here = &point.lights[&part.id];
    // What its own rails take is shared by what each supplier brings, or draws out again.
    let brought = |id: &str| point.feeds.get(id).map_or(0.0, |feed| feed.sent_w - feed.loss_w);
    let ids = build.feeds().into_iter().filter(|other| other.consumer == Consumer::Light(index)).map(|other| other.id);
    let (all_w, size_w) = ids.map(|id| brought(&id)).fold((0.0, 0.0), |(all, size), w: f64| (all + w, size + w.abs()));
    let leaves_w = way.arrives_w - if size_w > 0.0 { (all_w - here.power_w) * way.arrives_w.abs() / size_w } else { 0.0 };
    if feed != part.id {
        return reach(feed, ReachKind::Light, way, Some(leaves_w), Vec::new());
    }
    let mut facts = vec![
        fact("voltage_v", "Voltage at it", "V", here.voltage_v, "V", &KIRCHHOFF, vec![]),
        fact("current_a", "Current", "I", here.current_a, "A", &KIRCHHOFF, vec![]),
        fact(
            "power_w",
            "Power it takes",
            "P",
            here.power_w,
            "W",
            &Rule { words: "Voltage times current, summed over its parts.", formula: "P = Σ V·I", source: "Definition of electric power" },
            vec![],
        ),
    ];
    let (rule, given) = brightness(&part.load, here, point.lit[index].level);
    facts.push(fact("output", "Brightness", "output", here.output, "1", rule, given));
    if let (Load::LedArray(array), Some(string_a)) = (&part.load, here.string_a) {
        const STRING: Rule = Rule {
            words: "The current at which the LEDs' forward voltages and the resistor's share add up to the voltage there is.",
            formula: "V = N·V_f(I) + I·R",
            source: "Shockley diode equation with series resistance, through the datasheet point",
        };
        let given = vec![
            quantity("V", "voltage", here.voltage_v, "V"),
            quantity("N", "LEDs in a row", f64::from(array.series), "1"),
            quantity("V_f", "forward voltage at rated current", array.led.vf_v, "V"),
            quantity("R", "resistor", array.resistor_ohm, "ohm"),
        ];
        facts.push(fact("string_a", "Current of each string", "I", string_a, "A", &STRING, given).of_limit(array.led.if_a));
        if array.resistor_ohm > 0.0 {
            const HEAT: Rule = Rule { words: "Current squared times resistance.", formula: "P = I²·R", source: "Joule's law" };
            let given = vec![quantity("I", "string current", string_a, "A"), quantity("R", "resistor", array.resistor_ohm, "ohm")];
            let heat = fact("resistor_w", "Heat in each resistor", "P", here.resistor_w.unwrap_or(0.0), "W", &HEAT, given);
            facts.push(if array.resistor_w > 0.0 { heat.of_limit(array.resistor_w) } else { heat });
        }
    }
    reach(&part.id, ReachKind::Light, way, Some(leaves_w), facts)
}
