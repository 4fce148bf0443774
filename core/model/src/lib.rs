//! What a build is: the document and its reader, the parts library, what each part does by itself, and the figures of
//! good practice.
//!
//! The lowest layer: it knows nothing of networks, findings or advice.

pub mod budget;
pub mod chance;
pub mod demo;
pub mod dimming;
pub mod document;
pub mod drawer;
pub mod edit;
pub mod fixing;
pub mod glossary;
pub mod icalendar;
pub mod journal;
pub mod laws;
pub mod moment;
pub mod practice;
pub mod states;
pub mod table;
pub mod topology;
pub mod trying;
pub mod vehicle;
mod words;
pub mod working;

pub use document::library as parts;
