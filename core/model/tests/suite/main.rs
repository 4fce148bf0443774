//! Documents: read, checked, edited, and the laws they rest on.

mod basis;
mod circuits;
mod document;
mod drawer;
mod edit;
mod fields;
mod figures;
mod hazards;
mod journal;
mod kinds;
mod laws;
mod making;
mod topology;
mod vehicle;
