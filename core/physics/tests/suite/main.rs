//! Networks and circuits over time.

mod balance;
mod changes;
mod choose;
mod circuits;
mod measured;
mod netlist;
mod protection;
mod show;
mod supply;
mod transient;
mod waves;
