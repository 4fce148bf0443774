//! Copies of a whole workshop: a backup that is taken while a server runs, its way back, and a folder in open formats.

use crate::{Owner, Photo, Store, StoreError, file, journal, photos, stock};
use orthavis_core::document::{Build, Part, parse_part_text, parse_stored};
use orthavis_core::journal::{Event, from_lines, to_lines};
use rusqlite::backup::Backup;
use rusqlite::{Connection, OptionalExtension, Transaction, params};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::time::Duration;

/// Pages copied at once; between two steps others may write.
pub(crate) const PAGES: i32 = 1000;

pub(crate) fn folder(path: &Path) -> impl Fn(std::io::Error) -> StoreError + '_ {
    move |error| StoreError::Folder(path.display().to_string(), error)
}

/// Writes a consistent copy of a database into a new file, whether or not a server has it open.
///
/// # Errors
/// When the database is not there, not ours or damaged; when the file is there already or cannot be written.
pub fn backup(database: &Path, to: &Path) -> Result<(), StoreError> {
    if !database.exists() {
        return Err(StoreError::NoFile(database.display().to_string()));
    }
    if to.exists() {
        return Err(StoreError::Taken(to.display().to_string()));
    }
    let from = file::read_only(database)?;
    let part = file::beside(to, ".part");
    let copied = (|| {
        let mut copy = file::create(&part)?;
        Backup::new(&from, &mut copy)?.run_to_completion(PAGES, Duration::from_millis(1), None)?;
        // One file, which needs nothing beside it.
        copy.pragma_update(None, "journal_mode", "DELETE")?;
        drop(copy);
        std::fs::rename(&part, to).map_err(folder(to))
    })();
    if copied.is_err() {
        drop(std::fs::remove_file(&part));
    }
    copied
}

/// A name beside a database under which nothing was kept before a restore yet.
pub(crate) fn free_beside(path: &Path) -> PathBuf {
    let name = |n: u32| file::beside(path, &if n == 1 { ".before-restore".to_owned() } else { format!(".before-restore-{n}") });
    (1..).map(name).find(|name| !name.exists()).unwrap_or_else(|| name(1))
}

/// When something in a database was last saved; `None`: nothing ever was.
pub(crate) fn last_saved(connection: &Connection) -> Result<Option<String>, StoreError> {
    Ok(connection.query_row("SELECT max(saved_at) FROM revisions", [], |row| row.get(0)).optional()?.flatten())
}

/// Numbers what a backup brings on from what is here: a page that was open before names a revision that is not the newest
/// any more, and no build gets the number of one that was made after the backup.
pub(crate) fn number_on(here: &Connection, there: &Connection) -> Result<(), StoreError> {
    let mut query = here.prepare("SELECT id, revision FROM builds")?;
    let ours: Vec<(i64, i64)> = query.query_map([], |row| Ok((row.get(0)?, row.get(1)?)))?.collect::<Result<_, _>>()?;
    let last = ours.iter().map(|(id, _)| *id).max().unwrap_or(0);
    for (id, revision) in ours {
        let next = there.query_row("SELECT max(revision, ?2) + 1 FROM builds WHERE id = ?1", params![id, revision], |row| row.get::<_, i64>(0)).optional()?;
        let Some(next) = next else { continue };
        there.execute(
            "INSERT INTO revisions (build_id, revision, saved_at, name, document) SELECT r.build_id, ?2, r.saved_at, r.name, r.document
             FROM revisions r JOIN builds b ON b.id = r.build_id AND b.revision = r.revision WHERE b.id = ?1",
            params![id, next],
        )?;
        there.execute("UPDATE builds SET revision = ?2 WHERE id = ?1", params![id, next])?;
    }
    // There is no row where nothing was ever made.
    there.execute("INSERT INTO sqlite_sequence (name, seq) SELECT 'builds', 0 WHERE NOT EXISTS (SELECT 1 FROM sqlite_sequence WHERE name = 'builds')", [])?;
    there.execute("UPDATE sqlite_sequence SET seq = max(seq, ?1) WHERE name = 'builds'", params![last])?;
    Ok(())
}

/// Puts a backup in the place of an owned database; says where what was there is kept. Until the backup is copied whole,
/// nothing is moved; what an earlier restore kept is never written over.
///
/// # Errors
/// [`StoreError::Newer`] where the database has something that was saved after the backup and it is not forced; when
/// the backup is not ours, damaged, or was written by a newer version.
pub fn restore(from: &Path, owner: &Owner, force: bool) -> Result<Option<PathBuf>, StoreError> {
    let backup = file::read_only(from)?;
    let here = if owner.is_there() {
        // Opened as it would be served, so that what waits in its log is in it.
        let here = file::open(owner.path())?;
        let (theirs, ours) = (last_saved(&backup)?, last_saved(&here)?);
        if !force && ours > theirs {
            return Err(StoreError::Newer { saved_at: ours.unwrap_or_default(), backup: theirs.unwrap_or_else(|| "nothing".into()) });
        }
        Some(here)
    } else {
        None
    };
    // The lock is ours, so what lies there is left from a restore that was cut off.
    let part = file::beside(owner.path(), ".restoring");
    drop(std::fs::remove_file(&part));
    let mut copy = file::create(&part)?;
    let copied = (|| {
        Backup::new(&backup, &mut copy)?.run_to_completion(PAGES, Duration::ZERO, None)?;
        // One that a newer version wrote is refused here, before anything is moved.
        crate::migrate(&mut copy)?;
        if let Some(here) = &here {
            number_on(here, &copy)?;
        }
        Ok::<_, StoreError>(())
    })();
    drop(copy);
    if let Err(error) = copied {
        drop(std::fs::remove_file(&part));
        return Err(error);
    }
    let mut kept = None;
    if let Some(here) = here {
        here.query_row("PRAGMA wal_checkpoint(TRUNCATE)", [], |_| Ok(()))?;
        drop(here);
        let free = free_beside(owner.path());
        std::fs::rename(owner.path(), &free).map_err(folder(&free))?;
        kept = Some(free);
        owner.clear()?;
    }
    std::fs::rename(&part, owner.path()).map_err(folder(owner.path()))?;
    Ok(kept)
}

/// What is in a folder of a workshop in open formats: `workshop.json`.
#[derive(Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Index {
    format: String,
    builds: Vec<Listed>,
}

/// A build in such a folder.
#[derive(Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Listed {
    name: String,
    /// Its document, as it is kept.
    document: String,
    /// Its journal as JSON Lines.
    journal: String,
    /// Off the shelf, where it can be put back.
    deleted: bool,
    /// Pictures of its events, each `build-1.photo-` with the id of its event.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    photos: Vec<String>,
}

pub(crate) const FORMAT: &str = "orthavis.workshop/1";
const INDEX: &str = "workshop.json";
const PARTS: &str = "parts.json";
const STOCK: &str = "stock.json";
/// Between the build and the event in the name of a picture's file.
const PHOTO: &str = ".photo-";

/// How much went out or came in.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Carried {
    /// Builds.
    pub builds: usize,
    /// Events of their journals.
    pub events: usize,
    /// Parts of the person's own.
    pub parts: usize,
    /// Builds that were here already, word for word.
    pub known: usize,
}

/// Writes every build as it is kept, every journal and every own part into a new folder.
///
/// # Errors
/// When the database is not ours or damaged; when the folder has something in it or cannot be written.
pub fn export_all(database: &Path, to: &Path) -> Result<Carried, StoreError> {
    if !database.exists() {
        return Err(StoreError::NoFile(database.display().to_string()));
    }
    if std::fs::read_dir(to).is_ok_and(|mut entries| entries.next().is_some()) {
        return Err(StoreError::Taken(to.display().to_string()));
    }
    // From a copy in memory: of one moment, and of the schema that this version knows.
    let mut connection = Connection::open_in_memory()?;
    Backup::new(&file::read_only(database)?, &mut connection)?.run_to_completion(PAGES, Duration::from_millis(1), None)?;
    crate::migrate(&mut connection)?;
    let t = connection.transaction()?;
    let write = |name: &str, text: &str| std::fs::write(to.join(name), text).map_err(folder(to));
    std::fs::create_dir_all(to).map_err(folder(to))?;
    let mut carried = Carried::default();
    let mut index = Index { format: FORMAT.into(), builds: Vec::new() };
    let mut query = t.prepare(
        "SELECT b.id, r.name, r.document, b.deleted_at IS NOT NULL FROM builds b JOIN revisions r ON r.build_id = b.id AND r.revision = b.revision ORDER BY b.id",
    )?;
    let rows = query.query_map([], |row| Ok((row.get::<_, i64>(0)?, row.get::<_, String>(1)?, row.get::<_, String>(2)?, row.get::<_, bool>(3)?)))?;
    for row in rows.collect::<Result<Vec<_>, _>>()? {
        let (id, name, document, deleted) = row;
        let mut listed = Listed { name, document: format!("build-{id}.json"), journal: format!("build-{id}.journal.jsonl"), deleted, photos: Vec::new() };
        for (event, photo) in photos::all(&t, id)? {
            let file = format!("build-{id}{PHOTO}{event}.{}", photo.ending());
            std::fs::write(to.join(&file), &photo.bytes).map_err(folder(to))?;
            listed.photos.push(file);
        }
        let events = journal::all(&t, id)?;
        write(&listed.document, &document)?;
        write(&listed.journal, &to_lines(&events))?;
        index.builds.push(listed);
        (carried.builds, carried.events) = (carried.builds + 1, carried.events + events.len());
    }
    let mut query = t.prepare("SELECT document FROM parts ORDER BY id")?;
    let parts = query.query_map([], |row| row.get::<_, String>(0))?.collect::<Result<Vec<_>, _>>()?;
    carried.parts = parts.len();
    write(PARTS, &format!("[{}]\n", parts.join(",\n")))?;
    let stock = stock::all(&t)?;
    write(STOCK, &(serde_json::to_string_pretty(&stock).unwrap_or_default() + "\n"))?;
    // Last: a folder without it is not a whole export.
    write(INDEX, &(serde_json::to_string_pretty(&index).unwrap_or_default() + "\n"))?;
    Ok(carried)
}

/// A build that is taken in.
pub(crate) struct Incoming {
    pub(crate) build: Build,
    pub(crate) events: Vec<Event>,
    pub(crate) photos: Vec<(String, Photo)>,
    pub(crate) deleted: bool,
}

/// Everything of an exported folder, read and found sound before anything is kept.
pub(crate) struct Import {
    pub(crate) builds: Vec<Incoming>,
    pub(crate) parts: Vec<Part>,
    pub(crate) stock: BTreeMap<String, f64>,
}

fn read_folder(from: &Path) -> Result<Import, StoreError> {
    let bad = |file: &str, problem: String| StoreError::Import { file: from.join(file).display().to_string(), problem };
    let bytes = |file: &str| -> Result<Vec<u8>, StoreError> {
        // A name that leads elsewhere is none of this folder.
        if Path::new(file).components().count() != 1 || file.starts_with('.') {
            return Err(bad(INDEX, format!("`{file}` is not the name of a file beside it")));
        }
        std::fs::read(from.join(file)).map_err(|error| bad(file, error.to_string()))
    };
    let read = |file: &str| String::from_utf8(bytes(file)?).map_err(|error| bad(file, error.to_string()));
    let index: Index = serde_json::from_str(&read(INDEX)?).map_err(|error| bad(INDEX, error.to_string()))?;
    if index.format != FORMAT {
        return Err(bad(INDEX, format!("`{}` is not a format this version reads; it reads {FORMAT}", index.format)));
    }
    let mut import = Import { builds: Vec::new(), parts: Vec::new(), stock: BTreeMap::new() };
    for listed in index.builds {
        let build = parse_stored(&read(&listed.document)?).map_err(|error| bad(&listed.document, error.to_string()))?;
        let events = from_lines(&read(&listed.journal)?).map_err(|error| bad(&listed.journal, error.to_string()))?;
        let mut photos = Vec::new();
        for file in &listed.photos {
            let event = file.split_once(PHOTO).and_then(|(_, rest)| rest.split_once('.')).map(|(event, _)| event.to_owned());
            let event = event.ok_or_else(|| bad(INDEX, format!("`{file}` names no event")))?;
            photos.push((event, Photo::of(bytes(file)?).map_err(|error| bad(file, error.to_string()))?));
        }
        import.builds.push(Incoming { build, events, photos, deleted: listed.deleted });
    }
    let parts: Vec<Box<serde_json::value::RawValue>> = serde_json::from_str(&read(PARTS)?).map_err(|error| bad(PARTS, error.to_string()))?;
    let parts = parts.iter().map(|part| parse_part_text(part.get()).map_err(|error| bad(PARTS, error.to_string())));
    import.parts = parts.collect::<Result<_, _>>()?;
    // A folder from before there was a drawer has none.
    if from.join(STOCK).exists() {
        import.stock = serde_json::from_str(&read(STOCK)?).map_err(|error| bad(STOCK, error.to_string()))?;
        if let Some((part, count)) = import.stock.iter().find(|(_, count)| !(0.0..=1e6).contains(*count)) {
            return Err(bad(STOCK, format!("{count} of `{part}` are in the drawer; give 0 to a million")));
        }
    }
    Ok(import)
}

impl Store {
    /// Takes in a folder that [`export_all`] wrote: all of it or nothing. A build that is here word for word is left as it
    /// is, and its journal joins the one that it has; a part with a known id is replaced.
    ///
    /// # Errors
    /// [`StoreError::Import`] naming the file at fault.
    pub async fn import_all(&self, from: PathBuf) -> Result<Carried, StoreError> {
        let import = read_folder(&from)?;
        self.run(move |t| take_in(t, &import)).await
    }
}

/// All of it, into a transaction.
pub(crate) fn take_in(t: &Transaction<'_>, import: &Import) -> Result<Carried, StoreError> {
    let mut carried = Carried { parts: import.parts.len(), ..Carried::default() };
    for Incoming { build, events, photos, deleted } in &import.builds {
        let known: Option<i64> = t
            .prepare_cached(
                "SELECT b.id FROM builds b JOIN revisions r ON r.build_id = b.id AND r.revision = b.revision
                 WHERE r.document = ?1 AND (b.deleted_at IS NOT NULL) = ?2 ORDER BY b.id LIMIT 1",
            )?
            .query_row(params![build.compact(), deleted], |row| row.get(0))
            .optional()?;
        let id = match known {
            Some(id) => {
                carried.known += 1;
                id
            }
            None => {
                carried.builds += 1;
                crate::insert(t, build)?.id
            }
        };
        carried.events += journal::append(t, id, events)?.kept;
        for (event, photo) in photos {
            photos::keep(t, id, event, photo)?;
        }
        if *deleted && known.is_none() {
            crate::set_deleted(t, id, true)?;
        }
    }
    for part in &import.parts {
        crate::keep_part(t, part)?;
    }
    for (part, count) in &import.stock {
        stock::put(t, part, *count)?;
    }
    Ok(carried)
}
