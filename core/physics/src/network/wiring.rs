//! How the elements of a build hang together.

use super::Node;
use super::ladder::Ladder;
use super::matrix::{Order, Slot};
use std::sync::Arc;

/// One conductor of a feed.
#[derive(Clone, Debug)]
pub(super) struct Conductor {
    pub(super) from: Node,
    pub(super) to: Node,
    pub(super) branch: usize,
    pub(super) stamp: BranchStamp,
}

/// Entries of a branch between two nodes: current into both, voltages and current into its equation.
#[derive(Clone, Debug)]
pub(super) struct BranchStamp {
    pub(super) from_i: Option<Slot>,
    pub(super) to_i: Option<Slot>,
    pub(super) eq_from: Option<Slot>,
    pub(super) eq_to: Option<Slot>,
    pub(super) eq_i: Option<Slot>,
}

/// Entries of a conductance between two nodes.
#[derive(Clone, Debug)]
pub(super) struct Quad {
    pub(super) aa: Option<Slot>,
    pub(super) ab: Option<Slot>,
    pub(super) ba: Option<Slot>,
    pub(super) bb: Option<Slot>,
}

#[derive(Clone, Debug)]
pub(super) struct Rail {
    pub(super) a: Node,
    pub(super) b: Node,
    pub(super) siemens: f64,
    pub(super) quad: Quad,
}

#[derive(Clone, Debug)]
pub(super) struct Tap {
    pub(super) plus: Node,
    pub(super) minus: Node,
    /// The taps that share these nodes, by their places among the light's spots.
    pub(super) own: std::ops::Range<usize>,
    pub(super) quad: Quad,
}

/// Where a tap finds its voltage.
#[derive(Clone, Copy, Debug)]
pub(super) enum Spot {
    Nodes(Node, Node),
    Cell(usize),
}

#[derive(Clone, Debug)]
pub(super) struct LightNet {
    pub(super) id: String,
    /// Index into `taps`: those that sit where a feed joins.
    pub(super) taps: std::ops::Range<usize>,
    /// Every tap along the light.
    pub(super) spots: Vec<Spot>,
    /// The nodes feed 0 joins.
    pub(super) entry: (Node, Node),
    /// Feeds and taps in the order in which they sit along it; empty where it has no length.
    pub(super) along: Vec<Along>,
}

/// A strip that several supplies feed.
#[derive(Clone, Debug)]
pub(super) struct Meeting {
    /// Its feeds, by their place among [`Build::feeds`].
    pub(super) feeds: std::ops::Range<usize>,
    /// The converters among its supplies.
    pub(super) converters: Vec<usize>,
}

/// What sits at one place along a strip.
#[derive(Clone, Copy, Debug)]
pub(super) struct Along {
    pub(super) at_m: f64,
    pub(super) item: Item,
}

#[derive(Clone, Copy, Debug)]
pub(super) enum Item {
    /// By its place among [`Build::feeds`].
    Feed(usize),
    /// By its place among the light's spots.
    Tap(usize),
}

#[derive(Clone, Debug)]
pub(super) struct ConverterNet {
    pub(super) id: String,
    pub(super) in_plus: Node,
    pub(super) minus: Node,
    pub(super) out_plus: Node,
    pub(super) branch: usize,
    /// The one light of a driver.
    pub(super) drives: Option<usize>,
    /// Whether it feeds something that another supply feeds too, which may hold its output above its setting.
    pub(super) meets_another: bool,
    /// Converters between it and the source.
    pub(super) depth: usize,
    pub(super) stamp: ConverterStamp,
}

#[derive(Clone, Debug)]
pub(super) struct ConverterStamp {
    /// Rows in_plus, minus; columns in_plus, minus, out_plus, branch.
    pub(super) kcl: [[Option<Slot>; 4]; 2],
    pub(super) out_i: Option<Slot>,
    /// The branch equation over in_plus, minus, out_plus, branch.
    pub(super) eq: [Option<Slot>; 4],
    pub(super) leak: Quad,
}

/// How the elements of a build hang together: fixed, and shared by every network of it.
pub(super) struct Wiring {
    /// Unknowns of the matrix: nodes, then branches. The ladders' cells follow them.
    pub(super) size: usize,
    pub(super) nodes: usize,
    /// Cells of all ladders.
    pub(super) cells: usize,
    pub(super) source_plus: Node,
    pub(super) source_branch: usize,
    pub(super) source_stamp: BranchStamp,
    /// Two per feed, plus and minus, in the order of [`Build::feeds`].
    pub(super) conductors: Vec<Conductor>,
    /// Minus terminal of what supplies each feed; a minus conductor ends there or on the frame.
    pub(super) supply_minus: Vec<Node>,
    /// Between the terminals of what each feed feeds.
    pub(super) across: Vec<Quad>,
    pub(super) rails: Vec<Rail>,
    pub(super) taps: Vec<Tap>,
    pub(super) ladders: Vec<Ladder>,
    pub(super) lights: Vec<LightNet>,
    pub(super) converters: Vec<ConverterNet>,
    /// Strips at which several supplies meet.
    pub(super) meetings: Vec<Meeting>,
    /// The part that each node belongs to.
    pub(super) places: Vec<String>,
    pub(super) order: Arc<Order>,
}
