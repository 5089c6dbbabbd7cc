//! Normal equations of lens and lines: each line meets only its own marks, so its block of two is
//! eliminated by itself and only the lens is left to be solved (Schur complement).

use nalgebra::{DMatrix, DVector, Matrix2, Vector2};

/// A step of the adjustment: numbers of the lens; angle (in radians times the focal length, so
/// that all are px) and offset of each line.
pub struct Step {
    pub lens: DVector<f64>,
    pub lines: Vec<Vector2<f64>>,
}

/// What one line adds to the normal equations.
pub struct Block {
    pub cross: DMatrix<f64>,
    pub own: Matrix2<f64>,
    pub right: Vector2<f64>,
}

/// Normal equations: the lens, and a block for every line.
pub struct Normal {
    pub lens: DMatrix<f64>,
    pub right: DVector<f64>,
    pub lines: Vec<Block>,
}

/// Equations of the lens alone, and what leads from it to the lines.
struct Reduced {
    left: DMatrix<f64>,
    right: DVector<f64>,
    inverses: Vec<Matrix2<f64>>,
}

impl Normal {
    /// The lens's own equations once the lines are eliminated (Schur complement), and the
    /// inverse of each line's block, with all diagonals raised by `damping`.
    fn reduced(&self, damping: f64) -> Option<Reduced> {
        let (mut left, mut right) = (self.lens.clone(), self.right.clone());
        for k in 0..left.nrows() {
            left[(k, k)] += damping * self.lens[(k, k)];
        }
        let mut inverses = Vec::with_capacity(self.lines.len());
        for block in &self.lines {
            let mut own = block.own;
            for k in 0..2 {
                own[(k, k)] += damping * block.own[(k, k)];
            }
            let inverse = own.try_inverse()?;
            let through = &block.cross * inverse;
            left -= &through * block.cross.transpose();
            right -= &through * block.right;
            inverses.push(inverse);
        }
        Some(Reduced {
            left,
            right,
            inverses,
        })
    }

    /// The step under a damping; `None` where the equations cannot be solved.
    pub fn step(&self, damping: f64) -> Option<Step> {
        let Reduced {
            mut left,
            right,
            inverses,
        } = self.reduced(damping)?;
        for k in 0..left.nrows() {
            left[(k, k)] += 1e-12;
        }
        let lens = -left.cholesky()?.solve(&right);
        let line = |(block, inverse): (&Block, &Matrix2<f64>)| {
            -inverse * (block.right + block.cross.tr_mul(&lens))
        };
        let lines = self.lines.iter().zip(&inverses).map(line).collect();
        Some(Step { lens, lines })
    }

    /// Of the numbers of the lens, for marks of 1 px.
    pub fn covariance(&self) -> Option<DMatrix<f64>> {
        self.reduced(0.0)?.left.try_inverse()
    }
}
