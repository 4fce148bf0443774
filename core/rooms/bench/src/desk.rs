//! The desk: a build with a meter on it, as it would be with real ones. Its source is off, its own, or a bench supply;
//! what goes wrong with real meters goes wrong here too: a blown fuse in the meter, a clamp that was not zeroed, ohms on a
//! live circuit, amps across a supply.

use crate::BenchError;
use crate::fault::{At, Fault, FaultKind};
use crate::joints::Joint;
use crate::meter::{Serial, Setting};
use crate::reading::unpowered;
use crate::rig::{METER_OHM, Rig, Shot};
use crate::spot::{Spot, feed_index};
use orthavis_model::document::{Build, Scene};
use orthavis_model::states::State;
use orthavis_model::words;
use orthavis_physics::network::{Side, SolveError};

/// In line on amps: what the meter puts in the way, ohm, and what its fuse stands, A.
pub const AMPS: (f64, f64) = (0.01, 10.0);
/// The same on milliamps.
pub const MILLIAMPS: (f64, f64) = (1.0, 0.4);
/// The most that each setting shows.
const MOST_V: f64 = 400.0;
const MOST_CLAMP_A: f64 = 400.0;
/// Largest offset of a clamp that was not zeroed, A.
const CLAMP_OFF_A: f64 = 0.3;
/// Below this the meter beeps, ohm.
const BEEPS_OHM: f64 = 30.0;
/// More than this between the probes is a live circuit, V.
const LIVE_V: f64 = 0.05;

/// What feeds the build.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Fed {
    /// Nothing: ohms may be taken.
    Off,
    /// Its own battery or rail.
    Own,
    /// A bench supply in its place: set voltage, V, and limit, A.
    Supply {
        /// What it is set to, V.
        volts: f64,
        /// What it gives at most, A.
        limit_a: f64,
    },
}

words! {
    /// How a bench supply runs.
    Mode {
        /// Off.
        Off = "OFF",
        /// At its voltage.
        Voltage = "CV",
        /// At its limit.
        Current = "CC",
    }
}

/// Where the meter is.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Place {
    /// Red and black probe.
    Across(Spot, Spot),
    /// The circuit is opened at a joint of a feed's plus side and the meter put in, by place in [`Build::feeds`].
    InLine(usize, Joint),
    /// Opened at the source's plus.
    InLineAtSource,
    /// The clamp around a feed's plus conductor.
    Around(usize),
    /// The clamp around the source's plus.
    AroundSource,
}

/// The joint of `tail:fuse`, where a circuit can be opened; `source`: at the battery.
///
/// # Errors
/// When there is no such joint.
pub fn opened_at(build: &Build, name: &str) -> Result<Place, BenchError> {
    if name == "source" {
        return Ok(Place::InLineAtSource);
    }
    match Spot::parse(build, name)? {
        Spot::From(feed, Side::Plus) => Ok(Place::InLine(feed, Joint::From)),
        Spot::After(feed, joint) => Ok(Place::InLine(feed, joint)),
        Spot::To(feed, Side::Plus) => Ok(Place::InLine(feed, Joint::To)),
        _ => Err(BenchError::new(
            name,
            format!("the circuit cannot be opened at `{name}`"),
            "Name a joint of a plus side, as `tail:fuse`, `tail:from+` or `source`",
        )),
    }
}

/// What a clamp is put around: a feed, or `source`.
///
/// # Errors
/// When there is no such feed.
pub fn clamped(build: &Build, name: &str) -> Result<Place, BenchError> {
    if name == "source" {
        return Ok(Place::AroundSource);
    }
    let feed = feed_index(build, name);
    feed.map(Place::Around).ok_or_else(|| BenchError::new(name, format!("there is no feed `{name}`"), "Name a feed, or `source`"))
}

words! {
    /// What a person should hear about.
    Mishap {
        /// Amps across a supply.
        FuseBlown = "fuse_blown" called "the fuse in the meter blew: a meter on amps is a piece of wire, and it lay across a supply, or more flowed than it stands. Never put it across; move the red lead back to volts, and put in a fuse of the same kind",
        /// The meter's fuse is open from before.
        FuseOpen = "fuse_open" called "the fuse in the meter is open: it reads nothing in line. Put in a new one of the same kind",
        /// Ohms with the power on.
        Live = "live" called "the circuit is live: ohms, continuity and diodes are tested with the power off. The figure means nothing",
    }
}

/// What a meter shows.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Shown {
    /// In the unit of the setting; `None`: more than it can show, or open.
    pub value: Option<f64>,
    /// Continuity.
    pub beeps: bool,
    /// What happened.
    pub event: Option<Mishap>,
}

impl Shown {
    fn plain(value: f64) -> Self {
        Shown { value: Some(value), beeps: false, event: None }
    }
}

/// A meter with what has become of it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Meter {
    /// Which one.
    pub serial: Serial,
    /// Whether the fuse of its amps socket is good.
    pub amps_fuse: bool,
    /// Whether that of its milliamps socket is.
    pub milliamps_fuse: bool,
    /// Whether its clamp was zeroed.
    pub zeroed: bool,
}

impl Meter {
    /// From its box.
    pub fn new(serial: u64) -> Self {
        Meter { serial: Serial(serial), amps_fuse: true, milliamps_fuse: true, zeroed: false }
    }
}

/// A build on the desk.
pub struct Desk<'a> {
    build: &'a Build,
    faults: Vec<Fault>,
    scene: &'a Scene,
    state: State,
    fed: Fed,
}

impl<'a> Desk<'a> {
    /// A build with faults in it, a scene that is on, and what feeds it.
    pub fn new(build: &'a Build, faults: Vec<Fault>, scene: &'a Scene, state: State, fed: Fed) -> Self {
        Desk { build, faults, scene, state, fed }
    }

    fn rig(&self, more: Option<Fault>) -> Result<Rig<'a>, BenchError> {
        let all: Vec<Fault> = self.faults.iter().cloned().chain(more).collect();
        Rig::new(self.build, &all)
    }

    /// The running circuit with `extra_ohm` in its source's lead; `None` with the power off.
    fn shot(&self, rig: &mut Rig<'_>, extra_ohm: f64) -> Result<Option<(Shot, Mode)>, BenchError> {
        match self.fed {
            Fed::Off => Ok(None),
            Fed::Own => {
                let (emf_v, ohm) = rig.thevenin(self.state);
                Ok(Some((rig.shot_fed(self.scene, emf_v, ohm + extra_ohm, None)?, Mode::Voltage)))
            }
            Fed::Supply { volts, limit_a } => limited(rig, self.scene, volts, limit_a, extra_ohm).map(Some),
        }
    }

    /// Voltage, V, and current, A, of what feeds it, and how a supply runs.
    ///
    /// # Errors
    /// When there is no steady state.
    pub fn feeding(&self) -> Result<(f64, f64, Mode), BenchError> {
        let mut rig = self.rig(None)?;
        let shot = self.shot(&mut rig, 0.0)?;
        Ok(shot.map_or((0.0, 0.0, Mode::Off), |(shot, mode)| {
            let (volts, amps) = rig.source(&shot);
            (volts, if let Fed::Supply { limit_a, .. } = self.fed { amps.min(limit_a) } else { amps }, mode)
        }))
    }

    /// What the meter shows; it may be another meter afterwards.
    ///
    /// # Errors
    /// A place that the setting cannot be used at, or no steady state.
    pub fn read(&self, meter: &mut Meter, setting: Setting, milliamps: bool, place: Place) -> Result<Shown, BenchError> {
        match (setting, place) {
            (Setting::Volts, Place::Across(red, black)) => self.volts(meter, red, black),
            (Setting::Ohms | Setting::Diode, Place::Across(red, black)) => self.dead(meter, setting, red, black),
            (Setting::Amps, Place::Across(red, black)) => self.amps_across(meter, milliamps, red, black),
            (Setting::Amps, Place::InLine(..) | Place::InLineAtSource) => self.amps_in_line(meter, milliamps, place),
            (Setting::Clamp | Setting::Amps, Place::Around(_) | Place::AroundSource) => self.clamp(meter, place),
            (Setting::Look | Setting::Watch, _) => Err(BenchError::new("look", "there is no meter in looking", "Choose volts, amps, ohms or the diode test")),
            (Setting::Clamp, _) => Err(BenchError::new("clamp", "the clamp is around no wire", "Put it around one feed's plus wire")),
            (_, Place::InLine(..) | Place::InLineAtSource) => {
                Err(BenchError::new("probes", "the meter is in line, where it reads amps only", "Take it out and put the probes on two points"))
            }
            (_, Place::Around(_) | Place::AroundSource) => Err(BenchError::new("probes", "the clamp reads amps only", "Put the probes on two points")),
        }
    }

    fn volts(&self, meter: &Meter, red: Spot, black: Spot) -> Result<Shown, BenchError> {
        let mut rig = self.rig(None)?;
        let Some((shot, _)) = self.shot(&mut rig, 0.0)? else { return Ok(Shown::plain(meter.serial.shows(Setting::Volts, 0.0))) };
        let open = rig.potential(&shot, red) - rig.potential(&shot, black);
        // What ten megohms take matters only where hardly anything conducts; inside a light there is no clip for them.
        let loaded = rig.loaded_volts(&shot, red, black, open / METER_OHM).ok().flatten();
        let volts = loaded.map_or(open, |loaded| if (open - loaded).abs() > 1e-12 { open * open / (2.0 * open - loaded) } else { open });
        let value = Some(meter.serial.shows(Setting::Volts, volts)).filter(|volts| volts.abs() <= MOST_V);
        Ok(Shown { value, beeps: false, event: None })
    }

    fn dead(&self, meter: &Meter, setting: Setting, red: Spot, black: Spot) -> Result<Shown, BenchError> {
        let mut rig = self.rig(None)?;
        if let Some((shot, _)) = self.shot(&mut rig, 0.0)? {
            let volts = rig.potential(&shot, red) - rig.potential(&shot, black);
            if volts.abs() > LIVE_V {
                // What the circuit drives through the meter is read as if the meter had driven it.
                let value = if setting == Setting::Diode { volts } else { volts / crate::rig::OHMS_A };
                return Ok(Shown { value: Some(value).filter(|_| setting == Setting::Ohms || volts.abs() < 3.0), beeps: false, event: Some(Mishap::Live) });
            }
        }
        let value = unpowered(&rig, setting, &crate::reading::Probes::Between(red, black))?;
        let beeps = setting == Setting::Ohms && value.is_some_and(|ohm| ohm.abs() < BEEPS_OHM);
        Ok(Shown { value: value.map(|value| meter.serial.shows(setting, value)), beeps, event: None })
    }

    /// A meter on amps across two points is a piece of wire between them.
    fn amps_across(&self, meter: &mut Meter, milliamps: bool, red: Spot, black: Spot) -> Result<Shown, BenchError> {
        let (ohm, most_a) = if milliamps { MILLIAMPS } else { AMPS };
        let fuse = if milliamps { &mut meter.milliamps_fuse } else { &mut meter.amps_fuse };
        if !*fuse {
            return Ok(Shown { value: Some(0.0), beeps: false, event: Some(Mishap::FuseOpen) });
        }
        let mut rig = self.rig(None)?;
        let Some((shot, _)) = self.shot(&mut rig, 0.0)? else { return Ok(Shown::plain(0.0)) };
        // More than the fuse stands, where what the circuit gives at that current still leaves volts for the meter.
        let left = |amps: f64| Ok::<f64, BenchError>(rig.loaded_volts(&shot, red, black, amps)?.map_or(f64::NEG_INFINITY, |volts| volts - amps * ohm));
        let open = left(0.0)?;
        let sign = if open < 0.0 { -1.0 } else { 1.0 };
        let still = |amps: f64| left(sign * amps).map(|volts| sign * volts > 0.0);
        if still(most_a)? {
            *fuse = false;
            return Ok(Shown { value: None, beeps: false, event: Some(Mishap::FuseBlown) });
        }
        let (mut low, mut high) = (0.0, most_a);
        for _ in 0..40 {
            let middle = 0.5 * (low + high);
            if still(middle)? { low = middle } else { high = middle }
        }
        Ok(Shown::plain(meter.serial.shows(Setting::Amps, sign * low)))
    }

    fn amps_in_line(&self, meter: &mut Meter, milliamps: bool, place: Place) -> Result<Shown, BenchError> {
        let (ohm, most_a) = if milliamps { MILLIAMPS } else { AMPS };
        let fuse = if milliamps { &mut meter.milliamps_fuse } else { &mut meter.amps_fuse };
        if !*fuse {
            return Ok(Shown { value: Some(0.0), beeps: false, event: Some(Mishap::FuseOpen) });
        }
        let amps = match place {
            Place::InLine(feed, joint) => {
                let there = Fault { kind: FaultKind::WeakJoint, at: At::Joint(feed, Side::Plus, joint), size: Some(ohm) };
                let mut rig = self.rig(Some(there))?;
                self.shot(&mut rig, 0.0)?.map_or(0.0, |(shot, _)| rig.amps(&shot, feed))
            }
            _ => {
                let mut rig = self.rig(None)?;
                self.shot(&mut rig, ohm)?.map_or(0.0, |(shot, _)| rig.source(&shot).1)
            }
        };
        if amps.abs() > most_a {
            *fuse = false;
            return Ok(Shown { value: None, beeps: false, event: Some(Mishap::FuseBlown) });
        }
        Ok(Shown::plain(meter.serial.shows(Setting::Amps, amps)))
    }

    fn clamp(&self, meter: &Meter, place: Place) -> Result<Shown, BenchError> {
        let mut rig = self.rig(None)?;
        let shot = self.shot(&mut rig, 0.0)?;
        let amps = shot.map_or(0.0, |(shot, _)| if let Place::Around(feed) = place { rig.amps(&shot, feed) } else { rig.source(&shot).1 });
        let off = if meter.zeroed { 0.0 } else { meter.serial.offset(CLAMP_OFF_A) };
        let value = Some(meter.serial.shows(Setting::Clamp, amps) + off).filter(|amps| amps.abs() <= MOST_CLAMP_A);
        Ok(Shown { value, beeps: false, event: None })
    }
}

/// A supply at its voltage; where more would flow than it may give, at the highest voltage at which that is not so.
fn limited(rig: &mut Rig<'_>, scene: &Scene, volts: f64, limit_a: f64, ohm: f64) -> Result<(Shot, Mode), BenchError> {
    let within = |rig: &mut Rig<'_>, volts: f64| -> Result<Option<Shot>, SolveError> {
        let shot = rig.shot_fed(scene, volts, ohm, None)?;
        Ok(Some(shot).filter(|shot| rig.source(shot).1 <= limit_a))
    };
    match within(rig, volts) {
        Ok(Some(shot)) => return Ok((shot, Mode::Voltage)),
        Err(error) if error.is_unfinished() => return Err(error.into()),
        Ok(None) | Err(_) => {}
    }
    let (mut low, mut high) = (0.0, volts);
    // What draws the same at any voltage pulls a supply down to none.
    let mut best = rig.shot_fed(scene, 0.0, ohm, None)?;
    for _ in 0..40 {
        let middle = 0.5 * (low + high);
        match within(rig, middle) {
            Ok(Some(shot)) => {
                (low, best) = (middle, shot);
            }
            Err(error) if error.is_unfinished() => return Err(error.into()),
            Ok(None) | Err(_) => high = middle,
        }
    }
    Ok((best, Mode::Current))
}
