//! One px after the other, wherever the map leads.

use super::kernel::{BEFORE, Kernel};
use super::{Line, Rgba, held_mix, is_there, split};
use pulp::Scalar;

/// Fills `out` with what `source` shows at the places `from`.
pub fn fill(source: &Rgba, kernel: &Kernel, from: &[[f32; 2]], out: &mut Line<'_>) {
    let (simd, size) = (Scalar::new(), source.size());
    for (k, at) in from.iter().enumerate() {
        if !is_there(*at, size) {
            out.leave_out(k..k + 1);
            continue;
        }
        let [(column, x), (row, y)] = at.map(|px| split(simd, px));
        let (x, y) = (kernel.weights(simd, x), kernel.weights(simd, y));
        let (left, top) = (column as i32 - BEFORE, row as i32 - BEFORE);
        for (channel, out) in out.channels[..source.depth].iter_mut().enumerate() {
            let down = |i: usize| {
                let column = (left + i as i32).clamp(0, source.width_px as i32 - 1) as usize;
                let at = |j: usize| source.row(top + j as i32, channel) + column;
                held_mix(simd, &y, std::array::from_fn(|j| source.values[at(j)]))
            };
            out[k] = held_mix(simd, &x, std::array::from_fn(down));
        }
        if source.depth == 3 {
            out.channels[3][k] = 1.0;
        }
    }
}
