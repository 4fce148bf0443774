//! Looking parts of a build up, and editing it.

use crate::document::{Battery, Build, Chemistry, Conversion, Converter, ConverterKind, Feed, Gauge, Light, Tap};

/// The feed with this id, to be edited.
pub fn feed_mut<'a>(build: &'a mut Build, id: &str) -> Option<&'a mut Feed> {
    let (owner, number) = match id.rsplit_once('#') {
        Some((owner, number)) => (owner, number.parse::<usize>().ok()?),
        None => (id, 0),
    };
    if let Some(junction) = build.junctions.iter_mut().find(|j| j.id == owner) {
        return Some(&mut junction.feed);
    }
    if let Some(converter) = build.converters.iter_mut().find(|c| c.id == owner) {
        return Some(&mut converter.feed);
    }
    if let Some(circuit) = build.circuits.iter_mut().find(|c| c.id == owner) {
        return Some(&mut circuit.feed);
    }
    if let Some(controller) = build.controllers.iter_mut().find(|c| c.id == owner) {
        return Some(&mut controller.feed);
    }
    build.lights.iter_mut().find(|l| l.id == owner)?.feeds.get_mut(number)
}

/// A pack of one string, all else as usual for its chemistry.
pub fn plain_battery(chemistry: Chemistry, series: u32, capacity_ah: f64, max_current_a: f64) -> Battery {
    Battery {
        chemistry,
        series,
        parallel: 1,
        capacity_ah,
        rated_hours: chemistry.rated_hours(),
        resistance_ohm: None,
        max_current_a,
        usable_fraction: None,
        peukert: None,
        charge_v: None,
        used_while_charging: false,
        tap: Tap::Main,
        tap_limit_a: None,
        protected: None,
        own: false,
        charged_by: None,
        may_charge_lit: None,
    }
}

/// A plain pair of wires.
pub fn plain_feed(from: &str, length_m: f64, gauge: Gauge) -> Feed {
    Feed { from: from.into(), length_m, gauge, ..Feed::PLAIN }
}

/// An id that nothing in the build uses yet.
pub fn free_id(build: &Build, wish: &str) -> String {
    let taken = |id: &str| id == "source" || build.part_ids().any(|known| known == id);
    if !taken(wish) {
        return wish.to_owned();
    }
    (2..).map(|n| format!("{wish}-{n}")).find(|id| !taken(id)).unwrap_or_default()
}

/// Name of a converter by what it does, as in `step-down-12v`.
pub fn converter_name(part: &Converter) -> String {
    let volts = |v: f64| format!("{}v", (v * 10.0).round() / 10.0);
    match &part.conversion {
        Conversion::Buck(own) => format!("step-down-{}", volts(own.set_v)),
        Conversion::Boost(own) => format!("step-up-{}", volts(own.set_v)),
        Conversion::BuckBoost(own) => format!("up-down-{}", volts(own.set_v)),
        Conversion::Linear(own) => format!("regulator-{}", volts(own.set_v)),
        Conversion::CurrentDriver(own) => format!("driver-{:.0}ma", 1e3 * own.set_a),
    }
}

/// The current driver that a light hangs on.
pub fn driver_of<'a>(build: &'a Build, light: &Light) -> Option<&'a Converter> {
    build.converters.iter().find(|one| one.kind() == ConverterKind::CurrentDriver && light.feeds.iter().any(|feed| feed.from == one.id))
}

/// Whether a light is the array of a current driver.
pub fn is_driven(build: &Build, light: &Light) -> bool {
    driver_of(build, light).is_some()
}
