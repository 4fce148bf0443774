//! A timer that flashes what hangs on its output.

use super::super::super::read::Object;
use super::super::*;
use super::RESISTOR;

record! {
    /// Parts of a flasher with a timer.
    pub struct TimerFlasher with base_resistor {
        /// From plus to the discharge pin, ohm.
        pub ra_ohm: f64 = number(RESISTOR).label("Ra"),
        /// From there to the threshold, ohm.
        pub rb_ohm: f64 = number(RESISTOR).label("Rb"),
        /// Capacitor, F.
        pub c_f: f64 = number(FARAD).label("Capacitor").shown("µF"),
        /// Which timer.
        pub timer: TimerKind = thing().or_word("bipolar").label("Timer"),
        /// A diode across Rb, so that it fills through Ra alone.
        pub diode: bool = thing().or_flag(false).label("A diode across Rb"),
        /// What carries the lights.
        pub through: Through = thing().or_word("none").label("Lights through"),
        /// Into that transistor's base or gate, ohm; a base needs one.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub base_ohm: Option<f64> = number(RESISTOR).label("Resistor at its base").nothing("none"),
    }
}

fn base_resistor(parts: &mut TimerFlasher, o: &mut Object<'_, '_>) {
    if parts.through == Through::Npn && parts.base_ohm.is_none() {
        o.fault("base_ohm", "a transistor that carries the lights needs it", "Give the resistor at its base, above 0");
    }
}
