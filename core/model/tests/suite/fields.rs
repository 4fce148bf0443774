//! The table of fields is what the reader does: every limit, every word and every default of it.

use orthavis_model::demo;
use orthavis_model::document::field::{Empty, Field, Shape};
use orthavis_model::document::tables::{CHOICES, PART_KINDS, TABLES, field, word_lists};
use orthavis_model::document::{Build, parse, parse_value};
use orthavis_model::glossary;
use orthavis_testing::case;
use serde_json::{Map, Value, json};
use std::collections::{BTreeMap, BTreeSet};

const CASES: [&str; 8] =
    ["trike-arrays", "van-strips", "deck-pixels", "boost-and-driver", "chair-24v", "hex-rail", "two-supplies-one-strip", "bare-lipo-linear"];

fn builds() -> Vec<Build> {
    let samples = demo::BUILDS.iter().map(|text| parse(text).expect("a sample build"));
    samples.chain(CASES.into_iter().map(case)).collect()
}

/// Calls `seen` for every object of a value with its pointer and the name of its type.
fn objects(value: &Value, pointer: &str, name: &str, seen: &mut impl FnMut(&str, &str, &Map<String, Value>)) {
    let Some(map) = value.as_object() else { return };
    let kind = map.get("kind").and_then(Value::as_str);
    let chosen = CHOICES.iter().find(|(choice, _)| *choice == name).and_then(|(_, kinds)| kinds.iter().find(|(word, _)| Some(*word) == kind));
    let name = chosen.map_or(name, |(_, record)| record);
    let name = if name == "Efficiency" { "EfficiencyPoint" } else { name };
    seen(pointer, name, map);
    for (key, inner) in map {
        let Some(held) = field(name, key) else { continue };
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
            let filled = matches!(field.shape, Shape::Number | Shape::Whole | Shape::Triple | Shape::Flag);
            assert!(!filled || !field.rule.label.is_empty(), "{at} has no label");
            assert!(field.rule.term.is_empty() || known.contains(field.rule.term), "{at}: `{}` is not in the glossary", field.rule.term);
        }
    }
}
