//! The engine: an operating point, then step after step.

use super::engine::{Engine, JUNCTION_F, Rule};
use super::error::TransientError;
use super::{Circuit, Element};
use orthavis_model::budget;

/// Local truncation error of a step: of its voltage or current, and in V or A.
const RELATIVE: f64 = 1e-4;
const ABSOLUTE: f64 = 1e-6;
/// So many times that where a sketch will do.
const SKETCHED: f64 = 20.0;
/// A capacitance is small below this share of the largest.
const SMALL: f64 = 1e-3;
/// After a step that was too long: the longest that is tried, of that, and how fast that rises again.
const CEILING: f64 = 0.25;
const RISE: f64 = 1.6;
/// Charge below which nobody asks where it is, C: a junction's picofarads may ring by a millivolt.
const CHARGE_C: f64 = 1e-13;
/// The first step after a jump, of the time scale.
const FIRST: f64 = 1e-7;
/// The longest step, of the time scale.
const LONGEST: f64 = 0.05;
/// Instants of switching are found to this, of the time scale.
const INSTANT: f64 = 1e-10;
/// More steps than this are refused.
const MOST_STEPS: usize = 400_000;

/// What was found at every moment.
#[derive(Clone, Debug)]
pub struct Run<'a> {
    /// The circuit.
    pub circuit: &'a Circuit,
    /// Moments, s.
    pub time_s: Vec<f64>,
    /// One after the other: voltages of the nodes, then currents of voltage sources and inductors.
    found: Vec<f64>,
    unknowns: usize,
    /// Which unknown is the current of a part, by the part's place.
    pub(super) branch: Vec<usize>,
    /// Likewise: which switches and timers are on, by the place of the part.
    on: Vec<bool>,
}

impl Run<'_> {
    /// What was found at a moment.
    pub(super) fn at(&self, moment: usize) -> &[f64] {
        &self.found[moment * self.unknowns..(moment + 1) * self.unknowns]
    }

    /// Whether a part was on then.
    pub(super) fn is_on(&self, moment: usize, part: usize) -> bool {
        self.on[moment * self.circuit.parts.len() + part]
    }

    fn keep(&mut self, time_s: f64, found: &[f64], on: &[bool]) {
        self.time_s.push(time_s);
        self.found.extend_from_slice(found);
        self.on.extend_from_slice(on);
    }
}

/// How closely a circuit is followed.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub enum Accuracy {
    /// Figures that are told: to some 0.1 %.
    #[default]
    Full,
    /// While a value is being dragged: to a per cent or so, to a few where two halves are unequal, in less than half the steps.
    Sketch,
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

    /// The circuit at rest, as the one moment of a run.
    ///
    /// # Errors
    /// When it has none.
    pub fn rest(&self) -> Result<Run<'_>, TransientError> {
        self.check()?;
        let mut engine = Engine::of(self);
        let found = engine.rest()?;
        Ok(engine.begun(&found))
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
        let farads = self.parts.iter().filter_map(|part| if let Element::Capacitor(farad, _) = part.element { Some(farad) } else { None });
        engine.small_f = JUNCTION_F.max(SMALL * farads.fold(0.0, f64::max));
        let relative = if accuracy == Accuracy::Sketch { SKETCHED * RELATIVE } else { RELATIVE };
        engine.run(relative, stop_s, scale_s, until)
    }
}

fn root(joined: &[usize], mut node: usize) -> usize {
    while joined[node] != node {
        node = joined[node];
    }
    node
}

/// What capacitors and coils hold, by their places among the stores.
struct Held {
    /// What each may be off in any case, V or A.
    floors: Vec<f64>,
    /// Whether each is the small capacitance of a junction.
    small: Vec<bool>,
    /// What each has held at most: what a step may be off is a share of that.
    largest: Vec<f64>,
}

impl Held {
    fn of(engine: &Engine<'_>) -> Self {
        let elements = || engine.stores.iter().map(|index| &engine.circuit.parts[*index].element);
        let floor = |element: &Element| if let Element::Capacitor(farad, _) = element { ABSOLUTE + CHARGE_C / farad } else { ABSOLUTE };
        Held {
            floors: elements().map(floor).collect(),
            small: elements().map(|element| engine.is_small(element)).collect(),
            largest: engine.stores.iter().map(|index| engine.before[*index].last.abs()).collect(),
        }
    }
}

/// A step that was tried, s, and how far off it may be.
struct Taken {
    end_s: f64,
    own_s: f64,
    before_s: f64,
    relative: f64,
}

/// Where everything would be if it went on like this since the jump: Newton's method starts close by.
fn extrapolate(run: &Run<'_>, next: &mut [f64], (own, before): (f64, f64), since: usize) {
    let last = run.time_s.len() - 1;
    if since >= 3 {
        let (h1, h2) = (before, run.time_s[last - 1] - run.time_s[last - 2]);
        let (a, b) = (own / h1, own * (own + h1) / (h1 + h2));
        for ((value, one), two) in next.iter_mut().zip(run.at(last - 1)).zip(run.at(last - 2)) {
            let slope = *value - one;
            *value += slope * a + (slope / h1 - (one - two) / h2) * b;
        }
    } else if since >= 2 {
        for (value, earlier) in next.iter_mut().zip(run.at(last - 1)) {
            *value += (*value - earlier) * own / before;
        }
    }
}

impl<'a> Engine<'a> {
    /// A run with its first moment.
    fn begun(&self, x: &[f64]) -> Run<'a> {
        let mut run = Run { circuit: self.circuit, time_s: Vec::new(), found: Vec::new(), unknowns: x.len(), branch: self.branch.clone(), on: Vec::new() };
        run.keep(0.0, x, &self.on);
        run
    }

    fn run(mut self, relative: f64, stop_s: f64, scale_s: f64, until: &dyn Fn(f64, &[f64]) -> bool) -> Result<Run<'a>, TransientError> {
        let circuit = self.circuit;
        let nodes = circuit.nodes.len();
        let mut x = self.rest()?;
        self.advance(&x, Rule::Rest);
        let mut run = self.begun(&x);
        let mut held = Held::of(&self);
        // Gear's rule stands no more between one step and the next.
        let most_growth = if held.small.contains(&true) { 2.0 } else { 6.0 };
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
        let mut past = Past::default();
        past.push(0.0, self.stores.iter().map(|index| self.before[*index].last));
        let mut next = x.clone();
        let mut switched_at = (f64::NEG_INFINITY, 0);
        let mut stood = self.on.clone();
        // Steps since the last jump.
        let mut since = 0;
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
            let after_jump = past.count < 2;
            let before = if after_jump { 0.0 } else { past.time_s[past.count - 1] - past.time_s[past.count - 2] };
            let rule = |step: f64| if after_jump { Rule::Euler(step) } else { Rule::Second(step, before) };
            next.copy_from_slice(&x);
            extrapolate(&run, &mut next, (own, before), since);
            if let Err(error) = self.newton(&mut next, time + own, rule(own)) {
                if own < 1e-6 * first {
                    return Err(error);
                }
                step = CEILING * own;
                ceiling = step;
                continue;
            }
            let mut growth = 2.0;
            if past.count >= 3 {
                let taken = Taken { end_s: time + own, own_s: own, before_s: before, relative };
                growth = f64::min(most_growth, 0.9 / self.miss(&past, &next, &held, &taken).cbrt());
                if growth < 0.75 && own > 4.0 * first {
                    step = own * growth.max(0.2);
                    continue;
                }
            }
            // Whatever switches within the step ends it.
            let mut jumped = at_corner;
            // What was found belongs to how things stood until now, also at the instant at which they change.
            stood.copy_from_slice(&self.on);
            if self.switches.iter().any(|index| self.is_beyond(*index, &next)) {
                own = self.switch(&x, &mut next, (time, own), instant, &rule)?;
                jumped = true;
                let changing: Vec<usize> = self.switches.iter().copied().filter(|index| self.is_beyond(*index, &next)).collect();
                for index in changing {
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
            x.copy_from_slice(&next);
            run.keep(time, &x, &stood);
            since += 1;
            if jumped {
                past.count = 0;
                since = 0;
                step = first;
            } else {
                step = own * growth;
            }
            for (largest, index) in held.largest.iter_mut().zip(&self.stores) {
                *largest = largest.max(self.before[*index].last.abs());
            }
            past.push(time, self.stores.iter().map(|index| self.before[*index].last));
            if until(time, &x[..nodes]) {
                break;
            }
        }
        Ok(run)
    }

    /// How far off a step is beside what is allowed, from the third derivative of what is stored.
    fn miss(&self, past: &Past, next: &[f64], held: &Held, taken: &Taken) -> f64 {
        let (own, before) = (taken.own_s, taken.before_s);
        let moments = [past.time_s[0], past.time_s[1], past.time_s[2], taken.end_s];
        let mut worst: f64 = 0.0;
        for (which, index) in self.stores.iter().enumerate() {
            let value = self.stored(*index, next);
            let third = divided(&moments, &[past.kept[0][which], past.kept[1][which], past.kept[2][which], value]);
            // A divided difference is a sixth of the derivative; of the trapezoidal rule the error is h³/12 of that.
            let weight = if held.small[which] { own * own * (own + before) * (1.0 + own / before) / (1.0 + 2.0 * own / before) } else { 0.5 * own.powi(3) };
            let allowed = taken.relative * value.abs().max(held.largest[which]) + held.floors[which];
            worst = worst.max(weight * third.abs() / allowed);
        }
        worst
    }

    /// The instant within a step, from its beginning, at which the first switch or timer changes; `next` is what is found then.
    fn switch(&mut self, x: &[f64], next: &mut Vec<f64>, (time, step): (f64, f64), instant: f64, rule: &dyn Fn(f64) -> Rule) -> Result<f64, TransientError> {
        let switching: Vec<usize> = self.switches.iter().copied().filter(|index| self.is_beyond(*index, next)).collect();
        let far = |engine: &Self, x: &[f64]| switching.iter().map(|index| engine.beyond(*index, x)).fold(f64::NEG_INFINITY, f64::max);
        let (mut low, mut high) = (0.0, step);
        let (mut f_low, mut f_high) = (far(self, x), far(self, next));
        let mut side = 0;
        let mut trial = x.to_vec();
        // What another one's switching sets off has changed as soon as anything is looked at.
        let mut at_once = matches!(rule(step), Rule::Euler(_));
        while high - low > instant {
            // False position, the stale end halved (Illinois).
            let share = if f_low < 0.0 { (-f_low / (f_high - f_low)).clamp(0.01, 0.99) } else { 0.5 };
            let middle = if std::mem::take(&mut at_once) { instant } else { low + share * (high - low) };
            // Between what is found now and at the later end: Newton's method starts close by.
            for ((trial, now), then) in trial.iter_mut().zip(x).zip(next.iter()) {
                *trial = now + middle / high * (then - now);
            }
            self.newton(&mut trial, time + middle, rule(middle))?;
            let f = far(self, &trial);
            if f > 0.0 {
                (high, f_high) = (middle, f);
                std::mem::swap(next, &mut trial);
                f_low *= if side == 1 { 0.5 } else { 1.0 };
                side = 1;
            } else {
                (low, f_low) = (middle, f);
                f_high *= if side == -1 { 0.5 } else { 1.0 };
                side = -1;
            }
        }
        Ok(high)
    }
}

/// Moments and kept figures since the last jump, three at most, the newest last: what the error of a step is told from.
#[derive(Default)]
struct Past {
    count: usize,
    time_s: [f64; 3],
    kept: [Vec<f64>; 3],
}

impl Past {
    fn push(&mut self, time_s: f64, kept: impl Iterator<Item = f64>) {
        if self.count == 3 {
            self.time_s.rotate_left(1);
            self.kept.rotate_left(1);
            self.count = 2;
        }
        self.time_s[self.count] = time_s;
        self.kept[self.count].clear();
        self.kept[self.count].extend(kept);
        self.count += 1;
    }
}

/// The divided difference over four points.
fn divided(t: &[f64; 4], v: &[f64; 4]) -> f64 {
    let first: [f64; 3] = std::array::from_fn(|at| (v[at + 1] - v[at]) / (t[at + 1] - t[at]));
    let second: [f64; 2] = std::array::from_fn(|at| (first[at + 1] - first[at]) / (t[at + 2] - t[at]));
    (second[1] - second[0]) / (t[3] - t[0])
}
