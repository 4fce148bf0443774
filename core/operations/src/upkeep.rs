//! Use: what the journal of a build says back.

use crate::{Answer, Refusal};
use orthavis_core::budget;
#[cfg(feature = "schema")]
use orthavis_core::document::Battery;
use orthavis_core::document::{Build, DocumentError, Fault, parse};
use orthavis_core::journal::{Event, MAX_BATCH, read_event};
use orthavis_core::moment::Moment;
use orthavis_core::upkeep::chart::svg;
use orthavis_core::upkeep::passport::{Lived, Passport, passport};
use orthavis_core::upkeep::proven::{self, Proven};
use orthavis_core::upkeep::remind::{Reminder, calendar};
use orthavis_core::upkeep::said::{Said, said};
use orthavis_core::upkeep::told::told;
use orthavis_core::upkeep::view::{JournalView, as_table, due, view};
use serde::Deserialize;
use serde_json::Value;
use serde_json::value::RawValue;

/// Events that one question may bring: ten batches.
const MOST: usize = 10 * MAX_BATCH;

/// A build with its journal.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct JournalRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// What happened, in any order.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<Event>))]
    pub events: Vec<Value>,
    /// Now, RFC 3339 with the offset of the place.
    pub now: String,
}

struct Asked {
    build: Build,
    events: Vec<Event>,
    now: Moment,
}

fn moment(text: &str) -> Answer<Moment> {
    Moment::parse(text).ok_or_else(|| Refusal::new("now", "No such moment", format!("`now` is `{text}`. Write it as 2026-05-02T18:40:00+02:00.")))
}

fn events(given: &[Value]) -> Answer<Vec<Event>> {
    if given.len() > MOST {
        return Err(Refusal::new("events", "Too many events", format!("There are {} events; give at most {MOST}, the newest.", given.len())));
    }
    budget::spend(given.len() as u64 / 10).map_err(|why| Refusal::stopped(why, &format!("{} events", given.len())))?;
    let (mut read, mut faults) = (Vec::with_capacity(given.len()), Vec::new());
    for (index, event) in given.iter().enumerate() {
        match read_event(event) {
            Ok(event) => read.push(event),
            Err(error) => faults.extend(error.faults.into_iter().map(|fault| Fault { pointer: format!("/events/{index}{}", fault.pointer), ..fault })),
        }
    }
    if faults.is_empty() {
        return Ok(read);
    }
    let error = DocumentError { faults };
    Err(Refusal { errors: error.faults.clone(), ..Refusal::new("events", "The events cannot be read", error.to_string()) })
}

fn asked(request: &JournalRequest) -> Answer<Asked> {
    Ok(Asked { build: parse(request.document.get())?, events: events(&request.events)?, now: moment(&request.now)? })
}

/// What the journal of a build says back.
pub fn journal(request: JournalRequest) -> Answer<JournalView> {
    let Asked { build, events, now } = asked(&request)?;
    Ok(view(&build, &events, now))
}

/// What is due of a build, soonest first.
pub fn reminders(request: JournalRequest) -> Answer<Vec<Reminder>> {
    let Asked { build, events, now } = asked(&request)?;
    Ok(due(&build, &events, now))
}

/// What failed before, and which lights are known to have been built right.
pub fn proven(request: JournalRequest) -> Answer<Proven> {
    let Asked { build, events, .. } = asked(&request)?;
    Ok(proven::proven(&build, &told(&events)))
}

/// The journal as a table.
pub fn as_csv(request: JournalRequest) -> Answer<String> {
    let Asked { build, events, now } = asked(&request)?;
    Ok(as_table(&build, &events, now).csv())
}

/// What is due as iCalendar.
pub fn as_calendar(request: JournalRequest) -> Answer<String> {
    let Asked { build, events, now } = asked(&request)?;
    Ok(calendar(&build.name, &due(&build, &events, now), now))
}

/// A chart of a journal.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ChartRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// What happened, in any order.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<Event>))]
    pub events: Vec<Value>,
    /// Now, RFC 3339 with the offset of the place.
    pub now: String,
    /// Which, by its key.
    pub chart: String,
    /// From when, s since 1970; the first event by default.
    pub from: Option<f64>,
    /// To when, s since 1970; now by default.
    pub to: Option<f64>,
}

/// A chart of a journal as a drawing.
pub fn as_svg(request: ChartRequest) -> Answer<String> {
    let ChartRequest { document, events, now, chart, from, to } = request;
    let Asked { build, events, now } = asked(&JournalRequest { document, events, now })?;
    let view = view(&build, &events, now);
    let Some(found) = view.charts.iter().find(|known| known.key == chart) else {
        let known: Vec<&str> = view.charts.iter().map(|chart| chart.key).collect();
        let detail = if known.is_empty() {
            "This journal has nothing to draw yet. Write down outings and charges.".to_owned()
        } else {
            format!("`{chart}` is not a chart of this journal. Name one of {}.", known.join(", "))
        };
        return Err(Refusal::new("chart", "No such chart", detail));
    };
    let from = from.unwrap_or_else(|| view.events.first().map_or(0.0, |event| event.s));
    let to = to.unwrap_or(now.s as f64);
    if !(from.is_finite() && to.is_finite() && to > from && (to - from) < 1e11) {
        return Err(Refusal::new("from", "No such time", format!("`from` is {from} and `to` is {to}. Give seconds since 1970, the earlier first.")));
    }
    Ok(svg(found, &view.events, from, to))
}

/// Something said in a line.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SaidRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// What was typed, as in `ride 40 min, 3 °C`.
    pub text: String,
    /// Now, RFC 3339 with the offset of the place.
    pub now: String,
}

/// A line as the event that it says.
pub fn understood(request: SaidRequest) -> Answer<Said> {
    let (build, now) = (parse(request.document.get())?, moment(&request.now)?);
    said(&build, &request.text, now).map_err(|unsaid| {
        let fault = Fault { pointer: "/text".into(), problem: unsaid.problem, remedy: unsaid.remedy };
        let detail = DocumentError { faults: vec![fault.clone()] }.to_string();
        Refusal { errors: vec![fault], ..Refusal::new("said", "That is not understood", detail) }
    })
}

/// A build that a pack was in, with its journal.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PackBuild {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// What happened to it.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<Event>))]
    pub events: Vec<Value>,
}

/// A pack with the builds that it was in.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PackRequest {
    /// Its id in the drawer, as `part` events name it.
    pub pack: String,
    /// What its label says: a battery as a document's source has it.
    #[cfg_attr(feature = "schema", schema(value_type = Battery))]
    pub battery: Box<RawValue>,
    /// Every build whose journal names it.
    pub builds: Vec<PackBuild>,
    /// Now, RFC 3339 with the offset of the place.
    pub now: String,
}

/// The life of a pack over every build that it was in.
pub fn pack(request: PackRequest) -> Answer<Passport> {
    let now = moment(&request.now)?;
    let part = format!(r#"{{"id":"pack","name":"pack","figures_from":"label","what":{{"kind":"battery","battery":{}}}}}"#, request.battery.get());
    let part = orthavis_core::document::parse_part_text(&part)?;
    let orthavis_core::document::What::Battery { battery } = part.what else {
        return Err(Refusal::new("battery", "No battery", "`battery` is none. Give chemistry, cells and capacity."));
    };
    let mut read = Vec::new();
    for build in &request.builds {
        read.push((parse(build.document.get())?, events(&build.events)?));
    }
    let lived: Vec<Lived<'_>> = read.iter().map(|(build, events)| Lived { name: &build.name, build, events }).collect();
    Ok(passport(&request.pack, &battery, &lived, now))
}
