//! What a person finds some time after a fault has come: fuses that opened, modules that gave up, and what still shines.

use crate::BenchError;
use crate::fault::{At, Fault, FaultKind};
use crate::joints::Joint;
use crate::rig::{Rig, Shot, swaps};
use orthavis_model::document::{Build, Consumer, Scene};
use orthavis_model::states::State;
use orthavis_model::topology::Topology;
use orthavis_physics::network::SolveError;

/// A fuse that opens within this is open before anyone looks, s.
const BY_NOW_S: f64 = 120.0;
/// A converter that is asked for this much more than it can give gives up.
const GIVES_UP: f64 = 1.2;
/// A wire is hot to the hand above this share of its ampacity.
const HOT: f64 = 1.5;

/// A build with faults, as it is found.
pub struct Seen<'a> {
    /// The build with its faults and what they brought about.
    pub rig: Rig<'a>,
    /// What it does.
    pub shot: Shot,
    /// The faults, and what opened or gave up because of them.
    pub faults: Vec<Fault>,
    /// Feeds whose fuses opened.
    pub blown: Vec<usize>,
    /// Converters that gave up.
    pub tripped: Vec<usize>,
    /// Feeds whose wires are hot.
    pub hot: Vec<usize>,
}

/// Lets a fault take its course.
///
/// # Errors
/// Where there is no steady state even then.
pub fn seen<'a>(sound: &Rig<'a>, faults: &[Fault], scene: &Scene, state: State, near: Option<&Shot>) -> Result<Seen<'a>, BenchError> {
    let build: &Build = sound.plan();
    let feeds = build.feeds();
    let mut all = faults.to_vec();
    let (mut blown, mut tripped) = (Vec::new(), Vec::new());
    // Each round something opens for good; there are no more of them than fuses and modules.
    for _ in 0..=feeds.len() + build.converters.len() {
        let mut rig = Rig::beside(sound, &all)?;
        let shot = match rig.shot_near(scene, state, near) {
            Ok(shot) => shot,
            Err(error) => {
                // A short that drags everything down with it: what protects it opens, or its supply gives up.
                match protector(build, faults, state, &blown, &tripped) {
                    Some(Protector::Fuse(feed)) => {
                        blown.push(feed);
                        all.push(Fault { kind: FaultKind::Blown, at: At::Part(feed, Joint::Fuse), size: None });
                    }
                    Some(Protector::Converter(index)) => {
                        tripped.push(index);
                        all.push(off(build, index));
                    }
                    None => return Err(stopped(&error)),
                }
                continue;
            }
        };
        // Of several the one that is quickest; of those alike the one that is overloaded most.
        let opens = (0..feeds.len()).filter(|feed| !blown.contains(feed)).filter_map(|feed| {
            let (fuse, current) = (feeds[feed].feed.fuse.as_ref()?, rig.amps(&shot, feed));
            let [_, slow] = fuse.opens_s(current).filter(|[_, slow]| *slow < BY_NOW_S)?;
            Some((slow, -current / fuse.rating_a, feed))
        });
        let opens = opens.min_by(|a, b| a.0.total_cmp(&b.0).then(a.1.total_cmp(&b.1))).map(|(.., feed)| feed);
        if let Some(feed) = opens {
            blown.push(feed);
            all.push(Fault { kind: FaultKind::Blown, at: At::Part(feed, Joint::Fuse), size: None });
            continue;
        }
        let gives_up = (0..build.converters.len()).find(|index| {
            let out_a = rig.out_a(&shot, *index);
            !tripped.contains(index) && out_a > GIVES_UP * build.converters[*index].max_out_a.max(1e-9) && shorted(build, faults)
        });
        if let Some(index) = gives_up {
            tripped.push(index);
            all.push(off(build, index));
            continue;
        }
        let hot = (0..feeds.len()).filter(|feed| rig.amps(&shot, *feed) > HOT * build.ampacity_a(&feeds[*feed])).collect();
        return Ok(Seen { rig, shot, faults: all, blown, tripped, hot });
    }
    Err(stopped(&SolveError::CalledOff))
}

fn shorted(build: &Build, faults: &[Fault]) -> bool {
    faults.iter().any(|fault| matches!(fault.at, At::Along(..)) || matches!(fault.at, At::Consumer(feed) if swaps(build, feed)))
}

fn stopped(error: &SolveError) -> BenchError {
    BenchError::new(
        "fault",
        format!("with this fault there is no steady state: {error}"),
        "Look at another state of the battery, or at the pinch's own figures",
    )
}

/// A converter that no longer runs.
fn off(build: &Build, index: usize) -> Fault {
    let feed = build.feeds().iter().position(|feed| feed.consumer == Consumer::Converter(index)).unwrap_or(0);
    Fault { kind: FaultKind::Reversed, at: At::Consumer(feed), size: None }
}

enum Protector {
    Fuse(usize),
    Converter(usize),
}

/// What ends a short, by the rule for pinches.
fn protector(build: &Build, faults: &[Fault], state: State, blown: &[usize], tripped: &[usize]) -> Option<Protector> {
    faults.iter().find_map(|fault| {
        let (feed, share) = match fault.at {
            At::Along(feed, share) => (feed, share),
            At::Consumer(feed) if swaps(build, feed) => (feed, 1.0),
            _ => return None,
        };
        let feeds = build.feeds();
        let pinch = crate::pinch::pinch(build, &feeds[feed].id, share).ok()?.into_iter().find(|pinch| pinch.state == state)?;
        let fuse = pinch.fuse.as_ref().and_then(|id| feeds.iter().position(|feed| feed.id == *id)).filter(|feed| !blown.contains(feed));
        let above = || {
            let converter = orthavis_physics::protection::limiter_above(&Topology::of(build), feeds[feed].feed)?;
            build.converters.iter().position(|known| known.id == converter.id).filter(|index| !tripped.contains(index))
        };
        fuse.map(Protector::Fuse).or_else(|| above().map(Protector::Converter))
    })
}
