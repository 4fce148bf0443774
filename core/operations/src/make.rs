//! Making: steps and when, what is cut from what, what is bought.

use crate::bench::{scene_of, state_of};
use crate::{Answer, DocumentRequest, Refusal};
use orthavis_core::budget;
use orthavis_core::document::{Build, parse};
use orthavis_core::findings::Severity;
use orthavis_core::fixing::{Protection, Ranked, Site, chosen, protection, ranked, workshop_c};
use orthavis_core::make::balance::{Balance, balance};
use orthavis_core::make::calendar::calendar;
use orthavis_core::make::cuts::{CutList, cuts};
use orthavis_core::make::diagram::{Diagram, diagram, dot};
use orthavis_core::make::fit::{Fit, fit};
use orthavis_core::make::labels::{Label, labels};
use orthavis_core::make::parts::{PartsList, parts};
use orthavis_core::make::schedule::{Plan, Standing, plan};
use orthavis_core::make::steps::{Step, steps};
use orthavis_core::make::tables::{of_cuts, of_fit, of_parts, of_steps};
use orthavis_core::moment::day_of;
use orthavis_core::netlist::netlist;
use orthavis_core::points::{PointError, points};
use orthavis_core::report::report_at_once;
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use std::collections::BTreeMap;

/// A step that is done.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StepDone {
    /// Its id.
    pub step: String,
    /// When, minutes from the midnight with which `day` begins.
    pub at: f64,
}

/// Where the work stands.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MakeRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// The day from whose midnight minutes count, as in `2026-11-27`: the first of the work where the build names none.
    pub day: String,
    /// Now, in those minutes.
    #[serde(default)]
    pub now: f64,
    /// Steps that are done.
    #[serde(default)]
    pub done: Vec<StepDone>,
}

/// How a part is fixed.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FixingOf {
    /// The light, converter or junction.
    pub part: String,
    /// Every way, best first.
    pub ways: Vec<Ranked>,
    /// What protects it.
    pub protection: Protection,
    /// Why that.
    pub why: &'static str,
}

/// The steps of a build and when they are done.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Made {
    /// Ids of all steps by when they come in a plan from the beginning: what is ticked changes no number.
    pub order: Vec<String>,
    /// Every step, each after all that it waits for.
    pub steps: Vec<Step>,
    /// Those that are not done, over the evenings.
    pub plan: Plan,
    /// Titles of what stands against building it: steps that want a safe build wait for them.
    pub stops: Vec<String>,
    /// How parts are fixed.
    pub fixings: Vec<FixingOf>,
}

struct Asked {
    build: Build,
    steps: Vec<Step>,
    plan: Plan,
}

fn asked(request: &MakeRequest) -> Answer<Asked> {
    let build = parse(request.document.get())?;
    let Some(day) = day_of(&request.day) else {
        return Err(Refusal::new("day", "No such day", format!("`day` is `{}`, which is not a date. Write it as 2026-11-27.", request.day)));
    };
    let wrong = |minutes: f64| !minutes.is_finite() || minutes.abs() > 5e7;
    if wrong(request.now) || request.done.iter().any(|done| wrong(done.at)) {
        return Err(Refusal::new("now", "No such time", "`now` and `at` are minutes from the midnight of `day`. Give a number of at most a hundred years."));
    }
    let first = build.make.as_ref().and_then(|make| make.begins.as_deref()).and_then(day_of).unwrap_or(day);
    let shift = 1440.0 * (day - first) as f64;
    let steps = steps(&build);
    // Laying them out grows with their square.
    let work = (steps.len() as u64).pow(2) / 5;
    budget::spend(work).map_err(|why| Refusal::stopped(why, &format!("{} steps of making", steps.len())))?;
    let done = request.done.iter().filter(|done| steps.iter().any(|step| step.id == done.step)).map(|done| (done.step.clone(), done.at + shift)).collect();
    let standing = Standing { begins: day, now: request.now + shift, done };
    let plan = plan(&build, &steps, &standing);
    Ok(Asked { build, steps, plan })
}

/// Every step of a build, laid over the evenings that there are.
pub fn made(request: MakeRequest) -> Answer<Made> {
    let Asked { build, steps, plan } = asked(&request)?;
    // What has no steady state is not safe to build either.
    let stops = match report_at_once(&build) {
        Ok(report) => report.cards.into_iter().filter(|card| card.severity == Severity::Stop).map(|card| card.title).collect(),
        Err(error) => vec![error.to_string()],
    };
    let ids: Vec<&String> =
        (build.lights.iter().map(|one| &one.id)).chain(build.converters.iter().map(|one| &one.id)).chain(build.junctions.iter().map(|one| &one.id)).collect();
    let fixings = ids
        .into_iter()
        .map(|part| {
            let site = Site::of(&build, part);
            let (protection, why) = protection(&site);
            let mut ways = ranked(&site, workshop_c(&build));
            // What was decided comes first.
            let decided = chosen(&build, part);
            ways.sort_by_key(|way| way.fixing != decided);
            FixingOf { part: part.clone(), ways, protection, why }
        })
        .collect();
    // A Thursday long ago: the same order on every day.
    let fresh = orthavis_core::make::schedule::plan(&build, &steps, &Standing { begins: 0, now: 0.0, done: BTreeMap::new() });
    let order = fresh.placed.into_iter().map(|one| one.step).collect();
    Ok(Made { steps, order, plan, stops, fixings })
}

/// The same as a calendar.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CalendarRequest {
    /// Where the work stands.
    pub work: MakeRequest,
    /// When the file is made, as `20261127T180000Z`.
    pub made: String,
}

/// The plan as an iCalendar file (RFC 5545).
pub fn as_calendar(request: CalendarRequest) -> Answer<String> {
    let made = &request.made;
    let digits = made.len() == 16
        && made.char_indices().all(|(at, letter)| match at {
            8 => letter == 'T',
            15 => letter == 'Z',
            _ => letter.is_ascii_digit(),
        });
    if !digits {
        return Err(Refusal::new("made", "No such moment", "`made` is the moment at which the file is made. Write it as 20261127T180000Z."));
    }
    let Asked { build, steps, plan } = asked(&request.work)?;
    Ok(calendar(&build.name, &plan, &steps, made))
}

/// Every piece of wire and strip, and which roll it comes off.
pub fn cut_list(request: DocumentRequest) -> Answer<CutList> {
    Ok(cuts(&request.build()?))
}

/// A build and what lies in the drawer.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PartsRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// How many, or how many metres, of each are in the drawer, by the names of the list.
    #[serde(default)]
    pub stock: BTreeMap<String, f64>,
}

impl PartsRequest {
    fn list(&self) -> Answer<(Build, PartsList)> {
        let build = parse(self.document.get())?;
        if let Some((of, count)) = self.stock.iter().find(|(_, count)| !count.is_finite() || **count < 0.0) {
            return Err(Refusal::new("stock", "No such stock", format!("`stock` has {count} of `{of}`. Give 0 or more.")));
        }
        let steps = steps(&build);
        let list = parts(&build, &steps, &self.stock);
        Ok((build, list))
    }
}

/// What the build takes, what is there and what is to be bought.
pub fn parts_list(request: PartsRequest) -> Answer<PartsList> {
    Ok(request.list()?.1)
}

/// A build, what lies in the drawer, and a table.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MakeTableRequest {
    /// Build and drawer.
    pub of: PartsRequest,
    /// `steps`, `cuts`, `parts` or `fit`.
    pub table: String,
}

/// One of the lists as CSV (RFC 4180, UTF-8).
pub fn as_csv(request: MakeTableRequest) -> Answer<String> {
    let (build, list) = request.of.list()?;
    match request.table.as_str() {
        "steps" => Ok(of_steps(&steps(&build)).csv()),
        "cuts" => Ok(of_cuts(&cuts(&build)).csv()),
        "parts" => Ok(of_parts(&list).csv()),
        "fit" => Ok(of_fit(&fit_of(&build)?).csv()),
        other => Err(Refusal::new("table", "No such table", format!("`{other}` is not a table of making. Name `steps`, `cuts`, `parts` or `fit`."))),
    }
}

/// The wiring diagram, laid out.
pub fn drawn(request: DocumentRequest) -> Answer<Diagram> {
    Ok(diagram(&request.build()?))
}

/// The wiring diagram as a drawing for paper (SVG 1.1).
pub fn as_svg(request: DocumentRequest) -> Answer<String> {
    let build = request.build()?;
    Ok(diagram(&build).svg(&build.name))
}

/// A label for every wire end and every part.
pub fn flags(request: DocumentRequest) -> Answer<Vec<Label>> {
    Ok(labels(&request.build()?))
}

/// What goes where, and what it weighs.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Fitted {
    /// Which part goes into which cavity.
    pub fit: Fit,
    /// Mass and balance; `null` where nobody said where anything sits and it does not fly.
    pub balance: Option<Balance>,
}

/// Comparisons of boxes are quick beside the other steps of a budget.
const FIT_WORK: u64 = 20_000;

fn fit_of(build: &Build) -> Answer<Fit> {
    if build.make.as_ref().is_none_or(|make| make.spaces.is_empty()) {
        return Ok(fit(build, &[]));
    }
    budget::spend(FIT_WORK).map_err(|why| Refusal::stopped(why, "parts and cavities"))?;
    Ok(fit(build, &points(build)?))
}

/// Which part goes into which cavity, and where the plan moves the centre of mass.
pub fn fitted(request: DocumentRequest) -> Answer<Fitted> {
    let build = request.build()?;
    Ok(Fitted { fit: fit_of(&build)?, balance: balance(&build) })
}

/// The connections as a graph (the DOT language).
pub fn as_dot(request: DocumentRequest) -> Answer<String> {
    Ok(dot(&request.build()?))
}

/// A scene at a state.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NetlistRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// Scene id.
    pub scene: String,
    /// State of the source; `null`: the fullest.
    #[serde(default)]
    pub state: Option<String>,
}

/// The build as SPICE text, for a general circuit simulator.
pub fn as_netlist(request: NetlistRequest) -> Answer<String> {
    let build = parse(request.document.get())?;
    let scene = scene_of(&build, &request.scene)?;
    let state = state_of(&build, request.state.as_deref())?;
    Ok(netlist(&build, scene, state).map_err(|error| PointError { scene: scene.id.clone(), state, error })?)
}
