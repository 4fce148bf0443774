//! What a build looks like.

mod drawing;
mod figures;
