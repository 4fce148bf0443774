//! A cursor over JSON that knows where it is.
//!
//! Every fault is collected with its JSON pointer and a remedy, so a person sees all that is wrong at once.
//! After a fault the reader hands back a placeholder; [`super::parse`] returns no build once there is one.

use super::field::{Field, Range, Rule, Shape};
use serde_json::{Map, Value};
use std::borrow::Cow;
use std::collections::BTreeMap;
use std::fmt;

/// One thing wrong with a document.
#[derive(Clone, Debug, PartialEq, Eq, serde::Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Fault {
    /// RFC 6901 pointer to the field.
    pub pointer: String,
    /// What is wrong, with the offending value.
    pub problem: String,
    /// What to do about it.
    pub remedy: String,
}

/// Why a document was refused. Never empty.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub struct DocumentError {
    /// All faults found, in document order.
    pub faults: Vec<Fault>,
}

impl fmt::Display for DocumentError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for (index, fault) in self.faults.iter().enumerate() {
            if index > 0 {
                writeln!(f)?;
            }
            let place = if fault.pointer.is_empty() { "the document" } else { &fault.pointer };
            write!(f, "{place}: {}. {}.", fault.problem, fault.remedy)?;
        }
        Ok(())
    }
}

/// Faults met so far.
#[derive(Debug, Default)]
pub(super) struct Faults(pub Vec<Fault>);

impl Faults {
    pub fn add(&mut self, pointer: impl Into<String>, problem: impl Into<String>, remedy: impl Into<String>) {
        self.0.push(Fault { pointer: pointer.into(), problem: problem.into(), remedy: remedy.into() });
    }
}

/// How a value reads in a message: short, and never the whole document.
fn shown(value: &Value) -> String {
    match value {
        Value::Object(_) => "an object".into(),
        Value::Array(_) => "a list".into(),
        other => other.to_string().chars().take(60).collect(),
    }
}

/// A value and where it is.
pub(super) struct Node<'v> {
    pub value: &'v Value,
    pub path: String,
}

impl<'v> Node<'v> {
    pub fn number(&self, range: Range, faults: &mut Faults) -> Option<f64> {
        let problem = match self.value.as_f64() {
            Some(x) if range.holds(x) => return Some(x),
            Some(x) => format!("{x} is outside its range"),
            None => format!("{} is not a number", shown(self.value)),
        };
        faults.add(&self.path, problem, format!("Give {}", range.words()));
        None
    }

    pub fn integer(&self, min: i64, max: i64, faults: &mut Faults) -> Option<i64> {
        let whole = self.value.as_i64().or_else(|| self.value.as_f64().filter(|x| x.fract() == 0.0 && x.abs() < 1e15).map(|x| x as i64));
        let found = whole.filter(|x| (min..=max).contains(x));
        if found.is_none() {
            faults.add(&self.path, format!("{} is not a whole number in range", shown(self.value)), format!("Give a whole number from {min} to {max}"));
        }
        found
    }

    pub fn triple(&self, range: Range, faults: &mut Faults) -> Option<[f64; 3]> {
        let Some(items) = self.value.as_array().filter(|items| items.len() == 3) else {
            faults.add(&self.path, format!("{} is not three numbers", shown(self.value)), "Give three numbers: red, green, blue; or length, width, height");
            return None;
        };
        let mut out = [f64::NAN; 3];
        let mut whole = true;
        for (index, item) in items.iter().enumerate() {
            match (Node { value: item, path: format!("{}/{index}", self.path) }).number(range, faults) {
                Some(x) => out[index] = x,
                None => whole = false,
            }
        }
        whole.then_some(out)
    }

    pub fn text(&self, max_chars: usize, faults: &mut Faults) -> Option<String> {
        match self.value.as_str() {
            Some(text) if text.chars().count() <= max_chars => Some(text.to_owned()),
            Some(_) => {
                faults.add(&self.path, "the text is too long", format!("Keep it to {max_chars} characters"));
                None
            }
            None => {
                faults.add(&self.path, format!("{} is not text", shown(self.value)), "Give text in quotes");
                None
            }
        }
    }

    pub fn flag(&self, faults: &mut Faults) -> Option<bool> {
        let flag = self.value.as_bool();
        if flag.is_none() {
            faults.add(&self.path, format!("{} is neither true nor false", shown(self.value)), "Give true or false");
        }
        flag
    }

    /// One of a few words.
    pub fn word<T: Copy>(&self, words: &[(&'static str, T)], faults: &mut Faults) -> Option<T> {
        let found = self.value.as_str().and_then(|text| words.iter().find(|(word, _)| *word == text));
        if found.is_none() {
            let names: Vec<_> = words.iter().map(|(word, _)| format!("`{word}`")).collect();
            faults.add(&self.path, format!("{} is not known here", shown(self.value)), format!("Use one of {}", names.join(", ")));
        }
        found.map(|(_, value)| *value)
    }

    /// A list. Items that could not be read are left out (and are faults).
    pub fn list<T>(&self, max: usize, faults: &mut Faults, mut read: impl FnMut(Node<'v>, &mut Faults) -> Option<T>) -> Option<Vec<T>> {
        let Some(items) = self.value.as_array() else {
            faults.add(&self.path, format!("{} is not a list", shown(self.value)), "Give a list in brackets");
            return None;
        };
        if items.len() > max {
            faults.add(&self.path, format!("{} entries are too many", items.len()), format!("Keep it to {max}"));
            return None;
        }
        let items = items.iter().enumerate();
        Some(items.filter_map(|(index, value)| read(Node { value, path: format!("{}/{index}", self.path) }, faults)).collect())
    }

    /// A map from ids to something.
    pub fn map<T>(&self, faults: &mut Faults, mut read: impl FnMut(Node<'v>, &mut Faults) -> Option<T>) -> Option<BTreeMap<String, T>> {
        let Some(entries) = self.value.as_object() else {
            faults.add(&self.path, format!("{} is not an object", shown(self.value)), "Give an object in braces");
            return None;
        };
        let read = entries.iter().filter_map(|(key, value)| {
            let item = read(Node { value, path: format!("{}/{}", self.path, escape(key)) }, faults)?;
            Some((key.clone(), item))
        });
        Some(read.collect())
    }

    /// Reads an object; fields that `read` did not ask for are faults.
    pub fn object<T>(&self, faults: &mut Faults, read: impl FnOnce(&mut Object<'v, '_>) -> T) -> Option<T> {
        let Some(map) = self.value.as_object() else {
            faults.add(&self.path, format!("{} is not an object", shown(self.value)), "Give an object in braces");
            return None;
        };
        let mut object = Object { map, path: self.path.clone(), known: Vec::new(), kind: None, faults };
        let out = read(&mut object);
        object.refuse_unknown();
        Some(out)
    }
}

/// A value that a field of the document can hold.
pub(super) trait Read: Sized {
    const SHAPE: Shape;
    const OPTIONAL: bool = false;

    /// The value, or nothing after a fault was noted.
    fn read(node: &Node<'_>, rule: &Rule, faults: &mut Faults) -> Option<Self>;

    /// What stands where nothing is written; `None`: the field is needed.
    fn empty(rule: &Rule) -> Option<Self>;

    /// The value from the object that holds it. Most stand in the field of their name; a choice may take more of them.
    fn take(object: &mut Object<'_, '_>, field: &'static Field) -> Option<Self> {
        object.held(field)
    }
}

/// An object whose fields are being read.
pub(super) struct Object<'v, 'f> {
    map: &'v Map<String, Value>,
    pub path: String,
    known: Vec<&'static str>,
    /// Which kind of a choice is being read.
    pub kind: Option<&'static str>,
    pub faults: &'f mut Faults,
}

impl<'v> Object<'v, '_> {
    pub fn at(&self, name: &str) -> String {
        // Every field of every document passes here.
        [&self.path, "/", &escape(name)].concat()
    }

    /// The field, with `null` and absence alike.
    pub fn maybe(&mut self, name: &'static str) -> Option<Node<'v>> {
        self.known.push(name);
        let value = self.map.get(name).filter(|value| !value.is_null())?;
        Some(Node { value, path: self.at(name) })
    }

    pub fn need(&mut self, name: &'static str) -> Option<Node<'v>> {
        let found = self.maybe(name);
        if found.is_none() {
            self.missing(name);
        }
        found
    }

    fn missing(&mut self, name: &'static str) {
        let problem = match self.kind {
            Some(kind) => Cow::Owned(format!("the field is missing, and a `{kind}` needs it")),
            None if self.map.contains_key(name) => Cow::Borrowed("the value is null"),
            None => Cow::Borrowed("the field is missing"),
        };
        self.faults.add(self.at(name), problem, format!("Add `{name}`"));
    }

    /// The value of a declared field.
    pub fn take<T: Read>(&mut self, field: &'static Field) -> Option<T> {
        T::take(self, field)
    }

    /// Whether a field of this name was asked for.
    pub fn knows(&self, name: &str) -> bool {
        self.known.contains(&name)
    }

    /// Keeps a field that is read over from being refused.
    pub fn know(&mut self, name: &'static str) {
        self.known.push(name);
    }

    /// The value that stands in the field of its name.
    pub fn held<T: Read>(&mut self, field: &'static Field) -> Option<T> {
        match self.maybe(field.name) {
            Some(node) => T::read(&node, &field.rule, self.faults),
            None => {
                let empty = T::empty(&field.rule);
                if empty.is_none() {
                    self.missing(field.name);
                }
                empty
            }
        }
    }

    /// Whether something stands in a field.
    pub fn has(&self, name: &str) -> bool {
        self.map.get(name).is_some_and(|value| !value.is_null())
    }

    /// A fault at one of its fields.
    pub fn fault(&mut self, name: &str, problem: impl Into<String>, remedy: &str) {
        let path = self.at(name);
        self.faults.add(path, problem, remedy);
    }

    /// A field whose value is one of a few words.
    pub fn word<T: Copy>(&mut self, name: &'static str, words: &[(&'static str, T)]) -> Option<T> {
        self.need(name)?.word(words, self.faults)
    }

    fn refuse_unknown(&mut self) {
        for key in self.map.keys().filter(|key| !self.known.contains(&key.as_str())) {
            let shown: String = key.chars().take(60).collect();
            let distance = |name: &&&str| strsim::osa_distance(name, &shown);
            let near = self.known.iter().min_by_key(distance).filter(|name| distance(name) <= 2);
            let remedy = match near {
                Some(name) => format!("Did you mean `{name}`?"),
                None => format!("Remove it; known here are {}", self.known.join(", ")),
            };
            let pointer = format!("{}/{}", self.path, escape(key));
            self.faults.add(pointer, format!("`{shown}` is not a field of this object"), remedy.trim_end_matches('?'));
        }
    }
}

/// A key as a JSON pointer segment (RFC 6901).
pub(super) fn escape(key: &str) -> Cow<'_, str> {
    if key.contains(['~', '/']) { Cow::Owned(key.replace('~', "~0").replace('/', "~1")) } else { Cow::Borrowed(key) }
}
