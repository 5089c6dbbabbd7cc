//! Steps towards a reference until they are small: inverse-compositional Gauss-Newton with a belief
//! in the shape.

use super::kernels::{comparison_sums, steepest_sums, take};
use super::sampling::sample_warped;
use super::window::Window;
use super::{Reference, Scratch, Warp};
use crate::track::picture::Plane;
use nalgebra::{Matrix2, Matrix6, Vector2, Vector6};
use pulp::{Simd, WithSimd};

/// Iterations after which an alignment that has not settled counts as failed; well-followed
/// features settle in 3 to 6.
pub const MOST_ITERATIONS: usize = 12;

/// Steps of the position and of the shape (px at the middle of the patch's side) below which an
/// alignment ends. Steps shrink by half or better, so that what is left is smaller still.
#[derive(Clone, Copy)]
pub struct Near {
    place_px: f64,
    shape_px: f64,
}

/// Before the picture is shifted on to the pixels: what is left is small against a pixel.
pub const ROUGHLY: Near = Near {
    place_px: 0.05,
    shape_px: 0.1,
};
/// To the end.
pub const SETTLED: Near = Near {
    place_px: 0.002,
    shape_px: 0.02,
};

/// How far a shape may be from the one that is believed, the last one, px at the middle of the patch's
/// side: one standard deviation. On a single edge, a corner off the middle or a slope the shape can
/// hardly be told from a motion; left to itself it wanders off with the position. Less keeps
/// more features (0.1 px: a sixth more life on trial 25) but also what slips: on the demo plate the
/// 99th percentile of errors is 0.5 px without it, 0.6 px with 0.2 px and 1.2 px with 0.1 px.
const GIVES_PX: f64 = 0.2;
/// Of the six numbers of a step, those of the shape.
pub const SHAPE: [usize; 4] = [1, 2, 4, 5];

/// A normal matrix with the belief in a shape.
pub fn pulled(mut normal: Matrix6<f64>, pull: f64) -> Matrix6<f64> {
    SHAPE.into_iter().for_each(|k| normal[(k, k)] += pull);
    normal
}

/// Follows a reference on to a picture until steps are small, in vectors.
pub struct Settle<'a> {
    /// What is followed.
    pub reference: &'a Reference,
    /// On to which picture.
    pub picture: &'a Plane,
    /// From where.
    pub start: Warp,
    /// The shape that is believed to hold nearly.
    pub believed: Matrix2<f64>,
    /// Until when.
    pub near: Near,
    /// Whether what blur explains counts for nothing.
    pub blind: bool,
    /// Buffers.
    pub scratch: &'a mut Scratch,
}

/// Where steps became small.
pub struct Settled {
    /// Where.
    pub warp: Warp,
    /// How it looks there; the patch itself is in the scratch, if blind as if its blur were the reference's.
    pub sums: Comparison,
    /// The normal matrix of its steps.
    pub normal: Matrix6<f64>,
    /// How strongly the belief in the shape pulled.
    pub pull: f64,
    /// Whether its steps were blind to blur.
    pub blind: bool,
}

impl WithSimd for Settle<'_> {
    type Output = Option<Settled>;

    #[inline(always)]
    fn with_simd<S: Simd>(mut self, simd: S) -> Self::Output {
        self.scratch.resize(self.reference.side);
        let mut warp = self.start;
        let mut sums = self.compare(simd, &warp)?;
        let pull = self.reference.left(&sums) / (GIVES_PX * GIVES_PX);
        let normal = if self.blind {
            self.reference.blind_normal
        } else {
            self.reference.normal
        };
        let inverse = pulled(normal, pull).cholesky()?.inverse();
        for _ in 0..MOST_ITERATIONS {
            let mut towards = self.towards(simd, &sums);
            let bent = self.bent(&warp)?;
            SHAPE.into_iter().for_each(|k| towards[k] -= pull * bent[k]);
            let step = inverse * towards;
            warp = self.stepped(&warp, &step)?;
            let (moved, bent) = (
                Vector2::new(step[0], step[3]),
                step[1].hypot(step[2]).hypot(step[4].hypot(step[5])),
            );
            if moved.norm() < self.near.place_px && bent < self.near.shape_px {
                break;
            }
            sums = self.compare(simd, &warp)?;
        }
        Some(Settled {
            warp,
            sums,
            normal,
            pull,
            blind: self.blind,
        })
    }
}

impl Settle<'_> {
    #[inline(always)]
    fn compare<S: Simd>(&mut self, simd: S, warp: &Warp) -> Option<Comparison> {
        let Reference {
            side,
            weighted_mean,
            weighted_variance,
            ..
        } = *self.reference;
        if !self.reference.part.fits(self.picture, warp, side) {
            return None;
        }
        let Scratch {
            sampled,
            window: Window { weights, total, .. },
            ..
        } = &mut *self.scratch;
        sample_warped(simd, self.picture, warp, side, sampled);
        let [sum, squares, product] = comparison_sums(
            simd,
            weights,
            sampled,
            &self.reference.centred,
            weighted_mean,
        );
        let (total, mean) = (*total, sum / *total);
        let (mut variance, covariance) = (squares / total - mean * mean, product / total);
        if self.blind {
            let by_blur = self.reference.by_blur(simd, sampled, weights);
            take(
                simd,
                sampled,
                self.reference.blurs.each_ref().map(|b| &b[..]),
                by_blur,
            );
            variance -= by_blur.iter().map(|b| b * b).sum::<f32>() / total;
        }
        if variance < 0.05 {
            return None;
        }
        Some(Comparison {
            mean: weighted_mean + mean,
            contrast: covariance / weighted_variance,
            gain: covariance / variance,
            correlation: covariance / (variance * weighted_variance).sqrt(),
        })
    }

    /// How far the shape is from what is believed, in the units of a step.
    fn bent(&self, warp: &Warp) -> Option<Vector6<f64>> {
        let half = self.reference.side as f64 / 2.0;
        let change = (warp.shape.try_inverse()? * self.believed - Matrix2::identity()) * half;
        Some(Vector6::new(
            0.0,
            change[(0, 0)],
            change[(0, 1)],
            0.0,
            change[(1, 0)],
            change[(1, 1)],
        ))
    }

    /// What pulls from the reference to what was sampled, in the order of [`steepest_sums`]: the
    /// right side of the normal equations.
    ///
    /// What is left after the best bias and gain is orthogonal to both, so the gradients
    /// themselves give the same products as gradients with bias and gain projected out.
    #[inline(always)]
    fn towards<S: Simd>(&self, simd: S, sums: &Comparison) -> Vector6<f64> {
        let Reference {
            across,
            down,
            centred,
            ..
        } = self.reference;
        let patches = [&across[..], down, centred, &self.scratch.sampled];
        let left = steepest_sums(
            simd,
            patches,
            &self.scratch.window.ramp,
            (sums.mean, sums.contrast),
        );
        Vector6::from(left.map(|l| f64::from(sums.gain * l)))
    }

    /// The warp after the step; `None` when it has left for elsewhere or lost its shape.
    #[inline(always)]
    fn stepped(&self, warp: &Warp, step: &Vector6<f64>) -> Option<Warp> {
        let half = self.reference.side as f64 / 2.0;
        let [x, x_by_u, x_by_v, y, y_by_u, y_by_v] = (*step).into();
        let change = Matrix2::new(
            1.0 + x_by_u / half,
            x_by_v / half,
            y_by_u / half,
            1.0 + y_by_v / half,
        );
        let shape = warp.shape * change.try_inverse()?;
        let centre = warp.centre.moved(-(shape * Vector2::new(x, y)));
        let off = centre.distance_px(self.start.centre);
        let is_likely =
            off < self.reference.side as f64 && (0.2..5.0).contains(&shape.determinant());
        is_likely.then_some(Warp { centre, shape })
    }
}

/// The sampled patch against the reference.
pub struct Comparison {
    /// Of the sampled patch.
    pub mean: f32,
    /// What the reference has to be multiplied by to look like the sampled patch.
    pub contrast: f32,
    /// What the sampled patch has to be multiplied by to look like the reference.
    pub gain: f32,
    /// Zero-mean normalised, weighted.
    pub correlation: f32,
}
