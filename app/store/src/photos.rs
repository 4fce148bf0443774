//! Pictures of events: what they are by their first bytes, kept once.

use crate::{Store, StoreError, journal};
use rusqlite::{OptionalExtension, Transaction, params};

/// Bytes that a picture may have.
pub const MAX_PHOTO: usize = 2 << 20;

/// A picture.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Photo {
    /// `image/jpeg`, `image/png` or `image/webp`.
    pub media: &'static str,
    /// As it was taken.
    pub bytes: Vec<u8>,
}

impl Photo {
    /// What these bytes are a picture of.
    ///
    /// # Errors
    /// [`StoreError::NoPhoto`] where they are none, or too many.
    pub fn of(bytes: Vec<u8>) -> Result<Self, StoreError> {
        if bytes.len() > MAX_PHOTO {
            return Err(StoreError::NoPhoto(format!("has {} bytes, and at most {MAX_PHOTO} are kept", bytes.len())));
        }
        let media = match bytes.as_slice() {
            [0xff, 0xd8, 0xff, ..] => "image/jpeg",
            [0x89, b'P', b'N', b'G', 0x0d, 0x0a, 0x1a, 0x0a, ..] => "image/png",
            [b'R', b'I', b'F', b'F', _, _, _, _, b'W', b'E', b'B', b'P', ..] => "image/webp",
            _ => return Err(StoreError::NoPhoto("is not a JPEG, PNG or WebP".into())),
        };
        Ok(Photo { media, bytes })
    }

    /// The usual ending of its file.
    pub fn ending(&self) -> &'static str {
        self.media.trim_start_matches("image/")
    }
}

/// Every picture of a build, by event.
pub(crate) fn all(t: &Transaction<'_>, build: i64) -> Result<Vec<(String, Photo)>, StoreError> {
    let mut query = t.prepare_cached("SELECT event_id, bytes FROM photos WHERE build_id = ?1 ORDER BY event_id")?;
    let rows = query.query_map(params![build], |row| Ok((row.get::<_, String>(0)?, row.get::<_, Vec<u8>>(1)?)))?.collect::<Result<Vec<_>, _>>()?;
    rows.into_iter().map(|(event, bytes)| Ok((event, Photo::of(bytes)?))).collect()
}

pub(crate) fn keep(t: &Transaction<'_>, build: i64, event: &str, photo: &Photo) -> Result<(), StoreError> {
    journal::exists(t, build)?;
    t.prepare_cached("INSERT INTO photos (build_id, event_id, media, bytes) VALUES (?1, ?2, ?3, ?4) ON CONFLICT DO UPDATE SET media = ?3, bytes = ?4")?
        .execute(params![build, event, photo.media, photo.bytes])?;
    Ok(())
}

impl Store {
    /// Keeps the picture of an event; sent again it is kept once. The event may come after it.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] where there is no such build, or when the database fails.
    pub async fn keep_photo(&self, build: i64, event: String, photo: Photo) -> Result<(), StoreError> {
        self.run(move |t| keep(t, build, &event, &photo)).await
    }

    /// The picture of an event.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] where it has none, or when the database fails.
    pub async fn photo(&self, build: i64, event: String) -> Result<Photo, StoreError> {
        self.run(move |t| {
            let bytes: Option<Vec<u8>> = t
                .prepare_cached("SELECT bytes FROM photos WHERE build_id = ?1 AND event_id = ?2")?
                .query_row(params![build, event], |row| row.get(0))
                .optional()?;
            Photo::of(bytes.ok_or(StoreError::NotFound)?)
        })
        .await
    }
}
