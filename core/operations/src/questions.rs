//! Questions about a document that is not kept: solved, judged, mended, added to, chosen for.

use crate::{Answer, DocumentRequest, Refusal, word_of};
use orthavis_core::arrives::{Arrives, arrives};
use orthavis_core::cautions::{Caution, cautions};
use orthavis_core::choose::size::Sized;
use orthavis_core::choose::{self, Choice};
use orthavis_core::document::stands::{Stand, stands};
use orthavis_core::document::{Build, Chemistry, VehicleKind, parse, parse_value, patched, read_strict};
use orthavis_core::effect::{Effect, effect};
use orthavis_core::findings::{Card, Finding, Remedy};
use orthavis_core::mend::{MendedAll, Until, everything};
use orthavis_core::picture::{self, Picture, picture};
use orthavis_core::points::PointReport;
use orthavis_core::propose::{self, Wish};
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

/// A document and a part to add to it.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AddRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// The part.
    #[cfg_attr(feature = "schema", schema(value_type = Wish))]
    pub part: Box<RawValue>,
}

/// Adds a part with sensible figures, without keeping the document.
pub fn add(request: AddRequest) -> Answer<Build> {
    let build = parse(request.document.get())?;
    let unread = |error: serde_json::Error| Refusal::new("part", "The part cannot be read", format!("{error}. Mend the field it names."));
    let wish: Wish = serde_json::from_value(read_strict(request.part.get())?).map_err(unread)?;
    Ok(parse_value(&propose::add(&build, &wish)?.to_value())?)
}

/// What would come with a part that is added, and what it asks; nothing is changed.
pub fn adding(request: AddRequest) -> Answer<Arrives> {
    let before = parse(request.document.get())?;
    Ok(arrives(&before, &add(request)?))
}

/// A document and a part to take out of it.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RemoveRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// The part.
    pub part: Removal,
}

/// Takes a part out with what belongs to it, without keeping the document.
pub fn take_out(request: RemoveRequest) -> Answer<Build> {
    Ok(remove(&parse(request.document.get())?, &request.part)?)
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
    /// How bright a light should look.
    Looks {
        /// Which.
        light: String,
        /// In which scene; the first by default.
        scene: Option<String>,
        /// 0 to 1: half is half as bright to the eye.
        looks: f64,
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
        Question::Looks { light, scene, looks } => choose::looks::for_light(&build, &light, scene.as_deref(), looks),
    };
    Ok(choices?)
}

/// Gauges and fuses for every feed at once.
pub fn size(request: DocumentRequest) -> Answer<Sized> {
    Ok(choose::size::everything(&parse(request.document.get())?)?)
}
