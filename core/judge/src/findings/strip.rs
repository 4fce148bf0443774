//! Strips and pixels along their length: fading, cuts between marks, pixels without enough voltage.

use super::case::*;
use orthavis_model::document::{Light, Load, Pixels, Strip};
use orthavis_model::practice::{FADE, RAIL_MAX_A};
use orthavis_model::working::plain;

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_by_one };

pub(super) const PIXELS_STARVED: Check = Check {
    code: "pixels.starved",
    step: Step::Lights,
    unit: "V",
    why: "Below its regulation voltage blue and green fade first: white turns pink, and data can get lost.",
    formula: "V_min ≥ V_regulation",
    rule: "Every lit channel needs its regulation voltage at every pixel.",
    source: "The pixel's datasheet; rails solved pixel by pixel",
    mend: "Feed the far end too, use thicker wire, or dim it.",
    figures: &[],
};

pub(super) const STRIP_CUT: Check = Check {
    code: "strip.cut",
    step: Step::Lights,
    unit: "m",
    why: "A strip cut between its marks leaves a piece that never lights and bare tracks that can touch.",
    formula: "L = n·l_segment",
    rule: "A strip is cut only at its marks, one segment apart.",
    source: "How the strip is made: a segment is one string with its resistor",
    mend: "Cut it at a mark.",
    figures: &[],
};

pub(super) const STRIP_FADE: Check = Check {
    code: "strip.fade",
    step: Step::Lights,
    unit: "1",
    why: "The strip's own copper is thin: far from a feed the voltage sinks, and the eye sees the fade from about {1%} on.",
    formula: "I_min / I_max ≥ {0}",
    rule: "The dimmest segment keeps {0%} of the brightest.",
    source: "Common practice for even light; rails solved segment by segment",
    mend: "Feed it at its far end too, or in the middle.",
    figures: &[FADE, 1.0 - FADE],
};

pub(super) const STRIP_RAIL_OVER: Check = Check {
    code: "strip.rail_over",
    step: Step::Lights,
    unit: "A",
    why: "The copper of a strip is a thin foil: it heats, lifts and can char the strip where it is fed, under its cover, where nobody sees it.",
    formula: "I_rail ≤ I_max",
    rule: "What one end brings in runs along the rails; feed a long strip at several places, about every five metres at the most.",
    source: "Representative of the copper foil of common strips; the strip's own figure where it is given",
    mend: "Feed it at more places, or cut it in two.",
    figures: &[],
};

fn find(case: &Case<'_>, found: &mut Findings) {
    for light in &case.build.lights {
        match &light.load {
            Load::Strip(strip) => {
                cut(light, strip, found);
                case.asked(light).for_each(|point| fade(case, light, strip, point, found));
                rails(case, light, strip.rail_max_a, found);
            }
            Load::Pixels(pixels) => {
                case.asked(light).for_each(|point| starved(case, light, pixels, point, found));
                rails(case, light, pixels.rail_max_a, found);
            }
            _ => {}
        }
    }
}

fn rails(case: &Case<'_>, light: &Light, most_a: Option<f64>, found: &mut Findings) {
    let limit = most_a.unwrap_or(RAIL_MAX_A);
    let Some((current, point)) = case.worst(|point| point.lights.get(&light.id)?.rail_a).filter(|(current, _)| above(*current, limit)) else { return };
    let draft =
        Draft { check: &STRIP_RAIL_OVER, severity: Severity::Stop, subject: &light.id, point: Some(point), value: current, limit, excess: current / limit };
    found.add(draft, || Words {
        title: format!("{}: too much through its own copper", light.id),
        message: format!("The strip's own rails carry {} {}; their copper stands {}.", plain(current, "A"), moment(case.build, point), plain(limit, "A")),
        advice: None,
        given: vec![quantity("n", "places where it is fed", light.feeds.len() as f64, "")],
    });
}

fn cut(light: &Light, strip: &Strip, found: &mut Findings) {
    let segments = strip.length_m / strip.segment_m;
    let off = (segments - segments.round()).abs();
    if off <= 1e-6 * segments.max(1.0) {
        return;
    }
    let whole = f64::from(strip.segments()) * strip.segment_m;
    let draft = Draft { check: &STRIP_CUT, severity: Severity::Fix, subject: &light.id, point: None, value: strip.length_m, limit: whole, excess: off };
    found.add(draft, || Words {
        title: format!("{}: cut between marks", light.id),
        message: format!("{:.3} m is not a whole number of {:.3} m segments; the last whole one ends at {whole:.3} m.", strip.length_m, strip.segment_m),
        advice: None,
        given: vec![quantity("l_segment", "segment", strip.segment_m, "m")],
    });
}

fn fade(case: &Case<'_>, light: &Light, strip: &Strip, point: &PointReport, found: &mut Findings) {
    let Some(here) = point.lights.get(&light.id).filter(|here| here.highest_output > 1e-9) else { return };
    let ratio = here.lowest_output / here.highest_output;
    if within(FADE, ratio) {
        return;
    }
    let draft = Draft { check: &STRIP_FADE, severity: Severity::Fix, subject: &light.id, point: Some(point), value: ratio, limit: 0.85, excess: -ratio };
    found.add(draft, || Words {
        title: format!("{} fades along its length", light.id),
        message: format!("The dimmest segment of `{}` gives {:.0} % of the brightest, {}.", light.id, 100.0 * ratio, moment(case.build, point)),
        advice: None,
        given: vec![
            quantity("L", "length", strip.length_m, "m"),
            quantity("R'", "resistance of each copper track, per metre", strip.rail_ohm_per_m, "ohm"),
            quantity("I_max", "brightest segment, relative to rated", here.highest_output, "1"),
            quantity("I_min", "dimmest segment, relative to rated", here.lowest_output, "1"),
        ],
    });
}

fn starved(case: &Case<'_>, light: &Light, pixels: &Pixels, point: &PointReport, found: &mut Findings) {
    let Some(here) = point.lights.get(&light.id) else { return };
    let lit = case.lit(point, &light.id);
    // Of a frame, what any of its pixels asks for.
    let colour = lit.each.as_ref().map_or(lit.colour, |each| each.iter().fold([0.0f64; 3], |most, one| std::array::from_fn(|c| most[c].max(one[c]))));
    let needs = (0..3).filter(|c| colour[*c] * pixels.channel_a[*c] > 0.0).map(|c| pixels.regulation_v[c]);
    let Some(need) = needs.max_by(f64::total_cmp).filter(|need| above(*need, here.lowest_v)) else { return };
    let excess = need - here.lowest_v;
    let draft = Draft { check: &PIXELS_STARVED, severity: Severity::Fix, subject: &light.id, point: Some(point), value: here.lowest_v, limit: need, excess };
    found.add(draft, || Words {
        title: format!("{}: the far pixels starve", light.id),
        message: format!(
            "The voltage along `{}` falls to {} {}; its colours hold from {} on.",
            light.id,
            plain(here.lowest_v, "V"),
            moment(case.build, point),
            plain(need, "V")
        ),
        advice: Some("So many pixels want thick wire along the strip and a feed every metre or two, or less light at once."),
        given: vec![
            quantity("n", "pixels", f64::from(pixels.count), "1"),
            quantity("R'", "resistance of each copper track, per metre", pixels.rail_ohm_per_m, "ohm"),
            quantity("V_start", "voltage where it is fed", here.voltage_v, "V"),
        ],
    });
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    let Some(light) = case.build.lights.iter().find(|light| light.id == finding.subject) else { return Vec::new() };
    match (finding.code, &light.load) {
        ("strip.cut", Load::Strip(strip)) => cut_to_marks(case.build, light, strip),
        ("strip.fade" | "strip.rail_over", Load::Strip(strip)) => more_feeds(case.build, light, strip.length_m, finding),
        ("pixels.starved", Load::Pixels(pixels)) => {
            let mut proposals = super::wire::thicker_path(case, light);
            proposals.extend(more_feeds(case.build, light, f64::from(pixels.count) * pixels.pitch_m, finding));
            proposals
        }
        ("light.dim" | "light.dark" | "strip.rail_over", Load::Pixels(pixels)) => {
            more_feeds(case.build, light, f64::from(pixels.count) * pixels.pitch_m, finding)
        }
        _ => Vec::new(),
    }
}

fn cut_to_marks(build: &Build, light: &Light, strip: &Strip) -> Vec<Proposal> {
    let whole = f64::from(strip.segments());
    let cut = |segments: f64| {
        let length_m = (segments * strip.segment_m * 1e9).round() / 1e9;
        propose(build, format!("Cut it to {length_m:.3} m"), |copy| {
            let light = copy.lights.iter_mut().find(|l| l.id == light.id)?;
            let Load::Strip(strip) = &mut light.load else { return None };
            strip.length_m = (segments >= 1.0).then_some(length_m)?;
            for feed in &mut light.feeds {
                feed.at_m = feed.at_m.min(length_m);
            }
            Some(())
        })
    };
    [cut(whole), cut(whole + 1.0)].into_iter().flatten().collect()
}

/// Feeds at the far end, then also in the middle, then less light.
fn more_feeds(build: &Build, light: &Light, length_m: f64, finding: &Finding) -> Vec<Proposal> {
    let add = |title: &str, places: &[f64]| {
        propose(build, title, |copy| {
            let light = copy.lights.iter_mut().find(|l| l.id == light.id)?;
            let first = light.feeds.first()?.clone();
            for place in places {
                let at_m = (place * length_m * 1e6).round() / 1e6;
                if light.feeds.iter().all(|feed| (feed.at_m - at_m).abs() > 0.05 * length_m) {
                    let run = first.length_m + (at_m - first.at_m).abs();
                    light.feeds.push(orthavis_model::document::Feed { at_m, length_m: run, ..first.clone() });
                }
            }
            Some(())
        })
    };
    let mut proposals: Vec<Proposal> = [
        add("Feed it from both ends", &[0.0, 1.0]),
        add("Feed it at both ends and in the middle", &[0.0, 0.5, 1.0]),
        add("Feed it at five places", &[0.0, 0.25, 0.5, 0.75, 1.0]),
    ]
    .into_iter()
    .flatten()
    .collect();
    for share in [0.7, 0.5, 0.3, 0.15] {
        proposals.extend(propose(build, format!("Run it at {:.0} % of this brightness", 100.0 * share), |copy| {
            for scene in &mut copy.scenes {
                if let Some(lit) = scene.lights.get_mut(&finding.subject) {
                    lit.level = (lit.level * share * 1000.0).round() / 1000.0;
                }
            }
            Some(())
        }));
    }
    proposals
}
