//! The bench from the command line: the same questions as the page's, for people or as JSON.

use crate::{print, read_text};
use clap::{Args, Subcommand};
use orthavis_core::bench::meter::{Serial, Setting};
use orthavis_core::bench::spot::Spot;
use orthavis_core::document::parse;
use orthavis_operations::ask;
use serde_json::{Value, json};
use std::path::{Path, PathBuf};
use std::process::ExitCode;

#[derive(Subcommand)]
#[command(defer = true)]
pub enum Bench {
    /// What a probe reads, with faults in the build or without
    ///
    /// Two points: volts between them. With --ohms: resistance, power off. With --amps: the current into a feed. With --all:
    /// every point against `source-`.
    Probe {
        /// A build document (orthavis.build/1); `-` reads standard input
        file: PathBuf,
        /// Red and black probe, as in `tail:to+ source-`
        #[arg(value_name = "POINT", num_args = 0..=2)]
        points: Vec<String>,
        #[command(flatten)]
        at: At,
        /// A fault, as in `weak_joint@tail:plug=3`; may be given several times
        #[arg(long, value_name = "KIND@PLACE")]
        fault: Vec<String>,
        /// Current into this feed
        #[arg(long, value_name = "FEED", conflicts_with_all = ["ohms", "all"])]
        amps: Option<String>,
        /// Resistance between the two points with the power off
        #[arg(long, conflicts_with = "all")]
        ohms: bool,
        /// Every point against `source-`
        #[arg(long, conflicts_with = "points")]
        all: bool,
        /// As a simulated meter of this serial number shows it
        #[arg(long, value_name = "SERIAL")]
        meter: Option<u64>,
        /// Print JSON
        #[arg(long)]
        json: bool,
    },
    /// What a pinched wire does: current, fuse, heat
    Pinch {
        /// A build document (orthavis.build/1); `-` reads standard input
        file: PathBuf,
        /// The feed that is pinched
        #[arg(long)]
        feed: String,
        /// Where along it: 0 at its supply to 1 at its end
        #[arg(long, default_value_t = 1.0)]
        at: f64,
        /// State of the source [default: the one with the weakest protection]
        #[arg(long)]
        state: Option<String>,
        /// Print JSON
        #[arg(long)]
        json: bool,
    },
    /// What every reading should be, in the order in which a careful person takes them
    Expect {
        /// A build document (orthavis.build/1); `-` reads standard input
        file: PathBuf,
        /// State of the source [default: the fullest]
        #[arg(long)]
        state: Option<String>,
        /// Print JSON
        #[arg(long)]
        json: bool,
    },
    /// What is wrong, from what was seen and read, and what to check next
    Diagnose {
        /// A build document (orthavis.build/1); `-` reads standard input
        file: PathBuf,
        #[command(flatten)]
        at: At,
        /// What was seen, as in `tail=dark` or `edge=part:17`; without a light, as in `blows`, `hot` or, after that, `cold`
        #[arg(long, value_name = "LIGHT=SYMPTOM")]
        saw: Vec<String>,
        /// What was read, as in `tail:to+ source- = 11.2 V`, `tail = 0.31 A`, `clamp tail = 0.3 A` or, power off, `tail:from+ tail:to+ = 0.4 ohm` or `diode tail:to+ tail:to- = 1.8 V`
        #[arg(long, value_name = "POINTS = VALUE")]
        read: Vec<String>,
        /// Hold two faults at once possible
        #[arg(long)]
        pairs: bool,
        /// Print JSON
        #[arg(long)]
        json: bool,
    },
}

#[derive(Args)]
pub struct At {
    /// Scene that is on [default: the first]
    #[arg(long)]
    pub(crate) scene: Option<String>,
    /// State of the source [default: the fullest]
    #[arg(long)]
    pub(crate) state: Option<String>,
}

impl At {
    /// A scene, at the fullest state.
    pub(crate) fn scene(scene: Option<String>) -> Self {
        At { scene, state: None }
    }
}

/// The question's answer, or its refusal in words.
pub(crate) fn asked(name: &str, question: &Value) -> Result<Value, String> {
    let answer = ask(name, question.to_string().as_bytes()).map_err(|refusal| refusal.detail)?;
    serde_json::from_slice(&answer).map_err(|error| error.to_string())
}

pub(crate) fn document(file: &Path) -> Result<Value, String> {
    let text = read_text(file)?;
    parse(&text).map_err(|error| format!("{} cannot be used:\n{error}", file.display()))?;
    serde_json::from_str(&text).map_err(|error| error.to_string())
}

pub(crate) fn scene(document: &Value, at: &At) -> Result<String, String> {
    let first = document.pointer("/scenes/0/id").and_then(Value::as_str).map(str::to_owned);
    at.scene.clone().or(first).ok_or_else(|| "this build has no scene; add one in the workshop".to_owned())
}

fn put(json: bool, value: &Value, words: impl FnOnce() -> String) -> Result<ExitCode, String> {
    let text = if json { serde_json::to_string_pretty(value).map_err(|error| error.to_string())? + "\n" } else { words() };
    print(&text)?;
    Ok(ExitCode::SUCCESS)
}

/// Four significant figures.
fn figure(value: f64) -> String {
    if value == 0.0 {
        return "0".to_owned();
    }
    let digits = (3 - value.abs().log10().floor() as i32).clamp(0, 9) as usize;
    format!("{value:.digits$}")
}

fn number(value: &Value) -> String {
    value.as_f64().map_or_else(|| "open".to_owned(), figure)
}

/// A figure as people read it; a share of light in percent.
fn with_unit(value: &Value, unit: &str) -> String {
    match (value.as_f64(), unit) {
        (None, _) => "open".to_owned(),
        (Some(share), "1") => format!("{:.0} % of its light", 100.0 * share),
        (Some(value), unit) => format!("{} {unit}", figure(value)),
    }
}

pub fn run(bench: &Bench) -> Result<ExitCode, String> {
    match bench {
        Bench::Probe { file, points, at, fault, amps, ohms, all, meter, json } => {
            let document = document(file)?;
            let pair = match (points.as_slice(), *all || amps.is_some()) {
                ([red, black], false) => Some([red.clone(), black.clone()]),
                ([], true) => None,
                _ => return Err("name two points, as in `orthavis probe trike.json tail:to+ source-`, or give --all or --amps FEED".to_owned()),
            };
            let mut question = json!({ "document": document, "scene": scene(&document, at)?, "state": at.state, "faults": fault });
            if *ohms {
                question["ohms"] = json!([pair]);
                question["meter"] = json!(meter);
            }
            let probed = asked("probe", &question)?;
            let shows = |setting: Setting, value: f64| meter.map_or(value, |serial| Serial(serial).shows(setting, value));
            // Of a show, which frame this is.
            let frame = |mut told: Value| {
                if let (Some(told), Some(at)) = (told.as_object_mut(), probed.get("frame_s")) {
                    told.insert("frame_s".into(), at.clone());
                }
                told
            };
            let of_frame = probed["frame_s"].as_f64().map_or_else(String::new, |at| format!("at {at:.2} s of its show, where its pixels together take most\n"));
            if *all {
                let volts: serde_json::Map<String, Value> = (probed["volts"].as_object().into_iter().flatten())
                    .map(|(point, volts)| (point.clone(), json!(shows(Setting::Volts, volts.as_f64().unwrap_or(f64::NAN)))))
                    .collect();
                let lines = || volts.iter().map(|(point, volts)| format!("{:>12} V  {point}\n", number(volts))).collect::<String>();
                return put(*json, &frame(json!({ "volts": volts })), || lines() + &of_frame);
            }
            if let Some(feed) = amps {
                let amps = probed["amps"].get(feed).and_then(Value::as_f64).ok_or_else(|| format!("there is no feed `{feed}`"))?;
                let amps = shows(Setting::Amps, amps);
                return put(*json, &frame(json!({ "amps": amps })), || format!("{} A\n{of_frame}", figure(amps)));
            }
            if *ohms {
                let ohms = probed["ohms"][0].clone();
                return put(*json, &json!({ "ohms": ohms }), || format!("{} ohm\n", number(&ohms)));
            }
            let [red, black] = pair.unwrap_or_default();
            let build = parse(&document.to_string()).map_err(|error| error.to_string())?;
            let spot = |name: &str| {
                let spot = Spot::parse(&build, name).map_err(|error| error.to_string())?;
                Ok::<f64, String>(probed["volts"][spot.name(&build)].as_f64().unwrap_or(0.0))
            };
            let volts = shows(Setting::Volts, spot(&red)? - spot(&black)?);
            put(*json, &frame(json!({ "volts": volts })), || format!("{} V\n{of_frame}", figure(volts)))
        }
        Bench::Pinch { file, feed, at, state, json } => {
            let found = asked("pinch", &json!({ "document": document(file)?, "feed": feed, "at": at }))?;
            let all = found.as_array().cloned().unwrap_or_default();
            let pinch = match &state {
                Some(state) => all.iter().find(|pinch| pinch["state"] == state.as_str()).ok_or_else(|| format!("this source has no state `{state}`"))?,
                // The one that hurts most: nothing opens, or the wire gets hottest.
                None => {
                    let heat = |pinch: &Value| (pinch["fuse"].is_null(), pinch["peak_c"].as_f64().unwrap_or(0.0));
                    all.iter().max_by(|a, b| heat(a).partial_cmp(&heat(b)).unwrap_or(std::cmp::Ordering::Equal)).ok_or("this source has no state")?
                }
            };
            let told = json!({ "fault_a": pinch["fault_a"], "fuse": pinch["fuse"], "opens_s": pinch["opens_s"], "survives": pinch["survives"], "peak_c": pinch["peak_c"] });
            put(*json, &told, || {
                let opens = match (pinch["fuse"].as_str(), pinch["opens_s"].as_array()) {
                    (Some(fuse), Some(times)) => format!("the fuse of {fuse} opens after {} to {} s", number(&times[0]), number(&times[1])),
                    _ => "NO FUSE OPENS".to_owned(),
                };
                let end = if pinch["survives"] == true { "the wire survives" } else { "THE WIRE BURNS" };
                format!(
                    "{} A, {}: {opens}; {end}, {} °C at {}\n",
                    number(&pinch["fault_a"]),
                    pinch["state"].as_str().unwrap_or(""),
                    number(&pinch["peak_c"]),
                    pinch["hottest"].as_str().unwrap_or("")
                )
            })
        }
        Bench::Expect { file, state, json } => {
            let list = asked("expect", &json!({ "document": document(file)?, "state": state }))?;
            put(*json, &list, || {
                let line = |check: &Value| {
                    let text = |name: &str| check[name].as_str().unwrap_or("").to_owned();
                    let probes: Vec<&str> = check["probes"].as_array().into_iter().flatten().filter_map(Value::as_str).collect();
                    let limit = |name: &str| check[name].as_f64().map_or_else(|| "any".to_owned(), figure);
                    format!(
                        "{}\n    {}\n    {} {}: {} (fine: {} to {})\n",
                        text("title"),
                        text("how"),
                        text("setting"),
                        probes.join(" "),
                        with_unit(&check["expected"], &text("unit")),
                        limit("low"),
                        limit("high")
                    )
                };
                list.as_array().into_iter().flatten().map(line).collect()
            })
        }
        Bench::Diagnose { file, at, saw, read, pairs, json } => {
            let document = document(file)?;
            let saw = saw.iter().map(|text| saw_of(text)).collect::<Vec<_>>();
            let read = read.iter().map(|text| read_of(text)).collect::<Result<Vec<_>, _>>()?;
            let found = asked(
                "diagnose",
                &json!({ "document": document, "scene": scene(&document, at)?, "state": at.state, "saw": saw, "read": read, "pairs": pairs }),
            )?;
            put(*json, &found, || told(&found))
        }
    }
}

/// `tail=dark`, `edge=part:17` or `blows`.
fn saw_of(text: &str) -> Value {
    let (light, symptom) = text.split_once('=').map_or((None, text), |(light, symptom)| (Some(light.trim()), symptom));
    let (symptom, from) = symptom.split_once(':').map_or((symptom, None), |(symptom, from)| (symptom, from.trim().parse::<usize>().ok()));
    json!({ "light": light, "symptom": symptom.trim(), "from": from })
}

/// `tail:to+ source- = 11.2 V`.
fn read_of(text: &str) -> Result<Value, String> {
    let usage = || {
        format!(
            "`{text}` is no reading; write it as `tail:to+ source- = 11.2 V`, `tail = 0.31 A`, `clamp tail = 0.3 A`, `diode tail:to+ tail:to- = 1.8 V` or `tail:from+ tail:to+ = 0.4 ohm` (or `= open`)"
        )
    };
    let (probes, value) = text.rsplit_once('=').ok_or_else(usage)?;
    let mut probes: Vec<&str> = probes.split_whitespace().collect();
    let value = value.trim();
    // The range of the meter may stand before the places.
    let range = probes.first().copied().filter(|word| probes.len() > 1 && ["volts", "amps", "clamp", "ohms", "diode"].contains(word));
    if range.is_some() {
        probes.remove(0);
    }
    if value == "open" && probes.len() == 2 {
        return Ok(json!({ "setting": range.unwrap_or("ohms"), "probes": probes, "value": null }));
    }
    let split = value.find(|letter: char| letter.is_alphabetic()).unwrap_or(value.len());
    let (figure, unit) = value.split_at(split);
    let figure: f64 = figure.trim().parse().map_err(|_| usage())?;
    let (setting, factor) = match (unit.trim(), probes.len()) {
        ("V", 2) | ("", 2) => ("volts", 1.0),
        ("mV", 2) => ("volts", 1e-3),
        ("ohm" | "ohms" | "Ω", 2) => ("ohms", 1.0),
        ("A", 1) | ("", 1) => ("amps", 1.0),
        ("mA", 1) => ("amps", 1e-3),
        _ => return Err(usage()),
    };
    let setting = match (setting, range) {
        (_, None) => setting,
        ("volts", Some(range @ ("volts" | "diode"))) | ("amps", Some(range @ ("amps" | "clamp"))) | ("ohms", Some(range @ "ohms")) => range,
        _ => return Err(usage()),
    };
    Ok(json!({ "setting": setting, "probes": probes, "value": figure * factor }))
}

fn told(found: &Value) -> String {
    let text = |value: &Value, name: &str| value[name].as_str().unwrap_or("").to_owned();
    let mut words = found["first"].as_str().map_or_else(String::new, |first| format!("{first}\n"));
    for suspect in found["suspects"].as_array().into_iter().flatten().take(5) {
        words += &format!("{:>4.0} %  {}  [{}]\n", 100.0 * suspect["share"].as_f64().unwrap_or(0.0), text(suspect, "words"), text(suspect, "fault"));
    }
    if found["found"] == true {
        words += &format!("Then: {}\n", text(&found["suspects"][0], "repair"));
    } else if found["next"].is_object() {
        let next = &found["next"];
        words += &format!("Next: {} As planned: {}\n", text(next, "how"), with_unit(&next["plan"], &text(next, "unit")));
        for (fault, value) in next["expected"].as_object().into_iter().flatten() {
            words += &format!("      {} if {fault}\n", with_unit(value, &text(next, "unit")));
        }
    } else {
        words += "No further check tells these apart.\n";
    }
    words
}
