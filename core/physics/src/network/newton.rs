//! Newton's method on the network's equations, damped, with a continuation in the load as a fallback.

use super::*;
use orthavis_model::budget;
use orthavis_model::document::ConverterKind;

/// Steps before an attempt is given up.
const MAX_STEPS: usize = 80;
/// Kirchhoff's law is met to this, A, plus this share of the largest branch current: far below what the report
/// needs, so that small currents keep their four figures beside large ones.
pub(super) const TIGHT: (f64, f64) = (1e-12, 1e-12);
/// What must hold for a solution to be accepted at all.
pub(super) const ACCEPTED: (f64, f64) = (1e-9, 1e-6);
/// A step this small, V and A, has arrived.
const STILL: f64 = 1e-10;
/// Makes a current comparable with a voltage; the outcome does not depend on it.
const ONE_OHM: f64 = 1.0;
/// Ties the output of a resting converter to its minus, S.
const LEAK_S: f64 = 1e-10;

impl Network {
    /// Unknowns from which Newton starts: every supplier at its nominal voltage, no current.
    pub(super) fn nominal(&self, point: &Point, modes: &Modes) -> Vec<f64> {
        let mut x = vec![0.0; self.residual.len()];
        // Ids of nodes are given out from the source outwards only within a kind, so walk the feeds until all
        // voltages have arrived; the tree is as deep as its converters and junctions at most.
        if let Some(plus) = self.source_plus {
            x[plus] = point.emf_v;
        }
        // Where supplies meet, the highest holds the outputs of the others.
        let mut held = if self.meetings.is_empty() { Vec::new() } else { vec![0.0; self.converters.len()] };
        let held_v = |held: &[f64], converter: usize| held.get(converter).copied().unwrap_or(0.0);
        for _ in 0..=2 * self.converters.len() + self.conductors.len() / 2 {
            let mut changed = false;
            let put = |x: &mut Vec<f64>, changed: &mut bool, node: Node, value: f64| {
                if let Some(index) = node
                    && x[index] != value
                {
                    x[index] = value;
                    *changed = true;
                }
            };
            for pair in self.conductors.chunks_exact(2) {
                let from = voltage(&x, pair[0].from);
                put(&mut x, &mut changed, pair[0].to, from);
            }
            for (index, net) in self.converters.iter().enumerate() {
                let vin = voltage(&x, net.in_plus);
                let out = match net.drives.map(|light| &self.lights[light].law) {
                    _ if !modes.converters[index] => held_v(&held, index),
                    Some(Law::Strings { string, .. }) => string.voltage(string.if_a).min(net.part.headroom_v(vin).value),
                    _ => net.part.output_v(vin).value.max(held_v(&held, index)),
                };
                put(&mut x, &mut changed, net.out_plus, out);
            }
            for meeting in &self.meetings {
                let offers = self.conductors[2 * meeting.feeds.start..2 * meeting.feeds.end].iter().step_by(2).map(|plus| voltage(&x, plus.from));
                let highest = offers.fold(0.0, f64::max);
                for &converter in &meeting.converters {
                    if held[converter] < highest {
                        held[converter] = highest;
                        changed = true;
                    }
                }
            }
            if !changed {
                break;
            }
        }
        // Along a strip from its feeds; every rail node hangs on the one before it.
        for light in &self.lights {
            let start = voltage(&x, light.entry.0);
            for tap in &self.taps[light.taps.clone()] {
                if let Some(index) = tap.plus {
                    x[index] = start;
                }
            }
            for stop in &light.spots {
                if let Spot::Cell(cell) = *stop {
                    x[cell] = start;
                }
            }
        }
        x
    }

    /// Writes residual and Jacobian at `x`. `load` scales what lights and standing loads draw.
    pub(super) fn assemble(&mut self, point: &Point, modes: &Modes, x: &[f64], load: f64) {
        let (f, m) = (&mut self.residual, &mut self.matrix);
        f.fill(0.0);
        m.clear();
        let mut kcl = |node: Node, amps: f64| {
            if let Some(index) = node {
                f[index] += amps;
            }
        };

        // Source: V + R I = E, with I flowing out of its plus.
        let i = x[self.source_branch];
        kcl(self.source_plus, load * point.standing_a - i);
        m.add(self.source_stamp.from_i, -1.0);
        m.add(self.source_stamp.eq_from, 1.0);
        m.add(self.source_stamp.eq_i, point.source_ohm);

        for c in &self.conductors {
            let i = x[c.branch];
            kcl(c.from, i);
            kcl(c.to, -i);
            m.add(c.stamp.from_i, 1.0);
            m.add(c.stamp.to_i, -1.0);
            m.add(c.stamp.eq_from, 1.0);
            m.add(c.stamp.eq_to, -1.0);
            m.add(c.stamp.eq_i, -c.ohm);
        }
        for rail in &self.rails {
            let i = rail.siemens * (voltage(x, rail.a) - voltage(x, rail.b));
            kcl(rail.a, i);
            kcl(rail.b, -i);
            add_quad(m, &rail.quad, rail.siemens);
        }
        for (index, light) in self.lights.iter().enumerate() {
            let lit = &point.lights[index];
            for tap in &self.taps[light.taps.clone()] {
                let v = voltage(x, tap.plus) - voltage(x, tap.minus);
                let (i, slope) = light.law.current(lit, modes.lights[index], v);
                let (i, slope) = (tap.count * i, tap.count * slope);
                kcl(tap.plus, load * i);
                kcl(tap.minus, -load * i);
                add_quad(m, &tap.quad, load * slope);
            }
        }
        for (index, net) in self.converters.iter().enumerate() {
            let out_a = x[net.branch];
            kcl(net.out_plus, -out_a);
            m.add(net.stamp.out_i, -1.0);
            let minus = voltage(x, net.minus);
            let (vin, vout) = (voltage(x, net.in_plus) - minus, voltage(x, net.out_plus) - minus);
            let (input, d) = if modes.converters[index] {
                let input = net.part.input_a(vin, vout, out_a);
                (input.value, [input.per_vin, -input.per_vin - input.per_vout, input.per_vout, input.per_iout])
            } else {
                kcl(net.out_plus, LEAK_S * vout);
                kcl(net.minus, -LEAK_S * vout);
                add_quad(m, &net.stamp.leak, LEAK_S);
                (0.0, [0.0; 4])
            };
            // What goes in at plus comes back at minus, and the output's current likewise.
            kcl(net.in_plus, input);
            kcl(net.minus, out_a - input);
            for (column, value) in d.into_iter().enumerate() {
                m.add(net.stamp.kcl[0][column], value);
                m.add(net.stamp.kcl[1][column], -value);
            }
            m.add(net.stamp.kcl[1][3], 1.0);
        }

        self.residual[self.source_branch] = voltage(x, self.source_plus) + point.source_ohm * x[self.source_branch] - point.emf_v;
        for c in &self.conductors {
            self.residual[c.branch] = voltage(x, c.from) - voltage(x, c.to) - c.ohm * x[c.branch];
        }
        for (index, net) in self.converters.iter().enumerate() {
            let (value, d) = output_equation(net, modes.converters[index], point, x);
            self.residual[net.branch] = value;
            for (column, value) in d.into_iter().enumerate() {
                self.matrix.add(net.stamp.eq[column], value);
            }
        }
        for ladder in &self.ladders {
            let (law, lit) = (&self.lights[ladder.light].law, &point.lights[ladder.light]);
            ladder.assemble(law, lit, x, load, &mut self.residual, &mut self.elimination);
        }
    }

    /// The Newton step for what was assembled last, into `step`.
    fn find_step(&mut self) -> Result<(), matrix::SingularMatrix> {
        self.step.copy_from_slice(&self.residual);
        for ladder in &self.ladders {
            ladder.condense(&mut self.step, &mut self.matrix, &mut self.elimination);
        }
        self.matrix.solve(&mut self.step[..self.size])?;
        for ladder in &self.ladders {
            ladder.expand(&mut self.step, &self.elimination);
        }
        if self.step.iter().all(|s| s.is_finite()) { Ok(()) } else { Err(matrix::SingularMatrix) }
    }

    pub(super) fn worst_node(&self) -> (usize, f64) {
        // The equation of a cell is that of its plus less that of its minus.
        let cells = self.residual[self.size..].iter().map(|r| 0.5 * r.abs()).enumerate().map(|(index, r)| (self.size + index, r));
        let nodes = self.residual[..self.nodes].iter().map(|r| r.abs()).enumerate();
        nodes.chain(cells).fold((0, 0.0), |worst, here| if here.1 > worst.1 || here.1.is_nan() { here } else { worst })
    }

    pub(super) fn largest_current(&self, x: &[f64]) -> f64 {
        x[self.nodes..self.size].iter().fold(0.0, |most: f64, i| most.max(i.abs()))
    }

    /// The part that an unknown belongs to.
    fn place_of(&self, unknown: usize) -> String {
        let ladder = self.ladders.iter().find(|ladder| ladder.cells.contains(&unknown));
        ladder.map_or_else(|| self.places[unknown].clone(), |ladder| self.lights[ladder.light].id.clone())
    }

    /// Sum of squares of the residual, amps and volts alike.
    fn merit(&self) -> f64 {
        self.residual.iter().map(|r| r * r).sum()
    }

    fn within(&self, x: &[f64], (amps, share): (f64, f64)) -> bool {
        let limit = amps + share * self.largest_current(x);
        let volts = self.residual[self.nodes..self.size].iter().all(|r| r.abs() <= 1e-9);
        let cells = self.residual[self.size..].iter().all(|r| 0.5 * r.abs() <= limit);
        volts && cells && self.residual[..self.nodes].iter().all(|r| r.abs() <= limit)
    }

    /// Newton from `x`. The part with the worst balance is the error.
    pub(super) fn newton(&mut self, point: &Point, modes: &Modes, mut x: Vec<f64>, load: f64) -> Result<Vec<f64>, SolveError> {
        self.assemble(point, modes, &x, load);
        let mut merit = self.merit();
        for _ in 0..MAX_STEPS {
            if self.within(&x, self.close) {
                return Ok(x);
            }
            self.steps += 1;
            let cost = 40 * self.size + 2 * (x.len() - self.size);
            budget::spend(cost as u64).map_err(|why| self.stopped(why))?;
            if self.find_step().is_err() {
                break;
            }
            let longest = self.step.iter().fold(0.0, |most: f64, s| most.max(s.abs()));
            // A full step where it helps; shorter ones where the equations bend; the shortest is taken anyway,
            // to walk off a kink.
            let mut share = 1.0;
            loop {
                let mut trial = std::mem::take(&mut self.trial);
                for (index, value) in trial.iter_mut().enumerate() {
                    *value = x[index] - share * self.step[index];
                }
                self.assemble(point, modes, &trial, load);
                self.trial = trial;
                let next = self.merit();
                if next < merit || share < 0.02 || longest < STILL {
                    merit = next;
                    x.copy_from_slice(&self.trial);
                    break;
                }
                share *= 0.5;
            }
            if longest * share < STILL && self.within(&x, ACCEPTED) {
                return Ok(x);
            }
            if !merit.is_finite() {
                break;
            }
        }
        Err(SolveError::NotConverged { place: self.place_of(self.worst_node().0) })
    }

    /// Newton; where it fails, the load is raised from nothing in steps, each started from the last.
    pub(super) fn newton_or_continue(&mut self, point: &Point, modes: &Modes, near: Option<&[f64]>) -> Result<Vec<f64>, SolveError> {
        let start = near.map_or_else(|| self.nominal(point, modes), <[f64]>::to_vec);
        let failed = match self.newton(point, modes, start, 1.0) {
            Ok(x) => return Ok(x),
            Err(error) if error.is_unfinished() => return Err(error),
            Err(error) => error,
        };
        let mut x = self.nominal(point, modes);
        let (mut done, mut stride) = (0.0, 0.25);
        while done < 1.0 {
            let next: f64 = f64::min(1.0, done + stride);
            match self.newton(point, modes, x.clone(), next) {
                Ok(found) => {
                    x = found;
                    done = next;
                    stride *= 2.0;
                }
                Err(error) if error.is_unfinished() => return Err(error),
                Err(_) if stride > 1e-3 => stride *= 0.25,
                Err(_) => return Err(self.overloaded(modes, &x, done).unwrap_or(failed)),
            }
        }
        Ok(x)
    }
}

impl Network {
    /// The part that takes more the less it is given, and takes the most; `None` where there is none.
    fn overloaded(&self, modes: &Modes, x: &[f64], share: f64) -> Option<SolveError> {
        let converters = self.converters.iter().enumerate().filter(|(index, _)| modes.converters[*index]).map(|(_, net)| {
            let (minus, plus) = (voltage(x, net.minus), voltage(x, net.in_plus));
            let input = net.part.input_a(plus - minus, voltage(x, net.out_plus) - minus, x[net.branch]);
            ((plus - minus) * input.value, &net.part.id)
        });
        let lamps = self.lights.iter().filter_map(|light| match &light.law {
            Law::Module(module) if module.draw == orthavis_model::document::Draw::ConstantPower => Some((module.power_w, &light.id)),
            _ => None,
        });
        let (_, place) = converters.chain(lamps).max_by(|a, b| a.0.total_cmp(&b.0))?;
        Some(SolveError::Overloaded { place: place.clone(), share })
    }
}

/// Residual of a converter's output branch and its slopes over in_plus, minus, out_plus, branch.
fn output_equation(net: &ConverterNet, on: bool, point: &Point, x: &[f64]) -> (f64, [f64; 4]) {
    let out_a = x[net.branch];
    if !on {
        return (out_a, [0.0, 0.0, 0.0, 1.0]);
    }
    let minus = voltage(x, net.minus);
    let (vin, vout) = (voltage(x, net.in_plus) - minus, voltage(x, net.out_plus) - minus);
    if net.part.kind != ConverterKind::CurrentDriver {
        let out = net.part.output_v(vin);
        // No converter takes current back: where another supply holds its output higher, it gives none.
        if net.meets_another && out_a * ONE_OHM < vout - out.value {
            return (out_a, [0.0, 0.0, 0.0, 1.0]);
        }
        return (vout - out.value, [-out.per_vin, out.per_vin - 1.0, 1.0, 0.0]);
    }
    let target = net.drives.map_or(0.0, |light| point.lights[light].level) * net.part.set_a.unwrap_or(0.0);
    if target == 0.0 {
        return (vout, [0.0, -1.0, 1.0, 0.0]);
    }
    // Whichever of current and voltage meets its limit first holds: the smaller slack is zero.
    let headroom = net.part.headroom_v(vin);
    let ohm = (vin / target).max(1e-3);
    let (current_slack, voltage_slack) = ((target - out_a) * ohm, headroom.value - vout);
    if current_slack < voltage_slack {
        (out_a - target, [0.0, 0.0, 0.0, 1.0])
    } else {
        (vout - headroom.value, [-headroom.per_vin, headroom.per_vin - 1.0, 1.0, 0.0])
    }
}

fn add_quad(m: &mut Matrix, quad: &Quad, siemens: f64) {
    m.add(quad.aa, siemens);
    m.add(quad.bb, siemens);
    m.add(quad.ab, -siemens);
    m.add(quad.ba, -siemens);
}
