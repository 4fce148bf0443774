//! What is to be known of a field: one declaration that the reader, the JSON Schema, the API and every editor use.

/// The physical range of a figure.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Range {
    /// Least value.
    pub min: f64,
    /// Whether `min` itself is outside.
    pub open: bool,
    /// Largest value.
    pub max: f64,
    /// SI unit symbol; `1` for a share, empty for a count.
    pub unit: &'static str,
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

    /// Whether a figure lies in it.
    pub fn holds(&self, x: f64) -> bool {
        x.is_finite() && x <= self.max && if self.open { x > self.min } else { x >= self.min }
    }

    pub(super) fn words(&self) -> String {
        let unit = if matches!(self.unit, "" | "1") { String::new() } else { format!(" {}", self.unit) };
        if self.open {
            format!("a number above {} and at most {}{unit}", self.min, self.max)
        } else {
            format!("a number from {} to {}{unit}", self.min, self.max)
        }
    }
}

/// What a field that is left out is read as.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Empty {
    /// It may not be left out.
    Needed,
    /// This figure.
    Number(f64),
    /// This word of a list, or this text.
    Word(&'static str),
    /// This truth.
    Flag(bool),
    /// An object with each of its fields left out.
    Blank,
}

/// How a field is read and edited.
#[derive(Clone, Copy, Debug)]
pub struct Rule {
    /// Range of a figure, or of the figures of a list.
    pub range: Range,
    /// Most characters of a text, most entries of a list.
    pub most: usize,
    /// Least entries of a list.
    pub least: usize,
    /// Whether a text names a part.
    pub id: bool,
    /// The only text that this version reads here; empty: any.
    pub only: &'static str,
    /// What leaving it out means; a field that may hold nothing is then empty.
    pub empty: Empty,
    /// What a person reads beside it.
    pub label: &'static str,
    /// What nothing stands for, in words; the figure itself comes with [`super::stands::stands`].
    pub nothing: &'static str,
    /// Word of the glossary that explains it.
    pub term: &'static str,
    /// Unit that people read and write it in, where it is another: `mA` of a field in A.
    pub shown: &'static str,
    /// What it holds in a new object that a person begins by filling in another field.
    pub begins: Option<f64>,
    /// It belongs to another kind, is kept as it came, and is not edited.
    pub carried: bool,
    /// Few people need it: it is folded away.
    pub seldom: bool,
    /// So many entries of a list are looked at; 0: all.
    pub used: usize,
    /// Usual texts to choose from; others may be typed.
    pub suggests: &'static [&'static str],
}

const ANY: Range = Range::within(f64::MIN, f64::MAX, "");

const PLAIN: Rule = Rule {
    range: ANY,
    most: 0,
    least: 0,
    id: false,
    only: "",
    empty: Empty::Needed,
    label: "",
    nothing: "",
    term: "",
    shown: "",
    begins: None,
    carried: false,
    seldom: false,
    used: 0,
    suggests: &[],
};

/// A figure in its range.
pub(super) const fn number(range: Range) -> Rule {
    Rule { range, ..PLAIN }
}

/// A whole number.
pub(super) const fn count(min: u32, max: u32) -> Rule {
    number(Range::within(min as f64, max as f64, ""))
}

/// A text of at most so many characters.
pub(super) const fn text(most: usize) -> Rule {
    Rule { most, ..PLAIN }
}

/// A list or map of at most so many entries; left out, it is empty.
pub(super) const fn list(most: usize) -> Rule {
    Rule { most, empty: Empty::Blank, ..PLAIN }
}

/// A name for a part.
pub(super) const fn id() -> Rule {
    Rule { id: true, ..text(80) }.label("Name")
}

/// One of a list of words, true or false, or an object.
pub(super) const fn thing() -> Rule {
    PLAIN
}

impl Rule {
    pub(super) const fn or(self, number: f64) -> Self {
        Rule { empty: Empty::Number(number), ..self }
    }

    /// It may not be left out.
    pub(super) const fn needed(self) -> Self {
        Rule { empty: Empty::Needed, ..self }
    }

    pub(super) const fn or_word(self, word: &'static str) -> Self {
        Rule { empty: Empty::Word(word), ..self }
    }

    pub(super) const fn or_flag(self, flag: bool) -> Self {
        Rule { empty: Empty::Flag(flag), ..self }
    }

    pub(super) const fn or_blank(self) -> Self {
        Rule { empty: Empty::Blank, ..self }
    }

    pub(super) const fn label(self, label: &'static str) -> Self {
        Rule { label, ..self }
    }

    pub(super) const fn nothing(self, nothing: &'static str) -> Self {
        Rule { nothing, ..self }
    }

    pub(super) const fn term(self, term: &'static str) -> Self {
        Rule { term, ..self }
    }

    pub(super) const fn shown(self, shown: &'static str) -> Self {
        Rule { shown, ..self }
    }

    pub(super) const fn carried(self) -> Self {
        Rule { carried: true, ..self }
    }

    pub(super) const fn seldom(self) -> Self {
        Rule { seldom: true, ..self }
    }

    pub(super) const fn used(self, entries: usize) -> Self {
        Rule { used: entries, ..self }
    }

    pub(super) const fn suggests(self, suggests: &'static [&'static str]) -> Self {
        Rule { suggests, ..self }
    }

    pub(super) const fn only(self, only: &'static str) -> Self {
        Rule { only, ..self }
    }

    pub(super) const fn begins(self, with: f64) -> Self {
        Rule { begins: Some(with), ..self }
    }
}

/// What kind of value a field holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq, serde::Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Shape {
    /// A figure.
    Number,
    /// A whole figure.
    Whole,
    /// A text.
    Text,
    /// True or false.
    Flag,
    /// One of a list of words.
    Word,
    /// Red, green and blue, or length, width and height.
    Triple,
    /// An object, or a choice of objects.
    Object,
    /// A list or a map of values of this or that kind.
    List,
}

/// One field of an object of the document.
#[derive(Clone, Copy, Debug)]
pub struct Field {
    /// Its name in the document.
    pub name: &'static str,
    /// What it is.
    pub about: &'static str,
    /// What it holds.
    pub shape: Shape,
    /// Its type in the code, as in `Vec<Feed>`.
    pub holds: &'static str,
    /// Whether it may hold nothing.
    pub optional: bool,
    /// How it is read and edited.
    pub rule: Rule,
}

impl Field {
    /// The type of one value in it, without what says how many there are.
    pub fn item(&self) -> &'static str {
        let inner = self.holds.rsplit(['<', ',']).next().unwrap_or_default();
        inner.trim_matches(['>', ' '])
    }

    /// Whether a document without it is refused.
    pub fn needed(&self) -> bool {
        !self.optional && self.rule.empty == Empty::Needed
    }
}

/// The fields of one object of the document.
#[derive(Clone, Copy, Debug)]
pub struct Table {
    /// Name of the object's type, as in the schema.
    pub name: &'static str,
    /// In the order in which they are written.
    pub fields: &'static [Field],
}
