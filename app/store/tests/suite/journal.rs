//! The journal keeps what it is sent, once, in the order in which it happened.

use orthavis_core::document::{Build, parse};
use orthavis_core::journal::{Event, parse_event};
use orthavis_store::{Appended, Store, StoreError, Wanted};
use serde_json::json;
use tempfile::TempDir;

fn build() -> Build {
    parse(include_str!("../../../../core/testing/cases/trike-arrays.json")).expect("a sound document")
}

fn event(number: usize, at: &str, kind: &str) -> Event {
    let id = format!("01900000-0000-7000-8000-{number:012x}");
    parse_event(&json!({ "id": id, "at": at, "kind": kind, "data": { "minutes": number } })).expect("an event")
}

fn numbers(events: &[Event]) -> Vec<u64> {
    events.iter().map(|event| event.data["minutes"].as_u64().expect("a number")).collect()
}

#[tokio::test]
async fn a_batch_sent_twice_is_kept_once() {
    let folder = TempDir::new().expect("folder");
    let store = Store::open(&folder.path().join("builds.db")).expect("store");
    let id = store.create(build()).await.expect("created").id;
    let batch = vec![event(1, "2026-05-02T18:40:00+02:00", "ride"), event(2, "2026-05-02T16:50:00Z", "charge")];
    assert_eq!(store.append_events(id, batch.clone()).await.expect("appended"), Appended { kept: 2, known: 0 });
    let more = [batch.clone(), vec![event(3, "2026-05-01T00:00:00Z", "note")]].concat();
    assert_eq!(store.append_events(id, more).await.expect("appended"), Appended { kept: 1, known: 2 });
    // By the moment, whatever the offset says: 18:40 at +02:00 is before 16:50 in UTC.
    assert_eq!(numbers(&store.all_events(id).await.expect("all")), [3, 1, 2]);
    // A copy of the build has a journal of its own.
    let other = store.duplicate(id).await.expect("copied").id;
    assert!(store.all_events(other).await.expect("all").is_empty());
    assert_eq!(store.append_events(other, batch).await.expect("appended").kept, 2);
}

#[tokio::test]
async fn what_cannot_be_is_refused_whole() {
    let folder = TempDir::new().expect("folder");
    let store = Store::open(&folder.path().join("builds.db")).expect("store");
    let id = store.create(build()).await.expect("created").id;
    let good = event(1, "2026-05-02T18:40:00+02:00", "ride");
    store.append_events(id, vec![good.clone()]).await.expect("appended");
    let mut other = good.clone();
    other.data.insert("minutes".into(), json!(99));
    let new = event(2, "2026-05-03T00:00:00Z", "ride");
    assert!(matches!(store.append_events(id, vec![new.clone(), other]).await, Err(StoreError::Differs(id)) if id == good.id));
    let mut never = event(3, "2026-12-31T00:00:00Z", "ride");
    never.at = "2026-13-41T00:00:00Z".into();
    assert!(matches!(store.append_events(id, vec![new, never]).await, Err(StoreError::Moment(_))));
    assert_eq!(store.all_events(id).await.expect("all"), [good]);
    assert!(matches!(store.append_events(99, vec![]).await, Err(StoreError::NotFound)));
    assert!(matches!(store.events(99, Wanted::default(), 10).await, Err(StoreError::NotFound)));
}

#[tokio::test]
async fn pages_follow_each_other_without_gap_or_overlap() {
    let folder = TempDir::new().expect("folder");
    let store = Store::open(&folder.path().join("builds.db")).expect("store");
    let id = store.create(build()).await.expect("created").id;
    // Several at one moment: the page must not break among them.
    let at = |number: usize| format!("2026-05-{:02}T12:00:00Z", number / 5 + 1);
    let all: Vec<Event> = (0..50).map(|number| event(number, &at(number), if number.is_multiple_of(3) { "ride" } else { "charge" })).collect();
    store.append_events(id, all.iter().rev().cloned().collect()).await.expect("appended");
    for limit in [1, 3, 7, 50, 60] {
        let (mut wanted, mut read) = (Wanted::default(), Vec::new());
        loop {
            let page = store.events(id, wanted.clone(), limit).await.expect("a page");
            assert!(page.events.len() <= limit as usize);
            read.extend(page.events);
            match page.next {
                Some(next) => wanted.after = Some(next),
                None => break,
            }
        }
        assert_eq!(read, all, "{limit} a page");
    }
    let some = Wanted { kind: Some("ride".into()), from: Some("2026-05-03T12:00:00Z".into()), to: Some("2026-05-05T14:00:00+02:00".into()), after: None };
    assert_eq!(numbers(&store.events(id, some, 50).await.expect("some").events), [12, 15, 18]);
}

#[tokio::test]
async fn a_deleted_build_keeps_its_journal() {
    let folder = TempDir::new().expect("folder");
    let store = Store::open(&folder.path().join("builds.db")).expect("store");
    let id = store.create(build()).await.expect("created").id;
    store.set_deleted(id, None, true).await.expect("deleted");
    // What a phone wrote while it was away arrives late, and is not lost.
    store.append_events(id, vec![event(1, "2026-05-02T18:40:00+02:00", "ride")]).await.expect("appended");
    store.set_deleted(id, None, false).await.expect("back");
    assert_eq!(numbers(&store.all_events(id).await.expect("all")), [1]);
}

#[tokio::test]
#[ignore = "measures times, which a busy machine spoils; run by `cargo xtask deep`"]
async fn a_page_of_a_long_journal_comes_at_once() {
    let folder = TempDir::new().expect("folder");
    let store = Store::open(&folder.path().join("builds.db")).expect("store");
    let id = store.create(build()).await.expect("created").id;
    let at = |number: usize| format!("20{:02}-{:02}-{:02}T12:00:00Z", 10 + number / 10_000, number % 12 + 1, number % 28 + 1);
    for batch in 0..10 {
        let events = (batch * 10_000..(batch + 1) * 10_000)
            .map(|number| event(number, &at(number), if number.is_multiple_of(50) { "charge" } else { "ride" }))
            .collect();
        store.append_events(id, events).await.expect("appended");
    }
    let mut slowest = std::time::Duration::ZERO;
    let middle = Some("2015-06-01T00:00:00Z".to_owned());
    for wanted in
        [Wanted::default(), Wanted { from: middle.clone(), ..Wanted::default() }, Wanted { kind: Some("charge".into()), from: middle, ..Wanted::default() }]
    {
        for _ in 0..20 {
            let started = std::time::Instant::now();
            let page = store.events(id, wanted.clone(), 200).await.expect("a page");
            slowest = slowest.max(started.elapsed());
            assert_eq!(page.events.len(), 200);
        }
    }
    println!("a page of 200 among 100,000 events: {slowest:?} at most");
    assert!(slowest.as_millis() < 20, "{slowest:?}");
}
