//! A meter or a load clipped to two places.

use super::*;

impl Rig<'_> {
    /// Resistance between two places with the power off, ohm; `None`: more than a meter shows. The battery is off,
    /// converters rest, switches are closed; LEDs are met at the meter's test current.
    ///
    /// # Errors
    /// A place inside a string or a strip, which has no terminal to clip to.
    pub fn ohms(&self, from: Spot, to: Spot) -> Result<Option<f64>, BenchError> {
        self.driven_volts(from, to, OHMS_A, OHMS_V).map(|volts| volts.map(|volts| volts / OHMS_A).filter(|ohm| *ohm < MOST_OHM))
    }

    /// Voltage between two places of the dead circuit at a test current, V; `None` above `most_v`.
    ///
    /// # Errors
    /// As [`Self::ohms`].
    pub fn driven_volts(&self, from: Spot, to: Spot, amps: f64, most_v: f64) -> Result<Option<f64>, BenchError> {
        let mut network = self.network.fork();
        // A fork is as the document has it: the faults go in again.
        network.clone_values(&self.network);
        for (index, part) in self.opened.converters.iter().enumerate() {
            let mut part = part.clone();
            part.min_in_v = f64::INFINITY;
            network.change(&Change::Converter { index, part: Box::new(part) });
        }
        for (index, part) in stand_ins(&self.opened).enumerate() {
            let part = Converter { min_in_v: f64::INFINITY, ..part };
            network.change(&Change::Converter { index: self.opened.converters.len() + index, part: Box::new(part) });
        }
        // What has electronics in it sleeps at a meter's few volts.
        for (light, part) in self.opened.lights.iter().enumerate() {
            let asleep = match &part.load {
                Load::Module(module) => !matches!(module.draw, Draw::Resistive | Draw::Filament),
                Load::Pixels(_) => true,
                Load::LedArray(_) | Load::Strip(_) => false,
            };
            if asleep {
                network.change(&Change::Dead { light, ohm: OPEN_OHM });
            }
        }
        for feed in 0..self.opened.feeds().len() {
            network.change(&Change::Across { feed, ohm: OPEN_OHM });
        }
        let clips = (self.clip(from)?, self.clip(to)?);
        inject(&mut network, &clips, amps);
        let lights = self.opened.lights.iter().map(|_| Lit { level: 1.0, colour: [0.0; 3], each: None }).collect();
        let point = Point { emf_v: 0.0, source_ohm: 1e12, standing_a: 0.0, lights };
        let Ok(solution) = network.solve(&point, None) else { return Ok(None) };
        let volts = if from == to { 0.0 } else { between(&network, &solution, &clips, amps) };
        Ok(Some(volts).filter(|volts| volts.abs() <= most_v))
    }

    /// Voltage between two places of the circuit as it runs while an instrument draws a current out of the first into the
    /// second, V; `None` where the circuit cannot give it.
    ///
    /// # Errors
    /// As [`Self::ohms`].
    pub fn loaded_volts(&self, shot: &Shot, from: Spot, to: Spot, amps: f64) -> Result<Option<f64>, BenchError> {
        let mut network = self.network.fork();
        network.clone_values(&self.network);
        let clips = (self.clip(from)?, self.clip(to)?);
        inject(&mut network, &clips, -amps);
        let Ok(solution) = network.solve(&shot.point, Some(&shot.solution)) else { return Ok(None) };
        Ok(Some(between(&network, &solution, &clips, -amps)))
    }

    /// Where a test current goes in: a place along a wire is its two ends in proportion, with what lies between in series.
    pub(super) fn clip(&self, spot: Spot) -> Result<Clip, BenchError> {
        let one = |terminal| Ok(Clip { ends: vec![(terminal, 1.0)], ohm: 0.0, along: None });
        match spot {
            Spot::Source(side) => one(Terminal::Source(side)),
            Spot::From(feed, side) => one(Terminal::From(self.feeds[feed].0, side)),
            Spot::To(feed, side) => one(Terminal::To(self.feeds[feed].1, side)),
            Spot::In(index, side) => one(Terminal::In(index, side)),
            Spot::Out(index, side) => one(Terminal::Out(index, side)),
            Spot::After(feed, joint) => {
                let (before, after) = self.around(feed, joint);
                let index = self.feeds[feed].0;
                let all = (before + after).max(1e-12);
                let ends = vec![(Terminal::From(index, Side::Plus), after / all), (Terminal::To(index, Side::Plus), before / all)];
                Ok(Clip { ends, ohm: before * after / all, along: Some((feed, before, all)) })
            }
            Spot::String { .. } | Spot::Rail(..) => {
                let name = spot.name(self.plan);
                Err(BenchError::new(&name, format!("`{name}` is inside a light"), "Take resistance at the light's terminals; inside it take volts"))
            }
        }
    }
}

/// Where a test current goes in.
pub(super) struct Clip {
    /// Terminals, each with its part of the current.
    ends: Vec<(Terminal, f64)>,
    /// What lies between them and the place itself, ohm.
    ohm: f64,
    /// Of a place along a feed: the feed, the resistance before it, and all of it, ohm.
    along: Option<(usize, f64, f64)>,
}

/// Drives a current into the first place and out of the second, A.
pub(super) fn inject(network: &mut Network, (into, out_of): &(Clip, Clip), amps: f64) {
    for (clip, sign) in [(into, 1.0), (out_of, -1.0)] {
        for &(terminal, share) in &clip.ends {
            network.change(&Change::Inject { into: terminal, out_of: Terminal::Source(Side::Minus), amps: sign * amps * share });
        }
    }
}

/// Voltage between two places with such a current, V.
pub(super) fn between(network: &Network, solution: &Solution, (into, out_of): &(Clip, Clip), amps: f64) -> f64 {
    let at = |clip: &Clip| -> f64 { clip.ends.iter().map(|&(terminal, share)| share * network.potential(solution, terminal).unwrap_or(0.0)).sum::<f64>() };
    // Two places along one conductor share part of the way between its ends.
    let shared = match (into.along, out_of.along) {
        (Some((feed, a, all)), Some((other, b, _))) if feed == other => 2.0 * a.min(b) * (all - a.max(b)) / all,
        _ => 0.0,
    };
    at(into) - at(out_of) + amps * (into.ohm + out_of.ohm - shared)
}
