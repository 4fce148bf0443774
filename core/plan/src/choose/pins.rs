//! More LEDs than pins: cross-wired LEDs, which pins are high, low and left alone for each, and what else could be done.

use serde::{Deserialize, Serialize};

/// All LEDs are lit at least this often a second, so that nobody sees them take turns.
const REFRESH_HZ: f64 = 100.0;
/// Outputs of a shift register.
const REGISTER: u32 = 8;

/// What is asked.
#[derive(Clone, Debug, Deserialize, PartialEq)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct PinsRequest {
    /// Pins that are free, 2 to 12.
    pub pins: u32,
    /// Of a pin that is high, V.
    pub logic_v: f64,
    /// Forward voltage of an LED, V.
    pub vf_v: f64,
    /// What a pin gives or takes, A.
    pub pin_max_a: f64,
    /// Resistor at each pin, ohm.
    pub ohm: f64,
    /// LEDs that are wanted; `null`: all that there can be.
    #[serde(default)]
    pub leds: Option<u32>,
}

/// Which pins light one LED.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PinsOfLed {
    /// Its number, from 1.
    pub led: u32,
    /// The pin that is high: its anode.
    pub high: u32,
    /// The pin that is low: its cathode.
    pub low: u32,
    /// Pins that are inputs meanwhile.
    pub floating: Vec<u32>,
}

/// Another way to have as many LEDs.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OtherWay {
    /// What it is.
    pub called: &'static str,
    /// Pins that it takes.
    pub pins: u32,
    /// What else it takes.
    pub takes: String,
    /// Mean current of an LED, as a share of its peak.
    pub mean_share: f64,
}

/// LEDs cross-wired on a few pins.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CrossWired {
    /// Most LEDs on these pins.
    pub most: u32,
    /// Each with its pins.
    pub table: Vec<PinsOfLed>,
    /// Current of the one that is lit, A.
    pub peak_a: f64,
    /// Of each over time, A.
    pub mean_a: f64,
    /// How often the next one is lit at least, Hz.
    pub step_hz: f64,
    /// Voltage on the way through two LEDs in a row from high to low; it has to stay dark, V.
    pub through_two_v: f64,
    /// Whether it does.
    pub stays_dark: bool,
    /// What is wrong with it, worst first.
    pub cautions: Vec<String>,
    /// Other ways.
    pub others: Vec<OtherWay>,
}

/// A figure that cannot be.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[error("`{field}`: {problem}. {remedy}")]
pub struct PinsError {
    /// Which.
    pub field: &'static str,
    /// What is wrong.
    pub problem: String,
    /// What to give.
    pub remedy: &'static str,
}

/// The table of cross-wired LEDs, one lit at a time.
///
/// # Errors
/// Names the figure that is out of its range.
pub fn cross_wired(ask: &PinsRequest) -> Result<CrossWired, PinsError> {
    let error = |field, problem: String, remedy| Err(PinsError { field, problem, remedy });
    if !(2..=12).contains(&ask.pins) {
        return error("pins", format!("{} pins", ask.pins), "Give 2 to 12");
    }
    for (field, value, most) in [("logic_v", ask.logic_v, 24.0), ("vf_v", ask.vf_v, 24.0), ("pin_max_a", ask.pin_max_a, 1.0), ("ohm", ask.ohm, 1e6)] {
        if !(value > 0.0 && value <= most) {
            return error(field, format!("{value} is out of reach"), "Give a figure above 0 that a pin or an LED may have");
        }
    }
    let most = ask.pins * (ask.pins - 1);
    let leds = ask.leds.unwrap_or(most);
    if leds == 0 || leds > most {
        return error("leds", format!("{leds} LEDs on {} pins, which carry {most}", ask.pins), "Give fewer LEDs, or more pins");
    }
    let pairs = (0..ask.pins).flat_map(|low| (0..ask.pins).filter(move |high| *high != low).map(move |high| (high, low)));
    let floating = |high: u32, low: u32| (0..ask.pins).filter(|pin| *pin != high && *pin != low).map(|pin| pin + 1).collect();
    let table = pairs.take(leds as usize).zip(1..).map(|((high, low), led)| PinsOfLed { led, high: high + 1, low: low + 1, floating: floating(high, low) });
    // One resistor at either pin.
    let peak_a = ((ask.logic_v - ask.vf_v) / (2.0 * ask.ohm)).max(0.0);
    let through_two_v = 2.0 * ask.vf_v;
    let stays_dark = through_two_v > ask.logic_v;
    let mut cautions = Vec::new();
    if peak_a > ask.pin_max_a {
        cautions.push(format!("The LED that is lit takes {:.1} mA; a pin gives {:.1} mA. Take larger resistors.", 1e3 * peak_a, 1e3 * ask.pin_max_a));
    }
    if ask.pins > 2 && !stays_dark {
        cautions
            .push(format!("Two LEDs in a row begin at {through_two_v:.1} V and get {:.1} V: others glow along. Take LEDs of a higher voltage.", ask.logic_v));
    }
    if peak_a == 0.0 {
        cautions.push("The pin's voltage is below the LED's: nothing lights.".into());
    }
    let share = 1.0 / f64::from(leds);
    let others = vec![
        OtherWay { called: "a pin for each", pins: leds, takes: format!("{leds} resistors"), mean_share: 1.0 },
        OtherWay { called: "a shift register", pins: 3, takes: format!("{} of eight outputs and {leds} resistors", leds.div_ceil(REGISTER)), mean_share: 1.0 },
        OtherWay { called: "pixels", pins: 1, takes: "a supply of their own voltage, plus and minus to each".into(), mean_share: 1.0 },
    ];
    Ok(CrossWired {
        most,
        table: table.collect(),
        peak_a,
        mean_a: peak_a * share,
        step_hz: REFRESH_HZ * f64::from(leds),
        through_two_v,
        stays_dark,
        cautions,
        others,
    })
}
