//! Moves a rail on to the edge that the picture shows there.
//!
//! At stations along the rail the profile across it is differentiated; the peak of the
//! gradient of the prevailing sign is an edge point, sub-pixel by a parabola. A line is
//! fitted to these points by total least squares with Cauchy weights, and the search narrows
//! around it. The ends keep their places along the rail.
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
/// Sampling across the rail, px.
const STEP_PX: f64 = 0.5;

/// Settles a rail on the edge within `reach_px` of it. `None` where there is none.
pub fn settle(picture: &Plane, rail: &Rail, reach_px: f64) -> Option<Settled> {
    let mut current = *rail;
    let mut last = None;
    for reach in [reach_px, (0.5 * reach_px).max(1.5), 1.5] {
        let (points, share) = edge_points(picture, &current, reach)?;
        if share < LEAST_SHARE {
            return None;
        }
        let (middle, along, rms_px) = robust_line(&points)?;
        let projected = |end: PlatePx| {
            let off = Vector2::new(end.x - middle.x, end.y - middle.y);
            let on = middle + along * along.dot(&off);
            PlatePx::new(on.x, on.y)
        };
        current = Rail {
            a: projected(current.a),
            b: projected(current.b),
            ..*rail
        };
        last = Some((rms_px, share));
    }
    let (rms_px, share) = last?;
    let moved_px = current
        .a
        .distance_px(rail.a)
        .max(current.b.distance_px(rail.b));
    (moved_px <= 1.5 * reach_px).then_some(Settled {
        rail: current,
        moved_px,
        rms_px,
        share,
    })
}

/// Points of the prevailing edge across the rail, and the share of stations that have one.
fn edge_points(picture: &Plane, rail: &Rail, reach: f64) -> Option<(Vec<Vector2<f64>>, f64)> {
    let length = rail.length_px();
    if length < 4.0 {
        return None;
    }
    let along = rail.b.offset_from(rail.a) / length;
    let across = Vector2::new(-along.y, along.x);
    let stations = ((length / STATION_PX) as usize).clamp(4, MOST_STATIONS);
    let half = (reach / STEP_PX).ceil() as i32;
    let profile = |k: usize| -> Vec<f64> {
        let s = length * (k as f64 + 0.5) / stations as f64;
        let at = Vector2::new(rail.a.x, rail.a.y) + along * s;
        (-half..=half)
            .map(|i| {
                slope(
                    picture,
                    at + across * (f64::from(i) * STEP_PX),
                    across,
                    along,
                )
            })
            .collect()
    };
    let profiles: Vec<Vec<f64>> = (0..stations).map(profile).collect();
    let strongest = |p: &[f64], sign: f64| p.iter().map(|g| g * sign).fold(0.0, f64::max);
    let (up, down): (f64, f64) = profiles.iter().fold((0.0, 0.0), |(u, d), p| {
        (u + strongest(p, 1.0), d + strongest(p, -1.0))
    });
    let sign = if up >= down { 1.0 } else { -1.0 };
    let mut points = Vec::new();
    for (k, profile) in profiles.iter().enumerate() {
        let value = |i: usize| profile[i] * sign;
        // Nearer ones are preferred a little: the artist meant what is under the rail.
        let weighed = |i: usize| {
            value(i) * (1.0 - 0.4 * ((i as f64 - f64::from(half)) / f64::from(half.max(1))).abs())
        };
        let best = (1..profile.len() - 1)
            .filter(|&i| {
                value(i) >= LEAST_GRADIENT && value(i) >= value(i - 1) && value(i) >= value(i + 1)
            })
            .max_by(|a, b| weighed(*a).total_cmp(&weighed(*b)));
        let Some(i) = best else { continue };
        let bend = value(i - 1) - 2.0 * value(i) + value(i + 1);
        let off = if bend < 0.0 {
            (0.5 * (value(i - 1) - value(i + 1)) / bend).clamp(-0.5, 0.5)
        } else {
            0.0
        };
        let s = length * (k as f64 + 0.5) / stations as f64;
        let t = (i as f64 - f64::from(half) + off) * STEP_PX;
        points.push(Vector2::new(rail.a.x, rail.a.y) + along * s + across * t);
    }
    let share = points.len() as f64 / stations as f64;
    Some((points, share))
}

/// Slope of the picture across, averaged over three places along, levels per px.
fn slope(picture: &Plane, at: Vector2<f64>, across: Vector2<f64>, along: Vector2<f64>) -> f64 {
    let level = |p: Vector2<f64>| picture.level_at(PlatePx::new(p.x, p.y));
    let difference = |p: Vector2<f64>| 0.5 * (level(p + across) - level(p - across));
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
