//! What hurts beside volts and amperes, judged a second time: from the table of hazards, and by slower ways.

use super::judge::{Found, bare_short_a, behind, end_c, highest_v, over, short_way, supplier};
use super::solver::{asked, feeds, list, lit, number, string_a, text, thevenin};
use serde_json::{Value, json};

/// Every finding of the table of hazards, but what needs the drawings of a vehicle.
pub fn hazards(build: &Value, points: &[Value], found: &mut Found) {
    for light in list(build, "lights") {
        dimmed(build, light, found);
        heat(build, light, points, found);
        shared(build, light, points, found);
    }
    for (name, consumer, feed) in &feeds(build) {
        seated(build, name, feed, found);
        swapped(build, name, consumer, feed, found);
        contacts(build, name, feed, points, found);
    }
    sleeps(build, points, found);
    engine(build, found);
    near(build, found);
}

fn of<'a>(build: &'a Value, list_of: &str, id: &str) -> Option<&'a Value> {
    list(build, list_of).iter().find(|one| text(one, "id") == id)
}

fn is_lit(build: &Value, point: &Value, light: &Value) -> bool {
    let scene = list(build, "scenes").iter().find(|scene| scene["id"] == point["scene"]).expect("its scene");
    asked(&light["load"], lit(scene, text(light, "id")))
}

fn is_driven(build: &Value, light: &Value) -> bool {
    list(light, "feeds").iter().any(|feed| of(build, "converters", text(feed, "from")).is_some_and(|one| text(one, "kind") == "current_driver"))
}

fn dimmed(build: &Value, light: &Value, found: &mut Found) {
    let id = text(light, "id");
    let less = list(build, "scenes").iter().map(|scene| lit(scene, id).0).any(|level| level > 0.0 && level < 1.0);
    if less && text(&light["load"], "kind") != "pixels" {
        found.add("dimmer.missing", id, "fix");
    }
}

fn heat(build: &Value, light: &Value, points: &[Value], found: &mut Found) {
    let (id, load) = (text(light, "id"), &light["load"]);
    let at = |point: &Value, field: &str| number(&point["lights"][id], field, 0.0);
    if text(load, "kind") == "led_array" && number(&load["led"], "if_a", 0.0) >= 0.3 {
        let (parallel, series) = (number(load, "parallel", 1.0), number(load, "series", 1.0));
        let ohm = number(load, "resistor_ohm", 0.0);
        for point in points.iter().filter(|point| is_lit(build, point, light)) {
            // What the LEDs themselves take: all of it, less what the resistors do while it is on.
            let rows_a = at(point, "string_a");
            let on = if rows_a > 0.0 { (at(point, "current_a") / (rows_a * parallel)).min(1.0) } else { 0.0 };
            let resistors_w = if load["shared_resistor"] == true { (rows_a * parallel).powi(2) * ohm } else { parallel * rows_a.powi(2) * ohm };
            let each_w = (at(point, "power_w") - on * resistors_w).max(0.0) / (series * parallel);
            let degrees = 25.0 + each_w * number(load, "on_one_sink", 1.0) * number(load, "sink_k_per_w", 30.0);
            if over(degrees, 85.0) {
                found.add("emitter.hot", id, if over(degrees, 110.0) { "stop" } else { "fix" });
            }
        }
    }
    let length = match text(load, "kind") {
        "strip" => number(load, "length_m", 0.0),
        "pixels" => number(load, "count", 0.0) * number(load, "pitch_m", 0.0),
        _ => return,
    };
    let fixed = list(&build["make"], "fixings").iter().find(|one| text(one, "part") == id).map(|one| text(one, "surface"));
    let place = list(build, "places").iter().find(|place| place["name"] == light["place"]).map(|place| text(place, "surface"));
    let surface = fixed.filter(|word| !word.is_empty()).or(place).unwrap_or("");
    if light["profile"] == true || ["", "metal", "painted_metal", "bare_metal"].contains(&surface) {
        return;
    }
    let watts = points.iter().map(|point| at(point, "power_w") / length).fold(0.0, f64::max);
    if over(watts, 10.0) {
        found.add("strip.warm", id, if ["foam", "fabric"].contains(&surface) && over(watts, 20.0) { "stop" } else { "fix" });
    }
}

/// Rows behind one resistor: the current of one that wants a tenth of a volt less, by halving the others' current.
fn shared(build: &Value, light: &Value, points: &[Value], found: &mut Found) {
    let (id, load) = (text(light, "id"), &light["load"]);
    let rows = number(load, "parallel", 1.0);
    if load["shared_resistor"] != true || rows < 2.0 || is_driven(build, light) {
        return;
    }
    let led = &load["led"];
    let (vf, rated) = (number(led, "vf_v", 0.0), number(led, "if_a", 0.0));
    let law = (vf, rated, number(led, "n", 2.0), number(led, "rs_ohm", 0.08 * vf / rated));
    let (series, ohm) = (number(load, "series", 1.0), number(load, "resistor_ohm", 0.0));
    let mut worst: Option<f64> = None;
    for point in points.iter().filter(|point| is_lit(build, point, light)) {
        let volts = number(&point["lights"][id], "voltage_v", 0.0);
        let (mut low, mut high) = (0.0, volts.max(0.0));
        for _ in 0..100 {
            let across = 0.5 * (low + high);
            let all = (rows - 1.0) * string_a(law, series, 0.0, across) + string_a(law, series, 0.0, across + 0.1);
            if across + ohm * all > volts { high = across } else { low = across }
        }
        worst = Some(worst.unwrap_or(0.0f64).max(string_a(law, series, 0.0, low + 0.1)));
    }
    if let Some(amps) = worst {
        let stop = over(amps, number(led, "if_max_a", 1e300));
        found.add(
            "led.shared",
            id,
            if stop {
                "stop"
            } else if over(amps, 1.5 * rated) {
                "fix"
            } else {
                "note"
            },
        );
    }
}

fn frame_is_minus(build: &Value) -> bool {
    !build["vehicle"]["frame_return_ohm"].is_null() || feeds(build).iter().any(|(_, _, feed)| text(feed, "return") == "frame")
}

fn seated(build: &Value, name: &str, feed: &Value, found: &mut Found) {
    let fuse = &feed["fuse"];
    if fuse.is_null() {
        return;
    }
    if text(fuse, "side") == "minus" {
        return found.add("fuse.minus", name, if frame_is_minus(build) { "stop" } else { "fix" });
    }
    let before = number(fuse, "at_m", 0.0);
    if !over(before, 0.2) {
        return;
    }
    // A fuse above guards the piece before this one.
    let mut above = super::judge::through(build, text(feed, "from")).map(|(wire, _)| wire);
    while let Some(wire) = above {
        if !wire["fuse"].is_null() {
            return;
        }
        above = super::judge::through(build, text(wire, "from")).map(|(wire, _)| wire);
    }
    let mut bare = feed.clone();
    bare["length_m"] = json!(before);
    let source = &build["source"];
    let limiter = short_way(build, feed).2;
    let battery = text(source, "kind") == "battery";
    let fault = match limiter {
        Some(part) => number(part, "max_out_a", 0.0),
        None if battery => bare_short_a(build, &bare),
        None => number(source, "max_current_a", 0.0),
    };
    let degrees = end_c(&bare, fault, f64::INFINITY);
    let wh = number(source, "capacity_ah", 0.0) * if battery { thevenin(build, "full").0 } else { 0.0 };
    let mild = ["alkaline", "nimh", "lithium_coin"].contains(&text(source, "chemistry")) && wh < 20.0;
    if battery && !mild && limiter.is_none() || over(degrees, 80.0) {
        found.add("fuse.far", name, if over(degrees, 105.0) && frame_is_minus(build) { "stop" } else { "fix" });
    }
}

fn swapped(build: &Value, name: &str, consumer: &str, feed: &Value, found: &mut Found) {
    if feed["keyed"] != false {
        return;
    }
    let (mut next, mut dies) = (vec![consumer.to_owned()], false);
    while let Some(id) = next.pop() {
        if let Some(light) = of(build, "lights", &id) {
            let load = &light["load"];
            let usual = text(load, "kind") == "led_array" || text(load, "draw") == "filament";
            dies |= !light["reverse_ok"].as_bool().unwrap_or(usual);
        } else if let Some(part) = of(build, "converters", &id) {
            dies |= part["reverse_ok"] != true;
        } else {
            next.extend(feeds(build).into_iter().filter(|(_, _, below)| text(below, "from") == id).map(|(_, consumer, _)| consumer));
        }
    }
    if dies {
        found.add("polarity.open", name, "note");
    }
}

fn contacts(build: &Value, name: &str, feed: &Value, points: &[Value], found: &mut Found) {
    let carried = points.iter().map(|point| number(&point["feeds"][name], "current_a", 0.0).abs()).fold(0.0, f64::max);
    if over(carried, number(&feed["dimmer"], "rating_a", 1e300)) {
        found.add("dimmer.over", name, "stop");
    }
    let volts = highest_v(build, feed);
    let mut contact = |rating: &Value, mildest: bool| {
        let limit = rating.as_f64().unwrap_or(30.0);
        if over(volts, limit) {
            found.add("switch.voltage", name, if over(volts, 1.5 * limit) && !mildest { "stop" } else { "fix" });
        }
    };
    if !feed["switch"].is_null() {
        contact(&feed["switch"]["rating_v"], false);
    }
    if number(feed, "contacts", 0.0) > 0.0 {
        // Of a plug of which nothing is known, nothing worse is said.
        contact(&feed["contact_rating_v"], feed["contact_rating_v"].is_null());
    }
    if feed["switch"].is_null() {
        return;
    }
    let most = points.iter().map(|point| rush_a(build, feed, name, point)).fold(0.0, f64::max);
    if over(most, 5.0 * number(&feed["switch"], "rating_a", 1e300)) {
        found.add("switch.inrush", name, "note");
    }
}

/// What flows for an instant at switch-on, A; 0 where nothing rushes.
pub fn rush_a(build: &Value, feed: &Value, name: &str, point: &Value) -> f64 {
    let converters = list(build, "converters").iter().filter(|part| !part["inrush_a"].is_null() && behind(build, std::slice::from_ref(&part["feed"]), feed));
    let converters = converters.map(|part| number(part, "inrush_a", 0.0) - number(&point["converters"][text(part, "id")], "in_a", 0.0));
    let modules = list(build, "lights").iter().filter(|light| is_lit(build, point, light) && behind(build, list(light, "feeds"), feed)).filter_map(|light| {
        let (load, now) = (&light["load"], number(&point["lights"][text(light, "id")], "current_a", 0.0));
        let cold = (text(load, "draw") == "filament").then_some(10.0 * now);
        Some(load["inrush_a"].as_f64().or(cold)? - now)
    });
    let more: f64 = converters.chain(modules).map(|more| more.max(0.0)).sum();
    if more > 0.0 { number(&point["feeds"][name], "current_a", 0.0).abs() + more } else { 0.0 }
}

fn sleeps(build: &Value, points: &[Value], found: &mut Found) {
    let Some(awake) = build["source"]["min_load_a"].as_f64() else { return };
    for scene in list(build, "scenes") {
        let shines = list(build, "lights").iter().any(|light| asked(&light["load"], lit(scene, text(light, "id"))));
        let drawn =
            points.iter().filter(|point| point["scene"] == scene["id"]).map(|point| number(&point["source"], "current_a", 0.0).abs()).fold(0.0, f64::max);
        if shines && over(awake, drawn) {
            found.add("rail.sleeps", "source", "fix");
        }
    }
}

fn engine(build: &Value, found: &mut Found) {
    if text(&build["source"], "charged_by") != "engine" || super::solver::charging_v(build).is_none() {
        return;
    }
    let limit = 1.5 * thevenin(build, "charging").0;
    let straight = |feed: &Value| supplier(build, text(feed, "from")) == "source";
    for part in list(build, "converters").iter().filter(|part| straight(&part["feed"])) {
        if over(limit, number(part, "max_in_v", 1e300)) {
            found.add("surge.engine", text(part, "id"), "note");
        }
    }
    for light in list(build, "lights").iter().filter(|light| list(light, "feeds").iter().any(straight)) {
        let window = ["constant_power", "constant_current"].contains(&text(&light["load"], "draw"));
        if window && over(limit, number(&light["load"], "max_v", 1e300)) {
            found.add("surge.engine", text(light, "id"), "note");
        }
    }
}

fn near(build: &Value, found: &mut Found) {
    let positions = list(&build["make"], "positions");
    let at = |one: &Value| [0, 1, 2].map(|axis| one["at_mm"][axis].as_f64().unwrap_or(0.0));
    for noisy in positions {
        let id = text(noisy, "part");
        let switches = of(build, "converters", id).is_some_and(|part| text(part, "kind") != "linear");
        if !switches && of(build, "lights", id).is_none_or(|light| text(&light["load"], "kind") != "pixels") {
            continue;
        }
        for ear in positions.iter().filter(|one| ["receiver", "antenna", "compass"].contains(&text(one, "part"))) {
            let squares: f64 = at(noisy).iter().zip(at(ear)).map(|(a, b)| (a - b) * (a - b)).sum();
            if over(50.0, squares.sqrt()) {
                found.add("emi.near", id, "note");
            }
        }
    }
}
