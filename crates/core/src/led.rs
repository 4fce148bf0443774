//! A string of LEDs with a resistor.
//!
//! One LED: `V(I) = vf + n * V_T * ln(I / if) + rs * (I - if)`, Shockley's equation with series resistance through
//! the datasheet point (`vf`, `if`) at 300 K. No reverse current. Efficiency droop and temperature are outside it.

use crate::document::{Led, LedArray, Strip};

/// Thermal voltage at 300 K, V.
pub const THERMAL_V: f64 = 0.02585;

/// Current beyond this multiple of rated is continued on the tangent, so that a string without resistance still
/// has a finite slope.
const MAX_LOG_RATIO: f64 = 16.0;

/// `series` equal LEDs and one resistor in a row.
#[derive(Clone, Copy, Debug)]
pub struct DiodeString {
    /// Rated current, A.
    pub if_a: f64,
    /// Sum of rated forward voltages, V.
    vf_v: f64,
    /// Sum of `n * V_T`, V.
    slope_v: f64,
    /// Sum of the LEDs' own series resistances, ohm.
    rs_ohm: f64,
    /// The resistor, ohm.
    resistor_ohm: f64,
}

impl DiodeString {
    /// One string of an array.
    pub fn of_array(array: &LedArray) -> Self {
        Self::new(&array.led, array.series, array.resistor_ohm)
    }

    /// `series` LEDs of one kind with a resistor.
    pub fn new(led: &Led, series: u32, resistor_ohm: f64) -> Self {
        let count = f64::from(series);
        DiodeString {
            if_a: led.if_a,
            vf_v: count * led.vf_v,
            slope_v: count * led.n.unwrap_or(2.0) * THERMAL_V,
            rs_ohm: count * led.rs_ohm.unwrap_or(0.08 * led.vf_v / led.if_a),
            resistor_ohm,
        }
    }

    /// One segment of a strip; its resistor follows from the strip's rated power.
    pub fn of_segment(strip: &Strip) -> Self {
        let count = f64::from(strip.leds_per_segment);
        let if_a = strip.power_w_per_m * strip.segment_m / strip.voltage_v;
        DiodeString {
            if_a,
            vf_v: count * strip.led_vf_v,
            slope_v: count * 2.0 * THERMAL_V,
            rs_ohm: count * 0.08 * strip.led_vf_v / if_a,
            resistor_ohm: (strip.voltage_v - count * strip.led_vf_v) / if_a,
        }
    }

    /// Voltage across the string at a current above 0, V.
    pub fn voltage(&self, current_a: f64) -> f64 {
        self.vf_v + self.slope_v * (current_a / self.if_a).ln() + self.rs_ohm * (current_a - self.if_a) + self.resistor_ohm * current_a
    }

    /// Current at a voltage, A, and its slope, S.
    ///
    /// With `u = ln(I / if)` the equation is convex and increasing, so Newton's method from above falls
    /// monotonically onto the root.
    pub fn current(&self, voltage_v: f64) -> (f64, f64) {
        if voltage_v <= 0.0 {
            return (0.0, 0.0);
        }
        let linear_v = (self.rs_ohm + self.resistor_ohm) * self.if_a;
        let fixed_v = self.vf_v - self.rs_ohm * self.if_a - voltage_v;
        // Two bounds from above: one drops the logarithm, the other the linear part.
        let mut u = (-fixed_v / self.slope_v).min(60.0);
        let surplus_v = voltage_v - self.vf_v - self.resistor_ohm * self.if_a;
        if surplus_v > 0.0 && linear_v > 0.0 {
            u = u.min((1.0 + surplus_v / linear_v).ln());
        } else if surplus_v <= 0.0 {
            u = u.min(0.0);
        }
        u = u.min(MAX_LOG_RATIO);
        for _ in 0..60 {
            let e = u.exp();
            let step = (fixed_v + self.slope_v * u + linear_v * e) / (self.slope_v + linear_v * e);
            u -= step;
            if step.abs() < 1e-13 * (1.0 + u.abs()) {
                break;
            }
        }
        if u > MAX_LOG_RATIO {
            u = MAX_LOG_RATIO;
        }
        let current_a = self.if_a * u.exp();
        let conductance = 1.0 / (self.slope_v / current_a.max(1e-300) + self.rs_ohm + self.resistor_ohm);
        if u >= MAX_LOG_RATIO {
            let beyond_v = voltage_v - self.voltage(current_a);
            return (current_a + conductance * beyond_v.max(0.0), conductance);
        }
        (current_a, conductance)
    }
}
