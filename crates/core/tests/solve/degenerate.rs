//! Shots that hold too little for a camera, or less than they seem to: each ends in a camera that is right and
//! good, or doubted, or in a sentence that says what is lacking; never in a wrong camera that is called good.

use crate::walks::{FRAMES, Walk};
use nalgebra::{Point3, UnitQuaternion, Vector3};
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::progress::Silent;
use parallax_core::solve::{
    Attempt, CameraMove, Candidates, FocalKnowledge, LensTerms, SolveError, SolveOptions, Verdict,
    solve_scene,
};
use parallax_core::spaces::WorldPoint;
use rstest::rstest;
use std::collections::HashSet;

const LENS: (u32, u32, f64) = (1280, 720, 1100.0);

fn lens() -> Intrinsics {
    Intrinsics::centred(LENS.0, LENS.1, LENS.2)
}

fn looking(eye: [f64; 3], target: [f64; 3]) -> Pose {
    Pose::looking_at(&Point3::from(eye), &Point3::from(target), &Vector3::y())
}

fn cloud(count: usize, seed: u64) -> Vec<WorldPoint> {
    let mut random = fastrand::Rng::with_seed(seed);
    let mut draw = |low: f64, high: f64| low + (high - low) * random.f64();
    let place = |_| WorldPoint::new(draw(-5.0, 5.0), draw(-1.5, 2.5), draw(-9.0, 1.0));
    (0..count).map(place).collect()
}

fn seen(pose: impl Fn(f64) -> Pose, points: Vec<WorldPoint>) -> Walk {
    let poses = (0..FRAMES).map(|k| pose(f64::from(k))).collect();
    Walk::of(lens(), poses, points, &mut fastrand::Rng::with_seed(8))
}

fn scene(walk: &Walk, focal: FocalKnowledge) -> Result<Attempt, SolveError> {
    let options = SolveOptions {
        focal,
        ..walk.options(LensTerms::NONE)
    };
    let candidates = Candidates {
        tracks: &walk.tracks,
        suspected: &HashSet::new(),
    };
    solve_scene(
        candidates,
        &options,
        &parallax_core::progress::Silent,
        &Silent,
    )
}

/// A wall from the front: with its focal length known it is solved; without, a wall says little of it.
#[rstest]
#[case::known(FocalKnowledge::Known(LENS.2))]
#[case::unknown(FocalKnowledge::Unknown)]
fn one_plane(#[case] focal: FocalKnowledge) {
    let mut points = cloud(260, 3);
    points.iter_mut().for_each(|p| p.0.z = -5.0);
    let path = |k: f64| looking([-2.0 + 0.1 * k, 0.8, 6.0], [0.4, 0.5, -5.0]);
    let walk = seen(path, points);
    match scene(&walk, focal) {
        Ok(attempt) => {
            let error_px = walk.error_px(&attempt);
            let known = focal != FocalKnowledge::Unknown;
            assert!(
                error_px < 0.5 || attempt.verdict == Verdict::NeedsALook,
                "{error_px} px"
            );
            assert!(
                !known || error_px < 0.5,
                "{error_px} px with a known focal length"
            );
        }
        Err(error) => assert!(focal == FocalKnowledge::Unknown, "{error}"),
    }
}

/// Straight ahead, the hardest way to see depth.
#[test]
fn a_pure_forward_move() {
    let path = |k: f64| looking([0.1, 0.6, 7.0 - 0.12 * k], [0.1, 0.6, -20.0]);
    let walk = seen(path, cloud(320, 5));
    let attempt = scene(&walk, FocalKnowledge::Unknown).unwrap();
    assert_eq!(attempt.moves, CameraMove::Free);
    let error_px = walk.error_px(&attempt);
    assert!(
        error_px < 0.5 || attempt.verdict == Verdict::NeedsALook,
        "{error_px} px"
    );
}

#[rstest]
#[case::eleven(11)]
#[case::fourteen(14)]
#[case::twenty(20)]
fn few_features(#[case] count: usize) {
    let path = |k: f64| looking([-2.0 + 0.1 * k, 1.0, 6.0], [0.3, 0.4, -3.0]);
    let mut walk = seen(path, cloud(200, 7));
    walk.tracks.retain(|t| t.samples.len() == FRAMES as usize);
    walk.tracks.truncate(count);
    match scene(&walk, FocalKnowledge::Unknown) {
        Ok(attempt) => {
            let error_px = walk.error_px(&attempt);
            assert!(
                count >= 12 && (error_px < 1.0 || attempt.verdict == Verdict::NeedsALook),
                "{error_px} px"
            );
        }
        Err(error) => {
            // They all stand still: that they may move by themselves is no true reason.
            let said = error.to_string();
            let lacking = match count {
                11 => "at least 12",
                _ => "in common",
            };
            assert!(
                said.contains(lacking) && said.contains("ollow more features"),
                "{said}"
            );
        }
    }
}

/// Everything that was followed is on one thing that turns before a camera that rests: the camera is that
/// thing's, and nothing in the tracks can tell; with its own motion it is right about it.
#[test]
fn all_on_a_mover() {
    let axis = Vector3::y_axis();
    let path = |k: f64| {
        let turn = UnitQuaternion::from_axis_angle(&axis, 0.02 * k);
        let rest = looking([0.0, 0.8, 7.0], [0.0, 0.5, -4.0]);
        let moved = nalgebra::Isometry3::rotation(turn.scaled_axis());
        Pose {
            camera_from_world: rest.camera_from_world * moved,
        }
    };
    let mut points = cloud(200, 9);
    points.iter_mut().for_each(|p| {
        p.0.x *= 0.25;
        p.0.z = 0.4 * (p.0.z + 4.0);
    });
    let walk = seen(path, points);
    let attempt = scene(&walk, FocalKnowledge::Unknown).unwrap();
    let error_px = walk.error_px(&attempt);
    assert!(error_px < 0.5, "{error_px} px");
}

#[test]
fn a_still() {
    let walk = seen(
        |_| looking([0.0, 0.8, 7.0], [0.0, 0.5, -4.0]),
        cloud(200, 11),
    );
    let refused = scene(&walk, FocalKnowledge::Unknown).unwrap_err();
    assert!(
        matches!(refused, SolveError::LockedWithoutFocal { .. }),
        "{refused}"
    );
    assert!(refused.to_string().contains("state it"), "{refused}");
    let locked = scene(&walk, FocalKnowledge::Known(LENS.2)).unwrap();
    assert_eq!(
        (locked.moves, locked.verdict),
        (CameraMove::Locked, Verdict::Good)
    );
    let about = FocalKnowledge::About {
        px: LENS.2,
        sigma_px: 40.0,
    };
    let locked = scene(&walk, about).unwrap();
    assert_eq!(
        locked.focal_sigma_px,
        Some(40.0),
        "it is as uncertain as was stated"
    );
}

/// Two frames, and three.
#[rstest]
#[case(2)]
#[case(3)]
fn hardly_any_frames(#[case] frames: usize) {
    let path = |k: f64| looking([-2.0 + 0.3 * k, 1.0, 6.0], [0.3, 0.4, -3.0]);
    let mut walk = seen(path, cloud(200, 13));
    walk.poses.truncate(frames);
    for track in &mut walk.tracks {
        track.samples.retain(|s| s.frame.0 <= frames as i32);
    }
    match scene(&walk, FocalKnowledge::Unknown) {
        Ok(attempt) => {
            let error_px = walk.error_px(&attempt);
            assert!(
                error_px < 0.5 || attempt.verdict == Verdict::NeedsALook,
                "{error_px} px"
            );
        }
        Err(error) => {
            let said = error.to_string();
            assert!(said.contains("frames") || said.contains("agree"), "{said}");
        }
    }
}
