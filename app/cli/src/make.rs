//! Making, from the command line: steps, cut list, parts, labels and the diagram.

use crate::bench::At;
use crate::out::{Document, End, Failure, Out, Outcome, print};
use clap::{Args, Subcommand, ValueEnum};
use orthavis_core::circuits::CircuitFigures;
use orthavis_core::make::cuts::CutList;
use orthavis_core::make::labels::Label;
use orthavis_core::make::parts::PartsList;
use orthavis_core::moment::{date_of, day_of};
use orthavis_core::table::Table;
use orthavis_core::working::plain;
use orthavis_operations::circuits::{self, CircuitRequest};
use orthavis_operations::make::{self as ask, CalendarRequest, Fitted, Made, MakeRequest, MakeTableRequest, NetlistRequest, PartsRequest};
use std::collections::BTreeMap;
use std::path::PathBuf;

#[derive(Subcommand)]
#[command(defer = true)]
pub enum Make {
    /// Print the steps of making a build, in order
    ///
    /// A build that is not safe is shown up to the bench, and why; --all shows the rest too.
    Steps {
        #[command(flatten)]
        of: Of,
        /// The first day of the work, as in 2026-11-27 [default: the build's own, else today]
        #[arg(long)]
        from: Option<String>,
        /// Show what waits for a safe build too
        #[arg(long)]
        all: bool,
        /// Print the plan as a calendar (RFC 5545)
        #[arg(long, conflicts_with = "csv")]
        calendar: bool,
    },
    /// Print every piece of wire and strip, and which roll it comes off
    Cuts {
        #[command(flatten)]
        of: Of,
    },
    /// Print what a build takes, with spares, and what is to be bought
    Parts {
        #[command(flatten)]
        of: Of,
        /// What is in the drawer, as in `cable tie=80`
        #[arg(long, value_name = "PART=COUNT")]
        have: Vec<String>,
    },
    /// Print a label for every wire end, fuse, converter, switch and plug
    Labels {
        #[command(flatten)]
        of: Of,
    },
    /// Print which part goes into which cavity, what does not fit and by how much, and what the plan weighs
    Fit {
        #[command(flatten)]
        of: Of,
    },
    /// Print what a small circuit does at a state of the source: period, currents, seconds carried, bands
    Circuit {
        /// A build document (orthavis.build/1); `-` reads standard input
        file: PathBuf,
        /// Id of the circuit
        id: String,
        /// State of the source [default: the fullest]
        #[arg(long)]
        state: Option<String>,
        /// Print SPICE text whose measurements have the same names
        #[arg(long, conflicts_with = "csv")]
        netlist: bool,
        /// Print its waveforms (RFC 4180)
        #[arg(long)]
        csv: bool,
        /// Of a flasher: how many flashes to follow [default: as many as it takes to tell its figures]
        #[arg(long)]
        flashes: Option<u32>,
    },
    /// Print the build at a scene and state as SPICE text, for a general circuit simulator
    Netlist {
        /// A build document (orthavis.build/1); `-` reads standard input
        file: PathBuf,
        #[command(flatten)]
        at: At,
    },
    /// Print the wiring diagram: a drawing (SVG), the connections as a graph (DOT), or where everything lies (JSON)
    Diagram {
        /// A build document (orthavis.build/1); `-` reads standard input
        file: PathBuf,
        /// What to print [default: svg, and with --json where everything lies]
        #[arg(long)]
        format: Option<Drawn>,
    },
}

#[derive(Clone, Copy, ValueEnum)]
pub enum Drawn {
    /// A drawing (SVG 1.1)
    Svg,
    /// The connections as a graph
    Dot,
    /// Boxes, wires and texts with their places
    Json,
}

#[derive(Args)]
pub struct Of {
    /// A build document (orthavis.build/1); `-` reads standard input
    file: PathBuf,
    /// Print a table (RFC 4180)
    #[arg(long)]
    csv: bool,
}

/// Today, by the clock of the machine (UTC).
fn today() -> String {
    let since = std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).map_or(0, |since| since.as_secs());
    date_of((since / 86_400) as i64)
}

/// As in `2026-11-27 18:30`, from minutes after a first day's midnight.
fn moment(first: &str, minutes: f64) -> String {
    let day = day_of(first).unwrap_or(0) + (minutes / 1440.0).floor() as i64;
    let of_day = minutes.rem_euclid(1440.0).round() as i64;
    format!("{} {:02}:{:02}", date_of(day), of_day / 60, of_day % 60)
}

/// A text in a format of its own, which leaves no room for another.
fn as_is(text: &str, out: Out) -> Outcome {
    if out.json {
        return Err(Failure::Usage("--json prints the answer itself; leave it out, or the other format".to_owned()));
    }
    print(text)?;
    Ok(End::Fine)
}

/// A table of what is made.
fn table(of: PartsRequest, name: &str, out: Out) -> Outcome {
    as_is(&ask::as_csv(MakeTableRequest { of, table: name.to_owned() })?, out)
}

pub fn run(make: &Make, out: Out) -> Outcome {
    match make {
        Make::Steps { of, from, all, calendar } => {
            let document = Document::read(&of.file)?;
            let work = MakeRequest { document: document.raw()?, day: from.clone().unwrap_or_else(today), now: 0.0, done: Vec::new() };
            if *calendar {
                let made = format!("{}T000000Z", today().replace('-', ""));
                return as_is(&ask::as_calendar(CalendarRequest { work, made })?, out);
            }
            // What cannot be asked is said before a table is made.
            let found = ask::made(work)?;
            if of.csv { table(of.plain(&document)?, "steps", out) } else { out.put(&found, || steps_words(&found, *all)) }
        }
        Make::Cuts { of } => {
            let document = Document::read(&of.file)?;
            if of.csv {
                return table(of.plain(&document)?, "cuts", out);
            }
            let found = ask::cut_list(document.alone()?)?;
            out.put(&found, || cuts_words(&found))
        }
        Make::Parts { of, have } => {
            let mut request = of.plain(&Document::read(&of.file)?)?;
            for one in have {
                let usage = || format!("`{one}` says nothing of the drawer; write it as `cable tie=80`");
                let (part, count) = one.rsplit_once('=').ok_or_else(usage)?;
                request.stock.insert(part.trim().to_owned(), count.trim().parse::<f64>().map_err(|_| usage())?);
            }
            if of.csv {
                return table(request, "parts", out);
            }
            let found = ask::parts_list(request)?;
            out.put(&found, || parts_words(&found))
        }
        Make::Labels { of } => {
            let found = ask::flags(Document::read(&of.file)?.alone()?)?;
            if of.csv {
                as_is(&labels_table(&found), out)
            } else {
                out.put(&found, || found.iter().map(|one| format!("{:<28} {}\n", one.title, one.line)).collect())
            }
        }
        Make::Fit { of } => {
            let document = Document::read(&of.file)?;
            if of.csv {
                return table(of.plain(&document)?, "fit", out);
            }
            let found = ask::fitted(document.alone()?)?;
            out.put(&found, || fit_words(&found))
        }
        Make::Circuit { file, id, state, netlist, csv, flashes } => {
            let document = Document::read(file)?.raw()?;
            let request = CircuitRequest { document, circuit: id.clone(), state: state.clone(), wanted: None, quick: false, flashes: *flashes };
            if *csv {
                return as_is(&circuits::as_csv(request)?, out);
            }
            if *netlist {
                return out.text(&circuits::as_netlist(request)?);
            }
            let found = circuits::figures(request)?;
            out.put(&found, || circuit_words(&found))
        }
        Make::Netlist { file, at } => {
            let document = Document::read(file)?;
            let scene = document.scene(at.scene.as_ref())?;
            out.text(&ask::as_netlist(NetlistRequest { document: document.raw()?, scene, state: at.state.clone() })?)
        }
        Make::Diagram { file, format } => {
            let request = Document::read(file)?.alone()?;
            match format {
                Some(Drawn::Svg) => as_is(&ask::as_svg(request)?, out),
                Some(Drawn::Dot) => as_is(&ask::as_dot(request)?, out),
                None if !out.json => as_is(&ask::as_svg(request)?, out),
                None | Some(Drawn::Json) => Out { json: true }.put(&ask::drawn(request)?, String::new),
            }
        }
    }
}

impl Of {
    /// The build, with nothing in the drawer.
    fn plain(&self, document: &Document) -> Result<PartsRequest, Failure> {
        Ok(PartsRequest { document: document.raw()?, stock: BTreeMap::new() })
    }
}

fn steps_words(found: &Made, all: bool) -> String {
    let (plan, stops) = (&found.plan, !found.stops.is_empty());
    let mut out = String::new();
    let mut phase = None;
    for step in &found.steps {
        if stops && !all && step.wants_safe {
            continue;
        }
        if phase != Some(step.phase) {
            phase = Some(step.phase);
            out += &format!("\n{}\n", step.phase.called().to_uppercase());
        }
        let number = found.order.iter().position(|id| *id == step.id).map_or(0, |at| at + 1);
        let placed = plan.placed.iter().find(|one| one.step == step.id).and_then(|one| one.at.first());
        let when = placed.map_or_else(String::new, |at| moment(&plan.begins, at.from));
        out += &format!("{number:>3}. {}  [{}]\n     {when}, {:.0} min", step.title, step.id, step.minutes);
        if let Some(wait) = &step.wait {
            out += &format!(", then {:.1} h: {}", wait.minutes / 60.0, wait.what);
        }
        out += &format!("\n     {}\n     Look: {}\n", step.how, step.checks.join(" "));
        if let Some(caution) = &step.caution {
            out += &format!("     ! {caution}\n");
        }
    }
    if stops {
        out += &format!("\nNot safe to build yet: {}.\n", found.stops.join(", "));
        if !all {
            out += "What goes onto the vehicle waits until that is mended; --all shows it.\n";
        }
    }
    out + &format!("\n{:.0} min of work, done by {}\n", plan.work, moment(&plan.begins, plan.ends))
}

fn cuts_words(found: &CutList) -> String {
    let mut out = String::new();
    for cut in &found.cuts {
        out += &format!("{} — {:.2} m\n", cut.of, cut.length_m);
        for (index, roll) in cut.rolls.iter().enumerate() {
            out += &format!("  roll {} of {:.2} m, {:.2} m left\n", index + 1, roll.length_m, roll.left_m);
            for on in &roll.pieces {
                let piece = &cut.pieces[on.piece];
                let note = if piece.note.is_empty() { String::new() } else { format!("  ({})", piece.note) };
                out += &format!("    {:>7.2} to {:>6.2} m  {}{note}\n", on.from_m, on.to_m, piece.name);
            }
        }
    }
    for shrink in &found.shrink {
        out += &format!("heat-shrink {} mm: {} pieces of {}\n", shrink.bore_mm, shrink.pieces, plain(100.0 * found.shrink_piece_m, "cm"));
    }
    out
}

fn parts_words(found: &PartsList) -> String {
    let mut out = String::new();
    for line in &found.lines {
        let price = line.cost.map_or_else(|| "price not known".to_owned(), |cost| format!("{cost:.2} {}", line.currency));
        out += &format!(
            "{:>8.2} {:<5} {:<52} {:>6.2} spare, {:>6.2} there, buy {:>6.2}  {price}\n",
            line.needed, line.unit, line.of, line.spare, line.have, line.buy
        );
    }
    for (currency, cost) in &found.cost {
        out += &format!("together {cost:.2} {currency}\n");
    }
    out + &format!("{} without a price; tools: {}\n", found.unpriced, found.tools.join(", "))
}

fn labels_table(found: &[Label]) -> String {
    let mut table = Table::new("labels", "Labels", &[("kind", "For", ""), ("part", "Part", ""), ("title", "Label", ""), ("line", "Small", "")]);
    table.rows = found.iter().map(|one| vec![one.kind.word().into(), one.part.as_str().into(), one.title.as_str().into(), one.line.as_str().into()]).collect();
    table.csv()
}

/// Three sides or a corner, mm.
fn three(figures: [f64; 3], between: &str) -> String {
    figures.map(|figure| format!("{figure:.0}")).join(between)
}

fn fit_words(found: &Fitted) -> String {
    let fit = &found.fit;
    let mut out = String::new();
    for space in &fit.spaces {
        out += &format!("{}, {} mm: {:.0} % full, air up to {}\n", space.id, three(space.size_mm, " × "), 100.0 * space.filled, plain(space.air_c, "°C"));
        for one in fit.placed.iter().filter(|one| one.space == space.id) {
            let hot = if one.hot { ", hot: 5 mm of air around it" } else { "" };
            out += &format!("  {:<24} {} mm, corner at {}{hot}\n", one.part, three(one.size_mm, " × "), three(one.at_mm, ", "));
        }
    }
    for one in &fit.left {
        out += &format!("! {} has no place: {}\n", one.part, one.why);
    }
    for part in &fit.unsized_parts {
        out += &format!("? {part}: say its size in `make.inside`\n");
    }
    if !fit.certain {
        out += "Perhaps there is a way that puts more of them in; none was found.\n";
    }
    if let Some(balance) = &found.balance {
        for fact in &balance.facts {
            out += &format!("{}: {}\n", fact.label, plain(fact.value, fact.unit));
        }
        out += &format!("{}\n", balance.meaning);
    }
    if out.is_empty() {
        out += "No cavities yet: describe them in `make.spaces`.\n";
    }
    out
}

fn circuit_words(found: &CircuitFigures) -> String {
    let line = |name: &str, figure: String| format!("{name:<16} {figure}\n");
    let figures = [
        ("period", found.period_s, "s"),
        ("on for", found.on_s, "s"),
        ("of the time", found.duty, "1"),
        ("supply, mean", found.supply_mean_a, "A"),
        ("supply, at most", found.supply_peak_a, "A"),
        ("output, at most", found.output_peak_a, "A"),
        ("light, at most", found.light_peak_a, "A"),
        ("drop", found.drop_v, "V"),
        ("base, at least", found.base_least_v, "V"),
        ("pin", found.pin_a, "A"),
        ("heat", found.heat_w, "W"),
        ("pulses", found.pwm_hz, "Hz"),
    ];
    let mut out: String = figures.into_iter().filter_map(|(name, value, unit)| Some(line(name, plain(value?, unit)))).collect();
    if let Some(saturated) = found.saturated {
        out += &line("switched", if saturated { "all the way" } else { "halfway: it gets hot" }.to_owned());
    }
    for (tap, held) in &found.taps {
        out += &format!("{tap}\n");
        out += &line("  to half light", plain(held.half_s, "s"));
        out += &line("  to a tenth", plain(held.tenth_s, "s"));
        out += &line("  inrush", plain(held.inrush_a, "A"));
    }
    for band in &found.bands {
        out += &format!("{:.2} to {:.2} V: {}\n", band.from_v, band.to_v, band.lit);
    }
    out
}
