//! What a fuse protects, where one is wanted, and what a short draws, against figures worked out by hand.

use orthavis_model::document::{Build, Draw, Fuse, FuseStyle, Load, parse_value};
use orthavis_model::states::State;
use orthavis_model::topology::{Topology, Wire};
use orthavis_physics::offered::offered_v;
use orthavis_physics::points::points;
use orthavis_physics::protection::{charges_a2s, fault_a, filaments_behind, inrush_a, most_fault_a, seat, wants_fuse, way_ohm};
use orthavis_testing::cases;
use serde_json::{Value, json};

fn feed(from: &str, awg: i32, fuse: Option<f64>) -> Value {
    let fuse = fuse.map(|rating| json!({ "style": "blade", "rating_a": rating }));
    json!({ "from": from, "length_m": 1.0, "gauge": { "awg": awg }, "fuse": fuse })
}

fn lamp(id: &str, feed: &Value) -> Value {
    let load = json!({ "kind": "module", "draw": "constant_power", "voltage_v": 12.0, "power_w": 6.0, "min_v": 9.0, "max_v": 16.0 });
    json!({ "id": id, "feeds": [feed], "load": load })
}

/// A battery, a fused trunk to a block, a second block behind it, a fused and two unfused lamps, and a step-down module
/// with a lamp of its own.
fn tree() -> Build {
    parse_value(&json!({
        "format": "orthavis.build/1", "name": "tree", "vehicle": { "kind": "other", "mass_kg": 10.0 },
        "source": { "kind": "battery", "chemistry": "lifepo4", "series": 4, "capacity_ah": 100.0, "max_current_a": 100.0, "resistance_ohm": 0.01 },
        "junctions": [{ "id": "block", "feed": feed("source", 10, Some(15.0)) }, { "id": "rear", "feed": feed("block", 14, None) }],
        "converters": [{ "id": "module", "feed": feed("block", 18, None), "kind": "buck", "set_v": 5.0, "min_in_v": 7.0, "max_in_v": 30.0,
            "max_out_a": 3.0, "dropout_v": 1.0, "efficiency": 0.9 }],
        "lights": [lamp("fused", &feed("rear", 20, Some(2.0))), lamp("bare", &feed("rear", 20, None)), lamp("near", &feed("block", 18, None)),
            { "id": "five", "feeds": [feed("module", 28, None)], "load": { "kind": "module", "draw": "resistive", "voltage_v": 5.0, "power_w": 1.0, "min_v": 3.0, "max_v": 6.0 } }],
        "scenes": [{ "id": "on", "lights": { "fused": {}, "bare": {}, "near": {}, "five": {} } }],
    }))
    .unwrap_or_else(|error| panic!("{error}"))
}

fn ids(build: &Build, first: &str) -> Vec<String> {
    let graph = Topology::of(build);
    graph.named(graph.zone(graph.wire(first).expect(first))).into_iter().map(|feed| feed.id).collect()
}

#[test]
fn a_zone_ends_at_fuses_lights_and_converters() {
    let build = tree();
    let mut trunk = ids(&build, "block");
    trunk.sort();
    assert_eq!(trunk, ["bare", "block", "module", "near", "rear"]);
    assert_eq!(ids(&build, "rear"), ["rear", "bare"]);
    assert_eq!(ids(&build, "fused"), ["fused"]);
    assert_eq!(ids(&build, "module"), ["module"], "what hangs behind a converter is its own affair");
}

#[test]
fn a_short_draws_the_voltage_over_every_resistance_on_the_way() {
    let build = tree();
    let graph = Topology::of(&build);
    let laid = |id: &str| graph.laid(graph.wire(id).expect(id));
    let ohm = |id: &str| {
        let feed = laid(id);
        feed.out_ohm() + feed.back_ohm(None)
    };
    let near = |a: f64, b: f64, what: &str| assert!((a / b - 1.0).abs() < 1e-12, "{what}: {a} against {b}");
    let way = ohm("block") + ohm("rear") + ohm("bare");
    near(way_ohm(&graph, laid("bare")), way, "the way");
    let (emf, source) = build.thevenin(State::Reserve);
    near(fault_a(&graph, laid("bare")), emf / (source + way), "from the battery");
    assert_eq!(fault_a(&graph, laid("five")), 3.0, "behind a module its own limit");
    // A fuse at the branch has the trunk before it, and meets the full battery.
    let here = seat(&graph, laid("fused"));
    let (full, source) = build.thevenin(State::Full);
    let (emf, before) = here.battery.expect("a battery");
    near(before, source + ohm("block") + ohm("rear"), "before the fuse");
    assert_eq!((emf, here.highest_v), (full, full));
    let behind = seat(&graph, laid("five"));
    assert_eq!((behind.battery, behind.limit_a, behind.highest_v), (None, 3.0, 5.0));
}

#[test]
fn a_fuse_is_wanted_where_the_supply_can_burn_a_wire() {
    let build = tree();
    let wants = |build: &Build, id: &str| {
        let graph = Topology::of(build);
        wants_fuse(&graph, graph.wire(id).expect(id))
    };
    assert!(!wants(&build, "block"), "it has one");
    assert!(!wants(&build, "bare"), "the trunk's fuse is before it");
    // The module's 3 A warm 28 AWG to some 65 °C, and 32 AWG to far more than its insulation stands.
    assert!(!wants(&build, "five"), "{} °C", orthavis_model::document::Gauge::Awg(28).settled_c(1, 3.0));
    let mut thin = build.clone();
    thin.lights[3].feeds[0].gauge = orthavis_model::document::Gauge::Awg(32);
    assert!(wants(&thin, "five"));
    let mut bare = build;
    bare.junctions[0].feed.fuse = None;
    assert!(wants(&bare, "block"));
}

/// A step-up limits nothing: the battery feeds a short behind it through its diode, and the fuse before it is the one that
/// opens.
#[test]
fn behind_a_step_up_a_short_is_the_batterys() {
    let build = orthavis_testing::case("boost-and-driver");
    let lift = build.converters.iter().find(|converter| converter.kind() == orthavis_model::document::ConverterKind::Boost).expect("a step-up");
    let behind = build.lights.iter().find(|light| light.feeds[0].from == lift.id).expect("a light behind it");
    let frame = build.vehicle.frame_return_ohm;
    let ohm = |feed: &orthavis_model::document::Feed| feed.out_ohm() + feed.back_ohm(frame);
    let (emf, source) = build.thevenin(State::Reserve);
    let want = (emf - lift.pass_drop_v().expect("a step-up")) / (source + ohm(&lift.feed) + ohm(&behind.feeds[0]));
    let graph = Topology::of(&build);
    let found = fault_a(&graph, &behind.feeds[0]);
    assert!((found / want - 1.0).abs() < 1e-9, "through the diode: {found} A, not {want}");
    assert!(want > lift.max_out_a, "more than it gives of its own");
    assert!(ids(&build, &lift.id).contains(&behind.id), "the fuse before it protects what is behind it");
    let here = seat(&graph, &behind.feeds[0]);
    assert_eq!(here.highest_v, lift.set_v().expect("a setting").max(build.thevenin(State::Full).0));
    assert!(here.battery.is_some());
}

/// A fuse behind a current driver has to open against what goes into the driver.
#[test]
fn behind_a_driver_a_fuse_sees_its_input() {
    let build = orthavis_testing::case("boost-and-driver");
    let driver = build.converters.iter().find(|one| one.kind() == orthavis_model::document::ConverterKind::CurrentDriver).expect("a driver");
    let behind = build.lights.iter().find(|light| light.feeds[0].from == driver.id).expect("its light");
    let graph = Topology::of(&build);
    let before = seat(&graph, &driver.feed).highest_v;
    assert!(before > 0.0);
    assert_eq!(seat(&graph, &behind.feeds[0]).highest_v, before);
}

#[test]
fn suppliers_offer_what_their_source_lets_them() {
    let build = tree();
    let source = offered_v(&build, "source").expect("the source");
    assert_eq!(source.iter().map(|(state, _)| *state).collect::<Vec<_>>(), build.states());
    assert_eq!(offered_v(&build, "rear"), Some(source), "a junction passes on");
    assert!(offered_v(&build, "module").expect("a module").iter().all(|(_, volts)| *volts == 5.0));
    assert_eq!(offered_v(&build, "bare"), None, "a light supplies nothing");
    let mut weak = tree();
    weak.converters[0].min_in_v = 40.0;
    assert!(offered_v(&weak, "module").expect("a module").iter().all(|(_, volts)| *volts == 0.0), "below its input it is off");
}

/// On every public case: each unfused feed below the battery is in exactly one fuse's zone, or wants a fuse, or hangs
/// behind a supply whose limit its wires carry.
#[test]
fn every_wire_is_somebodys_to_protect() {
    for (name, build) in cases() {
        let graph = Topology::of(&build);
        let fused: Vec<Wire> = graph.wires().filter(|wire| graph.laid(*wire).fuse.is_some()).flat_map(|wire| graph.zone(wire)).collect();
        for wire in graph.wires() {
            let feed = graph.feed(wire);
            let times = fused.iter().filter(|other| **other == wire).count();
            assert!(times <= 1, "{name}: {} is in {times} zones", feed.id);
            let straight = feed.feed.from == "source" && matches!(build.source, orthavis_model::document::Source::Battery(_));
            assert_eq!(straight && times == 0, straight && wants_fuse(&graph, wire), "{name}: {}", feed.id);
        }
    }
}

/// What rushes in: ten times the filaments for a moment, and what fills the capacitors of modules, by hand.
#[test]
fn what_rushes_in_at_switch_on() {
    let build = tree();
    let graph = Topology::of(&build);
    let trunk = graph.wire("block").expect("the trunk");
    // Half of what a capacitor holds, over the resistance of its way: 220 µF, 13.6 V, and the short behind that wire.
    let module = &build.converters[0].feed;
    let by_hand = 0.5 * 220e-6 * 13.6 * most_fault_a(&graph, module);
    assert!((charges_a2s(&graph, trunk) / by_hand - 1.0).abs() < 1e-9, "{} A²s, {by_hand} by hand", charges_a2s(&graph, trunk));
    assert_eq!(charges_a2s(&graph, graph.wire("near").expect("a lamp")), 0.0, "no module is behind it");
    assert!(filaments_behind(&graph, trunk).is_empty());
    let mut bulbs = build.clone();
    let Load::Module(lamp) = &mut bulbs.lights[1].load else { panic!("a lamp") };
    lamp.draw = Draw::Filament;
    let graph = Topology::of(&bulbs);
    let behind = filaments_behind(&graph, trunk);
    assert_eq!(behind.iter().map(|light| light.id.as_str()).collect::<Vec<_>>(), ["bare"]);
    let points = points(&bulbs).expect("it can be solved");
    let cold = inrush_a(&graph, trunk, &points[0], |_| true).expect("one is lit");
    let (all, warm) = (points[0].feeds["block"].current_a, points[0].lights["bare"].current_a);
    assert!((cold - all - 9.0 * warm).abs() < 1e-9, "{cold} A of {all} A and {warm} A");
    assert_eq!(inrush_a(&graph, trunk, &points[0], |_| false), None);
}

/// A larger fuse holds whatever a smaller one of its style does.
#[test]
fn a_larger_fuse_holds_more() {
    for style in [FuseStyle::Blade, FuseStyle::Glass, FuseStyle::Ptc] {
        let mut held = Vec::new();
        for rating_a in style.ratings_a() {
            let fuse = Fuse::of(style, *rating_a);
            held.push(fuse.holds((20.0, 0.05), 4.0));
            assert!(fuse.holds((0.5 * rating_a, 1e4), 0.0), "half of its rating for hours");
            assert!(!fuse.holds((1e3 * rating_a, 10.0), 0.0) && !fuse.holds((0.0, 0.05), 1e9), "no fuse holds everything");
        }
        assert!(held.windows(2).all(|pair| !pair[0] || pair[1]), "{style:?}: {held:?}");
    }
}
