//! Questions as they come from outside.

mod bench;
mod make;
mod operations;
mod practice;
