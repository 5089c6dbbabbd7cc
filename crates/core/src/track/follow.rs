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
//! Fails when the patch leaves the picture, when the normal matrix is singular or when the
//! step does not settle; the caller then ends the feature or searches for it.

use super::Covariance;
use super::picture::{Plane, Pyramid};
use crate::spaces::PlatePx;
use multiversion::multiversion;
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
    let outer = side + 2;
    scratch.resize(side);
    sample_block(before, centre.x - half - 1.0, centre.y - half - 1.0, outer, &mut scratch.block);
    gradients(&scratch.block, side, &mut scratch.template, &mut scratch.across, &mut scratch.down);
    let (mean_x, mean_y) = (mean(&scratch.across), mean(&scratch.down));
    scratch.across.iter_mut().for_each(|g| *g -= mean_x);
    scratch.down.iter_mut().for_each(|g| *g -= mean_y);
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
/// between pixels, measured on rendered plates.
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
        let patch = &scratch.template;
        let total: f32 = weights.iter().sum();
        let weighted_mean = patch.iter().zip(&weights).map(|(t, w)| t * w).sum::<f32>() / total;
        let weighted_variance =
            patch.iter().zip(&weights).map(|(t, w)| w * (t - weighted_mean).powi(2)).sum::<f32>() / total;
        if weighted_variance < 0.5 {
            return None;
        }
        let mut descent = descent_images(side, &scratch.across, &scratch.down);
        let centred: Vec<f32> = patch.iter().map(|t| t - weighted_mean).collect();
        for image in descent.iter_mut() {
            project_out(image, &weights, &centred);
        }
        let mut normal = Matrix6::<f64>::zeros();
        for i in 0..6 {
            for j in 0..=i {
                let sum: f32 = (0..side * side).map(|k| weights[k] * descent[i][k] * descent[j][k]).sum();
                normal[(i, j)] = f64::from(sum);
                normal[(j, i)] = f64::from(sum);
            }
        }
        let inverse = normal.cholesky()?.inverse();
        let mut steps = vec![0.0f32; 6 * side * side];
        for k in 0..side * side {
            let column = Vector6::from_fn(|i, _| f64::from(weights[k] * descent[i][k]));
            let step = inverse * column;
            for i in 0..6 {
                steps[i * side * side + k] = step[i] as f32;
            }
        }
        let mut step_covariance = Matrix6::zeros();
        for i in 0..6 {
            for j in 0..6 {
                let (a, b) = (&steps[i * side * side..][..side * side], &steps[j * side * side..][..side * side]);
                step_covariance[(i, j)] = a.iter().zip(b).map(|(a, b)| f64::from(a * b)).sum();
            }
        }
        Some(Self { side, centred, weights, steps, step_covariance, weighted_mean, weighted_variance })
    }

    /// Aligns the reference to `picture` from `start`. `None` when it does not settle, bends
    /// out of all likeness or leaves the picture.
    pub fn align(&self, picture: &Plane, start: Warp, scratch: &mut Scratch) -> Option<Alignment> {
        let mut warp = start;
        let mut settled = false;
        for _ in 0..MOST_ITERATIONS {
            let sums = self.compare(picture, &warp, scratch)?;
            if settled {
                return Some(self.judged(&warp, &sums));
            }
            let p = self.step(sums.gain, &scratch.sampled);
            let half = self.side as f64 / 2.0;
            let change = Matrix2::new(1.0 + p[2] / half, p[3] / half, p[4] / half, 1.0 + p[5] / half);
            warp.shape *= change.try_inverse()?;
            warp.centre = warp.centre.moved(-(warp.shape * Vector2::new(p[0], p[1])));
            let off = warp.centre.distance_px(start.centre);
            let stretch = warp.shape.determinant();
            if !(off < self.side as f64 && (0.2..5.0).contains(&stretch)) {
                return None;
            }
            settled = p[0].hypot(p[1]) < 0.004 && p.fixed_rows::<4>(2).norm() < 0.02;
        }
        let sums = self.compare(picture, &warp, scratch)?;
        Some(self.judged(&warp, &sums))
    }

    fn step(&self, gain: f32, sampled: &[f32]) -> Vector6<f64> {
        let area = self.side * self.side;
        Vector6::from_fn(|i, _| f64::from(gain * dot(&self.steps[i * area..(i + 1) * area], sampled)))
    }

    fn compare(&self, picture: &Plane, warp: &Warp, scratch: &mut Scratch) -> Option<Comparison> {
        let reach = warp.shape.abs() * Vector2::repeat(self.side as f64 / 2.0);
        if !fits(picture, warp.centre, reach.x.max(reach.y) + 1.0) {
            return None;
        }
        scratch.sampled.resize(self.side * self.side, 0.0);
        sample_warped(picture, warp, self.side, &mut scratch.sampled);
        let [total, sum, squares, product] = comparison_sums(&self.weights, &scratch.sampled, &self.centred, self.weighted_mean);
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
    scratch.block.resize(SIDE * SIDE, 0.0);
    scratch.sampled.resize(SIDE * SIDE, 0.0);
    sample_block(old, from.x * scale - half, from.y * scale - half, SIDE, &mut scratch.block);
    let (steps_x, steps_y) = ((reach.0 * scale).ceil() as i32, (reach.1 * scale).ceil() as i32);
    let mut best = (0.7f32, None);
    for dy in -steps_y..=steps_y {
        for dx in -steps_x..=steps_x {
            let (x, y) = (to.x * scale + f64::from(dx), to.y * scale + f64::from(dy));
            if x < half || y < half || x > new.width() as f64 - half || y > new.height() as f64 - half {
                continue;
            }
            sample_block(new, x - half, y - half, SIDE, &mut scratch.sampled);
            let likeness = correlation(&scratch.block, &scratch.sampled);
            if likeness > best.0 {
                best = (likeness, Some(PlatePx::new(x / scale, y / scale)));
            }
        }
    }
    best.1
}

/// Zero-mean normalised correlation of two patches of the same size, 0 without texture.
pub fn correlation(a: &[f32], b: &[f32]) -> f32 {
    let (mean_a, mean_b) = (mean(a), mean(b));
    let (mut aa, mut bb, mut ab) = (0.0, 0.0, 0.0);
    for (a, b) in a.iter().zip(b) {
        let (a, b) = (a - mean_a, b - mean_b);
        aa += a * a;
        bb += b * b;
        ab += a * b;
    }
    if aa * bb > 0.0 { ab / (aa * bb).sqrt() } else { 0.0 }
}

impl Scratch {
    fn resize(&mut self, side: usize) {
        self.block.resize((side + 2) * (side + 2), 0.0);
        for buffer in [&mut self.template, &mut self.across, &mut self.down, &mut self.sampled] {
            buffer.resize(side * side, 0.0);
        }
    }
}

/// Weights that fall towards the patch's border, so that the position answers to its middle.
fn window(side: usize) -> Vec<f32> {
    let sigma = 0.35 * side as f32;
    let offset = |i: usize| i as f32 - (side as f32 - 1.0) / 2.0;
    (0..side * side)
        .map(|k| (-(offset(k % side).powi(2) + offset(k / side).powi(2)) / (2.0 * sigma * sigma)).exp())
        .collect()
}

fn descent_images(side: usize, across: &[f32], down: &[f32]) -> [Vec<f32>; 6] {
    let half = side as f32 / 2.0;
    let u = |k: usize| ((k % side) as f32 + 0.5 - half) / half;
    let v = |k: usize| ((k / side) as f32 + 0.5 - half) / half;
    let image = |f: &dyn Fn(usize) -> f32| (0..side * side).map(f).collect::<Vec<f32>>();
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
fn project_out(image: &mut [f32], weights: &[f32], centred: &[f32]) {
    let total: f32 = weights.iter().sum();
    let mean = image.iter().zip(weights).map(|(i, w)| i * w).sum::<f32>() / total;
    let energy: f32 = centred.iter().zip(weights).map(|(c, w)| w * c * c).sum();
    let along: f32 = image.iter().zip(weights).zip(centred).map(|((i, w), c)| w * i * c).sum::<f32>() / energy;
    for (i, c) in image.iter_mut().zip(centred) {
        *i -= mean + along * c;
    }
}

fn mean(values: &[f32]) -> f32 {
    values.iter().sum::<f32>() / values.len() as f32
}

/// Patch and central differences from a block with a border of 1 px.
#[multiversion(targets("x86_64+avx2+fma"))]
fn gradients(block: &[f32], side: usize, template: &mut [f32], across: &mut [f32], down: &mut [f32]) {
    let outer = side + 2;
    for y in 0..side {
        let above = &block[y * outer + 1..][..side];
        let at = &block[(y + 1) * outer..][..outer];
        let below = &block[(y + 2) * outer + 1..][..side];
        let row = y * side..(y + 1) * side;
        template[row.clone()].copy_from_slice(&at[1..=side]);
        for (x, g) in across[row.clone()].iter_mut().enumerate() {
            *g = 0.5 * (at[x + 2] - at[x]);
        }
        for (x, g) in down[row].iter_mut().enumerate() {
            *g = 0.5 * (below[x] - above[x]);
        }
    }
}

/// Samples `side`² px whose first pixel's area begins at (left, top); all share one fraction,
/// so that the four weights are constant. Outside the picture its border repeats.
fn sample_block(picture: &Plane, left: f64, top: f64, side: usize, out: &mut [f32]) {
    let (x0, y0) = (left.floor(), top.floor());
    let (fx, fy) = ((left - x0) as f32, (top - y0) as f32);
    let (x0, y0) = (x0 as isize, y0 as isize);
    let inside = x0 >= 0
        && y0 >= 0
        && x0 as usize + side < picture.width()
        && y0 as usize + side < picture.height();
    if inside {
        sample_inside(picture.levels(), picture.width(), (x0 as usize, y0 as usize), (fx, fy), side, out);
        return;
    }
    for y in 0..side {
        for x in 0..side {
            let (px, py) = (x0 + x as isize, y0 + y as isize);
            let top = (1.0 - fx) * picture.clamped(px, py) + fx * picture.clamped(px + 1, py);
            let bottom = (1.0 - fx) * picture.clamped(px, py + 1) + fx * picture.clamped(px + 1, py + 1);
            out[y * side + x] = (1.0 - fy) * top + fy * bottom;
        }
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn sample_inside(levels: &[f32], width: usize, at: (usize, usize), fraction: (f32, f32), side: usize, out: &mut [f32]) {
    let (fx, fy) = fraction;
    let weights = [(1.0 - fx) * (1.0 - fy), fx * (1.0 - fy), (1.0 - fx) * fy, fx * fy];
    for (y, row) in out.chunks_exact_mut(side).take(side).enumerate() {
        let a = &levels[(at.1 + y) * width + at.0..][..side + 1];
        let b = &levels[(at.1 + y + 1) * width + at.0..][..side + 1];
        for (x, o) in row.iter_mut().enumerate() {
            *o = weights[0] * a[x] + weights[1] * a[x + 1] + weights[2] * b[x] + weights[3] * b[x + 1];
        }
    }
}

/// Samples through an affine warp that is known to stay inside the picture.
#[multiversion(targets("x86_64+avx2+fma"))]
fn sample_warped(picture: &Plane, warp: &Warp, side: usize, out: &mut [f32]) {
    let (levels, width) = (picture.levels(), picture.width());
    let base_x = warp.centre.x.floor();
    let base_y = warp.centre.y.floor();
    let origin = base_y as isize * width as isize + base_x as isize;
    let (cx, cy) = ((warp.centre.x - base_x) as f32 - 0.5, (warp.centre.y - base_y) as f32 - 0.5);
    let shape = warp.shape.map(|s| s as f32);
    let half = (side as f32 - 1.0) / 2.0;
    // Offsets are made positive before truncation, which is then the floor.
    const LIFT: f32 = 1024.0;
    for (j, row) in out.chunks_exact_mut(side).enumerate() {
        let v = j as f32 - half;
        let (row_x, row_y) = (cx + shape[(0, 1)] * v + LIFT, cy + shape[(1, 1)] * v + LIFT);
        for (i, o) in row.iter_mut().enumerate() {
            let u = i as f32 - half;
            let (x, y) = (row_x + shape[(0, 0)] * u, row_y + shape[(1, 0)] * u);
            let (xi, yi) = (x as i32, y as i32);
            let (fx, fy) = (x - xi as f32, y - yi as f32);
            let at = origin + (yi as isize - LIFT as isize) * width as isize + xi as isize - LIFT as isize;
            let quad = levels.get(at as usize..at as usize + 2).zip(levels.get(at as usize + width..at as usize + width + 2));
            let Some(([a, b], [c, d])) = quad.map(|(t, b)| ([t[0], t[1]], [b[0], b[1]])) else {
                *o = 0.0;
                continue;
            };
            let top = a + fx * (b - a);
            let bottom = c + fx * (d - c);
            *o = top + fy * (bottom - top);
        }
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn normal_sums(across: &[f32], down: &[f32]) -> [f32; 3] {
    let mut lanes = [[0.0f32; 8]; 3];
    for (a, d) in across.chunks(8).zip(down.chunks(8)) {
        for (i, (a, d)) in a.iter().zip(d).enumerate() {
            lanes[0][i] += a * a;
            lanes[1][i] += a * d;
            lanes[2][i] += d * d;
        }
    }
    lanes.map(|l| l.iter().sum())
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn step_sums(across: &[f32], down: &[f32], sampled: &[f32], template: &[f32]) -> [f32; 2] {
    let mut lanes = [[0.0f32; 8]; 2];
    let chunks = across.chunks(8).zip(down.chunks(8)).zip(sampled.chunks(8)).zip(template.chunks(8));
    for (((a, d), s), t) in chunks {
        for i in 0..a.len() {
            let r = s[i] - t[i];
            lanes[0][i] += a[i] * r;
            lanes[1][i] += d[i] * r;
        }
    }
    lanes.map(|l| l.iter().sum())
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn dot(a: &[f32], b: &[f32]) -> f32 {
    let mut lanes = [0.0f32; 16];
    let (a16, b16) = (a.chunks_exact(16), b.chunks_exact(16));
    let tail: f32 = a16.remainder().iter().zip(b16.remainder()).map(|(a, b)| a * b).sum();
    for (a, b) in a16.zip(b16) {
        for i in 0..16 {
            lanes[i] += a[i] * b[i];
        }
    }
    lanes.iter().sum::<f32>() + tail
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn comparison_sums(weights: &[f32], sampled: &[f32], centred: &[f32], offset: f32) -> [f32; 4] {
    let mut lanes = [[0.0f32; 8]; 4];
    for ((w, s), t) in weights.chunks(8).zip(sampled.chunks(8)).zip(centred.chunks(8)) {
        for i in 0..w.len() {
            // Less the reference's mean, so that single precision is spent on contrast.
            let s = s[i] - offset;
            let ws = w[i] * s;
            lanes[0][i] += w[i];
            lanes[1][i] += ws;
            lanes[2][i] += ws * s;
            lanes[3][i] += ws * t[i];
        }
    }
    lanes.map(|l| l.iter().sum())
}

