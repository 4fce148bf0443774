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

/// Rows of coefficients with their right-hand sides. Ground's row and column come last and are never read, so that whoever
/// writes need not ask for it.
#[derive(Clone, Debug)]
struct Rows {
    /// Unknowns.
    count: usize,
    cells: Vec<f64>,
    right: Vec<f64>,
}

/// The equations of a circuit.
#[derive(Clone, Debug)]
pub(super) struct Matrix {
    pub(super) size: usize,
    /// Unknowns that no bending part touches; they stand first.
    flat: usize,
    /// In which row and column each unknown stands at first; ground, the first of them, last.
    place: Vec<usize>,
    /// Which unknown stands in which column, at first and now.
    order: Vec<usize>,
    unknown: Vec<usize>,
    /// What stays from step to step, all of a step, and that while what bends is solved.
    fixed: Rows,
    step: Rows,
    work: Rows,
    /// Rows that are eliminated.
    done: usize,
    /// The solution, by column.
    value: Vec<f64>,
}

impl Matrix {
    /// Of unknowns with these equations, the first of them ground.
    pub(super) fn new(equations: &[Equation]) -> Self {
        let of = |kind: Equation| equations.iter().enumerate().skip(1).filter(move |(_, own)| **own == kind).map(|(one, _)| one);
        let mut order: Vec<usize> = of(Equation::Linear).collect();
        let flat = order.len();
        order.extend(of(Equation::Bends));
        let size = order.len();
        let mut place = vec![size; equations.len()];
        for (at, one) in order.iter().enumerate() {
            place[*one] = at;
        }
        let rows = Rows { count: size, cells: vec![0.0; (size + 1) * (size + 1)], right: vec![0.0; size + 1] };
        Matrix { size, flat, place, unknown: order.clone(), order, fixed: rows.clone(), step: rows.clone(), work: rows, done: 0, value: vec![0.0; size] }
    }

    /// What stays from step to step, with nothing in it yet.
    pub(super) fn fixed(&mut self) -> Stamp<'_> {
        self.fixed.cells.fill(0.0);
        self.fixed.right.fill(0.0);
        Stamp { place: &self.place, rows: &mut self.fixed }
    }

    /// The linear part of a step, with what is fixed in it.
    pub(super) fn linear(&mut self) -> Stamp<'_> {
        self.unknown.copy_from_slice(&self.order);
        self.step.take(&self.fixed, 0);
        Stamp { place: &self.place, rows: &mut self.step }
    }

    /// What is left, with nothing that bends in it yet.
    pub(super) fn bending(&mut self) -> Stamp<'_> {
        self.work.take(&self.step, self.done);
        Stamp { place: &self.place, rows: &mut self.work }
    }

    /// Eliminates what linear parts alone touch, as far as that has pivots of its own.
    pub(super) fn reduce(&mut self) {
        let rows = &mut self.step;
        self.done = 0;
        let mut end = self.flat;
        while self.done < end {
            let at = self.done;
            let (pivot, most) = rows.largest(at, at..self.flat);
            let (_, elsewhere) = rows.largest(at, self.flat..self.size);
            if most < NOTHING || most < ENOUGH * elsewhere {
                // It is found with what bends.
                end -= 1;
                rows.exchange_columns(at, end);
                self.unknown.swap(at, end);
                continue;
            }
            rows.exchange(pivot, at);
            rows.eliminate(at);
            self.done += 1;
        }
    }

    /// Solves what is left, by Gaussian elimination with partial pivoting; else the unknown without a pivot.
    pub(super) fn solve(&mut self) -> Result<(), usize> {
        let rows = &mut self.work;
        for at in self.done..self.size {
            let (pivot, most) = rows.largest(at, at..self.size);
            if most < NOTHING {
                return Err(self.unknown[at]);
            }
            rows.exchange(pivot, at);
            rows.eliminate(at);
        }
        rows.substitute(self.done..self.size, &mut self.value);
        Ok(())
    }

    /// What is left, with the unknown of each.
    pub(super) fn solved(&self) -> impl Iterator<Item = (usize, f64)> {
        self.unknown[self.done..].iter().copied().zip(self.value[self.done..].iter().copied())
    }

    /// All unknowns, from what was solved.
    pub(super) fn all(&mut self, x: &mut [f64]) {
        self.step.substitute(0..self.done, &mut self.value);
        for (one, value) in self.unknown.iter().zip(&self.value) {
            x[*one] = *value;
        }
    }
}

impl Rows {
    fn width(&self) -> usize {
        self.count + 1
    }

    /// The same as others from a row on.
    fn take(&mut self, others: &Rows, from: usize) {
        let cells = from * self.width();
        self.cells[cells..].copy_from_slice(&others.cells[cells..]);
        self.right[from..].copy_from_slice(&others.right[from..]);
    }

    /// The row with the largest figure of a column, and its size.
    fn largest(&self, column: usize, among: std::ops::Range<usize>) -> (usize, f64) {
        let mut found = (among.start, 0.0);
        for row in among {
            let size = self.cells[row * self.width() + column].abs();
            if size > found.1 {
                found = (row, size);
            }
        }
        found
    }

    /// Exchanges two rows; the second is not below the first.
    fn exchange(&mut self, row: usize, with: usize) {
        if row != with {
            let width = self.width();
            let (above, below) = self.cells.split_at_mut(row * width);
            above[with * width..(with + 1) * width].swap_with_slice(&mut below[..width]);
            self.right.swap(row, with);
        }
    }

    fn exchange_columns(&mut self, a: usize, b: usize) {
        let width = self.width();
        self.cells.chunks_exact_mut(width).for_each(|row| row.swap(a, b));
    }

    /// Takes a pivot's row off those below it.
    #[inline(never)]
    fn eliminate(&mut self, at: usize) {
        let (width, n) = (self.width(), self.count);
        let (above, below) = self.cells.split_at_mut((at + 1) * width);
        let pivots = &above[at * width + at..at * width + n];
        let inverse = 1.0 / pivots[0];
        let (own, under) = self.right.split_at_mut(at + 1);
        let own = own[at];
        for (row, right) in under[..n - at - 1].iter_mut().enumerate() {
            let row = &mut below[row * width + at..row * width + n];
            if row[0] == 0.0 {
                continue;
            }
            let factor = row[0] * inverse;
            for (cell, pivot) in row[1..].iter_mut().zip(&pivots[1..]) {
                *cell -= factor * *pivot;
            }
            *right -= factor * own;
        }
    }

    /// Values of some columns from those behind.
    fn substitute(&self, columns: std::ops::Range<usize>, value: &mut [f64]) {
        for at in columns.rev() {
            let row = &self.cells[at * self.width()..][..self.count];
            let mut sum = self.right[at];
            for (cell, known) in row[at + 1..].iter().zip(&value[at + 1..]) {
                sum -= cell * known;
            }
            value[at] = sum / row[at];
        }
    }
}

/// Where parts write what they are to the equations.
pub(super) struct Stamp<'a> {
    place: &'a [usize],
    rows: &'a mut Rows,
}

impl Stamp<'_> {
    /// Adds to a cell.
    pub(super) fn add(&mut self, row: usize, column: usize, value: f64) {
        let at = self.place[row] * self.rows.width() + self.place[column];
        self.rows.cells[at] += value;
    }

    pub(super) fn add_right(&mut self, row: usize, value: f64) {
        self.rows.right[self.place[row]] += value;
    }

    // One copy of each: written out at every part they would be a tenth of the core in the page.
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
