//! The metal frame as a return path: only when measured, and never on a wheelchair.

use super::case::*;
use orthavis_model::document::{Return, VehicleKind};
use orthavis_model::edit::feed_mut;

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const FRAME_MEDICAL: Check = Check {
    code: "frame.medical",
    step: Step::Wires,
    unit: "1",
    why: "A wheelchair is a medical device: its frame is kept free of current so that a fault cannot reach the rider or confuse its controls.",
    formula: "return = wire",
    rule: "Two wires everywhere on a wheelchair.",
    source: "Common practice for mobility aids",
    mend: "Run a wire back to the supply's minus.",
    figures: &[],
};

pub(super) const FRAME_NOT_A_CONDUCTOR: Check = Check {
    code: "frame.not_a_conductor",
    step: Step::Wires,
    unit: "1",
    why: "Paint, bearings and carbon do not conduct; current then finds another way, through a bearing or a brake cable.",
    formula: "R_frame measured",
    rule: "A frame carries return current only where a meter says so.",
    source: "Common practice",
    mend: "Run a wire back, or measure the frame between the two places and enter its resistance.",
    figures: &[],
};

fn find(case: &Case<'_>, found: &mut Findings) {
    let wheelchair = case.build.vehicle.kind == VehicleKind::Wheelchair;
    let unmeasured = case.build.vehicle.frame_return_ohm.is_none();
    for feed in case.build.feeds().iter().filter(|feed| feed.feed.return_path == Return::Frame) {
        let draft = |check| Draft { check, severity: Severity::Stop, subject: &feed.id, point: None, value: 1.0, limit: 0.0, excess: 1.0 };
        if unmeasured {
            found.add(draft(&FRAME_NOT_A_CONDUCTOR), || Words {
                title: format!("{}: the frame is not known to conduct", feed.id),
                message: format!("`{}` returns through the frame, but no resistance was measured; it was solved as a wire.", feed.id),
                advice: Some("Measure the frame between the two places with the meter's ohm range, bare metal to bare metal, and enter the figure."),
                given: vec![],
            });
        }
        if wheelchair {
            found.add(draft(&FRAME_MEDICAL), || Words {
                title: format!("{}: no current through a wheelchair's frame", feed.id),
                message: format!("`{}` uses the frame as its return.", feed.id),
                advice: Some("Ask its service technician before tapping it at all."),
                given: vec![],
            });
        }
    }
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    if !finding.code.starts_with("frame.") {
        return Vec::new();
    }
    let proposal = propose(case.build, "Return through a second wire", |copy| {
        feed_mut(copy, &finding.subject)?.return_path = Return::Wire;
        Some(())
    });
    proposal.into_iter().collect()
}
