//! The build's own network, opened up: faults in it, every joint a place to probe.
//!
//! A feed's conductors stay one resistance each in the network; what lies along them follows from their current. A pinch
//! part of the way along splits its feed by a junction; a rail cut makes its strip two stretches. Behind a current
//! driver a pinch sits at the light's terminals with the wire up to it: what hangs behind is dark and carries nothing.

mod clips;
mod faulty;
mod strings;

use crate::BenchError;
use crate::fault::{At, Fault, FaultKind, OPEN_OHM, TIRED, turned_cell};
use crate::joints::{Joint, Piece, pieces};
use crate::spot::Spot;
use orthavis_model::document::{Build, Consumer, Converter, ConverterKind, Draw, Feed, Junction, Led, LedArray, Load, Scene};
use orthavis_model::laws::led::DiodeString;
use orthavis_model::states::{Lit, State};
use orthavis_physics::circuits::stand_ins;
use orthavis_physics::network::{Change, Network, Point, RailCut, Side, Solution, SolveError, TapFlow, Terminal};
use orthavis_physics::show;
use std::collections::BTreeMap;
use std::sync::Arc;

pub use faulty::swaps;
use faulty::{driven, ohm_of, split_feed, swapped};
use strings::{LedIs, Strings, conducting};

/// A pinched wire, ohm.
pub const PINCH_OHM: f64 = 0.005;
/// A short across one LED, ohm.
const LED_SHORT_OHM: f64 = 0.1;
/// With any fault in, this much lies between the terminals of every consumer, so that nothing floats, ohm.
const BLEED_OHM: f64 = 1e6;
/// What an LED the wrong way round lets through, A.
const LEAK_A: f64 = 10e-6;
/// What a meter's volts range takes, ohm.
pub const METER_OHM: f64 = 10e6;
/// Test current of the meter's ohms range, A, and the voltage that it cannot exceed, V.
pub const OHMS_A: f64 = 0.5e-3;
const OHMS_V: f64 = 3.0;
/// More than this reads as open, ohm.
pub const MOST_OHM: f64 = 40e6;

/// A build on the bench.
pub struct Rig<'a> {
    plan: &'a Build,
    /// The plan with a junction at each pinch.
    opened: Build,
    network: Network,
    /// For each feed of the plan its first and last piece among the feeds of what was opened.
    feeds: Vec<(usize, usize)>,
    /// What a fault puts in the way, by feed of the plan: side, piece, ohm.
    extra: Vec<(usize, Side, Piece, f64)>,
    strings: BTreeMap<usize, Strings>,
    /// Arrays that are the wrong way round.
    reversed: Vec<usize>,
    /// Faults that swap plus and minus.
    reversals: Vec<Fault>,
    /// Pixels from which on a chain is dark.
    dark_from: BTreeMap<usize, usize>,
    source_factor: f64,
    /// What is left of the source's voltage.
    source_emf: f64,
    /// Whether a show is met in the frame that a plan is judged by, rather than in its mean.
    in_its_worst_frame: bool,
}

/// What is seen at one scene and state.
#[derive(Clone)]
pub struct Shot {
    point: Point,
    solution: Solution,
}

impl<'a> Rig<'a> {
    /// A build with these faults in it.
    ///
    /// # Errors
    /// Two pinches on one feed, or a network that cannot be made.
    pub fn new(plan: &'a Build, faults: &[Fault]) -> Result<Self, BenchError> {
        Self::like(plan, None, faults)
    }

    /// [`Self::new`], quicker beside a rig of the same build without pinches and cuts.
    ///
    /// # Errors
    /// As there.
    pub fn beside(sound: &Rig<'a>, faults: &[Fault]) -> Result<Self, BenchError> {
        let rig = Self::like(sound.plan, Some(&sound.network), faults)?;
        Ok(Rig { in_its_worst_frame: sound.in_its_worst_frame, ..rig })
    }

    /// The same, met where all pixels of a show together take most: the frame that a plan is solved in. A meter shows the
    /// mean.
    #[must_use]
    pub fn in_its_worst_frame(self) -> Self {
        Rig { in_its_worst_frame: true, ..self }
    }

    fn like(plan: &'a Build, sound: Option<&Network>, faults: &[Fault]) -> Result<Self, BenchError> {
        let mut opened = plan.clone();
        let count = plan.junctions.len();
        let pinches: Vec<(usize, f64)> =
            faults.iter().filter_map(|fault| if let At::Along(feed, share) = fault.at { Some((feed, share)) } else { None }).collect();
        let mut split = BTreeMap::new();
        for &(index, share) in &pinches {
            if pinches.iter().filter(|(other, _)| *other == index).count() > 1 {
                return Err(BenchError::new("short", "one feed is pinched in two places", "Put in one pinch for each feed"));
            }
            if share < 1.0 && !driven(plan, index) {
                split.insert(index, split_feed(&mut opened, plan, index, share));
            }
        }
        let added = opened.junctions.len() - count;
        let feeds: Vec<(usize, usize)> = (0..plan.feeds().len())
            .map(|index| {
                let own = if index < count { index } else { index + added };
                (split.get(&index).copied().unwrap_or(own), own)
            })
            .collect();
        let cuts: Vec<RailCut> = faults
            .iter()
            .filter_map(|fault| match fault.at {
                At::Rail(light, tap, side) => Some(RailCut { light, tap, side, ohm: ohm_of(fault) }),
                _ => None,
            })
            .collect();
        let swapped: Vec<usize> = swapped(plan, faults).into_iter().map(|feed| feeds[feed].1).collect();
        let network = match sound {
            Some(sound) if split.is_empty() && cuts.is_empty() && swapped.is_empty() => sound.fork(),
            _ => Network::opened(&opened, &cuts, &swapped).map_err(no_network)?,
        };
        let mut rig = Rig {
            plan,
            opened,
            network,
            feeds,
            extra: Vec::new(),
            strings: BTreeMap::new(),
            reversed: Vec::new(),
            reversals: faults.iter().filter(|fault| matches!(fault.at, At::Consumer(_))).cloned().collect(),
            dark_from: BTreeMap::new(),
            source_factor: 1.0,
            source_emf: 1.0,
            in_its_worst_frame: false,
        };
        for fault in faults {
            rig.put_in(fault);
        }
        rig.finish(!faults.is_empty(), &split);
        Ok(rig)
    }

    /// When in the show of a scene that frame is, s; `None` where frames say no more than the scene itself.
    pub fn frame_s(&self, scene: &Scene) -> Option<f64> {
        show::extent(self.plan, scene).filter(|_| self.in_its_worst_frame).map(|extent| extent.worst.time_s)
    }

    /// The build as planned.
    pub fn plan(&self) -> &'a Build {
        self.plan
    }

    /// Everything at a scene and a state.
    ///
    /// # Errors
    /// When there is no steady state.
    pub fn shot(&mut self, scene: &Scene, state: State) -> Result<Shot, SolveError> {
        self.shot_near(scene, state, None)
    }

    /// [`Self::shot`] from a solution of the same wiring that is close.
    ///
    /// # Errors
    /// As there.
    pub fn shot_near(&mut self, scene: &Scene, state: State, near: Option<&Shot>) -> Result<Shot, SolveError> {
        self.shot_scaled(scene, state, 1.0, near)
    }

    /// [`Self::shot_near`] with the source's voltage scaled.
    ///
    /// # Errors
    /// As there.
    pub fn shot_scaled(&mut self, scene: &Scene, state: State, emf_factor: f64, near: Option<&Shot>) -> Result<Shot, SolveError> {
        let (emf_v, ohm) = self.thevenin(state);
        self.shot_fed(scene, emf_factor * emf_v, ohm, near)
    }

    /// Voltage without load, V, and resistance, ohm, of the source as it is on this rig.
    pub fn thevenin(&self, state: State) -> (f64, f64) {
        let (emf_v, ohm) = self.plan.thevenin(state);
        (emf_v * self.source_emf, ohm * self.source_factor)
    }

    /// [`Self::shot_near`] with another source: its voltage without load, V, and its resistance, ohm.
    ///
    /// # Errors
    /// As there.
    pub fn shot_fed(&mut self, scene: &Scene, emf_v: f64, source_ohm: f64, near: Option<&Shot>) -> Result<Shot, SolveError> {
        let lights = if self.in_its_worst_frame { show::lit(self.plan, scene) } else { show::mean_lit(self.plan, scene) };
        let mut point = Point { emf_v, source_ohm, standing_a: self.plan.standing_a(), lights };
        for (&light, &from) in &self.dark_from {
            let lit = &point.lights[light];
            if let Load::Pixels(pixels) = &self.plan.lights[light].load {
                let level = lit.level;
                let colours: Vec<[f64; 3]> =
                    (0..pixels.count as usize).map(|pixel| if pixel < from { lit.colour_of(pixel).map(|part| part * level) } else { [0.0; 3] }).collect();
                // Without light they still take their idle current, as long as the scene has them powered.
                if level > 0.0 {
                    point.lights[light] = Lit::frame(Arc::from(colours));
                }
            }
        }
        let near = near.map(|near| &near.solution).filter(|near| near.unknowns() == self.network.unknowns());
        let solution = self.network.solve(&point, near)?;
        Ok(Shot { point, solution })
    }

    /// Potential of a place against `source-`, V.
    pub fn potential(&self, shot: &Shot, spot: Spot) -> f64 {
        let at = |terminal| self.network.potential(&shot.solution, terminal).unwrap_or(0.0);
        match spot {
            Spot::Source(side) => at(Terminal::Source(side)),
            Spot::From(feed, side) => at(Terminal::From(self.feeds[feed].0, side)),
            Spot::To(feed, side) => at(Terminal::To(self.feeds[feed].1, side)),
            Spot::In(index, side) => at(Terminal::In(index, side)),
            Spot::Out(index, side) => at(Terminal::Out(index, side)),
            Spot::Rail(light, tap, side) => at(Terminal::Rail(light, tap, side)),
            Spot::After(feed, joint) => {
                let (before, after) = self.around(feed, joint);
                let (near, current) = (self.feeds[feed].0, self.amps(shot, feed));
                // From the end that is less far, so that an open joint's gigaohm is not multiplied.
                if before <= after { at(Terminal::From(near, Side::Plus)) - current * before } else { at(Terminal::To(near, Side::Plus)) + current * after }
            }
            Spot::String { light, string, after } => self.in_string(shot, light, string, after),
        }
    }

    /// Resistance of a feed's plus conductor before and after the place right behind a part, ohm; of a pinched feed, up to
    /// the pinch.
    fn around(&self, feed: usize, joint: Joint) -> (f64, f64) {
        let index = self.feeds[feed].0;
        let opened = self.opened.feeds();
        let part = match joint {
            Joint::Fuse => Piece::Fuse,
            Joint::Switch => Piece::Switch,
            _ => Piece::Plugs,
        };
        let row = pieces(&self.opened, opened[index].feed, Side::Plus);
        let extra = |piece: Piece| -> f64 {
            let own = self.extra.iter().filter(|(of, side, at, _)| *of == feed && *side == Side::Plus && *at == piece && self.piece_feed(feed, piece) == index);
            own.map(|(.., ohm)| ohm).sum()
        };
        let ohms: Vec<f64> = row.iter().map(|(piece, ohm)| ohm + extra(*piece)).collect();
        let split = row.iter().position(|(piece, _)| *piece == part).map_or(0, |at| at + 1);
        (ohms[..split].iter().sum(), ohms[split..].iter().sum())
    }

    /// Current that leaves the supply into a feed, A.
    pub fn amps(&self, shot: &Shot, feed: usize) -> f64 {
        self.network.feed(&shot.solution, self.feeds[feed].0).current_a
    }

    /// Voltage and current at the source, V and A.
    pub fn source(&self, shot: &Shot) -> (f64, f64) {
        self.network.source(&shot.solution)
    }

    /// Current out of a converter, A.
    pub fn out_a(&self, shot: &Shot, converter: usize) -> f64 {
        self.network.converter(&shot.solution, converter).out_a
    }

    /// Whether a converter runs.
    pub fn runs(&self, shot: &Shot, converter: usize) -> bool {
        self.network.converter(&shot.solution, converter).on
    }

    /// Every tap of a light.
    pub fn taps(&self, shot: &Shot, light: usize) -> Vec<TapFlow> {
        self.network.taps(&shot.solution, light, &shot.point.lights[light]).collect()
    }

    /// Brightness of each point of a light, relative to rated: LED by LED of an array, row after row; tap by tap of
    /// anything else. 0 where a chain is dark.
    pub fn brightness(&self, shot: &Shot, light: usize) -> Vec<f64> {
        let lit = &shot.point.lights[light];
        let part = &self.plan.lights[light];
        if let Load::LedArray(array) = &part.load {
            let whole = self.taps(shot, light).first().map_or(0.0, |tap| tap.output);
            let Some(strings) = self.strings.get(&light) else { return vec![whole; (array.series * array.parallel) as usize] };
            let first = self.feed_of(light);
            let volts = self.potential(shot, Spot::To(first, Side::Plus)) - self.potential(shot, Spot::To(first, Side::Minus));
            let row = |string: usize| {
                let one = conducting(array, strings, string);
                let output = one.map_or(0.0, |one| DiodeString::of_array(&one).current(volts).0 / array.led.if_a);
                strings.leds[string].iter().map(move |led| if *led == LedIs::Sound && lit.level > 0.0 { output } else { 0.0 })
            };
            return (0..strings.leds.len()).flat_map(row).collect();
        }
        let from = self.dark_from.get(&light).copied().unwrap_or(usize::MAX);
        let taps = self.taps(shot, light).into_iter().enumerate();
        taps.map(|(tap, flow)| if tap < from { part.brightness(lit, flow.output) } else { 0.0 }).collect()
    }

    /// The first feed of a light, by its place.
    fn feed_of(&self, light: usize) -> usize {
        self.plan.feeds().iter().position(|feed| feed.consumer == Consumer::Light(light)).unwrap_or(0)
    }
}

fn no_network(error: SolveError) -> BenchError {
    BenchError::new("build", error.to_string(), "Mend the plan first")
}
