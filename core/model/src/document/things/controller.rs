//! What tells lights what to do.

use super::*;

choice! {
    /// One pin of a controller with what hangs on it.
    pub enum Output of OutputKind {
        /// Data for pixels.
        Data(DataOutput),
        /// One light.
        Pin(PinOutput),
    }
}

record! {
    /// What tells lights what to do.
    pub struct Controller {
        /// Unique among suppliers and lights.
        pub id: String = id(),
        /// What feeds it.
        pub feed: Feed = thing(),
        /// What it is.
        pub kind: ControllerKind = thing().label("Controller"),
        /// Of a pin that is high, V.
        pub logic_v: f64 = number(VOLT).or(3.3).label("Signal voltage"),
        /// What it takes itself, A.
        pub idle_a: f64 = number(AMP_OR_ZERO).or(0.0).label("Own current").shown("mA"),
        /// Works from, V.
        pub min_in_v: f64 = number(VOLT_OR_ZERO).or(4.5).label("Works from").seldom(),
        /// Stands up to, V.
        pub max_in_v: f64 = number(VOLT).or(5.5).label("Rated for up to").seldom(),
        /// What a pin gives, A.
        pub pin_max_a: f64 = number(AMP).or(0.02).label("Current per pin").shown("mA"),
        /// What all of them give together, A.
        pub pins_total_a: f64 = number(AMP).or(0.2).label("All pins together").shown("mA").seldom(),
        /// Most pixels that it can number; `None`: more than anybody has.
        pub pixel_limit: Option<u32> = count(1, 100_000).label("Pixels it can number").nothing("no limit").seldom(),
        /// It keeps its pixels below this, A; `None`: it does not.
        pub limit_a: Option<f64> = number(AMP).label("Limits the pixels to").nothing("no limit"),
        /// Mass, g.
        pub mass_g: f64 = number(GRAM).or(0.0).label("Mass").seldom(),
        /// Whether it outlives plus and minus swapped; `None`: no.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub reverse_ok: Option<bool> = thing().label("Stands plus and minus swapped").seldom(),
        /// Whether it keeps water out; `None`: no.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub sealed: Option<bool> = thing().label("Sealed").seldom(),
        /// Where it sits, in the words of the vehicle's outline or the person's own.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub place: Option<String> = text(200).label("Sits at").seldom(),
        /// The receiver of a remote control, where it has one.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub remote: Option<Remote> = thing(),
        /// What hangs on its pins.
        pub outputs: Vec<Output> = list(100),
    }

    /// The receiver of a remote control.
    pub struct Remote {
        /// How it is spoken to.
        pub kind: RemoteKind = thing().label("Remote control by"),
        /// What it takes all the time, A.
        pub idle_a: f64 = number(AMP_OR_ZERO).or(0.01).label("Its receiver takes").shown("mA"),
    }

    /// A pin that carries data for pixels.
    pub struct DataOutput {
        /// The pin, as printed.
        pub pin: String = text(40).label("Pin"),
        /// Pieces in the order in which data passes them.
        pub chain: Vec<Link> = list(MAX_LIST),
    }

    /// A pin that switches or dims one light.
    pub struct PinOutput {
        /// The pin, as printed.
        pub pin: String = text(40).label("Pin"),
        /// The light.
        pub light: String = text(80).label("Light"),
        /// What carries it.
        pub through: PinThrough = thing().or_word("pin").label("Through"),
        /// Resistor between pin and LED, base or gate, ohm.
        pub ohm: f64 = number(OHM).or(0.0).label("Resistor at the pin"),
        /// Pulsed so often, Hz.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub hz: Option<f64> = number(Range::above_zero(1e6, "Hz")).label("Pulsed at").nothing("steady"),
    }

    /// A piece of a chain, or several that share their numbers.
    pub struct Link {
        /// The light.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub light: Option<String> = text(80).label("Piece"),
        /// Lights that share their numbers and show the same.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub copies: Option<Vec<String>> = list(50),
        /// Which way round.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub mounted: Option<Mounted> = thing().label("Mounted"),
        /// Data wire to it, m.
        pub wire_m: f64 = number(METRE_OR_ZERO).or(0.0).label("Data wire to it"),
    }
}

impl Link {
    /// The lights of this piece: one, or those that share their numbers.
    pub fn lights(&self) -> impl Iterator<Item = &String> {
        self.light.iter().chain(self.copies.iter().flatten())
    }
}

impl Controller {
    /// What it takes by itself with the receiver of its remote control, A.
    pub fn draws_a(&self) -> f64 {
        self.idle_a + self.remote.as_ref().map_or(0.0, |remote| remote.idle_a)
    }
}

impl Output {
    /// The pin, as printed.
    pub fn pin(&self) -> &str {
        match self {
            Output::Data(output) => &output.pin,
            Output::Pin(output) => &output.pin,
        }
    }

    /// Pieces of its chain; a pin for one light has none.
    pub fn links(&self) -> &[Link] {
        self.data().map_or(&[], |output| &output.chain)
    }

    /// What it is where it carries data.
    pub fn data(&self) -> Option<&DataOutput> {
        if let Output::Data(output) = self { Some(output) } else { None }
    }

    /// The same, to be changed.
    pub fn data_mut(&mut self) -> Option<&mut DataOutput> {
        if let Output::Data(output) = self { Some(output) } else { None }
    }

    /// What it is where it carries one light.
    pub fn one_light(&self) -> Option<&PinOutput> {
        if let Output::Pin(output) = self { Some(output) } else { None }
    }

    /// The same, to be changed.
    pub fn one_light_mut(&mut self) -> Option<&mut PinOutput> {
        if let Output::Pin(output) = self { Some(output) } else { None }
    }
}

impl RemoteKind {
    /// What its receiver usually takes all the time, A.
    pub fn usual_idle_a(self) -> f64 {
        match self {
            RemoteKind::Infrared => 0.002,
            RemoteKind::Radio => 0.015,
        }
    }

    /// What it asks of the place where its receiver is.
    pub fn asks(self) -> &'static str {
        match self {
            RemoteKind::Infrared => "Can the receiver see the remote from where you hold it? Dirt, snow and a sleeve blind it; bright sun does, too.",
            RemoteKind::Radio => "Is its band licence-free where you live? Pair it on the bench, before it is closed in.",
        }
    }
}
