//! How a part is fixed, where the person decided: what does not hold there, or holds too well.

use super::case::*;
use orthavis_model::document::Fixing;
use orthavis_model::fixing::{Against, Site, objections, ranked, workshop_c};

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const FIXING_DRILLED: Check = Check {
    code: "fixing.drilled",
    step: Step::Places,
    unit: "1",
    why: "Somebody has to answer for the hole, and on a medical device nobody may.",
    formula: "n_against = 0",
    rule: "Nothing is drilled where the place or the maker forbids it.",
    source: "Warranty and care rules of vehicles; common practice",
    mend: "Go around it: ties or lined clamps.",
    figures: &[],
};

pub(super) const FIXING_FOGS: Check = Check {
    code: "fixing.fogs",
    step: Step::Places,
    unit: "1",
    why: "The vapour settles as a white bloom that no polish takes off, and it makes clear plastic crack.",
    formula: "n_against = 0",
    rule: "No cyanoacrylate near clear plastic.",
    source: "Common practice",
    mend: "Use a little silicone, clear tape or a clip.",
    figures: &[],
};

pub(super) const FIXING_FOR_GOOD: Check = Check {
    code: "fixing.for_good",
    step: Step::Places,
    unit: "1",
    why: "The next repair starts with breaking something.",
    formula: "n_against = 0",
    rule: "What must come off again is held by something that lets go.",
    source: "Common practice",
    mend: "Use clips, screws, ties or clamps.",
    figures: &[],
};

pub(super) const FIXING_LETS_GO: Check = Check {
    code: "fixing.lets_go",
    step: Step::Places,
    unit: "1",
    why: "A light that hangs by its wire shorts sooner or later.",
    formula: "n_against = 0",
    rule: "Hot glue only where it is neither hot nor cold and flexing.",
    source: "Softening of ethylene-vinyl acetate near 60 °C; common practice",
    mend: "Tie it, clamp it, or use epoxy.",
    figures: &[],
};

pub(super) const FIXING_NEAR_CELLS: Check = Check {
    code: "fixing.near_cells",
    step: Step::Places,
    unit: "1",
    why: "A cell that is pierced burns, and water does not put it out.",
    formula: "n_against = 0",
    rule: "No screw towards cells.",
    source: "Common practice with lithium cells",
    mend: "Glue or clip it there.",
    figures: &[],
};

pub(super) const FIXING_TAPE_WET: Check = Check {
    code: "fixing.tape_wet",
    step: Step::Places,
    unit: "1",
    why: "Water creeps under the glue, and the light comes off on the road.",
    formula: "n_against = 0",
    rule: "Tape is not the only hold where it gets wet.",
    source: "Common practice",
    mend: "Add ties or a clamp, or use silicone.",
    figures: &[],
};

fn find(case: &Case<'_>, found: &mut Findings) {
    for fixed in case.build.make.iter().flat_map(|make| &make.fixings) {
        let Some(fixing) = fixed.fixing else { continue };
        for objection in objections(fixing, &Site::of(case.build, &fixed.part)) {
            let (check, severity) = match objection.against {
                Against::NearCells => (&FIXING_NEAR_CELLS, Severity::Stop),
                Against::Fogs => (&FIXING_FOGS, Severity::Fix),
                Against::LetsGo => (&FIXING_LETS_GO, Severity::Fix),
                Against::TapeWet => (&FIXING_TAPE_WET, Severity::Fix),
                Against::Drilled => (&FIXING_DRILLED, Severity::Fix),
                Against::ForGood => (&FIXING_FOR_GOOD, Severity::Fix),
            };
            let draft = Draft { check, severity, subject: &fixed.part, point: None, value: 1.0, limit: 0.0, excess: 1.0 };
            found.add(draft, || Words {
                title: format!("{}: {}", fixed.part, objection.words),
                message: format!("`{}` is to be fixed with {}: {}.", fixed.part, fixing.called(), objection.words),
                advice: None,
                given: vec![],
            });
        }
    }
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    let better: Vec<Fixing> = ranked(&Site::of(case.build, &finding.subject), workshop_c(case.build))
        .into_iter()
        .filter(|one| !one.ruled_out)
        .take(2)
        .map(|one| one.fixing)
        .collect();
    let with = |fixing: Fixing| {
        propose(case.build, format!("Use {}", fixing.called()), |copy| {
            copy.make.as_mut()?.fixings.iter_mut().find(|fixed| fixed.part == finding.subject)?.fixing = Some(fixing);
            Some(())
        })
    };
    better.into_iter().filter_map(with).collect()
}
