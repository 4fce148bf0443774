//! What pixels show at a moment: each effect as a formula of pixel, moment and inputs.
//!
//! Nothing is kept from one moment to the next, so that any moment can be asked for, here, in a controller and in a test.

use crate::document::{EffectKind, PixelEffect, ShowInput};

/// Linear light: red, green, blue, each 0 to 1.
pub type Colour = [f64; 3];

const WHITE: &[Colour] = &[[1.0; 3]];
const BLACK: Colour = [0.0; 3];
/// An effect of which nothing else is said: s, and pixels.
pub const USUAL_PERIOD_S: f64 = 1.0;
/// Length of a tail.
pub const USUAL_SPREAD: f64 = 3.0;
/// Share of a blink.
pub const USUAL_DUTY: f64 = 0.5;

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

impl PixelEffect {
    /// Its colours; white where none are given.
    pub fn palette(&self) -> &[Colour] {
        self.colours.as_deref().filter(|colours| !colours.is_empty()).unwrap_or(WHITE)
    }

    /// Once around, s.
    pub fn once_s(&self) -> f64 {
        self.period_s.unwrap_or(USUAL_PERIOD_S)
    }

    /// These colours, steady, and nothing else said.
    pub fn steady_in(colours: &[Colour]) -> PixelEffect {
        PixelEffect {
            kind: EffectKind::Steady,
            period_s: None,
            colours: Some(colours.to_vec()),
            spread: None,
            direction: None,
            duty: None,
            seed: None,
            input: None,
            table: None,
        }
    }

    /// Colour of pixel `i` of `count`, in the order of the chain, at a moment; linear light, before any level.
    pub fn colour(&self, i: usize, count: usize, time_s: f64, inputs: &Inputs) -> Colour {
        let colours = self.palette();
        let first = colours[0];
        let direction = self.direction.unwrap_or(1.0);
        let p = fraction(direction * time_s / self.once_s());
        let (at, n) = (i as f64, count as f64);
        let spread = self.spread.unwrap_or(USUAL_SPREAD);
        let share = self.input.map_or(0.0, |input| inputs.share(input));
        match self.kind {
            EffectKind::Steady => first,
            EffectKind::Blink if p < self.duty.unwrap_or(USUAL_DUTY) => first,
            EffectKind::Blink => colours.get(1).copied().unwrap_or(BLACK),
            EffectKind::Breathe => times(first, 0.5 - 0.5 * (std::f64::consts::TAU * p).cos()),
            EffectKind::Chase => {
                let behind = (direction * (p * n - at)).rem_euclid(n);
                times(first, (1.0 - behind / spread).max(0.0))
            }
            EffectKind::ToAndFro => times(first, (1.0 - (triangle(p) * (n - 1.0) - at).abs() / spread).max(0.0)),
            EffectKind::Rainbow => hue(fraction(p + at / n)),
            EffectKind::Gradient => {
                let x = fraction(at / n + p) * colours.len() as f64;
                let one = (x as usize).min(colours.len() - 1);
                between(colours[one], colours[(one + 1) % colours.len()], x - one as f64)
            }
            EffectKind::Ember => along(colours, noise(at / 3.0, 2.0 * time_s, u64::from(self.seed.unwrap_or(0)))),
            EffectKind::Level => times(along(colours, share), (share * n - at).clamp(0.0, 1.0)),
            EffectKind::Mix => along(colours, share),
            EffectKind::Table => {
                let word = self.input.map_or("", |input| inputs.word(input));
                let rows = self.table.as_deref().unwrap_or_default();
                let Some(row) = rows.iter().find(|row| row.word == word).or(rows.first()) else { return BLACK };
                match &row.effect {
                    Some(effect) => effect.colour(i, count, time_s, inputs),
                    None => row.colour.unwrap_or(BLACK),
                }
            }
        }
    }

    /// Every effect in it that moves or follows something, itself included.
    pub fn each(&self) -> Vec<&PixelEffect> {
        let nested = self.table.iter().flatten().filter_map(|row| row.effect.as_ref()).flat_map(PixelEffect::each);
        std::iter::once(self).chain(nested).collect()
    }

    /// Whether it changes by itself.
    pub fn moves(&self) -> bool {
        !matches!(self.kind, EffectKind::Steady | EffectKind::Level | EffectKind::Mix | EffectKind::Table)
    }
}
