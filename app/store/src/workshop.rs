//! A whole workshop from the page: one file as a backup, a look at what restoring it would change, and everything as one
//! text in open formats.

use crate::copies::{FORMAT, Import, Incoming, PAGES, backup, folder, free_beside, last_saved, number_on, take_in};
use crate::{Carried, Photo, Store, StoreError, file, journal, photos, stock};
use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use orthavis_core::document::{parse_part_text, parse_stored};
use orthavis_core::journal::read_event;
use rusqlite::backup::Backup;
use rusqlite::{Connection, params};
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicU64, Ordering};
use std::time::Duration;

/// What restoring a backup would do to a build.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Change {
    /// Its name, there or here.
    pub name: String,
    /// `same`, `changes`, `comes` or `goes`.
    pub what: &'static str,
    /// When it was last saved here; `None`: it is not here.
    pub here: Option<String>,
    /// When it was last saved there.
    pub there: Option<String>,
    /// Events of its journal here and there.
    pub events: (i64, i64),
}

/// What restoring a backup would change.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Looked {
    /// Build by build.
    pub builds: Vec<Change>,
    /// Own parts here and there.
    pub parts: (i64, i64),
    /// Whether something here was saved after the backup.
    pub newer: bool,
}

/// Everything of a workshop as one text: what [`crate::export_all`] writes as files.
#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Whole {
    format: String,
    builds: Vec<WholeBuild>,
    parts: Vec<Box<RawValue>>,
    stock: BTreeMap<String, f64>,
}

#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct WholeBuild {
    name: String,
    document: Box<RawValue>,
    journal: Vec<serde_json::Value>,
    deleted: bool,
    /// By event, in base 64.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    photos: BTreeMap<String, String>,
}

/// Id, name, document, when it was saved, off the shelf, events.
type Row = (i64, String, String, String, bool, i64);

fn builds(connection: &Connection) -> Result<Vec<Row>, StoreError> {
    let mut query = connection.prepare(
        "SELECT b.id, r.name, r.document, r.saved_at, b.deleted_at IS NOT NULL, (SELECT count(*) FROM events e WHERE e.build_id = b.id)
         FROM builds b JOIN revisions r ON r.build_id = b.id AND r.revision = b.revision ORDER BY b.id",
    )?;
    let rows = query.query_map([], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?, row.get(3)?, row.get(4)?, row.get(5)?)))?;
    Ok(rows.collect::<Result<_, _>>()?)
}

fn count(connection: &Connection, table: &str) -> Result<i64, StoreError> {
    Ok(connection.query_row(&format!("SELECT count(*) FROM {table}"), [], |row| row.get(0))?)
}

/// A file beside the database that is gone once it is dropped.
struct Passing(PathBuf);

impl Passing {
    /// A name beside a database that nothing else of this process has.
    fn beside(database: &Path) -> Self {
        static COUNT: AtomicU64 = AtomicU64::new(0);
        let number = COUNT.fetch_add(1, Ordering::Relaxed);
        let path = file::beside(database, &format!(".passing-{}-{number}", std::process::id()));
        // What a process of the same number left.
        drop(std::fs::remove_file(&path));
        Passing(path)
    }
}

impl Drop for Passing {
    fn drop(&mut self) {
        drop(std::fs::remove_file(&self.0));
    }
}

/// A backup, opened and brought up to date in memory.
fn opened(database: &Path, bytes: &[u8]) -> Result<Connection, StoreError> {
    let copy = Passing::beside(database);
    std::fs::write(&copy.0, bytes).map_err(folder(&copy.0))?;
    let mut there = Connection::open_in_memory()?;
    Backup::new(&file::read_only(&copy.0)?, &mut there)?.run_to_completion(PAGES, Duration::ZERO, None)?;
    crate::migrate(&mut there)?;
    Ok(there)
}

impl Store {
    /// A consistent copy of the whole database, as the bytes of its file.
    ///
    /// # Errors
    /// When it cannot be written beside the database.
    pub async fn backup(&self) -> Result<Vec<u8>, StoreError> {
        let path = self.file.0.clone();
        self.run_bare(move |_| {
            let copy = Passing::beside(&path);
            backup(&path, &copy.0)?;
            std::fs::read(&copy.0).map_err(folder(&copy.0))
        })
        .await
    }

    /// What restoring a backup would change; nothing is.
    ///
    /// # Errors
    /// When it is not a backup of ours, damaged, or of a newer version.
    pub async fn look(&self, bytes: Vec<u8>) -> Result<Looked, StoreError> {
        let path = self.file.0.clone();
        self.run_bare(move |here| {
            let there = opened(&path, &bytes)?;
            let mut theirs: BTreeMap<i64, Row> = builds(&there)?.into_iter().filter(|row| !row.4).map(|row| (row.0, row)).collect();
            let mut changes = Vec::new();
            for (id, name, document, saved_at, _, events) in builds(here)?.into_iter().filter(|row| !row.4) {
                let other = theirs.remove(&id);
                let what = match &other {
                    None => "goes",
                    Some((_, _, text, _, _, count)) if *text == document && *count == events => "same",
                    Some(_) => "changes",
                };
                let (there, count) = other.map_or((None, 0), |(_, _, _, saved_at, _, count)| (Some(saved_at), count));
                changes.push(Change { name, what, here: Some(saved_at), there, events: (events, count) });
            }
            let comes = theirs.into_values().map(|(_, name, _, saved_at, _, count)| Change {
                name,
                what: "comes",
                here: None,
                there: Some(saved_at),
                events: (0, count),
            });
            changes.extend(comes);
            let newer = last_saved(here)? > last_saved(&there)?;
            Ok(Looked { builds: changes, parts: (count(here, "parts")?, count(&there, "parts")?), newer })
        })
        .await
    }

    /// Puts a backup in the place of what is here, which is kept beside the database under the name that comes back. Who is
    /// let in stays as it is.
    ///
    /// # Errors
    /// [`StoreError::Newer`] where something here was saved after the backup and it is not forced; as [`Self::look`].
    pub async fn restore_backup(&self, bytes: Vec<u8>, force: bool) -> Result<PathBuf, StoreError> {
        let path = self.file.0.clone();
        self.run_bare(move |here| {
            let there = opened(&path, &bytes)?;
            let (ours, theirs) = (last_saved(here)?, last_saved(&there)?);
            if !force && ours > theirs {
                return Err(StoreError::Newer { saved_at: ours.unwrap_or_default(), backup: theirs.unwrap_or_else(|| "nothing".into()) });
            }
            let kept = free_beside(&path);
            backup(&path, &kept)?;
            there.execute("DELETE FROM devices", [])?;
            let devices = {
                let mut query = here.prepare("SELECT name, token, may_edit, paired_at, seen_at FROM devices")?;
                let rows = query.query_map([], |row| {
                    Ok((row.get::<_, String>(0)?, row.get::<_, Vec<u8>>(1)?, row.get::<_, bool>(2)?, row.get::<_, String>(3)?, row.get::<_, String>(4)?))
                })?;
                rows.collect::<Result<Vec<_>, _>>()?
            };
            for (name, token, may_edit, paired_at, seen_at) in devices {
                there.execute(
                    "INSERT INTO devices (name, token, may_edit, paired_at, seen_at) VALUES (?1, ?2, ?3, ?4, ?5)",
                    params![name, token, may_edit, paired_at, seen_at],
                )?;
            }
            number_on(here, &there)?;
            // In one go: nobody reads half of it.
            Backup::new(&there, here)?.run_to_completion(i32::MAX, Duration::ZERO, None)?;
            Ok(kept)
        })
        .await
    }

    /// Every build, journal, picture and own part, and what is in the drawer, as one text.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn export_whole(&self) -> Result<Whole, StoreError> {
        self.run(|t| {
            let mut whole = Whole { format: FORMAT.into(), builds: Vec::new(), parts: Vec::new(), stock: stock::all(t)? };
            let raw = |text: String| RawValue::from_string(text).map_err(|error| StoreError::Import { file: "a document".into(), problem: error.to_string() });
            for (id, name, document, _, deleted, _) in builds(t)? {
                let journal = journal::all(t, id)?.iter().filter_map(|event| serde_json::to_value(event).ok()).collect();
                let photos = photos::all(t, id)?.into_iter().map(|(event, photo)| (event, STANDARD.encode(photo.bytes))).collect();
                whole.builds.push(WholeBuild { name, document: raw(document)?, journal, deleted, photos });
            }
            let mut query = t.prepare("SELECT document FROM parts ORDER BY id")?;
            for part in query.query_map([], |row| row.get::<_, String>(0))? {
                whole.parts.push(raw(part?)?);
            }
            Ok(whole)
        })
        .await
    }

    /// Takes in what [`Self::export_whole`] gave: all of it or nothing, as [`Self::import_all`] does.
    ///
    /// # Errors
    /// [`StoreError::Import`] naming what is at fault.
    pub async fn import_whole(&self, text: &str) -> Result<Carried, StoreError> {
        let bad = |file: String, problem: String| StoreError::Import { file, problem };
        let whole: Whole = serde_json::from_str(text).map_err(|error| bad("the file".into(), error.to_string()))?;
        if whole.format != FORMAT {
            return Err(bad("the file".into(), format!("`{}` is not a format this version reads; it reads {FORMAT}", whole.format)));
        }
        let mut import = Import { builds: Vec::new(), parts: Vec::new(), stock: whole.stock };
        for one in whole.builds {
            let at = |problem: String| bad(format!("`{}`", one.name), problem);
            let build = parse_stored(one.document.get()).map_err(|error| at(error.to_string()))?;
            let events = one.journal.iter().map(|event| read_event(event).map_err(|error| at(error.to_string()))).collect::<Result<_, _>>()?;
            let mut photos = Vec::new();
            for (event, coded) in &one.photos {
                let bytes = STANDARD.decode(coded).map_err(|error| at(format!("the picture of {event}: {error}")))?;
                photos.push((event.clone(), Photo::of(bytes).map_err(|error| at(error.to_string()))?));
            }
            import.builds.push(Incoming { build, events, photos, deleted: one.deleted });
        }
        let parts = whole.parts.iter().map(|part| parse_part_text(part.get()).map_err(|error| bad("a part".into(), error.to_string())));
        import.parts = parts.collect::<Result<_, _>>()?;
        if let Some((part, count)) = import.stock.iter().find(|(_, count)| !(0.0..=1e6).contains(*count)) {
            return Err(bad("the drawer".into(), format!("{count} of `{part}` are in it; give 0 to a million")));
        }
        self.run(move |t| take_in(t, &import)).await
    }
}
