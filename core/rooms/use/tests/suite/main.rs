//! The journal and what it says back.

mod journal;
mod laws;
mod said;
mod year;
