//! Every result as a table: what a chart shows, read as figures, and what leaves as CSV.

use crate::working::Fact;
use serde::Serialize;

/// A table.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Table {
    /// Stable name, which is also that of its file.
    pub name: &'static str,
    /// In words.
    pub title: &'static str,
    /// From left to right.
    pub columns: Vec<Column>,
    /// One cell for each column.
    pub rows: Vec<Vec<Cell>>,
}

/// A column.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Column {
    /// Stable name with the unit in it, as in `current_a`.
    pub key: &'static str,
    /// In words.
    pub label: &'static str,
    /// SI unit symbol; `"1"` for a ratio, empty for words and counts.
    pub unit: &'static str,
}

/// A cell.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(untagged)]
pub enum Cell {
    /// Words.
    Text(String),
    /// A figure in the unit of its column.
    Number(f64),
    /// Nothing to say.
    Empty,
}

impl From<&str> for Cell {
    fn from(text: &str) -> Self {
        Cell::Text(text.to_owned())
    }
}

impl From<f64> for Cell {
    fn from(number: f64) -> Self {
        Cell::Number(number)
    }
}

impl<T: Into<Cell>> From<Option<T>> for Cell {
    fn from(cell: Option<T>) -> Self {
        cell.map_or(Cell::Empty, Into::into)
    }
}

impl Table {
    /// Without rows yet; each column has key, label and unit.
    pub fn new(name: &'static str, title: &'static str, columns: &[(&'static str, &'static str, &'static str)]) -> Self {
        let columns = columns.iter().map(|&(key, label, unit)| Column { key, label, unit }).collect();
        Table { name, title, columns, rows: Vec::new() }
    }

    /// As RFC 4180 has it: a head of column keys, lines ended by CR LF. Words that a spreadsheet would run as a formula
    /// are led by an apostrophe.
    pub fn csv(&self) -> String {
        let mut writer = csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(Vec::new());
        let mut write = |cells: &[String]| writer.write_record(cells);
        let head: Vec<String> = self.columns.iter().map(|column| column.key.to_owned()).collect();
        let lines = self.rows.iter().map(|row| row.iter().map(plain).collect::<Vec<_>>());
        // Writing to memory does not fail, and every line has as many cells as the head.
        let written = std::iter::once(head).chain(lines).all(|line| write(&line).is_ok());
        debug_assert!(written, "{} has a ragged line", self.name);
        writer.into_inner().ok().and_then(|bytes| String::from_utf8(bytes).ok()).unwrap_or_default()
    }
}

fn plain(cell: &Cell) -> String {
    match cell {
        Cell::Text(text) if text.starts_with(['=', '+', '-', '@', '\t', '\r']) => format!("'{text}"),
        Cell::Text(text) => text.clone(),
        Cell::Number(number) => number.to_string(),
        Cell::Empty => String::new(),
    }
}

/// Columns of a table of single figures.
pub const FIGURE: [(&str, &str, &str); 4] = [("figure", "Figure", ""), ("label", "What it is", ""), ("value", "Value", ""), ("unit", "Unit", "")];

/// A figure as a row of such a table.
pub fn figure(fact: &Fact) -> Vec<Cell> {
    vec![fact.key.into(), fact.label.into(), fact.value.into(), fact.unit.into()]
}
