//! Looking parts up and editing them, and how figures are held against limits and written.

use orthavis_model::document::{Build, Conversion, ConverterKind, Gauge, Return};
use orthavis_model::edit::{converter_name, feed_mut, free_id, is_driven, plain_feed};
use orthavis_model::practice::{INPUT_V, OUTPUT_A, above, rating_above, within};
use orthavis_model::working::plain;
use orthavis_testing::{case, cases};
use proptest::prelude::*;

#[test]
fn a_feed_to_be_edited_is_the_one_that_is_read() {
    for (name, build) in cases() {
        for id in build.feeds().into_iter().map(|feed| feed.id).collect::<Vec<_>>() {
            let mut copy = build.clone();
            feed_mut(&mut copy, &id).expect("it is there").length_m = 123.0;
            let changed: Vec<String> = copy.feeds().into_iter().filter(|feed| feed.feed.length_m == 123.0).map(|feed| feed.id).collect();
            assert_eq!(changed, [id], "{name}");
        }
        for unknown in ["nowhere", "source", "x#1", "x#y"] {
            assert!(feed_mut(&mut build.clone(), unknown).is_none(), "{name}: {unknown}");
        }
    }
}

#[test]
fn an_id_is_free_beside_what_is_there() {
    let build = case("boost-and-driver");
    let taken: Vec<String> = build.feeds().into_iter().filter(|feed| feed.number == 0).map(|feed| feed.id).collect();
    assert_eq!(free_id(&build, "something-new"), "something-new");
    for id in taken.iter().map(String::as_str).chain(["source"]) {
        assert_eq!(free_id(&build, id), format!("{id}-2"));
    }
    let mut crowded = build;
    crowded.lights[0].id = format!("{}-2", taken[0]);
    assert_eq!(free_id(&crowded, &taken[0]), format!("{}-3", taken[0]));
}

#[test]
fn a_converter_is_named_by_what_it_does() {
    let build: Build = case("boost-and-driver");
    let mut part = build.converters[0].clone();
    for (conversion, name) in [
        (Conversion::step_down(12.04, 0.9), "step-down-12v"),
        (Conversion::step_up(12.04, 0.9), "step-up-12v"),
        (Conversion::step_up_down(12.04, 0.9), "up-down-12v"),
        (Conversion::linear(12.04, 1.0), "regulator-12v"),
        (Conversion::driver(0.35, 1.0, 0.9), "driver-350ma"),
        (Conversion::step_down(3.3, 0.9), "step-down-3.3v"),
    ] {
        part.conversion = conversion;
        assert_eq!(converter_name(&part), name);
    }
}

#[test]
fn only_what_hangs_on_a_driver_is_driven() {
    let mut driven = 0;
    for (name, build) in cases() {
        for light in &build.lights {
            let from = &light.feeds[0].from;
            let on_driver = build.converters.iter().any(|c| c.id == *from && c.kind() == ConverterKind::CurrentDriver);
            assert_eq!(is_driven(&build, light), on_driver, "{name}: {}", light.id);
            driven += usize::from(on_driver);
        }
    }
    assert!(driven > 0, "no public case has a driver");
}

#[test]
fn a_plain_feed_has_nothing_in_it() {
    let feed = plain_feed("source", 0.4, Gauge::Awg(20));
    assert_eq!((feed.from.as_str(), feed.contacts, feed.bundled, feed.return_path), ("source", 0, 1, Return::Wire));
    assert!(feed.fuse.is_none() && feed.switch.is_none() && feed.at_m == 0.0);
    // Out and back it is twice its copper.
    assert!((feed.out_ohm() + feed.back_ohm(None) - 2.0 * Gauge::Awg(20).ohm(0.4)).abs() < 1e-15);
}

#[test]
fn a_tie_with_a_limit_keeps_to_it() {
    for limit in [0.29, 13.4, -2.0, 1e-6, 1e6] {
        assert!(within(limit, limit) && !above(limit, limit));
        assert!(within(limit + 1e-13 * limit.abs(), limit), "rounding is no excess");
        assert!(above(limit + 1e-6 * f64::abs(limit), limit));
    }
    assert!(above(1e-300, 0.0), "of nothing there is no rounding");
}

#[test]
fn ratings_are_those_on_sale() {
    for (usual, need, rating) in [(&INPUT_V[..], 42.1, 60.0), (&INPUT_V[..], 24.0, 24.0), (&OUTPUT_A[..], 3.01, 5.0), (&OUTPUT_A[..], 31.2, 32.0)] {
        assert_eq!(rating_above(need, usual), rating, "{need}");
    }
}

proptest! {
    /// What a person reads is the figure to three digits, whatever its size.
    #[test]
    fn a_figure_reads_back_to_three_digits(mantissa in 1.0f64..10.0, exponent in -6i32..9, negative in any::<bool>()) {
        let value = mantissa * 10f64.powi(exponent) * if negative { -1.0 } else { 1.0 };
        let text = plain(value, "A");
        let (number, unit) = text.split_once(' ').expect("a figure and its unit");
        let factor = match unit.strip_suffix('A').expect("amperes") { "µ" => 1e-6, "m" => 1e-3, "" => 1.0, "k" => 1e3, "M" => 1e6, other => panic!("{other} in {text}") };
        let read: f64 = number.parse().expect("a number");
        prop_assert!((read * factor / value - 1.0).abs() <= 5.1e-3, "{value} reads {text}");
        prop_assert!(number.trim_start_matches('-').chars().filter(char::is_ascii_digit).count() <= 4, "{text}");
    }
}

/// Units that nobody puts every prefix before.
#[test]
fn figures_are_said_as_people_say_them() {
    for (value, unit, said) in [
        (1.31e-3, "F", "1310 µF"),
        (22e-6, "F", "22 µF"),
        (1.5, "F", "1.5 F"),
        (0.9, "d", "0.9 d"),
        (1083.0, "°C", "1083 °C"),
        (0.02, "A", "20 mA"),
        (0.0, "ohm", "0 Ω"),
        (4700.0, "ohm", "4.7 kΩ"),
        (3600.0, "s", "3600 s"),
    ] {
        assert_eq!(plain(value, unit), said);
    }
}
