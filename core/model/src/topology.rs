//! How the parts of a build hang together: one graph, so that no caller has to walk it.
//!
//! Power comes from the source. A junction and a small circuit pass on what they are fed; a converter makes a voltage of its
//! own, and is the supply of all that hangs on it; lights and controllers are where a way ends.

use crate::document::{Build, Consumer, Converter, ConverterKind, Feed, FeedRef, Fuse};
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
    /// The feeds that hang on a part, in order.
    hanging: HashMap<Node, Vec<Wire>>,
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
        let mut hanging: HashMap<Node, Vec<Wire>> = HashMap::new();
        for (at, feed) in feeds.iter().enumerate() {
            inlets.entry(Node::from(feed.consumer)).or_insert(Wire(at));
            hanging.entry(nodes.get(feed.feed.from.as_str()).copied().unwrap_or(Node::Source)).or_default().push(Wire(at));
        }
        Topology { build, feeds, nodes, inlets, hanging }
    }

    /// The build that it is the graph of.
    pub fn build(&self) -> &'a Build {
        self.build
    }

    /// The part of this id; `None`: there is none.
    pub fn node(&self, id: &str) -> Option<Node> {
        self.nodes.get(id).copied()
    }

    /// The id of a part, as feeds name it.
    pub fn id(&self, node: Node) -> &'a str {
        match node {
            Node::Source => "source",
            Node::Junction(at) => &self.build.junctions[at].id,
            Node::Converter(at) => &self.build.converters[at].id,
            Node::Circuit(at) => &self.build.circuits[at].id,
            Node::Controller(at) => &self.build.controllers[at].id,
            Node::Light(at) => &self.build.lights[at].id,
        }
    }

    /// The converter that a part is; `None`: it is something else.
    pub fn converter(&self, node: Node) -> Option<&'a Converter> {
        match node {
            Node::Converter(at) => Some(&self.build.converters[at]),
            _ => None,
        }
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
        self.start(self.laid(wire))
    }

    /// What a feed hangs on, or would, where it is only thought of.
    pub fn start(&self, feed: &Feed) -> Node {
        self.node(&feed.from).unwrap_or(Node::Source)
    }

    /// The feeds that hang on a part, in the order of [`Build::feeds`].
    pub fn hanging(&self, node: Node) -> &[Wire] {
        self.hanging.get(&node).map_or(&[], Vec::as_slice)
    }

    /// The feeds of one part: of a light that is fed at several places all of them.
    pub fn inlets(&self, node: Node) -> impl Iterator<Item = Wire> + '_ {
        self.wires().filter(move |wire| self.to(*wire) == node)
    }

    /// What a feed leads to.
    pub fn to(&self, wire: Wire) -> Node {
        self.feed(wire).consumer.into()
    }

    /// The feed of a part, of a light the first; the source has none.
    pub fn inlet(&self, node: Node) -> Option<Wire> {
        self.inlets.get(&node).copied()
    }

    /// The way from a part up: its feed, that of what the feed hangs on, and so on, past every part that `passes`.
    pub fn path(&self, node: Node, passes: impl Fn(Node) -> bool) -> impl Iterator<Item = Wire> {
        std::iter::successors(self.inlet(node), move |wire| self.past(self.from(*wire), &passes))
    }

    /// The feed of a part that passes something on.
    fn past(&self, node: Node, passes: impl Fn(Node) -> bool) -> Option<Wire> {
        if passes(node) { self.inlet(node) } else { None }
    }

    /// The way from a part up to what sets its voltage, through junctions and circuits.
    pub fn path_to_supply(&self, node: Node) -> impl Iterator<Item = Wire> {
        self.path(node, Node::passes)
    }

    /// The way from a part up to the source.
    pub fn path_to_source(&self, node: Node) -> impl Iterator<Item = Wire> {
        self.path(node, |_| true)
    }

    /// Feeds that lead to what hangs on `node`, nearest first, up to what sets its voltage; none where it sets it itself.
    pub fn leading_to(&self, node: Node) -> impl Iterator<Item = Wire> {
        self.leading(node, Node::passes)
    }

    /// Feeds that a short in what hangs on `node` flows through, nearest first, up to the source or what limits it. A step-up
    /// limits nothing: its diode lets the battery through.
    pub fn leading_a_short_to(&self, node: Node) -> impl Iterator<Item = Wire> {
        self.leading(node, |node| self.passes_short(node))
    }

    fn leading(&self, node: Node, passes: impl Fn(Node) -> bool) -> impl Iterator<Item = Wire> {
        std::iter::successors(self.past(node, &passes), move |wire| self.past(self.from(*wire), &passes))
    }

    /// Whether a short behind a part draws through it what its supply gives.
    pub fn passes_short(&self, node: Node) -> bool {
        node.passes() || self.converter(node).is_some_and(|one| one.kind() == ConverterKind::Boost)
    }

    /// The feeds that a fuse at the start of this one protects, this one first: through what passes a short the unfused ones
    /// below, up to lights and converter inputs.
    pub fn zone(&self, first: Wire) -> Vec<Wire> {
        let mut zone = vec![first];
        let mut next = 0;
        while let Some(wire) = zone.get(next) {
            let node = self.to(*wire);
            if self.passes_short(node) {
                zone.extend(self.hanging(node).iter().filter(|below| self.laid(**below).fuse.is_none()));
            }
            next += 1;
        }
        zone
    }

    /// Everything that hangs on a part, directly or through others, nearer parts first.
    pub fn below(&self, node: Node) -> Vec<Node> {
        let mut all: Vec<Node> = Vec::new();
        let mut next = Some(node);
        let mut at = 0;
        while let Some(above) = next {
            for wire in self.hanging(above) {
                let to = self.to(*wire);
                if !all.contains(&to) {
                    all.push(to);
                }
            }
            next = all.get(at).copied();
            at += 1;
        }
        all
    }

    /// What sets the voltage of that which hangs on `node`: the source, or a converter.
    pub fn supply(&self, node: Node) -> Node {
        self.leading_to(node).last().map_or(node, |wire| self.from(wire))
    }

    /// The id of what sets the voltage of a feed, or would, where the feed is only thought of.
    pub fn supplier(&self, feed: &Feed) -> &'a str {
        self.id(self.supply(self.start(feed)))
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

    /// Feeds with their ids.
    pub fn named(&self, wires: impl IntoIterator<Item = Wire>) -> Vec<FeedRef<'a>> {
        wires.into_iter().map(|wire| self.feed(wire).clone()).collect()
    }

    /// The feed itself.
    pub fn laid(&self, wire: Wire) -> &'a Feed {
        self.feed(wire).feed
    }
}
