//! Why a question has no answer, in the same words wherever it is asked.

use orthavis_core::budget::Stopped;
use orthavis_core::choose::ChooseError;
use orthavis_core::document::{DocumentError, Fault, PatchError};
use orthavis_core::network::SolveError;
use orthavis_core::points::PointError;
use orthavis_core::propose::WishError;
use orthavis_core::remove::RemovalError;
use serde::Serialize;

/// What an operation gives back.
pub type Answer<T> = Result<T, Refusal>;

/// RFC 9457 problem details, without what only a server knows.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Refusal {
    /// A name for this kind of problem.
    #[serde(rename = "type")]
    pub kind: &'static str,
    /// The kind in a few words.
    pub title: &'static str,
    /// HTTP status.
    pub status: u16,
    /// What happened and what to do.
    pub detail: String,
    /// Fields at fault.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub errors: Vec<Fault>,
}

/// What was asked can be read but cannot be.
const UNPROCESSABLE: u16 = 422;
/// What was asked cannot be read.
const BAD: u16 = 400;
/// Nobody waits for it any more.
const UNAVAILABLE: u16 = 503;

impl Refusal {
    /// What was asked cannot be.
    pub fn new(kind: &'static str, title: &'static str, detail: impl Into<String>) -> Self {
        Refusal { kind, title, status: UNPROCESSABLE, detail: detail.into(), errors: Vec::new() }
    }

    /// The request cannot be read.
    pub fn unreadable(error: &serde_json::Error) -> Self {
        Refusal { status: BAD, ..Refusal::new("request", "The request cannot be read", format!("{error}. Mend the field it names.")) }
    }
}

impl From<DocumentError> for Refusal {
    fn from(error: DocumentError) -> Self {
        let detail = error.to_string();
        Refusal { errors: error.faults, ..Refusal::new("document", "The build cannot be read", detail) }
    }
}

impl Refusal {
    /// A computation that ended without an answer; `size` says what is large.
    pub(crate) fn stopped(why: Stopped, size: &str) -> Self {
        match why {
            Stopped::CalledOff => Refusal { status: UNAVAILABLE, ..Refusal::new("busy", "Called off", "The computation was called off. Ask again.") },
            Stopped::TooMuch => {
                let detail = format!("The build is too large to be computed: {size}. Make it smaller: fewer scenes, shorter strips, or two builds.");
                Refusal::new("too-large", "Too large to compute", detail)
            }
        }
    }
}

impl From<PatchError> for Refusal {
    fn from(error: PatchError) -> Self {
        Refusal::new("changes", "The change does not fit", format!("{error}."))
    }
}

impl From<PointError> for Refusal {
    fn from(error: PointError) -> Self {
        match &error.error {
            SolveError::CalledOff => Refusal::stopped(Stopped::CalledOff, ""),
            SolveError::TooMuch { size } => Refusal::stopped(Stopped::TooMuch, size),
            _ => {
                let detail = format!("{error}. Give it a supply that can carry it, a thicker wire, or less light.");
                Refusal::new("no-steady-state", "We cannot calculate this build; it may keep switching on and off", detail)
            }
        }
    }
}

impl From<WishError> for Refusal {
    fn from(error: WishError) -> Self {
        Refusal::new("wish", "The part cannot be added like this", error.to_string())
    }
}

impl From<RemovalError> for Refusal {
    fn from(error: RemovalError) -> Self {
        Refusal::new("removal", "It cannot be taken out", error.to_string())
    }
}

impl From<ChooseError> for Refusal {
    fn from(error: ChooseError) -> Self {
        Refusal::new("choose", "There is nothing to choose from", error.to_string())
    }
}

/// The value that a word stands for.
///
/// # Errors
/// When it is none of the words.
pub fn word_of<T: Copy>(field: &str, word: &str, words: &[(&'static str, T)]) -> Answer<T> {
    let known = words.iter().find(|(known, _)| *known == word).map(|(_, value)| *value);
    known.ok_or_else(|| {
        let names: Vec<String> = words.iter().map(|(known, _)| format!("`{known}`")).collect();
        Refusal::new("word", "Unknown word", format!("`{word}` is not a {field} known here. Use one of {}.", names.join(", ")))
    })
}
