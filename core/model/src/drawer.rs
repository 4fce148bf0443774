//! The drawer as a table (RFC 4180): a person's own parts and how many of each thing there are, out and in.

use crate::document::{Fault, Part, parse_part_text};
use serde_json::{Map, Value, json};
use std::collections::BTreeMap;

/// Columns; what a part is and how it shines stand as JSON in their cells. Without an id it is only counted.
pub const COLUMNS: [&str; 12] =
    ["id", "name", "count", "figures_from", "length_mm", "width_mm", "height_mm", "mass_g", "price_eur", "retired", "what", "light"];

/// What a drawer holds.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Drawer {
    /// Parts of the person's own.
    pub parts: Vec<Part>,
    /// How many of each thing, by the names of the shopping list.
    pub stock: BTreeMap<String, f64>,
}

/// A line that could not be read.
#[derive(Clone, Debug, PartialEq)]
pub struct BadLine {
    /// Which, counted from 1; the head is the first.
    pub line: usize,
    /// What is wrong with it, and what to do.
    pub fault: Fault,
}

/// Most of one thing.
pub const MOST: f64 = 1e6;

/// The drawer as CSV.
pub fn to_csv(drawer: &Drawer) -> String {
    let mut writer = csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(Vec::new());
    let number = |value: Option<f64>| value.map_or_else(String::new, |value| value.to_string());
    let mut lines = vec![COLUMNS.map(str::to_owned)];
    for part in &drawer.parts {
        let size = |index: usize| number(part.size_mm.map(|size| size[index]));
        let whole = serde_json::to_value(part).unwrap_or_default();
        let own = |name: &str| whole.get(name).map(Value::to_string).unwrap_or_default();
        let count = number(drawer.stock.get(&part.name).copied());
        let retired = if part.retired { "true".into() } else { String::new() };
        let (mass, price) = (number(part.mass_g), number(part.price_eur));
        let (light, what) = (own("light"), own("what"));
        lines.push([part.id.clone(), part.name.clone(), count, part.figures_from.clone(), size(0), size(1), size(2), mass, price, retired, what, light]);
    }
    for (name, count) in drawer.stock.iter().filter(|(name, _)| drawer.parts.iter().all(|part| part.name != **name)) {
        let mut cells = [const { String::new() }; COLUMNS.len()];
        (cells[1], cells[2]) = (name.clone(), count.to_string());
        lines.push(cells);
    }
    // Writing to memory does not fail, and every line has as many cells as the head.
    let written = lines.iter().all(|line| writer.write_record(line).is_ok());
    debug_assert!(written, "a ragged line");
    writer.into_inner().ok().and_then(|bytes| String::from_utf8(bytes).ok()).unwrap_or_default()
}

/// Reads what can be read of a drawer as CSV; lines that cannot be are named.
pub fn from_csv(text: &str) -> (Drawer, Vec<BadLine>) {
    let (mut drawer, mut bad) = (Drawer::default(), Vec::new());
    let fault = |pointer: &str, problem: String, remedy: &str| Fault { pointer: pointer.into(), problem, remedy: remedy.into() };
    let mut reader = csv::ReaderBuilder::new().flexible(true).from_reader(text.as_bytes());
    let head: Vec<String> = match reader.headers() {
        Ok(head) => head.iter().map(|cell| cell.trim().trim_start_matches('\u{feff}').to_owned()).collect(),
        Err(error) => {
            bad.push(BadLine { line: 1, fault: fault("", error.to_string(), "Save it as CSV in UTF-8") });
            return (drawer, bad);
        }
    };
    if !head.iter().any(|name| name == "name") {
        let problem = format!("its head is {}", head.join(", "));
        bad.push(BadLine { line: 1, fault: fault("/name", problem, &format!("Give a head with `name` at least, of {}", COLUMNS.join(", "))) });
        return (drawer, bad);
    }
    for (index, record) in reader.records().enumerate() {
        let line = index + 2;
        let record = match record {
            Ok(record) => record,
            Err(error) => {
                bad.push(BadLine { line, fault: fault("", error.to_string(), "Save the line in UTF-8, quotes doubled inside quotes") });
                continue;
            }
        };
        let cell = |name: &str| head.iter().position(|known| known == name).and_then(|at| record.get(at)).unwrap_or_default().trim();
        match read_line(&cell) {
            Ok((part, name, count)) => {
                drawer.parts.extend(part);
                drawer.stock.extend(count.map(|count| (name, count)));
            }
            Err(faults) => bad.extend(faults.into_iter().map(|fault| BadLine { line, fault })),
        }
    }
    (drawer, bad)
}

/// A line: its part, its name, how many there are.
type Line = (Option<Part>, String, Option<f64>);

fn read_line<'a>(cell: &impl Fn(&str) -> &'a str) -> Result<Line, Vec<Fault>> {
    let mut faults = Vec::new();
    let mut number = |name: &str| -> Option<f64> {
        let text = cell(name);
        if text.is_empty() {
            return None;
        }
        let read = text.replace(',', ".").parse::<f64>().ok().filter(|value| value.is_finite() && *value >= 0.0 && *value <= MOST);
        if read.is_none() {
            faults.push(Fault {
                pointer: format!("/{name}"),
                problem: format!("`{text}` is not a figure from 0 to a million"),
                remedy: "Give a plain number, without a unit".into(),
            });
        }
        read
    };
    let (count, mass, price) = (number("count"), number("mass_g"), number("price_eur"));
    let size = [number("length_mm"), number("width_mm"), number("height_mm")];
    let name = cell("name").to_owned();
    if name.is_empty() || name.len() > 200 {
        faults.push(Fault { pointer: "/name".into(), problem: "it names nothing, or too long".into(), remedy: "Give a name of at most 200 characters".into() });
    }
    let id = cell("id");
    if id.is_empty() {
        return if faults.is_empty() { Ok((None, name, count)) } else { Err(faults) };
    }
    if crate::parts::find(id).is_some() {
        faults.push(Fault { pointer: "/id".into(), problem: format!("`{id}` is a part of the library that ships"), remedy: "Give yours another id".into() });
    }
    let mut part = Map::new();
    part.insert("id".into(), id.into());
    part.insert("name".into(), name.clone().into());
    part.insert("figures_from".into(), if cell("figures_from").is_empty() { "own list".into() } else { cell("figures_from").into() });
    if let [Some(length), Some(width), Some(height)] = size {
        part.insert("size_mm".into(), json!([length, width, height]));
    }
    for (key, value) in [("mass_g", mass), ("price_eur", price)] {
        if let Some(value) = value {
            part.insert(key.into(), json!(value));
        }
    }
    if matches!(cell("retired"), "true" | "yes" | "1" | "x") {
        part.insert("retired".into(), true.into());
    }
    for name in ["light", "what"] {
        // A drawer that was written before parts had their light has no such column.
        if name == "light" && cell(name).is_empty() {
            continue;
        }
        match serde_json::from_str::<Value>(cell(name)) {
            Ok(value) => drop(part.insert(name.into(), value)),
            Err(error) => {
                faults.push(Fault { pointer: format!("/{name}"), problem: format!("it is not JSON: {error}"), remedy: "Give it as the export has it".into() })
            }
        }
    }
    if !faults.is_empty() {
        return Err(faults);
    }
    match parse_part_text(&Value::Object(part).to_string()) {
        Ok(part) => Ok((Some(part), name, count)),
        Err(error) => Err(error.faults),
    }
}
