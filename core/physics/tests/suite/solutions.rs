//! What holds of every solved point: one answer from wherever one begins, power that goes somewhere, more from a fuller source.

use orthavis_model::document::{Build, Consumer, Source};
use orthavis_physics::network::{Network, Point, Solution};
use orthavis_physics::parked::{days_to, idle_a, self_discharge_a, standing_a, switches_open};
use orthavis_testing::{case, cases, random};
use proptest::prelude::*;

/// Every case that has a balance in its first scene at its usual state.
fn balanced() -> Vec<(String, Build, Network, Point, Solution)> {
    let solved = |(name, build): (String, Build)| {
        let scene = build.scenes.first()?;
        let mut network = Network::new(&build).ok()?;
        let point = Point::of(&build, scene, build.source.usual());
        let solution = network.solve(&point, None).ok()?;
        Some((name, build, network, point, solution))
    };
    let all: Vec<_> = cases().into_iter().filter_map(solved).collect();
    assert!(all.len() > 8, "{} cases", all.len());
    all
}

fn source(network: &Network, solution: &Solution) -> [f64; 2] {
    <[f64; 2]>::from(network.source(solution))
}

#[test]
fn a_fork_begins_anew_and_comes_to_the_same() {
    for (name, build, network, point, solution) in balanced() {
        let mut fork = network.fork();
        assert_eq!(fork.unknowns(), solution.unknowns(), "{name}");
        let again = fork.solve(&point, None).unwrap_or_else(|error| panic!("{name}: {error}"));
        assert_eq!(source(&fork, &again), source(&network, &solution), "{name}");
        // Begun at the answer, it is the answer, in fewer steps.
        let steps = fork.steps();
        let warm = fork.solve(&point, Some(&solution)).unwrap_or_else(|error| panic!("{name}: {error}"));
        assert!(fork.steps() - steps <= steps, "{name}: {} steps from the answer, {steps} from nothing", fork.steps() - steps);
        for (a, b) in source(&fork, &warm).into_iter().zip(source(&network, &solution)) {
            assert!((a - b).abs() <= 1e-7 * (1.0 + b.abs()), "{name}: {a} against {b}");
        }
        // Half way between an answer and itself it is itself.
        let middle = solution.halfway(&again).expect("the same parts run");
        assert_eq!(middle.unknowns(), solution.unknowns());
        assert!(build.lights.iter().enumerate().all(|(index, _)| network.light_v(&middle, index) == network.light_v(&solution, index)), "{name}");
    }
}

#[test]
fn what_leaves_the_source_goes_somewhere() {
    for (name, build, mut network, point, solution) in balanced() {
        let (volts, amps) = network.source(&solution);
        let feeds = build.feeds();
        let flows: Vec<_> = (0..feeds.len()).map(|index| network.feed(&solution, index)).collect();
        // No feed makes power, and what comes back is what went out but for the frame's.
        assert!(flows.iter().all(|flow| flow.loss_w >= -1e-9), "{name}: a wire warms nothing");
        let (imbalance, largest) = network.balance(&point, &solution);
        assert!(imbalance <= 1e-6 * largest.max(1e-3), "{name}: {imbalance} A of {largest} A");
        // What is sent from the source itself is what leaves its terminals, less what stands there.
        let from_source: f64 = feeds.iter().zip(&flows).filter(|(feed, _)| feed.feed.from == "source").map(|(_, flow)| flow.current_a).sum();
        assert!((from_source - (amps - point.standing_a)).abs() <= 1e-6 * (1.0 + amps.abs()), "{name}: {from_source} A of {amps} A");
        // A light gets what its supply sends, less what its wires keep.
        for ((feed, flow), _) in feeds.iter().zip(&flows).zip(0..) {
            if let Consumer::Light(light) = feed.consumer {
                assert!(network.light_v(&solution, light) <= volts.max(60.0) + 1e-6, "{name} {}", feed.id);
                // Of two feeds of one light the higher may feed the other's wire backwards.
                assert!(
                    build.lights[light].feeds.len() > 1 || flow.sent_w >= flow.loss_w - 1e-6,
                    "{name} {}: sends {} W and loses {} W",
                    feed.id,
                    flow.sent_w,
                    flow.loss_w
                );
            }
        }
        for index in 0..build.converters.len() {
            let flow = network.converter(&solution, index);
            assert!(flow.in_v * flow.in_a >= flow.out_v * flow.out_a - 1e-6, "{name}: a converter makes power");
            assert!(flow.on || flow.in_a == 0.0, "{name}: what is off takes something");
        }
    }
}

#[test]
fn a_source_gives_less_voltage_the_more_resistance_it_has() {
    for (name, build, mut network, point, _) in balanced() {
        if matches!(build.source, Source::Rail(_)) {
            continue;
        }
        let mut before = f64::INFINITY;
        for factor in [0.5, 1.0, 2.0] {
            let Ok(solution) = network.solve(&Point { source_ohm: factor * point.source_ohm, ..point.clone() }, None) else { break };
            let (volts, amps) = network.source(&solution);
            assert!(volts <= before + 1e-9, "{name}: {volts} V after {before} V");
            assert!((point.emf_v - factor * point.source_ohm * amps - volts).abs() < 1e-6, "{name}");
            before = volts;
        }
    }
}

#[test]
fn a_dark_build_takes_what_it_idles_with() {
    for (name, build) in cases() {
        let Ok(idle) = idle_a(&build) else { continue };
        assert!(idle >= 0.0, "{name}: {idle} A");
        // Behind open switches nothing more idles than before.
        let rest = switches_open(&build);
        assert!(rest.converters.len() <= build.converters.len() && rest.lights.len() <= build.lights.len(), "{name}");
        let left = idle_a(&rest).unwrap_or_else(|error| panic!("{name}: {error}"));
        assert!(left <= idle + 1e-9, "{name}: {left} A behind open switches, {idle} A before");
        let again = switches_open(&rest);
        assert_eq!(again.feeds().len(), rest.feeds().len(), "{name}: opened twice is opened once");
        assert!(standing_a(&build, true) <= standing_a(&build, false), "{name}");
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 64, ..ProptestConfig::default() })]

    /// A parked battery lasts less the more is drawn, and half the way takes half the time.
    #[test]
    fn a_parked_battery_lasts_less_the_more_is_drawn(amps in 1e-4f64..2.0, more in 1.0f64..10.0, soc in 0.0f64..0.95) {
        let Source::Battery(battery) = &case("trike-arrays").source else { unreachable!("it has a battery") };
        let days = days_to(battery, amps, soc);
        prop_assert!(days > 0.0 && days_to(battery, more * amps, soc) <= days);
        prop_assert!((days_to(battery, amps, 0.5 * (1.0 + soc)) - 0.5 * days).abs() < 1e-9 * days);
        // With nothing drawn it still loses something by itself.
        prop_assert!(self_discharge_a(battery) > 0.0 && days_to(battery, 0.0, soc).is_finite());
        prop_assert!(days_to(battery, 0.0, soc) >= days);
    }

    /// What nobody wrote has one answer too, from wherever it is begun.
    #[test]
    fn an_answer_does_not_depend_on_where_one_begins(build in random::build(), share in 0.9f64..1.1) {
        let scene = &build.scenes[0];
        let mut network = Network::new(&build).expect("a network");
        let point = Point::of(&build, scene, build.source.usual());
        let other = Point { emf_v: share * point.emf_v, ..point.clone() };
        let (Ok(cold), Ok(near)) = (network.solve(&point, None), network.solve(&other, None)) else { return Ok(()) };
        if let Ok(warm) = network.solve(&point, Some(&near)) {
            let ((v1, a1), (v2, a2)) = (network.source(&cold), network.source(&warm));
            prop_assert!((v1 - v2).abs() <= 1e-6 * (1.0 + v1.abs()) && (a1 - a2).abs() <= 1e-6 * (1.0 + a1.abs()), "{v1} V {a1} A, {v2} V {a2} A");
        }
    }
}
