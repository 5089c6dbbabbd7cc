//! What does a landmark miss its positions by, and which of them does it not belong to?

use super::bundle::residual;
use super::views::{Seen, Views};
use super::world::World;
use crate::camera::Eye;
use crate::spaces::WorldPoint;
use std::ops::Range;

/// Root mean square of residuals as [`World::residuals_px`] has them, px.
pub fn rms_px(residuals: &[(usize, usize, f64)]) -> f64 {
    let squares: f64 = residuals.iter().map(|r| r.2 * r.2).sum();
    (squares / residuals.len().max(1) as f64).sqrt()
}

impl World {
    /// Leaves out positions farther than `limit_px` (at 1280) from their landmark, and removes
    /// landmarks that lose more than 40 % of theirs, of all and of every leg ([`legs`]). Positions that
    /// fit again come back.
    pub fn drop_misfits(&mut self, views: &Views, limit_px: f64) {
        let limit = limit_px * views.px_scale;
        let rows = self.row_cameras(views);
        let judged: Vec<_> = (0..views.tracks.len())
            .map(|track| {
                let point = WorldPoint(self.points[track]?.into());
                let misfit = |s: &Seen| -> Option<bool> {
                    let Eye { lens, pose } = rows.at(s.frame, s.px.y)?;
                    let px = lens.project(&pose, &point);
                    Some(px.is_none_or(|px| px.distance_px(s.px) > limit))
                };
                Some(views.seen[track].iter().map(misfit).collect::<Vec<_>>())
            })
            .collect();
        for (track, misfits) in judged.into_iter().enumerate() {
            let Some(misfits) = misfits else { continue };
            let fits = |leg: Range<usize>| {
                let all = misfits[leg.clone()].iter().flatten().count();
                let out = misfits[leg].iter().flatten().filter(|out| **out).count();
                all >= out + 2 && out * 10 <= all * 4
            };
            let seen = &views.seen[track];
            let is_kept = fits(0..seen.len()) || legs(seen).any(fits);
            for (out, misfit) in self.left_out[track].iter_mut().zip(&misfits) {
                *out = is_kept && misfit.unwrap_or(*out);
            }
            if !is_kept {
                self.points[track] = None;
            }
        }
    }

    /// How many positions belong to a landmark and are not left out.
    pub fn fitting(&self, views: &Views) -> usize {
        self.residuals_px(views).len()
    }

    /// Root mean square of all residuals, px.
    pub fn rms_px(&self, views: &Views) -> f64 {
        rms_px(&self.residuals_px(views))
    }

    /// Residuals of everything in the adjustment, px: (track, index into its list, length).
    pub fn residuals_px(&self, views: &Views) -> Vec<(usize, usize, f64)> {
        let (problem, back) = self.problem(views);
        let length = |o| residual::offset_px(&problem, o).map_or(f64::INFINITY, |r| r.norm());
        problem
            .observations
            .iter()
            .zip(&back.observations)
            .map(|(o, (t, k))| (*t, *k, length(o)))
            .collect()
    }
}

/// What was out of sight for more frames than this came back.
const GAP: usize = 8;

/// Stretches of a track between which it was out of sight for long, as ranges of its positions: what
/// came back may be something else.
pub fn legs(seen: &[Seen]) -> impl Iterator<Item = Range<usize>> + '_ {
    let mut next = 0;
    std::iter::from_fn(move || {
        let first = next;
        if first == seen.len() {
            return None;
        }
        let goes_on = |pair: &&[Seen]| pair[1].frame <= pair[0].frame + GAP;
        next = first + 1 + seen[first..].windows(2).take_while(goes_on).count();
        Some(first..next)
    })
}
