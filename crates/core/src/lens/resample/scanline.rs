//! Runs of a row that cross the picture nearly level, from left to right.
//!
//! Such a run is a curve y(x) through the picture. Column by column of the picture that it
//! crosses, what lies on the curve is mixed from six px above and below; what the run shows
//! between those columns is then mixed from six of them. That is the function that the picture
//! is along the curve, sampled once per column: nothing is lost as long as the curve is not
//! steep. Between the places of a map the curve is taken as straight: with a lens whose
//! places bend by a thousandth of a px from one px to the next, that is off by an eighth of it.
//!
//! Both steps take as many places at once as a vector holds ([`Near`]), each of which has its own
//! first px; neighbours differ by one now and then, seldom by more.

use super::kernel::{BEFORE, Kernel, TAPS};
use super::{Line, ONES, Rgba, held_mix, is_there, split};
use pulp::Simd;

/// Columns of the picture per px of the run, at least and at most.
const PACE: (f32, f32) = (0.5, 1.8);
/// Rise of the curve per column at most.
const STEEPEST: f32 = 0.3;
/// A shorter run is not worth it, nor does it fill two vectors together with its columns.
const SHORTEST: usize = 80;
/// Steps that are looked at together.
const STEPS: usize = 64;
/// Positions that are dealt with together, so that all of it stays close to the processor.
const SPAN: usize = 512;
/// Values before and behind a line that a vector may read but no place needs.
const MARGIN: usize = 32;
/// Places of vectors that are dealt with together, counted.
const OWN: [f32; MARGIN] = counted();

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
    let size = source.size();
    let beyond = from.iter().take_while(|at| !is_there(**at, size)).count();
    if beyond > 0 {
        return Run {
            kind: Kind::Beyond,
            length: beyond,
        };
    }
    let level = 1 + level_steps(from, size);
    let is_wide = source.width_px as usize >= SHORTEST;
    Run {
        kind: if level >= SHORTEST && is_wide {
            Kind::Level
        } else {
            Kind::Any
        },
        length: level,
    }
}

/// How many steps from place to place run nearly level, from the first on.
#[inline(always)]
fn level_steps(from: &[[f32; 2]], size: [f32; 2]) -> usize {
    let is_level = |a: &[f32; 2], b: &[f32; 2]| {
        let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
        is_there(*b, size) & (dx >= PACE.0) & (dx <= PACE.1) & (dy.abs() <= STEEPEST * dx)
    };
    // Many at once, which vectors can do, then one by one.
    let mut steps = 0;
    while let Some(places) = from.get(steps..=steps + STEPS) {
        let all = places
            .iter()
            .zip(&places[1..])
            .fold(true, |all, (a, b)| all & is_level(a, b));
        if !all {
            break;
        }
        steps += STEPS;
    }
    steps
        + from[steps..]
            .windows(2)
            .take_while(|pair| is_level(&pair[0], &pair[1]))
            .count()
}

/// Buffers of one thread.
#[derive(Default)]
pub struct Scratch {
    /// Places of the run across.
    xs: Vec<f32>,
    /// The column after each place, and heights there and in the one after it.
    next: Vec<i32>,
    crossings: Vec<[f32; 2]>,
    /// Where the curve crosses each column, px.
    heights: Vec<f32>,
    /// What lies there, by channel, with a margin.
    lines: [Vec<f32>; 4],
}

/// Fills `out` with what `source` shows along the run `from`.
#[inline(always)]
pub fn fill<S: Simd>(
    simd: S,
    source: &Rgba,
    kernel: &Kernel,
    from: &[[f32; 2]],
    mut out: Line<'_>,
    scratch: &mut Scratch,
) {
    let mut done = 0;
    while done < from.len() {
        // What is left over of a run must fill a vector.
        let rest = from.len() - done;
        let length = if rest < SPAN + SHORTEST { rest } else { SPAN };
        span(
            simd,
            source,
            kernel,
            &from[done..done + length],
            out.part(done..done + length),
            scratch,
        );
        done += length;
    }
}

#[inline(always)]
fn span<S: Simd>(
    simd: S,
    source: &Rgba,
    kernel: &Kernel,
    from: &[[f32; 2]],
    out: Line<'_>,
    scratch: &mut Scratch,
) {
    let (first, last) = (
        split(simd, simd.splat_f32s(from[0][0])).0,
        from[from.len() - 1][0],
    );
    let first = simd.reduce_min_f32s(first) as i32 - BEFORE;
    let columns = (last.floor() as i32 + TAPS as i32 - first) as usize;
    trace(first, columns, from, scratch);
    down(simd, source, kernel, first, scratch);
    along(simd, kernel, first, scratch, source.depth, out);
}

/// Takes the run apart, and where it crosses each column from `first` on; straight on beyond its ends.
#[inline(always)]
fn trace(first: i32, columns: usize, from: &[[f32; 2]], scratch: &mut Scratch) {
    let Scratch {
        xs,
        next,
        crossings,
        heights,
        ..
    } = scratch;
    xs.resize(from.len(), 0.0);
    next.resize(from.len() - 1, 0);
    crossings.resize(from.len() - 1, [0.0; 2]);
    heights.resize(columns, 0.0);
    for (at, x) in from.iter().zip(xs.iter_mut()) {
        *x = at[0];
    }
    let steps = from.iter().zip(&from[1..]);
    for ((next, crossing), ([x0, y0], [x1, y1])) in
        next.iter_mut().zip(crossings.iter_mut()).zip(steps)
    {
        let rise = (y1 - y0) / (x1 - x0);
        // The first centre that does not lie before the place.
        let ones = x0 + ONES;
        let height = y0 + ((ones - ONES) + 0.5 - x0) * rise;
        *next = ones.to_bits().wrapping_sub(ONES.to_bits()) as i32 - first;
        *crossing = [height, height + rise];
    }
    let (next, crossings, heights) = (
        next.as_slice(),
        crossings.as_slice(),
        heights.as_mut_slice(),
    );
    // From a place to the next there are two columns at most; what lies beyond the next one is
    // written again by that.
    for (next, crossing) in next.iter().zip(crossings) {
        if let Some(heights) = heights[*next as usize..].first_chunk_mut() {
            *heights = *crossing;
        }
    }
    for (place, columns) in [
        (0, 0..next[0]),
        (from.len() - 2, next[from.len() - 2] + 2..columns as i32),
    ] {
        let [height, beyond] = crossings[place];
        for column in columns {
            heights[column as usize] = height + (column - next[place]) as f32 * (beyond - height);
        }
    }
}

/// Vectors that are dealt with together.
const PAIR: usize = 2;
/// So many pairs are looked at before any of them is mixed: neither waits for the other.
const TOGETHER: usize = 8;

/// The px around some neighbouring places along one direction: each place has its first px, at
/// most `spread` beyond the `lowest` one.
#[derive(Clone, Copy)]
struct Near<S: Simd> {
    /// Where their vectors begin.
    at: usize,
    lowest: i32,
    spread: usize,
    /// How far each begins beyond the lowest.
    beyond: [S::f32s; PAIR],
    weights: [[S::f32s; TAPS]; PAIR],
}

impl<S: Simd> Near<S> {
    /// Places that are dealt with together.
    const PLACES: usize = PAIR * S::F32_LANES;

    #[inline(always)]
    fn none(simd: S) -> [Self; TOGETHER] {
        let none = simd.splat_f32s(0.0);
        [Self {
            at: 0,
            lowest: 0,
            spread: 0,
            beyond: [none; PAIR],
            weights: [[none; TAPS]; PAIR],
        }; TOGETHER]
    }

    /// Looks at the places that begin at `at`; the first px of each is counted from `own` on.
    #[inline(always)]
    fn look(&mut self, simd: S, kernel: &Kernel, places: &[f32], at: usize, own: [S::f32s; PAIR]) {
        let [a, b] = load::<S>(places, at);
        let ((a, t), (b, u)) = (split(simd, a), split(simd, b));
        let firsts = [simd.sub_f32s(a, own[0]), simd.sub_f32s(b, own[1])];
        self.weights = [kernel.weights(simd, t), kernel.weights(simd, u)];
        let lowest = simd.reduce_min_f32s(simd.min_f32s(firsts[0], firsts[1]));
        let highest = simd.reduce_max_f32s(simd.max_f32s(firsts[0], firsts[1]));
        let least = simd.splat_f32s(lowest);
        self.beyond = [
            simd.sub_f32s(firsts[0], least),
            simd.sub_f32s(firsts[1], least),
        ];
        (self.at, self.lowest, self.spread) = (
            at,
            lowest as i32 - BEFORE,
            (highest - lowest) as i32 as usize,
        );
    }

    /// Looks at as many places from `from` on as there is room for, the last ones ending with
    /// them; how many.
    #[inline(always)]
    fn some(
        near: &mut [Self; TOGETHER],
        simd: S,
        kernel: &Kernel,
        places: &[f32],
        from: usize,
        own: [S::f32s; PAIR],
    ) -> usize {
        let last = places.len() - Self::PLACES;
        let mut count = 0;
        for near in near {
            let at = from + count * Self::PLACES;
            if at >= places.len() {
                break;
            }
            near.look(simd, kernel, places, at.min(last), own);
            count += 1;
        }
        count
    }

    /// Mixed and held: `values` are those of the lowest px, `others(step)` those that lie `step` beyond.
    #[inline(always)]
    fn mix(
        &self,
        simd: S,
        mut values: [[S::f32s; PAIR]; TAPS],
        others: impl Fn(usize) -> [[S::f32s; PAIR]; TAPS],
    ) -> [S::f32s; PAIR] {
        for step in 1..=self.spread {
            let (beyond, others) = (simd.splat_f32s(step as i32 as f32), others(step));
            for k in 0..PAIR {
                let here = simd.equal_f32s(self.beyond[k], beyond);
                for (value, other) in values.iter_mut().zip(&others) {
                    value[k] = simd.select_f32s(here, other[k], value[k]);
                }
            }
        }
        let [a, b, c, d, e, f] = values;
        [
            held_mix(simd, &self.weights[0], [a[0], b[0], c[0], d[0], e[0], f[0]]),
            held_mix(simd, &self.weights[1], [a[1], b[1], c[1], d[1], e[1], f[1]]),
        ]
    }
}

/// 0, 1, 2, …
const fn counted<const N: usize>() -> [f32; N] {
    let mut values = [0.0; N];
    let mut i = 0;
    while i < N {
        values[i] = i as f32;
        i += 1;
    }
    values
}

/// The vectors that begin at `at`.
#[inline(always)]
fn load<S: Simd>(values: &[f32], at: usize) -> [S::f32s; PAIR] {
    let values = S::as_simd_f32s(&values[at..at + PAIR * S::F32_LANES]).0;
    [values[0], values[1]]
}

#[inline(always)]
fn store<S: Simd>(values: &mut [f32], at: usize, [a, b]: [S::f32s; PAIR]) {
    let values = S::as_mut_simd_f32s(&mut values[at..at + PAIR * S::F32_LANES]).0;
    (values[0], values[1]) = (a, b);
}

/// Some columns of one channel.
#[derive(Clone, Copy)]
struct Rows<'a> {
    source: &'a Rgba,
    channel: usize,
    first: usize,
    width: usize,
}

impl<'a> Rows<'a> {
    /// Six rows from `lowest` on.
    #[inline(always)]
    fn six(self, lowest: i32) -> [&'a [f32]; TAPS] {
        let Self {
            source,
            channel,
            first,
            width,
        } = self;
        let mut rows = [&[][..]; TAPS];
        for (row, at) in rows.iter_mut().zip(lowest..) {
            *row = &source.values[source.row(at, channel) + first..][..width];
        }
        rows
    }
}

/// The vectors that begin at `at` in each row.
#[inline(always)]
fn loads<S: Simd>([a, b, c, d, e, f]: [&[f32]; TAPS], at: usize) -> [[S::f32s; PAIR]; TAPS] {
    [
        load::<S>(a, at),
        load::<S>(b, at),
        load::<S>(c, at),
        load::<S>(d, at),
        load::<S>(e, at),
        load::<S>(f, at),
    ]
}

/// What lies on the curve in each column.
#[inline(always)]
fn down<S: Simd>(simd: S, source: &Rgba, kernel: &Kernel, first: i32, scratch: &mut Scratch) {
    let Scratch { heights, lines, .. } = scratch;
    let lines = &mut lines[..source.depth];
    for line in &mut *lines {
        line.resize(heights.len() + 2 * MARGIN, 0.0);
    }
    // Columns before and behind the picture repeat its outermost ones.
    let before = (-first).max(0) as usize;
    let inside = heights.len().min((source.width_px as i32 - first) as usize);
    let (column, heights) = ((first + before as i32) as usize, &heights[before..inside]);
    let mut near = Near::none(simd);
    let mut from = 0;
    while from < heights.len() {
        let count = Near::some(
            &mut near,
            simd,
            kernel,
            heights,
            from,
            [simd.splat_f32s(0.0); PAIR],
        );
        let mut done = 0;
        // Those that lie between the same rows go together.
        while done < count {
            let (lowest, begin) = (near[done].lowest, near[done].at);
            let mut next = done + 1;
            while next < count && near[next].lowest == lowest {
                next += 1;
            }
            let same = &near[done..next];
            let width = near[next - 1].at + Near::<S>::PLACES - begin;
            for (channel, line) in lines.iter_mut().enumerate() {
                let rows = Rows {
                    source,
                    channel,
                    first: column + begin,
                    width,
                };
                let six = rows.six(lowest);
                let line = &mut line[MARGIN + before + begin..][..width];
                for near in same {
                    let at = near.at - begin;
                    store::<S>(
                        line,
                        at,
                        near.mix(simd, loads::<S>(six, at), |step| {
                            loads::<S>(rows.six(lowest + step as i32), at)
                        }),
                    );
                }
            }
            done = next;
        }
        from += count * Near::<S>::PLACES;
    }
    for line in lines {
        let (outermost, innermost) = (line[MARGIN + before], line[MARGIN + inside - 1]);
        line[..MARGIN + before].fill(outermost);
        line[MARGIN + inside..].fill(innermost);
    }
}

/// What the run shows between the columns.
#[inline(always)]
fn along<S: Simd>(
    simd: S,
    kernel: &Kernel,
    first: i32,
    scratch: &Scratch,
    depth: usize,
    out: Line<'_>,
) {
    let Scratch { xs, lines, .. } = scratch;
    let own = load::<S>(&OWN, 0);
    let mut channels = out.channels;
    channels[depth..]
        .iter_mut()
        .for_each(|there| there.fill(1.0));
    let mut near = Near::none(simd);
    let mut from = 0;
    while from < xs.len() {
        let count = Near::some(&mut near, simd, kernel, xs, from, own);
        for (line, out) in lines[..depth].iter().zip(&mut channels) {
            for near in &near[..count] {
                let lowest = (MARGIN as i32 + near.lowest - first) as usize;
                let from = |step: usize| {
                    let window = &line[lowest + step..lowest + step + TAPS - 1 + Near::<S>::PLACES];
                    let at = |j: usize| load::<S>(window, j);
                    [at(0), at(1), at(2), at(3), at(4), at(5)]
                };
                store::<S>(out, near.at, near.mix(simd, from(0), from));
            }
        }
        from += count * Near::<S>::PLACES;
    }
}
