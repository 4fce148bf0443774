//! Parts added with sensible figures, so that a person starts from something that works.
//!
//! Defaults: three quarters of rated current, per-string resistors, E24 values, resistors at no more than 60 % of
//! their rating, 20 AWG to converters and 22 AWG to lights. Typical forward voltages are for 20 mA.

use crate::document::*;
use crate::findings::{free_id, plain_feed, resize_array};
use std::collections::BTreeMap;

/// Forward voltage at 20 mA by colour, V, when no datasheet is at hand.
pub const COLOURS: [(&str, f64); 7] = [("white", 3.1), ("red", 2.0), ("amber", 2.1), ("green", 3.0), ("blue", 3.1), ("violet", 3.3), ("infrared", 1.3)];

/// A part to add.
#[derive(Clone, Debug)]
pub enum Wish {
    /// A step-down module set to this voltage, V.
    StepDown {
        /// Output, V.
        set_v: f64,
    },
    /// Single LEDs, arranged for their supply.
    Leds {
        /// One of [`COLOURS`].
        colour: String,
        /// How many.
        count: u32,
        /// Where.
        place: String,
        /// `source`, a converter or a junction.
        from: String,
        /// One way, m.
        length_m: f64,
    },
}

/// Why a part cannot be added as wished.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum WishError {
    /// The supply is too low for even one LED.
    #[error("{supply_v:.1} V from `{from}` cannot light a {colour} LED; feed it from a supply with a higher voltage")]
    SupplyTooLow {
        /// The supplier.
        from: String,
        /// Its voltage, V.
        supply_v: f64,
        /// The LED.
        colour: String,
    },
    /// Not in the table.
    #[error("`{0}` is no colour known here; use one of white, red, amber, green, blue, violet, infrared")]
    UnknownColour(String),
    /// No such supplier.
    #[error("`{0}` is no supplier in this build; name `source`, a converter or a junction")]
    UnknownSupplier(String),
}

/// A build with a battery, one scene and nothing lit yet.
pub fn starter(name: &str, kind: VehicleKind, chemistry: Chemistry, series: u32, capacity_ah: f64) -> Build {
    let mass_kg = match kind {
        VehicleKind::Skateboard => 4.0,
        VehicleKind::Bicycle => 28.0,
        VehicleKind::Wheelchair => 90.0,
        VehicleKind::RcModel => 3.0,
        VehicleKind::Drone => 1.5,
        VehicleKind::Rv => 2500.0,
        VehicleKind::Other => 10.0,
    };
    let battery = Battery {
        chemistry,
        series,
        parallel: 1,
        capacity_ah,
        rated_hours: if matches!(chemistry, Chemistry::LeadAgm | Chemistry::LeadFlooded) { 20.0 } else { 5.0 },
        resistance_ohm: None,
        // Two hours' worth of capacity an hour is within what packs of every rechargeable chemistry here stand.
        max_current_a: (2.0 * capacity_ah).max(0.1),
        usable_fraction: None,
        peukert: None,
        charge_v: None,
        used_while_charging: false,
        tap: Tap::Main,
        tap_limit_a: None,
    };
    Build {
        format: FORMAT.into(),
        name: name.into(),
        notes: String::new(),
        vehicle: Vehicle { kind, mass_kg, frame_return_ohm: None, propulsion: None },
        source: Source::Battery(battery),
        junctions: vec![],
        converters: vec![],
        lights: vec![],
        standing: vec![],
        scenes: vec![Scene { id: "ride".into(), name: if kind == VehicleKind::Rv { "Evening" } else { "Riding" }.into(), lights: BTreeMap::new() }],
        usage: Usage { outings_per_week: 5.0, minutes: BTreeMap::from([("ride".into(), 40.0)]) },
        places: vec![],
        parts: vec![],
    }
}

/// The build with the part added. A light is lit in every scene.
///
/// # Errors
/// When the wish cannot be met; the message says why.
pub fn add(build: &Build, wish: &Wish) -> Result<Build, WishError> {
    let mut build = build.clone();
    match wish {
        Wish::StepDown { set_v } => add_step_down(&mut build, *set_v),
        Wish::Leds { colour, count, place, from, length_m } => add_leds(&mut build, colour, *count, place, from, *length_m)?,
    }
    Ok(build)
}

/// Highest voltage the source shows, V.
fn most_v(build: &Build) -> f64 {
    build.source.states().into_iter().map(|state| build.source.thevenin(state).0).fold(0.0, f64::max)
}

fn supply_v(build: &Build, from: &str) -> Option<f64> {
    if from == "source" {
        return Some(most_v(build));
    }
    if let Some(junction) = build.junctions.iter().find(|j| j.id == from) {
        return supply_v(build, &junction.feed.from);
    }
    build.converters.iter().find(|c| c.id == from).and_then(|c| c.set_v)
}

fn add_step_down(build: &mut Build, set_v: f64) {
    let id = free_id(build, &format!("step-down-{}v", (set_v * 10.0).round() / 10.0));
    let max_in_v = [24.0, 36.0, 60.0, 75.0, 100.0].into_iter().find(|v| *v >= 1.1 * most_v(build)).unwrap_or(1000.0);
    build.converters.push(Converter {
        id,
        feed: plain_feed("source", 0.4, Gauge::Awg(20)),
        kind: ConverterKind::Buck,
        set_v: Some(set_v),
        set_a: None,
        min_in_v: set_v + 1.5,
        max_in_v,
        max_out_a: 3.0,
        max_in_a: None,
        dropout_v: 1.0,
        pass_drop_v: 0.4,
        efficiency: Efficiency::Constant(0.9),
        idle_a: 0.006,
        mass_g: 12.0,
    });
}

fn add_leds(build: &mut Build, colour: &str, count: u32, place: &str, from: &str, length_m: f64) -> Result<(), WishError> {
    let vf_v = COLOURS.iter().find(|(name, _)| *name == colour).map(|(_, v)| *v).ok_or_else(|| WishError::UnknownColour(colour.into()))?;
    let supply_v = supply_v(build, from).ok_or_else(|| WishError::UnknownSupplier(from.into()))?;
    let led = Led { colour: colour.into(), vf_v, if_a: 0.02, if_max_a: 0.03, n: None, rs_ohm: None };
    let mut array = LedArray { led, series: count.clamp(1, 1000), parallel: 1, resistor_ohm: 0.0, resistor_w: 0.25 };
    resize_array(&mut array, supply_v, 0.75).ok_or_else(|| WishError::SupplyTooLow { from: from.into(), supply_v, colour: colour.into() })?;
    let base = if place.is_empty() { colour } else { place };
    let id = free_id(build, &base.to_lowercase().replace([' ', '#'], "-"));
    build.lights.push(Light {
        id: id.clone(),
        place: place.into(),
        feeds: vec![plain_feed(from, length_m, Gauge::Awg(22))],
        load: Load::LedArray(array),
        mass_g: 0.5 * f64::from(count),
        colour: None,
    });
    for scene in &mut build.scenes {
        scene.lights.insert(id.clone(), SceneLight { level: 1.0, colour: [1.0; 3], duty: 1.0 });
    }
    Ok(())
}
