//! What protects a wire, and what flows before it does: the zone of a fuse, where a fuse sits, and the current of a
//! short.
//!
//! A fuse's zone is its own feed and, through junctions, the unfused feeds below, up to lights and converter inputs.

use orthavis_model::document::{Build, Consumer, Feed, FeedRef, Rail, Source, Track};
use orthavis_model::laws::fuse::Seat;
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
            let before = build.junctions.iter().find(|j| j.id == feed.from).map_or(0.0, |junction| way_ohm(build, &junction.feed));
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
    let own = feed.out_ohm() + feed.back_ohm(frame);
    own + build.passes(&feed.from).map_or(0.0, |above| way_ohm(build, above))
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

/// What limits the current into a feed that hangs straight on a rail or converter, A.
pub fn supply_limit_a(build: &Build, feed: &Feed) -> Option<f64> {
    match (&build.source, feed.from.as_str()) {
        (Source::Rail(Rail { max_current_a, .. }) | Source::Track(Track { max_current_a, .. }), "source") => Some(*max_current_a),
        (_, from) => build.converters.iter().find(|c| c.id == from).map(|converter| converter.max_out_a),
    }
}

/// Whether a feed without a fuse wants one: it hangs on a battery, or on a supply that gives more than a wire in its
/// zone carries.
pub fn wants_fuse(build: &Build, feed: &FeedRef<'_>) -> bool {
    wants(build, feed, || zone(build, feed))
}

/// [`wants_fuse`] where the zone is known.
pub fn wants<'a>(build: &Build, feed: &FeedRef<'a>, zone: impl Fn() -> Vec<FeedRef<'a>>) -> bool {
    if feed.feed.fuse.is_some() {
        return false;
    }
    let battery = feed.feed.from == "source" && matches!(build.source, Source::Battery(_));
    let thinnest = || zone().into_iter().map(|f| f.feed.gauge.ampacity_a(f.feed.bundled)).fold(f64::MAX, f64::min);
    battery || supply_limit_a(build, feed.feed).is_some_and(|limit| above(limit, thinnest()))
}
