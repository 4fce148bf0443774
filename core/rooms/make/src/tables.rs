//! Steps, cut list and parts as tables.

use crate::cuts::CutList;
use crate::parts::PartsList;
use crate::steps::Step;
use orthavis_model::table::{Cell, Table};

fn text(words: impl Into<String>) -> Cell {
    Cell::Text(words.into())
}

/// The steps, one a row.
pub fn of_steps(steps: &[Step]) -> Table {
    let mut table = Table::new(
        "steps",
        "Steps",
        &[
            ("id", "Step", ""),
            ("phase", "Part of the work", ""),
            ("title", "What", ""),
            ("minutes", "Hands on it", "min"),
            ("wait_min", "Waits", "min"),
            ("after", "After", ""),
            ("tools", "Tools", ""),
            ("materials", "Materials", ""),
            ("checks", "Look at", ""),
            ("caution", "Caution", ""),
        ],
    );
    for step in steps {
        table.rows.push(vec![
            text(&step.id),
            text(step.phase.called()),
            text(&step.title),
            Cell::Number(step.minutes),
            Cell::Number(step.wait.as_ref().map_or(0.0, |wait| wait.minutes)),
            text(step.after.join(" ")),
            text(step.tools.join(", ")),
            text(step.materials.join(", ")),
            text(step.checks.join(" ")),
            text(step.caution.clone().unwrap_or_default()),
        ]);
    }
    table
}

/// Every piece, with the roll it comes off.
pub fn of_cuts(list: &CutList) -> Table {
    let mut table = Table::new(
        "cuts",
        "Cut list",
        &[
            ("of", "Cut from", ""),
            ("roll", "Roll", ""),
            ("name", "Piece", ""),
            ("from_m", "From", "m"),
            ("to_m", "To", "m"),
            ("length_m", "Length", "m"),
            ("note", "Note", ""),
        ],
    );
    for cut in &list.cuts {
        for (number, roll) in cut.rolls.iter().enumerate() {
            for on in &roll.pieces {
                let piece = &cut.pieces[on.piece];
                table.rows.push(vec![
                    text(&cut.of),
                    Cell::Number((number + 1) as f64),
                    text(&piece.name),
                    Cell::Number(on.from_m),
                    Cell::Number(on.to_m),
                    Cell::Number(on.to_m - on.from_m),
                    text(&piece.note),
                ]);
            }
        }
    }
    table
}

/// The parts list.
pub fn of_parts(list: &PartsList) -> Table {
    let mut table = Table::new(
        "parts",
        "Parts",
        &[
            ("group", "For", ""),
            ("of", "Part", ""),
            ("needed", "Needed", ""),
            ("spare", "Spare", ""),
            ("unit", "Of", ""),
            ("have", "In the drawer", ""),
            ("buy", "To buy", ""),
            ("price", "Price of one", ""),
            ("cost", "Cost", ""),
            ("currency", "Currency", ""),
            ("mass_g", "Mass", "g"),
        ],
    );
    for line in &list.lines {
        table.rows.push(vec![
            text(line.group.called()),
            text(&line.of),
            Cell::Number(line.needed),
            Cell::Number(line.spare),
            text(line.unit),
            Cell::Number(line.have),
            Cell::Number(line.buy),
            line.price.into(),
            line.cost.into(),
            text(&line.currency),
            line.mass_g.into(),
        ]);
    }
    table
}
