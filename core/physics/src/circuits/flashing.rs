//! What flashers have in common.

use super::figures::{CircuitError, CircuitFigures, Formula, Spread};
use super::following::{Following, Measures};
use crate::transient::{Run, Trace};
use orthavis_model::practice::{ELECTROLYTIC_F, ELECTROLYTIC_OFF, FILM_OFF};

/// What moves less than this does not swing, V.
const SWING_V: f64 = 0.1;
/// Below this a transistor that is on is saturated, V.
pub(super) use orthavis_model::practice::SATURATED_BELOW_V;

/// What is printed on a capacitor, and what it may have.
pub(super) fn off(farad: f64, up: bool) -> f64 {
    match (farad >= ELECTROLYTIC_F, up) {
        (true, true) => 1.0 + ELECTROLYTIC_OFF.1,
        (true, false) => 1.0 - ELECTROLYTIC_OFF.0,
        (false, true) => 1.0 + FILM_OFF,
        (false, false) => 1.0 - FILM_OFF,
    }
}

/// The part of a trace from one moment to another.
fn cut(trace: Trace, [from, to]: [f64; 2]) -> Trace {
    let cut = trace.from(from);
    let keep = cut.time_s.partition_point(|time| *time <= to);
    Trace { time_s: cut.time_s[..keep].to_vec(), value: cut.value[..keep].to_vec() }
}

/// A run over whole flashes.
pub(super) struct Flashes<'a> {
    run: &'a Run<'a>,
    span: [f64; 2],
}

impl Flashes<'_> {
    pub(super) fn node(&self, name: &str) -> Trace {
        cut(self.run.node(name), self.span)
    }

    pub(super) fn current(&self, part: &str) -> Trace {
        cut(self.run.current(part), self.span)
    }
}

impl Following<'_> {
    /// Whole periods that are measured.
    fn measured(&self) -> usize {
        let pace = self.pace();
        pace.settling.map_or(pace.measured, |(_, _, measured)| measured)
    }

    /// The voltage of the watched node that parts on from off. Where a capacitor does not fill again in the time of the other
    /// half the node never comes to where it is expected; then it is the middle of how far it does.
    fn level_v(&self, run: &Run<'_>) -> f64 {
        let (watched, expected) = (run.node(&self.schematic.watched), self.schematic.level_v);
        if watched.crossings(expected, true).len() >= 2 {
            return expected;
        }
        let late = watched.from(0.5 * watched.span_s());
        let (least, most) = (late.least(), late.peak());
        if most - least > SWING_V { 0.5 * (least + most) } else { expected }
    }

    /// What is told of a flasher that was followed; `more` adds what only its kind has.
    pub(super) fn flashes(&self, run: &Run<'_>, more: impl FnOnce(&Flashes<'_>, &mut CircuitFigures)) -> Result<CircuitFigures, CircuitError> {
        let (watched, level) = (run.node(&self.schematic.watched), self.level_v(run));
        let Some((period_s, high_s, span)) = watched.swings(level, self.measured()) else {
            return Err(self.dead("it does not swing; check that it gets the voltage its parts need".into()));
        };
        let on_s = if self.schematic.on_when_low { period_s - high_s } else { high_s };
        let whole = Flashes { run, span };
        let supply = whole.current("supply");
        let light_peak_a = self.schematic.lights.iter().map(|name| whole.current(name).peak()).fold(0.0, f64::max);
        let mut found = CircuitFigures {
            period_s: Some(period_s),
            on_s: Some(on_s),
            duty: Some(on_s / period_s),
            supply_mean_a: Some(supply.mean()),
            supply_peak_a: Some(supply.peak()),
            light_peak_a: (!self.schematic.lights.is_empty()).then_some(light_peak_a),
            ..CircuitFigures::default()
        };
        if let Some(collector) = &self.schematic.collector {
            let least = whole.node(collector).least();
            found.drop_v = Some(least);
            found.saturated = Some(least < SATURATED_BELOW_V);
        }
        more(&whole, &mut found);
        Ok(found)
    }

    /// Measurements of one flash.
    pub(super) fn flash_measures(&self) -> Result<Measures, CircuitError> {
        let (run, s) = (self.run()?, &self.schematic);
        let watched = run.node(&s.watched);
        let level = self.level_v(&run);
        let ups = watched.crossings(level, true);
        let (Some(third), Some((length, high, _))) = (ups.get(1), watched.swings(level, self.measured())) else {
            return Err(self.dead("it does not swing".into()));
        };
        // From before a rise, while it is still low.
        let from = third - 0.4 * (length - high);
        let node = &s.watched;
        let edge = |what: &str, which: usize| format!("v({node}) VAL={level:e} TD={from:e} {what}={which}");
        let on = if s.on_when_low { (edge("FALL", 1), edge("RISE", 2)) } else { (edge("RISE", 1), edge("FALL", 1)) };
        let lines = vec![
            format!(".meas tran period_s TRIG {} TARG {}", edge("RISE", 1), edge("RISE", 2)),
            format!(".meas tran on_raw_s TRIG {} TARG {}", on.0, on.1),
            // Where it swings a little sooner or later than here, the two edges may be of different periods.
            ".meas tran duty param='on_raw_s/period_s-floor(on_raw_s/period_s)'".into(),
            ".meas tran on_s param='duty*period_s'".into(),
            format!(".meas tran drawn AVG i(Vsupply) FROM={from:e} TO={:e}", from + length),
            ".meas tran supply_mean_a param='-drawn'".into(),
        ];
        let stop_s = from + self.flashes.map_or(2.5, |flashes| f64::from(flashes) + 0.5) * length;
        // A simulator that switches at the end of a step needs short ones.
        Ok(Measures { lines, stop_s, longest_s: high.min(length - high) / 100.0 })
    }
}

/// The period at both edges of all parts.
pub(super) fn period_spread(low: &CircuitFigures, high: &CircuitFigures) -> Vec<Spread> {
    let (Some(least), Some(most)) = (low.period_s, high.period_s) else { return Vec::new() };
    vec![Spread { figure: "period_s", called: "from one flash to the next", least, most, unit: "s" }]
}

/// The formulas of a flasher: of its period and of its time on.
pub(super) fn flash_formulas(found: &CircuitFigures, period: (&'static str, f64), on: (&'static str, f64), why: &'static str) -> Vec<Formula> {
    let line = |called, formula, value, simulated: Option<f64>| simulated.map(|simulated| Formula { called, formula, value, simulated, unit: "s", why });
    [line("From one flash to the next", period.0, period.1, found.period_s), line("Of that on", on.0, on.1, found.on_s)].into_iter().flatten().collect()
}

/// Whether a kind flashes and is followed as a flasher.
pub(super) fn starts<'a>(following: &'a Following<'_>) -> Result<Run<'a>, CircuitError> {
    match &following.schematic.cannot_start {
        Some(why) => Err(following.dead(why.clone())),
        None => following.run(),
    }
}
