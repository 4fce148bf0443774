//! What is wrong with a build: findings, what mends each, the verdict, and what a change does to them.

pub mod cautions;
pub mod driven;
pub mod effect;
pub mod effort;
pub mod findings;
pub mod report;
pub mod tables;
pub mod verdict;
