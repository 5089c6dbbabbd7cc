//! Landmarks on demand: the place of a detail that took no part in a solve, from where it was marked.

use crate::shared;
use nalgebra::{Point3, UnitQuaternion, Vector2, Vector3};
use parallax_core::camera::{Intrinsics, Pose, Similarity};
use parallax_core::solve::locked::FAR;
use parallax_core::solve::on_demand::{NoPlace, placed};
use parallax_core::solve::{Attempt, CameraMove, FocalKnowledge, Readout, SolveOptions};
use parallax_core::spaces::{FrameNumber, PlatePx, TrackId, WorldPoint};
use parallax_core::tracks::{Covariance, Sample, Track, TrackKind};
use rstest::rstest;

const FRAMES: usize = 40;
const NOISE_PX: f64 = 0.1;

fn lens() -> Intrinsics {
    Intrinsics::centred(1280, 720, 1000.0)
}

fn camera(moves: CameraMove, k: usize) -> Pose {
    let t = k as f64 / (FRAMES - 1) as f64;
    match moves {
        CameraMove::Free => {
            let eye = Point3::new(-1.5 + 3.0 * t, 1.2 + 0.1 * (9.0 * t).sin(), 6.0 - 0.8 * t);
            Pose::looking_at(&eye, &Point3::new(0.4 * t, 0.4, -3.0), &Vector3::y())
        }
        _ => {
            let turn =
                UnitQuaternion::from_euler_angles(0.02 * (7.0 * t).sin(), 0.6 * (t - 0.5), 0.0);
            Pose::from_parts(turn, -(turn * Vector3::new(0.0, 1.2, 6.0)))
        }
    }
}

fn sample(k: usize, px: PlatePx, sigma_px: f64) -> Sample {
    Sample {
        frame: FrameNumber(k as i32 + 1),
        px,
        covariance: Covariance::isotropic(sigma_px),
    }
}

/// A solve of points that stand around, and these.
fn solved(moves: CameraMove) -> (Attempt, Vec<WorldPoint>) {
    let mut random = fastrand::Rng::with_seed(5);
    let mut draw = |low: f64, high: f64| low + (high - low) * random.f64();
    let points: Vec<WorldPoint> = (0..260)
        .map(|_| WorldPoint::new(draw(-8.0, 8.0), draw(-3.0, 4.0), draw(-6.0, 1.0)))
        .collect();
    let mut normal = || (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
    let tracks: Vec<Track> = points
        .iter()
        .enumerate()
        .map(|(id, point)| {
            let seen = (0..FRAMES).filter_map(|k| {
                let px = lens()
                    .project(&camera(moves, k), point)
                    .filter(|px| lens().holds(*px))?;
                Some(sample(
                    k,
                    px.moved(Vector2::new(normal(), normal()) * NOISE_PX),
                    NOISE_PX,
                ))
            });
            Track::new(TrackId(id as u32), TrackKind::Auto, seen.collect())
        })
        .filter(|t: &Track| t.samples.len() >= 3)
        .collect();
    let options = SolveOptions {
        focal: FocalKnowledge::Known(1000.0),
        moves: Some(moves),
        zooms: Some(false),
        readout: Readout::None,
        ..SolveOptions::nothing_known(lens())
    };
    (shared::solve(&tracks, &options).unwrap(), points)
}

fn marked(moves: CameraMove, detail: &WorldPoint, frames: &[usize], off_px: f64) -> Vec<Sample> {
    let mark = |&k: &usize| {
        let px = lens().project(&camera(moves, k), detail).unwrap();
        let side = if k % 2 == 0 { off_px } else { -off_px };
        sample(k, px.moved(Vector2::new(side, 0.5 * side)), 0.3)
    };
    frames.iter().map(mark).collect()
}

/// Its place within its error, and on every frame where it should be seen, within the reach that is stated.
#[rstest]
#[case::two_frames(&[3, 34], 0.0)]
#[case::two_frames_off_the_detail(&[3, 34], 0.3)]
#[case::many_frames(&[2, 9, 15, 22, 30, 37], 0.3)]
fn a_detail_has_its_place_at_once(#[case] frames: &[usize], #[case] off_px: f64) {
    let moves = CameraMove::Free;
    let (attempt, points) = solved(moves);
    let detail = WorldPoint::new(0.7, 0.9, -1.4);
    let found = placed(&attempt, &marked(moves, &detail, frames, off_px)).unwrap();
    let (from, to): (Vec<_>, Vec<_>) = attempt
        .landmarks
        .iter()
        .map(|l| (points[l.track.0 as usize], l.point))
        .unzip();
    let there = Similarity::fitting(&from, &to).unwrap().point(&detail);
    let off = found.point.0 - there.0;
    let sigma = found.covariance.unwrap().along(&off.normalize());
    assert!(
        off.norm() < 3.0 * sigma + 0.01,
        "{} off, {sigma} stated",
        off.norm()
    );
    assert!(found.parallax_deg > 5.0 && found.rms_px < 1.0);
    assert_eq!(found.path.len(), FRAMES);
    for seen in &found.path {
        let k = seen.frame.0 as usize - 1;
        let truth = lens().project(&camera(moves, k), &detail).unwrap();
        let off_px = seen.px.distance_px(truth);
        assert!(
            off_px < 3.0 * seen.sigma_px + 0.15,
            "{off_px} px, {} stated",
            seen.sigma_px
        );
        assert!((0.05..2.0).contains(&seen.sigma_px), "{}", seen.sigma_px);
    }
}

/// Of a camera that turns one sight is enough for a direction.
#[test]
fn a_turning_camera_gives_a_direction() {
    let moves = CameraMove::Nodal;
    let (attempt, _) = solved(moves);
    let detail = WorldPoint::new(0.2, 1.4, -2.0);
    let found = placed(&attempt, &marked(moves, &detail, &[20], 0.0)).unwrap();
    assert!(found.covariance.is_none());
    assert!((found.point.0.coords.norm() - FAR).abs() < 1e-6);
    for seen in &found.path {
        let truth = lens()
            .project(&camera(moves, seen.frame.0 as usize - 1), &detail)
            .unwrap();
        assert!(seen.px.distance_px(truth) < 1.0);
    }
}

/// What has no place says why.
#[test]
fn what_has_no_place_says_why() {
    let moves = CameraMove::Free;
    let (attempt, _) = solved(moves);
    let detail = WorldPoint::new(0.7, 0.9, -1.4);
    let one = placed(&attempt, &marked(moves, &detail, &[7], 0.0));
    assert_eq!(
        one.unwrap_err(),
        NoPlace::TooFewSights {
            found: 1,
            needed: 2
        }
    );
    let far = WorldPoint::new(0.0, 300.0, -90_000.0);
    let parallel = placed(&attempt, &marked(moves, &far, &[7, 9], 0.0));
    assert!(matches!(parallel.unwrap_err(), NoPlace::Parallel { .. }));
    // Two different details.
    let mut mixed = marked(moves, &detail, &[3, 34], 0.0);
    mixed[1].px = mixed[1].px.moved(Vector2::new(0.0, 160.0));
    assert_eq!(placed(&attempt, &mixed).unwrap_err(), NoPlace::NoMeeting);
}
