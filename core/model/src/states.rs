//! The states of the source that a plan is solved at, and what a scene asks of its lights.

use crate::document::{Build, ChargedBy, Light, Load, Scene, SceneLight, Source, SourceKind};
use crate::practice::DARK;
use crate::words;
use std::sync::Arc;

words! {
    /// State of the source.
    State {
        /// The charger holds the terminals at its end voltage.
        Charging = "charging",
        /// Fully charged and rested.
        Full = "full",
        /// Half the charge is left.
        Half = "half",
        /// What may be used is used.
        Reserve = "reserve",
        /// At reserve, while the motor takes its share of the same battery.
        UnderWay = "under_way",
        /// A regulated rail has one state.
        Rail = "rail",
        /// A track has contact.
        Track = "track",
        /// A track has none.
        Gap = "gap",
    }
}

impl State {
    /// How people say it in a sentence.
    pub fn phrase(self) -> &'static str {
        match self {
            State::Charging => "while charging",
            State::Full => "on a full battery",
            State::Half => "at half charge",
            State::Reserve => "at reserve",
            State::UnderWay => "under way at reserve",
            State::Rail => "on the supply",
            State::Track => "on the track",
            State::Gap => "without contact",
        }
    }
}

/// How a light is lit.
#[derive(Clone, Debug, PartialEq)]
pub struct Lit {
    /// 0 to 1.
    pub level: f64,
    /// Red, green, blue, each 0 to 1.
    pub colour: [f64; 3],
    /// The colour of each pixel, where they differ; pixels beyond its end are dark.
    pub each: Option<Arc<[[f64; 3]]>>,
}

impl Lit {
    /// Not lit.
    pub const OFF: Lit = Lit { level: 0.0, colour: [1.0; 3], each: None };

    /// As a scene has it.
    pub fn of(light: &SceneLight) -> Lit {
        Lit { level: light.level, colour: light.colour, each: None }
    }
}

impl Lit {
    /// Every pixel in a colour of its own.
    pub fn frame(colours: Arc<[[f64; 3]]>) -> Lit {
        Lit { level: 1.0, colour: [1.0; 3], each: Some(colours) }
    }

    /// Colour of one pixel.
    pub fn colour_of(&self, pixel: usize) -> &[f64; 3] {
        const DARK: [f64; 3] = [0.0; 3];
        self.each.as_ref().map_or(&self.colour, |each| each.get(pixel).unwrap_or(&DARK))
    }
}

impl State {
    /// Whether the battery has given what it may, at rest or under way.
    pub fn is_reserve(self) -> bool {
        matches!(self, State::Reserve | State::UnderWay)
    }
}

impl SourceKind {
    /// In a sentence, as in `the battery`.
    pub fn noun(self) -> &'static str {
        match self {
            SourceKind::Battery => "battery",
            SourceKind::Rail => "supply",
            SourceKind::Track => "track",
        }
    }
}

impl Source {
    /// The states that this source has by itself, fullest first.
    pub fn states(&self) -> Vec<State> {
        match self {
            Source::Rail(_) => vec![State::Rail],
            // Without contact nothing flows but what a hold-up gives.
            Source::Track(_) => vec![State::Track],
            Source::Battery(battery) => {
                let charging = (battery.used_while_charging || battery.charged_by == Some(ChargedBy::Engine)) && battery.charging_v().is_some();
                charging.then_some(State::Charging).into_iter().chain([State::Full, State::Half, State::Reserve]).collect()
            }
        }
    }

    /// Open-circuit voltage, V, and resistance, ohm, in a state; what else draws is not counted.
    pub fn thevenin(&self, state: State) -> (f64, f64) {
        match self {
            Source::Rail(rail) => (rail.voltage_v, rail.resistance_ohm),
            Source::Track(track) => (if state == State::Gap { 0.0 } else { track.voltage_v }, 0.0),
            Source::Battery(battery) => match state {
                State::Charging => (battery.charging_v().unwrap_or_else(|| battery.emf_v(1.0)), 0.0),
                State::Half => (battery.emf_v(0.5), battery.pack_ohm()),
                State::Reserve | State::UnderWay => (battery.emf_v(battery.reserve_soc()), battery.pack_ohm()),
                State::Full | State::Rail | State::Track | State::Gap => (battery.emf_v(1.0), battery.pack_ohm()),
            },
        }
    }

    /// The state that stands for an ordinary day.
    pub fn usual(&self) -> State {
        if matches!(self, Source::Battery(_)) { State::Half } else { self.states()[0] }
    }

    /// What people call it.
    pub fn called(&self) -> &'static str {
        self.kind().noun()
    }

    /// Largest current it may give, A.
    pub fn max_current_a(&self) -> f64 {
        match self {
            Source::Rail(rail) => rail.max_current_a,
            Source::Track(track) => track.max_current_a,
            Source::Battery(battery) => battery.max_current_a,
        }
    }
}

impl Scene {
    /// How it lights a light.
    pub fn lit(&self, light: &str) -> Lit {
        self.lights.get(light).map_or(Lit::OFF, Lit::of)
    }
}

impl Build {
    /// The states a plan is solved at, fullest first; *under way* where the motor is on this battery.
    pub fn states(&self) -> Vec<State> {
        let mut states = self.source.states();
        if matches!(self.source, Source::Battery(_)) && self.motor_w().is_some() {
            states.push(State::UnderWay);
        }
        states
    }

    /// What the motor takes of this battery, W.
    pub fn motor_w(&self) -> Option<f64> {
        self.vehicle.propulsion.as_ref().map(|motor| motor.power_w).filter(|power_w| *power_w > 0.0)
    }

    /// Open-circuit voltage, V, and resistance, ohm, in a state. Under way the motor's current, its power over that
    /// voltage, sags the pack by what its resistance takes of it; by half at most, where a source gives its most.
    pub fn thevenin(&self, state: State) -> (f64, f64) {
        let (emf_v, ohm) = self.source.thevenin(state);
        match (state, self.motor_w()) {
            (State::UnderWay, Some(power_w)) if emf_v > 0.0 => (emf_v - (power_w / emf_v * ohm).min(0.5 * emf_v), ohm),
            _ => (emf_v, ohm),
        }
    }

    /// What is drawn at the source besides the lights, A.
    pub fn standing_a(&self) -> f64 {
        let other = match &self.source {
            Source::Rail(rail) => rail.other_load_a,
            Source::Track(track) => track.other_load_a,
            Source::Battery(_) => 0.0,
        };
        other + self.standing.iter().map(|load| load.current_a).sum::<f64>()
    }

    /// How a scene lights every light, in document order.
    pub fn lit(&self, scene: &Scene) -> Vec<Lit> {
        self.lights.iter().map(|light| scene.lit(&light.id)).collect()
    }
}

impl Light {
    /// Whether a scene asks light of it: a level above 0, and of pixels a colour that is not black.
    pub fn is_asked(&self, lit: &Lit) -> bool {
        match &self.load {
            Load::Pixels(pixels) => {
                let asks = |colour: &[f64; 3]| crate::laws::pixels::asked_a(pixels, lit.level, colour) > 0.0;
                lit.each.as_ref().map_or_else(|| asks(&lit.colour), |each| each.iter().take(pixels.count as usize).any(asks))
            }
            _ => lit.level > 0.0,
        }
    }

    /// What is delivered of the light that a scene asks for; `None` where it asks for none. An output of pixels is
    /// relative to what is asked already, every other to rated.
    pub fn share(&self, lit: &Lit, output: f64) -> Option<f64> {
        let of = if matches!(self.load, Load::Pixels(_)) { 1.0 } else { lit.level };
        self.is_asked(lit).then(|| output / of)
    }

    /// Brightness relative to rated, as the eye meets it.
    pub fn brightness(&self, lit: &Lit, output: f64) -> f64 {
        if matches!(self.load, Load::Pixels(_)) { output * lit.level } else { output }
    }
}

/// How far the best of these shares is above darkness: below 1, all are dark. Nothing asked for cannot go dark.
pub fn margin(shares: impl Iterator<Item = f64>) -> f64 {
    shares.fold(None, |best: Option<f64>, share| Some(best.unwrap_or(0.0).max(share / DARK))).unwrap_or(f64::INFINITY)
}
