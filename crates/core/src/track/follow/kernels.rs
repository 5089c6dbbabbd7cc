//! The inner loops of following, on patches in rows of [`stride`] values.
//!
//! Loops run over eight lanes at a time and are compiled for AVX2 with FMA as well as for
//! the plain target; the processor decides at run time.

use super::Warp;
use crate::track::picture::Plane;
use multiversion::multiversion;

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
    /// Whether `count` samples and their right and lower neighbours lie inside the picture.
    fn is_inside(&self, picture: &Plane, count: usize) -> bool {
        let last = count as i32 - 1;
        let inside = |start: i32, step: i32, size: usize| {
            let end = i64::from(start) + i64::from(step) * i64::from(last);
            let limit = (size as i64 - 1) << FRACTION_BITS;
            (0..limit).contains(&i64::from(start)) && (0..limit).contains(&end)
        };
        inside(self.x, self.step_x, picture.width()) && inside(self.y, self.step_y, picture.height())
    }
}

/// Samples through an affine warp that is known to stay inside the picture. Positions run in
/// fixed point, so that no pixel converts between float and integer.
pub fn sample_warped(picture: &Plane, warp: &Warp, side: usize, out: &mut [f32]) {
    let fixed = |v: f64| (v * f64::from(ONE)).round() as i32;
    let half = (side as f64 - 1.0) / 2.0;
    let (step_x, step_y) = (fixed(warp.shape[(0, 0)]), fixed(warp.shape[(1, 0)]));
    let vectors = picture.levels().len() < i32::MAX as usize && has_vectors();
    for (j, out) in out.chunks_exact_mut(stride(side)).enumerate() {
        let v = j as f64 - half;
        let row = SampleRow {
            x: fixed(warp.centre.x - 0.5 + warp.shape[(0, 1)] * v - warp.shape[(0, 0)] * half),
            y: fixed(warp.centre.y - 0.5 + warp.shape[(1, 1)] * v - warp.shape[(1, 0)] * half),
            step_x,
            step_y,
        };
        if vectors && row.is_inside(picture, out.len()) {
            vector_row(picture, row, out);
        } else {
            plain_row(picture, row, &mut out[..side]);
        }
    }
}

fn plain_row(picture: &Plane, row: SampleRow, out: &mut [f32]) {
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

#[cfg(target_arch = "x86_64")]
fn has_vectors() -> bool {
    std::arch::is_x86_feature_detected!("avx2") && std::arch::is_x86_feature_detected!("fma")
}

#[cfg(not(target_arch = "x86_64"))]
fn has_vectors() -> bool {
    false
}

#[cfg(not(target_arch = "x86_64"))]
fn vector_row(picture: &Plane, row: SampleRow, out: &mut [f32]) {
    plain_row(picture, row, out);
}

/// Eight samples at a time; the row is inside the picture and the processor can. Values are
/// loaded one by one: gather instructions are slower where processors guard them.
#[cfg(target_arch = "x86_64")]
fn vector_row(picture: &Plane, row: SampleRow, out: &mut [f32]) {
    assert!(row.is_inside(picture, out.len()) && picture.levels().len() < i32::MAX as usize);
    // SAFETY: `has_vectors` was asked before; all samples with their right and lower
    // neighbours are inside the picture, as asserted.
    unsafe { inside_row_avx2(picture.levels(), picture.width(), row, out) }
}

#[cfg(target_arch = "x86_64")]
#[target_feature(enable = "avx2,fma")]
unsafe fn inside_row_avx2(levels: &[f32], width: usize, row: SampleRow, out: &mut [f32]) {
    let scale = 1.0 / ONE as f32;
    let mut start = (row.x, row.y);
    for o in out.chunks_exact_mut(8) {
        let (mut a, mut b, mut c, mut d) = ([0.0f32; 8], [0.0f32; 8], [0.0f32; 8], [0.0f32; 8]);
        let (mut fx, mut fy) = ([0.0f32; 8], [0.0f32; 8]);
        for i in 0..8 {
            let (x, y) = (start.0 + i as i32 * row.step_x, start.1 + i as i32 * row.step_y);
            let at = (y >> FRACTION_BITS) as usize * width + (x >> FRACTION_BITS) as usize;
            fx[i] = (x & (ONE - 1)) as f32 * scale;
            fy[i] = (y & (ONE - 1)) as f32 * scale;
            // SAFETY: the caller vouches for this index and those one to the right and below.
            unsafe {
                a[i] = *levels.get_unchecked(at);
                b[i] = *levels.get_unchecked(at + 1);
                c[i] = *levels.get_unchecked(at + width);
                d[i] = *levels.get_unchecked(at + width + 1);
            }
        }
        for i in 0..8 {
            let top = a[i] + fx[i] * (b[i] - a[i]);
            let bottom = c[i] + fx[i] * (d[i] - c[i]);
            o[i] = top + fy[i] * (bottom - top);
        }
        start = (start.0 + 8 * row.step_x, start.1 + 8 * row.step_y);
    }
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
    lanes.iter().sum()
}

/// Six inner products with the same vector: `rows` holds six of its length, one after the other.
pub fn six_dots(rows: &[f32], vector: &[f32]) -> [f32; 6] {
    std::array::from_fn(|i| dot(&rows[i * vector.len()..(i + 1) * vector.len()], vector))
}

/// Sums of squares and products of both gradients: xx, xy, yy.
#[multiversion(targets("x86_64+avx2+fma"))]
pub fn normal_sums(across: &[f32], down: &[f32]) -> [f32; 3] {
    let mut lanes = [[0.0f32; 8]; 3];
    for (a, d) in across.chunks_exact(8).zip(down.chunks_exact(8)) {
        for (lanes, (p, q)) in lanes.iter_mut().zip([(a, a), (a, d), (d, d)]) {
            for i in 0..8 {
                lanes[i] += p[i] * q[i];
            }
        }
    }
    lanes.map(|l| l.iter().sum())
}

/// Both gradients times the difference of two patches.
#[multiversion(targets("x86_64+avx2+fma"))]
pub fn step_sums(across: &[f32], down: &[f32], sampled: &[f32], template: &[f32]) -> [f32; 2] {
    let mut lanes = [[0.0f32; 8]; 2];
    let gradients = across.chunks_exact(8).zip(down.chunks_exact(8));
    for ((a, d), (s, t)) in gradients.zip(sampled.chunks_exact(8).zip(template.chunks_exact(8))) {
        let r: [f32; 8] = std::array::from_fn(|i| s[i] - t[i]);
        for (lanes, gradient) in lanes.iter_mut().zip([a, d]) {
            for i in 0..8 {
                lanes[i] += gradient[i] * r[i];
            }
        }
    }
    lanes.map(|l| l.iter().sum())
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
    lanes.iter().sum()
}

/// Weighted sum, sum of squares and product with the reference of a sampled patch, less `offset`.
#[multiversion(targets("x86_64+avx2+fma"))]
pub fn comparison_sums(weights: &[f32], sampled: &[f32], centred: &[f32], offset: f32) -> [f32; 3] {
    let mut lanes = [[0.0f32; 8]; 3];
    for ((w, s), t) in weights.chunks_exact(8).zip(sampled.chunks_exact(8)).zip(centred.chunks_exact(8)) {
        // Less the reference's mean, so that single precision is spent on contrast.
        let s: [f32; 8] = std::array::from_fn(|i| s[i] - offset);
        let ws: [f32; 8] = std::array::from_fn(|i| w[i] * s[i]);
        for i in 0..8 {
            lanes[0][i] += ws[i];
        }
        for i in 0..8 {
            lanes[1][i] += ws[i] * s[i];
        }
        for i in 0..8 {
            lanes[2][i] += ws[i] * t[i];
        }
    }
    lanes.map(|l| l.iter().sum())
}
