//! However little a question may take, its figures and findings are all there or it is refused. Only how many remedies
//! were tried may differ, which the advice says.

use orthavis_core::budget::{Budget, run};
use orthavis_core::choose::size::everything;
use orthavis_core::document::Build;
use orthavis_core::drain::discharge::discharge;
use orthavis_core::drain::drain;
use orthavis_core::report::report;
use orthavis_testing::cases;
use serde_json::{Value, json};

/// A question, and its answer or the words of its refusal.
type Question = (&'static str, fn(&Build) -> Result<Value, String>);

const QUESTIONS: [Question; 4] = [
    ("report", |build| report(build).map(|report| json!(report)).map_err(|error| error.to_string())),
    ("drain", |build| drain(build).map(|drain| json!(drain)).map_err(|error| error.to_string())),
    ("size", |build| everything(build).map(|sized| json!(sized)).map_err(|error| error.to_string())),
    ("discharge", |build| {
        let scene = build.scenes.first().map_or("", |scene| scene.id.as_str());
        discharge(build, scene).map(|points| json!(points)).map_err(|error| error.to_string())
    }),
];

/// Without what was looked for only as long as there was time.
fn without_remedies(answer: &mut Value) {
    match answer {
        Value::Object(fields) => {
            fields.retain(|name, _| !matches!(name.as_str(), "remedies" | "advice"));
            fields.values_mut().for_each(without_remedies);
        }
        Value::Array(items) => items.iter_mut().for_each(without_remedies),
        _ => {}
    }
}

#[test]
fn a_small_budget_gives_every_figure_or_none() {
    let (mut whole, mut refused) = (0, 0);
    for (name, build) in cases() {
        for (question, ask) in QUESTIONS {
            let mut unbounded = ask(&build).unwrap_or_else(|error| panic!("{name}: {error}"));
            without_remedies(&mut unbounded);
            for steps in [0, 30, 300, 1_000, 3_000, 10_000, 30_000, 100_000, 1_000_000] {
                match run(Some(Budget::new(steps)), || ask(&build)) {
                    Ok(mut answer) => {
                        without_remedies(&mut answer);
                        assert!(answer == unbounded, "{question} of {name} in {steps} steps differs: {answer}");
                        whole += 1;
                    }
                    Err(words) => {
                        assert!(words.contains("too large"), "{question} of {name} in {steps} steps: {words}");
                        refused += 1;
                    }
                }
            }
        }
    }
    assert!(whole > 20 && refused > 20, "{whole} whole, {refused} refused");
}

#[test]
fn what_was_called_off_gives_nothing() {
    for (name, build) in cases() {
        for (question, ask) in QUESTIONS {
            let budget = Budget::new(u64::MAX);
            budget.call_off();
            assert!(run(Some(budget), || ask(&build)).is_err(), "{question} of {name}");
        }
    }
}
