//! What protects a wire, and what flows before it does: the zone of a fuse, where a fuse sits, and the current of a
//! short.
//!
//! A fuse's zone is its own feed and, through junctions and circuits, the unfused feeds below, up to lights and converter
//! inputs. A step-up limits nothing: its diode lets the battery through into a short, so that it passes a short on as a
//! junction does. A strip that is fed at several places is fed from all of them: a short in one of its feeds draws through
//! the others too.

use crate::points::PointReport;
use orthavis_model::document::{Build, Consumer, Converter, ConverterKind, Draw, Feed, FeedRef, Light, Load, Rail, Source, Track};
use orthavis_model::laws::fuse::Seat;
use orthavis_model::laws::wire::PVC_ALWAYS_C;
use orthavis_model::practice::{COLD_FILAMENT, MODULE_INPUT_F, above};
use orthavis_model::states::State;

/// Where a fuse at the start of this feed sits.
pub fn seat(build: &Build, feed: &Feed) -> Seat {
    if let Some(converter) = limiter_above(build, feed) {
        // A driver gives what it takes to drive its current: up to its input.
        let highest_v = set_above(build, feed).or(converter.set_v).unwrap_or_else(|| seat(build, &converter.feed).highest_v);
        return Seat { highest_v, battery: None, limit_a: converter.max_out_a, small: false };
    }
    let source_v = build.states().into_iter().map(|state| build.thevenin(state).0).fold(0.0, f64::max);
    // Behind a step-up there is its setting; where that is below its input, the input comes through.
    let highest_v = set_above(build, feed).map_or(source_v, |set_v| set_v.max(source_v));
    match &build.source {
        Source::Rail(Rail { max_current_a, .. }) | Source::Track(Track { max_current_a, .. }) => {
            Seat { highest_v, battery: None, limit_a: *max_current_a, small: false }
        }
        Source::Battery(battery) => {
            let (emf_v, source_ohm) = build.thevenin(State::Full);
            let before = carries_short(build, &feed.from).map_or(0.0, |above| way_ohm(build, above));
            Seat { highest_v, battery: Some((emf_v, source_ohm + before)), limit_a: f64::INFINITY, small: battery.is_small() }
        }
    }
}

/// The feeds that a fuse in `first` protects, `first` included.
pub fn zone<'a>(build: &'a Build, first: &FeedRef<'a>) -> Vec<FeedRef<'a>> {
    zone_by(build, first, |passing| build.feeds_from(passing.consumer_id(build)).collect())
}

/// [`zone`] where the feeds that hang on each supplier are known.
pub fn zone_by<'a>(build: &'a Build, first: &FeedRef<'a>, hanging: impl Fn(&FeedRef<'a>) -> Vec<FeedRef<'a>>) -> Vec<FeedRef<'a>> {
    let mut zone = vec![first.clone()];
    let mut next = 0;
    while next < zone.len() {
        let passes = match zone[next].consumer {
            Consumer::Junction(_) | Consumer::Circuit(_) => true,
            Consumer::Converter(at) => build.converters[at].kind == ConverterKind::Boost,
            Consumer::Light(_) | Consumer::Controller(_) => false,
        };
        if passes {
            zone.extend(hanging(&zone[next]).into_iter().filter(|feed| feed.feed.fuse.is_none()));
        }
        next += 1;
    }
    zone
}

/// What a fuse at the start of this feed has to protect: its zone, and of strips that are fed at several places every feed.
pub fn protected<'a>(build: &'a Build, feed: &FeedRef<'a>) -> Vec<FeedRef<'a>> {
    let mut all = zone(build, feed);
    for other in all.iter().flat_map(|wire| siblings(build, wire)).collect::<Vec<_>>() {
        if all.iter().all(|wire| wire.id != other.id) {
            all.push(other);
        }
    }
    all
}

/// The other feeds of a light that is fed at several places: what this one's fuse has to protect too.
pub fn siblings<'a>(build: &'a Build, feed: &FeedRef<'a>) -> Vec<FeedRef<'a>> {
    let Consumer::Light(at) = feed.consumer else { return Vec::new() };
    let own = build.lights[at].feeds.iter().enumerate().filter(|(number, _)| *number != feed.number);
    own.map(|(number, other)| FeedRef::new(&build.lights[at].id, number, feed.consumer, other)).collect()
}

/// What lets a short through from above: a junction, a circuit, or the diode of a step-up; its feed.
fn carries_short<'a>(build: &'a Build, from: &str) -> Option<&'a Feed> {
    let boost = || build.converters.iter().find(|one| one.id == from && one.kind == ConverterKind::Boost).map(|one| &one.feed);
    build.passes(from).or_else(boost)
}

/// Setting of the nearest converter above, V; `None` where there is none, or only a driver.
fn set_above(build: &Build, feed: &Feed) -> Option<f64> {
    let supplier = build.supplier(&feed.from);
    build.converters.iter().find(|one| one.id == supplier).and_then(|one| one.set_v)
}

/// Resistance from the source's terminals, or the converter that limits it, to the far end of a feed, out and back, ohm.
pub fn way_ohm(build: &Build, feed: &Feed) -> f64 {
    way(build, feed).map(Feed::out_ohm).sum::<f64>() + back_ohm(build, feed)
}

/// Resistance of the way back of a short at the far end of a feed, ohm: wires up to the source, or up to where the frame
/// takes it straight there.
pub fn back_ohm(build: &Build, feed: &Feed) -> f64 {
    let frame = build.vehicle.frame_return_ohm;
    let mut framed = false;
    // The frame itself is the last of the way.
    way(build, feed).take_while(|feed| !std::mem::replace(&mut framed, feed.by_frame(frame))).map(|feed| feed.back_ohm(frame)).sum()
}

/// What the diodes of step-ups on the way of a short keep, V.
pub fn diodes_v(build: &Build, feed: &Feed) -> f64 {
    let boost = |from: &str| build.converters.iter().find(|one| one.id == from && one.kind == ConverterKind::Boost);
    way(build, feed).filter_map(|feed| boost(&feed.from)).map(|one| one.pass_drop_v).sum()
}

/// The converter above that limits a short; `None`: the source gives what it can.
pub fn limiter_above<'a>(build: &'a Build, feed: &'a Feed) -> Option<&'a Converter> {
    let last = way(build, feed).last()?;
    build.converters.iter().find(|one| one.id == last.from)
}

/// Current into a bolted short at the far end of a feed, A.
pub fn fault_a(build: &Build, feed: &Feed) -> f64 {
    if let Some(converter) = limiter_above(build, feed) {
        return converter.max_out_a;
    }
    match &build.source {
        Source::Rail(Rail { max_current_a, .. }) | Source::Track(Track { max_current_a, .. }) => *max_current_a,
        Source::Battery(battery) => {
            let (emf_v, source_ohm) = build.thevenin(State::Reserve);
            let ohm = source_ohm + way_ohm(build, feed);
            // Two ideal ends with nothing between: more than any fuse minds.
            if ohm > 0.0 { (emf_v - diodes_v(build, feed)).max(0.0) / ohm } else { 1e6 * battery.max_current_a }
        }
    }
}

/// Largest current into a bolted short at the far end of a feed that nothing interrupts, A: from a full battery through its
/// own resistance and the wires out and back, from a converter or a rail what it gives at most.
pub fn most_fault_a(build: &Build, feed: &Feed) -> f64 {
    let Source::Battery(battery) = &build.source else { return fault_a(build, feed) };
    if limiter_above(build, feed).is_some() {
        return fault_a(build, feed);
    }
    let (emf_v, source_ohm) = build.thevenin(State::Full);
    let wires = way(build, feed).map(|feed| feed.gauge.ohm(feed.length_m)).sum::<f64>() + back_ohm(build, feed);
    if source_ohm + wires > 0.0 { (emf_v - diodes_v(build, feed)).max(0.0) / (source_ohm + wires) } else { 1e6 * battery.max_current_a }
}

/// A feed and those above it that a short in it flows through, up to the source or the converter that limits it.
pub fn way<'a>(build: &'a Build, feed: &'a Feed) -> impl Iterator<Item = &'a Feed> {
    std::iter::successors(Some(feed), |feed| carries_short(build, &feed.from))
}

/// Lights with filaments whose way to the supply goes by a feed.
pub fn filaments_behind<'a>(build: &'a Build, feed: &Feed) -> Vec<&'a Light> {
    let filament = |light: &&Light| matches!(&light.load, Load::Module(module) if module.draw == Draw::Filament);
    let behind = |light: &&Light| light.feeds.iter().any(|own| way(build, own).any(|above| std::ptr::eq(above, feed)));
    build.lights.iter().filter(filament).filter(behind).collect()
}

/// Current in a feed while those of the filaments behind it that are asked to shine are cold, A; `None` where none is.
pub fn cold_filaments_a(bulbs: &[&Light], point: &PointReport, feed: &str, asked: impl Fn(&Light) -> bool) -> Option<f64> {
    let warm_a: f64 = bulbs.iter().filter(|light| asked(light)).filter_map(|light| point.lights.get(&light.id)).map(|light| light.current_a).sum();
    let all_a = point.feeds.get(feed).map_or(0.0, |here| here.current_a.abs());
    (warm_a > 0.0).then_some(all_a + (COLD_FILAMENT.0 - 1.0) * warm_a)
}

/// What charges the input capacitors of the switching modules right behind a feed, A²s: half of what a capacitor holds, over
/// the resistance on its way.
pub fn charges_a2s(build: &Build, feed: &Feed) -> f64 {
    let (emf_v, _) = build.thevenin(build.states()[0]);
    let switching = |one: &&Converter| one.kind != ConverterKind::Linear && way(build, &one.feed).any(|above| std::ptr::eq(above, feed));
    let rush = |one: &Converter| 0.5 * MODULE_INPUT_F * emf_v * most_fault_a(build, &one.feed);
    build.converters.iter().filter(switching).map(rush).sum()
}

/// Whether a feed hangs straight on what a short is fed from: where a fuse belongs.
pub fn begins_at_supply(build: &Build, feed: &Feed) -> bool {
    carries_short(build, &feed.from).is_none()
}

/// Whether a feed without a fuse wants one: a short in its zone would make a wire there hotter than its insulation stands
/// for good.
pub fn wants_fuse(build: &Build, feed: &FeedRef<'_>) -> bool {
    let hot = |far: &FeedRef<'_>| above(far.feed.gauge.settled_c(far.feed.bundled, most_fault_a(build, far.feed)), PVC_ALWAYS_C);
    feed.feed.fuse.is_none() && begins_at_supply(build, feed.feed) && zone(build, feed).iter().any(hot)
}
