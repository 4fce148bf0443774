//! Small circuits: whether they run, what their parts stand, and how fast they flash.

use super::case::*;
use orthavis_model::document::{CircuitKind, CircuitParts, HoldUp, SmallCircuit, Source, Through, TimerKind};
use orthavis_model::laws::resistor::{self, Series};
use orthavis_model::practice::{CAPACITOR_SPARE, CAPACITOR_V, ELECTROLYTIC_F, ELECTROLYTIC_OFF, FILM_OFF, RESISTOR_OFF, capacitor_for};
use orthavis_model::practice::{MOST_FLASHES, SATURATED_BELOW_V};
use orthavis_model::working::plain;
use orthavis_physics::circuits::{self, CircuitError, CircuitFigures, output_limit_a, tap_name};

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const CIRCUIT_NO_START: Check = Check {
    code: "circuit.no_start",
    step: Step::Power,
    unit: "1",
    why: "Lights that never come on look like a broken joint, and are searched for as one.",
    formula: "V_supply ≥ V_start",
    rule: "Every circuit runs at every state of its supply.",
    source: "Transient simulation of the circuit",
    mend: "Take a part that runs at that voltage, or feed it with more.",
    figures: &[],
};

pub(super) const CIRCUIT_OUTPUT_OVER: Check = Check {
    code: "circuit.output_over",
    step: Step::Power,
    unit: "A",
    why: "An output that is overloaded gets hot, sags and dies.",
    formula: "I_out,max ≤ I_rated",
    rule: "The largest current out of a timer stays within what its kind gives.",
    source: "Representative ratings of bipolar and CMOS timers",
    mend: "Let a transistor carry the lights.",
    figures: &[],
};

pub(super) const CIRCUIT_PART_OVER: Check = Check {
    code: "circuit.part_over",
    step: Step::Power,
    unit: "1",
    why: "A capacitor above its voltage bursts, a transistor above its current burns.",
    formula: "X_max ≤ X_rated, V_C ≤ V_rated / {0}",
    rule: "No part of a circuit is above its rating, and a capacitor has {1%} to spare.",
    source: "Representative ratings of small parts; common practice for electrolytic capacitors",
    mend: "Take a part with a higher rating.",
    figures: &[CAPACITOR_SPARE, CAPACITOR_SPARE - 1.0],
};

pub(super) const CIRCUIT_REVERSE_BASE: Check = Check {
    code: "circuit.reverse_base",
    step: Step::Power,
    unit: "V",
    why: "The halves of the flash get shorter than the formula says, and the transistor ages.",
    formula: "−V_BE ≤ {0 V}",
    rule: "A base is not pulled more than {0 V} below its emitter.",
    source: "Breakdown of the base-emitter junction of small transistors, representative",
    mend: "Put a silicon diode into each base lead.",
    figures: &[REVERSE_V],
};

pub(super) const CIRCUIT_UNSATURATED: Check = Check {
    code: "circuit.unsaturated",
    step: Step::Power,
    unit: "V",
    why: "A transistor that is half on keeps the voltage that the lights should have, and turns it into heat.",
    formula: "V_CE ≤ {0} V",
    rule: "A transistor that switches is saturated while it is on.",
    source: "Transient simulation; gain as small transistors have it",
    mend: "Give its base more current.",
    figures: &[SATURATED_BELOW_V],
};

pub(super) const FLASH_FAST: Check = Check {
    code: "flash.fast",
    step: Step::Lights,
    unit: "1",
    why: "Flashing above {0w} times a second can bring on a seizure, in whoever drives and whoever looks on.",
    formula: "f = 1 / (T·(1 − t_R)·(1 − t_C)) ≤ {0}",
    rule: "Nothing flashes more than {0w} times a second, at any state and with parts at the edge of what is printed on them.",
    source: "WCAG 2.2, three flashes or below; tolerances: resistors {1%}, film {2%}, electrolytic {3%}",
    mend: "Larger capacitors or resistors; in a show a longer period.",
    figures: &[MOST_FLASHES, RESISTOR_OFF, FILM_OFF, ELECTROLYTIC_OFF.0],
};

pub(super) const HOLDUP_INRUSH: Check = Check {
    code: "holdup.inrush",
    step: Step::Power,
    unit: "A",
    why: "A supply that is asked for more than it gives switches off, and contacts pit.",
    formula: "I = V / (R_charge + R_esr + R_supply) ≤ I_max",
    rule: "What an empty capacitor takes at plug-in stays within what the supply gives.",
    source: "Ohm's law at the moment of contact",
    mend: "Fill it through a larger resistor.",
    figures: &[],
};

pub(super) const HOLDUP_SHORT: Check = Check {
    code: "holdup.short",
    step: Step::Power,
    unit: "s",
    why: "A light that dims at every gap looks broken, and is why somebody built the hold-up.",
    formula: "t_half ≥ t_wanted",
    rule: "A hold-up keeps more than half of the light for as long as was asked, or as the gaps of the track last.",
    source: "Transient simulation of the circuit",
    mend: "Take a larger capacitor, or fewer lights on it.",
    figures: &[],
};

/// From here on a base breaks down backwards, V.
const REVERSE_V: f64 = 7.0;
/// The shortest period of parts that have least of what is printed on them, as a share of the nominal one.
fn shortest(parts: &CircuitParts) -> f64 {
    let smallest = parts.capacitors().into_iter().fold(f64::INFINITY, f64::min);
    (1.0 - RESISTOR_OFF) * (1.0 - if smallest >= ELECTROLYTIC_F { ELECTROLYTIC_OFF.0 } else { FILM_OFF })
}

fn find(case: &Case<'_>, found: &mut Findings) {
    for (index, circuit) in case.build.circuits.iter().enumerate() {
        for state in case.build.states() {
            let point = case.points().find(|point| point.state == state);
            let mut add = |check: &'static Check, severity: Severity, value: f64, limit: f64, title: String, message: String| {
                let excess = (value - limit).abs();
                found.add(Draft { check, severity, subject: &circuit.id, point, value, limit, excess }, || Words {
                    title,
                    message,
                    advice: None,
                    given: vec![],
                });
            };
            match circuits::figures(case.build, index, state) {
                Ok(figures) => judge(case, circuit, &figures, &mut add),
                Err(CircuitError::DoesNotRun { why, .. }) => {
                    let title = format!("{}: does not run {}", circuit.id, state.phrase());
                    add(&CIRCUIT_NO_START, Severity::Fix, 0.0, 1.0, title, format!("`{}` does not run {}: {why}.", circuit.id, state.phrase()));
                }
                // Stopped work is told by the report as a whole.
                Err(CircuitError::Transient { .. }) => {}
            }
        }
    }
}

fn judge(case: &Case<'_>, circuit: &SmallCircuit, figures: &CircuitFigures, add: &mut impl FnMut(&'static Check, Severity, f64, f64, String, String)) {
    let id = &circuit.id;
    if let Some(period) = figures.period_s {
        let rate = 1.0 / (period * shortest(&circuit.parts));
        if above(rate, MOST_FLASHES) {
            let message = format!(
                "`{id}` may flash {rate:.1} times a second with parts at the edge of what is printed on them. Above three a second flashing can bring on a seizure."
            );
            add(&FLASH_FAST, Severity::Stop, rate, MOST_FLASHES, format!("{id}: flashes too fast"), message);
        }
    }
    let limit = output_limit_a(circuit);
    let itself = matches!(&circuit.parts, CircuitParts::TimerFlasher(parts) if parts.through == Through::None);
    if let Some(amps) = figures.output_peak_a.filter(|amps| itself && above(*amps, limit)) {
        let message = format!("The output of `{id}` would give {}; it stands {}.", plain(amps, "A"), plain(limit, "A"));
        add(&CIRCUIT_OUTPUT_OVER, Severity::Stop, amps, limit, format!("{id}: its output is overloaded"), message);
    } else if let Some(amps) = figures.light_peak_a.filter(|amps| !itself && above(*amps, limit)) {
        let message = format!("The transistor of `{id}` would carry {}; a small one stands {}.", plain(amps, "A"), plain(limit, "A"));
        add(&CIRCUIT_PART_OVER, Severity::Stop, amps, limit, format!("{id}: too much for its transistor"), message);
    }
    if figures.saturated == Some(false) {
        let volts = figures.drop_v.unwrap_or(0.0);
        let message =
            format!("The transistor of `{id}` keeps {} for itself while it is on: its base gets too little current, and it gets warm.", plain(volts, "V"));
        add(&CIRCUIT_UNSATURATED, Severity::Fix, volts, SATURATED_BELOW_V, format!("{id}: its transistor is not fully on"), message);
    }
    if let Some(volts) = figures.base_least_v.filter(|volts| above(-volts, REVERSE_V)) {
        let message = format!(
            "A base of `{id}` is pulled {} below its emitter and breaks down backwards: it flashes faster than its formula says. A silicon diode in each base lead, pointing to the base, cures it.",
            plain(-volts, "V")
        );
        add(&CIRCUIT_REVERSE_BASE, Severity::Note, -volts, REVERSE_V, format!("{id}: its bases break down backwards"), message);
    }
    if let Some(parts) = circuit.hold_up() {
        hold_up(case, circuit, parts, figures, add);
    }
}

fn hold_up(
    case: &Case<'_>,
    circuit: &SmallCircuit,
    parts: &HoldUp,
    figures: &CircuitFigures,
    add: &mut impl FnMut(&'static Check, Severity, f64, f64, String, String),
) {
    let id = &circuit.id;
    let held = figures.taps.values().next();
    if let Some((held, rated)) = held.map(|held| held.capacitor_v).zip(parts.c_rated_v).filter(|(held, rated)| above(CAPACITOR_SPARE * held, *rated)) {
        let severity = if above(held, rated) { Severity::Stop } else { Severity::Fix };
        let message = format!("The capacitor of `{id}` holds {} and stands {rated} V; a fifth more than it holds keeps it from bursting.", plain(held, "V"));
        add(&CIRCUIT_PART_OVER, severity, held, rated / CAPACITOR_SPARE, format!("{id}: its capacitor stands too little"), message);
    }
    let used = figures.taps.get(&tap_name(parts.tap));
    let gaps = match &case.build.source {
        Source::Track(track) => track.gaps.as_ref().map(|gaps| gaps.length_s),
        _ => None,
    };
    if let Some((half_s, wanted_s)) = used.map(|held| held.half_s).zip(parts.wanted_s.or(gaps)).filter(|(half, wanted)| above(*wanted, *half)) {
        let message = format!(
            "`{id}` keeps more than half of the light for {}; {} {}.",
            plain(half_s, "s"),
            if parts.wanted_s.is_some() { "it is to carry them for" } else { "the gaps of the track last" },
            plain(wanted_s, "s")
        );
        add(&HOLDUP_SHORT, Severity::Fix, half_s, wanted_s, format!("{id}: does not hold long enough"), message);
    }
    // What the supply gives, and what the plugs on the way to it stand.
    let plugs = circuit.feed.contact_rating_a.filter(|_| circuit.feed.contacts > 0).unwrap_or(f64::INFINITY);
    let most = case.build.source.max_current_a().min(plugs);
    if let Some(inrush) = held.map(|held| held.inrush_a).filter(|inrush| above(*inrush, most)) {
        let message = format!(
            "Plugged in, the empty capacitor of `{id}` takes {} for a moment; {} {}.",
            plain(inrush, "A"),
            if most < plugs { "the supply gives" } else { "its plug stands" },
            plain(most, "A")
        );
        add(&HOLDUP_INRUSH, Severity::Fix, inrush, most, format!("{id}: takes too much at plug-in"), message);
    }
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    let Some(circuit) = case.build.circuits.iter().find(|circuit| circuit.id == finding.subject) else { return Vec::new() };
    let edit = |title: String, change: &dyn Fn(&mut CircuitParts) -> Option<()>| {
        propose(case.build, title, |copy| change(&mut copy.circuits.iter_mut().find(|known| known.id == finding.subject)?.parts))
    };
    let hold_up = |title: String, change: &dyn Fn(&mut HoldUp)| {
        edit(title, &|parts| {
            let CircuitParts::HoldUp(own) = parts else { return None };
            change(own);
            Some(())
        })
    };
    let by_mosfet = || edit("Let a MOSFET carry the lights".into(), &|parts| parts.carry_by_mosfet().then_some(()));
    let proposal = match finding.code {
        "flash.fast" => {
            let factor = (1.05 * finding.value / MOST_FLASHES).ceil();
            edit(format!("Use capacitors of {factor} times as much"), &|parts| {
                parts.capacitors_mut().into_iter().for_each(|farad| *farad *= factor);
                Some(())
            })
        }
        "circuit.no_start" => edit("Use the CMOS kind of timer".into(), &|parts| match parts {
            CircuitParts::TimerFlasher(own) if own.timer != TimerKind::Cmos => {
                own.timer = TimerKind::Cmos;
                Some(())
            }
            _ => None,
        }),
        "circuit.output_over" => by_mosfet(),
        "circuit.part_over" if circuit.kind() == CircuitKind::HoldUp => {
            let rated = capacitor_for(finding.value).unwrap_or(CAPACITOR_V[CAPACITOR_V.len() - 1]);
            hold_up(format!("Use a capacitor for {rated} V"), &|parts| parts.c_rated_v = Some(rated))
        }
        "circuit.part_over" => by_mosfet(),
        "circuit.unsaturated" => edit("A tenth of the resistor at its base".into(), &|parts| {
            let ohm = parts.base_ohm_mut()?;
            *ohm = (*ohm / 10.0).round().max(1.0);
            Some(())
        }),
        "holdup.short" => {
            let factor = 1.02 * finding.limit / finding.value.max(1e-3 * finding.limit);
            let Some(own) = circuit.hold_up() else { return Vec::new() };
            let farad = 1e-12 * resistor::above(Series::E6, 1e12 * factor * own.c_f);
            hold_up(format!("Use a capacitor of {}", plain(farad, "F")), &|parts| parts.c_f = farad)
        }
        "holdup.inrush" => {
            let more = (1.1 * finding.value / finding.limit).max(1.0);
            hold_up("Fill it through a larger resistor".into(), &|parts| parts.charge_ohm = (parts.charge_ohm * more).ceil().max(1.0))
        }
        _ => None,
    };
    proposal.into_iter().collect()
}
