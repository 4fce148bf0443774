//! What goes into which cavity: boxes turned in six ways, with air between them and room for their wires to bend.
//!
//! Every box is pushed as far left, front and down as it goes, so each of its corners is a sum of others' sides. A few
//! boxes are tried at every such sum, which finds a way wherever there is one; more of them only beside those that are
//! placed already, in several orders, which is quick and nearly as good.

use crate::parts::like_converter;
use orthavis_model::document::{Build, Feed, Inside, Part, SmallCircuit, Space, What};
use orthavis_model::parts::library;
use orthavis_physics::points::PointReport;
use serde::Serialize;

/// Air between two parts, and between a part and a wall, mm.
pub const GAP_MM: f64 = 1.0;
/// The same about a hot part, mm.
pub const HOT_GAP_MM: f64 = 5.0;
/// A surface above this is hot, °C.
pub const HOT_C: f64 = 60.0;
/// Room that a wire takes to turn, in its diameters.
pub const BEND: f64 = 6.0;
/// Air around a part that stands free, °C.
const AIR_C: f64 = 25.0;
/// Heat that a surface gives to still air, W/(m² K): representative, convection and radiation together.
const SURFACE_W: f64 = 10.0;
/// Up to so many parts every place is tried.
const EVERY: usize = 4;
/// Comparisons of two boxes that one search may take.
const MOST_WORK: usize = 6_000_000;

/// A box of the size of a part, to be put somewhere.
#[derive(Clone, Debug, PartialEq)]
pub struct Item {
    /// Length, width, height with the room that its wires take, mm.
    pub room_mm: [f64; 3],
    /// Air around it, mm.
    pub gap_mm: f64,
    /// Cavities that it may go into.
    pub into: Vec<usize>,
}

/// Where a box is.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Spot {
    /// Which cavity.
    pub space: usize,
    /// Which of its sides lie along the cavity's length, width and height.
    pub turn: [usize; 3],
    /// Its corner nearest to the cavity's own, mm.
    pub at_mm: [f64; 3],
}

/// A part in its cavity.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Housed {
    /// The part.
    pub part: String,
    /// The cavity.
    pub space: String,
    /// Corner of the part itself nearest to that of the cavity, mm.
    pub at_mm: [f64; 3],
    /// Its sides as it lies, mm.
    pub size_mm: [f64; 3],
    /// Corner of the room that it takes with its wires, mm.
    pub room_at_mm: [f64; 3],
    /// Sides of that room, mm.
    pub room_mm: [f64; 3],
    /// How warm it gets there at worst, °C.
    pub surface_c: f64,
    /// Whether it is kept at a distance as hot.
    pub hot: bool,
}

/// A part that goes nowhere.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LeftOut {
    /// The part.
    pub part: String,
    /// Why, in words.
    pub why: String,
    /// By how much it does not fit where it would come nearest, mm; `null`: no size would help.
    pub over_mm: Option<f64>,
    /// Where that is.
    pub space: Option<String>,
}

/// A cavity with what is known of it.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Cavity {
    /// Its id.
    pub id: String,
    /// Length, width, height, mm.
    pub size_mm: [f64; 3],
    /// Whether cells are beside it.
    pub cells: bool,
    /// Share of it that parts take up, their wires' room counted.
    pub filled: f64,
    /// How warm the air in it gets at worst, °C.
    pub air_c: f64,
}

/// What goes where.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Fit {
    /// The cavities.
    pub spaces: Vec<Cavity>,
    /// Parts that have a place.
    pub placed: Vec<Housed>,
    /// Parts that have none.
    pub left: Vec<LeftOut>,
    /// Parts whose size is not known.
    pub unsized_parts: Vec<String>,
    /// Whether no way puts more of them in.
    pub certain: bool,
}

/// A part with what its box follows from.
struct Thing {
    id: String,
    /// The part of the document that it belongs to.
    owner: String,
    bare: [f64; 3],
    /// Room for wires at the near and the far end of its length, mm.
    bends: [f64; 2],
    heat_w: f64,
    hot: bool,
}

impl Thing {
    fn room(&self) -> [f64; 3] {
        [self.bare[0] + self.bends[0] + self.bends[1], self.bare[1], self.bare[2]]
    }
}

/// Surface of a box, m².
fn surface_m2([l, w, h]: [f64; 3]) -> f64 {
    2e-6 * (l * w + l * h + w * h)
}

fn bend<'a>(feeds: impl Iterator<Item = &'a Feed>) -> f64 {
    feeds.map(|feed| BEND * feed.gauge.outer_mm()).fold(0.0, f64::max)
}

/// Length, width and height that a part usually has, mm.
pub fn usual_size(build: &Build, id: &str) -> Option<[f64; 3]> {
    if let Some(part) = build.converters.iter().find(|part| part.id == id) {
        return like_converter(part)?.size_mm;
    }
    if build.junctions.iter().any(|part| part.id == id) {
        // Plus and minus each a row of terminals, three wires to one.
        let wires = 1 + build.feeds().iter().filter(|feed| feed.feed.from == id).count();
        let terminal = library().iter().find(|part: &&Part| matches!(part.what, What::Connector { poles: 1, .. }) && part.id.starts_with("block-lever"))?;
        let [l, w, h] = terminal.size_mm?;
        return Some([l, 2.0 * w * wires.div_ceil(3) as f64, h]);
    }
    None
}

/// What a cell of electrolytic takes, mm³ for a farad-volt to the power of [`CV_POWER`], and twice as long as wide:
/// representative, 6 × 12 mm at 100 µF 25 V, 10 × 20 mm at 1000 µF 25 V.
const CV_MM3: f64 = 4.6e4;
const CV_POWER: f64 = 0.85;
/// A capacitor below this is as small as the parts beside it, F.
const LARGE_F: f64 = 47e-6;
/// A round bridge rectifier of 1 A; half of what is soldered besides on a strip of perforated board, with one more row of
/// holes for each light that it drives, mm.
const BRIDGE_MM: [f64; 3] = [9.0, 9.0, 7.0];
const STRIP_MM: [f64; 3] = [18.0, 10.0, 7.0];
/// Two capacitors of half the value do what one does, and find room where it does not.
const HALVES: usize = 2;

/// The parts of a small circuit one by one, each in its own sleeve.
fn pieces(circuit: &SmallCircuit) -> Vec<(&'static str, [f64; 3])> {
    let (parts, held) = (&circuit.parts, circuit.hold_up());
    let mut all = Vec::new();
    for farad in parts.capacitors().into_iter().filter(|farad| *farad >= LARGE_F) {
        let half = CV_MM3 * (farad / HALVES as f64 * held.and_then(|parts| parts.c_rated_v).unwrap_or(25.0)).powf(CV_POWER);
        let wide = (0.5 * half).cbrt();
        all.extend([("a capacitor of half the value", [2.0 * wide, wide, wide]); HALVES]);
    }
    if held.is_some_and(|parts| parts.bridge) {
        all.push(("the bridge rectifier", BRIDGE_MM));
    }
    all.push(("the rest of it", [STRIP_MM[0] + 2.54 * circuit.drives.len() as f64, STRIP_MM[1], STRIP_MM[2]]));
    all
}

/// Boxes of everything that goes inside, small circuits `apart` in their pieces, and the parts whose size is not known.
fn things(build: &Build, points: &[PointReport], apart: &[String]) -> (Vec<Thing>, Vec<String>) {
    let feeds = build.feeds();
    let make = build.make.as_ref();
    let below = |id: &str| bend(feeds.iter().filter(|feed| feed.feed.from == id).map(|feed| feed.feed));
    let above = |id: &str| bend(feeds.iter().filter(|feed| feed.id.split('#').next() == Some(id)).map(|feed| feed.feed));
    let heat = |id: &str| {
        let of = |point: &PointReport| {
            let converter = point.converters.get(id).map(|part| part.loss_w);
            converter.or_else(|| point.lights.get(id).map(|light| light.power_w)).unwrap_or(0.0)
        };
        points.iter().map(of).fold(0.0, f64::max)
    };
    let parts = build.converters.iter().map(|part| (&part.id, true)).chain(build.junctions.iter().map(|part| (&part.id, true)));
    let parts = parts.chain(build.circuits.iter().map(|part| (&part.id, true))).chain(build.controllers.iter().map(|part| (&part.id, true)));
    let (mut found, mut unknown) = (Vec::new(), Vec::new());
    for (id, usually) in parts.chain(build.lights.iter().map(|light| (&light.id, false))) {
        let said = make.and_then(|make| make.inside(id));
        let outside = said.is_some_and(|said| said.space.as_deref() == Some(Inside::OUTSIDE));
        if outside || (!usually && said.is_none()) {
            continue;
        }
        let circuit = build.circuits.iter().find(|circuit| circuit.id == *id);
        let block = said.and_then(|said| said.size_mm).or_else(|| usual_size(build, id));
        if let Some(circuit) = circuit.filter(|_| block.is_none() || apart.contains(id)) {
            let named = pieces(circuit).into_iter().enumerate().map(|(number, (name, bare))| Thing {
                id: format!("{id}, {name}{}", if name.starts_with("a ") { format!(" ({})", number + 1) } else { String::new() }),
                owner: id.clone(),
                bare,
                bends: [above(id), 0.0],
                heat_w: 0.0,
                hot: false,
            });
            found.extend(named);
            continue;
        }
        let Some(bare) = block else {
            unknown.push(id.clone());
            continue;
        };
        let heat_w = heat(id);
        let bends = if build.junctions.iter().any(|part| part.id == *id) { [above(id).max(below(id)), 0.0] } else { [above(id), below(id)] };
        found.push(Thing { id: id.clone(), owner: id.clone(), bare, bends, heat_w, hot: AIR_C + heat_w / (SURFACE_W * surface_m2(bare)) > HOT_C });
    }
    (found, unknown)
}

/// By how much a box is too large for the best of a cavity's openings, mm; 0 where it goes through.
fn stuck(bare: [f64; 3], space: &Space) -> f64 {
    let mut sides = bare;
    sides.sort_by(f64::total_cmp);
    let ways = space.openings.iter().map(|way| {
        let (narrow, wide) = (way.width_mm.min(way.height_mm), way.width_mm.max(way.height_mm));
        (sides[0] - narrow).max(sides[1] - wide).max(0.0)
    });
    ways.min_by(f64::total_cmp).unwrap_or(0.0)
}

/// Which parts go into which cavity; `points` are the build solved, for the heat of its parts. A small circuit that goes
/// nowhere as a block is taken apart, where its pieces all find a place.
pub fn fit(build: &Build, points: &[PointReport]) -> Fit {
    let mut best = fitted(build, points, &[]);
    let mut apart = Vec::new();
    for circuit in &build.circuits {
        if best.left.iter().any(|left| left.part == circuit.id) {
            apart.push(circuit.id.clone());
            let tried = fitted(build, points, &apart);
            if tried.left.len() < best.left.len() {
                best = tried;
            } else {
                apart.pop();
            }
        }
    }
    best
}

fn fitted(build: &Build, points: &[PointReport], apart: &[String]) -> Fit {
    let spaces: &[Space] = build.make.as_ref().map_or(&[], |make| &make.spaces);
    let (things, unsized_parts) = if spaces.is_empty() { (Vec::new(), Vec::new()) } else { things(build, points, apart) };
    let wanted = |thing: &Thing| build.make.as_ref().and_then(|make| make.inside(&thing.owner)).and_then(|said| said.space.clone());
    let items: Vec<Item> = (things.iter())
        .map(|thing| {
            let named = wanted(thing);
            let may = |space: &Space| named.as_ref().is_none_or(|named| *named == space.id) && !(thing.hot && space.cells) && stuck(thing.bare, space) == 0.0;
            let into = (0..spaces.len()).filter(|at| may(&spaces[*at])).collect();
            Item { room_mm: thing.room(), gap_mm: if thing.hot { HOT_GAP_MM } else { GAP_MM }, into }
        })
        .collect();
    let sizes: Vec<[f64; 3]> = spaces.iter().map(|space| space.size_mm).collect();
    let (spots, certain) = pack(&sizes, &items);

    let mut cavities: Vec<Cavity> = Vec::new();
    for (at, space) in spaces.iter().enumerate() {
        let own: Vec<&Thing> = things.iter().zip(&spots).filter(|(_, spot)| spot.is_some_and(|spot| spot.space == at)).map(|(thing, _)| thing).collect();
        let filled: f64 = own.iter().map(|thing| thing.room().iter().product::<f64>()).sum();
        // Inner and outer face of the wall one after the other: half of what a free surface gives.
        let air_c = AIR_C + own.iter().map(|thing| thing.heat_w).sum::<f64>() / (0.5 * SURFACE_W * surface_m2(space.size_mm));
        let filled = filled / space.size_mm.iter().product::<f64>();
        cavities.push(Cavity { id: space.id.clone(), size_mm: space.size_mm, cells: space.cells, filled, air_c });
    }
    let mut placed = Vec::new();
    let mut left = Vec::new();
    for (index, thing) in things.iter().enumerate() {
        let Some(spot) = spots[index] else {
            left.push(left_out(thing, &items[index], index, spaces, &items, &spots, wanted(thing).as_deref()));
            continue;
        };
        let turned = |sides: [f64; 3]| spot.turn.map(|side| sides[side]);
        let along = spot.turn.map(|side| if side == 0 { thing.bends[0] } else { 0.0 });
        let cavity = &cavities[spot.space];
        placed.push(Housed {
            part: thing.id.clone(),
            space: cavity.id.clone(),
            at_mm: [0, 1, 2].map(|axis| spot.at_mm[axis] + along[axis]),
            size_mm: turned(thing.bare),
            room_at_mm: spot.at_mm,
            room_mm: turned(thing.room()),
            surface_c: cavity.air_c + thing.heat_w / (SURFACE_W * surface_m2(thing.bare)),
            hot: thing.hot,
        });
    }
    Fit { spaces: cavities, placed, left, unsized_parts, certain }
}

/// Why a part has no place, and how near it comes to one.
fn left_out(thing: &Thing, item: &Item, index: usize, spaces: &[Space], items: &[Item], spots: &[Option<Spot>], named: Option<&str>) -> LeftOut {
    let part = thing.id.clone();
    let considered = || spaces.iter().enumerate().filter(|(_, space)| named.is_none_or(|named| named == space.id));
    let sizes: Vec<[f64; 3]> = spaces.iter().map(|space| space.size_mm).collect();
    let nearest = item.into.iter().map(|space| (nearest(&sizes, items, spots, index, *space), *space)).min_by(|a, b| a.0.0.total_cmp(&b.0.0));
    if let Some(((over, axis), space)) = nearest {
        let space = &spaces[space];
        let side = ["short", "narrow", "low"][axis];
        let why = format!("`{}` is {over:.1} mm too {side} for it beside what is in there", space.id);
        return LeftOut { part, why, over_mm: Some(over), space: Some(space.id.clone()) };
    }
    let way_in =
        considered().filter(|(_, space)| !(thing.hot && space.cells)).map(|(_, space)| (stuck(thing.bare, space), space)).min_by(|a, b| a.0.total_cmp(&b.0));
    if let Some((over, space)) = way_in {
        let why = format!("it is {over:.1} mm too large for the opening of `{}`", space.id);
        return LeftOut { part, why, over_mm: Some(over), space: Some(space.id.clone()) };
    }
    let why = format!("it gets above {HOT_C:.0} °C, and nothing hot goes beside cells");
    LeftOut { part, why, over_mm: None, space: considered().next().map(|(_, space)| space.id.clone()) }
}

const TURNS: [[usize; 3]; 6] = [[0, 1, 2], [0, 2, 1], [1, 0, 2], [1, 2, 0], [2, 0, 1], [2, 1, 0]];
const EPS: f64 = 1e-9;

/// The ways to turn a box that differ.
fn turns(room: [f64; 3]) -> Vec<[usize; 3]> {
    let mut found: Vec<[usize; 3]> = Vec::new();
    for turn in TURNS {
        if !found.iter().any(|other| (0..3).all(|axis| (room[other[axis]] - room[turn[axis]]).abs() < EPS)) {
            found.push(turn);
        }
    }
    found
}

/// A placed box: corner, sides, air.
#[derive(Clone, Copy)]
struct Lies {
    space: usize,
    at: [f64; 3],
    sides: [f64; 3],
    gap: f64,
}

impl Lies {
    fn of(item: &Item, spot: Spot) -> Self {
        Lies { space: spot.space, at: spot.at_mm, sides: spot.turn.map(|side| item.room_mm[side]), gap: item.gap_mm }
    }

    fn apart(&self, other: &Lies) -> bool {
        let gap = self.gap.max(other.gap) - EPS;
        self.space != other.space
            || (0..3).any(|axis| self.at[axis] + self.sides[axis] + gap <= other.at[axis] || other.at[axis] + other.sides[axis] + gap <= self.at[axis])
    }
}

/// The least by which a cavity would have to grow along one side for a box to lie beside those that are there, mm, and
/// along which side.
fn nearest(spaces: &[[f64; 3]], items: &[Item], spots: &[Option<Spot>], index: usize, space: usize) -> (f64, usize) {
    let there: Vec<Lies> = items.iter().zip(spots).filter_map(|(item, spot)| Some(Lies::of(item, (*spot)?))).filter(|lies| lies.space == space).collect();
    let item = &items[index];
    let mut best = (f64::INFINITY, 0);
    for turn in turns(item.room_mm) {
        let sides = turn.map(|side| item.room_mm[side]);
        let marks = [0, 1, 2].map(|axis| marks(axis, item.gap_mm, &there));
        for at in corners(&marks) {
            let lies = Lies { space, at, sides, gap: item.gap_mm };
            if !there.iter().all(|other| lies.apart(other)) {
                continue;
            }
            let over = [0, 1, 2].map(|axis| (at[axis] + sides[axis] + item.gap_mm - spaces[space][axis]).max(0.0));
            let axis = (0..3).max_by(|a, b| over[*a].total_cmp(&over[*b])).unwrap_or(0);
            if over[axis] < best.0 {
                best = (over[axis], axis);
            }
        }
    }
    best
}

/// Where along a side a box may begin: at the wall, or right after one that is there.
fn marks(axis: usize, gap: f64, there: &[Lies]) -> Vec<f64> {
    let mut marks: Vec<f64> = there.iter().map(|other| other.at[axis] + other.sides[axis] + gap.max(other.gap)).chain([gap]).collect();
    marks.sort_by(f64::total_cmp);
    marks.dedup_by(|a, b| (*a - *b).abs() < EPS);
    marks
}

fn corners(marks: &[Vec<f64>; 3]) -> impl Iterator<Item = [f64; 3]> + '_ {
    marks[2].iter().flat_map(move |z| marks[1].iter().flat_map(move |y| marks[0].iter().map(move |x| [*x, *y, *z])))
}

/// Puts as many boxes as it can into the cavities: where each is, and whether no way puts in more.
pub fn pack(spaces: &[[f64; 3]], items: &[Item]) -> (Vec<Option<Spot>>, bool) {
    // What fits nowhere even alone is no part of the search.
    let alone = |item: &Item| {
        item.into
            .iter()
            .any(|space| turns(item.room_mm).iter().any(|turn| (0..3).all(|axis| item.room_mm[turn[axis]] + 2.0 * item.gap_mm <= spaces[*space][axis] + EPS)))
    };
    let able: Vec<usize> = (0..items.len()).filter(|index| alone(&items[*index])).collect();
    let mut best: Vec<Option<Spot>> = vec![None; items.len()];
    let volume = |index: &usize| items[*index].room_mm.iter().product::<f64>();
    let longest = |index: &usize| items[*index].room_mm.iter().copied().fold(0.0, f64::max);
    let mut orders = Vec::new();
    for key in [&volume as &dyn Fn(&usize) -> f64, &longest, &|index: &usize| -volume(index)] {
        let mut order = able.clone();
        order.sort_by(|a, b| key(b).total_cmp(&key(a)).then(a.cmp(b)));
        if !orders.contains(&order) {
            orders.push(order);
        }
    }
    let every = able.len() <= EVERY;
    let mut certain = able.is_empty();
    for (number, order) in orders.iter().enumerate() {
        let mut search = Search { spaces, items, order, every: every && number == 0, chains: Vec::new(), work: 0, best: best.clone(), found: count(&best) };
        if search.every {
            search.chains = (0..order.len()).map(|place| search.chained(place)).collect();
        }
        search.walk(0, &mut Vec::new(), &mut vec![None; items.len()]);
        let whole = search.work < MOST_WORK;
        best = search.best;
        certain |= count(&best) == able.len() || (search.every && whole);
        if certain {
            break;
        }
    }
    (best, certain)
}

fn count(spots: &[Option<Spot>]) -> usize {
    spots.iter().flatten().count()
}

struct Search<'a> {
    spaces: &'a [[f64; 3]],
    items: &'a [Item],
    order: &'a [usize],
    /// Whether boxes are tried at every sum of sides, not only beside those that lie already.
    every: bool,
    /// Those sums, by the place in the order.
    chains: Vec<Vec<f64>>,
    work: usize,
    best: Vec<Option<Spot>>,
    found: usize,
}

impl Search<'_> {
    /// Every distance from a wall at which a box may begin, with any of the others in a row before it.
    fn chained(&self, place: usize) -> Vec<f64> {
        fn extend(items: &[Item], rest: &[usize], end: f64, last_gap: f64, own: f64, most: f64, out: &mut Vec<f64>) {
            out.push(end + last_gap.max(own));
            for (at, index) in rest.iter().enumerate() {
                let item = &items[*index];
                let mut others = rest.to_vec();
                others.remove(at);
                for side in item.room_mm {
                    let next = end + last_gap.max(item.gap_mm) + side;
                    if next < most {
                        extend(items, &others, next, item.gap_mm, own, most, out);
                    }
                }
            }
        }
        let rest: Vec<usize> = self.order.iter().copied().filter(|index| *index != self.order[place]).collect();
        let most = self.spaces.iter().flatten().copied().fold(0.0, f64::max);
        let mut out = Vec::new();
        extend(self.items, &rest, 0.0, 0.0, self.items[self.order[place]].gap_mm, most, &mut out);
        out.sort_by(f64::total_cmp);
        out.dedup_by(|a, b| (*a - *b).abs() < EPS);
        out
    }

    /// Places the rest of the order; ends early once all of it lies.
    fn walk(&mut self, place: usize, there: &mut Vec<Lies>, spots: &mut Vec<Option<Spot>>) -> bool {
        if there.len() > self.found {
            (self.best, self.found) = (spots.clone(), there.len());
        }
        if self.found == self.order.len() || self.work >= MOST_WORK {
            return true;
        }
        if place == self.order.len() || there.len() + self.order.len() - place <= self.found {
            return false;
        }
        let index = self.order[place];
        let item = &self.items[index];
        for space in item.into.iter().copied() {
            let own: Vec<Lies> = there.iter().copied().filter(|lies| lies.space == space).collect();
            let size = self.spaces[space];
            for turn in turns(item.room_mm) {
                let sides = turn.map(|side| item.room_mm[side]);
                let fits = |axis: usize, mark: &f64| mark + sides[axis] + item.gap_mm <= size[axis] + EPS;
                let marks = [0, 1, 2].map(|axis| {
                    let all = if self.every { self.chains[place].clone() } else { marks(axis, item.gap_mm, &own) };
                    all.into_iter().filter(|mark| fits(axis, mark)).collect::<Vec<f64>>()
                });
                for at in corners(&marks) {
                    self.work += 1 + own.len();
                    let lies = Lies { space, at, sides, gap: item.gap_mm };
                    if !own.iter().all(|other| lies.apart(other)) {
                        continue;
                    }
                    there.push(lies);
                    spots[index] = Some(Spot { space, turn, at_mm: at });
                    let done = self.walk(place + 1, there, spots);
                    there.pop();
                    spots[index] = None;
                    if done {
                        return true;
                    }
                }
            }
        }
        self.walk(place + 1, there, spots)
    }
}
