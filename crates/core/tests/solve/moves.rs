//! How the camera moved and whether it zoomed, found out by the solve: tracks of points that a camera
//! of known kind sees, without pictures.

use crate::moving::{Does, FOCAL_PX, FRAMES, Shot};
use crate::shared;
use nalgebra::Vector2;
use parallax_core::camera::Pose;
use parallax_core::lens::correct::solve_with_lens;
use parallax_core::lens::{Distortion, LensTerms, Term};
use parallax_core::progress::Silent;
use parallax_core::solve::locked::FAR;
use parallax_core::solve::{
    CameraMove, Candidates, Constraints, Doubt, FocalKnowledge, KnownLength, SolveError,
    SolveOptions, Verdict, solve_again,
};
use parallax_core::spaces::TrackId;
use parallax_core::tracks::Covariance;
use rstest::rstest;
use std::collections::HashSet;

#[rstest]
#[case::walk(Does::Walk, 1.0, CameraMove::Free)]
#[case::walk_zooming_in(Does::Walk, 1.4, CameraMove::Free)]
#[case::walk_zooming_out(Does::Walk, 0.8, CameraMove::Free)]
#[case::rest_then_walk(Does::Start, 1.0, CameraMove::Free)]
#[case::turn(Does::Turn(30.0), 1.0, CameraMove::Nodal)]
#[case::wide_turn(Does::Turn(70.0), 1.0, CameraMove::Nodal)]
#[case::turn_zooming_in(Does::Turn(40.0), 1.25, CameraMove::Nodal)]
#[case::turn_zooming_out(Does::Turn(40.0), 0.7, CameraMove::Nodal)]
fn the_move_and_the_zoom_are_found(
    #[case] does: Does,
    #[case] zoom: f64,
    #[case] moves: CameraMove,
) {
    let shot = Shot::new(does, zoom);
    let attempt = shot.solved();
    assert_eq!((attempt.moves, attempt.zooms()), (moves, zoom != 1.0));
    assert_eq!(attempt.verdict, Verdict::Good, "{:?}", attempt.doubts);
    assert_eq!(attempt.frames.len(), FRAMES);
    let (focal, off_px) = (shot.worst_focal(&attempt), shot.off_px(&attempt));
    assert!(
        focal < 0.007,
        "a focal length is off by {:.2} %",
        100.0 * focal
    );
    assert!(off_px < 0.3, "landmarks are {off_px:.2} px off");
    // Solved again from where it stands it is the same kind of camera, no worse.
    let again = solve_again(&shot.tracks, &shot.options(), &attempt, &Silent).unwrap();
    assert_eq!(
        (again.moves, again.zooms()),
        (attempt.moves, attempt.zooms())
    );
    assert!(shot.off_px(&again) < 0.3);
}

#[test]
fn a_turning_camera_has_directions_and_no_false_depths() {
    let attempt = Shot::new(Does::Turn(40.0), 1.0).solved();
    let centres = attempt
        .frames
        .iter()
        .map(|f| f.pose.centre().0.coords.norm());
    assert_eq!(centres.fold(0.0, f64::max), 0.0);
    for landmark in &attempt.landmarks {
        assert!((landmark.point.0.coords.norm() - FAR).abs() < 1e-9);
        assert_eq!(landmark.covariance, None, "how far it is nobody knows");
        assert_eq!(landmark.parallax_deg, 0.0);
    }
}

/// A camera that rests shows no focal length: it has to be stated, and then is kept.
#[test]
fn a_camera_that_rests_needs_its_focal_length() {
    let shot = Shot::new(Does::Rest, 1.0);
    let refused = shared::solve(&shot.tracks, &shot.options()).unwrap_err();
    assert!(
        matches!(refused, SolveError::LockedWithoutFocal { .. }),
        "{refused}"
    );
    let stated = SolveOptions {
        focal: FocalKnowledge::Known(FOCAL_PX),
        ..shot.options()
    };
    let attempt = shared::solve(&shot.tracks, &stated).unwrap();
    assert_eq!(attempt.moves, CameraMove::Locked);
    assert_eq!(attempt.verdict, Verdict::Good, "{:?}", attempt.doubts);
    assert!(shot.off_px(&attempt) < 0.1);
    assert!(attempt.frames.iter().all(|f| f.pose == Pose::identity()));
    let again = solve_again(&shot.tracks, &stated, &attempt, &Silent).unwrap();
    assert_eq!(again, attempt);
}

/// A camera that creeps by less than a px over the shot hardly moves, and yet is not called good at rest.
#[rstest]
#[case::still(0.0, Verdict::Good)]
#[case::creeping(1.0, Verdict::NeedsALook)]
fn a_creeping_camera_is_not_good_at_rest(#[case] creeps: f64, #[case] verdict: Verdict) {
    let mut shot = Shot::new(Does::Rest, 1.0);
    for s in shot.tracks.iter_mut().flat_map(|t| &mut t.samples) {
        let share = creeps * f64::from(s.frame.0) / FRAMES as f64;
        s.px = s.px.moved(Vector2::new(0.65, 0.3) * share);
        s.covariance = Covariance::isotropic(0.05);
    }
    let stated = SolveOptions {
        focal: FocalKnowledge::Known(FOCAL_PX),
        ..shot.options()
    };
    let attempt = shared::solve(&shot.tracks, &stated).unwrap();
    assert_eq!(attempt.moves, CameraMove::Locked);
    assert_eq!(attempt.verdict, verdict, "{:?}", attempt.doubts);
}

/// What moves by itself before a camera that rests takes no part.
#[test]
fn what_moves_before_a_resting_camera_is_set_aside() {
    let mut shot = Shot::new(Does::Rest, 1.0);
    for track in shot.tracks.iter_mut().take(20) {
        for s in &mut track.samples {
            s.px = s.px.moved(Vector2::new(0.7, 0.2) * f64::from(s.frame.0));
        }
    }
    let stated = SolveOptions {
        focal: FocalKnowledge::Known(FOCAL_PX),
        ..shot.options()
    };
    let attempt = shared::solve(&shot.tracks, &stated).unwrap();
    let moving: HashSet<TrackId> = shot.tracks.iter().take(20).map(|t| t.id).collect();
    let aside: HashSet<TrackId> = attempt.set_aside.iter().map(|(id, _)| *id).collect();
    assert_eq!(aside, moving);
}

/// What is stated holds, and a statement that is wrong is never called good.
#[rstest]
#[case::a_turn_is_no_walk(Does::Turn(40.0), 1.0, Some(CameraMove::Free), None)]
#[case::a_walk_is_no_turn(Does::Walk, 1.0, Some(CameraMove::Nodal), None)]
#[case::a_walk_is_no_rest(Does::Walk, 1.0, Some(CameraMove::Locked), None)]
#[case::a_zoom_does_not_stay(Does::Walk, 1.4, None, Some(false))]
#[case::a_turning_zoom_does_not_stay(Does::Turn(40.0), 1.25, None, Some(false))]
#[case::a_rest_is_no_walk(Does::Rest, 1.0, Some(CameraMove::Free), None)]
fn a_wrong_statement_is_never_good(
    #[case] does: Does,
    #[case] zoom: f64,
    #[case] moves: Option<CameraMove>,
    #[case] zooms: Option<bool>,
) {
    let shot = Shot::new(does, zoom);
    let stated = SolveOptions {
        moves,
        zooms,
        ..shot.options()
    };
    match shared::solve(&shot.tracks, &stated) {
        Ok(attempt) => {
            assert_eq!(attempt.verdict, Verdict::NeedsALook);
            assert!(moves.is_none_or(|m| m == attempt.moves));
            assert!(zooms.is_none_or(|z| z == attempt.zooms()));
        }
        Err(refused) => assert!(!refused.to_string().is_empty()),
    }
}

/// A focal length that the picture contradicts is never called good, and what it speaks for instead is said.
#[rstest]
#[case::exact(None)]
#[case::about(Some(4.0))]
fn a_focal_length_against_the_picture_is_contradicted(
    #[case] sigma_px: Option<f64>,
    #[values(Does::Walk, Does::Turn(40.0))] does: Does,
    #[values(0.8, 0.96, 1.03)] wrong: f64,
) {
    let shot = Shot::new(does, 1.0);
    let px = wrong * FOCAL_PX;
    let options = SolveOptions {
        focal: match sigma_px {
            None => FocalKnowledge::Known(px),
            Some(sigma_px) => FocalKnowledge::About { px, sigma_px },
        },
        ..shot.options()
    };
    let attempt = match shared::solve(&shot.tracks, &options) {
        Ok(attempt) => attempt,
        Err(refused) => {
            assert!((wrong - 1.0).abs() > 0.1, "{refused}");
            return;
        }
    };
    assert_eq!(attempt.verdict, Verdict::NeedsALook);
    let said = attempt.doubts.iter().find_map(|d| match d {
        Doubt::FocalContradicted { percent, .. } => Some(*percent),
        _ => None,
    });
    let said = said.unwrap_or_else(|| panic!("{:?}", attempt.doubts));
    let true_percent = 100.0 * (1.0 / wrong - 1.0);
    assert!(
        (0.8..1.2).contains(&(said / true_percent)),
        "{said:.2} for {true_percent:.2}"
    );
}

/// A zoom that is said not to be one is named, with what mends it: it was tried.
#[test]
fn a_zoom_that_was_ruled_out_is_named() {
    let shot = Shot::new(Does::Walk, 1.15);
    let stays = SolveOptions {
        zooms: Some(false),
        ..shot.options()
    };
    let attempt = shared::solve(&shot.tracks, &stays).unwrap();
    let found = attempt.doubts.iter().find_map(|d| match d {
        Doubt::FocalChanges { rms_px, .. } => Some(*rms_px),
        _ => None,
    });
    let [fixed, freed] = found.unwrap_or_else(|| panic!("{:?}", attempt.doubts));
    let zooming = SolveOptions {
        zooms: Some(true),
        ..shot.options()
    };
    let mended = shared::solve(&shot.tracks, &zooming).unwrap();
    assert!(freed < 0.8 * fixed, "{freed} of {fixed}");
    assert!(
        mended.rms_px < 1.1 * freed,
        "the mend does what was said of it"
    );
    assert_eq!(mended.verdict, Verdict::Good);
}

/// Saying that a focal length zooms where it stays costs little.
#[rstest]
fn a_focal_length_that_stays_may_be_said_to_change(
    #[values(Does::Walk, Does::Turn(40.0))] does: Does,
) {
    let shot = Shot::new(does, 1.0);
    let zooming = SolveOptions {
        zooms: Some(true),
        ..shot.options()
    };
    let attempt = shared::solve(&shot.tracks, &zooming).unwrap();
    assert!(attempt.zooms());
    assert!(shot.worst_focal(&attempt) < 0.007);
    assert!(shot.off_px(&attempt) < 0.3);
    let stated = attempt.frames.iter().map(|f| f.focal_sigma_px.unwrap());
    assert!(stated.clone().all(|s| s > 0.0 && s < 0.01 * FOCAL_PX));
}

/// Terms of a lens that is known hold at every focal length of a zoom.
#[test]
fn a_zoom_through_a_known_lens_keeps_its_terms() {
    let distortion = Distortion::radial(-0.08, 0.01);
    let shot = Shot::through(Does::Walk, 1.3, distortion);
    let nobody = HashSet::new();
    let candidates = Candidates {
        tracks: &shot.tracks,
        suspected: &nobody,
    };
    let attempt = solve_with_lens(
        candidates,
        &shot.options(),
        &shot.lens,
        None,
        &Silent,
        &Silent,
    )
    .unwrap();
    assert!(attempt.zooms());
    assert_eq!(attempt.lens.distortion, distortion);
    assert!(shot.worst_focal(&attempt) < 0.007);
    assert!(shot.off_px(&attempt) < 0.3);
}

/// A lens whose first term follows the zoom is solved along, with its error, and holds from there on.
#[rstest]
#[case::walk(Does::Walk, 1.4)]
#[case::turn(Does::Turn(40.0), 1.3)]
fn a_lens_that_follows_the_zoom_is_solved_along(#[case] does: Does, #[case] zoom: f64) {
    let distortion = Distortion {
        k1_by_zoom: 0.4,
        ..Distortion::radial(-0.15, 0.03)
    };
    let shot = Shot::through(does, zoom, distortion);
    let along = SolveOptions {
        solve_lens: LensTerms::TWO,
        ..shot.options()
    };
    let attempt = shared::solve(&shot.tracks, &along).unwrap();
    assert!(attempt.zooms());
    let (off_px, focal) = (shot.off_px(&attempt), shot.worst_focal(&attempt));
    assert!(off_px < 0.5 && focal < 0.007, "{off_px:.2} px, {focal:.4}");
    let terms = attempt.lens_errors.iter();
    let by_zoom = terms.filter(|(term, _)| *term == Term::K1ByZoom);
    let [sigma] = by_zoom.map(|(_, sigma)| *sigma).collect::<Vec<_>>()[..] else {
        panic!("{:?}", attempt.lens_errors);
    };
    let off = attempt.lens.distortion.k1_by_zoom - 0.4;
    assert!(
        off.abs() < 4.0 * sigma && sigma < 0.1,
        "{off:.3} of {sigma:.3}"
    );
    let again = solve_again(&shot.tracks, &along, &attempt, &Silent).unwrap();
    assert!(shot.off_px(&again) < 0.5);
    // Said not to zoom, it has nothing to follow.
    let stays = SolveOptions {
        zooms: Some(false),
        ..along
    };
    let stays = solve_again(&shot.tracks, &stays, &attempt, &Silent).unwrap();
    assert_eq!(stays.lens.distortion.k1_by_zoom, 0.0);
}

/// Directions are no places: what is known of lengths between them holds nothing, and that is said.
#[test]
fn lengths_before_a_turning_camera_hold_nothing() {
    let shot = Shot::new(Does::Turn(40.0), 1.0);
    let length = KnownLength {
        between: [shot.tracks[3].id, shot.tracks[40].id],
        length_m: 2.0,
        sigma_m: 0.01,
    };
    let options = SolveOptions {
        constraints: Constraints {
            lengths: vec![length],
            planes: Vec::new(),
        },
        ..shot.options()
    };
    let attempt = shared::solve(&shot.tracks, &options).unwrap();
    let unused = Doubt::ConstraintsUnused { contradict: false };
    assert_eq!(attempt.doubts, [unused]);
    assert!(attempt.constraints.is_empty() && shot.off_px(&attempt) < 0.3);
}
