//! A capacitor that carries lights over a broken contact.

use super::super::super::read::Object;
use super::super::*;

record! {
    /// Parts of a hold-up.
    pub struct HoldUp with taps {
        /// Whether a bridge is before it.
        pub bridge: bool = thing().or_flag(false).label("A bridge before it"),
        /// Its capacitor fills through, ohm.
        pub charge_ohm: f64 = number(OHM).label("Filling resistor"),
        /// Capacitor, F.
        pub c_f: f64 = number(FARAD).label("Capacitor").shown("µF"),
        /// What that withstands, V.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub c_rated_v: Option<f64> = number(VOLT).label("Withstands"),
        /// Resistance of the capacitor itself, ohm.
        pub esr_ohm: f64 = number(OHM).or(0.05).label("Inner resistance"),
        /// Resistors in a row before the lights, ohm.
        pub taps_ohm: Vec<f64> = Rule { most: 8, empty: Empty::Blank, ..number(OHM) }.label("Resistors before the lights"),
        /// How many of them are used.
        pub tap: u32 = count(1, 8).or(1.0).label("Resistors in use"),
        /// How long it is to carry more than half of the light, s.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub wanted_s: Option<f64> = number(Range::above_zero(10_000.0, "s")).label("Should carry the light for").nothing("not said"),
    }
}

fn taps(parts: &mut HoldUp, o: &mut Object<'_, '_>) {
    let row = parts.taps_ohm.len();
    if parts.tap as usize > row.max(1) {
        o.fault("tap", format!("there are {row} resistors"), "Use at most as many as there are");
    }
}

impl HoldUp {
    /// Resistors before the lights with so many of them used, ohm.
    pub fn row_ohm(&self, tap: u32) -> f64 {
        self.taps_ohm.iter().take(tap as usize).sum()
    }
}
