//! Laws of the adjustment: what has to hold of derivatives, elimination, gauge, threads and errors
//! whatever the footage is. Cameras walk past a cloud of points; positions have stated noise.
#![allow(clippy::unwrap_used)]

use nalgebra::{DMatrix, DVector, Point3, UnitQuaternion, Vector3};
use parallax_core::camera::{Intrinsics, Pose, Similarity};
use parallax_core::lens::Distortion;
use parallax_core::progress::Silent;
use parallax_core::solve::bundle::covariance::certainty;
use parallax_core::solve::bundle::normal::Linearisation;
use parallax_core::solve::bundle::reduced::Structure;
use parallax_core::solve::bundle::residual::linear;
use parallax_core::solve::bundle::{
    FreeLens, Loss, Observation, Problem, Settings, Step, Stop, minimise,
};
use parallax_core::spaces::WorldPoint;
use proptest::prelude::*;
use rstest::rstest;

const SIGMA_PX: f64 = 0.2;

/// A walk of `cameras`; each point is seen by up to `life` successive ones. The truth, with
/// positions off by `noise` standard errors.
fn walk(cameras: usize, points: usize, life: usize, noise: f64, seed: u64) -> Problem {
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
        radial_terms: 2,
    };
    Problem {
        lens,
        free,
        poses,
        points: places,
        observations,
    }
}

fn rest(problem: &mut Problem, loss: Loss) -> Stop {
    let settings = Settings {
        loss,
        most_iterations: 60,
        least_decrease: 1e-12,
        damping: 1e-6,
    };
    minimise(problem, &settings, &Silent).stop
}

/// All unknowns in one row: cameras, shared, points.
fn stepped(problem: &Problem, step: &DVector<f64>) -> Problem {
    let (cameras, shared) = (problem.poses.len(), problem.free.count());
    let first_point = 6 * cameras + shared;
    problem.stepped(&Step {
        cameras: (0..cameras)
            .map(|c| std::array::from_fn(|i| step[6 * c + i]))
            .collect(),
        shared: std::array::from_fn(|i| {
            if i < shared {
                step[6 * cameras + i]
            } else {
                0.0
            }
        }),
        points: (0..problem.points.len())
            .map(|p| Vector3::from_fn(|i, _| step[first_point + 3 * p + i]))
            .collect(),
    })
}

/// Jacobian and residuals of everything as dense matrices, from the analytic derivatives.
fn dense(problem: &Problem) -> (DMatrix<f64>, DVector<f64>) {
    let (cameras, shared) = (problem.poses.len(), problem.free.count());
    let columns = 6 * cameras + shared + 3 * problem.points.len();
    let mut jacobian = DMatrix::zeros(2 * problem.observations.len(), columns);
    let mut residual = DVector::zeros(2 * problem.observations.len());
    for (k, o) in problem.observations.iter().enumerate() {
        let pose = &problem.poses[o.camera as usize].camera_from_world;
        let l = linear(problem, &pose.rotation.to_rotation_matrix().into_inner(), o).unwrap();
        let (camera, point) = (
            6 * o.camera as usize,
            6 * cameras + shared + 3 * o.point as usize,
        );
        jacobian
            .view_mut((2 * k, camera), (2, 6))
            .copy_from(&l.camera);
        let terms = l.shared.columns(0, shared).into_owned();
        jacobian
            .view_mut((2 * k, 6 * cameras), (2, shared))
            .copy_from(&terms);
        jacobian
            .view_mut((2 * k, point), (2, 3))
            .copy_from(&l.point);
        residual.rows_mut(2 * k, 2).copy_from(&l.residual);
    }
    (jacobian, residual)
}

#[test]
fn the_analytic_jacobian_is_the_numeric_one() {
    let problem = walk(4, 12, 4, 1.0, 7);
    let (jacobian, residual) = dense(&problem);
    let of = |problem: &Problem| dense(problem).1;
    for column in 0..jacobian.ncols() {
        let mut step = DVector::zeros(jacobian.ncols());
        step[column] = 1e-5;
        let slope = (of(&stepped(&problem, &step)) - of(&stepped(&problem, &-&step))) / 2e-5;
        let off = (slope - jacobian.column(column)).amax();
        let scale = 1.0 + jacobian.column(column).amax();
        assert!(
            off < 1e-5 * scale,
            "column {column} is off by {off} of {scale}"
        );
    }
    assert!(residual.amax() > 0.1, "there is something to fit");
}

#[rstest]
fn the_reduced_system_gives_the_step_of_the_dense_one(#[values(1e-4, 1e-2, 1.0)] damping: f64) {
    let mut problem = walk(6, 40, 4, 1.0, 3);
    problem.free = FreeLens {
        focal: true,
        radial_terms: 0,
    };
    let (jacobian, residual) = dense(&problem);
    let mut normal = jacobian.tr_mul(&jacobian);
    for i in 0..normal.nrows() {
        normal[(i, i)] *= 1.0 + damping;
    }
    let wanted = -normal
        .cholesky()
        .unwrap()
        .solve(&jacobian.tr_mul(&residual));
    let structure = Structure::of(&problem).unwrap();
    let linearisation = Linearisation::at(&problem, Loss::Squares);
    let (system, eliminated) = linearisation.reduce(&problem, &structure, damping);
    let solved = structure.solve(&system).unwrap();
    let step = linearisation.substitute(&problem, &eliminated, solved.cameras, solved.shared);
    let off_point = step
        .points
        .iter()
        .enumerate()
        .map(|(p, s)| (s - wanted.fixed_rows::<3>(6 * 6 + 1 + 3 * p)).norm());
    let off_camera = step
        .cameras
        .iter()
        .enumerate()
        .map(|(c, s)| (nalgebra::Vector6::from(*s) - wanted.fixed_rows::<6>(6 * c)).norm());
    let worst = off_point.chain(off_camera).fold(0.0, f64::max);
    assert!(worst < 1e-6 * wanted.norm(), "{worst} of {}", wanted.norm());
    assert!((step.shared[0] - wanted[36]).abs() < 1e-6 * wanted[36].abs().max(1.0));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(16))]
    #[test]
    fn cost_does_not_change_with_the_world(
        turn in prop::array::uniform3(-3.0..3.0f64),
        shift in prop::array::uniform3(-20.0..20.0f64),
        scale in 0.05..20.0f64,
    ) {
        let problem = walk(5, 30, 4, 1.0, 5);
        let change = Similarity {
            rotation: UnitQuaternion::new(turn.into()), translation: shift.into(), scale,
        };
        let mut moved = problem.clone();
        moved.poses.iter_mut().for_each(|p| *p = change.pose(p));
        moved.points.iter_mut().for_each(|p| *p = change.point(&WorldPoint((*p).into())).0.coords);
        for loss in [Loss::Squares, Loss::Huber(1.0), Loss::Cauchy(2.0), Loss::GemanMcClure(3.0)] {
            let (before, after) = (problem.cost(loss), moved.cost(loss));
            prop_assert!((before - after).abs() < 1e-7 * before, "{before} became {after}");
        }
    }
}

#[test]
fn the_result_is_the_same_at_any_number_of_threads() {
    let start = walk(24, 300, 10, 1.0, 9);
    let adjusted = |threads: usize| {
        let pool = rayon::ThreadPoolBuilder::new()
            .num_threads(threads)
            .build()
            .unwrap();
        let mut problem = start.clone();
        pool.install(|| rest(&mut problem, Loss::Cauchy(3.0)));
        (problem.lens, problem.poses, problem.points)
    };
    let alone = adjusted(1);
    for threads in [2, 3, 7] {
        assert!(
            alone == adjusted(threads),
            "{threads} threads come to another camera"
        );
    }
}

/// Every standard error that is stated: shared unknowns, cameras and landmarks, from the dense
/// normal matrix of everything with the gauge held.
#[test]
fn covariances_are_those_of_the_dense_inverse() {
    let mut problem = walk(9, 60, 5, 0.0, 4);
    problem.free = FreeLens {
        focal: true,
        radial_terms: 0,
    };
    let stated = certainty(&problem, Loss::Squares).unwrap();
    let (jacobian, _) = dense(&problem);
    let mut normal = jacobian.tr_mul(&jacobian);
    let first = problem.poses[0].centre();
    let distance = |i: &usize| problem.poses[*i].centre().distance(first);
    let far = (0..9)
        .max_by(|a, b| distance(a).total_cmp(&distance(b)))
        .unwrap();
    let axis = problem.poses[far]
        .camera_from_world
        .translation
        .vector
        .iamax();
    for held in (0..6).chain([6 * far + 3 + axis]) {
        normal.row_mut(held).fill(0.0);
        normal.column_mut(held).fill(0.0);
        normal[(held, held)] = 1.0;
    }
    let mut inverse = normal.cholesky().unwrap().inverse();
    for held in (0..6).chain([6 * far + 3 + axis]) {
        inverse[(held, held)] = 0.0;
    }
    inverse *= stated.variance_factor;
    let shared = stated.shared[0].powi(2) / inverse[(54, 54)];
    assert!((shared - 1.0).abs() < 1e-6, "focal length: {shared}");
    for (p, covariance) in stated.points.iter().enumerate() {
        let wanted = inverse.fixed_view::<3, 3>(55 + 3 * p, 55 + 3 * p);
        let off = (covariance.unwrap() - wanted).norm() / wanted.norm();
        assert!(off < 1e-6, "point {p} is off by {off}");
    }
    for (c, covariance) in stated.cameras.iter().enumerate().skip(1) {
        let wanted = inverse.fixed_view::<6, 6>(6 * c, 6 * c);
        let off = (covariance - wanted).norm() / wanted.norm();
        assert!(off < 1e-6, "camera {c} is off by {off}");
    }
    assert_eq!(stated.cameras[0].norm(), 0.0, "the first camera is held");
}

/// Over many draws of the noise, what is found misses the truth by as much as is said: the mean
/// square of errors over standard errors is 1 within the spread of that mean.
#[test]
fn stated_errors_are_honest_and_bound_the_error() {
    const DRAWS: u64 = 60;
    let mut focal = Vec::new();
    let mut points = Vec::new();
    for seed in 0..DRAWS {
        let truth = walk(12, 150, 8, 0.0, 21);
        let mut problem = walk(12, 150, 8, 0.0, 21);
        let mut random = fastrand::Rng::with_seed(1000 + seed);
        for o in &mut problem.observations {
            let mut normal = || (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
            o.px =
                o.px.moved(nalgebra::Vector2::new(normal(), normal()) * SIGMA_PX);
        }
        problem.free = FreeLens {
            focal: true,
            radial_terms: 0,
        };
        assert_ne!(rest(&mut problem, Loss::Squares), Stop::IterationsUsed);
        let stated = certainty(&problem, Loss::Squares).unwrap();
        focal.push((problem.lens.focal_px - 1000.0) / stated.shared[0]);
        // Into the gauge in which errors are stated: the first camera stands where it stood, and
        // the farthest one is as far along its axis.
        let back = gauge(&problem, &truth);
        for (p, covariance) in stated.points.iter().enumerate() {
            let off = back.point(&WorldPoint(problem.points[p].into())).0.coords - truth.points[p];
            let information = covariance.unwrap().try_inverse().unwrap();
            points.push(off.dot(&(information * off)) / 3.0);
        }
    }
    let mean_square = focal.iter().map(|e| e * e).sum::<f64>() / DRAWS as f64;
    // Chi-squared of 60 draws lies within four of its standard deviations of 1.
    let spread = 4.0 * (2.0 / DRAWS as f64).sqrt();
    assert!(
        (mean_square - 1.0).abs() < spread,
        "focal length: {mean_square:.2}"
    );
    assert!(
        focal.iter().all(|e| e.abs() < 4.5),
        "beyond four and a half standard errors"
    );
    let mean = points.iter().sum::<f64>() / points.len() as f64;
    assert!((0.6..1.4).contains(&mean), "landmarks: {mean:.2}");
}

/// The similarity that takes a solve into the world of the truth by its first and its farthest
/// camera, as the gauge of the covariance holds them.
fn gauge(problem: &Problem, truth: &Problem) -> Similarity {
    let first = truth.poses[0].centre();
    let distance = |i: &usize| {
        problem.poses[*i]
            .centre()
            .distance(problem.poses[0].centre())
    };
    let far = (0..problem.poses.len())
        .max_by(|a, b| distance(a).total_cmp(&distance(b)))
        .unwrap();
    let axis = truth.poses[far]
        .camera_from_world
        .translation
        .vector
        .iamax();
    let rotation = truth.poses[0].camera_from_world.rotation.inverse()
        * problem.poses[0].camera_from_world.rotation;
    let placed = |scale: f64| {
        let turned = rotation * problem.poses[0].centre().0.coords * scale;
        Similarity {
            rotation,
            scale,
            translation: first.0.coords - turned,
        }
    };
    // The held coordinate is linear in the scale.
    let along = |scale: f64| {
        placed(scale)
            .pose(&problem.poses[far])
            .camera_from_world
            .translation
            .vector[axis]
    };
    let wanted = truth.poses[far].camera_from_world.translation.vector[axis];
    placed((wanted - along(0.0)) / (along(1.0) - along(0.0)))
}

/// Far beyond 417 frames, where a dense inverse was not made any more: errors are stated, grow
/// with the distance from the held camera, and are finite.
#[test]
fn two_thousand_frames_have_errors() {
    let problem = walk(2000, 4000, 20, 1.0, 2);
    let stated = certainty(&problem, Loss::Squares).unwrap();
    assert!(stated.shared.iter().all(|s| s.is_finite() && *s > 0.0));
    assert!(stated.points.iter().all(Option::is_some));
    let error = |k: usize| stated.points[k].unwrap().trace().sqrt();
    let (near, far) = (error(20), error(2000));
    assert!(
        far > 3.0 * near,
        "{far} far off, {near} beside the held camera"
    );
}

#[test]
fn a_camera_in_one_place_states_no_errors() {
    let mut problem = walk(5, 30, 4, 0.0, 6);
    let eye = problem.poses[0];
    problem.poses.iter_mut().for_each(|p| *p = eye);
    assert!(certainty(&problem, Loss::Squares).is_none());
}
