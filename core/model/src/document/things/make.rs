//! How it is made: when there is time for it, and what was decided.

use super::*;

record! {
    /// How it is made: when there is time for it, and what was decided.
    #[derive(Default)]
    pub struct Make {
        /// How many people work at it at once; `None`: one.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub people: Option<u32> = count(1, 6).label("Helpers"),
        /// How joints are made; `None`: soldered.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub hands: Option<Hands> = thing().label("Joints are made by").nothing("soldering"),
        /// First day, as in `2026-11-27`.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub begins: Option<String> = text(10).label("Begins on").shown("date"),
        /// How warm it is where things cure, °C; `None`: 20.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub workshop_c: Option<f64> = number(Range::within(-20.0, 50.0, "°C")).label("Room temperature"),
        /// Days from ordering to having; `None`: 5.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub delivery_days: Option<u32> = count(0, 120).label("Delivery takes"),
        /// Times of the week at which there is time.
        pub sessions: Vec<Session> = list(28),
        /// How parts are fixed, where the person decided.
        pub fixings: Vec<Fixed> = list(MAX_LIST),
        /// Lengths that wire and strip come in.
        pub rolls: Vec<Roll> = list(200),
        /// Prices that the person knows.
        pub prices: Vec<Price> = list(MAX_LIST),
        /// Cavities that parts go into.
        pub spaces: Vec<Space> = list(40),
        /// What goes inside, where the person decided; else converters and junctions do.
        pub inside: Vec<Inside> = list(MAX_LIST),
        /// Where parts sit, from the reference point.
        pub positions: Vec<PartPosition> = list(MAX_LIST),
    }

    /// A cavity, as the box that is free in it.
    pub struct Space {
        /// Unique among the cavities.
        pub id: String = id(),
        /// Length, width, height, mm.
        pub size_mm: [f64; 3] = number(MILLIMETRE).label("Free inside"),
        /// Ways into it once it is in its place; empty: it stands open while parts go in.
        pub openings: Vec<Opening> = list(20),
        /// Whether battery cells are in it or behind one of its walls.
        #[serde(skip_serializing_if = "std::ops::Not::not")]
        pub cells: bool = thing().or_flag(false).label("battery cells beside it"),
    }

    /// A way into a cavity.
    pub struct Opening {
        /// Width, mm.
        pub width_mm: f64 = number(MILLIMETRE).label("Opening"),
        /// Height, mm.
        pub height_mm: f64 = number(MILLIMETRE).label("by"),
    }

    /// Where a part is kept.
    pub struct Inside {
        /// The light, converter or junction.
        pub part: String = text(80).label("Part"),
        /// In which cavity; `None`: any; `outside`: in none.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub space: Option<String> = text(80).label("Goes into"),
        /// Length, width, height, mm, its wires leaving at the ends of its length; `None`: as such parts usually are.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub size_mm: Option<[f64; 3]> = number(MILLIMETRE).label("Measures"),
    }

    /// Where a part sits.
    pub struct PartPosition {
        /// The light, converter or junction, `source`, or what listens: `receiver`, `antenna` or `compass`.
        pub part: String = text(80).label("Part"),
        /// Forward, to the left and up from the reference point, mm.
        pub at_mm: [f64; 3] = number(Range::within(-20_000.0, 20_000.0, "mm")).label("Sits at"),
    }

    /// A time of the week at which there is time.
    pub struct Session with sense::session {
        /// Day.
        pub weekday: Weekday = thing().label("Day"),
        /// From, as in `19:30`.
        pub start: String = text(5).label("From").shown("time"),
        /// How long, min.
        pub minutes: u32 = Rule { range: Range::within(5.0, 960.0, "min"), ..count(5, 960) }.label("for"),
    }

    /// How a part is fixed.
    pub struct Fixed {
        /// The light, converter or junction.
        pub part: String = text(80).label("Part"),
        /// With what; `None`: as proposed.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub fixing: Option<Fixing> = thing().label("Fixed with"),
        /// On what; `None`: what such a vehicle usually has there.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub surface: Option<Surface> = thing().label("On"),
        /// Whether light is kept in by a coat of paint.
        #[serde(skip_serializing_if = "std::ops::Not::not")]
        pub coat: bool = thing().or_flag(false).label("light-blocking coat"),
    }

    /// A length that something comes in.
    pub struct Roll {
        /// What, as the cut list names it.
        pub of: String = text(200).label("Roll of"),
        /// Length, m.
        pub length_m: f64 = number(METRE).label("Length"),
    }

    /// What a part costs where the person buys it.
    pub struct Price {
        /// What, as the parts list names it.
        pub of: String = text(200).label("Part"),
        /// Price of one, or of one metre.
        pub price: f64 = number(Range::within(0.0, 1e6, "")).label("Price"),
        /// Currency, as in `EUR` (ISO 4217).
        pub currency: String = text(3).label("Currency"),
    }
}

impl Session {
    /// Minutes after midnight at which it begins.
    pub fn starts_at(&self) -> Option<u32> {
        let (hour, minute) = self.start.split_once(':')?;
        let read = |text: &str, below: u32| text.parse::<u32>().ok().filter(|number| *number < below && text.len() <= 2);
        Some(60 * read(hour, 24)? + read(minute, 60)?)
    }

    /// Minutes of the week, from Monday's midnight, at which it begins and ends.
    pub fn span(&self) -> (u32, u32) {
        let begins = 1440 * self.weekday as u32 + self.starts_at().unwrap_or(0);
        (begins, begins + self.minutes)
    }
}

impl PartPosition {
    /// What a craft has that hears what switches nearby.
    pub const LISTENS: [&'static str; 3] = ["receiver", "antenna", "compass"];
}

impl Inside {
    /// Stands for no cavity.
    pub const OUTSIDE: &'static str = "outside";
}

impl Make {
    /// Where a part is kept, where the person said.
    pub fn inside(&self, part: &str) -> Option<&Inside> {
        self.inside.iter().find(|one| one.part == part)
    }

    /// What was decided about a part.
    pub fn fixed(&self, part: &str) -> Option<&Fixed> {
        self.fixings.iter().find(|fixed| fixed.part == part)
    }
}

mod sense {
    use super::super::super::read::Object;
    use super::Session;

    pub(super) fn session(session: &mut Session, o: &mut Object<'_, '_>) {
        if session.starts_at().is_none() {
            o.fault("start", format!("`{}` is not a time of day", session.start), "Write it as 19:30");
        }
    }
}
