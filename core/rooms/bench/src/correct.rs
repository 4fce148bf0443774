//! Readings correct the model: what is least certain of a build is fitted to what was read, by least squares with the
//! tolerances of the parts as priors, so that one bad reading moves little. The meter's own scale is fitted along.

use crate::BenchError;
use crate::meter::Setting;
use crate::reading::{Probes, value};
use crate::rig::{Rig, Shot};
use orthavis_model::document::{Build, Load, Scene, Source};
use orthavis_model::states::State;
use serde::Serialize;
use serde_json::{Value, json};

/// A reading with what was on when it was taken.
#[derive(Clone, Debug)]
pub struct Taken {
    /// What was lit.
    pub scene: Scene,
    /// How full the source was.
    pub state: State,
    /// What the meter was set to.
    pub setting: Setting,
    /// Where it was.
    pub probes: Probes,
    /// What it showed.
    pub value: f64,
}

/// Something uncertain: what it does to a build.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Unknown {
    /// Logarithm of the factor on the battery's resistance.
    Resistance,
    /// Share by which the battery's voltage differs.
    Charge,
    /// Share by which a converter's setting differs.
    Setting(usize),
    /// Share by which a feed's wire differs, by its place in the document: owner list, owner, feed.
    Wire(List, usize, usize),
    /// Volts by which an LED's forward voltage differs.
    Forward(usize),
    /// Share by which the meter reads wrong.
    Meter,
}

#[derive(Clone, Copy, Debug, PartialEq)]
enum List {
    Junctions,
    Converters,
    Lights,
}

impl Unknown {
    /// Standard deviation before anything was read.
    fn prior(self, build: &Build) -> f64 {
        match self {
            // By chemistry alone a pack's resistance is known to a factor of two.
            Unknown::Resistance => 2f64.ln(),
            Unknown::Charge => 0.01,
            Unknown::Setting(_) => 0.02,
            Unknown::Wire(..) => 0.20,
            Unknown::Forward(light) => {
                if forward_v(&build.lights[light].load).is_some_and(|volts| volts <= 2.5) {
                    0.1
                } else {
                    0.2
                }
            }
            // Anywhere within half a percent.
            Unknown::Meter => 0.005 / 3f64.sqrt(),
        }
    }
}

fn forward_v(load: &Load) -> Option<f64> {
    match load {
        Load::LedArray(array) => Some(array.led.vf_v),
        Load::Strip(strip) => Some(strip.led_vf_v),
        Load::Pixels(_) | Load::Module(_) => None,
    }
}

fn unknowns(build: &Build) -> Vec<Unknown> {
    let mut all = vec![Unknown::Meter];
    if matches!(build.source, Source::Battery(_)) {
        all.extend([Unknown::Resistance, Unknown::Charge]);
    }
    all.extend((0..build.junctions.len()).map(|index| Unknown::Wire(List::Junctions, index, 0)));
    for index in 0..build.converters.len() {
        all.extend([Unknown::Setting(index), Unknown::Wire(List::Converters, index, 0)]);
    }
    for (index, light) in build.lights.iter().enumerate() {
        all.extend((0..light.feeds.len()).map(|feed| Unknown::Wire(List::Lights, index, feed)));
        if forward_v(&light.load).is_some() {
            all.push(Unknown::Forward(index));
        }
    }
    all
}

/// A build as the unknowns have it, with the factor on its source's voltage.
fn varied(build: &Build, unknowns: &[Unknown], at: &[f64]) -> (Build, f64) {
    let (mut copy, mut emf) = (build.clone(), 1.0);
    for (unknown, value) in unknowns.iter().zip(at) {
        match *unknown {
            Unknown::Resistance => {
                if let Source::Battery(battery) = &mut copy.source {
                    battery.resistance_ohm = Some(battery.pack_ohm() * value.exp());
                }
            }
            Unknown::Charge => emf *= 1.0 + value,
            Unknown::Setting(index) => *copy.converters[index].conversion.setting_mut() *= 1.0 + value,
            Unknown::Wire(list, owner, feed) => {
                let feed = match list {
                    List::Junctions => &mut copy.junctions[owner].feed,
                    List::Converters => &mut copy.converters[owner].feed,
                    List::Lights => &mut copy.lights[owner].feeds[feed],
                };
                feed.length_m *= (1.0 + value).max(0.0);
            }
            Unknown::Forward(light) => match &mut copy.lights[light].load {
                Load::LedArray(array) => array.led.vf_v += value,
                Load::Strip(strip) => strip.led_vf_v += value,
                Load::Pixels(_) | Load::Module(_) => {}
            },
            Unknown::Meter => {}
        }
    }
    (copy, emf)
}

/// What every reading would be.
fn simulated(build: &Build, unknowns: &[Unknown], at: &[f64], taken: &[Taken]) -> Result<Vec<f64>, BenchError> {
    let (copy, emf) = varied(build, unknowns, at);
    let mut rig = Rig::new(&copy, &[])?;
    let scale = 1.0 + unknowns.iter().position(|unknown| *unknown == Unknown::Meter).map_or(0.0, |index| at[index]);
    let mut all: Vec<f64> = Vec::with_capacity(taken.len());
    let mut last: Option<(&Taken, Shot)> = None;
    for one in taken {
        // Readings of one scene and state mostly come in a row.
        let shot = match last.take() {
            Some((before, shot)) if before.scene == one.scene && before.state == one.state => shot,
            _ => rig.shot_scaled(&one.scene, one.state, emf, None)?,
        };
        let off = if one.setting == Setting::Volts { scale } else { 1.0 };
        all.push(off * value(&rig, &shot, one.setting, &one.probes));
        last = Some((one, shot));
    }
    Ok(all)
}

/// How far a reading scatters once the meter's scale is told apart: its counts, and a little.
fn scatter(one: &Taken) -> f64 {
    match one.setting {
        Setting::Volts => one.setting.error(one.value) - 0.004 * one.value.abs(),
        setting => setting.error(one.value),
    }
}

/// A figure of the build that the readings speak against.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Corrected {
    /// What it is.
    pub words: String,
    /// Where it stands in the document.
    pub at: String,
    /// What the build says.
    pub from: f64,
    /// What the readings say.
    pub to: f64,
    /// How far that may be off (one standard deviation).
    pub give: f64,
    /// Unit of the three.
    pub unit: &'static str,
}

/// What readings say of a build.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Correction {
    /// Figures that should change; empty where the build is as it says.
    pub figures: Vec<Corrected>,
    /// The change that takes them all over (RFC 6902).
    #[cfg_attr(feature = "schema", schema(value_type = Vec<Object>))]
    pub changes: Vec<Value>,
    /// How many readings went in.
    pub readings: usize,
    /// Root mean square of what readings differ from the build as it is, in their own scatter.
    pub before: f64,
    /// The same with the change.
    pub after: f64,
}

/// Steps of the fit at most.
const STEPS: usize = 12;
/// A figure moves that is this many of its standard deviations off, and this share of its prior.
const MOVES: (f64, f64) = (2.0, 0.5);
/// Readings that a fit wants at least.
pub const LEAST: usize = 3;

/// Fits what is uncertain of a build to readings.
///
/// # Errors
/// Too few readings, or a build without a steady state in one of them.
pub fn correct(build: &Build, taken: &[Taken]) -> Result<Correction, BenchError> {
    if taken.len() < LEAST {
        let problem = format!("{} readings are too few to tell parts apart", taken.len());
        return Err(BenchError::new("readings", problem, format!("Take at least {LEAST}, at rest and under load")));
    }
    let unknowns = unknowns(build);
    let prior: Vec<f64> = unknowns.iter().map(|unknown| unknown.prior(build)).collect();
    let spread: Vec<f64> = taken.iter().map(scatter).collect();
    // In units of their own scatter and prior, so that the normal equations are about one everywhere.
    let residuals = |at: &[f64]| -> Result<Vec<f64>, BenchError> {
        let values: Vec<f64> = at.iter().zip(&prior).map(|(one, prior)| one * prior).collect();
        let read = simulated(build, &unknowns, &values, taken)?;
        Ok(taken.iter().zip(read).zip(&spread).map(|((one, read), spread)| (read - one.value) / spread).collect())
    };
    let cost = |at: &[f64], off: &[f64]| -> f64 { off.iter().map(|r| r * r).sum::<f64>() + at.iter().map(|t| t * t).sum::<f64>() };
    let count = unknowns.len();
    let mut at = vec![0.0; count];
    let mut off = residuals(&at)?;
    let before = rms(&off);
    let mut hessian = vec![vec![0.0; count]; count];
    for _ in 0..STEPS {
        let mut slopes = Vec::with_capacity(count);
        for index in 0..count {
            let beside = |step: f64| {
                let mut moved = at.clone();
                moved[index] += step;
                let there = residuals(&moved)?;
                Ok::<_, BenchError>(there.iter().zip(&off).map(|(there, here)| (there - here) / step).collect::<Vec<f64>>())
            };
            // On an edge beyond which something gives way there is only one side.
            slopes.push(beside(1e-3).or_else(|_| beside(-1e-3))?);
        }
        let dot = |a: &[f64], b: &[f64]| a.iter().zip(b).map(|(a, b)| a * b).sum::<f64>();
        let downhill: Vec<f64> = (0..count).map(|index| -dot(&slopes[index], &off) - at[index]).collect();
        for (row, line) in hessian.iter_mut().enumerate() {
            for (column, cell) in line.iter_mut().enumerate() {
                *cell = dot(&slopes[row], &slopes[column]) + f64::from(u8::from(row == column));
            }
        }
        let step = solved(&hessian, &downhill);
        let now = cost(&at, &off);
        let mut share = 1.0;
        let taken_step = loop {
            let tried: Vec<f64> = at.iter().zip(&step).map(|(at, step)| at + share * step).collect();
            match residuals(&tried) {
                Ok(there) if cost(&tried, &there) < now => break Some((tried, there)),
                _ if share < 1e-3 => break None,
                _ => share *= 0.5,
            }
        };
        let Some((next, there)) = taken_step else { break };
        let still = next.iter().zip(&at).all(|(next, at)| (next - at).abs() < 1e-6);
        (at, off) = (next, there);
        if still {
            break;
        }
    }
    let give: Vec<f64> = (0..count)
        .map(|index| {
            let unit: Vec<f64> = (0..count).map(|other| f64::from(u8::from(other == index))).collect();
            solved(&hessian, &unit)[index].max(0.0).sqrt()
        })
        .collect();
    let mut figures = Vec::new();
    for (index, unknown) in unknowns.iter().enumerate() {
        if at[index].abs() > MOVES.0 * give[index] && at[index].abs() > MOVES.1 {
            figures.extend(figure(build, *unknown, at[index] * prior[index], give[index] * prior[index]));
        }
    }
    let changes = figures.iter().map(|figure| json!({ "op": "add", "path": figure.at, "value": figure.to })).collect();
    Ok(Correction { figures, changes, readings: taken.len(), before, after: rms(&off) })
}

fn rms(off: &[f64]) -> f64 {
    (off.iter().map(|r| r * r).sum::<f64>() / off.len() as f64).sqrt()
}

/// What becomes of a figure of the document; of what has none, nothing.
fn figure(build: &Build, unknown: Unknown, value: f64, give: f64) -> Option<Corrected> {
    // Four figures: no reading knows more.
    let round = |value: f64| {
        let size = 10f64.powf(3.0 - value.abs().max(1e-12).log10().floor());
        (value * size).round() / size
    };
    match unknown {
        Unknown::Resistance => {
            let Source::Battery(battery) = &build.source else { return None };
            let (from, to) = (battery.pack_ohm(), battery.pack_ohm() * value.exp());
            Some(Corrected {
                words: "resistance of the battery".into(),
                at: "/source/resistance_ohm".into(),
                from,
                to: round(to),
                give: to * give,
                unit: "ohm",
            })
        }
        Unknown::Setting(index) => {
            let part = &build.converters[index];
            let ((from, unit), field) = (part.setting(), part.setting_field());
            let to = from * (1.0 + value);
            Some(Corrected {
                words: format!("what {} is set to", part.id),
                at: format!("/converters/{index}/{field}"),
                from,
                to: round(to),
                give: from * give,
                unit,
            })
        }
        Unknown::Forward(light) => {
            let part = &build.lights[light];
            let from = forward_v(&part.load)?;
            let field = if matches!(part.load, Load::LedArray(_)) { "led/vf_v" } else { "led_vf_v" };
            let at = format!("/lights/{light}/load/{field}");
            Some(Corrected { words: format!("forward voltage of the LEDs of {}", part.id), at, from, to: round(from + value), give, unit: "V" })
        }
        Unknown::Charge | Unknown::Wire(..) | Unknown::Meter => None,
    }
}

/// Solution of a symmetric positive system, by Cholesky's decomposition.
fn solved(matrix: &[Vec<f64>], right: &[f64]) -> Vec<f64> {
    let count = right.len();
    let mut lower = vec![vec![0.0; count]; count];
    for row in 0..count {
        for column in 0..=row {
            let sum: f64 = (0..column).map(|k| lower[row][k] * lower[column][k]).sum();
            let rest = matrix[row][column] - sum;
            lower[row][column] = if row == column { rest.max(1e-12).sqrt() } else { rest / lower[column][column] };
        }
    }
    let mut x = right.to_vec();
    for row in 0..count {
        let sum: f64 = (0..row).map(|k| lower[row][k] * x[k]).sum();
        x[row] = (x[row] - sum) / lower[row][row];
    }
    for row in (0..count).rev() {
        let sum: f64 = (row + 1..count).map(|k| lower[k][row] * x[k]).sum();
        x[row] = (x[row] - sum) / lower[row][row];
    }
    x
}
