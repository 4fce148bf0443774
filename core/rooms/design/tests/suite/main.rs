//! From labels and wishes to designs.

mod label;
