//! What is known of each kind of vehicle before anyone measures it: how it is drawn, where light usually goes and what
//! such a place does to a light and its wire, and the battery it often has.
//!
//! One file a kind below `data/vehicles`, and one with its drawings below `data/drawings`, which are made from the bodies in the
//! room that looks; the page reads the same files.

use crate::document::{Build, Chemistry, Consumer, FeedRef, Source, Trait, VehicleKind};
use crate::practice::HOT_SHARE;
use crate::words;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::sync::OnceLock;

/// A usual place for a light.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct UsualPlace {
    /// As lights name it.
    pub name: String,
    /// What it does to a light and its wire.
    pub traits: Vec<Trait>,
    /// What to mind there; empty where there is nothing to say.
    pub hint: String,
}

/// The battery that such a vehicle often has: a place to start from.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct UsualBattery {
    /// Cell chemistry.
    pub chemistry: Chemistry,
    /// Cells in series.
    pub series: u32,
    /// Capacity, Ah.
    pub capacity_ah: f64,
}

/// A point of a drawing of 560 by 300.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Spot {
    /// From the left.
    pub x: f64,
    /// From the top.
    pub y: f64,
}

/// Where a place is in a drawing.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct DrawnPlace {
    /// One of the vehicle's places.
    pub name: String,
    /// From the left.
    pub x: f64,
    /// From the top.
    pub y: f64,
    /// The way that a strip takes there, as an SVG path.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub along: Option<String>,
}

words! {
    /// From where a vehicle is seen.
    Seen {
        /// From its right side.
        Beside = "beside",
        /// From behind.
        Behind = "behind",
        /// From above.
        Above = "above",
    }
}

/// One drawing of a vehicle, on a canvas of 560 by 300.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct VehicleView {
    /// From where.
    pub seen: Seen,
    /// What it shows.
    pub title: String,
    /// What is filled in each tone, darkest first, each laid over the one before, as SVG paths.
    pub tones: Vec<String>,
    /// Where the ground is, from the top; absent from above, and where it flies.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub ground: Option<f64>,
    /// From where to where it reaches across the canvas.
    pub reach: [f64; 2],
    /// How much of the canvas a metre is.
    pub per_m: f64,
    /// Where the battery sits.
    pub pack: Spot,
    /// Where each of the places is.
    pub places: Vec<DrawnPlace>,
}

/// One form that a kind of vehicle comes in.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Variant {
    /// As `vehicle.variant` names it.
    pub id: String,
    /// As people call it.
    pub name: String,
    /// Mass ready to move, kg, where nobody weighed it.
    pub mass_kg: f64,
    /// The battery it often has.
    pub battery: UsualBattery,
    /// In the order in which people look for them.
    pub places: Vec<UsualPlace>,
    /// From where its places are seen best, then the others. Large, and asked for by itself.
    #[serde(skip)]
    pub views: Vec<VehicleView>,
}

/// A kind of vehicle.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct VehicleSheet {
    /// The kind.
    pub kind: VehicleKind,
    /// As people call it.
    pub name: String,
    /// Its forms; the first one stands where a build names none.
    pub variants: Vec<Variant>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct FilePlace {
    name: String,
    traits: Vec<String>,
    hint: String,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct FileBattery {
    chemistry: String,
    series: u32,
    capacity_ah: f64,
}

/// A sheet as its file has it, words not yet looked up.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct FileSheet {
    kind: String,
    name: String,
    variants: Vec<FileVariant>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct FileVariant {
    id: String,
    name: String,
    mass_kg: f64,
    battery: FileBattery,
    places: Vec<FilePlace>,
}

macro_rules! files {
    ($($kind:literal),+) => {
        [$( ($kind, include_str!(concat!("../data/vehicles/", $kind, ".json")), include_str!(concat!("../data/drawings/", $kind, ".json"))) ),+]
    };
}

/// Each kind with its sheet and its drawings, in the order in which they are offered.
const FILES: [(&str, &str, &str); 7] = files!("bicycle", "skateboard", "wheelchair", "rc_model", "drone", "rv", "other");

fn word<T: Copy>(words: &[(&'static str, T)], wanted: &str) -> Result<T, String> {
    words.iter().find(|(word, _)| *word == wanted).map(|(_, value)| *value).ok_or_else(|| format!("`{wanted}` is not a word known here"))
}

fn read(text: &str, drawings: &str) -> Result<VehicleSheet, String> {
    let file: FileSheet = serde_json::from_str(text).map_err(|error| error.to_string())?;
    let mut drawn: BTreeMap<String, Vec<VehicleView>> = serde_json::from_str(drawings).map_err(|error| error.to_string())?;
    if file.variants.is_empty() {
        return Err("it has no variant".into());
    }
    let variants = file.variants.into_iter().map(|file| {
        let views = drawn.remove(&file.id).unwrap_or_default();
        variant(file, views)
    });
    let variants = variants.collect::<Result<_, _>>()?;
    Ok(VehicleSheet { kind: word(VehicleKind::WORDS, &file.kind)?, name: file.name, variants })
}

fn variant(file: FileVariant, views: Vec<VehicleView>) -> Result<Variant, String> {
    let place = |place: FilePlace| -> Result<UsualPlace, String> {
        let traits = place.traits.iter().map(|name| word(Trait::WORDS, name)).collect::<Result<_, _>>()?;
        Ok(UsualPlace { name: place.name, traits, hint: place.hint })
    };
    let FileBattery { chemistry, series, capacity_ah } = file.battery;
    Ok(Variant {
        id: file.id,
        name: file.name,
        mass_kg: file.mass_kg,
        battery: UsualBattery { chemistry: word(Chemistry::WORDS, &chemistry)?, series, capacity_ah },
        places: file.places.into_iter().map(place).collect::<Result<_, _>>()?,
        views,
    })
}

/// Reads the files.
///
/// # Errors
/// The first file and fault; those that ship have none, which a test shows.
pub fn read_sheets() -> Result<Vec<VehicleSheet>, String> {
    FILES.iter().map(|(file, sheet, drawings)| read(sheet, drawings).map_err(|error| format!("{file}: {error}"))).collect()
}

/// Every kind.
pub fn sheets() -> &'static [VehicleSheet] {
    static SHEETS: OnceLock<Vec<VehicleSheet>> = OnceLock::new();
    SHEETS.get_or_init(|| read_sheets().unwrap_or_default())
}

/// The forms of a kind of vehicle.
pub fn variants(kind: VehicleKind) -> &'static [Variant] {
    sheets().iter().find(|sheet| sheet.kind == kind).map_or(&[], |sheet| &sheet.variants)
}

/// One form of a kind of vehicle: the named one, else the first.
pub fn form(kind: VehicleKind, variant: Option<&str>) -> Option<&'static Variant> {
    let all = variants(kind);
    all.iter().find(|known| variant == Some(known.id.as_str())).or(all.first())
}

impl Build {
    /// The form of its vehicle.
    pub fn form(&self) -> Option<&'static Variant> {
        form(self.vehicle.kind, self.vehicle.variant.as_deref())
    }

    /// Whether what a feed feeds sits in a hot place, and with it the end of its wire.
    pub fn is_hot(&self, consumer: Consumer) -> bool {
        matches!(consumer, Consumer::Light(at) if self.traits_of(&self.lights[at].place).contains(&Trait::Hot))
    }

    /// Share of its ampacity that a feed's wire keeps where it ends.
    pub fn heat_share(&self, consumer: Consumer) -> f64 {
        if self.is_hot(consumer) { HOT_SHARE } else { 1.0 }
    }

    /// Whether somebody noted that a place gets wet; what such a place usually does is not known of this one.
    pub fn noted_wet(&self, place: &str) -> bool {
        self.places.iter().any(|known| known.name == place && known.traits.contains(&Trait::Wet))
    }

    /// How high above the ground a place of the vehicle is, m, as it is drawn from beside; `None`: not drawn, or it flies.
    pub fn height_m(&self, place: &str) -> Option<f64> {
        let view = self.form()?.views.iter().find(|view| view.seen == Seen::Beside)?;
        let drawn = view.places.iter().find(|drawn| drawn.name == place)?;
        Some((view.ground? - drawn.y) / view.per_m)
    }

    /// Whether what steers or flies hangs on the supply that the lights share: as it was said, else on a drone and a model.
    pub fn source_steers(&self) -> bool {
        let Source::Rail(rail) = &self.source else { return false };
        rail.critical.unwrap_or(matches!(self.vehicle.kind, VehicleKind::Drone | VehicleKind::RcModel))
    }

    /// What the wire of a feed may carry, in its bundle and in the heat of its place, A.
    pub fn ampacity_a(&self, feed: &FeedRef<'_>) -> f64 {
        feed.feed.gauge.ampacity_a(feed.feed.bundled) * self.heat_share(feed.consumer)
    }

    /// What a place does to a light and its wire: what was noted of it, else what such a place usually does.
    pub fn traits_of(&self, place: &str) -> Vec<Trait> {
        if let Some(noted) = self.places.iter().find(|known| known.name == place) {
            return noted.traits.clone();
        }
        let usual = self.form().and_then(|form| form.places.iter().find(|known| known.name == place));
        usual.map_or_else(Vec::new, |known| known.traits.clone())
    }
}

impl VehicleKind {
    /// Whether a form of it flies.
    pub fn flies(self, variant: Option<&str>) -> bool {
        self == VehicleKind::Drone || (self == VehicleKind::RcModel && matches!(variant, Some("plane" | "glider")))
    }

    /// Whether it hovers: its motors hold it up all the time.
    pub fn hovers(self) -> bool {
        self == VehicleKind::Drone
    }

    /// Whether its frame may carry current back. A power wheelchair's is kept apart from both poles of its battery.
    pub fn frame_may_return(self) -> bool {
        self != VehicleKind::Wheelchair
    }

    /// Whether people live in it: it is used by the day, not by the outing.
    pub fn lived_in(self) -> bool {
        self == VehicleKind::Rv
    }
}
