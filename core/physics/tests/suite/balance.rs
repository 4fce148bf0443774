//! What holds of every circuit at every moment, on circuits that nobody drew.

use orthavis_physics::transient::{Bipolar, Circuit, Diode, Element, Run, Timer, Wave};
use proptest::prelude::*;

/// A part by its kind, and where it hangs.
#[derive(Clone, Debug)]
enum Drawn {
    Resistor(f64),
    Diode(f64),
    Transistor(bool),
    Current(f64),
    Switch,
}

fn drawn() -> impl Strategy<Value = Drawn> {
    prop_oneof![
        4 => (1.0f64..5.0).prop_map(|decade| Drawn::Resistor(10f64.powf(decade))),
        2 => prop_oneof![Just(0.0), 0.05f64..20.0].prop_map(Drawn::Diode),
        1 => any::<bool>().prop_map(Drawn::Transistor),
        1 => (-0.01f64..0.01).prop_map(Drawn::Current),
        1 => Just(Drawn::Switch),
    ]
}

/// A supply, a resistor from every node to minus, and parts between them.
fn circuit_of(volts: f64, nodes: usize, parts: &[(Drawn, [usize; 3])]) -> Circuit {
    let name = |node: usize| if node == 0 { "0".to_owned() } else { format!("n{node}") };
    let mut circuit = Circuit::new();
    circuit.add("plus", &["supply", "0"], Element::Voltage(Wave::Constant(volts)));
    circuit.add("wires", &["supply", "n1"], Element::Resistor(0.1));
    for node in 1..=nodes {
        circuit.add(&format!("to_minus{node}"), &[&name(node), "0"], Element::Resistor(4700.0 * node as f64));
    }
    for (number, (drawn, places)) in parts.iter().enumerate() {
        let [a, b, c] = places.map(|place| name(place % (nodes + 1)));
        if a == b || (matches!(drawn, Drawn::Transistor(_) | Drawn::Switch) && (b == c || a == c)) {
            continue;
        }
        let part = format!("part{number}");
        match drawn {
            Drawn::Resistor(ohm) => circuit.add(&part, &[&a, &b], Element::Resistor(*ohm)),
            Drawn::Diode(rs_ohm) => circuit.add(&part, &[&a, &b], Element::Diode(Diode { rs_ohm: *rs_ohm, ..Diode::SILICON })),
            Drawn::Transistor(npn) => circuit.add(&part, &[&a, &b, &c], Element::Bipolar(Bipolar { npn: *npn, ..Bipolar::SMALL_NPN })),
            Drawn::Current(amps) => circuit.add(&part, &[&a, &b], Element::Current(Wave::Constant(*amps))),
            // Its threshold is out of reach: it stays as it is, and what it is must add up.
            Drawn::Switch => circuit.add(&part, &[&a, &b, &c, "0"], Element::Switch { on_v: 1e3, off_v: -1e3, on_ohm: 1.0, off_ohm: 1e5 }),
        }
    }
    circuit
}

/// What leaves every node at a moment, the largest current there, and the largest within any transistor, A.
fn leaving(run: &Run<'_>, moment: usize) -> (Vec<(f64, f64)>, f64) {
    let mut sums = vec![(0.0, 0.0f64); run.circuit.nodes.len()];
    let mut within: f64 = 0.0;
    let mut add = |node: usize, amps: f64| {
        let (sum, most) = sums[node];
        sums[node] = (sum + amps, most.max(amps.abs()));
    };
    for part in &run.circuit.parts {
        let amps = run.current(&part.name).value[moment];
        match part.element {
            Element::Bipolar(_) => {
                let base = run.base(&part.name).value[moment];
                add(part.nodes[0], amps);
                add(part.nodes[1], base);
                add(part.nodes[2], -amps - base);
                within = within.max(amps.abs()).max(base.abs());
            }
            // What a source gives enters at its first node.
            Element::Voltage(_) | Element::Current(_) => {
                add(part.nodes[0], -amps);
                add(part.nodes[1], amps);
            }
            _ => {
                add(part.nodes[0], amps);
                add(part.nodes[1], -amps);
            }
        }
    }
    (sums, within)
}

fn held(run: &Run<'_>, moment: usize, (share, least_a): (f64, f64), free: &[usize]) -> Result<(), TestCaseError> {
    let (sums, within) = leaving(run, moment);
    for (node, (sum, most)) in sums.into_iter().enumerate().skip(1) {
        if !free.contains(&node) {
            // What breaks down with amperes is what two of them differ by.
            prop_assert!(sum.abs() <= share * most + least_a + 1e-5 * within, "{}: {sum:e} A are left over of {most:e} A", run.circuit.nodes[node]);
        }
    }
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(120))]
    #[test]
    fn what_enters_a_node_leaves_it_at_rest(
        volts in 1.0f64..15.0,
        nodes in 1usize..6,
        parts in prop::collection::vec((drawn(), prop::array::uniform3(0usize..8)), 0..9),
    ) {
        let circuit = circuit_of(volts, nodes, &parts);
        let run = circuit.run(1e-9, 1e-3, &|_, _| true).map_err(|error| TestCaseError::fail(error.to_string()))?;
        held(&run, 0, (1e-5, 1e-9), &[])?;
    }

    #[test]
    fn what_enters_a_node_leaves_it_while_a_capacitor_fills(
        volts in 1.0f64..15.0,
        nodes in 2usize..6,
        parts in prop::collection::vec((drawn(), prop::array::uniform3(0usize..8)), 0..7),
        place in 1usize..6,
    ) {
        let mut circuit = circuit_of(volts, nodes, &parts);
        let node = format!("n{}", 1 + place % nodes);
        circuit.add("c", &[&node, "0"], Element::Capacitor(1e-6, Some(0.0)));
        let free = [circuit.node(&node)];
        let run = circuit.run(2e-3, 1e-4, &|_, _| false).map_err(|error| TestCaseError::fail(error.to_string()))?;
        for moment in (1..run.time_s.len()).step_by(1 + run.time_s.len() / 30) {
            // A step's last correction is not looked at again, and a saturated transistor's current is what two large ones differ by.
            held(&run, moment, (2e-2, 2e-6), &free)?;
        }
        // It began empty, and what is over it never jumps.
        let over = run.node(&node);
        prop_assert!(over.value[0].abs() < 1e-2 * volts + 1e-3, "{} V at the beginning", over.value[0]);
    }

    #[test]
    fn a_resistor_beside_a_diode_counts_alike_with_and_without_a_node_of_its_own(
        volts in 2.5f64..12.0, before in 10.0f64..2e3, after in 10.0f64..2e3, rs in 0.0f64..10.0, micro in 0.1f64..100.0,
    ) {
        let led = Diode { saturation_a: 1e-18, n: 2.0, rs_ohm: rs, breakdown_v: None };
        let build = |watched: bool| {
            let mut circuit = Circuit::new();
            circuit.add("plus", &["p", "0"], Element::Voltage(Wave::Constant(volts)));
            circuit.add("before", &["p", "a"], Element::Resistor(before));
            circuit.add("led", &["a", "k"], Element::Diode(led));
            circuit.add("after", &["k", "n"], Element::Resistor(after));
            circuit.add("c", &["n", "0"], Element::Capacitor(1e-6 * micro, Some(0.0)));
            if watched {
                // A probe at either side: its nodes are no longer the diode's alone.
                for node in ["a", "k"] {
                    circuit.add(&format!("probe_{node}"), &[node, "0"], Element::Resistor(1e12));
                }
            }
            circuit
        };
        let (plain, probed) = (build(false), build(true));
        let tau = 1e-6 * micro * (before + after);
        let (plain, probed) = (plain.run(3.0 * tau, tau, &|_, _| false).expect("a run"), probed.run(3.0 * tau, tau, &|_, _| false).expect("a run"));
        for node in ["a", "k", "n"] {
            let (one, other) = (plain.node(node), probed.node(node));
            for share in [0.01, 0.1, 0.5, 1.0, 2.0, 2.9] {
                let (a, b) = (one.at(share * tau), other.at(share * tau));
                prop_assert!((a - b).abs() < 2e-3 * volts, "{node} at {share} time constants: {a} and {b} V");
            }
        }
        for part in ["before", "led", "after"] {
            let (one, other) = (plain.current(part).value[1], probed.current(part).value[1]);
            prop_assert!((one - other).abs() < 1e-4 * other.abs() + 1e-11, "{part}: {one} and {other} A");
        }
    }
}

#[test]
fn what_a_timer_sets_off_changes_at_the_same_instant() {
    let mut circuit = Circuit::new();
    circuit.add("plus", &["p", "0"], Element::Voltage(Wave::Constant(9.0)));
    circuit.add("ra", &["p", "dis"], Element::Resistor(1e4));
    circuit.add("rb", &["dis", "thr"], Element::Resistor(1e4));
    circuit.add("c", &["thr", "0"], Element::Capacitor(1e-6, Some(0.0)));
    circuit.add("t", &["p", "0", "thr", "dis", "out"], Element::Timer(Timer::CMOS));
    circuit.add("gate", &["l", "0", "out", "0"], Element::Switch { on_v: 3.0, off_v: 2.5, on_ohm: 0.05, off_ohm: 1e9 });
    circuit.add("light", &["p", "l"], Element::Resistor(470.0));
    circuit.add("idle", &["out", "0"], Element::Resistor(1e6));
    let run = circuit.run(0.1, 0.02, &|_, _| false).expect("a run");
    let (out, light) = (run.node("out").crossings(4.5, true), run.current("light").crossings(0.005, true));
    assert!(out.len() > 3 && light.len() >= out.len(), "{} and {}", out.len(), light.len());
    for at in &out {
        let off = light.iter().map(|other| (other - at).abs()).fold(f64::INFINITY, f64::min);
        assert!(off < 1e-9, "the light follows {off} s later");
    }
}

#[test]
fn a_timer_takes_its_current_only_where_there_is_a_supply() {
    let takes = |volts: f64| {
        let mut circuit = Circuit::new();
        circuit.add("plus", &["s", "0"], Element::Voltage(Wave::Constant(volts)));
        circuit.add("wires", &["s", "p"], Element::Resistor(10.0));
        circuit.add("held", &["thr", "0"], Element::Resistor(1e3));
        circuit.add("dis", &["dis", "0"], Element::Resistor(1e6));
        circuit.add("t", &["p", "0", "thr", "dis", "out"], Element::Timer(Timer::BIPOLAR));
        circuit.add("idle", &["out", "0"], Element::Resistor(1e9));
        let run = circuit.run(1e-9, 1e-3, &|_, _| true).expect("a run");
        run.current("plus").value[0]
    };
    assert!((takes(9.0) - Timer::BIPOLAR.idle_a).abs() < 1e-6, "{}", takes(9.0));
    // Half a volt wakes nobody.
    assert!(takes(0.5).abs() < 0.5 * Timer::BIPOLAR.idle_a + 1e-6, "{}", takes(0.5));
    assert!(takes(0.0).abs() < 1e-9);
}

#[test]
fn a_circuit_in_which_raising_the_sources_leads_nowhere_has_its_balance() {
    let parts = [
        (Drawn::Transistor(true), [0, 3, 2]),
        (Drawn::Current(-0.001_303_022_097_178_603_3), [0, 3, 0]),
        (Drawn::Transistor(false), [5, 6, 3]),
        (Drawn::Diode(0.0), [3, 4, 0]),
    ];
    let circuit = circuit_of(3.585_746_629_177_530_4, 3, &parts);
    let run = circuit.run(1e-9, 1e-3, &|_, _| true).unwrap_or_else(|error| panic!("{error}"));
    let (sums, within) = leaving(&run, 0);
    for (node, (sum, most)) in sums.into_iter().enumerate().skip(1) {
        assert!(sum.abs() <= 1e-5 * most + 1e-9 + 1e-5 * within, "{}: {sum:e} A are left over", run.circuit.nodes[node]);
    }
}

/// What is dimmed by pulses draws all of it while it is on; wires and fuses carry that, the battery gives the mean.
#[test]
fn what_is_dimmed_by_pulses_has_a_peak() {
    let mut build = orthavis_testing::case("eight-metres-one-end");
    let scene = build.scenes[0].id.clone();
    let full = orthavis_physics::points::points(&build).expect("solved");
    let light = build.lights[0].id.clone();
    build.scenes[0].lights.get_mut(&light).expect("lit").level = 0.5;
    let half = orthavis_physics::points::points(&build).expect("solved");
    for (full, half) in full.iter().zip(&half).filter(|(point, _)| point.scene == scene) {
        assert!(full.pulse.is_none(), "nothing is dimmed");
        let pulse = half.pulse.as_ref().expect("a pulse");
        assert!((pulse.feeds[&light].current_a - full.feeds[&light].current_a).abs() < 1e-9, "all of it while it is on");
        assert!(half.source.current_a < 0.6 * pulse.source.current_a, "the mean is some half of it");
    }
}
