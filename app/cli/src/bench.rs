//! The bench from the command line: the same questions as the page's, for people or as JSON.

use crate::out::{Document, Failure, Out, Outcome};
use clap::{Args, Subcommand};
use orthavis_core::bench::diagnose::Diagnosis;
use orthavis_core::bench::expect::Check;
use orthavis_core::bench::meter::{Serial, Setting};
use orthavis_core::bench::pinch::Pinch;
use orthavis_core::bench::spot::Spot;
use orthavis_core::working::plain;
use orthavis_operations::bench::{DiagnoseRequest, ExpectRequest, PinchRequest, ProbeRequest, Probed, ReadRequest, SawRequest};
use orthavis_operations::bench::{diagnosed, expected, pinched, probe};
use serde::Serialize;
use std::collections::BTreeMap;
use std::path::PathBuf;

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
    },
    /// What every reading should be, in the order in which a careful person takes them
    Expect {
        /// A build document (orthavis.build/1); `-` reads standard input
        file: PathBuf,
        /// State of the source [default: the fullest]
        #[arg(long)]
        state: Option<String>,
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
        /// A fault that was found here before, as this command names it
        #[arg(long, value_name = "FAULT")]
        failed: Vec<String>,
        /// A light that has worked as it is wired now; `all` for every light
        #[arg(long, value_name = "LIGHT")]
        worked: Vec<String>,
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

/// A figure as people read it, a share of light in percent; an open circuit has none.
fn figure(value: Option<f64>, unit: &str) -> String {
    match (value, unit) {
        (None, _) => "open".to_owned(),
        (Some(share), "1") => format!("{:.0} % of its light", 100.0 * share),
        (Some(value), unit) => plain(value, unit),
    }
}

pub fn run(bench: &Bench, out: Out) -> Outcome {
    match bench {
        Bench::Probe { file, points, at, fault, amps, ohms, all, meter } => {
            let document = Document::read(file)?;
            let pair = match (points.as_slice(), *all || amps.is_some()) {
                ([red, black], false) => Some([red.clone(), black.clone()]),
                ([], true) => None,
                _ => {
                    return Err(Failure::Usage("name two points, as in `orthavis probe trike.json tail:to+ source-`, or give --all or --amps FEED".to_owned()));
                }
            };
            let asked = Reading { pair, amps: amps.as_deref(), ohms: *ohms, meter: meter.map(Serial) };
            let probed = probe(ProbeRequest {
                document: document.raw()?,
                scene: document.scene(at.scene.as_ref())?,
                state: at.state.clone(),
                faults: fault.clone(),
                ohms: asked.pair.iter().filter(|_| *ohms).cloned().collect(),
                meter: meter.filter(|_| *ohms),
                aftermath: false,
            })?;
            asked.put(&document, &probed, out)
        }
        Bench::Pinch { file, feed, at, state } => {
            let all = pinched(PinchRequest { document: Document::read(file)?.raw()?, feed: feed.clone(), at: *at })?;
            let pinch = match state {
                Some(state) => all.iter().find(|pinch| pinch.state.word() == state).ok_or_else(|| format!("this source has no state `{state}`"))?,
                // The one that hurts most: nothing opens, or the wire gets hottest.
                None => {
                    let worse = |a: &&Pinch, b: &&Pinch| (a.fuse.is_none(), a.peak_c).partial_cmp(&(b.fuse.is_none(), b.peak_c));
                    all.iter().max_by(|a, b| worse(a, b).unwrap_or(std::cmp::Ordering::Equal)).ok_or("this source has no state")?
                }
            };
            out.put(pinch, || pinch_words(pinch))
        }
        Bench::Expect { file, state } => {
            let list = expected(ExpectRequest { document: Document::read(file)?.raw()?, state: state.clone() })?;
            out.put(&list, || list.iter().map(check_words).collect())
        }
        Bench::Diagnose { file, at, saw, read, pairs, failed, worked } => {
            let document = Document::read(file)?;
            let all = || document.build.lights.iter().map(|light| light.id.clone()).collect();
            let found = diagnosed(DiagnoseRequest {
                document: document.raw()?,
                scene: document.scene(at.scene.as_ref())?,
                state: at.state.clone(),
                saw: saw.iter().map(|text| saw_of(text)).collect(),
                read: read.iter().map(|text| read_of(text)).collect::<Result<_, _>>()?,
                pairs: *pairs,
                failed: failed.clone(),
                worked: if worked.iter().any(|light| light == "all") { all() } else { worked.clone() },
            })?;
            out.put(&found, || diagnosis_words(&found))
        }
    }
}

/// What of a probed build is asked for.
struct Reading<'a> {
    pair: Option<[String; 2]>,
    amps: Option<&'a str>,
    ohms: bool,
    meter: Option<Serial>,
}

/// One figure, or those of all points; of a show, which frame this is.
#[derive(Default, Serialize)]
struct Read {
    #[serde(skip_serializing_if = "Option::is_none")]
    frame_s: Option<f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    amps: Option<f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    volts: Option<Volts>,
}

#[derive(Serialize)]
#[serde(untagged)]
enum Volts {
    Between(f64),
    Everywhere(BTreeMap<String, f64>),
}

#[derive(Serialize)]
struct Ohms {
    /// Nothing: the circuit is open.
    ohms: Option<f64>,
}

impl Reading<'_> {
    fn put(&self, document: &Document, probed: &Probed, out: Out) -> Outcome {
        let shows = |setting: Setting, value: f64| self.meter.as_ref().map_or(value, |serial| serial.shows(setting, value));
        let of_frame = || probed.frame_s.map_or_else(String::new, |at| format!("at {at:.2} s of its show, where its pixels together take most\n"));
        let read = Read { frame_s: probed.frame_s, ..Read::default() };
        if let Some(feed) = self.amps {
            let amps = shows(Setting::Amps, *probed.amps.get(feed).ok_or_else(|| format!("there is no feed `{feed}`"))?);
            return out.put(&Read { amps: Some(amps), ..read }, || format!("{}\n{}", plain(amps, "A"), of_frame()));
        }
        let Some([red, black]) = &self.pair else {
            let volts: BTreeMap<String, f64> = probed.volts.iter().map(|(point, volts)| (point.clone(), shows(Setting::Volts, *volts))).collect();
            let lines: String = volts.iter().map(|(point, volts)| format!("{:>12}  {point}\n", plain(*volts, "V"))).collect();
            return out.put(&Read { volts: Some(Volts::Everywhere(volts)), ..read }, || lines + &of_frame());
        };
        if self.ohms {
            let ohms = probed.ohms.first().copied().flatten();
            return out.put(&Ohms { ohms }, || figure(ohms, "ohm") + "\n");
        }
        let at = |name: &str| -> Result<f64, Failure> {
            let spot = Spot::parse(&document.build, name).map_err(|error| error.to_string())?;
            Ok(probed.volts.get(&spot.name(&document.build)).copied().unwrap_or(0.0))
        };
        let volts = shows(Setting::Volts, at(red)? - at(black)?);
        out.put(&Read { volts: Some(Volts::Between(volts)), ..read }, || format!("{}\n{}", plain(volts, "V"), of_frame()))
    }
}

fn pinch_words(pinch: &Pinch) -> String {
    let opens = match (&pinch.fuse, pinch.opens_s) {
        (Some(fuse), Some([fast, slow])) => format!("the fuse of {fuse} opens after {} to {}", plain(fast, "s"), plain(slow, "s")),
        _ => "NO FUSE OPENS".to_owned(),
    };
    let end = if pinch.survives { "the wire survives" } else { "THE WIRE BURNS" };
    format!("{}, {}: {opens}; {end}, {} at {}\n", plain(pinch.fault_a, "A"), pinch.state.word(), plain(pinch.peak_c, "°C"), pinch.hottest)
}

fn check_words(check: &Check) -> String {
    let limit = |limit: Option<f64>| limit.map_or_else(|| "any".to_owned(), |limit| figure(Some(limit), check.unit));
    format!(
        "{}\n    {}\n    {} {}: {} (fine: {} to {})\n",
        check.title,
        check.how,
        check.setting.word(),
        check.probes.join(" "),
        figure(check.expected, check.unit),
        limit(check.low),
        limit(check.high)
    )
}

fn diagnosis_words(found: &Diagnosis) -> String {
    let mut words = found.first.map_or_else(String::new, |first| format!("{first}\n"));
    for suspect in found.suspects.iter().take(5) {
        words += &format!("{:>4.0} %  {}  [{}]\n", 100.0 * suspect.share, suspect.words, suspect.fault);
    }
    match (&found.next, found.suspects.first()) {
        (_, Some(suspect)) if found.found => words += &format!("Then: {}\n", suspect.repair),
        (Some(next), _) => {
            words += &format!("Next: {} As planned: {}\n", next.how, figure(next.plan, next.unit));
            for (fault, value) in &next.expected {
                words += &format!("      {} if {fault}\n", figure(*value, next.unit));
            }
        }
        _ => words += "No further check tells these apart.\n",
    }
    words
}

/// `tail=dark`, `edge=part:17` or `blows`.
fn saw_of(text: &str) -> SawRequest {
    let (light, symptom) = text.split_once('=').map_or((None, text), |(light, symptom)| (Some(light.trim()), symptom));
    let (symptom, from) = symptom.split_once(':').map_or((symptom, None), |(symptom, from)| (symptom, from.trim().parse::<usize>().ok()));
    SawRequest { light: light.map(str::to_owned), symptom: symptom.trim().to_owned(), from }
}

/// `tail:to+ source- = 11.2 V`.
fn read_of(text: &str) -> Result<ReadRequest, Failure> {
    let usage = || {
        format!(
            "`{text}` is not a reading; write it as `tail:to+ source- = 11.2 V`, `tail = 0.31 A`, `clamp tail = 0.3 A`, `diode tail:to+ tail:to- = 1.8 V` or `tail:from+ tail:to+ = 0.4 ohm` (or `= open`)"
        )
    };
    let (probes, value) = text.rsplit_once('=').ok_or_else(usage)?;
    let mut probes: Vec<String> = probes.split_whitespace().map(str::to_owned).collect();
    let value = value.trim();
    // The range of the meter may stand before the places.
    let named = |word: &String| Setting::WORDS.iter().find(|(known, _)| known == word).map(|(_, setting)| *setting);
    let range = probes.first().filter(|_| probes.len() > 1).and_then(named);
    if range.is_some() {
        probes.remove(0);
    }
    let reading = |setting: Setting, value: Option<f64>, probes: Vec<String>| ReadRequest { setting: setting.word().to_owned(), probes, value };
    if value == "open" && probes.len() == 2 {
        return Ok(reading(range.unwrap_or(Setting::Ohms), None, probes));
    }
    let split = value.find(|letter: char| letter.is_alphabetic()).unwrap_or(value.len());
    let (figure, unit) = value.split_at(split);
    let figure: f64 = figure.trim().parse().map_err(|_| usage())?;
    let (setting, factor) = match (unit.trim(), probes.len()) {
        ("V", 2) | ("", 2) => (Setting::Volts, 1.0),
        ("mV", 2) => (Setting::Volts, 1e-3),
        ("ohm" | "ohms" | "Ω", 2) => (Setting::Ohms, 1.0),
        ("A", 1) | ("", 1) => (Setting::Amps, 1.0),
        ("mA", 1) => (Setting::Amps, 1e-3),
        _ => return Err(usage().into()),
    };
    let setting = match (setting, range) {
        (_, None) => setting,
        (Setting::Volts, Some(range @ (Setting::Volts | Setting::Diode)))
        | (Setting::Amps, Some(range @ (Setting::Amps | Setting::Clamp)))
        | (Setting::Ohms, Some(range @ Setting::Ohms)) => range,
        _ => return Err(usage().into()),
    };
    Ok(reading(setting, Some(figure * factor), probes))
}
