//! Would lens terms that the solve did not have explain what is left?
//!
//! A lens left out bends the camera path and the focal length long before the residuals look
//! bad. So the finished solve is adjusted once more, briefly, with two radial terms free; the
//! fall of the cost is a likelihood-ratio statistic (Wilks 1938), which for terms that are
//! really zero follows chi-squared with two degrees of freedom once it is divided by the
//! variance factor of the residuals.

use super::LensTerms;
use super::bundle::FreeLens;
use super::freed::Finished;
use crate::spaces::LensPoint;
use serde::{Deserialize, Serialize};

/// Radial terms that would explain the residuals better than the lens that was given.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct LensSuspicion {
    /// First radial term with the lens set free.
    pub k1: f64,
    /// Second radial term.
    pub k2: f64,
    /// How far these terms and the given ones differ in the corner of the picture, px.
    pub corner_px: f64,
    /// Root mean square of the residuals with them, px.
    pub rms_px: f64,
    /// Focal length with them, px.
    pub focal_px: f64,
}

/// Chi-squared of two degrees of freedom exceeds this once in three million draws.
const LEAST_STATISTIC: f64 = 30.0;
/// Terms that matter by less than this in the corner are not worth a word, px at 1280.
const LEAST_CORNER_PX: f64 = 0.4;

/// Looks for a lens that was left out. `None` when two radial terms were solved along anyway,
/// when they would change too little, or when chance may explain what they gain.
pub fn suspect(finished: &Finished<'_>) -> Option<LensSuspicion> {
    let Finished {
        views,
        options,
        world,
        ..
    } = *finished;
    if options.solve_lens.radial >= 2 {
        return None;
    }
    let mut freed = world.clone();
    freed.free = FreeLens {
        lens: LensTerms {
            radial: 2,
            ..world.free.lens
        }
        .where_it_zooms(world.zooms()),
        ..world.free
    };
    let statistic = finished.gain(&mut freed);
    let lens = &freed.lens;
    let half = 0.5 / lens.focal_px;
    let corner = LensPoint::new(
        half * f64::from(lens.width_px),
        half * f64::from(lens.height_px),
    );
    let (freed_corner, given_corner) = (
        lens.distortion.distort(corner),
        world.lens.distortion.distort(corner),
    );
    let corner_px =
        (freed_corner.x - given_corner.x).hypot(freed_corner.y - given_corner.y) * lens.focal_px;
    if statistic < LEAST_STATISTIC || corner_px < LEAST_CORNER_PX * views.px_scale {
        return None;
    }
    Some(LensSuspicion {
        k1: lens.distortion.k1,
        k2: lens.distortion.k2,
        corner_px,
        rms_px: freed.rms_px(views),
        focal_px: lens.focal_px,
    })
}
