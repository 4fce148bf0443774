//! Standard parts for what is wanted: what is proposed is standard, gives what it says, and is near what was asked.

use orthavis_model::document::{Build, CircuitParts};
use orthavis_model::laws::resistor::Series;
use orthavis_model::states::State;
use orthavis_physics::circuits::{ChooseError, Wanted, choose, figures, formulas, tolerances};
use orthavis_testing::circuits::one_circuit as build;
use serde_json::json;
use std::time::Instant;

fn timer(volts: f64) -> Build {
    build("timer_flasher", volts, &json!({ "ra_ohm": 1e4, "rb_ohm": 1e4, "c_f": 1e-5, "timer": "cmos", "through": "npn", "base_ohm": 1000 }), &["a"])
}

fn pair(volts: f64) -> Build {
    build("transistor_flasher", volts, &json!({ "r1_ohm": 1e4, "r2_ohm": 1e4, "c1_f": 1e-5, "c2_f": 1e-5 }), &["a", "b"])
}

fn gauge(volts: f64) -> Build {
    let led = |vf: f64| json!({ "vf_v": vf, "if_a": 0.02, "if_max_a": 0.03 });
    build("battery_gauge", volts, &json!({ "rs_ohm": 220, "rb_ohm": 1000, "rc_ohm": 470, "led_good": led(2.1), "led_low": led(1.9) }), &[])
}

#[test]
fn what_is_chosen_gives_what_was_wanted() {
    let flash = |period: f64, duty: f64| Wanted { period_s: Some(period), duty: Some(duty), ..Wanted::default() };
    let hold = build("hold_up", 12.0, &json!({ "c_f": 1e-3, "charge_ohm": 22, "taps_ohm": [470, 470, 470], "tap": 1 }), &["a"]);
    let single = build("breakdown_flasher", 12.0, &json!({ "r_ohm": 4700, "c_f": 1e-4 }), &["a"]);
    let cases: Vec<(Build, Wanted, f64)> = vec![
        (timer(9.0), flash(1.0, 0.5), 0.03),
        (timer(9.0), flash(0.5, 0.2), 0.03),
        (timer(12.0), flash(30.0, 0.9), 0.05),
        (timer(5.0), flash(0.8, 0.667), 0.03),
        (pair(5.0), flash(1.0, 0.5), 0.04),
        (pair(6.0), flash(2.0, 0.3), 0.05),
        (pair(12.0), flash(0.8, 0.5), 0.08),
        (single, flash(0.8, 0.5), 0.05),
        (hold, Wanted { half_s: Some(1.5), ..Wanted::default() }, 0.6),
        (gauge(4.2), Wanted { low_below_v: Some(3.2), good_above_v: Some(3.7), ..Wanted::default() }, 0.04),
        (gauge(8.4), Wanted { low_below_v: Some(6.4), good_above_v: Some(7.2), ..Wanted::default() }, 0.04),
    ];
    let mut longest = 0.0_f64;
    for (build, wanted, most) in cases {
        let kind = build.circuits[0].kind();
        let begun = Instant::now();
        let found = choose(&build, 0, &wanted).unwrap_or_else(|error| panic!("{kind:?}: {error}"));
        println!("{kind:?} {:.1} ms", 1e3 * begun.elapsed().as_secs_f64());
        longest = longest.max(begun.elapsed().as_secs_f64());
        let first = found.first().unwrap_or_else(|| panic!("{kind:?} {wanted:?}: nothing"));
        assert!(first.off < most, "{kind:?} {wanted:?}: {} is off by {}", first.title, first.off);
        for choice in &found {
            let parts = &choice.parts;
            let ohms = match parts {
                CircuitParts::TimerFlasher(own) => vec![own.ra_ohm, own.rb_ohm],
                CircuitParts::TransistorFlasher(own) => vec![own.r1_ohm, own.r2_ohm],
                CircuitParts::BreakdownFlasher(own) => vec![own.r_ohm],
                CircuitParts::BatteryGauge(own) => vec![own.rs_ohm, own.rb_ohm, own.rc_ohm],
                CircuitParts::Switch(own) => vec![own.base_ohm],
                CircuitParts::HoldUp(_) => Vec::new(),
            };
            for ohm in ohms {
                assert!(!Series::E24.between(0.9999 * ohm, 1.0001 * ohm).is_empty(), "{ohm} Ω is not to be had");
            }
            for farad in parts.capacitors() {
                assert!(!Series::E6.between(0.9999 * farad, 1.0001 * farad).is_empty(), "{farad} F is not to be had");
            }
            // What is told is what these parts do.
            let mut own = build.clone();
            own.circuits[0].parts = parts.clone();
            assert_eq!(choice.states[0].figures.as_ref(), figures(&own, 0, State::Rail).ok().as_ref(), "{}", choice.title);
        }
    }
    println!("a choice takes {:.1} ms at most", 1e3 * longest);
    // Ten times what it takes: a busy machine may not fail it, a search that grew by a power will.
    assert!(longest < 0.6, "{longest} s");
}

#[test]
fn a_wish_out_of_reach_is_refused_by_its_field() {
    let cases: [(Build, Wanted, &str, &str); 4] = [
        (timer(9.0), Wanted::default(), "period_s", "nothing is given"),
        (timer(9.0), Wanted { period_s: Some(1e6), ..Wanted::default() }, "period_s", "out of reach"),
        (pair(9.0), Wanted { period_s: Some(1.0), duty: Some(1.5), ..Wanted::default() }, "duty", "out of reach"),
        (gauge(4.2), Wanted { low_below_v: Some(3.5), good_above_v: Some(3.0), ..Wanted::default() }, "good_above_v", "out of reach"),
    ];
    for (build, wanted, field, problem) in cases {
        match choose(&build, 0, &wanted) {
            Err(ChooseError::Wanted { field: named, problem: said, remedy }) => {
                assert_eq!(named, field);
                assert!(said.contains(problem) && remedy.starts_with("Give"), "{said} {remedy}");
            }
            other => panic!("{field}: {other:?}"),
        }
    }
}

#[test]
fn tolerances_stand_on_both_sides_and_formulas_are_near() {
    for build in [timer(9.0), pair(5.0)] {
        let found = figures(&build, 0, State::Rail).expect("runs");
        for spread in tolerances(&build, 0, State::Rail) {
            let nominal = if spread.figure == "period_s" { found.period_s } else { found.duty }.expect("a flasher");
            assert!(spread.least < nominal && nominal < spread.most, "{}: {} {nominal} {}", spread.figure, spread.least, spread.most);
        }
        // An electrolytic capacitor may have half as much again, resistors a twentieth.
        let period = &tolerances(&build, 0, State::Rail)[0];
        let share = (period.least / found.period_s.expect("a period"), period.most / found.period_s.expect("a period"));
        assert!((share.0 - 0.76).abs() < 0.03 && (share.1 - 1.575).abs() < 0.04, "{share:?}");
        for formula in formulas(&build, 0, State::Rail, &found) {
            assert!((formula.value / formula.simulated - 1.0).abs() < 0.3, "{}: {} {}", formula.called, formula.value, formula.simulated);
        }
    }
}
