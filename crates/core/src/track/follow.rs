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
//! beyond the side has no weight and no gradient, and every loop runs over whole vectors.
//!
//! Fails when the patch leaves the picture, when the normal matrix is singular or when the
//! step does not settle; the caller then ends the feature or searches for it.

mod kernels;

use super::Covariance;
use super::picture::{Plane, Pyramid};
use crate::spaces::PlatePx;
use kernels::{
    comparison_sums, descent_images, dot, gradient_sums, gradients, gram, sample_block, sample_warped, steepest_sums,
    step_sums, stride, subtract_and_weigh, sum, weigh,
};
use nalgebra::{Matrix2, Matrix6, Vector2, Vector6};

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
const SETTLED_PX: f64 = 0.006;
/// The same for the shape, px at the middle of the patch's side.
const SETTLED_SHAPE_PX: f64 = 0.05;

/// Finds the translation of the patch around `from` in `before` to `after`, starting from
/// the guess `to`, over the pyramid levels `coarsest` down to `finest`.
///
/// Positions are level-0 px. `None` when the patch at the finest level has no texture in
/// some direction or the guess runs out of the picture.
pub fn shift_between(
    before: &Pyramid,
    after: &Pyramid,
    from: PlatePx,
    to: PlatePx,
    pattern_px: usize,
    levels: (usize, usize),
    scratch: &mut Scratch,
) -> Option<PlatePx> {
    let (finest, coarsest) = levels;
    let mut shift = to.offset_from(from);
    for level in (finest..=coarsest).rev() {
        let scale = 1.0 / (1usize << level) as f64;
        let centre = Vector2::new(from.x, from.y) * scale;
        match shift_at_level(before.level(level), after.level(level), centre, shift * scale, pattern_px, scratch) {
            Some(found) => shift = found / scale,
            // Coarse levels may hold nothing to follow; the finest one has to.
            None if level == finest => return None,
            None => {}
        }
    }
    Some(from.moved(shift))
}

fn shift_at_level(
    before: &Plane,
    after: &Plane,
    centre: Vector2<f64>,
    start: Vector2<f64>,
    side: usize,
    scratch: &mut Scratch,
) -> Option<Vector2<f64>> {
    let half = side as f64 / 2.0;
    scratch.resize(side);
    sample_block(before, centre.x - half - 1.0, centre.y - half - 1.0, side + 2, &mut scratch.block);
    gradients(&scratch.block, side, &mut scratch.template, &mut scratch.across, &mut scratch.down);
    // A change of brightness takes no part: gradients count less their means.
    let [x, y, xx, xy, yy] = gradient_sums(&scratch.across, &scratch.down).map(f64::from);
    let area = (side * side) as f64;
    let means = Vector2::new(x, y) / area;
    let normal = Matrix2::new(xx, xy, xy, yy) - means * means.transpose() * area;
    if normal.trace() < 1.0 || normal.determinant() < 1e-4 * normal.trace().powi(2) {
        return None;
    }
    let inverse = normal.try_inverse()?;
    let (width, height) = (after.width() as f64, after.height() as f64);
    let mut shift = start;
    for _ in 0..MOST_ITERATIONS {
        let at = centre + shift;
        if at.x < 0.0 || at.y < 0.0 || at.x > width || at.y > height {
            return None;
        }
        sample_block(after, at.x - half, at.y - half, side, &mut scratch.sampled);
        let gradients = [&scratch.across[..], &scratch.down, &scratch.window.inside];
        let [x, y, sum] = step_sums(gradients, &scratch.sampled, &scratch.template).map(f64::from);
        let step = inverse * (Vector2::new(x, y) - means * sum);
        shift -= step;
        if step.norm_squared() < 1e-4 {
            return Some(shift);
        }
        if (shift - start).norm() > side as f64 {
            return None;
        }
    }
    Some(shift)
}

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
        scratch.resize(side);
        let half = side as f64 / 2.0;
        sample_block(picture, centre.x - half - 1.0, centre.y - half - 1.0, side + 2, &mut scratch.block);
        gradients(&scratch.block, side, &mut scratch.template, &mut scratch.across, &mut scratch.down);
        Self::from_gradients(side, scratch)
    }

    fn from_gradients(side: usize, scratch: &mut Scratch) -> Option<Self> {
        let Window { weights, roots, total, .. } = &scratch.window;
        let weighted_mean = dot(&scratch.template, weights) / total;
        let centred: Vec<f32> = scratch.template.iter().map(|t| t - weighted_mean).collect();
        let energy = comparison_sums(weights, &centred, &centred, 0.0)[1];
        let weighted_variance = energy / total;
        if weighted_variance < 0.5 {
            return None;
        }
        descent_images(side, &scratch.across, &scratch.down, &mut scratch.images);
        let area = weights.len();
        for image in scratch.images.chunks_exact_mut(area) {
            let mean = dot(image, weights) / total;
            let along = comparison_sums(weights, image, &centred, 0.0)[2] / energy;
            subtract_and_weigh(image, &centred, roots, mean, along);
        }
        let inverse = gram(&scratch.images).cholesky()?.inverse();
        for image in scratch.images.chunks_exact_mut(area) {
            weigh(image, roots);
        }
        let covariance = inverse * gram(&scratch.images) * inverse;
        let step_covariance = Matrix2::from_fn(|i, j| covariance[(3 * i, 3 * j)]);
        let weighted = |gradient: &[f32]| {
            let mut weighted = gradient.to_vec();
            weigh(&mut weighted, weights);
            weighted
        };
        let (across, down) = (weighted(&scratch.across), weighted(&scratch.down));
        Some(Self { side, centred, across, down, inverse, step_covariance, weighted_mean, weighted_variance })
    }

    /// Aligns the reference to `picture` from `start`. `None` when it does not settle, bends
    /// out of all likeness or leaves the picture.
    pub fn align(&self, picture: &Plane, start: Warp, scratch: &mut Scratch) -> Option<Alignment> {
        let mut warp = start;
        let half = self.side as f64 / 2.0;
        for _ in 0..MOST_ITERATIONS {
            let sums = self.compare(picture, &warp, scratch)?;
            let [x, x_by_u, x_by_v, y, y_by_u, y_by_v] = self.step(&sums, &scratch.sampled).into();
            let change = Matrix2::new(1.0 + x_by_u / half, x_by_v / half, y_by_u / half, 1.0 + y_by_v / half);
            warp.shape *= change.try_inverse()?;
            warp.centre = warp.centre.moved(-(warp.shape * Vector2::new(x, y)));
            let off = warp.centre.distance_px(start.centre);
            let stretch = warp.shape.determinant();
            if !(off < self.side as f64 && (0.2..5.0).contains(&stretch)) {
                return None;
            }
            let bend = Matrix2::new(x_by_u, x_by_v, y_by_u, y_by_v).norm();
            if x.hypot(y) < SETTLED_PX && bend < SETTLED_SHAPE_PX {
                return Some(self.judged(&warp, &sums));
            }
        }
        let sums = self.compare(picture, &warp, scratch)?;
        Some(self.judged(&warp, &sums))
    }

    /// Motion from the reference to what was sampled, in the order of [`steepest_sums`].
    ///
    /// What is left after the best bias and gain is orthogonal to both, so the gradients
    /// themselves give the same products as gradients with bias and gain projected out.
    fn step(&self, sums: &Comparison, sampled: &[f32]) -> Vector6<f64> {
        let patches = [&self.across[..], &self.down, &self.centred, sampled];
        let left = steepest_sums(patches, self.side, (sums.mean, sums.contrast));
        self.inverse * Vector6::from(left.map(|l| f64::from(sums.gain * l)))
    }

    fn compare(&self, picture: &Plane, warp: &Warp, scratch: &mut Scratch) -> Option<Comparison> {
        let reach = warp.shape.abs() * Vector2::repeat(self.side as f64 / 2.0);
        if !fits(picture, warp.centre, reach.x.max(reach.y) + 1.0) {
            return None;
        }
        scratch.resize(self.side);
        sample_warped(picture, warp, self.side, &mut scratch.sampled);
        let Window { weights, total, .. } = &scratch.window;
        let [sum, squares, product] = comparison_sums(weights, &scratch.sampled, &self.centred, self.weighted_mean);
        let mean = sum / total;
        let variance = squares / total - mean * mean;
        let covariance = product / total;
        if variance < 0.05 {
            return None;
        }
        Some(Comparison {
            mean: self.weighted_mean + mean,
            contrast: covariance / self.weighted_variance,
            gain: covariance / variance,
            correlation: covariance / (variance * self.weighted_variance).sqrt(),
        })
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

/// Searches exhaustively within `reach` (level-0 px, across and up-down) around `to` for the
/// patch that `before` has around `from`, at pyramid `level`, by zero-mean normalised
/// correlation. `None` where nothing correlates by more than 0.7.
pub fn search(
    before: &Pyramid,
    after: &Pyramid,
    from: PlatePx,
    to: PlatePx,
    reach: (f64, f64),
    level: usize,
    scratch: &mut Scratch,
) -> Option<PlatePx> {
    const SIDE: usize = 11;
    let scale = 1.0 / (1usize << level) as f64;
    let half = SIDE as f64 / 2.0;
    let (old, new) = (before.level(level), after.level(level));
    scratch.resize(SIDE);
    sample_block(old, from.x * scale - half, from.y * scale - half, SIDE, &mut scratch.template);
    let (steps_x, steps_y) = ((reach.0 * scale).ceil() as i32, (reach.1 * scale).ceil() as i32);
    let mut best = (0.7f32, None);
    for dy in -steps_y..=steps_y {
        for dx in -steps_x..=steps_x {
            let (x, y) = (to.x * scale + f64::from(dx), to.y * scale + f64::from(dy));
            if x < half || y < half || x > new.width() as f64 - half || y > new.height() as f64 - half {
                continue;
            }
            sample_block(new, x - half, y - half, SIDE, &mut scratch.sampled);
            let likeness = correlation(&scratch.template, &scratch.sampled, SIDE);
            if likeness > best.0 {
                best = (likeness, Some(PlatePx::new(x / scale, y / scale)));
            }
        }
    }
    best.1
}

/// Zero-mean normalised correlation of two patches of the same side, 0 without texture.
fn correlation(a: &[f32], b: &[f32], side: usize) -> f32 {
    let row = stride(side);
    let count = (side * side) as f32;
    let (mut sum_a, mut sum_b, mut aa, mut bb, mut ab) = (0.0f32, 0.0f32, 0.0f32, 0.0f32, 0.0f32);
    // Less one of the values, so that single precision is spent on contrast.
    let offset = a[0];
    for (a, b) in a.chunks_exact(row).zip(b.chunks_exact(row)) {
        for (a, b) in a[..side].iter().zip(&b[..side]) {
            let (a, b) = (a - offset, b - offset);
            sum_a += a;
            sum_b += b;
            aa += a * a;
            bb += b * b;
            ab += a * b;
        }
    }
    let (aa, bb, ab) = (aa - sum_a * sum_a / count, bb - sum_b * sum_b / count, ab - sum_a * sum_b / count);
    if aa > 1e-3 && bb > 1e-3 { ab / (aa * bb).sqrt() } else { 0.0 }
}

impl Scratch {
    fn resize(&mut self, side: usize) {
        let area = side * stride(side);
        if self.template.len() != area {
            self.block = vec![0.0; (side + 2) * stride(side + 2)];
            for buffer in [&mut self.template, &mut self.across, &mut self.down, &mut self.sampled] {
                *buffer = vec![0.0; area];
            }
            self.images = vec![0.0; 6 * area];
            self.window = Window::new(side);
        }
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
    total: f32,
}

impl Window {
    fn new(side: usize) -> Self {
        let sigma = 0.35 * side as f32;
        let offset = |i: usize| i as f32 - (side as f32 - 1.0) / 2.0;
        let row = stride(side);
        let weight = |x: usize, y: usize| (-(offset(x).powi(2) + offset(y).powi(2)) / (2.0 * sigma * sigma)).exp();
        let weights: Vec<f32> =
            (0..side * row).map(|k| if k % row < side { weight(k % row, k / row) } else { 0.0 }).collect();
        let roots = weights.iter().map(|w| w.sqrt()).collect();
        let total = sum(&weights);
        let inside = (0..side * row).map(|k| f32::from(u8::from(k % row < side))).collect();
        Self { inside, weights, roots, total }
    }
}
