//! Shows: what is told of them, and what holds of any.

mod cards;
mod laws;
mod show;
