//! Controllers: what their pins carry, and whether pixels understand what they say.

use super::case::*;
use orthavis_model::document::{Controller, Conversion, Converter, Load, Output, PinOutput, PinThrough, Pixels, VehicleKind};
use orthavis_model::edit::{feed_mut, free_id, plain_feed};
use orthavis_model::laws::led::DiodeString;
use orthavis_model::laws::resistor::{self, Series};
use orthavis_model::practice::{INPUT_V, MOST_FLASHES, rating_above};
use orthavis_model::topology::Node;
use orthavis_model::working::plain;
use orthavis_physics::protection::is_behind;

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const CONTROLLER_INPUT_HIGH: Check = Check {
    code: "controller.input_high",
    step: Step::Power,
    unit: "V",
    why: "Its supply pins break down; what hangs on them may get the whole voltage.",
    formula: "V_in,min ≤ V_in ≤ V_in,max",
    rule: "A controller works only inside its input range.",
    source: "The controller's data sheet",
    mend: "Feed it from a supply inside its range.",
    figures: &[],
};

pub(super) const CONTROLLER_INPUT_LOW: Check = Check {
    code: "controller.input_low",
    step: Step::Power,
    unit: "V",
    why: "It resets again and again, and pixels freeze or go dark.",
    formula: "V_in,min ≤ V_in ≤ V_in,max",
    rule: "A controller works only inside its input range.",
    source: "The controller's data sheet",
    mend: "Feed it from a supply inside its range.",
    figures: &[],
};

pub(super) const DATA_LEVEL: Check = Check {
    code: "data.level",
    step: Step::Power,
    unit: "V",
    why: "Data that is nearly high enough works on the bench and fails in the cold, or one evening in three.",
    formula: "V_pin ≥ {0} · V_pixel",
    rule: "The signal voltage of a pin is at least {0%} of the supply of the first pixels.",
    source: "Input thresholds of common one-wire pixels",
    mend: "Put a level shifter between, or feed the first pixel through a silicon diode.",
    figures: &[HIGH],
};

pub(super) const FLICKER_SLOW: Check = Check {
    code: "flicker.slow",
    step: Step::Power,
    unit: "Hz",
    why: "Light that is pulsed between {0} and {1} times a second can bring on a seizure; below {2} it is seen to flicker and tires the eyes.",
    formula: "f ≥ {2} Hz",
    rule: "What dims by pulses does so at least {2} times a second.",
    source: "WCAG 2.2 for the band of seizures; IEEE 1789 for flicker",
    mend: "Set a higher pulse rate; some {3} Hz is usual.",
    figures: &[MOST_FLASHES, 70.0, STEADY_HZ, FASTER_HZ],
};

pub(super) const PIN_OVER: Check = Check {
    code: "pin.over",
    step: Step::Power,
    unit: "A",
    why: "A pin that gives too much dies, often with the whole chip.",
    formula: "I_pin ≤ I_pin,max",
    rule: "What a pin gives while it is high stays within its rating.",
    source: "The controller's data sheet",
    mend: "Let a transistor carry the light, or take a larger resistor.",
    figures: &[],
};

pub(super) const PINS_TOTAL: Check = Check {
    code: "pins.total",
    step: Step::Power,
    unit: "A",
    why: "A chip gets its pins' current through one pair of thin wires.",
    formula: "Σ I_pin ≤ I_total,max",
    rule: "All pins together stay within what the chip gives.",
    source: "The controller's data sheet",
    mend: "Let transistors carry the lights.",
    figures: &[],
};

/// A pixel takes data for high from this share of its supply on.
const HIGH: f64 = 0.7;
/// Between base and emitter of a transistor that is on, V.
const BASE_V: f64 = 0.7;

fn find(case: &Case<'_>, found: &mut Findings) {
    flicker(case, found);
    for controller in &case.build.controllers {
        pins(case, controller, found);
        supplied(case, controller, found);
        for output in controller.outputs.iter().filter(|output| output.data().is_some()) {
            level(case, controller, output, found);
        }
    }
}

/// Pulses of light that can bring on a seizure, Hz.
const SEIZURE_HZ: std::ops::RangeInclusive<f64> = 3.0..=70.0;
/// A usual rate for what dims by pulses, Hz.
const FASTER_HZ: f64 = 500.0;
/// Slower pulses are seen in what moves, Hz.
const STEADY_MOVING_HZ: f64 = 200.0;
/// Slower pulses are seen to flicker, Hz.
const STEADY_HZ: f64 = 100.0;

/// Pins and dimmers that pulse too slowly for a light that is on.
fn flicker(case: &Case<'_>, found: &mut Findings) {
    let build = case.build;
    let on = |light: &Light| build.scenes.iter().any(|scene| light.is_asked(&scene.lit(&light.id)));
    let moves = !matches!(build.vehicle.kind, VehicleKind::Rv | VehicleKind::Other) || build.vehicle.propulsion.is_some();
    let outputs = build.controllers.iter().flat_map(|controller| &controller.outputs).filter_map(Output::one_light);
    let pins = outputs.filter_map(|output| {
        let light = build.lights.iter().find(|light| light.id == output.light && on(light))?;
        Some((light.id.clone(), output.hz?, format!("Pin {} pulses `{}`", output.pin, light.id)))
    });
    let dimmers = case.graph.wires().filter_map(|wire| {
        let feed = case.graph.feed(wire);
        let dimmer = feed.feed.dimmer.as_ref()?;
        let below = (build.lights.iter().enumerate()).filter(|(at, _)| is_behind(&case.graph, Node::Light(*at), wire)).map(|(_, light)| light);
        below.into_iter().any(on).then(|| (feed.id.clone(), dimmer.hz, format!("The dimmer in the wire to `{}` pulses it", feed.id)))
    });
    for (subject, hz, what) in pins.chain(dimmers).collect::<Vec<_>>() {
        let limit = if moves { STEADY_MOVING_HZ } else { STEADY_HZ };
        if within(limit, hz) || hz < *SEIZURE_HZ.start() {
            continue;
        }
        let severity = match hz {
            hz if SEIZURE_HZ.contains(&hz) => Severity::Stop,
            hz if hz < STEADY_HZ => Severity::Fix,
            _ => Severity::Note,
        };
        let draft = Draft { check: &FLICKER_SLOW, severity, subject: &subject, point: None, value: hz, limit, excess: limit / hz };
        found.add(draft, || Words {
            title: match severity {
                Severity::Stop => format!("{subject}: flickers at a rate that can bring on a seizure"),
                Severity::Fix => format!("{subject}: is seen to flicker"),
                Severity::Note => format!("{subject}: seen as a row of dots while it moves"),
            },
            message: format!(
                "{what} {hz:.0} times a second; from {limit:.0} on {} for most people.",
                if severity == Severity::Note { "a light that moves is steady" } else { "light is steady" }
            ),
            advice: None,
            given: vec![],
        });
    }
}

/// A controller outside its supply.
fn supplied(case: &Case<'_>, controller: &Controller, found: &mut Findings) {
    for point in case.points() {
        let Some(in_v) = point.controllers_v.get(&controller.id).copied() else { continue };
        let (check, limit, excess) = if above(controller.min_in_v, in_v) {
            (&CONTROLLER_INPUT_LOW, controller.min_in_v, controller.min_in_v - in_v)
        } else if above(in_v, controller.max_in_v) {
            (&CONTROLLER_INPUT_HIGH, controller.max_in_v, in_v - controller.max_in_v)
        } else {
            continue;
        };
        let low = check.code == CONTROLLER_INPUT_LOW.code;
        let draft = Draft { check, severity: Severity::Stop, subject: &controller.id, point: Some(point), value: in_v, limit, excess };
        found.add(draft, || Words {
            title: format!("{}: its supply is too {}", controller.id, if low { "low" } else { "high" }),
            message: format!(
                "`{}` gets {} {}; it {} {}.",
                controller.id,
                plain(in_v, "V"),
                moment(case.build, point),
                if low { "works from" } else { "is rated for up to" },
                plain(limit, "V")
            ),
            advice: Some("A controller wants a supply of its own voltage: a converter set to 5 V for most."),
            given: vec![quantity("V_source", "terminal voltage of the source", point.source.terminal_v, "V")],
        });
    }
}

/// A supply inside a controller's range: one that is there already, or a converter of its own.
fn other_supply(case: &Case<'_>, controller: &Controller) -> Vec<Proposal> {
    let fits = |volts: f64| within(controller.min_in_v, volts) && within(volts, controller.max_in_v);
    let there = case.build.converters.iter().filter(|one| one.set_v().is_some_and(fits) && one.id != controller.feed.from).filter_map(|converter| {
        propose(case.build, format!("Feed it from {}", converter.id), |copy| {
            let feed = &mut copy.controllers.iter_mut().find(|one| one.id == controller.id)?.feed;
            feed.from.clone_from(&converter.id);
            Some(())
        })
    });
    let own = propose(case.build, "", |copy| {
        let set_v = [5.0, 0.5 * (controller.min_in_v + controller.max_in_v)].into_iter().find(|volts| fits(*volts))?;
        let states: Vec<f64> = copy.states().into_iter().map(|state| copy.thevenin(state).0).collect();
        let (low, high) = states.iter().fold((f64::MAX, 0.0f64), |(low, high), v| (low.min(*v), high.max(*v)));
        let id = free_id(copy, "controller-supply");
        let place = copy.controllers.iter().position(|one| one.id == controller.id)?;
        let feed = copy.controllers[place].feed.clone();
        copy.controllers[place].feed = plain_feed(&id, 0.1, feed.gauge);
        copy.converters.push(Converter {
            id,
            feed,
            conversion: if low > set_v + 1.5 { Conversion::step_down(set_v, 0.88) } else { Conversion::step_up_down(set_v, 0.88) },
            min_in_v: (0.8 * low).min(set_v + 1.0),
            max_in_v: rating_above(1.1 * high, &INPUT_V),
            max_out_a: 1.0,
            max_in_a: None,
            idle_a: 0.004,
            max_loss_w: None,
            mass_g: 6.0,
            ..Converter::PLAIN
        });
        Some(())
    });
    let own = own.map(|mut proposal| {
        let set_v = proposal.build.converters.last().and_then(|one| one.set_v()).unwrap_or(5.0);
        proposal.title = format!("Give it a {} converter of its own", plain(set_v, "V"));
        proposal
    });
    there.chain(own).collect()
}

/// Current out of a pin while it is high, A.
fn pin_a(build: &Build, controller: &Controller, output: &PinOutput) -> f64 {
    let Some(light) = build.lights.iter().find(|light| light.id == output.light) else { return 0.0 };
    let ohm = output.ohm;
    match output.through {
        // A gate takes nothing that lasts.
        PinThrough::Mosfet => 0.0,
        PinThrough::Npn => (controller.logic_v - BASE_V).max(0.0) / ohm.max(1e-3),
        PinThrough::Pin => match &light.load {
            Load::LedArray(array) => {
                let string = DiodeString::new(&array.led, array.series, array.row_ohm() + ohm);
                string.current(controller.logic_v).0 * f64::from(array.parallel)
            }
            Load::Strip(strip) => DiodeString::of_segment(strip).current(controller.logic_v).0 * f64::from(strip.segments()),
            Load::Module(module) => module.power_w / module.voltage_v,
            Load::Pixels(pixels) => f64::from(pixels.count) * (pixels.channel_a.iter().sum::<f64>() + pixels.idle_a),
        },
    }
}

fn pins(case: &Case<'_>, controller: &Controller, found: &mut Findings) {
    let id = &controller.id;
    let outputs = controller.outputs.iter().filter_map(Output::one_light);
    let all: Vec<(&PinOutput, f64)> = outputs.map(|output| (output, pin_a(case.build, controller, output))).collect();
    if let Some((output, amps)) = all.iter().max_by(|a, b| a.1.total_cmp(&b.1)).filter(|(_, amps)| above(*amps, controller.pin_max_a)) {
        let limit = controller.pin_max_a;
        found.add(Draft { check: &PIN_OVER, severity: Severity::Stop, subject: id, point: None, value: *amps, limit, excess: *amps }, || Words {
            title: format!("{id}: a pin gives too much"),
            message: format!("Pin {} of `{id}` would give {}; it stands {}.", output.pin, plain(*amps, "A"), plain(limit, "A")),
            advice: None,
            given: vec![quantity("V", "pin that is high", controller.logic_v, "V"), quantity("R", "resistor at the pin", output.ohm, "ohm")],
        });
    }
    let total: f64 = all.iter().map(|(_, amps)| amps).sum();
    if above(total, controller.pins_total_a) {
        let limit = controller.pins_total_a;
        found.add(Draft { check: &PINS_TOTAL, severity: Severity::Stop, subject: id, point: None, value: total, limit, excess: total }, || Words {
            title: format!("{id}: its pins give too much together"),
            message: format!("All pins of `{id}` would give {} at once; together they stand {}.", plain(total, "A"), plain(limit, "A")),
            advice: None,
            given: vec![quantity("n", "pins", all.len() as f64, "1")],
        });
    }
}

/// The first pixels of an output: all that share its first numbers.
fn first<'a>(build: &'a Build, output: &'a Output) -> impl Iterator<Item = (&'a Light, &'a Pixels)> {
    let ids: Vec<&String> = output.links().first().into_iter().flat_map(|link| link.lights()).collect();
    build.lights.iter().filter(move |light| ids.contains(&&light.id)).filter_map(|light| match &light.load {
        Load::Pixels(pixels) => Some((light, pixels)),
        _ => None,
    })
}

fn level(case: &Case<'_>, controller: &Controller, output: &Output, found: &mut Findings) {
    for (light, _) in first(case.build, output) {
        let Some((volts, point)) = case.worst(|point| Some(point.lights.get(&light.id)?.highest_v)) else { continue };
        let limit = HIGH * volts;
        if within(limit, controller.logic_v) {
            continue;
        }
        let draft = Draft {
            check: &DATA_LEVEL,
            severity: Severity::Fix,
            subject: &controller.id,
            point: Some(point),
            value: controller.logic_v,
            limit,
            excess: limit - controller.logic_v,
        };
        found.add(draft, || Words {
            title: format!("{}: its data is too low for {}", controller.id, light.id),
            message: format!(
                "Pin {} of `{}` says high with {}; `{}` wants {} of its {}.",
                output.pin(),
                controller.id,
                plain(controller.logic_v, "V"),
                light.id,
                plain(limit, "V"),
                plain(volts, "V")
            ),
            advice: Some(
                "A level shifter next to the controller, or the first pixel behind a silicon diode in its plus (its voltage falls by 0.7 V and it passes data on at that), or the pixels at 4.5 V.",
            ),
            given: vec![quantity("V_pixel", "highest voltage at the first pixels", volts, "V"), quantity("k", "share taken for high", HIGH, "1")],
        });
    }
}

/// Lets a MOSFET carry the light of a pin.
fn by_gate(output: &mut PinOutput) {
    output.through = PinThrough::Mosfet;
    output.ohm = output.ohm.max(100.0);
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    if finding.code == "flicker.slow" {
        let faster = propose(case.build, format!("Pulse it {FASTER_HZ:.0} times a second"), |copy| {
            let outputs = copy.controllers.iter_mut().flat_map(|one| &mut one.outputs);
            let pins = outputs.filter_map(Output::one_light_mut).filter(|output| output.light == finding.subject && output.hz.is_some());
            let pins: Vec<_> = pins.collect();
            let none = pins.is_empty();
            pins.into_iter().for_each(|output| output.hz = Some(FASTER_HZ));
            match feed_mut(copy, &finding.subject).and_then(|feed| feed.dimmer.as_mut()) {
                Some(dimmer) => dimmer.hz = dimmer.hz.max(FASTER_HZ),
                None if none => return None,
                None => {}
            }
            Some(())
        });
        return faster.into_iter().collect();
    }
    let Some(controller) = case.build.controllers.iter().find(|controller| controller.id == finding.subject) else { return Vec::new() };
    let edit = |title: String, change: &dyn Fn(&mut Controller)| {
        propose(case.build, title, |copy| {
            change(copy.controllers.iter_mut().find(|known| known.id == controller.id)?);
            Some(())
        })
    };
    let over = |output: &PinOutput| above(pin_a(case.build, controller, output), controller.pin_max_a);
    // Each pin for one light, to be changed, with what it is now.
    let change_pins = |copy: &mut Controller, change: &dyn Fn(&mut PinOutput)| copy.outputs.iter_mut().filter_map(Output::one_light_mut).for_each(change);
    match finding.code {
        "controller.input_low" | "controller.input_high" => other_supply(case, controller),
        "pin.over" => {
            let gates = edit("Let a MOSFET carry what is too much for its pin".into(), &|copy| {
                change_pins(copy, &|output| {
                    if over(output) {
                        by_gate(output)
                    }
                });
            });
            let larger = edit("Larger resistors at the pins".into(), &|copy| {
                let need = controller.logic_v / controller.pin_max_a;
                change_pins(copy, &|output| {
                    if over(output) {
                        output.ohm = resistor::above(Series::E24, output.ohm.max(need))
                    }
                });
            });
            larger.into_iter().chain(gates).collect()
        }
        "pins.total" => edit("Let MOSFETs carry the lights of all pins".into(), &|copy| {
            change_pins(copy, &by_gate);
        })
        .into_iter()
        .collect(),
        // A shifter makes its pins as high as its pixels' supply.
        "data.level" => edit(format!("Put a level shifter behind {}", controller.id), &|copy| {
            copy.logic_v = copy.logic_v.max((finding.limit / HIGH * 10.0).round() / 10.0);
        })
        .into_iter()
        .collect(),
        _ => Vec::new(),
    }
}
