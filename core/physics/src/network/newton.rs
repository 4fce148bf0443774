//! Newton's method on the network's equations, damped, with a continuation in the load as a fallback.

use super::*;
use orthavis_model::budget;
use orthavis_model::document::Conversion;

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
        let mut x = vec![0.0; self.work.residual.len()];
        // Ids of nodes are given out from the source outwards only within a kind, so walk the feeds until all
        // voltages have arrived; the tree is as deep as its converters and junctions at most.
        if let Some(plus) = self.wiring.source_plus {
            x[plus] = point.emf_v;
        }
        // Where supplies meet, the highest holds the outputs of the others.
        let mut held = if self.wiring.meetings.is_empty() { Vec::new() } else { vec![0.0; self.wiring.converters.len()] };
        let held_v = |held: &[f64], converter: usize| held.get(converter).copied().unwrap_or(0.0);
        for _ in 0..=2 * self.wiring.converters.len() + self.wiring.conductors.len() / 2 {
            let mut changed = false;
            let put = |x: &mut Vec<f64>, changed: &mut bool, node: Node, value: f64| {
                if let Some(index) = node
                    && x[index] != value
                {
                    x[index] = value;
                    *changed = true;
                }
            };
            for pair in self.wiring.conductors.chunks_exact(2) {
                let from = voltage(&x, pair[0].from);
                put(&mut x, &mut changed, pair[0].to, from);
            }
            for (index, net) in self.wiring.converters.iter().enumerate() {
                let (vin, part) = (voltage(&x, net.in_plus), &self.values.converters[index]);
                let out = match net.drives.map(|light| &self.values.laws[light]) {
                    _ if !modes.converters[index] => held_v(&held, index),
                    Some(Law::Strings { rows, .. }) if !rows.is_empty() => rows[0].string.voltage(rows[0].string.if_a).min(part.output_v(vin).value),
                    _ => part.output_v(vin).value.max(held_v(&held, index)),
                };
                put(&mut x, &mut changed, net.out_plus, out);
            }
            for meeting in &self.wiring.meetings {
                let offers = self.wiring.conductors[2 * meeting.feeds.start..2 * meeting.feeds.end].iter().step_by(2).map(|plus| voltage(&x, plus.from));
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
        for light in &self.wiring.lights {
            let start = voltage(&x, light.entry.0);
            for tap in &self.wiring.taps[light.taps.clone()] {
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
        let Network { wiring, values, work, .. } = self;
        let (f, m) = (&mut work.residual, &mut work.matrix);
        f.fill(0.0);
        m.clear();
        let mut kcl = |node: Node, amps: f64| {
            if let Some(index) = node {
                f[index] += amps;
            }
        };

        // Source: V + R I = E, with I flowing out of its plus.
        let i = x[wiring.source_branch];
        kcl(wiring.source_plus, load * point.standing_a - i);
        m.add(wiring.source_stamp.from_i, -1.0);
        m.add(wiring.source_stamp.eq_from, 1.0);
        m.add(wiring.source_stamp.eq_i, point.source_ohm);

        for (c, ohm) in wiring.conductors.iter().zip(&values.ohms) {
            let i = x[c.branch];
            kcl(c.from, i);
            kcl(c.to, -i);
            m.add(c.stamp.from_i, 1.0);
            m.add(c.stamp.to_i, -1.0);
            m.add(c.stamp.eq_from, 1.0);
            m.add(c.stamp.eq_to, -1.0);
            m.add(c.stamp.eq_i, -ohm);
        }
        for rail in &wiring.rails {
            let i = rail.siemens * (voltage(x, rail.a) - voltage(x, rail.b));
            kcl(rail.a, i);
            kcl(rail.b, -i);
            add_quad(m, &rail.quad, rail.siemens);
        }
        for &(feed, siemens) in &values.across {
            let (plus, minus) = (wiring.conductors[2 * feed].to, wiring.conductors[2 * feed + 1].from);
            let i = siemens * (voltage(x, plus) - voltage(x, minus));
            kcl(plus, i);
            kcl(minus, -i);
            add_quad(m, &wiring.across[feed], siemens);
        }
        for &(node, amps) in &values.injected {
            kcl(node, -amps);
        }
        for (index, light) in wiring.lights.iter().enumerate() {
            let lit = &point.lights[index];
            for tap in &wiring.taps[light.taps.clone()] {
                let v = voltage(x, tap.plus) - voltage(x, tap.minus);
                let (i, slope) = values.laws[index].current(lit, &tap.own, modes.lights[index], v, &mut Near::default());
                kcl(tap.plus, load * i);
                kcl(tap.minus, -load * i);
                add_quad(m, &tap.quad, load * slope);
            }
        }
        for (index, net) in wiring.converters.iter().enumerate() {
            let out_a = x[net.branch];
            kcl(net.out_plus, -out_a);
            m.add(net.stamp.out_i, -1.0);
            let minus = voltage(x, net.minus);
            let (vin, vout) = (voltage(x, net.in_plus) - minus, voltage(x, net.out_plus) - minus);
            let (input, d) = if modes.converters[index] {
                let input = values.converters[index].input_a(vin, vout, out_a);
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

        work.residual[wiring.source_branch] = voltage(x, wiring.source_plus) + point.source_ohm * x[wiring.source_branch] - point.emf_v;
        for (c, ohm) in wiring.conductors.iter().zip(&values.ohms) {
            work.residual[c.branch] = voltage(x, c.from) - voltage(x, c.to) - ohm * x[c.branch];
        }
        for (index, net) in wiring.converters.iter().enumerate() {
            let (value, d) = output_equation(net, &values.converters[index], modes.converters[index], point, x);
            work.residual[net.branch] = value;
            for (column, value) in d.into_iter().enumerate() {
                work.matrix.add(net.stamp.eq[column], value);
            }
        }
        for ladder in &wiring.ladders {
            let (law, lit) = (&values.laws[ladder.light], &point.lights[ladder.light]);
            ladder.assemble(law, lit, x, load, &mut work.residual, &mut work.elimination);
        }
    }

    /// The Newton step for what was assembled last, into `step`.
    fn find_step(&mut self) -> Result<(), matrix::SingularMatrix> {
        let Network { wiring, work, .. } = self;
        work.step.copy_from_slice(&work.residual);
        for ladder in &wiring.ladders {
            ladder.condense(&mut work.step, &mut work.matrix, &mut work.elimination);
        }
        work.matrix.solve(&mut work.step[..wiring.size])?;
        for ladder in &wiring.ladders {
            ladder.expand(&mut work.step, &work.elimination);
        }
        if work.step.iter().all(|s| s.is_finite()) { Ok(()) } else { Err(matrix::SingularMatrix) }
    }

    pub(super) fn worst_node(&self) -> (usize, f64) {
        // The equation of a cell is that of its plus less that of its minus.
        let cells = self.work.residual[self.wiring.size..].iter().map(|r| 0.5 * r.abs()).enumerate().map(|(index, r)| (self.wiring.size + index, r));
        let nodes = self.work.residual[..self.wiring.nodes].iter().map(|r| r.abs()).enumerate();
        nodes.chain(cells).fold((0, 0.0), |worst, here| if here.1 > worst.1 || here.1.is_nan() { here } else { worst })
    }

    pub(super) fn largest_current(&self, x: &[f64]) -> f64 {
        x[self.wiring.nodes..self.wiring.size].iter().fold(0.0, |most: f64, i| most.max(i.abs()))
    }

    /// The part that an unknown belongs to.
    fn place_of(&self, unknown: usize) -> String {
        let ladder = self.wiring.ladders.iter().find(|ladder| ladder.cells.contains(&unknown));
        ladder.map_or_else(|| self.wiring.places[unknown].clone(), |ladder| self.wiring.lights[ladder.light].id.clone())
    }

    /// Sum of squares of the residual, amps and volts alike.
    fn merit(&self) -> f64 {
        self.work.residual.iter().map(|r| r * r).sum()
    }

    fn within(&self, x: &[f64], (amps, share): (f64, f64)) -> bool {
        let limit = amps + share * self.largest_current(x);
        let volts = self.work.residual[self.wiring.nodes..self.wiring.size].iter().all(|r| r.abs() <= 1e-9);
        let cells = self.work.residual[self.wiring.size..].iter().all(|r| 0.5 * r.abs() <= limit);
        volts && cells && self.work.residual[..self.wiring.nodes].iter().all(|r| r.abs() <= limit)
    }

    /// Newton from `x`. The part with the worst balance is the error.
    pub(super) fn newton(&mut self, point: &Point, modes: &Modes, mut x: Vec<f64>, load: f64) -> Result<Vec<f64>, SolveError> {
        self.assemble(point, modes, &x, load);
        let mut merit = self.merit();
        for _ in 0..MAX_STEPS {
            if self.within(&x, self.work.close) {
                return Ok(x);
            }
            self.work.steps += 1;
            let cost = 40 * self.wiring.size + 2 * (x.len() - self.wiring.size);
            budget::spend(cost as u64).map_err(|why| self.stopped(why))?;
            if self.find_step().is_err() {
                break;
            }
            let longest = self.work.step.iter().fold(0.0, |most: f64, s| most.max(s.abs()));
            // A full step where it helps; shorter ones where the equations bend; the shortest is taken anyway,
            // to walk off a kink.
            let mut share = 1.0;
            loop {
                let mut trial = std::mem::take(&mut self.work.trial);
                for (index, value) in trial.iter_mut().enumerate() {
                    *value = x[index] - share * self.work.step[index];
                }
                self.assemble(point, modes, &trial, load);
                self.work.trial = trial;
                let next = self.merit();
                if next < merit || share < 0.02 || longest < STILL {
                    merit = next;
                    x.copy_from_slice(&self.work.trial);
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
        let converters = self.wiring.converters.iter().enumerate().filter(|(index, _)| modes.converters[*index]).map(|(index, net)| {
            let part = &self.values.converters[index];
            let (minus, plus) = (voltage(x, net.minus), voltage(x, net.in_plus));
            let input = part.input_a(plus - minus, voltage(x, net.out_plus) - minus, x[net.branch]);
            ((plus - minus) * input.value, &part.id)
        });
        let lamps = self.wiring.lights.iter().zip(&self.values.laws).filter_map(|(light, law)| match law {
            Law::Module(module) if module.draw == orthavis_model::document::Draw::ConstantPower => Some((module.power_w, &light.id)),
            _ => None,
        });
        let (_, place) = converters.chain(lamps).max_by(|a, b| a.0.total_cmp(&b.0))?;
        Some(SolveError::Overloaded { place: place.clone(), share })
    }
}

/// Residual of a converter's output branch and its slopes over in_plus, minus, out_plus, branch.
fn output_equation(net: &ConverterNet, part: &Converter, on: bool, point: &Point, x: &[f64]) -> (f64, [f64; 4]) {
    let out_a = x[net.branch];
    if !on {
        return (out_a, [0.0, 0.0, 0.0, 1.0]);
    }
    let minus = voltage(x, net.minus);
    let (vin, vout) = (voltage(x, net.in_plus) - minus, voltage(x, net.out_plus) - minus);
    let out = part.output_v(vin);
    let Conversion::CurrentDriver(driver) = &part.conversion else {
        // No converter takes current back: where another supply holds its output higher, it gives none.
        if net.meets_another && out_a * ONE_OHM < vout - out.value {
            return (out_a, [0.0, 0.0, 0.0, 1.0]);
        }
        return (vout - out.value, [-out.per_vin, out.per_vin - 1.0, 1.0, 0.0]);
    };
    let target = net.drives.map_or(0.0, |light| point.lights[light].level) * driver.set_a;
    if target == 0.0 {
        return (vout, [0.0, -1.0, 1.0, 0.0]);
    }
    // Whichever of current and voltage meets its limit first holds: the smaller slack is zero.
    let ohm = (vin / target).max(1e-3);
    let (current_slack, voltage_slack) = ((target - out_a) * ohm, out.value - vout);
    if current_slack < voltage_slack { (out_a - target, [0.0, 0.0, 0.0, 1.0]) } else { (vout - out.value, [-out.per_vin, out.per_vin - 1.0, 1.0, 0.0]) }
}

fn add_quad(m: &mut Matrix, quad: &Quad, siemens: f64) {
    m.add(quad.aa, siemens);
    m.add(quad.bb, siemens);
    m.add(quad.ab, -siemens);
    m.add(quad.ba, -siemens);
}
