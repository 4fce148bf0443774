//! LEDs in strings: too much current, nothing that limits it, or brightness that follows the battery down.
//!
//! Source of the limits: the LED's datasheet (`if_a` rated, `if_max_a` absolute).

use super::case::*;
use super::light;
use crate::driven::Driven;
use orthavis_model::document::{LedArray, Light, Load, Trait};
use orthavis_model::edit::is_driven;
use orthavis_model::laws::led::arrange;
use orthavis_model::practice::{EMITTER_A, HOT_LED, USE_SHARE, rating_above};
use orthavis_model::working::plain;

/// The eye notices a string that is so many times brighter on a full battery than at reserve.
const UNEVEN: f64 = 1.5;

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const EMITTER_VOLTAGE_DRIVEN: Check = Check {
    code: "emitter.voltage_driven",
    step: Step::Power,
    unit: "A",
    why: "Its forward voltage falls as it warms, so on a set voltage the current climbs until something gives, and a resistor that tames it wastes as much as the light takes.",
    formula: "I_f ≥ {0} A → current driver",
    rule: "High-power emitters are fed with a set current.",
    source: "Common practice for power LEDs",
    mend: "Feed it from a current driver set to its current.",
    figures: &[EMITTER_A],
};

pub(super) const LED_HOT: Check = Check {
    code: "led.hot",
    step: Step::Lights,
    unit: "A",
    why: "Beside a motor or in the sun an LED cannot get rid of its own heat: what it stands in cool air kills it there.",
    formula: "I ≤ {0}·I_max",
    rule: "In a hot place, at about 60 °C, {0%} of the absolute limit is left.",
    source: "Representative derating of small LEDs: all of it up to 30 °C, nothing at 105 °C",
    mend: "Use a larger resistor or set the driver lower, or put the light where it is cool.",
    figures: &[HOT_LED],
};

pub(super) const LED_NO_RESISTOR: Check = Check {
    code: "led.no_resistor",
    step: Step::Lights,
    unit: "ohm",
    why: "An LED is not a resistor: a tenth of a volt more can double its current, and a warm LED draws more still.",
    formula: "R > 0, or a constant-current driver",
    rule: "Something outside the LED has to set its current.",
    source: "Common practice; follows from the exponential diode law",
    mend: "Put a resistor in each string, or use a current driver.",
    figures: &[],
};

pub(super) const LED_OVER_MAX: Check = Check {
    code: "led.over_max",
    step: Step::Lights,
    unit: "A",
    why: "Above its absolute limit an LED overheats and fails, and the heat can scorch what it is glued to.",
    formula: "V = N·V_f(I) + I·R",
    rule: "The current of a string is where the LEDs' voltage and the resistor's add up to what is there.",
    source: "Shockley diode equation with series resistance, through the datasheet point",
    mend: "Use a larger resistor, or set the driver lower.",
    figures: &[],
};

pub(super) const LED_OVER_RATED: Check = Check {
    code: "led.over_rated",
    step: Step::Lights,
    unit: "A",
    why: "Above their rating LEDs run hot and age fast for light that the eye hardly notices.",
    formula: "V = N·V_f(I) + I·R",
    rule: "The current of a string is where the LEDs' voltage and the resistor's add up to what is there.",
    source: "Shockley diode equation with series resistance, through the datasheet point",
    mend: "Use a larger resistor, or set the driver lower.",
    figures: &[],
};

pub(super) const LED_UNEVEN: Check = Check {
    code: "led.uneven",
    step: Step::Lights,
    unit: "1",
    why: "With little voltage left for the resistor, a small fall of the battery is a large fall of the current.",
    formula: "I_full / I_reserve ≤ {0}",
    rule: "The eye notices when the light falls to {1%}.",
    source: "Ratio of the solved string currents",
    mend: "Put fewer LEDs in a string, or feed them from a converter with a set voltage.",
    figures: &[UNEVEN, 1.0 / UNEVEN],
};

fn find(case: &Case<'_>, found: &mut Findings) {
    for light in &case.build.lights {
        let Load::LedArray(array) = &light.load else { continue };
        let driven = is_driven(case.build, light);
        if !driven && array.resistor_ohm == 0.0 {
            no_resistor(case, light, array, found);
        }
        if !driven && array.led.if_a >= EMITTER_A {
            voltage_driven(light, array, found);
        }
        let strings = case.asked(light).filter_map(|point| Some((point.lights.get(&light.id)?.string_a?, point)));
        if let Some((string_a, point)) = strings.max_by(|a, b| a.0.total_cmp(&b.0)) {
            current(case, light, array, string_a, point, found);
        }
        uneven(case, light, found);
    }
}

fn current(case: &Case<'_>, light: &Light, array: &LedArray, string_a: f64, point: &PointReport, found: &mut Findings) {
    let led = &array.led;
    let (check, severity, limit) = if above(string_a, led.if_max_a) {
        (&LED_OVER_MAX, Severity::Stop, led.if_max_a)
    } else if above(string_a, 1.02 * led.if_a) {
        (&LED_OVER_RATED, Severity::Fix, led.if_a)
    } else if above(string_a, HOT_LED * led.if_max_a) && is_hot(case.build, light) {
        (&LED_HOT, Severity::Fix, HOT_LED * led.if_max_a)
    } else {
        return;
    };
    let draft = Draft { check, severity, subject: &light.id, point: Some(point), value: string_a, limit, excess: string_a };
    found.add(draft, || Words {
        title: match *check {
            LED_OVER_MAX => format!("{}: LEDs overdriven", light.id),
            LED_HOT => format!("{}: too much current for a hot place", light.id),
            _ => format!("{}: LEDs above their rating", light.id),
        },
        message: format!(
            "Each string of `{}` carries {} {}; the LED's {} is {}.",
            light.id,
            plain(string_a, "A"),
            moment(case.build, point),
            match *check {
                LED_OVER_MAX => "absolute limit",
                LED_HOT => "absolute limit in the heat of its place",
                _ => "rated current",
            },
            plain(limit, "A"),
        ),
        advice: None,
        given: vec![
            quantity("V", "voltage at the light", point.lights.get(&light.id).map_or(0.0, |l| l.voltage_v), "V"),
            quantity("N", "LEDs in a string", f64::from(array.series), "1"),
            quantity("V_f", "forward voltage at rated current", led.vf_v, "V"),
            quantity("R", "resistor of the string", array.resistor_ohm, "ohm"),
        ],
    });
}

/// Drop of a source under its own load from which on it stands for a resistor, V.
const OWN_DROP_V: f64 = 0.15;

fn no_resistor(case: &Case<'_>, light: &Light, array: &LedArray, found: &mut Findings) {
    let resists = source_resists(case, light, array);
    let severity = if resists { Severity::Note } else { Severity::Stop };
    let draft = Draft { check: &LED_NO_RESISTOR, severity, subject: &light.id, point: None, value: 0.0, limit: 0.0, excess: 1.0 };
    found.add(draft, || Words {
        title: if resists { format!("{}: only the battery limits the current", light.id) } else { format!("{}: nothing limits the current", light.id) },
        message: if resists {
            format!("The strings of `{}` have no resistor: the small cells themselves keep their current below what they are made for.", light.id)
        } else {
            format!("The strings of `{}` have no resistor and no current driver: 0 ohm is between the LEDs and the supply.", light.id)
        },
        advice: resists.then_some("It holds for these cells only: larger or fresh ones of another kind give more, and then a resistor is needed."),
        given: vec![],
    });
}

/// Whether the source itself is the resistor of an array: its strings keep to what they are made for wherever it is on,
/// and a full source drops enough of its own voltage.
fn source_resists(case: &Case<'_>, light: &Light, array: &LedArray) -> bool {
    let straight = light.feeds.iter().all(|feed| case.graph.supplier(feed) == "source");
    let on: Vec<&PointReport> = case.asked(light).collect();
    let keeps = |point: &&PointReport| point.lights.get(&light.id).and_then(|here| here.string_a).is_some_and(|string_a| within(string_a, array.led.if_a));
    let full: Vec<f64> = on.iter().filter(|point| point.state == State::Full).map(|point| point.source.emf_v - point.source.terminal_v).collect();
    straight && on.iter().all(keeps) && !full.is_empty() && full.iter().all(|drop_v| within(OWN_DROP_V, *drop_v))
}

fn voltage_driven(light: &Light, array: &LedArray, found: &mut Findings) {
    let if_a = array.led.if_a;
    let draft = Draft { check: &EMITTER_VOLTAGE_DRIVEN, severity: Severity::Fix, subject: &light.id, point: None, value: if_a, limit: EMITTER_A, excess: if_a };
    found.add(draft, || Words {
        title: format!("{}: high-power emitter without a driver", light.id),
        message: format!(
            "`{}` is an emitter of {} fed from a set voltage; from {} on it wants a current driver.",
            light.id,
            plain(if_a, "A"),
            plain(EMITTER_A, "A")
        ),
        advice: None,
        given: vec![],
    });
}

fn uneven(case: &Case<'_>, light: &Light, found: &mut Findings) {
    for full in case.asked(light).filter(|p| p.state == State::Full) {
        let Some(low) = case.points().find(|p| p.state == State::Reserve && p.scene == full.scene) else { continue };
        let string_a = |point: &PointReport| point.lights.get(&light.id).and_then(|l| l.string_a).unwrap_or(0.0);
        let (at_full, at_reserve) = (string_a(full), string_a(low));
        // The current of a dark string is noise.
        if at_full <= 1e-9 || within(at_full, UNEVEN * at_reserve) {
            continue;
        }
        // A string that is dark at reserve has no finite ratio; a thousand says enough.
        let ratio = (at_full / at_reserve.max(1e-12)).min(1000.0);
        let draft = Draft { check: &LED_UNEVEN, severity: Severity::Note, subject: &light.id, point: Some(full), value: ratio, limit: 1.5, excess: ratio };
        found.add(draft, || Words {
            title: format!("{} dims as the battery empties", light.id),
            message: format!("`{}` goes from {} on a full battery to {} at reserve.", light.id, plain(at_full, "A"), plain(at_reserve, "A")),
            advice: Some("Fine where fading light is a welcome battery gauge; otherwise use fewer LEDs in a string or a converter."),
            given: vec![quantity("I_full", "string current, full", at_full, "A"), quantity("I_reserve", "string current at reserve", at_reserve, "A")],
        });
    }
}

/// Highest voltage that can stand across a light, V: its supply with nothing drawn.
fn supply_v(case: &Case<'_>, light: &Light) -> Option<f64> {
    case.points().filter_map(|point| point.lights.get(&light.id)).map(|l| l.highest_v).max_by(f64::total_cmp)
}

fn array_of<'a>(build: &'a mut Build, id: &str) -> Option<&'a mut LedArray> {
    match build.lights.iter_mut().find(|light| light.id == id).map(|light| &mut light.load) {
        Some(Load::LedArray(array)) => Some(array),
        _ => None,
    }
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    let build = case.build;
    let id = finding.subject.as_str();
    let Some(light) = build.lights.iter().find(|light| light.id == id) else { return Vec::new() };
    let Load::LedArray(array) = &light.load else { return Vec::new() };
    match finding.code {
        "led.over_max" | "led.over_rated" | "led.hot" if is_driven(build, light) => set_driver(build, light, array),
        "led.over_max" | "led.over_rated" | "led.hot" | "led.no_resistor" | "led.uneven" => {
            // One large chip wants its driver, not a resistor.
            if finding.code == "led.no_resistor" && array.led.if_a >= EMITTER_A {
                return add_driver(case, light, array);
            }
            let Some(voltage_v) = supply_v(case, light) else { return Vec::new() };
            let cool = HOT_LED * array.led.if_max_a / array.led.if_a;
            let mut shares = vec![(USE_SHARE, "three quarters of rated"), (1.0, "full rated current")];
            if finding.code == "led.hot" {
                shares.insert(0, (0.95 * cool.min(1.0), "what the heat leaves"));
            }
            let mut proposals: Vec<Proposal> = (shares.into_iter())
                .filter_map(|(share, words)| {
                    let mut proposal = propose(build, "", |copy| arrange(array_of(copy, id)?, voltage_v, share))?;
                    let sized = array_of(&mut proposal.build, id)?.clone();
                    let strings = if sized.series == array.series { String::new() } else { format!("{} × {} LEDs with ", sized.parallel, sized.series) };
                    proposal.title = format!("Use {strings}{} each: {words}", plain(sized.resistor_ohm, "Ω"));
                    Some(proposal)
                })
                .collect();
            // A string with half the voltage left for its resistor hardly follows the battery.
            proposals.extend(propose(build, "Use shorter strings with larger resistors", |copy| {
                let array = array_of(copy, id)?;
                let total = array.series * array.parallel;
                array.series = ((0.55 * voltage_v / array.led.vf_v) as u32).clamp(1, array.series.saturating_sub(1).max(1));
                array.parallel = total.div_ceil(array.series);
                arrange(array, voltage_v, USE_SHARE)
            }));
            proposals
        }
        "emitter.voltage_driven" => add_driver(case, light, array),
        "light.dim" | "light.dark" if is_driven(build, light) => shorter_driven(case, light, array).into_iter().chain(light::other_kind(case, light)).collect(),
        "light.dim" | "light.dark" if array.led.if_a >= EMITTER_A => add_driver(case, light, array),
        "light.dim" | "light.dark" if !is_driven(build, light) => brighter(case, light, array),
        _ => Vec::new(),
    }
}

fn is_hot(build: &Build, light: &Light) -> bool {
    build.traits_of(&light.place).contains(&Trait::Hot)
}

fn set_driver(build: &Build, light: &Light, array: &LedArray) -> Vec<Proposal> {
    let target = |share: f64| (share * array.led.if_a * f64::from(array.parallel) * 1e4).floor() / 1e4;
    let set = |share: f64, words: &str| {
        propose(build, format!("Set the driver to {}: {words}", plain(target(share), "A")), |copy| {
            let driver = copy.converters.iter_mut().find(|c| c.id == light.feeds[0].from)?;
            *driver.conversion.setting_mut() = target(share);
            Some(())
        })
    };
    let cool = HOT_LED * array.led.if_max_a / array.led.if_a;
    let first = if is_hot(build, light) && cool < USE_SHARE { set(0.95 * cool, "what the heat leaves") } else { set(USE_SHARE, "three quarters of rated") };
    [first, set(1.0, "full rated current")].into_iter().flatten().collect()
}

/// Shorter rows behind a driver that has too little voltage for them, and the driver set for as many more rows.
fn shorter_driven(case: &Case<'_>, light: &Light, array: &LedArray) -> Vec<Proposal> {
    let Some(from) = light.feeds.first().map(|feed| &feed.from) else { return Vec::new() };
    let Some(driver) = case.build.converters.iter().find(|c| c.id == *from) else { return Vec::new() };
    let lowest = case.points().filter_map(|point| point.converters.get(from)).map(|c| c.in_v).fold(f64::MAX, f64::min);
    let longest = ((lowest - driver.dropout_v().unwrap_or(0.0)) / (1.05 * array.led.vf_v)).floor();
    if longest < 1.0 || longest >= f64::from(array.series) {
        return Vec::new();
    }
    let total = array.series * array.parallel;
    let series = (1..=longest as u32).rev().find(|series| total.is_multiple_of(*series)).unwrap_or(longest as u32);
    let parallel = total.div_ceil(series);
    let set_a = (USE_SHARE * array.led.if_a * f64::from(parallel) * 1e4).floor() / 1e4;
    let title = format!("Use {parallel} × {series} LEDs, the driver set to {}", plain(set_a, "A"));
    let proposal = propose(case.build, title, |copy| {
        let driver = copy.converters.iter_mut().find(|c| c.id == *from)?;
        *driver.conversion.setting_mut() = set_a;
        driver.max_out_a = driver.max_out_a.max(rating_above(set_a / USE_SHARE, &[0.35, 0.7, 1.0, 1.5, 3.0]));
        let array = array_of(copy, &light.id)?;
        (array.series, array.parallel) = (series, parallel);
        Some(())
    });
    proposal.into_iter().collect()
}

fn add_driver(case: &Case<'_>, light: &Light, array: &LedArray) -> Vec<Proposal> {
    let Some(voltage_v) = supply_v(case, light) else { return Vec::new() };
    let lowest_v = case.points().filter_map(|point| point.lights.get(&light.id)).map(|l| l.lowest_v).filter(|v| *v > 0.0).fold(voltage_v, f64::min);
    let Some(driven) = Driven::of(array, lowest_v, voltage_v) else { return Vec::new() };
    let total = array.series * array.parallel;
    let rows = if driven.series == array.series { String::new() } else { format!(", and its {total} LEDs in {}", rows(driven.parallel, driven.series)) };
    let title = match driven.lifted_to_v {
        Some(before_v) => format!(
            "Put a {} step-up and a {} current driver before it{rows}: up to {} from the supply",
            plain(before_v, "V"),
            plain(driven.set_a, "A"),
            plain(driven.in_a, "A")
        ),
        None => format!("Put a {} current driver before it{rows}", plain(driven.set_a, "A")),
    };
    propose(case.build, title, |copy| driven.put_before(copy, &light.id)).into_iter().collect()
}

/// `one row of 3`, `2 rows of 3`.
fn rows(parallel: u32, series: u32) -> String {
    if parallel == 1 { format!("one row of {series}") } else { format!("{parallel} rows of {series}") }
}

/// Dim strings: a resistor for the lowest voltage that is there, or fewer LEDs in a row.
fn brighter(case: &Case<'_>, light: &Light, array: &LedArray) -> Vec<Proposal> {
    let mut proposals = Vec::new();
    if let Some(voltage_v) = supply_v(case, light) {
        for share in [1.0, USE_SHARE] {
            proposals.extend(propose(case.build, "", |copy| arrange(array_of(copy, &light.id)?, voltage_v, share)));
        }
        proposals.extend((1..array.series).rev().filter_map(|series| {
            propose(case.build, "", |copy| {
                let array = array_of(copy, &light.id)?;
                array.parallel = (array.series * array.parallel).div_ceil(series);
                array.series = series;
                arrange(array, voltage_v, 0.9)
            })
        }));
    }
    for proposal in &mut proposals {
        if let Some(sized) = array_of(&mut proposal.build, &light.id) {
            proposal.title = format!("Use {} × {} LEDs with {} each", sized.parallel, sized.series, plain(sized.resistor_ohm, "Ω"));
        }
    }
    proposals
}
