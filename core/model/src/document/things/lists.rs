//! The closed lists of words that a document uses.

use super::super::record::read_words;
use crate::words;

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
    /// What a place is made of.
    Ground {
        /// Wood.
        Wood = "wood",
        /// Foam.
        Foam = "foam",
        /// Fabric.
        Fabric = "fabric",
        /// Plastic.
        Plastic = "plastic",
        /// Metal.
        Metal = "metal",
    }
}

words! {
    /// What charges a battery while it is in the vehicle.
    ChargedBy {
        /// A charger, while it stands.
        Charger = "charger" called "a charger",
        /// An engine, while it drives.
        Engine = "engine" called "the engine",
        /// Solar panels.
        Sun = "sun" called "solar panels",
        /// Nothing: it is taken out, or never charged.
        None = "none" called "nothing in the vehicle",
    }
}

words! {
    /// Which conductor a fuse sits in.
    FuseSide {
        /// Plus.
        Plus = "plus",
        /// Minus.
        Minus = "minus",
    }
}

words! {
    /// How joints are made: what the person's hands can and want to do.
    Hands {
        /// Plugs, clamps with levers, clip-on connectors: no tool but a wire stripper.
        Plug = "plug" called "plugs and lever clamps",
        /// Crimping pliers as well.
        Crimp = "crimp" called "crimped joints",
        /// A soldering iron as well.
        Solder = "solder" called "soldered joints",
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
    /// What carries the lights of a switch.
    Transistor {
        /// A small NPN transistor.
        Npn = "npn" called "an NPN transistor",
        /// An N-channel MOSFET.
        Mosfet = "mosfet" called "a MOSFET",
    }
}

words! {
    /// Where the power comes from.
    SourceKind {
        /// A battery of cells.
        Battery = "battery" called "a battery",
        /// An existing regulated rail.
        Rail = "rail" called "a steady 5 V or 12 V supply that is already there",
        /// The track of a model railway.
        Track = "track" called "a model railway's track",
    }
}

words! {
    /// What a light is, electrically.
    LoadKind {
        /// Single LEDs in strings.
        LedArray = "led_array" called "LEDs with resistors",
        /// Cut-to-length strip.
        Strip = "strip" called "plain strip",
        /// Addressable pixels.
        Pixels = "pixels" called "pixels",
        /// Sealed module or bulb.
        Module = "module" called "module or bulb",
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
    /// What surrounds a light at night.
    Around {
        /// No other light.
        Dark = "dark" called "dark country",
        /// A few lit windows.
        Village = "village",
        /// Street lamps.
        Street = "street" called "lit street",
        /// Daylight.
        Day = "day" called "daylight",
    }
}

words! {
    /// How clear the air is.
    Air {
        /// No haze.
        Clear = "clear" called "clear air",
        /// Rain.
        Rain = "rain",
        /// Fog.
        Fog = "fog",
    }
}

words! {
    /// What a light is for.
    Purpose {
        /// Others see where you are.
        Seen = "seen" called "being seen",
        /// You see where you go.
        See = "see" called "seeing the way",
        /// A glow for its own sake.
        Glow = "glow",
        /// The pilot sees which way round it is.
        Orient = "orient" called "seeing which way round it is",
        /// Light to read or work by.
        Read = "read" called "reading and work",
        /// Pictures and patterns.
        Show = "show",
        /// It says what you are about to do.
        Signal = "signal" called "signalling",
    }
}

words! {
    /// What a coat against stray light is of.
    CoatKind {
        /// Black paint.
        Black = "black" called "black paint",
        /// Silver paint.
        Silver = "silver" called "silver paint",
        /// White paint.
        White = "white" called "white paint",
        /// Paint of another colour.
        Paint = "paint" called "paint of another colour",
    }
}

words! {
    /// What a place does to a light and its wire.
    Trait {
        /// Rain, spray or washing reaches it.
        Wet = "wet" called "gets wet",
        /// Near a motor, a brake or the sun.
        Hot = "hot" called "gets hot",
        /// It folds, steers, lifts or turns.
        Moving = "moving" called "moves",
        /// What sits there must come off again.
        Removable = "removable" called "comes off",
        /// No holes here.
        NoDrill = "no_drill" called "must not be drilled",
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
    Transistor,
    SourceKind,
    LoadKind,
    Through,
    TrackWave,
    Weekday,
    Fixing,
    Surface,
    Hands,
    Ground,
    ChargedBy,
    FuseSide,
    VehicleKind,
    Chemistry,
    Tap,
    Return,
    FuseStyle,
    ConverterKind,
    Draw,
    Purpose,
    CoatKind,
    Around,
    Air,
    Trait
);
