//! What a journal says back, from the command line.

use crate::out::{Document, Failure, Out, Outcome, read_text};
use clap::Args;
use orthavis_core::upkeep::view::JournalView;
use orthavis_core::working::plain;
use orthavis_operations::upkeep::{self, ChartRequest, JournalRequest};
use serde_json::Value;
use std::path::{Path, PathBuf};

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
fn events(path: &Path) -> Result<Vec<Value>, Failure> {
    let text = read_text(path)?;
    let (good, bad) = if path.extension().is_some_and(|ending| ending == "csv") {
        orthavis_core::journal::read_csv(&text).map_err(|error| format!("{}: {error}", path.display()))?
    } else {
        orthavis_core::journal::read_lines(&text)
    };
    for fault in bad {
        eprintln!("orthavis: {}{}: {}. {}.", path.display(), fault.pointer, fault.problem, fault.remedy);
    }
    Ok(good.into_iter().map(|(_, event)| serde_json::to_value(event)).collect::<Result<_, _>>().map_err(|error| error.to_string())?)
}

pub fn run(journal: &Journal, out: Out) -> Outcome {
    let document = Document::read(&journal.file)?.raw()?;
    let since = std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).unwrap_or_default();
    let here = || orthavis_core::moment::Moment { s: since.as_secs() as i64, offset_s: 0 }.text();
    let (events, now) = (events(&journal.events)?, journal.now.clone().unwrap_or_else(here));
    if let Some(chart) = &journal.svg {
        return out.text(&upkeep::as_svg(ChartRequest { document, events, now, chart: chart.clone(), from: None, to: None })?);
    }
    let request = JournalRequest { document, events, now };
    if journal.csv {
        return out.text(&upkeep::as_csv(request)?);
    }
    if journal.calendar {
        return out.text(&upkeep::as_calendar(request)?);
    }
    let view = upkeep::journal(request)?;
    out.put(&view, || words(&view))
}

fn words(view: &JournalView) -> String {
    let mut lines = Vec::new();
    lines.extend(view.next.iter().map(|next| format!("{}. {}", next.title, next.why)));
    lines.extend(view.health.iter().map(|health| health.words.clone()));
    lines.push(view.rides.words.clone());
    lines.extend(view.again.iter().map(|again| format!("! {} failed {} times. {}", again.place, again.at.len(), again.advice)));
    lines.extend(view.marks.iter().map(|mark| format!("? {} {}. {}.", mark.at, mark.problem, mark.remedy)));
    lines.extend(view.reminders.iter().map(|one| format!("{}  {}", one.due, one.title)));
    lines.extend(view.offers.iter().map(|offer| format!("Update the plan: {} = {}. {}", offer.at, plain(offer.to, offer.unit), offer.why)));
    lines.join("\n") + "\n"
}
