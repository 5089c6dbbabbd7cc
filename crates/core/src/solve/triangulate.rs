//! Where is the landmark that these cameras see along these rays?
//!
//! The point nearest to all rays (linear), then Gauss-Newton on robustly weighted residuals.
//! Rays that are nearly parallel give a point far out rather than none, as long as it lies
//! in front of all cameras: distant features steady the rotation. Of cameras that only turn it is
//! the direction that fits all rays best.

use super::bundle::stepped::moved;
use super::bundle::zoom::RATE_WANDERS;
use super::bundle::{Beliefs, FreeLens, Loss, Motion, Observation, Problem, Zoom, residual};
use super::views::Seen;
use crate::camera::Eye;
use crate::damped::{Damping, Gained, Rule, Tried, descended};
use nalgebra::{Matrix3, Vector3};

/// A landmark and how well it is founded.
#[derive(Clone, Copy, Debug)]
pub struct Triangulated {
    /// World position.
    pub point: Vector3<f64>,
    /// Greatest angle between two of its rays, rad.
    pub angle_rad: f64,
    /// Share of the positions that it fits within the limit.
    pub fitting_share: f64,
}

/// What one camera sees of a landmark.
#[derive(Clone, Copy, Debug)]
pub struct Sighting {
    /// The camera.
    pub eye: Eye,
    /// Where it sees the landmark.
    pub seen: Seen,
}

/// Triangulates from cameras and what they see; `None` below two cameras that move freely or one
/// that turns, behind one of them, or with no fit at all. Their lenses differ in the focal length only.
pub fn triangulate(
    motion: Motion,
    sights: &[Sighting],
    loss: Loss,
    limit_px: f64,
) -> Option<Triangulated> {
    let rays: Vec<(Vector3<f64>, Vector3<f64>)> = sights
        .iter()
        .filter_map(|s| {
            let Eye { lens, pose } = &s.eye;
            let ray = lens.lens_point(s.seen.px)?.ray().normalize();
            Some((
                pose.centre().0.coords,
                pose.camera_from_world.rotation.inverse() * ray,
            ))
        })
        .collect();
    let needed = if motion.is_on_the_spot() { 1 } else { 2 };
    if rays.len() < needed {
        return None;
    }
    let angle_rad = widest_angle(&rays);
    let start = match motion {
        Motion::Free => nearest_to_rays(&rays)?,
        Motion::Turning | Motion::Resting => {
            rays.iter().map(|r| r.1).sum::<Vector3<f64>>().normalize()
        }
    };
    let mut problem = Problem {
        motion,
        lens: sights.first()?.eye.lens,
        zoom: Some(Zoom {
            focals_px: sights.iter().map(|s| s.eye.lens.focal_px).collect(),
            times: Vec::new(),
            wanders: RATE_WANDERS,
            at_first: None,
        }),
        rolling: None,
        free: FreeLens::default(),
        beliefs: Beliefs::default(),
        poses: sights.iter().map(|s| s.eye.pose).collect(),
        points: vec![start],
        observations: sights
            .iter()
            .enumerate()
            .map(|(i, s)| Observation {
                camera: i as u32,
                point: 0,
                px: s.seen.px,
                whitening: s.seen.whitening,
            })
            .collect(),
    };
    refine(&mut problem, loss);
    let fits =
        |o: &Observation| residual::offset_px(&problem, o).is_some_and(|r| r.norm() < limit_px);
    let fitting = problem.observations.iter().filter(|o| fits(o)).count();
    let fitting_share = fitting as f64 / sights.len() as f64;
    (fitting >= needed).then_some(Triangulated {
        point: problem.points[0],
        angle_rad,
        fitting_share,
    })
}

fn widest_angle(rays: &[(Vector3<f64>, Vector3<f64>)]) -> f64 {
    let stride = rays.len().div_ceil(12);
    let some: Vec<_> = rays.iter().step_by(stride).chain(rays.last()).collect();
    let mut widest: f64 = 0.0;
    for (i, a) in some.iter().enumerate() {
        for b in &some[i + 1..] {
            widest = widest.max(a.1.cross(&b.1).norm().atan2(a.1.dot(&b.1)));
        }
    }
    widest
}

fn nearest_to_rays(rays: &[(Vector3<f64>, Vector3<f64>)]) -> Option<Vector3<f64>> {
    let (mut normal, mut side) = (Matrix3::zeros(), Vector3::zeros());
    for (origin, direction) in rays {
        let across = Matrix3::identity() - direction * direction.transpose();
        normal += across;
        side += across * origin;
    }
    let mean_origin = rays.iter().map(|r| r.0).sum::<Vector3<f64>>() / rays.len() as f64;
    let base = rays
        .iter()
        .map(|r| (r.0 - mean_origin).norm())
        .fold(0.0, f64::max)
        .max(1e-9);
    let forward = rays.iter().map(|r| r.1).sum::<Vector3<f64>>().normalize();
    let far = mean_origin + forward * base * 1000.0;
    let point = normal.try_inverse().map_or(far, |n| n * side);
    let ahead = (point - mean_origin).dot(&forward);
    // Parallel rays may meet behind the cameras by a hair: such a point is far away.
    if ahead <= 0.0 || ahead > base * 1000.0 {
        let nearly_parallel = widest_angle(rays) < 0.01;
        return nearly_parallel.then_some(far);
    }
    Some(point)
}

fn refine(problem: &mut Problem, loss: Loss) {
    let rotations = problem.rotations();
    let (start, cost) = (problem.points[0], point_cost(problem, loss));
    let damping = Damping {
        first: 1e-3,
        rule: Rule::Factors {
            less: 0.2,
            more: 10.0,
        },
        least: 0.0,
        most: 1e6,
    };
    let anchor = problem.anchors()[0];
    let anchor = problem.poses.get(anchor).copied();
    let step = |point: &Vector3<f64>, damping: f64| {
        problem.points[0] = *point;
        let step = point_step(problem, &rotations, loss, damping)?;
        let mut at = moved(point, &step, anchor.as_ref().map(|pose| (pose, pose)));
        if problem.motion.is_on_the_spot() {
            at = at.normalize();
        }
        problem.points[0] = at;
        Some(Tried {
            at,
            cost: point_cost(problem, loss),
            length: step.norm(),
            foreseen: f64::INFINITY,
        })
    };
    let is_enough = |gained: Gained| gained.by < 1e-6 * (gained.cost + gained.by);
    problem.points[0] = descended(start, cost, 15, damping, step, is_enough).0;
}

fn point_step(
    problem: &Problem,
    rotations: &[Matrix3<f64>],
    loss: Loss,
    damping: f64,
) -> Option<Vector3<f64>> {
    let (mut normal, mut side) = (Matrix3::zeros(), Vector3::zeros());
    for o in problem.observations.iter() {
        let Some(l) = residual::linear(problem, &rotations[o.camera as usize], o) else {
            continue;
        };
        let weight = loss.weight(l.residual.norm_squared());
        normal += l.point.tr_mul(&l.point) * weight;
        side += l.point.tr_mul(&l.residual) * weight;
    }
    problem.hold_length(0, &mut normal);
    for i in 0..3 {
        normal[(i, i)] += damping * normal[(i, i)] + 1e-12;
    }
    normal.try_inverse().map(|inverse| -(inverse * side))
}

fn point_cost(problem: &Problem, loss: Loss) -> f64 {
    problem
        .observations
        .iter()
        .map(|o| loss.cost(residual::squared(problem, o)))
        .sum()
}
