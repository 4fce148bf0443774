//! Less than full light asked of what nothing dims, and dimmers that carry too much.

use super::case::*;
use orthavis_model::dimming::{RATINGS_A, SPARE, is_dimmed, put_before};
use orthavis_model::document::FeedRef;
use orthavis_model::edit::{feed_mut, is_driven};
use orthavis_model::practice::rating_above;
use orthavis_model::topology::Node;
use orthavis_model::working::plain;

pub(super) const FAMILY: Family = Family { find, mend, mend_all };

pub(super) const DIMMER_MISSING: Check = Check {
    code: "dimmer.missing",
    step: Step::Wires,
    unit: "1",
    why: "A plain switch knows on and off: built as planned, the light is full on, and the battery is empty sooner than the plan says.",
    formula: "level = 0 or 1, or a dimmer",
    rule: "A light that is to shine at less than full is pixels, hangs on a controller's pin, or has a dimmer in its wire.",
    source: "What a scene asks against what the plan holds",
    mend: "Put a dimmer in its wire, or let the scene have it full on.",
    figures: &[],
};

pub(super) const DIMMER_OVER: Check = Check {
    code: "dimmer.over",
    step: Step::Wires,
    unit: "A",
    why: "The transistor in an overloaded dimmer gets hot and fails closed: the light can no longer be dimmed, and what holds the dimmer chars.",
    formula: "I_peak ≤ I_rated",
    rule: "A dimmer carries no more than its rating while its pulse is on.",
    source: "The part's label",
    mend: "Use a dimmer with a higher rating, or draw less through it.",
    figures: &[],
};

fn find(case: &Case<'_>, found: &mut Findings) {
    for wire in case.graph.wires() {
        over(case, case.graph.feed(wire), found);
    }
    for light in &case.build.lights {
        let levels = case.build.scenes.iter().filter_map(|scene| Some((scene, scene.lights.get(&light.id)?.level)));
        let dimmed = levels.filter(|(_, level)| *level > 0.0 && *level < 1.0).min_by(|a, b| a.1.total_cmp(&b.1));
        let Some((scene, level)) = dimmed.filter(|_| !is_dimmed(&case.graph, light)) else { continue };
        let draft = Draft { check: &DIMMER_MISSING, severity: Severity::Fix, subject: &light.id, point: None, value: level, limit: 1.0, excess: -level };
        found.add(draft, || Words {
            title: format!("{}: nothing dims it", light.id),
            message: format!(
                "Scene \u{201c}{}\u{201d} asks `{}` for {:.0} % of its light; no controller's pin and no dimmer is there to do it.",
                scene.name,
                light.id,
                100.0 * level
            ),
            advice: None,
            given: vec![],
        });
    }
}

/// A dimmer that carries more than it is made for.
fn over(case: &Case<'_>, feed: &FeedRef<'_>, found: &mut Findings) {
    let Some(dimmer) = &feed.feed.dimmer else { return };
    let limit = dimmer.rating_a;
    let Some((current, point)) = case.worst_current(&feed.id).filter(|(current, _)| above(*current, limit)) else { return };
    let draft = Draft { check: &DIMMER_OVER, severity: Severity::Stop, subject: &feed.id, point: Some(point), value: current, limit, excess: current };
    found.add(draft, || Words {
        title: format!("{}: dimmer overloaded", feed.id),
        message: format!("The dimmer in feed `{}` carries {} {}; it is rated {}.", feed.id, plain(current, "A"), moment(case.build, point), plain(limit, "A")),
        advice: None,
        given: vec![],
    });
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    if finding.code == "dimmer.over" {
        let rating = rating_above(SPARE * finding.value, &RATINGS_A);
        let stronger = propose(case.build, format!("Use a {} dimmer", plain(rating, "A")), |copy| {
            feed_mut(copy, &finding.subject)?.dimmer.as_mut()?.rating_a = rating;
            Some(())
        });
        return stronger.into_iter().collect();
    }
    mend_all(case, &[finding])
}

fn mend_all(case: &Case<'_>, findings: &[&Finding]) -> Vec<Proposal> {
    if findings.first().is_none_or(|first| first.code != "dimmer.missing") {
        return Vec::new();
    }
    let ids: Vec<&str> = findings.iter().map(|finding| finding.subject.as_str()).collect();
    let driven = |id: &&str| case.graph.node(id).is_some_and(|node| matches!(node, Node::Light(at) if is_driven(case.build, &case.build.lights[at])));
    let title = if ids.len() > 1 { "Put a dimmer in the wire of each" } else { "Put a dimmer in its wire" };
    let dimmers = if ids.iter().any(driven) { None } else { propose(case.build, title, |copy| ids.iter().try_for_each(|id| put_before(copy, id))) };
    let full = propose(case.build, if ids.len() > 1 { "Have them full on in every scene" } else { "Have it full on in every scene" }, |copy| {
        for lit in
            copy.scenes.iter_mut().flat_map(|scene| &mut scene.lights).filter(|(id, lit)| ids.contains(&id.as_str()) && lit.level > 0.0).map(|(_, lit)| lit)
        {
            lit.level = 1.0;
        }
        Some(())
    });
    dimmers.into_iter().chain(full).collect()
}
