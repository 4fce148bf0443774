//! The sample builds: the lantern parade of Lowmarsh, every kind of vehicle among them.

/// Every sample build as a document; the last one is the first on the shelf.
pub const BUILDS: [&str; 8] = [
    include_str!("../demo/puppet-stage.json"),
    include_str!("../demo/owl-hexacopter.json"),
    include_str!("../demo/camp-rover.json"),
    include_str!("../demo/choir-chair.json"),
    include_str!("../demo/trail-deck.json"),
    include_str!("../demo/railway-coach.json"),
    include_str!("../demo/firefly-bicycle.json"),
    include_str!("../demo/book-delivery-trike.json"),
];
