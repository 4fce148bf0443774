//! The JSON Schema of the build document, from the same Rust types as the API.

use orthavis_core::document::FORMAT;
use orthavis_core::document::field::{Empty, Field, Shape, Table};
use orthavis_core::document::limits::{MAX_BYTES, MAX_DEPTH, MAX_FIGURES, MAX_TAPS};
use orthavis_core::document::tables;
use serde_json::{Map, Value, json};

/// The schema (draft 2020-12) of `orthavis.build/1`, as JSON.
///
/// The types say what there is and of what kind, the table of fields what may be left out and within which limits.
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
    for table in tables::TABLES {
        if let Some(schema) = definitions.get_mut(table.name) {
            loosen(schema, table);
        }
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

/// Writes what the table of fields says into the description of its object.
pub(crate) fn annotate(name: &str, schema: &mut Value) {
    if let Some(table) = tables::TABLES.iter().find(|table| table.name == name) {
        table.fields.iter().for_each(|field| describe(field, schema));
    }
    if name == "What" {
        for kind in schema["oneOf"].as_array_mut().into_iter().flatten() {
            let word = kind["properties"]["kind"]["enum"][0].as_str().unwrap_or_default();
            let table = tables::PART_KINDS.iter().find(|table| table.name == word);
            table.into_iter().flat_map(|table| table.fields).for_each(|field| describe(field, kind));
        }
    }
    if let Some(list) = tables::word_lists().into_iter().find(|list| list.name == name)
        && let Some(schema) = schema.as_object_mut()
    {
        schema.insert("x-names".into(), list.words.iter().map(|(word, called)| ((*word).to_owned(), json!(called))).collect());
    }
    if name == "Gauge" {
        let sizes = tables::sizes();
        for way in schema["oneOf"].as_array_mut().into_iter().flatten() {
            if let Some(awg) = way.pointer_mut("/properties/awg").and_then(Value::as_object_mut) {
                awg.extend([("minimum".into(), json!(sizes.awg.0)), ("maximum".into(), json!(sizes.awg.1))]);
            }
            if let Some(mm2) = way.pointer_mut("/properties/mm2").and_then(Value::as_object_mut) {
                mm2.extend([("exclusiveMinimum".into(), json!(0)), ("maximum".into(), json!(sizes.most_mm2)), ("x-unit".into(), json!("mm²"))]);
            }
        }
    }
}

/// The part of a schema that describes an object's own fields: beside those that a choice adds to them, or all of it.
fn own_part(schema: &mut Value) -> &mut Value {
    let Some(at) = schema.get("allOf").and_then(Value::as_array).and_then(|all| all.iter().position(|one| one.get("properties").is_some())) else {
        return schema;
    };
    &mut schema["allOf"][at]
}

fn describe(field: &Field, object: &mut Value) {
    let rule = &field.rule;
    let Some(property) = own_part(object).pointer_mut(&format!("/properties/{}", field.name)).and_then(Value::as_object_mut) else { return };
    let ranged = match field.shape {
        Shape::Number | Shape::Whole => Some(&mut *property),
        Shape::Triple => property.get_mut("items").and_then(Value::as_object_mut),
        Shape::List => property.get_mut("additionalProperties").and_then(Value::as_object_mut).filter(|items| items.contains_key("type")),
        _ => None,
    };
    if let Some(figures) = ranged {
        figures.insert(if rule.range.open { "exclusiveMinimum" } else { "minimum" }.into(), plain(rule.range.min));
        figures.insert("maximum".into(), plain(rule.range.max));
    }
    let mut put = |name: &str, value: Value| drop(property.insert(name.into(), value));
    match field.shape {
        Shape::Text => put("maxLength", json!(rule.most)),
        Shape::List if rule.most > 0 => put(if field.holds.contains("Vec") { "maxItems" } else { "maxProperties" }, json!(rule.most)),
        _ => {}
    }
    for (name, words) in [("x-unit", rule.range.unit), ("x-label", rule.label), ("x-term", rule.term), ("x-shown", rule.shown), ("x-empty", rule.nothing)] {
        if !words.is_empty() {
            put(name, json!(words));
        }
    }
    match rule.empty {
        Empty::Number(x) => put("default", if field.shape == Shape::Triple { json!([x, x, x]) } else { plain(x) }),
        Empty::Word(word) => put("default", json!(word)),
        Empty::Flag(flag) => put("default", json!(flag)),
        Empty::Needed | Empty::Blank => {}
    }
    if let Some(with) = rule.begins {
        put("x-begins", plain(with));
    }
    if !rule.suggests.is_empty() {
        put("examples", json!(rule.suggests));
    }
}

/// A whole figure without a point.
fn plain(x: f64) -> Value {
    if x.fract() == 0.0 && x.abs() < 1e15 { json!(x as i64) } else { json!(x) }
}

/// Takes what may be left out from what a definition asks for.
fn loosen(schema: &mut Value, table: &Table) {
    if let Some(Value::Array(required)) = own_part(schema).get_mut("required") {
        required.retain(|name| table.fields.iter().all(|field| name.as_str() != Some(field.name) || field.needed()));
    }
}

/// Fields that say where they stand: an object has no order of its own.
fn in_order(fields: impl Iterator<Item = (String, Value)>) -> Value {
    let placed = fields.enumerate().map(|(place, (name, mut said))| {
        said["place"] = json!(place);
        (name, said)
    });
    Value::Object(placed.collect())
}

/// A choice: the list of words of its `kind`, the record of each, and where that stands.
fn choice_of(choice: &tables::KindChoice) -> Value {
    let kinds: Map<String, Value> = choice.kinds.iter().map(|(word, record)| ((*word).to_owned(), json!(record))).collect();
    let mut said = json!({ "words": choice.kind, "kinds": kinds });
    match choice.place {
        tables::Placing::Own => {}
        tables::Placing::Beside(field) => said["beside"] = json!(field),
        tables::Placing::Among(holder) => said["among"] = json!(holder),
    }
    said
}

/// The table of fields as the page reads it: objects with their fields, choices, lists of words and sizes of wire.
pub fn fields() -> String {
    let field = |field: &Field| {
        let rule = &field.rule;
        let mut said = Map::new();
        let mut put = |name: &str, value: Value| drop(said.insert(name.into(), value));
        put("shape", json!(field.shape));
        put("of", json!(field.item()));
        if matches!(field.shape, Shape::Number | Shape::Whole | Shape::Triple) || field.item() == "f64" {
            put("min", plain(rule.range.min));
            put("max", plain(rule.range.max));
            if rule.range.open {
                put("open", json!(true));
            }
        }
        if field.optional {
            put("optional", json!(true));
        }
        if field.shape == Shape::Text {
            put("most", json!(rule.most));
        }
        for (name, words) in [("unit", rule.range.unit), ("label", rule.label), ("term", rule.term), ("shown", rule.shown), ("nothing", rule.nothing)] {
            if !words.is_empty() {
                put(name, json!(words));
            }
        }
        match rule.empty {
            Empty::Number(x) => put("usual", plain(x)),
            Empty::Word(word) => put("usual", json!(word)),
            Empty::Flag(flag) => put("usual", json!(flag)),
            Empty::Needed | Empty::Blank => {}
        }
        for (name, is) in [("carried", rule.carried), ("seldom", rule.seldom)] {
            if is {
                put(name, json!(true));
            }
        }
        if rule.used > 0 {
            put("used", json!(rule.used));
        }
        if let Some(with) = rule.begins {
            put("begins", plain(with));
        }
        if !rule.suggests.is_empty() {
            put("suggests", json!(rule.suggests));
        }
        (field.name.to_owned(), Value::Object(said))
    };
    // A choice that has no object of its own adds `kind` to the object that holds it.
    let with_kind = |held: &Field| -> Vec<(String, Value)> {
        let choice = tables::CHOICES.iter().find(|choice| choice.name == held.item());
        let kind = |choice: &tables::KindChoice| {
            let mut said = json!({ "shape": Shape::Word, "of": choice.kind });
            if !held.rule.label.is_empty() {
                said["label"] = json!(held.rule.label);
            }
            ("kind".to_owned(), said)
        };
        match choice.map(|choice| (choice, choice.place)) {
            Some((choice, tables::Placing::Among(_))) => vec![kind(choice)],
            Some((choice, tables::Placing::Beside(_))) => vec![kind(choice), field(held)],
            _ => vec![field(held)],
        }
    };
    let objects: Map<String, Value> = tables::TABLES.iter().map(|table| (table.name.to_owned(), in_order(table.fields.iter().flat_map(with_kind)))).collect();
    let parts: Map<String, Value> =
        tables::PART_KINDS.iter().map(|table| (table.name.to_owned(), Value::Object(table.fields.iter().map(field).collect()))).collect();
    let choices: Map<String, Value> = tables::CHOICES.iter().map(|choice| (choice.name.to_owned(), choice_of(choice))).collect();
    let words: Map<String, Value> = tables::word_lists().into_iter().map(|list| (list.name.to_owned(), json!(list.words))).collect();
    let sizes = tables::sizes();
    let said = json!({
        "objects": objects,
        "parts": parts,
        "choices": choices,
        "words": words,
        "job": orthavis_core::job::forms(),
        "sizes": { "awg": sizes.usual_awg, "mm2": sizes.usual_mm2, "most_awg": sizes.awg.1, "least_awg": sizes.awg.0, "most_mm2": sizes.most_mm2 },
    });
    serde_json::to_string_pretty(&said).unwrap_or_default() + "\n"
}
