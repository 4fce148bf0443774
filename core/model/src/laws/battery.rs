//! A battery: terminal voltage `V = N_s * ocv(soc) - I * R_pack`.
//!
//! Open-circuit voltages of a rested cell are linear between tabulated points. The tables are representative of
//! each chemistry, not of one maker's cell; a measured `resistance_ohm`, `usable_fraction`, `peukert` or
//! `charge_v` in the document overrides them. Temperature and age are outside this model.

use crate::document::{Battery, Chemistry};

/// What sets one chemistry apart.
#[derive(Debug)]
pub struct Cell {
    /// Open-circuit voltage at 0, 10, … 100 % state of charge, V.
    pub ocv_v: [f64; 11],
    /// Share of the capacity that may be used without harm.
    pub usable_fraction: f64,
    /// Peukert exponent.
    pub peukert: f64,
    /// Voltage of one cell at the end of charging, V; `None`: not rechargeable.
    pub charge_v: Option<f64>,
    /// Resistance times capacity of one cell, ohm·Ah.
    pub ohm_ah: f64,
    /// Voltage of one cell as labels count it, V.
    pub nominal_v: f64,
}

/// Below this a pack of mild cells sets nothing on fire, Wh.
const HARMLESS_WH: f64 = 20.0;
/// What a glass or a resettable fuse still breaks, A.
const SMALL_SHORT_A: f64 = 30.0;

const fn cell(nominal_v: f64, ocv_v: [f64; 11], usable_fraction: f64, peukert: f64, charge_v: Option<f64>, ohm_ah: f64) -> Cell {
    Cell { ocv_v, usable_fraction, peukert, charge_v, ohm_ah, nominal_v }
}

const LI_ION: Cell = cell(3.6, [3.00, 3.45, 3.58, 3.63, 3.67, 3.72, 3.80, 3.89, 3.98, 4.08, 4.20], 0.80, 1.03, Some(4.20), 0.110);
const LIPO: Cell = cell(3.7, [3.27, 3.69, 3.73, 3.77, 3.79, 3.82, 3.87, 3.95, 4.02, 4.11, 4.20], 0.80, 1.03, Some(4.20), 0.025);
const LIFEPO4: Cell = cell(3.2, [2.50, 3.00, 3.20, 3.22, 3.25, 3.26, 3.27, 3.30, 3.32, 3.35, 3.40], 0.85, 1.02, Some(3.65), 0.060);
const LEAD_FLOODED: Cell = cell(2.0, [1.893, 1.918, 1.943, 1.968, 1.993, 2.017, 2.040, 2.062, 2.083, 2.103, 2.122], 0.50, 1.20, Some(2.45), 0.080);
const LEAD_AGM: Cell = cell(2.0, [1.920, 1.945, 1.967, 1.990, 2.012, 2.033, 2.055, 2.077, 2.098, 2.120, 2.142], 0.50, 1.10, Some(2.42), 0.050);
const NIMH: Cell = cell(1.2, [1.00, 1.18, 1.21, 1.23, 1.24, 1.25, 1.26, 1.28, 1.30, 1.34, 1.40], 0.90, 1.05, Some(1.55), 0.060);
const ALKALINE: Cell = cell(1.5, [0.90, 1.06, 1.13, 1.18, 1.22, 1.25, 1.29, 1.33, 1.38, 1.45, 1.58], 0.90, 1.15, None, 0.300);
const LITHIUM_COIN: Cell = cell(3.0, [2.00, 2.60, 2.75, 2.84, 2.89, 2.92, 2.94, 2.96, 2.98, 3.00, 3.20], 0.90, 1.20, None, 4.400);

/// Typical figures of a chemistry.
pub fn cell_of(chemistry: Chemistry) -> &'static Cell {
    match chemistry {
        Chemistry::LiIon => &LI_ION,
        Chemistry::Lipo => &LIPO,
        Chemistry::Lifepo4 => &LIFEPO4,
        Chemistry::LeadFlooded => &LEAD_FLOODED,
        Chemistry::LeadAgm => &LEAD_AGM,
        Chemistry::Nimh => &NIMH,
        Chemistry::Alkaline => &ALKALINE,
        Chemistry::LithiumCoin => &LITHIUM_COIN,
    }
}

impl Chemistry {
    /// Discharge time that labels state a capacity for, h: 20 for lead (EN 50342), some 1,000 for coin cells (IEC 60086),
    /// 5 for the others (IEC 61960).
    pub fn rated_hours(self) -> f64 {
        match self {
            Chemistry::LeadAgm | Chemistry::LeadFlooded => 20.0,
            Chemistry::LithiumCoin => 1000.0,
            _ => 5.0,
        }
    }
}

impl Battery {
    /// Open-circuit voltage of the pack at a state of charge from 0 to 1, V.
    pub fn emf_v(&self, soc: f64) -> f64 {
        let table = &cell_of(self.chemistry).ocv_v;
        let at = soc.clamp(0.0, 1.0) * 10.0;
        let low = (at.floor() as usize).min(9);
        let cell_v = table[low] + (table[low + 1] - table[low]) * (at - low as f64);
        f64::from(self.series) * cell_v
    }

    /// State of charge at which the rested pack shows this voltage, 0 to 1.
    pub fn soc_at(&self, emf_v: f64) -> f64 {
        let table = &cell_of(self.chemistry).ocv_v;
        let cell_v = emf_v / f64::from(self.series);
        let above = table.partition_point(|v| *v <= cell_v);
        match above {
            0 => 0.0,
            11 => 1.0,
            n => ((n - 1) as f64 + (cell_v - table[n - 1]) / (table[n] - table[n - 1])) / 10.0,
        }
    }

    /// Resistance of the pack, ohm: the measured one, else by chemistry and capacity.
    pub fn pack_ohm(&self) -> f64 {
        self.resistance_ohm.unwrap_or_else(|| f64::from(self.series) * cell_of(self.chemistry).ohm_ah / self.capacity_ah)
    }

    /// Share of the capacity that may be used.
    pub fn usable(&self) -> f64 {
        self.usable_fraction.unwrap_or(cell_of(self.chemistry).usable_fraction)
    }

    /// State of charge at which the battery counts as empty.
    pub fn reserve_soc(&self) -> f64 {
        1.0 - self.usable()
    }

    /// Terminal voltage while the charger holds it, V; `None` when it cannot be charged.
    pub fn charging_v(&self) -> Option<f64> {
        let cell_v = self.charge_v.or(cell_of(self.chemistry).charge_v)?;
        Some(f64::from(self.series) * cell_v)
    }

    /// Whether something switches it off before its cells are harmed: a pouch pack is sold bare, other lithium packs
    /// with a board.
    pub fn is_protected(&self) -> bool {
        self.protected.unwrap_or(self.chemistry != Chemistry::Lipo)
    }

    /// A few small cells, as in a toy or a hand lamp: what a short draws from them no more than warms a wire.
    pub fn is_small(&self) -> bool {
        let (volts, amps) = (self.emf_v(1.0), self.emf_v(1.0) / self.pack_ohm().max(1e-6));
        volts <= 15.0 && amps <= SMALL_SHORT_A
    }

    /// Cells of a toy or a hand lamp, of a chemistry that does not burn: a short warms what it flows through and ends by
    /// itself.
    pub fn is_harmless(&self) -> bool {
        let mild = matches!(self.chemistry, Chemistry::Alkaline | Chemistry::Nimh | Chemistry::LithiumCoin);
        mild && self.capacity_ah * self.emf_v(1.0) < HARMLESS_WH
    }

    /// Whether over-discharge makes its cells dangerous.
    pub fn is_lithium(&self) -> bool {
        matches!(self.chemistry, Chemistry::LiIon | Chemistry::Lipo | Chemistry::Lifepo4)
    }

    /// How much faster than its current the charge goes, by Peukert: `max(1, I / I_rated)^(k - 1)`.
    pub fn peukert_factor(&self, current_a: f64) -> f64 {
        (current_a / (self.capacity_ah / self.rated_hours)).max(1.0).powf(self.exponent() - 1.0)
    }

    /// Peukert exponent.
    pub fn exponent(&self) -> f64 {
        self.peukert.unwrap_or(cell_of(self.chemistry).peukert)
    }
}
