//! Designs: from a wish to whole plans, and what plans are compared by.

pub mod label;
