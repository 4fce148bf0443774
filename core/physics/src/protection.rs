//! What protects a wire, and what flows before it does: the zone of a fuse, where a fuse sits, and the current of a
//! short.
//!
//! A fuse's zone is its own feed and, through junctions, the unfused feeds below, up to lights and converter inputs.

use orthavis_model::document::{Build, Consumer, Feed, FeedRef, Rail, Source, Track};
use orthavis_model::laws::fuse::Seat;
use orthavis_model::laws::wire::PVC_ALWAYS_C;
use orthavis_model::practice::above;
use orthavis_model::states::State;

/// Where a fuse at the start of this feed sits.
pub fn seat(build: &Build, feed: &Feed) -> Seat {
    if let Some(converter) = converter_above(build, feed) {
        return Seat { highest_v: converter.set_v.unwrap_or(0.0), battery: None, limit_a: converter.max_out_a, small: false };
    }
    let highest_v = build.source.states().into_iter().map(|state| build.source.thevenin(state).0).fold(0.0, f64::max);
    match &build.source {
        Source::Rail(Rail { max_current_a, .. }) | Source::Track(Track { max_current_a, .. }) => {
            Seat { highest_v, battery: None, limit_a: *max_current_a, small: false }
        }
        Source::Battery(battery) => {
            let (emf_v, source_ohm) = build.source.thevenin(State::Full);
            let before = build.passes(&feed.from).map_or(0.0, |above| way_ohm(build, above));
            Seat { highest_v, battery: Some((emf_v, source_ohm + before)), limit_a: f64::INFINITY, small: battery.is_small() }
        }
    }
}

/// The feeds that a fuse in `first` protects, `first` included.
pub fn zone<'a>(build: &'a Build, first: &FeedRef<'a>) -> Vec<FeedRef<'a>> {
    zone_by(first, |passing| build.feeds_from(passing.consumer_id(build)).collect())
}

/// [`zone`] where the feeds that hang on each junction and circuit are known.
pub fn zone_by<'a>(first: &FeedRef<'a>, hanging: impl Fn(&FeedRef<'a>) -> Vec<FeedRef<'a>>) -> Vec<FeedRef<'a>> {
    let mut zone = vec![first.clone()];
    let mut next = 0;
    while next < zone.len() {
        if matches!(zone[next].consumer, Consumer::Junction(_) | Consumer::Circuit(_)) {
            zone.extend(hanging(&zone[next]).into_iter().filter(|feed| feed.feed.fuse.is_none()));
        }
        next += 1;
    }
    zone
}

/// Resistance from the source's terminals to the far end of a feed, out and back, ohm, through junctions and circuits only.
pub fn way_ohm(build: &Build, feed: &Feed) -> f64 {
    let frame = build.vehicle.frame_return_ohm;
    way(build, feed).map(|feed| feed.out_ohm() + feed.back_ohm(frame)).sum()
}

/// The converter that supplies a feed, through junctions; `None`: the source.
pub fn converter_above<'a>(build: &'a Build, feed: &'a Feed) -> Option<&'a orthavis_model::document::Converter> {
    match build.passes(&feed.from) {
        Some(above) => converter_above(build, above),
        None => build.converters.iter().find(|c| c.id == feed.from),
    }
}

/// Current into a bolted short at the far end of a feed, A.
pub fn fault_a(build: &Build, feed: &Feed) -> f64 {
    if let Some(converter) = converter_above(build, feed) {
        return converter.max_out_a;
    }
    match &build.source {
        Source::Rail(Rail { max_current_a, .. }) | Source::Track(Track { max_current_a, .. }) => *max_current_a,
        Source::Battery(battery) => {
            let (emf_v, source_ohm) = build.source.thevenin(State::Reserve);
            let ohm = source_ohm + way_ohm(build, feed);
            // Two ideal ends with nothing between: more than any fuse minds.
            if ohm > 0.0 { emf_v / ohm } else { 1e6 * battery.max_current_a }
        }
    }
}

/// Largest current into a bolted short at the far end of a feed that nothing interrupts, A: from a full battery through its
/// own resistance and the wires out and back, from a converter or a rail what it gives at most.
pub fn most_fault_a(build: &Build, feed: &Feed) -> f64 {
    let Source::Battery(battery) = &build.source else { return fault_a(build, feed) };
    if converter_above(build, feed).is_some() {
        return fault_a(build, feed);
    }
    let (emf_v, source_ohm) = build.source.thevenin(State::Full);
    let frame = build.vehicle.frame_return_ohm;
    let wires: f64 = way(build, feed).map(|feed| feed.gauge.ohm(feed.length_m) + feed.back_ohm(frame)).sum();
    if source_ohm + wires > 0.0 { emf_v / (source_ohm + wires) } else { 1e6 * battery.max_current_a }
}

/// A feed and those above it, through junctions and circuits, up to the source or a converter.
pub fn way<'a>(build: &'a Build, feed: &'a Feed) -> impl Iterator<Item = &'a Feed> {
    std::iter::successors(Some(feed), |feed| build.passes(&feed.from))
}

/// Whether a feed hangs straight on a source or converter: where a fuse belongs.
pub fn begins_at_supply(build: &Build, feed: &Feed) -> bool {
    build.passes(&feed.from).is_none()
}

/// Whether a feed without a fuse wants one: a short in its zone would make a wire there hotter than its insulation stands
/// for good.
pub fn wants_fuse(build: &Build, feed: &FeedRef<'_>) -> bool {
    let hot = |far: &FeedRef<'_>| above(far.feed.gauge.settled_c(far.feed.bundled, most_fault_a(build, far.feed)), PVC_ALWAYS_C);
    feed.feed.fuse.is_none() && begins_at_supply(build, feed.feed) && zone(build, feed).iter().any(hot)
}
