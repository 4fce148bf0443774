//! A fuse: standard ratings, cold resistance, and how fast it opens.
//!
//! Cold resistance `0.09 V / rating`. Latest opening of a blade fuse by the limits of ISO 8820-3, straight on
//! log–log paper between them: 1.35 x 600 s, 2 x 5 s, 3.5 x 0.5 s, 6 x 0.1 s.

use crate::document::{Fuse, FuseStyle};

/// A bolted short must reach this multiple of the rating for the fuse to open within half a second.
pub const PROMPT_MULTIPLE: f64 = 3.5;
/// A fuse is chosen this much above the largest current it carries.
pub const HEADROOM: f64 = 1.25;

const BLADE: [f64; 12] = [1.0, 2.0, 3.0, 4.0, 5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0, 40.0];
const GLASS: [f64; 21] = [0.1, 0.125, 0.16, 0.2, 0.25, 0.315, 0.4, 0.5, 0.63, 0.8, 1.0, 1.25, 1.6, 2.0, 2.5, 3.15, 4.0, 5.0, 6.3, 8.0, 10.0];
const PTC: [f64; 11] = [0.1, 0.2, 0.35, 0.5, 0.75, 1.1, 1.5, 2.0, 2.5, 3.0, 5.0];

/// Multiple of the rating, latest opening in s.
const BLADE_OPENS: [(f64, f64); 4] = [(1.35, 600.0), (2.0, 5.0), (3.5, 0.5), (6.0, 0.1)];

impl FuseStyle {
    /// Standard ratings, A, rising.
    pub fn ratings_a(self) -> &'static [f64] {
        match self {
            FuseStyle::Blade => &BLADE,
            FuseStyle::Glass => &GLASS,
            FuseStyle::Ptc => &PTC,
        }
    }

    /// Smallest standard rating with headroom over `current_a`, if the style has one.
    pub fn smallest_for(self, current_a: f64) -> Option<f64> {
        self.ratings_a().iter().copied().find(|rating| *rating >= HEADROOM * current_a)
    }
}

impl Fuse {
    /// Resistance when cold, ohm.
    pub fn cold_ohm(&self) -> f64 {
        0.09 / self.rating_a
    }

    /// Latest opening time of a blade fuse, s; `None`: it may never open.
    pub fn opens_within_s(&self, fault_a: f64) -> Option<f64> {
        let multiple = fault_a / self.rating_a;
        let above = BLADE_OPENS.iter().position(|(at, _)| multiple < *at).unwrap_or(BLADE_OPENS.len());
        match above {
            0 => None,
            n if n == BLADE_OPENS.len() => Some(BLADE_OPENS[n - 1].1),
            n => {
                let ((m0, t0), (m1, t1)) = (BLADE_OPENS[n - 1], BLADE_OPENS[n]);
                let share = (multiple / m0).ln() / (m1 / m0).ln();
                Some(t0 * (t1 / t0).powf(share))
            }
        }
    }
}
