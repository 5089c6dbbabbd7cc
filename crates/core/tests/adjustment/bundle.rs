//! Laws of the adjustment: what has to hold of derivatives, elimination, gauge and threads whatever the
//! footage is.

use crate::problems::{
    Kind, Row, believing, dense, normal_matrix, of_kind, rest, rolling, seen_rolling, stepped,
    turn, walk, zooming,
};
use nalgebra::{DVector, UnitQuaternion};
use parallax_core::camera::Similarity;
use parallax_core::lens::{Distortion, LensTerms};
use parallax_core::solve::bundle::normal::Linearisation;
use parallax_core::solve::bundle::reduced::Structure;
use parallax_core::solve::bundle::zoom::RATE_WANDERS;
use parallax_core::solve::bundle::{Loss, Motion, Problem, Zoom};
use parallax_core::spaces::WorldPoint;
use proptest::prelude::*;
use rstest::rstest;

#[rstest]
fn the_analytic_jacobian_is_the_numeric_one(
    #[values(Kind::Free, Kind::FreeZoom, Kind::Turn, Kind::TurnZoom, Kind::RestZoom)] kind: Kind,
    #[values(false, true)] rolls: bool,
) {
    let (motion, zooms) = kind.parts();
    let mut problem = believing(of_kind(motion, zooms, 1.0));
    if rolls {
        problem = rolling(problem);
        problem.free.readout = true;
    }
    problem.free.lens = LensTerms {
        radial: 3,
        tangential: true,
        centre: true,
        ..LensTerms::NONE
    }
    .where_it_zooms(problem.zoom.is_some());
    problem.lens.distortion = Distortion {
        k3: 0.002,
        p1: 0.001,
        p2: -0.002,
        k1_by_zoom: if problem.zoom.is_some() { 0.1 } else { 0.0 },
        ..Distortion::radial(-0.05, 0.01)
    };
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
fn the_reduced_system_gives_the_step_of_the_dense_one(
    #[values(1e-4, 1e-2, 1.0)] damping: f64,
    #[values(Kind::Free, Kind::FreeZoom, Kind::Turn, Kind::TurnZoom, Kind::RestZoom)] kind: Kind,
    #[values(false, true)] believes: bool,
    #[values(false, true)] rolls: bool,
) {
    let (motion, zooms) = kind.parts();
    let mut problem = of_kind(motion, zooms, 1.0);
    if rolls {
        problem = rolling(problem);
    }
    if believes {
        problem = believing(problem);
    }
    gives_the_dense_step(&problem, damping);
}

/// From a matrix with few blocks, which is factored as a sparse one, to one without a zero.
#[rstest]
fn the_step_is_that_of_the_dense_system_however_long_features_live(
    #[values(3, 8, 20)] life: usize,
    #[values(Motion::Free, Motion::Turning)] motion: Motion,
) {
    let mut problem = match motion {
        Motion::Free => walk(20, 90, life, 1.0, 5),
        Motion::Turning | Motion::Resting => turn(20, 90, life.min(8), 1.0, 5),
    };
    // What is expected of the terms of a lens is not in the dense system.
    problem.free.lens = LensTerms::NONE;
    gives_the_dense_step(&problem, 1e-3);
}

#[test]
fn room_that_is_kept_changes_no_step() {
    let problem = walk(20, 90, 8, 1.0, 6);
    let structure = Structure::of(&problem);
    let mut kept = Vec::new();
    let mut linearisation = Linearisation::at(&problem, Loss::Squares);
    let (system, eliminated) = linearisation.reduce(&problem, &structure, 1e-3, &mut kept);
    let solved = structure.solve(&system).unwrap();
    let step = linearisation.substitute(&problem, &eliminated, solved.cameras, solved.shared);
    let next = problem.stepped(&step);
    linearisation.again(&next, Loss::Squares);
    let fresh = Linearisation::at(&next, Loss::Squares);
    let kept = linearisation.reduce(&next, &structure, 1e-3, &mut kept).0;
    let fresh = fresh.reduce(&next, &structure, 1e-3, &mut Vec::new()).0;
    assert_ne!(fresh.camera_side, system.camera_side, "it went somewhere");
    assert_eq!(kept.camera_side, fresh.camera_side);
    let steps = [kept, fresh].map(|system| structure.solve(&system).unwrap().cameras);
    assert_eq!(steps[0], steps[1]);
}

fn gives_the_dense_step(problem: &Problem, damping: f64) {
    let (jacobian, residual) = dense(problem);
    let mut normal = normal_matrix(problem, &jacobian);
    // What is believed is not damped.
    let seen = jacobian.rows(0, 2 * problem.observations.len());
    let row = Row::of(problem);
    for i in 0..normal.nrows() {
        let own = if i < row.first_point {
            seen.column(i).norm_squared()
        } else {
            normal[(i, i)]
        };
        normal[(i, i)] += own * damping;
    }
    let wanted = -normal
        .cholesky()
        .unwrap()
        .solve(&jacobian.tr_mul(&residual));
    let wanted_step = row.step(problem, &wanted);
    let structure = Structure::of(problem);
    let linearisation = Linearisation::at(problem, Loss::Squares);
    let (system, eliminated) = linearisation.reduce(problem, &structure, damping, &mut Vec::new());
    let solved = structure.solve(&system).unwrap();
    let step = linearisation.substitute(problem, &eliminated, solved.cameras, solved.shared);
    let off_point = step
        .points
        .iter()
        .zip(&wanted_step.points)
        .map(|(p, wanted)| (p - wanted).norm());
    let off_camera = step
        .cameras
        .iter()
        .zip(&wanted_step.cameras)
        .flat_map(|(c, wanted)| c.iter().zip(wanted).map(|(a, b)| (a - b).abs()));
    let off_shared = step.shared.iter().zip(&wanted_step.shared);
    let worst = off_point
        .chain(off_camera)
        .chain(off_shared.map(|(a, b)| (a - b).abs()))
        .fold(0.0, f64::max);
    assert!(worst < 1e-6 * wanted.norm(), "{worst} of {}", wanted.norm());
    // What the linear model foresees is what it says of the step: half the fall of the squares.
    let after = &residual + &jacobian * &wanted;
    let foreseen = 0.5 * (residual.norm_squared() - after.norm_squared());
    let said = linearisation.expected_decrease(problem, &step);
    assert!(
        (said - foreseen).abs() < 1e-6 * foreseen,
        "{said} for {foreseen}"
    );
}

/// From off the truth back to it, where nothing is off but what was put off.
#[rstest]
fn every_kind_of_camera_is_found_again(
    #[values(Kind::Free, Kind::FreeZoom, Kind::Turn, Kind::TurnZoom, Kind::RestZoom)] kind: Kind,
    #[values(false, true)] rolls: bool,
) {
    let (motion, zooms) = kind.parts();
    let mut problem = of_kind(motion, false, 0.0);
    problem.lens.distortion = match motion {
        Motion::Free => problem.lens.distortion,
        Motion::Turning | Motion::Resting => Distortion::NONE,
    };
    if rolls {
        problem = seen_rolling(problem);
    }
    if zooms {
        problem = zooming(problem);
    }
    if rolls {
        problem = rolling(problem);
    }
    if !zooms {
        problem.lens.focal_px = 1030.0;
    }
    rest(&mut problem, Loss::Squares);
    let worst = (0..problem.poses.len())
        .map(|camera| (problem.focal_px(camera) - 1000.0).abs())
        .fold(0.0, f64::max);
    assert!(worst < 1e-3, "a focal length is off by {worst} px");
    assert!(problem.cost(Loss::Squares) < 1e-6);
    if motion.is_on_the_spot() {
        let centres = problem.poses.iter().map(|p| p.centre().0.coords.norm());
        assert_eq!(centres.fold(0.0, f64::max), 0.0, "it stays on the spot");
        let lengths = problem.points.iter().map(|p| (p.norm() - 1.0).abs());
        assert!(
            lengths.fold(0.0, f64::max) < 1e-12,
            "directions have length 1"
        );
    }
}

/// A frame that says little follows its neighbours, and one that says more does not.
#[test]
fn a_belief_carries_focal_lengths_and_yields() {
    let mut zoom = Zoom {
        focals_px: (0..7).map(|i| 1000.0 * 1.01f64.powi(i)).collect(),
        times: (0..7).map(f64::from).collect(),
        wanders: RATE_WANDERS,
        at_first: None,
    };
    assert!(zoom.cost() < 1e-18, "a steady rate costs nothing");
    zoom.focals_px[3] *= 1.01;
    let jump = zoom.cost();
    assert!((10.0..1000.0).contains(&jump), "a jump costs {jump}");
    // The same jump in a zoom whose frames lie farther apart.
    zoom.times.iter_mut().for_each(|t| *t *= 4.0);
    assert!(zoom.cost() < jump / 4.0);
}

/// What is stated of the first frame pulls by its standard errors.
#[test]
fn a_focal_length_off_what_is_stated_costs_its_standard_errors() {
    let zoom = Zoom {
        focals_px: vec![1006.0, 1006.0, 1006.0],
        times: vec![0.0, 1.0, 2.0],
        wanders: RATE_WANDERS,
        at_first: Some((1000.0, 2.0)),
    };
    assert!((zoom.cost() - 0.5 * 9.0).abs() < 1e-9);
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

#[rstest]
#[case::sparse(24, 300, 10)]
#[case::full(80, 200, 80)]
fn the_result_is_the_same_at_any_number_of_threads(
    #[case] cameras: usize,
    #[case] points: usize,
    #[case] life: usize,
) {
    let start = walk(cameras, points, life, 1.0, 9);
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
