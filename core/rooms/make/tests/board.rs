//! Boards of small circuits: everything that belongs together is joined, nothing else is, and few wires cross over.

use orthavis_make::board::{Board, board};
use orthavis_model::document::{Build, parse_value};
use serde_json::{Value, json};
use std::collections::{BTreeMap, BTreeSet};

fn build(kind: &str, parts: &Value, lights: &[&str]) -> Build {
    let feed = |from: &str| json!({ "from": from, "length_m": 0.1, "gauge": { "mm2": 0.5 } });
    let light = |id: &&str| {
        json!({ "id": id, "feeds": [feed("c")], "load": { "kind": "led_array", "series": 1, "parallel": 1, "resistor_ohm": 470.0,
            "resistor_w": 0.25, "led": { "vf_v": 2.0, "if_a": 0.02, "if_max_a": 0.03 } } })
    };
    let document = json!({
        "format": "orthavis.build/1", "name": "one circuit", "vehicle": { "kind": "other", "mass_kg": 1.0 },
        "source": { "kind": "rail", "voltage_v": 12.0, "max_current_a": 2.0 },
        "circuits": [{ "id": "c", "kind": kind, "feed": feed("source"), "drives": lights, "parts": parts }],
        "lights": lights.iter().map(light).collect::<Vec<_>>(), "scenes": []
    });
    parse_value(&document).unwrap_or_else(|error| panic!("{kind}: {error}"))
}

fn cases() -> Vec<(&'static str, Build, usize)> {
    let led = json!({ "vf_v": 2.0, "if_a": 0.02, "if_max_a": 0.03 });
    let timer = |through: &str, diode: bool| json!({ "ra_ohm": 1e4, "rb_ohm": 1e4, "c_f": 1e-5, "timer": "cmos", "through": through, "base_ohm": 1000, "diode": diode });
    let pair = json!({ "r1_ohm": 1e4, "r2_ohm": 1e4, "c1_f": 1e-5, "c2_f": 1e-5 });
    let hold = |bridge: bool| json!({ "bridge": bridge, "c_f": 1e-3, "charge_ohm": 22, "taps_ohm": [470, 470, 470], "tap": 2 });
    let gauge = |diodes: u32| json!({ "rs_ohm": 220, "rb_ohm": 1000, "rc_ohm": 470, "diodes": diodes, "led_good": led, "led_low": led });
    vec![
        ("timer", build("timer_flasher", &timer("none", false), &["a"]), 0),
        ("timer with a transistor", build("timer_flasher", &timer("npn", false), &["a"]), 0),
        ("timer with all", build("timer_flasher", &timer("mosfet", true), &["a"]), 0),
        ("two transistors", build("transistor_flasher", &pair, &["a", "b"]), 0),
        ("two transistors, one light", build("transistor_flasher", &pair, &["a"]), 0),
        ("one transistor", build("breakdown_flasher", &json!({ "r_ohm": 4700, "c_f": 1e-4 }), &["a"]), 0),
        ("hold-up", build("hold_up", &hold(false), &["a"]), 0),
        ("hold-up with a bridge", build("hold_up", &hold(true), &["a"]), 0),
        ("gauge", build("battery_gauge", &gauge(0), &[]), 0),
        ("gauge with diodes", build("battery_gauge", &gauge(3), &[]), 0),
        ("switch", build("switch", &json!({ "base_ohm": 1000, "through": "npn" }), &["a"]), 0),
    ]
}

/// By hole, the node that a leg, a track or a jumper gives it; panics where two nodes share one.
fn owners(name: &str, board: &Board) -> BTreeMap<[usize; 2], String> {
    let mut owner: BTreeMap<[usize; 2], String> = BTreeMap::new();
    let legs = board.parts.iter().flat_map(|part| &part.legs).map(|leg| (leg.hole, &leg.node));
    let tracks = board.tracks.iter().flat_map(|track| track.holes.iter().map(move |hole| (*hole, &track.node)));
    let jumpers = board.jumpers.iter().flat_map(|jumper| [(jumper.from, &jumper.node), (jumper.to, &jumper.node)]);
    for (hole, node) in legs.chain(tracks).chain(jumpers) {
        assert!(hole[0] < board.columns && hole[1] < board.rows, "{name}: {hole:?} is off the board");
        if let Some(known) = owner.insert(hole, node.clone()) {
            assert_eq!(known, *node, "{name}: two nodes at {hole:?}");
        }
    }
    owner
}

#[test]
fn what_belongs_together_is_joined_and_nothing_else() {
    for (name, build, most) in cases() {
        let board = board(&build, 0);
        owners(name, &board);
        let mut holes: BTreeSet<[usize; 2]> = BTreeSet::new();
        for leg in board.parts.iter().flat_map(|part| &part.legs) {
            assert!(holes.insert(leg.hole), "{name}: two legs in {}", leg.label);
        }
        // Joined by what is soldered: tracks step by step, jumpers at once.
        let mut links: Vec<([usize; 2], [usize; 2])> = board.jumpers.iter().map(|jumper| (jumper.from, jumper.to)).collect();
        for track in &board.tracks {
            for pair in track.holes.windows(2) {
                assert_eq!(pair[0][0].abs_diff(pair[1][0]) + pair[0][1].abs_diff(pair[1][1]), 1, "{name}: a track jumps");
                links.push((pair[0], pair[1]));
            }
        }
        let mut legs: BTreeMap<&str, Vec<[usize; 2]>> = BTreeMap::new();
        for leg in board.parts.iter().flat_map(|part| &part.legs).filter(|leg| !leg.node.is_empty()) {
            legs.entry(&leg.node).or_default().push(leg.hole);
        }
        for (node, legs) in legs {
            let mut reached = BTreeSet::from([legs[0]]);
            loop {
                let more: Vec<[usize; 2]> =
                    links.iter().flat_map(|(a, b)| [(a, b), (b, a)]).filter(|(a, b)| reached.contains(*a) && !reached.contains(*b)).map(|(_, b)| *b).collect();
                if more.is_empty() {
                    break;
                }
                reached.extend(more);
            }
            assert!(legs.iter().all(|leg| reached.contains(leg)), "{name}: `{node}` is not joined");
        }
        println!("{name}: {} columns, {} rows, {} jumpers", board.columns, board.rows, board.jumpers.len());
        assert!(board.jumpers.len() <= most, "{name}: {} jumpers", board.jumpers.len());
    }
}

#[test]
fn the_same_circuit_gives_the_same_board_and_every_wire_has_its_length() {
    for (name, build, _) in cases() {
        let first = board(&build, 0);
        assert_eq!(first, board(&build, 0), "{name}");
        let wire: f64 = first.cuts.iter().filter(|cut| cut.what.contains("underside")).map(|cut| cut.length_m * cut.count as f64).sum();
        let steps: usize = first.tracks.iter().map(|track| track.holes.len() - 1).sum();
        assert!((wire - 2.54e-3 * steps as f64).abs() < 1e-9, "{name}");
        assert!(first.cuts.iter().all(|cut| cut.length_m > 0.0 && cut.count > 0), "{name}");
    }
}
