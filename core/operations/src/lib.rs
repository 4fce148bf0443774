//! The pure questions by name: what server, page and tests ask, bytes in and bytes out.
//!
//! [`ask`] is the whole interface. The server's compute endpoints and the core in the page are thin shells around it, so
//! that both give the same answers in the same words. The request and response types are public for whoever describes
//! them.

pub mod bench;
pub mod circuits;
pub mod costs;
pub mod make;
pub mod practice;
pub mod questions;
pub mod reference;
mod refusal;
pub mod show;
pub mod upkeep;

pub use refusal::{Answer, Refusal, word_of};

use orthavis_core::document::Build;
use serde::Deserialize;
use serde::de::DeserializeOwned;
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
    /// A graph (DOT) or a netlist (SPICE).
    Text,
}

/// How long a question may take.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Pace {
    /// It is asked while a hand moves, and answered before the next key.
    Quick,
    /// It searches, tries or simulates: someone waits and sees that it goes on.
    Long,
}

/// A request larger than this is no quick question, whatever it asks, bytes.
const QUICK_BYTES: usize = 128 * 1024;
/// What searches, tries many builds, or follows one over time.
const LONG: [&str; 25] = [
    "remedies",
    "mend",
    "report",
    "choose",
    "size",
    "drain",
    "discharge",
    "what-if",
    "what-if/csv",
    "tables",
    "csv",
    "expect",
    "diagnose",
    "correct",
    "drill",
    "answer",
    "make",
    "make/csv",
    "make/calendar",
    "fit",
    "circuit/choose",
    "show/cards",
    "journal",
    "journal/pack",
    "shopping",
];

/// One question.
#[derive(Clone, Copy, Debug)]
pub struct Operation {
    /// Its name.
    pub name: &'static str,
    /// What its answer is written in.
    pub media: Media,
    run: fn(&[u8]) -> Answer<Vec<u8>>,
}

impl Operation {
    /// How long it may take, by what it asks and of how much.
    pub fn pace(&self, request: &[u8]) -> Pace {
        if LONG.contains(&self.name) || request.len() > QUICK_BYTES { Pace::Long } else { Pace::Quick }
    }

    /// Answers the question. It counts on the budget of the thread, if there is one.
    ///
    /// # Errors
    /// Whatever is wrong with the question, named with its remedy.
    pub fn ask(&self, request: &[u8]) -> Answer<Vec<u8>> {
        (self.run)(request)
    }
}

fn read<T: DeserializeOwned>(request: &[u8]) -> Answer<T> {
    serde_json::from_slice(request).map_err(|error| Refusal::unreadable(&error))
}

macro_rules! operations {
    ($($name:literal => $function:path),+ $(,)?) => {
        /// Every question, in the order in which people meet them.
        pub const OPERATIONS: &[Operation] = &[$(
            Operation { name: $name, media: Media::Json, run: |request| json(&$function(read(request)?)?) }
        ),+];
    };
}

fn json(answer: &impl serde::Serialize) -> Answer<Vec<u8>> {
    serde_json::to_vec(answer).map_err(|error| Refusal::new("answer", "The answer cannot be written", format!("{error}. Report the build.")))
}

operations! {
    "reference" => reference::reference,
    "starter" => questions::starter,
    "label" => reference::label,
    "measured" => reference::measured,
    "verdict" => questions::judge,
    "solve" => questions::solve,
    "remedies" => questions::remedies,
    "mend" => questions::mend,
    "report" => questions::whole_report,
    "apply" => questions::apply,
    "add" => questions::add,
    "adding" => questions::adding,
    "remove" => questions::take_out,
    "choose" => questions::choose,
    "size" => questions::size,
    "drain" => costs::drained,
    "discharge" => costs::discharged,
    "what-if" => costs::tried,
    "tables" => costs::tabled,
    "faults" => bench::faults,
    "probe" => bench::probe,
    "pinch" => bench::pinched,
    "expect" => bench::expected,
    "diagnose" => bench::diagnosed,
    "correct" => bench::corrected,
    "practice" => practice::practice,
    "lesson" => practice::taught,
    "drill" => practice::dealt,
    "measure" => practice::measured,
    "answer" => practice::marked,
    "make" => make::made,
    "cuts" => make::cut_list,
    "shopping" => make::parts_list,
    "diagram" => make::drawn,
    "labels" => make::flags,
    "fit" => make::fitted,
    "circuit" => circuits::figures,
    "circuit/view" => circuits::drawn,
    "circuit/choose" => circuits::chosen,
    "circuit/board" => circuits::laid_out,
    "pins" => circuits::pins,
    "show" => show::view,
    "show/frames" => show::play,
    "show/arrives" => show::arrive,
    "show/cards" => show::pick,
    "show/sort" => show::sort,
    "journal" => upkeep::journal,
    "journal/due" => upkeep::reminders,
    "journal/said" => upkeep::understood,
    "journal/pack" => upkeep::pack,
}

/// Questions that are answered with a table, a calendar or a drawing.
pub const TABLES: &[Operation] = &[
    Operation { name: "what-if/csv", media: Media::Csv, run: |request| Ok(costs::tried_as_csv(read(request)?)?.into_bytes()) },
    Operation { name: "csv", media: Media::Csv, run: |request| Ok(costs::as_csv(read(request)?)?.into_bytes()) },
    Operation { name: "make/csv", media: Media::Csv, run: |request| Ok(make::as_csv(read(request)?)?.into_bytes()) },
    Operation { name: "make/calendar", media: Media::Calendar, run: |request| Ok(make::as_calendar(read(request)?)?.into_bytes()) },
    Operation { name: "diagram/svg", media: Media::Svg, run: |request| Ok(make::as_svg(read(request)?)?.into_bytes()) },
    Operation { name: "diagram/dot", media: Media::Text, run: |request| Ok(make::as_dot(read(request)?)?.into_bytes()) },
    Operation { name: "circuit/netlist", media: Media::Text, run: |request| Ok(circuits::as_netlist(read(request)?)?.into_bytes()) },
    Operation { name: "circuit/csv", media: Media::Csv, run: |request| Ok(circuits::as_csv(read(request)?)?.into_bytes()) },
    Operation { name: "show/json", media: Media::Text, run: |request| Ok(show::as_json(read(request)?)?.into_bytes()) },
    Operation { name: "show/csv", media: Media::Csv, run: |request| Ok(show::as_csv(read(request)?)?.into_bytes()) },
    Operation { name: "show/map", media: Media::Csv, run: |request| Ok(show::as_map(read(request)?)?.into_bytes()) },
    Operation { name: "show/header", media: Media::Text, run: |request| Ok(show::as_header(read(request)?)?.into_bytes()) },
    Operation { name: "show/source", media: Media::Text, run: |request| Ok(show::as_source(read(request)?)?.into_bytes()) },
    Operation { name: "journal/csv", media: Media::Csv, run: |request| Ok(upkeep::as_csv(read(request)?)?.into_bytes()) },
    Operation { name: "journal/calendar", media: Media::Calendar, run: |request| Ok(upkeep::as_calendar(read(request)?)?.into_bytes()) },
    Operation { name: "journal/svg", media: Media::Svg, run: |request| Ok(upkeep::as_svg(read(request)?)?.into_bytes()) },
    Operation { name: "netlist", media: Media::Text, run: |request| Ok(make::as_netlist(read(request)?)?.into_bytes()) },
];

/// The operation of a name.
pub fn operation(name: &str) -> Option<&'static Operation> {
    OPERATIONS.iter().chain(TABLES).find(|known| known.name == name)
}

/// Answers a question. It counts on the budget of the thread, if there is one.
///
/// # Errors
/// Whatever is wrong with the question, named with its remedy.
pub fn ask(name: &str, request: &[u8]) -> Answer<Vec<u8>> {
    let operation = operation(name).ok_or_else(|| {
        let names: Vec<&str> = OPERATIONS.iter().chain(TABLES).map(|known| known.name).collect();
        Refusal::new("operation", "No such question", format!("`{name}` is no question known here. Ask one of {}.", names.join(", ")))
    })?;
    operation.ask(request)
}
