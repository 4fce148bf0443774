//! What cold and age do to a battery.
//!
//! Capacity and resistance over temperature are representative curves of each chemistry, of the kind printed in
//! cell datasheets at moderate discharge (25 °C is 1; above it, on the careful side, nothing is gained). A cell that has lost capacity has
//! gained resistance: 2.5 times the lost share, so half as much again at the 80 % at which cells are called worn.

use crate::document::{Build, Chemistry, Source};
use crate::laws::habits::habits_of;
use crate::practice::USUAL_C;

/// Where the curves are tabulated, °C.
const TABLED_C: [f64; 4] = [0.0, 10.0, 20.0, USUAL_C];
/// Resistance gained for each share of the capacity lost.
const WEAR: f64 = 2.5;

/// Linear between `(x, y)` points, flat outside.
fn between(xs: &[f64], ys: &[f64], x: f64) -> f64 {
    let above = xs.partition_point(|known| *known <= x);
    if above == 0 || above == xs.len() {
        return ys[above.min(ys.len() - 1)];
    }
    ys[above - 1] + (ys[above] - ys[above - 1]) * (x - xs[above - 1]) / (xs[above] - xs[above - 1])
}

/// Capacity left at a temperature and age, relative to new at 25 °C.
pub fn capacity_factor(chemistry: Chemistry, temperature_c: f64, capacity_left: f64) -> f64 {
    capacity_left * between(&TABLED_C, &habits_of(chemistry).capacity, temperature_c)
}

/// Resistance at a temperature and age, relative to new at 25 °C.
pub fn resistance_factor(chemistry: Chemistry, temperature_c: f64, capacity_left: f64) -> f64 {
    (1.0 + WEAR * (1.0 - capacity_left)) * between(&TABLED_C, &habits_of(chemistry).resistance, temperature_c)
}

/// The build with its battery as cold and as old as its usage says: less capacity, more resistance, the same
/// rated current for Peukert's law.
pub fn conditioned(build: &Build) -> Build {
    let mut there = build.clone();
    if let Source::Battery(battery) = &mut there.source {
        let (temperature_c, left) = of_usage(build);
        let resistance_ohm = battery.pack_ohm() * resistance_factor(battery.chemistry, temperature_c, left);
        let share = capacity_factor(battery.chemistry, temperature_c, left);
        if share != 1.0 || resistance_ohm != battery.pack_ohm() {
            battery.resistance_ohm = Some(resistance_ohm);
            battery.capacity_ah *= share;
            battery.rated_hours *= share;
        }
    }
    there
}

/// Temperature, °C, and capacity left that a build's usage gives.
pub fn of_usage(build: &Build) -> (f64, f64) {
    (build.usage.temperature_c.unwrap_or(USUAL_C), build.usage.capacity_left.unwrap_or(1.0))
}
