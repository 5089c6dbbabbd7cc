//! The inner loops of following, on patches in rows of [`stride`] values.
//!
//! Closures would be compiled without the vector instructions, so loops do without them.
//! Loops run over eight lanes at a time and are compiled for AVX2 with FMA as well as for
//! the plain target; the processor decides at run time.

use super::Warp;
use crate::track::picture::Plane;
use multiversion::multiversion;
use nalgebra::{Matrix6, Vector2};

/// Values per row of a stored patch: the side rounded up to whole vectors of eight.
pub const fn stride(side: usize) -> usize {
    side.next_multiple_of(8)
}

/// Patch and central differences from a block with a border of 1 px.
#[multiversion(targets("x86_64+avx2+fma"))]
pub fn gradients(block: &[f32], side: usize, template: &mut [f32], across: &mut [f32], down: &mut [f32]) {
    let (outer, row) = (stride(side + 2), stride(side));
    let rows = template.chunks_exact_mut(row).zip(across.chunks_exact_mut(row)).zip(down.chunks_exact_mut(row));
    for (y, ((template, across), down)) in rows.enumerate() {
        let above = &block[y * outer + 1..][..side];
        let at = &block[(y + 1) * outer..][..side + 2];
        let below = &block[(y + 2) * outer + 1..][..side];
        template[..side].copy_from_slice(&at[1..=side]);
        for ((g, right), left) in across.iter_mut().zip(&at[2..]).zip(at) {
            *g = 0.5 * (right - left);
        }
        for ((g, below), above) in down.iter_mut().zip(below).zip(above) {
            *g = 0.5 * (below - above);
        }
        for beyond in [&mut template[side..], &mut across[side..], &mut down[side..]] {
            beyond.fill(0.0);
        }
    }
}

/// Samples `side` rows of [`stride`] px whose first pixel's area begins at (left, top); all
/// share one fraction, so that the four weights are constant. Outside the picture its border repeats.
pub fn sample_block(picture: &Plane, left: f64, top: f64, side: usize, out: &mut [f32]) {
    let (x0, y0) = (left.floor(), top.floor());
    let (fx, fy) = ((left - x0) as f32, (top - y0) as f32);
    let (x0, y0) = (x0 as isize, y0 as isize);
    let row = stride(side);
    let inside = x0 >= 0 && y0 >= 0 && x0 as usize + row < picture.width() && y0 as usize + side < picture.height();
    if inside {
        sample_inside(picture.levels(), picture.width(), (x0 as usize, y0 as usize), (fx, fy), row, out);
        return;
    }
    for (y, out) in out.chunks_exact_mut(row).enumerate() {
        for (x, o) in out[..side].iter_mut().enumerate() {
            let (px, py) = (x0 + x as isize, y0 + y as isize);
            let top = (1.0 - fx) * picture.clamped(px, py) + fx * picture.clamped(px + 1, py);
            let bottom = (1.0 - fx) * picture.clamped(px, py + 1) + fx * picture.clamped(px + 1, py + 1);
            *o = (1.0 - fy) * top + fy * bottom;
        }
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn sample_inside(levels: &[f32], width: usize, at: (usize, usize), fraction: (f32, f32), row: usize, out: &mut [f32]) {
    let (fx, fy) = fraction;
    let weights = [(1.0 - fx) * (1.0 - fy), fx * (1.0 - fy), (1.0 - fx) * fy, fx * fy];
    for (y, out) in out.chunks_exact_mut(row).enumerate() {
        let a = &levels[(at.1 + y) * width + at.0..][..row + 1];
        let b = &levels[(at.1 + y + 1) * width + at.0..][..row + 1];
        for (x, o) in out.chunks_exact_mut(8).enumerate() {
            let (a, b) = (&a[8 * x..8 * x + 9], &b[8 * x..8 * x + 9]);
            for i in 0..8 {
                o[i] = weights[0] * a[i] + weights[1] * a[i + 1] + weights[2] * b[i] + weights[3] * b[i + 1];
            }
        }
    }
}

/// Bits behind the point of the fixed-point positions in [`sample_warped`]: 1/65536 px.
const FRACTION_BITS: u32 = 16;
const ONE: i32 = 1 << FRACTION_BITS;

/// A row of sample positions in fixed point: where it starts and how far one sample is from the next.
#[derive(Clone, Copy)]
struct SampleRow {
    x: i32,
    y: i32,
    step_x: i32,
    step_y: i32,
}

impl SampleRow {
    /// Whether `count` samples with their right and lower neighbours lie inside the picture.
    fn is_inside(&self, picture: &Plane, count: usize) -> bool {
        let last = count as i64 - 1;
        let inside = |start: i32, step: i32, size: usize| {
            let end = i64::from(start) + i64::from(step) * last;
            let allowed = 0..(size as i64 - 1) << FRACTION_BITS;
            allowed.contains(&i64::from(start)) && allowed.contains(&end)
        };
        inside(self.x, self.step_x, picture.width()) && inside(self.y, self.step_y, picture.height())
    }

    /// How many samples from here fall on neighbouring columns of one line of the picture.
    fn run(&self) -> usize {
        run(self.x & (ONE - 1), self.step_x - ONE).min(run(self.y & (ONE - 1), self.step_y))
    }

    /// The rest of the row after `count` samples.
    fn after(self, count: usize) -> Self {
        let count = count as i32;
        Self { x: self.x + count * self.step_x, y: self.y + count * self.step_y, ..self }
    }
}

/// How often `step` can be added to a fraction of a pixel until it leaves the pixel.
fn run(fraction: i32, step: i32) -> usize {
    let count = match step {
        0 => i32::MAX,
        1.. => (ONE - fraction - 1) / step + 1,
        _ => fraction / -step + 1,
    };
    count as usize
}

/// Samples through an affine warp that is known to stay inside the picture. Positions run in
/// fixed point, so that no pixel converts between float and integer.
pub fn sample_warped(picture: &Plane, warp: &Warp, side: usize, out: &mut [f32]) {
    let fixed = |v: f64| (v * f64::from(ONE)).round() as i32;
    let half = (side as f64 - 1.0) / 2.0;
    let corner = -(warp.shape * Vector2::repeat(half));
    let mut row = SampleRow {
        x: fixed(warp.centre.x - 0.5 + corner.x),
        y: fixed(warp.centre.y - 0.5 + corner.y),
        step_x: fixed(warp.shape[(0, 0)]),
        step_y: fixed(warp.shape[(1, 0)]),
    };
    let down = (fixed(warp.shape[(0, 1)]), fixed(warp.shape[(1, 1)]));
    for out in out.chunks_exact_mut(stride(side)) {
        if row.is_inside(picture, out.len()) {
            inside_row(picture.levels(), picture.width(), row, out);
        } else {
            any_row(picture, row, &mut out[..side]);
        }
        row.x = row.x.wrapping_add(down.0);
        row.y = row.y.wrapping_add(down.1);
    }
}

fn any_row(picture: &Plane, row: SampleRow, out: &mut [f32]) {
    let scale = 1.0 / ONE as f32;
    let (mut x, mut y) = (row.x, row.y);
    for o in out {
        let (fx, fy) = ((x & (ONE - 1)) as f32 * scale, (y & (ONE - 1)) as f32 * scale);
        let (xi, yi) = ((x >> FRACTION_BITS) as isize, (y >> FRACTION_BITS) as isize);
        let top = picture.clamped(xi, yi) * (1.0 - fx) + picture.clamped(xi + 1, yi) * fx;
        let bottom = picture.clamped(xi, yi + 1) * (1.0 - fx) + picture.clamped(xi + 1, yi + 1) * fx;
        *o = top + fy * (bottom - top);
        x = x.wrapping_add(row.step_x);
        y = y.wrapping_add(row.step_y);
    }
}

/// A row in runs of samples whose pixels are neighbours: their values load as vectors, which
/// is quicker than one by one. Between frames features hardly turn or grow, so most rows are
/// one run.
#[multiversion(targets("x86_64+avx2+fma"))]
fn inside_row(levels: &[f32], width: usize, row: SampleRow, out: &mut [f32]) {
    let (mut row, mut out) = (row, out);
    while !out.is_empty() {
        let count = row.run().min(out.len());
        let (now, rest) = out.split_at_mut(count);
        let start = (row.y >> FRACTION_BITS) as usize * width + (row.x >> FRACTION_BITS) as usize;
        straight_run(&levels[start..], &levels[start + width..], row, now);
        (row, out) = (row.after(count), rest);
    }
}

/// Samples between neighbouring pixels of two lines.
#[inline(always)]
fn straight_run(upper: &[f32], lower: &[f32], row: SampleRow, out: &mut [f32]) {
    let scale = 1.0 / ONE as f32;
    let (upper, lower) = (&upper[..out.len() + 1], &lower[..out.len() + 1]);
    for i in 0..out.len() {
        let fx = ((row.x + i as i32 * row.step_x) & (ONE - 1)) as f32 * scale;
        let fy = ((row.y + i as i32 * row.step_y) & (ONE - 1)) as f32 * scale;
        let top = upper[i] + fx * (upper[i + 1] - upper[i]);
        let bottom = lower[i] + fx * (lower[i + 1] - lower[i]);
        out[i] = top + fy * (bottom - top);
    }
}

/// Sum over eight lanes.
#[inline(always)]
fn total(lanes: &[f32; 8]) -> f32 {
    let [a, b, c, d, e, f, g, h] = lanes;
    ((a + e) + (c + g)) + ((b + f) + (d + h))
}

#[inline(always)]
fn totals_of<const N: usize>(lanes: &[[f32; 8]; N]) -> [f32; N] {
    let mut totals = [0.0; N];
    for (t, lanes) in totals.iter_mut().zip(lanes) {
        *t = total(lanes);
    }
    totals
}

/// Sum of all values, in lanes.
#[multiversion(targets("x86_64+avx2+fma"))]
pub fn sum(values: &[f32]) -> f32 {
    let mut lanes = [0.0f32; 8];
    for v in values.chunks_exact(8) {
        for i in 0..8 {
            lanes[i] += v[i];
        }
    }
    total(&lanes)
}

/// What a step to the reference needs: the sums of `across` and `down`, each as it is, times
/// u and times v, with what is left of the sampled patch once bias and gain are taken out
/// (`sampled - mean - gain * centred`). u and v run from -1 to 1 over the side.
#[multiversion(targets("x86_64+avx2+fma"))]
pub fn steepest_sums([across, down, centred, sampled]: [&[f32]; 4], side: usize, (mean, gain): (f32, f32)) -> [f32; 6] {
    let half = side as f32 / 2.0;
    let by_half = 1.0 / half;
    let row = stride(side);
    // As it is, times u, times v; for across, then for down.
    let mut totals = [[0.0f32; 8]; 6];
    let gradients = across.chunks_exact(row).zip(down.chunks_exact(row));
    let patches = centred.chunks_exact(row).zip(sampled.chunks_exact(row));
    for (y, ((across, down), (centred, sampled))) in gradients.zip(patches).enumerate() {
        let v = (y as f32 + 0.5 - half) / half;
        let mut sums = [[0.0f32; 8]; 2];
        let gradients = across.chunks_exact(8).zip(down.chunks_exact(8));
        let patches = centred.chunks_exact(8).zip(sampled.chunks_exact(8));
        for (x, ((across, down), (centred, sampled))) in gradients.zip(patches).enumerate() {
            let first = (8 * x) as f32 + 0.5 - half;
            for i in 0..8 {
                let u = (first + i as f32) * by_half;
                let left = sampled[i] - mean - gain * centred[i];
                let (a, d) = (across[i] * left, down[i] * left);
                sums[0][i] += a;
                sums[1][i] += d;
                totals[1][i] += u * a;
                totals[4][i] += u * d;
            }
        }
        for i in 0..8 {
            totals[0][i] += sums[0][i];
            totals[2][i] += v * sums[0][i];
            totals[3][i] += sums[1][i];
            totals[5][i] += v * sums[1][i];
        }
    }
    totals_of(&totals)
}

/// All inner products of six patches that lie one after the other in `rows`.
pub fn gram(rows: &[f32]) -> Matrix6<f64> {
    let area = rows.len() / 6;
    let row = |i: usize| &rows[i * area..(i + 1) * area];
    let mut products = Matrix6::zeros();
    for i in 0..6 {
        for j in 0..=i {
            products[(i, j)] = f64::from(dot(row(i), row(j)));
            products[(j, i)] = products[(i, j)];
        }
    }
    products
}

/// The six steepest-descent images of an affine motion, one after the other, in the order of [`steepest_sums`].
#[multiversion(targets("x86_64+avx2+fma"))]
pub fn descent_images(side: usize, across: &[f32], down: &[f32], out: &mut [f32]) {
    let half = side as f32 / 2.0;
    let row = stride(side);
    let area = across.len();
    let (of_across, of_down) = out.split_at_mut(3 * area);
    for (gradient, out) in [(across, of_across), (down, of_down)] {
        let (plain, rest) = out.split_at_mut(area);
        let (by_u, by_v) = rest.split_at_mut(area);
        plain.copy_from_slice(gradient);
        for (k, g) in gradient.chunks_exact(row).enumerate() {
            let v = (k as f32 + 0.5 - half) / half;
            let (by_u, by_v) = (&mut by_u[k * row..(k + 1) * row], &mut by_v[k * row..(k + 1) * row]);
            for (x, ((by_u, by_v), g)) in by_u.iter_mut().zip(by_v).zip(g).enumerate() {
                *by_u = g * ((x as f32 + 0.5 - half) / half);
                *by_v = g * v;
            }
        }
    }
}

/// Makes the image what a change of bias or gain cannot explain, in the weighted sense, and
/// multiplies it by the `roots` of the weights: `image - mean - along * centred`.
#[multiversion(targets("x86_64+avx2+fma"))]
pub fn subtract_and_weigh(image: &mut [f32], centred: &[f32], weights: &[f32], mean: f32, along: f32) {
    for ((i, c), w) in image.iter_mut().zip(centred).zip(weights) {
        *i = w * (*i - mean - along * c);
    }
}

/// Each value times its weight.
#[multiversion(targets("x86_64+avx2+fma"))]
pub fn weigh(values: &mut [f32], weights: &[f32]) {
    for (v, w) in values.iter_mut().zip(weights) {
        *v *= w;
    }
}

/// Sums over both gradients: of across, of down, and of their squares and products xx, xy, yy.
#[multiversion(targets("x86_64+avx2+fma"))]
pub fn gradient_sums(across: &[f32], down: &[f32]) -> [f32; 5] {
    let mut lanes = [[0.0f32; 8]; 5];
    for (a, d) in across.chunks_exact(8).zip(down.chunks_exact(8)) {
        for i in 0..8 {
            lanes[0][i] += a[i];
            lanes[1][i] += d[i];
            lanes[2][i] += a[i] * a[i];
            lanes[3][i] += a[i] * d[i];
            lanes[4][i] += d[i] * d[i];
        }
    }
    totals_of(&lanes)
}

/// Sums over the difference of two patches: times across, times down, and by itself over `inside`.
#[multiversion(targets("x86_64+avx2+fma"))]
pub fn step_sums([across, down, inside]: [&[f32]; 3], sampled: &[f32], template: &[f32]) -> [f32; 3] {
    let mut lanes = [[0.0f32; 8]; 3];
    let weights = across.chunks_exact(8).zip(down.chunks_exact(8)).zip(inside.chunks_exact(8));
    for (((a, d), n), (s, t)) in weights.zip(sampled.chunks_exact(8).zip(template.chunks_exact(8))) {
        for i in 0..8 {
            let off = s[i] - t[i];
            lanes[0][i] += a[i] * off;
            lanes[1][i] += d[i] * off;
            lanes[2][i] += n[i] * off;
        }
    }
    totals_of(&lanes)
}

/// Inner product.
#[multiversion(targets("x86_64+avx2+fma"))]
pub fn dot(a: &[f32], b: &[f32]) -> f32 {
    let mut lanes = [0.0f32; 8];
    for (a, b) in a.chunks_exact(8).zip(b.chunks_exact(8)) {
        for i in 0..8 {
            lanes[i] += a[i] * b[i];
        }
    }
    total(&lanes)
}

/// Weighted sum, sum of squares and product with the reference of a sampled patch, less `offset`.
#[multiversion(targets("x86_64+avx2+fma"))]
pub fn comparison_sums(weights: &[f32], sampled: &[f32], centred: &[f32], offset: f32) -> [f32; 3] {
    let mut lanes = [[0.0f32; 8]; 3];
    for ((w, s), t) in weights.chunks_exact(8).zip(sampled.chunks_exact(8)).zip(centred.chunks_exact(8)) {
        // Less the reference's mean, so that single precision is spent on contrast.
        for i in 0..8 {
            let level = s[i] - offset;
            let weighted = w[i] * level;
            lanes[0][i] += weighted;
            lanes[1][i] += weighted * level;
            lanes[2][i] += weighted * t[i];
        }
    }
    totals_of(&lanes)
}
