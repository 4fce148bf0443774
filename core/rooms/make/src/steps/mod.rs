//! The steps of making a build, in an order in which a mistake is still cheap: cut before anything is glued, tested on
//! the bench before it is out of reach, the fuse last before power.

mod lights;
mod vehicle;

pub(crate) use lights::{CLIP, connector};

use crate::labels::set_to;
use orthavis_model::document::{Build, Consumer, FeedRef, Fixing, Hands, Light, Load, Return, Trait, VehicleKind};
use orthavis_model::fixing::{Protection, Site, chosen, coat_min, curing, protection, workshop_c};
use orthavis_model::trying::Stage;
use orthavis_model::words;
use orthavis_model::working::counted;
use serde::Serialize;
use std::collections::BTreeSet;

words! {
    /// What part of the work a step belongs to, in order.
    Phase {
        /// Trying it on, with a tape measure.
        Fit = "fit" called "Try it on",
        /// Cutting and marking.
        Cut = "cut" called "Cut and mark",
        /// On the bench.
        Bench = "bench" called "On the bench",
        /// On the vehicle.
        Vehicle = "vehicle" called "On the vehicle",
        /// Power.
        Power = "power" called "Power",
        /// Closing it up.
        Close = "close" called "Close it up",
    }
}

/// What waits after a step, by itself.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Wait {
    /// How long, min.
    pub minutes: f64,
    /// What for, as in `five-minute epoxy cures`.
    pub what: String,
}

/// One step.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = MakeStep))]
pub struct Step {
    /// Stays the same while the part that it is about stays: ticks name it.
    pub id: String,
    /// What part of the work.
    pub phase: Phase,
    /// Verb and object.
    pub title: String,
    /// How, in a few sentences.
    pub how: String,
    /// Why it is here.
    pub why: &'static str,
    /// The part or feed that it is about.
    pub about: Option<String>,
    /// Tools.
    pub tools: Vec<&'static str>,
    /// What is used up or put in.
    pub materials: Vec<String>,
    /// Hands on it, min.
    pub minutes: f64,
    /// Soldered joints made in it.
    pub joints: u32,
    /// What waits afterwards.
    pub wait: Option<Wait>,
    /// Ids of the steps that come before.
    pub after: Vec<String>,
    /// What to look at before going on.
    pub checks: Vec<String>,
    /// Stages of the check list whose readings belong here; where the step is about a part, those of that part.
    pub readings: Vec<Stage>,
    /// The caution that belongs here.
    pub caution: Option<String>,
    /// What undoing it costs.
    pub undo: &'static str,
    /// It is not done before the bench has found the build safe.
    pub wants_safe: bool,
}

const IRON: &str = "soldering iron";
const CUTTERS: &str = "side cutters";
const FUMES: &str = "Solder fumes hurt the lungs: a window open, and not over a battery.";
const STRIPPER: &str = "wire stripper";
const METER: &str = "multimeter";
const TAPE: &str = "tape measure";
const HEAT: &str = "hot-air gun or lighter";
const GLASSES: &str = "safety glasses";

/// Steps being gathered, with what each of them waits for.
struct Gathered<'a> {
    build: &'a Build,
    steps: Vec<Step>,
    ids: BTreeSet<String>,
}

/// A step without what most steps lack.
fn step(id: String, phase: Phase, title: String, minutes: f64) -> Step {
    Step {
        id,
        phase,
        title,
        how: String::new(),
        why: "",
        about: None,
        tools: Vec::new(),
        materials: Vec::new(),
        minutes,
        joints: 0,
        wait: None,
        after: Vec::new(),
        checks: Vec::new(),
        readings: Vec::new(),
        caution: None,
        undo: "nothing",
        wants_safe: phase as usize >= Phase::Vehicle as usize,
    }
}

/// Every step of a build, each after all that it waits for.
pub fn steps(build: &Build) -> Vec<Step> {
    let mut all = Gathered { build, steps: Vec::new(), ids: BTreeSet::new() };
    if build.lights.is_empty() {
        return all.steps;
    }
    all.fit();
    all.cut();
    for light in &build.lights {
        all.join(light);
    }
    for index in 0..build.converters.len() {
        all.set(index);
    }
    for index in 0..build.circuits.len() {
        all.solder(index);
    }
    for index in 0..build.controllers.len() {
        all.program(index);
    }
    all.vehicle();
    all.power();
    all.close();
    all.steps
}

impl Gathered<'_> {
    /// How joints are made.
    fn hands(&self) -> Hands {
        self.build.make.as_ref().and_then(|make| make.hands).unwrap_or(Hands::Solder)
    }

    fn add(&mut self, step: Step) {
        self.ids.insert(step.id.clone());
        self.steps.push(step);
    }

    fn has(&self, id: &str) -> bool {
        self.ids.contains(id)
    }

    /// Those of these that there are.
    fn known(&self, ids: &[String]) -> Vec<String> {
        ids.iter().filter(|id| self.has(id)).cloned().collect()
    }

    /// Ids of all steps that begin so.
    fn all_of(&self, prefixes: &[&str]) -> Vec<String> {
        self.steps.iter().filter(|step| prefixes.iter().any(|prefix| step.id.starts_with(prefix))).map(|step| step.id.clone()).collect()
    }
}
