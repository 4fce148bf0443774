//! Making: from a plan that is safe to a vehicle that shines. Everything is worked out from the build; what the person
//! decided is in its `make`, what is done is in the journal.

pub mod balance;
pub mod board;
pub mod calendar;
pub mod cuts;
pub mod diagram;
pub mod fit;
pub mod labels;
pub mod packing;
pub mod parts;
pub mod schedule;
pub mod steps;
mod sundries;
pub mod tables;
