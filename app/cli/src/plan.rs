//! Planning, from the command line: the report, what is wrong, what mends it, tables and the sheet.

use crate::out::{Document, End, Failure, Out, Outcome, folder, write};
use orthavis_core::document::{parse_value, patched};
use orthavis_core::findings::{Finding, Severity};
use orthavis_core::mend::{MendedAll, Until, everything};
use orthavis_core::points::PointError;
use orthavis_core::report::{Report, report};
use orthavis_core::working::plain;
use orthavis_operations::questions::Judged;
use serde_json::json;
use std::path::Path;

fn read(file: &Path) -> Result<(Document, Report), Failure> {
    let document = Document::read(file)?;
    let report = report(&document.build).map_err(|error| refused(file, &error))?;
    Ok((document, report))
}

/// Why there is no report.
fn refused(file: &Path, error: &PointError) -> String {
    let name = file.display();
    if error.error.is_unfinished() {
        format!("{name} is too large: {error}. Make it smaller: fewer scenes, shorter strips, or two builds.")
    } else {
        format!("{name} has no steady state: {error}. Give it a supply that can carry it, thicker wire, or less light.")
    }
}

pub fn solve(file: &Path) -> Outcome {
    Out { json: true }.put(&read(file)?.1, String::new)
}

pub fn tables(file: &Path, to: Option<&Path>, out: Out) -> Outcome {
    let (document, _) = read(file)?;
    let tables = orthavis_core::tables::tables(&document.build).map_err(|error| format!("{}: {error}", file.display()))?;
    let mut words = String::new();
    match to {
        None if !out.json => return Err(Failure::Usage("name a folder for the tables with --out, or print them with --json".into())),
        None => {}
        Some(to) => {
            folder(to)?;
            for table in &tables {
                let path = to.join(table.name).with_extension("csv");
                write(&path, table.csv())?;
                words += &format!("{}: {}\n", path.display(), table.title);
            }
        }
    }
    out.put(&tables, || words)
}

pub fn sheet(file: &Path, to: &Path, out: Out) -> Outcome {
    // What has no steady state is no use in a garage either.
    let (document, _) = read(file)?;
    let page = orthavis_server::sheet(&document.build, None).map_err(|error| error.to_string())?;
    write(to, &page)?;
    out.put(&json!({ "file": to, "bytes": page.len() }), || format!("{} is in {}, {:.1} MB\n", document.build.name, to.display(), page.len() as f64 / 1e6))
}

pub fn check(file: &Path, out: Out) -> Outcome {
    let (document, report) = read(file)?;
    let Report { verdict, findings, cards, .. } = report;
    let judged = Judged { verdict, findings, cards };
    out.put(&judged, || check_words(&document.build.name, &judged))?;
    Ok(if judged.verdict.stops > 0 { End::Stops } else { End::Fine })
}

fn check_words(name: &str, judged: &Judged) -> String {
    let mut text = format!("{name}: {}\n", judged.verdict.headline);
    for cost in &judged.verdict.costs {
        if let Some(hours) = cost.hours {
            text += &format!("  {}: {} of light\n", cost.scene, plain(hours, "h"));
        }
    }
    for card in &judged.cards {
        let mark = match card.severity {
            Severity::Stop => "STOP",
            Severity::Fix => "fix ",
            Severity::Note => "note",
        };
        let members: Vec<&Finding> = card.findings.iter().map(|index| &judged.findings[*index]).collect();
        let subjects: Vec<&str> = members.iter().map(|finding| finding.subject.as_str()).collect();
        text += &format!("\n{mark}  {}  [{} · {}]\n", card.title, card.code, subjects.join(" "));
        for finding in &members {
            text += &format!("      {}\n", finding.message.replace('`', ""));
        }
        text += &format!("      {}\n", members[0].why);
        for remedy in &card.remedies {
            text += &format!("      → {}\n", remedy.title);
        }
        if let Some(advice) = &card.advice {
            text += &format!("      {advice}\n");
        }
    }
    text + "\nThis is advice, not a certificate. Local rules and licensed people have the last word.\n"
}

pub fn mend(file: &Path, to: Option<&Path>, until: Until, out: Out) -> Outcome {
    let (document, _) = read(file)?;
    let mended = everything(&document.build, until).map_err(|error| refused(file, &error))?;
    if let Some(to) = to {
        let changed = patched(&document.build.to_value(), &mended.changes).map_err(|error| error.to_string())?;
        let changed = parse_value(&changed).map_err(|error| error.to_string())?;
        write(to, changed.print())?;
    }
    out.put(&mended, || mend_words(&document.build.name, &mended))?;
    Ok(if mended.left.is_empty() { End::Fine } else { End::Stops })
}

fn mend_words(name: &str, mended: &MendedAll) -> String {
    let mut text = format!("{name}: {}\n", if mended.steps.is_empty() { "nothing was changed" } else { "mended like this" });
    for step in &mended.steps {
        text += &format!("  {step}\n");
    }
    text += &format!("Then: {}\n", mended.effect.headline_after);
    for left in &mended.left {
        text += &format!("LEFT  {}\n      {}\n", left.title, left.advice);
    }
    text
}
