//! Readings of a build that is not as it says: what is off is found, what is not stays.

use orthavis_bench::correct::{Taken, correct};
use orthavis_bench::meter::{Serial, Setting};
use orthavis_bench::reading::{Probes, value};
use orthavis_bench::rig::Rig;
use orthavis_model::demo;
use orthavis_model::document::{Build, Load, Scene, Source, parse, parse_value};
use orthavis_model::states::State;
use std::collections::BTreeMap;

fn sample(word: &str) -> Build {
    demo::BUILDS.iter().map(|text| parse(text).expect("sound")).find(|build| build.name.contains(word)).expect("a sample build")
}

fn nothing_lit() -> Scene {
    Scene { id: String::new(), name: String::new(), lights: BTreeMap::new() }
}

/// What a meter reads of a build as it really is.
fn taken(real: &Build, serial: u64, what: &[(&Scene, Setting, &[&str])]) -> Vec<Taken> {
    let mut rig = Rig::new(real, &[]).expect("a rig");
    what.iter()
        .map(|(scene, setting, names)| {
            let probes = Probes::parse(real, names).expect("probes");
            let shot = rig.shot(scene, State::Half).expect("a solution");
            let read = Serial(serial).shows(*setting, value(&rig, &shot, *setting, &probes));
            Taken { scene: (*scene).clone(), state: State::Half, setting: *setting, probes, value: read }
        })
        .collect()
}

fn four(real: &Build, serial: u64) -> Vec<Taken> {
    let (rest, show, evening) = (nothing_lit(), real.scenes[0].clone(), real.scenes[1].clone());
    taken(
        real,
        serial,
        &[
            (&rest, Setting::Volts, &["source+", "source-"]),
            (&show, Setting::Volts, &["source+", "source-"]),
            (&rest, Setting::Volts, &["up-down-12v:out+", "up-down-12v:out-"]),
            (&evening, Setting::Volts, &["up-down-12v:out+", "up-down-12v:out-"]),
        ],
    )
}

fn pack_ohm(build: &Build) -> f64 {
    match &build.source {
        Source::Battery(battery) => battery.pack_ohm(),
        Source::Rail(_) | Source::Track(_) => panic!("no battery"),
    }
}

#[test]
fn a_tired_battery_and_a_module_set_high_are_found_from_four_readings() {
    let mut plan = sample("puppet");
    // A pack small enough that a hand-held meter sees it sag.
    if let Source::Battery(battery) = &mut plan.source {
        battery.resistance_ohm = Some(0.06);
    }
    let mut real = plan.clone();
    if let Source::Battery(battery) = &mut real.source {
        battery.resistance_ohm = Some(2.0 * battery.pack_ohm());
    }
    *real.converters[0].conversion.setting_mut() *= 1.04;
    let mut within = 0;
    for serial in 0..12 {
        let found = correct(&plan, &four(&real, serial)).expect("a correction");
        let figure = |at: &str| found.figures.iter().find(|figure| figure.at == at).unwrap_or_else(|| panic!("meter {serial}: no {at} in {:?}", found.figures));
        let (resistance, set) = (figure("/source/resistance_ohm"), figure("/converters/0/set_v"));
        assert!((resistance.to / pack_ohm(&real) - 1.0).abs() < 0.15, "meter {serial}: {resistance:?}, real {}", pack_ohm(&real));
        let by = set.to / set.from - 1.0;
        // A meter that reads half a percent and two counts low shows a sixth less of four percent.
        assert!((by / 0.04 - 1.0).abs() < 0.20, "meter {serial}: {by}");
        within += usize::from((by / 0.04 - 1.0).abs() < 0.15);
        assert_eq!(found.figures.len(), 2, "meter {serial}: what was not touched stays: {:?}", found.figures);
        assert!(found.after < found.before, "meter {serial}");
    }
    assert!(within >= 10, "{within} of 12 meters tell it within 15 %");
}

#[test]
fn taking_it_over_makes_the_build_read_as_it_was_read() {
    let plan = sample("puppet");
    let mut real = plan.clone();
    *real.converters[0].conversion.setting_mut() = 12.6;
    let readings = four(&real, 3);
    let found = correct(&plan, &readings).expect("a correction");
    let mut document = plan.to_value();
    let patch: json_patch::Patch = serde_json::from_value(serde_json::Value::Array(found.changes.clone())).expect("changes");
    json_patch::patch(&mut document, &patch).expect("it fits");
    let mended = parse_value(&document).expect("sound");
    let again = correct(&mended, &readings).expect("a correction");
    assert!(again.before < found.before, "{} then {}", found.before, again.before);
    assert_eq!(again.figures, [], "nothing is left to say");
}

#[test]
fn a_build_as_it_says_is_left_alone() {
    let plan = sample("puppet");
    for serial in 0..20 {
        let found = correct(&plan, &four(&plan, serial)).expect("a correction");
        assert_eq!(found.figures, [], "meter {serial}");
        assert_eq!(found.changes, Vec::<serde_json::Value>::new());
        assert!(found.before < 3.0, "meter {serial}: {}", found.before);
    }
}

#[test]
fn leds_of_another_lot_are_told_by_their_current() {
    let plan = sample("trike");
    let tail = plan.lights.iter().position(|light| light.id == "tail").expect("a tail");
    let mut real = plan.clone();
    if let Load::LedArray(array) = &mut real.lights[tail].load {
        array.led.vf_v += 0.25;
    }
    let scene = plan.scenes[0].clone();
    let probes: Vec<Vec<&str>> = vec![
        vec!["tail:to+", "tail:to-"],
        vec!["tail/1.0", "tail:to-"],
        vec!["tail/2.0", "tail:to-"],
        vec!["tail:to+", "tail/1.0"],
        vec!["tail/1.0", "tail/1.1"],
        vec!["tail/2.1", "tail/2.2"],
    ];
    let what: Vec<(&Scene, Setting, &[&str])> = probes.iter().map(|names| (&scene, Setting::Volts, names.as_slice())).collect();
    let found = correct(&plan, &taken(&real, 5, &what)).expect("a correction");
    let at = format!("/lights/{tail}/load/led/vf_v");
    let figure = found.figures.iter().find(|figure| figure.at == at).unwrap_or_else(|| panic!("{:?}", found.figures));
    assert!((figure.to - figure.from - 0.25).abs() < 0.08, "{figure:?}");
}

#[test]
fn one_bad_reading_moves_little() {
    let plan = sample("puppet");
    let mut readings = four(&plan, 1);
    // Read off by a volt at the module, once; three more say otherwise.
    let honest = four(&plan, 1).remove(2);
    readings.extend([honest.clone(), honest.clone(), honest]);
    readings[3].value += 1.0;
    let found = correct(&plan, &readings).expect("a correction");
    for figure in &found.figures {
        assert!((figure.to / figure.from - 1.0).abs() < 0.05, "{figure:?}");
    }
}

#[test]
fn too_few_readings_are_refused() {
    let plan = sample("puppet");
    let error = correct(&plan, &four(&plan, 1)[..2]).expect_err("two are too few");
    assert!(error.remedy.contains("at least 3"), "{error}");
}
