//! The small circuits of a build: their schematics, and what they do at a state of the source.

mod choose;
mod schematic;
mod spread;
mod steady;

pub use choose::{Choice, ChooseError, Wanted, choose};
pub use spread::{AtState, Formula, Spread, at_state, at_states, formulas, told, tolerances};
pub use steady::{controller_stand_in, flashing, output_limit_a, stand_in, stand_ins};

pub use crate::transient::Trace;
use crate::transient::{Accuracy, Circuit, Element, Run, TransientError};
use orthavis_model::data;
use orthavis_model::document::{Build, CircuitKind, Light, SmallCircuit, Source};
use orthavis_model::states::State;
use schematic::{Fed, Schematic};
use serde::Serialize;
use std::cell::{Cell, RefCell};
use std::collections::{BTreeMap, HashMap};

/// An LED of a gauge counts as lit from here on, A.
pub const LIT_A: f64 = 0.000_3;
/// What moves less than this does not swing, V.
const SWING_V: f64 = 0.1;
/// Below this a transistor that is on is saturated, V.
const SATURATED_V: f64 = 0.3;
/// Gaps of a track that are followed one after the other, and waves of an alternating one between them at most.
const GAPS: usize = 4;
const WAVES: f64 = 100.0;
/// A gauge is swept from here on, in steps, V.
const SWEEP: (f64, f64) = (1.8, 0.01);
/// So many of these steps at once.
const STRIDE: usize = 32;
/// Periods that a flasher is followed for, and over how many of them it is measured. Two transistors are back where they
/// were after one, and take ten times as long to follow.
const PERIODS: (f64, usize) = (6.0, 3);
const OF_TWO: (f64, usize) = (2.2, 1);
const FLASHES_OF_TWO: usize = 3;
/// Where one half is far longer than the other it takes some periods until they repeat, and each is told less exactly: so
/// many flashes, no longer than so many times as long, measured over so many of them.
const UNEQUAL: (usize, f64, usize) = (10, 8.0, 6);
/// A junction of a sketch holds this share of what its flasher's capacitors do.
const SKETCHED_JUNCTION: f64 = 3e-4;
/// Time that a saturated transistor takes to let go (representative), s, and charge of a small gate, C.
const LETS_GO_S: f64 = 2e-6;
const GATE_C: f64 = 1e-8;
/// Share of a period that may be lost to switching.
const LOST: f64 = 0.01;

/// Current through several lights together, A.
fn total(run: &Run<'_>, lights: &[String]) -> Trace {
    let mut sum = Trace { time_s: run.time_s.clone(), value: vec![0.0; run.time_s.len()] };
    for light in lights {
        sum.value.iter_mut().zip(run.current(light).value).for_each(|(sum, amps)| *sum += amps);
    }
    sum
}

/// Why a circuit has no figures.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum CircuitError {
    /// It does not run at this state.
    #[error("`{circuit}` does not run {state}: {why}")]
    DoesNotRun {
        /// The circuit.
        circuit: String,
        /// When, in words.
        state: &'static str,
        /// Why, with what to do.
        why: String,
    },
    /// It cannot be followed.
    #[error("`{circuit}`: {error}")]
    Transient {
        /// The circuit.
        circuit: String,
        /// Why.
        error: TransientError,
    },
}

data! {
    /// How long a hold-up carries its lights with so many of its resistors.
    pub struct Held {
        /// Until half of the light, s.
        pub half_s: f64,
        /// Until a tenth of it, s.
        pub tenth_s: f64,
        /// Current at plug-in, A.
        pub inrush_a: f64,
        /// Current of the lights while there is contact, A.
        pub light_a: f64,
        /// Voltage that the capacitor holds, V.
        pub capacitor_v: f64,
        /// Least share of the light over the track's pattern of gaps, once that has gone on for a while.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub gap_share: Option<f64>,
    }

    /// A span of supply voltages in which the same LEDs of a gauge are lit.
    pub struct Band {
        /// From, V.
        pub from_v: f64,
        /// To, V.
        pub to_v: f64,
        /// `none`, `low`, `good+low` or `good`.
        pub lit: &'static str,
    }
}

/// What a circuit does at a state; what does not belong to its kind is left out.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CircuitFigures {
    /// From one flash to the next, s.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub period_s: Option<f64>,
    /// Of that on, s.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub on_s: Option<f64>,
    /// Share of the time on.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub duty: Option<f64>,
    /// Drawn from the supply, mean, A.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub supply_mean_a: Option<f64>,
    /// The same at most, A.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub supply_peak_a: Option<f64>,
    /// Out of a timer's output at most, A.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub output_peak_a: Option<f64>,
    /// Through the lights at most, A.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub light_peak_a: Option<f64>,
    /// Between collector and emitter while on, V.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub drop_v: Option<f64>,
    /// Whether its transistor is saturated while on.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub saturated: Option<bool>,
    /// Lowest voltage at a base, V.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub base_least_v: Option<f64>,
    /// Drawn from a controller's pin, A.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pin_a: Option<f64>,
    /// Heat of its transistor while on, W.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub heat_w: Option<f64>,
    /// Up to here it may be pulsed, Hz.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pwm_hz: Option<f64>,
    /// By tap: `tap1` and so on.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub taps: BTreeMap<String, Held>,
    /// By rising volts.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub bands: Vec<Band>,
}

thread_local! {
    /// What was found already: a plan is judged again and again with the same circuit in it.
    static KNOWN: RefCell<HashMap<String, Result<CircuitFigures, CircuitError>>> = RefCell::new(HashMap::new());
}
/// More than this is forgotten.
const REMEMBERED: usize = 256;

/// What the circuit of a place in the document does at a state.
///
/// # Errors
/// When it does not run then, or cannot be followed.
pub fn figures(build: &Build, index: usize, state: State) -> Result<CircuitFigures, CircuitError> {
    let own = &build.circuits[index];
    let driven: Vec<&Light> = build.lights.iter().filter(|light| own.drives.contains(&light.id)).collect();
    let gaps = if let Source::Track(track) = &build.source { track.gaps.clone() } else { None };
    let key = format!("{own:?}{:?}{driven:?}{state:?}{gaps:?}{}", Fed::of(build, own, state), Fed::highest(build, index));
    if let Some(known) = KNOWN.with_borrow(|known| known.get(&key).cloned()) {
        return known;
    }
    let found = Workshop::of(build, index, state).figures(build);
    let unfinished = matches!(&found, Err(CircuitError::Transient { error: TransientError::CalledOff | TransientError::TooMuch, .. }));
    if !unfinished {
        KNOWN.with_borrow_mut(|known| {
            if known.len() >= REMEMBERED {
                known.clear();
            }
            known.insert(key, found.clone());
        });
    }
    found
}

/// Currents through the good and the low LED of a gauge at a voltage, A.
fn gauge_currents(build: &Build, index: usize, volts: f64) -> Option<(f64, f64)> {
    let own = &build.circuits[index];
    let schematic = Schematic::of(build, own, &Fed { emf_v: volts, ohm: 0.0, hz: None }, 1);
    let run = schematic.circuit.rest().ok()?;
    let amps = |name: &str| run.current(name).value.first().copied();
    Some((amps("led_good")?, amps("led_low")?))
}

/// A circuit at a state, with what it hangs on and what it drives.
pub struct Workshop<'a> {
    own: &'a SmallCircuit,
    fed: Fed,
    schematic: Schematic,
    state: State,
    accuracy: Accuracy,
    /// Flashes that are followed, where somebody says how many.
    flashes: Option<u32>,
}

impl<'a> Workshop<'a> {
    /// The circuit of a place in the document.
    pub fn of(build: &'a Build, index: usize, state: State) -> Self {
        let own = &build.circuits[index];
        let fed = Fed::of(build, own, state);
        let schematic = Schematic::of(build, own, &fed, own.parts.tap.unwrap_or(1) as usize);
        Workshop { own, fed, schematic, state, accuracy: Accuracy::Full, flashes: None }
    }

    /// The same, followed more or less closely.
    pub fn to(mut self, accuracy: Accuracy) -> Self {
        if accuracy == Accuracy::Sketch && self.own.kind == CircuitKind::TransistorFlasher {
            // What junctions hold decides how sharply it flips, which nobody sees in a sketch, and most of the work is there.
            let parts = &self.own.parts;
            let least = [parts.c1_f, parts.c2_f].into_iter().flatten().fold(f64::INFINITY, f64::min);
            for part in &mut self.schematic.circuit.parts {
                if let (Element::Capacitor(farad, None), true) = (&mut part.element, part.name.starts_with('q')) {
                    *farad = farad.max(SKETCHED_JUNCTION * least);
                }
            }
        }
        Workshop { accuracy, ..self }
    }

    fn failed(&self, error: TransientError) -> CircuitError {
        CircuitError::Transient { circuit: self.own.id.clone(), error }
    }

    fn dead(&self, why: String) -> CircuitError {
        CircuitError::DoesNotRun { circuit: self.own.id.clone(), state: self.state.phrase(), why }
    }

    /// Current through a part at rest, A.
    fn at_once(&self, part: &str) -> Option<f64> {
        let run = self.schematic.circuit.rest().ok()?;
        run.current(part).value.first().copied()
    }

    /// Of a hold-up: what reaches its lights while there is contact, V.
    fn passes_v(&self) -> Option<f64> {
        let run = self.schematic.circuit.rest().ok()?;
        run.node("sense_p").value.first().copied()
    }

    /// What it is simulated as.
    pub fn circuit(&self) -> &Circuit {
        &self.schematic.circuit
    }

    /// How long is followed, and the time in which something happens, s.
    fn time(&self) -> (f64, f64) {
        let period = self.schematic.period_s;
        (self.periods().0 * period, period)
    }

    fn periods(&self) -> (f64, usize) {
        let (periods, measured) = if self.own.kind == CircuitKind::TransistorFlasher { OF_TWO } else { PERIODS };
        (self.flashes.map_or(periods, |flashes| f64::from(flashes) + 1.2), if self.settles() { UNEQUAL.2 } else { measured })
    }

    /// Whether it is followed until its halves repeat: one half of two transistors is more than twice as long as the other.
    fn settles(&self) -> bool {
        if self.accuracy != Accuracy::Full || self.own.kind != CircuitKind::TransistorFlasher {
            return false;
        }
        let parts = &self.own.parts;
        let half = |ohm: Option<f64>, farad: Option<f64>| ohm.zip(farad).map(|(ohm, farad)| ohm * farad);
        let halves = half(parts.r1_ohm, parts.c1_f).zip(half(parts.r2_ohm, parts.c2_f));
        halves.is_some_and(|(one, two)| one.max(two) > 2.0 * one.min(two))
    }

    /// The same, a flasher over so many flashes.
    pub fn over(self, flashes: Option<u32>) -> Self {
        Workshop { flashes, ..self }
    }

    /// Its waveforms over some periods; of a hold-up, while there is no contact.
    ///
    /// # Errors
    /// When it cannot be followed.
    pub fn run(&self) -> Result<Run<'_>, CircuitError> {
        let (stop, scale) = self.time();
        let circuit = &self.schematic.circuit;
        let watched = circuit.nodes.iter().position(|node| *node == self.schematic.watched).unwrap_or(0);
        // Two transistors of unequal halves flash sooner than their formula says: that many flashes are enough.
        let most =
            if self.own.kind == CircuitKind::TransistorFlasher { self.flashes.map_or(FLASHES_OF_TWO, |flashes| flashes as usize + 1) } else { usize::MAX };
        let seen = Cell::new((0, true));
        let (settles, last) = (self.flashes.is_none() && self.settles(), stop);
        let (most, stop) = if settles { (UNEQUAL.0, UNEQUAL.1 * stop) } else { (most, stop) };
        let enough = |time_s: f64, x: &[f64]| {
            let (flashes, was_high) = seen.get();
            let high = x[watched] > self.schematic.level_v;
            seen.set((flashes + usize::from(high && !was_high), high));
            // One that does not swing is not waited for.
            seen.get().0 >= most || (settles && seen.get().0 < 2 && time_s > last)
        };
        circuit.run_to(self.accuracy, stop, scale, &enough).map_err(|error| self.failed(error))
    }

    /// Everything that is told of it, and its waveforms, followed once for both where one run shows both.
    ///
    /// # Errors
    /// When it does not run at this state, or cannot be followed.
    pub fn followed(&self, build: &Build) -> Result<(CircuitFigures, Run<'_>), CircuitError> {
        if !self.own.kind.flashes() {
            return Ok((self.figures(build)?, self.run()?));
        }
        let run = self.flashing()?;
        Ok((self.flashes(&run)?, run))
    }

    /// What is drawn of it: names and waveforms.
    pub fn shown(&self, run: &Run<'_>) -> Vec<(String, Trace)> {
        let nodes = run.circuit.nodes.iter().skip(1).map(|name| (format!("{name}_v"), run.node(name)));
        let lights = self.schematic.lights.iter().map(|name| (format!("{name}_a"), run.current(name)));
        nodes.chain(lights).chain([("supply_a".to_owned(), run.current("supply"))]).collect()
    }

    /// Everything that is told of it.
    ///
    /// # Errors
    /// When it does not run at this state, or cannot be followed.
    pub fn figures(&self, build: &Build) -> Result<CircuitFigures, CircuitError> {
        match self.own.kind {
            CircuitKind::TimerFlasher | CircuitKind::TransistorFlasher | CircuitKind::BreakdownFlasher => self.flashes(&self.flashing()?),
            CircuitKind::HoldUp => self.holds(build),
            CircuitKind::BatteryGauge => self.gauges(build),
            CircuitKind::Switch => self.switches(),
        }
    }

    fn flashing(&self) -> Result<Run<'_>, CircuitError> {
        match &self.schematic.cannot_start {
            Some(why) => Err(self.dead(why.clone())),
            None => self.run(),
        }
    }

    /// The voltage of the watched node that parts on from off. Where a capacitor does not fill again in the time of the other
    /// half the node never comes to where it is expected; then it is the middle of how far it does.
    fn level_v(&self, run: &Run<'_>) -> f64 {
        let (watched, expected) = (run.node(&self.schematic.watched), self.schematic.level_v);
        if watched.crossings(expected, true).len() >= 2 {
            return expected;
        }
        let late = watched.from(0.5 * watched.span_s());
        let (least, most) = (late.least(), late.peak());
        if most - least > SWING_V { 0.5 * (least + most) } else { expected }
    }

    fn flashes(&self, run: &Run<'_>) -> Result<CircuitFigures, CircuitError> {
        let kind = self.own.kind;
        let (watched, level) = (run.node(&self.schematic.watched), self.level_v(run));
        let swings = watched.swings(level, self.periods().1);
        let Some((period_s, high_s, [from, to])) = swings else {
            return Err(self.dead("it does not swing; check that it gets the voltage its parts need".into()));
        };
        let on_s = if self.schematic.on_when_low { period_s - high_s } else { high_s };
        let whole = |trace: Trace| {
            let cut = trace.from(from);
            let keep = cut.time_s.partition_point(|time| *time <= to);
            Trace { time_s: cut.time_s[..keep].to_vec(), value: cut.value[..keep].to_vec() }
        };
        let supply = whole(run.current("supply"));
        let light_peak_a = self.schematic.lights.iter().map(|name| whole(run.current(name)).peak()).fold(0.0, f64::max);
        let mut found = CircuitFigures {
            period_s: Some(period_s),
            on_s: Some(on_s),
            duty: Some(on_s / period_s),
            supply_mean_a: Some(supply.mean()),
            supply_peak_a: Some(supply.peak()),
            light_peak_a: (!self.schematic.lights.is_empty()).then_some(light_peak_a),
            ..CircuitFigures::default()
        };
        if kind == CircuitKind::TimerFlasher {
            found.output_peak_a = Some(whole(run.current("timer")).peak());
        }
        if let Some(collector) = &self.schematic.collector {
            let least = whole(run.node(collector)).least();
            found.drop_v = Some(least);
            found.saturated = Some(least < SATURATED_V);
        }
        if kind == CircuitKind::TransistorFlasher {
            found.base_least_v = Some(whole(run.node("b1")).least().min(whole(run.node("b2")).least()));
        }
        Ok(found)
    }

    fn holds(&self, build: &Build) -> Result<CircuitFigures, CircuitError> {
        let mut found = CircuitFigures::default();
        for tap in 1..=self.own.parts.taps_ohm.as_ref().map_or(1, Vec::len) {
            let schematic = Schematic::of(build, self.own, &self.fed, tap);
            // Without contact only the capacitor carries them.
            let own = &schematic.circuit;
            let begins = total(&own.rest().map_err(|error| self.failed(error))?, &schematic.lights).value[0];
            if begins <= 1e-6 {
                return Err(self.dead("its lights stay dark even while there is contact; give it more voltage or fewer resistors".into()));
            }
            let run =
                own.run(4000.0 * schematic.period_s, schematic.period_s, &|_, x| schematic.light_a(x) < 0.09 * begins).map_err(|error| self.failed(error))?;
            let trace = total(&run, &schematic.lights);
            let until = |share: f64| trace.crossings(share * begins, false).first().copied().unwrap_or(f64::INFINITY);
            let held = Held {
                half_s: until(0.5),
                tenth_s: until(0.1),
                inrush_a: schematic.inrush_a,
                light_a: begins,
                capacitor_v: schematic.held_v,
                gap_share: self.flicker(build, &schematic, begins)?,
            };
            if tap == self.own.parts.tap.unwrap_or(1) as usize {
                (found.supply_mean_a, found.supply_peak_a) = (Some(begins), Some(schematic.inrush_a));
            }
            found.taps.insert(format!("tap{tap}"), held);
        }
        Ok(found)
    }

    /// Least share of the light while contact is lost again and again: emptied for a gap, filled until the next, a few times.
    fn flicker(&self, build: &Build, schematic: &Schematic, begins_a: f64) -> Result<Option<f64>, CircuitError> {
        let Source::Track(track) = &build.source else { return Ok(None) };
        let (Some(gaps), Some(contact)) = (&track.gaps, &schematic.contact) else { return Ok(None) };
        let light = |run: &Run<'_>| total(run, &schematic.lights).value.last().copied().unwrap_or(0.0);
        let follow = |circuit: &Circuit, from_v: f64, time_s: f64, scale_s: f64| -> Result<(f64, f64), CircuitError> {
            let mut filled = circuit.clone();
            for part in &mut filled.parts {
                if let Element::Capacitor(_, start) = &mut part.element {
                    *start = Some(from_v);
                }
            }
            let run = filled.run(time_s.max(1e-9), scale_s, &|_, _| false).map_err(|error| self.failed(error))?;
            Ok((run.between("held", "plate").value.last().copied().unwrap_or(0.0), light(&run)))
        };
        let mut held_v = schematic.held_v;
        let mut least = 1.0_f64;
        for _ in 0..GAPS {
            let (emptied_v, left_a) = follow(&schematic.circuit, held_v, gaps.length_s, schematic.period_s)?;
            least = least.min(left_a / begins_a.max(1e-12));
            // An alternating track is followed for as many of its waves as fill it again, not for hours.
            let (scale_s, most_s) = self.fed.hz.map_or((schematic.period_s, f64::INFINITY), |hz| (1.0 / hz, WAVES / hz));
            held_v = follow(contact, emptied_v, (gaps.every_s - gaps.length_s).min(most_s), scale_s)?.0;
        }
        Ok(Some(least))
    }

    fn gauges(&self, build: &Build) -> Result<CircuitFigures, CircuitError> {
        let top = build.circuits.iter().position(|known| known.id == self.own.id).map_or(0.0, |index| Fed::highest(build, index));
        let mut bands: Vec<Band> = Vec::new();
        let steps = ((top - SWEEP.0) / SWEEP.1).round().max(0.0) as usize;
        let volts = |step: usize| (100.0 * (SWEEP.0 + SWEEP.1 * step as f64)).round() / 100.0;
        let known: RefCell<BTreeMap<usize, [f64; 2]>> = RefCell::new(BTreeMap::new());
        let currents = |step: usize| -> Result<[f64; 2], CircuitError> {
            if let Some(amps) = known.borrow().get(&step) {
                return Ok(*amps);
            }
            let schematic = Schematic::of(build, self.own, &Fed { emf_v: volts(step), ohm: 0.0, ..self.fed.clone() }, 1);
            let run = schematic.circuit.rest().map_err(|error| self.failed(error))?;
            let amps = ["led_good", "led_low"].map(|name| run.current(name).value[0]);
            known.borrow_mut().insert(step, amps);
            Ok(amps)
        };
        let lit = |step: usize| {
            Ok(match currents(step)?.map(|amps| amps >= LIT_A) {
                [false, false] => "none",
                [false, true] => "low",
                [true, true] => "good+low",
                [true, false] => "good",
            })
        };
        // Where both ends of a stride are alike so is all between, unless a current has its most or its least in there.
        let mut stops: Vec<usize> = (0..steps).step_by(STRIDE).chain([steps]).collect();
        let amps: Vec<[f64; 2]> = stops.iter().map(|stop| currents(*stop)).collect::<Result<_, _>>()?;
        for at in 1..stops.len() - 1 {
            for (led, here) in amps[at].into_iter().enumerate() {
                let [before, after] = [amps[at - 1][led], amps[at + 1][led]];
                let sign = if here >= before && here >= after { 1.0 } else { -1.0 };
                if here == before || here == after || (sign < 0.0 && (here > before || here > after)) {
                    continue;
                }
                let (mut from, mut to) = (stops[at - 1], stops[at + 1]);
                while to - from > 2 {
                    let (one, two) = (from + (to - from) / 3, to - (to - from) / 3);
                    if sign * currents(one)?[led] < sign * currents(two)?[led] { from = one } else { to = two }
                }
                stops.push((from + to) / 2);
            }
        }
        stops.sort_unstable();
        stops.dedup();
        let mut from = (0, lit(0)?);
        bands.push(Band { from_v: volts(0), to_v: volts(0), lit: from.1 });
        for to in stops.into_iter().skip(1) {
            loop {
                let mut next = (to, lit(to)?);
                // The last step that is still like the beginning; beyond it the first that is not.
                let mut alike = if next.1 == from.1 { to } else { from.0 };
                while next.1 != from.1 && next.0 - alike > 1 {
                    let middle = alike + (next.0 - alike) / 2;
                    let words = lit(middle)?;
                    if words == from.1 { alike = middle } else { next = (middle, words) }
                }
                if let Some(last) = bands.last_mut() {
                    last.to_v = volts(alike);
                }
                if next.1 != from.1 {
                    bands.push(Band { from_v: volts(next.0), to_v: volts(next.0), lit: next.1 });
                }
                from = next;
                if from.0 == to {
                    break;
                }
            }
        }
        let run = self.schematic.circuit.rest().map_err(|error| self.failed(error))?;
        let amps = run.current("supply").value[0];
        Ok(CircuitFigures { bands, supply_mean_a: Some(amps), supply_peak_a: Some(amps), ..CircuitFigures::default() })
    }

    fn switches(&self) -> Result<CircuitFigures, CircuitError> {
        let run = self.schematic.circuit.rest().map_err(|error| self.failed(error))?;
        let drop_v = run.node("c").value[0];
        let amps: f64 = self.schematic.lights.iter().map(|name| run.current(name).value[0]).sum();
        let base_ohm = self.own.parts.base_ohm.unwrap_or(1.0);
        let transistor = self.schematic.collector.is_some();
        let edge_s = if transistor { LETS_GO_S } else { GATE_C * base_ohm / self.schematic.logic_v };
        Ok(CircuitFigures {
            supply_mean_a: Some(run.current("supply").value[0]),
            supply_peak_a: Some(run.current("supply").value[0]),
            light_peak_a: Some(amps),
            drop_v: Some(drop_v),
            saturated: Some(!transistor || drop_v < SATURATED_V),
            pin_a: Some(run.current("base").value[0]),
            heat_w: Some(run.power(if transistor { "q" } else { "gate" }).value[0]),
            pwm_hz: Some(LOST / edge_s),
            ..CircuitFigures::default()
        })
    }

    /// As SPICE text, whose measurements have the names of the figures.
    ///
    /// # Errors
    /// When it does not run at this state.
    pub fn spice(&self, title: &str) -> Result<String, CircuitError> {
        let s = &self.schematic;
        let (stop, scale) = self.time();
        let mut measures = Vec::new();
        let mut stop_s = stop;
        let mut longest_s = f64::INFINITY;
        match self.own.kind {
            CircuitKind::TimerFlasher | CircuitKind::TransistorFlasher | CircuitKind::BreakdownFlasher => {
                let run = self.run()?;
                let watched = run.node(&s.watched);
                let level = self.level_v(&run);
                let ups = watched.crossings(level, true);
                let (Some(third), Some((length, high, _))) = (ups.get(1), watched.swings(level, self.periods().1)) else {
                    return Err(self.dead("it does not swing".into()));
                };
                // From before a rise, while it is still low.
                let from = third - 0.4 * (length - high);
                let node = &s.watched;
                let edge = |what: &str, which: usize| format!("v({node}) VAL={level:e} TD={from:e} {what}={which}");
                measures.push(format!(".meas tran period_s TRIG {} TARG {}", edge("RISE", 1), edge("RISE", 2)));
                let on = if s.on_when_low { (edge("FALL", 1), edge("RISE", 2)) } else { (edge("RISE", 1), edge("FALL", 1)) };
                measures.push(format!(".meas tran on_raw_s TRIG {} TARG {}", on.0, on.1));
                // Where it swings a little sooner or later than here, the two edges may be of different periods.
                measures.push(".meas tran duty param='on_raw_s/period_s-floor(on_raw_s/period_s)'".into());
                measures.push(".meas tran on_s param='duty*period_s'".into());
                // A simulator that switches at the end of a step needs short ones.
                longest_s = high.min(length - high) / 100.0;
                measures.push(format!(".meas tran drawn AVG i(Vsupply) FROM={from:e} TO={:e}", from + length));
                measures.push(".meas tran supply_mean_a param='-drawn'".into());
                stop_s = from + self.flashes.map_or(2.5, |flashes| f64::from(flashes) + 0.5) * length;
            }
            CircuitKind::HoldUp => {
                let run = s.circuit.run(4000.0 * scale, scale, &|_, x| s.light_a(x) < 0.09 * s.begins_a).map_err(|error| self.failed(error))?;
                stop_s = run.time_s.last().copied().unwrap_or(stop);
                for (name, share) in [("half_s", 0.5), ("tenth_s", 0.1)] {
                    measures.push(format!(".meas tran {name} WHEN i(Vsense)={:e} FALL=1", share * s.begins_a));
                }
            }
            CircuitKind::BatteryGauge | CircuitKind::Switch => {
                measures.push(format!(".meas tran supply_a FIND i(Vsupply) AT={:e}", 0.5 * stop));
                measures.push(".meas tran supply_mean_a param='-supply_a'".into());
                if self.own.kind == CircuitKind::Switch {
                    measures.push(format!(".meas tran drop_v FIND v(c) AT={:e}", 0.5 * stop));
                }
            }
        }
        Ok(s.circuit.spice(title, stop_s, longest_s.min(stop_s / 4000.0), &measures))
    }
}
