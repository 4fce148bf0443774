//! Builds and every revision of them, in one SQLite file.
//!
//! One thread owns the one connection; calls from async code are sent to it and awaited, so that the executor never
//! waits for the disk. A save names the revision it was made on: a stale one is refused with the current version.
//! Write-ahead log, `synchronous = FULL`: what was answered as saved survives a hard kill.

mod copies;
mod devices;
mod error;
mod file;
mod journal;
mod photos;
mod revisions;
mod stock;
mod workshop;

pub use copies::{Carried, backup, export_all, restore};
pub use devices::Device;
pub use error::StoreError;
pub use file::Owner;
pub use journal::{Appended, EventPage, Lived, Wanted};
pub use photos::{MAX_PHOTO, Photo};
pub use workshop::{Change, Looked, Whole};

use orthavis_core::document::{Build, Part, parse_part_text, parse_stored};
use orthavis_core::journal::Event;
use revisions::{append, duplicate, expect, insert, newest, newest_text, set_deleted, text};
use rusqlite::{Connection, OptionalExtension, Transaction, TransactionBehavior, params};
use rusqlite_migration::{M, Migrations};
use std::path::{Path, PathBuf};
use std::sync::{Arc, mpsc};
use std::thread::JoinHandle;
use tokio::sync::oneshot;

const MIGRATIONS: &[M<'static>] = &[
    M::up(include_str!("../migrations/001_builds.sql")),
    M::up(include_str!("../migrations/002_parts.sql")),
    M::up(include_str!("../migrations/003_shelf.sql")),
    M::up(include_str!("../migrations/004_journal.sql")),
    M::up(include_str!("../migrations/005_once.sql")),
    M::up(include_str!("../migrations/006_devices.sql")),
    M::up(include_str!("../migrations/007_stock.sql")),
    M::up(include_str!("../migrations/008_photos.sql")),
];
const NOW: &str = "strftime('%Y-%m-%dT%H:%M:%fZ', 'now')";

/// A build at one revision.
#[derive(Clone, Debug)]
pub struct Stored {
    /// Key.
    pub id: i64,
    /// Counts up from 1.
    pub revision: i64,
    /// When this revision was saved, RFC 3339 in UTC.
    pub saved_at: String,
    /// The document.
    pub build: Build,
}

/// One line of a build's history.
#[derive(Clone, Debug)]
pub struct Revision {
    /// What a person called it.
    pub label: Option<String>,
    /// Counts up from 1.
    pub revision: i64,
    /// When it was saved, RFC 3339 in UTC.
    pub saved_at: String,
    /// The build's name then.
    pub name: String,
}

/// A build as it is kept, whether or not this version can read it.
#[derive(Clone, Debug)]
pub struct Text {
    /// Key.
    pub id: i64,
    /// Counts up from 1.
    pub revision: i64,
    /// When this revision was saved, RFC 3339 in UTC.
    pub saved_at: String,
    /// The name that it was saved under.
    pub name: String,
    /// The document.
    pub document: String,
}

/// A build on the shelf.
#[derive(Clone, Debug)]
pub struct Entry {
    /// Key.
    pub id: i64,
    /// Counts up from 1.
    pub revision: i64,
    /// When this revision was saved, RFC 3339 in UTC.
    pub saved_at: String,
    /// The name that it was saved under.
    pub name: String,
    /// What was kept of this revision by these rules, as JSON.
    pub summary: Option<String>,
}

/// Where a page of the shelf begins: after the entry with this time and key.
pub type Cursor = (String, i64);

type Job = Box<dyn FnOnce(&mut Connection) + Send>;

/// The database. Cheap to clone; when the last clone is dropped the file is closed and given up.
#[derive(Clone)]
pub struct Store {
    hand: Arc<Hand>,
    /// The file, and which one it was when it was opened.
    file: Arc<(PathBuf, Option<file::Identity>)>,
}

/// The thread that owns the connection.
struct Hand {
    jobs: Option<mpsc::Sender<Job>>,
    thread: Option<JoinHandle<()>>,
}

impl Drop for Hand {
    fn drop(&mut self) {
        // Without senders it finishes what was asked and closes the file; whoever opens it next finds it free.
        self.jobs = None;
        if let Some(thread) = self.thread.take() {
            drop(thread.join());
        }
    }
}

impl Store {
    /// Opens a file for this process alone; see [`Self::open_owned`].
    ///
    /// # Errors
    /// As [`Owner::take`] and [`Self::open_owned`].
    pub fn open(path: &Path) -> Result<Self, StoreError> {
        Self::open_owned(Owner::take(path)?)
    }

    /// The file.
    pub fn path(&self) -> &Path {
        &self.file.0
    }

    /// Opens the file that is owned, made if missing, and brings its schema up to date.
    ///
    /// # Errors
    /// When it is not ours, damaged, read-only or was written by a newer version; then it is left as it is.
    pub fn open_owned(owner: Owner) -> Result<Self, StoreError> {
        let mut connection = file::open(owner.path())?;
        connection.pragma_update(None, "journal_mode", "WAL")?;
        connection.pragma_update(None, "synchronous", "FULL")?;
        connection.pragma_update(None, "foreign_keys", true)?;
        connection.busy_timeout(std::time::Duration::from_secs(5))?;
        migrate(&mut connection)?;
        let file = Arc::new((owner.path().to_owned(), file::identity(owner.path())));
        let (jobs, inbox) = mpsc::channel::<Job>();
        let thread = std::thread::spawn(move || {
            for job in inbox {
                // A job that panics has rolled its transaction back; the others go on.
                let outcome = std::panic::catch_unwind(std::panic::AssertUnwindSafe(|| job(&mut connection)));
                drop(outcome);
            }
            drop(connection);
            // Given up only once the file is closed.
            drop(owner);
        });
        Ok(Store { hand: Arc::new(Hand { jobs: Some(jobs), thread: Some(thread) }), file })
    }

    async fn run<T: Send + 'static>(&self, job: impl FnOnce(&Transaction<'_>) -> Result<T, StoreError> + Send + 'static) -> Result<T, StoreError> {
        let file = self.file.clone();
        self.run_bare(move |connection| {
            let transaction = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
            // What is written into a file that nobody can find any more is not saved.
            if file::identity(&file.0) != file.1 {
                return Err(StoreError::Gone(file.0.display().to_string()));
            }
            let value = job(&transaction)?;
            transaction.commit()?;
            Ok(value)
        })
        .await
    }

    /// A job with the connection itself, outside of any transaction.
    async fn run_bare<T: Send + 'static>(&self, job: impl FnOnce(&mut Connection) -> Result<T, StoreError> + Send + 'static) -> Result<T, StoreError> {
        let (reply, answer) = oneshot::channel();
        // Nobody waits any more when the request was dropped; the work is done all the same.
        let work: Job = Box::new(move |connection| drop(reply.send(job(connection))));
        self.hand.jobs.as_ref().ok_or(StoreError::Closed)?.send(work).map_err(|_| StoreError::Closed)?;
        answer.await.map_err(|_| StoreError::Closed)?
    }

    /// A page of the shelf, the last saved first, with what was kept of each by these rules.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn list(&self, after: Option<Cursor>, limit: u32, rules: &str) -> Result<Vec<Entry>, StoreError> {
        let rules = rules.to_owned();
        self.run(move |t| {
            let (saved_at, id) = after.unwrap_or(("9999".into(), i64::MAX));
            let mut query = t.prepare_cached(
                "SELECT b.id, b.revision, b.saved_at, r.name, s.summary FROM builds b
                 JOIN revisions r ON r.build_id = b.id AND r.revision = b.revision
                 LEFT JOIN summaries s ON s.build_id = b.id AND s.revision = b.revision AND s.rules = ?4
                 WHERE b.deleted_at IS NULL AND (b.saved_at, b.id) < (?1, ?2) ORDER BY b.saved_at DESC, b.id DESC LIMIT ?3",
            )?;
            let entry =
                |row: &rusqlite::Row<'_>| Ok(Entry { id: row.get(0)?, revision: row.get(1)?, saved_at: row.get(2)?, name: row.get(3)?, summary: row.get(4)? });
            Ok(query.query_map(params![saved_at, id, limit, rules], entry)?.collect::<Result<Vec<_>, _>>()?)
        })
        .await
    }

    /// Keeps what the shelf shows of a revision, unless the build was saved meanwhile.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn keep_summary(&self, id: i64, revision: i64, rules: &str, summary: String) -> Result<(), StoreError> {
        let rules = rules.to_owned();
        self.run(move |t| {
            t.execute(
                "INSERT INTO summaries (build_id, revision, rules, summary) SELECT id, revision, ?3, ?4 FROM builds WHERE id = ?1 AND revision = ?2
                 ON CONFLICT (build_id) DO UPDATE SET revision = excluded.revision, rules = excluded.rules, summary = excluded.summary",
                params![id, revision, rules, summary],
            )?;
            Ok(())
        })
        .await
    }

    /// A build's document as it is kept, whether or not this version can read it.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], or when the database fails.
    pub async fn text(&self, id: i64) -> Result<Text, StoreError> {
        self.run(move |t| newest_text(t, id)).await
    }

    /// Several new builds with their journals, all or none, once for this file: a second time nothing is added under the same name.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn create_once(&self, name: &'static str, builds: Vec<(Build, Vec<Event>)>) -> Result<(), StoreError> {
        self.run(move |t| {
            // Files of the first versions bear no note, but builds.
            let done: bool =
                t.query_row("SELECT EXISTS (SELECT 1 FROM notes WHERE key = ?1) OR EXISTS (SELECT 1 FROM builds)", params![name], |row| row.get(0))?;
            if done {
                return Ok(());
            }
            for (build, events) in &builds {
                let id = insert(t, build)?.id;
                journal::append(t, id, events)?;
            }
            t.execute(&format!("INSERT INTO notes (key, value) VALUES (?1, {NOW})"), params![name])?;
            Ok(())
        })
        .await
    }

    /// A build at its newest revision.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], or when the database fails.
    pub async fn open_build(&self, id: i64) -> Result<Stored, StoreError> {
        self.run(move |t| newest(t, id)).await
    }

    /// A new build at revision 1.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn create(&self, build: Build) -> Result<Stored, StoreError> {
        self.run(move |t| insert(t, &build)).await
    }

    /// Creates a build under a key of the asker's; asked again under the same key, it is the one that is there.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when that one was deleted meanwhile, or when the database fails.
    pub async fn create_as(&self, build: Build, key: String) -> Result<Stored, StoreError> {
        self.once(key, move |t| insert(t, &build)).await
    }

    /// [`Self::duplicate`] under a key of the asker's.
    ///
    /// # Errors
    /// As [`Self::duplicate`] and [`Self::create_as`].
    pub async fn duplicate_as(&self, id: i64, key: String) -> Result<Stored, StoreError> {
        self.once(key, move |t| duplicate(t, id)).await
    }

    async fn once(&self, key: String, make: impl FnOnce(&Transaction<'_>) -> Result<Stored, StoreError> + Send + 'static) -> Result<Stored, StoreError> {
        self.run(move |t| {
            let there = t.prepare_cached("SELECT id FROM builds WHERE asked_as = ?1")?.query_row(params![key], |row| row.get(0)).optional()?;
            if let Some(id) = there {
                return newest(t, id);
            }
            let made = make(t)?;
            t.prepare_cached("UPDATE builds SET asked_as = ?2 WHERE id = ?1")?.execute(params![made.id, key])?;
            Ok(made)
        })
        .await
    }

    /// Saves on top of `revision`.
    ///
    /// # Errors
    /// [`StoreError::Stale`] with the current version when that is not the newest revision.
    pub async fn save(&self, id: i64, revision: i64, build: Build) -> Result<Stored, StoreError> {
        self.run(move |t| {
            let current = newest_text(t, id)?;
            if current.revision != revision {
                return Err(StoreError::Stale(Box::new(current)));
            }
            append(t, id, revision + 1, &build)
        })
        .await
    }

    /// A copy under a name of its own.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], or when the database fails.
    pub async fn duplicate(&self, id: i64) -> Result<Stored, StoreError> {
        self.run(move |t| duplicate(t, id)).await
    }

    /// Takes a build off the shelf (`true`) or puts it back; at this revision of it, if one is named.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Stale`], or when the database fails.
    pub async fn set_deleted(&self, id: i64, on: Option<i64>, deleted: bool) -> Result<(), StoreError> {
        self.run(move |t| {
            expect(t, id, on)?;
            set_deleted(t, id, deleted)
        })
        .await
    }

    /// The history of a build, newest first.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], or when the database fails.
    pub async fn revisions(&self, id: i64) -> Result<Vec<Revision>, StoreError> {
        self.run(move |t| {
            newest_text(t, id)?;
            let mut query = t.prepare_cached("SELECT revision, saved_at, name, label FROM revisions WHERE build_id = ?1 ORDER BY revision DESC")?;
            let rows =
                query.query_map(params![id], |row| Ok(Revision { revision: row.get(0)?, saved_at: row.get(1)?, name: row.get(2)?, label: row.get(3)? }))?;
            Ok(rows.collect::<Result<Vec<_>, _>>()?)
        })
        .await
    }

    /// Names a revision, so that it is kept for good; `None` takes the name away.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], or when the database fails.
    pub async fn label(&self, id: i64, on: Option<i64>, revision: i64, label: Option<String>) -> Result<(), StoreError> {
        self.run(move |t| {
            newest_text(t, id)?;
            expect(t, id, on)?;
            let changed = t.prepare_cached("UPDATE revisions SET label = ?3 WHERE build_id = ?1 AND revision = ?2")?.execute(params![id, revision, label])?;
            if changed == 0 { Err(StoreError::NotFound) } else { Ok(()) }
        })
        .await
    }

    /// A person's own parts, by id.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn parts(&self) -> Result<Vec<Part>, StoreError> {
        self.run(|t| {
            let mut query = t.prepare_cached("SELECT document FROM parts ORDER BY id")?;
            let rows = query.query_map([], |row| row.get::<_, String>(0))?.collect::<Result<Vec<_>, _>>()?;
            let read = |row: &String| -> Result<Part, StoreError> { Ok(parse_part_text(row)?) };
            rows.iter().map(read).collect()
        })
        .await
    }

    /// Keeps a part of a person's own; one with the same id is replaced.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn keep_part(&self, part: Part) -> Result<(), StoreError> {
        self.run(move |t| keep_part(t, &part)).await
    }

    /// Forgets a part of a person's own.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], or when the database fails.
    pub async fn forget_part(&self, id: String) -> Result<(), StoreError> {
        self.run(move |t| if t.execute("DELETE FROM parts WHERE id = ?1", params![id])? == 0 { Err(StoreError::NotFound) } else { Ok(()) }).await
    }

    /// Saves an old revision again as the newest.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], or when the database fails.
    pub async fn restore(&self, id: i64, on: Option<i64>, revision: i64) -> Result<Stored, StoreError> {
        self.run(move |t| {
            let current = newest_text(t, id)?;
            expect(t, id, on)?;
            let old = t
                .query_row(
                    "SELECT build_id, revision, saved_at, name, document FROM revisions WHERE build_id = ?1 AND revision = ?2",
                    params![id, revision],
                    text,
                )
                .optional()?
                .ok_or(StoreError::NotFound)?
                .read()?;
            append(t, id, current.revision + 1, &old.build)
        })
        .await
    }
}

impl Text {
    /// The build.
    ///
    /// # Errors
    /// Where this version cannot read it.
    pub fn read(self) -> Result<Stored, StoreError> {
        Ok(Stored { id: self.id, revision: self.revision, saved_at: self.saved_at, build: parse_stored(&self.document)? })
    }
}

/// Brings the schema up to date.
fn migrate(connection: &mut Connection) -> Result<(), StoreError> {
    Ok(Migrations::from_slice(MIGRATIONS).to_latest(connection)?)
}

fn keep_part(t: &Transaction<'_>, part: &Part) -> Result<(), StoreError> {
    let document = serde_json::to_string(part).map_err(|error| rusqlite::Error::ToSqlConversionFailure(error.into()))?;
    let keep = format!("INSERT INTO parts (id, saved_at, document) VALUES (?1, {NOW}, ?2) ON CONFLICT (id) DO UPDATE SET saved_at = {NOW}, document = ?2");
    t.prepare_cached(&keep)?.execute(params![part.id, document])?;
    Ok(())
}
