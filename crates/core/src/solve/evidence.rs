//! Does the shot hold a travelling camera, and on which frames does it show best?
//!
//! Two models are held against each other on pairs of frames: a rotation with the candidate
//! focal lengths (its median misfit is the parallax), and none at all (the median motion).
//! Both are medians, so things that move by themselves do not decide while they are fewer
//! than half of the features.

use super::two_view::fit_rotation;
use super::views::Views;
use super::{FocalKnowledge, SolveError, SolveOptions};
use crate::progress::Progress;
use crate::spaces::PlatePx;
use crate::statistics::median;
use nalgebra::Vector3;
use rayon::prelude::*;
use std::sync::atomic::{AtomicUsize, Ordering};

/// Two frames to start from.
#[derive(Clone, Copy, Debug)]
pub struct StartingPair {
    /// Index of the earlier frame.
    pub first: usize,
    /// Index of the later frame.
    pub second: usize,
    /// Tracks that both see.
    pub shared: usize,
    /// Median misfit of the best rotation, px.
    pub parallax_px: f64,
}

/// A new key frame comes when features have moved by this share of the width, or ...
const KEY_MOTION: f64 = 0.02;
/// ... at the latest after this many frames.
const KEY_GAP: usize = 8;
/// Pairs need at least this many tracks in common.
const FEWEST_SHARED: usize = 24;
/// Below this motion over the shot nothing moves, px at 1280.
const STILL_PX: f64 = 0.8;
/// Below this parallax on the best pair the camera only turns, px at 1280. Chosen
/// ten times above the residuals of well-followed features.
const NODAL_PX: f64 = 1.2;

/// Frames that differ enough from each other to be worth solving first; first and last included.
pub fn key_frames(views: &Views) -> Result<Vec<usize>, SolveError> {
    let mut keys = vec![0];
    let enough_px = KEY_MOTION * 1280.0 * views.px_scale;
    let mut last = 0;
    let mut greatest: f64 = 0.0;
    for frame in 1..views.frames.len() {
        let motion = median_motion(&views.shared(last, frame));
        greatest = greatest.max(motion.unwrap_or(f64::INFINITY));
        if motion.is_none_or(|m| m >= enough_px) || frame - last >= KEY_GAP {
            keys.push(frame);
            last = frame;
        }
    }
    if keys.last() != Some(&(views.frames.len() - 1)) {
        keys.push(views.frames.len() - 1);
    }
    let over_all = motion_over_shot(views, &keys).max(greatest);
    if over_all < STILL_PX * views.px_scale {
        return Err(SolveError::NoMotion {
            motion_px: over_all,
        });
    }
    Ok(keys)
}

fn motion_over_shot(views: &Views, keys: &[usize]) -> f64 {
    keys.iter()
        .filter_map(|&k| median_motion(&views.shared(0, k)))
        .fold(0.0, f64::max)
}

fn median_motion(shared: &[(usize, PlatePx, PlatePx)]) -> Option<f64> {
    if shared.len() < 8 {
        return None;
    }
    let mut moved: Vec<f64> = shared.iter().map(|(_, a, b)| a.distance_px(*b)).collect();
    median(&mut moved)
}

/// Focal lengths worth trying, px: the known one, or eleven from wide to long.
pub fn candidate_focals(options: &SolveOptions) -> Vec<f64> {
    match options.focal {
        FocalKnowledge::Known(focal_px) => vec![focal_px],
        FocalKnowledge::Unknown => {
            let width = f64::from(options.lens.width_px);
            (0..11)
                .map(|i| width * 0.45 * (4.0f64 / 0.45).powf(f64::from(i) / 10.0))
                .collect()
        }
    }
}

/// Pairs of key frames with parallax and enough tracks in common, best first.
pub fn starting_pairs(
    views: &Views,
    options: &SolveOptions,
    keys: &[usize],
    progress: &dyn Progress,
) -> Result<Vec<StartingPair>, SolveError> {
    let candidates: Vec<(usize, usize)> = keys
        .iter()
        .enumerate()
        .flat_map(|(i, &a)| keys[i + 1..].iter().take(14).map(move |&b| (a, b)))
        .collect();
    let focals = candidate_focals(options);
    let (total, done) = (candidates.len(), AtomicUsize::new(0));
    let mut pairs: Vec<StartingPair> = candidates
        .into_par_iter()
        .filter_map(|(first, second)| {
            if progress.is_cancelled() {
                return None;
            }
            let judged = judged_pair(views, options, &focals, first, second);
            progress.report(
                "solve: evidence",
                done.fetch_add(1, Ordering::Relaxed) + 1,
                total,
            );
            judged
        })
        .collect();
    if progress.is_cancelled() {
        return Err(SolveError::Cancelled);
    }
    let parallax_px = pairs.iter().map(|p| p.parallax_px).fold(0.0, f64::max);
    if pairs.is_empty() {
        return Err(SolveError::NoStart);
    }
    if parallax_px < NODAL_PX * views.px_scale {
        return Err(SolveError::NoParallax { parallax_px });
    }
    // Parallax helps up to about 30 px at 1280; beyond, tracks in common matter more.
    let worth = |p: &StartingPair| {
        (p.parallax_px / views.px_scale).min(30.0) * (p.shared as f64).min(200.0).sqrt()
    };
    pairs.sort_by(|a, b| worth(b).total_cmp(&worth(a)).then(a.first.cmp(&b.first)));
    Ok(apart(pairs))
}

fn judged_pair(
    views: &Views,
    options: &SolveOptions,
    focals: &[f64],
    first: usize,
    second: usize,
) -> Option<StartingPair> {
    let shared = views.shared(first, second);
    if shared.len() < FEWEST_SHARED {
        return None;
    }
    let parallax_px = focals
        .iter()
        .filter_map(|&focal_px| {
            let lens = options.lens.with_focal(focal_px);
            let bearing = |px: PlatePx| -> Option<Vector3<f64>> {
                Some(lens.lens_point(px)?.ray().normalize())
            };
            let pairs: Vec<_> = shared
                .iter()
                .filter_map(|(_, a, b)| Some((bearing(*a)?, bearing(*b)?)))
                .collect();
            Some(fit_rotation(&pairs)?.median_rad * focal_px)
        })
        .fold(f64::INFINITY, f64::min);
    parallax_px.is_finite().then_some(StartingPair {
        first,
        second,
        shared: shared.len(),
        parallax_px,
    })
}

/// The best pairs that do not lie on top of each other.
fn apart(sorted: Vec<StartingPair>) -> Vec<StartingPair> {
    let mut taken: Vec<StartingPair> = Vec::new();
    for pair in sorted {
        let near =
            |t: &StartingPair| t.first.abs_diff(pair.first) + t.second.abs_diff(pair.second) < 12;
        if !taken.iter().any(near) {
            taken.push(pair);
        }
        if taken.len() == 3 {
            break;
        }
    }
    taken
}
