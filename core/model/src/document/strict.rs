//! Text to JSON in which no key is repeated.

use super::read::{DocumentError, Fault};
use serde::de::{Deserialize, Deserializer, MapAccess, SeqAccess, Visitor};
use serde_json::{Map, Value};

/// A fault of the whole document.
pub(super) fn whole(problem: String, remedy: &str) -> DocumentError {
    DocumentError { faults: vec![Fault { pointer: String::new(), problem, remedy: remedy.into() }] }
}

/// JSON in which no key is repeated.
///
/// # Errors
/// Where the text is not JSON, or names a field twice.
pub fn read_strict(text: &str) -> Result<Value, DocumentError> {
    let read: Result<Strict, _> = serde_json::from_str(text);
    read.map(|Strict(value)| value).map_err(|error| whole(format!("it is not readable JSON: {error}"), "Mend the text there, or export it again"))
}

/// JSON in which a repeated key is an error rather than the last one winning.
struct Strict(Value);

impl<'de> Deserialize<'de> for Strict {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        deserializer.deserialize_any(StrictVisitor).map(Strict)
    }
}

struct StrictVisitor;

impl<'de> Visitor<'de> for StrictVisitor {
    type Value = Value;

    fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("JSON")
    }
    fn visit_bool<E>(self, v: bool) -> Result<Value, E> {
        Ok(v.into())
    }
    fn visit_i64<E>(self, v: i64) -> Result<Value, E> {
        Ok(v.into())
    }
    fn visit_u64<E>(self, v: u64) -> Result<Value, E> {
        Ok(v.into())
    }
    fn visit_f64<E>(self, v: f64) -> Result<Value, E> {
        Ok(v.into())
    }
    fn visit_str<E>(self, v: &str) -> Result<Value, E> {
        Ok(v.into())
    }
    fn visit_unit<E>(self) -> Result<Value, E> {
        Ok(Value::Null)
    }
    fn visit_seq<A: SeqAccess<'de>>(self, mut seq: A) -> Result<Value, A::Error> {
        let mut items = Vec::new();
        while let Some(Strict(item)) = seq.next_element()? {
            items.push(item);
        }
        Ok(Value::Array(items))
    }
    fn visit_map<A: MapAccess<'de>>(self, mut entries: A) -> Result<Value, A::Error> {
        let mut map = Map::new();
        while let Some(key) = entries.next_key::<String>()? {
            let Strict(value) = entries.next_value()?;
            if map.contains_key(&key) {
                return Err(serde::de::Error::custom(format!("the field `{key}` is there twice")));
            }
            map.insert(key, value);
        }
        Ok(Value::Object(map))
    }
}
