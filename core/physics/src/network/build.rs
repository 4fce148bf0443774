//! From a document to nodes and elements.

use super::matrix::Pattern;
use super::*;
use crate::circuits::stand_ins;
use orthavis_model::document::{Build, Consumer, Converter, ConverterKind, FeedRef, Light, Load};
use orthavis_model::topology::Topology;
use std::collections::{HashMap, HashSet};

/// Two rail places with less than this between them are one node; a conductance of more than 1e6 S would drown
/// the currents in rounding, and a microvolt an ampere is nothing.
const SAME_PLACE_OHM: f64 = 1e-6;
/// A conductor of no length still separates its ends a little, or two of them side by side would share their
/// current in no defined way.
const LEAST_OHM: f64 = 1e-7;

#[derive(Default)]
struct Builder {
    places: Vec<String>,
    branches: usize,
    cells: usize,
    rails: Vec<(Node, Node, f64)>,
    taps: Vec<(Node, Node, std::ops::Range<usize>)>,
    sections: Vec<Section>,
}

/// A ladder before its unknowns have their final numbers.
struct Section {
    light: usize,
    left: Option<(Node, Node)>,
    right: Option<(Node, Node)>,
    first: usize,
    links: Vec<f64>,
    taps: Vec<std::ops::Range<usize>>,
}

/// A light with its nodes: where each feed joins, where each tap is, and which of `Builder::taps` are its own.
struct Placed {
    joins: Vec<(Node, Node)>,
    spots: Vec<Spot>,
    taps: std::ops::Range<usize>,
    /// Feeds by their number within the light.
    along: Vec<Along>,
}

impl Builder {
    fn node(&mut self, place: &str) -> Node {
        self.places.push(place.to_owned());
        Some(self.places.len() - 1)
    }

    fn branch(&mut self) -> usize {
        self.branches += 1;
        self.branches - 1
    }

    fn pair(&mut self, place: &str) -> (Node, Node) {
        (self.node(place), self.node(place))
    }

    fn light(&mut self, index: usize, light: &Light, cuts: &[&RailCut]) -> Placed {
        let first_tap = self.taps.len();
        let (step, ohm_per_m, count) = match &light.load {
            Load::Strip(strip) => (strip.segment_m, strip.rail_ohm_per_m, strip.segments()),
            Load::Pixels(pixels) => (pixels.pitch_m, pixels.rail_ohm_per_m, pixels.count),
            Load::LedArray(_) | Load::Module(_) => {
                let (plus, minus) = self.pair(&light.id);
                self.taps.push((plus, minus, 0..1));
                return Placed { joins: vec![(plus, minus)], spots: vec![Spot::Nodes(plus, minus)], taps: first_tap..first_tap + 1, along: Vec::new() };
            }
        };
        let feeds = light.feeds.iter().enumerate().map(|(index, feed)| (feed.at_m, Some(index)));
        let taps = (0..count).map(|index| ((f64::from(index) + 0.5) * step, None));
        let mut along: Vec<(f64, Option<usize>)> = feeds.chain(taps).collect();
        along.sort_by(|a, b| a.0.total_cmp(&b.0));

        let mut tap = 0..count as usize;
        let order = along.iter().filter_map(|&(at_m, feed)| Some(Along { at_m, item: feed.map(Item::Feed).or_else(|| tap.next().map(Item::Tap))? }));
        let order: Vec<Along> = order.collect();

        let mut joins = vec![(None, None); light.feeds.len()];
        let mut spots = Vec::with_capacity(count as usize);
        let mut section: Option<Section> = None;
        // Taps of the place before: a cut is in the stretch right after its tap.
        let mut previous = 0..0;
        let mut before = along.first().map_or(0.0, |first| first.0);
        let same = |a: f64, b: f64| (b - a) * ohm_per_m < SAME_PLACE_OHM;
        // What was cut are two places, however near.
        let cut_after = |taps: usize| cuts.iter().any(|cut| cut.tap + 1 == taps);
        for place in along.chunk_by({
            // Places are gathered from the first of each, so that many tiny steps do not become one.
            let (mut first, mut taps) = (before, 0);
            move |here, next| {
                taps += usize::from(here.1.is_none());
                let near = same(first, next.0) && !(here.1.is_none() && cut_after(taps));
                if !near {
                    first = next.0;
                }
                near
            }
        }) {
            let at = place[0].0;
            let siemens = 1.0 / ((at - before) * ohm_per_m);
            before = at;
            let fed: Vec<usize> = place.iter().filter_map(|(_, feed)| *feed).collect();
            let taps = place.len() - fed.len();
            let own = spots.len()..spots.len() + taps;
            let previous = std::mem::replace(&mut previous, own.clone());
            let beside_cut = cuts.iter().any(|cut| own.contains(&cut.tap) || own.contains(&(cut.tap + 1)));
            if fed.is_empty() && !beside_cut {
                let section =
                    section.get_or_insert_with(|| Section { light: index, left: None, right: None, first: self.cells, links: Vec::new(), taps: Vec::new() });
                section.links.push(if section.left.is_none() && section.taps.is_empty() { 0.0 } else { siemens });
                section.taps.push(spots.len()..spots.len() + taps);
                spots.extend(std::iter::repeat_n(Spot::Cell(self.cells), taps));
                self.cells += 1;
                continue;
            }
            let pair = self.pair(&light.id);
            for feed in fed {
                joins[feed] = pair;
            }
            match section.take() {
                Some(Section { left: Some((plus, minus)), taps, .. }) if taps.is_empty() => {
                    let ohm = (1.0 / siemens).max(if cuts.is_empty() { 0.0 } else { SAME_PLACE_OHM });
                    for (from, to, side) in [(plus, pair.0, Side::Plus), (minus, pair.1, Side::Minus)] {
                        let cut = cuts.iter().filter(|cut| cut.side == side && previous.contains(&cut.tap));
                        self.rails.push((from, to, 1.0 / (ohm + cut.map(|cut| cut.ohm).sum::<f64>())));
                    }
                }
                Some(mut before) => {
                    before.links.push(siemens);
                    before.right = Some(pair);
                    self.sections.push(before);
                }
                None => {}
            }
            section = Some(Section { light: index, left: Some(pair), right: None, first: self.cells, links: Vec::new(), taps: Vec::new() });
            if taps > 0 {
                self.taps.push((pair.0, pair.1, spots.len()..spots.len() + taps));
                spots.extend(std::iter::repeat_n(Spot::Nodes(pair.0, pair.1), taps));
            }
        }
        if let Some(mut last) = section.filter(|section| !section.taps.is_empty()) {
            last.links.push(0.0);
            self.sections.push(last);
        }
        Placed { joins, spots, taps: first_tap..self.taps.len(), along: order }
    }
}

fn quad(pattern: &mut Pattern, a: Node, b: Node) -> Quad {
    Quad { aa: pattern.entry(a, a), ab: pattern.entry(a, b), ba: pattern.entry(b, a), bb: pattern.entry(b, b) }
}

fn branch_stamp(pattern: &mut Pattern, from: Node, to: Node, branch: usize) -> BranchStamp {
    let i = Some(branch);
    BranchStamp {
        from_i: pattern.entry(from, i),
        to_i: pattern.entry(to, i),
        eq_from: pattern.entry(i, from),
        eq_to: pattern.entry(i, to),
        eq_i: pattern.entry(i, i),
    }
}

/// The strips at which several supplies meet.
fn meetings(build: &Build) -> Vec<Meeting> {
    let graph = Topology::of(build);
    let mut next = build.junctions.len() + build.converters.len();
    let mut found = Vec::new();
    for light in &build.lights {
        let feeds = next..next + light.feeds.len();
        next = feeds.end;
        let suppliers: HashSet<&str> = light.feeds.iter().map(|feed| graph.supplier(feed)).collect();
        if suppliers.len() > 1 {
            let converters = (0..build.converters.len()).filter(|index| suppliers.contains(build.converters[*index].id.as_str()));
            found.push(Meeting { feeds, converters: converters.collect() });
        }
    }
    found
}

/// A ladder once its unknowns have their final numbers.
fn ladder(pattern: &mut Pattern, section: Section, size: usize) -> Ladder {
    let nodes = [section.left, section.right].map(Option::unwrap_or_default);
    let ends = [nodes[0].0, nodes[0].1, nodes[1].0, nodes[1].1];
    let through = if section.left.is_some() && section.right.is_some() { 1.0 / section.links.iter().map(|g| 1.0 / g).sum::<f64>() } else { 0.0 };
    let first = size + section.first;
    let stamp = ends.map(|row| ends.map(|column| pattern.entry(row, column)));
    Ladder {
        light: section.light,
        left: section.left,
        right: section.right,
        cells: first..first + section.taps.len(),
        links: section.links,
        taps: section.taps,
        through,
        stamp,
    }
}

/// How many feeds lie between each part and the source.
fn depths<'a>(feeds: &'a [FeedRef<'a>]) -> HashMap<&'a str, usize> {
    let from: HashMap<&str, &str> =
        feeds.iter().filter(|feed| !matches!(feed.consumer, Consumer::Light(_))).map(|feed| (feed.id.as_str(), feed.feed.from.as_str())).collect();
    from.keys().map(|id| (*id, std::iter::successors(from.get(id), |above| from.get(**above)).count())).collect()
}

/// Entries of a converter between its terminals and its branch: in_plus, minus, out_plus, branch.
fn converter_stamp(pattern: &mut Pattern, columns: [Node; 4]) -> ConverterStamp {
    let [in_plus, minus, out_plus, branch] = columns;
    ConverterStamp {
        kcl: [in_plus, minus].map(|row| columns.map(|column| pattern.entry(row, column))),
        out_i: pattern.entry(out_plus, branch),
        eq: columns.map(|column| pattern.entry(branch, column)),
        leak: quad(pattern, out_plus, minus),
    }
}

/// The law of a load; `driven`: behind a current driver.
fn law(load: &Load, driven: bool) -> Law {
    match load {
        Load::LedArray(array) => Law::Strings {
            rows: vec![Row { string: DiodeString::of_array(array), count: f64::from(array.parallel) }],
            if_a: array.led.if_a,
            parallel: f64::from(array.parallel),
            driven,
        },
        Load::Strip(strip) => Law::Segments(DiodeString::of_segment(strip)),
        Load::Pixels(pixels) => Law::Pixels(pixels.clone()),
        Load::Module(module) => Law::Module(module.clone()),
    }
}

pub(super) fn network(build: &Build, cuts: &[RailCut], swapped: &[usize]) -> Result<Network, SolveError> {
    let mut b = Builder::default();
    let source_plus = b.node("source");
    let source_branch = b.branch();
    // What each supplier offers: plus and minus.
    let mut supply: HashMap<&str, (Node, Node)> = HashMap::from([("source", (source_plus, None))]);
    let mut inlets: HashMap<&str, (Node, Node)> = HashMap::new();
    for junction in &build.junctions {
        let pair = b.pair(&junction.id);
        supply.insert(&junction.id, pair);
        inlets.insert(&junction.id, pair);
    }
    // A small circuit passes on what it is fed, less its drop: as a converter without a setting.
    let parts: Vec<Converter> = build.converters.iter().cloned().chain(stand_ins(build)).collect();
    for converter in &parts {
        let (in_plus, minus) = b.pair(&converter.id);
        let out_plus = b.node(&converter.id);
        inlets.insert(&converter.id, (in_plus, minus));
        supply.insert(&converter.id, (out_plus, minus));
    }
    let placed: Vec<Placed> = (build.lights.iter().enumerate())
        .map(|(index, light)| b.light(index, light, &cuts.iter().filter(|cut| cut.light == index).collect::<Vec<_>>()))
        .collect();

    let feeds = build.feeds();
    let frame_ohm = build.vehicle.frame_return_ohm;
    let frame = if feeds.iter().any(|feed| feed.feed.by_frame(frame_ohm)) { b.node("frame") } else { None };
    let branches: Vec<_> = feeds.iter().map(|_| (b.branch(), b.branch())).collect();
    let outputs: Vec<_> = parts.iter().map(|_| b.branch()).collect();

    let nodes = b.places.len();
    let size = nodes + b.branches;
    let mut pattern = Pattern::default();
    let source_stamp = branch_stamp(&mut pattern, source_plus, None, nodes + source_branch);
    let (mut conductors, mut ohms, mut across, mut supply_minus) = (Vec::new(), Vec::new(), Vec::new(), Vec::new());
    for (index, (feed, (out, back))) in feeds.iter().zip(branches).enumerate() {
        let (plus, minus) = supply.get(feed.feed.from.as_str()).copied().unwrap_or_default();
        let (to_plus, to_minus) = match feed.consumer {
            Consumer::Junction(i) => inlets[build.junctions[i].id.as_str()],
            Consumer::Converter(i) => inlets[build.converters[i].id.as_str()],
            Consumer::Circuit(i) => inlets[build.circuits[i].id.as_str()],
            Consumer::Controller(i) => inlets[build.controllers[i].id.as_str()],
            Consumer::Light(i) => placed[i].joins[feed.number],
        };
        let (to_plus, to_minus) = if swapped.contains(&index) { (to_minus, to_plus) } else { (to_plus, to_minus) };
        // What goes back by the frame meets there, wherever it comes from.
        let (back_to, back_ohm) = if feed.feed.by_frame(frame_ohm) { (frame, 0.0) } else { (minus, feed.feed.back_ohm(frame_ohm)) };
        supply_minus.push(minus);
        for (from, to, branch, ohm) in [(plus, to_plus, out, feed.feed.out_ohm()), (to_minus, back_to, back, back_ohm)] {
            let branch = nodes + branch;
            ohms.push(ohm.max(LEAST_OHM));
            conductors.push(Conductor { from, to, branch, stamp: branch_stamp(&mut pattern, from, to, branch) });
        }
        across.push(quad(&mut pattern, to_plus, to_minus));
    }
    if frame.is_some() {
        b.rails.push((frame, None, 1.0 / frame_ohm.unwrap_or(0.0).max(LEAST_OHM)));
    }
    let rails = b.rails.iter().map(|&(x, y, siemens)| Rail { a: x, b: y, siemens, quad: quad(&mut pattern, x, y) }).collect();
    let taps = b.taps.iter().map(|(plus, minus, own)| Tap { plus: *plus, minus: *minus, own: own.clone(), quad: quad(&mut pattern, *plus, *minus) }).collect();
    let ladders = b.sections.into_iter().map(|section| ladder(&mut pattern, section, size)).collect();
    let meetings = meetings(build);
    let depths = depths(&feeds);
    let mut converters = Vec::new();
    for (index, (part, output)) in parts.iter().zip(outputs).enumerate() {
        let ((in_plus, minus), (out_plus, _)) = (inlets[part.id.as_str()], supply[part.id.as_str()]);
        let drives = (part.kind() == ConverterKind::CurrentDriver)
            .then(|| build.lights.iter().position(|light| light.feeds.iter().any(|feed| feed.from == part.id)))
            .flatten();
        converters.push(ConverterNet {
            id: part.id.clone(),
            in_plus,
            minus,
            out_plus,
            branch: nodes + output,
            drives,
            meets_another: meetings.iter().any(|meeting| meeting.converters.contains(&index)),
            depth: depths.get(part.id.as_str()).copied().unwrap_or(0),
            stamp: converter_stamp(&mut pattern, [in_plus, minus, out_plus, Some(nodes + output)]),
        });
    }
    let (mut lights, mut laws) = (Vec::new(), Vec::new());
    let mut first_feed = build.junctions.len() + build.converters.len();
    for (index, (light, placed)) in build.lights.iter().zip(placed).enumerate() {
        laws.push(law(&light.load, converters.iter().any(|net: &ConverterNet| net.drives == Some(index))));
        let cell = |spot: Spot| if let Spot::Cell(cell) = spot { Spot::Cell(size + cell) } else { spot };
        let spots = placed.spots.into_iter().map(cell).collect();
        let counted = |mut here: Along| {
            if let Item::Feed(number) = &mut here.item {
                *number += first_feed;
            }
            here
        };
        let along = placed.along.into_iter().map(counted).collect();
        first_feed += light.feeds.len();
        lights.push(LightNet { id: light.id.clone(), taps: placed.taps, spots, entry: placed.joins[0], along });
    }

    let not_ordered = |_| SolveError::NotConverged { place: "source".into() };
    let wiring = Wiring {
        size,
        nodes,
        cells: b.cells,
        source_plus,
        source_branch: nodes + source_branch,
        source_stamp,
        conductors,
        supply_minus,
        across,
        rails,
        taps,
        ladders,
        lights,
        converters,
        meetings,
        places: b.places,
        order: Arc::new(pattern.finish(size).map_err(not_ordered)?),
    };
    let given = Values { ohms, across: Vec::new(), injected: Vec::new(), converters: parts, laws };
    let work = Work::of(&wiring);
    Ok(Network { wiring: Arc::new(wiring), values: given.clone(), given: Arc::new(given), work })
}
