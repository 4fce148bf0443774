//! What a place asks of a wire: slack where something moves, a plug where something comes off.

use super::case::*;
use orthavis_model::document::Trait;

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const PLACE_PLUG: Check = Check {
    code: "place.plug",
    step: Step::Places,
    unit: "1",
    why: "Without a plug someone will pull, or cut.",
    formula: "n_plugs ≥ 1",
    rule: "A plug where two parts come apart.",
    source: "Common practice",
    mend: "Plan a plug where the part comes off.",
    figures: &[],
};

pub(super) const PLACE_SLACK: Check = Check {
    code: "place.slack",
    step: Step::Places,
    unit: "m",
    why: "A wire without slack is pulled or pinched at every turn, and one day it shorts.",
    formula: "L_slack ≥ {0} cm",
    rule: "A hand's width of slack at every part that folds, steers or lifts; move it through its whole range before you tie it.",
    source: "Common practice",
    mend: "Leave a loop of slack beside the joint.",
    figures: &[100.0 * SLACK_M],
};

/// Slack that a moving place usually wants, m.
const SLACK_M: f64 = 0.12;

fn find(case: &Case<'_>, found: &mut Findings) {
    for light in &case.build.lights {
        let traits = case.build.traits_of(&light.place);
        let Some(feed) = light.feeds.first() else { continue };
        let slack = feed.slack_m.unwrap_or(0.0);
        if traits.contains(&Trait::Moving) && slack < 0.05 {
            let draft =
                Draft { check: &PLACE_SLACK, severity: Severity::Note, subject: &light.id, point: None, value: slack, limit: SLACK_M, excess: SLACK_M - slack };
            found.add(draft, || Words {
                title: format!("{}: no slack where it moves", light.id),
                message: if slack > 0.0 {
                    format!("`{}` sits at {}, which moves; its wire has only {:.0} cm of slack.", light.id, light.place, 100.0 * slack)
                } else {
                    format!("`{}` sits at {}, which moves; its wire has no slack.", light.id, light.place)
                },
                advice: None,
                given: vec![],
            });
        }
        if traits.contains(&Trait::Removable) && feed.contacts == 0 {
            let draft = Draft { check: &PLACE_PLUG, severity: Severity::Note, subject: &light.id, point: None, value: 0.0, limit: 1.0, excess: 1.0 };
            found.add(draft, || Words {
                title: format!("{}: no plug where it comes off", light.id),
                message: format!("`{}` sits at {}, which must come off again; its wire has no plug.", light.id, light.place),
                advice: None,
                given: vec![],
            });
        }
    }
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    let edit = |title: &str, change: fn(&mut orthavis_model::document::Feed)| {
        propose(case.build, title, |copy| {
            change(copy.lights.iter_mut().find(|light| light.id == finding.subject)?.feeds.first_mut()?);
            Some(())
        })
    };
    let proposal = match finding.code {
        "place.slack" => edit("Add 12 cm of slack", |feed| {
            let more = SLACK_M - feed.slack_m.unwrap_or(0.0);
            feed.slack_m = Some(SLACK_M);
            feed.length_m = ((feed.length_m + more) * 1e4).round() / 1e4;
        }),
        "place.plug" => edit("Put a plug in its wire", |feed| (feed.contacts, feed.keyed) = (1, Some(true))),
        _ => None,
    };
    proposal.into_iter().collect()
}
