//! How each chemistry behaves apart from its voltages: cold, self-discharge, charging.
//!
//! Representative figures, of the kind printed in cell datasheets at moderate discharge.

use crate::document::Chemistry;

/// How a chemistry behaves apart from its voltages.
pub struct Habits {
    /// Capacity at 0, 10, 20, 25 °C, relative.
    pub capacity: [f64; 4],
    /// Resistance at the same temperatures, relative.
    pub resistance: [f64; 4],
    /// Voltage of a cell at which a protection board or the controller cuts off, or should, V.
    pub cutoff_v: f64,
    /// Charge lost by itself in a month, share.
    pub self_month: f64,
    /// State of charge below which standing does lasting harm.
    pub harm_soc: f64,
    /// Charge out over charge in.
    pub charge_efficiency: f64,
    /// Time for the last part of a charge, at falling current, h.
    pub tail_h: f64,
    /// Largest usual charging current over the capacity, 1/h.
    pub charge_rate: f64,
}

const fn habits(capacity: [f64; 4], resistance: [f64; 4], cutoff_v: f64, self_month: f64, harm_soc: f64, charge: [f64; 3]) -> Habits {
    Habits { capacity, resistance, cutoff_v, self_month, harm_soc, charge_efficiency: charge[0], tail_h: charge[1], charge_rate: charge[2] }
}

const LI_ION: Habits = habits([0.85, 0.93, 0.98, 1.0], [2.2, 1.5, 1.1, 1.0], 2.8, 0.02, 0.0, [0.99, 0.7, 0.5]);
const LIPO: Habits = habits([0.80, 0.90, 0.98, 1.0], [2.2, 1.5, 1.1, 1.0], 3.0, 0.03, 0.0, [0.99, 0.5, 1.0]);
const LIFEPO4: Habits = habits([0.80, 0.90, 0.98, 1.0], [2.5, 1.6, 1.1, 1.0], 2.5, 0.02, 0.0, [0.99, 0.3, 0.5]);
const LEAD_FLOODED: Habits = habits([0.80, 0.90, 0.97, 1.0], [1.5, 1.25, 1.05, 1.0], 1.75, 0.05, 0.2, [0.85, 3.0, 0.15]);
const LEAD_AGM: Habits = habits([0.83, 0.92, 0.98, 1.0], [1.4, 1.2, 1.05, 1.0], 1.75, 0.03, 0.2, [0.90, 2.5, 0.25]);
const NIMH: Habits = habits([0.85, 0.94, 0.99, 1.0], [1.8, 1.35, 1.08, 1.0], 0.9, 0.15, 0.0, [0.70, 0.5, 0.5]);
const ALKALINE: Habits = habits([0.60, 0.80, 0.95, 1.0], [2.5, 1.6, 1.1, 1.0], 0.8, 0.003, 0.0, [0.0, 0.0, 0.0]);
const LITHIUM_COIN: Habits = habits([0.75, 0.88, 0.97, 1.0], [2.5, 1.6, 1.1, 1.0], 2.0, 0.001, 0.0, [0.0, 0.0, 0.0]);

/// Typical behaviour of a chemistry.
pub fn habits_of(chemistry: Chemistry) -> &'static Habits {
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
