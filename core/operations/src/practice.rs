//! Practice: drills that hide a fault, lessons, and what comes back when.

use crate::bench::{LightLook, scene_of, state_of};
use crate::{Answer, Refusal, word_of};
use orthavis_core::bench::desk::{self, Meter, Mishap, Place};
use orthavis_core::bench::diagnose::{in_words, repair};
use orthavis_core::bench::fault::Fault;
use orthavis_core::bench::lessons::{LESSONS, Lesson, Position, lesson, sentence};
use orthavis_core::bench::meter::{Serial, Setting};
use orthavis_core::bench::practice::{
    Bridged, Check, Done, Drill, LEVELS, Level, METER_FUSE_S, POWER_S, SWAP_S, Standing, answers, bridged, faults_of, standings,
};
use orthavis_core::bench::spot::Spot;
use orthavis_core::document::{Build, parse};
#[cfg(feature = "schema")]
use orthavis_core::states::State as SourceState;
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use std::collections::BTreeMap;

/// An exercise that was done.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DoneRequest {
    /// `level-1` to `level-6`, or a lesson's id.
    pub topic: String,
    /// The day, counted from any.
    pub day: i64,
    /// Whether it was right at once, without a mistake that hurts.
    pub good: bool,
}

/// What was done so far.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PracticeRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// Exercises that were done.
    #[serde(default)]
    pub done: Vec<DoneRequest>,
    /// Today, counted as those days.
    pub today: i64,
}

/// A level, and where one stands with it.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LevelStands {
    /// The level.
    #[serde(flatten)]
    pub level: Level,
    /// Its topic.
    pub topic: String,
    /// How many different faults of it this build can have.
    pub faults: usize,
    /// Absent where it was never done.
    pub standing: Option<Standing>,
}

/// A lesson, and where one stands with it.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LessonStands {
    /// Its id, which is its topic.
    pub id: &'static str,
    /// Its title.
    pub title: &'static str,
    /// Absent where it was never done.
    pub standing: Option<Standing>,
}

/// What there is to practise.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Practice {
    /// Drills.
    pub levels: Vec<LevelStands>,
    /// Lessons.
    pub lessons: Vec<LessonStands>,
    /// Topics that come back today, longest due first.
    pub due: Vec<String>,
}

/// What there is to practise, and what comes back today.
pub fn practice(request: PracticeRequest) -> Answer<Practice> {
    let build = parse(request.document.get())?;
    let done: Vec<Done> = request.done.into_iter().map(|one| Done { topic: one.topic, day: one.day, good: one.good }).collect();
    let known = standings(&done);
    let levels: Vec<LevelStands> = (LEVELS.into_iter())
        .map(|level| {
            let topic = format!("level-{}", level.number);
            LevelStands { level, faults: faults_of(&build, level.number), standing: known.get(&topic).cloned(), topic }
        })
        .collect();
    let lessons = LESSONS.iter().map(|lesson| LessonStands { id: lesson.id, title: lesson.title, standing: known.get(lesson.id).cloned() }).collect();
    let there = |topic: &str| LESSONS.iter().any(|lesson| lesson.id == topic) || levels.iter().any(|level| level.topic == topic && level.faults > 0);
    let mut due: Vec<(i64, String)> =
        known.iter().filter(|(topic, one)| one.due <= request.today && there(topic)).map(|(topic, one)| (one.due, topic.clone())).collect();
    due.sort();
    Ok(Practice { levels, lessons, due: due.into_iter().map(|(_, topic)| topic).collect() })
}

/// A lesson by its id.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LessonRequest {
    /// Its id.
    pub lesson: String,
}

/// A lesson with what happens.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Taught {
    /// The lesson.
    #[serde(flatten)]
    pub lesson: Lesson,
    /// What happens at each position of what is changed.
    pub positions: Vec<Position>,
}

/// A lesson: what to say first, and what happens.
pub fn taught(request: LessonRequest) -> Answer<Taught> {
    let (lesson, positions) = lesson(&request.lesson)?;
    Ok(Taught { lesson, positions })
}

/// A drill: always the same one for the same seed.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct DrillRequest {
    /// The build.
    #[cfg_attr(feature = "schema", schema(value_type = Build))]
    pub document: Box<RawValue>,
    /// Scene that is on.
    pub scene: String,
    /// State of the source; the fullest by default.
    #[cfg_attr(feature = "schema", schema(value_type = Option<SourceState>))]
    pub state: Option<String>,
    /// Level, from 1.
    pub level: u8,
    /// Which of its faults.
    pub seed: u32,
}

impl DrillRequest {
    fn with<T>(&self, ask: impl FnOnce(&Build, &Drill<'_>) -> Answer<T>) -> Answer<T> {
        let build = parse(self.document.get())?;
        let (scene, state) = (scene_of(&build, &self.scene)?, state_of(&build, self.state.as_deref())?);
        let drill = Drill::deal(&build, scene, state, self.level, u64::from(self.seed))?;
        ask(&build, &drill)
    }
}

/// An answer to choose.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Guess {
    /// The fault, as `KIND@PLACE`.
    pub fault: String,
    /// In words.
    pub words: String,
}

/// What a person finds who is called to a drill.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Dealt {
    /// How each light of the scene looks.
    pub lights: Vec<LightLook>,
    /// Whether a fuse opened or a module gave up.
    pub opened: bool,
    /// Feeds whose wires are hot to the hand.
    pub hot: Vec<String>,
    /// Where probes can go.
    pub points: Vec<String>,
    /// Each in words.
    pub words: BTreeMap<String, String>,
    /// Feeds that a clamp goes around, or that are opened at their start for a meter in line.
    pub feeds: Vec<String>,
    /// What may be answered.
    pub answers: Vec<Guess>,
    /// What a wire in place of each fuse would do.
    pub bridged: Vec<Bridged>,
    /// Work of turning the power on or off, s.
    pub power_s: f64,
    /// Work of a new fuse in the meter, s.
    pub meter_fuse_s: f64,
    /// Work of swapping what was suspected, s.
    pub swap_s: f64,
}

/// Hides a fault, and says what a person sees of it.
pub fn dealt(request: DrillRequest) -> Answer<Dealt> {
    request.with(|build, drill| {
        let feeds: Vec<String> = build.feeds().into_iter().map(|feed| feed.id).collect();
        let lights = drill.looks.iter().map(|(index, look)| LightLook::of(build, *index, *look)).collect();
        Ok(Dealt {
            lights,
            opened: drill.opened,
            hot: drill.hot.iter().map(|feed| feeds[*feed].clone()).collect(),
            points: Spot::all(build).into_iter().map(|spot| spot.name(build)).collect(),
            words: Spot::all(build).into_iter().map(|spot| (spot.name(build), spot.words(build))).collect(),
            answers: answers(build).into_iter().map(|(fault, words)| Guess { fault: fault.name(build), words }).collect(),
            bridged: bridged(build, state_of(build, request.state.as_deref())?),
            feeds,
            power_s: POWER_S,
            meter_fuse_s: METER_FUSE_S,
            swap_s: SWAP_S,
        })
    })
}

/// A meter, with what has become of it.
#[derive(Clone, Copy, Deserialize, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MeterStands {
    /// Its serial number.
    pub serial: u32,
    /// Whether the fuse of its amps socket is good.
    pub amps_fuse: bool,
    /// Whether that of its milliamps socket is.
    pub milliamps_fuse: bool,
    /// Whether its clamp was zeroed.
    pub zeroed: bool,
}

/// A reading of a drill.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MeasureRequest {
    /// The drill.
    pub drill: DrillRequest,
    /// Whether the power is on.
    pub power: bool,
    /// What the meter is set to.
    #[cfg_attr(feature = "schema", schema(value_type = Setting))]
    pub setting: String,
    /// Whether its red lead is in the milliamps socket.
    #[serde(default)]
    pub milliamps: bool,
    /// Two points; or the feed that the clamp is around; or `feed:joint` or `source` where the circuit is opened for amps in
    /// line.
    pub probes: Vec<String>,
    /// The meter.
    pub meter: MeterStands,
}

/// What a meter shows.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MeterShows {
    /// In the unit; `null`: open, or more than it can show.
    pub value: Option<f64>,
    /// Unit.
    pub unit: &'static str,
    /// Continuity.
    pub beeps: bool,
    /// What went wrong.
    pub event: Option<Mishap>,
    /// In words.
    pub says: Option<String>,
    /// The meter afterwards.
    pub meter: MeterStands,
    /// Time it took, s.
    pub work_s: f64,
}

/// Takes a reading of a drill.
pub fn measured(request: MeasureRequest) -> Answer<MeterShows> {
    let setting: Setting = word_of("setting", &request.setting, Setting::WORDS)?;
    let before = request.meter;
    let mut meter =
        Meter { serial: Serial(u64::from(before.serial)), amps_fuse: before.amps_fuse, milliamps_fuse: before.milliamps_fuse, zeroed: before.zeroed };
    request.drill.with(|build, drill| {
        let place = match request.probes.as_slice() {
            [red, black] => Place::Across(Spot::parse(build, red)?, Spot::parse(build, black)?),
            [one] if setting == Setting::Clamp => desk::clamped(build, one)?,
            [one] => desk::opened_at(build, one)?,
            _ => return Err(Refusal::new("probes", "A meter has two probes", "Give `probes` two points, or one place for amps.")),
        };
        let (shown, work_s) = drill.read(&mut meter, request.power, setting, request.milliamps, place)?;
        let meter = MeterStands { amps_fuse: meter.amps_fuse, milliamps_fuse: meter.milliamps_fuse, zeroed: meter.zeroed, ..before };
        let says = shown.event.map(|event| sentence(event.called()));
        Ok(MeterShows { value: shown.value, unit: setting.unit(), beeps: shown.beeps, event: shown.event, says, meter, work_s })
    })
}

/// An answer to a drill.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GuessRequest {
    /// The drill.
    pub drill: DrillRequest,
    /// The fault that it is held to be; absent: given up.
    pub guess: Option<String>,
}

/// Whether an answer is right; what it was is told once it is, or once it was given up.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Marked {
    /// Whether it is right.
    pub right: bool,
    /// What it was, as `KIND@PLACE`.
    pub fault: Option<String>,
    /// In words.
    pub words: Option<String>,
    /// What mends it.
    pub repair: Option<&'static str>,
    /// How the program would have found it.
    pub search: Vec<Check>,
    /// Time that would have taken, s.
    pub search_s: f64,
}

/// Marks an answer to a drill.
pub fn marked(request: GuessRequest) -> Answer<Marked> {
    request.drill.with(|build, drill| {
        let guess = request.guess.as_deref().map(|name| Fault::parse(build, name)).transpose()?;
        let right = guess.as_ref().is_some_and(|guess| drill.is(guess));
        if guess.is_some() && !right {
            return Ok(Marked { right, fault: None, words: None, repair: None, search: Vec::new(), search_s: 0.0 });
        }
        let search = drill.search(u64::from(request.drill.seed))?;
        let (fault, search_s) = (drill.fault(), search.iter().map(|check| check.work_s).sum());
        Ok(Marked { right, fault: Some(fault.name(build)), words: Some(in_words(build, fault)), repair: Some(repair(fault)), search, search_s })
    })
}
