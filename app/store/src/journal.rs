//! The journal of a build: append a batch, read a page, read all.

use crate::{Store, StoreError};
use orthavis_core::journal::{Event, read_event};
use rusqlite::{OptionalExtension, Row, Transaction, params, params_from_iter, types::Value};

/// What became of a batch.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Appended {
    /// Events that are new here.
    pub kept: usize,
    /// Events that were here already, word for word.
    pub known: usize,
}

/// Which events are asked for.
#[derive(Clone, Debug, Default)]
pub struct Wanted {
    /// Of this kind only.
    pub kind: Option<String>,
    /// From this moment on, RFC 3339.
    pub from: Option<String>,
    /// Before this moment, RFC 3339.
    pub to: Option<String>,
    /// After the event with this moment, ms since 1970, and id.
    pub after: Option<(i64, String)>,
}

/// A page of events in the order in which they happened.
#[derive(Clone, Debug)]
pub struct EventPage {
    /// The events.
    pub events: Vec<Event>,
    /// Where the next page begins; `None`: this was the last.
    pub next: Option<(i64, String)>,
}

/// A build that a pack was in.
#[derive(Clone, Debug)]
pub struct Lived {
    /// Its key.
    pub id: i64,
    /// Its document as it is kept.
    pub document: String,
    /// What its journal says of rides, charges, readings and parts.
    pub events: Vec<Event>,
}

impl Store {
    /// Appends events to a build's journal, all or none; those that are there already count for nothing.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] where there never was such a build; [`StoreError::Moment`] where the calendar knows no
    /// such day; [`StoreError::Differs`] where an id is there with other content.
    pub async fn append_events(&self, build: i64, events: Vec<Event>) -> Result<Appended, StoreError> {
        self.run(move |t| append(t, build, &events)).await
    }

    /// A page of a build's journal.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Moment`], or when the database fails.
    pub async fn events(&self, build: i64, wanted: Wanted, limit: u32) -> Result<EventPage, StoreError> {
        self.run(move |t| {
            exists(t, build)?;
            let (mut rules, mut values) = (String::from("build_id = ?1"), vec![Value::from(build)]);
            let mut rule = |text: &str, value: Value| {
                values.push(value);
                rules += &format!(" AND {}", text.replace('?', &format!("?{}", values.len())));
            };
            if let Some(kind) = wanted.kind {
                rule("kind = ?", kind.into());
            }
            if let Some(from) = wanted.from {
                rule("at_ms >= ?", moment(t, &from)?.into());
            }
            if let Some(to) = wanted.to {
                rule("at_ms < ?", moment(t, &to)?.into());
            }
            if let Some((at_ms, id)) = wanted.after {
                values.extend([at_ms.into(), id.into()]);
                rules += &format!(" AND (at_ms, id) > (?{}, ?{})", values.len() - 1, values.len());
            }
            values.push((i64::from(limit) + 1).into());
            let mut query =
                t.prepare_cached(&format!("SELECT id, at, kind, data, replaces, at_ms FROM events WHERE {rules} ORDER BY at_ms, id LIMIT ?{}", values.len()))?;
            let rows = query.query_map(params_from_iter(values), |row| Ok((raw(row)?, row.get::<_, i64>(5)?)))?.collect::<Result<Vec<_>, _>>()?;
            let more = rows.len() > limit as usize;
            let mut page = EventPage { events: Vec::new(), next: None };
            for (raw, at_ms) in rows.into_iter().take(limit as usize) {
                let event = read(raw)?;
                page.next = more.then(|| (at_ms, event.id.clone()));
                page.events.push(event);
            }
            Ok(page)
        })
        .await
    }

    /// Takes in what can be taken in; what cannot is named by its line.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] where there never was such a build, or when the database fails.
    pub async fn import_events(&self, build: i64, events: Vec<(usize, Event)>) -> Result<(Appended, Vec<(usize, StoreError)>), StoreError> {
        self.run(move |t| {
            exists(t, build)?;
            let (mut appended, mut bad) = (Appended { kept: 0, known: 0 }, Vec::new());
            for (line, event) in events {
                match append_one(t, build, &event) {
                    Ok(true) => appended.kept += 1,
                    Ok(false) => appended.known += 1,
                    Err(error @ (StoreError::Moment(_) | StoreError::Differs(_))) => bad.push((line, error)),
                    Err(error) => return Err(error),
                }
            }
            Ok((appended, bad))
        })
        .await
    }

    /// Every build whose journal names a pack, and what it says of its battery: document and events.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn lived(&self, pack: String) -> Result<Vec<Lived>, StoreError> {
        self.run(move |t| {
            let mut query = t.prepare_cached(
                "SELECT DISTINCT b.id FROM events e JOIN builds b ON b.id = e.build_id WHERE e.kind = 'part' AND e.data ->> '$.pack' = ?1 AND b.deleted_at IS NULL ORDER BY b.id",
            )?;
            let builds = query.query_map(params![pack], |row| row.get::<_, i64>(0))?.collect::<Result<Vec<_>, _>>()?;
            let mut all = Vec::new();
            for id in builds {
                let text = crate::newest_text(t, id)?;
                let mut query = t.prepare_cached(
                    "SELECT id, at, kind, data, replaces FROM events WHERE build_id = ?1 AND kind IN ('ride', 'charge', 'reading', 'part') ORDER BY at_ms, id",
                )?;
                let rows = query.query_map(params![id], raw)?.collect::<Result<Vec<_>, _>>()?;
                all.push(Lived { id, document: text.document, events: rows.into_iter().map(read).collect::<Result<_, _>>()? });
            }
            Ok(all)
        })
        .await
    }

    /// A build's whole journal in the order in which it happened.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], or when the database fails.
    pub async fn all_events(&self, build: i64) -> Result<Vec<Event>, StoreError> {
        self.run(move |t| all(t, build)).await
    }
}

/// An event as its row has it: id, moment, kind, data, what it replaces.
type Raw = (String, String, String, String, Option<String>);

fn raw(row: &Row<'_>) -> rusqlite::Result<Raw> {
    Ok((row.get(0)?, row.get(1)?, row.get(2)?, row.get(3)?, row.get(4)?))
}

/// Through the same reader as what comes from outside.
fn read((id, at, kind, data, replaces): Raw) -> Result<Event, StoreError> {
    let data: serde_json::Value = serde_json::from_str(&data).unwrap_or_default();
    let mut event = serde_json::json!({ "id": id, "at": at, "kind": kind, "data": data });
    if let Some(replaces) = replaces {
        event["replaces"] = replaces.into();
    }
    Ok(read_event(&event)?)
}

pub(crate) fn exists(t: &Transaction<'_>, build: i64) -> Result<(), StoreError> {
    let there: bool = t.prepare_cached("SELECT EXISTS (SELECT 1 FROM builds WHERE id = ?1)")?.query_row(params![build], |row| row.get(0))?;
    if there { Ok(()) } else { Err(StoreError::NotFound) }
}

/// A moment in ms since 1970.
fn moment(t: &Transaction<'_>, at: &str) -> Result<i64, StoreError> {
    let ms: Option<i64> = t.prepare_cached("SELECT CAST(round(1000 * unixepoch(?1, 'subsec')) AS INTEGER)")?.query_row(params![at], |row| row.get(0))?;
    ms.ok_or_else(|| StoreError::Moment(at.to_owned()))
}

pub(crate) fn append(t: &Transaction<'_>, build: i64, events: &[Event]) -> Result<Appended, StoreError> {
    exists(t, build)?;
    let mut appended = Appended { kept: 0, known: 0 };
    for event in events {
        if append_one(t, build, event)? {
            appended.kept += 1;
        } else {
            appended.known += 1;
        }
    }
    Ok(appended)
}

/// Whether it is new here.
fn append_one(t: &Transaction<'_>, build: i64, event: &Event) -> Result<bool, StoreError> {
    let known = t
        .prepare_cached("SELECT id, at, kind, data, replaces FROM events WHERE build_id = ?1 AND id = ?2")?
        .query_row(params![build, event.id], raw)
        .optional()?;
    match known.map(read).transpose()? {
        // Which build it was of is where it lies.
        Some(known) if known == (Event { build: None, ..event.clone() }) => Ok(false),
        Some(_) => Err(StoreError::Differs(event.id.clone())),
        None => {
            let data = serde_json::to_string(&event.data).unwrap_or_default();
            t.prepare_cached("INSERT INTO events (build_id, id, at, at_ms, kind, data, replaces) VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)")?.execute(params![
                build,
                event.id,
                event.at,
                moment(t, &event.at)?,
                event.kind.word(),
                data,
                event.replaces
            ])?;
            Ok(true)
        }
    }
}

pub(crate) fn all(t: &Transaction<'_>, build: i64) -> Result<Vec<Event>, StoreError> {
    exists(t, build)?;
    let mut query = t.prepare_cached("SELECT id, at, kind, data, replaces FROM events WHERE build_id = ?1 ORDER BY at_ms, id")?;
    let rows = query.query_map(params![build], raw)?.collect::<Result<Vec<_>, _>>()?;
    rows.into_iter().map(read).collect()
}
