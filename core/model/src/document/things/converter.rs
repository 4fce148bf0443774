//! Converters, and the points where one feed becomes several.

use super::super::read::Object;
use super::*;

const DROP: Range = Range::within(0.0, 100.0, "V");
const EFFICIENCY: Rule = number(SHARE_ABOVE_ZERO).or(1.0).label("Efficiency").term("efficiency").shown("%");

choice! {
    /// What a converter does with voltage or current.
    pub enum Conversion of ConverterKind, among "Converter" {
        /// Switching step-down.
        Buck(StepDown),
        /// Switching step-up.
        Boost(StepUp),
        /// Switching, either way.
        BuckBoost(StepUpDown),
        /// Linear regulator.
        Linear(LinearRegulator),
        /// Constant-current step-down driver.
        CurrentDriver(CurrentDriver),
    }
}

record! {
    /// A point where one feed becomes several.
    pub struct Junction {
        /// Unique among suppliers and lights.
        pub id: String = id(),
        /// What feeds it.
        pub feed: Feed = thing(),
    }

    /// A converter.
    pub struct Converter with input_range {
        /// Unique among suppliers and lights.
        pub id: String = id(),
        /// What feeds it.
        pub feed: Feed = thing(),
        /// What it does, with the figures of that.
        #[serde(flatten)]
        pub conversion: Conversion = thing().label("Kind"),
        /// Below this input it is off, V.
        pub min_in_v: f64 = number(VOLT_OR_ZERO).label("Input from"),
        /// Above this input it breaks, V.
        pub max_in_v: f64 = number(VOLT).label("Input up to"),
        /// Output limit, A.
        pub max_out_a: f64 = number(AMP).label("Output limit"),
        /// Input limit, A.
        pub max_in_a: Option<f64> = number(AMP).label("Input limit").nothing("none known").seldom(),
        /// Input current with nothing on the output, A.
        pub idle_a: f64 = number(AMP_OR_ZERO).or(0.0).label("Idle current").term("idle current").shown("mA"),
        /// Heat that it can get rid of, W; `None`: 1.2 for a linear regulator, unknown for the others.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub max_loss_w: Option<f64> = number(WATT).label("Heat it gets rid of").nothing("not known").seldom(),
        /// Mass, g.
        pub mass_g: f64 = number(GRAM).or(0.0).label("Mass").seldom(),
        /// Whether a screw on it changes its setting; `None`: nobody looked.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub adjustable: Option<bool> = thing().label("A small screw changes its setting").nothing("not looked at").seldom(),
        /// Lowest and highest setting of that screw, V or A; `None`: not known.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub range_v: Option<Vec<f64>> = Rule { range: VOLT, least: 2, ..list(2) }.label("Its screw goes from, to").seldom(),
        /// Whether what hangs on it steers or holds up the vehicle.
        #[serde(skip_serializing_if = "std::ops::Not::not")]
        pub critical: bool = thing().or_flag(false).label("What steers or flies hangs on it too").seldom(),
        /// Whether it outlives plus and minus swapped; `None`: no.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub reverse_ok: Option<bool> = thing().label("Stands plus and minus swapped").seldom(),
        /// What it takes for an instant at switch-on, A; `None`: not known.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub inrush_a: Option<f64> = number(AMP).label("Takes at switch-on").nothing("not known").term("inrush").seldom(),
        /// Whether it keeps water out; `None`: no.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub sealed: Option<bool> = thing().label("Sealed").seldom(),
        /// Where it sits, in the words of the vehicle's outline or the person's own.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub place: Option<String> = text(200).label("Sits at").seldom(),
    }

    /// A switching step-down.
    pub struct StepDown {
        /// Output voltage, V.
        pub set_v: f64 = number(VOLT).label("Set to"),
        /// Least difference between input and output, V.
        pub dropout_v: f64 = number(DROP).or(1.0).label("Drop-out").term("drop-out"),
        /// Output power over input power.
        pub efficiency: Efficiency = EFFICIENCY,
        /// Not used by it; kept as it came, since earlier versions wrote it with every kind.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub pass_drop_v: Option<f64> = number(DROP).carried(),
    }

    /// A switching step-up; its diode conducts while the input is the higher of both.
    pub struct StepUp {
        /// Output voltage, V.
        pub set_v: f64 = number(VOLT).label("Set to"),
        /// What its diode keeps when it passes its input through, V.
        pub pass_drop_v: f64 = number(DROP).or(0.4).label("Voltage lost inside"),
        /// Output power over input power.
        pub efficiency: Efficiency = EFFICIENCY,
        /// Not used by it; kept as it came, since earlier versions wrote it with every kind.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub dropout_v: Option<f64> = number(DROP).carried(),
    }

    /// A switching step-up-down.
    pub struct StepUpDown {
        /// Output voltage, V.
        pub set_v: f64 = number(VOLT).label("Set to"),
        /// Output power over input power.
        pub efficiency: Efficiency = EFFICIENCY,
        /// Not used by it; kept as it came, since earlier versions wrote it with every kind.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub dropout_v: Option<f64> = number(DROP).carried(),
        /// Not used by it; kept as it came, since earlier versions wrote it with every kind.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub pass_drop_v: Option<f64> = number(DROP).carried(),
    }

    /// A linear regulator: it wastes the difference in voltage and has no efficiency of its own to state.
    pub struct LinearRegulator {
        /// Output voltage, V.
        pub set_v: f64 = number(VOLT).label("Set to"),
        /// Least difference between input and output, V.
        pub dropout_v: f64 = number(DROP).or(1.0).label("Drop-out").term("drop-out"),
        /// Not used by it; kept as it came, since earlier versions wrote it with every kind.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub pass_drop_v: Option<f64> = number(DROP).carried(),
        /// Not used by it; kept as it came, since earlier versions wrote it with every kind.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub efficiency: Option<Efficiency> = number(SHARE_ABOVE_ZERO).carried(),
    }

    /// A driver that holds a current: a step-down that looks at its output current.
    pub struct CurrentDriver {
        /// Output current, A.
        pub set_a: f64 = number(AMP).label("Set to").shown("mA"),
        /// Least difference between input and output, V.
        pub dropout_v: f64 = number(DROP).or(1.0).label("Drop-out").term("drop-out"),
        /// Output power over input power.
        pub efficiency: Efficiency = EFFICIENCY,
        /// Not used by it; kept as it came, since earlier versions wrote it with every kind.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub pass_drop_v: Option<f64> = number(DROP).carried(),
    }

    /// One point of an efficiency table.
    pub struct EfficiencyPoint {
        /// Input voltage, V.
        pub vin_v: f64 = number(VOLT).label("At an input of"),
        /// Efficiency there, 0 to 1.
        pub efficiency: f64 = number(SHARE_ABOVE_ZERO).label("Efficiency").shown("%"),
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

fn input_range(converter: &mut Converter, o: &mut Object<'_, '_>) {
    if converter.min_in_v > converter.max_in_v {
        o.fault("min_in_v", format!("{} V is above `max_in_v`", converter.min_in_v), "Give the lower end of the input range");
    }
}

impl Conversion {
    /// A step-down as modules are sold.
    pub fn step_down(set_v: f64, efficiency: f64) -> Conversion {
        Conversion::Buck(StepDown { set_v, dropout_v: 1.0, efficiency: Efficiency::Constant(efficiency), pass_drop_v: None })
    }

    /// A step-up as modules are sold.
    pub fn step_up(set_v: f64, efficiency: f64) -> Conversion {
        Conversion::Boost(StepUp { set_v, pass_drop_v: 0.4, efficiency: Efficiency::Constant(efficiency), dropout_v: None })
    }

    /// A step-up-down.
    pub fn step_up_down(set_v: f64, efficiency: f64) -> Conversion {
        Conversion::BuckBoost(StepUpDown { set_v, efficiency: Efficiency::Constant(efficiency), dropout_v: None, pass_drop_v: None })
    }

    /// A linear regulator.
    pub fn linear(set_v: f64, dropout_v: f64) -> Conversion {
        Conversion::Linear(LinearRegulator { set_v, dropout_v, pass_drop_v: None, efficiency: None })
    }

    /// A current driver.
    pub fn driver(set_a: f64, dropout_v: f64, efficiency: f64) -> Conversion {
        Conversion::CurrentDriver(CurrentDriver { set_a, dropout_v, efficiency: Efficiency::Constant(efficiency), pass_drop_v: None })
    }

    /// Output power over input power, of what switches.
    pub fn efficiency(&self) -> Option<&Efficiency> {
        match self {
            Conversion::Buck(own) => Some(&own.efficiency),
            Conversion::Boost(own) => Some(&own.efficiency),
            Conversion::BuckBoost(own) => Some(&own.efficiency),
            Conversion::CurrentDriver(own) => Some(&own.efficiency),
            Conversion::Linear(_) => None,
        }
    }

    /// What it is set to: a voltage, or a driver's current.
    pub fn setting_mut(&mut self) -> &mut f64 {
        match self {
            Conversion::Buck(own) => &mut own.set_v,
            Conversion::Boost(own) => &mut own.set_v,
            Conversion::BuckBoost(own) => &mut own.set_v,
            Conversion::Linear(own) => &mut own.set_v,
            Conversion::CurrentDriver(own) => &mut own.set_a,
        }
    }
}

impl Converter {
    /// A step-down of which nothing but that is known, for those that name the rest.
    pub const PLAIN: Converter = Converter {
        id: String::new(),
        feed: Feed::PLAIN,
        conversion: Conversion::Buck(StepDown { set_v: 5.0, dropout_v: 1.0, efficiency: Efficiency::Constant(1.0), pass_drop_v: None }),
        min_in_v: 0.0,
        max_in_v: 1000.0,
        max_out_a: 1.0,
        max_in_a: None,
        idle_a: 0.0,
        max_loss_w: None,
        mass_g: 0.0,
        adjustable: None,
        range_v: None,
        critical: false,
        reverse_ok: None,
        inrush_a: None,
        sealed: None,
        place: None,
    };

    /// What it does.
    pub fn kind(&self) -> ConverterKind {
        self.conversion.kind()
    }

    /// The voltage that it is set to, V; a driver has none.
    pub fn set_v(&self) -> Option<f64> {
        match &self.conversion {
            Conversion::Buck(own) => Some(own.set_v),
            Conversion::Boost(own) => Some(own.set_v),
            Conversion::BuckBoost(own) => Some(own.set_v),
            Conversion::Linear(own) => Some(own.set_v),
            Conversion::CurrentDriver(_) => None,
        }
    }

    /// The current that a driver is set to, A.
    pub fn set_a(&self) -> Option<f64> {
        if let Conversion::CurrentDriver(own) = &self.conversion { Some(own.set_a) } else { None }
    }

    /// What it is set to in the unit of that: V, or A of a driver.
    pub fn setting(&self) -> (f64, &'static str) {
        match self.set_a() {
            Some(amps) => (amps, "A"),
            None => (self.set_v().unwrap_or(0.0), "V"),
        }
    }

    /// The field of what it is set to.
    pub fn setting_field(&self) -> &'static str {
        if self.kind() == ConverterKind::CurrentDriver { "set_a" } else { "set_v" }
    }

    /// Least difference between input and output, V; of what only steps down.
    pub fn dropout_v(&self) -> Option<f64> {
        match &self.conversion {
            Conversion::Buck(own) => Some(own.dropout_v),
            Conversion::Linear(own) => Some(own.dropout_v),
            Conversion::CurrentDriver(own) => Some(own.dropout_v),
            Conversion::Boost(_) | Conversion::BuckBoost(_) => None,
        }
    }

    /// What a step-up's diode keeps when it passes its input through, V.
    pub fn pass_drop_v(&self) -> Option<f64> {
        if let Conversion::Boost(own) = &self.conversion { Some(own.pass_drop_v) } else { None }
    }
}
