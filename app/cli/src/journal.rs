//! What a journal says back, from the command line.

use crate::bench::document;
use crate::make::text_of;
use clap::Args;
use serde_json::{Value, json};
use std::path::{Path, PathBuf};
use std::process::ExitCode;

/// A build with its journal.
#[derive(Args)]
pub struct Journal {
    /// A build document (orthavis.build/1); `-` reads standard input
    file: PathBuf,
    /// Its journal, as `orthavis export` or the page wrote it: JSON Lines, or CSV where the name ends in .csv
    events: PathBuf,
    /// As of this moment, as in 2026-11-27T18:00:00+01:00 [default: now]
    #[arg(long)]
    now: Option<String>,
    /// Print all of it as JSON
    #[arg(long, conflicts_with_all = ["csv", "calendar", "svg"])]
    json: bool,
    /// Print the journal as a table (RFC 4180)
    #[arg(long, conflicts_with_all = ["calendar", "svg"])]
    csv: bool,
    /// Print what is due as a calendar (RFC 5545)
    #[arg(long, conflicts_with = "svg")]
    calendar: bool,
    /// Print a chart as a drawing: charge, outings, capacity, resistance or temperature
    #[arg(long, value_name = "CHART")]
    svg: Option<String>,
}

/// Every good line; bad ones are named on standard error.
fn events(path: &Path) -> Result<Vec<Value>, String> {
    let text = crate::read_text(path)?;
    let (good, bad) = if path.extension().is_some_and(|ending| ending == "csv") {
        let (good, bad) = orthavis_core::journal::read_csv(&text).map_err(|error| format!("{}: {error}", path.display()))?;
        (good, bad)
    } else {
        orthavis_core::journal::read_lines(&text)
    };
    for fault in bad {
        eprintln!("orthavis: {}{}: {}. {}.", path.display(), fault.pointer, fault.problem, fault.remedy);
    }
    good.into_iter().map(|(_, event)| serde_json::to_value(event).map_err(|error| error.to_string())).collect()
}

pub fn run(journal: &Journal) -> Result<ExitCode, String> {
    let document = document(&journal.file)?;
    let since = std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).unwrap_or_default();
    let here = orthavis_core::moment::Moment { s: since.as_secs() as i64, offset_s: 0 }.text();
    let mut request = json!({ "document": document, "events": events(&journal.events)?, "now": journal.now.as_deref().unwrap_or(&here) });
    let name = match (&journal.svg, journal.csv, journal.calendar) {
        (Some(chart), ..) => {
            request["chart"] = chart.as_str().into();
            "journal/svg"
        }
        (_, true, _) => "journal/csv",
        (.., true) => "journal/calendar",
        _ => "journal",
    };
    let answer = text_of(name, &request)?;
    if name != "journal" || journal.json {
        crate::print(&answer)?;
        return Ok(ExitCode::SUCCESS);
    }
    let view: Value = serde_json::from_str(&answer).map_err(|error| error.to_string())?;
    crate::print(&for_people(&view))?;
    Ok(ExitCode::SUCCESS)
}

fn for_people(view: &Value) -> String {
    let text = |value: &Value, name: &str| value[name].as_str().unwrap_or_default().to_owned();
    let all = |name: &str| view[name].as_array().cloned().unwrap_or_default();
    let mut lines = Vec::new();
    if view["next"].is_object() {
        lines.push(format!("{}. {}", text(&view["next"], "title"), text(&view["next"], "why")));
    }
    for name in ["health", "rides"] {
        if view[name].is_object() {
            lines.push(text(&view[name], "words"));
        }
    }
    for again in all("again") {
        lines.push(format!("! {} failed {} times. {}", text(&again, "place"), again["at"].as_array().map_or(0, Vec::len), text(&again, "advice")));
    }
    for mark in all("marks") {
        lines.push(format!("? {} {}. {}.", text(&mark, "at"), text(&mark, "problem"), text(&mark, "remedy")));
    }
    for one in all("reminders") {
        lines.push(format!("{}  {}", text(&one, "due"), text(&one, "title")));
    }
    for offer in all("offers") {
        lines.push(format!("The plan could learn: {} = {}. {}", text(&offer, "at"), offer["to"], text(&offer, "why")));
    }
    lines.join("\n") + "\n"
}
