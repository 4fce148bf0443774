//! How parts are fixed is judged only where a person decided it, and every finding leads to a way that holds.

use orthavis_judge::findings::Severity;
use orthavis_judge::report::report;
use orthavis_model::document::{Build, Fixing};
use orthavis_testing::{case, changed};
use serde_json::json;

/// Tail lights in a basket that comes off, gets wet and turns with the bar; fixed so.
fn basket(fixing: Fixing) -> Build {
    let changes = json!([
        { "op": "add", "path": "/places", "value": [{ "name": "basket", "traits": ["wet", "moving", "removable", "no_drill"] }] },
        { "op": "replace", "path": "/lights/1/place", "value": "basket" },
        { "op": "add", "path": "/make", "value": { "fixings": [{ "part": "tail", "fixing": fixing.word(), "surface": "clear_plastic" }] } },
    ]);
    changed(&case("trike-arrays"), &changes)
}

#[test]
fn every_finding_offers_a_way_that_clears_it() {
    let mut met = 0;
    for (word, fixing) in Fixing::WORDS {
        let build = basket(*fixing);
        let told = report(&build).expect("a report");
        for finding in told.findings.iter().filter(|finding| finding.code.starts_with("fixing.")) {
            met += 1;
            assert_eq!(finding.subject, "tail", "{word}");
            assert!(!finding.title.is_empty() && finding.message.contains(fixing.called()), "{}", finding.message);
            let remedies = &finding.remedies;
            assert!(!remedies.is_empty(), "{word}: {} has no remedy", finding.code);
            for remedy in remedies {
                let mended = changed(&build, &serde_json::to_value(&remedy.changes).expect("changes"));
                let left = report(&mended).expect("a report");
                let there = left.findings.iter().filter(|one| one.code.starts_with("fixing.")).count();
                assert_eq!(there, 0, "{word}: {} leaves {there}", remedy.title);
            }
        }
    }
    assert!(met >= 8, "{met} findings");
}

#[test]
fn what_nobody_decided_is_not_judged_and_only_cells_stop_a_build() {
    let silent = changed(&basket(Fixing::Superglue), &json!([{ "op": "remove", "path": "/make" }]));
    assert!(report(&silent).expect("a report").findings.iter().all(|finding| !finding.code.starts_with("fixing.")));
    let pack = changed(&basket(Fixing::Screws), &json!([{ "op": "replace", "path": "/lights/1/place", "value": "battery box" }]));
    let told = report(&pack).expect("a report");
    let stops: Vec<&str> = told.findings.iter().filter(|one| one.severity == Severity::Stop && one.code.starts_with("fixing.")).map(|one| one.code).collect();
    assert_eq!(stops, ["fixing.near_cells"]);
    // Electrically it is the same build.
    let of = |build: &Build| serde_json::to_value(report(build).expect("a report").points).expect("points");
    assert_eq!(of(&pack), of(&silent));
}
