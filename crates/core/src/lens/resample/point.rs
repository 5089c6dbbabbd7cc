//! One px after the other, wherever the map leads.

use super::{Px, ROW, Rgba, TAPS, Weights, across, apart, bounds, is_there};
use pulp::Simd;

/// Fills `out` with what `source` shows at the places `from`.
#[inline(always)]
pub fn fill<S: Simd>(simd: S, source: &Rgba, weights: &Weights, from: &[[f32; 2]], out: &mut [[f32; 4]]) {
    let size = [source.width_px as f32, source.height_px as f32];
    let mut rows = [[0.0f32; ROW]; TAPS];
    for (out, at) in out.iter_mut().zip(from) {
        if !is_there(*at, size) {
            *out = [0.0; 4];
            continue;
        }
        let [(left, x), (top, y)] = at.map(apart);
        source.around(left, top, &mut rows);
        *out = mixed(simd, &rows, &weights[x as usize], &weights[y as usize]);
    }
}

impl Rgba {
    /// Six rows of six px from a place on; beyond the border it repeats.
    #[inline(always)]
    fn around(&self, x: i32, y: i32, out: &mut [[f32; ROW]; TAPS]) {
        let (width, height) = (self.width_px as i32, self.height_px as i32);
        for (j, row) in out.iter_mut().enumerate() {
            let line = (y + j as i32).clamp(0, height - 1) as usize * width as usize;
            for (k, value) in row.chunks_exact_mut(4).enumerate() {
                value.copy_from_slice(&self.values[line + (x + k as i32).clamp(0, width - 1) as usize]);
            }
        }
    }
}

/// Down the columns, then across.
#[inline(always)]
fn mixed<S: Simd>(simd: S, rows: &[[f32; ROW]; TAPS], x: &[f32; ROW], y: &[f32; ROW]) -> [f32; 4] {
    let mut columns = [0.0f32; ROW];
    for (k, sum) in S::as_mut_simd_f32s(&mut columns).0.iter_mut().enumerate() {
        let row = |j: usize| S::as_simd_f32s(&rows[j][..]).0[k];
        let mut total = simd.splat_f32s(0.0);
        for j in 0..TAPS {
            total = simd.mul_add_e_f32s(simd.splat_f32s(y[4 * j]), row(j), total);
        }
        let [floor, ceiling] = bounds(simd, [row(1), row(2), row(3), row(4)]);
        *sum = simd.min_f32s(simd.max_f32s(total, floor), ceiling);
    }
    // The same between the columns; of eight values the first four are meant.
    let mut held = [[0.0f32; 8]; 2];
    let near = [4, 8, 12, 16].map(|k: usize| {
        let mut px = [0.0f32; 8];
        px[..4].copy_from_slice(&columns[k..k + 4]);
        px
    });
    let near = near.each_ref().map(|px| S::as_simd_f32s(&px[..]).0);
    let [floors, ceilings] = &mut held;
    let floors = S::as_mut_simd_f32s(&mut floors[..]).0.iter_mut();
    for (k, (floor, ceiling)) in floors.zip(S::as_mut_simd_f32s(&mut ceilings[..]).0).enumerate() {
        [*floor, *ceiling] = bounds(simd, near.map(|px| px[k]));
    }
    across(simd, &columns, x).within(Px::of(&held[0]), Px::of(&held[1])).0
}
