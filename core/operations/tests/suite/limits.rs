//! Every question about documents near the limits of the reader: an answer or a refusal, never a panic, and soon.

use crate::operations::{builds, good};
use orthavis_core::budget::{self, Budget};
use orthavis_core::chance::Dice;
use orthavis_core::document::parse_value;
use orthavis_operations::{OPERATIONS, ask};
use orthavis_testing::{cases, changed, table};
use serde_json::{Value, json};
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::time::{Duration, Instant};

/// Documents that are asked about; more in `cargo xtask deep`.
fn count() -> u64 {
    std::env::var("ORTHAVIS_LIMITS").ok().and_then(|count| count.parse().ok()).unwrap_or(300)
}

/// Every figure of a document, by its place.
fn figures(at: &str, value: &Value, all: &mut Vec<String>) {
    match value {
        Value::Number(_) => all.push(at.to_owned()),
        Value::Object(map) => map.iter().for_each(|(key, value)| figures(&format!("{at}/{key}"), value, all)),
        Value::Array(list) => list.iter().enumerate().for_each(|(index, value)| figures(&format!("{at}/{index}"), value, all)),
        _ => {}
    }
}

/// A figure far from what anybody would type.
fn far(dice: &mut Dice, was: &Value) -> Value {
    let known = was.as_f64().unwrap_or(1.0);
    let factor = [0.0, 1e-9, 1e-4, 0.01, 0.1, 0.5, 2.0, 10.0, 100.0, 1e4, 1e6][dice.below(11)];
    let figure = match dice.below(4) {
        0 => factor,
        1 => [0.0, 1.0, 2.0, 8.0, 400.0, 1000.0, 10_000.0][dice.below(7)],
        _ => known * factor,
    };
    if was.is_f64() { json!(figure) } else { json!(figure.clamp(0.0, 1e9) as u64) }
}

/// A document with some of its figures far out, that the reader still takes.
fn spoiled(dice: &mut Dice, from: &Value) -> Value {
    let mut places = Vec::new();
    figures("", from, &mut places);
    let mut document = from.clone();
    for _ in 0..1 + dice.below(6) {
        let place = &places[dice.below(places.len())];
        let mut tried = document.clone();
        if let Some(figure) = tried.pointer_mut(place) {
            *figure = far(dice, figure);
        }
        if parse_value(&tried).is_ok() {
            document = tried;
        }
    }
    document
}

#[test]
fn every_question_near_the_limits_is_answered_or_refused() {
    let mut from: Vec<Value> = builds();
    from.extend(cases().into_iter().map(|(_, build)| build.to_value()));
    from.extend(
        table()
            .into_iter()
            .map(|(_, build, _)| build)
            .filter(|build| !build.circuits.is_empty() || !build.controllers.is_empty())
            .map(|build| build.to_value()),
    );
    let hook = std::panic::take_hook();
    std::panic::set_hook(Box::new(|_| {}));
    let (mut wrong, mut asked, mut slowest) = (Vec::new(), 0, (Duration::ZERO, String::new()));
    for seed in 0..count() {
        let mut dice = Dice::new(seed);
        let begun_from = dice.below(from.len());
        let document = spoiled(&mut dice, &from[begun_from]);
        for operation in OPERATIONS {
            let Ok(Some(request)) = catch_unwind(|| good(operation.name, &document)) else { continue };
            let bytes = request.to_string();
            let begun = Instant::now();
            let answer = catch_unwind(AssertUnwindSafe(|| budget::run(Some(Budget::new(150_000)), || ask(operation.name, bytes.as_bytes()))));
            asked += 1;
            if begun.elapsed() > slowest.0 {
                slowest = (begun.elapsed(), format!("{} of {seed}", operation.name));
            }
            match answer {
                Err(panic) => {
                    let said = panic.downcast_ref::<String>().cloned().or(panic.downcast_ref::<&str>().map(|text| (*text).to_owned()));
                    wrong.push(format!("{seed} {}: {}", operation.name, said.unwrap_or_default()));
                }
                // A refusal says what is wrong; that the answer cannot be written would be the program's own fault.
                Ok(Err(refusal)) if refusal.kind == "answer" => wrong.push(format!("{seed} {}: {}", operation.name, refusal.detail)),
                Ok(_) => {}
            }
        }
    }
    std::panic::set_hook(hook);
    println!("{asked} questions about {} documents; slowest {:?} ({})", count(), slowest.0, slowest.1);
    assert!(asked > 40 * count(), "only {asked} questions");
    wrong.sort();
    wrong.truncate(30);
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

/// A strip shorter than half a segment, and one of six metres a segment: nothing is cut, and nothing is made in numbers.
#[test]
fn a_strip_without_a_whole_segment_is_no_work() {
    for (length_m, segment_m) in [(0.02, 0.05), (5.0, 6.0), (0.004, 10_000.0)] {
        let build = changed(
            &orthavis_testing::case("van-strips"),
            &json!([
            { "op": "remove", "path": "/lights/0/feeds/1" }, { "op": "replace", "path": "/lights/0/load/length_m", "value": length_m }, { "op": "replace", "path": "/lights/0/load/segment_m", "value": segment_m }]),
        );
        let document = build.to_value();
        for operation in OPERATIONS {
            let Some(request) = good(operation.name, &document) else { continue };
            let begun = Instant::now();
            let _ = ask(operation.name, request.to_string().as_bytes());
            assert!(begun.elapsed() < Duration::from_secs(20), "{} of {length_m} m", operation.name);
        }
        let cuts: Value = serde_json::from_slice(&ask("cuts", json!({ "document": document }).to_string().as_bytes()).expect("cuts")).expect("json");
        let pieces: Vec<&Value> = cuts["cuts"]
            .as_array()
            .expect("cuts")
            .iter()
            .filter(|cut| cut["at_marks"] == true)
            .flat_map(|cut| cut["pieces"].as_array().expect("pieces"))
            .collect();
        assert!(pieces.iter().all(|piece| piece["part"] != build.lights[0].id.as_str()), "{pieces:?}");
    }
}
