//! Boxes into cavities: at every place where one may begin, in several orders.

use super::{EVERY, Item, MOST_WORK, Spot};

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
pub(super) fn nearest(spaces: &[[f64; 3]], items: &[Item], spots: &[Option<Spot>], index: usize, space: usize) -> (f64, usize) {
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
    // What fits nowhere even alone is not a part of the search.
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
