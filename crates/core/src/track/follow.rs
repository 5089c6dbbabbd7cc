//! Where is this feature on the next frame, and how certain is that?
//!
//! Two alignments, both inverse-compositional Gauss-Newton (Baker and Matthews 2004):
//!
//! 1. [`shift_between`]: translation only, from the previous frame, coarse to fine, to find it.
//! 2. [`Reference::align`]: affine with gain and bias against the feature's own reference
//!    patch, at full resolution, so that small errors do not add up from frame to frame.
//!
//! Shape: on a single edge or a corner beside the middle it can hardly be told from a motion. That it
//! is nearly the last one is a belief of one standard deviation ([`GIVES_PX`]), with which the
//! alignment is a maximum a posteriori estimate and what it may be off is in the covariance.
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

mod compare;
mod find;
mod kernels;
mod regrid;
mod sampling;

pub use compare::{Compared, compare};
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
    regrid: regrid::Buffers,
}

/// Iterations after which an alignment that has not settled counts as failed; well-followed
/// features settle in 3 to 6.
const MOST_ITERATIONS: usize = 12;

/// Steps of the position and of the shape (px at the middle of the patch's side) below which an
/// alignment ends. Steps shrink by half or better, so that what is left is smaller still.
#[derive(Clone, Copy)]
struct Near {
    place_px: f64,
    shape_px: f64,
}

/// Before the picture is shifted on to the pixels: what is left is small against a pixel.
const ROUGHLY: Near = Near { place_px: 0.05, shape_px: 0.1 };
/// To the end.
const SETTLED: Near = Near { place_px: 0.002, shape_px: 0.02 };

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
    /// Where the feature lies, less the middle of the patch: patches lie on whole pixels, so that
    /// they are not interpolated.
    off_middle: Vector2<f64>,
    /// The patch less its weighted mean.
    centred: Vec<f32>,
    /// Gradients times the weights.
    across: Vec<f32>,
    down: Vec<f32>,
    /// The normal matrix, in the order of [`steepest_sums`].
    normal: Matrix6<f64>,
    /// What is left in each cell has shrunk by so much, since the alignment gave way to it.
    shrunk: [f32; CELLS * CELLS],
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

/// How far a shape may be from the one that is believed, the last one, px at the middle of the patch's
/// side: one standard deviation. On a single edge, a corner off the middle or a slope the shape can
/// hardly be told from a motion; left to itself it wanders off with the position. Less keeps
/// more features (0.1 px: a sixth more life on trial 25) but also what slips: on the demo plate the
/// 99th percentile of errors is 0.5 px without it, 0.6 px with 0.2 px and 1.2 px with 0.1 px.
const GIVES_PX: f64 = 0.2;
/// Of the six numbers of a step, those of the shape.
const SHAPE: [usize; 4] = [1, 2, 4, 5];

/// A normal matrix with the belief in a shape.
fn pulled(mut normal: Matrix6<f64>, pull: f64) -> Matrix6<f64> {
    SHAPE.into_iter().for_each(|k| normal[(k, k)] += pull);
    normal
}

/// No alignment is claimed to be better than this, px: what interpolation between pixels leaves
/// of it (`tests/alignment.rs`, without noise).
const INTERPOLATION_FLOOR_PX: f64 = 0.005;

/// Variance of central differences over the variance of what is left between two pictures, both
/// with white noise that was smoothed by (3 10 3)/16: half of (r0 - r2) / r0, of one picture in two.
const GRADIENT_NOISE: f64 = 0.231;

/// Cells across and down whose disagreement tells how certain a position is.
const CELLS: usize = 5;

impl Reference {
    /// Cuts the patch of `side` px (odd) around `centre`. `None` where it does not fit into
    /// the picture or cannot be aligned to for lack of texture.
    pub fn cut(picture: &Plane, centre: PlatePx, side: usize, scratch: &mut Scratch) -> Option<Self> {
        if !fits(picture, centre, side as f64 / 2.0 + 2.0) {
            return None;
        }
        let middle = PlatePx::new(centre.x.floor() + 0.5, centre.y.floor() + 0.5);
        let off_middle = centre.offset_from(middle);
        vectors(Cut { picture, centre: middle, side, scratch }).map(|cut| Self { off_middle, ..cut })
    }

    /// Aligns the reference to `picture` from `start`, whose shape is believed to hold within
    /// [`GIVES_PX`]. `None` when it does not settle, bends out of all likeness or leaves the picture.
    pub fn align(&self, picture: &Plane, start: Warp, scratch: &mut Scratch) -> Option<Alignment> {
        let middle =
            |warp: Warp, sign: f64| Warp { centre: warp.centre.moved(warp.shape * self.off_middle * sign), ..warp };
        let (believed, start) = (start.shape, middle(start, -1.0));
        let rough = vectors(Settle { reference: self, picture, start, believed, near: ROUGHLY, scratch })?;
        let found = match self.refined(picture, &rough.warp, believed, scratch) {
            Some(found) => found,
            None => vectors(Align { reference: self, picture, start: rough.warp, believed, scratch })?,
        };
        Some(Alignment { warp: middle(found.warp, 1.0), ..found })
    }

    /// Variance of what is left between the reference and what was sampled.
    fn left(&self, sums: &Comparison) -> f64 {
        f64::from(self.weighted_variance * (1.0 - sums.correlation * sums.correlation)).max(0.0)
    }

    /// Aligns once more where the picture is hardly interpolated ([`regrid`]). `None` near the border.
    fn refined(
        &self,
        picture: &Plane,
        rough: &Warp,
        believed: Matrix2<f64>,
        scratch: &mut Scratch,
    ) -> Option<Alignment> {
        let reach = (rough.shape.abs() * Vector2::repeat(self.side as f64 / 2.0)).max().ceil() as usize + 2;
        let moved = |by: f64, warp: Warp, origin: PlatePx| Warp {
            centre: warp.centre.moved(Vector2::new(origin.x, origin.y) * by),
            ..warp
        };
        match regrid::around(picture, rough.centre, reach, std::mem::take(&mut scratch.regrid)) {
            Ok(regrid::Regrid { plane, origin }) => {
                let start = moved(-1.0, *rough, origin);
                let found = vectors(Align { reference: self, picture: &plane, start, believed, scratch });
                scratch.regrid.levels = plane.into_levels();
                found.map(|found| Alignment { warp: moved(1.0, found.warp, origin), ..found })
            }
            Err(buffers) => {
                scratch.regrid = buffers;
                None
            }
        }
    }
}

/// How much what is left in each cell shrinks by the alignment giving way to it: the root of
/// one less its leverage. `images` are the steepest-descent images times the roots of the weights.
fn shrinkage(images: &[f32], inverse: &Matrix6<f64>, side: usize) -> [f32; CELLS * CELLS] {
    let (area, row) = (images.len() / 6, stride(side));
    let inverse = inverse.map(|v| v as f32);
    // Bias and gain give way as well.
    let mut leverage = [2.0 / (CELLS * CELLS) as f32; CELLS * CELLS];
    for (y, cells) in (0..side).map(|y| (y, y * CELLS / side * CELLS)) {
        for x in 0..side {
            let image = nalgebra::Vector6::from_fn(|k, _| images[k * area + y * row + x]);
            leverage[cells + x * CELLS / side] += image.dot(&(inverse * image));
        }
    }
    leverage.map(|h| (1.0 - h).max(LEAST_SHRUNK).sqrt())
}

/// A cell that decides alone says nothing about its error.
const LEAST_SHRUNK: f32 = 0.1;

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
        let normal = gram(simd, images);
        let inverse = normal.cholesky()?.inverse();
        let shrunk = shrinkage(images, &inverse, side);
        weigh(simd, across, weights);
        weigh(simd, down, weights);
        let (across, down) = (across.clone(), down.clone());
        let off_middle = Vector2::zeros();
        Some(Reference { side, off_middle, centred, across, down, normal, shrunk, weighted_mean, weighted_variance })
    }
}

/// Follows a reference on to a picture until steps are small, in vectors.
struct Settle<'a> {
    reference: &'a Reference,
    picture: &'a Plane,
    start: Warp,
    believed: Matrix2<f64>,
    near: Near,
    scratch: &'a mut Scratch,
}

/// Where steps became small, how it looks there, and how strongly the belief in the shape pulled.
struct Settled {
    warp: Warp,
    sums: Comparison,
    pull: f64,
}

impl WithSimd for Settle<'_> {
    type Output = Option<Settled>;

    #[inline(always)]
    fn with_simd<S: Simd>(mut self, simd: S) -> Self::Output {
        self.scratch.resize(self.reference.side);
        let mut warp = self.start;
        let mut sums = self.compare(simd, &warp)?;
        let pull = self.reference.left(&sums) / (GIVES_PX * GIVES_PX);
        let inverse = pulled(self.reference.normal, pull).cholesky()?.inverse();
        for _ in 0..MOST_ITERATIONS {
            let mut towards = self.towards(simd, &sums);
            let bent = self.bent(&warp)?;
            SHAPE.into_iter().for_each(|k| towards[k] -= pull * bent[k]);
            let step = inverse * towards;
            warp = self.stepped(&warp, &step)?;
            let (moved, bent) = (Vector2::new(step[0], step[3]), step[1].hypot(step[2]).hypot(step[4].hypot(step[5])));
            if moved.norm() < self.near.place_px && bent < self.near.shape_px {
                break;
            }
            sums = self.compare(simd, &warp)?;
        }
        Some(Settled { warp, sums, pull })
    }
}

/// Settles to the end and judges what came of it, in vectors.
struct Align<'a> {
    reference: &'a Reference,
    picture: &'a Plane,
    start: Warp,
    believed: Matrix2<f64>,
    scratch: &'a mut Scratch,
}

impl WithSimd for Align<'_> {
    type Output = Option<Alignment>;

    #[inline(always)]
    fn with_simd<S: Simd>(self, simd: S) -> Self::Output {
        let Self { reference, picture, start, believed, scratch } = self;
        let settle = Settle { reference, picture, start, believed, near: SETTLED, scratch: &mut *scratch };
        let settled = settle.with_simd(simd)?;
        Self { reference, picture, start, believed, scratch }.judged(&settled)
    }
}

impl Align<'_> {
    fn judged(&self, Settled { warp, sums, pull }: &Settled) -> Option<Alignment> {
        let answer = self.answer(sums, *pull)?;
        let in_patch = self.scatter(sums, &answer) + self.by_belief(sums, *pull, &answer);
        let c = warp.shape * in_patch * warp.shape.transpose();
        let floor = INTERPOLATION_FLOOR_PX * INTERPOLATION_FLOOR_PX;
        let covariance = Covariance { xx: c[(0, 0)] + floor, xy: c[(0, 1)], yy: c[(1, 1)] + floor };
        Some(Alignment { warp: *warp, correlation: f64::from(sums.correlation).clamp(-1.0, 1.0), covariance })
    }

    /// The inverse of what the picture answers to a motion: the normal matrix less what noise in
    /// the reference's own gradients adds to it. Without that, soft detail in heavy grain is
    /// claimed to be twice as certain as it is. `None` where nothing but noise is left.
    fn answer(&self, sums: &Comparison, pull: f64) -> Option<Matrix6<f64>> {
        let noise = GRADIENT_NOISE * self.reference.left(sums);
        let mut normal = self.reference.normal;
        for (k, moment) in self.scratch.window.moments.iter().cycle().take(6).enumerate() {
            normal[(k, k)] -= noise * moment;
        }
        if let Some(factor) = pulled(normal, pull).cholesky() {
            return Some(factor.inverse());
        }
        // Some of what can be told apart is nothing but noise; there the belief is all there is.
        let mut parts = normal.symmetric_eigen();
        parts.eigenvalues.iter_mut().for_each(|v| *v = v.max(0.0));
        pulled(parts.recompose(), pull).cholesky().map(|factor| factor.inverse())
    }

    /// Covariance of the translation from what the belief in the shape may be off.
    fn by_belief(&self, sums: &Comparison, pull: f64, inverse: &Matrix6<f64>) -> Matrix2<f64> {
        let variance = pull * self.reference.left(sums);
        SHAPE.into_iter().fold(Matrix2::zeros(), |sum, k| {
            let moved = Vector2::new(inverse[(0, k)], inverse[(3, k)]);
            sum + variance * moved * moved.transpose()
        })
    }

    /// Covariance of the translation from how much the cells of the patch disagree: what is left
    /// in each would move the patch by so much. Unlike a formula for white noise this holds where
    /// what is left is larger at edges or alike from px to px (cluster-robust covariance of Liang
    /// and Zeger 1986, with the correction for leverage of Bell and McCaffrey 2002).
    fn scatter(&self, sums: &Comparison, inverse: &Matrix6<f64>) -> Matrix2<f64> {
        let Reference { side, across, down, centred, .. } = self.reference;
        let (side, row) = (*side, stride(*side));
        let [x, y]: [[f32; 6]; 2] = [0, 3].map(|r| std::array::from_fn(|c| inverse[(r, c)] as f32));
        let mut moves = [[0.0f32; 2]; CELLS * CELLS];
        let ramp = &self.scratch.window.ramp;
        for (v, line) in ramp.iter().take(side).zip(0..side) {
            let cells = &mut moves[line * CELLS / side * CELLS..][..CELLS];
            let at = line * row..line * row + side;
            let (across, down) = (&across[at.clone()], &down[at.clone()]);
            let (centred, sampled) = (&centred[at.clone()], &self.scratch.sampled[at]);
            for (k, u) in ramp[..side].iter().enumerate() {
                let left = sampled[k] - sums.mean - sums.contrast * centred[k];
                let (a, d) = (across[k] * left, down[k] * left);
                let cell = &mut cells[k * CELLS / side];
                cell[0] += (x[0] + x[1] * u + x[2] * v) * a + (x[3] + x[4] * u + x[5] * v) * d;
                cell[1] += (y[0] + y[1] * u + y[2] * v) * a + (y[3] + y[4] * u + y[5] * v) * d;
            }
        }
        let total = moves.iter().zip(&self.reference.shrunk).fold(Matrix2::zeros(), |sum, (m, shrunk)| {
            let m = Vector2::new(f64::from(m[0] / shrunk), f64::from(m[1] / shrunk));
            sum + m * m.transpose()
        });
        total * f64::from(sums.gain * sums.gain)
    }
}

impl Settle<'_> {
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

    /// How far the shape is from what is believed, in the units of a step.
    fn bent(&self, warp: &Warp) -> Option<Vector6<f64>> {
        let half = self.reference.side as f64 / 2.0;
        let change = (warp.shape.try_inverse()? * self.believed - Matrix2::identity()) * half;
        Some(Vector6::new(0.0, change[(0, 0)], change[(0, 1)], 0.0, change[(1, 0)], change[(1, 1)]))
    }

    /// What pulls from the reference to what was sampled, in the order of [`steepest_sums`]: the
    /// right side of the normal equations.
    ///
    /// What is left after the best bias and gain is orthogonal to both, so the gradients
    /// themselves give the same products as gradients with bias and gain projected out.
    #[inline(always)]
    fn towards<S: Simd>(&self, simd: S, sums: &Comparison) -> Vector6<f64> {
        let Reference { across, down, centred, .. } = self.reference;
        let patches = [&across[..], down, centred, &self.scratch.sampled];
        let left = steepest_sums(simd, patches, &self.scratch.window.ramp, (sums.mean, sums.contrast));
        Vector6::from(left.map(|l| f64::from(sums.gain * l)))
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

/// How far the weights reach, as a share of the side. Narrower ones answer to the middle alone and waste
/// what the rest says: with 0.35 positions were 1.26, with 0.5 they are 1.19 times the Cramér-Rao
/// bound on sharp detail (`tests/alignment.rs`).
const WINDOW_SIGMA: f32 = 0.5;

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
    /// Sums of the weights, of the weights times u² and times v².
    moments: [f64; 3],
}

impl Window {
    fn new(side: usize) -> Self {
        let sigma = WINDOW_SIGMA * side as f32;
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
        let mut moments = [0.0; 3];
        for (k, weight) in weights.iter().enumerate() {
            let at = |i: usize| f64::from((i as f32 + 0.5 - half) / half);
            let squares = [1.0, at(k % row).powi(2), at(k / row).powi(2)];
            moments.iter_mut().zip(squares).for_each(|(m, s)| *m += f64::from(*weight) * s);
        }
        Self { inside, weights, roots, ramp, total, moments }
    }
}
