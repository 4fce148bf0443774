//! A report seen in other ways: the watt river and the glow of the lights, and the sheet of a battery.

pub mod circuit;
pub mod picture;
pub mod sheet;
