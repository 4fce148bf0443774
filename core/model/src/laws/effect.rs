//! What pixels show at a moment: each effect as a formula of pixel, moment and inputs.
//!
//! Nothing is kept from one moment to the next, so that any moment can be asked for, here, in a controller and in a test.

use crate::document::{
    BlinkEffect, BreatheEffect, ChaseEffect, Direction, EmberEffect, GradientEffect, LevelEffect, PixelEffect, RainbowEffect, ShowInput, SteadyEffect,
    TableEffect, ToAndFroEffect,
};

/// Linear light: red, green, blue, each 0 to 1.
pub type Colour = [f64; 3];

const WHITE: &[Colour] = &[[1.0; 3]];
const BLACK: Colour = [0.0; 3];

/// What each input says, as a share, 0 to 1; of words the first is 0 and the last 1.
#[derive(Clone, Debug, PartialEq)]
pub struct Inputs([f64; ShowInput::WORDS.len()]);

impl Default for Inputs {
    fn default() -> Self {
        let mut inputs = Inputs([0.0; ShowInput::WORDS.len()]);
        for (_, input) in ShowInput::WORDS {
            inputs.0[*input as usize] = input.usual();
        }
        inputs
    }
}

impl Inputs {
    /// What one says.
    pub fn share(&self, input: ShowInput) -> f64 {
        self.0[input as usize]
    }

    /// Its word.
    pub fn word(&self, input: ShowInput) -> &'static str {
        let says = input.says();
        let at = self.share(input) * says.len().saturating_sub(1) as f64;
        says.get(at.round() as usize).copied().unwrap_or_default()
    }

    /// Lets one say a share, which is kept within 0 to 1.
    pub fn set(&mut self, input: ShowInput, share: f64) {
        self.0[input as usize] = share.clamp(0.0, 1.0);
    }

    /// Lets one say a word or a share, as written.
    ///
    /// # Errors
    /// What it may say instead.
    pub fn say(&mut self, input: ShowInput, written: &str) -> Result<(), String> {
        let says = input.says();
        if let Some(at) = says.iter().position(|word| *word == written) {
            self.set(input, at as f64 / (says.len() - 1) as f64);
            return Ok(());
        }
        match written.parse::<f64>() {
            Ok(share) if (0.0..=1.0).contains(&share) => {
                self.set(input, share);
                Ok(())
            }
            _ if says.is_empty() => Err(format!("`{}` is a share: give 0 to 1", input.word())),
            _ => Err(format!("`{}` says {}", input.word(), says.join(", "))),
        }
    }
}

fn fraction(x: f64) -> f64 {
    x - x.floor()
}

/// Up to 1 in the middle of a period and down again.
fn triangle(p: f64) -> f64 {
    1.0 - (2.0 * p - 1.0).abs()
}

fn times(colour: Colour, share: f64) -> Colour {
    colour.map(|channel| channel * share)
}

fn between(a: Colour, b: Colour, share: f64) -> Colour {
    std::array::from_fn(|channel| a[channel] + share * (b[channel] - a[channel]))
}

/// Along the colours, the first at 0 and the last at 1.
fn along(colours: &[Colour], share: f64) -> Colour {
    let x = share.clamp(0.0, 1.0) * (colours.len() - 1) as f64;
    let first = (x as usize).min(colours.len() - 1);
    let next = (first + 1).min(colours.len() - 1);
    between(colours[first], colours[next], x - first as f64)
}

/// The hexcone at full saturation and value.
fn hue(share: f64) -> Colour {
    let x = 6.0 * share;
    let (sector, rest) = (x.floor(), x - x.floor());
    match sector as u32 % 6 {
        0 => [1.0, rest, 0.0],
        1 => [1.0 - rest, 1.0, 0.0],
        2 => [0.0, 1.0, rest],
        3 => [0.0, 1.0 - rest, 1.0],
        4 => [rest, 0.0, 1.0],
        _ => [1.0, 0.0, 1.0 - rest],
    }
}

/// Steele, Lea and Flood's mixer (2014): 64 bits from 64 bits.
fn mixed(seed: u64) -> u64 {
    let z = seed.wrapping_add(0x9E37_79B9_7F4A_7C15);
    let z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
    let z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
    z ^ (z >> 31)
}

/// 0 to 1 at whole numbers.
fn lattice(a: i64, b: i64, seed: u64) -> f64 {
    let place = (a as u64).wrapping_mul(0x9E37_79B9_7F4A_7C15).wrapping_add((b as u64).wrapping_mul(0xBF58_476D_1CE4_E5B9));
    mixed(place.wrapping_add(seed)) as f64 / 2f64.powi(64)
}

/// Value noise: smooth between whole numbers.
fn noise(u: f64, w: f64, seed: u64) -> f64 {
    let (a, b) = (u.floor() as i64, w.floor() as i64);
    let ease = |f: f64| f * f * (3.0 - 2.0 * f);
    let (x, y) = (ease(fraction(u)), ease(fraction(w)));
    let row = |b: i64| lattice(a, b, seed) + x * (lattice(a + 1, b, seed) - lattice(a, b, seed));
    row(b) + y * (row(b + 1) - row(b))
}

/// A pixel at a moment.
#[derive(Clone, Copy)]
struct At<'a> {
    /// Which pixel, from 0, and of how many.
    pixel: f64,
    count: f64,
    time_s: f64,
    inputs: &'a Inputs,
}

impl At<'_> {
    /// Share of a period that is over.
    fn phase(&self, period_s: f64, direction: Direction) -> f64 {
        fraction(direction.sign() * self.time_s / period_s)
    }
}

fn palette(colours: &Option<Vec<Colour>>) -> &[Colour] {
    colours.as_deref().filter(|colours| !colours.is_empty()).unwrap_or(WHITE)
}

impl BlinkEffect {
    fn colour(&self, at: At<'_>) -> Colour {
        let colours = palette(&self.colours);
        if at.phase(self.period_s, self.direction) < self.duty { colours[0] } else { colours.get(1).copied().unwrap_or(BLACK) }
    }
}

impl BreatheEffect {
    fn colour(&self, at: At<'_>) -> Colour {
        let p = at.phase(self.period_s, self.direction);
        times(palette(&self.colours)[0], 0.5 - 0.5 * (std::f64::consts::TAU * p).cos())
    }
}

impl ChaseEffect {
    fn colour(&self, at: At<'_>) -> Colour {
        let p = at.phase(self.period_s, self.direction);
        let behind = (self.direction.sign() * (p * at.count - at.pixel)).rem_euclid(at.count);
        times(palette(&self.colours)[0], (1.0 - behind / self.spread).max(0.0))
    }
}

impl ToAndFroEffect {
    fn colour(&self, at: At<'_>) -> Colour {
        let p = at.phase(self.period_s, self.direction);
        times(palette(&self.colours)[0], (1.0 - (triangle(p) * (at.count - 1.0) - at.pixel).abs() / self.spread).max(0.0))
    }
}

impl RainbowEffect {
    fn colour(&self, at: At<'_>) -> Colour {
        hue(fraction(at.phase(self.period_s, self.direction) + at.pixel / at.count))
    }
}

impl GradientEffect {
    fn colour(&self, at: At<'_>) -> Colour {
        let colours = palette(&self.colours);
        let x = fraction(at.pixel / at.count + at.phase(self.period_s, self.direction)) * colours.len() as f64;
        let one = (x as usize).min(colours.len() - 1);
        between(colours[one], colours[(one + 1) % colours.len()], x - one as f64)
    }
}

impl EmberEffect {
    fn colour(&self, at: At<'_>) -> Colour {
        along(palette(&self.colours), noise(at.pixel / 3.0, 2.0 * at.time_s, u64::from(self.seed)))
    }
}

impl LevelEffect {
    fn colour(&self, at: At<'_>) -> Colour {
        let share = at.inputs.share(self.input);
        times(along(palette(&self.colours), share), (share * at.count - at.pixel).clamp(0.0, 1.0))
    }
}

impl TableEffect {
    fn colour(&self, at: At<'_>) -> Colour {
        let word = at.inputs.word(self.input);
        let Some(row) = self.table.iter().find(|row| row.word == word).or(self.table.first()) else { return BLACK };
        match &row.effect {
            Some(effect) => effect.at(at),
            None => row.colour.unwrap_or(BLACK),
        }
    }
}

impl PixelEffect {
    /// Its colours, white where none are given; a rainbow and what follows words have none of their own.
    pub fn palette(&self) -> &[Colour] {
        self.colours().map_or(WHITE, palette)
    }

    fn colours(&self) -> Option<&Option<Vec<Colour>>> {
        match self {
            PixelEffect::Steady(own) => Some(&own.colours),
            PixelEffect::Blink(own) => Some(&own.colours),
            PixelEffect::Breathe(own) => Some(&own.colours),
            PixelEffect::Chase(own) => Some(&own.colours),
            PixelEffect::ToAndFro(own) => Some(&own.colours),
            PixelEffect::Gradient(own) => Some(&own.colours),
            PixelEffect::Ember(own) => Some(&own.colours),
            PixelEffect::Level(own) => Some(&own.colours),
            PixelEffect::Mix(own) => Some(&own.colours),
            PixelEffect::Rainbow(_) | PixelEffect::Table(_) => None,
        }
    }

    /// Once around, s; of what repeats.
    pub fn period_s(&self) -> Option<f64> {
        match self {
            PixelEffect::Blink(own) => Some(own.period_s),
            PixelEffect::Breathe(own) => Some(own.period_s),
            PixelEffect::Chase(own) => Some(own.period_s),
            PixelEffect::ToAndFro(own) => Some(own.period_s),
            PixelEffect::Rainbow(own) => Some(own.period_s),
            PixelEffect::Gradient(own) => Some(own.period_s),
            PixelEffect::Steady(_) | PixelEffect::Ember(_) | PixelEffect::Level(_) | PixelEffect::Mix(_) | PixelEffect::Table(_) => None,
        }
    }

    /// The same, to be changed.
    pub fn period_s_mut(&mut self) -> Option<&mut f64> {
        match self {
            PixelEffect::Blink(own) => Some(&mut own.period_s),
            PixelEffect::Breathe(own) => Some(&mut own.period_s),
            PixelEffect::Chase(own) => Some(&mut own.period_s),
            PixelEffect::ToAndFro(own) => Some(&mut own.period_s),
            PixelEffect::Rainbow(own) => Some(&mut own.period_s),
            PixelEffect::Gradient(own) => Some(&mut own.period_s),
            PixelEffect::Steady(_) | PixelEffect::Ember(_) | PixelEffect::Level(_) | PixelEffect::Mix(_) | PixelEffect::Table(_) => None,
        }
    }

    /// What it follows.
    pub fn input(&self) -> Option<ShowInput> {
        match self {
            PixelEffect::Level(own) => Some(own.input),
            PixelEffect::Mix(own) => Some(own.input),
            PixelEffect::Table(own) => Some(own.input),
            _ => None,
        }
    }

    /// These colours, steady.
    pub fn steady_in(colours: &[Colour]) -> PixelEffect {
        PixelEffect::Steady(SteadyEffect { colours: Some(colours.to_vec()) })
    }

    /// Colour of pixel `i` of `count`, in the order of the chain, at a moment; linear light, before any level.
    pub fn colour(&self, i: usize, count: usize, time_s: f64, inputs: &Inputs) -> Colour {
        self.at(At { pixel: i as f64, count: count as f64, time_s, inputs })
    }

    fn at(&self, at: At<'_>) -> Colour {
        match self {
            PixelEffect::Steady(own) => palette(&own.colours)[0],
            PixelEffect::Blink(own) => own.colour(at),
            PixelEffect::Breathe(own) => own.colour(at),
            PixelEffect::Chase(own) => own.colour(at),
            PixelEffect::ToAndFro(own) => own.colour(at),
            PixelEffect::Rainbow(own) => own.colour(at),
            PixelEffect::Gradient(own) => own.colour(at),
            PixelEffect::Ember(own) => own.colour(at),
            PixelEffect::Level(own) => own.colour(at),
            PixelEffect::Mix(own) => along(palette(&own.colours), at.inputs.share(own.input)),
            PixelEffect::Table(own) => own.colour(at),
        }
    }

    /// Effects that it shows by a word.
    pub fn nested(&self) -> impl Iterator<Item = &PixelEffect> {
        let rows = if let PixelEffect::Table(own) = self { &own.table[..] } else { &[] };
        rows.iter().filter_map(|row| row.effect.as_ref())
    }

    /// The same, to be changed.
    pub fn nested_mut(&mut self) -> impl Iterator<Item = &mut PixelEffect> {
        let rows = if let PixelEffect::Table(own) = self { &mut own.table[..] } else { &mut [] };
        rows.iter_mut().filter_map(|row| row.effect.as_mut())
    }

    /// Every effect in it that moves or follows something, itself included.
    pub fn each(&self) -> Vec<&PixelEffect> {
        std::iter::once(self).chain(self.nested().flat_map(PixelEffect::each)).collect()
    }

    /// Whether it changes by itself.
    pub fn moves(&self) -> bool {
        self.period_s().is_some() || matches!(self, PixelEffect::Ember(_))
    }
}
