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
    comparison_sums, dot, gradients, normal_sums, sample_block, sample_warped, six_dots, step_sums, stride, sum,
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
    remove_mean(&mut scratch.across, side);
    remove_mean(&mut scratch.down, side);
    let [xx, xy, yy] = normal_sums(&scratch.across, &scratch.down);
    let inverse = Matrix2::new(xx, xy, xy, yy).map(f64::from).try_inverse()?;
    if f64::from(xx + yy) < 1.0 || f64::from(xx * yy - xy * xy) < 1e-4 * f64::from(xx + yy).powi(2) {
        return None;
    }
    let (width, height) = (after.width() as f64, after.height() as f64);
    let mut shift = start;
    for _ in 0..MOST_ITERATIONS {
        let at = centre + shift;
        if at.x < 0.0 || at.y < 0.0 || at.x > width || at.y > height {
            return None;
        }
        sample_block(after, at.x - half, at.y - half, side, &mut scratch.sampled);
        let [bx, by] = step_sums(&scratch.across, &scratch.down, &scratch.sampled, &scratch.template);
        let step = inverse * Vector2::new(f64::from(bx), f64::from(by));
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
#[derive(Clone, Debug)]
pub struct Reference {
    side: usize,
    /// Sum of the weights.
    total: f32,
    /// The patch less its weighted mean.
    centred: Vec<f32>,
    weights: Vec<f32>,
    /// Rows of P, six times side², Δp = P (gain * picture).
    steps: Vec<f32>,
    /// P Pᵀ.
    step_covariance: Matrix6<f64>,
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

    fn from_gradients(side: usize, scratch: &Scratch) -> Option<Self> {
        let weights = window(side);
        let total = sum(&weights);
        let weighted_mean = dot(&scratch.template, &weights) / total;
        let centred: Vec<f32> = scratch.template.iter().map(|t| t - weighted_mean).collect();
        let energy = comparison_sums(&weights, &centred, &centred, 0.0)[1];
        let weighted_variance = energy / total;
        if weighted_variance < 0.5 {
            return None;
        }
        let roots: Vec<f32> = weights.iter().map(|w| w.sqrt()).collect();
        let mut descent = descent_images(side, &scratch.across, &scratch.down);
        for image in descent.iter_mut() {
            project_out(image, &weights, total, &centred, energy);
            image.iter_mut().zip(&roots).for_each(|(i, r)| *i *= r);
        }
        let normal = Matrix6::from_fn(|i, j| f64::from(dot(&descent[i], &descent[j])));
        let inverse = normal.cholesky()?.inverse();
        let area = weights.len();
        let mut steps = vec![0.0f32; 6 * area];
        for (i, row) in steps.chunks_exact_mut(area).enumerate() {
            for (j, image) in descent.iter().enumerate() {
                let share = inverse[(i, j)] as f32;
                row.iter_mut().zip(image).zip(&roots).for_each(|((s, d), r)| *s += share * d * r);
            }
        }
        let row = |i: usize| &steps[i * area..(i + 1) * area];
        let step_covariance = Matrix6::from_fn(|i, j| f64::from(dot(row(i), row(j))));
        Some(Self { side, total, centred, weights, steps, step_covariance, weighted_mean, weighted_variance })
    }

    /// Aligns the reference to `picture` from `start`. `None` when it does not settle, bends
    /// out of all likeness or leaves the picture.
    pub fn align(&self, picture: &Plane, start: Warp, scratch: &mut Scratch) -> Option<Alignment> {
        let mut warp = start;
        let half = self.side as f64 / 2.0;
        for _ in 0..MOST_ITERATIONS {
            let sums = self.compare(picture, &warp, scratch)?;
            let p = self.step(sums.gain, &scratch.sampled);
            let change = Matrix2::new(1.0 + p[2] / half, p[3] / half, p[4] / half, 1.0 + p[5] / half);
            warp.shape *= change.try_inverse()?;
            warp.centre = warp.centre.moved(-(warp.shape * Vector2::new(p[0], p[1])));
            let off = warp.centre.distance_px(start.centre);
            let stretch = warp.shape.determinant();
            if !(off < self.side as f64 && (0.2..5.0).contains(&stretch)) {
                return None;
            }
            if p[0].hypot(p[1]) < SETTLED_PX && p.fixed_rows::<4>(2).norm() < SETTLED_SHAPE_PX {
                return Some(self.judged(&warp, &sums));
            }
        }
        let sums = self.compare(picture, &warp, scratch)?;
        Some(self.judged(&warp, &sums))
    }

    fn step(&self, gain: f32, sampled: &[f32]) -> Vector6<f64> {
        Vector6::from(six_dots(&self.steps, sampled).map(|d| f64::from(gain * d)))
    }

    fn compare(&self, picture: &Plane, warp: &Warp, scratch: &mut Scratch) -> Option<Comparison> {
        let reach = warp.shape.abs() * Vector2::repeat(self.side as f64 / 2.0);
        if !fits(picture, warp.centre, reach.x.max(reach.y) + 1.0) {
            return None;
        }
        scratch.resize(self.side);
        sample_warped(picture, warp, self.side, &mut scratch.sampled);
        let total = self.total;
        let [sum, squares, product] =
            comparison_sums(&self.weights, &scratch.sampled, &self.centred, self.weighted_mean);
        let mean = sum / total;
        let variance = squares / total - mean * mean;
        let covariance = product / total;
        if variance < 0.05 {
            return None;
        }
        Some(Comparison {
            gain: covariance / variance,
            correlation: covariance / (variance * self.weighted_variance).sqrt(),
        })
    }

    fn judged(&self, warp: &Warp, sums: &Comparison) -> Alignment {
        let correlation = f64::from(sums.correlation).clamp(-1.0, 1.0);
        let residual_variance = f64::from(self.weighted_variance) * (1.0 - correlation * correlation);
        let in_patch = self.step_covariance.fixed_view::<2, 2>(0, 0) * residual_variance;
        let c = warp.shape * in_patch * warp.shape.transpose();
        let floor = INTERPOLATION_FLOOR_PX * INTERPOLATION_FLOOR_PX;
        let covariance = Covariance { xx: c[(0, 0)] + floor, xy: c[(0, 1)], yy: c[(1, 1)] + floor };
        Alignment { warp: *warp, correlation, covariance }
    }
}

struct Comparison {
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
        }
    }
}

/// Weights that fall towards the patch's border, so that the position answers to its middle;
/// zero beyond the side.
fn window(side: usize) -> Vec<f32> {
    let sigma = 0.35 * side as f32;
    let offset = |i: usize| i as f32 - (side as f32 - 1.0) / 2.0;
    let row = stride(side);
    let weight = |x: usize, y: usize| (-(offset(x).powi(2) + offset(y).powi(2)) / (2.0 * sigma * sigma)).exp();
    (0..side * row).map(|k| if k % row < side { weight(k % row, k / row) } else { 0.0 }).collect()
}

fn descent_images(side: usize, across: &[f32], down: &[f32]) -> [Vec<f32>; 6] {
    let half = side as f32 / 2.0;
    let row = stride(side);
    let u = |k: usize| ((k % row) as f32 + 0.5 - half) / half;
    let v = |k: usize| ((k / row) as f32 + 0.5 - half) / half;
    let image = |f: &dyn Fn(usize) -> f32| (0..side * row).map(f).collect::<Vec<f32>>();
    [
        across.to_vec(),
        down.to_vec(),
        image(&|k| across[k] * u(k)),
        image(&|k| across[k] * v(k)),
        image(&|k| down[k] * u(k)),
        image(&|k| down[k] * v(k)),
    ]
}

/// Removes from `image` what a change of bias or gain could explain, in the weighted sense.
fn project_out(image: &mut [f32], weights: &[f32], total: f32, centred: &[f32], energy: f32) {
    let mean = dot(image, weights) / total;
    let along = comparison_sums(weights, image, centred, 0.0)[2] / energy;
    for (i, c) in image.iter_mut().zip(centred) {
        *i -= mean + along * c;
    }
}

/// Makes the mean over the patch zero; what lies beyond the side stays zero.
fn remove_mean(values: &mut [f32], side: usize) {
    let mean = sum(values) / (side * side) as f32;
    for row in values.chunks_exact_mut(stride(side)) {
        row[..side].iter_mut().for_each(|v| *v -= mean);
    }
}
