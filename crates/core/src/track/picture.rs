//! Grey pictures and their pyramids.
//!
//! Values are f32 levels, 0 to 255 whatever the depth of the file. Positions are continuous:
//! the centre of the pixel in column i is at i + 0.5, at every level of a pyramid, and
//! a position at level l is the position at level 0 divided by 2^l. The reduction kernel
//! (1 3 3 1)/8 is symmetric about that mapping, so nothing shifts between levels.

use crate::spaces::PlatePx;
use multiversion::multiversion;
use rayon::prelude::*;

/// A grey picture, row by row.
#[derive(Clone, Debug, PartialEq)]
pub struct Plane {
    width: usize,
    height: usize,
    levels: Vec<f32>,
}

impl Plane {
    /// A picture from its values, row by row. `None` unless their number is width x height
    /// and both are at least 1.
    pub fn new(width: usize, height: usize, levels: Vec<f32>) -> Option<Self> {
        (width > 0 && height > 0 && levels.len() == width * height).then_some(Self {
            width,
            height,
            levels,
        })
    }

    /// Width, px.
    pub fn width(&self) -> usize {
        self.width
    }

    /// Height, px.
    pub fn height(&self) -> usize {
        self.height
    }

    /// All values, row by row.
    pub fn levels(&self) -> &[f32] {
        &self.levels
    }

    /// One row.
    pub fn row(&self, y: usize) -> &[f32] {
        &self.levels[y * self.width..(y + 1) * self.width]
    }

    /// Part of a row; `None` where it does not lie inside.
    pub fn row_from(&self, y: usize, x: usize, count: usize) -> Option<&[f32]> {
        if y >= self.height {
            None
        } else {
            self.row(y).get(x..x + count)
        }
    }

    /// Its values alone, to be used again.
    pub fn into_levels(self) -> Vec<f32> {
        self.levels
    }

    /// The part of `size` (width, height) from a column and row on, borders repeated outwards.
    pub fn repeated(
        &self,
        (column, row): (isize, isize),
        (width, height): (usize, usize),
    ) -> Option<Self> {
        let places = (0..height as isize).flat_map(|y| (0..width as isize).map(move |x| (x, y)));
        let levels = places
            .map(|(x, y)| self.clamped(column.saturating_add(x), row.saturating_add(y)))
            .collect();
        Self::new(width, height, levels)
    }

    /// The value at column and row, borders repeated outwards.
    pub fn clamped(&self, x: isize, y: isize) -> f32 {
        let x = x.clamp(0, self.width as isize - 1) as usize;
        let y = y.clamp(0, self.height as isize - 1) as usize;
        self.levels[y * self.width + x]
    }

    /// The value at a position between px, bilinear, borders repeated outwards.
    pub fn level_at(&self, at: PlatePx) -> f64 {
        let (x, y) = (at.x - 0.5, at.y - 0.5);
        let (column, row) = (x.floor(), y.floor());
        let (fx, fy) = (x - column, y - row);
        let level =
            |dx: isize, dy: isize| f64::from(self.clamped(column as isize + dx, row as isize + dy));
        let top = level(0, 0) * (1.0 - fx) + level(1, 0) * fx;
        let bottom = level(0, 1) * (1.0 - fx) + level(1, 1) * fx;
        top * (1.0 - fy) + bottom * fy
    }

    /// Half the size, smoothed by (1 3 3 1)/8 in both directions.
    pub fn reduced(&self) -> Self {
        let (width, height) = (self.width.div_ceil(2), self.height.div_ceil(2));
        let mut levels = vec![0.0; width * height];
        levels
            .par_chunks_mut(width * 16)
            .enumerate()
            .for_each(|(chunk, out)| {
                let mut column_sums = vec![0.0f32; self.width];
                for (i, row) in out.chunks_mut(width).enumerate() {
                    self.reduce_row(chunk * 16 + i, &mut column_sums, row);
                }
            });
        Self {
            width,
            height,
            levels,
        }
    }

    /// Smoothed by (3 10 3)/16 in both directions.
    pub fn smoothed(&self) -> Self {
        let (width, height) = (self.width, self.height);
        let mut levels = vec![0.0; width * height];
        levels
            .par_chunks_mut(width * 16)
            .enumerate()
            .for_each(|(chunk, out)| {
                let mut column_sums = vec![0.0f32; width];
                for (i, row) in out.chunks_mut(width).enumerate() {
                    let y = chunk * 16 + i;
                    let rows = [
                        self.row(y.saturating_sub(1)),
                        self.row(y),
                        self.row((y + 1).min(height - 1)),
                    ];
                    smoothed_columns(rows, &mut column_sums);
                    smoothed_row(&column_sums, row);
                }
            });
        Self {
            width,
            height,
            levels,
        }
    }

    fn reduce_row(&self, y: usize, column_sums: &mut [f32], out: &mut [f32]) {
        let last = self.height - 1;
        let top = 2 * y;
        let rows = [
            top.saturating_sub(1),
            top,
            (top + 1).min(last),
            (top + 2).min(last),
        ]
        .map(|r| self.row(r.min(last)));
        weighted_column_sums(rows, column_sums);
        weighted_row_sums(column_sums, out);
    }

    /// Standard deviation of the noise, in levels: Immerkær's mask (1996) that answers
    /// neither to constant nor to linear brightness, by the median of its absolute values
    /// so that texture does not count as noise. Some [`NOISE_SAMPLES`] px evenly over the picture are asked.
    pub fn noise_level(&self) -> f32 {
        if self.width < 3 || self.height < 3 {
            return 0.0;
        }
        let mut responses = Vec::with_capacity(2 * NOISE_SAMPLES);
        // Every so many rows, and every second px of them.
        let rows = (self.levels.len() / (2 * NOISE_SAMPLES)).max(1);
        for y in (1..self.height - 1).step_by(rows) {
            let (above, at, below) = (self.row(y - 1), self.row(y), self.row(y + 1));
            for x in (1..self.width - 1).step_by(2) {
                let corners = above[x - 1] + above[x + 1] + below[x - 1] + below[x + 1];
                let sides = above[x] + below[x] + at[x - 1] + at[x + 1];
                responses.push((corners - 2.0 * sides + 4.0 * at[x]).abs());
            }
        }
        let middle = responses.len() / 2;
        let (_, median, _) = responses.select_nth_unstable_by(middle, f32::total_cmp);
        // The mask's gain is 6; the median of |N(0, s)| is 0.6745 s.
        *median / (6.0 * 0.6745)
    }
}

/// Px that tell the noise of a picture: a median of so many is certain to a third of a per cent.
const NOISE_SAMPLES: usize = 1 << 17;

#[multiversion(targets("x86_64+avx2+fma"))]
fn weighted_column_sums(rows: [&[f32]; 4], out: &mut [f32]) {
    for ((((o, a), b), c), d) in out
        .iter_mut()
        .zip(rows[0])
        .zip(rows[1])
        .zip(rows[2])
        .zip(rows[3])
    {
        *o = (a + d) * 0.125 + (b + c) * 0.375;
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn smoothed_columns(rows: [&[f32]; 3], out: &mut [f32]) {
    for (((o, a), b), c) in out.iter_mut().zip(rows[0]).zip(rows[1]).zip(rows[2]) {
        *o = (a + c) * 0.1875 + b * 0.625;
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn smoothed_row(sums: &[f32], out: &mut [f32]) {
    let last = sums.len() - 1;
    out[0] = 0.8125 * sums[0] + 0.1875 * sums[1.min(last)];
    out[last] = 0.8125 * sums[last] + 0.1875 * sums[last.saturating_sub(1)];
    if last < 2 {
        return;
    }
    let sides = sums.iter().zip(&sums[2..]);
    for (o, (middle, (left, right))) in out[1..last].iter_mut().zip(sums[1..last].iter().zip(sides))
    {
        *o = (left + right) * 0.1875 + middle * 0.625;
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn weighted_row_sums(sums: &[f32], out: &mut [f32]) {
    let last = sums.len() - 1;
    let mix = |before: f32, left: f32, right: f32, after: f32| {
        (before + after) * 0.125 + (left + right) * 0.375
    };
    let at = |x: usize, out: &mut [f32]| {
        let left = 2 * x;
        let (before, right) = (sums[left.saturating_sub(1)], sums[(left + 1).min(last)]);
        out[x] = mix(before, sums[left], right, sums[(left + 2).min(last)]);
    };
    // Between the ends in whole pairs, which vectors can do.
    let (pairs, _) = sums.as_chunks::<2>();
    let inner = pairs.len().saturating_sub(2);
    at(0, out);
    (inner + 1..out.len()).for_each(|x| at(x, out));
    if inner == 0 {
        return;
    }
    let around = pairs.iter().zip(&pairs[1..]).zip(&pairs[2..]);
    for (out, (([_, before], [left, right]), [after, _])) in out[1..=inner].iter_mut().zip(around) {
        *out = mix(*before, *left, *right, *after);
    }
}

/// A picture made ready for following: lightly smoothed, with its reductions, finest first.
///
/// The smoothing, (3 10 3)/16 both ways, takes more from grain than from detail that can be
/// followed: the gradients of a patch, taken from a noisy picture, decide what a step is worth.
#[derive(Clone, Debug)]
pub struct Pyramid {
    levels: Vec<Plane>,
    noise: f32,
}

impl Pyramid {
    /// The picture with up to `count - 1` reductions; fewer where the picture would become
    /// smaller than 16 px.
    pub fn new(picture: Plane, count: usize) -> Self {
        let noise = picture.noise_level();
        let mut levels = vec![picture.smoothed()];
        while levels.len() < count {
            let finest = &levels[levels.len() - 1];
            if finest.width() < 32 || finest.height() < 32 {
                break;
            }
            let next = finest.reduced();
            levels.push(next);
        }
        Self { levels, noise }
    }

    /// Noise of the picture before it was smoothed, levels.
    pub fn noise_level(&self) -> f32 {
        self.noise
    }

    /// How many levels there are.
    pub fn count(&self) -> usize {
        self.levels.len()
    }

    /// One level, 0 the finest.
    pub fn level(&self, level: usize) -> &Plane {
        &self.levels[level]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reducing_keeps_positions() {
        let ramp = |width: usize, height: usize, step: f32| {
            let levels = (0..width * height)
                .map(|i| step * ((i % width) as f32 + 0.5))
                .collect();
            Plane::new(width, height, levels).unwrap()
        };
        let half = ramp(64, 40, 1.0).reduced();
        let expected = ramp(32, 20, 2.0);
        for x in 2..30 {
            assert!(
                (half.row(7)[x] - expected.row(7)[x]).abs() < 1e-4,
                "column {x}"
            );
        }
    }

    /// Border and middle, even and odd widths, against the sums written out.
    #[rstest::rstest]
    fn reducing_weighs_four_neighbours(#[values(2, 3, 4, 5, 8, 17, 64, 65)] width: usize) {
        let mut random = fastrand::Rng::with_seed(8);
        let row: Vec<f32> = (0..width).map(|_| random.f32()).collect();
        let flat = Plane::new(width, 2, [row.clone(), row.clone()].concat())
            .unwrap()
            .reduced();
        let at = |x: isize| row[x.clamp(0, width as isize - 1) as usize];
        for (x, out) in flat.row(0).iter().enumerate() {
            let left = 2 * x as isize;
            let plain = 0.125 * (at(left - 1) + at(left + 2)) + 0.375 * (at(left) + at(left + 1));
            assert!(
                (out - plain).abs() < 1e-6,
                "{out} for {plain} at {x} of {width}"
            );
        }
    }

    #[test]
    fn smoothing_keeps_slopes_and_lowers_noise() {
        let mut random = fastrand::Rng::with_seed(5);
        let levels = (0..200 * 100)
            .map(|i| (i % 200) as f32 + 3.0 * (random.f32() - 0.5))
            .collect();
        let noisy = Plane::new(200, 100, levels).unwrap();
        let smooth = noisy.smoothed();
        let off: f32 = (10..190)
            .map(|x| (smooth.row(50)[x] - x as f32).abs())
            .sum::<f32>()
            / 180.0;
        assert!(off < 0.5, "{off}");
        // White noise keeps (0.625² + 2 * 0.1875²) of its variance in each direction.
        let rms = |p: &Plane| {
            let squares = (20..80)
                .flat_map(|y| (10..190).map(move |x| (x, y)))
                .map(|(x, y)| (p.row(y)[x] - x as f32).powi(2));
            (squares.sum::<f32>() / (60.0 * 180.0)).sqrt()
        };
        assert!((rms(&smooth) / rms(&noisy) - 0.461).abs() < 0.03);
    }

    #[test]
    fn noise_is_measured_under_a_gradient() {
        let mut random = fastrand::Rng::with_seed(4);
        let mut normal = || (0..12).map(|_| random.f32()).sum::<f32>() - 6.0;
        let levels = (0..256 * 256)
            .map(|i| (i % 256) as f32 * 0.5 + 2.0 * normal())
            .collect();
        let measured = Plane::new(256, 256, levels).unwrap().noise_level();
        assert!((measured - 2.0).abs() < 0.1, "{measured}");
    }
}
