//! Laws of what is believed of several points together: lengths and planes pull as the sums of squares that they
//! stand for, though points are eliminated one by one.

use crate::problems::{Row, believing, dense, normal_matrix, of_kind, rest};
use nalgebra::{DMatrix, Vector3};
use parallax_core::camera::Similarity;
use parallax_core::solve::bundle::covariance::certainty;
use parallax_core::solve::bundle::normal::Linearisation;
use parallax_core::solve::bundle::reduced::Structure;
use parallax_core::solve::bundle::{Flat, Length, Loss, Motion, Problem, Stop, Ties};
use parallax_core::spaces::WorldPoint;
use rstest::rstest;
use std::sync::Arc;

/// Lengths that share a point, and planes that share one with a length, all off what was seen.
fn tied(mut problem: Problem) -> Problem {
    let apart = |a: usize, b: usize| (problem.points[a] - problem.points[b]).norm();
    let length = |a: u32, b: u32, off: f64| Length {
        points: [a, b],
        length: apart(a as usize, b as usize) * (1.0 + off),
        sigma: 0.01,
    };
    problem.beliefs.ties = Ties {
        lengths: vec![length(3, 9, 0.01), length(9, 22, -0.02), length(30, 4, 0.0)],
        flats: vec![
            Flat {
                points: vec![2, 5, 9, 14, 27],
                sigma: 0.3,
            },
            Flat {
                points: vec![0, 11, 17, 33, 36, 38],
                sigma: 0.5,
            },
        ],
    };
    problem
}

/// Normal matrix and right-hand side with a column for everything that points are tied to.
fn dense_with_ties(problem: &Problem) -> (DMatrix<f64>, DMatrix<f64>) {
    let (jacobian, residual) = dense(problem);
    let row = Row::of(problem);
    let ties = problem.beliefs.ties.linear(&problem.points);
    let (rows, columns) = (jacobian.nrows(), jacobian.ncols());
    let mut normal = DMatrix::zeros(
        columns + 3 * problem.beliefs.ties.count(),
        columns + 3 * problem.beliefs.ties.count(),
    );
    normal
        .view_mut((0, 0), (columns, columns))
        .copy_from(&normal_matrix(problem, &jacobian));
    let mut side = DMatrix::zeros(normal.nrows(), 1);
    side.view_mut((0, 0), (columns, 1))
        .copy_from(&jacobian.rows(0, rows).tr_mul(&residual));
    for tie in ties {
        let mut slopes = DMatrix::zeros(1, normal.nrows());
        let first = row.first_point + 3 * tie.point as usize;
        slopes
            .view_mut((0, first), (1, 3))
            .copy_from(&tie.linear.point.row(0));
        let by_block = tie.linear.camera.fixed_view::<1, 3>(0, 0);
        slopes
            .view_mut((0, columns + 3 * tie.block), (1, 3))
            .copy_from(&by_block);
        side += slopes.transpose() * tie.linear.residual.x;
        normal += slopes.transpose() * slopes;
    }
    // What a length's block does not use.
    for k in columns..normal.nrows() {
        if normal[(k, k)] == 0.0 {
            normal[(k, k)] = 1.0;
        }
    }
    (normal, side)
}

/// One block by one point, what belongs together is as far off as the sum of squares says.
#[test]
fn ties_are_the_squares_that_they_stand_for() {
    let problem = tied(of_kind(Motion::Free, false, 1.0));
    let ties = problem.beliefs.ties.linear(&problem.points);
    let halves = ties.iter().map(|t| t.linear.residual.norm_squared());
    let cost = problem.beliefs.ties.cost(&problem.points);
    assert!((0.5 * halves.sum::<f64>() - cost).abs() < 1e-9 * cost);
    // The slope of the cost is that of the ties: of what has no state it does not depend.
    for point in [2usize, 3, 9, 22, 38] {
        for axis in 0..3 {
            let moved = |by: f64| {
                let mut points = problem.points.clone();
                points[point][axis] += by;
                problem.beliefs.ties.cost(&points)
            };
            let slope = (moved(1e-6) - moved(-1e-6)) / 2e-6;
            let own = ties.iter().filter(|t| t.point as usize == point);
            let said: f64 = own
                .map(|t| t.linear.residual.x * t.linear.point[(0, axis)])
                .sum();
            assert!(
                (slope - said).abs() < 1e-4 * (1.0 + said.abs()),
                "{point}: {slope} is said to be {said}"
            );
        }
    }
}

#[rstest]
fn the_step_is_that_of_the_dense_system(
    #[values(false, true)] zooms: bool,
    #[values(false, true)] believes: bool,
) {
    let mut problem = of_kind(Motion::Free, zooms, 1.0);
    if believes {
        problem = believing(problem);
    }
    let problem = tied(problem);
    let (mut normal, side) = dense_with_ties(&problem);
    // The gauge is free; a little of everything makes both systems regular in the same way.
    let row = Row::of(&problem);
    let structure = Structure::of(&problem);
    let linearisation = Linearisation::at(&problem, Loss::Squares);
    let damping = 1e-9;
    for i in 0..normal.nrows() {
        normal[(i, i)] *= 1.0 + damping;
    }
    let wanted = -normal.clone().lu().solve(&side).unwrap();
    let (system, eliminated) = linearisation.reduce(&problem, &structure, damping, &mut Vec::new());
    let solved = structure.solve(&system).unwrap();
    let step = linearisation.substitute(&problem, &eliminated, solved.cameras, solved.shared);
    let decrease = linearisation.expected_decrease(&problem, &step);
    let quadratic = -(side.transpose() * &wanted)[(0, 0)]
        - 0.5 * (wanted.transpose() * &normal * &wanted)[(0, 0)];
    assert!(
        (decrease - quadratic).abs() < 1e-4 * quadratic,
        "{decrease} for {quadratic}"
    );
    // Where nothing holds the world, steps differ by a change of it.
    let ties = problem.beliefs.ties.linear(&problem.points);
    for tie in ties.iter().filter(|_| believes) {
        let point = tie.point as usize;
        let wanted = Vector3::from_fn(|i, _| wanted[(row.first_point + 3 * point + i, 0)]);
        let off = (step.points[point] - wanted).norm();
        assert!(off < 1e-4 * wanted.norm().max(1e-6), "{off} of {wanted}");
    }
}

/// A walk past a wall on which some points lie, and two lengths that were measured; the truth besides.
fn past_a_wall() -> (Problem, Vec<Vector3<f64>>) {
    let mut problem = of_kind(Motion::Free, false, 1.0);
    let wall: Vec<u32> = (0..40).step_by(3).collect();
    for point in &wall {
        let was = problem.points[*point as usize];
        let there = Vector3::new(was.x, was.y, -6.5 + 0.2 * was.x);
        problem.points[*point as usize] = there;
        let seen = Arc::make_mut(&mut problem.observations).iter_mut();
        for o in seen.filter(|o| o.point == *point) {
            let (lens, pose) = (problem.lens, problem.poses[o.camera as usize]);
            let px = |place: Vector3<f64>| lens.project(&pose, &WorldPoint(place.into())).unwrap();
            o.px = px(there).moved(o.px.offset_from(px(was)));
        }
    }
    let truth = problem.points.clone();
    let length = |a: u32, b: u32| Length {
        points: [a, b],
        length: (truth[a as usize] - truth[b as usize]).norm(),
        sigma: 1e-3,
    };
    problem.beliefs.ties = Ties {
        lengths: vec![length(1, 14), length(20, 38)],
        flats: vec![Flat {
            points: wall,
            sigma: 1e-3,
        }],
    };
    (problem, truth)
}

/// What is tied comes to where it belongs, everything is at rest there, and landmarks are nearer to the truth.
#[test]
fn lengths_and_planes_hold_and_help() {
    let (mut tied, truth) = past_a_wall();
    let mut loose = tied.clone();
    loose.beliefs.ties = Ties::default();
    for problem in [&mut tied, &mut loose] {
        assert_eq!(rest(problem, Loss::Squares), Stop::Converged);
    }
    let ties = tied.beliefs.ties.clone();
    let off = |problem: &Problem| {
        let lengths = ties.lengths.iter().map(|l| l.off(&problem.points).abs());
        let wall = ties.flats[0].off_rms(&problem.points);
        lengths.fold(wall, f64::max)
    };
    let (held, free) = (off(&tied), off(&loose));
    assert!(held < 2e-3 && free > 1e-2, "{held}, and {free} without");
    let (normal, side) = dense_with_ties(&tied);
    for (k, slope) in side.iter().enumerate() {
        let scale = normal[(k, k)].sqrt();
        assert!(slope.abs() < 1e-2 * scale, "{k}: {slope} of {scale}");
    }
    let places = |points: &[Vector3<f64>]| -> Vec<WorldPoint> {
        points.iter().map(|p| WorldPoint((*p).into())).collect()
    };
    let truth = places(&truth);
    let error = |problem: &Problem| {
        let found = places(&problem.points);
        let change = Similarity::fitting(&found, &truth).unwrap();
        let off = found
            .iter()
            .zip(&truth)
            .map(|(p, t)| change.point(p).distance(*t).powi(2));
        (off.sum::<f64>() / truth.len() as f64).sqrt()
    };
    let (with, without) = (error(&tied), error(&loose));
    assert!(with < 0.8 * without, "{with} m off, {without} without");
}

/// Landmarks that are tied are as certain as the dense inverse says.
#[test]
fn stated_errors_are_those_of_the_dense_inverse() {
    let mut problem = tied(of_kind(Motion::Free, false, 1.0));
    problem.free.focal = false;
    rest(&mut problem, Loss::Squares);
    let stated = certainty(&problem, Loss::Squares).unwrap();
    let (normal, _) = dense_with_ties(&problem);
    // The first camera does not move; lengths say how large the world is.
    let free: Vec<usize> = (6..normal.nrows()).collect();
    let inverse = normal.select_rows(&free).select_columns(&free);
    let inverse = inverse.try_inverse().unwrap() * stated.variance_factor;
    let row = Row::of(&problem);
    for (point, covariance) in stated.points.iter().enumerate() {
        let first = row.first_point + 3 * point - 6;
        let wanted = inverse.view((first, first), (3, 3));
        let off = (covariance.unwrap() - wanted).norm();
        assert!(
            off < 1e-4 * wanted.norm(),
            "{point}: {off} of {}",
            wanted.norm()
        );
    }
}
