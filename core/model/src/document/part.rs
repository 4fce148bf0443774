//! A part as it stands in the library or in a drawer.

use super::field::{Range, count, id, number, text, thing};
use super::read::{Node, Object};
use super::record::{Record, kinds, record};
use super::things::{AMP, Battery, Converter, Fuse, Gauge, Led, Load, VOLT};
use serde::Serialize;
use serde_json::{Value, json};

record! {
    /// A part.
    pub struct Part {
        /// Unique in the library.
        pub id: String = id(),
        /// As on a shopping list.
        pub name: String = text(200).label("Name"),
        /// Where its figures come from.
        pub figures_from: String = text(500).label("Figures from"),
        /// Length, width, height, mm; of a strip or wire, of one metre.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub size_mm: Option<[f64; 3]> = number(Range::within(0.0, 100_000.0, "mm")).label("Length, width, height"),
        /// Mass, g; of a strip or wire, of one metre.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub mass_g: Option<f64> = number(Range::within(0.0, 1e6, "g")).label("Mass"),
        /// Typical price, euro; of a strip or wire, of one metre.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub price_eur: Option<f64> = number(Range::within(0.0, 1e6, "€")).label("Price"),
        /// It is not to be used any more; what it was stays known.
        #[serde(skip_serializing_if = "std::ops::Not::not")]
        pub retired: bool = thing().or_flag(false).label("Retired"),
        /// The light of what shines.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub light: Option<PartLight> = thing(),
        /// What it is, with its figures.
        pub what: What = thing(),
    }

    /// The light of a part.
    pub struct PartLight {
        /// Luminous flux at rated power, lm; of a strip, of one metre. 0: none that an eye sees.
        pub lm: f64 = number(Range::within(0.0, 1e6, "lm")).label("Light at full power").term("lumen"),
        /// Angle from its axis to half its intensity, deg; `None`: it shines all round.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub half_angle_deg: Option<f64> = number(Range::above_zero(90.0, "deg")).label("Half angle").nothing("all round").term("half angle"),
        /// Where these two come from.
        pub figures_from: String = text(500).label("Light figures from"),
    }
}

kinds! {
    /// What a part is.
    pub enum What {
        /// A battery pack.
        Battery {
            /// Its figures.
            battery: Battery = thing(),
        } = "battery",
        /// A single LED.
        Led {
            /// Its figures.
            led: Led = thing(),
        } = "led",
        /// A strip (of one metre), pixels (of one metre) or a sealed module.
        Light {
            /// Its figures.
            load: Load = thing(),
            /// Colour of its light by name.
            colour: String = text(40).or_word("white").label("Colour"),
            /// Whether it keeps water out; `None`: as usual for its kind.
            #[serde(skip_serializing_if = "Option::is_none")]
            sealed: Option<bool> = thing().label("Sealed"),
        } = "light",
        /// A bulb, incandescent or LED.
        Bulb {
            /// Its figures.
            load: Load = thing(),
            /// The holder it fits.
            holder: String = text(80).label("Holder").term("holder"),
            /// Luminous flux at its rated voltage, lm.
            lumens: f64 = number(Range::above_zero(1e6, "lm")).label("Light").term("lumen"),
            /// Colour temperature, K.
            colour_k: f64 = number(Range::within(1000.0, 20_000.0, "K")).label("Colour of its light").term("colour temperature"),
            /// Whether it only works one way round.
            polarised: bool = thing().or_flag(false).label("Works one way round only").term("polarity"),
        } = "bulb",
        /// A converter; its feed is only a place holder.
        Converter {
            /// Its figures.
            #[cfg_attr(feature = "schema", schema(value_type = Object))]
            #[serde(serialize_with = "without_place")]
            figures: Converter = thing() => unplaced,
        } = "converter",
        /// Wire by the metre.
        Wire {
            /// Size.
            gauge: Gauge = thing().label("Wire").term("gauge"),
            /// Conductors side by side.
            conductors: u32 = count(1, 100).or(1.0).label("Conductors"),
        } = "wire",
        /// A fuse.
        Fuse {
            /// Style and rating.
            fuse: Fuse = thing(),
        } = "fuse",
        /// A switch.
        Switch {
            /// Rating, A.
            rating_a: f64 = number(AMP).label("Rating"),
            /// Direct voltage that it breaks, V.
            #[serde(skip_serializing_if = "Option::is_none")]
            rating_v: Option<f64> = number(VOLT).label("Made for"),
        } = "switch",
        /// A plug and socket.
        Connector {
            /// Rating of a pole, A.
            rating_a: f64 = number(AMP).label("Rating of a pole"),
            /// Poles.
            poles: u32 = count(1, 100).label("Poles"),
            /// Direct voltage that it breaks, V.
            #[serde(skip_serializing_if = "Option::is_none")]
            rating_v: Option<f64> = number(VOLT).label("Made for"),
            /// Whether it goes together one way round only.
            keyed: bool = thing().or_flag(true).label("Goes together one way round only").term("keyed plug"),
            /// Whether it keeps water out.
            sealed: bool = thing().or_flag(false).label("Sealed"),
        } = "connector",
    }
}

/// A converter as a part has neither id nor feed; in memory it carries place holders.
fn unplaced(object: &mut Object<'_, '_>, name: &'static str) -> Option<Converter> {
    let node = object.need(name)?;
    let Some(map) = node.value.as_object() else { return node.object(object.faults, Converter::fill).flatten() };
    if let Some(field) = ["id", "feed"].into_iter().find(|field| map.contains_key(*field)) {
        object.faults.add(format!("{}/{field}", node.path), format!("`{field}` is not a field of a part"), "Remove it");
        return None;
    }
    let mut map = map.clone();
    map.insert("id".into(), "part".into());
    map.insert("feed".into(), json!({ "from": "source", "length_m": 0.3, "gauge": { "awg": 20 } }));
    let placed = Node { value: &Value::Object(map), path: node.path }.object(object.faults, Converter::fill).flatten()?;
    Some(Converter { id: String::new(), ..placed })
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
