//! Light in figures: against an independent program, and the laws that it keeps.

use orthavis_model::document::{Build, SceneLight, parse_value};
use orthavis_model::laws::light::{Air, Around, Beam, NOTICED, contrast, even_distance, flash_share, looks, seen_m, share_that_looks, stop_within_m_s};
use orthavis_physics::light::{LightFigures, blink_on_s, lights};
use orthavis_physics::points::points;
use orthavis_testing::{case, changed};
use proptest::prelude::*;
use serde_json::{Value, json};
use std::collections::BTreeMap;

fn figures(build: &Build, scene: &str, state: &str, around: Around, air: Air) -> BTreeMap<String, LightFigures> {
    let all = points(build).expect("nobody stopped it");
    let point = all.iter().find(|point| point.scene == scene && point.state.word() == state).expect("there");
    lights(build, point, around, air)
}

fn word<T: Copy>(words: &[(&str, T)], given: &Value) -> T {
    words.iter().find(|(word, _)| given == word).expect("known").1
}

#[test]
fn lights_agree_with_an_independent_program() {
    let cases = orthavis_testing::lights();
    assert!(cases.len() > 1);
    for (name, case) in cases {
        let build = parse_value(&case["document"]).expect("a build");
        let (scene, state) = (case["scene"].as_str().expect("text"), case["state"].as_str().expect("text"));
        let found = figures(&build, scene, state, word(Around::WORDS, &case["around"]), word(Air::WORDS, &case["air"]));
        let found = serde_json::to_value(found).expect("JSON");
        for (light, expected) in case["lights"].as_object().expect("lights") {
            assert_eq!(found[light].as_object().expect("there").len(), expected.as_object().expect("figures").len(), "{name} {light}");
            for (key, expected) in expected.as_object().expect("figures") {
                let (found, expected) = (found[light][key].as_f64().expect("a figure"), expected.as_f64().expect("a figure"));
                let far = (found - expected).abs() / expected.abs().max(1e-9);
                // What is far beside the axis hangs on how a right angle is rounded.
                assert!(far < 1e-4, "{name} {light} {key}: {found} for {expected}");
            }
        }
    }
}

/// A tail light of the case with another way to shine.
fn tail(shine: &Value) -> LightFigures {
    let build = changed(&case("trike-arrays"), &json!([{ "op": "add", "path": "/lights/0/shine", "value": shine }]));
    let scene = build.scenes.iter().find(|scene| scene.lights.contains_key(&build.lights[0].id)).expect("lit").id.clone();
    figures(&build, &scene, "full", Around::Street, Air::Clear).remove(&build.lights[0].id).expect("there")
}

#[test]
fn a_lens_gathers_and_a_diffuser_spreads_what_passes() {
    let bare = tail(&json!({}));
    let lens = tail(&json!({ "lens": { "half_angle_deg": 8.0 } }));
    assert!((lens.lm / bare.lm - 0.85).abs() < 1e-12, "a lens lets 85 % pass where nobody measured it");
    assert!(lens.cd > 2.0 * bare.cd && lens.cd_30 < bare.cd_30 && lens.seen_m > bare.seen_m);
    let both = tail(&json!({ "lens": { "half_angle_deg": 8.0 }, "diffuser": { "distance_mm": 12.0 } }));
    assert!((both.lm / bare.lm - 0.85 * 0.6).abs() < 1e-12);
    // What a diffuser sends out does not know how it came in: half at 60°.
    assert!((both.cd_60 / both.cd - 0.5).abs() < 1e-12);
    // A lens wider than its source is allowed: it only spreads.
    let wide = tail(&json!({ "lens": { "half_angle_deg": 80.0, "through": 1.0 } }));
    assert!(wide.cd < bare.cd && wide.lm == bare.lm);
    // Stated flux and angle go before what is usual.
    let stated = tail(&json!({ "lm": 2.0 * bare.lm / bare.looks, "half_angle_deg": 60.0 }));
    assert!(stated.lm > bare.lm && (stated.cd_60 / stated.cd - 0.5).abs() < 1e-12);
    assert_eq!((bare.merge_m, bare.even_mm, bare.contrast), (None, None, None), "an array is no row");
}

#[test]
fn a_dark_light_is_seen_from_nowhere() {
    let build = case("trike-arrays");
    let dark = changed(&build, &json!([{ "op": "add", "path": "/scenes/-", "value": { "id": "dark", "lights": {} } }]));
    for (id, light) in figures(&dark, "dark", "full", Around::Dark, Air::Clear) {
        assert_eq!((light.lm, light.cd, light.seen_m, light.noticed_m, light.see_m, light.looks), (0.0, 0.0, 0.0, 0.0, 0.0, 0.0), "{id}");
    }
}

/// Pixels shine by what they are asked for, channel by channel, and a blink counts for the time it is on.
#[test]
fn pixels_shine_in_their_colours() {
    let build = case("deck-pixels");
    let id = build.lights[0].id.clone();
    let scene = build.scenes[0].id.clone();
    let lit = |lit: Value| {
        let path = format!("/scenes/0/lights/{id}");
        let build = changed(&build, &json!([{ "op": "add", "path": path, "value": lit }]));
        figures(&build, &scene, "full", Around::Village, Air::Clear).remove(&id).expect("there")
    };
    let [red, green, blue] = [[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]].map(|colour| lit(json!({ "level": 0.2, "colour": colour })).lm);
    assert!(green > 1.5 * red && red > 1.5 * blue, "{red} {green} {blue}");
    let steady = lit(json!({ "level": 0.2, "colour": [1.0, 0.0, 0.0] }));
    let blink = lit(json!({ "level": 0.2, "effect": { "kind": "blink", "period_s": 0.8, "duty": 0.5, "colours": [[1.0, 0.0, 0.0]] } }));
    assert!((blink.cd / steady.cd - 1.0).abs() < 1e-6);
    let beside = seen_m(steady.cd * flash_share(0.4), Around::Village.seen_lx(), Air::Clear);
    assert!((blink.seen_m / beside - 1.0).abs() < 1e-6, "{} {beside}", blink.seen_m);
    let [two, dark] = [json!([[1.0, 0.0, 0.0], [0.0, 0.0, 1.0]]), json!([[1.0, 0.0, 0.0], [0.0, 0.0, 0.0]])].map(|colours| {
        let path = format!("/scenes/0/lights/{id}");
        let effect = json!({ "effect": { "kind": "blink", "period_s": 2.0, "duty": 0.25, "colours": colours } });
        let build = changed(&build, &json!([{ "op": "add", "path": path, "value": effect }]));
        blink_on_s(&build.scenes[0].lights[&id])
    });
    assert_eq!((two, dark), (None, Some(0.5)), "between two colours it never goes out");
    assert_eq!(blink_on_s(&SceneLight { duty: 0.3, ..SceneLight::FULL }), Some(0.3), "a second is its period where nothing says another");
}

proptest! {
    /// The flux of a beam, summed over all directions, is the flux that went in.
    #[test]
    fn a_beam_holds_its_flux(half in 3.0..89.0_f64, lm in 0.1..5000.0_f64) {
        let beam = Beam::of_half_angle(half);
        let steps = 4000;
        let step = 90.0 / f64::from(steps);
        let ring = |index: i32| {
            let deg = (f64::from(index) + 0.5) * step;
            beam.cd(lm, deg) * std::f64::consts::TAU * deg.to_radians().sin() * step.to_radians()
        };
        let sum: f64 = (0..steps).map(ring).sum();
        prop_assert!((sum / lm - 1.0).abs() < 2e-3, "{sum} of {lm}");
        prop_assert!((beam.cd(lm, half) / beam.peak_cd(lm) - 0.5).abs() < 1e-9);
        prop_assert_eq!(beam.cd(lm, 120.0), 0.0);
    }

    /// Where a light is seen, it gives just what the eye needs there; haze only brings it nearer.
    #[test]
    fn allards_law_holds_where_a_light_is_last_seen(cd in 1e-3..1e5_f64, around in 0..4usize, air in 0..3usize) {
        let (around, air) = (Around::WORDS[around].1, Air::WORDS[air].1);
        let far = seen_m(cd, around.seen_lx(), air);
        let there = cd * (-3.0 * far / air.visibility_m()).exp() / (far * far);
        prop_assert!((there / around.seen_lx() - 1.0).abs() < 1e-9, "{there} at {far}");
        prop_assert!(far <= (cd / around.seen_lx()).sqrt() * (1.0 + 1e-12));
        prop_assert!(seen_m(cd, NOTICED * around.seen_lx(), air) < far);
        prop_assert!(seen_m(2.0 * cd, around.seen_lx(), air) > far);
    }

    /// What looks so bright is what was asked to look so.
    #[test]
    fn looks_goes_both_ways(share in 0.0..1.0_f64) {
        prop_assert!((share_that_looks(looks(share)) - share).abs() < 1e-9);
        prop_assert!(looks(share) >= share - 1e-12);
    }

    /// Farther is evener, by the same at any size.
    #[test]
    fn farther_is_evener(half in 5.0..85.0_f64, pitch in 0.002..0.1_f64, near in 0.2..2.0_f64) {
        let beam = Beam::of_half_angle(half);
        prop_assert!(contrast(beam, pitch, near * pitch) >= contrast(beam, pitch, 1.3 * near * pitch) - 1e-12);
        prop_assert!((contrast(beam, pitch, near * pitch) - contrast(beam, 1.0, near)).abs() < 1e-9);
        let even = even_distance(beam, pitch);
        prop_assert!(contrast(beam, pitch, even) <= 0.05 + 1e-9 && contrast(beam, pitch, 0.98 * even) > 0.05);
    }

    /// From the speed at which one can stop within a distance, one does.
    #[test]
    fn one_stops_within_what_one_sees(distance in 0.0..500.0_f64) {
        let speed = stop_within_m_s(distance);
        prop_assert!((1.5 * speed + speed * speed / 6.0 - distance).abs() < 1e-9 * distance.max(1.0));
    }
}

/// Half as bright to the eye is a fifth of the light.
#[test]
fn half_as_bright_is_eighteen_percent() {
    assert!((share_that_looks(0.5) - 0.1842).abs() < 1e-4);
    assert!((looks(1.0) - 1.0).abs() < 1e-12 && looks(0.0) == 0.0);
}
