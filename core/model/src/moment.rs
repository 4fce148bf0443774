//! A moment as RFC 3339 writes it, with the wall clock of the place where it was.

use crate::document::{date_of, day_of};

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
        let (day, rest) = (day_of(text.get(..10)?)?, text.get(10..)?);
        let bytes = rest.as_bytes();
        if bytes.len() < 10 || !matches!(bytes[0], b'T' | b't' | b' ') || bytes[3] != b':' || bytes[6] != b':' {
            return None;
        }
        let two = |from: usize, most: i64| rest.get(from..from + 2)?.parse::<i64>().ok().filter(|value| (0..=most).contains(value));
        let (hour, minute, second) = (two(1, 23)?, two(4, 59)?, two(7, 60)?);
        let zone = rest[9..].trim_start_matches(|letter: char| letter == '.' || letter.is_ascii_digit());
        let offset_s = match zone.as_bytes() {
            [b'Z' | b'z'] => 0,
            [sign @ (b'+' | b'-'), _, _, b':', _, _] => {
                let at = rest.len() - 5;
                let ahead = 3600 * two(at, 23)? + 60 * two(at + 3, 59)?;
                if *sign == b'-' { -ahead } else { ahead }
            }
            _ => return None,
        };
        Some(Moment { s: DAY_S * day + 3600 * hour + 60 * minute + second - offset_s, offset_s })
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
