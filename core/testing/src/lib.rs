//! What the tests of every layer start from: the public cases, and edits of them.

pub mod circuits;
pub mod random;
pub mod shows;
pub mod spice;

use orthavis_model::document::{Build, parse, parse_value};
use serde_json::Value;
use std::collections::BTreeSet;
use std::path::Path;

/// A file of this crate.
///
/// # Panics
/// When there is none.
pub fn file(name: &str) -> String {
    std::fs::read_to_string(Path::new(env!("CARGO_MANIFEST_DIR")).join(name)).expect(name)
}

/// A public case by name.
pub fn case(name: &str) -> Build {
    parse(&file(&format!("cases/{name}.json"))).expect(name)
}

/// A build with RFC 6902 changes applied.
pub fn changed(build: &Build, changes: &Value) -> Build {
    let mut document = build.to_value();
    let patch: json_patch::Patch = serde_json::from_value(changes.clone()).expect("changes");
    json_patch::patch(&mut document, &patch).expect("changes that fit");
    parse_value(&document).unwrap_or_else(|error| panic!("{changes}: {error}"))
}

/// Every public case by name.
pub fn cases() -> Vec<(String, Build)> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("cases");
    let mut names: Vec<String> =
        std::fs::read_dir(folder).expect("cases").map(|entry| entry.expect("entry").file_name().to_string_lossy().into_owned()).collect();
    names.sort();
    let names = names.into_iter().filter_map(|name| Some(name.strip_suffix(".json")?.to_owned())).filter(|name| !name.ends_with(".expected"));
    names.map(|name| (name.clone(), case(&name))).collect()
}

/// Pinches with what an independent program makes of them, by name.
pub fn pinches() -> Vec<(String, Value)> {
    in_folder("pinch")
}

/// Lights with what an independent program makes of them, by name.
pub fn lights() -> Vec<(String, Value)> {
    in_folder("light")
}

fn in_folder(folder: &str) -> Vec<(String, Value)> {
    let entries = std::fs::read_dir(Path::new(env!("CARGO_MANIFEST_DIR")).join(folder)).expect(folder);
    let names = entries.map(|entry| entry.expect("entry").file_name().to_string_lossy().into_owned());
    names.map(|name| (name.clone(), serde_json::from_str(&file(&format!("{folder}/{name}"))).expect("JSON"))).collect()
}

/// Edited builds with what must be found in them: `findings.json`.
pub fn table() -> Vec<(String, Build, BTreeSet<String>)> {
    let rows: Vec<Value> = serde_json::from_str(&file("findings.json")).expect("a table");
    let text = |value: &Value| value.as_str().expect("text").to_owned();
    rows.iter()
        .map(|row| {
            let expected = row["expect"].as_array().map(|all| all.iter().map(text).collect()).unwrap_or_default();
            (text(&row["name"]), changed(&case(&text(&row["base"])), &row["changes"]), expected)
        })
        .collect()
}

/// A show with the frames that an independent program gives.
pub struct ShowCase {
    /// The build.
    pub build: Build,
    /// Id of the scene.
    pub scene: String,
    /// What inputs say, by name.
    pub inputs: Value,
    /// Moments, s, each with the codes of every output.
    pub frames: Vec<(f64, Value)>,
}

/// The shows by name.
pub fn show_cases() -> Vec<(String, ShowCase)> {
    ["chase-with-copies", "ember-and-gauge", "rainbow-limited", "steady-and-breathe"]
        .into_iter()
        .map(|name| {
            let case: Value = serde_json::from_str(&file(&format!("show/{name}.json"))).expect(name);
            let frames = case["frames"].as_array().expect("frames").iter().map(|frame| (frame["t_s"].as_f64().expect("a moment"), frame["outputs"].clone()));
            let build = parse_value(&case["document"]).unwrap_or_else(|error| panic!("{name}: {error}"));
            let scene = case["scene"].as_str().expect("a scene").to_owned();
            (name.to_owned(), ShowCase { build, scene, inputs: case["inputs"].clone(), frames: frames.collect() })
        })
        .collect()
}
