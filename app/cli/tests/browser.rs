//! The real interface against the real binary: starts a server on a database of its own and runs Playwright.
//!
//! Needs `npm ci`, the built page and Debian's Chromium; `cargo xtask test` sees to all three.

use std::io::{BufRead, BufReader};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::sync::{Mutex, MutexGuard, PoisonError};
use tempfile::TempDir;

/// Where times or pictures are taken, no other browser is beside; other groups run as the test runner's threads allow.
fn alone() -> MutexGuard<'static, ()> {
    static ONE: Mutex<()> = Mutex::new(());
    ONE.lock().unwrap_or_else(PoisonError::into_inner)
}

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

struct Server {
    child: Child,
    url: String,
}

impl Server {
    fn start(command: &str, folder: &TempDir) -> Self {
        Self::start_with(command, folder, &[])
    }

    fn start_with(command: &str, folder: &TempDir, more: &[&str]) -> Self {
        let mut child = Command::new(env!("CARGO_BIN_EXE_orthavis"))
            .args([command, "--port", "0", "--db"])
            .arg(folder.path().join("builds.db"))
            .args(more)
            // A line for each request would bury what a failing test says.
            .env("RUST_LOG", "warn")
            .stdout(Stdio::piped())
            .spawn()
            .expect("the server starts");
        let mut line = String::new();
        BufReader::new(child.stdout.as_mut().expect("its output")).read_line(&mut line).expect("a line");
        let url = line.split_whitespace().last().expect("an address").to_owned();
        assert!(url.starts_with("http://127.0.0.1:"), "{line}");
        Server { child, url }
    }

    /// As a power cut would: no signal that it could handle.
    fn kill(mut self) {
        self.child.kill().expect("killed");
        self.child.wait().expect("gone");
    }

    fn playwright(&self, arguments: &[&str]) {
        self.playwright_with(arguments, "server");
    }

    /// With questions answered by the core in the `page`, or by the `server`.
    fn playwright_with(&self, arguments: &[&str], core: &str) {
        self.playwright_for(arguments, core, &[]);
    }

    fn playwright_for(&self, arguments: &[&str], core: &str, more: &[(&str, &str)]) {
        let program = root().join("node_modules/@playwright/test/cli.js");
        assert!(program.exists(), "run `cargo xtask test`, which installs what the browser tests need");
        // What one group leaves behind is not another's to clear away.
        let results = format!("e2e/results/{}-{core}", arguments.first().map_or("all", |name| name.trim_end_matches(".spec.ts")));
        let done = Command::new("node")
            .arg(program)
            .args(["test", "--config", "e2e/playwright.config.ts", "--output", &results])
            .args(arguments)
            .env("ORTHAVIS_URL", &self.url)
            .env("ORTHAVIS_CORE", core)
            .envs(more.iter().copied())
            .env("ORTHAVIS_BIN", env!("CARGO_BIN_EXE_orthavis"))
            .current_dir(root())
            .output()
            .expect("node runs");
        let said = String::from_utf8_lossy(&done.stdout);
        print!("{said}");
        assert!(done.status.success(), "playwright {arguments:?}\n{said}{}", String::from_utf8_lossy(&done.stderr));
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        // Already gone after `kill`; either way nothing is left running.
        drop(self.child.kill());
        drop(self.child.wait());
    }
}

/// The page's plain TypeScript, whose tests stand beside it and need no browser.
#[test]
fn what_the_page_works_out_by_itself() {
    let done = Command::new("node").args(["node_modules/vitest/vitest.mjs", "run", "--root", "web"]).current_dir(root()).output().expect("node runs");
    let said = String::from_utf8_lossy(&done.stdout);
    print!("{said}");
    assert!(done.status.success(), "{said}{}", String::from_utf8_lossy(&done.stderr));
}

#[test]
fn journeys_from_an_empty_shelf() {
    let folder = TempDir::new().expect("folder");
    Server::start("serve", &folder).playwright(&["journey.spec.ts"]);
}

#[test]
fn wishes_from_an_empty_shelf() {
    let folder = TempDir::new().expect("folder");
    Server::start("serve", &folder).playwright_with(&["wish.spec.ts"], if has_page_core() { "page" } else { "server" });
}

/// Whether this page was built with the core in it; where no compiler for it can be had, it asks the server.
fn has_page_core() -> bool {
    root().join("web/dist/core.wasm").exists()
}

#[test]
fn the_core_in_the_page_goes_the_same_journeys_and_gives_the_same_answers() {
    if !has_page_core() {
        return;
    }
    let folder = TempDir::new().expect("folder");
    Server::start("serve", &folder).playwright_with(&["journey.spec.ts", "same.spec.ts"], "page");
}

#[test]
fn an_open_page_goes_on_without_the_workshop_and_survives_a_broken_core() {
    if !has_page_core() {
        return;
    }
    let folder = TempDir::new().expect("folder");
    Server::start("demo", &folder).playwright_with(&["away.spec.ts"], "page");
}

#[test]
fn a_page_starts_without_its_server_and_never_with_a_core_of_another_version() {
    if !has_page_core() {
        return;
    }
    let folder = TempDir::new().expect("folder");
    Server::start("demo", &folder).playwright_with(&["versions.spec.ts"], "page");
}

#[test]
fn a_phone_comes_in_and_a_sheet_goes_out() {
    let folder = TempDir::new().expect("folder");
    let server = Server::start_with("demo", &folder, &["--lan=127.0.0.2"]);
    server.playwright(&["garage.spec.ts"]);
    if has_page_core() {
        server.playwright_with(&["sheet.spec.ts"], "page");
    }
}

#[test]
fn the_api_is_as_it_is_described() {
    let folder = TempDir::new().expect("folder");
    Server::start_with("serve", &folder, &["--lan=127.0.0.2"]).playwright(&["api.spec.ts"]);
}

#[test]
fn a_hard_kill_loses_nothing_that_was_saved() {
    let folder = TempDir::new().expect("folder");
    let server = Server::start("serve", &folder);
    server.playwright(&["kill.spec.ts", "--grep", "before:"]);
    server.kill();
    let server = Server::start("serve", &folder);
    server.playwright(&["kill.spec.ts", "--grep", "after:"]);
    server.playwright(&["kill.spec.ts", "--grep", "offline:"]);
}

#[test]
fn a_build_of_another_version_is_still_in_hand() {
    let folder = TempDir::new().expect("folder");
    let server = Server::start("serve", &folder);
    server.playwright(&["unreadable.spec.ts", "--grep", "before:"]);
    let beside = rusqlite::Connection::open(folder.path().join("builds.db")).expect("beside");
    let newest = "revision = (SELECT revision FROM builds)";
    let spoil = format!(r#"UPDATE revisions SET document = '{{"format":"orthavis.build/9","kept":1.0}}' WHERE {newest}"#);
    assert_eq!(beside.execute(&spoil, []), Ok(1));
    server.playwright(&["unreadable.spec.ts", "--grep", "after:|restored:"]);
}

#[test]
fn all_views_of_the_sample_builds() {
    let folder = TempDir::new().expect("folder");
    Server::start("demo", &folder).playwright(&["views.spec.ts", "people.spec.ts", "added.spec.ts", "hazards.spec.ts"]);
}

#[test]
fn settings_and_habits_of_the_web() {
    let folder = TempDir::new().expect("folder");
    Server::start("demo", &folder).playwright(&["settings.spec.ts"]);
}

#[test]
fn errands_from_the_shelf_in_few_actions() {
    let folder = TempDir::new().expect("folder");
    Server::start("demo", &folder).playwright(&["errands.spec.ts"]);
}

#[test]
fn the_bench_and_trouble() {
    let folder = TempDir::new().expect("folder");
    Server::start("demo", &folder).playwright_with(&["bench.spec.ts"], if has_page_core() { "page" } else { "server" });
}

#[test]
fn small_circuits_have_a_workshop() {
    let folder = TempDir::new().expect("folder");
    Server::start("demo", &folder).playwright_with(&["circuits.spec.ts"], if has_page_core() { "page" } else { "server" });
}

#[test]
fn shows_are_played() {
    let folder = TempDir::new().expect("folder");
    Server::start("demo", &folder).playwright_with(&["show.spec.ts"], if has_page_core() { "page" } else { "server" });
}

#[test]
fn a_journal_is_kept_and_says_back() {
    let folder = TempDir::new().expect("folder");
    Server::start("demo", &folder).playwright_with(&["journal.spec.ts"], if has_page_core() { "page" } else { "server" });
}

#[test]
fn what_is_made_is_led_step_by_step() {
    let folder = TempDir::new().expect("folder");
    Server::start("demo", &folder).playwright_with(&["make.spec.ts"], if has_page_core() { "page" } else { "server" });
}

#[test]
fn what_it_looks_like() {
    let folder = TempDir::new().expect("folder");
    Server::start("demo", &folder).playwright(&["look.spec.ts"]);
}

#[test]
fn what_the_lights_cost() {
    let folder = TempDir::new().expect("folder");
    Server::start("demo", &folder).playwright(&["drain.spec.ts"]);
}

#[test]
#[ignore = "measures times, which a busy machine spoils; run by `cargo xtask deep`"]
fn times() {
    let _alone = alone();
    let folder = TempDir::new().expect("folder");
    let server = Server::start("demo", &folder);
    server.playwright(&["speed.spec.ts"]);
    if has_page_core() {
        server.playwright_with(&["speed.spec.ts"], "page");
    }
}

#[test]
#[ignore = "looks at every view of every sample; run by `cargo xtask deep`"]
fn every_view_of_every_sample() {
    let folder = TempDir::new().expect("folder");
    Server::start("demo", &folder).playwright_for(&["views.spec.ts", "--grep", "every view"], "server", &[("ORTHAVIS_ALL", "1")]);
}

#[test]
#[ignore = "writes the pictures in docs/screenshots; run by `cargo xtask screenshots`"]
fn pictures() {
    let folder = TempDir::new().expect("folder");
    let server = Server::start_with("demo", &folder, &["--lan=127.0.0.2"]);
    server.playwright_with(&["pictures.spec.ts"], if has_page_core() { "page" } else { "server" });
}
