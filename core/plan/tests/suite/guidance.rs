//! What leads a person: parts that are added work, cautions are said where they matter, words of the trade explained.

use orthavis_judge::cautions::cautions;
use orthavis_judge::findings::Severity;
use orthavis_judge::findings::judged;
use orthavis_judge::report::report_at_once;
use orthavis_model::demo;
use orthavis_model::document::What;
use orthavis_model::document::{Build, Load, Source, parse, parse_value};
use orthavis_model::parts::library;
use orthavis_model::states::State;
use orthavis_plan::propose::{Wish, add};
use orthavis_testing::{case, changed};
use serde_json::{Value, json};
use std::collections::BTreeSet;

fn samples() -> Vec<Build> {
    demo::BUILDS.iter().map(|text| parse(text).expect("sound")).collect()
}

/// Stops other than those that the person is told to mend next: no fuse yet, or more than a small supply carries.
fn stops(build: &Build) -> BTreeSet<(&'static str, String)> {
    let expected = ["fuse.missing", "converter.overload", "source.over", "supply.limit", "tap.over"];
    let found = judged(build).expect("solved").into_iter().filter(|finding| finding.severity == Severity::Stop && !expected.contains(&finding.code));
    found.map(|finding| (finding.code, finding.subject)).collect()
}

#[test]
fn every_part_of_the_drawer_lights_up_on_every_vehicle() {
    let mut dark = Vec::new();
    for build in samples() {
        let before = stops(&build);
        for part in library() {
            let count = Some(match &part.what {
                What::Led { .. } => 4,
                What::Light { .. } => 10,
                _ => continue,
            });
            let wish = Wish::Light { part: Box::new(part.clone()), count, piece_m: Some(0.3), place: "front".into(), from: None, length_m: 0.8 };
            let with = match add(&build, &wish) {
                Ok(with) => with,
                Err(error) => {
                    assert!(error.to_string().contains("feed it from"), "{}: {error}", part.id);
                    continue;
                }
            };
            assert_eq!(parse_value(&with.to_value()).expect("sound"), with, "{}", part.id);
            // What is left of a small rail does not carry everything: then the light is dark, and a stop says so.
            if let (Source::Rail(rail), Load::Module(module)) = (&build.source, &with.lights.last().expect("added").load)
                && module.power_w > 0.8 * rail.voltage_v * (rail.max_current_a - rail.other_load_a)
            {
                continue;
            }
            // Nor does a track light what takes more than it gives.
            if let (Source::Track(track), Load::LedArray(array)) = (&build.source, &with.lights.last().expect("added").load)
                && array.led.if_a * f64::from(array.parallel) > track.max_current_a - track.other_load_a
            {
                continue;
            }
            let light = &with.lights.last().expect("added").id;
            let new: Vec<_> = stops(&with).difference(&before).cloned().collect();
            assert!(new.is_empty(), "{} on {}: {new:?}", part.id, build.name);
            let point = report_at_once(&with).expect("solved").points.into_iter().find(|point| matches!(point.state, State::Full | State::Rail | State::Track));
            if point.expect("a point").lights[light].output < 0.5 {
                dark.push(format!("{} on {}", part.id, build.name));
            }
        }
    }
    assert!(dark.is_empty(), "{}", dark.join("\n"));
}

#[test]
fn cautions_are_said_where_they_matter() {
    let lead = |build: &Build| changed(build, &json!([{ "op": "replace", "path": "/source/chemistry", "value": "lead_flooded" }]));
    let bicycle = case("trike-arrays");
    let emitter =
        json!([{ "op": "add", "path": "/lights/0/load/led/if_a", "value": 0.7 }, { "op": "add", "path": "/lights/0/load/led/if_max_a", "value": 1.0 }]);
    let blink = json!([{ "op": "add", "path": "/scenes/0/lights/tail/duty", "value": 0.5 }]);
    let sample = |name: &str| samples().into_iter().find(|build| build.name.contains(name)).expect("a sample build");
    let table: [(Build, &str, &str, &str); 12] = [
        (bicycle.clone(), "battery", "Lithium cells", "do not charge unattended"),
        (lead(&bicycle), "battery", "Lead battery", "no flame"),
        (bicycle.clone(), "lights", "On the road", "local rule"),
        (changed(&bicycle, &emitter), "lights", "Eyes and fingers", "Do not look into it"),
        (changed(&bicycle, &blink), "lights", "Blinking light", "seizures"),
        (bicycle.clone(), "wires", "Before the first power", "put the fuse in last"),
        (bicycle.clone(), "drain", "Putting it away", "half full"),
        (lead(&bicycle), "drain", "Putting it away", "stored full"),
        (sample("chair"), "battery", "A medical device", "service technician"),
        (sample("hexacopter"), "places", "Airspace", "local ones"),
        (sample("hexacopter"), "drain", "Time to land", "a third in hand"),
        (sample("puppet"), "drain", "The gas alarm stays on", "licensed people"),
    ];
    for (build, step, title, words) in table {
        let said = serde_json::to_value(cautions(&build)).expect("json");
        let found = said.as_array().expect("cautions").iter().find(|caution| caution["step"] == step && caution["title"] == title);
        let text = found.unwrap_or_else(|| panic!("{}: nothing about {title} at {step}", build.name))["text"].as_str().expect("words");
        assert!(text.contains(words), "{title}: {text}");
    }
}

#[test]
fn cautions_come_once_and_in_the_order_of_the_job() {
    for build in samples() {
        let said = cautions(&build);
        let steps: Vec<_> = said.iter().map(|caution| caution.step).collect();
        assert!(steps.is_sorted(), "{}", build.name);
        let titles: BTreeSet<_> = said.iter().map(|caution| (caution.step, caution.title)).collect();
        assert_eq!(titles.len(), said.len(), "{}", build.name);
        for subject in said.iter().filter_map(|caution| caution.subject.as_ref()) {
            let known: Value = build.to_value();
            assert!(known.to_string().contains(&format!("\"{subject}\"")), "{}: {subject}", build.name);
        }
    }
}
