//! Where does a camera stand that sees these landmarks there?
//!
//! Cameras that travel: three points by Grunert's equations (1841, in the form of Haralick et al. 1994, section
//! III.A), inside MSAC, then Gauss-Newton on all robustly weighted residuals. Cameras that only turn:
//! the rotation that fits the bearings best ([`super::two_view::fit_rotation`]), then the same
//! descent. A focal length of its own is found in the descent.

use super::bundle::zoom::RATE_WANDERS;
use super::bundle::{
    Beliefs, CAMERA, FOCAL, FreeLens, Loss, Motion, Observation, Problem, Zoom, residual,
};
use super::two_view::fit_rotation;
use crate::camera::{Eye, Intrinsics, Pose};
use crate::damped::{Damping, Gained, Rule, Tried, descended};
use crate::rotation;
use crate::spaces::WorldPoint;
use nalgebra::{Matrix3, Matrix4, Point3, SMatrix, SVector, Vector3};
use std::sync::Arc;

/// A landmark and where it is seen; the camera's index is not read.
pub type Sight = (Vector3<f64>, Observation);

/// What is unknown of a camera besides its turn.
#[derive(Clone, Copy, Debug)]
pub struct Unknown {
    /// Whether it travels.
    pub motion: Motion,
    /// Its own focal length, where it has one.
    pub zooms: Option<Expected>,
}

/// What is expected of a focal length.
#[derive(Clone, Copy, Debug)]
pub struct Expected {
    /// Logarithm of it in px.
    pub ln_focal: f64,
    /// One standard error of that.
    pub sigma: f64,
}

impl Expected {
    /// Nothing is.
    pub const NOTHING: Self = Self {
        ln_focal: 0.0,
        sigma: f64::INFINITY,
    };

    fn off(&self, focal_px: f64) -> f64 {
        (focal_px.ln() - self.ln_focal) / self.sigma
    }
}

/// All poses from which three points are seen along three unit bearings.
pub fn poses_from_three(points: &[Vector3<f64>; 3], bearings: &[Vector3<f64>; 3]) -> Vec<Pose> {
    let (a2, b2, c2) = (
        (points[1] - points[2]).norm_squared(),
        (points[0] - points[2]).norm_squared(),
        (points[0] - points[1]).norm_squared(),
    );
    if a2.min(b2).min(c2) < 1e-18 {
        return Vec::new();
    }
    let (cos_a, cos_b, cos_c) = (
        bearings[1].dot(&bearings[2]),
        bearings[0].dot(&bearings[2]),
        bearings[0].dot(&bearings[1]),
    );
    let q = (a2 - c2) / b2;
    let p = (a2 + c2) / b2;
    let coefficients = [
        (1.0 + q).powi(2) - 4.0 * a2 / b2 * cos_c * cos_c,
        4.0 * (-q * (1.0 + q) * cos_b + 2.0 * a2 / b2 * cos_c * cos_c * cos_b
            - (1.0 - p) * cos_a * cos_c),
        2.0 * (q * q - 1.0 + 2.0 * q * q * cos_b * cos_b + 2.0 * (b2 - c2) / b2 * cos_a * cos_a
            - 4.0 * p * cos_a * cos_b * cos_c
            + 2.0 * (b2 - a2) / b2 * cos_c * cos_c),
        4.0 * (q * (1.0 - q) * cos_b - (1.0 - p) * cos_a * cos_c
            + 2.0 * c2 / b2 * cos_a * cos_a * cos_b),
        (q - 1.0).powi(2) - 4.0 * c2 / b2 * cos_a * cos_a,
    ];
    quartic_roots(&coefficients)
        .into_iter()
        .filter_map(|v| {
            let below = 2.0 * (cos_c - v * cos_a);
            let u = ((q - 1.0) * v * v - 2.0 * q * cos_b * v + 1.0 + q) / below;
            let first = (b2 / (1.0 + v * v - 2.0 * v * cos_b)).sqrt();
            let distances = [first, u * first, v * first];
            if !distances.iter().all(|d| d.is_finite() && *d > 0.0) {
                return None;
            }
            let seen: [Vector3<f64>; 3] = std::array::from_fn(|i| bearings[i] * distances[i]);
            rigid(points, &seen)
        })
        .collect()
}

/// Real roots of a polynomial of degree 4, constant first.
fn quartic_roots(c: &[f64; 5]) -> Vec<f64> {
    let largest = c.iter().fold(0.0f64, |m, x| m.max(x.abs()));
    if c[4].abs() < 1e-12 * largest {
        return Vec::new();
    }
    let mut companion = Matrix4::zeros();
    for i in 0..4 {
        companion[(0, i)] = -c[3 - i] / c[4];
        if i < 3 {
            companion[(i + 1, i)] = 1.0;
        }
    }
    let Some(schur) = nalgebra::linalg::Schur::try_new(companion, 1e-13, 200) else {
        return Vec::new();
    };
    let value = |x: f64| c.iter().rev().fold(0.0, |s, k| s * x + k);
    let slope = |x: f64| ((4.0 * c[4] * x + 3.0 * c[3]) * x + 2.0 * c[2]) * x + c[1];
    let polish = |mut x: f64| {
        for _ in 0..3 {
            let step = value(x) / slope(x);
            if step.is_finite() {
                x -= step;
            }
        }
        x
    };
    let roots = schur.complex_eigenvalues();
    roots
        .iter()
        .filter(|r| r.im.abs() < 1e-5 * (1.0 + r.re.abs()))
        .map(|r| polish(r.re))
        .collect()
}

/// The rotation and shift that bring three points onto three others (Kabsch 1976).
fn rigid(from: &[Vector3<f64>; 3], to: &[Vector3<f64>; 3]) -> Option<Pose> {
    let mean = |p: &[Vector3<f64>; 3]| (p[0] + p[1] + p[2]) / 3.0;
    let (mf, mt) = (mean(from), mean(to));
    let covariance: Matrix3<f64> = from
        .iter()
        .zip(to)
        .map(|(f, t)| (t - mt) * (f - mf).transpose())
        .sum();
    let rotation = rotation::nearest(&covariance)?.rotation;
    Some(Pose::from_parts(rotation, mt - rotation * mf))
}

/// Improves a camera on all sights; returns it with the number of sights within `limit_px`.
pub fn refine(
    start: Eye,
    unknown: Unknown,
    sights: &[Sight],
    loss: Loss,
    limit_px: f64,
) -> (Eye, usize) {
    let observations: Arc<[Observation]> = sights
        .iter()
        .enumerate()
        .map(|(i, (_, o))| Observation {
            camera: 0,
            point: i as u32,
            ..*o
        })
        .collect();
    let mut problem = Problem {
        motion: unknown.motion,
        lens: start.lens,
        zoom: unknown.zooms.map(|_| Zoom {
            focals_px: vec![start.lens.focal_px],
            times: vec![0.0],
            wanders: RATE_WANDERS,
            at_first: None,
        }),
        rolling: None,
        free: FreeLens::default(),
        beliefs: Beliefs::default(),
        poses: vec![start.pose],
        points: sights.iter().map(|(p, _)| *p).collect(),
        observations,
    };
    let expected = unknown.zooms.unwrap_or(Expected::NOTHING);
    let cost_of =
        |problem: &Problem| problem.cost(loss) + 0.5 * expected.off(problem.focal_px(0)).powi(2);
    let cost = cost_of(&problem);
    let damping = Damping {
        first: 1e-4,
        rule: Rule::Factors {
            less: 0.2,
            more: 10.0,
        },
        least: 0.0,
        most: 1e4,
    };
    let put = |problem: &mut Problem, eye: &Eye| {
        problem.poses[0] = eye.pose;
        if let Some(zoom) = &mut problem.zoom {
            zoom.focals_px[0] = eye.lens.focal_px;
        }
    };
    let step = |eye: &Eye, damping: f64| {
        put(&mut problem, eye);
        let step = camera_step(&problem, &expected, loss, damping)?;
        let (turn, shift) = (
            step.fixed_rows::<3>(0).into(),
            step.fixed_rows::<3>(3).into(),
        );
        let focal_px = eye.lens.focal_px;
        let next_px = (focal_px + step[FOCAL]).clamp(0.5 * focal_px, 2.0 * focal_px);
        let at = Eye {
            lens: eye.lens.with_focal(next_px),
            pose: eye.pose.perturbed(turn, shift),
        };
        put(&mut problem, &at);
        Some(Tried {
            at,
            cost: cost_of(&problem),
            length: step.norm(),
            foreseen: f64::INFINITY,
        })
    };
    let is_enough = |gained: Gained| gained.by < 1e-7 * (gained.cost + gained.by);
    let (eye, _) = descended(start, cost, 25, damping, step, is_enough);
    put(&mut problem, &eye);
    let fits =
        |o: &Observation| residual::offset_px(&problem, o).is_some_and(|r| r.norm() < limit_px);
    let fitting = problem.observations.iter().filter(|o| fits(o)).count();
    (eye, fitting)
}

fn camera_step(
    problem: &Problem,
    expected: &Expected,
    loss: Loss,
    damping: f64,
) -> Option<SVector<f64, CAMERA>> {
    let rotation = problem.poses[0]
        .camera_from_world
        .rotation
        .to_rotation_matrix()
        .into_inner();
    let mut normal = SMatrix::<f64, CAMERA, CAMERA>::zeros();
    let mut side = SVector::<f64, CAMERA>::zeros();
    for o in problem.observations.iter() {
        let Some(l) = residual::linear(problem, &rotation, o) else {
            continue;
        };
        let weight = loss.weight(l.residual.norm_squared());
        normal += l.camera.tr_mul(&l.camera) * weight;
        side += l.camera.tr_mul(&l.residual) * weight;
    }
    let focal_px = problem.focal_px(0);
    let slope = 1.0 / (expected.sigma * focal_px);
    normal[(FOCAL, FOCAL)] += slope * slope;
    side[FOCAL] += slope * expected.off(focal_px);
    for i in 0..CAMERA {
        normal[(i, i)] *= 1.0 + damping;
        if !problem.slots().contains(&i) {
            normal.row_mut(i).fill(0.0);
            normal.column_mut(i).fill(0.0);
            normal[(i, i)] = 1.0;
            side[i] = 0.0;
        }
    }
    Some(-normal.cholesky()?.solve(&side))
}

/// Finds a camera with a guess of its focal length only, then refines it.
/// Returns it and the number of sights within `limit_px`.
pub fn find(
    lens: &Intrinsics,
    unknown: Unknown,
    sights: &[Sight],
    (loss, limit_px): (Loss, f64),
    seed: u64,
) -> Option<(Eye, usize)> {
    if sights.len() < 6 {
        return None;
    }
    let pose = match unknown.motion {
        Motion::Free => find_pose(lens, sights, limit_px, seed)?,
        Motion::Turning => {
            let bearing = |(point, o): &Sight| {
                let seen = lens.lens_point(o.px)?.ray().normalize();
                Some((*point, seen))
            };
            let pairs: Vec<_> = sights.iter().filter_map(bearing).collect();
            Pose::from_parts(fit_rotation(&pairs)?.rotation, Vector3::zeros())
        }
        Motion::Resting => Pose::identity(),
    };
    let start = Eye { lens: *lens, pose };
    Some(refine(start, unknown, sights, loss, limit_px))
}

/// MSAC over three-point samples.
fn find_pose(lens: &Intrinsics, sights: &[Sight], limit_px: f64, seed: u64) -> Option<Pose> {
    let bearings: Vec<Option<Vector3<f64>>> = sights
        .iter()
        .map(|(_, o)| lens.lens_point(o.px).map(|l| l.ray().normalize()))
        .collect();
    let mut random = fastrand::Rng::with_seed(seed);
    let cost_of = |pose: &Pose| -> f64 {
        let cost = |(point, o): &Sight| {
            let px = lens.project(pose, &WorldPoint(Point3::from(*point)));
            px.map_or(1.0, |px| (px.distance_px(o.px) / limit_px).powi(2).min(1.0))
        };
        sights.iter().map(cost).sum()
    };
    let mut best: Option<(f64, Pose)> = None;
    for _ in 0..150 {
        let chosen: [usize; 3] = std::array::from_fn(|_| random.usize(..sights.len()));
        if chosen[0] == chosen[1] || chosen[1] == chosen[2] || chosen[0] == chosen[2] {
            continue;
        }
        let [Some(a), Some(b), Some(c)] = chosen.map(|i| bearings[i]) else {
            continue;
        };
        for pose in poses_from_three(&chosen.map(|i| sights[i].0), &[a, b, c]) {
            let cost = cost_of(&pose);
            if best.is_none_or(|(least, _)| cost < least) {
                best = Some((cost, pose));
            }
        }
    }
    best.map(|(_, pose)| pose)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn three_points_give_the_pose_back() {
        let mut random = fastrand::Rng::with_seed(5);
        let mut draw = |range: f64| (random.f64() - 0.5) * 2.0 * range;
        for _ in 0..300 {
            let truth = Pose::from_parts(
                nalgebra::UnitQuaternion::new(Vector3::new(draw(0.5), draw(0.5), draw(0.5))),
                Vector3::new(draw(2.0), draw(2.0), draw(2.0)),
            );
            let camera_points: [Vector3<f64>; 3] =
                std::array::from_fn(|_| Vector3::new(draw(2.0), draw(2.0), -5.0 + draw(2.0)));
            let world =
                camera_points.map(|p| (truth.camera_from_world.inverse() * Point3::from(p)).coords);
            let poses = poses_from_three(&world, &camera_points.map(|p| p.normalize()));
            let off = poses
                .iter()
                .map(|p| p.centre().distance(truth.centre()))
                .fold(9.0, f64::min);
            assert!(off < 1e-4, "{off}");
        }
    }
}
