//! `cargo xtask demo` and `cargo xtask test`: everything from a fresh machine, installs included.
//!
//! Quiet unless something fails: a stage says what it does, how long that usually takes and how far it is.
//!
//! Needs only the Rust toolchain, Node.js 20, npm and Debian's package manager.

mod dist;
mod layers;
mod page_core;
mod stage;

use std::env;
use std::path::{Path, PathBuf};
use std::process::{Command, ExitCode, Stdio};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, PoisonError};
use std::time::Instant;

const HELP: &str = "\
cargo xtask demo [--fresh] [--port N]   build everything, load the sample builds, serve, print the address
cargo xtask test                        format, lints, types, unit, property, API and browser tests
cargo xtask dist                        one archive for this platform, in target/dist
cargo xtask licences                    write the licences of everything in it anew
cargo xtask deep                        what takes long: times, long random runs, an hour of fuzzing
cargo xtask fuzz                        a minute of fuzzing, through reading and solving
cargo xtask bench                       how long solving takes, as one table
cargo xtask screenshots                 take the pictures in docs/screenshots anew
cargo xtask api                         write the API's description, the client's types and what docs/ holds of the program's tables anew";

fn main() -> ExitCode {
    let arguments: Vec<String> = env::args().skip(1).collect();
    match env::var(AS_COMPILER).as_deref() {
        Ok(page_core::AS) => return page_core::compile(&arguments),
        Ok(_) => return compile_covered(&arguments),
        Err(_) => {}
    }
    let outcome = match arguments.first().map(String::as_str) {
        Some("demo") => demo(&arguments[1..]),
        Some("test") => test(),
        Some("deep") => deep(),
        Some("bench") => bench(),
        Some("fuzz") => fuzz(60),
        Some("screenshots") => screenshots(),
        Some("api") => api(),
        Some("dist") => dist::dist(),
        Some("licences") => dist::licences(),
        _ => {
            println!("{HELP}");
            return ExitCode::from(u8::from(!arguments.is_empty()) * 2);
        }
    };
    match outcome {
        Ok(()) => ExitCode::SUCCESS,
        Err(message) => {
            eprintln!("xtask: {message}");
            ExitCode::FAILURE
        }
    }
}

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap_or(Path::new(".")).to_path_buf()
}

/// Runs a command in the repository, its output passed through.
fn run(program: &str, arguments: &[&str]) -> Result<(), String> {
    run_with(program, arguments, &[])
}

fn run_with(program: &str, arguments: &[&str], variables: &[(&str, &str)]) -> Result<(), String> {
    let line = format!("{program} {}", arguments.join(" "));
    eprintln!("· {line}");
    let started = Instant::now();
    let status = Command::new(program)
        .args(arguments)
        .envs(variables.iter().copied())
        .current_dir(root())
        .status()
        .map_err(|error| format!("{program}: {error}. Install it and try again."))?;
    eprintln!("  {:.1} s", started.elapsed().as_secs_f64());
    if status.success() { Ok(()) } else { Err(format!("`{line}` failed ({status})")) }
}

fn cargo() -> String {
    env::var("CARGO").unwrap_or_else(|_| "cargo".into())
}

/// Text of a file, empty when it is missing.
fn text(path: &Path) -> String {
    std::fs::read_to_string(path).unwrap_or_default()
}

fn npm(arguments: &[&str]) -> Command {
    let mut command = Command::new("npm");
    command.args(arguments).current_dir(root());
    command
}

fn cargo_with(arguments: &[&str]) -> Command {
    let mut command = Command::new(cargo());
    command.args(arguments).current_dir(root());
    command
}

/// npm packages as the lock file says; nothing to do while that has not changed.
fn packages() -> Result<(), String> {
    let (lock, stamp) = (root().join("package-lock.json"), root().join("node_modules/.installed-lock.json"));
    if text(&stamp) == text(&lock) {
        return Ok(());
    }
    stage::run("packages of the page", 40, &mut npm(&["ci", "--no-fund", "--no-audit", "--loglevel=error"]))?;
    std::fs::copy(&lock, &stamp).map(drop).map_err(|error| format!("{}: {error}", stamp.display()))
}

/// The page, built when a source of it is newer than the last build; with the core in it where that is there.
fn page() -> Result<(), String> {
    packages()?;
    let built = std::fs::metadata(root().join("web/dist/index.html")).and_then(|data| data.modified()).ok();
    let sources = [
        "web/src",
        "web/public",
        "web/index.html",
        "web/vite.config.ts",
        "web/sheet.config.ts",
        "web/pack.mjs",
        "core/model/data/vehicles",
        "core/model/data/drawings",
        "package-lock.json",
    ];
    // The core comes by itself, into the page that is there already too.
    let newest = sources.iter().filter_map(|path| newest_but(&root().join(path), "core.wasm")).max();
    if built.is_some() && built >= newest {
        return Ok(());
    }
    stage::run("the page", 10, &mut npm(&["run", "--silent", "build"]))
}

/// The page with the core in it, wherever a compiler for that can be had.
fn whole_page() -> Result<(), String> {
    packages()?;
    page_core::build(&root(), stage::run, |program| Command::new(program))?;
    page()
}

fn newest(path: &Path) -> Option<std::time::SystemTime> {
    newest_but(path, "")
}

/// When something below `path` was changed last, whatever is called `name` aside.
fn newest_but(path: &Path, name: &str) -> Option<std::time::SystemTime> {
    let data = std::fs::metadata(path).ok()?;
    if data.is_file() {
        return if path.ends_with(name) && !name.is_empty() { None } else { data.modified().ok() };
    }
    std::fs::read_dir(path).ok()?.flatten().filter_map(|entry| newest_but(&entry.path(), name)).max()
}

/// Two things at a time: neither keeps all processors busy all the time. Where one fails the other is ended.
///
/// # Errors
/// What failed first.
fn beside(other: impl FnOnce() -> Result<(), String> + Send, this: impl FnOnce() -> Result<(), String>) -> Result<(), String> {
    let first = Mutex::new(Ok(()));
    let ended = |outcome: Result<(), String>| {
        if outcome.is_err() {
            let mut first = first.lock().unwrap_or_else(PoisonError::into_inner);
            if first.is_ok() {
                *first = outcome;
                stage::end_all();
            }
        }
    };
    std::thread::scope(|scope| {
        scope.spawn(|| ended(other()));
        ended(this());
    });
    first.into_inner().unwrap_or_else(PoisonError::into_inner)
}

/// The program as quickly as it can be had, the page from its folder beside it; the page's own core follows when both answer.
fn demo(arguments: &[String]) -> Result<(), String> {
    let began = Instant::now();
    page_core::drop_stale(&root());
    if !root().join("target/demo/orthavis").exists() {
        eprintln!("The first start builds everything, usually within {} on two cores; later ones take seconds.", stage::span(300));
    }
    beside(page, || stage::run("the program", 240, &mut cargo_with(&["build", "--profile", "demo", "--package", "orthavis"])))?;
    eprintln!("Ready after {}.\n", stage::span(began.elapsed().as_secs()));
    let mut command = Command::new(root().join("target/demo/orthavis"));
    command.args(["demo", "--db", "data/demo.db"]).args(arguments).current_dir(root());
    let mut server = command.spawn().map_err(|error| format!("orthavis: {error}"))?;
    static OVER: AtomicBool = AtomicBool::new(false);
    // Nobody waits for it: the page asks the server until it is there, and goes on so where it cannot be built.
    std::thread::spawn(|| match page_core::build(&root(), stage::run_beside, page_core::gently) {
        Err(message) if !OVER.load(Ordering::Relaxed) => eprintln!("{message}"),
        _ => {}
    });
    let status = server.wait().map_err(|error| format!("orthavis: {error}"));
    OVER.store(true, Ordering::Relaxed);
    stage::end_all();
    let status = status?;
    if status.success() { Ok(()) } else { Err(format!("orthavis stopped ({status})")) }
}

/// Packages of Debian's, where this machine has its package manager.
///
/// # Errors
/// What it said.
fn debian(what: &str, usual: u64, packages: &[&str], run: stage::Run) -> Result<(), String> {
    let script = "apt-get update -qq && apt-get install -y -qq --no-install-recommends \"$@\"";
    run(what, usual, Command::new("sh").args(["-c", script, "sh"]).args(packages).env("DEBIAN_FRONTEND", "noninteractive"))
}

/// Debian's Chromium, installed when it is missing.
fn browser() -> Result<(), String> {
    if Path::new("/usr/bin/chromium").exists() { Ok(()) } else { debian("a browser for the tests", 40, &["chromium"], stage::run) }
}

/// Clients in Python that nobody here wrote, as their list says; nothing to do while that has not changed.
fn clients() -> Result<(), String> {
    let (list, folder) = (root().join("app/instruments/tests/clients.txt"), root().join("target/python"));
    let stamp = folder.join("installed.txt");
    if text(&stamp) == text(&list) {
        return Ok(());
    }
    let make = || stage::run("a Python environment", 10, Command::new("python3").args(["-m", "venv"]).arg(&folder));
    if make().is_err() {
        // Debian keeps what a virtual environment needs in a package of its own.
        debian("Python's package for environments", 20, &["python3-venv"], stage::run)?;
        make()?;
    }
    let mut install = Command::new(folder.join("bin/pip"));
    stage::run("Python packages for the tests", 20, install.args(["install", "--quiet", "--disable-pip-version-check", "--requirement"]).arg(&list))?;
    std::fs::copy(&list, &stamp).map(drop).map_err(|error| format!("{}: {error}", stamp.display()))
}

fn test() -> Result<(), String> {
    let began = Instant::now();
    eprintln!("Everything, usually within {} on two cores.", stage::span(2100));
    layers::check(&root())?;
    stage::run("format", 2, &mut cargo_with(&["fmt", "--all", "--check"]))?;
    // The page is inside, as in what is given away.
    let tests = ["test", "--workspace", "--lib", "--bins", "--tests", "--features", "orthavis-server/embed"];
    let build = |what, usual| stage::run(what, usual, &mut cargo_with(&[&tests[..], &["--no-run"]].concat()));
    beside(
        || {
            whole_page()?;
            stage::run("format of the page", 15, &mut npm(&["run", "--silent", "format"]))?;
            stage::run("types of the page", 30, &mut npm(&["run", "--silent", "check"]))?;
            stage::run("lint of the page", 50, &mut npm(&["run", "--silent", "lint"]))?;
            browser()?;
            clients()
        },
        || {
            stage::run("lint", 240, &mut cargo_with(&["clippy", "--workspace", "--all-targets", "--", "-D", "warnings"]))?;
            build("the tests", 600)
        },
    )?;
    // What holds the page once more, now that it is there.
    build("the page in the program", 60)?;
    // One that fails hides no other.
    stage::run("running the tests", 900, &mut cargo_with(&[&tests[..], &["--no-fail-fast"]].concat()))?;
    let faces = ["test", "--doc", "-p", "orthavis-model", "-p", "orthavis-physics", "-p", "orthavis-judge"];
    stage::run("the examples in the documentation", 30, &mut cargo_with(&faces))?;
    eprintln!("Everything passed, in {}.", stage::span(began.elapsed().as_secs()));
    Ok(())
}

/// What takes long, or measures times that a busy machine would spoil: thousands of random builds, how fast the page
/// answers, an hour of fuzzing.
fn deep() -> Result<(), String> {
    let cargo = cargo();
    whole_page()?;
    browser()?;
    let long = [("ORTHAVIS_BUILDS", "3000")];
    run_with(&cargo, &["test", "--release", "--package", "orthavis-judge", "--test", "suite", "--", "--nocapture", "reference::"], &long)?;
    run_with(&cargo, &["test", "--release", "--package", "orthavis-core", "--test", "suite", "--", "--nocapture", "promises::"], &long)?;
    run_with(&cargo, &["test", "--release", "--package", "orthavis-plan", "--test", "suite", "--", "--nocapture", "mend::"], &[("ORTHAVIS_BUILDS", "500")])?;
    run_with(
        &cargo,
        &["test", "--release", "--package", "orthavis-physics", "--test", "suite", "--", "--nocapture", "measured::"],
        &[("ORTHAVIS_CIRCUITS", "60")],
    )?;
    // Panics show where arithmetic is checked; a release build would go on with what wrapped.
    run_with(&cargo, &["test", "--package", "orthavis-operations", "--test", "suite", "--", "--nocapture", "limits::"], &[("ORTHAVIS_LIMITS", "10000")])?;
    run(&cargo, &["test", "--release", "--package", "orthavis", "--test", "times", "--", "--ignored", "--nocapture"])?;
    run(&cargo, &["test", "--quiet", "--package", "orthavis", "--test", "browser", "times", "--", "--ignored", "--nocapture"])?;
    run(&cargo, &["test", "--quiet", "--package", "orthavis", "--test", "browser", "every_view", "--", "--ignored", "--nocapture"])?;
    run(&cargo, &["test", "--quiet", "--package", "orthavis-store", "--", "--ignored", "--nocapture"])?;
    bench()?;
    fuzz(3600)
}

/// What libFuzzer needs to see which paths an input takes.
const COVERAGE: [&str; 5] = [
    "-Cpasses=sancov-module",
    "-Cllvm-args=-sanitizer-coverage-level=4",
    "-Cllvm-args=-sanitizer-coverage-inline-8bit-counters",
    "-Cllvm-args=-sanitizer-coverage-pc-table",
    "-Cllvm-args=-sanitizer-coverage-trace-compares",
];
/// Set where Cargo calls this program in the compiler's place: to what it compiles for.
const AS_COMPILER: &str = "XTASK_AS_COMPILER";

/// The compiler, with coverage for the crates that read a document; instrumenting all the others takes ten minutes.
fn compile_covered(arguments: &[String]) -> ExitCode {
    let Some((rustc, rest)) = arguments.split_first() else { return ExitCode::FAILURE };
    let covered =
        rest.windows(2).any(|pair| pair[0] == "--crate-name" && (pair[1].starts_with("orthavis_") || ["serde_json", "parse"].contains(&pair[1].as_str())));
    let mut command = Command::new(rustc);
    command.args(rest);
    if covered {
        command.args(COVERAGE);
    }
    match command.status() {
        Ok(status) if status.success() => ExitCode::SUCCESS,
        _ => ExitCode::FAILURE,
    }
}

/// Fuzzing from the case files, through reading and solving, where the toolchain can instrument code. Elsewhere the
/// property tests, which already ran, stand alone.
fn fuzz(seconds: u32) -> Result<(), String> {
    let rustc = env::var("RUSTC").unwrap_or_else(|_| "rustc".into());
    let probe = [&COVERAGE[..], &["--crate-type", "lib", "--crate-name", "probe", "--emit", "obj", "-o", "/dev/null", "-"]].concat();
    let probe = Command::new(&rustc).args(probe).stdin(Stdio::null()).output().map_err(|error| format!("{rustc}: {error}"))?;
    if !probe.status.success() {
        eprintln!("· no fuzzing: this toolchain does not instrument code; the property tests of the parser ran");
        return Ok(());
    }
    let own = env::current_exe().map_err(|error| error.to_string())?;
    let build = ["build", "--quiet", "--release", "--manifest-path", "fuzz/Cargo.toml", "--target-dir", "target/fuzz"];
    run_with(&cargo(), &build, &[("RUSTC_WRAPPER", &own.to_string_lossy()), (AS_COMPILER, "1")])?;
    let folder = root().join("target/fuzz");
    let failed = |error: std::io::Error| format!("target/fuzz: {error}");
    std::fs::create_dir_all(folder.join("corpus")).map_err(failed)?;
    let log = std::fs::File::create(folder.join("log.txt")).map_err(failed)?;
    let artifacts = format!("-artifact_prefix={}/", folder.display());
    eprintln!("· fuzzing for {seconds} s");
    let time = format!("-max_total_time={seconds}");
    let status = Command::new(folder.join("release/parse"))
        .args([&time, "-max_len=20000", "-timeout=10", "-rss_limit_mb=2048", "-print_final_stats=1", &artifacts])
        .args(["target/fuzz/corpus", "core/testing/cases", "core/model/demo"])
        .current_dir(root())
        .stdout(log.try_clone().map_err(failed)?)
        .stderr(log)
        .status()
        .map_err(failed)?;
    let said = text(&folder.join("log.txt"));
    let tail: Vec<&str> = said.lines().rev().take(30).collect();
    if !status.success() {
        return Err(format!("the fuzzer found an input that fails; it is in target/fuzz:\n{}", tail.into_iter().rev().collect::<Vec<_>>().join("\n")));
    }
    let runs = tail.iter().find_map(|line| line.strip_prefix("stat::number_of_executed_units:")).unwrap_or("?");
    eprintln!("  {} inputs, none fails", runs.trim());
    Ok(())
}

/// Medians of every benchmark, in the order of their names, and what the sizes say of each other.
fn bench() -> Result<(), String> {
    run(&cargo(), &["bench", "--quiet", "--package", "orthavis-core", "--bench", "solve"])?;
    let folder = root().join("target/criterion");
    let entries = std::fs::read_dir(&folder).map_err(|error| format!("{}: {error}", folder.display()))?;
    let mut medians: Vec<(String, f64)> = Vec::new();
    for entry in entries.flatten() {
        let estimates = text(&entry.path().join("new/estimates.json"));
        let Ok(value) = serde_json::from_str::<serde_json::Value>(&estimates) else { continue };
        if let Some(nanoseconds) = value["median"]["point_estimate"].as_f64() {
            medians.push((entry.file_name().to_string_lossy().into_owned(), nanoseconds / 1e6));
        }
    }
    medians.sort_by(|a, b| a.0.cmp(&b.0));
    println!("| benchmark | median, ms |\n| --- | --- |");
    for (name, milliseconds) in &medians {
        println!("| {name} | {milliseconds:.3} |");
    }
    let of = |name: &str| medians.iter().find(|(known, _)| known == name).map_or(f64::NAN, |(_, ms)| *ms);
    println!("| 3,000 against 300 pixels | × {:.1} |", of("pixels_3000") / of("pixels_300"));
    for count in [300, 3000] {
        println!("| {count} pixels, in factorizations of the sparse LU | {:.2} |", of(&format!("pixels_{count}")) / of(&format!("lu_{count}")));
    }
    Ok(())
}

fn api() -> Result<(), String> {
    packages()?;
    for (command, file) in [
        ("openapi", "web/openapi.json"),
        ("schema", "docs/orthavis.build-1.schema.json"),
        ("checks", "docs/findings.md"),
        ("fields", "web/src/api/fields.json"),
        ("operations", "web/src/core/operations.ts"),
    ] {
        written(&[command], file)?;
    }
    for kind in ["bicycle", "skateboard", "wheelchair", "rc_model", "drone", "rv", "other"] {
        written(&["drawings", kind], &format!("core/model/data/drawings/{kind}.json"))?;
    }
    run("npm", &["run", "--silent", "api"])
}

/// What the program prints, in a file.
fn written(command: &[&str], file: &str) -> Result<(), String> {
    let arguments = [&["run", "--quiet", "--package", "orthavis", "--"], command].concat();
    let output = Command::new(cargo()).args(arguments).current_dir(root()).output().map_err(|error| error.to_string())?;
    if !output.status.success() {
        return Err(String::from_utf8_lossy(&output.stderr).into_owned());
    }
    std::fs::write(root().join(file), output.stdout).map_err(|error| format!("{file}: {error}"))
}

fn screenshots() -> Result<(), String> {
    whole_page()?;
    browser()?;
    run_with(&cargo(), &["test", "--quiet", "--package", "orthavis", "--test", "browser", "pictures", "--", "--ignored"], &[("ORTHAVIS_PICTURES", "1")])
}
