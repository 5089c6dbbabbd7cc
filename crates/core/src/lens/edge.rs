//! Puts the marks of a straight on the edge that the picture shows there.
//!
//! A straight is bent in the picture, so nothing is assumed of it as a whole. At each mark the
//! direction of the edge is that of the circle through the mark and its neighbours. Profiles
//! across it are averaged over a short window along it, differentiated, and the peak of the
//! gradient is the place of the edge, sub-pixel by a parabola. Which side is brighter is decided
//! by all marks together, so that a mark does not jump to the other border of a thin bar; where it
//! plainly changes along the edge, as on a chequered wall, either side will do.
//!
//! Fails when fewer than half the marks find an edge; those that do not, stay where they were.

use crate::spaces::PlatePx;
use crate::track::picture::Plane;
use nalgebra::{Matrix4, Vector2, Vector4};

/// A straight on the picture's edge.
#[derive(Clone, Debug, PartialEq)]
pub struct Snapped {
    /// The marks.
    pub marks: Vec<PlatePx>,
    /// Which of them found the edge.
    pub found: Vec<bool>,
    /// How far the farthest of these moved, px.
    pub moved_px: f64,
}

/// Profiles are averaged over so many px along the edge, to both sides.
const WINDOW_PX: i32 = 4;
/// Sampling across the edge, px.
const STEP_PX: f64 = 0.25;
/// Gradients weaker than this are not an edge, levels per px.
const LEAST_GRADIENT: f64 = 1.0;
/// Either side may be the brighter one where that finds so many times more.
const CHANGING: f64 = 1.5;
/// The gradient is taken over this distance to both sides, px.
const SLOPE_PX: f64 = 0.75;

/// Snaps marks to the edge within `reach_px` across. `None` where the picture shows none.
///
/// Six marks and more are snapped twice: a smooth curve through most of what was found tells the
/// edge that is meant from others beside it, and the second search stays near that curve.
pub fn snap(picture: &Plane, marks: &[PlatePx], reach_px: f64) -> Option<Snapped> {
    let first = snap_once(picture, marks, reach_px)?;
    let again = smooth(marks, &first).and_then(|curve| snap_once(picture, &curve, NEAR_PX));
    let mut out = again.unwrap_or(first);
    let off = |k: usize| out.marks[k].distance_px(marks[k]);
    out.moved_px = (0..marks.len())
        .filter(|k| out.found[*k])
        .map(off)
        .fold(0.0, f64::max);
    for (k, found) in out.found.iter().enumerate() {
        if !found {
            out.marks[k] = marks[k];
        }
    }
    Some(out)
}

/// The second search goes so far to both sides, px.
const NEAR_PX: f64 = 1.5;
/// Marks this far from the curve count half in its fit, px.
const STRAY_PX: f64 = 0.7;

/// The marks moved across on to a cubic through most of those that found an edge, over the line
/// from the first to the last: what a lens makes of a straight is no more bent than that.
fn smooth(marks: &[PlatePx], snapped: &Snapped) -> Option<Vec<PlatePx>> {
    const FEWEST: usize = 6;
    let on_edge: Vec<usize> = (0..marks.len()).filter(|k| snapped.found[*k]).collect();
    let along = marks[marks.len() - 1].offset_from(marks[0]);
    let length = along.norm();
    if on_edge.len() < FEWEST || length < 1.0 {
        return None;
    }
    let along = along / length;
    let across = Vector2::new(-along.y, along.x);
    let place = |p: PlatePx| {
        let off = p.offset_from(marks[0]);
        (2.0 * off.dot(&along) / length - 1.0, off.dot(&across))
    };
    let row = |t: f64| Vector4::new(1.0, t, t * t, t * t * t);
    let points: Vec<(f64, f64)> = on_edge.iter().map(|k| place(snapped.marks[*k])).collect();
    let mut weights = vec![1.0; points.len()];
    let mut curve = Vector4::zeros();
    for _ in 0..10 {
        let (mut normal, mut right) = (Matrix4::zeros(), Vector4::zeros());
        for ((t, v), w) in points.iter().zip(&weights) {
            normal += row(*t) * row(*t).transpose() * *w;
            right += row(*t) * *v * *w;
        }
        curve = (normal + Matrix4::identity() * 1e-9)
            .cholesky()?
            .solve(&right);
        for ((t, v), w) in points.iter().zip(weights.iter_mut()) {
            *w = 1.0 / (1.0 + ((v - curve.dot(&row(*t))) / STRAY_PX).powi(2));
        }
    }
    let moved = |m: &PlatePx| {
        let (t, v) = place(*m);
        m.moved(across * (curve.dot(&row(t)) - v))
    };
    Some(marks.iter().map(moved).collect())
}

fn snap_once(picture: &Plane, marks: &[PlatePx], reach_px: f64) -> Option<Snapped> {
    if marks.len() < 2 {
        return None;
    }
    let directions: Vec<Vector2<f64>> = (0..marks.len())
        .map(|k| direction(marks, k))
        .collect::<Option<_>>()?;
    let half = (reach_px / STEP_PX).ceil() as i32;
    let profiles: Vec<Vec<f64>> = marks
        .iter()
        .zip(&directions)
        .map(|(mark, along)| profile(picture, *mark, *along, half))
        .collect();
    let as_seen = |side: Side| -> Vec<Vec<f64>> { profiles.iter().map(|p| side.of(p)).collect() };
    let total =
        |side: Side| -> f64 { as_seen(side).iter().filter_map(|p| Some(p[peak(p)?])).sum() };
    let one = if total(Side::Brighter) >= total(Side::Darker) {
        Side::Brighter
    } else {
        Side::Darker
    };
    let side = if total(Side::Either) > CHANGING * total(one) {
        Side::Either
    } else {
        one
    };
    let profiles = as_seen(side);
    let mut out = Snapped {
        marks: marks.to_vec(),
        found: vec![false; marks.len()],
        moved_px: 0.0,
    };
    for (k, profile) in profiles.iter().enumerate() {
        let Some(i) = peak(profile) else { continue };
        let (before, at, after) = (profile[i - 1], profile[i], profile[i + 1]);
        let bend = before - 2.0 * at + after;
        let off = if bend < 0.0 {
            (0.5 * (before - after) / bend).clamp(-0.5, 0.5)
        } else {
            0.0
        };
        let by = (i as f64 - f64::from(half) + off) * STEP_PX;
        out.marks[k] = marks[k].moved(Vector2::new(-directions[k].y, directions[k].x) * by);
        out.found[k] = true;
    }
    (2 * out.found.iter().filter(|f| **f).count() >= marks.len()).then_some(out)
}

/// Marks about every `spacing_px` along a straight, on the curve through those that are there.
/// Given marks are kept.
pub fn filled(marks: &[PlatePx], spacing_px: f64) -> Vec<PlatePx> {
    let mut out = Vec::new();
    for k in 0..marks.len().saturating_sub(1) {
        let (a, b) = (marks[k], marks[k + 1]);
        let pieces = ((a.distance_px(b) / spacing_px).round() as usize).clamp(1, MOST_PIECES);
        let at = |m: PlatePx| Vector2::new(m.x, m.y);
        // Cubic with the slopes of the circles through the neighbours (Catmull-Rom where evenly spaced).
        let length = a.distance_px(b);
        let slope = |i| direction(marks, i).map_or(at(b) - at(a), |d| d * length);
        let (from, to) = (slope(k), slope(k + 1));
        for piece in 0..pieces {
            let t = piece as f64 / pieces as f64;
            let (t2, t3) = (t * t, t * t * t);
            let p = at(a) * (2.0 * t3 - 3.0 * t2 + 1.0)
                + from * (t3 - 2.0 * t2 + t)
                + at(b) * (3.0 * t2 - 2.0 * t3)
                + to * (t3 - t2);
            out.push(PlatePx::new(p.x, p.y));
        }
    }
    out.extend(marks.last());
    out
}

const MOST_PIECES: usize = 200;

/// Direction of the curve at a mark: that of the circle through it and its neighbours.
fn direction(marks: &[PlatePx], k: usize) -> Option<Vector2<f64>> {
    let chord = |i: usize, j: usize| marks[j].offset_from(marks[i]).try_normalize(1e-9);
    let last = marks.len() - 1;
    match k {
        _ if last == 1 => chord(0, 1),
        // The tangent at an end turns as far from the chord as the next one turns back.
        0 => Some(mirrored(chord(0, 1)?, chord(0, 2).unwrap_or(chord(0, 1)?))),
        k if k == last => Some(mirrored(
            chord(k - 1, k)?,
            chord(k - 2, k).unwrap_or(chord(k - 1, k)?),
        )),
        k => {
            // On a circle the tangent divides the turn between both chords by their lengths.
            let (before, after) = (
                marks[k].distance_px(marks[k - 1]),
                marks[k].distance_px(marks[k + 1]),
            );
            (chord(k - 1, k)? * after + chord(k, k + 1)? * before).try_normalize(1e-9)
        }
    }
}

/// `near` turned on by as much as it already turns away from `wide`: for points of a circle in
/// even spacing, the tangent at the end of the shorter chord.
fn mirrored(near: Vector2<f64>, wide: Vector2<f64>) -> Vector2<f64> {
    let (cos, sin) = (near.dot(&wide), wide.perp(&near));
    Vector2::new(near.x * cos - near.y * sin, near.x * sin + near.y * cos)
}

/// The gradient across the edge at places from `-half` to `half` steps beside a mark.
fn profile(picture: &Plane, mark: PlatePx, along: Vector2<f64>, half: i32) -> Vec<f64> {
    let across = Vector2::new(-along.y, along.x);
    let level = |by: f64| -> f64 {
        let at = |k: i32| mark.moved(across * by + along * f64::from(k));
        (-WINDOW_PX..=WINDOW_PX)
            .map(|k| picture.level_at(at(k)))
            .sum::<f64>()
            / f64::from(2 * WINDOW_PX + 1)
    };
    let slope = |i: i32| {
        let by = f64::from(i) * STEP_PX;
        (level(by + SLOPE_PX) - level(by - SLOPE_PX)) / (2.0 * SLOPE_PX)
    };
    (-half..=half).map(slope).collect()
}

/// Which way an edge leads across the marks.
#[derive(Clone, Copy)]
enum Side {
    Brighter,
    Darker,
    Either,
}

impl Side {
    /// Gradients, positive where they are wanted.
    fn of(self, profile: &[f64]) -> Vec<f64> {
        let wanted = |g: &f64| match self {
            Self::Brighter => *g,
            Self::Darker => -g,
            Self::Either => g.abs(),
        };
        profile.iter().map(wanted).collect()
    }
}

/// The peak that is meant: strong, and preferably near.
fn peak(profile: &[f64]) -> Option<usize> {
    let half = 0.5 * (profile.len() as f64 - 1.0);
    let weighed = |i: usize| profile[i] * (1.0 - 0.5 * ((i as f64 - half) / half.max(1.0)).abs());
    (1..profile.len().saturating_sub(1))
        .filter(|&i| {
            profile[i] >= LEAST_GRADIENT
                && profile[i] >= profile[i - 1]
                && profile[i] >= profile[i + 1]
        })
        .max_by(|a, b| weighed(*a).total_cmp(&weighed(*b)))
}
