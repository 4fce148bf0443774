//! Parts taken out of a build, with what goes or falls back when they do.

use orthavis_model::document::{Build, ConverterKind, Feed, Light, Output};

/// What to take out, by its id.
#[derive(Clone, Debug, PartialEq, Eq, serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", content = "id", rename_all = "snake_case")]
pub enum Removal {
    /// A light: it leaves every scene, and a driver that fed nothing else leaves with it.
    Light(String),
    /// A converter: what it fed falls back on what fed it.
    Converter(String),
    /// A junction: what it fed falls back on what fed it.
    Junction(String),
    /// A small circuit: what it drove falls back on what fed it.
    Circuit(String),
    /// A controller.
    Controller(String),
    /// A load that is always there.
    Standing(String),
    /// A scene, with its minutes of an outing.
    Scene(String),
    /// Bulbs of the audit.
    Bulbs(String),
}

/// Why something stays.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum RemovalError {
    /// Nothing of that kind goes by that id.
    #[error("`{0}` is not in this build; name one of its own")]
    Unknown(String),
    /// A build without scenes shows nothing.
    #[error("`{0}` is the only scene; add another one first")]
    LastScene(String),
}

/// The build without it.
///
/// # Errors
/// When there is no such part, or the build needs it.
pub fn remove(build: &Build, what: &Removal) -> Result<Build, RemovalError> {
    let mut build = build.clone();
    match what {
        Removal::Light(id) => light(&mut build, id)?,
        Removal::Converter(id) => {
            let at = place(&build.converters, id, |one| &one.id)?;
            let gone = build.converters.remove(at);
            fall_back(&mut build, id, &gone.feed);
        }
        Removal::Junction(id) => {
            let at = place(&build.junctions, id, |one| &one.id)?;
            let gone = build.junctions.remove(at);
            fall_back(&mut build, id, &gone.feed);
        }
        Removal::Circuit(id) => {
            let at = place(&build.circuits, id, |one| &one.id)?;
            let gone = build.circuits.remove(at);
            fall_back(&mut build, id, &gone.feed);
        }
        Removal::Controller(id) => {
            let at = place(&build.controllers, id, |one| &one.id)?;
            build.controllers.remove(at);
        }
        Removal::Standing(id) => {
            let at = place(&build.standing, id, |one| &one.id)?;
            build.standing.remove(at);
        }
        Removal::Scene(id) => {
            let at = place(&build.scenes, id, |one| &one.id)?;
            if build.scenes.len() == 1 {
                return Err(RemovalError::LastScene(id.clone()));
            }
            build.scenes.remove(at);
            build.usage.minutes.remove(id);
        }
        Removal::Bulbs(id) => {
            let audit = build.audit.as_mut().ok_or_else(|| RemovalError::Unknown(id.clone()))?;
            let at = place(&audit.bulbs, id, |one| &one.id)?;
            audit.bulbs.remove(at);
        }
    }
    decided_of_what_is_there(&mut build);
    Ok(build)
}

/// Drops what was decided about parts that are gone.
fn decided_of_what_is_there(build: &mut Build) {
    let ids: Vec<String> = build.part_ids().cloned().collect();
    let Some(make) = &mut build.make else { return };
    make.fixings.retain(|fixed| ids.contains(&fixed.part));
    make.inside.retain(|one| ids.contains(&one.part));
    make.positions.retain(|one| one.part == "source" || ids.contains(&one.part));
}

fn place<T>(list: &[T], id: &str, name: impl Fn(&T) -> &String) -> Result<usize, RemovalError> {
    list.iter().position(|one| name(one) == id).ok_or_else(|| RemovalError::Unknown(id.into()))
}

fn light(build: &mut Build, id: &str) -> Result<(), RemovalError> {
    let at = place(&build.lights, id, |light: &Light| &light.id)?;
    let gone = build.lights.remove(at);
    for scene in &mut build.scenes {
        scene.lights.remove(id);
    }
    let idle = |driver: &str| !build.lights.iter().any(|light| light.feeds.iter().any(|feed| feed.from == driver));
    let fed_by = gone.feeds.first().map(|feed| feed.from.clone()).filter(|from| idle(from));
    build.converters.retain(|part| part.kind() != ConverterKind::CurrentDriver || Some(&part.id) != fed_by.as_ref());
    // A circuit that drove nothing else leaves with it.
    build.circuits.retain(|circuit| circuit.drives.is_empty() || circuit.drives.iter().any(|other| other != id));
    for circuit in &mut build.circuits {
        circuit.drives.retain(|other| other != id);
    }
    // It leaves its chain, and an output on which nothing is left goes with it.
    for controller in &mut build.controllers {
        for output in controller.outputs.iter_mut().filter_map(Output::data_mut) {
            for link in &mut output.chain {
                if let Some(copies) = &mut link.copies {
                    copies.retain(|other| other != id);
                }
            }
            output.chain.retain(|link| link.light.as_deref() != Some(id) && link.copies.as_ref().is_none_or(|copies| !copies.is_empty()));
        }
        controller.outputs.retain(|output| match output {
            Output::Data(data) => !data.chain.is_empty(),
            Output::Pin(pin) => pin.light != id,
        });
    }
    Ok(())
}

/// What hung on a part that is gone hangs on what fed that part, by both wires one after the other.
fn fall_back(build: &mut Build, gone: &str, before: &Feed) {
    let lights = build.lights.iter_mut().flat_map(|light| &mut light.feeds);
    let parts = build
        .converters
        .iter_mut()
        .map(|one| &mut one.feed)
        .chain(build.junctions.iter_mut().map(|one| &mut one.feed))
        .chain(build.circuits.iter_mut().map(|one| &mut one.feed))
        .chain(build.controllers.iter_mut().map(|one| &mut one.feed));
    for feed in lights.chain(parts).filter(|feed| feed.from == gone) {
        join(feed, before);
    }
}

/// Puts the wire before a part that is gone before the one behind it: nothing of it is lost, neither its length nor its fuse,
/// and the thinner of the two counts.
fn join(feed: &mut Feed, before: &Feed) {
    before.from.clone_into(&mut feed.from);
    // To a tenth of a millimetre: no reader wants what is left of rounding.
    let sum = |a: f64, b: f64| ((a + b) * 1e4).round() / 1e4;
    feed.length_m = sum(feed.length_m, before.length_m);
    feed.slack_m = match (feed.slack_m, before.slack_m) {
        (Some(own), Some(other)) => Some(sum(own, other)),
        (own, other) => own.or(other),
    };
    if before.gauge.area_mm2() < feed.gauge.area_mm2() {
        feed.gauge = before.gauge;
    }
    feed.fuse = feed.fuse.take().or_else(|| before.fuse.clone());
    feed.switch = feed.switch.take().or_else(|| before.switch.clone());
    feed.moving = feed.moving.take().or_else(|| before.moving.clone());
    feed.contacts += before.contacts;
    feed.contact_rating_a = match (feed.contact_rating_a, before.contact_rating_a) {
        (Some(own), Some(other)) => Some(own.min(other)),
        (own, other) => own.or(other),
    };
    feed.bundled = feed.bundled.max(before.bundled);
}
