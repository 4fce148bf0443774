//! The core against a second program for the same physics, on builds that nobody wrote.

mod hazards;
mod judge;
pub mod random;
mod solver;
mod standards;

use orthavis_judge::report::report;
use orthavis_model::document::parse_value;
use serde_json::{Value, json};
use solver::{Net, Solved, endurance, list, lit, states, text, thevenin};
use std::collections::BTreeSet;

/// Figures of the reference that the core's report lacks or has otherwise, by more than a share.
fn compare(path: &str, reference: &Value, core: &Value, share: f64, wrong: &mut Vec<String>) {
    match reference {
        Value::Object(map) => map.iter().for_each(|(key, value)| compare(&format!("{path}/{key}"), value, &core[key], share, wrong)),
        Value::Number(number) => {
            let (want, got) = (number.as_f64().expect("finite"), core.as_f64().unwrap_or(f64::NAN));
            // What either leaves between the terminals of a part at rest is not a voltage.
            let rests = path.ends_with("_v") && want.abs().max(got.abs()) < 2e-3;
            if got.is_nan() || (got - want).abs() > share * want.abs() + 2e-6 && !rests {
                wrong.push(format!("{path}: reference {want}, core {got}"));
            }
        }
        other if other != core => wrong.push(format!("{path}: reference {other}, core {core}")),
        _ => {}
    }
}

/// Every point of a build, solved by the reference; `None` where one has no steady state.
fn points(build: &Value, net: &Net) -> Option<Vec<Value>> {
    let (mut all, mut moving) = (Vec::new(), Vec::new());
    for scene in list(build, "scenes") {
        let lights: Vec<_> = list(build, "lights").iter().map(|light| lit(scene, text(light, "id"))).collect();
        let mut near: Option<Solved> = None;
        for state in states(build) {
            let solved = net.solve(thevenin(build, state), &lights, near.as_ref())?;
            let points = if state == "under_way" { &mut moving } else { &mut all };
            points.push(net.report(text(scene, "id"), state, &solved, &lights));
            near = Some(solved);
        }
    }
    all.extend(moving);
    Some(all)
}

/// Every point at which something is dimmed by pulses, with all of that on.
fn pulses(build: &Value, net: &Net) -> Vec<Value> {
    let mut all = Vec::new();
    for scene in list(build, "scenes") {
        let mut lights: Vec<_> = list(build, "lights").iter().map(|light| lit(scene, text(light, "id"))).collect();
        let mut dimmed = false;
        for (light, here) in list(build, "lights").iter().zip(&mut lights) {
            let supply = list(build, "converters").iter().find(|converter| text(converter, "id") == text(&light["feeds"][0], "from"));
            let driven = supply.is_some_and(|converter| text(converter, "kind") == "current_driver");
            if here.0 > 0.0 && here.0 < 1.0 && text(&light["load"], "kind") != "pixels" && !driven {
                here.0 = 1.0;
                dimmed = true;
            }
        }
        for state in states(build).into_iter().filter(|_| dimmed) {
            if let Some(solved) = net.solve(thevenin(build, state), &lights, None) {
                let mut point = net.report(text(scene, "id"), state, &solved, &lights);
                point["pulse"] = json!(true);
                all.push(point);
            }
        }
    }
    all
}

/// How many builds are drawn; of more the reference cannot solve a few (see [`UNSOLVED`]).
fn count() -> u64 {
    std::env::var("ORTHAVIS_BUILDS").ok().and_then(|count| count.parse().ok()).unwrap_or(250)
}

/// Builds that the reference finds no steady state of, one in four hundred: its Newton method is the plainer one.
const UNSOLVED: f64 = 1.0 / 400.0;

fn collapses(report: &orthavis_judge::report::Report) -> bool {
    report.findings.iter().any(|finding| finding.code == "source.collapses")
}

#[test]
fn the_core_agrees_with_a_second_program() {
    let mut wrong = Vec::new();
    let (mut solved, mut refused, mut unsolved) = (0, 0, Vec::new());
    for seed in 0..count() {
        let document = random::Dice(seed).build();
        let build = parse_value(&document).unwrap_or_else(|error| panic!("{seed}: {error}\n{document:#}"));
        let net = Net::new(&document);
        match (report(&build), points(&document, &net)) {
            (Ok(core), Some(_)) if collapses(&core) => wrong.push(format!("{seed}: the core finds no steady state")),
            (Ok(core), Some(points)) => {
                solved += 1;
                let before = wrong.len();
                let actual = serde_json::to_value(&core).expect("json");
                assert_eq!(points.len(), core.points.len(), "{seed}");
                for (index, point) in points.iter().enumerate() {
                    compare(&format!("{seed}/{}/{}", text(point, "scene"), text(point, "state")), point, &actual["points"][index], 0.005, &mut wrong);
                }
                if wrong.len() > before {
                    continue;
                }
                let found: BTreeSet<judge::Key> =
                    list(&actual, "findings").iter().map(|f| (text(f, "severity").into(), text(f, "code").into(), text(f, "subject").into())).collect();
                let expected = judge::findings(&document, &points, &pulses(&document, &net));
                wrong.extend(expected.difference(&found).map(|missing| format!("{seed}: the core lacks {missing:?}")));
                wrong.extend(found.difference(&expected).map(|extra| format!("{seed}: the core alone has {extra:?}")));
            }
            (Ok(core), None) if collapses(&core) => refused += 1,
            (Err(error), _) => wrong.push(format!("{seed}: the core stops: {error}")),
            (Ok(_), None) => unsolved.push(seed),
        }
    }
    println!("{solved} builds solved by both, {refused} refused by both, {unsolved:?} not solved by the reference");
    assert!(unsolved.len() as f64 <= UNSOLVED * count() as f64, "{unsolved:?}");
    assert!(wrong.is_empty(), "{} differences\n{}", wrong.len(), wrong.join("\n"));
}

#[test]
fn endurance_agrees_with_small_steps() {
    let mut wrong = Vec::new();
    for seed in 0..count() / 2 {
        let document = random::Dice(seed).build();
        let Ok(core) = report(&parse_value(&document).expect("sound")) else { continue };
        let net = Net::new(&document);
        let actual = serde_json::to_value(&core.endurance).expect("json");
        if text(&document["source"], "kind") == "rail" {
            continue;
        }
        for (index, scene) in list(&document, "scenes").iter().enumerate() {
            let Some((hours, ah, ends)) = endurance(&document, &net, scene) else { continue };
            let mut want = json!({ "hours": hours, "ah": ah, "ends": ends });
            // What goes dark within the last small step does not do so in those of the reference.
            let close = hours.zip(actual[index]["hours"].as_f64()).is_some_and(|(a, b)| (a - b).abs() <= a / 80.0);
            if close && want["ends"] != actual[index]["ends"] {
                want["ends"] = actual[index]["ends"].clone();
            }
            compare(&format!("{seed}/{}", text(scene, "id")), &want, &actual[index], 0.02, &mut wrong);
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

/// The builds that people wrote: the public cases and the table of findings. What only the core judges is left out.
#[test]
fn it_agrees_on_every_case_and_every_row_of_the_table() {
    let mut wrong = Vec::new();
    for (name, build) in orthavis_testing::table().into_iter().map(|(name, build, _)| (name, build)).chain(orthavis_testing::cases()) {
        // Small circuits are held against a general simulator instead; of tracks and dimmers the other program knows nothing.
        let dimmed = build.feeds().iter().any(|feed| feed.feed.dimmer.is_some());
        if !build.circuits.is_empty() || !build.controllers.is_empty() || dimmed || matches!(build.source, orthavis_model::document::Source::Track(_)) {
            continue;
        }
        let document = build.to_value();
        if points(&document, &Net::new(&document)).is_none() {
            assert!(collapses(&report(&build).expect("a report")), "{name}");
            continue;
        }
        let (core, reference) = (report(&build).expect("a solution"), points(&document, &Net::new(&document)).expect("a solution"));
        let actual = serde_json::to_value(&core).expect("json");
        for (index, point) in reference.iter().enumerate() {
            compare(&format!("{name}/{}/{}", text(point, "scene"), text(point, "state")), point, &actual["points"][index], 0.005, &mut wrong);
        }
        let light = ["light.dazzles", "light.leaks", "light.spots", "light.unnoticed"];
        // Where a place is on its vehicle, only the drawings know.
        let own = [&["place.", "light.wet", "fixing.", "circuit.", "flash.", "holdup.", "source.parked"], &light[..]].concat();
        let found = list(&actual, "findings").iter().filter(|f| !own.iter().any(|family| text(f, "code").starts_with(family)));
        let found: BTreeSet<judge::Key> = found.map(|f| (text(f, "severity").into(), text(f, "code").into(), text(f, "subject").into())).collect();
        let expected = judge::findings(&document, &reference, &pulses(&document, &Net::new(&document)));
        if found != expected {
            wrong.push(format!("{name}: {:?}", found.symmetric_difference(&expected).collect::<Vec<_>>()));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

/// Hundreds of taps, fed at one to four places, one of them beyond the last tap.
#[test]
fn long_strips_agree() {
    let mut wrong = Vec::new();
    for places in 1..=4 {
        let feed = |at_m: f64| json!({ "from": "five", "at_m": at_m, "length_m": 0.3 + at_m, "gauge": { "awg": 20 }, "contacts": 1 });
        let along = |length: f64| (0..places).map(|i| feed(length * f64::from(i) / 3.0)).collect::<Vec<_>>();
        let pixels = json!({ "kind": "pixels", "voltage_v": 5.0, "channel_a": [0.012, 0.012, 0.012], "idle_a": 0.0008, "pitch_m": 0.0167, "rail_ohm_per_m": 0.2,
            "regulation_v": [2.6, 3.6, 3.6], "off_v": [1.7, 2.6, 2.6], "count": 150 });
        let strip = json!({ "kind": "strip", "voltage_v": 5.0, "power_w_per_m": 9.6, "segment_m": 0.05, "leds_per_segment": 1, "led_vf_v": 3.1, "rail_ohm_per_m": 0.15, "length_m": 3.0 });
        let document = json!({ "format": "orthavis.build/1", "name": "long", "vehicle": { "kind": "rv", "mass_kg": 900.0 },
            "source": { "kind": "battery", "chemistry": "lead_agm", "series": 6, "capacity_ah": 95.0, "rated_hours": 20.0, "max_current_a": 40.0 },
            "converters": [{ "id": "five", "feed": { "from": "source", "length_m": 1.0, "gauge": { "mm2": 2.5 }, "fuse": { "style": "blade", "rating_a": 10.0 } }, "kind": "buck", "set_v": 5.0,
                "min_in_v": 7.0, "max_in_v": 30.0, "max_out_a": 15.0, "dropout_v": 1.0, "efficiency": 0.9, "idle_a": 0.01 }],
            "lights": [{ "id": "roof", "feeds": along(2.51), "load": pixels }, { "id": "floor", "feeds": along(3.0), "load": strip }],
            "scenes": [{ "id": "white", "lights": { "roof": {}, "floor": {} } }, { "id": "blue", "lights": { "roof": { "level": 0.4, "colour": [0, 0, 1] } } }] });
        let core = serde_json::to_value(report(&parse_value(&document).expect("sound")).expect("a solution")).expect("json");
        let points = points(&document, &Net::new(&document)).expect("a solution");
        for (index, point) in points.iter().enumerate() {
            compare(&format!("{places}/{}/{}", text(point, "scene"), text(point, "state")), point, &core["points"][index], 0.001, &mut wrong);
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
