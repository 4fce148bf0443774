//! What protects a wire, and what flows before it does: the zone of a fuse, where a fuse sits, and the current of a
//! short.
//!
//! A step-up limits nothing: its diode lets the battery through into a short, so that it passes a short on as a junction
//! does. A strip that is fed at several places is fed from all of them: a short in one of its feeds draws through
//! the others too.

use crate::points::PointReport;
use orthavis_model::document::{Converter, ConverterKind, Draw, Feed, Light, Load, Rail, Source, Track};
use orthavis_model::laws::fuse::Seat;
use orthavis_model::laws::wire::PVC_ALWAYS_C;
use orthavis_model::practice::{COLD_FILAMENT, MODULE_INPUT_F, above};
use orthavis_model::states::State;
use orthavis_model::topology::{Node, Topology, Wire};

/// Where a fuse at the start of this feed sits.
pub fn seat(graph: &Topology<'_>, feed: &Feed) -> Seat {
    let build = graph.build();
    if let Some(converter) = limiter_above(graph, feed) {
        // A driver gives what it takes to drive its current: up to its input.
        let highest_v = set_above(graph, feed).or(converter.set_v()).unwrap_or_else(|| seat(graph, &converter.feed).highest_v);
        return Seat { highest_v, battery: None, limit_a: converter.max_out_a, small: false };
    }
    let source_v = build.states().into_iter().map(|state| build.thevenin(state).0).fold(0.0, f64::max);
    // Behind a step-up there is its setting; where that is below its input, the input comes through.
    let highest_v = set_above(graph, feed).map_or(source_v, |set_v| set_v.max(source_v));
    match &build.source {
        Source::Rail(Rail { max_current_a, .. }) | Source::Track(Track { max_current_a, .. }) => {
            Seat { highest_v, battery: None, limit_a: *max_current_a, small: false }
        }
        Source::Battery(battery) => {
            let (emf_v, source_ohm) = build.thevenin(State::Full);
            let before = graph.leading_a_short_to(graph.start(feed)).next().map_or(0.0, |above| way_ohm(graph, graph.laid(above)));
            Seat { highest_v, battery: Some((emf_v, source_ohm + before)), limit_a: f64::INFINITY, small: battery.is_small() }
        }
    }
}

/// What a fuse at the start of this feed has to protect: its zone, and of strips that are fed at several places every feed.
pub fn protected(graph: &Topology<'_>, feed: Wire) -> Vec<Wire> {
    let mut all = graph.zone(feed);
    for other in all.iter().flat_map(|wire| graph.inlets(graph.to(*wire))).collect::<Vec<_>>() {
        if !all.contains(&other) {
            all.push(other);
        }
    }
    all
}

/// Setting of the nearest converter above, V; `None` where there is none, or only a driver.
fn set_above(graph: &Topology<'_>, feed: &Feed) -> Option<f64> {
    graph.converter(graph.supply(graph.start(feed))).and_then(|one| one.set_v())
}

/// Resistance from the source's terminals, or the converter that limits it, to the far end of a feed, out and back, ohm.
pub fn way_ohm(graph: &Topology<'_>, feed: &Feed) -> f64 {
    way(graph, feed).map(Feed::out_ohm).sum::<f64>() + back_ohm(graph, feed)
}

/// Resistance of the way back of a short at the far end of a feed, ohm: wires up to the source, or up to where the frame
/// takes it straight there.
pub fn back_ohm(graph: &Topology<'_>, feed: &Feed) -> f64 {
    let frame = graph.build().vehicle.frame_return_ohm;
    let mut framed = false;
    // The frame itself is the last of the way.
    way(graph, feed).take_while(|feed| !std::mem::replace(&mut framed, feed.by_frame(frame))).map(|feed| feed.back_ohm(frame)).sum()
}

/// What the diodes of step-ups on the way of a short keep, V.
pub fn diodes_v(graph: &Topology<'_>, feed: &Feed) -> f64 {
    let passed = way(graph, feed).map(|feed| graph.start(feed)).filter(|above| graph.passes_short(*above));
    passed.filter_map(|above| graph.converter(above)).filter_map(|one| one.pass_drop_v()).sum()
}

/// The converter above that limits a short; `None`: the source gives what it can.
pub fn limiter_above<'a>(graph: &Topology<'a>, feed: &Feed) -> Option<&'a Converter> {
    graph.converter(graph.start(way(graph, feed).last()?))
}

/// Current into a bolted short at the far end of a feed, A.
pub fn fault_a(graph: &Topology<'_>, feed: &Feed) -> f64 {
    if let Some(converter) = limiter_above(graph, feed) {
        return converter.max_out_a;
    }
    match &graph.build().source {
        Source::Rail(Rail { max_current_a, .. }) | Source::Track(Track { max_current_a, .. }) => *max_current_a,
        Source::Battery(battery) => {
            let (emf_v, source_ohm) = graph.build().thevenin(State::Reserve);
            let ohm = source_ohm + way_ohm(graph, feed);
            // Two ideal ends with nothing between: more than any fuse minds.
            if ohm > 0.0 { (emf_v - diodes_v(graph, feed)).max(0.0) / ohm } else { 1e6 * battery.max_current_a }
        }
    }
}

/// Largest current into a bolted short at the far end of a feed that nothing interrupts, A: from a full battery through its
/// own resistance and the wires out and back, from a converter or a rail what it gives at most.
pub fn most_fault_a(graph: &Topology<'_>, feed: &Feed) -> f64 {
    let Source::Battery(battery) = &graph.build().source else { return fault_a(graph, feed) };
    if limiter_above(graph, feed).is_some() {
        return fault_a(graph, feed);
    }
    let (emf_v, source_ohm) = graph.build().thevenin(State::Full);
    let wires = way(graph, feed).map(|feed| feed.gauge.ohm(feed.length_m)).sum::<f64>() + back_ohm(graph, feed);
    if source_ohm + wires > 0.0 { (emf_v - diodes_v(graph, feed)).max(0.0) / (source_ohm + wires) } else { 1e6 * battery.max_current_a }
}

/// A feed and those above it that a short in it flows through, up to the source or the converter that limits it.
pub fn way<'f>(graph: &Topology<'f>, feed: &'f Feed) -> impl Iterator<Item = &'f Feed> {
    std::iter::once(feed).chain(graph.leading_a_short_to(graph.start(feed)).map(|wire| graph.laid(wire)))
}

/// Whether a short behind a part flows through a feed.
pub fn is_behind(graph: &Topology<'_>, node: Node, feed: Wire) -> bool {
    graph.inlets(node).any(|own| own == feed || graph.leading_a_short_to(graph.from(own)).any(|above| above == feed))
}

/// Lights with filaments whose way to the supply goes by a feed.
pub fn filaments_behind<'a>(graph: &Topology<'a>, feed: Wire) -> Vec<&'a Light> {
    let filament = |light: &Light| matches!(&light.load, Load::Module(module) if module.draw == Draw::Filament);
    let lights = graph.build().lights.iter().enumerate();
    lights.filter(|(at, light)| filament(light) && is_behind(graph, Node::Light(*at), feed)).map(|(_, light)| light).collect()
}

/// Current in a feed for an instant after switch-on, A: cold filaments, and what converters and modules are said to take then;
/// `None` where nothing is known to.
pub fn inrush_a(graph: &Topology<'_>, feed: Wire, point: &PointReport, asked: impl Fn(&Light) -> bool) -> Option<f64> {
    let (build, id) = (graph.build(), &graph.feed(feed).id);
    let here = |node: Node| is_behind(graph, node, feed);
    let steady_a = point.feeds.get(id).map_or(0.0, |here| here.current_a.abs());
    let converters = build.converters.iter().enumerate().filter(|(at, _)| here(Node::Converter(*at)));
    let converters = converters.filter_map(|(_, one)| Some(one.inrush_a? - point.converters.get(&one.id).map_or(0.0, |now| now.in_a)));
    let lights = build.lights.iter().enumerate().filter(|(at, light)| asked(light) && here(Node::Light(*at)));
    let lights = lights.filter_map(|(_, light)| {
        let Load::Module(module) = &light.load else { return None };
        let now = point.lights.get(&light.id).map_or(0.0, |now| now.current_a);
        let filament = (module.draw == Draw::Filament).then_some(COLD_FILAMENT.0 * now);
        Some(module.inrush_a.or(filament)? - now)
    });
    let more_a: f64 = converters.chain(lights).map(|more| more.max(0.0)).sum();
    (more_a > 0.0).then_some(steady_a + more_a)
}

/// What charges the input capacitors of the switching modules right behind a feed, A²s: half of what a capacitor holds, over
/// the resistance on its way.
pub fn charges_a2s(graph: &Topology<'_>, feed: Wire) -> f64 {
    let build = graph.build();
    let (emf_v, _) = build.thevenin(build.states()[0]);
    let switching = build.converters.iter().enumerate().filter(|(_, one)| one.kind() != ConverterKind::Linear);
    let behind = switching.filter(|(at, _)| is_behind(graph, Node::Converter(*at), feed));
    behind.map(|(_, one)| 0.5 * MODULE_INPUT_F * emf_v * most_fault_a(graph, &one.feed)).sum()
}

/// Whether a feed hangs straight on what a short is fed from: where a fuse belongs.
pub fn begins_at_supply(graph: &Topology<'_>, feed: Wire) -> bool {
    !graph.passes_short(graph.from(feed))
}

/// Whether a feed without a fuse wants one: a short in its zone would make a wire there hotter than its insulation stands
/// for good.
pub fn wants_fuse(graph: &Topology<'_>, feed: Wire) -> bool {
    let hot = |far: &Feed| above(far.gauge.settled_c(far.bundled, most_fault_a(graph, far)), PVC_ALWAYS_C);
    graph.laid(feed).fuse.is_none() && begins_at_supply(graph, feed) && graph.zone(feed).into_iter().any(|far| hot(graph.laid(far)))
}
