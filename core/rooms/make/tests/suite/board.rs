//! Boards of small circuits: everything that belongs together is joined, nothing else is, and few wires cross over.

use orthavis_make::board::{Board, board};
use orthavis_testing::circuits::every_circuit;
use std::collections::{BTreeMap, BTreeSet};

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
    for (name, build) in every_circuit() {
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
        assert_eq!(board.jumpers.len(), 0, "{name}");
    }
}

#[test]
fn the_same_circuit_gives_the_same_board_and_every_wire_has_its_length() {
    for (name, build) in every_circuit() {
        let first = board(&build, 0);
        assert_eq!(first, board(&build, 0), "{name}");
        let wire: f64 = first.cuts.iter().filter(|cut| cut.what.contains("underside")).map(|cut| cut.length_m * cut.count as f64).sum();
        let steps: usize = first.tracks.iter().map(|track| track.holes.len() - 1).sum();
        assert!((wire - 2.54e-3 * steps as f64).abs() < 1e-9, "{name}");
        assert!(first.cuts.iter().all(|cut| cut.length_m > 0.0 && cut.count > 0), "{name}");
    }
}
