//! The bench: expected readings, faults found, practice.

mod board;
mod correct;
mod desk;
mod diagnose;
mod expect;
mod laws;
mod pinch;
mod practice;
mod seen;
