//! How far a sound build may be from its plan: the tolerances of its parts, each tried on its own, together with the
//! meter's error as the root of the sum of squares.
//!
//! Resistors 5 %, an LED ±0.1 V up to 2.5 V and ±0.2 V above (a strip's power 5 %), converters 2 %, wire and contacts 20 %,
//! cells 1 %.

use crate::meter::Setting;
use crate::reading::{Probes, value};
use crate::rig::{Rig, Shot};
use crate::{BenchError, fault::Fault};
use orthavis_model::document::{Build, Load, Scene, Source};
use orthavis_model::states::State;

const RESISTOR: f64 = 0.05;
const CONVERTER: f64 = 0.02;
const WIRE: f64 = 0.20;
const CELL: f64 = 0.01;

/// How many [`variations`] there are at the most.
pub fn count(build: &Build) -> usize {
    build.junctions.len() + 2 * build.converters.len() + build.lights.iter().map(|light| 2 + light.feeds.len()).sum::<usize>()
}

/// Everything that may be off, one at a time: the plan with it as far off as it may be.
pub fn variations(build: &Build) -> Vec<Build> {
    let mut all = Vec::new();
    let mut vary = |change: &mut dyn FnMut(&mut Build)| {
        let mut copy = build.clone();
        change(&mut copy);
        all.push(copy);
    };
    for (index, light) in build.lights.iter().enumerate() {
        match &light.load {
            Load::LedArray(array) => {
                if array.resistor_ohm > 0.0 {
                    vary(&mut |copy| {
                        if let Load::LedArray(array) = &mut copy.lights[index].load {
                            array.resistor_ohm *= 1.0 + RESISTOR;
                        }
                    });
                }
                vary(&mut |copy| {
                    if let Load::LedArray(array) = &mut copy.lights[index].load {
                        array.led.vf_v += if array.led.vf_v <= 2.5 { 0.1 } else { 0.2 };
                    }
                });
            }
            Load::Strip(_) => vary(&mut |copy| {
                if let Load::Strip(strip) = &mut copy.lights[index].load {
                    strip.power_w_per_m *= 1.0 + RESISTOR;
                }
            }),
            Load::Pixels(_) | Load::Module(_) => {}
        }
        for number in 0..light.feeds.len() {
            vary(&mut |copy| copy.lights[index].feeds[number].length_m *= 1.0 + WIRE);
        }
    }
    for index in 0..build.converters.len() {
        vary(&mut |copy| *copy.converters[index].conversion.setting_mut() *= 1.0 + CONVERTER);
        vary(&mut |copy| copy.converters[index].feed.length_m *= 1.0 + WIRE);
    }
    for index in 0..build.junctions.len() {
        vary(&mut |copy| copy.junctions[index].feed.length_m *= 1.0 + WIRE);
    }
    all
}

/// The builds that may be on the bench where the plan is what was meant.
pub struct Likeness<'a> {
    rigs: Vec<Rig<'a>>,
    battery: bool,
}

impl<'a> Likeness<'a> {
    /// From the plan's variations.
    ///
    /// # Errors
    /// When the network of one cannot be made.
    pub fn new(build: &Build, variations: &'a [Build]) -> Result<Self, BenchError> {
        let rigs = variations.iter().map(|copy| Rig::new(copy, &[])).collect::<Result<_, _>>()?;
        Ok(Likeness { rigs, battery: matches!(build.source, Source::Battery(_)) })
    }

    /// What each variation looks like at a scene and a state, those that have a steady state; then the plan with its cells
    /// as far off as they may be.
    pub fn shots(&mut self, plan: &mut Rig<'_>, scene: &Scene, state: State, near: &Shot) -> Vec<(usize, Shot)> {
        let mut shots: Vec<(usize, Shot)> =
            self.rigs.iter_mut().enumerate().filter_map(|(index, rig)| Some((index, rig.shot_near(scene, state, Some(near)).ok()?))).collect();
        if self.battery
            && let Ok(shot) = plan.shot_scaled(scene, state, 1.0 + CELL, Some(near))
        {
            shots.push((usize::MAX, shot));
        }
        shots
    }

    /// The rig that a shot belongs to.
    pub fn rig<'b>(&'b self, plan: &'b Rig<'a>, index: usize) -> &'b Rig<'a> {
        self.rigs.get(index).unwrap_or(plan)
    }
}

/// Root of the sum of squares of what every tolerance does to a reading, and of the meter's error.
pub fn sigma(expected: f64, setting: Setting, varied: impl Iterator<Item = f64>) -> f64 {
    let parts: f64 = varied.map(|value| (value - expected).powi(2)).sum();
    (parts + setting.error(expected).powi(2)).sqrt()
}

/// What a reading is on a sound build, with the half-width of the band in which it is fine.
///
/// # Errors
/// When the plan has no steady state there.
pub fn expected(build: &Build, scene: &Scene, state: State, probes: &[(Setting, Probes)]) -> Result<Vec<(f64, f64)>, BenchError> {
    let copies = variations(build);
    let mut plan = Rig::new(build, &[] as &[Fault])?;
    let mut like = Likeness::new(build, &copies)?;
    let shot = plan.shot(scene, state).map_err(|error| BenchError::new(&scene.id, error.to_string(), "Mend the plan first"))?;
    let shots = like.shots(&mut plan, scene, state, &shot);
    let readings = probes.iter().map(|(setting, probes)| {
        let here = value(&plan, &shot, *setting, probes);
        let varied = shots.iter().map(|(index, shot)| value(like.rigs.get(*index).unwrap_or(&plan), shot, *setting, probes));
        (here, sigma(here, *setting, varied))
    });
    Ok(readings.collect())
}
