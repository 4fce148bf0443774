//! The bench: what a probe reads, what a fault does, what to expect, and what is wrong.

use crate::costs::known as known_scene;
use crate::{Answer, DocumentRequest, Refusal, word_of};
use orthavis_core::bench::BenchError;
use orthavis_core::bench::correct::{Correction, Taken, correct};
use orthavis_core::bench::diagnose::{Diagnosis, FaultDictionary, Known, Look, Saw, Symptom, in_words};
use orthavis_core::bench::expect::{Check, Stage, expect, lit};
use orthavis_core::bench::fault::{Fault, FaultKind, every};
use orthavis_core::bench::meter::{Serial, Setting};
use orthavis_core::bench::pinch::{Pinch, pinch};
use orthavis_core::bench::reading::{Probes, unpowered, value};
use orthavis_core::bench::rig::Rig;
use orthavis_core::bench::seen::seen;
use orthavis_core::bench::spot::Spot;
use orthavis_core::document::{Build, Scene, parse};
use orthavis_core::states::State as SourceState;
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use std::cell::RefCell;
use std::collections::BTreeMap;

impl From<BenchError> for Refusal {
    fn from(error: BenchError) -> Self {
        Refusal::new("bench", "The bench cannot do that", format!("{error}."))
    }
}

/// A fault that a build can have.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NamedFault {
    /// As `KIND@PLACE`, with `=SIZE` where it has one.
    pub fault: String,
    /// What kind.
    pub kind: FaultKind,
    /// In words.
    pub words: String,
}

/// Every single fault that a build can have.
pub fn faults(request: DocumentRequest) -> Answer<Vec<NamedFault>> {
    let build = request.build()?;
    let named = |fault: Fault| NamedFault { fault: fault.name(&build), kind: fault.kind, words: in_words(&build, &fault) };
    Ok(every(&build).into_iter().map(named).collect())
}

/// What is on the bench.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ProbeRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// Scene that is on.
    pub scene: String,
    /// State of the source; the fullest by default.
    #[cfg_attr(feature = "schema", schema(value_type = Option<SourceState>))]
    pub state: Option<String>,
    /// Faults in it, as `KIND@PLACE=SIZE`.
    #[serde(default)]
    pub faults: Vec<String>,
    /// Pairs of points between which to read ohms with the power off.
    #[serde(default)]
    pub ohms: Vec<[String; 2]>,
    /// Serial number of the meter; without it figures are ideal.
    pub meter: Option<u64>,
    /// Whether fuses open and modules give up, as they do before anyone has looked.
    #[serde(default)]
    pub aftermath: bool,
}

/// How a light looks.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LightLook {
    /// Its id.
    pub light: String,
    /// Its light, as a share of the plan's.
    pub share: f64,
    /// What a person says of it.
    pub symptom: Symptom,
    /// The first LED, segment or pixel that is dark while others shine, counted from 1.
    pub dark_from: Option<usize>,
}

impl LightLook {
    pub(crate) fn of(build: &Build, light: usize, look: Look) -> Self {
        let dark_from = look.dark_from.filter(|_| look.symptom() == Symptom::Part).map(|from| from + 1);
        LightLook { light: build.lights[light].id.clone(), share: look.share, symptom: look.symptom(), dark_from }
    }
}

/// What probes read.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Probed {
    /// Of a show, when in it this is, s: the frame in which its pixels together take most, as the plan is solved.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub frame_s: Option<f64>,
    /// Every point against `source-`, V.
    pub volts: BTreeMap<String, f64>,
    /// Every point in words.
    pub words: BTreeMap<String, String>,
    /// Current into each feed, A.
    pub amps: BTreeMap<String, f64>,
    /// What leaves the source, A.
    pub source_a: f64,
    /// As asked; `null`: open.
    pub ohms: Vec<Option<f64>>,
    /// How each light of the scene looks.
    pub lights: Vec<LightLook>,
    /// Feeds whose fuses opened.
    pub blown: Vec<String>,
    /// Modules that gave up.
    pub tripped: Vec<String>,
    /// Feeds whose wires are hot to the hand.
    pub hot: Vec<String>,
}

pub(crate) fn scene_of<'a>(build: &'a Build, scene: &str) -> Answer<&'a Scene> {
    known_scene(build, scene)?;
    build.scenes.iter().find(|known| known.id == scene).ok_or_else(|| Refusal::new("scene", "No such scene", "Name one that is."))
}

pub(crate) fn state_of(build: &Build, word: Option<&str>) -> Answer<SourceState> {
    let states = build.states();
    let Some(word) = word else { return Ok(states[0]) };
    let state = word_of("state", word, SourceState::WORDS)?;
    if states.contains(&state) {
        return Ok(state);
    }
    let known: Vec<&str> = states.iter().map(|state| state.word()).collect();
    Err(Refusal::new("state", "No such state", format!("This source has no state `{word}`. Name one of {}.", known.join(", "))))
}

/// What every probe reads, how the lights look and what opened.
pub fn probe(request: ProbeRequest) -> Answer<Probed> {
    let build = parse(request.document.get())?;
    let (scene, state) = (scene_of(&build, &request.scene)?, state_of(&build, request.state.as_deref())?);
    let faults = request.faults.iter().map(|name| Fault::parse(&build, name)).collect::<Result<Vec<_>, _>>()?;
    let serial = request.meter.map(Serial);
    let shows = |setting: Setting, value: f64| serial.map_or(value, |serial| serial.shows(setting, value));
    // The frame of a show that a plan is solved in.
    let mut sound = Rig::new(&build, &[])?.in_its_worst_frame();
    let frame_s = sound.frame_s(scene);
    let plan = sound.shot(scene, state).map_err(BenchError::from)?;
    let (rig, shot, blown, tripped, hot) = if request.aftermath {
        let seen = seen(&sound, &faults, scene, state, Some(&plan))?;
        (seen.rig, seen.shot, seen.blown, seen.tripped, seen.hot)
    } else {
        let mut rig = Rig::beside(&sound, &faults)?;
        let shot = rig.shot_near(scene, state, Some(&plan)).map_err(BenchError::from)?;
        (rig, shot, Vec::new(), Vec::new(), Vec::new())
    };
    let feeds = build.feeds();
    let named = |indexes: Vec<usize>| indexes.into_iter().map(|index| feeds[index].id.clone()).collect();
    let volts = Spot::all(&build).into_iter().map(|spot| (spot.name(&build), shows(Setting::Volts, rig.potential(&shot, spot)))).collect();
    let words = Spot::all(&build).into_iter().map(|spot| (spot.name(&build), spot.words(&build))).collect();
    let amps = feeds.iter().enumerate().map(|(index, feed)| (feed.id.clone(), shows(Setting::Amps, rig.amps(&shot, index)))).collect();
    let ohms = (request.ohms.iter())
        .map(|[red, black]| {
            let probes = Probes::parse(&build, &[red, black])?;
            Ok(unpowered(&rig, Setting::Ohms, &probes)?.map(|ohm| shows(Setting::Ohms, ohm)))
        })
        .collect::<Answer<_>>()?;
    let lit = |light: &str| scene.lights.get(light).is_some_and(|lit| lit.level > 0.0);
    let lights = (build.lights.iter().enumerate().filter(|(_, light)| lit(&light.id)))
        .map(|(index, _)| {
            let look = Look::of(&rig.brightness(&shot, index), &sound.brightness(&plan, index));
            LightLook::of(&build, index, look)
        })
        .collect();
    let tripped = tripped.into_iter().map(|index| build.converters[index].id.clone()).collect();
    let source_a = shows(Setting::Amps, value(&rig, &shot, Setting::Amps, &Probes::Source));
    Ok(Probed { frame_s, volts, words, amps, source_a, ohms, lights, blown: named(blown), tripped, hot: named(hot) })
}

/// A pinch.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PinchRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// Which feed.
    pub feed: String,
    /// Where along it: 0 at its supply to 1 at its end.
    pub at: f64,
}

/// What a pinch does at each state of the source.
pub fn pinched(request: PinchRequest) -> Answer<Vec<Pinch>> {
    Ok(pinch(&parse(request.document.get())?, &request.feed, request.at)?)
}

/// What to expect, at a state.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ExpectRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// State of the source; the fullest by default.
    #[cfg_attr(feature = "schema", schema(value_type = Option<SourceState>))]
    pub state: Option<String>,
}

/// The checks in which a careful person tries a build, in order.
pub fn expected(request: ExpectRequest) -> Answer<Vec<Check>> {
    let build = parse(request.document.get())?;
    let state = request.state.as_deref().map(|word| state_of(&build, Some(word))).transpose()?;
    Ok(expect(&build, state)?)
}

/// A reading of the check list.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CheckRead {
    /// Id of the check.
    pub check: String,
    /// State of the source when it was taken; the fullest by default.
    #[cfg_attr(feature = "schema", schema(value_type = Option<SourceState>))]
    pub state: Option<String>,
    /// What the meter showed, V or A.
    pub value: f64,
}

/// Readings to hold a build against.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CorrectRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// Of the check list; those of checks that are not in it any more, or without power, tell nothing and are passed over.
    pub read: Vec<CheckRead>,
}

/// What readings say of a build's uncertain figures.
pub fn corrected(request: CorrectRequest) -> Answer<Correction> {
    let build = parse(request.document.get())?;
    let mut taken = Vec::new();
    let mut lists: Vec<(SourceState, Vec<Check>)> = Vec::new();
    for read in &request.read {
        let state = state_of(&build, read.state.as_deref())?;
        if !lists.iter().any(|(known, _)| *known == state) {
            lists.push((state, expect(&build, Some(state))?));
        }
        // What a circuit does by itself says nothing of the build's wires.
        let check = lists
            .iter()
            .find(|(known, _)| *known == state)
            .and_then(|(_, list)| list.iter().find(|check| check.id == read.check && check.step != Stage::Circuit));
        let Some((check, state)) = check.and_then(|check| Some((check, check.state?))) else { continue };
        let names: Vec<&str> = check.probes.iter().map(String::as_str).collect();
        taken.push(Taken { scene: lit(&build, check), state, setting: check.setting, probes: Probes::parse(&build, &names)?, value: read.value });
    }
    Ok(correct(&build, &taken)?)
}

/// Something that was seen.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SawRequest {
    /// Of which light; absent: of the build.
    pub light: Option<String>,
    /// What.
    #[cfg_attr(feature = "schema", schema(value_type = Symptom))]
    pub symptom: String,
    /// Where part of it is dark: the first LED, segment or pixel, counted from 1.
    pub from: Option<usize>,
}

/// Something that was read.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ReadRequest {
    /// What the meter was set to.
    #[cfg_attr(feature = "schema", schema(value_type = Setting))]
    pub setting: String,
    /// Two points, or a feed.
    pub probes: Vec<String>,
    /// What it showed; `null`: open, as ohms and the diode test can be.
    pub value: Option<f64>,
}

/// What is known of something that is wrong.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DiagnoseRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// Scene that is on.
    pub scene: String,
    /// State of the source; the fullest by default.
    #[cfg_attr(feature = "schema", schema(value_type = Option<SourceState>))]
    pub state: Option<String>,
    /// What was seen.
    #[serde(default)]
    pub saw: Vec<SawRequest>,
    /// What was read.
    #[serde(default)]
    pub read: Vec<ReadRequest>,
    /// Whether two faults at once are held possible.
    #[serde(default)]
    pub pairs: bool,
    /// Faults that were found here before, by their names.
    #[serde(default)]
    pub failed: Vec<String>,
    /// Lights that have worked as they are wired now.
    #[serde(default)]
    pub worked: Vec<String>,
}

thread_local! {
    /// The last build that was looked at: simulating its faults takes longer than any answer after that.
    static LAST: RefCell<Option<(String, FaultDictionary)>> = const { RefCell::new(None) };
}

/// What is wrong, and what to check next.
pub fn diagnosed(request: DiagnoseRequest) -> Answer<Diagnosis> {
    let build = parse(request.document.get())?;
    let (scene, state) = (scene_of(&build, &request.scene)?, state_of(&build, request.state.as_deref())?);
    let light = |id: &str| {
        build.lights.iter().position(|light| light.id == id).ok_or_else(|| {
            let known: Vec<&str> = build.lights.iter().map(|light| light.id.as_str()).collect();
            Refusal::new("light", "No such light", format!("There is no light `{id}`. Name one of {}.", known.join(", ")))
        })
    };
    let worked = request.worked.iter().map(|id| light(id)).collect::<Answer<_>>()?;
    let mut known = Known { failed: request.failed.clone(), worked, ..Known::default() };
    for saw in &request.saw {
        let light = saw.light.as_deref().map(light).transpose()?;
        let from = saw.from.map(|from| from.saturating_sub(1));
        known.seen.push(Saw { light, symptom: word_of("symptom", &saw.symptom, Symptom::WORDS)?, from });
    }
    for read in &request.read {
        let names: Vec<&str> = read.probes.iter().map(String::as_str).collect();
        if read.value.is_some_and(|value| !value.is_finite()) {
            return Err(Refusal::new("reading", "No reading", "`value` is not a number. Give what the meter shows."));
        }
        known.read.push((word_of("setting", &read.setting, Setting::WORDS)?, Probes::parse(&build, &names)?, read.value));
    }
    let key = format!("{} {} {}", state.word(), scene.id, build.compact());
    LAST.with_borrow_mut(|last| {
        if last.as_ref().is_none_or(|(kept, _)| *kept != key) {
            *last = Some((key, FaultDictionary::new(&build, scene, state)?));
        }
        match last {
            Some((_, bench)) if request.pairs => Ok(bench.with_pairs(&known)?.diagnose(&known)?),
            Some((_, bench)) => Ok(bench.diagnose(&known)?),
            None => Err(Refusal::new("bench", "The bench is empty", "Ask again.")),
        }
    })
}
