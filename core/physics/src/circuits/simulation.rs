//! A circuit at a state, followed.

use super::fed::{Fed, Site};
use super::figures::{CircuitError, CircuitFigures};
use super::flashing;
use super::following::{Following, Measures};
use super::kind::{self, Kind};
use crate::transient::{Accuracy, Circuit, Run, Trace};
use orthavis_model::document::Build;
use orthavis_model::states::State;

/// A circuit at a state, with what it hangs on, what it drives, and the kind that it is.
pub struct Simulation<'a> {
    following: Following<'a>,
    kind: &'a dyn Kind,
}

impl<'a> Simulation<'a> {
    /// The circuit of a place in the document.
    pub fn of(build: &'a Build, index: usize, state: State) -> Self {
        let own = &build.circuits[index];
        let site = Site::of(build, own, Fed::of(build, own, state));
        let kind = kind::of(&own.parts);
        let schematic = kind.schematic(&site);
        let following = Following { site, schematic, state, accuracy: Accuracy::Full, flashes: None, pace: kind.pace() };
        Simulation { following, kind }
    }

    /// The same, followed more or less closely.
    pub fn to(mut self, accuracy: Accuracy) -> Self {
        if accuracy == Accuracy::Sketch {
            self.kind.sketched(&mut self.following.schematic.circuit);
        }
        self.following.accuracy = accuracy;
        self
    }

    /// The same, a flasher over so many flashes.
    pub fn over(mut self, flashes: Option<u32>) -> Self {
        self.following.flashes = flashes;
        self
    }

    /// What it is simulated as.
    pub fn circuit(&self) -> &Circuit {
        &self.following.schematic.circuit
    }

    /// Its waveforms over some periods; of a hold-up, while there is no contact.
    ///
    /// # Errors
    /// When it cannot be followed.
    pub fn run(&self) -> Result<Run<'_>, CircuitError> {
        self.following.run()
    }

    /// Everything that is told of it, and its waveforms, followed once for both where one run shows both.
    ///
    /// # Errors
    /// When it does not run at this state, or cannot be followed.
    pub fn followed(&self) -> Result<(CircuitFigures, Run<'_>), CircuitError> {
        if !self.following.site.own.kind().flashes() {
            return Ok((self.figures()?, self.run()?));
        }
        let run = flashing::starts(&self.following)?;
        Ok((self.kind.of_run(&self.following, &run)?, run))
    }

    /// What is drawn of it: names and waveforms.
    pub fn shown(&self, run: &Run<'_>) -> Vec<(String, Trace)> {
        let nodes = run.circuit.nodes.iter().skip(1).map(|name| (format!("{name}_v"), run.node(name)));
        let lights = self.following.schematic.lights.iter().map(|name| (format!("{name}_a"), run.current(name)));
        nodes.chain(lights).chain([("supply_a".to_owned(), run.current("supply"))]).collect()
    }

    /// Everything that is told of it.
    ///
    /// # Errors
    /// When it does not run at this state, or cannot be followed.
    pub fn figures(&self) -> Result<CircuitFigures, CircuitError> {
        self.kind.figures(&self.following)
    }

    /// As SPICE text, whose measurements have the names of the figures.
    ///
    /// # Errors
    /// When it does not run at this state.
    pub fn spice(&self, title: &str) -> Result<String, CircuitError> {
        let Measures { lines, stop_s, longest_s } = self.kind.measures(&self.following)?;
        Ok(self.following.schematic.circuit.spice(title, stop_s, longest_s.min(stop_s / 4000.0), &lines))
    }
}
