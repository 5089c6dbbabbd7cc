//! What does a picture show between its pixels?
//!
//! Lanczos windowed sinc of three lobes (Duchon 1979): six by six px, weights from a table of
//! 1/1024 px with their sum divided out, down the columns first and then across. Ringing is
//! held down by clamping to the range of the four nearest px, widened by a tenth of it. Beyond
//! the border is transparent black.

use super::maps::Map;
use crate::vectors::vectors;
use pulp::{Simd, WithSimd};
use rayon::prelude::*;

/// A picture in four channels of f32: red, green, blue, and how much of it is there.
#[derive(Clone, Debug)]
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
/// Values of a row of them.
const ROW: usize = 4 * TAPS;

/// Weights of six neighbouring px by the fraction between the third and the fourth, each four
/// times over, for the channels.
fn lanczos_table() -> Vec<[f32; ROW]> {
    let sinc = |x: f64| if x.abs() < 1e-9 { 1.0 } else { x.sin() / x };
    let pi = std::f64::consts::PI;
    (0..=STEPS)
        .map(|step| {
            let fraction = step as f64 / STEPS as f64;
            let weights: [f64; TAPS] = std::array::from_fn(|k| {
                let x = fraction - (k as f64 - 2.0);
                if x.abs() < 3.0 { sinc(pi * x) * sinc(pi * x / 3.0) } else { 0.0 }
            });
            let total: f64 = weights.iter().sum();
            std::array::from_fn(|i| (weights[i / 4] / total) as f32)
        })
        .collect()
}

impl Rgba {
    /// What this picture shows at the positions of a map.
    pub fn through(&self, map: &Map) -> Self {
        let table = lanczos_table();
        let mut values = vec![[0.0f32; 4]; map.from_px.len()];
        let width = map.width_px.max(1) as usize;
        values.par_chunks_mut(width).zip(map.from_px.par_chunks(width)).for_each(|(out, from)| {
            vectors(Row { source: self, table: &table, from, out });
        });
        Self { width_px: map.width_px, height_px: map.height_px, values }
    }
}

/// One row of the picture that is filled.
struct Row<'a> {
    source: &'a Rgba,
    table: &'a [[f32; ROW]],
    from: &'a [[f32; 2]],
    out: &'a mut [[f32; 4]],
}

impl WithSimd for Row<'_> {
    type Output = ();

    #[inline(always)]
    fn with_simd<S: Simd>(self, simd: S) {
        let Self { source, table, from, out } = self;
        let mut border = [[0.0f32; ROW]; TAPS];
        for (out, [x, y]) in out.iter_mut().zip(from) {
            let (x, y) = (x - 0.5, y - 0.5);
            // Beyond half a px from the outermost centres there is nothing; NaN is nothing too.
            let there =
                x >= -0.5 && y >= -0.5 && x <= source.width_px as f32 - 0.5 && y <= source.height_px as f32 - 0.5;
            if !there {
                continue;
            }
            let (x0, y0) = (x.floor(), y.floor());
            let across = &table[((x - x0) * STEPS as f32 + 0.5) as usize];
            let down = &table[((y - y0) * STEPS as f32 + 0.5) as usize];
            let rows = source.rows((x0 as i32 - 2, y0 as i32 - 2), &mut border);
            *out = mixed(simd, rows, across, down);
        }
    }
}

impl Rgba {
    /// Six rows of six px from a place on; near the border a copy in which the border repeats.
    #[inline(always)]
    fn rows<'a>(&'a self, (x, y): (i32, i32), border: &'a mut [[f32; ROW]; TAPS]) -> [&'a [f32; ROW]; TAPS] {
        let (width, height) = (self.width_px as i32, self.height_px as i32);
        let flat = self.values.as_flattened();
        let mut rows = [&[0.0; ROW]; TAPS];
        if x >= 0 && y >= 0 && x + TAPS as i32 <= width && y + TAPS as i32 <= height {
            for (j, row) in rows.iter_mut().enumerate() {
                let first = 4 * ((y as usize + j) * width as usize + x as usize);
                if let Some(values) = flat[first..].first_chunk() {
                    *row = values;
                }
            }
            return rows;
        }
        for (j, row) in border.iter_mut().enumerate() {
            let line = (y + j as i32).clamp(0, height - 1) as usize * width as usize;
            for (k, value) in row.chunks_exact_mut(4).enumerate() {
                value.copy_from_slice(&self.values[line + (x + k as i32).clamp(0, width - 1) as usize]);
            }
        }
        border.each_ref()
    }
}

/// Down the columns, then across, clamped to the four px in the middle.
#[inline(always)]
fn mixed<S: Simd>(simd: S, rows: [&[f32; ROW]; TAPS], across: &[f32; ROW], down: &[f32; ROW]) -> [f32; 4] {
    // Column by column, so that the sums stay in registers.
    let mut taps = [0.0f32; ROW];
    let products = S::as_mut_simd_f32s(&mut taps).0.iter_mut();
    for (k, (product, weight)) in products.zip(S::as_simd_f32s(&across[..]).0).enumerate() {
        let mut column = simd.splat_f32s(0.0);
        for (j, row) in rows.iter().enumerate() {
            let weight = simd.splat_f32s(down[4 * j]);
            column = simd.mul_add_e_f32s(weight, S::as_simd_f32s(&row[..]).0[k], column);
        }
        *product = simd.mul_f32s(column, *weight);
    }
    // Over whole arrays, lane by lane, which compilers make vectors of.
    let mut pairs = [0.0f32; 8];
    for taps in taps.chunks_exact(8) {
        for (pair, tap) in pairs.iter_mut().zip(taps) {
            *pair += tap;
        }
    }
    let [a, b] = [&rows[2][8..12], &rows[2][12..16]];
    let [d, e] = [&rows[3][8..12], &rows[3][12..16]];
    let mut out = [0.0f32; 4];
    for c in 0..4 {
        let low = lesser(lesser(a[c], b[c]), lesser(d[c], e[c]));
        let high = greater(greater(a[c], b[c]), greater(d[c], e[c]));
        let slack = 0.1 * (high - low);
        out[c] = lesser(greater(pairs[c] + pairs[c + 4], low - slack), high + slack);
    }
    out
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
