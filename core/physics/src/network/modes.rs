//! Which converters and modules run.
//!
//! Each of them is on or off by its own input voltage, which depends on who else is on. Those that could not start
//! even with nothing drawn anywhere are off for certain. From "all others on", those that cannot run are switched off
//! until the rest can: together, and where one of them could then start again, one by one; last, the network is
//! started from "all off". If a part that is off still sees a voltage at which it would start, there is no steady
//! state. Where something is off, the network is also started from "all off": a different outcome
//! means that it has several steady states, and no figure is given for either.

use super::*;

impl Network {
    /// Input voltage of the unit: converters first, then lights.
    fn unit_v(&self, x: &[f64], unit: usize) -> f64 {
        match unit.checked_sub(self.wiring.converters.len()) {
            None => voltage(x, self.wiring.converters[unit].in_plus) - voltage(x, self.wiring.converters[unit].minus),
            Some(light) => voltage(x, self.wiring.lights[light].entry.0) - voltage(x, self.wiring.lights[light].entry.1),
        }
    }

    fn can_run(&self, x: &[f64], unit: usize) -> bool {
        let v = self.unit_v(x, unit);
        match unit.checked_sub(self.wiring.converters.len()) {
            None => self.values.converters[unit].runs_at(v),
            Some(light) => match &self.values.laws[light] {
                Law::Module(module) => module.runs_at(v),
                _ => true,
            },
        }
    }

    /// How near to its range the input of a unit is that cannot run: 1 at its edge, 0 far away.
    fn fit(&self, x: &[f64], unit: usize) -> f64 {
        let v = self.unit_v(x, unit);
        let (least, most) = match unit.checked_sub(self.wiring.converters.len()) {
            None => (self.values.converters[unit].min_in_v, f64::INFINITY),
            Some(light) => match &self.values.laws[light] {
                Law::Module(module) => (module.min_v, module.max_v),
                _ => return 1.0,
            },
        };
        if v < least { v / least } else { most / v }
    }

    /// Whether the input is below what the unit starts at.
    fn too_low(&self, x: &[f64], unit: usize) -> bool {
        let v = self.unit_v(x, unit);
        match unit.checked_sub(self.wiring.converters.len()) {
            None => !self.values.converters[unit].runs_at(v),
            Some(light) => match &self.values.laws[light] {
                Law::Module(module) => v < module.max_v && !module.runs_at(v),
                _ => false,
            },
        }
    }

    /// Everything on but what no voltage in the unloaded network could start; drawing current only lowers it.
    fn hopeful(&self, point: &Point, units: &[usize]) -> Modes {
        let count = self.wiring.converters.len();
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
        let windowed = |law: &Law| matches!(law, Law::Module(module) if module.has_window());
        let modules = self.values.laws.iter().enumerate().filter(|(index, law)| point.lights[*index].level > 0.0 && windowed(law));
        (0..self.wiring.converters.len()).chain(modules.map(|(index, _)| index + self.wiring.converters.len())).collect()
    }

    fn depth(&self, unit: usize) -> usize {
        self.wiring.converters.get(unit).map_or(usize::MAX, |net| net.depth)
    }

    fn place(&self, unit: usize) -> String {
        match unit.checked_sub(self.wiring.converters.len()) {
            None => self.wiring.converters[unit].id.clone(),
            Some(light) => self.wiring.lights[light].id.clone(),
        }
    }

    fn all(&self, on: bool, units: &[usize]) -> Modes {
        let mut modes = Modes { converters: vec![true; self.wiring.converters.len()], lights: vec![true; self.wiring.lights.len()] };
        for unit in units {
            *modes.of(self.wiring.converters.len(), *unit) = on;
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

/// Units up to which every choice of what runs is tried where the usual ways find none.
const TRIED_ALL: usize = 8;

/// A part that switches without end is an error, or with `rests` counts as off.
pub(super) fn settle(net: &mut Network, point: &Point, near: Option<&Solution>, rests: bool) -> Result<Solution, SolveError> {
    let units = net.units(point);
    match walk(net, point, &units, near, rests) {
        Err(error) if error.is_unfinished() || matches!(error, SolveError::Several { .. }) => Err(error),
        Err(error) if units.len() <= TRIED_ALL => only_balance(net, point, &units).unwrap_or(Err(error)),
        outcome => outcome,
    }
}

/// Of every choice of what runs, the one that agrees with its own voltages; `None` where there is none.
fn only_balance(net: &mut Network, point: &Point, units: &[usize]) -> Option<Result<Solution, SolveError>> {
    let count = net.wiring.converters.len();
    let mut found: Option<Solution> = None;
    for choice in (0..1u32 << units.len()).rev() {
        let mut modes = net.all(false, units);
        for (bit, unit) in units.iter().enumerate() {
            *modes.of(count, *unit) = choice >> bit & 1 == 1;
        }
        // Nothing runs behind a converter at rest.
        let start = net.nominal(point, &modes);
        if units.iter().any(|unit| modes.on(count, *unit) && net.too_low(&start, *unit)) {
            continue;
        }
        let x = match net.newton(point, &modes, start, 1.0) {
            Ok(x) => x,
            Err(error) if error.is_unfinished() => return Some(Err(error)),
            Err(_) => continue,
        };
        if units.iter().any(|unit| modes.on(count, *unit) != net.can_run(&x, *unit)) {
            continue;
        }
        if let Some(first) = &found {
            let differs = units.iter().copied().find(|unit| modes.on(count, *unit) != first.modes.on(count, *unit)).unwrap_or_default();
            return Some(Err(SolveError::Several { place: net.place(differs) }));
        }
        found = Some(Solution { x, modes });
    }
    found.map(Ok)
}

/// [`settle`] by switching off what cannot run.
fn walk(net: &mut Network, point: &Point, units: &[usize], near: Option<&Solution>, rests: bool) -> Result<Solution, SolveError> {
    let count = net.wiring.converters.len();
    let Descent { mut x, mut modes, mut sagged } = descend(net, point, units, near, false)?;
    let hunts = |net: &Network, x: &[f64], sagged: &[(usize, f64)]| sagged.iter().copied().find(|(unit, _)| net.can_run(x, *unit));
    if let Some((unit, running_v)) = hunts(net, &x, &sagged) {
        let resting_v = net.unit_v(&x, unit);
        let resting = Solution { x: x.clone(), modes: modes.clone() };
        // Parts that sag together were switched off together; one of them may be able to run without the other.
        Descent { x, modes, sagged } = descend(net, point, units, near, true)?;
        if hunts(net, &x, &sagged).is_some() {
            return match start_up(net, point, units) {
                Some(started) => Ok(Solution { x: net.newton_or_continue(point, &started, None)?, modes: started }),
                None if rests => Ok(resting),
                None => Err(SolveError::Hunting { place: net.place(unit), running_v, resting_v }),
            };
        }
    }
    // On the way down a part that may or may not start runs: either way it is past that band soon.
    if !sagged.is_empty()
        && !rests
        && let Some(started) = start_up(net, point, units)
        && let Some(unit) = units.iter().copied().find(|unit| started.on(count, *unit) != modes.on(count, *unit))
    {
        return Err(SolveError::Several { place: net.place(unit) });
    }
    Ok(Solution { x, modes })
}

/// What runs once all that cannot is switched off.
struct Descent {
    x: Vec<f64>,
    modes: Modes,
    /// The running input of each unit that had to be switched off, V.
    sagged: Vec<(usize, f64)>,
}

/// From everything on that might run, switches off what cannot: those nearest to the source together, or of these
/// only the one that is furthest out of its range.
fn descend(net: &mut Network, point: &Point, units: &[usize], near: Option<&Solution>, singly: bool) -> Result<Descent, SolveError> {
    let count = net.wiring.converters.len();
    let mut modes = net.hopeful(point, units);
    let mut sagged = Vec::new();
    loop {
        let start = near.filter(|near| near.modes == modes).map(|near| near.x.as_slice());
        let x = net.newton_or_continue(point, &modes, start)?;
        let mut stuck: Vec<usize> = units.iter().copied().filter(|unit| modes.on(count, *unit) && !net.can_run(&x, *unit)).collect();
        let Some(first) = stuck.iter().map(|unit| net.depth(*unit)).min() else { return Ok(Descent { x, modes, sagged }) };
        stuck.retain(|unit| net.depth(*unit) == first);
        if singly {
            stuck.sort_by(|a, b| net.fit(&x, *a).total_cmp(&net.fit(&x, *b)));
            stuck.truncate(1);
        }
        for unit in stuck {
            sagged.push((unit, net.unit_v(&x, unit)));
            *modes.of(count, unit) = false;
        }
    }
}

/// What runs when everything starts from rest; `None` when that does not settle.
fn start_up(net: &mut Network, point: &Point, units: &[usize]) -> Option<Modes> {
    let count = net.wiring.converters.len();
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
