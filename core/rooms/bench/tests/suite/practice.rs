//! Drills and lessons: what is hidden can be seen and found, what would hurt is said, and what a lesson claims is so.

use orthavis_bench::BenchError;
use orthavis_bench::desk::{Meter, Mishap, Place};
use orthavis_bench::diagnose::Symptom;
use orthavis_bench::fault::Fault;
use orthavis_bench::lessons::{LESSONS, Position, lesson};
use orthavis_bench::meter::Setting;
use orthavis_bench::practice::{Done, Drill, LEVELS, answers, bridged, faults_of, standings};
use orthavis_bench::spot::Spot;
use orthavis_model::demo;
use orthavis_model::document::{Build, parse};
use orthavis_physics::network::Side;
use proptest::prelude::*;

fn samples() -> Vec<Build> {
    demo::BUILDS.iter().map(|text| parse(text).expect("sound")).collect()
}

#[test]
fn every_level_can_be_dealt_in_the_samples_and_shows_something() {
    let mut dealt = [0; 6];
    for build in &samples() {
        let (scene, state) = (&build.scenes[0], build.states()[0]);
        for level in LEVELS {
            match Drill::deal(build, scene, state, level.number, 3) {
                Ok(drill) => {
                    dealt[level.number as usize - 1] += 1;
                    let again = Drill::deal(build, scene, state, level.number, 3).expect("the same drill");
                    assert_eq!(drill.fault(), again.fault(), "a seed hides one fault");
                    let seen = drill.looks.values().any(|look| look.symptom() != Symptom::Fine || (look.share - 1.0).abs() > 0.09);
                    assert!(seen || drill.opened || !drill.hot.is_empty(), "{}: {} cannot be seen", build.name, drill.fault().name(build));
                    assert!(answers(build).iter().any(|(answer, _)| drill.is(answer)), "{} cannot be answered", drill.fault().name(build));
                    assert!(!drill.is(&Fault::parse(build, "tired@source").expect("a battery")) || level.number == 6);
                }
                Err(error) => assert!(error.problem.contains("has no drill"), "{error}"),
            }
        }
    }
    println!("builds with a drill, by level: {dealt:?}");
    assert!(dealt.iter().all(|count| *count >= 2), "{dealt:?}");
    let build = &samples()[7];
    assert!(faults_of(build, 1) > 0 && faults_of(build, 6) > 0);
    let refused = Drill::deal(build, &build.scenes[0], build.states()[0], 7, 0).err().expect("a refusal");
    assert!(refused.to_string().contains("Give 1 to 6"));
}

#[test]
fn the_programs_own_search_finds_what_it_hides() {
    let (mut all, mut found) = (0, 0);
    for build in &samples() {
        for level in LEVELS {
            for seed in 0..2 {
                let Ok(drill) = Drill::deal(build, &build.scenes[0], build.states()[0], level.number, seed) else { continue };
                let checks = drill.search(5).expect("a search");
                let seconds: f64 = checks.iter().map(|check| check.work_s).sum();
                all += 1;
                found += usize::from(checks.len() <= 12 && seconds <= 240.0);
            }
        }
    }
    assert!(found * 10 >= all * 9, "{found} of {all}");
}

#[test]
fn what_would_hurt_is_said() {
    let build = &samples()[7];
    let drill = Drill::deal(build, &build.scenes[0], build.states()[0], 3, 1).expect("a drill");
    let across = Place::Across(Spot::Source(Side::Plus), Spot::Source(Side::Minus));
    let mut meter = Meter::new(1);
    let (shown, _) = drill.read(&mut meter, true, Setting::Ohms, false, across).expect("a reading");
    assert_eq!(shown.event, Some(Mishap::Live));
    let (shown, work_s) = drill.read(&mut meter, true, Setting::Amps, false, across).expect("a reading");
    assert_eq!((shown.event, meter.amps_fuse, work_s), (Some(Mishap::FuseBlown), false, 60.0));
    let (shown, _) = drill.read(&mut Meter::new(1), false, Setting::Ohms, false, across).expect("a reading");
    assert_eq!(shown.event, None, "with the power off nothing is spoilt");

    let fused = &samples()[0];
    let bridged = bridged(fused, fused.states()[0]);
    assert_eq!(bridged.len(), fused.feeds().iter().filter(|feed| feed.feed.fuse.is_some()).count());
    for one in bridged {
        assert!(one.fault_a > 10.0 && one.words.contains("never blows"), "{one:?}");
    }
}

#[test]
fn every_lesson_is_so() {
    let all: Vec<(&str, Vec<Position>)> = LESSONS.iter().map(|known| (known.id, lesson(known.id).expect(known.id).1)).collect();
    let value = |id: &str, position: usize, figure: usize| {
        let (_, positions) = all.iter().find(|(known, _)| *known == id).expect("a lesson");
        positions[position].figures[figure].value.unwrap_or(f64::INFINITY)
    };
    let harm = |id: &str, position: usize| all.iter().find(|(known, _)| *known == id).expect("a lesson").1[position].harm.clone();
    // What the right answer says, and that the others are not so.
    assert!(value("polarity", 0, 0) > 0.01 && value("polarity", 1, 0) < 1e-4);
    let twice = value("resistor", 5, 0) / value("resistor", 3, 0);
    assert!((1.8..2.05).contains(&twice), "half of 560 ohms lets {twice} times through");
    assert!(harm("resistor", 0).is_none() && harm("resistor", 7).is_some());
    let third = value("rows", 1, 0) / value("rows", 0, 0);
    assert!((0.29..0.38).contains(&third), "a row takes {third}");
    let ends: Vec<f64> = (0..6).map(|position| value("strip", position, 2)).collect();
    assert!(ends[0] > 0.95 && ends[..5].windows(2).all(|pair| pair[1] < pair[0]) && ends[4] < 0.7 && ends[5] > 0.8, "{ends:?}");
    assert!(value("limit", 1, 1) > 4.9 && value("limit", 5, 1) < 4.6 && value("limit", 5, 0) <= 1.01 && harm("limit", 5).is_some());
    let half = value("drop", 1, 0) / value("drop", 0, 0);
    assert!((0.48..0.6).contains(&half), "twice the area loses {half}");
    assert!(harm("fuse", 0).is_some() && harm("fuse", 4).is_none() && value("fuse", 4, 2) < 160.0);
    assert!((value("meter", 0, 0) - 13.6).abs() < 1.0 && harm("meter", 0).is_none() && harm("meter", 1).is_none());
    assert!(harm("meter", 2).is_some_and(|words| words.contains("live")) && harm("meter", 3).is_some_and(|words| words.contains("fuse in the meter blew")));
    let none: BenchError = lesson("alchemy").expect_err("no such lesson");
    assert!(none.to_string().contains("polarity, resistor"));
}

#[test]
fn what_went_wrong_comes_back_and_what_went_well_stays_away() {
    let done = |topic: &str, day, good| Done { topic: topic.into(), day, good };
    let all = standings(&[done("level-1", 10, true), done("level-1", 11, true), done("drop", 11, false)]);
    assert_eq!((all["level-1"].times, all["level-1"].row, all["level-1"].due), (2, 2, 14));
    assert_eq!((all["drop"].row, all["drop"].due), (0, 12));
    let late = standings(&[done("drop", 11, false), done("drop", 12, true)]);
    assert_eq!(late["drop"].due, 13, "after a miss it starts anew");
}

proptest! {
    #[test]
    fn nothing_is_due_before_the_day_after_it_was_done(days in proptest::collection::vec((0i64..400, any::<bool>()), 1..40)) {
        let done: Vec<Done> = days.iter().map(|(day, good)| Done { topic: "x".into(), day: *day, good: *good }).collect();
        let standing = &standings(&done)["x"];
        let last = days.iter().map(|(day, _)| *day).max().expect("a day");
        prop_assert!(standing.due > last && standing.due <= last + 60);
        prop_assert_eq!(standing.times, days.len());
    }
}
