//! The database file: whose it is, whether it is ours, and whether it is still there.

use crate::StoreError;
use rusqlite::{Connection, OpenFlags};
use std::fs::{File, OpenOptions};
use std::io::{Read, Seek, SeekFrom, Write};
use std::path::{Path, PathBuf};

/// `ORTH`: marks a file as ours.
const APPLICATION_ID: i32 = 0x4f52_5448;

pub(crate) fn beside(path: &Path, suffix: &str) -> PathBuf {
    let mut name = path.as_os_str().to_owned();
    name.push(suffix);
    PathBuf::from(name)
}

/// Sole use of a database file, held until dropped or the process ends, however it ends.
///
/// The file beside the database says who holds it; what counts is the lock on it.
#[derive(Debug)]
pub struct Owner {
    path: PathBuf,
    lock: File,
}

/// Between a process and its address, where it signs.
const AT: &str = " at ";

impl Owner {
    /// Takes a database file for this process. Neither it nor its folder need be there yet.
    ///
    /// # Errors
    /// [`StoreError::Owned`] where another process has it; when the folder cannot be made or written.
    pub fn take(path: &Path) -> Result<Self, StoreError> {
        let name = path.to_string_lossy();
        if name.is_empty() || name.starts_with(":memory:") || name.starts_with("file:") {
            return Err(StoreError::NoFile(name.into_owned()));
        }
        if path.is_dir() {
            return Err(StoreError::NoFile(format!("{name}, which is a folder,")));
        }
        let failed = |error: std::io::Error| StoreError::Folder(path.display().to_string(), error);
        if let Some(folder) = path.parent().filter(|folder| !folder.as_os_str().is_empty()) {
            std::fs::create_dir_all(folder).map_err(failed)?;
        }
        let lock = private(OpenOptions::new().read(true).write(true).create(true).truncate(false)).open(beside(path, ".owner")).map_err(failed)?;
        let mut owner = Owner { path: path.to_owned(), lock };
        if owner.lock.try_lock().is_err() {
            let mut who = String::new();
            // Whoever holds it may be writing its name just now.
            owner.lock.read_to_string(&mut who).unwrap_or_default();
            let who = if who.trim().is_empty() { "another process".to_owned() } else { who.trim().to_owned() };
            let at = who.split_once(AT).map(|(_, address)| address.to_owned());
            return Err(StoreError::Owned { path: name.into_owned(), who, at });
        }
        owner.sign("")?;
        Ok(owner)
    }

    /// Says at which address this process serves the file.
    ///
    /// # Errors
    /// When it cannot be written.
    pub fn sign(&mut self, address: &str) -> Result<(), StoreError> {
        let at = if address.is_empty() { String::new() } else { format!("{AT}{address}") };
        let text = format!("process {}{at}\n", std::process::id());
        let write = |lock: &mut File| -> std::io::Result<()> {
            lock.set_len(0)?;
            lock.seek(SeekFrom::Start(0))?;
            lock.write_all(text.as_bytes())
        };
        write(&mut self.lock).map_err(|error| StoreError::Folder(self.path.display().to_string(), error))
    }

    /// Whether the database is there already.
    pub fn is_there(&self) -> bool {
        self.path.exists()
    }

    /// Throws the database away.
    ///
    /// # Errors
    /// When a file cannot be removed.
    pub fn clear(&self) -> Result<(), StoreError> {
        for suffix in ["-wal", "-shm", ""] {
            match std::fs::remove_file(beside(&self.path, suffix)) {
                Err(error) if error.kind() != std::io::ErrorKind::NotFound => return Err(StoreError::Folder(self.path.display().to_string(), error)),
                _ => {}
            }
        }
        Ok(())
    }

    pub(crate) fn path(&self) -> &Path {
        &self.path
    }
}

#[cfg(unix)]
fn private(options: &mut OpenOptions) -> &mut OpenOptions {
    use std::os::unix::fs::OpenOptionsExt;
    options.mode(0o600)
}

#[cfg(not(unix))]
fn private(options: &mut OpenOptions) -> &mut OpenOptions {
    options
}

/// The file that is behind an open database, to be known again.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Identity(u64, u64);

#[cfg(unix)]
pub(crate) fn identity(path: &Path) -> Option<Identity> {
    use std::os::unix::fs::MetadataExt;
    std::fs::metadata(path).ok().map(|file| Identity(file.dev(), file.ino()))
}

#[cfg(not(unix))]
pub(crate) fn identity(path: &Path) -> Option<Identity> {
    std::fs::metadata(path).ok().map(|_| Identity(0, 0))
}

/// Opens a sound database of ours to be read only, whoever else has it open.
pub(crate) fn read_only(path: &Path) -> Result<Connection, StoreError> {
    check(path)?;
    Ok(Connection::open_with_flags(path, OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_NO_MUTEX)?)
}

/// A new database file that only this user can read.
pub(crate) fn create(path: &Path) -> Result<Connection, StoreError> {
    let failed = |error: std::io::Error| StoreError::Folder(path.display().to_string(), error);
    private(OpenOptions::new().write(true).create_new(true)).open(path).map_err(failed)?;
    Ok(Connection::open_with_flags(path, OpenFlags::SQLITE_OPEN_READ_WRITE | OpenFlags::SQLITE_OPEN_NO_MUTEX)?)
}

/// Opens an owned file: made if missing, refused unchanged where it is not ours, read-only or damaged.
pub(crate) fn open(path: &Path) -> Result<Connection, StoreError> {
    let name = || path.display().to_string();
    let new = std::fs::metadata(path).map_or(true, |file| file.len() == 0);
    if new {
        private(OpenOptions::new().write(true).create(true).truncate(false)).open(path).map_err(|error| StoreError::Folder(name(), error))?;
    } else {
        check(path)?;
    }
    let connection = Connection::open_with_flags(path, OpenFlags::SQLITE_OPEN_READ_WRITE | OpenFlags::SQLITE_OPEN_NO_MUTEX)?;
    if connection.is_readonly("main")? {
        return Err(StoreError::ReadOnly(name()));
    }
    connection.pragma_update(None, "application_id", APPLICATION_ID)?;
    Ok(connection)
}

/// Whether a file that is there is a sound database of ours; it is only read.
fn check(path: &Path) -> Result<(), StoreError> {
    let name = || path.display().to_string();
    let foreign = |error: rusqlite::Error| match error.sqlite_error_code() {
        Some(rusqlite::ErrorCode::NotADatabase) => StoreError::Foreign(name()),
        Some(rusqlite::ErrorCode::DatabaseCorrupt) => StoreError::Broken(name(), error.to_string()),
        _ => StoreError::Database(error),
    };
    let connection = Connection::open_with_flags(path, OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_NO_MUTEX).map_err(foreign)?;
    let id: i32 = connection.pragma_query_value(None, "application_id", |row| row.get(0)).map_err(foreign)?;
    let mut tables = connection.prepare("SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite%'").map_err(foreign)?;
    let tables: Vec<String> = tables.query_map([], |row| row.get(0)).map_err(foreign)?.collect::<Result<_, _>>().map_err(foreign)?;
    // Files of the first versions bear no mark yet.
    let ours = id == APPLICATION_ID || id == 0 && (tables.is_empty() || ["builds", "revisions"].iter().all(|known| tables.iter().any(|table| table == known)));
    if !ours {
        return Err(StoreError::Foreign(name()));
    }
    let verdict: String = connection.pragma_query_value(None, "quick_check", |row| row.get(0)).map_err(foreign)?;
    if verdict == "ok" { Ok(()) } else { Err(StoreError::Broken(name(), verdict)) }
}
