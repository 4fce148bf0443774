//! How much of a strip fits a measured length, and where to feed it so that the eye sees no fade.
//!
//! Each way of feeding is solved segment by segment on a stiff supply at the strip's rated voltage.

use super::*;
use orthavis_model::document::{Load, Strip, parse_value};
use orthavis_model::working::{Rule, fact, quantity};
use orthavis_physics::network::{Network, Point};
use serde_json::json;

/// What is asked.
#[derive(Clone, Debug)]
pub struct Ask {
    /// The strip; its own length does not matter.
    pub strip: Strip,
    /// What the string along the frame measured, m.
    pub measured_m: f64,
}

/// The dimmest segment keeps this share of the brightest.
pub const EVEN: f64 = 0.85;

const FADE: Rule = Rule {
    words: "The dimmest segment against the brightest, all lit, fed with the strip's rated voltage at these places.",
    formula: "I_min / I_max",
    source: "Rails solved segment by segment; the eye sees a fade from about 15 % on",
};
const CUT: Rule = Rule { words: "A strip is cut only at its marks, one segment apart.", formula: "n = floor(L / l_segment)", source: "How the strip is made" };

/// Places along the strip, as shares of its length, fewest first.
const WAYS: [(&[f64], &str); 5] = [
    (&[0.0], "at one end"),
    (&[0.5], "in the middle"),
    (&[0.0, 1.0], "at both ends"),
    (&[0.0, 0.5, 1.0], "at both ends and in the middle"),
    (&[0.0, 0.25, 0.5, 0.75, 1.0], "at five places"),
];

/// Ways to feed the whole segments that fit, the fewest feeds without a visible fade first.
///
/// # Errors
/// When less than one segment fits, or a figure is out of range.
pub fn strip(ask: &Ask) -> Result<Vec<Choice>, ChooseError> {
    within("the measured length", ask.measured_m, 0.0, 1000.0, "a length above 0 and at most 1000 m")?;
    let mut piece = ask.strip.clone();
    piece.length_m = ask.measured_m;
    let segments = piece.segments();
    if segments == 0 {
        return Err(ChooseError::Figure { field: "the measured length", value: ask.measured_m, remedy: "room for at least one segment" });
    }
    within("the number of segments", f64::from(segments), 0.0, 20_000.0, "at most 20,000 segments")?;
    let length_m = round(f64::from(segments) * piece.segment_m);
    piece.length_m = length_m;
    let lost_mm = 1e3 * (ask.measured_m - length_m);
    let mut choices = Vec::new();
    for (places, words) in WAYS {
        let feeds_at_m: Vec<f64> = places.iter().map(|share| round(share * length_m)).collect();
        let (fade, current_a) = solve(&piece, &feeds_at_m)?;
        let mut choice = Choice::new(
            format!("Cut {length_m:.3} m, feed it {words}"),
            format!("{segments} whole segments; {lost_mm:.0} mm stay dark. The dimmest segment keeps {:.0} % of the brightest.", 100.0 * fade),
            Pick::Strip { segments, length_m, feeds_at_m },
        );
        if fade < EVEN {
            choice.works = false;
            choice.caution = Some(format!("It fades by {:.0} %: plainly dimmer, or pinkish, away from the feed.", 100.0 * (1.0 - fade)));
        }
        let given = vec![
            quantity("L", "length", length_m, "m"),
            quantity("n_feeds", "feeds", places.len() as f64, "1"),
            quantity("R'", "resistance of each copper track, per metre", piece.rail_ohm_per_m, "ohm"),
        ];
        choice.figures = vec![
            fact("fade", "Dimmest against brightest", "I_min / I_max", fade, "1", &FADE, given),
            fact(
                "segments",
                "Whole segments",
                "n",
                f64::from(segments),
                "",
                &CUT,
                vec![quantity("L", "measured", ask.measured_m, "m"), quantity("l_segment", "segment", piece.segment_m, "m")],
            ),
            fact(
                "lost_m",
                "Not lit",
                "L − n·l",
                ask.measured_m - length_m,
                "m",
                &CUT,
                vec![quantity("L", "measured", ask.measured_m, "m"), quantity("l_segment", "segment", piece.segment_m, "m")],
            ),
            fact("current_a", "Current of all feeds", "I", current_a, "A", &FADE, vec![]),
        ];
        choices.push(choice);
    }
    // The sort is stable: the fewest feeds stay first.
    rank(&mut choices, |_| 0);
    Ok(choices)
}

fn round(metres: f64) -> f64 {
    (metres * 1e6).round() / 1e6
}

/// Fade and current of a piece on a stiff supply of its rated voltage.
fn solve(piece: &Strip, feeds_at_m: &[f64]) -> Result<(f64, f64), ChooseError> {
    let feeds: Vec<_> = feeds_at_m.iter().map(|at| json!({ "from": "source", "at_m": at, "length_m": 0.0, "gauge": { "awg": 6 } })).collect();
    let document = json!({
        "format": orthavis_model::document::FORMAT, "name": "strip", "vehicle": { "kind": "other", "mass_kg": 1.0 },
        "source": { "kind": "rail", "voltage_v": piece.voltage_v, "max_current_a": 10_000.0 },
        "lights": [{ "id": "strip", "feeds": feeds, "load": Load::Strip(piece.clone()) }],
        "scenes": [{ "id": "on", "lights": { "strip": {} } }],
    });
    let build = parse_value(&document).map_err(|error| ChooseError::Unsolved(error.to_string()))?;
    let mut network = Network::new(&build)?;
    let point = Point::of(&build, &build.scenes[0], State::Rail);
    let solution = network.solve(&point, None)?;
    let (low, high) =
        network.taps(&solution, 0, &point.lights[0]).fold((f64::INFINITY, 0.0f64), |(low, high), tap| (low.min(tap.output), high.max(tap.output)));
    Ok((if high > 0.0 { low / high } else { 0.0 }, network.source(&solution).1))
}

/// Ways to feed the strip of a light, each with the change that takes it over.
///
/// # Errors
/// When there is no such light, or it is not a strip.
pub fn for_light(build: &Build, id: &str, measured_m: Option<f64>) -> Result<Vec<Choice>, ChooseError> {
    let light = build.lights.iter().find(|light| light.id == id).ok_or(ChooseError::Unknown { what: "light", id: id.into() })?;
    let Load::Strip(piece) = &light.load else { return Err(ChooseError::Misplaced { id: id.into(), is: "no strip", wants: "cut-to-length strip" }) };
    let ask = Ask { strip: piece.clone(), measured_m: measured_m.unwrap_or(piece.length_m) };
    let choices = strip(&ask)?.into_iter().map(|choice| {
        let Pick::Strip { length_m, feeds_at_m, .. } = choice.pick.clone() else { return choice };
        choice.changing(build, |copy| {
            let light = copy.lights.iter_mut().find(|light| light.id == id)?;
            let Load::Strip(strip) = &mut light.load else { return None };
            strip.length_m = length_m;
            let first = light.feeds.first()?.clone();
            light.feeds = feeds_at_m
                .iter()
                .map(|at_m| orthavis_model::document::Feed { at_m: *at_m, length_m: round(first.length_m + (at_m - first.at_m).abs()), ..first.clone() })
                .collect();
            Some(())
        })
    });
    tried(build, choices.collect())
}
