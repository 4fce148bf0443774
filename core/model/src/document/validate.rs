//! Rules that join several fields: ids, references, the supply tree, and figures that contradict each other.

use super::library;
use super::limits::{MAX_DEPTH, MAX_FIGURES, MAX_TAPS};
use super::read::{Faults, escape};
use super::*;
use crate::moment::day_of;
use crate::vehicle;
use std::collections::{HashMap, HashSet};

pub(super) fn check(build: &Build, faults: &mut Faults) {
    let parts = build.junctions.len() + 2 * build.converters.len() + build.lights.iter().map(|light| 1 + light.feeds.len()).sum::<usize>();
    let figures = parts.saturating_mul(build.scenes.len());
    if figures > MAX_FIGURES {
        let problem = format!("{} scenes of {parts} parts and feeds are too many", build.scenes.len());
        faults.add("/scenes", problem, format!("Keep the number of scenes times that of parts to {MAX_FIGURES}"));
    }
    variant(build, faults);
    unique_ids(build, faults);
    references(build, faults);
    loads(build, faults);
    circuits(build, faults);
    controllers(build, faults);
    make(build, faults);
    if faults.0.is_empty() {
        no_loops(build, faults);
        drivers(build, faults);
    }
}

fn make(build: &Build, faults: &mut Faults) {
    let Some(make) = &build.make else { return };
    if let Some(begins) = make.begins.as_ref().filter(|begins| day_of(begins).is_none()) {
        faults.add("/make/begins", format!("`{begins}` is not a date"), "Write it as 2026-11-27");
    }
    const WEEK: u32 = 7 * 1440;
    for (index, session) in make.sessions.iter().enumerate() {
        let (begins, ends) = session.span();
        // One that goes on past Sunday's midnight comes round to Monday.
        let clash = make.sessions[..index].iter().position(|other| {
            let (from, to) = other.span();
            [0, WEEK].iter().any(|shift| begins < to + shift && from + shift < ends) || begins + WEEK < to
        });
        if let Some(other) = clash {
            let problem =
                format!("{} {} overlaps with {} {}", session.weekday.word(), session.start, make.sessions[other].weekday.word(), make.sessions[other].start);
            faults.add(format!("/make/sessions/{index}"), problem, "Shorten one of them, or make one of both");
        }
    }
    // Each list says one thing about a part; the battery only has a position.
    let lists = [
        ("fixings", make.fixings.iter().map(|one| &one.part).collect::<Vec<_>>()),
        ("inside", make.inside.iter().map(|one| &one.part).collect()),
        ("positions", make.positions.iter().map(|one| &one.part).collect()),
    ];
    for (list, parts) in lists {
        for (index, part) in parts.iter().enumerate() {
            let known = list == "positions" && (*part == "source" || PartPosition::LISTENS.contains(&part.as_str()));
            if !known && !build.part_ids().any(|id| id == *part) {
                let path = format!("/make/{list}/{index}/part");
                faults.add(path, format!("`{part}` is not a part of this build"), "Name a light, converter, junction or circuit, or remove the entry");
            }
            if parts[..index].contains(part) {
                faults.add(format!("/make/{list}/{index}/part"), format!("`{part}` is there twice"), "Keep one entry for each part");
            }
        }
    }
    for (index, space) in make.spaces.iter().enumerate() {
        let path = format!("/make/spaces/{index}/id");
        if make.spaces[..index].iter().any(|other| other.id == space.id) {
            faults.add(&path, format!("`{}` is used twice", space.id), "Give each its own id");
        }
        if space.id == Inside::OUTSIDE {
            faults.add(&path, "`outside` means none of them", "Give the cavity another id");
        }
    }
    for (index, one) in make.inside.iter().enumerate() {
        if let Some(space) = one.space.as_ref().filter(|space| *space != Inside::OUTSIDE && !make.spaces.iter().any(|known| known.id == **space)) {
            let path = format!("/make/inside/{index}/space");
            faults.add(path, format!("`{space}` is not a cavity of this build"), "Name one of `make.spaces`, or `outside`");
        }
    }
    for (index, price) in make.prices.iter().enumerate() {
        if price.currency.len() != 3 || !price.currency.bytes().all(|letter| letter.is_ascii_uppercase()) {
            let problem = format!("`{}` is not a currency", price.currency);
            faults.add(format!("/make/prices/{index}/currency"), problem, "Write its three letters, as in EUR");
        }
    }
}

fn variant(build: &Build, faults: &mut Faults) {
    let Some(named) = &build.vehicle.variant else { return };
    let known = vehicle::variants(build.vehicle.kind);
    if !known.iter().any(|one| one.id == *named) {
        let names: Vec<_> = known.iter().map(|one| format!("`{}`", one.id)).collect();
        faults.add("/vehicle/variant", format!("`{named}` is not a form of this vehicle"), format!("Use one of {}", names.join(", ")));
    }
}

fn unique_ids(build: &Build, faults: &mut Faults) {
    let mut clash = |list: &str, ids: Vec<&str>, seen: &mut HashSet<String>| {
        for (index, id) in ids.into_iter().enumerate() {
            if !seen.insert(id.to_owned()) {
                faults.add(format!("/{list}/{index}/id"), format!("`{id}` is used twice"), "Give each its own id");
            }
        }
    };
    let parts = &mut HashSet::new();
    clash("junctions", build.junctions.iter().map(|j| j.id.as_str()).collect(), parts);
    clash("converters", build.converters.iter().map(|c| c.id.as_str()).collect(), parts);
    clash("circuits", build.circuits.iter().map(|c| c.id.as_str()).collect(), parts);
    clash("controllers", build.controllers.iter().map(|c| c.id.as_str()).collect(), parts);
    clash("lights", build.lights.iter().map(|l| l.id.as_str()).collect(), parts);
    clash("standing", build.standing.iter().map(|s| s.id.as_str()).collect(), &mut HashSet::new());
    clash("scenes", build.scenes.iter().map(|s| s.id.as_str()).collect(), &mut HashSet::new());
    let bulbs = build.audit.iter().flat_map(|audit| &audit.bulbs);
    clash("audit/bulbs", bulbs.map(|b| b.id.as_str()).collect(), &mut HashSet::new());
}

pub(super) fn feed_path(feed: &FeedRef<'_>) -> String {
    match feed.consumer {
        Consumer::Junction(i) => format!("/junctions/{i}/feed"),
        Consumer::Converter(i) => format!("/converters/{i}/feed"),
        Consumer::Light(i) => format!("/lights/{i}/feeds/{}", feed.number),
        Consumer::Circuit(i) => format!("/circuits/{i}/feed"),
        Consumer::Controller(i) => format!("/controllers/{i}/feed"),
    }
}

fn references(build: &Build, faults: &mut Faults) {
    let suppliers: HashSet<&str> = build
        .junctions
        .iter()
        .map(|j| j.id.as_str())
        .chain(build.converters.iter().map(|c| c.id.as_str()))
        .chain(build.circuits.iter().map(|c| c.id.as_str()))
        .chain(["source"])
        .collect();
    for feed in build.feeds() {
        if feed.feed.fuse.as_ref().and_then(|fuse| fuse.at_m).is_some_and(|at_m| at_m > feed.feed.length_m) {
            let problem = format!("the fuse would sit beyond the end of the wire at {} m", feed.feed.length_m);
            faults.add(feed_path(&feed) + "/fuse/at_m", problem, "Give at most `length_m`");
        }
        let from = feed.feed.from.as_str();
        if !suppliers.contains(from) {
            let problem = format!("`{from}` is not a supplier in this build");
            faults.add(feed_path(&feed) + "/from", problem, "Name `source`, a converter, a junction or a circuit");
        }
    }
    let lights: HashSet<&str> = build.lights.iter().map(|l| l.id.as_str()).collect();
    for (index, scene) in build.scenes.iter().enumerate() {
        for id in scene.lights.keys().filter(|id| !lights.contains(id.as_str())) {
            faults.add(format!("/scenes/{index}/lights/{}", escape(id)), format!("`{id}` is not a light in this build"), "Name a light, or remove the entry");
        }
    }
    let scenes: HashSet<&str> = build.scenes.iter().map(|s| s.id.as_str()).collect();
    for id in build.usage.minutes.keys().filter(|id| !scenes.contains(id.as_str())) {
        faults.add(format!("/usage/minutes/{}", escape(id)), format!("`{id}` is not a scene in this build"), "Name a scene, or remove the entry");
    }
    for (index, bulb) in build.audit.iter().flat_map(|audit| &audit.bulbs).enumerate() {
        for (field, id) in [("part", Some(&bulb.part)), ("replacement", bulb.replacement.as_ref())] {
            let Some(id) = id.filter(|id| library::bulb(build, id).is_none()) else { continue };
            let problem = format!("`{id}` is not a bulb of the library or of this build's parts");
            faults.add(format!("/audit/bulbs/{index}/{field}"), problem, "Name a bulb, or add it to the build's parts");
        }
    }
}

/// A circuit drives lights that hang on it, and nothing but lights hangs on a circuit.
fn circuits(build: &Build, faults: &mut Faults) {
    for (index, circuit) in build.circuits.iter().enumerate() {
        for (number, id) in circuit.drives.iter().enumerate() {
            let path = format!("/circuits/{index}/drives/{number}");
            match build.lights.iter().find(|light| light.id == *id) {
                None => faults.add(path, format!("`{id}` is not a light in this build"), "Name a light, or remove the entry"),
                Some(light) if light.feeds.iter().any(|feed| feed.from != circuit.id) => {
                    faults.add(path, format!("`{id}` does not hang on `{}`", circuit.id), "Let its feed come from the circuit");
                }
                Some(_) => {}
            }
        }
        let most = circuit.kind().most_lights();
        if circuit.drives.len() > most {
            let problem = format!("a {} drives at most {most} lights", circuit.kind().called());
            faults.add(format!("/circuits/{index}/drives"), problem, "Take the others out");
        }
    }
    let circuit = |id: &str| build.circuits.iter().find(|circuit| circuit.id == id);
    for feed in build.feeds().iter().filter(|feed| circuit(&feed.feed.from).is_some()) {
        let known =
            circuit(&feed.feed.from).is_some_and(|circuit| matches!(feed.consumer, Consumer::Light(light) if circuit.drives.contains(&build.lights[light].id)));
        if !known {
            let problem = format!("`{}` does not drive `{}`", feed.feed.from, feed.id);
            faults.add(feed_path(feed) + "/from", problem, "Name the light among what the circuit drives, or feed it from elsewhere");
        }
    }
    for (index, scene) in build.scenes.iter().enumerate() {
        for id in scene.lights.iter().filter(|(_, light)| light.effect.is_some()).map(|(id, _)| id) {
            if build.lights.iter().any(|light| light.id == *id && !matches!(light.load, Load::Pixels(_))) {
                let problem = format!("`{id}` has no pixels that could move");
                faults.add(format!("/scenes/{index}/lights/{}/effect", escape(id)), problem, "Leave it out, or make it a light of pixels");
            }
            if scene.lights.get(id).is_some_and(|light| light.duty < 1.0) {
                let problem = format!("the effect of `{id}` decides itself how long it is on");
                faults.add(format!("/scenes/{index}/lights/{}/duty", escape(id)), problem, "Leave it out, or take `blink`");
            }
        }
    }
    // What a flasher does to its lights follows from its parts.
    for (index, scene) in build.scenes.iter().enumerate() {
        for (id, light) in scene.lights.iter().filter(|(_, light)| light.duty < 1.0) {
            if let Some(circuit) = build.circuits.iter().find(|circuit| circuit.kind().flashes() && circuit.drives.contains(id)) {
                let problem = format!("`{}` decides how long `{id}` is on, and here it is {} as well", circuit.id, light.duty);
                faults.add(format!("/scenes/{index}/lights/{}/duty", escape(id)), problem, "Leave it out");
            }
        }
    }
}

/// Every output has what its kind needs, every piece is a light of pixels, and no pin is used twice.
fn controllers(build: &Build, faults: &mut Faults) {
    for (index, controller) in build.controllers.iter().enumerate() {
        let path = format!("/controllers/{index}");
        if controller.min_in_v > controller.max_in_v {
            faults.add(format!("{path}/min_in_v"), format!("{} V is above `max_in_v`", controller.min_in_v), "Give the lower end of the input range");
        }
        for (number, output) in controller.outputs.iter().enumerate() {
            let path = format!("{path}/outputs/{number}");
            if let Some(other) = controller.outputs[..number].iter().position(|other| other.pin() == output.pin()) {
                faults.add(format!("{path}/pin"), format!("`{}` is used by output {other} already", output.pin()), "Give each output a pin of its own");
            }
            match output {
                Output::Data(output) if output.chain.is_empty() => {
                    faults.add(format!("{path}/chain"), "there is no piece on it", "Name the first piece, or remove the output")
                }
                Output::Pin(output) if !build.lights.iter().any(|light| light.id == output.light) => {
                    faults.add(format!("{path}/light"), format!("`{}` is not a light in this build", output.light), "Name a light");
                }
                Output::Data(_) | Output::Pin(_) => {}
            }
            for (at, link) in output.links().iter().enumerate() {
                let path = format!("{path}/chain/{at}");
                match (&link.light, link.copies.as_deref()) {
                    (Some(_), None) => {}
                    (None, Some(copies)) if !copies.is_empty() => {}
                    _ => faults.add(&path, "a piece is one light, or several copies", "Name `light`, or `copies`, and not both"),
                }
                for id in link.lights() {
                    match build.lights.iter().find(|light| light.id == *id).map(|light| &light.load) {
                        None => faults.add(&path, format!("`{id}` is not a light in this build"), "Name a light of pixels, or remove the entry"),
                        Some(Load::Pixels(_)) => {}
                        Some(_) => faults.add(&path, format!("`{id}` has no pixels that could be numbered"), "Name a light of pixels, or put it on a pin"),
                    }
                }
            }
        }
    }
}

fn recut_rows(path: &str, leds: u32, recut: &Recut, faults: &mut Faults) {
    if recut.used > leds {
        faults.add(format!("{path}/load/recut/used"), format!("a segment has {leds} LEDs"), "Use at most as many as there are");
    } else if !recut.used.is_multiple_of(recut.groups) {
        let problem = format!("{} LEDs do not make {} equal rows", recut.used, recut.groups);
        faults.add(format!("{path}/load/recut/groups"), problem, "Let the number of LEDs used be a multiple of the rows");
    }
    if recut.resistor_ohm <= 0.0 {
        faults.add(format!("{path}/load/recut/resistor_ohm"), "nothing limits the current of its rows", "Give the resistor of each row, above 0");
    }
}

fn loads(build: &Build, faults: &mut Faults) {
    let mut taps = 0usize;
    for (index, light) in build.lights.iter().enumerate() {
        let path = format!("/lights/{index}");
        if light.feeds.is_empty() {
            faults.add(format!("{path}/feeds"), "the light has no feed", "Give it at least one");
        }
        // How far along it a feed may join, and the most feeds it can have.
        let reach = match &light.load {
            Load::Strip(strip) => {
                if strip.voltage_v <= f64::from(strip.leds_per_segment) * strip.led_vf_v {
                    let need = f64::from(strip.leds_per_segment) * strip.led_vf_v;
                    faults.add(
                        format!("{path}/load/voltage_v"),
                        format!("{} V cannot light {} LEDs of {} V in series", strip.voltage_v, strip.leds_per_segment, strip.led_vf_v),
                        format!("Give more than {need} V, or fewer LEDs in a segment"),
                    );
                }
                if let Some(recut) = &strip.recut {
                    recut_rows(&path, strip.leds_per_segment, recut, faults);
                }
                taps = taps.saturating_add(strip.segments() as usize);
                Some((strip.length_m, strip.segment_m))
            }
            Load::Pixels(pixels) => {
                for channel in 0..3 {
                    if pixels.regulation_v[channel] <= pixels.off_v[channel] {
                        let path = format!("{path}/load/regulation_v/{channel}");
                        faults.add(
                            path,
                            format!("{} V is not above `off_v`", pixels.regulation_v[channel]),
                            "Give the voltage from which the channel holds its current",
                        );
                    }
                }
                taps = taps.saturating_add(pixels.count as usize);
                Some((f64::from(pixels.count) * pixels.pitch_m, pixels.pitch_m))
            }
            Load::LedArray(array) => {
                if array.led.if_max_a < array.led.if_a {
                    faults.add(
                        format!("{path}/load/led/if_max_a"),
                        format!("{} A is below the rated current `if_a`", array.led.if_max_a),
                        "Give the absolute maximum of the datasheet",
                    );
                }
                None
            }
            Load::Module(module) => {
                if module.min_v > module.max_v {
                    faults.add(format!("{path}/load/min_v"), format!("{} V is above `max_v`", module.min_v), "Give the lower end of the input range");
                }
                None
            }
        };
        match reach {
            None if light.feeds.len() > 1 => {
                faults.add(format!("{path}/feeds/1"), "only a strip or pixels can have several feeds", "Remove it, or make it a light of its own");
            }
            None => {}
            Some((length, step)) => {
                for (number, feed) in light.feeds.iter().enumerate().filter(|(_, feed)| feed.at_m > length + step) {
                    let problem = format!("{} m is beyond the end at {length:.3} m", feed.at_m);
                    faults.add(format!("{path}/feeds/{number}/at_m"), problem, "Give a place along the light");
                }
            }
        }
    }
    if taps > MAX_TAPS {
        faults.add("/lights", format!("{taps} segments and pixels are too many"), format!("Keep a build to {MAX_TAPS}"));
    }
}

fn no_loops(build: &Build, faults: &mut Faults) {
    let above: HashMap<&str, &str> = (build.junctions.iter().map(|j| (j.id.as_str(), j.feed.from.as_str())))
        .chain(build.converters.iter().map(|c| (c.id.as_str(), c.feed.from.as_str())))
        .chain(build.circuits.iter().map(|c| (c.id.as_str(), c.feed.from.as_str())))
        .collect();
    for feed in build.feeds().iter().filter(|feed| !matches!(feed.consumer, Consumer::Light(_))) {
        let mut at = feed.feed.from.as_str();
        let mut depth = 1;
        while depth <= above.len()
            && let Some(next) = above.get(at)
        {
            at = next;
            depth += 1;
        }
        if at == "source" && depth > MAX_DEPTH {
            let problem = format!("`{}` is {depth} parts away from the source", feed.id);
            faults.add(feed_path(feed) + "/from", problem, format!("Keep it to {MAX_DEPTH} converters and junctions in a row"));
        }
        if at != "source" {
            faults.add(feed_path(feed) + "/from", format!("`{}` goes round in a circle", feed.id), "Let the feeds lead back to `source`");
        }
    }
}

fn drivers(build: &Build, faults: &mut Faults) {
    let feeds = build.feeds();
    for (index, driver) in build.converters.iter().enumerate().filter(|(_, c)| c.kind() == ConverterKind::CurrentDriver) {
        let fed: Vec<_> = feeds.iter().filter(|feed| feed.feed.from == driver.id).collect();
        if fed.len() > 1 {
            faults.add(feed_path(fed[1]) + "/from", format!("the driver `{}` already feeds `{}`", driver.id, fed[0].id), "Give each array a driver of its own");
        }
        for feed in fed {
            let array = match feed.consumer {
                Consumer::Light(light) => Some((light, &build.lights[light].load)),
                _ => None,
            };
            match array {
                Some((_, Load::LedArray(array))) if array.resistor_ohm == 0.0 => {}
                Some((light, Load::LedArray(_))) => {
                    faults.add(format!("/lights/{light}/load/resistor_ohm"), format!("the driver `{}` already sets the current", driver.id), "Set it to 0")
                }
                _ => faults.add(
                    format!("/converters/{index}/kind"),
                    format!("a current driver cannot feed `{}`", feed.id),
                    "Feed exactly one LED array from it, or use a converter with a set voltage",
                ),
            }
        }
    }
}
