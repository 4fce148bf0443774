//! Two transistors that switch each other.

use super::super::*;
use super::RESISTOR;

record! {
    /// Parts of a flasher with two transistors.
    pub struct TransistorFlasher {
        /// From plus to the first base, ohm.
        pub r1_ohm: f64 = number(RESISTOR).label("R1"),
        /// From plus to the second base, ohm.
        pub r2_ohm: f64 = number(RESISTOR).label("R2"),
        /// Between the second collector and the first base, F.
        pub c1_f: f64 = number(FARAD).label("C1").shown("µF"),
        /// Between the first collector and the second base, F.
        pub c2_f: f64 = number(FARAD).label("C2").shown("µF"),
    }
}
