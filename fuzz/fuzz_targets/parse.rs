#![no_main]
//! Any text is a build or a list of faults, and a build reads back from its own print.

use libfuzzer_sys::fuzz_target;
use orthavis_core::document::parse;

fuzz_target!(|text: &str| {
    if let Ok(build) = parse(text) {
        assert_eq!(parse(&build.print()).as_ref(), Ok(&build));
    }
});
