//! Practice as the page asks for it: what is hidden stays hidden until it is found or given up, and what was done decides
//! what comes back.

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

fn refused(name: &str, question: &Value) -> String {
    ask(name, question.to_string().as_bytes()).expect_err("a refusal").detail
}

/// In a scene in which such a fault can be seen.
fn drill(level: u8, seed: u32) -> Value {
    let scene = if level == 4 { "evening" } else { "show" };
    json!({ "document": sample("puppet"), "scene": scene, "state": "full", "level": level, "seed": seed })
}

fn meter() -> Value {
    json!({ "serial": 7, "amps_fuse": true, "milliamps_fuse": true, "zeroed": false })
}

#[test]
fn what_is_hidden_is_told_only_when_it_is_found_or_given_up() {
    for level in 1..=6 {
        let dealt = answer("drill", &drill(level, 11));
        let told = answer("answer", &json!({ "drill": drill(level, 11), "guess": null }));
        let fault = told["fault"].as_str().expect("a fault");
        assert_eq!(told["right"], false, "giving up is not finding");
        assert!(told["search_s"].as_f64().is_some_and(|seconds| seconds >= 0.0) && told["words"].is_string() && told["repair"].is_string());
        // Nothing of what the page gets names it but the list of all that could be.
        let mut shown = dealt.clone();
        shown.as_object_mut().expect("an object").remove("answers");
        assert!(!shown.to_string().contains(fault), "level {level}: {fault} is given away");
        let answers = dealt["answers"].as_array().expect("answers");
        let right: Vec<&str> = answers
            .iter()
            .filter_map(|one| one["fault"].as_str())
            .filter(|guess| answer("answer", &json!({ "drill": drill(level, 11), "guess": guess }))["right"] == true)
            .collect();
        assert!(!right.is_empty(), "level {level}: {fault} cannot be answered");
        let place = |name: &str| name.split('@').nth(1).map(|place| place.split('=').next().unwrap_or("").to_owned());
        assert!(right.iter().all(|guess| place(guess) == place(fault)), "level {level}: {right:?} for {fault}");
        let wrong = answers.iter().find_map(|one| one["fault"].as_str().filter(|guess| !right.contains(guess))).expect("a wrong one");
        let missed = answer("answer", &json!({ "drill": drill(level, 11), "guess": wrong }));
        assert_eq!((&missed["right"], &missed["fault"], &missed["search"]), (&json!(false), &Value::Null, &json!([])), "a miss tells nothing");
    }
}

#[test]
fn a_seed_is_one_drill_and_seeds_differ() {
    let of = |seed: u32| answer("answer", &json!({ "drill": drill(3, seed), "guess": null }))["fault"].clone();
    assert_eq!(of(5), of(5));
    let different: std::collections::BTreeSet<String> = (0..12).map(|seed| of(seed).to_string()).collect();
    assert!(different.len() >= 4, "{different:?}");
}

#[test]
fn a_meter_reads_the_build_with_its_fault_and_remembers_what_became_of_it() {
    let read = |power: bool, setting: &str, probes: Value, meter: Value| {
        answer("measure", &json!({ "drill": drill(2, 3), "power": power, "setting": setting, "probes": probes, "meter": meter }))
    };
    let volts = read(true, "volts", json!(["source+", "source-"]), meter());
    assert!(volts["value"].as_f64().is_some_and(|volts| (12.5..14.6).contains(&volts)), "{volts}");
    assert_eq!((volts["unit"].as_str(), volts["work_s"].as_f64(), &volts["says"]), (Some("V"), Some(10.0), &Value::Null));
    let blown = read(true, "amps", json!(["source+", "source-"]), meter());
    assert_eq!((blown["event"].as_str(), &blown["value"]), (Some("fuse_blown"), &Value::Null));
    assert_eq!(blown["meter"]["amps_fuse"], false);
    assert!(blown["says"].as_str().is_some_and(|says| says.starts_with("The fuse in the meter blew") && says.ends_with('.')));
    // The same meter again, in line: it reads nothing until its fuse is renewed.
    let dead = read(true, "amps", json!(["source"]), blown["meter"].clone());
    assert_eq!((dead["event"].as_str(), dead["value"].as_f64()), (Some("fuse_open"), Some(0.0)));
    let whole = read(true, "amps", json!(["source"]), meter());
    assert!(whole["value"].as_f64().is_some_and(|amps| amps > 0.5), "{whole}");
    let live = read(true, "ohms", json!(["stage-edge:to+", "stage-edge:to-"]), meter());
    let quiet = read(false, "ohms", json!(["stage-edge:to+", "stage-edge:to-"]), meter());
    assert!(quiet["event"].is_null() || live["event"] != quiet["event"], "with the power off nothing is spoilt");
    // An offset that zeroing takes away.
    let around = |zeroed: bool| {
        let mut meter = meter();
        meter["zeroed"] = json!(zeroed);
        read(true, "clamp", json!(["source"]), meter)["value"].as_f64().expect("amps")
    };
    assert!((around(false) - around(true)).abs() > 0.005, "the clamp is off until it is zeroed");
    for (setting, probes, words) in [
        ("volts", json!(["source+"]), "cannot be opened"),
        ("volts", json!(["nowhere", "source-"]), "is not a point of this build"),
        ("clamp", json!(["nobody"]), "there is no feed `nobody`"),
        ("volts", json!([]), "Give `probes` two points"),
        ("taste", json!(["source+", "source-"]), "not a setting known here"),
    ] {
        let said = refused("measure", &json!({ "drill": drill(2, 3), "power": true, "setting": setting, "probes": probes, "meter": meter() }));
        assert!(said.contains(words), "{setting} {probes}: {said}");
    }
}

#[test]
fn what_was_done_decides_what_comes_back() {
    let trike = sample("trike");
    let done = json!([
        { "topic": "level-3", "day": 100, "good": false }, { "topic": "strip", "day": 100, "good": true }, { "topic": "strip", "day": 101, "good": true },
        { "topic": "alchemy", "day": 1, "good": false },
    ]);
    let on = |today: i64| answer("practice", &json!({ "document": trike, "done": done, "today": today }));
    let stands = on(101);
    assert_eq!(stands["due"], json!(["level-3"]), "what went wrong comes back the next day, and a topic that is none never");
    assert_eq!(on(104)["due"], json!(["level-3", "strip"]), "longest due first");
    let levels = stands["levels"].as_array().expect("levels");
    assert_eq!(levels.len(), 6);
    assert_eq!(levels[2]["standing"]["due"], json!(101));
    assert!(levels.iter().all(|level| level["faults"].as_u64().is_some() && level["about"].is_string()));
    let lessons = stands["lessons"].as_array().expect("lessons");
    assert_eq!(lessons.len(), 8);
    let strip = lessons.iter().find(|lesson| lesson["id"] == "strip").expect("a lesson");
    assert_eq!((&strip["standing"]["times"], &strip["standing"]["row"], &strip["standing"]["due"]), (&json!(2), &json!(2), &json!(104)));
    for lesson in lessons {
        let taught = answer("lesson", &json!({ "lesson": lesson["id"] }));
        let positions = taught["positions"].as_array().expect("positions");
        assert!(positions.len() >= 2 && taught["right"].as_u64().is_some_and(|right| right < 3), "{lesson}");
        assert!(positions.iter().all(|position| position["figures"].as_array().is_some_and(|figures| !figures.is_empty())));
    }
}
