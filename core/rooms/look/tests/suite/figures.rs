//! Light in figures: with words and workings, and refused where there is none.

use orthavis_look::figures::{LookError, Moment, figures, look};
use orthavis_model::demo::BUILDS;
use orthavis_model::document::{Air, Around, parse};
use orthavis_testing::{case, changed};
use serde_json::json;

const NOW: Moment<'static> = Moment { scene: None, state: None, around: None, air: None };

/// Every sample's lights have their words, and each fact is the figure that it explains.
#[test]
fn every_figure_of_every_sample_has_its_working() {
    for text in BUILDS {
        let build = parse(text).expect("a sample");
        let (found, figures) = (look(&build, &NOW).expect("solved"), figures(&build, &NOW).expect("solved").lights);
        assert_eq!(found.lights.len(), build.lights.len());
        for light in &found.lights {
            let figures = serde_json::to_value(&figures[&light.id]).expect("JSON");
            assert!(!light.words.is_empty());
            for fact in &light.facts {
                assert_eq!(fact.value, fact.working.result.value);
                assert!(fact.value.is_finite() && fact.value >= 0.0, "{} {}", light.id, fact.key);
                assert!(!fact.working.words.is_empty() && !fact.working.source.is_empty());
                if let Some(figure) = figures.get(fact.key) {
                    assert_eq!(figure.as_f64(), Some(fact.value), "{} {}", light.id, fact.key);
                }
            }
            for key in ["looks", "seen_m", "noticed_m", "see_m", "lm", "cd"] {
                assert!(light.facts.iter().any(|fact| fact.key == key), "{} {key}", light.id);
            }
        }
    }
}

#[test]
fn a_light_is_said_by_how_far_it_is_seen() {
    let build = case("deck-pixels");
    let id = &build.lights[0].id;
    for (shine, row) in [
        (json!({}), "single points; from"),
        (json!({ "diffuser": {} }), "even where the diffuser is"),
        (json!({ "diffuser": { "distance_mm": 3.0 } }), "points show through the diffuser"),
        (json!({ "diffuser": { "distance_mm": 90.0 } }), "one even line"),
    ] {
        let build = changed(&build, &json!([{ "op": "add", "path": "/lights/0/shine", "value": shine }]));
        let found = look(&build, &NOW).expect("solved");
        assert!(found.lights[0].row.starts_with(row), "{id} {shine}: {}", found.lights[0].row);
    }
    let seen = look(&build, &Moment { around: Some(Around::Dark), ..NOW }).expect("solved");
    assert!(seen.lights[0].words.starts_with("seen ") && seen.lights[0].words.contains(", noticed "), "{}", seen.lights[0].words);
    let dark = changed(&build, &json!([{ "op": "add", "path": "/scenes/0/lights", "value": {} }]));
    assert_eq!(look(&dark, &NOW).expect("solved").lights[0].words, "dark in this scene");
    // Who is to see by it is told from what speed it does.
    let see = changed(&build, &json!([{ "op": "add", "path": "/lights/0/for", "value": "see" }]));
    assert!(look(&see, &NOW).expect("solved").lights[0].facts.iter().any(|fact| fact.key == "stop_km_h"));
    let coats = json!([{ "op": "add", "path": "/lights/0/shine", "value": { "coats": { "kind": "white", "count": 2 } } }]);
    let leak = look(&changed(&build, &coats), &NOW).expect("solved").lights[0].facts.iter().find(|fact| fact.key == "leak").map(|fact| fact.value);
    assert!((leak.expect("a leak") - 0.04).abs() < 1e-12);
}

/// Surroundings that were chosen for the build count where nobody names others; haze only takes.
#[test]
fn surroundings_are_those_of_the_build() {
    let build = changed(&case("trike-arrays"), &json!([{ "op": "add", "path": "/usage/around", "value": "dark" }]));
    let id = &build.lights[0].id;
    let seen = |moment: &Moment<'_>| figures(&build, moment).expect("solved").lights[id].seen_m;
    assert_eq!(seen(&NOW), seen(&Moment { around: Some(Around::Dark), air: Some(Air::Clear), ..NOW }));
    assert!(seen(&NOW) > seen(&Moment { around: Some(Around::Village), ..NOW }));
    assert!(seen(&NOW) > seen(&Moment { air: Some(Air::Rain), ..NOW }));
}

#[test]
fn what_is_not_there_is_said_with_what_is() {
    let build = case("trike-arrays");
    let refused = |moment: &Moment<'_>| match figures(&build, moment).expect_err("refused") {
        LookError::NoScene(words) | LookError::NoState(words) => words,
        LookError::Unsolved(error) => error.to_string(),
    };
    assert!(refused(&Moment { scene: Some("moon"), ..NOW }).contains(&build.scenes[0].id));
    let absent = orthavis_model::states::State::WORDS.iter().map(|(_, state)| *state).find(|state| !build.states().contains(state)).expect("one");
    assert!(refused(&Moment { state: Some(absent), ..NOW }).contains("full"));
    let none = changed(&build, &json!([{ "op": "replace", "path": "/scenes", "value": [] }, { "op": "replace", "path": "/usage", "value": {} }]));
    assert!(matches!(figures(&none, &NOW), Err(LookError::NoScene(words)) if words.contains("Add one")));
}

/// What falls below a light that is aimed down goes with its intensity, its height and how flat it falls; a table is nearer.
#[test]
fn lux_below_a_light_go_with_its_height() {
    let text = BUILDS.iter().find(|text| text.contains("Trail deck")).expect("a sample");
    let found = look(&parse(text).expect("a build"), &NOW).expect("solved");
    let rail = found.lights.iter().find(|light| light.id == "left-rail").expect("a light under the deck");
    let of = |key: &str| rail.facts.iter().find(|fact| fact.key == key).expect("a fact");
    let (ground, cd) = (of("ground_lx"), of("cd").value);
    let given = |symbol: &str| ground.working.given.iter().find(|one| one.symbol == symbol).expect("an input").value;
    assert!((ground.value - cd * given("δ").to_radians().sin().powi(3) / given("h").powi(2)).abs() < 1e-9 * ground.value);
    assert!((0.02..0.5).contains(&given("h")), "a deck is low");
    // In the van a light to read by falls on a table, and one that is only aimed down on the floor, farther away.
    let text = BUILDS.iter().find(|text| text.contains("puppet stage")).expect("a sample");
    let inside = |change: serde_json::Value| {
        let van = changed(&parse(text).expect("a build"), &json!([change]));
        let evening = look(&van, &Moment { scene: Some("evening"), ..NOW }).expect("solved");
        let light = evening.lights.into_iter().find(|light| light.id == van.lights[0].id).expect("the light inside");
        let lux = |key: &str| light.facts.iter().find(|fact| fact.key == key).map(|fact| fact.value);
        (lux("table_lx"), lux("ground_lx"))
    };
    let (Some(table), None) = inside(json!({"op": "add", "path": "/lights/0/for", "value": "read"})) else { panic!("a table is read at") };
    let (None, Some(floor)) = inside(json!({"op": "add", "path": "/lights/0/shine", "value": {"down_deg": 90.0}})) else { panic!("it falls on the floor") };
    assert!(table > 1.5 * floor && floor > 0.0, "{table} {floor}");
}
