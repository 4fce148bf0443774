//! The inside of a strip, between its feeds.
//!
//! A strip's two rails are alike, so the voltage between them and the mean of both are independent: the mean falls
//! evenly from feed to feed, and only the difference `d` at each tap is unknown. With `g` the conductance of one rail
//! from tap to tap, `g (d_i − d_{i−1}) + g (d_i − d_{i+1}) + 2 I(d_i) = 0`. Each Newton step eliminates the chain in
//! its own order (Thomas' algorithm) and leaves the sparse matrix only the places where feeds join.

use super::*;

/// A stretch of taps between two feeds, or between a feed and an end of the strip.
#[derive(Clone, Debug)]
pub(super) struct Ladder {
    pub light: usize,
    /// Nodes where the stretch is fed; `None`: an open end.
    pub left: Option<(Node, Node)>,
    pub right: Option<(Node, Node)>,
    /// Its unknowns, one voltage between the rails at each spot.
    pub cells: std::ops::Range<usize>,
    /// Conductance of one rail before, between and after the spots, S; 0 at an open end.
    pub links: Vec<f64>,
    /// Taps at each spot, by their places along the light: more than one where rails without resistance make them one
    /// place.
    pub taps: Vec<std::ops::Range<usize>>,
    /// Conductance of one rail from feed to feed, S; 0 with an open end.
    pub through: f64,
    /// Entries over plus and minus of the left feed, then of the right.
    pub stamp: [[Option<Slot>; 4]; 4],
}

/// What the elimination of all stretches keeps, by cell: `d = still + left d_left + right d_right`.
#[derive(Clone, Debug, Default)]
pub(super) struct Elimination {
    /// Unknown of the first cell of all.
    first: usize,
    /// Diagonal of the chain, then its reciprocal pivots.
    pub pivot: Vec<f64>,
    still: Vec<f64>,
    left: Vec<f64>,
    right: Vec<f64>,
}

impl Elimination {
    pub fn of(first: usize, cells: usize) -> Self {
        let zeros = || vec![0.0; cells];
        Elimination { first, pivot: zeros(), still: zeros(), left: zeros(), right: zeros() }
    }
}

fn between(x: &[f64], pair: Option<(Node, Node)>) -> f64 {
    pair.map_or(0.0, |(plus, minus)| voltage(x, plus) - voltage(x, minus))
}

fn mean(x: &[f64], pair: Option<(Node, Node)>) -> f64 {
    pair.map_or(0.0, |(plus, minus)| voltage(x, plus) + voltage(x, minus))
}

impl Ladder {
    /// Writes the residuals of the cells and of the feeds' nodes, and the diagonal of the chain.
    pub fn assemble(&self, law: &Law, lit: &Lit, x: &[f64], load: f64, residual: &mut [f64], work: &mut Elimination) {
        let mut before = between(x, self.left);
        let mut near = Near::default();
        for (step, cell) in self.cells.clone().enumerate() {
            let d = x[cell];
            let (current, slope) = law.current(lit, &self.taps[step], true, d, &mut near);
            let (g_left, g_right) = (self.links[step], self.links[step + 1]);
            let after = if step + 1 < self.taps.len() { x[cell + 1] } else { between(x, self.right) };
            residual[cell] = g_left * (d - before) + g_right * (d - after) + 2.0 * load * current;
            work.pivot[cell - work.first] = g_left + g_right + 2.0 * load * slope;
            before = d;
        }
        let even = self.through * (mean(x, self.left) - mean(x, self.right));
        let ends = [(self.left, even, self.links[0], self.cells.start), (self.right, -even, self.links[self.taps.len()], self.cells.end - 1)];
        for (pair, even, g, cell) in ends {
            let Some((plus, minus)) = pair else { continue };
            let odd = g * (between(x, pair) - x[cell]);
            for (node, amps) in [(plus, 0.5 * (even + odd)), (minus, 0.5 * (even - odd))] {
                if let Some(node) = node {
                    residual[node] += amps;
                }
            }
        }
    }

    /// Potentials of both rails at one of its cells, V: the mean of both falls evenly from feed to feed.
    pub fn potentials(&self, x: &[f64], cell: usize) -> (f64, f64) {
        let step = cell - self.cells.start;
        let sum = match self.left {
            Some(_) => {
                let even = self.through * (mean(x, self.left) - mean(x, self.right));
                mean(x, self.left) - if even == 0.0 { 0.0 } else { even * self.links[..=step].iter().map(|g| 1.0 / g).sum::<f64>() }
            }
            None => mean(x, self.right),
        };
        (0.5 * (sum + x[cell]), 0.5 * (sum - x[cell]))
    }

    /// Eliminates the cells: adds what is left of the stretch to the matrix and to the right-hand side.
    pub fn condense(&self, right_side: &mut [f64], matrix: &mut Matrix, work: &mut Elimination) {
        let (start, count) = (self.cells.start, self.taps.len());
        let at = start - work.first;
        // Forwards: pivots, the residual, and the column of the left feed.
        let (mut still, mut left) = (right_side[start], self.links[0]);
        for step in 0..count {
            if step > 0 {
                let factor = self.links[step] * work.pivot[at + step - 1];
                work.pivot[at + step] -= factor * self.links[step];
                still = right_side[start + step] + factor * still;
                left *= factor;
            }
            work.pivot[at + step] = 1.0 / work.pivot[at + step];
            (work.still[at + step], work.left[at + step]) = (still, left);
        }
        // Backwards: what each cell is of the residual and of the two feeds.
        let (mut still, mut left, mut right) = (0.0, 0.0, 0.0);
        for step in (0..count).rev() {
            let (pivot, link) = (work.pivot[at + step], self.links[step + 1]);
            let last = step + 1 == count;
            let after = if last { 0.0 } else { link };
            still = pivot * (work.still[at + step] + after * still);
            left = pivot * (work.left[at + step] + after * left);
            right = pivot * if last { link } else { link * right };
            (work.still[at + step], work.left[at + step], work.right[at + step]) = (still, left, right);
        }
        let (g_left, g_right, end) = (self.links[0], self.links[count], at + count - 1);
        let y_left = g_left * (1.0 - work.left[at]);
        let y_right = g_right * (1.0 - work.right[end]);
        let y_across = -g_left * work.right[at];
        let g = self.through;
        let quarter = |even: f64, odd: f64| [[0.5 * (even + odd), 0.5 * (even - odd)], [0.5 * (even - odd), 0.5 * (even + odd)]];
        for (row, column, values) in [(0, 0, quarter(g, y_left)), (0, 2, quarter(-g, y_across)), (2, 0, quarter(-g, y_across)), (2, 2, quarter(g, y_right))] {
            for (r, line) in values.into_iter().enumerate() {
                for (c, value) in line.into_iter().enumerate() {
                    matrix.add(self.stamp[row + r][column + c], value);
                }
            }
        }
        for (pair, amps) in [(self.left, 0.5 * g_left * work.still[at]), (self.right, 0.5 * g_right * work.still[end])] {
            let Some((plus, minus)) = pair else { continue };
            for (node, amps) in [(plus, amps), (minus, -amps)] {
                if let Some(node) = node {
                    right_side[node] += amps;
                }
            }
        }
    }

    /// The cells' part of a step, once that of the nodes is known.
    pub fn expand(&self, step: &mut [f64], work: &Elimination) {
        let (left, right) = (between(step, self.left), between(step, self.right));
        for cell in self.cells.clone() {
            let at = cell - work.first;
            step[cell] = work.still[at] + work.left[at] * left + work.right[at] * right;
        }
    }
}
