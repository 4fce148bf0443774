//! How often a light flashes, as WCAG 2.2 counts it: pairs of opposing changes within any second.

use super::{FULL_CODE, Look, Show, code};
use orthavis_model::document::PixelEffect;
use orthavis_model::laws::effect::{Colour, Inputs};
use orthavis_model::practice::MOST_FLASHES;

/// A change counts from here on, as a share of the light's brightest.
const CHANGE: f64 = 0.1;
/// It counts where the darker of the two is below this share.
const DARKER: f64 = 0.8;
/// Red that is nearly alone.
const SATURATED: f64 = 0.8;
/// A change of red counts from here on: 20 of 320, of (R − G − B).
const RED_CHANGE: f64 = 20.0 / 320.0;
/// Moments looked at within a period, at least, and those in a second.
const WITHIN: f64 = 20.0;
const A_SECOND: (f64, f64) = (50.0, 1000.0);
/// How long is looked at what never comes round, s.
const LONG_S: f64 = 20.0;

/// How often one light flashes.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Flashes {
    /// Its place in the document.
    pub light: usize,
    /// Most flashes within any second.
    pub a_second: usize,
    /// The same of saturated red.
    pub red_a_second: usize,
    /// How many times its speed it may be played so that no second has more than three.
    pub most_speed: f64,
}

/// What was counted of one effect: flashes within the worst second, and the most speed.
type Counted = (usize, f64);
/// Changes of as many flashes as anybody is shown within a second: up and down again.
const MOST_CHANGES: usize = 2 * MOST_FLASHES as usize;
/// Nothing is played faster than so many times its speed.
pub const FASTEST: f64 = 10.0;

impl Show<'_> {
    /// How often each light of pixels flashes, at the worst of what its inputs may say; none that stands still.
    pub fn flashes(&self) -> Vec<Flashes> {
        let mut found = Vec::new();
        for (chain, looks) in self.chains.iter().zip(&self.looks) {
            for (piece, look) in chain.pieces.iter().zip(looks) {
                let Look::Moving(effect, level) = look else { continue };
                // What moves by itself; of a table each of its effects on its own.
                let moving = effect.each().into_iter().filter(|effect| effect.moves());
                for (general, red) in moving.map(|effect| flashes(effect, *level, piece.count)) {
                    let most_speed = general.1.min(red.1);
                    found.extend(piece.lights.iter().map(|light| Flashes { light: *light, a_second: general.0, red_a_second: red.0, most_speed }));
                }
            }
        }
        found
    }
}

fn luminance(colour: &Colour) -> f64 {
    0.2126 * colour[0] + 0.7152 * colour[1] + 0.0722 * colour[2]
}

/// Flashes, and red ones, within the worst second.
fn flashes(effect: &PixelEffect, level: f64, count: usize) -> (Counted, Counted) {
    // Embers never come round.
    let period = effect.period_s().unwrap_or(1.0);
    let rate = (WITHIN / period).clamp(A_SECOND.0, A_SECOND.1).ceil();
    let length = if matches!(effect, PixelEffect::Ember(_)) { LONG_S } else { (4.0 * period + 1.5).min(LONG_S) };
    let inputs = Inputs::default();
    let mut brightest = 0.0f64;
    let seen: Vec<Colour> = (0..(length * rate) as usize)
        .map(|step| {
            let time_s = step as f64 / rate;
            let sum = (0..count).fold([0.0; 3], |sum: Colour, pixel| {
                let own = effect.colour(pixel, count, time_s, &inputs).map(|channel| f64::from(code(channel * level)) / FULL_CODE);
                brightest = brightest.max(luminance(&own));
                std::array::from_fn(|channel| sum[channel] + own[channel])
            });
            sum.map(|channel| channel / count.max(1) as f64)
        })
        .collect();
    // In the dark a light is seen against itself: all of it at its brightest is 1.
    let relative: Vec<f64> = seen.iter().map(|colour| if brightest > 0.0 { luminance(colour) / brightest } else { 0.0 }).collect();
    let general = pairs(&relative, rate, CHANGE, |low, _| relative[low] < DARKER);
    let pure = |at: usize| seen[at][0] > 0.0 && seen[at][0] >= SATURATED * seen[at].iter().sum::<f64>();
    let red: Vec<f64> = seen.iter().map(|colour| (colour[0] - colour[1] - colour[2]).max(0.0)).collect();
    let reds = pairs(&red, rate, RED_CHANGE, |low, high| pure(low) || pure(high));
    (general, reds)
}

/// Pairs of opposing changes of at least `change` within any second; `counts` says of a change, by its lower and upper
/// moment, whether it does.
fn pairs(values: &[f64], rate: f64, change: f64, counts: impl Fn(usize, usize) -> bool) -> Counted {
    // Where it turns, and when each change had gone on for long enough to be one.
    let (mut turns, mut known): (Vec<usize>, Vec<usize>) = Default::default();
    let (mut low, mut high, mut rising) = (0, 0, None);
    for at in 1..values.len() {
        if rising != Some(true) && values[at] < values[low] {
            low = at;
        }
        if rising != Some(false) && values[at] > values[high] {
            high = at;
        }
        if rising != Some(true) && values[at] - values[low] >= change {
            turns.push(low);
            known.push(at);
            (rising, high) = (Some(true), at);
        } else if rising != Some(false) && values[high] - values[at] >= change {
            turns.push(high);
            known.push(at);
            (rising, low) = (Some(false), at);
        }
    }
    turns.push(if rising == Some(true) { high } else { low });
    let ends = turns.windows(2).map(|pair| if values[pair[0]] < values[pair[1]] { (pair[0], pair[1]) } else { (pair[1], pair[0]) });
    let moments: Vec<usize> = known.iter().zip(ends).filter(|(_, (low, high))| counts(*low, *high)).map(|(at, _)| *at).collect();
    let within = |first: usize| moments[first..].iter().take_while(|at| ((**at - moments[first]) as f64) < rate).count();
    // Played faster, a second holds as much more of it.
    let apart = moments.windows(MOST_CHANGES + 1).map(|seven| (seven[MOST_CHANGES] - seven[0]) as f64 / rate);
    ((0..moments.len()).map(within).max().unwrap_or(0) / 2, apart.fold(FASTEST, f64::min))
}
