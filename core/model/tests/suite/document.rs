//! The grammar of the document: what is read comes out as it was, what is wrong is named with its place and remedy.

use orthavis_model::document::{Build, parse, parse_value};
use orthavis_testing::{case, cases, file};
use proptest::prelude::*;
use serde_json::{Value, json};

const CASES: [&str; 8] =
    ["trike-arrays", "van-strips", "deck-pixels", "boost-and-driver", "chair-24v", "hex-rail", "two-supplies-one-strip", "bare-lipo-linear"];

#[test]
fn printing_and_reading_gives_the_same_build() {
    for name in CASES {
        let build = case(name);
        assert_eq!(parse(&build.print()).expect(name), build, "{name}");
        assert_eq!(parse_value(&build.to_value()).expect(name), build, "{name}");
    }
}

#[test]
fn nothing_of_a_full_document_is_dropped_or_made_up() {
    for name in CASES {
        let given: Value = serde_json::from_str(&file(&format!("cases/{name}.json"))).expect("json");
        let printed = case(name).to_value();
        assert_covers(&given, &printed, name);
    }
}

/// Every value of `given` stands in `printed`; numbers compare as numbers.
fn assert_covers(given: &Value, printed: &Value, path: &str) {
    match (given, printed) {
        (Value::Object(a), Value::Object(b)) => {
            a.iter().for_each(|(key, value)| assert_covers(value, b.get(key).unwrap_or(&Value::Null), &format!("{path}/{key}")))
        }
        (Value::Array(a), Value::Array(b)) => {
            assert_eq!(a.len(), b.len(), "{path}");
            a.iter().zip(b).enumerate().for_each(|(i, (x, y))| assert_covers(x, y, &format!("{path}/{i}")));
        }
        (Value::Number(a), Value::Number(b)) => assert_eq!(a.as_f64(), b.as_f64(), "{path}"),
        (a, b) => assert_eq!(a, b, "{path}"),
    }
}

/// The case with `value` put at `pointer`; `null` removes it.
fn spoiled(name: &str, pointer: &str, value: &Value) -> Value {
    let mut document = case(name).to_value();
    let (parent, key) = pointer.rsplit_once('/').expect("a pointer");
    let parent = document.pointer_mut(parent).expect(pointer);
    match (parent, value) {
        (Value::Object(map), Value::Null) => drop(map.remove(key)),
        (Value::Object(map), value) => drop(map.insert(key.to_owned(), value.clone())),
        (Value::Array(items), value) => items[key.parse::<usize>().expect("an index")] = value.clone(),
        _ => panic!("{pointer}"),
    }
    document
}

#[test]
fn faults_name_the_field_and_the_remedy() {
    // Base, where, what is put there, the pointer of the fault, words of the fault or remedy.
    let table = [
        ("trike-arrays", "/name", json!(null), "/name", "missing"),
        ("trike-arrays", "/format", json!("orthavis.build/2"), "/format", "orthavis.build/1"),
        ("trike-arrays", "/nmae", json!("x"), "/nmae", "Did you mean `name`"),
        ("trike-arrays", "/lights/1/load/sereis", json!(3), "/lights/1/load/sereis", "`series`"),
        ("deck-pixels", "/lights/0/load/pixle", json!(1), "/lights/0/load/pixle", "not a field"),
        ("trike-arrays", "/lights/0/load/kind", json!("laser"), "/lights/0/load/kind", "led_array"),
        ("trike-arrays", "/source/capacity_ah", json!(0), "/source/capacity_ah", "above 0"),
        ("trike-arrays", "/source/capacity_ah", json!("14"), "/source/capacity_ah", "not a number"),
        ("trike-arrays", "/source/series", json!(2.5), "/source/series", "whole number"),
        ("trike-arrays", "/source/chemistry", json!("plutonium"), "/source/chemistry", "li_ion"),
        ("trike-arrays", "/source/usable_fraction", json!(1.2), "/source/usable_fraction", "outside its range"),
        ("trike-arrays", "/converters/0/efficiency", json!(1.01), "/converters/0/efficiency", "outside its range"),
        ("trike-arrays", "/converters/0/efficiency", json!([]), "/converters/0/efficiency", "empty"),
        ("trike-arrays", "/converters/0/efficiency/1/vin_v", json!(20), "/converters/0/efficiency/1/vin_v", "rising"),
        ("trike-arrays", "/converters/0/set_v", json!(null), "/converters/0/set_v", "needs it"),
        ("boost-and-driver", "/converters/1/set_a", json!(null), "/converters/1/set_a", "needs it"),
        ("trike-arrays", "/converters/0/min_in_v", json!(90), "/converters/0/min_in_v", "above `max_in_v`"),
        ("trike-arrays", "/converters/0/feed/gauge", json!({"awg": 20, "mm2": 0.5}), "/converters/0/feed/gauge", "exactly one"),
        ("trike-arrays", "/converters/0/feed/length_m", json!(-1), "/converters/0/feed/length_m", "outside its range"),
        ("trike-arrays", "/converters/0/feed/from", json!("nowhere"), "/converters/0/feed/from", "not a supplier"),
        ("trike-arrays", "/converters/0/feed/from", json!("twelve"), "/converters/0/feed/from", "circle"),
        ("trike-arrays", "/lights/0/id", json!("tail"), "/lights/1/id", "used twice"),
        ("trike-arrays", "/lights/0/id", json!("twelve"), "/lights/0/id", "used twice"),
        ("trike-arrays", "/lights/0/id", json!("source"), "/lights/0/id", "cannot be an id"),
        ("trike-arrays", "/lights/0/id", json!("a#1"), "/lights/0/id", "cannot be an id"),
        ("trike-arrays", "/lights/0/feeds", json!([]), "/lights/0/feeds", "no feed"),
        ("trike-arrays", "/lights/0/load/led/if_max_a", json!(0.01), "/lights/0/load/led/if_max_a", "below the rated"),
        ("trike-arrays", "/scenes/0/lights/ghost", json!({}), "/scenes/0/lights/ghost", "not a light"),
        ("trike-arrays", "/scenes/0/lights/tail/level", json!(1.5), "/scenes/0/lights/tail/level", "from 0 to 1"),
        ("trike-arrays", "/usage/minutes/ghost", json!(1), "/usage/minutes/ghost", "not a scene"),
        ("van-strips", "/lights/0/feeds/1/at_m", json!(3.0), "/lights/0/feeds/1/at_m", "beyond the end"),
        ("van-strips", "/lights/0/load/voltage_v", json!(9.0), "/lights/0/load/voltage_v", "cannot light 3 LEDs"),
        ("van-strips", "/lights/2/load/min_v", json!(40), "/lights/2/load/min_v", "above `max_v`"),
        ("deck-pixels", "/lights/0/load/off_v", json!([3.0, 2.6, 2.6]), "/lights/0/load/regulation_v/0", "not above `off_v`"),
        ("deck-pixels", "/lights/0/load/channel_a", json!([0.01, 0.01]), "/lights/0/load/channel_a", "three numbers"),
        ("deck-pixels", "/lights/0/load/count", json!(19_999), "/lights", "too many"),
        ("boost-and-driver", "/lights/1/load/resistor_ohm", json!(10), "/lights/1/load/resistor_ohm", "Set it to 0"),
        ("boost-and-driver", "/lights/0/feeds/0/from", json!("drv"), "/converters/1/kind", "cannot feed"),
        ("trike-arrays", "/vehicle", json!(7), "/vehicle", "not an object"),
        ("trike-arrays", "/lights", json!({}), "/lights", "not a list"),
        ("trike-arrays", "/source/used_while_charging", json!("yes"), "/source/used_while_charging", "true or false"),
    ];
    for (base, at, value, pointer, words) in table {
        let error = parse_value(&spoiled(base, at, &value)).expect_err(&format!("{at} = {value}"));
        let fault = error.faults.iter().find(|fault| fault.pointer == pointer);
        let fault = fault.unwrap_or_else(|| panic!("{at} = {value}: no fault at {pointer}, but {error}"));
        let text = format!("{}. {}", fault.problem, fault.remedy);
        assert!(text.contains(words), "{at} = {value}: {text}");
        assert!(!fault.remedy.is_empty(), "{at}: no remedy");
    }
}

#[test]
fn several_feeds_into_an_array_are_a_loop() {
    let mut document = case("trike-arrays").to_value();
    let feed = document["lights"][0]["feeds"][0].clone();
    document["lights"][0]["feeds"].as_array_mut().expect("feeds").push(feed);
    let error = parse_value(&document).expect_err("a loop");
    assert_eq!(error.faults[0].pointer, "/lights/0/feeds/1");
}

#[test]
fn a_feed_is_found_by_its_id_and_by_its_supplier() {
    for (name, build) in cases() {
        let all = build.feeds();
        for feed in &all {
            let found = build.feed(&feed.id).expect("it is there");
            assert_eq!((&found.id, found.number, found.consumer, found.feed), (&feed.id, feed.number, feed.consumer, feed.feed), "{name}");
            let here: Vec<String> = build.feeds_from(&feed.feed.from).map(|feed| feed.id).collect();
            let wanted: Vec<&String> = all.iter().filter(|other| other.feed.from == feed.feed.from).map(|other| &other.id).collect();
            assert_eq!(here.iter().collect::<Vec<_>>(), wanted, "{name}");
        }
        for unknown in ["nothing", "source", "", &format!("{}#0", all[0].id), &format!("{}#99", all[0].id)] {
            assert!(build.feed(unknown).is_none(), "{name}: {unknown}");
        }
    }
}

#[test]
fn all_faults_are_told_at_once() {
    let mut document = case("trike-arrays").to_value();
    document["source"]["capacity_ah"] = json!(-1);
    document["converters"][0]["idle_a"] = json!(-1);
    document["usage"]["outings"] = json!(1);
    assert_eq!(parse_value(&document).expect_err("faults").faults.len(), 3);
}

#[test]
fn text_that_is_no_document_is_refused_in_words() {
    let deep = "[".repeat(100_000);
    let table = [
        ("", "not readable JSON"),
        ("{", "not readable JSON"),
        ("[]", "not an object"),
        ("{\"a\":1,\"a\":2}", "there twice"),
        ("{\"a\":1e999}", "not readable JSON"),
        (deep.as_str(), "not readable JSON"),
    ];
    for (text, words) in table {
        let error = parse(text).expect_err(words).to_string();
        assert!(error.contains(words), "{words}: {error}");
    }
    assert!(parse(&" ".repeat(5 << 20)).expect_err("too long").to_string().contains("4 MiB"));
}

#[test]
fn what_may_be_left_out_has_its_default() {
    let text = r#"{"format":"orthavis.build/1","name":"least","vehicle":{"kind":"other","mass_kg":1},
        "source":{"kind":"rail","voltage_v":5,"max_current_a":1},
        "lights":[{"id":"a","feeds":[{"from":"source","length_m":1,"gauge":{"mm2":0.5}}],
            "load":{"kind":"module","draw":"resistive","voltage_v":5,"power_w":1}}],
        "scenes":[{"id":"on","lights":{"a":{}}}]}"#;
    let build: Build = parse(text).expect("the least document");
    let lit = &build.scenes[0].lights["a"];
    assert_eq!((lit.level, lit.colour, lit.duty), (1.0, [1.0; 3], 1.0));
    assert_eq!((build.lights[0].feeds[0].bundled, build.scenes[0].name.as_str()), (1, "on"));
}

fn any_json() -> impl Strategy<Value = Value> {
    let words = ["format", "kind", "lights", "source", "feed", "from", "load", "id", "battery", "pixels", "orthavis.build/1"];
    let leaf = prop_oneof![
        Just(Value::Null),
        any::<bool>().prop_map(Value::from),
        any::<f64>().prop_map(Value::from),
        any::<i64>().prop_map(Value::from),
        proptest::sample::select(words.to_vec()).prop_map(Value::from),
        ".{0,8}".prop_map(Value::from),
    ];
    leaf.prop_recursive(4, 48, 6, move |inner| {
        let keys = prop_oneof![proptest::sample::select(words.to_vec()).prop_map(str::to_owned), ".{0,6}".prop_map(String::from)];
        prop_oneof![
            proptest::collection::vec(inner.clone(), 0..6).prop_map(Value::from),
            proptest::collection::hash_map(keys, inner, 0..6).prop_map(|map| Value::Object(map.into_iter().collect())),
        ]
    })
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 512, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn random_bytes_never_panic(bytes in proptest::collection::vec(any::<u8>(), 0..400)) {
        if let Ok(build) = parse(&String::from_utf8_lossy(&bytes)) {
            prop_assert_eq!(parse(&build.print()).expect("its own print"), build);
        }
    }

    #[test]
    fn random_json_never_panics(value in any_json()) {
        if let Err(error) = parse_value(&value) {
            prop_assert!(!error.faults.is_empty());
        }
    }

    /// A sound document with one value replaced: refused with a pointer into it, or read and printed unchanged.
    #[test]
    fn a_spoiled_document_is_refused_or_sound(case_index in 0..CASES.len(), pick in any::<prop::sample::Index>(), value in any_json()) {
        let mut document = case(CASES[case_index]).to_value();
        let mut pointers = Vec::new();
        leaves(&document, String::new(), &mut pointers);
        let pointer = pick.get(&pointers).clone();
        *document.pointer_mut(&pointer).expect("a leaf") = value;
        match parse_value(&document) {
            Ok(build) => prop_assert_eq!(parse(&build.print()).expect("its own print"), build),
            Err(error) => prop_assert!(error.faults.iter().all(|fault| fault.pointer.is_empty() || fault.pointer.starts_with('/'))),
        }
    }
}

fn leaves(value: &Value, path: String, out: &mut Vec<String>) {
    match value {
        Value::Object(map) => map.iter().for_each(|(key, value)| leaves(value, format!("{path}/{}", key.replace('~', "~0").replace('/', "~1")), out)),
        Value::Array(items) => items.iter().enumerate().for_each(|(index, value)| leaves(value, format!("{path}/{index}"), out)),
        _ => out.push(path),
    }
}

/// What would ask for work without a bound is refused by its field, at once and without the work.
#[test]
fn absurd_sizes_are_refused_by_their_field() {
    let refused = |document: &Value| parse_value(document).expect_err("too much").to_string();
    let mut fine: Value = case("eight-metres-one-end").to_value();
    fine["lights"][0]["load"]["segment_m"] = json!(1e-300);
    assert!(refused(&fine).contains("/lights/0/load/segment_m"), "{}", refused(&fine));
    let mut close = case("bare-lipo-linear").to_value();
    close["lights"][0]["load"]["pitch_m"] = json!(1e-6);
    assert!(refused(&close).contains("/lights/0/load/pitch_m"));
    // Each within its bounds, too many together.
    let mut long = case("eight-metres-one-end").to_value();
    long["lights"][0]["load"]["length_m"] = json!(9000.0);
    assert!(refused(&long).contains("segments and pixels are too many"));
    let chain = |links: usize| {
        let mut deep = case("eight-metres-one-end").to_value();
        let link = |n: usize| {
            let from = if n == 0 { "source".to_owned() } else { format!("link-{}", n - 1) };
            json!({ "id": format!("link-{n}"), "feed": { "from": from, "length_m": 0.1, "gauge": { "awg": 14 } } })
        };
        deep["junctions"] = (0..links).map(link).collect();
        deep
    };
    assert!(parse_value(&chain(31)).is_ok());
    assert!(refused(&chain(500)).contains("in a row"));
    let mut scenes = case("van-strips").to_value();
    scenes["scenes"] = (0..100).map(|n| json!({ "id": format!("scene-{n}"), "lights": {} })).collect();
    scenes["usage"] = json!({});
    let light = scenes["lights"][0].clone();
    scenes["lights"] = (0..300)
        .map(|n| {
            let mut copy = light.clone();
            copy["id"] = json!(format!("light-{n}"));
            copy
        })
        .collect();
    assert!(refused(&scenes).contains("/scenes"));
}
