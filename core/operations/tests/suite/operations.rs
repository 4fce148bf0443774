//! Every question by name, on every sample build, and what is wrong with a question in the same words for all.

use orthavis_core::budget::{self, Budget};
use orthavis_core::demo;
use orthavis_operations::{Media, OPERATIONS, Pace, as_typescript, ask, operation};
use serde_json::{Value, json};
use std::collections::BTreeSet;

/// A small wish.
fn wish() -> Value {
    let light = json!({ "place": "handlebar", "for": "see", "colour": "white", "length_m": null, "count": 1, "lm": null });
    json!({ "format": "orthavis.wish/1", "vehicle": { "kind": "bicycle" }, "battery": null, "own_pack": "must", "lights": [light], "hours": 2.0, "hands": "plug" })
}

pub fn builds() -> Vec<Value> {
    demo::BUILDS.iter().map(|text| serde_json::from_str(text).expect("json")).collect()
}

fn text(value: &Value, pointer: &str) -> String {
    value.pointer(pointer).and_then(Value::as_str).unwrap_or_else(|| panic!("{pointer}")).to_owned()
}

/// A good request for an operation on a build; `None` where the build has nothing to ask about.
pub fn good(name: &str, build: &Value) -> Option<Value> {
    let scene = text(build, "/scenes/0/id");
    let light = text(build, "/lights/0/id");
    Some(match name {
        "reference" => json!({}),
        "starter" => json!({ "name": "New", "vehicle": "rc_model", "variant": "boat", "chemistry": "lipo", "series": 3, "capacity_ah": 2.2 }),
        "label" => json!({ "text": "36V 14Ah li-ion" }),
        "designs" => json!({ "wish": wish() }),
        "night/scenery" => json!({ "document": build, "from": "behind", "wide": 64, "high": 36 }),
        "night" => json!({ "document": build, "scene": scene, "from": "behind", "sky": "street", "wide": 64, "high": 36 }),
        "measured" if build["source"]["kind"] != "battery" => return None,
        "measured" => json!({ "document": build, "volts": 12.4 }),
        "apply" => json!({ "document": build, "changes": [{ "op": "replace", "path": "/name", "value": "Other" }] }),
        "adding" => json!({ "document": build, "part": { "kind": "leds", "colour": "red", "count": 5, "place": "rear", "from": null, "length_m": 1.0 } }),
        "add" => json!({ "document": build, "part": { "kind": "copy_light", "id": light } }),
        "remove" => json!({ "document": build, "part": { "kind": "light", "id": light } }),
        "choose" => json!({ "document": build, "question": { "kind": "wire", "feed": light } }),
        "circuit/choose" => {
            let circuit = build["circuits"][0]["id"].as_str()?;
            json!({ "document": build, "circuit": circuit, "wanted": { "period_s": 1.0, "half_s": 1.0, "low_below_v": 6.4, "good_above_v": 7.0 } })
        }
        "pins" => json!({ "pins": 4, "logic_v": 3.3, "vf_v": 2.0, "pin_max_a": 0.02, "ohm": 50.0 }),
        "circuit" | "circuit/view" | "circuit/board" | "circuit/netlist" | "circuit/csv" => {
            let circuit = build["circuits"][0]["id"].as_str()?;
            json!({ "document": build, "circuit": circuit })
        }
        // Without pixels there is no line to write.
        "show/csv" | "show/map" if build["lights"].as_array().is_some_and(|lights| lights.iter().all(|light| light["load"]["kind"] != "pixels")) => {
            return None;
        }
        "show" | "show/frames" | "show/arrives" | "show/json" | "show/csv" | "show/header" | "show/source" => {
            json!({ "document": build, "scene": scene, "inputs": { "battery": 0.4, "turn": "left" }, "from_s": 0.5, "frames": 3, "delivered": true })
        }
        "show/sort" => {
            let (controller, output) = (build["controllers"][0]["id"].as_str()?, &build["controllers"][0]["outputs"][0]);
            json!({ "document": build, "output": format!("{controller}/{}", output["pin"].as_str()?) })
        }
        "discharge" | "netlist" => json!({ "document": build, "scene": scene }),
        "what-if" | "what-if/csv" => {
            let change = json!({ "brightness_factor": 0.5, "capacity_factor": 1.0, "temperature_c": 25.0, "hours_factor": 1.0 });
            json!({ "document": build, "scene": scene, "change": change })
        }
        "probe" => {
            json!({ "document": build, "scene": scene, "faults": [format!("open@{light}:to+")], "ohms": [["source+", "source-"]], "meter": 7, "aftermath": true })
        }
        "correct" => json!({ "document": build, "read": [
            { "check": "rest", "value": 12.5 }, { "check": format!("light-{light}"), "value": 12.0 }, { "check": format!("scene-{scene}-source"), "value": 0.5 }
        ] }),
        "pinch" => json!({ "document": build, "feed": light, "at": 0.5 }),
        "diagnose" => {
            json!({ "document": build, "scene": scene, "saw": [{ "light": light, "symptom": "dark" }], "read": [{ "setting": "volts", "probes": [format!("{light}:to+"), "source-"], "value": 0.1 }] })
        }
        "practice" => {
            json!({ "document": build, "done": [{ "topic": "level-1", "day": 4, "good": false }, { "topic": "drop", "day": 4, "good": true }], "today": 9 })
        }
        "lesson" => json!({ "lesson": "drop" }),
        "drill" => json!({ "document": build, "scene": scene, "level": 3, "seed": 1 }),
        "measure" => json!({ "drill": { "document": build, "scene": scene, "level": 3, "seed": 1 }, "power": true, "setting": "volts",
            "probes": ["source+", "source-"], "meter": { "serial": 7, "amps_fuse": true, "milliamps_fuse": true, "zeroed": false } }),
        "answer" => json!({ "drill": { "document": build, "scene": scene, "level": 3, "seed": 1 }, "guess": null }),
        "journal" | "journal/due" | "journal/proven" | "journal/csv" | "journal/calendar" | "journal/svg" => {
            let ride = |day: u32, degrees: f64| {
                let id = format!("01900000-0000-7000-8000-0000000000{day:02}");
                json!({ "id": id, "at": format!("2026-05-{day:02}T18:40:00+02:00"), "kind": "ride", "data": { "minutes": { scene.clone(): 40 }, "temperature_c": degrees } })
            };
            json!({ "document": build, "events": [ride(2, 14.0), ride(9, 3.0)], "now": "2026-05-12T08:00:00+02:00", "chart": "temperature" })
        }
        "journal/said" => json!({ "document": build, "text": "ride 40 min, 3 °C", "now": "2026-05-12T08:00:00+02:00" }),
        "journal/pack" if build["source"]["kind"] != "battery" => return None,
        "journal/pack" => {
            let mut battery = build["source"].clone();
            battery.as_object_mut()?.remove("kind");
            json!({ "pack": "a", "battery": battery, "builds": [{ "document": build, "events": [] }], "now": "2026-05-12T08:00:00+02:00" })
        }
        "drawings" => json!({ "kind": build["vehicle"]["kind"], "variant": build["vehicle"]["variant"] }),
        "light" | "look" => json!({ "document": build, "scene": scene, "around": "village", "air": "rain" }),
        "make" => json!({ "document": build, "day": "2026-11-26", "now": 1200, "done": [{ "step": "fit", "at": 1190 }] }),
        "make/csv" => json!({ "of": { "document": build, "stock": { "cable tie": 80 } }, "table": "parts" }),
        "make/calendar" => json!({ "work": { "document": build, "day": "2026-11-26" }, "made": "20261126T120000Z" }),
        "csv" => json!({ "document": build, "table": "lights" }),
        _ => json!({ "document": build }),
    })
}

#[test]
fn every_question_is_answered_for_every_sample_build() {
    for operation in OPERATIONS {
        for build in builds() {
            let Some(request) = good(operation.name, &build) else { continue };
            let answer = ask(operation.name, request.to_string().as_bytes());
            let answer = answer.unwrap_or_else(|refusal| panic!("{} of {}: {}", operation.name, build["name"], refusal.detail));
            match operation.media {
                Media::Json => assert!(serde_json::from_slice::<Value>(&answer).is_ok(), "{}", operation.name),
                Media::Calendar => assert!(answer.starts_with(b"BEGIN:VCALENDAR\r\n"), "{}", operation.name),
                Media::Svg => assert!(answer.starts_with(b"<svg") && answer.ends_with(b"</svg>\n"), "{}", operation.name),
                Media::Text if operation.name.starts_with("show/") => {
                    assert!(answer.starts_with(b"/*") || answer.starts_with(b"#include") || answer.starts_with(b"{"), "{}", operation.name);
                }
                Media::Text => assert!(answer.starts_with(b"* ") && answer.ends_with(b".end\n") || answer.starts_with(b"digraph "), "{}", operation.name),
                Media::Csv => {
                    let table = String::from_utf8(answer).expect("UTF-8");
                    let columns = table.lines().next().expect("names").matches(',').count();
                    assert!(columns > 1 && table.lines().count() > 1, "{}: {table}", operation.name);
                }
            }
        }
    }
}

#[test]
fn what_is_asked_while_a_hand_moves_is_quick() {
    for name in ["verdict", "solve", "apply", "add", "remove", "probe", "pinch", "show/frames", "label"] {
        let known = operation(name).expect(name);
        assert!(known.is_quick(b"{}") && !known.is_quick(&vec![b' '; 200 * 1024]), "{name}");
    }
    for name in ["mend", "remedies", "report", "tables", "diagnose", "journal"] {
        let known = operation(name).expect(name);
        assert!(known.pace == Pace::Search && !known.is_quick(b"{}"), "{name}");
    }
}

#[test]
fn the_page_knows_every_question_with_its_pace_and_media() {
    let list = as_typescript();
    let lines: Vec<String> = list.lines().filter(|line| line.contains("pace: ") && line.ends_with(" },")).map(|line| line.replace('"', "")).collect();
    assert_eq!(lines.len(), OPERATIONS.len());
    for (line, known) in lines.iter().zip(OPERATIONS) {
        assert!(line.starts_with(&format!("  {}: {{ pace: ", known.name)) && line.contains(known.media.of()), "{line}");
        assert!(!known.about.trim().is_empty() && known.about.trim().ends_with('.'), "{}", known.name);
    }
}

#[test]
fn a_question_goes_by_one_name() {
    let names: BTreeSet<&str> = OPERATIONS.iter().map(|known| known.name).collect();
    assert_eq!(names.len(), OPERATIONS.len());
    assert!(names.iter().all(|name| operation(name).is_some_and(|known| known.name == *name)));
}

#[test]
fn what_is_wrong_is_said_with_its_place_and_remedy() {
    let trike = builds().pop().expect("a build");
    let mut spoiled = trike.clone();
    spoiled["source"]["series"] = json!(0);
    let mut heavy = trike.clone();
    heavy["source"]["resistance_ohm"] = json!(1e9);
    let table: Vec<(&str, Value, u16, &str)> = vec![
        ("banana", json!({}), 422, "not a question known here"),
        ("solve", json!({}), 400, "missing field `document`"),
        ("solve", json!({ "document": spoiled }), 422, "/source/series"),
        ("solve", json!({ "document": trike, "state": "banana" }), 422, "not a state known here"),
        ("probe", json!({ "document": trike, "scene": text(&trike, "/scenes/0/id"), "faults": ["open@nowhere:to+"] }), 422, "there is no feed `nowhere`"),
        ("correct", json!({ "document": trike, "read": [{ "check": "rest", "value": 40 }] }), 422, "Take at least 3"),
        ("pinch", json!({ "document": trike, "feed": "nowhere", "at": 0.5 }), 422, "there is no feed `nowhere`"),
        ("pinch", json!({ "document": trike, "feed": text(&trike, "/lights/0/id"), "at": 2 }), 422, "Give 0 at the supply"),
        ("diagnose", json!({ "document": trike, "scene": text(&trike, "/scenes/0/id"), "saw": [{ "symptom": "banana" }] }), 422, "not a symptom known here"),
        ("diagnose", json!({ "document": trike, "scene": text(&trike, "/scenes/0/id"), "worked": ["nowhere"] }), 422, "There is no light `nowhere`"),
        (
            "diagnose",
            json!({ "document": trike, "scene": text(&trike, "/scenes/0/id"), "read": [{ "setting": "volts", "probes": ["source+", "source-"], "value": null }] }),
            422,
            "only ohms and the diode test read open",
        ),
        ("show", json!({ "document": trike, "scene": text(&trike, "/scenes/0/id"), "inputs": { "banana": 1 } }), 422, "`banana` is not an input"),
        ("show", json!({ "document": trike, "scene": text(&trike, "/scenes/0/id"), "inputs": { "turn": "up" } }), 422, "left, off, right"),
        ("show/frames", json!({ "document": trike, "scene": text(&trike, "/scenes/0/id"), "step_s": 0 }), 422, "Give the time from frame to frame"),
        ("show/frames", json!({ "document": trike, "scene": text(&trike, "/scenes/0/id"), "frames": 0 }), 422, "Ask for 1 to"),
        ("show/frames", json!({ "document": trike, "scene": text(&trike, "/scenes/0/id"), "from_s": -1 }), 422, "before it begins"),
        ("show/sort", json!({ "document": trike, "output": "brain/D2" }), 422, "not a data output"),
        ("journal", json!({ "document": trike, "events": [], "now": "today" }), 422, "2026-05-02T18:40:00+02:00"),
        ("journal", json!({ "document": trike, "events": [{ "kind": "ride" }], "now": "2026-05-12T08:00:00Z" }), 422, "/events/0/id"),
        ("drawings", json!({ "kind": "bicycle", "variant": "tank" }), 422, "`tank` is not a form of this vehicle. Name one of trike"),
        ("light", json!({ "document": trike, "scene": "moon" }), 422, "There is no scene `moon`"),
        ("look", json!({ "document": trike, "around": "moon" }), 422, "dark"),
        ("choose", json!({ "document": trike, "question": { "kind": "looks", "light": "tail", "looks": 2.0 } }), 422, "how bright it should look"),
        ("journal/said", json!({ "document": trike, "text": "fly 3 min", "now": "2026-05-12T08:00:00Z" }), 422, "`fly` is not a way to begin"),
        ("journal/svg", json!({ "document": trike, "events": [], "now": "2026-05-12T08:00:00Z", "chart": "charge" }), 422, "nothing to draw yet"),
        ("journal/pack", json!({ "pack": "a", "battery": { "chemistry": "li_ion" }, "builds": [], "now": "2026-05-12T08:00:00Z" }), 422, "series"),
        ("drill", json!({ "document": trike, "scene": text(&trike, "/scenes/0/id"), "level": 9, "seed": 1 }), 422, "Give 1 to 6"),
        ("make", json!({ "document": trike, "day": "2026-02-30" }), 422, "Write it as 2026-11-27"),
        ("netlist", json!({ "document": trike, "scene": "nap" }), 422, "Name one"),
        ("circuit", json!({ "document": trike, "circuit": "flasher" }), 422, "It has none"),
        ("pins", json!({ "pins": 1, "logic_v": 3.3, "vf_v": 2.0, "pin_max_a": 0.02, "ohm": 50.0 }), 422, "Give 2 to 12"),
        ("pins", json!({ "pins": 3, "logic_v": 3.3, "vf_v": 2.0, "pin_max_a": 0.02, "ohm": 50.0, "leds": 7 }), 422, "which carry 6"),
        ("netlist", json!({ "document": trike, "scene": trike["scenes"][0]["id"], "state": "rail" }), 422, "state"),
        ("shopping", json!({ "document": trike, "stock": { "cable tie": -1 } }), 422, "Give 0 or more"),
        ("make/csv", json!({ "of": { "document": trike }, "table": "banana" }), 422, "Name `steps`, `cuts`, `parts` or `fit`"),
        ("lesson", json!({ "lesson": "alchemy" }), 422, "there is no lesson `alchemy`"),
        ("netlist", json!({ "document": heavy, "scene": heavy["scenes"][0]["id"], "state": "half" }), 422, "Give it a supply that can carry it"),
        ("apply", json!({ "document": trike, "changes": [{ "op": "remove", "path": "/lights/9" }] }), 422, "take the change from a fresh report"),
        ("remove", json!({ "document": trike, "part": { "kind": "light", "id": "nobody" } }), 422, "name one of its own"),
        ("add", json!({ "document": trike, "part": { "kind": "junction", "from": "nowhere" } }), 422, "not a supplier"),
        ("choose", json!({ "document": trike, "question": { "kind": "wire", "feed": "nobody" } }), 422, "nobody"),
        ("discharge", json!({ "document": trike, "scene": "never" }), 422, "not a scene in this build"),
        ("csv", json!({ "document": trike, "table": "banana" }), 422, "It has:"),
        ("label", json!({ "text": "hello" }), 422, "Type what is printed"),
        ("designs", json!({ "wish": { "format": "orthavis.wish/1" } }), 422, "lights"),
        ("night", json!({ "document": trike, "from": "moon", "sky": "street", "wide": 64, "high": 36 }), 422, "beside"),
    ];
    for (name, request, status, words) in table {
        let refusal = ask(name, request.to_string().as_bytes()).expect_err(name);
        assert_eq!(refusal.status, status, "{name}: {}", refusal.detail);
        assert!(refusal.detail.contains(words), "{name}: {}", refusal.detail);
        assert!(!refusal.title.is_empty() && !refusal.kind.is_empty());
    }
    let refusal = ask("solve", br#"{"document": {"format""#).expect_err("half a request");
    assert_eq!((refusal.status, refusal.kind), (400, "request"));
    let repeated = ask("report", br#"{"document": {"format": "orthavis.build/1", "format": "orthavis.build/1"}}"#).expect_err("said twice");
    assert!(repeated.detail.contains("twice"), "{}", repeated.detail);
}

#[test]
fn a_question_that_takes_too_much_is_refused_and_one_that_nobody_waits_for_ends() {
    let request = good("report", &builds()[0]).expect("a request").to_string();
    let within = |budget| budget::run(Some(budget), || ask("report", request.as_bytes()));
    assert_eq!(within(Budget::new(100)).expect_err("too much").kind, "too-large");
    let called_off = Budget::new(budget::USUAL);
    called_off.call_off();
    assert_eq!(within(called_off).expect_err("called off").status, 503);
    assert!(within(Budget::new(budget::USUAL)).is_ok());
}
