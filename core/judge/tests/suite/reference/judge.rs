//! The findings of a build, judged a second time from the table of codes and the reference's own figures.

use super::solver::{area_mm2, asked, feed_ohm, feeds, frame_ohm, list, lit, number, states, text, thevenin};
use super::standards;
use serde_json::Value;
use std::collections::{BTreeMap, BTreeSet};

/// Severity, code and subject of a finding.
pub type Key = (String, String, String);

/// Whether a figure exceeds a limit by more than rounding.
pub fn over(value: f64, limit: f64) -> bool {
    value - limit > 1e-9 * limit.abs()
}

/// Severities by code and subject; the worst stays.
#[derive(Default)]
pub struct Found(BTreeMap<(&'static str, String), &'static str>);

impl Found {
    pub fn add(&mut self, code: &'static str, subject: &str, severity: &'static str) {
        let rank = |severity: &str| ["note", "fix", "stop"].iter().position(|known| *known == severity);
        let here = self.0.entry((code, subject.to_owned())).or_insert(severity);
        if rank(severity) > rank(here) {
            *here = severity;
        }
    }
}

impl Found {
    fn keep_worse(&mut self, worse: &'static str, milder: &'static str, subject: &str) {
        if self.0.contains_key(&(worse, subject.to_owned())) {
            self.0.remove(&(milder, subject.to_owned()));
        }
    }
}

/// Whether a consumer is a light in a hot place: as noted, or else as the vehicle's form has it.
fn is_hot(build: &Value, consumer: &str) -> bool {
    let Some(light) = list(build, "lights").iter().find(|light| text(light, "id") == consumer) else { return false };
    let named = |places: &[Value]| places.iter().find(|place| text(place, "name") == text(light, "place")).cloned();
    let vehicle = &build["vehicle"];
    let file = format!("{}/../model/data/vehicles/{}.json", env!("CARGO_MANIFEST_DIR"), text(vehicle, "kind"));
    let forms: Value = serde_json::from_str(&std::fs::read_to_string(file).expect("its forms")).expect("json");
    let forms = list(&forms, "variants");
    let form = forms.iter().find(|form| form["id"] == vehicle["variant"]).or(forms.first());
    let place = named(list(build, "places")).or_else(|| named(list(form?, "places")));
    place.is_some_and(|place| list(&place, "traits").iter().any(|kind| kind == "hot"))
}

/// What the wire of a feed may carry where it ends, A.
fn carries_a(build: &Value, consumer: &str, feed: &Value) -> f64 {
    ampacity_a(feed) * if is_hot(build, consumer) { 0.63 } else { 1.0 }
}

fn ampacity_a(feed: &Value) -> f64 {
    let area = area_mm2(&feed["gauge"]);
    // The thickest known wire that is not thicker.
    let fits = |awg: f64| area_mm2(&serde_json::json!({ "awg": awg })) <= area * (1.0 + 1e-9);
    let base = standards::ampacity().iter().rev().find(|(awg, _)| fits(*awg)).map_or(0.0, |(_, amps)| *amps);
    base * standards::bundled(number(feed, "bundled", 1.0))
}

/// What feeds `from`, through junctions: the id of a converter, or `source`.
pub fn supplier(build: &Value, from: &str) -> String {
    match list(build, "junctions").iter().find(|junction| text(junction, "id") == from) {
        Some(junction) => supplier(build, text(&junction["feed"], "from")),
        None => from.to_owned(),
    }
}

/// The feed of what lets a short through, a junction or the diode of a step-up, and what that diode keeps, V.
pub fn through<'a>(build: &'a Value, from: &str) -> Option<(&'a Value, f64)> {
    let junction = list(build, "junctions").iter().find(|junction| text(junction, "id") == from).map(|junction| (&junction["feed"], 0.0));
    let boost = || list(build, "converters").iter().find(|c| text(c, "id") == from && text(c, "kind") == "boost");
    junction.or_else(|| boost().map(|boost| (&boost["feed"], number(boost, "pass_drop_v", 0.4))))
}

/// Resistance of the way of a short, the frame's at its end, ohm, what diodes keep of its voltage, V, and the converter that limits it.
pub fn short_way<'a>(build: &'a Value, feed: &Value) -> (f64, f64, Option<&'a Value>) {
    let (mut ohm, mut kept, mut at, mut framed) = (0.0, 0.0, feed.clone(), None);
    loop {
        let (out, back) = feed_ohm(build, &at);
        // From where the frame takes it, what is above has no part in the way back.
        ohm += out + if framed.is_none() { back } else { 0.0 };
        framed = framed.or(frame_ohm(build, &at));
        let Some((above, volts)) = through(build, text(&at, "from")) else { break };
        kept += volts;
        at = above.clone();
    }
    (ohm + framed.unwrap_or(0.0), kept, list(build, "converters").iter().find(|c| text(c, "id") == text(&at, "from")))
}

fn way_ohm(build: &Value, feed: &Value) -> f64 {
    short_way(build, feed).0
}

fn fault_a(build: &Value, feed: &Value) -> f64 {
    if let Some(converter) = short_way(build, feed).2 {
        return number(converter, "max_out_a", 0.0);
    }
    if text(&build["source"], "kind") == "rail" {
        return number(&build["source"], "max_current_a", 0.0);
    }
    let (emf, ohm) = thevenin(build, "reserve");
    let (way, kept, _) = short_way(build, feed);
    (emf - kept).max(0.0) / (ohm + way)
}

/// A short at the far end of a feed of a full battery, over its resistance and that of the wires alone, A.
pub fn bare_short_a(build: &Value, feed: &Value) -> f64 {
    let (emf, ohm) = thevenin(build, "full");
    let (mut total, mut framed) = (ohm, None);
    let mut at = Some(feed);
    while let Some(wire) = at {
        let one = 1.724e-8 * number(wire, "length_m", 0.0) / (1e-6 * area_mm2(&wire["gauge"]));
        let frame = frame_ohm(build, wire);
        total += one + if framed.is_some() { 0.0 } else { frame.unwrap_or(one) };
        framed = framed.or(frame);
        at = through(build, text(wire, "from")).map(|(above, _)| above);
    }
    (emf - short_way(build, feed).1).max(0.0) / total
}

/// Temperature of a wire after a time, by many small steps of its heat balance; in the end where time is infinite.
pub fn end_c(feed: &Value, amps: f64, seconds: f64) -> f64 {
    let mm2 = area_mm2(&feed["gauge"]);
    let (area, diameter) = (1e-6 * mm2, (4.0 * mm2 / std::f64::consts::PI).sqrt());
    let over_all = 1e-3 * (diameter + if diameter >= 1.3 { 1.6 } else { 0.8 });
    let keeps = match number(feed, "bundled", 1.0) as u32 {
        0 | 1 => 1.0,
        2 | 3 => 0.49,
        4..=6 => 0.36,
        _ => 0.25,
    };
    let out = 20.0 * std::f64::consts::PI * over_all * keeps;
    let into = |degrees: f64| amps * amps * 1.724e-8 * (1.0 + 0.00393 * (degrees - 20.0)) / area;
    if seconds.is_infinite() {
        let p = amps * amps * 1.724e-8 / area;
        let end = (p * (1.0 - 0.0786) + 30.0 * out) / (out - 0.00393 * p);
        return if out > 0.00393 * p && end < 1083.0 { end } else { 1083.0 };
    }
    let (mut degrees, steps) = (30.0f64, 200_000);
    for _ in 0..steps {
        let slope = |degrees: f64| (into(degrees) - out * (degrees - 30.0)) / (3.45e6 * area);
        let (step, here) = (seconds / f64::from(steps), slope(degrees));
        degrees += step * 0.5 * (here + slope(degrees + step * here));
        if degrees > 1083.0 {
            return 1083.0;
        }
    }
    degrees
}

/// Every finding of the table, from points as the report gives them.
pub fn findings(build: &Value, points: &[Value], pulses: &[Value]) -> BTreeSet<Key> {
    let mut found = Found::default();
    let peaks: Vec<&Value> = points.iter().chain(pulses).collect();
    for point in points {
        let scene = list(build, "scenes").iter().find(|scene| scene["id"] == point["scene"]).expect("its scene");
        for light in list(build, "lights") {
            of_light(build, light, point, scene, points, &mut found);
        }
        for converter in list(build, "converters") {
            of_converter(converter, &point["converters"][text(converter, "id")], &mut found);
        }
    }
    for point in &peaks {
        for converter in list(build, "converters") {
            loaded(converter, &point["converters"][text(converter, "id")], &mut found);
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
                    share if over(share, 0.10) => found.add("wire.drop", &name, "fix"),
                    share if over(share, 0.03) => found.add("wire.drop", &name, "note"),
                    _ => {}
                }
            }
        }
        let drawn = number(&point["source"], "current_a", 0.0).abs();
        if over(drawn, number(&build["source"], "max_current_a", 1e300)) {
            found.add("source.over", "source", "stop");
        } else if text(&build["source"], "kind") == "rail" && over(drawn, 0.8 * number(&build["source"], "max_current_a", 1e300)) {
            found.add("source.near_limit", "source", "fix");
        }
        if over(drawn, number(&build["source"], "tap_limit_a", 1e300)) {
            found.add("tap.over", "source", "stop");
        }
    }
    of_feeds(build, &peaks, &mut found);
    super::hazards::hazards(build, points, &mut found);
    for light in list(build, "lights") {
        of_brightness(build, light, points, &mut found);
        // The worse of a pair is what counts.
        for (worse, milder) in [("led.over_max", "led.over_rated"), ("led.over_max", "led.hot"), ("led.over_rated", "led.hot")] {
            found.keep_worse(worse, milder, text(light, "id"));
        }
    }
    for converter in list(build, "converters") {
        found.keep_worse("converter.overload", "converter.near_limit", text(converter, "id"));
    }
    if ["balance_lead", "one_of_series"].contains(&text(&build["source"], "tap")) {
        found.add("tap.unbalanced", "source", "stop");
    }
    let (chemistry, source) = (text(&build["source"], "chemistry"), &build["source"]);
    if !source["protected"].as_bool().unwrap_or(chemistry != "lipo") && ["li_ion", "lipo", "lifepo4"].contains(&chemistry) {
        found.add("source.no_cutoff", "source", "note");
    }
    found.keep_worse("source.over", "source.near_limit", "source");
    if ["li_ion", "lipo", "lifepo4"].contains(&chemistry) && source["used_while_charging"] == true {
        match source["may_charge_lit"].as_bool() {
            Some(true) => {}
            Some(false) => found.add("source.charging_lit", "source", "fix"),
            None => found.add("source.charging_lit", "source", "note"),
        }
    }
    if ["alkaline", "lithium_coin"].contains(&chemistry) && source["used_while_charging"] == true {
        found.add("source.not_rechargeable", "source", "fix");
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
        let (string, rated, most) = (number(here, "string_a", 0.0), number(led, "if_a", 0.0), number(led, "if_max_a", 1e300));
        if on && over(string, most) {
            found.add("led.over_max", id, "stop");
        } else if on && over(string, 1.02 * rated) {
            found.add("led.over_rated", id, "fix");
        } else if on && over(string, 0.6 * most) && is_hot(build, id) {
            found.add("led.hot", id, "fix");
        }
        let ohm = number(load, "resistor_ohm", 0.0);
        if !driven && ohm == 0.0 {
            // The source itself is the resistor: every string keeps to its rating, and a full source drops 0.15 V.
            let straight = list(light, "feeds").iter().all(|feed| supplier(build, text(feed, "from")) == "source");
            let lit_at: Vec<&Value> = points
                .iter()
                .filter(|p| {
                    let scene = list(build, "scenes").iter().find(|scene| scene["id"] == p["scene"]).expect("its scene");
                    self::lit(scene, id).0 > 0.0
                })
                .collect();
            let full = |p: &&&Value| text(p, "state") == "full";
            let keeps = lit_at.iter().all(|p| !over(number(&p["lights"][id], "string_a", 0.0), rated));
            let drops = lit_at.iter().filter(full).all(|p| !over(0.15, number(&p["source"], "emf_v", 0.0) - number(&p["source"], "terminal_v", 0.0)));
            let note = straight && keeps && drops && lit_at.iter().filter(full).count() > 0;
            found.add("led.no_resistor", id, if note { "note" } else { "stop" });
        }
        if !driven && rated >= 0.3 {
            found.add("emitter.voltage_driven", id, "fix");
        }
        if ohm > 0.0 && on {
            match number(here, "resistor_w", 0.0) / number(load, "resistor_w", 1e300) {
                share if over(share, 1.0) => found.add("resistor.hot", id, "stop"),
                share if over(share, 0.6) => found.add("resistor.hot", id, "fix"),
                _ => {}
            }
        }
        if on && text(point, "state") == "full" {
            let low = points.iter().find(|p| p["scene"] == point["scene"] && p["state"] == "reserve").expect("a reserve");
            // A dark string's current is noise.
            if string > 1e-9 && over(string, 1.5 * number(&low["lights"][id], "string_a", 0.0)) {
                found.add("led.uneven", id, "note");
            }
        }
    }
    if on && load["recut"].is_object() {
        // Dimmed by switching: while it is on, an LED carries all of it.
        let share = number(here, "highest_output", 0.0) / level;
        if over(share, 1.5) {
            found.add("recut.over", id, "stop");
        } else if over(share, 1.02) {
            found.add("recut.over", id, "fix");
        }
    }
    let rated_v = number(load, "voltage_v", 0.0);
    let highest_v = number(here, "highest_v", 0.0);
    match kind {
        // Cut again, it is judged by the current of its rows.
        "strip" if load["recut"].is_object() => {}
        "strip" | "pixels" if over(highest_v, 1.2 * rated_v) => found.add("light.over_voltage", id, "stop"),
        "strip" | "pixels" if over(highest_v, 1.1 * rated_v) => found.add("light.over_voltage", id, "fix"),
        "module" if over(highest_v, number(load, "max_v", 1e300)) => found.add("light.over_voltage", id, "stop"),
        _ => {}
    }
    if ["strip", "pixels"].contains(&kind) && over(number(here, "rail_a", 0.0), number(load, "rail_max_a", 6.0)) {
        found.add("strip.rail_over", id, "stop");
    }
    if kind == "strip" {
        let (least, most) = (number(here, "lowest_output", 0.0), number(here, "highest_output", 0.0));
        // Below that, both are noise.
        if on && most > 1e-9 && over(0.85, least / most) {
            found.add("strip.fade", id, "fix");
        }
        let segments = number(load, "length_m", 0.0) / number(load, "segment_m", 1.0);
        if (segments - segments.round()).abs() > 1e-6 {
            found.add("strip.cut", id, "fix");
        }
    }
    if kind == "pixels" && on {
        let starved = |c: usize| colour[c] > 0.0 && over(load["regulation_v"][c].as_f64().unwrap_or(0.0), number(here, "lowest_v", 0.0));
        if (0..3).any(starved) {
            found.add("pixels.starved", id, "fix");
        }
    }
}

fn of_converter(converter: &Value, here: &Value, found: &mut Found) {
    let id = text(converter, "id");
    let in_v = number(here, "in_v", 0.0);
    if over(number(converter, "min_in_v", 0.0), in_v) {
        found.add("converter.input_low", id, "stop");
    }
    if over(in_v, number(converter, "max_in_v", 1e300)) {
        found.add("converter.input_high", id, "stop");
    }
    let (kind, set_v) = (text(converter, "kind"), number(converter, "set_v", 0.0));
    if kind == "boost" && over(in_v - number(converter, "pass_drop_v", 0.0), set_v) {
        found.add("converter.pass_through", id, "stop");
    }
    if ["buck", "buck_boost", "linear"].contains(&kind) && number(here, "out_a", 0.0).abs() < 1e-6 && over(number(here, "out_v", 0.0), 1.01 * set_v) {
        found.add("converter.back_fed", id, "fix");
    }
    let loss_w = number(here, "loss_w", 0.0);
    match number(converter, "max_loss_w", if kind == "linear" { 1.2 } else { 1e300 }) {
        most if over(loss_w, most) => found.add("converter.hot", id, "stop"),
        most if over(loss_w, 0.6 * most) => found.add("converter.hot", id, "fix"),
        _ => {}
    }
}

/// What a converter carries, also while all that is dimmed by pulses is on.
fn loaded(converter: &Value, here: &Value, found: &mut Found) {
    let id = text(converter, "id");
    for (current, limit) in [("out_a", "max_out_a"), ("in_a", "max_in_a")] {
        match number(here, current, 0.0).abs() / number(converter, limit, 1e300) {
            share if over(share, 1.0) => found.add("converter.overload", id, "stop"),
            // A driver is made to give its all.
            share if over(share, 0.8) && !(current == "out_a" && text(converter, "kind") == "current_driver") => found.add("converter.near_limit", id, "fix"),
            _ => {}
        }
    }
}

/// Darkness or dimness of a light over all its points.
fn of_brightness(build: &Value, light: &Value, points: &[Value], found: &mut Found) {
    let (id, load) = (text(light, "id"), &light["load"]);
    let mut low: Vec<(f64, bool)> = Vec::new();
    for point in points {
        let scene = list(build, "scenes").iter().find(|scene| scene["id"] == point["scene"]).expect("its scene");
        let here = lit(scene, id);
        if asked(load, here) {
            let output = number(&point["lights"][id], "output", 0.0);
            low.push((if text(load, "kind") == "pixels" { output } else { output / here.0 }, ["reserve", "under_way"].contains(&text(point, "state"))));
        }
    }
    let (dark, dim) = (low.iter().filter(|(share, _)| over(0.1, *share)), low.iter().filter(|(share, _)| over(0.5, *share)));
    if dark.clone().count() > 0 {
        found.add("light.dark", id, if dark.clone().all(|(_, reserve)| *reserve) { "fix" } else { "stop" });
    } else if dim.clone().count() > 0 {
        found.add("light.dim", id, if dim.clone().all(|(_, reserve)| *reserve) { "note" } else { "fix" });
    }
}

/// The highest voltage where a fuse at the start of a feed sits, V.
pub fn highest_v(build: &Value, feed: &Value) -> f64 {
    let source_v = states(build).into_iter().map(|state| thevenin(build, state).0).fold(0.0, f64::max);
    let nearest = supplier(build, text(feed, "from"));
    let part = list(build, "converters").iter().find(|part| text(part, "id") == nearest);
    let set_v = part.and_then(|part| part["set_v"].as_f64());
    match (set_v, short_way(build, feed).2, part) {
        (Some(set_v), Some(_), _) => set_v,
        (Some(set_v), None, _) => set_v.max(source_v),
        // A driver lets out what goes in.
        (None, Some(_), Some(driver)) => highest_v(build, &driver["feed"]),
        (None, ..) => source_v,
    }
}

/// Whether what hangs on these wires is fed through another one.
pub fn behind(build: &Value, wires: &[Value], feed: &Value) -> bool {
    let mut ways: Vec<&Value> = wires.iter().collect();
    while let Some(wire) = ways.pop() {
        if wire == feed {
            return true;
        }
        ways.extend(through(build, text(wire, "from")).map(|(above, _)| above));
    }
    false
}

fn of_feeds(build: &Value, points: &[&Value], found: &mut Found) {
    let all = feeds(build);
    for (name, consumer, feed) in &all {
        let most = |field: &str| points.iter().map(|point| number(&point["feeds"][name], field, 0.0).abs()).fold(0.0, f64::max);
        let largest = most("current_a");
        let framed = text(feed, "return") == "frame" && !build["vehicle"]["frame_return_ohm"].is_null();
        let heaviest = if framed { largest } else { largest.max(most("back_a")) };
        let may = carries_a(build, consumer, feed);
        if over(heaviest, may) {
            found.add("wire.ampacity", name, if over(heaviest, 1.1 * may) { "stop" } else { "fix" });
        }
        if over(largest, number(&feed["switch"], "rating_a", 1e300)) {
            found.add("switch.over", name, "stop");
        }
        if over(number(&feed["moving"], "bounce_share", 0.0), 0.01) {
            let behind = |light: &Value| {
                let id = text(light, "id");
                let mut ways: Vec<_> = all.iter().filter(|(own, ..)| own == id || own.starts_with(&format!("{id}#"))).collect();
                while let Some((own, _, up)) = ways.pop() {
                    if own == name {
                        return true;
                    }
                    ways.extend(all.iter().filter(|(other, ..)| other == text(up, "from")));
                }
                false
            };
            let pixels = list(build, "lights").iter().any(|light| text(&light["load"], "kind") == "pixels" && behind(light));
            found.add("contact.moving", name, if pixels { "fix" } else { "note" });
        }
        if number(feed, "contacts", 0.0) > 0.0 && over(largest, number(feed, "contact_rating_a", 1e300)) {
            found.add("contact.over", name, "stop");
        }
        if text(feed, "return") == "frame" && build["vehicle"]["frame_return_ohm"].is_null() {
            found.add("frame.not_a_conductor", name, "stop");
        }
        if text(feed, "return") == "frame" && text(&build["vehicle"], "kind") == "wheelchair" {
            found.add("frame.medical", name, "stop");
        }
        let mut zone = vec![(consumer, feed)];
        let mut next = 0;
        while let Some((here, _)) = zone.get(next).copied() {
            // A light or a converter's input ends the zone, but not that of a step-up.
            if through(build, here).is_some() {
                let below = all.iter().filter(|(_, _, below)| text(below, "from") == here && below["fuse"].is_null());
                zone.extend(below.map(|(_, consumer, below)| (consumer, below)));
            }
            next += 1;
        }
        let from = text(feed, "from");
        let battery = text(&build["source"], "kind") == "battery";
        // What a short gets from a rail or a converter.
        let converter = short_way(build, feed).2;
        let limit = converter.map_or(number(&build["source"], "max_current_a", 0.0), |c| number(c, "max_out_a", 0.0));
        if feed["fuse"].is_null() {
            let direct = through(build, from).is_none();
            let short = |wire: &Value| if converter.is_some() || !battery { limit } else { bare_short_a(build, wire) };
            let hottest = zone.iter().map(|(_, wire)| end_c(wire, short(wire), f64::INFINITY)).fold(0.0, f64::max);
            let source = &build["source"];
            let wh = number(source, "capacity_ah", 0.0) * thevenin(build, "full").0;
            let mild = battery && ["alkaline", "nimh", "lithium_coin"].contains(&text(source, "chemistry")) && wh < 20.0;
            if direct && over(hottest, 80.0) {
                found.add("fuse.missing", name, if over(hottest, 105.0) && !mild { "stop" } else { "fix" });
            }
            continue;
        }
        let rating = number(&feed["fuse"], "rating_a", 0.0);
        if over(1.25 * largest, rating) {
            found.add("fuse.nuisance", name, "fix");
        }
        // What rushes in at switch-on, for a twentieth of a second.
        let rush = points.iter().filter(|point| point["pulse"] != true).map(|point| super::hazards::rush_a(build, feed, name, point));
        let times = rush.fold(0.0, f64::max) / rating;
        let fast: &[(f64, f64)] = match text(&feed["fuse"], "style") {
            "blade" | "blade_58v" => &[(1.35, 0.75), (2.0, 0.15), (3.5, 0.04), (6.0, 0.02)],
            "glass" | "ceramic" => &[(2.1, 0.1), (2.75, 0.05), (4.0, 0.01), (10.0, 0.002)],
            _ => &[(2.0, 1.0), (5.0, 0.1), (10.0, 0.02)],
        };
        let soonest = fast.windows(2).find(|pair| pair[0].0 <= times && times < pair[1].0).map(|pair| {
            let share = (times / pair[0].0).ln() / (pair[1].0 / pair[0].0).ln();
            pair[0].1 * (pair[1].1 / pair[0].1).powf(share)
        });
        let last = fast[fast.len() - 1];
        let soonest = soonest.or((times >= last.0).then(|| last.1 * (last.0 / times).powi(2)));
        if soonest.is_some_and(|soonest| over(0.05, soonest)) {
            found.add("fuse.inrush", name, "fix");
        }
        let style = text(&feed["fuse"], "style");
        let (standard, (volts, breaks)) = (standards::ratings(style), standards::stands(style));
        if !standard.contains(&rating) {
            found.add("fuse.odd_rating", name, "note");
        }
        let highest = highest_v(build, feed);
        if over(highest, volts) {
            found.add("fuse.voltage", name, if over(highest, 1.5 * volts) { "stop" } else { "fix" });
        }
        let short = if converter.is_some() || !battery {
            limit
        } else {
            let (emf, ohm) = thevenin(build, "full");
            let before = through(build, from).map_or(0.0, |(above, _)| way_ohm(build, above));
            emf / (ohm + before + 0.09 / rating)
        };
        if over(short, breaks) {
            found.add(
                "fuse.breaking",
                name,
                match short / breaks {
                    share if over(share, 10.0) => "stop",
                    share if over(share, 3.0) => "fix",
                    _ => "note",
                },
            );
        }
        // Every feed of a strip that is fed at several places is in the way of a short in any of them.
        let also = all.iter().filter(|(other, into, _)| other != name && zone.iter().any(|(reached, _)| *reached == into) && through(build, into).is_none());
        let also = also.filter(|(_, into, _)| list(build, "lights").iter().any(|light| text(light, "id") == into));
        let reached = zone.iter().map(|(into, wire)| (*into, *wire)).chain(also.map(|(_, into, wire)| (into, wire)));
        if reached.into_iter().any(|(into, wire)| over(rating, carries_a(build, into, wire))) {
            found.add("fuse.above_wire", name, "stop");
        }
        for (_, far) in &zone {
            let fault = fault_a(build, far);
            if !over(3.5 * rating, fault) {
                continue;
            }
            // How long it flows, and what the wires on the way come to.
            let table: &[(f64, f64)] = match text(&feed["fuse"], "style") {
                "blade" | "blade_58v" => &[(1.35, 600.0), (2.0, 5.0), (3.5, 0.5)],
                "glass" | "ceramic" => &[(2.1, 1800.0), (2.75, 2.0), (4.0, 0.3)],
                _ => &[(2.0, 20.0), (5.0, 3.0)],
            };
            let times = fault / rating;
            let seconds = table.windows(2).find(|pair| pair[0].0 <= times && times < pair[1].0).map_or(3600.0, |pair| {
                let share = (times.ln() - pair[0].0.ln()) / (pair[1].0.ln() - pair[0].0.ln());
                (pair[0].1.ln() + share * (pair[1].1.ln() - pair[0].1.ln())).exp()
            });
            let mut hot = false;
            let mut at: Option<&Value> = Some(far);
            while let Some(wire) = at {
                hot |= over(end_c(wire, fault, seconds), 160.0);
                at = zone.iter().find(|(consumer, above)| consumer.as_str() == text(wire, "from") && !std::ptr::eq(*above, wire)).map(|(_, above)| *above);
            }
            found.add("fuse.slow", name, if hot { "stop" } else { "fix" });
        }
    }
}
