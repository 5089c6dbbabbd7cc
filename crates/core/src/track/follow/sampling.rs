//! What a picture shows between its pixels: blocks with one fraction for all, and patches
//! through an affine warp, bilinear, in vectors.

use super::Warp;
use super::kernels::{stride, whole, whole_mut};
use crate::track::picture::Plane;
use nalgebra::Vector2;
use pulp::Simd;

/// Samples `side` rows of [`stride`] px whose first pixel's area begins at (left, top); all
/// share one fraction, so that the four weights are constant. Outside the picture its border repeats.
#[inline(always)]
pub fn sample_block<S: Simd>(
    simd: S,
    picture: &Plane,
    left: f64,
    top: f64,
    side: usize,
    out: &mut [f32],
) {
    let (x0, y0) = (left.floor(), top.floor());
    let (fx, fy) = ((left - x0) as f32, (top - y0) as f32);
    let (x0, y0) = (x0 as isize, y0 as isize);
    let row = stride(side);
    let inside = x0 >= 0
        && y0 >= 0
        && x0 as usize + row < picture.width()
        && y0 as usize + side < picture.height();
    if !inside {
        return sample_border(picture, (x0, y0), (fx, fy), side, out);
    }
    let weights = [
        (1.0 - fx) * (1.0 - fy),
        fx * (1.0 - fy),
        (1.0 - fx) * fy,
        fx * fy,
    ];
    let [a, b, c, d] = weights.map(|w| simd.splat_f32s(w));
    for (y, out) in out.chunks_exact_mut(row).take(side).enumerate() {
        let upper =
            &picture.levels()[(y0 as usize + y) * picture.width() + x0 as usize..][..row + 1];
        let lower =
            &picture.levels()[(y0 as usize + y + 1) * picture.width() + x0 as usize..][..row + 1];
        let upper = whole::<S>(&upper[..row])
            .iter()
            .zip(whole::<S>(&upper[1..]));
        let lower = whole::<S>(&lower[..row])
            .iter()
            .zip(whole::<S>(&lower[1..]));
        for (out, ((ul, ur), (ll, lr))) in whole_mut::<S>(out).iter_mut().zip(upper.zip(lower)) {
            let above = simd.mul_add_e_f32s(b, *ur, simd.mul_f32s(a, *ul));
            let below = simd.mul_add_e_f32s(d, *lr, simd.mul_f32s(c, *ll));
            *out = simd.add_f32s(above, below);
        }
    }
}

/// The same where some of it lies outside, as all does that is followed on coarse levels: what lies
/// between two columns of the picture in one go, the columns beyond its sides one by one.
#[inline(never)]
fn sample_border(
    picture: &Plane,
    at: (isize, isize),
    (fx, fy): (f32, f32),
    side: usize,
    out: &mut [f32],
) {
    let (width, height) = (picture.width() as isize, picture.height() as isize);
    let line = |y: isize| picture.row(y.clamp(0, height - 1) as usize);
    let within = |x: isize| x.clamp(0, side as isize) as usize;
    let first = within(-at.0);
    let end = within(width - 1 - at.0).max(first);
    let mix = |[ul, ur, ll, lr]: [f32; 4]| {
        let top = (1.0 - fx) * ul + fx * ur;
        let bottom = (1.0 - fx) * ll + fx * lr;
        (1.0 - fy) * top + fy * bottom
    };
    for (y, out) in out.chunks_exact_mut(stride(side)).take(side).enumerate() {
        let y = at.1 + y as isize;
        let (upper, lower) = (line(y), line(y + 1));
        let beyond = |x: usize| {
            let column = |x: isize| x.clamp(0, width - 1) as usize;
            let (left, right) = (column(at.0 + x as isize), column(at.0 + x as isize + 1));
            mix([upper[left], upper[right], lower[left], lower[right]])
        };
        for x in (0..first).chain(end..side) {
            out[x] = beyond(x);
        }
        if first < end {
            let start = (at.0 + first as isize) as usize;
            let [upper, lower] = [upper, lower].map(|line| &line[start..=start + end - first]);
            let corners = upper.windows(2).zip(lower.windows(2));
            for (o, (upper, lower)) in out[first..end].iter_mut().zip(corners) {
                *o = mix([upper[0], upper[1], lower[0], lower[1]]);
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
        inside(self.x, self.step_x, picture.width())
            && inside(self.y, self.step_y, picture.height())
    }

    /// How many samples from here fall on neighbouring columns of one line of the picture.
    fn run(&self) -> usize {
        run(self.x & (ONE - 1), self.step_x - ONE).min(run(self.y & (ONE - 1), self.step_y))
    }

    /// The rest of the row after `count` samples.
    fn after(self, count: usize) -> Self {
        let count = count as i32;
        Self {
            x: self.x + count * self.step_x,
            y: self.y + count * self.step_y,
            ..self
        }
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
#[inline(always)]
pub fn sample_warped<S: Simd>(simd: S, picture: &Plane, warp: &Warp, side: usize, out: &mut [f32]) {
    let half = (side as f64 - 1.0) / 2.0;
    let corner = -(warp.shape * Vector2::repeat(half));
    let mut row = SampleRow {
        x: fixed(warp.centre.x - 0.5 + corner.x),
        y: fixed(warp.centre.y - 0.5 + corner.y),
        step_x: fixed(warp.shape[(0, 0)]),
        step_y: fixed(warp.shape[(1, 0)]),
    };
    let down = (fixed(warp.shape[(0, 1)]), fixed(warp.shape[(1, 1)]));
    for out in out.chunks_exact_mut(stride(side)).take(side) {
        if row.is_inside(picture, out.len()) {
            inside_row(simd, picture, row, out);
        } else {
            border_row(simd, picture, row, &mut out[..side]);
        }
        row.x = row.x.wrapping_add(down.0);
        row.y = row.y.wrapping_add(down.1);
    }
}

fn fixed(value: f64) -> i32 {
    (value * f64::from(ONE)).round() as i32
}

/// A row of which some lies outside: in vectors what lies inside.
#[inline(always)]
fn border_row<S: Simd>(simd: S, picture: &Plane, row: SampleRow, out: &mut [f32]) {
    let (mut first, mut end) = (0, out.len());
    while first < end && !row.after(first).is_inside(picture, 1) {
        first += 1;
    }
    while first < end && !row.after(end - 1).is_inside(picture, 1) {
        end -= 1;
    }
    let (inside, after) = out.split_at_mut(end);
    let (before, inside) = inside.split_at_mut(first);
    any_row(picture, row, before);
    inside_row(simd, picture, row.after(first), inside);
    any_row(picture, row.after(end), after);
}

/// Samples wherever they lie, one by one.
#[inline(never)]
fn any_row(picture: &Plane, row: SampleRow, out: &mut [f32]) {
    let scale = 1.0 / ONE as f32;
    let (mut x, mut y) = (row.x, row.y);
    for o in out {
        let (fx, fy) = (
            (x & (ONE - 1)) as f32 * scale,
            (y & (ONE - 1)) as f32 * scale,
        );
        let at = ((x >> FRACTION_BITS) as isize, (y >> FRACTION_BITS) as isize);
        let [ul, ur, ll, lr] = corners(picture, at);
        let top = ul * (1.0 - fx) + ur * fx;
        let bottom = ll * (1.0 - fx) + lr * fx;
        *o = top + fy * (bottom - top);
        x = x.wrapping_add(row.step_x);
        y = y.wrapping_add(row.step_y);
    }
}

/// The values of a pixel, of its right, its lower and its lower right neighbour.
#[inline(always)]
fn corners(picture: &Plane, (x, y): (isize, isize)) -> [f32; 4] {
    let (width, height) = (picture.width(), picture.height());
    if x >= 0 && y >= 0 && (x as usize) + 1 < width && (y as usize) + 1 < height {
        let at = y as usize * width + x as usize;
        let (upper, lower) = (&picture.levels()[at..], &picture.levels()[at + width..]);
        return [upper[0], upper[1], lower[0], lower[1]];
    }
    [(0, 0), (1, 0), (0, 1), (1, 1)].map(|(dx, dy)| picture.clamped(x + dx, y + dy))
}

/// A row in runs of samples whose pixels are neighbours: their values load as vectors, which
/// is quicker than one by one. Between frames features hardly turn or grow, so most rows are
/// one run.
#[inline(always)]
fn inside_row<S: Simd>(simd: S, picture: &Plane, row: SampleRow, out: &mut [f32]) {
    let (mut row, mut out) = (row, out);
    while !out.is_empty() {
        let count = row.run().min(out.len());
        let (now, rest) = out.split_at_mut(count);
        let start =
            (row.y >> FRACTION_BITS) as usize * picture.width() + (row.x >> FRACTION_BITS) as usize;
        let upper = &picture.levels()[start..][..count + 1];
        let lower = &picture.levels()[start + picture.width()..][..count + 1];
        straight_run(simd, upper, lower, row, now);
        (row, out) = (row.after(count), rest);
    }
}

/// 0, 1, 2 ... for the values of one vector.
const COUNT: [f32; 8] = [0.0, 1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0];

/// Samples between neighbouring pixels of two lines. Within a run the fractions change evenly.
#[inline(always)]
fn straight_run<S: Simd>(simd: S, upper: &[f32], lower: &[f32], row: SampleRow, out: &mut [f32]) {
    let scale = 1.0 / ONE as f32;
    let count = simd.partial_load_f32s(&COUNT[..S::F32_LANES]);
    let mut across = Ramp::new(
        simd,
        count,
        (row.x & (ONE - 1)) as f32 * scale,
        (row.step_x - ONE) as f32 * scale,
    );
    let mut down = Ramp::new(
        simd,
        count,
        (row.y & (ONE - 1)) as f32 * scale,
        row.step_y as f32 * scale,
    );
    let length = out.len();
    let (whole, rest) = S::as_mut_simd_f32s(out);
    let (ul, ul_rest) = S::as_simd_f32s(&upper[..length]);
    let (ur, ur_rest) = S::as_simd_f32s(&upper[1..]);
    let (ll, ll_rest) = S::as_simd_f32s(&lower[..length]);
    let (lr, lr_rest) = S::as_simd_f32s(&lower[1..]);
    for (out, ((ul, ur), (ll, lr))) in whole
        .iter_mut()
        .zip(ul.iter().zip(ur).zip(ll.iter().zip(lr)))
    {
        *out = between(
            simd,
            [*ul, *ur, *ll, *lr],
            across.next(simd),
            down.next(simd),
        );
    }
    if !rest.is_empty() {
        let corners = [
            simd.partial_load_f32s(ul_rest),
            simd.partial_load_f32s(ur_rest),
            simd.partial_load_f32s(ll_rest),
            simd.partial_load_f32s(lr_rest),
        ];
        simd.partial_store_f32s(
            rest,
            between(simd, corners, across.next(simd), down.next(simd)),
        );
    }
}

/// Values that change evenly, a vector at a time.
struct Ramp<S: Simd> {
    now: S::f32s,
    step: S::f32s,
}

impl<S: Simd> Ramp<S> {
    #[inline(always)]
    fn new(simd: S, count: S::f32s, first: f32, step: f32) -> Self {
        let now = simd.mul_add_e_f32s(count, simd.splat_f32s(step), simd.splat_f32s(first));
        Self {
            now,
            step: simd.splat_f32s(step * S::F32_LANES as f32),
        }
    }

    #[inline(always)]
    fn next(&mut self, simd: S) -> S::f32s {
        let now = self.now;
        self.now = simd.add_f32s(now, self.step);
        now
    }
}

/// Upper left, upper right, lower left, lower right, mixed by the fractions.
#[inline(always)]
fn between<S: Simd>(simd: S, [ul, ur, ll, lr]: [S::f32s; 4], fx: S::f32s, fy: S::f32s) -> S::f32s {
    let top = simd.mul_add_e_f32s(fx, simd.sub_f32s(ur, ul), ul);
    let bottom = simd.mul_add_e_f32s(fx, simd.sub_f32s(lr, ll), ll);
    simd.mul_add_e_f32s(fy, simd.sub_f32s(bottom, top), top)
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]

    use super::*;
    use crate::spaces::PlatePx;
    use crate::vectors::vectors;
    use nalgebra::Matrix2;
    use pulp::WithSimd;
    use rstest::rstest;

    const SIZE: (usize, usize) = (31, 19);

    fn picture() -> Plane {
        let mut chance = fastrand::Rng::with_seed(3);
        let levels = (0..SIZE.0 * SIZE.1).map(|_| 200.0 * chance.f32());
        Plane::new(SIZE.0, SIZE.1, levels.collect()).unwrap()
    }

    /// A block or, with a shape, a warped patch about a place.
    struct Sampled<'a>(&'a Plane, Warp, usize, bool);

    impl WithSimd for Sampled<'_> {
        type Output = Vec<f32>;

        #[inline(always)]
        fn with_simd<S: Simd>(self, simd: S) -> Vec<f32> {
            let Self(picture, warp, side, warped) = self;
            let mut out = vec![0.0; stride(side) * side];
            let half = side as f64 / 2.0;
            let (left, top) = (warp.centre.x - half, warp.centre.y - half);
            if warped {
                sample_warped(simd, picture, &warp, side, &mut out);
            } else {
                sample_block(simd, picture, left, top, side, &mut out);
            }
            out
        }
    }

    /// Steps are half of 1/65536 px off at most; so much adds up over rows and columns of 41 px, where neighbours differ by
    /// 200 levels.
    const FIXED_POINT: f64 = 200.0 * 2.0 * 41.0 * 0.5 / ONE as f64;

    /// Inside, across each border and beyond all of them, each px is what lies between its four neighbours.
    #[rstest]
    fn what_is_sampled_is_what_lies_there(
        #[values(-30.0, 1.3, 15.5, 29.8, 70.0)] x: f64,
        #[values(-20.0, 0.4, 9.5, 18.7, 45.0)] y: f64,
        #[values(5, 11, 41)] side: usize,
        #[values(None, Some(Matrix2::new(0.9, 0.2, -0.1, 1.2)))] shape: Option<Matrix2<f64>>,
    ) {
        let picture = picture();
        let warp = Warp {
            centre: PlatePx::new(x, y),
            shape: shape.unwrap_or(Matrix2::identity()),
        };
        let sampled = vectors(Sampled(&picture, warp, side, shape.is_some()));
        let middle = (side as f64 - 1.0) / 2.0;
        for (row, values) in sampled.chunks_exact(stride(side)).enumerate() {
            for (column, value) in values[..side].iter().enumerate() {
                let off = Vector2::new(column as f64 - middle, row as f64 - middle);
                let there = picture.level_at(warp.centre.moved(warp.shape * off));
                let differs = (f64::from(*value) - there).abs();
                assert!(
                    differs <= FIXED_POINT,
                    "{value} at {column}, {row} instead of {there}"
                );
            }
        }
    }
}
