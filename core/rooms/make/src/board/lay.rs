//! Parts in an order, and tracks between them.

use super::loose::Loose;
use std::collections::VecDeque;

/// Rows of the board, and free columns at either end.
pub(super) const ROWS: usize = 14;
const MARGIN: usize = 2;
/// What a jumper is worth in joined holes.
const JUMPER: usize = 1000;

/// Where parts stand: their order, which are turned round, and how far down each begins.
#[derive(Clone)]
pub(super) struct Order {
    pub(super) parts: Vec<usize>,
    pub(super) turned: Vec<bool>,
    pub(super) down: Vec<usize>,
}

/// A board with its conductors; holes by row times columns plus column.
pub(super) struct Laid {
    pub(super) columns: usize,
    /// By part, by leg: its hole.
    pub(super) holes: Vec<Vec<[usize; 2]>>,
    pub(super) tracks: Vec<(usize, Vec<usize>)>,
    pub(super) jumpers: Vec<(usize, usize, usize)>,
    pub(super) cost: usize,
}

impl Laid {
    /// A conductor from a hole back to where the search began.
    fn track(&mut self, node: usize, came: &[Option<usize>], end: usize, owner: &mut [usize], joined: &mut Vec<usize>) {
        let mut way = vec![end];
        while let Some(before) = came[way[way.len() - 1]].filter(|before| *before != way[way.len() - 1]) {
            way.push(before);
        }
        for cell in &way {
            owner[*cell] = node;
            if !joined.contains(cell) {
                joined.push(*cell);
            }
        }
        self.cost += way.len();
        self.tracks.push((node, way));
    }
}

const FREE: usize = usize::MAX;
/// A hole with a leg that is joined to nothing.
pub(super) const TAKEN: usize = usize::MAX - 1;

pub(super) fn lay(parts: &[Loose], nodes: &[Vec<usize>], order: &Order) -> Laid {
    let mut holes = vec![Vec::new(); parts.len()];
    let mut column = MARGIN;
    for &part in &order.parts {
        let loose = &parts[part];
        let [wide, high] = loose.size();
        let down = order.down[part].min(ROWS - 2 - high) + 1;
        let turned = order.turned[part];
        let place = |at: [usize; 2]| if turned { [column + wide - 1 - at[0], down + high - 1 - at[1]] } else { [column + at[0], down + at[1]] };
        holes[part] = loose.legs.iter().map(|(_, _, at)| place(*at)).collect();
        column += wide + usize::from(loose.kind != "terminal");
    }
    let columns = column + MARGIN;
    let cell = |at: [usize; 2]| at[1] * columns + at[0];
    let mut owner = vec![FREE; columns * ROWS];
    let most = nodes.iter().flatten().filter(|node| **node < TAKEN).max().map_or(0, |most| most + 1);
    let mut wanted: Vec<Vec<usize>> = vec![Vec::new(); most];
    for (legs, own) in holes.iter().zip(nodes) {
        for (hole, node) in legs.iter().zip(own) {
            owner[cell(*hole)] = *node;
            if *node < TAKEN {
                wanted[*node].push(cell(*hole));
            }
        }
    }
    let mut laid = Laid { columns, holes, tracks: Vec::new(), jumpers: Vec::new(), cost: 0 };
    // Short ones first: they have least choice.
    let mut turns: Vec<usize> = (0..wanted.len()).collect();
    let reach = |legs: &[usize]| {
        let (x, y) = (legs.iter().map(|cell| cell % columns), legs.iter().map(|cell| cell / columns));
        let span = |all: &mut dyn Iterator<Item = usize>| {
            let (least, most) = all.fold((usize::MAX, 0), |(least, most), one| (least.min(one), most.max(one)));
            most.saturating_sub(least)
        };
        span(&mut x.into_iter()) + span(&mut y.into_iter())
    };
    turns.sort_by_key(|node| reach(&wanted[*node]));
    for node in turns {
        let mut left: Vec<usize> = wanted[node].clone();
        let Some(first) = left.pop() else { continue };
        let mut joined = vec![first];
        while !left.is_empty() {
            let (found, came) = search(&owner, columns, node, &joined, &left);
            if let Some(goal) = found {
                laid.track(node, &came, goal, &mut owner, &mut joined);
                left.retain(|leg| !joined.contains(leg));
                continue;
            }
            // No way underneath: over the top, between the nearest free holes that either side reaches.
            let (_, other) = search(&owner, columns, node, &left[left.len() - 1..], &[]);
            let apart = |a: usize, b: usize| (a % columns).abs_diff(b % columns) + (a / columns).abs_diff(b / columns);
            let ends = |came: &[Option<usize>]| (0..came.len()).filter(|cell| came[*cell].is_some() && owner[*cell] == FREE).collect::<Vec<_>>();
            let (here, there) = (ends(&came), ends(&other));
            let pair = here.iter().flat_map(|a| there.iter().map(move |b| (*a, *b))).min_by_key(|(a, b)| (apart(*a, *b), *a, *b));
            let Some((a, b)) = pair else {
                laid.cost += 100 * JUMPER;
                left.pop();
                continue;
            };
            for (end, came) in [(a, &came), (b, &other)] {
                laid.track(node, came, end, &mut owner, &mut joined);
            }
            laid.cost += JUMPER + apart(a, b);
            laid.jumpers.push((node, a, b));
            left.retain(|leg| !joined.contains(leg));
        }
    }
    laid.cost += 2 * columns;
    laid
}

/// From any of `from` to the nearest of `to` over free holes or those of the node; by hole, where it was come from.
fn search(owner: &[usize], columns: usize, node: usize, from: &[usize], to: &[usize]) -> (Option<usize>, Vec<Option<usize>>) {
    let mut came: Vec<Option<usize>> = vec![None; owner.len()];
    let mut queue: VecDeque<usize> = VecDeque::new();
    for cell in from {
        came[*cell] = Some(*cell);
        queue.push_back(*cell);
    }
    while let Some(cell) = queue.pop_front() {
        let (x, y) = (cell % columns, cell / columns);
        let beside = [(x > 0).then(|| cell - 1), (x + 1 < columns).then(|| cell + 1), (y > 0).then(|| cell - columns), (y + 1 < ROWS).then(|| cell + columns)];
        for next in beside.into_iter().flatten() {
            if came[next].is_some() || !(owner[next] == FREE || owner[next] == node) {
                continue;
            }
            came[next] = Some(cell);
            if to.contains(&next) {
                return (Some(next), came);
            }
            queue.push_back(next);
        }
    }
    (None, came)
}
