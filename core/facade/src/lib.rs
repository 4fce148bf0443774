//! The rules of lighting a small vehicle from its battery, as the shells use them.
//!
//! Pure: plain data in, plain data out; no I/O, no clock, no web. [`document::parse`] reads a build,
//! [`report::report`] solves it at every scene and state of the battery and says what is wrong with it. The layers
//! behind these names are crates of their own, each of which knows only those below it.

pub mod job;
pub mod tables;

pub use orthavis_bench as bench;
pub use orthavis_design as design;
pub use orthavis_drain as drain;
pub use orthavis_judge::{cautions, effect, effort, findings, report, verdict};
pub use orthavis_look as look;
pub use orthavis_make as make;
pub use orthavis_model::laws::effect as effects;
pub use orthavis_model::laws::{battery, converter, fuse, habits, led, light, module, pixels, resistor, wire};
pub use orthavis_model::{budget, chance, demo, document, drawer, edit, fixing, glossary, journal, moment, parts, practice, states, table, vehicle, working};
pub use orthavis_physics::show as pixels_over_time;
pub use orthavis_physics::{circuits, endurance, netlist, network, offered, points, protection};
pub use orthavis_plan::{arrives, choose, mend, propose, remove};
pub use orthavis_show as show;
pub use orthavis_use as upkeep;
pub use orthavis_views::{circuit, picture, sheet};
