//! What is known besides what was seen: a focal length with its error, surveyed landmarks, a steady camera,
//! more terms of the lens, and the frames from which a solve starts.

use crate::shared;
use crate::walks::{FRAMES, Walk};
use nalgebra::{UnitQuaternion, Vector3};
use parallax_core::camera::{Intrinsics, Similarity};
use parallax_core::lens::{Distortion, Term};
use parallax_core::orient::Orientation;
use parallax_core::progress::Silent;
use parallax_core::solve::alongside::laid_on;
use parallax_core::solve::limit::limited;
use parallax_core::solve::smoothing::cost;
use parallax_core::solve::survey::NoHold;
use parallax_core::solve::{
    Attempt, Doubt, FocalKnowledge, LensTerms, SolveError, SolveOptions, Steady, Surveyed, Verdict,
    solve_again,
};
use parallax_core::spaces::{FrameNumber, PlatePx, TrackId, WorldPoint};
use rstest::rstest;

const SIGMA_M: f64 = 0.004;

fn walk() -> Walk {
    Walk::new(2, 1100.0, Distortion::NONE)
}

fn solved(walk: &Walk, change: impl FnOnce(&mut SolveOptions)) -> Result<Attempt, SolveError> {
    let mut options = walk.options(LensTerms::NONE);
    change(&mut options);
    shared::solve(&walk.tracks, &options)
}

/// What is known holds where the picture says little, and yields where it says more.
#[test]
fn a_stated_focal_length_pulls_as_much_as_it_is_certain() {
    let walk = walk();
    let free = solved(&walk, |_| ()).unwrap();
    let own_sigma = free.focal_sigma_px.unwrap();
    let about = |px: f64, sigma_px: f64| {
        solved(&walk, |o| o.focal = FocalKnowledge::About { px, sigma_px }).unwrap()
    };
    // As certain as the picture, four of its errors off: halfway between the two, and surer than either.
    let stated = free.lens.focal_px + 4.0 * own_sigma;
    let half = about(stated, own_sigma);
    let share = (half.lens.focal_px - free.lens.focal_px) / (4.0 * own_sigma);
    assert!((share - 0.5).abs() < 0.1, "{share:.2} of the way");
    let gain = half.focal_sigma_px.unwrap() / own_sigma;
    assert!(
        (gain - 0.5f64.sqrt()).abs() < 0.06,
        "{gain:.2} of its error"
    );
    let vague = about(1300.0, 200.0);
    assert!((vague.lens.focal_px - free.lens.focal_px).abs() < 0.2 * own_sigma);
    assert_eq!(vague.focal_solved, Some(true));
}

/// A world of another place, turn and size than the solve's own, and its surveyed points.
struct Set {
    walk: Walk,
    world: Similarity,
    survey: Vec<Surveyed>,
}

impl Set {
    fn new(points: usize) -> Self {
        let walk = walk();
        let world = Similarity {
            rotation: UnitQuaternion::from_euler_angles(0.3, 2.0, -0.1),
            translation: Vector3::new(100.0, -4.0, 30.0),
            scale: 1.7,
        };
        let mut random = fastrand::Rng::with_seed(77);
        let mut normal = || (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
        let long = walk.tracks.iter().filter(|t| t.samples.len() > 30);
        let survey = long
            .step_by(5)
            .take(points)
            .map(|t| {
                let place = world.point(&walk.points[t.id.0 as usize - 1]).0;
                let noisy = [place.x, place.y, place.z].map(|c| Some(c + SIGMA_M * normal()));
                Surveyed {
                    track: t.id,
                    at_m: noisy,
                    sigma_m: [SIGMA_M; 3],
                }
            })
            .collect();
        Self {
            walk,
            world,
            survey,
        }
    }

    fn solved(&self, survey: &[Surveyed]) -> Attempt {
        solved(&self.walk, |o| o.survey = survey.to_vec()).unwrap()
    }

    /// How far cameras are from where they stood, m, the worst.
    fn off_m(&self, attempt: &Attempt) -> f64 {
        let poses = attempt.frames.iter().zip(&self.walk.poses);
        poses
            .map(|(f, truth)| f.pose.centre().distance(self.world.pose(truth).centre()))
            .fold(0.0, f64::max)
    }
}

#[test]
fn surveyed_landmarks_hold_the_world() {
    let set = Set::new(8);
    let attempt = set.solved(&set.survey);
    assert_eq!(attempt.verdict, Verdict::Good, "{:?}", attempt.reasons());
    assert!(attempt.is_surveyed() && attempt.survey.len() == 8);
    let off_m = set.off_m(&attempt);
    assert!(off_m < 0.03, "cameras are off by {off_m:.3} m");
    // Errors are those of the survey's world: as far off as is said.
    let mut squares = Vec::new();
    for (frame, truth) in attempt.frames.iter().zip(&set.walk.poses) {
        let place = |pose: &parallax_core::camera::Pose| pose.camera_from_world.translation.vector;
        let truth = set.world.pose(truth);
        let turned =
            frame.pose.camera_from_world.rotation * truth.camera_from_world.rotation.inverse();
        // Turn and shift as a step of the adjustment has them, on the left.
        let off = place(&frame.pose) - place(&truth);
        let both =
            nalgebra::Vector6::from_iterator(turned.scaled_axis().iter().chain(&off).copied());
        let covariance = *frame.covariance.unwrap().matrix();
        squares.push(both.dot(&(covariance.try_inverse().unwrap() * both)) / 6.0);
    }
    let mean = squares.iter().sum::<f64>() / squares.len() as f64;
    assert!((0.3..3.0).contains(&mean), "{mean:.2} times what is said");
    let orientation = Orientation::of_attempt(&attempt);
    assert!(orientation.scaled && orientation.levelled);
    // What is solved again from there stays there.
    let options = SolveOptions {
        survey: set.survey.clone(),
        ..set.walk.options(LensTerms::NONE)
    };
    let again = solve_again(&set.walk.tracks, &options, &attempt, &Silent).unwrap();
    assert!(set.off_m(&again) < 0.03, "{:.3} m", set.off_m(&again));
}

#[test]
fn a_survey_that_contradicts_itself_says_which_point_does() {
    let set = Set::new(8);
    let mut survey = set.survey.clone();
    survey[3].at_m[0] = survey[3].at_m[0].map(|x| x + 0.6);
    let attempt = set.solved(&survey);
    let used = |m: &&parallax_core::solve::SurveyMiss| !m.used;
    let aside: Vec<TrackId> = attempt
        .survey
        .iter()
        .filter(used)
        .map(|m| m.track)
        .collect();
    assert_eq!(aside, [survey[3].track]);
    assert!(matches!(
        attempt.doubts[..],
        [Doubt::SurveyContradicted { points: 1, most_m }] if (most_m - 0.6).abs() < 0.05
    ));
    assert!(set.off_m(&attempt) < 0.03, "{:.3} m", set.off_m(&attempt));
}

/// A coordinate that was measured alone pulls, and none that was not.
#[test]
fn a_height_alone_takes_part() {
    let set = Set::new(7);
    let mut survey = set.survey.clone();
    for point in &mut survey[4..] {
        point.at_m = [None, point.at_m[1], None];
    }
    let attempt = set.solved(&survey);
    assert!(attempt.survey.iter().all(|m| m.used));
    for miss in &attempt.survey[4..] {
        assert!(miss.off_m[1].abs() < 0.03 && miss.off_m[1] != 0.0);
        assert_eq!((miss.off_m[0], miss.off_m[2]), (0.0, 0.0));
    }
}

#[rstest]
#[case::two(|s: &mut Vec<Surveyed>| s.truncate(2), NoHold::TooFew)]
#[case::heights(
    |s: &mut Vec<Surveyed>| s.iter_mut().for_each(|p| p.at_m = [None, p.at_m[1], None]),
    NoHold::TooFew
)]
#[case::on_a_line(
    |s: &mut Vec<Surveyed>| {
        let at = |k: usize| [Some(k as f64), Some(2.0 * k as f64), Some(0.5)];
        s.iter_mut().enumerate().for_each(|(k, p)| p.at_m = at(k));
    },
    NoHold::OnALine
)]
#[case::of_another_set(
    |s: &mut Vec<Surveyed>| {
        let mut random = fastrand::Rng::with_seed(4);
        s.iter_mut().for_each(|p| p.at_m = p.at_m.map(|_| Some(9.0 * random.f64())));
    },
    NoHold::NoAgreement
)]
fn a_survey_that_holds_nothing_says_why(
    #[case] change: fn(&mut Vec<Surveyed>),
    #[case] because: NoHold,
) {
    let set = Set::new(6);
    let mut survey = set.survey.clone();
    change(&mut survey);
    let attempt = set.solved(&survey);
    assert_eq!(attempt.survey_unused, Some(because));
    assert_eq!(attempt.doubts, [Doubt::SurveyUnused { because }]);
    let error_px = set.walk.error_px(&attempt);
    assert!(
        error_px < 0.3,
        "the camera is as without it: {error_px:.2} px"
    );
}

/// How much the speed of a path changes from frame to frame, root mean square.
fn unrest(attempt: &Attempt) -> (f64, f64) {
    let mean = |all: Vec<f64>| (all.iter().sum::<f64>() / all.len() as f64).sqrt();
    let poses: Vec<_> = attempt.frames.iter().map(|f| f.pose).collect();
    let place = |k: usize| poses[k].centre().0.coords;
    let turn = |k: usize| {
        let rotation = |k: usize| poses[k].camera_from_world.rotation;
        (rotation(k + 1) * rotation(k).inverse()).scaled_axis()
    };
    let inner = 1..poses.len() - 1;
    let places = inner
        .clone()
        .map(|k| (place(k + 1) - 2.0 * place(k) + place(k - 1)).norm_squared());
    let turns = inner.map(|k| (turn(k) - turn(k - 1)).norm_squared());
    (mean(places.collect()), mean(turns.collect()).to_degrees())
}

#[test]
fn a_steady_camera_is_smooth_and_says_what_that_costs() {
    let walk = walk();
    let free = solved(&walk, |_| ()).unwrap();
    let smoothed = |steady: Steady| solved(&walk, |o| o.steady = Some(steady)).unwrap();
    let (place, turn) = unrest(&free);
    let both = smoothed(Steady {
        place: Some(0.001 * place),
        turn_deg: Some(0.001 * turn),
    });
    let (calm_place, calm_turn) = unrest(&both);
    assert!(
        calm_place < 0.2 * place && calm_turn < 0.2 * turn,
        "{calm_place} of {place}, {calm_turn} of {turn}, {} px",
        both.rms_px
    );
    assert!(both.rms_px > 1.5 * free.rms_px, "{} px", both.rms_px);
    // A world does not shrink to be smoother.
    let reach = |a: &Attempt| {
        let centre = |k: usize| a.frames[k].pose.centre();
        centre(0).distance(centre(FRAMES as usize - 1))
    };
    assert!((reach(&both) / reach(&free) - 1.0).abs() < 0.05);
    // Where nothing is believed but what is so, nothing changes.
    let loose = smoothed(Steady {
        place: Some(10.0 * place),
        turn_deg: Some(10.0 * turn),
    });
    assert!((loose.rms_px / free.rms_px - 1.0).abs() < 0.01);
    assert_eq!(loose.steady.and_then(|s| s.turn_deg), Some(10.0 * turn));
}

/// Every term of the lens, from none to what it is.
#[test]
fn all_terms_of_the_lens_are_solved_along() {
    let mut random = fastrand::Rng::with_seed(12);
    let plain = Walk::new(6, 900.0, Distortion::NONE);
    let lens = Intrinsics {
        centre: PlatePx::new(652.0, 351.0),
        distortion: Distortion {
            k1: -0.12,
            k2: 0.05,
            k3: -0.02,
            p1: 0.002,
            p2: -0.003,
            ..Distortion::NONE
        },
        ..plain.lens
    };
    let mut draw = |low: f64, high: f64| low + (high - low) * random.f64();
    let points: Vec<WorldPoint> = (0..600)
        .map(|_| WorldPoint::new(draw(-7.0, 7.0), draw(-4.0, 4.5), draw(-9.0, 2.0)))
        .collect();
    let walk = Walk::of(lens, plain.poses, points, &mut random);
    let options = |terms: LensTerms| SolveOptions {
        solve_lens: terms,
        ..SolveOptions::nothing_known(Intrinsics::centred(1280, 720, 1.0))
    };
    let all = LensTerms {
        radial: 3,
        tangential: true,
        centre: true,
        ..LensTerms::NONE
    };
    let two = shared::solve(&walk.tracks, &options(LensTerms::TWO)).unwrap();
    let full = shared::solve(&walk.tracks, &options(all)).unwrap();
    let (before, after) = (walk.error_px(&two), walk.error_px(&full));
    assert!(
        after < 0.15 && after < 0.5 * before,
        "{before:.3} px became {after:.3} px"
    );
    assert!(full.rms_px < two.rms_px);
    let wanted = [
        Term::K1,
        Term::K2,
        Term::K3,
        Term::P1,
        Term::P2,
        Term::CentreX,
        Term::CentreY,
    ];
    let terms: Vec<Term> = full.lens_errors.iter().map(|e| e.0).collect();
    assert_eq!(terms, wanted);
    let (found, truth) = (&full.lens, &walk.lens);
    let off = [
        found.distortion.k1 - truth.distortion.k1,
        found.distortion.k2 - truth.distortion.k2,
        found.distortion.k3 - truth.distortion.k3,
        found.distortion.p1 - truth.distortion.p1,
        found.distortion.p2 - truth.distortion.p2,
        found.centre.x - truth.centre.x,
        found.centre.y - truth.centre.y,
    ];
    for (off, (term, sigma)) in off.iter().zip(&full.lens_errors) {
        assert!(
            off.abs() < 4.5 * sigma,
            "{term:?} is off by {off}, said {sigma}"
        );
    }
}

#[test]
fn a_solve_starts_where_it_is_told_to() {
    let walk = walk();
    let pair = (FrameNumber(9), FrameNumber(30));
    let attempt = solved(&walk, |o| o.start_from = Some(pair)).unwrap();
    assert_eq!(attempt.started_from, pair);
    assert!(walk.error_px(&attempt) < 0.3);
    let lost = solved(&walk, |o| {
        o.start_from = Some((FrameNumber(9), FrameNumber(99)))
    });
    assert!(matches!(lost, Err(SolveError::OutOfRange { value, .. }) if value == 99.0));
}

/// What another solve found saves the search, and nothing pulls towards it.
#[rstest]
#[case::too_short(0.8)]
#[case::right(1.0)]
#[case::too_long(1.25)]
fn a_solve_begins_with_a_focal_length_that_it_is_given(#[case] share: f64) {
    let walk = walk();
    let free = solved(&walk, |_| ()).unwrap();
    let begun = solved(&walk, |o| o.focal_to_begin_with = Some(share * 1100.0)).unwrap();
    let off = (begun.lens.focal_px - free.lens.focal_px) / free.focal_sigma_px.unwrap();
    assert!(
        off.abs() < 0.1,
        "{off} standard errors from where it comes to by itself"
    );
    assert_eq!(
        (begun.focal_solved, begun.verdict),
        (free.focal_solved, Verdict::Good)
    );
}

#[rstest]
#[case::focal_to_begin_with(|o: &mut SolveOptions| o.focal_to_begin_with = Some(f64::INFINITY))]
#[case::focal(|o: &mut SolveOptions| o.focal = FocalKnowledge::About { px: 1000.0, sigma_px: 0.0 })]
#[case::focal_nan(|o: &mut SolveOptions| o.focal = FocalKnowledge::About { px: 1000.0, sigma_px: f64::NAN })]
#[case::terms(|o: &mut SolveOptions| o.solve_lens.radial = 4)]
#[case::steady(|o: &mut SolveOptions| o.steady = Some(Steady { place: Some(0.0), turn_deg: None }))]
#[case::survey(|o: &mut SolveOptions| o.survey = vec![Surveyed {
    track: TrackId(1), at_m: [Some(f64::NAN); 3], sigma_m: [0.1; 3],
}])]
fn what_cannot_be_known_is_refused(#[case] change: fn(&mut SolveOptions)) {
    let refused = solved(&walk(), change);
    assert!(
        matches!(refused, Err(SolveError::OutOfRange { .. })),
        "{refused:?}"
    );
}

/// Two solves have worlds of their own; laid on each other, their cameras stand in the same places.
#[test]
fn attempts_are_laid_on_each_other() {
    let walk = walk();
    let one = solved(&walk, |_| ()).unwrap();
    let other = solved(&walk, |o| o.limit_px = Some(0.25)).unwrap();
    let moved = Similarity {
        rotation: UnitQuaternion::from_euler_angles(0.2, -1.0, 0.4),
        translation: Vector3::new(3.0, 1.0, -2.0),
        scale: 0.4,
    };
    let mut far = other.clone();
    for landmark in &mut far.landmarks {
        landmark.point = moved.point(&landmark.point);
    }
    for frame in &mut far.frames {
        frame.pose = moved.pose(&frame.pose);
    }
    let change = laid_on(&far, &one).unwrap();
    let off = far.frames.iter().zip(&one.frames).map(|(far, one)| {
        let there = change.pose(&far.pose);
        there.centre().distance(one.pose.centre())
    });
    let worst = off.fold(0.0, f64::max);
    assert!(worst < 0.02, "{worst} units of a path of 4");
}

/// What a limit would drop is what a solve with it drops, and where it starves is said.
#[test]
fn a_limit_is_foreseen() {
    let walk = walk();
    let attempt = solved(&walk, |_| ()).unwrap();
    let mut all: Vec<f64> = attempt.landmarks.iter().map(|l| l.rms_px).collect();
    all.sort_by(f64::total_cmp);
    let left = limited(&attempt, all[all.len() - 11]);
    assert_eq!((left.dropped, left.kept), (10, all.len() - 10));
    assert_eq!(left.starving, []);
    let few = limited(&attempt, all[5]);
    assert_eq!(few.starving, [(FrameNumber(1), FrameNumber(FRAMES))]);
    assert!(few.poorest.is_some_and(|(_, features)| features <= 6));
}

/// What smoothing is said to cost is what a solve with it costs; nothing is changed by asking.
#[test]
fn the_cost_of_smoothing_is_foreseen() {
    let walk = walk();
    let attempt = solved(&walk, |_| ()).unwrap();
    let (place, turn) = unrest(&attempt);
    let options = walk.options(LensTerms::NONE);
    let asked = |share: f64| Steady {
        place: Some(share * place),
        turn_deg: Some(share * turn),
    };
    let said = |share| cost(&walk.tracks, &options, &attempt, asked(share), &Silent).unwrap();
    let nothing = said(20.0);
    assert!((nothing.rms_px[0] - attempt.rms_px).abs() < 1e-3);
    assert!((nothing.rms_px[1] / nothing.rms_px[0] - 1.0).abs() < 0.02);
    assert!(nothing.shift.unwrap().1 < 0.05);
    let much = said(0.02);
    assert!(much.shift.unwrap().1 > 10.0 * nothing.shift.unwrap().1);
    let taken = solve_again(
        &walk.tracks,
        &SolveOptions {
            steady: Some(asked(0.02)),
            ..options.clone()
        },
        &attempt,
        &Silent,
    );
    let ratio = taken.unwrap().rms_px / much.rms_px[1];
    assert!((0.8..1.25).contains(&ratio), "{ratio:.2} of what is said");
}
