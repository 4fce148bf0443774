//! Every code of finding is met, exactly where it should be, and every remedy clears it.

mod common;

use common::{cases, changed, table};
use orthavis_core::document::Build;
use orthavis_core::findings::Severity;
use orthavis_core::report::{Report, report};
use serde_json::json;
use std::collections::BTreeSet;

fn solved(name: &str, build: &Build) -> Report {
    report(build).unwrap_or_else(|error| panic!("{name}: {error}"))
}

fn lines(report: &Report) -> BTreeSet<String> {
    report.findings.iter().map(|f| format!("{} {} {}", json!(f.severity).as_str().expect("a word"), f.code, f.subject)).collect()
}

#[test]
fn findings_are_where_the_table_says() {
    let mut wrong = Vec::new();
    for (name, build, expected) in table() {
        let found = lines(&solved(&name, &build));
        if found != expected {
            wrong.push(format!("{name}:\n  expected {expected:?}\n  found    {found:?}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn every_code_is_in_the_table() {
    let met: BTreeSet<String> = table().into_iter().flat_map(|(_, _, expected)| expected).collect();
    let codes: BTreeSet<&str> = met.iter().filter_map(|line| line.split(' ').nth(1)).collect();
    let known = [
        "contact.over",
        "converter.back_fed",
        "converter.hot",
        "converter.input_high",
        "converter.input_low",
        "converter.near_limit",
        "converter.overload",
        "converter.pass_through",
        "emitter.voltage_driven",
        "frame.medical",
        "frame.not_a_conductor",
        "fuse.above_wire",
        "fuse.breaking",
        "fuse.missing",
        "fuse.nuisance",
        "fuse.odd_rating",
        "fuse.slow",
        "fuse.voltage",
        "led.no_resistor",
        "led.over_max",
        "led.over_rated",
        "led.uneven",
        "light.dark",
        "light.dim",
        "light.over_voltage",
        "pixels.starved",
        "place.plug",
        "place.slack",
        "resistor.hot",
        "source.no_cutoff",
        "source.not_rechargeable",
        "source.over",
        "strip.cut",
        "strip.fade",
        "strip.rail_over",
        "switch.over",
        "tap.over",
        "tap.unbalanced",
        "wire.ampacity",
        "wire.drop",
    ];
    assert_eq!(codes, BTreeSet::from(known));
}

/// Applies every remedy of every finding and solves again: gone or milder, and no new stop.
#[test]
fn remedies_clear_what_they_promise_to() {
    let mut bare = Vec::new();
    let samples = orthavis_core::demo::BUILDS.iter().map(|text| orthavis_core::document::parse(text).expect("a sample build"));
    let whole = samples.chain(cases().into_iter().map(|(_, build)| build)).map(|build| (build.name.clone(), build));
    for (name, build) in table().into_iter().map(|(name, build, _)| (name, build)).chain(whole) {
        let before = solved(&name, &build);
        let stops = |report: &Report| -> BTreeSet<(String, String)> {
            let stops = report.findings.iter().filter(|f| f.severity == Severity::Stop);
            stops.map(|f| (f.code.to_owned(), f.subject.clone())).collect()
        };
        for finding in &before.findings {
            if finding.remedies.is_empty() && finding.advice.is_none() {
                bare.push(format!("{name}: {} {}", finding.code, finding.subject));
            }
            for remedy in &finding.remedies {
                let after = solved(&remedy.title, &changed(&build, &json!(remedy.changes)));
                let rest = after.findings.iter().find(|f| f.code == finding.code && f.subject == finding.subject);
                assert!(rest.is_none_or(|f| f.severity > finding.severity), "{name}: {} does not clear {} {}", remedy.title, finding.code, finding.subject);
                let new: Vec<_> = stops(&after).difference(&stops(&before)).cloned().collect();
                assert!(new.is_empty(), "{name}: {} brings {new:?}", remedy.title);
            }
        }
    }
    assert!(bare.is_empty(), "neither remedy nor advice:\n{}", bare.join("\n"));
}

#[test]
fn a_message_names_its_figures_and_the_working_repeats_them() {
    for (name, build, _) in table() {
        for finding in solved(&name, &build).findings {
            assert!(!finding.title.is_empty() && !finding.why.is_empty(), "{name}: {}", finding.code);
            assert!(
                finding.message.chars().any(|c| c.is_ascii_digit()) || finding.code.starts_with("tap.") || finding.code.starts_with("frame."),
                "{name}: {}",
                finding.message
            );
            assert_eq!(finding.working.result.value, finding.value, "{name}: {}", finding.code);
            assert_eq!(finding.working.given.last().map(|q| q.value), Some(finding.limit), "{name}: {}", finding.code);
        }
    }
}
