//! A cursor over JSON that knows where it is.
//!
//! Every fault is collected with its JSON pointer and a remedy, so a person sees all that is wrong at once.
//! After a fault the reader hands back a placeholder; [`super::parse`] returns no build once there is one.

use serde_json::{Map, Value};
use std::borrow::Cow;
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

/// The physical range of a figure.
#[derive(Clone, Copy, Debug)]
pub(super) struct Range {
    min: f64,
    open: bool,
    max: f64,
    unit: &'static str,
}

impl Range {
    /// 0 < x <= max.
    pub const fn above_zero(max: f64, unit: &'static str) -> Self {
        Range { min: 0.0, open: true, max, unit }
    }

    /// min <= x <= max.
    pub const fn within(min: f64, max: f64, unit: &'static str) -> Self {
        Range { min, open: false, max, unit }
    }

    fn holds(&self, x: f64) -> bool {
        x.is_finite() && x <= self.max && if self.open { x > self.min } else { x >= self.min }
    }

    fn words(&self) -> String {
        let unit = if self.unit.is_empty() { String::new() } else { format!(" {}", self.unit) };
        if self.open {
            format!("a number above {} and at most {}{unit}", self.min, self.max)
        } else {
            format!("a number from {} to {}{unit}", self.min, self.max)
        }
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
    pub fn number(&self, range: Range, faults: &mut Faults) -> f64 {
        match self.value.as_f64() {
            Some(x) if range.holds(x) => x,
            Some(x) => {
                faults.add(&self.path, format!("{x} is outside its range"), format!("Give {}", range.words()));
                f64::NAN
            }
            None => {
                faults.add(&self.path, format!("{} is not a number", shown(self.value)), format!("Give {}", range.words()));
                f64::NAN
            }
        }
    }

    pub fn integer(&self, min: i64, max: i64, faults: &mut Faults) -> i64 {
        let whole = self.value.as_i64().or_else(|| self.value.as_f64().filter(|x| x.fract() == 0.0 && x.abs() < 1e15).map(|x| x as i64));
        match whole {
            Some(x) if (min..=max).contains(&x) => x,
            _ => {
                faults.add(&self.path, format!("{} is not a whole number in range", shown(self.value)), format!("Give a whole number from {min} to {max}"));
                min
            }
        }
    }

    pub fn triple(&self, range: Range, faults: &mut Faults) -> [f64; 3] {
        match self.value.as_array() {
            Some(items) if items.len() == 3 => {
                let mut out = [f64::NAN; 3];
                for (index, item) in items.iter().enumerate() {
                    out[index] = Node { value: item, path: format!("{}/{index}", self.path) }.number(range, faults);
                }
                out
            }
            _ => {
                faults.add(&self.path, format!("{} is not three numbers", shown(self.value)), "Give three numbers: red, green, blue");
                [f64::NAN; 3]
            }
        }
    }

    pub fn text(&self, max_chars: usize, faults: &mut Faults) -> String {
        match self.value.as_str() {
            Some(text) if text.chars().count() <= max_chars => text.to_owned(),
            Some(_) => {
                faults.add(&self.path, "the text is too long", format!("Keep it to {max_chars} characters"));
                String::new()
            }
            None => {
                faults.add(&self.path, format!("{} is not text", shown(self.value)), "Give text in quotes");
                String::new()
            }
        }
    }

    pub fn flag(&self, faults: &mut Faults) -> bool {
        self.value.as_bool().unwrap_or_else(|| {
            faults.add(&self.path, format!("{} is neither true nor false", shown(self.value)), "Give true or false");
            false
        })
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

    /// Reads an object; fields that `read` did not ask for are faults.
    pub fn object<T>(&self, faults: &mut Faults, read: impl FnOnce(&mut Object<'v, '_>) -> T) -> Option<T> {
        let Some(map) = self.value.as_object() else {
            faults.add(&self.path, format!("{} is not an object", shown(self.value)), "Give an object in braces");
            return None;
        };
        let mut object = Object { map, path: self.path.clone(), known: Vec::new(), faults };
        let out = read(&mut object);
        object.refuse_unknown();
        Some(out)
    }
}

/// An object whose fields are being read.
pub(super) struct Object<'v, 'f> {
    map: &'v Map<String, Value>,
    pub path: String,
    known: Vec<&'static str>,
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
            let problem = if self.map.contains_key(name) { "the value is null" } else { "the field is missing" };
            self.faults.add(self.at(name), problem, format!("Add `{name}`"));
        }
        found
    }

    pub fn number(&mut self, name: &'static str, range: Range) -> f64 {
        self.need(name).map_or(f64::NAN, |node| node.number(range, self.faults))
    }

    pub fn number_or(&mut self, name: &'static str, default: f64, range: Range) -> f64 {
        self.maybe_number(name, range).unwrap_or(default)
    }

    pub fn maybe_number(&mut self, name: &'static str, range: Range) -> Option<f64> {
        self.maybe(name).map(|node| node.number(range, self.faults))
    }

    pub fn count(&mut self, name: &'static str, min: u32, max: u32) -> u32 {
        self.need(name).map_or(min, |node| node.integer(min.into(), max.into(), self.faults) as u32)
    }

    pub fn count_or(&mut self, name: &'static str, default: u32, min: u32, max: u32) -> u32 {
        self.maybe(name).map_or(default, |node| node.integer(min.into(), max.into(), self.faults) as u32)
    }

    pub fn triple(&mut self, name: &'static str, range: Range) -> [f64; 3] {
        self.need(name).map_or([f64::NAN; 3], |node| node.triple(range, self.faults))
    }

    pub fn flag_or(&mut self, name: &'static str, default: bool) -> bool {
        self.maybe(name).map_or(default, |node| node.flag(self.faults))
    }

    pub fn text(&mut self, name: &'static str, max_chars: usize) -> String {
        self.need(name).map_or_else(String::new, |node| node.text(max_chars, self.faults))
    }

    pub fn text_or(&mut self, name: &'static str, default: &str, max_chars: usize) -> String {
        self.maybe(name).map_or_else(|| default.to_owned(), |node| node.text(max_chars, self.faults))
    }

    /// A field whose value is one of a few words.
    pub fn word<T: Copy>(&mut self, name: &'static str, words: &[(&'static str, T)]) -> Option<T> {
        self.need(name)?.word(words, self.faults)
    }

    pub fn word_or<T: Copy>(&mut self, name: &'static str, default: T, words: &[(&'static str, T)]) -> T {
        if self.map.get(name).is_none_or(Value::is_null) {
            self.known.push(name);
            return default;
        }
        self.word(name, words).unwrap_or(default)
    }

    /// A list; absent is empty. Items that could not be read are left out (and are faults).
    pub fn list<T>(&mut self, name: &'static str, max: usize, mut read: impl FnMut(Node<'v>, &mut Faults) -> Option<T>) -> Vec<T> {
        let Some(node) = self.maybe(name) else { return Vec::new() };
        let Some(items) = node.value.as_array() else {
            self.faults.add(&node.path, format!("{} is not a list", shown(node.value)), "Give a list in brackets");
            return Vec::new();
        };
        if items.len() > max {
            self.faults.add(&node.path, format!("{} entries are too many", items.len()), format!("Keep it to {max}"));
            return Vec::new();
        }
        let items = items.iter().enumerate();
        items.filter_map(|(index, value)| read(Node { value, path: format!("{}/{index}", node.path) }, self.faults)).collect()
    }

    /// A map from ids to something; absent is empty.
    pub fn map<T>(&mut self, name: &'static str, mut read: impl FnMut(Node<'v>, &mut Faults) -> Option<T>) -> std::collections::BTreeMap<String, T> {
        let Some(node) = self.maybe(name) else { return Default::default() };
        let Some(entries) = node.value.as_object() else {
            self.faults.add(&node.path, format!("{} is not an object", shown(node.value)), "Give an object in braces");
            return Default::default();
        };
        let entries = entries.iter();
        entries
            .filter_map(|(key, value)| {
                let item = read(Node { value, path: format!("{}/{}", node.path, escape(key)) }, self.faults)?;
                Some((key.clone(), item))
            })
            .collect()
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
