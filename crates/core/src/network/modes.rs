//! Which converters and modules run.
//!
//! Each of them is on or off by its own input voltage, which depends on who else is on. Those that could not start
//! even with nothing drawn anywhere are off for certain. From "all others on", those that cannot run are switched off
//! until the rest can. A part that is off but sees a voltage at which it would start
//! has no steady state. Where something is off, the network is also started from "all off": a different outcome
//! means that it has several steady states, and no figure is given for either.

use super::*;

impl Network {
    /// Input voltage of the unit: converters first, then lights.
    fn unit_v(&self, x: &[f64], unit: usize) -> f64 {
        match unit.checked_sub(self.converters.len()) {
            None => voltage(x, self.converters[unit].in_plus) - voltage(x, self.converters[unit].minus),
            Some(light) => voltage(x, self.lights[light].entry.0) - voltage(x, self.lights[light].entry.1),
        }
    }

    fn can_run(&self, x: &[f64], unit: usize) -> bool {
        let v = self.unit_v(x, unit);
        match unit.checked_sub(self.converters.len()) {
            None => self.converters[unit].part.runs_at(v),
            Some(light) => match &self.lights[light].law {
                Law::Module(module) => module.runs_at(v),
                _ => true,
            },
        }
    }

    /// Whether the input is below what the unit starts at.
    fn too_low(&self, x: &[f64], unit: usize) -> bool {
        let v = self.unit_v(x, unit);
        match unit.checked_sub(self.converters.len()) {
            None => !self.converters[unit].part.runs_at(v),
            Some(light) => match &self.lights[light].law {
                Law::Module(module) => v < module.max_v && !module.runs_at(v),
                _ => false,
            },
        }
    }

    /// Everything on but what no voltage in the unloaded network could start; drawing current only lowers it.
    fn hopeful(&self, point: &Point, units: &[usize]) -> Modes {
        let count = self.converters.len();
        let mut modes = self.all(true, units);
        loop {
            let x = self.nominal(point, &modes);
            let hopeless: Vec<usize> = units.iter().copied().filter(|unit| modes.on(count, *unit) && self.too_low(&x, *unit)).collect();
            if hopeless.is_empty() {
                return modes;
            }
            for unit in hopeless {
                *modes.of(count, unit) = false;
            }
        }
    }

    /// Units that can switch, for this point.
    fn units(&self, point: &Point) -> Vec<usize> {
        let modules = self
            .lights
            .iter()
            .enumerate()
            .filter(|(index, light)| point.lights[*index].level > 0.0 && matches!(&light.law, Law::Module(module) if module.has_window()));
        (0..self.converters.len()).chain(modules.map(|(index, _)| index + self.converters.len())).collect()
    }

    fn depth(&self, unit: usize) -> usize {
        self.converters.get(unit).map_or(usize::MAX, |net| net.depth)
    }

    fn place(&self, unit: usize) -> String {
        match unit.checked_sub(self.converters.len()) {
            None => self.converters[unit].part.id.clone(),
            Some(light) => self.lights[light].id.clone(),
        }
    }

    fn all(&self, on: bool, units: &[usize]) -> Modes {
        let mut modes = Modes { converters: vec![true; self.converters.len()], lights: vec![true; self.lights.len()] };
        for unit in units {
            *modes.of(self.converters.len(), *unit) = on;
        }
        modes
    }
}

impl Modes {
    fn of(&mut self, converters: usize, unit: usize) -> &mut bool {
        match unit.checked_sub(converters) {
            None => &mut self.converters[unit],
            Some(light) => &mut self.lights[light],
        }
    }

    fn on(&self, converters: usize, unit: usize) -> bool {
        match unit.checked_sub(converters) {
            None => self.converters[unit],
            Some(light) => self.lights[light],
        }
    }
}

pub(super) fn settle(net: &mut Network, point: &Point, near: Option<&Solution>) -> Result<Solution, SolveError> {
    let units = net.units(point);
    let count = net.converters.len();
    let mut modes = net.hopeful(point, &units);
    // The running input of each unit that had to be switched off, for the message.
    let mut sagged: Vec<(usize, f64)> = Vec::new();
    let mut x;
    loop {
        let start = near.filter(|near| near.modes == modes).map(|near| near.x.as_slice());
        x = net.newton_or_continue(point, &modes, start)?;
        let stuck: Vec<usize> = units.iter().copied().filter(|unit| modes.on(count, *unit) && !net.can_run(&x, *unit)).collect();
        let Some(first) = stuck.iter().map(|unit| net.depth(*unit)).min() else { break };
        for unit in stuck.into_iter().filter(|unit| net.depth(*unit) == first) {
            sagged.push((unit, net.unit_v(&x, unit)));
            *modes.of(count, unit) = false;
        }
    }
    if let Some((unit, running_v)) = sagged.iter().copied().find(|(unit, _)| net.can_run(&x, *unit)) {
        return Err(SolveError::Hunting { place: net.place(unit), running_v, resting_v: net.unit_v(&x, unit) });
    }
    if !sagged.is_empty()
        && let Some(started) = start_up(net, point, &units)
        && let Some(unit) = units.iter().copied().find(|unit| started.on(count, *unit) != modes.on(count, *unit))
    {
        return Err(SolveError::Several { place: net.place(unit) });
    }
    Ok(Solution { x, modes })
}

/// What runs when everything starts from rest; `None` when that does not settle.
fn start_up(net: &mut Network, point: &Point, units: &[usize]) -> Option<Modes> {
    let count = net.converters.len();
    let mut modes = net.all(false, units);
    for _ in 0..=units.len() {
        let x = net.newton_or_continue(point, &modes, None).ok()?;
        if units.iter().any(|unit| modes.on(count, *unit) && !net.can_run(&x, *unit)) {
            return None;
        }
        let ready: Vec<usize> = units.iter().copied().filter(|unit| !modes.on(count, *unit) && net.can_run(&x, *unit)).collect();
        if ready.is_empty() {
            return Some(modes);
        }
        for unit in ready {
            *modes.of(count, unit) = true;
        }
    }
    None
}
