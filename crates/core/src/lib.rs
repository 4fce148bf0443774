//! The rules of lighting a small vehicle from its battery.
//!
//! Pure: plain data in, plain data out; no I/O, no clock, no web. [`document::parse`] reads a build,
//! [`report::report`] solves it at every scene and state of the battery and says what is wrong with it.

pub mod battery;
pub mod budget;
pub mod cautions;
pub mod choose;
pub mod converter;
pub mod demo;
pub mod document;
pub mod drain;
pub mod edit;
pub mod effect;
pub mod effort;
pub mod endurance;
pub mod findings;
pub mod fuse;
pub mod glossary;
pub mod habits;
pub mod led;
pub mod mend;
pub mod module;
pub mod network;
pub mod offered;
pub mod picture;
pub mod pixels;
pub mod points;
pub mod practice;
pub mod propose;
pub mod protection;
pub mod report;
pub mod resistor;
pub mod sheet;
pub mod states;
pub mod table;
pub mod vehicle;
pub mod verdict;
pub mod wire;
pub mod working;

pub use document::library as parts;
