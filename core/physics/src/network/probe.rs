//! The potential of any place in a solved network.

use super::*;

/// A place that a probe can touch. Feeds go by their place in [`Build::feeds`], parts by theirs in the document.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Terminal {
    /// The source.
    Source(Side),
    /// Where a feed leaves its supply.
    From(usize, Side),
    /// Where a feed arrives.
    To(usize, Side),
    /// The input of a converter.
    In(usize, Side),
    /// The output of a converter.
    Out(usize, Side),
    /// A rail of a strip or of pixels (of any other light: its terminals) at one of its taps, counted from its start.
    Rail(usize, usize, Side),
}

impl Network {
    /// Voltage of a place against the source's minus, V; `None` where there is no such place.
    pub fn potential(&self, solution: &Solution, at: Terminal) -> Option<f64> {
        let x = &solution.x;
        let Terminal::Rail(light, tap, side) = at else { return self.node_at(at).map(|node| voltage(x, node)) };
        Some(match *self.wiring.lights.get(light)?.spots.get(tap)? {
            Spot::Nodes(plus, minus) => voltage(x, if side == Side::Plus { plus } else { minus }),
            Spot::Cell(cell) => {
                let ladder = self.wiring.ladders.iter().find(|ladder| ladder.cells.contains(&cell))?;
                let (plus, minus) = ladder.potentials(x, cell);
                if side == Side::Plus { plus } else { minus }
            }
        })
    }

    /// The node of a place that has one of its own; taps inside a stretch of strip have none.
    pub(super) fn node_at(&self, at: Terminal) -> Option<Node> {
        let of = |pair: (Node, Node), side: Side| if side == Side::Plus { pair.0 } else { pair.1 };
        let ends = |feed: usize| self.wiring.conductors.get(2 * feed..2 * feed + 2);
        Some(match at {
            Terminal::Source(side) => of((self.wiring.source_plus, None), side),
            Terminal::From(feed, side) => of(ends(feed).map(|pair| (pair[0].from, self.wiring.supply_minus[feed]))?, side),
            Terminal::To(feed, side) => of(ends(feed).map(|pair| (pair[0].to, pair[1].from))?, side),
            Terminal::In(index, side) => of(self.wiring.converters.get(index).map(|net| (net.in_plus, net.minus))?, side),
            Terminal::Out(index, side) => of(self.wiring.converters.get(index).map(|net| (net.out_plus, net.minus))?, side),
            Terminal::Rail(light, tap, side) => match *self.wiring.lights.get(light)?.spots.get(tap)? {
                Spot::Nodes(plus, minus) => of((plus, minus), side),
                Spot::Cell(_) => return None,
            },
        })
    }

    /// Places of the taps along a light, m from its start; empty where it has no length.
    pub fn taps_at_m(&self, light: usize) -> impl Iterator<Item = f64> + '_ {
        let along = self.wiring.lights.get(light).map_or(&[][..], |light| &light.along);
        along.iter().filter(|here| matches!(here.item, Item::Tap(_))).map(|here| here.at_m)
    }
}
