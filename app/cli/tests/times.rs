//! How long a small circuit takes here and in a general circuit simulator, on the same netlist: as whole processes.

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

#[test]
#[ignore = "measures times, which a busy machine spoils; run by `cargo xtask deep`"]
fn beside_a_general_simulator() {
    assert!(spice::is_there(), "ngspice is missing and could not be installed: apt-get install ngspice");
    let folder = tempfile::TempDir::new().expect("folder");
    println!("{:<28} {:>9} {:>9} {:>7}", "circuit", "here, ms", "there, ms", "ratio");
    for (name, build) in every_circuit() {
        let (file, netlist) = (folder.path().join("build.json"), folder.path().join("build.cir"));
        std::fs::write(&file, build.print()).expect("written");
        let text = ours(&file, &["--netlist"]).output().expect("a netlist");
        assert!(text.status.success(), "{name}");
        std::fs::write(&netlist, text.stdout).expect("written");
        let here = median(|| ours(&file, &[]));
        let there = median(|| {
            let mut command = Command::new("ngspice");
            command.arg("-b").arg(&netlist);
            command
        });
        println!("{name:<28} {here:>9.1} {there:>9.1} {:>7.1}", there / here);
        assert!(here < there, "{name}: slower than a simulator for everything");
    }
}
