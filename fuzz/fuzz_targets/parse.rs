#![no_main]
//! Any text is a build or a list of faults; a build reads back from its own print, and is solved or refused within its
//! budget, with finite figures.

use libfuzzer_sys::fuzz_target;
use orthavis_core::budget::{self, Budget};
use orthavis_core::document::parse;
use orthavis_core::report::report_at_once;

fuzz_target!(|text: &str| {
    if let Ok(build) = parse(text) {
        assert_eq!(parse(&build.print()).as_ref(), Ok(&build));
        // A tenth of what a person gets, so that a run tries many.
        let solved = budget::run(Some(Budget::new(budget::USUAL / 10)), || report_at_once(&build));
        if let Ok(report) = solved {
            assert!(report.points.iter().all(|point| point.source.current_a.is_finite() && point.source.terminal_v.is_finite()));
        }
    }
});
