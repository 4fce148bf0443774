//! The table of fields is what the reader does: every limit, every word and every default of it.

use orthavis_model::demo;
use orthavis_model::document::field::{Empty, Field, Shape};
use orthavis_model::document::tables::{CHOICES, PART_KINDS, Placing, TABLES, field, word_lists};
use orthavis_model::document::{Build, parse, parse_stored, parse_value};
use orthavis_model::glossary;
use orthavis_testing::case;
use serde_json::{Map, Value, json};
use std::collections::{BTreeMap, BTreeSet};

const CASES: [&str; 8] =
    ["trike-arrays", "van-strips", "deck-pixels", "boost-and-driver", "chair-24v", "hex-rail", "two-supplies-one-strip", "bare-lipo-linear"];

/// Every kind of circuit, output, effect and converter, each with all that it can have.
fn every_kind() -> Build {
    let feed = json!({ "from": "source", "length_m": 0.5, "gauge": { "awg": 22 } });
    let led = json!({ "vf_v": 2.0, "if_a": 0.02, "if_max_a": 0.03 });
    let circuits = json!([
        { "kind": "timer_flasher", "parts": { "ra_ohm": 1e4, "rb_ohm": 1e5, "c_f": 1e-5, "timer": "cmos", "diode": true, "through": "npn", "base_ohm": 1e3 } },
        { "kind": "transistor_flasher", "parts": { "r1_ohm": 1e4, "r2_ohm": 1e4, "c1_f": 1e-5, "c2_f": 1e-5 } },
        { "kind": "breakdown_flasher", "parts": { "r_ohm": 1e3, "c_f": 1e-4, "fire_v": 9, "let_go_v": 7 } },
        { "kind": "hold_up", "parts": { "bridge": true, "charge_ohm": 22, "c_f": 1e-3, "c_rated_v": 25, "esr_ohm": 0.1, "taps_ohm": [470], "tap": 1, "wanted_s": 2 } },
        { "kind": "battery_gauge", "parts": { "rs_ohm": 220, "rb_ohm": 1e3, "rc_ohm": 470, "diodes": 2, "led_good": led, "led_low": led } },
        { "kind": "switch", "parts": { "base_ohm": 1e3, "through": "mosfet", "logic_v": 3.3 } },
    ]);
    let converters = json!([
        { "kind": "buck", "set_v": 5, "dropout_v": 1, "efficiency": 0.9, "pass_drop_v": 0.4 },
        { "kind": "boost", "set_v": 20, "pass_drop_v": 0.4, "efficiency": 0.9, "dropout_v": 1 },
        { "kind": "buck_boost", "set_v": 12, "efficiency": 0.9, "dropout_v": 1, "pass_drop_v": 0.4 },
        { "kind": "linear", "set_v": 5, "dropout_v": 1, "pass_drop_v": 0.4, "efficiency": 1 },
        { "kind": "current_driver", "set_a": 0.35, "dropout_v": 1, "efficiency": 0.9, "pass_drop_v": 0.4 },
    ]);
    let (moving, colours) = (json!({ "period_s": 2, "direction": -1 }), json!([[1, 0, 0], [0, 0, 1]]));
    let effects = [
        ("steady", json!({ "colours": colours })),
        ("blink", json!({ "colours": colours, "duty": 0.3 })),
        ("breathe", json!({ "colours": colours })),
        ("chase", json!({ "colours": colours, "spread": 4 })),
        ("to_and_fro", json!({ "colours": colours, "spread": 4 })),
        ("rainbow", json!({})),
        ("gradient", json!({ "colours": colours })),
        ("ember", json!({ "colours": colours, "seed": 7 })),
        ("level", json!({ "colours": colours, "input": "speed" })),
        ("mix", json!({ "colours": colours, "input": "speed" })),
        ("table", json!({ "input": "brake", "table": [{ "word": "on", "colour": [1, 0, 0] }, { "word": "off", "effect": { "kind": "rainbow" } }] })),
    ];
    let mut document = case("deck-pixels").to_value();
    let with = |lists: &Value, add: &dyn Fn(usize) -> Value| -> Value {
        let each = lists.as_array().expect("a list").iter().enumerate().map(|(at, one)| merged(one, &add(at)));
        each.collect()
    };
    document["circuits"] = with(&circuits, &|at| json!({ "id": format!("circuit-{at}"), "feed": feed, "drives": [], "mass_g": 3, "place": "deck" }));
    let range = json!({ "min_in_v": 6, "max_in_v": 60, "max_out_a": 1, "max_in_a": 2, "idle_a": 0.01, "max_loss_w": 2, "mass_g": 9, "feed": feed });
    document["converters"] = with(&converters, &|at| merged(&range, &json!({ "id": format!("module-{at}") })));
    let first = document["lights"][0].clone();
    let lights = (0..effects.len()).map(|at| merged(&first, &json!({ "id": format!("strip-{at}"), "feeds": [feed] })));
    document["lights"] = lights.collect();
    let lit = effects.into_iter().enumerate().map(|(at, (kind, own))| {
        let repeats = !matches!(kind, "steady" | "ember" | "level" | "mix" | "table");
        let own = if repeats { merged(&own, &moving) } else { own };
        (format!("strip-{at}"), json!({ "effect": merged(&own, &json!({ "kind": kind })) }))
    });
    document["scenes"] = json!([{ "id": "all", "name": "All", "lights": lit.collect::<Map<_, _>>() }]);
    document["usage"] = json!({});
    document["controllers"] = json!([{ "id": "brain", "kind": "microcontroller", "feed": feed, "outputs": [
        { "kind": "data", "pin": "D1", "chain": [{ "light": "strip-0" }, { "copies": ["strip-1", "strip-2"], "mounted": "against", "wire_m": 0.2 }] },
        { "kind": "pin", "pin": "D2", "light": "strip-3", "through": "npn", "ohm": 470, "hz": 500 },
    ] }]);
    parse_value(&document).unwrap_or_else(|error| panic!("{error}"))
}

fn merged(one: &Value, other: &Value) -> Value {
    let mut all = one.as_object().expect("an object").clone();
    all.extend(other.as_object().expect("an object").clone());
    Value::Object(all)
}

fn builds() -> Vec<Build> {
    let samples = demo::BUILDS.iter().map(|text| parse(text).expect("a sample build"));
    samples.chain(CASES.into_iter().map(case)).chain([every_kind()]).collect()
}

#[test]
fn every_kind_is_written_as_it_is_read() {
    let build = every_kind();
    assert_eq!(parse(&build.print()).expect("sound"), build);
}

/// What belongs to another kind is refused at its place, and the remedy names the kinds that it belongs to.
#[test]
fn a_field_of_another_kind_is_refused() {
    let whole = every_kind().to_value();
    for (at, value, kinds) in [
        ("/circuits/0/parts/taps_ohm", json!([470]), "`hold_up`"),
        ("/circuits/5/parts/fire_v", json!(9), "`breakdown_flasher`"),
        ("/converters/0/set_a", json!(0.3), "`current_driver`"),
        ("/converters/4/set_v", json!(5), "`buck`, `boost`, `buck_boost`, `linear`"),
        ("/controllers/0/outputs/0/light", json!("strip-0"), "`pin`"),
        ("/controllers/0/outputs/1/chain", json!([]), "`data`"),
        ("/scenes/0/lights/strip-0/effect/period_s", json!(1), "`blink`, `breathe`, `chase`, `to_and_fro`, `rainbow`, `gradient`"),
        ("/scenes/0/lights/strip-7/effect/direction", json!(1), "`blink`"),
        ("/lights/0/load/power_w", json!(5), "`module`"),
        ("/source/wave", json!("ac"), "`track`"),
    ] {
        let error = parse_value(&with(&whole, at, Some(value.clone()))).expect_err(at);
        let fault = error.faults.iter().find(|fault| fault.pointer == at).unwrap_or_else(|| panic!("{at}: {error}"));
        assert!(fault.problem.contains(" has no `") && fault.remedy.contains(kinds), "{at}: {} {}", fault.problem, fault.remedy);
        // A document that an earlier version kept with it is read all the same, without it.
        let kept = with(&whole, at, Some(value));
        assert_eq!(parse_stored(&kept.to_string()).unwrap_or_else(|error| panic!("{at}: {error}")), every_kind(), "{at}");
        // Nothing is nothing, whichever kind it is of.
        assert!(parse_value(&with(&whole, at, Some(Value::Null))).is_ok(), "{at}");
    }
}

/// Calls `seen` for every object of a value with its pointer and the name of its type.
fn objects(value: &Value, pointer: &str, name: &str, seen: &mut impl FnMut(&str, &str, &Map<String, Value>)) {
    let Some(map) = value.as_object() else { return };
    let kind = map.get("kind").and_then(Value::as_str);
    let chosen = |choice: &str| CHOICES.iter().find(|known| known.name == choice).and_then(|known| Some((known.place, known.record(kind?)?)));
    let name = chosen(name).map_or(name, |(_, record)| record);
    let name = if name == "Efficiency" { "EfficiencyPoint" } else { name };
    seen(pointer, name, map);
    // What a choice adds to the object that holds it.
    for own in TABLES.iter().filter(|table| table.name == name).flat_map(|table| table.fields) {
        match chosen(own.item()) {
            Some((Placing::Beside(content), record)) => objects(&map[content], &format!("{pointer}/{content}"), record, seen),
            Some((Placing::Among(_), record)) => objects(value, pointer, record, seen),
            _ => {}
        }
    }
    for (key, inner) in map {
        let Some(held) = field(name, key).filter(|held| chosen(held.item()).is_none_or(|(place, _)| place == Placing::Own)) else { continue };
        let at = format!("{pointer}/{}", key.replace('~', "~0").replace('/', "~1"));
        match inner {
            Value::Array(items) => items.iter().enumerate().for_each(|(index, item)| objects(item, &format!("{at}/{index}"), held.item(), seen)),
            Value::Object(entries) if held.shape == Shape::List => {
                entries.iter().for_each(|(id, entry)| objects(entry, &format!("{at}/{id}"), held.item(), seen));
            }
            other => objects(other, &at, held.item(), seen),
        }
    }
}

/// Every field that some build holds, once, with the build and the pointer.
fn held() -> Vec<(Value, String, &'static Field)> {
    let mut found: BTreeMap<(String, &str), (Value, String, &'static Field)> = BTreeMap::new();
    for build in builds() {
        let whole = build.to_value();
        objects(&whole, "", "Build", &mut |pointer, name, map| {
            // Two ways of writing a size, and the kinds of part, are no records.
            if matches!(name, "Gauge" | "What") {
                return;
            }
            let table = TABLES.iter().find(|table| table.name == name).unwrap_or_else(|| panic!("{name} at {pointer} has no table"));
            for field in table.fields.iter().filter(|field| map.get(field.name).is_some_and(|value| !value.is_null())) {
                found.entry((name.to_owned(), field.name)).or_insert_with(|| (whole.clone(), format!("{pointer}/{}", field.name), field));
            }
        });
    }
    found.into_values().collect()
}

fn with(whole: &Value, pointer: &str, value: Option<Value>) -> Value {
    let mut changed = whole.clone();
    let (parent, key) = pointer.rsplit_once('/').expect("a pointer");
    let map = changed.pointer_mut(parent).and_then(Value::as_object_mut).unwrap_or_else(|| panic!("{pointer}"));
    match value {
        Some(value) => drop(map.insert(key.to_owned(), value)),
        None => drop(map.remove(key)),
    }
    changed
}

fn faulty(whole: &Value, pointer: &str, value: Value) -> bool {
    let read = parse_value(&with(whole, pointer, Some(value)));
    read.is_err_and(|error| error.faults.iter().any(|fault| fault.pointer.starts_with(pointer)))
}

#[test]
fn most_fields_are_held_by_some_build() {
    let named: usize = TABLES.iter().filter(|table| table.name != "Part").map(|table| table.fields.len()).sum();
    let held = held().len();
    assert!(10 * held > 8 * named, "{held} of {named}");
}

#[test]
fn a_figure_just_outside_its_range_is_refused_at_its_place() {
    for (whole, pointer, field) in held().into_iter().filter(|(.., field)| matches!(field.shape, Shape::Number | Shape::Whole)) {
        let range = field.rule.range;
        let below = if range.open { range.min } else { range.min - 0.001 * range.min.abs().max(1.0) };
        for outside in [below, 1.001 * range.max + f64::from(u8::from(range.max == 0.0))] {
            assert!(faulty(&whole, &pointer, json!(outside)), "{pointer} = {outside}");
        }
        assert!(faulty(&whole, &pointer, json!("1")), "{pointer}: text for a figure");
        assert!(!faulty(&whole, &pointer, whole.pointer(&pointer).cloned().expect("held")), "{pointer}: its own value");
    }
}

#[test]
fn a_field_may_be_left_out_exactly_when_the_table_says_so() {
    for (whole, pointer, field) in held() {
        let read = parse_value(&with(&whole, &pointer, None));
        let missing = read.as_ref().is_err_and(|error| error.faults.iter().any(|fault| fault.pointer == pointer && fault.problem.contains("missing")));
        assert_eq!(missing, field.needed(), "{pointer}");
        let (Ok(build), Empty::Number(usual)) = (read, field.rule.empty) else { continue };
        let now = build.to_value();
        let there = now.pointer(&pointer).cloned().unwrap_or(Value::Null);
        let expected = if field.shape == Shape::Triple { json!([usual, usual, usual]) } else { json!(usual) };
        let same = there == expected || there.as_f64() == Some(usual) || (field.optional && there.is_null());
        assert!(same, "{pointer}: {there} for {expected}");
    }
}

#[test]
fn every_word_of_a_list_is_read_and_no_other() {
    let lists = word_lists();
    for (whole, pointer, field) in held().into_iter().filter(|(.., field)| field.shape == Shape::Word) {
        let list = lists.iter().find(|list| list.name == field.item()).unwrap_or_else(|| panic!("{}", field.item()));
        for (word, called) in &list.words {
            assert!(!called.is_empty());
            let read = parse_value(&with(&whole, &pointer, Some(json!(word))));
            // Another word may not suit the rest of the build, but it is a word.
            let unknown = read.is_err_and(|error| error.faults.iter().any(|fault| fault.pointer == pointer && fault.problem.contains("not known")));
            assert!(!unknown, "{pointer} = {word}");
        }
        assert!(faulty(&whole, &pointer, json!("plutonium")), "{pointer}");
    }
}

#[test]
fn a_text_is_as_long_as_the_table_allows() {
    for (whole, pointer, field) in held().into_iter().filter(|(.., field)| field.shape == Shape::Text && field.name != "format") {
        assert!(field.rule.most > 0, "{pointer}");
        assert!(faulty(&whole, &pointer, json!("x".repeat(field.rule.most + 1))), "{pointer}");
    }
}

#[test]
fn every_field_that_a_person_fills_in_has_a_label_and_its_words_are_explained() {
    let known: BTreeSet<&str> = glossary::entries().iter().map(|entry| entry.term.as_str()).collect();
    for table in TABLES.iter().chain(PART_KINDS) {
        for field in table.fields {
            let at = format!("{}.{}", table.name, field.name);
            assert!(!field.about.is_empty(), "{at} says nothing of itself");
            let filled = matches!(field.shape, Shape::Number | Shape::Whole | Shape::Triple | Shape::Flag) && !field.rule.carried;
            assert!(!filled || !field.rule.label.is_empty(), "{at} has no label");
            assert!(field.rule.term.is_empty() || known.contains(field.rule.term), "{at}: `{}` is not in the glossary", field.rule.term);
        }
    }
}
