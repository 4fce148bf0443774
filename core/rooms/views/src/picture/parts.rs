//! A source, a supplier, a light: what reaches it, and what it makes of it.

use super::*;
use orthavis_model::document::Draw;
use orthavis_model::working::{Quantity, power};
use orthavis_physics::points::LightReport;

pub(super) fn source(build: &Build, point: &PointReport) -> Reach {
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

/// What a small circuit takes itself stays in it; the rest goes on to its lights.
pub(super) fn circuit(build: &Build, point: &PointReport, index: usize) -> Reach {
    let part = &build.circuits[index];
    let way = way(build, point, &part.id);
    let sent: f64 = build.feeds_from(&part.id).filter_map(|feed| point.feeds.get(&feed.id)).map(|feed| feed.sent_w).sum();
    reach(&part.id, ReachKind::Circuit, way, Some(sent), Vec::new())
}

/// What a controller takes stays in it.
pub(super) fn controller(build: &Build, point: &PointReport, index: usize) -> Reach {
    let part = &build.controllers[index];
    reach(&part.id, ReachKind::Controller, way(build, point, &part.id), Some(0.0), Vec::new())
}

pub(super) fn junction(build: &Build, point: &PointReport, index: usize) -> Reach {
    let part = &build.junctions[index];
    let way = way(build, point, &part.id);
    reach(&part.id, ReachKind::Junction, way, None, Vec::new())
}

pub(super) fn converter(build: &Build, point: &PointReport, index: usize) -> Reach {
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

pub(super) fn light(build: &Build, point: &PointReport, index: usize, feed: &str) -> Reach {
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

/// How the brightness of a light comes about.
pub(super) fn brightness(load: &Load, here: &LightReport, level: f64) -> (&'static Rule, Vec<Quantity>) {
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
