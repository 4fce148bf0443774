//! Look: what a build looks like. Its light in figures, the vehicle as a thing, the night.

pub mod body;
pub mod drawing;
pub mod eye;
pub mod falls;
pub mod figures;
pub mod mesh;
pub mod night;
pub mod octets;
pub mod shade;
mod trace;
pub mod view;
