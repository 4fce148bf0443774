//! How the parts of a build hang together: one graph, so that no caller has to walk it.
//!
//! Power comes from the source. A junction and a small circuit pass on what they are fed; a converter makes a voltage of its
//! own, and is the supply of all that hangs on it; lights and controllers are where a way ends.

use crate::document::{Build, Consumer, Converter, Feed, FeedRef, Fuse};
use std::collections::HashMap;

/// A part that power comes from or goes to, by its place in its list.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Node {
    /// The battery, the rail or the track.
    Source,
    /// One feed becomes several.
    Junction(usize),
    /// Another voltage, or a current.
    Converter(usize),
    /// A small circuit.
    Circuit(usize),
    /// Tells lights what to do, and draws a little itself.
    Controller(usize),
    /// A light.
    Light(usize),
}

impl Node {
    /// Whether it passes on the voltage that it is fed.
    pub fn passes(self) -> bool {
        matches!(self, Node::Junction(_) | Node::Circuit(_))
    }
}

impl From<Consumer> for Node {
    fn from(consumer: Consumer) -> Self {
        match consumer {
            Consumer::Junction(at) => Node::Junction(at),
            Consumer::Converter(at) => Node::Converter(at),
            Consumer::Circuit(at) => Node::Circuit(at),
            Consumer::Controller(at) => Node::Controller(at),
            Consumer::Light(at) => Node::Light(at),
        }
    }
}

/// A feed, by its place in [`Build::feeds`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Wire(usize);

/// The graph of a build whose feeds lead back to the source, as the reader sees to.
pub struct Topology<'a> {
    build: &'a Build,
    feeds: Vec<FeedRef<'a>>,
    nodes: HashMap<&'a str, Node>,
    /// The feed of whatever has one, and of a light the first.
    inlets: HashMap<Node, Wire>,
}

impl<'a> Topology<'a> {
    /// The graph of a build.
    pub fn of(build: &'a Build) -> Self {
        let feeds = build.feeds();
        let mut nodes = HashMap::from([("source", Node::Source)]);
        nodes.extend(build.junctions.iter().enumerate().map(|(at, one)| (one.id.as_str(), Node::Junction(at))));
        nodes.extend(build.converters.iter().enumerate().map(|(at, one)| (one.id.as_str(), Node::Converter(at))));
        nodes.extend(build.circuits.iter().enumerate().map(|(at, one)| (one.id.as_str(), Node::Circuit(at))));
        nodes.extend(build.controllers.iter().enumerate().map(|(at, one)| (one.id.as_str(), Node::Controller(at))));
        nodes.extend(build.lights.iter().enumerate().map(|(at, one)| (one.id.as_str(), Node::Light(at))));
        let mut inlets = HashMap::new();
        for (at, feed) in feeds.iter().enumerate() {
            inlets.entry(Node::from(feed.consumer)).or_insert(Wire(at));
        }
        Topology { build, feeds, nodes, inlets }
    }

    /// The part of this id; `None`: there is none.
    pub fn node(&self, id: &str) -> Option<Node> {
        self.nodes.get(id).copied()
    }

    /// The feed of this id, as in `tail` or `tail#1`; `None`: there is none.
    pub fn wire(&self, id: &str) -> Option<Wire> {
        self.feeds.iter().position(|feed| feed.id == id).map(Wire)
    }

    /// Every feed.
    pub fn wires(&self) -> impl Iterator<Item = Wire> + use<> {
        (0..self.feeds.len()).map(Wire)
    }

    /// A feed with its id and what it feeds.
    pub fn feed(&self, wire: Wire) -> &FeedRef<'a> {
        &self.feeds[wire.0]
    }

    /// What a feed hangs on.
    pub fn from(&self, wire: Wire) -> Node {
        self.node(&self.feed(wire).feed.from).unwrap_or(Node::Source)
    }

    /// What a feed leads to.
    pub fn to(&self, wire: Wire) -> Node {
        self.feed(wire).consumer.into()
    }

    /// The feed of a part, of a light the first; the source has none.
    pub fn inlet(&self, node: Node) -> Option<Wire> {
        self.inlets.get(&node).copied()
    }

    /// The way from a part up to what sets its voltage, through junctions and circuits: its feed, that of what the feed hangs
    /// on, and so on.
    pub fn path_to_supply(&self, node: Node) -> impl Iterator<Item = Wire> + '_ {
        let next = move |node: Node| if node.passes() { self.inlet(node) } else { None };
        std::iter::successors(self.inlet(node), move |wire| next(self.from(*wire)))
    }

    /// Feeds that lead to what hangs on `node`, nearest first, up to what sets its voltage; none where it sets it itself.
    pub fn leading_to(&self, node: Node) -> impl Iterator<Item = Wire> + '_ {
        let own = if node.passes() { Some(node) } else { None };
        own.into_iter().flat_map(|node| self.path_to_supply(node))
    }

    /// What sets the voltage of that which hangs on `node`: the source, or a converter.
    pub fn supply(&self, node: Node) -> Node {
        self.leading_to(node).last().map_or(node, |wire| self.from(wire))
    }

    /// Converters that feed what hangs on `node`, nearest first, up to the source.
    pub fn converters_above(&self, node: Node) -> impl Iterator<Item = &'a Converter> + '_ {
        let above = |supply: &Node| self.inlet(*supply).map(|wire| self.supply(self.from(wire)));
        std::iter::successors(Some(self.supply(node)), above).filter_map(|supply| match supply {
            Node::Converter(at) => Some(&self.build.converters[at]),
            _ => None,
        })
    }

    /// The fuse that a short in a feed flows through first on its way from the supply, nearest to it: its own, or one above.
    pub fn fuse_of(&self, wire: Wire) -> Option<&'a Fuse> {
        let own = self.feed(wire).feed.fuse.as_ref();
        own.or_else(|| self.leading_to(self.from(wire)).find_map(|above| self.feed(above).feed.fuse.as_ref()))
    }

    /// The feed itself.
    pub fn laid(&self, wire: Wire) -> &'a Feed {
        self.feed(wire).feed
    }
}
