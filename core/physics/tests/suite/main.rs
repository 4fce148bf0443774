//! Networks and circuits over time.

mod changes;
mod choose;
mod circuits;
mod protection;
mod show;
mod transient;
