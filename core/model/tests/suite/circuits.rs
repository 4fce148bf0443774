//! Small circuits and track power in a document: what is refused, with which remedy, and how they hang together.

use orthavis_model::document::{Build, CircuitKind, Consumer, Source, parse_value};
use orthavis_model::edit::free_id;
use orthavis_model::states::State;
use orthavis_model::topology::Topology;
use orthavis_testing::case;
use serde_json::{Value, json};

/// The trike with a timer between its converter and its tail.
fn flasher() -> Value {
    let mut document = case("trike-arrays").to_value();
    document["circuits"] = json!([{
        "id": "blinker", "kind": "timer_flasher", "drives": ["tail"], "feed": { "from": "twelve", "length_m": 0.2, "gauge": { "awg": 22 } },
        "parts": { "ra_ohm": 10000, "rb_ohm": 100000, "c_f": 1e-5, "timer": "cmos", "through": "npn", "base_ohm": 1000 }
    }]);
    document["lights"][1]["feeds"][0]["from"] = json!("blinker");
    document["scenes"][0]["lights"]["tail"] = json!({});
    document
}

fn with(change: impl FnOnce(&mut Value)) -> Result<Build, Vec<(String, String)>> {
    let mut document = flasher();
    change(&mut document);
    parse_value(&document).map_err(|error| error.faults.into_iter().map(|fault| (fault.pointer, format!("{}. {}", fault.problem, fault.remedy))).collect())
}

#[test]
fn what_cannot_be_soldered_is_refused_at_its_place() {
    type Change = (&'static str, Value);
    let set = |(pointer, value): Change| {
        with(|document| {
            let (parent, name) = pointer.rsplit_once('/').expect("a pointer");
            let parent = document.pointer_mut(parent).expect(pointer);
            match name.parse::<usize>() {
                Ok(index) => parent[index] = value,
                Err(_) => parent[name] = value,
            }
        })
    };
    let parts = |kind: &str, parts: Value| json!({ "id": "blinker", "kind": kind, "drives": ["tail"], "feed": { "from": "twelve", "length_m": 0.2, "gauge": { "awg": 22 } }, "parts": parts });
    let table: Vec<(Change, &str, &str)> = vec![
        (("/circuits/0/parts/ra_ohm", json!(null)), "/circuits/0/parts/ra_ohm", "Add `ra_ohm`"),
        (("/circuits/0/parts/ra_ohm", json!(0)), "/circuits/0/parts/ra_ohm", "above 0"),
        (("/circuits/0/parts/ra_ohm", json!(-5)), "/circuits/0/parts/ra_ohm", "0"),
        (("/circuits/0/parts/c_f", json!(0)), "/circuits/0/parts/c_f", "above 0"),
        (("/circuits/0/parts/c_f", json!(1e9)), "/circuits/0/parts/c_f", "100"),
        (("/circuits/0/parts/base_ohm", json!(null)), "/circuits/0/parts/base_ohm", "needs it"),
        (("/circuits/0/parts/timer", json!("clockwork")), "/circuits/0/parts/timer", "bipolar"),
        (("/circuits/0/parts/coil_h", json!(1.0)), "/circuits/0/parts/coil_h", ""),
        (("/circuits/0/parts/r1_ohm", json!(1000)), "/circuits/0/parts/r1_ohm", "Remove it; it belongs to `transistor_flasher`"),
        (("/circuits/0/parts/let_go_v", json!(7)), "/circuits/0/parts/let_go_v", "a `timer_flasher` has no `let_go_v`"),
        (("/circuits/0/parts/through", json!("coil")), "/circuits/0/parts/through", "`none`, `npn`, `mosfet`"),
        (("/circuits/0/kind", json!("siren")), "/circuits/0/kind", "timer_flasher"),
        (("/circuits/0/id", json!("twelve")), "/converters/0/id", "its own id"),
        (("/circuits/0/feed/from", json!("nobody")), "/circuits/0/feed/from", "a circuit"),
        (("/circuits/0/feed/from", json!("blinker")), "/circuits/0/feed/from", "feed it from elsewhere"),
        (("/circuits/0/drives", json!(["tail", "front"])), "/circuits/0/drives/1", "come from the circuit"),
        (("/circuits/0/drives", json!(["ghost"])), "/circuits/0/drives/0", "Name a light"),
        (("/circuits/0/drives", json!([])), "/lights/1/feeds/0/from", "among what the circuit drives"),
        (("/scenes/0/lights/tail", json!({ "duty": 0.5 })), "/scenes/0/lights/tail/duty", "Leave it out"),
        (("/circuits/0", parts("hold_up", json!({ "c_f": 0.001 }))), "/circuits/0/parts/charge_ohm", "Add `charge_ohm`"),
        (("/circuits/0", parts("hold_up", json!({ "c_f": 0.001, "charge_ohm": 22, "taps_ohm": [1000], "tap": 2 }))), "/circuits/0/parts/tap", "1 resistors"),
        (
            ("/circuits/0", parts("breakdown_flasher", json!({ "r_ohm": 1000, "c_f": 1e-4, "fire_v": 7, "let_go_v": 7 }))),
            "/circuits/0/parts/let_go_v",
            "less than `fire_v`",
        ),
        (("/circuits/0", parts("transistor_flasher", json!({ "r1_ohm": 1000, "r2_ohm": 1000, "c1_f": 1e-5 }))), "/circuits/0/parts/c2_f", "Add `c2_f`"),
        (("/circuits/0", parts("battery_gauge", json!({ "rs_ohm": 220, "rb_ohm": 1000, "rc_ohm": 470 }))), "/circuits/0/parts/led_good", "Add `led_good`"),
        (("/circuits/0", parts("switch", json!({ "through": "mosfet" }))), "/circuits/0/parts/base_ohm", "Add `base_ohm`"),
    ];
    for (change, pointer, words) in table {
        let named = format!("{change:?}");
        let faults = set(change).expect_err(&named);
        let there = faults
            .iter()
            .find(|(at, _)| at == pointer || (pointer == "/converters/0/id" && at.ends_with("/id")))
            .unwrap_or_else(|| panic!("{named}: {faults:?}"));
        assert!(there.1.contains(words), "{pointer}: {}", there.1);
    }
    // A gauge drives nothing: its LEDs are its own.
    let led = json!({ "vf_v": 2.0, "if_a": 0.02, "if_max_a": 0.03 });
    let own = json!({ "rs_ohm": 220, "rb_ohm": 1000, "rc_ohm": 470, "led_good": led, "led_low": led });
    let faults = set(("/circuits/0", parts("battery_gauge", own))).expect_err("drives");
    assert!(faults.iter().any(|(at, words)| at == "/circuits/0/drives" && words.contains("at most 0")), "{faults:?}");
}

#[test]
fn a_circuit_hangs_on_a_feed_and_lights_hang_on_it() {
    let build = with(|_| {}).expect("sound");
    assert_eq!(parse_value(&build.to_value()).expect("sound"), build);
    assert_eq!(build.circuits[0].kind(), CircuitKind::TimerFlasher);
    assert!(build.circuits[0].kind().flashes() && !CircuitKind::Switch.flashes());
    let feed = build.feed("blinker").expect("a feed");
    assert_eq!((feed.consumer, feed.consumer_id(&build)), (Consumer::Circuit(0), "blinker"));
    assert_eq!(build.feeds().last().map(|feed| feed.id.clone()), Some("blinker".to_owned()), "places of other feeds stay what they were");
    assert_eq!(build.feeds_from("blinker").map(|feed| feed.id).collect::<Vec<_>>(), ["tail"]);
    assert_eq!(Topology::of(&build).supplier(&build.lights[0].feeds[0]), "twelve", "a circuit passes on what it is fed");
    assert_eq!(free_id(&build, "blinker"), "blinker-2");
    assert!(build.part_ids().any(|id| id == "blinker"));
    assert!(case("trike-arrays").to_value().get("circuits").is_none(), "who has none has nothing written");
}

#[test]
fn a_track_has_contact_and_gaps() {
    let track = |gaps: Value| {
        with(|document| {
            document["source"] = json!({ "kind": "track", "wave": "digital", "voltage_v": 16, "max_current_a": 0.5, "gaps": gaps });
        })
    };
    let build = track(json!({ "every_s": 2, "length_s": 0.15 })).expect("sound");
    assert_eq!((build.states(), build.source.usual(), build.source.called()), (vec![State::Track], State::Track, "track"));
    assert_eq!((build.thevenin(State::Track), build.thevenin(State::Gap)), ((16.0, 0.0), (0.0, 0.0)));
    assert_eq!(build.source.max_current_a(), 0.5);
    assert!(matches!(&build.source, Source::Track(track) if track.frequency_hz == 50.0 && track.other_load_a == 0.0));
    assert!(track(json!(null)).is_ok(), "contact may never be lost");
    let faults = track(json!({ "every_s": 1, "length_s": 1.5 })).expect_err("longer than they are apart");
    assert!(faults[0].0 == "/source/gaps/length_s" && faults[0].1.contains("less than `every_s`"), "{faults:?}");
}
