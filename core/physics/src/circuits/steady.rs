//! What a circuit is to the network: what it takes itself, and what its lights lack of the supply while they are on.

use super::fed::{Fed, Site};
use super::kind;
use orthavis_model::document::{Build, CircuitKind, Controller, Conversion, Converter, Gauge, SmallCircuit};
use orthavis_model::edit::plain_feed;
use std::borrow::Cow;

/// Between collector and emitter of a saturated transistor, V: representative for a small one.
pub(super) const SATURATED_V: f64 = 0.1;
/// Below this nothing takes anything, V: behind a supply that is off there is nobody.
const ASLEEP_V: f64 = 0.5;
/// Above any supply: a stand-in has no setting of its own.
const NO_SETTING_V: f64 = 1e6;

/// A part of the network that draws and drops what a circuit does while its lights are on.
pub fn stand_in(build: &Build, circuit: &SmallCircuit) -> Converter {
    let fed = Fed::of(build, circuit, build.states()[0]);
    // The network knows an alternating supply by its effective value.
    let volts = if fed.hz.is_some() { fed.emf_v * std::f64::consts::FRAC_1_SQRT_2 } else { fed.emf_v };
    let (own_a, drop_v) = kind::of(&circuit.parts).draws(&Site::of(build, circuit, fed), volts);
    // To a nanovolt and a picoampere: what is left of rounding behind that is another figure on every machine.
    let told = |value: f64, unit: f64| (value / unit).round() * unit;
    let (own_a, drop_v) = (told(own_a, 1e-12), told(drop_v, 1e-9));
    Converter {
        id: circuit.id.clone(),
        feed: circuit.feed.clone(),
        max_out_a: output_limit_a(circuit),
        idle_a: own_a,
        mass_g: circuit.mass_g,
        ..passing(drop_v)
    }
}

/// What passes its input on, less what it keeps, V.
fn passing(drop_v: f64) -> Converter {
    Converter {
        feed: plain_feed("source", 0.0, Gauge::Mm2(1.0)),
        conversion: Conversion::linear(NO_SETTING_V, drop_v),
        min_in_v: ASLEEP_V,
        max_in_v: NO_SETTING_V,
        max_out_a: f64::INFINITY,
        ..Converter::PLAIN
    }
}

/// What is in the network without being in the document as a converter: what small circuits and controllers draw and drop.
pub fn stand_ins(build: &Build) -> impl Iterator<Item = Converter> {
    let circuits = build.circuits.iter().map(|circuit| stand_in(build, circuit));
    circuits.chain(build.controllers.iter().map(controller_stand_in))
}

/// A part of the network that takes what a controller takes itself.
pub fn controller_stand_in(controller: &Controller) -> Converter {
    Converter {
        id: controller.id.clone(),
        feed: controller.feed.clone(),
        max_out_a: controller.pins_total_a,
        idle_a: controller.draws_a(),
        mass_g: controller.mass_g,
        ..passing(0.0)
    }
}

/// What its output carries, A.
pub fn output_limit_a(circuit: &SmallCircuit) -> f64 {
    kind::of(&circuit.parts).limit_a()
}

/// The build with what its flashers do written into its scenes: the share of the time that each driven light is on, at the
/// fullest state. A circuit that does not run leaves its lights dark.
pub fn flashing(build: &Build) -> Cow<'_, Build> {
    if !build.circuits.iter().any(|circuit| circuit.kind().flashes()) {
        return Cow::Borrowed(build);
    }
    let mut own = build.clone();
    let state = build.states()[0];
    for (index, circuit) in build.circuits.iter().enumerate().filter(|(_, circuit)| circuit.kind().flashes()) {
        let figures = super::figures(build, index, state).ok();
        let share = figures.and_then(|figures| figures.duty).unwrap_or(0.0);
        for scene in &mut own.scenes {
            for (number, id) in circuit.drives.iter().enumerate() {
                // Of two transistors one is on while the other is not.
                let share = if circuit.kind() == CircuitKind::TransistorFlasher && number == 1 { 1.0 - share } else { share };
                if let Some(light) = scene.lights.get_mut(id) {
                    light.duty = share;
                }
            }
        }
    }
    Cow::Owned(own)
}
