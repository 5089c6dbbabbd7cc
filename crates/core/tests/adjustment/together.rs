//! Whether a shot hangs together: what is stated of cameras against each other is honest over many draws
//! of the noise, and a weak place is found and named.

use crate::problems::{SIGMA_PX, rest, turn, walk};
use nalgebra::{Vector2, Vector3};
use parallax_core::camera::Pose;
use parallax_core::solve::bundle::covariance::certainty;
use parallax_core::solve::bundle::relative::Relative;
use parallax_core::solve::bundle::{FreeLens, Loss, Motion, Observation, Problem, Stop};
use parallax_core::solve::together::{greatest, jumps};
use parallax_core::spaces::FrameNumber;
use rstest::rstest;
use std::sync::Arc;

/// A walk whose halves are linked by about this many points only.
fn linked_by(links: usize, cameras: usize) -> Problem {
    let mut problem = walk(cameras, 30 * cameras, 8, 0.0, 21);
    let half = (cameras / 2) as u32;
    let seen_by = |problem: &Problem, point: u32| -> Vec<u32> {
        let of_point = problem.observations.iter().filter(|o| o.point == point);
        of_point.map(|o| o.camera).collect()
    };
    let crosses = |point: &u32| {
        let cameras = seen_by(&problem, *point);
        cameras.iter().any(|c| *c < half) && cameras.iter().any(|c| *c >= half)
    };
    let crossing: Vec<u32> = (0..problem.points.len() as u32).filter(crosses).collect();
    let stride = crossing.len().div_ceil(links);
    let lost = crossing.iter().enumerate().filter(|(k, _)| k % stride != 0);
    for (_, &point) in lost {
        // What is seen beyond the border is not known to be the same.
        let cameras = seen_by(&problem, point);
        let before = cameras.iter().filter(|c| **c < half).count();
        let keeps_first = 2 * before >= cameras.len();
        let stays = |o: &Observation| o.point != point || (o.camera < half) == keeps_first;
        let left = problem.observations.iter().copied().filter(stays);
        problem.observations = left.collect();
    }
    problem
}

fn noisy(problem: &Problem, seed: u64) -> Problem {
    let mut problem = problem.clone();
    let mut random = fastrand::Rng::with_seed(seed);
    for o in Arc::make_mut(&mut problem.observations) {
        let mut normal = || (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
        o.px = o.px.moved(Vector2::new(normal(), normal()) * SIGMA_PX);
    }
    problem
}

/// The second camera as seen from the first, with shifts by how far the first and the last camera lie
/// apart.
fn seen_from(problem: &Problem, first: usize, second: usize) -> Pose {
    let centre = |c: usize| problem.poses[c].centre();
    let unit = centre(0)
        .distance(centre(problem.poses.len() - 1))
        .max(1e-9);
    let [a, b] = [first, second].map(|c| problem.poses[c].camera_from_world);
    let between = b * a.inverse();
    let unit = if problem.motion == Motion::Free {
        unit
    } else {
        1.0
    };
    Pose::from_parts(between.rotation, between.translation.vector / unit)
}

fn stated(problem: &Problem, pair: (usize, usize)) -> Relative {
    let certain = certainty(problem, Loss::Squares).unwrap();
    let is_it = |r: &&Relative| (r.first, r.second) == pair;
    certain.relative.iter().find(is_it).unwrap().clone()
}

/// Turns of one camera as seen from another miss the truth by what is stated.
#[rstest]
#[case::free_and_firm(linked_by(1000, 24), (6, 12))]
#[case::free_and_weak(linked_by(8, 24), (6, 12))]
#[case::free_and_far(linked_by(1000, 24), (0, 18))]
#[case::turning(turn(24, 300, 8, 0.0, 3), (6, 12))]
fn relative_turns_are_honest(#[case] truth: Problem, #[case] pair: (usize, usize)) {
    const DRAWS: u64 = 60;
    let truth = Problem {
        free: FreeLens::default(),
        ..truth
    };
    let true_pose = seen_from(&truth, pair.0, pair.1);
    let mut squares = Vec::new();
    for seed in 0..DRAWS {
        let mut problem = noisy(&truth, 300 + seed);
        assert_ne!(rest(&mut problem, Loss::Squares), Stop::IterationsUsed);
        let found = seen_from(&problem, pair.0, pair.1);
        let turn =
            found.camera_from_world.rotation * true_pose.camera_from_world.rotation.inverse();
        let off: Vector3<f64> = turn.scaled_axis();
        let covariance = stated(&problem, pair)
            .covariance
            .fixed_view::<3, 3>(0, 0)
            .into_owned();
        squares.push(off.dot(&(covariance.try_inverse().unwrap() * off)) / 3.0);
    }
    let mean = squares.iter().sum::<f64>() / DRAWS as f64;
    // Chi-squared of 3 times 60 draws, four of its standard deviations.
    let spread = 4.0 * (2.0 / (3.0 * DRAWS as f64)).sqrt();
    assert!((mean - 1.0).abs() < spread, "{mean:.2}");
}

/// Nothing that is stated depends on which world the cameras are in.
#[test]
fn what_is_stated_does_not_depend_on_the_gauge() {
    let problem = noisy(&linked_by(12, 24), 9);
    let mut moved = problem.clone();
    let turn = nalgebra::UnitQuaternion::new(Vector3::new(0.3, -0.8, 0.2));
    let shift = Vector3::new(4.0, -2.0, 7.0);
    for pose in &mut moved.poses {
        let rotation = pose.camera_from_world.rotation * turn.inverse();
        let centre = turn * pose.centre().0.coords + shift;
        *pose = Pose::from_parts(rotation, -(rotation * centre));
    }
    moved.points.iter_mut().for_each(|p| *p = turn * *p + shift);
    let [here, there] = [&problem, &moved].map(|p| {
        let frames: Vec<FrameNumber> = (1..=24).map(FrameNumber).collect();
        let certain = certainty(p, Loss::Squares).unwrap();
        greatest(jumps(p, &certain.relative, &frames)).unwrap()
    });
    assert_eq!((here.before, here.after), (there.before, there.after));
    assert!(
        (here.px / there.px - 1.0).abs() < 1e-4,
        "{} and {}",
        here.px,
        there.px
    );
}

/// The fewer features link two halves, the more what stands on both may jump, and it is said where.
#[test]
fn a_weak_place_is_named() {
    let frames: Vec<FrameNumber> = (1001..=1048).map(FrameNumber).collect();
    let jump = |links: usize| {
        let problem = noisy(&linked_by(links, 48), 5);
        let certain = certainty(&problem, Loss::Squares).unwrap();
        greatest(jumps(&problem, &certain.relative, &frames)).unwrap()
    };
    let (firm, weak) = (jump(1000), jump(4));
    assert!(weak.px > 2.0 * firm.px, "{} and {}", weak.px, firm.px);
    let spans = weak.before.0 < 1025 && weak.after.0 >= 1025;
    assert!(spans, "from {} to {}", weak.before, weak.after);
}
