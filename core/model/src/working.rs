//! How a figure came about: the rule, the values put in, the result, and where the rule is from.

use serde::Serialize;

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
    pub formula: &'static str,
    /// What was put in.
    pub given: Vec<Quantity>,
    /// What comes out.
    pub result: Quantity,
    /// Where the rule is from.
    pub source: &'static str,
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
    Fact { key, label, value, unit, used: None, working: Working { words: rule.words.into(), formula: rule.formula, given, result, source: rule.source } }
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

/// A figure in three significant digits with a prefix that people use, as in `184 mA`.
pub fn plain(value: f64, unit: &str) -> String {
    let unit = if unit == "ohm" { "Ω" } else { unit };
    let (scaled, prefix) = match value.abs() {
        _ if matches!(unit, "%" | "1" | "h" | "m" | "d" | "°C") => (value, ""),
        // Nobody says millifarad.
        size if unit == "F" && size < 1.0 => (value * 1e6, "µ"),
        // Nor kiloseconds.
        size if size >= 1e3 && matches!(unit, "s" | "mm" | "min" | "lm" | "K") => (value, ""),
        size if size >= 1e6 => (value * 1e-6, "M"),
        size if size >= 1e3 => (value * 1e-3, "k"),
        size if size >= 1.0 || size == 0.0 => (value, ""),
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
    // What rounding leaves of nothing has no sign.
    if text.chars().all(|c| matches!(c, '-' | '0' | '.')) {
        text = "0".to_owned();
    }
    let unit = if unit == "1" { "" } else { unit };
    format!("{text} {prefix}{unit}").trim_end().to_owned()
}

#[cfg(test)]
mod tests {
    use super::counted;

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
