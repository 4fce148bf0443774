//! The source: more current than it gives, and taps that harm it.

use super::case::*;
use super::light;
use orthavis_model::document::{Battery, Source, Switch, Tap, VehicleKind};
use orthavis_model::edit::{feed_mut, free_id, plain_feed};
use orthavis_model::laws::habits::habits_of;
use orthavis_model::practice::{INPUT_V, OUTPUT_A, SUPPLY_SHARE, USE_SHARE, rating_above};
use orthavis_model::topology::Topology;
use orthavis_model::working::plain;
use orthavis_physics::{parked, protection};

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const SOURCE_CHARGING_LIT: Check = Check {
    code: "source.charging_lit",
    step: Step::Battery,
    unit: "1",
    why: "Some chargers and protection boards take what the lights draw for charge that never ends, and stop late or not at all.",
    formula: "said = 1",
    rule: "A lithium pack is charged with its lights on only where its maker says that it may be.",
    source: "Common practice with lithium packs",
    mend: "Ask the maker, and say so at the battery; or keep the lights off while it charges.",
    figures: &[],
};

pub(super) const SOURCE_NEAR_LIMIT: Check = Check {
    code: "source.near_limit",
    step: Step::Battery,
    unit: "A",
    why: "A supply that runs at its limit gets hot, and its voltage dips whenever something else asks too.",
    formula: "I ≤ {0}·I_max",
    rule: "Keep a supply that is already there, or a track, at {0%} of its limit or less.",
    source: "Margin by common practice",
    mend: "Draw less, or use a supply that is made for more.",
    figures: &[SUPPLY_SHARE],
};

pub(super) const SOURCE_NO_CUTOFF: Check = Check {
    code: "source.no_cutoff",
    step: Step::Battery,
    unit: "V",
    why: "A lithium cell that was drawn empty can short inside and catch fire when it is charged again.",
    formula: "V_off ≥ N_s·V_empty",
    rule: "Something has to switch off before a cell falls below its lowest voltage: a board in the pack, a cut-off, or a controller that does it.",
    source: "Usual lowest voltage of the chemistry",
    mend: "Use a pack with a protection board, or a module that switches off in time.",
    figures: &[],
};

pub(super) const SOURCE_NOT_RECHARGEABLE: Check = Check {
    code: "source.not_rechargeable",
    step: Step::Battery,
    unit: "1",
    why: "A primary cell that is charged gasses, leaks and can burst.",
    formula: "charging = no",
    rule: "Primary cells are replaced, not charged.",
    source: "Makers' warnings for alkaline cells",
    mend: "Say that it is not charged, or use a pack that may be.",
    figures: &[],
};

pub(super) const SOURCE_OVER: Check = Check {
    code: "source.over",
    step: Step::Battery,
    unit: "A",
    why: "An over-drawn battery heats inside; lithium cells can catch fire. A regulator shuts down or overheats.",
    formula: "I_source ≤ I_max",
    rule: "All that is drawn together, other loads included, stays within the limit.",
    source: "The maker's figure for the source or the tap",
    mend: "Draw less, or use a source that is made for it.",
    figures: &[],
};

pub(super) const SOURCE_PARKED: Check = Check {
    code: "source.parked",
    step: Step::Drain,
    unit: "d",
    why: "A battery that stands empty is harmed for good, or is flat when it is wanted.",
    formula: "t_harm ≥ {0}·7 / n_week",
    rule: "Parked, it lasts at least {0w} times the usual time between outings before lasting harm.",
    source: "Charge balance with self-discharge; margin by common practice",
    mend: "A switch before what draws in the background, a disconnect, or a charger that stays on.",
    figures: &[INTERVALS],
};

pub(super) const TAP_OVER: Check = Check {
    code: "tap.over",
    step: Step::Battery,
    unit: "A",
    why: "The wiring or the electronics behind the tap are not made for it; on a vehicle they may be the ones that steer or brake.",
    formula: "I_source ≤ I_max",
    rule: "All that is drawn together, other loads included, stays within the limit.",
    source: "The maker's figure for the source or the tap",
    mend: "Draw less, or tap the main leads with a fuse of their own.",
    figures: &[],
};

pub(super) const TAP_UNBALANCED: Check = Check {
    code: "tap.unbalanced",
    step: Step::Battery,
    unit: "1",
    why: "Cells or batteries that are not drawn from alike drift apart: the fuller ones are overcharged, the emptier ones reversed.",
    formula: "tap = whole pack",
    rule: "Draw from all cells alike.",
    source: "Common practice for series packs",
    mend: "Tap the whole pack at its main leads, or an accessory output that is meant for it.",
    figures: &[],
};

fn find(case: &Case<'_>, found: &mut Findings) {
    let tap_limit = match &case.build.source {
        Source::Battery(battery) => battery.tap_limit_a,
        Source::Rail(_) | Source::Track(_) => None,
    };
    let limits = [(&SOURCE_OVER, Some(case.build.source.max_current_a())), (&TAP_OVER, tap_limit)];
    if !matches!(case.build.source, Source::Battery(_)) {
        near_limit(case, found);
    }
    for point in case.peaks() {
        for (check, limit) in limits {
            let Some(limit) = limit.filter(|limit| above(point.source.current_a.abs(), *limit)) else { continue };
            over(case, check, limit, point, found);
        }
    }
    parked(case, found);
    if let Source::Battery(battery) = &case.build.source
        && matches!(battery.tap, Tap::BalanceLead | Tap::OneOfSeries)
    {
        unbalanced(battery.tap, found);
    }
    if let Source::Battery(battery) = &case.build.source {
        if battery.is_lithium() && !battery.is_protected() {
            no_cutoff(battery, found);
        }
        if battery.is_lithium() && battery.used_while_charging {
            charging_lit(battery, found);
        }
        if battery.used_while_charging && orthavis_model::laws::battery::cell_of(battery.chemistry).charge_v.is_none() {
            not_rechargeable(battery, found);
        }
    }
}

fn near_limit(case: &Case<'_>, found: &mut Findings) {
    let limit = case.build.source.max_current_a();
    let Some((current, point)) = case.worst_peak(|point| Some(point.source.current_a.abs())) else { return };
    if above(current, limit) || within(current, SUPPLY_SHARE * limit) {
        return;
    }
    let called = case.build.source.called();
    let draft = Draft { check: &SOURCE_NEAR_LIMIT, severity: Severity::Fix, subject: "source", point: Some(point), value: current, limit, excess: current };
    found.add(draft, || Words {
        title: format!("The {called} is close to its limit"),
        message: format!(
            "{} are drawn {}; the {called} gives {} at most, and is used up to {}.",
            plain(current, "A"),
            moment(case.build, point),
            plain(limit, "A"),
            plain(SUPPLY_SHARE * limit, "A")
        ) + sags(case.build.source_steers()),
        advice: Some("What else draws from it counts too: enter it as its other load."),
        given: vec![quantity("I_max", "its limit", limit, "A")],
    });
}

/// What is lost with a supply that steers or flies the vehicle too.
pub(super) fn sags(steers: bool) -> &'static str {
    if steers { " What steers hangs on it too: if it sags you lose control." } else { "" }
}

/// Intervals between outings that a parked battery outlasts.
const INTERVALS: f64 = 2.0;

fn parked(case: &Case<'_>, found: &mut Findings) {
    // Without a balance nothing is known of it; that is another finding's to say.
    let Ok(Some(parked)) = parked::parked(case.build, INTERVALS) else { return };
    let limit = INTERVALS * parked.interval_d;
    if within(limit, parked.days) {
        return;
    }
    let draft =
        Draft { check: &SOURCE_PARKED, severity: Severity::Fix, subject: "source", point: None, value: parked.days, limit, excess: limit / parked.days };
    found.add(draft, || Words {
        title: "Parked, the battery is harmed too soon".into(),
        message: format!(
            "With every light off {} flow all day: a full battery is harmed after {}, and it is used about every {}.",
            plain(parked.background_a, "A"),
            days(parked.days),
            days(parked.interval_d).trim_start_matches("1 ")
        ),
        advice: Some("Disconnect the battery after every outing, or leave a charger on that is made to stay on. What must not be switched off (a gas alarm) needs the charger."),
        given: vec![quantity("I", "in the background, mean of a day", parked.background_a, "A")],
    });
}

/// Days as a person says them.
fn days(count: f64) -> String {
    match count {
        count if count < 0.95 => format!("{:.0} hours", 24.0 * count),
        count if count < 1.05 => "1 day".to_owned(),
        count if count < 9.5 => format!("{count:.1} days"),
        count => format!("{count:.0} days"),
    }
}

/// A switch in every wire from the battery behind which something idles.
fn switch_off(case: &Case<'_>) -> Option<Proposal> {
    propose(case.build, "Put a switch at the battery before all that hangs on it", |copy| {
        let bare = case.build.feeds().into_iter().filter(|feed| feed.feed.from == "source" && feed.feed.switch.is_none());
        for feed in bare {
            let carried = case.worst_current(&feed.id).map_or(0.0, |(current, _)| current);
            feed_mut(copy, &feed.id)?.switch = Some(Switch::of(super::switching::rating_a(carried)));
        }
        Some(())
    })
}

/// Whether a lithium pack may be charged with its lights on: a question until someone answers it, a fault where the
/// answer is no.
fn charging_lit(battery: &Battery, found: &mut Findings) {
    let severity = match battery.may_charge_lit {
        Some(true) => return,
        Some(false) => Severity::Fix,
        None => Severity::Note,
    };
    let draft = Draft { check: &SOURCE_CHARGING_LIT, severity, subject: "source", point: None, value: 0.0, limit: 1.0, excess: 1.0 };
    found.add(draft, || Words {
        title: if severity == Severity::Fix { "Its maker forbids lights while it charges".into() } else { "May its lights be on while it charges?".into() },
        message: "The lights may be on while this lithium pack charges. What they draw passes the charger and the protection board, which may then not see when the pack is full.".into(),
        advice: Some("Ask its maker, or look in its manual, and answer at the battery. Without an answer, keep the lights off while it charges."),
        given: vec![],
    });
}

fn no_cutoff(battery: &Battery, found: &mut Findings) {
    let least_v = habits_of(battery.chemistry).cutoff_v * f64::from(battery.series);
    let draft = Draft { check: &SOURCE_NO_CUTOFF, severity: Severity::Note, subject: "source", point: None, value: 0.0, limit: least_v, excess: 1.0 };
    found.add(draft, || Words {
        title: "Nothing switches the lights off when the cells are empty".into(),
        message: format!("The pack has no protection board: left on, the lights draw it below {}, where its cells are harmed.", plain(least_v, "V")),
        advice: Some(
            "Put a low-voltage cut-off or an alarm between pack and lights, or unplug the pack after every outing; a pack with a board inside: say so under Battery.",
        ),
        given: vec![quantity("N_s", "cells in a row", f64::from(battery.series), "1")],
    });
}

fn not_rechargeable(battery: &Battery, found: &mut Findings) {
    let draft = Draft {
        check: &SOURCE_NOT_RECHARGEABLE,
        severity: Severity::Fix,
        subject: "source",
        point: None,
        value: f64::from(battery.series),
        limit: 0.0,
        excess: 1.0,
    };
    found.add(draft, || Words {
        title: "These cells are never charged".into(),
        message: format!(
            "The build says that the lights are on while it charges, but its {} cells are primary cells{}.",
            battery.series,
            if battery.charging_v().is_none() { "; that state was left out" } else { "" }
        ),
        advice: None,
        given: vec![],
    });
}

fn over(case: &Case<'_>, check: &'static Check, limit: f64, point: &PointReport, found: &mut Findings) {
    let current = point.source.current_a.abs();
    let draft = Draft { check, severity: Severity::Stop, subject: "source", point: Some(point), value: current, limit, excess: current };
    let tap = check.code == TAP_OVER.code;
    found.add(draft, || Words {
        title: if tap { "More than the tap may give".into() } else { "More than the source may give".into() },
        message: format!(
            "{} are drawn {}; {} allows {}.",
            plain(current, "A"),
            moment(case.build, point),
            if tap { "this tap" } else { "the source" },
            plain(limit, "A")
        ) + sags(case.build.source_steers()),
        advice: Some(
            "If the lights must be this bright, they need a source that is made for it: ask who services the vehicle, or give them a pack of their own.",
        ),
        given: vec![quantity("V", "terminal voltage there", point.source.terminal_v, "V")],
    });
}

fn unbalanced(tap: Tap, found: &mut Findings) {
    let draft = Draft { check: &TAP_UNBALANCED, severity: Severity::Stop, subject: "source", point: None, value: 1.0, limit: 0.0, excess: 1.0 };
    let what = match tap {
        Tap::BalanceLead => {
            "The lights hang on the balance connector. Its wires are thin and unfused, and drawing from some cells only drives the pack out of balance."
        }
        _ => "The lights hang on one battery of a series pair. That battery empties before its neighbour: both wear out, and lead batteries gas.",
    };
    found.add(draft, || Words {
        title: "Wrong place to tap".into(),
        message: what.into(),
        advice: Some("Tap the whole pack at its main leads, or an accessory output that is meant for it. Then say at the battery how many cells the whole pack has in series."),
        given: vec![],
    });
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    let tap = |tap: Tap, title: &str| {
        propose(case.build, title, |copy| {
            let Source::Battery(battery) = &mut copy.source else { return None };
            battery.tap = tap;
            battery.tap_limit_a = None;
            Some(())
        })
    };
    match finding.code {
        "source.charging_lit" => propose(case.build, "Keep the lights off while it charges", |copy| {
            let Source::Battery(battery) = &mut copy.source else { return None };
            battery.used_while_charging = false;
            Some(())
        })
        .into_iter()
        .collect(),
        "source.parked" => switch_off(case).into_iter().collect(),
        "source.near_limit" => {
            let share = SUPPLY_SHARE * finding.limit / finding.value.max(1e-9);
            let dimmer = [0.9, 0.8, 0.65, 0.5, 0.35, 0.2].into_iter().filter(|step| *step <= share).take(2);
            dimmer.chain([0.1]).filter_map(|share| dim_all(case.build, share)).collect()
        }
        "source.not_rechargeable" => propose(case.build, "Say that it is not charged", |copy| {
            let Source::Battery(battery) = &mut copy.source else { return None };
            battery.used_while_charging = false;
            Some(())
        })
        .into_iter()
        .collect(),
        "tap.unbalanced" => match &case.build.source {
            Source::Battery(battery) if battery.tap == Tap::OneOfSeries => whole_pair(case, battery),
            _ => tap(Tap::Main, "Tap the main leads").into_iter().collect(),
        },
        "source.over" | "tap.over" => {
            let mut proposals: Vec<Proposal> = Vec::new();
            // The outlet of a wheelchair keeps its limit: what more it gives is its technician's to say.
            if finding.code == "tap.over" && case.build.vehicle.kind != VehicleKind::Wheelchair {
                proposals.extend(tap(Tap::Main, "Tap the main leads instead"));
            }
            proposals.extend([0.8, 0.65, 0.5, 0.35, 0.2].into_iter().filter_map(|share| dim_all(case.build, share)).map(|mut p| {
                p.title = format!("{}: all scenes", p.title);
                p
            }));
            proposals
        }
        _ => Vec::new(),
    }
}

/// The main leads of a series pair: twice the cells, and what hangs on it through a step-down to what it had, unless
/// it stands the whole voltage.
fn whole_pair(case: &Case<'_>, battery: &Battery) -> Vec<Proposal> {
    let pair = |build: &mut Build| {
        let Source::Battery(battery) = &mut build.source else { return None };
        battery.series *= 2;
        battery.resistance_ohm = battery.resistance_ohm.map(|ohm| 2.0 * ohm);
        (battery.tap, battery.tap_limit_a) = (Tap::Main, None);
        Some(())
    };
    let straight = propose(case.build, format!("Tap both batteries at their main leads, {} cells in a row", 2 * battery.series), pair);
    let set_v = (f64::from(battery.series) * orthavis_model::laws::battery::cell_of(battery.chemistry).nominal_v * 10.0).round() / 10.0;
    let title = format!("Tap both batteries at their main leads, with a {} step-down for all that hangs there", plain(set_v, "V"));
    let stepped = propose(case.build, title, |copy| {
        pair(copy)?;
        let states: Vec<f64> = copy.states().into_iter().map(|state| copy.thevenin(state).0).collect();
        let (low, high) = states.iter().fold((f64::MAX, 0.0f64), |(low, high), v| (low.min(*v), high.max(*v)));
        let drawn = case.worst(|point| {
            Some(point.feeds.iter().filter(|(id, _)| case.build.feed(id).is_some_and(|f| f.feed.from == "source")).map(|(_, f)| f.current_a.abs()).sum())
        });
        let out_a = drawn.map_or(1.0, |(amps, _)| amps).max(0.1);
        let in_a = 1.1 * out_a * set_v / (0.9 * low);
        let id = free_id(copy, "main-supply");
        let mut feed = plain_feed("source", 0.2, orthavis_model::document::Gauge::Awg(20));
        let seat = protection::seat(&Topology::of(copy), &feed);
        let chosen = seat.best(in_a)?;
        feed.gauge = [20, 18, 16, 14, 12, 10, 8].map(orthavis_model::document::Gauge::Awg).into_iter().find(|g| within(chosen.rating_a, g.ampacity_a(1)))?;
        feed.fuse = Some(chosen);
        let ids: Vec<String> = copy.feeds().into_iter().filter(|feed| feed.feed.from == "source").map(|feed| feed.id).collect();
        for feed in &ids {
            feed_mut(copy, feed)?.from.clone_from(&id);
        }
        copy.converters.push(orthavis_model::document::Converter {
            id: id.clone(),
            feed,
            conversion: orthavis_model::document::Conversion::step_down(set_v, 0.9),
            min_in_v: (set_v + 0.5).min(low),
            max_in_v: rating_above(1.2 * high, &INPUT_V),
            max_out_a: rating_above(out_a / USE_SHARE, &OUTPUT_A),
            max_in_a: None,
            idle_a: 0.005,
            max_loss_w: None,
            mass_g: 60.0,
            ..orthavis_model::document::Converter::PLAIN
        });
        light::fuse_behind(copy, &id);
        Some(())
    });
    straight.into_iter().chain(stepped).collect()
}

/// Every scene at a share of its brightness.
pub(super) fn dim_all(build: &Build, share: f64) -> Option<Proposal> {
    propose(build, format!("Run the lights at {:.0} % of this brightness", 100.0 * share), |copy| {
        for lit in copy.scenes.iter_mut().flat_map(|scene| scene.lights.values_mut()) {
            lit.level = (lit.level * share * 1000.0).round() / 1000.0;
        }
        Some(())
    })
}
