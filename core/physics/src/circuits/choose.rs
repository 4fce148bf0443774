//! The other way round: which standard parts give what is wanted.
//!
//! Closed formulas, corrected by one simulation of the same kind, find a short list among E24 and E12 resistors and E6
//! capacitors; what is on it is simulated and ranked by what it really gives.

use super::spread::{AtState, at_states, with};
use super::{CircuitError, CircuitFigures, LIT_A, Workshop};
use orthavis_model::document::{Build, CircuitKind, CircuitParts, Light, Load, Through};
use orthavis_model::laws::led::DiodeString;
use orthavis_model::laws::resistor::{self, Series};
use orthavis_model::practice::{ELECTROLYTIC_F, capacitor_for};
use orthavis_model::states::State;
use orthavis_model::working::{counted, plain};
use serde::{Deserialize, Serialize};
use std::f64::consts::LN_2;

/// Simulated at most, and told at most.
const SHORT_LIST: usize = 6;
const TOLD: usize = 4;
/// Two transistors take ten times as long to follow as a timer.
const OF_PAIRS: usize = 2;
/// Resistors that time something: below, a supply or a discharge pin suffers; above, leakage decides. ohm
const TIMING_OHM: (f64, f64) = (1e3, 2.2e6);
/// Of a two-transistor flasher a tenth of the gain is counted on.
const FORCED_GAIN: f64 = 25.0;
/// Into a saturated small transistor a tenth of what it carries.
const BASE_SHARE: [f64; 3] = [10.0, 20.0, 30.0];
/// A pin gives this much (representative), A.
const PIN_A: f64 = 0.02;
/// What the LED of an empty battery is given, A.
const LOW_A: f64 = 0.004;
/// A base that takes all the current of the other LED, V.
const BASE_V: f64 = 0.62;

/// What a person wants of a circuit; what does not belong to its kind is not looked at.
#[derive(Clone, Debug, Default, Deserialize, PartialEq)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields, default)]
pub struct Wanted {
    /// A flasher: from one flash to the next, s.
    pub period_s: Option<f64>,
    /// A flasher: share of the time on.
    pub duty: Option<f64>,
    /// A hold-up: until half of the light, s.
    pub half_s: Option<f64>,
    /// A gauge: below this only the low LED shines, V.
    pub low_below_v: Option<f64>,
    /// A gauge: above this only the good one does, V.
    pub good_above_v: Option<f64>,
}

/// Standard parts that give it, with what they really give.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = CircuitChoice))]
pub struct Choice {
    /// The parts in words.
    pub title: String,
    /// The parts.
    pub parts: CircuitParts,
    /// How far off it is at the fullest state, as a share.
    pub off: f64,
    /// What it gives at every state.
    pub states: Vec<AtState>,
}

/// Why there is no choice.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum ChooseError {
    /// A figure is missing or out of reach.
    #[error("`{field}`: {problem}. {remedy}")]
    Wanted {
        /// The field of [`Wanted`].
        field: &'static str,
        /// What is wrong with it.
        problem: String,
        /// What to give instead.
        remedy: String,
    },
    /// The circuit does not run.
    #[error(transparent)]
    Circuit(#[from] CircuitError),
}

fn within(field: &'static str, value: Option<f64>, from: f64, to: f64, unit: &str) -> Result<f64, ChooseError> {
    let remedy = format!("Give a figure from {} to {}", plain(from, unit), plain(to, unit));
    match value {
        None => Err(ChooseError::Wanted { field, problem: "nothing is given".into(), remedy }),
        Some(value) if !(from..=to).contains(&value) => Err(ChooseError::Wanted { field, problem: format!("{} is out of reach", plain(value, unit)), remedy }),
        Some(value) => Ok(value),
    }
}

/// The nearest values of a series on both sides.
fn around(series: Series, wanted: f64) -> [f64; 2] {
    let above = resistor::above(series, wanted);
    let below = series.between(above / 20.0, above * 0.999).last().copied().unwrap_or(above);
    [below, above]
}

fn capacitors(from: f64, to: f64) -> Vec<f64> {
    Series::E6.between(from, to)
}

/// By how much a figure is off, alike in both directions.
fn share(got: f64, wanted: f64) -> f64 {
    (got / wanted).ln().abs()
}

/// Large electrolytic capacitors leak and scatter; very large resistors are at the mercy of damp.
fn awkward(ohm: f64, farad: f64) -> f64 {
    let scatter = if farad >= 4.7e-4 {
        0.03
    } else if farad > 1e-4 {
        0.02
    } else if farad >= ELECTROLYTIC_F {
        0.01
    } else {
        0.0
    };
    scatter + if ohm > 1e6 { 0.02 } else { 0.0 }
}

/// A set of parts with how far off the corrected formula finds it.
struct Candidate {
    off: f64,
    parts: CircuitParts,
    title: String,
}

/// Standard parts for what is wanted of a circuit, the best first.
///
/// # Errors
/// When something that its kind needs is not given or out of reach, or the circuit does not run at all.
pub fn choose(build: &Build, index: usize, wanted: &Wanted) -> Result<Vec<Choice>, ChooseError> {
    let kind = build.circuits[index].kind;
    let state = build.states()[0];
    let mut candidates = match kind {
        CircuitKind::TimerFlasher => timers(build, index, state, wanted)?,
        CircuitKind::TransistorFlasher => pairs(build, index, state, wanted)?,
        CircuitKind::BreakdownFlasher => breakdowns(build, index, state, wanted)?,
        CircuitKind::HoldUp => hold_ups(build, index, state, wanted)?,
        CircuitKind::BatteryGauge => gauges(build, index, state, wanted)?,
        CircuitKind::Switch => switches(build, index, state)?,
    };
    candidates.sort_by(|a, b| a.off.total_cmp(&b.off));
    candidates.dedup_by(|a, b| a.title == b.title);
    let mut found: Vec<(f64, Choice)> = Vec::new();
    let most = if kind == CircuitKind::TransistorFlasher { OF_PAIRS } else { SHORT_LIST };
    for candidate in candidates.into_iter().take(most) {
        let copy = with(build, index, |parts| *parts = candidate.parts.clone());
        let states = at_states(&copy, index);
        let Some(first) = states.first().and_then(|at| at.figures.as_ref()) else { continue };
        let (Some(off), awkward) = (off_by(kind, first, wanted, &candidate), candidate_cost(kind, &candidate.parts)) else { continue };
        found.push((off + awkward, Choice { title: candidate.title, parts: candidate.parts, off, states }));
    }
    found.sort_by(|a, b| a.0.total_cmp(&b.0));
    Ok(found.into_iter().map(|(_, choice)| choice).take(TOLD).collect())
}

fn candidate_cost(kind: CircuitKind, parts: &CircuitParts) -> f64 {
    let ohm = [parts.ra_ohm, parts.rb_ohm, parts.r1_ohm, parts.r2_ohm, parts.r_ohm].into_iter().flatten().fold(0.0, f64::max);
    let farad = [parts.c_f, parts.c1_f, parts.c2_f].into_iter().flatten().fold(0.0, f64::max);
    if kind.flashes() { awkward(ohm, farad) } else { 0.0 }
}

/// How far what was simulated is from what is wanted.
fn off_by(kind: CircuitKind, figures: &CircuitFigures, wanted: &Wanted, candidate: &Candidate) -> Option<f64> {
    match kind {
        CircuitKind::TimerFlasher | CircuitKind::TransistorFlasher | CircuitKind::BreakdownFlasher => {
            let period = share(figures.period_s?, wanted.period_s?);
            let duty = wanted.duty.filter(|_| kind != CircuitKind::BreakdownFlasher);
            Some(period + duty.map_or(0.0, |wanted| (figures.duty.unwrap_or(0.0) - wanted).abs()))
        }
        CircuitKind::HoldUp => {
            let held = figures.taps.get(&format!("tap{}", candidate.parts.tap.unwrap_or(1)))?;
            Some(share(held.half_s, wanted.half_s?) + if held.half_s < wanted.half_s? { 10.0 } else { 0.0 })
        }
        // Found exactly already.
        CircuitKind::BatteryGauge | CircuitKind::Switch => Some(candidate.off),
    }
}

fn farads(value: f64) -> String {
    plain(value, "F")
}

fn ohms(value: f64) -> String {
    plain(value, "Ω")
}

/// A flasher's figures with these parts, or those of parts that do for sure.
fn simulated(build: &Build, index: usize, state: State, change: impl FnOnce(&mut CircuitParts)) -> Result<CircuitFigures, ChooseError> {
    let copy = with(build, index, change);
    Ok(Workshop::of(&copy, index, state).figures(&copy)?)
}

fn timers(build: &Build, index: usize, state: State, wanted: &Wanted) -> Result<Vec<Candidate>, ChooseError> {
    let period = within("period_s", wanted.period_s, 1e-3, 600.0, "s")?;
    let duty = within("duty", wanted.duty.or(Some(0.5)), 0.02, 0.98, "1")?;
    let own = &build.circuits[index].parts;
    // Without a diode it fills through more than it empties through.
    let diode = duty < 0.56;
    let (on, off) = (duty * period, (1.0 - duty) * period);
    // What the formula forgets depends on the voltage alone, nearly.
    let (ohm, farad) = (47e3, 1e-6);
    let known = simulated(build, index, state, |parts| {
        (parts.ra_ohm, parts.rb_ohm, parts.c_f, parts.diode) = (Some(ohm), Some(ohm), Some(farad), Some(diode));
    })?;
    let (got, got_on) = (known.period_s.unwrap_or(1.0), known.on_s.unwrap_or(0.5));
    let (k_on, k_off) = (got_on / (LN_2 * farad * if diode { ohm } else { 2.0 * ohm }), (got - got_on) / (LN_2 * farad * ohm));
    let mut found = Vec::new();
    for c in capacitors(1e-9, 2.2e-3) {
        let rb_wanted = off / (LN_2 * c * k_off);
        let ra_wanted = on / (LN_2 * c * k_on) - if diode { 0.0 } else { rb_wanted };
        if rb_wanted < TIMING_OHM.0 || ra_wanted < TIMING_OHM.0 || rb_wanted > TIMING_OHM.1 || ra_wanted > TIMING_OHM.1 {
            continue;
        }
        for rb in around(Series::E24, rb_wanted) {
            for ra in around(Series::E24, ra_wanted) {
                let got_on = LN_2 * c * k_on * if diode { ra } else { ra + rb };
                let got = got_on + LN_2 * c * k_off * rb;
                let mut parts = own.clone();
                (parts.ra_ohm, parts.rb_ohm, parts.c_f) = (Some(ra), Some(rb), Some(c));
                parts.diode = if diode || own.diode.is_some() { Some(diode) } else { None };
                let title = format!("Ra {}, Rb {}, C {}{}", ohms(ra), ohms(rb), farads(c), if diode { ", a diode across Rb" } else { "" });
                found.push(Candidate { off: share(got, period) + (got_on / got - duty).abs() + awkward(ra.max(rb), c), parts, title });
            }
        }
    }
    Ok(found)
}

fn pairs(build: &Build, index: usize, state: State, wanted: &Wanted) -> Result<Vec<Candidate>, ChooseError> {
    let period = within("period_s", wanted.period_s, 1e-3, 600.0, "s")?;
    let duty = within("duty", wanted.duty.or(Some(0.5)), 0.05, 0.95, "1")?;
    let own = &build.circuits[index].parts;
    let supply_v = super::schematic::Fed::of(build, &build.circuits[index], state).emf_v;
    let driven = build.circuits[index].drives.iter().filter_map(|id| build.lights.iter().find(|light| light.id == *id));
    let carried = driven.map(|light| light_a(light, supply_v)).fold(supply_v / 1000.0, f64::max);
    // More than this and the base no longer holds the transistor down.
    let most = FORCED_GAIN * (supply_v - 0.7).max(0.1) / carried;
    // One like those that are looked for tells what the formula forgets.
    let (longest, shortest) = (duty.max(1.0 - duty) * period / LN_2, duty.min(1.0 - duty) * period / LN_2);
    let fits: Vec<f64> = capacitors(1e-8, 4.7e-3).into_iter().filter(|c| longest / c <= most && shortest / c >= TIMING_OHM.0).collect();
    let Some(farad) = fits.get(fits.len() / 4).copied() else { return Ok(Vec::new()) };
    let (r1, r2) = ((1.0 - duty) * period / (LN_2 * farad), duty * period / (LN_2 * farad));
    let known = simulated(build, index, state, |parts| {
        (parts.r1_ohm, parts.r2_ohm, parts.c1_f, parts.c2_f) = (Some(r1), Some(r2), Some(farad), Some(farad));
    })?;
    let (got, got_on) = (known.period_s.unwrap_or(1.0), known.on_s.unwrap_or(0.5));
    let (k_on, k_off) = (got_on / (LN_2 * farad * r2), (got - got_on) / (LN_2 * farad * r1));
    let mut found = Vec::new();
    for c in capacitors(1e-8, 4.7e-3) {
        let (r1, r2) = ((1.0 - duty) * period / (LN_2 * c * k_off), duty * period / (LN_2 * c * k_on));
        if r1.min(r2) < TIMING_OHM.0 || r1.max(r2) > most {
            continue;
        }
        for r1 in around(Series::E24, r1) {
            for r2 in around(Series::E24, r2) {
                let (off, on) = (LN_2 * c * k_off * r1, LN_2 * c * k_on * r2);
                let mut parts = own.clone();
                (parts.r1_ohm, parts.r2_ohm, parts.c1_f, parts.c2_f) = (Some(r1), Some(r2), Some(c), Some(c));
                let title = format!("R1 {}, R2 {}, C1 and C2 {}", ohms(r1), ohms(r2), farads(c));
                found.push(Candidate { off: share(on + off, period) + (on / (on + off) - duty).abs() + awkward(0.0, c), parts, title });
            }
        }
    }
    Ok(found)
}

/// What a light takes at a voltage, A.
fn light_a(light: &Light, volts: f64) -> f64 {
    match &light.load {
        Load::LedArray(array) => DiodeString::of_array(array).current(volts).0 * f64::from(array.parallel),
        Load::Strip(strip) => DiodeString::of_segment(strip).current(volts).0 * f64::from(strip.segments()),
        Load::Module(module) => module.power_w / module.voltage_v,
        Load::Pixels(pixels) => f64::from(pixels.count) * (pixels.channel_a.iter().sum::<f64>() + pixels.idle_a),
    }
}

fn breakdowns(build: &Build, index: usize, state: State, wanted: &Wanted) -> Result<Vec<Candidate>, ChooseError> {
    let period = within("period_s", wanted.period_s, 0.01, 60.0, "s")?;
    let own = &build.circuits[index].parts;
    let (ohm, farad) = (4.7e3, 1e-4);
    let known = simulated(build, index, state, |parts| (parts.r_ohm, parts.c_f) = (Some(ohm), Some(farad)))?;
    let k = known.period_s.unwrap_or(1.0) / (ohm * farad);
    let mut found = Vec::new();
    for c in capacitors(1e-5, 2.2e-3) {
        for r in around(Series::E24, period / (k * c)).into_iter().filter(|r| (470.0..=100e3).contains(r)) {
            let mut parts = own.clone();
            (parts.r_ohm, parts.c_f) = (Some(r), Some(c));
            found.push(Candidate { off: share(k * r * c, period) + awkward(r, c), parts, title: format!("R {}, C {}", ohms(r), farads(c)) });
        }
    }
    Ok(found)
}

fn hold_ups(build: &Build, index: usize, state: State, wanted: &Wanted) -> Result<Vec<Candidate>, ChooseError> {
    let half = within("half_s", wanted.half_s, 1e-3, 600.0, "s")?;
    let own = &build.circuits[index].parts;
    let known = simulated(build, index, state, |_| {})?;
    let farad = own.c_f.unwrap_or(1e-3);
    let mut found = Vec::new();
    for (name, held) in &known.taps {
        let tap: u32 = name.trim_start_matches("tap").parse().unwrap_or(1);
        // As long as the capacitor is large; a hair more, for what its own resistance takes.
        let need = 1.005 * farad * half / held.half_s.max(1e-9);
        let c = 1e-12 * resistor::above(Series::E6, 1e12 * need);
        if c > 1.0 {
            continue;
        }
        let rated = capacitor_for(held.capacitor_v);
        let mut parts = own.clone();
        parts.c_f = Some(c);
        parts.c_rated_v = rated.or(own.c_rated_v);
        if own.taps_ohm.is_some() {
            parts.tap = Some(tap);
        }
        let behind = match (&own.taps_ohm, tap) {
            (None, _) => String::new(),
            (Some(_), 1) => ", the first resistor".into(),
            (Some(_), tap) => format!(", {tap} resistors"),
        };
        let title = format!("C {} for {}{behind}", farads(c), plain(parts.c_rated_v.unwrap_or(held.capacitor_v), "V"));
        found.push(Candidate { off: share(half * c / need, half), parts, title });
    }
    Ok(found)
}

/// Where the good LED begins and where the low one ends, V, by halving.
fn thresholds(build: &Build, index: usize, parts: &CircuitParts, around_v: (f64, f64)) -> Option<(f64, f64)> {
    let copy = with(build, index, |own| *own = parts.clone());
    let lit = |volts: f64| super::gauge_currents(&copy, index, volts);
    let search = |holds: &dyn Fn((f64, f64)) -> bool, (mut low, mut high): (f64, f64)| {
        if holds(lit(low)?) || !holds(lit(high)?) {
            return None;
        }
        for _ in 0..8 {
            let middle = 0.5 * (low + high);
            if holds(lit(middle)?) { high = middle } else { low = middle }
        }
        Some(0.5 * (low + high))
    };
    let span = (around_v.0 - 3.0).max(0.5);
    let begins = search(&|(good, _)| good >= LIT_A, (span, around_v.1 + 3.0))?;
    let ends = search(&|(_, low)| low < LIT_A, (begins, around_v.1 + 6.0))?;
    Some((begins, ends))
}

fn gauges(build: &Build, index: usize, state: State, wanted: &Wanted) -> Result<Vec<Candidate>, ChooseError> {
    let supply_v = super::schematic::Fed::of(build, &build.circuits[index], state).emf_v;
    let low = within("low_below_v", wanted.low_below_v, 1.0, 60.0, "V")?;
    let good = within("good_above_v", wanted.good_above_v, low + 0.1, 61.0, "V")?;
    let own = &build.circuits[index].parts;
    let (Some(led_good), Some(led_low)) = (&own.led_good, &own.led_low) else { return Ok(Vec::new()) };
    let row = |count: u32| DiodeString::new(led_good, count, 0.0);
    let silicon = |amps: f64| 1.8 * 0.02585 * (amps / 5e-9_f64).ln();
    let mut rough = Vec::new();
    for diodes in 0..=12_u32 {
        let rest_v = |amps: f64| row(1).voltage(amps) + f64::from(diodes) * silicon(amps);
        for rb in Series::E12.between(100.0, 2.2e3) {
            let full_a = BASE_V / rb;
            for rs in Series::E12.between(47.0, 10e3) {
                let begins = LIT_A * (rs + rb) + rest_v(LIT_A);
                let ends = full_a * rs + rest_v(full_a) + BASE_V;
                let most_a = (supply_v - rest_v(led_good.if_a) - BASE_V) / rs;
                if most_a > led_good.if_a {
                    continue;
                }
                rough.push(((begins - low).abs() + (ends - good).abs(), diodes, rs, rb));
            }
        }
    }
    rough.sort_by(|a, b| a.0.total_cmp(&b.0));
    let rc = resistor::above(Series::E12, ((low - led_low.vf_v).max(0.3) / LOW_A).max((supply_v - led_low.vf_v) / led_low.if_a));
    let mut found = Vec::new();
    for (_, diodes, rs, rb) in rough.into_iter().take(SHORT_LIST) {
        let mut parts = own.clone();
        (parts.rs_ohm, parts.rb_ohm, parts.rc_ohm, parts.diodes) = (Some(rs), Some(rb), Some(rc), Some(diodes));
        let Some((begins, ends)) = thresholds(build, index, &parts, (low, good)) else { continue };
        let behind = counted(diodes, "diode");
        let title = format!("Rs {}, Rb {}, Rc {}, {behind}", ohms(rs), ohms(rb), ohms(rc));
        found.push(Candidate { off: share(begins, low) + share(ends, good), parts, title });
    }
    Ok(found)
}

fn switches(build: &Build, index: usize, state: State) -> Result<Vec<Candidate>, ChooseError> {
    let own = &build.circuits[index].parts;
    let logic_v = own.logic_v.unwrap_or(super::schematic::LOGIC_V);
    if own.through == Some(Through::Mosfet) {
        // Enough to spare the pin the gate's charge, little enough to switch fast.
        let values = [100.0, 220.0, 470.0].into_iter().enumerate();
        return Ok(values
            .map(|(rank, ohm)| {
                let mut parts = own.clone();
                parts.base_ohm = Some(ohm);
                Candidate { off: rank as f64, parts, title: format!("{} at the gate", ohms(ohm)) }
            })
            .collect());
    }
    let known = simulated(build, index, state, |parts| parts.base_ohm = Some(100.0))?;
    let amps = known.light_peak_a.unwrap_or(0.0);
    let mut found = Vec::new();
    for (rank, gain) in BASE_SHARE.into_iter().enumerate() {
        let base_a = (amps / gain).min(PIN_A);
        let ohm = resistor::above(Series::E24, ((logic_v - 0.7).max(0.1) / base_a.max(1e-4)).min(100e3));
        let mut parts = own.clone();
        parts.base_ohm = Some(ohm);
        found.push(Candidate { off: rank as f64, parts, title: format!("{} at the base", ohms(ohm)) });
    }
    Ok(found)
}
