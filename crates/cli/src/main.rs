//! The one binary: solves and checks build files, and serves the workshop in a browser.

use clap::{Args, Parser, Subcommand};
use orthavis_core::document::{Build, parse};
use orthavis_core::findings::Severity;
use orthavis_core::report::{Report, report};
use orthavis_store::Store;
use std::io::Write;
use std::net::{Ipv4Addr, SocketAddr};
use std::path::{Path, PathBuf};
use std::process::ExitCode;

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
    after_help = "Start here:\n  orthavis demo              look at a sample build in the browser\n  orthavis serve             open your own workshop\n  \
                  orthavis check trike.json  read what is wrong with a build file\n  orthavis solve trike.json  every figure of it, as JSON"
)]
struct Cli {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
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
    /// Write every result of a build file as tables
    ///
    /// One CSV file for each table: the source, runs, converters and lights at every scene and state, endurance,
    /// findings, what the lights cost, the audit and the discharge over time.
    Tables {
        /// A build document (orthavis.build/1); `-` reads standard input
        file: PathBuf,
        /// Folder to write into; made if missing
        #[arg(long)]
        out: PathBuf,
    },
    /// Print the JSON Schema of the build document
    Schema,
    /// Open the workshop: serve the page on this machine only
    Serve(Place),
    /// The workshop with the sample builds of the Lowmarsh lantern parade in it
    Demo {
        #[command(flatten)]
        place: Place,
        /// Throw away what is in the demo database and start over
        #[arg(long)]
        fresh: bool,
    },
    /// Print the description of the HTTP API (OpenAPI 3.1)
    #[command(hide = true)]
    Openapi,
}

#[derive(Args)]
struct Place {
    /// Database file; made if missing [default: a folder of the current user]
    #[arg(long)]
    db: Option<PathBuf>,
    /// Port on 127.0.0.1; 0 takes any free one
    #[arg(long, default_value_t = 7417)]
    port: u16,
}

fn main() -> ExitCode {
    tracing_subscriber::fmt()
        .with_writer(std::io::stderr)
        .with_env_filter(tracing_subscriber::EnvFilter::try_from_default_env().unwrap_or_else(|_| "warn,orthavis_server=info".into()))
        .init();
    let outcome = match Cli::parse().command {
        Command::Solve { file } => solve(&file),
        Command::Check { file } => check(&file),
        Command::Tables { file, out } => tables(&file, &out),
        Command::Schema => print(&orthavis_server::build_schema()).map(|()| ExitCode::SUCCESS),
        Command::Serve(place) => serve(&place, "workshop.db", false, false),
        Command::Demo { place, fresh } => serve(&place, "demo.db", true, fresh),
        Command::Openapi => print(&orthavis_server::openapi()).map(|()| ExitCode::SUCCESS),
    };
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

fn read(file: &Path) -> Result<(Build, Report), String> {
    let text = if file == Path::new("-") { std::io::read_to_string(std::io::stdin()) } else { std::fs::read_to_string(file) };
    let name = file.display();
    let text = text.map_err(|error| format!("{name}: {error}. Name a build file that can be read."))?;
    let build = parse(&text).map_err(|error| format!("{name} cannot be used:\n{error}"))?;
    let report =
        report(&build).map_err(|error| format!("{name} has no steady state: {error}. Give it a supply that can carry it, thicker wire, or less light."))?;
    Ok((build, report))
}

fn solve(file: &Path) -> Result<ExitCode, String> {
    let (_, report) = read(file)?;
    let text = serde_json::to_string_pretty(&report).map_err(|error| error.to_string())?;
    print(&(text + "\n"))?;
    Ok(ExitCode::SUCCESS)
}

fn tables(file: &Path, out: &Path) -> Result<ExitCode, String> {
    let (build, _) = read(file)?;
    let tables = orthavis_core::table::tables(&build).map_err(|error| format!("{}: {error}", file.display()))?;
    let failed = |error: std::io::Error| format!("{}: {error}. Name a folder that can be written to.", out.display());
    std::fs::create_dir_all(out).map_err(failed)?;
    for table in &tables {
        let path = out.join(table.name).with_extension("csv");
        std::fs::write(&path, table.csv()).map_err(failed)?;
        print(&format!("{}: {}\n", path.display(), table.title))?;
    }
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
    for finding in &report.findings {
        let mark = match finding.severity {
            Severity::Stop => "STOP",
            Severity::Fix => "fix ",
            Severity::Note => "note",
        };
        text += &format!("\n{mark}  {}  [{} · {}]\n      {}\n      {}\n", finding.title, finding.code, finding.subject, finding.message, finding.why);
        for remedy in &finding.remedies {
            text += &format!("      → {}\n", remedy.title);
        }
        if let Some(advice) = finding.advice {
            text += &format!("      {advice}\n");
        }
    }
    text += "\nThis is advice, not a certificate. Local rules and licensed people have the last word.\n";
    print(&text)?;
    Ok(if report.verdict.stops > 0 { ExitCode::FAILURE } else { ExitCode::SUCCESS })
}

/// Where a person's own files go.
fn home(file: &str) -> Result<PathBuf, String> {
    let base = std::env::var_os("XDG_DATA_HOME").map(PathBuf::from).or_else(|| Some(PathBuf::from(std::env::var_os("HOME")?).join(".local/share")));
    Ok(base.ok_or("no home folder is known; name a file with --db")?.join("orthavis").join(file))
}

fn serve(place: &Place, file: &str, demo: bool, fresh: bool) -> Result<ExitCode, String> {
    let path = place.db.clone().map_or_else(|| home(file), Ok)?;
    if let Some(folder) = path.parent().filter(|folder| !folder.as_os_str().is_empty()) {
        std::fs::create_dir_all(folder).map_err(|error| format!("{}: {error}. Name another file with --db.", folder.display()))?;
    }
    if fresh {
        for suffix in ["", "-wal", "-shm"] {
            let mut name = path.clone().into_os_string();
            name.push(suffix);
            match std::fs::remove_file(&name) {
                Err(error) if error.kind() != std::io::ErrorKind::NotFound => return Err(format!("{}: {error}. Stop the other server first.", path.display())),
                _ => {}
            }
        }
    }
    let new = !path.exists();
    let store = Store::open(&path).map_err(|error| format!("{}: {error}", path.display()))?;
    let runtime = tokio::runtime::Builder::new_multi_thread().enable_all().build().map_err(|error| error.to_string())?;
    runtime.block_on(async {
        if demo && new {
            for text in orthavis_core::demo::BUILDS {
                let build = parse(text).map_err(|error| format!("sample build: {error}"))?;
                store.create(build).await.map_err(|error| error.to_string())?;
            }
        }
        let address = SocketAddr::from((Ipv4Addr::LOCALHOST, place.port));
        let listener = tokio::net::TcpListener::bind(address).await.map_err(|error| format!("port {}: {error}. Choose another with --port.", place.port))?;
        let address = listener.local_addr().map_err(|error| error.to_string())?;
        print(&format!("Orthavis is open at http://{address}\n  builds are kept in {}\n  stop with Ctrl-C\n", path.display()))?;
        std::io::stdout().flush().map_err(|error| error.to_string())?;
        orthavis_server::serve(listener, store).await.map_err(|error| error.to_string())
    })?;
    Ok(ExitCode::SUCCESS)
}
