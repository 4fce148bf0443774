//! Light as it falls: where on a body each light shines from, into which directions, and what that gives on a surface.
//!
//! Colours are linear sRGB whose luminance (ITU-R BT.709) is photometric: an intensity in cd, an illuminance in lx. Nothing
//! stands in light's way but what it shines from: a beam has nothing behind its own surface.

use crate::body::{Body, Place};
use crate::body::{DOWN, UP};
use crate::mesh::{Vec3, add, dot, length, sub, times, unit};
use orthavis_model::document::{Build, Light, Load};
use orthavis_model::laws::light::Beam;
use orthavis_model::states::Lit;
use orthavis_physics::light::source_lm;
use orthavis_physics::points::PointReport;

/// A point that shines.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Emitter {
    /// Where, m.
    pub at: Vec3,
    /// Its axis, of length 1.
    pub aim: Vec3,
    /// How its intensity goes with the angle.
    pub beam: Beam,
    /// Intensity on its axis: red, green, blue, cd.
    pub cd: [f64; 3],
    /// Which light it belongs to, in document order.
    pub light: usize,
}

/// Share of each channel in what an eye calls bright (ITU-R BT.709).
const LUMINANCE: [f64; 3] = [0.2126, 0.7152, 0.0722];

/// What an eye calls bright of a colour.
pub fn luminance(rgb: [f64; 3]) -> f64 {
    rgb.iter().zip(LUMINANCE).map(|(channel, share)| channel * share).sum()
}

/// Chromaticity of a light by name: x and y of CIE 1931 (dominant wavelengths of usual LEDs, white by its temperature).
fn chromaticity(colour: &str) -> [f64; 2] {
    match colour {
        "red" => [0.695, 0.305],
        "orange" => [0.625, 0.374],
        "amber" => [0.570, 0.429],
        "yellow" => [0.500, 0.495],
        "green" => [0.180, 0.720],
        "blue" => [0.135, 0.075],
        "violet" => [0.175, 0.040],
        "warm white" => [0.460, 0.411],
        "cool white" => [0.301, 0.309],
        _ => [0.3457, 0.3585],
    }
}

/// A colour of luminance 1 in linear sRGB (IEC 61966-2-1); what no screen can show is brought to its edge, as bright.
pub fn colour_of(name: &str) -> [f64; 3] {
    let [x, y] = chromaticity(name);
    let (big_x, big_z) = (x / y, (1.0 - x - y) / y);
    let rgb = [3.2406 * big_x - 1.5372 - 0.4986 * big_z, -0.9689 * big_x + 1.8758 + 0.0415 * big_z, 0.0557 * big_x - 0.2040 + 1.0570 * big_z];
    let shown = rgb.map(|channel| channel.max(0.0));
    let bright = luminance(shown);
    shown.map(|channel| channel / bright)
}

/// Most points that a row is put together from, of any length; and most of all lights together, where there are fewer lights.
const MOST: usize = 16;
const MOST_IN_ALL: usize = 48;
/// Fewest of a row, however many rows there are.
const FEWEST: usize = 3;

/// A share of a light as it sits on a body: a point from which it shines, whatever it shines.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Spot {
    /// Where, m.
    pub at: Vec3,
    /// Its axis, of length 1.
    pub aim: Vec3,
    /// How its intensity goes with the angle.
    pub beam: Beam,
    /// Which light it belongs to, in document order.
    pub light: usize,
    /// Which of so many equal shares of it this is.
    pub share: [usize; 2],
}

/// Where every light shines from, lit or not: rows by as few points as give their light on a surface.
pub fn spots(build: &Build, body: &Body) -> Vec<Spot> {
    let rows = build.lights.iter().filter(|light| light.row_m().is_some()).count();
    let left = MOST_IN_ALL.saturating_sub(build.lights.len() - rows);
    let most = left.checked_div(rows).unwrap_or(1).clamp(FEWEST, MOST);
    build.lights.iter().enumerate().flat_map(|(index, light)| spots_of(light, index, most, body)).collect()
}

/// The single LEDs of a light as they are seen: each pixel of a chain, each LED of a strip, one of anything else.
pub fn leds(light: &Light, index: usize, body: &Body) -> Vec<Spot> {
    let count = light.row_m().zip(light.row_pitch_m()).map_or(1, |(long, pitch)| ((long / pitch).round() as usize).clamp(1, MOST_LEDS));
    spots_of(light, index, count, body)
}

/// So many LEDs of one row are drawn one by one; more of them merge.
const MOST_LEDS: usize = 3000;

fn spots_of(light: &Light, index: usize, most: usize, body: &Body) -> Vec<Spot> {
    let place = body.place(&light.place);
    let aim = aimed(place.map_or(UP, |place| place.aim), light);
    let way = place.map_or_else(|| vec![add(body.pack, [0.0, 0.0, 0.3])], |place| row(place, light));
    let count = if light.row_m().is_some() && way.len() > 1 { most } else { 1 };
    let spot = |step: usize| Spot { at: along(&way, (step as f64 + 0.5) / count as f64), aim, beam: light.beam(), light: index, share: [step, count] };
    (0..count).map(spot).collect()
}

/// What a spot shines on its axis when its light is lit so and gets so much: red, green, blue, cd.
pub fn shines(build: &Build, spot: &Spot, lit: &Lit, output: f64) -> [f64; 3] {
    let light = &build.lights[spot.light];
    let through = light.shine.as_ref().map_or(1.0, orthavis_model::document::Shine::through);
    flux(light, lit, output, spot.share).map(|lm| spot.beam.peak_cd(through * lm))
}

/// Where everything shines from at a point of a scene; what is dark is not there.
pub fn emitters(build: &Build, body: &Body, point: &PointReport) -> Vec<Emitter> {
    let emitter = |spot: Spot| {
        let output = point.lights.get(&build.lights[spot.light].id).map_or(0.0, |report| report.output);
        let lit = point.lit.get(spot.light).unwrap_or(&Lit::OFF);
        let cd = shines(build, &spot, lit, output);
        (luminance(cd) > 0.0).then_some(Emitter { at: spot.at, aim: spot.aim, beam: spot.beam, cd, light: spot.light })
    };
    spots(build, body).into_iter().filter_map(emitter).collect()
}

/// Flux of one of so many shares of a light, by channel, lm.
fn flux(light: &Light, lit: &Lit, output: f64, [step, count]: [usize; 2]) -> [f64; 3] {
    let Load::Pixels(pixels) = &light.load else {
        let lm = source_lm(light, lit, output) / count as f64;
        return colour_of(light.shines()).map(|channel| lm * channel);
    };
    let channels = light.pixel_lm(pixels);
    let hues = ["red", "green", "blue"].map(colour_of);
    let (from, to) = (step * pixels.count as usize / count, (step + 1) * pixels.count as usize / count);
    let mut sum = [0.0; 3];
    for pixel in from..to {
        let colour = lit.colour_of(pixel);
        for hue in 0..3 {
            let lm = channels[hue] * colour[hue] * lit.level * output;
            (0..3).for_each(|channel| sum[channel] += lm * hues[hue][channel]);
        }
    }
    sum
}

/// The axis of a light where somebody said how far it is aimed down; else that of its place.
fn aimed(aim: Vec3, light: &Light) -> Vec3 {
    let Some(down) = light.shine.as_ref().and_then(|shine| shine.down_deg) else { return aim };
    let level = [aim[0], aim[1], 0.0];
    if length(level) < 1e-9 {
        return DOWN;
    }
    let (sin, cos) = down.to_radians().sin_cos();
    add(times(unit(level), cos), times(UP, -sin))
}

/// The middle of a place, as long as a row is.
fn row(place: &Place, light: &Light) -> Vec<Vec3> {
    let all: f64 = place.along.windows(2).map(|pair| length(sub(pair[1], pair[0]))).sum();
    let Some(long) = light.row_m().filter(|long| *long < all) else { return place.along.clone() };
    let (from, to) = (0.5 - 0.5 * long / all, 0.5 + 0.5 * long / all);
    let mut way = vec![along(&place.along, from)];
    let mut gone = 0.0;
    for pair in place.along.windows(2) {
        gone += length(sub(pair[1], pair[0])) / all;
        if gone > from && gone < to {
            way.push(pair[1]);
        }
    }
    way.push(along(&place.along, to));
    way
}

/// A point on a way, by the share of it that is behind.
fn along(way: &[Vec3], share: f64) -> Vec3 {
    let all: f64 = way.windows(2).map(|pair| length(sub(pair[1], pair[0]))).sum();
    let mut left = share * all;
    for pair in way.windows(2) {
        let step = length(sub(pair[1], pair[0]));
        if left <= step && step > 0.0 {
            return add(pair[0], times(sub(pair[1], pair[0]), left / step));
        }
        left -= step;
    }
    way.last().copied().unwrap_or([0.0; 3])
}

/// Illuminance on a surface: red, green, blue, lx. `E = Σ I(θ) cos φ / d²`.
pub fn falls(at: Vec3, normal: Vec3, emitters: &[Emitter]) -> [f64; 3] {
    let mut sum = [0.0; 3];
    for emitter in emitters {
        let ray = sub(at, emitter.at);
        let square = dot(ray, ray).max(1e-6);
        let way = times(ray, 1.0 / square.sqrt());
        let facing = -dot(way, normal);
        if facing <= 0.0 {
            continue;
        }
        let factor = emitter.beam.share(dot(way, emitter.aim)) * facing / square;
        (0..3).for_each(|channel| sum[channel] += factor * emitter.cd[channel]);
    }
    sum
}
