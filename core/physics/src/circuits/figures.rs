//! What is told of a circuit.

use crate::transient::TransientError;
use orthavis_model::data;
use serde::Serialize;
use std::collections::BTreeMap;

/// An LED of a gauge counts as lit from here on, A.
pub const LIT_A: f64 = 0.000_3;

/// Why a circuit has no figures.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum CircuitError {
    /// It does not run at this state.
    #[error("`{circuit}` does not run {state}: {why}")]
    DoesNotRun {
        /// The circuit.
        circuit: String,
        /// When, in words.
        state: &'static str,
        /// Why, with what to do.
        why: String,
    },
    /// It cannot be followed.
    #[error("`{circuit}`: {error}")]
    Transient {
        /// The circuit.
        circuit: String,
        /// Why.
        error: TransientError,
    },
}

data! {
    /// How long a hold-up carries its lights with so many of its resistors.
    pub struct Held {
        /// Until half of the light, s.
        pub half_s: f64,
        /// Until a tenth of it, s.
        pub tenth_s: f64,
        /// Current at plug-in, A.
        pub inrush_a: f64,
        /// Current of the lights while there is contact, A.
        pub light_a: f64,
        /// Voltage that the capacitor holds, V.
        pub capacitor_v: f64,
        /// Least share of the light over the track's pattern of gaps, once that has gone on for a while.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub gap_share: Option<f64>,
    }

    /// A span of supply voltages in which the same LEDs of a gauge are lit.
    pub struct Band {
        /// From, V.
        pub from_v: f64,
        /// To, V.
        pub to_v: f64,
        /// `none`, `low`, `good+low` or `good`.
        pub lit: &'static str,
    }
}

/// What a circuit does at a state; what does not belong to its kind is left out.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CircuitFigures {
    /// From one flash to the next, s.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub period_s: Option<f64>,
    /// Of that on, s.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub on_s: Option<f64>,
    /// Share of the time on.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub duty: Option<f64>,
    /// Drawn from the supply, mean, A.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub supply_mean_a: Option<f64>,
    /// The same at most, A.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub supply_peak_a: Option<f64>,
    /// Out of a timer's output at most, A.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub output_peak_a: Option<f64>,
    /// Through the lights at most, A.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub light_peak_a: Option<f64>,
    /// Between collector and emitter while on, V.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub drop_v: Option<f64>,
    /// Whether its transistor is saturated while on.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub saturated: Option<bool>,
    /// Lowest voltage at a base, V.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub base_least_v: Option<f64>,
    /// Drawn from a controller's pin, A.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pin_a: Option<f64>,
    /// Heat of its transistor while on, W.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub heat_w: Option<f64>,
    /// Up to here it may be pulsed, Hz.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pwm_hz: Option<f64>,
    /// By tap: `tap1` and so on.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub taps: BTreeMap<String, Held>,
    /// By rising volts.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub bands: Vec<Band>,
}

data! {
    /// A figure with parts that have least and most of what is printed on them.
    pub struct Spread {
        /// The figure's name.
        pub figure: &'static str,
        /// What it is, in words.
        pub called: &'static str,
        /// Least.
        pub least: f64,
        /// Most.
        pub most: f64,
        /// Unit of both.
        pub unit: &'static str,
    }

    /// A closed formula beside the simulation.
    pub struct Formula {
        /// What it gives, in words.
        pub called: &'static str,
        /// The formula.
        pub formula: &'static str,
        /// What it gives.
        pub value: f64,
        /// What the simulation gives.
        pub simulated: f64,
        /// Unit of both.
        pub unit: &'static str,
        /// Why they differ.
        pub why: &'static str,
    }
}
