//! What a person types as they would say it.

use orthavis_model::demo::BUILDS;
use orthavis_model::document::{Build, parse};
use orthavis_model::journal::{EventKind, parse_event};
use orthavis_model::moment::Moment;
use orthavis_use::said::said;
use orthavis_use::told::{What, told};
use proptest::prelude::*;
use serde_json::{Value, json};

fn now() -> Moment {
    Moment::parse("2026-05-12T20:15:00+02:00").expect("there")
}

/// The delivery trike: scenes `parade` and others, minutes of an outing given.
fn trike() -> Build {
    let mut build = parse(BUILDS[7]).expect("there");
    build.scenes.truncate(2);
    build.scenes[0].id = "ride".into();
    build.scenes[0].name = "Riding home".into();
    build.scenes[1].id = "parade".into();
    build.scenes[1].name = "Parade".into();
    build.usage.minutes = [("ride".to_owned(), 30.0), ("parade".to_owned(), 10.0)].into();
    build
}

#[test]
fn lines_are_read_as_they_are_meant() {
    use EventKind::{Charge, Fault, Note, Part, Reading, Ride};
    let table: &[(&str, EventKind, Value, &str)] = &[
        // A time alone is spread as the plan's outing has it.
        ("ride 40 min, 3 °C", Ride, json!({ "minutes": { "ride": 30.0, "parade": 10.0 }, "temperature_c": 3.0 }), "2026-05-12T20:15"),
        ("flew 40 min, 3 °C", Ride, json!({ "minutes": { "ride": 30.0, "parade": 10.0 }, "temperature_c": 3.0 }), "2026-05-12T20:15"),
        ("rode 1 h 20 min", Ride, json!({ "minutes": { "ride": 60.0, "parade": 20.0 } }), "2026-05-12T20:15"),
        ("ride parade 25 min, 12 km", Ride, json!({ "minutes": { "parade": 25.0 }, "distance_km": 12.0 }), "2026-05-12T20:15"),
        ("ride 25 min parade, riding home 15 min", Ride, json!({ "minutes": { "parade": 25.0, "ride": 15.0 } }), "2026-05-12T20:15"),
        ("ride 40 min, parade", Ride, json!({ "minutes": { "parade": 40.0 } }), "2026-05-12T20:15"),
        (
            "Ride 40min, -2°C, 41.0 to 38,5 V",
            Ride,
            json!({ "minutes": { "ride": 30.0, "parade": 10.0 }, "temperature_c": -2.0, "from_v": 41.0, "to_v": 38.5 }),
            "2026-05-12T20:15",
        ),
        ("out 40 min yesterday at 18:40", Ride, json!({ "minutes": { "ride": 30.0, "parade": 10.0 } }), "2026-05-11T18:40"),
        ("out 40 min on 2026-05-01", Ride, json!({ "minutes": { "ride": 30.0, "parade": 10.0 } }), "2026-05-01T20:15"),
        (
            "ride 20 min, 5 miles, 41 °F",
            Ride,
            json!({ "minutes": { "ride": 15.0, "parade": 5.0 }, "distance_km": 8.04672, "temperature_c": 5.0 }),
            "2026-05-12T20:15",
        ),
        ("charged 11.9 to 14.4, 6.2 Ah", Charge, json!({ "from_v": 11.9, "to_v": 14.4, "ah": 6.2 }), "2026-05-12T20:15"),
        ("charged 11,9→14,4, 6,2 Ah, 3 h", Charge, json!({ "from_v": 11.9, "to_v": 14.4, "ah": 6.2, "minutes": 180.0 }), "2026-05-12T20:15"),
        ("charge from 36.5 V to 42 V, 250 Wh, 12 °C", Charge, json!({ "from_v": 36.5, "to_v": 42.0, "wh": 250.0, "temperature_c": 12.0 }), "2026-05-12T20:15"),
        ("charged 36.5-42", Charge, json!({ "from_v": 36.5, "to_v": 42.0 }), "2026-05-12T20:15"),
        ("charged", Charge, json!({}), "2026-05-12T20:15"),
        ("charged 2200 mAh", Charge, json!({ "ah": 2.2 }), "2026-05-12T20:15"),
        ("rest 40.1 V", Reading, json!({ "resting_v": 40.1 }), "2026-05-12T20:15"),
        (
            "rest 40.1 V, parade 39.2 V, 8 °C",
            Reading,
            json!({ "resting_v": 40.1, "value": 39.2, "quantity": "volts", "unit": "V", "scene": "parade", "temperature_c": 8.0 }),
            "2026-05-12T20:15",
        ),
        ("replaced the battery", Part, json!({ "part": "battery", "change": "replaced" }), "2026-05-12T20:15"),
        ("checked fuses", Part, json!({ "part": "fuses", "change": "looked" }), "2026-05-12T20:15"),
        ("mended tail plug: crimped anew", Fault, json!({ "was": "tail plug", "words": "tail plug", "mended": "crimped anew" }), "2026-05-12T20:15"),
        ("note: left the charger at Nan's, 3 times", Note, json!({ "text": "left the charger at Nan's, 3 times" }), "2026-05-12T20:15"),
    ];
    for (line, kind, data, at) in table {
        let read = said(&trike(), line, now()).unwrap_or_else(|unsaid| panic!("{line}: {unsaid:?}"));
        assert_eq!((read.happened.kind(), &Value::Object(read.happened.data())), (*kind, data), "{line}");
        assert!(read.at.starts_with(at), "{line}: {}", read.at);
        // What was understood is an event that the journal takes.
        let event = json!({ "id": "01900000-0000-7000-8000-000000000001", "at": read.at, "kind": read.happened.kind(), "data": read.happened.data() });
        assert!(parse_event(&event).is_ok(), "{line}");
        assert!(!read.words.is_empty(), "{line}");
    }
}

#[test]
fn a_timer_ends_when_it_says() {
    let read = said(&trike(), "timer silicone 24 h", now()).expect("there");
    let event =
        parse_event(&json!({ "id": "01900000-0000-7000-8000-000000000001", "at": read.at, "kind": "timer", "data": read.happened.data() })).expect("there");
    let events = [event];
    let What::Timer { what, until } = &told(&events)[0].what else { panic!("no timer") };
    assert_eq!((what.as_str(), until.text().as_str()), ("silicone", "2026-05-13T20:15:00+02:00"));
}

#[test]
fn what_is_not_understood_is_said_with_a_way_out() {
    let table = [
        ("", "nothing to read", "ride 40 min"),
        ("40 min", "begins with a figure", "Begin with what happened"),
        ("danced 3 min", "`danced` is not a way to begin", "`ride`"),
        ("ride", "how long", "ride 40 min"),
        ("ride 40 parsecs", "`40 parsecs` has no unit", "min, h, km"),
        ("ride parade", "how long parade was lit", "minutes"),
        ("ride 40 min moonwalk", "`moonwalk` is not understood", "Riding home, Parade"),
        ("ride 40 min, 3 Ah", "A ride has voltages", "charged 6.2 Ah"),
        ("charged 1 to 2 to 3", "third voltage", "from and to"),
        ("charged parade 3 h", "a charge has none", "Leave it out"),
        ("rest", "what the meter showed", "rest 12.6 V"),
        ("rest under load 12.1 V", "one voltage", "at rest first"),
        ("replaced", "what was replaced", "replaced tail"),
        ("mended", "what broke", "crimped anew"),
        ("note", "says nothing", "after `note`"),
        ("timer silicone", "how long to wait", "24 h"),
        ("timer silicone 3 moons", "is not a time", "min, h or days"),
    ];
    for (line, problem, remedy) in table {
        let unsaid = said(&trike(), line, now()).expect_err(line);
        assert!(unsaid.problem.contains(problem) && unsaid.remedy.contains(remedy), "{line}: {unsaid:?}");
    }
    assert!(said(&trike(), &"ride ".repeat(200), now()).expect_err("refused").problem.contains("too long"));
}

proptest! {
    #[test]
    fn no_line_breaks_it(line in ".{0,80}") {
        let _ = said(&trike(), &line, now());
    }

    #[test]
    fn no_words_of_its_own_break_it(words in proptest::collection::vec(prop::sample::select(vec!["ride", "charged", "rest", "40", "3,5", "-2", "min", "°C", "V", "to", ",", "parade", "Ah", "18:40", "2026-02-30", "timer", "1e9", "→"]), 0..12)) {
        if let Ok(read) = said(&trike(), &words.join(" "), now()) {
            prop_assert!(Moment::parse(&read.at).is_some());
        }
    }

    #[test]
    fn minutes_of_scenes_are_those_that_were_said(minutes in 1u32..600, parade in 1u32..600) {
        let read = said(&trike(), &format!("ride {minutes} min riding home, {parade} min parade"), now()).expect("there");
        prop_assert_eq!(&read.happened.data()["minutes"]["ride"], &json!(f64::from(minutes)));
        prop_assert_eq!(&read.happened.data()["minutes"]["parade"], &json!(f64::from(parade)));
    }
}
