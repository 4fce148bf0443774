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
    /// SI unit symbol; `"1"` for a ratio.
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

/// A quantity, in one line.
pub fn quantity(symbol: &'static str, label: impl Into<String>, value: f64, unit: &'static str) -> Quantity {
    Quantity { symbol, label: label.into(), value, unit }
}

/// A figure in three significant digits with a prefix that people use, as in `184 mA`.
pub fn plain(value: f64, unit: &str) -> String {
    let (scaled, prefix) = match value.abs() {
        _ if matches!(unit, "%" | "1" | "h" | "m") => (value, ""),
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
    let unit = if unit == "1" { "" } else { unit };
    format!("{text} {prefix}{unit}").trim_end().to_owned()
}
