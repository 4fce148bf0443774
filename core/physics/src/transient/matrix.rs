//! A small dense system of equations.

/// Rows of coefficients with their right-hand sides.
#[derive(Clone, Debug)]
pub(super) struct Matrix {
    pub(super) size: usize,
    cells: Vec<f64>,
    pub(super) right: Vec<f64>,
}

impl Matrix {
    pub(super) fn new(size: usize) -> Self {
        Matrix { size, cells: vec![0.0; size * size], right: vec![0.0; size] }
    }

    pub(super) fn clear(&mut self) {
        self.cells.fill(0.0);
        self.right.fill(0.0);
    }

    /// Adds to a cell; unknowns count from 1, 0 is ground and has no equation.
    pub(super) fn add(&mut self, row: usize, column: usize, value: f64) {
        if row > 0 && column > 0 {
            self.cells[(row - 1) * self.size + column - 1] += value;
        }
    }

    pub(super) fn add_right(&mut self, row: usize, value: f64) {
        if row > 0 {
            self.right[row - 1] += value;
        }
    }

    /// A conductance between two unknowns.
    pub(super) fn conductance(&mut self, a: usize, b: usize, siemens: f64) {
        self.add(a, a, siemens);
        self.add(b, b, siemens);
        self.add(a, b, -siemens);
        self.add(b, a, -siemens);
    }

    /// A current that leaves one unknown's node and enters another's.
    pub(super) fn current(&mut self, from: usize, to: usize, amps: f64) {
        self.add_right(from, -amps);
        self.add_right(to, amps);
    }

    /// Gaussian elimination with partial pivoting, in place; the solution is on the right. Else the unknown without a pivot.
    pub(super) fn solve(&mut self) -> Result<(), usize> {
        let n = self.size;
        for column in 0..n {
            let pivot = (column..n).max_by(|a, b| self.cells[a * n + column].abs().total_cmp(&self.cells[b * n + column].abs())).unwrap_or(column);
            if self.cells[pivot * n + column].abs() < 1e-18 {
                return Err(column + 1);
            }
            if pivot != column {
                for other in 0..n {
                    self.cells.swap(pivot * n + other, column * n + other);
                }
                self.right.swap(pivot, column);
            }
            let (above, below) = self.cells.split_at_mut((column + 1) * n);
            let pivots = &above[column * n + column..];
            let inverse = 1.0 / pivots[0];
            let (done, left) = self.right.split_at_mut(column + 1);
            for (row, right) in below.chunks_exact_mut(n).zip(left) {
                let row = &mut row[column..];
                let factor = row[0] * inverse;
                if factor == 0.0 {
                    continue;
                }
                for (cell, pivot) in row.iter_mut().zip(pivots) {
                    *cell -= factor * pivot;
                }
                *right -= factor * done[column];
            }
        }
        for row in (0..n).rev() {
            let sum: f64 = (row + 1..n).map(|other| self.cells[row * n + other] * self.right[other]).sum();
            self.right[row] = (self.right[row] - sum) / self.cells[row * n + row];
        }
        Ok(())
    }
}
