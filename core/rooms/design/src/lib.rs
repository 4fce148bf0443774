//! Designs: from a wish to whole plans, and what plans are compared by.

pub mod label;
pub mod lamps;
pub mod measures;
pub mod plan;
pub mod search;
pub mod wish;
