//! A circuit at a state, followed.

use super::fed::{Fed, Site};
use super::kind::{self, Kind};
use super::schematic::Schematic;
use super::{CircuitError, CircuitFigures, flashing};
use crate::transient::{Accuracy, Circuit, Run, Trace, TransientError};
use orthavis_model::document::Build;
use orthavis_model::states::State;
use std::cell::Cell;

/// A circuit at a state, with what it hangs on and what it drives.
pub struct Simulation<'a> {
    pub(super) site: Site<'a>,
    pub(super) schematic: Schematic,
    state: State,
    accuracy: Accuracy,
    /// Flashes that are followed, where somebody says how many.
    flashes: Option<u32>,
}

/// Lines that measure a circuit in SPICE text, how long that runs, and its longest step, s.
pub(super) struct Measures {
    pub(super) lines: Vec<String>,
    pub(super) stop_s: f64,
    pub(super) longest_s: f64,
}

impl Measures {
    /// Of what stands still: its current, and what else is asked for.
    pub(super) fn at_rest(simulation: &Simulation<'_>, more: &[(&str, &str)]) -> Measures {
        let stop_s = simulation.kind().pace().periods * simulation.schematic.period_s;
        let at = 0.5 * stop_s;
        let mut lines = vec![format!(".meas tran supply_a FIND i(Vsupply) AT={at:e}"), ".meas tran supply_mean_a param='-supply_a'".into()];
        lines.extend(more.iter().map(|(name, what)| format!(".meas tran {name} FIND {what} AT={at:e}")));
        Measures { lines, stop_s, longest_s: f64::INFINITY }
    }
}

impl<'a> Simulation<'a> {
    /// The circuit of a place in the document.
    pub fn of(build: &'a Build, index: usize, state: State) -> Self {
        let own = &build.circuits[index];
        let site = Site::of(build, own, Fed::of(build, own, state));
        let schematic = kind::of(&own.parts).schematic(&site);
        Simulation { site, schematic, state, accuracy: Accuracy::Full, flashes: None }
    }

    pub(super) fn kind(&self) -> &'a dyn Kind {
        kind::of(&self.site.own.parts)
    }

    /// The same, followed more or less closely.
    pub fn to(mut self, accuracy: Accuracy) -> Self {
        if accuracy == Accuracy::Sketch {
            self.kind().sketched(&mut self.schematic.circuit);
        }
        Simulation { accuracy, ..self }
    }

    /// The same, a flasher over so many flashes.
    pub fn over(self, flashes: Option<u32>) -> Self {
        Simulation { flashes, ..self }
    }

    pub(super) fn is_sketch(&self) -> bool {
        self.accuracy == Accuracy::Sketch
    }

    pub(super) fn flashes_wanted(&self) -> Option<u32> {
        self.flashes
    }

    pub(super) fn failed(&self, error: TransientError) -> CircuitError {
        CircuitError::Transient { circuit: self.site.own.id.clone(), error }
    }

    pub(super) fn dead(&self, why: String) -> CircuitError {
        CircuitError::DoesNotRun { circuit: self.site.own.id.clone(), state: self.state.phrase(), why }
    }

    /// What it is simulated as.
    pub fn circuit(&self) -> &Circuit {
        &self.schematic.circuit
    }

    /// Its waveforms over some periods; of a hold-up, while there is no contact.
    ///
    /// # Errors
    /// When it cannot be followed.
    pub fn run(&self) -> Result<Run<'_>, CircuitError> {
        let (pace, scale) = (self.pace(), self.schematic.period_s);
        let stop = scale * self.flashes.map_or(pace.periods, |flashes| f64::from(flashes) + 1.2);
        let circuit = &self.schematic.circuit;
        let watched = circuit.nodes.iter().position(|node| *node == self.schematic.watched).unwrap_or(0);
        // What flashes sooner than its formula says is done after that many flashes.
        let most = pace.flashes.map_or(usize::MAX, |most| self.flashes.map_or(most, |flashes| flashes as usize + 1));
        let settling = pace.settling.filter(|_| self.flashes.is_none());
        let (most, longest) = settling.map_or((most, stop), |(flashes, times, _)| (flashes, times * stop));
        let seen = Cell::new((0, true));
        let enough = |time_s: f64, x: &[f64]| {
            let (flashes, was_high) = seen.get();
            let high = x[watched] > self.schematic.level_v;
            seen.set((flashes + usize::from(high && !was_high), high));
            // One that does not swing is not waited for.
            seen.get().0 >= most || (settling.is_some() && seen.get().0 < 2 && time_s > stop)
        };
        circuit.run_to(self.accuracy, longest, scale, &enough).map_err(|error| self.failed(error))
    }

    /// Everything that is told of it, and its waveforms, followed once for both where one run shows both.
    ///
    /// # Errors
    /// When it does not run at this state, or cannot be followed.
    pub fn followed(&self) -> Result<(CircuitFigures, Run<'_>), CircuitError> {
        if !self.site.own.kind().flashes() {
            return Ok((self.figures()?, self.run()?));
        }
        let run = flashing::starts(self)?;
        Ok((self.kind().of_run(self, &run)?, run))
    }

    /// What is drawn of it: names and waveforms.
    pub fn shown(&self, run: &Run<'_>) -> Vec<(String, Trace)> {
        let nodes = run.circuit.nodes.iter().skip(1).map(|name| (format!("{name}_v"), run.node(name)));
        let lights = self.schematic.lights.iter().map(|name| (format!("{name}_a"), run.current(name)));
        nodes.chain(lights).chain([("supply_a".to_owned(), run.current("supply"))]).collect()
    }

    /// Everything that is told of it.
    ///
    /// # Errors
    /// When it does not run at this state, or cannot be followed.
    pub fn figures(&self) -> Result<CircuitFigures, CircuitError> {
        self.kind().figures(self)
    }

    /// As SPICE text, whose measurements have the names of the figures.
    ///
    /// # Errors
    /// When it does not run at this state.
    pub fn spice(&self, title: &str) -> Result<String, CircuitError> {
        let Measures { lines, stop_s, longest_s } = self.kind().measures(self)?;
        Ok(self.schematic.circuit.spice(title, stop_s, longest_s.min(stop_s / 4000.0), &lines))
    }
}
