//! Linear circuits under sources that change, against solutions in closed form, and what is measured of a waveform.

use orthavis_physics::transient::{Circuit, Element, Run, Trace, Wave};
use proptest::prelude::*;
use std::f64::consts::{FRAC_1_SQRT_2, TAU};

fn circuit(source: Element, parts: &[(&str, [&str; 2], Element)]) -> Circuit {
    let mut circuit = Circuit::new();
    circuit.add("source", &["p", "0"], source);
    for (name, nodes, element) in parts {
        circuit.add(name, nodes, element.clone());
    }
    circuit
}

fn run(circuit: &Circuit, stop_s: f64, scale_s: f64) -> Run<'_> {
    circuit.run(stop_s, scale_s, &|_, _| false).unwrap_or_else(|error| panic!("{error}"))
}

/// A resistor into a capacitor.
fn low_pass(wave: Wave, ohm: f64, farad: f64) -> Circuit {
    circuit(Element::Voltage(wave), &[("r", ["p", "n"], Element::Resistor(ohm)), ("c", ["n", "0"], Element::Capacitor(farad, Some(0.0)))])
}

fn pulse(low: f64, high: f64, period_s: f64, duty: f64) -> Wave {
    Wave::Pulse { low, high, delay_s: 0.0, edge_s: 1e-6 * period_s, width_s: (duty - 1e-6) * period_s, period_s }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    #[test]
    fn current_through_a_coil_rises_and_dies_by_the_exponential(volts in 1.0f64..50.0, ohm in 0.5f64..500.0, milli in 0.1f64..500.0, begins in -1.0f64..1.0) {
        let (henry, tau) = (1e-3 * milli, 1e-3 * milli / ohm);
        let begins_a = begins * volts / ohm;
        let coil = Element::Inductor(henry, Some(begins_a));
        let own = circuit(Element::Voltage(Wave::Constant(volts)), &[("r", ["p", "n"], Element::Resistor(ohm)), ("l", ["n", "0"], coil)]);
        let found = run(&own, 5.0 * tau, tau).current("l");
        for (time, amps) in found.time_s.iter().zip(&found.value) {
            let exact = volts / ohm + (begins_a - volts / ohm) * (-time / tau).exp();
            prop_assert!((amps - exact).abs() < 3e-4 * volts / ohm, "at {time}: {amps}, {exact}");
        }
    }

    #[test]
    fn a_steady_current_fills_a_capacitor_evenly(amps in -0.5f64..0.5, micro in 0.01f64..5000.0) {
        prop_assume!(amps.abs() > 1e-4);
        let farad = 1e-6 * micro;
        let own = circuit(Element::Current(Wave::Constant(amps)), &[("c", ["p", "0"], Element::Capacitor(farad, Some(0.0)))]);
        let stop = 10.0 * farad / amps.abs();
        let held = run(&own, stop, stop).node("p");
        for (time, volts) in held.time_s.iter().zip(&held.value).skip(1) {
            let exact = amps * time / farad;
            // At rest it was held at nothing by a thousand siemens.
            prop_assert!((volts - exact).abs() < 1e-5 * exact.abs() + 1e-6 + 1.01e-3 * amps.abs(), "at {time}: {volts}, {exact}");
        }
    }

    #[test]
    fn a_low_pass_lets_through_what_its_corner_says(mean in -5.0f64..5.0, peak in 0.5f64..10.0, hz in 1.0f64..10_000.0, turns in 0.05f64..3.0) {
        // `turns` times its corner frequency.
        let (ohm, tau) = (1000.0, turns / (TAU * hz));
        let own = low_pass(Wave::Sine { mean, peak, hz }, ohm, tau / ohm);
        let period = 1.0 / hz;
        let settle = (8.0 * tau / period).ceil() * period;
        let held = run(&own, settle + 4.0 * period, tau.min(period)).node("n").from(settle);
        let through = peak / (1.0 + turns * turns).sqrt();
        prop_assert!((held.mean() - mean).abs() < 4e-3 * (peak + mean.abs()), "{} of {mean}", held.mean());
        prop_assert!((0.5 * (held.peak() - held.least()) - through).abs() < 4e-3 * peak, "{} of {through}", 0.5 * (held.peak() - held.least()));
        let swing = held.rms().powi(2) - held.mean().powi(2);
        prop_assert!((swing - 0.5 * through * through).abs() < 0.01 * peak * peak, "{swing}");
    }

    #[test]
    fn pulses_through_a_low_pass_ripple_by_the_exponential_about_their_mean(high in 1.0f64..20.0, duty in 0.1f64..0.9, share in 0.2f64..5.0) {
        let (period, ohm) = (1e-3, 470.0);
        // The time constant is `share` of the period.
        let tau = share * period;
        let settle = (10.0 * share).ceil() * period;
        let own = low_pass(pulse(0.0, high, period, duty), ohm, tau / ohm);
        let held = run(&own, settle + 3.0 * period, tau.min(period)).node("n").from(settle);
        let (on, all) = ((-duty / share).exp(), (-1.0 / share).exp());
        let (top, bottom) = (high * (1.0 - on) / (1.0 - all), high * (1.0 - on) / (1.0 - all) * all / on);
        prop_assert!((held.peak() - top).abs() < 2e-3 * high, "{} of {top}", held.peak());
        prop_assert!((held.least() - bottom).abs() < 2e-3 * high, "{} of {bottom}", held.least());
        prop_assert!((held.mean() - duty * high).abs() < 3e-3 * high, "{} of {}", held.mean(), duty * high);
    }

    /// What two sources do together is what each does alone, added.
    #[test]
    fn linear_circuits_add_up(volts in -9.0f64..9.0, peak in 0.1f64..9.0, hz in 50.0f64..500.0, ohms in prop::array::uniform3(10.0f64..1e4), micros in prop::array::uniform2(0.1f64..10.0)) {
        let ladder = |steady: f64, swing: f64| {
            let mut own = circuit(Element::Voltage(Wave::Constant(steady)), &[("a", ["p", "m"], Element::Resistor(ohms[0])), ("b", ["m", "n"], Element::Resistor(ohms[1]))]);
            own.add("ca", &["m", "0"], Element::Capacitor(1e-6 * micros[0], Some(0.0)));
            own.add("cb", &["n", "0"], Element::Capacitor(1e-6 * micros[1], Some(0.0)));
            own.add("other", &["q", "0"], Element::Voltage(Wave::Sine { mean: 0.0, peak: swing, hz }));
            own.add("c", &["q", "n"], Element::Resistor(ohms[2]));
            own
        };
        let follow = |steady, swing| run(&ladder(steady, swing), 3.0 / hz, 1.0 / hz).node("n");
        let (both, one, other) = (follow(volts, peak), follow(volts, 0.0), follow(0.0, peak));
        for step in 1..30 {
            let at = 0.1 * f64::from(step) / hz;
            let sum = one.at(at) + other.at(at);
            prop_assert!((both.at(at) - sum).abs() < 4e-3 * (volts.abs() + peak), "at {at}: {}, {sum}", both.at(at));
        }
    }

    /// Capacitors so many times as large take so many times as long, and do the same.
    #[test]
    fn larger_capacitors_do_the_same_more_slowly(times in 0.01f64..100.0, ohm in 10.0f64..1e5, micro in 0.1f64..100.0) {
        let tau = ohm * 1e-6 * micro;
        let (plain, scaled) = (low_pass(Wave::Constant(10.0), ohm, 1e-6 * micro), low_pass(Wave::Constant(10.0), ohm, times * 1e-6 * micro));
        let (plain, scaled) = (run(&plain, 4.0 * tau, tau).node("n"), run(&scaled, 4.0 * times * tau, times * tau).node("n"));
        for step in 1..=40 {
            let at = 0.1 * f64::from(step) * tau;
            prop_assert!((plain.at(at) - scaled.at(times * at)).abs() < 5e-3);
        }
    }

    /// Thinned for a drawing, a waveform keeps its peaks, and none is made up.
    #[test]
    fn a_thinned_waveform_keeps_its_peaks(values in prop::collection::vec(-10.0f64..10.0, 3..200), count in 1usize..40) {
        let points: Vec<(f64, f64)> = values.iter().enumerate().map(|(at, value)| (1e-3 * at as f64, *value)).collect();
        let stop = points.last().map_or(0.0, |point| point.0);
        let own = circuit(Element::Voltage(Wave::Points(points)), &[("r", ["p", "0"], Element::Resistor(100.0))]);
        let followed = run(&own, stop, 1e-3);
        let trace = followed.node("p");
        let thin = followed.thinned(&[&trace], count);
        prop_assert_eq!((thin.time_s.len(), thin.span[0].len()), (count, count));
        let (least, most) = thin.span[0].iter().fold((f64::INFINITY, f64::NEG_INFINITY), |(least, most), [a, b]| (least.min(*a), most.max(*b)));
        prop_assert!((least - trace.least()).abs() < 1e-9 && (most - trace.peak()).abs() < 1e-9, "{least} to {most}, {} to {}", trace.least(), trace.peak());
        prop_assert!(thin.span[0].iter().all(|[a, b]| a <= b));
        // Where a source says what it is, it is that.
        for (at, value) in values.iter().enumerate().skip(1) {
            prop_assert!((trace.at(1e-3 * at as f64) - value).abs() < 1e-6);
        }
    }
}

#[test]
fn what_a_resistor_takes_from_the_mains_is_that_of_its_effective_voltage() {
    let own = circuit(Element::Voltage(Wave::Sine { mean: 0.0, peak: 16.0 / FRAC_1_SQRT_2, hz: 50.0 }), &[("r", ["p", "0"], Element::Resistor(8.0))]);
    let followed = run(&own, 0.1, 0.02);
    // Twenty straight lines for each wave.
    assert!((followed.node("p").rms() / 16.0 - 1.0).abs() < 0.01, "{}", followed.node("p").rms());
    assert!((followed.power("r").mean() / 32.0 - 1.0).abs() < 0.02 && (followed.power("r").total() / 3.2 - 1.0).abs() < 0.02);
    assert!(followed.current("source").mean().abs() < 1e-3 && (followed.current("r").peak() * FRAC_1_SQRT_2 / 2.0 - 1.0).abs() < 0.015);
}

#[test]
fn a_gate_lets_a_source_through_while_it_is_open() {
    let gate = pulse(0.0, 1.0, 0.1, 0.4);
    let wave = Wave::Gated { wave: Box::new(Wave::Sine { mean: 5.0, peak: 1.0, hz: 1000.0 }), gate: Box::new(gate) };
    let own = circuit(Element::Voltage(wave), &[("r", ["p", "0"], Element::Resistor(1000.0))]);
    let seen = run(&own, 0.3, 0.1).node("p");
    for (time, volts) in seen.time_s.iter().zip(&seen.value).skip(1) {
        let within = time.rem_euclid(0.1);
        if within > 1e-5 && (within - 0.04).abs() > 1e-5 && within < 0.1 - 1e-5 {
            assert_eq!(*volts > 3.0, within < 0.04, "{volts} V at {time} s");
        }
    }
    let (period, open, _) = seen.swings(2.5, 2).expect("it swings");
    assert!((period - 0.1).abs() < 1e-4 && (open - 0.04).abs() < 1e-4, "{period} s, {open} s");
}

#[test]
fn what_is_measured_of_nothing_is_nothing() {
    let none = Trace { time_s: Vec::new(), value: Vec::new() };
    assert_eq!((none.mean(), none.rms(), none.total(), none.span_s(), none.at(1.0)), (0.0, 0.0, 0.0, 0.0, 0.0));
    assert!(none.crossings(0.5, true).is_empty() && none.swings(0.5, 3).is_none());
    let one = Trace { time_s: vec![2.0], value: vec![7.0] };
    assert_eq!((one.mean(), one.at(0.0), one.at(9.0), one.span_s()), (7.0, 7.0, 7.0, 0.0));
    let up = Trace { time_s: vec![0.0, 1.0, 2.0, 3.0], value: vec![0.0, 2.0, 0.0, 2.0] };
    assert_eq!((up.crossings(1.0, true), up.crossings(1.0, false)), (vec![0.5, 2.5], vec![1.5]));
    assert_eq!(up.swings(1.0, 5), Some((2.0, 1.0, [0.5, 2.5])));
    assert_eq!((up.from(1.5).value, up.mean(), up.total()), (vec![0.0, 2.0], 1.0, 3.0));
}
