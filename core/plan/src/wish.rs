//! A part to add, and why it cannot be added.

use orthavis_model::document::{CircuitKind, Draw, Led, Light, Load, Part, PartLight, Shine, What, parse_part};
use orthavis_model::practice::white_of;
use serde::{Deserialize, Deserializer};

/// Why a part cannot be added as wished.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum WishError {
    /// The supply is too low for even one LED.
    #[error("{supply_v:.1} V from `{from}` cannot light a {colour} LED; feed it from a supply with a higher voltage")]
    SupplyTooLow {
        /// The supplier.
        from: String,
        /// Its voltage, V.
        supply_v: f64,
        /// The LED.
        colour: String,
    },
    /// Not in the table.
    #[error("`{0}` is not a colour known here; use one of white, red, amber, green, blue, violet, infrared")]
    UnknownColour(String),
    /// No such supplier.
    #[error("`{0}` is not a supplier in this build; name `source`, a converter or a junction")]
    UnknownSupplier(String),
    /// No such light.
    #[error("`{0}` is not a light in this build; name one of its own")]
    UnknownLight(String),
    /// A circuit goes before one feed.
    #[error("`{0}` is fed at several places; leave it one feed, and a circuit can go before it")]
    SeveralFeeds(String),
    /// One circuit drives it already.
    #[error("`{0}` hangs on a circuit already; take that out first")]
    DrivenAlready(String),
    /// Two LEDs and some diodes tell only so many volts.
    #[error("a gauge of two LEDs cannot be set for {supply_v:.1} V; hang it on one cell or a few of them, or read the battery with a meter")]
    NoGauge {
        /// Highest voltage of the supply, V.
        supply_v: f64,
    },
    /// No such scene.
    #[error("`{0}` is not a scene in this build; name one of its own")]
    UnknownScene(String),
    /// A part of another kind.
    #[error("this place is for {0}; choose one")]
    Misplaced(&'static str),
    /// No such bulb.
    #[error("`{0}` is not a bulb of the library or of this build; name one")]
    UnknownBulb(String),
}

/// A part to add.
#[derive(Clone, Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Wish {
    /// A step-down module set to this voltage.
    StepDown {
        /// Output, V.
        set_v: f64,
    },
    /// A converter of the library or of a person's own.
    Converter {
        /// The part.
        #[serde(deserialize_with = "part")]
        part: Box<Part>,
        /// `source`, a converter or a junction.
        from: String,
    },
    /// Single LEDs of a usual colour, arranged for their supply.
    Leds {
        /// Colour by name.
        colour: String,
        /// How many.
        count: u32,
        /// Where; empty: nowhere in particular.
        place: String,
        /// `source`, a converter or a junction; absent: whatever fits.
        from: Option<String>,
        /// Wire length, one way, m.
        length_m: f64,
    },
    /// A light of the library or of a person's own: LEDs, strip, pixels, module or bulb.
    Light {
        /// The part.
        #[serde(deserialize_with = "part")]
        part: Box<Part>,
        /// Single LEDs or pixels: how many.
        count: Option<u32>,
        /// Strip or pixels: how long, m.
        piece_m: Option<f64>,
        /// Where; empty: nowhere in particular.
        place: String,
        /// `source`, a converter or a junction; absent: whatever fits, with a module of its own if nothing does.
        from: Option<String>,
        /// Wire length, one way, m.
        length_m: f64,
    },
    /// A copy of a light, with its wires and its part in every scene.
    CopyLight {
        /// Which.
        id: String,
    },
    /// A point where one feed becomes several.
    Junction {
        /// `source`, a converter or a junction.
        from: String,
    },
    /// A small circuit, with parts that do something sensible.
    Circuit {
        /// Which.
        circuit: CircuitKind,
        /// Id of the light that it drives or carries; a gauge has none.
        light: Option<String>,
    },
    /// A board that tells pixels what to do, with all pixels that have none on its first output.
    Controller {
        /// `source`, a converter or a junction.
        from: String,
    },
    /// A scene, lit at first like another one.
    Scene {
        /// Id of that one; absent: everything is off.
        like: Option<String>,
    },
    /// Something small that is always on.
    Standing,
    /// Bulbs that are there.
    Bulbs {
        /// Id of a bulb of the library or among the build's own parts.
        part: String,
    },
    /// A bulb by what is printed on it, kept among the build's own parts.
    OwnBulb(PrintedBulb),
    /// A pack of the library or of a person's own in the battery's place; how it is tapped and used stays.
    Pack {
        /// The part.
        #[serde(deserialize_with = "part")]
        part: Box<Part>,
    },
    /// An existing regulated rail instead of the battery.
    Rail,
    /// The track of a model railway instead of the battery: a digital one, as most are, until it is measured.
    Track,
}

/// A part by its own strict reader, whose faults name their fields.
fn part<'de, D: Deserializer<'de>>(from: D) -> Result<Box<Part>, D::Error> {
    let value = serde_json::Value::deserialize(from)?;
    parse_part(&value).map(Box::new).map_err(serde::de::Error::custom)
}

/// What is printed on a bulb.
#[derive(Clone, Debug, PartialEq, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PrintedBulb {
    /// How it draws.
    pub draw: Draw,
    /// The holder it fits.
    pub holder: String,
    /// V.
    pub volts: f64,
    /// W.
    pub watts: f64,
    /// lm.
    pub lumens: f64,
    /// Colour temperature, K.
    pub colour_k: f64,
}

/// Flux that is as good as what is usual, as a share of it.
const SAME_LIGHT: f64 = 0.05;

/// A light to add, its figures known.
#[derive(Clone, Debug)]
pub enum LightWish {
    /// Single LEDs, arranged for their supply.
    Leds {
        /// The LED.
        led: Led,
        /// How many.
        count: u32,
        /// The light of each, where the part states it.
        shines: Option<PartLight>,
    },
    /// A strip, pixels or a sealed module.
    Load {
        /// Its figures.
        load: Box<Load>,
        /// Colour by name.
        colour: Option<String>,
        /// Mass, g.
        mass_g: f64,
        /// The light of the part, where it states it.
        shines: Option<PartLight>,
        /// Whether it keeps water out, where the part says.
        sealed: Option<bool>,
    },
}

impl LightWish {
    /// How a light of it shines, where that is not as usual for its kind; a piece of a strip or of pixels has its share of the
    /// flux by itself.
    pub(crate) fn shine(&self, light: &Light) -> Option<Shine> {
        let (LightWish::Leds { shines, .. } | LightWish::Load { shines, .. }) = self;
        let PartLight { lm, half_angle_deg, .. } = shines.as_ref()?;
        let half_angle_deg = half_angle_deg.filter(|deg| Some(*deg) != light.usual_half_angle_deg());
        let module = matches!(light.load, Load::Module(_));
        let lm = Some(*lm).filter(|lm| module && (lm / light.usual_lm() - 1.0).abs() > SAME_LIGHT);
        let shine = Shine { lm, half_angle_deg, ..Shine::default() };
        (shine != Shine::default()).then_some(shine)
    }

    /// A light of the library or of a person's own: so many LEDs or pixels, or so long a piece, m. `None`: the part is no
    /// light.
    pub fn of(part: Part, count: Option<u32>, piece_m: Option<f64>) -> Option<Self> {
        let mass_g = part.mass_g.unwrap_or(0.0);
        let shines = part.light;
        Some(match part.what {
            What::Led { led } => LightWish::Leds { led, count: count.unwrap_or(1), shines },
            What::Light { load, colour, sealed } => match piece(load, count, piece_m, colour, mass_g) {
                LightWish::Load { load, colour, mass_g, .. } => LightWish::Load { load, colour, mass_g, shines, sealed },
                other => other,
            },
            What::Bulb { load, colour_k, .. } => {
                LightWish::Load { load: Box::new(load), colour: Some(white_of(colour_k).into()), mass_g, shines, sealed: None }
            }
            _ => return None,
        })
    }
}

/// Pixels on a metre: strips are sold by whole numbers of them, and a pitch that was rounded means such a one.
fn per_metre(pitch_m: f64) -> f64 {
    let count = 1.0 / pitch_m;
    if (count - count.round()).abs() < 0.005 * count { count.round() } else { count }
}

/// A piece of a strip or of pixels, whole segments of it; a sealed module as it is.
pub fn piece(mut load: Load, count: Option<u32>, piece_m: Option<f64>, colour: String, mass_g: f64) -> LightWish {
    let mut mass_g = mass_g;
    match &mut load {
        Load::Strip(strip) => {
            strip.length_m = piece_m.unwrap_or(strip.length_m);
            let whole = f64::from(strip.segments().max(1)) * strip.segment_m;
            strip.length_m = (whole * 1e6).round() / 1e6;
            mass_g *= strip.length_m;
        }
        Load::Pixels(pixels) => {
            let by_length = piece_m.map(|length| ((length * per_metre(pixels.pitch_m) + 1e-6).floor() as u32).max(1));
            pixels.count = count.or(by_length).unwrap_or(pixels.count);
            mass_g *= f64::from(pixels.count) * pixels.pitch_m;
        }
        Load::LedArray(_) | Load::Module(_) => {}
    }
    LightWish::Load { load: Box::new(load), colour: Some(colour), mass_g, shines: None, sealed: None }
}
