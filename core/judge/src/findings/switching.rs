//! Switches and plugs that carry or break more than they are made for.

use super::case::*;
use orthavis_model::document::FeedRef;
use orthavis_model::edit::feed_mut;
use orthavis_model::practice::{SMALL_CONTACT_V, rating_above};
use orthavis_model::topology::Wire;
use orthavis_model::working::plain;
use orthavis_physics::protection::{inrush_a, seat};

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

pub(super) const SWITCH_INRUSH: Check = Check {
    code: "switch.inrush",
    step: Step::Wires,
    unit: "A",
    why: "Contacts that close on a rush of current burn a little each time, until they stick.",
    formula: "I_inrush ≤ {0}·I_rated",
    rule: "At switch-on no more than {0} times the rating flows through a switch for an instant.",
    source: "Usual making capacity of small switches",
    mend: "A switch with a higher rating, or a part that limits its own rush.",
    figures: &[RUSH],
};

pub(super) const SWITCH_VOLTAGE: Check = Check {
    code: "switch.voltage",
    step: Step::Wires,
    unit: "V",
    why: "Direct current has no zero at which an arc goes out: above its voltage a contact that opens goes on burning.",
    formula: "V_max ≤ V_rated",
    rule: "A switch or a plug is made for the highest direct voltage that it may have to break; small ones, where nothing is said, for {0} V.",
    source: "The part's label; representative of small contacts for direct current",
    mend: "Use a switch or plug for the battery's highest direct voltage; one marked for alternating current only does not count.",
    figures: &[SMALL_CONTACT_V],
};

/// What a contact that closes stands for an instant, of its rating.
const RUSH: f64 = 5.0;
/// So far above its voltage the arc of a contact does not go out.
const ARC_STAYS: f64 = 1.5;
/// Direct voltages of switches and plugs on sale, V.
const RATINGS_V: [f64; 5] = [30.0, 48.0, 60.0, 100.0, 250.0];

/// Ratings of switches and connectors on sale, A.
const RATINGS_A: [f64; 10] = [1.0, 2.0, 3.0, 5.0, 6.0, 10.0, 15.0, 20.0, 30.0, 60.0];

fn find(case: &Case<'_>, found: &mut Findings) {
    for wire in case.graph.wires() {
        let feed = case.graph.feed(wire);
        voltage(case, feed, found);
        rush(case, wire, found);
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

/// A contact at more than the direct voltage that it breaks.
fn voltage(case: &Case<'_>, feed: &FeedRef<'_>, found: &mut Findings) {
    let most_v = seat(&case.graph, feed.feed).highest_v;
    let switch = feed.feed.switch.as_ref().map(|switch| ("switch", switch.rating_v));
    let plug = (feed.feed.contacts > 0).then_some(("plug", feed.feed.contact_rating_v));
    for (part, rating) in switch.into_iter().chain(plug) {
        let limit = rating.unwrap_or(SMALL_CONTACT_V);
        if within(most_v, limit) {
            continue;
        }
        // A plug that nobody read is seldom drawn while current flows: nothing worse is said of it.
        let known = rating.is_some() || part == "switch";
        let severity = if known && above(most_v, ARC_STAYS * limit) { Severity::Stop } else { Severity::Fix };
        let draft = Draft { check: &SWITCH_VOLTAGE, severity, subject: &feed.id, point: None, value: most_v, limit, excess: most_v / limit };
        found.add(draft, || Words {
            title: format!("{}: this {part} is not made for {}", feed.id, plain(most_v, "V")),
            message: format!(
                "The {part} in the wire to `{}` may have to break {}; {} {}.{}",
                feed.id,
                plain(most_v, "V"),
                if rating.is_some() { "it is made for" } else { "small ones are made for" },
                plain(limit, "V"),
                if severity == Severity::Stop { " Its arc may not go out." } else { "" }
            ),
            advice: Some("What its label says counts: with a rating for more volts of direct current, enter that."),
            given: vec![],
        });
    }
}

/// What rushes through a switch as it closes.
fn rush(case: &Case<'_>, wire: Wire, found: &mut Findings) {
    let feed = case.graph.feed(wire);
    let Some(switch) = &feed.feed.switch else { return };
    let limit = RUSH * switch.rating_a;
    let Some((amps, point)) = case.worst(|point| inrush_a(&case.graph, wire, point, |light| light.is_asked(&case.lit(point, &light.id)))) else { return };
    if within(amps, limit) {
        return;
    }
    let draft = Draft { check: &SWITCH_INRUSH, severity: Severity::Note, subject: &feed.id, point: Some(point), value: amps, limit, excess: amps };
    found.add(draft, || Words {
        title: format!("{}: a rush of current at switch-on", feed.id),
        message: format!(
            "As the switch in the wire to `{}` closes, {} rush through it; it is rated {}.",
            feed.id,
            plain(amps, "A"),
            plain(switch.rating_a, "A")
        ),
        advice: None,
        given: vec![quantity("I_rated", "its rating", switch.rating_a, "A")],
    });
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    let title = match finding.code {
        "switch.over" => format!("Use a {} switch", plain(rating_a(finding.value), "A")),
        "contact.over" => format!("Use a {} plug", plain(rating_a(finding.value), "A")),
        "switch.inrush" => format!("Use a {} switch", plain(rating_above(finding.value / RUSH, &RATINGS_A), "A")),
        "switch.voltage" => format!("Use one for {} of direct current", plain(rating_above(finding.value, &RATINGS_V), "V")),
        _ => return Vec::new(),
    };
    propose(case.build, title, |copy| rate(copy, finding.code, &finding.subject, finding.value)).into_iter().collect()
}

/// A switch or plug with a quarter to spare, A.
pub(super) fn rating_a(current_a: f64) -> f64 {
    rating_above(1.25 * current_a, &RATINGS_A)
}

/// Puts switches and plugs in that stand what a finding of this code found, A or V.
pub fn rate(build: &mut Build, code: &str, feed: &str, found: f64) -> Option<()> {
    let feed = feed_mut(build, feed)?;
    match code {
        "switch.over" => feed.switch.as_mut()?.rating_a = rating_a(found),
        "contact.over" => feed.contact_rating_a = Some(rating_a(found)),
        "switch.inrush" => feed.switch.as_mut()?.rating_a = rating_above(found / RUSH, &RATINGS_A),
        "switch.voltage" => {
            let stands = Some(rating_above(found, &RATINGS_V));
            let short = |volts: Option<f64>| above(found, volts.unwrap_or(SMALL_CONTACT_V));
            if let Some(switch) = feed.switch.as_mut().filter(|switch| short(switch.rating_v)) {
                switch.rating_v = stands;
            }
            if feed.contacts > 0 && short(feed.contact_rating_v) {
                feed.contact_rating_v = stands;
            }
        }
        _ => return None,
    }
    Some(())
}
