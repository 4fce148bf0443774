//! What a person types as they would say it, read as an event: `ride 40 min, 3 °C`, `charged 11.9 to 14.4, 6.2 Ah`.

use orthavis_model::document::Build;
use orthavis_model::journal::{Charge, Happened, Note, PartChange, Reading, Repair, Ride, Timer};
use orthavis_model::moment::{DAY_S, Moment};
use orthavis_model::moment::{date_of, day_of};
use serde::Serialize;
use std::collections::BTreeMap;

/// What was understood.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Said {
    /// What happened.
    #[serde(flatten)]
    pub happened: Happened,
    /// When: now, unless a day or a time was said.
    pub at: String,
    /// The same in words, to be looked at before it is kept.
    pub words: String,
}

/// Why a line was not understood.
#[derive(Clone, Debug, PartialEq)]
pub struct Unsaid {
    /// What is wrong.
    pub problem: String,
    /// What to write instead.
    pub remedy: String,
}

/// Longest line that is read.
pub const MOST: usize = 500;

#[derive(Clone, Debug, PartialEq)]
enum Token {
    Number(f64),
    Word(String),
    /// Days from 1970.
    Date(i64),
    /// Seconds of the day.
    Clock(i64),
    Comma,
}

fn unsaid<T>(problem: impl Into<String>, remedy: impl Into<String>) -> Result<T, Unsaid> {
    Err(Unsaid { problem: problem.into(), remedy: remedy.into() })
}

/// Numbers, words and commas of a line. A comma between two digits is a decimal one.
fn tokens(text: &str) -> Vec<Token> {
    let letters: Vec<char> = text.chars().collect();
    let mut all = Vec::new();
    let mut at = 0;
    while at < letters.len() {
        let letter = letters[at];
        let digit = |at: usize| letters.get(at).is_some_and(char::is_ascii_digit);
        if letter.is_whitespace() {
            at += 1;
        } else if digit(at) || matches!(letter, '-' | '−' | '+') && digit(at + 1) {
            let from = at;
            at += 1;
            while digit(at) || matches!(letters.get(at), Some('.' | ',' | ':' | '-')) && digit(at + 1) {
                at += 1;
            }
            let written: String = letters[from..at].iter().collect();
            let plain = written.replace('−', "-").replace(',', ".");
            let clock = written.split_once(':').and_then(|(hour, minute)| Some((hour.parse::<i64>().ok()?, minute.parse::<i64>().ok()?)));
            if let Some(day) = day_of(&written) {
                all.push(Token::Date(day));
            } else if let Some((hour, minute)) = clock.filter(|(hour, minute)| (0..24).contains(hour) && (0..60).contains(minute)) {
                all.push(Token::Clock(3600 * hour + 60 * minute));
            } else if let Ok(number) = plain.parse() {
                all.push(Token::Number(number));
            } else if let Some((low, high)) = plain[1..].find('-').and_then(|dash| Some((plain[..=dash].parse().ok()?, plain[dash + 2..].parse().ok()?))) {
                // `12.6-12.1` is from one to the other.
                all.extend([Token::Number(low), Token::Word("to".into()), Token::Number(high)]);
            } else {
                all.push(Token::Word(written));
            }
        } else if matches!(letter, ',' | ';') {
            all.push(Token::Comma);
            at += 1;
        } else if matches!(letter, '→' | '–') {
            all.push(Token::Word("to".into()));
            at += 1;
        } else {
            let from = at;
            while at < letters.len() && !letters[at].is_whitespace() && !matches!(letters[at], ',' | ';') {
                at += 1;
            }
            let word: String = letters[from..at].iter().collect::<String>().to_lowercase();
            all.push(Token::Word(word.trim_end_matches(['.', '!']).to_owned()));
        }
    }
    all
}

/// Quantities that a line may hold.
#[derive(Default)]
struct Parts {
    minutes: Option<f64>,
    scenes: Vec<(String, f64)>,
    distance_km: Option<f64>,
    temperature_c: Option<f64>,
    volts: Vec<f64>,
    ah: Option<f64>,
    wh: Option<f64>,
    day: Option<i64>,
    days_ago: i64,
    clock_s: Option<i64>,
}

/// What each way of opening a line means.
const RIDES: [&str; 9] = ["ride", "rode", "out", "outing", "ran", "flew", "flight", "flying", "drove"];
const CHARGES: [&str; 3] = ["charge", "charged", "charging"];
const RESTS: [&str; 4] = ["rest", "rested", "resting", "measured"];
const PARTS: [(&str, &str); 6] =
    [("replaced", "replaced"), ("fitted", "fitted"), ("removed", "removed"), ("bought", "bought"), ("looked", "looked"), ("checked", "looked")];
const FAULTS: [&str; 5] = ["fault", "broke", "broken", "mended", "repaired"];
const TIMERS: [&str; 3] = ["timer", "wait", "curing"];

/// Reads a line as an event of a build. `now` is when it is typed.
///
/// # Errors
/// What was not understood, and how to write it.
pub fn said(build: &Build, text: &str, now: Moment) -> Result<Said, Unsaid> {
    let text = text.trim();
    if text.is_empty() {
        return unsaid("there is nothing to read", "Write what happened, as in `ride 40 min, 3 °C`");
    }
    if text.chars().count() > MOST {
        return unsaid("it is too long for a line", format!("Keep it under {MOST} characters, or write it as a note"));
    }
    let tokens = tokens(text);
    let Some(Token::Word(first)) = tokens.first() else {
        return unsaid("it begins with a figure", "Begin with what happened: `ride`, `charged`, `rest`, `replaced`, `mended`, `timer` or `note`");
    };
    let rest_of =
        || text.split_once(|letter: char| letter.is_whitespace() || letter == ':').map_or("", |(_, rest)| rest).trim_start_matches(':').trim().to_owned();
    let (happened, parts) = if first.trim_end_matches(':') == "note" {
        if rest_of().is_empty() {
            return unsaid("the note says nothing", "Write it after `note`");
        }
        (Happened::Note(Note { text: Some(rest_of()), photo: None }), Parts::default())
    } else if RIDES.contains(&first.as_str()) {
        let parts = read(build, &tokens[1..])?;
        (Happened::Ride(ride(build, &parts)?), parts)
    } else if CHARGES.contains(&first.as_str()) {
        let parts = read(build, &tokens[1..])?;
        (Happened::Charge(charge(&parts)?), parts)
    } else if RESTS.contains(&first.as_str()) {
        let parts = read(build, &tokens[1..])?;
        (Happened::Reading(rest(build, &parts, &tokens)?), parts)
    } else if let Some((_, change)) = PARTS.iter().find(|(word, _)| word == first) {
        let named = rest_of();
        let part = named.trim_start_matches("at ").trim();
        if part.is_empty() {
            return unsaid(format!("it does not say what was {change}"), format!("Name it, as in `{first} tail`"));
        }
        (Happened::Part(PartChange { part: Some(part_of(build, part)), change: Some((*change).to_owned()), pack: None }), Parts::default())
    } else if FAULTS.contains(&first.trim_end_matches(':')) {
        let said = rest_of();
        if said.is_empty() {
            return unsaid("it does not say what broke", "Write what it was and what mended it, as in `mended tail plug: crimped anew`");
        }
        let (was, mended) = said.split_once(':').map_or((said.as_str(), ""), |(was, mended)| (was.trim(), mended.trim()));
        (Happened::Fault(Repair { symptom: None, was: Some(was.into()), words: Some(was.into()), mended: Some(mended.into()) }), Parts::default())
    } else if TIMERS.contains(&first.as_str()) {
        return timer(&tokens[1..], now);
    } else {
        return unsaid(
            format!("`{first}` is not a way to begin that is known here"),
            "Begin with `ride`, `charged`, `rest`, `replaced`, `mended`, `timer` or `note`",
        );
    };
    let at = when(&parts, now);
    let words = in_words(build, &happened, at);
    Ok(Said { happened, at: at.text(), words })
}

/// The day and time that were said; of a day alone, the time that it is now.
fn when(parts: &Parts, now: Moment) -> Moment {
    let day = parts.day.unwrap_or(now.day() - parts.days_ago);
    let of_day = parts.clock_s.unwrap_or(now.of_day_s());
    Moment { s: DAY_S * day + of_day - now.offset_s, ..now }
}

/// A part of the build by its id or the words of it; else as it was written.
fn part_of(build: &Build, named: &str) -> String {
    let plain = named.to_lowercase();
    let plain = plain.trim_start_matches("the ");
    build.part_ids().find(|id| id.to_lowercase() == plain).map_or_else(|| plain.to_owned(), |id| id.to_owned())
}

fn read(build: &Build, tokens: &[Token]) -> Result<Parts, Unsaid> {
    let mut parts = Parts::default();
    let mut at = 0;
    let mut scene: Option<String> = None;
    let mut loose_min: Option<f64> = None;
    let word = |at: usize| match tokens.get(at) {
        Some(Token::Word(word)) => Some(word.as_str()),
        _ => None,
    };
    let settle = |parts: &mut Parts, scene: &mut Option<String>, loose: &mut Option<f64>| match (scene.take(), loose.take()) {
        (Some(scene), Some(minutes)) => parts.scenes.push((scene, minutes)),
        (None, Some(minutes)) => parts.minutes = Some(parts.minutes.unwrap_or(0.0) + minutes),
        (scene_left, None) => *scene = scene_left,
    };
    while at < tokens.len() {
        match &tokens[at] {
            Token::Comma => {
                settle(&mut parts, &mut scene, &mut loose_min);
                at += 1;
            }
            Token::Date(day) => {
                parts.day = Some(*day);
                at += 1;
            }
            Token::Clock(s) => {
                parts.clock_s = Some(*s);
                at += 1;
            }
            Token::Number(value) => {
                let unit = word(at + 1).unwrap_or_default().to_owned();
                at += 2;
                match unit.as_str() {
                    "min" | "mins" | "minute" | "minutes" | "m" | "'" => *loose_min.get_or_insert(0.0) += value,
                    "h" | "hour" | "hours" | "hr" | "hrs" => *loose_min.get_or_insert(0.0) += 60.0 * value,
                    "s" | "sec" | "seconds" => *loose_min.get_or_insert(0.0) += value / 60.0,
                    "km" => parts.distance_km = Some(*value),
                    "mi" | "mile" | "miles" => parts.distance_km = Some(value * 1.609_344),
                    "°c" | "c" | "°" | "degrees" | "deg" => {
                        parts.temperature_c = Some(*value);
                        // `3 ° C` in two words.
                        if matches!(word(at), Some("c")) {
                            at += 1;
                        }
                    }
                    "°f" | "f" => parts.temperature_c = Some((value - 32.0) / 1.8),
                    "ah" => parts.ah = Some(*value),
                    "mah" => parts.ah = Some(value / 1000.0),
                    "wh" => parts.wh = Some(*value),
                    "kwh" => parts.wh = Some(1000.0 * value),
                    "v" | "volt" | "volts" => parts.volts.push(*value),
                    "to" => {
                        parts.volts.push(*value);
                        at -= 1;
                    }
                    "" => {
                        parts.volts.push(*value);
                        at -= 1;
                    }
                    other => return unsaid(format!("`{value} {other}` has no unit that is known here"), "Use min, h, km, °C, V, Ah or Wh"),
                }
                if let Some(two) = parts.volts.get(2) {
                    return unsaid(format!("{two} is a third voltage"), "Give one or two: from and to");
                }
            }
            Token::Word(said) => {
                match said.as_str() {
                    "to" | "from" | "in" | "at" | "on" | "and" | "for" | "with" | "of" | "by" | "it" | "the" | "now" | "today" | "full" | "until" => {}
                    "under" | "load" | "rest" | "after" | "an" | "hour" | "lit" => {}
                    "yesterday" => parts.days_ago = 1,
                    known => match scene_of(build, tokens, at) {
                        Some((id, words)) => {
                            match (scene.take(), loose_min.take()) {
                                (Some(before), minutes) => {
                                    parts.scenes.push((before, minutes.unwrap_or(f64::NAN)));
                                    scene = Some(id);
                                }
                                (None, Some(minutes)) => parts.scenes.push((id, minutes)),
                                (None, None) => scene = Some(id),
                            }
                            at += words - 1;
                        }
                        None => {
                            let names: Vec<&str> =
                                build.scenes.iter().map(|scene| if scene.name.is_empty() { scene.id.as_str() } else { scene.name.as_str() }).collect();
                            return unsaid(format!("`{known}` is not understood here"), format!("Name a scene ({}), or say it in a note", names.join(", ")));
                        }
                    },
                }
                at += 1;
            }
        }
    }
    settle(&mut parts, &mut scene, &mut loose_min);
    if let Some(id) = scene {
        parts.scenes.push((id, f64::NAN));
    }
    Ok(parts)
}

/// The scene whose name or id begins here, and how many words it has.
fn scene_of(build: &Build, tokens: &[Token], at: usize) -> Option<(String, usize)> {
    let following = |count: usize| {
        let words: Option<Vec<&str>> =
            tokens.get(at..at + count)?.iter().map(|token| if let Token::Word(word) = token { Some(word.as_str()) } else { None }).collect();
        Some(words?.join(" "))
    };
    (1..=5).rev().find_map(|count| {
        let said = following(count)?;
        let scene = build.scenes.iter().find(|scene| scene.id.to_lowercase() == said || scene.name.to_lowercase() == said)?;
        Some((scene.id.clone(), count))
    })
}

/// Seven figures: more nobody types, and a mile is not an endless fraction.
fn figure(value: f64) -> f64 {
    let size = 10f64.powf(6.0 - value.abs().max(1e-9).log10().floor());
    (value * size).round() / size
}

/// Minutes of each scene where only a time was said: as the plan's outing has them.
fn spread(build: &Build, minutes: f64) -> BTreeMap<String, f64> {
    let usual: Vec<(&String, f64)> = build.usage.minutes.iter().filter(|(_, usual)| **usual > 0.0).map(|(scene, usual)| (scene, *usual)).collect();
    let all: f64 = usual.iter().map(|(_, usual)| usual).sum();
    if all > 0.0 {
        return usual.into_iter().map(|(scene, usual)| (scene.clone(), figure(minutes * usual / all))).collect();
    }
    build.scenes.first().map(|first| (first.id.clone(), figure(minutes))).into_iter().collect()
}

fn ride(build: &Build, parts: &Parts) -> Result<Ride, Unsaid> {
    let mut scenes = BTreeMap::new();
    let named: f64 = parts.scenes.iter().map(|(_, minutes)| minutes).filter(|minutes| minutes.is_finite()).sum();
    for (scene, minutes) in &parts.scenes {
        // A scene without a time of its own has what is left of the whole.
        let minutes = if minutes.is_finite() { *minutes } else { parts.minutes.unwrap_or(0.0) - named };
        if minutes <= 0.0 {
            return unsaid(format!("it does not say how long {scene} was lit"), "Give minutes, as in `ride 40 min`");
        }
        scenes.insert(scene.clone(), figure(minutes));
    }
    if scenes.is_empty() {
        let Some(minutes) = parts.minutes else {
            return unsaid("it does not say how long", "Give minutes, as in `ride 40 min`");
        };
        scenes = spread(build, minutes);
    }
    if let Some(ah) = parts.ah.or(parts.wh) {
        return unsaid(format!("{ah} went in, or came out? A ride has voltages, not amp-hours"), "Write down the charge by itself: `charged 6.2 Ah`");
    }
    let (from_v, to_v) = from_to(parts);
    Ok(Ride { minutes: Some(scenes), distance_km: parts.distance_km.map(figure), temperature_c: parts.temperature_c.map(figure), from_v, to_v, began: None })
}

/// The voltage before, where two were said, and the one after, V.
fn from_to(parts: &Parts) -> (Option<f64>, Option<f64>) {
    (parts.volts.first().copied().filter(|_| parts.volts.len() == 2).map(figure), parts.volts.last().copied().map(figure))
}

fn charge(parts: &Parts) -> Result<Charge, Unsaid> {
    if !parts.scenes.is_empty() {
        return unsaid(format!("`{}` is a scene, and a charge has none", parts.scenes[0].0), "Leave it out");
    }
    let (from_v, to_v) = from_to(parts);
    let [ah, wh, minutes, temperature_c] = [parts.ah, parts.wh, parts.minutes, parts.temperature_c].map(|value| value.map(figure));
    Ok(Charge { from_v, to_v, ah, wh, minutes, temperature_c })
}

fn rest(build: &Build, parts: &Parts, tokens: &[Token]) -> Result<Reading, Unsaid> {
    let Some(resting_v) = parts.volts.first() else {
        return unsaid("it does not say what the meter showed", "Give volts, as in `rest 12.6 V`, or `rest 12.6 V, ride 12.1 V`");
    };
    let mut reading = Reading { resting_v: Some(figure(*resting_v)), temperature_c: parts.temperature_c.map(figure), ..Reading::default() };
    if let Some(loaded_v) = parts.volts.get(1) {
        let scene = parts.scenes.first().map(|(scene, _)| scene.clone());
        let Some(scene) = scene.or_else(|| build.scenes.first().map(|scene| scene.id.clone())) else {
            return unsaid("the build has no scene that could load it", "Add a scene first, or give one voltage");
        };
        reading.value = Some(figure(*loaded_v));
        (reading.quantity, reading.unit, reading.scene) = (Some("volts".into()), Some("V".into()), Some(scene));
    } else if tokens.iter().any(|token| *token == Token::Word("load".into())) {
        return unsaid("it gives one voltage and speaks of a load", "Give both, at rest first: `rest 12.6 V, ride 12.1 V`");
    }
    Ok(reading)
}

fn timer(tokens: &[Token], now: Moment) -> Result<Said, Unsaid> {
    let (mut minutes, mut words) = (0.0, Vec::new());
    let mut at = 0;
    while at < tokens.len() {
        match (&tokens[at], tokens.get(at + 1)) {
            (Token::Number(value), Some(Token::Word(unit))) => {
                minutes += match unit.as_str() {
                    "min" | "minutes" | "m" => *value,
                    "h" | "hour" | "hours" => 60.0 * value,
                    "d" | "day" | "days" => 1440.0 * value,
                    other => return unsaid(format!("`{value} {other}` is not a time"), "Use min, h or days"),
                };
                at += 1;
            }
            (Token::Word(word), _) => words.push(word.as_str()),
            _ => {}
        }
        at += 1;
    }
    if !(minutes > 0.0 && minutes < 1e6) {
        return unsaid("it does not say how long to wait", "Give a time, as in `timer silicone 24 h`");
    }
    let what = if words.is_empty() { "it is ready".to_owned() } else { words.join(" ") };
    let until = now.later((60.0 * minutes).round() as i64);
    let words = format!("Timer: {what} until {}", until.text()[..16].replace('T', " "));
    Ok(Said { happened: Happened::Timer(Timer { what: Some(what), until: Some(until) }), at: now.text(), words })
}

fn in_words(build: &Build, happened: &Happened, at: Moment) -> String {
    let mut said: Vec<String> = Vec::new();
    let plainly = |said: &mut Vec<String>, text: &Option<String>| said.extend(text.iter().filter(|text| !text.is_empty()).cloned());
    match happened {
        Happened::Ride(ride) => {
            for (scene, minutes) in ride.lit() {
                let known = build.scenes.iter().find(|known| known.id == *scene && !known.name.is_empty());
                said.push(format!("{} {} min", known.map_or(scene, |known| &known.name), minutes.round()));
            }
            volts(&mut said, ride.from_v, ride.to_v);
            figures(&mut said, [(ride.distance_km, "km"), (ride.temperature_c, "°C")]);
        }
        Happened::Charge(charge) => {
            said.push("Charged".into());
            volts(&mut said, charge.from_v, charge.to_v);
            figures(&mut said, [(charge.ah, "Ah"), (charge.wh, "Wh"), (charge.minutes, "min"), (charge.temperature_c, "°C")]);
        }
        Happened::Reading(reading) => {
            said.push("Measured".into());
            said.extend(reading.resting_v.map(|rest| format!("{rest} V at rest")));
            said.extend(reading.value.map(|load| format!("{load} V with {}", reading.scene.as_deref().unwrap_or_default())));
            figures(&mut said, [(reading.temperature_c, "°C")]);
        }
        Happened::Part(PartChange { part, change, .. }) => {
            said.push(format!("{} {}", part.as_deref().unwrap_or_default(), change.as_deref().unwrap_or_default()));
        }
        Happened::Fault(repair) => {
            plainly(&mut said, &repair.words);
            plainly(&mut said, &repair.mended);
        }
        Happened::Note(note) => plainly(&mut said, &note.text),
        Happened::Tick(_) | Happened::Timer(_) | Happened::Drill(_) => {}
    }
    format!("{} · {}", date_of(at.day()), said.join(", "))
}

fn volts(said: &mut Vec<String>, from_v: Option<f64>, to_v: Option<f64>) {
    match (from_v, to_v) {
        (Some(from), Some(to)) => said.push(format!("{from} V to {to} V")),
        (_, Some(to)) => said.push(format!("to {to} V")),
        _ => {}
    }
}

fn figures<const N: usize>(said: &mut Vec<String>, figures: [(Option<f64>, &str); N]) {
    said.extend(figures.into_iter().filter_map(|(value, unit)| value.map(|value| format!("{value} {unit}"))));
}
