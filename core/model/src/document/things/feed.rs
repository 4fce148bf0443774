//! The wires from a supplier to a consumer, with what sits in them.

use super::*;

record! {
    /// Two conductors from a supplier to a consumer, with what sits in them.
    pub struct Feed with sense::feed {
        /// `source`, or a converter's or junction's id.
        pub from: String = text(80).label("Powered from"),
        /// Where it joins a strip, m from its start.
        pub at_m: f64 = number(METRE_OR_ZERO).or(0.0).label("Joins it at"),
        /// One way, slack included, m.
        pub length_m: f64 = number(METRE_OR_ZERO).label("Length, one way"),
        /// Conductor size.
        pub gauge: Gauge = thing().label("Wire").term("gauge"),
        /// Way back.
        #[serde(rename = "return")]
        pub return_path: Return = thing().or_word("wire").label("Return path").term("return"),
        /// Fuse at its start.
        pub fuse: Option<Fuse> = thing(),
        /// Switch in it.
        pub switch: Option<Switch> = thing(),
        /// Mated plugs in it.
        pub contacts: u32 = count(0, 1000).or(0.0).label("Plugs"),
        /// Their rating, A.
        pub contact_rating_a: Option<f64> = number(AMP).label("A plug carries").nothing("not known"),
        /// Direct voltage that they break, V; `None`: that of a small plug.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub contact_rating_v: Option<f64> = number(VOLT).label("A plug is made for").seldom(),
        /// Whether they go together one way round only; `None`: nobody looked.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub keyed: Option<bool> = thing().label("Its plugs go together one way round only").nothing("not looked at").term("keyed plug").seldom(),
        /// Whether they keep water out; `None`: nobody looked.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub plugs_sealed: Option<bool> = thing().label("Its plugs are sealed").nothing("not looked at").seldom(),
        /// Loaded circuits that run in one bundle with it, itself included.
        pub bundled: u32 = count(1, 1000).or(1.0).label("Wires tied in one bundle, this one too").term("bundle"),
        /// Part of `length_m` that is slack for folding, steering and lifting, m.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub slack_m: Option<f64> = number(METRE_OR_ZERO).label("Slack in it").term("slack").nothing("none named"),
        /// Insulation colour of the plus conductor.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub plus_colour: Option<String> = text(40).label("Colour of plus").suggests(&INSULATION),
        /// Insulation colour of the minus conductor.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub minus_colour: Option<String> = text(40).label("Colour of minus").suggests(&INSULATION),
        /// What it goes over on its way to something that moves.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub moving: Option<Moving> = thing(),
        /// What dims all that hangs on it, by pulses.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub dimmer: Option<Dimmer> = thing(),
    }

    /// What dims by switching fast.
    pub struct Dimmer {
        /// Pulses a second, Hz.
        pub hz: f64 = number(Range::above_zero(1e6, "Hz")).label("Pulses a second").begins(500.0),
        /// What it carries, A.
        pub rating_a: f64 = number(AMP).label("A dimmer carries").nothing("no dimmer in it"),
    }

    /// What carries a feed over to something that turns, folds or slides.
    pub struct Moving {
        /// Which it is.
        pub kind: MovingKind = thing().label("How the wire crosses the moving part"),
        /// Of the contact, ohm.
        pub resistance_ohm: f64 = number(OHM).or(0.0).label("Resistance of the contact"),
        /// Share of the time without contact.
        pub bounce_share: f64 = number(Range::within(0.0, 0.9, "")).or(0.0).label("Time without contact").shown("%"),
        /// How far it turns, degrees.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub angle_deg: Option<f64> = number(Range::above_zero(3600.0, "")).label("Turns by, degrees"),
        /// From the axis to where the wire is held, m.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub radius_m: Option<f64> = number(METRE).label("Held this far from the axis"),
    }

    /// A fuse.
    pub struct Fuse {
        /// Family.
        pub style: FuseStyle = thing().label("Fuse at its start"),
        /// Rating, A.
        pub rating_a: f64 = number(AMP).label("Fuse rating").begins(3.0),
        /// Wire before it, from where the feed begins, m; `None`: none.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub at_m: Option<f64> = number(METRE_OR_ZERO).label("Wire before the fuse").nothing("none: it sits at the supply").seldom(),
        /// Conductor that it sits in; `None`: plus.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub side: Option<FuseSide> = thing().label("Fuse in").nothing("plus").seldom(),
    }

    /// A switch.
    pub struct Switch {
        /// Rating, A.
        pub rating_a: f64 = number(AMP).label("Switch rating").nothing("no switch"),
        /// Direct voltage that it breaks, V; `None`: that of a small switch.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub rating_v: Option<f64> = number(VOLT).label("Switch is made for").seldom(),
    }
}

impl Feed {
    /// A pair of wires without length from the source, for those that name the rest.
    pub const PLAIN: Feed = Feed {
        from: String::new(),
        at_m: 0.0,
        length_m: 0.0,
        gauge: Gauge::Awg(20),
        return_path: Return::Wire,
        fuse: None,
        switch: None,
        contacts: 0,
        contact_rating_a: None,
        contact_rating_v: None,
        keyed: None,
        plugs_sealed: None,
        bundled: 1,
        slack_m: None,
        plus_colour: None,
        minus_colour: None,
        moving: None,
        dimmer: None,
    };
}

impl Fuse {
    /// At the start of a feed's plus, where it belongs.
    pub fn of(style: FuseStyle, rating_a: f64) -> Self {
        Fuse { style, rating_a, at_m: None, side: None }
    }
}

impl Switch {
    /// Of which only the current is known.
    pub fn of(rating_a: f64) -> Self {
        Switch { rating_a, rating_v: None }
    }
}

/// Conductor size.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum Gauge {
    /// American wire gauge number.
    Awg(i32),
    /// Cross-section, mm².
    Mm2(f64),
}

/// What hangs at the far end of a feed, by index into its list.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Consumer {
    /// `junctions[i]`.
    Junction(usize),
    /// `converters[i]`.
    Converter(usize),
    /// `lights[i]`.
    Light(usize),
    /// `circuits[i]`.
    Circuit(usize),
    /// `controllers[i]`.
    Controller(usize),
}

/// A feed in its place.
#[derive(Clone, Debug)]
pub struct FeedRef<'a> {
    /// The consumer's id, `#1` and so on added from the second feed.
    pub id: String,
    /// Index among the consumer's feeds.
    pub number: usize,
    /// What it feeds.
    pub consumer: Consumer,
    /// The feed.
    pub feed: &'a Feed,
}

impl<'a> FeedRef<'a> {
    /// Of what it feeds by id, and which of its feeds it is.
    pub fn new(id: &str, number: usize, consumer: Consumer, feed: &'a Feed) -> Self {
        let id = if number == 0 { id.to_owned() } else { format!("{id}#{number}") };
        FeedRef { id, number, consumer, feed }
    }
}

impl Moving {
    /// Wire that has to hang free between where it is held on both sides, m: the arc that it follows, and a tenth more.
    pub fn free_m(&self) -> Option<f64> {
        Some(1.1 * self.angle_deg?.to_radians() * self.radius_m?)
    }
}

impl MovingKind {
    /// Whether it only bends: a wire that does never loses touch.
    pub fn bends(self) -> bool {
        matches!(self, MovingKind::Hinge | MovingKind::Loop)
    }

    /// Resistance, ohm, and share of the time without contact, of one in fair condition (representative).
    pub fn usual(self) -> (f64, f64) {
        if self.bends() { (0.0, 0.0) } else { (0.3, 0.02) }
    }
}

mod sense {
    use super::super::super::read::Object;
    use super::Feed;

    pub(super) fn feed(feed: &mut Feed, o: &mut Object<'_, '_>) {
        if feed.slack_m.is_some_and(|slack| slack > feed.length_m) {
            o.fault("slack_m", "the slack is longer than the wire", "Count the slack into `length_m`");
        }
    }
}
