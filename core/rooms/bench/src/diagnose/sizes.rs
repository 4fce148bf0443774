//! Faults that have a size, at the size that explains best what was read. Between the sizes that are simulated beforehand
//! a reading follows a fraction of two straight lines, as in any linear network; the likeliest places are simulated again.

use super::{Candidate, FaultDictionary, Hypothesis, Known, on_checks};
use crate::BenchError;
use crate::fault::{At, Fault, FaultKind};
use crate::rig::Rig;
use std::rc::Rc;

/// Sizes that are looked for: ohms of a weak joint, a factor of a resistor, a share of a setting.
const WEAK_OHM: (f64, f64) = (0.05, 200.0);
const FACTOR: (f64, f64) = (0.05, 20.0);
const SETTING: (f64, f64) = (0.4, 1.8);
/// Sizes tried before any is simulated.
const GRID: usize = 60;
/// Places that are simulated again.
const REFINED: usize = 8;
/// A place that misses by so much more than the best, in squares of spreads, is none.
const BEHIND: f64 = 100.0;
/// Share of a place's prior that a size within its own uncertainty has.
const NARROW: f64 = 0.1;
/// How far a reading between two simulated sizes may be off, as a share of the way between them.
const BETWEEN: f64 = 0.03;
/// The same beyond them, as a share of the way from them.
const BEYOND: f64 = 0.1;
/// A reading that is further off than so many spreads counts no more.
const FAR: f64 = 10.0;
/// Simulations of one place at most, beyond the first two.
const STEPS: usize = 4;
/// Sums of squares closer than this explain the same.
const ALIKE: f64 = 4.0;

/// From which simulated sizes another is told: those around it, or three on one side.
#[derive(Clone, Copy)]
enum From {
    Both,
    Smaller,
    Larger,
}

/// One place whose fault has a size.
struct Place {
    kind: FaultKind,
    at: At,
    /// The setting as planned; 1 of anything else.
    unit: f64,
    /// Simulated sizes by their place on the scale, rising, each with its hypothesis.
    nodes: Vec<(f64, usize)>,
    prior: f64,
}

impl Place {
    /// Where a size lies on a scale on which what is endless is 1, and what is sound has a place too.
    fn on_scale(&self, size: f64) -> f64 {
        match self.at {
            At::Setting(_) => size / self.unit,
            _ => size / (1.0 + size),
        }
    }

    fn range(&self) -> (f64, f64) {
        match self.at {
            At::Setting(_) => (SETTING.0 * self.unit, SETTING.1 * self.unit),
            At::Resistor(_) => FACTOR,
            _ => WEAK_OHM,
        }
    }
}

/// The value at `x` of the fraction `(a + b·x) / (1 + c·x)` through three points; a straight line where there is none.
fn between(points: [(f64, f64); 3], x: f64) -> f64 {
    let [(x0, v0), (x1, v1), (x2, v2)] = points;
    // Divided differences of a continued fraction.
    let straight = v0 + (v1 - v0) * (x - x0) / (x1 - x0);
    let (first, second) = ((x1 - x0) / (v1 - v0), (x2 - x0) / (v2 - v0));
    let bend = (x2 - x1) / (second - first);
    let value = v0 + (x - x0) / (first + (x - x1) / bend);
    if value.is_finite() { value } else { straight }
}

/// Sum of squares, each no more than that of what is far off.
fn squares(off: &[f64]) -> f64 {
    off.iter().map(|off| off.abs().min(FAR).powi(2)).sum()
}

/// Where least squares would be, from what two places are off by: straight lines through both, with less weight for what
/// is far off at the better place (least squares reweighted). `None` where nothing changes in between.
fn better(other: (f64, &[f64]), best: (f64, &[f64])) -> Option<f64> {
    let slope = |(off, at): (&f64, &f64)| (at - off) / (best.0 - other.0);
    let (mut down, mut steep) = (0.0, 0.0);
    for (at, slope) in best.1.iter().zip(other.1.iter().zip(best.1).map(slope)) {
        let weight = 1.0 / (1.0 + (at / FAR).powi(2));
        down += weight * slope * at;
        steep += weight * slope * slope;
    }
    let step = down / steep;
    step.is_finite().then_some(best.0 - step)
}

/// To three figures, as people write a size.
fn rounded(size: f64) -> f64 {
    format!("{size:.2e}").parse().unwrap_or(size)
}

impl FaultDictionary {
    fn places(&self) -> Vec<Place> {
        let mut all: Vec<Place> = Vec::new();
        for (index, one) in self.hypotheses.iter().enumerate() {
            let [fault] = one.faults.as_slice() else { continue };
            let Some(size) = fault.size.filter(|_| matches!(fault.kind, FaultKind::WeakJoint | FaultKind::WrongValue)) else { continue };
            let place = match all.iter().position(|place| place.kind == fault.kind && place.at == fault.at) {
                Some(place) => &mut all[place],
                None => {
                    let unit = match fault.at {
                        At::Setting(index) => self.build.converters[index].setting().0,
                        _ => 1.0,
                    };
                    all.push(Place { kind: fault.kind, at: fault.at, unit, nodes: Vec::new(), prior: 0.0 });
                    let last = all.len() - 1;
                    &mut all[last]
                }
            };
            let at = place.on_scale(size);
            place.nodes.push((at, index));
            place.prior += one.prior;
        }
        for place in &mut all {
            // The sound build is one end or the middle; what is open is the other end.
            let sound = match place.at {
                At::Resistor(_) => 0.5,
                At::Setting(_) => 1.0,
                _ => 0.0,
            };
            place.nodes.push((sound, 0));
            let open = |one: &Rc<Hypothesis>| matches!(one.faults.as_slice(), [fault] if fault.kind == FaultKind::Open && fault.at == place.at);
            place.nodes.extend(self.hypotheses.iter().position(open).map(|index| (1.0, index)));
            place.nodes.sort_by(|a, b| a.0.total_cmp(&b.0));
        }
        all.retain(|place| place.nodes.len() >= 3);
        all
    }

    /// What a check would read at a size, and how far that may be off.
    fn at_size(&self, place: &Place, candidate: &Candidate, x: f64, from: From) -> Option<(f64, f64)> {
        let last = place.nodes.len() - 1;
        let right = place.nodes.iter().position(|(at, _)| *at >= x).unwrap_or(last).clamp(1, last);
        let node = |index: usize| Some((place.nodes[index].0, self.read(&self.hypotheses[place.nodes[index].1], candidate)?));
        // Where something gives up at one end of the interval, only what lies on the other side of it tells.
        let three = match from {
            From::Both if right < last => [right - 1, right, right + 1],
            From::Both => [right - 1, right, right.checked_sub(2)?],
            From::Smaller => [right.checked_sub(3)?, right - 2, right - 1],
            From::Larger => [Some(right).filter(|right| right + 2 <= last)?, right + 1, right + 2],
        };
        let [low, high, third] = [node(three[0])?, node(three[1])?, node(three[2])?];
        let inside = |value: f64| value >= low.1.min(high.1) - 1e-12 && value <= low.1.max(high.1) + 1e-12;
        let bent = between([low, high, third], x);
        // Where something starts or stops in between there is no such fraction.
        let value = if (low.0..=high.0).contains(&x) && !inside(bent) { low.1 + (high.1 - low.1) * (x - low.0) / (high.0 - low.0) } else { bent };
        let off = match from {
            From::Both => BETWEEN * (high.1 - low.1).abs(),
            From::Smaller | From::Larger => BEYOND * (value - low.1).abs().max((value - high.1).abs()),
        };
        Some((value, off))
    }

    /// By how many spreads each reading is off what a hypothesis reads.
    fn off(&self, one: &Hypothesis, checks: &[(Candidate, f64)]) -> Vec<f64> {
        let off = |(candidate, read): &(Candidate, f64)| self.read(one, candidate).map_or(FAR, |value| (read - value) / candidate.spread(value));
        checks.iter().map(off).collect()
    }

    /// Sum of the squares of [`Self::off`].
    fn misses(&self, one: &Hypothesis, checks: &[(Candidate, f64)]) -> f64 {
        squares(&self.off(one, checks))
    }

    /// The likeliest places of faults that have a size, each at the size that explains best what was read.
    ///
    /// # Errors
    /// A reading of a place that is not among the checks.
    pub(super) fn fitted(&self, known: &Known) -> Result<Vec<Hypothesis>, BenchError> {
        let checks = on_checks(self, known)?;
        if checks.is_empty() {
            return Ok(Vec::new());
        }
        let mut found: Vec<(f64, f64, Place)> = Vec::new();
        for place in self.places() {
            let (low, high) = place.range();
            let sizes = (0..=GRID).map(|step| low * (high / low).powf(step as f64 / GRID as f64));
            let misses = |size: f64| {
                let x = place.on_scale(size);
                let all = |from: From| {
                    let miss = |(candidate, read): &(Candidate, f64)| match self.at_size(&place, candidate, x, from) {
                        Some((value, off)) => ((read - value) / candidate.spread(value).hypot(off)).abs().min(FAR).powi(2),
                        None => FAR * FAR,
                    };
                    checks.iter().map(miss).sum::<f64>()
                };
                [From::Both, From::Smaller, From::Larger].map(all).into_iter().fold(f64::INFINITY, f64::min)
            };
            let best = sizes.map(|size| (misses(size), size)).min_by(|a, b| a.0.total_cmp(&b.0));
            found.extend(best.map(|(misses, size)| (misses, size, place)));
        }
        let surprise = |place: &Place| {
            let seen = |index: usize| known.seen.iter().map(|saw| self.hypotheses[index].likelihood(saw).ln()).sum::<f64>();
            -2.0 * place.nodes.iter().map(|(_, index)| seen(*index)).fold(f64::NEG_INFINITY, f64::max)
        };
        let mut ranked: Vec<(f64, f64, Place)> = found.into_iter().map(|(misses, size, place)| (misses + surprise(&place), size, place)).collect();
        ranked.sort_by(|a, b| a.0.total_cmp(&b.0));
        let sound = Rig::new(&self.build, &[])?;
        let mut all = Vec::new();
        let least = ranked.first().map_or(0.0, |first| first.0);
        for (_, size, place) in ranked.into_iter().take_while(|(misses, ..)| *misses < least + BEHIND).take(REFINED) {
            let (low, high) = place.range();
            let attempt = |x: f64| {
                let size = rounded(x.exp().clamp(low, high));
                let fault = Fault { kind: place.kind, at: place.at, size: Some(size) };
                let one = Hypothesis { passing: true, ..self.simulated(&sound, vec![fault], NARROW * place.prior) };
                (size.ln(), self.off(&one, &checks), one)
            };
            let step = if matches!(place.at, At::Setting(_)) { 0.01 } else { 0.1 };
            let start = size.ln();
            let mut last = attempt(start);
            let mut best = attempt(if start + step > high.ln() { start - step } else { start + step });
            if squares(&last.1) < squares(&best.1) {
                std::mem::swap(&mut last, &mut best);
            }
            for _ in 0..STEPS {
                // Within a spread of every reading there is nothing left to gain.
                if squares(&best.1) < checks.len() as f64 {
                    break;
                }
                let Some(x) = better((last.0, &last.1), (best.0, &best.1)) else { break };
                let next = attempt(x.clamp(best.0 - 10.0 * step, best.0 + 10.0 * step));
                if next.0 == best.0 || next.0 == last.0 {
                    break;
                }
                last = next;
                if squares(&last.1) < squares(&best.1) {
                    std::mem::swap(&mut last, &mut best);
                }
            }
            let (misses, best) = (squares(&best.1), best.2);
            // A size that was simulated beforehand explains as much: then it is that one.
            let of_nodes = place.nodes.iter().filter(|(_, index)| self.hypotheses[*index].faults.first().is_some_and(|fault| fault.kind == place.kind));
            let least = of_nodes.map(|(_, index)| self.misses(&self.hypotheses[*index], &checks)).fold(f64::INFINITY, f64::min);
            if misses + ALIKE < least {
                all.push(best);
            }
        }
        Ok(all)
    }
}

/// Whether two hypotheses are one fault at one place, of two sizes.
pub(super) fn is_one_place(one: &Hypothesis, two: &Hypothesis) -> bool {
    match (one.faults.as_slice(), two.faults.as_slice()) {
        ([a], [b]) => a.kind == b.kind && a.at == b.at && a.size.is_some() && matches!(a.kind, FaultKind::WeakJoint | FaultKind::WrongValue),
        _ => false,
    }
}

#[cfg(test)]
mod tests {
    use super::{between, rounded};

    #[test]
    fn a_divider_is_followed_exactly() {
        // Volts behind a resistance into eight ohms, on the scale of weak joints.
        let volts = |ohm: f64| 12.0 * 8.0 / (8.0 + ohm);
        let on = |ohm: f64| (ohm / (1.0 + ohm), volts(ohm));
        for ohm in [0.1, 0.7, 2.0, 7.0, 40.0] {
            let value = between([on(0.0), on(0.5), on(3.0)], on(ohm).0);
            assert!((value - volts(ohm)).abs() < 1e-9, "{ohm}: {value}");
        }
        let line = between([(0.0, 1.0), (1.0, 3.0), (2.0, 5.0)], 1.5);
        assert!((line - 4.0).abs() < 1e-9, "a straight line stays one: {line}");
        assert_eq!(between([(0.0, 2.0), (1.0, 2.0), (2.0, 2.0)], 0.5), 2.0);
    }

    #[test]
    fn sizes_have_three_figures() {
        assert_eq!((rounded(7.9321), rounded(0.123_456), rounded(41.99)), (7.93, 0.123, 42.0));
    }
}
