//! Moves a rail on to the edge that the picture shows there.
//!
//! At stations along the rail the profile across it is differentiated; peaks of the gradient are
//! edge points, sub-pixel by a parabola. Of the edges that they form, the one nearest to the rail in
//! place and angle is taken, not the strongest. A line is fitted to its points by total least
//! squares with Cauchy weights. The ends keep their places along the rail.
//!
//! Fails when fewer than half the stations show an edge.

use super::rails::Rail;
use crate::spaces::PlatePx;
use crate::track::picture::Plane;
use nalgebra::{Matrix2, SymmetricEigen, Vector2};

/// A rail on the picture's edge.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Settled {
    /// The rail.
    pub rail: Rail,
    /// How far its ends moved, px, the greater of both.
    pub moved_px: f64,
    /// Root mean square distance of the edge points from it, px.
    pub rms_px: f64,
    /// Share of the stations that show the edge.
    pub share: f64,
}

/// Stations are this far apart, px.
const STATION_PX: f64 = 2.0;
const MOST_STATIONS: usize = 600;
/// Gradients weaker than this are not an edge, levels per px.
const LEAST_GRADIENT: f64 = 1.2;
/// Fewer stations than this share with an edge is no edge.
const LEAST_SHARE: f64 = 0.5;
/// Levels are compared so far to both sides, px: wider, and parallel edges melt into one.
const BASE_PX: f64 = 0.6;
/// Sampling across the rail, px.
const STEP_PX: f64 = 0.5;

/// Settles a rail on the edge within `reach_px` of it that is nearest in place and angle. `None` where there
/// is none.
pub fn settle(picture: &Plane, rail: &Rail, reach_px: f64) -> Option<Settled> {
    edges(picture, rail, reach_px).into_iter().next()
}

/// All edges within `reach_px` of a rail that run its way, the nearest first.
///
/// Peaks of the gradient at stations along the rail, of either sign, vote for lines through them (Hough, US
/// patent 3069654, 1962) by how far a line lies from the rail at its two ends; lines that at least half of the
/// stations vote for, and more than their neighbours, are fitted. Edges much weaker than the strongest are grain.
pub fn edges(picture: &Plane, rail: &Rail, reach_px: f64) -> Vec<Settled> {
    let Some(mut peaks) = Peaks::of(picture, rail, reach_px) else {
        return Vec::new();
    };
    let mut found: Vec<(Settled, f64)> = Vec::new();
    // What belongs to one edge votes for no other, so that none is seen from one edge to the next.
    while let Some((a, b, sign)) = peaks.line(reach_px).filter(|_| found.len() < MOST_EDGES) {
        let fitted = peaks.fitted(rail, [a, b], sign);
        let ends = fitted.map_or([a, b], |(_, _, ends)| ends);
        if let Some((settled, strength, _)) = fitted
            && settled.moved_px <= 1.5 * reach_px
        {
            found.push((settled, strength));
        }
        peaks.remove(ends, sign);
        peaks.remove([a, b], sign);
    }
    let strongest = found.iter().map(|f| f.1).fold(0.0, f64::max);
    found.retain(|f| f.1 >= LEAST_STRENGTH * strongest);
    let off = |s: &Settled| off_px(rail, &s.rail);
    found.sort_by(|x, y| off(&x.0).total_cmp(&off(&y.0)));
    found.into_iter().map(|f| f.0).collect()
}

/// Edges that are looked for.
const MOST_EDGES: usize = 8;
/// An edge weaker than this share of the strongest is grain.
const LEAST_STRENGTH: f64 = 0.35;
/// Peaks so far from a line vote for it, px.
const VOTES_PX: f64 = 0.8;

/// How far an edge lies from a rail in place and angle at once: root mean square over its ends, px.
fn off_px(rail: &Rail, edge: &Rail) -> f64 {
    let [a, b] = [(rail.a, edge.a), (rail.b, edge.b)].map(|(p, q)| p.distance_px(q));
    (0.5 * (a * a + b * b)).sqrt()
}

/// Where the picture changes across a rail.
struct Peaks {
    start: Vector2<f64>,
    along: Vector2<f64>,
    across: Vector2<f64>,
    length: f64,
    /// Of each station its share of the way and its peaks: off the rail in px, gradient with its sign.
    stations: Vec<(f64, Vec<(f64, f64)>)>,
}

impl Peaks {
    fn of(picture: &Plane, rail: &Rail, reach: f64) -> Option<Self> {
        let length = rail.length_px();
        if length < 4.0 {
            return None;
        }
        let along = rail.b.offset_from(rail.a) / length;
        let across = Vector2::new(-along.y, along.x);
        let start = Vector2::new(rail.a.x, rail.a.y);
        let count = ((length / STATION_PX) as usize).clamp(4, MOST_STATIONS);
        let half = (reach / STEP_PX).ceil() as i32 + 1;
        let station = |k: usize| {
            let share = (k as f64 + 0.5) / count as f64;
            let at = start + along * (length * share);
            let place = |i: i32| at + across * (f64::from(i) * STEP_PX);
            let profile: Vec<f64> = (-half..=half)
                .map(|i| slope(picture, place(i), across, along))
                .collect();
            (share, peaks(&profile, half))
        };
        Some(Self {
            start,
            along,
            across,
            length,
            stations: (0..count).map(station).collect(),
        })
    }

    /// The peak of a sign nearest to where a line passes a station.
    fn nearest(peaks: &[(f64, f64)], at: f64, sign: f64, within: f64) -> Option<(f64, f64)> {
        let own = peaks.iter().filter(|p| p.1 * sign > 0.0);
        let near = own.min_by(|p, q| (p.0 - at).abs().total_cmp(&(q.0 - at).abs()));
        near.copied().filter(|p| (p.0 - at).abs() <= within)
    }

    /// How many stations vote for a line, and how strongly.
    fn votes(&self, a: f64, b: f64, sign: f64) -> (usize, f64) {
        let mut votes = (0, 0.0);
        for (share, peaks) in &self.stations {
            let at = a + (b - a) * share;
            if let Some((_, gradient)) = Self::nearest(peaks, at, sign, VOTES_PX) {
                votes = (votes.0 + 1, votes.1 + gradient.abs());
            }
        }
        votes
    }

    /// The line, by how far it lies from the rail at its ends, that most speaks for; none where fewer than
    /// enough stations vote.
    fn line(&self, reach: f64) -> Option<(f64, f64, f64)> {
        let steps = reach.ceil() as i32;
        let ends = || (-steps..=steps).map(f64::from);
        let least = (LEAST_SHARE * self.stations.len() as f64).ceil() as usize;
        let lines = ends().flat_map(|a| ends().map(move |b| (a, b)));
        let signed = lines.flat_map(|(a, b)| [(a, b, 1.0), (a, b, -1.0)]);
        let voted = signed.filter_map(|line| {
            let (count, strength) = self.votes(line.0, line.1, line.2);
            (count >= least).then_some((strength, line))
        });
        let best = voted.max_by(|x, y| x.0.total_cmp(&y.0));
        best.map(|(_, line)| line)
    }

    /// Takes away what belongs to an edge.
    fn remove(&mut self, ends: [f64; 2], sign: f64) {
        for (share, peaks) in &mut self.stations {
            let at = ends[0] + (ends[1] - ends[0]) * *share;
            peaks.retain(|p| p.1 * sign <= 0.0 || (p.0 - at).abs() > VOTES_PX);
        }
    }

    /// The rail on the edge that a line lies on, its mean gradient, and where it passes the ends.
    fn fitted(
        &self,
        rail: &Rail,
        mut ends: [f64; 2],
        sign: f64,
    ) -> Option<(Settled, f64, [f64; 2])> {
        let mut last = None;
        for within in [1.5, 1.0, 1.0] {
            let (mut points, mut strength) = (Vec::new(), 0.0);
            for (share, peaks) in &self.stations {
                let at = ends[0] + (ends[1] - ends[0]) * share;
                if let Some((off, gradient)) = Self::nearest(peaks, at, sign, within) {
                    let on = self.start + self.along * (self.length * share);
                    points.push(on + self.across * off);
                    strength += gradient.abs();
                }
            }
            let share = points.len() as f64 / self.stations.len() as f64;
            if share < LEAST_SHARE {
                return None;
            }
            let (middle, along, rms_px) = robust_line(&points)?;
            let projected = |end: PlatePx| {
                let off = Vector2::new(end.x - middle.x, end.y - middle.y);
                let on = middle + along * along.dot(&off);
                PlatePx::new(on.x, on.y)
            };
            let on_edge = Rail {
                a: projected(rail.a),
                b: projected(rail.b),
                ..*rail
            };
            let off = |from: PlatePx, to: PlatePx| self.across.dot(&to.offset_from(from));
            ends = [off(rail.a, on_edge.a), off(rail.b, on_edge.b)];
            let moved = on_edge.a.distance_px(rail.a);
            let settled = Settled {
                rail: on_edge,
                moved_px: moved.max(on_edge.b.distance_px(rail.b)),
                rms_px,
                share,
            };
            last = Some((settled, strength / points.len() as f64, ends));
        }
        last
    }
}

/// Peaks of a profile that begins `half` steps before the rail, of either sign, to a fraction of a step.
fn peaks(raw: &[f64], half: i32) -> Vec<(f64, f64)> {
    // Interpolation between px makes small peaks of its own.
    let last = raw.len() - 1;
    let smooth =
        |i: usize| 0.25 * raw[i.saturating_sub(1)] + 0.5 * raw[i] + 0.25 * raw[(i + 1).min(last)];
    let profile: Vec<f64> = (0..raw.len()).map(smooth).collect();
    let one = |i: usize| {
        let sign = profile[i].signum();
        let value = |k: usize| profile[k] * sign;
        let is_peak =
            value(i) >= LEAST_GRADIENT && value(i) >= value(i - 1) && value(i) > value(i + 1);
        let bend = value(i - 1) - 2.0 * value(i) + value(i + 1);
        let off = match bend < 0.0 {
            true => (0.5 * (value(i - 1) - value(i + 1)) / bend).clamp(-0.5, 0.5),
            false => 0.0,
        };
        is_peak.then_some(((i as f64 - f64::from(half) + off) * STEP_PX, profile[i]))
    };
    (1..profile.len() - 1).filter_map(one).collect()
}

/// Slope of the picture across, averaged over three places along, levels per px.
fn slope(picture: &Plane, at: Vector2<f64>, across: Vector2<f64>, along: Vector2<f64>) -> f64 {
    let level = |p: Vector2<f64>| picture.level_at(PlatePx::new(p.x, p.y));
    let (half, width) = (across * BASE_PX, 2.0 * BASE_PX);
    let difference = |p: Vector2<f64>| (level(p + half) - level(p - half)) / width;
    0.25 * difference(at - along) + 0.5 * difference(at) + 0.25 * difference(at + along)
}

/// Middle, direction and weighted rms of a line through most of the points.
fn robust_line(points: &[Vector2<f64>]) -> Option<(Vector2<f64>, Vector2<f64>, f64)> {
    let mut weights = vec![1.0; points.len()];
    let mut line = None;
    for round in 0..8 {
        let total: f64 = weights.iter().sum();
        if points.len() < 4 || total <= 0.0 {
            return None;
        }
        let middle = points
            .iter()
            .zip(&weights)
            .map(|(p, w)| p * *w)
            .sum::<Vector2<f64>>()
            / total;
        let scatter: Matrix2<f64> = points
            .iter()
            .zip(&weights)
            .map(|(p, w)| (p - middle) * (p - middle).transpose() * *w)
            .sum();
        let eigen = SymmetricEigen::new(scatter);
        let along: Vector2<f64> = eigen
            .eigenvectors
            .column(eigen.eigenvalues.imax())
            .into_owned();
        let rms = (eigen.eigenvalues.min().max(0.0) / total).sqrt();
        line = Some((middle, along, rms));
        let normal = Vector2::new(-along.y, along.x);
        let scale = if round < 3 { 0.8 } else { 0.3 };
        for (w, p) in weights.iter_mut().zip(points) {
            *w = 1.0 / (1.0 + (normal.dot(&(p - middle)) / scale).powi(2));
        }
    }
    line
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::photo::Axis;
    use rstest::rstest;

    /// A soft edge through the middle at an angle, with grain and a second, weaker edge beside it.
    fn picture(angle: f64, seed: u64) -> (Plane, impl Fn(f64) -> PlatePx) {
        let mut random = fastrand::Rng::with_seed(seed);
        let (sin, cos) = angle.sin_cos();
        let distance = move |x: f64, y: f64| (x - 100.3) * -sin + (y - 80.7) * cos;
        let levels = (0..200 * 160)
            .map(|i| {
                let d = distance((i % 200) as f64 + 0.5, (i / 200) as f64 + 0.5);
                let edge =
                    60.0 / (1.0 + (-d / 0.6).exp()) + 15.0 / (1.0 + (-(d - 9.0) / 0.6).exp());
                (80.0 + edge + 3.0 * (random.f64() - 0.5) * 2.0) as f32
            })
            .collect();
        (Plane::new(200, 160, levels).unwrap(), move |s: f64| {
            PlatePx::new(100.3 + s * cos, 80.7 + s * sin)
        })
    }

    #[rstest]
    fn a_rail_moves_on_to_the_edge(
        #[values(0.0, 0.3, 1.2, -0.7)] angle: f64,
        #[values((1.8, -2.2), (0.0, 0.0), (-2.5, -1.5))] off: (f64, f64),
    ) {
        let (picture, at) = picture(angle, 7);
        let normal = Vector2::new(-angle.sin(), angle.cos());
        let laid = Rail {
            axis: Axis::X,
            a: at(-50.0).moved(normal * off.0),
            b: at(50.0).moved(normal * off.1),
        };
        let settled = settle(&picture, &laid, 4.0).unwrap();
        for (end, s) in [(settled.rail.a, -50.0), (settled.rail.b, 50.0)] {
            let miss = normal.dot(&end.offset_from(at(s))).abs();
            assert!(miss < 0.1, "{miss} px beside the edge");
        }
        assert!((settled.moved_px - off.0.abs().max(off.1.abs())).abs() < 0.2);
    }

    /// A rail beside a stronger neighbour stays with its own edge, and the neighbour is named after it.
    #[rstest]
    #[case::beside_a_stronger_one(0.4, 3.6, 45.0, 90.0)]
    #[case::between_two(1.0, -2.6, 60.0, 60.0)]
    #[case::of_the_other_sign(0.6, 3.4, 50.0, -80.0)]
    fn a_rail_keeps_to_the_nearest_of_parallel_edges(
        #[case] near: f64,
        #[case] far: f64,
        #[case] of_near: f64,
        #[case] of_far: f64,
    ) {
        let mut random = fastrand::Rng::with_seed(3);
        let edge = |d: f64, at: f64, height: f64| height / (1.0 + (-(d - at) / 0.5).exp());
        let levels = (0..200 * 160)
            .map(|i| {
                let d = (i / 200) as f64 + 0.5 - 80.0;
                let grain = 3.0 * (random.f64() - 0.5);
                (90.0 + edge(d, near, of_near) + edge(d, far, of_far) + grain) as f32
            })
            .collect();
        let picture = Plane::new(200, 160, levels).unwrap();
        let laid = Rail {
            axis: Axis::X,
            a: PlatePx::new(30.0, 80.0),
            b: PlatePx::new(170.0, 80.0),
        };
        let found = edges(&picture, &laid, 4.0);
        let at = |k: usize| found[k].rail.middle().y - 80.0;
        assert!((at(0) - near).abs() < 0.15, "{} instead of {near}", at(0));
        assert!((at(1) - far).abs() < 0.15, "{} instead of {far}", at(1));
    }

    #[test]
    fn nothing_to_settle_on_moves_nothing() {
        let mut random = fastrand::Rng::with_seed(1);
        let levels = (0..200 * 160)
            .map(|_| 120.0 + 3.0 * (random.f64() as f32 - 0.5))
            .collect();
        let flat = Plane::new(200, 160, levels).unwrap();
        let laid = Rail {
            axis: Axis::X,
            a: PlatePx::new(20.0, 30.0),
            b: PlatePx::new(150.0, 60.0),
        };
        assert_eq!(settle(&flat, &laid, 4.0), None);
    }
}
