//! What is wrong with a build, and what clears it.
//!
//! Each file here knows one family of findings: [`Family::find`] looks at the solved points, [`Family::mend`] proposes
//! edits. A proposal is offered only after the edited build was solved again and the finding was gone or milder
//! with no new stop (`remedy`). What follows from another fault is found by its figures (`follow`); what one change may
//! mend together is one card (`cards`). To add a family: one file, one line in `rules`.

mod cards;
mod case;
mod checks;
mod circuit;
mod collapse;
mod converter;
mod dimmer;
mod fixing;
mod follow;
mod frame;
mod fuse;
mod heat;
mod led;
mod light;
mod near;
mod pins;
mod place;
mod polarity;
mod remedy;
mod resistor;
mod rules;
mod shared;
mod shine;
mod show;
mod sleeps;
mod soldered;
mod source;
mod strip;
mod surge;
mod switching;
mod track;
mod wet;
mod wire;

pub use cards::{Card, cards};
pub use case::{Cause, Finding, Proposal, Remedy, Severity, parts};
pub use checks::{CHECKS, Check, CheckSaid, as_markdown, check};
pub use remedy::{Trials, add_remedies, affordable};
pub use rules::{brief, findings, judged, solved_for_mending};
pub use switching::rate as rate_switching;
