//! Problems of the adjustment with known truth: cameras that walk past a cloud of points or turn within a
//! ring of directions, positions with stated noise; and everything of one as dense matrices.

use nalgebra::{DMatrix, DVector, Point3, UnitQuaternion, Vector3};
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::lens::{Distortion, LensTerms};
use parallax_core::progress::Silent;
use parallax_core::solve::bundle::neighbours::PathSlopes;
use parallax_core::solve::bundle::residual::linear_with_path;
use parallax_core::solve::bundle::zoom::RATE_WANDERS;
use parallax_core::solve::bundle::{
    Anchor, Beliefs, FreeLens, Loss, Motion, Observation, Problem, Rolling, Settings, Smoothness,
    Step, Stop, Zoom, minimise,
};
use parallax_core::spaces::WorldPoint;

pub const SIGMA_PX: f64 = 0.2;

/// A walk of `cameras`; each point is seen by up to `life` successive ones. The truth, with
/// positions off by `noise` standard errors.
pub fn walk(cameras: usize, points: usize, life: usize, noise: f64, seed: u64) -> Problem {
    let mut random = fastrand::Rng::with_seed(seed);
    let mut uniform = |range: f64| (random.f64() - 0.5) * 2.0 * range;
    let poses: Vec<Pose> = (0..cameras)
        .map(|i| {
            let x = 0.15 * i as f64;
            let eye = Point3::new(x, 1.6 + uniform(0.05), uniform(0.1));
            Pose::looking_at(
                &eye,
                &Point3::new(x + uniform(0.2), 1.0, -6.0),
                &Vector3::y(),
            )
        })
        .collect();
    let lens = Intrinsics {
        distortion: Distortion::radial(-0.05, 0.01),
        ..Intrinsics::centred(1280, 720, 1000.0)
    };
    let (mut places, mut observations) = (Vec::new(), Vec::new());
    for k in 0..points {
        let first = k * (cameras - life + 1) / points;
        let middle = 0.15 * (first + life / 2) as f64;
        let place = WorldPoint::new(
            middle + uniform(1.5),
            1.0 + uniform(1.2),
            -6.0 + uniform(2.5),
        );
        let point = places.len() as u32;
        let seen: Vec<Observation> = (first..first + life)
            .filter_map(|camera| {
                let px = lens.project(&poses[camera], &place)?;
                let mut normal = || (0..12).map(|_| uniform(0.5)).sum::<f64>();
                let off = nalgebra::Vector2::new(normal(), normal()) * (noise * SIGMA_PX);
                Some(Observation {
                    camera: camera as u32,
                    point,
                    px: px.moved(off),
                    whitening: [1.0 / SIGMA_PX, 0.0, 1.0 / SIGMA_PX],
                })
            })
            .collect();
        if seen.len() >= 3 {
            observations.extend(seen);
            places.push(place.0.coords);
        }
    }
    let free = FreeLens {
        focal: true,
        lens: LensTerms::TWO,
        ..FreeLens::default()
    };
    Problem {
        rolling: None,
        beliefs: Beliefs::default(),
        motion: Motion::Free,
        zoom: None,
        lens,
        free,
        poses,
        points: places,
        observations: observations.into(),
    }
}

pub fn rest(problem: &mut Problem, loss: Loss) -> Stop {
    let settings = Settings {
        loss,
        most_iterations: 60,
        least_decrease: 1e-12,
        damping: 1e-6,
    };
    minimise(problem, &settings, &Silent).stop
}

/// A camera that turns on the spot past a ring of directions.
pub fn turn(cameras: usize, points: usize, life: usize, noise: f64, seed: u64) -> Problem {
    on_the_spot((0.06, 0.02), cameras, points, life, noise, seed)
}

/// A camera that rests before some directions.
pub fn rest_before(cameras: usize, points: usize, life: usize, noise: f64, seed: u64) -> Problem {
    let mut problem = on_the_spot((0.0, 0.0), cameras, points, life, noise, seed);
    problem.motion = Motion::Resting;
    problem
}

/// A camera that turns by so much from frame to frame, rad, and shakes by so much.
fn on_the_spot(
    (by, shakes): (f64, f64),
    cameras: usize,
    points: usize,
    life: usize,
    noise: f64,
    seed: u64,
) -> Problem {
    let mut random = fastrand::Rng::with_seed(seed);
    let mut uniform = |range: f64| (random.f64() - 0.5) * 2.0 * range;
    let yaw = |i: f64| -by * i;
    let poses: Vec<Pose> = (0..cameras)
        .map(|i| {
            let turn = UnitQuaternion::from_euler_angles(uniform(shakes), yaw(i as f64), 0.0);
            Pose::from_parts(turn.inverse(), Vector3::zeros())
        })
        .collect();
    let lens = Intrinsics::centred(1280, 720, 1000.0);
    let (mut places, mut observations) = (Vec::new(), Vec::new());
    for k in 0..points {
        let first = k * (cameras - life + 1) / points;
        let middle = yaw((first + life / 2) as f64) + uniform(0.25);
        let place = UnitQuaternion::from_euler_angles(uniform(0.2), middle, 0.0) * -Vector3::z();
        for (camera, pose) in poses.iter().enumerate().skip(first).take(life) {
            let px = lens.project(pose, &WorldPoint(place.into()));
            let mut normal = || (0..12).map(|_| uniform(0.5)).sum::<f64>();
            let off = nalgebra::Vector2::new(normal(), normal()) * (noise * SIGMA_PX);
            observations.push(Observation {
                camera: camera as u32,
                point: k as u32,
                px: px.unwrap().moved(off),
                whitening: [1.0 / SIGMA_PX, 0.0, 1.0 / SIGMA_PX],
            });
        }
        places.push(place);
    }
    Problem {
        rolling: None,
        beliefs: Beliefs::default(),
        motion: Motion::Turning,
        zoom: None,
        lens,
        free: FreeLens {
            focal: true,
            ..FreeLens::default()
        },
        poses,
        points: places,
        observations: observations.into(),
    }
}

/// The same with a focal length of its own for each camera, uneven in time, off the truth.
pub fn zooming(mut problem: Problem) -> Problem {
    let cameras = problem.poses.len();
    let uneven = |i: usize| 3.0 * i as f64 + (i % 2) as f64;
    problem.free.focal = false;
    problem.zoom = Some(Zoom {
        focals_px: (0..cameras)
            .map(|i| 1000.0 + 4.0 * (i * i % 7) as f64)
            .collect(),
        times: (0..cameras).map(uneven).collect(),
        wanders: RATE_WANDERS,
        // One that rests shows none.
        at_first: (problem.motion == Motion::Resting).then_some((1000.0, 2.0)),
    });
    problem
}

/// The same with rows that are read one after the other, over a part of a frame that is known.
pub fn rolling(mut problem: Problem) -> Problem {
    let times: Vec<f64> = (0..problem.poses.len()).map(|i| i as f64).collect();
    problem.rolling = Some(Rolling::of(&problem.eyes(), &times, 0.4, 720.0));
    problem
}

/// The same, and everything is seen where it is when its row is read.
pub fn seen_rolling(problem: Problem) -> Problem {
    let mut problem = rolling(problem);
    let rolling = problem.rolling.as_ref().unwrap();
    let eyes = problem.eyes();
    let seen = |o: &Observation| {
        let mut px = o.px;
        // Which row it is on hangs on when that is read.
        for _ in 0..20 {
            let camera = o.camera as usize;
            let eye = rolling.camera(camera, &eyes[camera], px.y);
            let place = WorldPoint(problem.points[o.point as usize].into());
            px = eye.lens.project(&eye.pose, &place).unwrap();
        }
        Observation { px, ..*o }
    };
    problem.observations = problem.observations.iter().map(seen).collect();
    problem
}

/// Every kind of camera that there is.
#[derive(Clone, Copy, Debug)]
pub enum Kind {
    Free,
    FreeZoom,
    Turn,
    TurnZoom,
    RestZoom,
}

impl Kind {
    /// How it moves, and whether it zooms.
    pub fn parts(self) -> (Motion, bool) {
        match self {
            Self::Free => (Motion::Free, false),
            Self::FreeZoom => (Motion::Free, true),
            Self::Turn => (Motion::Turning, false),
            Self::TurnZoom => (Motion::Turning, true),
            Self::RestZoom => (Motion::Resting, true),
        }
    }
}

/// A camera of a kind, small.
pub fn of_kind(motion: Motion, zooms: bool, noise: f64) -> Problem {
    let mut problem = match motion {
        Motion::Free => walk(6, 40, 4, noise, 3),
        Motion::Turning => turn(6, 40, 4, noise, 3),
        Motion::Resting => rest_before(6, 40, 4, noise, 3),
    };
    problem.free.lens = LensTerms::NONE;
    if zooms { zooming(problem) } else { problem }
}

/// Where the unknowns are in one row: cameras, shared, points.
pub struct Row {
    pub slots: &'static [usize],
    pub first_shared: usize,
    pub first_point: usize,
    pub all: usize,
}

impl Row {
    pub fn of(problem: &Problem) -> Self {
        let slots = problem.slots();
        let first_shared = slots.len() * problem.poses.len();
        let first_point = first_shared + problem.free.count();
        Self {
            slots,
            first_shared,
            first_point,
            all: first_point + 3 * problem.points.len(),
        }
    }

    pub fn of_camera(&self, camera: usize, slot: usize) -> Option<usize> {
        let at = self.slots.iter().position(|s| *s == slot)?;
        Some(self.slots.len() * camera + at)
    }

    pub fn step(&self, problem: &Problem, row: &DVector<f64>) -> Step {
        let of_camera = |c, slot| self.of_camera(c, slot).map_or(0.0, |at| row[at]);
        let shared = |i| (i < problem.free.count()).then(|| row[self.first_shared + i]);
        Step {
            cameras: (0..problem.poses.len())
                .map(|c| std::array::from_fn(|slot| of_camera(c, slot)))
                .collect(),
            shared: std::array::from_fn(|i| shared(i).unwrap_or(0.0)),
            points: (0..problem.points.len())
                .map(|p| Vector3::from_fn(|i, _| row[self.first_point + 3 * p + i]))
                .collect(),
        }
    }
}

pub fn stepped(problem: &Problem, step: &DVector<f64>) -> Problem {
    problem.stepped(&Row::of(problem).step(problem, step))
}

/// Jacobian and residuals of everything as dense matrices, from the analytic derivatives: what was
/// seen, then what is believed of the cameras, then of the points.
pub fn dense(problem: &Problem) -> (DMatrix<f64>, DVector<f64>) {
    let row = Row::of(problem);
    let beliefs = problem.beliefs_of_cameras();
    let anchors = &problem.beliefs.anchors;
    let seen = 2 * problem.observations.len();
    let rows = seen + beliefs.len() + 3 * anchors.len();
    let mut jacobian = DMatrix::zeros(rows, row.all);
    let mut residual = DVector::zeros(rows);
    let paths = PathSlopes::all(problem);
    for (k, o) in problem.observations.iter().enumerate() {
        let camera = o.camera as usize;
        let rotation = problem.rotations()[camera];
        let (l, of_path) = linear_with_path(problem, &rotation, o).unwrap();
        let mut by_cameras = vec![(camera, l.camera)];
        if let Some(of_path) = of_path {
            by_cameras.push((camera, paths[camera].own(&of_path)));
            let beside = paths[camera].beside(camera, &of_path);
            by_cameras.extend(beside.map(|beside| (beside.camera, beside.by)));
        }
        for (camera, by) in by_cameras {
            for slot in row.slots {
                let at = row.of_camera(camera, *slot).unwrap();
                let mut to = jacobian.view_mut((2 * k, at), (2, 1));
                to += by.column(*slot);
            }
        }
        for shared in 0..problem.free.count() {
            jacobian
                .view_mut((2 * k, row.first_shared + shared), (2, 1))
                .copy_from(&l.shared.column(shared));
        }
        jacobian
            .view_mut((2 * k, row.first_point + 3 * o.point as usize), (2, 3))
            .copy_from(&l.point);
        residual.rows_mut(2 * k, 2).copy_from(&l.residual);
    }
    for (k, belief) in beliefs.iter().enumerate() {
        residual[seen + k] = belief.residual;
        for (camera, slopes) in belief.cameras.iter().zip(&belief.slopes) {
            for slot in row.slots {
                let at = row.of_camera(*camera, *slot).unwrap();
                jacobian[(seen + k, at)] += slopes[*slot];
            }
        }
    }
    for (k, anchor) in anchors.iter().enumerate() {
        let (first, point) = (seen + beliefs.len() + 3 * k, anchor.point as usize);
        let off = anchor.residual(&problem.points[point]);
        residual.rows_mut(first, 3).copy_from(&off);
        for axis in 0..3 {
            jacobian[(first + axis, row.first_point + 3 * point + axis)] = anchor.precision[axis];
        }
    }
    (jacobian, residual)
}

/// The normal matrix of everything; lengths of directions, of which nothing is seen, are held.
pub fn normal_matrix(problem: &Problem, jacobian: &DMatrix<f64>) -> DMatrix<f64> {
    let mut normal = jacobian.tr_mul(jacobian);
    if problem.motion.is_on_the_spot() {
        let first = Row::of(problem).first_point;
        for (p, direction) in problem.points.iter().enumerate() {
            let mut own = normal.fixed_view_mut::<3, 3>(first + 3 * p, first + 3 * p);
            let weight = own.trace();
            own += direction * direction.transpose() * weight;
        }
    }
    normal
}

/// Everything that can be believed of a problem: steady movement with a held distance, the focal length of the first
/// frame of a zoom, and some points surveyed, one in its height alone.
pub fn believing(mut problem: Problem) -> Problem {
    let cameras = problem.poses.len();
    let uneven = |i: usize| 2.0 * i as f64 + (i % 2) as f64;
    let travels = problem.motion == Motion::Free;
    let all_along = Smoothness {
        times: (0..cameras).map(uneven).collect(),
        only: None,
        turn_rad: Some(0.02),
        place: travels.then_some(0.05),
        held: travels.then_some((0, cameras - 1, 0.9)),
    };
    let carried = Smoothness {
        only: Some(vec![2, cameras - 1]),
        turn_rad: Some(0.007),
        ..all_along.clone()
    };
    problem.beliefs.smooth = vec![all_along, carried];
    if let Some(zoom) = &mut problem.zoom {
        zoom.at_first = Some((1003.0, 1.5));
    }
    if travels {
        let off = Vector3::new(0.01, -0.02, 0.015);
        let anchor = |point: u32, precision: [f64; 3]| Anchor {
            point,
            at: problem.points[point as usize] + off * f64::from(point % 3),
            precision: precision.into(),
        };
        problem.beliefs.anchors = vec![
            anchor(1, [100.0, 50.0, 100.0]),
            anchor(7, [0.0, 80.0, 0.0]),
            anchor(20, [100.0; 3]),
            anchor(31, [40.0; 3]),
        ];
    }
    problem
}
