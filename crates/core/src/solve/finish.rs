//! The end of a solve: everything adjusted, what does not belong set aside.
//!
//! Three stages with ever narrower robust loss, each followed by leaving out what does not fit
//! and trying again what was left out; then adjusted until further steps gain nothing. A camera
//! that explains too little of what was seen is refused ([`SolveError::NotCredible`]); one that
//! is usable states its doubts ([`super::doubts`]).

use super::attempt::Attempt;
use super::believed::Steady;
use super::bundle::{FreeLens, Loss, Stop};
use super::carried::{carry, out_of_reach};
use super::misfits::rms_px;
use super::readout_check;
use super::stated::{self, Ended, state};
use super::survey::NoHold;
use super::underway::{Stage, Underway};
use super::views::{Seen, Views};
use super::world::World;
use super::{Readout, SolveError, SolveOptions, constraints, survey};
use crate::progress::{Checkpoints, Progress};

/// Positions farther than this from their landmark are left out at the end, px at 1280.
pub const MISFIT_PX: f64 = 2.0;
/// Scale of the last robust loss, px at 1280: a few times what well-followed features leave.
pub const LAST_SCALE_PX: f64 = 0.5;
/// With more than this share of the frames without a camera, those that can be carried over aside, there is none ...
const MOST_OUT_OF_REACH: f64 = 0.1;
/// ... and with this share of them in all.
const MOST_LOST: f64 = 0.25;
/// Below this share of fitting positions the camera is not believed.
const CREDIBLE_SHARE: f64 = 0.35;
/// Above this residual the camera is not believed, px at 1280.
const CREDIBLE_RMS_PX: f64 = 1.5;

/// Adjusts, sets aside and states.
pub fn finish(
    views: &Views,
    options: &SolveOptions,
    underway: Underway,
    checkpoints: &dyn Checkpoints<Underway>,
    progress: &dyn Progress,
) -> Result<Attempt, SolveError> {
    let Underway {
        mut world,
        started_from,
        stage,
    } = underway;
    let (begun, mut above_limit) = match stage {
        Stage::Finishing {
            rounds,
            above_limit,
        } if !above_limit.is_empty() => (rounds, above_limit),
        _ => (0, vec![false; views.tracks.len()]),
    };
    let all = views.frames.len();
    let far = out_of_reach(&world) as f64 > MOST_OUT_OF_REACH * all as f64;
    let many = (all - world.pose_count()) as f64 > MOST_LOST * all as f64;
    if let Some(lost) = world.poses.iter().position(Option::is_none)
        && (far || many)
    {
        return Err(SolveError::FramesUnreachable {
            solved: world.pose_count(),
            all,
            first_lost: views.frames[lost],
            last_lost: views.frames[lost + lost_on(&world, lost) - 1],
            linking: linking(views, &world),
        });
    }
    let free = options.free_lens();
    world.free = FreeLens {
        readout: world.readout.is_some() && options.readout.is_solved(),
        lens: free.lens.where_it_zooms(world.zooms()),
        ..free
    };
    world.is_growing = false;
    reach_the_first(&mut world);
    let early = Loss::Cauchy(views.in_sigmas(1.0));
    let last = Loss::Cauchy(views.in_sigmas(LAST_SCALE_PX));
    let stages = [
        (early, 12, 1e-3, 3.0),
        (last, 12, 1e-4, MISFIT_PX),
        (last, 20, 1e-4, MISFIT_PX),
    ];
    let left_at = |rounds, world: &World, above_limit: &[bool]| Underway {
        world: world.clone(),
        started_from,
        stage: Stage::Finishing {
            rounds,
            above_limit: above_limit.to_vec(),
        },
    };
    for (stage, (loss, iterations, decrease, misfit_px)) in
        stages.into_iter().enumerate().skip(begun)
    {
        progress.report("solve: adjust", stage, stages.len());
        let before = left_at(stage, &world, &above_limit);
        if checkpoints.is_due() {
            checkpoints.leave(&before);
        }
        world.adjust(views, loss, (iterations, decrease), progress);
        world.drop_misfits(views, misfit_px);
        if stage + 1 < stages.len() {
            world.triangulate_missing(views);
            drop_above_limit(views, options, &mut world, &mut above_limit);
        }
        if progress.is_cancelled() {
            checkpoints.leave(&before);
            return Err(SolveError::Cancelled);
        }
    }
    roll(views, options, &mut world, last, progress);
    if progress.is_cancelled() {
        checkpoints.leave(&left_at(stages.len(), &world, &above_limit));
        return Err(SolveError::Cancelled);
    }
    let before = left_at(stages.len(), &world, &above_limit);
    // What a steady camera misses the artist has asked for.
    check_credible(views, options, &world)?;
    let survey_unused = believe(views, options, &mut world, last, progress);
    if carry(views, &mut world) {
        world.adjust(views, last, (LAST_STEPS, 1e-4), progress);
        world.drop_misfits(views, MISFIT_PX);
    }
    let mut stated = |world: &mut World| {
        let mut converged = adjusted_to_rest(views, world, last, progress);
        // What is dropped at the very end takes part in no figure.
        if drop_above_limit(views, options, world, &mut above_limit) {
            converged = adjusted_to_rest(views, world, last, progress);
        }
        if progress.is_cancelled() {
            checkpoints.leave(&before);
            return Err(SolveError::Cancelled);
        }
        progress.report("solve: adjust", stages.len(), stages.len());
        if world.believed.steady.is_none() {
            check_credible(views, options, world)?;
        }
        let ended = Ended {
            started_from,
            loss: last,
            above_limit: &above_limit,
            converged,
            survey_unused,
        };
        Ok(state(views, options, world, &ended, progress))
    };
    let attempt = stated(&mut world)?;
    if progress.is_cancelled() {
        Err(SolveError::Cancelled)
    } else {
        Ok(attempt)
    }
}

/// What zooms is brought near the focal length that is stated of its first frame, where it has grown from elsewhere, so
/// that the adjustment need not drag all cameras there.
fn reach_the_first(world: &mut World) {
    let Some((px, sigma_px)) = world.believed.focal_at_first_px else {
        return;
    };
    let is_posed = world.poses[0].is_some();
    let Some(first_px) = world.focals_px.first().filter(|_| is_posed) else {
        return;
    };
    if (first_px - px).abs() > sigma_px
        && let Some(stretched) = world.stretched(px / first_px)
    {
        *world = stretched;
    }
}

/// Lets a survey hold the world, takes the camera for as steady as is stated and lets constraints pull; why a survey does not
/// hold it.
fn believe(
    views: &Views,
    options: &SolveOptions,
    world: &mut World,
    loss: Loss,
    progress: &dyn Progress,
) -> Option<NoHold> {
    let unused = match options.survey.is_empty() {
        true => None,
        false => held_by_survey(views, options, world, loss, progress).err(),
    };
    world.believed.steady = options.steady.filter(Steady::any).map(|steady| {
        let units = match world.believed.surveyed.is_empty() {
            true => stated::gauge(views, world).scale,
            false => 1.0,
        };
        steady.in_units(units)
    });
    constraints::hold(views, options, world, loss, progress);
    unused
}

/// The picture says more than a survey by which landmarks miss it by so many times as much, and so much more, px
/// at 1280.
const SURVEY_MISSING: f64 = 2.0;
const SURVEY_SLACK_PX: f64 = 0.1;

/// Lets a survey hold the world, where picture and survey do not contradict each other.
fn held_by_survey(
    views: &Views,
    options: &SolveOptions,
    world: &mut World,
    loss: Loss,
    progress: &dyn Progress,
) -> Result<(), NoHold> {
    let mut held = world.clone();
    survey::anchor(views, options, &mut held)?;
    // Which points belong is seen better where they have pulled already.
    held.adjust(views, loss, (LAST_STEPS, 1e-4), progress);
    survey::hear_again(views, options, &mut held);
    held.adjust(views, loss, (LAST_STEPS, 1e-4), progress);
    let most_px = SURVEY_MISSING * world.rms_px(views) + SURVEY_SLACK_PX * views.px_scale;
    if held.rms_px(views) > most_px {
        return Err(NoHold::NoAgreement);
    }
    *world = held;
    Ok(())
}

/// How many frames have no camera from one on.
fn lost_on(world: &World, first: usize) -> usize {
    let lost = world.poses[first..].iter().take_while(|p| p.is_none());
    lost.count()
}

/// Takes rows for read one after the other, where that is stated or evident, and takes in what fits now.
fn roll(
    views: &Views,
    options: &SolveOptions,
    world: &mut World,
    loss: Loss,
    progress: &dyn Progress,
) {
    match (options.readout, world.readout) {
        (Readout::None, _) | (Readout::Known(_), Some(_)) => return,
        (Readout::Known(frames), None) => world.readout = Some(frames),
        (Readout::Unknown | Readout::Found(_), Some(_)) => {
            if readout_check::is_evident(views, world, loss) {
                return;
            }
            world.readout = None;
            world.free.readout = false;
        }
        (Readout::Unknown | Readout::Found(_), None) => {
            match readout_check::evident(views, world, loss, progress) {
                Some(rolling) => *world = rolling,
                None => return,
            }
        }
    }
    for _ in 0..2 {
        world.adjust(views, loss, (LAST_STEPS, 1e-4), progress);
        world.triangulate_missing(views);
        world.drop_misfits(views, MISFIT_PX);
    }
}

/// Features that are seen where cameras stand and where none does.
fn linking(views: &Views, world: &World) -> usize {
    let stands = |s: &Seen| world.poses[s.frame].is_some();
    let links = |seen: &&Vec<Seen>| seen.iter().any(stands) && !seen.iter().all(stands);
    views.seen.iter().filter(links).count()
}

/// Steps of the last adjustment, and how often it may take as many again.
const LAST_STEPS: usize = 12;
const LAST_ROUNDS: usize = 8;
/// What a round has done is done again so many times at first ([`super::valley`]), and so many steps lead back.
const FIRST_TIMES: f64 = 2.0;
const STEPS_AHEAD: usize = 4;
/// A round that lowers the cost by less than this share, where far more is left than is claimed, leads nowhere.
const HOPELESS: f64 = 0.003;
/// Far more is this share of what is left, or less.
const FAR_FROM_CLAIMED: f64 = 0.6;

/// Adjusts until further steps gain nothing; false when it ran out of steps.
fn adjusted_to_rest(views: &Views, world: &mut World, loss: Loss, progress: &dyn Progress) -> bool {
    let mut times = FIRST_TIMES;
    for _ in 0..LAST_ROUNDS {
        let before = world.clone();
        let report = world.adjust(views, loss, (LAST_STEPS, 1e-6), progress);
        match report.stop {
            Stop::Converged | Stop::NoDescent => return true,
            Stop::Cancelled => return false,
            Stop::IterationsUsed => {}
        }
        let mut ahead = world.beyond(&before, times);
        let there = ahead.adjust(views, loss, (STEPS_AHEAD, 1e-6), progress);
        let pays = there.last_cost < report.last_cost;
        times *= if pays { 2.0 } else { 0.5 };
        if pays {
            *world = ahead;
        }
        let last_cost = there.last_cost.min(report.last_cost);
        let gained = (report.first_cost - last_cost) / report.first_cost.max(f64::MIN_POSITIVE);
        if gained < HOPELESS && views.as_claimed(world.rms_px(views)) < FAR_FROM_CLAIMED {
            return false;
        }
    }
    false
}

/// Whether anything was dropped.
fn drop_above_limit(
    views: &Views,
    options: &SolveOptions,
    world: &mut World,
    above: &mut [bool],
) -> bool {
    let Some(limit) = options.limit_px else {
        return false;
    };
    let mut dropped = false;
    for (track, rms) in rms_by_track(views, world).into_iter().enumerate() {
        if world.points[track].is_some() && rms.is_some_and(|r| r > limit) {
            world.points[track] = None;
            world.banned[track] = true;
            above[track] = true;
            dropped = true;
        }
    }
    dropped
}

fn rms_by_track(views: &Views, world: &World) -> Vec<Option<f64>> {
    let mut sums = vec![(0.0, 0usize); views.tracks.len()];
    for (track, _, length) in world.residuals_px(views) {
        sums[track].0 += length * length;
        sums[track].1 += 1;
    }
    sums.into_iter()
        .map(|(sum, count)| (count > 0).then(|| (sum / count as f64).sqrt()))
        .collect()
}

fn check_credible(views: &Views, options: &SolveOptions, world: &World) -> Result<(), SolveError> {
    let residuals = world.residuals_px(views);
    let all: usize = views.seen.iter().map(Vec::len).sum();
    let share = residuals.len() as f64 / all.max(1) as f64;
    let rms_px = rms_px(&residuals);
    let width = f64::from(world.lens.width_px);
    let is_wild = |frame| !(0.25 * width..=12.0 * width).contains(&world.lens_at(frame).focal_px);
    let mut posed = (0..world.poses.len()).filter(|frame| world.poses[*frame].is_some());
    let wild_focal = options.focal.is_solved() && posed.any(is_wild);
    let remedy = if wild_focal {
        "The focal length ran away; state it if it is known"
    } else if share < CREDIBLE_SHARE && options.limit_px.is_some() {
        "Raise the limit above which features are dropped, or set aside what moves by itself"
    } else if share < CREDIBLE_SHARE {
        "Set aside what moves by itself, or follow more features on what stands still"
    } else if rms_px > CREDIBLE_RMS_PX * views.px_scale || !rms_px.is_finite() {
        "The lens may be distorted: give its terms or solve them along"
    } else if world.point_count() < 8 {
        "Follow more features"
    } else {
        return Ok(());
    };
    Err(SolveError::NotCredible {
        share_percent: 100.0 * share,
        rms_px,
        remedy,
    })
}
