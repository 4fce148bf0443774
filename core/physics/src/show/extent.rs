//! What a show takes at most and in the mean, over once around of everything.
//!
//! Frames are compared by what their pixels ask for, which is what they take wherever their voltage suffices; only the frames
//! that lead are solved with the network.

use super::{Flashes, Frame, Show};
use orthavis_model::document::{Build, Load, PixelEffect, Scene, ShowInput};
use orthavis_model::laws::effect::Inputs;
use orthavis_model::states::Lit;
use std::cell::RefCell;
use std::collections::HashMap;
use std::sync::Arc;

/// Longer than this nothing is followed, s.
pub const LONGEST_S: f64 = 60.0;
/// Frames that are looked at, a second.
pub const FRAMES_A_SECOND: f64 = 50.0;
/// Shares that an input without words is tried at.
const SHARES: usize = 11;
/// Frames that are looked at with inputs other than the usual ones.
const MORE_FRAMES: usize = 6000;
/// Ways of what inputs say that are tried at most.
const MOST_WAYS: usize = 400;
/// So many shows are remembered.
const REMEMBERED: usize = 64;

/// A frame that leads.
#[derive(Clone, Debug)]
pub struct Moment {
    /// When, s.
    pub time_s: f64,
    /// With what its inputs say.
    pub inputs: Inputs,
    /// How it lights every light.
    pub lit: Arc<[Lit]>,
    /// What its pixels ask for, A.
    pub nominal_a: f64,
}

/// What a show does over once around of everything.
#[derive(Clone, Debug)]
pub struct Extent {
    /// Once around of everything, s; 0 where nothing moves.
    pub period_s: f64,
    /// The frame in which all pixels together take most.
    pub worst: Moment,
    /// Other frames: those in which single lights take most.
    pub beside: Vec<Moment>,
    /// Every light in the mean over that time, at the usual inputs.
    pub mean: Arc<[Lit]>,
    /// What the pixels ask for in the mean, A.
    pub mean_nominal_a: f64,
    /// How often each light flashes.
    pub flashes: Vec<Flashes>,
}

thread_local! {
    /// A plan is judged again and again with the same show in it.
    static KNOWN: RefCell<HashMap<String, Arc<Extent>>> = RefCell::new(HashMap::new());
}

/// What a scene does over once around; `None` where frames say no more than the scene itself.
pub fn extent(build: &Build, scene: &Scene) -> Option<Arc<Extent>> {
    let show = Show::of(build, scene);
    if !show.needs_frames() {
        return None;
    }
    let pixels: Vec<_> = build.lights.iter().map(|light| if let Load::Pixels(pixels) = &light.load { Some((&light.id, pixels)) } else { None }).collect();
    let key = format!("{:?}{:?}{pixels:?}", scene.lights, build.controllers);
    if let Some(known) = KNOWN.with_borrow(|known| known.get(&key).cloned()) {
        return Some(known);
    }
    let found = Arc::new(show.extent(None));
    KNOWN.with_borrow_mut(|known| {
        if known.len() >= REMEMBERED {
            known.clear();
        }
        known.insert(key, found.clone());
    });
    Some(found)
}

/// How a scene lights every light where all together take most.
pub fn lit(build: &Build, scene: &Scene) -> Vec<Lit> {
    extent(build, scene).map_or_else(|| build.lit(scene), |extent| extent.worst.lit.to_vec())
}

/// How a scene lights every light in the mean over time.
pub fn mean_lit(build: &Build, scene: &Scene) -> Vec<Lit> {
    extent(build, scene).map_or_else(|| build.lit(scene), |extent| extent.mean.to_vec())
}

/// The least common multiple of periods, s, found to a millisecond; no longer than is followed.
fn together(periods: impl Iterator<Item = f64>) -> f64 {
    let gcd = |mut a: u64, mut b: u64| {
        while b > 0 {
            (a, b) = (b, a % b);
        }
        a
    };
    let most = (1000.0 * LONGEST_S) as u64;
    let mut all = 1;
    for period in periods {
        let own = ((1000.0 * period).round() as u64).max(1);
        all = all / gcd(all, own) * own;
        if all >= most {
            return LONGEST_S;
        }
    }
    all as f64 / 1000.0
}

impl Show<'_> {
    /// Once around of everything that moves, s; 0 where nothing does.
    pub fn period_s(&self) -> f64 {
        let effects = self.effects();
        let moving = || effects.iter().filter(|effect| effect.moves());
        if moving().next().is_none() {
            return 0.0;
        }
        // Embers never come round.
        if moving().any(|effect| matches!(effect, PixelEffect::Ember(_))) {
            return LONGEST_S;
        }
        together(moving().filter_map(|effect| effect.period_s()))
    }

    /// What its inputs may say, one after the other; the usual first.
    fn ways(&self) -> Vec<Inputs> {
        let mut used: Vec<ShowInput> = self.effects().iter().filter_map(|effect| effect.input()).collect();
        used.sort();
        used.dedup();
        let mut ways = vec![Inputs::default()];
        for input in used {
            let steps = if input.says().is_empty() { SHARES } else { input.says().len() };
            let steps = if ways.len() * steps > MOST_WAYS { 2 } else { steps };
            let more = ways.iter().flat_map(|way| {
                (0..steps).map(move |step| {
                    let mut way = way.clone();
                    way.set(input, step as f64 / (steps - 1) as f64);
                    way
                })
            });
            ways = std::iter::once(Inputs::default()).chain(more).take(MOST_WAYS).collect();
        }
        ways
    }

    /// What it does over once around; with `inputs`, only while they say so.
    pub fn extent(&self, inputs: Option<&Inputs>) -> Extent {
        let period_s = self.period_s();
        let count = ((period_s * FRAMES_A_SECOND).ceil() as usize).max(1);
        let ways = inputs.map_or_else(|| self.ways(), |inputs| vec![inputs.clone()]);
        let stride = (count * (ways.len() - 1)).div_ceil(MORE_FRAMES).max(1);
        let lights: Vec<(usize, usize, usize)> = self
            .chains
            .iter()
            .enumerate()
            .flat_map(|(c, chain)| chain.pieces.iter().enumerate().flat_map(move |(p, piece)| piece.lights.iter().map(move |l| (c, p, *l))))
            .collect();
        // Of everything, then of each light: what it takes, when, and at which way.
        let mut lead = vec![(f64::NEG_INFINITY, 0.0, 0usize); 1 + lights.len()];
        let mut frame = Frame::default();
        let mut sums: Vec<Vec<[u64; 3]>> = self.chains.iter().map(|chain| vec![[0; 3]; chain.count]).collect();
        let mut mean_nominal_a = 0.0;
        for (number, way) in ways.iter().enumerate() {
            for step in (0..count).step_by(if number == 0 { 1 } else { stride }) {
                let time_s = step as f64 / FRAMES_A_SECOND;
                self.frame_into(time_s, way, &mut frame);
                let all_a = self.nominal_a(&frame);
                let mut better = |at: usize, amps: f64| {
                    if amps > lead[at].0 + 1e-12 {
                        lead[at] = (amps, time_s, number);
                    }
                };
                better(0, all_a);
                for (at, (chain, piece, light)) in lights.iter().enumerate() {
                    let piece = &self.chains[*chain].pieces[*piece];
                    if let Some(pixels) = self.pixels(*light) {
                        let own = &frame.codes[*chain][piece.first..piece.first + (pixels.count as usize).min(piece.count)];
                        better(1 + at, super::light_a(pixels, own));
                    }
                }
                if number == 0 {
                    mean_nominal_a += all_a / count as f64;
                    for (sums, codes) in sums.iter_mut().zip(&frame.codes) {
                        for (sum, code) in sums.iter_mut().zip(codes) {
                            *sum = std::array::from_fn(|channel| sum[channel] + u64::from(code[channel]));
                        }
                    }
                }
            }
        }
        let moment = |(_, time_s, way): (f64, f64, usize)| {
            let frame = self.frame(time_s, &ways[way]);
            Moment { time_s, inputs: ways[way].clone(), lit: self.lit(&frame).into(), nominal_a: self.nominal_a(&frame) }
        };
        let mut others: Vec<(f64, f64, usize)> = Vec::new();
        for own in lead[1..].iter().filter(|own| own.0 > 0.0) {
            if !others.iter().chain([&lead[0]]).any(|known| (known.1, known.2) == (own.1, own.2)) {
                others.push(*own);
            }
        }
        Extent {
            period_s,
            worst: moment(lead[0]),
            beside: others.into_iter().map(moment).collect(),
            mean: self.mean(&sums, count).into(),
            mean_nominal_a,
            flashes: self.flashes(),
        }
    }

    /// Every light at the mean of its codes.
    fn mean(&self, sums: &[Vec<[u64; 3]>], count: usize) -> Vec<Lit> {
        let mut lit = self.lit(&self.frame(0.0, &Inputs::default()));
        let share = |sum: u64| sum as f64 / (count as f64 * super::FULL_CODE);
        for (chain, sums) in self.chains.iter().zip(sums) {
            for piece in &chain.pieces {
                for light in &piece.lights {
                    if lit[*light].each.is_some() {
                        let pixels = self.pixels(*light).map_or(0, |pixels| pixels.count as usize);
                        let mut colours: Vec<[f64; 3]> = sums[piece.first..piece.first + pixels.min(piece.count)].iter().map(|sum| sum.map(share)).collect();
                        if piece.against {
                            colours.reverse();
                        }
                        lit[*light] = Lit::frame(colours.into());
                    }
                }
            }
        }
        lit
    }
}
