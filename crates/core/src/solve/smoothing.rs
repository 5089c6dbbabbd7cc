//! What would a steadier camera cost?
//!
//! A finished attempt is adjusted once more with the belief that the camera moves steadily
//! ([`super::bundle::beliefs`]); what landmarks miss before and after, and where the picture would shift most,
//! is known before a solve is run with it.

use super::bundle::Loss;
use super::moves;
use super::views::Views;
use super::world::World;
use super::{Attempt, CameraMove, SolveError, SolveOptions, Steady};
use crate::progress::Progress;
use crate::spaces::{FrameNumber, WorldPoint};
use crate::tracks::Track;
use serde::Serialize;
use std::collections::HashMap;

/// What it costs.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct SmoothingCost {
    /// Root mean square of the residuals without and with it, px.
    pub rms_px: [f64; 2],
    /// The frame on which landmarks shift most, and by how much, px rms.
    pub shift: Option<(FrameNumber, f64)>,
}

/// Scale of the loss, px at 1280: that of the end of a solve.
const SCALE_PX: f64 = 0.5;
/// Steps that are made.
const STEPS: (usize, f64) = (15, 1e-4);

/// Adjusts an attempt with steadiness and says what that costs. Fails where the camera rests, or has too few
/// tracks.
pub fn cost(
    tracks: &[Track],
    options: &SolveOptions,
    attempt: &Attempt,
    steady: Steady,
    progress: &dyn Progress,
) -> Result<SmoothingCost, SolveError> {
    // The attempt's own lens, whoever it is from.
    let asked = SolveOptions {
        lens: attempt.lens,
        steady: Some(steady),
        ..options.clone()
    };
    asked.validated()?;
    if attempt.moves == CameraMove::Locked {
        return Err(SolveError::NoMotion { motion_px: 0.0 });
    }
    let views = Views::of(tracks, options);
    let as_solved = moves::as_solved(attempt).stated_in(&asked);
    let mut world = World::from_attempt(&views, &as_solved, attempt);
    leave_out(&views, attempt, &mut world);
    let loss = Loss::Cauchy(views.in_sigmas(SCALE_PX));
    let before = (seen(&views, &world), world.rms_px(&views));
    world.believed.steady = Some(steady);
    world.adjust(&views, loss, STEPS, progress);
    if progress.is_cancelled() {
        return Err(SolveError::Cancelled);
    }
    Ok(SmoothingCost {
        rms_px: [before.1, world.rms_px(&views)],
        shift: most_shifted(&views, &before.0, &seen(&views, &world)),
    })
}

/// Leaves out what the attempt left out.
fn leave_out(views: &Views, attempt: &Attempt, world: &mut World) {
    for (track, id) in views.tracks.iter().enumerate() {
        let Some(landmark) = attempt.landmark(*id) else {
            continue;
        };
        for (k, s) in views.seen[track].iter().enumerate() {
            let took_part = landmark
                .residuals_px
                .binary_search_by_key(&views.frames[s.frame], |r| r.0);
            world.left_out[track][k] = took_part.is_err();
        }
    }
}

type Seen = HashMap<(usize, usize), crate::spaces::PlatePx>;

/// Where each camera sees each landmark that it was solved from, by frame and track.
fn seen(views: &Views, world: &World) -> Seen {
    let mut out = HashMap::new();
    for (track, point) in world.points.iter().enumerate() {
        let Some(point) = point else { continue };
        for s in &views.seen[track] {
            let Some(pose) = world.poses[s.frame] else {
                continue;
            };
            let lens = world.lens_at(s.frame);
            if let Some(px) = lens.project(&pose, &WorldPoint((*point).into())) {
                out.insert((s.frame, track), px);
            }
        }
    }
    out
}

fn most_shifted(views: &Views, before: &Seen, after: &Seen) -> Option<(FrameNumber, f64)> {
    let mut sums = vec![(0.0, 0usize); views.frames.len()];
    for (key, px) in before {
        if let Some(now) = after.get(key) {
            sums[key.0].0 += px.distance_px(*now).powi(2);
            sums[key.0].1 += 1;
        }
    }
    let rms = |(sum, count): &(f64, usize)| (sum / (*count).max(1) as f64).sqrt();
    let shifts = views.frames.iter().zip(&sums).map(|(f, s)| (*f, rms(s)));
    shifts.max_by(|a, b| a.1.total_cmp(&b.1))
}
