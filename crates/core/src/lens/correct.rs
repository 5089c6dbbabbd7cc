//! A lens that is known from elsewhere, and tracks made on the plate as shot.
//!
//! Terms hold for the focal length they were found with, and the camera's own is not known
//! before the solve. So tracks are corrected: every position moves to where a camera without
//! the lens would have seen it, its covariance along with it, and the solve knows no lens.
//! Afterwards the terms are restated for the focal length that was found
//! ([`Distortion::at_focal`]), and the camera draws on the plate as shot again. Nothing is
//! followed anew when a lens changes.

use super::Distortion;
use crate::camera::Intrinsics;
use crate::progress::{Checkpoints, Progress};
use crate::solve::underway::Underway;
use crate::solve::{
    Attempt, Candidates, LensTerms, SolveError, SolveOptions, solve_scene, solve_scene_again,
};
use crate::spaces::{LensPoint, TrackId};
use crate::tracks::{Covariance, Sample, Track};
use nalgebra::{Matrix2, Vector2};
use std::collections::HashSet;

/// Tracks as a camera without the lens would have seen them: px about the lens's centre, at its
/// focal length. Positions beyond the radius in which the lens can be undone are left out.
///
/// These are no px of the plate. They do not leave this type: what is solved from them gets the
/// lens back before anybody sees it.
struct Straightened<'a> {
    tracks: Vec<Track>,
    suspected: &'a HashSet<TrackId>,
    lens: &'a Intrinsics,
}

impl<'a> Straightened<'a> {
    fn of(candidates: Candidates<'a>, lens: &'a Intrinsics) -> Self {
        let straight = |track: &Track| Track {
            samples: track
                .samples
                .iter()
                .filter_map(|s| straight_sample(s, lens))
                .collect(),
            ..track.clone()
        };
        Self {
            tracks: candidates.tracks.iter().map(straight).collect(),
            suspected: candidates.suspected,
            lens,
        }
    }

    /// Solves without a lens and puts the lens back, so that the cameras draw on the plate as
    /// shot. Residuals stay those of the straight picture.
    fn solve(
        &self,
        options: &SolveOptions,
        from: Option<&Attempt>,
        checkpoints: &dyn Checkpoints<Underway>,
        progress: &dyn Progress,
    ) -> Result<Attempt, SolveError> {
        let candidates = Candidates {
            tracks: &self.tracks,
            suspected: self.suspected,
        };
        let attempt = match from {
            Some(attempt) => solve_scene_again(candidates, options, attempt, progress)?,
            None => solve_scene(candidates, options, checkpoints, progress)?,
        };
        let lens = self.lens;
        let distortion = lens
            .distortion
            .at_focal(lens.focal_px, attempt.lens.focal_px);
        Ok(Attempt {
            lens: Intrinsics {
                distortion,
                centre: lens.centre,
                ..attempt.lens
            },
            ..attempt
        })
    }
}

fn straight_sample(sample: &Sample, lens: &Intrinsics) -> Option<Sample> {
    let at = lens.lens_point(sample.px)?;
    let px = lens.centre.moved(Vector2::new(at.x, at.y) * lens.focal_px);
    let bend = lens
        .distortion
        .jacobian(LensPoint::new(at.x, at.y))
        .try_inverse()?;
    let Covariance { xx, xy, yy } = sample.covariance;
    let c = bend * Matrix2::new(xx, xy, xy, yy) * bend.transpose();
    let covariance = Covariance {
        xx: c[(0, 0)],
        xy: c[(0, 1)],
        yy: c[(1, 1)],
    };
    Some(Sample {
        px,
        covariance,
        ..*sample
    })
}

/// Solves with a lens that is known, and then, where `options` ask for it, with its radial terms
/// free; anew (or where an interrupted run left it), or again from an attempt. The lens terms of `options` are not used.
pub fn solve_with_lens(
    candidates: Candidates<'_>,
    options: &SolveOptions,
    lens: &Intrinsics,
    from: Option<&Attempt>,
    checkpoints: &dyn Checkpoints<Underway>,
    progress: &dyn Progress,
) -> Result<Attempt, SolveError> {
    let free = SolveOptions {
        lens: Intrinsics {
            centre: lens.centre,
            ..options.lens
        },
        ..options.clone()
    };
    if let Some(attempt) = from.filter(|a| options.solve_lens.any() && a.has_solved_lens()) {
        return solve_scene_again(candidates, &free, attempt, progress);
    }
    let plain = Intrinsics {
        distortion: Distortion::NONE,
        ..free.lens
    };
    let known = SolveOptions {
        lens: plain,
        solve_lens: LensTerms::NONE,
        ..free.clone()
    };
    let attempt = Straightened::of(candidates, lens).solve(&known, from, checkpoints, progress)?;
    if attempt.zooms() && !options.solve_lens.any() {
        // The same bending of the picture is another lens at every focal length. Terms that stay are
        // what can be handed on: solved again with them, from the cameras found.
        let stay = SolveOptions {
            lens: Intrinsics {
                distortion: lens.distortion,
                ..free.lens
            },
            moves: Some(attempt.moves),
            zooms: Some(true),
            ..free
        };
        return solve_scene_again(candidates, &stay, &attempt, progress);
    }
    if options.solve_lens.any() {
        solve_scene_again(candidates, &free, &attempt, progress)
    } else {
        Ok(attempt)
    }
}

impl Distortion {
    /// The same bending of the picture, its terms restated from one focal length to another, px.
    pub fn at_focal(&self, from_px: f64, to_px: f64) -> Self {
        let share = to_px / from_px;
        let square = share * share;
        Self {
            k1: self.k1 * square,
            k2: self.k2 * square * square,
            k3: self.k3 * square * square * square,
            p1: self.p1 * share,
            p2: self.p2 * share,
            k1_by_zoom: self.k1_by_zoom * square,
        }
    }
}
