//! The engine: an operating point, then step after step.

use super::elements::{LEAK_S, THERMAL_V, limited};
use super::matrix::Matrix;
use super::{Circuit, Element, Node, Timer};
use orthavis_model::budget::{self, Stopped};

/// Local truncation error of a step: of its voltage or current, and in V or A.
const RELATIVE: f64 = 1e-4;
const ABSOLUTE: f64 = 1e-6;
/// So many times that where a sketch will do.
const SKETCHED: f64 = 20.0;
/// In a sketch a capacitance is small below this share of the largest.
const SMALL: f64 = 1e-3;
/// After a step that was too long: the longest that is tried, of that, and how fast that rises again.
const CEILING: f64 = 0.125;
const RISE: f64 = 1.3;
/// Charge below which nobody asks where it is, C: a junction's picofarads may ring by a millivolt.
const CHARGE_C: f64 = 1e-13;
/// When Newton's method is done: of a value, in V, and in A.
const CLOSE: (f64, f64, f64) = (1e-7, 1e-9, 1e-12);
/// The same within a step: tighter than that, rounding in large capacitors over short steps would never let it end.
const CLOSE_WITHIN: (f64, f64, f64) = (1e-6, 1e-6, f64::INFINITY);
const MOST_ITERATIONS: usize = 60;
/// Within a step: what takes longer is done sooner by a shorter step.
const MOST_WITHIN: usize = 8;
/// This far below its knee a junction carries a few milliamperes at most, V.
const BELOW_KNEE_V: f64 = 0.1;
/// The first step after a jump, of the time scale.
const FIRST: f64 = 1e-7;
/// The longest step, of the time scale.
const LONGEST: f64 = 0.05;
/// Instants of switching are found to this, of the time scale.
const INSTANT: f64 = 1e-10;
/// More steps than this are refused.
const MOST_STEPS: usize = 400_000;

/// Why there is no waveform.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum TransientError {
    /// Nothing connects a node with ground.
    #[error("`{part}` hangs in the air: nothing connects its node `{node}` with minus. Connect it")]
    Floating {
        /// A part at that node.
        part: String,
        /// The node.
        node: String,
    },
    /// Voltages in a circle.
    #[error("`{part}` closes a loop of voltages in which nothing limits the current. Put a resistor into it")]
    Loop {
        /// The part that closes it.
        part: String,
    },
    /// A figure that no part has.
    #[error("`{part}` has {what}. Give a figure above 0")]
    Figure {
        /// The part.
        part: String,
        /// What is wrong.
        what: String,
    },
    /// Newton's method found nothing.
    #[error("no balance was found at {time_s:.6} s near `{node}`")]
    NotConverged {
        /// When, s.
        time_s: f64,
        /// The node that moved last.
        node: String,
    },
    /// It switches without end at one instant.
    #[error("`{part}` switches on and off without end at {time_s:.6} s")]
    Hunting {
        /// The part.
        part: String,
        /// When, s.
        time_s: f64,
    },
    /// More steps than anybody waits for.
    #[error("the circuit changes too fast to be followed that long")]
    TooMuch,
    /// Nobody waits for it any more.
    #[error("the computation was called off")]
    CalledOff,
}

impl From<Stopped> for TransientError {
    fn from(why: Stopped) -> Self {
        match why {
            Stopped::CalledOff => TransientError::CalledOff,
            Stopped::TooMuch => TransientError::TooMuch,
        }
    }
}

/// What was found at every moment.
#[derive(Clone, Debug)]
pub struct Run<'a> {
    /// The circuit.
    pub circuit: &'a Circuit,
    /// Moments, s.
    pub time_s: Vec<f64>,
    /// At each: voltages of the nodes, then currents of voltage sources and inductors.
    pub(super) found: Vec<Vec<f64>>,
    /// Which unknown is the current of a part, by the part's place.
    pub(super) branch: Vec<usize>,
    /// At each moment: which switches and timers are on, by the place of the part.
    pub(super) on: Vec<Vec<bool>>,
}

/// How closely a circuit is followed.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub enum Accuracy {
    /// Figures that are told: to some 0.1 %.
    #[default]
    Full,
    /// While a value is being dragged: to a per cent or so, in less than half the steps.
    Sketch,
}

/// How capacitors and inductors are followed.
#[derive(Clone, Copy, PartialEq)]
enum Rule {
    /// At rest: capacitors open or at their given voltage.
    Rest,
    /// Backward Euler.
    Euler(f64),
    /// The second order, with the step before: the trapezoidal rule, and Gear's for what is so small that it would ring.
    Second(f64, f64),
}

/// What a capacitor or inductor keeps, now and at the moment before, and how fast it changes.
#[derive(Clone, Copy, Default)]
struct Kept {
    last: f64,
    earlier: f64,
    rate: f64,
}

/// Below this a capacitance is a junction's, F.
const JUNCTION_F: f64 = 1e-10;

impl Rule {
    /// The rate of change is the first figure times what is kept then, less the second.
    fn rate(self, small: bool, kept: Kept) -> (f64, f64) {
        match self {
            Rule::Rest => (0.0, 0.0),
            Rule::Euler(step) => (1.0 / step, kept.last / step),
            Rule::Second(step, before) if small => {
                let w = step / before;
                ((1.0 + 2.0 * w) / (1.0 + w) / step, ((1.0 + w) * kept.last - w * w / (1.0 + w) * kept.earlier) / step)
            }
            Rule::Second(step, _) => (2.0 / step, 2.0 / step * kept.last + kept.rate),
        }
    }
}

struct Engine<'a> {
    circuit: &'a Circuit,
    matrix: Matrix,
    branch: Vec<usize>,
    /// Names of the unknowns.
    names: Vec<String>,
    linear: bool,
    /// Of each part: voltage of a capacitor or current of an inductor.
    before: Vec<Kept>,
    /// Of each part: whether it is on.
    on: Vec<bool>,
    /// Of each part: junction voltages of the last iteration, and those of the last moment.
    junctions: Vec<[f64; 2]>,
    settled: Vec<[f64; 2]>,
    /// The first step after a jump, s.
    first_s: f64,
    /// Local truncation error of a step, of its voltage or current.
    relative: f64,
    /// Capacitances below this would ring, F.
    small_f: f64,
    /// Of the sources, while they are raised.
    share: f64,
}

fn given(part: &str, what: &str, value: f64) -> Result<(), TransientError> {
    if value.is_finite() && value > 0.0 {
        return Ok(());
    }
    Err(TransientError::Figure { part: part.to_owned(), what: format!("{what} of {value}") })
}

impl Circuit {
    /// Refuses what cannot be built.
    ///
    /// # Errors
    /// Names the part.
    pub fn check(&self) -> Result<(), TransientError> {
        let mut joined: Vec<usize> = (0..self.nodes.len()).collect();
        let mut held: Vec<usize> = joined.clone();
        for part in &self.parts {
            match &part.element {
                Element::Resistor(ohm) => given(&part.name, "a resistance", *ohm)?,
                Element::Capacitor(farad, _) => given(&part.name, "a capacitance", *farad)?,
                Element::Inductor(henry, _) => given(&part.name, "an inductance", *henry)?,
                Element::Diode(diode) => given(&part.name, "a saturation current", diode.saturation_a)?,
                Element::Voltage(_) => {
                    let (a, b) = (root(&held, part.nodes[0]), root(&held, part.nodes[1]));
                    if a == b {
                        return Err(TransientError::Loop { part: part.name.clone() });
                    }
                    held[a] = b;
                }
                Element::Current(_) | Element::Bipolar(_) | Element::Switch { .. } | Element::Timer(_) => {}
            }
            let ties = if matches!(part.element, Element::Switch { .. }) { &part.nodes[..2] } else { &part.nodes[..] };
            for pair in ties.windows(2) {
                let (a, b) = (root(&joined, pair[0]), root(&joined, pair[1]));
                joined[a] = b;
            }
        }
        for part in &self.parts {
            if let Some(node) = part.nodes.iter().find(|node| root(&joined, **node) != root(&joined, 0)) {
                return Err(TransientError::Floating { part: part.name.clone(), node: self.nodes[*node].clone() });
            }
        }
        Ok(())
    }

    /// Voltages of the nodes at rest, V, in their order.
    ///
    /// # Errors
    /// When it has none.
    pub fn at_rest(&self) -> Result<Vec<f64>, TransientError> {
        self.check()?;
        let mut engine = Engine::of(self);
        let found = engine.rest()?;
        Ok(found[..self.nodes.len()].to_vec())
    }

    /// Follows the circuit from rest until a moment, or until `until` says of the voltages of its nodes that it is enough.
    /// `scale_s` is the time in which something happens: of a period or a time constant.
    ///
    /// # Errors
    /// When it cannot be built, or no balance is found.
    pub fn run(&self, stop_s: f64, scale_s: f64, until: &dyn Fn(f64, &[f64]) -> bool) -> Result<Run<'_>, TransientError> {
        self.run_to(Accuracy::Full, stop_s, scale_s, until)
    }

    /// The same, as closely as asked for.
    ///
    /// # Errors
    /// As [`Circuit::run`].
    pub fn run_to(&self, accuracy: Accuracy, stop_s: f64, scale_s: f64, until: &dyn Fn(f64, &[f64]) -> bool) -> Result<Run<'_>, TransientError> {
        self.check()?;
        let mut engine = Engine::of(self);
        if accuracy == Accuracy::Sketch {
            engine.relative *= SKETCHED;
            let farads = self.parts.iter().filter_map(|part| if let Element::Capacitor(farad, _) = part.element { Some(farad) } else { None });
            engine.small_f = JUNCTION_F.max(SMALL * farads.fold(0.0, f64::max));
        }
        engine.run(stop_s, scale_s, until)
    }
}

fn root(joined: &[usize], mut node: usize) -> usize {
    while joined[node] != node {
        node = joined[node];
    }
    node
}

impl<'a> Engine<'a> {
    fn of(circuit: &'a Circuit) -> Self {
        let mut names = circuit.nodes.clone();
        let mut branch = vec![0; circuit.parts.len()];
        for (index, part) in circuit.parts.iter().enumerate() {
            match &part.element {
                Element::Voltage(_) | Element::Inductor(..) => {
                    branch[index] = names.len();
                    names.push(part.name.clone());
                }
                _ => {}
            }
        }
        let linear = !circuit.parts.iter().any(|part| matches!(part.element, Element::Diode(_) | Element::Bipolar(_) | Element::Timer(_)));
        let count = circuit.parts.len();
        Engine {
            circuit,
            matrix: Matrix::new(names.len() - 1),
            branch,
            names,
            linear,
            before: vec![Kept::default(); count],
            on: vec![false; count],
            junctions: vec![[0.0; 2]; count],
            settled: vec![[0.0; 2]; count],
            first_s: 0.0,
            relative: RELATIVE,
            small_f: JUNCTION_F,
            share: 1.0,
        }
    }

    fn is_small(&self, element: &Element) -> bool {
        matches!(element, Element::Capacitor(farad, _) if *farad < self.small_f)
    }

    /// Writes the equations around `x`; whether a junction had to be held back.
    fn assemble(&mut self, x: &[f64], time_s: f64, rule: Rule) -> bool {
        let (circuit, m) = (self.circuit, &mut self.matrix);
        m.clear();
        let mut held_back = false;
        for node in 1..circuit.nodes.len() {
            m.add(node, node, LEAK_S);
        }
        for (index, part) in circuit.parts.iter().enumerate() {
            let n = &part.nodes;
            match &part.element {
                Element::Resistor(ohm) => m.conductance(n[0], n[1], 1.0 / ohm),
                Element::Capacitor(farad, start) => {
                    let (slope, rest) = rule.rate(*farad < self.small_f, self.before[index]);
                    let (siemens, source) = match (rule, start) {
                        // Stiff enough that nothing else moves it.
                        (Rule::Rest, Some(start)) => (1e3, 1e3 * start),
                        (Rule::Rest, None) => continue,
                        _ => (farad * slope, farad * rest),
                    };
                    m.conductance(n[0], n[1], siemens);
                    m.current(n[1], n[0], source);
                }
                Element::Inductor(henry, start) => {
                    let b = self.branch[index];
                    let (rate, rest) = rule.rate(false, self.before[index]);
                    m.add(n[0], b, 1.0);
                    m.add(n[1], b, -1.0);
                    let (slope, source) = match (rule, start) {
                        (Rule::Rest, Some(start)) => {
                            m.add(b, b, 1.0);
                            m.add_right(b, *start);
                            continue;
                        }
                        (Rule::Rest, None) => (0.0, 0.0),
                        _ => (henry * rate, henry * rest),
                    };
                    m.add(b, n[0], 1.0);
                    m.add(b, n[1], -1.0);
                    m.add(b, b, -slope);
                    m.add_right(b, -source);
                }
                Element::Voltage(wave) => {
                    let b = self.branch[index];
                    m.add(n[0], b, 1.0);
                    m.add(n[1], b, -1.0);
                    m.add(b, n[0], 1.0);
                    m.add(b, n[1], -1.0);
                    m.add_right(b, self.share * wave.at(time_s));
                }
                Element::Current(wave) => m.current(n[1], n[0], self.share * wave.at(time_s)),
                Element::Diode(diode) => {
                    let wanted = x[n[0]] - x[n[1]];
                    let mut volts = wanted;
                    // A resistance in series keeps the current within reach; without one the step is held back.
                    if diode.rs_ohm <= 0.0 {
                        volts = limited(wanted, self.junctions[index][0], diode.n * THERMAL_V, diode.knee());
                        if let Some(at) = diode.breakdown_v {
                            // The same the other way round, from the breakdown on.
                            volts = -at - limited(-volts - at, -self.junctions[index][0] - at, THERMAL_V, diode.knee() / diode.n);
                        }
                        held_back |= (volts - wanted).abs() > 1e-9;
                    }
                    self.junctions[index][0] = volts;
                    let (amps, siemens, own) = diode.current_from(volts, self.junctions[index][1]);
                    self.junctions[index][1] = own;
                    m.conductance(n[0], n[1], siemens);
                    m.current(n[0], n[1], amps - siemens * volts);
                }
                Element::Bipolar(transistor) => {
                    let sign = if transistor.npn { 1.0 } else { -1.0 };
                    let (c, b, e) = (n[0], n[1], n[2]);
                    let knee = transistor.knee();
                    let wanted = [sign * (x[b] - x[e]), sign * (x[b] - x[c])];
                    let mut volts =
                        [limited(wanted[0], self.junctions[index][0], THERMAL_V, knee), limited(wanted[1], self.junctions[index][1], THERMAL_V, knee)];
                    let at = transistor.base_breakdown_v;
                    volts[0] = -at - limited(-volts[0] - at, -self.junctions[index][0] - at, THERMAL_V, knee);
                    held_back |= (volts[0] - wanted[0]).abs() > 1e-9 || (volts[1] - wanted[1]).abs() > 1e-9;
                    self.junctions[index] = volts;
                    let (amps, slopes) = transistor.currents(volts[0], volts[1]);
                    for (node, (amps, slopes)) in [c, b].into_iter().zip(amps.into_iter().zip(slopes)) {
                        // What enters at this node leaves at the emitter.
                        let [over_e, over_c] = slopes;
                        let rest = sign * (amps - over_e * volts[0] - over_c * volts[1]);
                        for (row, way) in [(node, 1.0), (e, -1.0)] {
                            m.add(row, b, way * (over_e + over_c));
                            m.add(row, e, -way * over_e);
                            m.add(row, c, -way * over_c);
                        }
                        m.current(node, e, rest);
                    }
                }
                Element::Switch { on_ohm, off_ohm, .. } => m.conductance(n[0], n[1], 1.0 / if self.on[index] { *on_ohm } else { *off_ohm }),
                Element::Timer(timer) => timer_stamp(m, timer, n, self.on[index], x),
            }
        }
        held_back
    }

    /// Junctions where `x` has them, as far as that is not beyond their knee: what is expected need not be crept up to,
    /// and where an attempt that failed left them does not matter.
    fn start_junctions(&mut self, x: &[f64]) {
        for (index, part) in self.circuit.parts.iter().enumerate() {
            let n = &part.nodes;
            let (wanted, knee) = match &part.element {
                Element::Bipolar(transistor) => {
                    let sign = if transistor.npn { 1.0 } else { -1.0 };
                    ([sign * (x[n[1]] - x[n[2]]), sign * (x[n[1]] - x[n[0]])], transistor.knee())
                }
                Element::Diode(diode) if diode.rs_ohm <= 0.0 => ([x[n[0]] - x[n[1]]; 2], diode.knee()),
                _ => continue,
            };
            let settled = self.settled[index];
            self.junctions[index] = std::array::from_fn(|one| wanted[one].min(settled[one].max(knee - BELOW_KNEE_V)));
        }
    }

    /// Newton's method from `x`.
    fn newton(&mut self, x: &mut [f64], time_s: f64, rule: Rule) -> Result<(), TransientError> {
        let mut worst = 1;
        let mut most = MOST_ITERATIONS;
        if rule != Rule::Rest {
            self.start_junctions(x);
            // Where a shorter step helps nothing, what has no capacitor is found by patience.
            most = if matches!(rule, Rule::Second(step, _) if step > self.first_s) { MOST_WITHIN } else { MOST_ITERATIONS };
        }
        for _ in 0..most {
            let held_back = self.assemble(x, time_s, rule);
            if let Err(unknown) = self.matrix.solve() {
                return Err(TransientError::NotConverged { time_s, node: self.names[unknown].clone() });
            }
            let mut far = 0.0;
            for (index, value) in self.matrix.right.iter().enumerate() {
                let node = index + 1 < self.circuit.nodes.len();
                // Within a short step a source's current is a small difference of large ones; it follows from the voltages.
                let (share, volts, amps) = if rule == Rule::Rest { CLOSE } else { CLOSE_WITHIN };
                let off = (value - x[index + 1]).abs() / (share * value.abs() + if node { volts } else { amps });
                if off > far || off.is_nan() {
                    (far, worst) = (off, index + 1);
                }
                x[index + 1] = *value;
            }
            if self.linear || (far <= 1.0 && !held_back) {
                return if x.iter().all(|value| value.is_finite()) {
                    Ok(())
                } else {
                    Err(TransientError::NotConverged { time_s, node: self.names[worst].clone() })
                };
            }
        }
        Err(TransientError::NotConverged { time_s, node: self.names[worst].clone() })
    }

    /// By how much each switch or timer is beyond the threshold at which it changes, V.
    fn beyond(&self, index: usize, x: &[f64]) -> Option<f64> {
        let n = &self.circuit.parts[index].nodes;
        match &self.circuit.parts[index].element {
            Element::Switch { on_v, off_v, .. } => {
                let control = x[n[2]] - x[n[3]];
                Some(if self.on[index] { off_v - control } else { control - on_v })
            }
            Element::Timer(_) => {
                let (supply, held) = (x[n[0]] - x[n[1]], x[n[2]] - x[n[1]]);
                Some(if self.on[index] { held - supply * 2.0 / 3.0 } else { supply / 3.0 - held })
            }
            _ => None,
        }
    }

    /// A balance with everything at rest, and switches where they then are.
    fn rest(&mut self) -> Result<Vec<f64>, TransientError> {
        let mut x = vec![0.0; self.names.len()];
        for _ in 0..40 {
            self.settle(&mut x)?;
            self.polish(&mut x);
            let changed = (0..self.on.len()).find(|index| self.beyond(*index, &x).is_some_and(|beyond| beyond > 0.0));
            let Some(changed) = changed else { return Ok(x) };
            self.on[changed] = !self.on[changed];
        }
        let part = self.circuit.parts.iter().find(|part| matches!(part.element, Element::Switch { .. } | Element::Timer(_)));
        Err(TransientError::Hunting { part: part.map_or_else(String::new, |part| part.name.clone()), time_s: 0.0 })
    }

    /// Two steps more: at rest figures are asked for to the last digits, so that every machine gives the same.
    fn polish(&mut self, x: &mut [f64]) {
        for _ in 0..2 {
            self.assemble(x, 0.0, Rule::Rest);
            if self.matrix.solve().is_err() || self.matrix.right.iter().any(|value| !value.is_finite()) {
                return;
            }
            x[1..].copy_from_slice(&self.matrix.right);
        }
    }

    /// Newton's method at rest; where it fails, the sources are raised step by step.
    fn settle(&mut self, x: &mut Vec<f64>) -> Result<(), TransientError> {
        let start = x.clone();
        if self.newton(x, 0.0, Rule::Rest).is_ok() {
            return Ok(());
        }
        *x = vec![0.0; start.len()];
        self.junctions.fill([0.0; 2]);
        let (mut reached, mut step) = (0.0f64, 0.1f64);
        while reached < 1.0 {
            self.share = (reached + step).min(1.0);
            let mut trial = x.clone();
            match self.newton(&mut trial, 0.0, Rule::Rest) {
                Ok(()) => {
                    *x = trial;
                    reached = self.share;
                    step *= 2.0;
                }
                Err(error) if step < 1e-6 => {
                    self.share = 1.0;
                    return Err(error);
                }
                Err(_) => step *= 0.25,
            }
        }
        self.share = 1.0;
        Ok(())
    }

    /// What a capacitor or inductor is at now, from where it was.
    fn advance(&mut self, x: &[f64], rule: Rule) {
        self.settled.copy_from_slice(&self.junctions);
        for (index, part) in self.circuit.parts.iter().enumerate() {
            if matches!(part.element, Element::Capacitor(..) | Element::Inductor(..)) {
                let (kept, last) = (self.before[index], self.stored(index, x));
                let (slope, rest) = rule.rate(self.is_small(&part.element), kept);
                self.before[index] = Kept { last, earlier: kept.last, rate: slope * last - rest };
            }
        }
    }

    fn run(mut self, stop_s: f64, scale_s: f64, until: &dyn Fn(f64, &[f64]) -> bool) -> Result<Run<'a>, TransientError> {
        let circuit = self.circuit;
        let nodes = circuit.nodes.len();
        let mut x = self.rest()?;
        self.advance(&x, Rule::Rest);
        let mut run = Run { circuit, time_s: vec![0.0], found: vec![x.clone()], branch: self.branch.clone(), on: vec![self.on.clone()] };
        let stored: Vec<usize> =
            (0..circuit.parts.len()).filter(|index| matches!(circuit.parts[*index].element, Element::Capacitor(..) | Element::Inductor(..))).collect();
        let floors: Vec<f64> = stored
            .iter()
            .map(|index| match &circuit.parts[*index].element {
                Element::Capacitor(farad, _) => ABSOLUTE + CHARGE_C / farad,
                _ => ABSOLUTE,
            })
            .collect();
        let small: Vec<bool> = stored.iter().map(|index| self.is_small(&circuit.parts[*index].element)).collect();
        let waves: Vec<&super::Wave> = circuit
            .parts
            .iter()
            .filter_map(|part| if let Element::Voltage(wave) | Element::Current(wave) = &part.element { Some(wave) } else { None })
            .collect();
        let scale_s = waves.iter().map(|wave| wave.scale_s()).fold(scale_s, f64::min);
        let (first, longest, instant) = (FIRST * scale_s, LONGEST * scale_s, INSTANT * scale_s);
        self.first_s = first;
        let (mut time, mut step) = (0.0, first);
        // What was too long a moment ago is not tried again at once.
        let mut ceiling = f64::INFINITY;
        // Moments and stored figures since the last jump, newest last: what the error of a step is told from.
        let mut past: Vec<(f64, Vec<f64>)> = vec![(0.0, stored.iter().map(|index| self.before[*index].last).collect())];
        let mut switched_at = (f64::NEG_INFINITY, 0);
        while time < stop_s {
            if run.time_s.len() > MOST_STEPS {
                return Err(TransientError::TooMuch);
            }
            budget::spend(2 + (self.matrix.size as u64).pow(2) / 8)?;
            let corner = waves.iter().map(|wave| wave.next_corner(time)).fold(f64::INFINITY, f64::min);
            let mut own = step.min(longest).min(ceiling).min(stop_s - time);
            let at_corner = time + own * (1.0 + 1e-9) >= corner;
            if at_corner {
                own = corner - time;
            }
            let after_jump = past.len() < 2;
            let before = if after_jump { 0.0 } else { past[past.len() - 1].0 - past[past.len() - 2].0 };
            let rule = |step: f64| if after_jump { Rule::Euler(step) } else { Rule::Second(step, before) };
            let mut next = x.clone();
            if let (true, [.., earlier, _]) = (past.len() >= 3, &run.found[..]) {
                // Where everything would be if it went on like this since the jump: Newton's method starts close by.
                for (value, earlier) in next.iter_mut().zip(earlier) {
                    *value += (*value - earlier) * own / before;
                }
            }
            if let Err(error) = self.newton(&mut next, time + own, rule(own)) {
                if own < 1e-6 * first {
                    return Err(error);
                }
                step = CEILING * own;
                ceiling = step;
                continue;
            }
            // How far off the step is, from the third derivative.
            let now: Vec<f64> = stored.iter().map(|index| self.stored(*index, &next)).collect();
            let mut growth = 2.0;
            if past.len() >= 3 {
                let last = past.len() - 1;
                for (index, value) in now.iter().enumerate() {
                    let moments = [past[last - 2].0, past[last - 1].0, past[last].0, time + own];
                    let third = divided(&moments, &[past[last - 2].1[index], past[last - 1].1[index], past[last].1[index], *value]);
                    // A divided difference is a sixth of the derivative; of the trapezoidal rule the error is h³/12 of that.
                    let weight = if small[index] { own * own * (own + before) * (1.0 + own / before) / (1.0 + 2.0 * own / before) } else { 0.5 * own.powi(3) };
                    let error = weight * third.abs();
                    let allowed = self.relative * value.abs().max(past[last].1[index].abs()) + floors[index];
                    growth = f64::min(growth, 0.9 * (allowed / error.max(1e-300)).cbrt());
                }
                if growth < 0.75 && own > 4.0 * first {
                    step = own * growth.max(0.2);
                    continue;
                }
            }
            // Whatever switches within the step ends it.
            let switching: Vec<usize> = (0..self.on.len()).filter(|index| self.beyond(*index, &next).is_some_and(|beyond| beyond > 0.0)).collect();
            let mut jumped = at_corner;
            // What was found belongs to how things stood until now, also at the instant at which they change.
            let stood = self.on.clone();
            if !switching.is_empty() {
                let before = x.clone();
                let (mut low, mut high) = (0.0, own);
                let far = |engine: &Self, x: &[f64]| switching.iter().filter_map(|index| engine.beyond(*index, x)).fold(f64::NEG_INFINITY, f64::max);
                let (mut f_low, mut f_high) = (far(&self, &before), far(&self, &next));
                let mut side = 0;
                while high - low > instant {
                    // False position, the stale end halved (Illinois).
                    let share = if f_low < 0.0 { (-f_low / (f_high - f_low)).clamp(0.01, 0.99) } else { 0.5 };
                    let middle = low + share * (high - low);
                    let mut trial = before.clone();
                    self.newton(&mut trial, time + middle, rule(middle))?;
                    let f = far(&self, &trial);
                    if f > 0.0 {
                        (high, f_high, next) = (middle, f, trial);
                        f_low *= if side == 1 { 0.5 } else { 1.0 };
                        side = 1;
                    } else {
                        (low, f_low) = (middle, f);
                        f_high *= if side == -1 { 0.5 } else { 1.0 };
                        side = -1;
                    }
                }
                own = high;
                jumped = true;
                let changed = switching.iter().copied().filter(|index| self.beyond(*index, &next).is_some_and(|beyond| beyond > 0.0));
                for index in changed.collect::<Vec<_>>() {
                    self.on[index] = !self.on[index];
                    let again = if time + own - switched_at.0 < 4.0 * instant { switched_at.1 + 1 } else { 0 };
                    if again > 40 {
                        return Err(TransientError::Hunting { part: circuit.parts[index].name.clone(), time_s: time });
                    }
                    switched_at = (time + own, again);
                }
            }
            self.advance(&next, rule(own));
            ceiling *= RISE;
            time += own;
            x = next;
            run.time_s.push(time);
            run.found.push(x.clone());
            run.on.push(stood);
            if jumped {
                past.clear();
                step = first;
            } else {
                step = own * growth;
            }
            if past.len() == 3 {
                past.remove(0);
            }
            past.push((time, stored.iter().map(|index| self.before[*index].last).collect()));
            if until(time, &x[..nodes]) {
                break;
            }
        }
        Ok(run)
    }

    /// The figure that a capacitor or inductor keeps.
    fn stored(&self, index: usize, x: &[f64]) -> f64 {
        let part = &self.circuit.parts[index];
        if matches!(part.element, Element::Inductor(..)) { x[self.branch[index]] } else { x[part.nodes[0]] - x[part.nodes[1]] }
    }
}

fn timer_stamp(m: &mut Matrix, timer: &Timer, n: &[Node], high: bool, x: &[f64]) {
    let [supply, minus, _, discharge, out] = [n[0], n[1], n[2], n[3], n[4]];
    let siemens = 1.0 / timer.out_ohm;
    if high {
        m.conductance(supply, out, siemens);
        m.current(out, supply, siemens * timer.high_drop_v);
        m.conductance(discharge, minus, LEAK_S);
    } else {
        m.conductance(out, minus, siemens);
        m.current(minus, out, siemens * timer.low_v);
        m.conductance(discharge, minus, 1.0 / timer.discharge_ohm);
    }
    // Below a volt there is nobody to take it.
    if x[supply] - x[minus] > 1.0 {
        m.current(supply, minus, timer.idle_a);
    } else {
        m.conductance(supply, minus, timer.idle_a);
    }
}

/// The divided difference over four points.
fn divided(t: &[f64; 4], v: &[f64; 4]) -> f64 {
    let first: Vec<f64> = (0..3).map(|at| (v[at + 1] - v[at]) / (t[at + 1] - t[at])).collect();
    let second: Vec<f64> = (0..2).map(|at| (first[at + 1] - first[at]) / (t[at + 2] - t[at])).collect();
    (second[1] - second[0]) / (t[3] - t[0])
}
