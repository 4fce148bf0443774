//! Switches and plugs that carry more than they are rated for.

use super::case::*;
use orthavis_model::edit::feed_mut;
use orthavis_model::practice::rating_above;
use orthavis_model::working::plain;

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const CONTACT_OVER: Check = Check {
    code: "contact.over",
    step: Step::Wires,
    unit: "A",
    why: "Overloaded contacts heat, soften their housing and weld together, so that the light can no longer be switched off.",
    formula: "I ≤ I_rated",
    rule: "A contact carries no more than its rating.",
    source: "The part's label",
    mend: "Use a plug with a higher rating, or draw less through it.",
    figures: &[],
};

pub(super) const SWITCH_OVER: Check = Check {
    code: "switch.over",
    step: Step::Wires,
    unit: "A",
    why: "Overloaded contacts heat, soften their housing and weld together, so that the light can no longer be switched off.",
    formula: "I ≤ I_rated",
    rule: "A contact carries no more than its rating.",
    source: "The part's label",
    mend: "Use a switch with a higher rating, or draw less through it.",
    figures: &[],
};

/// Ratings of switches and connectors on sale, A.
const RATINGS_A: [f64; 10] = [1.0, 2.0, 3.0, 5.0, 6.0, 10.0, 15.0, 20.0, 30.0, 60.0];

fn find(case: &Case<'_>, found: &mut Findings) {
    for feed in case.build.feeds() {
        let switch = feed.feed.switch.as_ref().map(|switch| (&SWITCH_OVER, "switch", switch.rating_a));
        let contact = feed.feed.contact_rating_a.filter(|_| feed.feed.contacts > 0).map(|rating| (&CONTACT_OVER, "plug", rating));
        for (check, part, rating) in switch.into_iter().chain(contact) {
            let Some((current, point)) = case.worst_current(&feed.id).filter(|(current, _)| above(*current, rating)) else { continue };
            let draft = Draft { check, severity: Severity::Stop, subject: &feed.id, point: Some(point), value: current, limit: rating, excess: current };
            found.add(draft, || Words {
                title: format!("{}: {part} overloaded", feed.id),
                message: format!(
                    "The {part} in feed `{}` carries {} {}; it is rated {}.",
                    feed.id,
                    plain(current, "A"),
                    moment(case.build, point),
                    plain(rating, "A")
                ),
                advice: None,
                given: vec![],
            });
        }
    }
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    if !matches!(finding.code, "switch.over" | "contact.over") {
        return Vec::new();
    }
    let rating = rating_a(finding.value);
    let part = if finding.code == "switch.over" { "switch" } else { "plug" };
    let proposal = propose(case.build, format!("Use a {} {part}", plain(rating, "A")), |copy| rate(copy, finding.code, &finding.subject, finding.value));
    proposal.into_iter().collect()
}

/// A switch or plug with a quarter to spare, A.
pub(super) fn rating_a(current_a: f64) -> f64 {
    rating_above(1.25 * current_a, &RATINGS_A)
}

/// Puts a switch or plug in that stands what it carries.
pub fn rate(build: &mut Build, code: &str, feed: &str, current_a: f64) -> Option<()> {
    let feed = feed_mut(build, feed)?;
    if code == "switch.over" {
        feed.switch.as_mut()?.rating_a = rating_a(current_a);
    } else {
        feed.contact_rating_a = Some(rating_a(current_a));
    }
    Some(())
}
