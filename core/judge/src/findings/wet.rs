//! Water where it meets current.

use super::case::*;
use orthavis_model::document::Consumer;
use orthavis_model::edit::feed_mut;
use orthavis_model::working::plain;

pub(super) const FAMILY: Family = Family { find, mend, mend_all };

pub(super) const LIGHT_WET: Check = Check {
    code: "light.wet",
    step: Step::Places,
    unit: "V",
    why: "Water between plus and minus eats the copper away, lets current creep where none should be, and from some volts on can start a fire without opening a fuse.",
    formula: "sealed = 1, or V ≤ {0} V above the splash line",
    rule: "What gets wet is sealed. Up to {0} V it fails in time; above that, or where wheels throw water up, it fails soon.",
    source: "Common practice outdoors; electrolysis grows with voltage",
    mend: "A sealed part, a sleeve with both ends closed, or potting; a drain hole where water could stand.",
    figures: &[MILD_V],
};

/// Up to here water does its work slowly, V.
const MILD_V: f64 = 12.0;
/// Below this height wheels throw water up, m.
const SPLASH_M: f64 = 0.5;

/// One thing that is not sealed where it gets wet.
struct Bare<'a> {
    subject: &'a str,
    what: &'static str,
    place: &'a str,
    volts: f64,
}

fn find(case: &Case<'_>, found: &mut Findings) {
    // Only where somebody said that it gets wet: elsewhere nothing is known.
    let build = case.build;
    let wet = |place: &str| build.noted_wet(place);
    let feeds = build.feeds();
    let highest = |figure: &dyn Fn(&PointReport) -> Option<f64>| case.worst(figure).map_or(0.0, |(volts, _)| volts);
    let lights = build.lights.iter().filter(|light| wet(&light.place) && !light.is_sealed()).map(|light| Bare {
        subject: &light.id,
        what: light.load.kind().called(),
        place: &light.place,
        volts: highest(&|point| point.lights.get(&light.id).map(|here| here.highest_v.max(here.voltage_v))),
    });
    let converters = build.converters.iter().filter(|one| !one.sealed.unwrap_or(false)).filter_map(|one| {
        let place = one.place.as_deref().filter(|place| wet(place))?;
        let volts = highest(&|point| point.converters.get(&one.id).map(|here| here.in_v.max(here.out_v)));
        Some(Bare { subject: &one.id, what: one.kind().called(), place, volts })
    });
    let controllers = build.controllers.iter().filter(|one| !one.sealed.unwrap_or(false)).filter_map(|one| {
        let place = one.place.as_deref().filter(|place| wet(place))?;
        Some(Bare { subject: &one.id, what: one.kind.called(), place, volts: highest(&|point| point.controllers_v.get(&one.id).copied()) })
    });
    let plugs = feeds.iter().filter(|feed| feed.feed.contacts > 0 && feed.feed.plugs_sealed == Some(false)).filter_map(|feed| {
        let Consumer::Light(at) = feed.consumer else { return None };
        let light = &build.lights[at];
        let volts = highest(&|point| point.lights.get(&light.id).map(|here| here.highest_v.max(here.voltage_v)));
        wet(&light.place).then_some(Bare { subject: &feed.id, what: "plug", place: &light.place, volts })
    });
    let all: Vec<Bare<'_>> = lights.chain(converters).chain(controllers).chain(plugs).collect();
    for bare in all {
        one(case, &bare, found);
    }
}

fn one(case: &Case<'_>, bare: &Bare<'_>, found: &mut Findings) {
    let low = case.build.height_m(bare.place).is_some_and(|height| height < SPLASH_M);
    let severity = if above(bare.volts, MILD_V) || low { Severity::Fix } else { Severity::Note };
    let draft = Draft { check: &LIGHT_WET, severity, subject: bare.subject, point: None, value: bare.volts, limit: MILD_V, excess: bare.volts };
    found.add(draft, || Words {
        title: format!("{}: not sealed where it gets wet", bare.subject),
        message: format!(
            "`{}` ({}) sits at {}, which gets wet{}, and nothing keeps the water out; it carries up to {}.",
            bare.subject,
            bare.what,
            bare.place,
            if low { " from below" } else { "" },
            plain(bare.volts, "V")
        ),
        advice: Some("Lead its wire in from below, so that drops run off, and leave a drain hole at the lowest point."),
        given: vec![],
    });
}

/// Makes what a finding is about sealed.
fn seal(build: &mut orthavis_model::document::Build, id: &str) -> Option<()> {
    if let Some(feed) = feed_mut(build, id).filter(|feed| feed.plugs_sealed == Some(false)) {
        feed.plugs_sealed = Some(true);
    }
    if let Some(light) = build.lights.iter_mut().find(|light| light.id == id) {
        light.sealed = Some(true);
    } else if let Some(converter) = build.converters.iter_mut().find(|one| one.id == id) {
        converter.sealed = Some(true);
    } else if let Some(controller) = build.controllers.iter_mut().find(|one| one.id == id) {
        controller.sealed = Some(true);
    }
    Some(())
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    mend_all(case, &[finding])
}

fn mend_all(case: &Case<'_>, findings: &[&Finding]) -> Vec<Proposal> {
    if findings.first().is_none_or(|first| first.code != "light.wet") {
        return Vec::new();
    }
    let title =
        if findings.len() > 1 { "Seal each of them: sealed parts, a closed sleeve, or potting" } else { "Seal it: a sealed part, a closed sleeve, or potting" };
    propose(case.build, title, |copy| findings.iter().try_for_each(|finding| seal(copy, &finding.subject))).into_iter().collect()
}
