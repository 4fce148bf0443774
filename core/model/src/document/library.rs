//! The parts library: generic parts with figures to plan by, and what a person adds of their own.
//!
//! The data are files below `parts/`, read by the same parser as a build, so that a part outside its physical range
//! cannot get in. Every part says where its figures come from; prices are a rough guide for a parts list.

use super::build::Build;
use super::part::{Part, What};
use super::part_reader::parse_part;
use super::things::Load;
use std::sync::OnceLock;

const FILES: [(&str, &str); 11] = [
    ("batteries", include_str!("../../parts/batteries.json")),
    ("leds", include_str!("../../parts/leds.json")),
    ("strips", include_str!("../../parts/strips.json")),
    ("pixels", include_str!("../../parts/pixels.json")),
    ("modules", include_str!("../../parts/modules.json")),
    ("bulbs", include_str!("../../parts/bulbs.json")),
    ("converters", include_str!("../../parts/converters.json")),
    ("wires", include_str!("../../parts/wires.json")),
    ("fuses", include_str!("../../parts/fuses.json")),
    ("switches", include_str!("../../parts/switches.json")),
    ("connectors", include_str!("../../parts/connectors.json")),
];

/// Reads the files.
///
/// # Errors
/// The first file and fault; the library that ships has none, which a test shows.
pub fn read_library() -> Result<Vec<Part>, String> {
    let mut parts = Vec::new();
    for (file, text) in FILES {
        let entries: Vec<serde_json::Value> = serde_json::from_str(text).map_err(|error| format!("{file}: {error}"))?;
        for entry in &entries {
            parts.push(parse_part(entry).map_err(|error| format!("{file}: {error}"))?);
        }
    }
    Ok(parts)
}

/// Every part that ships, in the order people look for them.
pub fn library() -> &'static [Part] {
    static LIBRARY: OnceLock<Vec<Part>> = OnceLock::new();
    LIBRARY.get_or_init(|| read_library().unwrap_or_default())
}

/// A part that ships, by id.
pub fn find(id: &str) -> Option<&'static Part> {
    library().iter().find(|part| part.id == id)
}

/// A bulb among a build's own parts or in the library.
pub fn bulb<'a>(build: &'a Build, id: &str) -> Option<&'a Part> {
    let part = build.parts.iter().find(|part| part.id == id).or_else(|| find(id))?;
    matches!(&part.what, What::Bulb { load: Load::Module(_), .. }).then_some(part)
}
