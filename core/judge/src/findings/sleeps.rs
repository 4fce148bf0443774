//! A supply that switches itself off when little is drawn.

use super::case::*;
use orthavis_model::document::Source;
use orthavis_model::working::plain;

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const RAIL_SLEEPS: Check = Check {
    code: "rail.sleeps",
    step: Step::Battery,
    unit: "A",
    why: "A power bank takes a small load for none and switches off after half a minute: the lights go out on the road.",
    formula: "I ≥ I_awake",
    rule: "Every scene that lasts draws at least what keeps the supply awake.",
    source: "The maker's figure; some 60 mA for power banks",
    mend: "A scene that draws more, or a bank with an outlet that stays on.",
    figures: &[],
};

fn find(case: &Case<'_>, found: &mut Findings) {
    let Source::Rail(rail) = &case.build.source else { return };
    let Some(limit) = rail.min_load_a else { return };
    for scene in &case.build.scenes {
        if !case.build.lights.iter().any(|light| light.is_asked(&scene.lit(&light.id))) {
            continue;
        }
        // A bank waits for longer than one round of a show: what it draws at the most counts.
        let drawn = case.points().filter(|point| point.scene == scene.id).map(|point| (point.source.current_a.abs(), point));
        let Some((amps, point)) = drawn.max_by(|a, b| a.0.total_cmp(&b.0)).filter(|(amps, _)| above(limit, *amps)) else { continue };
        let draft = Draft { check: &RAIL_SLEEPS, severity: Severity::Fix, subject: "source", point: Some(point), value: amps, limit, excess: limit - amps };
        found.add(draft, || Words {
            title: "The supply goes to sleep".into(),
            message: format!(
                "Scene \u{201c}{}\u{201d} draws {}; below {} this supply takes itself for unused and switches off.",
                scene.name,
                plain(amps, "A"),
                plain(limit, "A")
            ),
            advice: None,
            given: vec![],
        });
    }
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    if finding.code != "rail.sleeps" {
        return Vec::new();
    }
    let outlet = propose(case.build, "Use an outlet that stays on", |copy| {
        let Source::Rail(rail) = &mut copy.source else { return None };
        rail.min_load_a = None;
        Some(())
    });
    let full = propose(case.build, "Have every light of its scenes full on", |copy| {
        let lit = copy.scenes.iter_mut().flat_map(|scene| scene.lights.values_mut());
        lit.filter(|lit| lit.level > 0.0).for_each(|lit| lit.level = 1.0);
        Some(())
    });
    full.into_iter().chain(outlet).collect()
}
