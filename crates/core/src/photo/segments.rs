//! Straight edges of a picture.
//!
//! Pixels whose gradients point the same way grow into regions from the strongest on
//! (von Gioi, Jakubowicz, Morel and Randall 2010, section 2); a region that is long, narrow and
//! well filled is a segment, which is then settled on its edge and rated by how straight it
//! is. Collinear pieces with a gap between them are joined.

use super::rails::{Axis, Rail};
use super::settle::settle;
use crate::spaces::PlatePx;
use crate::track::picture::Plane;
use nalgebra::{Matrix2, SymmetricEigen, Vector2};
use rayon::prelude::*;

/// A straight edge.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Segment {
    /// One end.
    pub a: PlatePx,
    /// The other.
    pub b: PlatePx,
    /// Root mean square distance of its edge points, px.
    pub rms_px: f64,
}

impl Segment {
    /// Its length, px.
    pub fn length_px(&self) -> f64 {
        self.a.distance_px(self.b)
    }

    /// As a rail of an axis.
    pub fn rail(&self, axis: Axis) -> Rail {
        Rail {
            axis,
            a: self.a,
            b: self.b,
        }
    }
}

/// Directions within this belong to one region, as a cosine (22.5 degrees).
const ALIKE: f32 = 0.924;
/// Edge points of a segment lie within this of it, px rms.
const MOST_RMS_PX: f64 = 0.6;
/// A segment may be this wide for its length before it is no line.
const MOST_WIDTH_PX: f64 = 5.0;
/// At most this many pieces are tried for joining, longest first: the cost grows quadratically.
const MOST_PIECES: usize = 2000;
/// At most this many segments, longest first.
const MOST_SEGMENTS: usize = 400;

struct Gradients {
    width: usize,
    height: usize,
    /// Unit directions and lengths.
    across: Vec<f32>,
    down: Vec<f32>,
    strength: Vec<f32>,
}

/// Straight edges at least `least_px` long, longest first.
pub fn segments(picture: &Plane, least_px: f64) -> Vec<Segment> {
    let gradients = Gradients::of(picture);
    let regions = regions(&gradients, (4.0 * picture.noise_level()).max(2.5));
    let raw: Vec<Rail> = regions
        .par_iter()
        .filter_map(|r| narrow(r, &gradients, 0.6 * least_px))
        .collect();
    let mut found: Vec<Segment> = raw
        .par_iter()
        .filter_map(|rail| settle(picture, rail, 2.0))
        .filter(|s| s.rms_px < MOST_RMS_PX && s.share > 0.7)
        .map(|s| Segment {
            a: s.rail.a,
            b: s.rail.b,
            rms_px: s.rms_px,
        })
        .collect();
    found.sort_by(|a, b| b.length_px().total_cmp(&a.length_px()));
    found.truncate(MOST_PIECES);
    let mut joined = joined(picture, found);
    joined.retain(|s| s.length_px() >= least_px);
    joined.sort_by(|a, b| b.length_px().total_cmp(&a.length_px()));
    joined.truncate(MOST_SEGMENTS);
    joined
}

impl Gradients {
    /// Sobel's, after which a unit step is a unit slope over 2 px.
    fn of(picture: &Plane) -> Self {
        let (width, height) = (picture.width(), picture.height());
        let count = width * height;
        let (mut across, mut down, mut strength) = (
            vec![0.0f32; count],
            vec![0.0f32; count],
            vec![0.0f32; count],
        );
        let rows = across
            .par_chunks_mut(width)
            .zip(down.par_chunks_mut(width))
            .zip(strength.par_chunks_mut(width));
        rows.enumerate()
            .for_each(|(y, ((across, down), strength))| {
                if y == 0 || y + 1 >= height {
                    return;
                }
                let (above, at, below) = (picture.row(y - 1), picture.row(y), picture.row(y + 1));
                for x in 1..width.saturating_sub(1) {
                    let gx = (above[x + 1] - above[x - 1]
                        + 2.0 * (at[x + 1] - at[x - 1])
                        + below[x + 1]
                        - below[x - 1])
                        / 8.0;
                    let gy =
                        (below[x - 1] - above[x - 1] + 2.0 * (below[x] - above[x]) + below[x + 1]
                            - above[x + 1])
                            / 8.0;
                    let length = gx.hypot(gy);
                    strength[x] = length;
                    if length > 0.0 {
                        across[x] = gx / length;
                        down[x] = gy / length;
                    }
                }
            });
        Self {
            width,
            height,
            across,
            down,
            strength,
        }
    }
}

/// Connected pixels of like direction and at least `least` levels per px.
fn regions(g: &Gradients, least: f32) -> Vec<Vec<u32>> {
    let mut seeds: Vec<u32> = (0..g.strength.len() as u32)
        .filter(|&i| g.strength[i as usize] >= least)
        .collect();
    seeds.sort_unstable_by(|a, b| {
        g.strength[*b as usize]
            .total_cmp(&g.strength[*a as usize])
            .then(a.cmp(b))
    });
    let mut taken = vec![false; g.strength.len()];
    let mut out = Vec::new();
    for seed in seeds {
        if taken[seed as usize] {
            continue;
        }
        let region = grown(g, seed, least, &mut taken);
        if region.len() >= 20 {
            out.push(region);
        }
    }
    out
}

fn grown(g: &Gradients, seed: u32, least: f32, taken: &mut [bool]) -> Vec<u32> {
    let mut region = vec![seed];
    let mut sum = (g.across[seed as usize], g.down[seed as usize]);
    taken[seed as usize] = true;
    let mut next = 0;
    while let Some(&at) = region.get(next) {
        next += 1;
        let (x, y) = (at as usize % g.width, at as usize / g.width);
        for ny in y.saturating_sub(1)..=(y + 1).min(g.height - 1) {
            for nx in x.saturating_sub(1)..=(x + 1).min(g.width - 1) {
                let i = ny * g.width + nx;
                if taken[i] || g.strength[i] < least {
                    continue;
                }
                let likeness = (g.across[i] * sum.0 + g.down[i] * sum.1) / sum.0.hypot(sum.1);
                if likeness >= ALIKE {
                    taken[i] = true;
                    sum = (sum.0 + g.across[i], sum.1 + g.down[i]);
                    region.push(i as u32);
                }
            }
        }
    }
    region
}

/// The axis of a region if it is a long narrow one that its pixels fill.
fn narrow(region: &[u32], g: &Gradients, least_px: f64) -> Option<Rail> {
    let points = || {
        region.iter().map(|&i| {
            let i = i as usize;
            let at = Vector2::new((i % g.width) as f64 + 0.5, (i / g.width) as f64 + 0.5);
            (at, f64::from(g.strength[i]))
        })
    };
    let total: f64 = points().map(|(_, w)| w).sum();
    let middle = points().map(|(p, w)| p * w).sum::<Vector2<f64>>() / total;
    let scatter: Matrix2<f64> = points()
        .map(|(p, w)| (p - middle) * (p - middle).transpose() * w)
        .sum();
    let eigen = SymmetricEigen::new(scatter);
    let along: Vector2<f64> = eigen
        .eigenvectors
        .column(eigen.eigenvalues.imax())
        .into_owned();
    let width_px = 3.46 * (eigen.eigenvalues.min().max(0.0) / total).sqrt();
    let (mut first, mut last) = (f64::INFINITY, f64::NEG_INFINITY);
    for (p, _) in points() {
        let s = along.dot(&(p - middle));
        (first, last) = (first.min(s), last.max(s));
    }
    let length = last - first;
    let filled = region.len() as f64 >= 0.9 * length;
    if length < least_px || width_px > MOST_WIDTH_PX.min(0.2 * length) || !filled {
        return None;
    }
    // Region ends bend round corners: they are left out.
    let inset = (0.03 * length).clamp(1.0, 4.0);
    let (a, b) = (
        middle + along * (first + inset),
        middle + along * (last - inset),
    );
    Some(Rail {
        axis: Axis::X,
        a: PlatePx::new(a.x, a.y),
        b: PlatePx::new(b.x, b.y),
    })
}

/// Joins pieces of one line whose gap is shorter than the pieces.
fn joined(picture: &Plane, mut segments: Vec<Segment>) -> Vec<Segment> {
    let mut out: Vec<Segment> = Vec::new();
    while !segments.is_empty() {
        let mut current = segments.remove(0);
        while let Some((k, longer)) = segments
            .iter()
            .enumerate()
            .find_map(|(k, other)| Some((k, bridged(picture, &current, other)?)))
        {
            current = longer;
            segments.remove(k);
        }
        // The same edge found twice.
        let covered = out.iter().any(|o| overlaps(o, &current));
        if !covered {
            out.push(current);
        }
    }
    out
}

fn beside(of: &Segment, p: PlatePx) -> (f64, f64) {
    let along = of.b.offset_from(of.a) / of.length_px();
    let off = p.offset_from(of.a);
    (along.dot(&off), along.perp(&off))
}

fn overlaps(longer: &Segment, shorter: &Segment) -> bool {
    [shorter.a, shorter.b].iter().all(|p| {
        let (s, d) = beside(longer, *p);
        d.abs() < 1.5 && (-3.0..longer.length_px() + 3.0).contains(&s)
    })
}

fn bridged(picture: &Plane, one: &Segment, other: &Segment) -> Option<Segment> {
    let length = one.length_px();
    let (s0, d0) = beside(one, other.a);
    let (s1, d1) = beside(one, other.b);
    if d0.abs() > 2.0 || d1.abs() > 2.0 {
        return None;
    }
    let (near, far) = (s0.min(s1), s0.max(s1));
    let gap = if near > length {
        near - length
    } else if far < 0.0 {
        -far
    } else {
        0.0
    };
    if gap > 0.5 * other.length_px().min(length) || (near >= 0.0 && far <= length) {
        return None;
    }
    let along = one.b.offset_from(one.a) / length;
    let (first, last) = (near.min(0.0), far.max(length));
    let rail = Rail {
        axis: Axis::X,
        a: one.a.moved(along * first),
        b: one.a.moved(along * last),
    };
    let settled =
        settle(picture, &rail, 2.5).filter(|s| s.rms_px < MOST_RMS_PX && s.share > 0.7)?;
    Some(Segment {
        a: settled.rail.a,
        b: settled.rail.b,
        rms_px: settled.rms_px,
    })
}
