//! What findings, helpers and tables promise, held on builds that nobody wrote.

use crate::helpers::choices;
use crate::random;
use orthavis_core::choose::{size, supply};
use orthavis_core::document::{Build, Source, parse, parse_value};
use orthavis_core::drain::discharge::discharge;
use orthavis_core::drain::drain;
use orthavis_core::endurance::{Ends, Endurance};
use orthavis_core::findings::Severity;
use orthavis_core::picture::{ReachKind, picture};
use orthavis_core::report::{Report, report};
use orthavis_core::tables::tables;
use orthavis_testing::changed;
use serde_json::json;
use std::collections::BTreeSet;

/// Builds that can be solved, with their numbers.
fn builds(count: u64) -> impl Iterator<Item = (u64, Build, Report)> {
    // As many more in `cargo xtask deep` as it has more of other builds.
    let more = std::env::var("ORTHAVIS_BUILDS").ok().and_then(|asked| asked.parse::<u64>().ok()).map_or(1, |asked| (asked / 400).max(1));
    let count = count * more;
    (0..count).filter_map(|seed| {
        let build = parse_value(&random::Dice(seed).build()).expect("sound");
        // Every scene and state of them has a balance; what has none is tried elsewhere.
        let whole = |report: &Report| report.findings.iter().all(|finding| finding.code != "source.collapses");
        report(&build).ok().filter(whole).map(|report| (seed, build, report))
    })
}

/// Stops that were not there before.
fn new_stops(before: &Report, after: &Report) -> BTreeSet<(&'static str, String)> {
    let stops = |report: &Report| report.findings.iter().filter(|f| f.severity == Severity::Stop).map(|f| (f.code, f.subject.clone())).collect::<BTreeSet<_>>();
    stops(after).difference(&stops(before)).cloned().collect()
}

#[test]
fn a_remedy_clears_or_softens_and_brings_no_stop() {
    let mut tried = 0;
    for (seed, build, before) in builds(36) {
        for finding in &before.findings {
            assert!(!finding.remedies.is_empty() || finding.advice.is_some(), "{seed}: {} {} leaves a person alone", finding.code, finding.subject);
            for remedy in &finding.remedies {
                let after = report(&changed(&build, &json!(remedy.changes))).unwrap_or_else(|error| panic!("{seed}: {}: {error}", remedy.title));
                let rest = after.findings.iter().find(|f| f.code == finding.code && f.subject == finding.subject);
                assert!(rest.is_none_or(|f| f.severity > finding.severity), "{seed}: {} does not clear {} {}", remedy.title, finding.code, finding.subject);
                let new = new_stops(&before, &after);
                assert!(new.is_empty(), "{seed}: {} brings {new:?}", remedy.title);
                tried += 1;
            }
        }
    }
    assert!(tried > 300, "only {tried} remedies were tried");
}

#[test]
fn sizing_everything_settles_and_brings_no_stop() {
    for (seed, build, before) in builds(150) {
        let sized = size::everything(&build).unwrap_or_else(|error| panic!("{seed}: {error}"));
        let there = changed(&build, &json!(sized.changes));
        let after = report(&there).unwrap_or_else(|error| panic!("{seed}: {error}"));
        // A light may stop at the voltage that now reaches it; of wires and what is in them nothing may.
        let in_wires = |code: &str| ["wire.", "fuse.", "switch.", "contact."].iter().any(|of| code.starts_with(of));
        let new = new_stops(&before, &after);
        assert!(!new.iter().any(|(code, _)| in_wires(code)), "{seed}: brings {new:?}");
        let left: Vec<_> =
            after.findings.iter().filter(|f| ["wire.ampacity", "fuse.missing", "fuse.odd_rating"].contains(&f.code)).map(|f| (f.code, &f.subject)).collect();
        assert!(left.is_empty(), "{seed}: leaves {left:?}");
        let again = size::everything(&there).expect("sizes");
        assert!(again.lines.is_empty(), "{seed}: a second time it changes {:?}", again.lines);
    }
}

#[test]
fn what_a_helper_calls_working_works() {
    let mut taken = 0;
    for (seed, build, before) in builds(8) {
        let mut all = choices(&build);
        all.extend(build.lights.iter().flat_map(|light| supply::for_light(&build, &light.id).expect("ways")));
        for choice in all.iter().filter(|choice| choice.works && choice.caution.is_none()) {
            let Some(changes) = &choice.changes else { continue };
            let Ok(after) = report(&changed(&build, &json!(changes))) else { panic!("{seed}: {} cannot be solved", choice.title) };
            let new = new_stops(&before, &after);
            assert!(new.is_empty(), "{seed}: {} brings {new:?}", choice.title);
            taken += 1;
        }
    }
    assert!(taken > 60, "only {taken} choices were taken");
}

/// Power that flows into a part of the river leaves it again, as power or as heat.
#[test]
fn the_river_keeps_every_watt() {
    for (seed, build, report) in builds(150) {
        for point in &report.points {
            let picture = picture(&build, &report, &point.scene, point.state).expect("a picture");
            let crumb = 1e-6 * picture.reaches.iter().map(|reach| reach.sent_w).fold(1e-3, f64::max);
            // Where supplies meet in a strip, the frame hands power from one way back to another.
            let frame = build.vehicle.frame_return_ohm;
            let meet = build.lights.iter().any(|light| light.feeds.len() > 1);
            let swaps = meet && build.feeds().iter().any(|feed| feed.feed.by_frame(frame));
            for reach in &picture.reaches {
                assert!(swaps || reach.sent_w >= reach.arrives_w - crumb && reach.arrives_w >= reach.leaves_w - crumb, "{seed}: {reach:?}");
                // Only through a strip that is fed from two sides can power run back to one of them, and on to what else that feeds.
                let meets = build.lights.iter().any(|light| light.feeds.iter().any(|feed| feed.from != light.feeds[0].from));
                assert!(reach.leaves_w >= -crumb || meets, "{seed}: {reach:?}");
                if matches!(reach.kind, ReachKind::Junction | ReachKind::Converter) {
                    let below: f64 = picture.reaches.iter().filter(|other| other.from.as_ref() == Some(&reach.id)).map(|other| other.sent_w).sum();
                    assert!((reach.leaves_w - below).abs() <= crumb, "{seed}: {} passes on {} W of {} W", reach.id, below, reach.leaves_w);
                }
            }
        }
    }
}

#[test]
fn tables_are_read_back_as_they_were_written() {
    for (seed, build, _) in builds(60) {
        for table in tables(&build).expect("tables") {
            let text = table.csv();
            let mut reader = csv::Reader::from_reader(text.as_bytes());
            assert_eq!(reader.headers().expect("a head").len(), table.columns.len(), "{seed} {}", table.name);
            let lines: Vec<csv::StringRecord> = reader.records().map(|line| line.expect("as wide as its head")).collect();
            assert_eq!(lines.len(), table.rows.len(), "{seed} {}", table.name);
            assert!(!text.contains("NaN") && !text.contains("inf"), "{seed} {}: {text}", table.name);
        }
    }
}

/// A brighter plan never lasts longer, nor a larger battery shorter.
#[test]
fn the_light_lasts_by_brightness_and_capacity() {
    for (seed, build, before) in builds(120) {
        let Source::Battery(_) = &build.source else { continue };
        let mut larger = build.clone();
        let Source::Battery(battery) = &mut larger.source else { continue };
        // A pack of more cells: as many more amperes for the same hours.
        battery.capacity_ah *= 1.5;
        let mut dimmer = build.clone();
        for lit in dimmer.scenes.iter_mut().flat_map(|scene| scene.lights.values_mut()) {
            lit.level *= 0.8;
        }
        for (what, other) in [("larger", larger), ("dimmer", dimmer)] {
            let Ok(after) = report(&other) else { continue };
            for (a, b) in before.endurance.iter().zip(&after.endurance) {
                // Less of a light is sooner less than a tenth of it.
                if b.ends == Ends::Dark && what == "dimmer" {
                    continue;
                }
                let hours = |scene: &Endurance| scene.hours.unwrap_or(f64::INFINITY);
                assert!(hours(b) >= hours(a) * (1.0 - 2e-3), "{seed} {}: {} h, {what} {} h", a.scene, hours(a), hours(b));
            }
        }
    }
}

#[test]
fn a_discharge_falls_and_ends() {
    for (seed, build, _) in builds(120) {
        for scene in &build.scenes {
            let Ok(Some(curve)) = discharge(&build, &scene.id) else { continue };
            for pair in curve.moments.windows(2) {
                assert!(pair[0].at_h < pair[1].at_h && pair[0].soc > pair[1].soc, "{seed} {}", scene.id);
                assert!(pair[1].current_a.is_finite() && pair[1].terminal_v.is_finite(), "{seed} {}", scene.id);
            }
            assert!(curve.marks.windows(2).all(|pair| pair[0].at_h <= pair[1].at_h), "{seed} {}", scene.id);
            assert_eq!(curve.moments.is_empty(), curve.marks.is_empty(), "{seed} {}: an end, and only where something is drawn", scene.id);
        }
        if let Ok(drain) = drain(&build) {
            assert!(drain.headline.iter().all(|fact| fact.value.is_finite()), "{seed}");
        }
    }
}

#[test]
fn every_build_prints_and_reads_back() {
    for (seed, build, _) in builds(200) {
        assert_eq!(parse(&build.print()).expect("its own print"), build, "{seed}");
    }
}
