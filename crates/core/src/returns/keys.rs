//! Frames on which it is worth while to take the looks of all features.

use crate::spaces::FrameNumber;
use crate::tracks::Track;

/// A frame is a key frame once so many of the features of the last one have ended ...
const LEFT: f64 = 0.6;
/// ... or after so many frames.
const LONGEST: usize = 24;
/// At most so many; all pairs of them are looked at.
const MOST: usize = 96;
/// A shot in which so many of the features of each key frame are still there on each other one
/// hangs together by itself.
const SHARED: f64 = 0.5;

/// Indices of key frames, ascending.
pub fn chosen(tracks: &[Track], frames: &[FrameNumber]) -> Vec<usize> {
    let seen = seen(tracks, frames);
    let mut keys = Vec::new();
    let mut last: Option<(usize, &Vec<usize>)> = None;
    for (index, here) in seen.iter().enumerate() {
        let is_next = last.is_none_or(|(at, there)| {
            let left = shared(there, here) as f64;
            left < LEFT * there.len() as f64 || index - at >= LONGEST
        });
        if is_next && !here.is_empty() {
            keys.push(index);
            last = Some((index, here));
        }
    }
    let stride = keys.len().div_ceil(MOST).max(1);
    keys.into_iter().step_by(stride).collect()
}

/// Whether nothing can come back since nothing was lost.
pub fn hang_together(tracks: &[Track], frames: &[FrameNumber], keys: &[usize]) -> bool {
    let seen = seen(tracks, frames);
    let Some(first) = keys.first() else {
        return true;
    };
    keys.iter()
        .all(|k| shared(&seen[*first], &seen[*k]) as f64 >= SHARED * seen[*first].len() as f64)
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
