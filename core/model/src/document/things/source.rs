//! Where the power comes from.

use super::*;

choice! {
    /// Where the power comes from.
    pub enum Source of SourceKind {
        /// A battery of cells.
        Battery(Battery),
        /// An existing regulated rail.
        Rail(Rail),
        /// The track of a model railway.
        Track(Track),
    }
}

record! {
    /// A battery.
    pub struct Battery {
        /// Cell chemistry.
        pub chemistry: Chemistry = thing().label("Chemistry"),
        /// Cells in series.
        pub series: u32 = count(1, 400).label("Cells in series").term("series"),
        /// Strings in parallel.
        pub parallel: u32 = count(1, 10_000).or(1.0).label("Strings in parallel").term("parallel"),
        /// Capacity of the whole pack at its rated discharge, Ah.
        pub capacity_ah: f64 = number(Range::above_zero(100_000.0, "Ah")).label("Capacity").term("amp-hour"),
        /// Discharge time the capacity is stated for, h.
        pub rated_hours: f64 = number(Range::above_zero(1000.0, "h")).or(5.0).label("Stated for"),
        /// Measured resistance of the pack, ohm; `None`: by chemistry.
        pub resistance_ohm: Option<f64> = number(OHM).label("Own resistance"),
        /// Highest current, A.
        pub max_current_a: f64 = number(AMP).label("Highest current"),
        /// Share of the capacity that may be used; `None`: by chemistry.
        pub usable_fraction: Option<f64> = number(SHARE_ABOVE_ZERO).label("Usable share").term("reserve").shown("%"),
        /// Peukert exponent; `None`: by chemistry.
        pub peukert: Option<f64> = number(Range::within(1.0, 2.0, "")).label("Peukert exponent").term("Peukert"),
        /// Charging voltage of one cell, V; `None`: by chemistry.
        pub charge_v: Option<f64> = number(Range::above_zero(10.0, "V")).label("Charging voltage of a cell"),
        /// Lights may be on while the charger is.
        pub used_while_charging: bool = thing().or_flag(false).label("Lights may be on while it charges"),
        /// Where the lights are tapped.
        pub tap: Tap = thing().or_word("main").label("Tapped at"),
        /// Limit of that tap, A.
        pub tap_limit_a: Option<f64> = number(AMP).label("Most this connection may give").nothing("none known"),
        /// Whether something switches it off before its cells are harmed; `None`: by chemistry.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub protected: Option<bool> = thing().label("Something switches it off when it is empty"),
        /// It is the lights' own, bought for them.
        #[serde(skip_serializing_if = "std::ops::Not::not")]
        pub own: bool = thing().or_flag(false).label("A pack of the lights' own, bought for them"),
        /// What charges it while it is in the vehicle; `None`: nobody said.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub charged_by: Option<ChargedBy> = thing().label("Charged by").nothing("not said"),
        /// Whether its maker allows lights while it charges; `None`: nobody asked.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub may_charge_lit: Option<bool> = thing().label("Its maker allows lights while it charges").nothing("not asked yet"),
    }

    /// An existing regulated rail.
    pub struct Rail {
        /// Voltage without load, V.
        pub voltage_v: f64 = number(VOLT).label("Voltage, measured").term("rail"),
        /// Source resistance, ohm.
        pub resistance_ohm: f64 = number(OHM).or(0.0).label("Its resistance"),
        /// Limit, A.
        pub max_current_a: f64 = number(AMP).label("Limit"),
        /// What else draws from it, A.
        pub other_load_a: f64 = number(AMP_OR_ZERO).or(0.0).label("Other load on it"),
        /// Below this it goes to sleep, A; `None`: it stays on.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub min_load_a: Option<f64> = number(AMP).label("Goes to sleep below").nothing("it stays on; a power bank wants some 60 mA").shown("mA").seldom(),
        /// Whether what steers or flies hangs on it too; `None`: on a drone and a model.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub critical: Option<bool> = thing().label("What steers or flies hangs on it too").seldom(),
    }

    /// What a model railway's pickups bring.
    pub struct Track {
        /// What the track carries.
        pub wave: TrackWave = thing().label("The track carries"),
        /// Digital: either way up; alternating: its effective value; direct: the throttle's, V.
        pub voltage_v: f64 = number(VOLT).label("Voltage"),
        /// Of an alternating track, Hz.
        pub frequency_hz: f64 = number(Range::within(10.0, 100_000.0, "Hz")).or(50.0).label("Frequency"),
        /// Limit, A.
        pub max_current_a: f64 = number(AMP).label("Limit"),
        /// What else draws from it, A.
        pub other_load_a: f64 = number(AMP_OR_ZERO).or(0.0).label("Other load on it"),
        /// How contact is lost; `None`: never.
        pub gaps: Option<Gaps> = thing(),
    }

    /// Contact that is lost again and again.
    pub struct Gaps with sense::gaps {
        /// From one to the next, s.
        pub every_s: f64 = number(Range::above_zero(10_000.0, "s")).label("Contact is lost every"),
        /// How long each lasts, s.
        pub length_s: f64 = number(Range::within(0.0, 10_000.0, "s")).label("for"),
    }
}

mod sense {
    use super::super::super::read::Object;
    use super::Gaps;

    pub(super) fn gaps(gaps: &mut Gaps, o: &mut Object<'_, '_>) {
        if gaps.length_s >= gaps.every_s {
            o.fault("length_s", "the gaps are longer than the time from one to the next", "Give less than `every_s`");
        }
    }
}
