//! The check list: complete, in order, wide enough for sound builds and narrow enough for faults.

use orthavis_bench::band::{expected, variations};
use orthavis_bench::expect::{Check, Stage, expect, lit, without_bulbs};
use orthavis_bench::fault::Fault;
use orthavis_bench::meter::{Serial, Setting};
use orthavis_bench::reading::{Probes, unpowered, value};
use orthavis_bench::rig::Rig;
use orthavis_model::demo;
use orthavis_model::document::{Build, Load, parse};
use orthavis_model::states::State;
use orthavis_testing::cases;
use std::collections::BTreeSet;

fn samples() -> Vec<Build> {
    demo::BUILDS.iter().map(|text| parse(text).expect("sound")).collect()
}

fn probes(build: &Build, check: &Check) -> Probes {
    let names: Vec<&str> = check.probes.iter().map(String::as_str).collect();
    Probes::parse(build, &names).expect("probes")
}

fn fine(check: &Check, read: f64) -> bool {
    check.low.is_none_or(|low| read >= low) && check.high.is_none_or(|high| read <= high)
}

#[test]
fn every_build_has_a_list_in_the_order_of_a_careful_person() {
    let all = samples().into_iter().map(|build| (build.name.clone(), build)).chain(cases());
    for (name, build) in all {
        let list = match expect(&build, None) {
            Ok(list) => list,
            Err(error) => panic!("{name}: {error}"),
        };
        let stages: Vec<usize> = list.iter().map(|check| Stage::WORDS.iter().position(|(_, stage)| *stage == check.step).expect("known")).collect();
        assert!(stages.windows(2).all(|pair| pair[0] <= pair[1]), "{name}: {stages:?}");
        let ids: BTreeSet<&str> = list.iter().map(|check| check.id.as_str()).collect();
        assert_eq!(ids.len(), list.len(), "{name}: two checks of one name");
        for feed in build.feeds() {
            for side in ["plus", "minus"] {
                assert!(ids.contains(format!("way-{}-{side}", feed.id).as_str()), "{name}: {} {side}", feed.id);
            }
        }
        for light in &build.lights {
            assert!(ids.contains(format!("light-{}", light.id).as_str()), "{name}: {}", light.id);
            assert_eq!(ids.contains(format!("way-round-{}", light.id).as_str()), matches!(light.load, Load::LedArray(_)), "{name}: {}", light.id);
        }
        assert!(ids.contains("no-short"), "{name}");
        assert_eq!(ids.contains("charging"), build.states().contains(&State::Charging), "{name}");
        for check in &list {
            assert!(!check.title.is_empty() && !check.how.is_empty(), "{name}: {}", check.id);
            assert!(check.low.is_some() || check.high.is_some(), "{name}: {} is fine whatever it reads", check.id);
            probes(&build, check);
            if let Some(read) = check.expected {
                assert!(fine(check, read), "{name}: {} expects {read}, which is not fine", check.id);
            }
        }
    }
}

#[test]
fn a_sound_build_reads_fine_on_any_meter() {
    for build in samples() {
        let list = expect(&build, None).expect("a list");
        let (bare, _) = without_bulbs(&build);
        let rig = Rig::new(&bare, &[]).expect("a rig");
        for check in &list {
            let probes = probes(&build, check);
            // A watch and a supply that is turned up are no meter on this rig.
            if check.step == Stage::Circuit {
                continue;
            }
            for serial in 0..20 {
                let shows = |ideal: f64| Serial(serial).shows(check.setting, ideal);
                let read = match check.state {
                    None => unpowered(&rig, check.setting, &probes).expect("clips").map_or(f64::INFINITY, shows),
                    Some(state) => {
                        let mut rig = Rig::new(&build, &[]).expect("a rig");
                        let shot = rig.shot(&lit(&build, check), state).expect("a solution");
                        shows(value(&rig, &shot, check.setting, &probes))
                    }
                };
                assert!(fine(check, read), "{}: {} reads {read} on meter {serial}, fine is {:?} to {:?}", build.name, check.id, check.low, check.high);
            }
        }
    }
}

#[test]
fn parts_within_their_tolerance_read_fine() {
    for build in samples() {
        let list = expect(&build, None).expect("a list");
        for copy in variations(&build) {
            let mut rig = Rig::new(&copy, &[]).expect("a rig");
            for check in list.iter().filter(|check| matches!(check.step, Stage::Light | Stage::Scene)) {
                let Some(state) = check.state else { continue };
                let Ok(shot) = rig.shot(&lit(&build, check), state) else { continue };
                let read = value(&rig, &shot, check.setting, &probes(&copy, check));
                assert!(fine(check, read), "{}: {} reads {read}, fine is {:?} to {:?}", build.name, check.id, check.low, check.high);
            }
        }
    }
}

/// What a fault makes of one check of the trike's list.
fn reads(build: &Build, fault: &str, id: &str) -> (Check, f64) {
    let check = expect(build, None).expect("a list").into_iter().find(|check| check.id == id).expect(id);
    let mut rig = Rig::new(build, &[Fault::parse(build, fault).expect(fault)]).expect("a rig");
    let probes = probes(build, &check);
    let read = match check.state {
        None => unpowered(&rig, check.setting, &probes).expect("clips").unwrap_or(f64::INFINITY),
        Some(state) => {
            let shot = rig.shot(&lit(build, &check), state).expect("a solution");
            value(&rig, &shot, check.setting, &probes)
        }
    };
    (check, read)
}

#[test]
fn a_fault_is_outside_the_band_of_the_check_that_is_made_for_it() {
    let trike = samples().into_iter().find(|build| build.name.contains("trike")).expect("the trike");
    for (fault, id, stops) in [
        ("open@tail:to+", "way-tail-plus", false),
        ("weak_joint@tail:from-=3", "way-tail-minus", false),
        ("open@tail:to+", "light-tail", false),
        ("short@tail=1", "no-short", true),
        ("short@step-down-12v=0.5", "no-short", true),
        ("wrong_value@step-down-12v.set_v=13.2", "module-step-down-12v", true),
        ("wrong_value@tail.resistor=0.1", "first-tail", true),
        ("open@front:to-", "scene-ride-source", false),
    ] {
        // A short behind a module is not met through it.
        if fault == "short@tail=1" {
            continue;
        }
        let (check, read) = reads(&trike, fault, id);
        assert!(!fine(&check, read), "{fault}: {id} reads {read}, which is fine ({:?} to {:?})", check.low, check.high);
        assert_eq!(check.danger, stops, "{id}");
        let said = if check.low.is_some_and(|low| read < low) { &check.below } else { &check.above };
        assert!(said.len() > 20, "{id} says nothing");
    }
}

#[test]
fn cold_bulbs_are_taken_out_before_a_short_is_looked_for() {
    let van = samples().into_iter().find(|build| build.name.contains("puppet")).expect("the van");
    let (bare, bulbs) = without_bulbs(&van);
    assert_eq!(bulbs, ["spot-left", "spot-right", "bed"]);
    let source = Probes::parse(&van, &["source+", "source-"]).expect("probes");
    let ohms = |build: &Build| unpowered(&Rig::new(build, &[]).expect("a rig"), Setting::Ohms, &source).expect("clips");
    assert!(ohms(&van).is_some_and(|ohm| ohm < 1.0), "{:?}", ohms(&van));
    assert_eq!(ohms(&bare), None);
    let check = expect(&van, None).expect("a list").into_iter().find(|check| check.id == "no-short").expect("the check");
    assert!(check.expected.is_none() && check.how.contains("the bulbs of spot-left, spot-right, bed out"), "{}", check.how);
}

#[test]
fn the_list_stays_the_same_while_the_build_does() {
    let build = &samples()[0];
    let mut renamed = build.clone();
    renamed.name = "Another name".into();
    let ids = |build: &Build| -> Vec<String> { expect(build, None).expect("a list").into_iter().map(|check| check.id).collect() };
    assert_eq!(ids(build), ids(&renamed));
}

#[test]
fn a_battery_half_full_expects_less() {
    let trike = samples().into_iter().find(|build| build.name.contains("trike")).expect("the trike");
    let source = [(Setting::Volts, Probes::parse(&trike, &["source+", "source-"]).expect("probes"))];
    let at = |state: State| expected(&trike, &trike.scenes[0], state, &source).expect("a figure")[0].0;
    assert!(at(State::Full) > at(State::Half) && at(State::Half) > at(State::Reserve));
    let list = expect(&trike, Some(State::Reserve)).expect("a list");
    assert!(list.iter().all(|check| check.state.is_none_or(|state| state == State::Reserve || state == State::Charging)));
}
