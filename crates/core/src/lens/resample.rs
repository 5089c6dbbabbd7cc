//! What does a picture show between its pixels?
//!
//! Lanczos windowed sinc of three lobes (Duchon 1979): six by six px, weights from a table of
//! 1/1024 px with their sum divided out. Down the columns first, then across.
//!
//! Ringing is held down in each direction: the answer stays in the range of the two px next to
//! it, unless the slopes on both sides point beyond that range, as at the crest of a wave;
//! beside an edge one of them is flat. Beyond the border is transparent black.
//!
//! Two ways to the same: any map is followed px by px ([`point`]); where a row of a map runs
//! nearly level through the picture, as those of a lens do, what it needs is first mixed down
//! the columns that it crosses and then along it ([`scanline`]), twelve px instead of
//! thirty-six for each.

mod point;
mod scanline;

use super::maps::Map;
use crate::vectors::vectors;
use pulp::{Simd, WithSimd};
use rayon::prelude::*;
use std::sync::OnceLock;

/// A picture in four channels of f32: red, green, blue, and how much of it is there.
#[derive(Clone, Debug, Default)]
pub struct Rgba {
    /// Width, px.
    pub width_px: u32,
    /// Height, px.
    pub height_px: u32,
    /// Values, row by row.
    pub values: Vec<[f32; 4]>,
}

/// Steps per px of the table of weights.
const STEPS: usize = 1024;
/// Px across and down that take part.
const TAPS: usize = 6;
/// Of them, how many lie before the one that a position is rounded down to.
const BEFORE: i32 = 2;
/// Values of a row of them.
const ROW: usize = 4 * TAPS;

/// Weights of six neighbouring px by the fraction between the third and the fourth, each four
/// times over, for the channels.
type Weights = [[f32; ROW]];

fn weights() -> &'static Weights {
    static TABLE: OnceLock<Vec<[f32; ROW]>> = OnceLock::new();
    TABLE.get_or_init(|| (0..=STEPS).map(|step| lanczos(step as f64 / STEPS as f64)).collect())
}

fn lanczos(fraction: f64) -> [f32; ROW] {
    let sinc = |x: f64| if x.abs() < 1e-9 { 1.0 } else { x.sin() / x };
    let pi = std::f64::consts::PI;
    let weights: [f64; TAPS] = std::array::from_fn(|k| {
        let x = fraction - (k as f64 - f64::from(BEFORE));
        if x.abs() < 3.0 { sinc(pi * x) * sinc(pi * x / 3.0) } else { 0.0 }
    });
    let total: f64 = weights.iter().sum();
    std::array::from_fn(|i| (weights[i / 4] / total) as f32)
}

impl Rgba {
    /// What this picture shows at the positions of a map.
    pub fn through(&self, map: &Map) -> Self {
        let mut out = Self::default();
        self.through_into(map, &mut out);
        out
    }

    /// The same into a picture that is there already, whose memory is used again.
    pub fn through_into(&self, map: &Map, out: &mut Self) {
        let weights = weights();
        (out.width_px, out.height_px) = (map.width_px, map.height_px);
        out.values.resize(map.from_px.len(), [0.0; 4]);
        let width = map.width_px.max(1) as usize;
        let rows = out.values.par_chunks_mut(width).zip(map.from_px.par_chunks(width));
        rows.for_each_init(scanline::Scratch::default, |scratch, (out, from)| {
            vectors(Row { source: self, weights, from, out, scratch });
        });
    }
}

/// One row of the picture that is filled.
struct Row<'a> {
    source: &'a Rgba,
    weights: &'a Weights,
    from: &'a [[f32; 2]],
    out: &'a mut [[f32; 4]],
    scratch: &'a mut scanline::Scratch,
}

impl WithSimd for Row<'_> {
    type Output = ();

    #[inline(always)]
    fn with_simd<S: Simd>(self, simd: S) {
        let Self { source, weights, from, out, scratch } = self;
        let mut done = 0;
        while done < from.len() {
            let run = scanline::run(source, &from[done..]);
            let (from, out) = (&from[done..done + run.length], &mut out[done..done + run.length]);
            match run.kind {
                scanline::Kind::Beyond => out.fill([0.0; 4]),
                scanline::Kind::Level => scanline::fill(simd, source, weights, from, out, scratch),
                scanline::Kind::Any => point::fill(simd, source, weights, from, out),
            }
            done += run.length;
        }
    }
}

/// Whether a position lies in a picture of a size: beyond half a px from the outermost centres
/// there is nothing; what is not a number is nothing too.
#[inline(always)]
fn is_there([x, y]: [f32; 2], [right, bottom]: [f32; 2]) -> bool {
    (x >= 0.0) & (y >= 0.0) & (x <= right) & (y <= bottom)
}

/// Takes a position along one direction apart: the first of the six px, and the row of the table.
/// Without conversions that a vector unit does not have: added to 1.5 * 2^23 a value below 2^22
/// is rounded, and its bits count up by ones.
#[inline(always)]
fn apart(px: f32) -> (i32, u32) {
    const ONES: f32 = 12_582_912.0;
    let x = px - 0.5;
    let rounded = (x - 0.5) + ONES;
    let fraction = (x - (rounded - ONES)) * STEPS as f32;
    let step = (fraction + ONES).to_bits().wrapping_sub(ONES.to_bits());
    let first = rounded.to_bits().wrapping_sub(ONES.to_bits()) as i32 - BEFORE;
    (first, step.min(STEPS as u32))
}

/// Twenty-four values of six px times their weights, summed by channel.
#[inline(always)]
fn across<S: Simd>(simd: S, values: &[f32; ROW], weights: &[f32; ROW]) -> Px {
    if S::F32_LANES < 4 {
        // Without vectors: a px is not a part of one.
        let mut sums = [0.0; 4];
        values.iter().zip(weights).enumerate().for_each(|(k, (v, w))| sums[k % 4] += v * w);
        return Px(sums);
    }
    let (values, weights) = (S::as_simd_f32s(&values[..]).0, S::as_simd_f32s(&weights[..]).0);
    let mut sum = simd.mul_f32s(values[0], weights[0]);
    for (value, weight) in values[1..].iter().zip(&weights[1..]) {
        sum = simd.mul_add_e_f32s(*value, *weight, sum);
    }
    let mut pairs = [0.0f32; ROW];
    S::as_mut_simd_f32s(&mut pairs).0[0] = sum;
    Px([pairs[0], pairs[1], pairs[2], pairs[3]]).plus(Px([pairs[4], pairs[5], pairs[6], pairs[7]]))
}

/// The four channels of a px. Written out channel by channel, so that compilers make one
/// instruction of four.
#[derive(Clone, Copy)]
struct Px([f32; 4]);

impl Px {
    /// The first four of some values.
    #[inline(always)]
    fn of(values: &[f32]) -> Self {
        Self([values[0], values[1], values[2], values[3]])
    }

    #[inline(always)]
    fn plus(self, other: Self) -> Self {
        let (Self([a, b, c, d]), Self([e, f, g, h])) = (self, other);
        Self([a + e, b + f, c + g, d + h])
    }

    #[inline(always)]
    fn times(self, other: Self) -> Self {
        let (Self([a, b, c, d]), Self([e, f, g, h])) = (self, other);
        Self([a * e, b * f, c * g, d * h])
    }

    #[inline(always)]
    fn within(self, floor: Self, ceiling: Self) -> Self {
        let (Self([a, b, c, d]), Self([e, f, g, h]), Self([i, j, k, l])) = (self, floor, ceiling);
        let held = |value, floor, ceiling| lesser(greater(value, floor), ceiling);
        Self([held(a, e, i), held(b, f, j), held(c, g, k), held(d, h, l)])
    }
}

/// Least and greatest that may lie between `b` and `c`: their range, unless the slopes from `a`
/// and from `d` both lead beyond it.
#[inline(always)]
fn bounds<S: Simd>(simd: S, [a, b, c, d]: [S::f32s; 4]) -> [S::f32s; 2] {
    let half = simd.splat_f32s(0.5);
    let onward = |from: S::f32s, to: S::f32s| simd.mul_add_e_f32s(half, simd.sub_f32s(to, from), to);
    let (left, right) = (onward(a, b), onward(d, c));
    let floor = simd.min_f32s(simd.min_f32s(b, c), simd.max_f32s(left, right));
    let ceiling = simd.max_f32s(simd.max_f32s(b, c), simd.min_f32s(left, right));
    [floor, ceiling]
}

/// One instruction, unlike `f32::min`, which minds what is not a number.
#[inline(always)]
fn lesser(a: f32, b: f32) -> f32 {
    if a < b { a } else { b }
}

#[inline(always)]
fn greater(a: f32, b: f32) -> f32 {
    if a > b { a } else { b }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Waves of 5 px and longer in all directions.
    fn waves(x: f32, y: f32) -> f32 {
        let wave = |a: f32, b: f32, turn: f32| (a * x + b * y + turn).sin();
        0.5 + 0.12 * (wave(0.9, 0.5, 0.3) + wave(-0.4, 1.1, 1.0) + wave(0.05, 0.3, 2.0))
    }

    fn picture() -> Rgba {
        let (width_px, height_px) = (200, 120);
        let value = |i: u32| {
            let v = waves((i % width_px) as f32 + 0.5, (i / width_px) as f32 + 0.5);
            [v, 1.0 - v, 0.5 * v, 1.0]
        };
        Rgba { width_px, height_px, values: (0..width_px * height_px).map(value).collect() }
    }

    fn map(place: impl Fn(f32, f32) -> [f32; 2]) -> Map {
        let at = |i: u32| place((i % 160) as f32 + 0.5, (i / 160) as f32 + 0.5);
        Map { width_px: 160, height_px: 100, from_px: (0..160 * 100).map(at).collect() }
    }

    #[rstest::rstest]
    #[case::nearly_level(map(|x, y| [1.1 * x + 8.3, y + 0.1 * x + 3.7 + 0.0004 * x * x]), 0.02)]
    #[case::turned(map(|x, y| [100.0 + 0.7 * (x - 80.0) - 0.7 * (y - 50.0), 60.0 + 0.7 * (x - 80.0) + 0.7 * (y - 50.0)]), 0.02)]
    #[case::mirrored(map(|x, y| [180.0 - x, y + 4.2]), 0.02)]
    fn waves_are_sampled_where_the_map_says(#[case] map: Map, #[case] within: f32) {
        let out = picture().through(&map);
        let mut compared = 0;
        for (value, [x, y]) in out.values.iter().zip(&map.from_px) {
            if *x > 4.0 && *x < 196.0 && *y > 4.0 && *y < 116.0 {
                assert!((value[0] - waves(*x, *y)).abs() < within, "{} for {} at {x}, {y}", value[0], waves(*x, *y));
                assert!((value[3] - 1.0).abs() < 1e-5);
                compared += 1;
            }
        }
        assert!(compared > 5_000, "{compared}");
    }

    /// What a machine without vectors makes of it.
    fn without_vectors(source: &Rgba, map: &Map) -> Vec<[f32; 4]> {
        let mut out = vec![[0.0; 4]; map.from_px.len()];
        let mut scratch = scanline::Scratch::default();
        for (out, from) in out.chunks_mut(160).zip(map.from_px.chunks(160)) {
            let row = Row { source, weights: weights(), from, out, scratch: &mut scratch };
            Simd::vectorize(pulp::Scalar, row);
        }
        out
    }

    #[rstest::rstest]
    #[case::along_rows(map(|x, y| [1.3 * x - 3.0, 1.3 * y + 0.02 * x - 4.0]))]
    #[case::px_by_px(map(|x, y| [180.0 - x, y + 4.2]))]
    fn every_machine_sees_the_same(#[case] map: Map) {
        let source = picture();
        let with = source.through(&map).values;
        for (k, (a, b)) in with.iter().zip(without_vectors(&source, &map)).enumerate() {
            assert!(a.iter().zip(b).all(|(a, b)| (a - b).abs() < 1e-4), "px {k}: {a:?} {b:?}");
        }
    }

    #[test]
    fn both_ways_agree_up_to_the_border_and_beyond() {
        let source = picture();
        let level = map(|x, y| [1.3 * x - 3.0, 1.3 * y + 0.02 * x - 4.0]);
        let mut by_point = level.clone();
        // A row in which every other px has no place cannot be mixed along.
        for (k, at) in by_point.from_px.iter_mut().enumerate() {
            if k % 2 == 1 {
                *at = [f32::NAN; 2];
            }
        }
        let (along, point) = (source.through(&level), source.through(&by_point));
        let mut most = 0.0f32;
        for (k, (a, b)) in along.values.iter().zip(&point.values).enumerate().filter(|(k, _)| k % 2 == 0) {
            assert_eq!(a[3] > 0.5, b[3] > 0.5, "px {k}");
            most = most.max((a[0] - b[0]).abs());
        }
        assert!(most < 0.02, "{most}");
        assert!(point.values.iter().skip(1).step_by(2).all(|v| *v == [0.0; 4]));
    }
}
