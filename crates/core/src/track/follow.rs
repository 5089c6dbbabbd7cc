//! Where is this feature on the next frame, and how certain is that?
//!
//! Two alignments, both inverse-compositional Gauss-Newton (Baker and Matthews 2004):
//!
//! 1. [`shift_between`]: translation only, from the previous frame, coarse to fine, to find it.
//! 2. [`Reference::align`]: affine with gain and bias against the feature's own reference
//!    patch, at full resolution, so that small errors do not add up from frame to frame.
//!
//! Brightness: the steepest-descent images are made orthogonal to 1 (and for the reference
//! also to the patch itself), hence gain and bias drop out of the step (Baker and Matthews,
//! part 3, "project out"). With white noise of variance s² in the residual and Δp = P r,
//! the covariance of the step is s² P Pᵀ; its translation block, carried through the affine
//! map, is the covariance of the position.
//!
//! Patches are stored in rows of [`stride`] values, the side rounded up to eight: what lies
//! beyond the side has no weight and no gradient, and every loop runs over whole vectors
//! (`kernels`, `sampling`).
//!
//! Fails when the patch leaves the picture, when the normal matrix is singular or when the
//! step does not settle; the caller then ends the feature or searches for it.

mod find;
mod kernels;
mod sampling;

pub use find::{search, shift_between};

use super::Covariance;
use super::picture::Plane;
use crate::spaces::PlatePx;
use crate::vectors::vectors;
use kernels::{
    area, comparison_sums, descent_images, dot, gradients, gram, steepest_sums, stride, subtract_and_weigh, weigh,
};
use nalgebra::{Matrix2, Matrix6, Vector2, Vector6};
use pulp::{Simd, WithSimd};
use sampling::{sample_block, sample_warped};

/// Buffers of one thread, so that following allocates nothing per patch.
#[derive(Default)]
pub struct Scratch {
    block: Vec<f32>,
    template: Vec<f32>,
    across: Vec<f32>,
    down: Vec<f32>,
    sampled: Vec<f32>,
    images: Vec<f32>,
    window: Window,
}

/// Iterations after which an alignment that has not settled counts as failed; well-followed
/// features settle in 3 to 6.
const MOST_ITERATIONS: usize = 12;

/// A step of the position below this ends the alignment, px; steps shrink by half or better,
/// so that what is left is smaller still.
const SETTLED_PX: f64 = 0.002;
/// The same for the shape, px at the middle of the patch's side.
const SETTLED_SHAPE_PX: f64 = 0.02;

/// Place and shape of a feature on one frame: maps offsets in its reference patch to the picture.
#[derive(Clone, Copy, Debug)]
pub struct Warp {
    /// Where the reference's centre is, level-0 px.
    pub centre: PlatePx,
    /// Linear part, reference px to picture px.
    pub shape: Matrix2<f64>,
}

/// The patch that a feature was born with (or was renewed with), ready to be aligned to.
///
/// Thousands are alive and each is read once per frame, so it holds three patches and no
/// more: the steepest-descent images are made from the gradients as they are used.
#[derive(Clone, Debug)]
pub struct Reference {
    side: usize,
    /// The patch less its weighted mean.
    centred: Vec<f32>,
    /// Gradients times the weights.
    across: Vec<f32>,
    down: Vec<f32>,
    /// Of the normal matrix, in the order of [`steepest_sums`].
    inverse: Matrix6<f64>,
    /// Covariance of the translation for residuals of variance 1.
    step_covariance: Matrix2<f64>,
    weighted_mean: f32,
    weighted_variance: f32,
}

/// How an alignment to the reference came out.
#[derive(Clone, Copy, Debug)]
pub struct Alignment {
    /// Where the feature is.
    pub warp: Warp,
    /// Zero-mean normalised correlation with the reference, -1 to 1.
    pub correlation: f64,
    /// How certain the position is.
    pub covariance: Covariance,
}

/// No alignment is claimed to be better than this, px: the bias of linear interpolation
/// between pixels is of this order (`tests/alignment.rs` finds 0.017 px rms without noise).
const INTERPOLATION_FLOOR_PX: f64 = 0.01;

impl Reference {
    /// Cuts the patch of `side` px (odd) around `centre`. `None` where it does not fit into
    /// the picture or cannot be aligned to for lack of texture.
    pub fn cut(picture: &Plane, centre: PlatePx, side: usize, scratch: &mut Scratch) -> Option<Self> {
        if !fits(picture, centre, side as f64 / 2.0 + 2.0) {
            return None;
        }
        vectors(Cut { picture, centre, side, scratch })
    }

    /// Aligns the reference to `picture` from `start`. `None` when it does not settle, bends
    /// out of all likeness or leaves the picture.
    pub fn align(&self, picture: &Plane, start: Warp, scratch: &mut Scratch) -> Option<Alignment> {
        vectors(Align { reference: self, picture, start, scratch })
    }

    fn judged(&self, warp: &Warp, sums: &Comparison) -> Alignment {
        let correlation = f64::from(sums.correlation).clamp(-1.0, 1.0);
        let residual_variance = f64::from(self.weighted_variance) * (1.0 - correlation * correlation);
        let in_patch = self.step_covariance * residual_variance;
        let c = warp.shape * in_patch * warp.shape.transpose();
        let floor = INTERPOLATION_FLOOR_PX * INTERPOLATION_FLOOR_PX;
        let covariance = Covariance { xx: c[(0, 0)] + floor, xy: c[(0, 1)], yy: c[(1, 1)] + floor };
        Alignment { warp: *warp, correlation, covariance }
    }
}

/// What [`Reference::cut`] does, in vectors.
struct Cut<'a> {
    picture: &'a Plane,
    centre: PlatePx,
    side: usize,
    scratch: &'a mut Scratch,
}

impl WithSimd for Cut<'_> {
    type Output = Option<Reference>;

    #[inline(always)]
    fn with_simd<S: Simd>(self, simd: S) -> Self::Output {
        let Self { picture, centre, side, scratch } = self;
        scratch.resize(side);
        scratch.cut(simd, picture, Vector2::new(centre.x, centre.y), side);
        let Scratch { template, across, down, images, window, .. } = scratch;
        let Window { weights, roots, ramp, total, .. } = window;
        let weighted_mean = dot(simd, template, weights) / *total;
        let centred: Vec<f32> = template.iter().map(|t| t - weighted_mean).collect();
        let [_, energy, _] = comparison_sums(simd, weights, &centred, &centred, 0.0);
        let weighted_variance = energy / *total;
        if weighted_variance < 0.5 {
            return None;
        }
        descent_images(simd, [across, down], ramp, images);
        for image in images.chunks_exact_mut(weights.len()) {
            let mean = dot(simd, image, weights) / *total;
            let [_, _, along] = comparison_sums(simd, weights, image, &centred, 0.0);
            subtract_and_weigh(simd, image, &centred, roots, (mean, along / energy));
        }
        let inverse = gram(simd, images).cholesky()?.inverse();
        for image in images.chunks_exact_mut(weights.len()) {
            weigh(simd, image, roots);
        }
        let covariance = inverse * gram(simd, images) * inverse;
        let step_covariance = Matrix2::from_fn(|i, j| covariance[(3 * i, 3 * j)]);
        weigh(simd, across, weights);
        weigh(simd, down, weights);
        let (across, down) = (across.clone(), down.clone());
        Some(Reference { side, centred, across, down, inverse, step_covariance, weighted_mean, weighted_variance })
    }
}

/// What [`Reference::align`] does, in vectors.
struct Align<'a> {
    reference: &'a Reference,
    picture: &'a Plane,
    start: Warp,
    scratch: &'a mut Scratch,
}

impl WithSimd for Align<'_> {
    type Output = Option<Alignment>;

    #[inline(always)]
    fn with_simd<S: Simd>(mut self, simd: S) -> Self::Output {
        self.scratch.resize(self.reference.side);
        let mut warp = self.start;
        for _ in 0..MOST_ITERATIONS {
            let sums = self.compare(simd, &warp)?;
            let step = self.step(simd, &sums);
            warp = self.stepped(&warp, &step)?;
            let (moved, bent) = (Vector2::new(step[0], step[3]), step[1].hypot(step[2]).hypot(step[4].hypot(step[5])));
            if moved.norm() < SETTLED_PX && bent < SETTLED_SHAPE_PX {
                return Some(self.reference.judged(&warp, &sums));
            }
        }
        let sums = self.compare(simd, &warp)?;
        Some(self.reference.judged(&warp, &sums))
    }
}

impl Align<'_> {
    #[inline(always)]
    fn compare<S: Simd>(&mut self, simd: S, warp: &Warp) -> Option<Comparison> {
        let Reference { side, weighted_mean, weighted_variance, .. } = *self.reference;
        let reach = warp.shape.abs() * Vector2::repeat(side as f64 / 2.0);
        if !fits(self.picture, warp.centre, reach.x.max(reach.y) + 1.0) {
            return None;
        }
        sample_warped(simd, self.picture, warp, side, &mut self.scratch.sampled);
        let Scratch { sampled, window: Window { weights, total, .. }, .. } = &*self.scratch;
        let [sum, squares, product] = comparison_sums(simd, weights, sampled, &self.reference.centred, weighted_mean);
        let mean = sum / total;
        let variance = squares / total - mean * mean;
        let covariance = product / total;
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

    /// Motion from the reference to what was sampled, in the order of [`steepest_sums`].
    ///
    /// What is left after the best bias and gain is orthogonal to both, so the gradients
    /// themselves give the same products as gradients with bias and gain projected out.
    #[inline(always)]
    fn step<S: Simd>(&self, simd: S, sums: &Comparison) -> Vector6<f64> {
        let Reference { across, down, centred, inverse, .. } = self.reference;
        let patches = [&across[..], down, centred, &self.scratch.sampled];
        let left = steepest_sums(simd, patches, &self.scratch.window.ramp, (sums.mean, sums.contrast));
        inverse * Vector6::from(left.map(|l| f64::from(sums.gain * l)))
    }

    /// The warp after the step; `None` when it has left for elsewhere or lost its shape.
    #[inline(always)]
    fn stepped(&self, warp: &Warp, step: &Vector6<f64>) -> Option<Warp> {
        let half = self.reference.side as f64 / 2.0;
        let [x, x_by_u, x_by_v, y, y_by_u, y_by_v] = (*step).into();
        let change = Matrix2::new(1.0 + x_by_u / half, x_by_v / half, y_by_u / half, 1.0 + y_by_v / half);
        let shape = warp.shape * change.try_inverse()?;
        let centre = warp.centre.moved(-(shape * Vector2::new(x, y)));
        let off = centre.distance_px(self.start.centre);
        let is_likely = off < self.reference.side as f64 && (0.2..5.0).contains(&shape.determinant());
        is_likely.then_some(Warp { centre, shape })
    }
}

/// The sampled patch against the reference.
struct Comparison {
    /// Of the sampled patch.
    mean: f32,
    /// What the reference has to be multiplied by to look like the sampled patch.
    contrast: f32,
    /// What the sampled patch has to be multiplied by to look like the reference.
    gain: f32,
    correlation: f32,
}

/// Whether a square of `half` px around `centre` lies inside the picture.
pub fn fits(picture: &Plane, centre: PlatePx, half: f64) -> bool {
    centre.x >= half
        && centre.y >= half
        && centre.x <= picture.width() as f64 - half
        && centre.y <= picture.height() as f64 - half
}

impl Scratch {
    fn resize(&mut self, side: usize) {
        let area = area(side);
        if self.template.len() != area {
            // Reading from the second value of its last row goes one vector on.
            self.block = vec![0.0; (side + 2) * stride(side + 2) + 8];
            for buffer in [&mut self.template, &mut self.across, &mut self.down, &mut self.sampled] {
                *buffer = vec![0.0; area];
            }
            self.images = vec![0.0; 6 * area];
            self.window = Window::new(side);
        }
    }

    /// Cuts the patch around `centre` and its gradients.
    #[inline(always)]
    fn cut<S: Simd>(&mut self, simd: S, picture: &Plane, centre: Vector2<f64>, side: usize) {
        let reach = side as f64 / 2.0 + 1.0;
        let Self { block, template, across, down, .. } = self;
        sample_block(simd, picture, centre.x - reach, centre.y - reach, side + 2, block);
        gradients(simd, block, side, [template, across, down]);
    }
}

/// Weights that fall towards the patch's border, so that the position answers to its middle;
/// zero beyond the side.
#[derive(Default)]
struct Window {
    /// 1 up to the side, 0 beyond.
    inside: Vec<f32>,
    weights: Vec<f32>,
    roots: Vec<f32>,
    /// From -1 to 1 over the side, and on to a whole row.
    ramp: Vec<f32>,
    total: f32,
}

impl Window {
    fn new(side: usize) -> Self {
        let sigma = 0.35 * side as f32;
        let offset = |i: usize| i as f32 - (side as f32 - 1.0) / 2.0;
        let row = stride(side);
        let is_inside = |k: usize| k % row < side && k / row < side;
        let weight = |x: usize, y: usize| (-(offset(x).powi(2) + offset(y).powi(2)) / (2.0 * sigma * sigma)).exp();
        let weights: Vec<f32> =
            (0..area(side)).map(|k| if is_inside(k) { weight(k % row, k / row) } else { 0.0 }).collect();
        let roots = weights.iter().map(|w| w.sqrt()).collect();
        let total = weights.iter().sum();
        let half = side as f32 / 2.0;
        let ramp = (0..row).map(|i| (i as f32 + 0.5 - half) / half).collect();
        let inside = (0..area(side)).map(|k| f32::from(u8::from(is_inside(k)))).collect();
        Self { inside, weights, roots, ramp, total }
    }
}
