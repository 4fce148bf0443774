//! What the parts of a build do together: the network solved, how long a charge lasts, what a short draws.

pub mod circuits;
pub mod endurance;
pub mod netlist;
pub mod network;
pub mod offered;
pub mod parked;
pub mod points;
pub mod protection;
pub mod show;
pub mod transient;
