//! A string of LEDs with a resistor.
//!
//! One LED: `V(I) = vf + n * V_T * ln(I / if) + rs * (I - if)`, Shockley's equation with series resistance through
//! the datasheet point (`vf`, `if`) at 300 K. No reverse current. Efficiency droop and temperature are outside it.

use crate::document::{Led, LedArray, Strip};
use crate::laws::resistor::{self, Series};
use crate::practice::LED_COLOURS;

/// Thermal voltage at 300 K, V.
pub const THERMAL_V: f64 = 0.02585;
/// Forward voltage at 20 mA of each of [`LED_COLOURS`], V, when no datasheet is at hand.
const LED_VF: [f64; LED_COLOURS.len()] = [3.1, 2.0, 2.1, 3.0, 3.1, 3.3, 1.3];

/// Usual forward voltage of a colour, V.
pub fn usual_vf(colour: &str) -> Option<f64> {
    LED_COLOURS.iter().position(|known| *known == colour).map(|at| LED_VF[at])
}

/// Ideality factor of an LED whose datasheet does not say.
const IDEALITY: f64 = 2.0;
/// Part of the rated forward voltage that drops in an LED's series resistance at rated current.
const SERIES_SHARE: f64 = 0.08;

/// Current beyond this multiple of rated is continued on the tangent, so that a string without resistance still
/// has a finite slope.
const MAX_LOG_RATIO: f64 = 16.0;

impl Led {
    /// Ideality factor.
    pub fn ideality(&self) -> f64 {
        self.n.unwrap_or(IDEALITY)
    }

    /// Series resistance, ohm.
    pub fn series_ohm(&self) -> f64 {
        self.rs_ohm.unwrap_or(SERIES_SHARE * self.vf_v / self.if_a)
    }
}

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
    /// All resistance of the string over that of its exponential at rated current; its logarithm.
    ln_ratio: f64,
}

impl DiodeString {
    /// One string of an array.
    pub fn of_array(array: &LedArray) -> Self {
        Self::new(&array.led, array.series, array.row_ohm())
    }

    /// `series` LEDs of one kind with a resistor.
    pub fn new(led: &Led, series: u32, resistor_ohm: f64) -> Self {
        let count = f64::from(series);
        Self::of(led.if_a, count * led.vf_v, count * led.ideality() * THERMAL_V, count * led.series_ohm(), resistor_ohm)
    }

    /// Rated current of the LEDs of a strip, A.
    pub fn strip_led_a(strip: &Strip) -> f64 {
        strip.power_w_per_m * strip.segment_m / strip.voltage_v
    }

    /// Voltage at which a strip's LEDs carry their rated current, V, and what all of it takes then, A.
    pub fn strip_rating(strip: &Strip) -> (f64, f64) {
        let rated_a = strip.power_w_per_m * strip.length_m / strip.voltage_v;
        match &strip.recut {
            None => (strip.voltage_v, rated_a),
            Some(recut) => {
                let row = Self::of_segment(strip);
                (row.voltage(row.if_a), rated_a * f64::from(recut.groups))
            }
        }
    }

    /// One segment of a strip; its resistor follows from the strip's rated power. Where it was cut again, its rows together.
    pub fn of_segment(strip: &Strip) -> Self {
        let if_a = Self::strip_led_a(strip);
        if let Some(recut) = &strip.recut {
            // Equal rows side by side are one row with as many times the current.
            let (rows, count) = (f64::from(recut.groups), f64::from(recut.series()));
            let vf_v = count * strip.led_vf_v;
            let all_a = rows * if_a;
            return Self::of(all_a, vf_v, count * IDEALITY * THERMAL_V, SERIES_SHARE * vf_v / all_a, recut.resistor_ohm / rows);
        }
        let count = f64::from(strip.leds_per_segment);
        let vf_v = count * strip.led_vf_v;
        Self::of(if_a, vf_v, count * IDEALITY * THERMAL_V, SERIES_SHARE * vf_v / if_a, (strip.voltage_v - vf_v) / if_a)
    }

    fn of(if_a: f64, vf_v: f64, slope_v: f64, rs_ohm: f64, resistor_ohm: f64) -> Self {
        DiodeString { if_a, vf_v, slope_v, rs_ohm, resistor_ohm, ln_ratio: ((rs_ohm + resistor_ohm) * if_a / slope_v).ln() }
    }

    /// The same as a diode of SPICE: saturation current, A, thermal voltage times emission coefficient, V, its series
    /// resistance and the resistor, ohm.
    pub fn shockley(&self) -> (f64, f64, f64, f64) {
        let saturation_a = self.if_a * ((self.rs_ohm * self.if_a - self.vf_v) / self.slope_v).exp();
        (saturation_a, self.slope_v, self.rs_ohm, self.resistor_ohm)
    }

    /// Voltage across the string at a current above 0, V.
    pub fn voltage(&self, current_a: f64) -> f64 {
        self.vf_v + self.slope_v * (current_a / self.if_a).ln() + self.rs_ohm * (current_a - self.if_a) + self.resistor_ohm * current_a
    }

    /// Current at a voltage, A, and its slope, S.
    ///
    /// ```
    /// use orthavis_model::document::Led;
    /// use orthavis_model::laws::led::DiodeString;
    /// let red = Led { colour: "red".into(), vf_v: 2.0, if_a: 0.02, if_max_a: 0.03, n: None, rs_ohm: None };
    /// // Three in a row behind 300 ohms take their rated current at 12 V.
    /// let row = DiodeString::new(&red, 3, 300.0);
    /// let (amps, _) = row.current(12.0);
    /// assert!((amps - 0.02).abs() < 1e-9);
    /// assert!((row.voltage(amps) - 12.0).abs() < 1e-9);
    /// ```
    ///
    /// With `u = ln(I / if)` the equation reads `s u + L e^u = c`. Put `w = (L / s) e^u` and it is Wright's omega,
    /// `w + ln w = z`, found by the fourth-order step of Fritsch, Shafer and Crowley (CACM 16, 1973).
    pub fn current(&self, voltage_v: f64) -> (f64, f64) {
        self.current_near(voltage_v, &mut Near::default())
    }

    /// [`Self::current`], faster where `near` holds what was found at a voltage close by; it then holds this one.
    pub fn current_near(&self, voltage_v: f64, near: &mut Near) -> (f64, f64) {
        if voltage_v <= 0.0 {
            return (0.0, 0.0);
        }
        let series_ohm = self.rs_ohm + self.resistor_ohm;
        let exponent = (voltage_v - self.vf_v + self.rs_ohm * self.if_a) / self.slope_v;
        // Without any resistance the logarithm is minus infinity, and omega 0.
        let z = exponent + self.ln_ratio;
        let (step, start) = (z - near.z, near.omega);
        // One step of the fourth order from a guess of the second is exact to the last digit.
        let w = if step.abs() < 0.05 && start > 1e-6 { refined(start * (1.0 + step / (1.0 + start)), z) } else { wright_omega(z) };
        *near = Near { z, omega: w };
        let u = exponent - w;
        if u >= MAX_LOG_RATIO {
            let most_a = self.if_a * MAX_LOG_RATIO.exp();
            let conductance = 1.0 / (self.slope_v / most_a + series_ohm);
            return (most_a + conductance * (voltage_v - self.voltage(most_a)).max(0.0), conductance);
        }
        // Where the resistor rules, `u` is a small difference of large numbers and `w` the better figure.
        let current_a = if w > 1.0 { w * self.slope_v / series_ohm } else { self.if_a * u.exp() };
        (current_a, 1.0 / (self.slope_v / current_a.max(1e-300) + series_ohm))
    }
}

/// A solution of the diode equation, from which a similar one is found faster.
#[derive(Clone, Copy, Debug)]
pub struct Near {
    z: f64,
    omega: f64,
}

impl Default for Near {
    fn default() -> Self {
        Near { z: f64::NEG_INFINITY, omega: 0.0 }
    }
}

/// The solution of `w + ln w = z`, to the last digits.
fn wright_omega(z: f64) -> f64 {
    if z < -36.0 {
        return z.exp();
    }
    let mut w = if z > 1.5 {
        let ln = z.ln();
        z - ln + ln / z
    } else if z < -1.0 {
        let e = z.exp();
        e * (1.0 - e / (1.0 + e))
    } else {
        (0.6 * (z - 1.0)).exp()
    };
    w = refined(w, z);
    refined(w, z)
}

/// One step of the iteration.
fn refined(w: f64, z: f64) -> f64 {
    let r = z - w - w.ln();
    let one = 1.0 + w;
    let p = one * (one + 2.0 / 3.0 * r);
    w * (1.0 + r / one * (p - 0.5 * r) / (p - r))
}

/// Gives an array the resistor that holds `share` of rated current at `voltage_v`, with a power rating to match.
/// Strings that leave it less than a tenth of the voltage are made shorter first.
pub fn arrange(array: &mut LedArray, voltage_v: f64, share: f64) -> Option<()> {
    let total = array.series * array.parallel;
    let string_v = |series: u32| DiodeString::new(&array.led, series, 0.0).voltage(share * array.led.if_a);
    while array.series > 1 && string_v(array.series) > 0.9 * voltage_v {
        array.series -= 1;
    }
    // Strings of equal length where the count allows, rather than a few LEDs more.
    let longest = array.series;
    array.series = (1..=longest).rev().find(|series| total.is_multiple_of(*series)).filter(|series| 2 * series >= longest).unwrap_or(longest);
    let over = voltage_v - string_v(array.series);
    if over <= 0.0 {
        return None;
    }
    array.parallel = total.div_ceil(array.series);
    (array.resistor_ohm, array.shared_resistor) = (resistor::above(Series::E24, over / (share * array.led.if_a)), false);
    let power = over * share * array.led.if_a;
    array.resistor_w = resistor::rating_for(power)?.max(array.resistor_w);
    Some(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn omega_solves_its_equation() {
        for step in -4000..=40_000 {
            let z = f64::from(step) * 0.01;
            let w = wright_omega(z);
            assert!((w + w.ln() - z).abs() <= 4e-15 * (1.0 + z.abs()), "z {z}: w {w}");
        }
    }

    #[test]
    fn a_guess_from_nearby_changes_nothing() {
        let string = DiodeString::of(0.02, 9.3, 3.0 * 2.0 * THERMAL_V, 40.0, 120.0);
        let mut near = Near::default();
        for step in 0..4000 {
            let volts = 14.0 - 0.0031 * f64::from(step);
            let (fresh, slope) = string.current(volts);
            let (found, near_slope) = string.current_near(volts, &mut near);
            assert!((found - fresh).abs() <= 1e-12 * fresh + 1e-18, "{volts} V: {found} A, {fresh} A");
            assert!((near_slope - slope).abs() <= 1e-12 * slope + 1e-18);
        }
    }
}
