//! RFC 6902 changes to a document, with a bound on what they make while they make it: a `copy` of the root into
//! itself doubles the document each time.

use super::MAX_BYTES;
use json_patch::{Patch, PatchOperation};
use serde_json::Value;

/// Most operations in one change.
const MAX_OPERATIONS: usize = 20_000;
/// Objects and lists within each other.
const MAX_DEPTH: usize = 64;

/// Why a change was not made.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum PatchError {
    /// An operation that names what is not there, or tests for what is not so.
    #[error("{0}. The build has changed since; take the change from a fresh report")]
    Misfit(String),
    /// More than a change may do.
    #[error("{0} operations are too many. Keep a change to {MAX_OPERATIONS}")]
    TooMany(usize),
    /// It would make the document too large.
    #[error("operation {0} would make the build larger than {MAX_BYTES} bytes. Leave it out")]
    TooLarge(usize),
    /// It would nest the document too deeply.
    #[error("operation {0} would nest the build deeper than {MAX_DEPTH} levels. Leave it out")]
    TooDeep(usize),
}

/// The document with the changes made, all or none.
///
/// # Errors
/// The first operation that does not fit, or goes too far.
pub fn patched(document: &Value, changes: &Patch) -> Result<Value, PatchError> {
    if changes.0.len() > MAX_OPERATIONS {
        return Err(PatchError::TooMany(changes.0.len()));
    }
    let mut value = document.clone();
    let mut size = measure(&value).0;
    for (index, operation) in changes.0.iter().enumerate() {
        // What comes in addition, and how deep it reaches where it goes.
        let at = |path: &str| path.matches('/').count();
        let (added, depth) = match operation {
            PatchOperation::Add(add) => with(measure(&add.value), at(add.path.as_str())),
            PatchOperation::Replace(replace) => with(measure(&replace.value), at(replace.path.as_str())),
            PatchOperation::Copy(copy) => with(value.pointer(copy.from.as_str()).map_or((0, 0), measure), at(copy.path.as_str())),
            PatchOperation::Move(moved) => (0, value.pointer(moved.from.as_str()).map_or(0, |part| measure(part).1) + at(moved.path.as_str())),
            PatchOperation::Remove(_) | PatchOperation::Test(_) => (0, 0),
        };
        size = size.saturating_add(added);
        if size > MAX_BYTES {
            return Err(PatchError::TooLarge(index));
        }
        if depth > MAX_DEPTH {
            return Err(PatchError::TooDeep(index));
        }
        json_patch::patch(&mut value, std::slice::from_ref(operation)).map_err(|error| PatchError::Misfit(error.to_string()))?;
    }
    Ok(value)
}

fn with((size, depth): (usize, usize), at: usize) -> (usize, usize) {
    (size, depth + at)
}

/// Size in bytes, about as it is written, and depth.
fn measure(value: &Value) -> (usize, usize) {
    match value {
        Value::Object(map) => map.iter().fold((2, 1), |(size, depth), (key, value)| {
            let (inner, below) = measure(value);
            (size + key.len() + 4 + inner, depth.max(below + 1))
        }),
        Value::Array(items) => items.iter().fold((2, 1), |(size, depth), value| {
            let (inner, below) = measure(value);
            (size + 1 + inner, depth.max(below + 1))
        }),
        Value::String(text) => (text.len() + 2, 0),
        Value::Number(_) => (8, 0),
        Value::Null | Value::Bool(_) => (4, 0),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    fn change(document: &Value, changes: Value) -> Result<Value, PatchError> {
        patched(document, &serde_json::from_value(changes).expect("changes"))
    }

    #[test]
    fn changes_are_made_in_order() {
        let changed = change(&json!({ "a": [1, 2] }), json!([{ "op": "add", "path": "/a/-", "value": 3 }, { "op": "move", "from": "/a/0", "path": "/b" }]));
        assert_eq!(changed, Ok(json!({ "a": [2, 3], "b": 1 })));
        assert!(matches!(change(&json!({}), json!([{ "op": "remove", "path": "/a" }])), Err(PatchError::Misfit(_))));
    }

    #[test]
    fn a_bomb_is_refused_while_it_grows() {
        let document = json!({ "a": "x".repeat(1000) });
        let copies: Vec<Value> = (0..40).map(|n| json!({ "op": "copy", "from": "", "path": format!("/c{n}") })).collect();
        assert!(matches!(change(&document, json!(copies)), Err(PatchError::TooLarge(_))));
        let nest: Vec<Value> = (0..80).map(|_| json!({ "op": "move", "from": "/a", "path": "/a/a" })).collect();
        assert!(change(&document, json!(nest)).is_err());
        let deep: Vec<Value> = (0..80).map(|n| json!({ "op": "add", "path": "/d".repeat(n + 1), "value": {} })).collect();
        assert!(matches!(change(&json!({}), json!(deep)), Err(PatchError::TooDeep(_))));
        let many: Vec<Value> = (0..=MAX_OPERATIONS).map(|_| json!({ "op": "test", "path": "", "value": {} })).collect();
        assert!(matches!(change(&json!({}), json!(many)), Err(PatchError::TooMany(_))));
    }
}
