//! One observation's residual and its derivatives.
//!
//! With X = R p + t in camera space, depth d = -X.z, u = X.x / d, v = -X.y / d (y down):
//! `px = centre + focal * distort(u, v)`. Derivatives by the chain rule; the turn ω acts as
//! `exp(ω) R`, so that dX/dω = -[R p]×. With a rolling shutter X is carried on to the time of its row
//! ([`super::rolling`]).

use super::{Beliefs, CAMERA, FOCAL, FreeLens, MOST_SHARED, Motion, Observation, Problem, Shared};
use crate::camera::{Eye, Intrinsics};
use crate::lens::Term;
use crate::spaces::LensPoint;
use nalgebra::{Matrix2x3, Matrix3, SMatrix, Vector2, Vector3};

/// Squared whitened residual of a point at or behind the camera: far outside, but finite,
/// so that one such point cannot decide over a step.
const BEHIND_SQUARED: f64 = 1e6;

/// Depths below this share of the unit count as behind.
const NEAREST_DEPTH: f64 = 1e-9;

/// Whitened residual with derivatives, scaled by the root of the robust weight.
#[derive(Clone, Debug)]
pub struct Linear {
    /// Residual.
    pub residual: Vector2<f64>,
    /// By the turn, shift and focal length of the camera that sees it, whether they are free or not.
    pub camera: SMatrix<f64, 2, CAMERA>,
    /// By the point.
    pub point: Matrix2x3<f64>,
    /// By the shared unknowns, columns beyond their number zero.
    pub shared: SMatrix<f64, 2, MOST_SHARED>,
}

fn whiten(w: &[f64; 3], v: Vector2<f64>) -> Vector2<f64> {
    Vector2::new(w[0] * v.x + w[1] * v.y, w[2] * v.y)
}

/// The point in the space of the camera, at the time of the row on which it is seen, and how the camera draws
/// by then.
fn in_camera(problem: &Problem, o: &Observation) -> (Vector3<f64>, Intrinsics) {
    let camera = o.camera as usize;
    let pose = &problem.poses[camera].camera_from_world;
    let x = pose.rotation * problem.points[o.point as usize] + pose.translation.vector;
    let lens = problem.lens_of(camera);
    match &problem.rolling {
        None => (x, lens),
        Some(rolling) => {
            let carried = rolling.carried(camera, o.px.y);
            let lens = lens.with_focal(lens.focal_px * carried.zoom);
            (carried.point(&x), lens)
        }
    }
}

/// Squared whitened residual.
pub fn squared(problem: &Problem, o: &Observation) -> f64 {
    let (x, lens) = in_camera(problem, o);
    if -x.z < NEAREST_DEPTH {
        return BEHIND_SQUARED;
    }
    let px = lens.plate_px(LensPoint::new(x.x / -x.z, -x.y / -x.z));
    whiten(&o.whitening, px.offset_from(o.px))
        .norm_squared()
        .min(BEHIND_SQUARED)
}

/// The unwhitened residual, px; `None` at or behind the camera.
pub fn offset_px(problem: &Problem, o: &Observation) -> Option<Vector2<f64>> {
    let (x, lens) = in_camera(problem, o);
    LensPoint::of_camera_point(&x).map(|d| lens.plate_px(d).offset_from(o.px))
}

/// How where one camera sees a point moves with it, whitened; `None` at or behind the camera.
pub fn by_point(eye: &Eye, point: &Vector3<f64>, whitening: [f64; 3]) -> Option<Matrix2x3<f64>> {
    let alone = Problem {
        motion: Motion::Free,
        lens: eye.lens,
        zoom: None,
        rolling: None,
        free: FreeLens::default(),
        beliefs: Beliefs::default(),
        poses: vec![eye.pose],
        points: vec![*point],
        observations: [].into(),
    };
    let seen = Observation {
        camera: 0,
        point: 0,
        px: eye.lens.centre,
        whitening,
    };
    Some(linear(&alone, &alone.rotations()[0], &seen)?.point)
}

/// How a residual hangs on the path that its camera is carried along ([`super::rolling`]).
#[derive(Clone, Copy, Debug, Default)]
pub struct OfPath {
    /// What it changes by with the change since the time of the frame.
    pub by_change: SMatrix<f64, 2, 7>,
    /// That time, frames.
    pub time: f64,
}

impl OfPath {
    /// Scaled by the root of a robust weight.
    pub fn weighted(self, root: f64) -> Self {
        Self {
            by_change: self.by_change * root,
            ..self
        }
    }
}

/// Residual and derivatives with paths between rows held, before robust weighting; `None` at or behind the camera.
pub fn linear(problem: &Problem, rotation: &Matrix3<f64>, o: &Observation) -> Option<Linear> {
    Some(linear_with_path(problem, rotation, o)?.0)
}

/// The same, and how it hangs on the path where there is one.
pub fn linear_with_path(
    problem: &Problem,
    rotation: &Matrix3<f64>,
    o: &Observation,
) -> Option<(Linear, Option<OfPath>)> {
    let t = &problem.poses[o.camera as usize]
        .camera_from_world
        .translation
        .vector;
    let turned = rotation * problem.points[o.point as usize];
    let rolling = problem.rolling.as_ref();
    let carried = rolling.map(|rolling| rolling.carried(o.camera as usize, o.px.y));
    let x = carried.map_or(turned + t, |carried| carried.point(&(turned + t)));
    let depth = -x.z;
    if depth < NEAREST_DEPTH {
        return None;
    }
    let direction = LensPoint::new(x.x / depth, -x.y / depth);
    let zoom = carried.map_or(1.0, |carried| carried.zoom);
    let focal = zoom * problem.focal_px(o.camera as usize);
    // Of its logarithm, from where the terms of the lens hold; dear, and of most lenses not asked.
    let grown = match problem.free.lens.by_zoom {
        true => (focal / problem.lens.focal_px).ln(),
        false => 0.0,
    };
    let lens = problem.lens.with_focal(focal);
    // d(u, v)/dX
    let inverse = 1.0 / depth;
    let by_x = Matrix2x3::new(
        inverse,
        0.0,
        direction.x * inverse,
        0.0,
        -inverse,
        direction.y * inverse,
    );
    let bend = if lens.distortion.is_none() {
        nalgebra::Matrix2::identity()
    } else {
        lens.distortion.jacobian(direction)
    };
    let px_by_x = bend * by_x * focal;
    let w = &o.whitening;
    let white = |m: Matrix2x3<f64>| {
        let top = m.row(0) * w[0] + m.row(1) * w[1];
        let bottom = m.row(1) * w[2];
        Matrix2x3::from_rows(&[top, bottom])
    };
    let by_x = white(px_by_x);
    let by_shift = carried.map_or(by_x, |carried| by_x * carried.turn);
    let by_turn = by_shift * minus_cross(&turned);
    let distorted = lens.distortion.distort(direction);
    let u = Vector2::new(direction.x, direction.y);
    let by_bend = Term::K1ByZoom.draws(u) * lens.distortion.k1_by_zoom;
    let by_focal = whiten(w, Vector2::new(distorted.x, distorted.y) + by_bend) * zoom;
    let mut camera = SMatrix::<f64, 2, CAMERA>::zeros();
    camera.fixed_view_mut::<2, 3>(0, 0).copy_from(&by_turn);
    camera.fixed_view_mut::<2, 3>(0, 3).copy_from(&by_shift);
    camera.set_column(FOCAL, &by_focal);
    let by_change = carried.map(|carried| {
        let mut by = SMatrix::<f64, 2, 7>::zeros();
        let by_angle = by_x * minus_cross(&x) * carried.turn_by_angle();
        by.fixed_view_mut::<2, 3>(0, 0).copy_from(&by_angle);
        by.fixed_view_mut::<2, 3>(0, 3).copy_from(&by_shift);
        by.set_column(6, &(by_focal * (focal / zoom)));
        by
    });
    let mut shared = SMatrix::<f64, 2, MOST_SHARED>::zeros();
    for (column, term) in problem.free.terms().enumerate() {
        let slope = match term {
            Shared::Focal => by_focal,
            Shared::Lens(term) => {
                let px = match term {
                    Term::CentreX | Term::CentreY => 1.0,
                    Term::K1ByZoom => focal * grown,
                    _ => focal,
                };
                whiten(w, term.draws(u) * px)
            }
            Shared::Readout => by_change
                .zip(carried)
                .map_or_else(Vector2::zeros, |(by, c)| by * c.by_readout),
        };
        shared.set_column(column, &slope);
    }
    let px = Vector2::new(
        lens.centre.x + focal * distorted.x - o.px.x,
        lens.centre.y + focal * distorted.y - o.px.y,
    );
    let linear = Linear {
        residual: whiten(w, px),
        camera,
        point: by_shift * rotation,
        shared,
    };
    let of_path = by_change.zip(carried).map(|(by_change, carried)| OfPath {
        by_change,
        time: carried.time,
    });
    Some((linear, of_path))
}

fn minus_cross(v: &Vector3<f64>) -> Matrix3<f64> {
    Matrix3::new(0.0, v.z, -v.y, -v.z, 0.0, v.x, v.y, -v.x, 0.0)
}
