//! The command line as a person or a script meets it.

use std::io::Write;
use std::io::{BufRead, BufReader};
use std::net::TcpStream;
use std::path::{Path, PathBuf};
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
    // Two scenes at full, half, reserve and under way.
    assert_eq!(report["points"].as_array().map(Vec::len), Some(8));
}

/// A switch-off voltage that the sagging input of a converter crosses: that scene and state has no figures, the others do.
#[test]
fn what_cannot_be_solved_is_a_stop_beside_what_can() {
    let document = std::fs::read_to_string(case("trike-arrays")).expect("a case");
    let hunting = document.replace("\"length_m\": 0.4", "\"length_m\": 900.0").replace("\"min_in_v\": 14", "\"min_in_v\": 36");
    let output = orthavis(&["solve", "-"], &hunting);
    assert_eq!(output.status.code(), Some(0), "{}", text(&output.stderr));
    let report: serde_json::Value = serde_json::from_slice(&output.stdout).expect("json");
    let collapse = report["findings"].as_array().and_then(|all| all.iter().find(|finding| finding["code"] == "source.collapses")).expect("a stop");
    assert_eq!(collapse["severity"], "stop");
    assert!(report["points"].as_array().is_some_and(|points| points.len() < 8), "{report}");
    let said = orthavis(&["check", "-"], &hunting);
    assert_eq!(said.status.code(), Some(1));
    assert!(text(&said.stdout).contains("twelve cannot stay on"), "{}", text(&said.stdout));
}

#[test]
fn bad_input_gives_words_and_no_report() {
    let document = std::fs::read_to_string(case("trike-arrays")).expect("a case");
    let folder = TempDir::new().expect("folder");
    let missing = folder.path().join("missing.json");
    for (arguments, input, words) in [
        (vec!["solve", "-"], "not json", "not readable JSON"),
        (vec!["check", "-"], "{}", "/name"),
        (vec!["solve", "-"], &document.replace("\"series\": 10", "\"sereis\": 10"), "/source/sereis"),
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

/// One table of exit codes for all commands: 0 fine, 1 something forbids building it, 2 what was given cannot be used,
/// 3 not called as it is meant to be.
#[test]
fn every_command_ends_by_one_table() {
    let (trike, van) = (case("trike-arrays"), case("van-strips"));
    for (arguments, code) in [
        (vec!["--help"], 0),
        (vec!["--version"], 0),
        (vec!["help", "check"], 0),
        (vec!["check", &trike], 0),
        (vec!["check", &trike, "--json"], 0),
        (vec!["check", &van], 1),
        (vec!["check", &van, "--json"], 1),
        (vec!["solve", &van], 0),
        (vec!["check", "nowhere.json"], 2),
        (vec!["pinch", &trike, "--feed", "nowhere"], 2),
        (vec!["circuit", &trike, "none"], 2),
        (vec!["bogus"], 3),
        (vec!["check"], 3),
        (vec!["check", &trike, "--colour"], 3),
        (vec!["probe", &trike, "tail:to+"], 3),
        (vec!["tables", &trike], 3),
        (vec!["cuts", &trike, "--csv", "--json"], 3),
        (vec!["diagram", &trike, "--format", "dot", "--json"], 3),
    ] {
        let output = orthavis(&arguments, "");
        assert_eq!(output.status.code(), Some(code), "{arguments:?}: {}", text(&output.stderr));
        assert_eq!(output.stderr.is_empty(), code < 2, "{arguments:?}: {}", text(&output.stderr));
        assert!(code < 2 || output.stdout.is_empty(), "{arguments:?}: half an answer");
    }
}

/// With `--json` a command prints the answer of its question, as the server would give it.
#[test]
fn every_command_prints_its_questions_answer_as_json() {
    let (trike, owl) = (case("trike-arrays"), PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../core/model/demo/owl-hexacopter.json"));
    let (coach, owl) = (owl.with_file_name("railway-coach.json").to_string_lossy().into_owned(), owl.to_string_lossy().into_owned());
    let folder = TempDir::new().expect("folder");
    let at = |name: &str| folder.path().join(name).to_string_lossy().into_owned();
    let (page, tables, c) = (at("sheet.html"), at("tables"), at("c"));
    let document: serde_json::Value = serde_json::from_str(&std::fs::read_to_string(&trike).expect("a case")).expect("json");
    let answer = |name: &str, more: serde_json::Value| {
        let mut request = serde_json::json!({ "document": document });
        request.as_object_mut().expect("an object").extend(more.as_object().expect("an object").clone());
        let answer = orthavis_operations::ask(name, request.to_string().as_bytes()).unwrap_or_else(|refusal| panic!("{name}: {}", refusal.detail));
        serde_json::from_slice::<serde_json::Value>(&answer).unwrap_or_else(|_| String::from_utf8(answer.clone()).expect("text").into())
    };
    let none = serde_json::json!({});
    // What is wrong, with the remedies that a verdict alone does not wait for.
    let report = answer("report", none.clone());
    let judged = serde_json::json!({ "verdict": report["verdict"], "findings": report["findings"], "cards": report["cards"] });
    for (arguments, expected) in [
        (vec!["solve", &trike], Some(report.clone())),
        (vec!["check", &trike], Some(judged)),
        (vec!["mend", &trike], Some(answer("mend", none.clone()))),
        (vec!["tables", &trike], Some(answer("tables", none.clone()))),
        (vec!["tables", &trike, "--out", &tables], Some(answer("tables", none.clone()))),
        (vec!["expect", &trike], Some(answer("expect", none.clone()))),
        (vec!["diagnose", &trike, "--saw", "tail=dark"], None),
        (vec!["steps", &trike, "--from", "2026-11-27"], Some(answer("make", serde_json::json!({ "day": "2026-11-27" })))),
        (vec!["cuts", &trike], Some(answer("cuts", none.clone()))),
        (vec!["parts", &trike], Some(answer("shopping", none.clone()))),
        (vec!["labels", &trike], Some(answer("labels", none.clone()))),
        (vec!["fit", &trike], Some(answer("fit", none.clone()))),
        (vec!["diagram", &trike], Some(answer("diagram", none.clone()))),
        (vec!["netlist", &trike], Some(answer("netlist", serde_json::json!({ "scene": document["scenes"][0]["id"] })))),
        (vec!["circuit", &coach, "window-keeper"], None),
        (vec!["circuit", &coach, "window-keeper", "--netlist"], None),
        (vec!["show", &owl], None),
        (vec!["show", &owl, "--map"], None),
        (vec!["show", &owl, "--c", &c], None),
        (vec!["sheet", &trike, "--out", &page], None),
        (vec!["checks"], None),
        (vec!["schema"], None),
        (vec!["completions", "bash"], None),
    ] {
        let output = orthavis(&[arguments.as_slice(), &["--json"]].concat(), "");
        // A sheet carries the core for pages along, which is not built everywhere.
        if arguments[0] == "sheet" && output.status.code() == Some(2) {
            continue;
        }
        assert_eq!(output.status.code(), Some(0), "{arguments:?}: {}", text(&output.stderr));
        let printed: serde_json::Value = serde_json::from_slice(&output.stdout).unwrap_or_else(|error| panic!("{arguments:?}: {error}"));
        if let Some(expected) = expected {
            assert_eq!(printed, expected, "{arguments:?}");
        }
    }
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

/// What documentation and page hold of the program's own tables.
#[test]
fn what_is_written_from_the_program_is_of_this_one() {
    let written = [
        ("schema", "docs/orthavis.build-1.schema.json"),
        ("checks", "docs/findings.md"),
        ("fields", "web/src/api/fields.json"),
        ("operations", "web/src/core/operations.ts"),
        ("openapi", "web/openapi.json"),
    ];
    for (command, file) in written {
        let kept = std::fs::read_to_string(PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../..").join(file)).expect(file);
        assert!(kept == text(&orthavis(&[command], "").stdout), "{file}: run `cargo xtask api`");
    }
}

/// A workshop goes out as a backup and as a folder, and comes back.
#[test]
fn a_workshop_is_backed_up_restored_exported_and_imported() {
    let folder = TempDir::new().expect("folder");
    let at = |name: &str| folder.path().join(name).to_string_lossy().into_owned();
    let (db, other, copy, out) = (at("builds.db"), at("other.db"), at("copy.db"), at("out"));
    let said = |arguments: &[&str], code: i32| {
        let output = orthavis(arguments, "");
        assert_eq!(output.status.code(), Some(code), "{arguments:?}: {}", text(&output.stderr));
        text(&output.stdout) + &text(&output.stderr)
    };
    assert!(said(&["backup", &copy, "--db", &db], 2).contains("not a file"), "nothing to copy yet");
    assert!(said(&["import", &out, "--db", &other], 2).contains("workshop.json"));
    let seed = Path::new(&out);
    std::fs::create_dir(seed).expect("folder");
    let trike = std::fs::read_to_string(case("trike-arrays")).expect("a case");
    let event = r#"{"id":"01900000-0000-7000-8000-000000000001","at":"2026-05-02T18:40:00+02:00","kind":"ride","data":{"minutes":40}}"#;
    for (name, text) in [
        ("workshop.json", r#"{"format":"orthavis.workshop/1","builds":[{"name":"Trike","document":"t.json","journal":"t.jsonl","deleted":false}]}"#),
        ("t.json", &trike),
        ("t.jsonl", event),
        ("parts.json", "[]"),
    ] {
        std::fs::write(seed.join(name), text).expect("written");
    }
    assert!(said(&["import", &out, "--db", &db], 0).starts_with("1 build, 1 event and 0 own parts"));
    assert!(said(&["backup", &copy, "--db", &db], 0).contains("copied"));
    assert!(said(&["backup", &copy, "--db", &db], 2).contains("there already"));
    assert!(said(&["restore", &copy, "--db", &other], 0).contains("as it was"));
    let back = at("back");
    assert!(said(&["export", "--all", &back, "--db", &other], 0).starts_with("1 build, 1 event"));
    let journal = std::fs::read_to_string(Path::new(&back).join("build-1.journal.jsonl")).expect("a journal");
    assert_eq!(journal.trim(), event);
    assert!(said(&["export", "--all", &back, "--db", &other], 2).contains("there already"));
}

#[test]
fn the_bench_answers_in_figures_and_in_words() {
    let trike = case("trike-arrays");
    let json = |arguments: &[&str]| -> serde_json::Value {
        let output = orthavis(arguments, "");
        assert_eq!(output.status.code(), Some(0), "{arguments:?}: {}", text(&output.stderr));
        serde_json::from_slice(&output.stdout).expect("json")
    };
    let all = json(&["probe", &trike, "--all", "--state", "half", "--json"]);
    assert!(all["volts"]["source+"].as_f64().expect("volts") > 30.0 && all["volts"]["source-"] == 0.0);
    let sound = json(&["probe", &trike, "tail:to+", "tail:to-", "--json"])["volts"].as_f64().expect("volts");
    let weak = json(&["probe", &trike, "tail:to+", "tail:to-", "--fault", "weak_joint@tail:from-=20", "--json"])["volts"].as_f64().expect("volts");
    assert!(sound > 11.0 && weak < sound - 0.3, "{sound}, {weak}");
    assert!(json(&["probe", &trike, "source+", "source-", "--ohms", "--json"])["ohms"].is_null());
    let pinch = json(&["pinch", &trike, "--feed", "tail", "--at", "0.5", "--state", "reserve", "--json"]);
    assert!(pinch["fault_a"].as_f64().is_some_and(|amps| amps > 0.0) && pinch["survives"].is_boolean());
    assert!(json(&["expect", &trike, "--json"]).as_array().is_some_and(|checks| checks.len() > 10));
    let found = json(&["diagnose", &trike, "--saw", "tail=dark", "--read", "tail:from+ tail:from- = 12.0 V", "--json"]);
    assert!(found["suspects"][0]["fault"].as_str().is_some_and(|fault| fault.contains("tail")), "{found}");
    for (arguments, words) in [
        (vec!["probe", &trike, "tail:to+", "nowhere"], "is not a point of this build"),
        (vec!["probe", &trike, "--all", "--fault", "open@nowhere:to+"], "there is no feed `nowhere`"),
        (vec!["pinch", &trike, "--feed", "tail", "--at", "3"], "is not a share of a length"),
        (vec!["diagnose", &trike, "--read", "banana"], "write it as"),
    ] {
        let output = orthavis(&arguments, "");
        assert_eq!(output.status.code(), Some(2), "{arguments:?}");
        assert!(text(&output.stderr).contains(words), "{arguments:?}: {}", text(&output.stderr));
    }
}

#[test]
fn a_sheet_is_one_page_or_says_why_there_is_none() {
    let folder = TempDir::new().expect("folder");
    let page = folder.path().join("sheet.html");
    let out = page.to_string_lossy().into_owned();
    // A name that would end a script, were it not told apart.
    let document = std::fs::read_to_string(case("trike-arrays")).expect("a case");
    let mut build: serde_json::Value = serde_json::from_str(&document).expect("json");
    build["name"] = "</script><b>Trike & co</b>".into();
    let output = orthavis(&["sheet", "-", "--out", &out], &build.to_string());
    if output.status.code() == Some(2) {
        assert!(text(&output.stderr).contains("core for pages, which a sheet carries along"), "{}", text(&output.stderr));
        assert!(!page.exists());
        return;
    }
    assert_eq!(output.status.code(), Some(0), "{}", text(&output.stderr));
    let html = std::fs::read_to_string(&page).expect("a page");
    assert!(html.len() < 2_500_000, "{} bytes", html.len());
    assert!(html.starts_with("<!doctype html>") && html.ends_with("</html>\n"));
    assert_eq!(html.matches("</script>").count(), 4, "a script ends too early");
    assert!(html.contains("<title>&lt;/script&gt;&lt;b&gt;Trike &amp; co&lt;/b&gt; · Orthavis</title>"));
    assert!(!html.contains("src=\"http") && html.contains("default-src 'none'"));
    let kept = html.split("id=\"build\">").nth(1).and_then(|rest| rest.split("</script>").next()).expect("the build");
    let kept: serde_json::Value = serde_json::from_str(kept).expect("json");
    assert_eq!(kept["document"]["name"], build["name"]);

    let bad = orthavis(&["sheet", "-", "--out", &out], "{}");
    assert_eq!(bad.status.code(), Some(2));
    let nowhere = orthavis(&["sheet", &case("trike-arrays"), "--out", "/nowhere/at/all.html"], "");
    assert!(text(&nowhere.stderr).contains("Name a file that can be written"), "{}", text(&nowhere.stderr));
}

#[test]
fn instruments_listen_without_the_page() {
    let mut child = Command::new(env!("CARGO_BIN_EXE_orthavis"))
        .args(["instruments", &case("van-strips"), "--port", "0", "--serial", "12"])
        .stdout(Stdio::piped())
        .spawn()
        .expect("it starts");
    let mut lines = BufReader::new(child.stdout.take().expect("its output")).lines().map(|line| line.expect("a line"));
    assert!(lines.next().is_some_and(|line| line.contains("scene") && line.contains("Puppet-stage van")));
    for name in ["METER,12", "SUPPLY,1", "CHARGER,1"] {
        let line = lines.next().expect("an address");
        let address = line.split_whitespace().last().expect("an address");
        let mut stream = TcpStream::connect(address).expect("it listens");
        stream.write_all(b"*IDN?\n").expect("sent");
        let mut answer = String::new();
        BufReader::new(stream).read_line(&mut answer).expect("an answer");
        assert!(answer.starts_with(&format!("ORTHAVIS,{name},")), "{answer}");
    }
    child.kill().expect("running");
    child.wait().expect("it ends");
    for (port, words) in [("65535", "at most 65533"), ("70000", "not in 0..=65535")] {
        let output = orthavis(&["instruments", &case("van-strips"), "--port", port], "");
        assert_eq!(output.status.code(), Some(3));
        assert!(text(&output.stderr).contains(words), "{}", text(&output.stderr));
    }
}

#[test]
fn making_is_told_in_words_tables_and_drawings() {
    let (trike, van) = (case("trike-arrays"), case("van-strips"));
    let said = |arguments: &[&str]| {
        let output = orthavis(arguments, "");
        assert_eq!(output.status.code(), Some(0), "{arguments:?}: {}", text(&output.stderr));
        text(&output.stdout)
    };
    let json = |arguments: &[&str]| -> serde_json::Value { serde_json::from_str(&said(arguments)).expect("json") };

    let steps = said(&["steps", &trike, "--from", "2026-11-27"]);
    assert!(steps.contains("  1. Try every light in its place  [fit]") && steps.contains("2026-11-27 18:30"), "{steps}");
    assert!(steps.contains("Set twelve to 12 V") && steps.contains("min of work, done by"), "{steps}");
    let made = json(&["steps", &trike, "--json"]);
    let all = made["steps"].as_array().expect("steps");
    assert_eq!(made["plan"]["placed"].as_array().map(Vec::len), Some(all.len()));
    let table = said(&["steps", &trike, "--csv"]);
    assert!(table.starts_with("id,phase,title,"));
    assert!(said(&["steps", &trike, "--calendar"]).starts_with("BEGIN:VCALENDAR\r\n"));

    let cuts = said(&["cuts", &van]);
    assert!(cuts.contains("roll 1 of") && cuts.contains("m left") && cuts.contains("heat-shrink"), "{cuts}");
    let list = json(&["cuts", &van, "--json"]);
    for cut in list["cuts"].as_array().expect("cuts") {
        let pieces: f64 = cut["pieces"].as_array().expect("pieces").iter().map(|piece| piece["length_m"].as_f64().expect("a length")).sum();
        assert!((pieces - cut["length_m"].as_f64().expect("a length")).abs() < 1e-3, "{cut}");
    }

    let parts = json(&["parts", &trike, "--have", "cable tie=500", "--json"]);
    let ties = parts["lines"].as_array().expect("lines").iter().find(|line| line["of"] == "cable tie").expect("ties");
    assert_eq!((ties["have"].as_f64(), ties["buy"].as_f64()), (Some(500.0), Some(0.0)));
    assert!(said(&["parts", &trike]).contains("together") && said(&["parts", &trike, "--csv"]).starts_with("group,of,needed"));
    let labels = said(&["labels", &trike]);
    assert!(labels.contains("tail +") && labels.contains("from twelve"), "{labels}");
    assert!(said(&["diagram", &trike]).starts_with("<svg") && said(&["diagram", &trike, "--format", "dot"]).contains("\"twelve\" -> \"tail\""));
    let deck = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../core/model/demo/trail-deck.json").to_string_lossy().into_owned();
    assert!(said(&["fit", &deck]).contains("riser-pocket, 95 × 62 × 24 mm") && said(&["fit", &deck, "--csv"]).contains("step-down-5v,riser-pocket"));
    assert_eq!(json(&["fit", &deck, "--json"])["fit"]["left"], serde_json::json!([]));
    assert!(said(&["fit", &trike]).contains("No cavities yet"));
    let netlist = said(&["netlist", &trike, "--state", "reserve"]);
    assert!(netlist.starts_with("* ") && netlist.contains("at reserve") && netlist.ends_with(".op\n.end\n"), "{netlist}");
    assert_eq!(json(&["diagram", &van, "--format", "json"])["wires"].as_array().map(|wires| wires.len() % 2), Some(0));
}

#[test]
fn whoever_reads_may_stop_at_any_time() {
    let trike = case("trike-arrays");
    let sample = |name: &str| PathBuf::from(env!("CARGO_MANIFEST_DIR")).join(format!("../../core/model/demo/{name}.json")).to_string_lossy().into_owned();
    let (owl, coach) = (sample("owl-hexacopter"), sample("railway-coach"));
    let circuit = "window-keeper";
    for arguments in [
        vec!["solve", &trike],
        vec!["check", &trike],
        vec!["checks"],
        vec!["schema"],
        vec!["steps", &trike],
        vec!["steps", &trike, "--json"],
        vec!["cuts", &trike, "--csv"],
        vec!["parts", &trike],
        vec!["labels", &trike],
        vec!["fit", &trike],
        vec!["netlist", &trike],
        vec!["diagram", &trike],
        vec!["diagram", &trike, "--format", "json"],
        vec!["circuit", &coach, circuit],
        vec!["circuit", &coach, circuit, "--json"],
        vec!["circuit", &coach, circuit, "--csv"],
        vec!["show", &owl, "--power"],
        vec!["show", &owl],
    ] {
        let mut child = Command::new(env!("CARGO_BIN_EXE_orthavis")).args(&arguments).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().expect("it starts");
        drop(child.stdout.take());
        let output = child.wait_with_output().expect("it ends");
        let words = text(&output.stderr);
        assert!(!words.contains("panicked") && !words.contains("pipe"), "{arguments:?}: {words}");
        assert!(matches!(output.status.code(), Some(0 | 1)), "{arguments:?}: {:?}, {words}", output.status);
    }
}

#[test]
fn a_flasher_is_followed_for_as_many_flashes_as_are_asked_for() {
    let folder = TempDir::new().expect("folder");
    let file = folder.path().join("build.json");
    let written = |name: &str| {
        let (_, build) = orthavis_testing::circuits::every_circuit().into_iter().find(|(known, _)| *known == name).expect("a circuit");
        std::fs::write(&file, build.print()).expect("written");
        file.to_string_lossy().into_owned()
    };
    for name in ["timer", "two transistors", "one transistor"] {
        let build = written(name);
        let asked = |more: &[&str]| orthavis(&[&["circuit", &build, "c"], more].concat(), "");
        let json = |more: &[&str]| serde_json::from_slice::<serde_json::Value>(&asked(&[more, &["--json"]].concat()).stdout).expect("json");
        let (usual, ten) = (json(&[]), json(&["--flashes", "10"]));
        for figure in ["period_s", "duty", "supply_mean_a"] {
            let (one, other) = (usual[figure].as_f64().expect("a figure"), ten[figure].as_f64().expect("a figure"));
            assert!((other / one - 1.0).abs() < 2e-3, "{name}: {figure} {one} and {other}");
        }
        // The last moment of its waveforms, and of the simulation that its netlist asks for.
        let csv = text(&asked(&["--flashes", "10", "--csv"]).stdout);
        let end: f64 = csv.lines().last().and_then(|line| line.split(',').nth(1)).and_then(|time| time.parse().ok()).expect("a time");
        let period = usual["period_s"].as_f64().expect("a period");
        assert!(end > 10.0 * period && end < 14.0 * period, "{name}: {end} s, a period of {period} s");
        let netlist = text(&asked(&["--flashes", "10", "--netlist"]).stdout);
        let stop: f64 = netlist.lines().find_map(|line| line.strip_prefix(".tran ")?.split(' ').nth(1)?.parse().ok()).expect("an end");
        assert!(stop > 10.0 * period && stop < 16.0 * period, "{name}: {stop} s");
        for (flashes, words) in [("0", "from 1 to 100"), ("101", "from 1 to 100")] {
            let refused = asked(&["--flashes", flashes]);
            assert!(refused.status.code() == Some(2) && text(&refused.stderr).contains(words), "{name}: {}", text(&refused.stderr));
        }
    }
    let refused = orthavis(&["circuit", &written("hold-up"), "c", "--flashes", "3"], "");
    assert!(refused.status.code() == Some(2) && text(&refused.stderr).contains("does not flash"), "{}", text(&refused.stderr));
}

#[test]
fn what_making_cannot_use_is_said() {
    let trike = case("trike-arrays");
    for (arguments, words) in [
        (vec!["steps", &trike, "--from", "friday"], "Write it as 2026-11-27"),
        (vec!["parts", &trike, "--have", "cable tie"], "write it as `cable tie=80`"),
        (vec!["parts", &trike, "--have", "cable tie=-3"], "Give 0 or more"),
        (vec!["cuts", "nowhere.json"], "nowhere.json"),
        (vec!["netlist", &trike, "--scene", "nap"], "is not a scene"),
    ] {
        let output = orthavis(&arguments, "");
        assert_eq!(output.status.code(), Some(2), "{arguments:?}");
        assert!(output.stdout.is_empty() && text(&output.stderr).contains(words), "{arguments:?}: {}", text(&output.stderr));
    }
}

#[test]
fn a_build_that_is_not_safe_is_shown_up_to_the_bench() {
    let sample = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../core/model/demo/book-delivery-trike.json").to_string_lossy().into_owned();
    let short = text(&orthavis(&["steps", &sample], "").stdout);
    assert!(short.contains("Not safe to build yet") && !short.contains("ON THE VEHICLE") && !short.contains("[first-power]"), "{short}");
    let all = text(&orthavis(&["steps", &sample, "--all"], "").stdout);
    assert!(all.contains("[first-power]") && all.contains("Not safe to build yet"));
}

#[test]
fn two_faults_and_ohms_are_diagnosed_from_the_command_line() {
    let trike = case("trike-arrays");
    let output = orthavis(
        &[
            "diagnose",
            &trike,
            "--saw",
            "tail=dark",
            "--saw",
            "front=dark",
            "--read",
            "tail:from+ tail:to+ = open",
            "--read",
            "front:from- front:to- = 0.2 ohm",
            "--pairs",
            "--json",
        ],
        "",
    );
    assert_eq!(output.status.code(), Some(0), "{}", text(&output.stderr));
    let found: serde_json::Value = serde_json::from_slice(&output.stdout).expect("json");
    let lead = found["suspects"][0]["fault"].as_str().expect("a fault");
    assert!(lead.contains("@tail"), "the open wire is among them: {lead}");
    let refused = orthavis(&["diagnose", &trike, "--read", "tail:to+ tail:to- = 3 fish"], "");
    assert_eq!(refused.status.code(), Some(2));
    assert!(text(&refused.stderr).contains("0.4 ohm"));
}

#[test]
fn a_small_circuit_says_what_it_does() {
    let folder = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../core/model/demo");
    let coach = folder.join("railway-coach.json").to_string_lossy().into_owned();
    let said = |arguments: &[&str]| {
        let output = orthavis(arguments, "");
        assert_eq!(output.status.code(), Some(0), "{}", text(&output.stderr));
        text(&output.stdout)
    };
    let found: serde_json::Value = serde_json::from_str(&said(&["circuit", &coach, "window-keeper", "--state", "track", "--json"])).expect("json");
    let held = |tap: &str| found["taps"][tap]["half_s"].as_f64().expect("seconds");
    assert!(held("tap1") > 0.15 && held("tap3") > 1.4 * held("tap1"));
    assert!(said(&["circuit", &coach, "window-keeper"]).contains("tap2"));
    let netlist = said(&["circuit", &coach, "window-keeper", "--netlist"]);
    assert!(netlist.contains(".meas tran half_s") && netlist.ends_with(".end\n"), "{netlist}");
    assert!(said(&["circuit", &coach, "window-keeper", "--csv"]).starts_with("of,time_s,least,most\r\n"));
    let refused = orthavis(&["circuit", &coach, "flasher"], "");
    assert_eq!(refused.status.code(), Some(2));
    assert!(text(&refused.stderr).contains("Name one of `window-keeper`"), "{}", text(&refused.stderr));
}

#[test]
fn a_show_leaves_as_frames_power_map_and_c() {
    let owl = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../core/model/demo/owl-hexacopter.json").to_string_lossy().into_owned();
    let said = |arguments: &[&str]| {
        let output = orthavis(arguments, "");
        assert_eq!(output.status.code(), Some(0), "{arguments:?}: {}", text(&output.stderr));
        text(&output.stdout)
    };
    let json = |arguments: &[&str]| -> serde_json::Value { serde_json::from_str(&said(arguments)).expect("JSON") };
    let frames = json(&["show", &owl, "--scene", "gauge", "--times", "0,0.25,1.5", "--input", "battery=0.5", "--json"]);
    assert_eq!(frames["frames"].as_array().map(Vec::len), Some(3));
    // Half the charge: three of six pixels, amber between red and green at half of its brightness.
    let codes = &frames["frames"][1]["outputs"]["owl-brain/D2"];
    assert_eq!((&codes[2], &codes[3]), (&serde_json::json!([128, 45, 0]), &serde_json::json!([0, 0, 0])));
    let power = json(&["show", &owl, "--scene", "homing", "--power"]);
    assert!(power["worst"]["current_a"].as_f64() >= power["mean_a"].as_f64() && power["rule_of_thumb_a"].as_f64() > Some(1.0), "{power}");
    assert!(said(&["show", &owl, "--seconds", "0.1", "--csv"]).starts_with("t_s,output,number,red,green,blue"));
    assert_eq!(said(&["show", &owl, "--map"]).lines().count(), 37);
    assert!(said(&["show", &owl]).contains("rear-right, a copy"));
    let folder = TempDir::new().expect("folder");
    said(&["show", &owl, "--c", &folder.path().to_string_lossy()]);
    let header = std::fs::read_to_string(folder.path().join("show.h")).expect("written");
    assert!(header.contains("RAM: 90 bytes") && header.contains("microseconds on the machine"), "{header}");
    for (arguments, words) in [
        (vec!["show", &owl, "--scene", "nap"], "not a scene"),
        (vec!["show", &owl, "--input", "mood=1"], "`mood` is not an input"),
        (vec!["show", &owl, "--input", "battery"], "write it as `battery=0.4`"),
        (vec!["show", &owl, "--times=-1", "--json"], "before the show begins"),
        (vec!["show", &owl, "--seconds", "900"], "give up to 80"),
        (vec!["play", &owl, "--scene", "nap"], "not a scene"),
    ] {
        let output = orthavis(&arguments, "");
        assert!(output.status.code() == Some(2) && text(&output.stderr).contains(words), "{arguments:?}: {}", text(&output.stderr));
    }
}

#[test]
fn a_show_is_played_to_a_controller_of_its_own_process() {
    let owl = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../core/model/demo/owl-hexacopter.json").to_string_lossy().into_owned();
    let mut controller =
        Command::new(env!("CARGO_BIN_EXE_orthavis")).args(["controller", "--port", "0", "--seconds", "4"]).stdout(Stdio::piped()).spawn().expect("it starts");
    let mut lines = BufReader::new(controller.stdout.take().expect("its lines")).lines();
    let first = lines.next().expect("a line").expect("text");
    let port = first.rsplit(':').next().expect("a port").to_owned();
    let played = text(&orthavis(&["play", &owl, "--scene", "landing", "--seconds", "2", "--port", &port], "").stdout);
    assert!(played.contains("playing Landing") && played.contains("frames"), "{played}");
    let heard: Vec<String> = lines.map(|line| line.expect("text")).collect();
    assert!(heard.iter().any(|line| line.contains("orthavis: Owl-count hexacopter") && line.contains("0 lost, 0 late")), "{heard:?}");
    // Once it ended the controller rests.
    assert!(heard.last().is_some_and(|line| line.contains("at rest")), "{heard:?}");
    assert!(controller.wait().expect("it ends").success());
}
