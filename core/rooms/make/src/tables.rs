//! Steps, cut list, parts and what goes where as tables.

use crate::cuts::CutList;
use crate::fit::Fit;
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

/// Which part goes where, and what has no place.
pub fn of_fit(fit: &Fit) -> Table {
    let mut table = Table::new(
        "fit",
        "What goes where",
        &[
            ("part", "Part", ""),
            ("space", "Cavity", ""),
            ("x_mm", "From its end", "mm"),
            ("y_mm", "from its side", "mm"),
            ("z_mm", "from its floor", "mm"),
            ("length_mm", "Length", "mm"),
            ("width_mm", "Width", "mm"),
            ("height_mm", "Height", "mm"),
            ("surface_c", "Surface", "°C"),
            ("over_mm", "Too large by", "mm"),
            ("why", "Why", ""),
        ],
    );
    for one in &fit.placed {
        let sides = one.at_mm.iter().chain(&one.size_mm).map(|side| Cell::Number(*side));
        let row = [text(&one.part), text(&one.space)].into_iter().chain(sides);
        table.rows.push(row.chain([Cell::Number(one.surface_c), text(""), text("")]).collect());
    }
    for one in &fit.left {
        let gap = |count: usize| std::iter::repeat_n(text(""), count);
        let row = [text(&one.part), text(one.space.clone().unwrap_or_default())].into_iter().chain(gap(7));
        table.rows.push(row.chain([one.over_mm.map_or_else(|| text(""), Cell::Number), text(&one.why)]).collect());
    }
    table
}
