//! Controllers: what their pins carry, and whether pixels understand what they say.

use super::case::*;
use orthavis_model::document::{Controller, Load, Output, OutputKind, PinThrough, Pixels};
use orthavis_model::laws::led::DiodeString;
use orthavis_model::laws::resistor::{self, Series};
use orthavis_model::working::plain;

pub(super) const RULE: Rule = Rule { find, mend, mend_all: one_by_one };

/// A pixel takes data for high from this share of its supply on.
const HIGH: f64 = 0.7;
/// Between base and emitter of a transistor that is on, V.
const BASE_V: f64 = 0.7;

fn find(case: &Case<'_>, found: &mut Findings) {
    for controller in &case.build.controllers {
        pins(case, controller, found);
        for output in controller.outputs.iter().filter(|output| output.kind == OutputKind::Data) {
            level(case, controller, output, found);
        }
    }
}

/// Current out of a pin while it is high, A.
fn pin_a(build: &Build, controller: &Controller, output: &Output) -> f64 {
    let Some(light) = output.light.as_ref().and_then(|id| build.lights.iter().find(|light| light.id == *id)) else { return 0.0 };
    let ohm = output.ohm.unwrap_or(0.0);
    match output.through.unwrap_or(PinThrough::Pin) {
        // A gate takes nothing that lasts.
        PinThrough::Mosfet => 0.0,
        PinThrough::Npn => (controller.logic_v - BASE_V).max(0.0) / ohm.max(1e-3),
        PinThrough::Pin => match &light.load {
            Load::LedArray(array) => {
                let string = DiodeString::new(&array.led, array.series, array.resistor_ohm + ohm);
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
    let all: Vec<(&Output, f64)> =
        controller.outputs.iter().filter(|output| output.kind == OutputKind::Pin).map(|output| (output, pin_a(case.build, controller, output))).collect();
    if let Some((output, amps)) = all.iter().max_by(|a, b| a.1.total_cmp(&b.1)).filter(|(_, amps)| above(*amps, controller.pin_max_a)) {
        let limit = controller.pin_max_a;
        found.add(Draft { code: "pin.over", severity: Severity::Stop, subject: id, point: None, value: *amps, limit, excess: *amps }, || Words {
            title: format!("{id}: a pin gives too much"),
            message: format!("Pin {} of `{id}` would give {}; it stands {}.", output.pin, plain(*amps, "A"), plain(limit, "A")),
            advice: None,
            given: vec![quantity("V", "pin that is high", controller.logic_v, "V"), quantity("R", "resistor at the pin", output.ohm.unwrap_or(0.0), "ohm")],
        });
    }
    let total: f64 = all.iter().map(|(_, amps)| amps).sum();
    if above(total, controller.pins_total_a) {
        let limit = controller.pins_total_a;
        found.add(Draft { code: "pins.total", severity: Severity::Stop, subject: id, point: None, value: total, limit, excess: total }, || Words {
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
            code: "data.level",
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
                output.pin,
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

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    let Some(controller) = case.build.controllers.iter().find(|controller| controller.id == finding.subject) else { return Vec::new() };
    let edit = |title: String, change: &dyn Fn(&mut Controller)| {
        propose(case.build, title, |copy| {
            change(copy.controllers.iter_mut().find(|known| known.id == controller.id)?);
            Some(())
        })
    };
    let over = |output: &Output| output.kind == OutputKind::Pin && above(pin_a(case.build, controller, output), controller.pin_max_a);
    match finding.code {
        "pin.over" => {
            let gates = edit("Let a MOSFET carry what is too much for its pin".into(), &|copy| {
                for (output, own) in copy.outputs.iter_mut().zip(&controller.outputs).filter(|(_, own)| over(own)) {
                    output.through = Some(PinThrough::Mosfet);
                    output.ohm = Some(own.ohm.unwrap_or(0.0).max(100.0));
                }
            });
            let larger = edit("Larger resistors at the pins".into(), &|copy| {
                for (output, own) in copy.outputs.iter_mut().zip(&controller.outputs).filter(|(_, own)| over(own)) {
                    let need = controller.logic_v / controller.pin_max_a;
                    output.ohm = Some(resistor::above(Series::E24, own.ohm.unwrap_or(0.0).max(need)));
                }
            });
            larger.into_iter().chain(gates).collect()
        }
        "pins.total" => edit("Let MOSFETs carry the lights of all pins".into(), &|copy| {
            for output in copy.outputs.iter_mut().filter(|output| output.kind == OutputKind::Pin) {
                output.through = Some(PinThrough::Mosfet);
                output.ohm = Some(output.ohm.unwrap_or(0.0).max(100.0));
            }
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
