//! Lights that get too little, or too much, voltage.

use super::case::*;
use super::follow;
use orthavis_model::document::{Conversion, Converter, ConverterKind, Gauge, Light, Load, Switch};
use orthavis_model::edit::{feed_mut, free_id, is_driven, plain_feed};
use orthavis_model::laws::led::DiodeString;
use orthavis_model::laws::resistor::{self, Series};
use orthavis_model::practice::{DARK, DIM, FAR_OVER_VOLTAGE, OVER_VOLTAGE, USE_SHARE};
use orthavis_model::practice::{INPUT_V, OUTPUT_A, SWITCH_A, rating_above};
use orthavis_model::topology::Topology;
use orthavis_model::working::plain;
use orthavis_physics::protection::{self, wants_fuse};
use std::collections::BTreeSet;

pub(super) const FAMILY: Family = Family { find, mend, mend_all: one_supply };

pub(super) const LIGHT_DARK: Check = Check {
    code: "light.dark",
    step: Step::Lights,
    unit: "1",
    why: "You would think you can be seen, and you cannot.",
    formula: "output / level ≥ {0}",
    rule: "Light is taken as proportional to LED current: what is delivered of what the scene asks for.",
    source: "Linear output over current; droop and temperature are outside the model",
    mend: "Check what feeds it: a converter that is off, a supply below its voltage, or too many LEDs in a row.",
    figures: &[DARK],
};

pub(super) const LIGHT_DIM: Check = Check {
    code: "light.dim",
    step: Step::Lights,
    unit: "1",
    why: "Less than {0%} of the light is plainly dimmer than planned, and worse as the battery empties.",
    formula: "output / level ≥ {0}",
    rule: "Light is taken as proportional to LED current: what is delivered of what the scene asks for.",
    source: "Linear output over current; droop and temperature are outside the model",
    mend: "Check what feeds it: a supply below its voltage, a long thin wire, or too many LEDs in a row.",
    figures: &[DIM],
};

pub(super) const LIGHT_OVER_VOLTAGE: Check = Check {
    code: "light.over_voltage",
    step: Step::Lights,
    unit: "V",
    why: "It shines brighter than it is made for, runs hot and ages fast; far above its rating its LEDs and resistors burn out at once, lit or not.",
    formula: "V_max ≤ {0}·V_rated (strip, pixels), V_max ≤ max (lamp)",
    rule: "Strips and pixels stand {1%} above their rated voltage, from {2%} on they burn; sealed lamps stand what their label says.",
    source: "Representative tolerance; the part's label where it states one",
    mend: "Power it from a converter set to its voltage.",
    figures: &[OVER_VOLTAGE, OVER_VOLTAGE - 1.0, FAR_OVER_VOLTAGE - 1.0],
};

/// Voltage that a light is made for, V, where its label contradicts itself the lower; an LED array has none but its strings'.
pub(super) fn rated_v(load: &Load) -> Option<f64> {
    match load {
        Load::Strip(strip) => Some(DiodeString::strip_rating(strip).0),
        Load::Pixels(pixels) => Some(pixels.voltage_v),
        Load::Module(module) => Some(module.voltage_v.min(module.max_v)),
        Load::LedArray(_) => None,
    }
}

/// Highest voltage that a light may see and the one from which it is destroyed, V; an LED array has none but its
/// current.
fn most_v(load: &Load) -> Option<(f64, f64)> {
    match load {
        Load::Module(module) => Some((module.max_v, module.max_v)),
        // Its rows are judged by their current.
        Load::Strip(strip) if strip.recut.is_some() => None,
        other => rated_v(other).map(|rated| (OVER_VOLTAGE * rated, FAR_OVER_VOLTAGE * rated)),
    }
}

fn find(case: &Case<'_>, found: &mut Findings) {
    for light in &case.build.lights {
        if let Some((limit, far)) = most_v(&light.load)
            && let Some((voltage_v, point)) = case.worst(|point| Some(point.lights.get(&light.id)?.highest_v)).filter(|(v, _)| above(*v, limit))
        {
            over_voltage(case, light, voltage_v, limit, above(voltage_v, far), point, found);
        }
        dim(case, light, found);
    }
}

/// Darkness, or else dimness, over all points at which the scene asks for light.
fn dim(case: &Case<'_>, light: &Light, found: &mut Findings) {
    let share_at = |point: &PointReport| light.share(&case.lit(point, &light.id), point.lights.get(&light.id)?.output);
    let shares: Vec<(f64, &PointReport)> = case.points().filter_map(|point| Some((share_at(point)?, point))).collect();
    let below = |limit: f64| shares.iter().filter(move |(share, _)| above(limit, *share));
    let reserve = |limit: f64| below(limit).all(|(_, point)| point.state.is_reserve());
    let Some((share, point)) = shares.iter().min_by(|a, b| a.0.total_cmp(&b.0)).copied() else { return };
    let (check, severity, limit) = if above(DARK, share) {
        (&LIGHT_DARK, if reserve(DARK) { Severity::Fix } else { Severity::Stop }, DARK)
    } else if above(DIM, share) {
        (&LIGHT_DIM, if reserve(DIM) { Severity::Note } else { Severity::Fix }, DIM)
    } else {
        return;
    };
    let draft = Draft { check, severity, subject: &light.id, point: Some(point), value: share, limit, excess: -share };
    found.add(draft, || {
        let dark = check.code == LIGHT_DARK.code;
        let (count, of) = (below(limit).count(), shares.len());
        let when = if count == of {
            String::new()
        } else if reserve(limit) {
            " at reserve".to_owned()
        } else {
            let states: BTreeSet<State> = below(limit).map(|(_, point)| point.state).collect();
            format!(" {}", states.iter().map(|state| state.phrase()).collect::<Vec<_>>().join(" and "))
        };
        let does = match (dark, count == of) {
            (true, true) => "stays dark",
            (true, false) => "goes dark",
            (false, _) => "is dim",
        };
        let here = point.lights.get(&light.id);
        Words {
            title: format!("{} {does}{when}", light.id),
            message: format!(
                "`{}` gives {:.0} % of the light that the scene asks for, {}; {} reach it.{}",
                light.id,
                100.0 * share,
                moment(case.build, point),
                plain(here.map_or(0.0, |l| l.voltage_v), "V"),
                if count == of { String::new() } else { format!(" So it is in {count} of {of} combinations of scene and charge.") }
            ),
            advice: Some("Check what feeds it: a converter that is off, a supply below its voltage, or too many LEDs in a row."),
            given: vec![
                quantity("output", "light, as the report has it", here.map_or(0.0, |l| l.output), "1"),
                quantity("level", "asked by the scene", case.lit(point, &light.id).level, "1"),
            ],
        }
    });
}

fn over_voltage(case: &Case<'_>, light: &Light, voltage_v: f64, limit: f64, far: bool, point: &PointReport, found: &mut Findings) {
    let severity = if far { Severity::Stop } else { Severity::Fix };
    let draft = Draft { check: &LIGHT_OVER_VOLTAGE, severity, subject: &light.id, point: Some(point), value: voltage_v, limit, excess: voltage_v / limit };
    found.add(draft, || Words {
        title: format!("{}: {}", light.id, if far { "too much voltage" } else { "more voltage than is good for it" }),
        message: format!("`{}` sees {} {}; it stands {}.", light.id, plain(voltage_v, "V"), moment(case.build, point), plain(limit, "V")),
        advice: None,
        given: rated_v(&light.load).map(|v| quantity("V_rated", "rated voltage", v, "V")).into_iter().collect(),
    });
}

fn mend(case: &Case<'_>, finding: &Finding) -> Vec<Proposal> {
    let Some(light) = case.build.lights.iter().find(|light| light.id == finding.subject) else { return Vec::new() };
    match finding.code {
        "light.over_voltage" | "light.dim" | "light.dark" => {
            let mut proposals = Vec::new();
            let exchanged = other_strip(case, light);
            let exchanges = exchanged.is_some();
            let over = finding.code == "light.over_voltage";
            // What shines too brightly wants a step-down first: the strip itself is good.
            let (before, after) = if over { (None, exchanged) } else { (exchanged, None) };
            proposals.extend(before);
            proposals.extend(other_supply(case, light));
            proposals.extend(set_voltage(case, light));
            if finding.code != "light.over_voltage" {
                proposals.extend(less_held_back(case, light));
                proposals.extend(other_kind(case, light));
            }
            if finding.code != "light.over_voltage" {
                proposals.extend(super::wire::thicker_path(case, light));
            }
            // A step-up of more than that is dearer, hotter and harder to protect than the right strip.
            let kinds = if exchanges && rated_w(case, light) > STEP_UP_W && !over {
                &[ConverterKind::Buck][..]
            } else {
                &[ConverterKind::Buck, ConverterKind::BuckBoost]
            };
            proposals.extend(kinds.iter().filter_map(|kind| own_converter(case, &[light], *kind)));
            proposals.extend(after);
            if finding.state == Some(State::Charging) {
                proposals.extend(propose(case.build, "Keep the lights off while charging", |copy| {
                    match &mut copy.source {
                        orthavis_model::document::Source::Battery(battery) => battery.used_while_charging = false,
                        orthavis_model::document::Source::Rail(_) | orthavis_model::document::Source::Track(_) => return None,
                    }
                    Some(())
                }));
            }
            proposals
        }
        _ => Vec::new(),
    }
}

/// Behind a hold-up: less resistance between its capacitor and the lights. They shine brighter, and for a shorter time.
fn less_held_back(case: &Case<'_>, light: &Light) -> Vec<Proposal> {
    let Some(from) = light.feeds.first().map(|feed| feed.from.as_str()) else { return Vec::new() };
    let Some(parts) = case.build.circuits.iter().find(|one| one.id == from).and_then(|one| one.hold_up()) else { return Vec::new() };
    let taps = &parts.taps_ohm;
    let nearer = Some(parts.tap).filter(|tap| *tap > 1).and_then(|_| {
        propose(case.build, format!("Take the lights of {from} from its first resistor"), |copy| {
            copy.circuits.iter_mut().find(|one| one.id == from)?.hold_up_mut()?.tap = 1;
            Some(())
        })
    });
    let smaller = [0.5, 0.2, 0.1, 0.05].into_iter().filter_map(|share| {
        let taps: Vec<f64> = taps.iter().map(|ohm| resistor::above(Series::E12, share * ohm)).collect();
        let words: Vec<String> = taps.iter().map(|ohm| plain(*ohm, "Ω")).collect();
        propose(case.build, format!("Use smaller resistors behind the capacitor of {from}: {}", words.join(", ")), |copy| {
            copy.circuits.iter_mut().find(|one| one.id == from)?.hold_up_mut()?.taps_ohm = taps;
            Some(())
        })
    });
    nearer.into_iter().chain(smaller).collect()
}

/// Feed it from a converter that is already set to its voltage.
fn other_supply(case: &Case<'_>, light: &Light) -> Vec<Proposal> {
    let Some(rated) = rated_v(&light.load) else { return Vec::new() };
    let fits = |c: &&Converter| c.set_v().is_some_and(|v| (v / rated - 1.0).abs() < 0.1) && light.feeds.iter().all(|feed| feed.from != c.id);
    let suppliers = case.build.converters.iter().filter(fits);
    suppliers
        .filter_map(|converter| {
            propose(case.build, format!("Feed it from {}", converter.id), |copy| {
                for feed in &mut copy.lights.iter_mut().find(|l| l.id == light.id)?.feeds {
                    feed.from = converter.id.clone();
                }
                Some(())
            })
        })
        .collect()
}

/// Set the converter before it to its voltage.
fn set_voltage(case: &Case<'_>, light: &Light) -> Option<Proposal> {
    let rated = rated_v(&light.load)?;
    let from = &light.feeds.first()?.from;
    let converter = case.build.converters.iter().find(|c| c.id == *from && c.kind() != ConverterKind::CurrentDriver)?;
    propose(case.build, format!("Set {} to {}", converter.id, plain(rated, "V")), |copy| {
        *copy.converters.iter_mut().find(|c| c.id == converter.id)?.conversion.setting_mut() = rated;
        Some(())
    })
}

/// Whether a step-down's input falls below what it is set to.
pub(super) fn is_starved(converter: &Converter, lowest_v: f64) -> bool {
    match &converter.conversion {
        Conversion::Buck(own) => lowest_v < own.set_v + own.dropout_v,
        Conversion::Linear(own) => lowest_v < own.set_v + own.dropout_v,
        Conversion::Boost(_) | Conversion::BuckBoost(_) | Conversion::CurrentDriver(_) => false,
    }
}

/// A module that goes either way in place of a step-down whose input is too low for what it is set to.
pub(super) fn other_kind(case: &Case<'_>, light: &Light) -> Option<Proposal> {
    let range = |id: &str| {
        let inputs = case.points().filter_map(|point| point.converters.get(id)).map(|c| c.in_v);
        inputs.fold((f64::MAX, 0.0f64), |(low, high), v| (low.min(v), high.max(v)))
    };
    let starved = |c: &&Converter| is_starved(c, range(&c.id).0);
    let above = follow::suppliers(case.build, &light.feeds.first()?.from)
        .into_iter()
        .find(|id| case.build.converters.iter().find(|c| c.id == *id).is_some_and(|c| starved(&c)));
    let from = above?;
    let (low, high) = range(from);
    propose(case.build, format!("Use a step-up-down module as {from}"), |copy| {
        let c = copy.converters.iter_mut().find(|c| c.id == from)?;
        c.conversion = Conversion::step_up_down(c.target_v(), 0.88);
        c.min_in_v = c.min_in_v.min((0.8 * low * 2.0).floor() / 2.0);
        c.max_in_v = c.max_in_v.max(rating_above(1.1 * high, &INPUT_V));
        c.max_loss_w = None;
        Some(())
    })
}

/// Currents that a light draws when it is fed what it is made for, A.
fn wanted_a(case: &Case<'_>, light: &Light) -> f64 {
    let currents = case.points().filter_map(|p| p.lights.get(&light.id)).map(|l| l.current_a);
    let rated_a = match &light.load {
        Load::Strip(strip) => DiodeString::strip_rating(strip).1,
        Load::Pixels(pixels) => f64::from(pixels.count) * (pixels.channel_a.iter().sum::<f64>() + pixels.idle_a),
        Load::Module(module) => module.power_w / module.voltage_v,
        Load::LedArray(array) => array.led.if_a * f64::from(array.parallel),
    };
    currents.fold(0.0, f64::max).min(1.2 * rated_a).max(rated_a)
}

/// What a light takes at its rating, W.
fn rated_w(case: &Case<'_>, light: &Light) -> f64 {
    wanted_a(case, light) * rated_v(&light.load).unwrap_or(0.0)
}

/// From this much on a strip is exchanged rather than fed through a step-up, W.
const STEP_UP_W: f64 = 25.0;
/// What strips are made for, V.
const STRIP_V: [f64; 4] = [24.0, 12.0, 6.0, 5.0];

/// The same strip as it is sold for the voltage that is there: as bright, with the wire and the fuse that its current wants.
fn other_strip(case: &Case<'_>, light: &Light) -> Option<Proposal> {
    let Load::Strip(strip) = &light.load else { return None };
    let first = light.feeds.first()?;
    let offered = orthavis_physics::offered::offered_v(case.build, &first.from)?;
    let (low, high) = offered.iter().fold((f64::MAX, 0.0f64), |(low, high), (_, v)| (low.min(*v), high.max(*v)));
    let volts = STRIP_V.into_iter().find(|volts| high <= OVER_VOLTAGE * volts && low >= 0.8 * volts && (volts - strip.voltage_v).abs() > 0.5)?;
    let leds = ((0.8 * volts / strip.led_vf_v) as u32).max(1);
    propose(case.build, format!("Use a {} strip of the same kind in its place", plain(volts, "V")), |copy| {
        let current_a = strip.power_w_per_m * strip.length_m / volts / light.feeds.len() as f64;
        let light = copy.lights.iter_mut().find(|one| one.id == light.id)?;
        let Load::Strip(own) = &mut light.load else { return None };
        own.segment_m = strip.segment_m * f64::from(leds) / f64::from(strip.leds_per_segment);
        (own.voltage_v, own.leds_per_segment, own.recut) = (volts, leds, None);
        own.length_m = ((strip.length_m / own.segment_m + 1e-9).floor().max(1.0) * own.segment_m * 1e6).round() / 1e6;
        for feed in &mut light.feeds {
            feed.at_m = feed.at_m.min(own.length_m);
            if let Some(fuse) = &mut feed.fuse {
                fuse.rating_a = fuse.rating_a.max(fuse.style.smallest_for(current_a)?);
            }
            let carries = feed.fuse.as_ref().map_or(current_a, |fuse| fuse.rating_a.max(current_a));
            let sizes = std::iter::once(feed.gauge).chain(feed.gauge.thicker());
            feed.gauge = sizes.into_iter().find(|gauge| within(carries, gauge.ampacity_a(feed.bundled)))?;
        }
        Some(())
    })
}

/// A converter between a supplier and these lights, which all want the same voltage.
fn own_converter(case: &Case<'_>, lights: &[&Light], kind: ConverterKind) -> Option<Proposal> {
    let light = lights.first()?;
    let target = match &light.load {
        Load::LedArray(array) if !is_driven(case.build, light) => {
            orthavis_model::laws::led::DiodeString::of_array(array).voltage(USE_SHARE * array.led.if_a).ceil()
        }
        other => rated_v(other)?,
    };
    let first = light.feeds.first()?;
    let out_a: f64 = lights.iter().map(|light| wanted_a(case, light)).sum();
    let offered = orthavis_physics::offered::offered_v(case.build, &first.from)?;
    let (low, high) = offered.iter().fold((f64::MAX, 0.0f64), |(low, high), (_, v)| (low.min(*v), high.max(*v)));
    // A step-down cannot reach what its supply falls below.
    if kind == ConverterKind::Buck && low < target + 1.0 {
        return None;
    }
    let name = if kind == ConverterKind::Buck { "step-down" } else { "step-up-down" };
    let title = match lights {
        [_] => format!("Put a {} {name} converter before it", plain(target, "V")),
        many => format!("Put one {} {name} converter before all {}", plain(target, "V"), many.len()),
    };
    propose(case.build, title, |copy| {
        let wish = if lights.len() == 1 { format!("{}-supply", light.id) } else { format!("supply-{}v", (10.0 * target).round() / 10.0) };
        let id = free_id(copy, &wish);
        let current_in = 1.1 * target * out_a / (0.9 * low.max(1.0));
        // Wire that also carries the fuse it will have.
        let rating = orthavis_model::document::FuseStyle::Blade.smallest_for(current_in).unwrap_or(current_in).max(1.25 * current_in);
        let gauge = [20, 18, 16, 14, 12, 10, 8].map(Gauge::Awg).into_iter().find(|g| g.ampacity_a(1) >= rating.max(out_a))?;
        let mut feed = plain_feed(&first.from, 0.2, gauge);
        feed.fuse = first.fuse.clone();
        // What switched the light switches the module, for its current.
        let switch = |own: &Switch| Switch { rating_a: own.rating_a.max(rating_above(current_in, &SWITCH_A)), ..own.clone() };
        feed.switch = first.switch.as_ref().map(switch);
        (feed.contacts, feed.contact_rating_a) = (first.contacts, first.contact_rating_a.filter(|rating| *rating >= current_in));
        (feed.contact_rating_v, feed.keyed, feed.plugs_sealed) = (first.contact_rating_v, first.keyed, first.plugs_sealed);
        let seat = protection::seat(&Topology::of(copy), &feed);
        if lights.len() > 1 || feed.fuse.is_some() {
            let kept = feed.fuse.as_ref().map(|fuse| fuse.style);
            let fits = seat.fuses(kept, |style| style.smallest_for(current_in));
            feed.fuse = fits.into_iter().find(|fuse| within(fuse.rating_a, gauge.ampacity_a(1)));
        }
        let max_out_a = rating_above(out_a / USE_SHARE, &OUTPUT_A);
        copy.converters.push(Converter {
            id: id.clone(),
            feed,
            conversion: if kind == ConverterKind::Buck { Conversion::step_down(target, 0.9) } else { Conversion::step_up_down(target, 0.9) },
            min_in_v: if kind == ConverterKind::Buck { (target + 0.5).min(low) } else { (0.6 * low).clamp(2.5, 9.0).min(low) },
            max_in_v: rating_above(1.2 * high, &INPUT_V),
            max_out_a,
            max_in_a: None,
            idle_a: 0.005,
            max_loss_w: None,
            mass_g: 12.0,
            ..Converter::PLAIN
        });
        for light in lights {
            for feed in &mut copy.lights.iter_mut().find(|l| l.id == light.id)?.feeds {
                feed.from = id.clone();
                feed.fuse = None;
                feed.switch = None;
            }
        }
        // The module may give more than a thin wire behind it carries.
        fuse_behind(copy, &id);
        Some(())
    })
}

/// A fuse in each feed behind a converter that gives more than that feed's wire carries.
pub fn fuse_behind(build: &mut Build, converter: &str) {
    let graph = Topology::of(build);
    let hanging = graph.node(converter).map_or(&[][..], |node| graph.hanging(node));
    let thin: Vec<String> = hanging.iter().filter(|wire| wants_fuse(&graph, **wire)).map(|wire| graph.feed(*wire).id.clone()).collect();
    for id in thin {
        let Some(limit) = build.feed(&id).map(|feed| build.ampacity_a(&feed)) else { continue };
        let Some(seat) = build.feed(&id).map(|feed| protection::seat(&Topology::of(build), feed.feed)) else { continue };
        let largest = |style: orthavis_model::document::FuseStyle| style.ratings_a().iter().rev().copied().find(|rating| within(*rating, limit));
        if let Some(fuse) = seat.fuses(None, largest).into_iter().next()
            && let Some(feed) = feed_mut(build, &id)
        {
            feed.fuse = Some(fuse);
        }
    }
}

/// One converter for all lights of the same voltage.
fn one_supply(case: &Case<'_>, findings: &[&Finding]) -> Vec<Proposal> {
    if !matches!(findings[0].code, "light.over_voltage" | "light.dim" | "light.dark") {
        return Vec::new();
    }
    let lights: Vec<&Light> = case.build.lights.iter().filter(|light| findings.iter().any(|finding| finding.subject == light.id)).collect();
    let Some(rated) = lights.first().and_then(|light| rated_v(&light.load)) else { return Vec::new() };
    let from = &lights[0].feeds[0].from;
    if lights.iter().any(|light| rated_v(&light.load) != Some(rated) || light.feeds.iter().any(|feed| feed.from != *from)) {
        return Vec::new();
    }
    [ConverterKind::Buck, ConverterKind::BuckBoost].into_iter().filter_map(|kind| own_converter(case, &lights, kind)).collect()
}
