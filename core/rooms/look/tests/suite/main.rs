//! What a build looks like.

mod drawing;
mod falls;
mod figures;
mod night;
