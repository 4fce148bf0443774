//! Figures of the laws against those of standards and textbooks, and what must hold between them.

use orthavis_model::chance::Dice;
use orthavis_model::document::{Feed, Fuse, FuseStyle, Gauge, Led, Load, Return, Strip, Switch, What};
use orthavis_model::edit::plain_feed;
use orthavis_model::journal::is_uuid7;
use orthavis_model::laws::fuse::Seat;
use orthavis_model::laws::led::{DiodeString, THERMAL_V, arrange, usual_vf};
use orthavis_model::laws::resistor::{Series, above, rating_for};
use orthavis_model::moment::{DAY_S, Moment};
use orthavis_model::parts::library;
use proptest::prelude::*;

fn near(found: f64, told: f64, share: f64) -> bool {
    (found - told).abs() <= share * told.abs()
}

#[test]
fn wires_have_the_copper_of_their_tables() {
    // ASTM B258: number, mm²; resistance of annealed copper at 20 °C, mΩ/m.
    for (number, mm2, milliohm) in [
        (6, 13.30, 1.296),
        (10, 5.261, 3.277),
        (14, 2.081, 8.286),
        (18, 0.8231, 20.95),
        (22, 0.3255, 52.96),
        (24, 0.2047, 84.22),
        (28, 0.0810, 212.9),
        (30, 0.0509, 338.6),
    ] {
        let gauge = Gauge::Awg(number);
        assert!(near(gauge.area_mm2(), mm2, 0.005), "{number} AWG has {} mm²", gauge.area_mm2());
        assert!(near(1e3 * gauge.ohm(1.0), milliohm, 0.005), "{number} AWG has {} mΩ/m", 1e3 * gauge.ohm(1.0));
        assert!(near(gauge.outer_mm(), 2.0 * (4.0 * mm2 / std::f64::consts::PI).sqrt(), 0.005));
    }
    assert_eq!(Gauge::Mm2(1.5).area_mm2(), 1.5);
    assert!(near(Gauge::Mm2(1.5).ohm(10.0), 0.115, 0.01), "ten metres of 1.5 mm²");
}

#[test]
fn what_is_bundled_carries_less_and_what_lies_between_two_sizes_counts_as_the_thinner() {
    for (bundled, share) in [(0, 1.0), (1, 1.0), (2, 0.7), (3, 0.7), (4, 0.6), (6, 0.6), (7, 0.5), (40, 0.5)] {
        assert!(near(Gauge::Awg(18).ampacity_a(bundled), share * 15.0, 1e-12), "{bundled} together");
    }
    assert_eq!(Gauge::Awg(19).ampacity_a(1), Gauge::Awg(20).ampacity_a(1));
    assert_eq!(Gauge::Mm2(1.0).ampacity_a(1), Gauge::Awg(18).ampacity_a(1), "a little thicker than 18 AWG");
    // Below the table with the copper, down to nothing.
    let thin = Gauge::Mm2(0.02);
    assert!(near(thin.ampacity_a(1) / 0.86, 0.02 / Gauge::Awg(30).area_mm2(), 1e-9));
    assert!(Gauge::Awg(6).thicker().is_empty() && Gauge::Mm2(10.0).thicker().is_empty());
}

#[test]
fn a_feed_is_the_sum_of_what_is_in_it() {
    let plain = plain_feed("source", 2.0, Gauge::Mm2(0.5));
    let wire = 2.0 * 1.724e-8 / 0.5e-6;
    assert!(near(plain.out_ohm(), wire, 1e-9) && near(plain.back_ohm(None), wire, 1e-9));
    let all = Feed { fuse: Some(Fuse::of(FuseStyle::Blade, 3.0)), switch: Some(Switch::of(6.0)), contacts: 2, ..plain.clone() };
    assert!(near(all.out_ohm(), wire + 0.03 + 0.01 + 0.02, 1e-9), "{}", all.out_ohm());
    assert!(near(all.back_ohm(Some(0.004)), wire, 1e-9), "with a wire back nobody asks for the frame");
    let frame = Feed { return_path: Return::Frame, ..plain };
    assert_eq!((frame.back_ohm(Some(0.004)), frame.back_ohm(None)), (0.004, frame.out_ohm()), "a frame that nobody measured counts as a wire");
    assert!(near(2.0 * frame.mass_g(), all.mass_g(), 1e-12));
    // 2 m there and back of 0.5 mm²: 17.9 g of copper, half as much again with insulation.
    assert!(near(all.mass_g(), 1.5 * 17.92, 0.001), "{} g", all.mass_g());
}

#[test]
fn a_blade_fuse_opens_by_the_limits_of_its_standard() {
    let fuse = Fuse::of(FuseStyle::Blade, 10.0);
    for (amps, seconds) in [(13.49, None), (13.5, Some(600.0)), (20.0, Some(5.0)), (35.0, Some(0.5)), (60.0, Some(0.1)), (600.0, Some(0.001))] {
        let found = fuse.opens_s(amps).map(|[_, latest]| latest);
        assert!(found.is_some() == seconds.is_some() && seconds.is_none_or(|told| near(found.unwrap_or(0.0), told, 1e-9)), "{amps} A: {found:?}");
    }
    // Straight on log–log paper: half way between 20 A and 35 A by their logarithms.
    let middle = fuse.opens_s((20.0f64 * 35.0).sqrt()).expect("it opens")[1];
    assert!(near(middle, (5.0f64 * 0.5).sqrt(), 1e-9), "{middle} s");
    assert_eq!(fuse.cold_ohm(), 0.009);
}

#[test]
fn a_fuse_suits_where_it_breaks_what_a_short_draws() {
    let seat = |highest_v, battery, limit_a, small| Seat { highest_v, battery, limit_a, small };
    let of = |style, rating_a| Fuse::of(style, rating_a);
    // Seven cells with 30 mΩ: 900 A into a short.
    let pack = seat(29.4, Some((29.4, 0.03)), f64::INFINITY, false);
    assert!(near(pack.short_a(&of(FuseStyle::Blade, 10.0)), 29.4 / 0.039, 1e-9));
    assert!(pack.suits(&of(FuseStyle::Blade, 10.0)) && !pack.suits(&of(FuseStyle::Glass, 10.0)) && !pack.can(&of(FuseStyle::Glass, 10.0)));
    assert_eq!(pack.best(4.0).map(|fuse| (fuse.style, fuse.rating_a)), Some((FuseStyle::Blade, 5.0)));
    // Fourteen cells: more than a blade fuse for 32 V interrupts.
    let high = seat(58.0, Some((58.0, 0.1)), f64::INFINITY, false);
    assert_eq!(high.best(4.0).map(|fuse| fuse.style), Some(FuseStyle::Blade58v));
    // Behind a module for 3 A nothing breaks anything; a toy takes a resettable one.
    let module = seat(5.0, None, 3.0, true);
    assert_eq!(module.short_a(&of(FuseStyle::Ptc, 1.1)), 3.0);
    assert_eq!(module.best(0.8).map(|fuse| (fuse.style, fuse.rating_a)), Some((FuseStyle::Ptc, 1.1)));
    // What is there already goes first, as long as it can do it.
    let styles = |present| pack.fuses(present, |style| style.smallest_for(4.0)).first().map(|fuse| fuse.style);
    assert_eq!((styles(Some(FuseStyle::Ceramic)), styles(Some(FuseStyle::Glass))), (Some(FuseStyle::Ceramic), Some(FuseStyle::Blade)));
    assert_eq!(pack.best(200.0).map(|fuse| fuse.rating_a), None, "nobody makes one");
}

#[test]
fn preferred_values_are_those_of_the_standard() {
    assert_eq!(Series::E6.between(1.0, 9.9), [1.0, 1.5, 2.2, 3.3, 4.7, 6.8]);
    assert_eq!(Series::E12.between(100.0, 999.0), [100.0, 120.0, 150.0, 180.0, 220.0, 270.0, 330.0, 390.0, 470.0, 560.0, 680.0, 820.0]);
    assert_eq!(Series::E24.between(0.9, 1.2e3).len(), 1 + 3 * 24 + 3);
    assert_eq!(Series::E6.between(3.3e-7, 1e-6), [3.3e-7, 4.7e-7, 6.8e-7, 1e-6], "both ends are included");
    for (ohm, e12, e24) in [(99.0, 100.0, 100.0), (101.0, 120.0, 110.0), (4.71, 5.6, 5.1), (930.0, 1000.0, 1000.0), (0.1, 0.1, 0.1)] {
        assert_eq!((above(Series::E12, ohm), above(Series::E24, ohm)), (e12, e24), "{ohm} ohm");
    }
    // Used at three fifths of what is printed on it.
    assert_eq!([0.075, 0.076, 0.3, 0.31, 6.0].map(rating_for), [Some(0.125), Some(0.25), Some(0.5), Some(1.0), Some(10.0)]);
    assert_eq!(rating_for(6.1), None);
}

fn leds() -> Vec<Led> {
    library().iter().filter_map(|part| if let What::Led { led } = &part.what { Some(led.clone()) } else { None }).collect()
}

fn strips() -> Vec<Strip> {
    library().iter().filter_map(|part| if let What::Light { load: Load::Strip(strip), .. } = &part.what { Some(strip.clone()) } else { None }).collect()
}

#[test]
fn an_led_carries_what_its_datasheet_says_at_its_voltage() {
    for led in leds() {
        let string = DiodeString::new(&led, 1, 0.0);
        let (amps, _) = string.current(led.vf_v);
        assert!(near(amps, led.if_a, 1e-9), "{}: {amps} A", led.colour);
        // The same as a diode of a general simulator.
        let (saturation_a, slope_v, rs_ohm, resistor_ohm) = string.shockley();
        assert_eq!(resistor_ohm, 0.0);
        let across = led.vf_v - rs_ohm * amps;
        assert!(near(saturation_a * (across / slope_v).exp(), amps, 1e-9), "{}", led.colour);
        assert!(near(slope_v, led.ideality() * THERMAL_V, 1e-12) && near(rs_ohm, led.series_ohm(), 1e-12));
    }
    assert_eq!((usual_vf("red"), usual_vf("a colour that nobody makes")), (Some(2.0), None));
}

#[test]
fn a_strip_takes_its_rated_power_at_its_rated_voltage() {
    for strip in strips() {
        let string = DiodeString::of_segment(&strip);
        let (segment_a, _) = string.current(strip.voltage_v);
        let segments = strip.length_m / strip.segment_m;
        let (volts, rated_a) = DiodeString::strip_rating(&strip);
        assert_eq!(volts, strip.voltage_v);
        assert!(near(segment_a * segments, rated_a, 1e-9), "{segment_a} A in {segments} segments, {rated_a} A rated");
        assert!(near(rated_a * volts, strip.power_w_per_m * strip.length_m, 1e-12));
        assert!(near(segment_a, DiodeString::strip_led_a(&strip), 1e-9));
        // A twentieth of the voltage is more than a twentieth of the light, and half of it nearly all.
        assert!(string.current(0.95 * strip.voltage_v).0 < 0.95 * segment_a && string.current(0.5 * strip.voltage_v).0 < 0.2 * segment_a);
    }
}

proptest! {
    #[test]
    fn leds_that_are_arranged_carry_the_share_that_was_asked_for(at in 0usize..64, count in 1u32..40, volts in 3.0f64..30.0, share in 0.2f64..1.0) {
        let all = leds();
        let led = all[at % all.len()].clone();
        let mut array = orthavis_model::document::LedArray::row(led.clone(), count);
        let one = DiodeString::new(&led, 1, 0.0).voltage(share * led.if_a);
        match arrange(&mut array, volts, share) {
            None => {
                let watts = (volts - one) * share * led.if_a;
                prop_assert!(one >= volts * 0.999 || watts > 6.0, "an LED of {one} V on {volts} V leaves a resistor {watts} W");
            }
            Some(()) => {
                prop_assert!(array.series * array.parallel >= count && array.series * (array.parallel - 1) < count, "no string more than it takes");
                let (amps, _) = DiodeString::of_array(&array).current(volts);
                prop_assert!(amps <= share * led.if_a * (1.0 + 1e-9), "{amps} A of {}", share * led.if_a);
                // The next resistor that is made is a tenth larger at most, of which the LEDs give something back.
                prop_assert!(array.resistor_ohm < 0.5 || amps >= 0.85 * share * led.if_a, "{amps} A of {} with {} ohm", share * led.if_a, array.resistor_ohm);
                prop_assert!(amps * amps * array.resistor_ohm <= 0.6 * array.resistor_w * (1.0 + 1e-9), "the resistor stays cool");
            }
        }
    }

    #[test]
    fn a_moment_reads_back_as_it_is_written(s in -2_000_000_000i64..4_000_000_000, minutes in -14i64 * 60..=14 * 60, later in -10_000_000i64..10_000_000) {
        let moment = Moment { s, offset_s: 60 * minutes };
        prop_assert_eq!(Moment::parse(&moment.text()), Some(moment), "{}", moment.text());
        prop_assert_eq!(moment.day() * DAY_S + moment.of_day_s(), s + 60 * minutes);
        prop_assert!((0..DAY_S).contains(&moment.of_day_s()));
        let then = moment.later(later);
        prop_assert_eq!((then.s - s, then.offset_s), (later, moment.offset_s));
        prop_assert_eq!(then.day() > moment.day(), then.date() > moment.date(), "days sort as they are written");
        // The same instant, by another place's clock.
        let zulu = Moment { s, offset_s: 0 };
        prop_assert_eq!(Moment::parse(&zulu.text()).map(|read| read.s), Some(moment.s));
    }

    #[test]
    fn dice_are_fair(seed in any::<u64>(), most in 1usize..12) {
        let (mut dice, count) = (Dice::new(seed), 4000);
        let throws: Vec<usize> = (0..count).map(|_| dice.below(most)).collect();
        for side in 0..most {
            let share = throws.iter().filter(|throw| **throw == side).count() as f64 / count as f64;
            prop_assert!((share - 1.0 / most as f64).abs() < 0.05, "{side}: {share}");
        }
        let scattered: Vec<f64> = (0..count).map(|_| dice.normal()).collect();
        let mean = scattered.iter().sum::<f64>() / count as f64;
        let spread = scattered.iter().map(|value| (value - mean).powi(2)).sum::<f64>() / count as f64;
        prop_assert!(mean.abs() < 0.1 && (spread - 1.0).abs() < 0.15, "{mean}, {spread}");
        prop_assert!((0..count).map(|_| dice.between(-2.0, 3.0)).all(|value| (-2.0..3.0).contains(&value)));
        prop_assert_eq!(dice.below(0), 0);
    }
}

#[test]
fn dice_throw_what_splitmix_throws() {
    let mut dice = Dice::new(0);
    assert_eq!([dice.bits(), dice.bits(), dice.bits()], [0xe220_a839_7b1d_cdaf, 0x6e78_9e6a_a1b9_65f4, 0x06c4_5d18_8009_454f]);
}

#[test]
fn ids_of_events_are_uuids_of_version_seven() {
    let good = "018f2f7e-6c00-7abc-8def-0123456789ab";
    assert!(is_uuid7(good));
    let other = |at: usize, letter: &str| format!("{}{letter}{}", &good[..at], &good[at + 1..]);
    for variant in ["8", "9", "a", "b"] {
        assert!(is_uuid7(&other(19, variant)), "{variant}");
    }
    for bad in
        [other(14, "4"), other(19, "c"), other(8, "0"), other(23, "_"), other(0, "G"), other(35, "A"), good[1..].to_owned(), format!("{good}0"), String::new()]
    {
        assert!(!is_uuid7(&bad), "{bad}");
    }
}
