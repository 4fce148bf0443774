//! A wish: where light should be, what for, how long, what there is and what hands can do. As strict a document as a build.

use orthavis_model::document::{Battery, Build, Chemistry, DocumentError, Fault, Hands, Purpose, Source, VehicleKind, parse_value};
use orthavis_model::parts::library;
use orthavis_model::practice::LED_COLOURS;
use orthavis_model::vehicle;
use orthavis_plan::propose::starter;
use serde_json::{Map, Value};
use std::collections::BTreeMap;

/// The value of `format`.
pub const FORMAT: &str = "orthavis.wish/1";
/// Most lights of a wish, each counted.
const MOST_LIGHTS: u32 = 24;
/// A length is refused beyond so much of what its place has as drawn: vehicles of a form are of several sizes.
const BEYOND: f64 = 1.5;

orthavis_model::words! {
    /// Whether the lights may have a pack of their own.
    OwnPack {
        /// They hang on the vehicle's battery.
        No = "no",
        /// Whatever is better.
        May = "may",
        /// The vehicle's battery is not touched.
        Must = "must",
    }
}

/// A light that is wished for.
#[derive(Clone, Debug, PartialEq)]
pub struct WishedLight {
    /// Where, by the name of the place.
    pub place: String,
    /// What for.
    pub purpose: Purpose,
    /// Colour by name; `any` where it changes.
    pub colour: String,
    /// Length, m; `None`: a point.
    pub length_m: Option<f64>,
    /// How many.
    pub count: u32,
    /// Least flux of each, lm; `None`: by what it is for.
    pub lm: Option<f64>,
    /// How much of that is asked for: 1, less while the nearest to an impossible wish is looked for.
    pub(crate) share: f64,
}

/// A wish.
#[derive(Clone, Debug, PartialEq)]
pub struct Wish {
    /// Name of the build.
    pub name: String,
    /// Kind of vehicle.
    pub kind: VehicleKind,
    /// Its form; `None`: the first.
    pub variant: Option<String>,
    /// Its mass, kg; `None`: usual.
    pub mass_kg: Option<f64>,
    /// The vehicle's own battery, rail or track.
    pub source: Option<Source>,
    /// Whether lights may have a pack of their own.
    pub own_pack: OwnPack,
    /// Lights.
    pub lights: Vec<WishedLight>,
    /// All of them on, from full to reserve, h.
    pub hours: f64,
    /// What hands can do.
    pub hands: Hands,
    /// What lies in the drawer, by part.
    pub have: BTreeMap<String, f64>,
    /// Most that it may cost.
    pub most_cost: Option<f64>,
    /// Most that it may weigh, g.
    pub most_mass_g: Option<f64>,
    /// ISO 4217.
    pub currency: String,
}

impl WishedLight {
    /// Least flux of one, lm.
    pub fn least_lm(&self) -> f64 {
        self.share
            * self.lm.unwrap_or(match self.purpose {
                Purpose::Seen => 8.0,
                Purpose::See => 150.0,
                Purpose::Glow => 60.0 * self.length_m.unwrap_or(0.25),
                Purpose::Orient => 3.0,
                Purpose::Read => 80.0,
                Purpose::Signal => 15.0,
                Purpose::Show => 0.0,
            })
    }
}

impl Wish {
    /// A build with the wish's vehicle and supply, and nothing lit yet.
    pub fn empty(&self, source: Source) -> Build {
        let mut build = starter(&self.name, self.kind, self.variant.as_deref(), Chemistry::LiIon, 1, 1.0);
        build.source = source;
        if let Some(mass_kg) = self.mass_kg {
            build.vehicle.mass_kg = mass_kg;
        }
        build
    }
}

/// Reads fields of an object one by one, and remembers what is wrong.
struct Fields<'a> {
    object: &'a Map<String, Value>,
    at: String,
    faults: &'a mut Vec<Fault>,
}

fn fault(faults: &mut Vec<Fault>, pointer: String, problem: impl Into<String>, remedy: impl Into<String>) {
    faults.push(Fault { pointer, problem: problem.into(), remedy: remedy.into() });
}

impl Fields<'_> {
    fn fault(&mut self, key: &str, problem: impl Into<String>, remedy: impl Into<String>) {
        fault(self.faults, format!("{}/{key}", self.at), problem, remedy);
    }

    fn get(&self, key: &str) -> Option<&Value> {
        self.object.get(key).filter(|value| !value.is_null())
    }

    fn known(&mut self, keys: &[&str]) {
        let unknown: Vec<String> = self.object.keys().filter(|key| !keys.contains(&key.as_str())).cloned().collect();
        for key in unknown {
            self.fault(&key, "is not a field of a wish here", format!("Take it out, or name one of {}", keys.join(", ")));
        }
    }

    fn text(&mut self, key: &str, most: usize) -> Option<String> {
        let value = self.get(key)?;
        match value.as_str() {
            Some(text) if text.chars().count() <= most => Some(text.trim().to_owned()),
            _ => {
                let problem = format!("{value} is no text of at most {most} letters");
                self.fault(key, problem, "Write it in quotes");
                None
            }
        }
    }

    fn number(&mut self, key: &str, least: f64, most: f64, unit: &str) -> Option<f64> {
        let value = self.get(key)?;
        match value.as_f64().filter(|number| *number >= least && *number <= most) {
            Some(number) => Some(number),
            None => {
                let problem = format!("{value} is not from {least} to {most} {unit}");
                self.fault(key, problem.trim_end().to_owned(), format!("Give a number from {least} to {most}"));
                None
            }
        }
    }

    fn word<T: Copy>(&mut self, key: &str, words: &[(&str, T)], usual: Option<T>) -> Option<T> {
        let list = || words.iter().map(|(word, _)| *word).collect::<Vec<_>>().join(", ");
        match self.get(key).map(|value| value.as_str().unwrap_or_default().to_owned()) {
            None => {
                if usual.is_none() {
                    self.fault(key, "is missing", format!("Name one of {}", list()));
                }
                usual
            }
            Some(said) => {
                let found = words.iter().find(|(word, _)| *word == said).map(|(_, value)| *value);
                if found.is_none() {
                    self.fault(key, format!("`{said}` is not known"), format!("Name one of {}", list()));
                }
                found.or(usual)
            }
        }
    }
}

/// Reads a wish.
///
/// # Errors
/// Every fault, with its field and its remedy.
pub fn parse(text: &str) -> Result<Wish, DocumentError> {
    match serde_json::from_str::<Value>(text) {
        Ok(value) => parse_wish(&value),
        Err(error) => {
            let fault = Fault { pointer: String::new(), problem: format!("it is no JSON: {error}"), remedy: "Write it as JSON (RFC 8259)".into() };
            Err(DocumentError { faults: vec![fault] })
        }
    }
}

/// [`parse`] of JSON that was read already.
///
/// # Errors
/// As there.
pub fn parse_wish(value: &Value) -> Result<Wish, DocumentError> {
    let mut faults = Vec::new();
    let wish = read(value, &mut faults);
    match wish {
        Some(wish) if faults.is_empty() => Ok(wish),
        _ => Err(DocumentError { faults }),
    }
}

const KEYS: [&str; 12] = ["format", "name", "vehicle", "battery", "own_pack", "lights", "hours", "hands", "have", "most_cost", "most_mass_g", "currency"];

fn read(value: &Value, faults: &mut Vec<Fault>) -> Option<Wish> {
    let Some(object) = value.as_object() else {
        fault(faults, String::new(), "a wish is an object", "Begin it with { and end it with }");
        return None;
    };
    let mut top = Fields { object, at: String::new(), faults };
    top.known(&KEYS);
    if top.get("format").and_then(Value::as_str) != Some(FORMAT) {
        top.fault("format", "is not a wish of this program", format!("Write \"format\": \"{FORMAT}\""));
    }
    let name = top.text("name", 200).filter(|name| !name.is_empty()).unwrap_or_else(|| "My lights".into());
    let own_pack = top.word("own_pack", OwnPack::WORDS, Some(OwnPack::May))?;
    let hands = top.word("hands", Hands::WORDS, Some(Hands::Solder))?;
    let hours = match top.get("hours") {
        None => {
            top.fault("hours", "is missing", "Say how long all lights are to shine on a charge, h");
            None
        }
        Some(_) => top.number("hours", 0.05, 1000.0, "h"),
    };
    let most_cost = top.number("most_cost", 0.0, 1e6, "");
    let most_mass_g = top.number("most_mass_g", 0.0, 1e6, "g");
    let currency = top.text("currency", 3).unwrap_or_else(|| "EUR".into());
    let (kind, variant, mass_kg) = vehicle_of(value.get("vehicle"), top.faults)?;
    let source = source_of(value.get("battery"), top.faults);
    let lights = lights_of(value.get("lights"), kind, variant.as_deref(), top.faults);
    let have = have_of(value.get("have"), top.faults);
    if source.is_none() && own_pack == OwnPack::No && value.get("battery").is_none_or(Value::is_null) {
        fault(top.faults, "/own_pack".into(), "there is no battery, and the lights may have none of their own", "Say `may` or `must`, or give the battery");
    }
    Some(Wish { name, kind, variant, mass_kg, source, own_pack, lights, hours: hours?, hands, have, most_cost, most_mass_g, currency })
}

fn vehicle_of(value: Option<&Value>, faults: &mut Vec<Fault>) -> Option<(VehicleKind, Option<String>, Option<f64>)> {
    let Some(object) = value.and_then(Value::as_object) else {
        fault(faults, "/vehicle".into(), "is missing", "Say what it is, as in {\"kind\": \"bicycle\"}");
        return None;
    };
    let mut fields = Fields { object, at: "/vehicle".into(), faults };
    fields.known(&["kind", "variant", "mass_kg"]);
    let kind = fields.word("kind", VehicleKind::WORDS, None)?;
    let variant = fields.text("variant", 80);
    let mass_kg = fields.number("mass_kg", 0.001, 100_000.0, "kg");
    if let Some(named) = &variant
        && vehicle::variants(kind).iter().all(|known| known.id != *named)
    {
        let known: Vec<&str> = vehicle::variants(kind).iter().map(|known| known.id.as_str()).collect();
        fields.fault("variant", format!("`{named}` is not a form of it"), format!("Name one of {}", known.join(", ")));
    }
    Some((kind, variant, mass_kg))
}

/// A supply as a build has it, its faults at the wish's own field.
fn source_of(value: Option<&Value>, faults: &mut Vec<Fault>) -> Option<Source> {
    let value = value.filter(|value| !value.is_null())?;
    let mut build = starter("wish", VehicleKind::Other, None, Chemistry::LiIon, 1, 1.0).to_value();
    build["source"] = value.clone();
    match parse_value(&build) {
        Ok(build) => Some(build.source),
        Err(error) => {
            faults.extend(error.faults.into_iter().map(|fault| Fault { pointer: fault.pointer.replacen("/source", "/battery", 1), ..fault }));
            None
        }
    }
}

fn lights_of(value: Option<&Value>, kind: VehicleKind, variant: Option<&str>, faults: &mut Vec<Fault>) -> Vec<WishedLight> {
    let list = value.and_then(Value::as_array).map(Vec::as_slice).unwrap_or_default();
    if list.is_empty() {
        fault(faults, "/lights".into(), "no light is wished for", "Say where light should be");
    }
    let mut all = Vec::new();
    for (index, value) in list.iter().enumerate() {
        let at = format!("/lights/{index}");
        match value.as_object() {
            Some(object) => all.extend(light_of(&mut Fields { object, at, faults }, kind, variant)),
            None => fault(faults, at, "a light is an object", "Begin it with { and end it with }"),
        }
    }
    let count: u32 = all.iter().map(|light: &WishedLight| light.count).sum();
    if count > MOST_LIGHTS {
        fault(
            faults,
            "/lights".into(),
            format!("{count} lights are more than are planned at once"),
            format!("Wish for {MOST_LIGHTS} at most, and add the rest later"),
        );
    }
    all
}

/// What a light at a place most likely is for, and in which colour, by the words of the place: a beginning, to be changed.
pub fn likely(place: &str) -> (Purpose, &'static str) {
    let has = |words: &[&str]| words.iter().any(|word| place.contains(word));
    let side = ["wing", "arm", "side"].iter().any(|word| place.contains(word));
    if has(&["inside", "cabin", "roof"]) {
        (Purpose::Glow, "warm white")
    } else if side && place.contains("left") {
        (Purpose::Orient, "red")
    } else if side && place.contains("right") {
        (Purpose::Orient, "green")
    } else if has(&["rear", "tail", "stern"]) {
        (Purpose::Seen, "red")
    } else if has(&["front", "handlebar", "nose", "bow", "foot"]) {
        (Purpose::See, "white")
    } else {
        (Purpose::Glow, "white")
    }
}

/// Colours that a wish may name and an eye sees, beside `any`.
pub fn colours() -> Vec<&'static str> {
    LED_COLOURS.iter().copied().chain(MORE_COLOURS).filter(|colour| !matches!(*colour, "infrared" | "any")).collect()
}

/// Colours beside those of single LEDs.
const MORE_COLOURS: [&str; 5] = ["warm white", "cool white", "orange", "yellow", "any"];

fn light_of(fields: &mut Fields<'_>, kind: VehicleKind, variant: Option<&str>) -> Option<WishedLight> {
    fields.known(&["place", "for", "colour", "length_m", "count", "lm"]);
    let place = fields.text("place", 80).unwrap_or_default();
    let form = vehicle::form(kind, variant);
    let places: Vec<&str> = form.iter().flat_map(|form| &form.places).map(|place| place.name.as_str()).collect();
    if !places.contains(&place.as_str()) {
        fields.fault("place", format!("`{place}` is not a place of this vehicle"), format!("Name one of {}", places.join(", ")));
    }
    let purpose = fields.word("for", Purpose::WORDS, None);
    let colour = fields.text("colour", 40).unwrap_or_else(|| "white".into());
    let colours: Vec<&str> = LED_COLOURS.iter().copied().chain(MORE_COLOURS).collect();
    if !colours.contains(&colour.as_str()) {
        fields.fault("colour", format!("`{colour}` is not a colour of LEDs here"), format!("Name one of {}", colours.join(", ")));
    }
    let length_m = fields.number("length_m", 0.01, 100.0, "m");
    if let (Some(length_m), Some(room_m)) = (length_m, place_m(kind, variant, &place))
        && length_m > BEYOND * room_m
    {
        fields.fault("length_m", format!("{length_m} m is longer than the place, which has about {room_m:.2} m"), format!("Give {room_m:.2} m or less"));
    }
    let count = fields.number("count", 1.0, f64::from(MOST_LIGHTS), "").map_or(1, |count| count as u32);
    let lm = fields.number("lm", 0.01, 1e6, "lm");
    Some(WishedLight { place, purpose: purpose?, colour, length_m, count, lm, share: 1.0 })
}

fn have_of(value: Option<&Value>, faults: &mut Vec<Fault>) -> BTreeMap<String, f64> {
    let mut all = BTreeMap::new();
    for (index, value) in value.and_then(Value::as_array).into_iter().flatten().enumerate() {
        let at = format!("/have/{index}");
        let Some(object) = value.as_object() else {
            fault(faults, at, "what lies in the drawer is an object", "Write it as {\"part\": \"strip-12v-white-48\", \"count\": 2}");
            continue;
        };
        let mut fields = Fields { object, at, faults };
        fields.known(&["part", "count"]);
        let part = fields.text("part", 80).unwrap_or_default();
        if library().iter().all(|known| known.id != part) {
            fields.fault("part", format!("`{part}` is not a part of the library"), "Name a part by its id, as `orthavis parts` lists them");
            continue;
        }
        let count = fields.number("count", 0.0, 1e6, "").unwrap_or(1.0);
        *all.entry(part).or_default() += count;
    }
    all
}

/// How long a place is, by the drawings of its vehicle, m; `None`: a point.
pub fn place_m(kind: VehicleKind, variant: Option<&str>, place: &str) -> Option<f64> {
    let form = vehicle::form(kind, variant)?;
    let long = |view: &vehicle::VehicleView| {
        let way = view.places.iter().find(|known| known.name == place)?.along.as_ref()?;
        let points: Vec<[f64; 2]> =
            way.split(['M', 'L']).filter_map(|pair| pair.split_once(' ')).filter_map(|(x, y)| Some([x.trim().parse().ok()?, y.trim().parse().ok()?])).collect();
        let units: f64 = points.windows(2).map(|pair| (pair[1][0] - pair[0][0]).hypot(pair[1][1] - pair[0][1])).sum();
        Some(units / view.per_m)
    };
    form.views.iter().filter_map(long).reduce(f64::max)
}

/// Wire from the pack to a place, with some to spare, by the drawings, m.
pub fn wire_m(kind: VehicleKind, variant: Option<&str>, place: &str) -> f64 {
    /// To every place leads this much, and of what lies between so much more than the straight way.
    const ENDS_M: f64 = 0.2;
    const ROUND: f64 = 1.25;
    let Some(form) = vehicle::form(kind, variant) else { return 1.0 };
    let away = |view: &vehicle::VehicleView| {
        let known = view.places.iter().find(|known| known.name == place)?;
        Some(((known.x - view.pack.x).abs() + (known.y - view.pack.y).abs()) / view.per_m)
    };
    let straight = form.views.iter().filter_map(away).fold(0.0, f64::max);
    (20.0 * (ENDS_M + ROUND * straight)).ceil() / 20.0
}

/// What a battery has to give, Wh.
pub(crate) fn usable_wh(battery: &Battery) -> f64 {
    battery.usable() * battery.capacity_ah * battery.emf_v(0.5)
}
