//! What a part does by itself, one thing a file: current and slope at a voltage, rating, resistance.
//!
//! The methods stand beside the types of the document; what parts do together is the next layer's.

pub mod battery;
pub mod conditions;
pub mod converter;
pub mod effect;
pub mod fuse;
pub mod habits;
pub mod led;
pub mod light;
pub mod module;
pub mod pixels;
pub mod resistor;
pub mod wire;
