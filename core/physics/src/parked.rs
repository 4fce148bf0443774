//! What a parked vehicle's lights draw with every light off, and how long its battery lasts then.

use crate::network::{Network, Point};
use crate::points::PointError;
use orthavis_model::document::{Battery, Build, Load, Scene, Source};
use orthavis_model::laws::habits::habits_of;
use orthavis_model::states::State;
use orthavis_model::topology::{Node, Topology, Wire};
use std::collections::BTreeMap;

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

/// The build without what sits behind an open switch. A strip that is fed at several places loses the feeds that are.
pub fn switches_open(build: &Build) -> Build {
    let graph = Topology::of(build);
    let switched = |wire: Wire| graph.laid(wire).switch.is_some();
    let open = |wire: &Wire| switched(*wire) || graph.path_to_source(graph.from(*wire)).any(switched);
    let fed = |node: Node| graph.inlets(node).any(|wire| !open(&wire));
    let mut rest = build.clone();
    retain(&mut rest.junctions, |at| fed(Node::Junction(at)));
    retain(&mut rest.converters, |at| fed(Node::Converter(at)));
    retain(&mut rest.circuits, |at| fed(Node::Circuit(at)));
    retain(&mut rest.controllers, |at| fed(Node::Controller(at)));
    for (at, light) in rest.lights.iter_mut().enumerate() {
        let own: Vec<Wire> = graph.inlets(Node::Light(at)).collect();
        retain(&mut light.feeds, |number| !open(&own[number]));
    }
    rest.lights.retain(|light| !light.feeds.is_empty());
    rest
}

/// Keeps the places that `kept` names.
fn retain<T>(list: &mut Vec<T>, kept: impl Fn(usize) -> bool) {
    let mut at = 0..;
    list.retain(|_| at.next().is_some_and(&kept));
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
    let converters = build.converters.iter().map(|one| one.idle_a * (one.set_v().unwrap_or(0.0) / low_v).max(1.0));
    let controllers = build.controllers.iter().map(|one| one.draws_a() * (one.max_in_v / low_v).max(1.0));
    let pixels = build.lights.iter().map(|light| match &light.load {
        Load::Pixels(pixels) => pixels.idle_a * f64::from(pixels.count) * (pixels.voltage_v / low_v).max(1.0),
        _ => 0.0,
    });
    Some(3.0 * converters.chain(controllers).chain(pixels).sum::<f64>())
}
