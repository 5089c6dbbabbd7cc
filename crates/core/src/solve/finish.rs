//! The end of a solve: everything adjusted, what does not belong set aside, figures stated.
//!
//! Three stages with ever narrower robust loss, each followed by leaving out what does not fit
//! and trying again what was left out; then adjusted until further steps gain nothing. A camera
//! that explains too little of what was seen is refused ([`SolveError::NotCredible`]); one that
//! is usable states its doubts ([`super::doubts`]).

use super::attempt::{Attempt, Landmark, SetAside, SolvedFrame};
use super::bundle::covariance::{Certainty, certainty};
use super::bundle::{FreeLens, Loss, Motion, Stop};
use super::certain::{CameraCovariance, PointCovariance};
use super::doubts::{self, Figures};
use super::forecast;
use super::lens_check;
use super::locked::FAR;
use super::misfits::rms_px;
use super::readout_check;
use super::together;
use super::underway::{Stage, Underway};
use super::views::{Seen, Views};
use super::world::{Back, World};
use super::zoom_check;
use super::{CameraMove, FocalKnowledge, Readout, SolveError, SolveOptions};
use crate::camera::Similarity;
use crate::progress::{Checkpoints, Progress};
use crate::spaces::{FrameNumber, TrackId, WorldPoint};
use crate::statistics::median;
use nalgebra::Vector3;
use std::collections::HashMap;

/// Positions farther than this from their landmark are left out at the end, px at 1280.
const MISFIT_PX: f64 = 2.0;
/// Scale of the last robust loss, px at 1280: a few times what well-followed features leave.
const LAST_SCALE_PX: f64 = 0.5;
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
    if let Some(lost) = world.poses.iter().position(Option::is_none)
        && world.pose_count() * 10 < views.frames.len() * 9
    {
        return Err(SolveError::FramesUnreachable {
            solved: world.pose_count(),
            all: views.frames.len(),
            first_lost: views.frames[lost],
            last_lost: views.frames[lost + lost_on(&world, lost) - 1],
            linking: linking(views, &world),
        });
    }
    world.free = FreeLens {
        readout: world.readout.is_some() && options.readout == Readout::Unknown,
        ..options.free_lens()
    };
    world.is_growing = false;
    let early = Loss::Cauchy(views.in_sigmas(1.0));
    let last = Loss::Cauchy(views.in_sigmas(LAST_SCALE_PX));
    let stages = [
        (early, 12, 1e-3, 3.0),
        (last, 12, 1e-4, MISFIT_PX),
        (last, 20, 1e-5, MISFIT_PX),
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
    let mut converged = adjusted_to_rest(views, &mut world, last, progress);
    // What is dropped at the very end takes part in no figure.
    if drop_above_limit(views, options, &mut world, &mut above_limit) {
        converged = adjusted_to_rest(views, &mut world, last, progress);
    }
    if progress.is_cancelled() {
        checkpoints.leave(&before);
        return Err(SolveError::Cancelled);
    }
    progress.report("solve: adjust", stages.len(), stages.len());
    check_credible(views, options, &world)?;
    let ended = Ended {
        started_from,
        loss: last,
        above_limit: &above_limit,
        converged,
    };
    let attempt = state(views, options, &world, &ended, progress);
    if progress.is_cancelled() {
        Err(SolveError::Cancelled)
    } else {
        Ok(attempt)
    }
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
    if world.readout.is_some() {
        return;
    }
    match options.readout {
        Readout::None => return,
        Readout::Known(frames) => world.readout = Some(frames),
        Readout::Unknown => match readout_check::evident(views, world, loss, progress) {
            Some(rolling) => *world = rolling,
            None => return,
        },
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
/// A round that lowers the cost by less than this share, where more is left than is claimed, leads nowhere.
const HOPELESS: f64 = 0.003;

/// Adjusts until further steps gain nothing; false when it ran out of steps.
fn adjusted_to_rest(views: &Views, world: &mut World, loss: Loss, progress: &dyn Progress) -> bool {
    for _ in 0..LAST_ROUNDS {
        let report = world.adjust(views, loss, (LAST_STEPS, 1e-6), progress);
        match report.stop {
            Stop::Converged | Stop::NoDescent => return true,
            Stop::Cancelled => return false,
            Stop::IterationsUsed => {}
        }
        let gained =
            (report.first_cost - report.last_cost) / report.first_cost.max(f64::MIN_POSITIVE);
        if gained < HOPELESS && views.as_claimed(world.rms_px(views)) < 1.0 {
            return false;
        }
    }
    false
}

/// How the adjustment ended.
struct Ended<'a> {
    started_from: (FrameNumber, FrameNumber),
    loss: Loss,
    above_limit: &'a [bool],
    converged: bool,
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
    let wild_focal = options.focal == FocalKnowledge::Unknown && posed.any(is_wild);
    let remedy = if wild_focal {
        "The focal length ran away; state it if it is known"
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

/// The world's origin at the first camera, upright as the camera was, ten units to the
/// median landmark: a stated gauge until the artist orients.
fn gauge(views: &Views, world: &World) -> Similarity {
    let Some(first) = world.poses.iter().flatten().next() else {
        return Similarity::identity();
    };
    let mut depths: Vec<f64> = views.by_frame[0]
        .iter()
        .filter_map(|(t, _)| world.points[*t])
        .map(|p| -first.to_camera(&WorldPoint(p.into())).z)
        .filter(|d| *d > 0.0)
        .collect();
    let scale = 10.0 / median(&mut depths).unwrap_or(10.0);
    let isometry = first.camera_from_world;
    if world.motion == Motion::Turning {
        return Similarity {
            rotation: isometry.rotation,
            ..Similarity::identity()
        };
    }
    Similarity {
        rotation: isometry.rotation,
        translation: isometry.translation.vector * scale,
        scale,
    }
}

fn state(
    views: &Views,
    options: &SolveOptions,
    world: &World,
    ended: &Ended<'_>,
    progress: &dyn Progress,
) -> Attempt {
    let moved = moved(world, &gauge(views, world));
    let (problem, back) = moved.problem(views);
    let certain = match progress.is_cancelled() {
        true => None,
        false => certainty(&problem, ended.loss),
    };
    let errors = Errors::of(certain.as_ref(), &back);
    let residuals = moved.residuals_px(views);
    let landmarks = landmarks(views, &moved, &residuals, &errors);
    let frames = solved_frames(views, &moved, &residuals, &errors);
    let rms_px = rms_px(&residuals);
    let shared = certain.as_ref().map(|c| c.shared);
    let first = back.frames.first().copied().unwrap_or(0);
    let focal_sigma_px = match moved.zooms() {
        true => frames.first().and_then(|f| f.focal_sigma_px),
        false => shared.filter(|_| moved.free.focal).map(|s| s[0]),
    };
    let first_radial = usize::from(moved.free.focal);
    let radial_sigma = shared
        .filter(|_| options.solve_lens)
        .map(|s| [s[first_radial], s[first_radial + 1]]);
    let readout = moved.readout.map(|readout| {
        let last = moved.free.count().saturating_sub(1);
        let sigma = shared
            .filter(|_| moved.free.readout)
            .map_or(0.0, |s| s[last]);
        (readout, sigma)
    });
    let factor = certain.as_ref().map(|c| c.variance_factor);
    let (lens_suspicion, zoom_suspicion) = factor.map_or((None, None), |factor| {
        let lens = lens_check::suspect(views, options, world, ended.loss, factor, progress);
        let zoom = zoom_check::suspect(views, options, world, ended.loss, factor, progress);
        // What bends explains some of what zooms, and the other way round.
        match (lens, zoom) {
            (Some(lens), Some(zoom)) if lens.rms_px < zoom.rms_px => (Some(lens), None),
            (Some(_), Some(zoom)) => (None, Some(zoom)),
            either => either,
        }
    });
    let slip_px = certain
        .as_ref()
        .and_then(|c| forecast::slip_px(&problem, c));
    let frames_of: Vec<FrameNumber> = back.frames.iter().map(|f| views.frames[*f]).collect();
    let jump = certain
        .as_ref()
        .and_then(|c| together::greatest(&problem, &c.relative, &frames_of));
    let parallax_deg = median_parallax_deg(&landmarks);
    let travels = moved.motion == Motion::Free;
    let doubts = doubts::raised(&Figures {
        frames: &frames,
        all_frames: views.frames.len(),
        focal_px: vaguest_focal(&moved, &frames, focal_sigma_px),
        determined: certain.is_some(),
        rms_px_at_1280: rms_px / views.px_scale,
        rms_px,
        parallax_deg: travels.then_some(parallax_deg),
        lens_suspected: lens_suspicion.is_some(),
        zoom: zoom_suspicion,
        slip_px_at_1280: slip_px.map(|px| px / views.px_scale),
        slip_px,
        jump,
        jump_px_at_1280: jump.map(|jump| jump.px / views.px_scale),
        converged: ended.converged,
    });
    Attempt {
        moves: if travels {
            CameraMove::Free
        } else {
            CameraMove::Nodal
        },
        tried: Vec::new(),
        lens: moved.lens_at(first),
        focal_sigma_px,
        radial_sigma,
        focal_solved: Some(options.focal == FocalKnowledge::Unknown),
        lens_solved: options.solve_lens,
        readout,
        lens_suspicion,
        zoom_suspicion,
        slip_px,
        jump,
        frames,
        landmarks,
        set_aside: set_aside(views, &moved, ended.above_limit),
        rms_px,
        positions: residuals.len(),
        parallax_deg,
        started_from: ended.started_from,
        verdict: doubts::verdict(&doubts),
        bodies: Vec::new(),
        doubts,
    }
}

/// The focal length that is known least, with its standard error, px, where one was solved.
fn vaguest_focal(
    world: &World,
    frames: &[SolvedFrame],
    shared_sigma_px: Option<f64>,
) -> Option<(f64, Option<f64>)> {
    if !world.zooms() {
        return world
            .free
            .focal
            .then_some((world.lens.focal_px, shared_sigma_px));
    }
    let own = frames
        .iter()
        .filter_map(|f| Some((f.focal_px?, f.focal_sigma_px)));
    let vague = |(focal_px, sigma): &(f64, Option<f64>)| sigma.unwrap_or(0.0) / focal_px;
    own.max_by(|a, b| vague(a).total_cmp(&vague(b)))
}

fn moved(world: &World, change: &Similarity) -> World {
    let mut moved = world.clone();
    for pose in moved.poses.iter_mut().flatten() {
        *pose = change.pose(pose);
    }
    for point in moved.points.iter_mut().flatten() {
        *point = change.point(&WorldPoint((*point).into())).0.coords;
    }
    moved
}

fn median_parallax_deg(landmarks: &[Landmark]) -> f64 {
    let mut angles: Vec<f64> = landmarks.iter().map(|l| l.parallax_deg).collect();
    median(&mut angles).unwrap_or(0.0)
}

/// Covariances by index of track and of frame.
struct Errors {
    points: HashMap<usize, PointCovariance>,
    cameras: HashMap<usize, CameraCovariance>,
    focals_px: HashMap<usize, f64>,
}

impl Errors {
    fn of(certain: Option<&Certainty>, back: &Back) -> Self {
        let points = certain.map_or(&[][..], |c| &c.points);
        let cameras = certain.map_or(&[][..], |c| &c.cameras);
        let focals = certain.map_or(&[][..], |c| &c.focals_px);
        let point = |(track, covariance): (&usize, &Option<_>)| {
            let covariance = PointCovariance::new(covariance.as_ref()?).ok()?;
            Some((*track, covariance))
        };
        let camera = |(frame, covariance): (&usize, _)| {
            Some((*frame, CameraCovariance::new(covariance).ok()?))
        };
        Self {
            points: back.points.iter().zip(points).filter_map(point).collect(),
            cameras: back.frames.iter().zip(cameras).filter_map(camera).collect(),
            focals_px: back
                .frames
                .iter()
                .copied()
                .zip(focals.iter().copied())
                .collect(),
        }
    }
}

fn landmarks(
    views: &Views,
    world: &World,
    residuals: &[(usize, usize, f64)],
    errors: &Errors,
) -> Vec<Landmark> {
    let mut by_track: Vec<Vec<(FrameNumber, f32)>> = vec![Vec::new(); views.tracks.len()];
    for &(track, k, length) in residuals {
        by_track[track].push((views.frames[views.seen[track][k].frame], length as f32));
    }
    let mut out: Vec<Landmark> = by_track
        .into_iter()
        .enumerate()
        .filter(|(_, list)| !list.is_empty())
        .filter_map(|(track, residuals_px)| {
            let point = world.points[track]?;
            let squares: f64 = residuals_px.iter().map(|(_, r)| f64::from(r * r)).sum();
            // How far a direction reaches is not known, and neither are errors along it.
            let (place, covariance) = match world.motion {
                Motion::Free => (point, errors.points.get(&track).copied()),
                Motion::Turning => (point * FAR, None),
            };
            Some(Landmark {
                track: views.tracks[track],
                point: WorldPoint(place.into()),
                covariance,
                rms_px: (squares / residuals_px.len() as f64).sqrt(),
                parallax_deg: widest_angle_rad(views, world, track, &point).to_degrees(),
                residuals_px,
            })
        })
        .collect();
    out.sort_by_key(|l| l.track);
    out
}

fn widest_angle_rad(views: &Views, world: &World, track: usize, point: &Vector3<f64>) -> f64 {
    let rays: Vec<Vector3<f64>> = views.seen[track]
        .iter()
        .filter_map(|s| Some(point - world.poses[s.frame]?.centre().0.coords))
        .collect();
    let stride = rays.len().div_ceil(12).max(1);
    let some: Vec<_> = rays.iter().step_by(stride).chain(rays.last()).collect();
    let pairs = some
        .iter()
        .enumerate()
        .flat_map(|(i, a)| some[i + 1..].iter().map(move |b| a.angle(b)));
    pairs.fold(0.0, f64::max)
}

fn solved_frames(
    views: &Views,
    world: &World,
    residuals: &[(usize, usize, f64)],
    errors: &Errors,
) -> Vec<SolvedFrame> {
    let mut sums = vec![(0.0, 0usize); views.frames.len()];
    for &(track, k, length) in residuals {
        let frame = views.seen[track][k].frame;
        sums[frame].0 += length * length;
        sums[frame].1 += 1;
    }
    world
        .poses
        .iter()
        .enumerate()
        .filter_map(|(index, pose)| {
            let (sum, features) = sums[index];
            let rms_px = if features > 0 {
                (sum / features as f64).sqrt()
            } else {
                0.0
            };
            Some(SolvedFrame {
                frame: views.frames[index],
                pose: (*pose)?,
                focal_px: world.focals_px.get(index).copied(),
                focal_sigma_px: errors.focals_px.get(&index).copied(),
                rms_px,
                features,
                covariance: errors.cameras.get(&index).copied(),
            })
        })
        .collect()
}

fn set_aside(views: &Views, world: &World, above_limit: &[bool]) -> Vec<(TrackId, SetAside)> {
    (0..views.tracks.len())
        .filter(|&t| world.points[t].is_none())
        .map(|t| {
            let few = views.seen[t]
                .iter()
                .filter(|s| world.poses[s.frame].is_some())
                .count()
                < 3;
            let reason = match (above_limit[t], few) {
                (true, _) => SetAside::AboveLimit,
                (false, true) => SetAside::TooLittleParallax,
                (false, false) if is_nearly_parallel(views, world, t) => {
                    SetAside::TooLittleParallax
                }
                (false, false) => SetAside::AgainstTheScene,
            };
            (views.tracks[t], reason)
        })
        .collect()
}

/// Whether the cameras that see a track hardly travel against each other as seen from it.
fn is_nearly_parallel(views: &Views, world: &World, track: usize) -> bool {
    if world.motion == Motion::Turning {
        return false;
    }
    let centres: Vec<Vector3<f64>> = views.seen[track]
        .iter()
        .filter_map(|s| Some(world.poses[s.frame]?.centre().0.coords))
        .collect();
    let base = centres
        .iter()
        .map(|c| (c - centres[0]).norm())
        .fold(0.0, f64::max);
    base < 0.02
}
