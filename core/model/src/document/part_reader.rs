//! JSON to [`Part`]: what the library and a person's own parts have in common.

use super::part::Part;
use super::read::{DocumentError, Faults, Node};
use super::record::Record;
use super::strict::read_strict;
use serde_json::Value;

/// Reads a part of the library or of a person's own.
///
/// # Errors
/// Every fault with a pointer to the field and a remedy.
pub fn parse_part(value: &Value) -> Result<Part, DocumentError> {
    let mut faults = Faults::default();
    let read = Node { value, path: String::new() }.object(&mut faults, Part::fill).flatten();
    read.filter(|_| faults.0.is_empty()).ok_or(DocumentError { faults: faults.0 })
}

/// Reads the text of a part.
///
/// # Errors
/// As [`parse_part`].
pub fn parse_part_text(text: &str) -> Result<Part, DocumentError> {
    parse_part(&read_strict(text)?)
}
