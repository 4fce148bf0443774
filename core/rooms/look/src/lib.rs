//! Look: what a build looks like. Its light in figures, the vehicle as a thing, the night.

pub mod figures;
