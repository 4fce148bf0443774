//! A resistor that runs too hot: a part is used at no more than 60 % of its rated power.

use super::case::*;
use orthavis_model::document::Load;
use orthavis_model::practice::RESISTOR_SHARE;
use orthavis_model::working::plain;

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const RESISTOR_HOT: Check = Check {
    code: "resistor.hot",
    step: Step::Lights,
    unit: "W",
    why: "At its full rating a resistor is too hot to touch and can char heat-shrink, tape or wood.",
    formula: "P = I²·R ≤ {0}·P_rated",
    rule: "The resistor's power is current squared times resistance; use a part at no more than {0%} of its rating.",
    source: "Joule's law; derating by common practice",
    mend: "Use a resistor with a higher power rating.",
    figures: &[RESISTOR_SHARE],
};

fn find(case: &Case<'_>, found: &mut Findings) {
    for light in &case.build.lights {
        let Load::LedArray(array) = &light.load else { continue };
        if array.resistor_ohm == 0.0 {
            continue;
        }
        for point in case.asked(light) {
            let Some(here) = point.lights.get(&light.id) else { continue };
            let (power, string_a) = (here.resistor_w.unwrap_or(0.0), here.string_a.unwrap_or(0.0));
            if within(power, RESISTOR_SHARE * array.resistor_w) {
                continue;
            }
            let severity = if above(power, array.resistor_w) { Severity::Stop } else { Severity::Fix };
            let limit = RESISTOR_SHARE * array.resistor_w;
            let draft = Draft { check: &RESISTOR_HOT, severity, subject: &light.id, point: Some(point), value: power, limit, excess: power };
            found.add(draft, || Words {
                title: format!("{}: resistor too small", light.id),
                message: format!(
                    "Each resistor of `{}` turns {} into heat {}; a {} part is used up to {}.",
                    light.id,
                    plain(power, "W"),
                    moment(case.build, point),
                    plain(array.resistor_w, "W"),
                    plain(limit, "W")
                ),
                advice: None,
                given: vec![
                    quantity("I", "string current", string_a, "A"),
                    quantity("R", "resistor", array.resistor_ohm, "ohm"),
                    quantity("P_rated", "its rating", array.resistor_w, "W"),
                ],
            });
        }
    }
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    let build = case.build;
    if finding.code != "resistor.hot" {
        return Vec::new();
    }
    let Some(rating) = orthavis_model::laws::resistor::rating_for(finding.value) else { return Vec::new() };
    let proposal = propose(build, format!("Use {} resistors", plain(rating, "W")), |copy| {
        match &mut copy.lights.iter_mut().find(|light| light.id == finding.subject)?.load {
            Load::LedArray(array) => array.resistor_w = rating,
            _ => return None,
        }
        Some(())
    });
    proposal.into_iter().collect()
}
