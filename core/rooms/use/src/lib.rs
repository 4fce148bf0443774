//! Use: what happened to a build, and what follows from it: the next charge, how the battery ages, what wears, what the
//! plan should learn.

pub mod chart;
pub mod course;
pub mod health;
pub mod learn;
pub mod marks;
pub mod needs;
pub mod passport;
pub mod proven;
pub mod remind;
pub mod rides;
pub mod said;
pub mod season;
pub mod told;
pub mod view;
pub mod wear;
pub mod year;
