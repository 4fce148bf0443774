//! Effects and ready shows as cards, each with a few frames of a short piece: what is picked from.

use crate::ready::{Ready, ready};
use orthavis_model::data;
use orthavis_model::document::{
    BlinkEffect, BreatheEffect, Build, ChaseEffect, Direction, EffectKind, EmberEffect, GradientEffect, LevelEffect, Load, MixEffect, PixelEffect,
    PixelEffectRow, RainbowEffect, ShowInput, TableEffect, ToAndFroEffect,
};
use orthavis_model::laws::effect::{Colour, Inputs};
use orthavis_physics::show::{FULL_CODE, Show};
use std::fmt::Write;

/// Pixels of an effect's picture, frames of it, and s from frame to frame.
const PIXELS: usize = 16;
const FRAMES: usize = 24;

data! {
    /// A moving picture of a row of pixels, six hexadecimal digits each, frame after frame.
    pub struct Thumbnail {
        /// Pixels of a frame.
        pub count: usize,
        /// Frames.
        pub frames: usize,
        /// From frame to frame, s.
        pub step_s: f64,
        /// The digits.
        pub codes: String,
    }

    /// An effect to pick.
    pub struct EffectCard {
        /// The effect, ready to be put into a scene.
        pub effect: PixelEffect,
        /// What it is called.
        pub called: &'static str,
        /// What it does.
        pub about: &'static str,
        /// How it looks.
        pub thumbnail: Thumbnail,
    }

    /// A ready show to pick.
    pub struct ReadyCard {
        /// What it is, and the scene that it becomes.
        pub ready: Ready,
        /// How all its pixels look, piece after piece.
        pub thumbnail: Thumbnail,
    }

    /// What a show can follow.
    pub struct InputCard {
        /// Which.
        pub input: ShowInput,
        /// What it is called.
        pub called: &'static str,
        /// The words it may say; none: a share, 0 to 1.
        pub says: Vec<&'static str>,
        /// While nobody says anything else: a share.
        pub usual: f64,
    }

    /// What can be picked.
    pub struct Cards {
        /// Inputs.
        pub inputs: Vec<InputCard>,
        /// Effects.
        pub effects: Vec<EffectCard>,
        /// Ready shows; none without pixels.
        pub shows: Vec<ReadyCard>,
    }
}

fn digits(text: &mut String, colours: impl Iterator<Item = Colour>) {
    for channel in colours.flatten() {
        // Writing to memory does not fail.
        let _ = write!(text, "{:02x}", (FULL_CODE * channel + 0.5) as u8);
    }
}

/// An effect of a kind as somebody would begin with it.
fn begun(kind: EffectKind) -> (PixelEffect, &'static str) {
    let some = |colours: &[Colour]| Some(colours.to_vec());
    let amber = [1.0, 0.42, 0.08];
    let row = |word: &str, colour: Colour| PixelEffectRow { word: word.to_owned(), colour: Some(colour), effect: None };
    let direction = Direction::Away;
    match kind {
        EffectKind::Steady => (PixelEffect::steady_in(&[amber]), "One colour."),
        EffectKind::Blink => (BlinkEffect { period_s: 1.0, colours: some(&[amber]), duty: 0.5, direction }.into(), "On, then off or a second colour."),
        EffectKind::Breathe => (BreatheEffect { period_s: 3.0, colours: some(&[amber]), direction }.into(), "Swells and fades."),
        EffectKind::Chase => (ChaseEffect { period_s: 3.6, colours: some(&[amber]), spread: 3.0, direction }.into(), "A bright spot with a tail runs along."),
        EffectKind::ToAndFro => {
            let red = some(&[[1.0, 0.1, 0.05]]);
            (ToAndFroEffect { period_s: 3.0, colours: red, spread: 3.0, direction }.into(), "A bright spot runs to the end and back.")
        }
        EffectKind::Rainbow => (RainbowEffect { period_s: 6.0, direction }.into(), "All hues, moving along."),
        EffectKind::Gradient => {
            let ring = some(&[amber, [0.9, 0.1, 0.25], [0.25, 0.1, 0.8]]);
            (GradientEffect { period_s: 8.0, colours: ring, direction }.into(), "From colour to colour, moving along.")
        }
        EffectKind::Ember => (EmberEffect { colours: some(&[[0.3, 0.02, 0.0], [1.0, 0.4, 0.05]]), seed: 0 }.into(), "Glows like coals, never the same."),
        EffectKind::Level => {
            let colours = some(&[[1.0, 0.0, 0.0], [1.0, 0.5, 0.0], [0.0, 1.0, 0.0]]);
            (LevelEffect { colours, input: ShowInput::Battery }.into(), "As many pixels as a figure says.")
        }
        EffectKind::Mix => {
            let colours = some(&[[0.0, 0.2, 1.0], [1.0, 0.2, 0.0]]);
            (MixEffect { colours, input: ShowInput::Speed }.into(), "One colour, as a figure says.")
        }
        EffectKind::Table => {
            let table = vec![row("off", [0.25, 0.0, 0.0]), row("on", [1.0, 0.0, 0.0])];
            (TableEffect { input: ShowInput::Brake, table }.into(), "A colour or effect for each word of an input.")
        }
    }
}

/// How an effect looks on a row of so many pixels; what follows an input is shown from its least to its most.
pub fn thumbnail(effect: &PixelEffect) -> Thumbnail {
    let once = effect.period_s().unwrap_or(4.0);
    let step_s = once / FRAMES as f64;
    let mut codes = String::with_capacity(6 * PIXELS * FRAMES);
    for frame in 0..FRAMES {
        let mut inputs = Inputs::default();
        if let Some(input) = effect.input() {
            inputs.set(input, frame as f64 / (FRAMES - 1) as f64);
        }
        digits(&mut codes, (0..PIXELS).map(|pixel| effect.colour(pixel, PIXELS, step_s * frame as f64, &inputs)));
    }
    Thumbnail { count: PIXELS, frames: FRAMES, step_s, codes }
}

/// How a whole scene looks, its pieces one after the other.
fn of_scene(build: &Build, ready: &Ready) -> Thumbnail {
    let show = Show::of(build, &ready.scene);
    let used: Vec<ShowInput> = show.effects().iter().filter_map(|effect| effect.input()).collect();
    let once = if show.period_s() > 0.0 { show.period_s().min(12.0) } else { 4.0 };
    let step_s = once / FRAMES as f64;
    let mut codes = String::new();
    let mut count = 0;
    for frame in 0..FRAMES {
        let mut inputs = Inputs::default();
        for input in &used {
            inputs.set(*input, frame as f64 / (FRAMES - 1) as f64);
        }
        let lit = show.lit(&show.frame(step_s * frame as f64, &inputs));
        let lights = build
            .lights
            .iter()
            .zip(&lit)
            .filter_map(|(light, lit)| if let Load::Pixels(pixels) = &light.load { Some((pixels.count as usize, lit)) } else { None });
        let colours: Vec<Colour> = lights.flat_map(|(own, lit)| (0..own).map(|pixel| lit.colour_of(pixel).map(|channel| channel * lit.level))).collect();
        count = colours.len();
        digits(&mut codes, colours.into_iter());
    }
    Thumbnail { count, frames: FRAMES, step_s, codes }
}

impl InputCard {
    /// What is to be known of an input.
    pub fn of(input: ShowInput) -> Self {
        InputCard { input, called: input.called(), says: input.says().to_vec(), usual: input.usual() }
    }
}

/// What can be picked in a build.
pub fn cards(build: &Build) -> Cards {
    let effects = EffectKind::WORDS.iter().map(|(_, kind)| {
        let (effect, about) = begun(*kind);
        EffectCard { called: kind.called(), about, thumbnail: thumbnail(&effect), effect }
    });
    let shows = ready(build).into_iter().map(|ready| ReadyCard { thumbnail: of_scene(build, &ready), ready });
    let inputs = ShowInput::WORDS.iter().map(|(_, input)| InputCard::of(*input));
    Cards { inputs: inputs.collect(), effects: effects.collect(), shows: shows.collect() }
}
