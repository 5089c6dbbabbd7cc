//! From tracks to camera against synthetic truth: points in a box, a camera that walks past
//! them, positions with noise. No pictures, so that only the solve is on trial.

use crate::interrupted::{Kept, persisted};
use crate::shared;
use crate::walks::{FRAMES, Walk};
use parallax_core::camera::Intrinsics;
use parallax_core::lens::Distortion;
use parallax_core::lens::correct::solve_with_lens;
use parallax_core::progress::Silent;
use parallax_core::solve::{
    Attempt, Candidates, LensTerms, SolveError, Verdict, go_on, solve_again,
};
use parallax_core::spaces::PlatePx;
use rstest::rstest;
use std::collections::HashSet;

/// Twenty times more positions than unknowns: the camera is far better than one position.
#[rstest]
fn the_camera_is_found_without_its_focal_length(
    #[values(1, 2, 3)] seed: u64,
    #[values(800.0, 1900.0)] focal_px: f64,
) {
    let walk = Walk::new(seed, focal_px, Distortion::NONE);
    let attempt = shared::solve(&walk.tracks, &walk.options(LensTerms::NONE)).unwrap();
    assert_eq!(attempt.frames.len(), FRAMES as usize);
    assert_eq!(attempt.verdict, Verdict::Good);
    assert_eq!(
        attempt.lens_suspicion, None,
        "a lens without distortion is suspected"
    );
    let off = (attempt.lens.focal_px / focal_px - 1.0).abs();
    assert!(off < 0.01, "focal length is off by {:.2} %", 100.0 * off);
    assert!(
        walk.error_px(&attempt) < 0.3,
        "{:.3} px",
        walk.error_px(&attempt)
    );
}

/// A bent lens that the solve is not told of is named, and solving it along mends the camera.
#[rstest]
#[case::mild(Distortion::radial(-0.01, 0.0))]
#[case::barrel(Distortion::radial(-0.06, 0.01))]
#[case::pincushion(Distortion::radial(0.03, 0.0))]
fn a_lens_left_out_is_suspected(#[case] distortion: Distortion) {
    let walk = Walk::new(5, 1000.0, distortion);
    let without = shared::solve(&walk.tracks, &walk.options(LensTerms::NONE)).unwrap();
    let suspicion = without.lens_suspicion.expect("the lens is suspected");
    assert_eq!(suspicion.k1.signum(), distortion.k1.signum());
    assert!(suspicion.corner_px > 1.0 && suspicion.rms_px < without.rms_px);
    assert_eq!(without.verdict, Verdict::NeedsALook);
    let with = solve_again(
        &walk.tracks,
        &walk.options(LensTerms::TWO),
        &without,
        &Silent,
    )
    .unwrap();
    assert_eq!(with.lens_suspicion, None);
    let (before, after) = (walk.error_px(&without), walk.error_px(&with));
    assert!(
        after < 0.3 && after < before,
        "{before:.3} px became {after:.3} px"
    );
}

/// A lens from a calibration, stated for another focal length than the camera's, which nobody knows.
#[test]
fn a_known_lens_straightens_the_tracks() {
    let walk = Walk::new(
        4,
        1100.0,
        Distortion {
            p1: 0.002,
            p2: -0.001,
            ..Distortion::radial(-0.2, 0.03)
        },
    );
    let calibrated = Intrinsics {
        focal_px: 1280.0,
        distortion: walk.lens.distortion.at_focal(1100.0, 1280.0),
        ..walk.lens
    };
    let px = PlatePx::new(1200.0, 660.0);
    let (one, other) = (
        walk.lens.lens_point(px).unwrap(),
        calibrated.lens_point(px).unwrap(),
    );
    assert!(
        (one.x * 1100.0 - other.x * 1280.0).abs() < 1e-6,
        "restated terms bend otherwise"
    );
    let options = walk.options(LensTerms::NONE);
    let suspected = HashSet::new();
    let all = Candidates {
        tracks: &walk.tracks,
        suspected: &suspected,
    };
    let attempt = solve_with_lens(all, &options, &calibrated, None, &Silent, &Silent).unwrap();
    let off = (attempt.lens.focal_px / 1100.0 - 1.0).abs();
    assert!(off < 0.005, "focal length off by {:.2} %", 100.0 * off);
    let error = walk.error_px(&attempt);
    // As good as without any lens (above).
    assert!(error < 0.3, "{error:.3} px");
    assert!(attempt.lens_suspicion.is_none());
}

/// Stopped again and again, a solve goes on where it was, and its camera is the same to the last bit.
#[rstest]
#[case::stopped(false)]
#[case::left_at_every_step(true)]
fn a_solve_goes_on_where_it_was(#[case] always: bool) {
    let walk = Walk::new(5, 1100.0, Distortion::NONE);
    let options = walk.options(LensTerms::NONE);
    let kept = Kept::new(always);
    let (attempt, stops) = persisted(
        // The start is found in one go; then there is little patience. Where nothing is left there is more all the same.
        |stops| match kept.times() {
            0 => 20 + 30 * stops,
            left => 4 + 3 * left + stops,
        },
        |patience| go_on(&walk.tracks, &options, &kept, patience),
        |e| *e == SolveError::Cancelled,
    );
    assert!(stops > 3, "it was stopped {stops} times only");
    assert!(kept.times() > 2, "it went on {} times only", kept.times());
    let without = shared::solve(&walk.tracks, &options).unwrap();
    let text = |attempt: &Attempt| serde_json::to_string(attempt).unwrap();
    assert_eq!(text(&attempt), text(&without));
}
