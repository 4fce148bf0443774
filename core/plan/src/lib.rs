//! Ways to make a build better: helpers that decide, parts added with sensible figures and taken out again, and the search that mends all.

pub mod arrives;
pub mod choose;
pub mod mend;
pub mod propose;
pub mod remove;
mod soldered;
mod wish;
