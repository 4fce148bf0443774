//! Frames one after the other, small enough to be drawn sixty times a second.

use crate::Stage;
use crate::arrives::delivered;
use orthavis_model::data;
use orthavis_model::document::{Build, Load, Scene};
use orthavis_model::laws::effect::{Colour, Inputs};
use orthavis_model::states::Lit;
use orthavis_physics::network::Solution;
use orthavis_physics::points::PointError;
use orthavis_physics::show::{FASTEST, FULL_CODE, Frame, Show, extent};

data! {
    /// One light over some frames. Each pixel is six hexadecimal digits, red, green, blue; pixels in the order of the
    /// place's path, frame after frame.
    pub struct PlayedLight {
        /// The light.
        pub light: String,
        /// Its pixels.
        pub count: usize,
        /// What is asked of it.
        pub asked: String,
        /// What it delivers; left out where it was not asked for.
        #[serde(skip_serializing_if = "Option::is_none")]
        pub delivered: Option<String>,
    }

    /// Some frames of a show.
    pub struct Played {
        /// The first, s.
        pub from_s: f64,
        /// From frame to frame, s.
        pub step_s: f64,
        /// How many.
        pub frames: usize,
        /// Lights of pixels, in document order.
        pub lights: Vec<PlayedLight>,
        /// What all pixels ask for at each frame, A.
        pub current_a: Vec<f64>,
    }
}

fn hex(text: &mut String, colour: &Colour) {
    const DIGITS: &[u8; 16] = b"0123456789abcdef";
    for channel in colour {
        let code = (FULL_CODE * channel + 0.5) as u8;
        text.push(DIGITS[usize::from(code >> 4)] as char);
        text.push(DIGITS[usize::from(code & 15)] as char);
    }
}

/// So many frames from a moment on, and what arrives of them where that is wanted.
///
/// # Errors
/// When the network has no steady state at one of them.
pub fn played(build: &Build, scene: &Scene, from_s: f64, step_s: f64, frames: usize, inputs: &Inputs, arrives: bool) -> Result<Played, PointError> {
    let show = Show::of(build, scene);
    let mut stage = if arrives { Some(Stage::of(build, scene)?) } else { None };
    if let Some(stage) = &mut stage {
        // A colour has eight bits.
        stage.network.judge_only();
    }
    let own = pixel_lights(build);
    let mut lights: Vec<PlayedLight> = own.iter().map(|index| empty(build, *index, frames, arrives)).collect();
    let mut current_a = Vec::with_capacity(frames);
    let mut frame = Frame::default();
    let mut near: Option<Solution> = None;
    for number in 0..frames {
        show.frame_into(from_s + step_s * number as f64, inputs, &mut frame);
        current_a.push(show.nominal_a(&frame));
        let lit = show.lit(&frame);
        near = draw(build, stage.as_mut(), &own, &lit, near.as_ref(), &mut lights)?;
    }
    Ok(Played { from_s, step_s, frames, lights, current_a })
}

/// Lights with codes that a controller was sent, and what arrives of them where that is wanted.
///
/// # Errors
/// When the network has no steady state then.
pub fn received(build: &Build, scene: &Scene, frame: &Frame, arrives: bool) -> Result<Played, PointError> {
    let show = Show::of(build, scene);
    let mut stage = if arrives { Some(Stage::of(build, scene)?) } else { None };
    if let Some(stage) = &mut stage {
        stage.network.judge_only();
    }
    let own = pixel_lights(build);
    let mut lights: Vec<PlayedLight> = own.iter().map(|index| empty(build, *index, 1, arrives)).collect();
    // What the scene has dark may be lit by whoever else sends.
    let mut lit = show.lit(frame);
    for (chain, codes) in show.chains.iter().zip(&frame.codes) {
        for piece in &chain.pieces {
            for light in &piece.lights {
                lit[*light] = Lit::frame(show.along(piece, *light, codes).into());
            }
        }
    }
    draw(build, stage.as_mut(), &own, &lit, None, &mut lights)?;
    Ok(Played { from_s: 0.0, step_s: 0.0, frames: 1, lights, current_a: vec![show.nominal_a(frame)] })
}

fn pixel_lights(build: &Build) -> Vec<usize> {
    (0..build.lights.len()).filter(|index| matches!(build.lights[*index].load, Load::Pixels(_))).collect()
}

fn empty(build: &Build, index: usize, frames: usize, arrives: bool) -> PlayedLight {
    let count = if let Load::Pixels(pixels) = &build.lights[index].load { pixels.count as usize } else { 0 };
    let text = || String::with_capacity(6 * count * frames);
    PlayedLight { light: build.lights[index].id.clone(), count, asked: text(), delivered: arrives.then(text) }
}

/// Adds a frame to every light.
fn draw(
    build: &Build,
    stage: Option<&mut Stage<'_>>,
    own: &[usize],
    lit: &[Lit],
    near: Option<&Solution>,
    lights: &mut [PlayedLight],
) -> Result<Option<Solution>, PointError> {
    debug_assert!(lit.len() == build.lights.len());
    for (light, index) in lights.iter_mut().zip(own) {
        for pixel in 0..light.count {
            hex(&mut light.asked, &lit[*index].colour_of(pixel).map(|channel| channel * lit[*index].level));
        }
    }
    let Some(stage) = stage else { return Ok(None) };
    let point = stage.point(lit.to_vec());
    let solution = stage.solve(&point, near)?;
    for (light, index) in lights.iter_mut().zip(own) {
        arrive(stage, &solution, *index, &lit[*index], light);
    }
    Ok(Some(solution))
}

fn arrive(stage: &Stage<'_>, solution: &Solution, index: usize, lit: &Lit, light: &mut PlayedLight) {
    let (Load::Pixels(pixels), Some(text)) = (&stage.build.lights[index].load, &mut light.delivered) else { return };
    for (pixel, tap) in stage.network.taps(solution, index, lit).enumerate() {
        let asked = lit.colour_of(pixel).map(|channel| channel * lit.level);
        hex(text, &delivered(pixels, &asked, tap.voltage_v));
    }
}

/// How many times its speed a scene may be shown to anybody: what flashes no more than three times within any second.
pub fn most_speed(build: &Build, scene: &Scene) -> f64 {
    extent(build, scene).map_or(FASTEST, |extent| extent.flashes.iter().map(|one| one.most_speed).fold(FASTEST, f64::min))
}
