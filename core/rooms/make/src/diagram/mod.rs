//! The wiring diagram, laid out from the document. Power runs from left to right: each supplier stands in a column, each
//! light has a band of its own, so that a conductor meets nothing but the bars it crosses.
//!
//! A supplier's plus and its minus are each a bar beside it; every feed leaves the bar in its own band. Symbols after
//! IEC 60617: a fuse is a box with its wire through it, a switch an open lever, a plug a tip in a cup.

mod drawn;
mod svg;

pub use drawn::{Bar, BoxKind, Diagram, DrawnBox, DrawnWire, Page, Symbol, SymbolKind, Terminal, Text};

use crate::labels::set_to;
use orthavis_model::document::{Build, Consumer, FeedRef, Load, Return, Source};
use orthavis_model::topology::{Node, Topology, Wire};
use orthavis_model::working::{counted, plain};
use std::collections::{BTreeMap, BTreeSet};
use std::fmt::Write;

/// Height of a band: one feed's plus and minus with their names.
const BAND: f64 = 76.0;
/// Where plus and minus run within their band.
const PLUS_Y: f64 = 26.0;
const MINUS_Y: f64 = 50.0;
const BOX_W: f64 = 176.0;
/// Between a box and its first bar, and between bars.
const BAR: f64 = 14.0;
/// Room for one symbol along a wire.
const SYMBOL: f64 = 44.0;
const MARGIN: f64 = 20.0;
/// Text: height and the width of one letter.
const TEXT: f64 = 11.0;
const LETTER: f64 = 6.4;
/// Radius of a jump over a crossing.
const JUMP: f64 = 4.0;

/// A part in its place.
struct Placed {
    column: usize,
    band: usize,
    /// How many bands its box takes.
    bands: usize,
}

struct Layout<'a> {
    build: &'a Build,
    graph: Topology<'a>,
    feeds: Vec<FeedRef<'a>>,
    /// Consumer of each feed, by id.
    consumer: Vec<String>,
    placed: BTreeMap<String, Placed>,
    /// Band of each feed.
    band: Vec<usize>,
    bands: usize,
}

impl<'a> Layout<'a> {
    fn of(build: &'a Build) -> Self {
        let (graph, feeds) = (Topology::of(build), build.feeds());
        let consumer = feeds.iter().map(|feed| feed.consumer_id(build).to_owned()).collect();
        let band = vec![0; feeds.len()];
        let mut layout = Layout { build, graph, feeds, consumer, placed: BTreeMap::new(), band, bands: 0 };
        layout.place("source", 0);
        layout.bands = layout.bands.max(1);
        layout
    }

    /// Puts a supplier and all that hangs on it, its first consumer beside it.
    fn place(&mut self, id: &str, column: usize) {
        let first = self.bands;
        self.placed.insert(id.to_owned(), Placed { column, band: first, bands: 1 });
        // Lights first: what is short stays near, and what branches on goes below.
        let mut own: Vec<usize> = (0..self.feeds.len()).filter(|index| self.feeds[*index].feed.from == id).collect();
        own.sort_by_key(|index| !matches!(self.feeds[*index].consumer, Consumer::Light(_)));
        for index in own {
            let consumer = self.consumer[index].clone();
            if let Consumer::Light(light) = self.feeds[index].consumer {
                if let Some(known) = self.placed.get(&consumer) {
                    // A further feed of a light that is there already: its own band of the light's box.
                    self.band[index] = known.band + self.feeds[index].number.min(known.bands - 1);
                    continue;
                }
                let bands = self.build.lights[light].feeds.len();
                let column = self.column_of(light).max(column + 1);
                self.band[index] = self.bands + self.feeds[index].number;
                self.placed.insert(consumer, Placed { column, band: self.bands, bands });
                self.bands += bands;
            } else {
                self.band[index] = self.bands;
                self.place(&consumer, column + 1);
            }
        }
        if self.bands == first {
            self.bands += 1;
        }
    }

    /// A light stands right of everything that feeds it.
    fn column_of(&self, light: usize) -> usize {
        let depth = |wire: Wire| 1 + self.graph.path_to_source(self.graph.from(wire)).count();
        self.graph.inlets(Node::Light(light)).map(depth).max().unwrap_or(1)
    }
}

fn written(text: &str) -> f64 {
    LETTER * text.chars().count() as f64
}

/// What is said of a conductor at its ends.
fn named(feed: &FeedRef<'_>, plus: bool) -> String {
    let own = feed.feed;
    if !plus {
        return format!("{} −", feed.id);
    }
    let rated = own.fuse.as_ref().map_or_else(String::new, |fuse| format!(", {}", plain(fuse.rating_a, "A")));
    format!("{} + {}, {:.2} m{rated}", feed.id, own.gauge.name(), own.length_m)
}

/// Where columns and bars are.
struct Grid {
    /// Left of each column.
    left: Vec<f64>,
    /// Suppliers in each column.
    suppliers: Vec<Vec<String>>,
    /// Each supplier's plus and minus.
    bar_x: BTreeMap<(String, bool), f64>,
    /// Room for the name of a wire.
    text_w: f64,
}

impl Grid {
    /// Each gap holds its bars, the names of its wires twice, and what sits in them.
    fn of(layout: &Layout<'_>) -> Self {
        let columns = layout.placed.values().map(|one| one.column).max().unwrap_or(0) + 1;
        let feeding: BTreeSet<&str> = layout.feeds.iter().map(|feed| feed.feed.from.as_str()).collect();
        let mut suppliers: Vec<Vec<String>> = vec![Vec::new(); columns];
        for (id, one) in layout.placed.iter().filter(|(id, _)| feeding.contains(id.as_str())) {
            suppliers[one.column].push(id.clone());
        }
        let text_w = layout.feeds.iter().map(|feed| written(&named(feed, true))).fold(60.0, f64::max);
        let most_symbols = layout.feeds.iter().map(|feed| symbols_of(feed).len()).max().unwrap_or(0);
        let wire_w = 2.0 * text_w + SYMBOL * most_symbols as f64 + 3.0 * BAR;
        let mut grid = Grid { left: vec![MARGIN], suppliers, bar_x: BTreeMap::new(), text_w };
        for column in 0..columns {
            let gap = grid.clear(column) - grid.left[column] - BOX_W;
            grid.left.push(grid.left[column] + BOX_W + if column + 1 < columns { gap + wire_w } else { 0.0 });
            // Minus is the bar nearer to its supplier: plus then leaves the box without meeting it.
            for (number, id) in grid.suppliers[column].iter().enumerate() {
                let first = grid.left[column] + BOX_W + BAR * (2 * number + 1) as f64;
                grid.bar_x.insert((id.clone(), false), first);
                grid.bar_x.insert((id.clone(), true), first + BAR);
            }
        }
        grid
    }

    /// Right of every bar of a column's gap.
    fn clear(&self, column: usize) -> f64 {
        self.left[column] + BOX_W + BAR * (2 * self.suppliers[column].len() + 1) as f64
    }

    /// Right of the last column.
    fn right(&self) -> f64 {
        self.left[self.suppliers.len() - 1] + BOX_W
    }
}

/// Top of a band.
fn top_of(band: usize) -> f64 {
    MARGIN + BAND * band as f64
}

/// Lays the diagram out.
pub fn diagram(build: &Build) -> Diagram {
    let layout = Layout::of(build);
    let grid = Grid::of(&layout);
    let mut out = Diagram {
        width: grid.right() + MARGIN,
        height: top_of(layout.bands) + MARGIN,
        boxes: Vec::new(),
        bars: Vec::new(),
        wires: Vec::new(),
        symbols: Vec::new(),
        texts: Vec::new(),
        crossings: 0,
        pages: Vec::new(),
    };
    for (id, placed) in &layout.placed {
        out.boxes.push(boxed(build, &layout, id, placed, grid.left[placed.column], top_of(placed.band)));
    }
    bars(&mut out, &layout, &grid);
    for index in 0..layout.feeds.len() {
        for plus in [true, false] {
            wire(&mut out, &layout, &grid, index, plus);
        }
    }
    jump(&mut out);
    out.pages = pages(&layout, &grid.left, &out);
    out
}

/// What the feeds of each supplier leave from.
fn bars(out: &mut Diagram, layout: &Layout<'_>, grid: &Grid) {
    for ((id, plus), x) in &grid.bar_x {
        let placed = &layout.placed[id];
        let line = if *plus { PLUS_Y } else { MINUS_Y };
        let start = top_of(placed.band) + line;
        let leaves: Vec<f64> = (0..layout.feeds.len())
            .filter(|index| layout.feeds[*index].feed.from == *id && (*plus || layout.feeds[*index].feed.return_path == Return::Wire))
            .map(|index| top_of(layout.band[index]) + line)
            .collect();
        let (low, high) = leaves.iter().fold((start, start), |(low, high), at| (low.min(*at), high.max(*at)));
        if !leaves.is_empty() {
            out.bars.push(Bar {
                of: id.clone(),
                plus: *plus,
                points: vec![[grid.left[placed.column] + BOX_W, start], [*x, start], [*x, low], [*x, high]],
                dots: leaves.iter().filter(|_| leaves.len() > 1).map(|at| [*x, *at]).collect(),
            });
        }
    }
}

/// One conductor of a feed, with its name and what sits in it.
fn wire(out: &mut Diagram, layout: &Layout<'_>, grid: &Grid, index: usize, plus: bool) {
    let feed = &layout.feeds[index];
    let own = feed.feed;
    let end = grid.left[layout.placed[&layout.consumer[index]].column];
    let line = top_of(layout.band[index]) + if plus { PLUS_Y } else { MINUS_Y };
    let colour = if plus { own.plus_colour.clone().unwrap_or_else(|| "red".into()) } else { own.minus_colour.clone().unwrap_or_else(|| "black".into()) };
    if !plus && own.return_path == Return::Frame {
        // The frame brings it back: a short wire to it at the consumer.
        let from = end - 2.0 * BAR;
        out.wires.push(DrawnWire { feed: feed.id.clone(), plus, colour, points: vec![[from, line], [end, line]], jumps: Vec::new() });
        out.symbols.push(Symbol { kind: SymbolKind::Frame, feed: feed.id.clone(), x: from, y: line });
        return;
    }
    let Some(start) = grid.bar_x.get(&(own.from.clone(), plus)).copied() else { return };
    out.wires.push(DrawnWire { feed: feed.id.clone(), plus, colour, points: vec![[start, line], [end, line]], jumps: Vec::new() });
    let text = named(feed, plus);
    let w = written(&text);
    let top = if plus { line - TEXT - 5.0 } else { line + 4.0 };
    // Right of every bar of its gap, and just before its consumer.
    let column = layout.placed[&own.from].column;
    let clear = grid.clear(column);
    let mut say = |x: f64| out.texts.push(Text { feed: feed.id.clone(), text: text.clone(), x, y: top, w, h: TEXT });
    say(clear);
    if end - BAR - w > clear + w + BAR {
        say(end - BAR - w);
    }
    if plus {
        for (number, kind) in symbols_of(feed).into_iter().enumerate() {
            let x = clear + grid.text_w + BAR + SYMBOL * (number as f64 + 0.5);
            out.symbols.push(Symbol { kind, feed: feed.id.clone(), x, y: line });
        }
    }
}

/// Air around what a page shows.
const EDGE: f64 = 12.0;

fn pages(layout: &Layout<'_>, left: &[f64], drawn: &Diagram) -> Vec<Page> {
    let mut suppliers: Vec<&DrawnBox> = drawn.boxes.iter().filter(|one| drawn.bars.iter().any(|bar| bar.of == one.id)).collect();
    suppliers.sort_by(|a, b| a.x.total_cmp(&b.x).then(a.y.total_cmp(&b.y)));
    let feeds = |id: &str| {
        (0..layout.feeds.len()).filter(|index| layout.feeds[*index].feed.from == id).map(|index| layout.consumer[index].clone()).collect::<BTreeSet<_>>()
    };
    let page = |one: &&DrawnBox| {
        let lines = || drawn.bars.iter().filter(|bar| bar.of == one.id).flat_map(|bar| bar.points.iter().map(|point| point[1]));
        let next = layout.placed[&one.id].column + 1;
        Page {
            of: one.id.clone(),
            left: one.x - EDGE,
            right: left[next.min(left.len() - 1)] + one.w + EDGE,
            top: lines().map(|y| y - 2.0 * EDGE).fold(one.y, f64::min) - EDGE / 2.0,
            bottom: lines().map(|y| y + 2.0 * EDGE).fold(one.y + one.h, f64::max) + EDGE,
            goes_on: feeds(&one.id).into_iter().filter(|id| suppliers.iter().any(|other| other.id == *id)).collect(),
        }
    };
    suppliers.iter().map(page).collect()
}

/// The connections as a graph (the DOT language): a line for each feed.
pub fn dot(build: &Build) -> String {
    let quoted = |text: &str| format!("\"{}\"", text.replace('\\', "\\\\").replace('"', "\\\""));
    let mut out = format!("digraph {} {{\n  rankdir=LR;\n", quoted(&build.name));
    for feed in build.feeds() {
        let label = format!("{} {} {:.2} m", feed.id, feed.feed.gauge.name(), feed.feed.length_m);
        // Writing into a string does not fail.
        let _ = writeln!(out, "  {} -> {} [label={}];", quoted(&feed.feed.from), quoted(feed.consumer_id(build)), quoted(&label));
    }
    out + "}\n"
}

fn symbols_of(feed: &FeedRef<'_>) -> Vec<SymbolKind> {
    let own = feed.feed;
    let there = [(own.fuse.is_some(), SymbolKind::Fuse), (own.switch.is_some(), SymbolKind::Switch), (own.contacts > 0, SymbolKind::Plug)];
    there.into_iter().filter_map(|(there, kind)| there.then_some(kind)).collect()
}

fn boxed(build: &Build, layout: &Layout<'_>, id: &str, placed: &Placed, x: f64, top: f64) -> DrawnBox {
    let h = BAND * placed.bands as f64 - 12.0;
    let at =
        |name: &'static str, right: bool, line: f64, band: usize| Terminal { name, x: if right { x + BOX_W } else { x }, y: top + BAND * band as f64 + line };
    let feeds_on = layout.feeds.iter().any(|feed| feed.feed.from == id);
    let (kind, mut lines, terminals) = if id == "source" {
        let words = match &build.source {
            Source::Battery(battery) => format!("{}|{} in a row, {} beside", battery.chemistry.called(), battery.series, battery.parallel),
            Source::Rail(rail) => format!("rail {} V", rail.voltage_v),
            Source::Track(track) => format!("{} {} V", track.wave.called(), track.voltage_v),
        };
        (BoxKind::Source, words.split('|').map(str::to_owned).collect(), vec![at("+", true, PLUS_Y, 0), at("−", true, MINUS_Y, 0)])
    } else if let Some(part) = build.converters.iter().find(|part| part.id == id) {
        let set = format!("{} {}", part.kind().called(), set_to(part));
        let mut terminals = vec![at("IN+", false, PLUS_Y, 0), at("IN−", false, MINUS_Y, 0)];
        terminals.extend([at("OUT+", true, PLUS_Y, 0), at("OUT−", true, MINUS_Y, 0)]);
        (BoxKind::Converter, vec![set], terminals)
    } else if build.junctions.iter().any(|part| part.id == id) {
        let mut terminals = vec![at("+", false, PLUS_Y, 0), at("−", false, MINUS_Y, 0)];
        if feeds_on {
            terminals.extend([at("+", true, PLUS_Y, 0), at("−", true, MINUS_Y, 0)]);
        }
        (BoxKind::Junction, vec!["junction".into()], terminals)
    } else if let Some(part) = build.circuits.iter().find(|part| part.id == id) {
        let mut terminals = vec![at("IN+", false, PLUS_Y, 0), at("IN−", false, MINUS_Y, 0)];
        if feeds_on {
            terminals.extend([at("OUT+", true, PLUS_Y, 0), at("OUT−", true, MINUS_Y, 0)]);
        }
        (BoxKind::Circuit, vec![part.kind().called().to_owned()], terminals)
    } else if let Some(part) = build.controllers.iter().find(|part| part.id == id) {
        let terminals = vec![at("IN+", false, PLUS_Y, 0), at("IN−", false, MINUS_Y, 0)];
        (BoxKind::Controller, vec![part.kind.called().to_owned()], terminals)
    } else {
        let light = build.lights.iter().find(|light| light.id == id);
        let words = light.map_or_else(String::new, |light| match &light.load {
            Load::LedArray(array) => format!("{} × {}, {}", array.parallel, counted(array.series, "LED"), array.led.colour),
            Load::Strip(strip) => format!("strip {} V, {:.2} m", strip.voltage_v, strip.length_m),
            Load::Pixels(pixels) => format!("{}, {} V", counted(pixels.count, "pixel"), pixels.voltage_v),
            Load::Module(module) => format!("{} V {} W", module.voltage_v, module.power_w),
        });
        let mut terminals: Vec<Terminal> = (0..placed.bands).flat_map(|band| [at("+", false, PLUS_Y, band), at("−", false, MINUS_Y, band)]).collect();
        if light.is_some_and(|light| matches!(light.load, Load::Pixels(_))) {
            terminals.push(Terminal { name: "DIN", x: x + BOX_W / 2.0, y: top + h });
        }
        let resistor =
            light.and_then(|light| if let Load::LedArray(array) = &light.load { Some(array) } else { None }).filter(|array| array.resistor_ohm > 0.0);
        let resistor = resistor.map(|array| format!("{}{}", plain(array.resistor_ohm, "Ω"), if array.parallel > 1 { " in each row" } else { "" }));
        (BoxKind::Light, std::iter::once(words).chain(resistor).collect(), terminals)
    };
    lines.insert(0, if id == "source" { build.source.called().into() } else { id.to_owned() });
    // Nothing is written beyond its box.
    let most = ((BOX_W - if kind == BoxKind::Source { 26.0 } else { 46.0 }) / LETTER) as usize;
    for line in &mut lines {
        if line.chars().count() > most {
            *line = line.chars().take(most - 1).chain(['…']).collect();
        }
    }
    DrawnBox { id: id.to_owned(), kind, lines, x, y: top, w: BOX_W, h, terminals }
}

/// Where a conductor runs across a bar that is not its own it jumps.
fn jump(out: &mut Diagram) {
    let bars: Vec<(String, bool, f64, f64, f64)> =
        out.bars.iter().map(|bar| (bar.of.clone(), bar.plus, bar.points[1][0], bar.points[2][1], bar.points[3][1])).collect();
    for wire in &mut out.wires {
        let ([x0, y], [x1, _]) = (wire.points[0], wire.points[1]);
        wire.jumps =
            bars.iter().filter(|(.., x, low, high)| *x > x0 + 0.5 && *x < x1 && *low < y - 0.5 && *high > y + 0.5).map(|(.., x, _, _)| [*x, y]).collect();
        wire.jumps.sort_by(|a, b| a[0].total_cmp(&b[0]));
        out.crossings += wire.jumps.len();
    }
}
