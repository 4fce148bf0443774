//! Backups are whole, their way back loses nothing unasked, and a workshop in open formats comes back equal.

use orthavis_core::document::{Build, parse};
use orthavis_core::journal::{Event, parse_event};
use orthavis_store::{Carried, Owner, Store, StoreError, backup, export_all, restore};
use serde_json::json;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use tempfile::TempDir;

fn build(name: &str) -> Build {
    let mut build = parse(include_str!("../../../../core/testing/cases/van-strips.json")).expect("a sound document");
    build.name = name.into();
    build
}

fn event(number: usize) -> Event {
    let id = format!("01900000-0000-7000-8000-{number:012x}");
    parse_event(&json!({ "id": id, "at": "2026-05-02T18:40:00+02:00", "kind": "note", "data": { "text": "\"dry\", and\nwarm" } })).expect("an event")
}

fn paths(folder: &TempDir) -> (PathBuf, PathBuf) {
    (folder.path().join("builds.db"), folder.path().join("copy.db"))
}

async fn names(path: &Path) -> Vec<String> {
    let store = Store::open(path).expect("store");
    let mut names: Vec<String> = store.list(None, 50, "1").await.expect("list").into_iter().map(|entry| entry.name).collect();
    names.sort();
    names
}

#[tokio::test]
async fn a_backup_is_taken_while_the_workshop_is_open() {
    let folder = TempDir::new().expect("folder");
    let (path, copy) = paths(&folder);
    let store = Store::open(&path).expect("store");
    store.create(build("one")).await.expect("created");
    backup(&path, &copy).expect("backed up");
    store.create(build("two")).await.expect("still open");
    assert_eq!(names(&copy).await, ["one"]);
    assert!(matches!(backup(&path, &copy), Err(StoreError::Taken(_))), "never written over");
    assert!(matches!(backup(&folder.path().join("none.db"), &folder.path().join("b.db")), Err(StoreError::NoFile(_))));
    assert!(!folder.path().join("b.db").exists() && !folder.path().join("copy.db.part").exists());
}

/// What a newer version wrote is left alone: this one would read half of it.
#[tokio::test]
async fn a_restore_refuses_a_backup_of_a_newer_version() {
    let folder = TempDir::new().expect("a folder");
    let (database, copy) = (folder.path().join("builds.db"), folder.path().join("copy.db"));
    Store::open(&database).expect("a store").create(build("one")).await.expect("created");
    backup(&database, &copy).expect("a backup");
    let newer = rusqlite::Connection::open(&copy).expect("the copy");
    newer.pragma_update(None, "user_version", 999).expect("a version");
    drop(newer);
    let owner = Owner::take(&database).expect("ours");
    assert!(matches!(restore(&copy, &owner, true), Err(StoreError::Migration(_))));
    drop(owner);
    assert_eq!(names(&database).await, ["one"], "nothing was moved");
    assert!(!folder.path().join("builds.db.restoring").exists(), "nothing is left over");
}

/// Revisions go on counting: what was edited before a restore is never taken for an edit of what came back.
#[tokio::test]
async fn an_edit_from_before_a_restore_is_stale_after_it() {
    let folder = TempDir::new().expect("a folder");
    let (database, copy) = (folder.path().join("builds.db"), folder.path().join("copy.db"));
    let store = Store::open(&database).expect("a store");
    let first = store.create(build("as it was")).await.expect("created");
    backup(&database, &copy).expect("a backup");
    let edited = store.save(first.id, 1, build("edited")).await.expect("saved");
    let later = store.create(build("made later")).await.expect("created");
    drop(store);
    let owner = Owner::take(&database).expect("ours");
    restore(&copy, &owner, true).expect("restored");
    drop(owner);
    let store = Store::open(&database).expect("a store");
    let back = store.open_build(first.id).await.expect("opened");
    assert_eq!((back.build.name.as_str(), back.revision), ("as it was", edited.revision + 1));
    for stale in [1, edited.revision] {
        assert!(matches!(store.save(first.id, stale, build("over it")).await, Err(StoreError::Stale(_))), "revision {stale}");
    }
    assert!(matches!(store.save(later.id, 1, build("over it")).await, Err(StoreError::NotFound)));
    assert!(store.create(build("new")).await.expect("created").id > later.id, "no build gets the number of another");
}

#[tokio::test]
async fn a_restore_refuses_what_is_newer_and_keeps_what_was_there() {
    let folder = TempDir::new().expect("folder");
    let (path, copy) = paths(&folder);
    Store::open(&path).expect("store").create(build("one")).await.expect("created");
    backup(&path, &copy).expect("backed up");
    let again = |force| {
        let owner = Owner::take(&path).expect("owner");
        restore(&copy, &owner, force)
    };
    again(false).expect("nothing is newer");
    // A moment later, so that the times differ.
    let store = Store::open(&path).expect("store");
    let second = store.create(build("two")).await.expect("created").id;
    while store.open_build(second).await.expect("there").saved_at <= store.open_build(1).await.expect("there").saved_at {
        let now = store.open_build(second).await.expect("there").revision;
        store.save(second, now, build("two")).await.expect("saved");
    }
    assert!(matches!(Owner::take(&path), Err(StoreError::Owned { .. })), "not while it is open");
    drop(store);
    assert!(matches!(again(false), Err(StoreError::Newer { .. })));
    assert_eq!(names(&path).await, ["one", "two"]);
    again(true).expect("forced");
    assert_eq!(names(&path).await, ["one"]);
    assert_eq!(names(&folder.path().join("builds.db.before-restore-2")).await, ["one", "two"]);
    assert_eq!(names(&folder.path().join("builds.db.before-restore")).await, ["one"], "what the first one kept is still there");
    assert!(!folder.path().join("builds.db.restoring").exists());
    std::fs::write(folder.path().join("letter.txt"), "Dear aunt").expect("written");
    let owner = Owner::take(&path).expect("owner");
    assert!(matches!(restore(&folder.path().join("letter.txt"), &owner, true), Err(StoreError::Foreign(_))));
    drop(owner);
    assert_eq!(names(&path).await, ["one"]);
}

#[tokio::test]
async fn a_workshop_in_open_formats_comes_back_equal() {
    let folder = TempDir::new().expect("folder");
    let (path, other) = paths(&folder);
    let store = Store::open(&path).expect("store");
    let one = store.create(build("one")).await.expect("created").id;
    store.create(build("two")).await.expect("created");
    let gone = store.create(build("gone")).await.expect("created").id;
    store.append_events(one, vec![event(1), event(2)]).await.expect("appended");
    store.append_events(gone, vec![event(3)]).await.expect("appended");
    store.set_deleted(gone, None, true).await.expect("deleted");
    let mut part = orthavis_core::parts::library()[3].clone();
    part.id = "mine".into();
    store.keep_part(part.clone()).await.expect("kept");
    store.put_stock("cable tie".into(), 80.0).await.expect("kept");
    store.put_stock("wire 20 AWG, red".into(), 2.5).await.expect("kept");
    store.put_stock("clip".into(), 3.0).await.expect("kept");
    store.put_stock("clip".into(), 0.0).await.expect("used up");
    let out = folder.path().join("out");
    let whole = Carried { builds: 3, events: 3, parts: 1, known: 0 };
    assert_eq!(export_all(&path, &out).expect("exported"), whole);
    assert!(matches!(export_all(&path, &out), Err(StoreError::Taken(_))));

    let new = Store::open(&other).expect("store");
    assert_eq!(new.import_all(out.clone()).await.expect("imported"), whole);
    assert_eq!(new.parts().await.expect("parts"), [part]);
    let drawer = BTreeMap::from([("cable tie".to_owned(), 80.0), ("wire 20 AWG, red".to_owned(), 2.5)]);
    assert_eq!(new.stock().await.expect("stock"), drawer);
    assert_eq!(new.all_events(1).await.expect("all"), [event(1), event(2)]);
    assert_eq!(new.open_build(2).await.expect("there").build, build("two"));
    assert!(matches!(new.open_build(3).await, Err(StoreError::NotFound)), "deleted there, deleted here");
    // A second time everything is there already.
    assert_eq!(new.import_all(out.clone()).await.expect("imported"), Carried { builds: 0, events: 0, parts: 1, known: 3 });
    drop(new);
    let back = folder.path().join("back");
    export_all(&other, &back).expect("exported");
    for entry in std::fs::read_dir(&out).expect("folder") {
        let name = entry.expect("entry").file_name();
        assert_eq!(std::fs::read_to_string(out.join(&name)).expect("file"), std::fs::read_to_string(back.join(&name)).expect("file"), "{name:?}");
    }
}

#[tokio::test]
async fn a_spoiled_folder_changes_nothing_and_names_the_file() {
    let folder = TempDir::new().expect("folder");
    let (path, other) = paths(&folder);
    Store::open(&path).expect("store").create(build("one")).await.expect("created");
    let spoil: [(&str, &str, &str); 6] = [
        ("build-1.json", "{}", "build-1.json"),
        ("build-1.journal.jsonl", "{\"id\":1}\n", "build-1.journal.jsonl"),
        ("parts.json", "[{}]", "parts.json"),
        ("stock.json", r#"{"clip":-1}"#, "stock.json"),
        ("workshop.json", r#"{"format":"orthavis.workshop/9","builds":[]}"#, "workshop.json"),
        (
            "workshop.json",
            r#"{"format":"orthavis.workshop/1","builds":[{"name":"x","document":"../builds.db","journal":"j","deleted":false}]}"#,
            "workshop.json",
        ),
    ];
    let store = Store::open(&other).expect("store");
    for (number, (file, text, named)) in spoil.into_iter().enumerate() {
        let out = folder.path().join(format!("out-{number}"));
        export_all(&path, &out).expect("exported");
        std::fs::write(out.join(file), text).expect("spoiled");
        match store.import_all(out).await {
            Err(StoreError::Import { file, .. }) => assert!(file.ends_with(named), "{file}"),
            other => panic!("{file}: {other:?}"),
        }
        assert!(store.list(None, 10, "1").await.expect("list").is_empty());
    }
}

#[tokio::test]
async fn a_history_is_thinned_but_for_what_has_a_name() {
    let folder = TempDir::new().expect("folder");
    let (path, _) = paths(&folder);
    let store = Store::open(&path).expect("store");
    let id = store.create(build("one")).await.expect("created").id;
    // A month of saves every ten minutes, through a connection beside the store's.
    let beside = rusqlite::Connection::open(&path).expect("beside");
    let fill = "WITH RECURSIVE n(i) AS (SELECT 2 UNION ALL SELECT i + 1 FROM n WHERE i < 4319)
        INSERT INTO revisions (build_id, revision, saved_at, name, document)
        SELECT 1, i, strftime('%Y-%m-%dT%H:%M:%fZ', 'now', format('-%d minutes', 10 * (4320 - i))), 'one', '{}' FROM n";
    beside.execute(fill, []).expect("filled");
    beside.execute("UPDATE builds SET revision = 4319", []).expect("newest");
    store.label(id, None, 7, Some("as drawn first".into())).await.expect("named");
    store.save(id, 4319, build("now")).await.expect("saved");
    let left = store.revisions(id).await.expect("history");
    assert!(left.iter().any(|revision| revision.label.as_deref() == Some("as drawn first")));
    // A day in tens of minutes, a week in hours, three weeks in days.
    let (day, week, rest) = (144, 7 * 24, 22);
    assert!((day + week + rest - 5..=day + week + rest + 5).contains(&left.len()), "{} are left", left.len());
    assert_eq!((left[0].revision, left[0].name.as_str()), (4320, "now"));
    assert!(left.windows(2).all(|pair| pair[0].revision > pair[1].revision));
    assert!(matches!(store.label(id, None, 5, None).await, Err(StoreError::NotFound)), "thinned out");
}
