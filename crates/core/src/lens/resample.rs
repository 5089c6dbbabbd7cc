//! What does a picture show between its pixels?
//!
//! Lanczos windowed sinc of three lobes (Duchon 1979): six by six px ([`kernel`]), down the
//! columns first, then across.
//!
//! Ringing is held down in each direction: the answer stays in the range of the two px next to
//! it, unless the slopes on both sides point beyond that range, as at the crest of a wave;
//! beside an edge one of them is flat. Beyond the border is transparent black.
//!
//! Two ways to the same: any map is followed px by px ([`point`]); where a row of a map runs
//! nearly level through the picture, as those of a lens do, what it needs is first mixed down
//! the columns that it crosses and then along it ([`scanline`]), twelve px instead of
//! thirty-six for each, and as many at once as a vector holds.

mod kernel;
mod point;
mod scanline;

use super::maps::Map;
use crate::vectors::wide_vectors;
use kernel::{Kernel, TAPS};
use pulp::{Simd, WithSimd};
use rayon::prelude::*;
use std::ops::Range;

/// A picture in f32: row by row, and in each row all of its reds, then its greens, its blues and,
/// where some of it may not be there, how much of each px is there. What is needed for a px so
/// lies on few pages, and rows of one channel can be dealt with a vector at a time.
#[derive(Clone, Debug, Default)]
pub struct Rgba {
    /// Width, px.
    pub width_px: u32,
    /// Height, px.
    pub height_px: u32,
    /// Channels: three, or four.
    depth: usize,
    values: Vec<f32>,
}

impl Rgba {
    /// Of px one after the other, row by row; `has_alpha` says whether the last value counts.
    /// Missing ones are black.
    pub fn of_px(
        width_px: u32,
        height_px: u32,
        has_alpha: bool,
        px: impl IntoIterator<Item = [f32; 4]>,
    ) -> Self {
        let (width, height, depth) = (
            width_px as usize,
            height_px as usize,
            if has_alpha { 4 } else { 3 },
        );
        let mut values = vec![0.0; width * height * depth];
        let mut px = px.into_iter();
        for row in values.chunks_exact_mut((width * depth).max(1)) {
            for (k, px) in px.by_ref().take(width).enumerate() {
                for (channel, value) in px[..depth].iter().enumerate() {
                    row[channel * width + k] = *value;
                }
            }
        }
        Self {
            width_px,
            height_px,
            depth,
            values,
        }
    }

    /// One px, counted row by row. What is not said to be transparent is there.
    pub fn px(&self, k: usize) -> [f32; 4] {
        let width = self.width_px as usize;
        let at = k / width * width * self.depth + k % width;
        std::array::from_fn(|channel| {
            if channel < self.depth {
                self.values[at + channel * width]
            } else {
                1.0
            }
        })
    }

    /// All px, row by row.
    pub fn all_px(&self) -> impl Iterator<Item = [f32; 4]> + '_ {
        let (width, depth) = (self.width_px as usize, self.depth);
        self.values
            .chunks_exact((width * depth).max(1))
            .flat_map(move |row| {
                (0..width).map(move |x| {
                    std::array::from_fn(|c| if c < depth { row[c * width + x] } else { 1.0 })
                })
            })
    }

    /// How many px there are.
    pub fn px_count(&self) -> usize {
        self.width_px as usize * self.height_px as usize
    }

    /// From where on one channel of a row lies.
    #[inline(always)]
    fn row(&self, row: i32, channel: usize) -> usize {
        // Beyond the border the outermost px repeat.
        (row.clamp(0, self.height_px as i32 - 1) as usize * self.depth + channel)
            * self.width_px as usize
    }

    fn size(&self) -> [f32; 2] {
        [self.width_px as f32, self.height_px as f32]
    }

    /// What this picture shows at the positions of a map.
    pub fn through(&self, map: &Map) -> Self {
        let mut out = Self::default();
        self.through_into(map, &mut out);
        out
    }

    /// The same into a picture that is there already, whose memory is used again.
    pub fn through_into(&self, map: &Map, out: &mut Self) {
        let (kernel, width) = (Kernel::get(), map.width_px.max(1) as usize);
        (out.width_px, out.height_px, out.depth) = (map.width_px, map.height_px, 4);
        out.values.resize(4 * map.from_px.len(), 0.0);
        let rows = out
            .values
            .par_chunks_mut(4 * width)
            .zip(map.from_px.par_chunks(width));
        rows.for_each_init(scanline::Scratch::default, |scratch, (out, from)| {
            wide_vectors(Row {
                source: self,
                kernel,
                from,
                out: Line::of(out, width),
                scratch,
            });
        });
    }
}

/// A part of a row that is filled.
struct Line<'a> {
    channels: [&'a mut [f32]; 4],
}

impl<'a> Line<'a> {
    /// A row of a picture.
    fn of(row: &'a mut [f32], width: usize) -> Self {
        let (colour, alpha) = row.split_at_mut(3 * width);
        let (red, colour) = colour.split_at_mut(width);
        let (green, blue) = colour.split_at_mut(width);
        Self {
            channels: [red, green, blue, alpha],
        }
    }

    fn part(&mut self, range: Range<usize>) -> Line<'_> {
        Line {
            channels: self
                .channels
                .each_mut()
                .map(|channel| &mut channel[range.clone()]),
        }
    }

    fn leave_out(&mut self, range: Range<usize>) {
        self.channels
            .iter_mut()
            .for_each(|channel| channel[range.clone()].fill(0.0));
    }
}

/// One row of the picture that is filled.
struct Row<'a> {
    source: &'a Rgba,
    kernel: &'a Kernel,
    from: &'a [[f32; 2]],
    out: Line<'a>,
    scratch: &'a mut scanline::Scratch,
}

impl WithSimd for Row<'_> {
    type Output = ();

    #[inline(always)]
    fn with_simd<S: Simd>(self, simd: S) {
        let Self {
            source,
            kernel,
            from,
            mut out,
            scratch,
        } = self;
        let mut done = 0;
        while done < from.len() {
            let run = scanline::run(source, &from[done..]);
            let (from, mut out) = (
                &from[done..done + run.length],
                out.part(done..done + run.length),
            );
            match run.kind {
                scanline::Kind::Beyond => out.leave_out(0..run.length),
                scanline::Kind::Level => scanline::fill(simd, source, kernel, from, out, scratch),
                scanline::Kind::Any => point::fill(source, kernel, from, &mut out),
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

/// 1.5 * 2^23: a value below 2^22 that is added to it is rounded, in one operation that every
/// vector unit has, and its bits count up by ones.
const ONES: f32 = 12_582_912.0;

/// Takes positions along one direction apart: the third of the six px around each, and how far it
/// lies beyond the middle between that and the fourth.
#[inline(always)]
fn split<S: Simd>(simd: S, px: S::f32s) -> (S::f32s, S::f32s) {
    let ones = simd.splat_f32s(ONES);
    // Centres lie half a px from the border, the middle between two half a px further on.
    let from_middle = simd.sub_f32s(px, simd.splat_f32s(1.0));
    let third = simd.sub_f32s(simd.add_f32s(from_middle, ones), ones);
    (third, simd.sub_f32s(from_middle, third))
}

/// Six values times their weights, within what may lie between the third and the fourth: their
/// range, unless the slopes from the second and from the fifth both lead beyond it.
#[inline(always)]
fn held_mix<S: Simd>(simd: S, weights: &[S::f32s; TAPS], values: [S::f32s; TAPS]) -> S::f32s {
    // Two sums, so that one need not wait for the other.
    let three = |k: usize| {
        let two = simd.mul_add_e_f32s(
            values[k + 1],
            weights[k + 1],
            simd.mul_f32s(values[k], weights[k]),
        );
        simd.mul_add_e_f32s(values[k + 2], weights[k + 2], two)
    };
    let mix = simd.add_f32s(three(0), three(3));
    let [_, a, b, c, d, _] = values;
    let half = simd.splat_f32s(0.5);
    let left = simd.mul_add_e_f32s(half, simd.sub_f32s(b, a), b);
    let right = simd.mul_add_e_f32s(half, simd.sub_f32s(c, d), c);
    let floor = simd.min_f32s(simd.min_f32s(b, c), simd.max_f32s(left, right));
    let ceiling = simd.max_f32s(simd.max_f32s(b, c), simd.min_f32s(left, right));
    simd.min_f32s(simd.max_f32s(mix, floor), ceiling)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::vectors::vectors;

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
        Rgba::of_px(
            width_px,
            height_px,
            false,
            (0..width_px * height_px).map(value),
        )
    }

    fn map(place: impl Fn(f32, f32) -> [f32; 2]) -> Map {
        let at = |i: u32| place((i % 160) as f32 + 0.5, (i / 160) as f32 + 0.5);
        Map {
            width_px: 160,
            height_px: 100,
            from_px: (0..160 * 100).map(at).collect(),
        }
    }

    #[rstest::rstest]
    #[case::nearly_level(map(|x, y| [1.1 * x + 8.3, y + 0.1 * x + 3.7 + 0.0004 * x * x]), 0.02)]
    #[case::turned(map(|x, y| [100.0 + 0.7 * (x - 80.0) - 0.7 * (y - 50.0), 60.0 + 0.7 * (x - 80.0) + 0.7 * (y - 50.0)]), 0.02)]
    #[case::mirrored(map(|x, y| [180.0 - x, y + 4.2]), 0.02)]
    fn waves_are_sampled_where_the_map_says(#[case] map: Map, #[case] within: f32) {
        let out = picture().through(&map);
        let mut compared = 0;
        for (k, [x, y]) in map.from_px.iter().enumerate() {
            let value = out.px(k);
            if *x > 4.0 && *x < 196.0 && *y > 4.0 && *y < 116.0 {
                assert!(
                    (value[0] - waves(*x, *y)).abs() < within,
                    "{} for {} at {x}, {y}",
                    value[0],
                    waves(*x, *y)
                );
                assert!((value[3] - 1.0).abs() < 1e-5);
                compared += 1;
            }
        }
        assert!(compared > 5_000, "{compared}");
    }

    /// Goes through a map with other vectors than the widest of this machine.
    fn through_with(source: &Rgba, map: &Map, run: fn(Row<'_>)) -> Rgba {
        let mut out = Rgba::of_px(160, 100, true, []);
        let scratch = &mut scanline::Scratch::default();
        for (out, from) in out.values.chunks_mut(4 * 160).zip(map.from_px.chunks(160)) {
            run(Row {
                source,
                kernel: Kernel::get(),
                from,
                out: Line::of(out, 160),
                scratch,
            });
        }
        out
    }

    fn by_eight(row: Row<'_>) {
        vectors(row);
    }

    fn one_by_one(row: Row<'_>) {
        Simd::vectorize(pulp::Scalar, row);
    }

    #[rstest::rstest]
    fn every_machine_sees_the_same(
        #[values(map(|x, y| [1.3 * x - 3.0, 1.3 * y + 0.02 * x - 4.0]), map(|x, y| [180.0 - x, y + 4.2]))]
        map: Map,
        #[values(by_eight, one_by_one)] run: fn(Row<'_>),
    ) {
        let source = picture();
        let (widest, other) = (source.through(&map), through_with(&source, &map, run));
        for k in 0..widest.px_count() {
            let (a, b) = (widest.px(k), other.px(k));
            assert!(
                a.iter().zip(b).all(|(a, b)| (a - b).abs() < 1e-4),
                "px {k}: {a:?} {b:?}"
            );
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
        for k in (0..along.px_count()).step_by(2) {
            let (a, b) = (along.px(k), point.px(k));
            assert_eq!(a[3] > 0.5, b[3] > 0.5, "px {k}");
            most = most.max((a[0] - b[0]).abs());
        }
        assert!(most < 0.02, "{most}");
        assert!(
            (1..point.px_count())
                .step_by(2)
                .all(|k| point.px(k) == [0.0; 4])
        );
    }
}
