//! Every code of finding is met, exactly where it should be, and every remedy clears it.

use orthavis_judge::findings::{CHECKS, Severity, check};
use orthavis_judge::report::{Report, report};
use orthavis_model::document::Build;
use orthavis_model::working::plain;
use orthavis_testing::{cases, changed, table};
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

/// The core cannot find what is not among its codes; each of them is met in the table.
#[test]
fn every_code_is_met_in_the_table() {
    let met: BTreeSet<String> = table().into_iter().flat_map(|(_, _, expected)| expected).collect();
    let met: BTreeSet<&str> = met.iter().filter_map(|line| line.split(' ').nth(1)).collect();
    assert_eq!(met, CHECKS.iter().map(|check| check.code).collect());
}

/// A code is found by its name, and everything that a person reads of it is there.
#[test]
fn checks_are_in_order_and_whole() {
    for pair in CHECKS.windows(2) {
        assert!(pair[0].code < pair[1].code, "{} comes before {}", pair[1].code, pair[0].code);
    }
    for known in &CHECKS {
        assert_eq!(check(known.code), Some(known));
        let one = known.said();
        for text in [&one.why, &one.rule, &one.mend] {
            assert!(text.ends_with('.') && text.len() > 15, "{}: {text}", one.code);
        }
        assert!(!one.formula.is_empty() && !one.source.is_empty() && !one.source.ends_with('.'), "{}", one.code);
        assert!(["s", "d", "A", "V", "W", "m", "ohm", "°C", "Hz", "lx", "mm", "W/m", "1"].contains(&one.unit), "{}: {}", one.code, one.unit);
    }
    assert_eq!(check("fuse.absent"), None);
}

/// A limit that is said is the one that is held against: texts name figures by their place, and what is typed is physics
/// or a standard, not a limit.
#[test]
fn texts_take_their_limits_from_figures() {
    let mut typed = BTreeSet::new();
    for check in &CHECKS {
        let texts = [check.why, check.formula, check.rule, check.mend, check.source];
        let mut named = BTreeSet::new();
        for text in texts {
            let parts = text.split('{').enumerate();
            let plain = parts.map(|(index, part)| if index == 0 { part } else { part.split_once('}').expect("a name that ends").1 });
            let plain: String = plain.collect();
            if text == check.formula && plain.contains(|letter: char| letter.is_ascii_digit() && !matches!(letter, '0' | '1')) {
                typed.insert(check.code);
            }
            named.extend(text.match_indices('{').map(|(at, _)| text[at + 1..].chars().next().and_then(|digit| digit.to_digit(10)).expect("a place") as usize));
        }
        assert_eq!(named, (0..check.figures.len()).collect(), "{}: figures named", check.code);
        let said = check.said();
        for text in [said.why, said.formula, said.rule, said.mend, said.source] {
            assert!(!text.contains(['{', '}']), "{}: {text}", check.code);
        }
    }
    let others = typed.into_iter().collect::<Vec<_>>();
    // A heat balance, the operating times of a standard, names of two ends, the days of a week.
    assert_eq!(others, ["fuse.missing", "fuse.slow", "ground.apart", "source.parked"]);
    let wire = check("wire.drop").expect("a check").said();
    assert_eq!(wire.rule, "Keep the loss to 3 % where it is easy, and under 10 % always. Count the way out and the way back.");
    let fast = check("circuit.flash_fast").or_else(|| check("flash.fast")).expect("a check").said();
    assert!(fast.why.contains("three times a second") && fast.formula.ends_with("≤ 3"), "{fast:?}");
}

/// Applies every remedy of every finding and solves again: gone or milder, and no new stop.
#[test]
fn remedies_clear_what_they_promise_to() {
    let mut bare = Vec::new();
    let samples = orthavis_model::demo::BUILDS.iter().map(|text| orthavis_model::document::parse(text).expect("a sample build"));
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

/// A person reads in the message the very figure that the finding rests on, as the report has it.
#[test]
fn a_message_names_the_figure_that_it_rests_on() {
    let mut read = 0;
    for (name, build, _) in table() {
        for finding in solved(&name, &build).findings {
            assert!(!finding.title.is_empty() && !finding.why.is_empty(), "{name}: {}", finding.code);
            if ["s", "A", "V", "W"].contains(&finding.unit) && finding.code != "source.no_cutoff" {
                let figure = plain(finding.value, finding.unit);
                assert!(finding.message.contains(&figure), "{name}: {figure} is not in: {}", finding.message);
                read += 1;
            }
        }
    }
    assert!(read > 50, "only {read} figures were read");
}
