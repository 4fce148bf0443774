//! Builds and every revision of them, in one SQLite file.
//!
//! One thread owns the one connection; calls from async code are sent to it and awaited, so that the executor never
//! waits for the disk. A save names the revision it was made on: a stale one is refused with the current version.
//! Write-ahead log, `synchronous = FULL`: what was answered as saved survives a hard kill.

use orthavis_core::document::{Build, DocumentError, parse, parse_part};
use orthavis_core::parts::Part;
use rusqlite::{Connection, OptionalExtension, Transaction, TransactionBehavior, params};
use rusqlite_migration::{M, Migrations};
use std::path::Path;
use std::sync::mpsc;
use tokio::sync::oneshot;

const MIGRATIONS: &[M<'static>] = &[M::up(include_str!("../migrations/001_builds.sql")), M::up(include_str!("../migrations/002_parts.sql"))];
const NOW: &str = "strftime('%Y-%m-%dT%H:%M:%fZ', 'now')";

/// Why the store did not do what was asked.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// No such build or revision.
    #[error("there is no such build or revision")]
    NotFound,
    /// The build was saved by someone else meanwhile.
    #[error("the build was saved elsewhere meanwhile, as revision {}", .0.revision)]
    Stale(Box<Stored>),
    /// A stored document no longer parses.
    #[error("the stored document is damaged: {0}")]
    Damaged(#[from] DocumentError),
    /// The database file.
    #[error("the database did not answer: {0}; check that its folder can be written and has room")]
    Database(#[from] rusqlite::Error),
    /// The schema.
    #[error("the database could not be brought up to date: {0}; it may come from a newer version")]
    Migration(#[from] rusqlite_migration::Error),
    /// The owning thread is gone.
    #[error("the store is closed; start the program again")]
    Closed,
}

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
    /// Counts up from 1.
    pub revision: i64,
    /// When it was saved, RFC 3339 in UTC.
    pub saved_at: String,
    /// The build's name then.
    pub name: String,
}

type Job = Box<dyn FnOnce(&mut Connection) + Send>;

/// The database. Cheap to clone; the file is closed when the last clone is dropped.
#[derive(Clone)]
pub struct Store {
    jobs: mpsc::Sender<Job>,
}

impl Store {
    /// Opens the file, made if missing, and brings its schema up to date.
    ///
    /// # Errors
    /// When it cannot be opened or was written by a newer version.
    pub fn open(path: &Path) -> Result<Self, StoreError> {
        let mut connection = Connection::open(path)?;
        connection.pragma_update(None, "journal_mode", "WAL")?;
        connection.pragma_update(None, "synchronous", "FULL")?;
        connection.pragma_update(None, "foreign_keys", true)?;
        connection.busy_timeout(std::time::Duration::from_secs(5))?;
        Migrations::from_slice(MIGRATIONS).to_latest(&mut connection)?;
        let (jobs, inbox) = mpsc::channel::<Job>();
        std::thread::spawn(move || {
            for job in inbox {
                job(&mut connection);
            }
        });
        Ok(Store { jobs })
    }

    async fn run<T: Send + 'static>(&self, job: impl FnOnce(&Transaction<'_>) -> Result<T, StoreError> + Send + 'static) -> Result<T, StoreError> {
        let (reply, answer) = oneshot::channel();
        let work: Job = Box::new(move |connection| {
            let outcome = connection.transaction_with_behavior(TransactionBehavior::Immediate).map_err(StoreError::from).and_then(|transaction| {
                let value = job(&transaction)?;
                transaction.commit()?;
                Ok(value)
            });
            // Nobody waits any more when the request was dropped; the work is done all the same.
            drop(reply.send(outcome));
        });
        self.jobs.send(work).map_err(|_| StoreError::Closed)?;
        answer.await.map_err(|_| StoreError::Closed)?
    }

    /// Every build that is not deleted, the last saved first.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn list(&self) -> Result<Vec<Stored>, StoreError> {
        self.run(|t| {
            let mut query = t.prepare(
                "SELECT b.id, r.revision, r.saved_at, r.document FROM builds b JOIN revisions r ON r.build_id = b.id AND r.revision = b.revision
                 WHERE b.deleted_at IS NULL ORDER BY r.saved_at DESC, b.id DESC",
            )?;
            let rows = query.query_map([], raw)?.collect::<Result<Vec<_>, _>>()?;
            rows.into_iter().map(Raw::read).collect()
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

    /// Saves on top of `revision`.
    ///
    /// # Errors
    /// [`StoreError::Stale`] with the current version when that is not the newest revision.
    pub async fn save(&self, id: i64, revision: i64, build: Build) -> Result<Stored, StoreError> {
        self.run(move |t| {
            let current = newest(t, id)?;
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
        self.run(move |t| {
            let mut build = newest(t, id)?.build;
            build.name = format!("{} (copy)", build.name).chars().take(200).collect();
            insert(t, &build)
        })
        .await
    }

    /// Takes a build off the shelf (`true`) or puts it back.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], or when the database fails.
    pub async fn set_deleted(&self, id: i64, deleted: bool) -> Result<(), StoreError> {
        self.run(move |t| {
            let value = if deleted { NOW } else { "NULL" };
            let was = if deleted { "IS NULL" } else { "IS NOT NULL" };
            let changed = t.execute(&format!("UPDATE builds SET deleted_at = {value} WHERE id = ?1 AND deleted_at {was}"), params![id])?;
            if changed == 0 { Err(StoreError::NotFound) } else { Ok(()) }
        })
        .await
    }

    /// The history of a build, newest first.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], or when the database fails.
    pub async fn revisions(&self, id: i64) -> Result<Vec<Revision>, StoreError> {
        self.run(move |t| {
            newest(t, id)?;
            let mut query = t.prepare("SELECT revision, saved_at, name FROM revisions WHERE build_id = ?1 ORDER BY revision DESC")?;
            let rows = query.query_map(params![id], |row| Ok(Revision { revision: row.get(0)?, saved_at: row.get(1)?, name: row.get(2)? }))?;
            Ok(rows.collect::<Result<Vec<_>, _>>()?)
        })
        .await
    }

    /// A person's own parts, by id.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn parts(&self) -> Result<Vec<Part>, StoreError> {
        self.run(|t| {
            let mut query = t.prepare("SELECT document FROM parts ORDER BY id")?;
            let rows = query.query_map([], |row| row.get::<_, String>(0))?.collect::<Result<Vec<_>, _>>()?;
            let read = |row: &String| -> Result<Part, StoreError> { Ok(parse_part(&serde_json::from_str(row).unwrap_or_default())?) };
            rows.iter().map(read).collect()
        })
        .await
    }

    /// Keeps a part of a person's own; one with the same id is replaced.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn keep_part(&self, part: Part) -> Result<(), StoreError> {
        self.run(move |t| {
            let document = serde_json::to_value(&part).map_err(|error| rusqlite::Error::ToSqlConversionFailure(error.into()))?;
            t.execute(
                &format!("INSERT INTO parts (id, saved_at, document) VALUES (?1, {NOW}, ?2) ON CONFLICT (id) DO UPDATE SET saved_at = {NOW}, document = ?2"),
                params![part.id, document.to_string()],
            )?;
            Ok(())
        })
        .await
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
    pub async fn restore(&self, id: i64, revision: i64) -> Result<Stored, StoreError> {
        self.run(move |t| {
            let current = newest(t, id)?;
            let old = t
                .query_row("SELECT build_id, revision, saved_at, document FROM revisions WHERE build_id = ?1 AND revision = ?2", params![id, revision], raw)
                .optional()?
                .ok_or(StoreError::NotFound)?
                .read()?;
            append(t, id, current.revision + 1, &old.build)
        })
        .await
    }
}

/// A row before its document is parsed.
struct Raw {
    id: i64,
    revision: i64,
    saved_at: String,
    document: String,
}

impl Raw {
    fn read(self) -> Result<Stored, StoreError> {
        Ok(Stored { id: self.id, revision: self.revision, saved_at: self.saved_at, build: parse(&self.document)? })
    }
}

fn raw(row: &rusqlite::Row<'_>) -> rusqlite::Result<Raw> {
    Ok(Raw { id: row.get(0)?, revision: row.get(1)?, saved_at: row.get(2)?, document: row.get(3)? })
}

fn newest(t: &Transaction<'_>, id: i64) -> Result<Stored, StoreError> {
    t.query_row(
        "SELECT b.id, r.revision, r.saved_at, r.document FROM builds b JOIN revisions r ON r.build_id = b.id AND r.revision = b.revision
         WHERE b.id = ?1 AND b.deleted_at IS NULL",
        params![id],
        raw,
    )
    .optional()?
    .ok_or(StoreError::NotFound)?
    .read()
}

fn insert(t: &Transaction<'_>, build: &Build) -> Result<Stored, StoreError> {
    t.execute(&format!("INSERT INTO builds (revision, created_at) VALUES (1, {NOW})"), [])?;
    append(t, t.last_insert_rowid(), 1, build)
}

fn append(t: &Transaction<'_>, id: i64, revision: i64, build: &Build) -> Result<Stored, StoreError> {
    t.execute(
        &format!("INSERT INTO revisions (build_id, revision, saved_at, name, document) VALUES (?1, ?2, {NOW}, ?3, ?4)"),
        params![id, revision, build.name, build.print()],
    )?;
    t.execute("UPDATE builds SET revision = ?2 WHERE id = ?1", params![id, revision])?;
    newest(t, id)
}
