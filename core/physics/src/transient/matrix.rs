//! A small dense system of equations. What linear parts alone touch is eliminated once a step; what bends, once an iteration.

/// A pivot of the linear part is at least this share of what stands in its column elsewhere.
const ENOUGH: f64 = 1e-3;
/// Below this there is no pivot, S.
const NOTHING: f64 = 1e-18;

/// What kind of equation an unknown has.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) enum Equation {
    /// No part that bends touches it.
    Linear,
    /// One does.
    Bends,
    /// It has none and follows from others.
    Follows,
}

/// Rows of coefficients with their right-hand sides. Unknowns and equations count from 1; 0 is ground and has neither.
#[derive(Clone, Debug)]
pub(super) struct Matrix {
    pub(super) size: usize,
    /// Unknowns that no bending part touches; they stand first.
    flat: usize,
    cells: Vec<f64>,
    right: Vec<f64>,
    /// Where every unknown stands before anything is exchanged, and which stands where.
    start: Vec<usize>,
    order: Vec<usize>,
    /// In which row its equation stands and in which column itself, and the unknown of each column.
    row: Vec<usize>,
    column: Vec<usize>,
    equation: Vec<usize>,
    unknown: Vec<usize>,
    /// Rows that are eliminated; what is left of the others, as it was and while it is solved.
    done: usize,
    left: Vec<f64>,
    work: Vec<f64>,
    work_right: Vec<f64>,
    /// The solution, by column.
    value: Vec<f64>,
}

impl Matrix {
    /// Of unknowns with these equations; of ground, the first, none is taken.
    pub(super) fn new(equations: &[Equation]) -> Self {
        let of = |kind: Equation| equations.iter().skip(1).enumerate().filter(move |(_, own)| **own == kind).map(|(one, _)| one);
        let mut unknown: Vec<usize> = of(Equation::Linear).collect();
        let flat = unknown.len();
        unknown.extend(of(Equation::Bends));
        let size = unknown.len();
        let mut start = vec![0; equations.len() - 1];
        for (place, one) in unknown.iter().enumerate() {
            start[*one] = place;
        }
        Matrix {
            size,
            flat,
            cells: vec![0.0; size * size],
            right: vec![0.0; size],
            row: start.clone(),
            column: start.clone(),
            start,
            order: unknown.clone(),
            equation: unknown.clone(),
            unknown,
            done: 0,
            left: Vec::with_capacity(size * size),
            work: Vec::with_capacity(size * size),
            work_right: Vec::with_capacity(size),
            value: vec![0.0; size],
        }
    }

    /// Nothing in it, and everything where it stands first.
    pub(super) fn clear(&mut self) {
        self.cells.fill(0.0);
        self.right.fill(0.0);
        self.row.copy_from_slice(&self.start);
        self.column.copy_from_slice(&self.start);
        self.unknown.copy_from_slice(&self.order);
        self.equation.copy_from_slice(&self.order);
    }

    /// The linear part, while it is written.
    pub(super) fn linear(&mut self) -> Stamp<'_> {
        Stamp { row: &self.row, column: &self.column, done: 0, size: self.size, cells: &mut self.cells, right: &mut self.right }
    }

    /// What is left, with nothing that bends in it yet.
    pub(super) fn bending(&mut self) -> Stamp<'_> {
        self.work.clone_from(&self.left);
        self.work_right.clear();
        self.work_right.extend_from_slice(&self.right[self.done..]);
        Stamp { row: &self.row, column: &self.column, done: self.done, size: self.size - self.done, cells: &mut self.work, right: &mut self.work_right }
    }

    /// Eliminates what linear parts alone touch, as far as that has pivots of its own.
    pub(super) fn reduce(&mut self) {
        let n = self.size;
        self.done = 0;
        let mut end = self.flat;
        while self.done < end {
            let at = self.done;
            let (mut pivot, mut most) = (at, 0.0);
            for row in at..self.flat {
                let size = self.cells[row * n + at].abs();
                if size > most {
                    (pivot, most) = (row, size);
                }
            }
            let elsewhere = (self.flat..n).map(|row| self.cells[row * n + at].abs()).fold(0.0, f64::max);
            if most < NOTHING || most < ENOUGH * elsewhere {
                // It is found with what bends.
                end -= 1;
                self.exchange_columns(at, end);
                continue;
            }
            if pivot != at {
                for other in 0..n {
                    self.cells.swap(pivot * n + other, at * n + other);
                }
                self.right.swap(pivot, at);
                self.equation.swap(pivot, at);
                (self.row[self.equation[pivot]], self.row[self.equation[at]]) = (pivot, at);
            }
            eliminate(&mut self.cells, &mut self.right, n, at);
            self.done += 1;
        }
        self.left.clear();
        for row in self.done..n {
            self.left.extend_from_slice(&self.cells[row * n + self.done..(row + 1) * n]);
        }
    }

    fn exchange_columns(&mut self, a: usize, b: usize) {
        if a == b {
            return;
        }
        for row in self.cells.chunks_exact_mut(self.size) {
            row.swap(a, b);
        }
        self.unknown.swap(a, b);
        (self.column[self.unknown[a]], self.column[self.unknown[b]]) = (a, b);
    }

    /// Solves what is left, by Gaussian elimination with partial pivoting; else the unknown without a pivot.
    pub(super) fn solve(&mut self) -> Result<(), usize> {
        let n = self.size - self.done;
        let (cells, right) = (&mut self.work, &mut self.work_right);
        for column in 0..n {
            let (mut pivot, mut most) = (column, 0.0);
            for row in column..n {
                let size = cells[row * n + column].abs();
                if size > most {
                    (pivot, most) = (row, size);
                }
            }
            if most < NOTHING {
                return Err(self.unknown[self.done + column] + 1);
            }
            if pivot != column {
                for other in column..n {
                    cells.swap(pivot * n + other, column * n + other);
                }
                right.swap(pivot, column);
            }
            eliminate(cells, right, n, column);
        }
        substitute(cells, right, n, n, self.done, &mut self.value);
        Ok(())
    }

    /// What is left, with the unknown of each.
    pub(super) fn solved(&self) -> impl Iterator<Item = (usize, f64)> {
        (self.done..self.size).map(|place| (self.unknown[place] + 1, self.value[place]))
    }

    /// All unknowns, from what was solved.
    pub(super) fn all(&mut self, x: &mut [f64]) {
        substitute(&self.cells, &self.right, self.size, self.done, 0, &mut self.value);
        for (place, one) in self.unknown.iter().enumerate() {
            x[one + 1] = self.value[place];
        }
    }
}

/// Takes a pivot's row off those below it.
fn eliminate(cells: &mut [f64], right: &mut [f64], n: usize, at: usize) {
    let (above, below) = cells.split_at_mut((at + 1) * n);
    let (first, pivots) = above[at * n + at..].split_first().map_or((1.0, &[][..]), |(first, rest)| (*first, rest));
    let inverse = 1.0 / first;
    let (own, under) = right.split_at_mut(at + 1);
    let own = own[at];
    for (row, right) in below.chunks_exact_mut(n).zip(under) {
        let (first, row) = (row[at], &mut row[at + 1..]);
        if first == 0.0 {
            continue;
        }
        let factor = first * inverse;
        for (cell, pivot) in row.iter_mut().zip(pivots) {
            *cell -= factor * *pivot;
        }
        *right -= factor * own;
    }
}

/// Values of the first rows from those behind; the first of them belongs to a place.
fn substitute(cells: &[f64], right: &[f64], n: usize, rows: usize, place: usize, value: &mut [f64]) {
    let value = &mut value[place..];
    for at in (0..rows).rev() {
        let row = &cells[at * n..(at + 1) * n];
        let mut sum = right[at];
        for (cell, known) in row[at + 1..].iter().zip(&value[at + 1..]) {
            sum -= cell * known;
        }
        value[at] = sum / row[at];
    }
}

/// Where parts write what they are to the equations.
pub(super) struct Stamp<'a> {
    row: &'a [usize],
    column: &'a [usize],
    done: usize,
    size: usize,
    cells: &'a mut [f64],
    right: &'a mut [f64],
}

impl Stamp<'_> {
    // One copy of each: written out at every part they would be a tenth of the core in the page.
    /// Adds to a cell.
    #[inline(never)]
    pub(super) fn add(&mut self, row: usize, column: usize, value: f64) {
        if row > 0 && column > 0 {
            self.cells[(self.row[row - 1] - self.done) * self.size + self.column[column - 1] - self.done] += value;
        }
    }

    pub(super) fn add_right(&mut self, row: usize, value: f64) {
        if row > 0 {
            self.right[self.row[row - 1] - self.done] += value;
        }
    }

    /// A conductance between two unknowns.
    #[inline(never)]
    pub(super) fn conductance(&mut self, a: usize, b: usize, siemens: f64) {
        self.add(a, a, siemens);
        self.add(b, b, siemens);
        self.add(a, b, -siemens);
        self.add(b, a, -siemens);
    }

    /// A current that leaves one unknown's node and enters another's.
    #[inline(never)]
    pub(super) fn current(&mut self, from: usize, to: usize, amps: f64) {
        self.add_right(from, -amps);
        self.add_right(to, amps);
    }
}
