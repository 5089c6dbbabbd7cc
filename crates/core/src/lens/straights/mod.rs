//! Which lens draws things bent that are straight in reality?
//!
//! The artist marks points along edges. Each straight is a line in undistorted px, n . u = d
//! with |n| = 1; a mark m of the plate belongs to it when its undistorted place u(m) lies on
//! it. The error is that of the mark, so it is measured on the plate: to first order
//! `(n . u(m) - d) / |nᵀ du/dm|` is how far m is from the drawn curve, in plate px (Sampson
//! 1982). Lens terms and lines are found together by Levenberg-Marquardt with Huber weights;
//! terms join one after the other, from a search over k1 alone. Straightness as the measure of
//! a lens: Brown 1971; Devernay and Faugeras 2001.
//!
//! Only what bends is seen: a straight through the centre says nothing of radial terms, and
//! the focal length is not found at all. It is stated (the width, unless told otherwise) and
//! scales the terms.
//!
//! A free centre and tangential terms do almost the same to straights, so that few marks could
//! send both far off. Both are believed to be small, as those of lenses are, by so much as one
//! usual lens is worth against the marks (a prior in the Bayesian sense); what marks do tell
//! overrules it, and a centre far off, as of a cropped picture, is let go.
//!
//! [`wanting`] says whether the straights call for more than was asked for.
//!
//! Covariance: s² (JᵀJ)⁻¹ at the solution, s² from what is left over.

mod fit;
mod normal;
mod settle;
mod wanting;

use super::Distortion;
use crate::camera::Intrinsics;
use crate::spaces::PlatePx;
use fit::Fit;
use nalgebra::Vector2;
use serde::{Deserialize, Serialize};
pub use wanting::{Wanting, Widening, wanting};

/// Where the centre of distortion is.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Centre {
    /// In the middle of the picture.
    #[default]
    Fixed,
    /// Wherever the straights put it.
    Free,
}

/// What is solved.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct LensOptions {
    /// Radial terms, 1 to 3.
    pub terms: usize,
    /// Whether the two tangential terms are solved.
    pub tangential: bool,
    /// The centre.
    pub centre: Centre,
    /// Focal length to which the terms refer, px; the width when left out.
    pub focal_px: Option<f64>,
}

impl Default for LensOptions {
    fn default() -> Self {
        Self {
            terms: 2,
            tangential: false,
            centre: Centre::Fixed,
            focal_px: None,
        }
    }
}

/// Why straights give no lens.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum LensError {
    /// Fewer marks than unknowns.
    #[error(
        "{found} marks beyond the two ends of each straight are too few for {unknowns} unknowns; mark more points along edges, or solve fewer terms"
    )]
    TooFewMarks {
        /// Marks beyond two per straight.
        found: usize,
        /// Unknowns of the lens.
        unknowns: usize,
    },
    /// A straight of two points.
    #[error(
        "straight {straight} has {points} points; two always lie on a line, so mark three or more along the edge"
    )]
    TooShort {
        /// Its number, the first is 1.
        straight: usize,
        /// Its points.
        points: usize,
    },
    /// All points of a straight in one place.
    #[error("the points of straight {straight} lie within 2 px; mark along the whole edge")]
    NoLength {
        /// Its number, the first is 1.
        straight: usize,
    },
    /// A value that is none.
    #[error("{what} is out of range")]
    OutOfRange {
        /// Which.
        what: &'static str,
    },
    /// The straights do not say.
    #[error(
        "these straights do not determine the lens: they run through the centre or lie too close to it. Mark edges near the border of the picture"
    )]
    Undetermined,
    /// The map folds inside the picture.
    #[error(
        "the terms that fit fold the picture {fold_px:.0} px from the centre, before its corner at {corner_px:.0} px. Mark straights nearer to the corners, or solve fewer terms"
    )]
    Folds {
        /// Distance at which the map turns back, px of the plate.
        fold_px: f64,
        /// Distance of the farthest corner, px.
        corner_px: f64,
    },
}

/// How bent one straight is.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Straightness {
    /// Root mean square distance from the best line as marked, px.
    pub before_px: f64,
    /// The same on the plate once the lens is known, px.
    pub after_px: f64,
    /// From the drawn curve to each mark, square to the curve, plate px.
    pub misses_px: Vec<Vector2<f64>>,
    /// The solved straight as the lens draws it on the plate, from its first mark to its last.
    pub curve: Vec<PlatePx>,
}

/// A lens from straights.
#[derive(Clone, Debug)]
pub struct SolvedLens {
    /// The lens; its focal length is the one that was stated.
    pub lens: Intrinsics,
    /// Standard errors of the terms; 0 for those that were not solved.
    pub sigma: Distortion,
    /// Standard errors of the centre, px, where it was free.
    pub centre_sigma_px: Option<[f64; 2]>,
    /// Root mean square over all marks before, px.
    pub rms_before_px: f64,
    /// And after.
    pub rms_after_px: f64,
    /// Every straight.
    pub straights: Vec<Straightness>,
    /// Index of the one that is least straight now.
    pub worst: usize,
    /// Distance from the centre up to which the plate can be undistorted, px; infinite when everywhere.
    pub valid_radius_px: f64,
    /// Standard error of where a corner is drawn, px.
    pub corner_sigma_px: f64,
    /// What is left of marks by chance, px per coordinate.
    pub mark_sigma_px: f64,
}

/// Nobody marks better than this, px per coordinate.
const LEAST_MARK_SIGMA_PX: f64 = 0.05;

/// Marks farther off than this many times the spread of all count less.
const HUBER: f64 = 1.7;

/// Distance of the mark that is farthest from the lens's centre, px; beyond it a lens from these
/// marks is extrapolated.
pub fn farthest_mark_px(lens: &Intrinsics, straights: &[Vec<PlatePx>]) -> f64 {
    let distances = straights
        .iter()
        .flatten()
        .map(|m| lens.centre.distance_px(*m));
    distances.fold(0.0, f64::max)
}

/// Finds the lens of a picture of `width_px` x `height_px` from points along straight things.
pub fn solve_straights(
    width_px: u32,
    height_px: u32,
    straights: &[Vec<PlatePx>],
    options: &LensOptions,
) -> Result<SolvedLens, LensError> {
    check(width_px, height_px, straights, options)?;
    let focal_px = options.focal_px.unwrap_or(f64::from(width_px));
    let mut fit = Fit::start(
        Intrinsics::centred(width_px, height_px, focal_px),
        straights,
    );
    for unknowns in fit::stages(options) {
        fit.settle(&unknowns);
    }
    fit.solved(&fit::unknowns_of(options))
}

fn check(
    width_px: u32,
    height_px: u32,
    straights: &[Vec<PlatePx>],
    options: &LensOptions,
) -> Result<(), LensError> {
    let bad = |what| Err(LensError::OutOfRange { what });
    if !(2..=100_000).contains(&width_px) || !(2..=100_000).contains(&height_px) {
        return bad("the size of the picture");
    }
    if !(1..=3).contains(&options.terms) {
        return bad("the number of radial terms (1 to 3)");
    }
    if options
        .focal_px
        .is_some_and(|f| !(f.is_finite() && f > 0.0))
    {
        return bad("the focal length");
    }
    let far = 2.0 * f64::from(width_px.max(height_px));
    if straights
        .iter()
        .flatten()
        .any(|p| !(p.x.abs() < far && p.y.abs() < far))
    {
        return bad("a mark");
    }
    for (i, straight) in straights.iter().enumerate() {
        if straight.len() < 3 {
            return Err(LensError::TooShort {
                straight: i + 1,
                points: straight.len(),
            });
        }
        if straight.iter().all(|p| p.distance_px(straight[0]) < 2.0) {
            return Err(LensError::NoLength { straight: i + 1 });
        }
    }
    let found: usize = straights.iter().map(|s| s.len() - 2).sum();
    let unknowns = fit::unknowns_of(options).len();
    if found < unknowns + 1 {
        return Err(LensError::TooFewMarks { found, unknowns });
    }
    Ok(())
}
