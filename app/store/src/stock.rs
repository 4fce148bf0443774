//! What lies in the drawer: how many, or how many metres, of each thing on a shopping list.

use crate::{Store, StoreError};
use orthavis_core::document::Part;
use rusqlite::{Transaction, params};
use std::collections::BTreeMap;

/// Everything in the drawer.
pub(crate) fn all(t: &Transaction<'_>) -> Result<BTreeMap<String, f64>, StoreError> {
    let mut query = t.prepare_cached("SELECT part, count FROM stock ORDER BY part")?;
    Ok(query.query_map([], |row| Ok((row.get(0)?, row.get(1)?)))?.collect::<Result<_, _>>()?)
}

/// Puts so many into the drawer; 0 empties their place.
pub(crate) fn put(t: &Transaction<'_>, part: &str, count: f64) -> Result<(), StoreError> {
    if count > 0.0 {
        t.execute("INSERT INTO stock (part, count) VALUES (?1, ?2) ON CONFLICT (part) DO UPDATE SET count = excluded.count", params![part, count])?;
    } else {
        t.execute("DELETE FROM stock WHERE part = ?1", params![part])?;
    }
    Ok(())
}

impl Store {
    /// Everything in the drawer, by the names of the shopping list.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn stock(&self) -> Result<BTreeMap<String, f64>, StoreError> {
        self.run(all).await
    }

    /// Puts so many of a thing into the drawer; 0 empties its place.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn put_stock(&self, part: String, count: f64) -> Result<(), StoreError> {
        self.run(move |t| put(t, &part, count)).await
    }

    /// Takes parts and counts in, all or none; a part with a known id is replaced, a count of 0 empties its place.
    ///
    /// # Errors
    /// When the database fails.
    pub async fn take_drawer(&self, parts: Vec<Part>, stock: BTreeMap<String, f64>) -> Result<(), StoreError> {
        self.run(move |t| {
            parts.iter().try_for_each(|part| crate::keep_part(t, part))?;
            stock.iter().try_for_each(|(part, count)| put(t, part, *count))
        })
        .await
    }
}
