//! The camera of a shot in which it rests.
//!
//! It stands at the origin on every frame; landmarks are the directions in which features are seen,
//! set at a stated distance ([`FAR`]). Such a picture shows no focal length, so that it has to be
//! known. What moves by itself fits no direction and is set aside.

use super::attempt::{Attempt, Landmark, SetAside, SolvedFrame};
use super::bundle::{Loss, Motion};
use super::doubts::{self, Doubt, Figures};
use super::survey::NoHold;
use super::triangulate::{Sighting, triangulate};
use super::views::Views;
use super::{CameraMove, FocalKnowledge, SolveError, SolveOptions, evidence};
use crate::camera::{Eye, Intrinsics, Pose};
use crate::spaces::{FrameNumber, TrackId, WorldPoint};
use rayon::prelude::*;

/// Directions are handed on as places this far away, units of the solve's world.
pub const FAR: f64 = 100.0;

/// Positions farther than this from their direction do not fit, px at 1280.
const FIT_PX: f64 = 1.0;
/// A track fits with this share of its positions.
const FIT_SHARE: f64 = 0.9;

/// Solves a shot whose camera rests. Fails where its focal length is not known.
pub fn locked(views: &Views, options: &SolveOptions) -> Result<Attempt, SolveError> {
    let (focal_px, focal_sigma_px) = match options.focal {
        FocalKnowledge::Known(focal_px) => (focal_px, None),
        // Where nothing grows, what is known of the first frame holds for all.
        FocalKnowledge::About { px, sigma_px } | FocalKnowledge::AtFirst { px, sigma_px } => {
            (px, Some(sigma_px))
        }
        FocalKnowledge::Unknown => {
            let motion_px = evidence::key_frames(views).motion_px;
            return Err(SolveError::LockedWithoutFocal { motion_px });
        }
    };
    let lens = options.lens.with_focal(focal_px);
    let found: Vec<Option<Landmark>> = (0..views.tracks.len())
        .into_par_iter()
        .map(|track| direction(views, &lens, track))
        .collect();
    let aside: Vec<(TrackId, SetAside)> = found
        .iter()
        .zip(&views.tracks)
        .filter(|(landmark, _)| landmark.is_none())
        .map(|(_, id)| (*id, SetAside::AgainstTheScene))
        .collect();
    let mut landmarks: Vec<Landmark> = found.into_iter().flatten().collect();
    landmarks.sort_by_key(|l| l.track);
    let frames = frames(views, &landmarks);
    let residuals = || landmarks.iter().flat_map(|l| &l.residuals_px);
    let positions = residuals().count();
    let squares: f64 = residuals().map(|(_, r)| f64::from(*r).powi(2)).sum();
    let rms_px = (squares / positions.max(1) as f64).sqrt();
    let survey_unused = (!options.survey.is_empty()).then_some(NoHold::NoPlaces);
    let mut doubts = doubts::raised(&Figures {
        frames: &frames,
        all_frames: views.frames.len(),
        focal_px: focal_sigma_px.map(|sigma| (focal_px, Some(sigma))),
        determined: true,
        px_scale: views.px_scale,
        rms_px,
        parallax_deg: None,
        lens_suspected: false,
        zoom: None,
        contradiction: None,
        slip_px: None,
        jump: None,
        carried: &[],
        carried_px: None,
        converged: true,
        survey: &[],
        survey_unused,
        constrained: !options.constraints.is_empty(),
        constraints: &[],
    });
    // A slow drift is no rest: what misses its direction by more than it is uncertain says so.
    if doubts.is_empty() && views.as_claimed(rms_px) < 1.0 {
        doubts.push(Doubt::LargeResiduals { rms_px });
    }
    Ok(Attempt {
        lens,
        moves: CameraMove::Locked,
        focal_sigma_px,
        radial_sigma: None,
        lens_errors: Vec::new(),
        constraints: Vec::new(),
        steady: None,
        survey: Vec::new(),
        survey_unused,
        focal_solved: Some(false),
        lens_solved: false,
        lens_suspicion: None,
        zoom_suspicion: None,
        jump: None,
        readout: None,
        slip_px: None,
        tried: Vec::new(),
        started_from: (views.frames[0], views.frames[0]),
        frames,
        landmarks,
        set_aside: aside,
        rms_px,
        positions,
        parallax_deg: 0.0,
        verdict: doubts::verdict(&doubts),
        bodies: Vec::new(),
        doubts,
    })
}

/// The direction in which all positions of a track see it, where it stands still.
fn direction(views: &Views, lens: &Intrinsics, track: usize) -> Option<Landmark> {
    let eye = Eye {
        lens: *lens,
        pose: Pose::identity(),
    };
    let sights = views.seen[track].iter();
    let sights: Vec<Sighting> = sights.map(|seen| Sighting { eye, seen: *seen }).collect();
    let (loss, limit_px) = (Loss::Cauchy(views.in_sigmas(0.5)), FIT_PX * views.px_scale);
    let found = triangulate(Motion::Turning, &sights, loss, limit_px)
        .filter(|t| t.fitting_share >= FIT_SHARE)?;
    let px = lens.project(&Pose::identity(), &WorldPoint(found.point.into()))?;
    let residuals_px: Vec<(FrameNumber, f32)> = sights
        .iter()
        .map(|s| (views.frames[s.seen.frame], px.distance_px(s.seen.px) as f32))
        .filter(|(_, off)| f64::from(*off) <= limit_px)
        .collect();
    let squares: f64 = residuals_px
        .iter()
        .map(|(_, r)| f64::from(*r).powi(2))
        .sum();
    Some(Landmark {
        track: views.tracks[track],
        point: WorldPoint((found.point * FAR).into()),
        covariance: None,
        rms_px: (squares / residuals_px.len().max(1) as f64).sqrt(),
        residuals_px,
        parallax_deg: 0.0,
    })
}

fn frames(views: &Views, landmarks: &[Landmark]) -> Vec<SolvedFrame> {
    let mut sums = vec![(0.0, 0usize); views.frames.len()];
    for (frame, off) in landmarks.iter().flat_map(|l| &l.residuals_px) {
        if let Ok(index) = views.frames.binary_search(frame) {
            sums[index].0 += f64::from(*off).powi(2);
            sums[index].1 += 1;
        }
    }
    let frame = |(frame, (sum, features)): (&FrameNumber, &(f64, usize))| SolvedFrame {
        frame: *frame,
        pose: Pose::identity(),
        focal_px: None,
        focal_sigma_px: None,
        rms_px: (sum / (*features).max(1) as f64).sqrt(),
        features: *features,
        covariance: None,
    };
    views.frames.iter().zip(&sums).map(frame).collect()
}
