//! Documents of earlier formats, brought up to the one that this version reads.
//!
//! A format grows by optional fields under the same number. A change that would break a reader raises the number and adds
//! a step here; stored and imported documents then go up step by step before they are read.

use super::field::Shape;
use super::tables::{CHOICES, KindChoice, Placing, TABLES};
use serde_json::Value;

/// From one format to the next.
#[derive(Clone, Copy)]
pub(super) struct Step {
    /// Format that it starts from.
    pub from: &'static str,
    /// Format that it leads to.
    pub to: &'static str,
    /// What it changes, apart from `format` itself.
    pub change: fn(&mut Value),
}

/// In the order in which the formats came. The first format is still the newest.
pub(super) const STEPS: &[Step] = &[];

/// The document as the newest format that the steps lead to; `None` where it is not of an earlier one.
pub(super) fn upgraded(value: &Value, steps: &[Step]) -> Option<Value> {
    let format = |value: &Value| value.get("format").and_then(Value::as_str).unwrap_or_default().to_owned();
    let mut now = format(value);
    let mut document = None;
    for step in steps {
        if step.from == now {
            let changed: &mut Value = document.get_or_insert_with(|| value.clone());
            (step.change)(changed);
            changed["format"] = step.to.into();
            now = step.to.into();
        }
    }
    document
}

/// Takes out of a document what belongs to other kinds than the one that each of its objects is.
pub(super) fn let_go(value: &mut Value, table: &str) {
    let Some(kind) = value.as_object().map(|map| map.get("kind").and_then(Value::as_str).unwrap_or_default().to_owned()) else { return };
    let own = CHOICES.iter().find(|choice| choice.name == table && choice.place == Placing::Own);
    let table = own.and_then(|choice| choice.record(&kind)).unwrap_or(table);
    if let Some(choice) = own {
        keep(value, choice, table);
    }
    for held in TABLES.iter().filter(|known| known.name == table).flat_map(|known| known.fields) {
        let choice = CHOICES.iter().find(|choice| choice.name == held.item());
        match choice.map(|choice| (choice, choice.place, choice.record(&kind))) {
            Some((choice, Placing::Among(_), Some(record))) => keep(value, choice, record),
            Some((choice, Placing::Beside(content), Some(record))) => {
                keep(&mut value[content], choice, record);
                let_go(&mut value[content], record);
            }
            _ => match value.get_mut(held.name) {
                Some(Value::Array(items)) => items.iter_mut().for_each(|item| let_go(item, held.item())),
                Some(Value::Object(entries)) if held.shape == Shape::List => entries.values_mut().for_each(|entry| let_go(entry, held.item())),
                Some(inner) => let_go(inner, held.item()),
                None => {}
            },
        }
    }
}

/// Keeps of the fields of a choice those of one record.
fn keep(value: &mut Value, choice: &KindChoice, record: &str) {
    let has = |table: &str, name: &str| TABLES.iter().any(|known| known.name == table && known.fields.iter().any(|field| field.name == name));
    if let Some(map) = value.as_object_mut() {
        map.retain(|name, _| has(record, name) || !choice.kinds.iter().any(|(_, other)| has(other, name)));
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    const MADE_UP: &[Step] = &[
        Step {
            from: "lamp/1",
            to: "lamp/2",
            change: |value| {
                let watts = value["watts"].take();
                value["power_w"] = watts;
                if let Some(map) = value.as_object_mut() {
                    map.remove("watts");
                }
            },
        },
        Step { from: "lamp/2", to: "lamp/3", change: |value| value["lit"] = json!(true) },
    ];

    #[test]
    fn a_document_goes_up_step_by_step() {
        assert_eq!(upgraded(&json!({ "format": "lamp/1", "watts": 3 }), MADE_UP), Some(json!({ "format": "lamp/3", "power_w": 3, "lit": true })));
        assert_eq!(upgraded(&json!({ "format": "lamp/2", "power_w": 3 }), MADE_UP), Some(json!({ "format": "lamp/3", "power_w": 3, "lit": true })));
    }

    #[test]
    fn what_is_new_or_foreign_is_left_alone() {
        for document in [json!({ "format": "lamp/3" }), json!({ "format": "lamp/9" }), json!({}), json!([1])] {
            assert_eq!(upgraded(&document, MADE_UP), None);
        }
    }

    #[test]
    fn the_steps_that_ship_lead_to_the_format_that_is_read() {
        assert!(STEPS.windows(2).all(|pair| pair[0].to == pair[1].from));
        assert!(STEPS.last().is_none_or(|last| last.to == super::super::FORMAT));
    }
}
