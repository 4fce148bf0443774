//! What happened, a variant a kind: one reader and one writer of what an event says.
//!
//! What an event carries beside the fields of its kind stays in its data, untouched: a newer version, or another program, may
//! have written it.

use super::{Event, Kind};
use crate::moment::Moment;
use crate::words;
use serde::Serialize;
use serde_json::{Map, Value};
use std::collections::BTreeMap;

/// A field of an event: how it is read from JSON; `None`: it cannot be that.
trait Field: Sized {
    fn read(value: &Value) -> Option<Self>;
}

impl Field for f64 {
    fn read(value: &Value) -> Option<Self> {
        value.as_f64().filter(|value| value.is_finite())
    }
}

impl Field for u32 {
    fn read(value: &Value) -> Option<Self> {
        value.as_u64().and_then(|value| value.try_into().ok())
    }
}

impl Field for bool {
    fn read(value: &Value) -> Option<Self> {
        value.as_bool()
    }
}

impl Field for String {
    fn read(value: &Value) -> Option<Self> {
        value.as_str().map(|text| text.trim().to_owned())
    }
}

impl<T: Field> Field for Vec<T> {
    fn read(value: &Value) -> Option<Self> {
        value.as_array()?.iter().map(T::read).collect()
    }
}

impl<T: Field> Field for BTreeMap<String, T> {
    fn read(value: &Value) -> Option<Self> {
        value.as_object()?.iter().map(|(name, value)| Some((name.clone(), T::read(value)?))).collect()
    }
}

impl Field for Moment {
    fn read(value: &Value) -> Option<Self> {
        Moment::parse(value.as_str()?)
    }
}

words! {
    /// What became of a step.
    TickState {
        /// It is done.
        Done = "done",
        /// It is to be done again.
        Undone = "undone",
        /// It was found wrong.
        Wrong = "wrong",
    }
}

impl Field for TickState {
    fn read(value: &Value) -> Option<Self> {
        TickState::WORDS.iter().find(|(word, _)| Some(*word) == value.as_str()).map(|(_, state)| *state)
    }
}

/// What one kind of event says: every field may be missing, those after `wants` are missed.
macro_rules! says {
    ($($(#[$meta:meta])* $name:ident ($($wants:ident)*) { $($(#[$doc:meta])* $field:ident: $type:ty,)+ })+) => { $(
        $(#[$meta])*
        #[derive(Clone, Debug, Default, PartialEq, Serialize)]
        #[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
        pub struct $name {
            $($(#[$doc])* #[serde(skip_serializing_if = "Option::is_none")] pub $field: Option<$type>,)+
        }

        impl $name {
            /// What the data says, and what of it cannot be read or is missing.
            fn read(data: &Map<String, Value>, unclear: &mut Unclear) -> Self {
                let read = $name { $($field: unclear.take(data, stringify!($field)),)+ };
                $(if read.$wants.is_none() { unclear.miss(stringify!($wants)); })*
                read
            }
        }
    )+ };
}

says! {
    /// A step of the building.
    Tick (step state) {
        /// Id of the step.
        step: String,
        /// What became of it.
        state: TickState,
        /// How long it took, min.
        minutes: f64,
        /// What there is to say of it.
        note: String,
    }

    /// Something was measured: the battery, or at the bench.
    Reading () {
        /// Where the probes were; none: across the battery.
        probes: Vec<String>,
        /// The check of the list that it belongs to.
        check: String,
        /// What the meter was set to.
        quantity: String,
        /// What it showed; of a loaded battery its voltage, V.
        value: f64,
        /// In this unit.
        unit: String,
        /// What was lit.
        scene: String,
        /// State of the source for which it was judged.
        state: String,
        /// How it was judged.
        verdict: String,
        /// Rested, V.
        resting_v: f64,
        /// Temperature of the battery, °C.
        temperature_c: f64,
    }

    /// An outing.
    Ride (minutes) {
        /// Minutes of each scene, by scene id.
        minutes: BTreeMap<String, f64>,
        /// How far, km.
        distance_km: f64,
        /// Temperature outside, °C.
        temperature_c: f64,
        /// Rested voltage before, V.
        from_v: f64,
        /// Rested voltage after, V.
        to_v: f64,
        /// When it began; the event is when it ended.
        #[cfg_attr(feature = "schema", schema(value_type = Option<String>))]
        began: Moment,
    }

    /// The battery was charged.
    Charge () {
        /// Rested voltage before, V.
        from_v: f64,
        /// Voltage at the end, V: the charger's where it held it, else rested.
        to_v: f64,
        /// What went in, Ah.
        ah: f64,
        /// What went in, Wh.
        wh: f64,
        /// How long, min.
        minutes: f64,
        /// Temperature of the battery, °C.
        temperature_c: f64,
    }

    /// Something failed and was mended.
    Repair (was) {
        /// What was seen.
        symptom: String,
        /// The fault as diagnosis names it, or as a person does.
        was: String,
        /// In words.
        words: String,
        /// What was done.
        mended: String,
    }

    /// What became of a part.
    PartChange (part change) {
        /// Which.
        part: String,
        /// `replaced`, `fitted`, `removed`, `bought`, `looked`.
        change: String,
        /// The pack that it is, where it is one of the drawer.
        pack: String,
    }

    /// Something cures or waits.
    Timer (what until) {
        /// What.
        what: String,
        /// Until when.
        #[cfg_attr(feature = "schema", schema(value_type = Option<String>))]
        until: Moment,
    }

    /// A fault was looked for as an exercise.
    Drill () {
        /// What was practised.
        topic: String,
        /// The lesson that was taken.
        lesson: String,
        /// How hard it was.
        level: u32,
        /// The fault.
        fault: String,
        /// Whether it was found.
        right: bool,
        /// Whether it was found without help or detours.
        good: bool,
        /// Checks that were made.
        checks: u32,
        /// How long it took, s.
        seconds: f64,
        /// What went wrong on the way, in words.
        mistakes: Vec<String>,
    }

    /// Words, and perhaps a picture.
    Note (text) {
        /// What there is to say.
        text: String,
        /// What the picture is written in, where there is one.
        photo: String,
    }
}

/// What happened.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", content = "data", rename_all = "snake_case")]
pub enum Happened {
    /// A step of the building was done, undone or found wrong.
    Tick(Tick),
    /// Something was measured.
    Reading(Reading),
    /// An outing.
    Ride(Ride),
    /// The battery was charged.
    Charge(Charge),
    /// Something failed and was mended.
    Fault(Repair),
    /// A part was replaced, fitted or bought.
    Part(PartChange),
    /// Something cures or waits until a time.
    Timer(Timer),
    /// A fault was looked for as an exercise.
    Drill(Drill),
    /// Words, and perhaps a picture.
    Note(Note),
}

/// Fields of an event that do not say what its kind wants of them.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Unclear {
    /// There, and not to be read.
    pub unread: Vec<&'static str>,
    /// Not there.
    pub missing: Vec<&'static str>,
}

impl Unclear {
    fn take<T: Field>(&mut self, data: &Map<String, Value>, name: &'static str) -> Option<T> {
        let value = data.get(name).filter(|value| !value.is_null())?;
        let read = T::read(value);
        if read.is_none() {
            self.unread.push(name);
        }
        read
    }

    fn miss(&mut self, name: &'static str) {
        if !self.unread.contains(&name) {
            self.missing.push(name);
        }
    }
}

impl Happened {
    /// What an event says, and what of it is unclear; `None`: it is of a kind that this version does not know.
    pub fn of(event: &Event) -> Option<(Happened, Unclear)> {
        let Kind::Known(kind) = &event.kind else { return None };
        let (data, mut unclear) = (&event.data, Unclear::default());
        use super::EventKind as K;
        let happened = match kind {
            K::Tick => Happened::Tick(Tick::read(data, &mut unclear)),
            K::Reading => Happened::Reading(Reading::read(data, &mut unclear)),
            K::Ride => Happened::Ride(Ride::read(data, &mut unclear)),
            K::Charge => Happened::Charge(Charge::read(data, &mut unclear)),
            K::Fault => Happened::Fault(Repair::read(data, &mut unclear)),
            K::Part => Happened::Part(PartChange::read(data, &mut unclear)),
            K::Timer => Happened::Timer(Timer::read(data, &mut unclear)),
            K::Drill => Happened::Drill(Drill::read(data, &mut unclear)),
            K::Note => Happened::Note(Note::read(data, &mut unclear)),
        };
        Some((happened, unclear))
    }

    /// Its kind.
    pub fn kind(&self) -> super::EventKind {
        use super::EventKind as K;
        match self {
            Happened::Tick(_) => K::Tick,
            Happened::Reading(_) => K::Reading,
            Happened::Ride(_) => K::Ride,
            Happened::Charge(_) => K::Charge,
            Happened::Fault(_) => K::Fault,
            Happened::Part(_) => K::Part,
            Happened::Timer(_) => K::Timer,
            Happened::Drill(_) => K::Drill,
            Happened::Note(_) => K::Note,
        }
    }

    /// What is written of it; what is not said is left out.
    pub fn data(&self) -> Map<String, Value> {
        let written = serde_json::to_value(self).unwrap_or_default();
        written.get("data").and_then(Value::as_object).cloned().unwrap_or_default()
    }
}

impl Ride {
    /// Minutes of each scene; none where it does not say.
    pub fn lit(&self) -> &BTreeMap<String, f64> {
        static NONE: BTreeMap<String, f64> = BTreeMap::new();
        self.minutes.as_ref().unwrap_or(&NONE)
    }

    /// Light in it, h.
    pub fn hours(&self) -> f64 {
        self.lit().values().sum::<f64>() / 60.0
    }
}
