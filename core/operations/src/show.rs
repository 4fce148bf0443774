//! Shows: what a scene does over time, what it takes, what arrives of it, and the show for other programs.

use crate::bench::scene_of;
use crate::{Answer, DocumentRequest, Refusal};
use orthavis_core::budget;
use orthavis_core::document::{Build, Fault, Load, Scene, ShowInput, parse};
use orthavis_core::effects::Inputs;
use orthavis_core::pixels_over_time::{Show, extent};
use orthavis_core::show::arrives::{Arrived, arrived};
use orthavis_core::show::cards::{Cards, InputCard, cards};
use orthavis_core::show::fits::{Fits, fits};
pub use orthavis_core::show::frames::FrameCodes;
use orthavis_core::show::frames::{frames, table};
use orthavis_core::show::map::{ChainMap, chain_maps, map};
use orthavis_core::show::play::{Played, most_speed, played};
use orthavis_core::show::power::{Course, ShowPower, course, power};
use orthavis_core::show::sort::{FirstRun, SawRed, first_run};
use orthavis_core::show::source::source;
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use std::collections::BTreeMap;

/// Frames of one answer.
const MOST_FRAMES: usize = 4000;
/// Pixels of all frames of one answer.
const MOST_PIXELS: usize = 4_000_000;
/// Pixels that are worked out in one step of a budget.
const A_STEP: u64 = 20;

/// What an input says.
#[derive(Clone, Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = InputSays))]
#[serde(untagged)]
pub enum Says {
    /// A share, 0 to 1.
    Share(f64),
    /// One of its words.
    Word(String),
}

/// A scene as it is played.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ShowRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// Scene id.
    pub scene: String,
    /// What inputs say, by name: a share, 0 to 1, or a word; those that are not named say the usual.
    #[serde(default)]
    pub inputs: BTreeMap<String, Says>,
    /// The first moment, s.
    #[serde(default)]
    pub from_s: f64,
    /// From moment to moment, s.
    #[serde(default = "usual_step")]
    pub step_s: f64,
    /// How many moments.
    #[serde(default = "one")]
    pub frames: usize,
    /// Moments, s, in place of evenly spaced ones; for the show as JSON or CSV.
    #[serde(default)]
    pub times_s: Option<Vec<f64>>,
    /// With what arrives of it.
    #[serde(default)]
    pub delivered: bool,
}

fn usual_step() -> f64 {
    0.02
}

fn one() -> usize {
    1
}

fn refused(pointer: &str, problem: String, remedy: &str) -> Refusal {
    let detail = format!("{problem}. {remedy}.");
    let fault = Fault { pointer: pointer.to_owned(), problem, remedy: remedy.to_owned() };
    Refusal { errors: vec![fault], ..Refusal::new("show", "The show cannot be played like this", detail) }
}

/// What inputs say.
///
/// # Errors
/// Names the input, and what it may say.
pub fn inputs(said: &BTreeMap<String, Says>) -> Answer<Inputs> {
    let mut inputs = Inputs::default();
    for (name, value) in said {
        let pointer = format!("/inputs/{name}");
        let Some((_, input)) = ShowInput::WORDS.iter().find(|(word, _)| word == name) else {
            let known: Vec<&str> = ShowInput::WORDS.iter().map(|(word, _)| *word).collect();
            return Err(refused(&pointer, format!("`{name}` is not an input"), &format!("Name one of {}", known.join(", "))));
        };
        let written = match value {
            Says::Share(share) => share.to_string(),
            Says::Word(word) => word.clone(),
        };
        inputs.say(*input, &written).map_err(|problem| refused(&pointer, format!("`{written}` cannot be said there: {problem}"), "Give what it may say"))?;
    }
    Ok(inputs)
}

/// A request with its build read, what its inputs say, and its work counted.
fn at<T>(request: &ShowRequest, ask: impl FnOnce(&Build, &Scene, &Inputs) -> Answer<T>) -> Answer<T> {
    let build = parse(request.document.get())?;
    let scene = scene_of(&build, &request.scene)?;
    let inputs = inputs(&request.inputs)?;
    if !(request.step_s.is_finite() && request.step_s > 0.0) {
        return Err(refused("/step_s", format!("{} s is not a step", request.step_s), "Give the time from frame to frame, above 0"));
    }
    if !request.from_s.is_finite() || request.from_s < 0.0 {
        return Err(refused("/from_s", format!("{} s is before it begins", request.from_s), "Give 0 or more"));
    }
    if let Some(at) = request.times_s.iter().flatten().position(|time| !time.is_finite() || *time < 0.0) {
        return Err(refused(&format!("/times_s/{at}"), "it is before the show begins".into(), "Give 0 or more"));
    }
    let count = request.times_s.as_ref().map_or(request.frames, Vec::len);
    let pixels: usize = build.lights.iter().map(|light| if let Load::Pixels(pixels) = &light.load { pixels.count as usize } else { 0 }).sum();
    if count == 0 || count > MOST_FRAMES || count.saturating_mul(pixels) > MOST_PIXELS {
        return Err(refused(
            "/frames",
            format!("{count} frames cannot be had at once"),
            &format!("Ask for 1 to {}", MOST_FRAMES.min(MOST_PIXELS / pixels.max(1))),
        ));
    }
    budget::spend((count * pixels) as u64 / A_STEP).map_err(|why| Refusal::stopped(why, &format!("{count} frames of {pixels} pixels")))?;
    ask(&build, scene, &inputs)
}

fn moments(request: &ShowRequest) -> Vec<f64> {
    if let Some(times) = &request.times_s {
        return times.clone();
    }
    (0..request.frames).map(|step| request.from_s + request.step_s * step as f64).collect()
}

/// How often a light flashes.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LightFlashes {
    /// The light.
    pub light: String,
    /// Within the worst second.
    pub a_second: usize,
    /// The same in saturated red.
    pub red_a_second: usize,
}

/// What a show is.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ShowView {
    /// Its chains.
    pub chains: Vec<ChainMap>,
    /// What it takes.
    pub power: ShowPower,
    /// How many pixels fit.
    pub fits: Vec<Fits>,
    /// What all pixels ask for over once around.
    pub course: Course,
    /// How fast it may be shown to anybody: 1 as it is, less where it flashes more than three times a second.
    pub most_speed: f64,
    /// Lights that flash.
    pub flashes: Vec<LightFlashes>,
    /// Inputs that it follows.
    pub inputs: Vec<InputCard>,
    /// Whether anything moves by itself.
    pub moves: bool,
}

/// Chains, what a scene takes, how many fit, how fast it may be shown.
pub fn view(request: ShowRequest) -> Answer<ShowView> {
    at(&request, |build, scene, inputs| {
        let show = Show::of(build, scene);
        let mut used: Vec<ShowInput> = show.effects().iter().filter_map(|effect| effect.input()).collect();
        used.sort();
        used.dedup();
        let flashes = extent(build, scene).map(|extent| extent.flashes.clone()).unwrap_or_default();
        let flashes =
            flashes.iter().map(|one| LightFlashes { light: build.lights[one.light].id.clone(), a_second: one.a_second, red_a_second: one.red_a_second });
        Ok(ShowView {
            chains: chain_maps(build),
            power: power(build, scene, inputs)?,
            fits: fits(build, scene)?,
            course: course(build, scene, inputs),
            most_speed: most_speed(build, scene),
            flashes: flashes.collect(),
            inputs: used.into_iter().map(InputCard::of).collect(),
            moves: show.period_s() > 0.0,
        })
    })
}

/// Frames one after the other.
pub fn play(request: ShowRequest) -> Answer<Played> {
    at(&request, |build, scene, inputs| Ok(played(build, scene, request.from_s, request.step_s, request.frames, inputs, request.delivered)?))
}

/// What of a moment arrives at each light.
pub fn arrive(request: ShowRequest) -> Answer<Vec<Arrived>> {
    at(&request, |build, scene, inputs| Ok(arrived(build, scene, request.from_s, inputs)?))
}

/// Effects and ready shows to pick from.
pub fn pick(request: DocumentRequest) -> Answer<Cards> {
    Ok(cards(&request.build()?))
}

/// What was seen of a chain so far.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SortRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// The output, as in `brain/D2`.
    pub output: String,
    /// Answers so far.
    #[serde(default)]
    pub seen: Vec<SawRed>,
}

/// The first run: which number is red next, or what differs from the plan.
pub fn sort(request: SortRequest) -> Answer<FirstRun> {
    let build = parse(request.document.get())?;
    first_run(&build, &request.output, &request.seen).map_err(|error| refused("/seen", error.to_string(), "Name a piece that is still to be found"))
}

/// A show for other programs.
#[derive(Serialize)]
pub struct Exported {
    format: &'static str,
    build: String,
    scene: String,
    step_s: f64,
    chains: Vec<ChainMap>,
    /// Codes by number on each data output, frame by frame.
    pub frames: Vec<FrameCodes>,
}

/// Chains and frames.
pub fn exported(request: ShowRequest) -> Answer<Exported> {
    at(&request, |build, scene, inputs| {
        Ok(Exported {
            format: "orthavis.show/1",
            build: build.name.clone(),
            scene: scene.id.clone(),
            step_s: request.step_s,
            chains: chain_maps(build),
            frames: frames(build, scene, &moments(&request), inputs),
        })
    })
}

/// Chains and frames as JSON.
pub fn as_json(request: ShowRequest) -> Answer<String> {
    let exported = exported(request)?;
    serde_json::to_string_pretty(&exported).map_err(|error| Refusal::new("answer", "The answer cannot be written", format!("{error}. Report the build.")))
}

/// Frames as a table.
pub fn as_csv(request: ShowRequest) -> Answer<String> {
    at(&request, |build, scene, inputs| Ok(table(build, scene, &moments(&request), inputs).csv()))
}

/// Where each number is.
pub fn as_map(request: DocumentRequest) -> Answer<String> {
    Ok(map(&request.build()?).csv())
}

/// A scene as C99.
pub fn as_header(request: ShowRequest) -> Answer<String> {
    at(&request, |build, scene, _| Ok(source(build, scene, None).header))
}

/// What its header declares.
pub fn as_source(request: ShowRequest) -> Answer<String> {
    at(&request, |build, scene, _| Ok(source(build, scene, None).body))
}
