//! Frames on which it is worth while to take the looks of all features.

use crate::spaces::FrameNumber;
use crate::tracks::Track;

/// A frame is a key frame once it shares less than so much of its features, or of those of the last
/// one, with that ...
const LEFT: f64 = 0.6;
/// ... or after so many frames.
const LONGEST: usize = 24;
/// At most so many; all pairs of them are looked at.
const MOST: usize = 96;
/// A shot in which so many of the features of the first key frame are still there on each other one
/// hangs together by itself.
const SHARED: f64 = 0.5;
/// The frame before one on which so many of its features have ended is one as well: nothing was lost yet.
const ABRUPT: f64 = 0.8;

/// Indices of key frames, ascending; none of a shot that hangs together by itself.
pub fn chosen(tracks: &[Track], frames: &[FrameNumber]) -> Vec<usize> {
    let seen = seen(tracks, frames);
    let mut keys: Vec<usize> = Vec::new();
    for (index, here) in seen.iter().enumerate() {
        let is_next = keys.last().is_none_or(|&last| {
            let (there, left) = (&seen[last], shared(&seen[last], here) as f64);
            left < LEFT * there.len().max(here.len()) as f64 || index - last >= LONGEST
        });
        let goes_on = index.checked_sub(1).map(|before| &seen[before]);
        let abrupt = goes_on.filter(|before| {
            (shared(before, here) as f64) < ABRUPT * before.len() as f64
                && keys.last().is_some_and(|last| last + 1 < index)
        });
        if abrupt.is_some() {
            keys.push(index - 1);
        }
        if is_next && !here.is_empty() {
            keys.push(index);
        }
    }
    let first = keys.first().map(|first| &seen[*first]);
    let is_still_there = |first: &Vec<usize>, key: &usize| {
        shared(first, &seen[*key]) as f64 >= SHARED * first.len() as f64
    };
    if first.is_none_or(|first| keys.iter().all(|key| is_still_there(first, key))) {
        return Vec::new();
    }
    let stride = keys.len().div_ceil(MOST).max(1);
    keys.into_iter().step_by(stride).collect()
}

/// Tracks that each frame sees, ascending.
fn seen(tracks: &[Track], frames: &[FrameNumber]) -> Vec<Vec<usize>> {
    let mut seen = vec![Vec::new(); frames.len()];
    for (track, t) in tracks.iter().enumerate() {
        for s in &t.samples {
            if let Ok(index) = frames.binary_search(&s.frame) {
                seen[index].push(track);
            }
        }
    }
    seen
}

fn shared(a: &[usize], b: &[usize]) -> usize {
    a.iter().filter(|t| b.binary_search(t).is_ok()).count()
}
