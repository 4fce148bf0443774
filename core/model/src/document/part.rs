//! A part as it stands in the library or in a drawer.

use super::things::{Battery, Converter, Fuse, Gauge, Led, Load};
use serde::Serialize;

/// A part.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Part {
    /// Unique in the library.
    pub id: String,
    /// As on a shopping list.
    pub name: String,
    /// Where its figures come from.
    pub figures_from: String,
    /// Length, width, height, mm; of a strip or wire, of one metre.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub size_mm: Option<[f64; 3]>,
    /// Mass, g; of a strip or wire, of one metre.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub mass_g: Option<f64>,
    /// Typical price, euro; of a strip or wire, of one metre.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub price_eur: Option<f64>,
    /// What it is, with its figures.
    pub what: What,
}

/// What a part is.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum What {
    /// A battery pack.
    Battery {
        /// Its figures.
        battery: Battery,
    },
    /// A single LED.
    Led {
        /// Its figures.
        led: Led,
    },
    /// A strip (of one metre), pixels (of one metre) or a sealed module.
    Light {
        /// Its figures.
        load: Load,
        /// Colour of its light by name.
        colour: String,
    },
    /// A bulb, incandescent or LED.
    Bulb {
        /// Its figures.
        load: Load,
        /// The holder it fits.
        holder: String,
        /// Luminous flux at its rated voltage, lm.
        lumens: f64,
        /// Colour temperature, K.
        colour_k: f64,
        /// Whether it only works one way round.
        polarised: bool,
    },
    /// A converter; its feed is only a place holder.
    Converter {
        /// Its figures.
        #[cfg_attr(feature = "schema", schema(value_type = Object))]
        #[serde(serialize_with = "without_place")]
        figures: Converter,
    },
    /// Wire by the metre.
    Wire {
        /// Size.
        gauge: Gauge,
        /// Conductors side by side.
        conductors: u32,
    },
    /// A fuse.
    Fuse {
        /// Style and rating.
        fuse: Fuse,
    },
    /// A switch.
    Switch {
        /// Rating, A.
        rating_a: f64,
    },
    /// A plug and socket.
    Connector {
        /// Rating of a pole, A.
        rating_a: f64,
        /// Poles.
        poles: u32,
    },
}

/// A converter of the library has neither id nor feed.
fn without_place<S: serde::Serializer>(converter: &Converter, to: S) -> Result<S::Ok, S::Error> {
    let mut value = serde_json::to_value(converter).map_err(serde::ser::Error::custom)?;
    if let Some(map) = value.as_object_mut() {
        map.remove("id");
        map.remove("feed");
    }
    value.serialize(to)
}
