//! The opened-up network against independently solved ones, and by law.

use orthavis_bench::fault::Fault;
use orthavis_bench::rig::Rig;
use orthavis_bench::spot::Spot;
use orthavis_model::demo;
use orthavis_model::document::{Build, Consumer, Load, parse, parse_value};
use orthavis_model::states::State;
use orthavis_physics::network::{Network, Point, Side};
use orthavis_physics::show::mean_lit;
use orthavis_testing::file;
use serde_json::Value;

const CASES: [&str; 6] = ["chair-tired", "trike-burnt-led", "trike-healthy", "trike-open-joint", "trike-weak-fuse-joint", "van-cut-rail"];

fn samples() -> Vec<Build> {
    demo::BUILDS.iter().map(|text| parse(text).expect("sound")).collect()
}

fn faults(build: &Build, names: &[&str]) -> Vec<Fault> {
    names.iter().map(|name| Fault::parse(build, name).expect(name)).collect()
}

#[test]
fn every_probe_reads_what_an_independent_program_says() {
    for name in CASES {
        let case: Value = serde_json::from_str(&file(&format!("bench/{name}.json"))).expect("a case");
        let build = parse_value(&case["document"]).expect("sound");
        let named: Vec<&str> = case["faults"].as_array().expect("faults").iter().map(|fault| fault.as_str().expect("text")).collect();
        let scene = build.scenes.iter().find(|scene| case["scene"] == scene.id.as_str()).expect("its scene");
        let state = State::WORDS.iter().find(|(word, _)| case["state"] == *word).expect("its state").1;
        let mut rig = Rig::new(&build, &faults(&build, &named)).expect("a rig");
        let shot = rig.shot(scene, state).expect("a solution");
        for (point, volts) in case["volts"].as_object().expect("volts") {
            let spot = Spot::parse(&build, point).expect("a point");
            let (got, want) = (rig.potential(&shot, spot), volts.as_f64().expect("a figure"));
            assert!((got - want).abs() <= 1e-5 + 1e-5 * want.abs(), "{name} {point}: {got}, want {want}");
        }
    }
}

#[test]
fn names_of_points_and_faults_come_back_as_they_went() {
    for build in samples() {
        for spot in Spot::all(&build) {
            let name = spot.name(&build);
            assert_eq!(Spot::parse(&build, &name), Ok(spot), "{}: {name}", build.name);
            assert!(spot.words(&build).len() > 10, "{}: {name}", build.name);
        }
        for fault in orthavis_bench::fault::every(&build) {
            let name = fault.name(&build);
            assert_eq!(Fault::parse(&build, &name), Ok(fault), "{}: {name}", build.name);
        }
    }
}

#[test]
fn without_a_fault_the_bench_is_the_plan() {
    for build in samples() {
        let mut rig = Rig::new(&build, &[]).expect("a rig");
        let mut network = Network::new(&build).expect("a network");
        for scene in &build.scenes {
            for state in build.states() {
                let shot = rig.shot(scene, state).expect("a solution");
                // A meter reads what moves in the mean.
                let point = Point { lights: mean_lit(&build, scene), ..Point::of(&build, scene, state) };
                let solution = network.solve(&point, None).expect("a solution");
                for feed in 0..build.feeds().len() {
                    let (bench, plan) = (rig.amps(&shot, feed), network.feed(&solution, feed).current_a);
                    assert!((bench - plan).abs() <= 1e-9 + 1e-9 * plan.abs(), "{} {} feed {feed}: {bench}, {plan}", build.name, scene.id);
                }
            }
        }
    }
}

#[test]
fn strings_fall_from_plus_to_minus() {
    for build in samples() {
        let mut rig = Rig::new(&build, &[]).expect("a rig");
        let shot = rig.shot(&build.scenes[0], build.states()[0]).expect("a solution");
        for (light, part) in build.lights.iter().enumerate() {
            let Load::LedArray(array) = &part.load else { continue };
            let feed = build.feeds().iter().position(|feed| feed.consumer == Consumer::Light(light)).expect("its feed");
            let minus = rig.potential(&shot, Spot::To(feed, Side::Minus));
            let mut before = rig.potential(&shot, Spot::To(feed, Side::Plus));
            for after in 0..=array.series as usize {
                let here = rig.potential(&shot, Spot::String { light, string: 0, after });
                assert!(here <= before + 1e-9, "{} {after}", part.id);
                before = here;
            }
            assert!((before - minus).abs() < 1e-6, "{}: ends at {before}, not {minus}", part.id);
        }
    }
}

#[test]
fn every_fault_of_every_sample_has_a_picture_or_a_reason() {
    for build in samples() {
        let scene = &build.scenes[0];
        for fault in orthavis_bench::fault::every(&build) {
            let mut rig = Rig::new(&build, std::slice::from_ref(&fault)).expect("a rig");
            for state in build.states() {
                match rig.shot(scene, state) {
                    Ok(shot) => {
                        for spot in Spot::all(&build) {
                            assert!(rig.potential(&shot, spot).is_finite(), "{} {} {}", build.name, fault.name(&build), spot.name(&build));
                        }
                    }
                    Err(error) => assert!(!error.is_unfinished(), "{} {}: {error}", build.name, fault.name(&build)),
                }
            }
        }
    }
}

#[test]
fn a_pinch_takes_what_the_wires_let_through() {
    let build = samples().into_iter().find(|build| build.name.contains("puppet")).expect("the van");
    let feed = build.feeds().iter().position(|feed| feed.id == "stage-edge").expect("a feed");
    let mut last = f64::INFINITY;
    for share in [0.0, 0.25, 0.5, 0.75, 1.0] {
        let fault = Fault::parse(&build, &format!("short@stage-edge={share}")).expect("a fault");
        let mut rig = Rig::new(&build, &[fault]).expect("a rig");
        let shot = rig.shot(&build.scenes[0], State::Half).expect("a solution");
        let (network, rule) = (rig.amps(&shot, feed), orthavis_bench::pinch::pinch(&build, "stage-edge", share).expect("a pinch"));
        let rule = rule.iter().find(|pinch| pinch.state == State::Half).expect("its state").fault_a;
        assert!(network < last, "{share}: {network}");
        assert!((network - rule).abs() < 0.05 * rule, "{share}: the network says {network}, the rule {rule}");
        last = network;
    }
}

#[test]
fn a_circuit_without_power_is_measured() {
    let build = samples().into_iter().find(|build| build.name.contains("trike")).expect("the trike");
    let rig = Rig::new(&build, &[]).expect("a rig");
    let spot = |name: &str| Spot::parse(&build, name).expect(name);
    let way = rig.ohms(spot("source+"), spot("step-down-12v:to+")).expect("clips").expect("it conducts");
    let wire = build.feed("step-down-12v").expect("a feed").feed.out_ohm();
    assert!((way - wire).abs() < 0.02 * wire + 1e-3, "{way}, {wire}");
    assert_eq!(rig.ohms(spot("source+"), spot("source-")).expect("clips"), None, "nothing between plus and minus");
    let open = Rig::new(&build, &faults(&build, &["open@step-down-12v:to+"])).expect("a rig");
    assert_eq!(open.ohms(spot("source+"), spot("step-down-12v:to+")).expect("clips"), None);
    let short = Rig::new(&build, &faults(&build, &["short@step-down-12v=1"])).expect("a rig");
    assert!(short.ohms(spot("source+"), spot("source-")).expect("clips").is_some_and(|ohm| ohm < 1.0));
}

#[test]
fn what_is_not_there_is_refused_with_a_remedy() {
    let build = &samples()[0];
    for name in [
        "open",
        "banana@tail:to+",
        "open@nowhere:to+",
        "open@tail:plug=3",
        "weak_joint@tail:to+",
        "weak_joint@tail:to+=-1",
        "short@tail=2",
        "tired@tail",
        "dead_pixel@tail=1",
    ] {
        let error = Fault::parse(build, name).expect_err(name);
        assert!(!error.problem.is_empty() && !error.remedy.is_empty(), "{name}");
    }
    for name in ["", "tail", "tail:middle", "nowhere:to+", "tail/9.9", "tail/1", "tail@0.1+", "source"] {
        assert!(Spot::parse(build, name).is_err(), "{name}");
    }
}
