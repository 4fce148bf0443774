//! The bench's questions: what is seen agrees with what is read, and a diagnosis narrows down.

use orthavis_core::demo;
use orthavis_operations::ask;
use serde_json::{Value, json};

fn sample(word: &str) -> Value {
    let all = demo::BUILDS.iter().map(|text| serde_json::from_str::<Value>(text).expect("json"));
    all.into_iter().find(|build| build["name"].as_str().is_some_and(|name| name.contains(word))).expect("a sample build")
}

fn answer(name: &str, question: &Value) -> Value {
    let answer = ask(name, question.to_string().as_bytes()).unwrap_or_else(|refusal| panic!("{name}: {}", refusal.detail));
    serde_json::from_slice(&answer).expect("json")
}

fn volts(probed: &Value, red: &str, black: &str) -> f64 {
    probed["volts"][red].as_f64().expect(red) - probed["volts"][black].as_f64().expect(black)
}

#[test]
fn a_pinch_blows_its_fuse_and_what_hangs_behind_goes_dark() {
    let van = sample("puppet");
    let question = |aftermath: bool| json!({ "document": van, "scene": "show", "state": "half", "faults": ["short@stage-edge=0.5"], "aftermath": aftermath });
    let after = answer("probe", &question(true));
    assert_eq!(after["blown"], json!(["stage-edge"]));
    let edge = after["lights"].as_array().expect("lights").iter().find(|look| look["light"] == "stage-edge").expect("the edge");
    assert_eq!(edge["symptom"], "dark");
    let spot = after["lights"].as_array().expect("lights").iter().find(|look| look["light"] == "spot-left").expect("a spot");
    assert_eq!(spot["symptom"], "fine", "another feed has its own fuse");
    // Before it opens the wire carries what the pinch's own figures say.
    let during = answer("probe", &question(false));
    let pinch = answer("pinch", &json!({ "document": van, "feed": "stage-edge", "at": 0.5 }));
    let half = pinch.as_array().expect("states").iter().find(|one| one["state"] == "half").expect("half");
    let (network, rule) = (during["amps"]["stage-edge"].as_f64().expect("amps"), half["fault_a"].as_f64().expect("amps"));
    assert!((network - rule).abs() < 0.05 * rule, "{network}, {rule}");
    assert_eq!(half["fuse"], "stage-edge");
}

#[test]
fn a_meter_of_ones_own_is_off_by_its_own_error_and_repeats() {
    let trike = sample("trike");
    let read = |meter: Value| volts(&answer("probe", &json!({ "document": trike, "scene": "ride", "meter": meter })), "source+", "source-");
    let ideal = read(Value::Null);
    let mut different = 0;
    for serial in 0..20 {
        let shown = read(json!(serial));
        assert!((shown - ideal).abs() <= 0.005 * ideal + 0.25, "meter {serial}: {shown}, {ideal}");
        assert_eq!(shown.to_bits(), read(json!(serial)).to_bits());
        different += usize::from((shown - ideal).abs() > 1e-6);
    }
    assert!(different > 10, "meters agree too well");
}

#[test]
fn readings_narrow_down_whom_symptoms_leave() {
    let trike = sample("trike");
    let truth = answer("probe", &json!({ "document": trike, "scene": "ride", "faults": ["weak_joint@tail:to-=20"], "aftermath": true }));
    let saw: Vec<Value> = (truth["lights"].as_array().expect("lights").iter())
        .map(|look| json!({ "light": look["light"], "symptom": look["symptom"], "from": look["dark_from"] }))
        .collect();
    let mut read: Vec<Value> = Vec::new();
    let mut before = 0.0;
    for _ in 0..12 {
        let found = answer("diagnose", &json!({ "document": trike, "scene": "ride", "saw": saw, "read": read }));
        let lead = &found["suspects"][0];
        let share = lead["share"].as_f64().expect("a share");
        assert!((0.0..=1.0 + 1e-9).contains(&share));
        let all: f64 = found["suspects"].as_array().expect("suspects").iter().map(|one| one["share"].as_f64().expect("a share")).sum();
        assert!(all <= 1.0 + 1e-6, "{all}");
        if found["found"] == true {
            let mut names = vec![lead["fault"].as_str().expect("a fault")];
            names.extend(lead["like"].as_array().into_iter().flatten().filter_map(Value::as_str));
            assert!(names.iter().any(|name| name.starts_with("weak_joint@tail:")), "{names:?}");
            assert!(share >= 0.9 && found["next"].is_null() && share > before);
            return;
        }
        before = before.max(0.0);
        let next = &found["next"];
        let probes: Vec<&str> = next["probes"].as_array().expect("probes").iter().filter_map(Value::as_str).collect();
        let value = match (next["setting"].as_str().expect("a setting"), probes.as_slice()) {
            ("volts", [red, black]) => volts(&truth, red, black),
            (_, ["source"]) => truth["source_a"].as_f64().expect("amps"),
            (_, [feed]) => truth["amps"][feed].as_f64().expect("amps"),
            other => panic!("{other:?}"),
        };
        read.push(json!({ "setting": next["setting"], "probes": probes, "value": value }));
    }
    panic!("not found after 12 checks");
}

#[test]
fn a_life_behind_a_build_weighs_on_its_suspects() {
    let trike = sample("trike");
    let saw = json!([{ "light": "tail", "symptom": "dark", "from": null }, { "light": "front", "symptom": "fine", "from": null }]);
    let share = |more: &Value, fault: &str| {
        let mut asked = json!({ "document": trike, "scene": "ride", "saw": saw });
        asked.as_object_mut().expect("an object").extend(more.as_object().expect("an object").clone());
        let found = answer("diagnose", &asked);
        let suspects = found["suspects"].as_array().expect("suspects").clone();
        let of = |one: &Value| one["fault"] == fault || one["like"].as_array().into_iter().flatten().any(|like| like == fault);
        suspects.iter().filter(|one| of(one)).filter_map(|one| one["share"].as_f64()).sum::<f64>()
    };
    let swapped = share(&json!({}), "reversed@tail");
    assert!(swapped > 0.05, "{swapped}");
    assert!(share(&json!({ "worked": ["tail", "front"] }), "reversed@tail") < 0.2 * swapped);
    assert!(share(&json!({ "worked": ["front"] }), "reversed@tail") >= swapped, "another light that worked says nothing of this one");
    assert!(share(&json!({ "failed": ["open@tail:plug", "open@tail:to+"] }), "open@tail:to+") > share(&json!({}), "open@tail:to+"));
    // What no build has is remembered for nothing.
    assert_eq!(share(&json!({ "failed": ["open@elsewhere:to+", "rain"] }), "reversed@tail"), swapped);
}

#[test]
fn every_reading_that_the_bench_expects_has_its_step() {
    for build in demo::BUILDS {
        let build: Value = serde_json::from_str(build).expect("a sample");
        let name = build["name"].as_str().expect("a name");
        let made = answer("make", &json!({ "document": build, "day": "2026-11-27", "now": 0, "done": [] }));
        let steps = made["steps"].as_array().expect("steps");
        let asked: Vec<(&str, Option<&str>)> = steps
            .iter()
            .flat_map(|step| step["readings"].as_array().into_iter().flatten().filter_map(Value::as_str).map(|stage| (stage, step["about"].as_str())))
            .collect();
        let list = answer("expect", &json!({ "document": build, "state": null }));
        let list = list.as_array().expect("checks");
        assert!(!list.is_empty() && !asked.is_empty(), "{name}");
        for check in list {
            // Nobody waits for a charger while the lights are being built in.
            let stage = check["step"].as_str().expect("a stage");
            let own = |about: &str| check["probes"].as_array().into_iter().flatten().filter_map(Value::as_str).any(|probe| probe.starts_with(about));
            let has = asked.iter().any(|(known, about)| *known == stage && about.is_none_or(own));
            assert!(has || stage == "charging", "{name}: {} of {stage} is asked for by no step", check["id"]);
        }
    }
}

#[test]
fn one_bench_does_not_answer_for_another() {
    // The last build that was simulated is kept; another build, scene or state is another bench.
    let (trike, van) = (sample("trike"), sample("puppet"));
    let ask = |build: &Value, scene: &str, state: &str| answer("diagnose", &json!({ "document": build, "scene": scene, "state": state }))["hypotheses"].clone();
    let first = ask(&trike, "ride", "full");
    let other = ask(&van, "show", "full");
    assert_ne!(first, other);
    assert_eq!(ask(&trike, "ride", "half"), first);
    assert_eq!(ask(&trike, "ride", "full"), first);
    let mut fewer = trike.clone();
    fewer["lights"].as_array_mut().expect("lights").pop();
    for scene in fewer["scenes"].as_array_mut().expect("scenes") {
        let kept: Vec<String> =
            trike["lights"].as_array().expect("lights").iter().take(1).map(|light| light["id"].as_str().expect("an id").to_owned()).collect();
        scene["lights"].as_object_mut().expect("lights").retain(|id, _| kept.contains(id));
    }
    assert_ne!(ask(&fewer, "ride", "full"), first);
}

#[test]
fn faults_are_named_in_words_that_differ() {
    for word in ["trike", "puppet", "deck", "rover", "hexacopter", "chair"] {
        let build = sample(word);
        let all = answer("faults", &json!({ "document": build }));
        let all = all.as_array().expect("faults");
        let mut words: Vec<&str> = all.iter().map(|fault| fault["words"].as_str().expect("words")).collect();
        assert!(words.len() > 20 && words.iter().all(|words| words.len() > 10), "{word}");
        words.sort_unstable();
        let twice: Vec<&[&str]> = words.windows(2).filter(|pair| pair[0] == pair[1]).collect();
        assert!(twice.is_empty(), "{word}: {twice:?}");
    }
}

#[test]
fn a_list_is_asked_for_at_a_state_that_there_is() {
    let hexacopter = sample("hexacopter");
    let refusal = ask("expect", json!({ "document": hexacopter, "state": "half" }).to_string().as_bytes()).expect_err("a rail has one state");
    assert!(refusal.detail.contains("Name one of rail"), "{}", refusal.detail);
    let trike = sample("trike");
    let at = |state: &str| answer("expect", &json!({ "document": trike, "state": state }));
    let source = |list: &Value| list.as_array().expect("checks").iter().find(|check| check["id"] == "scene-ride-source").expect("a check")["expected"].clone();
    assert!(source(&at("reserve")).as_f64() > source(&at("full")).as_f64(), "the module takes more current from fewer volts");
}

/// Probes, the plan's figures and the netlist mean one frame of a show, and say which.
#[test]
fn one_frame_of_a_show_is_meant_everywhere() {
    let mut seen = 0;
    for text in demo::BUILDS {
        let build = orthavis_core::document::parse(text).expect("a sample");
        let document: Value = serde_json::from_str(text).expect("json");
        for point in orthavis_core::report::report(&build).expect("a report").points.iter().filter(|point| point.frame_s.is_some()) {
            let probed = answer("probe", &json!({ "document": document, "scene": point.scene, "state": point.state }));
            assert_eq!(probed["frame_s"].as_f64(), point.frame_s);
            for (light, here) in &point.lights {
                let read = volts(&probed, &format!("{light}:to+"), &format!("{light}:to-"));
                assert!((read - here.voltage_v).abs() < 1e-6, "{} {light}: {read} V, solved {} V", build.name, here.voltage_v);
            }
            let scene = build.scenes.iter().find(|scene| scene.id == point.scene).expect("its scene");
            let netlist = orthavis_core::netlist::netlist(&build, scene, point.state).expect("a netlist");
            assert!(netlist.contains(&format!("at {:.2} s", point.frame_s.unwrap_or(0.0))), "{netlist}");
            seen += 1;
        }
    }
    assert!(seen > 3, "{seen} frames");
}
