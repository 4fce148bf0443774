//! A sealed module or bulb, by how it draws.
//!
//! constant power `I = level P / V` and constant current `I = level P / V_rated`, both only inside their input
//! range; resistive `I = level P V / V_rated²`; filament `I = level (P / V_rated) (V / V_rated)^0.55` with output
//! `level (V / V_rated)^3.4`, the usual exponents of tungsten lamps near their rating.

use crate::document::{Draw, Module};

impl Module {
    /// Whether it shuts down outside `min_v..=max_v`.
    pub fn has_window(&self) -> bool {
        matches!(self.draw, Draw::ConstantPower | Draw::ConstantCurrent)
    }

    /// Below this a running module is continued as a resistor, so that the network keeps a solution to find. Where
    /// the label names no lower end, a thousandth of the rated voltage stands for nothing.
    fn floor_v(&self) -> f64 {
        self.min_v.max(1e-3 * self.voltage_v)
    }

    /// Whether a running module can run at this voltage.
    pub fn runs_at(&self, voltage_v: f64) -> bool {
        const EDGE: f64 = 1e-9;
        voltage_v >= self.floor_v().min(self.max_v) - EDGE && voltage_v <= self.max_v + EDGE
    }

    /// Current of a running module, A, and its slope, S.
    pub fn current(&self, level: f64, voltage_v: f64) -> (f64, f64) {
        let rated_a = level * self.power_w / self.voltage_v;
        let power = level * self.power_w;
        let floor = self.floor_v();
        match self.draw {
            Draw::ConstantPower if voltage_v >= floor => (power / voltage_v, -power / (voltage_v * voltage_v)),
            Draw::ConstantPower => (power * voltage_v / (floor * floor), power / (floor * floor)),
            Draw::ConstantCurrent if voltage_v >= floor => (rated_a, 0.0),
            Draw::ConstantCurrent => (rated_a * voltage_v / floor, rated_a / floor),
            Draw::Resistive => (rated_a * voltage_v / self.voltage_v, rated_a / self.voltage_v),
            Draw::Filament => {
                // Near zero the power law is steeper than any line; a cold filament is a resistor there.
                let knee = 1e-3 * self.voltage_v;
                let at = voltage_v.max(knee);
                let current = rated_a * (at / self.voltage_v).powf(0.55);
                if voltage_v < knee { (current * voltage_v / knee, current / knee) } else { (current, 0.55 * current / at) }
            }
        }
    }

    /// Light relative to rated, at a voltage and the current drawn there.
    pub fn output(&self, level: f64, voltage_v: f64, current_a: f64) -> f64 {
        match self.draw {
            Draw::ConstantPower => voltage_v * current_a / self.power_w,
            Draw::Filament => level * (voltage_v.max(0.0) / self.voltage_v).powf(3.4),
            Draw::ConstantCurrent | Draw::Resistive => current_a * self.voltage_v / self.power_w,
        }
    }
}
