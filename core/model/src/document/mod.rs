//! The build document `orthavis.build/1`: one build, self-contained.
//!
//! [`parse`] is the only way in from outside. What it returns is well formed: every figure lies in its
//! physical range, ids are unique, every reference points at something, and the supply tree has no loops.
//! Later code relies on that and does not check again.

mod build;
pub mod field;
mod forms;
pub mod library;
pub mod limits;
mod migrate;
mod part;
mod part_reader;
mod patch;
mod read;
mod reader;
mod record;
pub mod stands;
mod strict;
pub mod tables;
mod things;
mod validate;

pub use build::{Build, FORMAT};
pub use limits::MAX_BYTES;
pub use part::{Part, PartLight, What};
pub use part_reader::{parse_part, parse_part_text};
pub use patch::{PatchError, patched};
pub use read::{DocumentError, Fault};
pub use reader::{is_sound, parse, parse_stored, parse_value};
pub use strict::read_strict;
pub use things::*;
