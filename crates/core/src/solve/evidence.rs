//! Does the shot hold a travelling camera, and on which frames does it show best?
//!
//! Models are held against each other on pairs of frames: a rotation with the candidate focal
//! lengths (its median misfit is the parallax), the same with another focal length on the second
//! frame, and none at all (the median motion).
//! Both are medians, so things that move by themselves do not decide while they are fewer
//! than half of the features.

use super::bundle::{Loss, Motion, Observation};
use super::resect::{self, Expected, Unknown};
use super::two_view::fit_rotation;
use super::views::Views;
use super::{FocalKnowledge, SolveError, SolveOptions};
use crate::camera::{Eye, Intrinsics, Pose};
use crate::progress::Progress;
use crate::spaces::{PlatePx, WorldPoint};
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
pub(super) const FEWEST_SHARED: usize = 24;
/// Below this motion over the shot nothing moves, px at 1280.
const STILL_PX: f64 = 0.8;
/// Below this parallax on the best pair the camera only turns, px at 1280. Chosen
/// ten times above the residuals of well-followed features.
const NODAL_PX: f64 = 1.2;

/// A key frame is held against so many after it.
const REACH: usize = 14;
/// About so many pairs are looked at.
const MOST_PAIRS: usize = 350;
/// So many features of a pair are looked at.
const MOST_SHARED: usize = 120;

/// Pairs to start from, and what they show.
#[derive(Clone, Debug)]
pub struct Evidence {
    /// The best pairs, best first.
    pub pairs: Vec<StartingPair>,
    /// The greatest parallax over all pairs, px.
    pub parallax_px: f64,
}

/// Frames to solve first.
pub struct Keys {
    /// Their indices, ascending.
    pub frames: Vec<usize>,
    /// Median motion over the shot, px.
    pub motion_px: f64,
    /// Whether that is none.
    pub rests: bool,
}

/// Frames that differ enough from each other to be worth solving first; first and last included.
pub fn key_frames(views: &Views) -> Keys {
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
    Keys {
        frames: keys,
        motion_px: over_all,
        rests: over_all < STILL_PX * views.px_scale,
    }
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

/// One that is known to this share needs no others beside it to start from.
const NEARLY_KNOWN: f64 = 0.04;
/// Where one is known on the first frame, those on others are tried by this ratio, as far apart as where nothing is
/// known, ...
const ZOOMED_APART: f64 = 1.44;
/// ... so many to either side: from a third of it to three times as long.
const ZOOMED_STEPS: i32 = 3;

/// Focal lengths worth trying, px: the known one, those about it, or eleven from wide to long.
pub fn candidate_focals(options: &SolveOptions) -> Vec<f64> {
    match (options.focal, options.focal_to_begin_with) {
        (FocalKnowledge::Unknown, Some(focal_px)) => vec![focal_px],
        (known, _) => candidates_for(known, options),
    }
}

fn candidates_for(known: FocalKnowledge, options: &SolveOptions) -> Vec<f64> {
    match known {
        FocalKnowledge::Known(focal_px) => vec![focal_px],
        FocalKnowledge::About { px, sigma_px } if sigma_px < NEARLY_KNOWN * px => vec![px],
        FocalKnowledge::About { px, sigma_px } => {
            let off = [-1.5, 0.0, 1.5].map(|errors| px * (errors * sigma_px / px).exp());
            off.to_vec()
        }
        // On the frames that a solve starts from it may be another.
        FocalKnowledge::AtFirst { px, .. } => {
            let off = |k: i32| px * ZOOMED_APART.powi(k);
            (-ZOOMED_STEPS..=ZOOMED_STEPS).map(off).collect()
        }
        FocalKnowledge::Unknown => {
            let width = f64::from(options.lens.width_px);
            // With a focal length of its own for each frame there is more to try and less to gain.
            let count = if options.zooms == Some(true) { 7 } else { 11 };
            let share = |i| f64::from(i) / f64::from(count - 1);
            (0..count)
                .map(|i| width * 0.45 * (4.0f64 / 0.45).powf(share(i)))
                .collect()
        }
    }
}

/// Whether so much parallax is none.
pub fn is_none(views: &Views, parallax_px: f64) -> bool {
    parallax_px < NODAL_PX * views.px_scale
}

/// Pairs of key frames with parallax and enough tracks in common.
pub fn parallax(
    views: &Views,
    options: &SolveOptions,
    keys: &[usize],
    progress: &dyn Progress,
) -> Result<Evidence, SolveError> {
    let candidates = pairs_of(keys);
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
        let shared = pairs_of(keys).into_iter();
        let most = shared.map(|(a, b)| views.shared(a, b).len()).max();
        return Err(match most.unwrap_or(0) {
            most if most < FEWEST_SHARED => SolveError::TooFewShared {
                most,
                needed: FEWEST_SHARED,
            },
            _ => SolveError::NoStart,
        });
    }
    // Parallax helps up to about 30 px at 1280; beyond, tracks in common matter more.
    let worth = |p: &StartingPair| {
        (p.parallax_px / views.px_scale).min(30.0) * (p.shared as f64).min(200.0).sqrt()
    };
    pairs.sort_by(|a, b| worth(b).total_cmp(&worth(a)).then(a.first.cmp(&b.first)));
    let pairs = apart(pairs);
    Ok(Evidence { pairs, parallax_px })
}

/// Pairs of key frames that are looked at: each with those after it, or in long shots so many spread
/// evenly that the work does not grow with the shot.
fn pairs_of(keys: &[usize]) -> Vec<(usize, usize)> {
    let all = keys.len() * REACH;
    let stride = all.div_ceil(MOST_PAIRS).max(1);
    let (of_first, of_second) = match stride {
        1 => (1, 1),
        _ => (stride.div_ceil(2), 2),
    };
    let with_later = |i: usize| {
        let later = keys[i + 1..].iter().take(REACH).skip(of_second - 1);
        later.step_by(of_second).map(move |&b| (keys[i], b))
    };
    (0..keys.len())
        .step_by(of_first)
        .flat_map(with_later)
        .collect()
}

/// Whether one of the pairs that were found shows parallax under a model of the focal length, so that there is some
/// whatever the others show.
pub fn is_on_one(views: &Views, options: &SolveOptions, found: &Evidence) -> bool {
    let focals = candidate_focals(options);
    let has = |pair: &StartingPair| {
        let judged = judged_pair(views, options, &focals, pair.first, pair.second);
        judged.is_some_and(|judged| !is_none(views, judged.parallax_px))
    };
    found.pairs.par_iter().any(has)
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
    let count = shared.len();
    let stride = count.div_ceil(MOST_SHARED).max(1);
    let shared: Vec<_> = shared.into_iter().step_by(stride).collect();
    let misfit_px = |focal_px: f64| {
        let lens = options.lens.with_focal(focal_px);
        let misfit = match options.zooms {
            Some(true) => zoomed_misfit_px(views, &lens, &shared),
            _ => rotated(&lens, &shared).map(|fit| fit.median_rad * focal_px),
        };
        misfit.unwrap_or(f64::INFINITY)
    };
    let parallax_px = least_over_focals(focals, misfit_px);
    parallax_px.is_finite().then_some(StartingPair {
        first,
        second,
        shared: count,
        parallax_px,
    })
}

/// Times the step between two candidates is halved about the best one: over a wide turn a focal
/// length that is a few percent off looks like parallax.
const HALVINGS: i32 = 4;

/// The least misfit over candidate focal lengths and about the best of them.
fn least_over_focals(focals: &[f64], misfit_px: impl Fn(f64) -> f64) -> f64 {
    let of = |focal_px: &f64| (misfit_px(*focal_px), *focal_px);
    let Some(mut best) = focals
        .iter()
        .map(of)
        .min_by(|a, b| a.0.total_cmp(&b.0))
        .filter(|best| best.0.is_finite())
    else {
        return f64::INFINITY;
    };
    if let [first, second, ..] = focals {
        let step = second / first;
        for halving in 1..=HALVINGS {
            let by = step.powf(0.5f64.powi(halving));
            for focal_px in [best.1 * by, best.1 / by] {
                let misfit = misfit_px(focal_px);
                if misfit < best.0 {
                    best = (misfit, focal_px);
                }
            }
        }
    }
    best.0
}

/// The rotation between two frames by one focal length.
fn rotated(
    lens: &Intrinsics,
    shared: &[(usize, PlatePx, PlatePx)],
) -> Option<super::two_view::RotationFit> {
    let bearing = |px: PlatePx| Some(lens.lens_point(px)?.ray().normalize());
    let pairs: Vec<(Vector3<f64>, Vector3<f64>)> = shared
        .iter()
        .filter_map(|(_, a, b)| Some((bearing(*a)?, bearing(*b)?)))
        .collect();
    fit_rotation(&pairs)
}

/// What a rotation and another focal length on the second frame leave in the median, px.
fn zoomed_misfit_px(
    views: &Views,
    lens: &Intrinsics,
    shared: &[(usize, PlatePx, PlatePx)],
) -> Option<f64> {
    let turn = rotated(lens, shared)?.rotation;
    let sight = |(_, a, b): &(usize, PlatePx, PlatePx)| {
        let observation = Observation {
            camera: 0,
            point: 0,
            px: *b,
            whitening: [1.0, 0.0, 1.0],
        };
        Some((lens.lens_point(*a)?.ray().normalize(), observation))
    };
    let sights: Vec<_> = shared.iter().filter_map(sight).collect();
    let start = Eye {
        lens: *lens,
        pose: Pose::from_parts(turn, Vector3::zeros()),
    };
    let unknown = Unknown {
        motion: Motion::Turning,
        zooms: Some(Expected::NOTHING),
    };
    let loss = Loss::Cauchy(NODAL_PX * views.px_scale);
    let (eye, _) = resect::refine(start, unknown, &sights, loss, 1.0);
    let off = |(point, o): &resect::Sight| {
        let px = eye.lens.project(&eye.pose, &WorldPoint((*point).into()));
        px.map_or(f64::INFINITY, |px| px.distance_px(o.px))
    };
    median(&mut sights.iter().map(off).collect::<Vec<_>>())
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
