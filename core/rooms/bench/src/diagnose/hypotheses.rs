//! What could be wrong, and what could be measured.

use super::*;
use orthavis_model::document::FeedRef;
use orthavis_model::practice::{SMALL_CONTACT_V, above};
use orthavis_model::topology::Topology;
use orthavis_physics::protection::seat;

/// Places that readings are simulated at: along a long light some of its taps.
pub(super) fn spots(build: &Build) -> Vec<Spot> {
    let mut all = Spot::all(build);
    all.retain(|spot| match *spot {
        Spot::Rail(light, tap, _) => taps(&build.lights[light].load).is_some_and(|(_, count)| places(count).contains(&tap)),
        Spot::String { light, string, .. } => matches!(&build.lights[light].load, Load::LedArray(_)) && string < PLACES,
        _ => true,
    });
    all
}

/// The checks that are safe with the power on.
pub(super) fn candidates(build: &Build) -> Vec<(Setting, Probes)> {
    let mut all = Vec::new();
    let mut volts = |red: Spot, black: Spot| all.push((Setting::Volts, Probes::Between(red, black)));
    volts(Spot::Source(Side::Plus), Spot::Source(Side::Minus));
    for (index, feed) in build.feeds().iter().enumerate() {
        volts(Spot::To(index, Side::Plus), Spot::To(index, Side::Minus));
        volts(Spot::From(index, Side::Plus), Spot::From(index, Side::Minus));
        volts(Spot::From(index, Side::Plus), Spot::To(index, Side::Plus));
        volts(Spot::To(index, Side::Minus), Spot::From(index, Side::Minus));
        let mut before = Spot::From(index, Side::Plus);
        for joint in joints(feed.feed, Side::Plus) {
            if matches!(joint, Joint::From | Joint::To) {
                continue;
            }
            let here = Spot::After(index, joint);
            volts(here, Spot::From(index, Side::Minus));
            volts(before, here);
            before = here;
        }
        volts(before, Spot::To(index, Side::Plus));
    }
    // Two ends of one supply against each other: both wires at once.
    let feeds = build.feeds();
    for (index, feed) in feeds.iter().enumerate() {
        if let Some(other) = (index + 1..feeds.len()).find(|other| feeds[*other].feed.from == feed.feed.from) {
            for side in [Side::Plus, Side::Minus] {
                volts(Spot::To(index, side), Spot::To(other, side));
            }
        }
    }
    for index in 0..build.converters.len() {
        volts(Spot::In(index, Side::Plus), Spot::In(index, Side::Minus));
        volts(Spot::Out(index, Side::Plus), Spot::Out(index, Side::Minus));
    }
    for (light, part) in build.lights.iter().enumerate() {
        let feed = build.feeds().iter().position(|feed| feed.consumer == Consumer::Light(light)).unwrap_or(0);
        if let Load::LedArray(array) = &part.load {
            for string in 0..(array.parallel as usize).min(PLACES) {
                let mut before = Spot::To(feed, Side::Plus);
                for after in 0..=array.series as usize {
                    let here = Spot::String { light, string, after };
                    volts(before, here);
                    before = here;
                }
            }
        }
        if let Some((_, count)) = taps(&part.load) {
            for tap in places(count) {
                volts(Spot::Rail(light, tap, Side::Plus), Spot::Rail(light, tap, Side::Minus));
                volts(Spot::To(feed, Side::Plus), Spot::Rail(light, tap, Side::Plus));
            }
        }
    }
    all.extend((0..build.feeds().len()).map(|feed| (Setting::Clamp, Probes::Feed(feed))));
    all.push((Setting::Amps, Probes::Source));
    all.extend((0..build.feeds().len()).map(|feed| (Setting::Amps, Probes::Feed(feed))));
    all
}

/// Whether a reading is taken between the ends of two wires.
pub(super) fn is_across(probes: &Probes) -> bool {
    matches!(probes, Probes::Between(Spot::To(one, _), Spot::To(other, _)) if one != other)
}

/// Some of so many places, evenly, the ends among them.
pub(super) fn places(count: usize) -> Vec<usize> {
    if count <= PLACES {
        return (0..count).collect();
    }
    (0..PLACES).map(|step| step * (count - 1) / (PLACES - 1)).collect()
}

/// The faults that are told apart: along a long light, some of its places.
pub fn hypotheses(build: &Build) -> Vec<Fault> {
    let along = |light: usize, place: usize| {
        let count = match &build.lights[light].load {
            Load::LedArray(array) => return place < (array.parallel as usize).min(PLACES),
            load => taps(load).map_or(0, |(_, count)| count),
        };
        places(count).contains(&place)
    };
    let mut all = every(build);
    all.retain(|fault| match fault.at {
        At::Rail(light, tap, _) => along(light, tap),
        At::Pixel(light, pixel) => along(light, pixel),
        At::String(light, string) | At::Led(light, string, _) => along(light, string),
        _ => true,
    });
    all
}

/// What kinds of faults are, among all (representative).
pub(super) fn class(fault: &Fault) -> (usize, f64) {
    match (fault.kind, fault.at) {
        (FaultKind::Open | FaultKind::WeakJoint, At::Joint(..)) => (0, 0.30),
        (FaultKind::Reversed, At::Consumer(_)) => (1, 0.15),
        (FaultKind::Tired, _) | (FaultKind::Reversed, At::Source) => (2, 0.15),
        (FaultKind::Blown | FaultKind::StuckOpen, _) => (3, 0.15),
        (FaultKind::Short, At::Along(..)) => (4, 0.10),
        (FaultKind::WrongValue, _) => (6, 0.05),
        _ => (5, 0.10),
    }
}

/// How much likelier a hazard of the build makes a fault (representative): what can be plugged both ways is, what gets wet
/// corrodes, what shares its resistor burns out, a contact that arcs wears.
pub(super) fn invited(build: &Build, feeds: &[FeedRef<'_>], fault: &Fault) -> f64 {
    const INVITED: f64 = 3.0;
    const KEPT_OUT: f64 = 0.05;
    let bare_in_the_wet = |feed: &FeedRef<'_>| {
        let Consumer::Light(at) = feed.consumer else { return false };
        let light = &build.lights[at];
        build.noted_wet(&light.place) && (!light.is_sealed() || feed.feed.plugs_sealed == Some(false))
    };
    match (fault.kind, fault.at) {
        (FaultKind::Reversed, At::Consumer(feed)) => match feeds[feed].feed.keyed {
            Some(false) => INVITED,
            Some(true) => KEPT_OUT,
            None => 1.0,
        },
        (FaultKind::Open | FaultKind::WeakJoint, At::Joint(feed, ..)) if bare_in_the_wet(&feeds[feed]) => INVITED,
        (FaultKind::Burnt, At::Led(light, ..)) => match &build.lights[light].load {
            Load::LedArray(array) if array.shared_resistor && array.parallel > 1 => INVITED,
            _ => 1.0,
        },
        (FaultKind::StuckOpen, At::Part(feed, Joint::Switch)) => {
            let own = feeds[feed].feed;
            let breaks = own.switch.as_ref().map_or(f64::MAX, |switch| switch.rating_v.unwrap_or(SMALL_CONTACT_V));
            if above(seat(&Topology::of(build), own).highest_v, breaks) { INVITED } else { 1.0 }
        }
        _ => 1.0,
    }
}

/// Whether a fault is a mistake in building, which does not come by itself later: wires swapped, another part than planned.
pub(super) fn is_built_wrong(fault: &Fault) -> bool {
    matches!((fault.kind, fault.at), (FaultKind::Reversed, At::Consumer(_) | At::String(..) | At::Led(..)) | (FaultKind::WrongValue, _))
}
