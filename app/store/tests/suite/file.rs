//! One owner a database, and only a database of ours, sound and in its place.

use orthavis_core::document::{Build, parse};
use orthavis_store::{Owner, Store, StoreError};
use std::path::{Path, PathBuf};
use tempfile::TempDir;

fn build(name: &str) -> Build {
    let mut build = parse(include_str!("../../../../core/testing/cases/trike-arrays.json")).expect("a sound document");
    build.name = name.into();
    build
}

fn inside(folder: &TempDir) -> PathBuf {
    folder.path().join("builds.db")
}

#[tokio::test]
async fn a_second_process_is_told_who_has_the_file() {
    let folder = TempDir::new().expect("folder");
    let path = inside(&folder);
    let mut owner = Owner::take(&path).expect("taken");
    owner.sign("http://127.0.0.1:7417").expect("signed");
    let store = Store::open_owned(owner).expect("open");
    store.create(build("kept")).await.expect("created");
    match Store::open(&path) {
        Err(StoreError::Owned { who, at, .. }) => {
            assert!(who.contains(&std::process::id().to_string()) && who.contains("7417"), "{who}");
            assert_eq!(at.as_deref(), Some("http://127.0.0.1:7417"));
        }
        other => panic!("expected a refusal, got {:?}", other.map(drop)),
    }
    // Nor can it be thrown away meanwhile: that takes an owner.
    assert!(matches!(Owner::take(&path), Err(StoreError::Owned { .. })));
    drop(store);
    let again = Store::open(&path).expect("given up");
    assert_eq!(again.list(None, 10, "1").await.expect("a shelf").len(), 1);
}

#[tokio::test]
async fn a_file_that_is_gone_or_replaced_is_not_saved_into() {
    let folder = TempDir::new().expect("folder");
    let path = inside(&folder);
    let store = Store::open(&path).expect("open");
    let id = store.create(build("one")).await.expect("created").id;
    std::fs::remove_file(&path).expect("removed");
    assert!(matches!(store.save(id, 1, build("two")).await, Err(StoreError::Gone(_))));
    std::fs::write(&path, b"").expect("another file");
    assert!(matches!(store.create(build("three")).await, Err(StoreError::Gone(_))));
}

#[test]
fn what_is_not_ours_is_left_as_it_is() {
    let folder = TempDir::new().expect("folder");
    let path = inside(&folder);
    let other = rusqlite::Connection::open(&path).expect("another program's file");
    other.execute_batch("CREATE TABLE recipes (name TEXT); INSERT INTO recipes VALUES ('soup'); PRAGMA user_version = 3;").expect("its tables");
    drop(other);
    let before = std::fs::read(&path).expect("bytes");
    assert!(matches!(Store::open(&path), Err(StoreError::Foreign(_))));
    assert_eq!(std::fs::read(&path).expect("bytes"), before);

    let text = folder.path().join("letter.txt");
    std::fs::write(&text, "Dear aunt, ".repeat(100)).expect("written");
    assert!(matches!(Store::open(&text), Err(StoreError::Foreign(_))));
    assert!(std::fs::read_to_string(&text).expect("text").starts_with("Dear aunt"));
    for name in [":memory:", "file:builds.db?mode=memory", ""] {
        assert!(matches!(Store::open(Path::new(name)), Err(StoreError::NoFile(_))), "{name}");
    }
    assert!(matches!(Store::open(folder.path()), Err(StoreError::NoFile(_))));
}

#[tokio::test]
async fn damage_is_found_at_the_start() {
    let folder = TempDir::new().expect("folder");
    let path = inside(&folder);
    {
        let connection = rusqlite::Connection::open(&path).expect("a file");
        connection
            .execute_batch(
                "PRAGMA application_id = 1330795592; CREATE TABLE builds (id INTEGER PRIMARY KEY, text TEXT); CREATE INDEX by_text ON builds (text);",
            )
            .expect("tables");
        for n in 0..2000 {
            connection.execute("INSERT INTO builds (text) VALUES (?1)", [format!("{n} {}", "x".repeat(200))]).expect("rows");
        }
    }
    let mut bytes = std::fs::read(&path).expect("bytes");
    let middle = bytes.len() / 2;
    bytes[middle..middle + 8192].fill(0xa5);
    std::fs::write(&path, &bytes).expect("damaged");
    assert!(matches!(Store::open(&path), Err(StoreError::Broken(..))));
    assert_eq!(std::fs::read(&path).expect("bytes"), bytes);
}

#[cfg(unix)]
#[tokio::test]
async fn nobody_else_reads_the_files() {
    use std::os::unix::fs::PermissionsExt;
    let folder = TempDir::new().expect("folder");
    let store = Store::open(&inside(&folder)).expect("open");
    store.create(build("private")).await.expect("created");
    let mut seen = 0;
    for entry in std::fs::read_dir(folder.path()).expect("folder") {
        let entry = entry.expect("entry");
        assert_eq!(entry.metadata().expect("data").permissions().mode() & 0o777, 0o600, "{:?}", entry.file_name());
        seen += 1;
    }
    assert!(seen >= 3, "the database, its log and its owner, but only {seen} files");
}

/// A row that this version cannot read hides no other, and can be looked at, deleted, and restored from its history.
#[tokio::test]
async fn one_unreadable_build_hides_nothing() {
    let folder = TempDir::new().expect("folder");
    let path = inside(&folder);
    let store = Store::open(&path).expect("open");
    let (good, bad) = (store.create(build("good")).await.expect("created").id, store.create(build("bad")).await.expect("created").id);
    store.save(bad, 1, build("bad later")).await.expect("saved");
    let side = rusqlite::Connection::open(&path).expect("beside");
    side.execute("UPDATE revisions SET document = '{\"format\":\"orthavis.build/9\"}' WHERE build_id = ?1 AND revision = 2", [bad]).expect("changed");
    let shelf = store.list(None, 10, "1").await.expect("a shelf");
    assert_eq!(shelf.iter().map(|entry| entry.id).collect::<Vec<_>>(), [bad, good]);
    assert!(matches!(store.open_build(bad).await, Err(StoreError::Damaged(_))));
    assert!(store.text(bad).await.expect("text").document.contains("build/9"));
    assert_eq!(store.revisions(bad).await.expect("history").len(), 2);
    assert_eq!(store.restore(bad, None, 1).await.expect("restored").build.name, "bad");
    store.set_deleted(bad, None, true).await.expect("deleted");
    assert_eq!(store.list(None, 10, "1").await.expect("a shelf").len(), 1);
}

#[tokio::test]
async fn what_the_shelf_shows_is_kept_for_its_revision_and_rules() {
    let folder = TempDir::new().expect("folder");
    let store = Store::open(&inside(&folder)).expect("open");
    let id = store.create(build("one")).await.expect("created").id;
    let shown = async |rules: &str| store.list(None, 10, rules).await.expect("a shelf")[0].summary.clone();
    store.keep_summary(id, 1, "1", "{\"lights\":2}".into()).await.expect("kept");
    assert_eq!(shown("1").await.as_deref(), Some("{\"lights\":2}"));
    assert_eq!(shown("2").await, None, "other rules, another summary");
    store.save(id, 1, build("two")).await.expect("saved");
    assert_eq!(shown("1").await, None, "of another revision");
    store.keep_summary(id, 1, "1", "{}".into()).await.expect("too late");
    assert_eq!(shown("1").await, None, "what was computed of the revision before");
}

#[tokio::test]
async fn samples_come_once_and_all_together() {
    let folder = TempDir::new().expect("folder");
    let store = Store::open(&inside(&folder)).expect("open");
    store.create_once("demo", vec![(build("one"), Vec::new()), (build("two"), Vec::new())]).await.expect("created");
    for entry in store.list(None, 10, "1").await.expect("a shelf") {
        store.set_deleted(entry.id, None, true).await.expect("deleted");
    }
    store.create_once("demo", vec![(build("one"), Vec::new()), (build("two"), Vec::new())]).await.expect("nothing");
    assert!(store.list(None, 10, "1").await.expect("a shelf").is_empty(), "what was deleted stays so");
}

#[tokio::test]
async fn a_document_is_measured_as_it_is_kept() {
    let folder = TempDir::new().expect("folder");
    let store = Store::open(&inside(&folder)).expect("open");
    // Large, but written with indents it would be more than a document may be.
    let mut large = parse(include_str!("../../../../core/testing/cases/eight-metres-one-end.json")).expect("a sound document");
    let light = large.lights[0].clone();
    let long = |n: usize| orthavis_core::document::Light { id: format!("light-{n}"), feeds: vec![light.feeds[0].clone(); 25], ..light.clone() };
    let mut lights: Vec<_> = (0..120).map(long).collect();
    for light in &mut lights {
        if let orthavis_core::document::Load::Strip(strip) = &mut light.load {
            strip.length_m = 1.0;
        }
    }
    large.lights = (0..4)
        .flat_map(|copy| lights.iter().map(move |light| orthavis_core::document::Light { id: format!("{}-{copy}", light.id), ..light.clone() }))
        .collect();
    large.scenes[0].lights.clear();
    assert!(large.print().len() > orthavis_core::document::MAX_BYTES, "the test is not large enough");
    let kept = store.create(large.clone()).await;
    match kept {
        Ok(kept) => assert_eq!(store.open_build(kept.id).await.expect("read back").build, large),
        Err(error) => panic!("{error}"),
    }
    large.notes = "n".repeat(4_300_000);
    assert!(matches!(store.create(large).await, Err(StoreError::TooLarge(_))));
}
