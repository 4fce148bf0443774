//! Words of the trade, for someone who has never met them.

use serde::{Deserialize, Serialize};
use std::sync::OnceLock;

/// One word.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Entry {
    /// The word.
    pub term: String,
    /// What it means.
    pub words: String,
}

/// All of them; the file that ships is sound, which a test shows.
pub fn entries() -> &'static [Entry] {
    static ENTRIES: OnceLock<Vec<Entry>> = OnceLock::new();
    ENTRIES.get_or_init(|| serde_json::from_str(include_str!("../data/glossary.json")).unwrap_or_default())
}
