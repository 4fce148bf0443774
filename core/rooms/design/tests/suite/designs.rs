//! Wishes and the designs they get: safe by both judges, never beaten, within what hands can do, and why there are none.

use orthavis_design::measures::{Measures, measures};
use orthavis_design::search::{Designs, designs, designs_of};
use orthavis_design::wish::{Wish, parse, parse_wish};
use orthavis_judge::findings::Severity;
use orthavis_judge::report::report_at_once;
use orthavis_make::parts::parts;
use orthavis_make::steps::steps;
use orthavis_model::document::{Build, Load, parse_value};
use serde_json::{Value, json};
use std::collections::BTreeMap;

fn text(name: &str) -> String {
    let path = format!("{}/../../testing/wishes/{name}.json", env!("CARGO_MANIFEST_DIR"));
    std::fs::read_to_string(&path).unwrap_or_else(|error| panic!("{path}: {error}"))
}

fn wish(name: &str) -> Wish {
    parse(&text(name)).unwrap_or_else(|error| panic!("{name}: {error}"))
}

fn with(name: &str, key: &str, value: Value) -> Wish {
    let mut wish: Value = serde_json::from_str(&text(name)).expect("JSON");
    wish[key] = value;
    parse_wish(&wish).unwrap_or_else(|error| panic!("{name}: {error}"))
}

const POSSIBLE: [&str; 3] = ["chair-no-solder", "deck-show", "trike"];

fn every_design(found: &Designs) -> impl Iterator<Item = &Build> {
    found.designs.iter().map(|design| &design.build)
}

#[test]
fn every_design_is_safe_and_as_wished() {
    for name in POSSIBLE {
        let wish = wish(name);
        let found = designs(&wish).expect("searched");
        assert!(found.impossible.is_none() && (3..=5).contains(&found.designs.len()), "{name}: {}", found.designs.len());
        assert!(found.considered >= found.not_beaten && found.not_beaten >= found.designs.len());
        for design in &found.designs {
            let read = parse_value(&design.build.to_value()).unwrap_or_else(|error| panic!("{name}: {error}"));
            let report = report_at_once(&read).expect("solved");
            assert!(report.findings.iter().all(|finding| finding.severity == Severity::Note), "{name}: {}", design.says);
            let measured = measures(&read, &BTreeMap::new()).expect("measured");
            assert_eq!(measured, design.measures, "{name}: a design is what its build measures");
            assert!(measured.hours.is_some_and(|hours| hours >= 0.99 * wish.hours), "{name}: {:?}", measured.hours);
            assert!((0.0..1.0).contains(&measured.headroom));
            let asked: f64 = wish.lights.iter().map(|light| f64::from(light.count) * light.least_lm()).sum();
            assert!(measured.lm >= 0.9 * asked, "{name}: {} of {asked}", measured.lm);
            for light in &wish.lights {
                assert!(read.lights.iter().filter(|own| own.place == light.place && own.purpose == Some(light.purpose)).count() >= light.count as usize);
            }
        }
    }
}

#[test]
fn no_design_beats_another_and_the_first_is_the_balanced_one() {
    for name in POSSIBLE {
        let found = designs(&wish(name)).expect("searched");
        let figures: Vec<[f64; 5]> =
            found.found.iter().map(|own| [own.cost, own.mass_g, -own.hours.unwrap_or(f64::INFINITY), f64::from(own.joints), -own.headroom]).collect();
        for (at, own) in figures.iter().enumerate() {
            for (other, their) in figures.iter().enumerate() {
                let beaten = at != other && their.iter().zip(own).all(|(a, b)| a <= b);
                assert!(!beaten, "{name}: {at} is beaten by {other}");
            }
        }
        // Shares anew from the figures: best 0, worst 1, and the first has the least of all together.
        let share = |own: &[f64; 5], at: usize| {
            let ends = figures.iter().map(|one| one[at]).fold((f64::INFINITY, f64::NEG_INFINITY), |ends, value| (ends.0.min(value), ends.1.max(value)));
            if ends.1 > ends.0 { (own[at] - ends.0) / (ends.1 - ends.0) } else { 0.0 }
        };
        let sums: Vec<f64> = figures.iter().map(|own| (0..5).map(|at| share(own, at)).sum()).collect();
        assert!(sums.iter().all(|sum| *sum >= sums[0] - 1e-9), "{name}: {sums:?}");
        for (design, own) in found.designs.iter().zip(&figures) {
            assert!((0..5).all(|at| (design.shares[at] - share(own, at)).abs() < 1e-9), "{name}: {:?}", design.shares);
        }
        assert!(found.designs[0].says.starts_with("The balanced one"));
        assert!(found.designs[1..].iter().all(|design| !design.says.is_empty()));
    }
}

/// On a small wish everything is drawn up; on a larger one what is left out would have been no better by more than a twentieth.
#[test]
fn what_is_not_drawn_up_would_not_have_been_better() {
    for name in POSSIBLE {
        let wish = wish(name);
        let (quick, whole) = (designs(&wish).expect("searched"), designs_of(&wish, usize::MAX).expect("searched"));
        let best = |found: &Designs, of: fn(&Measures) -> f64| found.found.iter().map(of).fold(f64::INFINITY, f64::min);
        let keys: [fn(&Measures) -> f64; 4] = [|own| own.cost, |own| own.mass_g, |own| 1.0 / own.hours.unwrap_or(1e9), |own| f64::from(own.joints) + 1.0];
        for of in keys {
            let (quick, whole) = (best(&quick, of), best(&whole, of));
            assert!(quick <= 1.05 * whole + 1e-9, "{name}: {quick} against {whole}");
        }
    }
}

#[test]
fn what_hands_cannot_do_is_nowhere() {
    for (hands, never) in [("plug", vec!["solder", "crimp", "iron"]), ("crimp", vec!["solder", "iron"])] {
        let wish = with("chair-no-solder", "hands", json!(hands));
        let found = designs(&wish).expect("searched");
        assert!(!found.designs.is_empty(), "{hands}");
        for build in every_design(&found) {
            assert!(build.lights.iter().all(|light| !matches!(light.load, Load::LedArray(_))), "single LEDs want an iron");
            let steps = steps(build);
            assert_eq!(steps.iter().map(|step| step.joints).sum::<u32>(), 0);
            let said = serde_json::to_string(&(&steps, parts(build, &steps, &BTreeMap::new()), orthavis_judge::cautions::cautions(build)))
                .expect("JSON")
                .to_lowercase();
            for word in &never {
                let found = said.find(&format!(" {word}")).or_else(|| said.find(&format!("\"{word}")));
                assert!(found.is_none(), "{hands}: {}", found.map_or("", |at| &said[at.saturating_sub(60)..(at + 60).min(said.len())]));
            }
        }
    }
}

#[test]
fn a_drawer_makes_parts_free_and_a_budget_holds() {
    let plain = designs(&wish("trike")).expect("searched");
    let most = plain.designs.iter().map(|design| design.measures.cost).fold(f64::INFINITY, f64::min);
    let held = designs(&with("trike", "most_cost", json!(most + 1.0))).expect("searched");
    assert!(held.impossible.is_none() && held.designs.iter().all(|design| design.measures.cost <= most + 1.0));
    let none = designs(&with("trike", "most_cost", json!(3.0))).expect("searched");
    let why = none.impossible.expect("too dear");
    assert!(why.why.contains("costs") && why.nearest.is_some(), "{}", why.why);
}

#[test]
fn what_cannot_be_had_is_said_with_what_comes_nearest() {
    let found = designs(&wish("too-much")).expect("searched");
    assert!(found.designs.is_empty());
    let impossible = found.impossible.expect("why");
    assert!(impossible.why.contains("Wh") && impossible.why.contains('%'), "{}", impossible.why);
    let nearest = impossible.nearest.expect("something");
    let report = report_at_once(&nearest.build).expect("solved");
    assert!(report.findings.iter().all(|finding| finding.severity == Severity::Note));
    // Longer than the battery lasts: as much of the time as there is.
    let long = designs(&with("trike", "hours", json!(900.0))).expect("searched").impossible.expect("too long");
    assert!(long.why.contains("this battery gives") && long.nearest.is_some(), "{}", long.why);
}

#[test]
fn bad_wishes_are_refused_at_their_fields() {
    for (key, value, at, remedy) in [
        ("hours", json!(0.0), "/hours", "from 0.05"),
        ("hands", json!("teeth"), "/hands", "plug, crimp, solder"),
        ("own_pack", json!("never"), "/own_pack", "no, may, must"),
        ("colour", json!("red"), "/colour", "Take it out"),
        ("lights", json!([]), "/lights", "where light should be"),
        ("lights", json!([{"place": "sail", "for": "seen"}]), "/lights/0/place", "handlebar"),
        ("lights", json!([{"place": "handlebar", "for": "warmth"}]), "/lights/0/for", "seen"),
        ("lights", json!([{"place": "handlebar", "for": "seen", "colour": "plaid"}]), "/lights/0/colour", "red"),
        ("lights", json!([{"place": "handlebar", "for": "seen", "count": 0}]), "/lights/0/count", "from 1"),
        ("vehicle", json!({"kind": "bicycle", "variant": "tandem"}), "/vehicle/variant", "trike"),
        ("battery", json!({"kind": "battery", "chemistry": "li_ion", "series": 0}), "/battery/series", "1"),
        ("have", json!([{"part": "a-thing"}]), "/have/0/part", "parts"),
    ] {
        let mut wish: Value = serde_json::from_str(&text("trike")).expect("JSON");
        wish[key] = value.clone();
        let error = parse_wish(&wish).expect_err(key);
        let fault = error.faults.iter().find(|fault| fault.pointer == at).unwrap_or_else(|| panic!("{key} {value}: {:?}", error.faults));
        assert!(fault.remedy.contains(remedy), "{at}: {}", fault.remedy);
    }
    let mut long: Value = serde_json::from_str(&text("deck-show")).expect("JSON");
    long["lights"][0]["length_m"] = json!(5.0);
    assert!(parse_wish(&long).expect_err("too long").faults[0].pointer == "/lights/0/length_m");
    assert!(parse("{").expect_err("no JSON").faults[0].problem.contains("JSON"));
}
