//! What if: more or less light, a larger battery, a colder day, longer evenings, always beside the plan as it is.

use super::{Drain, drain_apart};
use orthavis_model::document::{Build, Source, parse_value};
use orthavis_model::working::Fact;
use orthavis_physics::points::{PointError, finished};
use serde::Serialize;

/// A change to try; each is relative to the plan.
#[derive(Clone, Copy, Debug, PartialEq, serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WhatIf {
    /// Every level of every scene times this.
    pub brightness_factor: f64,
    /// Capacity times this.
    pub capacity_factor: f64,
    /// Temperature of the battery, °C.
    pub temperature_c: f64,
    /// Minutes of every scene times this.
    pub hours_factor: f64,
}

/// A figure of [`WhatIf`] as a slider.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct Dial {
    /// The field.
    pub name: &'static str,
    /// What a person reads beside it.
    pub label: &'static str,
    /// Where the slider begins and ends, and its steps.
    pub min: f64,
    /// The end.
    pub max: f64,
    /// From stop to stop.
    pub step: f64,
    /// `1`: a share of the plan; `×`: so many times the plan; else the unit of the figure itself.
    pub unit: &'static str,
    /// Only a battery has it.
    pub battery: bool,
}

/// The sliders, most telling first.
pub const DIALS: [Dial; 4] = [
    Dial { name: "brightness_factor", label: "Brightness", min: 0.1, max: 1.5, step: 0.05, unit: "1", battery: false },
    Dial { name: "capacity_factor", label: "Battery size", min: 0.25, max: 4.0, step: 0.05, unit: "×", battery: true },
    Dial { name: "temperature_c", label: "Temperature of the battery", min: 0.0, max: 40.0, step: 1.0, unit: "°C", battery: true },
    Dial { name: "hours_factor", label: "Hours of use", min: 0.1, max: 3.0, step: 0.05, unit: "×", battery: false },
];

/// A figure of the plan beside the same of the change.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Pair {
    /// The plan; absent where it has no such figure.
    pub plan: Option<Fact>,
    /// The change.
    pub changed: Option<Fact>,
    /// The change less the plan, in their unit; absent where they read the same.
    pub difference: Option<f64>,
}

/// Figures closer than this share of themselves read the same.
const SAME: f64 = 1e-3;

/// The answer.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Tried {
    /// Figures, most important first.
    pub pairs: Vec<Pair>,
    /// RFC 6902 operations that take the change over.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<Object>))]
    pub changes: json_patch::Patch,
}

impl WhatIf {
    /// Whether every part of it can be, on this build: what it makes can be taken over.
    ///
    /// # Errors
    /// The first that cannot, with its range.
    pub fn check(&self, build: &Build) -> Result<(), String> {
        let parts = [
            ("brightness_factor", self.brightness_factor, 0.01, 10.0),
            ("capacity_factor", self.capacity_factor, 0.05, 20.0),
            ("temperature_c", self.temperature_c, 0.0, 40.0),
            ("hours_factor", self.hours_factor, 0.0, 20.0),
        ];
        let wrong = parts.iter().find(|(_, value, low, high)| !(low..=high).contains(&value));
        if let Some((name, value, low, high)) = wrong {
            return Err(format!("`{name}` is {value}. Give {low} to {high}."));
        }
        parse_value(&self.apply(build).to_value()).map(|_| ()).map_err(|error| format!("It leads to a build that cannot be: {error} Try a smaller change."))
    }

    /// The build with the change. Levels stay within what a light can give.
    pub fn apply(&self, build: &Build) -> Build {
        let mut changed = build.clone();
        for scene in &mut changed.scenes {
            for light in scene.lights.values_mut() {
                light.level = (light.level * self.brightness_factor).clamp(0.0, 1.0);
            }
        }
        if let Source::Battery(battery) = &mut changed.source {
            battery.capacity_ah *= self.capacity_factor;
            // Cells side by side share the current: a measured resistance goes down with them.
            battery.resistance_ohm = battery.resistance_ohm.map(|ohm| ohm / self.capacity_factor);
            let usual = build.usage.temperature_c.unwrap_or(orthavis_model::practice::USUAL_C);
            if self.temperature_c != usual {
                changed.usage.temperature_c = Some(self.temperature_c);
            }
        }
        changed.usage.minutes.values_mut().for_each(|minutes| *minutes *= self.hours_factor);
        changed
    }
}

/// The plan and the change side by side, for one scene.
///
/// # Errors
/// A scene of either without a steady solution.
pub fn what_if(build: &Build, scene: &str, change: &WhatIf) -> Result<Tried, PointError> {
    let changed = change.apply(build);
    let (before, after) = (figures(&drain_apart(build)?, scene), figures(&drain_apart(&changed)?, scene));
    finished(build)?;
    let keys: Vec<&str> = before.iter().chain(&after).map(|fact| fact.key).collect();
    let mut pairs: Vec<Pair> = Vec::new();
    for (index, key) in keys.iter().enumerate() {
        if keys[..index].contains(key) {
            continue;
        }
        let of = |facts: &[Fact]| facts.iter().find(|fact| fact.key == *key).cloned();
        let (plan, changed) = (of(&before), of(&after));
        let difference = plan.as_ref().zip(changed.as_ref()).map(|(a, b)| (b.value - a.value, a.value));
        let difference = difference.filter(|(by, of)| by.abs() > SAME * of.abs()).map(|(by, _)| by);
        pairs.push(Pair { plan, changed, difference });
    }
    Ok(Tried { pairs, changes: json_patch::diff(&build.to_value(), &changed.to_value()) })
}

/// Time of light of the scene, then what matters most for the vehicle, each once.
fn figures(drain: &Drain, scene: &str) -> Vec<Fact> {
    let scene = drain.scenes.iter().filter(|known| known.scene == scene).flat_map(|known| &known.facts);
    let mut facts: Vec<Fact> = scene.filter(|fact| fact.key == "hours" || fact.key == "mean_a").cloned().collect();
    for fact in drain.headline.iter().chain(&drain.day) {
        if facts.iter().all(|known| known.key != fact.key) {
            facts.push(fact.clone());
        }
    }
    facts
}
