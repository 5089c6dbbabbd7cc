//! Does the picture contradict the focal length that is stated?
//!
//! Landmarks bend until they fit a wrong one, and residuals grow by little. So the finished solve is adjusted once more,
//! briefly, without what is stated; the fall of the cost, with what the statement itself costs, is a likelihood-ratio
//! statistic (Wilks 1938), which by chance follows chi-squared with one degree of freedom, once what was seen is divided by
//! the variance factor of its residuals.

use super::FocalKnowledge;
use super::bundle::Motion;
use super::freed::Finished;

/// A focal length for which the picture speaks, against one that is stated.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Contradiction {
    /// By how much it is longer than the stated one, as a share of that.
    pub longer: f64,
    /// Root mean square of the residuals with it, px.
    pub rms_px: f64,
}

/// Chi-squared of one degree of freedom exceeds this once in two million draws.
const LEAST_STATISTIC: f64 = 25.0;
/// Focal lengths that differ by less than this share are not worth a word.
const LEAST_DIFFERENCE: f64 = 0.01;

/// Looks for a contradiction. `None` where nothing is stated, where a camera that rests shows no focal length, or
/// where chance may explain what is gained.
pub fn contradiction(finished: &Finished<'_>) -> Option<Contradiction> {
    let world = finished.world;
    let (stated_px, sigma_px) = match (finished.options.focal, world.zooms()) {
        _ if world.motion == Motion::Resting => return None,
        (FocalKnowledge::Known(px), false) => (px, f64::INFINITY),
        (FocalKnowledge::About { px, sigma_px }, false) => (px, sigma_px),
        (FocalKnowledge::AtFirst { px, sigma_px }, true) if world.poses[0].is_some() => {
            (px, sigma_px)
        }
        _ => return None,
    };
    let mut freed = world.clone();
    freed.free.focal = !world.zooms();
    freed.believed.focal_px = None;
    freed.believed.focal_at_first_px = None;
    let off = (world.lens_at(0).focal_px - stated_px) / sigma_px;
    let seen = finished.gain(&mut freed);
    let statistic = seen + off * off;
    let longer = freed.lens_at(0).focal_px / stated_px - 1.0;
    if statistic < LEAST_STATISTIC || longer.abs() < LEAST_DIFFERENCE {
        return None;
    }
    Some(Contradiction {
        longer,
        rms_px: freed.rms_px(finished.views),
    })
}
