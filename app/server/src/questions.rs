//! Questions about a document that is not kept: solved, judged, mended, added to, chosen for.

use crate::compute::Hands;
use crate::problem::{Answer, Problem};
use crate::request::{Body, DocumentRequest, word_of};
use crate::workshop::Workshop;
use axum::Json;
use axum::http::StatusCode;
use orthavis_core::cautions::{Caution, cautions};
use orthavis_core::choose::size::Sized;
use orthavis_core::choose::{self, Choice};
use orthavis_core::document::stands::{Stand, stands};
use orthavis_core::document::{Build, Chemistry, Draw, Part, VehicleKind, What, parse, parse_part, parse_value, patched, read_strict};
use orthavis_core::effect::{Effect, effect};
use orthavis_core::findings::{Card, Finding, Remedy};
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
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// The paths of this module.
pub(crate) fn router() -> OpenApiRouter<Workshop> {
    OpenApiRouter::new()
        .routes(routes!(starter))
        .routes(routes!(solve))
        .routes(routes!(remedies))
        .routes(routes!(whole_report))
        .routes(routes!(apply))
        .routes(routes!(add))
        .routes(routes!(take_out))
        .routes(routes!(choose))
        .routes(routes!(size))
}

/// What a new build starts from.
#[derive(Deserialize, ToSchema)]
struct Start {
    name: String,
    #[schema(value_type = VehicleKind)]
    vehicle: String,
    /// Which form of it, as in the reference; absent: the first.
    variant: Option<String>,
    #[schema(value_type = Chemistry)]
    chemistry: String,
    /// Cells in series.
    series: u32,
    /// Capacity of the whole pack, Ah.
    capacity_ah: f64,
}

/// A document with a battery, one scene and nothing lit yet. It is not kept until it is created.
#[utoipa::path(post, path = "/api/v1/starter", request_body = Start, responses((status = 200, body = Build), (status = 422, body = Problem)))]
async fn starter(Body(start): Body<Start>) -> Answer<Json<Build>> {
    let vehicle = word_of("vehicle", &start.vehicle, VehicleKind::WORDS)?;
    let chemistry = word_of("chemistry", &start.chemistry, Chemistry::WORDS)?;
    let build = propose::starter(&start.name, vehicle, start.variant.as_deref(), chemistry, start.series, start.capacity_ah);
    Ok(Json(parse_value(&build.to_value())?))
}

/// A document to solve.
#[derive(Deserialize, ToSchema)]
struct SolveRequest {
    #[schema(value_type = Build)]
    document: Box<RawValue>,
    /// Scene of the picture; the first one by default.
    scene: Option<String>,
    /// State of the picture; the fullest one by default.
    #[schema(value_type = Option<SourceState>)]
    state: Option<String>,
}

/// A solved document, as much of it as a person looks at; the whole is at `/api/v1/report`.
#[derive(Serialize, ToSchema)]
struct Solved {
    verdict: Verdict,
    /// Worst first; what mends them is at `/api/v1/remedies`.
    findings: Vec<Finding>,
    /// The findings as a person reads them: one cause, one card.
    cards: Vec<Card>,
    /// The states that this source is solved at, fullest first.
    states: Vec<SourceState>,
    /// Every feed in the scene and state of the picture: its current and its drop, each against what it may.
    feeds: BTreeMap<String, Vec<Fact>>,
    /// Absent when the build has no scene.
    picture: Option<Picture>,
    /// What empty fields stand for.
    stands: Vec<Stand>,
    /// What to know of the battery or rail.
    source: SourceSheet,
    /// What no figure shows, by step of the job.
    cautions: Vec<Caution>,
}

fn solved(build: &Build, scene: Option<&str>, state: Option<&str>) -> Answer<Solved> {
    let state = state.map(|word| word_of("state", word, SourceState::WORDS)).transpose()?;
    let report = report_at_once(build)?;
    let states = build.source.states().to_vec();
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
#[utoipa::path(post, path = "/api/v1/solve", request_body = SolveRequest, responses((status = 200, body = Solved), (status = 422, body = Problem)))]
async fn solve(hands: Hands, Body(request): Body<SolveRequest>) -> Answer<Json<Solved>> {
    hands.compute(move || Ok(Json(solved(&parse(request.document.get())?, request.scene.as_deref(), request.state.as_deref())?))).await
}

/// What mends a card.
#[derive(Serialize, ToSchema)]
struct Mending {
    /// Code of the card.
    code: &'static str,
    /// Subject of its first finding.
    subject: String,
    /// Best first; each was tried, and clears all of it.
    remedies: Vec<Remedy>,
    /// What only the person can do about it.
    advice: Option<String>,
}

/// Tries what could mend a document's findings and says what does, card by card.
#[utoipa::path(post, path = "/api/v1/remedies", request_body = DocumentRequest, responses((status = 200, body = Vec<Mending>), (status = 422, body = Problem)))]
async fn remedies(hands: Hands, Body(request): Body<DocumentRequest>) -> Answer<Json<Vec<Mending>>> {
    hands
        .compute(move || {
            let cards = report(&parse(request.document.get())?)?.cards;
            Ok(Json(cards.into_iter().map(|Card { code, subject, remedies, advice, .. }| Mending { code, subject, remedies, advice }).collect()))
        })
        .await
}

/// The whole report `orthavis.report/1` of a document.
#[utoipa::path(post, path = "/api/v1/report", request_body = DocumentRequest, responses((status = 200, body = Report), (status = 422, body = Problem)))]
async fn whole_report(hands: Hands, Body(request): Body<DocumentRequest>) -> Answer<Json<Report>> {
    hands.compute(move || Ok(Json(report(&parse(request.document.get())?)?))).await
}

/// A document and RFC 6902 changes to it.
#[derive(Deserialize, ToSchema)]
struct ApplyRequest {
    #[schema(value_type = Build)]
    document: Box<RawValue>,
    #[schema(value_type = Vec<Object>)]
    changes: json_patch::Patch,
}

/// A changed document and what the change does.
#[derive(Serialize, ToSchema)]
struct Applied {
    document: Build,
    effect: Effect,
}

/// Applies changes to a document, without keeping it, and says what they do.
#[utoipa::path(post, path = "/api/v1/apply", request_body = ApplyRequest, responses((status = 200, body = Applied), (status = 422, body = Problem)))]
async fn apply(hands: Hands, Body(request): Body<ApplyRequest>) -> Answer<Json<Applied>> {
    hands
        .compute(move || {
            let before = parse(request.document.get())?;
            let value = patched(&before.to_value(), &request.changes)?;
            let after = parse_value(&value)?;
            let effect = effect(&report_at_once(&before)?, &report_at_once(&after)?);
            Ok(Json(Applied { document: after, effect }))
        })
        .await
}

/// A part to add.
#[derive(Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
enum Addition {
    /// A step-down module set to this voltage.
    StepDown {
        /// Output, V.
        set_v: f64,
    },
    /// A converter of the library or of a person's own.
    Converter {
        #[schema(value_type = Part)]
        part: serde_json::Value,
        /// `source`, a converter or a junction.
        from: String,
    },
    /// Single LEDs of a usual colour, arranged for their supply.
    Leds {
        colour: String,
        count: u32,
        place: String,
        /// `source`, a converter or a junction; absent: whatever fits.
        from: Option<String>,
        /// Wire, one way, m.
        length_m: f64,
    },
    /// A light of the library or of a person's own: LEDs, strip, pixels, module or bulb.
    Light {
        #[schema(value_type = Part)]
        part: serde_json::Value,
        /// Single LEDs or pixels: how many.
        count: Option<u32>,
        /// Strip or pixels: how long, m.
        piece_m: Option<f64>,
        place: String,
        /// `source`, a converter or a junction; absent: whatever fits.
        from: Option<String>,
        /// Wire, one way, m.
        length_m: f64,
    },
    /// A copy of a light.
    CopyLight { id: String },
    /// A point where one feed becomes several.
    Junction {
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
        #[schema(value_type = Draw)]
        draw: String,
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
        #[schema(value_type = Part)]
        part: serde_json::Value,
    },
    /// An existing regulated rail instead of the battery.
    Rail,
}

fn wish_of(addition: Addition) -> Answer<Wish> {
    let misplaced =
        |wants: &str| Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "part", "Another kind of part", format!("This place is for {wants}; choose one."));
    Ok(match addition {
        Addition::StepDown { set_v } => Wish::StepDown { set_v },
        Addition::CopyLight { id } => Wish::CopyLight { id },
        Addition::Junction { from } => Wish::Junction { from },
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
#[derive(Deserialize, ToSchema)]
struct AddRequest {
    #[schema(value_type = Build)]
    document: Box<RawValue>,
    #[schema(value_type = Addition)]
    part: Box<RawValue>,
}

/// Adds a part with sensible figures, without keeping the document.
#[utoipa::path(post, path = "/api/v1/add", request_body = AddRequest, responses((status = 200, body = Build), (status = 422, body = Problem)))]
async fn add(hands: Hands, Body(request): Body<AddRequest>) -> Answer<Json<Build>> {
    hands
        .compute(move || {
            let build = parse(request.document.get())?;
            let unread = |error: serde_json::Error| {
                Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "part", "The part cannot be read", format!("{error}. Mend the field it names."))
            };
            let wish = wish_of(serde_json::from_value(read_strict(request.part.get())?).map_err(unread)?)?;
            Ok(Json(parse_value(&propose::add(&build, &wish)?.to_value())?))
        })
        .await
}

/// A part to take out.
#[derive(Deserialize, ToSchema)]
#[serde(tag = "kind", content = "id", rename_all = "snake_case")]
enum Taken {
    /// A light: it leaves every scene, and a driver that fed nothing else leaves with it.
    Light(String),
    /// A converter: what it fed falls back on what fed it.
    Converter(String),
    /// A junction: what it fed falls back on what fed it.
    Junction(String),
    /// A load that is always there.
    Standing(String),
    /// A scene, with its minutes of an outing.
    Scene(String),
    /// Bulbs of the audit.
    Bulbs(String),
}

/// A document and a part to take out of it.
#[derive(Deserialize, ToSchema)]
struct RemoveRequest {
    #[schema(value_type = Build)]
    document: Box<RawValue>,
    part: Taken,
}

/// Takes a part out with what belongs to it, without keeping the document.
#[utoipa::path(post, path = "/api/v1/remove", request_body = RemoveRequest, responses((status = 200, body = Build), (status = 422, body = Problem)))]
async fn take_out(hands: Hands, Body(request): Body<RemoveRequest>) -> Answer<Json<Build>> {
    hands
        .compute(move || {
            let what = match request.part {
                Taken::Light(id) => Removal::Light(id),
                Taken::Converter(id) => Removal::Converter(id),
                Taken::Junction(id) => Removal::Junction(id),
                Taken::Standing(id) => Removal::Standing(id),
                Taken::Scene(id) => Removal::Scene(id),
                Taken::Bulbs(id) => Removal::Bulbs(id),
            };
            Ok(Json(remove(&parse(request.document.get())?, &what)?))
        })
        .await
}

/// What a helper is asked about a part of a document.
#[derive(Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
enum Question {
    /// How to arrange the LEDs of a light.
    Strings {
        light: String,
        /// `e12` or `e24`.
        #[schema(value_type = Series)]
        series: String,
    },
    /// How to power a light.
    Supply { light: String },
    /// How thick a feed's wire has to be.
    Wire { feed: String },
    /// Which fuse a feed wants.
    Fuse { feed: String },
    /// How much strip fits and where to feed it.
    Strip {
        light: String,
        /// What the string along the frame measured, m; absent: as long as it is.
        measured_m: Option<f64>,
    },
    /// How many pixels the supply carries, and how bright.
    Pixels { light: String },
}

/// A document and a question about it.
#[derive(Deserialize, ToSchema)]
struct ChooseRequest {
    #[schema(value_type = Build)]
    document: Box<RawValue>,
    question: Question,
}

/// The ways there are, best first, each with its figures and the change that takes it over.
#[utoipa::path(post, path = "/api/v1/choose", request_body = ChooseRequest, responses((status = 200, body = Vec<Choice>), (status = 422, body = Problem)))]
async fn choose(hands: Hands, Body(request): Body<ChooseRequest>) -> Answer<Json<Vec<Choice>>> {
    hands
        .compute(move || {
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
                Question::Pixels { light } => choose::pixels::for_light(&build, &light),
            };
            Ok(Json(choices?))
        })
        .await
}

/// Gauges and fuses for every feed at once.
#[utoipa::path(post, path = "/api/v1/size", request_body = DocumentRequest, responses((status = 200, body = Sized), (status = 422, body = Problem)))]
async fn size(hands: Hands, Body(request): Body<DocumentRequest>) -> Answer<Json<Sized>> {
    hands.compute(move || Ok(Json(choose::size::everything(&parse(request.document.get())?)?))).await
}
