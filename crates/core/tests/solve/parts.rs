//! Shots that hang together by little: something covers the picture, or the way leads back to where it
//! began. Tracks of points that a known camera sees, without pictures.

use crate::shared;
use nalgebra::{Point3, Vector2, Vector3};
use parallax_core::camera::registration::{self, Sight, registered};
use parallax_core::camera::{Intrinsics, Pose, Similarity};
use parallax_core::progress::Silent;
use parallax_core::solve::{
    Attempt, CameraMove, Doubt, SolveError, SolveOptions, Verdict, solve_again,
};
use parallax_core::spaces::{FrameNumber, TrackId, WorldPoint};
use parallax_core::tracks::{Covariance, Sample, Track, TrackKind};
use rstest::rstest;
use std::f64::consts::TAU;
use std::ops::Range;

const FRAMES: usize = 120;
const NOISE_PX: f64 = 0.15;

fn lens() -> Intrinsics {
    Intrinsics::centred(1280, 720, 1050.0)
}

/// Once round a court and a little more, looking outward and ahead.
fn camera(k: usize) -> Pose {
    let at = |angle: f64| Vector3::new(angle.sin(), 0.0, -angle.cos());
    let angle = 1.12 * TAU * k as f64 / FRAMES as f64;
    let eye = Point3::from(at(angle) * 1.8 + Vector3::new(0.0, 0.05 * (9.0 * angle).sin(), 0.0));
    Pose::looking_at(&eye, &(eye + at(angle + 0.3)), &Vector3::y())
}

/// What of a shot is seen.
#[derive(Clone)]
struct Seen {
    /// Frames on which something covers all of it.
    covered: Range<usize>,
    /// So many features live through that.
    survivors: usize,
    /// Whether what was lost is recognised when it comes back.
    recognised: bool,
}

fn tracks(what: &Seen) -> (Vec<WorldPoint>, Vec<Track>) {
    let mut random = fastrand::Rng::with_seed(23);
    let mut draw = |low: f64, high: f64| low + (high - low) * random.f64();
    let points: Vec<WorldPoint> = (0..900)
        .map(|_| {
            let (angle, far) = (draw(0.0, TAU), draw(3.2, 6.0));
            WorldPoint::new(far * angle.sin(), draw(-1.8, 1.8), -far * angle.cos())
        })
        .collect();
    let mut normal = || (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
    let (mut tracks, mut owners, mut survived) = (Vec::new(), Vec::new(), 0);
    for point in &points {
        let mut legs: Vec<Vec<Sample>> = vec![Vec::new()];
        let straddles = |k: usize| camera_sees(k, point).is_some();
        let survives = !what.covered.is_empty()
            && straddles(what.covered.start - 1)
            && straddles(what.covered.end)
            && survived < what.survivors;
        survived += usize::from(survives);
        for k in 0..FRAMES {
            let px = camera_sees(k, point).filter(|_| survives || !what.covered.contains(&k));
            match px {
                Some(px) => legs.last_mut().unwrap().push(Sample {
                    frame: FrameNumber(k as i32 + 1),
                    px: px.moved(Vector2::new(normal(), normal()) * NOISE_PX),
                    covariance: Covariance::isotropic(NOISE_PX),
                }),
                None if legs.last().unwrap().is_empty() => {}
                None => legs.push(Vec::new()),
            }
        }
        let legs = match what.recognised {
            true => vec![legs.concat()],
            false => legs,
        };
        for samples in legs.into_iter().filter(|l| l.len() >= 3) {
            let id = TrackId(tracks.len() as u32 + 1);
            tracks.push(Track::new(id, TrackKind::Auto, samples));
            owners.push(*point);
        }
    }
    (owners, tracks)
}

fn camera_sees(k: usize, point: &WorldPoint) -> Option<parallax_core::spaces::PlatePx> {
    let px = lens().project(&camera(k), point)?;
    lens().holds(px).then_some(px)
}

fn solved(tracks: &[Track]) -> Result<Attempt, SolveError> {
    let options = SolveOptions::nothing_known(lens());
    shared::solve(tracks, &options)
}

/// How far true points are seen off through solved cameras, after the best change of world, px rms.
fn off_px(attempt: &Attempt, owners: &[WorldPoint]) -> f64 {
    off_on(attempt, owners, &(0..FRAMES), &(0..0))
}

/// The same on some frames, the world being changed as all but those that are covered have it.
fn off_on(
    attempt: &Attempt,
    owners: &[WorldPoint],
    frames: &Range<usize>,
    covered: &Range<usize>,
) -> f64 {
    let landmark = |l: &parallax_core::solve::Landmark| (owners[l.track.0 as usize - 1], l.point);
    let (from, to): (Vec<_>, Vec<_>) = attempt.landmarks.iter().map(landmark).unzip();
    let sights_of = |on: &dyn Fn(usize) -> bool| -> Vec<Sight> {
        let on = attempt.frames.iter().filter(|f| on(f.frame.0 as usize - 1));
        on.flat_map(|f| {
            let k = f.frame.0 as usize - 1;
            let seen = move |point: &WorldPoint| {
                Some(Sight {
                    lens: attempt.lens,
                    pose: f.pose,
                    point: *point,
                    px: camera_sees(k, point)?,
                })
            };
            from.iter().step_by(4).filter_map(seen).collect::<Vec<_>>()
        })
        .collect()
    };
    let all = sights_of(&|k| k % 5 == 0 && !covered.contains(&k));
    let change = registered(Similarity::fitting(&from, &to).unwrap(), &all);
    registration::rms_px(&change, &sights_of(&|k| frames.contains(&k)))
}

/// What comes back closes the loop; a cover with survivors is bridged; without any the parts hang
/// together by what comes back at the end alone.
#[rstest]
#[case::loop_that_closes(Seen { covered: 0..0, survivors: 0, recognised: true }, 0.3)]
#[case::loop_that_is_not_recognised(Seen { covered: 0..0, survivors: 0, recognised: false }, 2.0)]
#[case::cover_with_survivors(Seen { covered: 60..64, survivors: 12, recognised: false }, 4.0)]
#[case::cover_that_is_recognised(Seen { covered: 60..64, survivors: 0, recognised: true }, 0.3)]
#[case::long_cover_of_a_loop(Seen { covered: 58..74, survivors: 0, recognised: true }, 0.6)]
fn a_shot_in_parts_is_one(#[case] what: Seen, #[case] most_px: f64) {
    let (owners, tracks) = tracks(&what);
    let attempt = solved(&tracks).unwrap();
    assert_eq!(attempt.moves, CameraMove::Free);
    let covered = match what.survivors {
        0 => what.covered.len(),
        _ => 0,
    };
    assert_eq!(attempt.frames.len(), FRAMES - covered);
    let off_px = off_px(&attempt, &owners);
    assert!(off_px < most_px, "{off_px:.2} px off, {:?}", attempt.doubts);
    let focal = (attempt.lens.focal_px / lens().focal_px - 1.0).abs();
    assert!(focal < 0.005, "focal length off by {:.2} %", 100.0 * focal);
    // A camera that is off by more than a pixel is not called good.
    assert!(
        off_px < 1.0 || attempt.verdict == Verdict::NeedsALook,
        "{off_px:.2} px and good"
    );
}

/// The place where the shot hangs together by least is named, with how far what stands on both sides may jump, and
/// nobody calls that good.
#[test]
fn a_weak_link_is_named() {
    let covered = 60..64;
    let (owners, tracks) = tracks(&Seen {
        covered: covered.clone(),
        survivors: 7,
        recognised: false,
    });
    let attempt = solved(&tracks).unwrap();
    let jump = attempt.jump.unwrap();
    assert!(
        jump.before.0 <= 65 && jump.after.0 >= 61,
        "{} to {}",
        jump.before,
        jump.after
    );
    assert_eq!(attempt.verdict, Verdict::NeedsALook);
    // Aligned on what lies before, what lies shortly after is off by no more than that.
    let behind = covered.start..FRAMES;
    let off_px = off_on(&attempt, &owners, &(covered.end..70), &behind);
    assert!(
        off_px < 3.0 * jump.px,
        "{off_px:.2} px off, {:.2} px said",
        jump.px
    );
}

/// Where nothing links them there is no camera, and it is said where it breaks and by how much.
#[test]
fn parts_that_nothing_links_are_no_camera() {
    let (_, tracks) = tracks(&Seen {
        covered: 60..64,
        survivors: 0,
        recognised: false,
    });
    match solved(&tracks) {
        Err(SolveError::FramesUnreachable {
            solved,
            all,
            first_lost,
            last_lost,
            linking,
        }) => {
            assert_eq!((all, linking), (116, 0));
            let lost = (first_lost.0, last_lost.0);
            // One part or the other is left.
            assert!(
                (solved, lost) == (56, (1, 60)) || (solved, lost) == (60, (65, 120)),
                "{solved} solved, {lost:?} lost"
            );
        }
        other => panic!("{:?}", other.map(|a| a.doubts)),
    }
}

/// Something covers all of the picture for a while: its frames have cameras, held by those before and after, and
/// nobody calls that good.
#[rstest]
#[case::short(60..64, 0)]
#[case::long(58..74, 0)]
#[case::with_a_few_features(60..66, 4)]
fn frames_behind_something_are_carried_over(
    #[case] covered: Range<usize>,
    #[case] survivors: usize,
) {
    let what = Seen {
        covered: covered.clone(),
        survivors,
        recognised: true,
    };
    let (owners, tracks) = tracks(&what);
    let options = SolveOptions {
        plate_frames: Some(FRAMES),
        ..SolveOptions::nothing_known(lens())
    };
    let attempt = shared::solve(&tracks, &options).unwrap();
    assert_eq!(attempt.frames.len(), FRAMES);
    assert_eq!(attempt.verdict, Verdict::NeedsALook);
    let said = attempt.doubts.iter().find_map(|d| match d {
        Doubt::Carried {
            first,
            last,
            frames,
            px,
        } => Some(((first.0 as usize, last.0 as usize, *frames), px.unwrap())),
        _ => None,
    });
    let (those, px) = said.unwrap();
    assert_eq!(those, (covered.start + 1, covered.end, covered.len()));
    // What is said of them is true, and the frames beside them are as good as without.
    let off_px = off_on(&attempt, &owners, &covered, &covered);
    assert!(off_px < 2.0 * px, "{off_px:.2} px off, {px:.2} px said");
    assert!(off_px > 0.2 * px, "{off_px:.2} px off, {px:.2} px said");
    let beside_px = off_on(&attempt, &owners, &(0..covered.start), &covered);
    assert!(beside_px < 0.6, "{beside_px:.2} px off beside them");
    // Solved again from there it is the same, and says the same.
    let again = solve_again(&tracks, &options, &attempt, &Silent).unwrap();
    assert_eq!(again.frames.len(), FRAMES);
    let is_carried =
        |d: &Doubt| matches!(d, Doubt::Carried { frames, .. } if *frames == covered.len());
    assert!(again.doubts.iter().any(is_carried), "{:?}", again.doubts);
    let again_px = off_on(&again, &owners, &(0..covered.start), &covered);
    assert!(
        (again_px - beside_px).abs() < 0.1,
        "{again_px:.2} and {beside_px:.2} px"
    );
}
