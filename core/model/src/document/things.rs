//! What a build consists of, one type a thing.

use crate::words;
use serde::Serialize;
use std::collections::BTreeMap;

macro_rules! data {
    ($($item:item)*) => { $(
        #[derive(Clone, Debug, PartialEq, Serialize)]
        #[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
        $item
    )* };
}

words! {
    /// What is being lit.
    VehicleKind {
        /// A deck on four wheels.
        Skateboard = "skateboard",
        /// Two or three wheels, with pedals.
        Bicycle = "bicycle",
        /// A power wheelchair: a medical device.
        Wheelchair = "wheelchair",
        /// A radio-controlled car, boat or plane.
        RcModel = "rc_model",
        /// A multirotor.
        Drone = "drone",
        /// A camper or trailer.
        Rv = "rv",
        /// Anything else.
        Other = "other",
    }
}

words! {
    /// Cell chemistry of a battery.
    Chemistry {
        /// Lithium-ion with a cobalt or manganese oxide cathode.
        LiIon = "li_ion",
        /// Lithium polymer pouch, high discharge rate.
        Lipo = "lipo",
        /// Lithium iron phosphate.
        Lifepo4 = "lifepo4",
        /// Flooded lead-acid.
        LeadFlooded = "lead_flooded",
        /// Lead-acid with absorbed glass mat.
        LeadAgm = "lead_agm",
        /// Nickel metal hydride.
        Nimh = "nimh",
        /// Primary alkaline.
        Alkaline = "alkaline",
    }
}

words! {
    /// Where the lights are tapped from the battery.
    Tap {
        /// The main discharge leads.
        Main = "main",
        /// An accessory output with its own limit.
        Accessory = "accessory",
        /// The balance connector: thin, and it unbalances the cells.
        BalanceLead = "balance_lead",
        /// One battery of a series pair: it empties before its neighbour.
        OneOfSeries = "one_of_series",
    }
}

words! {
    /// How current gets back from a consumer.
    Return {
        /// A wire of the feed's own gauge.
        Wire = "wire",
        /// The metal frame of the vehicle.
        Frame = "frame",
    }
}

words! {
    /// A fuse's family; each has its own standard ratings.
    FuseStyle {
        /// Automotive blade fuse, 32 V.
        Blade = "blade",
        /// Blade fuse for 58 V.
        #[serde(rename = "blade_58v")]
        Blade58v = "blade_58v",
        /// Glass cartridge.
        Glass = "glass",
        /// Ceramic cartridge.
        Ceramic = "ceramic",
        /// Self-resetting polymer fuse; the rating is its hold current.
        Ptc = "ptc",
    }
}

words! {
    /// What a converter does with voltage or current.
    ConverterKind {
        /// Switching step-down.
        Buck = "buck",
        /// Switching step-up.
        Boost = "boost",
        /// Switching, either way.
        BuckBoost = "buck_boost",
        /// Linear regulator.
        Linear = "linear",
        /// Constant-current step-down driver.
        CurrentDriver = "current_driver",
    }
}

words! {
    /// How a sealed module draws current.
    Draw {
        /// A switching supply inside: constant power.
        ConstantPower = "constant_power",
        /// A linear regulator inside: constant current.
        ConstantCurrent = "constant_current",
        /// Ohmic.
        Resistive = "resistive",
        /// An incandescent lamp.
        Filament = "filament",
    }
}

words! {
    /// What a place does to a light and its wire.
    Trait {
        /// Rain, spray or washing reaches it.
        Wet = "wet",
        /// Near a motor, a brake or the sun.
        Hot = "hot",
        /// It folds, steers, lifts or turns.
        Moving = "moving",
        /// What sits there must come off again.
        Removable = "removable",
        /// No holes here.
        NoDrill = "no_drill",
    }
}

data! {
    /// What is to be known of a place on the vehicle.
    pub struct Place {
        /// As lights name it in `place`.
        pub name: String,
        /// What it does to a light and its wire.
        pub traits: Vec<Trait>,
        /// The person's words.
        #[serde(skip_serializing_if = "String::is_empty")]
        pub note: String,
    }

    /// What is lit.
    pub struct Vehicle {
        /// Kind, which decides the outline and the cautions.
        pub kind: VehicleKind,
        /// Mass ready to move, kg.
        pub mass_kg: f64,
        /// Measured resistance of the frame between the two places used as a return, ohm.
        pub frame_return_ohm: Option<f64>,
        /// `None` when the motor is not on this battery.
        pub propulsion: Option<Propulsion>,
        /// How it hovers without these lights, where a rail hides the flight battery.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub hover: Option<Hover>,
    }

    /// A craft that hovers, without the lights.
    pub struct Hover {
        /// Power that hovering takes, W.
        pub power_w: f64,
        /// How long it hovers on one charge, min.
        pub minutes: f64,
    }

    /// What moving takes from the same battery.
    pub struct Propulsion {
        /// Mean power at `speed_kmh`, W.
        pub power_w: f64,
        /// Usual speed, km/h.
        pub speed_kmh: f64,
    }

    /// Where the power comes from.
    #[serde(tag = "kind", rename_all = "snake_case")]
    pub enum Source {
        /// A battery of cells.
        Battery(Battery),
        /// An existing regulated rail.
        Rail(Rail),
    }

    /// A battery.
    pub struct Battery {
        /// Cell chemistry.
        pub chemistry: Chemistry,
        /// Cells in series.
        pub series: u32,
        /// Strings in parallel.
        pub parallel: u32,
        /// Capacity of the whole pack at its rated discharge, Ah.
        pub capacity_ah: f64,
        /// Discharge time the capacity is stated for, h.
        pub rated_hours: f64,
        /// Measured resistance of the pack, ohm; `None`: by chemistry.
        pub resistance_ohm: Option<f64>,
        /// Discharge limit, A.
        pub max_current_a: f64,
        /// Share of the capacity that may be used; `None`: by chemistry.
        pub usable_fraction: Option<f64>,
        /// Peukert exponent; `None`: by chemistry.
        pub peukert: Option<f64>,
        /// Charging voltage of one cell, V; `None`: by chemistry.
        pub charge_v: Option<f64>,
        /// Lights may be on while the charger is.
        pub used_while_charging: bool,
        /// Where the lights are tapped.
        pub tap: Tap,
        /// Limit of that tap, A.
        pub tap_limit_a: Option<f64>,
        /// Whether something switches it off before its cells are harmed; `None`: by chemistry.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub protected: Option<bool>,
    }

    /// An existing regulated rail.
    pub struct Rail {
        /// Voltage without load, V.
        pub voltage_v: f64,
        /// Source resistance, ohm.
        pub resistance_ohm: f64,
        /// Limit, A.
        pub max_current_a: f64,
        /// What else draws from it, A.
        pub other_load_a: f64,
    }

    /// A point where one feed becomes several.
    pub struct Junction {
        /// Unique among suppliers and lights.
        pub id: String,
        /// What feeds it.
        pub feed: Feed,
    }

    /// A converter. `set_v` is present unless it is a current driver, `set_a` is present when it is one.
    pub struct Converter {
        /// Unique among suppliers and lights.
        pub id: String,
        /// What feeds it.
        pub feed: Feed,
        /// What it does.
        pub kind: ConverterKind,
        /// Output voltage, V.
        pub set_v: Option<f64>,
        /// Output current of a driver, A.
        pub set_a: Option<f64>,
        /// Below this input it is off, V.
        pub min_in_v: f64,
        /// Above this input it breaks, V.
        pub max_in_v: f64,
        /// Output limit, A.
        pub max_out_a: f64,
        /// Input limit, A.
        pub max_in_a: Option<f64>,
        /// Least difference between input and output of a step-down, V.
        pub dropout_v: f64,
        /// Diode drop of a step-up that passes its input through, V.
        pub pass_drop_v: f64,
        /// Output power over input power.
        pub efficiency: Efficiency,
        /// Input current with nothing on the output, A.
        pub idle_a: f64,
        /// Heat that it can get rid of, W; `None`: 1.2 for a linear regulator, unknown for the others.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub max_loss_w: Option<f64>,
        /// Mass, g.
        pub mass_g: f64,
    }

    /// Efficiency of a converter: one figure, or points over input voltage.
    #[serde(untagged)]
    pub enum Efficiency {
        /// The same at every input.
        Constant(f64),
        /// Linear between points, flat outside; input voltages rise.
        Table(Vec<EfficiencyPoint>),
    }

    /// One point of an efficiency table.
    pub struct EfficiencyPoint {
        /// Input voltage, V.
        pub vin_v: f64,
        /// Efficiency there, 0 to 1.
        pub efficiency: f64,
    }

    /// A light.
    pub struct Light {
        /// Unique among suppliers and lights.
        pub id: String,
        /// Where it sits, in the words of the vehicle's outline or the person's own.
        pub place: String,
        /// At least one; only a strip or pixels may have several.
        pub feeds: Vec<Feed>,
        /// What it is.
        pub load: Load,
        /// Mass, g.
        pub mass_g: f64,
        /// Colour of its light by name, where the load does not say.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub colour: Option<String>,
    }

    /// Two conductors from a supplier to a consumer, with what sits in them.
    pub struct Feed {
        /// `source`, or a converter's or junction's id.
        pub from: String,
        /// Where it joins a strip, m from its start.
        pub at_m: f64,
        /// One way, slack included, m.
        pub length_m: f64,
        /// Conductor size.
        pub gauge: Gauge,
        /// Way back.
        #[serde(rename = "return")]
        pub return_path: Return,
        /// Fuse at its start.
        pub fuse: Option<Fuse>,
        /// Switch in it.
        pub switch: Option<Switch>,
        /// Mated plugs in it.
        pub contacts: u32,
        /// Their rating, A.
        pub contact_rating_a: Option<f64>,
        /// Loaded circuits that run in one bundle with it, itself included.
        pub bundled: u32,
        /// Part of `length_m` that is slack for folding, steering and lifting, m.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub slack_m: Option<f64>,
        /// Insulation colour of the plus conductor.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub plus_colour: Option<String>,
        /// Insulation colour of the minus conductor.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub minus_colour: Option<String>,
    }

    /// A fuse.
    pub struct Fuse {
        /// Family.
        pub style: FuseStyle,
        /// Rating, A.
        pub rating_a: f64,
    }

    /// A switch.
    pub struct Switch {
        /// Rating, A.
        pub rating_a: f64,
    }

    /// What a light is, electrically.
    #[serde(tag = "kind", rename_all = "snake_case")]
    pub enum Load {
        /// Single LEDs in strings.
        LedArray(LedArray),
        /// Cut-to-length strip.
        Strip(Strip),
        /// Addressable pixels.
        Pixels(Pixels),
        /// Sealed module or bulb.
        Module(Module),
    }

    /// One LED's datasheet figures.
    pub struct Led {
        /// Colour by name.
        pub colour: String,
        /// Forward voltage at `if_a`, V.
        pub vf_v: f64,
        /// Rated current, A.
        pub if_a: f64,
        /// Absolute limit, A.
        pub if_max_a: f64,
        /// Ideality factor; `None`: 2.
        pub n: Option<f64>,
        /// Series resistance, ohm; `None`: `0.08 * vf_v / if_a`.
        pub rs_ohm: Option<f64>,
    }

    /// `parallel` strings of `series` LEDs, each string with a resistor of its own.
    pub struct LedArray {
        /// The LED.
        pub led: Led,
        /// LEDs in a string.
        pub series: u32,
        /// Strings.
        pub parallel: u32,
        /// Resistor of each string, ohm; 0: none.
        pub resistor_ohm: f64,
        /// Its power rating, W.
        pub resistor_w: f64,
    }

    /// Cut-to-length strip, not addressable.
    pub struct Strip {
        /// Rated voltage, V.
        pub voltage_v: f64,
        /// Power at that voltage, W/m.
        pub power_w_per_m: f64,
        /// Distance between cuts, m.
        pub segment_m: f64,
        /// LEDs in series in a segment.
        pub leds_per_segment: u32,
        /// Forward voltage of each, V.
        pub led_vf_v: f64,
        /// Resistance of each rail, ohm/m.
        pub rail_ohm_per_m: f64,
        /// Largest current along either rail, A; `None`: what the copper of a common strip carries.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub rail_max_a: Option<f64>,
        /// Length, m.
        pub length_m: f64,
    }

    /// Addressable pixels on one data line.
    pub struct Pixels {
        /// Rated voltage, V.
        pub voltage_v: f64,
        /// Full current of each channel, A.
        pub channel_a: [f64; 3],
        /// Current of a dark pixel, A.
        pub idle_a: f64,
        /// Distance between pixels, m.
        pub pitch_m: f64,
        /// Resistance of each rail, ohm/m.
        pub rail_ohm_per_m: f64,
        /// Largest current along either rail, A; `None`: what the copper of a common strip carries.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub rail_max_a: Option<f64>,
        /// Voltage from which a channel holds its current, V.
        pub regulation_v: [f64; 3],
        /// Voltage below which a channel is dark, V.
        pub off_v: [f64; 3],
        /// Number of pixels.
        pub count: u32,
    }

    /// Sealed module or bulb.
    pub struct Module {
        /// How it draws.
        pub draw: Draw,
        /// Rated voltage, V.
        pub voltage_v: f64,
        /// Power at that voltage, W.
        pub power_w: f64,
        /// Lowest input, V.
        pub min_v: f64,
        /// Highest input, V.
        pub max_v: f64,
    }

    /// A load that is always there.
    pub struct Standing {
        /// Unique among standing loads.
        pub id: String,
        /// Current at the source, A.
        pub current_a: f64,
        /// Hours it is on, per day.
        pub hours_per_day: f64,
        /// It is wired ahead of the main disconnect and stays on: a gas alarm, a bilge pump.
        #[serde(skip_serializing_if = "std::ops::Not::not")]
        pub ahead_of_disconnect: bool,
    }

    /// What is lit together. A light that is not named is off.
    pub struct Scene {
        /// Unique among scenes.
        pub id: String,
        /// Name for people.
        pub name: String,
        /// By light id.
        pub lights: BTreeMap<String, SceneLight>,
    }

    /// How a scene lights one light.
    pub struct SceneLight {
        /// 0 to 1.
        pub level: f64,
        /// Red, green, blue, each 0 to 1; used by pixels.
        pub colour: [f64; 3],
        /// Share of the time it is on, 0 to 1.
        pub duty: f64,
    }

    /// How the build is used.
    #[derive(Default)]
    pub struct Usage {
        /// Outings a week.
        pub outings_per_week: f64,
        /// Minutes of each scene in an outing, by scene id.
        pub minutes: BTreeMap<String, f64>,
        /// Temperature of the battery, °C; `None`: 25.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub temperature_c: Option<f64>,
        /// What age has left of the capacity, 0 to 1; `None`: all of it.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub capacity_left: Option<f64>,
        /// Current of the charger, A.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub charger_a: Option<f64>,
        /// What sun or an engine brings back each day.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub gain: Option<Gain>,
    }

    /// Charging by the day.
    pub struct Gain {
        /// Hours a day.
        pub hours_per_day: f64,
        /// At this mean current into the battery, A.
        pub current_a: f64,
    }

    /// What is on the battery now, before anything is replaced.
    #[derive(Default)]
    pub struct Audit {
        /// Bulbs by type.
        pub bulbs: Vec<AuditBulb>,
        /// What a meter said, A.
        pub measured: AuditMeasured,
    }

    /// Bulbs of one type.
    pub struct AuditBulb {
        /// Unique in the audit.
        pub id: String,
        /// Id of a bulb in the library or among the build's own parts.
        pub part: String,
        /// How many there are.
        pub count: u32,
        /// How many are on in a usual evening.
        pub usual: u32,
        /// Hours a day that those are on.
        pub hours_per_day: f64,
        /// Id of the bulb that replaces them.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub replacement: Option<String>,
    }

    /// Currents that a meter showed at the battery, A.
    #[derive(Default)]
    pub struct AuditMeasured {
        /// In a usual evening.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub usual_a: Option<f64>,
        /// With everything on.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub all_a: Option<f64>,
        /// With every light off.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub rest_a: Option<f64>,
        /// With the main disconnect open.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub disconnected_a: Option<f64>,
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
    pub(super) fn new(id: &str, number: usize, consumer: Consumer, feed: &'a Feed) -> Self {
        let id = if number == 0 { id.to_owned() } else { format!("{id}#{number}") };
        FeedRef { id, number, consumer, feed }
    }
}

impl Strip {
    /// Whole segments in its length.
    pub fn segments(&self) -> u32 {
        (self.length_m / self.segment_m + 1e-9).floor() as u32
    }
}
