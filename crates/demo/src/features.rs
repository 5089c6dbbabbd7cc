//! How far followed features are from where the truth says they should be.

use crate::take::Take;
use nalgebra::Vector2;
use parallax_core::spaces::WorldPoint;
use parallax_core::track::Track;

/// How far a feature strays: its position on its first frame is taken for true, the point
/// of the scene that is seen there is looked up, and each later position is held against
/// where the true camera sees that point.
///
/// Offsets in px by frames since the first, ending where the point leaves what the camera
/// can see. `None` for features that begin on the sky.
pub fn strays(take: &Take, track: &Track) -> Option<Vec<(usize, Vector2<f64>)>> {
    let index = |frame: parallax_core::spaces::FrameNumber| (frame.0 - take.first_frame.0) as usize;
    let first = track.samples.first()?;
    let start = index(first.frame);
    let ray = take.ray(&take.pose(start), first.px)?;
    let point = WorldPoint(take.scene.at(start as f64).standing_point(&ray)?);
    let seen = track.samples.iter().map_while(|s| {
        let at = index(s.frame);
        let px = take.lens.project(&take.pose(at), &point)?;
        Some((at - start, s.px.offset_from(px)))
    });
    Some(seen.collect())
}
