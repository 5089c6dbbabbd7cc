//! From which frames, and with which focal length, does the solve begin?
//!
//! Every starting pair is tried with every candidate focal length: relative pose by
//! consensus, landmarks by triangulation, a few key frames by resection, a short adjustment
//! with the focal length set free. The candidates are compared by the same bounded cost over
//! all positions on those frames, so that a focal length that explains fewer features does not win.
//!
//! Where the focal length changes, the second frame of a pair is tried with several of its own. A
//! camera that only turns starts from single frames, whose bearings are the first directions.

use super::bundle::{FreeLens, Loss, Motion, residual};
use super::evidence::{StartingPair, candidate_focals};
use super::two_view::{RelativePoseSearch, relative_pose};
use super::views::Views;
use super::world::{FEWEST_SIGHTS, World};
use super::{LensTerms, SolveError, SolveOptions};
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
/// Key frames beside the first that take part where the camera only turns.
const TURNING_HELPERS: usize = 10;
/// Frames that a turning camera is started from.
const TURNING_STARTS: usize = 3;
/// Focal lengths of the second frame by that of the first that are tried where it changes.
const RATIOS: [f64; 5] = [0.72, 0.86, 1.0, 1.17, 1.4];

/// One thing to try.
#[derive(Clone, Copy)]
struct Try {
    /// The pair, twice the same frame where the camera only turns.
    frames: (usize, usize),
    /// Focal length of the first frame, px.
    focal_px: f64,
    /// Focal length of the second by that of the first.
    ratio: f64,
}

/// The best of all starts.
pub fn best_start(
    views: &Views,
    options: &SolveOptions,
    keys: &[usize],
    pairs: &[StartingPair],
    progress: &dyn Progress,
) -> Result<Seed, SolveError> {
    let ratios = match (options.motion(), options.zooms) {
        (Motion::Free, Some(true)) => &RATIOS[..],
        _ => &[1.0],
    };
    let stated = options.start_from.and_then(|(first, last)| {
        let index = |frame| views.frames.binary_search(&frame).ok();
        Some((index(first)?, index(last)?))
    });
    let starts: Vec<(usize, usize)> = match (options.motion(), stated) {
        (Motion::Free, Some(pair)) => vec![pair],
        (Motion::Turning | Motion::Resting, Some((first, _))) => vec![(first, first)],
        (Motion::Free, None) => pairs.iter().map(|p| (p.first, p.second)).collect(),
        (Motion::Turning | Motion::Resting, None) => turning_starts(keys),
    };
    let focals = candidate_focals(options);
    let of_start = |frames: &(usize, usize)| -> Vec<Try> {
        let one = |focal_px: f64, ratio: f64| Try {
            frames: *frames,
            focal_px,
            ratio,
        };
        let all = focals
            .iter()
            .flat_map(|f| ratios.iter().map(move |r| (*f, *r)));
        all.map(|(focal_px, ratio)| one(focal_px, ratio)).collect()
    };
    let tasks: Vec<Try> = starts.iter().flat_map(of_start).collect();
    let done = std::sync::atomic::AtomicUsize::new(0);
    let seeds: Vec<Option<Seed>> = tasks
        .par_iter()
        .map(|task| {
            if progress.is_cancelled() {
                return None;
            }
            let seed = try_start(views, options, keys, task, progress);
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
    start: &Try,
    progress: &dyn Progress,
) -> Option<Seed> {
    let free = FreeLens {
        focal: options.focal.is_solved(),
        lens: LensTerms {
            radial: options.solve_lens.radial.min(1),
            ..LensTerms::NONE
        },
        ..FreeLens::default()
    };
    let mut world = World::empty(views, options.lens.with_focal(start.focal_px), free);
    world.believed.focal_px = options.focal.about();
    world.motion = options.motion();
    world.believed.focal_at_first_px = options.focal.at_first();
    if options.zooms == Some(true) {
        world.set_zooming();
        world.is_growing = true;
    }
    let (first, second) = start.frames;
    world.poses[first] = Some(Pose::identity());
    if world.motion == Motion::Free {
        world.poses[second] = Some(second_pose(views, &mut world, start)?);
    }
    world.triangulate(views, 0.004);
    if world.point_count() < 12 {
        return None;
    }
    let mut wanted = helpers(keys, start.frames);
    for &frame in &wanted {
        world.resect(views, frame, FEWEST_SIGHTS);
        if world.motion == Motion::Turning {
            world.triangulate(views, 0.0);
        }
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
    let width = f64::from(world.lens.width_px);
    if !(0.2 * width..=15.0 * width).contains(&world.lens_at(first).focal_px) {
        return None;
    }
    wanted.extend([first, second]);
    let cost = bounded_cost(views, &world, &wanted);
    Some(Seed {
        world,
        pair: (views.frames[first], views.frames[second]),
        cost,
    })
}

/// Where the second camera stands; focal lengths of all frames go from the first's to the second's
/// in equal factors where they change.
fn second_pose(views: &Views, world: &mut World, start: &Try) -> Option<Pose> {
    let (first, second) = start.frames;
    let span = second as f64 - first as f64;
    for (frame, focal_px) in world.focals_px.iter_mut().enumerate() {
        let share = ((frame as f64 - first as f64) / span).clamp(0.0, 1.0);
        *focal_px = start.focal_px * start.ratio.powf(share);
    }
    let (lens, other) = (world.lens_at(first), world.lens_at(second));
    let bearings: Vec<_> = views
        .shared(first, second)
        .iter()
        .filter_map(|(_, a, b)| Some((lens.lens_point(*a)?.ray(), other.lens_point(*b)?.ray())))
        .collect();
    let search = RelativePoseSearch {
        threshold: INLIER_PX * views.px_scale / start.focal_px,
        samples: 120,
        seed: 7 + first as u64,
    };
    Some(relative_pose(&bearings, &search)?.pose)
}

/// Key frames spread over the shot, each with itself.
fn turning_starts(keys: &[usize]) -> Vec<(usize, usize)> {
    let at = |i: usize| keys[(2 * i + 1) * keys.len() / (2 * TURNING_STARTS)];
    let mut starts: Vec<usize> = (0..TURNING_STARTS).map(at).collect();
    starts.dedup();
    starts.into_iter().map(|frame| (frame, frame)).collect()
}

/// Key frames between and just beyond the pair, nearest to evenly spread.
fn helpers(keys: &[usize], (first, second): (usize, usize)) -> Vec<usize> {
    let mut nearest: Vec<usize> = keys.iter().copied().filter(|&k| k != first).collect();
    if first == second {
        nearest.sort_by_key(|&k| k.abs_diff(first));
        nearest.truncate(TURNING_HELPERS);
        return nearest;
    }
    let near: Vec<usize> = keys
        .iter()
        .copied()
        .filter(|&k| k != first && k != second)
        .filter(|&k| k + 10 >= first && k <= second + 10)
        .collect();
    let stride = near.len().div_ceil(HELPERS).max(1);
    let mut chosen: Vec<usize> = near.iter().copied().step_by(stride).collect();
    chosen.sort_by_key(|&k| k.abs_diff(first).min(k.abs_diff(second)));
    chosen
}

/// Mean over all positions on the frames that were wanted of r² / (c² + r²); positions of tracks
/// without a landmark count fully, and so do those on a frame that could not be resected.
fn bounded_cost(views: &Views, world: &World, wanted: &[usize]) -> f64 {
    let (problem, back) = world.problem(views);
    let scale = SCORE_PX * views.px_scale;
    let all: usize = views
        .seen
        .iter()
        .map(|list| list.iter().filter(|s| wanted.contains(&s.frame)).count())
        .filter(|&count| count >= 2)
        .sum();
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
