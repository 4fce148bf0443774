//! The order in which a careful person tries a build, generated from it: without power, each converter and small circuit alone, first light,
//! each light, every scene, warm, charging. Each check with where the probes go, what it should read, and what it means
//! when it does not.

use crate::BenchError;
use crate::band::expected;
use crate::meter::Setting;
use crate::reading::{Probes, unpowered};
use crate::rig::Rig;
use crate::spot::Spot;
use orthavis_model::document::{Build, Consumer, Draw, Light, Load, Return, Scene, SceneLight, SourceKind};
use orthavis_model::states::State;
use orthavis_physics::circuits::{figures, tap_name, tolerances};
use orthavis_physics::network::Side;
use serde::Serialize;
use std::collections::BTreeMap;

pub use orthavis_model::trying::Stage;

/// A check of the list.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = BenchCheck))]
pub struct Check {
    /// Unique in the list and the same as long as the build is: what a reading is kept under.
    pub id: String,
    /// Which stage.
    pub step: Stage,
    /// What is checked.
    pub title: String,
    /// What to do, in a sentence or two.
    pub how: String,
    /// Where the probes go: two points, or the feed that is opened or clamped.
    pub probes: Vec<String>,
    /// The same in words.
    pub places: Vec<String>,
    /// What the meter is set to.
    pub setting: Setting,
    /// The scene that is on; absent without power and where one light or none is lit.
    pub scene: Option<String>,
    /// State of the source; absent without power.
    pub state: Option<State>,
    /// What it reads; absent: open, more than the meter shows.
    pub expected: Option<f64>,
    /// The least that is fine; absent: no limit.
    pub low: Option<f64>,
    /// The most that is fine; absent: no limit.
    pub high: Option<f64>,
    /// Unit of the three.
    pub unit: &'static str,
    /// What it means below.
    pub below: String,
    /// What it means above.
    pub above: String,
    /// Whether a wrong reading here means stop, not only look again.
    pub danger: bool,
}

/// Ohms that tell nothing from a short, and a wire from none.
const SHORT_OHM: f64 = 10.0;
/// A supply set to this much of what the first light takes, and at least this, A.
const LIMIT: (f64, f64) = (1.5, 0.1);

/// One check before it has its figures.
struct Draft {
    id: String,
    step: Stage,
    title: String,
    how: String,
    probes: Probes,
    setting: Setting,
    below: &'static str,
    above: &'static str,
    danger: bool,
}

/// Only these lights, as bright as a scene has them.
fn only(build: &Build, lights: &[&Light]) -> Scene {
    let lit = |light: &&Light| {
        let found = build.scenes.iter().find_map(|scene| scene.lights.get(&light.id).filter(|lit| lit.level > 0.0));
        (light.id.clone(), found.cloned().unwrap_or(SceneLight::FULL))
    };
    Scene { id: String::new(), name: String::new(), lights: lights.iter().map(lit).collect::<BTreeMap<_, _>>() }
}

/// What is lit while a check is made: its scene, its one light, or nothing.
pub fn lit(build: &Build, check: &Check) -> Scene {
    if let Some(scene) = build.scenes.iter().find(|scene| Some(&scene.id) == check.scene.as_ref()) {
        return scene.clone();
    }
    let id = match check.step {
        Stage::Light => check.id.strip_prefix("light-"),
        Stage::FirstLight => check.id.strip_prefix("first-"),
        _ => None,
    };
    only(build, &build.lights.iter().filter(|light| Some(light.id.as_str()) == id).collect::<Vec<_>>())
}

/// The whole list, at a state of the source (the fullest it has, where none is named).
///
/// # Errors
/// When the plan has no steady state.
pub fn expect(build: &Build, state: Option<State>) -> Result<Vec<Check>, BenchError> {
    let states = build.states();
    let usual = states.iter().copied().find(|state| *state != State::Charging).unwrap_or(State::Full);
    let state = state.filter(|state| states.contains(state) && *state != State::Charging).unwrap_or(usual);
    // Each light is tried alone, each scene as a whole, with every tolerance.
    crate::affordable(build, (build.lights.len() + 2 * build.scenes.len() + 4) * crate::band::count(build))?;
    let mut list = without_power(build)?;
    let mut under_power = |drafts: Vec<Draft>, scene: &Scene, named: Option<&str>, state: State| -> Result<(), BenchError> {
        if drafts.is_empty() {
            return Ok(());
        }
        let wanted: Vec<(Setting, Probes)> = drafts.iter().map(|draft| (draft.setting, draft.probes.clone())).collect();
        let figures = expected(build, scene, state, &wanted)?;
        for (draft, (value, sigma)) in drafts.into_iter().zip(figures) {
            // A band is twice the root of the sum of squares wide: one sound build in twenty is outside one.
            list.push(finished(build, draft, named, Some(state), Some(value), (Some(value - 2.0 * sigma), Some(value + 2.0 * sigma))));
        }
        Ok(())
    };
    let mut alone = vec![at_rest(state)];
    alone.extend(converters(build));
    under_power(alone, &only(build, &[]), None, state)?;
    let of_circuits: Vec<Check> = (0..build.circuits.len()).flat_map(|index| circuits(build, index, state)).collect();
    if let Some(first) = gentlest(build, state)? {
        under_power(vec![first.1], &only(build, &[first.0]), None, state)?;
    }
    for light in &build.lights {
        under_power(vec![terminals(build, light)], &only(build, &[light]), None, state)?;
    }
    for scene in &build.scenes {
        under_power(of_scene(build, scene, Stage::Scene), scene, Some(&scene.id), state)?;
    }
    if let Some(scene) = brightest(build) {
        under_power(of_scene(build, scene, Stage::Warm), scene, Some(&scene.id), state)?;
        if states.contains(&State::Charging) {
            let check = Draft {
                id: "charging".into(),
                step: Stage::Charging,
                title: "Highest voltage the lights will see".into(),
                how: format!("Connect the charger, wait until it is nearly done, then switch {} on.", scene.name),
                probes: Probes::Between(Spot::Source(Side::Plus), Spot::Source(Side::Minus)),
                setting: Setting::Volts,
                below: "The charger has not reached its end yet: wait, and read again.",
                above: "The charger gives more than this battery wants: unplug it.",
                danger: true,
            };
            under_power(vec![check], scene, Some(&scene.id), State::Charging)?;
        }
    }
    let at = list.iter().position(|check| !matches!(check.step, Stage::Unpowered | Stage::Converter)).unwrap_or(list.len());
    list.splice(at..at, of_circuits);
    Ok(list)
}

fn finished(build: &Build, draft: Draft, scene: Option<&str>, state: Option<State>, expected: Option<f64>, band: (Option<f64>, Option<f64>)) -> Check {
    Check {
        id: draft.id,
        step: draft.step,
        title: draft.title,
        how: draft.how,
        probes: draft.probes.names(build),
        places: draft.probes.places(build),
        setting: draft.setting,
        scene: scene.map(str::to_owned),
        state,
        expected,
        low: band.0,
        high: band.1,
        unit: draft.setting.unit(),
        below: draft.below.into(),
        above: draft.above.into(),
        danger: draft.danger,
    }
}

/// The build with its bulbs taken out, and which they are: cold, a filament reads like a short.
pub fn without_bulbs(build: &Build) -> (Build, Vec<String>) {
    let (mut bare, mut bulbs) = (build.clone(), Vec::new());
    for light in &mut bare.lights {
        if let Load::Module(module) = &mut light.load
            && matches!(module.draw, Draw::Filament | Draw::Resistive)
        {
            module.draw = Draw::ConstantPower;
            bulbs.push(light.id.clone());
        }
    }
    (bare, bulbs)
}

/// Continuity of every run, nothing between plus and minus, LEDs in their direction.
fn without_power(build: &Build) -> Result<Vec<Check>, BenchError> {
    let (bare, bulbs) = without_bulbs(build);
    let rig = Rig::new(&bare, &[])?;
    let mut list = Vec::new();
    let mut add = |draft: Draft, band: &dyn Fn(Option<f64>) -> (Option<f64>, Option<f64>)| -> Result<(), BenchError> {
        let read = unpowered(&rig, draft.setting, &draft.probes)?;
        list.push(finished(build, draft, None, None, read, band(read)));
        Ok(())
    };
    let source = Probes::Between(Spot::Source(Side::Plus), Spot::Source(Side::Minus));
    for (index, feed) in build.feeds().iter().enumerate() {
        for (side, word) in [(Side::Plus, "plus"), (Side::Minus, "minus")] {
            let by = match (side, feed.feed.return_path) {
                (Side::Minus, Return::Frame) => "through the frame",
                _ => "along the wire",
            };
            let draft = Draft {
                id: format!("way-{}-{word}", feed.id),
                step: Stage::Unpowered,
                title: format!("{}: {word} gets through", feed.id),
                how: format!("Battery disconnected, fuse in, switch on. One probe at each end, {by}: it should beep."),
                probes: Probes::Between(Spot::From(index, side), Spot::To(index, side)),
                setting: Setting::Ohms,
                below: "Less than the meter can tell: fine.",
                above: "It does not get through, or badly: a joint, a plug, the fuse or the switch. Follow it from end to end.",
                danger: false,
            };
            // Leads and contact of the probes themselves are half an ohm.
            add(draft, &|read| (None, read.map(|ohm| 1.5 * ohm + 0.5)))?;
        }
    }
    for (index, light) in build.lights.iter().enumerate() {
        let feed = build.feeds().iter().position(|feed| feed.consumer == Consumer::Light(index)).unwrap_or(0);
        if let Load::LedArray(_) = light.load {
            let draft = Draft {
                id: format!("way-round-{}", light.id),
                step: Stage::Unpowered,
                title: format!("{}: the right way round", light.id),
                how: "Diode test, red probe on plus. Single LEDs glow faintly; rows of more than one read open, both ways.".into(),
                probes: Probes::Between(Spot::To(feed, Side::Plus), Spot::To(feed, Side::Minus)),
                setting: Setting::Diode,
                below: "Something bridges it: an LED or its resistor is shorted.",
                above: "It blocks: the light is the wrong way round, or a row is broken.",
                danger: false,
            };
            add(draft, &|read| read.map_or((Some(2.5), None), |volts| (Some(volts - 0.25), Some(volts + 0.25))))?;
        }
    }
    let draft = Draft {
        id: "no-short".into(),
        step: Stage::Unpowered,
        title: "Nothing between plus and minus".into(),
        how: match bulbs.as_slice() {
            [] => "Battery disconnected, all switches on. Probes where the battery will be.".into(),
            bulbs => format!(
                "Battery disconnected, all switches on, the bulbs of {} out: cold they read like a short. Probes where the battery will be.",
                bulbs.join(", ")
            ),
        },
        probes: source,
        setting: Setting::Ohms,
        below: "Plus touches minus somewhere. Do not connect the battery: unplug one light after the other until it is gone.",
        above: "",
        danger: true,
    };
    add(draft, &|read| (Some(read.map_or(SHORT_OHM, |ohm| (0.5 * ohm).min(SHORT_OHM))), None))?;
    Ok(list)
}

/// What the source gives with nothing on: beside it the reading under load tells its resistance.
fn at_rest(state: State) -> Draft {
    let what = match state {
        State::Rail => SourceKind::Rail,
        State::Track | State::Gap => SourceKind::Track,
        _ => SourceKind::Battery,
    }
    .noun();
    Draft {
        id: "rest".into(),
        step: Stage::Converter,
        title: format!("The {what} at rest"),
        how: format!("Connect the {what}, every light off, and read at its terminals."),
        probes: Probes::Between(Spot::Source(Side::Plus), Spot::Source(Side::Minus)),
        setting: Setting::Volts,
        below: "It is emptier than the battery dial above says: set the dial to how full it is, or charge it.",
        above: "It is fuller than the battery dial above says: set the dial to how full it is.",
        danger: false,
    }
}

fn converters(build: &Build) -> Vec<Draft> {
    let set = build.converters.iter().enumerate().filter(|(_, part)| part.set_v().is_some());
    set.map(|(index, part)| Draft {
        id: format!("module-{}", part.id),
        step: Stage::Converter,
        title: format!("{}: set before anything hangs on it", part.id),
        how: "Take off whatever it feeds. Set it with the meter on its output, then mark the screw.".into(),
        probes: Probes::Between(Spot::Out(index, Side::Plus), Spot::Out(index, Side::Minus)),
        setting: Setting::Volts,
        below: "Set too low, or its input does not arrive: read its input too.",
        above: "Set too high: what hangs on it would burn. Turn it down first.",
        danger: true,
    })
    .collect()
}

/// So many flashes are counted: a hand on a watch is a fifth of a second off.
const FLASHES: f64 = 10.0;
const HAND_S: f64 = 0.2;
/// What an LED's threshold scatters by, V.
const THRESHOLD_V: f64 = 0.2;

/// What a small circuit does when it is tried by itself.
fn circuits(build: &Build, index: usize, state: State) -> Vec<Check> {
    let own = &build.circuits[index];
    let Ok(figures) = figures(build, index, state) else { return Vec::new() };
    let spread = tolerances(build, index, state);
    let band = |figure: &str, times: f64| {
        let found = spread.iter().find(|one| one.figure == figure);
        found.map_or((None, None), |one| (Some(times * one.least - HAND_S), Some(times * one.most + HAND_S)))
    };
    let feed = build.feeds().iter().position(|feed| feed.consumer == Consumer::Circuit(index)).unwrap_or(0);
    let draft = |what: &str, title: String, how: String, setting: Setting, below: &'static str, above: &'static str| Draft {
        id: format!("circuit-{}-{what}", own.id),
        step: Stage::Circuit,
        title,
        how,
        probes: Probes::Between(Spot::To(feed, Side::Plus), Spot::To(feed, Side::Minus)),
        setting,
        below,
        above,
        danger: false,
    };
    let done = |draft: Draft, expected: f64, band: (Option<f64>, Option<f64>)| vec![finished(build, draft, None, Some(state), Some(expected), band)];
    if let Some(period) = figures.period_s {
        let draft = draft(
            "ten",
            format!("{}: ten flashes", own.id),
            "Its feed on, nothing else. From one flash to the tenth after it, by a watch.".into(),
            Setting::Watch,
            "It flashes faster than its parts allow: read the colours of its resistors and the print of its capacitor again.",
            "It flashes slower than its parts allow: a resistor or capacitor of another value, or too little voltage.",
        );
        return done(draft, FLASHES * period, band("period_s", FLASHES));
    }
    if let Some(held) = own.hold_up().and_then(|parts| figures.taps.get(&tap_name(parts.tap))) {
        let draft = draft(
            "held",
            format!("{}: how long it holds", own.id),
            "Let it fill for a minute, then take its feed off: seconds until half of the light, by eye.".into(),
            Setting::Watch,
            "Its capacitor has less than is printed on it, or it was not filled: is it the right way round?",
            "More than its parts can hold: a smaller load, or a larger capacitor, than planned.",
        );
        return done(draft, held.half_s, band("half_s", 1.0));
    }
    if let Some(both) = figures.bands.iter().find(|band| band.lit == "good+low") {
        let draft = draft(
            "good",
            format!("{}: where the good one begins", own.id),
            "From a supply that can be turned up slowly: volts at which the good LED first shines.".into(),
            Setting::Volts,
            "It begins too early: a diode is missing, or a resistor is too small.",
            "It begins too late: a diode too many, or a resistor too large.",
        );
        return done(draft, both.from_v, (Some(both.from_v - THRESHOLD_V), Some(both.from_v + THRESHOLD_V)));
    }
    Vec::new()
}

/// The light that takes least, with its check.
fn gentlest(build: &Build, state: State) -> Result<Option<(&Light, Draft)>, BenchError> {
    let mut rig = Rig::new(build, &[])?;
    let mut least: Option<(f64, &Light)> = None;
    for light in &build.lights {
        let Ok(shot) = rig.shot(&only(build, &[light]), state) else { continue };
        let amps = rig.source(&shot).1;
        if least.is_none_or(|(known, _)| amps < known) {
            least = Some((amps, light));
        }
    }
    Ok(least.map(|(amps, light)| {
        let limit = (LIMIT.0 * amps).max(LIMIT.1);
        let draft = Draft {
            id: format!("first-{}", light.id),
            step: Stage::FirstLight,
            title: format!("{}: the first light", light.id),
            how: format!("From a bench supply limited to {limit:.2} A in place of the battery, or through the smallest fuse you have. Only {} on.", light.id),
            probes: Probes::Source,
            setting: Setting::Amps,
            below: "It takes too little: a joint that barely touches, a row out, or a wrong resistor.",
            above: "It takes too much: switch off. A short, a wrong resistor or a wrong voltage.",
            danger: true,
        };
        (light, draft)
    }))
}

fn terminals(build: &Build, light: &Light) -> Draft {
    let index = build.lights.iter().position(|known| known.id == light.id).unwrap_or(0);
    let feed = build.feeds().iter().position(|feed| feed.consumer == Consumer::Light(index)).unwrap_or(0);
    Draft {
        id: format!("light-{}", light.id),
        step: Stage::Light,
        title: format!("{}: what arrives", light.id),
        how: format!("Only {} on. Probes on its own terminals.", light.id),
        probes: Probes::Between(Spot::To(feed, Side::Plus), Spot::To(feed, Side::Minus)),
        setting: Setting::Volts,
        below: "Something on the way takes it: read the same feed where it starts, then part by part.",
        above: "Its supply is set too high, or is not the one planned.",
        danger: false,
    }
}

/// Voltage at the light furthest away, and what leaves the battery.
fn of_scene(build: &Build, scene: &Scene, step: Stage) -> Vec<Draft> {
    let (when, warm) = match step {
        Stage::Warm => ("after ten minutes", true),
        _ => ("now", false),
    };
    let lit = |light: &&Light| scene.lights.get(&light.id).is_some_and(|lit| lit.level > 0.0);
    let length = |light: &Light| light.feeds.iter().map(|feed| feed.length_m).fold(0.0, f64::max);
    let Some(far) = build.lights.iter().filter(lit).max_by(|a, b| length(a).total_cmp(&length(b))) else { return Vec::new() };
    let touch = if warm { " Touch every converter, resistor and plug first: warm is fine, too hot to hold is not." } else { "" };
    let mut volts = terminals(build, far);
    volts.id = format!("{}-{}-{}", step.word(), scene.id, far.id);
    volts.step = step;
    volts.title = format!("{}: the light furthest away", scene.name);
    volts.how = format!("Switch {} on and read at {}, {when}.{touch}", scene.name, far.id);
    let amps = Draft {
        id: format!("{}-{}-source", step.word(), scene.id),
        step,
        title: format!("{}: what leaves the battery", scene.name),
        how: format!("Clamp one wire of the battery, or put the meter in line; {when}."),
        probes: Probes::Source,
        setting: Setting::Amps,
        below: "Less than planned: something is dark or dim.",
        above: "More than planned: something is bridged, set too high, or is not what the plan says.",
        danger: false,
    };
    let source = Draft {
        id: format!("{}-{}-battery", step.word(), scene.id),
        step,
        title: format!("{}: what the supply has left", scene.name),
        how: format!("The same scene on; read at the supply's own terminals, {when}."),
        probes: Probes::Between(Spot::Source(Side::Plus), Spot::Source(Side::Minus)),
        setting: Setting::Volts,
        below: "It gives way more than planned: a tired battery, or thin leads before where you read.",
        above: "It gives way less than planned: less is lit than there should be, or it is fuller than you think.",
        danger: false,
    };
    if warm { vec![volts] } else { vec![volts, source, amps] }
}

/// The scene in which most is lit.
fn brightest(build: &Build) -> Option<&Scene> {
    let sum = |scene: &&Scene| scene.lights.values().map(|lit| lit.level).sum::<f64>();
    build.scenes.iter().max_by(|a, b| sum(a).total_cmp(&sum(b)))
}
