//! Everything that you have here from the page: a backup is looked at, restored in place, and everything in one text comes back equal.

use orthavis_core::document::{Build, parse};
use orthavis_core::journal::{Event, parse_event};
use orthavis_store::{Appended, Carried, MAX_PHOTO, Photo, Store, StoreError};
use serde_json::json;
use std::path::Path;
use tempfile::TempDir;

const EVENT: &str = "01900000-0000-7000-8000-000000000001";

fn build(name: &str) -> Build {
    let mut build = parse(include_str!("../../../../core/testing/cases/van-strips.json")).expect("a sound document");
    build.name = name.into();
    build
}

fn event(number: usize, kind: &str, data: serde_json::Value) -> Event {
    let id = format!("01900000-0000-7000-8000-{number:012x}");
    parse_event(&json!({ "id": id, "at": "2026-05-02T18:40:00+02:00", "kind": kind, "data": data })).expect("an event")
}

fn note(number: usize) -> Event {
    event(number, "note", json!({ "text": number }))
}

fn jpeg() -> Photo {
    Photo::of(vec![0xff, 0xd8, 0xff, 0xe0, 7, 7, 7]).expect("a picture")
}

async fn names(store: &Store) -> Vec<String> {
    store.list(None, 50, "1").await.expect("list").into_iter().map(|entry| entry.name).collect()
}

fn open(folder: &TempDir, name: &str) -> Store {
    Store::open(&folder.path().join(name)).expect("store")
}

fn left(folder: &Path) -> Vec<String> {
    let mut names: Vec<String> =
        std::fs::read_dir(folder).expect("folder").map(|entry| entry.expect("entry").file_name().to_string_lossy().into_owned()).collect();
    names.retain(|name| name.contains("passing") || name.contains(".part"));
    names
}

#[tokio::test]
async fn a_backup_is_looked_at_and_restored_while_the_workshop_is_open() {
    let folder = TempDir::new().expect("folder");
    let store = open(&folder, "builds.db");
    let one = store.create(build("one")).await.expect("created").id;
    let two = store.create(build("two")).await.expect("created").id;
    store.append_events(one, vec![note(1)]).await.expect("appended");
    store.keep_photo(one, EVENT.into(), jpeg()).await.expect("kept");
    let backup = store.backup().await.expect("backed up");
    // Nothing happened since.
    let looked = store.look(backup.clone()).await.expect("looked");
    assert!(!looked.newer && looked.builds.iter().all(|change| change.what == "same"), "{looked:?}");
    // One changes, one goes off the shelf, one comes.
    store.append_events(one, vec![note(2), note(3)]).await.expect("appended");
    store.set_deleted(two, None, true).await.expect("deleted");
    let three = store.create(build("three")).await.expect("created").id;
    let mut saved = store.open_build(three).await.expect("there");
    while saved.saved_at <= store.open_build(one).await.expect("there").saved_at {
        saved = store.save(three, saved.revision, build("three")).await.expect("saved");
    }
    let looked = store.look(backup.clone()).await.expect("looked");
    let changes: Vec<(&str, &str, (i64, i64))> = looked.builds.iter().map(|change| (change.name.as_str(), change.what, change.events)).collect();
    assert_eq!(changes, [("one", "changes", (3, 1)), ("three", "goes", (0, 0)), ("two", "comes", (0, 0))]);
    assert!(looked.newer);
    assert!(matches!(store.restore_backup(backup.clone(), false).await, Err(StoreError::Newer { .. })));
    assert_eq!(store.all_events(one).await.expect("all").len(), 3, "nothing was changed");
    let before: Vec<(i64, i64)> = store.list(None, 100, "").await.expect("the shelf").into_iter().map(|one| (one.id, one.revision)).collect();
    let kept = store.restore_backup(backup, true).await.expect("restored");
    for entry in store.list(None, 100, "").await.expect("the shelf") {
        assert!(before.iter().all(|(id, revision)| *id != entry.id || *revision < entry.revision), "revision {} again", entry.revision);
    }
    assert_eq!(names(&store).await, ["two", "one"]);
    assert_eq!(store.all_events(one).await.expect("all"), [note(1)]);
    assert_eq!(store.photo(one, EVENT.into()).await.expect("a picture"), jpeg());
    // The store goes on, and what was there is beside it, whole.
    store.append_events(one, vec![note(4)]).await.expect("appended");
    let before = Store::open(&kept).expect("what was kept");
    assert_eq!(before.all_events(one).await.expect("all").len(), 3);
    assert_eq!(left(folder.path()), Vec::<String>::new());
    drop(store);
    assert_eq!(open(&folder, "builds.db").all_events(one).await.expect("all"), [note(1), note(4)]);
}

#[tokio::test]
async fn what_is_no_backup_changes_nothing() {
    let folder = TempDir::new().expect("folder");
    let store = open(&folder, "builds.db");
    store.create(build("one")).await.expect("created");
    let mut torn = store.backup().await.expect("backed up");
    torn.truncate(torn.len() / 2);
    for bytes in [b"Dear aunt".to_vec(), torn] {
        assert!(store.look(bytes.clone()).await.is_err());
        assert!(store.restore_backup(bytes, true).await.is_err());
    }
    assert_eq!(names(&store).await, ["one"]);
    assert_eq!(left(folder.path()), Vec::<String>::new());
}

#[tokio::test]
async fn who_is_let_in_stays_let_in() {
    let folder = TempDir::new().expect("folder");
    let store = open(&folder, "builds.db");
    store.create(build("one")).await.expect("created");
    let backup = store.backup().await.expect("backed up");
    store.let_in("Phone".into(), [7; 32], 50).await.expect("let in");
    store.restore_backup(backup, true).await.expect("restored");
    assert_eq!(store.devices().await.expect("devices").len(), 1);
}

#[tokio::test]
async fn everything_in_one_text_comes_back_equal() {
    let folder = TempDir::new().expect("folder");
    let store = open(&folder, "builds.db");
    let one = store.create(build("one")).await.expect("created").id;
    let gone = store.create(build("gone")).await.expect("created").id;
    store.append_events(one, vec![note(1), event(2, "ride", json!({ "minutes": { "show": 40 } }))]).await.expect("appended");
    store.keep_photo(one, EVENT.into(), jpeg()).await.expect("kept");
    store.set_deleted(gone, None, true).await.expect("deleted");
    let mut part = orthavis_core::parts::library()[0].clone();
    part.id = "mine".into();
    store.keep_part(part).await.expect("kept");
    store.put_stock("cable tie".into(), 80.0).await.expect("kept");
    let text = |whole| serde_json::to_string(&whole).expect("JSON");
    let out = text(store.export_whole().await.expect("exported"));
    let new = open(&folder, "other.db");
    assert_eq!(new.import_whole(&out).await.expect("imported"), Carried { builds: 2, events: 2, parts: 1, known: 0 });
    assert_eq!(text(new.export_whole().await.expect("exported")), out);
    assert_eq!(new.import_whole(&out).await.expect("again"), Carried { builds: 0, events: 0, parts: 1, known: 2 });
    // A folder holds the same, pictures as files.
    let path = folder.path().join("out");
    orthavis_store::export_all(&folder.path().join("builds.db"), &path).expect("exported");
    assert_eq!(std::fs::read(path.join(format!("build-1.photo-{EVENT}.jpeg"))).expect("a picture"), jpeg().bytes);
    let third = open(&folder, "third.db");
    third.import_all(path).await.expect("imported");
    assert_eq!(text(third.export_whole().await.expect("exported")), out);
}

#[tokio::test]
async fn a_spoiled_text_changes_nothing_and_says_where() {
    let folder = TempDir::new().expect("folder");
    let store = open(&folder, "builds.db");
    store.create(build("one")).await.expect("created");
    let out = serde_json::to_string(&store.export_whole().await.expect("exported")).expect("JSON");
    let new = open(&folder, "other.db");
    for (from, to, problem) in [
        ("orthavis.workshop/1", "orthavis.workshop/9", "is not a format"),
        (r#""journal":[]"#, r#""journal":[{"id":1}]"#, "`one`"),
        (r#""stock":{}"#, r#""stock":{"clip":-1}"#, "clip"),
        (r#""deleted":false"#, r#""deleted":false,"photos":{"x":"AAAA"}"#, "`one`"),
        (r#""parts":[]"#, r#""parts":[{}]"#, "a part"),
        ("{", "", "the file"),
    ] {
        let spoiled = out.replacen(from, to, 1);
        assert_ne!(spoiled, out, "{from}");
        let error = new.import_whole(&spoiled).await.expect_err(from).to_string();
        assert!(error.contains(problem), "{from}: {error}");
        assert!(names(&new).await.is_empty(), "{from}");
    }
}

#[tokio::test]
async fn pictures_are_told_by_their_bytes() {
    let folder = TempDir::new().expect("folder");
    let store = open(&folder, "builds.db");
    let one = store.create(build("one")).await.expect("created").id;
    assert!(matches!(Photo::of(b"GIF89a".to_vec()), Err(StoreError::NoPhoto(_))));
    assert!(matches!(Photo::of(vec![0xff; MAX_PHOTO + 1]), Err(StoreError::NoPhoto(_))));
    assert_eq!(Photo::of(b"\x89PNG\r\n\x1a\n".to_vec()).expect("a picture").media, "image/png");
    assert_eq!(Photo::of(b"RIFF1234WEBP".to_vec()).expect("a picture").media, "image/webp");
    assert!(matches!(store.photo(one, EVENT.into()).await, Err(StoreError::NotFound)));
    assert!(matches!(store.keep_photo(99, EVENT.into(), jpeg()).await, Err(StoreError::NotFound)));
    for _ in 0..2 {
        store.keep_photo(one, EVENT.into(), jpeg()).await.expect("kept");
    }
    assert_eq!(store.photo(one, EVENT.into()).await.expect("a picture"), jpeg());
}

#[tokio::test]
async fn an_import_takes_what_is_good() {
    let folder = TempDir::new().expect("folder");
    let store = open(&folder, "builds.db");
    let one = store.create(build("one")).await.expect("created").id;
    store.append_events(one, vec![note(1)]).await.expect("appended");
    let mut other = note(1);
    other.data.insert("text".into(), json!("another"));
    let mut never = note(7);
    never.at = "2026-13-41T00:00:00Z".into();
    let mut same = note(1);
    same.build = Some(one);
    let (appended, bad) = store.import_events(one, vec![(0, same), (1, other), (2, never), (3, note(4))]).await.expect("imported");
    assert_eq!(appended, Appended { kept: 1, known: 1 });
    assert!(matches!(bad.as_slice(), [(1, StoreError::Differs(_)), (2, StoreError::Moment(_))]), "{bad:?}");
}

#[tokio::test]
async fn builds_of_a_pack_are_found() {
    let folder = TempDir::new().expect("folder");
    let store = open(&folder, "builds.db");
    let fitted = |number, pack: &str| event(number, "part", json!({ "part": "battery", "change": "fitted", "pack": pack }));
    let one = store.create(build("one")).await.expect("created").id;
    let two = store.create(build("two")).await.expect("created").id;
    store.append_events(one, vec![fitted(1, "mine"), note(2), event(3, "charge", json!({}))]).await.expect("appended");
    store.append_events(two, vec![fitted(1, "another")]).await.expect("appended");
    let lived = store.lived("mine".into()).await.expect("read");
    assert_eq!(lived.iter().map(|lived| (lived.id, lived.events.len())).collect::<Vec<_>>(), [(one, 2)]);
    assert!(store.lived("none".into()).await.expect("read").is_empty());
}
