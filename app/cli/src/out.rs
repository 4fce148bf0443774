//! What every command shares: reading a build, printing for people or as JSON, and how it ends.

use orthavis_core::document::{Build, parse};
use orthavis_operations::{DocumentRequest, Refusal};
use serde::Serialize;
use serde_json::value::RawValue;
use std::io::Write;
use std::path::Path;
use std::process::ExitCode;

/// How a command ends that did what it was asked.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum End {
    /// Nothing stands against it.
    Fine,
    /// Something forbids building it.
    Stops,
}

impl From<End> for ExitCode {
    fn from(end: End) -> Self {
        match end {
            End::Fine => ExitCode::SUCCESS,
            End::Stops => ExitCode::from(1),
        }
    }
}

/// Why a command did not do what it was asked.
#[derive(Debug)]
pub enum Failure {
    /// What it was given cannot be used.
    Input(String),
    /// It was not called as it is meant to be.
    Usage(String),
}

impl Failure {
    /// The exit code.
    pub const fn code(&self) -> u8 {
        match self {
            Failure::Input(_) => 2,
            Failure::Usage(_) => USAGE,
        }
    }

    pub fn words(&self) -> &str {
        match self {
            Failure::Input(words) | Failure::Usage(words) => words,
        }
    }
}

/// Exit code where the command line itself is wrong.
pub const USAGE: u8 = 3;

impl From<String> for Failure {
    fn from(words: String) -> Self {
        Failure::Input(words)
    }
}

impl From<&str> for Failure {
    fn from(words: &str) -> Self {
        Failure::Input(words.to_owned())
    }
}

impl From<Refusal> for Failure {
    fn from(refusal: Refusal) -> Self {
        Failure::Input(refusal.detail)
    }
}

/// What a command gives back.
pub type Outcome = Result<End, Failure>;

/// Where answers go: words for people, or JSON.
#[derive(Clone, Copy, Debug)]
pub struct Out {
    /// JSON was asked for.
    pub json: bool,
}

impl Out {
    /// An answer as it is, or as people read it.
    pub fn put(self, answer: &impl Serialize, words: impl FnOnce() -> String) -> Outcome {
        if !self.json {
            return self.plainly(&words());
        }
        let text = serde_json::to_string_pretty(answer).map_err(|error| error.to_string())?;
        self.plainly(&(text + "\n"))
    }

    /// A text that is its own format; a string where JSON was asked for.
    pub fn text(self, text: &str) -> Outcome {
        self.put(&text, || text.to_owned())
    }

    fn plainly(self, text: &str) -> Outcome {
        print(text)?;
        Ok(End::Fine)
    }
}

/// Standard output, where a closed pipe is the reader's choice and not our failure.
pub fn print(text: &str) -> Result<(), Failure> {
    match std::io::stdout().write_all(text.as_bytes()) {
        Err(error) if error.kind() != std::io::ErrorKind::BrokenPipe => Err(format!("standard output: {error}").into()),
        _ => Ok(()),
    }
}

/// What was printed so far is there for whoever reads along.
pub fn flush() -> Result<(), Failure> {
    match std::io::stdout().flush() {
        Err(error) if error.kind() != std::io::ErrorKind::BrokenPipe => Err(format!("standard output: {error}").into()),
        _ => Ok(()),
    }
}

pub fn read_text(file: &Path) -> Result<String, Failure> {
    let text = if file == Path::new("-") { std::io::read_to_string(std::io::stdin()) } else { std::fs::read_to_string(file) };
    text.map_err(|error| format!("{}: {error}. Name a build file that can be read.", file.display()).into())
}

/// A build file, as it was written and as it was read.
pub struct Document {
    pub build: Build,
    text: String,
}

impl Document {
    pub fn read(file: &Path) -> Result<Document, Failure> {
        let text = read_text(file)?;
        let build = parse(&text).map_err(|error| format!("{} cannot be used:\n{error}", file.display()))?;
        Ok(Document { build, text })
    }

    /// The document for a question.
    pub fn raw(&self) -> Result<Box<RawValue>, Failure> {
        RawValue::from_string(self.text.clone()).map_err(|error| error.to_string().into())
    }

    /// The question about nothing but the document.
    pub fn alone(&self) -> Result<DocumentRequest, Failure> {
        Ok(DocumentRequest { document: self.raw()? })
    }

    /// The scene that was named, else the first.
    pub fn scene(&self, named: Option<&String>) -> Result<String, Failure> {
        let first = || self.build.scenes.first().map(|scene| scene.id.clone());
        named.cloned().or_else(first).ok_or_else(|| "this build has no scene; add one in the workshop".into())
    }
}

/// Writes a file that a person named.
pub fn write(file: &Path, bytes: impl AsRef<[u8]>) -> Result<(), Failure> {
    std::fs::write(file, bytes).map_err(|error| format!("{}: {error}. Name a file that can be written.", file.display()).into())
}

/// Makes a folder that a person named.
pub fn folder(path: &Path) -> Result<(), Failure> {
    std::fs::create_dir_all(path).map_err(|error| format!("{}: {error}. Name a folder that can be written to.", path.display()).into())
}
