//! What goes where: held against a search of every place, and against a person's own measuring.

use orthavis_make::balance::balance;
use orthavis_make::fit::{Fit, GAP_MM, HOT_GAP_MM, Item, Spot, fit, pack};
use orthavis_model::demo;
use orthavis_model::document::{Build, parse, parse_value};
use orthavis_physics::points::points;
use orthavis_testing::{case, changed};
use proptest::prelude::*;
use serde_json::{Value, json};

/// Corner and sides of every box that is placed, with the air it wants.
type Box3 = (usize, [f64; 3], [f64; 3], f64);

fn boxes(items: &[Item], spots: &[Option<Spot>]) -> Vec<Box3> {
    let of = |(item, spot): (&Item, &Option<Spot>)| spot.map(|spot| (spot.space, spot.at_mm, spot.turn.map(|side| item.room_mm[side]), item.gap_mm));
    items.iter().zip(spots).filter_map(of).collect()
}

/// Every box is within its cavity and has its air.
fn holds(spaces: &[[f64; 3]], all: &[Box3]) {
    for (number, (space, at, sides, gap)) in all.iter().enumerate() {
        for axis in 0..3 {
            assert!(at[axis] >= gap - 1e-9 && at[axis] + sides[axis] + gap <= spaces[*space][axis] + 1e-9, "out of its cavity: {all:?}");
        }
        for (other_space, other_at, other_sides, other_gap) in &all[number + 1..] {
            let air = gap.max(*other_gap);
            let apart = (0..3).any(|axis| at[axis] + sides[axis] + air <= other_at[axis] + 1e-9 || other_at[axis] + other_sides[axis] + air <= at[axis] + 1e-9);
            assert!(space != other_space || apart, "too near: {all:?}");
        }
    }
}

/// The most boxes that go in, by trying every whole millimetre: sides, gaps and cavities are whole.
fn most(spaces: &[[f64; 3]], items: &[Item], placed: &mut Vec<Box3>) -> usize {
    let Some((item, rest)) = items.split_first() else { return 0 };
    let mut best = most(spaces, rest, placed);
    for (space, size) in spaces.iter().enumerate().filter(|(space, _)| item.into.contains(space)) {
        for turn in [[0, 1, 2], [0, 2, 1], [1, 0, 2], [1, 2, 0], [2, 0, 1], [2, 1, 0]] {
            let sides = turn.map(|side: usize| item.room_mm[side]);
            let last = [0, 1, 2].map(|axis| (size[axis] - sides[axis] - item.gap_mm).floor() as i32);
            let first = item.gap_mm as i32;
            for (x, y, z) in (first..=last[0]).flat_map(|x| (first..=last[1]).flat_map(move |y| (first..=last[2]).map(move |z| (x, y, z)))) {
                if best == items.len() {
                    return best;
                }
                let at = [f64::from(x), f64::from(y), f64::from(z)];
                let free = placed.iter().all(|(other_space, other_at, other_sides, other_gap)| {
                    let air = item.gap_mm.max(*other_gap);
                    *other_space != space
                        || (0..3).any(|axis| at[axis] + sides[axis] + air <= other_at[axis] || other_at[axis] + other_sides[axis] + air <= at[axis])
                });
                if free {
                    placed.push((space, at, sides, item.gap_mm));
                    best = best.max(1 + most(spaces, rest, placed));
                    placed.pop();
                }
            }
        }
    }
    best
}

fn item(room: [u32; 3], hot: bool, into: Vec<usize>) -> Item {
    Item { room_mm: room.map(f64::from), gap_mm: if hot { 2.0 } else { 1.0 }, into }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(150))]
    #[test]
    fn a_few_boxes_go_in_as_an_exhaustive_search_has_them(
        rooms in prop::collection::vec(([1u32..6, 1u32..6, 1u32..6], any::<bool>(), any::<bool>()), 2..4),
        sizes in prop::collection::vec([4u32..10, 4u32..9, 4u32..8], 1..3),
    ) {
        let spaces: Vec<[f64; 3]> = sizes.iter().map(|size| size.map(f64::from)).collect();
        let items: Vec<Item> = rooms.iter().map(|(room, hot, first_only)| item(*room, *hot, if *first_only { vec![0] } else { (0..spaces.len()).collect() })).collect();
        let (spots, certain) = pack(&spaces, &items);
        holds(&spaces, &boxes(&items, &spots));
        prop_assert!(certain);
        prop_assert_eq!(spots.iter().flatten().count(), most(&spaces, &items, &mut Vec::new()));
    }

    #[test]
    fn many_boxes_keep_their_air(
        rooms in prop::collection::vec(([8u32..40, 8u32..30, 4u32..20], any::<bool>()), 8..11),
        sizes in prop::collection::vec([40u32..120, 30u32..60, 20u32..40], 3..4),
    ) {
        let spaces: Vec<[f64; 3]> = sizes.iter().map(|size| size.map(f64::from)).collect();
        let items: Vec<Item> = rooms.iter().map(|(room, hot)| item(*room, *hot, vec![0, 1, 2])).collect();
        let (spots, _) = pack(&spaces, &items);
        holds(&spaces, &boxes(&items, &spots));
    }
}

#[test]
fn four_bars_around_a_hole_are_found() {
    // Each is held by the next: no bar can be put in after the other three but from above.
    let items: Vec<Item> = (0..4).map(|_| item([19, 9, 10], false, vec![0])).collect();
    let spaces = [[31.0, 31.0, 12.0]];
    let (spots, certain) = pack(&spaces, &items);
    assert!(certain && spots.iter().all(Option::is_some), "{spots:?}");
    let (spots, certain) = pack(&[[30.0, 31.0, 12.0]], &items);
    assert_eq!((spots.iter().flatten().count(), certain), (3, true), "a millimetre less and one stays out");
}

#[test]
fn ten_parts_in_three_cavities_are_placed() {
    let rooms = [[54, 24, 18], [48, 24, 14], [66, 36, 20], [40, 26, 9], [20, 52, 9], [45, 16, 14], [30, 20, 10], [35, 16, 8], [22, 18, 12], [25, 25, 25]];
    let items: Vec<Item> = rooms.iter().enumerate().map(|(number, room)| item(*room, number < 2, vec![0, 1, 2])).collect();
    let spaces = [[120.0, 62.0, 28.0], [100.0, 40.0, 30.0], [70.0, 45.0, 30.0]];
    let (spots, certain) = pack(&spaces, &items);
    holds(&spaces, &boxes(&items, &spots));
    assert!(certain && spots.iter().all(Option::is_some), "{spots:?}");
}

fn with(make: Value) -> Build {
    changed(&case("trike-arrays"), &json!([{ "op": "add", "path": "/make", "value": make }]))
}

fn fitted(make: Value) -> Fit {
    let build = with(make);
    fit(&build, &points(&build).expect("solved"))
}

fn why(fit: &Fit, part: &str) -> (String, Option<f64>) {
    let left = fit.left.iter().find(|left| left.part == part).unwrap_or_else(|| panic!("{part} has a place: {fit:?}"));
    (left.why.clone(), left.over_mm)
}

#[test]
fn what_does_not_fit_is_told_with_how_much() {
    let twelve = json!([{ "part": "twelve", "size_mm": [40.0, 20.0, 10.0] }]);
    // The wires turn at both ends of it: six of their diameters at each.
    let build = with(json!({}));
    let room = |id: &str, below: bool| {
        let feeds = build.feeds();
        let own = feeds.iter().filter(|feed| if below { feed.feed.from == id } else { feed.id == id });
        own.map(|feed| 6.0 * feed.feed.gauge.outer_mm()).fold(0.0, f64::max)
    };
    let needed = 40.0 + room("twelve", false) + room("twelve", true) + 2.0 * GAP_MM;
    let space = |size: [f64; 3], openings: Value, cells: bool| json!({ "id": "box", "size_mm": size, "openings": openings, "cells": cells });
    let ask = |space: Value, inside: &Value| fitted(json!({ "spaces": [space], "inside": inside }));

    let fits = ask(space([needed + 0.01, 22.0, 12.0], json!([]), false), &twelve);
    assert_eq!(fits.placed.len(), 1, "{fits:?}");
    assert!((fits.placed[0].at_mm[0] - GAP_MM - room("twelve", false)).abs() < 1e-9 || (fits.placed[0].at_mm[0] - GAP_MM - room("twelve", true)).abs() < 1e-9);
    assert_eq!(fits.placed[0].size_mm, [40.0, 20.0, 10.0]);
    let (words, over) = why(&ask(space([needed - 3.0, 22.0, 12.0], json!([]), false), &twelve), "twelve");
    assert!(words.contains("3.0 mm too short") && (over.expect("mm") - 3.0).abs() < 1e-6, "{words}");
    let (words, over) = why(&ask(space([needed + 1.0, 22.0, 11.0], json!([]), false), &twelve), "twelve");
    assert!(words.contains("1.0 mm too low") && (over.expect("mm") - 1.0).abs() < 1e-6, "{words}");

    // It goes in head first: its two smaller sides against the slot.
    let slot = |w: f64, h: f64| ask(space([200.0, 80.0, 40.0], json!([{ "width_mm": w, "height_mm": h }]), false), &twelve);
    assert!(slot(9.0, 14.0).left[0].why.contains("6.0 mm too large for the opening"));
    assert_eq!(slot(10.0, 20.0).placed.len(), 1);
    assert_eq!(slot(20.0, 10.0).placed.len(), 1, "a slot may lie either way");

    // A small part with much heat keeps away from cells, and from everything else.
    let hot = json!([{ "part": "twelve", "size_mm": [12.0, 6.0, 4.0] }]);
    let (words, over) = why(&ask(space([200.0, 80.0, 40.0], json!([]), true), &hot), "twelve");
    assert!(words.contains("nothing hot goes beside cells") && over.is_none(), "{words}");
    let beside = ask(space([200.0, 80.0, 40.0], json!([]), false), &hot);
    assert!(beside.placed[0].hot && beside.placed[0].surface_c > 60.0 && beside.placed[0].room_at_mm == [HOT_GAP_MM; 3], "{beside:?}");
    assert!(beside.spaces[0].air_c > 25.0);

    // What stays outside takes no room, and what has no size is asked for.
    assert!(ask(space([9.0, 9.0, 9.0], json!([]), false), &json!([{ "part": "twelve", "space": "outside" }])).left.is_empty());
    let asked = ask(space([200.0, 80.0, 40.0], json!([]), false), &json!([{ "part": "tail", "space": "box" }]));
    assert_eq!(asked.unsized_parts, ["tail"]);
    assert!(fit(&with(json!({})), &[]).spaces.is_empty());
}

/// A hold-up as one block is too large for the hollow of a coach; its two capacitors, the rectifier and the rest go in one by
/// one.
#[test]
fn a_circuit_goes_in_piece_by_piece_where_the_block_does_not() {
    let coach = parse(demo::BUILDS.iter().find(|text| text.contains("hold_up")).expect("a coach")).expect("sound");
    let circuit = coach.circuits.iter().find(|circuit| circuit.hold_up().is_some_and(|parts| parts.bridge)).expect("a hold-up").id.clone();
    let of = |space: [f64; 3], block: Value| {
        let mut document = coach.to_value();
        let mut inside = json!({ "part": circuit });
        inside.as_object_mut().expect("an object").extend(block.as_object().expect("an object").clone());
        document["make"] = json!({ "spaces": [{ "id": "roof", "size_mm": space, "openings": [], "cells": false }], "inside": [inside] });
        fit(&parse_value(&document).expect("sound"), &[])
    };
    let whole = of([80.0, 40.0, 20.0], json!({ "size_mm": [45.0, 25.0, 15.0] }));
    assert!(whole.placed.iter().any(|one| one.part == circuit), "{whole:?}");
    let parts = of([140.0, 24.0, 16.0], json!({ "size_mm": [45.0, 25.0, 18.0] }));
    let own: Vec<&str> = parts.placed.iter().filter(|one| one.part.starts_with(&format!("{circuit}, "))).map(|one| one.part.as_str()).collect();
    assert_eq!(own.len(), 4, "{parts:?}");
    assert!(own.iter().any(|name| name.contains("rectifier")) && parts.left.is_empty(), "{parts:?}");
    // Where not even the pieces go, it is the block that has no place.
    let none = of([20.0, 8.0, 5.0], json!({ "size_mm": [45.0, 25.0, 18.0] }));
    assert!(none.left.iter().any(|left| left.part == circuit), "{none:?}");
    // Without a size it is taken apart at once.
    assert!(of([140.0, 24.0, 16.0], json!({})).unsized_parts.iter().all(|part| *part != circuit));
}

#[test]
fn the_centre_of_mass_moves_by_what_is_added_and_where() {
    let value =
        |build: &Build, key: &str| balance(build).expect("a balance").facts.iter().find(|fact| fact.key == key).map(|fact| fact.value).expect("a figure");
    let build = with(json!({ "positions": [{ "part": "tail", "at_mm": [-400.0, 100.0, 0.0] }] }));
    // By hand: the light, half of the wire to it.
    let light = build.lights.iter().find(|light| light.id == "tail").expect("a light");
    let grams = light.mass_g + 0.5 * light.feeds.iter().map(|feed| feed.mass_g()).sum::<f64>();
    let all = 1000.0 * build.vehicle.mass_kg + value(&build, "added_g");
    assert!((value(&build, "shift_forward_mm") + 400.0 * grams / all).abs() < 1e-9);
    assert!((value(&build, "shift_left_mm") - 100.0 * grams / all).abs() < 1e-9);
    assert!(value(&build, "battery_forward_mm") > 0.0 && value(&build, "battery_left_mm") < 0.0, "the battery goes the other way");
    let said = balance(&build).expect("a balance");
    assert!(said.unplaced.contains(&"twelve".to_owned()) && said.meaning.contains("twelve"), "{}", said.meaning);
    assert!(balance(&with(json!({}))).is_none(), "nobody asked, and a trike does not fly");
    // Two equal lights across from each other leave it where it was.
    let drone = parse(demo::BUILDS.iter().find(|text| text.contains("\"drone\"")).expect("a drone")).expect("sound");
    assert!(value(&drone, "shift_forward_mm").abs() < 2.0);
    assert!(balance(&drone).expect("a balance").meaning.contains("Check it"));
}
