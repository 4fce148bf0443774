//! How long a small circuit takes here and in a general circuit simulator, on the same netlist: as whole processes, and
//! beside it our analysis alone. Flashers are followed for ten flashes.

use orthavis_testing::circuits::every_circuit;
use orthavis_testing::spice;
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::Instant;

/// Runs of each; the median counts.
const RUNS: usize = 15;

/// Median time of a command, ms.
fn median(command: impl Fn() -> Command) -> f64 {
    let once = || {
        let begun = Instant::now();
        let status = command().stdout(Stdio::null()).stderr(Stdio::null()).status().expect("it runs");
        assert!(status.success());
        1e3 * begun.elapsed().as_secs_f64()
    };
    let mut times: Vec<f64> = (0..RUNS).map(|_| once()).collect();
    times.sort_by(f64::total_cmp);
    times[RUNS / 2]
}

fn ours(file: &Path, more: &[&str]) -> Command {
    let mut command = Command::new(env!("CARGO_BIN_EXE_orthavis"));
    command.arg("circuit").arg(file).arg("c").args(more);
    command
}

/// What the general simulator says that its analysis alone took, ms.
fn analysis(netlist: &Path) -> Option<f64> {
    let said = Command::new("ngspice").arg("-b").arg(netlist).output().ok()?;
    let text = String::from_utf8_lossy(&said.stdout).into_owned();
    let line = text.lines().find_map(|line| line.strip_prefix("Total analysis time (seconds) = "))?;
    Some(1e3 * line.trim().parse::<f64>().ok()?)
}

#[test]
#[ignore = "measures times, which a busy machine spoils; run by `cargo xtask deep`"]
fn beside_a_general_simulator() {
    assert!(spice::is_there(), "ngspice is missing and could not be installed: apt-get install ngspice");
    let folder = tempfile::TempDir::new().expect("folder");
    let start = median(|| {
        let mut command = Command::new(env!("CARGO_BIN_EXE_orthavis"));
        command.arg("--version");
        command
    });
    println!("start here {start:.1} ms");
    println!("{:<28} {:>9} {:>9} {:>7} {:>10} {:>10} {:>7}", "circuit", "here, ms", "there, ms", "ratio", "less start", "analysis", "ratio");
    for (name, build) in every_circuit() {
        let (file, netlist) = (folder.path().join("build.json"), folder.path().join("build.cir"));
        std::fs::write(&file, build.print()).expect("written");
        let flashes: &[&str] = if build.circuits[0].kind().flashes() { &["--flashes", "10"] } else { &[] };
        let text = ours(&file, &[flashes, &["--netlist"]].concat()).output().expect("a netlist");
        assert!(text.status.success(), "{name}");
        std::fs::write(&netlist, text.stdout).expect("written");
        let here = median(|| ours(&file, flashes));
        let there = median(|| {
            let mut command = Command::new("ngspice");
            command.arg("-b").arg(&netlist);
            command
        });
        let (own, alone) = ((here - start).max(0.1), analysis(&netlist).unwrap_or(f64::NAN));
        println!("{name:<28} {here:>9.1} {there:>9.1} {:>7.1} {own:>10.1} {alone:>10.1} {:>7.1}", there / here, alone / own);
        assert!(here < there, "{name}: slower than a simulator for everything");
    }
}
