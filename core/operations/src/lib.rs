//! The pure questions by name: what server, page and tests ask, bytes in and bytes out.
//!
//! [`ask`] is the whole interface. The server's compute endpoints and the core in the page are thin shells around it, so
//! that both give the same answers in the same words. The request and response types are public for whoever describes
//! them.

pub mod bench;
pub mod circuits;
pub mod costs;
pub mod design;
mod list;
pub mod look;
pub mod make;
pub mod practice;
pub mod questions;
pub mod reference;
mod refusal;
pub mod show;
pub mod upkeep;

pub use list::OPERATIONS;
pub use refusal::{Answer, Refusal, word_of};

use orthavis_core::document::Build;
use serde::Deserialize;
use serde_json::value::RawValue;

/// A document alone.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DocumentRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
}

impl DocumentRequest {
    fn build(&self) -> Answer<Build> {
        Ok(orthavis_core::document::parse(self.document.get())?)
    }
}

/// What an answer is written in.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Media {
    /// JSON (RFC 8259).
    Json,
    /// CSV (RFC 4180), UTF-8, with a first line of names.
    Csv,
    /// iCalendar (RFC 5545).
    Calendar,
    /// A drawing (SVG 1.1).
    Svg,
    /// A graph (DOT), a netlist (SPICE) or a program (C99).
    Text,
}

impl Media {
    /// Its media type.
    pub fn of(self) -> &'static str {
        match self {
            Media::Json => "application/json",
            Media::Csv => "text/csv; charset=utf-8; header=present",
            Media::Calendar => "text/calendar; charset=utf-8",
            Media::Svg => "image/svg+xml",
            Media::Text => "text/plain; charset=utf-8",
        }
    }
}

/// How long a question may take, and what becomes of one that is asked again meanwhile.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Pace {
    /// It is asked while a hand moves, and answered before the next key.
    Quick,
    /// It tries many builds; every one that is asked is wanted.
    Tries,
    /// It searches or simulates: someone waits and sees that it goes on. A newer one of its name ends it.
    Search,
}

/// A request larger than this is not a quick question, whatever it asks, bytes.
const QUICK_BYTES: usize = 128 * 1024;

/// One question.
#[derive(Clone, Copy, Debug)]
pub struct Operation {
    /// Its name.
    pub name: &'static str,
    /// What it does.
    pub about: &'static str,
    /// What its answer is written in.
    pub media: Media,
    /// How long it may take.
    pub pace: Pace,
    run: fn(&[u8]) -> Answer<Vec<u8>>,
}

impl Operation {
    /// Whether it is answered before the next key, by what it asks and of how much.
    pub fn is_quick(&self, request: &[u8]) -> bool {
        self.pace == Pace::Quick && request.len() <= QUICK_BYTES
    }

    /// Answers the question. It counts on the budget of the thread, if there is one.
    ///
    /// # Errors
    /// Whatever is wrong with the question, named with its remedy.
    pub fn ask(&self, request: &[u8]) -> Answer<Vec<u8>> {
        (self.run)(request)
    }
}

/// Every question with its pace and the media type of its answer, as TypeScript for the page.
pub fn as_typescript() -> String {
    let line = |known: &Operation| {
        let pace = match known.pace {
            Pace::Quick => "quick",
            Pace::Tries => "tries",
            Pace::Search => "search",
        };
        let plain = known.name.bytes().all(|letter| letter.is_ascii_alphabetic());
        let name = if plain { known.name.to_owned() } else { format!("{:?}", known.name) };
        format!("  {name}: {{ pace: {pace:?}, media: {:?} }},\n", known.media.of())
    };
    format!(
        "/** Written by `cargo xtask api`: every question of the core, how long it may take, what its answer is written in. */\n\
         export const OPERATIONS: Record<string, {{ pace: \"quick\" | \"tries\" | \"search\"; media: string }}> = {{\n{}}};\n",
        OPERATIONS.iter().map(line).collect::<String>()
    )
}

/// The operation of a name.
pub fn operation(name: &str) -> Option<&'static Operation> {
    OPERATIONS.iter().find(|known| known.name == name)
}

/// Answers a question. It counts on the budget of the thread, if there is one.
///
/// # Errors
/// Whatever is wrong with the question, named with its remedy.
pub fn ask(name: &str, request: &[u8]) -> Answer<Vec<u8>> {
    let operation = operation(name).ok_or_else(|| {
        let names: Vec<&str> = OPERATIONS.iter().map(|known| known.name).collect();
        Refusal::new("operation", "No such question", format!("`{name}` is not a question known here. Ask one of {}.", names.join(", ")))
    })?;
    operation.ask(request)
}
