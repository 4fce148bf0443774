//! The tables of a report.

use crate::findings::Severity;
use crate::report::Report;
use orthavis_model::table::{Cell, Table};
use orthavis_physics::points::PointReport;

/// Every table of a report, in the order of the job.
pub fn tables(report: &Report) -> Vec<Table> {
    vec![source(report), feeds(report), converters(report), lights(report), endurance(report), findings(report)]
}

const AT: [(&str, &str, &str); 2] = [("scene", "Scene", ""), ("state", "State", "")];

fn points(name: &'static str, title: &'static str, columns: &[(&'static str, &'static str, &'static str)]) -> Table {
    Table::new(name, title, &[&AT, columns].concat())
}

fn at(point: &PointReport) -> Vec<Cell> {
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
        let ends = if row.ends == orthavis_physics::endurance::Ends::Dark { "dark" } else { "reserve" };
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
