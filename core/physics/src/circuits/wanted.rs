//! What is wanted of a circuit, and what its kind looks for standard parts with.

use super::fed::Site;
use super::figures::{CircuitError, CircuitFigures};
use orthavis_model::document::{CircuitKind, CircuitParts};
use orthavis_model::laws::resistor::{self, Series};
use orthavis_model::practice::ELECTROLYTIC_F;
use orthavis_model::working::plain;
use serde::{Deserialize, Serialize};

/// Resistors that time something: below, a supply or a discharge pin suffers; above, leakage decides. ohm
pub(super) const TIMING_OHM: (f64, f64) = (1e3, 2.2e6);
/// What a person wants of a circuit; what does not belong to its kind is not looked at.
#[derive(Clone, Debug, Default, Deserialize, PartialEq)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields, default)]
pub struct Wanted {
    /// A flasher: from one flash to the next, s.
    pub period_s: Option<f64>,
    /// A flasher: share of the time on.
    pub duty: Option<f64>,
    /// A hold-up: until half of the light, s.
    pub half_s: Option<f64>,
    /// A gauge: below this only the low LED shines, V.
    pub low_below_v: Option<f64>,
    /// A gauge: above this only the good one does, V.
    pub good_above_v: Option<f64>,
}

/// One figure of [`Wanted`], as a person is asked for it.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct WantedField {
    /// Its name.
    pub field: &'static str,
    /// What a person reads beside it.
    pub label: &'static str,
    /// Its unit; `1` of a share.
    pub unit: &'static str,
    /// What it begins with; `None`: nothing, since it depends on the battery.
    pub begins: Option<f64>,
}

const PERIOD: WantedField = WantedField { field: "period_s", label: "A flash every", unit: "s", begins: Some(1.0) };
const DUTY: WantedField = WantedField { field: "duty", label: "Share of the time on", unit: "1", begins: Some(0.5) };

/// What is asked of a person who wants a circuit of this kind.
pub fn wishes(kind: CircuitKind) -> &'static [WantedField] {
    match kind {
        CircuitKind::TimerFlasher | CircuitKind::TransistorFlasher => &[PERIOD, DUTY],
        CircuitKind::BreakdownFlasher => &[PERIOD],
        CircuitKind::HoldUp => &[WantedField { field: "half_s", label: "Carry half of the light for", unit: "s", begins: Some(1.0) }],
        CircuitKind::BatteryGauge => &[
            WantedField { field: "low_below_v", label: "Charge now, below", unit: "V", begins: None },
            WantedField { field: "good_above_v", label: "Good, above", unit: "V", begins: None },
        ],
        CircuitKind::Switch => &[],
    }
}

/// Why there is no choice.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum ChooseError {
    /// A figure is missing or out of reach.
    #[error("`{field}`: {problem}. {remedy}")]
    Wanted {
        /// The field of [`Wanted`].
        field: &'static str,
        /// What is wrong with it.
        problem: String,
        /// What to give instead.
        remedy: String,
    },
    /// The circuit does not run.
    #[error(transparent)]
    Circuit(#[from] CircuitError),
}

pub(super) fn within(field: &'static str, value: Option<f64>, from: f64, to: f64, unit: &str) -> Result<f64, ChooseError> {
    let remedy = format!("Give a figure from {} to {}", plain(from, unit), plain(to, unit));
    match value {
        None => Err(ChooseError::Wanted { field, problem: "nothing is given".into(), remedy }),
        Some(value) if !(from..=to).contains(&value) => Err(ChooseError::Wanted { field, problem: format!("{} is out of reach", plain(value, unit)), remedy }),
        Some(value) => Ok(value),
    }
}

/// The nearest values of a series on both sides.
pub(super) fn around(series: Series, wanted: f64) -> [f64; 2] {
    let above = resistor::above(series, wanted);
    let below = series.between(above / 20.0, above * 0.999).last().copied().unwrap_or(above);
    [below, above]
}

pub(super) fn capacitors(from: f64, to: f64) -> Vec<f64> {
    Series::E6.between(from, to)
}

/// By how much a figure is off, alike in both directions.
pub(super) fn share(got: f64, wanted: f64) -> f64 {
    (got / wanted).ln().abs()
}

/// Large electrolytic capacitors leak and scatter; very large resistors are at the mercy of damp.
pub(super) fn awkward(ohm: f64, farad: f64) -> f64 {
    let scatter = if farad >= 4.7e-4 {
        0.03
    } else if farad > 1e-4 {
        0.02
    } else if farad >= ELECTROLYTIC_F {
        0.01
    } else {
        0.0
    };
    scatter + if ohm > 1e6 { 0.02 } else { 0.0 }
}

/// A set of parts with how far off the corrected formula finds it.
pub(super) struct Candidate {
    pub(super) off: f64,
    pub(super) parts: CircuitParts,
    pub(super) title: String,
}

/// A circuit that parts are looked for: where it stands, and what it does with other parts.
pub(super) struct Choosing<'a> {
    pub(super) site: Site<'a>,
    pub(super) simulated: &'a dyn Fn(CircuitParts) -> Result<CircuitFigures, CircuitError>,
}

impl Choosing<'_> {
    /// What it does with these parts.
    pub(super) fn simulated(&self, parts: CircuitParts) -> Result<CircuitFigures, ChooseError> {
        Ok((self.simulated)(parts)?)
    }
}

pub(super) fn farads(value: f64) -> String {
    plain(value, "F")
}

pub(super) fn ohms(value: f64) -> String {
    plain(value, "Ω")
}

/// The capacitor in E6 that is at least this large, F.
pub(super) fn capacitors_above(farad: f64) -> f64 {
    1e-12 * resistor::above(Series::E6, 1e12 * farad)
}
