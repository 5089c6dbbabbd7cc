//! How far followed features are from where the truth says they should be.

use crate::take::Take;
use nalgebra::Vector2;
use parallax_core::spaces::{PlatePx, WorldPoint};
use parallax_core::tracks::Track;

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
        let ray = take.eye(start as f64).ray(first.px)?;
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
/// where the true camera sees that point, on both as the mean over the open shutter
/// ([`Take::smeared`]): a picture shows no other place.
///
/// Offsets in px by frames since the first, ending where the point leaves what the camera
/// can see. `None` for features that begin on the sky.
pub fn strays(take: &Take, track: &Track) -> Option<Vec<(usize, Vector2<f64>)>> {
    let index = |frame: parallax_core::spaces::FrameNumber| (frame.0 - take.first_frame.0) as usize;
    let first = track.samples.first()?;
    let start = index(first.frame);
    let point = point_seen(take, start, first.px)?;
    let seen = track.samples.iter().map_while(|s| {
        let at = index(s.frame);
        let px = take.smeared(at, &point)?;
        Some((at - start, s.px.offset_from(px)))
    });
    Some(seen.collect())
}

/// The point of what stands still that a feature is on, as its first position tells; `None` on the sky.
pub fn place(take: &Take, track: &Track) -> Option<WorldPoint> {
    let first = track.samples.first()?;
    let index = (first.frame.0 - take.first_frame.0) as usize;
    point_seen(take, index, first.px)
}

/// The point of what stands still whose smear lies at a place of a frame.
fn point_seen(take: &Take, index: usize, px: PlatePx) -> Option<WorldPoint> {
    let (still, eye) = (take.scene.at(index as f64), take.eye(index as f64));
    let point = |at: PlatePx| Some(WorldPoint(still.standing_point(&eye.ray(at)?)?));
    // The smear is off the middle of the exposure by a fraction of a px that hardly changes from px to px.
    let off = px.offset_from(take.smeared(index, &point(px)?)?);
    point(px.moved(off))
}
