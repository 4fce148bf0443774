//! A conductor: size, resistance, ampacity, and the fault it survives.
//!
//! `R = rho L / A` with IEC 60028 annealed copper at 20 °C; AWG diameters by ASTM B258. Ampacities are
//! representative for PVC at 80 °C in 30 °C free air, on the careful side. A fault of I for t is survived while
//! `I² t <= (115 A_mm2)²` (IEC 60364-5-54, copper under PVC, adiabatic).

use crate::document::{Feed, Gauge, Return};
use std::f64::consts::PI;
use uom::si::area::{square_meter, square_millimeter};
use uom::si::electric_current::ampere;
use uom::si::electrical_resistance::ohm;
use uom::si::electrical_resistivity::ohm_meter;
use uom::si::f64::{Area, ElectricCurrent, ElectricalResistance, ElectricalResistivity, Length, Time};
use uom::si::length::{meter, millimeter};
use uom::si::time::second;

/// Resistivity of annealed copper at 20 °C, ohm·m (IEC 60028).
pub const COPPER_OHM_M: f64 = 1.724e-8;
/// A mated pair of poles of a plug, ohm.
pub const CONTACT_OHM: f64 = 0.010;
/// A closed switch, ohm.
pub const SWITCH_OHM: f64 = 0.010;

/// AWG number and ampacity of one circuit in free air, A; thinnest first.
pub(crate) const AMPACITY: [(i32, f64); 13] =
    [(30, 0.86), (28, 1.4), (26, 2.2), (24, 3.5), (22, 6.0), (20, 10.0), (18, 15.0), (16, 20.0), (14, 25.0), (12, 35.0), (10, 50.0), (8, 70.0), (6, 100.0)];

/// Metric sizes in common use, mm².
pub(crate) const METRIC_MM2: [f64; 12] = [0.14, 0.22, 0.25, 0.34, 0.5, 0.75, 1.0, 1.5, 2.5, 4.0, 6.0, 10.0];

/// Around a wire, and where its heating begins, °C.
pub const AMBIENT_C: f64 = 30.0;
/// What PVC stands for good, °C.
pub const PVC_ALWAYS_C: f64 = 80.0;
/// What PVC stands for hours, °C.
pub const PVC_HOURS_C: f64 = 105.0;
/// What PVC stands for a moment, °C (IEC 60364-5-54).
pub const PVC_MOMENT_C: f64 = 160.0;
/// Copper melts, °C: nothing is computed beyond it.
pub const MELTS_C: f64 = 1083.0;
/// Temperature coefficient of copper's resistance at 20 °C, 1/K (IEC 60028).
const ALPHA: f64 = 0.00393;
/// Heat that a cubic metre of copper takes, J/(m³·K).
const COPPER_J_M3K: f64 = 3.45e6;
/// Heat that leaves an insulated wire in still air, W/(m²·K); representative.
const STILL_AIR_W_M2K: f64 = 20.0;

/// Share of its free-air ampacity that a wire keeps among `bundled` loaded circuits.
fn bundling(bundled: u32) -> f64 {
    match bundled {
        0 | 1 => 1.0,
        2..=3 => 0.7,
        4..=6 => 0.6,
        _ => 0.5,
    }
}

fn awg_area(number: i32) -> Area {
    let diameter = Length::new::<millimeter>(0.127 * 92f64.powf(f64::from(36 - number) / 39.0));
    std::f64::consts::FRAC_PI_4 * diameter * diameter
}

impl Gauge {
    /// Cross-section.
    pub fn area(self) -> Area {
        match self {
            Gauge::Awg(number) => awg_area(number),
            Gauge::Mm2(mm2) => Area::new::<square_millimeter>(mm2),
        }
    }

    /// Cross-section, mm².
    pub fn area_mm2(self) -> f64 {
        self.area().get::<square_millimeter>()
    }

    /// Resistance of one conductor of this length.
    pub fn resistance(self, length: Length) -> ElectricalResistance {
        let resistivity = ElectricalResistivity::new::<ohm_meter>(COPPER_OHM_M);
        resistivity * length / self.area()
    }

    /// Resistance of one conductor, ohm, for a length in m.
    ///
    /// ```
    /// use orthavis_model::document::Gauge;
    /// // Three metres there and three back, in half a square millimetre.
    /// let loop_ohm = 2.0 * Gauge::Mm2(0.5).ohm(3.0);
    /// assert!((loop_ohm - 0.207).abs() < 0.001);
    /// ```
    pub fn ohm(self, length_m: f64) -> f64 {
        self.resistance(Length::new::<meter>(length_m)).get::<ohm>()
    }

    /// Current it may carry with `bundled` loaded circuits together. A size between two listed ones counts as
    /// the thinner; below the list the ampacity shrinks with the cross-section.
    pub fn ampacity(self, bundled: u32) -> ElectricCurrent {
        let area = self.area().get::<square_meter>();
        let listed = AMPACITY.iter().rev().find(|(number, _)| awg_area(*number).get::<square_meter>() <= area * (1.0 + 1e-9));
        let free_air = match listed {
            Some((_, amps)) => *amps,
            None => AMPACITY[0].1 * area / awg_area(AMPACITY[0].0).get::<square_meter>(),
        };
        ElectricCurrent::new::<ampere>(free_air * bundling(bundled))
    }

    /// [`Self::ampacity`] in A, in 30 °C.
    ///
    /// ```
    /// use orthavis_model::document::Gauge;
    /// assert_eq!(Gauge::Awg(22).ampacity_a(1), 6.0);
    /// // Three loaded circuits in one bundle keep each other warm.
    /// assert!((Gauge::Awg(22).ampacity_a(3) - 4.2).abs() < 1e-9);
    /// ```
    pub fn ampacity_a(self, bundled: u32) -> f64 {
        self.ampacity(bundled).get::<ampere>()
    }

    /// How long it survives a fault current before its insulation is damaged.
    pub fn withstand(self, fault: ElectricCurrent) -> Time {
        let k_area = 115.0 * self.area_mm2();
        Time::new::<second>((k_area / fault.get::<ampere>()).powi(2))
    }

    /// Temperature of an insulated wire after `time_s` of a constant current, °C, from [`AMBIENT_C`]; at most
    /// [`MELTS_C`]. Time may be infinite.
    ///
    /// Per metre `c dθ/dt = I² ρ(θ) / A − g (θ − 30)` with copper's resistivity rising linearly: exact, since it is
    /// linear in θ. What a bundle keeps in goes with the square of its share of ampacity.
    pub fn heated_c(self, bundled: u32, current_a: f64, time_s: f64) -> f64 {
        let area = self.area().get::<square_meter>();
        let diameter_m = (area / std::f64::consts::FRAC_PI_4).sqrt();
        let wall_m = if diameter_m >= 1.3e-3 { 1.6e-3 } else { 0.8e-3 };
        let loss = STILL_AIR_W_M2K * PI * (diameter_m + wall_m) * bundling(bundled).powi(2);
        let power = current_a * current_a * COPPER_OHM_M / area;
        let capacity = COPPER_J_M3K * area;
        let rate = (loss - ALPHA * power) / capacity;
        let slope = power * (1.0 + ALPHA * (AMBIENT_C - 20.0)) / capacity;
        let rise = match rate * time_s {
            decay if decay.is_nan() || decay.abs() < 1e-12 => slope * time_s,
            decay => slope * -(-decay).exp_m1() / rate,
        };
        // Nothing heated for no time is as warm as the air.
        if rise.is_nan() { AMBIENT_C } else { (AMBIENT_C + rise).min(MELTS_C) }
    }

    /// [`Self::heated_c`] in the end: what it comes to where nothing interrupts the current.
    pub fn settled_c(self, bundled: u32, current_a: f64) -> f64 {
        self.heated_c(bundled, current_a, f64::INFINITY)
    }

    /// Common sizes at least as thick as this one, in the same system, thinnest first.
    pub fn thicker(self) -> Vec<Gauge> {
        let area = self.area();
        let sizes: Vec<Gauge> = match self {
            Gauge::Awg(_) => AMPACITY.iter().map(|(number, _)| Gauge::Awg(*number)).collect(),
            Gauge::Mm2(_) => METRIC_MM2.iter().map(|mm2| Gauge::Mm2(*mm2)).collect(),
        };
        sizes.into_iter().filter(|size| size.area() > area * (1.0 + 1e-9)).collect()
    }

    /// Diameter over the insulation, mm: about twice that of the copper, as thin PVC and silicone wires have it.
    pub fn outer_mm(self) -> f64 {
        2.0 * (self.area_mm2() / std::f64::consts::FRAC_PI_4).sqrt()
    }

    /// How people write it.
    pub fn name(self) -> String {
        match self {
            Gauge::Awg(number) => format!("{number} AWG"),
            Gauge::Mm2(mm2) => format!("{mm2} mm²"),
        }
    }
}

const COPPER_KG_M3: f64 = 8960.0;
/// Mass of an insulated conductor over that of its copper; representative of thin PVC and silicone wire.
const INSULATION: f64 = 1.5;

impl Feed {
    /// Mass of its conductors, g.
    pub fn mass_g(&self) -> f64 {
        let conductors = if self.return_path == Return::Frame { 1.0 } else { 2.0 };
        1000.0 * COPPER_KG_M3 * INSULATION * conductors * self.gauge.area_mm2() * 1e-6 * self.length_m
    }

    /// Resistance of its plugs and of what it goes over to something that moves, ohm.
    pub fn touch_ohm(&self) -> f64 {
        f64::from(self.contacts) * CONTACT_OHM + self.moving.as_ref().map_or(0.0, |moving| moving.resistance_ohm)
    }

    /// Resistance of the way out: wire, fuse, switch, plugs and moving contact, ohm.
    pub fn out_ohm(&self) -> f64 {
        self.gauge.ohm(self.length_m)
            + self.fuse.as_ref().map_or(0.0, |fuse| fuse.cold_ohm())
            + self.switch.as_ref().map_or(0.0, |_| SWITCH_OHM)
            + self.touch_ohm()
    }

    /// Whether its way back is a frame of known resistance: one conductor for all that go back by it.
    pub fn by_frame(&self, frame_ohm: Option<f64>) -> bool {
        self.return_path == Return::Frame && frame_ohm.is_some()
    }

    /// Resistance of the way back, ohm; of a frame, all of it, where nothing else flows there. A frame that was never measured counts as a wire.
    pub fn back_ohm(&self, frame_ohm: Option<f64>) -> f64 {
        match (self.return_path, frame_ohm) {
            (Return::Frame, Some(frame)) => frame,
            _ => self.gauge.ohm(self.length_m),
        }
    }
}
