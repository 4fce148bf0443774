//! Networks and circuits over time.

mod balance;
mod changes;
mod choose;
mod circuits;
mod protection;
mod show;
mod supply;
mod transient;
mod waves;
