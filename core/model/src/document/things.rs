//! What a build consists of, one type a thing.

use super::field::{Empty, Range, Rule, count, id, list, number, text, thing};
use super::limits::{LEAST_PITCH_M, LEAST_SEGMENT_M, MAX_FEEDS, MAX_LIST, MAX_TAPS};
use super::record::{choice, read_words, record};
use crate::practice::{INSULATION, LED_COLOURS};
use crate::words;
use serde::Serialize;
use std::collections::BTreeMap;

const VOLT: Range = Range::above_zero(1000.0, "V");
const VOLT_OR_ZERO: Range = Range::within(0.0, 1000.0, "V");
pub(super) const AMP: Range = Range::above_zero(10_000.0, "A");
const AMP_OR_ZERO: Range = Range::within(0.0, 10_000.0, "A");
const WATT: Range = Range::above_zero(1e6, "W");
const WATT_OR_ZERO: Range = Range::within(0.0, 1e6, "W");
const OHM: Range = Range::within(0.0, 1e9, "ohm");
const OHM_PER_METRE: Range = Range::within(0.0, 1e9, "ohm/m");
const METRE: Range = Range::above_zero(10_000.0, "m");
/// Nothing is cut or spaced finer; shorter ones would only ask for more work than there is.
const SEGMENT: Range = Range::within(LEAST_SEGMENT_M, 10_000.0, "m");
const PITCH: Range = Range::within(LEAST_PITCH_M, 10_000.0, "m");
const METRE_OR_ZERO: Range = Range::within(0.0, 10_000.0, "m");
const SHARE: Range = Range::within(0.0, 1.0, "1");
const SHARE_ABOVE_ZERO: Range = Range::above_zero(1.0, "1");
const DAY: Range = Range::within(0.0, 24.0, "h");
const FARAD: Range = Range::above_zero(100.0, "F");
/// Colours of one effect.
const MAX_COLOURS: usize = 64;
const MILLIMETRE: Range = Range::above_zero(20_000.0, "mm");
const GRAM: Range = Range::within(0.0, 1e6, "g");

words! {
    /// What is being lit.
    VehicleKind {
        /// Two or three wheels, with pedals.
        Bicycle = "bicycle" called "bicycle or trike",
        /// A deck on four wheels.
        Skateboard = "skateboard",
        /// A power wheelchair: a medical device.
        Wheelchair = "wheelchair" called "power wheelchair",
        /// A radio-controlled car, boat or plane.
        RcModel = "rc_model" called "RC model",
        /// A multirotor.
        Drone = "drone",
        /// A camper or trailer.
        Rv = "rv" called "camper or trailer",
        /// Anything else.
        Other = "other" called "something else",
    }
}

words! {
    /// What pixels do over time.
    EffectKind {
        /// One colour.
        Steady = "steady",
        /// One colour, then another or none.
        Blink = "blink",
        /// Swelling and fading.
        Breathe = "breathe" called "breathing",
        /// A bright spot with a tail runs round.
        Chase = "chase",
        /// A bright spot runs to the end and back.
        ToAndFro = "to_and_fro" called "to and fro",
        /// All hues, moving along.
        Rainbow = "rainbow",
        /// From colour to colour, moving along.
        Gradient = "gradient",
        /// Glowing coals.
        Ember = "ember" called "embers",
        /// As many pixels as an input says.
        Level = "level",
        /// A colour between others, as an input says.
        Mix = "mix" called "colour by a figure",
        /// A colour or effect for each word of an input.
        Table = "table" called "one for each word",
    }
}

words! {
    /// What a show can follow.
    ShowInput {
        /// Share of the charge.
        Battery = "battery" called "charge",
        /// Share of its top speed.
        Speed = "speed",
        /// Share of full throttle.
        Throttle = "throttle",
        /// Braking.
        Brake = "brake",
        /// Turn signal.
        Turn = "turn" called "turn signal",
        /// Motors may turn.
        Armed = "armed",
        /// How well the radio is heard.
        Signal = "signal" called "radio signal",
        /// What is wrong.
        Warning = "warning",
        /// A channel of the radio.
        Channel = "channel" called "radio channel",
        /// From hard braking to full acceleration.
        Acceleration = "acceleration",
        /// Somebody looks for it.
        Found = "found" called "call to be found",
    }
}

impl ShowInput {
    /// The words it may say, where it says words; else it is a share, 0 to 1.
    pub fn says(self) -> &'static [&'static str] {
        match self {
            ShowInput::Brake | ShowInput::Armed | ShowInput::Found => &["off", "on"],
            ShowInput::Turn => &["left", "off", "right"],
            ShowInput::Warning => &["none", "battery", "heat", "signal"],
            ShowInput::Battery | ShowInput::Speed | ShowInput::Throttle | ShowInput::Signal | ShowInput::Channel | ShowInput::Acceleration => &[],
        }
    }

    /// As a share, 0 to 1: while nobody says anything else.
    pub fn usual(self) -> f64 {
        match self {
            ShowInput::Battery | ShowInput::Signal => 1.0,
            ShowInput::Turn | ShowInput::Acceleration => 0.5,
            _ => 0.0,
        }
    }
}

words! {
    /// Day of the week.
    Weekday {
        /// Monday.
        Monday = "monday",
        /// Tuesday.
        Tuesday = "tuesday",
        /// Wednesday.
        Wednesday = "wednesday",
        /// Thursday.
        Thursday = "thursday",
        /// Friday.
        Friday = "friday",
        /// Saturday.
        Saturday = "saturday",
        /// Sunday.
        Sunday = "sunday",
    }
}

words! {
    /// What holds a part where it is.
    Fixing {
        /// Hot glue.
        HotGlue = "hot_glue" called "hot glue",
        /// Epoxy of five minutes.
        QuickEpoxy = "quick_epoxy" called "five-minute epoxy",
        /// Slow epoxy.
        SlowEpoxy = "slow_epoxy" called "slow epoxy",
        /// Superglue.
        Superglue = "superglue",
        /// Contact adhesive.
        ContactAdhesive = "contact_adhesive" called "contact adhesive",
        /// Silicone.
        Silicone = "silicone",
        /// Double-sided foam tape.
        FoamTape = "foam_tape" called "foam mounting tape",
        /// Cloth tape around it.
        ClothTape = "cloth_tape" called "cloth tape",
        /// Cable ties.
        Ties = "ties" called "cable ties",
        /// Clamps with a rubber lining.
        Clamps = "clamps" called "rubber-lined clamps",
        /// Clips it snaps into.
        Clips = "clips",
        /// Screws.
        Screws = "screws",
    }
}

words! {
    /// What a part is fixed to.
    Surface {
        /// Painted metal.
        PaintedMetal = "painted_metal" called "painted metal",
        /// Bare metal.
        BareMetal = "bare_metal" called "bare metal",
        /// Wood.
        Wood = "wood",
        /// ABS and the like.
        Abs = "abs" called "ABS or other hard plastic",
        /// Clear plastic.
        ClearPlastic = "clear_plastic" called "clear plastic",
        /// Foam.
        Foam = "foam",
        /// Fabric.
        Fabric = "fabric",
        /// A resin print.
        ResinPrint = "resin_print" called "resin print",
    }
}

words! {
    /// Cell chemistry of a battery.
    Chemistry {
        /// Lithium-ion with a cobalt or manganese oxide cathode.
        LiIon = "li_ion" called "lithium-ion",
        /// Lithium polymer pouch, high discharge rate.
        Lipo = "lipo" called "lithium polymer",
        /// Lithium iron phosphate.
        Lifepo4 = "lifepo4" called "lithium iron phosphate",
        /// Flooded lead-acid.
        LeadFlooded = "lead_flooded" called "flooded lead-acid",
        /// Lead-acid with absorbed glass mat.
        LeadAgm = "lead_agm" called "sealed lead-acid",
        /// Nickel metal hydride.
        Nimh = "nimh" called "nickel metal hydride",
        /// Primary alkaline.
        Alkaline = "alkaline",
        /// Primary lithium button cells.
        LithiumCoin = "lithium_coin" called "lithium coin cell",
    }
}

words! {
    /// Where the lights are tapped from the battery.
    Tap {
        /// The main discharge leads.
        Main = "main" called "main leads",
        /// An accessory output with its own limit.
        Accessory = "accessory" called "accessory output",
        /// The balance connector: thin, and it unbalances the cells.
        BalanceLead = "balance_lead" called "balance lead",
        /// One battery of a series pair: it empties before its neighbour.
        OneOfSeries = "one_of_series" called "one battery of a series pair",
    }
}

words! {
    /// How current gets back from a consumer.
    Return {
        /// A wire of the feed's own gauge.
        Wire = "wire" called "a wire",
        /// The metal frame of the vehicle.
        Frame = "frame" called "the frame",
    }
}

words! {
    /// A fuse's family; each has its own standard ratings.
    FuseStyle {
        /// Automotive blade fuse, 32 V.
        Blade = "blade" called "blade fuse",
        /// Blade fuse for 58 V.
        #[serde(rename = "blade_58v")]
        Blade58v = "blade_58v" called "blade fuse, 58 V",
        /// Glass cartridge.
        Glass = "glass" called "glass fuse",
        /// Ceramic cartridge.
        Ceramic = "ceramic" called "ceramic fuse",
        /// Self-resetting polymer fuse; the rating is its hold current.
        Ptc = "ptc" called "self-resetting",
    }
}

words! {
    /// What a converter does with voltage or current.
    ConverterKind {
        /// Switching step-down.
        Buck = "buck" called "step-down",
        /// Switching step-up.
        Boost = "boost" called "step-up",
        /// Switching, either way.
        BuckBoost = "buck_boost" called "step-up-down",
        /// Linear regulator.
        Linear = "linear" called "linear regulator",
        /// Constant-current step-down driver.
        CurrentDriver = "current_driver" called "constant-current driver",
    }
}

words! {
    /// How a sealed module draws current.
    Draw {
        /// A switching supply inside: constant power.
        ConstantPower = "constant_power" called "constant power: a switching supply inside",
        /// A linear regulator inside: constant current.
        ConstantCurrent = "constant_current" called "constant current: a linear regulator inside",
        /// Ohmic.
        Resistive = "resistive" called "ohmic, like a resistor",
        /// An incandescent lamp.
        Filament = "filament" called "filament",
    }
}

words! {
    /// Which small circuit it is.
    CircuitKind {
        /// A timer that flashes what hangs on its output.
        TimerFlasher = "timer_flasher" called "flasher with a timer",
        /// Two transistors that switch each other.
        TransistorFlasher = "transistor_flasher" called "flasher with two transistors",
        /// A transistor used backwards.
        BreakdownFlasher = "breakdown_flasher" called "flasher with one transistor",
        /// A capacitor that carries lights over a broken contact.
        HoldUp = "hold_up" called "hold-up",
        /// Two LEDs that tell how full the battery is.
        BatteryGauge = "battery_gauge" called "battery gauge",
        /// A transistor that a controller's pin switches.
        Switch = "switch" called "switch for a pin",
    }
}

words! {
    /// Which timer it is.
    TimerKind {
        /// Bipolar: 200 mA out, 4.5 to 16 V.
        Bipolar = "bipolar",
        /// CMOS: 20 mA out, 2 to 15 V.
        Cmos = "cmos" called "CMOS",
    }
}

words! {
    /// What carries the lights for an output or a pin.
    Through {
        /// Nothing: the output itself.
        None = "none" called "the output itself",
        /// A small NPN transistor.
        Npn = "npn" called "an NPN transistor",
        /// An N-channel MOSFET.
        Mosfet = "mosfet" called "a MOSFET",
    }
}

words! {
    /// What a controller is.
    ControllerKind {
        /// Made for pixels, with effects of its own.
        PixelController = "pixel_controller" called "pixel controller",
        /// A board that runs a program.
        Microcontroller = "microcontroller" called "microcontroller board",
        /// What flies a drone, with a pin for lights.
        FlightController = "flight_controller" called "flight controller",
    }
}

words! {
    /// How a remote control speaks to a controller.
    RemoteKind {
        /// Light that nobody sees: it needs sight.
        Infrared = "infrared",
        /// Radio of a licence-free band.
        Radio = "radio",
    }
}

words! {
    /// What hangs on an output of a controller.
    OutputKind {
        /// Data for pixels.
        Data = "data" called "data for pixels",
        /// One light, switched or dimmed.
        Pin = "pin" called "one light",
    }
}

words! {
    /// What carries a light for a pin.
    PinThrough {
        /// The pin itself.
        Pin = "pin" called "the pin itself",
        /// A small NPN transistor.
        Npn = "npn" called "an NPN transistor",
        /// An N-channel MOSFET.
        Mosfet = "mosfet" called "a MOSFET",
    }
}

words! {
    /// Which way round a piece is mounted.
    Mounted {
        /// Data enters where its place begins.
        Along = "along" called "data enters where its place begins",
        /// Data enters at the far end.
        Against = "against" called "data enters at the far end",
    }
}

words! {
    /// What carries a feed over to something that moves.
    MovingKind {
        /// A sprung contact on a ring.
        SlipRing = "slip_ring" called "a sprung contact on a ring",
        /// A contact that wipes to and fro.
        Wiper = "wiper" called "a wiping contact",
        /// A wire through a hinge.
        Hinge = "hinge" called "a wire through a hinge",
        /// A wire in a free loop.
        Loop = "loop" called "a free loop of wire",
    }
}

words! {
    /// What a model railway's track carries.
    TrackWave {
        /// A square wave, either way up.
        Digital = "digital",
        /// A sine.
        Ac = "ac" called "alternating",
        /// The throttle's voltage.
        Dc = "dc" called "direct",
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
        NoDrill = "no_drill" called "no drilling",
    }
}

record! {
    /// What is to be known of a place on the vehicle.
    pub struct Place {
        /// As lights name it in `place`.
        pub name: String = text(200).label("Name"),
        /// What it does to a light and its wire.
        pub traits: Vec<Trait> = list(20).label("What it is like"),
        /// The person's words.
        #[serde(skip_serializing_if = "String::is_empty")]
        pub note: String = text(2000).or_word("").label("Note"),
        /// A string laid along the way from the supply to it, m.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub string_m: Option<f64> = number(METRE).label("String to here, along the way").nothing("not measured"),
    }

    /// What is lit.
    pub struct Vehicle {
        /// Kind, which decides the outline and the cautions.
        pub kind: VehicleKind = thing(),
        /// Which form of it, where there are several; `None`: the first.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub variant: Option<String> = text(40).label("Form"),
        /// Mass ready to move, kg.
        pub mass_kg: f64 = number(Range::above_zero(100_000.0, "kg")).label("Mass, ready to move"),
        /// Measured resistance of the frame between the two places used as a return, ohm.
        pub frame_return_ohm: Option<f64> = number(OHM).label("Frame as return, measured").term("return").nothing("not measured"),
        /// `None` when the motor is not on this battery.
        pub propulsion: Option<Propulsion> = thing(),
        /// How it hovers without these lights, where a rail hides the flight battery.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub hover: Option<Hover> = thing(),
    }

    /// A craft that hovers, without the lights.
    pub struct Hover {
        /// Power that hovering takes, W.
        pub power_w: f64 = number(WATT).label("Power"),
        /// How long it hovers on one charge, min.
        pub minutes: f64 = number(Range::above_zero(10_000.0, "min")).label("Time").begins(15.0),
    }

    /// What moving takes from the same battery.
    pub struct Propulsion {
        /// Mean power at `speed_kmh`, W.
        pub power_w: f64 = number(WATT_OR_ZERO).label("Motor on this battery").nothing("no motor on it"),
        /// Usual speed, km/h.
        pub speed_kmh: f64 = number(Range::within(0.0, 1000.0, "km/h")).label("Usual speed").begins(15.0),
    }

    /// A battery.
    pub struct Battery {
        /// Cell chemistry.
        pub chemistry: Chemistry = thing().label("Chemistry"),
        /// Cells in series.
        pub series: u32 = count(1, 400).label("Cells in series").term("series"),
        /// Strings in parallel.
        pub parallel: u32 = count(1, 10_000).or(1.0).label("Strings in parallel").term("parallel"),
        /// Capacity of the whole pack at its rated discharge, Ah.
        pub capacity_ah: f64 = number(Range::above_zero(100_000.0, "Ah")).label("Capacity").term("amp-hour"),
        /// Discharge time the capacity is stated for, h.
        pub rated_hours: f64 = number(Range::above_zero(1000.0, "h")).or(5.0).label("Stated for"),
        /// Measured resistance of the pack, ohm; `None`: by chemistry.
        pub resistance_ohm: Option<f64> = number(OHM).label("Own resistance"),
        /// Discharge limit, A.
        pub max_current_a: f64 = number(AMP).label("Discharge limit"),
        /// Share of the capacity that may be used; `None`: by chemistry.
        pub usable_fraction: Option<f64> = number(SHARE_ABOVE_ZERO).label("Usable share").term("reserve").shown("%"),
        /// Peukert exponent; `None`: by chemistry.
        pub peukert: Option<f64> = number(Range::within(1.0, 2.0, "")).label("Peukert exponent").term("Peukert"),
        /// Charging voltage of one cell, V; `None`: by chemistry.
        pub charge_v: Option<f64> = number(Range::above_zero(10.0, "V")).label("Charging voltage of a cell"),
        /// Lights may be on while the charger is.
        pub used_while_charging: bool = thing().or_flag(false).label("Lights may be on while it charges"),
        /// Where the lights are tapped.
        pub tap: Tap = thing().or_word("main").label("Tapped at"),
        /// Limit of that tap, A.
        pub tap_limit_a: Option<f64> = number(AMP).label("Limit of the tap").nothing("none known"),
        /// Whether something switches it off before its cells are harmed; `None`: by chemistry.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub protected: Option<bool> = thing().label("Something switches it off when it is empty"),
        /// Whether its maker allows lights while it charges; `None`: nobody asked.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub may_charge_lit: Option<bool> = thing().label("Its maker allows lights while it charges").nothing("not asked yet"),
    }

    /// An existing regulated rail.
    pub struct Rail {
        /// Voltage without load, V.
        pub voltage_v: f64 = number(VOLT).label("Voltage, measured").term("rail"),
        /// Source resistance, ohm.
        pub resistance_ohm: f64 = number(OHM).or(0.0).label("Its resistance"),
        /// Limit, A.
        pub max_current_a: f64 = number(AMP).label("Limit"),
        /// What else draws from it, A.
        pub other_load_a: f64 = number(AMP_OR_ZERO).or(0.0).label("Other load on it"),
    }

    /// What a model railway's pickups bring.
    pub struct Track {
        /// What the track carries.
        pub wave: TrackWave = thing().label("The track carries"),
        /// Digital: either way up; alternating: its effective value; direct: the throttle's, V.
        pub voltage_v: f64 = number(VOLT).label("Voltage"),
        /// Of an alternating track, Hz.
        pub frequency_hz: f64 = number(Range::within(10.0, 100_000.0, "Hz")).or(50.0).label("Frequency"),
        /// Limit, A.
        pub max_current_a: f64 = number(AMP).label("Limit"),
        /// What else draws from it, A.
        pub other_load_a: f64 = number(AMP_OR_ZERO).or(0.0).label("Other load on it"),
        /// How contact is lost; `None`: never.
        pub gaps: Option<Gaps> = thing(),
    }

    /// Contact that is lost again and again.
    pub struct Gaps with sense::gaps {
        /// From one to the next, s.
        pub every_s: f64 = number(Range::above_zero(10_000.0, "s")).label("Contact is lost every"),
        /// How long each lasts, s.
        pub length_s: f64 = number(Range::within(0.0, 10_000.0, "s")).label("for"),
    }

    /// A small circuit that is soldered: it hangs on a feed, and the lights it drives hang on it.
    pub struct SmallCircuit {
        /// Unique among suppliers and lights.
        pub id: String = id(),
        /// Which it is.
        pub kind: CircuitKind = thing(),
        /// What feeds it.
        pub feed: Feed = thing(),
        /// Ids of the lights that it switches or carries.
        pub drives: Vec<String> = list(50),
        /// Its parts.
        pub parts: CircuitParts = thing(),
        /// Mass, g.
        pub mass_g: f64 = number(GRAM).or(0.0).label("Mass"),
        /// Where it is.
        pub place: String = text(200).or_word("").label("Place"),
    }

    /// What a circuit is made of; which of these it has depends on its kind.
    #[derive(Default)]
    pub struct CircuitParts {
        /// Timer: from plus to the discharge pin, ohm.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub ra_ohm: Option<f64> = number(OHM).label("Ra"),
        /// Timer: from there to the threshold; gauge: from the base to minus, ohm.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub rb_ohm: Option<f64> = number(OHM).label("Rb"),
        /// Its capacitor, F.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub c_f: Option<f64> = number(FARAD).label("Capacitor").shown("µF"),
        /// Which timer.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub timer: Option<TimerKind> = thing().label("Timer"),
        /// Timer: a diode across Rb, so that it fills through Ra alone.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub diode: Option<bool> = thing().label("A diode across Rb"),
        /// What carries the lights.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub through: Option<Through> = thing().label("Lights through"),
        /// Into that transistor's base or gate, ohm.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub base_ohm: Option<f64> = number(OHM).label("Resistor at its base"),
        /// Two transistors: from plus to the first base, ohm.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub r1_ohm: Option<f64> = number(OHM).label("R1"),
        /// To the second, ohm.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub r2_ohm: Option<f64> = number(OHM).label("R2"),
        /// Between the second collector and the first base, F.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub c1_f: Option<f64> = number(FARAD).label("C1").shown("µF"),
        /// Between the first collector and the second base, F.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub c2_f: Option<f64> = number(FARAD).label("C2").shown("µF"),
        /// One transistor backwards: from plus to its capacitor, ohm.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub r_ohm: Option<f64> = number(OHM).label("Resistor"),
        /// It breaks down at, V.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub fire_v: Option<f64> = number(VOLT).label("Fires at"),
        /// It lets go at, V.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub let_go_v: Option<f64> = number(VOLT).label("Lets go at"),
        /// Hold-up: whether a bridge is before it.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub bridge: Option<bool> = thing().label("A bridge before it"),
        /// Its capacitor fills through, ohm.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub charge_ohm: Option<f64> = number(OHM).label("Fills through"),
        /// What its capacitor stands, V.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub c_rated_v: Option<f64> = number(VOLT).label("It stands"),
        /// Resistance of the capacitor itself, ohm.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub esr_ohm: Option<f64> = number(OHM).label("Its own resistance"),
        /// Resistors in a row before the lights, ohm.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub taps_ohm: Option<Vec<f64>> = Rule { most: 8, ..number(OHM) }.label("Resistors before the lights"),
        /// How many of them are used.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub tap: Option<u32> = count(1, 8).label("Of these used"),
        /// Gauge: before the LED for a good battery, ohm.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub rs_ohm: Option<f64> = number(OHM).label("Before the good LED"),
        /// Before the other, ohm.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub rc_ohm: Option<f64> = number(OHM).label("Before the other"),
        /// Silicon diodes in a row behind the good LED.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub diodes: Option<u32> = count(0, 12).label("Diodes behind it"),
        /// The LED for a good battery.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub led_good: Option<Led> = thing(),
        /// The LED for a low one.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub led_low: Option<Led> = thing(),
        /// Hold-up: how long it is to carry more than half of the light, s.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub wanted_s: Option<f64> = number(Range::above_zero(10_000.0, "s")).label("Is to carry them").nothing("not said"),
        /// Of the controller's pin, V.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub logic_v: Option<f64> = number(VOLT).label("Pin at"),
    }

    /// What tells lights what to do.
    pub struct Controller {
        /// Unique among suppliers and lights.
        pub id: String = id(),
        /// What feeds it.
        pub feed: Feed = thing(),
        /// What it is.
        pub kind: ControllerKind = thing().label("Controller"),
        /// Of a pin that is high, V.
        pub logic_v: f64 = number(VOLT).or(3.3).label("A pin that is high"),
        /// What it takes itself, A.
        pub idle_a: f64 = number(AMP_OR_ZERO).or(0.0).label("Takes itself").shown("mA"),
        /// Works from, V.
        pub min_in_v: f64 = number(VOLT_OR_ZERO).or(4.5).label("Works from"),
        /// Stands up to, V.
        pub max_in_v: f64 = number(VOLT).or(5.5).label("Stands up to"),
        /// What a pin gives, A.
        pub pin_max_a: f64 = number(AMP).or(0.02).label("A pin gives").shown("mA"),
        /// What all of them give together, A.
        pub pins_total_a: f64 = number(AMP).or(0.2).label("All pins together").shown("mA"),
        /// Most pixels that it can number; `None`: more than anybody has.
        pub pixel_limit: Option<u32> = count(1, 100_000).label("Pixels it can number").nothing("no limit"),
        /// It keeps its pixels below this, A; `None`: it does not.
        pub limit_a: Option<f64> = number(AMP).label("Keeps its pixels below").nothing("no limit"),
        /// Mass, g.
        pub mass_g: f64 = number(GRAM).or(0.0).label("Mass"),
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

    /// One pin of a controller with what hangs on it.
    pub struct Output {
        /// The pin, as printed.
        pub pin: String = text(40).label("Pin"),
        /// What kind.
        pub kind: OutputKind = thing().label("Carries"),
        /// Data: pieces in the order in which data passes them.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub chain: Option<Vec<Link>> = list(MAX_LIST),
        /// Pin: the light.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub light: Option<String> = text(80).label("Light"),
        /// Pin: what carries it.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub through: Option<PinThrough> = thing().label("Through"),
        /// Pin: resistor between pin and LED, base or gate, ohm.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub ohm: Option<f64> = number(OHM).label("Resistor at the pin"),
        /// Pin: pulsed so often, Hz.
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

    /// A point where one feed becomes several.
    pub struct Junction {
        /// Unique among suppliers and lights.
        pub id: String = id(),
        /// What feeds it.
        pub feed: Feed = thing(),
    }

    /// A converter. `set_v` is present unless it is a current driver, `set_a` is present when it is one.
    pub struct Converter with sense::converter {
        /// Unique among suppliers and lights.
        pub id: String = id(),
        /// What feeds it.
        pub feed: Feed = thing(),
        /// What it does.
        pub kind: ConverterKind = thing().label("Kind"),
        /// Output voltage, V.
        pub set_v: Option<f64> = number(VOLT).label("Set to"),
        /// Output current of a driver, A.
        pub set_a: Option<f64> = number(AMP).label("Set to").shown("mA"),
        /// Below this input it is off, V.
        pub min_in_v: f64 = number(VOLT_OR_ZERO).label("Input from"),
        /// Above this input it breaks, V.
        pub max_in_v: f64 = number(VOLT).label("Input up to"),
        /// Output limit, A.
        pub max_out_a: f64 = number(AMP).label("Output limit"),
        /// Input limit, A.
        pub max_in_a: Option<f64> = number(AMP).label("Input limit").nothing("none known"),
        /// Least difference between input and output of a step-down, V.
        pub dropout_v: f64 = number(Range::within(0.0, 100.0, "V")).or(1.0).label("Drop-out").term("drop-out"),
        /// Diode drop of a step-up that passes its input through, V.
        pub pass_drop_v: f64 = number(Range::within(0.0, 100.0, "V")).or(0.4).label("Drop when passing through"),
        /// Output power over input power.
        pub efficiency: Efficiency = number(SHARE_ABOVE_ZERO).or(1.0).label("Efficiency").term("efficiency").shown("%"),
        /// Input current with nothing on the output, A.
        pub idle_a: f64 = number(AMP_OR_ZERO).or(0.0).label("Idle current").term("idle current").shown("mA"),
        /// Heat that it can get rid of, W; `None`: 1.2 for a linear regulator, unknown for the others.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub max_loss_w: Option<f64> = number(WATT).label("Heat it gets rid of").nothing("not known"),
        /// Mass, g.
        pub mass_g: f64 = number(GRAM).or(0.0).label("Mass"),
    }

    /// One point of an efficiency table.
    pub struct EfficiencyPoint {
        /// Input voltage, V.
        pub vin_v: f64 = number(VOLT).label("At an input of"),
        /// Efficiency there, 0 to 1.
        pub efficiency: f64 = number(SHARE_ABOVE_ZERO).label("Efficiency").shown("%"),
    }

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
    }

    /// Two conductors from a supplier to a consumer, with what sits in them.
    pub struct Feed with sense::feed {
        /// `source`, or a converter's or junction's id.
        pub from: String = text(80).label("Fed from"),
        /// Where it joins a strip, m from its start.
        pub at_m: f64 = number(METRE_OR_ZERO).or(0.0).label("Joins it at"),
        /// One way, slack included, m.
        pub length_m: f64 = number(METRE_OR_ZERO).label("Length, one way"),
        /// Conductor size.
        pub gauge: Gauge = thing().label("Wire").term("gauge"),
        /// Way back.
        #[serde(rename = "return")]
        pub return_path: Return = thing().or_word("wire").label("Way back").term("return"),
        /// Fuse at its start.
        pub fuse: Option<Fuse> = thing(),
        /// Switch in it.
        pub switch: Option<Switch> = thing(),
        /// Mated plugs in it.
        pub contacts: u32 = count(0, 1000).or(0.0).label("Plugs"),
        /// Their rating, A.
        pub contact_rating_a: Option<f64> = number(AMP).label("A plug carries").nothing("not known"),
        /// Loaded circuits that run in one bundle with it, itself included.
        pub bundled: u32 = count(1, 1000).or(1.0).label("Circuits in its bundle").term("bundle"),
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
        pub hz: f64 = number(Range::above_zero(1e6, "Hz")).label("Pulses a second"),
        /// What it carries, A.
        pub rating_a: f64 = number(AMP).label("A dimmer carries"),
    }

    /// What carries a feed over to something that turns, folds or slides.
    pub struct Moving {
        /// Which it is.
        pub kind: MovingKind = thing().label("It moves over"),
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
    }

    /// A switch.
    pub struct Switch {
        /// Rating, A.
        pub rating_a: f64 = number(AMP).label("Switch rating").nothing("no switch"),
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
        pub max_v: f64 = number(VOLT).or(1000.0).label("Stands up to"),
    }

    /// A load that is always there.
    pub struct Standing {
        /// Unique among standing loads.
        pub id: String = id(),
        /// Current at the source, A.
        pub current_a: f64 = number(AMP_OR_ZERO).label("Draws"),
        /// Hours it is on, per day.
        pub hours_per_day: f64 = number(DAY).or(24.0).label("a day"),
        /// It is wired ahead of the main disconnect and stays on: a gas alarm, a bilge pump.
        #[serde(skip_serializing_if = "std::ops::Not::not")]
        pub ahead_of_disconnect: bool = thing().or_flag(false).label("stays on with the main disconnect open"),
    }

    /// What is lit together. A light that is not named is off.
    pub struct Scene with sense::scene {
        /// Unique among scenes.
        pub id: String = id(),
        /// Name for people.
        pub name: String = text(200).or_word("").label("Name"),
        /// By light id.
        pub lights: BTreeMap<String, SceneLight> = list(MAX_LIST),
    }

    /// How a scene lights one light.
    pub struct SceneLight {
        /// 0 to 1.
        pub level: f64 = number(SHARE).or(1.0).label("Brightness here").term("level").shown("%"),
        /// Red, green, blue, each 0 to 1; used by pixels.
        pub colour: [f64; 3] = number(SHARE).or(1.0).label("Colour"),
        /// Share of the time it is on, 0 to 1.
        pub duty: f64 = number(SHARE).or(1.0).label("On-time when blinking").term("duty").shown("%"),
        /// What its pixels do over time, in place of `colour`.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub effect: Option<PixelEffect> = thing(),
    }

    /// What pixels do over time. Colours are linear light.
    pub struct PixelEffect with sense::effect {
        /// Which one.
        pub kind: EffectKind = thing().label("Effect"),
        /// Once around, s; `None`: 1.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub period_s: Option<f64> = number(Range::above_zero(3600.0, "s")).label("Once around").nothing("1 s"),
        /// Red, green, blue of each colour, each 0 to 1; `None`: white.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub colours: Option<Vec<[f64; 3]>> = Rule { most: MAX_COLOURS, ..number(SHARE) }.label("Colours").nothing("white"),
        /// Length of the tail, in pixels; `None`: 3.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub spread: Option<f64> = number(Range::within(0.1, 100_000.0, "1")).label("Length of its tail, pixels").nothing("3"),
        /// 1 away from the controller, -1 towards it; `None`: 1.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub direction: Option<f64> = number(Range::within(-1.0, 1.0, "1")).label("Direction").nothing("away from the controller"),
        /// Of a blink: share of a period with the first colour; `None`: 0.5.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub duty: Option<f64> = number(SHARE).label("Of that on").shown("%").nothing("half"),
        /// Of embers: another number gives others; `None`: 0.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub seed: Option<u32> = count(0, u32::MAX).label("Seed").nothing("0"),
        /// What it follows.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub input: Option<ShowInput> = thing().label("Follows"),
        /// Of a table: what is shown at each word of its input; at any other, the first.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub table: Option<Vec<PixelEffectRow>> = list(50),
    }

    /// What is shown at a word.
    pub struct PixelEffectRow with sense::effect_row {
        /// A word of the input.
        pub word: String = text(40).label("At"),
        /// A colour.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub colour: Option<[f64; 3]> = number(SHARE).label("Colour"),
        /// An effect.
        #[serde(skip_serializing_if = "Option::is_none")]
        #[cfg_attr(feature = "schema", schema(no_recursion))]
        pub effect: Option<PixelEffect> = thing(),
    }

    /// How the build is used.
    #[derive(Default)]
    pub struct Usage {
        /// Outings a week.
        pub outings_per_week: f64 = number(Range::within(0.0, 10_000.0, "")).or(0.0).label("Outings a week"),
        /// Minutes of each scene in an outing, by scene id.
        pub minutes: BTreeMap<String, f64> = Rule { empty: Empty::Blank, ..number(Range::within(0.0, 100_000.0, "min")) }.label("an outing"),
        /// Temperature of the battery, °C; `None`: 25.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub temperature_c: Option<f64> = number(Range::within(0.0, 40.0, "°C")).label("Its temperature"),
        /// What age has left of the capacity, 0 to 1; `None`: all of it.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub capacity_left: Option<f64> = number(Range::within(0.1, 1.0, "1")).label("Capacity that age has left").term("amp-hour").shown("%"),
        /// Current of the charger, A.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub charger_a: Option<f64> = number(AMP).label("Charger").nothing("not known"),
        /// What sun or an engine brings back each day.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub gain: Option<Gain> = thing(),
    }

    /// Charging by the day.
    pub struct Gain {
        /// Hours a day.
        pub hours_per_day: f64 = number(DAY).label("Sun or engine, a day").nothing("none"),
        /// At this mean current into the battery, A.
        pub current_a: f64 = number(AMP_OR_ZERO).label("at, mean").begins(3.0),
    }

    /// How it is made: when there is time for it, and what was decided.
    #[derive(Default)]
    pub struct Make {
        /// How many people work at it at once; `None`: one.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub people: Option<u32> = count(1, 6).label("People at once"),
        /// First day, as in `2026-11-27`.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub begins: Option<String> = text(10).label("Begins on"),
        /// How warm it is where things cure, °C; `None`: 20.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub workshop_c: Option<f64> = number(Range::within(-20.0, 50.0, "°C")).label("Workshop"),
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
        /// The light, converter or junction, or `source`.
        pub part: String = text(80).label("Part"),
        /// Forward, to the left and up from the reference point, mm.
        pub at_mm: [f64; 3] = number(Range::within(-20_000.0, 20_000.0, "mm")).label("Sits at"),
    }

    /// A time of the week at which there is time.
    pub struct Session with sense::session {
        /// Day.
        pub weekday: Weekday = thing().label("Day"),
        /// From, as in `19:30`.
        pub start: String = text(5).label("From"),
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

    /// What is on the battery now, before anything is replaced.
    #[derive(Default)]
    pub struct Audit {
        /// Bulbs by type.
        pub bulbs: Vec<AuditBulb> = list(200),
        /// What a meter said, A.
        pub measured: AuditMeasured = thing().or_blank(),
        /// What it said once the bulbs were replaced, A.
        pub measured_after: AuditMeasured = thing().or_blank(),
    }

    /// Bulbs of one type.
    pub struct AuditBulb with sense::audit_bulb {
        /// Unique in the audit.
        pub id: String = id(),
        /// Id of a bulb in the library or among the build's own parts.
        pub part: String = text(80).label("Bulb"),
        /// How many there are.
        pub count: u32 = count(0, 10_000).label("There are"),
        /// How many are on in a usual evening.
        pub usual: u32 = count(0, 10_000).or(0.0).label("usually on"),
        /// Hours a day that those are on.
        pub hours_per_day: f64 = number(DAY).or(0.0).label("for"),
        /// Id of the bulb that replaces them.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub replacement: Option<String> = text(80).label("Replaced by"),
    }

    /// Currents that a meter showed at the battery, A.
    #[derive(Default)]
    pub struct AuditMeasured {
        /// In a usual evening.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub usual_a: Option<f64> = number(AMP_OR_ZERO).label("A usual evening"),
        /// With everything on.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub all_a: Option<f64> = number(AMP_OR_ZERO).label("Everything on"),
        /// With every light off.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub rest_a: Option<f64> = number(AMP_OR_ZERO).label("Everything off"),
        /// With the main disconnect open.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub disconnected_a: Option<f64> = number(AMP_OR_ZERO).label("Disconnect open"),
    }
}

choice! {
    /// Where the power comes from.
    pub enum Source {
        /// A battery of cells.
        Battery(Battery) = "battery",
        /// An existing regulated rail.
        Rail(Rail) = "rail",
        /// The track of a model railway.
        Track(Track) = "track",
    }

    /// What a light is, electrically.
    pub enum Load {
        /// Single LEDs in strings.
        LedArray(LedArray) = "led_array",
        /// Cut-to-length strip.
        Strip(Strip) = "strip",
        /// Addressable pixels.
        Pixels(Pixels) = "pixels",
        /// Sealed module or bulb.
        Module(Module) = "module",
    }
}

/// Efficiency of a converter: one figure, or points over input voltage.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(untagged)]
pub enum Efficiency {
    /// The same at every input.
    Constant(f64),
    /// Linear between points, flat outside; input voltages rise.
    Table(Vec<EfficiencyPoint>),
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

impl SceneLight {
    /// Fully on, white, always.
    pub const FULL: SceneLight = SceneLight { level: 1.0, colour: [1.0; 3], duty: 1.0, effect: None };
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
    /// Pieces of its chain.
    pub fn links(&self) -> &[Link] {
        self.chain.as_deref().unwrap_or(&[])
    }
}

impl Recut {
    /// LEDs in each row.
    pub fn series(&self) -> u32 {
        (self.used / self.groups.max(1)).max(1)
    }
}

impl Moving {
    /// Wire that has to hang free between where it is held on both sides, m: the arc that it follows, and a tenth more.
    pub fn free_m(&self) -> Option<f64> {
        Some(1.1 * self.angle_deg?.to_radians() * self.radius_m?)
    }
}

impl CircuitKind {
    /// Whether its lights go on and off.
    pub fn flashes(self) -> bool {
        matches!(self, CircuitKind::TimerFlasher | CircuitKind::TransistorFlasher | CircuitKind::BreakdownFlasher)
    }
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

/// Days from 1970-01-01 to a date as in `2026-11-27` (proleptic Gregorian).
pub fn day_of(date: &str) -> Option<i64> {
    let mut parts = date.splitn(3, '-').map(|part| part.parse::<i64>().ok());
    let (year, month, day) = (parts.next()??, parts.next()??, parts.next()??);
    let shifted = if month > 2 { year } else { year - 1 };
    let (era, month_from_march) = (shifted.div_euclid(400), (month + 9) % 12);
    let of_era = shifted.rem_euclid(400);
    let day_of_year = (153 * month_from_march + 2) / 5 + day - 1;
    let days = era * 146_097 + of_era * 365 + of_era / 4 - of_era / 100 + day_of_year - 719_468;
    // A day that a month does not have comes back as another.
    ((1..=9999).contains(&year) && date_of(days) == date).then_some(days)
}

/// The date of so many days from 1970-01-01.
pub fn date_of(days: i64) -> String {
    let shifted = days + 719_468;
    let (era, of_era) = (shifted.div_euclid(146_097), shifted.rem_euclid(146_097));
    let year_of_era = (of_era - of_era / 1460 + of_era / 36_524 - of_era / 146_096) / 365;
    let day_of_year = of_era - (365 * year_of_era + year_of_era / 4 - year_of_era / 100);
    let month_from_march = (5 * day_of_year + 2) / 153;
    let day = day_of_year - (153 * month_from_march + 2) / 5 + 1;
    let month = (month_from_march + 2) % 12 + 1;
    let year = year_of_era + era * 400 + i64::from(month <= 2);
    format!("{year:04}-{month:02}-{day:02}")
}

impl Strip {
    /// Whole segments in its length.
    pub fn segments(&self) -> u32 {
        (self.length_m / self.segment_m + 1e-9).floor() as u32
    }
}

read_words!(
    ControllerKind,
    RemoteKind,
    OutputKind,
    PinThrough,
    Mounted,
    MovingKind,
    EffectKind,
    ShowInput,
    CircuitKind,
    TimerKind,
    Through,
    TrackWave,
    Weekday,
    Fixing,
    Surface,
    VehicleKind,
    Chemistry,
    Tap,
    Return,
    FuseStyle,
    ConverterKind,
    Draw,
    Trait
);

/// What the fields of one object say together, once each of them could be read by itself.
mod sense {
    use super::super::read::Object;
    use super::{AuditBulb, Converter, ConverterKind, EffectKind, Feed, Gaps, PixelEffect, PixelEffectRow, Scene, Session};

    pub(super) fn gaps(gaps: &mut Gaps, o: &mut Object<'_, '_>) {
        if gaps.length_s >= gaps.every_s {
            o.fault("length_s", "the gaps are longer than the time from one to the next", "Give less than `every_s`");
        }
    }

    pub(super) fn session(session: &mut Session, o: &mut Object<'_, '_>) {
        if session.starts_at().is_none() {
            o.fault("start", format!("`{}` is no time of day", session.start), "Write it as 19:30");
        }
    }

    pub(super) fn converter(converter: &mut Converter, o: &mut Object<'_, '_>) {
        let (name, set) = match converter.kind {
            ConverterKind::CurrentDriver => ("set_a", converter.set_a),
            _ => ("set_v", converter.set_v),
        };
        if set.is_none() {
            o.fault(name, format!("a {} needs it", converter.kind.word()), "Give the figure that it is set to");
        }
        if converter.min_in_v > converter.max_in_v {
            o.fault("min_in_v", format!("{} V is above `max_in_v`", converter.min_in_v), "Give the lower end of the input range");
        }
    }

    pub(super) fn feed(feed: &mut Feed, o: &mut Object<'_, '_>) {
        if feed.slack_m.is_some_and(|slack| slack > feed.length_m) {
            o.fault("slack_m", "the slack is longer than the wire", "Count the slack into `length_m`");
        }
    }

    /// A scene that nobody named goes by its id.
    pub(super) fn scene(scene: &mut Scene, o: &mut Object<'_, '_>) {
        if !o.has("name") {
            scene.name.clone_from(&scene.id);
        }
    }

    pub(super) fn effect(effect: &mut PixelEffect, o: &mut Object<'_, '_>) {
        if effect.direction.is_some_and(|way| way.abs() != 1.0) {
            o.fault("direction", "it runs one way or the other", "Give 1 or -1");
        }
        if effect.colours.as_ref().is_some_and(Vec::is_empty) {
            o.fault("colours", "there is no colour", "Give one, or leave it out for white");
        }
        let follows = matches!(effect.kind, EffectKind::Level | EffectKind::Mix | EffectKind::Table);
        if follows && effect.input.is_none() {
            o.fault("input", format!("`{}` follows an input", effect.kind.word()), "Say which, as in `battery`");
        }
        if effect.kind != EffectKind::Table {
            return;
        }
        let says = effect.input.map_or(&[][..], |input| input.says());
        if let (Some(input), true) = (effect.input, says.is_empty()) {
            o.fault("input", format!("`{}` is a figure and says no words", input.word()), "Take `level` or `mix`, or an input that says words");
            return;
        }
        match effect.table.as_deref() {
            None | Some([]) => o.fault("table", "there is nothing in it", "Give what is shown at a word"),
            Some(rows) => {
                if let Some(row) = rows.iter().find(|row| !says.is_empty() && !says.contains(&row.word.as_str())) {
                    o.fault("table", format!("its input never says `{}`, but {}", row.word, says.join(", ")), "Use one of these words");
                }
            }
        }
    }

    pub(super) fn effect_row(row: &mut PixelEffectRow, o: &mut Object<'_, '_>) {
        if row.colour.is_some() == row.effect.is_some() {
            o.fault("colour", format!("`{}` shows a colour or an effect", row.word), "Give `colour`, or `effect`, and not both");
        }
    }

    pub(super) fn audit_bulb(bulb: &mut AuditBulb, o: &mut Object<'_, '_>) {
        if bulb.usual > bulb.count {
            o.fault("usual", format!("{} on of {} that there are", bulb.usual, bulb.count), "Give at most `count`");
        }
    }
}
