//! Shows: what is told of them, and what holds of any.

mod laws;
mod show;
