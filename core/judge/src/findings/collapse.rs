//! A scene and state without a steady state: the supply gives way, or a part switches on and off without end.

use super::case::*;
use super::source::dim_all;
use super::wire;
use orthavis_model::document::{Converter, Load, Source};
use orthavis_model::working::plain;
use orthavis_physics::network::SolveError;

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const SOURCE_COLLAPSES: Check = Check {
    code: "source.collapses",
    step: Step::Power,
    unit: "1",
    why: "A supply that gives way makes lights blink and die, heats its cells and can reset what else lives on it.",
    formula: "P_there / P_asked ≥ 1",
    rule: "Every scene finds a balance at every charge.",
    source: "Solved network: Kirchhoff's laws and the laws of the parts",
    mend: "Less brightness, cells with a larger limit, or a converter made for lower input.",
    figures: &[],
};

fn find(case: &Case<'_>, found: &mut Findings) {
    for collapsed in case.collapsed {
        let share = fed(case.build, collapsed);
        let scene = case.build.scenes.iter().find(|scene| scene.id == collapsed.scene).map_or(collapsed.scene.as_str(), |scene| &scene.name);
        let at = Draft {
            check: &SOURCE_COLLAPSES,
            severity: Severity::Stop,
            subject: "source",
            point: None,
            value: share,
            limit: 1.0,
            // Where little is missing, less has to be done: the worst is the one that is fed least.
            excess: 1.0 - share,
        };
        found.add(at, || {
            let (place, happens) = match &collapsed.error {
                SolveError::Hunting { place, running_v, resting_v } => (
                    place,
                    format!(
                        "Running, its input sags to {}{}; off, it sees {} and starts again: it switches on and off without end.",
                        plain(*running_v, "V"),
                        needs_v(case.build, place).map_or(String::new(), |least| format!(", and it needs {}", plain(least, "V"))),
                        plain(*resting_v, "V")
                    ),
                ),
                SolveError::Overloaded { place, share } => {
                    (place, format!("The supply gives way at {:.0} % of what the lights ask for, and voltage falls to nothing.", 100.0 * share))
                }
                SolveError::Several { place } => (place, "It may start or not, by chance: both are in balance.".to_owned()),
                SolveError::NotConverged { place } | SolveError::TooMuch { size: place } => (place, "Its currents find no balance.".to_owned()),
                SolveError::CalledOff => return Words::NONE,
            };
            Words {
                title: format!("{place} cannot stay on {}", collapsed.state.phrase()),
                message: format!(
                    "Scene \u{201c}{scene}\u{201d} asks {} {}: `{place}` cannot stay on. {happens}",
                    asked(case, collapsed),
                    collapsed.state.phrase()
                ),
                advice: Some("There are no figures for this scene and charge until then; the others hold."),
                given: vec![quantity("share", "of what is asked, fed at the most", share, "1")],
            }
        });
        // The worst point of a code is told apart by its draft alone: it has no report to be read from.
        if let Some(finding) = found.found.get_mut(&("source.collapses", "source".to_owned())).filter(|finding| finding.excess == 1.0 - share) {
            (finding.state, finding.scene) = (Some(collapsed.state), Some(collapsed.scene.clone()));
        }
    }
}

/// Share of what is asked that could be fed, 0 to 1.
fn fed(build: &Build, collapsed: &PointError) -> f64 {
    match &collapsed.error {
        SolveError::Overloaded { share, .. } => share.clamp(0.0, 1.0),
        SolveError::Hunting { place, running_v, .. } => needs_v(build, place).map_or(0.0, |least| (running_v / least).clamp(0.0, 1.0)),
        _ => 0.0,
    }
}

/// Lowest input voltage at which a converter or lamp runs, V.
fn needs_v(build: &Build, id: &str) -> Option<f64> {
    let converter = build.converters.iter().find(|converter| converter.id == id).map(|converter| converter.min_in_v);
    let lamp = || match build.lights.iter().find(|light| light.id == id).map(|light| &light.load) {
        Some(Load::Module(module)) => Some(module.min_v),
        _ => None,
    };
    converter.or_else(lamp).filter(|least| *least > 0.0)
}

/// What is asked and what is there, in words.
fn asked(case: &Case<'_>, collapsed: &PointError) -> String {
    let watts: f64 = case
        .build
        .lights
        .iter()
        .filter_map(|light| {
            let scene = case.build.scenes.iter().find(|scene| scene.id == collapsed.scene)?;
            Some(scene.lit(&light.id).level * rated_w(&light.load))
        })
        .sum();
    let (emf_v, ohm) = case.build.thevenin(collapsed.state);
    let there = match &case.build.source {
        Source::Battery(battery) => emf_v * battery.max_current_a - ohm * battery.max_current_a.powi(2),
        other => emf_v * other.max_current_a(),
    };
    format!("for {} of light, from a {} that gives {} within its limit,", plain(watts, "W"), case.build.source.called(), plain(there.max(0.0), "W"))
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    if finding.code != "source.collapses" {
        return Vec::new();
    }
    // Less than what the supply carries of it; more than that gives way again.
    let carried = |share: &f64| !case.collapsed.iter().any(|one| matches!(one.error, SolveError::Overloaded { share: most, .. } if *share > most));
    let mut proposals: Vec<Proposal> = [0.8, 0.65, 0.5, 0.35, 0.2, 0.1].into_iter().filter(carried).filter_map(|share| dim_all(case.build, share)).collect();
    for collapsed in case.collapsed {
        let (SolveError::Hunting { place, .. } | SolveError::Overloaded { place, .. } | SolveError::Several { place }) = &collapsed.error else { continue };
        if let (SolveError::Hunting { running_v, .. }, Some(converter)) = (&collapsed.error, case.build.converters.iter().find(|c| c.id == *place)) {
            proposals.extend(lower_input(case.build, converter, *running_v));
        }
        proposals.extend(wire::thicker_feed(case.build, place, 4));
    }
    proposals.extend(propose(case.build, "Put a second pack of the same kind beside it: twice the current", |copy| {
        let Source::Battery(battery) = &mut copy.source else { return None };
        battery.parallel *= 2;
        battery.capacity_ah *= 2.0;
        battery.max_current_a *= 2.0;
        battery.resistance_ohm = battery.resistance_ohm.map(|ohm| 0.5 * ohm);
        Some(())
    }));
    proposals.extend(propose(case.build, "Use a supply of twice the current", |copy| {
        let Source::Rail(rail) = &mut copy.source else { return None };
        rail.max_current_a *= 2.0;
        rail.resistance_ohm *= 0.5;
        Some(())
    }));
    proposals
}

/// What a light takes when it gets what it is made for, W.
fn rated_w(load: &Load) -> f64 {
    match load {
        Load::LedArray(array) => f64::from(array.series) * f64::from(array.parallel) * array.led.vf_v * array.led.if_a,
        Load::Strip(strip) => strip.power_w_per_m * strip.length_m,
        Load::Pixels(pixels) => f64::from(pixels.count) * pixels.voltage_v * (pixels.channel_a.iter().sum::<f64>() + pixels.idle_a),
        Load::Module(module) => module.power_w,
    }
}

/// A converter made for a lower input.
fn lower_input(build: &Build, converter: &Converter, running_v: f64) -> Option<Proposal> {
    let needed = (0.8 * running_v * 2.0).floor() / 2.0;
    let title = format!("Use a module in place of {} that runs from {}", converter.id, plain(needed, "V"));
    propose(build, title, |copy| {
        (needed > 0.5).then_some(())?;
        copy.converters.iter_mut().find(|c| c.id == converter.id)?.min_in_v = needed;
        Some(())
    })
}
