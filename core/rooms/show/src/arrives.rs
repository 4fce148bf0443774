//! What is seen: the light that each pixel delivers behind the voltage that reaches it, beside what is asked of it.
//!
//! Blue and green need more voltage than red: as it falls along a strip, white turns pinkish, then orange.

use crate::Stage;
use orthavis_model::document::{Build, Feed, Load, Pixels, Scene};
use orthavis_model::laws::effect::{Colour, Inputs};
use orthavis_model::states::Lit;
use orthavis_physics::network::Solution;
use orthavis_physics::points::PointError;
use orthavis_physics::show::Show;
use palette::color_difference::Ciede2000;
use palette::white_point::D65;
use palette::{FromColor, Lab, LinSrgb};
use serde::Serialize;

/// From here on a difference is seen, CIEDE2000.
pub const SEEN: f64 = 3.0;

/// A light as it is seen at a moment.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Arrived {
    /// The light.
    pub light: String,
    /// What each pixel is asked for, in the order of its place's path: red, green, blue, linear, 0 to 1.
    pub asked: Vec<[f64; 3]>,
    /// What it delivers.
    pub delivered: Vec<[f64; 3]>,
    /// Voltage at each, V.
    pub volts: Vec<f64>,
    /// The largest colour difference, CIEDE2000.
    pub difference: f64,
    /// The pixel from which on it is seen, counted from 1 along the path.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub seen_from: Option<usize>,
    /// What a second feed at its far end leaves of the difference; nothing where none is seen.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub cure: Option<Cure>,
}

/// A second feed.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = SecondFeed))]
pub struct Cure {
    /// What it does, as on a button.
    pub title: String,
    /// The largest difference with it.
    pub difference: f64,
    /// The pixel from which on one is still seen.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub seen_from: Option<usize>,
    /// What each pixel then delivers.
    pub delivered: Vec<[f64; 3]>,
    /// RFC 6902 operations on the document.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<Object>))]
    pub changes: json_patch::Patch,
}

/// What a pixel delivers of a colour at a voltage.
pub fn delivered(pixels: &Pixels, asked: &Colour, volts: f64) -> Colour {
    std::array::from_fn(|channel| {
        let span = pixels.regulation_v[channel] - pixels.off_v[channel];
        asked[channel] * ((volts - pixels.off_v[channel]) / span).clamp(0.0, 1.0)
    })
}

/// Difference of two colours of linear light as the eye has it, CIEDE2000; the primaries are taken as those of sRGB.
pub fn difference(a: &Colour, b: &Colour) -> f64 {
    let lab = |colour: &Colour| Lab::<D65, f64>::from_color(LinSrgb::new(colour[0], colour[1], colour[2]));
    lab(a).difference(lab(b))
}

/// A light at a solution, by what each pixel is asked for.
fn light(stage: &Stage<'_>, solution: &Solution, index: usize, lit: &Lit) -> Option<(Vec<Colour>, Vec<Colour>, Vec<f64>)> {
    let Load::Pixels(pixels) = &stage.build.lights[index].load else { return None };
    let volts: Vec<f64> = stage.network.taps(solution, index, lit).map(|tap| tap.voltage_v).collect();
    let asked: Vec<Colour> = (0..volts.len()).map(|tap| lit.colour_of(tap).map(|channel| channel * lit.level)).collect();
    let given = asked.iter().zip(&volts).map(|(asked, volts)| delivered(pixels, asked, *volts)).collect();
    Some((asked, given, volts))
}

fn seen(asked: &[Colour], given: &[Colour]) -> (f64, Option<usize>) {
    let all: Vec<f64> = asked.iter().zip(given).map(|(a, b)| difference(a, b)).collect();
    // To four digits: the last ones of a logarithm are another on every machine.
    let told = |value: f64| (1e4 * value).round() / 1e4;
    (told(all.iter().copied().fold(0.0, f64::max)), all.iter().position(|one| *one > SEEN).map(|at| at + 1))
}

/// A build with a second feed at the far end of a light, and the wire it takes.
fn fed_twice(build: &Build, index: usize) -> Option<Build> {
    let Load::Pixels(pixels) = &build.lights[index].load else { return None };
    let length = f64::from(pixels.count) * pixels.pitch_m;
    let first = build.lights[index].feeds.first()?;
    let at_m = if first.at_m < 0.5 * length { length } else { 0.0 };
    if build.lights[index].feeds.iter().any(|feed| (feed.at_m - at_m).abs() < 0.5 * pixels.pitch_m) {
        return None;
    }
    let mut copy = build.clone();
    copy.lights[index].feeds.push(Feed { at_m, length_m: first.length_m + length, ..first.clone() });
    Some(copy)
}

/// Every light of pixels as it is seen at a moment; with what a second feed would do where a difference is seen.
///
/// # Errors
/// When the network has no steady state then.
pub fn arrived(build: &Build, scene: &Scene, time_s: f64, inputs: &Inputs) -> Result<Vec<Arrived>, PointError> {
    let show = Show::of(build, scene);
    let lit = show.lit(&show.frame(time_s, inputs));
    let mut stage = Stage::of(build, scene)?;
    let point = stage.point(lit.clone());
    let solution = stage.solve(&point, None)?;
    let mut found = Vec::new();
    for index in 0..build.lights.len() {
        let Some((asked, given, volts)) = light(&stage, &solution, index, &lit[index]) else { continue };
        let (difference, seen_from) = seen(&asked, &given);
        let cure = seen_from.and_then(|_| cured(build, scene, index, &lit, difference));
        found.push(Arrived { light: build.lights[index].id.clone(), asked, delivered: given, volts, difference, seen_from, cure });
    }
    Ok(found)
}

/// What a second feed does for a light; `None` where it does not help.
fn cured(build: &Build, scene: &Scene, index: usize, lit: &[Lit], before: f64) -> Option<Cure> {
    let copy = fed_twice(build, index)?;
    let mut stage = Stage::of(&copy, scene).ok()?;
    let point = stage.point(lit.to_vec());
    let solution = stage.solve(&point, None).ok()?;
    let (asked, given, _) = light(&stage, &solution, index, &lit[index])?;
    let (difference, seen_from) = seen(&asked, &given);
    (difference < before).then(|| Cure {
        title: format!("Feed {} at its other end too", build.lights[index].id),
        difference,
        seen_from,
        delivered: given,
        changes: json_patch::diff(&build.to_value(), &copy.to_value()),
    })
}
