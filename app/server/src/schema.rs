//! The JSON Schema of the build document, from the same Rust types as the API.

use orthavis_core::demo;
use orthavis_core::document::limits::{LEAST_PITCH_M, LEAST_SEGMENT_M, MAX_BYTES, MAX_DEPTH, MAX_FEEDS, MAX_FIGURES, MAX_LIST, MAX_SCENES, MAX_TAPS};
use orthavis_core::document::{FORMAT, parse, parse_value};
use serde_json::{Map, Value, json};
use std::collections::{BTreeMap, BTreeSet};

/// The schema (draft 2020-12) of `orthavis.build/1`, as JSON.
///
/// The types say what there is and of what kind. What may be left out is asked of the parser: a field counts as
/// required when no sample build can be read without it.
pub fn build_schema() -> String {
    let api: Value = serde_json::from_str(&crate::openapi()).unwrap_or_default();
    let all = api["components"]["schemas"].as_object().cloned().unwrap_or_default();
    let mut wanted = vec!["Build".to_owned()];
    let mut definitions = Map::new();
    while let Some(name) = wanted.pop() {
        let Some(schema) = all.get(&name).filter(|_| !definitions.contains_key(&name)) else { continue };
        let mut schema = schema.clone();
        references(&mut schema, &mut wanted);
        definitions.insert(name, schema);
    }
    for (name, schema) in &mut definitions {
        bound(name, schema);
    }
    let optional = optional();
    for (name, schema) in &mut definitions {
        loosen(schema, optional.get(name.as_str()));
    }
    let schema = json!({
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": FORMAT,
        "description": format!(
            "At most {MAX_BYTES} bytes; at most {MAX_TAPS} segments and pixels in all, {MAX_DEPTH} converters and junctions in a row, and {MAX_FIGURES} parts and feeds times scenes."
        ),
        "$ref": "#/$defs/Build",
        "$defs": definitions,
    });
    serde_json::to_string_pretty(&schema).unwrap_or_default() + "\n"
}

/// Writes the limits of lists and the least lengths into a definition.
fn bound(name: &str, schema: &mut Value) {
    let lists: &[(&str, usize)] = match name {
        "Build" => &[
            ("junctions", MAX_LIST),
            ("converters", MAX_LIST),
            ("lights", MAX_LIST),
            ("standing", MAX_LIST),
            ("places", MAX_LIST),
            ("parts", MAX_LIST),
            ("scenes", MAX_SCENES),
        ],
        "Light" => &[("feeds", MAX_FEEDS)],
        _ => &[],
    };
    for (field, most) in lists {
        if let Some(list) = schema.pointer_mut(&format!("/properties/{field}")).and_then(Value::as_object_mut) {
            list.insert("maxItems".into(), json!(most));
        }
    }
    let least = match name {
        "Strip" => Some(("segment_m", LEAST_SEGMENT_M)),
        "Pixels" => Some(("pitch_m", LEAST_PITCH_M)),
        _ => None,
    };
    if let Some((field, least)) = least
        && let Some(length) = schema.pointer_mut(&format!("/properties/{field}")).and_then(Value::as_object_mut)
    {
        length.insert("minimum".into(), json!(least));
    }
}

/// Points every reference at `$defs` and lists what it names.
fn references(schema: &mut Value, wanted: &mut Vec<String>) {
    match schema {
        Value::Object(map) => {
            if let Some(Value::String(target)) = map.get_mut("$ref")
                && let Some(name) = target.strip_prefix("#/components/schemas/").map(str::to_owned)
            {
                *target = format!("#/$defs/{name}");
                wanted.push(name);
            }
            map.values_mut().for_each(|value| references(value, wanted));
        }
        Value::Array(items) => items.iter_mut().for_each(|value| references(value, wanted)),
        _ => {}
    }
}

/// Takes what may be left out from every `required` of a definition.
fn loosen(schema: &mut Value, optional: Option<&BTreeSet<String>>) {
    match schema {
        Value::Object(map) => {
            if let (Some(Value::Array(required)), Some(optional)) = (map.get_mut("required"), optional) {
                required.retain(|name| name.as_str().is_some_and(|name| !optional.contains(name)));
                if required.is_empty() {
                    map.remove("required");
                }
            }
            map.values_mut().for_each(|value| loosen(value, optional));
        }
        Value::Array(items) => items.iter_mut().for_each(|value| loosen(value, optional)),
        _ => {}
    }
}

/// By definition: the fields without which some sample build is still read.
fn optional() -> BTreeMap<&'static str, BTreeSet<String>> {
    let mut found: BTreeMap<&'static str, BTreeSet<String>> = BTreeMap::new();
    for build in demo::BUILDS.iter().filter_map(|text| parse(text).ok()) {
        let whole = build.to_value();
        visit(&whole, String::new(), &mut |pointer, object| {
            let Some(definition) = definition(pointer, object) else { return };
            for name in object.keys() {
                let mut without = whole.clone();
                if let Some(Value::Object(map)) = without.pointer_mut(pointer) {
                    map.remove(name);
                }
                if parse_value(&without).is_ok() {
                    found.entry(definition).or_default().insert(name.clone());
                }
            }
        });
    }
    found
}

/// Every object of a document with its pointer.
fn visit(value: &Value, pointer: String, seen: &mut impl FnMut(&str, &Map<String, Value>)) {
    match value {
        Value::Object(map) => {
            seen(&pointer, map);
            for (name, value) in map {
                visit(value, format!("{pointer}/{}", name.replace('~', "~0").replace('/', "~1")), seen);
            }
        }
        Value::Array(items) => {
            for (index, value) in items.iter().enumerate() {
                visit(value, format!("{pointer}/{index}"), seen);
            }
        }
        _ => {}
    }
}

/// The definition that an object of a document follows, by where it stands.
fn definition(pointer: &str, object: &Map<String, Value>) -> Option<&'static str> {
    let kind = object.get("kind").and_then(Value::as_str).unwrap_or_default();
    let steps: Vec<&str> = pointer.split('/').skip(1).filter(|step| step.parse::<usize>().is_err()).collect();
    Some(match steps[..] {
        [] => "Build",
        ["vehicle"] => "Vehicle",
        ["source"] if kind == "rail" => "Rail",
        ["source"] => "Battery",
        ["converters"] => "Converter",
        ["lights"] => "Light",
        ["junctions"] => "Junction",
        [.., "feed" | "feeds"] => "Feed",
        ["lights", "load"] => match kind {
            "led_array" => "LedArray",
            "strip" => "Strip",
            "pixels" => "Pixels",
            _ => "Module",
        },
        ["lights", "load", "led"] => "Led",
        ["standing"] => "Standing",
        ["scenes"] => "Scene",
        ["scenes", "lights", _] => "SceneLight",
        ["usage"] => "Usage",
        ["audit"] => "Audit",
        ["audit", "bulbs"] => "AuditBulb",
        ["places"] => "Place",
        _ => return None,
    })
}
