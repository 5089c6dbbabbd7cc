//! Which of several things that move rigidly is the scene: tracks of points of which each moves with
//! one of them, without pictures.

use fastrand::Rng;
use nalgebra::{Point3, Vector3};
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::progress::{Progress, Silent};
use parallax_core::solve::{
    Attempt, Candidates, Doubt, SetAside, SolveError, SolveOptions, Verdict, solve_scene,
};
use parallax_core::spaces::{FrameNumber, TrackId, WorldPoint};
use parallax_core::tracks::{Covariance, Sample, Track, TrackKind};
use rstest::rstest;
use std::collections::HashSet;
use std::sync::atomic::{AtomicUsize, Ordering};

const FRAMES: usize = 40;
const NOISE_PX: f64 = 0.1;
const FOCAL_PX: f64 = 1100.0;
/// Tracks of the thing that moves by itself are numbered from here.
const FIRST_MOVING: u32 = 1001;

fn lens() -> Intrinsics {
    Intrinsics::centred(1280, 720, FOCAL_PX)
}

fn options() -> SolveOptions {
    SolveOptions::nothing_known(lens())
}

/// The camera slides to the right and looks ahead.
fn camera(k: usize) -> Pose {
    let x = -1.0 + 2.0 * k as f64 / FRAMES as f64;
    let eye = Point3::new(x, 0.1 * (k as f64 / 7.0).sin(), 6.0);
    Pose::looking_at(&eye, &Point3::new(0.5 * x, 0.0, -3.0), &Vector3::y())
}

/// The camera slides to the right past a wall and hardly turns.
fn sliding(k: usize) -> Pose {
    let x = -1.0 + 2.0 * k as f64 / FRAMES as f64;
    let eye = Point3::new(x, 0.05 * (k as f64 / 7.0).sin(), 6.0);
    Pose::looking_at(&eye, &Point3::new(0.95 * x, 0.0, -3.0), &Vector3::y())
}

/// The focal length becomes a fifth longer.
fn zooming(k: usize) -> Intrinsics {
    lens().with_focal(FOCAL_PX * 1.2f64.powf(k as f64 / (FRAMES - 1) as f64))
}

/// Where a thing that moves by itself is.
fn drift(k: usize) -> Vector3<f64> {
    let t = k as f64 / FRAMES as f64;
    Vector3::new(1.6 * t, 0.25 * (5.0 * t).sin(), 0.4 * t)
}

/// What a camera does on a frame.
#[derive(Clone, Copy)]
struct Filmed {
    pose: fn(usize) -> Pose,
    lens: fn(usize) -> Intrinsics,
}

impl Filmed {
    /// The track of what is at a place of its own on every frame.
    fn track(self, id: u32, place: impl Fn(usize) -> Point3<f64>, random: &mut Rng) -> Track {
        let mut normal = || (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
        let samples = (0..FRAMES).filter_map(|k| {
            let px = (self.lens)(k).project(&(self.pose)(k), &WorldPoint(place(k)))?;
            let px = px.moved(nalgebra::Vector2::new(normal(), normal()) * NOISE_PX);
            let is_inside = (0.0..1280.0).contains(&px.x) && (0.0..720.0).contains(&px.y);
            is_inside.then_some(Sample {
                frame: FrameNumber(k as i32 + 1),
                px,
                covariance: Covariance::isotropic(NOISE_PX),
            })
        });
        Track::new(TrackId(id), TrackKind::Auto, samples.collect())
    }
}

struct Shot {
    tracks: Vec<Track>,
}

impl Shot {
    /// So many points of the scene all over the picture, and so many of a thing in the middle whose
    /// sides have this length, m.
    fn new(standing: usize, moving: usize, side: f64) -> Self {
        let mut random = Rng::with_seed(11);
        let mut draw = |low: f64, high: f64| low + (high - low) * random.f64();
        let standing: Vec<(u32, Point3<f64>)> = (0..standing)
            .map(|i| {
                let place = Point3::new(draw(-6.5, 6.5), draw(-3.6, 3.6), draw(-6.0, 0.5));
                (i as u32 + 1, place)
            })
            .collect();
        let moving: Vec<(u32, Point3<f64>)> = (0..moving)
            .map(|i| {
                let at = [0, 1, 2].map(|_| draw(-0.5 * side, 0.5 * side));
                let place = Point3::new(at[0] - 0.6, at[1], at[2] + 2.2);
                (FIRST_MOVING + i as u32, place)
            })
            .collect();
        let filmed = Filmed {
            pose: camera,
            lens: |_| lens(),
        };
        let mut tracks = Vec::new();
        for (id, place) in standing {
            tracks.push(filmed.track(id, |_| place, &mut random));
        }
        for (id, place) in moving {
            tracks.push(filmed.track(id, |k| place + drift(k), &mut random));
        }
        Self { tracks }
    }

    /// A slide that zooms along a wall with a few things before it, behind a cloth that goes along with the camera and waves by
    /// five centimetres.
    fn before_a_cloth(seed: u64) -> Self {
        let filmed = Filmed {
            pose: sliding,
            lens: zooming,
        };
        let mut random = Rng::with_seed(seed);
        let draw = |random: &mut Rng, low: f64, high: f64| low + (high - low) * random.f64();
        let mut tracks = Vec::new();
        for i in 0..150 {
            let depth = match i < 30 {
                true => draw(&mut random, -1.0, 1.0),
                false => draw(&mut random, -3.1, -3.0),
            };
            let [x, y] = [6.5, 3.4].map(|half| draw(&mut random, -half, half));
            tracks.push(filmed.track(i + 1, |_| Point3::new(x, y, depth), &mut random));
        }
        for i in 0..90 {
            let [x, y] = [(); 2].map(|()| draw(&mut random, -1.0, 1.0));
            let place = |k: usize| {
                let wave = 0.05 * (6.0 * k as f64 / FRAMES as f64 + 3.0 * x + y).sin();
                let along = 0.8 * sliding(k).centre().0.x;
                Point3::new(along + x - 0.5 + 0.3 * wave, y + 0.2, 2.5 + wave)
            };
            tracks.push(filmed.track(FIRST_MOVING + i, place, &mut random));
        }
        Self { tracks }
    }

    /// Tracks of the scene that are seen long enough to matter.
    fn standing(&self) -> usize {
        let stands = |t: &&Track| t.id.0 < FIRST_MOVING && t.samples.len() >= 5;
        self.tracks.iter().filter(stands).count()
    }

    fn solved(&self, suspected: &[u32]) -> Attempt {
        self.solved_with(&options(), suspected)
    }

    fn solved_with(&self, options: &SolveOptions, suspected: &[u32]) -> Attempt {
        let suspected: HashSet<TrackId> = suspected.iter().copied().map(TrackId).collect();
        let candidates = Candidates {
            tracks: &self.tracks,
            suspected: &suspected,
        };
        solve_scene(candidates, options, &Silent, &Silent).unwrap()
    }
}

/// Tracks of the scene, and of the other thing, that have a landmark.
fn counted(attempt: &Attempt) -> (usize, usize) {
    let moving = attempt
        .landmarks
        .iter()
        .filter(|l| l.track.0 >= FIRST_MOVING);
    let moving = moving.count();
    (attempt.landmarks.len() - moving, moving)
}

/// The camera is that of the scene, whoever was suspected before, and however many features the
/// other thing has.
#[rstest]
#[case::nobody_suspected(150, 60, &[])]
#[case::the_mover_suspected(150, 60, &(1001..1061).collect::<Vec<_>>())]
#[case::half_of_the_scene_suspected(150, 60, &(1..75).collect::<Vec<_>>())]
#[case::the_scene_suspected(150, 150, &(1..151).collect::<Vec<_>>())]
#[case::the_mover_has_more_features(120, 240, &[])]
fn the_scene_is_what_covers_the_picture_and_reaches_its_borders(
    #[case] standing: usize,
    #[case] moving: usize,
    #[case] suspected: &[u32],
) {
    let shot = Shot::new(standing, moving, 1.4);
    let attempt = shot.solved(suspected);
    let off = 100.0 * (attempt.lens.focal_px / FOCAL_PX - 1.0).abs();
    assert!(
        off < 1.0,
        "focal length off by {off:.2} %: {:?}",
        attempt.reasons()
    );
    let (still, moves) = counted(&attempt);
    let standing = shot.standing();
    assert!(
        20 * still > 17 * standing,
        "{still} of {standing} take part"
    );
    assert!(10 * moves < moving, "{moves} of {moving} movers take part");
    assert!(attempt.bodies[0].border > 0.8, "{:?}", attempt.bodies[0]);
}

/// Focal lengths that may change as they like make no body of a wall and a cloth before it.
#[rstest]
fn a_stated_zoom_makes_no_body_of_a_mixture(#[values(1, 2)] seed: u64) {
    let zooms = SolveOptions {
        zooms: Some(true),
        ..options()
    };
    let attempt = Shot::before_a_cloth(seed).solved_with(&zooms, &[]);
    let (still, moves) = counted(&attempt);
    assert!(
        still > 75 && moves < 9,
        "{still} of the wall, {moves} of the cloth"
    );
    for (k, frame) in attempt.frames.iter().enumerate() {
        let off_px = attempt.lens_at(frame).focal_px - zooming(k).focal_px;
        let sigma_px = frame.focal_sigma_px.unwrap();
        assert!(off_px.abs() < 4.0 * sigma_px, "{k}: {off_px:.1} px");
        assert!(sigma_px < 0.03 * FOCAL_PX, "{k}: {sigma_px:.1} px");
    }
}

/// What belongs to another body says so.
#[test]
fn what_moves_with_another_body_is_told_from_what_is_loose() {
    let attempt = Shot::new(150, 80, 1.4).solved(&[]);
    assert_eq!(attempt.bodies.len(), 2, "{:?}", attempt.bodies);
    let elsewhere = attempt
        .set_aside
        .iter()
        .filter(|(_, why)| *why == SetAside::AnotherBody);
    let elsewhere = elsewhere.filter(|(id, _)| id.0 >= FIRST_MOVING).count();
    assert!(elsewhere > 60, "{elsewhere} of 80");
    // Nothing speaks against it on account of the other body; what 150 points tell of the focal length
    // is another matter.
    let other = attempt
        .doubts
        .iter()
        .find(|d| !matches!(d, Doubt::Slips { .. }));
    assert_eq!(other, None);
}

/// Where the other thing fills the picture nobody can tell which is the scene: that is said.
#[test]
fn a_rival_of_comparable_weight_takes_good_away() {
    let attempt = Shot::new(90, 160, 4.6).solved(&[]);
    assert_eq!(attempt.verdict, Verdict::NeedsALook);
    let is_rival = |d: &Doubt| matches!(d, Doubt::Rival { .. });
    assert!(
        attempt.doubts.iter().any(is_rival),
        "{:?} {:?}",
        attempt.doubts,
        attempt.bodies
    );
}

/// Cancelled after it was asked so often.
struct Patience(AtomicUsize);

impl Progress for Patience {
    fn report(&self, _stage: &'static str, _done: usize, _total: usize) {}

    fn is_cancelled(&self) -> bool {
        let less = |n: usize| n.checked_sub(1);
        let left = self
            .0
            .fetch_update(Ordering::Relaxed, Ordering::Relaxed, less);
        left.is_err()
    }
}

/// Whatever is being tried when it is cancelled, that is said, and not that something failed: a job
/// that was stopped is put back.
#[test]
fn cancelled_it_says_so_whatever_it_was_trying() {
    let shot = Shot::new(150, 60, 1.4);
    // Too few are trusted, so that the others are tried.
    let suspected: HashSet<TrackId> = (6..1061).map(TrackId).collect();
    let candidates = Candidates {
        tracks: &shot.tracks,
        suspected: &suspected,
    };
    let mut cancelled = 0;
    for asked in [0, 3, 30, 100, 200, 400] {
        let patience = Patience(AtomicUsize::new(asked));
        match solve_scene(candidates, &options(), &Silent, &patience) {
            Err(error) => {
                assert_eq!(error, SolveError::Cancelled, "after {asked}");
                cancelled += 1;
            }
            Ok(attempt) => assert!(!attempt.frames.is_empty()),
        }
    }
    assert!(cancelled >= 3, "{cancelled} of six were cancelled");
}

/// Something that moves by itself hides nearly all of the scene for a few frames: the camera may be
/// right, but these frames rest on a corner of the picture, which is said.
#[test]
fn frames_of_which_little_is_explained_are_named() {
    let mut shot = Shot::new(150, 60, 1.6);
    let hidden = 18..=22;
    for track in shot.tracks.iter_mut().filter(|t| t.id.0 < FIRST_MOVING) {
        track
            .samples
            .retain(|s| !hidden.contains(&s.frame.0) || (s.px.x < 180.0 && s.px.y < 400.0));
    }
    let movers: Vec<u32> = (FIRST_MOVING..FIRST_MOVING + 60).collect();
    let attempt = shot.solved(&movers);
    let named = attempt.doubts.iter().find_map(|d| match d {
        Doubt::LittleCover { frame, percent } => Some((frame.0, *percent)),
        _ => None,
    });
    let (frame, percent) = named.unwrap_or_else(|| panic!("{:?}", attempt.doubts));
    assert!(hidden.contains(&frame), "frame {frame}");
    assert!((1.0..25.0).contains(&percent), "{percent} %");
    assert_eq!(attempt.verdict, Verdict::NeedsALook);
}

/// A frame of the plate on which nothing was followed has no camera: such an attempt is not good.
#[rstest]
#[case::all_there(Some(FRAMES), 0)]
#[case::not_known(None, 0)]
#[case::three_without_features(Some(FRAMES + 3), 3)]
fn frames_without_any_feature_count(#[case] plate_frames: Option<usize>, #[case] lost: usize) {
    let shot = Shot::new(150, 0, 1.4);
    let suspected = HashSet::new();
    let candidates = Candidates {
        tracks: &shot.tracks,
        suspected: &suspected,
    };
    let options = SolveOptions {
        plate_frames,
        ..options()
    };
    let attempt = solve_scene(candidates, &options, &Silent, &Silent).unwrap();
    let told = attempt.doubts.iter().find_map(|d| match d {
        Doubt::FramesLost { solved, all } => Some(all - solved),
        _ => None,
    });
    assert_eq!(told.unwrap_or(0), lost, "{:?}", attempt.doubts);
    assert!(lost == 0 || attempt.verdict == Verdict::NeedsALook);
}
