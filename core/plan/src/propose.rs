//! Parts added with sensible figures, so that a person starts from something that works.
//!
//! Defaults: three quarters of rated current, per-string resistors, E24 values, resistors at no more than 60 % of
//! their rating, 20 AWG to converters and 22 AWG to lights. Typical forward voltages are for 20 mA.

pub use crate::wish::{LightWish, PrintedBulb, Wish, WishError, piece};

use crate::choose::Pick;
use crate::choose::supply::{Need, Way, need_of};
use orthavis_judge::driven::Driven;
use orthavis_model::document::library;
use orthavis_model::document::*;
use orthavis_model::edit::{converter_name, free_id, plain_battery, plain_feed};
use orthavis_model::laws::led::{arrange, usual_vf};
use orthavis_model::laws::light::WIDE_DEG;
use orthavis_model::practice::{EMITTER_A, INPUT_V, USE_SHARE, rating_above};
use orthavis_model::vehicle;
use orthavis_physics::offered::offered_v;
use std::collections::BTreeMap;

/// An LED by the colour of its light, with figures as usual for a 5 mm LED.
///
/// # Errors
/// When the colour is none of [`orthavis_model::practice::LED_COLOURS`].
pub fn usual_led(colour: &str) -> Result<Led, WishError> {
    let vf_v = usual_vf(colour).ok_or_else(|| WishError::UnknownColour(colour.into()))?;
    Ok(Led { colour: colour.into(), vf_v, if_a: 0.02, if_max_a: 0.03, n: None, rs_ohm: None })
}

/// A build with a battery, one scene and nothing lit yet.
pub fn starter(name: &str, kind: VehicleKind, variant: Option<&str>, chemistry: Chemistry, series: u32, capacity_ah: f64) -> Build {
    let mass_kg = vehicle::form(kind, variant).map_or(10.0, |form| form.mass_kg);
    // Two hours' worth of capacity an hour is within what packs of every rechargeable chemistry here stand; a coin cell gives a
    // tenth of one.
    let most_a = if chemistry == Chemistry::LithiumCoin { 0.1 * capacity_ah } else { (2.0 * capacity_ah).max(0.1) };
    let battery = plain_battery(chemistry, series, capacity_ah, most_a);
    Build {
        format: FORMAT.into(),
        name: name.into(),
        notes: String::new(),
        vehicle: Vehicle { kind, variant: variant.map(str::to_owned), mass_kg, frame_return_ohm: None, propulsion: None, hover: None },
        source: Source::Battery(battery),
        junctions: vec![],
        converters: vec![],
        lights: vec![],
        standing: vec![],
        scenes: vec![Scene { id: "ride".into(), name: first_scene(kind, variant).into(), lights: BTreeMap::new() }],
        usage: Usage { outings_per_week: 5.0, minutes: BTreeMap::from([("ride".into(), 40.0)]), ..Usage::default() },
        audit: None,
        controllers: Vec::new(),
        circuits: Vec::new(),
        make: None,
        places: vec![],
        parts: vec![],
    }
}

/// What people call the time for which they light such a vehicle first.
fn first_scene(kind: VehicleKind, variant: Option<&str>) -> &'static str {
    match (kind, variant) {
        (VehicleKind::Rv, _) => "Evening",
        (kind, variant) if kind.flies(variant) => "Flying",
        (VehicleKind::RcModel, _) => "Running",
        (VehicleKind::Wheelchair, _) => "Out",
        _ => "Riding",
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
        Wish::Converter { part, from } => match &part.what {
            What::Converter { figures } => add_converter(&mut build, figures, from)?,
            _ => return Err(WishError::Misplaced("a converter")),
        },
        Wish::Leds { colour, count, place, from, length_m } => {
            let what = LightWish::Leds { led: usual_led(colour)?, count: *count, shines: None };
            add_light(&mut build, &what, place, from.as_deref(), *length_m)?;
        }
        Wish::Light { part, count, piece_m, place, from, length_m } => {
            let what = LightWish::of((**part).clone(), *count, *piece_m).ok_or(WishError::Misplaced("a light"))?;
            add_light(&mut build, &what, place, from.as_deref(), *length_m)?;
        }
        Wish::CopyLight { id } => copy_light(&mut build, id)?,
        Wish::Junction { from } => {
            most_v(&build, from)?;
            let id = free_id(&build, "block");
            build.junctions.push(Junction { id, feed: plain_feed(from, 0.3, Gauge::Awg(18)) });
        }
        Wish::Circuit { circuit, light } => crate::soldered::add_circuit(&mut build, *circuit, light.as_deref())?,
        Wish::Controller { from } => add_controller(&mut build, from)?,
        Wish::Scene { like } => add_scene(&mut build, like.as_deref())?,
        Wish::Standing => {
            let id = free_among(build.standing.iter().map(|one| one.id.as_str()), "alarm");
            build.standing.push(Standing { id, current_a: 0.02, hours_per_day: 24.0, ahead_of_disconnect: false });
        }
        Wish::Bulbs { part } => add_bulbs(&mut build, part)?,
        Wish::OwnBulb(printed) => own_bulb(&mut build, printed)?,
        Wish::Pack { part } => {
            let What::Battery { battery } = &part.what else { return Err(WishError::Misplaced("a battery")) };
            let kept = match &build.source {
                Source::Battery(old) => Battery { used_while_charging: old.used_while_charging, tap: old.tap, tap_limit_a: old.tap_limit_a, ..battery.clone() },
                Source::Rail(_) | Source::Track(_) => battery.clone(),
            };
            build.source = Source::Battery(kept);
        }
        // A receiver's or flight controller's 5 V, until it is measured.
        Wish::Track => {
            let track = Track { wave: TrackWave::Digital, voltage_v: 16.0, frequency_hz: 50.0, max_current_a: 0.5, other_load_a: 0.0, gaps: None };
            build.source = Source::Track(track);
        }
        Wish::Rail => {
            build.source = Source::Rail(Rail { voltage_v: 5.0, resistance_ohm: 0.02, max_current_a: 2.0, other_load_a: 0.0, min_load_a: None, critical: None })
        }
    }
    Ok(build)
}

/// An id that none of these is yet.
fn free_among<'a>(taken: impl Iterator<Item = &'a str> + Clone, wish: &str) -> String {
    let free = |id: &String| !taken.clone().any(|known| known == id);
    std::iter::once(wish.to_owned()).chain((2..).map(|n| format!("{wish}-{n}"))).find(free).unwrap_or_default()
}

/// Names of scenes that people light a vehicle for.
const SCENES: [&str; 5] = ["Riding", "Parked", "Show", "Emergency", "Night"];

fn add_scene(build: &mut Build, like: Option<&str>) -> Result<(), WishError> {
    let lights = match like {
        Some(id) => build.scenes.iter().find(|scene| scene.id == id).ok_or_else(|| WishError::UnknownScene(id.into()))?.lights.clone(),
        None => BTreeMap::new(),
    };
    let unused = SCENES.iter().find(|name| build.scenes.iter().all(|scene| scene.name != **name));
    let name = unused.map_or_else(|| format!("Scene {}", build.scenes.len() + 1), |name| (*name).to_owned());
    let id = free_among(build.scenes.iter().map(|scene| scene.id.as_str()), &name.to_lowercase().replace(' ', "-"));
    build.usage.minutes.insert(id.clone(), 10.0);
    build.scenes.push(Scene { id, name, lights });
    Ok(())
}

fn add_bulbs(build: &mut Build, part: &str) -> Result<(), WishError> {
    library::bulb(build, part).ok_or_else(|| WishError::UnknownBulb(part.into()))?;
    let audit = build.audit.get_or_insert_default();
    let id = free_among(audit.bulbs.iter().map(|bulb| bulb.id.as_str()), "bulbs");
    audit.bulbs.push(AuditBulb { id, part: part.into(), count: 1, usual: 1, hours_per_day: 1.0, replacement: None });
    Ok(())
}

/// Bulbs stand a quarter more than their rated voltage: a charging battery.
const BULB_HEADROOM: f64 = 1.25;

fn own_bulb(build: &mut Build, printed: &PrintedBulb) -> Result<(), WishError> {
    let PrintedBulb { draw, holder, volts, watts, lumens, colour_k } = printed;
    let word = if *draw == Draw::Filament { "Bulb" } else { "LED" };
    let tidy: String = holder.trim().to_lowercase().chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '-' }).collect();
    let wish: String = format!("own-{}-{watts}w-{tidy}", word.to_lowercase()).chars().take(60).collect();
    let id = free_among(build.parts.iter().map(|part| part.id.as_str()), &wish);
    let module = Module { draw: *draw, voltage_v: *volts, power_w: *watts, min_v: 0.0, max_v: BULB_HEADROOM * volts, inrush_a: None };
    build.parts.push(Part {
        id: id.clone(),
        name: format!("{word} {volts} V {watts} W, {}, mine", holder.trim()),
        figures_from: "As printed on it".into(),
        size_mm: None,
        mass_g: None,
        price_eur: None,
        retired: false,
        light: Some(PartLight {
            lm: *lumens,
            half_angle_deg: (*draw != Draw::Filament).then_some(WIDE_DEG),
            figures_from: "Flux as printed on it; half angle as usual".into(),
        }),
        what: What::Bulb { load: Load::Module(module), holder: holder.trim().into(), lumens: *lumens, colour_k: *colour_k, polarised: false },
    });
    // An old bulb was looked at because it is there; an LED because it might replace one.
    if *draw == Draw::Filament { add_bulbs(build, &id) } else { Ok(()) }
}

/// Highest voltage that a supplier shows, V.
fn most_v(build: &Build, from: &str) -> Result<f64, WishError> {
    let volts = offered_v(build, from).ok_or_else(|| WishError::UnknownSupplier(from.into()))?;
    Ok(volts.into_iter().map(|(_, v)| v).fold(0.0, f64::max))
}

fn add_step_down(build: &mut Build, set_v: f64) {
    let id = free_id(build, &format!("step-down-{}v", (set_v * 10.0).round() / 10.0));
    let most = build.states().into_iter().map(|state| build.thevenin(state).0).fold(0.0, f64::max);
    build.converters.push(Converter {
        id,
        feed: plain_feed("source", 0.4, Gauge::Awg(20)),
        conversion: Conversion::step_down(set_v, 0.9),
        min_in_v: set_v + 1.5,
        max_in_v: rating_above(1.1 * most, &INPUT_V),
        max_out_a: 3.0,
        max_in_a: None,
        idle_a: 0.006,
        max_loss_w: None,
        mass_g: 12.0,
        ..Converter::PLAIN
    });
}

fn add_converter(build: &mut Build, figures: &Converter, from: &str) -> Result<(), WishError> {
    most_v(build, from)?;
    let id = free_id(build, &converter_name(figures));
    build.converters.push(Converter { id, feed: plain_feed(from, 0.4, Gauge::Awg(20)), ..figures.clone() });
    Ok(())
}

/// A converter that already gives what a light needs.
fn fitting_converter(build: &Build, need: &Need) -> Option<String> {
    let fits = |c: &&Converter| {
        !need.emitter && c.kind() != ConverterKind::CurrentDriver && c.set_v().is_some_and(|v| (v / need.voltage_v - 1.0).abs() < 0.1 && v <= need.most_v)
    };
    build.converters.iter().find(fits).map(|c| c.id.clone())
}

fn add_light(build: &mut Build, what: &LightWish, place: &str, from: Option<&str>, wire_m: f64) -> Result<(), WishError> {
    // The row that is left over where a number of LEDs does not divide into rows: a light beside the others.
    let mut left_over: Option<LedArray> = None;
    let (load, colour, mass_g, base) = match what {
        LightWish::Leds { led, count, .. } => {
            let emitter = led.if_a >= EMITTER_A;
            // A supply with a set voltage, once there is one, is the better one for strings.
            let set = build.converters.iter().find(|c| c.set_v().is_some_and(|v| v > 1.2 * led.vf_v)).map(|c| c.id.clone());
            let from = from.map(str::to_owned).or(set.filter(|_| !emitter)).unwrap_or_else(|| "source".into());
            let mut array = LedArray::row(led.clone(), (*count).clamp(1, 1000));
            let supply_v = most_v(build, &from)?;
            if emitter {
                let longest = ((0.8 * supply_v / led.vf_v) as u32).max(1);
                array.series = array.series.min(longest);
                array.parallel = count.div_ceil(array.series).max(1);
            } else {
                let too_low = || WishError::SupplyTooLow { from: from.clone(), supply_v, colour: led.colour.clone() };
                arrange(&mut array, supply_v, USE_SHARE).ok_or_else(too_low)?;
                let rest = count % array.series;
                if rest > 0 && *count > array.series {
                    array.parallel = count / array.series;
                    let mut row = LedArray { series: rest, parallel: 1, ..array.clone() };
                    arrange(&mut row, supply_v, USE_SHARE).ok_or_else(too_low)?;
                    left_over = Some(row);
                }
            }
            (Load::LedArray(array), None, 0.5 * f64::from(*count), (led.colour.clone(), Some(from)))
        }
        LightWish::Load { load, colour, mass_g, .. } => {
            let word = match **load {
                Load::Strip(_) => "strip",
                Load::Pixels(_) => "pixels",
                _ => "light",
            };
            ((**load).clone(), colour.clone(), *mass_g, (word.to_owned(), from.map(str::to_owned)))
        }
    };
    let (word, chosen) = base;
    if let Some(from) = &chosen {
        most_v(build, from)?;
    }
    let name = if place.is_empty() { &word } else { place };
    let id = free_id(build, &name.to_lowercase().replace([' ', '#'], "-"));
    let driven = matches!(&load, Load::LedArray(array) if array.led.if_a >= EMITTER_A);
    let light = Light {
        id: id.clone(),
        place: place.into(),
        feeds: vec![plain_feed(chosen.as_deref().unwrap_or("source"), wire_m, Gauge::Awg(22))],
        load,
        mass_g,
        colour,
        purpose: None,
        reverse_ok: None,
        sealed: if let LightWish::Load { sealed, .. } = what { *sealed } else { None },
        profile: false,
        shine: None,
    };
    let light = Light { shine: what.shine(&light), ..light };
    let need = need_of(&light);
    build.lights.push(light);
    for scene in &mut build.scenes {
        scene.lights.insert(id.clone(), SceneLight::FULL);
    }
    if from.is_none() && (driven || chosen.is_none()) {
        supply_light(build, &id, &need);
    }
    if let Some(row) = left_over {
        let rest_id = free_id(build, &format!("{id}-rest"));
        let Some(mut rest) = build.lights.iter().find(|light| light.id == id).cloned() else { return Ok(()) };
        rest.mass_g = 0.5 * f64::from(row.series);
        (rest.id, rest.load) = (rest_id.clone(), Load::LedArray(row));
        if let Some(light) = build.lights.iter_mut().find(|light| light.id == id) {
            light.mass_g -= rest.mass_g;
        }
        build.lights.push(rest);
        for scene in &mut build.scenes {
            scene.lights.insert(rest_id.clone(), SceneLight::FULL);
        }
    }
    Ok(())
}

/// Feeds a light from what fits: a converter that is there, the source itself, else the best module for it.
fn supply_light(build: &mut Build, id: &str, need: &Need) {
    if let Some(from) = fitting_converter(build, need) {
        if let Some(light) = build.lights.iter_mut().find(|light| light.id == id) {
            light.feeds.iter_mut().for_each(|feed| feed.from.clone_from(&from));
        }
        return;
    }
    // A chip of more volts than there are.
    let lifted = build.lights.iter().find(|light| light.id == id).filter(|_| need.emitter).and_then(|light| {
        let Load::LedArray(array) = &light.load else { return None };
        let volts = offered_v(build, "source")?;
        let (low, high) = volts.into_iter().fold((f64::INFINITY, 0.0_f64), |(low, high), (_, volts)| (low.min(volts), high.max(volts)));
        Driven::of(array, low, high).filter(|driven| driven.lifted_to_v.is_some())
    });
    if let Some(driven) = lifted {
        driven.put_before(build, id);
        return;
    }
    let choices = crate::choose::supply::for_light(build, id).unwrap_or_default();
    let best = choices.into_iter().filter(|choice| choice.works).find_map(|choice| match choice.pick {
        Pick::Supply { way: Way::OwnPack, .. } => None,
        Pick::Supply { converter, .. } => Some(converter),
        _ => None,
    });
    if let Some(converter) = best {
        crate::choose::supply::feed_by(build, id, converter.as_deref());
    }
}

/// Highest input of a bare board, and the range of one with a regulator of its own (representative), V.
const BARE_V: (f64, f64) = (4.5, 5.5);
const REGULATED_V: (f64, f64) = (6.0, 36.0);

fn add_controller(build: &mut Build, from: &str) -> Result<(), WishError> {
    let volts = most_v(build, from)?;
    let (min_in_v, max_in_v) = if volts <= BARE_V.1 { BARE_V } else { REGULATED_V };
    let known = |id: &str| build.controllers.iter().flat_map(|one| &one.outputs).flat_map(Output::links).flat_map(Link::lights).any(|light| light == id);
    let pieces = build.lights.iter().filter(|light| matches!(light.load, Load::Pixels(_)) && !known(&light.id));
    let chain: Vec<Link> = pieces.map(|light| Link { light: Some(light.id.clone()), copies: None, mounted: Some(Mounted::Along), wire_m: 0.2 }).collect();
    let data = |chain| DataOutput { pin: "D1".into(), chain }.into();
    let outputs = if chain.is_empty() { Vec::new() } else { vec![data(chain)] };
    let id = free_id(build, "controller");
    build.controllers.push(Controller {
        id,
        feed: plain_feed(from, 0.2, Gauge::Awg(24)),
        kind: ControllerKind::Microcontroller,
        logic_v: 5.0,
        idle_a: 0.05,
        min_in_v,
        max_in_v,
        pin_max_a: 0.02,
        pins_total_a: 0.2,
        pixel_limit: None,
        limit_a: None,
        mass_g: 6.0,
        reverse_ok: None,
        sealed: None,
        place: None,
        remote: None,
        outputs,
    });
    Ok(())
}

fn copy_light(build: &mut Build, id: &str) -> Result<(), WishError> {
    let original = build.lights.iter().find(|light| light.id == id).ok_or_else(|| WishError::UnknownLight(id.into()))?;
    let mut copy = original.clone();
    // A driver feeds one light only: the copy gets a driver of its own, set alike.
    let driver = build.converters.iter().find(|c| c.id == copy.feeds[0].from && c.kind() == ConverterKind::CurrentDriver).cloned();
    if let Some(mut driver) = driver {
        driver.id = free_id(build, &driver.id);
        copy.feeds[0].from.clone_from(&driver.id);
        build.converters.push(driver);
    }
    copy.id = free_id(build, id);
    // What drives the one drives the other.
    for circuit in build.circuits.iter_mut().filter(|circuit| circuit.drives.iter().any(|driven| driven == id)) {
        circuit.drives.push(copy.id.clone());
    }
    for scene in &mut build.scenes {
        if let Some(lit) = scene.lights.get(id).cloned() {
            scene.lights.insert(copy.id.clone(), lit);
        }
    }
    build.lights.push(copy);
    Ok(())
}
