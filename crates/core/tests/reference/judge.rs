//! The findings of a build, judged a second time from the table of codes and the reference's own figures.

use crate::solver::{area_mm2, feed_ohm, feeds, list, lit, number, text, thevenin};
use serde_json::Value;
use std::collections::{BTreeMap, BTreeSet};

const AMPACITY_A: [(i32, f64); 13] =
    [(30, 0.86), (28, 1.4), (26, 2.2), (24, 3.5), (22, 6.0), (20, 10.0), (18, 15.0), (16, 20.0), (14, 25.0), (12, 35.0), (10, 50.0), (8, 70.0), (6, 100.0)];
const BLADE_A: &[f64] = &[1.0, 2.0, 3.0, 4.0, 5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0, 40.0];
const GLASS_A: &[f64] = &[0.1, 0.125, 0.16, 0.2, 0.25, 0.315, 0.4, 0.5, 0.63, 0.8, 1.0, 1.25, 1.6, 2.0, 2.5, 3.15, 4.0, 5.0, 6.3, 8.0, 10.0];
const PTC_A: &[f64] = &[0.1, 0.2, 0.35, 0.5, 0.75, 1.1, 1.5, 2.0, 2.5, 3.0, 5.0];

/// Severity, code and subject of a finding.
pub type Key = (String, String, String);

/// Severities by code and subject; the worst stays.
#[derive(Default)]
struct Found(BTreeMap<(&'static str, String), &'static str>);

impl Found {
    fn add(&mut self, code: &'static str, subject: &str, severity: &'static str) {
        let rank = |severity: &str| ["note", "fix", "stop"].iter().position(|known| *known == severity);
        let here = self.0.entry((code, subject.to_owned())).or_insert(severity);
        if rank(severity) > rank(here) {
            *here = severity;
        }
    }
}

fn ampacity_a(feed: &Value) -> f64 {
    let area = area_mm2(&feed["gauge"]);
    // The thickest known wire that is not thicker.
    let base = AMPACITY_A.iter().rev().find(|(awg, _)| area_mm2(&serde_json::json!({ "awg": awg })) <= area * (1.0 + 1e-9)).map_or(0.0, |(_, a)| *a);
    let factor = match number(feed, "bundled", 1.0) as u32 {
        0 | 1 => 1.0,
        2 | 3 => 0.7,
        4..=6 => 0.6,
        _ => 0.5,
    };
    base * factor
}

/// What feeds `from`, through junctions: the id of a converter, or `source`.
fn supplier(build: &Value, from: &str) -> String {
    match list(build, "junctions").iter().find(|junction| text(junction, "id") == from) {
        Some(junction) => supplier(build, text(&junction["feed"], "from")),
        None => from.to_owned(),
    }
}

fn way_ohm(build: &Value, feed: &Value) -> f64 {
    let (out, back) = feed_ohm(build, feed);
    let above = list(build, "junctions").iter().find(|junction| text(junction, "id") == text(feed, "from"));
    out + back + above.map_or(0.0, |junction| way_ohm(build, &junction["feed"]))
}

fn fault_a(build: &Value, feed: &Value) -> f64 {
    let above = supplier(build, text(feed, "from"));
    if let Some(converter) = list(build, "converters").iter().find(|c| text(c, "id") == above) {
        return number(converter, "max_out_a", 0.0);
    }
    if text(&build["source"], "kind") == "rail" {
        return number(&build["source"], "max_current_a", 0.0);
    }
    let (emf, ohm) = thevenin(build, "reserve");
    emf / (ohm + way_ohm(build, feed))
}

/// Every finding of the table, from points as the report gives them.
pub fn findings(build: &Value, points: &[Value]) -> BTreeSet<Key> {
    let mut found = Found::default();
    for point in points {
        let scene = list(build, "scenes").iter().find(|scene| scene["id"] == point["scene"]).expect("its scene");
        for light in list(build, "lights") {
            of_light(build, light, point, scene, points, &mut found);
        }
        for converter in list(build, "converters") {
            of_converter(converter, &point["converters"][text(converter, "id")], &mut found);
        }
        for (name, consumer, feed) in feeds(build) {
            let start = supplier(build, text(&feed, "from"));
            let first = !name.contains('#') && !list(build, "junctions").iter().any(|junction| text(junction, "id") == consumer);
            let end_v = [&point["lights"][&consumer]["voltage_v"], &point["converters"][&consumer]["in_v"]].into_iter().find_map(Value::as_f64);
            let converter = &point["converters"][&start];
            let start_v = if start == "source" { number(&point["source"], "terminal_v", 0.0) } else { number(converter, "out_v", 0.0) };
            // A driver at rest has an output voltage that is noise.
            let runs = start_v > 1e-6 && (start == "source" || converter["on"] == true);
            if let (true, true, Some(end_v)) = (first, runs, end_v) {
                match (start_v - end_v) / start_v {
                    share if share > 0.10 => found.add("wire.drop", &name, "fix"),
                    share if share > 0.03 => found.add("wire.drop", &name, "note"),
                    _ => {}
                }
            }
        }
        if number(&point["source"], "current_a", 0.0) > number(&build["source"], "max_current_a", f64::INFINITY) {
            found.add("source.over", "source", "stop");
        }
        if number(&point["source"], "current_a", 0.0) > number(&build["source"], "tap_limit_a", f64::INFINITY) {
            found.add("tap.over", "source", "stop");
        }
    }
    of_feeds(build, points, &mut found);
    if ["balance_lead", "one_of_series"].contains(&text(&build["source"], "tap")) {
        found.add("tap.unbalanced", "source", "stop");
    }
    found.0.into_iter().map(|((code, subject), severity)| (severity.to_owned(), code.to_owned(), subject)).collect()
}

fn of_light(build: &Value, light: &Value, point: &Value, scene: &Value, points: &[Value], found: &mut Found) {
    let (id, load) = (text(light, "id"), &light["load"]);
    let here = &point["lights"][id];
    let (level, colour) = lit(scene, id);
    let on = level > 0.0;
    let kind = text(load, "kind");
    let driven = supplier(build, text(&light["feeds"][0], "from"));
    let driven = list(build, "converters").iter().any(|c| text(c, "id") == driven && text(c, "kind") == "current_driver");
    if kind == "led_array" {
        let led = &load["led"];
        let (string, rated, most) = (number(here, "string_a", 0.0), number(led, "if_a", 0.0), number(led, "if_max_a", f64::INFINITY));
        if on && string > most {
            found.add("led.over_max", id, "stop");
        } else if on && string > 1.02 * rated {
            found.add("led.over_rated", id, "fix");
        }
        let ohm = number(load, "resistor_ohm", 0.0);
        if !driven && ohm == 0.0 {
            found.add("led.no_resistor", id, "stop");
        }
        if !driven && rated >= 0.3 {
            found.add("emitter.voltage_driven", id, "fix");
        }
        if ohm > 0.0 && on {
            match number(here, "resistor_w", 0.0) / number(load, "resistor_w", f64::INFINITY) {
                share if share > 1.0 => found.add("resistor.hot", id, "stop"),
                share if share > 0.6 => found.add("resistor.hot", id, "fix"),
                _ => {}
            }
        }
        if on && text(point, "state") == "full" {
            let low = points.iter().find(|p| p["scene"] == point["scene"] && p["state"] == "reserve").expect("a reserve");
            // A dark string's current is noise.
            if string > 1e-9 && string > 1.5 * number(&low["lights"][id], "string_a", 0.0) {
                found.add("led.uneven", id, "note");
            }
        }
    }
    if on {
        match number(here, "output", 0.0) / level {
            share if share < 0.1 => found.add("light.dark", id, "stop"),
            share if share < 0.5 => found.add("light.dim", id, "fix"),
            _ => {}
        }
    }
    let limit = match kind {
        "strip" | "pixels" => 1.1 * number(load, "voltage_v", 0.0),
        "module" => number(load, "max_v", f64::INFINITY),
        _ => f64::INFINITY,
    };
    if number(here, "highest_v", 0.0) > limit {
        found.add("light.over_voltage", id, "stop");
    }
    if kind == "strip" {
        let (least, most) = (number(here, "lowest_output", 0.0), number(here, "highest_output", 0.0));
        // Below that, both are noise.
        if on && most > 1e-9 && least / most < 0.85 {
            found.add("strip.fade", id, "fix");
        }
        let segments = number(load, "length_m", 0.0) / number(load, "segment_m", 1.0);
        if (segments - segments.round()).abs() > 1e-6 {
            found.add("strip.cut", id, "fix");
        }
    }
    if kind == "pixels" && on {
        let starved = |c: usize| colour[c] > 0.0 && number(here, "lowest_v", 0.0) < load["regulation_v"][c].as_f64().unwrap_or(0.0);
        if (0..3).any(starved) {
            found.add("pixels.starved", id, "fix");
        }
    }
}

fn of_converter(converter: &Value, here: &Value, found: &mut Found) {
    let id = text(converter, "id");
    let in_v = number(here, "in_v", 0.0);
    if in_v < number(converter, "min_in_v", 0.0) {
        found.add("converter.input_low", id, "stop");
    }
    if in_v > number(converter, "max_in_v", f64::INFINITY) {
        found.add("converter.input_high", id, "stop");
    }
    if text(converter, "kind") == "boost" && in_v - number(converter, "pass_drop_v", 0.0) > number(converter, "set_v", 0.0) {
        found.add("converter.pass_through", id, "stop");
    }
    for (current, limit) in [("out_a", "max_out_a"), ("in_a", "max_in_a")] {
        match number(here, current, 0.0) / number(converter, limit, f64::INFINITY) {
            share if share > 1.0 => found.add("converter.overload", id, "stop"),
            share if share > 0.8 => found.add("converter.near_limit", id, "fix"),
            _ => {}
        }
    }
}

fn of_feeds(build: &Value, points: &[Value], found: &mut Found) {
    let all = feeds(build);
    for (name, consumer, feed) in &all {
        let largest = points.iter().map(|point| number(&point["feeds"][name], "current_a", 0.0)).fold(0.0, f64::max);
        if largest > ampacity_a(feed) {
            found.add("wire.ampacity", name, "stop");
        }
        if largest > number(&feed["switch"], "rating_a", f64::INFINITY) {
            found.add("switch.over", name, "stop");
        }
        if number(feed, "contacts", 0.0) > 0.0 && largest > number(feed, "contact_rating_a", f64::INFINITY) {
            found.add("contact.over", name, "stop");
        }
        if text(feed, "return") == "frame" && build["vehicle"]["frame_return_ohm"].is_null() {
            found.add("frame.not_a_conductor", name, "stop");
        }
        if text(feed, "return") == "frame" && text(&build["vehicle"], "kind") == "wheelchair" {
            found.add("frame.medical", name, "stop");
        }
        if feed["fuse"].is_null() {
            if text(feed, "from") == "source" && text(&build["source"], "kind") == "battery" {
                found.add("fuse.missing", name, "stop");
            }
            continue;
        }
        let rating = number(&feed["fuse"], "rating_a", 0.0);
        if rating < 1.25 * largest {
            found.add("fuse.nuisance", name, "fix");
        }
        let standard = match text(&feed["fuse"], "style") {
            "blade" => BLADE_A,
            "glass" => GLASS_A,
            _ => PTC_A,
        };
        if !standard.contains(&rating) {
            found.add("fuse.odd_rating", name, "note");
        }
        let mut zone = vec![(consumer, feed)];
        let mut next = 0;
        while let Some((here, _)) = zone.get(next).copied() {
            // A light or a converter's input ends the zone.
            if list(build, "junctions").iter().any(|junction| text(junction, "id") == here) {
                let below = all.iter().filter(|(_, _, below)| text(below, "from") == here && below["fuse"].is_null());
                zone.extend(below.map(|(_, consumer, below)| (consumer, below)));
            }
            next += 1;
        }
        if zone.iter().any(|(_, wire)| rating > ampacity_a(wire)) {
            found.add("fuse.above_wire", name, "stop");
        }
        if zone.iter().any(|(_, wire)| fault_a(build, wire) < 3.5 * rating) {
            found.add("fuse.slow", name, "fix");
        }
    }
}
