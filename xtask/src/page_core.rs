//! The core as WebAssembly for the page, by whichever compiler this machine has for it.

use crate::{cargo, newest, run_with};
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

fn has_debian() -> bool {
    let there = || PIECES.iter().all(|piece| Path::new(piece).exists());
    if !there() && Path::new("/usr/bin/apt-get").exists() {
        let install = [&["install", "-y", "-qq", "--no-install-recommends"][..], &PACKAGES].concat();
        let quiet = [("DEBIAN_FRONTEND", "noninteractive")];
        // Without rights or without those packages the page does without.
        drop(run_with("apt-get", &["update", "-qq"], &quiet).and_then(|()| run_with("apt-get", &install, &quiet)));
    }
    there()
}

/// Puts `core.wasm` beside the page's own files, if it is not there as the sources have it.
///
/// # Errors
/// When a compiler is there and fails.
pub fn build(root: &Path) -> Result<(), String> {
    let module = root.join("web/public/core.wasm");
    let without = |why: &str| {
        drop(std::fs::remove_file(&module));
        eprintln!("· the page goes without the core, and asks the server: {why}");
        Ok(())
    };
    if env::var(SWITCH).is_ok_and(|value| value == "off") {
        return without("ORTHAVIS_PAGE_CORE is off");
    }
    let sources = ["core", "app/page-core", "Cargo.lock", "Cargo.toml"];
    let changed = sources.iter().filter_map(|path| newest(&root.join(path))).max();
    let built = std::fs::metadata(&module).and_then(|data| data.modified()).ok();
    if built.is_some() && built >= changed {
        return Ok(());
    }
    // Two compilers must never share a folder.
    let (folder, built_by) = if has_target() {
        let folder = root.join("target/page-core");
        let to = folder.display().to_string();
        let arguments = ["build", "--quiet", "--release", "--package", "orthavis-page-core", "--target", TARGET, "--target-dir", &to];
        (folder.clone(), run_with(&cargo(), &arguments, &[]))
    } else if has_debian() {
        let folder = root.join("target/page-core-debian");
        (folder.clone(), by_debian(&folder))
    } else {
        return without("`rustup target add wasm32-unknown-unknown` is missing");
    };
    built_by?;
    let made = folder.join(TARGET).join("release/orthavis_page_core.wasm");
    std::fs::create_dir_all(root.join("web/public"))
        .and_then(|()| std::fs::copy(&made, &module))
        .map(drop)
        .map_err(|error| format!("{}: {error}", made.display()))
}

/// With the standard library built along: Debian ships its sources, not the library for this target.
fn by_debian(folder: &Path) -> Result<(), String> {
    let own = env::current_exe().map_err(|error| error.to_string())?;
    eprintln!("· /usr/bin/cargo build --package orthavis-page-core --target {TARGET}, a few minutes the first time");
    let mut command = Command::new("/usr/bin/cargo");
    command
        .args(["build", "--quiet", "--release", "--package", "orthavis-page-core", "--target", TARGET, "-Z", "build-std=std,panic_abort"])
        .arg("--target-dir")
        .arg(folder)
        .current_dir(folder.ancestors().nth(2).unwrap_or(Path::new(".")))
        .envs([("RUSTC_BOOTSTRAP", "1"), ("RUSTC", "/usr/bin/rustc"), ("XTASK_AS_COMPILER", AS)])
        .env("RUSTC_WRAPPER", own)
        .env("CARGO_TARGET_WASM32_UNKNOWN_UNKNOWN_LINKER", "/usr/bin/wasm-ld")
        .envs([("CARGO_PROFILE_RELEASE_OPT_LEVEL", "2"), ("CARGO_PROFILE_RELEASE_LTO", "off")]);
    // What belongs to the toolchain that runs this program is none of the other's business.
    for name in ["LD_LIBRARY_PATH", "RUSTFLAGS", "CARGO_ENCODED_RUSTFLAGS", "RUSTUP_TOOLCHAIN", "RUSTDOCFLAGS", "CARGO_TARGET_DIR"] {
        command.env_remove(name);
    }
    let status = command.status().map_err(|error| format!("/usr/bin/cargo: {error}"))?;
    if status.success() { Ok(()) } else { Err(format!("the core could not be built for the page ({status}); {SWITCH}=off leaves it out")) }
}

/// Debian's compiler in its place: it is a little older, and our crates use two things that it
/// knows only by the name of a feature.
pub fn compile(arguments: &[String]) -> ExitCode {
    let Some((rustc, rest)) = arguments.split_first() else { return ExitCode::FAILURE };
    let own = rest.windows(2).any(|pair| pair[0] == "--crate-name" && pair[1].starts_with("orthavis_"));
    let chains = own.then_some("-Zcrate-attr=feature(let_chains, unsigned_is_multiple_of)");
    match Command::new(rustc).args(rest).args(chains).status() {
        Ok(status) if status.success() => ExitCode::SUCCESS,
        _ => ExitCode::FAILURE,
    }
}
