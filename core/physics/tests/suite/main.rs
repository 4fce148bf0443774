//! Networks and circuits over time.

mod balance;
mod changes;
mod choose;
mod circuits;
mod light;
mod measured;
mod netlist;
mod protection;
mod show;
mod solutions;
mod supply;
mod traces;
mod transient;
mod waves;
