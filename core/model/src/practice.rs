//! Figures of good practice that several rules share, and how a figure is held against a limit.

use crate::document::{Gauge, VehicleKind};

/// Thinnest wire that a hand can trust on a vehicle, mm²: what survives vibration, tugs and stripping. Common practice of
/// the trades: 0.75 mm² in campers, 22 AWG on boards, cycles and chairs, 26 AWG on what is light. A person may choose less.
pub fn least_wire_mm2(kind: VehicleKind) -> f64 {
    match kind {
        VehicleKind::Rv => 0.75,
        VehicleKind::Bicycle | VehicleKind::Skateboard | VehicleKind::Wheelchair => Gauge::Awg(22).area_mm2(),
        VehicleKind::RcModel | VehicleKind::Drone | VehicleKind::Other => Gauge::Awg(26).area_mm2(),
    }
}

/// Currents that drivers for LEDs are sold for, A.
pub const DRIVER_A: [f64; 7] = [0.3, 0.35, 0.5, 0.7, 1.0, 1.5, 3.0];

/// The largest usual driver current up to what LEDs are rated for; that itself where it is below all of them.
pub fn driver_for(rated_a: f64) -> f64 {
    DRIVER_A.into_iter().rev().find(|amps| within(*amps, rated_a)).unwrap_or(rated_a)
}

/// Part of a limit by which a figure may exceed it and still count as meeting it: rounding, not physics.
const TIE: f64 = 1e-9;

/// Share of its ampacity that PVC of 80 °C keeps in a hot place of 60 °C: the root of 20/50, the rise left over that in
/// 30 °C.
pub const HOT_SHARE: f64 = 0.63;
/// Share of its absolute current that an LED keeps in a hot place: representative derating, from 30 °C to none at 105 °C.
pub const HOT_LED: f64 = 0.6;

/// Whether a figure is above a limit; what only rounding puts there is not.
pub fn above(value: f64, limit: f64) -> bool {
    value > limit + TIE * limit.abs()
}

/// Whether a figure keeps to a limit.
pub fn within(value: f64, limit: f64) -> bool {
    !above(value, limit)
}

/// A light below this share of what is asked of it is dark.
pub const DARK: f64 = 0.1;
/// Flashes that anybody is shown within a second, at most (WCAG 2.2, 2.3.1).
pub const MOST_FLASHES: f64 = 3.0;
/// A light below this share of what is asked of it is dim.
pub const DIM: f64 = 0.5;
/// A person takes a light below this share of what they expect for dim: a little less goes unnoticed.
pub const SEEN_DIM: f64 = 0.6;
/// Share of the voltage that is easily kept from being lost on the way.
pub const DROP_EASY: f64 = 0.03;
/// Share of the voltage that is never to be lost on the way.
pub const DROP_MOST: f64 = 0.10;
/// Strips and pixels may see this much of their rated voltage; beyond it they age fast.
pub const OVER_VOLTAGE: f64 = 1.1;
/// Beyond this they burn.
pub const FAR_OVER_VOLTAGE: f64 = 1.2;
/// A wire may be this far above its ampacity before it is dangerous rather than warm.
pub const OVER_AMPACITY: f64 = 1.1;
/// What the copper of a common strip carries along its rails, A: about five metres from one end.
pub const RAIL_MAX_A: f64 = 6.0;
/// Heat that a bare linear regulator gets rid of in still air without metal behind it, W.
pub const LINEAR_MAX_LOSS_W: f64 = 1.2;
/// Share of what a converter can get rid of as heat that it is used to.
pub const HEAT_SHARE: f64 = 0.6;

/// Share of a resistor's rating that it is used to.
pub const RESISTOR_SHARE: f64 = 0.6;
/// Share of an LED's rated current, and of a converter's output, that a plan uses: cooler, and lasting longer.
pub const USE_SHARE: f64 = 0.75;
/// Share of what a converter or a supply gives at most at which it is still cool enough.
pub const SUPPLY_SHARE: f64 = 0.8;
/// LEDs rated for this much and more are emitters that want a set current, A.
pub const EMITTER_A: f64 = 0.3;
/// From the heat of a power LED on a bare star to the air, K/W (representative).
pub const BARE_STAR_K_PER_W: f64 = 30.0;
/// Direct voltage that a small switch or plug breaks, V: above it an arc may not go out (representative).
pub const SMALL_CONTACT_V: f64 = 30.0;
/// A transistor that switches is saturated below this, V.
pub const SATURATED_BELOW_V: f64 = 0.3;
/// The dimmest segment of a strip keeps this share of the brightest: the eye sees more.
pub const FADE: f64 = 0.85;

/// By how much a resistor may differ from what is printed on it, as a share.
pub const RESISTOR_OFF: f64 = 0.05;
/// The same of a film capacitor.
pub const FILM_OFF: f64 = 0.10;
/// The same of an electrolytic one, less and more.
pub const ELECTROLYTIC_OFF: (f64, f64) = (0.20, 0.50);
/// Two minuses that data passes between differ by no more, V: what a logic input stands below its own minus.
pub const RAIL_SHIFT_V: f64 = 0.3;
/// Capacitors from here on are electrolytic, F.
pub const ELECTROLYTIC_F: f64 = 1e-6;
/// A capacitor is rated this many times what it holds.
pub const CAPACITOR_SPARE: f64 = 1.2;
/// Ratings that capacitors come in, V.
pub const CAPACITOR_V: [f64; 8] = [6.3, 10.0, 16.0, 25.0, 35.0, 50.0, 63.0, 100.0];

/// The least of these ratings that has enough to spare above what a capacitor holds; `None` where none has.
pub fn capacitor_for(holds_v: f64) -> Option<f64> {
    CAPACITOR_V.into_iter().find(|rated| *rated >= CAPACITOR_SPARE * holds_v)
}

/// A bounce of a moving contact that a capacitor is to carry over, s, and by how much its voltage may fall meanwhile, V.
pub const BOUNCE: (f64, f64) = (0.005, 0.5);

/// Input limits of step-down modules on sale, V.
pub const INPUT_V: [f64; 5] = [24.0, 36.0, 60.0, 75.0, 100.0];
/// Output ratings of converters on sale, A.
pub const OUTPUT_A: [f64; 9] = [1.0, 2.0, 3.0, 5.0, 8.0, 10.0, 15.0, 20.0, 30.0];
/// What switches are sold for, A.
pub const SWITCH_A: [f64; 8] = [1.0, 3.0, 5.0, 6.0, 10.0, 16.0, 20.0, 30.0];

/// Smallest of the usual ratings at or above `need`; the need itself where none is.
pub fn rating_above(need: f64, usual: &[f64]) -> f64 {
    usual.iter().copied().find(|rating| *rating >= need).unwrap_or_else(|| need.ceil())
}

/// Colour temperature below which white is called warm, K (EN 12464-1).
pub const WARM_BELOW_K: f64 = 3300.0;

/// White by its colour temperature, in the words that lights are named with.
pub fn white_of(colour_k: f64) -> &'static str {
    if colour_k < WARM_BELOW_K { "warm white" } else { "white" }
}

/// Temperature of a battery that nobody named, °C.
pub const USUAL_C: f64 = 25.0;

/// Colours that single LEDs come in.
pub const LED_COLOURS: [&str; 7] = ["white", "red", "amber", "green", "blue", "violet", "infrared"];
/// Colours of insulation that single wires are sold in.
pub const INSULATION: [&str; 7] = ["red", "black", "yellow", "blue", "brown", "white", "green"];

/// A cold filament draws this many times its current, for so long, s (usual for bulbs of this size).
pub const COLD_FILAMENT: (f64, f64) = (10.0, 0.050);

/// Capacitor at the input of a switching module where none is stated, F (representative).
pub const MODULE_INPUT_F: f64 = 220e-6;
