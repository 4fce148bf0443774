//! Events are read strictly, and go out and come in equal.

use orthavis_model::journal::{Event, EventKind, from_csv, from_lines, parse_event, read_csv, read_lines, to_csv, to_lines};
use proptest::prelude::*;
use serde_json::{Value, json};

const ID: &str = "01900000-0000-7000-8000-000000000001";

fn ride() -> Value {
    json!({ "id": ID, "at": "2026-05-02T18:40:00+02:00", "kind": "ride", "data": { "minutes": 40, "outside_c": 3 } })
}

#[test]
fn an_event_is_read_as_it_was_written() {
    let event = parse_event(&ride()).expect("an event");
    assert_eq!((event.kind, event.replaces.as_deref()), (EventKind::Ride, None));
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
        kind: EventKind::WORDS[kind].1,
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
