//! What can be picked: every effect and every ready show, on every sample and on chains that nobody composed.

use orthavis_model::demo::BUILDS;
use orthavis_model::document::{Build, EffectKind, Load, parse};
use orthavis_model::laws::effect::Inputs;
use orthavis_show::cards::{cards, thumbnail};
use orthavis_show::frames::frames;
use orthavis_show::ready::ready;
use orthavis_testing::shows::{build, chain, effect};
use proptest::prelude::*;
use serde_json::json;
use std::collections::BTreeSet;

fn samples() -> Vec<Build> {
    BUILDS.iter().map(|text| parse(text).expect("a sample")).collect()
}

/// The bytes of a picture, three for each pixel.
fn bytes(codes: &str) -> Vec<u8> {
    (0..codes.len() / 2).map(|at| u8::from_str_radix(&codes[2 * at..2 * at + 2], 16).expect("hex")).collect()
}

#[test]
fn every_effect_has_a_card_with_a_picture_of_its_own() {
    for build in samples() {
        let all = cards(&build);
        assert_eq!(all.effects.len(), EffectKind::WORDS.len(), "{}", build.name);
        let pictures: BTreeSet<&str> = all.effects.iter().map(|card| card.thumbnail.codes.as_str()).collect();
        assert_eq!(pictures.len(), all.effects.len(), "two effects look alike");
        for card in &all.effects {
            let picture = &card.thumbnail;
            assert_eq!(picture.codes.len(), 6 * picture.count * picture.frames, "{}", card.called);
            assert!(bytes(&picture.codes).iter().any(|code| *code > 0), "{} is dark all the time", card.called);
            assert!(picture.step_s > 0.0 && !card.about.is_empty());
        }
    }
}

#[test]
fn every_ready_show_lights_something_of_this_build_and_names_only_its_lights() {
    for build in samples() {
        let pixels: BTreeSet<&str> = build.lights.iter().filter(|light| matches!(light.load, Load::Pixels(_))).map(|light| light.id.as_str()).collect();
        for one in ready(&build) {
            assert!(!one.name.is_empty() && !one.about.is_empty());
            assert!(one.scene.lights.keys().all(|id| build.lights.iter().any(|light| light.id == *id)), "{}: {}", build.name, one.name);
            if pixels.is_empty() {
                continue;
            }
            let mut with = build.clone();
            with.scenes.push(one.scene.clone());
            let lit = (0..40).any(|step| {
                let shown = frames(&with, &one.scene, &[0.1 * f64::from(step)], &Inputs::default());
                shown.iter().any(|frame| frame.outputs.values().flatten().any(|code| code.iter().any(|channel| *channel > 0)))
            });
            assert!(lit || one.scene.lights.values().any(|light| light.level > 0.0), "{}: {} stays dark", build.name, one.name);
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, ..ProptestConfig::default() })]

    /// A picture of an effect begins again where it ended, and no code of it is out of range.
    #[test]
    fn a_picture_is_of_the_effect(own in effect(), count in 2usize..30) {
        let outputs = json!([{"pin": "1", "kind": "data", "chain": chain(&[0])}]);
        let shown = build(&[count], outputs, None, json!({"p0": {"effect": own}}));
        let effect = shown.scenes[0].lights["p0"].effect.clone().expect("it has one");
        let picture = thumbnail(&effect);
        prop_assert_eq!(picture.codes.len(), 6 * picture.count * picture.frames);
        prop_assert_eq!(thumbnail(&effect), picture.clone());
        if let Some(period) = effect.period_s() {
            prop_assert!((picture.step_s * picture.frames as f64 - period).abs() < 1e-9 * period.max(1.0));
        }
    }
}
