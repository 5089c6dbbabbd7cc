//! What a solve came to, as figures: cameras and landmarks in their gauge with residuals and covariances,
//! what was set aside and why, and the doubts that all of it raises.

use super::adjust::Back;
use super::attempt::{Attempt, Landmark, SetAside, SolvedFrame};
use super::bundle::covariance::{Certainty, certainty};
use super::bundle::{Loss, Motion, Shared};
use super::carried;
use super::certain::{CameraCovariance, PointCovariance};
use super::doubts::{self, Figures};
use super::focal_check;
use super::forecast;
use super::freed::Finished;
use super::lens_check;
use super::locked::FAR;
use super::misfits::rms_px;
use super::survey::{self, NoHold};
use super::together::{self, Jump};
use super::views::Views;
use super::world::World;
use super::zoom_check;
use super::{SolveOptions, constraints};
use crate::camera::Similarity;
use crate::lens::Term;
use crate::progress::Progress;
use crate::spaces::{FrameNumber, TrackId, WorldPoint};
use crate::statistics::median;
use nalgebra::Vector3;
use std::collections::HashMap;

/// How the adjustment ended.
pub struct Ended<'a> {
    /// The two frames it grew from.
    pub started_from: (FrameNumber, FrameNumber),
    /// The loss at the end.
    pub loss: Loss,
    /// Tracks that were dropped for their residual, by index.
    pub above_limit: &'a [bool],
    /// Whether further steps gain nothing.
    pub converged: bool,
    /// Why the survey holds nothing, where there is one.
    pub survey_unused: Option<NoHold>,
}

/// The world's origin at the first camera, upright as the camera was, ten units to the
/// median landmark: a stated gauge until the artist orients.
pub(super) fn gauge(views: &Views, world: &World) -> Similarity {
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
    if world.motion.is_on_the_spot() {
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

/// The attempt that a world is, with its figures and doubts.
pub fn state(
    views: &Views,
    options: &SolveOptions,
    world: &World,
    ended: &Ended<'_>,
    progress: &dyn Progress,
) -> Attempt {
    let moved = handed_on(views, world);
    // A tenth of the usual depth, as the stated gauge has it.
    let unit = 1.0 / gauge(views, &moved).scale;
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
    let sigma_of = |term: Shared| {
        let at = moved.free.terms().position(|t| t == term)?;
        certain.as_ref().map(|c| c.shared[at])
    };
    let first = back.frames.first().copied().unwrap_or(0);
    let focal_sigma_px = match moved.zooms() {
        true => frames.first().and_then(|f| f.focal_sigma_px),
        false => sigma_of(Shared::Focal),
    };
    let radial_sigma = sigma_of(Shared::Lens(Term::K1)).zip(sigma_of(Shared::Lens(Term::K2)));
    let lens_errors = moved.free.lens.terms();
    let lens_errors = lens_errors.filter_map(|t| Some((t, sigma_of(Shared::Lens(t))?)));
    let lens_errors = lens_errors.collect();
    let readout = moved
        .readout
        .map(|readout| (readout, sigma_of(Shared::Readout).unwrap_or(0.0)));
    let finished = Finished {
        views,
        options,
        world,
        loss: ended.loss,
        variance_factor: certain.as_ref().map_or(1.0, |c| c.variance_factor),
        progress,
    };
    let (lens_suspicion, zoom_suspicion) = certain.as_ref().map_or((None, None), |_| {
        let lens = lens_check::suspect(&finished);
        let zoom = zoom_check::suspect(&finished, lens.is_some());
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
    let jumps = certain.as_ref().map_or_else(Vec::new, |c| {
        together::jumps(&problem, &c.relative, &frames_of)
    });
    let carried = carried::standing_on_others(views, &moved, &frames);
    let is_carried = |frame: FrameNumber| carried.binary_search(&frame).is_ok();
    let carried_of = |j: &Jump| [j.before, j.after].into_iter().filter(|f| is_carried(*f));
    let (over, between): (Vec<Jump>, Vec<Jump>) = jumps
        .into_iter()
        .filter(|j| carried_of(j).count() < 2)
        .partition(|j| carried_of(j).count() == 1);
    let jump = together::greatest(between);
    let parallax_deg = median_parallax_deg(&landmarks);
    let travels = moved.motion == Motion::Free;
    let misses = survey::misses(views, options, &moved);
    let constraints = constraints::misses(views, options, &moved);
    let doubts = doubts::raised(&Figures {
        frames: &frames,
        all_frames: views.frames.len(),
        focal_px: vaguest_focal(&moved, &frames, focal_sigma_px),
        determined: certain.is_some(),
        px_scale: views.px_scale,
        rms_px,
        parallax_deg: travels.then_some(parallax_deg),
        lens_suspected: lens_suspicion.is_some(),
        zoom: zoom_suspicion,
        // A statement that is far off may leave the first frame nothing that it sees, so that nothing else can be told.
        contradiction: focal_check::contradiction(&finished),
        slip_px,
        jump,
        carried: &carried,
        carried_px: together::greatest(over).map(|j| j.px),
        converged: ended.converged,
        survey: &misses,
        constrained: !options.constraints.is_empty(),
        constraints: &constraints,
        survey_unused: ended.survey_unused,
    });
    Attempt {
        moves: moved.motion.into(),
        tried: Vec::new(),
        lens: moved.lens_at(first),
        focal_sigma_px,
        radial_sigma: radial_sigma.map(|(k1, k2)| [k1, k2]),
        lens_errors,
        focal_solved: Some(options.focal.is_solved()),
        lens_solved: options.solve_lens.any(),
        steady: moved.believed.steady,
        survey: misses,
        constraints,
        survey_unused: ended.survey_unused,
        readout,
        lens_suspicion,
        zoom_suspicion,
        slip_px,
        jump,
        frames,
        landmarks,
        set_aside: set_aside(views, (&moved, unit), ended.above_limit),
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

/// The world as it is handed on: where its surveyed landmarks were measured, or in the stated gauge.
fn handed_on(views: &Views, world: &World) -> World {
    let mut moved = world.clone();
    if world.believed.surveyed.is_empty() {
        let change = gauge(views, world);
        moved.changed(&change);
        moved.believed.in_units(1.0 / change.scale);
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
                Motion::Turning | Motion::Resting => (point * FAR, None),
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

fn set_aside(
    views: &Views,
    (world, unit): (&World, f64),
    above_limit: &[bool],
) -> Vec<(TrackId, SetAside)> {
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
                (false, false) if is_nearly_parallel(views, world, t, unit) => {
                    SetAside::TooLittleParallax
                }
                (false, false) => SetAside::AgainstTheScene,
            };
            (views.tracks[t], reason)
        })
        .collect()
}

/// Cameras that travel by less than this share of a tenth of the usual depth hardly do.
const NEARLY_PARALLEL: f64 = 0.02;

/// Whether the cameras that see a track hardly travel against each other as seen from it.
fn is_nearly_parallel(views: &Views, world: &World, track: usize, unit: f64) -> bool {
    if world.motion.is_on_the_spot() {
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
    base < NEARLY_PARALLEL * unit
}
