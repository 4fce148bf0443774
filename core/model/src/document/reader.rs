//! Text to [`Build`].

use super::build::Build;
use super::limits::MAX_BYTES;
use super::migrate::{STEPS, let_go, upgraded};
use super::read::{DocumentError, Faults, Node};
use super::record::Record;
use super::strict::{read_strict, whole};
use super::validate::check;
use serde_json::Value;

/// Reads a document.
///
/// ```
/// use orthavis_model::document::parse;
/// let sample = orthavis_model::demo::BUILDS[0];
/// let build = parse(sample).expect("a sample build");
/// assert!(!build.lights.is_empty());
/// // What is refused names its place and the remedy.
/// let error = parse(&sample.replace("\"lights\"", "\"ligths\"")).expect_err("misspelt");
/// let fault = error.faults.iter().find(|fault| fault.pointer == "/ligths").expect("at its place");
/// assert_eq!(fault.remedy, "Did you mean `lights`");
/// ```
///
/// # Errors
/// Every fault with a pointer to the field and a remedy. Nothing is dropped silently: unknown and repeated
/// fields are faults too.
pub fn parse(text: &str) -> Result<Build, DocumentError> {
    if text.len() > MAX_BYTES {
        return Err(whole(format!("it is {} bytes long", text.len()), "Keep it under 4 MiB"));
    }
    parse_value(&read_strict(text)?)
}

/// Reads a document that was taken in before. Earlier versions kept it with more white space than they took, and with
/// figures of one kind of circuit, effect or output in another, which nothing looked at: those are let go.
///
/// # Errors
/// As [`parse`], but for its length.
pub fn parse_stored(text: &str) -> Result<Build, DocumentError> {
    let value = read_strict(text)?;
    parse_value(&value).or_else(|error| {
        let mut cleared = value;
        let_go(&mut cleared, "Build");
        parse_value(&cleared).map_err(|_| error)
    })
}

/// Reads a document that is already JSON.
///
/// # Errors
/// As [`parse`].
pub fn parse_value(value: &Value) -> Result<Build, DocumentError> {
    let upgraded = upgraded(value, STEPS);
    let value = upgraded.as_ref().unwrap_or(value);
    let mut faults = Faults::default();
    let build = Node { value, path: String::new() }.object(&mut faults, Build::fill).flatten();
    if let Some(build) = build.filter(|_| faults.0.is_empty()) {
        check(&build, &mut faults);
        if faults.0.is_empty() {
            return Ok(build);
        }
    }
    Err(DocumentError { faults: faults.0 })
}

/// Whether ids, references and the supply tree still hold after an edit.
pub fn is_sound(build: &Build) -> bool {
    let mut faults = Faults::default();
    check(build, &mut faults);
    faults.0.is_empty()
}
