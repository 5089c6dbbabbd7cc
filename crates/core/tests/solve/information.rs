//! A solve's normal equations made anew: what they say of one landmark is what the solve said, what they say of several
//! together makes errors of an oriented world honest.

use crate::shared;
use crate::walks::{FRAMES, Walk, pose};
use nalgebra::Vector3;
use parallax_core::camera::{Intrinsics, Pose, Similarity};
use parallax_core::lens::{Distortion, LensTerms};
use parallax_core::orient::{Edge, End, Facing, Fact, Runs, Stated, Statement, Together, oriented};
use parallax_core::solve::Attempt;
use parallax_core::solve::information::{Information, SolvedShot};
use parallax_core::spaces::{TrackId, WorldPoint};
use rstest::rstest;

fn information(attempt: &Attempt, walk: &Walk) -> Information {
    Information::of(&SolvedShot::of_attempt(attempt, None), &walk.tracks).unwrap()
}

/// Of each landmark by itself what the attempt has; of two together what never says more than both.
#[rstest]
#[case::focal(LensTerms::NONE, Distortion::NONE)]
#[case::lens(LensTerms::TWO, Distortion::radial(-0.1, 0.02))]
fn landmarks_are_as_certain_as_the_solve_says(#[case] terms: LensTerms, #[case] bends: Distortion) {
    let walk = Walk::new(3, 1100.0, bends);
    let attempt = shared::solve(&walk.tracks, &walk.options(terms)).unwrap();
    let information = information(&attempt, &walk);
    let some: Vec<_> = attempt.landmarks.iter().step_by(25).collect();
    let tracks: Vec<TrackId> = some.iter().map(|l| l.track).collect();
    // A solve states its errors with caution, as verdicts hang on them.
    let caution = information.at_rest.cautious_factor / information.at_rest.factor;
    assert!((1.0..=2.0).contains(&caution), "{caution}");
    let joint = information.covariance(&tracks).unwrap() * caution;
    for (i, landmark) in some.iter().enumerate() {
        let stated = *landmark.covariance.unwrap().matrix();
        let anew = joint.fixed_view::<3, 3>(3 * i, 3 * i);
        let off = (anew - stated).norm() / stated.norm();
        assert!(off < 0.02, "{:?}: {off}", landmark.track);
    }
    assert!(joint.symmetric_eigenvalues().min() > 0.0);
    assert!(information.covariance(&[TrackId(1_000_000)]).is_none());
}

/// From the true world to that of an attempt, in the gauge in which errors are stated: the first camera has none, and
/// the one farthest from it keeps its distance.
fn to_solved(attempt: &Attempt, walk: &Walk) -> Similarity {
    let truth = |at: usize| walk.poses[attempt.frames[at].frame.0 as usize - 1];
    let (first, last) = (attempt.frames[0].pose, attempt.frames.last().unwrap().pose);
    let (true_first, true_last) = (truth(0), truth(attempt.frames.len() - 1));
    let apart = |a: &Pose, b: &Pose| a.centre().distance(b.centre());
    let turned = Similarity {
        rotation: first.camera_from_world.rotation.inverse()
            * true_first.camera_from_world.rotation,
        translation: Vector3::zeros(),
        scale: apart(&first, &last) / apart(&true_first, &true_last),
    };
    let off = first.centre().0 - turned.point(&true_first.centre()).0;
    Similarity {
        translation: off,
        ..turned
    }
}

/// Ten landmarks of the ground, an edge and two lengths, over draws of the noise of the tracks: up, heading and scale are
/// off by what is stated.
#[test]
fn an_oriented_world_is_as_certain_as_it_says() {
    const DRAWS: u64 = 24;
    let floor: Vec<WorldPoint> = (0..10)
        .map(|i| {
            WorldPoint::new(
                f64::from(i % 5) * 1.6 - 3.2,
                0.0,
                f64::from(i / 5) * 2.5 - 4.0 + 0.3 * f64::from(i % 3),
            )
        })
        .collect();
    let edge = [
        WorldPoint::new(-2.0, 1.1, -4.0),
        WorldPoint::new(2.0, 1.1, -4.0),
    ];
    let facts = [
        Fact::Plane {
            name: "floor".into(),
            faces: Facing::Ground,
            on: (1..=10).map(TrackId).collect(),
        },
        Fact::Edge {
            edge: Edge::Features([TrackId(11), TrackId(12)]),
            runs: Runs::Along,
        },
        length(11, 12, 4.0),
        length(1, 10, floor[0].distance(floor[9])),
    ];
    let statements: Vec<Stated> = facts
        .into_iter()
        .enumerate()
        .map(|(i, fact)| (i as u32 + 1, Statement { fact, off: false }))
        .collect();
    let mut squares = [0.0; 3];
    for seed in 0..DRAWS {
        let mut random = fastrand::Rng::with_seed(100 + seed);
        let lens = Intrinsics::centred(1280, 720, 1000.0);
        let poses: Vec<Pose> = (0..FRAMES)
            .map(|k| pose(f64::from(k), &mut random))
            .collect();
        let mut draw = |low: f64, high: f64| low + (high - low) * random.f64();
        let others =
            (0..90).map(|_| WorldPoint::new(draw(-5.0, 5.0), draw(0.0, 2.5), draw(-9.0, 0.5)));
        let points: Vec<WorldPoint> = floor.iter().chain(&edge).copied().chain(others).collect();
        let walk = Walk::of(lens, poses, points, &mut random);
        let attempt = shared::solve(&walk.tracks, &walk.options(LensTerms::NONE)).unwrap();
        let information = information(&attempt, &walk);
        let found = oriented(&attempt, &statements, Some(&information));
        assert_eq!(found.unused().count(), 0, "{:?}", found.misses);
        let hidden = to_solved(&attempt, &walk);
        let turn = found.change.rotation * hidden.rotation;
        let up = (turn * Vector3::y()).angle(&Vector3::y()).to_degrees();
        let back = turn * Vector3::z();
        let heading = back.x.atan2(back.z).to_degrees();
        let share = (found.change.scale * hidden.scale).ln();
        squares[0] += (up / found.up_sigma_deg.unwrap()).powi(2);
        squares[1] += (heading / found.heading_sigma_deg.unwrap()).powi(2);
        squares[2] += (share / found.scale_share_sigma.unwrap()).powi(2);
        assert!(
            up < 0.1 && heading.abs() < 0.3 && share.abs() < 0.01,
            "{up} {heading} {share}"
        );
    }
    let honest = squares.map(|s| (s / DRAWS as f64).sqrt());
    // Of so few draws a root mean square is itself known to a seventh.
    assert!(
        honest.iter().all(|h| (0.65..1.35).contains(h)),
        "{honest:?}"
    );
}

fn length(a: u32, b: u32, length_m: f64) -> Fact {
    Fact::Length {
        between: [End::Feature(TrackId(a)), End::Feature(TrackId(b))],
        length_m,
        sigma_m: 0.0005,
    }
}
