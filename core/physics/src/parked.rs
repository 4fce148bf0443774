//! What a parked vehicle's lights draw with every light off, and how long its battery lasts then.

use crate::network::{Network, Point};
use crate::points::PointError;
use orthavis_model::document::{Battery, Build, Load, Scene, Source};
use orthavis_model::laws::habits::habits_of;
use orthavis_model::states::State;
use std::collections::{BTreeMap, HashSet};

const HOURS_A_MONTH: f64 = 24.0 * 30.4;

/// What flows with every light off, A: idle converters, controllers and pixels, without the standing loads.
///
/// # Errors
/// Where there is no steady solution with every light off.
pub fn idle_a(build: &Build) -> Result<f64, PointError> {
    let failed = |error| PointError { scene: "every light off".into(), state: State::Half, error };
    let dark = Scene { id: String::new(), name: String::new(), lights: BTreeMap::new() };
    let mut network = Network::new(build).map_err(failed)?;
    let point = Point { standing_a: 0.0, ..Point::of(build, &dark, build.source.usual()) };
    let solution = network.solve(&point, None).map_err(failed)?;
    Ok(network.source(&solution).1.max(0.0))
}

/// The build without what sits behind an open switch.
pub fn switches_open(build: &Build) -> Build {
    let mut dead: HashSet<String> = HashSet::new();
    let feeds = build.feeds();
    // Suppliers stand in no particular order: repeat until nothing more falls silent.
    loop {
        let before = dead.len();
        for feed in &feeds {
            if feed.feed.switch.is_some() || dead.contains(&feed.feed.from) {
                dead.insert(feed.id.split('#').next().unwrap_or_default().to_owned());
            }
        }
        if dead.len() == before {
            break;
        }
    }
    let mut rest = build.clone();
    rest.junctions.retain(|part| !dead.contains(&part.id));
    rest.converters.retain(|part| !dead.contains(&part.id));
    rest.circuits.retain(|part| !dead.contains(&part.id));
    rest.controllers.retain(|part| !dead.contains(&part.id));
    rest.lights.retain(|part| !dead.contains(&part.id));
    rest
}

/// Standing loads over a whole day, A; with `ahead_only` those that a main disconnect does not reach.
pub fn standing_a(build: &Build, ahead_only: bool) -> f64 {
    build.standing.iter().filter(|load| !ahead_only || load.ahead_of_disconnect).map(|load| load.current_a * load.hours_per_day / 24.0).sum()
}

/// What a battery loses by itself, A.
pub fn self_discharge_a(battery: &Battery) -> f64 {
    battery.capacity_ah * habits_of(battery.chemistry).self_month / HOURS_A_MONTH
}

/// Days from full to a state of charge under a steady current, self-discharge included; infinite where nothing is lost.
pub fn days_to(battery: &Battery, current_a: f64, soc: f64) -> f64 {
    let total_a = (current_a + self_discharge_a(battery)) * battery.peukert_factor(current_a);
    battery.capacity_ah * (1.0 - soc) / (total_a * 24.0)
}

/// A parked battery that is harmed too soon: its switches open, standing loads going on.
pub struct Parked {
    /// Days from full to lasting harm.
    pub days: f64,
    /// Days between outings.
    pub interval_d: f64,
    /// Drawn in the background, A.
    pub background_a: f64,
}

/// How long a parked battery lasts; `None` for other sources, where nobody said how often it is used, and where what idles
/// is far too little to matter.
///
/// # Errors
/// Where there is no steady solution with every light off.
pub fn parked(build: &Build, within_intervals: f64) -> Result<Option<Parked>, PointError> {
    let Source::Battery(battery) = &build.source else { return Ok(None) };
    let Some(interval_d) = Some(build.usage.outings_per_week).filter(|often| *often > 0.0).map(|often| 7.0 / often) else { return Ok(None) };
    let days = |background_a: f64| days_to(battery, background_a, habits_of(battery.chemistry).harm_soc);
    let standing = standing_a(build, false);
    if most_idle_a(build, battery).is_some_and(|most| days(standing + most) >= within_intervals * interval_d) {
        return Ok(None);
    }
    let background_a = idle_a(&switches_open(build))? + standing;
    Ok(Some(Parked { days: days(background_a), interval_d, background_a }))
}

/// More than what can idle; `None` where that cannot be said without solving.
fn most_idle_a(build: &Build, battery: &Battery) -> Option<f64> {
    if !build.circuits.is_empty() {
        return None;
    }
    let low_v = battery.emf_v(0.5);
    let converters = build.converters.iter().map(|one| one.idle_a * (one.set_v.unwrap_or(0.0) / low_v).max(1.0));
    let controllers = build.controllers.iter().map(|one| one.draws_a() * (one.max_in_v / low_v).max(1.0));
    let pixels = build.lights.iter().map(|light| match &light.load {
        Load::Pixels(pixels) => pixels.idle_a * f64::from(pixels.count) * (pixels.voltage_v / low_v).max(1.0),
        _ => 0.0,
    });
    Some(3.0 * converters.chain(controllers).chain(pixels).sum::<f64>())
}
