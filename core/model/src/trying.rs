//! How a build is tried: the stages of its check list, which the steps of the making name too.

use crate::words;

words! {
    /// The stages of trying, in their order.
    Stage {
        /// Nothing connected to the battery.
        Unpowered = "unpowered" called "Before any power",
        /// Each converter set before anything hangs on it.
        Converter = "converter" called "Each converter alone",
        /// Each small circuit, before its lights get anything else.
        Circuit = "circuit" called "Each small circuit",
        /// The first light, from a supply that gives little.
        FirstLight = "first_light" called "First light, at low current",
        /// One light after the other.
        Light = "light" called "Each light",
        /// Scene by scene.
        Scene = "scene" called "Every scene",
        /// The same once warm.
        Warm = "warm" called "Warm, after ten minutes",
        /// With the charger on.
        Charging = "charging" called "While charging",
    }
}
