//! The journal of a build: what happened to it, as events that are never edited. A correction is another event that
//! names the one it replaces.

mod happened;

pub use happened::{Charge, Drill, Happened, Note, PartChange, Reading, Repair, Ride, Tick, TickState, Timer, Unclear};

use crate::document::{DocumentError, Fault};
use crate::moment::Moment;
use crate::words;
use serde::Serialize;
use serde_json::{Map, Value};

words! {
    /// What kind of thing happened.
    EventKind {
        /// A step of the building was done, undone or found wrong.
        Tick = "tick",
        /// Something was measured.
        Reading = "reading",
        /// An outing.
        Ride = "ride",
        /// The battery was charged.
        Charge = "charge",
        /// Something failed and was mended.
        Fault = "fault",
        /// A part was replaced, fitted or bought.
        Part = "part",
        /// Something cures or waits until a time.
        Timer = "timer",
        /// A fault was looked for as an exercise.
        Drill = "drill",
        /// Words, and perhaps a picture.
        Note = "note",
    }
}

words! {
    /// How a journal is written.
    JournalFormat {
        /// One event a line, as JSON.
        Jsonl = "jsonl",
        /// A table, the data of an event as JSON in its cell.
        Csv = "csv",
    }
}

/// The kind of an event: one that is known here, or that of a newer version, which is kept whole.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Kind {
    /// Known here.
    Known(EventKind),
    /// Of another version.
    Unknown(String),
}

impl Kind {
    /// The word that an event has for it.
    pub fn word(&self) -> &str {
        match self {
            Kind::Known(kind) => kind.word(),
            Kind::Unknown(word) => word,
        }
    }

    /// The kind of a word; `None`: it is none, of whatever version.
    fn of(word: &str) -> Option<Kind> {
        let known = EventKind::WORDS.iter().find(|(known, _)| *known == word).map(|(_, kind)| Kind::Known(*kind));
        let could_be = (1..=40).contains(&word.len()) && word.bytes().all(|letter| letter.is_ascii_lowercase() || letter == b'_');
        known.or_else(|| could_be.then(|| Kind::Unknown(word.to_owned())))
    }
}

impl From<EventKind> for Kind {
    fn from(kind: EventKind) -> Self {
        Kind::Known(kind)
    }
}

impl PartialEq<EventKind> for Kind {
    fn eq(&self, other: &EventKind) -> bool {
        *self == Kind::Known(*other)
    }
}

impl Serialize for Kind {
    fn serialize<S: serde::Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        to.serialize_str(self.word())
    }
}

/// How an event is described: its kind says what its data says.
#[cfg(feature = "schema")]
#[derive(utoipa::ToSchema)]
#[schema(as = JournalEvent)]
#[expect(dead_code, reason = "it describes, and is never made")]
struct Described {
    /// UUID of version 7, made by whoever writes it: sent twice it is kept once.
    id: String,
    /// The build whose it is, where it says one.
    build: Option<i64>,
    /// When, RFC 3339 with the offset of the place.
    at: String,
    /// The event that this one corrects.
    replaces: Option<String>,
    #[schema(inline)]
    #[serde(flatten)]
    happened: Happened,
}

#[cfg(feature = "schema")]
impl utoipa::PartialSchema for Event {
    fn schema() -> utoipa::openapi::RefOr<utoipa::openapi::schema::Schema> {
        Described::schema()
    }
}

#[cfg(feature = "schema")]
impl utoipa::ToSchema for Event {
    fn name() -> std::borrow::Cow<'static, str> {
        Described::name()
    }

    fn schemas(schemas: &mut Vec<(String, utoipa::openapi::RefOr<utoipa::openapi::schema::Schema>)>) {
        Described::schemas(schemas);
    }
}

/// One thing that happened.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Event {
    /// UUID of version 7, made by whoever writes it: sent twice it is kept once.
    pub id: String,
    /// The build whose it is, where it says one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub build: Option<i64>,
    /// When, RFC 3339 with the offset of the place.
    pub at: String,
    /// What kind of thing.
    pub kind: Kind,
    /// What is said of it, as it was written; [`Happened::of`] reads it.
    pub data: Map<String, Value>,
    /// The event that this one corrects.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub replaces: Option<String>,
}

/// Bytes that the data of one event may take.
pub const MAX_DATA: usize = 64 * 1024;
/// Events that may be sent at once.
pub const MAX_BATCH: usize = 10_000;

/// Reads one event that is written here and now.
///
/// # Errors
/// As [`read_event`]; a kind that is not known here is a fault, too.
pub fn parse_event(value: &Value) -> Result<Event, DocumentError> {
    let event = read_event(value)?;
    match &event.kind {
        Kind::Known(_) => Ok(event),
        Kind::Unknown(word) => {
            let known: Vec<&str> = EventKind::WORDS.iter().map(|(word, _)| *word).collect();
            let (problem, remedy) = (format!("`{word}` is not a kind of event"), format!("Use one of {}", known.join(", ")));
            Err(DocumentError { faults: vec![Fault { pointer: "/kind".into(), problem, remedy }] })
        }
    }
}

/// Reads one event that was kept, whatever version wrote it.
///
/// # Errors
/// Every fault with a pointer to the field and a remedy; unknown fields beside its data are faults too.
pub fn read_event(value: &Value) -> Result<Event, DocumentError> {
    let mut faults = Vec::new();
    let mut fault = |pointer: &str, problem: String, remedy: &str| faults.push(Fault { pointer: pointer.into(), problem, remedy: remedy.into() });
    let Some(fields) = value.as_object() else {
        fault("", "an event is an object".into(), "Give id, at, kind and data");
        return Err(DocumentError { faults });
    };
    for name in fields.keys().filter(|name| !["id", "build", "at", "kind", "data", "replaces"].contains(&name.as_str())) {
        fault(&format!("/{name}"), "an event has no such field".into(), "Put it into `data`, or leave it out");
    }
    let text = |name: &str| fields.get(name).and_then(Value::as_str).unwrap_or_default();
    let (id, at, word) = (text("id"), text("at"), text("kind"));
    if !is_uuid7(id) {
        fault("/id", format!("`{id}` is not a UUID of version 7"), "Make one where the event is written, in lower case");
    }
    if !is_moment(at) || Moment::parse(at).is_none() {
        fault("/at", format!("`{at}` is not a moment"), "Write it as 2026-05-02T18:40:00+02:00");
    }
    let kind = Kind::of(word);
    if kind.is_none() {
        let known: Vec<&str> = EventKind::WORDS.iter().map(|(word, _)| *word).collect();
        fault("/kind", format!("`{word}` is not a kind of event"), &format!("Use one of {}", known.join(", ")));
    }
    let build = fields.get("build").filter(|value| !value.is_null());
    if build.is_some_and(|value| value.as_i64().is_none()) {
        fault("/build", format!("`{}` is not a number of a build", build.unwrap_or(&Value::Null)), "Give the number of the build whose it is, or leave it out");
    }
    let build = build.and_then(Value::as_i64);
    let data = match fields.get("data") {
        None | Some(Value::Null) => Some(Map::new()),
        Some(Value::Object(data)) => Some(data.clone()),
        Some(_) => None,
    };
    match &data {
        None => fault("/data", "it is not an object".into(), "Give fields with their values, or leave it out"),
        Some(data) if serde_json::to_string(data).map_or(0, |text| text.len()) > MAX_DATA => {
            fault("/data", "it is too large".into(), "Keep it under 64 KiB; a picture belongs in a file of its own");
        }
        Some(_) => {}
    }
    let replaces = match fields.get("replaces") {
        None | Some(Value::Null) => None,
        Some(other) => {
            let other = other.as_str().unwrap_or_default();
            if !is_uuid7(other) || other == id {
                fault("/replaces", format!("`{other}` names no other event"), "Give the id of the event that this one corrects");
            }
            Some(other.to_owned())
        }
    };
    match (kind, data) {
        (Some(kind), Some(data)) if faults.is_empty() => Ok(Event { id: id.into(), build, at: at.into(), kind, data, replaces }),
        _ => Err(DocumentError { faults }),
    }
}

/// Whether a text is a UUID of version 7 as RFC 9562 writes it.
pub fn is_uuid7(text: &str) -> bool {
    let read = uuid::Uuid::try_parse(text).ok();
    // As the standard writes them: in small letters, with hyphens.
    read.is_some_and(|id| id.get_version_num() == 7 && id.get_variant() == uuid::Variant::RFC4122 && id.hyphenated().to_string() == text)
}

/// Whether a text is written as RFC 3339 has it: date, time to the second at least, offset.
fn is_moment(text: &str) -> bool {
    let Some((day_time, offset)) = text.split_at_checked(19) else { return false };
    let shape = |text: &str, pattern: &str| {
        text.len() == pattern.len() && text.bytes().zip(pattern.bytes()).all(|(byte, want)| if want == b'0' { byte.is_ascii_digit() } else { byte == want })
    };
    let (fraction, zone) = offset.split_at(offset.find(['Z', '+', '-']).unwrap_or(offset.len()));
    let fraction =
        fraction.is_empty() || fraction.len() > 1 && fraction.len() < 8 && fraction.starts_with('.') && fraction[1..].bytes().all(|b| b.is_ascii_digit());
    shape(day_time, "0000-00-00T00:00:00") && fraction && (zone == "Z" || shape(zone, "+00:00") || shape(zone, "-00:00"))
}

/// Events as JSON Lines: one a line, each as it is sent.
pub fn to_lines(events: &[Event]) -> String {
    events.iter().filter_map(|event| serde_json::to_string(event).ok()).map(|line| line + "\n").collect()
}

/// Events with the number of the line that each is on, from 0, and every fault, its pointer led by that number.
pub type Read = (Vec<(usize, Event)>, Vec<Fault>);

/// Reads JSON Lines; empty lines count for nothing.
///
/// # Errors
/// Every fault, its pointer led by the number of its line.
pub fn from_lines(text: &str) -> Result<Vec<Event>, DocumentError> {
    let (events, faults) = read_lines(text);
    if faults.is_empty() { Ok(events.into_iter().map(|(_, event)| event).collect()) } else { Err(DocumentError { faults }) }
}

/// Reads what can be read of JSON Lines.
pub fn read_lines(text: &str) -> Read {
    let mut faults = Vec::new();
    let mut events = Vec::new();
    for (index, line) in text.lines().enumerate().filter(|(_, line)| !line.trim().is_empty()) {
        let read = match crate::document::read_strict(line) {
            Ok(value) => read_event(&value),
            Err(error) => Err(error),
        };
        match read {
            Ok(event) => events.push((index, event)),
            Err(error) => faults.extend(error.faults.into_iter().map(|fault| Fault { pointer: format!("/{index}{}", fault.pointer), ..fault })),
        }
    }
    (events, faults)
}

/// Columns of the journal as CSV; the data of an event is JSON in its cell.
const COLUMNS: [&str; 5] = ["id", "at", "kind", "replaces", "data"];

/// Events as CSV (RFC 4180).
pub fn to_csv(events: &[Event]) -> String {
    let mut writer = csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(Vec::new());
    let lines = events.iter().map(|event| {
        let data = serde_json::to_string(&event.data).unwrap_or_default();
        [event.id.clone(), event.at.clone(), event.kind.word().to_owned(), event.replaces.clone().unwrap_or_default(), data]
    });
    // Writing to memory does not fail, and every line has as many cells as the head.
    let written = std::iter::once(COLUMNS.map(str::to_owned)).chain(lines).all(|line| writer.write_record(&line).is_ok());
    debug_assert!(written, "a ragged line");
    writer.into_inner().ok().and_then(|bytes| String::from_utf8(bytes).ok()).unwrap_or_default()
}

/// Reads a journal from CSV.
///
/// # Errors
/// Every fault, its pointer led by the number of its line; a head that is not the journal's.
pub fn from_csv(text: &str) -> Result<Vec<Event>, DocumentError> {
    let (events, faults) = read_csv(text)?;
    if faults.is_empty() { Ok(events.into_iter().map(|(_, event)| event).collect()) } else { Err(DocumentError { faults }) }
}

/// Reads what can be read of a journal as CSV.
///
/// # Errors
/// A head that is not the journal's; what is not CSV at all.
pub fn read_csv(text: &str) -> Result<Read, DocumentError> {
    let whole = |problem: String| DocumentError {
        faults: vec![Fault { pointer: String::new(), problem, remedy: format!("Give a head of {} and as many cells a line", COLUMNS.join(", ")) }],
    };
    let mut reader = csv::Reader::from_reader(text.as_bytes());
    let head = reader.headers().map_err(|error| whole(error.to_string()))?;
    if head.iter().ne(COLUMNS) {
        return Err(whole(format!("its head is {}", head.iter().collect::<Vec<_>>().join(", "))));
    }
    let (mut lines, mut broken) = (String::new(), Vec::new());
    for (index, record) in reader.records().enumerate() {
        let record = match record {
            Ok(record) => record,
            Err(error) => {
                let remedy = format!("Give as many cells as the head: {}", COLUMNS.join(", "));
                broken.push(Fault { pointer: format!("/{index}"), problem: error.to_string(), remedy });
                // The numbers of the lines after it stay right.
                lines += "\n";
                continue;
            }
        };
        let cell = |index: usize| Value::from(record.get(index).unwrap_or_default());
        let data: Value = serde_json::from_str(record.get(4).unwrap_or_default()).unwrap_or_else(|_| cell(4));
        let replaces = Some(cell(3)).filter(|cell| cell != "").unwrap_or(Value::Null);
        let event = serde_json::json!({ "id": cell(0), "at": cell(1), "kind": cell(2), "replaces": replaces, "data": data });
        lines += &(event.to_string() + "\n");
    }
    let (events, mut faults) = read_lines(&lines);
    faults.extend(broken);
    Ok((events, faults))
}
