//! Eight short lessons: one small circuit each, one thing to change, and what it does by the same solver as any build's.
//! The person says first what will happen.

use crate::BenchError;
use crate::desk::{Desk, Fed, Meter, Mode, Place};
use crate::fault::{At, Fault, FaultKind};
use crate::joints::Joint;
use crate::meter::Setting;
use crate::or_list;
use crate::pinch::pinch;
use crate::rig::{Rig, Shot};
use crate::spot::Spot;
use orthavis_model::document::{Build, Load, parse_value};
use orthavis_model::states::State;
use orthavis_physics::network::Side;
use serde::Serialize;
use serde_json::{Value, json};

/// A lesson.
#[derive(Clone, Copy, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Lesson {
    /// Its id.
    pub id: &'static str,
    /// Its title.
    pub title: &'static str,
    /// The circuit and the idea, in a few sentences.
    pub idea: &'static str,
    /// What is to be changed.
    pub control: &'static str,
    /// What is to be said first.
    pub question: &'static str,
    /// Answers to choose from.
    pub choices: [&'static str; 3],
    /// Place of the right one.
    pub right: usize,
    /// Why it is right.
    pub why: &'static str,
    #[serde(skip)]
    #[cfg_attr(feature = "schema", schema(ignore))]
    positions: Positions,
}

/// What happens at each position of what is changed.
type Positions = fn() -> Result<Vec<Position>, BenchError>;

/// A figure of a lesson.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Shows {
    /// What it is of.
    pub name: &'static str,
    /// In its unit; `null`: open, or never.
    pub value: Option<f64>,
    /// Unit.
    pub unit: &'static str,
}

/// One position of what is changed.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Position {
    /// As in `220 ohms`.
    pub label: String,
    /// What follows.
    pub figures: Vec<Shows>,
    /// How the light looks from its start to its end: shares of its rated light.
    pub glow: Vec<f64>,
    /// What it spoils.
    pub harm: Option<String>,
}

/// In the order in which they build on each other.
pub const LESSONS: [Lesson; 8] = [
    Lesson {
        id: "polarity",
        title: "Plus and minus",
        idea: "One red LED with its resistor on a battery of three cells. An LED lets current through one way only: from its long leg, plus, to its short one.",
        control: "The LED is",
        question: "You swap the two wires of the LED. What will happen?",
        choices: ["It shines as before", "It stays dark and nothing flows", "It burns out at once"],
        right: 1,
        why: "The wrong way round an LED blocks: no current, no light. At a few volts it survives; above about five volts across a single LED it may not, so turn it soon.",
        positions: polarity,
    },
    Lesson {
        id: "resistor",
        title: "What the resistor does",
        idea: "The same LED. It would take as much current as it can get; its resistor says how much that is. What the battery has and the LED does not need stays in the resistor, as heat.",
        control: "Its resistor",
        question: "You put in half the resistance. What does the current do?",
        choices: ["It stays, the LED sets it", "It halves", "It nearly doubles"],
        right: 2,
        why: "Current is the volts that are left over, divided by the ohms. Half the ohms, twice the current; in the end the LED has more than it stands.",
        positions: resistor,
    },
    Lesson {
        id: "rows",
        title: "In a row, or side by side",
        idea: "Three white LEDs on twelve volts. Side by side each has a resistor and a current of its own. In a row one current goes through all three, and the volts are shared.",
        control: "The three LEDs are",
        question: "Both ways shine alike. What does the row take from the battery?",
        choices: ["A third of the current", "The same current", "Three times the current"],
        right: 0,
        why: "In a row the same current is used three times over. What the resistors wasted side by side is light now.",
        positions: rows,
    },
    Lesson {
        id: "strip",
        title: "A strip that is too long",
        idea: "A strip for twelve volts, fed at its start. Its copper rails are thin: whatever the far end needs has to come through all of them.",
        control: "The strip is",
        question: "What does the far end of eight metres look like?",
        choices: ["As bright as the start", "Clearly dimmer than the start", "Brighter, for it is at the end"],
        right: 1,
        why: "Each metre of rail takes some of the volts. A second wire to the far end gives them back; a stronger supply does not.",
        positions: strip,
    },
    Lesson {
        id: "limit",
        title: "What a converter can give",
        idea: "Pixels behind a step-down converter that is good for one ampere at five volts. White pixels take about 36 mA each.",
        control: "White pixels on it",
        question: "You hang on more pixels than one ampere feeds. What happens?",
        choices: ["The converter gives more, for they need it", "Its voltage falls, and all of them suffer", "Only the last ones stay dark"],
        right: 1,
        why: "At its limit a converter holds its current and lets its voltage go. Real ones also get hot, and switch off or flicker. Take a larger one, or ask for less light.",
        positions: limit,
    },
    Lesson {
        id: "drop",
        title: "Thin wires cost volts",
        idea: "A lamp of 24 watts, five metres from its battery. The current has to go there and back again.",
        control: "The wire is",
        question: "You take a wire of twice the area. What of the volts that it loses?",
        choices: ["About half of them", "All of them", "None: the current is the same"],
        right: 0,
        why: "Half the resistance, half the loss, both ways counted. What is lost is heat in the wire.",
        positions: drop,
    },
    Lesson {
        id: "fuse",
        title: "What a fuse is for",
        idea: "The wire to a lamp is squeezed, and plus touches minus. A battery gives all that it has; only a fuse near it ends that.",
        control: "The fuse is",
        question: "The wire is for three amperes. Which fuse saves it?",
        choices: ["A large one, so that it never blows", "One that the wire can carry", "None: the lamp limits the current"],
        right: 1,
        why: "A fuse protects the wire, not the lamp. It has to open before the wire is hot, so it is no larger than what the wire carries.",
        positions: fuse,
    },
    Lesson {
        id: "meter",
        title: "Where the probes go",
        idea: "A meter on volts lies across: hardly anything flows through it. On amps it is a piece of wire, and belongs in the way of the current. On ohms it sends a current of its own.",
        control: "The meter is",
        question: "The red lead is still in the amps socket, and you touch both ends of the battery. What happens?",
        choices: ["It shows the battery's amps", "It shows nothing, and nothing happens", "It is a short circuit: its fuse blows"],
        right: 2,
        why: "Across a battery a meter on amps is a wire. Its fuse ends that, if it has one. Put the lead back to volts after every current.",
        positions: meter,
    },
];

/// The lesson of an id, with what happens at each position.
///
/// # Errors
/// When there is no such lesson.
pub fn lesson(id: &str) -> Result<(Lesson, Vec<Position>), BenchError> {
    let known = LESSONS.iter().find(|lesson| lesson.id == id).ok_or_else(|| {
        let ids: Vec<String> = LESSONS.iter().map(|lesson| lesson.id.to_owned()).collect();
        BenchError::new(id, format!("there is no lesson `{id}`"), format!("Name {}", or_list(&ids)))
    })?;
    Ok((*known, (known.positions)()?))
}

/// A battery, one light called `lamp`, and a scene in which it is on.
fn circuit(series: u32, chemistry: &str, feeds: &Value, load: &Value) -> Result<Build, BenchError> {
    let document = json!({
        "format": "orthavis.build/1", "name": "Lesson", "vehicle": { "kind": "other", "mass_kg": 1.0 },
        "source": { "kind": "battery", "chemistry": chemistry, "series": series, "capacity_ah": 5.0, "max_current_a": 60.0 },
        "lights": [{ "id": "lamp", "feeds": feeds, "load": load }],
        "scenes": [{ "id": "on", "lights": { "lamp": {} } }],
    });
    parse_value(&document).map_err(|error| BenchError::new("lesson", error.to_string(), "Report this"))
}

fn wire(from: &str, length_m: f64, awg: i32, at_m: f64, fuse: &Value) -> Value {
    json!({ "from": from, "at_m": at_m, "length_m": length_m, "gauge": { "awg": awg }, "fuse": fuse })
}

fn plain() -> Value {
    json!([wire("source", 0.5, 22, 0.0, &Value::Null)])
}

fn array(colour: &str, vf_v: f64, series: u32, parallel: u32, ohm: f64) -> Value {
    let led = json!({ "colour": colour, "vf_v": vf_v, "if_a": 0.02, "if_max_a": 0.03 });
    json!({ "kind": "led_array", "led": led, "series": series, "parallel": parallel, "resistor_ohm": ohm, "resistor_w": 0.5 })
}

/// A circuit as it runs with its battery full, and its rig.
struct Run<'a> {
    rig: Rig<'a>,
    shot: Shot,
    amps: f64,
    glow: Vec<f64>,
}

impl<'a> Run<'a> {
    fn of(build: &'a Build, faults: &[Fault]) -> Result<Self, BenchError> {
        let mut rig = Rig::new(build, faults)?;
        let shot = rig.shot(&build.scenes[0], State::Full)?;
        let (_, amps) = rig.source(&shot);
        let glow = rig.brightness(&shot, 0);
        Ok(Run { amps, glow, rig, shot })
    }

    fn volts(&self, red: Spot, black: Spot) -> f64 {
        self.rig.potential(&self.shot, red) - self.rig.potential(&self.shot, black)
    }

    /// At the terminals of the lamp.
    fn at_lamp(&self) -> f64 {
        let feed = self.rig.plan().feeds().len() - self.rig.plan().lights[0].feeds.len();
        self.volts(Spot::To(feed, Side::Plus), Spot::To(feed, Side::Minus))
    }
}

fn shows(name: &'static str, value: f64, unit: &'static str) -> Shows {
    Shows { name, value: Some(value), unit }
}

fn polarity() -> Result<Vec<Position>, BenchError> {
    let build = circuit(3, "li_ion", &plain(), &array("red", 2.0, 1, 1, 560.0))?;
    let swapped = Fault { kind: FaultKind::Reversed, at: At::Consumer(0), size: None };
    let one = |label: &str, faults: &[Fault]| -> Result<Position, BenchError> {
        let run = Run::of(&build, faults)?;
        let figures = vec![shows("through the LED", run.amps, "A"), shows("across it and its resistor", run.at_lamp(), "V")];
        Ok(Position { label: label.into(), figures, glow: run.glow, harm: None })
    };
    Ok(vec![one("the right way round", &[])?, one("swapped", &[swapped])?])
}

fn resistor() -> Result<Vec<Position>, BenchError> {
    let one = |ohm: f64| -> Result<Position, BenchError> {
        let build = circuit(3, "li_ion", &plain(), &array("red", 2.0, 1, 1, ohm))?;
        let run = Run::of(&build, &[])?;
        let Load::LedArray(led) = &build.lights[0].load else { return Err(BenchError::new("lesson", "the lamp is not an LED", "Report this")) };
        let spoilt = run.amps > led.led.if_max_a;
        let harm = spoilt.then(|| format!("The LED stands {:.0} mA for long. It fades, gets hot, and fails.", 1e3 * led.led.if_max_a));
        let figures = vec![shows("through the LED", run.amps, "A"), shows("heat in the resistor", run.amps.powi(2) * ohm, "W")];
        Ok(Position { label: format!("{ohm} Ω"), figures, glow: run.glow, harm })
    };
    [2200.0, 1100.0, 820.0, 560.0, 390.0, 280.0, 150.0, 68.0].into_iter().map(one).collect()
}

fn rows() -> Result<Vec<Position>, BenchError> {
    let one = |label: &str, series: u32, parallel: u32, ohm: f64| -> Result<Position, BenchError> {
        let build = circuit(4, "lifepo4", &plain(), &array("white", 3.1, series, parallel, ohm))?;
        let run = Run::of(&build, &[])?;
        let heat = (run.amps / f64::from(parallel)).powi(2) * ohm * f64::from(parallel);
        let figures = vec![shows("from the battery", run.amps, "A"), shows("heat in the resistors", heat, "W")];
        Ok(Position { label: label.into(), figures, glow: run.glow, harm: None })
    };
    Ok(vec![one("side by side, 510 Ω each", 1, 3, 510.0)?, one("in a row, 200 Ω", 3, 1, 200.0)?])
}

fn strip() -> Result<Vec<Position>, BenchError> {
    let one = |length: f64, both: bool| -> Result<Position, BenchError> {
        let mut feeds = vec![wire("source", 0.5, 16, 0.0, &Value::Null)];
        if both {
            feeds.push(wire("source", length, 16, length, &Value::Null));
        }
        let load = json!({ "kind": "strip", "voltage_v": 12.0, "power_w_per_m": 9.6, "segment_m": 0.05, "leds_per_segment": 3, "led_vf_v": 3.1,
            "rail_ohm_per_m": 0.08, "length_m": length });
        let build = circuit(4, "lifepo4", &json!(feeds), &load)?;
        let run = Run::of(&build, &[])?;
        let ends = |tap: usize| run.volts(Spot::Rail(0, tap, Side::Plus), Spot::Rail(0, tap, Side::Minus));
        let figures = vec![
            shows("volts at its start", ends(0), "V"),
            shows("volts at its end", ends(run.glow.len() - 1), "V"),
            shows("light at its end, of its start's", run.glow[run.glow.len() - 1] / run.glow[0], "1"),
        ];
        let label = if both { format!("{length} m, fed at both ends") } else { format!("{length} m") };
        Ok(Position { label, figures, glow: run.glow, harm: None })
    };
    [(1.0, false), (2.0, false), (4.0, false), (6.0, false), (8.0, false), (8.0, true)].into_iter().map(|(length, both)| one(length, both)).collect()
}

/// The module is a supply with a limit, as the one on a bench.
fn limit() -> Result<Vec<Position>, BenchError> {
    const MODULE: Fed = Fed::Supply { volts: 5.0, limit_a: 1.0 };
    let one = |count: u32| -> Result<Position, BenchError> {
        let load = json!({ "kind": "pixels", "voltage_v": 5.0, "channel_a": [0.012, 0.012, 0.012], "idle_a": 0.0008, "pitch_m": 0.0333,
            "rail_ohm_per_m": 0.06, "regulation_v": [2.6, 3.6, 3.6], "off_v": [1.7, 2.6, 2.6], "count": count });
        let build = circuit(1, "li_ion", &json!([wire("source", 0.2, 22, 0.0, &Value::Null)]), &load)?;
        let scene = &build.scenes[0];
        let (volts, amps, mode) = Desk::new(&build, Vec::new(), scene, State::Full, MODULE).feeding()?;
        let mut rig = Rig::new(&build, &[])?;
        let shot = rig.shot_fed(scene, volts, 0.0, None)?;
        let harm = (mode == Mode::Current).then(|| "The converter is at its limit: it gets hot, and some switch off or flicker.".to_owned());
        let figures = vec![shows("the converter gives", amps, "A"), shows("at", volts, "V")];
        Ok(Position { label: count.to_string(), figures, glow: rig.brightness(&shot, 0), harm })
    };
    [10, 20, 25, 30, 40, 60].into_iter().map(one).collect()
}

fn drop() -> Result<Vec<Position>, BenchError> {
    let one = |mm2: f64| -> Result<Position, BenchError> {
        let feed = json!({ "from": "source", "length_m": 5.0, "gauge": { "mm2": mm2 } });
        let load = json!({ "kind": "module", "draw": "resistive", "voltage_v": 12.0, "power_w": 24.0, "min_v": 6.0, "max_v": 16.0 });
        let build = circuit(4, "lifepo4", &json!([feed]), &load)?;
        let run = Run::of(&build, &[])?;
        let lost = run.volts(Spot::From(0, Side::Plus), Spot::From(0, Side::Minus)) - run.at_lamp();
        let figures =
            vec![shows("volts lost on the way", lost, "V"), shows("volts at the lamp", run.at_lamp(), "V"), shows("heat in the wire", lost * run.amps, "W")];
        Ok(Position { label: format!("{mm2} mm²"), figures, glow: run.glow, harm: None })
    };
    [0.25, 0.5, 1.0, 2.0, 4.0].into_iter().map(one).collect()
}

fn fuse() -> Result<Vec<Position>, BenchError> {
    let one = |rating: Option<f64>| -> Result<Position, BenchError> {
        let part = rating.map_or(Value::Null, |rating| json!({ "style": "blade", "rating_a": rating }));
        let load = json!({ "kind": "module", "draw": "resistive", "voltage_v": 12.0, "power_w": 12.0, "min_v": 6.0, "max_v": 16.0 });
        let build = circuit(4, "lifepo4", &json!([wire("source", 1.5, 24, 0.0, &part)]), &load)?;
        let states = pinch(&build, "lamp", 1.0)?;
        let full = states.iter().find(|pinch| pinch.state == State::Full).unwrap_or(&states[0]);
        let figures = vec![
            shows("would flow", full.fault_a, "A"),
            Shows { name: "the fuse opens within", value: full.opens_s.map(|opens| opens[1]), unit: "s" },
            shows("the wire reaches", full.peak_c, "°C"),
        ];
        let harm = (!full.survives)
            .then(|| if full.fuse.is_some() { "The wire is spoilt before the fuse opens.".to_owned() } else { "Nothing ends it: the wire burns.".to_owned() });
        Ok(Position { label: rating.map_or_else(|| "none".to_owned(), |rating| format!("{rating} A")), figures, glow: vec![], harm })
    };
    [None, Some(30.0), Some(20.0), Some(10.0), Some(3.0)].into_iter().map(one).collect()
}

fn meter() -> Result<Vec<Position>, BenchError> {
    let load = json!({ "kind": "module", "draw": "resistive", "voltage_v": 12.0, "power_w": 12.0, "min_v": 6.0, "max_v": 16.0 });
    let build = circuit(4, "lifepo4", &plain(), &load)?;
    let across = Place::Across(Spot::Source(Side::Plus), Spot::Source(Side::Minus));
    let one = |label: &str, setting: Setting, place: Place| -> Result<Position, BenchError> {
        let desk = Desk::new(&build, Vec::new(), &build.scenes[0], State::Full, Fed::Own);
        let shown = desk.read(&mut Meter::new(7), setting, false, place)?;
        let figures = vec![Shows { name: "it shows", value: shown.value, unit: setting.unit() }];
        Ok(Position { label: label.into(), figures, glow: vec![1.0], harm: shown.event.map(|event| sentence(event.called())) })
    };
    Ok(vec![
        one("on volts, across the battery", Setting::Volts, across)?,
        one("on amps, in line with the lamp", Setting::Amps, Place::InLine(0, Joint::From))?,
        one("on ohms, across the battery", Setting::Ohms, across)?,
        one("on amps, across the battery", Setting::Amps, across)?,
    ])
}

/// With a capital and a full stop.
pub fn sentence(words: &str) -> String {
    let mut letters = words.chars();
    let first = letters.next().map(|letter| letter.to_uppercase().to_string()).unwrap_or_default();
    format!("{first}{}.", letters.as_str())
}
