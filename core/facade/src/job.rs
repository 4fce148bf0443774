//! What forms have to know of the job beside the table of fields: what each kind begins with, asks for and is called.

use orthavis_design::wish::{colours, likely};
use orthavis_drain::what_if::{DIALS, Dial};
use orthavis_look::eye::{Sky, Viewpoint};
use orthavis_model::document::{CircuitKind, ConverterKind, LoadKind, MovingKind, PartPosition, RemoteKind, SourceKind, VehicleKind};
use orthavis_model::vehicle::{sheets, variants};
use orthavis_physics::circuits::{WantedField, wishes};
use serde::Serialize;
use std::collections::BTreeMap;

/// A small circuit to add.
#[derive(Clone, Debug, Serialize)]
pub struct CircuitForm {
    /// What it is for, in a sentence.
    pub about: &'static str,
    /// It drives no light of the build.
    pub alone: bool,
}

/// How a controller is switched from afar.
#[derive(Clone, Debug, Serialize)]
pub struct RemoteForm {
    /// What its receiver takes all the time, A.
    pub idle_a: f64,
    /// What it asks of its place.
    pub asks: &'static str,
}

/// What carries a feed over to something that moves.
#[derive(Clone, Debug, Serialize)]
pub struct MovingForm {
    /// It only bends.
    pub bends: bool,
    /// Of the contact, ohm.
    pub resistance_ohm: f64,
    /// Time without contact, as a share.
    pub bounce_share: f64,
}

/// A form of a vehicle.
#[derive(Clone, Debug, Serialize)]
pub struct VehicleForm {
    /// It flies.
    pub flies: bool,
    /// Its motors hold it up all the time.
    pub hovers: bool,
    /// Its frame may carry current back.
    pub frame_may_return: bool,
    /// It is used by the day, not by the outing.
    pub lived_in: bool,
}

/// A kind of light that a person adds, with the parts of the library that it is.
#[derive(Clone, Debug, Serialize)]
pub struct LightForm {
    /// Its word.
    pub kind: &'static str,
    /// What a person reads.
    pub called: &'static str,
    /// Kind of such a part, and of its load where that decides.
    pub what: &'static str,
    /// The same of its load.
    pub load: Option<&'static str>,
    /// It is counted.
    pub counted: bool,
    /// It is cut to length.
    pub cut: bool,
}

/// A time of the week that somebody adds.
#[derive(Clone, Debug, Serialize)]
pub struct TimeForm {
    /// Day.
    pub weekday: &'static str,
    /// From.
    pub start: &'static str,
    /// How long, min.
    pub minutes: u32,
}

/// From where a build is looked at in the night.
#[derive(Clone, Debug, Serialize)]
pub struct ViewpointForm {
    /// Its word.
    pub word: &'static str,
    /// What a person reads.
    pub called: &'static str,
    /// How far behind a driver sits, m.
    pub behind_m: Option<f64>,
}

/// What a light at a place most likely is for.
#[derive(Clone, Debug, Serialize)]
pub struct LikelyForm {
    /// The word of what it is for.
    #[serde(rename = "for")]
    pub purpose: &'static str,
    /// Its colour.
    pub colour: &'static str,
}

/// All of it.
#[derive(Clone, Debug, Serialize)]
pub struct JobForms {
    /// By the word of the remote control.
    pub remotes: BTreeMap<&'static str, RemoteForm>,
    /// By the word of the circuit.
    pub wishes: BTreeMap<&'static str, &'static [WantedField]>,
    /// By the word of the circuit.
    pub circuits: BTreeMap<&'static str, CircuitForm>,
    /// By the word of what moves.
    pub moves: BTreeMap<&'static str, MovingForm>,
    /// By kind, then by form; the first form stands under an empty name, too.
    pub vehicles: BTreeMap<&'static str, BTreeMap<String, VehicleForm>>,
    /// Lights to add, the most usual first.
    pub lights: Vec<LightForm>,
    /// What is tried.
    pub dials: &'static [Dial],
    /// A time that is added.
    pub time: TimeForm,
    /// Lists of the document on whose members lights can hang.
    pub suppliers: [&'static str; 2],
    /// Kinds of their members on which they cannot.
    pub no_suppliers: [&'static str; 1],
    /// Where power may come from, and what a sentence calls it.
    pub sources: BTreeMap<&'static str, &'static str>,
    /// From where the night is seen.
    pub viewpoints: Vec<ViewpointForm>,
    /// What a craft has that hears what switches nearby, by the names that a position may have.
    pub listens: [&'static str; 3],
    /// What light there may be beside a build's, and what a person reads.
    pub skies: Vec<(&'static str, &'static str)>,
    /// By usual place.
    pub likely: BTreeMap<&'static str, LikelyForm>,
    /// Colours to wish for.
    pub colours: Vec<&'static str>,
}

const fn light(kind: &'static str, called: &'static str, what: &'static str, load: Option<&'static str>) -> LightForm {
    LightForm { kind, called, what, load, counted: false, cut: false }
}

fn likely_at(place: &'static str) -> (&'static str, LikelyForm) {
    let (purpose, colour) = likely(place);
    (place, LikelyForm { purpose: purpose.word(), colour })
}

/// What forms have to know.
pub fn forms() -> JobForms {
    let moving = |kind: MovingKind| {
        let (resistance_ohm, bounce_share) = kind.usual();
        MovingForm { bends: kind.bends(), resistance_ohm, bounce_share }
    };
    let form = |kind: VehicleKind, variant: Option<&str>| VehicleForm {
        flies: kind.flies(variant),
        hovers: kind.hovers(),
        frame_may_return: kind.frame_may_return(),
        lived_in: kind.lived_in(),
    };
    let of_vehicle = |kind: VehicleKind| {
        let each = variants(kind).iter().map(|one| (one.id.clone(), form(kind, Some(&one.id))));
        each.chain([(String::new(), form(kind, None))]).collect()
    };
    JobForms {
        remotes: RemoteKind::WORDS.iter().map(|(word, kind)| (*word, RemoteForm { idle_a: kind.usual_idle_a(), asks: kind.asks() })).collect(),
        wishes: CircuitKind::WORDS.iter().map(|(word, kind)| (*word, wishes(*kind))).collect(),
        circuits: CircuitKind::WORDS.iter().map(|(word, kind)| (*word, CircuitForm { about: kind.about(), alone: kind.most_lights() == 0 })).collect(),
        moves: MovingKind::WORDS.iter().map(|(word, kind)| (*word, moving(*kind))).collect(),
        vehicles: VehicleKind::WORDS.iter().map(|(word, kind)| (*word, of_vehicle(*kind))).collect(),
        lights: vec![
            LightForm { counted: true, ..light("leds", "Single LEDs (solder)", "led", None) },
            LightForm { cut: true, ..light("strip", "LED strip", "light", Some(LoadKind::Strip.word())) },
            LightForm { cut: true, ..light("pixels", "Colour-changing strip", "light", Some(LoadKind::Pixels.word())) },
            light("module", "Ready-made lamp (no soldering)", "light", Some(LoadKind::Module.word())),
            light("bulb", "Old-type bulb", "bulb", None),
        ],
        dials: &DIALS,
        time: TimeForm { weekday: "wednesday", start: "19:00", minutes: 120 },
        suppliers: ["converters", "junctions"],
        no_suppliers: [ConverterKind::CurrentDriver.word()],
        listens: PartPosition::LISTENS,
        viewpoints: Viewpoint::WORDS.iter().map(|(word, one)| ViewpointForm { word, called: one.called(), behind_m: one.behind_m() }).collect(),
        skies: Sky::WORDS.iter().map(|(word, one)| (*word, one.called())).collect(),
        likely: sheets().iter().flat_map(|sheet| &sheet.variants).flat_map(|form| &form.places).map(|place| likely_at(&place.name)).collect(),
        colours: colours(),
        sources: SourceKind::WORDS.iter().map(|(word, kind)| (*word, kind.noun())).collect(),
    }
}
