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
use super::underway::{Stage, Underway};
use super::views::Views;
use super::world::{FIT_PX, LEAST_ANGLE_RAD, World};
use super::{SolveError, SolveOptions};
use crate::progress::{Checkpoints, Progress};

/// Grows the world over the key frames, then over all frames.
pub fn over_all_frames(
    views: &Views,
    options: &SolveOptions,
    keys: &[usize],
    underway: &mut Underway,
    checkpoints: &dyn Checkpoints<Underway>,
    progress: &dyn Progress,
) -> Result<(), SolveError> {
    if let Stage::Growing { adjusted_at } = underway.stage {
        over_key_frames(views, keys, adjusted_at, underway, checkpoints, progress)?;
    }
    if let Stage::Grown = underway.stage {
        let before = underway.clone();
        tidy(views, &mut underway.world, 10, progress);
        if let Err(cancelled) = fill_between(views, &mut underway.world, progress) {
            checkpoints.leave(&before);
            return Err(cancelled);
        }
        if options.solve_lens {
            underway.world.free.radial_terms = 2;
        }
        underway.stage = Stage::of_finish();
    }
    Ok(())
}

/// Grows the world over the key frames, adjusting whenever a third more cameras stand.
fn over_key_frames(
    views: &Views,
    keys: &[usize],
    mut adjusted_at: usize,
    underway: &mut Underway,
    checkpoints: &dyn Checkpoints<Underway>,
    progress: &dyn Progress,
) -> Result<(), SolveError> {
    let total = views.frames.len();
    // As it was before the last step, for the case that the step is broken off.
    let mut before = underway.clone();
    loop {
        if progress.is_cancelled() {
            checkpoints.leave(&before);
            return Err(SolveError::Cancelled);
        }
        underway.stage = Stage::Growing { adjusted_at };
        before.clone_from(underway);
        if checkpoints.is_due() {
            checkpoints.leave(&before);
        }
        let world = &mut underway.world;
        progress.report("solve: grow", world.pose_count(), total);
        let Some(frame) = next_frame(views, world, keys) else {
            break;
        };
        if !world.resect(views, frame) {
            world.triangulate(views, LEAST_ANGLE_RAD);
            if !world.resect(views, frame) {
                break;
            }
        }
        world.triangulate(views, 2.0 * LEAST_ANGLE_RAD);
        if world.pose_count() as f64 >= 1.35 * adjusted_at as f64 {
            tidy(views, world, 6, progress);
            adjusted_at = world.pose_count();
        }
    }
    underway.stage = Stage::Grown;
    Ok(())
}

fn tidy(views: &Views, world: &mut World, iterations: usize, progress: &dyn Progress) {
    world.adjust(
        views,
        Loss::Cauchy(views.in_sigmas(1.0)),
        (iterations, 1e-3),
        progress,
    );
    world.drop_misfits(views, FIT_PX);
    world.triangulate(views, LEAST_ANGLE_RAD);
}

/// The unsolved key frame that sees most landmarks among those nearest to the solved ones.
fn next_frame(views: &Views, world: &World, keys: &[usize]) -> Option<usize> {
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
        .filter(|(count, _)| *count >= 6)
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
            world.resect(views, frame);
            progress.report("solve: frames", world.pose_count(), total);
        }
        world.triangulate(views, LEAST_ANGLE_RAD);
    }
    Ok(())
}
