//! The command line as a person or a script meets it.

use std::io::Write;
use std::path::PathBuf;
use std::process::{Command, Output, Stdio};
use tempfile::TempDir;

fn orthavis(arguments: &[&str], input: &str) -> Output {
    let mut child = Command::new(env!("CARGO_BIN_EXE_orthavis"))
        .args(arguments)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .expect("it starts");
    child.stdin.take().expect("its input").write_all(input.as_bytes()).expect("written");
    child.wait_with_output().expect("it ends")
}

fn case(name: &str) -> String {
    let path = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../core/testing/cases").join(format!("{name}.json"));
    path.to_string_lossy().into_owned()
}

fn text(bytes: &[u8]) -> String {
    String::from_utf8_lossy(bytes).into_owned()
}

#[test]
fn solve_prints_a_report() {
    let output = orthavis(&["solve", &case("trike-arrays")], "");
    assert_eq!(output.status.code(), Some(0));
    let report: serde_json::Value = serde_json::from_slice(&output.stdout).expect("json");
    assert_eq!(report["format"], "orthavis.report/1");
    assert_eq!(report["points"].as_array().map(Vec::len), Some(6));
}

#[test]
fn bad_input_gives_words_and_no_report() {
    let document = std::fs::read_to_string(case("trike-arrays")).expect("a case");
    let folder = TempDir::new().expect("folder");
    let missing = folder.path().join("missing.json");
    // A switch-off voltage that the sagging input of the module crosses: no steady state.
    let hunting = document.replace("\"length_m\": 0.4", "\"length_m\": 900.0").replace("\"min_in_v\": 14", "\"min_in_v\": 36");
    for (arguments, input, words) in [
        (vec!["solve", "-"], "not json", "not readable JSON"),
        (vec!["check", "-"], "{}", "/name"),
        (vec!["solve", "-"], &document.replace("\"series\": 10", "\"sereis\": 10"), "/source/sereis"),
        (vec!["solve", "-"], hunting.as_str(), "twelve"),
        (vec!["solve", missing.to_str().expect("a path")], "", "missing.json"),
    ] {
        let output = orthavis(&arguments, input);
        assert_eq!(output.status.code(), Some(2), "{words}: {}", text(&output.stdout));
        assert!(output.stdout.is_empty(), "{words}: a partial report");
        assert!(text(&output.stderr).contains(words), "{words}: {}", text(&output.stderr));
    }
}

#[test]
fn check_says_what_is_wrong_and_ends_with_it() {
    let fine = orthavis(&["check", &case("trike-arrays")], "");
    assert_eq!(fine.status.code(), Some(0), "{}", text(&fine.stdout));
    let wrong = orthavis(&["check", &case("van-strips")], "");
    assert_eq!(wrong.status.code(), Some(1));
    let said = text(&wrong.stdout);
    for words in ["Not safe to build yet", "fuse.above_wire", "→", "not a certificate"] {
        assert!(said.contains(words), "{words}: {said}");
    }
    assert!(said.find("STOP") < said.find("note"), "worst first");
}

#[test]
fn mend_says_what_it_changes_and_writes_it() {
    let folder = TempDir::new().expect("folder");
    let out = folder.path().join("mended.json");
    let mended = orthavis(&["mend", &case("eight-metres-one-end"), "--out", out.to_str().expect("a path")], "");
    assert_eq!(mended.status.code(), Some(0), "{}{}", text(&mended.stdout), text(&mended.stderr));
    assert!(text(&mended.stdout).contains("Feed it from both ends"), "{}", text(&mended.stdout));
    let check = orthavis(&["check", out.to_str().expect("a path")], "");
    assert_eq!(check.status.code(), Some(0), "{}", text(&check.stdout));
}

#[test]
fn help_teaches() {
    let help = text(&orthavis(&["--help"], "").stdout);
    for words in ["solve", "check", "serve", "demo", "Start here", "never certifies"] {
        assert!(help.contains(words), "{words}");
    }
    assert!(text(&orthavis(&["solve", "--help"], "").stdout).contains("Exit code"));
}

#[test]
fn tables_are_files_that_a_spreadsheet_reads() {
    let folder = TempDir::new().expect("folder");
    let out = folder.path().join("tables");
    let output = orthavis(&["tables", &case("van-strips"), "--out", out.to_str().expect("a path")], "");
    assert_eq!(output.status.code(), Some(0), "{}", text(&output.stderr));
    for line in text(&output.stdout).lines() {
        let path = line.split(": ").next().expect("a path");
        let table = std::fs::read_to_string(path).expect("written");
        let mut lines = table.split("\r\n");
        let columns = lines.next().expect("a head").split(',').count();
        assert!(columns > 2 && lines.next().is_some_and(|row| row.matches(',').count() >= columns - 1), "{path}");
    }
    // The table says what the report says.
    let report: serde_json::Value = serde_json::from_slice(&orthavis(&["solve", &case("van-strips")], "").stdout).expect("json");
    let endurance = std::fs::read_to_string(out.join("endurance.csv")).expect("written");
    for (row, scene) in endurance.lines().skip(1).zip(report["endurance"].as_array().expect("scenes")) {
        assert_eq!(row.split(',').nth(1), Some(scene["hours"].to_string().as_str()), "{row}");
    }
}

/// What the documentation holds of the program's own tables.
#[test]
fn the_documentation_is_that_of_the_program() {
    for (command, file) in [("schema", "orthavis.build-1.schema.json"), ("checks", "findings.md")] {
        let kept = std::fs::read_to_string(PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../docs").join(file)).expect(file);
        assert!(kept == text(&orthavis(&[command], "").stdout), "{file}: run `cargo xtask api`");
    }
}
