//! Converters outside their input range or above their ratings.

use super::case::*;
use super::{light, source};
use orthavis_model::document::{Conversion, Converter, ConverterKind, StepUp, StepUpDown};
use orthavis_model::practice::{HEAT_SHARE, LINEAR_MAX_LOSS_W, SUPPLY_SHARE};
use orthavis_model::practice::{INPUT_V, OUTPUT_A, rating_above};
use orthavis_model::working::plain;
use orthavis_physics::points::ConverterReport;

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const CONVERTER_BACK_FED: Check = Check {
    code: "converter.back_fed",
    step: Step::Power,
    unit: "V",
    why: "Two supplies on one strip share only if they are set alike; the higher one carries everything, and many converters do not survive being fed from behind.",
    formula: "V_out ≤ {0}·V_set",
    rule: "A converter takes no current back: where its output is held above its setting, it does nothing.",
    source: "Topology of converters without synchronous return; solved network",
    mend: "Feed the strip from one supply only, or set both alike.",
    figures: &[HELD],
};

pub(super) const CONVERTER_HOT: Check = Check {
    code: "converter.hot",
    step: Step::Power,
    unit: "W",
    why: "A regulator that cannot get rid of its heat burns fingers, softens what it is glued to and switches off or fails short.",
    formula: "V_in·I_in − V_out·I_out ≤ {0}·P_max",
    rule: "What goes in less what comes out is heat; keep to {0%} of what the part gets rid of where air is still.",
    source: "Conservation of energy; a bare regulator of finger-nail size gets rid of about {1 W}",
    mend: "Use a switching module in its place, one that stands more heat, or less light.",
    figures: &[HEAT_SHARE, LINEAR_MAX_LOSS_W],
};

pub(super) const CONVERTER_INPUT_HIGH: Check = Check {
    code: "converter.input_high",
    step: Step::Power,
    unit: "V",
    why: "Its input parts break down, often short, and can pass the battery's voltage straight to the lights.",
    formula: "V_in,min ≤ V_in ≤ V_in,max",
    rule: "A converter works only inside its input range.",
    source: "The converter's data sheet",
    mend: "Choose a converter whose input range covers the battery from reserve to charging.",
    figures: &[],
};

pub(super) const CONVERTER_INPUT_LOW: Check = Check {
    code: "converter.input_low",
    step: Step::Power,
    unit: "V",
    why: "It switches off, and what it feeds goes dark.",
    formula: "V_in,min ≤ V_in ≤ V_in,max",
    rule: "A converter works only inside its input range.",
    source: "The converter's data sheet",
    mend: "Choose a converter whose input range covers the battery from reserve to charging, or lose less on the way to it.",
    figures: &[],
};

pub(super) const CONVERTER_NEAR_LIMIT: Check = Check {
    code: "converter.near_limit",
    step: Step::Power,
    unit: "A",
    why: "Small converters keep their rating only with cool air around them, which an enclosure does not give.",
    formula: "I ≤ {0}·I_max",
    rule: "Keep a converter at {0%} of its rating or less.",
    source: "The converter's data sheet; margin by common practice",
    mend: "Use a larger module, or divide the lights between two.",
    figures: &[SUPPLY_SHARE],
};

pub(super) const CONVERTER_OVERLOAD: Check = Check {
    code: "converter.overload",
    step: Step::Power,
    unit: "A",
    why: "It shuts down, lets its voltage sag, or burns.",
    formula: "I ≤ {0}·I_max",
    rule: "Keep a converter at {0%} of its rating or less.",
    source: "The converter's data sheet; margin by common practice",
    mend: "Use a larger module, divide the lights between two, or dim them.",
    figures: &[SUPPLY_SHARE],
};

pub(super) const CONVERTER_PASS_THROUGH: Check = Check {
    code: "converter.pass_through",
    step: Step::Power,
    unit: "V",
    why: "A step-up cannot hold its output below its input: the lights get whatever the battery has.",
    formula: "V_in − V_drop ≤ V_set",
    rule: "The diode of a step-up conducts as soon as its input is above its output.",
    source: "Topology of the boost converter",
    mend: "Use a module that steps up and down, or set a higher voltage.",
    figures: &[],
};

fn find(case: &Case<'_>, found: &mut Findings) {
    for converter in &case.build.converters {
        let mut heaviest: Option<(f64, Load<'_>)> = None;
        for point in case.points() {
            let Some(here) = point.converters.get(&converter.id) else { continue };
            input(case, converter, here.in_v, point, found);
            if let Conversion::Boost(own) = &converter.conversion {
                pass_through(case, converter, own, here.in_v, point, found);
            }
            back_fed(case, converter, here, point, found);
            hot(case, converter, here.loss_w, point, found);
        }
        for point in case.peaks() {
            let Some(here) = point.converters.get(&converter.id) else { continue };
            let out = Load { current: here.out_a.abs(), limit: converter.max_out_a, side: "output", point };
            let into = converter.max_in_a.map(|limit| Load { current: here.in_a.abs(), limit, side: "input", point });
            for load in [Some(out), into].into_iter().flatten() {
                let ratio = load.current / load.limit;
                if heaviest.as_ref().is_none_or(|(most, _)| ratio > *most) {
                    heaviest = Some((ratio, load));
                }
            }
        }
        if let Some((_, load)) = heaviest {
            loaded(case, converter, &load, found);
        }
    }
}

/// What one side of a converter carries.
struct Load<'a> {
    current: f64,
    limit: f64,
    side: &'static str,
    point: &'a PointReport,
}

/// Output above the setting at which another supply counts as holding it.
const HELD: f64 = 1.01;

fn back_fed(case: &Case<'_>, converter: &Converter, here: &ConverterReport, point: &PointReport, found: &mut Findings) {
    let Some(set_v) = converter.set_v().filter(|_| converter.kind() != ConverterKind::Boost) else { return };
    if here.out_a.abs() > 1e-6 || within(here.out_v, HELD * set_v) {
        return;
    }
    let draft = Draft {
        check: &CONVERTER_BACK_FED,
        severity: Severity::Fix,
        subject: &converter.id,
        point: Some(point),
        value: here.out_v,
        limit: set_v,
        excess: here.out_v,
    };
    found.add(draft, || Words {
        title: format!("{}: another supply does its work", converter.id),
        message: format!(
            "The output of `{}` stands at {} {}, above the {} that it is set to: it gives no current, and the other supply carries all.",
            converter.id,
            plain(here.out_v, "V"),
            moment(case.build, point),
            plain(set_v, "V")
        ),
        advice: Some("Feed the strip from one supply, cut its plus copper between the two, or set both to the same voltage and check each alone with a meter."),
        given: vec![quantity("V_set", "its setting", set_v, "V"), quantity("I_out", "its output current", here.out_a, "A")],
    });
}

fn hot(case: &Case<'_>, converter: &Converter, loss_w: f64, point: &PointReport, found: &mut Findings) {
    let Some(most_w) = converter.heat_limit_w() else { return };
    let limit = HEAT_SHARE * most_w;
    if within(loss_w, limit) {
        return;
    }
    let severity = if above(loss_w, most_w) { Severity::Stop } else { Severity::Fix };
    let draft = Draft { check: &CONVERTER_HOT, severity, subject: &converter.id, point: Some(point), value: loss_w, limit, excess: loss_w };
    found.add(draft, || Words {
        title: format!("{}: too hot", converter.id),
        message: format!(
            "`{}` turns {} into heat {}; it gets rid of {} at most, and is used up to {}.",
            converter.id,
            plain(loss_w, "W"),
            moment(case.build, point),
            plain(most_w, "W"),
            plain(limit, "W")
        ),
        advice: None,
        given: vec![quantity("P_max", "it gets rid of", most_w, "W")],
    });
}

fn input(case: &Case<'_>, converter: &Converter, in_v: f64, point: &PointReport, found: &mut Findings) {
    let (check, limit, excess, low) = if above(converter.min_in_v, in_v) {
        (&CONVERTER_INPUT_LOW, converter.min_in_v, converter.min_in_v - in_v, true)
    } else if above(in_v, converter.max_in_v) {
        (&CONVERTER_INPUT_HIGH, converter.max_in_v, in_v - converter.max_in_v, false)
    } else {
        return;
    };
    let draft = Draft { check, severity: Severity::Stop, subject: &converter.id, point: Some(point), value: in_v, limit, excess };
    found.add(draft, || Words {
        title: format!("{}: input too {}", converter.id, if low { "low" } else { "high" }),
        message: format!(
            "`{}` gets {} {}; it {} {}.",
            converter.id,
            plain(in_v, "V"),
            moment(case.build, point),
            if low { "switches off below" } else { "stands at most" },
            plain(limit, "V")
        ),
        advice: Some("Choose a converter whose input range covers the battery from reserve to charging."),
        given: vec![quantity("V_source", "terminal voltage of the source", point.source.terminal_v, "V")],
    });
}

fn pass_through(case: &Case<'_>, converter: &Converter, own: &StepUp, in_v: f64, point: &PointReport, found: &mut Findings) {
    let passed = in_v - own.pass_drop_v;
    if within(passed, own.set_v) {
        return;
    }
    let draft = Draft {
        check: &CONVERTER_PASS_THROUGH,
        severity: Severity::Stop,
        subject: &converter.id,
        point: Some(point),
        value: passed,
        limit: converter.target_v(),
        excess: passed,
    };
    found.add(draft, || Words {
        title: format!("{}: the input comes straight through", converter.id),
        message: format!(
            "`{}` lets {} through {}; it is set to {}.",
            converter.id,
            plain(passed, "V"),
            moment(case.build, point),
            plain(converter.target_v(), "V")
        ),
        advice: None,
        given: vec![quantity("V_in", "input", in_v, "V"), quantity("V_drop", "drop of its diode", own.pass_drop_v, "V")],
    });
}

fn loaded(case: &Case<'_>, converter: &Converter, load: &Load<'_>, found: &mut Findings) {
    let &Load { current, limit, side, point } = load;
    let (check, severity, over) = if above(current, limit) {
        (&CONVERTER_OVERLOAD, Severity::Stop, true)
    } else if above(current, SUPPLY_SHARE * limit) && !(converter.kind() == ConverterKind::CurrentDriver && side == "output") {
        // A driver is made to give its all; every other converter is not.
        (&CONVERTER_NEAR_LIMIT, Severity::Fix, false)
    } else {
        return;
    };
    let draft = Draft { check, severity, subject: &converter.id, point: Some(point), value: current, limit, excess: current / limit };
    found.add(draft, || Words {
        title: format!("{}: {}", converter.id, if over { "overloaded" } else { "close to its limit" }),
        message: format!(
            "The {side} of `{}` carries {} {}; its limit is {}.{}",
            converter.id,
            plain(current, "A"),
            moment(case.build, point),
            plain(limit, "A"),
            super::source::sags(converter.critical)
        ),
        advice: None,
        given: vec![quantity("I_max", format!("{side} limit"), limit, "A")],
    });
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    let build = case.build;
    let Some(converter) = build.converters.iter().find(|c| c.id == finding.subject) else { return Vec::new() };
    let edit = |title: String, change: &dyn Fn(&mut Converter)| {
        propose(build, title, |copy| {
            change(copy.converters.iter_mut().find(|c| c.id == converter.id)?);
            Some(())
        })
    };
    let inputs = case.points().filter_map(|p| p.converters.get(&converter.id)).map(|c| c.in_v);
    let (low, high) = inputs.fold((f64::MAX, 0.0f64), |(low, high), v| (low.min(v), high.max(v)));
    let mut proposals = Vec::new();
    match finding.code {
        "converter.input_high" => {
            let limit = rating_above(1.1 * high, &INPUT_V);
            proposals.extend(edit(format!("Use one that takes {}", plain(limit, "V")), &|c| c.max_in_v = limit));
        }
        "converter.input_low" => {
            proposals.extend(super::wire::thicker_feed(build, &converter.id, 3));
            let needed = (0.8 * low * 2.0).floor() / 2.0;
            if light::is_starved(converter, low) {
                proposals.extend(edit(format!("Use a step-up-down that runs from {}", plain(needed, "V")), &|c| {
                    c.conversion = Conversion::step_up_down(c.target_v(), 0.88);
                    c.min_in_v = needed;
                }));
            }
            proposals.extend(edit(format!("Use one that runs from {}", plain(needed, "V")), &|c| c.min_in_v = needed));
        }
        "converter.hot" => {
            let step_down = |c: &mut Converter| {
                c.conversion = Conversion::step_down(c.target_v(), 0.9);
                c.max_in_v = c.max_in_v.max(rating_above(1.1 * high, &INPUT_V));
                (c.max_loss_w, c.mass_g) = (None, 12.0);
            };
            if converter.kind() == ConverterKind::Linear {
                proposals.extend(edit("Use a step-down converter instead".into(), &step_down));
            }
            let sink_w = [3.0, 6.0, 15.0, 30.0].into_iter().find(|most| within(finding.value, HEAT_SHARE * most));
            if let Some(sink_w) = sink_w {
                let title = format!("Put it on metal that gets rid of {}", plain(sink_w, "W"));
                proposals.extend(edit(title, &|c| (c.max_loss_w, c.mass_g) = (Some(sink_w), c.mass_g + 3.0 * sink_w)));
            }
            proposals.extend([0.8, 0.65, 0.5, 0.3].into_iter().filter_map(|share| source::dim_all(build, share)));
        }
        "converter.back_fed" => {
            for light in build.lights.iter().filter(|light| light.feeds.iter().any(|feed| case.graph.supplier(feed) == converter.id)) {
                let Some(other) = light.feeds.iter().find(|feed| case.graph.supplier(feed) != converter.id) else { continue };
                proposals.extend(propose(build, format!("Feed {} from {} alone", light.id, other.from), |copy| {
                    let light = copy.lights.iter_mut().find(|l| l.id == light.id)?;
                    light.feeds.iter_mut().for_each(|feed| feed.from.clone_from(&other.from));
                    Some(())
                }));
                if let Some(set_v) = build.converters.iter().find(|c| c.id == case.graph.supplier(other)).and_then(|c| c.set_v()) {
                    proposals.extend(edit(format!("Set it to {} too", plain(set_v, "V")), &|c| *c.conversion.setting_mut() = set_v));
                }
            }
        }
        "converter.pass_through" => {
            proposals.extend(edit("Use a step-up-down instead".into(), &|c| {
                if let Conversion::Boost(own) = &c.conversion {
                    c.conversion = StepUpDown { set_v: own.set_v, efficiency: own.efficiency.clone(), dropout_v: None, pass_drop_v: None }.into();
                }
            }));
        }
        "converter.overload" | "converter.near_limit" => {
            let most = |current: fn(&ConverterReport) -> f64| case.points().filter_map(|p| p.converters.get(&converter.id)).map(current).fold(0.0, f64::max);
            let (out_a, in_a) = (most(|c| c.out_a), most(|c| c.in_a));
            let out = rating_above(out_a / SUPPLY_SHARE, &OUTPUT_A).max(converter.max_out_a);
            let into = converter.max_in_a.map(|limit| rating_above(in_a / SUPPLY_SHARE, &OUTPUT_A).max(limit));
            let title = match into {
                Some(into) if into != converter.max_in_a.unwrap_or(into) => format!("Use one rated {} out, {} in", plain(out, "A"), plain(into, "A")),
                _ => format!("Use one rated {}", plain(out, "A")),
            };
            proposals.extend(edit(title, &|c| {
                c.max_out_a = out;
                c.max_in_a = into;
            }));
            // Less light brings it to four fifths, not to just below its limit.
            let share = 0.8 * finding.limit / finding.value.max(1e-9);
            proposals.extend([0.8, 0.65, 0.5, 0.3].into_iter().find(|step| *step <= share).and_then(|share| source::dim_all(build, share)));
        }
        _ => {}
    }
    proposals
}
