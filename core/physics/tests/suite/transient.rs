//! Circuits over time, against solutions in closed form.

use orthavis_physics::transient::{Bipolar, Circuit, Diode, Element, THERMAL_V, Timer, TransientError, Wave};
use proptest::prelude::*;

fn resistor(ohm: f64) -> Element {
    Element::Resistor(ohm)
}

fn constant(volts: f64) -> Element {
    Element::Voltage(Wave::Constant(volts))
}

/// Plus, through a resistor, into a capacitor that is empty.
fn rc(volts: f64, ohm: f64, farad: f64) -> Circuit {
    let mut circuit = Circuit::new();
    circuit.add("plus", &["p", "0"], constant(volts));
    circuit.add("r", &["p", "n"], resistor(ohm));
    circuit.add("c", &["n", "0"], Element::Capacitor(farad, Some(0.0)));
    circuit
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]
    #[test]
    fn a_capacitor_fills_by_the_exponential(volts in 1.0f64..60.0, ohm in 10.0f64..1e6, micro in 0.001f64..10_000.0) {
        let farad = 1e-6 * micro;
        let tau = ohm * farad;
        let circuit = rc(volts, ohm, farad);
        let run = circuit.run(5.0 * tau, tau, &|_, _| false).expect("a run");
        let held = run.node("n");
        for (time, value) in held.time_s.iter().zip(&held.value) {
            let exact = volts * (1.0 - (-time / tau).exp());
            prop_assert!((value - exact).abs() < 2e-4 * volts, "at {time}: {value}, {exact}");
        }
        // What the resistor turned into heat is what the capacitor holds, when it is full.
        let heat = run.power("r").total();
        let stored = 0.5 * farad * held.value.last().expect("one").powi(2);
        prop_assert!((heat - stored).abs() < 0.02 * stored, "{heat} J, {stored} J");
    }

    #[test]
    fn a_timer_keeps_the_periods_of_its_formula(ra in 1e3f64..1e5, rb in 1e3f64..1e5, micro in 0.1f64..100.0, volts in 5.0f64..15.0) {
        let mut circuit = Circuit::new();
        circuit.add("plus", &["p", "0"], constant(volts));
        circuit.add("ra", &["p", "dis"], resistor(ra));
        circuit.add("rb", &["dis", "thr"], resistor(rb));
        circuit.add("c", &["thr", "0"], Element::Capacitor(1e-6 * micro, Some(0.0)));
        circuit.add("t", &["p", "0", "thr", "dis", "out"], Element::Timer(Timer::BIPOLAR));
        circuit.add("load", &["out", "0"], resistor(1e4));
        let ideal = std::f64::consts::LN_2 * 1e-6 * micro;
        let (on, off) = (ideal * (ra + rb), ideal * (rb + 10.0));
        let run = circuit.run(6.0 * (on + off), on + off, &|_, _| false).expect("a run");
        let (period, on_s, _) = run.node("out").swings(0.5 * volts, 4).expect("it swings");
        // The discharge switch leaves a little of the divider.
        let left = volts * 10.0 / (ra + 10.0);
        let off = (rb + 10.0 * ra / (10.0 + ra)) * 1e-6 * micro * ((2.0 * volts / 3.0 - left) / (volts / 3.0 - left)).ln();
        prop_assert!((on_s / on - 1.0).abs() < 1e-3, "{on_s} s on, {on}");
        prop_assert!((period / (on + off) - 1.0).abs() < 1e-3, "{period} s, {}", on + off);
    }
}

#[test]
fn a_capacitor_behind_a_diode_fills_as_its_law_says() {
    // A diode into a capacitor, seen as an ODE and followed in very small steps.
    let diode = Diode { saturation_a: 1e-9, n: 1.5, rs_ohm: 0.0, breakdown_v: None };
    let mut circuit = Circuit::new();
    circuit.add("plus", &["p", "0"], constant(3.0));
    circuit.add("r", &["p", "a"], resistor(100.0));
    circuit.add("d", &["a", "n"], Element::Diode(diode));
    circuit.add("c", &["n", "0"], Element::Capacitor(1e-5, Some(0.0)));
    let run = circuit.run(0.02, 1e-3, &|_, _| false).expect("a run");
    let current = |held: f64| {
        let (mut low, mut high) = (0.0f64, 0.1f64);
        for _ in 0..60 {
            let middle = 0.5 * (low + high);
            let volts = held + 100.0 * middle + 1.5 * THERMAL_V * (middle / 1e-9 + 1.0).ln();
            if volts < 3.0 { low = middle } else { high = middle }
        }
        low
    };
    let (mut held, step) = (0.0, 1e-6);
    let mut exact = Vec::new();
    for _ in 0..20_000 {
        let half = held + 0.5 * step * current(held) / 1e-5;
        held += step * current(half) / 1e-5;
        exact.push(held);
    }
    let found = run.node("n");
    for at in [0.0005, 0.002, 0.005, 0.0199] {
        let index = (at / step) as usize - 1;
        assert!((found.at(at) - exact[index]).abs() < 2e-3, "{at} s: {} V, {}", found.at(at), exact[index]);
    }
}

#[test]
fn a_bridge_fills_its_capacitor_to_the_peak_less_two_drops_and_falls_by_the_exponential() {
    let mut circuit = Circuit::new();
    circuit.add("ac", &["a", "b"], Element::Voltage(Wave::Sine { mean: 0.0, peak: 12.0, hz: 50.0 }));
    for (name, from, to) in [("d1", "a", "p"), ("d2", "b", "p"), ("d3", "0", "a"), ("d4", "0", "b")] {
        circuit.add(name, &[from, to], Element::Diode(Diode::SILICON));
    }
    circuit.add("c", &["p", "0"], Element::Capacitor(1e-3, Some(0.0)));
    circuit.add("r", &["p", "0"], resistor(1000.0));
    let run = circuit.run(0.2, 0.02, &|_, _| false).expect("a run");
    let held = run.node("p").from(0.15);
    // Little current: each diode drops what it does at some milliamps.
    assert!(held.peak() > 10.3 && held.peak() < 11.2, "{}", held.peak());
    // Between two peaks, 10 ms apart, it falls with its time constant of a second.
    let fall = 1.0 - held.least() / held.peak();
    assert!(fall > 0.006 && fall < 0.0095, "{fall}");
}

#[test]
fn a_coil_and_a_capacitor_swing_at_their_frequency_without_losing_anything() {
    let mut circuit = Circuit::new();
    circuit.add("l", &["n", "0"], Element::Inductor(1e-3, Some(0.0)));
    circuit.add("c", &["n", "0"], Element::Capacitor(1e-6, Some(5.0)));
    let period = std::f64::consts::TAU * (1e-3f64 * 1e-6).sqrt();
    let run = circuit.run(10.0 * period, period, &|_, _| false).expect("a run");
    let (found, ..) = run.node("n").swings(0.0, 8).expect("it swings");
    assert!((found / period - 1.0).abs() < 2e-3, "{found} s, {period}");
    assert!((run.node("n").from(8.0 * period).peak() / 5.0 - 1.0).abs() < 5e-3);
    assert!((run.current("l").peak() - 5.0 * (1e-6f64 / 1e-3).sqrt()).abs() < 2e-3);
}

#[test]
fn a_transistor_amplifies_saturates_and_breaks_down_backwards() {
    let stage = |base_ohm: f64, volts: f64| {
        let mut circuit = Circuit::new();
        circuit.add("plus", &["p", "0"], constant(volts));
        circuit.add("rb", &["p", "b"], resistor(base_ohm));
        circuit.add("rc", &["p", "c"], resistor(1000.0));
        circuit.add("q", &["c", "b", "0"], Element::Bipolar(Bipolar::SMALL_NPN));
        let names = circuit.nodes.clone();
        let found = circuit.at_rest().expect("a balance");
        move |name: &str| found[names.iter().position(|known| known == name).expect("a node")]
    };
    let weak = stage(2e6, 9.0);
    let base = (9.0 - weak("b")) / 2e6;
    assert!(((9.0 - weak("c")) / 1000.0 / base - 250.0).abs() < 1.0, "gain");
    assert!(stage(1e4, 9.0)("c") < 0.1, "saturated");
    // The base pulled below the emitter conducts from seven volts on.
    let mut circuit = Circuit::new();
    circuit.add("minus", &["m", "0"], constant(-12.0));
    circuit.add("r", &["m", "b"], resistor(1000.0));
    circuit.add("q", &["c", "b", "0"], Element::Bipolar(Bipolar::SMALL_NPN));
    circuit.add("rc", &["c", "0"], resistor(1e6));
    let found = circuit.at_rest().expect("a balance");
    let b = circuit.nodes.iter().position(|name| name == "b").expect("a node");
    assert!(found[b] < -7.0 && found[b] > -7.8, "{}", found[b]);
}

#[test]
fn a_switch_with_hysteresis_closes_and_opens_at_its_thresholds_to_the_instant() {
    let mut circuit = Circuit::new();
    circuit.add("plus", &["p", "0"], constant(12.0));
    circuit.add("r", &["p", "n"], resistor(10_000.0));
    circuit.add("c", &["n", "0"], Element::Capacitor(1e-4, Some(0.0)));
    circuit.add("s", &["n", "l", "n", "0"], Element::Switch { on_v: 9.0, off_v: 7.0, on_ohm: 20.0, off_ohm: 1e9 });
    circuit.add("load", &["l", "0"], resistor(100.0));
    let run = circuit.run(3.0, 1.0, &|_, _| false).expect("a run");
    let held = run.node("n");
    assert!(held.peak() < 9.0 + 1e-6 && held.peak() > 8.999_999, "{}", held.peak());
    let first = held.crossings(9.0 - 1e-7, true)[0];
    assert!((first - (12.0f64 / 3.0).ln()).abs() < 5e-4, "{first}");
    let pulse = run.current("load").peak();
    assert!((pulse - 9.0 / 120.0).abs() < 1e-4, "{pulse}");
    // Charging goes on a little while it is closed.
    let (end, tau) = (12.0 * 120.0 / 10_120.0, 1e-4 * 120.0 * 10_000.0 / 10_120.0);
    let (rise, fall) = ((5.0f64 / 3.0).ln(), tau * ((9.0f64 - end) / (7.0 - end)).ln());
    let (period, ..) = held.swings(8.0, 3).expect("it swings");
    assert!((period - rise - fall).abs() < 5e-4 * period, "{period}, {}", rise + fall);
}

#[test]
fn waves_are_what_they_say() {
    let pulse = Wave::Pulse { low: 0.0, high: 5.0, delay_s: 1.0, edge_s: 0.1, width_s: 0.4, period_s: 1.0 };
    for (at, value) in [(0.5, 0.0), (1.05, 2.5), (1.3, 5.0), (1.55, 2.5), (1.8, 0.0), (2.3, 5.0)] {
        assert!((pulse.at(at) - value).abs() < 1e-9, "{at}");
    }
    let corners: Vec<f64> = std::iter::successors(Some(0.0), |at| Some(pulse.next_corner(*at))).take(6).collect();
    for (found, known) in corners.iter().zip([0.0, 1.0, 1.1, 1.5, 1.6, 2.0]) {
        assert!((found - known).abs() < 1e-9, "{corners:?}");
    }
    let gated = Wave::Gated { wave: Box::new(Wave::Constant(3.0)), gate: Box::new(pulse) };
    assert_eq!((gated.at(0.5), gated.at(1.3)), (0.0, 3.0));
    let points = Wave::Points(vec![(1.0, 2.0), (2.0, 4.0)]);
    assert_eq!((points.at(0.0), points.at(1.5), points.at(9.0), points.next_corner(1.0)), (2.0, 3.0, 4.0, 2.0));
}

#[test]
fn what_cannot_be_built_is_said_with_its_part() {
    let mut loose = rc(5.0, 100.0, 1e-6);
    loose.add("r2", &["x", "y"], resistor(100.0));
    assert!(matches!(loose.run(1.0, 1.0, &|_, _| false), Err(TransientError::Floating { part, .. }) if part == "r2"));
    let mut twice = rc(5.0, 100.0, 1e-6);
    twice.add("other", &["p", "0"], constant(6.0));
    assert!(matches!(twice.at_rest(), Err(TransientError::Loop { part }) if part == "other"));
    let none = rc(5.0, 0.0, 1e-6);
    let error = none.at_rest().expect_err("no resistor of nothing");
    assert!(error.to_string().contains("`r` has a resistance of 0"), "{error}");
    // What is thinned for a plot keeps its peaks.
    let circuit = rc(5.0, 100.0, 1e-6);
    let run = circuit.run(1e-3, 1e-4, &|_, _| false).expect("a run");
    let held = run.node("n");
    let thin = run.thinned(&[&held], 20);
    let most = thin.span[0].iter().map(|span| span[1]).fold(0.0, f64::max);
    assert_eq!((thin.time_s.len(), most), (20, held.peak()));
}
