//! What is wrong with a build: findings, what mends each, the verdict, and what a change does to them.
//!
//! ```
//! use orthavis_judge::findings::Severity;
//! use orthavis_judge::report::report_at_once;
//! use orthavis_model::document::parse;
//!
//! let mut build = parse(orthavis_model::demo::BUILDS[0]).expect("a sample build");
//! let codes = |build| -> Vec<(&'static str, Severity)> {
//!     report_at_once(build).expect("nobody stopped it").findings.iter().map(|found| (found.code, found.severity)).collect()
//! };
//! // Without a fuse at its start a wire from a battery is what starts fires.
//! build.junctions.iter_mut().map(|one| &mut one.feed).chain(build.converters.iter_mut().map(|one| &mut one.feed)).for_each(|feed| feed.fuse = None);
//! build.lights.iter_mut().flat_map(|light| &mut light.feeds).for_each(|feed| feed.fuse = None);
//! assert!(codes(&build).contains(&("fuse.missing", Severity::Stop)));
//! ```

pub mod cautions;
pub mod driven;
pub mod effect;
pub mod effort;
pub mod findings;
pub mod report;
pub mod tables;
pub mod verdict;
