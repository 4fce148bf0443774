//! The core as one: its promises, its laws, and two programs beside it.

mod bounds;
#[path = "../../../plan/tests/suite/helpers/mod.rs"]
mod helpers;
mod physics;
mod promises;
#[path = "../../../judge/tests/suite/reference/random.rs"]
mod random;
mod steady;
