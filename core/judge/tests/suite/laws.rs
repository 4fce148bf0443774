//! Laws that hold for every build: Kirchhoff, conservation of energy, monotony, and that order means nothing.

use orthavis_judge::report::report;
use orthavis_model::document::{Build, Gauge, Load, Source, parse};
use orthavis_model::laws::wire::COPPER_OHM_M;
use orthavis_physics::network::{Network, Point};
use orthavis_physics::points::PointReport;
use orthavis_testing::case;
use orthavis_testing::random::build;
use proptest::prelude::*;

/// What the source gives is what the lights take and what turns into heat; rails are the rest inside a light.
fn unaccounted_w(build: &Build, point: &PointReport) -> f64 {
    let given = point.source.terminal_v * (point.source.current_a - build.standing_a());
    let wires: f64 = point.feeds.values().map(|feed| feed.loss_w).sum();
    let converters: f64 = point.converters.values().map(|converter| converter.loss_w).sum();
    let lights: f64 = point.lights.values().map(|light| light.power_w).sum();
    given - wires - converters - lights
}

fn without_rails(build: &Build) -> bool {
    build.lights.iter().all(|light| matches!(light.load, Load::LedArray(_) | Load::Module(_)))
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 128, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn currents_balance_at_every_node(build in build()) {
        let mut network = Network::new(&build).expect("a network");
        for state in build.states() {
            let point = Point::of(&build, &build.scenes[0], state);
            // A build without a steady state gives an error and no figures; that is not this law's concern.
            if let Ok(solution) = network.solve(&point, None) {
                let (imbalance, largest) = network.balance(&point, &solution);
                prop_assert!(imbalance <= 1e-9 + 1e-6 * largest, "{imbalance} of {largest}");
            }
        }
    }

    #[test]
    fn power_in_is_power_out_and_heat(build in build()) {
        if let Ok(report) = report(&build) {
            for point in &report.points {
                let rest = unaccounted_w(&build, point);
                let scale = 1e-6 * (1.0 + point.source.terminal_v * point.source.current_a);
                // Rails only ever lose.
                prop_assert!(rest >= -scale, "{rest} W appear from nowhere");
                if without_rails(&build) {
                    prop_assert!(rest <= scale, "{rest} W vanish");
                }
            }
        }
    }

    #[test]
    fn the_order_of_parts_means_nothing(build in build(), turn in 1usize..5) {
        let mut turned = build.clone();
        let turn = turn % turned.lights.len();
        turned.lights.rotate_left(turn);
        turned.converters.reverse();
        match (report(&build), report(&turned)) {
            (Ok(a), Ok(b)) => {
                for (p, q) in a.points.iter().zip(&b.points) {
                    for (id, light) in &p.lights {
                        let other = &q.lights[id];
                        prop_assert!((light.voltage_v - other.voltage_v).abs() <= 1e-7 * (1.0 + light.voltage_v.abs()), "{id}");
                        prop_assert!((light.current_a - other.current_a).abs() <= 1e-7 * (1.0 + light.current_a.abs()), "{id}");
                    }
                }
                let codes = |r: &orthavis_judge::report::Report| r.findings.iter().map(|f| (f.code, f.subject.clone(), f.severity)).collect::<Vec<_>>();
                prop_assert_eq!(codes(&a), codes(&b));
            }
            (a, b) => prop_assert_eq!(a.is_ok(), b.is_ok()),
        }
    }

    #[test]
    fn more_load_never_raises_the_voltage_at_a_light(build in build(), more in 1.05..2.0f64) {
        let mut heavier = build.clone();
        // A light that only draws more with more voltage, on the same supply.
        for light in &mut heavier.lights {
            if let Load::LedArray(array) = &mut light.load {
                array.parallel = (f64::from(array.parallel) * more).ceil() as u32;
            }
        }
        if let (Ok(a), Ok(b)) = (report(&build), report(&heavier)) {
            for (p, q) in a.points.iter().zip(&b.points) {
                for (id, light) in &p.lights {
                    prop_assert!(q.lights[id].voltage_v <= light.voltage_v + 1e-7 * (1.0 + light.voltage_v), "{id}");
                }
            }
        }
    }

    #[test]
    fn the_same_copper_gives_the_same_figures(awg in 6i32..=30, bundled in 1u32..9) {
        let metric = Gauge::Mm2(Gauge::Awg(awg).area_mm2());
        prop_assert!((metric.ohm(3.0) / Gauge::Awg(awg).ohm(3.0) - 1.0).abs() < 1e-12);
        prop_assert_eq!(metric.ampacity_a(bundled), Gauge::Awg(awg).ampacity_a(bundled));
        let area = Gauge::Awg(awg).area().get::<uom::si::area::square_meter>();
        prop_assert!((Gauge::Awg(awg).ohm(3.0) - COPPER_OHM_M * 3.0 / area).abs() < 1e-12);
    }

    #[test]
    fn what_is_printed_reads_back(build in build()) {
        prop_assert_eq!(parse(&build.print()).expect("its own print"), build);
    }
}

/// More brightness never lengthens the light, a bigger battery never shortens it.
#[test]
fn endurance_follows_brightness_and_capacity() {
    for name in ["trike-arrays", "van-strips", "deck-pixels", "chair-24v"] {
        let mut last = f64::INFINITY;
        for step in 1..=5 {
            let mut build = case(name);
            for lit in build.scenes.iter_mut().flat_map(|scene| scene.lights.values_mut()) {
                lit.level = 0.2 * f64::from(step);
            }
            let hours = report(&build).expect(name).endurance[0].hours.expect("it draws");
            assert!(hours < last, "{name}: {hours} h at {} %", 20 * step);
            last = hours;
        }
        let mut last = 0.0;
        for capacity in [5.0, 10.0, 20.0, 40.0] {
            let mut build = case(name);
            let Source::Battery(battery) = &mut build.source else { panic!("a battery") };
            battery.capacity_ah = capacity;
            let hours = report(&build).expect(name).endurance[0].hours.expect("it draws");
            assert!(hours > last, "{name}: {hours} h from {capacity} Ah");
            last = hours;
        }
    }
}
