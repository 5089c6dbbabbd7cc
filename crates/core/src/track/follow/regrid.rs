//! The picture around a feature on a grid of its own, so that the patch is hardly interpolated.
//!
//! Bilinear values between pixels are smoothed, most of all half-way: fine detail is lost, and
//! noise comes out smaller than it is and alike from pixel to pixel. Once a feature is found to
//! a fraction of a px, its surroundings are shifted by that fraction with a Lanczos windowed sinc
//! of three lobes (Duchon 1979), after which the feature lies on the middle of a pixel and the
//! last steps of the alignment sample next to pixels.

use super::kernels::{stride, whole, whole_mut};
use crate::spaces::PlatePx;
use crate::track::picture::Plane;
use crate::vectors::vectors;
use pulp::{Simd, WithSimd};

/// Pixels that take part in each direction.
const TAPS: usize = 6;
/// Of them, how many lie before the one that is shifted.
const BEFORE: isize = 2;

/// Weights of six neighbours for a position `fraction` behind the third.
fn weights(fraction: f64) -> [f32; TAPS] {
    let pi = std::f64::consts::PI;
    let sinc = |x: f64| {
        if x.abs() < 1e-9 {
            1.0
        } else {
            (pi * x).sin() / (pi * x)
        }
    };
    let raw: [f64; TAPS] = std::array::from_fn(|k| {
        let x = fraction - (k as f64 - BEFORE as f64);
        if x.abs() < 3.0 {
            sinc(x) * sinc(x / 3.0)
        } else {
            0.0
        }
    });
    let sum: f64 = raw.iter().sum();
    raw.map(|w| (w / sum) as f32)
}

/// A square of `2 * reach + 1` px whose middle pixel is centred on a place. Positions in it are those in
/// the picture less what [`Regrid::origin`] says.
pub struct Regrid {
    /// The shifted square.
    pub plane: Plane,
    /// Where its top-left corner lies in the picture, px.
    pub origin: PlatePx,
}

/// See [`Regrid`]. Beyond the picture its border repeats. `None` for a place that is no number.
pub fn around(
    picture: &Plane,
    centre: PlatePx,
    reach: usize,
    buffers: &mut Buffers,
) -> Option<Regrid> {
    let (left, top) = (centre.x - 0.5 - reach as f64, centre.y - 0.5 - reach as f64);
    let (column, row) = (
        left.floor() as isize - BEFORE,
        top.floor() as isize - BEFORE,
    );
    let side = 2 * reach + 1;
    let wide = stride(side);
    let (across, down) = (weights(left - left.floor()), weights(top - top.floor()));
    let inside = column >= 0
        && row >= 0
        && column as usize + wide + TAPS <= picture.width()
        && row as usize + side + TAPS <= picture.height();
    let repeated;
    let (picture, at) = if inside {
        (picture, (column as usize, row as usize))
    } else {
        repeated = picture.repeated((column, row), (wide + TAPS, side + TAPS))?;
        (&repeated, (0, 0))
    };
    let (mut levels, rows) = (std::mem::take(&mut buffers.levels), &mut buffers.rows);
    levels.resize(wide * side, 0.0);
    rows.resize(wide * (side + TAPS), 0.0);
    vectors(Shift {
        picture,
        at,
        wide,
        across,
        down,
        rows,
        out: &mut levels,
    });
    Plane::new(wide, side, levels).map(|plane| Regrid {
        plane,
        origin: PlatePx::new(left, top),
    })
}

/// What [`around`] works in.
#[derive(Default)]
pub struct Buffers {
    /// Becomes the square.
    pub levels: Vec<f32>,
    /// Rows that are shifted across only.
    pub rows: Vec<f32>,
}

struct Shift<'a> {
    picture: &'a Plane,
    at: (usize, usize),
    wide: usize,
    across: [f32; TAPS],
    down: [f32; TAPS],
    rows: &'a mut [f32],
    out: &'a mut [f32],
}

impl WithSimd for Shift<'_> {
    type Output = ();

    #[inline(always)]
    fn with_simd<S: Simd>(self, simd: S) {
        let Self {
            picture,
            at: (column, row),
            wide,
            across,
            down,
            rows,
            out,
        } = self;
        let across = across.map(|w| simd.splat_f32s(w));
        for (y, line) in rows.chunks_exact_mut(wide).enumerate() {
            let Some(from) = picture.row_from(row + y, column, wide + TAPS) else {
                continue;
            };
            for (x, value) in whole_mut::<S>(line).iter_mut().enumerate() {
                let first = x * S::F32_LANES;
                let mut sum = simd.splat_f32s(0.0);
                for (k, weight) in across.iter().enumerate() {
                    sum = simd.mul_add_e_f32s(
                        *weight,
                        whole::<S>(&from[first + k..][..S::F32_LANES])[0],
                        sum,
                    );
                }
                *value = sum;
            }
        }
        let down = down.map(|w| simd.splat_f32s(w));
        for (y, line) in out.chunks_exact_mut(wide).enumerate() {
            for (x, value) in whole_mut::<S>(line).iter_mut().enumerate() {
                let first = y * wide + x * S::F32_LANES;
                let mut sum = simd.splat_f32s(0.0);
                for (k, weight) in down.iter().enumerate() {
                    sum = simd.mul_add_e_f32s(
                        *weight,
                        whole::<S>(&rows[first + k * wide..][..S::F32_LANES])[0],
                        sum,
                    );
                }
                *value = sum;
            }
        }
    }
}
