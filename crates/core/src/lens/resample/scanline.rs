//! Runs of a row that cross the picture nearly level, from left to right.
//!
//! Such a run is a curve y(x) through the picture. Column by column of the picture that it
//! crosses, what lies on the curve is mixed from six px above and below; what the run shows
//! between those columns is then mixed from six of them. That is the function that the picture
//! is along the curve, sampled once per column: nothing is lost as long as the curve is not
//! steep. Between the places of a map the curve is taken as straight: with a lens whose
//! places bend by a thousandth of a px from one px to the next, that is off by an eighth of it.

use super::{BEFORE, Px, ROW, Rgba, TAPS, Weights, across, apart, bounds, is_there};
use pulp::Simd;

/// Columns of the picture per px of the run, at least and at most.
const PACE: (f32, f32) = (0.2, 4.0);
/// Rise of the curve per column at most.
const STEEPEST: f32 = 0.3;
/// A shorter run is not worth it.
const SHORTEST: usize = 12;
/// Positions that are taken apart together.
const SPAN: usize = 64;

/// What can be done with the next places of a row.
pub enum Kind {
    /// They lie beyond the picture.
    Beyond,
    /// They cross it nearly level.
    Level,
    /// Neither.
    Any,
}

/// So many places that are alike.
pub struct Run {
    pub kind: Kind,
    pub length: usize,
}

/// What is alike from the first place of a row on.
#[inline(always)]
pub fn run(source: &Rgba, from: &[[f32; 2]]) -> Run {
    let size = [source.width_px as f32, source.height_px as f32];
    let beyond = from.iter().take_while(|at| !is_there(**at, size)).count();
    if beyond > 0 {
        return Run { kind: Kind::Beyond, length: beyond };
    }
    let level = 1 + level_steps(from, size);
    if level >= SHORTEST {
        return Run { kind: Kind::Level, length: level };
    }
    Run { kind: Kind::Any, length: level }
}

/// How many steps from place to place run nearly level, from the first on.
#[inline(always)]
fn level_steps(from: &[[f32; 2]], size: [f32; 2]) -> usize {
    let is_level = |a: &[f32; 2], b: &[f32; 2]| {
        let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
        is_there(*b, size) & (dx >= PACE.0) & (dx <= PACE.1) & (dy.abs() <= STEEPEST * dx)
    };
    // Whole spans at once, which vectors can do, then one by one.
    let mut steps = 0;
    while let Some(places) = from.get(steps..steps + SPAN + 1) {
        let all = places.iter().zip(&places[1..]).fold(true, |all, (a, b)| all & is_level(a, b));
        if !all {
            break;
        }
        steps += SPAN;
    }
    steps + from[steps..].windows(2).take_while(|pair| is_level(&pair[0], &pair[1])).count()
}

/// Buffers of one thread.
#[derive(Default)]
pub struct Scratch {
    /// Where the curve crosses each column, px.
    heights: Vec<f32>,
    /// The same taken apart: the first of six rows, and the row of the table of weights.
    tops: Vec<i32>,
    steps: Vec<u32>,
    /// What lies there.
    line: Vec<[f32; 4]>,
    /// Least and greatest that may lie between a column and the next.
    floors: Vec<[f32; 4]>,
    ceilings: Vec<[f32; 4]>,
}

/// Fills `out` with what `source` shows along the run `from`.
#[inline(always)]
pub fn fill<S: Simd>(
    simd: S,
    source: &Rgba,
    weights: &Weights,
    from: &[[f32; 2]],
    out: &mut [[f32; 4]],
    scratch: &mut Scratch,
) {
    let Some((first, last)) = from.first().zip(from.last()) else { return };
    let (first, _) = apart(first[0]);
    let columns = (apart(last[0]).0 + TAPS as i32 - first) as usize;
    let Scratch { heights, tops, steps, line, floors, ceilings } = scratch;
    heights.resize(columns, 0.0);
    tops.resize(columns, 0);
    steps.resize(columns, 0);
    for values in [&mut *line, &mut *floors, &mut *ceilings] {
        values.resize(columns, [0.0; 4]);
    }
    cross(first, from, heights);
    for ((height, top), step) in heights.iter().zip(tops.iter_mut()).zip(steps.iter_mut()) {
        (*top, *step) = apart(*height);
    }
    down(simd, source, weights, first, (tops, steps), line);
    enclose(simd, line, floors, ceilings);
    along(simd, weights, first, (line, floors, ceilings), from, out);
}

/// Where the curve crosses each column from `first` on; straight on beyond its ends.
#[inline(always)]
fn cross(first: i32, from: &[[f32; 2]], heights: &mut [f32]) {
    let mut next = first as f32 + 0.5;
    let mut heights = heights.iter_mut();
    let last = from.len() - 2;
    for (k, (&[x0, y0], &[x1, y1])) in from.iter().zip(&from[1..]).enumerate() {
        let rise = (y1 - y0) / (x1 - x0);
        while next < x1 || k == last {
            let Some(height) = heights.next() else { break };
            *height = y0 + (next - x0) * rise;
            next += 1.0;
        }
    }
}

/// What lies on the curve in each column.
#[inline(always)]
fn down<S: Simd>(
    simd: S,
    source: &Rgba,
    weights: &Weights,
    first: i32,
    (tops, steps): (&[i32], &[u32]),
    line: &mut [[f32; 4]],
) {
    let (width, height) = (source.width_px as i32, source.height_px as i32);
    // Columns before and behind the picture repeat its outermost ones.
    let before = (-first).clamp(0, line.len() as i32) as usize;
    let inside = (width - first).clamp(0, line.len() as i32) as usize;
    let mut done = before;
    while done < inside {
        let top = tops[done];
        let same = tops[done..inside].iter().take_while(|t| **t == top).count();
        let column = (first + done as i32) as usize;
        let rows: [&[[f32; 4]]; TAPS] = std::array::from_fn(|j| {
            let row = (top + j as i32).clamp(0, height - 1) as usize;
            &source.values[row * width as usize + column..][..same]
        });
        mix(simd, rows, weights, &steps[done..][..same], &mut line[done..][..same]);
        done += same;
    }
    if before < inside {
        let (outermost, innermost) = (line[before], line[inside - 1]);
        line[..before].fill(outermost);
        line[inside..].fill(innermost);
    }
}

/// Columns that the curve crosses between the same rows.
#[inline(always)]
fn mix<S: Simd>(simd: S, rows: [&[[f32; 4]]; TAPS], weights: &Weights, steps: &[u32], line: &mut [[f32; 4]]) {
    let [a_row, b_row, c_row, d_row, e_row, f_row] = rows;
    let outer = a_row.iter().zip(b_row).zip(e_row.iter().zip(f_row));
    let each = outer.zip(c_row.iter().zip(d_row)).zip(steps).zip(line.iter_mut());
    for (((((a, b), (e, f)), (c, d)), step), out) in each {
        let w = &weights[*step as usize];
        let [b, c, d, e] = [Px(*b), Px(*c), Px(*d), Px(*e)];
        let outer = Px(*a).times(Px::of(w)).plus(b.times(Px::of(&w[4..])));
        let other = e.times(Px::of(&w[16..])).plus(Px(*f).times(Px::of(&w[20..])));
        let middle = c.times(Px::of(&w[8..])).plus(d.times(Px::of(&w[12..])));
        *out = middle.plus(outer.plus(other)).0;
    }
    hold(simd, [b_row, c_row, d_row, e_row], line);
}

/// Px in a vector of eight values.
const PAIR: usize = 2;

/// Holds what was mixed within what may lie between `c` and `d`; of an odd number the last by itself.
#[inline(always)]
fn hold<S: Simd>(simd: S, near: [&[[f32; 4]]; 4], line: &mut [[f32; 4]]) {
    let whole = line.len() / PAIR * PAIR;
    let (pairs, rest) = line.split_at_mut(whole);
    hold_pairs(simd, near.map(|row| &row[..whole]), pairs);
    if let Some(last) = rest.first_mut() {
        let mut pair = [*last; PAIR];
        let near = near.map(|row| [row[whole]; PAIR]);
        hold_pairs(simd, near.each_ref().map(|px| &px[..]), &mut pair);
        *last = pair[0];
    }
}

#[inline(always)]
fn hold_pairs<S: Simd>(simd: S, near: [&[[f32; 4]]; 4], line: &mut [[f32; 4]]) {
    let near = near.map(|row| S::as_simd_f32s(row.as_flattened()).0);
    let held = S::as_mut_simd_f32s(line.as_flattened_mut()).0;
    for ((((value, b), c), d), e) in held.iter_mut().zip(near[0]).zip(near[1]).zip(near[2]).zip(near[3]) {
        let [floor, ceiling] = bounds(simd, [*b, *c, *d, *e]);
        *value = simd.min_f32s(simd.max_f32s(*value, floor), ceiling);
    }
}

/// What may lie between each column of `line` and the next, but for the first and the last two
/// columns, between which nothing is sampled.
#[inline(always)]
fn enclose<S: Simd>(simd: S, line: &[[f32; 4]], floors: &mut [[f32; 4]], ceilings: &mut [[f32; 4]]) {
    let inner = line.len().saturating_sub(3) / PAIR * PAIR;
    let near = [0, 1, 2, 3].map(|k| S::as_simd_f32s(line[k..k + inner].as_flattened()).0);
    let floors = S::as_mut_simd_f32s(floors[1..=inner].as_flattened_mut()).0;
    let ceilings = S::as_mut_simd_f32s(ceilings[1..=inner].as_flattened_mut()).0;
    let each = near[0].iter().zip(near[1]).zip(near[2]).zip(near[3]);
    for ((floor, ceiling), (((a, b), c), d)) in floors.iter_mut().zip(ceilings).zip(each) {
        [*floor, *ceiling] = bounds(simd, [*a, *b, *c, *d]);
    }
}

/// A line with its floors and ceilings.
type Held<'a> = (&'a [[f32; 4]], &'a [[f32; 4]], &'a [[f32; 4]]);

/// What the run shows between the columns of `line`.
#[inline(always)]
fn along<S: Simd>(
    simd: S,
    weights: &Weights,
    first: i32,
    (line, floors, ceilings): Held,
    from: &[[f32; 2]],
    out: &mut [[f32; 4]],
) {
    let flat = line.as_flattened();
    let (mut firsts, mut steps) = ([0i32; SPAN], [0u32; SPAN]);
    for (out, from) in out.chunks_mut(SPAN).zip(from.chunks(SPAN)) {
        for ((at, first), step) in from.iter().zip(&mut firsts).zip(&mut steps) {
            (*first, *step) = apart(at[0]);
        }
        for ((out, at), step) in out.iter_mut().zip(&firsts).zip(&steps) {
            let at = (at - first) as usize;
            let near: Option<&[f32; ROW]> = flat[4 * at..].first_chunk();
            let Some(near) = near else { continue };
            let middle = at + BEFORE as usize;
            let total = across(simd, near, &weights[*step as usize]);
            *out = total.within(Px(floors[middle]), Px(ceilings[middle])).0;
        }
    }
}
