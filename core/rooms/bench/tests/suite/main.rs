//! The bench: expected readings, faults found, practice.

mod correct;
mod desk;
mod diagnose;
mod expect;
mod laws;
mod pinch;
mod practice;
mod rig;
mod seen;
