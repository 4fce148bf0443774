//! What can go wrong, each with its remedy.

use crate::Text;
use orthavis_core::document::{DocumentError, MAX_BYTES};

/// Why the store did not do what was asked.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// No such build or revision.
    #[error("We cannot find that build or revision")]
    NotFound,
    /// The build was saved by someone else meanwhile.
    #[error("the build was saved elsewhere meanwhile, as revision {}", .0.revision)]
    Stale(Box<Text>),
    /// A stored document that this version cannot read.
    #[error("this build cannot be read: {0}")]
    Damaged(#[from] DocumentError),
    /// The document is too large to be kept.
    #[error("the build would take {0} bytes; a build is at most {MAX_BYTES}. Split it, or shorten its notes")]
    TooLarge(usize),
    /// Not the name of a file.
    #[error("`{0}` is not a file that builds could be kept in; name one with --db")]
    NoFile(String),
    /// The folder of the database.
    #[error("{0}: {1}. Name a file in a folder that can be written to with --db")]
    Folder(String, std::io::Error),
    /// Another process has it.
    #[error("{path} is in use by {who}; close that one first, or name another file with --db")]
    Owned {
        /// The file.
        path: String,
        /// The process, and where it serves.
        who: String,
        /// Where it serves, as it signed; `None`: it does not say.
        at: Option<String>,
    },
    /// It cannot be written.
    #[error("{0} can only be read; make it writable, or name another file with --db")]
    ReadOnly(String),
    /// Something else's file.
    #[error("{0} is not a database of Orthavis and was left as it is; name another file with --db")]
    Foreign(String),
    /// The file itself is damaged.
    #[error("{0} is damaged ({1}) and was left as it is; put a copy in its place, or name another file with --db")]
    Broken(String, String),
    /// Removed or replaced while open.
    #[error("{0} was removed or replaced while it was open: nothing is saved any more. Export what is open, put the file back and start again")]
    Gone(String),
    /// The calendar knows no such moment.
    #[error("`{0}` is not a moment of the calendar; write it as 2026-05-02T18:40:00+02:00")]
    Moment(String),
    /// An event is here with other content.
    #[error("the event {0} is in the journal with other content; a correction is a new event that names it in `replaces`")]
    Differs(String),
    /// No picture that is kept.
    #[error("what was sent {0}; send a picture as JPEG, PNG or WebP of at most 2 MB")]
    NoPhoto(String),
    /// What would be written over is newer than what would be written.
    #[error("the database holds what was saved at {saved_at}, and the backup nothing after {backup}; --force restores it all the same")]
    Newer {
        /// When something was last saved here.
        saved_at: String,
        /// When something was last saved there.
        backup: String,
    },
    /// A file or folder that would be written over.
    #[error("{0} is there already; name a new one")]
    Taken(String),
    /// A folder that cannot be taken in.
    #[error("{file} cannot be taken in: {problem}. Nothing was changed; correct the file, or export the folder again")]
    Import {
        /// The file at fault.
        file: String,
        /// What is wrong with it.
        problem: String,
    },
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
