//! What a build looks like.

mod figures;
