//! What sets how bright a light is, and a dimmer where nothing does.

use crate::document::{Build, CircuitKind, Dimmer, Light, Load, LoadKind, Output};
use crate::edit::is_driven;
use crate::practice::rating_above;
use crate::topology::Topology;

/// Pulses of usual dimmers, a second.
const USUAL_HZ: f64 = 500.0;
/// What a dimmer is rated for, of what it carries.
pub const SPARE: f64 = 1.25;
/// Dimmers on sale, A.
pub const RATINGS_A: [f64; 6] = [2.0, 3.0, 5.0, 8.0, 15.0, 30.0];

/// Whether something sets how bright a light is: its own chips, a pin, a transistor that a pin switches, or a dimmer on the way.
pub fn is_dimmed(graph: &Topology<'_>, light: &Light) -> bool {
    let build = graph.build();
    let Some(node) = graph.node(&light.id) else { return true };
    let pin = build.controllers.iter().flat_map(|one| &one.outputs).filter_map(Output::one_light).any(|output| output.light == light.id);
    let by_switch = build.circuits.iter().any(|one| one.kind() == CircuitKind::Switch && one.drives.contains(&light.id));
    light.load.kind() == LoadKind::Pixels || pin || by_switch || graph.path_to_source(node).any(|wire| graph.laid(wire).dimmer.is_some())
}

/// Puts a dimmer in every wire to a light that has nothing yet to dim it; a driver's light is left as it is, for what dims a
/// driver sits before it. `None` where there is no such light.
pub fn put_before(build: &mut Build, id: &str) -> Option<()> {
    let light = build.lights.iter().find(|light| light.id == id)?;
    if is_dimmed(&Topology::of(build), light) || is_driven(build, light) {
        return Some(());
    }
    // What the light takes at full: its rated current is what a dimmer is bought for.
    let rating_a = rating_above(SPARE * rated_a(light), &RATINGS_A);
    for feed in &mut build.lights.iter_mut().find(|light| light.id == id)?.feeds {
        feed.dimmer = Some(Dimmer { hz: USUAL_HZ, rating_a });
    }
    Some(())
}

/// What a light takes at its rated voltage and full brightness, A.
fn rated_a(light: &Light) -> f64 {
    match &light.load {
        Load::LedArray(array) => array.led.if_a * f64::from(array.parallel),
        Load::Strip(strip) => strip.power_w_per_m * strip.length_m / strip.voltage_v,
        Load::Pixels(pixels) => f64::from(pixels.count) * pixels.channel_a.iter().sum::<f64>(),
        Load::Module(module) => module.power_w / module.voltage_v,
    }
}
