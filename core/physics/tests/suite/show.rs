//! Pixels over time: the codes of the cases, and what holds for every show.

use orthavis_model::document::{Build, EffectKind, PixelEffect, ShowInput};
use orthavis_model::laws::effect::Inputs;
use orthavis_physics::show::{LONGEST_S, Show, extent};
use orthavis_testing::shows::{build, chain, effect};
use orthavis_testing::{ShowCase, show_cases};
use proptest::prelude::*;
use serde_json::{Value, json};

fn inputs(said: &Value) -> Inputs {
    let mut inputs = Inputs::default();
    for (name, value) in said.as_object().into_iter().flatten() {
        let (_, input) = ShowInput::WORDS.iter().find(|(word, _)| word == name).expect("an input");
        inputs.say(*input, value.as_str().map_or_else(|| value.to_string(), str::to_owned).as_str()).expect("what it says");
    }
    inputs
}

/// Every code of every frame, as an independent program has it.
#[test]
fn codes_are_those_of_the_cases() {
    for (name, case) in show_cases() {
        let ShowCase { build, scene, inputs: said, frames } = case;
        let scene = build.scenes.iter().find(|known| known.id == scene).expect("a scene");
        let show = Show::of(&build, scene);
        for (time_s, outputs) in frames {
            let frame = show.frame(time_s, &inputs(&said));
            let found: Value =
                show.chains.iter().zip(&frame.codes).map(|(chain, codes)| (chain.name.clone(), json!(codes))).collect::<serde_json::Map<_, _>>().into();
            assert_eq!(found, outputs, "{name} at {time_s} s");
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 64, ..ProptestConfig::default() })]

    /// A controller's limit is never exceeded, copies counted each, at any moment and whatever the inputs say.
    #[test]
    fn a_limit_is_kept(a in effect(), b in effect(), limit in 0.02..0.6f64, time_s in 0.0..50.0f64, share in 0.0..=1.0f64) {
        let outputs = json!([{"pin": "1", "kind": "data", "chain": [{"copies": ["p0", "p1"], "wire_m": 0.1}]}, {"pin": "2", "kind": "data", "chain": chain(&[2])}]);
        let build = build(&[7, 7, 12], outputs, Some(limit), json!({"p0": {"effect": a}, "p2": {"effect": b, "level": 0.9}}));
        let show = Show::of(&build, &build.scenes[0]);
        let mut inputs = Inputs::default();
        inputs.set(ShowInput::Speed, share);
        let frame = show.frame(time_s, &inputs);
        let idle_a = 26.0 * 0.0008;
        prop_assert!(show.nominal_a(&frame) <= limit.max(idle_a) + 1e-9);
        // Whoever shares numbers shows the same.
        let lit = show.lit(&frame);
        prop_assert_eq!(&lit[0], &lit[1]);
    }

    /// What moves is back where it was after once around.
    #[test]
    fn once_around_is_where_it_began(one in effect(), step in 0u32..200) {
        prop_assume!(one["kind"] != "ember");
        let build = build(&[9], json!([{"pin": "1", "kind": "data", "chain": chain(&[0])}]), None, json!({"p0": {"effect": one}}));
        let show = Show::of(&build, &build.scenes[0]);
        // Off the edges at which a blink turns.
        let time_s = 0.0137 + f64::from(step) * 0.05;
        let (now, later) = (show.frame(time_s, &Inputs::default()), show.frame(time_s + show.period_s(), &Inputs::default()));
        let apart = now.codes[0].iter().flatten().zip(later.codes[0].iter().flatten()).map(|(a, b)| a.abs_diff(*b)).max();
        prop_assert!(apart <= Some(1), "{now:?} {later:?}");
    }

    /// What a show is does not depend on the order in which lights and chains are written down.
    #[test]
    fn order_in_the_document_does_not_matter(a in effect(), b in effect(), time_s in 0.0..20.0f64) {
        let shown = json!({"p0": {"effect": a}, "p1": {"effect": b}});
        let outputs = json!([{"pin": "1", "kind": "data", "chain": chain(&[0, 1])}]);
        let one = build(&[6, 8], outputs, Some(0.3), shown);
        let mut other = one.clone();
        other.lights.reverse();
        let codes = |build: &Build| Show::of(build, &build.scenes[0]).frame(time_s, &Inputs::default()).codes;
        prop_assert_eq!(codes(&one), codes(&other));
    }

    /// No frame takes more than the one that is told as the worst.
    #[test]
    fn nothing_is_worse_than_the_worst(a in effect(), b in effect(), step in 0u32..3000) {
        let outputs = json!([{"pin": "1", "kind": "data", "chain": chain(&[0, 1])}]);
        let build = build(&[6, 8], outputs, None, json!({"p0": {"effect": a}, "p1": {"effect": b}}));
        let show = Show::of(&build, &build.scenes[0]);
        let found = extent(&build, &build.scenes[0]).expect("it moves or follows");
        prop_assert!(found.period_s <= LONGEST_S && found.mean_nominal_a <= found.worst.nominal_a + 1e-9);
        let time_s = f64::from(step) / 50.0;
        prop_assume!(time_s < found.period_s);
        prop_assert!(show.nominal_a(&show.frame(time_s, &Inputs::default())) <= found.worst.nominal_a + 1e-9);
    }
}

/// What is mounted against its place's path has its first number at the far end.
#[test]
fn numbers_run_the_other_way_where_data_enters_at_the_far_end() {
    let outputs = json!([{"pin": "1", "kind": "data", "chain": [{"light": "p0", "mounted": "along", "wire_m": 0.1}, {"light": "p1", "mounted": "against", "wire_m": 0.1}]}]);
    let shown = json!({"p0": {"effect": {"kind": "level", "input": "battery"}}, "p1": {"effect": {"kind": "level", "input": "battery"}}});
    let build = build(&[4, 4], outputs, None, shown);
    let show = Show::of(&build, &build.scenes[0]);
    let mut inputs = Inputs::default();
    inputs.set(ShowInput::Battery, 0.25);
    let lit = show.lit(&show.frame(0.0, &inputs));
    let bright = |light: usize| (0..4).map(|pixel| lit[light].colour_of(pixel)[0]).collect::<Vec<_>>();
    assert_eq!((bright(0), bright(1)), (vec![1.0, 0.0, 0.0, 0.0], vec![0.0, 0.0, 0.0, 1.0]));
}

/// Flashes as counted by hand: what, flashes and red ones within the worst second.
#[test]
fn flashes_are_counted() {
    let cases: [(&str, Value, usize, usize); 9] = [
        ("five a second", json!({"kind": "blink", "period_s": 0.2}), 5, 0),
        ("three a second", json!({"kind": "blink", "period_s": 1.0 / 3.0}), 3, 0),
        ("once a second, of two colours alike", json!({"kind": "blink", "period_s": 1.0, "colours": [[1, 1, 1], [0.95, 0.95, 0.95]]}), 0, 0),
        ("four a second, of which the darker is bright", json!({"kind": "blink", "period_s": 0.25, "colours": [[1, 1, 1], [0.85, 0.85, 0.85]]}), 0, 0),
        ("four a second in red", json!({"kind": "blink", "period_s": 0.25, "colours": [[1, 0, 0]]}), 4, 4),
        ("four a second in blue", json!({"kind": "blink", "period_s": 0.25, "colours": [[0, 0, 1]]}), 4, 0),
        ("breathing twice a second", json!({"kind": "breathe", "period_s": 0.5}), 2, 0),
        ("a rainbow, which is as bright as ever", json!({"kind": "rainbow", "period_s": 0.1}), 0, 0),
        ("steady", json!({"kind": "steady"}), 0, 0),
    ];
    for (name, effect, general, red) in cases {
        let build = build(&[12], json!([{"pin": "1", "kind": "data", "chain": chain(&[0])}]), None, json!({"p0": {"effect": effect}}));
        let found = extent(&build, &build.scenes[0]).map(|extent| extent.flashes.iter().map(|one| (one.a_second, one.red_a_second)).next().unwrap_or((0, 0)));
        assert_eq!(found, Some((general, red)), "{name}");
    }
}

/// A table shows what belongs to the word, and at any other its first row.
#[test]
fn a_table_follows_words() {
    let table = json!({"kind": "table", "input": "turn", "table": [{"word": "off", "colour": [0.1, 0.1, 0.1]},
        {"word": "left", "effect": {"kind": "steady", "colours": [[1, 0.5, 0]]}}]});
    let build = build(&[3], json!([{"pin": "1", "kind": "data", "chain": chain(&[0])}]), None, json!({"p0": {"effect": table}}));
    let effect: &PixelEffect = build.scenes[0].lights["p0"].effect.as_ref().expect("an effect");
    assert_eq!(effect.kind(), EffectKind::Table);
    let mut inputs = Inputs::default();
    let mut shown = |word: &str| {
        inputs.say(ShowInput::Turn, word).expect("a word");
        effect.colour(0, 3, 0.0, &inputs)
    };
    assert_eq!([shown("off"), shown("left"), shown("right")], [[0.1; 3], [1.0, 0.5, 0.0], [0.1; 3]]);
    assert!(inputs.say(ShowInput::Turn, "up").is_err() && inputs.say(ShowInput::Battery, "1.2").is_err());
}
