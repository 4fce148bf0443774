//! Builds solved by an independent program: every figure, endurance and finding must agree.
//!
//! A pair `NAME.json`, `NAME.expected.json` put into `core/testing/cases` is tested without touching this file.

use orthavis_judge::report::{Report, report};
use orthavis_model::document::{Build, parse};
use serde_json::Value;
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

fn cases() -> Vec<(String, Build, Value)> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../testing/cases");
    let mut files: Vec<PathBuf> = std::fs::read_dir(folder).expect("cases").map(|entry| entry.expect("entry").path()).collect();
    files.sort();
    let documents = files.iter().filter(|path| path.is_file() && !path.to_string_lossy().ends_with(".expected.json"));
    documents
        .map(|path| {
            let name = path.file_stem().expect("name").to_string_lossy().into_owned();
            let text = std::fs::read_to_string(path).expect("document");
            let expected = std::fs::read_to_string(path.with_extension("expected.json")).expect("expected figures");
            (name, parse(&text).expect("a sound document"), serde_json::from_str(&expected).expect("expected figures"))
        })
        .collect()
}

fn solved(build: &Build) -> Report {
    report(build).expect("a solution")
}

/// Every number of `expected` is in `actual` under the same path, within `share` or an absolute crumb.
fn compare(path: &str, expected: &Value, actual: &Value, share: f64, wrong: &mut Vec<String>) {
    match expected {
        Value::Object(map) => map.iter().for_each(|(key, value)| compare(&format!("{path}/{key}"), value, &actual[key], share, wrong)),
        Value::Number(number) => {
            let (want, got) = (number.as_f64().expect("finite"), actual.as_f64().unwrap_or(f64::NAN));
            let close = (got - want).abs() <= share * want.abs() + 1e-7;
            if !close {
                wrong.push(format!("{path}: expected {want}, got {got}"));
            }
        }
        other if other != actual => wrong.push(format!("{path}: expected {other}, got {actual}")),
        _ => {}
    }
}

#[test]
fn figures_agree_within_half_a_percent() {
    let mut wrong = Vec::new();
    let all = cases();
    assert!(all.len() >= 6, "only {} cases found", all.len());
    for (name, build, expected) in all {
        let actual = serde_json::to_value(solved(&build).points).expect("json");
        let points = expected["points"].as_array().expect("points");
        // Those under way come after what the other programs know.
        let (known, moving) = actual.as_array().expect("points").split_at(points.len());
        assert!(known.iter().all(|point| point["state"] != "under_way") && moving.iter().all(|point| point["state"] == "under_way"), "{name}: points");
        assert_eq!(moving.len(), if build.motor_w().is_some() { build.scenes.len() } else { 0 }, "{name}: points under way");
        for (index, point) in points.iter().enumerate() {
            compare(&format!("{name}/{index}"), point, &actual[index], 0.005, &mut wrong);
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn endurance_agrees_within_two_percent() {
    let mut wrong = Vec::new();
    for (name, build, expected) in cases() {
        let actual = serde_json::to_value(solved(&build).endurance).expect("json");
        let scenes = expected["endurance"].as_array().expect("endurance");
        assert_eq!(scenes.len(), actual.as_array().expect("endurance").len(), "{name}: number of scenes");
        for (index, scene) in scenes.iter().enumerate() {
            compare(&format!("{name}/{index}"), scene, &actual[index], 0.02, &mut wrong);
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn findings_agree_exactly() {
    for (name, build, expected) in cases() {
        let key = |finding: &Value| ["severity", "code", "subject"].map(|field| finding[field].as_str().unwrap_or_default().to_owned());
        let want: BTreeSet<_> = expected["findings"].as_array().expect("findings").iter().map(key).collect();
        let actual = serde_json::to_value(solved(&build).findings).expect("json");
        // What the other program does not judge: places, what is parked, what nobody asked, dimmers and the volts of contacts.
        let own = |finding: &&Value| {
            ["place.", "source.parked", "source.charging_lit", "dimmer.missing", "switch.voltage"]
                .iter()
                .any(|family| finding["code"].as_str().is_some_and(|code| code.starts_with(family)))
        };
        let got: BTreeSet<_> = actual.as_array().expect("findings").iter().filter(|finding| !own(finding)).map(key).collect();
        assert_eq!(want, got, "{name}");
    }
}
