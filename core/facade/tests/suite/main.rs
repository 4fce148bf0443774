//! The core as one: its promises, its laws, and two programs beside it.

mod bounds;
mod cases;
mod circuits;
#[path = "../../../plan/tests/suite/helpers/mod.rs"]
mod helpers;
mod laws;
mod netlist;
mod physics;
mod promises;
mod reference;
mod steady;
