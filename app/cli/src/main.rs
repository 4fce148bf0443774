//! The one binary: solves and checks build files, and serves the workshop in a browser.
// Whoever reads may stop at any time; [`print`] knows that.
#![warn(clippy::print_stdout)]

mod bench;
mod help;
mod journal;
mod make;
mod show;

use clap::{Args, CommandFactory, FromArgMatches, Parser, Subcommand};
use orthavis_core::budget::{self, Budget};
use orthavis_core::document::{Build, DocumentError, parse, parse_value, patched};
use orthavis_core::findings::{Finding, Severity};
use orthavis_core::journal::Event;
use orthavis_core::mend::{Until, everything};
use orthavis_core::moment::Moment;
use orthavis_core::points::PointError;
use orthavis_core::report::{Report, report};
use orthavis_core::upkeep::year::{Truth, year};
use orthavis_instruments::{Bench, Instruments, Kind, OnBench, PORTS};
use orthavis_server::{Door, Listeners, Rack};
use orthavis_store::{Carried, Owner, Store, StoreError, backup, export_all};
use std::io::{IsTerminal, Write};
use std::net::{IpAddr, Ipv4Addr, SocketAddr};
use std::path::{Path, PathBuf};
use std::process::ExitCode;
use std::sync::Arc;
use tokio::net::TcpListener;
use tracing_appender::non_blocking::{NonBlockingBuilder, WorkerGuard};
use tracing_subscriber::filter::{LevelFilter, Targets};
use tracing_subscriber::layer::SubscriberExt;
use tracing_subscriber::util::SubscriberInitExt;

/// Exit code for input that cannot be used.
const BAD_INPUT: u8 = 2;

#[derive(Parser)]
#[command(
    name = "orthavis",
    version,
    about = "Plans lights on a small vehicle from the battery it already has",
    long_about = "Orthavis plans LED lighting on skateboards, bicycles, power wheelchairs, RC models, drones and RVs from the \
                  battery the vehicle already has: it sizes resistors, converters, wires and fuses, estimates what the lights \
                  take from the battery, and warns where someone can get hurt. It advises; it never certifies.",
    after_help = "Start here:\n  orthavis                   open your own workshop in the browser\n  orthavis demo              look at sample builds there\n  \
                  orthavis check trike.json  read what is wrong with a build file\n  orthavis help COMMAND      how one of them is used",
    args_conflicts_with_subcommands = true
)]
struct Cli {
    #[command(subcommand)]
    command: Option<Command>,
    #[command(flatten)]
    place: Place,
    /// Do not open a browser
    #[arg(long)]
    no_open: bool,
}

/// The command line, with its help by the job.
fn command() -> clap::Command {
    help::grouped(Cli::command())
}

#[derive(Subcommand)]
#[command(defer = true)]
enum Command {
    /// Print the full report of a build file as JSON
    ///
    /// Solves every scene at every state of the battery. Exit code 0 with the report on standard output; 2 with a
    /// readable error, and no report at all, when the file cannot be used or has no steady state.
    Solve {
        /// A build document (orthavis.build/1); `-` reads standard input
        file: PathBuf,
    },
    /// Print what is wrong with a build file, worst first, for people
    ///
    /// Exit code 0 when nothing forbids building it, 1 when something does, 2 when the file cannot be used.
    Check {
        /// A build document (orthavis.build/1); `-` reads standard input
        file: PathBuf,
    },
    /// Search for a short list of changes after which nothing stands against building it
    ///
    /// Prints what it changes and what only you can do. Exit code 0 when the mended build has no stop left, 1 when it
    /// has, 2 when the file cannot be used.
    Mend {
        /// A build document (orthavis.build/1); `-` reads standard input
        file: PathBuf,
        /// Write the mended build to this file
        #[arg(long)]
        out: Option<PathBuf>,
        /// And everything else: what is wrong without being a danger, too
        #[arg(long)]
        all: bool,
    },
    /// Write every result of a build file as tables
    ///
    /// One CSV file for each table: the source, feeds, converters and lights at every scene and state, endurance,
    /// findings, what the lights cost, the audit and the discharge over time.
    Tables {
        /// A build document (orthavis.build/1); `-` reads standard input
        file: PathBuf,
        /// Folder to write into; made if missing
        #[arg(long)]
        out: PathBuf,
    },
    /// Write a build as one page of HTML to take along: it opens from a phone's storage without a server
    Sheet {
        /// A build document (orthavis.build/1); `-` reads standard input
        file: PathBuf,
        /// The page to write
        #[arg(long)]
        out: PathBuf,
    },
    #[command(flatten)]
    Bench(bench::Bench),
    #[command(flatten)]
    Make(make::Make),
    #[command(flatten)]
    Shows(show::Shows),
    /// Print what the journal of a build says back: next charge, health, what wears, what is due
    Journal(journal::Journal),
    /// The bench's instruments without the page: a meter, a bench supply and a charger that speak SCPI
    ///
    /// Lines of text on 127.0.0.1, as docs/instruments.md lists them. Stop with Ctrl-C.
    Instruments {
        /// The build on the bench (orthavis.build/1); `-` reads standard input
        file: PathBuf,
        /// Port of the meter; the supply and the charger take the next two; 0 takes any free ones
        #[arg(long, default_value_t = 5025)]
        port: u16,
        /// Serial number of the meter, which fixes its error
        #[arg(long, default_value_t = 7)]
        serial: u64,
    },
    /// Print the JSON Schema of the build document
    Schema,
    /// Print every kind of finding with its rule, as Markdown
    Checks,
    /// Write a consistent copy of the workshop into a new file, also while it is open
    Backup {
        /// The file to write
        file: PathBuf,
        #[command(flatten)]
        database: Database,
    },
    /// Put a backup in the place of the workshop
    ///
    /// What was there is kept beside it under a name with `.before-restore`. A workshop in which something was saved
    /// after the backup is not written over without --force.
    Restore {
        /// A file that `orthavis backup` wrote
        file: PathBuf,
        #[command(flatten)]
        database: Database,
        /// Also where the workshop is newer
        #[arg(long)]
        force: bool,
    },
    /// Write every build, journal and own part as files in open formats
    Export {
        /// A new folder
        #[arg(long, value_name = "FOLDER")]
        all: PathBuf,
        #[command(flatten)]
        database: Database,
    },
    /// Take in a folder that `orthavis export` wrote: all of it or nothing
    Import {
        /// The folder
        folder: PathBuf,
        #[command(flatten)]
        database: Database,
    },
    /// Open the workshop: serve the page on this machine only, unless --lan is given
    Serve(Place),
    /// The workshop with the sample builds of the Lowmarsh lantern parade in it
    Demo {
        #[command(flatten)]
        place: Place,
        /// Throw away what is in the demo database and start over
        #[arg(long)]
        fresh: bool,
    },
    /// Print completions of these commands for a shell
    Completions {
        /// The shell
        shell: clap_complete::Shell,
    },
    /// Write man pages and completions into a folder
    #[command(hide = true)]
    Pages {
        /// The folder; made if missing
        folder: PathBuf,
    },
    /// Print the table of the document's fields that the page edits by
    #[command(hide = true)]
    Fields,
    /// Print the list of questions that the page asks by
    #[command(hide = true)]
    Operations,
    /// Print the description of the HTTP API (OpenAPI 3.1)
    #[command(hide = true)]
    Openapi,
}

#[derive(Args)]
struct Database {
    /// Database file [default: the workshop's, in a folder of the current user]
    #[arg(long)]
    db: Option<PathBuf>,
}

impl Database {
    fn path(&self) -> Result<PathBuf, String> {
        self.db.clone().map_or_else(|| home("workshop.db"), Ok)
    }
}

#[derive(Args)]
struct Place {
    /// Database file; made if missing [default: a folder of the current user]
    #[arg(long)]
    db: Option<PathBuf>,
    /// Port on 127.0.0.1; 0 takes any free one [default: 7417, or the next that is free]
    #[arg(long)]
    port: Option<u16>,
    /// Serve the page of this folder in place of the one inside
    #[arg(long, hide = true)]
    page: Option<PathBuf>,
    /// Also listen on the local network, for a phone in the garage; the phone has to be let in by a code
    ///
    /// Without an address: on every private address of this machine. What goes over the network is not encrypted:
    /// use it in a network that you trust.
    #[arg(long, value_name = "ADDRESS", num_args = 0..=1, require_equals = true)]
    lan: Option<Option<IpAddr>>,
    /// Have the bench's instruments on from the start, on 127.0.0.1, ports 5025 to 5027
    #[arg(long)]
    instruments: bool,
}

/// Lines that may wait for whoever reads the log. Room for them is made at once, and costs a serving process nothing.
const LOG_LINES: usize = 8192;

/// Begins the log of a process that serves; what answers one question has none, and starts without it.
fn log() -> WorkerGuard {
    // Written by a thread of its own, which drops lines rather than wait: nobody need read what a server logs.
    let (log, written_until_the_end) = NonBlockingBuilder::default().buffered_lines_limit(LOG_LINES).lossy(true).finish(std::io::stderr());
    let asked = std::env::var("RUST_LOG").ok().and_then(|levels| levels.parse::<Targets>().ok());
    let usual = || Targets::new().with_default(LevelFilter::WARN).with_target("orthavis_server", LevelFilter::INFO);
    let lines = tracing_subscriber::fmt::layer().with_writer(log).with_ansi(std::io::stderr().is_terminal());
    tracing_subscriber::registry().with(lines).with(asked.unwrap_or_else(usual)).init();
    written_until_the_end
}

fn main() -> ExitCode {
    let counted = |work: &dyn Fn() -> Result<ExitCode, String>| budget::run(Some(Budget::new(budget::USUAL)), work);
    let Cli { command: asked, place, no_open } = Cli::from_arg_matches(&command().get_matches()).unwrap_or_else(|error| error.exit());
    let Some(asked) = asked else { return ended(open_up(&place, !no_open)) };
    ended(match asked {
        Command::Solve { file } => counted(&|| solve(&file)),
        Command::Check { file } => counted(&|| check(&file)),
        Command::Mend { file, out, all } => counted(&|| mend(&file, out.as_deref(), if all { Until::Sound } else { Until::Safe })),
        Command::Tables { file, out } => counted(&|| tables(&file, &out)),
        Command::Sheet { file, out } => counted(&|| sheet(&file, &out)),
        Command::Bench(bench) => counted(&|| bench::run(&bench)),
        Command::Make(make) => counted(&|| make::run(&make)),
        Command::Shows(shows @ show::Shows::Show { .. }) => counted(&|| show::run(&shows)),
        Command::Shows(shows) => show::play(&shows),
        Command::Journal(journal) => counted(&|| journal::run(&journal)),
        Command::Instruments { file, port, serial } => instruments(&file, port, serial),
        Command::Schema => print(&orthavis_server::build_schema()).map(|()| ExitCode::SUCCESS),
        Command::Checks => print(&orthavis_core::findings::as_markdown()).map(|()| ExitCode::SUCCESS),
        Command::Backup { file, database } => back_up(&database, &file),
        Command::Restore { file, database, force } => restore(&database, &file, force),
        Command::Export { all, database } => export(&database, &all),
        Command::Import { folder, database } => import(&database, folder),
        Command::Serve(place) => serve(&place, "workshop.db", false, false, |_| ()),
        Command::Demo { place, fresh } => serve(&place, "demo.db", true, fresh, |_| ()),
        Command::Completions { shell } => {
            let mut text = Vec::new();
            clap_complete::generate(shell, &mut command(), "orthavis", &mut text);
            print(&String::from_utf8_lossy(&text)).map(|()| ExitCode::SUCCESS)
        }
        Command::Pages { folder } => help::write_all(command(), &folder)
            .map(|()| ExitCode::SUCCESS)
            .map_err(|error| format!("{}: {error}. Name a folder that can be written to.", folder.display())),
        Command::Fields => print(&orthavis_server::fields()).map(|()| ExitCode::SUCCESS),
        Command::Operations => print(&orthavis_operations::as_typescript()).map(|()| ExitCode::SUCCESS),
        Command::Openapi => print(&orthavis_server::openapi()).map(|()| ExitCode::SUCCESS),
    })
}

fn ended(outcome: Result<ExitCode, String>) -> ExitCode {
    outcome.unwrap_or_else(|message| {
        eprintln!("orthavis: {message}");
        ExitCode::from(BAD_INPUT)
    })
}

/// Standard output, where a closed pipe is the reader's choice and not our failure.
fn print(text: &str) -> Result<(), String> {
    match std::io::stdout().write_all(text.as_bytes()) {
        Err(error) if error.kind() != std::io::ErrorKind::BrokenPipe => Err(format!("standard output: {error}")),
        _ => Ok(()),
    }
}

fn read_text(file: &Path) -> Result<String, String> {
    let text = if file == Path::new("-") { std::io::read_to_string(std::io::stdin()) } else { std::fs::read_to_string(file) };
    text.map_err(|error| format!("{}: {error}. Name a build file that can be read.", file.display()))
}

fn read(file: &Path) -> Result<(Build, Report), String> {
    let text = read_text(file)?;
    let name = file.display();
    let build = parse(&text).map_err(|error| format!("{name} cannot be used:\n{error}"))?;
    let report = report(&build).map_err(|error| refused(&name.to_string(), &error))?;
    Ok((build, report))
}

/// Why there is no report.
fn refused(name: &str, error: &PointError) -> String {
    if error.error.is_unfinished() {
        format!("{name} is too large: {error}. Make it smaller: fewer scenes, shorter strips, or two builds.")
    } else {
        format!("{name} has no steady state: {error}. Give it a supply that can carry it, thicker wire, or less light.")
    }
}

fn solve(file: &Path) -> Result<ExitCode, String> {
    let (_, report) = read(file)?;
    let text = serde_json::to_string_pretty(&report).map_err(|error| error.to_string())?;
    print(&(text + "\n"))?;
    Ok(ExitCode::SUCCESS)
}

fn tables(file: &Path, out: &Path) -> Result<ExitCode, String> {
    let (build, _) = read(file)?;
    let tables = orthavis_core::tables::tables(&build).map_err(|error| format!("{}: {error}", file.display()))?;
    let failed = |error: std::io::Error| format!("{}: {error}. Name a folder that can be written to.", out.display());
    std::fs::create_dir_all(out).map_err(failed)?;
    for table in &tables {
        let path = out.join(table.name).with_extension("csv");
        std::fs::write(&path, table.csv()).map_err(failed)?;
        print(&format!("{}: {}\n", path.display(), table.title))?;
    }
    Ok(ExitCode::SUCCESS)
}

fn sheet(file: &Path, out: &Path) -> Result<ExitCode, String> {
    // What has no steady state is no use in a garage either.
    let (build, _) = read(file)?;
    let page = orthavis_server::sheet(&build, None).map_err(|error| error.to_string())?;
    std::fs::write(out, &page).map_err(|error| format!("{}: {error}. Name a file that can be written.", out.display()))?;
    print(&format!("{} is in {}, {:.1} MB\n", build.name, out.display(), page.len() as f64 / 1e6))?;
    Ok(ExitCode::SUCCESS)
}

fn check(file: &Path) -> Result<ExitCode, String> {
    let (build, report) = read(file)?;
    let mut text = format!("{}: {}\n", build.name, report.verdict.headline);
    for cost in &report.verdict.costs {
        if let Some(hours) = cost.hours {
            text += &format!("  {}: {hours:.1} h of light\n", cost.scene);
        }
    }
    for card in &report.cards {
        let mark = match card.severity {
            Severity::Stop => "STOP",
            Severity::Fix => "fix ",
            Severity::Note => "note",
        };
        let members: Vec<&Finding> = card.findings.iter().map(|index| &report.findings[*index]).collect();
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
    text += "\nThis is advice, not a certificate. Local rules and licensed people have the last word.\n";
    print(&text)?;
    Ok(if report.verdict.stops > 0 { ExitCode::FAILURE } else { ExitCode::SUCCESS })
}

fn mend(file: &Path, out: Option<&Path>, until: Until) -> Result<ExitCode, String> {
    let (build, _) = read(file)?;
    let mended = everything(&build, until).map_err(|error| refused(&file.display().to_string(), &error))?;
    let mut text = format!("{}: {}\n", build.name, if mended.steps.is_empty() { "nothing was changed" } else { "mended like this" });
    for step in &mended.steps {
        text += &format!("  {step}\n");
    }
    text += &format!("Then: {}\n", mended.effect.headline_after);
    for left in &mended.left {
        text += &format!("LEFT  {}\n      {}\n", left.title, left.advice);
    }
    print(&text)?;
    if let Some(out) = out {
        let changed = patched(&build.to_value(), &mended.changes).map_err(|error| error.to_string())?;
        let changed = parse_value(&changed).map_err(|error| error.to_string())?;
        std::fs::write(out, changed.print()).map_err(|error| format!("{}: {error}. Name a file that can be written.", out.display()))?;
    }
    Ok(if mended.left.is_empty() { ExitCode::SUCCESS } else { ExitCode::FAILURE })
}

fn back_up(database: &Database, file: &Path) -> Result<ExitCode, String> {
    let path = database.path()?;
    backup(&path, file).map_err(|error| error.to_string())?;
    print(&format!("{} is copied into {}\n", path.display(), file.display()))?;
    Ok(ExitCode::SUCCESS)
}

fn restore(database: &Database, file: &Path, force: bool) -> Result<ExitCode, String> {
    let path = database.path()?;
    let owner = Owner::take(&path).map_err(|error| error.to_string())?;
    let kept = orthavis_store::restore(file, &owner, force).map_err(|error| error.to_string())?;
    let kept = kept.map_or_else(String::new, |kept| format!("; what was there is kept in {}", kept.display()));
    print(&format!("{} is as it was in {}{kept}\n", path.display(), file.display()))?;
    Ok(ExitCode::SUCCESS)
}

/// As in `1 build`, `2 builds`.
fn count(number: usize, thing: &str) -> String {
    format!("{number} {thing}{}", if number == 1 { "" } else { "s" })
}

fn carried_words(carried: &Carried) -> String {
    format!("{}, {} and {}", count(carried.builds, "build"), count(carried.events, "event"), count(carried.parts, "own part"))
}

fn export(database: &Database, folder: &Path) -> Result<ExitCode, String> {
    let carried = export_all(&database.path()?, folder).map_err(|error| error.to_string())?;
    print(&format!("{} are in {}\n", carried_words(&carried), folder.display()))?;
    Ok(ExitCode::SUCCESS)
}

fn import(database: &Database, folder: PathBuf) -> Result<ExitCode, String> {
    let store = Store::open(&database.path()?).map_err(|error| error.to_string())?;
    let runtime = tokio::runtime::Builder::new_current_thread().build().map_err(|error| error.to_string())?;
    let carried = runtime.block_on(store.import_all(folder)).map_err(|error| error.to_string())?;
    let known = if carried.known > 0 { format!("; {} here already", count(carried.known, "build")) } else { String::new() };
    print(&format!("{} came in{known}\n", carried_words(&carried)))?;
    Ok(ExitCode::SUCCESS)
}

/// Where a person's own files go: an absolute `XDG_DATA_HOME`, else below an absolute `HOME`; anything else is ignored,
/// as the base-directory rules want it.
fn home(file: &str) -> Result<PathBuf, String> {
    let folder = |name: &str| std::env::var_os(name).map(PathBuf::from).filter(|path| path.is_absolute());
    let base = folder("XDG_DATA_HOME").or_else(|| Some(folder("HOME")?.join(".local/share")));
    Ok(base.ok_or("no home folder is known; name a file with --db")?.join("orthavis").join(file))
}

/// Listeners on the local network, at the port that the machine's own page has.
async fn garage(lan: Option<Option<IpAddr>>, port: u16) -> Result<Vec<TcpListener>, String> {
    let addresses = match lan {
        None => Vec::new(),
        Some(Some(address)) => vec![address],
        Some(None) => orthavis_server::private_addresses()
            .map_err(|error| format!("the addresses of this machine are not known ({error}); give one, as in --lan=192.168.1.20"))?,
    };
    if lan.is_some() && addresses.is_empty() {
        return Err("this machine has no address on a local network; connect it first, or give one, as in --lan=192.168.1.20".into());
    }
    let mut listeners = Vec::new();
    for address in addresses {
        if address.is_unspecified() || address == IpAddr::V4(Ipv4Addr::LOCALHOST) {
            return Err(format!("--lan={address} is no address on a local network; give this machine's own, as in --lan=192.168.1.20"));
        }
        let listener = TcpListener::bind((address, port)).await;
        listeners.push(listener.map_err(|error| format!("{address}, port {port}: {error}. Give an address of this machine with --lan=, or another --port."))?);
    }
    Ok(listeners)
}

fn instruments(file: &Path, port: u16, serial: u64) -> Result<ExitCode, String> {
    let _written_until_the_end = log();
    let build = parse(&read_text(file)?).map_err(|error| format!("{} cannot be used:\n{error}", file.display()))?;
    let next =
        |by: u16| if port == 0 { Ok(0) } else { port.checked_add(by).ok_or_else(|| format!("--port {port} leaves no room for three; give at most 65533")) };
    let ports = [(Kind::Meter, next(0)?), (Kind::Supply, next(1)?), (Kind::Charger, next(2)?)];
    let runtime = tokio::runtime::Builder::new_multi_thread().enable_all().build().map_err(|error| error.to_string())?;
    runtime.block_on(async {
        let on = OnBench::of(Arc::new(build));
        let (name, scene, state) = (on.build.name.clone(), on.scene.clone(), on.state.phrase());
        let instruments = Instruments::listen(Bench::new(on, serial), ports).await.map_err(|error| format!("{error}. Choose others with --port."))?;
        let lines: String = instruments.addresses.iter().map(|(kind, address)| format!("  {:<8} {address}\n", kind.name().to_lowercase())).collect();
        print(&format!("On the bench: {name}, scene {scene}, {state}\n{lines}  stop with Ctrl-C\n"))?;
        std::io::stdout().flush().map_err(|error| error.to_string())?;
        tokio::select! { () = instruments.run() => {}, _ = tokio::signal::ctrl_c() => {} }
        Ok(ExitCode::SUCCESS)
    })
}

/// Switches the instruments on with a sample build, until the page puts its own on the bench.
async fn instruments_on(rack: &Rack) -> Result<String, String> {
    let build = parse(orthavis_core::demo::BUILDS[0]).map_err(|error| format!("sample build: {error}"))?;
    rack.switch_on(Arc::new(build)).await.map_err(|error| format!("{error}. Close what listens there, or leave --instruments out."))?;
    Ok(PORTS.iter().map(|(kind, port)| format!("  {:<8} 127.0.0.1:{port}\n", kind.name().to_lowercase())).collect())
}

/// How a phone gets in, for the terminal; nothing where there is no door.
fn invitation(door: &Door) -> Result<String, String> {
    let Some(invitation) = door.invitation().map_err(|error| error.to_string())? else { return Ok(String::new()) };
    let (address, code, picture) = (invitation.address, invitation.code, invitation.picture);
    Ok(format!(
        "\nOn the phone open {address}\n  or point its camera at this; good once, for five minutes (a new code: Phone, on the shelf)\n\n{picture}\n  code {code}\n  \
         not encrypted: for a network that you trust\n"
    ))
}

/// The sample builds, each with a year behind it that ends today.
fn lived() -> Result<Vec<(Build, Vec<Event>)>, DocumentError> {
    let now = std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).map_or(0, |since| since.as_secs() as i64);
    let ends = Moment { s: now, offset_s: 0 };
    let sample = |(text, seed): (&&str, u64)| {
        let build = parse(text)?;
        let events = year(&build, Truth::USUAL, seed, ends);
        Ok((build, events))
    };
    orthavis_core::demo::BUILDS.iter().zip(1..).map(sample).collect()
}

/// The port that is taken where nobody names one, and how many after it are tried.
const PORT: u16 = 7417;
const PORTS_TRIED: u16 = 20;

/// Listens on the port that is asked for, or on the usual one or the next that is free; says which others are taken.
async fn near(asked: Option<u16>) -> Result<(TcpListener, String), String> {
    let on = |port: u16| TcpListener::bind(SocketAddr::from((Ipv4Addr::LOCALHOST, port)));
    if let Some(port) = asked {
        return on(port).await.map(|listener| (listener, String::new())).map_err(|error| format!("port {port}: {error}. Choose another with --port."));
    }
    for port in PORT..PORT + PORTS_TRIED {
        match on(port).await {
            Ok(listener) if port == PORT => return Ok((listener, String::new())),
            Ok(listener) => return Ok((listener, format!("  port {PORT} is taken by another program, so this is the next free one\n"))),
            Err(error) if error.kind() == std::io::ErrorKind::AddrInUse => {}
            Err(error) => return Err(format!("port {port}: {error}. Choose another with --port.")),
        }
    }
    Err(format!("ports {PORT} to {} are all taken. Choose another with --port.", PORT + PORTS_TRIED - 1))
}

/// The address, so that it is seen: in a frame for a person at a terminal, in a line for who reads lines.
fn large(address: SocketAddr) -> String {
    let url = format!("http://{address}");
    if !std::io::stdout().is_terminal() {
        return format!("Orthavis is open at {url}\n");
    }
    let (line, space) = ("─".repeat(url.len() + 6), " ".repeat(url.len() + 6));
    format!("\n  Orthavis is open at\n  ┌{line}┐\n  │{space}│\n  │   \x1b[1m{url}\x1b[0m   │\n  │{space}│\n  └{line}┘\n\n")
}

/// Opens `address` in the browser of this machine, where there is one; a machine without a screen has none.
fn browse(address: &str) {
    let screen = ["DISPLAY", "WAYLAND_DISPLAY"].iter().any(|name| std::env::var_os(name).is_some_and(|value| !value.is_empty()));
    if (screen || cfg!(not(target_os = "linux"))) && open::that_detached(address).is_err() {
        eprintln!("No browser was found here: open {address} in yours.");
    }
}

/// The workshop in the browser; one that is open already is shown as it is.
fn open_up(place: &Place, open: bool) -> Result<ExitCode, String> {
    let path = place.db.clone().map_or_else(|| home("workshop.db"), Ok)?;
    let browse = |address: &str| {
        if open {
            browse(address)
        }
    };
    // It is asked before a port is taken, and only to see who has it.
    if let Err(StoreError::Owned { at: Some(address), .. }) = Owner::take(&path).map(drop) {
        print(&format!("Orthavis is open already, at {address}\n"))?;
        browse(&address);
        return Ok(ExitCode::SUCCESS);
    }
    serve(place, "workshop.db", false, false, browse)
}

fn serve(place: &Place, file: &str, demo: bool, fresh: bool, then: impl Fn(&str)) -> Result<ExitCode, String> {
    let _written_until_the_end = log();
    if let Some(folder) = &place.page {
        orthavis_server::page_from(folder)?;
    }
    let path = place.db.clone().map_or_else(|| home(file), Ok)?;
    let runtime = tokio::runtime::Builder::new_multi_thread().enable_all().build().map_err(|error| error.to_string())?;
    let outcome = runtime.block_on(async {
        // The port first: what fails on it must leave no file behind, and remove none.
        let (listener, taken) = near(place.port).await?;
        let address = listener.local_addr().map_err(|error| error.to_string())?;
        let listeners = Listeners { near: listener, garage: garage(place.lan, address.port()).await? };
        let mut owner = Owner::take(&path).map_err(|error| error.to_string())?;
        owner.sign(&format!("http://{address}")).map_err(|error| error.to_string())?;
        if fresh {
            owner.clear().map_err(|error| error.to_string())?;
        }
        let store = Store::open_owned(owner).map_err(|error| error.to_string())?;
        if demo {
            store.create_once("demo", lived().map_err(|error| format!("sample build: {error}"))?).await.map_err(|error| error.to_string())?;
        }
        let door = Arc::new(listeners.door().map_err(|error| error.to_string())?);
        let rack = Arc::new(Rack::default());
        let instruments = if place.instruments { instruments_on(&rack).await? } else { String::new() };
        print(&format!("{}{taken}  builds are kept in {}\n{instruments}  stop with Ctrl-C\n{}", large(address), path.display(), invitation(&door)?))?;
        std::io::stdout().flush().map_err(|error| error.to_string())?;
        then(&format!("http://{address}"));
        orthavis_server::serve(listeners, store, door, rack).await.map_err(|error| error.to_string())
    });
    // What still computes is not waited for.
    runtime.shutdown_timeout(std::time::Duration::from_secs(1));
    outcome.map(|()| ExitCode::SUCCESS)
}
