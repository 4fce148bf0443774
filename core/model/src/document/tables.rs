//! Every object of the document with its fields, and every list of words: what the schema, the docs and the editors walk.

use super::build::Build;
use super::field::{Field, Table};
use super::forms::{AWG, CROSS_SECTION};
use super::part::{Part, PartLight, What};
pub use super::record::Placing;
use super::record::Record;
use super::things::*;
use crate::laws::wire::{AMPACITY, METRIC_MM2};

const fn table<T: Record>(name: &'static str) -> Table {
    Table { name, fields: T::FIELDS }
}

/// The objects, by the name of their type.
pub const TABLES: &[Table] = &[
    table::<Build>("Build"),
    table::<Vehicle>("Vehicle"),
    table::<Propulsion>("Propulsion"),
    table::<Hover>("Hover"),
    table::<Battery>("Battery"),
    table::<Rail>("Rail"),
    table::<Track>("Track"),
    table::<Gaps>("Gaps"),
    table::<SmallCircuit>("SmallCircuit"),
    table::<TimerFlasher>("TimerFlasher"),
    table::<TransistorFlasher>("TransistorFlasher"),
    table::<BreakdownFlasher>("BreakdownFlasher"),
    table::<HoldUp>("HoldUp"),
    table::<BatteryGauge>("BatteryGauge"),
    table::<PinSwitch>("PinSwitch"),
    table::<Controller>("Controller"),
    table::<Remote>("Remote"),
    table::<DataOutput>("DataOutput"),
    table::<PinOutput>("PinOutput"),
    table::<Link>("Link"),
    table::<Junction>("Junction"),
    table::<Converter>("Converter"),
    table::<StepDown>("StepDown"),
    table::<StepUp>("StepUp"),
    table::<StepUpDown>("StepUpDown"),
    table::<LinearRegulator>("LinearRegulator"),
    table::<CurrentDriver>("CurrentDriver"),
    table::<EfficiencyPoint>("EfficiencyPoint"),
    table::<Light>("Light"),
    table::<Shine>("Shine"),
    table::<Lens>("Lens"),
    table::<Diffuser>("Diffuser"),
    table::<Coats>("Coats"),
    table::<Feed>("Feed"),
    table::<Dimmer>("Dimmer"),
    table::<Moving>("Moving"),
    table::<Fuse>("Fuse"),
    table::<Switch>("Switch"),
    table::<LedArray>("LedArray"),
    table::<Led>("Led"),
    table::<Strip>("Strip"),
    table::<Recut>("Recut"),
    table::<Pixels>("Pixels"),
    table::<Module>("Module"),
    table::<Standing>("Standing"),
    table::<Scene>("Scene"),
    table::<SceneLight>("SceneLight"),
    table::<SteadyEffect>("SteadyEffect"),
    table::<BlinkEffect>("BlinkEffect"),
    table::<BreatheEffect>("BreatheEffect"),
    table::<ChaseEffect>("ChaseEffect"),
    table::<ToAndFroEffect>("ToAndFroEffect"),
    table::<RainbowEffect>("RainbowEffect"),
    table::<GradientEffect>("GradientEffect"),
    table::<EmberEffect>("EmberEffect"),
    table::<LevelEffect>("LevelEffect"),
    table::<MixEffect>("MixEffect"),
    table::<TableEffect>("TableEffect"),
    table::<PixelEffectRow>("PixelEffectRow"),
    table::<Usage>("Usage"),
    table::<Gain>("Gain"),
    table::<Make>("Make"),
    table::<Session>("Session"),
    table::<Fixed>("Fixed"),
    table::<Roll>("Roll"),
    table::<Price>("Price"),
    table::<Space>("Space"),
    table::<Opening>("Opening"),
    table::<Inside>("Inside"),
    table::<PartPosition>("PartPosition"),
    table::<Audit>("Audit"),
    table::<AuditBulb>("AuditBulb"),
    table::<AuditMeasured>("AuditMeasured"),
    table::<Place>("Place"),
    table::<Part>("Part"),
    table::<PartLight>("PartLight"),
];

/// A choice of records.
#[derive(Clone, Copy, Debug)]
pub struct KindChoice {
    /// Name of its type.
    pub name: &'static str,
    /// The list of words that its `kind` is one of.
    pub kind: &'static str,
    /// Where the record stands.
    pub place: Placing,
    /// By `kind` which record it is.
    pub kinds: &'static [(&'static str, &'static str)],
}

impl KindChoice {
    /// The record that follows a `kind`.
    pub fn record(&self, kind: &str) -> Option<&'static str> {
        self.kinds.iter().find(|(word, _)| *word == kind).map(|(_, record)| *record)
    }
}

/// The choices of records.
pub const CHOICES: &[KindChoice] = &[Source::CHOICE, Load::CHOICE, CircuitParts::CHOICE, Output::CHOICE, PixelEffect::CHOICE, Conversion::CHOICE];

/// The kinds of part, each with its fields.
pub const PART_KINDS: &[Table] = What::KINDS;

/// One list of words.
#[derive(Clone, Debug)]
pub struct Words {
    /// Name of its type.
    pub name: &'static str,
    /// Each word of the document with what a person reads.
    pub words: Vec<(&'static str, &'static str)>,
}

macro_rules! lists {
    ($($name:ident),+ $(,)?) => {
        vec![$( Words { name: stringify!($name), words: $name::WORDS.iter().map(|(word, value)| (*word, value.called())).collect() } ),+]
    };
}

/// The lists of words.
pub fn word_lists() -> Vec<Words> {
    lists!(
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
        Trait,
        Weekday,
        Fixing,
        Surface,
        Hands,
        Ground,
        ChargedBy,
        FuseSide
    )
}

/// Sizes of conductors.
#[derive(Clone, Debug)]
pub struct Sizes {
    /// Least and largest wire gauge number.
    pub awg: (i64, i64),
    /// Largest cross-section, mm².
    pub most_mm2: f64,
    /// Wire gauge numbers in common use, thinnest first.
    pub usual_awg: Vec<i32>,
    /// Cross-sections in common use, mm².
    pub usual_mm2: Vec<f64>,
}

/// What sizes of conductors there are.
pub fn sizes() -> Sizes {
    Sizes { awg: AWG, most_mm2: CROSS_SECTION.max, usual_awg: AMPACITY.iter().map(|(number, _)| *number).collect(), usual_mm2: METRIC_MM2.to_vec() }
}

/// A field by the type and the name that it has in the document.
pub fn field(table: &str, name: &str) -> Option<&'static Field> {
    TABLES.iter().find(|known| known.name == table)?.fields.iter().find(|field| field.name == name)
}
