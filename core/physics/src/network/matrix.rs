//! A square sparse matrix: its order, found once and shared, and the values that change at every Newton step.
//!
//! The factorization is faer's sparse LU with its symbolic part kept, so that a step after the first allocates
//! nothing of its own.

use faer::dyn_stack::{MemBuffer, MemStack};
use faer::sparse::linalg::lu::{LuSymbolicParams, NumericLu, SymbolicLu, factorize_symbolic_lu};
use faer::sparse::{SparseColMatRef, SymbolicSparseColMatRef};
use faer::{Conj, MatMut, Par};
use std::sync::Arc;

/// Where one entry of the pattern keeps its value.
pub type Slot = usize;

/// Collects the entries that elements will write.
#[derive(Default)]
pub struct Pattern {
    entries: Vec<(usize, usize)>,
}

impl Pattern {
    /// Reserves an entry; `None` (ground) in either place reserves nothing.
    pub fn entry(&mut self, row: Option<usize>, column: Option<usize>) -> Option<Slot> {
        self.entries.push((row?, column?));
        Some(self.entries.len() - 1)
    }

    /// Fixes the pattern. Slots keep their meaning through [`Matrix::add`].
    ///
    /// # Errors
    /// When the matrix is too large to be ordered.
    pub fn finish(self, size: usize) -> Result<Order, SingularMatrix> {
        let mut order: Vec<usize> = (0..self.entries.len()).collect();
        order.sort_unstable_by_key(|slot| (self.entries[*slot].1, self.entries[*slot].0));
        let (mut place, mut rows, mut column_ends) = (vec![0; order.len()], Vec::new(), vec![0usize; size + 1]);
        let mut last = None;
        for slot in order {
            let (row, column) = self.entries[slot];
            if last != Some((row, column)) {
                rows.push(row);
                column_ends[column + 1] = rows.len();
                last = Some((row, column));
            }
            place[slot] = rows.len() - 1;
        }
        for column in 1..=size {
            column_ends[column] = column_ends[column].max(column_ends[column - 1]);
        }
        let pattern = SymbolicSparseColMatRef::new_checked(size, size, &column_ends, None, &rows);
        let symbolic = factorize_symbolic_lu(pattern, LuSymbolicParams::default()).map_err(|_| SingularMatrix)?;
        Ok(Order { size, place, column_ends, rows, symbolic })
    }
}

/// The matrix could not be factorized.
#[derive(Debug)]
pub struct SingularMatrix;

/// Which entries there are, and the order in which they are eliminated.
#[derive(Debug)]
pub struct Order {
    size: usize,
    place: Vec<usize>,
    column_ends: Vec<usize>,
    rows: Vec<usize>,
    symbolic: SymbolicLu<usize>,
}

/// The values of a matrix with its factorization.
pub struct Matrix {
    order: Arc<Order>,
    values: Vec<f64>,
    numeric: NumericLu<usize, f64>,
    scratch: MemBuffer,
}

impl Matrix {
    /// A matrix of this order, all zero.
    pub fn of(order: Arc<Order>) -> Self {
        let scratch =
            order.symbolic.factorize_numeric_lu_scratch::<f64>(Par::Seq, Default::default()).or(order.symbolic.solve_in_place_scratch::<f64>(1, Par::Seq));
        Matrix { values: vec![0.0; order.rows.len()], numeric: NumericLu::new(), scratch: MemBuffer::new(scratch), order }
    }

    /// Sets every value to 0.
    pub fn clear(&mut self) {
        self.values.fill(0.0);
    }

    /// Adds to an entry.
    pub fn add(&mut self, slot: Option<Slot>, value: f64) {
        if let Some(slot) = slot {
            self.values[self.order.place[slot]] += value;
        }
    }

    /// Replaces `right` by the solution of `A x = right`.
    ///
    /// # Errors
    /// When the matrix is singular.
    pub fn solve(&mut self, right: &mut [f64]) -> Result<(), SingularMatrix> {
        let Order { size, column_ends, rows, symbolic, .. } = &*self.order;
        let pattern = SymbolicSparseColMatRef::new_checked(*size, *size, column_ends, None, rows);
        let matrix = SparseColMatRef::<'_, usize, f64>::new(pattern, &self.values);
        let stack = MemStack::new(&mut self.scratch);
        let lu = symbolic.factorize_numeric_lu(&mut self.numeric, matrix, Par::Seq, stack, Default::default()).map_err(|_| SingularMatrix)?;
        let stack = MemStack::new(&mut self.scratch);
        lu.solve_in_place_with_conj(Conj::No, MatMut::from_column_major_slice_mut(right, *size, 1), Par::Seq, stack);
        if right.iter().all(|x| x.is_finite()) { Ok(()) } else { Err(SingularMatrix) }
    }
}
