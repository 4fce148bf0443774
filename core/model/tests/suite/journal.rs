//! Events are read strictly, and go out and come in equal.

use orthavis_model::journal::{Event, EventKind, Happened, Kind, from_csv, from_lines, parse_event, read_csv, read_event, read_lines, to_csv, to_lines};
use proptest::prelude::*;
use serde_json::{Value, json};

const ID: &str = "01900000-0000-7000-8000-000000000001";

fn ride() -> Value {
    json!({ "id": ID, "at": "2026-05-02T18:40:00+02:00", "kind": "ride", "data": { "minutes": 40, "outside_c": 3 } })
}

#[test]
fn an_event_is_read_as_it_was_written() {
    let event = parse_event(&ride()).expect("an event");
    assert_eq!((&event.kind, event.replaces.as_deref()), (&EventKind::Ride.into(), None));
    assert_eq!(serde_json::to_value(&event).expect("JSON"), ride());
}

#[test]
fn faults_name_the_field_and_the_remedy() {
    let spoiled: [(&str, Value, &str); 16] = [
        ("at", json!("2026-02-30T18:40:00Z"), "/at"),
        ("build", json!("three"), "/build"),
        ("id", json!("1"), "/id"),
        ("id", json!("01900000-0000-4000-8000-000000000001"), "/id"),
        ("id", json!("01900000-0000-7000-c000-000000000001"), "/id"),
        ("id", json!("01900000-0000-7000-8000-00000000000G"), "/id"),
        ("at", json!("yesterday"), "/at"),
        ("at", json!("now"), "/at"),
        ("at", json!("2026-05-02T18:40:00"), "/at"),
        ("at", json!("2026-05-02 18:40:00Z"), "/at"),
        ("at", json!(1_770_000_000), "/at"),
        ("kind", json!("party"), "/kind"),
        ("data", json!([1]), "/data"),
        ("data", json!({ "note": "x".repeat(70_000) }), "/data"),
        ("replaces", json!(ID), "/replaces"),
        ("mood", json!("good"), "/mood"),
    ];
    for (field, value, pointer) in spoiled {
        let mut event = ride();
        event[field] = value;
        let error = parse_event(&event).expect_err(field);
        assert_eq!(error.faults.iter().map(|fault| fault.pointer.as_str()).collect::<Vec<_>>(), [pointer], "{event}");
        assert!(!error.faults[0].remedy.is_empty());
    }
    assert!(parse_event(&json!("ride")).is_err());
    for at in ["2026-05-02T18:40:00Z", "2026-05-02T18:40:00.25-11:30"] {
        let mut event = ride();
        event["at"] = json!(at);
        assert!(parse_event(&event).is_ok(), "{at}");
    }
}

#[test]
fn a_bad_line_is_named_by_its_number() {
    let text = format!("{}\n\n{{\"id\":1,\"id\":2}}\n{{\"kind\":\"ride\"}}\n", ride());
    let error = from_lines(&text).expect_err("two bad lines");
    let pointers: Vec<&str> = error.faults.iter().map(|fault| fault.pointer.as_str()).collect();
    assert_eq!(pointers, ["/2", "/3/id", "/3/at"]);
    assert!(from_csv("id,when\n1,2\n").expect_err("another head").faults[0].problem.contains("id, when"));
}

#[test]
fn good_lines_are_read_beside_bad_ones() {
    let other = ID.replace("01", "02");
    let text = format!("{}\nnot a line\n{}\n", ride(), ride().to_string().replace(ID, &other));
    let (good, bad) = read_lines(&text);
    let lines: Vec<(usize, &str)> = good.iter().map(|(line, event)| (*line, event.id.as_str())).collect();
    assert_eq!(lines, [(0, ID), (2, other.as_str())]);
    assert!(bad.iter().all(|fault| fault.pointer.starts_with("/1")) && !bad.is_empty());
    // A line of a table with a cell too few moves no number of those after it.
    let table = format!("id,at,kind,replaces,data\n{ID},2026-05-02T18:40:00Z,ride,,{{}}\n{ID},2026\n{other},2026-05-02T18:40:00Z,note,,{{}}\n");
    let (good, bad) = read_csv(&table).expect("a head");
    assert_eq!(good.iter().map(|(line, _)| *line).collect::<Vec<_>>(), [0, 2]);
    assert_eq!(bad.iter().map(|fault| fault.pointer.as_str()).collect::<Vec<_>>(), ["/1"]);
}

fn any_event() -> impl Strategy<Value = Event> {
    let text = "[ -~äµ\"\\\\,\n]{0,20}";
    let data = prop::collection::btree_map("[a-z]{1,6}", prop_oneof![text.prop_map(Value::from), any::<i32>().prop_map(Value::from)], 0..4);
    (any::<u64>(), 0..EventKind::WORDS.len(), data, any::<bool>()).prop_map(|(number, kind, data, replaces)| Event {
        build: None,
        id: format!("01900000-0000-7000-8000-{:012x}", number >> 16),
        at: format!("2026-{:02}-{:02}T{:02}:40:00+02:00", number % 12 + 1, number % 28 + 1, number % 24),
        kind: EventKind::WORDS[kind].1.into(),
        data: data.into_iter().collect(),
        replaces: replaces.then(|| "01900000-0000-7000-9000-000000000000".to_owned()),
    })
}

proptest! {
    #[test]
    fn events_go_out_and_come_in_equal(events in prop::collection::vec(any_event(), 0..20)) {
        prop_assert_eq!(&from_lines(&to_lines(&events)).expect("lines"), &events);
        prop_assert_eq!(&from_csv(&to_csv(&events)).expect("a table"), &events);
    }
}

/// What a newer version wrote comes in and goes out as it was, and is not written here by mistake.
#[test]
fn an_event_of_a_kind_from_tomorrow_is_kept_whole() {
    let mut event = ride();
    event["kind"] = "repaint".into();
    event["data"] = json!({ "coats": 2, "colour": { "rgb": [1, 2, 3] } });
    let read = read_event(&event).expect("kept");
    assert_eq!((read.kind.clone(), Happened::of(&read)), (Kind::Unknown("repaint".into()), None));
    assert_eq!(serde_json::to_value(&read).expect("json"), event);
    let events = vec![read];
    assert_eq!(from_lines(&to_lines(&events)).expect("lines"), events);
    assert_eq!(from_csv(&to_csv(&events)).expect("a table"), events);
    let refused = parse_event(&event).expect_err("not written here");
    assert_eq!(refused.faults[0].pointer, "/kind");
    for nonsense in ["", "Re Paint", "x".repeat(41).as_str()] {
        event["kind"] = nonsense.into();
        assert!(read_event(&event).is_err(), "{nonsense}");
    }
}

/// What is not said, and what cannot be read, is named; the rest of the event counts.
#[test]
fn what_an_event_lacks_is_known() {
    for (kind, data, unread, missing) in [
        ("ride", json!({ "minutes": 40, "temperature_c": 3 }), vec!["minutes"], vec![]),
        ("ride", json!({ "minutes": { "ride": "long" }, "began": "today" }), vec!["minutes", "began"], vec![]),
        ("ride", json!({}), vec![], vec!["minutes"]),
        ("charge", json!({ "ah": "6.2" }), vec!["ah"], vec![]),
        ("tick", json!({ "step": "fit", "state": "dun" }), vec!["state"], vec![]),
        ("tick", json!({ "state": "done", "colour": "red" }), vec![], vec!["step"]),
        ("timer", json!({ "what": "silicone", "until": "2026-05-13T20:15:00+02:00" }), vec![], vec![]),
        ("part", json!({ "part": null, "change": "looked" }), vec![], vec!["part"]),
        ("fault", json!({}), vec![], vec!["was"]),
        ("note", json!({ "text": 3 }), vec!["text"], vec![]),
        ("reading", json!({ "probes": "source+" }), vec!["probes"], vec![]),
        ("drill", json!({ "good": 1, "level": 2 }), vec!["good"], vec![]),
    ] {
        let mut event = ride();
        (event["kind"], event["data"]) = (kind.into(), data.clone());
        let event = parse_event(&event).expect("an event");
        let (happened, unclear) = Happened::of(&event).expect("a known kind");
        assert_eq!((unclear.unread, unclear.missing), (unread, missing), "{kind}: {data}");
        assert_eq!(event.kind, happened.kind());
        // What was written stays as it was.
        assert_eq!(Value::Object(event.data), data);
    }
}

/// Each kind, every field of it said: what is written of it is read back as it was.
#[test]
fn what_is_written_of_an_event_is_read_back() {
    let data = [
        ("tick", json!({ "step": "fit", "state": "wrong", "minutes": 12.0, "note": "too short" })),
        (
            "reading",
            json!({ "probes": ["tail:to+", "source-"], "check": "rest", "quantity": "volts", "value": 12.5, "unit": "V", "scene": "ride",
            "state": "full", "verdict": "fine", "resting_v": 12.6, "temperature_c": 8.0 }),
        ),
        (
            "ride",
            json!({ "minutes": { "ride": 40.0 }, "distance_km": 12.0, "temperature_c": 3.0, "from_v": 41.0, "to_v": 39.5, "began": "2026-05-02T18:00:00+02:00" }),
        ),
        ("charge", json!({ "from_v": 38.0, "to_v": 42.0, "ah": 6.2, "wh": 240.0, "minutes": 180.0, "temperature_c": 15.0 })),
        ("fault", json!({ "symptom": "tail: dark", "was": "open@tail:to+", "words": "A loose wire", "mended": "crimped anew" })),
        ("part", json!({ "part": "battery", "change": "fitted", "pack": "a" })),
        ("timer", json!({ "what": "silicone", "until": "2026-05-13T20:15:00+02:00" })),
        (
            "drill",
            json!({ "topic": "level-2", "lesson": "drop", "level": 2, "fault": "open@tail:to+", "right": true, "good": true, "checks": 4, "seconds": 80.0, "mistakes": ["A wrong answer"] }),
        ),
        ("note", json!({ "text": "dry", "photo": "jpeg" })),
    ];
    assert_eq!(data.len(), EventKind::WORDS.len(), "a kind without its line here");
    for (kind, data) in data {
        let mut event = ride();
        (event["kind"], event["data"]) = (kind.into(), data.clone());
        let event = parse_event(&event).expect("an event");
        let (happened, unclear) = Happened::of(&event).expect("a known kind");
        assert_eq!(unclear, Default::default(), "{kind}");
        assert_eq!(Value::Object(happened.data()), data, "{kind}: a field is not read, or not written");
        assert_eq!(serde_json::to_value(&happened).expect("json"), json!({ "kind": kind, "data": data }));
    }
}
