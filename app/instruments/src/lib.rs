//! The bench's instruments as others reach them: a meter, a bench supply and a charger, each a server of SCPI lines.
//!
//! Beside them a pixel controller that hears streaming ACN, and what plays a show to it ([`sacn`]).
//!
//! What they do is the core's (`orthavis_core::bench::desk`), the same that the page shows; here are only lines, names of
//! commands and sockets. They hold no clock but the charger's, which runs as fast as it is told to.

mod bench;
mod charger;
mod meter;
pub mod sacn;
pub mod scpi;
mod server;
mod supply;

pub use bench::{Bench, OnBench};
pub use server::{Instruments, Kind, PORTS};
