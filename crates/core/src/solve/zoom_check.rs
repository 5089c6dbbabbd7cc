//! Would a focal length that changes explain what a fixed one leaves?
//!
//! A zoom that a solve does not know bends the camera path: the camera seems to travel along its
//! axis instead. So the finished solve is adjusted once more, briefly, with a focal length for each
//! frame; the fall of the cost is a likelihood-ratio statistic (Wilks 1938), which for a focal length
//! that really stays follows chi-squared with as many degrees of freedom as there are frames, once
//! it is divided by the variance factor of the residuals.

use super::freed::Finished;
use serde::{Deserialize, Serialize};

/// Focal lengths that would explain the residuals better than one for all frames.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct ZoomSuspicion {
    /// The shortest, px.
    pub shortest_px: f64,
    /// The longest, px.
    pub longest_px: f64,
    /// Root mean square of the residuals with them, px.
    pub rms_px: f64,
}

/// Focal lengths that differ by less than this share are not worth a word, ...
const LEAST_CHANGE: f64 = 0.004;
/// ... and by less than this where they would explain what a lens is suspected of.
const LEAST_INSTEAD: f64 = 0.001;
/// The statistic has to exceed what chance explains by so many of its standard deviations.
const DEVIATIONS: f64 = 6.0;

/// Looks for a zoom that the solve did not have. `None` when it had one or the focal length is
/// known, when it would change too little, or when chance may explain what it gains; a little is enough where a lens
/// is suspected of something, which it may explain as well.
pub fn suspect(finished: &Finished<'_>, of_lens: bool) -> Option<ZoomSuspicion> {
    let Finished { options, world, .. } = *finished;
    if world.zooms() || !options.focal.is_solved() {
        return None;
    }
    let mut freed = world.clone();
    freed.set_zooming();
    let statistic = finished.gain(&mut freed);
    let freedoms = world.pose_count() as f64;
    let posed = freed.focals_px.iter().zip(&freed.poses);
    let focals = posed.filter_map(|(focal_px, pose)| pose.map(|_| *focal_px));
    let (shortest_px, longest_px) = focals.fold((f64::INFINITY, 0.0f64), |(low, high), f| {
        (low.min(f), high.max(f))
    });
    let by_chance = freedoms + DEVIATIONS * (2.0 * freedoms).sqrt();
    let least = if of_lens { LEAST_INSTEAD } else { LEAST_CHANGE };
    if statistic < by_chance || longest_px < shortest_px * (1.0 + least) {
        return None;
    }
    Some(ZoomSuspicion {
        shortest_px,
        longest_px,
        rms_px: freed.rms_px(finished.views),
    })
}
