//! Stated errors: those of the dense inverse, and honest over many draws of the noise, for every kind of
//! camera; and the slip that is forecast from them.

use crate::problems::{
    Kind, Row, SIGMA_PX, dense, normal_matrix, of_kind, rest, rest_before, rolling, turn, walk,
    zooming,
};
use parallax_core::camera::registration::{self, Sight, registered};
use parallax_core::camera::{Pose, Similarity};
use parallax_core::lens::LensTerms;
use parallax_core::solve::bundle::covariance::certainty;
use parallax_core::solve::bundle::{FOCAL, FreeLens, Loss, Motion, Problem, Stop};
use parallax_core::solve::forecast::slip_px;
use parallax_core::spaces::WorldPoint;
use rstest::rstest;
use std::sync::Arc;

/// Every standard error that is stated: focal lengths, cameras and landmarks, from the dense normal
/// matrix of everything with the gauge held.
#[rstest]
fn covariances_are_those_of_the_dense_inverse(
    #[values(Kind::Free, Kind::FreeZoom, Kind::Turn, Kind::TurnZoom, Kind::RestZoom)] kind: Kind,
    #[values(false, true)] rolls: bool,
) {
    let (motion, zooms) = kind.parts();
    let mut problem = of_kind(motion, zooms, 0.0);
    if rolls {
        problem = rolling(problem);
    }
    // Travelling and zooming are told apart by little: the matrix is worse conditioned.
    let exact = match (motion, zooms) {
        (Motion::Free, true) => 1e-4,
        _ => 1e-6,
    };
    let stated = certainty(&problem, Loss::Squares).unwrap();
    let row = Row::of(&problem);
    let (jacobian, _) = dense(&problem);
    let mut normal = normal_matrix(&problem, &jacobian);
    let mut held: Vec<usize> = (0..6).filter_map(|slot| row.of_camera(0, slot)).collect();
    if motion == Motion::Free {
        let first = problem.poses[0].centre();
        let distance = |i: &usize| problem.poses[*i].centre().distance(first);
        let far = (0..problem.poses.len())
            .max_by(|a, b| distance(a).total_cmp(&distance(b)))
            .unwrap();
        let shift = problem.poses[far].camera_from_world.translation.vector;
        held.push(row.of_camera(far, 3 + shift.iamax()).unwrap());
    }
    for held in &held {
        normal.row_mut(*held).fill(0.0);
        normal.column_mut(*held).fill(0.0);
        normal[(*held, *held)] = 1.0;
    }
    let mut inverse = normal.cholesky().unwrap().inverse();
    for held in &held {
        inverse[(*held, *held)] = 0.0;
    }
    inverse *= stated.variance_factor;
    if zooms {
        assert_eq!(stated.focals_px.len(), problem.poses.len());
        for (c, sigma) in stated.focals_px.iter().enumerate() {
            let at = row.of_camera(c, FOCAL).unwrap();
            let ratio = sigma.powi(2) / inverse[(at, at)];
            assert!((ratio - 1.0).abs() < exact, "focal length of {c}: {ratio}");
        }
    } else {
        let at = row.first_shared;
        let shared = stated.shared[0].powi(2) / inverse[(at, at)];
        assert!((shared - 1.0).abs() < exact, "focal length: {shared}");
    }
    for (p, covariance) in stated.points.iter().enumerate() {
        let at = row.first_point + 3 * p;
        let wanted = inverse.fixed_view::<3, 3>(at, at);
        let off = (covariance.unwrap() - wanted).norm() / wanted.norm();
        assert!(off < exact, "point {p} is off by {off}");
    }
    for (c, covariance) in stated.cameras.iter().enumerate().skip(1) {
        if motion == Motion::Resting {
            assert_eq!(covariance.norm(), 0.0, "camera {c} is where it was");
            continue;
        }
        let wanted = nalgebra::Matrix6::from_fn(|i, j| {
            let both = row.of_camera(c, i).zip(row.of_camera(c, j));
            both.map_or(0.0, |(i, j)| inverse[(i, j)])
        });
        let off = (covariance - wanted).norm() / wanted.norm();
        assert!(off < exact, "camera {c} is off by {off}");
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
        for o in Arc::make_mut(&mut problem.observations) {
            let mut normal = || (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
            o.px =
                o.px.moved(nalgebra::Vector2::new(normal(), normal()) * SIGMA_PX);
        }
        problem.free = FreeLens {
            focal: true,
            ..FreeLens::default()
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

/// The same for cameras that turn on the spot, with one focal length and with one for each: errors of
/// focal lengths in the middle and at the ends, and of the turn against the first camera.
#[rstest]
fn stated_errors_of_a_turning_camera_are_honest(#[values(false, true)] zooms: bool) {
    const DRAWS: u64 = 40;
    let (mut focal, mut turns) = (Vec::new(), Vec::new());
    for seed in 0..DRAWS {
        let mut problem = turn(12, 150, 8, 0.0, 21);
        let truth = problem.poses.clone();
        let mut random = fastrand::Rng::with_seed(5000 + seed);
        for o in Arc::make_mut(&mut problem.observations) {
            let mut normal = || (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
            o.px =
                o.px.moved(nalgebra::Vector2::new(normal(), normal()) * SIGMA_PX);
        }
        if zooms {
            problem = zooming(problem);
        }
        assert_ne!(rest(&mut problem, Loss::Squares), Stop::IterationsUsed);
        let stated = certainty(&problem, Loss::Squares).unwrap();
        let cameras: &[usize] = if zooms { &[0, 5, 11] } else { &[0] };
        for &camera in cameras {
            let sigma = stated.focals_px.get(camera).copied();
            let off = problem.focal_px(camera) - 1000.0;
            focal.push(off / sigma.unwrap_or(stated.shared[0]));
        }
        let from_first = |poses: &[Pose]| {
            let [first, last] = [0, 11].map(|c| poses[c].camera_from_world.rotation);
            last * first.inverse()
        };
        let off = (from_first(&problem.poses) * from_first(&truth).inverse()).scaled_axis();
        let covariance = stated.cameras[11].fixed_view::<3, 3>(0, 0).into_owned();
        turns.push(off.dot(&(covariance.try_inverse().unwrap() * off)) / 3.0);
    }
    let mean = |all: &[f64]| all.iter().sum::<f64>() / all.len() as f64;
    let focal = mean(&focal.iter().map(|e| e * e).collect::<Vec<_>>());
    let spread = 4.0 * (2.0 / DRAWS as f64).sqrt();
    assert!((focal - 1.0).abs() < spread, "focal length: {focal:.2}");
    assert!(
        (mean(&turns) - 1.0).abs() < 0.6 * spread,
        "turn: {:.2}",
        mean(&turns)
    );
}

/// The same for one that rests and zooms: the error of what is stated of the first frame goes on to all others, and
/// what the picture says of these adds to it.
#[rstest]
#[case::as_good_as_exact(0.01)]
#[case::about(4.0)]
fn stated_errors_of_a_resting_zoom_are_honest(#[case] sigma_px: f64) {
    const DRAWS: u64 = 40;
    let mut errors = Vec::new();
    for seed in 0..DRAWS {
        let mut problem = rest_before(12, 60, 6, 0.0, 21);
        let mut random = fastrand::Rng::with_seed(7000 + seed);
        let mut normal = || (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
        for o in Arc::make_mut(&mut problem.observations) {
            o.px =
                o.px.moved(nalgebra::Vector2::new(normal(), normal()) * SIGMA_PX);
        }
        problem = zooming(problem);
        let at_first = (1000.0 + sigma_px * normal(), sigma_px);
        problem.zoom.as_mut().unwrap().at_first = Some(at_first);
        assert_ne!(rest(&mut problem, Loss::Squares), Stop::IterationsUsed);
        let stated = certainty(&problem, Loss::Squares).unwrap();
        let sigma = stated.focals_px[11];
        assert!(sigma > sigma_px, "{sigma} px");
        errors.push((problem.focal_px(11) - 1000.0) / sigma);
    }
    let mean = errors.iter().map(|e| e * e).sum::<f64>() / DRAWS as f64;
    let spread = 4.0 * (2.0 / DRAWS as f64).sqrt();
    assert!((mean - 1.0).abs() < spread, "{mean:.2}");
}

/// Over many draws of the noise, things of true proportions slip as far as is forecast: a narrow walk
/// past a shallow set, in which the focal length is what is known least.
#[test]
fn the_forecast_of_slip_is_honest() {
    const DRAWS: u64 = 24;
    let mut squares = Vec::new();
    for seed in 0..DRAWS {
        let truth = walk(8, 150, 6, 0.0, 21);
        let mut problem = walk(8, 150, 6, 1.0, 21);
        let mut random = fastrand::Rng::with_seed(9000 + seed);
        for (o, exact) in Arc::make_mut(&mut problem.observations)
            .iter_mut()
            .zip(truth.observations.iter())
        {
            let mut normal = || (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
            o.px = exact
                .px
                .moved(nalgebra::Vector2::new(normal(), normal()) * SIGMA_PX);
        }
        problem.free.lens = LensTerms::NONE;
        rest(&mut problem, Loss::Squares);
        let stated = certainty(&problem, Loss::Squares).unwrap();
        let forecast_px = slip_px(&problem, &stated).unwrap();
        let sights: Vec<Sight> = truth
            .observations
            .iter()
            .map(|o| Sight {
                lens: problem.lens,
                pose: problem.poses[o.camera as usize],
                point: WorldPoint(truth.points[o.point as usize].into()),
                px: o.px,
            })
            .collect();
        let places = |p: &Problem| -> Vec<WorldPoint> {
            p.points.iter().map(|x| WorldPoint((*x).into())).collect()
        };
        let start = Similarity::fitting(&places(&truth), &places(&problem)).unwrap();
        let change = registered(start, &sights);
        let slip_px = registration::rms_px(&change, &sights);
        squares.push((slip_px / forecast_px).powi(2));
    }
    // Chi-squared of one degree, and some more for what else is uncertain.
    let mean = squares.iter().sum::<f64>() / DRAWS as f64;
    assert!(
        (0.4..2.5).contains(&mean),
        "slips {mean:.2} times what is said"
    );
}

/// A focal length that is given lets nothing slip on its account.
#[test]
fn a_given_focal_length_forecasts_no_slip() {
    let mut problem = of_kind(Motion::Free, false, 0.0);
    problem.free.focal = false;
    let stated = certainty(&problem, Loss::Squares).unwrap();
    assert!(stated.by_focal.is_none());
    assert_eq!(slip_px(&problem, &stated), None);
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
    let shared = &stated.shared[..problem.free.count()];
    assert!(shared.iter().all(|s| s.is_finite() && *s > 0.0));
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
