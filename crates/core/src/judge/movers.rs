//! Which features move against the camera's motion?
//!
//! Before anything is solved, pairs of frames with motion between them are held against the
//! epipolar geometry that most features agree on. A feature that disagrees on most of its
//! pairs moves by itself (or slips along an edge between near and far) and is set aside.

use crate::progress::Progress;
use crate::solve::two_view::fundamental_consensus;
use crate::spaces::{FrameNumber, PlatePx, TrackId};
use crate::tracks::{Track, frames_of};
use rayon::prelude::*;
use std::collections::{HashMap, HashSet};
use std::sync::atomic::{AtomicUsize, Ordering};

/// Farther than this from its epipolar line a feature disagrees, px at 1280.
const DISAGREES_PX: f64 = 1.2;
/// Pairs of frames that are compared at most.
const MOST_PAIRS: usize = 48;
/// A feature needs to have been compared this often.
const LEAST_COMPARED: usize = 2;

/// Tracks that move against the camera's motion; those found so far when it is cancelled.
pub fn movers(tracks: &[Track], width_px: u32, progress: &dyn Progress) -> Vec<TrackId> {
    let limit_px = DISAGREES_PX * (f64::from(width_px) / 1280.0).clamp(0.5, 4.0);
    let frames = frames_of(tracks);
    let pairs = pairs(&frames);
    let (total, done) = (pairs.len(), AtomicUsize::new(0));
    let votes: Vec<Vec<(usize, bool)>> = pairs
        .into_par_iter()
        .filter(|_| !progress.is_cancelled())
        .map(|(a, b)| {
            let votes = compare(tracks, a, b, limit_px);
            progress.report(
                "judge: pairs of frames",
                done.fetch_add(1, Ordering::Relaxed) + 1,
                total,
            );
            votes
        })
        .collect();
    let mut tally: HashMap<usize, (usize, usize)> = HashMap::new();
    for (track, disagrees) in votes.into_iter().flatten() {
        let entry = tally.entry(track).or_default();
        entry.0 += 1;
        entry.1 += usize::from(disagrees);
    }
    let mut out: Vec<TrackId> = tally
        .into_iter()
        .filter(|(_, (compared, against))| *compared >= LEAST_COMPARED && against * 2 > *compared)
        .map(|(track, _)| tracks[track].id)
        .collect();
    out.sort_unstable();
    out
}

/// A feature that lives this long is judged by its own path.
const LONG_ENOUGH_FRAMES: usize = 10;
/// Neighbours nearer than this share of the picture's width are asked about a short-lived feature.
const BESIDE: f64 = 0.05;

/// Short-lived features half or more of whose nearest neighbours move by themselves: too little is seen
/// of them to tell from their own path, and they sit on what does.
pub fn beside(tracks: &[Track], known: &HashSet<TrackId>, width_px: u32) -> Vec<TrackId> {
    let reach = BESIDE * f64::from(width_px);
    let mut on_frame: HashMap<FrameNumber, Vec<(PlatePx, bool)>> = HashMap::new();
    for t in tracks
        .iter()
        .filter(|t| known.contains(&t.id) || t.samples.len() >= LONG_ENOUGH_FRAMES)
    {
        for s in &t.samples {
            on_frame
                .entry(s.frame)
                .or_default()
                .push((s.px, known.contains(&t.id)));
        }
    }
    let sits_on_one = |t: &&Track| {
        let Some(s) = t.samples.get(t.samples.len() / 2) else {
            return false;
        };
        let mut near: Vec<(f64, bool)> = on_frame
            .get(&s.frame)
            .into_iter()
            .flatten()
            .map(|(px, moves)| (px.distance_px(s.px), *moves))
            .filter(|(d, _)| *d < reach)
            .collect();
        near.sort_by(|a, b| a.0.total_cmp(&b.0));
        near.truncate(5);
        !near.is_empty() && 2 * near.iter().filter(|n| n.1).count() >= near.len()
    };
    let short = tracks
        .iter()
        .filter(|t| !known.contains(&t.id) && t.samples.len() < LONG_ENOUGH_FRAMES);
    short.filter(sits_on_one).map(|t| t.id).collect()
}

/// Pairs of frames at two distances, spread over the shot.
fn pairs(frames: &[FrameNumber]) -> Vec<(FrameNumber, FrameNumber)> {
    let mut out = Vec::new();
    for gap in [6, 16] {
        let starts = frames.len().saturating_sub(gap);
        let stride = starts.div_ceil(MOST_PAIRS / 2).max(1);
        out.extend(
            (0..starts)
                .step_by(stride)
                .map(|i| (frames[i], frames[i + gap])),
        );
    }
    out
}

fn compare(tracks: &[Track], a: FrameNumber, b: FrameNumber, limit_px: f64) -> Vec<(usize, bool)> {
    let (indices, positions): (Vec<usize>, Vec<(PlatePx, PlatePx)>) = tracks
        .iter()
        .enumerate()
        .filter_map(|(i, t)| Some((i, (t.at(a)?.px, t.at(b)?.px))))
        .unzip();
    let moved = positions
        .iter()
        .filter(|(p, q)| p.distance_px(*q) > 2.0 * limit_px)
        .count();
    // Without motion every feature agrees with any geometry: nothing is learnt.
    if moved * 2 < positions.len() {
        return Vec::new();
    }
    let seed = (i64::from(a.0) * 1000 + i64::from(b.0)) as u64;
    let Some(consensus) = fundamental_consensus(&positions, limit_px, seed) else {
        return Vec::new();
    };
    // When hardly anything agrees, the geometry is not the scene's.
    if consensus.cost > 0.6 * positions.len() as f64 {
        return Vec::new();
    }
    indices
        .into_iter()
        .zip(consensus.distances_px)
        .map(|(i, d)| (i, d > limit_px))
        .collect()
}
