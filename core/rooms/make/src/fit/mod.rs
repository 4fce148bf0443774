//! What goes into which cavity: boxes turned in six ways, with air between them and room for their wires to bend.
//!
//! Every box is pushed as far left, front and down as it goes, so each of its corners is a sum of others' sides. A few
//! boxes are tried at every such sum, which finds a way wherever there is one; more of them only beside those that are
//! placed already, in several orders, which is quick and nearly as good.

mod boxes;

pub use boxes::pack;

use crate::parts::like_converter;
use boxes::nearest;
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
