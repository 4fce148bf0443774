//! Every result as a table: what a chart shows, read as figures, and what leaves as CSV.

use crate::document::Build;
use crate::drain::audit::audit;
use crate::drain::discharge::followed;
use crate::drain::drain;
use crate::drain::what_if::{Pair, Tried};
use crate::findings::Severity;
use crate::points::{PointError, finished};
use crate::report::{Report, report};
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
    fn new(name: &'static str, title: &'static str, columns: &[(&'static str, &'static str, &'static str)]) -> Self {
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

/// Every table of a build, in the order of the job.
///
/// # Errors
/// As [`report`].
pub fn tables(build: &Build) -> Result<Vec<Table>, PointError> {
    let report = report(build)?;
    let mut tables = vec![source(&report), feeds(&report), converters(&report), lights(&report), endurance(&report), findings(&report)];
    tables.extend(drained(build)?);
    tables.extend(audited(build)?);
    tables.push(discharges(build));
    finished(build)?;
    tables.retain(|table| !table.rows.is_empty());
    Ok(tables)
}

const AT: [(&str, &str, &str); 2] = [("scene", "Scene", ""), ("state", "State", "")];

fn points(name: &'static str, title: &'static str, columns: &[(&'static str, &'static str, &'static str)]) -> Table {
    Table::new(name, title, &[&AT, columns].concat())
}

fn at(point: &crate::points::PointReport) -> Vec<Cell> {
    let state = serde_json::to_value(point.state).ok().and_then(|word| word.as_str().map(Cell::from));
    vec![point.scene.as_str().into(), state.into()]
}

fn source(report: &Report) -> Table {
    let mut table = points(
        "source",
        "The source at every scene and state",
        &[("emf_v", "Without load", "V"), ("terminal_v", "At its terminals", "V"), ("current_a", "Drawn", "A")],
    );
    for point in &report.points {
        let here = &point.source;
        table.rows.push([at(point), vec![here.emf_v.into(), here.terminal_v.into(), here.current_a.into()]].concat());
    }
    table
}

fn feeds(report: &Report) -> Table {
    let columns = [
        ("feed", "Run", ""),
        ("current_a", "Current, out", "A"),
        ("back_a", "Current, back", "A"),
        ("drop_v", "Lost, out and back", "V"),
        ("loss_w", "Heat", "W"),
    ];
    let mut table = points("feeds", "Every run at every scene and state", &columns);
    for point in &report.points {
        for (id, here) in &point.feeds {
            table.rows.push([at(point), vec![id.as_str().into(), here.current_a.into(), here.back_a.into(), here.drop_v.into(), here.loss_w.into()]].concat());
        }
    }
    table
}

fn converters(report: &Report) -> Table {
    let columns = [
        ("converter", "Converter", ""),
        ("on", "Runs", ""),
        ("in_v", "Input", "V"),
        ("in_a", "Input", "A"),
        ("out_v", "Output", "V"),
        ("out_a", "Output", "A"),
        ("loss_w", "Heat", "W"),
    ];
    let mut table = points("converters", "Every converter at every scene and state", &columns);
    for point in &report.points {
        for (id, here) in &point.converters {
            let on = if here.on { "yes" } else { "no" };
            let figures = [here.in_v, here.in_a, here.out_v, here.out_a, here.loss_w].map(Cell::from);
            table.rows.push([at(point), vec![id.as_str().into(), on.into()], figures.to_vec()].concat());
        }
    }
    table
}

fn lights(report: &Report) -> Table {
    let columns = [
        ("light", "Light", ""),
        ("voltage_v", "Voltage at it", "V"),
        ("current_a", "Current", "A"),
        ("power_w", "Power", "W"),
        ("output", "Brightness", "1"),
        ("lowest_output", "Brightness of its dimmest part", "1"),
        ("rail_a", "Current along its rails", "A"),
        ("string_a", "Current of a string", "A"),
        ("resistor_w", "Heat in a resistor", "W"),
    ];
    let mut table = points("lights", "Every light at every scene and state", &columns);
    for point in &report.points {
        for (id, here) in &point.lights {
            let figures = [here.voltage_v, here.current_a, here.power_w, here.output, here.lowest_output].map(Cell::from);
            table
                .rows
                .push([at(point), vec![id.as_str().into()], figures.to_vec(), vec![here.rail_a.into(), here.string_a.into(), here.resistor_w.into()]].concat());
        }
    }
    table
}

fn endurance(report: &Report) -> Table {
    let columns = [("scene", "Scene", ""), ("hours", "Time of light", "h"), ("ah", "Drawn", "Ah"), ("ends", "Ends", "")];
    let mut table = Table::new("endurance", "From full to the end of each scene, new and at 25 °C", &columns);
    for row in &report.endurance {
        let ends = if row.ends == crate::endurance::Ends::Dark { "dark" } else { "reserve" };
        table.rows.push(vec![row.scene.as_str().into(), row.hours.into(), row.ah.into(), ends.into()]);
    }
    table
}

fn findings(report: &Report) -> Table {
    let columns = [
        ("severity", "How bad", ""),
        ("code", "Code", ""),
        ("subject", "Subject", ""),
        ("value", "Found", ""),
        ("limit", "Allowed", ""),
        ("unit", "Unit", ""),
        ("message", "In words", ""),
    ];
    let mut table = Table::new("findings", "What is wrong, worst first", &columns);
    for found in &report.findings {
        let severity = match found.severity {
            Severity::Stop => "stop",
            Severity::Fix => "fix",
            Severity::Note => "note",
        };
        let words = [severity, found.code, &found.subject].map(Cell::from);
        table.rows.push([words.to_vec(), vec![found.value.into(), found.limit.into(), found.unit.into(), found.message.as_str().into()]].concat());
    }
    table
}

const FIGURE: [(&str, &str, &str); 4] = [("figure", "Figure", ""), ("label", "What it is", ""), ("value", "Value", ""), ("unit", "Unit", "")];

fn figure(fact: &Fact) -> Vec<Cell> {
    vec![fact.key.into(), fact.label.into(), fact.value.into(), fact.unit.into()]
}

fn drained(build: &Build) -> Result<Vec<Table>, PointError> {
    let drain = drain(build)?;
    let mut use_table = Table::new("use", "What the lights cost", &FIGURE);
    let shown = [&drain.conditions, &drain.outing, &drain.day, &drain.motion, &drain.mass];
    use_table.rows.extend(shown.into_iter().flatten().map(figure));
    let mut scenes = Table::new("scenes", "What each scene costs", &[&[("scene", "Scene", "")], &FIGURE[..]].concat());
    for scene in &drain.scenes {
        scenes.rows.extend(scene.facts.iter().map(|fact| [vec![scene.scene.as_str().into()], figure(fact)].concat()));
    }
    let mut parked = Table::new("parked", "A parked vehicle", &[&[("way", "Way to park", "")], &FIGURE[..]].concat());
    for way in &drain.parked {
        parked.rows.extend(way.facts.iter().map(|fact| [vec![way.way.into()], figure(fact)].concat()));
    }
    let columns = [
        ("light", "Light", ""),
        ("full_v", "On a full battery", "V"),
        ("charging_v", "While charging", "V"),
        ("full_output", "Brightness on a full battery", "1"),
        ("charging_output", "Brightness while charging", "1"),
        ("faults", "What is wrong then", ""),
    ];
    let mut charging = Table::new("charging", "The lights while the battery charges", &columns);
    for light in drain.charging.iter().flat_map(|charging| &charging.lights) {
        let figures = [light.full_v, light.charging_v, light.full_output, light.charging_output].map(Cell::from);
        charging.rows.push([vec![light.id.as_str().into()], figures.to_vec(), vec![light.faults.join("; ").as_str().into()]].concat());
    }
    Ok(vec![use_table, scenes, parked, charging])
}

fn audited(build: &Build) -> Result<Vec<Table>, PointError> {
    let Some(audit) = audit(build)? else { return Ok(Vec::new()) };
    let columns = [
        ("bulb", "Bulbs", ""),
        ("name", "What they are", ""),
        ("before_a", "One, now", "A"),
        ("before_ah", "A day, now", "Ah"),
        ("replacement", "Replaced by", ""),
        ("after_a", "One, then", "A"),
        ("after_ah", "A day, then", "Ah"),
        ("cost_eur", "Cost", "€"),
    ];
    let mut bulbs = Table::new("audit-bulbs", "Bulbs before and after", &columns);
    for line in &audit.lines {
        bulbs.rows.push(vec![
            line.id.as_str().into(),
            line.name.as_str().into(),
            line.before_a.value.into(),
            line.before_ah.into(),
            line.replacement.as_deref().into(),
            line.after_a.as_ref().map(|fact| fact.value).into(),
            line.after_ah.into(),
            line.cost_eur.into(),
        ]);
    }
    let columns =
        [("case", "Load case", ""), ("before_a", "Now", "A"), ("measured_a", "Measured now", "A"), ("after_a", "Then", "A"), ("remark", "Remark", "")];
    let mut cases = Table::new("audit-cases", "Load cases before and after", &columns);
    for case in &audit.cases {
        cases.rows.push(vec![case.title.into(), case.before_a.value.into(), case.measured_a.into(), case.after_a.value.into(), case.remark.as_deref().into()]);
    }
    let columns = [("figure", "Figure", ""), ("label", "What it is", ""), ("before", "Now", ""), ("after", "Then", ""), ("unit", "Unit", "")];
    let mut outcomes = Table::new("audit-outcomes", "The day and the nights before and after", &columns);
    for outcome in &audit.outcomes {
        let value = |fact: &Option<Fact>| Cell::from(fact.as_ref().map(|fact| fact.value));
        let unit = outcome.before.as_ref().or(outcome.after.as_ref()).map(|fact| fact.unit);
        outcomes.rows.push(vec![outcome.key.into(), outcome.label.into(), value(&outcome.before), value(&outcome.after), unit.into()]);
    }
    Ok(vec![bulbs, cases, outcomes])
}

/// The plan and a change of it side by side.
pub fn what_if(tried: &Tried) -> Table {
    let columns = [
        ("figure", "Figure", ""),
        ("label", "What it is", ""),
        ("plan", "The plan", ""),
        ("changed", "Changed", ""),
        ("difference", "Difference", ""),
        ("unit", "Unit", ""),
    ];
    let mut table = Table::new("what-if", "The plan, and the change", &columns);
    for Pair { plan, changed, difference } in &tried.pairs {
        let value = |fact: &Option<Fact>| Cell::from(fact.as_ref().map(|fact| fact.value));
        let named = plan.as_ref().or(changed.as_ref()).map(|fact| [fact.key, fact.label, fact.unit]);
        let Some([key, label, unit]) = named else { continue };
        table.rows.push(vec![key.into(), label.into(), value(plan), value(changed), (*difference).into(), unit.into()]);
    }
    table
}

/// Every scene from full to its end, one line for each light that it turns on.
fn discharges(build: &Build) -> Table {
    let columns = [
        ("scene", "Scene", ""),
        ("time_h", "From full", "h"),
        ("soc", "State of charge", "1"),
        ("terminal_v", "At the terminals", "V"),
        ("current_a", "Mean current", "A"),
        ("light", "Light", ""),
        ("output", "Brightness", "1"),
    ];
    let mut table = Table::new("discharge", "From full to the end, over time", &columns);
    for curve in build.scenes.iter().filter_map(|scene| followed(build, &scene.id)) {
        for moment in &curve.moments {
            for (light, output) in curve.lights.iter().zip(&moment.outputs) {
                let figures = [moment.at_h, moment.soc, moment.terminal_v, moment.current_a].map(Cell::from);
                table.rows.push([vec![curve.scene.as_str().into()], figures.to_vec(), vec![light.as_str().into(), (*output).into()]].concat());
            }
        }
    }
    table
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_cannot_become_a_formula_and_commas_stay_words() {
        let mut table = Table::new("t", "T", &[("a", "A", ""), ("b", "B", "V"), ("c", "C", "")]);
        table.rows.push(vec!["=1+1".into(), 0.25.into(), "left, and \"right\"".into()]);
        table.rows.push(vec!["tail".into(), Cell::Empty, (-3.0).into()]);
        assert_eq!(table.csv(), "a,b,c\r\n'=1+1,0.25,\"left, and \"\"right\"\"\"\r\ntail,,-3\r\n");
    }
}
