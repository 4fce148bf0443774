//! What the lights cost the battery: against the independently solved endurance, against hand sums, and by law.

use orthavis_drain::audit::{AuditReport, audit};
use orthavis_drain::discharge::{Event, discharge};
use orthavis_drain::what_if::{DIALS, WhatIf, what_if};
use orthavis_drain::{Drain, drain};
use orthavis_judge::report::report;
use orthavis_model::demo;
use orthavis_model::document::{Build, Gain, Source, parse, parse_value};
use orthavis_model::laws::conditions::{capacity_factor, conditioned, resistance_factor};
use orthavis_model::working::Fact;
use orthavis_testing::{case, file};
use proptest::prelude::*;
use serde_json::{Value, json};

const CASES: [&str; 5] = ["boost-and-driver", "chair-24v", "deck-pixels", "trike-arrays", "van-strips"];

fn sample(name: &str) -> Build {
    demo::BUILDS.iter().map(|text| parse(text).expect("sound")).find(|build| build.name == name).expect("a sample build")
}

fn value(facts: &[Fact], key: &str) -> f64 {
    facts.iter().find(|fact| fact.key == key).unwrap_or_else(|| panic!("no {key}")).value
}

fn close(got: f64, want: f64, share: f64) {
    assert!((got - want).abs() <= share * want.abs() + 1e-9, "got {got}, want {want}");
}

#[test]
fn the_discharge_reaches_its_end_when_the_independent_solver_says() {
    for name in CASES {
        let build = case(name);
        let expected: Value = serde_json::from_str(&file(&format!("cases/{name}.expected.json"))).expect("expected figures");
        for scene in expected["endurance"].as_array().expect("endurance") {
            let id = scene["scene"].as_str().expect("a scene");
            let curve = discharge(&build, id).expect("a solution").expect("a battery");
            let Some(hours) = scene["hours"].as_f64() else {
                assert!(curve.moments.is_empty(), "{name} {id}");
                continue;
            };
            let event = if scene["ends"] == "dark" { Event::Dark } else { Event::Reserve };
            let mark = curve.marks.iter().find(|mark| mark.event == event);
            match mark {
                Some(mark) => close(mark.at_h, hours, 0.02),
                // Dark from the start: there is no moment at which it becomes so.
                None => assert!(hours < 1e-6, "{name} {id}: no {event:?} in {:?}", curve.marks),
            }
            assert!(curve.moments.windows(2).all(|pair| pair[0].at_h < pair[1].at_h && pair[0].soc > pair[1].soc), "{name} {id}");
        }
    }
}

#[test]
fn without_cold_or_age_the_drain_has_the_reports_hours() {
    for name in CASES {
        let build = case(name);
        let (report, drain) = (report(&build).expect("solved"), drain(&build).expect("solved"));
        for (endurance, scene) in report.endurance.iter().zip(&drain.scenes) {
            match endurance.hours {
                Some(hours) => close(value(&scene.facts, "hours"), hours, 1e-9),
                None => assert!(scene.facts.iter().all(|fact| fact.key != "hours")),
            }
        }
    }
}

#[test]
fn a_cold_old_lead_battery_by_hand() {
    let mut build = case("chair-24v");
    build.usage.temperature_c = Some(5.0);
    build.usage.capacity_left = Some(0.8);
    let Source::Battery(new) = &build.source else { panic!("a battery") };
    let there = conditioned(&build);
    let Source::Battery(old) = &there.source else { panic!("a battery") };
    // Half-way between 0.83 and 0.92, and a fifth lost to age; 1.3 times by cold and 1.5 times by age.
    close(old.capacity_ah, new.capacity_ah * 0.875 * 0.8, 1e-9);
    close(old.pack_ohm(), new.pack_ohm() * 1.3 * 1.5, 1e-9);
    close(old.capacity_ah / old.rated_hours, new.capacity_ah / new.rated_hours, 1e-9);
    assert_eq!(conditioned(&case("chair-24v")), case("chair-24v"), "nothing said changes nothing");
}

#[test]
fn a_parked_chair_by_hand() {
    // 12 mA for the drive controller, 2.5 % … of the lights' own idle is none; 3 % a month by itself.
    let mut build = sample("Choir singer's chair");
    build.usage.temperature_c = None;
    let parked = drain(&build).expect("solved").parked;
    let as_is = &parked.iter().find(|way| way.way == "as_is").expect("a way").facts;
    close(value(as_is, "background_a"), 0.012, 1e-6);
    let self_a = 50.0 * 0.03 / (24.0 * 30.4);
    close(value(as_is, "reserve_days"), 50.0 * 0.5 / (0.012 + self_a) / 24.0, 1e-6);
    close(value(as_is, "harm_days"), 50.0 * 0.8 / (0.012 + self_a) / 24.0, 1e-6);
    let disconnected = &parked.iter().find(|way| way.way == "disconnected").expect("a way").facts;
    assert_eq!(value(disconnected, "background_a"), 0.0);
    assert!(value(disconnected, "reserve_days") > 300.0);
    let forgotten = &parked.iter().find(|way| way.way == "forgotten").expect("a way").facts;
    assert!(value(forgotten, "reserve_days") < 10.0);
}

#[test]
fn an_open_switch_silences_what_hangs_behind_it() {
    let mut build = sample("Camp rover");
    let converter = build.converters.first_mut().expect("a converter");
    converter.idle_a = 0.02;
    converter.feed.switch = Some(orthavis_model::document::Switch::of(5.0));
    let way = |drain: &Drain, name: &str| value(&drain.parked.iter().find(|way| way.way == name).expect("a way").facts, "background_a");
    let drain = drain(&build).expect("solved");
    assert!(way(&drain, "as_is") >= 0.02, "{}", way(&drain, "as_is"));
    assert!(way(&drain, "switched_off") <= way(&drain, "as_is") - 0.02 + 1e-6);
}

#[test]
fn position_lights_cost_seconds_of_flight() {
    let build = sample("Owl-count hexacopter");
    let drain = drain(&build).expect("solved");
    let hover = build.vehicle.hover.as_ref().expect("hover");
    let lights_w =
        drain.scenes.iter().map(|scene| (scene.minutes, value(&scene.facts, "mean_w"))).fold((0.0, 0.0), |a, b| if b.0 > a.0 { b } else { a }).1 / 0.88;
    let grams = value(&drain.mass, "added_g");
    let energy_j = hover.power_w * hover.minutes * 60.0;
    let carried_w = hover.power_w * (1.0 + 0.001 * grams / build.vehicle.mass_kg).powf(1.5);
    close(value(&drain.motion, "flight_lost_s"), energy_j / hover.power_w - energy_j / (carried_w + lights_w), 1e-6);
    assert!(value(&drain.motion, "flight_lost_mass_s") > 0.0 && value(&drain.motion, "flight_lost_power_s") > 0.0);
    assert_eq!(drain.headline[0].key, "flight_lost_s");
    assert!(discharge(&build, "transit").expect("a solution").is_none(), "a rail has no charge to follow");
}

#[test]
fn lights_shorten_the_way_a_little() {
    let drain = drain(&sample("Book-delivery trike")).expect("solved");
    let (lost, range) = (value(&drain.motion, "range_lost_km"), value(&drain.motion, "range_km"));
    assert!(lost > 0.0 && lost < 0.2 * range, "{lost} km of {range} km");
    close(value(&drain.motion, "travel_lost_min"), 60.0 * lost / 15.0, 1e-9);
}

/// Eleven bulbs of a van, by hand at the battery's half-charge voltage: filaments by their exponent, drivers by power.
#[test]
fn eleven_bulbs_before_and_after() {
    let mut build = sample("Travelling puppet stage");
    let none = audit(&build).expect("solved").expect("an audit");
    assert_eq!(build.audit.as_ref().expect("an audit").bulbs.iter().map(|bulb| bulb.count).sum::<u32>(), 11);
    assert!(none.ways.is_empty(), "nothing is replaced yet");
    for (line, bulb) in none.lines.iter().zip(&mut build.audit.as_mut().expect("an audit").bulbs) {
        let safe = line.candidates.iter().find(|candidate| candidate.notes.iter().all(|note| !note.starts_with("stands")));
        bulb.replacement = Some(safe.unwrap_or(&line.candidates[0]).part.clone());
    }
    let report = audit(&build).expect("solved").expect("an audit");
    let volts = 4.0 * 3.26;
    for (line, rated_w) in report.lines.iter().zip([10.0, 20.0, 10.0, 5.0]) {
        // The battery sags by some hundredths of a volt under the whole load.
        close(line.before_a.value, rated_w / 12.0 * (volts / 12.0f64).powf(0.55), 0.01);
        assert!(line.after_a.as_ref().expect("replaced").value < 0.3 * line.before_a.value, "{}", line.name);
    }
    let outcome = |report: &AuditReport, key: &str| {
        let of = report.outcomes.iter().find(|outcome| outcome.key == key).expect("an outcome");
        [&of.before, &of.after].map(|fact| fact.as_ref().map(|fact| fact.value))
    };
    let by_hand: f64 = report.lines.iter().map(|line| line.before_ah).sum::<f64>() + 24.0 * 0.15;
    close(outcome(&report, "day_ah")[0].expect("a day"), by_hand, 1e-9);
    let [Some(before), Some(after)] = outcome(&report, "nights") else { panic!("an end to the nights") };
    assert!(after > 1.5 * before, "{before} to {after}");
    let [less, more] = &report.ways[..] else { panic!("two ways") };
    close(value(&more.facts, "extra_ah"), 100.0 * (after / before - 1.0), 1e-9);
    assert!(value(&less.facts, "cost_eur") < value(&more.facts, "cost_eur"));
    // With the sun high enough the nights have no end, and a larger battery is not asked for.
    build.usage.gain = Some(Gain { hours_per_day: 8.0, current_a: 8.0 });
    let sunny = audit(&build).expect("solved").expect("an audit");
    assert_eq!((outcome(&sunny, "nights")[1], sunny.ways.len()), (None, 1));
    let rest = report.cases.iter().find(|case| case.case == "disconnected").expect("a case");
    close(rest.before_a.value, 0.1, 1e-9);
}

#[test]
fn an_audit_that_names_no_bulb_is_refused() {
    for (bulb, pointer) in [
        (json!({ "id": "a", "part": "bulb-of-glass", "count": 1 }), "/audit/bulbs/0/part"),
        (json!({ "id": "a", "part": "bulb-wedge-5w", "count": 1, "usual": 2 }), "/audit/bulbs/0/usual"),
        (json!({ "id": "a", "part": "bulb-wedge-5w", "count": 1, "replacement": "ebike-36v-14ah" }), "/audit/bulbs/0/replacement"),
    ] {
        let mut value = sample("Travelling puppet stage").to_value();
        value["audit"]["bulbs"] = json!([bulb]);
        let error = parse_value(&value).expect_err("refused");
        assert!(error.faults.iter().any(|fault| fault.pointer == pointer), "{error}");
    }
}

#[test]
fn what_is_tried_can_be_taken_over() {
    let build = sample("Book-delivery trike");
    let change = WhatIf { brightness_factor: 0.5, capacity_factor: 2.0, temperature_c: 0.0, hours_factor: 1.5 };
    assert_eq!(change.check(&build), Ok(()));
    let tried = what_if(&build, "ride", &change).expect("solved");
    let mut value = build.to_value();
    json_patch::patch(&mut value, &tried.changes).expect("fits");
    let taken = parse_value(&value).expect("sound");
    assert_eq!(taken, change.apply(&build));
    let hours = tried.pairs.iter().find(|pair| pair.plan.as_ref().is_some_and(|fact| fact.key == "hours")).expect("hours");
    close(hours.changed.as_ref().expect("a figure").value, self::value(&drain(&taken).expect("solved").scenes[0].facts, "hours"), 1e-9);
    let same = what_if(&build, "ride", &WhatIf { brightness_factor: 1.0, capacity_factor: 1.0, temperature_c: 25.0, hours_factor: 1.0 }).expect("solved");
    assert!(same.changes.0.is_empty(), "{}", same.changes);
}

#[test]
fn charging_voltage_is_held_against_every_light() {
    let van = drain(&sample("Travelling puppet stage")).expect("solved").charging.expect("rechargeable");
    assert!(!van.lights_may_run);
    let spot = van.lights.iter().find(|light| light.id == "spot-left").expect("a spot");
    assert!(!spot.faults.is_empty() && spot.charging_v > spot.full_v && spot.charging_output > spot.full_output);
    // 85 Ah at 20 A and 99 %, and the tail; four fifths of them when the battery is old.
    close(value(&van.facts, "recharge_h"), 85.0 / (20.0 * 0.99) + 0.3, 1e-9);
    let mut old = sample("Travelling puppet stage");
    old.usage.capacity_left = Some(0.8);
    let old = drain(&old).expect("solved").charging.expect("rechargeable");
    close(value(&old.facts, "recharge_h"), 0.8 * 85.0 / (20.0 * 0.99) + 0.3, 1e-9);
}

#[test]
fn each_vehicle_is_told_first_what_its_person_asks() {
    for (name, first, days) in [
        ("Travelling puppet stage", "nights", "Nights away on one charge"),
        ("Owl-count hexacopter", "flight_lost_s", ""),
        ("Choir singer's chair", "outing_share", "Days on one charge"),
        ("Book-delivery trike", "outing_share", "Days on one charge"),
        ("Camp rover", "outing_share", "Days on one charge"),
    ] {
        let drain = drain(&sample(name)).expect("solved");
        assert_eq!(drain.headline[0].key, first, "{name}");
        assert!((2..=4).contains(&drain.headline.len()), "{name}: a glance, not a list");
        let label = drain.day.iter().find(|fact| fact.key == "nights").map_or("", |fact| fact.label);
        assert_eq!(label, days, "{name}");
    }
}

#[test]
fn the_charging_rhythm_in_words() {
    for (name, outings, minutes, words) in [
        ("Book-delivery trike", 5.0, 40.0, "Charge it every 9 weeks"),
        ("Book-delivery trike", 7.0, 900.0, "Charge it every 12 days"),
        ("Book-delivery trike", 7.0, 11_000.0, "Charge it every day"),
        ("Book-delivery trike", 1.0, 20_000.0, "does not last an outing"),
        ("Choir singer's chair", 6.0, 30.0, "after every outing"),
    ] {
        let mut build = sample(name);
        build.usage.outings_per_week = outings;
        let scene = build.scenes[0].id.clone();
        build.usage.minutes = [(scene, minutes)].into();
        let said = drain(&build).expect("solved").rhythm;
        assert!(said.contains(words), "{name}, {outings} times {minutes} min: {said}");
    }
    let mut sunny = sample("Travelling puppet stage");
    sunny.usage.gain = Some(Gain { hours_per_day: 6.0, current_a: 10.0 });
    let drain = drain(&sunny).expect("solved");
    assert!(drain.rhythm.contains("need not be charged"), "{}", drain.rhythm);
    assert!(drain.day.iter().all(|fact| fact.key != "nights"), "no end is not a figure");
}

#[test]
fn a_day_by_hand() {
    let build = sample("Travelling puppet stage");
    let drain = drain(&build).expect("solved");
    // One outing a day; the standing loads and the idle converter for the hours without light; 2 % a month by itself.
    let outing: f64 = drain.scenes.iter().map(|scene| scene.minutes / 60.0 * value(&scene.facts, "mean_a")).sum();
    let lit_h: f64 = drain.scenes.iter().map(|scene| scene.minutes / 60.0).sum();
    let self_ah = 100.0 * 0.02 / 30.4;
    let need = outing + (0.15 + 0.03) * (24.0 - lit_h) + self_ah;
    close(value(&drain.day, "day_ah"), need, 1e-6);
    close(value(&drain.day, "gain_ah"), 1.0 * 1.5 * 0.99, 1e-9);
    let share: f64 = drain.scenes.iter().map(|scene| value(&scene.facts, "share")).sum();
    close(value(&drain.outing, "outing_share"), share, 1e-9);
    let fast = (share * 85.0 - outing).max(0.0);
    close(value(&drain.day, "nights"), 85.0 / (need + fast - 1.485), 1e-6);
    let of_all: f64 = drain.scenes.iter().map(|scene| value(&scene.facts, "of_all")).sum();
    close(of_all, share * (1.0 - value(&drain.conditions, "reserve")), 1e-9);
}

#[test]
fn a_reading_is_held_against_the_computed_current() {
    let mut build = sample("Travelling puppet stage");
    let computed = audit(&build).expect("solved").expect("an audit").cases[0].before_a.value;
    for (measured, words) in
        [(computed, "agrees"), (1.08 * computed, "agrees"), (1.5 * computed, "something draws that is not listed"), (0.5 * computed, "a bulb is out")]
    {
        build.audit.as_mut().expect("an audit").measured.usual_a = Some(measured);
        let remark = audit(&build).expect("solved").expect("an audit").cases[0].remark.clone().expect("a remark");
        assert!(remark.contains(words), "{measured} A of {computed} A: {remark}");
    }
}

/// Measured before and after, the ratio, and the hours with Peukert's law beside those without.
#[test]
fn what_was_measured_after_stands_beside_what_is_computed() {
    let mut build = sample("Travelling puppet stage");
    let first = audit(&build).expect("solved").expect("an audit").cases.swap_remove(0);
    let (now, then) = (first.before_a.value, first.after_a.value);
    assert!((first.ratio.expect("something is drawn") - then / now).abs() < 1e-12, "computed until it is measured");
    let own = build.audit.as_mut().expect("an audit");
    (own.measured.usual_a, own.measured_after.usual_a) = (Some(2.0 * now), Some(0.5 * now));
    let report = audit(&build).expect("solved").expect("an audit");
    let case = &report.cases[0];
    assert_eq!((case.measured_after_a, case.ratio), (Some(0.5 * now), Some(0.25)));
    assert!(case.remark.as_ref().is_some_and(|remark| remark.contains("afterwards")), "{:?}", case.remark);
    for (law, even) in [("usual_h", "usual_even_h"), ("all_h", "all_even_h")] {
        let of = |key: &str| report.outcomes.iter().find(|outcome| outcome.key == key).and_then(|outcome| outcome.before.as_ref()).expect("hours").value;
        assert!(of(law) <= of(even) && of(law) > 0.5 * of(even), "{law}: {} h of {} h", of(law), of(even));
    }
    assert_eq!(parse_value(&build.to_value()).expect("sound"), build);
}

#[test]
fn replacements_fit_the_holder_and_say_what_to_mind() {
    let report = audit(&sample("Travelling puppet stage")).expect("solved").expect("an audit");
    let line = |id: &str| report.lines.iter().find(|line| line.id == id).expect("a line");
    for line in &report.lines {
        assert!(!line.candidates.is_empty(), "{}", line.id);
        let brightness: Vec<f64> = line.candidates.iter().map(|candidate| candidate.brightness.ln().abs()).collect();
        let safe = line.candidates.iter().take_while(|candidate| candidate.notes.iter().all(|note| !note.starts_with("stands"))).count();
        assert!(brightness[..safe].is_sorted() && brightness[safe..].is_sorted(), "{}", line.id);
    }
    assert!(line("steps").candidates.iter().any(|candidate| candidate.notes.iter().any(|note| note.contains("one way round"))));
    // 14.6 V while charging is more than this wedge lamp stands.
    assert!(line("steps").candidates.iter().any(|candidate| candidate.notes.iter().any(|note| note.contains("not straight on it"))));
    assert!(line("stage-spots").candidates.iter().any(|candidate| candidate.notes.iter().any(|note| note == "clearly dimmer")));
}

#[test]
fn a_blinking_light_counts_with_its_duty() {
    let mut build = sample("Choir singer's chair");
    build.usage.temperature_c = None;
    let mean = |build: &Build| value(&drain(build).expect("solved").scenes[0].facts, "mean_w");
    let steady = mean(&build);
    for id in ["rear-left", "rear-right", "path"] {
        build.scenes[0].lights.get_mut(id).expect("a light").duty = 0.25;
    }
    // Hardly anything is lost on the way, so that the parts add up.
    close(mean(&build), 0.25 * steady, 0.01);
    let curve = discharge(&build, &build.scenes[0].id).expect("a solution").expect("a battery");
    close(curve.moments[0].current_a, 0.012 + 0.25 * steady / curve.moments[0].terminal_v, 0.02);
}

#[test]
fn a_converter_that_drops_out_is_marked_and_then_its_light_fades() {
    // A linear regulator set close to the voltage of a battery that falls past it.
    let mut build = case("trike-arrays");
    let converter = build.converters.first_mut().expect("a converter");
    converter.min_in_v = 5.0;
    converter.conversion = orthavis_model::document::Conversion::linear(33.0, 2.0);
    let id = converter.id.clone();
    for light in &mut build.lights {
        if let orthavis_model::document::Load::LedArray(array) = &mut light.load {
            array.resistor_ohm = (33.0 - f64::from(array.series) * array.led.vf_v) / array.led.if_a;
        }
    }
    let scene = build.scenes[0].id.clone();
    let curve = discharge(&build, &scene).expect("a solution").expect("a battery");
    let at = |event: Event| curve.marks.iter().find(|mark| mark.event == event);
    let drop = at(Event::DropOut).expect("a drop-out");
    assert_eq!(drop.subject.as_deref(), Some(id.as_str()));
    assert!(drop.at_h < at(Event::Empty).or(at(Event::CutOff)).expect("an end").at_h);
    let (first, last) = (&curve.moments[0], curve.moments.last().expect("moments"));
    assert!(last.outputs[0] < 0.95 * first.outputs[0], "{} to {}", first.outputs[0], last.outputs[0]);
}

/// Hours of the first scene of a build.
fn hours(build: &Build) -> f64 {
    let drain = drain(build).expect("solved");
    value(&drain.scenes[0].facts, "hours")
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    #[test]
    fn more_brightness_never_lengthens_the_light(index in 0usize..CASES.len(), low in 0.2..1.0f64) {
        let plan = case(CASES[index]);
        let dimmed = WhatIf { brightness_factor: low, capacity_factor: 1.0, temperature_c: 25.0, hours_factor: 1.0 }.apply(&plan);
        prop_assert!(hours(&plan) <= hours(&dimmed) * (1.0 + 1e-3), "{}", CASES[index]);
    }

    #[test]
    fn a_bigger_battery_never_shortens_the_light(index in 0usize..CASES.len(), factor in 1.0..4.0f64) {
        let plan = case(CASES[index]);
        let bigger = WhatIf { brightness_factor: 1.0, capacity_factor: factor, temperature_c: 25.0, hours_factor: 1.0 }.apply(&plan);
        prop_assert!(hours(&bigger) >= hours(&plan) * (1.0 - 1e-3), "{}", CASES[index]);
    }

    #[test]
    fn colder_never_lengthens_the_light(index in 0usize..CASES.len(), warm in 0.0..40.0f64, share in 0.0..1.0f64) {
        let at = |temperature_c| WhatIf { brightness_factor: 1.0, capacity_factor: 1.0, temperature_c, hours_factor: 1.0 }.apply(&case(CASES[index]));
        prop_assert!(hours(&at(warm * share)) <= hours(&at(warm)) * (1.0 + 1e-3), "{}", CASES[index]);
    }

    #[test]
    fn cold_and_age_only_take(temperature in 0.0..40.0f64, left in 0.1..1.0f64) {
        for (_, chemistry) in orthavis_model::document::Chemistry::WORDS {
            prop_assert!(capacity_factor(*chemistry, temperature, left) <= 1.0);
            prop_assert!(resistance_factor(*chemistry, temperature, left) >= 1.0);
        }
    }
}

/// What cannot be taken over is not tried: a change of a change can leave what a build may be.
#[test]
fn a_change_that_cannot_be_is_refused_with_the_field() {
    let mut build = case("trike-arrays");
    let Source::Battery(battery) = &mut build.source else { panic!("a battery") };
    battery.capacity_ah = 90_000.0;
    let change = WhatIf { brightness_factor: 1.0, capacity_factor: 20.0, temperature_c: 25.0, hours_factor: 1.0 };
    let fault = change.check(&build).expect_err("1.8 MAh is not a battery");
    assert!(fault.contains("/source/capacity_ah"), "{fault}");
    assert_eq!(WhatIf { capacity_factor: 1.0, ..change }.check(&build), Ok(()));
}

/// A bulb that does not stand the battery is marked so, whatever its words are, and comes after those that do.
#[test]
fn a_replacement_that_does_not_stand_the_battery_comes_last() {
    let mut build = sample("Travelling puppet stage");
    let Source::Battery(battery) = &mut build.source else { panic!("a battery") };
    battery.charge_v = Some(6.0);
    let report = audit(&build).expect("solved").expect("an audit");
    let mut weak = 0;
    for line in &report.lines {
        assert!(line.candidates.is_sorted_by_key(|candidate| !candidate.stands), "{}", line.id);
        weak += line.candidates.iter().filter(|candidate| !candidate.stands).count();
    }
    assert!(weak > 0, "24 V on bulbs for 12 V harms none?");
}

/// Every stop of every slider is a change that can be tried, and what it makes is a build that can be taken over.
#[test]
fn a_slider_offers_only_what_can_be_tried() {
    let plan =
        |build: &Build| WhatIf { brightness_factor: 1.0, capacity_factor: 1.0, temperature_c: build.usage.temperature_c.unwrap_or(25.0), hours_factor: 1.0 };
    for name in CASES {
        let build = case(name);
        for dial in DIALS {
            for value in [dial.min, dial.min + dial.step, dial.max] {
                let mut change = plan(&build);
                let own = match dial.name {
                    "brightness_factor" => &mut change.brightness_factor,
                    "capacity_factor" => &mut change.capacity_factor,
                    "temperature_c" => &mut change.temperature_c,
                    "hours_factor" => &mut change.hours_factor,
                    other => panic!("{other} is not a figure of a change"),
                };
                *own = value;
                let brighter = dial.name == "brightness_factor" && value > 1.0;
                let tried = change.check(&build);
                // Brighter than full is not to be had: that is said, with the field.
                assert!(tried.is_ok() || brighter, "{name}: {} = {value}: {tried:?}", dial.name);
                if tried.is_ok() {
                    let made = change.apply(&build);
                    assert!(parse_value(&made.to_value()).is_ok(), "{name}: {} = {value}", dial.name);
                }
            }
        }
        let same = plan(&build).apply(&build);
        assert_eq!((same.scenes.len(), same.source.clone()), (build.scenes.len(), build.source.clone()), "{name}: nothing is moved");
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 12, ..ProptestConfig::default() })]

    /// A discharge goes one way: charge and voltage never rise, and what went out is what the clock and the current say.
    #[test]
    fn a_discharge_goes_one_way(index in 0usize..CASES.len(), half in 0.4..2.5f64) {
        let mut build = case(CASES[index]);
        if let Source::Battery(battery) = &mut build.source {
            battery.capacity_ah *= half;
        }
        let scene = build.scenes[0].id.clone();
        let Some(discharge) = discharge(&build, &scene).expect("it is followed") else { return Ok(()) };
        let course = &discharge.moments;
        prop_assert!(course.len() > 2, "{} moments", course.len());
        for pair in course.windows(2) {
            prop_assert!(pair[1].at_h >= pair[0].at_h && pair[1].soc <= pair[0].soc + 1e-12, "{:?} then {:?}", pair[0], pair[1]);
            prop_assert_eq!(pair[1].outputs.len(), discharge.lights.len());
        }
        // Marks come in order of time, each within the course.
        let (first, last) = (course[0].at_h, course[course.len() - 1].at_h);
        prop_assert!(discharge.marks.windows(2).all(|pair| pair[0].at_h <= pair[1].at_h));
        prop_assert!(discharge.marks.iter().all(|mark| mark.at_h >= first - 1e-9 && mark.at_h <= last + 1e-6), "{:?} in {first} to {last} h", discharge.marks);
    }
}
