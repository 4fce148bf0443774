//! How a build is used.

use super::*;
use std::collections::BTreeMap;

record! {
    /// How the build is used.
    #[derive(Default)]
    pub struct Usage {
        /// Outings a week.
        pub outings_per_week: f64 = number(Range::within(0.0, 10_000.0, "")).or(0.0).label("Outings a week"),
        /// Minutes of each scene in an outing, by scene id.
        pub minutes: BTreeMap<String, f64> = Rule { empty: Empty::Blank, ..number(Range::within(0.0, 100_000.0, "min")) }.label("an outing"),
        /// Temperature of the battery, °C; `None`: 25.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub temperature_c: Option<f64> = number(Range::within(0.0, 40.0, "°C")).label("Its temperature"),
        /// What age has left of the capacity, 0 to 1; `None`: all of it.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub capacity_left: Option<f64> = number(Range::within(0.1, 1.0, "1")).label("Capacity left through age").term("amp-hour").shown("%"),
        /// What surrounds it at night; `None`: a lit street.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub around: Option<Around> = thing().label("Around it at night").nothing("a lit street"),
        /// Current of the charger, A.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub charger_a: Option<f64> = number(AMP).label("Charger").nothing("not known"),
        /// What sun or an engine brings back each day.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub gain: Option<Gain> = thing(),
    }

    /// Charging by the day.
    pub struct Gain {
        /// Hours a day.
        pub hours_per_day: f64 = number(DAY).label("Hours of charging a day (solar or engine)").nothing("none"),
        /// At this mean current into the battery, A.
        pub current_a: f64 = number(AMP_OR_ZERO).label("at, mean").begins(3.0),
    }
}
