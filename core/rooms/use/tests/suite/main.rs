//! The journal and what it says back.

mod journal;
mod said;
mod year;
