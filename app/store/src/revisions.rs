//! The revisions of a build: read, appended to, thinned.

use crate::{NOW, StoreError, Stored, Text};
use orthavis_core::document::{Build, MAX_BYTES};
use rusqlite::{OptionalExtension, Transaction, params};

pub fn duplicate(t: &Transaction<'_>, id: i64) -> Result<Stored, StoreError> {
    let mut build = newest(t, id)?.build;
    build.name = format!("{} (copy)", build.name).chars().take(200).collect();
    insert(t, &build)
}

/// Refuses a change that was made on another revision than the newest.
pub fn expect(t: &Transaction<'_>, id: i64, on: Option<i64>) -> Result<(), StoreError> {
    let Some(on) = on else { return Ok(()) };
    let mut query = t.prepare_cached(
        "SELECT b.id, r.revision, r.saved_at, r.name, r.document FROM builds b JOIN revisions r ON r.build_id = b.id AND r.revision = b.revision WHERE b.id = ?1",
    )?;
    let newest = query.query_row(params![id], text).optional()?.ok_or(StoreError::NotFound)?;
    if newest.revision == on { Ok(()) } else { Err(StoreError::Stale(Box::new(newest))) }
}

pub fn set_deleted(t: &Transaction<'_>, id: i64, deleted: bool) -> Result<(), StoreError> {
    let value = if deleted { NOW } else { "NULL" };
    let was = if deleted { "IS NULL" } else { "IS NOT NULL" };
    let changed = t.prepare_cached(&format!("UPDATE builds SET deleted_at = {value} WHERE id = ?1 AND deleted_at {was}"))?.execute(params![id])?;
    if changed == 0 { Err(StoreError::NotFound) } else { Ok(()) }
}

pub fn text(row: &rusqlite::Row<'_>) -> rusqlite::Result<Text> {
    Ok(Text { id: row.get(0)?, revision: row.get(1)?, saved_at: row.get(2)?, name: row.get(3)?, document: row.get(4)? })
}

pub fn newest_text(t: &Transaction<'_>, id: i64) -> Result<Text, StoreError> {
    let mut query = t.prepare_cached(
        "SELECT b.id, r.revision, r.saved_at, r.name, r.document FROM builds b JOIN revisions r ON r.build_id = b.id AND r.revision = b.revision
         WHERE b.id = ?1 AND b.deleted_at IS NULL",
    )?;
    query.query_row(params![id], text).optional()?.ok_or(StoreError::NotFound)
}

pub fn newest(t: &Transaction<'_>, id: i64) -> Result<Stored, StoreError> {
    newest_text(t, id)?.read()
}

pub fn insert(t: &Transaction<'_>, build: &Build) -> Result<Stored, StoreError> {
    t.execute(&format!("INSERT INTO builds (revision, created_at) VALUES (1, {NOW})"), [])?;
    append(t, t.last_insert_rowid(), 1, build)
}

pub fn append(t: &Transaction<'_>, id: i64, revision: i64, build: &Build) -> Result<Stored, StoreError> {
    // Compact: what is measured is what is kept.
    let document = build.compact();
    if document.len() > MAX_BYTES {
        return Err(StoreError::TooLarge(document.len()));
    }
    t.prepare_cached(&format!("INSERT INTO revisions (build_id, revision, saved_at, name, document) VALUES (?1, ?2, {NOW}, ?3, ?4)"))?
        .execute(params![id, revision, build.name, document])?;
    t.prepare_cached("UPDATE builds SET revision = ?2, saved_at = (SELECT saved_at FROM revisions WHERE build_id = ?1 AND revision = ?2) WHERE id = ?1")?
        .execute(params![id, revision])?;
    if revision % THIN_EVERY == 0 {
        thin(t, id)?;
    }
    newest(t, id)
}

/// Saves of a build after which its history is looked through.
const THIN_EVERY: i64 = 16;

/// Thins a build's history: all of the last day, then the last of each hour for a week, then the last of each day; and
/// always the newest and those that a person named.
pub fn thin(t: &Transaction<'_>, id: i64) -> Result<(), StoreError> {
    t.prepare_cached(
        "DELETE FROM revisions WHERE build_id = ?1 AND label IS NULL AND saved_at < strftime('%Y-%m-%dT%H:%M:%fZ', 'now', '-1 day')
         AND revision NOT IN (
             SELECT max(revision) FROM revisions WHERE build_id = ?1
             GROUP BY substr(saved_at, 1, iif(saved_at < strftime('%Y-%m-%dT%H:%M:%fZ', 'now', '-8 days'), 10, 13)))",
    )?
    .execute(params![id])?;
    Ok(())
}
