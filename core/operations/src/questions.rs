//! Questions about a document that is not kept: solved, judged, mended, added to, chosen for.

use crate::{Answer, DocumentRequest, Refusal, word_of};
use orthavis_core::arrives::{Arrives, arrives};
use orthavis_core::cautions::{Caution, cautions};
use orthavis_core::choose::size::Sized;
use orthavis_core::choose::{self, Choice};
#[cfg(feature = "schema")]
use orthavis_core::document::Part;
use orthavis_core::document::stands::{Stand, stands};
use orthavis_core::document::{Build, Chemistry, CircuitKind, Draw, VehicleKind, What, parse, parse_part, parse_value, patched, read_strict};
use orthavis_core::effect::{Effect, effect};
use orthavis_core::findings::{Card, Finding, Remedy};
use orthavis_core::mend::{MendedAll, Until, everything};
use orthavis_core::picture::{self, Picture, picture};
use orthavis_core::points::PointReport;
use orthavis_core::propose::{self, LightWish, PrintedBulb, Wish};
use orthavis_core::remove::{Removal, remove};
use orthavis_core::report::{Report, report, report_at_once};
use orthavis_core::resistor::Series;
use orthavis_core::sheet::{SourceSheet, source_sheet};
use orthavis_core::states::State as SourceState;
use orthavis_core::verdict::Verdict;
use orthavis_core::working::Fact;
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use std::collections::BTreeMap;

/// What a new build starts from.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Start {
    /// What to call it.
    pub name: String,
    /// Kind of vehicle.
    #[cfg_attr(feature = "schema", schema(value_type = VehicleKind))]
    pub vehicle: String,
    /// Which form of it, as in the reference; absent: the first.
    pub variant: Option<String>,
    /// Chemistry of the battery.
    #[cfg_attr(feature = "schema", schema(value_type = Chemistry))]
    pub chemistry: String,
    /// Cells in series.
    pub series: u32,
    /// Capacity of the whole pack, Ah.
    pub capacity_ah: f64,
}

/// A document with a battery, one scene and nothing lit yet. It is not kept until it is created.
pub fn starter(start: Start) -> Answer<Build> {
    let vehicle = word_of("vehicle", &start.vehicle, VehicleKind::WORDS)?;
    let chemistry = word_of("chemistry", &start.chemistry, Chemistry::WORDS)?;
    let build = propose::starter(&start.name, vehicle, start.variant.as_deref(), chemistry, start.series, start.capacity_ah);
    Ok(parse_value(&build.to_value())?)
}

/// A document to solve.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SolveRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// Scene of the picture; the first one by default.
    pub scene: Option<String>,
    /// State of the picture; the fullest one by default.
    #[cfg_attr(feature = "schema", schema(value_type = Option<SourceState>))]
    pub state: Option<String>,
}

/// A solved document, as much of it as a person looks at; the whole is at `/api/v1/report`.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Solved {
    /// The verdict.
    pub verdict: Verdict,
    /// Worst first; what mends them is at `/api/v1/remedies`.
    pub findings: Vec<Finding>,
    /// The findings as a person reads them: one cause, one card.
    pub cards: Vec<Card>,
    /// The states that this source is solved at, fullest first.
    pub states: Vec<SourceState>,
    /// Every feed in the scene and state of the picture: its current and its drop, each against what it may.
    pub feeds: BTreeMap<String, Vec<Fact>>,
    /// Absent when the build has no scene.
    pub picture: Option<Picture>,
    /// What empty fields stand for.
    pub stands: Vec<Stand>,
    /// What to know of the battery or rail.
    pub source: SourceSheet,
    /// What no figure shows, by step of the job.
    pub cautions: Vec<Caution>,
}

/// What is said of a document at every keystroke; the rest is at `/api/v1/solve`.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Judged {
    /// The verdict.
    pub verdict: Verdict,
    /// Worst first; what mends them is at `/api/v1/remedies`.
    pub findings: Vec<Finding>,
    /// The findings as a person reads them: one cause, one card.
    pub cards: Vec<Card>,
}

/// Judges a document without keeping it.
pub fn judge(request: DocumentRequest) -> Answer<Judged> {
    let Report { verdict, findings, cards, .. } = report_at_once(&parse(request.document.get())?)?;
    Ok(Judged { verdict, findings, cards })
}

fn solved(build: &Build, scene: Option<&str>, state: Option<&str>) -> Answer<Solved> {
    let state = state.map(|word| word_of("state", word, SourceState::WORDS)).transpose()?;
    let report = report_at_once(build)?;
    let states = build.states().to_vec();
    // A state that this source is not solved at, as after another battery was chosen, is shown as its fullest.
    let state = state.filter(|state| states.contains(state)).or(states.first().copied());
    let scene = build.scenes.iter().find(|s| Some(s.id.as_str()) == scene).or(build.scenes.first());
    let picture = scene.zip(state).and_then(|(scene, state)| picture(build, &report, &scene.id, state));
    let here = |point: &&PointReport| picture.as_ref().is_some_and(|p| p.scene == point.scene && p.state == point.state);
    let feeds = report.points.iter().find(here).map(|point| picture::feeds(build, point)).unwrap_or_default();
    let Report { verdict, findings, cards, .. } = report;
    Ok(Solved { verdict, findings, cards, states, feeds, picture, stands: stands(build), source: source_sheet(build), cautions: cautions(build) })
}

/// Solves a document without keeping it: what a person looks at, at once.
pub fn solve(request: SolveRequest) -> Answer<Solved> {
    solved(&parse(request.document.get())?, request.scene.as_deref(), request.state.as_deref())
}

/// What mends a card.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Mending {
    /// Code of the card.
    pub code: &'static str,
    /// Subject of its first finding.
    pub subject: String,
    /// Best first; each was tried, and clears all of it.
    pub remedies: Vec<Remedy>,
    /// What only the person can do about it.
    pub advice: Option<String>,
}

/// Tries what could mend a document's findings and says what does, card by card.
pub fn remedies(request: DocumentRequest) -> Answer<Vec<Mending>> {
    let cards = report(&parse(request.document.get())?)?.cards;
    Ok(cards.into_iter().map(|Card { code, subject, remedies, advice, .. }| Mending { code, subject, remedies, advice }).collect())
}

/// A short list of changes after which nothing stands against building it, and what only the person can do for the
/// rest.
pub fn mend(request: MendRequest) -> Answer<MendedAll> {
    Ok(everything(&parse(request.document.get())?, request.until())?)
}

/// A document that is to be mended.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MendRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// Whether what is wrong without being a danger is mended too.
    #[serde(default)]
    pub and_fixes: bool,
}

impl MendRequest {
    /// How far it goes.
    pub fn until(&self) -> Until {
        if self.and_fixes { Until::Sound } else { Until::Safe }
    }
}

/// The whole report `orthavis.report/1` of a document.
pub fn whole_report(request: DocumentRequest) -> Answer<Report> {
    Ok(report(&parse(request.document.get())?)?)
}

/// A document and RFC 6902 changes to it.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ApplyRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// RFC 6902 operations.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<Object>))]
    pub changes: json_patch::Patch,
}

/// A changed document and what the change does.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Applied {
    /// The build.
    pub document: Build,
    /// What the change does.
    pub effect: Effect,
}

/// Applies changes to a document, without keeping it, and says what they do.
pub fn apply(request: ApplyRequest) -> Answer<Applied> {
    let before = parse(request.document.get())?;
    let value = patched(&before.to_value(), &request.changes)?;
    let after = parse_value(&value)?;
    let effect = effect(&report_at_once(&before)?, &report_at_once(&after)?);
    Ok(Applied { document: after, effect })
}

/// A part to add.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Addition {
    /// A step-down module set to this voltage.
    StepDown {
        /// Output, V.
        set_v: f64,
    },
    /// A converter of the library or of a person's own.
    Converter {
        /// The part.
        #[cfg_attr(feature = "schema", schema(value_type = Part))]
        part: serde_json::Value,
        /// `source`, a converter or a junction.
        from: String,
    },
    /// Single LEDs of a usual colour, arranged for their supply.
    Leds {
        /// Colour by name.
        colour: String,
        /// How many.
        count: u32,
        /// Where.
        place: String,
        /// `source`, a converter or a junction; absent: whatever fits.
        from: Option<String>,
        /// Wire, one way, m.
        length_m: f64,
    },
    /// A light of the library or of a person's own: LEDs, strip, pixels, module or bulb.
    Light {
        /// The part.
        #[cfg_attr(feature = "schema", schema(value_type = Part))]
        part: serde_json::Value,
        /// Single LEDs or pixels: how many.
        count: Option<u32>,
        /// Strip or pixels: how long, m.
        piece_m: Option<f64>,
        /// Where.
        place: String,
        /// `source`, a converter or a junction; absent: whatever fits.
        from: Option<String>,
        /// Wire, one way, m.
        length_m: f64,
    },
    /// A copy of a light.
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
        #[cfg_attr(feature = "schema", schema(value_type = CircuitKind))]
        circuit: String,
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
    OwnBulb {
        /// How it draws.
        #[cfg_attr(feature = "schema", schema(value_type = Draw))]
        draw: String,
        /// The holder it fits.
        holder: String,
        /// V.
        volts: f64,
        /// W.
        watts: f64,
        /// lm.
        lumens: f64,
        /// Colour temperature, K.
        colour_k: f64,
    },
    /// A pack of the library or of a person's own in the battery's place; how it is tapped and used stays.
    Pack {
        /// The part.
        #[cfg_attr(feature = "schema", schema(value_type = Part))]
        part: serde_json::Value,
    },
    /// An existing regulated rail instead of the battery.
    Rail,
}

fn wish_of(addition: Addition) -> Answer<Wish> {
    let misplaced = |wants: &str| Refusal::new("part", "Another kind of part", format!("This place is for {wants}; choose one."));
    Ok(match addition {
        Addition::StepDown { set_v } => Wish::StepDown { set_v },
        Addition::CopyLight { id } => Wish::CopyLight { id },
        Addition::Junction { from } => Wish::Junction { from },
        Addition::Circuit { circuit, light } => Wish::Circuit { kind: word_of("circuit", &circuit, CircuitKind::WORDS)?, light },
        Addition::Controller { from } => Wish::Controller { from },
        Addition::Scene { like } => Wish::Scene { like },
        Addition::Standing => Wish::Standing,
        Addition::Bulbs { part } => Wish::Bulbs { part },
        Addition::OwnBulb { draw, holder, volts, watts, lumens, colour_k } => {
            let draw = word_of("draw", &draw, Draw::WORDS)?;
            Wish::OwnBulb(PrintedBulb { draw, holder, volts, watts, lumens, colour_k })
        }
        Addition::Pack { part } => match parse_part(&part)?.what {
            What::Battery { battery } => Wish::Pack { battery: Box::new(battery) },
            _ => return Err(misplaced("a battery")),
        },
        Addition::Rail => Wish::Rail,
        Addition::Leds { colour, count, place, from, length_m } => {
            Wish::Light { what: LightWish::Leds { led: propose::usual_led(&colour)?, count }, place, from, wire_m: length_m }
        }
        Addition::Converter { part, from } => match parse_part(&part)?.what {
            What::Converter { figures } => Wish::Converter { figures: Box::new(figures), from },
            _ => return Err(misplaced("a converter")),
        },
        Addition::Light { part, count, piece_m, place, from, length_m } => {
            let what = LightWish::of(parse_part(&part)?, count, piece_m).ok_or_else(|| misplaced("a light"))?;
            Wish::Light { what, place, from, wire_m: length_m }
        }
    })
}

/// A document and a part to add to it.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AddRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// The part.
    #[cfg_attr(feature = "schema", schema(value_type = Addition))]
    pub part: Box<RawValue>,
}

/// Adds a part with sensible figures, without keeping the document.
pub fn add(request: AddRequest) -> Answer<Build> {
    let build = parse(request.document.get())?;
    let unread = |error: serde_json::Error| Refusal::new("part", "The part cannot be read", format!("{error}. Mend the field it names."));
    let wish = wish_of(serde_json::from_value(read_strict(request.part.get())?).map_err(unread)?)?;
    Ok(parse_value(&propose::add(&build, &wish)?.to_value())?)
}

/// What would come with a part that is added, and what it asks; nothing is changed.
pub fn adding(request: AddRequest) -> Answer<Arrives> {
    let before = parse(request.document.get())?;
    Ok(arrives(&before, &add(request)?))
}

/// A part to take out.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", content = "id", rename_all = "snake_case")]
pub enum Taken {
    /// A light: it leaves every scene, and a driver that fed nothing else leaves with it.
    Light(String),
    /// A converter: what it fed falls back on what fed it.
    Converter(String),
    /// A junction: what it fed falls back on what fed it.
    Junction(String),
    /// A small circuit: what it drove falls back on what fed it.
    Circuit(String),
    /// A controller.
    Controller(String),
    /// A load that is always there.
    Standing(String),
    /// A scene, with its minutes of an outing.
    Scene(String),
    /// Bulbs of the audit.
    Bulbs(String),
}

/// A document and a part to take out of it.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RemoveRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// The part.
    pub part: Taken,
}

/// Takes a part out with what belongs to it, without keeping the document.
pub fn take_out(request: RemoveRequest) -> Answer<Build> {
    let what = match request.part {
        Taken::Light(id) => Removal::Light(id),
        Taken::Converter(id) => Removal::Converter(id),
        Taken::Junction(id) => Removal::Junction(id),
        Taken::Circuit(id) => Removal::Circuit(id),
        Taken::Controller(id) => Removal::Controller(id),
        Taken::Standing(id) => Removal::Standing(id),
        Taken::Scene(id) => Removal::Scene(id),
        Taken::Bulbs(id) => Removal::Bulbs(id),
    };
    Ok(remove(&parse(request.document.get())?, &what)?)
}

/// What a helper is asked about a part of a document.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Question {
    /// How to arrange the LEDs of a light.
    Strings {
        /// Id of the light.
        light: String,
        /// `e12` or `e24`.
        #[cfg_attr(feature = "schema", schema(value_type = Series))]
        series: String,
    },
    /// How to power a light.
    Supply {
        /// Which.
        light: String,
    },
    /// How thick a feed's wire has to be.
    Wire {
        /// Which.
        feed: String,
    },
    /// Which fuse a feed wants.
    Fuse {
        /// Which.
        feed: String,
    },
    /// How much strip fits and where to feed it.
    Strip {
        /// Id of the light.
        light: String,
        /// What the string along the frame measured, m; absent: as long as it is.
        measured_m: Option<f64>,
    },
    /// How to cut a strip's segments again for what feeds it.
    Recut {
        /// Which.
        light: String,
    },
    /// How many pixels the supply carries, and how bright.
    Pixels {
        /// Which.
        light: String,
    },
}

/// A document and a question about it.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ChooseRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// The question.
    pub question: Question,
}

/// The ways there are, best first, each with its figures and the change that takes it over.
pub fn choose(request: ChooseRequest) -> Answer<Vec<Choice>> {
    let build = parse(request.document.get())?;
    let choices = match request.question {
        Question::Strings { light, series } => {
            let series = word_of("series", &series, Series::WORDS)?;
            choose::strings::for_light(&build, &light, series)
        }
        Question::Supply { light } => choose::supply::for_light(&build, &light),
        Question::Wire { feed } => choose::wire::for_feed(&build, &feed),
        Question::Fuse { feed } => choose::fuse::for_feed(&build, &feed),
        Question::Strip { light, measured_m } => choose::strip::for_light(&build, &light, measured_m),
        Question::Recut { light } => choose::recut::for_light(&build, &light),
        Question::Pixels { light } => choose::pixels::for_light(&build, &light),
    };
    Ok(choices?)
}

/// Gauges and fuses for every feed at once.
pub fn size(request: DocumentRequest) -> Answer<Sized> {
    Ok(choose::size::everything(&parse(request.document.get())?)?)
}
