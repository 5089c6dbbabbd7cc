//! Bundle adjustment: cameras, landmarks and lens that fit all observations best
//! (Triggs, McLauchlan, Hartley and Fitzgibbon 2000).
//!
//! Minimises `Σ ρ(|W (project(camera, point) - px)|²)` with W the whitening of each
//! observation. Unknowns: one block per camera (turn and shift in camera space, applied on the
//! left, and a focal length of its own), of which those take part that the kind of [`Motion`] and
//! the [`Zoom`] leave free; three per point; and the shared lens terms that are set free.
//!
//! - [`residual`]: projection with analytic derivatives.
//! - [`rolling`]: rows that are read one after the other.
//! - [`robust`]: losses, applied by reweighting.
//! - [`normal`]: normal equations with the points eliminated (Schur complement).
//! - [`reduced`]: sparse Cholesky of what is left, its structure analysed once.
//! - [`minimise`]: the Levenberg-Marquardt loop.
//! - [`covariance`]: how certain the result is, from [`selected_inverse`]; [`relative`]: one camera
//!   against another.
//!
//! Memory grows linearly with the observations (and with pairs of cameras that share a
//! point). The gauge is left free in the minimisation, damping takes care of it.

pub mod covariance;
pub mod minimise;
pub mod normal;
pub mod reduced;
pub mod relative;
pub mod residual;
pub mod robust;
pub mod rolling;
pub mod selected_inverse;
pub mod zoom;

pub use minimise::{Report, Settings, Stop, minimise};
pub use robust::Loss;
pub use rolling::Rolling;
pub use zoom::Zoom;

use crate::camera::{Intrinsics, Pose};
use crate::spaces::PlatePx;
use nalgebra::{Matrix3, Vector3};
use serde::{Deserialize, Serialize};

/// One feature seen by one camera.
#[derive(Clone, Copy, Debug)]
pub struct Observation {
    /// Index of the camera.
    pub camera: u32,
    /// Index of the point.
    pub point: u32,
    /// Where it was seen.
    pub px: PlatePx,
    /// Upper triangle (a, b, c) of W = [a b; 0 c] with WᵀW the inverse covariance, 1/px.
    pub whitening: [f64; 3],
}

/// Which lens terms are unknown.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct FreeLens {
    /// The focal length.
    pub focal: bool,
    /// How many radial terms, 0 to 2.
    pub radial_terms: usize,
    /// The read-out time of a rolling shutter.
    #[serde(default)]
    pub readout: bool,
}

impl FreeLens {
    /// How many unknowns that makes.
    pub fn count(&self) -> usize {
        usize::from(self.focal) + self.radial_terms + usize::from(self.readout)
    }
}

/// Most shared unknowns there can be.
pub const MOST_SHARED: usize = 4;

/// Unknowns of a camera that there can be: turn (3), shift (3), focal length (1).
pub const CAMERA: usize = 7;

/// Which of them is the focal length.
pub const FOCAL: usize = 6;

/// How cameras may stand to each other.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Motion {
    /// Anywhere; points are places.
    #[default]
    Free,
    /// All at the origin, turned; points are directions of unit length.
    Turning,
}

/// Cameras, points and what was seen. Observations are sorted by point, then by camera.
#[derive(Clone, Debug)]
pub struct Problem {
    /// How cameras may stand to each other.
    pub motion: Motion,
    /// The lens of all cameras; its focal length is that of all but where it zooms.
    pub lens: Intrinsics,
    /// Each camera's own focal length; the shared one is not free then.
    pub zoom: Option<Zoom>,
    /// How rows are read; `None` where all are at once.
    pub rolling: Option<Rolling>,
    /// Which of its terms are unknown.
    pub free: FreeLens,
    /// Cameras.
    pub poses: Vec<Pose>,
    /// Points, world.
    pub points: Vec<Vector3<f64>>,
    /// What was seen, sorted by point, then by camera.
    pub observations: Vec<Observation>,
}

/// A change of all unknowns.
#[derive(Clone, Debug)]
pub struct Step {
    /// Turn (3), shift (3) and focal length of each camera, zero where it is not free.
    pub cameras: Vec<[f64; CAMERA]>,
    /// Shift of each point.
    pub points: Vec<Vector3<f64>>,
    /// Change of focal_px, k1, k2 and the read-out time as far as they are free, in this order.
    pub shared: [f64; MOST_SHARED],
}

/// Standard error of the weak expectation that the read-out time is short, frames.
const READOUT_EXPECTATION: f64 = 1.0;
/// Standard error of the weak expectation that radial terms are small: terms that the
/// pictures say nothing about stay near zero instead of wandering off.
const RADIAL_EXPECTATION: f64 = 0.5;

impl Problem {
    /// Which unknowns of each camera are free, ascending.
    pub fn slots(&self) -> &'static [usize] {
        match (self.motion, self.zoom.is_some()) {
            (Motion::Free, false) => &[0, 1, 2, 3, 4, 5],
            (Motion::Free, true) => &[0, 1, 2, 3, 4, 5, FOCAL],
            (Motion::Turning, false) => &[0, 1, 2],
            (Motion::Turning, true) => &[0, 1, 2, FOCAL],
        }
    }

    /// Focal length of a camera, px.
    pub fn focal_px(&self, camera: usize) -> f64 {
        self.zoom
            .as_ref()
            .map_or(self.lens.focal_px, |zoom| zoom.focals_px[camera])
    }

    /// How a camera draws.
    pub fn lens_of(&self, camera: usize) -> Intrinsics {
        self.lens.with_focal(self.focal_px(camera))
    }

    /// From the world to each camera, as matrices.
    pub fn rotations(&self) -> Vec<Matrix3<f64>> {
        let matrix = |p: &Pose| p.camera_from_world.rotation.to_rotation_matrix();
        self.poses.iter().map(|p| matrix(p).into_inner()).collect()
    }

    /// The length of a direction says nothing and is held: nothing that was seen depends on it, so
    /// that no other unknown is touched. `normal` is the point's normal matrix.
    pub fn hold_length(&self, point: usize, normal: &mut Matrix3<f64>) {
        if self.motion == Motion::Turning {
            let direction = self.points[point];
            *normal += direction * direction.transpose() * normal.trace();
        }
    }

    /// The problem after a step.
    pub fn stepped(&self, step: &Step) -> Self {
        let mut next = self.clone();
        for (pose, s) in next.poses.iter_mut().zip(&step.cameras) {
            *pose = pose.perturbed(
                Vector3::new(s[0], s[1], s[2]),
                Vector3::new(s[3], s[4], s[5]),
            );
        }
        for (point, s) in next.points.iter_mut().zip(&step.points) {
            *point += s;
            if self.motion == Motion::Turning {
                *point /= point.norm().max(f64::MIN_POSITIVE);
            }
        }
        if let Some(zoom) = &mut next.zoom {
            zoom.step(step.cameras.iter().map(|s| s[FOCAL]));
        }
        let mut shared = step.shared.iter();
        if self.free.focal {
            let change = shared.next().copied().unwrap_or(0.0);
            // A step never more than halves or doubles the focal length.
            next.lens.focal_px = (self.lens.focal_px + change)
                .clamp(0.5 * self.lens.focal_px, 2.0 * self.lens.focal_px);
        }
        for term in 0..self.free.radial_terms {
            let change = shared.next().copied().unwrap_or(0.0);
            match term {
                0 => next.lens.distortion.k1 += change,
                _ => next.lens.distortion.k2 += change,
            }
        }
        if let Some(rolling) = next.rolling.as_mut().filter(|_| self.free.readout) {
            let change = shared.next().copied().unwrap_or(0.0);
            // It may be read upwards, and takes no longer than a frame.
            rolling.readout = (rolling.readout + change).clamp(-1.0, 1.0);
        }
        next
    }

    /// Value and precision of the expectation on each shared unknown.
    fn expectations(&self) -> [(f64, f64); MOST_SHARED] {
        let mut out = [(0.0, 0.0); MOST_SHARED];
        let precision = 1.0 / (RADIAL_EXPECTATION * RADIAL_EXPECTATION);
        let terms = [self.lens.distortion.k1, self.lens.distortion.k2];
        for (i, term) in terms.iter().take(self.free.radial_terms).enumerate() {
            out[usize::from(self.free.focal) + i] = (*term, precision);
        }
        if let Some(rolling) = self.rolling.as_ref().filter(|_| self.free.readout) {
            let precision = 1.0 / (READOUT_EXPECTATION * READOUT_EXPECTATION);
            out[self.free.count() - 1] = (rolling.readout, precision);
        }
        out
    }

    /// Half the sum of robust squared whitened residuals, with the expectations.
    pub fn cost(&self, loss: Loss) -> f64 {
        use rayon::prelude::*;
        let seen: f64 = self
            .observations
            .par_chunks(2048)
            .map(|chunk| {
                chunk
                    .iter()
                    .map(|o| 0.5 * loss.cost(residual::squared(self, o)))
                    .sum::<f64>()
            })
            .collect::<Vec<_>>()
            .iter()
            .sum();
        let expected: f64 = self
            .expectations()
            .iter()
            .map(|(value, precision)| 0.5 * precision * value * value)
            .sum();
        seen + expected + self.zoom.as_ref().map_or(0.0, Zoom::cost)
    }

    /// Range of observations of each point.
    pub(crate) fn ranges_by_point(&self) -> Vec<std::ops::Range<usize>> {
        let mut ranges = vec![0..0; self.points.len()];
        let mut start = 0;
        while start < self.observations.len() {
            let point = self.observations[start].point;
            let length = self.observations[start..]
                .iter()
                .take_while(|o| o.point == point)
                .count();
            ranges[point as usize] = start..start + length;
            start += length;
        }
        ranges
    }
}
