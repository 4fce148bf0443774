//! A network with an element overridden is the network of a build in which that element is so; any place in it can be
//! read; and pixels may each have a colour of their own.

use orthavis_model::document::{Build, Conversion, Converter, Load, Source};
use orthavis_model::states::{Lit, State};
use orthavis_physics::network::{Change, Network, Point, Side, Solution, Terminal};
use orthavis_testing::case;
use std::sync::Arc;

const CASES: [&str; 6] = ["trike-arrays", "van-strips", "deck-pixels", "boost-and-driver", "hex-rail", "two-supplies-one-strip"];

fn point(build: &Build) -> Point {
    let state = if matches!(build.source, Source::Rail(_)) { State::Rail } else { State::Half };
    Point::of(build, &build.scenes[0], state)
}

fn solved(build: &Build) -> (Network, Point, Solution) {
    let mut network = Network::new(build).expect("a network");
    let point = point(build);
    let solution = network.solve(&point, None).unwrap_or_else(|error| panic!("{}: {error}", build.name));
    (network, point, solution)
}

fn near(a: f64, b: f64) -> bool {
    (a - b).abs() <= 1e-9 * (1.0 + a.abs())
}

#[test]
fn every_place_can_be_read_and_the_drops_between_places_are_the_feeds_own() {
    for name in CASES {
        let build = case(name);
        let (network, point, solution) = solved(&build);
        for (index, feed) in build.feeds().iter().enumerate() {
            let at = |terminal| network.potential(&solution, terminal).expect("a place");
            let flow = network.feed(&solution, index);
            let out = at(Terminal::From(index, Side::Plus)) - at(Terminal::To(index, Side::Plus));
            let back = at(Terminal::To(index, Side::Minus)) - at(Terminal::From(index, Side::Minus));
            assert!(near(out + back, flow.drop_v), "{name} {}: {out} and {back} against {}", feed.id, flow.drop_v);
            assert!(near(out, flow.current_a * network.conductor_ohm(index, Side::Plus)), "{name} {}", feed.id);
        }
        for (index, _) in build.converters.iter().enumerate() {
            let at = |terminal| network.potential(&solution, terminal).expect("a place");
            let flow = network.converter(&solution, index);
            assert!(near(at(Terminal::In(index, Side::Plus)) - at(Terminal::In(index, Side::Minus)), flow.in_v));
            assert!(near(at(Terminal::Out(index, Side::Plus)) - at(Terminal::Out(index, Side::Minus)), flow.out_v));
        }
        // Along a light each pair of rails shows what the tap there sees.
        for (index, light) in build.lights.iter().enumerate() {
            for (tap, flow) in network.taps(&solution, index, &point.lights[index]).enumerate() {
                let at = |side| network.potential(&solution, Terminal::Rail(index, tap, side)).expect("a tap");
                assert!(near(at(Side::Plus) - at(Side::Minus), flow.voltage_v), "{name} {} {tap}", light.id);
            }
        }
        assert_eq!(network.potential(&solution, Terminal::Source(Side::Minus)), Some(0.0));
        assert_eq!(network.potential(&solution, Terminal::From(9999, Side::Plus)), None);
    }
}

#[test]
fn a_rail_falls_evenly_with_the_current_in_it() {
    // Both rails of a strip fed at its start lose the same: what plus falls, minus rises.
    let build = case("deck-pixels");
    let (network, point, solution) = solved(&build);
    for (index, light) in build.lights.iter().enumerate().filter(|(_, light)| matches!(light.load, Load::Pixels(_)) && light.feeds.len() == 1) {
        let (_, rail_ohm) = match &light.load {
            Load::Pixels(pixels) => (pixels.count, pixels.rail_ohm_per_m),
            _ => unreachable!("filtered"),
        };
        let drawn: Vec<f64> = network.taps(&solution, index, &point.lights[index]).map(|tap| tap.current_a).collect();
        let places: Vec<f64> = network.taps_at_m(index).collect();
        assert_eq!(places.len(), drawn.len());
        let fed_at = light.feeds[0].at_m;
        for tap in 1..drawn.len() {
            if places[tap - 1] < fed_at {
                continue;
            }
            let beyond: f64 = drawn[tap..].iter().sum();
            let ohm = rail_ohm * (places[tap] - places[tap - 1]);
            let at = |tap, side| network.potential(&solution, Terminal::Rail(index, tap, side)).expect("a tap");
            assert!((at(tap - 1, Side::Plus) - at(tap, Side::Plus) - ohm * beyond).abs() < 1e-8, "plus at {tap}");
            assert!((at(tap, Side::Minus) - at(tap - 1, Side::Minus) - ohm * beyond).abs() < 1e-8, "minus at {tap}");
        }
    }
}

#[test]
fn a_weak_joint_is_a_longer_wire() {
    for name in CASES {
        let build = case(name);
        let (mut network, point, before) = solved(&build);
        for (index, feed) in build.feeds().iter().enumerate() {
            network.change(&Change::InSeries { feed: index, side: Side::Plus, ohm: 0.4 });
            let with = network.solve(&point, Some(&before)).unwrap_or_else(|error| panic!("{name} {}: {error}", feed.id));
            let flow = network.feed(&with, index);
            let ohm = network.conductor_ohm(index, Side::Plus) + network.conductor_ohm(index, Side::Minus);
            if near(flow.current_a, flow.back_a) {
                assert!((flow.drop_v - ohm * flow.current_a).abs() < 1e-8, "{name} {}", feed.id);
            }
            let (amps, largest) = network.balance(&point, &with);
            assert!(amps <= 1e-9 + 1e-6 * largest, "{name} {}", feed.id);
            network.restore();
        }
        // Restored, it gives the same as before.
        let again = network.solve(&point, None).expect("solved again");
        assert_eq!(network.source(&again), network.source(&before), "{name}");
    }
}

#[test]
fn an_open_conductor_carries_nothing_and_leaves_nothing_floating() {
    for name in ["trike-arrays", "van-strips", "deck-pixels"] {
        let build = case(name);
        let (healthy, point, _) = solved(&build);
        for index in 0..build.feeds().len() {
            let mut network = healthy.fork();
            for feed in 0..build.feeds().len() {
                network.change(&Change::Across { feed, ohm: 1e6 });
            }
            network.change(&Change::InSeries { feed: index, side: Side::Minus, ohm: 1e9 });
            let solution = network.solve(&point, None).unwrap_or_else(|error| panic!("{name} {index}: {error}"));
            let flow = network.feed(&solution, index);
            let alone = !build.feeds()[index].id.contains('#') && build.lights.iter().all(|light| light.feeds.len() == 1);
            if alone {
                assert!(flow.current_a.abs() < 1e-6, "{name} {index}: {} A", flow.current_a);
            }
            let plus = network.potential(&solution, Terminal::To(index, Side::Plus)).expect("a place");
            assert!(plus.is_finite() && plus < 1.2 * point.emf_v.max(30.0), "{name} {index}: {plus} V");
        }
    }
}

#[test]
fn a_short_at_the_far_end_draws_what_ohms_law_says() {
    let build = case("trike-arrays");
    let (mut network, point, _) = solved(&build);
    // The feed straight from the battery.
    let index = build.feeds().iter().position(|feed| feed.feed.from == "source").expect("a feed from the battery");
    network.change(&Change::Across { feed: index, ohm: 0.005 });
    let solution = network.solve(&point, None).expect("a short is a steady state too");
    let wire = network.conductor_ohm(index, Side::Plus) + network.conductor_ohm(index, Side::Minus);
    let expected = point.emf_v / (point.source_ohm + wire + 0.005);
    let flow = network.feed(&solution, index);
    assert!((flow.current_a / expected - 1.0).abs() < 1e-3, "{} A against {expected} A", flow.current_a);
}

#[test]
fn a_converter_set_otherwise_is_the_converter_of_another_build() {
    let build = case("trike-arrays");
    let part = Converter { conversion: Conversion::step_down(build.converters[0].target_v() - 1.0, 0.8), ..build.converters[0].clone() };
    let mut other = build.clone();
    other.converters[0] = part.clone();
    let (mut network, point, _) = solved(&build);
    network.change(&Change::Converter { index: 0, part: Box::new(part.clone()) });
    let (plain, _, expected) = solved(&other);
    let found = network.solve(&point, None).expect("solved");
    let (a, b) = (network.source(&found), plain.source(&expected));
    assert!(near(a.0, b.0) && near(a.1, b.1), "{a:?} {b:?}");
    // One that wants more than there is does not run.
    network.change(&Change::Converter { index: 0, part: Box::new(Converter { min_in_v: f64::INFINITY, ..part }) });
    let resting = network.solve(&point, None).expect("solved");
    assert!(!network.converter(&resting, 0).on);
}

#[test]
fn strings_that_are_not_alike_share_the_voltage_not_the_current() {
    let build = case("trike-arrays");
    let (index, array) = (build.lights.iter().enumerate())
        .find_map(|(index, light)| match &light.load {
            Load::LedArray(array) if array.parallel > 1 => Some((index, array.clone())),
            _ => None,
        })
        .expect("an array of several strings");
    let (mut network, point, before) = solved(&build);
    let whole: f64 = network.taps(&before, index, &point.lights[index]).map(|tap| tap.current_a).sum();
    // As they are, one by one: nothing changes.
    let each = vec![array.clone(); array.parallel as usize];
    network.change(&Change::Strings { light: index, strings: each.clone() });
    let same = network.solve(&point, None).expect("solved");
    let sum: f64 = network.taps(&same, index, &point.lights[index]).map(|tap| tap.current_a).sum();
    assert!(near(sum, whole), "{sum} {whole}");
    // One is open: the others hardly notice.
    network.change(&Change::Strings { light: index, strings: each[1..].to_vec() });
    let open = network.solve(&point, None).expect("solved");
    let left: f64 = network.taps(&open, index, &point.lights[index]).map(|tap| tap.current_a).sum();
    let share = f64::from(array.parallel - 1) / f64::from(array.parallel);
    assert!((left / whole / share - 1.0).abs() < 0.02, "{left} of {whole}");
    // Dead, it leaks and gives no light.
    network.change(&Change::Dead { light: index, ohm: 1e6 });
    let dead = network.solve(&point, None).expect("solved");
    let tap = network.taps(&dead, index, &point.lights[index]).next().expect("a tap");
    assert!(tap.current_a < 1e-4 && tap.output == 0.0);
}

#[test]
fn a_frame_of_one_colour_is_the_colour_and_a_dark_pixel_takes_its_share_away() {
    let build = case("deck-pixels");
    let (mut network, mut point, _) = solved(&build);
    let (index, pixels) = (build.lights.iter().enumerate())
        .find_map(|(index, light)| if let Load::Pixels(pixels) = &light.load { Some((index, pixels.clone())) } else { None })
        .expect("pixels");
    let colour = [0.8, 0.4, 0.2];
    point.lights[index] = Lit { level: 1.0, colour, each: None };
    let plain = network.solve(&point, None).expect("solved");
    let mut frame = vec![colour; pixels.count as usize];
    point.lights[index] = Lit::frame(frame.clone().into());
    let same = network.solve(&point, None).expect("solved");
    assert!(near(network.source(&plain).1, network.source(&same).1));
    assert!(near(network.output(&plain, index, &point.lights[index]), network.output(&same, index, &point.lights[index])));
    // Every pixel draws by its own colour.
    for (place, one) in frame.iter_mut().enumerate() {
        *one = [(place % 3 == 0) as u8 as f64, (place % 3 == 1) as u8 as f64, 0.0];
    }
    let frame: Arc<[[f64; 3]]> = frame.into();
    point.lights[index] = Lit::frame(frame.clone());
    let mixed = network.solve(&point, None).expect("solved");
    for (place, tap) in network.taps(&mixed, index, &point.lights[index]).enumerate() {
        let full = pixels.idle_a + (0..3).map(|channel| frame[place][channel] * pixels.channel_a[channel]).sum::<f64>();
        assert!(tap.current_a <= full + 1e-12, "pixel {place}");
        assert_eq!(tap.output > 0.0, place % 3 != 2, "pixel {place}");
    }
    // Pixels beyond the end of a frame are dark.
    point.lights[index] = Lit::frame(frame[..1].to_vec().into());
    let one = network.solve(&point, None).expect("solved");
    assert_eq!(network.taps(&one, index, &point.lights[index]).filter(|tap| tap.output > 0.0).count(), 1);
}
