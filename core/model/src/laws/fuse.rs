//! A fuse: standard ratings, cold resistance, and how fast it opens.
//!
//! Cold resistance `0.09 V / rating`. Opening lies between a fast and a slow limit: blade fuses after ISO 8820-3,
//! cartridges quick-acting after IEC 60127-2, resettable ones representative.

use crate::document::{Fuse, FuseStyle};
use crate::practice::within;

/// A bolted short must reach this multiple of the rating for the fuse to open within half a second.
pub const PROMPT_MULTIPLE: f64 = 3.5;
/// From this multiple of its voltage on the arc in a fuse may burn on.
pub const ARC_STAYS: f64 = 1.5;
/// Above these multiples of what a fuse breaks it will not do, and may burst.
pub const BREAKS_BADLY: (f64, f64) = (3.0, 10.0);
/// How long a current is reckoned with that a fuse may never interrupt, s.
pub const UNINTERRUPTED_S: f64 = 3600.0;
/// A fuse is chosen this much above the largest current it carries.
pub const HEADROOM: f64 = 1.25;

const BLADE: [f64; 12] = [1.0, 2.0, 3.0, 4.0, 5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0, 40.0];
const GLASS: [f64; 21] = [0.1, 0.125, 0.16, 0.2, 0.25, 0.315, 0.4, 0.5, 0.63, 0.8, 1.0, 1.25, 1.6, 2.0, 2.5, 3.15, 4.0, 5.0, 6.3, 8.0, 10.0];
const CERAMIC: [f64; 14] = [0.5, 1.0, 2.0, 3.15, 4.0, 5.0, 6.3, 8.0, 10.0, 12.5, 16.0, 20.0, 25.0, 30.0];
const PTC: [f64; 11] = [0.1, 0.2, 0.35, 0.5, 0.75, 1.1, 1.5, 2.0, 2.5, 3.0, 5.0];

/// Multiple of the rating, fast and slow limit of its opening, s.
type Limits = [(f64, f64, f64)];
/// ISO 8820-3.
const BLADE_OPENS: &Limits = &[(1.35, 0.75, 600.0), (2.0, 0.15, 5.0), (3.5, 0.04, 0.5), (6.0, 0.02, 0.1)];
/// Quick-acting, after IEC 60127-2.
const CARTRIDGE_OPENS: &Limits = &[(2.1, 0.1, 1800.0), (2.75, 0.05, 2.0), (4.0, 0.01, 0.3), (10.0, 0.002, 0.02)];
/// Representative.
const RESETTABLE_OPENS: &Limits = &[(2.0, 1.0, 20.0), (5.0, 0.1, 3.0), (10.0, 0.02, 0.5)];

/// Where a fuse sits: what it may have to interrupt.
#[derive(Clone, Copy, Debug)]
pub struct Seat {
    /// Highest voltage there, V; 0 where nothing sets one, as behind a current driver.
    pub highest_v: f64,
    /// Open-circuit voltage of a full battery, V, and all resistance before the fuse, ohm.
    pub battery: Option<(f64, f64)>,
    /// What a converter or a rail gives at most, A, where no battery stands right behind.
    pub limit_a: f64,
    /// A toy of a few small cells, where a resettable or a glass fuse is usual.
    pub small: bool,
}

impl Seat {
    /// Current into a short right behind this fuse, A.
    pub fn short_a(&self, fuse: &Fuse) -> f64 {
        self.battery.map_or(self.limit_a, |(emf_v, ohm)| emf_v / (ohm + fuse.cold_ohm()))
    }

    /// Whether it interrupts the voltage there, and breaks what a short draws there.
    pub fn suits(&self, fuse: &Fuse) -> bool {
        let (most_v, most_a) = fuse.style.stands();
        within(self.highest_v, most_v) && within(self.short_a(fuse), most_a)
    }

    /// Whether it can do it at all: a little more than it is made to break is a note, its voltage is not.
    pub fn can(&self, fuse: &Fuse) -> bool {
        let (most_v, most_a) = fuse.style.stands();
        within(self.highest_v, most_v) && within(self.short_a(fuse), BREAKS_BADLY.0 * most_a)
    }

    /// The fuses of these ratings by style that can do it here, those that suit before those that only can; a style
    /// that is there already goes first.
    pub fn fuses(&self, present: Option<FuseStyle>, rating_a: impl Fn(FuseStyle) -> Option<f64>) -> Vec<Fuse> {
        let styles = present.into_iter().chain(self.usual().into_iter().filter(|style| Some(*style) != present));
        let mut all: Vec<Fuse> = styles.filter_map(|style| Some(Fuse::of(style, rating_a(style)?))).filter(|fuse| self.can(fuse)).collect();
        all.sort_by_key(|fuse| !self.suits(fuse));
        all
    }

    /// The fuse for a current here.
    pub fn best(&self, current_a: f64) -> Option<Fuse> {
        self.fuses(None, |style| style.smallest_for(current_a)).into_iter().next()
    }

    /// Styles in the order in which people use them there.
    pub fn usual(&self) -> [FuseStyle; 5] {
        use FuseStyle::{Blade, Blade58v, Ceramic, Glass, Ptc};
        if self.small { [Ptc, Glass, Blade, Blade58v, Ceramic] } else { [Blade, Glass, Blade58v, Ceramic, Ptc] }
    }
}

impl FuseStyle {
    /// Standard ratings, A, rising.
    pub fn ratings_a(self) -> &'static [f64] {
        match self {
            FuseStyle::Blade | FuseStyle::Blade58v => &BLADE,
            FuseStyle::Glass => &GLASS,
            FuseStyle::Ceramic => &CERAMIC,
            FuseStyle::Ptc => &PTC,
        }
    }

    /// Highest direct voltage that it interrupts, V, and the largest current that it breaks, A (representative).
    pub fn stands(self) -> (f64, f64) {
        match self {
            FuseStyle::Blade => (32.0, 1000.0),
            FuseStyle::Blade58v => (58.0, 1000.0),
            FuseStyle::Glass => (32.0, 35.0),
            FuseStyle::Ceramic => (125.0, 1000.0),
            FuseStyle::Ptc => (30.0, 40.0),
        }
    }

    /// How people call it.
    pub fn name(self) -> &'static str {
        match self {
            FuseStyle::Blade => "blade fuse",
            FuseStyle::Blade58v => "58 V blade fuse",
            FuseStyle::Glass => "glass fuse",
            FuseStyle::Ceramic => "ceramic fuse",
            FuseStyle::Ptc => "resettable fuse",
        }
    }

    fn limits(self) -> &'static Limits {
        match self {
            FuseStyle::Blade | FuseStyle::Blade58v => BLADE_OPENS,
            FuseStyle::Glass | FuseStyle::Ceramic => CARTRIDGE_OPENS,
            FuseStyle::Ptc => RESETTABLE_OPENS,
        }
    }

    /// Smallest standard rating with headroom over `current_a`, if the style has one.
    ///
    /// ```
    /// use orthavis_model::document::FuseStyle;
    /// assert_eq!(FuseStyle::Blade.smallest_for(2.1), Some(3.0));
    /// assert_eq!(FuseStyle::Blade.smallest_for(90.0), None);
    /// ```
    pub fn smallest_for(self, current_a: f64) -> Option<f64> {
        self.ratings_a().iter().copied().find(|rating| within(HEADROOM * current_a, *rating))
    }
}

impl Fuse {
    /// Resistance when cold, ohm.
    pub fn cold_ohm(&self) -> f64 {
        0.09 / self.rating_a
    }

    /// Fast and slow limit of its opening at a current, s; `None`: it may never open. Straight on log–log paper
    /// between the points of its style; beyond the last, what it lets through (I²t) stays what it is there.
    ///
    /// ```
    /// use orthavis_model::document::{Fuse, FuseStyle};
    /// let fuse = Fuse::of(FuseStyle::Blade, 3.0);
    /// // At its rating it holds; at twice that it opens within five seconds.
    /// assert_eq!(fuse.opens_s(3.0), None);
    /// let [soonest, latest] = fuse.opens_s(6.0).expect("it opens");
    /// assert!(soonest < latest && (latest - 5.0).abs() < 1e-9);
    /// ```
    pub fn opens_s(&self, current_a: f64) -> Option<[f64; 2]> {
        let limits = self.style.limits();
        let multiple = current_a / self.rating_a;
        let above = limits.iter().position(|(at, ..)| multiple < *at).unwrap_or(limits.len());
        let (m0, fast0, slow0) = limits[above.checked_sub(1)?];
        let Some(&(m1, fast1, slow1)) = limits.get(above) else {
            let share = (m0 / multiple).powi(2);
            return Some([fast0 * share, slow0 * share]);
        };
        let share = (multiple / m0).ln() / (m1 / m0).ln();
        Some([fast0 * (fast1 / fast0).powf(share), slow0 * (slow1 / slow0).powf(share)])
    }

    /// Whether it holds a short rush: `surge_a` for `surge_s` (cold filaments), and what charges a capacitor, A²s.
    pub fn holds(&self, (surge_a, surge_s): (f64, f64), charges_a2s: f64) -> bool {
        // Beyond the last point of its style what it lets through is constant.
        let far_a = 1e3 * self.rating_a;
        let melts = self.opens_s(far_a).map_or(f64::INFINITY, |[soonest, _]| soonest * far_a * far_a);
        self.opens_s(surge_a).is_none_or(|[soonest, _]| soonest >= surge_s) && melts >= charges_a2s
    }

    /// Whether it interrupts a current at all: no more than its style breaks, at a voltage at which its arc goes out.
    pub fn breaks(&self, current_a: f64, voltage_v: f64) -> bool {
        let (most_v, most_a) = self.style.stands();
        within(current_a, most_a) && within(voltage_v, ARC_STAYS * most_v)
    }
}
