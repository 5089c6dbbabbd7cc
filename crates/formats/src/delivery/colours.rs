//! What landmarks look like in the plate: the colour around each on one frame of its track, read from few frames.

use super::Delivery;
use parallax_core::spaces::{FrameNumber, PlatePx};
use std::collections::{BTreeMap, HashMap};

/// Frames that are read at most.
const MOST_FRAMES: usize = 12;

/// Which landmarks to read on which frame, each on the one of few frames on which it is nearest to the middle.
pub fn wanted(delivery: &Delivery<'_>) -> BTreeMap<FrameNumber, Vec<(usize, PlatePx)>> {
    let step = delivery.cameras.len().div_ceil(MOST_FRAMES).max(1);
    let offset = (step / 2).min(delivery.cameras.len().saturating_sub(1));
    let chosen: Vec<_> = delivery.cameras.iter().skip(offset).step_by(step).collect();
    let mut out: BTreeMap<FrameNumber, Vec<(usize, PlatePx)>> = BTreeMap::new();
    let tracked: HashMap<&str, &parallax_core::tracks::Track> = delivery
        .tracks
        .iter()
        .map(|(t, called)| (called.name.as_str(), *t))
        .collect();
    for (index, point) in delivery.points.iter().enumerate() {
        // Where it was followed it is not covered; of those without a track the projection has to do.
        let followed = tracked.get(point.name.as_str());
        let seen = |camera: &&super::Camera| {
            let lens = delivery.lens_of(camera);
            let px = lens.project(&camera.pose, &point.place)?;
            let there = followed.is_none_or(|t| t.samples.iter().any(|s| s.frame == camera.frame));
            let off = px.distance_px(lens.centre);
            (there && lens.holds(px)).then_some((camera.frame, px, off))
        };
        let nearest = chosen.iter().copied().filter_map(|c| seen(&c));
        if let Some((frame, px, _)) = nearest.min_by(|a, b| a.2.total_cmp(&b.2)) {
            out.entry(frame).or_default().push((index, px));
        }
    }
    out
}
