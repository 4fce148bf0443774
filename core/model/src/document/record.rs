//! Reading by declaration: a `record!` is a struct whose fields each carry their [`Rule`], a `choice!` an enum whose
//! `kind` decides which of them is read.

use super::field::{Empty, Field, Rule, Shape};
use super::read::{Faults, Node, Object, Read};
use serde_json::{Map, Value};
use std::collections::BTreeMap;

/// An object whose fields are declared.
pub(super) trait Record: Sized {
    const FIELDS: &'static [Field];

    /// Its fields from an object that is open already.
    fn fill(object: &mut Object<'_, '_>) -> Option<Self>;
}

/// A record of which nothing is written.
pub(super) fn blank<T: Record>(rule: &Rule) -> Option<T> {
    if rule.empty != Empty::Blank {
        return None;
    }
    let nothing = Value::Object(Map::new());
    let mut faults = Faults::default();
    Node { value: &nothing, path: String::new() }.object(&mut faults, T::fill).flatten()
}

impl Read for f64 {
    const SHAPE: Shape = Shape::Number;

    fn read(node: &Node<'_>, rule: &Rule, faults: &mut Faults) -> Option<Self> {
        node.number(rule.range, faults)
    }

    fn empty(rule: &Rule) -> Option<Self> {
        if let Empty::Number(x) = rule.empty { Some(x) } else { None }
    }
}

impl Read for u32 {
    const SHAPE: Shape = Shape::Whole;

    fn read(node: &Node<'_>, rule: &Rule, faults: &mut Faults) -> Option<Self> {
        node.integer(rule.range.min as i64, rule.range.max as i64, faults).map(|x| x as u32)
    }

    fn empty(rule: &Rule) -> Option<Self> {
        f64::empty(rule).map(|x| x as u32)
    }
}

impl Read for [f64; 3] {
    const SHAPE: Shape = Shape::Triple;

    fn read(node: &Node<'_>, rule: &Rule, faults: &mut Faults) -> Option<Self> {
        node.triple(rule.range, faults)
    }

    fn empty(rule: &Rule) -> Option<Self> {
        f64::empty(rule).map(|x| [x; 3])
    }
}

impl Read for bool {
    const SHAPE: Shape = Shape::Flag;

    fn read(node: &Node<'_>, _: &Rule, faults: &mut Faults) -> Option<Self> {
        node.flag(faults)
    }

    fn empty(rule: &Rule) -> Option<Self> {
        if let Empty::Flag(flag) = rule.empty { Some(flag) } else { None }
    }
}

impl Read for String {
    const SHAPE: Shape = Shape::Text;

    fn read(node: &Node<'_>, rule: &Rule, faults: &mut Faults) -> Option<Self> {
        let text = node.text(rule.most, faults)?;
        if rule.id && (text.is_empty() || text.contains('#') || text == "source") {
            faults.add(&node.path, format!("`{text}` cannot be an id"), "Use a name without `#`, other than `source`");
            return None;
        }
        if !rule.only.is_empty() && text != rule.only {
            faults.add(&node.path, format!("`{text}` is not a format this version reads"), format!("Use `{}`", rule.only));
            return None;
        }
        Some(text)
    }

    fn empty(rule: &Rule) -> Option<Self> {
        if let Empty::Word(word) = rule.empty { Some(word.into()) } else { None }
    }
}

impl<T: Read> Read for Option<T> {
    const SHAPE: Shape = T::SHAPE;
    const OPTIONAL: bool = true;

    fn read(node: &Node<'_>, rule: &Rule, faults: &mut Faults) -> Option<Self> {
        T::read(node, rule, faults).map(Some)
    }

    fn empty(_: &Rule) -> Option<Self> {
        Some(None)
    }
}

impl<T: Read> Read for Vec<T> {
    const SHAPE: Shape = Shape::List;

    fn read(node: &Node<'_>, rule: &Rule, faults: &mut Faults) -> Option<Self> {
        let found = node.list(rule.most, faults, |node, faults| T::read(&node, rule, faults))?;
        if node.value.as_array().is_some_and(|items| items.len() < rule.least) {
            faults.add(&node.path, "there is nothing in it", if rule.empty == Empty::Needed { "Give one at least" } else { "Give one, or leave it out" });
        }
        Some(found)
    }

    fn empty(rule: &Rule) -> Option<Self> {
        (rule.empty == Empty::Blank).then(Vec::new)
    }
}

impl<T: Read> Read for BTreeMap<String, T> {
    const SHAPE: Shape = Shape::List;

    fn read(node: &Node<'_>, rule: &Rule, faults: &mut Faults) -> Option<Self> {
        node.map(faults, |node, faults| T::read(&node, rule, faults))
    }

    fn empty(rule: &Rule) -> Option<Self> {
        (rule.empty == Empty::Blank).then(BTreeMap::new)
    }
}

/// Words of a list as values of fields.
macro_rules! read_words {
    ($($name:ident),+ $(,)?) => { $(
        impl $crate::document::read::Read for $name {
            const SHAPE: $crate::document::field::Shape = $crate::document::field::Shape::Word;

            fn read(
                node: &$crate::document::read::Node<'_>,
                _: &$crate::document::field::Rule,
                faults: &mut $crate::document::read::Faults,
            ) -> Option<Self> {
                node.word($name::WORDS, faults)
            }

            fn empty(rule: &$crate::document::field::Rule) -> Option<Self> {
                let $crate::document::field::Empty::Word(word) = rule.empty else { return None };
                $name::WORDS.iter().find(|(known, _)| *known == word).map(|(_, value)| *value)
            }
        }
    )+ };
}

/// The words of a doc comment.
macro_rules! about {
    ([doc = $first:literal] $($rest:tt)*) => {
        $first
    };
    () => {
        ""
    };
}

/// The name of a field in the document.
macro_rules! json_name {
    ($field:ident) => { stringify!($field) };
    ($field:ident [serde(rename = $name:literal)] $($rest:tt)*) => { $name };
    ($field:ident [$($other:tt)*] $($rest:tt)*) => { $crate::document::record::json_name!($field $($rest)*) };
}

/// What joins fields of one object: runs once each of them could be read by itself.
macro_rules! sense {
    ($record:ident, $object:ident) => {};
    ($record:ident, $object:ident, $sense:path) => {
        $sense(&mut $record, $object);
    };
}

/// Structs with a rule for each field: `name: Type = rule`. After `with`, a function that looks at the whole object.
macro_rules! record {
    ($(
        $(#[$($meta:tt)*])* pub struct $name:ident $(with $sense:path)? {
            $( $(#[$($fmeta:tt)*])* pub $field:ident : $ty:ty = $rule:expr ),* $(,)?
        }
    )+) => { $(
        #[derive(Clone, Debug, PartialEq, serde::Serialize)]
        #[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
        $(#[$($meta)*])*
        pub struct $name { $( $(#[$($fmeta)*])* pub $field: $ty ),* }

        impl $crate::document::record::Record for $name {
            const FIELDS: &'static [$crate::document::field::Field] = &[ $( $crate::document::field::Field {
                name: $crate::document::record::json_name!($field $([$($fmeta)*])*),
                about: $crate::document::record::about!($([$($fmeta)*])*),
                shape: <$ty as $crate::document::read::Read>::SHAPE,
                holds: stringify!($ty),
                optional: <$ty as $crate::document::read::Read>::OPTIONAL,
                rule: $rule,
            } ),* ];

            fn fill(object: &mut $crate::document::read::Object<'_, '_>) -> Option<Self> {
                let mut fields = Self::FIELDS.iter();
                $( let $field: Option<$ty> = fields.next().and_then(|field| object.take(field)); )*
                #[allow(unused_mut, reason = "only some of them are looked at as a whole")]
                let mut record = $name { $( $field: $field? ),* };
                $crate::document::record::sense!(record, object $(, $sense)?);
                Some(record)
            }
        }

        impl $crate::document::read::Read for $name {
            const SHAPE: $crate::document::field::Shape = $crate::document::field::Shape::Object;

            fn read(
                node: &$crate::document::read::Node<'_>,
                _: &$crate::document::field::Rule,
                faults: &mut $crate::document::read::Faults,
            ) -> Option<Self> {
                node.object(faults, <Self as $crate::document::record::Record>::fill).flatten()
            }

            fn empty(rule: &$crate::document::field::Rule) -> Option<Self> {
                $crate::document::record::blank(rule)
            }
        }
    )+ };
}

/// Where the fields of a choice stand, whose `kind` says which record they are.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Placing {
    /// With `kind` in an object of their own.
    Own,
    /// In a field of this name beside `kind`.
    Beside(&'static str),
    /// With `kind` among the other fields of the object that holds the choice, which is of this type.
    Among(&'static str),
}

/// One kind of a choice: its word, how its record is read, and the fields of that.
pub(super) type Kind<T> = (&'static str, fn(&mut Object<'_, '_>) -> Option<T>, &'static [Field]);

/// Reads the record of the kind that the object names. A field of another kind is refused.
pub(super) fn chosen<T>(object: &mut Object<'_, '_>, place: Placing, kinds: &'static [Kind<T>]) -> Option<T> {
    let words: Vec<(&str, usize)> = kinds.iter().enumerate().map(|(at, (word, ..))| (*word, at)).collect();
    let at = object.word("kind", &words);
    match place {
        Placing::Own | Placing::Among(_) => of_kind(object, kinds, at?),
        Placing::Beside(content) => {
            let node = object.need(content)?;
            let at = at?;
            node.object(object.faults, |inner| of_kind(inner, kinds, at)).flatten()
        }
    }
}

fn of_kind<T>(object: &mut Object<'_, '_>, kinds: &'static [Kind<T>], at: usize) -> Option<T> {
    let (word, fill, own) = kinds[at];
    object.kind = Some(word);
    let read = fill(object);
    object.kind = None;
    let own = |name: &str| own.iter().any(|field| field.name == name);
    let others = kinds.iter().flat_map(|(_, _, fields)| *fields).map(|field| field.name).filter(|name| !own(name));
    for name in others {
        if object.knows(name) {
            continue;
        }
        object.know(name);
        if object.has(name) {
            let have: Vec<_> =
                kinds.iter().filter(|(_, _, fields)| fields.iter().any(|field| field.name == name)).map(|(word, ..)| format!("`{word}`")).collect();
            object.fault(name, format!("a `{word}` has no `{name}`"), &format!("Remove it; it belongs to {}", have.join(", ")));
        }
    }
    read
}

/// An enum whose `kind`, a word of a list whose values have the names of the variants, says which record follows.
///
/// `beside "parts"`: the record stands in that field of the object that holds the choice; `among "Converter"`: it stands
/// among the fields of that object itself; else both have an object of their own.
macro_rules! choice {
    ($( $(#[$meta:meta])* pub enum $name:ident of $kind:ident
        $(, beside $content:tt)? $(, among $holder:tt)?
        { $( $(#[$vmeta:meta])* $variant:ident($record:ty) ),+ $(,)? } )+) => { $(
        #[derive(Clone, Debug, PartialEq, serde::Serialize)]
        #[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
        $(#[$meta])*
        #[serde(tag = "kind" $(, content = $content)?, rename_all = "snake_case")]
        pub enum $name { $( $(#[$vmeta])* $variant($record) ),+ }

        impl $name {
            /// What may follow, by `kind`.
            pub const CHOICE: $crate::document::tables::KindChoice = $crate::document::tables::KindChoice {
                name: stringify!($name),
                kind: stringify!($kind),
                place: $crate::document::record::placing!($($content)? $(, $holder)?),
                kinds: &[$( ($kind::$variant.word(), stringify!($record)) ),+],
            };

            /// Which it is.
            pub fn kind(&self) -> $kind {
                match self { $( $name::$variant(_) => $kind::$variant ),+ }
            }
        }

        $( impl From<$record> for $name {
            fn from(own: $record) -> Self {
                $name::$variant(own)
            }
        } )+

        impl $crate::document::read::Read for $name {
            const SHAPE: $crate::document::field::Shape = $crate::document::field::Shape::Object;

            fn read(
                node: &$crate::document::read::Node<'_>,
                _: &$crate::document::field::Rule,
                faults: &mut $crate::document::read::Faults,
            ) -> Option<Self> {
                node.object(faults, |object| {
                    $crate::document::record::chosen(object, $crate::document::record::Placing::Own, Self::FILLS)
                }).flatten()
            }

            fn empty(_: &$crate::document::field::Rule) -> Option<Self> {
                None
            }

            fn take(object: &mut $crate::document::read::Object<'_, '_>, field: &'static $crate::document::field::Field) -> Option<Self> {
                match Self::CHOICE.place {
                    $crate::document::record::Placing::Own => object.held(field),
                    place => $crate::document::record::chosen(object, place, Self::FILLS),
                }
            }
        }

        impl $name {
            const FILLS: &[$crate::document::record::Kind<$name>] = &[$( (
                $kind::$variant.word(),
                |object| <$record as $crate::document::record::Record>::fill(object).map($name::$variant),
                <$record as $crate::document::record::Record>::FIELDS,
            ) ),+];
        }
    )+ };
}

/// Where the record of a choice stands.
macro_rules! placing {
    () => {
        $crate::document::record::Placing::Own
    };
    ($content:literal) => {
        $crate::document::record::Placing::Beside($content)
    };
    (, $holder:literal) => {
        $crate::document::record::Placing::Among($holder)
    };
}

/// How a field is taken from its object.
macro_rules! take {
    ($object:ident, $field:ident) => {
        $object.take($field)
    };
    ($object:ident, $field:ident, $reader:path) => {
        $reader($object, $field.name)
    };
}

/// An enum whose `kind` says which of its own fields follow. After `=>`, a function that reads one of them.
macro_rules! kinds {
    ($(#[$meta:meta])* pub enum $name:ident { $(
        $(#[$vmeta:meta])* $variant:ident { $( $(#[$($fmeta:tt)*])* $field:ident : $ty:ty = $rule:expr $(=> $reader:path)? ),+ $(,)? } = $word:literal
    ),+ $(,)? }) => {
        #[derive(Clone, Debug, PartialEq, serde::Serialize)]
        #[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
        $(#[$meta])*
        #[serde(tag = "kind", rename_all = "snake_case")]
        #[allow(clippy::large_enum_variant, reason = "there are a few hundred parts, and each is looked at once")]
        pub enum $name { $( $(#[$vmeta])* $variant { $( $(#[$($fmeta)*])* $field: $ty ),+ } ),+ }

        impl $name {
            /// The fields of each kind.
            pub const KINDS: &[$crate::document::field::Table] = &[ $( $crate::document::field::Table {
                name: $word,
                fields: &[ $( $crate::document::field::Field {
                    name: stringify!($field),
                    about: $crate::document::record::about!($([$($fmeta)*])*),
                    shape: <$ty as $crate::document::read::Read>::SHAPE,
                holds: stringify!($ty),
                    optional: <$ty as $crate::document::read::Read>::OPTIONAL,
                    rule: $rule,
                } ),+ ],
            } ),+ ];
        }

        impl $crate::document::read::Read for $name {
            const SHAPE: $crate::document::field::Shape = $crate::document::field::Shape::Object;

            fn read(
                node: &$crate::document::read::Node<'_>,
                _: &$crate::document::field::Rule,
                faults: &mut $crate::document::read::Faults,
            ) -> Option<Self> {
                type Fill = fn(&mut $crate::document::read::Object<'_, '_>, &'static [$crate::document::field::Field]) -> Option<$name>;
                const FILLS: &[(&str, (Fill, &str))] = &[$( ($word, (|object, fields| {
                    let mut fields = fields.iter();
                    $( let $field: Option<$ty> = fields.next().and_then(|field| $crate::document::record::take!(object, field $(, $reader)?)); )+
                    Some($name::$variant { $( $field: $field? ),+ })
                }, $word)) ),+];
                let read = node.object(faults, |object| {
                    let (fill, word) = object.word("kind", FILLS)?;
                    let table = Self::KINDS.iter().find(|table| table.name == word)?;
                    fill(object, table.fields)
                });
                read.flatten()
            }

            fn empty(_: &$crate::document::field::Rule) -> Option<Self> {
                None
            }
        }
    };
}

pub(super) use {about, choice, json_name, kinds, placing, read_words, record, sense, take};
