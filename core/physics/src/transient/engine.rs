//! What holds at one moment: equations of all parts, and Newton's method on them.

use super::bends::Bends;
use super::elements::LEAK_S;
use super::error::TransientError;
use super::matrix::{Equation, Matrix, Stamp};
use super::{Circuit, Element, Node, Timer};

/// When Newton's method is done: of a value, in V, and in A.
const CLOSE: (f64, f64, f64) = (1e-7, 1e-9, 1e-12);
/// The same within a step. After a correction of 0.1 mV a junction is off by the square of that over twice its thermal voltage,
/// 0.2 µV: nobody need look again.
const CLOSE_WITHIN: (f64, f64, f64) = (1e-6, 1e-4, f64::INFINITY);
const MOST_ITERATIONS: usize = 60;
/// Within a step: what takes longer is done sooner by a shorter step.
const MOST_WITHIN: usize = 8;

/// How capacitors and inductors are followed.
#[derive(Clone, Copy, PartialEq)]
pub(super) enum Rule {
    /// At rest: capacitors open or at their given voltage.
    Rest,
    /// Backward Euler.
    Euler(f64),
    /// The second order, with the step before: the trapezoidal rule, and Gear's for what is so small that it would ring.
    Second(f64, f64),
}

/// What a capacitor or inductor keeps, now and at the moment before, and how fast it changes.
#[derive(Clone, Copy, Default)]
pub(super) struct Kept {
    pub(super) last: f64,
    pub(super) earlier: f64,
    pub(super) rate: f64,
}

/// Below this a capacitance is a junction's, F.
pub(super) const JUNCTION_F: f64 = 1e-10;

impl Rule {
    /// The rate of change is the first figure times what is kept then, less the second.
    pub(super) fn rate(self, small: bool, kept: Kept) -> (f64, f64) {
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

pub(super) struct Engine<'a> {
    pub(super) circuit: &'a Circuit,
    pub(super) matrix: Matrix,
    pub(super) branch: Vec<usize>,
    /// Names of the unknowns.
    pub(super) names: Vec<String>,
    bends: Bends,
    /// Nodes that have an equation.
    nodes: Vec<Node>,
    /// Parts that keep something, sources, parts that switch, and which of these are timers.
    pub(super) stores: Vec<usize>,
    sources: Vec<usize>,
    pub(super) switches: Vec<usize>,
    timers: Vec<usize>,
    /// Of each part: voltage of a capacitor or current of an inductor.
    pub(super) before: Vec<Kept>,
    /// Of each part: whether it is on; of a timer, whether there is a supply to take anything from.
    pub(super) on: Vec<bool>,
    awake: Vec<bool>,
    /// Whether it was at rest, how nodes leaked, what was on and what awake when the fixed part was written.
    fixed: (bool, f64, Vec<bool>, Vec<bool>),
    /// From every node to ground, S.
    leak_s: f64,
    /// The first step after a jump, s.
    pub(super) first_s: f64,
    /// Capacitances below this would ring, F.
    pub(super) small_f: f64,
    /// Of the sources, while they are raised.
    share: f64,
}

impl<'a> Engine<'a> {
    pub(super) fn of(circuit: &'a Circuit) -> Self {
        let mut names = circuit.nodes.clone();
        let mut branch = vec![0; circuit.parts.len()];
        let (mut stores, mut sources, mut switches, mut timers) = (Vec::new(), Vec::new(), Vec::new(), Vec::new());
        for (index, part) in circuit.parts.iter().enumerate() {
            if matches!(part.element, Element::Voltage(_) | Element::Inductor(..)) {
                branch[index] = names.len();
                names.push(part.name.clone());
            }
            match part.element {
                Element::Capacitor(..) | Element::Inductor(..) => stores.push(index),
                Element::Voltage(_) | Element::Current(_) => sources.push(index),
                Element::Switch { .. } => switches.push(index),
                Element::Timer(_) => {
                    switches.push(index);
                    timers.push(index);
                }
                _ => {}
            }
        }
        let bends = Bends::of(circuit);
        let mut equations = vec![Equation::Linear; names.len()];
        for bend in &bends.all {
            bend.nodes().iter().for_each(|node| equations[*node] = Equation::Bends);
        }
        for node in bends.all.iter().flat_map(|bend| bend.inner()) {
            equations[node] = Equation::Follows;
        }
        let count = circuit.parts.len();
        Engine {
            circuit,
            matrix: Matrix::new(&equations),
            branch,
            names,
            bends,
            nodes: (1..circuit.nodes.len()).filter(|node| equations[*node] != Equation::Follows).collect(),
            stores,
            sources,
            switches,
            timers,
            before: vec![Kept::default(); count],
            on: vec![false; count],
            awake: vec![true; count],
            fixed: (false, 0.0, Vec::new(), Vec::new()),
            leak_s: LEAK_S,
            first_s: 0.0,
            small_f: JUNCTION_F,
            share: 1.0,
        }
    }

    pub(super) fn is_small(&self, element: &Element) -> bool {
        matches!(element, Element::Capacitor(farad, _) if *farad < self.small_f)
    }

    /// Writes what stays from step to step while nothing switches.
    fn fix(&mut self, at_rest: bool) {
        let (circuit, mut m) = (self.circuit, self.matrix.fixed());
        for node in &self.nodes {
            m.add(*node, *node, self.leak_s);
        }
        for (index, part) in circuit.parts.iter().enumerate() {
            let (n, b) = (&part.nodes, self.branch[index]);
            match &part.element {
                Element::Resistor(ohm) if !self.bends.within[index] => m.conductance(n[0], n[1], 1.0 / ohm),
                Element::Inductor(..) | Element::Voltage(_) => {
                    m.add(n[0], b, 1.0);
                    m.add(n[1], b, -1.0);
                    // An inductor that is given its current at rest takes whatever voltage that needs.
                    if !(at_rest && matches!(part.element, Element::Inductor(_, Some(_)))) {
                        m.add(b, n[0], 1.0);
                        m.add(b, n[1], -1.0);
                    }
                }
                Element::Switch { on_ohm, off_ohm, .. } => m.conductance(n[0], n[1], 1.0 / if self.on[index] { *on_ohm } else { *off_ohm }),
                Element::Timer(timer) => timer_stamp(&mut m, timer, n, self.on[index], self.awake[index]),
                _ => {}
            }
        }
        self.fixed = (at_rest, self.leak_s, self.on.clone(), self.awake.clone());
    }

    /// Writes what does not bend, with timers as `x` has their supply, and eliminates what nothing else touches.
    #[inline(never)]
    fn assemble(&mut self, x: &[f64], time_s: f64, rule: Rule) {
        for index in &self.timers {
            self.awake[*index] = is_supplied(&self.circuit.parts[*index].nodes, x);
        }
        let at_rest = rule == Rule::Rest;
        let (was_at_rest, leak_s, on, awake) = &self.fixed;
        if *was_at_rest != at_rest || *leak_s != self.leak_s || *on != self.on || *awake != self.awake {
            self.fix(at_rest);
        }
        let (circuit, mut m) = (self.circuit, self.matrix.linear());
        for index in &self.stores {
            let part = &circuit.parts[*index];
            let (n, b) = (&part.nodes, self.branch[*index]);
            match &part.element {
                Element::Capacitor(farad, start) => {
                    let (slope, rest) = rule.rate(*farad < self.small_f, self.before[*index]);
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
                    let (rate, rest) = rule.rate(false, self.before[*index]);
                    let (slope, source) = match (rule, start) {
                        (Rule::Rest, Some(start)) => (-1.0, -start),
                        (Rule::Rest, None) => continue,
                        _ => (henry * rate, henry * rest),
                    };
                    m.add(b, b, -slope);
                    m.add_right(b, -source);
                }
                _ => {}
            }
        }
        for index in &self.sources {
            let part = &circuit.parts[*index];
            match &part.element {
                Element::Voltage(wave) => m.add_right(self.branch[*index], self.share * wave.at(time_s)),
                Element::Current(wave) => m.current(part.nodes[1], part.nodes[0], self.share * wave.at(time_s)),
                _ => {}
            }
        }
        self.matrix.reduce();
    }

    /// Writes what bends around `x`; whether a junction had to be held back.
    fn bend(&mut self, x: &[f64]) -> bool {
        let mut m = self.matrix.bending();
        self.bends.all.iter_mut().fold(false, |held_back, bend| bend.stamp(&mut m, x) | held_back)
    }

    /// All unknowns from what was solved last.
    #[inline(never)]
    fn complete(&mut self, x: &mut [f64]) {
        self.matrix.all(x);
        self.bends.all.iter().for_each(|bend| bend.fill(x));
    }

    /// Whether every timer has, or lacks, a supply as it was assembled.
    fn as_assembled(&self, x: &[f64]) -> bool {
        self.timers.iter().all(|index| is_supplied(&self.circuit.parts[*index].nodes, x) == self.awake[*index])
    }

    /// Newton's method from `x`.
    pub(super) fn newton(&mut self, x: &mut [f64], time_s: f64, rule: Rule) -> Result<(), TransientError> {
        let mut worst = 1;
        let mut most = MOST_ITERATIONS;
        if rule != Rule::Rest {
            self.bends.all.iter_mut().for_each(|bend| bend.start(x));
            // Where a shorter step helps nothing, what has no capacitor is found by patience.
            most = if matches!(rule, Rule::Second(step, _) if step > 1e-3 * self.first_s) { MOST_WITHIN } else { MOST_ITERATIONS };
        }
        // Within a short step a source's current is a small difference of large ones; it follows from the voltages.
        let (share, volts, amps) = if rule == Rule::Rest { CLOSE } else { CLOSE_WITHIN };
        self.assemble(x, time_s, rule);
        let mut before = f64::INFINITY;
        for iteration in 0..most {
            let held_back = self.bend(x);
            if let Err(unknown) = self.matrix.solve() {
                return Err(TransientError::NotConverged { time_s, node: self.names[unknown].clone() });
            }
            let mut far = 0.0;
            for (unknown, value) in self.matrix.solved() {
                let node = unknown < self.circuit.nodes.len();
                let off = (value - x[unknown]).abs() / (share * value.abs() + if node { volts } else { amps });
                if off > far || off.is_nan() {
                    (far, worst) = (off, unknown);
                }
                x[unknown] = value;
            }
            // Within a step Newton's method halves its corrections at least, or there is nothing near: a shorter step is cheaper.
            let nowhere = most == MOST_WITHIN && iteration >= 2 && far > 0.5 * before;
            before = far;
            if self.bends.all.is_empty() || (far <= 1.0 && !held_back) {
                self.complete(x);
                if !x.iter().all(|value| value.is_finite()) {
                    break;
                }
                if self.as_assembled(x) {
                    return Ok(());
                }
                self.assemble(x, time_s, rule);
            } else if nowhere {
                break;
            }
        }
        Err(TransientError::NotConverged { time_s, node: self.names[worst].clone() })
    }

    /// Whether a switch or timer is to change.
    pub(super) fn is_beyond(&self, index: usize, x: &[f64]) -> bool {
        self.beyond(index, x) > 0.0
    }

    /// By how much each switch or timer is beyond the threshold at which it changes, V.
    pub(super) fn beyond(&self, index: usize, x: &[f64]) -> f64 {
        let n = &self.circuit.parts[index].nodes;
        match &self.circuit.parts[index].element {
            Element::Switch { on_v, off_v, .. } => {
                let control = x[n[2]] - x[n[3]];
                if self.on[index] { off_v - control } else { control - on_v }
            }
            Element::Timer(_) => {
                let (supply, held) = (x[n[0]] - x[n[1]], x[n[2]] - x[n[1]]);
                if self.on[index] { held - supply * 2.0 / 3.0 } else { supply / 3.0 - held }
            }
            _ => f64::NEG_INFINITY,
        }
    }

    /// A balance with everything at rest, and switches where they then are.
    pub(super) fn rest(&mut self) -> Result<Vec<f64>, TransientError> {
        let mut x = vec![0.0; self.names.len()];
        for _ in 0..40 {
            self.settle(&mut x)?;
            self.polish(&mut x);
            let changed = self.switches.iter().find(|index| self.is_beyond(**index, &x));
            let Some(changed) = changed.copied() else { return Ok(x) };
            self.on[changed] = !self.on[changed];
        }
        let part = self.circuit.parts.iter().find(|part| matches!(part.element, Element::Switch { .. } | Element::Timer(_)));
        Err(TransientError::Hunting { part: part.map_or_else(String::new, |part| part.name.clone()), time_s: 0.0 })
    }

    /// Two steps more: at rest figures are asked for to the last digits, so that every machine gives the same.
    fn polish(&mut self, x: &mut [f64]) {
        for _ in 0..2 {
            let mut closer = x.to_vec();
            self.assemble(x, 0.0, Rule::Rest);
            self.bend(x);
            if self.matrix.solve().is_err() {
                return;
            }
            self.complete(&mut closer);
            if closer.iter().any(|value| !value.is_finite()) {
                return;
            }
            x.copy_from_slice(&closer);
        }
    }

    /// Newton's method at rest; where it fails, the sources are raised step by step, and where that fails, every node leaks to
    /// ground at first.
    fn settle(&mut self, x: &mut Vec<f64>) -> Result<(), TransientError> {
        if self.newton(x, 0.0, Rule::Rest).is_ok() {
            return Ok(());
        }
        self.start_over(x);
        let Err(error) = self.raise(x) else { return Ok(()) };
        self.start_over(x);
        self.dry_up(x).map_err(|_| error)
    }

    fn start_over(&mut self, x: &mut [f64]) {
        x.fill(0.0);
        self.bends.all.iter_mut().for_each(|bend| bend.reset());
    }

    /// A balance with every node leaking, and then with less and less of that.
    fn dry_up(&mut self, x: &mut Vec<f64>) -> Result<(), TransientError> {
        let (mut reached, mut factor) = (1.0f64, 0.1f64);
        while self.leak_s > LEAK_S || reached >= 1.0 {
            self.leak_s = (reached * factor).max(LEAK_S);
            let mut trial = x.clone();
            match self.newton(&mut trial, 0.0, Rule::Rest) {
                Ok(()) => {
                    *x = trial;
                    reached = self.leak_s;
                    factor = (factor * factor).max(0.01);
                }
                Err(error) if factor > 0.99 => {
                    self.leak_s = LEAK_S;
                    return Err(error);
                }
                Err(_) => factor = factor.sqrt(),
            }
        }
        Ok(())
    }

    /// A balance with the sources at a share of what they are, and then with more and more of that.
    fn raise(&mut self, x: &mut Vec<f64>) -> Result<(), TransientError> {
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
    pub(super) fn advance(&mut self, x: &[f64], rule: Rule) {
        self.bends.all.iter_mut().for_each(|bend| bend.settle());
        for index in &self.stores {
            let (kept, last) = (self.before[*index], self.stored(*index, x));
            let (slope, rest) = rule.rate(self.is_small(&self.circuit.parts[*index].element), kept);
            self.before[*index] = Kept { last, earlier: kept.last, rate: slope * last - rest };
        }
    }

    /// The figure that a capacitor or inductor keeps.
    pub(super) fn stored(&self, index: usize, x: &[f64]) -> f64 {
        let part = &self.circuit.parts[index];
        if matches!(part.element, Element::Inductor(..)) { x[self.branch[index]] } else { x[part.nodes[0]] - x[part.nodes[1]] }
    }
}

/// Below a volt nobody is there to take anything.
fn is_supplied(n: &[Node], x: &[f64]) -> bool {
    x[n[0]] - x[n[1]] > 1.0
}

fn timer_stamp(m: &mut Stamp<'_>, timer: &Timer, n: &[Node], high: bool, awake: bool) {
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
    if awake {
        m.current(supply, minus, timer.idle_a);
    } else {
        m.conductance(supply, minus, timer.idle_a);
    }
}
