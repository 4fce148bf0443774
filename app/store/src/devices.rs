//! Devices that were let in from the local network.

use crate::{NOW, Store, StoreError};
use rusqlite::{OptionalExtension, Row, params};

/// A device that was let in.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Device {
    /// Key.
    pub id: i64,
    /// What it calls itself.
    pub name: String,
    /// Whether the owner lets it change builds.
    pub may_edit: bool,
    /// RFC 3339, UTC.
    pub paired_at: String,
    /// When it last asked for something, to the minute or so; RFC 3339, UTC.
    pub seen_at: String,
}

/// Time after which a device counts as seen anew, so that not every question writes, minutes.
const SEEN_ANEW: &str = "-1 minutes";
const COLUMNS: &str = "id, name, may_edit, paired_at, seen_at";

fn device(row: &Row<'_>) -> rusqlite::Result<Device> {
    Ok(Device { id: row.get(0)?, name: row.get(1)?, may_edit: row.get(2)?, paired_at: row.get(3)?, seen_at: row.get(4)? })
}

impl Store {
    /// Lets a device in; `token` is the hash of what it will show. Of more than `most` those that were not seen for longest
    /// are shut out.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn let_in(&self, name: String, token: [u8; 32], most: usize) -> Result<Device, StoreError> {
        self.run(move |t| {
            let room = i64::try_from(most.saturating_sub(1)).unwrap_or(i64::MAX);
            t.execute("DELETE FROM devices WHERE id NOT IN (SELECT id FROM devices ORDER BY seen_at DESC, id DESC LIMIT ?1)", [room])?;
            let sql = format!("INSERT INTO devices (name, token, paired_at, seen_at) VALUES (?1, ?2, {NOW}, {NOW}) RETURNING {COLUMNS}");
            Ok(t.query_row(&sql, params![name, token], device)?)
        })
        .await
    }

    /// The device whose token hashes to this, seen now.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn device(&self, token: [u8; 32]) -> Result<Option<Device>, StoreError> {
        self.run(move |t| {
            let seen = format!("UPDATE devices SET seen_at = {NOW} WHERE token = ?1 AND seen_at < strftime('%Y-%m-%dT%H:%M:%fZ', 'now', '{SEEN_ANEW}')");
            t.prepare_cached(&seen)?.execute([token])?;
            Ok(t.prepare_cached(&format!("SELECT {COLUMNS} FROM devices WHERE token = ?1"))?.query_row([token], device).optional()?)
        })
        .await
    }

    /// Every device that was let in, the newest first.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn devices(&self) -> Result<Vec<Device>, StoreError> {
        self.run(|t| Ok(t.prepare(&format!("SELECT {COLUMNS} FROM devices ORDER BY id DESC"))?.query_map([], device)?.collect::<Result<_, _>>()?)).await
    }

    /// Allows a device to change builds, or no longer.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], or when the database fails.
    pub async fn allow(&self, id: i64, may_edit: bool) -> Result<Device, StoreError> {
        self.run(move |t| {
            let sql = format!("UPDATE devices SET may_edit = ?2 WHERE id = ?1 RETURNING {COLUMNS}");
            t.query_row(&sql, params![id, may_edit], device).optional()?.ok_or(StoreError::NotFound)
        })
        .await
    }

    /// Shuts a device out: its token opens nothing any more.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], or when the database fails.
    pub async fn shut_out(&self, id: i64) -> Result<(), StoreError> {
        self.run(move |t| if t.execute("DELETE FROM devices WHERE id = ?1", [id])? == 0 { Err(StoreError::NotFound) } else { Ok(()) }).await
    }
}
