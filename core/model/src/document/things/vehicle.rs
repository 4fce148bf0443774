//! What is lit, and what is to be known of the places on it.

use super::*;

impl Ground {
    /// As a surface that parts are fixed on.
    pub fn as_surface(self) -> Surface {
        match self {
            Ground::Wood => Surface::Wood,
            Ground::Foam => Surface::Foam,
            Ground::Fabric => Surface::Fabric,
            Ground::Plastic => Surface::Abs,
            Ground::Metal => Surface::PaintedMetal,
        }
    }
}

record! {
    /// What is to be known of a place on the vehicle.
    pub struct Place {
        /// As lights name it in `place`.
        pub name: String = text(200).label("Name"),
        /// What it does to a light and its wire.
        pub traits: Vec<Trait> = list(20).label("What it is like"),
        /// What is there to fix things on; `None`: what such a vehicle usually has there.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub surface: Option<Ground> = thing().label("Made of").nothing("not said"),
        /// The person's words.
        #[serde(skip_serializing_if = "String::is_empty")]
        pub note: String = text(2000).or_word("").label("Note"),
        /// A string laid along the way from the supply to it, m.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub string_m: Option<f64> = number(METRE).label("String to here, along the way").nothing("not measured"),
    }

    /// What is lit.
    pub struct Vehicle {
        /// Kind, which decides the outline and the cautions.
        pub kind: VehicleKind = thing(),
        /// Which form of it, where there are several; `None`: the first.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub variant: Option<String> = text(40).label("Form"),
        /// Mass ready to move, kg.
        pub mass_kg: f64 = number(Range::above_zero(100_000.0, "kg")).label("Mass, ready to move"),
        /// Measured resistance of the frame between the two places used as a return, ohm.
        pub frame_return_ohm: Option<f64> = number(OHM).label("Resistance of the frame, if it is the return wire").term("return").nothing("not measured"),
        /// `None` when the motor is not on this battery.
        pub propulsion: Option<Propulsion> = thing(),
        /// How it hovers without these lights, where a rail hides the flight battery.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub hover: Option<Hover> = thing(),
    }

    /// A craft that hovers, without the lights.
    pub struct Hover {
        /// Power that hovering takes, W.
        pub power_w: f64 = number(WATT).label("Power"),
        /// How long it hovers on one charge, min.
        pub minutes: f64 = number(Range::above_zero(10_000.0, "min")).label("Time").begins(15.0),
    }

    /// What moving takes from the same battery.
    pub struct Propulsion {
        /// Mean power at `speed_kmh`, W.
        pub power_w: f64 = number(WATT_OR_ZERO).label("Motor on this battery").nothing("no motor on it"),
        /// Usual speed, km/h.
        pub speed_kmh: f64 = number(Range::within(0.0, 1000.0, "km/h")).label("Usual speed").begins(15.0),
    }
}
