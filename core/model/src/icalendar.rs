//! Events as an iCalendar file (RFC 5545). Times are those of the wall clock of the place.

/// When an event is.
#[derive(Clone, Debug, PartialEq)]
pub enum Span {
    /// From one local time to another, as `20261127T180000`.
    Times(String, String),
    /// All of one day and none of the next, as `20261127`.
    Day(String, String),
}

/// One event.
#[derive(Clone, Debug, PartialEq)]
pub struct Entry {
    /// Unique in the file; the same when the file is made again.
    pub uid: String,
    /// When.
    pub span: Span,
    /// What, in a line.
    pub summary: String,
    /// More of it.
    pub words: String,
}

/// A text as RFC 5545 has it.
fn escaped(text: &str) -> String {
    text.replace('\\', "\\\\").replace(';', "\\;").replace(',', "\\,").replace('\n', "\\n")
}

/// A line folded after 75 octets, at the edge of a character.
fn folded(line: &str) -> String {
    let (mut out, mut octets) = (String::new(), 0);
    for letter in line.chars() {
        if octets + letter.len_utf8() > 75 {
            out.push_str("\r\n ");
            octets = 1;
        }
        out.push(letter);
        octets += letter.len_utf8();
    }
    out + "\r\n"
}

/// The file. `product` says what made it, `made` when, as `20261127T180000Z`.
pub fn file(product: &str, made: &str, entries: &[Entry]) -> String {
    let mut out = String::new();
    let mut line = |text: String| out += &folded(&text);
    for text in ["BEGIN:VCALENDAR", "VERSION:2.0", &format!("PRODID:-//Orthavis//{product}//EN"), "CALSCALE:GREGORIAN"] {
        line(text.into());
    }
    for entry in entries {
        line("BEGIN:VEVENT".into());
        line(format!("UID:{}@orthavis", entry.uid));
        line(format!("DTSTAMP:{made}"));
        match &entry.span {
            Span::Times(from, to) => {
                line(format!("DTSTART:{from}"));
                line(format!("DTEND:{to}"));
            }
            Span::Day(day, next) => {
                line(format!("DTSTART;VALUE=DATE:{day}"));
                line(format!("DTEND;VALUE=DATE:{next}"));
            }
        }
        line(format!("SUMMARY:{}", escaped(&entry.summary)));
        line(format!("DESCRIPTION:{}", escaped(&entry.words)));
        line("END:VEVENT".into());
    }
    line("END:VCALENDAR".into());
    out
}
