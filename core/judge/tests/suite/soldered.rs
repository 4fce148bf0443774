//! Findings of small circuits change at their limits and nowhere else, and what is proposed clears them.

use orthavis_judge::findings::{Finding, Severity};
use orthavis_judge::report::report;
use orthavis_model::document::Build;
use orthavis_physics::circuits::{CircuitFigures, figures};
use orthavis_testing::changed;
use orthavis_testing::circuits::one_circuit;
use serde_json::{Value, json};

fn found(build: &Build) -> Vec<Finding> {
    report(build).expect("a steady state").findings.into_iter().filter(|finding| finding.subject == "c").collect()
}

fn severity(build: &Build, code: &str) -> Option<Severity> {
    found(build).into_iter().find(|finding| finding.code == code).map(|finding| finding.severity)
}

fn told(build: &Build) -> CircuitFigures {
    figures(build, 0, build.states()[0]).unwrap_or_else(|error| panic!("{error}"))
}

/// A finding with this code is there or not, and once there its proposals make it go away.
fn clears(build: &Build, code: &str) {
    let own = report(build).expect("a steady state");
    let card = own.cards.iter().flat_map(|card| &card.remedies).map(|remedy| (remedy.title.clone(), json!(remedy.changes))).collect::<Vec<_>>();
    assert!(!card.is_empty(), "{code}: nothing is proposed");
    let cleared = card.iter().any(|(_, changes)| severity(&changed(build, changes), code).is_none());
    assert!(cleared, "{code}: none of {:?} clears it", card.iter().map(|(title, _)| title).collect::<Vec<_>>());
}

fn with(build: &Build, field: &str, value: Value) -> Build {
    changed(build, &json!([{ "op": "add", "path": format!("/circuits/0/parts/{field}"), "value": value }]))
}

fn timer(farad: f64) -> Build {
    let parts = json!({ "ra_ohm": 1e4, "rb_ohm": 1e4, "c_f": farad, "timer": "cmos", "through": "mosfet", "base_ohm": 100, "diode": true });
    one_circuit("timer_flasher", 9.0, &parts, &["a"])
}

#[test]
fn nobody_is_shown_more_than_three_flashes_whatever_is_printed_on_the_parts() {
    // Film scatters by a tenth, an electrolytic one has a fifth less at worst; resistors a twentieth.
    for (start_f, worst) in [(4.7e-7, 0.95 * 0.9), (2.2e-5, 0.95 * 0.8)] {
        let period = told(&timer(start_f)).period_s.expect("it flashes");
        // The capacitor at which the worst case has three flashes a second.
        let limit_f = start_f / (3.0 * period * worst);
        for (share, expected) in [(0.5, Some(Severity::Stop)), (0.99, Some(Severity::Stop)), (1.01, None), (3.0, None)] {
            // Below a microfarad it is film, above it is not: the edge stays on its side.
            let build = timer(share * limit_f);
            let film = share * limit_f < 1e-6;
            if film == (worst > 0.8) {
                assert_eq!(severity(&build, "flash.fast"), expected, "{} µF, {share} of the limit", 1e6 * share * limit_f);
            }
        }
    }
    clears(&timer(1e-6), "flash.fast");
    let message = found(&timer(1e-6)).into_iter().find(|finding| finding.code == "flash.fast").expect("it is there").message;
    assert!(message.contains("seizure") && message.contains("a second"), "{message}");
}

#[test]
fn an_output_carries_what_its_kind_stands() {
    for (kind, limit_a) in [("cmos", 0.02), ("bipolar", 0.2)] {
        let build = |ohm: f64| {
            let parts = json!({ "ra_ohm": 1e5, "rb_ohm": 1e5, "c_f": 1e-5, "timer": kind, "through": "none" });
            let own = one_circuit("timer_flasher", 12.0, &parts, &["a"]);
            changed(
                &own,
                &json!([{ "op": "replace", "path": "/lights/0/load/resistor_ohm", "value": ohm }, { "op": "replace", "path": "/lights/0/load/resistor_w", "value": 50.0 }]),
            )
        };
        // Where the current is at its limit, found by halving.
        let (mut low, mut high) = (1.0f64, 5000.0f64);
        for _ in 0..40 {
            let middle = (low * high).sqrt();
            if told(&build(middle)).output_peak_a.expect("an output") > limit_a { low = middle } else { high = middle }
        }
        assert_eq!(severity(&build(0.97 * high), "circuit.output_over"), Some(Severity::Stop), "{kind} before {high} ohm");
        assert_eq!(severity(&build(1.03 * high), "circuit.output_over"), None, "{kind} before {high} ohm");
        clears(&build(0.9 * high), "circuit.output_over");
    }
}

#[test]
fn a_base_that_gets_too_little_leaves_its_transistor_half_on() {
    let build = |base: f64| one_circuit("switch", 12.0, &json!({ "base_ohm": base, "through": "npn", "logic_v": 5.0 }), &["a"]);
    let mut last = 0.0;
    for base in [220.0, 1e3, 4.7e3, 2.2e4, 1e5, 4.7e5, 1e6] {
        let drop_v = told(&build(base)).drop_v.expect("a drop");
        assert!(drop_v >= last, "{base} ohm: less base current keeps more volts");
        assert_eq!(severity(&build(base), "circuit.unsaturated").is_some(), drop_v >= 0.3, "{base} ohm: {drop_v} V");
        last = drop_v;
    }
    assert_eq!(severity(&build(1e6), "circuit.unsaturated"), Some(Severity::Fix));
    clears(&build(1e5), "circuit.unsaturated");
    // A gate needs none.
    assert!(severity(&with(&build(1e6), "through", json!("mosfet")), "circuit.unsaturated").is_none());
}

fn hold(farad: f64, charge_ohm: f64) -> Build {
    let parts = json!({ "bridge": false, "c_f": farad, "charge_ohm": charge_ohm, "c_rated_v": 25.0, "esr_ohm": 0.05, "taps_ohm": [1000.0], "tap": 1 });
    one_circuit("hold_up", 12.0, &parts, &["a"])
}

#[test]
fn a_hold_up_is_held_to_what_is_wanted_of_it() {
    let build = hold(1e-3, 100.0);
    let half_s = told(&build).taps["tap1"].half_s;
    for (share, expected) in [(0.5, None), (0.999, None), (1.001, Some(Severity::Fix)), (4.0, Some(Severity::Fix))] {
        assert_eq!(severity(&with(&build, "wanted_s", json!(share * half_s)), "holdup.short"), expected, "{share} of what it holds");
    }
    clears(&with(&build, "wanted_s", json!(3.0 * half_s)), "holdup.short");
}

#[test]
fn a_capacitor_stands_a_fifth_more_than_it_holds() {
    let build = hold(1e-3, 100.0);
    let held_v = told(&build).taps["tap1"].capacitor_v;
    let of = |share: f64| severity(&with(&build, "c_rated_v", json!(share * held_v)), "circuit.part_over");
    for (share, expected) in
        [(2.0, None), (1.201, None), (1.199, Some(Severity::Fix)), (1.001, Some(Severity::Fix)), (0.999, Some(Severity::Stop)), (0.5, Some(Severity::Stop))]
    {
        assert_eq!(of(share), expected, "rated for {share} of what it holds");
    }
    clears(&with(&build, "c_rated_v", json!(0.9 * held_v)), "circuit.part_over");
}

#[test]
fn plugging_in_takes_no_more_than_the_supply_gives() {
    let build = hold(1e-3, 2.0);
    let inrush = told(&build).taps["tap1"].inrush_a;
    assert!(inrush > 3.0, "{inrush} A through 2 ohm");
    let of = |limit: f64| changed(&build, &json!([{ "op": "replace", "path": "/source/max_current_a", "value": limit }]));
    for (share, expected) in [(2.0, None), (1.001, None), (0.999, Some(Severity::Fix)), (0.3, Some(Severity::Fix))] {
        assert_eq!(severity(&of(share * inrush), "holdup.inrush"), expected, "{share} of the inrush");
    }
    clears(&of(0.5 * inrush), "holdup.inrush");
    // A plug on the way may be the weaker one.
    let plugged = changed(
        &of(2.0 * inrush),
        &json!([{ "op": "add", "path": "/circuits/0/feed/contacts", "value": 1 }, { "op": "add", "path": "/circuits/0/feed/contact_rating_a", "value": 0.5 * inrush }]),
    );
    let message = found(&plugged).into_iter().find(|finding| finding.code == "holdup.inrush").map(|finding| finding.message);
    assert!(message.as_ref().is_some_and(|words| words.contains("its plug stands")), "{message:?}");
}

#[test]
fn a_base_breaks_down_backwards_above_seven_volts_and_not_below() {
    let pair = json!({ "r1_ohm": 1e4, "r2_ohm": 1e4, "c1_f": 1e-4, "c2_f": 1e-4 });
    for volts in [4.0, 5.0, 6.0, 7.0, 8.0, 9.0, 10.0, 12.0, 15.0] {
        let build = one_circuit("transistor_flasher", volts, &pair, &["a", "b"]);
        let least = told(&build).base_least_v.expect("two bases");
        assert_eq!(severity(&build, "circuit.reverse_base").is_some(), least < -7.0, "{volts} V: {least} V at a base");
        assert!(severity(&build, "circuit.reverse_base").is_none_or(|severity| severity == Severity::Note), "{volts} V");
        assert!(least > -8.2, "{volts} V: it breaks down at some seven, not at {least} V");
    }
}

#[test]
fn what_does_not_run_is_said_once_for_each_state_with_the_reason() {
    let parts = json!({ "ra_ohm": 1e4, "rb_ohm": 1e4, "c_f": 1e-4, "timer": "bipolar", "through": "mosfet", "base_ohm": 100 });
    for (volts, runs) in [(3.0, false), (4.4, false), (4.6, true), (9.0, true)] {
        let build = one_circuit("timer_flasher", volts, &parts, &["a"]);
        assert_eq!(severity(&build, "circuit.no_start").is_none(), runs, "{volts} V");
    }
    clears(&one_circuit("timer_flasher", 3.3, &parts, &["a"]), "circuit.no_start");
    let single = |volts: f64| one_circuit("breakdown_flasher", volts, &json!({ "r_ohm": 4700, "c_f": 4.7e-4 }), &["a"]);
    for (volts, runs) in [(8.0, false), (8.9, false), (11.0, true)] {
        assert_eq!(severity(&single(volts), "circuit.no_start").is_none(), runs, "{volts} V");
    }
}
