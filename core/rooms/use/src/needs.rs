//! What the plan says that an hour of each scene takes, so that what was seen can be held against it.

use orthavis_model::document::{Battery, Build, Load, Scene, Source, VehicleKind};
use orthavis_model::laws::conditions::{capacity_factor, of_usage};
use orthavis_model::laws::habits::habits_of;
use orthavis_physics::endurance::{Ends, draw};
use orthavis_physics::network::Network;
use std::collections::BTreeMap;

/// What a scene takes.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct SceneNeed {
    /// Share of the new battery's charge in an hour, Peukert's law included.
    pub per_h: f64,
    /// Mean current, A.
    pub mean_a: f64,
}

/// What the plan takes of its battery.
#[derive(Clone, Debug, PartialEq)]
pub struct Needs {
    /// The battery, new.
    pub battery: Battery,
    /// By scene id.
    pub scenes: BTreeMap<String, SceneNeed>,
    /// In the background with every light off, A: idle converters and pixels, and standing loads.
    pub idle_a: f64,
    /// What draws most of that: its name, and its share of it; absent where nothing does.
    pub idler: Option<(String, f64)>,
    /// Share of the new battery's charge that an hour on the move takes, where its motor is on it.
    pub moving_per_h: f64,
    /// Usual speed, km/h; 0: not known.
    pub speed_kmh: f64,
    /// What comes back on a mean day, Ah.
    pub gain_ah: f64,
    /// Share of the printed capacity that the plan says age has left.
    pub left: f64,
    /// Whether it flies.
    pub flies: bool,
}

/// Whether the vehicle of a build flies: a drone, or the model of a plane.
pub fn flies(build: &Build) -> bool {
    build.vehicle.kind == VehicleKind::Drone || matches!(build.vehicle.variant.as_deref(), Some("plane" | "glider"))
}

/// What draws most while everything is off, and its share of all that does.
fn idler(build: &Build) -> Option<(String, f64)> {
    let modules = build.converters.iter().map(|one| (one.id.clone(), one.idle_a));
    let pixels = build.lights.iter().filter_map(|light| match &light.load {
        Load::Pixels(pixels) => Some((light.id.clone(), f64::from(pixels.count) * pixels.idle_a)),
        _ => None,
    });
    let standing = build.standing.iter().map(|load| (load.id.clone(), load.current_a * load.hours_per_day / 24.0));
    let boards = build.controllers.iter().map(|one| (one.id.clone(), one.draws_a()));
    let all: Vec<(String, f64)> = modules.chain(pixels).chain(standing).chain(boards).filter(|(_, amps)| *amps > 0.0).collect();
    let sum: f64 = all.iter().map(|(_, amps)| amps).sum();
    all.into_iter().max_by(|a, b| a.1.total_cmp(&b.1)).map(|(id, amps)| (id, amps / sum))
}

/// Hours of a month.
const MONTH_H: f64 = 24.0 * 30.4;

impl Needs {
    /// Of a build on a battery; `None` on a rail, or where nothing of it can be solved.
    pub fn of(build: &Build) -> Option<Self> {
        let build = &*orthavis_physics::circuits::flashing(build);
        let Source::Battery(battery) = &build.source else { return None };
        let mut network = Network::new(build).ok()?;
        let mut need = |scene: &Scene, motor_w: f64| {
            let drawn = draw(build, battery, &mut network, scene, battery.reserve_soc());
            let run = drawn.run(battery, battery.reserve_soc(), |emf_v, _| motor_w / emf_v);
            run.filter(|run| run.hours > 0.0).map_or(SceneNeed { per_h: 0.0, mean_a: 0.0 }, |run| {
                let gone = if matches!(run.ends, Ends::Reserve) { battery.usable() } else { (run.ah / battery.capacity_ah).min(battery.usable()) };
                SceneNeed { per_h: gone / run.hours, mean_a: run.ah / run.hours }
            })
        };
        let scenes = build.scenes.iter().map(|scene| (scene.id.clone(), need(scene, 0.0))).collect();
        let nothing = Scene { id: String::new(), name: String::new(), lights: BTreeMap::new() };
        let dark = need(&nothing, 0.0);
        let motor = build.vehicle.propulsion.as_ref().filter(|motor| motor.power_w > 0.0);
        let moving = motor.map_or(dark, |motor| need(&nothing, motor.power_w));
        // Standing loads run for their hours of the day, where the network has them on.
        let standing_a: f64 = build.standing.iter().map(|load| load.current_a * load.hours_per_day / 24.0).sum();
        let gain_ah = build.usage.gain.as_ref().map_or(0.0, |gain| gain.hours_per_day * gain.current_a * habits_of(battery.chemistry).charge_efficiency);
        let (_, left) = of_usage(build);
        Some(Needs {
            battery: battery.clone(),
            scenes,
            idle_a: (dark.mean_a - build.standing_a()).max(0.0) + standing_a,
            idler: idler(build),
            moving_per_h: (moving.per_h - dark.per_h).max(0.0),
            speed_kmh: motor.map_or(0.0, |motor| motor.speed_kmh),
            gain_ah,
            left,
            flies: flies(build),
        })
    }

    /// What a time out is called: a craft flies.
    pub fn outing_word(&self) -> &'static str {
        if self.flies { "a flight" } else { "an outing" }
    }

    /// Capacity at a temperature, relative to that at 25 °C.
    pub fn cold(&self, temperature_c: Option<f64>) -> f64 {
        temperature_c.map_or(1.0, |temperature_c| capacity_factor(self.battery.chemistry, temperature_c, 1.0))
    }

    /// What an outing takes of a battery of that capacity at 25 °C, as a share of its charge: its lights, and its way where
    /// the motor is on the same battery.
    pub fn outing(&self, minutes: &BTreeMap<String, f64>, way_km: Option<f64>, capacity_ah: f64, temperature_c: Option<f64>) -> f64 {
        let (lights, way) = self.parts(minutes, way_km);
        (lights + way) * self.battery.capacity_ah / (capacity_ah * self.cold(temperature_c))
    }

    /// Shares of the new battery at 25 °C that lights and way take. A way that is not said is driven at the usual speed for as
    /// long as the scene is lit that is lit longest: while parked nothing moves.
    pub fn parts(&self, minutes: &BTreeMap<String, f64>, way_km: Option<f64>) -> (f64, f64) {
        let lights = minutes.iter().filter_map(|(scene, minutes)| Some(minutes.max(0.0) / 60.0 * self.scenes.get(scene)?.per_h)).sum();
        let lit_h = minutes.values().fold(0.0, |most: f64, minutes| most.max(*minutes)) / 60.0;
        let moving_h = way_km.filter(|_| self.speed_kmh > 0.0).map_or(lit_h, |way_km| way_km.max(0.0) / self.speed_kmh);
        (lights, moving_h * self.moving_per_h)
    }

    /// What a day with nothing lit takes of it.
    pub fn day(&self, capacity_ah: f64) -> f64 {
        24.0 * self.idle_a / capacity_ah + 24.0 * habits_of(self.battery.chemistry).self_month / MONTH_H
    }

    /// How far the state of charge moves for a volt, about a state.
    pub fn per_volt(&self, soc: f64) -> f64 {
        let (low, high) = ((soc - 0.03).max(0.0), (soc + 0.03).min(1.0));
        (high - low) / (self.battery.emf_v(high) - self.battery.emf_v(low)).max(1e-9)
    }

    /// How far off the state of charge may be that a rested voltage tells, one standard deviation.
    pub fn give(&self, volts: f64) -> f64 {
        self.give_at(self.battery.soc_at(volts))
    }

    /// The same about a state.
    pub fn give_at(&self, soc: f64) -> f64 {
        // A pack that was let rest, a hand-held meter that repeats itself, and a curve of the chemistry.
        (REST * self.battery.emf_v(soc) * self.per_volt(soc)).hypot(CURVE).min(0.5)
    }
}

/// Share by which a rested voltage scatters.
const REST: f64 = 0.0015;
/// What the curve of a chemistry is off by, as a share of the charge.
pub(crate) const CURVE: f64 = 0.01;
