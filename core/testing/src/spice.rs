//! A general circuit simulator that reads what we write: Debian's `ngspice`, installed where it is missing.

use std::collections::BTreeMap;
use std::io::Write;
use std::path::Path;
use std::process::{Command, Stdio};
use std::sync::OnceLock;

/// Whether the simulator is there, after an attempt to install it.
pub fn is_there() -> bool {
    static THERE: OnceLock<bool> = OnceLock::new();
    *THERE.get_or_init(|| {
        let there = || Command::new("ngspice").arg("--version").stdout(Stdio::null()).stderr(Stdio::null()).status().is_ok_and(|status| status.success());
        if !there() && Path::new("/usr/bin/apt-get").exists() {
            for arguments in [&["update", "-qq"][..], &["install", "-y", "-qq", "--no-install-recommends", "ngspice"]] {
                // Without rights or network it stays away; who asks then says so.
                drop(Command::new("apt-get").args(arguments).env("DEBIAN_FRONTEND", "noninteractive").stdout(Stdio::null()).stderr(Stdio::null()).status());
            }
        }
        there()
    })
}

/// Runs a netlist as it is; what it says by name: `v(node)` and measurements.
///
/// # Panics
/// When the simulator is missing or gives up.
pub fn run(netlist: &str, control: &str) -> BTreeMap<String, f64> {
    assert!(is_there(), "ngspice is missing and could not be installed: apt-get install ngspice");
    let (before, _) = netlist.rsplit_once(".end").expect("an end");
    let text = format!("{before}.control\nset numdgt=12\n{control}\n.endc\n.end\n");
    let mut child =
        Command::new("ngspice").args(["-b", "-n", "/dev/stdin"]).stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().expect("ngspice");
    child.stdin.take().expect("a pipe").write_all(text.as_bytes()).expect("written");
    let out = child.wait_with_output().expect("an end");
    let said = String::from_utf8_lossy(&out.stdout);
    let read = |line: &str| {
        let (name, value) = line.split_once('=')?;
        let value: f64 = value.split_whitespace().next()?.parse().ok()?;
        Some((name.trim().to_lowercase(), value))
    };
    let found: BTreeMap<String, f64> = said.lines().filter_map(read).collect();
    assert!(!found.is_empty(), "{text}\n{said}\n{}", String::from_utf8_lossy(&out.stderr));
    found
}
