//! What waveforms say: periods, means, peaks, moments.

use super::{Element, Run};

/// A figure over time.
#[derive(Clone, Debug, PartialEq)]
pub struct Trace {
    /// Moments, s, rising.
    pub time_s: Vec<f64>,
    /// The figure at each.
    pub value: Vec<f64>,
}

/// Waveforms thinned for a plot: by moment, the least and the most of each trace around it.
#[derive(Clone, Debug, PartialEq)]
pub struct Traces {
    /// Middle of each stretch, s.
    pub time_s: Vec<f64>,
    /// Of each trace: least and most in that stretch.
    pub span: Vec<Vec<[f64; 2]>>,
}

impl Run<'_> {
    fn trace(&self, figure: impl Fn(usize) -> f64) -> Trace {
        Trace { time_s: self.time_s.clone(), value: (0..self.time_s.len()).map(figure).collect() }
    }

    /// Voltage of a node, V; nothing where there is no such node.
    pub fn node(&self, name: &str) -> Trace {
        let node = self.circuit.nodes.iter().position(|known| known == name);
        node.map_or(Trace { time_s: Vec::new(), value: Vec::new() }, |node| self.trace(|at| self.at(at)[node]))
    }

    /// Voltage of one node over another, V.
    pub fn between(&self, plus: &str, minus: &str) -> Trace {
        let (plus, minus) = (self.node(plus), self.node(minus));
        Trace { value: plus.value.iter().zip(&minus.value).map(|(a, b)| a - b).collect(), time_s: plus.time_s }
    }

    /// Current through a part, A, from its first node to its second; of a source, what it gives; of a transistor, into its
    /// collector; of a timer, out of its output. A capacitor's is not kept.
    pub fn current(&self, part: &str) -> Trace {
        let Some(index) = self.circuit.parts.iter().position(|known| known.name == part) else { return Trace { time_s: Vec::new(), value: Vec::new() } };
        let own = &self.circuit.parts[index];
        let n = &own.nodes;
        let across = |at: usize| self.at(at)[n[0]] - self.at(at)[n[1]];
        self.trace(|at| match &own.element {
            Element::Resistor(ohm) => across(at) / ohm,
            Element::Inductor(..) => self.at(at)[self.branch[index]],
            Element::Voltage(_) => -self.at(at)[self.branch[index]],
            Element::Current(wave) => wave.at(self.time_s[at]),
            Element::Diode(diode) => diode.current(across(at)).0,
            Element::Bipolar(transistor) => self.transistor(at, n, transistor)[0],
            Element::Switch { on_ohm, off_ohm, .. } => across(at) / if self.is_on(at, index) { on_ohm } else { off_ohm },
            Element::Timer(timer) => {
                let x = self.at(at);
                let open = if self.is_on(at, index) { x[n[0]] - timer.high_drop_v } else { x[n[1]] + timer.low_v };
                (open - x[n[4]]) / timer.out_ohm
            }
            Element::Capacitor(..) => 0.0,
        })
    }

    fn transistor(&self, at: usize, n: &[usize], transistor: &super::Bipolar) -> [f64; 2] {
        let sign = if transistor.npn { 1.0 } else { -1.0 };
        let x = self.at(at);
        let (amps, _) = transistor.currents(sign * (x[n[1]] - x[n[2]]), sign * (x[n[1]] - x[n[0]]));
        amps.map(|amps| sign * amps)
    }

    /// Current into the base of a transistor, A.
    pub fn base(&self, part: &str) -> Trace {
        let own = self.circuit.parts.iter().find(|known| known.name == part);
        let Some((own, Element::Bipolar(transistor))) = own.map(|own| (own, &own.element)) else { return Trace { time_s: Vec::new(), value: Vec::new() } };
        self.trace(|at| self.transistor(at, &own.nodes, transistor)[1])
    }

    /// Heat of a part, W; of a transistor that of both its junctions.
    pub fn power(&self, part: &str) -> Trace {
        let (own, amps) = (self.circuit.parts.iter().find(|known| known.name == part), self.current(part));
        let Some(own) = own else { return amps };
        let n = &own.nodes;
        let base = if matches!(own.element, Element::Bipolar(_)) { Some(self.base(part)) } else { None };
        self.trace(|at| {
            let x = self.at(at);
            match &base {
                Some(base) => amps.value[at] * (x[n[0]] - x[n[2]]) + base.value[at] * (x[n[1]] - x[n[2]]),
                None => amps.value[at] * (x[n[0]] - x[n[1]]),
            }
        })
    }

    /// Traces thinned to so many stretches, none of their peaks lost.
    pub fn thinned(&self, traces: &[&Trace], count: usize) -> Traces {
        let end = self.time_s.last().copied().unwrap_or(0.0);
        let width = end / count.max(1) as f64;
        let mut out = Traces { time_s: (0..count).map(|at| (at as f64 + 0.5) * width).collect(), span: Vec::new() };
        for trace in traces {
            let mut span = Vec::with_capacity(count);
            let mut from = 0;
            for stretch in 0..count {
                let (low, high) = (stretch as f64 * width, (stretch + 1) as f64 * width);
                while from + 1 < trace.time_s.len() && trace.time_s[from + 1] <= low {
                    from += 1;
                }
                let (a, b) = (trace.at(low), trace.at(high));
                let within = trace.time_s[from..].iter().zip(&trace.value[from..]).skip_while(|(time, _)| **time < low).take_while(|(time, _)| **time <= high);
                span.push(within.fold([a.min(b), a.max(b)], |[least, most], (_, value)| [least.min(*value), most.max(*value)]));
            }
            out.span.push(span);
        }
        out
    }
}

impl Trace {
    /// The figure at a moment, on a straight line between those known.
    pub fn at(&self, time_s: f64) -> f64 {
        let after = self.time_s.partition_point(|known| *known < time_s);
        match (after.checked_sub(1), self.time_s.get(after)) {
            (Some(before), Some(next)) if *next > self.time_s[before] => {
                let share = (time_s - self.time_s[before]) / (next - self.time_s[before]);
                self.value[before] + share * (self.value[after] - self.value[before])
            }
            (Some(before), _) => self.value[before],
            (None, _) => self.value.first().copied().unwrap_or(0.0),
        }
    }

    /// The part of it from a moment on.
    pub fn from(&self, time_s: f64) -> Trace {
        let first = self.time_s.partition_point(|known| *known < time_s);
        Trace { time_s: self.time_s[first..].to_vec(), value: self.value[first..].to_vec() }
    }

    /// The largest.
    pub fn peak(&self) -> f64 {
        self.value.iter().copied().fold(f64::NEG_INFINITY, f64::max)
    }

    /// The least.
    pub fn least(&self) -> f64 {
        self.value.iter().copied().fold(f64::INFINITY, f64::min)
    }

    fn integral(&self, of: impl Fn(f64, f64) -> f64) -> f64 {
        (1..self.time_s.len()).map(|at| (self.time_s[at] - self.time_s[at - 1]) * of(self.value[at - 1], self.value[at])).sum()
    }

    /// How long it is, s.
    pub fn span_s(&self) -> f64 {
        self.time_s.last().zip(self.time_s.first()).map_or(0.0, |(last, first)| last - first)
    }

    /// Its mean; of nothing 0.
    pub fn mean(&self) -> f64 {
        if self.span_s() > 0.0 { self.integral(|a, b| 0.5 * (a + b)) / self.span_s() } else { self.value.first().copied().unwrap_or(0.0) }
    }

    /// Root of the mean square.
    pub fn rms(&self) -> f64 {
        if self.span_s() > 0.0 { (self.integral(|a, b| (a * a + a * b + b * b) / 3.0) / self.span_s()).sqrt() } else { 0.0 }
    }

    /// Its sum over time: of a power, the energy, J.
    pub fn total(&self) -> f64 {
        self.integral(|a, b| 0.5 * (a + b))
    }

    /// Moments at which it rises through a level, or falls, s.
    pub fn crossings(&self, level: f64, rising: bool) -> Vec<f64> {
        let through =
            |at: &usize| if rising { self.value[at - 1] < level && self.value[*at] >= level } else { self.value[at - 1] > level && self.value[*at] <= level };
        let moment = |at: usize| {
            let (a, b) = (self.value[at - 1], self.value[at]);
            self.time_s[at - 1] + (level - a) / (b - a) * (self.time_s[at] - self.time_s[at - 1])
        };
        (1..self.time_s.len()).filter(through).map(moment).collect()
    }

    /// Mean period and on-time of what swings through a level, s, over its last `most` whole periods; `None` where it does not
    /// swing twice.
    pub fn swings(&self, level: f64, most: usize) -> Option<(f64, f64, [f64; 2])> {
        let (ups, downs) = (self.crossings(level, true), self.crossings(level, false));
        let count = ups.len().checked_sub(1).filter(|count| *count > 0)?.min(most);
        let (first, last) = (ups[ups.len() - 1 - count], ups[ups.len() - 1]);
        let period = (last - first) / count as f64;
        let on: f64 = (ups.len() - 1 - count..ups.len() - 1).filter_map(|at| downs.iter().find(|down| **down > ups[at]).map(|down| down - ups[at])).sum();
        Some((period, on / count as f64, [first, last]))
    }
}
