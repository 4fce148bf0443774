//! A transistor that a controller's pin switches.

use super::super::*;
use super::RESISTOR;

record! {
    /// Parts of a switch for a pin.
    pub struct PinSwitch {
        /// Into its base or gate, ohm.
        pub base_ohm: f64 = number(RESISTOR).label("Resistor at its base"),
        /// Which transistor carries the lights.
        pub through: Transistor = thing().or_word("npn").label("Lights through"),
        /// Of the controller's pin, V.
        pub logic_v: f64 = number(VOLT).or(5.0).label("Pin at"),
    }
}
