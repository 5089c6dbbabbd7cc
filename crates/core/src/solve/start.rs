//! From which frames, and with which focal length, does the solve begin?
//!
//! Every starting pair is tried with every candidate focal length: relative pose by
//! consensus, landmarks by triangulation, a few key frames by resection, a short adjustment
//! with the focal length set free. The candidates are compared by the same bounded cost over
//! all positions on those frames, so that a focal length that explains fewer features does not win.

use super::bundle::{FreeLens, Loss, residual};
use super::evidence::{StartingPair, candidate_focals};
use super::grow::World;
use super::two_view::{RelativePoseSearch, relative_pose};
use super::views::Views;
use super::{FocalKnowledge, SolveError, SolveOptions};
use crate::camera::Pose;
use crate::progress::Progress;
use crate::spaces::FrameNumber;
use rayon::prelude::*;

/// A first piece of the solved world.
pub struct Seed {
    /// Cameras and landmarks so far.
    pub world: World,
    /// The pair it grew from.
    pub pair: (FrameNumber, FrameNumber),
    /// Mean bounded cost per position, 0 to 1.
    pub cost: f64,
}

/// Sampson distance of an inlier, px at 1280.
const INLIER_PX: f64 = 1.5;
/// Scale of the bounded cost by which starts are compared, px at 1280.
const SCORE_PX: f64 = 1.0;
/// A start that leaves this much of the bounded cost explains nothing.
const WORST_COST: f64 = 0.75;
/// Key frames beside the pair that take part.
const HELPERS: usize = 5;

/// The best of all starts.
pub fn best_start(
    views: &Views,
    options: &SolveOptions,
    keys: &[usize],
    pairs: &[StartingPair],
    progress: &dyn Progress,
) -> Result<Seed, SolveError> {
    let focals = candidate_focals(options);
    let tasks: Vec<(StartingPair, f64)> = pairs
        .iter()
        .flat_map(|p| focals.iter().map(|f| (*p, *f)))
        .collect();
    let done = std::sync::atomic::AtomicUsize::new(0);
    let seeds: Vec<Option<Seed>> = tasks
        .par_iter()
        .map(|(pair, focal_px)| {
            if progress.is_cancelled() {
                return None;
            }
            let seed = try_start(views, options, keys, pair, *focal_px, progress);
            let count = done.fetch_add(1, std::sync::atomic::Ordering::Relaxed) + 1;
            progress.report("solve: start", count, tasks.len());
            seed
        })
        .collect();
    if progress.is_cancelled() {
        return Err(SolveError::Cancelled);
    }
    seeds
        .into_iter()
        .flatten()
        .filter(|s| s.cost < WORST_COST)
        .min_by(|a, b| a.cost.total_cmp(&b.cost))
        .ok_or(SolveError::NoStart)
}

fn try_start(
    views: &Views,
    options: &SolveOptions,
    keys: &[usize],
    pair: &StartingPair,
    focal_px: f64,
    progress: &dyn Progress,
) -> Option<Seed> {
    let lens = options.lens.with_focal(focal_px);
    let shared = views.shared(pair.first, pair.second);
    let bearings: Vec<_> = shared
        .iter()
        .filter_map(|(_, a, b)| Some((lens.lens_point(*a)?.ray(), lens.lens_point(*b)?.ray())))
        .collect();
    let search = RelativePoseSearch {
        threshold: INLIER_PX * views.px_scale / focal_px,
        samples: 120,
        seed: 7 + pair.first as u64,
    };
    let relative = relative_pose(&bearings, &search)?;
    let free = FreeLens {
        focal: options.focal == FocalKnowledge::Unknown,
        radial_terms: usize::from(options.solve_lens),
    };
    let mut world = World::empty(views, lens, free);
    world.poses[pair.first] = Some(Pose::identity());
    world.poses[pair.second] = Some(relative.pose);
    world.triangulate(views, 0.004);
    if world.point_count() < 12 {
        return None;
    }
    let helpers = helpers(keys, pair);
    for &frame in &helpers {
        world.resect(views, frame);
    }
    world.triangulate(views, 0.004);
    world.adjust(
        views,
        Loss::Cauchy(views.in_sigmas(2.0)),
        (12, 1e-3),
        progress,
    );
    world.drop_misfits(views, 4.0);
    world.triangulate(views, 0.004);
    world.adjust(
        views,
        Loss::Cauchy(views.in_sigmas(1.0)),
        (15, 1e-4),
        progress,
    );
    let width = f64::from(lens.width_px);
    if !(0.2 * width..=15.0 * width).contains(&world.lens.focal_px) {
        return None;
    }
    let cost = bounded_cost(views, &world);
    Some(Seed {
        world,
        pair: (views.frames[pair.first], views.frames[pair.second]),
        cost,
    })
}

/// Key frames between and just beyond the pair, nearest to evenly spread.
fn helpers(keys: &[usize], pair: &StartingPair) -> Vec<usize> {
    let near: Vec<usize> = keys
        .iter()
        .copied()
        .filter(|&k| k != pair.first && k != pair.second)
        .filter(|&k| k + 10 >= pair.first && k <= pair.second + 10)
        .collect();
    let stride = near.len().div_ceil(HELPERS).max(1);
    let mut chosen: Vec<usize> = near.iter().copied().step_by(stride).collect();
    chosen.sort_by_key(|&k| k.abs_diff(pair.first).min(k.abs_diff(pair.second)));
    chosen
}

/// Mean over all positions on the posed frames of r² / (c² + r²); positions of tracks
/// without a landmark count fully.
fn bounded_cost(views: &Views, world: &World) -> f64 {
    let (problem, back) = world.problem(views);
    let scale = SCORE_PX * views.px_scale;
    let posed = |frame: usize| world.poses[frame].is_some();
    let all: usize = views
        .seen
        .iter()
        .map(|list| list.iter().filter(|s| posed(s.frame)).count())
        .filter(|&count| count >= 2)
        .sum();
    // A frame that could not be resected counts as not explained at all.
    let explained: f64 = problem
        .observations
        .iter()
        .map(|o| {
            let off = residual::offset_px(&problem, o).map_or(f64::INFINITY, |r| r.norm_squared());
            1.0 / (1.0 + off / (scale * scale))
        })
        .sum();
    debug_assert_eq!(problem.points.len(), back.points.len());
    1.0 - explained / all.max(1) as f64
}
