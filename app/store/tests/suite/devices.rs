//! Devices that were let in: kept over a restart, found by their token only, shut out for good.

use orthavis_store::{Store, StoreError};
use tempfile::TempDir;

fn store(folder: &TempDir) -> Store {
    Store::open(&folder.path().join("workshop.db")).expect("a store")
}

const TOKEN: [u8; 32] = [7; 32];
const OTHER: [u8; 32] = [8; 32];

#[tokio::test]
async fn a_device_is_known_by_its_token_and_by_no_other() {
    let folder = TempDir::new().expect("folder");
    let store = store(&folder);
    let phone = store.let_in("Phone".into(), TOKEN, 50).await.expect("let in");
    assert_eq!((phone.name.as_str(), phone.may_edit), ("Phone", false));
    assert_eq!(store.device(TOKEN).await.expect("answered").map(|device| device.id), Some(phone.id));
    assert_eq!(store.device(OTHER).await.expect("answered"), None);
    // One token is one device.
    assert!(matches!(store.let_in("Copy".into(), TOKEN, 50).await, Err(StoreError::Database(_))));
}

#[tokio::test]
async fn devices_outlive_a_restart_and_are_listed_newest_first() {
    let folder = TempDir::new().expect("folder");
    let first = store(&folder);
    let phone = first.let_in("Phone".into(), TOKEN, 50).await.expect("let in");
    let tablet = first.let_in("Tablet".into(), OTHER, 50).await.expect("let in");
    first.allow(tablet.id, true).await.expect("allowed");
    drop(first);
    let again = store(&folder);
    let listed: Vec<(i64, bool)> = again.devices().await.expect("listed").into_iter().map(|device| (device.id, device.may_edit)).collect();
    assert_eq!(listed, [(tablet.id, true), (phone.id, false)]);
    assert!(again.device(TOKEN).await.expect("answered").is_some());
}

#[tokio::test]
async fn what_is_allowed_can_be_taken_back_and_a_device_shut_out() {
    let folder = TempDir::new().expect("folder");
    let store = store(&folder);
    let phone = store.let_in("Phone".into(), TOKEN, 50).await.expect("let in");
    for may_edit in [true, false, true] {
        assert_eq!(store.allow(phone.id, may_edit).await.expect("allowed").may_edit, may_edit);
        assert_eq!(store.device(TOKEN).await.expect("answered").map(|device| device.may_edit), Some(may_edit));
    }
    store.shut_out(phone.id).await.expect("shut out");
    assert_eq!(store.device(TOKEN).await.expect("answered"), None);
    assert!(store.devices().await.expect("listed").is_empty());
    assert!(matches!(store.shut_out(phone.id).await, Err(StoreError::NotFound)));
    assert!(matches!(store.allow(phone.id, true).await, Err(StoreError::NotFound)));
    // Its number is not given to the next, whose page may still be open somewhere.
    let next = store.let_in("Phone".into(), OTHER, 50).await.expect("let in");
    assert_ne!(next.id, phone.id);
}

/// Where the list is full, the one that was not seen for longest leaves.
#[tokio::test]
async fn the_list_of_devices_does_not_fill_for_ever() {
    let folder = TempDir::new().expect("folder");
    let store = Store::open(&folder.path().join("builds.db")).expect("store");
    for number in 0..4u8 {
        store.let_in(format!("Phone {number}"), [number; 32], 3).await.expect("let in");
    }
    let names: Vec<String> = store.devices().await.expect("devices").into_iter().map(|device| device.name).collect();
    assert_eq!(names, ["Phone 3", "Phone 2", "Phone 1"]);
    assert!(store.device([0; 32]).await.expect("asked").is_none(), "the first is shut out");
}
