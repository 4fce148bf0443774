//! From labels and wishes to designs.

mod designs;
mod label;
