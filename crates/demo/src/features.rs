//! How far followed features are from where the truth says they should be.

use crate::take::Take;
use nalgebra::Vector2;
use parallax_core::spaces::WorldPoint;
use parallax_core::track::Track;

/// What the first position of a feature falls on.
#[derive(Clone, Debug)]
pub enum Seen {
    /// Something that stands still: offsets from the truth, as [`strays`] has them.
    Standing(Vec<(usize, Vector2<f64>)>),
    /// Something that moves by itself.
    Moving,
    /// Nothing.
    Sky,
}

/// What a feature is on, and how far it strays if that stands still.
pub fn seen(take: &Take, track: &Track) -> Seen {
    let first = track.samples.first();
    let hit = first.and_then(|first| {
        let start = (first.frame.0 - take.first_frame.0) as usize;
        let ray = take.ray(&take.pose(start), first.px)?;
        take.scene.at(start as f64).meets_standing(&ray)
    });
    match hit {
        None => Seen::Sky,
        Some(false) => Seen::Moving,
        Some(true) => strays(take, track).map_or(Seen::Sky, Seen::Standing),
    }
}

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
