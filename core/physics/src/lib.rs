//! What the parts of a build do together: the network solved, how long a charge lasts, what a short draws.
//!
//! ```
//! use orthavis_model::document::parse;
//! use orthavis_physics::{offered::offered_v, points::points};
//!
//! let build = parse(orthavis_model::demo::BUILDS[0]).expect("a sample build");
//! // Every scene at every state of the source.
//! let all = points(&build).expect("nobody stopped it");
//! assert_eq!(all.len(), build.scenes.len() * build.states().len());
//! // Drawing a current costs voltage: no source shows more than it offers with nothing on.
//! let offered = offered_v(&build, "source").expect("there is a source");
//! for point in &all {
//!     let (_, most_v) = offered.iter().find(|(state, _)| *state == point.state).expect("every state");
//!     assert!(point.source.terminal_v <= most_v + 1e-9);
//! }
//! ```

pub mod circuits;
pub mod endurance;
pub mod light;
pub mod netlist;
pub mod network;
pub mod offered;
pub mod parked;
pub mod points;
pub mod protection;
pub mod show;
pub mod transient;
