//! What is drawn.

mod circuit;
mod picture;
mod sheet;
