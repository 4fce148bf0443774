//! The one binary: solves and checks build files, and serves the workshop in a browser.
// Whoever reads may stop at any time; [`print`] knows that.
#![warn(clippy::print_stdout)]

mod bench;
mod design;
mod help;
mod journal;
mod keep;
mod look;
mod make;
mod out;
mod plan;
mod serve;
mod show;

use crate::out::{Out, Outcome, USAGE};
use clap::{CommandFactory, FromArgMatches, Parser, Subcommand};
use orthavis_core::budget::{self, Budget};
use orthavis_core::mend::Until;
use std::path::PathBuf;
use std::process::ExitCode;

#[derive(Parser)]
#[command(
    name = "orthavis",
    version,
    about = "Plans lights on a small vehicle from the battery it already has",
    long_about = "Orthavis plans LED lighting on skateboards, bicycles, power wheelchairs, RC models, drones and RVs from the \
                  battery the vehicle already has: it sizes resistors, converters, wires and fuses, estimates what the lights \
                  take from the battery, and warns where someone can get hurt. It advises; it never certifies.",
    after_help = "Start here:\n  orthavis                   open your own workshop in the browser\n  orthavis demo              look at sample builds there\n  \
                  orthavis check trike.json  read what is wrong with a build file\n  orthavis help COMMAND      how one of them is used\n\n\
                  It ends with 0 where all is well, 1 where something forbids building it, 2 where what it was given cannot be used,\n\
                  and 3 where it was not called as it is meant to be.",
    args_conflicts_with_subcommands = true
)]
struct Cli {
    #[command(subcommand)]
    command: Option<Command>,
    #[command(flatten)]
    place: serve::Place,
    /// Do not open a browser
    #[arg(long)]
    no_open: bool,
    /// Print the answer as JSON for other programs
    #[arg(long, global = true)]
    json: bool,
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
        /// Folder to write into; made if missing [with --json none is needed: the tables are printed]
        #[arg(long)]
        out: Option<PathBuf>,
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
    /// Print the light of each light: how much, how far it is seen and noticed, what it shows
    Light(look::Light),
    #[command(flatten)]
    Design(design::Design),
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
        database: keep::Database,
    },
    /// Put a backup in the place of the workshop
    ///
    /// What was there is kept beside it under a name with `.before-restore`. A workshop in which something was saved
    /// after the backup is not written over without --force.
    Restore {
        /// A file that `orthavis backup` wrote
        file: PathBuf,
        #[command(flatten)]
        database: keep::Database,
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
        database: keep::Database,
    },
    /// Take in a folder that `orthavis export` wrote: all of it or nothing
    Import {
        /// The folder
        folder: PathBuf,
        #[command(flatten)]
        database: keep::Database,
    },
    /// Open the workshop: serve the page on this machine only, unless --lan is given
    Serve(serve::Place),
    /// The workshop with the sample builds of the Lowmarsh lantern parade in it
    Demo {
        #[command(flatten)]
        place: serve::Place,
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
    /// Draw every form of a kind of vehicle from its body
    #[command(hide = true)]
    Drawings {
        /// The kind, as in `bicycle`
        kind: String,
    },
    /// Print the description of the HTTP API (OpenAPI 3.1)
    #[command(hide = true)]
    Openapi,
}

fn main() -> ExitCode {
    let matches = command().try_get_matches().unwrap_or_else(|error| misused(&error));
    let Cli { command: asked, place, no_open, json } = Cli::from_arg_matches(&matches).unwrap_or_else(|error| misused(&error));
    match run(asked, &place, !no_open, Out { json }) {
        Ok(end) => end.into(),
        Err(failure) => {
            eprintln!("orthavis: {}", failure.words());
            ExitCode::from(failure.code())
        }
    }
}

/// What the command line could not be read for, or the help that was asked for.
fn misused(error: &clap::Error) -> ! {
    // A closed pipe is the reader's choice.
    let _ = error.print();
    std::process::exit(if error.use_stderr() { i32::from(USAGE) } else { 0 });
}

/// On a budget, as everything is that computes for one question.
fn counted(work: impl FnOnce() -> Outcome) -> Outcome {
    budget::run(Some(Budget::new(budget::USUAL)), work)
}

fn run(asked: Option<Command>, place: &serve::Place, open: bool, out: Out) -> Outcome {
    let Some(asked) = asked else { return serve::open_up(place, open, out) };
    match asked {
        Command::Solve { file } => counted(|| plan::solve(&file)),
        Command::Check { file } => counted(|| plan::check(&file, out)),
        Command::Mend { file, out: to, all } => counted(|| plan::mend(&file, to.as_deref(), if all { Until::Sound } else { Until::Safe }, out)),
        Command::Tables { file, out: to } => counted(|| plan::tables(&file, to.as_deref(), out)),
        Command::Sheet { file, out: to } => counted(|| plan::sheet(&file, &to, out)),
        Command::Bench(bench) => counted(|| bench::run(&bench, out)),
        Command::Light(light) => counted(|| look::run(&light, out)),
        Command::Design(design) => counted(|| design::run(&design, out)),
        Command::Make(make) => counted(|| make::run(&make, out)),
        Command::Shows(shows) => show::run(&shows, out),
        Command::Journal(journal) => counted(|| journal::run(&journal, out)),
        Command::Instruments { file, port, serial } => serve::instruments(&file, port, serial, out),
        Command::Schema => out::print(&orthavis_server::build_schema()).map(|()| out::End::Fine),
        Command::Checks => out.put(&orthavis_core::findings::CHECKS.map(|check| check.said()).as_slice(), orthavis_core::findings::as_markdown),
        Command::Backup { file, database } => keep::back_up(&database, &file, out),
        Command::Restore { file, database, force } => keep::restore(&database, &file, force, out),
        Command::Export { all, database } => keep::export(&database, &all, out),
        Command::Import { folder, database } => keep::import(&database, folder, out),
        Command::Serve(place) => serve::serve(&place, &serve::Workshop::OWN, out, |_| ()),
        Command::Demo { place, fresh } => serve::serve(&place, &serve::Workshop::demo(fresh), out, |_| ()),
        Command::Completions { shell } => {
            let mut text = Vec::new();
            clap_complete::generate(shell, &mut command(), "orthavis", &mut text);
            out.text(&String::from_utf8_lossy(&text))
        }
        Command::Pages { folder } => {
            help::write_all(command(), &folder).map_err(|error| format!("{}: {error}. Name a folder that can be written to.", folder.display()))?;
            Ok(out::End::Fine)
        }
        Command::Fields => out::print(&orthavis_server::fields()).map(|()| out::End::Fine),
        Command::Operations => out.text(&orthavis_operations::as_typescript()),
        Command::Drawings { kind } => look::drawings(&kind),
        Command::Openapi => out::print(&orthavis_server::openapi()).map(|()| out::End::Fine),
    }
}
