//! What holds of any journal: on simulated years of every sample, and on what people do to their entries.

use orthavis_model::demo::BUILDS;
use orthavis_model::document::{Build, Source, parse};
use orthavis_model::journal::{Event, EventKind, parse_event};
use orthavis_model::moment::day_of;
use orthavis_model::moment::{DAY_S, Moment};
use orthavis_use::chart::svg;
use orthavis_use::course::charged;
use orthavis_use::needs::Needs;
use orthavis_use::remind::calendar;
use orthavis_use::told::{What, told};
use orthavis_use::view::{as_table, due, view};
use orthavis_use::year::{Truth, year};
use proptest::prelude::*;
use serde_json::{Value, json};
use std::collections::{BTreeMap, BTreeSet};

fn now() -> Moment {
    Moment::parse("2026-11-27T19:30:00+01:00").expect("there")
}

fn samples() -> Vec<Build> {
    BUILDS.iter().map(|text| parse(text).expect("a sample")).collect()
}

/// Every figure of a value, by its place.
fn figures(value: &Value, place: &str, out: &mut BTreeMap<String, f64>) {
    match value {
        Value::Object(map) => map.iter().for_each(|(key, value)| figures(value, &format!("{place}/{key}"), out)),
        Value::Array(all) => all.iter().enumerate().for_each(|(at, value)| figures(value, &format!("{place}/{at}"), out)),
        Value::Number(number) => {
            out.insert(place.to_owned(), number.as_f64().expect("finite"));
        }
        _ => {}
    }
}

fn correction(number: u32, of: &Event, data: Value) -> Event {
    let kind = serde_json::to_value(&of.kind).expect("a word");
    parse_event(&json!({ "id": format!("01900000-0000-7000-9000-{number:012x}"), "at": of.at, "kind": kind, "data": data, "replaces": of.id }))
        .expect("a correction")
}

#[test]
fn a_year_of_every_sample_says_figures_that_can_be() {
    for (seed, build) in samples().iter().enumerate() {
        let events = year(build, Truth::USUAL, seed as u64, now());
        let said = view(build, &events, now());
        let name = &build.name;
        // On a rail there is no charge to speak of.
        let battery = matches!(build.source, Source::Battery(_));
        assert_eq!((said.next.is_some(), said.health.is_some()), (battery, battery), "{name}");
        if let Some(needs) = Needs::of(build) {
            let read = told(&events);
            let (last, way) = charged(&needs, needs.battery.capacity_ah, &read, now());
            let last = last.unwrap_or_else(|| panic!("{name}: nothing is known of its charge"));
            for one in way.iter().chain([&last]) {
                assert!((0.0..=1.0).contains(&one.soc) && one.give > 0.0, "{name}: {one:?}");
            }
            assert!(way.windows(2).all(|pair| pair[0].at.s <= pair[1].at.s), "{name}: its way runs backwards");
        }
        // No figure is none: what cannot be told is left out, not written as nothing.
        let mut all = BTreeMap::new();
        figures(&serde_json::to_value(&said).expect("JSON"), "", &mut all);
        assert!(all.len() > 20 && all.values().all(|value| value.is_finite()), "{name}");
        // What is due comes soonest first, is the same wherever it is asked for, and has a reason.
        assert_eq!(said.reminders, due(build, &events, now()), "{name}");
        assert!(said.reminders.windows(2).all(|pair| pair[0].due <= pair[1].due), "{name}");
        for one in &said.reminders {
            let days = day_of(&one.due).unwrap_or_else(|| panic!("{name}: {}", one.due)) - now().day();
            assert!((one.in_days - days as f64).abs() < 1e-9 && !one.title.is_empty() && !one.why.is_empty(), "{name}: {one:?}");
        }
        assert_eq!(said.reminders.iter().map(|one| &one.id).collect::<BTreeSet<_>>().len(), said.reminders.len(), "{name}: two of one kind");
        // What wears is a share of something.
        for one in &said.wear {
            assert!(one.used >= 0.0 && one.look_at > 0.0 && one.life.is_none_or(|life| life >= one.look_at) && !one.look.is_empty(), "{name}: {one:?}");
        }
        // Charts go forward in time and are drawn.
        for chart in &said.charts {
            for series in &chart.series {
                assert!(series.points.windows(2).all(|pair| pair[0].0 <= pair[1].0), "{name}: {}", series.key);
                assert!(!series.label.is_empty() && !series.unit.is_empty(), "{name}: {}", series.key);
            }
            let (from, to) = ((now().s - 365 * DAY_S) as f64, now().s as f64);
            let drawn = svg(chart, &said.events, from, to);
            assert!(drawn.starts_with("<svg") && drawn.trim_end().ends_with("</svg>") && !drawn.contains("NaN"), "{name}: {}", chart.key);
        }
        // The table has a line for each entry that stands.
        let table = as_table(build, &events, now());
        assert_eq!(table.rows.len(), told(&events).len(), "{name}");
        assert!(table.rows.iter().all(|row| row.len() == table.columns.len()), "{name}");
        assert_eq!(said.events.len(), table.rows.len(), "{name}: one dot for each");
    }
}

#[test]
fn a_calendar_of_every_sample_is_one() {
    for (seed, build) in samples().iter().enumerate() {
        let events = year(build, Truth::USUAL, 40 + seed as u64, now());
        let all = due(build, &events, now());
        let text = calendar(&build.name, &all, now());
        let lines: Vec<&str> = text.split("\r\n").collect();
        assert!(lines.iter().all(|line| line.len() <= 75 && !line.contains('\n')), "{}", build.name);
        assert_eq!((lines[0], lines[lines.len() - 2], lines[lines.len() - 1]), ("BEGIN:VCALENDAR", "END:VCALENDAR", ""), "{}", build.name);
        let of = |name: &str| lines.iter().filter(|line| line.starts_with(name)).count();
        for name in ["BEGIN:VEVENT", "END:VEVENT", "UID:", "DTSTAMP:", "DTSTART", "DTEND", "SUMMARY:"] {
            assert_eq!(of(name), all.len(), "{}: {name}", build.name);
        }
        let ids: BTreeSet<&&str> = lines.iter().filter(|line| line.starts_with("UID:")).collect();
        assert_eq!(ids.len(), all.len(), "{}: two with one id", build.name);
        // Nothing is put into the past, where no calendar would remind of it.
        let today = now().date().replace('-', "");
        for start in lines.iter().filter_map(|line| line.strip_prefix("DTSTART;VALUE=DATE:")) {
            assert!(*start >= *today, "{}: {start}", build.name);
        }
    }
}

#[test]
fn what_is_struck_out_was_never_said() {
    for (seed, build) in samples().iter().enumerate() {
        let events = year(build, Truth::USUAL, 80 + seed as u64, now());
        // Strike every second outing: the journal says what it would say had they never been written.
        let rides: Vec<&Event> = events.iter().filter(|event| event.kind == EventKind::Ride).step_by(2).collect();
        let strikes = rides.iter().enumerate().map(|(number, event)| correction(number as u32, event, json!({ "struck": true })));
        let struck: Vec<Event> = events.iter().cloned().chain(strikes).collect();
        let left: Vec<Event> = events.iter().filter(|event| !rides.iter().any(|ride| ride.id == event.id)).cloned().collect();
        let (mut one, mut other) = (view(build, &struck, now()), view(build, &left, now()));
        // An entry that was struck out may still be asked about; nothing else may know it.
        (one.marks, other.marks) = (Vec::new(), Vec::new());
        assert_eq!(serde_json::to_value(&one).expect("JSON"), serde_json::to_value(&other).expect("JSON"), "{}", build.name);
    }
}

#[test]
fn a_correction_takes_the_place_of_what_it_corrects() {
    let build = &samples()[7];
    let events = year(build, Truth::USUAL, 5, now());
    let ride = events.iter().rev().find(|event| event.kind == EventKind::Ride).expect("an outing");
    let mut data = ride.data.clone();
    data.insert("distance_km".into(), json!(123.4));
    let with: Vec<Event> = events.iter().cloned().chain([correction(1, ride, Value::Object(data))]).collect();
    let (before, after) = (told(&events), told(&with));
    assert_eq!(before.len(), after.len(), "as many entries as before");
    let way = |all: &[orthavis_use::told::Told<'_>]| -> f64 {
        all.iter().filter_map(|one| if let What::Ride(ride) = &one.what { ride.distance_km } else { None }).sum()
    };
    let own = if let Some(What::Ride(ride)) = before.iter().find(|one| one.event.id == ride.id).map(|one| one.what.clone()) { ride.distance_km } else { None };
    assert!((way(&after) - way(&before) - 123.4 + own.unwrap_or(0.0)).abs() < 1e-9);
    // A correction of a correction stands alone.
    let again: Vec<Event> = with.iter().cloned().chain([correction(2, with.last().expect("one"), json!({ "minutes": {}, "distance_km": 1.0 }))]).collect();
    assert_eq!(told(&again).len(), before.len());
    assert!((way(&told(&again)) - way(&before) - 1.0 + own.unwrap_or(0.0)).abs() < 1e-9);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// An outing that is written down leaves less in the battery, and a charge never leaves less than it found.
    #[test]
    fn outings_take_and_charges_give(which in 0usize..8, seed in 0u64..200, minutes in 5.0f64..90.0, gain_v in 0.0f64..1.0) {
        let build = &samples()[which];
        let Some(needs) = Needs::of(build) else { return Ok(()) };
        let mut events = year(build, Truth::USUAL, seed, now());
        let capacity = needs.battery.capacity_ah;
        let soc = |events: &[Event]| charged(&needs, capacity, &told(events), now()).0.map(|one| one.soc);
        let before = soc(&events);
        let event = |number: u32, kind: &str, data: Value| {
            parse_event(&json!({ "id": format!("01900000-0000-7000-a000-{number:012x}"), "at": now().text(), "kind": kind, "data": data })).expect("an event")
        };
        let scene = build.scenes[0].id.clone();
        events.push(event(1, "ride", json!({ "minutes": { scene: minutes } })));
        let after = soc(&events);
        prop_assert!(after <= before, "{before:?} then {after:?}");
        // Written without a voltage, it is known a little less well.
        let to_v = needs.battery.emf_v(1.0);
        events.push(event(2, "charge", json!({ "to_v": to_v, "from_v": to_v - gain_v })));
        let full = soc(&events);
        prop_assert!(full >= after, "{after:?} then {full:?}");
    }

    /// The same year a day later says the same of what was, and reminds a day sooner.
    #[test]
    fn days_only_bring_what_is_due_nearer(which in 0usize..8, seed in 0u64..200, days in 1i64..20) {
        let build = &samples()[which];
        let events = year(build, Truth::USUAL, seed, now());
        let later = now().later(days * DAY_S);
        let (today, then) = (view(build, &events, now()), view(build, &events, later));
        prop_assert_eq!(today.events.len(), then.events.len());
        // What was measured stays; what is computed goes by what the pack is thought to hold on that day.
        let measured = |view: &orthavis_use::view::JournalView| view.last.iter().map(|one| (one.id.clone(), one.minutes, one.measured)).collect::<Vec<_>>();
        prop_assert_eq!(measured(&today), measured(&then));
        for one in today.reminders.iter().filter(|one| one.id.starts_with("wear:") || one.id.starts_with("timer:")) {
            if let Some(same) = then.reminders.iter().find(|other| other.id == one.id && other.due == one.due) {
                prop_assert!((same.in_days - one.in_days + days as f64).abs() < 1e-9, "{one:?} {same:?}");
            }
        }
    }
}
