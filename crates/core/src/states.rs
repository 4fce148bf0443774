//! The states of the source that a plan is solved at, and what a scene asks of the network there.

use crate::document::{Build, Scene, Source};
use crate::network::{Lit, Point};
use serde::Serialize;

/// State of the source.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "lowercase")]
pub enum State {
    /// The charger holds the terminals at its end voltage.
    Charging,
    /// Fully charged and rested.
    Full,
    /// Half the charge is left.
    Half,
    /// What may be used is used.
    Reserve,
    /// A regulated rail has one state.
    Rail,
}

impl State {
    /// How people say it in a sentence.
    pub fn phrase(self) -> &'static str {
        match self {
            State::Charging => "while charging",
            State::Full => "on a full battery",
            State::Half => "at half charge",
            State::Reserve => "at reserve",
            State::Rail => "on the rail",
        }
    }
}

impl Source {
    /// The states this source is solved at, fullest first.
    pub fn states(&self) -> Vec<State> {
        match self {
            Source::Rail(_) => vec![State::Rail],
            Source::Battery(battery) => {
                let charging = battery.used_while_charging && battery.charging_v().is_some();
                charging.then_some(State::Charging).into_iter().chain([State::Full, State::Half, State::Reserve]).collect()
            }
        }
    }

    /// Open-circuit voltage, V, and resistance, ohm, in a state.
    pub fn thevenin(&self, state: State) -> (f64, f64) {
        match self {
            Source::Rail(rail) => (rail.voltage_v, rail.resistance_ohm),
            Source::Battery(battery) => match state {
                State::Charging => (battery.charging_v().unwrap_or_else(|| battery.emf_v(1.0)), 0.0),
                State::Half => (battery.emf_v(0.5), battery.pack_ohm()),
                State::Reserve => (battery.emf_v(battery.reserve_soc()), battery.pack_ohm()),
                State::Full | State::Rail => (battery.emf_v(1.0), battery.pack_ohm()),
            },
        }
    }

    /// Largest current it may give, A.
    pub fn max_current_a(&self) -> f64 {
        match self {
            Source::Rail(rail) => rail.max_current_a,
            Source::Battery(battery) => battery.max_current_a,
        }
    }
}

impl Build {
    /// What is drawn at the source besides the lights, A.
    pub fn standing_a(&self) -> f64 {
        let other = match &self.source {
            Source::Rail(rail) => rail.other_load_a,
            Source::Battery(_) => 0.0,
        };
        other + self.standing.iter().map(|load| load.current_a).sum::<f64>()
    }

    /// How a scene lights every light, in document order.
    pub fn lit(&self, scene: &Scene) -> Vec<Lit> {
        let lit = |id: &String| scene.lights.get(id).map_or(Lit::OFF, |light| Lit { level: light.level, colour: light.colour });
        self.lights.iter().map(|light| lit(&light.id)).collect()
    }

    /// What the network is solved for.
    pub fn point(&self, scene: &Scene, state: State) -> Point {
        let (emf_v, source_ohm) = self.source.thevenin(state);
        Point { emf_v, source_ohm, standing_a: self.standing_a(), lights: self.lit(scene) }
    }
}
