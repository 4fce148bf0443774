//! Fuses: missing, too small, too large for a wire behind them, too slow, or no standard part.

mod mend;
mod seated;

use super::case::*;
use orthavis_model::document::{Consumer, ControllerKind, FeedRef, Fuse, Source};
use orthavis_model::laws::fuse::{ARC_STAYS, BREAKS_BADLY, HEADROOM, PROMPT_MULTIPLE, UNINTERRUPTED_S};
use orthavis_model::laws::wire::{PVC_ALWAYS_C, PVC_HOURS_C, PVC_MOMENT_C};
use orthavis_model::practice::COLD_FILAMENT;
use orthavis_model::topology::Wire;
use orthavis_model::working::plain;
use orthavis_physics::protection::{begins_at_supply, fault_a, filaments_behind, inrush_a, most_fault_a, protected, seat};

pub(super) const FAMILY: Family = Family { find, mend: mend::mend, mend_all: mend::one_junction };

pub(super) use seated::{FUSE_FAR, FUSE_MINUS};

pub(super) const FUSE_ABOVE_WIRE: Check = Check {
    code: "fuse.above_wire",
    step: Step::Wires,
    unit: "A",
    why: "The wire would burn before the fuse opens.",
    formula: "I_rated ≤ I_ampacity of every wire in the zone",
    rule: "A fuse protects every wire up to the next fuse, light or converter, so it may not exceed the thinnest.",
    source: "Overload protection of conductors; representative ampacities",
    mend: "Use a smaller fuse, thicker wire behind it, or a fuse of its own for the thin branch.",
    figures: &[],
};

pub(super) const FUSE_BREAKING: Check = Check {
    code: "fuse.breaking",
    step: Step::Wires,
    unit: "A",
    why: "A fuse that meets more than it can break may burst, or arc across and go on conducting.",
    formula: "E_full / (R_source + R_before + R_fuse) ≤ I_break",
    rule: "A fuse breaks at least the current that a short right behind it draws.",
    source: "Ohm's law; representative breaking capacities of the style for direct current",
    mend: "Use a style with a higher breaking capacity; another rating of the same style breaks no more.",
    figures: &[],
};

pub(super) const FUSE_INRUSH: Check = Check {
    code: "fuse.inrush",
    step: Step::Wires,
    unit: "s",
    why: "A fuse that opens at switch-on is soon replaced by one that is too large.",
    formula: "t_fast(I_rush) ≥ {1} s",
    rule: "Cold filaments draw {0w} times their current for {1 s}, some modules what their sheet says; the fuse before them holds that.",
    source: "Resistance of tungsten cold and hot; the part's sheet; fast limits of the style",
    mend: "Use a larger fuse, and wire for it; or LEDs in place of bulbs.",
    figures: &[COLD_FILAMENT.0, COLD_FILAMENT.1],
};

pub(super) const FUSE_MISSING: Check = Check {
    code: "fuse.missing",
    step: Step::Wires,
    unit: "°C",
    why: "A pinched wire before the first fuse carries all that its supply has, until its insulation burns.",
    formula: "θ_end = (p·(1 − 0.0786) + 30·g) / (g − 0.00393·p) ≤ 80 °C, p = I²·ρ/A",
    rule: "Without a fuse, a bolted short at the far end of a wire heats it to no more than 80 °C in the end: from a full battery over every wire out and back, from a converter or a supply what it gives at most.",
    source: "Heat balance of an insulated wire in still air of 30 °C; PVC stands 80 °C for good, 105 °C for hours (IEC 60364-5-54, IEC 60228)",
    mend: "Add a fuse within a hand's width of the supply's plus.",
    figures: &[],
};

pub(super) const FUSE_NUISANCE: Check = Check {
    code: "fuse.nuisance",
    step: Step::Wires,
    unit: "A",
    why: "A fuse run near its rating tires and opens one night for no reason, and someone rides on in the dark.",
    formula: "I_rated ≥ {0}·I_max",
    rule: "A fuse is rated {1%} above the largest current it carries.",
    source: "Common practice for continuous load",
    mend: "Use the next rating, within what the wire carries.",
    figures: &[HEADROOM, HEADROOM - 1.0],
};

pub(super) const FUSE_ODD_RATING: Check = Check {
    code: "fuse.odd_rating",
    step: Step::Wires,
    unit: "A",
    why: "A fuse that cannot be bought gets replaced by one that is too large.",
    formula: "I_rated ∈ standard ratings",
    rule: "Fuses come in standard ratings.",
    source: "Usual ratings of the style",
    mend: "Use the nearest standard rating.",
    figures: &[],
};

pub(super) const FUSE_SLOW: Check = Check {
    code: "fuse.slow",
    step: Step::Wires,
    unit: "A",
    why: "A fuse that hesitates lets the fault heat the wire, the connectors or the converter meanwhile.",
    formula: "I_fault ≥ 3.5·I_rated",
    rule: "A bolted short should open the fuse within half a second.",
    source: "ISO 8820-3 operating times; prospective fault current by Ohm's law",
    mend: "Use a smaller fuse or thicker wire; behind a converter, rely on its own limit.",
    figures: &[],
};

pub(super) const FUSE_VOLTAGE: Check = Check {
    code: "fuse.voltage",
    step: Step::Wires,
    unit: "V",
    why: "Above its voltage a fuse melts but the arc goes on burning in the gap, and the current with it.",
    formula: "V_max ≤ V_fuse",
    rule: "A fuse is rated for at least the highest voltage that it may have to interrupt.",
    source: "Representative ratings of the style for direct current",
    mend: "Use a style for the battery's highest voltage.",
    figures: &[],
};

fn find(case: &Case<'_>, found: &mut Findings) {
    for wire in case.graph.wires() {
        let (feed, zone) = (case.graph.feed(wire), case.graph.zone(wire));
        let Some(fuse) = &feed.feed.fuse else {
            missing(case, wire, &zone, found);
            continue;
        };
        seated::find(case, wire, fuse, found);
        nuisance(case, feed, fuse, found);
        at_switch_on(case, wire, fuse, found);
        odd(feed, fuse, found);
        above_wire(case, wire, fuse, found);
        slow(case, feed, fuse, &zone, found);
        voltage(case, feed, fuse, found);
        breaking(case, feed, fuse, found);
    }
}

fn voltage(case: &Case<'_>, feed: &FeedRef<'_>, fuse: &Fuse, found: &mut Findings) {
    let (limit, _) = fuse.style.stands();
    let most_v = seat(&case.graph, feed.feed).highest_v;
    if within(most_v, limit) {
        return;
    }
    let severity = if above(most_v, ARC_STAYS * limit) { Severity::Stop } else { Severity::Fix };
    let draft = Draft { check: &FUSE_VOLTAGE, severity, subject: &feed.id, point: None, value: most_v, limit, excess: most_v / limit };
    found.add(draft, || Words {
        title: format!("{}: this fuse is not made for {}", feed.id, plain(most_v, "V")),
        message: format!(
            "A {} interrupts up to {}; where it sits there may be {}.{}",
            fuse.style.name(),
            plain(limit, "V"),
            plain(most_v, "V"),
            if severity == Severity::Stop { " The arc in it may burn on after it has melted." } else { "" }
        ),
        advice: None,
        given: vec![],
    });
}

fn breaking(case: &Case<'_>, feed: &FeedRef<'_>, fuse: &Fuse, found: &mut Findings) {
    let (_, limit) = fuse.style.stands();
    let current = seat(&case.graph, feed.feed).short_a(fuse);
    let severity = match current {
        _ if above(current, BREAKS_BADLY.1 * limit) => Severity::Stop,
        _ if above(current, BREAKS_BADLY.0 * limit) => Severity::Fix,
        _ if above(current, limit) => Severity::Note,
        _ => return,
    };
    let draft = Draft { check: &FUSE_BREAKING, severity, subject: &feed.id, point: None, value: current, limit, excess: current / limit };
    found.add(draft, || Words {
        title: format!("{}: a short gives more than this fuse can break", feed.id),
        message: format!(
            "A short right behind it draws up to {} from a full battery; a {} breaks {}.",
            plain(current, "A"),
            fuse.style.name(),
            plain(limit, "A")
        ),
        advice: Some("Use a fuse of a style that breaks more; a larger or smaller one of this style breaks no more."),
        given: vec![quantity("R_fuse", "the fuse itself, cold", fuse.cold_ohm(), "ohm")],
    });
}

fn missing(case: &Case<'_>, wire: Wire, zone: &[Wire], found: &mut Findings) {
    let (build, feed) = (case.build, case.graph.feed(wire));
    if !begins_at_supply(&case.graph, wire) {
        return;
    }
    // A short at the far end of each wire that hangs on it heats that wire.
    let heated = zone.iter().map(|far| case.graph.feed(*far)).map(|far| {
        let fault = most_fault_a(&case.graph, far.feed);
        (far.feed.gauge.settled_c(far.feed.bundled, fault), fault, far)
    });
    let Some((degrees, fault, far)) = heated.max_by(|a, b| a.0.total_cmp(&b.0)).filter(|(degrees, ..)| above(*degrees, PVC_ALWAYS_C)) else { return };
    let harmless = matches!(&build.source, Source::Battery(battery) if battery.is_harmless());
    let severity = if above(degrees, PVC_HOURS_C) && !harmless { Severity::Stop } else { Severity::Fix };
    let draft = Draft { check: &FUSE_MISSING, severity, subject: &feed.id, point: None, value: degrees, limit: PVC_ALWAYS_C, excess: fault };
    found.add(draft, || {
        let supply = feed.feed.from.as_str();
        let at_battery = supply == "source" && matches!(build.source, Source::Battery(_));
        Words {
            title: match supply {
                "source" if at_battery => "No fuse at the battery".into(),
                "source" => format!("No fuse after the {}", build.source.called()),
                _ => format!("No fuse after {supply}"),
            },
            message: format!(
                "A pinched wire at the end of `{}` would carry {}{}; its {} wire would get {}.",
                far.id,
                plain(fault, "A"),
                if at_battery { " from a full battery" } else { ", all that its supply gives" },
                far.feed.gauge.name(),
                hot(degrees)
            ),
            advice: flies_by(build, feed).then_some(
                "No fuse in a flight controller's own lead: where it opens the craft falls. Keep this lead as short as a finger, insulated and tied down, and feed the lights by another.",
            ),
            given: vec![
                quantity("I_fault", format!("short at the end of {}", far.id), fault, "A"),
                quantity("A", "cross-section of its wire", far.feed.gauge.area_mm2(), "mm²"),
                quantity("n", "circuits in its bundle", f64::from(far.feed.bundled), "1"),
            ],
        }
    });
}

/// A temperature of a wire as people say it: where copper melts, a figure says less than the word.
fn hot(degrees: f64) -> String {
    if degrees > 300.0 { "red hot: its insulation burns".into() } else { plain(degrees, "°C") }
}

fn nuisance(case: &Case<'_>, feed: &FeedRef<'_>, fuse: &Fuse, found: &mut Findings) {
    let Some((current, point)) = case.worst_current(&feed.id) else { return };
    let need = HEADROOM * current;
    if within(need, fuse.rating_a) {
        return;
    }
    let draft =
        Draft { check: &FUSE_NUISANCE, severity: Severity::Fix, subject: &feed.id, point: Some(point), value: fuse.rating_a, limit: need, excess: current };
    found.add(draft, || Words {
        title: format!("{}: fuse too small", feed.id),
        message: format!(
            "Feed `{}` carries {} {}; its {} fuse should be at least {}.",
            feed.id,
            plain(current, "A"),
            moment(case.build, point),
            plain(fuse.rating_a, "A"),
            plain(need, "A")
        ),
        advice: None,
        given: vec![quantity("I_max", "largest current of the feed", current, "A")],
    });
}

/// Largest current of a feed at switch-on, A; 0 where nothing is known to rush.
fn rush_a(case: &Case<'_>, wire: Wire) -> f64 {
    case.worst(|point| inrush_a(&case.graph, wire, point, |light| light.is_asked(&case.lit(point, &light.id)))).map_or(0.0, |(amps, _)| amps)
}

fn at_switch_on(case: &Case<'_>, wire: Wire, fuse: &Fuse, found: &mut Findings) {
    let (amps, feed) = (rush_a(case, wire), case.graph.feed(wire));
    let Some([soonest, _]) = fuse.opens_s(amps).filter(|[soonest, _]| above(COLD_FILAMENT.1, *soonest)) else { return };
    let bulbs = !filaments_behind(&case.graph, wire).is_empty();
    let draft = Draft { check: &FUSE_INRUSH, severity: Severity::Fix, subject: &feed.id, point: None, value: soonest, limit: COLD_FILAMENT.1, excess: amps };
    found.add(draft, || Words {
        title: format!("{}: its fuse may open at switch-on", feed.id),
        message: format!(
            "At switch-on what hangs behind `{}` draws {} for some {}; the {} fuse may open after {}.",
            feed.id,
            plain(amps, "A"),
            plain(COLD_FILAMENT.1, "s"),
            plain(fuse.rating_a, "A"),
            plain(soonest, "s")
        ),
        advice: bulbs.then_some("LEDs draw no such surge: with them in place of the bulbs the small fuse is right."),
        given: vec![quantity("I_rush", "all behind it, at switch-on", amps, "A"), quantity("I_rated", "fuse", fuse.rating_a, "A")],
    });
}

fn odd(feed: &FeedRef<'_>, fuse: &Fuse, found: &mut Findings) {
    let ratings = fuse.style.ratings_a();
    if ratings.iter().any(|rating| (rating - fuse.rating_a).abs() < 1e-9) {
        return;
    }
    let nearest = ratings.iter().copied().min_by(|a, b| (a - fuse.rating_a).abs().total_cmp(&(b - fuse.rating_a).abs())).unwrap_or(0.0);
    let draft = Draft { check: &FUSE_ODD_RATING, severity: Severity::Note, subject: &feed.id, point: None, value: fuse.rating_a, limit: nearest, excess: 1.0 };
    found.add(draft, || Words {
        title: format!("{}: no such fuse", feed.id),
        message: format!("{} is not a standard rating of a {}; the nearest is {}.", plain(fuse.rating_a, "A"), fuse.style.name(), plain(nearest, "A")),
        advice: None,
        given: vec![],
    });
}

fn above_wire(case: &Case<'_>, wire: Wire, fuse: &Fuse, found: &mut Findings) {
    let feed = case.graph.feed(wire);
    // Of a strip that is fed at several places each fuse protects all of its feeds.
    let ampacities = protected(&case.graph, wire).into_iter().map(|wire| case.graph.feed(wire)).map(|f| (case.build.ampacity_a(f), f));
    let Some((ampacity, thinnest)) = ampacities.min_by(|a, b| a.0.total_cmp(&b.0)).filter(|(ampacity, _)| above(fuse.rating_a, *ampacity)) else {
        return;
    };
    let excess = fuse.rating_a - ampacity;
    let draft = Draft { check: &FUSE_ABOVE_WIRE, severity: Severity::Stop, subject: &feed.id, point: None, value: fuse.rating_a, limit: ampacity, excess };
    found.add(draft, || Words {
        title: format!("{}: fuse too large for a wire behind it", feed.id),
        message: format!(
            "The {} fuse in `{}` also protects the {} wire of `{}`, which may carry {}.",
            plain(fuse.rating_a, "A"),
            feed.id,
            thinnest.feed.gauge.name(),
            thinnest.id,
            plain(ampacity, "A")
        ),
        advice: None,
        given: vec![quantity("I_ampacity", format!("wire of {}", thinnest.id), ampacity, "A")],
    });
}

fn slow(case: &Case<'_>, feed: &FeedRef<'_>, fuse: &Fuse, zone: &[Wire], found: &mut Findings) {
    let graph = &case.graph;
    let need = PROMPT_MULTIPLE * fuse.rating_a;
    let slow: Vec<(f64, Wire)> = zone.iter().map(|wire| (fault_a(graph, graph.laid(*wire)), *wire)).filter(|(fault, _)| above(need, *fault)).collect();
    // How hot the wires on the way get until it opens, and the worst of the shorts in that.
    let heat = |fault: f64, far: Wire| {
        let time_s = fuse.opens_s(fault).map_or(UNINTERRUPTED_S, |[_, latest]| latest);
        let way = std::iter::once(far).chain(graph.leading_a_short_to(graph.from(far)).take_while(|wire| zone.contains(wire)));
        way.map(|wire| graph.laid(wire)).map(|wire| wire.gauge.heated_c(wire.bundled, fault, time_s)).fold(0.0, f64::max)
    };
    let hottest = slow.iter().map(|(fault, far)| (heat(*fault, *far), *fault, *far)).max_by(|a, b| a.0.total_cmp(&b.0));
    let Some((degrees, hot_fault, hot_far)) = hottest else { return };
    let severity = if above(degrees, PVC_MOMENT_C) { Severity::Stop } else { Severity::Fix };
    let least = slow.iter().copied().min_by(|a, b| a.0.total_cmp(&b.0));
    let Some((fault, far)) = (if severity == Severity::Stop { Some((hot_fault, hot_far)) } else { least }) else { return };
    let far = graph.feed(far);
    let opens = match fuse.opens_s(fault) {
        Some([_, latest]) => format!(" It may take {}.", plain(latest, "s")),
        None => " It may never open.".to_owned(),
    };
    let draft = Draft { check: &FUSE_SLOW, severity, subject: &feed.id, point: None, value: fault, limit: need, excess: need / fault.max(1e-9) };
    found.add(draft, || Words {
        title: format!("{}: a short might not open the fuse", feed.id),
        message: format!(
            "A short at the far end of `{}` draws {}; the {} fuse wants {} to open at once.{opens}{}",
            far.id,
            plain(fault, "A"),
            plain(fuse.rating_a, "A"),
            plain(need, "A"),
            if severity == Severity::Stop { format!(" Until then a wire gets {}.", hot(degrees)) } else { String::new() }
        ),
        advice: Some("Behind a converter or a rail its own current limit is what protects; make sure that it has one."),
        given: vec![
            quantity("I_rated", "fuse", fuse.rating_a, "A"),
            quantity("I_fault", format!("short at {}", far.id), fault, "A"),
            quantity("θ", "hottest wire until it opens", degrees, "°C"),
        ],
    });
}

/// Whether a feed is the own lead of a flight controller: a fuse that opens there brings the craft down.
fn flies_by(build: &Build, feed: &FeedRef<'_>) -> bool {
    matches!(feed.consumer, Consumer::Controller(at) if build.controllers[at].kind == ControllerKind::FlightController)
}
