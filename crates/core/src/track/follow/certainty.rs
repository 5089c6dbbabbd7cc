//! How certain is a position? From what is left between the patches once they are aligned.

use super::blur::BLURS;
use super::kernels::{stride, whole, whole_mut};
use super::settle::{Comparison, SHAPE, Settled, pulled};
use super::window::Window;
use super::{Alignment, Reference, Scratch};
use crate::tracks::Covariance;
use crate::vectors::vectors;
use nalgebra::{Matrix2, Matrix6, Vector2};
use pulp::{Simd, WithSimd};

/// No alignment is claimed to be better than this, px: what interpolation between pixels leaves
/// of it (`tests/alignment.rs`, without noise).
const INTERPOLATION_FLOOR_PX: f64 = 0.005;

/// Variance of central differences over the variance of what is left between two pictures, both
/// with white noise that was smoothed by (3 10 3)/16: half of (r0 - r2) / r0, of one picture in two.
const GRADIENT_NOISE: f64 = 0.231;

/// Cells across and down whose disagreement tells how certain a position is.
const CELLS: usize = 5;

/// How an alignment that has settled came out. `None` where nothing but noise is left.
pub fn judged(
    reference: &Reference,
    settled: &Settled,
    scratch: &mut Scratch,
) -> Option<Alignment> {
    let Settled { warp, sums, .. } = settled;
    let cells = vectors(ByCell {
        reference,
        sums,
        scratch: &mut *scratch,
    });
    let certainty = Certainty {
        reference,
        settled,
        left: reference.left(sums),
    };
    let answer = certainty.answer(&scratch.window.moments)?;
    let in_patch = certainty.scatter(&cells, &answer) + certainty.by_belief(&answer);
    let c = warp.shape * in_patch * warp.shape.transpose();
    let floor = INTERPOLATION_FLOOR_PX * INTERPOLATION_FLOOR_PX;
    let covariance = Covariance {
        xx: c[(0, 0)] + floor,
        xy: c[(0, 1)],
        yy: c[(1, 1)] + floor,
    };
    Some(Alignment {
        warp: *warp,
        correlation: f64::from(sums.correlation).clamp(-1.0, 1.0),
        covariance,
    })
}

/// What each cell of a patch pulls to by what is left in it, in the order of a step.
type Cells = [[f32; 6]; CELLS * CELLS];

/// Makes [`Cells`] of the patch sampled last, in vectors.
struct ByCell<'a> {
    reference: &'a Reference,
    sums: &'a Comparison,
    scratch: &'a mut Scratch,
}

impl WithSimd for ByCell<'_> {
    type Output = Cells;

    #[inline(always)]
    fn with_simd<S: Simd>(self, simd: S) -> Cells {
        let Self {
            reference:
                Reference {
                    side,
                    across,
                    down,
                    centred,
                    ..
                },
            sums,
            scratch,
        } = self;
        let Scratch {
            sampled,
            columns,
            window: Window { ramp, .. },
            ..
        } = scratch;
        let (side, row) = (*side, stride(*side));
        let (mean, contrast) = (simd.splat_f32s(sums.mean), simd.splat_f32s(sums.contrast));
        let mut out = [[0.0; 6]; CELLS * CELLS];
        for (k, cells) in out.chunks_exact_mut(CELLS).enumerate() {
            // First the lines of a row of cells, column by column: across, times v, down, times v.
            columns.fill(0.0);
            let lines = (k * side).div_ceil(CELLS)..((k + 1) * side).div_ceil(CELLS);
            for (line, v) in lines.clone().zip(&ramp[lines]) {
                let v = simd.splat_f32s(*v);
                let (from, to) = (line * row, (line + 1) * row);
                let (across, down) = (whole::<S>(&across[from..to]), whole::<S>(&down[from..to]));
                let (centred, sampled) = (
                    whole::<S>(&centred[from..to]),
                    whole::<S>(&sampled[from..to]),
                );
                let (by_across, by_down) = columns.split_at_mut(2 * row);
                let (a, av) = by_across.split_at_mut(row);
                let (d, dv) = by_down.split_at_mut(row);
                let (a, av) = (whole_mut::<S>(a), whole_mut::<S>(av));
                let (d, dv) = (whole_mut::<S>(d), whole_mut::<S>(dv));
                for x in 0..across.len() {
                    let left = simd.negate_mul_add_e_f32s(
                        contrast,
                        centred[x],
                        simd.sub_f32s(sampled[x], mean),
                    );
                    let (by_a, by_d) =
                        (simd.mul_f32s(across[x], left), simd.mul_f32s(down[x], left));
                    (a[x], av[x]) = (
                        simd.add_f32s(a[x], by_a),
                        simd.mul_add_e_f32s(v, by_a, av[x]),
                    );
                    (d[x], dv[x]) = (
                        simd.add_f32s(d[x], by_d),
                        simd.mul_add_e_f32s(v, by_d, dv[x]),
                    );
                }
            }
            for (x, u) in ramp[..side].iter().enumerate() {
                let [a, av, d, dv] = [
                    columns[x],
                    columns[row + x],
                    columns[2 * row + x],
                    columns[3 * row + x],
                ];
                for (to, by) in cells[x * CELLS / side]
                    .iter_mut()
                    .zip([a, a * u, av, d, d * u, dv])
                {
                    *to += by;
                }
            }
        }
        out
    }
}

struct Certainty<'a> {
    reference: &'a Reference,
    settled: &'a Settled,
    /// Variance of what is left.
    left: f64,
}

impl Certainty<'_> {
    /// The inverse of what the picture answers to a motion: the normal matrix less what noise in
    /// the reference's own gradients adds to it. Without that, soft detail in heavy grain is
    /// claimed to be twice as certain as it is. `None` where nothing but noise is left.
    fn answer(&self, moments: &[f64; 3]) -> Option<Matrix6<f64>> {
        let (noise, pull) = (GRADIENT_NOISE * self.left, self.settled.pull);
        let mut normal = self.settled.normal;
        for (k, moment) in moments.iter().cycle().take(6).enumerate() {
            normal[(k, k)] -= noise * moment;
        }
        if let Some(factor) = pulled(normal, pull).cholesky() {
            return Some(factor.inverse());
        }
        // Some of what can be told apart is nothing but noise; there the belief is all there is.
        let mut parts = normal.symmetric_eigen();
        parts.eigenvalues.iter_mut().for_each(|v| *v = v.max(0.0));
        pulled(parts.recompose(), pull)
            .cholesky()
            .map(|factor| factor.inverse())
    }

    /// Covariance of the translation from what the belief in the shape may be off.
    fn by_belief(&self, inverse: &Matrix6<f64>) -> Matrix2<f64> {
        let variance = self.settled.pull * self.left;
        SHAPE.into_iter().fold(Matrix2::zeros(), |sum, k| {
            let moved = Vector2::new(inverse[(0, k)], inverse[(3, k)]);
            sum + variance * moved * moved.transpose()
        })
    }

    /// Covariance of the translation from how much the cells of the patch disagree: what is left
    /// in each would move the patch by so much. Unlike a formula for white noise this holds where
    /// what is left is larger at edges or alike from px to px (cluster-robust covariance of Liang
    /// and Zeger 1986, with the correction for leverage of Bell and McCaffrey 2002).
    fn scatter(&self, cells: &Cells, inverse: &Matrix6<f64>) -> Matrix2<f64> {
        let rows: [[f32; 6]; 2] = [0, 3].map(|r| std::array::from_fn(|c| inverse[(r, c)] as f32));
        let shrunk = &self.reference.shrunk[usize::from(self.settled.blind)];
        let total = cells
            .iter()
            .zip(shrunk)
            .fold(Matrix2::zeros(), |sum, (cell, shrunk)| {
                let along =
                    |row: [f32; 6]| row.iter().zip(cell).map(|(a, b)| a * b).sum::<f32>() / shrunk;
                let m = Vector2::from(rows.map(|row| f64::from(along(row))));
                sum + m * m.transpose()
            });
        total * f64::from(self.settled.sums.gain * self.settled.sums.gain)
    }
}

/// How much what is left in each cell of a patch shrinks by an alignment giving way to it.
pub type Shrunk = [f32; CELLS * CELLS];

/// [`Shrunk`] of steps that see blur and of those that are blind to it: the root of one less the cell's leverage.
/// `images` are the steepest-descent images times the roots of the weights.
pub fn shrinkage(
    images: &[f32],
    inverse: &Matrix6<f64>,
    side: usize,
    window: &Window,
) -> [Shrunk; 2] {
    let (area, row) = (images.len() / 6, stride(side));
    let inverse = inverse.map(|v| v as f32);
    let mut leverage = [0.0; CELLS * CELLS];
    for (y, cells) in (0..side).map(|y| (y, y * CELLS / side * CELLS)) {
        for x in 0..side {
            let image = nalgebra::Vector6::from_fn(|k, _| images[k * area + y * row + x]);
            leverage[cells + x * CELLS / side] += image.dot(&(inverse * image));
        }
    }
    // Bias and gain give way as well, and blur, of which half would have told of a motion.
    let cells = (CELLS * CELLS) as f32 * window.inside.iter().sum::<f32>() / (side * side) as f32;
    [2.0, 2.0 + 0.5 * BLURS as f32]
        .map(|more| leverage.map(|h| (1.0 - h - more / cells).max(LEAST_SHRUNK).sqrt()))
}

/// A cell that decides alone says nothing about its error.
const LEAST_SHRUNK: f32 = 0.1;
