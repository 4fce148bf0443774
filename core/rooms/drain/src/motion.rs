//! What the lights take from moving: range where the motor shares the battery, time where it flies.
//!
//! Range: the same discharge with and without the lights beside the motor's power. Flight: hovering takes
//! `P ∝ m^1.5` (actuator disk: thrust `m g`, induced power `T^1.5 / sqrt(2 ρ A)`), so the lights cost their own power
//! and the power to carry them.

use super::Drawn;
use orthavis_model::document::{Battery, Build, Source, VehicleKind};
use orthavis_model::working::{Fact, Rule, fact, quantity};
use orthavis_physics::endurance::Draw;

/// Efficiency of a regulator that makes a rail from the flight battery, where the build shows only the rail.
const RAIL_EFFICIENCY: f64 = 0.88;

/// Mass that the plan adds, g.
pub(super) fn added_g(build: &Build) -> f64 {
    let wires: f64 = build.feeds().iter().map(|feed| feed.feed.mass_g()).sum();
    wires
        + build.lights.iter().map(|light| light.mass_g).sum::<f64>()
        + build.converters.iter().map(|part| part.mass_g).sum::<f64>()
        + build.circuits.iter().map(|part| part.mass_g).sum::<f64>()
        + build.controllers.iter().map(|part| part.mass_g).sum::<f64>()
}

/// Mass of lights, converters and wires, and its share of the vehicle.
pub(super) fn mass(build: &Build) -> Vec<Fact> {
    const MASS: Rule = Rule {
        words: "Lights and converters as entered; wires by their copper, half as much again for insulation.",
        formula: "m = Σ m_parts + 1.5·Σ 2·L·A·ρ",
        source: "Density of copper 8960 kg/m³; insulation representative",
    };
    const SHARE: Rule = Rule { words: "The plan's mass over that of the vehicle.", formula: "s = m / M", source: "As entered" };
    let grams = added_g(build);
    let given = vec![quantity("m", "added", grams, "g"), quantity("M", "vehicle", 1000.0 * build.vehicle.mass_kg, "g")];
    vec![
        fact("added_g", "Mass that the plan adds", "m", grams, "g", &MASS, vec![]),
        fact("mass_share", "Share of the vehicle's mass", "s", grams / (1000.0 * build.vehicle.mass_kg), "1", &SHARE, given),
    ]
}

/// Range and minutes of travel lost to the scene that is used most; empty where no motor shares the battery.
pub(super) fn range(build: &Build, battery: &Battery, drawn: &[Drawn], rest: &Draw) -> Vec<Fact> {
    let Some(motor) = build.vehicle.propulsion.as_ref().filter(|motor| motor.power_w > 0.0 && build.vehicle.kind != VehicleKind::Drone) else {
        return Vec::new();
    };
    let Some(most) = most_used(drawn) else { return Vec::new() };
    let hours = |draw: &Draw| draw.run(battery, battery.reserve_soc(), |emf_v, _| motor.power_w / emf_v).map_or(0.0, |run| run.hours);
    let (dark_h, lit_h) = (hours(rest), hours(&most.draw));
    const MINUTES: Rule = Rule {
        words: "The battery is followed from full to reserve twice, with the motor alone and with the lights beside it.",
        formula: "Δt = t_motor − t_motor+lights",
        source: "Discharge simulation, Peukert's law on the sum; the motor at its mean power",
    };
    const RANGE: Rule = Rule { words: "Time on the move times the usual speed.", formula: "s = v·t", source: "As entered" };
    let given = vec![
        quantity("t_motor", "motor alone", dark_h, "h"),
        quantity("t_motor+lights", format!("with \u{201c}{}\u{201d}", most.name), lit_h, "h"),
        quantity("P", "motor, mean", motor.power_w, "W"),
    ];
    let way = |key, label, hours: f64| {
        fact(key, label, "s", motor.speed_kmh * hours, "km", &RANGE, vec![quantity("v", "speed", motor.speed_kmh, "km/h"), quantity("t", "time", hours, "h")])
    };
    vec![
        fact("travel_lost_min", "Time of travel lost", "Δt", 60.0 * (dark_h - lit_h), "min", &MINUTES, given),
        way("range_lost_km", "Range lost", dark_h - lit_h),
        way("range_km", "Range with the lights on", lit_h),
    ]
}

/// Seconds of flight lost to the lights' power and to their mass; empty where nothing flies.
pub(super) fn flight(build: &Build, drawn: &[Drawn]) -> Vec<Fact> {
    if build.vehicle.kind != VehicleKind::Drone {
        return Vec::new();
    }
    let Some((hover_w, energy_wh)) = hover(build) else { return Vec::new() };
    let Some(most) = most_used(drawn) else { return Vec::new() };
    let Some(mean_w) = most.mean_w else { return Vec::new() };
    let lights_w = if !matches!(build.source, Source::Battery(_)) { mean_w / RAIL_EFFICIENCY } else { mean_w };
    let mass_kg = build.vehicle.mass_kg;
    let carried_w = hover_w * ((mass_kg + 0.001 * added_g(build)) / mass_kg).powf(1.5);
    let seconds = |watts: f64| 3600.0 * energy_wh / watts;
    let (bare, carried, lit) = (seconds(hover_w), seconds(carried_w), seconds(carried_w + lights_w));
    const MASS: Rule = Rule {
        words: "A heavier craft hovers on more power: it grows with the mass to the power of one and a half.",
        formula: "P = P_0·((M + m)/M)^1.5, Δt = E/P_0 − E/P",
        source: "Actuator disk theory of the hovering rotor",
    };
    const POWER: Rule = Rule {
        words: "The lights draw from the flight battery what the motors then lack.",
        formula: "Δt = E/P − E/(P + P_lights)",
        source: "Energy balance; a rail is taken at 88 % efficiency where its regulator is not in the plan",
    };
    const LOST: Rule = Rule { words: "To the mass and to the power together.", formula: "Δt = Δt_m + Δt_P", source: "Sum of both" };
    let by_mass = vec![
        quantity("P_0", "hovering without the lights", hover_w, "W"),
        quantity("E", "energy of one flight", energy_wh, "Wh"),
        quantity("m", "added mass", added_g(build), "g"),
        quantity("P", "hovering with them", carried_w, "W"),
    ];
    let by_power = vec![
        quantity("P", "hovering with them", carried_w, "W"),
        quantity("P_lights", format!("\u{201c}{}\u{201d}, at the battery", most.name), lights_w, "W"),
    ];
    let both = vec![quantity("Δt_m", "to the mass", bare - carried, "s"), quantity("Δt_P", "to the power", carried - lit, "s")];
    vec![
        fact("flight_lost_s", "Seconds of flight lost", "Δt", bare - lit, "s", &LOST, both),
        fact("flight_lost_power_s", "of these to their power", "Δt_P", carried - lit, "s", &POWER, by_power),
        fact("flight_lost_mass_s", "and to their mass", "Δt_m", bare - carried, "s", &MASS, by_mass),
        fact("flight_min", "Flight with the lights on", "t", lit / 60.0, "min", &POWER, vec![quantity("E", "energy of one flight", energy_wh, "Wh")]),
    ]
}

/// Power of hovering, W, and the energy of one flight, Wh, without the lights.
fn hover(build: &Build) -> Option<(f64, f64)> {
    if let Some(hover) = &build.vehicle.hover {
        return Some((hover.power_w, hover.power_w * hover.minutes / 60.0));
    }
    let Source::Battery(battery) = &build.source else { return None };
    let motor = build.vehicle.propulsion.as_ref().filter(|motor| motor.power_w > 0.0)?;
    Some((motor.power_w, battery.capacity_ah * battery.usable() * battery.emf_v(0.5)))
}

fn most_used(drawn: &[Drawn]) -> Option<&Drawn> {
    drawn.iter().max_by(|a, b| a.minutes.total_cmp(&b.minutes))
}
