//! A circuit at a state, followed: what every kind is measured by.

use super::fed::Site;
use super::figures::CircuitError;
use super::schematic::Schematic;
use crate::transient::{Accuracy, Run, TransientError};
use orthavis_model::states::State;
use std::cell::Cell;

/// How long a flasher is followed, and how much of that is measured.
#[derive(Clone, Copy)]
pub(super) struct Pace {
    /// Periods of its formula that are followed.
    pub(super) periods: f64,
    /// Periods that are measured.
    pub(super) measured: usize,
    /// Flashes after which it is enough.
    pub(super) flashes: Option<usize>,
    /// Where its halves take some periods until they repeat: flashes, times as long at most, and periods measured.
    pub(super) settling: Option<(usize, f64, usize)>,
}

impl Pace {
    pub(super) const USUAL: Pace = Pace { periods: 6.0, measured: 3, flashes: None, settling: None };
}

/// Lines that measure a circuit in SPICE text, how long that runs, and its longest step, s.
pub(super) struct Measures {
    pub(super) lines: Vec<String>,
    pub(super) stop_s: f64,
    pub(super) longest_s: f64,
}

impl Measures {
    /// Of what stands still: its current, and what else is asked for.
    pub(super) fn at_rest(following: &Following<'_>, more: &[(&str, &str)]) -> Measures {
        let stop_s = following.pace.periods * following.schematic.period_s;
        let at = 0.5 * stop_s;
        let mut lines = vec![format!(".meas tran supply_a FIND i(Vsupply) AT={at:e}"), ".meas tran supply_mean_a param='-supply_a'".into()];
        lines.extend(more.iter().map(|(name, what)| format!(".meas tran {name} FIND {what} AT={at:e}")));
        Measures { lines, stop_s, longest_s: f64::INFINITY }
    }
}

/// A circuit at a state, with what it hangs on and what it drives.
pub(super) struct Following<'a> {
    pub(super) site: Site<'a>,
    pub(super) schematic: Schematic,
    pub(super) state: State,
    pub(super) accuracy: Accuracy,
    /// Flashes that are followed, where somebody says how many.
    pub(super) flashes: Option<u32>,
    /// As its kind has it.
    pub(super) pace: Pace,
}

impl Following<'_> {
    pub(super) fn failed(&self, error: TransientError) -> CircuitError {
        CircuitError::Transient { circuit: self.site.own.id.clone(), error }
    }

    pub(super) fn dead(&self, why: String) -> CircuitError {
        CircuitError::DoesNotRun { circuit: self.site.own.id.clone(), state: self.state.phrase(), why }
    }

    /// How it is followed: a flasher of unequal halves until they repeat, unless only a sketch is wanted.
    pub(super) fn pace(&self) -> Pace {
        if self.accuracy == Accuracy::Sketch { Pace { settling: None, ..self.pace } } else { self.pace }
    }

    /// Its waveforms over some periods; of a hold-up, while there is no contact.
    ///
    /// # Errors
    /// When it cannot be followed.
    pub(super) fn run(&self) -> Result<Run<'_>, CircuitError> {
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
}
