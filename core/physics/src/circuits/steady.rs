//! What a circuit is to the network: what it takes itself, and what its lights lack of the supply while they are on.

use super::Workshop;
use crate::transient::{Bipolar, Timer};
use orthavis_model::document::{Build, CircuitKind, Controller, Converter, ConverterKind, Efficiency, SmallCircuit, Through, TimerKind};
use std::borrow::Cow;

/// Between collector and emitter of a saturated transistor, V: representative for a small one.
const SATURATED_V: f64 = 0.1;
/// Below this nothing takes anything, V: behind a supply that is off there is nobody.
const ASLEEP_V: f64 = 0.5;
/// Above any supply: a stand-in has no setting of its own.
const NO_SETTING_V: f64 = 1e6;

/// A part of the network that draws and drops what a circuit does while its lights are on.
pub fn stand_in(build: &Build, circuit: &SmallCircuit) -> Converter {
    let parts = &circuit.parts;
    let state = build.states()[0];
    let index = build.circuits.iter().position(|known| known.id == circuit.id).unwrap_or(0);
    let fed = super::schematic::Fed::of(build, circuit, state);
    // The network knows an alternating supply by its effective value.
    let volts = if fed.hz.is_some() { fed.emf_v * std::f64::consts::FRAC_1_SQRT_2 } else { fed.emf_v };
    let ohm = |value: Option<f64>| value.unwrap_or(f64::INFINITY);
    let carried = |through: Option<Through>, timer: f64| match through {
        Some(Through::Npn) => SATURATED_V,
        Some(Through::Mosfet) => 0.0,
        None | Some(Through::None) => timer,
    };
    let (own_a, drop_v) = match circuit.kind {
        CircuitKind::TimerFlasher => {
            let timer = if parts.timer == Some(TimerKind::Cmos) { Timer::CMOS } else { Timer::BIPOLAR };
            // Of the time off the upper resistor feeds the discharge pin.
            let (ra, rb) = (ohm(parts.ra_ohm), ohm(parts.rb_ohm));
            (timer.idle_a + volts / ra * rb / (ra + 2.0 * rb), carried(parts.through, timer.high_drop_v))
        }
        CircuitKind::TransistorFlasher => {
            let nothing = circuit.drives.len().saturating_sub(2) as f64;
            (volts / ohm(parts.r1_ohm) + volts / ohm(parts.r2_ohm) + 0.5 * nothing * volts / 1000.0, SATURATED_V)
        }
        // Its lights get what its capacitor holds between firing and letting go.
        CircuitKind::BreakdownFlasher => (0.0, (volts - 0.5 * (parts.fire_v.unwrap_or(9.0) + parts.let_go_v.unwrap_or(7.0))).max(0.0)),
        CircuitKind::HoldUp => {
            let steady = Workshop::of(build, index, state);
            (0.0, steady.passes_v().map_or(0.0, |passed| (volts - passed).max(0.0)))
        }
        CircuitKind::BatteryGauge => {
            let steady = Workshop::of(build, index, state);
            (steady.at_once("supply").unwrap_or(0.0), 0.0)
        }
        CircuitKind::Switch => (0.0, carried(Some(parts.through.unwrap_or(Through::Npn)), SATURATED_V)),
    };
    // To a nanovolt and a picoampere: what is left of rounding behind that is another figure on every machine.
    let told = |value: f64, unit: f64| (value / unit).round() * unit;
    let (own_a, drop_v) = (told(own_a, 1e-12), told(drop_v, 1e-9));
    Converter {
        id: circuit.id.clone(),
        feed: circuit.feed.clone(),
        kind: ConverterKind::Linear,
        set_v: Some(NO_SETTING_V),
        set_a: None,
        min_in_v: ASLEEP_V,
        max_in_v: NO_SETTING_V,
        max_out_a: output_limit_a(circuit),
        max_in_a: None,
        dropout_v: drop_v,
        pass_drop_v: 0.0,
        efficiency: Efficiency::Constant(1.0),
        idle_a: own_a,
        mass_g: circuit.mass_g,
        max_loss_w: None,
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
        kind: ConverterKind::Linear,
        set_v: Some(NO_SETTING_V),
        set_a: None,
        min_in_v: ASLEEP_V,
        max_in_v: NO_SETTING_V,
        max_out_a: controller.pins_total_a,
        max_in_a: None,
        dropout_v: 0.0,
        pass_drop_v: 0.0,
        efficiency: Efficiency::Constant(1.0),
        idle_a: controller.draws_a(),
        mass_g: controller.mass_g,
        max_loss_w: None,
    }
}

/// What its output carries, A.
pub fn output_limit_a(circuit: &SmallCircuit) -> f64 {
    match (circuit.kind, circuit.parts.through) {
        (CircuitKind::TimerFlasher, None | Some(Through::None)) => {
            if circuit.parts.timer == Some(TimerKind::Cmos) {
                Timer::CMOS.most_a
            } else {
                Timer::BIPOLAR.most_a
            }
        }
        (_, Some(Through::Mosfet)) => f64::INFINITY,
        (CircuitKind::HoldUp, _) => f64::INFINITY,
        _ => Bipolar::MOST_A,
    }
}

/// The build with what its flashers do written into its scenes: the share of the time that each driven light is on, at the
/// fullest state. A circuit that does not run leaves its lights dark.
pub fn flashing(build: &Build) -> Cow<'_, Build> {
    if !build.circuits.iter().any(|circuit| circuit.kind.flashes()) {
        return Cow::Borrowed(build);
    }
    let mut own = build.clone();
    let state = build.states()[0];
    for (index, circuit) in build.circuits.iter().enumerate().filter(|(_, circuit)| circuit.kind.flashes()) {
        let figures = super::figures(build, index, state).ok();
        let share = figures.and_then(|figures| figures.duty).unwrap_or(0.0);
        for scene in &mut own.scenes {
            for (number, id) in circuit.drives.iter().enumerate() {
                // Of two transistors one is on while the other is not.
                let share = if circuit.kind == CircuitKind::TransistorFlasher && number == 1 { 1.0 - share } else { share };
                if let Some(light) = scene.lights.get_mut(id) {
                    light.duty = share;
                }
            }
        }
    }
    Cow::Owned(own)
}
