//! The drawer: what is put in is there, also after a cut of the power, for a file from before there was one, and in copies.

use orthavis_store::{Store, backup};
use rusqlite::Connection;
use std::collections::BTreeMap;
use tempfile::TempDir;

fn drawer(all: &[(&str, f64)]) -> BTreeMap<String, f64> {
    all.iter().map(|(part, count)| ((*part).to_owned(), *count)).collect()
}

#[tokio::test]
async fn what_is_put_in_is_there_after_reopening_and_gone_at_zero() {
    let folder = TempDir::new().expect("folder");
    let path = folder.path().join("builds.db");
    let store = Store::open(&path).expect("store");
    assert!(store.stock().await.expect("stock").is_empty());
    for (part, count) in [("cable tie", 80.0), ("LED red, 2 V 20 mA", 14.0), ("cable tie", 60.5), ("clip", 3.0), ("clip", 0.0), ("never there", 0.0)] {
        store.put_stock(part.into(), count).await.expect("kept");
    }
    let all = drawer(&[("LED red, 2 V 20 mA", 14.0), ("cable tie", 60.5)]);
    assert_eq!(store.stock().await.expect("stock"), all);
    drop(store);
    assert_eq!(Store::open(&path).expect("store").stock().await.expect("stock"), all);
}

#[tokio::test]
async fn names_with_anything_in_them_are_kept_as_they_are() {
    let folder = TempDir::new().expect("folder");
    let store = Store::open(&folder.path().join("builds.db")).expect("store");
    let names = ["heat-shrink 3.2 mm", "wire 0.75 mm², red", "it's \"quoted\"; DROP TABLE stock", "naïve – dash", "a\nline"];
    for (index, name) in names.iter().enumerate() {
        store.put_stock((*name).into(), 1.0 + index as f64).await.expect("kept");
    }
    let all = store.stock().await.expect("stock");
    assert_eq!(all.len(), names.len());
    assert_eq!(all["it's \"quoted\"; DROP TABLE stock"], 3.0);
}

#[tokio::test]
async fn the_file_itself_holds_no_less_than_nothing() {
    let folder = TempDir::new().expect("folder");
    let path = folder.path().join("builds.db");
    drop(Store::open(&path).expect("store"));
    let raw = Connection::open(&path).expect("a file");
    for row in ["('clip', -1.0)", "('clip', 0.0)", "(NULL, 1.0)", "('clip', 'many')"] {
        assert!(raw.execute(&format!("INSERT INTO stock (part, count) VALUES {row}"), []).is_err(), "{row} was taken");
    }
}

#[tokio::test]
async fn a_file_from_before_there_was_a_drawer_gets_an_empty_one() {
    let folder = TempDir::new().expect("folder");
    let path = folder.path().join("builds.db");
    drop(Store::open(&path).expect("store"));
    let raw = Connection::open(&path).expect("a file");
    let version: i64 = raw.query_row("PRAGMA user_version", [], |row| row.get(0)).expect("a version");
    // What came after it goes first.
    let since = "DROP INDEX events_of_packs; DROP TABLE photos;";
    raw.execute_batch(&format!("{since} DROP TABLE stock; PRAGMA user_version = {}", version - 2)).expect("as it was");
    drop(raw);
    let store = Store::open(&path).expect("brought up to date");
    assert!(store.stock().await.expect("a table").is_empty());
    store.put_stock("clip".into(), 2.0).await.expect("kept");
    assert_eq!(store.stock().await.expect("stock"), drawer(&[("clip", 2.0)]));
}

#[tokio::test]
async fn a_copy_taken_while_it_is_open_has_the_drawer_in_it() {
    let folder = TempDir::new().expect("folder");
    let (path, copy) = (folder.path().join("builds.db"), folder.path().join("copy.db"));
    let store = Store::open(&path).expect("store");
    store.put_stock("cable tie".into(), 80.0).await.expect("kept");
    backup(&path, &copy).expect("copied");
    store.put_stock("cable tie".into(), 10.0).await.expect("kept");
    assert_eq!(Store::open(&copy).expect("the copy").stock().await.expect("stock"), drawer(&[("cable tie", 80.0)]), "of the moment of the copy");
}
