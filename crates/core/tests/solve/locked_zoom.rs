//! Zooms whose focal length is known on the first frame: of a camera that rests, which shows none by itself, and of
//! those that turn or travel, which may contradict what is stated.

use crate::moving::{Does, FOCAL_PX, FRAMES, Shot};
use crate::shared;
use nalgebra::Vector2;
use parallax_core::camera::Pose;
use parallax_core::progress::Silent;
use parallax_core::solve::{
    Attempt, CameraMove, Candidates, Doubt, FocalKnowledge, SolveError, SolveOptions, Verdict,
    solve_again, solve_scene,
};
use parallax_core::spaces::TrackId;
use parallax_core::tracks::Track;
use rstest::rstest;
use std::collections::HashSet;

/// As good as exact.
const EXACT_PX: f64 = 0.1;

fn at_first(shot: &Shot, px: f64, sigma_px: f64) -> SolveOptions {
    SolveOptions {
        focal: FocalKnowledge::AtFirst { px, sigma_px },
        ..shot.options()
    }
}

/// Whatever else is stated of it, it is found to rest, and all its focal lengths follow from the first.
#[rstest]
fn a_locked_off_zoom_follows_from_its_first_focal_length(
    #[values(1.4, 0.7, 1.02)] zoom: f64,
    #[values(None, Some(CameraMove::Locked))] moves: Option<CameraMove>,
    #[values(None, Some(true))] zooms: Option<bool>,
) {
    let shot = Shot::new(Does::Rest, zoom);
    let options = SolveOptions {
        moves,
        zooms,
        ..at_first(&shot, FOCAL_PX, EXACT_PX)
    };
    let attempt = shared::solve(&shot.tracks, &options).unwrap();
    assert_eq!((attempt.moves, attempt.zooms()), (CameraMove::Locked, true));
    assert_eq!(attempt.verdict, Verdict::Good, "{:?}", attempt.doubts);
    assert_eq!(attempt.frames.len(), FRAMES);
    assert!(attempt.frames.iter().all(|f| f.pose == Pose::identity()));
    let (focal, off_px) = (shot.worst_focal(&attempt), shot.off_px(&attempt));
    assert!(focal < 0.0005 && off_px < 0.1, "{focal:.5}, {off_px:.3} px");
    let again = solve_again(&shot.tracks, &options, &attempt, &Silent).unwrap();
    assert_eq!((again.moves, again.verdict), (attempt.moves, Verdict::Good));
    assert!(shot.worst_focal(&again) < 0.0005);
}

/// What is stated with an error is off by as much all along, and said to be.
#[rstest]
#[case::vague(0.03, Verdict::NeedsALook)]
#[case::close(0.01, Verdict::Good)]
fn an_error_of_the_first_focal_length_is_one_of_all(#[case] share: f64, #[case] verdict: Verdict) {
    let shot = Shot::new(Does::Rest, 1.4);
    let options = at_first(&shot, FOCAL_PX * (1.0 + share), share * FOCAL_PX);
    let attempt = shared::solve(&shot.tracks, &options).unwrap();
    assert_eq!(
        (attempt.moves, attempt.verdict),
        (CameraMove::Locked, verdict)
    );
    for frame in &attempt.frames {
        let said = frame.focal_sigma_px.unwrap() / frame.focal_px.unwrap();
        assert!((0.9..1.3).contains(&(said / share)), "{said:.4} of {share}");
    }
    let off = shot.worst_focal(&attempt) / share;
    assert!((0.9..1.1).contains(&off), "{off:.2}");
}

/// Nobody can tell it without: that is said, and what the picture does, instead of a camera that travels.
#[rstest]
fn a_locked_off_zoom_needs_a_focal_length(
    #[values(None, Some(CameraMove::Locked))] moves: Option<CameraMove>,
    #[values(None, Some(true))] zooms: Option<bool>,
) {
    let shot = Shot::new(Does::Rest, 1.4);
    let options = SolveOptions {
        moves,
        zooms,
        ..shot.options()
    };
    let refused = shared::solve(&shot.tracks, &options).unwrap_err();
    let SolveError::LockedZoomWithoutFocal { factor } = refused else {
        panic!("{refused}");
    };
    assert!((factor / 1.4 - 1.0).abs() < 0.01, "{factor}");
}

/// What moves before it and was set aside for that is not taken for the scene instead.
#[test]
fn what_moves_before_a_locked_off_zoom_is_no_camera_instead() {
    let shot = Shot::new(Does::Rest, 1.4);
    let moving = Shot::new(Does::Walk, 1.0);
    let others = moving.tracks.into_iter().map(|t| Track {
        id: TrackId(t.id.0 + 10_000),
        ..t
    });
    let tracks: Vec<Track> = shot.tracks.iter().cloned().chain(others).collect();
    let ids = tracks.iter().map(|t| t.id);
    let suspected: HashSet<TrackId> = ids.filter(|id| id.0 >= 10_000).collect();
    let candidates = Candidates {
        tracks: &tracks,
        suspected: &suspected,
    };
    let refused = solve_scene(candidates, &shot.options(), &Silent, &Silent).unwrap_err();
    assert!(refused.is_of_a_locked_zoom(), "{refused}");
}

#[test]
fn a_locked_off_zoom_is_no_rest_with_a_focal_length_that_stays() {
    let shot = Shot::new(Does::Rest, 1.4);
    let options = SolveOptions {
        moves: Some(CameraMove::Locked),
        focal: FocalKnowledge::Known(FOCAL_PX),
        ..shot.options()
    };
    let refused = shared::solve(&shot.tracks, &options).unwrap_err();
    assert!(
        matches!(refused, SolveError::LockedButZooms { .. }),
        "{refused}"
    );
}

/// What is stated rules it out, and a wall that the camera goes at fits as well: never good, solved again neither.
#[rstest]
#[case::a_focal_length_that_stays(FocalKnowledge::Known(FOCAL_PX), None, None)]
#[case::a_travel(FocalKnowledge::Known(FOCAL_PX), Some(CameraMove::Free), None)]
#[case::no_zoom(FocalKnowledge::Unknown, None, Some(false))]
#[case::a_turn(FocalKnowledge::Unknown, Some(CameraMove::Nodal), Some(true))]
fn a_locked_off_zoom_that_is_ruled_out_is_never_good(
    #[case] focal: FocalKnowledge,
    #[case] moves: Option<CameraMove>,
    #[case] zooms: Option<bool>,
    #[values(0.7, 1.1)] zoom: f64,
) {
    let shot = Shot::new(Does::Rest, zoom);
    let options = SolveOptions {
        focal,
        moves,
        zooms,
        ..shot.options()
    };
    let is_said = |attempt: &Attempt| {
        let mut doubts = attempt.doubts.iter();
        let said = doubts.find_map(|d| match d {
            Doubt::MayRestAndZoom { factor } => Some(*factor),
            _ => None,
        });
        said.is_some_and(|factor| (factor / zoom - 1.0).abs() < 0.01)
    };
    match shared::solve(&shot.tracks, &options) {
        Ok(attempt) => {
            assert_eq!(attempt.verdict, Verdict::NeedsALook, "{}", attempt.rms_px);
            assert!(is_said(&attempt), "{:?}", attempt.doubts);
            let again = solve_again(&shot.tracks, &options, &attempt, &Silent).unwrap();
            assert_eq!(again.verdict, Verdict::NeedsALook, "{}", again.rms_px);
            assert!(is_said(&again), "{:?}", again.doubts);
        }
        Err(refused) => assert_eq!(focal, FocalKnowledge::Unknown, "{refused}"),
    }
}

/// What moves by itself before it takes no part.
#[test]
fn what_moves_before_a_locked_off_zoom_is_set_aside() {
    let mut shot = Shot::new(Does::Rest, 1.4);
    let long: Vec<usize> = (0..shot.tracks.len())
        .filter(|t| shot.tracks[*t].samples.len() == FRAMES)
        .take(20)
        .collect();
    let mut moving = HashSet::<TrackId>::new();
    for track in long {
        let track = &mut shot.tracks[track];
        moving.insert(track.id);
        for s in &mut track.samples {
            s.px = s.px.moved(Vector2::new(0.9, 0.4) * f64::from(s.frame.0));
        }
    }
    let options = at_first(&shot, FOCAL_PX, EXACT_PX);
    let attempt = shared::solve(&shot.tracks, &options).unwrap();
    assert_eq!(attempt.moves, CameraMove::Locked);
    assert!(shot.worst_focal(&attempt) < 0.001);
    let aside: HashSet<TrackId> = attempt.set_aside.iter().map(|(id, _)| *id).collect();
    assert_eq!(aside, moving);
}

/// One that turns or travels shows its focal lengths by itself, and what is stated of the first agrees.
#[rstest]
#[case::turn(Does::Turn(40.0), 0.7, CameraMove::Nodal)]
#[case::walk(Does::Walk, 1.4, CameraMove::Free)]
fn what_is_stated_of_the_first_frame_holds_in_any_zoom(
    #[case] does: Does,
    #[case] zoom: f64,
    #[case] moves: CameraMove,
    #[values(EXACT_PX, 30.0)] sigma_px: f64,
) {
    let shot = Shot::new(does, zoom);
    let options = at_first(&shot, FOCAL_PX, sigma_px);
    let attempt = shared::solve(&shot.tracks, &options).unwrap();
    assert_eq!((attempt.moves, attempt.zooms()), (moves, true));
    assert_eq!(attempt.verdict, Verdict::Good, "{:?}", attempt.doubts);
    let first = attempt.frames[0].focal_px.unwrap() - FOCAL_PX;
    assert!(first.abs() < 3.0 * sigma_px, "{first:.2} px");
    assert!(shot.worst_focal(&attempt) < 0.007);
    assert!(shot.off_px(&attempt) < 0.3);
}

/// A focal length of the first frame that the picture contradicts is never called good.
#[rstest]
#[case::turn_by_far(Does::Turn(40.0), 0.7, 1.3)]
#[case::turn(Does::Turn(40.0), 0.7, 1.04)]
#[case::walk_by_far(Does::Walk, 1.4, 0.8)]
#[case::walk(Does::Walk, 1.4, 0.95)]
#[case::walk_that_does_not_zoom(Does::Walk, 1.0, 1.04)]
fn a_first_focal_length_against_the_picture_is_never_good(
    #[case] does: Does,
    #[case] zoom: f64,
    #[case] wrong: f64,
) {
    let shot = Shot::new(does, zoom);
    let options = at_first(&shot, wrong * FOCAL_PX, EXACT_PX);
    match shared::solve(&shot.tracks, &options) {
        Ok(attempt) => {
            assert!(attempt.zooms(), "as is stated");
            assert_eq!(attempt.verdict, Verdict::NeedsALook, "{}", attempt.rms_px);
            let is_said = |d: &Doubt| match d {
                Doubt::FocalContradicted { percent, .. } => (*percent > 0.0) == (wrong < 1.0),
                _ => false,
            };
            assert!(attempt.doubts.iter().any(is_said), "{:?}", attempt.doubts);
        }
        Err(refused) => assert!((wrong - 1.0f64).abs() > 0.1, "{refused}"),
    }
}

/// One that moves is not called good at rest.
#[rstest]
#[case::a_walk(Does::Walk)]
#[case::a_turn(Does::Turn(40.0))]
#[case::a_slight_turn(Does::Turn(0.7))]
fn a_moving_zoom_is_no_locked_off_one(#[case] does: Does) {
    let shot = Shot::new(does, 1.3);
    let options = SolveOptions {
        moves: Some(CameraMove::Locked),
        ..at_first(&shot, FOCAL_PX, EXACT_PX)
    };
    match shared::solve(&shot.tracks, &options) {
        Ok(attempt) => assert_eq!(attempt.verdict, Verdict::NeedsALook, "{}", attempt.rms_px),
        Err(refused) => assert!(!refused.to_string().is_empty()),
    }
    let found = shared::solve(&shot.tracks, &at_first(&shot, FOCAL_PX, EXACT_PX)).unwrap();
    assert_ne!(found.moves, CameraMove::Locked);
    assert!(
        !found
            .doubts
            .iter()
            .any(|d| matches!(d, Doubt::Undetermined))
    );
    assert!(shot.off_px(&found) < 0.3, "{:?}", found.doubts);
}
