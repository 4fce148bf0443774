//! A battery that an engine charges: what hangs straight on it is hit by what the engine's wiring throws.

use super::case::*;
use orthavis_model::document::{ChargedBy, Source};
use orthavis_model::practice::{INPUT_V, rating_above};
use orthavis_model::topology::Node;
use orthavis_model::working::plain;

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const SURGE_ENGINE: Check = Check {
    code: "surge.engine",
    step: Step::Power,
    unit: "V",
    why: "Each time something large is switched off, or a battery clamp lets go, an alternator drives the voltage far up for a moment; electronics that stand only a little more than the battery has die of it.",
    formula: "V_max ≥ {0}·V_charge",
    rule: "With the engine running, what hangs straight on the battery stands {0} times the charging voltage.",
    source: "Representative of the surges of ISO 7637-2 and ISO 16750-2 behind the vehicle's own clamps",
    mend: "A module that stands it, or a clamp before it.",
    figures: &[SPARE],
};

/// What stays of a surge behind a vehicle's own clamps, of its charging voltage.
const SPARE: f64 = 1.5;

fn find(case: &Case<'_>, found: &mut Findings) {
    let Source::Battery(battery) = &case.build.source else { return };
    let Some(charge_v) = battery.charging_v().filter(|_| battery.charged_by == Some(ChargedBy::Engine)) else { return };
    let limit = SPARE * charge_v;
    for wire in case.graph.wires().filter(|wire| case.graph.supply(case.graph.from(*wire)) == Node::Source) {
        let node = case.graph.to(wire);
        let Some(stands) = highest_v(case.build, node).filter(|stands| above(limit, *stands)) else { continue };
        let id = case.graph.id(node);
        let draft = Draft { check: &SURGE_ENGINE, severity: Severity::Note, subject: id, point: None, value: stands, limit, excess: limit - stands };
        found.add(draft, || Words {
            title: format!("{id}: little to spare while the engine runs"),
            message: format!("`{id}` hangs straight on a battery that the engine charges with {}; it stands {}.", plain(charge_v, "V"), plain(stands, "V")),
            advice: Some("A clamp (a suppressor diode for this battery's voltage) right before it does the same."),
            given: vec![quantity("V_charge", "charging voltage", charge_v, "V")],
        });
    }
}

/// What a part stands, V, where its sheet says.
fn highest_v(build: &Build, node: Node) -> Option<f64> {
    match node {
        Node::Converter(at) => Some(build.converters[at].max_in_v),
        Node::Controller(at) => Some(build.controllers[at].max_in_v),
        Node::Light(at) => match &build.lights[at].load {
            Load::Module(module) if module.has_window() => Some(module.max_v),
            _ => None,
        },
        _ => None,
    }
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    if finding.code != "surge.engine" {
        return Vec::new();
    }
    let stands = rating_above(finding.limit, &INPUT_V);
    let stronger = propose(case.build, format!("Use one that stands {}", plain(stands, "V")), |copy| {
        if let Some(one) = copy.converters.iter_mut().find(|one| one.id == finding.subject) {
            one.max_in_v = stands;
        } else if let Some(one) = copy.controllers.iter_mut().find(|one| one.id == finding.subject) {
            one.max_in_v = stands;
        } else {
            let Load::Module(module) = &mut copy.lights.iter_mut().find(|light| light.id == finding.subject)?.load else { return None };
            module.max_v = stands;
        }
        Some(())
    });
    stronger.into_iter().collect()
}
