//! A landmark on demand: where is this detail, and where is it on every other frame?
//!
//! After a solve two sights of a detail are enough: its place is triangulated from the cameras as they
//! are ([`mod@super::triangulate`]), its covariance is the inverse of its own normal matrix, and both are carried
//! to all frames: where it should be seen, and how far about that a search has to reach. Nothing that was
//! solved changes.

use super::bundle::residual::by_point;
use super::bundle::{Loss, Motion};
use super::certain::PointCovariance;
use super::locked::FAR;
use super::moves;
use super::rows::RowCameras;
use super::triangulate::{Sighting, triangulate};
use super::views::{Seen, Views};
use super::{Attempt, CameraMove};
use crate::spaces::{FrameNumber, PlatePx, WorldPoint};
use crate::tracks::Sample;
use nalgebra::{Matrix3, Vector3};

/// Where a detail is.
#[derive(Clone, Debug)]
pub struct Placed {
    /// Its place in the world of the attempt; of a camera that does not travel its direction, set far away.
    pub point: WorldPoint,
    /// How certain that is, the cameras being where they are; `None` of directions.
    pub covariance: Option<PointCovariance>,
    /// Greatest angle between its rays, degrees.
    pub parallax_deg: f64,
    /// Root mean square of what it misses its sights by, px.
    pub rms_px: f64,
    /// Where it should be seen, on every frame on which it lies in the picture.
    pub path: Vec<Predicted>,
}

/// Where a detail should be seen.
#[derive(Clone, Copy, Debug)]
pub struct Predicted {
    /// On which frame.
    pub frame: FrameNumber,
    /// Where.
    pub px: PlatePx,
    /// One standard error of that in its worst direction, px.
    pub sigma_px: f64,
}

/// Why a detail has no place.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum NoPlace {
    /// Too few sights.
    #[error(
        "it is seen on {found} frame(s) that have a camera; its place needs {needed}. Mark it on another frame, as far away as it can still be recognised"
    )]
    TooFewSights {
        /// Frames with a sight and a camera.
        found: usize,
        /// How many it needs.
        needed: usize,
    },
    /// Rays do not meet in front of the cameras.
    #[error(
        "its rays do not meet in front of the cameras: what was marked is not the same detail, or it moves"
    )]
    NoMeeting,
    /// Rays are nearly parallel.
    #[error(
        "its rays differ by {parallax_deg:.2}° only, so that its distance is not known. Mark it on frames between which the camera travels farther"
    )]
    Parallel {
        /// Greatest angle between its rays, degrees.
        parallax_deg: f64,
    },
}

/// Below this angle a distance is not known, degrees.
const LEAST_PARALLAX_DEG: f64 = 0.15;
/// Sights may miss the place by this before they count as not fitting, px at 1280.
const FIT_PX: f64 = 8.0;

/// The place of a detail from where it was seen.
pub fn placed(attempt: &Attempt, samples: &[Sample]) -> Result<Placed, NoPlace> {
    let lens = &attempt.lens;
    let frames: Vec<FrameNumber> = attempt.frames.iter().map(|f| f.frame).collect();
    let rows = attempt.rows();
    let sights: Vec<Sighting> = samples
        .iter()
        .filter_map(|s| {
            let frame = frames.binary_search(&s.frame).ok()?;
            Some(Sighting {
                eye: rows.at(frame, s.px.y)?,
                seen: Seen::of(frame, s, lens.width_px),
            })
        })
        .collect();
    let motion = moves::as_solved(attempt).motion();
    let needed = if motion.is_on_the_spot() { 1 } else { 2 };
    if sights.len() < needed {
        let found = sights.len();
        return Err(NoPlace::TooFewSights { found, needed });
    }
    let limit_px = FIT_PX * Views::px_scale_of(lens.width_px);
    let found = triangulate(motion, &sights, Loss::Squares, limit_px)
        .filter(|t| 2.0 * t.fitting_share > 1.0)
        .ok_or(NoPlace::NoMeeting)?;
    let parallax_deg = found.angle_rad.to_degrees();
    if motion == Motion::Free && parallax_deg < LEAST_PARALLAX_DEG {
        return Err(NoPlace::Parallel { parallax_deg });
    }
    let place = found.point;
    let covariance = covariance(attempt, &sights, &place);
    let squares: f64 = sights
        .iter()
        .filter_map(|s| {
            let px = s.eye.lens.project(&s.eye.pose, &WorldPoint(place.into()))?;
            Some(px.distance_px(s.seen.px).powi(2))
        })
        .sum();
    let path = (0..frames.len())
        .filter_map(|frame| predicted(attempt, &rows, frame, &place, covariance.as_ref()))
        .collect();
    let travels = attempt.moves == CameraMove::Free;
    Ok(Placed {
        point: WorldPoint(
            (if travels {
                place
            } else {
                place.normalize() * FAR
            })
            .into(),
        ),
        covariance: covariance
            .filter(|_| travels)
            .and_then(|c| PointCovariance::new(&c).ok()),
        parallax_deg,
        rms_px: (squares / sights.len() as f64).sqrt(),
        path,
    })
}

fn covariance(
    attempt: &Attempt,
    sights: &[Sighting],
    place: &Vector3<f64>,
) -> Option<Matrix3<f64>> {
    let mut normal = Matrix3::zeros();
    for s in sights {
        let slopes = by_point(&s.eye, place, s.seen.whitening)?;
        normal += slopes.tr_mul(&slopes);
    }
    if attempt.moves != CameraMove::Free {
        // The length of a direction says nothing.
        normal += place * place.transpose() * normal.trace();
    }
    normal.try_inverse()
}

fn predicted(
    attempt: &Attempt,
    rows: &RowCameras,
    frame: usize,
    place: &Vector3<f64>,
    covariance: Option<&Matrix3<f64>>,
) -> Option<Predicted> {
    let camera = &attempt.frames[frame];
    let (px, eye) = rows.seen(frame, &WorldPoint((*place).into()))?;
    if !eye.lens.holds(px) {
        return None;
    }
    let slopes = by_point(&eye, place, [1.0, 0.0, 1.0])?;
    let sigma_px = covariance.map_or(0.0, |c| {
        let spread = slopes * c * slopes.transpose();
        spread.symmetric_eigenvalues().max().max(0.0).sqrt()
    });
    Some(Predicted {
        frame: camera.frame,
        px,
        sigma_px,
    })
}
