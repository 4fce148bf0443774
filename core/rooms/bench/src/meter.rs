//! What a hand-held meter can read, and how far it may be off: 4,000 counts, ±(0.5 % + 2 counts); a clamp ±(2 % + 0.05 A).

use orthavis_model::chance::Dice;
use orthavis_model::words;

words! {
    /// What the meter is set to.
    Setting {
        /// Volts, direct.
        Volts = "volts" called "volts, direct",
        /// Amps, in line: the circuit is opened and the meter put in.
        Amps = "amps" called "amps, in line",
        /// Amps, clamped around one wire.
        Clamp = "clamp" called "amps, by clamp",
        /// Ohms, with the power off.
        Ohms = "ohms" called "ohms, power off",
        /// Diode test, with the power off.
        Diode = "diode" called "diode test, power off",
        /// No meter: seconds by a watch.
        Watch = "watch" called "seconds, by a watch",
        /// No meter: look.
        Look = "look" called "look",
    }
}

impl Setting {
    /// Unit of a reading.
    pub fn unit(self) -> &'static str {
        match self {
            Setting::Volts | Setting::Diode => "V",
            Setting::Amps | Setting::Clamp => "A",
            Setting::Ohms => "ohm",
            Setting::Watch => "s",
            Setting::Look => "",
        }
    }

    /// Time that one reading takes, s.
    pub fn work_s(self) -> f64 {
        match self {
            Setting::Look => 5.0,
            Setting::Volts => 10.0,
            Setting::Clamp => 15.0,
            Setting::Ohms | Setting::Diode => 20.0,
            Setting::Amps | Setting::Watch => 60.0,
        }
    }

    /// How far a reading of this value may be off, in the unit of the setting.
    pub fn error(self, value: f64) -> f64 {
        let counted = |ranges: &[f64]| {
            let range = ranges.iter().copied().find(|range| value.abs() <= *range).unwrap_or(ranges[ranges.len() - 1]);
            0.005 * value.abs() + 2.0 * range / 4000.0
        };
        match self {
            Setting::Volts => counted(&[0.4, 4.0, 40.0, 400.0]),
            Setting::Diode => counted(&[4.0]),
            Setting::Amps => counted(&[0.4, 10.0]),
            Setting::Ohms => counted(&[400.0, 4e3, 40e3, 400e3, 4e6, 40e6]),
            Setting::Clamp => 0.02 * value.abs() + 0.05,
            Setting::Watch => 0.2,
            Setting::Look => 0.0,
        }
    }
}

/// A meter of its own: its error is fixed by its serial number, so that a reading repeats.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Serial(pub u64);

impl Serial {
    /// What this meter shows for a value: off by a part of what it may be, rounded to its counts.
    pub fn shows(self, setting: Setting, value: f64) -> f64 {
        let off = value + self.share(setting as u64) * setting.error(value);
        let range = [0.4, 4.0, 40.0, 400.0, 4e3, 40e3, 400e3, 4e6, 40e6].into_iter().find(|range| off.abs() <= *range).unwrap_or(40e6);
        let count = range / 4000.0;
        (off / count).round() * count
    }

    /// What its clamp shows around nothing before it is zeroed: at most this much either way, A.
    pub fn offset(self, most: f64) -> f64 {
        self.share(15) * most
    }

    /// One figure for each use of each meter, between −1 and 1.
    fn share(self, of: u64) -> f64 {
        2.0 * Dice::new(self.0.wrapping_mul(16).wrapping_add(of)).unit() - 1.0
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_meter_repeats_itself_and_stays_within_its_error() {
        for (_, setting) in Setting::WORDS {
            for serial in 0..200 {
                for value in [0.0, 0.012, 3.99, 11.7, 37.2, -5.0] {
                    let shown = Serial(serial).shows(*setting, value);
                    assert_eq!(shown.to_bits(), Serial(serial).shows(*setting, value).to_bits());
                    let count = 0.5 * 400.0 / 4000.0;
                    assert!((shown - value).abs() <= setting.error(value) + count, "{setting:?} {serial}: {value} shows {shown}");
                }
            }
        }
        assert_ne!(Serial(1).shows(Setting::Volts, 12.0), Serial(2).shows(Setting::Volts, 12.0));
    }
}
