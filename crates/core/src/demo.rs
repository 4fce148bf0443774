//! The sample builds: the lantern parade of Lowmarsh.

/// Every sample build as a document.
pub const BUILDS: [&str; 1] = [include_str!("../demo/book-delivery-trike.json")];
