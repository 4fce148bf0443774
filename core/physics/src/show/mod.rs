//! Pixels over time: which number each has, what it shows at a moment, and what all of them take.

mod chain;
mod extent;
mod flash;

pub use chain::{Chain, Piece, chains};
pub use extent::{Extent, FRAMES_A_SECOND, LONGEST_S, Moment, extent, lit, mean_lit};
pub use flash::{FASTEST, Flashes};

use orthavis_model::document::{Build, Load, PixelEffect, Pixels, Scene};
use orthavis_model::laws::effect::{Colour, Inputs};
use orthavis_model::states::Lit;

/// What the data of a channel says at most.
pub const FULL_CODE: f64 = 255.0;

/// What a piece shows.
#[derive(Clone, Copy, Debug)]
enum Look<'a> {
    /// Nothing.
    Dark,
    /// One colour, its level in it.
    Still(Colour),
    /// An effect, at a level.
    Moving(&'a PixelEffect, f64),
}

/// A scene as controllers play it.
#[derive(Debug)]
pub struct Show<'a> {
    build: &'a Build,
    scene: &'a Scene,
    /// Data outputs in document order, then the lights of pixels that are on none.
    pub chains: Vec<Chain>,
    looks: Vec<Vec<Look<'a>>>,
}

/// Codes of every chain at a moment: red, green, blue by number.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Frame {
    /// By chain.
    pub codes: Vec<Vec<[u8; 3]>>,
}

fn code(share: f64) -> u8 {
    (FULL_CODE * share + 0.5).floor().clamp(0.0, FULL_CODE) as u8
}

impl<'a> Show<'a> {
    /// A scene of a build.
    pub fn of(build: &'a Build, scene: &'a Scene) -> Self {
        let chains = chains(build);
        let look = |piece: &Piece| {
            // Copies show the same; the first that the scene lights says what.
            let lit = piece.lights.iter().find_map(|light| scene.lights.get(&build.lights[*light].id).filter(|lit| lit.level > 0.0));
            match lit {
                None => Look::Dark,
                Some(lit) => match &lit.effect {
                    Some(effect) => Look::Moving(effect, lit.level),
                    None => Look::Still(lit.colour.map(|channel| lit.level * channel)),
                },
            }
        };
        let looks = chains.iter().map(|chain| chain.pieces.iter().map(look).collect()).collect();
        Show { build, scene, chains, looks }
    }

    /// The effects that it shows, nested ones included.
    pub fn effects(&self) -> Vec<&'a PixelEffect> {
        self.looks.iter().flatten().filter_map(|look| if let Look::Moving(effect, _) = look { Some(effect.each()) } else { None }).flatten().collect()
    }

    /// Whether frames say more than the scene itself: something moves, follows or is limited, or copies share numbers.
    pub fn needs_frames(&self) -> bool {
        self.effects().len() + self.chains.iter().filter(|chain| self.limit_a(chain).is_some()).count() > 0
            || self.chains.iter().any(|chain| chain.pieces.iter().any(|piece| piece.lights.len() > 1))
    }

    fn limit_a(&self, chain: &Chain) -> Option<f64> {
        self.build.controllers[chain.controller?].limit_a
    }

    fn pixels(&self, light: usize) -> Option<&'a Pixels> {
        if let Load::Pixels(pixels) = &self.build.lights[light].load { Some(pixels) } else { None }
    }

    /// Codes at a moment.
    pub fn frame(&self, time_s: f64, inputs: &Inputs) -> Frame {
        let mut frame = Frame::default();
        self.frame_into(time_s, inputs, &mut frame);
        frame
    }

    /// The same into a frame that is there already.
    pub fn frame_into(&self, time_s: f64, inputs: &Inputs, frame: &mut Frame) {
        frame.codes.resize_with(self.chains.len(), Vec::new);
        for ((chain, looks), codes) in self.chains.iter().zip(&self.looks).zip(&mut frame.codes) {
            codes.clear();
            for (piece, look) in chain.pieces.iter().zip(looks) {
                match look {
                    Look::Dark => codes.extend(std::iter::repeat_n([0; 3], piece.count)),
                    Look::Still(colour) => codes.extend(std::iter::repeat_n(colour.map(code), piece.count)),
                    Look::Moving(effect, level) => {
                        codes.extend((0..piece.count).map(|pixel| effect.colour(pixel, piece.count, time_s, inputs).map(|channel| code(channel * level))));
                    }
                }
            }
        }
        for (index, controller) in self.build.controllers.iter().enumerate() {
            let Some(limit_a) = controller.limit_a else { continue };
            let own = |chain: &Chain| chain.controller == Some(index);
            let (lit_a, idle_a) = self.chains.iter().zip(&frame.codes).filter(|(chain, _)| own(chain)).fold((0.0, 0.0), |(lit, idle), (chain, codes)| {
                let (more, still) = self.chain_a(chain, codes);
                (lit + more, idle + still)
            });
            if lit_a + idle_a > limit_a {
                let room_a = (limit_a - idle_a).max(0.0);
                for (_, codes) in self.chains.iter().zip(&mut frame.codes).filter(|(chain, _)| own(chain)) {
                    for channel in codes.iter_mut().flatten() {
                        *channel = (f64::from(*channel) * room_a / lit_a).floor() as u8;
                    }
                }
            }
        }
    }

    /// What the pixels of a chain take for their light at these codes, and what they take dark, A, where their voltage suffices.
    fn chain_a(&self, chain: &Chain, codes: &[[u8; 3]]) -> (f64, f64) {
        let (mut lit_a, mut idle_a) = (0.0, 0.0);
        for piece in &chain.pieces {
            for light in &piece.lights {
                let Some(pixels) = self.pixels(*light) else { continue };
                let own = &codes[piece.first..piece.first + (pixels.count as usize).min(piece.count)];
                lit_a += light_a(pixels, own);
                idle_a += pixels.idle_a * f64::from(pixels.count);
            }
        }
        (lit_a, idle_a)
    }

    /// What all pixels take at a frame, A, where their voltage suffices.
    pub fn nominal_a(&self, frame: &Frame) -> f64 {
        self.chains.iter().zip(&frame.codes).map(|(chain, codes)| self.chain_a(chain, codes)).map(|(lit_a, idle_a)| lit_a + idle_a).sum()
    }

    /// How a frame lights every light of the build, in document order; pixels in the order of their place's path.
    pub fn lit(&self, frame: &Frame) -> Vec<Lit> {
        let mut lit = self.build.lit(self.scene);
        for ((chain, looks), codes) in self.chains.iter().zip(&self.looks).zip(&frame.codes) {
            for (piece, look) in chain.pieces.iter().zip(looks) {
                for light in &piece.lights {
                    lit[*light] = if matches!(look, Look::Dark) { Lit::OFF } else { Lit::frame(self.along(piece, *light, codes).into()) };
                }
            }
        }
        lit
    }

    /// Colours of one light of a piece, in the order of its place's path.
    pub fn along(&self, piece: &Piece, light: usize, codes: &[[u8; 3]]) -> Vec<Colour> {
        let count = self.pixels(light).map_or(0, |pixels| pixels.count as usize);
        let mut colours: Vec<Colour> =
            codes[piece.first..piece.first + count.min(piece.count)].iter().map(|code| code.map(|c| f64::from(c) / FULL_CODE)).collect();
        if piece.against {
            colours.reverse();
        }
        colours
    }
}

/// What pixels take for their light at these codes, A.
fn light_a(pixels: &Pixels, codes: &[[u8; 3]]) -> f64 {
    let sums = codes.iter().fold([0u64; 3], |sums, code| std::array::from_fn(|channel| sums[channel] + u64::from(code[channel])));
    (0..3).map(|channel| pixels.channel_a[channel] * sums[channel] as f64 / FULL_CODE).sum()
}
