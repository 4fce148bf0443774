//! The build's own network, opened up: faults in it, every joint a place to probe.
//!
//! A feed's conductors stay one resistance each in the network; what lies along them follows from their current. A pinch
//! part of the way along splits its feed by a junction; a rail cut makes its strip two stretches. Behind a current
//! driver a pinch sits at the light's terminals with the wire up to it: what hangs behind is dark and carries nothing.

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

/// What has become of an LED.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum LedIs {
    Sound,
    Shorted,
    Burnt,
    Reversed,
}

/// The strings of an array that are no longer alike.
#[derive(Clone, Debug)]
struct Strings {
    leds: Vec<Vec<LedIs>>,
    open: Vec<bool>,
    resistor_factor: f64,
}

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

    fn strings_of(&mut self, light: usize) -> Option<&mut Strings> {
        let Load::LedArray(array) = &self.plan.lights[light].load else { return None };
        Some(self.strings.entry(light).or_insert_with(|| Strings {
            leds: vec![vec![LedIs::Sound; array.series as usize]; array.parallel as usize],
            open: vec![false; array.parallel as usize],
            resistor_factor: 1.0,
        }))
    }

    fn put_in(&mut self, fault: &Fault) {
        match fault.at {
            At::Joint(feed, side, joint) => self.extra.push((feed, side, Piece::Joint(joint), ohm_of(fault))),
            At::Part(feed, part) => self.extra.push((feed, Side::Plus, if part == Joint::Fuse { Piece::Fuse } else { Piece::Switch }, OPEN_OHM)),
            At::Along(feed, share) => {
                let last = self.feeds[feed];
                // Split feeds are pinched at their junction, others at their far end.
                self.network.change(&Change::Across { feed: last.0, ohm: PINCH_OHM });
                if last.0 == last.1 && share < 1.0 {
                    let own = self.plan.feeds()[feed].feed.clone();
                    let left = -(1.0 - share);
                    let wire = own.gauge.ohm(own.length_m);
                    // A frame does not shorten with the wire beside it.
                    let back = if own.by_frame(self.plan.vehicle.frame_return_ohm) { 0.0 } else { wire };
                    for (side, ohm) in [(Side::Plus, wire), (Side::Minus, back)] {
                        self.network.change(&Change::InSeries { feed: last.0, side, ohm: left * ohm });
                    }
                }
            }
            // Swapped at one of several, it is in the wiring already.
            At::Consumer(feed) if swaps(self.plan, feed) && !self.dead_by_reversal(feed) => {}
            At::Consumer(feed) => self.reverse(feed),
            At::String(light, string) => {
                if let Some(strings) = self.strings_of(light) {
                    strings.open[string] = true;
                }
            }
            At::Led(light, string, led) => {
                let state = match fault.kind {
                    FaultKind::Short => LedIs::Shorted,
                    FaultKind::Reversed => LedIs::Reversed,
                    _ => LedIs::Burnt,
                };
                if let Some(strings) = self.strings_of(light) {
                    strings.leds[string][led] = state;
                }
            }
            At::Resistor(light) => {
                if let Some(strings) = self.strings_of(light) {
                    strings.resistor_factor = fault.size.unwrap_or(1.0);
                }
            }
            At::Setting(index) => {
                let mut part = self.opened.converters[index].clone();
                if let Some(size) = fault.size {
                    *part.conversion.setting_mut() = size;
                }
                self.opened.converters[index] = part.clone();
                self.network.change(&Change::Converter { index, part: Box::new(part) });
            }
            At::Source if fault.kind == FaultKind::Reversed => self.source_emf = turned_cell(self.plan).unwrap_or(1.0),
            At::Source => self.source_factor = TIRED,
            At::Pixel(light, pixel) => {
                let first = self.dark_from.entry(light).or_insert(pixel);
                *first = (*first).min(pixel);
            }
            At::Data(light) => {
                self.dark_from.insert(light, 0);
            }
            // In the network's wiring already.
            At::Rail(..) => {}
        }
    }

    /// Whether every feed of a light that has several is swapped: then it is dark, and nothing is short.
    fn dead_by_reversal(&self, feed: usize) -> bool {
        let feeds = self.plan.feeds();
        let own = |fault: &&Fault| matches!(fault.at, At::Consumer(other) if feeds[other].consumer == feeds[feed].consumer);
        let all = feeds.iter().filter(|other| other.consumer == feeds[feed].consumer).count();
        self.reversals.iter().filter(own).count() == all
    }

    /// Plus and minus swapped at what a feed feeds.
    fn reverse(&mut self, feed: usize) {
        match self.plan.feeds()[feed].consumer {
            Consumer::Converter(index) => {
                let mut part = self.opened.converters[index].clone();
                part.min_in_v = f64::INFINITY;
                self.network.change(&Change::Converter { index, part: Box::new(part) });
            }
            Consumer::Light(light) => match &self.plan.lights[light].load {
                // A coil of wire does not care.
                Load::Module(module) if matches!(module.draw, Draw::Resistive | Draw::Filament) => {}
                Load::LedArray(array) => {
                    self.reversed.push(light);
                    let volts = 2.0 * array.led.vf_v * f64::from(array.series);
                    self.network.change(&Change::Dead { light, ohm: volts / (LEAK_A * f64::from(array.parallel)) });
                }
                _ => self.network.change(&Change::Dead { light, ohm: BLEED_OHM }),
            },
            Consumer::Junction(_) | Consumer::Circuit(_) | Consumer::Controller(_) => {}
        }
    }

    /// What could only be done once all faults are known.
    fn finish(&mut self, faulty: bool, split: &BTreeMap<usize, usize>) {
        for &(feed, side, piece, ohm) in &self.extra {
            let at = self.piece_feed(feed, piece);
            self.network.change(&Change::InSeries { feed: at, side, ohm });
        }
        if faulty {
            for feed in 0..self.opened.feeds().len() {
                // The two halves of a pinched feed have one consumer.
                if !split.values().any(|first| *first == feed) {
                    self.network.change(&Change::Across { feed, ohm: BLEED_OHM });
                }
            }
        }
        for (&light, strings) in &self.strings {
            let Load::LedArray(array) = &self.plan.lights[light].load else { continue };
            let conducting = (0..strings.leds.len()).filter_map(|string| conducting(array, strings, string)).collect();
            self.network.change(&Change::Strings { light, strings: conducting });
        }
    }

    /// Which of the opened feeds holds a piece of a feed of the plan.
    fn piece_feed(&self, feed: usize, piece: Piece) -> usize {
        if piece == Piece::Joint(Joint::To) { self.feeds[feed].1 } else { self.feeds[feed].0 }
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

    /// Potential within a string of an array.
    fn in_string(&self, shot: &Shot, light: usize, string: usize, after: usize) -> f64 {
        let first = self.feed_of(light);
        let plus = self.potential(shot, Spot::To(first, Side::Plus));
        let minus = self.potential(shot, Spot::To(first, Side::Minus));
        let Load::LedArray(array) = &self.plan.lights[light].load else { return minus };
        if self.reversed.contains(&light) {
            // What little leaks through leaves nothing at the resistor; the LEDs share what they hold back.
            return plus - (plus - minus) * after as f64 / f64::from(array.series);
        }
        let sound = vec![LedIs::Sound; array.series as usize];
        let (leds, open, factor) = match self.strings.get(&light) {
            Some(strings) => (&strings.leds[string], strings.open[string], strings.resistor_factor),
            None => (&sound, false, 1.0),
        };
        let resistor = array.resistor_ohm * factor;
        let reversed = leds.contains(&LedIs::Reversed);
        let blocked = if open || leds.contains(&LedIs::Burnt) { OPEN_OHM } else { 0.0 };
        let forward = leds.iter().filter(|led| **led == LedIs::Sound).count() as u32;
        let shorted = leds.iter().filter(|led| **led == LedIs::Shorted).count() as f64 * LED_SHORT_OHM;
        let whole = string_of(&array.led, forward, resistor + blocked + shorted);
        let current = whole.current(plus - minus).0;
        let current = if reversed { current.min(LEAK_A) } else { current };
        let one = DiodeString::new(&array.led, 1, 0.0);
        let drop = |led: LedIs| match led {
            LedIs::Sound => {
                if current > 0.0 {
                    // What only leaks does not hold its voltage against the ten megohms of a meter.
                    one.voltage(current).min(current * METER_OHM)
                } else {
                    0.0
                }
            }
            LedIs::Shorted => current * LED_SHORT_OHM,
            // What is left over lies across what blocks.
            LedIs::Burnt | LedIs::Reversed => 0.0,
        };
        let known: f64 = current * resistor + leds.iter().map(|led| drop(*led)).sum::<f64>();
        let rest = (plus - minus) - known;
        let blockers = leds.iter().filter(|led| matches!(led, LedIs::Burnt | LedIs::Reversed)).count();
        let each = if blockers > 0 { rest / blockers as f64 } else { 0.0 };
        // A string that came off did so where its resistor begins.
        let start = plus - if open && blockers == 0 { rest } else { 0.0 } - current * resistor;
        start - leds[..after].iter().map(|led| drop(*led) + if matches!(led, LedIs::Burnt | LedIs::Reversed) { each } else { 0.0 }).sum::<f64>()
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

    /// Resistance between two places with the power off, ohm; `None`: more than a meter shows. The battery is off,
    /// converters rest, switches are closed; LEDs are met at the meter's test current.
    ///
    /// # Errors
    /// A place inside a string or a strip, which has no terminal to clip to.
    pub fn ohms(&self, from: Spot, to: Spot) -> Result<Option<f64>, BenchError> {
        self.driven_volts(from, to, OHMS_A, OHMS_V).map(|volts| volts.map(|volts| volts / OHMS_A).filter(|ohm| *ohm < MOST_OHM))
    }

    /// Voltage between two places of the dead circuit at a test current, V; `None` above `most_v`.
    ///
    /// # Errors
    /// As [`Self::ohms`].
    pub fn driven_volts(&self, from: Spot, to: Spot, amps: f64, most_v: f64) -> Result<Option<f64>, BenchError> {
        let mut network = self.network.fork();
        // A fork is as the document has it: the faults go in again.
        network.clone_values(&self.network);
        for (index, part) in self.opened.converters.iter().enumerate() {
            let mut part = part.clone();
            part.min_in_v = f64::INFINITY;
            network.change(&Change::Converter { index, part: Box::new(part) });
        }
        for (index, part) in stand_ins(&self.opened).enumerate() {
            let part = Converter { min_in_v: f64::INFINITY, ..part };
            network.change(&Change::Converter { index: self.opened.converters.len() + index, part: Box::new(part) });
        }
        // What has electronics in it sleeps at a meter's few volts.
        for (light, part) in self.opened.lights.iter().enumerate() {
            let asleep = match &part.load {
                Load::Module(module) => !matches!(module.draw, Draw::Resistive | Draw::Filament),
                Load::Pixels(_) => true,
                Load::LedArray(_) | Load::Strip(_) => false,
            };
            if asleep {
                network.change(&Change::Dead { light, ohm: OPEN_OHM });
            }
        }
        for feed in 0..self.opened.feeds().len() {
            network.change(&Change::Across { feed, ohm: OPEN_OHM });
        }
        let clips = (self.clip(from)?, self.clip(to)?);
        inject(&mut network, &clips, amps);
        let lights = self.opened.lights.iter().map(|_| Lit { level: 1.0, colour: [0.0; 3], each: None }).collect();
        let point = Point { emf_v: 0.0, source_ohm: 1e12, standing_a: 0.0, lights };
        let Ok(solution) = network.solve(&point, None) else { return Ok(None) };
        let volts = if from == to { 0.0 } else { between(&network, &solution, &clips, amps) };
        Ok(Some(volts).filter(|volts| volts.abs() <= most_v))
    }

    /// Voltage between two places of the circuit as it runs while an instrument draws a current out of the first into the
    /// second, V; `None` where the circuit cannot give it.
    ///
    /// # Errors
    /// As [`Self::ohms`].
    pub fn loaded_volts(&self, shot: &Shot, from: Spot, to: Spot, amps: f64) -> Result<Option<f64>, BenchError> {
        let mut network = self.network.fork();
        network.clone_values(&self.network);
        let clips = (self.clip(from)?, self.clip(to)?);
        inject(&mut network, &clips, -amps);
        let Ok(solution) = network.solve(&shot.point, Some(&shot.solution)) else { return Ok(None) };
        Ok(Some(between(&network, &solution, &clips, -amps)))
    }

    /// Where a test current goes in: a place along a wire is its two ends in proportion, with what lies between in series.
    fn clip(&self, spot: Spot) -> Result<Clip, BenchError> {
        let one = |terminal| Ok(Clip { ends: vec![(terminal, 1.0)], ohm: 0.0, along: None });
        match spot {
            Spot::Source(side) => one(Terminal::Source(side)),
            Spot::From(feed, side) => one(Terminal::From(self.feeds[feed].0, side)),
            Spot::To(feed, side) => one(Terminal::To(self.feeds[feed].1, side)),
            Spot::In(index, side) => one(Terminal::In(index, side)),
            Spot::Out(index, side) => one(Terminal::Out(index, side)),
            Spot::After(feed, joint) => {
                let (before, after) = self.around(feed, joint);
                let index = self.feeds[feed].0;
                let all = (before + after).max(1e-12);
                let ends = vec![(Terminal::From(index, Side::Plus), after / all), (Terminal::To(index, Side::Plus), before / all)];
                Ok(Clip { ends, ohm: before * after / all, along: Some((feed, before, all)) })
            }
            Spot::String { .. } | Spot::Rail(..) => {
                let name = spot.name(self.plan);
                Err(BenchError::new(&name, format!("`{name}` is inside a light"), "Take resistance at the light's terminals; inside it take volts"))
            }
        }
    }
}

/// Where a test current goes in.
struct Clip {
    /// Terminals, each with its part of the current.
    ends: Vec<(Terminal, f64)>,
    /// What lies between them and the place itself, ohm.
    ohm: f64,
    /// Of a place along a feed: the feed, the resistance before it, and all of it, ohm.
    along: Option<(usize, f64, f64)>,
}

/// Drives a current into the first place and out of the second, A.
fn inject(network: &mut Network, (into, out_of): &(Clip, Clip), amps: f64) {
    for (clip, sign) in [(into, 1.0), (out_of, -1.0)] {
        for &(terminal, share) in &clip.ends {
            network.change(&Change::Inject { into: terminal, out_of: Terminal::Source(Side::Minus), amps: sign * amps * share });
        }
    }
}

/// Voltage between two places with such a current, V.
fn between(network: &Network, solution: &Solution, (into, out_of): &(Clip, Clip), amps: f64) -> f64 {
    let at = |clip: &Clip| -> f64 { clip.ends.iter().map(|&(terminal, share)| share * network.potential(solution, terminal).unwrap_or(0.0)).sum::<f64>() };
    // Two places along one conductor share part of the way between its ends.
    let shared = match (into.along, out_of.along) {
        (Some((feed, a, all)), Some((other, b, _))) if feed == other => 2.0 * a.min(b) * (all - a.max(b)) / all,
        _ => 0.0,
    };
    at(into) - at(out_of) + amps * (into.ohm + out_of.ohm - shared)
}

fn ohm_of(fault: &Fault) -> f64 {
    fault.size.unwrap_or(OPEN_OHM)
}

fn no_network(error: SolveError) -> BenchError {
    BenchError::new("build", error.to_string(), "Mend the plan first")
}

/// Whether a feed hangs on a current driver.
fn driven(build: &Build, feed: usize) -> bool {
    let from = &build.feeds()[feed].feed.from;
    build.converters.iter().any(|converter| converter.id == *from && converter.kind() == ConverterKind::CurrentDriver)
}

/// Whether a feed is one of several of a strip or of pixels: swapped there, its supply is joined to the others' minus.
pub fn swaps(build: &Build, feed: usize) -> bool {
    match build.feeds()[feed].consumer {
        Consumer::Light(light) => build.lights[light].feeds.len() > 1 && matches!(build.lights[light].load, Load::Strip(_) | Load::Pixels(_)),
        _ => false,
    }
}

/// The feeds that join a strip the wrong way round while another of it does not.
fn swapped(build: &Build, faults: &[Fault]) -> Vec<usize> {
    let at: Vec<usize> = faults.iter().filter_map(|fault| if let At::Consumer(feed) = fault.at { Some(feed) } else { None }).collect();
    let feeds = build.feeds();
    let mixed = |feed: usize| (0..feeds.len()).any(|other| feeds[other].consumer == feeds[feed].consumer && !at.contains(&other));
    at.iter().copied().filter(|feed| swaps(build, *feed) && mixed(*feed)).collect()
}

/// Puts a junction part of the way along a feed: what is in the feed stays before it. Returns the junction's place.
fn split_feed(opened: &mut Build, plan: &Build, index: usize, share: f64) -> usize {
    let own = plan.feeds()[index].clone();
    let id = format!("\u{2}{}", own.id);
    let first = Feed { length_m: share * own.feed.length_m, at_m: 0.0, ..own.feed.clone() };
    let rest = Feed { from: id.clone(), length_m: (1.0 - share) * own.feed.length_m, fuse: None, switch: None, contacts: 0, ..own.feed.clone() };
    match own.consumer {
        Consumer::Junction(at) => opened.junctions[at].feed = rest,
        Consumer::Converter(at) => opened.converters[at].feed = rest,
        Consumer::Light(at) => opened.lights[at].feeds[own.number] = rest,
        Consumer::Circuit(at) => opened.circuits[at].feed = rest,
        Consumer::Controller(at) => opened.controllers[at].feed = rest,
    }
    opened.junctions.push(Junction { id, feed: first });
    opened.junctions.len() - 1
}

/// One string as an array of one; a string whose LEDs are all bridged is a resistor.
fn string_led(led: &Led, forward: u32) -> (Led, u32) {
    if forward > 0 {
        return (led.clone(), forward);
    }
    (Led { vf_v: 1e-3, n: Some(1e-3), rs_ohm: Some(0.0), ..led.clone() }, 1)
}

fn string_of(led: &Led, forward: u32, ohm: f64) -> DiodeString {
    let (led, series) = string_led(led, forward);
    DiodeString::new(&led, series, ohm)
}

/// A string that lets more through than a leak.
fn conducting(array: &LedArray, strings: &Strings, string: usize) -> Option<LedArray> {
    let leds = &strings.leds[string];
    if leds.contains(&LedIs::Reversed) {
        return None;
    }
    let blocked = if strings.open[string] || leds.contains(&LedIs::Burnt) { OPEN_OHM } else { 0.0 };
    let shorted = leds.iter().filter(|led| **led == LedIs::Shorted).count() as f64 * LED_SHORT_OHM;
    let (led, series) = string_led(&array.led, leds.iter().filter(|led| **led == LedIs::Sound).count() as u32);
    Some(LedArray { led, series, parallel: 1, resistor_ohm: array.resistor_ohm * strings.resistor_factor + blocked + shorted, ..array.clone() })
}
