//! Looking parts of a build up, and editing it.

use crate::document::{Build, Converter, ConverterKind, Feed, Gauge, Light, Return};

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

/// A plain pair of wires.
pub fn plain_feed(from: &str, length_m: f64, gauge: Gauge) -> Feed {
    Feed {
        from: from.into(),
        at_m: 0.0,
        length_m,
        gauge,
        return_path: Return::Wire,
        fuse: None,
        switch: None,
        contacts: 0,
        contact_rating_a: None,
        bundled: 1,
        slack_m: None,
        plus_colour: None,
        minus_colour: None,
        moving: None,
        dimmer: None,
    }
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
    let volts = |v: Option<f64>| format!("{}v", (v.unwrap_or(0.0) * 10.0).round() / 10.0);
    match part.kind {
        ConverterKind::Buck => format!("step-down-{}", volts(part.set_v)),
        ConverterKind::Boost => format!("step-up-{}", volts(part.set_v)),
        ConverterKind::BuckBoost => format!("up-down-{}", volts(part.set_v)),
        ConverterKind::Linear => format!("regulator-{}", volts(part.set_v)),
        ConverterKind::CurrentDriver => format!("driver-{:.0}ma", 1e3 * part.set_a.unwrap_or(0.0)),
    }
}

/// Whether a light is the array of a current driver.
pub fn is_driven(build: &Build, light: &Light) -> bool {
    let from = |id: &str| build.converters.iter().any(|c| c.id == id && c.kind == ConverterKind::CurrentDriver);
    light.feeds.iter().any(|feed| from(&feed.from))
}
