//! Making, from the command line: steps, cut list, parts, labels and the diagram.

use crate::bench::{At, asked, document, scene};
use clap::{Args, Subcommand, ValueEnum};
use serde_json::{Value, json};
use std::path::PathBuf;
use std::process::ExitCode;

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
        #[arg(long, conflicts_with_all = ["csv", "json"])]
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
        /// Print JSON
        #[arg(long, conflicts_with_all = ["netlist", "csv"])]
        json: bool,
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
        /// What to print
        #[arg(long, default_value = "svg")]
        format: Drawn,
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
    #[arg(long, conflicts_with = "json")]
    csv: bool,
    /// Print JSON
    #[arg(long)]
    json: bool,
}

/// Text, table or JSON of one list.
fn put(of: &Of, found: &Value, table: impl FnOnce() -> Result<String, String>, text: impl FnOnce() -> String) -> Result<ExitCode, String> {
    if of.json {
        return told(found);
    }
    crate::print(&if of.csv { table()? } else { text() })?;
    Ok(ExitCode::SUCCESS)
}

/// An answer as JSON for other programs.
pub(crate) fn told(found: &Value) -> Result<ExitCode, String> {
    crate::print(&format!("{found:#}\n"))?;
    Ok(ExitCode::SUCCESS)
}

pub(crate) fn text_of(name: &str, request: &Value) -> Result<String, String> {
    let bytes = orthavis_operations::ask(name, request.to_string().as_bytes()).map_err(|refusal| refusal.detail)?;
    String::from_utf8(bytes).map_err(|error| error.to_string())
}

fn word<'a>(value: &'a Value, name: &str) -> &'a str {
    value[name].as_str().unwrap_or("")
}

fn words(value: &Value) -> String {
    let all: Vec<&str> = value.as_array().into_iter().flatten().filter_map(Value::as_str).collect();
    all.join(", ")
}

fn number(value: &Value, name: &str) -> f64 {
    value[name].as_f64().unwrap_or(0.0)
}

/// Today, by the clock of the machine (UTC).
fn today() -> String {
    let since = std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).map_or(0, |since| since.as_secs());
    orthavis_core::document::date_of((since / 86_400) as i64)
}

/// As in `Fri 27 18:30`, from minutes after a first day's midnight.
fn moment(first: &str, minutes: f64) -> String {
    let day = orthavis_core::document::day_of(first).unwrap_or(0) + (minutes / 1440.0).floor() as i64;
    let of_day = minutes.rem_euclid(1440.0).round() as i64;
    format!("{} {:02}:{:02}", orthavis_core::document::date_of(day), of_day / 60, of_day % 60)
}

pub fn run(make: &Make) -> Result<ExitCode, String> {
    match make {
        Make::Steps { of, from, all, calendar } => {
            let document = document(&of.file)?;
            let work = json!({ "document": document, "day": from.clone().unwrap_or_else(today) });
            if *calendar {
                let made = format!("{}T000000Z", today().replace('-', ""));
                crate::print(&text_of("make/calendar", &json!({ "work": work, "made": made }))?)?;
                return Ok(ExitCode::SUCCESS);
            }
            let found = asked("make", &work)?;
            put(of, &found, || text_of("make/csv", &json!({ "of": { "document": document }, "table": "steps" })), || told_steps(&found, *all))
        }
        Make::Cuts { of } => {
            let document = document(&of.file)?;
            let found = asked("cuts", &json!({ "document": document }))?;
            put(of, &found, || text_of("make/csv", &json!({ "of": { "document": document }, "table": "cuts" })), || told_cuts(&found))
        }
        Make::Parts { of, have } => {
            let document = document(&of.file)?;
            let mut stock = serde_json::Map::new();
            for one in have {
                let usage = || format!("`{one}` says nothing of the drawer; write it as `cable tie=80`");
                let (part, count) = one.rsplit_once('=').ok_or_else(usage)?;
                stock.insert(part.trim().to_owned(), json!(count.trim().parse::<f64>().map_err(|_| usage())?));
            }
            let request = json!({ "document": document, "stock": stock });
            let found = asked("shopping", &request)?;
            put(of, &found, || text_of("make/csv", &json!({ "of": request, "table": "parts" })), || told_parts(&found))
        }
        Make::Labels { of } => {
            let found = asked("labels", &json!({ "document": document(&of.file)? }))?;
            let rows = || found.as_array().into_iter().flatten();
            let table = || {
                let mut table = orthavis_core::table::Table::new(
                    "labels",
                    "Labels",
                    &[("kind", "For", ""), ("part", "Part", ""), ("title", "Label", ""), ("line", "Small", "")],
                );
                table.rows = rows().map(|row| ["kind", "part", "title", "line"].iter().map(|name| word(row, name).into()).collect()).collect();
                Ok(table.csv())
            };
            put(of, &found, table, || rows().map(|row| format!("{:<28} {}\n", word(row, "title"), word(row, "line"))).collect())
        }
        Make::Fit { of } => {
            let request = json!({ "document": document(&of.file)? });
            let found = asked("fit", &request)?;
            put(of, &found, || text_of("make/csv", &json!({ "of": request, "table": "fit" })), || told_fit(&found))
        }
        Make::Circuit { file, id, state, json, netlist, csv, flashes } => {
            let request = json!({ "document": document(file)?, "circuit": id, "state": state, "flashes": flashes });
            if *netlist || *csv {
                crate::print(&text_of(if *csv { "circuit/csv" } else { "circuit/netlist" }, &request)?)?;
                return Ok(ExitCode::SUCCESS);
            }
            let found = asked("circuit", &request)?;
            if *json {
                return told(&found);
            }
            crate::print(&told_circuit(&found, ""))?;
            Ok(ExitCode::SUCCESS)
        }
        Make::Netlist { file, at } => {
            let document = document(file)?;
            let scene = scene(&document, at)?;
            crate::print(&text_of("netlist", &json!({ "document": document, "scene": scene, "state": at.state }))?)?;
            Ok(ExitCode::SUCCESS)
        }
        Make::Diagram { file, format } => {
            let request = json!({ "document": document(file)? });
            match format {
                Drawn::Svg => crate::print(&text_of("diagram/svg", &request)?)?,
                Drawn::Dot => crate::print(&text_of("diagram/dot", &request)?)?,
                Drawn::Json => return told(&asked("diagram", &request)?),
            }
            Ok(ExitCode::SUCCESS)
        }
    }
}

fn told_steps(found: &Value, all: bool) -> String {
    let plan = &found["plan"];
    let begins = word(plan, "begins");
    let stops = found["stops"].as_array().map_or(0, Vec::len);
    let mut out = String::new();
    let mut phase = String::new();
    let order: Vec<&Value> = found["order"].as_array().into_iter().flatten().collect();
    for step in found["steps"].as_array().into_iter().flatten() {
        if stops > 0 && !all && step["wants_safe"] == true {
            continue;
        }
        if word(step, "phase") != phase {
            word(step, "phase").clone_into(&mut phase);
            out += &format!("\n{}\n", phase.to_uppercase());
        }
        let number_of = order.iter().position(|id| **id == step["id"]).map_or(0, |at| at + 1);
        let placed = plan["placed"].as_array().into_iter().flatten().find(|one| one["step"] == step["id"]);
        let when = placed.map_or_else(String::new, |one| moment(begins, number(&one["at"][0], "from")));
        out += &format!("{number_of:>3}. {}  [{}]\n     {when}, {:.0} min", word(step, "title"), word(step, "id"), number(step, "minutes"));
        if step["wait"].is_object() {
            out += &format!(", then {:.1} h: {}", number(&step["wait"], "minutes") / 60.0, word(&step["wait"], "what"));
        }
        out += &format!("\n     {}\n     Look: {}\n", word(step, "how"), words(&step["checks"]).replace("., ", ". "));
        if let Some(caution) = step["caution"].as_str() {
            out += &format!("     ! {caution}\n");
        }
    }
    if stops > 0 {
        out += &format!("\nNot safe to build yet: {}.\n", words(&found["stops"]));
        if !all {
            out += "What goes onto the vehicle waits until that is mended; --all shows it.\n";
        }
    }
    out + &format!("\n{:.0} min of work, done by {}\n", number(plan, "work"), moment(begins, number(plan, "ends")))
}

fn told_cuts(found: &Value) -> String {
    let mut out = String::new();
    for cut in found["cuts"].as_array().into_iter().flatten() {
        out += &format!("{} — {:.2} m\n", word(cut, "of"), number(cut, "length_m"));
        for (index, roll) in cut["rolls"].as_array().into_iter().flatten().enumerate() {
            out += &format!("  roll {} of {:.2} m, {:.2} m left\n", index + 1, number(roll, "length_m"), number(roll, "left_m"));
            for on in roll["pieces"].as_array().into_iter().flatten() {
                let piece = &cut["pieces"][on["piece"].as_u64().unwrap_or(0) as usize];
                let note = word(piece, "note");
                let note = if note.is_empty() { String::new() } else { format!("  ({note})") };
                out += &format!("    {:>7.2} to {:>6.2} m  {}{note}\n", number(on, "from_m"), number(on, "to_m"), word(piece, "name"));
            }
        }
    }
    for shrink in found["shrink"].as_array().into_iter().flatten() {
        out += &format!("heat-shrink {} mm: {} pieces of 3 cm\n", shrink["bore_mm"], shrink["pieces"]);
    }
    out
}

fn told_parts(found: &Value) -> String {
    let mut out = String::new();
    for line in found["lines"].as_array().into_iter().flatten() {
        let price = line["cost"].as_f64().map_or_else(|| "price not known".to_owned(), |cost| format!("{cost:.2} {}", word(line, "currency")));
        out += &format!(
            "{:>8.2} {:<5} {:<52} {:>6.2} spare, {:>6.2} there, buy {:>6.2}  {price}\n",
            number(line, "needed"),
            word(line, "unit"),
            word(line, "of"),
            number(line, "spare"),
            number(line, "have"),
            number(line, "buy")
        );
    }
    for (currency, cost) in found["cost"].as_object().into_iter().flatten() {
        out += &format!("together {:.2} {currency}\n", cost.as_f64().unwrap_or(0.0));
    }
    out + &format!("{} without a price; tools: {}\n", found["unpriced"], words(&found["tools"]))
}

fn told_fit(found: &Value) -> String {
    let sides =
        |value: &Value| value.as_array().into_iter().flatten().map(|side| format!("{:.0}", side.as_f64().unwrap_or(0.0))).collect::<Vec<_>>().join(" × ");
    let all = |name: &str| found["fit"][name].as_array().into_iter().flatten();
    let mut out = String::new();
    for space in all("spaces") {
        out += &format!(
            "{}, {} mm: {:.0} % full, air up to {:.0} °C\n",
            word(space, "id"),
            sides(&space["size_mm"]),
            100.0 * number(space, "filled"),
            number(space, "air_c")
        );
        for one in all("placed").filter(|one| one["space"] == space["id"]) {
            let hot = if one["hot"] == true { ", hot: 5 mm of air around it" } else { "" };
            out += &format!("  {:<24} {} mm, corner at {}{hot}\n", word(one, "part"), sides(&one["size_mm"]), sides(&one["at_mm"]).replace(" × ", ", "));
        }
    }
    for one in all("left") {
        out += &format!("! {} has no place: {}\n", word(one, "part"), word(one, "why"));
    }
    for part in all("unsized_parts").filter_map(Value::as_str) {
        out += &format!("? {part}: say its size in `make.inside`\n");
    }
    if found["fit"]["certain"] == false {
        out += "Perhaps there is a way that puts more of them in; none was found.\n";
    }
    for fact in found["balance"]["facts"].as_array().into_iter().flatten() {
        out += &format!("{}: {:.1} {}\n", word(fact, "label"), number(fact, "value"), word(fact, "unit"));
    }
    if let Some(meaning) = found["balance"]["meaning"].as_str() {
        out += &format!("{meaning}\n");
    }
    if out.is_empty() {
        out += "No cavities yet: describe them in `make.spaces`.\n";
    }
    out
}

/// Every figure on a line of its own, tables within it further in.
fn told_circuit(found: &Value, under: &str) -> String {
    let mut out = String::new();
    for (name, value) in found.as_object().into_iter().flatten() {
        out += &match value {
            Value::Object(_) => format!("{under}{name}\n{}", told_circuit(value, &format!("{under}  "))),
            Value::Array(rows) => {
                rows.iter().map(|row| format!("{under}{:.2} to {:.2} V: {}\n", number(row, "from_v"), number(row, "to_v"), word(row, "lit"))).collect()
            }
            Value::Number(figure) => format!("{under}{name:<16} {:.5}\n", figure.as_f64().unwrap_or(0.0)),
            other => format!("{under}{name:<16} {other}\n"),
        };
    }
    out
}
