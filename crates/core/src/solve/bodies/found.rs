//! A body that was solved: which tracks fit its cameras, and whether it can be relied on that it is one.

use super::super::bundle::Loss;
use super::super::doubts::Doubt;
use super::super::moves;
use super::super::rows::RowCameras;
use super::super::triangulate::{Sighting, triangulate};
use super::super::views::{Seen, Views};
use super::super::{Attempt, SolvedFrame};
use super::Body;
use super::cover::Held;
use crate::spaces::{FrameNumber, WorldPoint};
use rayon::prelude::*;
use std::collections::HashMap;

/// A track fits cameras where its landmark explains this share of its positions ...
const FITTING_SHARE: f64 = 0.9;
/// ... to this, px at 1280.
const FITTING_PX: f64 = 1.2;
/// A track is explained by cameras that it misses by so many typical standard errors at most.
const EXPLAINED: f64 = 2.5;
/// What misses another body by this factor more, and this much more in px at 1280, is not its own.
const ALIKE: f64 = 1.3;
const SLACK_PX: f64 = 0.05;
/// A camera that its own evidence leaves vague speaks for a body so much less.
const DOUBTED: f64 = 0.5;
/// Residuals are nearly as small as is claimed.
const NEARLY: f64 = 0.9;
/// Solves that explain so much of what the poorer one explains found one body.
const SAME: f64 = 0.7;
/// A body that was solved.
pub struct Found {
    /// Its solve.
    pub attempt: Attempt,
    /// For each track of the views what it misses by where it fits, px.
    pub fits: Vec<Option<f64>>,
}

impl Found {
    /// With what fits its cameras.
    pub fn of(attempt: Attempt, views: &Views) -> Self {
        let fits = fitting(views, &attempt);
        Self { attempt, fits }
    }

    /// Whether its own evidence leaves its camera vague.
    pub fn is_vague(&self) -> bool {
        let is_grave = |d: &Doubt| {
            matches!(
                d,
                Doubt::NotConverged | Doubt::FocalUncertain { .. } | Doubt::Undetermined
            )
        };
        self.attempt.doubts.iter().any(is_grave)
    }

    /// 1 where residuals are as small as the tracks claim to be certain, less where they are larger.
    pub fn fit(&self, views: &Views) -> f64 {
        views.as_claimed(self.attempt.unexplained_px())
    }

    /// How many tracks fit.
    pub fn fitting(&self) -> usize {
        self.fits.iter().flatten().count()
    }

    /// Whether another solve found the same body.
    pub fn is_same(&self, other: &Self) -> bool {
        let both = self.fits.iter().zip(&other.fits);
        let shared = both.filter(|(a, b)| a.is_some() && b.is_some()).count();
        shared as f64 > SAME * self.fitting().min(other.fitting()) as f64
    }

    /// Whether it lacks little but rest to be relied on: another focal length to begin with finds
    /// nothing else.
    pub fn is_nearly_sound(&self, views: &Views) -> bool {
        let is_open = |d: &Doubt| {
            matches!(
                d,
                Doubt::FocalUncertain { .. } | Doubt::FocalChanges { .. } | Doubt::Undetermined
            )
        };
        self.fit(views) > NEARLY && !self.attempt.doubts.iter().any(is_open)
    }

    /// Whether it can be relied on that this is one body.
    pub fn is_sound(&self, views: &Views) -> bool {
        self.fit(views) == 1.0 && !self.is_vague()
    }
}

/// The bodies with their tracks: what fits several belongs to the one it fits best, and to all of
/// them only where it cannot be told, as with what lives a few frames.
pub fn told_apart(found: &[Found], views: &Views, held: &Held) -> Vec<Body> {
    let slack_px = SLACK_PX * views.px_scale;
    let best = |track: usize| {
        let misses = found.iter().filter_map(|f| f.fits[track]);
        misses.fold(f64::INFINITY, f64::min)
    };
    let body = |f: &Found| {
        let is_own =
            |track: usize| f.fits[track].is_some_and(|miss| miss <= ALIKE * best(track) + slack_px);
        Body {
            rms_px: f.attempt.rms_px,
            fit: f.fit(views) * if f.is_vague() { DOUBTED } else { 1.0 },
            ..held.body(views, is_own)
        }
    };
    found.iter().map(body).collect()
}

/// What each track misses by through the cameras of an attempt, px; `None` where it does not fit.
fn fitting(views: &Views, attempt: &Attempt) -> Vec<Option<f64>> {
    let cameras: HashMap<FrameNumber, &SolvedFrame> =
        attempt.frames.iter().map(|f| (f.frame, f)).collect();
    let motion = moves::as_solved(attempt).motion();
    let eye = |frame: &FrameNumber| cameras.get(frame).map(|camera| attempt.eye(camera));
    let eyes = views.frames.iter().map(eye).collect();
    let readout = attempt.readout.map(|(frames, _)| frames);
    let rows = RowCameras::of(eyes, &views.frames, readout);
    let loss = Loss::Cauchy(views.in_sigmas(1.0));
    let limit_px = FITTING_PX * views.px_scale;
    let fits = |track: usize| {
        let seen = &views.seen[track];
        let sight = |s: &Seen| {
            Some(Sighting {
                eye: rows.at(s.frame, s.px.y)?,
                seen: *s,
            })
        };
        let sights: Vec<Sighting> = seen.iter().filter_map(sight).collect();
        // Of frames without a camera nothing is known.
        if 2 * sights.len() <= seen.len() {
            return None;
        }
        let place = triangulate(motion, &sights, loss, limit_px)
            .filter(|t| t.fitting_share >= FITTING_SHARE)?;
        let point = WorldPoint(place.point.into());
        let miss = |s: &Sighting| {
            let px = s.eye.lens.project(&s.eye.pose, &point)?;
            Some(px.distance_px(s.seen.px).min(limit_px).powi(2))
        };
        let squares: f64 = sights.iter().filter_map(miss).sum();
        let miss_px = (squares / sights.len() as f64).sqrt();
        (miss_px <= EXPLAINED * views.typical_sigma_px).then_some(miss_px)
    };
    (0..views.tracks.len()).into_par_iter().map(fits).collect()
}
