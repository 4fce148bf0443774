//! Pieces cut from rolls so that as few rolls as possible are opened: exact by branch and bound for up to twenty pieces,
//! first fit by falling length beyond that. Written here rather than taken from a solver: twenty pieces need none, and the
//! core does without what would come along with one.

/// Up to so many pieces the fewest rolls are found.
pub const EXACT: usize = 20;
/// Nodes after which the search keeps what it has.
const MOST_NODES: usize = 400_000;

/// Which roll each piece comes from, and whether no way with fewer exists.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Packed {
    /// By piece, from 0.
    pub roll: Vec<usize>,
    /// How many rolls.
    pub rolls: usize,
    /// Whether fewer are known not to do.
    pub fewest: bool,
}

/// Packs pieces into rolls of one length; pieces are no longer than that.
pub fn pack(pieces: &[f64], roll: f64) -> Packed {
    let mut order: Vec<usize> = (0..pieces.len()).collect();
    order.sort_by(|a, b| pieces[*b].total_cmp(&pieces[*a]).then(a.cmp(b)));
    let sorted: Vec<f64> = order.iter().map(|index| pieces[*index]).collect();
    let least = bound(&sorted, roll);
    let (mut best, mut rolls) = first_fit(&sorted, roll);
    let mut fewest = rolls == least;
    if !fewest && pieces.len() <= EXACT {
        let mut search = Search { pieces: &sorted, roll, least, best: best.clone(), rolls, nodes: 0 };
        search.walk(0, &mut Vec::new(), &mut Vec::new());
        fewest = search.nodes < MOST_NODES || search.rolls == least;
        (best, rolls) = (search.best, search.rolls);
    }
    let mut by_piece = vec![0; pieces.len()];
    for (place, index) in order.into_iter().enumerate() {
        by_piece[index] = best[place];
    }
    Packed { roll: by_piece, rolls, fewest }
}

/// What no way can do with less: all lengths together, and those longer than half a roll one by one.
fn bound(sorted: &[f64], roll: f64) -> usize {
    let sum = (sorted.iter().sum::<f64>() / roll - 1e-9).ceil().max(0.0) as usize;
    sum.max(sorted.iter().filter(|piece| **piece > 0.5 * roll + 1e-9).count())
}

fn first_fit(sorted: &[f64], roll: f64) -> (Vec<usize>, usize) {
    let mut left: Vec<f64> = Vec::new();
    let mut of = Vec::new();
    for piece in sorted {
        let place = left.iter().position(|left| *left >= piece - 1e-9).unwrap_or_else(|| {
            left.push(roll);
            left.len() - 1
        });
        left[place] -= piece;
        of.push(place);
    }
    (of, left.len())
}

struct Search<'a> {
    pieces: &'a [f64],
    roll: f64,
    least: usize,
    best: Vec<usize>,
    rolls: usize,
    nodes: usize,
}

impl Search<'_> {
    fn walk(&mut self, place: usize, left: &mut Vec<f64>, of: &mut Vec<usize>) {
        self.nodes += 1;
        if self.nodes >= MOST_NODES || self.rolls == self.least || left.len() >= self.rolls {
            return;
        }
        if place == self.pieces.len() {
            (self.best, self.rolls) = (of.clone(), left.len());
            return;
        }
        // What is still to come needs at least this many more.
        let rest: f64 = self.pieces[place..].iter().sum();
        let room: f64 = left.iter().sum();
        if left.len() + ((rest - room) / self.roll - 1e-9).ceil().max(0.0) as usize >= self.rolls {
            return;
        }
        let piece = self.pieces[place];
        for roll in 0..left.len() {
            // Rolls with as much left are one another's twins.
            let twin = left[..roll].iter().any(|other| (other - left[roll]).abs() < 1e-9);
            if left[roll] >= piece - 1e-9 && !twin {
                left[roll] -= piece;
                of.push(roll);
                self.walk(place + 1, left, of);
                of.pop();
                left[roll] += piece;
            }
        }
        left.push(self.roll - piece);
        of.push(left.len() - 1);
        self.walk(place + 1, left, of);
        of.pop();
        left.pop();
    }
}
