//! Findings and their cards.

mod cards;
mod cases;
mod driven;
mod edges;
mod effort;
mod findings;
mod fixing;
mod laws;
mod reference;
mod soldered;
