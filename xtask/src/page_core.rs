//! The core as WebAssembly for the page, by whichever compiler this machine has for it.

use crate::stage::Run;
use crate::{cargo, debian, newest};
use std::env;
use std::path::{Path, PathBuf};
use std::process::{Command, ExitCode};

/// `off` leaves the core out of the page; the server then answers everything.
const SWITCH: &str = "ORTHAVIS_PAGE_CORE";
const TARGET: &str = "wasm32-unknown-unknown";
/// Debian's compiler, with the sources of its standard library and a linker for WebAssembly.
const PACKAGES: [&str; 4] = ["rustc-web", "cargo-web", "rust-web-src", "lld"];
/// What has to be there of them.
const PIECES: [&str; 4] = ["/usr/bin/rustc", "/usr/bin/cargo", "/usr/lib/rustlib/src/rust/library", "/usr/bin/wasm-ld"];
/// What [`compile`] is told to do by.
pub const AS: &str = "page-core";

/// The toolchain's own target, where it is installed.
fn has_target() -> bool {
    let sysroot = Command::new(env::var("RUSTC").unwrap_or_else(|_| "rustc".into())).args(["--print", "sysroot"]).output();
    let sysroot = sysroot.map(|said| PathBuf::from(String::from_utf8_lossy(&said.stdout).trim())).unwrap_or_default();
    sysroot.join("lib/rustlib").join(TARGET).exists()
}

fn has_debian(run: Run) -> bool {
    let there = || PIECES.iter().all(|piece| Path::new(piece).exists());
    if !there() && Path::new("/usr/bin/apt-get").exists() {
        // Without rights or without those packages the page does without.
        drop(debian("a compiler for the page's core", 60, &PACKAGES, run));
    }
    there()
}

/// Where the core lies: beside the page's own files, and in the page as it was built last.
fn places(root: &Path) -> [PathBuf; 2] {
    [root.join("web/public/core.wasm"), root.join("web/dist/core.wasm")]
}

fn is_fresh(root: &Path) -> bool {
    let sources = ["core", "app/page-core", "Cargo.lock", "Cargo.toml"];
    let changed = sources.iter().filter_map(|path| newest(&root.join(path))).max();
    let built = std::fs::metadata(root.join("web/public/core.wasm")).and_then(|data| data.modified()).ok();
    built.is_some() && built >= changed
}

/// Takes a core away whose sources have changed: no page is to be answered by what it was.
pub fn drop_stale(root: &Path) {
    if !is_fresh(root) {
        for place in places(root) {
            // It may never have been there.
            drop(std::fs::remove_file(place));
        }
    }
}

/// Puts `core.wasm` beside the page's own files, if it is not there as the sources have it; `start`s the compiler as
/// [`Command::new`] would, or [`gently`].
///
/// # Errors
/// When a compiler is there and fails.
pub fn build(root: &Path, run: Run, start: fn(&str) -> Command) -> Result<(), String> {
    let without = |why: &str| {
        for place in places(root) {
            drop(std::fs::remove_file(place));
        }
        eprintln!("· the page goes without the core, and asks the server: {why}");
        Ok(())
    };
    if env::var(SWITCH).is_ok_and(|value| value == "off") {
        return without("ORTHAVIS_PAGE_CORE is off");
    }
    if is_fresh(root) {
        return Ok(());
    }
    // Two compilers must never share a folder.
    let (folder, mut compiler) = if has_target() {
        let folder = root.join("target/page-core");
        let mut command = start(&cargo());
        command.args(["build", "--release", "--package", "orthavis-page-core", "--target", TARGET, "--target-dir"]).arg(&folder).current_dir(root);
        (folder, command)
    } else if has_debian(run) {
        let folder = root.join("target/page-core-debian");
        let command = by_debian(root, &folder, start)?;
        (folder, command)
    } else {
        return without("`rustup target add wasm32-unknown-unknown` is missing");
    };
    run("the core for the page", 360, &mut compiler).map_err(|error| format!("{error}\n{SWITCH}=off leaves it out"))?;
    let made = folder.join(TARGET).join("release/orthavis_page_core.wasm");
    let failed = |error: std::io::Error| format!("{}: {error}", made.display());
    std::fs::create_dir_all(root.join("web/public")).map_err(failed)?;
    let [beside, within] = places(root);
    std::fs::copy(&made, beside).map_err(failed)?;
    // A page that is there already takes it as it is; a name is given when all of it is written.
    if root.join("web/dist/index.html").exists() {
        let part = within.with_extension("part");
        std::fs::copy(&made, &part).and_then(|_| std::fs::rename(&part, &within)).map_err(failed)?;
        run("the sheet to take along", 3, Command::new("node").arg("web/pack.mjs").current_dir(root))?;
    }
    Ok(())
}

/// A program that leaves room for who is waited for.
pub fn gently(program: &str) -> Command {
    if Path::new("/usr/bin/nice").exists() {
        let mut command = Command::new("/usr/bin/nice");
        command.args(["-n", "10", program]);
        return command;
    }
    Command::new(program)
}

/// With the standard library built along: Debian ships its sources, not the library for this target.
fn by_debian(root: &Path, folder: &Path, start: fn(&str) -> Command) -> Result<Command, String> {
    let own = env::current_exe().map_err(|error| error.to_string())?;
    let mut command = start("/usr/bin/cargo");
    command
        .args(["build", "--release", "--package", "orthavis-page-core", "--target", TARGET, "-Z", "build-std=std,panic_abort"])
        .arg("--target-dir")
        .arg(folder)
        .current_dir(root)
        .envs([("RUSTC_BOOTSTRAP", "1"), ("RUSTC", "/usr/bin/rustc"), ("XTASK_AS_COMPILER", AS)])
        .env("RUSTC_WRAPPER", own)
        .env("CARGO_TARGET_WASM32_UNKNOWN_UNKNOWN_LINKER", "/usr/bin/wasm-ld")
        .envs([("CARGO_PROFILE_RELEASE_OPT_LEVEL", "2"), ("CARGO_PROFILE_RELEASE_LTO", "off")]);
    // What belongs to the toolchain that runs this program is none of the other's business.
    for name in ["LD_LIBRARY_PATH", "RUSTFLAGS", "CARGO_ENCODED_RUSTFLAGS", "RUSTUP_TOOLCHAIN", "RUSTDOCFLAGS", "CARGO_TARGET_DIR"] {
        command.env_remove(name);
    }
    Ok(command)
}

/// Debian's compiler in its place: it is a little older, and our crates use two things that it
/// knows only by the name of a feature.
pub fn compile(arguments: &[String]) -> ExitCode {
    let Some((rustc, rest)) = arguments.split_first() else { return ExitCode::FAILURE };
    let own = rest.windows(2).any(|pair| pair[0] == "--crate-name" && pair[1].starts_with("orthavis_"));
    let chains = own.then_some("-Zcrate-attr=feature(let_chains, unsigned_is_multiple_of)");
    // Where it is compiled makes no other bytes.
    let home = env::var("CARGO_HOME").unwrap_or_else(|_| format!("{}/.cargo", env::var("HOME").unwrap_or_default()));
    match Command::new(rustc).args(rest).args(chains).arg(format!("--remap-path-prefix={home}=/cargo")).status() {
        Ok(status) if status.success() => ExitCode::SUCCESS,
        _ => ExitCode::FAILURE,
    }
}
