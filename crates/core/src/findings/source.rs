//! The source: more current than it gives, and taps that harm it.

use super::*;
use crate::document::{Source, Tap};
use crate::working::plain;

pub(super) const RULE: Rule = Rule { find, mend };

fn find(case: &Case<'_>, found: &mut Findings) {
    let tap_limit = match &case.build.source {
        Source::Battery(battery) => battery.tap_limit_a,
        Source::Rail(_) => None,
    };
    let limits = [("source.over", Some(case.build.source.max_current_a())), ("tap.over", tap_limit)];
    for point in case.points {
        for (code, limit) in limits {
            let Some(limit) = limit.filter(|limit| point.source.current_a > *limit) else { continue };
            over(case, code, limit, point, found);
        }
    }
    if let Source::Battery(battery) = &case.build.source
        && matches!(battery.tap, Tap::BalanceLead | Tap::OneOfSeries)
    {
        unbalanced(battery.tap, found);
    }
}

fn over(case: &Case<'_>, code: &'static str, limit: f64, point: &PointReport, found: &mut Findings) {
    let current = point.source.current_a;
    let draft = Draft { code, severity: Severity::Stop, subject: "source", point: Some(point), value: current, limit, unit: "A", excess: current };
    let tap = code == "tap.over";
    found.add(draft, || Words {
        title: if tap { "More than the tap may give".into() } else { "More than the source may give".into() },
        message: format!(
            "{} are drawn {}; {} allows {}.",
            plain(current, "A"),
            moment(case.build, point),
            if tap { "this tap" } else { "the source" },
            plain(limit, "A")
        ),
        why: if tap {
            "The wiring or the electronics behind the tap are not made for it; on a vehicle they may be the ones that steer or brake."
        } else {
            "An over-drawn battery heats inside; lithium cells can catch fire. A regulator shuts down or overheats."
        },
        advice: Some(
            "If the lights must be this bright, they need a source that is made for it: ask who services the vehicle, or give them a pack of their own.",
        ),
        formula: "I_source ≤ I_max",
        rule: "All that is drawn together, other loads included, stays within the limit.",
        source: "The maker's figure for the source or the tap",
        given: vec![quantity("V", "terminal voltage there", point.source.terminal_v, "V")],
    });
}

fn unbalanced(tap: Tap, found: &mut Findings) {
    let draft = Draft { code: "tap.unbalanced", severity: Severity::Stop, subject: "source", point: None, value: 1.0, limit: 0.0, unit: "1", excess: 1.0 };
    let (what, why) = match tap {
        Tap::BalanceLead => (
            "The lights hang on the balance connector.",
            "Its wires are thin and unfused, and drawing from some cells only drives the pack out of balance, which can overcharge the others.",
        ),
        _ => (
            "The lights hang on one battery of a series pair.",
            "That battery empties before its neighbour and is then overcharged or reversed by it: both wear out, and lead batteries gas.",
        ),
    };
    found.add(draft, || Words {
        title: "Wrong place to tap".into(),
        message: what.into(),
        why,
        advice: Some("Tap the whole pack at its main leads, or an accessory output that is meant for it."),
        formula: "tap = whole pack",
        rule: "Draw from all cells alike.",
        source: "Common practice for series packs",
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
        "tap.unbalanced" => tap(Tap::Main, "Tap the main leads").into_iter().collect(),
        "source.over" | "tap.over" => {
            let mut proposals: Vec<Proposal> = Vec::new();
            if finding.code == "tap.over" {
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

/// Every scene at a share of its brightness.
pub(super) fn dim_all(build: &Build, share: f64) -> Option<Proposal> {
    propose(build, format!("Run the lights at {:.0} % of this brightness", 100.0 * share), |copy| {
        for lit in copy.scenes.iter_mut().flat_map(|scene| scene.lights.values_mut()) {
            lit.level = (lit.level * share * 1000.0).round() / 1000.0;
        }
        Some(())
    })
}
