//! Faults, put into the network.

use super::*;

impl Rig<'_> {
    pub(super) fn put_in(&mut self, fault: &Fault) {
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
    pub(super) fn dead_by_reversal(&self, feed: usize) -> bool {
        let feeds = self.plan.feeds();
        let own = |fault: &&Fault| matches!(fault.at, At::Consumer(other) if feeds[other].consumer == feeds[feed].consumer);
        let all = feeds.iter().filter(|other| other.consumer == feeds[feed].consumer).count();
        self.reversals.iter().filter(own).count() == all
    }

    /// Plus and minus swapped at what a feed feeds.
    pub(super) fn reverse(&mut self, feed: usize) {
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
    pub(super) fn finish(&mut self, faulty: bool, split: &BTreeMap<usize, usize>) {
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
    pub(super) fn piece_feed(&self, feed: usize, piece: Piece) -> usize {
        if piece == Piece::Joint(Joint::To) { self.feeds[feed].1 } else { self.feeds[feed].0 }
    }
}

pub(super) fn ohm_of(fault: &Fault) -> f64 {
    fault.size.unwrap_or(OPEN_OHM)
}

/// Whether a feed hangs on a current driver.
pub(super) fn driven(build: &Build, feed: usize) -> bool {
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
pub(super) fn swapped(build: &Build, faults: &[Fault]) -> Vec<usize> {
    let at: Vec<usize> = faults.iter().filter_map(|fault| if let At::Consumer(feed) = fault.at { Some(feed) } else { None }).collect();
    let feeds = build.feeds();
    let mixed = |feed: usize| (0..feeds.len()).any(|other| feeds[other].consumer == feeds[feed].consumer && !at.contains(&other));
    at.iter().copied().filter(|feed| swaps(build, *feed) && mixed(*feed)).collect()
}

/// Puts a junction part of the way along a feed: what is in the feed stays before it. Returns the junction's place.
pub(super) fn split_feed(opened: &mut Build, plan: &Build, index: usize, share: f64) -> usize {
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
