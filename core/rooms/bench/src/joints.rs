//! What a feed consists of, from its supply on: joints and parts in a row, each with its resistance.

use orthavis_model::document::{Build, Feed};
use orthavis_model::laws::wire::SWITCH_OHM;
use orthavis_model::words;
use orthavis_physics::network::Side;

words! {
    /// A place in a feed where two things meet.
    Joint {
        /// Between the supply's terminal and the feed's first part or wire.
        From = "from",
        /// After the fuse.
        Fuse = "fuse",
        /// After the switch.
        Switch = "switch",
        /// After the last plug.
        Plug = "plug",
        /// Between the wire's end and the consumer's terminal.
        To = "to",
    }
}

/// What stands in a row along one conductor.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Piece {
    /// A joint: nothing, unless it is bad.
    Joint(Joint),
    /// The fuse itself.
    Fuse,
    /// The switch itself.
    Switch,
    /// All plugs.
    Plugs,
    /// The wire, or the frame.
    Wire,
}

/// The joints of one conductor, in order from the supply.
pub fn joints(feed: &Feed, side: Side) -> Vec<Joint> {
    if side == Side::Minus {
        return vec![Joint::From, Joint::To];
    }
    let there = [
        (Joint::From, true),
        (Joint::Fuse, feed.fuse.is_some()),
        (Joint::Switch, feed.switch.is_some()),
        (Joint::Plug, feed.contacts > 0 || feed.moving.is_some()),
        (Joint::To, true),
    ];
    there.into_iter().filter_map(|(joint, there)| there.then_some(joint)).collect()
}

/// The pieces of one conductor from supply to consumer, each with its resistance when sound, ohm.
pub fn pieces(build: &Build, feed: &Feed, side: Side) -> Vec<(Piece, f64)> {
    let mut row = vec![(Piece::Joint(Joint::From), 0.0)];
    if side == Side::Plus {
        if let Some(fuse) = &feed.fuse {
            row.extend([(Piece::Fuse, fuse.cold_ohm()), (Piece::Joint(Joint::Fuse), 0.0)]);
        }
        if feed.switch.is_some() {
            row.extend([(Piece::Switch, SWITCH_OHM), (Piece::Joint(Joint::Switch), 0.0)]);
        }
        if feed.contacts > 0 || feed.moving.is_some() {
            row.extend([(Piece::Plugs, feed.touch_ohm()), (Piece::Joint(Joint::Plug), 0.0)]);
        }
    }
    let wire = match side {
        Side::Plus => feed.gauge.ohm(feed.length_m),
        Side::Minus => feed.back_ohm(build.vehicle.frame_return_ohm),
    };
    row.extend([(Piece::Wire, wire), (Piece::Joint(Joint::To), 0.0)]);
    row
}
