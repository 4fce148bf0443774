//! What switches close to what listens.

use super::case::*;
use orthavis_model::document::{ConverterKind, LoadKind, PartPosition};
use orthavis_model::working::plain;

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const EMI_NEAR: Check = Check {
    code: "emi.near",
    step: Step::Places,
    unit: "mm",
    why: "Switching converters and data wires hiss in radio and magnetic field: a receiver loses range, a compass turns.",
    formula: "d ≥ {0} mm",
    rule: "A step-up, a step-down or the data wire of pixels stays {0} mm from receiver, antenna and compass.",
    source: "Common practice with models and multirotors",
    mend: "Move it away, twist its wires, and try the range before it flies.",
    figures: &[APART_MM],
};

/// From what listens, mm.
const APART_MM: f64 = 50.0;
/// Where a remedy puts it, mm from what listens.
const MOVED_MM: f64 = 60.0;

fn find(case: &Case<'_>, found: &mut Findings) {
    let positions = case.build.make.as_ref().map_or(&[][..], |make| &make.positions);
    for noisy in positions.iter().filter(|one| switches(case.build, &one.part)) {
        let ears = positions.iter().filter(|one| PartPosition::LISTENS.contains(&one.part.as_str()));
        let Some((mm, ear)) = ears.map(|ear| (distance(noisy, ear), ear)).min_by(|a, b| a.0.total_cmp(&b.0)) else { return };
        if within(APART_MM, mm) {
            continue;
        }
        let draft = Draft { check: &EMI_NEAR, severity: Severity::Note, subject: &noisy.part, point: None, value: mm, limit: APART_MM, excess: -mm };
        found.add(draft, || Words {
            title: format!("{}: close to the {}", noisy.part, ear.part),
            message: format!("`{}` sits {} from the {}.", noisy.part, plain(mm, "mm"), ear.part),
            advice: Some("Twist plus with minus, keep its wires short, and compare the range with the lights on and off."),
            given: vec![],
        });
    }
}

/// Whether a part switches fast, or hears data.
fn switches(build: &Build, part: &str) -> bool {
    let converter = build.converters.iter().any(|one| one.id == part && one.kind() != ConverterKind::Linear);
    converter || build.lights.iter().any(|light| light.id == part && light.load.kind() == LoadKind::Pixels)
}

fn distance(a: &PartPosition, b: &PartPosition) -> f64 {
    a.at_mm.iter().zip(b.at_mm).map(|(a, b)| (a - b).powi(2)).sum::<f64>().sqrt()
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    if finding.code != "emi.near" {
        return Vec::new();
    }
    let away = propose(case.build, format!("Move it to {} away", plain(MOVED_MM, "mm")), |copy| {
        let positions = &mut copy.make.as_mut()?.positions;
        let ears: Vec<PartPosition> = positions.iter().filter(|one| PartPosition::LISTENS.contains(&one.part.as_str())).cloned().collect();
        let own = positions.iter_mut().find(|one| one.part == finding.subject)?;
        let ear = ears.iter().min_by(|a, b| distance(own, a).total_cmp(&distance(own, b)))?;
        let apart = distance(own, ear);
        // Straight away from it; of what sits in the same spot, forward.
        let way: [f64; 3] = if apart > 1.0 { std::array::from_fn(|axis| (own.at_mm[axis] - ear.at_mm[axis]) / apart) } else { [1.0, 0.0, 0.0] };
        own.at_mm = std::array::from_fn(|axis| (ear.at_mm[axis] + MOVED_MM * way[axis]).round());
        Some(())
    });
    away.into_iter().collect()
}
