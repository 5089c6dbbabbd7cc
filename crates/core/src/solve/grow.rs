//! Given two cameras and their landmarks, where are all other cameras and landmarks?
//!
//! [`over_all_frames`] adds the key frame that sees most landmarks to a [`World`], triangulates what its
//! rays allow, adjusts all whenever a third more cameras stand, and fills the frames between key frames
//! last.
//!
//! Preconditions: two posed frames with landmarks between them, or one of a camera that only turns
//! ([`super::start`]), or an earlier attempt ([`World::from_attempt`]). The only failure of its own is
//! being cancelled.

use super::bundle::Loss;
use super::finish::LAST_SCALE_PX;
use super::parts;
use super::underway::{Stage, Underway};
use super::views::Views;
use super::world::{FEWEST_SIGHTS, FIT_PX, LEAST_ANGLE_RAD, World};
use super::{SolveError, SolveOptions};
use crate::progress::{Checkpoints, Progress};

/// Landmarks from which a camera hangs on firmly.
pub const FIRMLY: usize = 20;

/// Key frames are adjusted to rest before all frames are in shots that are as long, ...
const LONG: usize = 150;
/// ... where they are at most one in so many, ...
const SETTLING: usize = 3;
/// ... in so many steps.
const SETTLING_STEPS: (usize, f64) = (40, 1e-5);

/// Grows the world over the key frames, then over all frames.
pub fn over_all_frames(
    views: &Views,
    options: &SolveOptions,
    keys: &[usize],
    underway: &mut Underway,
    checkpoints: &dyn Checkpoints<Underway>,
    progress: &dyn Progress,
) -> Result<(), SolveError> {
    let over = Over {
        views,
        keys,
        checkpoints,
        progress,
    };
    let broken_off = |before: &Underway, cancelled| {
        checkpoints.leave(before);
        Err(cancelled)
    };
    if let Stage::Growing { .. } = underway.stage {
        over.key_frames(FIRMLY, underway)?;
        let before = underway.clone();
        if let Err(cancelled) = parts::add(views, options, keys, &mut underway.world, progress) {
            return broken_off(&before, cancelled);
        }
        let adjusted_at = underway.world.pose_count();
        underway.stage = Stage::Bridging { adjusted_at };
    }
    if let Stage::Bridging { .. } = underway.stage {
        over.key_frames(FEWEST_SIGHTS, underway)?;
        underway.stage = Stage::Grown;
    }
    if let Stage::Grown = underway.stage {
        let before = underway.clone();
        tidy(views, &mut underway.world, 10, progress);
        let is_settled = settle(views, &mut underway.world, progress);
        if let Err(cancelled) = fill_between(views, &mut underway.world, progress) {
            return broken_off(&before, cancelled);
        }
        if is_settled {
            underway.world.drop_misfits(views, FIT_PX);
        }
        parts::close(views, &mut underway.world, progress);
        if progress.is_cancelled() {
            return broken_off(&before, SolveError::Cancelled);
        }
        if options.solve_lens.any() {
            underway.world.free = options.free_lens();
        }
        underway.stage = Stage::of_finish();
    }
    Ok(())
}

/// Grows a world over key frames that each see at least `least` of its landmarks; false where it was
/// cancelled.
pub fn over_key_frames(
    views: &Views,
    keys: &[usize],
    world: &mut World,
    least: usize,
    progress: &dyn Progress,
) -> bool {
    let mut adjusted_at = world.pose_count();
    loop {
        if progress.is_cancelled() {
            return false;
        }
        if !step(views, keys, world, least, &mut adjusted_at, progress) {
            return true;
        }
    }
}

/// Adds one key frame, and adjusts where a third more cameras stand; false where none can be added.
fn step(
    views: &Views,
    keys: &[usize],
    world: &mut World,
    least: usize,
    adjusted_at: &mut usize,
    progress: &dyn Progress,
) -> bool {
    let Some(frame) = next_frame(views, world, keys, least) else {
        return false;
    };
    if !world.resect(views, frame, least) {
        world.triangulate(views, LEAST_ANGLE_RAD);
        if !world.resect(views, frame, least) {
            return false;
        }
    }
    world.triangulate(views, 2.0 * LEAST_ANGLE_RAD);
    if world.pose_count() as f64 >= 1.35 * *adjusted_at as f64 {
        tidy(views, world, 6, progress);
        *adjusted_at = world.pose_count();
    }
    true
}

/// A shot whose key frames are added one after the other.
struct Over<'a> {
    views: &'a Views,
    keys: &'a [usize],
    checkpoints: &'a dyn Checkpoints<Underway>,
    progress: &'a dyn Progress,
}

impl Over<'_> {
    /// Adds key frames that see at least `least` landmarks.
    fn key_frames(&self, least: usize, underway: &mut Underway) -> Result<(), SolveError> {
        // As it was before the last step, for the case that the step is broken off.
        let mut before = underway.clone();
        loop {
            if self.progress.is_cancelled() {
                self.checkpoints.leave(&before);
                return Err(SolveError::Cancelled);
            }
            before.clone_from(underway);
            if self.checkpoints.is_due() {
                self.checkpoints.leave(&before);
            }
            let Underway { world, stage, .. } = underway;
            let (Stage::Growing { adjusted_at } | Stage::Bridging { adjusted_at }) = stage else {
                return Ok(());
            };
            let total = self.views.frames.len();
            self.progress
                .report("solve: grow", world.pose_count(), total);
            if !step(
                self.views,
                self.keys,
                world,
                least,
                adjusted_at,
                self.progress,
            ) {
                return Ok(());
            }
        }
    }
}

/// Adjusts, and leaves out what does not fit.
pub fn tidy(views: &Views, world: &mut World, iterations: usize, progress: &dyn Progress) {
    world.adjust(
        views,
        Loss::Cauchy(views.in_sigmas(1.0)),
        (iterations, 1e-3),
        progress,
    );
    world.drop_misfits(views, FIT_PX);
    world.triangulate(views, LEAST_ANGLE_RAD);
}

/// Adjusts the key frames of a long shot to rest, which costs a fraction of what it costs over all its
/// frames: what does not fit them need not be pulled at by all. Whether it is so long.
fn settle(views: &Views, world: &mut World, progress: &dyn Progress) -> bool {
    let all = views.frames.len();
    if all < LONG || world.pose_count() * SETTLING > all {
        return false;
    }
    for scale_px in [1.0, LAST_SCALE_PX] {
        let loss = Loss::Cauchy(views.in_sigmas(scale_px));
        world.adjust(views, loss, SETTLING_STEPS, progress);
        world.drop_misfits(views, FIT_PX);
        world.triangulate(views, LEAST_ANGLE_RAD);
    }
    true
}

/// The unsolved key frame that sees most landmarks among those nearest to the solved ones.
fn next_frame(views: &Views, world: &World, keys: &[usize], least: usize) -> Option<usize> {
    let landmarks = |frame: usize| {
        views.by_frame[frame]
            .iter()
            .filter(|(t, _)| world.points[*t].is_some())
            .count()
    };
    keys.iter()
        .copied()
        .filter(|&k| world.poses[k].is_none())
        .map(|k| (landmarks(k), k))
        .filter(|(count, _)| *count >= least)
        .max()
        .map(|(_, k)| k)
}

/// Resects all frames that are left, nearest to solved ones first.
pub fn fill_between(
    views: &Views,
    world: &mut World,
    progress: &dyn Progress,
) -> Result<(), SolveError> {
    let total = views.frames.len();
    for _ in 0..3 {
        let open: Vec<usize> = (0..total).filter(|&f| world.poses[f].is_none()).collect();
        if open.is_empty() {
            break;
        }
        for frame in open {
            if progress.is_cancelled() {
                return Err(SolveError::Cancelled);
            }
            world.resect(views, frame, FEWEST_SIGHTS);
            progress.report("solve: frames", world.pose_count(), total);
        }
        world.triangulate(views, LEAST_ANGLE_RAD);
    }
    Ok(())
}
