//! Keeping, from the command line: copies of the workshop, and all of it in open formats.

use crate::out::{Failure, Out, Outcome};
use clap::Args;
use orthavis_store::{Carried, Owner, Store, backup, export_all};
use serde_json::json;
use std::path::{Path, PathBuf};

#[derive(Args)]
pub struct Database {
    /// Database file [default: the workshop's, in a folder of the current user]
    #[arg(long)]
    db: Option<PathBuf>,
}

impl Database {
    fn path(&self) -> Result<PathBuf, Failure> {
        self.db.clone().map_or_else(|| home("workshop.db"), Ok)
    }
}

/// Where a person's own files go: an absolute `XDG_DATA_HOME`, else below an absolute `HOME`; anything else is ignored,
/// as the base-directory rules want it.
pub fn home(file: &str) -> Result<PathBuf, Failure> {
    let folder = |name: &str| std::env::var_os(name).map(PathBuf::from).filter(|path| path.is_absolute());
    let base = folder("XDG_DATA_HOME").or_else(|| Some(folder("HOME")?.join(".local/share")));
    Ok(base.ok_or("no home folder is known; name a file with --db")?.join("orthavis").join(file))
}

pub fn back_up(database: &Database, file: &Path, out: Out) -> Outcome {
    let path = database.path()?;
    backup(&path, file).map_err(|error| error.to_string())?;
    out.put(&json!({ "workshop": path, "copy": file }), || format!("{} is copied into {}\n", path.display(), file.display()))
}

pub fn restore(database: &Database, file: &Path, force: bool, out: Out) -> Outcome {
    let path = database.path()?;
    let owner = Owner::take(&path).map_err(|error| error.to_string())?;
    let kept = orthavis_store::restore(file, &owner, force).map_err(|error| error.to_string())?;
    out.put(&json!({ "workshop": path, "copy": file, "kept": kept }), || {
        let kept = kept.as_ref().map_or_else(String::new, |kept| format!("; what was there is kept in {}", kept.display()));
        format!("{} is as it was in {}{kept}\n", path.display(), file.display())
    })
}

/// As in `1 build`, `2 builds`.
fn count(number: usize, thing: &str) -> String {
    format!("{number} {thing}{}", if number == 1 { "" } else { "s" })
}

fn put(carried: Carried, out: Out, words: impl FnOnce(String) -> String) -> Outcome {
    let Carried { builds, events, parts, known } = carried;
    let counted = || format!("{}, {} and {}", count(builds, "build"), count(events, "event"), count(parts, "own part"));
    out.put(&json!({ "builds": builds, "events": events, "parts": parts, "known": known }), || words(counted()))
}

pub fn export(database: &Database, folder: &Path, out: Out) -> Outcome {
    let carried = export_all(&database.path()?, folder).map_err(|error| error.to_string())?;
    put(carried, out, |all| format!("{all} are in {}\n", folder.display()))
}

pub fn import(database: &Database, folder: PathBuf, out: Out) -> Outcome {
    let store = Store::open(&database.path()?).map_err(|error| error.to_string())?;
    let runtime = tokio::runtime::Builder::new_current_thread().build().map_err(|error| error.to_string())?;
    let carried = runtime.block_on(store.import_all(folder)).map_err(|error| error.to_string())?;
    let known = if carried.known > 0 { format!("; {} here already", count(carried.known, "build")) } else { String::new() };
    put(carried, out, |all| format!("{all} came in{known}\n"))
}
