//! How a figure came about: the rule, the values put in, the result, and where the rule is from.

use serde::Serialize;
use std::borrow::Cow;

/// A figure with its unit.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Quantity {
    /// Its symbol in the formula.
    pub symbol: &'static str,
    /// What it is, in plain words.
    pub label: String,
    /// The value in `unit`.
    pub value: f64,
    /// SI unit symbol; `"1"` for a ratio, empty for a count.
    pub unit: &'static str,
}

/// The way to one figure.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Working {
    /// The rule in plain words.
    pub words: String,
    /// The rule in symbols.
    #[cfg_attr(feature = "schema", schema(value_type = String))]
    pub formula: Cow<'static, str>,
    /// What was put in.
    pub given: Vec<Quantity>,
    /// What comes out.
    pub result: Quantity,
    /// Where the rule is from.
    #[cfg_attr(feature = "schema", schema(value_type = String))]
    pub source: Cow<'static, str>,
}

/// A figure with its working.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Fact {
    /// Stable name, as `in_v`.
    pub key: &'static str,
    /// What it is, in plain words.
    pub label: &'static str,
    /// The value in `unit`.
    pub value: f64,
    /// SI unit symbol; `"1"` for a ratio, empty for a count.
    pub unit: &'static str,
    /// Share of its limit in use, where it has one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub used: Option<f64>,
    /// How it came about.
    pub working: Working,
}

/// What a figure follows from.
pub struct Rule {
    /// In words.
    pub words: &'static str,
    /// In symbols.
    pub formula: &'static str,
    /// Where it is from.
    pub source: &'static str,
}

impl Fact {
    /// The figure against its limit, in the same unit.
    pub fn of_limit(mut self, limit: f64) -> Self {
        self.used = Some(self.value / limit);
        self.working.given.push(quantity("limit", "its limit", limit, self.unit));
        self
    }
}

/// A figure by a rule.
pub fn fact(key: &'static str, label: &'static str, symbol: &'static str, value: f64, unit: &'static str, rule: &Rule, given: Vec<Quantity>) -> Fact {
    let result = quantity(symbol, label, value, unit);
    Fact {
        key,
        label,
        value,
        unit,
        used: None,
        working: Working { words: rule.words.into(), formula: rule.formula.into(), given, result, source: rule.source.into() },
    }
}

/// Power from voltage and current.
pub fn power(key: &'static str, label: &'static str, volts: f64, amps: f64) -> Fact {
    const RULE: Rule = Rule { words: "Power is voltage times current.", formula: "P = V·I", source: "Definition of electric power" };
    fact(key, label, "P", volts * amps, "W", &RULE, vec![quantity("V", "voltage", volts, "V"), quantity("I", "current", amps, "A")])
}

/// A quantity, in one line.
pub fn quantity(symbol: &'static str, label: impl Into<String>, value: f64, unit: &'static str) -> Quantity {
    Quantity { symbol, label: label.into(), value, unit }
}

/// A text with the figures that it names: `{0}` is the first as it is, `{0%}` as a share, `{0w}` in words, `{0 A}` with its
/// unit.
///
/// # Panics
/// Where it names one that is not there.
pub fn filled(text: &'static str, figures: &[f64]) -> Cow<'static, str> {
    if figures.is_empty() || !text.contains('{') {
        return Cow::Borrowed(text);
    }
    let mut said = String::with_capacity(text.len());
    let mut rest = text;
    while let Some((before, after)) = rest.split_once('{') {
        let (name, after) = after.split_once('}').expect("a figure's name ends");
        let style = name.trim_start_matches(|letter: char| letter.is_ascii_digit());
        let figure = figures[name[..name.len() - style.len()].parse::<usize>().expect("a figure has a number")];
        said.push_str(before);
        said.push_str(&match style {
            "" => number(figure),
            "%" => format!("{} %", number(100.0 * figure)),
            "w" => in_words(figure),
            unit => plain(figure, unit.trim_start()),
        });
        rest = after;
    }
    Cow::Owned(said + rest)
}

/// A figure of practice, without what binary fractions add to it.
fn number(figure: f64) -> String {
    format!("{}", (figure * 1e4).round() / 1e4)
}

/// A small count in words.
fn in_words(count: f64) -> String {
    const WORDS: [&str; 13] = ["no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"];
    WORDS.get(count as usize).filter(|_| count.fract() == 0.0).map_or_else(|| number(count), |word| (*word).to_owned())
}

/// A number with its noun in the number that it wants: `no diodes`, `1 diode`, `2 diodes`, `1.5 days`, `2 pieces of wire`.
pub fn counted(count: impl Into<f64>, noun: &str) -> String {
    let count: f64 = count.into();
    if count == 1.0 {
        return format!("1 {noun}");
    }
    let (head, tail) = noun.split_once(" of ").map_or((noun, String::new()), |(head, tail)| (head, format!(" of {tail}")));
    let many = match head.strip_suffix('y') {
        Some(stem) if !stem.ends_with(['a', 'e', 'o', 'u']) => format!("{stem}ies"),
        _ if head.ends_with(['s', 'x']) || head.ends_with("ch") || head.ends_with("sh") => format!("{head}es"),
        _ => format!("{head}s"),
    };
    if count == 0.0 {
        return format!("no {many}{tail}");
    }
    let written = format!("{count:.2}");
    format!("{} {many}{tail}", written.trim_end_matches('0').trim_end_matches('.'))
}

/// Units that take no prefix: nobody says kilometre per hour in thousands, or kiloseconds.
const BARE: [&str; 17] = ["%", "h", "m", "d", "°C", "°", "min", "lm", "lx", "cd", "K", "mm", "mm²", "W/m", "Ω/m", "km/h", "ohm·Ah"];

/// A figure in three significant digits with a prefix that people use, as in `184 mA`; a ratio as a share, `92 %`. The page
/// writes figures by the same table, `figures.txt` among what tests share.
pub fn plain(value: f64, unit: &str) -> String {
    let (value, unit) = match unit {
        "ohm" => (value, "Ω"),
        "ohm/m" => (value, "Ω/m"),
        "1" => (100.0 * value, "%"),
        "deg" => (value, "°"),
        unit => (value, unit),
    };
    // Rounded first: 0.9996 A are 1 A.
    let round = three(value).abs();
    let (scaled, prefix) = match round {
        // What rounding leaves of nothing has no sign, and no prefix.
        _ if unit == "ohm·m" => (value * 1e9, "n"),
        size if size < 5e-7 && unit != "F" => (0.0, ""),
        _ if BARE.contains(&unit) || unit.is_empty() => (value, ""),
        // Nobody says millifarad.
        size if unit == "F" && size < 1.0 => (value * 1e6, "µ"),
        // Nor kiloseconds.
        size if size >= 1e3 && unit == "s" => (value, ""),
        size if size >= 1e6 => (value * 1e-6, "M"),
        size if size >= 1e3 => (value * 1e-3, "k"),
        size if size >= 1.0 => (value, ""),
        size if size >= 1e-3 => (value * 1e3, "m"),
        _ => (value * 1e6, "µ"),
    };
    let digits = match scaled.abs() {
        size if size >= 99.95 => 0,
        size if size >= 9.995 => 1,
        _ => 2,
    };
    let mut text = format!("{scaled:.digits$}");
    if text.contains('.') {
        text.truncate(text.trim_end_matches('0').trim_end_matches('.').len());
    }
    if text == "-0" {
        text = "0".to_owned();
    }
    format!("{text} {prefix}{}", unit.replace("ohm", "Ω")).trim_end().to_owned()
}

/// A figure rounded to three significant digits.
fn three(value: f64) -> f64 {
    if value == 0.0 {
        return 0.0;
    }
    let scale = 10f64.powf(2.0 - value.abs().log10().floor());
    (value * scale).round() / scale
}

#[cfg(test)]
mod tests {
    use super::{counted, filled, plain};

    /// The page's own formatter is held against the same table.
    #[test]
    fn figures_are_written_as_the_table_has_them() {
        let table = include_str!("../../testing/figures.txt");
        for line in table.lines().filter(|line| !line.starts_with('#')) {
            let mut words = line.splitn(3, ' ');
            let mut next = || words.next().expect("value, unit and text");
            let (value, unit, text) = (next().parse::<f64>().expect("a value"), next(), next());
            assert_eq!(plain(value, if unit == "." { "" } else { unit }), text, "{value} {unit}");
        }
    }

    #[test]
    fn a_text_takes_its_figures() {
        for (text, figures, said) in [
            ("no figure in it", &[][..], "no figure in it"),
            ("I ≤ {0}·I_max", &[0.6], "I ≤ 0.6·I_max"),
            ("at {0%} of its rating", &[0.8], "at 80 % of its rating"),
            ("{0%} where it is easy, {1%} always", &[0.03, 0.1], "3 % where it is easy, 10 % always"),
            ("no more than {0w} times", &[3.0], "no more than three times"),
            ("{0w} times, {1w} and {2w}", &[0.0, 12.0, 13.0], "no times, twelve and 13"),
            ("for {0 s}, by {1 V}", &[0.05, 0.5], "for 50 ms, by 500 mV"),
            // What binary fractions add is not said.
            ("{0} above", &[1.1 - 1.0], "0.1 above"),
            ("{1} before {0}", &[1.0, 2.0], "2 before 1"),
        ] {
            assert_eq!(filled(text, figures), said);
        }
    }

    #[test]
    #[should_panic(expected = "index out of bounds")]
    fn a_text_that_names_a_figure_too_many_is_found() {
        let _ = filled("{0} and {1}", &[1.0]);
    }

    #[test]
    fn numbers_have_their_nouns() {
        for (count, noun, words) in [
            (0.0, "diode", "no diodes"),
            (1.0, "diode", "1 diode"),
            (2.0, "diode", "2 diodes"),
            (1.5, "day", "1.5 days"),
            (0.5, "battery", "0.5 batteries"),
            (1.0, "piece of wire", "1 piece of wire"),
            (3.0, "piece of wire", "3 pieces of wire"),
            (2.0, "switch", "2 switches"),
            (12_000.0, "pixel", "12000 pixels"),
        ] {
            assert_eq!(counted(count, noun), words);
        }
    }
}
