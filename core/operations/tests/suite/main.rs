//! Questions as they come from outside.

mod bench;
mod limits;
mod make;
mod operations;
mod practice;
