//! What people look at adds up: the river loses nothing it does not show as heat, and an effect is the difference.

use orthavis_judge::effect::effect;
use orthavis_judge::findings::Severity;
use orthavis_judge::report::report;
use orthavis_model::document::Build;
use orthavis_model::states::State;
use orthavis_model::working::plain;
use orthavis_testing::{case, changed};
use orthavis_views::picture::{Picture, ReachKind, picture};
use serde_json::json;
use std::collections::BTreeSet;

const CASES: [&str; 7] = ["trike-arrays", "van-strips", "deck-pixels", "boost-and-driver", "chair-24v", "hex-rail", "two-supplies-one-strip"];

fn pictures(build: &Build) -> Vec<Picture> {
    let report = report(build).expect("a solution");
    report.points.iter().map(|point| picture(build, &report, &point.scene, point.state).expect("a picture")).collect()
}

#[test]
fn a_river_only_loses_to_heat() {
    for name in CASES {
        let build = case(name);
        for picture in pictures(&build) {
            for reach in &picture.reaches {
                let crumb = 1e-9 * (1.0 + reach.sent_w.abs());
                assert!(reach.sent_w + crumb >= reach.arrives_w && reach.arrives_w + crumb >= reach.leaves_w, "{name}: {} gains power", reach.id);
                // What a supplier passes on is what its consumers are sent.
                let sent: f64 = picture.reaches.iter().filter(|r| r.from.as_deref() == Some(reach.id.as_str())).map(|r| r.sent_w).sum();
                if reach.kind == ReachKind::Junction || reach.kind == ReachKind::Converter {
                    assert!((sent - reach.leaves_w).abs() <= 1e-6 * (1.0 + sent), "{name}: {} passes on {} W of {sent} W", reach.id, reach.leaves_w);
                }
            }
            let lost: f64 = picture.reaches.iter().filter(|r| r.kind != ReachKind::Source).map(|r| r.sent_w - r.leaves_w).sum();
            assert!((lost - picture.heat_w).abs() <= 1e-6 * (1.0 + picture.source_w), "{name}: {lost} W of {} W heat", picture.heat_w);
        }
    }
}

#[test]
fn every_part_is_in_the_river_once_and_after_its_supplier() {
    for name in CASES {
        let build = case(name);
        let picture = &pictures(&build)[0];
        let ids: Vec<&str> = picture.reaches.iter().map(|reach| reach.id.as_str()).collect();
        // A strip has a reach for each of its suppliers.
        let ways: usize = build.lights.iter().map(|light| light.feeds.iter().map(|feed| &feed.from).collect::<BTreeSet<_>>().len()).sum();
        assert_eq!(ids.len(), 1 + build.junctions.len() + build.converters.len() + ways, "{name}");
        for (index, reach) in picture.reaches.iter().enumerate().skip(1) {
            let from = reach.from.as_deref().expect("a supplier");
            assert!(ids[..index].contains(&from), "{name}: {} before {from}", reach.id);
        }
    }
}

/// Whoever puts the figures of a working into its formula gets its result.
#[test]
fn a_working_adds_up() {
    let mut checked = std::collections::BTreeMap::new();
    for name in CASES {
        for reach in pictures(&case(name)).iter().flat_map(|picture| &picture.reaches) {
            for fact in &reach.facts {
                let given = |symbol: &str| fact.working.given.iter().find(|quantity| quantity.symbol == symbol).map(|quantity| quantity.value);
                let computed = match fact.working.formula {
                    "V = E − I·R" => given("E").zip(given("I").zip(given("R"))).map(|(e, (i, r))| e - i * r),
                    "P = V·I" => given("V").zip(given("I")).map(|(v, i)| v * i),
                    "P = I²·R" => given("I").zip(given("R")).map(|(i, r)| i * i * r),
                    "ΔV = I·(2·ρ·L/A + R_parts)" => {
                        (|| Some(given("I")? * (2.0 * given("ρ")? * given("L")? / (1e-6 * given("A")?) + given("R_parts")?)))()
                    }
                    "P_heat = V_in·I_in − V_out·I_out" => (|| Some(given("V_in")? * given("I_in")? - given("V_out")? * given("I_out")?))(),
                    "I_in = V_out·I_out / (η·V_in) + I_idle" => {
                        (|| Some(given("V_out")? * given("I_out")? / (given("η")? * given("V_in")?) + given("I_idle")?))()
                    }
                    "I_in = I_out + I_idle" => given("I_out").zip(given("I_idle")).map(|(out, idle)| out + idle),
                    _ => continue,
                };
                let computed = computed.unwrap_or_else(|| panic!("{name}: {} {} lacks a figure", reach.id, fact.key));
                // Where more feeds than one share the way back, a drop is not that of its own current alone.
                let shared = fact.key == "drop_v" && case(name).lights.iter().any(|light| light.feeds.len() > 1);
                assert!(
                    shared || (computed - fact.value).abs() <= 1e-6 * (1.0 + fact.value.abs()),
                    "{name}: {} {}: {computed} is not {}",
                    reach.id,
                    fact.key,
                    fact.value
                );
                *checked.entry(fact.working.formula).or_insert(0) += 1;
            }
        }
    }
    assert!(checked.len() >= 6 && checked.values().all(|count| *count > 2), "{checked:?}");
}

#[test]
fn glows_show_what_a_scene_asks_for() {
    let build = case("deck-pixels");
    let amber = pictures(&build).into_iter().find(|p| p.scene == "amber" && p.state == State::Full).expect("amber");
    // Half brightness asked for and given in full.
    assert_eq!(amber.glows[0].rgb, Some([1.0, 0.45, 0.0]));
    assert!((amber.glows[0].output - 0.5).abs() < 1e-9);
    let dark = pictures(&case("trike-arrays")).into_iter().find(|p| p.scene == "parked").expect("parked");
    assert_eq!(dark.glows[0].output, 0.0, "a light that the scene does not name");
    assert_eq!(dark.glows[1].colour.as_deref(), Some("red"));
}

#[test]
fn an_effect_is_what_changed() {
    let before = changed(&case("trike-arrays"), &json!([{ "op": "replace", "path": "/converters/0/feed/fuse", "value": null }]));
    let after = changed(&case("trike-arrays"), &json!([{ "op": "replace", "path": "/scenes/0/lights/front/level", "value": 0.5 }]));
    let effect = effect(&report(&before).expect("a solution"), &report(&after).expect("a solution"));
    assert_eq!(effect.cleared.iter().map(|change| change.severity).collect::<Vec<_>>(), [Severity::Stop]);
    // The fuse that comes is one for 32 V.
    assert_eq!(effect.added.iter().map(|change| change.severity).collect::<Vec<_>>(), [Severity::Fix]);
    // Only the scene whose brightness changed moves by more than half a percent.
    let moved: Vec<_> = effect.hours.iter().map(|change| change.scene.as_str()).collect();
    assert_eq!(moved, ["ride"]);
    assert!(effect.hours[0].after > effect.hours[0].before);
    assert_eq!((effect.headline_before.as_str(), effect.headline_after.as_str()), ("Not safe to build yet", "Lights up, but mend these first"));
}

#[test]
fn figures_read_as_people_say_them() {
    for (value, unit, text) in [
        (0.0184, "A", "18.4 mA"),
        (1.0, "A", "1 A"),
        (0.0, "W", "0 W"),
        (294.3, "A", "294 A"),
        (4700.0, "Ω", "4.7 kΩ"),
        (12.04, "V", "12 V"),
        (2e-6, "A", "2 µA"),
        (0.5, "1", "0.5"),
        (0.05, "m", "0.05 m"),
    ] {
        assert_eq!(plain(value, unit), text);
    }
}
