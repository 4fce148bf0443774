//! What a person finds some time after a fault has come: what opens, in which order, and what still shines.

use orthavis_bench::diagnose::{Look, Symptom};
use orthavis_bench::fault::{At, Fault, FaultKind};
use orthavis_bench::rig::{Rig, Shot};
use orthavis_bench::seen::seen;
use orthavis_model::demo;
use orthavis_model::document::{Build, Consumer, parse, parse_value};
use orthavis_model::states::State;
use orthavis_testing::{case, cases};
use proptest::prelude::*;
use serde_json::{Value, json};

fn feed(from: &str, fuse_a: Option<f64>, awg: i32) -> Value {
    let fuse = fuse_a.map_or(Value::Null, |rating| json!({ "style": "blade", "rating_a": rating }));
    json!({ "from": from, "length_m": 1.0, "gauge": { "awg": awg }, "fuse": fuse })
}

/// A main fuse before a block, a lamp behind a small fuse of its own, and one behind none.
fn block() -> Build {
    let lamp = json!({ "kind": "module", "draw": "resistive", "voltage_v": 12.0, "power_w": 6.0, "min_v": 0.0, "max_v": 40.0 });
    let document = json!({
        "format": "orthavis.build/1", "name": "Block", "vehicle": { "kind": "rv", "mass_kg": 2000.0 },
        "source": { "kind": "battery", "chemistry": "lifepo4", "series": 4, "capacity_ah": 50.0, "max_current_a": 100.0 },
        "junctions": [{ "id": "block", "feed": feed("source", Some(20.0), 10) }],
        "lights": [{ "id": "fused", "feeds": [feed("block", Some(3.0), 18)], "load": lamp }, { "id": "bare", "feeds": [feed("block", None, 18)], "load": lamp }],
        "scenes": [{ "id": "on", "lights": { "fused": {}, "bare": {} } }],
    });
    parse_value(&document).expect("a sound document")
}

struct Found {
    blown: Vec<String>,
    hot: Vec<String>,
    looks: Vec<Symptom>,
}

fn after(build: &Build, faults: &[&str]) -> Found {
    let scene = &build.scenes[0];
    let mut sound = Rig::new(build, &[]).expect("a rig");
    let plan = sound.shot(scene, State::Full).expect("a solution");
    let all: Vec<Fault> = faults.iter().map(|name| Fault::parse(build, name).expect("a fault")).collect();
    let found = seen(&sound, &all, scene, State::Full, Some(&plan)).expect("a steady state");
    let feeds = build.feeds();
    let named = |indexes: &[usize]| indexes.iter().map(|index| feeds[*index].id.clone()).collect();
    let look = |light| Look::of(&found.rig.brightness(&found.shot, light), &sound.brightness(&plan, light)).symptom();
    Found { blown: named(&found.blown), hot: named(&found.hot), looks: (0..build.lights.len()).map(look).collect() }
}

#[test]
fn the_small_fuse_opens_before_the_large_one_and_leaves_the_rest_lit() {
    let found = after(&block(), &["short@fused=1"]);
    assert_eq!(found.blown, ["fused"]);
    assert_eq!(found.looks, [Symptom::Dark, Symptom::Fine]);
    assert!(found.hot.is_empty());
}

#[test]
fn without_a_fuse_of_its_own_a_short_takes_all_with_it() {
    let found = after(&block(), &["short@bare=1"]);
    assert_eq!(found.blown, ["block"], "the main fuse is all that is left");
    assert_eq!(found.looks, [Symptom::Dark, Symptom::Dark]);
}

#[test]
fn two_shorts_open_what_protects_each() {
    let found = after(&block(), &["short@fused=1", "short@bare=1"]);
    let mut blown = found.blown;
    blown.sort();
    assert_eq!(blown, ["block", "fused"]);
    assert_eq!(found.looks, [Symptom::Dark, Symptom::Dark]);
}

#[test]
fn a_fault_that_draws_nothing_opens_nothing() {
    let build = block();
    for fault in ["open@fused:to-", "weak_joint@bare:from+=3", "blown@fused", "reversed@bare"] {
        let found = after(&build, &[fault]);
        assert!(found.blown.is_empty() && found.hot.is_empty(), "{fault}: {:?} {:?}", found.blown, found.hot);
    }
    assert_eq!(after(&build, &["reversed@bare"]).looks[1], Symptom::Fine, "a bulb does not care which way round it is");
    assert_eq!(after(&build, &[]).looks, [Symptom::Fine, Symptom::Fine]);
}

#[test]
fn what_opened_is_among_the_faults_that_stay() {
    let build = block();
    let scene = &build.scenes[0];
    let sound = Rig::new(&build, &[]).expect("a rig");
    let short = Fault::parse(&build, "short@fused=0.5").expect("a fault");
    let found = seen(&sound, std::slice::from_ref(&short), scene, State::Full, None).expect("a steady state");
    assert_eq!(found.faults[0], short);
    let more: Vec<FaultKind> = found.faults[1..].iter().map(|fault| fault.kind).collect();
    assert_eq!(more, [FaultKind::Blown]);
    // A build that is put together with all of them at once is the same build.
    let mut again = Rig::new(&build, &found.faults).expect("a rig");
    let shot: Shot = again.shot(scene, State::Full).expect("a solution");
    for feed in 0..build.feeds().len() {
        assert!((again.amps(&shot, feed) - found.rig.amps(&found.shot, feed)).abs() < 1e-6, "feed {feed}");
    }
}

fn all() -> Vec<Build> {
    demo::BUILDS.iter().map(|text| parse(text).expect("sound")).chain(cases().into_iter().map(|(_, build)| build)).collect()
}

#[test]
fn shorts_at_the_end_of_every_fused_run_end_with_something_open_or_a_hot_wire() {
    let (mut opened, mut hot, mut tried) = (0, 0, 0);
    for build in all() {
        let (scene, state) = (&build.scenes[0], build.states()[0]);
        let sound = Rig::new(&build, &[]).expect("a rig");
        for (index, feed) in build.feeds().iter().enumerate() {
            if feed.feed.fuse.is_none() {
                continue;
            }
            let short = Fault { kind: FaultKind::Short, at: At::Along(index, 1.0), size: None };
            let Ok(found) = seen(&sound, &[short], scene, state, None) else { continue };
            tried += 1;
            opened += usize::from(!found.blown.is_empty() || !found.tripped.is_empty());
            hot += usize::from(!found.hot.is_empty());
            // Nothing flows through what is open.
            for blown in &found.blown {
                assert!(found.rig.amps(&found.shot, *blown).abs() < 1e-3, "{}: {} still carries", build.name, build.feeds()[*blown].id);
            }
            if let (true, Consumer::Light(light)) = (found.blown.contains(&index), feed.consumer) {
                let alone = build.lights[light].feeds.len() == 1;
                assert!(
                    !alone || found.rig.brightness(&found.shot, light).iter().all(|output| *output < 0.05),
                    "{}: {} shines behind a blown fuse",
                    build.name,
                    feed.id
                );
            }
        }
    }
    assert!(tried >= 20 && opened + hot >= tried, "{opened} opened, {hot} hot, of {tried}");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 32, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn a_larger_fuse_never_opens_where_a_smaller_one_did_not(rating in 1.0f64..12.0, more in 1.0f64..3.0) {
        let with = |rating: f64| {
            let mut document = case("van-strips").to_value();
            for light in document["lights"].as_array_mut().expect("lights") {
                light["feeds"][0]["fuse"] = json!({ "style": "blade", "rating_a": rating });
            }
            let build = parse_value(&document).expect("sound");
            let sound = Rig::new(&build, &[]).expect("a rig");
            let found = seen(&sound, &[], &build.scenes[0], build.states()[0], None).expect("a steady state");
            let own = |index: &usize| matches!(build.feeds()[*index].consumer, Consumer::Light(_));
            found.blown.iter().filter(|index| own(index)).count()
        };
        prop_assert!(with(rating * more) <= with(rating));
    }
}

/// Of a strip with two feeds one the wrong way round joins its supply to the other's minus; both so are dark, and draw nothing.
#[test]
fn one_of_two_feeds_reversed_is_a_short() {
    let build = orthavis_testing::changed(
        &orthavis_testing::case("van-strips"),
        &json!([{ "op": "replace", "path": "/junctions/0/feed/fuse", "value": { "style": "blade", "rating_a": 10.0 } }]),
    );
    let light = build.lights.iter().position(|light| light.feeds.len() == 2).expect("a strip fed twice");
    let id = build.lights[light].id.as_str();
    let (one, both) = ([format!("reversed@{id}#1")], [format!("reversed@{id}"), format!("reversed@{id}#1")]);
    let amps = |names: &[String]| {
        let faults: Vec<Fault> = names.iter().map(|name| Fault::parse(&build, name).expect("a fault")).collect();
        let mut rig = Rig::new(&build, &faults).expect("a rig");
        let shot = rig.shot(&build.scenes[0], State::Full).expect("a solution");
        rig.source(&shot).1
    };
    assert!(amps(&one) > 5.0 * amps(&[]), "{} A", amps(&one));
    assert!(amps(&both) < amps(&[]), "{} A", amps(&both));
    let found = after(&build, &one.each_ref().map(String::as_str));
    assert!(!found.blown.is_empty(), "what protects it opens");
    assert_eq!(found.looks[light], Symptom::Dark);
    assert!(after(&build, &both.each_ref().map(String::as_str)).blown.is_empty());
    let every = orthavis_bench::fault::every(&build);
    assert!(every.iter().any(|fault| fault.name(&build) == one[0]), "it is among the suspects");
}
