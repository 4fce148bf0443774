//! The grammar of the document, each field with its physical range.

use super::limits::{LEAST_PITCH_M, LEAST_SEGMENT_M, MAX_FEEDS, MAX_LIST, MAX_SCENES, MAX_TAPS};
use super::read::{DocumentError, Fault, Faults, Node, Object, Range};
use super::*;
use serde::de::{Deserialize, Deserializer, MapAccess, SeqAccess, Visitor};
use serde_json::{Map, Value};

const VOLT: Range = Range::above_zero(1000.0, "V");
const VOLT_OR_ZERO: Range = Range::within(0.0, 1000.0, "V");
const AMP: Range = Range::above_zero(10_000.0, "A");
const AMP_OR_ZERO: Range = Range::within(0.0, 10_000.0, "A");
const WATT: Range = Range::above_zero(1e6, "W");
const WATT_OR_ZERO: Range = Range::within(0.0, 1e6, "W");
const OHM: Range = Range::within(0.0, 1e9, "ohm");
const METRE: Range = Range::above_zero(10_000.0, "m");
/// Nothing is cut or spaced finer; shorter ones would only ask for more work than there is.
const SEGMENT: Range = Range::within(LEAST_SEGMENT_M, 10_000.0, "m");
const PITCH: Range = Range::within(LEAST_PITCH_M, 10_000.0, "m");
const METRE_OR_ZERO: Range = Range::within(0.0, 10_000.0, "m");
const SHARE: Range = Range::within(0.0, 1.0, "");
const SHARE_ABOVE_ZERO: Range = Range::above_zero(1.0, "");
const DAY: Range = Range::within(0.0, 24.0, "h");
const GRAM: Range = Range::within(0.0, 1e6, "g");

/// Reads a part of the library or of a person's own.
///
/// # Errors
/// Every fault with a pointer to the field and a remedy.
pub fn parse_part_text(text: &str) -> Result<Part, DocumentError> {
    parse_part(&strict(text)?)
}

pub(super) fn whole(problem: String, remedy: &str) -> DocumentError {
    DocumentError { faults: vec![Fault { pointer: String::new(), problem, remedy: remedy.into() }] }
}

/// JSON in which no key is repeated.
///
/// # Errors
/// Every fault with a pointer to the field and a remedy.
pub fn read_strict(text: &str) -> Result<Value, DocumentError> {
    strict(text)
}

pub(super) fn strict(text: &str) -> Result<Value, DocumentError> {
    let read: Result<Strict, _> = serde_json::from_str(text);
    read.map(|Strict(value)| value).map_err(|error| whole(format!("it is not readable JSON: {error}"), "Mend the text there, or export it again"))
}

pub(super) fn build(o: &mut Object<'_, '_>) -> Option<Build> {
    let format = o.text("format", 40);
    if format != FORMAT {
        let path = o.at("format");
        o.faults.add(path, format!("`{format}` is not a format this version reads"), format!("Use `{FORMAT}`"));
    }
    let name = o.text("name", 200);
    let notes = o.text_or("notes", "", 100_000);
    let vehicle = o.need("vehicle").and_then(|n| n.object(o.faults, vehicle)).flatten();
    let source = o.need("source").and_then(|n| n.object(o.faults, source)).flatten();
    let junctions = o.list("junctions", MAX_LIST, |n, f| n.object(f, junction).flatten());
    let converters = o.list("converters", MAX_LIST, |n, f| n.object(f, converter).flatten());
    let lights = o.list("lights", MAX_LIST, |n, f| n.object(f, light).flatten());
    let standing = o.list("standing", MAX_LIST, |n, f| n.object(f, standing));
    let scenes = o.list("scenes", MAX_SCENES, |n, f| n.object(f, scene));
    let usage = o.maybe("usage").map_or(Some(Usage::default()), |n| n.object(o.faults, usage));
    let audit = o.maybe("audit").and_then(|n| n.object(o.faults, audit));
    let places = o.list("places", MAX_LIST, |n, f| n.object(f, place));
    let parts = o.list("parts", MAX_LIST, |n, f| n.object(f, part).flatten());
    Some(Build {
        format,
        name,
        notes,
        vehicle: vehicle?,
        source: source?,
        junctions,
        converters,
        lights,
        standing,
        scenes,
        usage: usage?,
        audit,
        places,
        parts,
    })
}

fn place(o: &mut Object<'_, '_>) -> Place {
    let traits = o.list("traits", 20, |n, f| n.word(Trait::WORDS, f));
    Place { name: o.text("name", 200), traits, note: o.text_or("note", "", 2000) }
}

/// Reads a part of the library or of a person's own.
///
/// # Errors
/// Every fault with a pointer to the field and a remedy.
pub fn parse_part(value: &Value) -> Result<Part, DocumentError> {
    let mut faults = Faults::default();
    let read = Node { value, path: String::new() }.object(&mut faults, part).flatten();
    read.filter(|_| faults.0.is_empty()).ok_or(DocumentError { faults: faults.0 })
}

fn part(o: &mut Object<'_, '_>) -> Option<Part> {
    let id = id(o);
    let name = o.text("name", 200);
    let figures_from = o.text("figures_from", 500);
    let size_mm = o.maybe("size_mm").map(|n| n.triple(Range::within(0.0, 100_000.0, "mm"), o.faults));
    let mass_g = o.maybe_number("mass_g", GRAM);
    let price_eur = o.maybe_number("price_eur", Range::within(0.0, 1e6, "€"));
    let what = o.need("what").and_then(|n| n.object(o.faults, what)).flatten();
    Some(Part { id, name, figures_from, size_mm, mass_g, price_eur, what: what? })
}

fn what(o: &mut Object<'_, '_>) -> Option<What> {
    const KINDS: [(&str, u8); 9] =
        [("battery", 0), ("led", 1), ("light", 2), ("bulb", 3), ("converter", 4), ("wire", 5), ("fuse", 6), ("switch", 7), ("connector", 8)];
    Some(match o.word("kind", &KINDS)? {
        0 => What::Battery { battery: o.need("battery").and_then(|n| n.object(o.faults, battery)).flatten()? },
        1 => What::Led { led: o.need("led").and_then(|n| n.object(o.faults, led))? },
        2 => What::Light { load: o.need("load").and_then(|n| n.object(o.faults, load)).flatten()?, colour: o.text_or("colour", "white", 40) },
        3 => What::Bulb {
            load: o.need("load").and_then(|n| n.object(o.faults, load)).flatten()?,
            holder: o.text("holder", 80),
            lumens: o.number("lumens", Range::above_zero(1e6, "lm")),
            colour_k: o.number("colour_k", Range::within(1000.0, 20_000.0, "K")),
            polarised: o.flag_or("polarised", false),
        },
        4 => What::Converter { figures: o.need("figures").and_then(|n| n.object(o.faults, |o| converter_figures(o, String::new(), None))).flatten()? },
        5 => What::Wire { gauge: o.need("gauge").and_then(|n| n.object(o.faults, gauge)).flatten()?, conductors: o.count_or("conductors", 1, 1, 100) },
        6 => What::Fuse { fuse: o.need("fuse").and_then(|n| n.object(o.faults, fuse)).flatten()? },
        7 => What::Switch { rating_a: o.number("rating_a", AMP) },
        _ => What::Connector { rating_a: o.number("rating_a", AMP), poles: o.count("poles", 1, 100) },
    })
}

fn vehicle(o: &mut Object<'_, '_>) -> Option<Vehicle> {
    let kind = o.word("kind", VehicleKind::WORDS);
    let mass_kg = o.number("mass_kg", Range::above_zero(100_000.0, "kg"));
    let frame_return_ohm = o.maybe_number("frame_return_ohm", OHM);
    let propulsion = o.maybe("propulsion").and_then(|n| {
        n.object(o.faults, |o| Propulsion { power_w: o.number("power_w", WATT_OR_ZERO), speed_kmh: o.number("speed_kmh", Range::within(0.0, 1000.0, "km/h")) })
    });
    let hover = o
        .maybe("hover")
        .and_then(|n| n.object(o.faults, |o| Hover { power_w: o.number("power_w", WATT), minutes: o.number("minutes", Range::above_zero(10_000.0, "min")) }));
    Some(Vehicle { kind: kind?, mass_kg, frame_return_ohm, propulsion, hover })
}

fn source(o: &mut Object<'_, '_>) -> Option<Source> {
    if o.word("kind", &[("battery", true), ("rail", false)])? {
        battery(o).map(Source::Battery)
    } else {
        Some(Source::Rail(Rail {
            voltage_v: o.number("voltage_v", VOLT),
            resistance_ohm: o.number_or("resistance_ohm", 0.0, OHM),
            max_current_a: o.number("max_current_a", AMP),
            other_load_a: o.number_or("other_load_a", 0.0, AMP_OR_ZERO),
        }))
    }
}

fn battery(o: &mut Object<'_, '_>) -> Option<Battery> {
    let chemistry = o.word("chemistry", Chemistry::WORDS);
    let battery = Battery {
        chemistry: chemistry.unwrap_or(Chemistry::LiIon),
        series: o.count("series", 1, 400),
        parallel: o.count_or("parallel", 1, 1, 10_000),
        capacity_ah: o.number("capacity_ah", Range::above_zero(100_000.0, "Ah")),
        rated_hours: o.number_or("rated_hours", 5.0, Range::above_zero(1000.0, "h")),
        resistance_ohm: o.maybe_number("resistance_ohm", OHM),
        max_current_a: o.number("max_current_a", AMP),
        usable_fraction: o.maybe_number("usable_fraction", SHARE_ABOVE_ZERO),
        peukert: o.maybe_number("peukert", Range::within(1.0, 2.0, "")),
        charge_v: o.maybe_number("charge_v", Range::above_zero(10.0, "V")),
        used_while_charging: o.flag_or("used_while_charging", false),
        tap: o.word_or("tap", Tap::Main, Tap::WORDS),
        tap_limit_a: o.maybe_number("tap_limit_a", AMP),
        protected: o.maybe("protected").map(|n| n.flag(o.faults)),
    };
    chemistry.map(|_| battery)
}

fn id(o: &mut Object<'_, '_>) -> String {
    let id = o.text("id", 80);
    if id.is_empty() || id.contains('#') || id == "source" {
        let path = o.at("id");
        o.faults.add(path, format!("`{id}` cannot be an id"), "Use a name without `#`, other than `source`");
    }
    id
}

fn junction(o: &mut Object<'_, '_>) -> Option<Junction> {
    let id = id(o);
    let feed = o.need("feed").and_then(|n| n.object(o.faults, feed)).flatten();
    Some(Junction { id, feed: feed? })
}

fn converter(o: &mut Object<'_, '_>) -> Option<Converter> {
    let id = id(o);
    let feed = o.need("feed").and_then(|n| n.object(o.faults, feed)).flatten();
    converter_figures(o, id, feed)
}

/// What a converter is, apart from its place in a build; a part of the library has none.
fn converter_figures(o: &mut Object<'_, '_>, id: String, feed: Option<Feed>) -> Option<Converter> {
    let placed = !id.is_empty();
    let kind = o.word("kind", ConverterKind::WORDS)?;
    let set_v = o.maybe_number("set_v", VOLT);
    let set_a = o.maybe_number("set_a", AMP);
    let missing = match kind {
        ConverterKind::CurrentDriver => set_a.is_none().then_some("set_a"),
        _ => set_v.is_none().then_some("set_v"),
    };
    if let Some(name) = missing {
        let path = o.at(name);
        o.faults.add(path, format!("a {} needs it", kind.word()), "Give the figure that it is set to");
    }
    let converter = Converter {
        id,
        feed: if placed { feed? } else { crate::edit::plain_feed("source", 0.3, Gauge::Awg(20)) },
        kind,
        set_v,
        set_a,
        min_in_v: o.number("min_in_v", VOLT_OR_ZERO),
        max_in_v: o.number("max_in_v", VOLT),
        max_out_a: o.number("max_out_a", AMP),
        max_in_a: o.maybe_number("max_in_a", AMP),
        dropout_v: o.number_or("dropout_v", 1.0, Range::within(0.0, 100.0, "V")),
        pass_drop_v: o.number_or("pass_drop_v", 0.4, Range::within(0.0, 100.0, "V")),
        efficiency: efficiency(o),
        idle_a: o.number_or("idle_a", 0.0, AMP_OR_ZERO),
        max_loss_w: o.maybe_number("max_loss_w", WATT),
        mass_g: o.number_or("mass_g", 0.0, GRAM),
    };
    if converter.min_in_v > converter.max_in_v {
        let path = o.at("min_in_v");
        o.faults.add(path, format!("{} V is above `max_in_v`", converter.min_in_v), "Give the lower end of the input range");
    }
    Some(converter)
}

fn efficiency(o: &mut Object<'_, '_>) -> Efficiency {
    // A linear regulator wastes the difference in voltage; it has no efficiency of its own to state.
    let Some(node) = o.maybe("efficiency") else { return Efficiency::Constant(1.0) };
    let Some(items) = node.value.as_array() else {
        return Efficiency::Constant(node.number(SHARE_ABOVE_ZERO, o.faults));
    };
    let mut points: Vec<EfficiencyPoint> = Vec::new();
    for (index, value) in items.iter().enumerate() {
        let item = Node { value, path: format!("{}/{index}", node.path) };
        let point = item.object(o.faults, |o| EfficiencyPoint { vin_v: o.number("vin_v", VOLT), efficiency: o.number("efficiency", SHARE_ABOVE_ZERO) });
        if let Some(point) = point {
            if points.last().is_some_and(|last| point.vin_v <= last.vin_v) {
                o.faults.add(format!("{}/vin_v", item.path), format!("{} V is not above the point before", point.vin_v), "List the points by rising voltage");
            }
            points.push(point);
        }
    }
    if points.is_empty() {
        o.faults.add(&node.path, "the table is empty", "Give at least one point, or one number");
    }
    Efficiency::Table(points)
}

fn light(o: &mut Object<'_, '_>) -> Option<Light> {
    let id = id(o);
    let place = o.text_or("place", "", 200);
    let feeds = o.list("feeds", MAX_FEEDS, |n, f| n.object(f, feed).flatten());
    let load = o.need("load").and_then(|n| n.object(o.faults, load)).flatten();
    let mass_g = o.number_or("mass_g", 0.0, GRAM);
    let colour = o.maybe("colour").map(|n| n.text(40, o.faults));
    Some(Light { id, place, feeds, load: load?, mass_g, colour })
}

fn feed(o: &mut Object<'_, '_>) -> Option<Feed> {
    let from = o.text("from", 80);
    let at_m = o.number_or("at_m", 0.0, METRE_OR_ZERO);
    let length_m = o.number("length_m", METRE_OR_ZERO);
    let gauge = o.need("gauge").and_then(|n| n.object(o.faults, gauge)).flatten();
    let return_path = o.word_or("return", Return::Wire, Return::WORDS);
    let fuse = o.maybe("fuse").and_then(|n| n.object(o.faults, fuse)).flatten();
    let switch = o.maybe("switch").and_then(|n| n.object(o.faults, |o| Switch { rating_a: o.number("rating_a", AMP) }));
    let contacts = o.count_or("contacts", 0, 0, 1000);
    let contact_rating_a = o.maybe_number("contact_rating_a", AMP);
    let bundled = o.count_or("bundled", 1, 1, 1000);
    let slack_m = o.maybe_number("slack_m", METRE_OR_ZERO);
    if slack_m.is_some_and(|slack| slack > length_m) {
        let path = o.at("slack_m");
        o.faults.add(path, "the slack is longer than the wire", "Count the slack into `length_m`");
    }
    let plus_colour = o.maybe("plus_colour").map(|n| n.text(40, o.faults));
    let minus_colour = o.maybe("minus_colour").map(|n| n.text(40, o.faults));
    Some(Feed { from, at_m, length_m, gauge: gauge?, return_path, fuse, switch, contacts, contact_rating_a, bundled, slack_m, plus_colour, minus_colour })
}

fn gauge(o: &mut Object<'_, '_>) -> Option<Gauge> {
    let awg = o.maybe("awg").map(|n| Gauge::Awg(n.integer(-3, 44, o.faults) as i32));
    let mm2 = o.maybe("mm2").map(|n| Gauge::Mm2(n.number(Range::above_zero(1000.0, "mm²"), o.faults)));
    match (awg, mm2) {
        (Some(gauge), None) | (None, Some(gauge)) => Some(gauge),
        _ => {
            let path = o.path.clone();
            o.faults.add(path, "a conductor needs exactly one size", "Give either `awg` or `mm2`");
            None
        }
    }
}

fn fuse(o: &mut Object<'_, '_>) -> Option<Fuse> {
    let style = o.word("style", FuseStyle::WORDS);
    let rating_a = o.number("rating_a", AMP);
    Some(Fuse { style: style?, rating_a })
}

fn load(o: &mut Object<'_, '_>) -> Option<Load> {
    const KINDS: [(&str, u8); 4] = [("led_array", 0), ("strip", 1), ("pixels", 2), ("module", 3)];
    match o.word("kind", &KINDS)? {
        0 => {
            let led = o.need("led").and_then(|n| n.object(o.faults, led));
            let array =
                (o.count("series", 1, 1000), o.count("parallel", 1, 10_000), o.number("resistor_ohm", OHM), o.number_or("resistor_w", 0.0, WATT_OR_ZERO));
            Some(Load::LedArray(LedArray { led: led?, series: array.0, parallel: array.1, resistor_ohm: array.2, resistor_w: array.3 }))
        }
        1 => Some(Load::Strip(Strip {
            voltage_v: o.number("voltage_v", VOLT),
            power_w_per_m: o.number("power_w_per_m", WATT),
            segment_m: o.number("segment_m", SEGMENT),
            leds_per_segment: o.count("leds_per_segment", 1, 1000),
            led_vf_v: o.number("led_vf_v", Range::above_zero(100.0, "V")),
            rail_ohm_per_m: o.number("rail_ohm_per_m", OHM),
            rail_max_a: o.maybe_number("rail_max_a", AMP),
            length_m: o.number("length_m", METRE),
        })),
        2 => Some(Load::Pixels(Pixels {
            voltage_v: o.number("voltage_v", VOLT),
            channel_a: o.triple("channel_a", Range::within(0.0, 10.0, "A")),
            idle_a: o.number_or("idle_a", 0.0, Range::within(0.0, 10.0, "A")),
            pitch_m: o.number("pitch_m", PITCH),
            rail_ohm_per_m: o.number("rail_ohm_per_m", OHM),
            rail_max_a: o.maybe_number("rail_max_a", AMP),
            regulation_v: o.triple("regulation_v", VOLT),
            off_v: o.triple("off_v", VOLT_OR_ZERO),
            count: o.count("count", 1, MAX_TAPS as u32),
        })),
        _ => {
            let draw = o.word("draw", Draw::WORDS);
            let module = Module {
                draw: draw.unwrap_or(Draw::Resistive),
                voltage_v: o.number("voltage_v", VOLT),
                power_w: o.number("power_w", WATT),
                min_v: o.number_or("min_v", 0.0, VOLT_OR_ZERO),
                max_v: o.number_or("max_v", 1000.0, VOLT),
            };
            draw.map(|_| Load::Module(module))
        }
    }
}

fn led(o: &mut Object<'_, '_>) -> Led {
    Led {
        colour: o.text_or("colour", "white", 40),
        vf_v: o.number("vf_v", Range::above_zero(100.0, "V")),
        if_a: o.number("if_a", Range::above_zero(100.0, "A")),
        if_max_a: o.number("if_max_a", Range::above_zero(100.0, "A")),
        n: o.maybe_number("n", Range::above_zero(20.0, "")),
        rs_ohm: o.maybe_number("rs_ohm", OHM),
    }
}

fn standing(o: &mut Object<'_, '_>) -> Standing {
    Standing {
        id: id(o),
        current_a: o.number("current_a", AMP_OR_ZERO),
        hours_per_day: o.number_or("hours_per_day", 24.0, DAY),
        ahead_of_disconnect: o.flag_or("ahead_of_disconnect", false),
    }
}

fn scene(o: &mut Object<'_, '_>) -> Scene {
    let id = id(o);
    let name = o.text_or("name", &id, 200);
    let lights = o.map("lights", |n, f| {
        n.object(f, |o| SceneLight {
            level: o.number_or("level", 1.0, SHARE),
            colour: o.maybe("colour").map_or([1.0; 3], |n| n.triple(SHARE, o.faults)),
            duty: o.number_or("duty", 1.0, SHARE),
        })
    });
    Scene { id, name, lights }
}

fn usage(o: &mut Object<'_, '_>) -> Usage {
    Usage {
        outings_per_week: o.number_or("outings_per_week", 0.0, Range::within(0.0, 10_000.0, "")),
        minutes: o.map("minutes", |n, f| Some(n.number(Range::within(0.0, 100_000.0, "min"), f))),
        temperature_c: o.maybe_number("temperature_c", Range::within(0.0, 40.0, "°C")),
        capacity_left: o.maybe_number("capacity_left", Range::within(0.1, 1.0, "")),
        charger_a: o.maybe_number("charger_a", AMP),
        gain: o
            .maybe("gain")
            .and_then(|n| n.object(o.faults, |o| Gain { hours_per_day: o.number("hours_per_day", DAY), current_a: o.number("current_a", AMP_OR_ZERO) })),
    }
}

fn audit(o: &mut Object<'_, '_>) -> Audit {
    let bulbs = o.list("bulbs", 200, |n, f| n.object(f, audit_bulb));
    let measured = o.maybe("measured").and_then(|n| {
        n.object(o.faults, |o| AuditMeasured {
            usual_a: o.maybe_number("usual_a", AMP_OR_ZERO),
            all_a: o.maybe_number("all_a", AMP_OR_ZERO),
            rest_a: o.maybe_number("rest_a", AMP_OR_ZERO),
            disconnected_a: o.maybe_number("disconnected_a", AMP_OR_ZERO),
        })
    });
    Audit { bulbs, measured: measured.unwrap_or_default() }
}

fn audit_bulb(o: &mut Object<'_, '_>) -> AuditBulb {
    let bulb = AuditBulb {
        id: id(o),
        part: o.text("part", 80),
        count: o.count("count", 0, 10_000),
        usual: o.count_or("usual", 0, 0, 10_000),
        hours_per_day: o.number_or("hours_per_day", 0.0, DAY),
        replacement: o.maybe("replacement").map(|n| n.text(80, o.faults)),
    };
    if bulb.usual > bulb.count {
        let path = o.at("usual");
        o.faults.add(path, format!("{} on of {} that there are", bulb.usual, bulb.count), "Give at most `count`");
    }
    bulb
}

/// JSON in which a repeated key is an error rather than the last one winning.
struct Strict(Value);

impl<'de> Deserialize<'de> for Strict {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        deserializer.deserialize_any(StrictVisitor).map(Strict)
    }
}

struct StrictVisitor;

impl<'de> Visitor<'de> for StrictVisitor {
    type Value = Value;

    fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("JSON")
    }
    fn visit_bool<E>(self, v: bool) -> Result<Value, E> {
        Ok(v.into())
    }
    fn visit_i64<E>(self, v: i64) -> Result<Value, E> {
        Ok(v.into())
    }
    fn visit_u64<E>(self, v: u64) -> Result<Value, E> {
        Ok(v.into())
    }
    fn visit_f64<E>(self, v: f64) -> Result<Value, E> {
        Ok(v.into())
    }
    fn visit_str<E>(self, v: &str) -> Result<Value, E> {
        Ok(v.into())
    }
    fn visit_unit<E>(self) -> Result<Value, E> {
        Ok(Value::Null)
    }
    fn visit_seq<A: SeqAccess<'de>>(self, mut seq: A) -> Result<Value, A::Error> {
        let mut items = Vec::new();
        while let Some(Strict(item)) = seq.next_element()? {
            items.push(item);
        }
        Ok(Value::Array(items))
    }
    fn visit_map<A: MapAccess<'de>>(self, mut entries: A) -> Result<Value, A::Error> {
        let mut map = Map::new();
        while let Some(key) = entries.next_key::<String>()? {
            let Strict(value) = entries.next_value()?;
            if map.contains_key(&key) {
                return Err(serde::de::Error::custom(format!("the field `{key}` is there twice")));
            }
            map.insert(key, value);
        }
        Ok(Value::Object(map))
    }
}
