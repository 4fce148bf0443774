//! The laws by which the taps of a light draw.

use orthavis_model::document::{Module, Pixels};
use orthavis_model::laws::led::{DiodeString, Near};
use orthavis_model::states::Lit;

/// The law by which a light's taps draw.
#[derive(Clone, Debug)]
pub(super) enum Law {
    Strings {
        rows: Vec<Row>,
        if_a: f64,
        parallel: f64,
        driven: bool,
    },
    Segments(DiodeString),
    Pixels(Pixels),
    Module(Module),
    /// It blocks but for a leak, S.
    Dead(f64),
}

/// Strings of an LED array that are alike.
#[derive(Clone, Debug)]
pub(super) struct Row {
    pub(super) string: DiodeString,
    pub(super) count: f64,
}

impl Law {
    /// Current of taps at one place, A, and its slope, S.
    #[inline]
    pub(super) fn current(&self, lit: &Lit, taps: &std::ops::Range<usize>, runs: bool, voltage_v: f64, near: &mut Near) -> (f64, f64) {
        if lit.each.is_some() && matches!(self, Law::Pixels(_)) {
            return taps.clone().fold((0.0, 0.0), |(current, slope), tap| {
                let (more, steeper) = self.current_near(lit, tap, runs, voltage_v, near);
                (current + more, slope + steeper)
            });
        }
        let (current, slope) = self.current_near(lit, taps.start, runs, voltage_v, near);
        let count = taps.len() as f64;
        (count * current, count * slope)
    }

    /// Current of one tap, A, and its slope, S; `near` is for taps side by side.
    #[inline]
    fn current_near(&self, lit: &Lit, tap: usize, runs: bool, voltage_v: f64, near: &mut Near) -> (f64, f64) {
        match self {
            Law::Strings { rows, driven, .. } => {
                // A driver sets the current itself; its level is not pulsed at the array.
                let level = if *driven { 1.0 } else { lit.level };
                if level == 0.0 {
                    return (0.0, 0.0);
                }
                rows.iter().fold((0.0, 0.0), |(sum, steep), row| {
                    let (current, slope) = row.string.current(voltage_v);
                    (sum + level * row.count * current, steep + level * row.count * slope)
                })
            }
            Law::Segments(string) => {
                if lit.level == 0.0 {
                    return (0.0, 0.0);
                }
                let (current, slope) = string.current_near(voltage_v, near);
                (lit.level * current, lit.level * slope)
            }
            Law::Pixels(pixels) => {
                let (current, slope, _) = orthavis_model::laws::pixels::current(pixels, lit.level, lit.colour_of(tap), voltage_v);
                (current, slope)
            }
            Law::Module(module) if runs && lit.level > 0.0 => module.current(lit.level, voltage_v),
            Law::Module(_) => (0.0, 0.0),
            Law::Dead(leak) => (leak * voltage_v, *leak),
        }
    }

    /// Current of one tap, A, and its light relative to rated (pixels: to what is asked).
    pub(super) fn drawn(&self, lit: &Lit, tap: usize, runs: bool, voltage_v: f64, near: &mut Near) -> (f64, f64) {
        if let Law::Pixels(pixels) = self {
            let colour = lit.colour_of(tap);
            let (current_a, _, light_a) = orthavis_model::laws::pixels::current(pixels, lit.level, colour, voltage_v);
            let asked_a = orthavis_model::laws::pixels::asked_a(pixels, lit.level, colour);
            return (current_a, if asked_a > 0.0 { light_a / asked_a } else { 0.0 });
        }
        let (current_a, _) = self.current_near(lit, tap, runs, voltage_v, near);
        let output = match self {
            Law::Strings { if_a, parallel, .. } => current_a / (parallel * if_a),
            Law::Segments(string) => current_a / string.if_a,
            Law::Module(module) => module.output(lit.level, voltage_v, current_a),
            Law::Pixels(_) | Law::Dead(_) => 0.0,
        };
        (current_a, output)
    }
}
