//! Two LEDs that tell how full the battery is.

use super::super::*;
use super::RESISTOR;

record! {
    /// Parts of a battery gauge.
    pub struct BatteryGauge {
        /// Before the LED for a good battery, ohm.
        pub rs_ohm: f64 = number(RESISTOR).label("Before the good LED"),
        /// From the base to minus, ohm.
        pub rb_ohm: f64 = number(RESISTOR).label("Rb"),
        /// Before the other LED, ohm.
        pub rc_ohm: f64 = number(RESISTOR).label("Before the other"),
        /// Silicon diodes in a row behind the good LED.
        pub diodes: u32 = count(0, 12).or(0.0).label("Diodes behind it"),
        /// The LED for a good battery.
        pub led_good: Led = thing(),
        /// The LED for a low one.
        pub led_low: Led = thing(),
    }
}
