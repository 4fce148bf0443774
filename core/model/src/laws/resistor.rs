//! A resistor: preferred values (IEC 60063) and power ratings.
//!
//! A part is used at no more than 60 % of its rated power, so that it stays cool enough to touch what it is taped to.

use crate::words;

words! {
    /// A series of preferred values.
    Series {
        /// Six a decade, 20 % parts: capacitors.
        E6 = "e6",
        /// Twelve a decade, 10 % parts.
        E12 = "e12",
        /// Twenty-four a decade, 5 % parts.
        E24 = "e24",
    }
}

/// Share of its rated power that a resistor is used at.
pub const DERATING: f64 = 0.6;
/// Usual power ratings, W.
pub const RATINGS_W: [f64; 8] = [0.125, 0.25, 0.5, 1.0, 2.0, 3.0, 5.0, 10.0];

const E24: [f64; 24] = [1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0, 3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8, 7.5, 8.2, 9.1];

impl Series {
    fn stride(self) -> usize {
        match self {
            Series::E6 => 4,
            Series::E12 => 2,
            Series::E24 => 1,
        }
    }

    /// Its values from one figure to another, both included, rising.
    pub fn between(self, from: f64, to: f64) -> Vec<f64> {
        let decades = from.log10().floor() as i32..=to.log10().floor() as i32;
        let rounded = |decade: i32, value: f64| format!("{value}e{decade}").parse().unwrap_or(f64::NAN);
        let all = decades.flat_map(|decade| E24.iter().step_by(self.stride()).map(move |value| rounded(decade, *value)));
        all.filter(|value| *value >= from * (1.0 - 1e-9) && *value <= to * (1.0 + 1e-9)).collect()
    }
}

/// Smallest value of a series not below `ohm`.
///
/// ```
/// use orthavis_model::laws::resistor::{Series, above};
/// assert_eq!(above(Series::E12, 437.0), 470.0);
/// assert_eq!(above(Series::E24, 437.0), 470.0);
/// ```
pub fn above(series: Series, ohm: f64) -> f64 {
    let decade = 10f64.powf(ohm.max(0.1).log10().floor());
    let value = E24.iter().step_by(series.stride()).map(|v| v * decade).find(|v| *v >= ohm * (1.0 - 1e-9)).unwrap_or(10.0 * decade);
    (value * 1e6).round() / 1e6
}

/// Smallest usual rating that stays at [`DERATING`] with this power, W.
pub fn rating_for(power_w: f64) -> Option<f64> {
    RATINGS_W.iter().copied().find(|rating| power_w <= DERATING * rating)
}
