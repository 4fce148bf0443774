//! Lights.

use super::*;

choice! {
    /// What a light is, electrically.
    pub enum Load of LoadKind {
        /// Single LEDs in strings.
        LedArray(LedArray),
        /// Cut-to-length strip.
        Strip(Strip),
        /// Addressable pixels.
        Pixels(Pixels),
        /// Sealed module or bulb.
        Module(Module),
    }
}

record! {
    /// A light.
    pub struct Light {
        /// Unique among suppliers and lights.
        pub id: String = id(),
        /// Where it sits, in the words of the vehicle's outline or the person's own.
        pub place: String = text(200).or_word("").label("Place"),
        /// At least one; only a strip or pixels may have several.
        pub feeds: Vec<Feed> = list(MAX_FEEDS),
        /// What it is.
        pub load: Load = thing(),
        /// Mass, g.
        pub mass_g: f64 = number(GRAM).or(0.0).label("Mass"),
        /// Colour of its light by name, where the load does not say.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub colour: Option<String> = text(40).label("Colour of its light"),
        /// What its light is for; empty: nobody said.
        #[serde(rename = "for")]
        #[serde(skip_serializing_if = "Option::is_none")]
        pub purpose: Option<Purpose> = thing().label("It is for").nothing("not said").term("what a light is for"),
        /// Whether it outlives plus and minus swapped; `None`: LEDs and filaments do, all else does not.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub reverse_ok: Option<bool> = thing().label("Stands plus and minus swapped").nothing("as usual for its kind").seldom(),
        /// Whether it keeps water out; `None`: modules do, strips and pixels do not.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub sealed: Option<bool> = thing().label("Sealed").nothing("as usual for its kind").seldom(),
        /// Whether metal carries its heat away along its length.
        #[serde(skip_serializing_if = "std::ops::Not::not")]
        pub profile: bool = thing().or_flag(false).label("In a metal profile").seldom(),
        /// How its light leaves it; empty: as usual for its kind.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub shine: Option<Shine> = thing(),
    }

    /// How light leaves a light.
    #[derive(Default)]
    pub struct Shine {
        /// Luminous flux at rated power, lm; `None`: as usual for its kind and colour.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub lm: Option<f64> = number(LUMEN).label("Light at full power").term("lumen").nothing("as usual for its kind"),
        /// Angle from its axis to half its intensity, deg; `None`: as usual for its kind.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub half_angle_deg: Option<f64> = number(HALF_ANGLE).label("Half angle").term("half angle").nothing("as usual for its kind"),
        /// Its axis below level, deg; `None`: as its place has it.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub down_deg: Option<f64> = number(Range::within(0.0, 90.0, "deg")).label("Aimed down by").nothing("as its place has it"),
        /// A lens or a reflector before it.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub lens: Option<Lens> = thing(),
        /// Something milky before it.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub diffuser: Option<Diffuser> = thing(),
        /// What keeps its light from where none should be.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub coats: Option<Coats> = thing(),
    }

    /// A lens or a reflector: it gathers light into a beam.
    pub struct Lens {
        /// Angle from the axis of the beam to half its intensity, deg.
        pub half_angle_deg: f64 = number(HALF_ANGLE).label("Half angle of the beam").term("half angle"),
        /// Share of the light that passes.
        pub through: f64 = number(SHARE_ABOVE_ZERO).or(0.85).label("Passes").shown("%"),
    }

    /// Something milky before a light: it spreads its light and hides single points.
    pub struct Diffuser {
        /// From the LEDs to it, mm; `None`: nobody measured it.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub distance_mm: Option<f64> = number(MILLIMETRE).label("Distance to the LEDs").term("diffuser").nothing("not measured"),
        /// Share of the light that passes.
        pub through: f64 = number(SHARE_ABOVE_ZERO).or(0.6).label("Passes").shown("%"),
    }

    /// Coats of paint against light where none should be.
    pub struct Coats {
        /// Of what.
        pub kind: CoatKind = thing().label("Coats of"),
        /// How many.
        pub count: u32 = count(1, 20).label("Coats"),
    }

    /// One LED's datasheet figures.
    pub struct Led {
        /// Colour by name.
        pub colour: String = text(40).or_word("white").label("Colour").suggests(&LED_COLOURS),
        /// Forward voltage at `if_a`, V.
        pub vf_v: f64 = number(Range::above_zero(100.0, "V")).label("Forward voltage").term("forward voltage"),
        /// Rated current, A.
        pub if_a: f64 = number(Range::above_zero(100.0, "A")).label("Rated current").term("rated current").shown("mA"),
        /// Absolute limit, A.
        pub if_max_a: f64 = number(Range::above_zero(100.0, "A")).label("Absolute limit").shown("mA"),
        /// Ideality factor; `None`: 2.
        pub n: Option<f64> = number(Range::above_zero(20.0, "")).label("Ideality factor"),
        /// Series resistance, ohm; `None`: `0.08 * vf_v / if_a`.
        pub rs_ohm: Option<f64> = number(OHM).label("Series resistance"),
    }

    /// `parallel` strings of `series` LEDs, each string with a resistor of its own.
    pub struct LedArray {
        /// The LED.
        pub led: Led = thing(),
        /// LEDs in a string.
        pub series: u32 = count(1, 1000).label("LEDs in a row").term("row"),
        /// Strings.
        pub parallel: u32 = count(1, 10_000).label("Rows side by side").term("parallel"),
        /// Resistor of each string, ohm; 0: none.
        pub resistor_ohm: f64 = number(OHM).label("Resistor per row").term("resistor"),
        /// Its power rating, W.
        pub resistor_w: f64 = number(WATT_OR_ZERO).or(0.0).label("Its rating"),
        /// Whether all strings share one resistor, of `resistor_ohm`.
        #[serde(skip_serializing_if = "std::ops::Not::not")]
        pub shared_resistor: bool = thing().or_flag(false).label("All rows share one resistor").seldom(),
        /// From the heat of an emitter to the air, K/W; `None`: a bare star's.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub sink_k_per_w: Option<f64> = number(Range::above_zero(1000.0, "K/W")).label("Its heat sink").term("heat sink").seldom(),
        /// Emitters on one heat sink; `None`: each has its own.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub on_one_sink: Option<u32> = count(1, 10_000).label("Emitters on one heat sink").nothing("one").seldom(),
    }

    /// Cut-to-length strip, not addressable.
    pub struct Strip {
        /// Rated voltage, V.
        pub voltage_v: f64 = number(VOLT).label("Rated voltage"),
        /// Power at that voltage, W/m.
        pub power_w_per_m: f64 = number(Range::above_zero(1e6, "W/m")).label("Power a metre"),
        /// Distance between cuts, m.
        pub segment_m: f64 = number(SEGMENT).label("Segment").term("segment").shown("mm"),
        /// LEDs in series in a segment.
        pub leds_per_segment: u32 = count(1, 1000).label("LEDs in a segment"),
        /// Forward voltage of each, V.
        pub led_vf_v: f64 = number(Range::above_zero(100.0, "V")).label("Forward voltage of each").term("forward voltage"),
        /// Resistance of each rail, ohm/m.
        pub rail_ohm_per_m: f64 = number(OHM_PER_METRE).label("Resistance of a rail"),
        /// Largest current along either rail, A; `None`: what the copper of a common strip carries.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub rail_max_a: Option<f64> = number(AMP).label("Its rails carry"),
        /// Length, m.
        pub length_m: f64 = number(METRE).label("Length").term("strip"),
        /// How its segments were cut again for a lower rail; `None`: they are as bought.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub recut: Option<Recut> = thing(),
    }

    /// A segment cut again: of its LEDs some are used, in rows side by side, each row with its own resistor between the rails.
    pub struct Recut {
        /// Rows side by side.
        pub groups: u32 = count(1, 1000).label("Rows side by side"),
        /// Resistor of each row, ohm.
        pub resistor_ohm: f64 = number(OHM).label("Resistor of each row"),
        /// LEDs used of those in the segment.
        pub used: u32 = count(1, 1000).label("LEDs used"),
    }

    /// Addressable pixels on one data line.
    pub struct Pixels {
        /// Rated voltage, V.
        pub voltage_v: f64 = number(VOLT).label("Rated voltage"),
        /// Full current of each channel, A.
        pub channel_a: [f64; 3] = number(Range::within(0.0, 10.0, "A")).label("Full current of red, green, blue").shown("mA"),
        /// Current of a dark pixel, A.
        pub idle_a: f64 = number(Range::within(0.0, 10.0, "A")).or(0.0).label("Current of a dark pixel").shown("mA"),
        /// Distance between pixels, m.
        pub pitch_m: f64 = number(PITCH).label("From pixel to pixel").shown("mm"),
        /// Resistance of each rail, ohm/m.
        pub rail_ohm_per_m: f64 = number(OHM_PER_METRE).label("Resistance of a rail"),
        /// Largest current along either rail, A; `None`: what the copper of a common strip carries.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub rail_max_a: Option<f64> = number(AMP).label("Its rails carry"),
        /// Voltage from which a channel holds its current, V.
        pub regulation_v: [f64; 3] = number(VOLT).label("Holds its current from"),
        /// Voltage below which a channel is dark, V.
        pub off_v: [f64; 3] = number(VOLT_OR_ZERO).label("Dark below"),
        /// Number of pixels.
        pub count: u32 = count(1, MAX_TAPS as u32).label("Pixels").term("pixel"),
    }

    /// Sealed module or bulb.
    pub struct Module {
        /// How it draws.
        pub draw: Draw = thing().label("How it draws"),
        /// Rated voltage, V.
        pub voltage_v: f64 = number(VOLT).label("Rated voltage"),
        /// Power at that voltage, W.
        pub power_w: f64 = number(WATT).label("Power"),
        /// Lowest input, V.
        pub min_v: f64 = number(VOLT_OR_ZERO).or(0.0).label("Works from"),
        /// Highest input, V.
        pub max_v: f64 = number(VOLT).or(1000.0).label("Rated for up to"),
        /// What it takes for an instant at switch-on, A; `None`: a filament ten times its current, of others not known.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub inrush_a: Option<f64> = number(AMP).label("Takes at switch-on").nothing("not known").term("inrush").seldom(),
    }
}

impl Light {
    /// Whether it keeps water out: as it was said, else modules come sealed, and strips and pixels bare. Single LEDs are taken
    /// for sealed: it depends on who soldered them.
    pub fn is_sealed(&self) -> bool {
        self.sealed.unwrap_or(!matches!(self.load, Load::Strip(_) | Load::Pixels(_)))
    }
}

impl LedArray {
    /// One row, of which nothing is decided yet.
    pub fn row(led: Led, series: u32) -> Self {
        let (resistor_ohm, resistor_w) = (0.0, 0.25);
        LedArray { led, series, parallel: 1, resistor_ohm, resistor_w, shared_resistor: false, sink_k_per_w: None, on_one_sink: None }
    }

    /// Resistance that each string has to itself, ohm: of a resistor that all share, what its drop is over the current of one.
    pub fn row_ohm(&self) -> f64 {
        if self.shared_resistor { self.resistor_ohm * f64::from(self.parallel) } else { self.resistor_ohm }
    }

    /// Current through one resistor while each string carries this, A.
    pub fn resistor_a(&self, string_a: f64) -> f64 {
        if self.shared_resistor { string_a * f64::from(self.parallel) } else { string_a }
    }
}

impl Recut {
    /// LEDs in each row.
    pub fn series(&self) -> u32 {
        (self.used / self.groups.max(1)).max(1)
    }
}

impl Strip {
    /// Whole segments in its length.
    pub fn segments(&self) -> u32 {
        (self.length_m / self.segment_m + 1e-9).floor() as u32
    }
}
