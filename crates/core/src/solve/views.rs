//! Tracks in the order that the solver needs: by track and by frame, with whitening.

use super::SolveOptions;
use super::bundle::Observation;
use crate::spaces::{FrameNumber, PlatePx, TrackId};
use crate::statistics::median;
use crate::tracks::{Sample, Track};
use std::collections::HashMap;

/// One feature on one frame.
#[derive(Clone, Copy, Debug)]
pub struct Seen {
    /// Index of the frame.
    pub frame: usize,
    /// Where.
    pub px: PlatePx,
    /// Whitening, 1/px.
    pub whitening: [f64; 3],
}

/// All features on all frames.
#[derive(Clone, Debug)]
pub struct Views {
    /// Frames that have tracks, and those of the plate between them, ascending.
    pub frames: Vec<FrameNumber>,
    /// Identity of each track.
    pub tracks: Vec<TrackId>,
    /// What each track saw, ascending by frame.
    pub seen: Vec<Vec<Seen>>,
    /// For each frame: (track, index into its list).
    pub by_frame: Vec<Vec<(usize, usize)>>,
    /// Px of a 1280 px wide picture in this one: thresholds grow with the picture.
    pub px_scale: f64,
    /// Median standard error of a position, px, with the floor.
    pub typical_sigma_px: f64,
}

/// No position is believed to be better than this at 1280 px width: slow drift and unmodelled
/// lens are not in the tracks' covariances. Of the order of the residuals on rendered plates (median 0.07
/// to 0.11 px).
const FLOOR_PX: f64 = 0.08;

/// Residuals of so many typical standard errors are as small as is claimed.
const AS_CLAIMED: f64 = 2.0;

/// Tracks shorter than this are left out.
const SHORTEST: usize = 3;

impl Seen {
    /// A position on a frame of a plate `width_px` wide, at usual weight.
    pub fn of(frame: usize, sample: &Sample, width_px: u32) -> Self {
        let floor = FLOOR_PX * Views::px_scale_of(width_px);
        Self {
            frame,
            px: sample.px,
            whitening: whitening(sample, 1.0, floor),
        }
    }
}

impl Views {
    /// Px of a picture `width_px` wide for one at 1280.
    pub fn px_scale_of(width_px: u32) -> f64 {
        (f64::from(width_px) / 1280.0).clamp(0.5, 4.0)
    }

    /// Orders the tracks of a plate, of which frames between those with tracks have none where something fills
    /// the picture.
    pub fn of(tracks: &[Track], options: &SolveOptions) -> Self {
        let px_scale = Self::px_scale_of(options.lens.width_px);
        let usable: Vec<&Track> = tracks
            .iter()
            .filter(|t| t.samples.len() >= SHORTEST && t.weight > 0.0)
            .collect();
        let mut frames: Vec<FrameNumber> = usable
            .iter()
            .flat_map(|t| t.samples.iter().map(|s| s.frame))
            .collect();
        frames.sort_unstable();
        frames.dedup();
        if let (Some(first), Some(last)) = (frames.first(), frames.last()) {
            let between = first.0..=last.0;
            // A plate whose numbers leave some out has fewer frames than that.
            if between.clone().count() <= options.plate_frames.unwrap_or(0) {
                frames = between.map(FrameNumber).collect();
            }
        }
        let index: HashMap<FrameNumber, usize> =
            frames.iter().enumerate().map(|(i, f)| (*f, i)).collect();
        let floor = FLOOR_PX * px_scale;
        let seen: Vec<Vec<Seen>> = usable
            .iter()
            .map(|t| {
                let one = |s: &Sample| Seen {
                    frame: index[&s.frame],
                    px: s.px,
                    whitening: whitening(s, t.weight, floor),
                };
                t.samples.iter().map(one).collect()
            })
            .collect();
        let mut by_frame = vec![Vec::new(); frames.len()];
        for (track, list) in seen.iter().enumerate() {
            for (k, s) in list.iter().enumerate() {
                by_frame[s.frame].push((track, k));
            }
        }
        let mut sigmas: Vec<f64> = usable
            .iter()
            .flat_map(|t| {
                t.samples
                    .iter()
                    .map(|s| s.covariance.sigma_px().hypot(floor))
            })
            .collect();
        let typical_sigma_px = median(&mut sigmas).unwrap_or(floor);
        Self {
            frames,
            tracks: usable.iter().map(|t| t.id).collect(),
            seen,
            by_frame,
            px_scale,
            typical_sigma_px,
        }
    }

    /// Positions of tracks that both frames see: (track, first, second).
    pub fn shared(&self, first: usize, second: usize) -> Vec<(usize, PlatePx, PlatePx)> {
        self.by_frame[first]
            .iter()
            .filter_map(|&(track, k)| {
                let list = &self.seen[track];
                let other = list.binary_search_by_key(&second, |s| s.frame).ok()?;
                Some((track, list[k].px, list[other].px))
            })
            .collect()
    }

    /// An observation for the adjustment.
    pub fn observation(&self, camera: usize, point: usize, seen: &Seen) -> Observation {
        Observation {
            camera: camera as u32,
            point: point as u32,
            px: seen.px,
            whitening: seen.whitening,
        }
    }

    /// 1 where a residual is as small as the tracks claim to be certain, less where it is larger.
    pub fn as_claimed(&self, rms_px: f64) -> f64 {
        (AS_CLAIMED * self.typical_sigma_px / rms_px.max(1e-9)).min(1.0)
    }

    /// A length in px at 1280 px width, in standard errors of a typical position.
    pub fn in_sigmas(&self, px_at_1280: f64) -> f64 {
        px_at_1280 * self.px_scale / self.typical_sigma_px
    }
}

/// Upper-triangular W with WᵀW = weight * covariance⁻¹.
fn whitening(sample: &Sample, weight: f64, floor_px: f64) -> [f64; 3] {
    let c = &sample.covariance;
    let (xx, xy, yy) = (c.xx + floor_px * floor_px, c.xy, c.yy + floor_px * floor_px);
    let determinant = xx * yy - xy * xy;
    let healthy = determinant.is_finite() && determinant > 1e-12 * xx * yy && xx > 0.0;
    let (xx, xy, yy, determinant) = if healthy {
        (xx, xy, yy, determinant)
    } else {
        (1.0, 0.0, 1.0, 1.0)
    };
    // Information matrix [yy -xy; -xy xx] / determinant, its Cholesky factor transposed.
    let a = (weight * yy / determinant).sqrt();
    let b = -weight * xy / determinant / a;
    let c = (weight * xx / determinant - b * b).max(0.0).sqrt();
    [a, b, c]
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::tracks::Covariance;

    #[test]
    fn whitening_is_the_root_of_the_information() {
        let covariance = Covariance {
            xx: 0.04,
            xy: 0.013,
            yy: 0.09,
        };
        let sample = Sample {
            frame: FrameNumber(1),
            px: PlatePx::new(0.0, 0.0),
            covariance,
        };
        let [a, b, c] = whitening(&sample, 1.0, 0.0);
        let w = nalgebra::Matrix2::new(a, b, 0.0, c);
        let product = w.transpose() * w * covariance.matrix();
        assert!((product - nalgebra::Matrix2::identity()).norm() < 1e-12);
    }
}
