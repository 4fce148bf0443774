//! Base builds and edits of them.

#![allow(dead_code, reason = "each test takes what it needs")]

use orthavis_core::document::{Build, parse, parse_value};
use serde_json::Value;
use std::path::Path;

/// A file below `tests`.
pub fn file(name: &str) -> String {
    std::fs::read_to_string(Path::new(env!("CARGO_MANIFEST_DIR")).join("tests").join(name)).expect(name)
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
