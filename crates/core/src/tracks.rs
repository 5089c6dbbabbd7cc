//! What is known of a feature over time, as plain data: positions in the plate as shot, px, with
//! their covariances, px². [`track`](crate::track) makes tracks, [`solve`](crate::solve) takes
//! them, [`judge`](crate::judge) weighs them; none of these is known here.

use crate::spaces::{FrameNumber, PlatePx, TrackId};
use nalgebra::Matrix2;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

/// Uncertainty of a position: the 2x2 covariance in px², stored by its three entries.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Covariance {
    /// Variance across, px².
    pub xx: f64,
    /// Covariance, px².
    pub xy: f64,
    /// Variance up and down, px².
    pub yy: f64,
}

impl Covariance {
    /// The same uncertainty in all directions.
    pub fn isotropic(sigma_px: f64) -> Self {
        Self {
            xx: sigma_px * sigma_px,
            xy: 0.0,
            yy: sigma_px * sigma_px,
        }
    }

    /// A share of another in place of the same share of this.
    pub fn mixed(&self, other: &Self, share: f64) -> Self {
        let mix = |a: f64, b: f64| a + share * (b - a);
        Self {
            xx: mix(self.xx, other.xx),
            xy: mix(self.xy, other.xy),
            yy: mix(self.yy, other.yy),
        }
    }

    /// Of the sum of two independent errors.
    pub fn plus(&self, other: &Self) -> Self {
        Self {
            xx: self.xx + other.xx,
            xy: self.xy + other.xy,
            yy: self.yy + other.yy,
        }
    }

    /// As a matrix, px².
    pub fn matrix(&self) -> Matrix2<f64> {
        Matrix2::new(self.xx, self.xy, self.xy, self.yy)
    }

    /// Root of the mean variance, px.
    pub fn sigma_px(&self) -> f64 {
        (0.5 * (self.xx + self.yy)).sqrt()
    }
}

/// Where a feature is on one frame.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Sample {
    /// The frame.
    pub frame: FrameNumber,
    /// The position in the plate as shot.
    pub px: PlatePx,
    /// How certain the position is.
    pub covariance: Covariance,
}

/// Who made a track.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum TrackKind {
    /// Followed by itself.
    Auto,
    /// Keyed by the artist.
    Hand,
}

/// One feature over time: at most one sample per frame, in order of frames.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Track {
    /// Identity inside the shot.
    pub id: TrackId,
    /// Who made it.
    pub kind: TrackKind,
    /// A weight the artist gave, 1 by default.
    pub weight: f64,
    /// Positions in order of frames.
    pub samples: Vec<Sample>,
    /// How far it was found to be off the detail it was born on, px, where that could be told.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub drift_px: Option<f64>,
}

impl Track {
    /// A track of usual weight.
    pub fn new(id: TrackId, kind: TrackKind, samples: Vec<Sample>) -> Self {
        Self {
            id,
            kind,
            weight: 1.0,
            samples,
            drift_px: None,
        }
    }

    /// The same with a weight.
    pub fn weighing(self, weight: f64) -> Self {
        Self { weight, ..self }
    }

    /// The sample on a frame.
    pub fn at(&self, frame: FrameNumber) -> Option<&Sample> {
        self.samples
            .binary_search_by_key(&frame, |s| s.frame)
            .ok()
            .map(|i| &self.samples[i])
    }

    /// First and last frame, `None` without samples.
    pub fn range(&self) -> Option<(FrameNumber, FrameNumber)> {
        Some((self.samples.first()?.frame, self.samples.last()?.frame))
    }
}

/// All frames on which tracks have samples, ascending.
pub fn frames_of(tracks: &[Track]) -> Vec<FrameNumber> {
    let all = tracks
        .iter()
        .flat_map(|t| t.samples.iter().map(|s| s.frame));
    all.collect::<BTreeSet<_>>().into_iter().collect()
}
