//! The store keeps what it was given, and refuses what is stale.

use orthavis_core::document::{Build, parse};
use orthavis_store::{Store, StoreError};
use tempfile::TempDir;

fn build(name: &str) -> Build {
    let text = include_str!("../../../../core/testing/cases/trike-arrays.json");
    let mut build = parse(text).expect("a sound document");
    build.name = name.into();
    build
}

fn store(folder: &TempDir) -> Store {
    Store::open(&folder.path().join("builds.db")).expect("store")
}

#[tokio::test]
async fn a_saved_build_is_there_after_reopening() {
    let folder = TempDir::new().expect("folder");
    // Dropped, it gives the file up.
    let first = store(&folder).create(build("one")).await.expect("created");
    let again = store(&folder).open_build(first.id).await.expect("found");
    assert_eq!(again.build, build("one"));
    assert_eq!(again.revision, 1);
}

#[tokio::test]
async fn a_stale_save_is_refused_with_the_current_version() {
    let folder = TempDir::new().expect("folder");
    let store = store(&folder);
    let id = store.create(build("one")).await.expect("created").id;
    store.save(id, 1, build("two")).await.expect("saved");
    match store.save(id, 1, build("three")).await {
        Err(StoreError::Stale(current)) => assert_eq!((current.revision, current.read().expect("sound").build.name.as_str()), (2, "two")),
        other => panic!("expected a stale save, got {other:?}"),
    }
    assert_eq!(store.open_build(id).await.expect("found").build.name, "two");
}

#[tokio::test]
async fn an_old_revision_comes_back_as_the_newest() {
    let folder = TempDir::new().expect("folder");
    let store = store(&folder);
    let id = store.create(build("one")).await.expect("created").id;
    store.save(id, 1, build("two")).await.expect("saved");
    let restored = store.restore(id, None, 1).await.expect("restored");
    assert_eq!((restored.revision, restored.build.name.as_str()), (3, "one"));
    let history: Vec<_> = store.revisions(id).await.expect("history").into_iter().map(|r| (r.revision, r.name)).collect();
    assert_eq!(history, [(3, "one".into()), (2, "two".into()), (1, "one".into())]);
    assert!(matches!(store.restore(id, None, 9).await, Err(StoreError::NotFound)));
}

#[tokio::test]
async fn deleting_can_be_undone() {
    let folder = TempDir::new().expect("folder");
    let store = store(&folder);
    let id = store.create(build("one")).await.expect("created").id;
    let copy = store.duplicate(id).await.expect("copied");
    store.set_deleted(id, None, true).await.expect("deleted");
    assert!(matches!(store.open_build(id).await, Err(StoreError::NotFound)));
    assert!(matches!(store.set_deleted(id, None, true).await, Err(StoreError::NotFound)));
    let names: Vec<_> = store.list(None, 10, "1").await.expect("list").into_iter().map(|entry| entry.name).collect();
    assert_eq!(names, ["one (copy)"]);
    store.set_deleted(id, None, false).await.expect("back");
    assert_eq!(store.list(None, 10, "1").await.expect("list").len(), 2);
    assert_ne!(copy.id, id);
}

#[tokio::test]
async fn own_parts_are_kept_replaced_and_forgotten() {
    let folder = TempDir::new().expect("folder");
    let mut part = orthavis_core::parts::library()[0].clone();
    part.id = "mine".into();
    let store = store(&folder);
    store.keep_part(part.clone()).await.expect("kept");
    part.name = "renamed".into();
    store.keep_part(part.clone()).await.expect("replaced");
    assert_eq!(store.parts().await.expect("parts"), [part]);
    store.forget_part("mine".into()).await.expect("forgotten");
    assert!(store.parts().await.expect("parts").is_empty());
    assert!(matches!(store.forget_part("mine".into()).await, Err(StoreError::NotFound)));
}

/// A database from before there were parts is brought up to date with its builds in it.
#[tokio::test]
async fn an_older_database_is_migrated() {
    let folder = TempDir::new().expect("folder");
    let path = folder.path().join("builds.db");
    let old = rusqlite::Connection::open(&path).expect("a file");
    old.execute_batch(include_str!("../../migrations/001_builds.sql")).expect("the first schema");
    let document = build("from before").print();
    old.execute_batch("PRAGMA user_version = 1; INSERT INTO builds (revision, created_at) VALUES (1, 'then')").expect("a build");
    old.execute("INSERT INTO revisions VALUES (1, 1, '2026-01-01T00:00:00.000Z', 'from before', ?1)", [document]).expect("its revision");
    drop(old);
    let store = Store::open(&path).expect("opened");
    assert_eq!(store.open_build(1).await.expect("found").build, build("from before"));
    assert!(store.parts().await.expect("a table").is_empty());
}
