//! A moment as RFC 3339 writes it, with the wall clock of the place where it was.

use time::format_description::well_known::{Iso8601, Rfc3339};
use time::{Date, OffsetDateTime};

/// Julian day of 1970-01-01.
const EPOCH: i64 = 2_440_588;

/// Days from 1970-01-01 to a date as in `2026-11-27`; `None`: it is not in the calendar.
///
/// ```
/// use orthavis_model::moment::{date_of, day_of};
/// let day = day_of("2024-02-28").expect("a day");
/// assert_eq!(date_of(day + 1), "2024-02-29");
/// assert_eq!(day_of("2023-02-29"), None);
/// ```
pub fn day_of(date: &str) -> Option<i64> {
    let read = Date::parse(date, &Iso8601::DATE).ok()?;
    let day = i64::from(read.to_julian_day()) - EPOCH;
    // The standard knows weeks and days of the year, too; here a date has one way to be written.
    (read.year() > 0 && date_of(day) == date).then_some(day)
}

/// The date of so many days from 1970-01-01; beyond the years that have four digits, the last of them.
pub fn date_of(days: i64) -> String {
    let end = if days < 0 { Date::MIN } else { Date::MAX };
    let date = i32::try_from(days + EPOCH).ok().and_then(|day| Date::from_julian_day(day).ok()).unwrap_or(end);
    format!("{:04}-{:02}-{:02}", date.year(), u8::from(date.month()), date.day())
}

/// Seconds of a day.
pub const DAY_S: i64 = 86_400;

/// A moment.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Moment {
    /// Seconds since 1970, UTC.
    pub s: i64,
    /// How far the place's clock is ahead of UTC, s.
    pub offset_s: i64,
}

impl serde::Serialize for Moment {
    fn serialize<S: serde::Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        to.serialize_str(&self.text())
    }
}

impl Moment {
    /// Reads `2026-05-02T18:40:00+02:00`; fractions of a second are left out. `None`: no such moment.
    pub fn parse(text: &str) -> Option<Self> {
        let read = OffsetDateTime::parse(&text.replacen(' ', "T", 1), &Rfc3339).ok()?;
        Some(Moment { s: read.unix_timestamp(), offset_s: i64::from(read.offset().whole_seconds()) })
    }

    /// Day of the place's calendar, counted from 1970-01-01.
    pub fn day(self) -> i64 {
        (self.s + self.offset_s).div_euclid(DAY_S)
    }

    /// Seconds since the place's midnight.
    pub fn of_day_s(self) -> i64 {
        (self.s + self.offset_s).rem_euclid(DAY_S)
    }

    /// So many seconds later, at the same place.
    pub fn later(self, s: i64) -> Self {
        Moment { s: self.s + s, ..self }
    }

    /// Its day, as `2026-05-02`.
    pub fn date(self) -> String {
        date_of(self.day())
    }

    /// As RFC 3339 writes it.
    pub fn text(self) -> String {
        let of_day = self.of_day_s();
        let (sign, ahead) = if self.offset_s < 0 { ('-', -self.offset_s) } else { ('+', self.offset_s) };
        let clock = format!("{:02}:{:02}:{:02}", of_day / 3600, of_day / 60 % 60, of_day % 60);
        format!("{}T{clock}{sign}{:02}:{:02}", self.date(), ahead / 3600, ahead / 60 % 60)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_moment_is_read_and_written() {
        for (text, s) in [("1970-01-01T00:00:00Z", 0), ("2026-05-02T18:40:00+02:00", 1_777_740_000), ("2026-05-02T16:40:00.25Z", 1_777_740_000)] {
            assert_eq!(Moment::parse(text).map(|moment| moment.s), Some(s), "{text}");
        }
        let west = Moment::parse("2026-01-01T00:30:00-03:30").expect("a moment");
        assert_eq!((west.date(), west.of_day_s(), west.text()), ("2026-01-01".into(), 1800, "2026-01-01T00:30:00-03:30".into()));
        assert_eq!(west.later(-3600).date(), "2025-12-31");
        for bad in ["", "2026-02-30T10:00:00Z", "2026-02-03", "2026-02-03T25:00:00Z", "2026-02-03T10:00:00", "2026-02-03T10:00:00+2:00", "2026-02-03T10:00:00ä"]
        {
            assert_eq!(Moment::parse(bad), None, "{bad}");
        }
    }
}
