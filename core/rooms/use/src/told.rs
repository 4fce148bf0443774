//! Events as the room reads them: what a ride, a charge, a reading, a repair says, corrections taken into account.

use orthavis_model::journal::{Event, EventKind};
use orthavis_model::moment::Moment;
use serde_json::{Map, Value};
use std::collections::{BTreeMap, HashSet};

/// An outing.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Ride {
    /// Minutes of each scene, by scene id.
    pub minutes: BTreeMap<String, f64>,
    /// How far, km.
    pub distance_km: Option<f64>,
    /// Temperature outside, °C.
    pub temperature_c: Option<f64>,
    /// Rested voltage before, V.
    pub from_v: Option<f64>,
    /// Rested voltage after, V.
    pub to_v: Option<f64>,
    /// When it began; the event is when it ended.
    pub began: Option<Moment>,
}

impl Ride {
    /// Light in it, h.
    pub fn hours(&self) -> f64 {
        self.minutes.values().sum::<f64>() / 60.0
    }
}

/// A charge.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Charge {
    /// Rested voltage before, V.
    pub from_v: Option<f64>,
    /// Voltage at the end, V: the charger's where it held it, else rested.
    pub to_v: Option<f64>,
    /// What went in, Ah.
    pub ah: Option<f64>,
    /// What went in, Wh.
    pub wh: Option<f64>,
    /// How long, min.
    pub minutes: Option<f64>,
    /// Temperature of the battery, °C.
    pub temperature_c: Option<f64>,
}

/// A reading of the battery.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Reading {
    /// Rested, V.
    pub resting_v: Option<f64>,
    /// Under the load of `scene`, V.
    pub loaded_v: Option<f64>,
    /// What was lit.
    pub scene: Option<String>,
    /// Temperature of the battery, °C.
    pub temperature_c: Option<f64>,
}

/// What an event says.
#[derive(Clone, Debug, PartialEq)]
pub enum What {
    /// An outing.
    Ride(Ride),
    /// A charge.
    Charge(Charge),
    /// A reading of the battery.
    Reading(Reading),
    /// What was wrong: the fault, in words, and what mended it.
    Repair {
        /// The fault as diagnosis names it, or as a person does.
        was: String,
        /// In words.
        words: String,
        /// What was done.
        mended: String,
    },
    /// A part: `replaced`, `fitted`, `removed`, `bought`, `looked`.
    Part {
        /// Which.
        part: String,
        /// What became of it.
        change: String,
        /// The pack that it is, where it is one of the drawer.
        pack: Option<String>,
    },
    /// Something waits.
    Timer {
        /// For what.
        what: String,
        /// Until when.
        until: Moment,
    },
    /// A step was ticked: its id, and whether it is done.
    Tick(String, bool),
    /// Anything else.
    Other,
}

/// An event, read.
#[derive(Clone, Debug, PartialEq)]
pub struct Told<'a> {
    /// As it is kept.
    pub event: &'a Event,
    /// When.
    pub at: Moment,
    /// What.
    pub what: What,
}

fn number(data: &Map<String, Value>, name: &str) -> Option<f64> {
    data.get(name).and_then(Value::as_f64).filter(|value| value.is_finite())
}

fn text(data: &Map<String, Value>, name: &str) -> String {
    data.get(name).and_then(Value::as_str).unwrap_or_default().trim().to_owned()
}

fn minutes(value: Option<&Value>) -> BTreeMap<String, f64> {
    let Some(Value::Object(scenes)) = value else { return BTreeMap::new() };
    scenes.iter().filter_map(|(scene, value)| Some((scene.clone(), value.as_f64()?))).collect()
}

/// A rested pack is measured across itself.
fn of_source(data: &Map<String, Value>) -> bool {
    match data.get("probes") {
        None | Some(Value::Null) => true,
        Some(Value::Array(probes)) => probes.iter().all(|probe| matches!(probe.as_str(), Some("source+" | "source-"))),
        Some(_) => false,
    }
}

fn what(event: &Event) -> What {
    let data = &event.data;
    match event.kind {
        EventKind::Ride => What::Ride(Ride {
            minutes: minutes(data.get("minutes")),
            distance_km: number(data, "distance_km"),
            temperature_c: number(data, "temperature_c"),
            from_v: number(data, "from_v"),
            to_v: number(data, "to_v"),
            began: Moment::parse(&text(data, "began")),
        }),
        EventKind::Charge => What::Charge(Charge {
            from_v: number(data, "from_v"),
            to_v: number(data, "to_v"),
            ah: number(data, "ah"),
            wh: number(data, "wh"),
            minutes: number(data, "minutes"),
            temperature_c: number(data, "temperature_c"),
        }),
        EventKind::Reading if of_source(data) => {
            let scene = Some(text(data, "scene")).filter(|scene| !scene.is_empty());
            let volts = matches!(text(data, "quantity").as_str(), "" | "volts");
            let value = number(data, "value").filter(|_| volts);
            let resting = number(data, "resting_v");
            What::Reading(Reading {
                resting_v: resting.or(if scene.is_none() { value } else { None }),
                loaded_v: if scene.is_some() { value } else { None },
                scene,
                temperature_c: number(data, "temperature_c"),
            })
        }
        EventKind::Fault => What::Repair { was: text(data, "was"), words: text(data, "words"), mended: text(data, "mended") },
        EventKind::Part => {
            What::Part { part: text(data, "part"), change: text(data, "change"), pack: Some(text(data, "pack")).filter(|pack| !pack.is_empty()) }
        }
        EventKind::Timer => match Moment::parse(&text(data, "until")) {
            Some(until) => What::Timer { what: text(data, "what"), until },
            None => What::Other,
        },
        EventKind::Tick => What::Tick(text(data, "step"), text(data, "state") == "done"),
        EventKind::Reading | EventKind::Drill | EventKind::Note => What::Other,
    }
}

/// Events in the order in which they happened, without those that another corrects, and without corrections that only
/// strike one out.
pub fn told(events: &[Event]) -> Vec<Told<'_>> {
    let replaced: HashSet<&str> = events.iter().filter_map(|event| event.replaces.as_deref()).collect();
    let stands = |event: &&Event| !replaced.contains(event.id.as_str()) && event.data.get("struck") != Some(&Value::Bool(true));
    let mut told: Vec<Told<'_>> =
        events.iter().filter(stands).filter_map(|event| Some(Told { event, at: Moment::parse(&event.at)?, what: what(event) })).collect();
    told.sort_by(|a, b| (a.at.s, &a.event.id).cmp(&(b.at.s, &b.event.id)));
    told
}
