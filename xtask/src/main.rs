//! `cargo xtask demo` and `cargo xtask test`: everything from a fresh machine, installs included.
//!
//! Needs only the Rust toolchain, Node.js 20, npm and Debian's package manager.

use std::env;
use std::path::{Path, PathBuf};
use std::process::{Command, ExitCode};
use std::time::Instant;

const HELP: &str = "\
cargo xtask demo [--fresh] [--port N]   build everything, load the sample builds, serve, print the address
cargo xtask test                        format, lints, types, unit, property, API and browser tests
cargo xtask screenshots                 take the pictures in docs/screenshots anew
cargo xtask api                         write the API's description and the client's types anew";

fn main() -> ExitCode {
    let arguments: Vec<String> = env::args().skip(1).collect();
    let outcome = match arguments.first().map(String::as_str) {
        Some("demo") => demo(&arguments[1..]),
        Some("test") => test(),
        Some("screenshots") => screenshots(),
        Some("api") => api(),
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

/// npm packages as the lock file says; nothing to do while that has not changed.
fn packages() -> Result<(), String> {
    let (lock, stamp) = (root().join("package-lock.json"), root().join("node_modules/.installed-lock.json"));
    if text(&stamp) == text(&lock) {
        return Ok(());
    }
    run("npm", &["ci", "--no-fund", "--no-audit"])?;
    std::fs::copy(&lock, &stamp).map(drop).map_err(|error| format!("{}: {error}", stamp.display()))
}

/// The page, built when a source of it is newer than the last build.
fn page() -> Result<(), String> {
    packages()?;
    let built = std::fs::metadata(root().join("web/dist/index.html")).and_then(|data| data.modified()).ok();
    let sources = ["web/src", "web/public", "web/index.html", "web/vite.config.ts", "package-lock.json"];
    let newest = sources.iter().filter_map(|path| newest(&root().join(path))).max();
    if built.is_some() && built >= newest {
        return Ok(());
    }
    run("npm", &["run", "--silent", "build"])
}

fn newest(path: &Path) -> Option<std::time::SystemTime> {
    let data = std::fs::metadata(path).ok()?;
    if data.is_file() {
        return data.modified().ok();
    }
    std::fs::read_dir(path).ok()?.flatten().filter_map(|entry| newest(&entry.path())).max()
}

fn demo(arguments: &[String]) -> Result<(), String> {
    page()?;
    run(&cargo(), &["build", "--release", "--quiet", "--package", "orthavis"])?;
    let binary = root().join("target/release/orthavis");
    let mut command = Command::new(binary);
    command.arg("demo").args(["--db", "data/demo.db"]).args(arguments).current_dir(root());
    let status = command.status().map_err(|error| format!("orthavis: {error}"))?;
    if status.success() { Ok(()) } else { Err(format!("orthavis stopped ({status})")) }
}

/// Debian's Chromium, installed when it is missing.
fn browser() -> Result<(), String> {
    if Path::new("/usr/bin/chromium").exists() {
        return Ok(());
    }
    run("apt-get", &["update", "-qq"])?;
    run_with("apt-get", &["install", "-y", "-qq", "--no-install-recommends", "chromium"], &[("DEBIAN_FRONTEND", "noninteractive")])
}

fn test() -> Result<(), String> {
    let cargo = cargo();
    run(&cargo, &["fmt", "--all", "--check"])?;
    page()?;
    run("npm", &["run", "--silent", "format"])?;
    run("npm", &["run", "--silent", "check"])?;
    run(&cargo, &["clippy", "--workspace", "--all-targets", "--quiet", "--", "-D", "warnings"])?;
    browser()?;
    run(&cargo, &["test", "--workspace", "--quiet"])
}

fn api() -> Result<(), String> {
    packages()?;
    let output = Command::new(cargo())
        .args(["run", "--quiet", "--package", "orthavis", "--", "openapi"])
        .current_dir(root())
        .output()
        .map_err(|error| error.to_string())?;
    if !output.status.success() {
        return Err(String::from_utf8_lossy(&output.stderr).into_owned());
    }
    std::fs::write(root().join("web/openapi.json"), output.stdout).map_err(|error| error.to_string())?;
    run("npm", &["run", "--silent", "api"])
}

fn screenshots() -> Result<(), String> {
    page()?;
    browser()?;
    run_with(&cargo(), &["test", "--quiet", "--package", "orthavis", "--test", "browser", "pictures", "--", "--ignored"], &[("ORTHAVIS_PICTURES", "1")])
}
