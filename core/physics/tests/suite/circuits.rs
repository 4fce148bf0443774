//! Small circuits by their laws: closed forms, and what must rise or fall with what.

use orthavis_model::document::{Build, CircuitKind, parse_value};
use orthavis_model::states::State;
use orthavis_physics::circuits::{CircuitFigures, LIT_A, Simulation, Wanted, figures, flashing, formulas, output_limit_a, stand_in, wishes};
use orthavis_physics::network::{Network, Point};
use orthavis_physics::transient::Accuracy;
use proptest::prelude::*;
use serde_json::{Value, json};
use std::f64::consts::LN_2;

fn feed(from: &str) -> Value {
    json!({ "from": from, "length_m": 0.1, "gauge": { "mm2": 0.5 } })
}

fn light(id: &str, ohm: f64) -> Value {
    json!({ "id": id, "feeds": [feed("c")], "load": { "kind": "led_array", "series": 1, "parallel": 1, "resistor_ohm": ohm, "resistor_w": 0.25,
        "led": { "colour": "red", "vf_v": 2.0, "if_a": 0.02, "if_max_a": 0.03 } } })
}

fn build(kind: &str, volts: f64, parts: &Value, lights: &[&str]) -> Build {
    let all: Vec<Value> = lights.iter().map(|id| light(id, 470.0)).collect();
    let scene: serde_json::Map<String, Value> = lights.iter().map(|id| ((*id).to_owned(), json!({}))).collect();
    let document = json!({
        "format": "orthavis.build/1", "name": "one circuit", "vehicle": { "kind": "other", "mass_kg": 1.0 },
        "source": { "kind": "rail", "voltage_v": volts, "resistance_ohm": 0.001, "max_current_a": 2.0 },
        "circuits": [{ "id": "c", "kind": kind, "feed": feed("source"), "drives": lights, "parts": parts }],
        "lights": all, "scenes": [{ "id": "on", "lights": scene }]
    });
    parse_value(&document).unwrap_or_else(|error| panic!("{kind}: {error}"))
}

fn told(build: &Build) -> CircuitFigures {
    figures(build, 0, State::Rail).unwrap_or_else(|error| panic!("{error}"))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(25))]
    #[test]
    fn a_cmos_timer_keeps_its_formula_at_any_voltage(ra in 2e3f64..2e5, rb in 2e3f64..2e5, micro in 0.1f64..100.0, volts in 4.0f64..14.0) {
        let parts = json!({ "ra_ohm": ra, "rb_ohm": rb, "c_f": 1e-6 * micro, "timer": "cmos", "through": "mosfet", "base_ohm": 100 });
        let found = told(&build("timer_flasher", volts, &parts, &["a"]));
        let (period, duty) = (LN_2 * 1e-6 * micro * (ra + 2.0 * rb), (ra + rb) / (ra + 2.0 * rb));
        prop_assert!((found.period_s.expect("a period") / period - 1.0).abs() < 0.01);
        prop_assert!((found.duty.expect("a duty") - duty).abs() < 0.01);
        let (mean, peak) = (found.supply_mean_a.expect("a mean"), found.supply_peak_a.expect("a peak"));
        prop_assert!(mean > 0.0 && mean < peak);
    }

    #[test]
    fn a_diode_across_the_lower_resistor_takes_it_out_of_the_time_on(ra in 5e3f64..1e5, rb in 5e3f64..1e5) {
        let parts = |diode: bool| json!({ "ra_ohm": ra, "rb_ohm": rb, "c_f": 1e-5, "timer": "cmos", "diode": diode });
        let (with, without) = (told(&build("timer_flasher", 12.0, &parts(true), &["a"])), told(&build("timer_flasher", 12.0, &parts(false), &["a"])));
        prop_assert!(with.on_s.expect("on") < without.on_s.expect("on"));
        let off = |found: &CircuitFigures| found.period_s.expect("a period") - found.on_s.expect("on");
        prop_assert!((off(&with) / off(&without) - 1.0).abs() < 0.02, "the diode blocks while it empties");
    }

    #[test]
    fn a_breakdown_flasher_waits_by_its_formula(ohm in 2e3f64..2e4, micro in 50.0f64..1000.0, volts in 11.0f64..15.0) {
        let found = told(&build("breakdown_flasher", volts, &json!({ "r_ohm": ohm, "c_f": 1e-6 * micro }), &["a"]));
        let waits = ohm * 1e-6 * micro * ((volts - 7.0) / (volts - 9.0)).ln();
        let off = found.period_s.expect("a period") - found.on_s.expect("on");
        prop_assert!((off / waits - 1.0).abs() < 0.01, "{off}, {waits}");
        prop_assert!(found.light_peak_a.expect("a pulse") < 7.0 / 470.0 + 1e-3);
    }

    #[test]
    fn a_hold_up_carries_longer_with_more_of_either(micro in 100.0f64..2000.0, tap in 300.0f64..3000.0, volts in 9.0f64..18.0) {
        let parts = |micro: f64| json!({ "c_f": 1e-6 * micro, "charge_ohm": 22, "taps_ohm": [tap, tap, tap], "tap": 1 });
        let (small, large) = (told(&build("hold_up", volts, &parts(micro), &["a"])), told(&build("hold_up", volts, &parts(2.0 * micro), &["a"])));
        let half = |found: &CircuitFigures, name: &str| found.taps[name].half_s;
        prop_assert!(half(&small, "tap1") < half(&small, "tap2") && half(&small, "tap2") < half(&small, "tap3"));
        prop_assert!((half(&large, "tap1") / half(&small, "tap1") - 2.0).abs() < 0.02, "twice the capacitor, twice the time");
        prop_assert!(small.taps["tap1"].tenth_s > half(&small, "tap1") && small.taps["tap1"].light_a > small.taps["tap2"].light_a);
        prop_assert!((small.taps["tap1"].inrush_a - volts / 22.1).abs() < 0.02 * volts / 22.0);
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]
    /// However unequal its halves are: where a capacitor does not fill again in the time of the other half, it flashes faster
    /// than its formula says and is not called dead.
    #[test]
    fn two_transistors_swing_however_unequal_their_halves_are(decades in -1.6f64..1.6, r1 in 3e3f64..5e4, r2 in 3e3f64..5e4, volts in 4.0f64..14.0) {
        let (c1, c2) = (1e-5 * 10f64.powf(-0.5 * decades), 1e-5 * 10f64.powf(0.5 * decades));
        let build = build("transistor_flasher", volts, &json!({ "r1_ohm": r1, "r2_ohm": r2, "c1_f": c1, "c2_f": c2 }), &["a", "b"]);
        let found = told(&build);
        let (period, on, formula) = (found.period_s.expect("a period"), found.on_s.expect("on"), LN_2 * (r1 * c1 + r2 * c2));
        prop_assert!(period > 0.01 * formula && period < 1.1 * formula, "{period} s of {formula} s");
        prop_assert!(on > 0.0 && on < period);
        if decades.abs() > 0.5 {
            return Ok(());
        }
        // As closely as it is asked for while a value is dragged.
        let sketch = Simulation::of(&build, 0, State::Rail).to(Accuracy::Sketch).figures().unwrap_or_else(|error| panic!("{error}"));
        let off = |of: fn(&CircuitFigures) -> Option<f64>| (of(&sketch).expect("a figure") / of(&found).expect("a figure") - 1.0).abs();
        prop_assert!(off(|found| found.period_s) < 0.1, "{:?} s in the sketch, {period} s", sketch.period_s);
        prop_assert!(off(|found| found.supply_mean_a) < 0.1);
    }

    /// Twice the supply's patience changes nothing: what is measured over three flashes is measured over any of them.
    #[test]
    fn a_flasher_that_is_followed_longer_says_the_same(flashes in 4u32..9, micro in 1.0f64..100.0, volts in 5.0f64..14.0, kind in 0usize..3) {
        let c = 1e-6 * micro;
        let build = match kind {
            0 => build("timer_flasher", volts, &json!({ "ra_ohm": 1e4, "rb_ohm": 3.3e4, "c_f": c, "timer": "cmos" }), &["a"]),
            1 => build("transistor_flasher", volts, &json!({ "r1_ohm": 1e4, "r2_ohm": 2.2e4, "c1_f": c, "c2_f": c }), &["a", "b"]),
            _ => build("breakdown_flasher", 9.5 + 0.4 * volts, &json!({ "r_ohm": 4700, "c_f": 10.0 * c }), &["a"]),
        };
        let (short, long) = (told(&build), Simulation::of(&build, 0, State::Rail).over(Some(flashes)).figures().unwrap_or_else(|error| panic!("{error}")));
        for (name, of) in [("period", (|found| found.period_s) as fn(&CircuitFigures) -> Option<f64>), ("on", |found| found.on_s), ("mean", |found| found.supply_mean_a)] {
            let (one, other) = (of(&short).expect("a figure"), of(&long).expect("a figure"));
            prop_assert!((one / other - 1.0).abs() < 0.01, "{name}: {one}, {other}");
        }
    }
}

/// The tail lamp of a bicycle whose one capacitor is a thirtieth of the other: its collector never gets half way up.
#[test]
fn a_flasher_whose_capacitor_stays_half_empty_is_not_called_dead() {
    let parts = json!({ "r1_ohm": 3300, "r2_ohm": 3600, "c1_f": 1e-5, "c2_f": 3.3e-4 });
    let formula = LN_2 * (3300.0 * 1e-5 + 3600.0 * 3.3e-4);
    for (volts, says) in [(6.0, "does not fill again"), (12.0, "breaks down")] {
        let build = build("transistor_flasher", volts, &parts, &["a"]);
        let found = told(&build);
        let period = found.period_s.expect("a period");
        assert!(period > 0.01 && period < 0.9 * formula, "{period} s of {formula} s on {volts} V");
        let why = formulas(&build, 0, State::Rail, &found)[0].why;
        assert!(why.contains(says), "on {volts} V: {why}");
    }
    let build = build("transistor_flasher", 12.0, &parts, &["a"]);
    let waves = Simulation::of(&build, 0, State::Rail).spice("tail").unwrap_or_else(|error| panic!("{error}"));
    assert!(waves.contains(".meas tran period_s"), "its netlist is there too");
}

#[test]
fn a_gauge_turns_over_from_low_to_good() {
    let led = |vf: f64| json!({ "colour": "any", "vf_v": vf, "if_a": 0.02, "if_max_a": 0.03 });
    let parts = |diodes: u32| json!({ "rs_ohm": 220, "rb_ohm": 1000, "rc_ohm": 470, "diodes": diodes, "led_good": led(2.0), "led_low": led(2.0) });
    let turns = |diodes: u32| {
        let found = told(&build("battery_gauge", 9.0, &parts(diodes), &[]));
        let lit: Vec<&str> = found.bands.iter().map(|band| band.lit).collect();
        assert!(lit.contains(&"low") && lit.last() == Some(&"good"), "{lit:?}");
        for pair in found.bands.windows(2) {
            assert!(pair[1].from_v > pair[0].to_v && pair[1].from_v - pair[0].to_v < 0.011, "no voltage is left out");
        }
        found.bands.last().expect("a band").from_v
    };
    let plain = turns(0);
    let shifted = turns(2);
    // Two silicon diodes at little current: about half a volt each.
    assert!(shifted - plain > 0.7 && shifted - plain < 1.6, "{plain} V, {shifted} V");
}

/// Every ten millivolts by themselves: no band of a gauge is missed, however narrow.
#[test]
fn a_gauge_shows_its_narrow_bands() {
    let led = |vf: f64| json!({ "colour": "any", "vf_v": vf, "if_a": 0.02, "if_max_a": 0.03 });
    let mut narrow = 0;
    for (rs, rb, rc, diodes, good_v, low_v) in [
        (220, 1000, 470, 0, 2.0, 2.0),
        (220, 150, 4700, 0, 2.0, 1.8),
        (100, 100, 22_000, 1, 2.0, 2.9),
        (220, 1000, 470, 0, 2.0, 2.5),
        (220, 1000, 470, 0, 2.0, 2.6),
        (220, 1000, 470, 0, 2.0, 2.65),
    ] {
        let parts = json!({ "rs_ohm": rs, "rb_ohm": rb, "rc_ohm": rc, "diodes": diodes, "led_good": led(good_v), "led_low": led(low_v) });
        let at = |volts: f64| build("battery_gauge", volts, &parts, &[]);
        let found = told(&at(9.0)).bands;
        for step in 180..=900 {
            let volts = f64::from(step) / 100.0;
            let one = at(volts);
            let shop = Simulation::of(&one, 0, State::Rail);
            let run = shop.circuit().rest().expect("rests");
            let [good, low] = ["led_good", "led_low"].map(|name| run.current(name).value[0]);
            // A thousandth of an ampere-limit from the edge the supply's own milliohm decides.
            if [good, low].iter().any(|amps| (amps / LIT_A - 1.0).abs() < 0.02) {
                continue;
            }
            let lit = match (good >= LIT_A, low >= LIT_A) {
                (false, false) => "none",
                (false, true) => "low",
                (true, true) => "good+low",
                (true, false) => "good",
            };
            let band = found.iter().find(|band| band.from_v - 0.001 <= volts && volts <= band.to_v + 0.001).unwrap_or_else(|| panic!("{volts} V in {found:?}"));
            assert_eq!(band.lit, lit, "{volts} V of {parts}: {found:?}");
        }
        narrow += usize::from(found.iter().any(|band| band.to_v - band.from_v < 0.1 && band.from_v > 1.8));
    }
    assert!(narrow > 0, "none of them has a narrow band");
}

/// Very unequal halves repeat only after some periods: what is said is what they come to.
#[test]
fn two_very_unequal_halves_are_followed_until_they_repeat() {
    for (c1, c2) in [(1e-5, 3.3e-4), (2.2e-4, 1e-5), (1e-6, 1e-4), (4.7e-5, 1e-5)] {
        let build = build("transistor_flasher", 6.0, &json!({ "r1_ohm": 6800, "r2_ohm": 4700, "c1_f": c1, "c2_f": c2 }), &["a", "b"]);
        let long = Simulation::of(&build, 0, State::Rail).over(Some(30)).figures().unwrap_or_else(|error| panic!("{error}"));
        let short = told(&build);
        for (one, other) in [(short.period_s, long.period_s), (short.on_s, long.on_s), (short.supply_mean_a, long.supply_mean_a)] {
            let (one, other) = (one.expect("a figure"), other.expect("a figure"));
            assert!((one / other - 1.0).abs() < 0.01, "{c1} F, {c2} F: {one}, followed longer {other}");
        }
    }
}

#[test]
fn a_switch_is_saturated_or_not_by_its_base() {
    let with = |ohm: f64, through: &str| told(&build("switch", 12.0, &json!({ "through": through, "base_ohm": ohm, "logic_v": 3.3 }), &["a"]));
    let (good, weak, gate) = (with(1000.0, "npn"), with(200_000.0, "npn"), with(100.0, "mosfet"));
    assert_eq!((good.saturated, weak.saturated, gate.saturated), (Some(true), Some(false), Some(true)));
    assert!(weak.heat_w > good.heat_w && gate.drop_v < good.drop_v);
    assert!((good.pin_a.expect("a pin") - 2.6 / 1000.0).abs() < 1e-4, "{:?}", good.pin_a);
    assert!(gate.pwm_hz > good.pwm_hz, "a small gate is quicker than a saturated base");
}

#[test]
fn what_stands_in_the_network_draws_and_drops_what_the_circuit_does() {
    let parts = json!({ "ra_ohm": 22000, "rb_ohm": 47000, "c_f": 1e-5, "timer": "bipolar" });
    let timer = build("timer_flasher", 9.0, &parts, &["a"]);
    let part = stand_in(&timer, &timer.circuits[0]);
    assert!((part.dropout_v().expect("it drops"), output_limit_a(&timer.circuits[0])) == (1.5, 0.2) && part.idle_a > 0.004 && part.idle_a < 0.005, "{part:?}");
    // Its light, solved in the network while it is on, is the light in the simulation.
    let mut network = Network::new(&timer).expect("a network");
    let point = Point::of(&timer, &timer.scenes[0], State::Rail);
    let solution = network.solve(&point, None).expect("solved");
    let on: f64 = network.taps(&solution, 0, &point.lights[0]).map(|tap| tap.current_a).sum();
    let simulated = told(&timer).light_peak_a.expect("a light");
    assert!((on / simulated - 1.0).abs() < 0.05, "{on} A, {simulated} A");
    // Means are taken over the share of the time that it is on.
    let share = flashing(&timer).scenes[0].lights["a"].duty;
    assert!((share - 69.0 / 116.0).abs() < 0.01, "{share}");
    let steady = build("switch", 12.0, &json!({ "base_ohm": 1000 }), &["a"]);
    assert_eq!(flashing(&steady).scenes[0].lights["a"].duty, 1.0);
    // Two transistors take turns.
    let turns = build("transistor_flasher", 5.0, &json!({ "r1_ohm": 22000, "r2_ohm": 44000, "c1_f": 1e-5, "c2_f": 1e-5 }), &["a", "b"]);
    let shares = flashing(&turns);
    let (a, b) = (shares.scenes[0].lights["a"].duty, shares.scenes[0].lights["b"].duty);
    assert!((a + b - 1.0).abs() < 1e-9 && a > b, "{a}, {b}: the larger resistor holds the first one on");
}

#[test]
fn its_netlist_and_its_waveforms_say_the_same_names() {
    let parts = json!({ "ra_ohm": 22000, "rb_ohm": 47000, "c_f": 1e-5, "timer": "cmos" });
    let timer = build("timer_flasher", 9.0, &parts, &["a"]);
    let workshop = Simulation::of(&timer, 0, State::Rail);
    let text = workshop.spice("a timer").expect("a netlist");
    for name in [".meas tran period_s", ".meas tran on_s", ".meas tran duty", ".meas tran supply_mean_a", ".tran ", ".ic v(thr)=0"] {
        assert!(text.contains(name), "{name}: {text}");
    }
    let run = workshop.run().expect("a run");
    let names: Vec<String> = workshop.shown(&run).into_iter().map(|(name, _)| name).collect();
    assert!(names.contains(&"thr_v".to_owned()) && names.contains(&"light1_a".to_owned()) && names.last() == Some(&"supply_a".to_owned()), "{names:?}");
    let held = run.node("thr");
    let after = held.from(run.node("out").crossings(3.6, true)[0]);
    assert!(after.peak() < 6.001 && after.least() > 2.999, "between a third and two thirds of nine volts");
}

#[test]
fn a_hold_up_on_a_dirty_track_keeps_what_its_curve_says_at_the_end_of_a_gap() {
    let on = |wave: &str, every: f64, length: f64| {
        let mut build = build("hold_up", 14.0, &json!({ "bridge": true, "c_f": 1e-3, "charge_ohm": 22, "taps_ohm": [470, 470], "tap": 2 }), &["a"]);
        let source = json!({ "kind": "track", "wave": wave, "frequency_hz": 50.0, "voltage_v": 14.0, "max_current_a": 1.0, "gaps": { "every_s": every, "length_s": length } });
        build.source = serde_json::from_value::<Value>(source)
            .map(|source| {
                let mut document = build.to_value();
                document["source"] = source;
                parse_value(&document).expect("a track").source
            })
            .expect("json");
        let found = figures(&build, 0, State::Track).unwrap_or_else(|error| panic!("{error}"));
        found.taps["tap2"].clone()
    };
    let track = |every: f64, length: f64| on("digital", every, length);
    // An alternating track fills it nearly to its peak, through the same bridge.
    let (digital, alternating) = (track(10.0, 0.2), on("ac", 10.0, 0.2));
    let peaks = alternating.capacitor_v / digital.capacitor_v;
    assert!((1.25..1.45).contains(&peaks), "{peaks} of what a square wave gives");
    assert!(alternating.light_a > digital.light_a && alternating.gap_share.is_some_and(|share| (0.5..1.0).contains(&share)), "{alternating:?}");
    // At half of its time half of the light is left, where there is time to fill it again in between.
    let half = track(10.0, 0.2).half_s;
    let share = track(10.0, half).gap_share.expect("gaps");
    assert!((share - 0.5).abs() < 0.01, "{share}");
    let (short, long) = (track(10.0, 0.05).gap_share.expect("gaps"), track(10.0, 0.4).gap_share.expect("gaps"));
    assert!(long < short && short < 1.0, "{short}, {long}");
    // Gaps that follow each other at once leave less each time.
    let hurried = track(0.21, 0.2).gap_share.expect("gaps");
    assert!(hurried < 0.9 * track(10.0, 0.2).gap_share.expect("gaps"), "{hurried}");
}

/// What is asked of a person is what a wish takes, and every circuit that is wished for with what it begins with is found.
#[test]
fn what_is_asked_for_a_circuit_is_what_a_wish_takes() {
    for (_, kind) in CircuitKind::WORDS {
        let asked: serde_json::Map<String, Value> = wishes(*kind).iter().map(|wish| (wish.field.to_owned(), json!(wish.begins.unwrap_or(3.0)))).collect();
        let wanted: Wanted = serde_json::from_value(Value::Object(asked.clone())).unwrap_or_else(|error| panic!("{kind:?}: {error}"));
        assert_eq!(wishes(*kind).iter().filter(|wish| wish.label.is_empty() || wish.unit.is_empty()).count(), 0, "{kind:?}");
        let figures = [wanted.period_s, wanted.duty, wanted.half_s, wanted.low_below_v, wanted.good_above_v];
        assert_eq!(figures.into_iter().flatten().count(), asked.len(), "{kind:?}");
        assert_eq!(wishes(*kind).iter().any(|wish| wish.field == "period_s"), kind.flashes(), "{kind:?}");
    }
}

/// What its output carries follows from what carries the lights.
#[test]
fn what_carries_the_lights_decides_what_the_output_stands() {
    let timer = |through: &str| json!({ "ra_ohm": 1e4, "rb_ohm": 1e4, "c_f": 1e-5, "timer": "cmos", "through": through, "base_ohm": 1000 });
    let limit = |kind: &str, parts: Value| output_limit_a(&build(kind, 9.0, &parts, &["a"]).circuits[0]);
    let (own, npn, gate) = (limit("timer_flasher", timer("none")), limit("timer_flasher", timer("npn")), limit("timer_flasher", timer("mosfet")));
    assert!(own < npn && npn < gate && gate.is_infinite(), "{own} {npn} {gate}");
    assert_eq!(limit("switch", json!({ "base_ohm": 1000, "through": "npn" })), npn);
    assert!(limit("switch", json!({ "base_ohm": 100, "through": "mosfet" })).is_infinite());
    assert!(limit("hold_up", json!({ "charge_ohm": 22, "c_f": 1e-3 })).is_infinite());
}
