//! What landmarks look like in the plate: the colour around each on one frame of its track, read from few frames.

use super::Delivery;
use parallax_core::spaces::{FrameNumber, PlatePx};
use parallax_core::tracks::Track;
use std::collections::{BTreeMap, HashMap, HashSet};

/// Frames that are read at most.
const MOST_FRAMES: usize = 12;
/// Cameras that are asked where a landmark without a track is seen.
const MOST_ASKED: usize = 60;

/// Landmarks by their numbers, with where they are in the picture.
pub type Seen = Vec<(usize, PlatePx)>;

/// Which landmarks to read on which frame: of few frames those that together show the most of them, each landmark on
/// the first that shows it. What none of these shows is left out.
pub fn wanted(delivery: &Delivery<'_>) -> BTreeMap<FrameNumber, Seen> {
    let mut shown = by_frame(delivery);
    let mut covered: HashSet<usize> = HashSet::new();
    let mut out = BTreeMap::new();
    for _ in 0..MOST_FRAMES {
        let new = |seen: &Seen| seen.iter().filter(|(k, _)| !covered.contains(k)).count();
        let best = shown.iter().map(|(frame, seen)| (new(seen), *frame));
        // Of equals the earliest.
        let Some((count, frame)) = best.max_by_key(|(count, frame)| (*count, -frame.0)) else {
            break;
        };
        if count == 0 {
            break;
        }
        let mut seen = shown.remove(&frame).unwrap_or_default();
        seen.retain(|(k, _)| covered.insert(*k));
        out.insert(frame, seen);
    }
    out
}

/// What each frame shows: where a landmark was followed it is not covered; of those without a track the projection has
/// to do.
fn by_frame(delivery: &Delivery<'_>) -> BTreeMap<FrameNumber, Seen> {
    let mut shown: BTreeMap<FrameNumber, Seen> = BTreeMap::new();
    let named =
        |(track, called): &(&'_ Track, crate::tracks_csv::Called)| match called.name.as_str() {
            "" => track.id.to_string(),
            name => name.to_owned(),
        };
    let tracks: HashMap<String, &Track> = delivery.tracks.iter().map(|t| (named(t), t.0)).collect();
    let solved: HashSet<FrameNumber> = delivery.cameras.iter().map(|c| c.frame).collect();
    let step = delivery.cameras.len().div_ceil(MOST_ASKED).max(1);
    for (index, point) in delivery.points.iter().enumerate() {
        if let Some(track) = tracks.get(&point.name) {
            let inside = |px: &PlatePx| delivery.lens.holds(*px);
            let samples = track.samples.iter().filter(|s| inside(&s.px));
            for sample in samples.filter(|s| solved.contains(&s.frame)) {
                shown
                    .entry(sample.frame)
                    .or_default()
                    .push((index, sample.px));
            }
            continue;
        }
        for camera in delivery.cameras.iter().step_by(step) {
            let lens = delivery.lens_of(camera);
            let px = lens.project(&camera.pose, &point.place);
            if let Some(px) = px.filter(|px| lens.holds(*px)) {
                shown.entry(camera.frame).or_default().push((index, px));
            }
        }
    }
    shown
}
