//! Practice: one fault is hidden in a build, and a person looks for it with a meter. What they see and read is the
//! dictionary's own; how long the program's own search takes is the mark to beat.

use crate::BenchError;
use crate::desk::{Desk, Fed, Meter, Place, Shown};
use crate::diagnose::{FaultDictionary, Known, Look, Saw, Symptom, hypotheses, in_words, repair};
use crate::fault::{Fault, FaultKind};
use crate::meter::{Serial, Setting};
use crate::pinch::pinch;
use crate::reading::{Probes, unpowered, value};
use crate::rig::Rig;
use crate::seen::seen;
use orthavis_model::chance::Dice;
use orthavis_model::document::{Build, Scene};
use orthavis_model::edit::feed_mut;
use orthavis_model::states::State;
use serde::Serialize;
use std::collections::BTreeMap;

/// Seconds of work that are not readings: turning the power on or off, a new fuse in the meter, a part swapped for a
/// suspect that was none.
pub const POWER_S: f64 = 5.0;
/// A new fuse in the meter, s.
pub const METER_FUSE_S: f64 = 60.0;
/// A part swapped, s.
pub const SWAP_S: f64 = 120.0;
/// Below this share of its light a light is seen to be weak beside one that is not.
const SEEN_WEAK: f64 = 0.9;

/// A level of drills: what kind of fault is hidden.
#[derive(Clone, Copy, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Level {
    /// From 1.
    pub number: u8,
    /// Its name.
    pub name: &'static str,
    /// What one learns.
    pub about: &'static str,
    /// What a build lacks that has no such fault.
    #[serde(skip)]
    lacks: &'static str,
}

/// From what is found by looking to what shows only under load.
pub const LEVELS: [Level; 6] = [
    Level {
        number: 1,
        name: "A switch or a fuse",
        about: "One part in the way does not let current through. Volts before it, none behind it.",
        lacks: "it has neither a switch nor a fuse, or none of them darkens this scene",
    },
    Level {
        number: 2,
        name: "The wrong way round",
        about: "Plus and minus swapped, at a part or at one LED. Volts are there, light is not.",
        lacks: "nothing in this scene can be put in the wrong way round",
    },
    Level {
        number: 3,
        name: "Something is open",
        about: "A joint, a rail, a row or a data wire that does not conduct. Halve the way and look which half has the gap.",
        lacks: "nothing that is open darkens a light of this scene",
    },
    Level {
        number: 4,
        name: "A wrong value",
        about: "A resistor or a converter that is not what the plan says. Everything works, and yet not as it should.",
        lacks: "no wrong value shows in the lights of this scene",
    },
    Level {
        number: 5,
        name: "Plus touches minus",
        about: "A pinched wire or a bridge of solder. Power off: this one is found with ohms.",
        lacks: "no wire or LED of this scene can be bridged",
    },
    Level {
        number: 6,
        name: "Only under load",
        about: "A joint that barely touches, or a tired battery. Idle it reads as it should; with current it does not.",
        lacks: "no weak joint can be seen in the lights of this scene",
    },
];

fn level_of(fault: &Fault) -> u8 {
    match (fault.kind, fault.at) {
        (FaultKind::Blown | FaultKind::StuckOpen, _) => 1,
        (FaultKind::Reversed, _) => 2,
        (FaultKind::Open | FaultKind::Burnt | FaultKind::DeadPixel | FaultKind::CutData, _) => 3,
        (FaultKind::WrongValue, _) => 4,
        (FaultKind::Short, _) => 5,
        (FaultKind::WeakJoint | FaultKind::Tired, _) => 6,
    }
}

/// How many different faults of a level a build can have.
pub fn faults_of(build: &Build, level: u8) -> usize {
    hypotheses(build).iter().filter(|fault| level_of(fault) == level).count()
}

/// A drill: a build in which one fault is hidden, always the same one for the same seed.
pub struct Drill<'a> {
    build: &'a Build,
    scene: &'a Scene,
    state: State,
    fault: Fault,
    /// The fault, and what opened because of it.
    all: Vec<Fault>,
    /// How each light of the scene looks, by its place in the document.
    pub looks: BTreeMap<usize, Look>,
    /// Whether a fuse opened or a module gave up: which one is for the meter to find.
    pub opened: bool,
    /// Feeds whose wires are hot to the hand.
    pub hot: Vec<usize>,
}

impl<'a> Drill<'a> {
    /// Hides a fault of a level that can be seen in this scene.
    ///
    /// # Errors
    /// A level that is none, a build that has no such fault, or no steady state of the plan.
    pub fn deal(build: &'a Build, scene: &'a Scene, state: State, level: u8, seed: u64) -> Result<Self, BenchError> {
        let Some(known) = LEVELS.iter().find(|known| known.number == level) else {
            return Err(BenchError::new("level", format!("there is no level {level}"), format!("Give 1 to {}", LEVELS.len())));
        };
        let sound = Rig::new(build, &[])?;
        let mut plan_rig = Rig::new(build, &[])?;
        let plan = plan_rig.shot(scene, state)?;
        let lit = |index: &usize| scene.lights.get(&build.lights[*index].id).is_some_and(|lit| lit.level > 0.0);
        let lights: Vec<(usize, Vec<f64>)> = (0..build.lights.len()).filter(lit).map(|light| (light, sound.brightness(&plan, light))).collect();
        let mut dice = Dice::new(seed);
        let mut order: Vec<(u64, Fault)> = hypotheses(build).into_iter().filter(|fault| level_of(fault) == level).map(|fault| (dice.bits(), fault)).collect();
        order.sort_by_key(|(key, _)| *key);
        for (_, fault) in order {
            let Ok(found) = seen(&sound, std::slice::from_ref(&fault), scene, state, Some(&plan)) else { continue };
            let look = |(light, plan): &(usize, Vec<f64>)| (*light, Look::of(&found.rig.brightness(&found.shot, *light), plan));
            let looks: BTreeMap<usize, Look> = lights.iter().map(look).collect();
            let opened = !found.blown.is_empty() || !found.tripped.is_empty();
            let shows = |look: &Look| look.symptom() != Symptom::Fine || look.share < SEEN_WEAK || look.share > 1.0 / SEEN_WEAK;
            if opened || !found.hot.is_empty() || looks.values().any(shows) {
                return Ok(Drill { build, scene, state, fault, all: found.faults, looks, opened, hot: found.hot });
            }
        }
        Err(BenchError::new(
            "level",
            format!("this build has no drill of level {level}, {}: {}", known.name.to_lowercase(), known.lacks),
            "Take another level or scene, or a sample build",
        ))
    }

    /// What the meter shows, with the power on or off, and the seconds that it took.
    ///
    /// # Errors
    /// A place at which the setting cannot be used.
    pub fn read(&self, meter: &mut Meter, power: bool, setting: Setting, milliamps: bool, place: Place) -> Result<(Shown, f64), BenchError> {
        let fed = if power { Fed::Own } else { Fed::Off };
        let desk = Desk::new(self.build, self.all.clone(), self.scene, self.state, fed);
        Ok((desk.read(meter, setting, milliamps, place)?, setting.work_s()))
    }

    /// Whether a guess names the fault: the same place and the same thing to do there.
    pub fn is(&self, guess: &Fault) -> bool {
        guess.at == self.fault.at && repair(guess) == repair(&self.fault)
    }

    /// The fault.
    pub fn fault(&self) -> &Fault {
        &self.fault
    }

    /// How the program looks for it, with a meter and the same eyes.
    ///
    /// # Errors
    /// When the plan has no steady state.
    pub fn search(&self, serial: u64) -> Result<Vec<Check>, BenchError> {
        let dictionary = FaultDictionary::new(self.build, self.scene, self.state)?;
        let mut rig = Rig::new(self.build, &self.all)?;
        let shot = rig.shot(self.scene, self.state)?;
        let saw = |(light, look): (&usize, &Look)| Saw {
            light: Some(*light),
            symptom: look.symptom(),
            from: look.dark_from.filter(|_| look.symptom() == Symptom::Part),
        };
        let mut known = Known { seen: self.looks.iter().map(saw).collect(), ..Known::default() };
        if self.opened {
            known.seen.push(Saw { light: None, symptom: Symptom::Blows, from: None });
        }
        let mut checks = Vec::new();
        // A search without end is none; one that learns nothing ends by itself.
        while let (Some(next), true) = (dictionary.diagnose(&known)?.next, checks.len() < 60) {
            if next.setting == Setting::Look {
                // A light that is off in this scene tells nothing.
                known.seen.extend(self.build.lights.iter().position(|light| light.id == next.probes[0]).map(|light| Saw {
                    light: Some(light),
                    symptom: Symptom::Fine,
                    from: None,
                }));
                continue;
            }
            let names: Vec<&str> = next.probes.iter().map(String::as_str).collect();
            let probes = Probes::parse(self.build, &names)?;
            let shown = match next.setting {
                Setting::Ohms | Setting::Diode => unpowered(&rig, next.setting, &probes)?,
                setting => Some(value(&rig, &shot, setting, &probes)),
            };
            let shown = shown.map(|shown| Serial(serial).shows(next.setting, shown));
            checks.push(Check { how: next.how, shown, unit: next.unit, work_s: next.work_s });
            known.read.push((next.setting, probes, shown));
        }
        Ok(checks)
    }
}

/// One check of the program's own search.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = SearchCheck))]
pub struct Check {
    /// How.
    pub how: String,
    /// What the meter showed; `null`: open.
    pub shown: Option<f64>,
    /// Its unit.
    pub unit: &'static str,
    /// Time it took, s.
    pub work_s: f64,
}

/// What may be answered: every fault that a build can have, weak joints once whatever their resistance.
pub fn answers(build: &Build) -> Vec<(Fault, String)> {
    let mut all: Vec<(Fault, String)> = Vec::new();
    for fault in hypotheses(build) {
        if fault.kind != FaultKind::WeakJoint {
            all.push((fault.clone(), in_words(build, &fault)));
        } else if !all.iter().any(|(known, _)| known.kind == fault.kind && known.at == fault.at) {
            all.push((fault.clone(), in_words(build, &Fault { size: None, ..fault })));
        }
    }
    all
}

/// What a wire in place of a fuse would do.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Bridged {
    /// The feed whose fuse it is.
    pub feed: String,
    /// What its far end would carry if plus touched minus there, A.
    pub fault_a: f64,
    /// Whether anything else would open, and every wire survive.
    pub survives: bool,
    /// Temperature that the hottest wire would reach, °C.
    pub peak_c: f64,
    /// In words.
    pub words: String,
}

/// What becomes of each fused feed when its fuse is bridged with wire, at a state.
pub fn bridged(build: &Build, state: State) -> Vec<Bridged> {
    let fused: Vec<String> = build.feeds().into_iter().filter(|feed| feed.feed.fuse.is_some()).map(|feed| feed.id).collect();
    let one = |feed: String| {
        let mut without = build.clone();
        feed_mut(&mut without, &feed)?.fuse = None;
        let states = pinch(&without, &feed, 1.0).ok()?;
        // A battery is not charged at a dictionary; what it gives when full stands for that.
        let pinch = states.iter().find(|pinch| pinch.state == state).or(states.first())?;
        let amps = pinch.fault_a;
        let after = if pinch.survives {
            format!("its wire would stand that at {:.0} °C, and whatever shorts it would not", pinch.peak_c)
        } else {
            format!("{} would reach {:.0} °C: it burns", pinch.hottest, pinch.peak_c)
        };
        let words = format!(
            "A wire in place of the fuse of {feed} never blows. The next short at its far end would carry {amps:.0} A, and {after}. Find what blew the fuse first."
        );
        Some(Bridged { feed, fault_a: amps, survives: pinch.survives, peak_c: pinch.peak_c, words })
    };
    fused.into_iter().filter_map(one).collect()
}

/// Days until something comes back, by how often in a row it went well.
pub const INTERVALS: [i64; 5] = [1, 3, 7, 21, 60];

/// An exercise that was done.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Done {
    /// Which: a level or a lesson.
    pub topic: String,
    /// On which day, counted from any.
    pub day: i64,
    /// Whether it was right at once, and without a mistake that hurts.
    pub good: bool,
}

/// Where a topic stands.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = TopicStanding))]
pub struct Standing {
    /// How often it was done.
    pub times: usize,
    /// How often in a row it went well.
    pub row: usize,
    /// The day on which it comes back, counted as those given.
    pub due: i64,
}

/// What was done, topic by topic: what went wrong comes back the next day, what went well after ever longer times.
pub fn standings(done: &[Done]) -> BTreeMap<String, Standing> {
    let mut order: Vec<&Done> = done.iter().collect();
    // Of one day as they were written.
    order.sort_by_key(|one| one.day);
    let mut all: BTreeMap<String, Standing> = BTreeMap::new();
    for one in order {
        let standing = all.entry(one.topic.clone()).or_insert(Standing { times: 0, row: 0, due: one.day });
        standing.times += 1;
        standing.row = if one.good { standing.row + 1 } else { 0 };
        standing.due = one.day + INTERVALS[standing.row.saturating_sub(1).min(INTERVALS.len() - 1)];
    }
    all
}
