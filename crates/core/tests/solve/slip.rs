//! Forecast slip against the true slip of solves of which the truth is known, and advice against what it does.

use crate::shared;
use crate::walks::{NOISE_PX, Walk, is_inside};
use nalgebra::{Vector2, Vector3};
use parallax_core::camera::{Eye, Similarity};
use parallax_core::lens::{Distortion, LensTerms};
use parallax_core::slip::advice::Candidate;
use parallax_core::slip::{Joint, NoForecast, advice, field, forecast};
use parallax_core::solve::bundle::{Loss, Motion};
use parallax_core::solve::information::{Information, SolvedShot};
use parallax_core::solve::triangulate::{Sighting, triangulate};
use parallax_core::solve::views::Seen;
use parallax_core::solve::{Attempt, FocalKnowledge, SolveOptions};
use parallax_core::spaces::{FrameNumber, TrackId, WorldPoint};
use parallax_core::statistics::median;
use parallax_core::tracks::{Covariance, Sample, Track, TrackKind};
use rstest::rstest;

/// From the solved world to the true one, by the cameras.
fn to_true(attempt: &Attempt, walk: &Walk) -> Similarity {
    let pairs = attempt.frames.iter();
    let pairs = pairs.map(|f| (walk.poses[f.frame.0 as usize - 1], f.pose));
    let (truth, solved): (Vec<WorldPoint>, Vec<WorldPoint>) =
        pairs.map(|(t, s)| (t.centre(), s.centre())).unzip();
    Similarity::fitting(&solved, &truth).unwrap()
}

/// How far CG at a place of the solved world is drawn off the place of the true one that it follows best: by frame, px.
fn true_slip(attempt: &Attempt, walk: &Walk, place: &Vector3<f64>) -> Vec<(FrameNumber, f64)> {
    let drawn = attempt.frames.iter().filter_map(|f| {
        let lens = attempt.lens_at(f);
        let px = lens.project(&f.pose, &WorldPoint((*place).into()))?;
        let pose = walk.poses[f.frame.0 as usize - 1];
        let lens_there = walk.lens;
        let eye = Eye {
            lens: lens_there,
            pose,
        };
        let seen = Seen {
            frame: f.frame.0 as usize,
            px,
            whitening: [1.0, 0.0, 1.0],
        };
        lens.holds(px).then_some(Sighting { eye, seen })
    });
    let drawn: Vec<Sighting> = drawn.collect();
    let still = triangulate(Motion::Free, &drawn, Loss::Squares, 1e3)
        .unwrap()
        .point;
    let off = |s: &Sighting| {
        let px = s
            .eye
            .lens
            .project(&s.eye.pose, &WorldPoint(still.into()))
            .unwrap();
        (FrameNumber(s.seen.frame as i32), px.distance_px(s.seen.px))
    };
    drawn.iter().map(off).collect()
}

fn joint(attempt: &Attempt, walk: &Walk) -> Joint {
    let shot = SolvedShot::of_attempt(attempt, None);
    Joint::of(&Information::of(&shot, &walk.tracks).unwrap()).unwrap()
}

/// Places all over the set, on landmarks and before them.
fn places(attempt: &Attempt) -> Vec<Vector3<f64>> {
    let centre = attempt.frames[20].pose.centre().0.coords;
    let some = attempt.landmarks.iter().step_by(17);
    some.flat_map(|l| [l.point.0.coords, centre + (l.point.0.coords - centre) * 0.7])
        .collect()
}

/// Half the variance of positions is that of the reference, which is common to all positions of a track.
fn followed_from_references(walk: &mut Walk, seed: u64) {
    let mut random = fastrand::Rng::with_seed(seed);
    let half = 0.5f64.sqrt();
    for track in &mut walk.tracks {
        let mut normal = || (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
        let common = Vector2::new(normal(), normal()) * (half * NOISE_PX);
        let place = walk.points[track.id.0 as usize - 1];
        for sample in &mut track.samples {
            let pose = &walk.poses[sample.frame.0 as usize - 1];
            let truth = walk.lens.project(pose, &place).unwrap();
            sample.px = truth.moved(sample.px.offset_from(truth) * half + common);
        }
    }
}

/// Over draws of the noise, places and frames true slip is as large as is forecast.
#[rstest]
#[case::focal(LensTerms::NONE, Distortion::NONE, false)]
#[case::lens(LensTerms::TWO, Distortion::radial(-0.1, 0.02), false)]
#[case::references(LensTerms::NONE, Distortion::NONE, true)]
fn slip_is_as_large_as_is_forecast(
    #[case] terms: LensTerms,
    #[case] bends: Distortion,
    #[case] from_references: bool,
) {
    let (mut ratios, mut squares) = (Vec::new(), Vec::new());
    for seed in 0..6 {
        let mut walk = Walk::new(20 + seed, 1100.0, bends);
        if from_references {
            followed_from_references(&mut walk, seed);
        }
        let attempt = shared::solve(&walk.tracks, &walk.options(terms)).unwrap();
        let joint = joint(&attempt, &walk);
        for place in places(&attempt) {
            let Ok(slip) = forecast(&joint, &place) else {
                continue;
            };
            let truth = true_slip(&attempt, &walk, &place);
            assert_eq!(truth.len(), slip.frames.len());
            let rms = |of: &[f64]| (of.iter().map(|v| v * v).sum::<f64>() / of.len() as f64).sqrt();
            let off: Vec<f64> = truth.iter().map(|t| t.1).collect();
            ratios.push(rms(&off) / slip.rms_px);
            squares.extend(
                truth
                    .iter()
                    .zip(&slip.frames)
                    .map(|(t, f)| (t.1 / f.2).powi(2)),
            );
        }
    }
    let honest = (squares.iter().sum::<f64>() / squares.len() as f64).sqrt();
    let usual = median(&mut ratios).unwrap();
    assert!(
        (0.8..1.25).contains(&honest),
        "{honest} over places and frames"
    );
    assert!(
        (0.8..1.25).contains(&usual),
        "{usual} in the median of places"
    );
}

/// What is said that a track would do is what it does, once it is added and the shot is solved again.
#[test]
fn advice_does_what_it_says() {
    let walk = Walk::new(31, 1100.0, Distortion::NONE);
    // Few features, and none where the place is: each counts.
    let is_left = |t: &Track| walk.points[t.id.0 as usize - 1].0.x < 0.0;
    let left = walk.tracks.iter().filter(|t| is_left(t)).step_by(3);
    let few: Vec<Track> = left.cloned().collect();
    let mut walk = Walk {
        tracks: few,
        ..walk
    };
    let options = walk.options(LensTerms::NONE);
    let attempt = shared::solve(&walk.tracks, &options).unwrap();
    let before = joint(&attempt, &walk);
    let true_place = WorldPoint::new(2.2, 0.3, -1.0);
    let to_solved = |attempt: &Attempt, walk: &Walk| {
        let change = to_true(attempt, walk);
        let back = (true_place.0.coords - change.translation) / change.scale;
        change.rotation.inverse() * back
    };
    let place = to_solved(&attempt, &walk);
    let said = advice(&before, &place);
    assert!(!said.is_empty());
    for advice in said {
        let mut options: SolveOptions = options.clone();
        let tracks = walk.tracks.len();
        match advice.candidate {
            Candidate::Track(from, to) => walk.tracks.push(seen(&walk, &true_place, from, to)),
            Candidate::Focal(share) => {
                let px = walk.lens.focal_px;
                options.focal = FocalKnowledge::About {
                    px,
                    sigma_px: share * px,
                };
            }
            Candidate::Lens(_) => unreachable!("no lens is solved"),
        }
        let again = shared::solve(&walk.tracks, &options).unwrap();
        let about = match options.focal {
            FocalKnowledge::About { px, sigma_px } => Some((px, sigma_px)),
            _ => None,
        };
        let shot = SolvedShot::of_attempt(&again, about);
        let after = Joint::of(&Information::of(&shot, &walk.tracks).unwrap()).unwrap();
        let measured = forecast(&after, &to_solved(&again, &walk)).unwrap().rms_px;
        let ratio = measured / advice.after_px;
        assert!(
            (0.8..1.25).contains(&ratio),
            "{:?}: {measured} of {}",
            advice.candidate,
            advice.after_px
        );
        assert!(measured < advice.before_px, "{advice:?}");
        walk.tracks.truncate(tracks);
    }
}

/// A track of a place with the usual noise.
fn seen(walk: &Walk, place: &WorldPoint, from: FrameNumber, to: FrameNumber) -> Track {
    let mut random = fastrand::Rng::with_seed(77);
    let mut normal = || (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
    let samples = (from.0..=to.0).filter_map(|frame| {
        let pose = &walk.poses[frame as usize - 1];
        let px = walk.lens.project(pose, place).filter(|px| is_inside(*px))?;
        Some(Sample {
            frame: FrameNumber(frame),
            px: px.moved(Vector2::new(normal(), normal()) * NOISE_PX),
            covariance: Covariance::isotropic(NOISE_PX),
        })
    });
    Track::new(TrackId(900_000), TrackKind::Hand, samples.collect())
}

/// Over the picture, with less slip where features are than in a corner without them; none where nothing is seen.
#[test]
fn a_field_covers_the_picture() {
    let walk = Walk::new(5, 1100.0, Distortion::NONE);
    let attempt = shared::solve(&walk.tracks, &walk.options(LensTerms::NONE)).unwrap();
    let joint = joint(&attempt, &walk);
    let field = field(&joint, FrameNumber(20), 8.0, [8, 5]).unwrap();
    assert_eq!(field.px.len(), 40);
    assert!(
        field.px.iter().flatten().all(|px| (1e-4..2.0).contains(px)),
        "{:?}",
        field.px
    );
    assert!(unsolved_frame(&joint).is_none());
    let behind = attempt.frames[0].pose.centre().0.coords + Vector3::new(0.0, 0.0, 50.0);
    assert_eq!(
        forecast(&joint, &behind).unwrap_err(),
        NoForecast::HardlySeen(0)
    );
    assert!(advice(&joint, &behind).is_empty());
}

fn unsolved_frame(joint: &Joint) -> Option<parallax_core::slip::Field> {
    field(joint, FrameNumber(4000), 8.0, [8, 5])
}
