//! Steps, boards, cuts and what fits where.

mod board;
mod fit;
mod make;
mod rules;
