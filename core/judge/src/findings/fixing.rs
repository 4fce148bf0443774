//! How a part is fixed, where the person decided: what does not hold there, or holds too well.

use super::case::*;
use orthavis_model::document::Fixing;
use orthavis_model::fixing::{Site, objections, ranked, workshop_c};

pub(super) const RULE: Rule = Rule { find, mend, mend_all: one_by_one };

fn find(case: &Case<'_>, found: &mut Findings) {
    for fixed in case.build.make.iter().flat_map(|make| &make.fixings) {
        let Some(fixing) = fixed.fixing else { continue };
        for objection in objections(fixing, &Site::of(case.build, &fixed.part)) {
            let severity = if objection.code == "fixing.near_cells" { Severity::Stop } else { Severity::Fix };
            let draft = Draft { code: objection.code, severity, subject: &fixed.part, point: None, value: 1.0, limit: 0.0, excess: 1.0 };
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
