//! Findings and their cards.

mod cards;
mod driven;
mod edges;
mod effort;
mod findings;
mod fixing;
mod soldered;
