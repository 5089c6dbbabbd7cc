//! Inner loops of following: gradients of patches and sums over them, in vectors.
//!
//! Always inlined into what [`vectors`](crate::vectors::vectors) runs.
//!
//! Every patch has `side` rows of [`stride`] values, [`area`] in all; what lies beyond the
//! side has no gradient and no weight.

use super::blur::BORDER;
use nalgebra::Matrix6;
use pulp::Simd;

/// Values per row of a stored patch: the side rounded up to whole vectors of eight.
pub const fn stride(side: usize) -> usize {
    side.next_multiple_of(8)
}

/// Values of a stored patch: its rows, rounded up to whole pairs of vectors.
pub const fn area(side: usize) -> usize {
    (side * stride(side)).next_multiple_of(16)
}

#[inline(always)]
pub fn whole<S: Simd>(values: &[f32]) -> &[S::f32s] {
    S::as_simd_f32s(values).0
}

#[inline(always)]
pub fn whole_mut<S: Simd>(values: &mut [f32]) -> &mut [S::f32s] {
    S::as_mut_simd_f32s(values).0
}

/// The same, two by two: reductions sum into two sets in turn, so that none waits for the last.
#[inline(always)]
fn pairs<S: Simd>(values: &[f32]) -> &[[S::f32s; 2]] {
    whole::<S>(values).as_chunks().0
}

/// The totals of N reductions in two sets.
#[inline(always)]
fn totals<S: Simd, const N: usize>(simd: S, [even, odd]: [[S::f32s; N]; 2]) -> [f32; N] {
    let mut totals = [0.0; N];
    for (k, total) in totals.iter_mut().enumerate() {
        *total = simd.reduce_sum_f32s(simd.add_f32s(even[k], odd[k]));
    }
    totals
}

/// Patch and central differences from a block with a border of 1 px, whose rows have the
/// [`stride`] of `side + 2`.
#[inline(always)]
pub fn gradients<S: Simd>(
    simd: S,
    block: &[f32],
    side: usize,
    [template, across, down]: [&mut [f32]; 3],
) {
    let (outer, row) = (stride(side + 2), stride(side));
    let half = simd.splat_f32s(0.5);
    let rows = template
        .chunks_exact_mut(row)
        .zip(across.chunks_exact_mut(row))
        .zip(down.chunks_exact_mut(row));
    for (y, ((template, across), down)) in rows.take(side).enumerate() {
        let at = &block[(y + 1) * outer..][..row + 2];
        let (left, middle, right) = (
            whole::<S>(&at[..row]),
            whole::<S>(&at[1..=row]),
            whole::<S>(&at[2..]),
        );
        let above = whole::<S>(&block[y * outer + 1..][..row]);
        let below = whole::<S>(&block[(y + 2) * outer + 1..][..row]);
        for (x, template) in whole_mut::<S>(template).iter_mut().enumerate() {
            *template = middle[x];
        }
        for (x, across) in whole_mut::<S>(across).iter_mut().enumerate() {
            *across = simd.mul_f32s(half, simd.sub_f32s(right[x], left[x]));
        }
        for (x, down) in whole_mut::<S>(down).iter_mut().enumerate() {
            *down = simd.mul_f32s(half, simd.sub_f32s(below[x], above[x]));
        }
        for beyond in [
            &mut template[side..],
            &mut across[side..],
            &mut down[side..],
        ] {
            beyond.fill(0.0);
        }
    }
}

/// Second differences across, down and mixed from a block with a border of [`BORDER`] px, whose rows
/// have the [`stride`] of the side with its borders.
#[inline(always)]
pub fn second_differences<S: Simd>(
    simd: S,
    block: &[f32],
    side: usize,
    apart: usize,
    [across, down, mixed]: [&mut [f32]; 3],
) {
    let (outer, row) = (stride(side + 2 * BORDER), stride(side));
    let (inner, step) = (BORDER - apart, (apart * apart) as f32);
    let (whole_step, quarter, two) = (
        simd.splat_f32s(1.0 / step),
        simd.splat_f32s(0.25 / step),
        simd.splat_f32s(2.0),
    );
    let rows = across
        .chunks_exact_mut(row)
        .zip(down.chunks_exact_mut(row))
        .zip(mixed.chunks_exact_mut(row));
    for (y, ((across, down), mixed)) in rows.take(side).enumerate() {
        let at = |dy: usize, dx: usize| {
            whole::<S>(&block[(y + inner + dy * apart) * outer + inner + dx * apart..][..row])
        };
        let around: [[&[S::f32s]; 3]; 3] =
            std::array::from_fn(|dy| std::array::from_fn(|dx| at(dy, dx)));
        let [above, middle, below] = around;
        let of = |a: S::f32s, b: S::f32s, c: S::f32s| {
            simd.mul_f32s(
                whole_step,
                simd.negate_mul_add_e_f32s(two, b, simd.add_f32s(a, c)),
            )
        };
        for (x, across) in whole_mut::<S>(across).iter_mut().enumerate() {
            *across = of(middle[0][x], middle[1][x], middle[2][x]);
        }
        for (x, down) in whole_mut::<S>(down).iter_mut().enumerate() {
            *down = of(above[1][x], middle[1][x], below[1][x]);
        }
        for (x, mixed) in whole_mut::<S>(mixed).iter_mut().enumerate() {
            let (rising, falling) = (
                simd.add_f32s(above[0][x], below[2][x]),
                simd.add_f32s(above[2][x], below[0][x]),
            );
            *mixed = simd.mul_f32s(quarter, simd.sub_f32s(rising, falling));
        }
        for beyond in [&mut across[side..], &mut down[side..], &mut mixed[side..]] {
            beyond.fill(0.0);
        }
    }
}

/// Sums over both gradients: of across, of down, and of their squares and products xx, xy, yy.
#[inline(always)]
pub fn gradient_sums<S: Simd>(simd: S, across: &[f32], down: &[f32]) -> [f32; 5] {
    let mut sums = [[simd.splat_f32s(0.0); 5]; 2];
    for (a, d) in pairs::<S>(across).iter().zip(pairs::<S>(down)) {
        for (half, [x, y, xx, xy, yy]) in sums.iter_mut().enumerate() {
            let (a, d) = (a[half], d[half]);
            *x = simd.add_f32s(*x, a);
            *y = simd.add_f32s(*y, d);
            *xx = simd.mul_add_e_f32s(a, a, *xx);
            *xy = simd.mul_add_e_f32s(a, d, *xy);
            *yy = simd.mul_add_e_f32s(d, d, *yy);
        }
    }
    totals(simd, sums)
}

/// Takes `mean` from the values that lie `inside` the patch (1 there, 0 beyond).
#[inline(always)]
pub fn less_mean<S: Simd>(simd: S, values: &mut [f32], inside: &[f32], mean: f32) {
    let mean = simd.splat_f32s(mean);
    for (value, inside) in whole_mut::<S>(values).iter_mut().zip(whole::<S>(inside)) {
        *value = simd.negate_mul_add_e_f32s(mean, *inside, *value);
    }
}

/// Sums over the difference of two patches, times across and times down.
#[inline(always)]
pub fn step_sums<S: Simd>(
    simd: S,
    [across, down]: [&[f32]; 2],
    sampled: &[f32],
    template: &[f32],
) -> [f32; 2] {
    let mut sums = [[simd.splat_f32s(0.0); 2]; 2];
    let patches = pairs::<S>(sampled).iter().zip(pairs::<S>(template));
    for ((a, d), (s, t)) in pairs::<S>(across).iter().zip(pairs::<S>(down)).zip(patches) {
        for (half, [by_across, by_down]) in sums.iter_mut().enumerate() {
            let off = simd.sub_f32s(s[half], t[half]);
            *by_across = simd.mul_add_e_f32s(a[half], off, *by_across);
            *by_down = simd.mul_add_e_f32s(d[half], off, *by_down);
        }
    }
    totals(simd, sums)
}

/// Weighted sum, sum of squares and product with the reference of a sampled patch, less `offset`.
#[inline(always)]
pub fn comparison_sums<S: Simd>(
    simd: S,
    weights: &[f32],
    sampled: &[f32],
    centred: &[f32],
    offset: f32,
) -> [f32; 3] {
    let mut sums = [[simd.splat_f32s(0.0); 3]; 2];
    // Less the reference's mean, so that single precision is spent on contrast.
    let offset = simd.splat_f32s(offset);
    let patches = pairs::<S>(sampled).iter().zip(pairs::<S>(centred));
    for (w, (s, t)) in pairs::<S>(weights).iter().zip(patches) {
        for (half, [sum, squares, products]) in sums.iter_mut().enumerate() {
            let level = simd.sub_f32s(s[half], offset);
            let weighted = simd.mul_f32s(w[half], level);
            *sum = simd.add_f32s(*sum, weighted);
            *squares = simd.mul_add_e_f32s(weighted, level, *squares);
            *products = simd.mul_add_e_f32s(weighted, t[half], *products);
        }
    }
    totals(simd, sums)
}

/// Weighted products of a sampled patch, less `offset`, with others.
#[inline(always)]
pub fn products<S: Simd, const N: usize>(
    simd: S,
    weights: &[f32],
    sampled: &[f32],
    others: [&[f32]; N],
    offset: f32,
) -> [f32; N] {
    let mut sums = [[simd.splat_f32s(0.0); N]; 2];
    let offset = simd.splat_f32s(offset);
    let others = others.map(pairs::<S>);
    for (at, (w, s)) in pairs::<S>(weights)
        .iter()
        .zip(pairs::<S>(sampled))
        .enumerate()
    {
        for (half, sums) in sums.iter_mut().enumerate() {
            let weighted = simd.mul_f32s(w[half], simd.sub_f32s(s[half], offset));
            for (sum, other) in sums.iter_mut().zip(others) {
                *sum = simd.mul_add_e_f32s(weighted, other[at][half], *sum);
            }
        }
    }
    totals(simd, sums)
}

/// Takes `by` times other patches.
#[inline(always)]
pub fn take<S: Simd, const N: usize>(
    simd: S,
    values: &mut [f32],
    others: [&[f32]; N],
    by: [f32; N],
) {
    let (others, by) = (others.map(whole::<S>), by.map(|b| simd.splat_f32s(b)));
    for (at, value) in whole_mut::<S>(values).iter_mut().enumerate() {
        for (other, by) in others.iter().zip(by) {
            *value = simd.negate_mul_add_e_f32s(by, other[at], *value);
        }
    }
}

/// What a step to the reference needs: the sums of `across` and `down`, each as it is, times
/// u and times v, with what is left of the sampled patch once bias and gain are taken out
/// (`sampled - mean - gain * centred`). u and v run from -1 to 1 over the side: `ramp`, which
/// goes on beyond the side to a whole row.
#[inline(always)]
pub fn steepest_sums<S: Simd>(
    simd: S,
    [across, down, centred, sampled]: [&[f32]; 4],
    ramp: &[f32],
    (mean, gain): (f32, f32),
) -> [f32; 6] {
    let (mean, gain) = (simd.splat_f32s(mean), simd.splat_f32s(gain));
    let (row, zero) = (ramp.len(), simd.splat_f32s(0.0));
    // As it is, times u, times v; for across, then for down.
    let mut totals = [zero; 6];
    let gradients = across.chunks_exact(row).zip(down.chunks_exact(row));
    let patches = centred.chunks_exact(row).zip(sampled.chunks_exact(row));
    for (v, ((across, down), (centred, sampled))) in ramp.iter().zip(gradients.zip(patches)) {
        let mut sums = [zero; 2];
        let gradients = whole::<S>(across).iter().zip(whole::<S>(down));
        let patches = whole::<S>(centred).iter().zip(whole::<S>(sampled));
        for (u, ((across, down), (centred, sampled))) in
            whole::<S>(ramp).iter().zip(gradients.zip(patches))
        {
            let left = simd.negate_mul_add_e_f32s(gain, *centred, simd.sub_f32s(*sampled, mean));
            let (a, d) = (simd.mul_f32s(*across, left), simd.mul_f32s(*down, left));
            sums = [simd.add_f32s(sums[0], a), simd.add_f32s(sums[1], d)];
            totals[1] = simd.mul_add_e_f32s(*u, a, totals[1]);
            totals[4] = simd.mul_add_e_f32s(*u, d, totals[4]);
        }
        let v = simd.splat_f32s(*v);
        totals[0] = simd.add_f32s(totals[0], sums[0]);
        totals[2] = simd.mul_add_e_f32s(v, sums[0], totals[2]);
        totals[3] = simd.add_f32s(totals[3], sums[1]);
        totals[5] = simd.mul_add_e_f32s(v, sums[1], totals[5]);
    }
    let mut out = [0.0; 6];
    for (out, total) in out.iter_mut().zip(totals) {
        *out = simd.reduce_sum_f32s(total);
    }
    out
}

/// The six steepest-descent images of an affine motion, one after the other, in the order of
/// [`steepest_sums`].
#[inline(always)]
pub fn descent_images<S: Simd>(
    simd: S,
    [across, down]: [&[f32]; 2],
    ramp: &[f32],
    out: &mut [f32],
) {
    let row = ramp.len();
    let (of_across, of_down) = out.split_at_mut(3 * across.len());
    for (gradient, out) in [(across, of_across), (down, of_down)] {
        let (plain, rest) = out.split_at_mut(gradient.len());
        let (by_u, by_v) = rest.split_at_mut(gradient.len());
        plain.copy_from_slice(gradient);
        let images = by_u.chunks_exact_mut(row).zip(by_v.chunks_exact_mut(row));
        for (v, (gradient, (by_u, by_v))) in ramp.iter().zip(gradient.chunks_exact(row).zip(images))
        {
            let v = simd.splat_f32s(*v);
            let images = whole_mut::<S>(by_u).iter_mut().zip(whole_mut::<S>(by_v));
            for (u, (g, (by_u, by_v))) in whole::<S>(ramp)
                .iter()
                .zip(whole::<S>(gradient).iter().zip(images))
            {
                *by_u = simd.mul_f32s(*g, *u);
                *by_v = simd.mul_f32s(*g, v);
            }
        }
    }
}

/// Makes the image what a change of bias or gain cannot explain, in the weighted sense, and
/// multiplies it by the `roots` of the weights: `image - mean - along * centred`.
#[inline(always)]
pub fn subtract_and_weigh<S: Simd>(
    simd: S,
    image: &mut [f32],
    centred: &[f32],
    roots: &[f32],
    (mean, along): (f32, f32),
) {
    let (mean, along) = (simd.splat_f32s(mean), simd.splat_f32s(along));
    for (i, (c, w)) in whole_mut::<S>(image)
        .iter_mut()
        .zip(whole::<S>(centred).iter().zip(whole::<S>(roots)))
    {
        *i = simd.mul_f32s(
            *w,
            simd.negate_mul_add_e_f32s(along, *c, simd.sub_f32s(*i, mean)),
        );
    }
}

/// Each value times its weight.
#[inline(always)]
pub fn weigh<S: Simd>(simd: S, values: &mut [f32], weights: &[f32]) {
    for (v, w) in whole_mut::<S>(values).iter_mut().zip(whole::<S>(weights)) {
        *v = simd.mul_f32s(*v, *w);
    }
}

/// Inner product.
#[inline(always)]
pub fn dot<S: Simd>(simd: S, a: &[f32], b: &[f32]) -> f32 {
    let mut sums = [[simd.splat_f32s(0.0); 1]; 2];
    for (a, b) in pairs::<S>(a).iter().zip(pairs::<S>(b)) {
        for (half, [product]) in sums.iter_mut().enumerate() {
            *product = simd.mul_add_e_f32s(a[half], b[half], *product);
        }
    }
    let [product] = totals(simd, sums);
    product
}

/// All inner products of six patches that lie one after the other in `rows`.
#[inline(always)]
pub fn gram<S: Simd>(simd: S, rows: &[f32]) -> Matrix6<f64> {
    let area = rows.len() / 6;
    let mut products = Matrix6::zeros();
    for i in 0..6 {
        for j in 0..=i {
            let product = dot(simd, &rows[i * area..][..area], &rows[j * area..][..area]);
            products[(i, j)] = f64::from(product);
            products[(j, i)] = f64::from(product);
        }
    }
    products
}
