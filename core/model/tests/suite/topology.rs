//! The graph of a build against walks by hand, on trees that nobody planned.

use orthavis_model::demo::BUILDS;
use orthavis_model::document::{Build, Conversion, ConverterKind, Feed, Fuse, parse};
use orthavis_model::topology::{Node, Topology, Wire};
use orthavis_testing::{case, cases};
use proptest::prelude::*;

/// A way up by names alone, as one would read it off the document: ids of feeds, and what the last of them hangs on.
fn by_hand(build: &Build, id: &str, through: impl Fn(&str) -> bool) -> (Vec<String>, String) {
    let feeds = build.feeds();
    let (mut way, mut at) = (Vec::new(), id.to_owned());
    while let Some(feed) = feeds.iter().find(|feed| feed.id == at) {
        way.push(at.clone());
        at = feed.feed.from.clone();
        if !through(&at) {
            break;
        }
    }
    (way, at)
}

fn is_passing(build: &Build, id: &str) -> bool {
    build.junctions.iter().any(|one| one.id == id) || build.circuits.iter().any(|one| one.id == id)
}

fn passes_short(build: &Build, id: &str) -> bool {
    is_passing(build, id) || build.converters.iter().any(|one| one.id == id && one.kind() == ConverterKind::Boost)
}

/// Parts that each hang on an earlier one: what kind, on which, and whether its feed has a fuse.
fn tree() -> impl Strategy<Value = Build> {
    proptest::collection::vec((0usize..5, any::<prop::sample::Index>(), any::<bool>()), 1..24).prop_map(|parts| {
        let mut build = case("boost-and-driver");
        let (junction, converter, light) = (demo_feed(), build.converters[0].clone(), build.lights[0].clone());
        let circuit = demo("Firefly bicycle").circuits[0].clone();
        (build.junctions, build.converters, build.circuits, build.lights) = Default::default();
        let mut suppliers = vec!["source".to_owned()];
        for (at, (kind, on, fused)) in parts.into_iter().enumerate() {
            let fuse = fused.then(|| Fuse { rating_a: at as f64 + 1.0, ..demo_fuse() });
            let feed = Feed { from: suppliers[on.index(suppliers.len())].clone(), fuse, ..junction.clone() };
            let id = format!("part-{at}");
            match kind {
                0 => build.junctions.push(orthavis_model::document::Junction { id: id.clone(), feed }),
                1 => build.converters.push(orthavis_model::document::Converter {
                    id: id.clone(),
                    feed,
                    conversion: if at % 2 == 0 { Conversion::step_up(12.0, 0.9) } else { Conversion::step_down(5.0, 0.9) },
                    ..converter.clone()
                }),
                2 => build.circuits.push(orthavis_model::document::SmallCircuit { id: id.clone(), feed, ..circuit.clone() }),
                _ => {
                    let feeds = if kind == 3 { vec![feed] } else { vec![feed.clone(), feed] };
                    build.lights.push(orthavis_model::document::Light { id: id.clone(), feeds, ..light.clone() });
                }
            }
            if kind < 3 {
                suppliers.push(id);
            }
        }
        build
    })
}

fn demo_feed() -> Feed {
    case("boost-and-driver").lights[0].feeds[0].clone()
}

/// A sample build by its name.
fn demo(name: &str) -> Build {
    let mut all = BUILDS.iter().map(|text| parse(text).expect("a sample build"));
    all.find(|build| build.name == name).expect("it is there")
}

fn demo_fuse() -> Fuse {
    let build = demo("Camp rover");
    build.feeds().into_iter().find_map(|feed| feed.feed.fuse.clone()).expect("a fuse")
}

fn ids(topology: &Topology<'_>, wires: impl Iterator<Item = Wire>) -> Vec<String> {
    wires.map(|wire| topology.feed(wire).id.clone()).collect()
}

/// Every question of the graph, against the way by hand.
fn holds(build: &Build) {
    let topology = Topology::of(build);
    for feed in build.feeds() {
        let wire = topology.wire(&feed.id).expect("it is there");
        assert_eq!(topology.feed(wire).id, feed.id);
        assert!(std::ptr::eq(topology.laid(wire), feed.feed));
        assert_eq!(topology.node(&feed.feed.from), Some(topology.from(wire)));
        assert_eq!(topology.node(feed.consumer_id(build)), Some(topology.to(wire)));
        // Its own way, feed by feed; a second feed of a light is a way of its own.
        let (way, supply) = by_hand(build, &feed.id, |id| is_passing(build, id));
        let above = ids(&topology, topology.leading_to(topology.from(wire)));
        assert_eq!([vec![feed.id.clone()], above].concat(), way, "{}", feed.id);
        assert_eq!(Some(topology.supply(topology.from(wire))), topology.node(&supply), "{}", feed.id);
        assert_eq!(topology.supplier(feed.feed), supply, "{}", feed.id);
        let (short, limiter) = by_hand(build, &feed.id, |id| passes_short(build, id));
        assert_eq!(ids(&topology, topology.leading_a_short_to(topology.from(wire))), short[1..], "{}", feed.id);
        assert!(!topology.passes_short(topology.node(&limiter).expect("a part")), "{limiter} limits it");
        // What a fuse there protects: every wire whose way comes by, with no other fuse before.
        let protected = |other: &&String| {
            let (way, _) = by_hand(build, other, |id| passes_short(build, id));
            way.iter().position(|id| *id == feed.id).is_some_and(|at| way[..at].iter().all(|id| build.feed(id).is_some_and(|feed| feed.feed.fuse.is_none())))
        };
        let all = ids(&topology, topology.wires());
        let (mut zone, mut want) = (ids(&topology, topology.zone(wire).into_iter()), all.iter().filter(protected).cloned().collect::<Vec<_>>());
        assert_eq!(zone[0], feed.id);
        zone.sort_unstable();
        want.sort_unstable();
        assert_eq!(zone, want, "the zone of {}", feed.id);
        let fuse = way.iter().find_map(|id| build.feed(id).and_then(|feed| feed.feed.fuse.clone()));
        assert_eq!(topology.fuse_of(wire).map(|fuse| fuse.rating_a), fuse.map(|fuse| fuse.rating_a), "{}", feed.id);
        if feed.number > 0 {
            continue;
        }
        let node = topology.to(wire);
        assert_eq!(topology.inlet(node), Some(wire));
        let (whole, top) = by_hand(build, &feed.id, |_| true);
        assert_eq!(top, "source");
        assert_eq!(ids(&topology, topology.path_to_supply(node)), way);
        assert_eq!(ids(&topology, topology.path_to_source(node)), whole);
        assert_eq!(topology.id(node), feed.consumer_id(build));
        let own = build.feeds().into_iter().filter(|other| other.consumer == feed.consumer).map(|other| other.id);
        assert_eq!(ids(&topology, topology.inlets(node)), own.collect::<Vec<_>>());
        let hanging: Vec<String> = build.feeds_from(&feed.id).map(|below| below.id).collect();
        assert_eq!(ids(&topology, topology.hanging(node).iter().copied()), hanging);
        let mut below: Vec<&str> = topology.below(node).into_iter().map(|part| topology.id(part)).collect();
        let mut under: Vec<&str> =
            build.feeds().iter().filter(|other| by_hand(build, &other.id, |_| true).0[1..].contains(&feed.id)).map(|other| other.consumer_id(build)).collect();
        below.sort_unstable();
        under.sort_unstable();
        under.dedup();
        assert_eq!(below, under, "below {}", feed.id);
        let converters: Vec<&str> = topology.converters_above(topology.from(wire)).map(|one| one.id.as_str()).collect();
        let named: Vec<&str> = whole.iter().skip(1).map(String::as_str).filter(|id| build.converters.iter().any(|one| one.id == *id)).collect();
        assert_eq!(converters, named, "{}", feed.id);
    }
    assert_eq!(ids(&topology, topology.wires()), build.feeds().iter().map(|feed| feed.id.clone()).collect::<Vec<_>>());
    assert_eq!(topology.inlet(Node::Source), None);
    assert!(topology.node("nowhere").is_none() && topology.wire("nowhere").is_none());
}

proptest! {
    #[test]
    fn every_question_is_answered_as_a_walk_by_hand_would(build in tree()) {
        holds(&build);
    }
}

#[test]
fn the_builds_that_there_are_hang_together_as_they_say() {
    for (_, build) in cases() {
        holds(&build);
    }
}
