//! Lengths and planes that are known of landmarks, in a solve.

use crate::shared;
use crate::walks::Walk;
use parallax_core::lens::Distortion;
use parallax_core::progress::Silent;
use parallax_core::solve::{
    Attempt, Constraints, Doubt, KnownLength, KnownPlane, LensTerms, SolveError, SolveOptions,
    Verdict, solve_again,
};
use parallax_core::spaces::{TrackId, WorldPoint};

const SIGMA_M: f64 = 0.003;

/// A walk past a wall on which every fourth point lies.
fn walk() -> (Walk, KnownPlane) {
    let mut random = fastrand::Rng::with_seed(31);
    let plain = Walk::new(5, 1100.0, Distortion::NONE);
    let is_on_the_wall = |k: usize| k.is_multiple_of(4);
    let points = plain
        .points
        .iter()
        .enumerate()
        .map(|(k, p)| match is_on_the_wall(k) {
            true => WorldPoint::new(p.0.x, p.0.y, -6.0 + 0.3 * p.0.x),
            false => *p,
        });
    let walk = Walk::of(
        plain.lens,
        plain.poses.clone(),
        points.collect(),
        &mut random,
    );
    let on_the_wall = walk.tracks.iter().map(|t| t.id);
    let plane = KnownPlane {
        tracks: on_the_wall
            .filter(|id| is_on_the_wall(id.0 as usize - 1))
            .collect(),
        sigma_m: SIGMA_M,
    };
    (walk, plane)
}

/// The true length between two of its points, `off` longer.
fn length(walk: &Walk, between: [u32; 2], off: f64) -> KnownLength {
    let [p, q] = between.map(|id| walk.points[id as usize - 1]);
    KnownLength {
        between: between.map(TrackId),
        length_m: p.distance(q) * (1.0 + off),
        sigma_m: SIGMA_M,
    }
}

fn solved(walk: &Walk, constraints: Constraints) -> Result<Attempt, SolveError> {
    let options = SolveOptions {
        constraints,
        ..walk.options(LensTerms::NONE)
    };
    shared::solve(&walk.tracks, &options)
}

/// Long-lived tracks of points that lie apart.
fn ends(walk: &Walk) -> Vec<u32> {
    let long = walk.tracks.iter().filter(|t| t.samples.len() > 30);
    long.map(|t| t.id.0).step_by(6).take(8).collect()
}

#[test]
fn lengths_and_a_wall_hold_and_help() {
    let (walk, plane) = walk();
    let ends = ends(&walk);
    let lengths = ends
        .chunks(2)
        .map(|pair| length(&walk, [pair[0], pair[1]], 0.0));
    let constraints = Constraints {
        lengths: lengths.collect(),
        planes: vec![plane],
    };
    let options = SolveOptions {
        constraints: constraints.clone(),
        ..walk.options(LensTerms::NONE)
    };
    let (free, held) = (
        solved(&walk, Constraints::default()).unwrap(),
        solved(&walk, constraints).unwrap(),
    );
    assert!(free.constraints.is_empty());
    assert_eq!(held.verdict, Verdict::Good, "{:?}", held.doubts);
    assert_eq!(held.constraints.len(), 5);
    for miss in &held.constraints {
        assert!(miss.used && miss.errors() < 4.0, "{miss:?}");
    }
    let (with, without) = (walk.error_px(&held), walk.error_px(&free));
    assert!(with < without + 0.01, "{with:.3} px, {without:.3} without");
    assert!(held.focal_sigma_px < free.focal_sigma_px, "it knows more");
    // Solved again from where it stands it stays there.
    let again = solve_again(&walk.tracks, &options, &held, &Silent).unwrap();
    assert!((again.lens.focal_px / held.lens.focal_px - 1.0).abs() < 1e-3);
    assert!(again.constraints.iter().all(|m| m.used));
}

/// What contradicts the picture takes no part, and that is said; the camera is that of the picture.
#[test]
fn what_contradicts_the_picture_is_left_out() {
    let (walk, _) = walk();
    let ends = ends(&walk);
    let lengths = vec![
        length(&walk, [ends[0], ends[1]], 0.0),
        length(&walk, [ends[2], ends[3]], 0.6),
        length(&walk, [ends[4], ends[5]], -0.4),
    ];
    let wrong = Constraints {
        lengths,
        planes: Vec::new(),
    };
    let free = solved(&walk, Constraints::default()).unwrap();
    let told = solved(&walk, wrong).unwrap();
    assert_eq!(told.verdict, Verdict::NeedsALook);
    let named = |d: &Doubt| {
        matches!(
            d,
            Doubt::ConstraintsUnused { .. } | Doubt::ConstraintMissed { .. }
        )
    };
    assert!(told.doubts.iter().any(named), "{:?}", told.doubts);
    assert!(walk.error_px(&told) < 2.0 * walk.error_px(&free) + 0.05);
}

#[test]
fn a_number_that_makes_no_sense_is_refused() {
    let (walk, plane) = walk();
    for sigma_m in [0.0, -1.0, f64::NAN, 1e9] {
        let wrong = Constraints {
            lengths: Vec::new(),
            planes: vec![KnownPlane {
                sigma_m,
                ..plane.clone()
            }],
        };
        let refused = solved(&walk, wrong).unwrap_err();
        assert!(
            matches!(refused, SolveError::OutOfRange { .. }),
            "{refused}"
        );
    }
}
