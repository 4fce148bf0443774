//! The law of each part of the library: its slope is that of its figure, and its figures go the way nature does. Newton's
//! method rests on the first, every advice on the second.

use orthavis_model::document::{Battery, Chemistry, Converter, ConverterKind, Fuse, FuseStyle, Gauge, Led, Load, Module, Pixels, Source, What};
use orthavis_model::laws::led::DiodeString;
use orthavis_model::laws::pixels;
use orthavis_model::laws::resistor::{DERATING, Series, above, rating_for};
use orthavis_model::parts::library;
use orthavis_testing::case;
use proptest::prelude::*;

/// Whether a slope is that of a figure at a place; at a kink it is that of one of its sides.
fn is_slope(at: f64, slope: f64, figure: impl Fn(f64) -> f64) -> bool {
    let step = 1e-6 * at.abs().max(1e-3);
    let (left, here, right) = (figure(at - step), figure(at), figure(at + step));
    let near = |side: f64| (side - slope).abs() <= 1e-4 * side.abs().max(slope.abs()) + 1e-9;
    near((here - left) / step) || near((right - here) / step) || near((right - left) / (2.0 * step))
}

fn converters() -> Vec<Converter> {
    let known = library().iter().filter_map(|part| if let What::Converter { figures } = &part.what { Some(figures.clone()) } else { None });
    known.chain(case("boost-and-driver").converters).chain(case("trike-arrays").converters).collect()
}

fn leds() -> Vec<Led> {
    library().iter().filter_map(|part| if let What::Led { led } = &part.what { Some(led.clone()) } else { None }).collect()
}

fn loads() -> Vec<Load> {
    let load = |what: &What| match what {
        What::Light { load, .. } | What::Bulb { load, .. } => Some(load.clone()),
        _ => None,
    };
    library().iter().filter_map(|part| load(&part.what)).collect()
}

fn modules() -> Vec<Module> {
    loads().into_iter().filter_map(|load| if let Load::Module(module) = load { Some(module) } else { None }).collect()
}

fn chains() -> Vec<Pixels> {
    loads().into_iter().filter_map(|load| if let Load::Pixels(pixels) = load { Some(pixels) } else { None }).collect()
}

fn batteries() -> Vec<Battery> {
    let Source::Battery(like) = case("van-strips").source else { panic!("a battery") };
    Chemistry::WORDS
        .iter()
        .map(|(_, chemistry)| Battery { chemistry: *chemistry, resistance_ohm: None, charge_v: None, peukert: None, ..like.clone() })
        .collect()
}

proptest! {
    #[test]
    fn a_converters_slopes_are_those_of_its_figures(vin in 1.0f64..60.0, vout in 1.0f64..40.0, amps in 0.01f64..5.0) {
        for part in converters() {
            let (out, input) = (part.output_v(vin), part.input_a(vin, vout, amps));
            prop_assert!(is_slope(vin, out.per_vin, |v| part.output_v(v).value), "{:?} at {vin} V", part.kind());
            prop_assert!(is_slope(vin, input.per_vin, |v| part.input_a(v, vout, amps).value), "{:?} at {vin} V", part.kind());
            prop_assert!(is_slope(vout, input.per_vout, |v| part.input_a(vin, v, amps).value), "{:?} at {vout} V out", part.kind());
            prop_assert!(is_slope(amps, input.per_iout, |a| part.input_a(vin, vout, a).value), "{:?} at {amps} A", part.kind());
        }
    }

    /// Inside its range a converter takes more than it gives, and the rest is heat.
    #[test]
    fn a_converter_makes_no_power(vin in 3.0f64..60.0, amps in 0.01f64..3.0) {
        for part in converters().into_iter().filter(|part| part.kind() != ConverterKind::CurrentDriver && part.runs_at(vin)) {
            let out = part.output_v(vin).value;
            let heat = vin * part.input_a(vin, out, amps).value - out * amps;
            // What a step-up passes through when its input is higher is not counted by its efficiency.
            let passes = part.kind() == ConverterKind::Boost && out > part.target_v();
            prop_assert!(passes || heat >= -1e-9, "{:?} at {vin} V makes {heat} W", part.kind());
        }
    }

    #[test]
    fn a_string_of_leds_turns_back(series in 1u32..12, ohm in 0.0f64..2000.0, share in 1e-6f64..3.0) {
        for led in leds() {
            let string = DiodeString::new(&led, series, ohm);
            let amps = share * led.if_a;
            let volts = string.voltage(amps);
            let (found, slope) = string.current(volts);
            if volts > 0.0 {
                prop_assert!((found / amps - 1.0).abs() < 1e-9, "{}: {amps} A came back as {found} A", led.colour);
                prop_assert!(is_slope(volts, slope, |v| string.current(v).0) || amps < 1e-6, "{} at {volts} V", led.colour);
            }
            prop_assert_eq!(string.current(-volts.abs()), (0.0, 0.0));
        }
    }

    #[test]
    fn modules_and_pixels_have_the_slopes_of_their_currents(volts in 0.01f64..40.0, level in 0.0f64..=1.0, red in 0.0f64..=1.0, blue in 0.0f64..=1.0) {
        for module in modules() {
            prop_assert!(is_slope(volts, module.current(level, volts).1, |v| module.current(level, v).0), "{:?} at {volts} V", module.draw);
        }
        for chain in chains() {
            let colour = [red, 0.5, blue];
            let (all, slope, lit) = pixels::current(&chain, level, &colour, volts);
            prop_assert!(is_slope(volts, slope, |v| pixels::current(&chain, level, &colour, v).0), "pixels at {volts} V");
            let asked = pixels::asked_a(&chain, level, &colour);
            prop_assert!(lit <= asked * (1.0 + 1e-12) && (all - lit - chain.idle_a).abs() < chain.idle_a + 1e-12);
            let most = chain.regulation_v.iter().fold(2.5f64, |a, b| a.max(*b));
            prop_assert!(volts < most || (lit - asked).abs() < 1e-12, "regulated, it gives what is asked");
        }
    }

    #[test]
    fn a_battery_is_read_back_from_its_voltage(soc in 0.0f64..=1.0, less in 0.0f64..=1.0, amps in 0.0f64..200.0) {
        for battery in batteries() {
            let volts = battery.emf_v(soc);
            prop_assert!((battery.soc_at(volts) - soc).abs() < 1e-9, "{:?}: {soc} reads {}", battery.chemistry, battery.soc_at(volts));
            prop_assert!(battery.emf_v(soc * less) <= volts);
            prop_assert!(battery.charging_v().is_none_or(|charging| charging >= battery.emf_v(1.0) * (1.0 - 1e-9)), "{:?}", battery.chemistry);
            let (slow, fast) = (battery.peukert_factor(amps * less), battery.peukert_factor(amps));
            prop_assert!(slow >= 1.0 && fast >= slow);
            prop_assert!((battery.reserve_soc() + battery.usable() - 1.0).abs() < 1e-12);
        }
    }

    #[test]
    fn thicker_wire_loses_less_and_carries_more(awg in 6i32..=30, bundled in 1u32..10, metres in 0.01f64..20.0) {
        let gauge = Gauge::Awg(awg);
        for thicker in gauge.thicker() {
            prop_assert!(thicker.ohm(metres) < gauge.ohm(metres) && thicker.ampacity_a(bundled) >= gauge.ampacity_a(bundled));
        }
        prop_assert!(gauge.ampacity_a(bundled + 1) <= gauge.ampacity_a(bundled), "a bundle cools no better");
        prop_assert!((gauge.ohm(2.0 * metres) / gauge.ohm(metres) - 2.0).abs() < 1e-12);
        prop_assert!(gauge.thicker().windows(2).all(|pair| pair[0].area() < pair[1].area()), "in order");
    }

    #[test]
    fn a_fuse_opens_sooner_the_harder_it_is_pushed(at in 0usize..12, push in 1.0f64..12.0, harder in 1.0f64..3.0) {
        let fuse = Fuse::of(FuseStyle::Blade, FuseStyle::Blade.ratings_a()[at]);
        let (soon, sooner) = (fuse.opens_s(push * fuse.rating_a), fuse.opens_s(push * harder * fuse.rating_a));
        prop_assert_eq!(soon.is_some(), push >= 1.35, "below 1.35 of its rating it may hold for good");
        if let Some([fast, slow]) = soon {
            let later = |time: f64| time * (1.0 + 1e-12);
            prop_assert!(fast <= slow && slow <= 600.0 * (1.0 + 1e-9));
            prop_assert!(sooner.is_some_and(|[sooner, latest]| sooner <= later(fast) && latest <= later(slow)));
        }
        // Beyond its table it lets the same heat through, however hard it is pushed.
        let heat = |times: f64| times * times * fuse.opens_s(times * fuse.rating_a).map_or(0.0, |[_, slow]| slow);
        prop_assert!((heat(6.0 * harder) / heat(6.0) - 1.0).abs() < 1e-9);
    }

    #[test]
    fn a_wire_warms_with_current_and_time_and_cools_in_air(awg in 8i32..=30, bundled in 1u32..10, amps in 0.01f64..300.0, time in 0.001f64..5000.0) {
        let gauge = Gauge::Awg(awg);
        let here = gauge.heated_c(bundled, amps, time);
        prop_assert!((30.0..=1083.0).contains(&here));
        prop_assert!(gauge.heated_c(bundled, 1.1 * amps, time) >= here && gauge.heated_c(bundled, amps, 1.1 * time) >= here);
        prop_assert!(gauge.heated_c(bundled + 1, amps, time) >= here && Gauge::Awg(awg - 2).heated_c(bundled, amps, time) <= here);
        prop_assert!(here <= gauge.settled_c(bundled, amps), "nowhere warmer than in the end");
        // Without time to lose heat it is what copper's own heat takes (IEC 60949), until the air takes some.
        let free = 264.5 * (amps * amps * time / (226.0 * gauge.area_mm2()).powi(2)).exp() - 234.5;
        prop_assert!(here <= free * 1.02 + 0.5, "{} against {}", here, free);
        if time < 0.05 && free < 160.0 {
            prop_assert!((here - free).abs() < 0.02 * (free - 30.0) + 0.01, "{} against {}", here, free);
        }
    }

    #[test]
    fn a_fuse_is_chosen_a_quarter_above(amps in 0.001f64..60.0) {
        for (_, style) in FuseStyle::WORDS {
            let ratings = style.ratings_a();
            prop_assert!(ratings.windows(2).all(|pair| pair[0] < pair[1]), "{}", style.name());
            match style.smallest_for(amps) {
                Some(rating) => {
                    prop_assert!(rating >= 1.25 * amps * (1.0 - 1e-9));
                    prop_assert!(ratings.iter().all(|other| *other >= rating || *other < 1.25 * amps));
                }
                None => prop_assert!(ratings.iter().all(|rating| *rating < 1.25 * amps)),
            }
        }
    }

    #[test]
    fn a_resistor_is_the_next_that_is_made(ohm in 0.1f64..1e6, watts in 0.0f64..6.0) {
        for (series, apart) in [(Series::E12, 1.25), (Series::E24, 1.16)] {
            let value = above(series, ohm);
            prop_assert!(value >= ohm * (1.0 - 1e-8) && value <= ohm * apart, "{ohm} became {value}");
            prop_assert_eq!(above(series, value), value, "what is made stays");
        }
        let rating = rating_for(watts).expect("six watts are not too many");
        prop_assert!(watts <= DERATING * rating);
        prop_assert!(rating <= 0.125 || watts > 0.25 * rating * DERATING, "{watts} W on a {rating} W part");
    }
}
