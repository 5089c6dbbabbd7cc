//! Bundle adjustment: cameras, landmarks and lens that fit all observations best
//! (Triggs, McLauchlan, Hartley and Fitzgibbon 2000).
//!
//! Minimises `Σ ρ(|W (project(camera, point) - px)|²)` with W the whitening of each
//! observation. Unknowns: one block per camera (turn and shift in camera space, applied on the
//! left, and a focal length of its own), of which those take part that the kind of [`Motion`] and
//! the [`Zoom`] leave free; three per point; and the shared lens terms that are set free.
//!
//! - [`residual`]: projection with analytic derivatives.
//! - [`beliefs`]: what is known besides what was seen, as residuals of their own.
//! - [`ties`]: what is believed of several points together.
//! - [`rolling`]: rows that are read one after the other; [`neighbours`]: what is seen hangs on these then.
//! - [`robust`]: losses, applied by reweighting.
//! - [`derivatives`]: of all residuals at one place.
//! - [`normal`]: normal equations with the points eliminated (Schur complement).
//! - [`reduced`]: sparse Cholesky of what is left, its structure analysed once.
//! - [`minimise`]: the Levenberg-Marquardt loop; [`stepped`]: where a step of it leads.
//! - [`covariance`]: how certain the result is, from [`selected_inverse`]; [`relative`]: one camera
//!   against another.
//!
//! Memory grows linearly with the observations (and with pairs of cameras that share a
//! point). The gauge is left free in the minimisation, damping takes care of it.

pub mod beliefs;
pub mod coupling;
pub mod covariance;
pub mod derivatives;
pub mod minimise;
pub mod neighbours;
pub mod normal;
pub mod products;
pub mod reduced;
pub mod relative;
pub mod residual;
pub mod robust;
pub mod rolling;
pub mod selected_inverse;
pub mod stepped;
pub mod ties;
pub mod zoom;

pub use beliefs::{Anchor, Belief, Beliefs, Smoothness};
pub use minimise::{Report, Settings, Stop, minimise};
pub use robust::Loss;
pub use rolling::Rolling;
pub use ties::{Flat, Length, Ties};
pub use zoom::Zoom;

use crate::camera::{Eye, Intrinsics, Pose};
use crate::lens::{LensTerms, Term};
use crate::spaces::PlatePx;
use nalgebra::{Matrix3, Vector3};
use serde::{Deserialize, Serialize};
use std::sync::Arc;

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
    /// Its other terms.
    #[serde(default)]
    pub lens: LensTerms,
    /// The read-out time of a rolling shutter.
    #[serde(default)]
    pub readout: bool,
}

impl FreeLens {
    /// How many unknowns that makes.
    pub fn count(&self) -> usize {
        self.terms().count()
    }

    /// What is free, in the order of the unknowns.
    pub fn terms(&self) -> impl Iterator<Item = Shared> + use<> {
        let focal = self.focal.then_some(Shared::Focal).into_iter();
        let readout = self.readout.then_some(Shared::Readout);
        focal
            .chain(self.lens.terms().map(Shared::Lens))
            .chain(readout)
    }
}

/// An unknown that all cameras share.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Shared {
    /// The focal length, px.
    Focal,
    /// Another number of the lens; the centre in px.
    Lens(Term),
    /// Read-out time, frames.
    Readout,
}

/// Most shared unknowns there can be.
pub const MOST_SHARED: usize = 9;

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
    /// All at the origin, none turned; points are directions of unit length.
    Resting,
}

impl Motion {
    /// Whether all cameras are in one place, so that points are directions.
    pub fn is_on_the_spot(self) -> bool {
        self != Self::Free
    }
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
    /// What is believed besides.
    pub beliefs: Beliefs,
    /// Cameras.
    pub poses: Vec<Pose>,
    /// Points, world.
    pub points: Vec<Vector3<f64>>,
    /// What was seen, sorted by point, then by camera; shared by the problem before a step and after it.
    pub observations: Arc<[Observation]>,
}

/// A change of all unknowns.
#[derive(Clone, Debug)]
pub struct Step {
    /// Turn (3), shift (3) and focal length of each camera, zero where it is not free; then of what points
    /// are tied to, which has no state ([`ties`]).
    pub cameras: Vec<[f64; CAMERA]>,
    /// Shift of each point.
    pub points: Vec<Vector3<f64>>,
    /// Change of what is shared as far as it is free, in the order of [`FreeLens::terms`].
    pub shared: [f64; MOST_SHARED],
}

/// Standard error of the weak expectation that the read-out time is short, frames.
const READOUT_EXPECTATION: f64 = 1.0;
/// Standard error of the weak expectation that radial terms are small: terms that the
/// pictures say nothing about stay near zero instead of wandering off.
const RADIAL_EXPECTATION: f64 = 0.5;
/// The same of tangential terms: lenses are centred to a fraction of a millimetre.
const TANGENTIAL_EXPECTATION: f64 = 0.01;
/// The same of the centre, as a share of the picture's width from its middle.
const CENTRE_EXPECTATION: f64 = 0.02;

impl Problem {
    /// Which unknowns of each camera are free, ascending.
    pub fn slots(&self) -> &'static [usize] {
        match (self.motion, self.zoom.is_some()) {
            (Motion::Free, false) => &[0, 1, 2, 3, 4, 5],
            (Motion::Free, true) => &[0, 1, 2, 3, 4, 5, FOCAL],
            (Motion::Turning, false) => &[0, 1, 2],
            (Motion::Turning, true) => &[0, 1, 2, FOCAL],
            (Motion::Resting, false) => &[],
            (Motion::Resting, true) => &[FOCAL],
        }
    }

    /// How many blocks of unknowns there are beside the points: cameras, then what points are tied to.
    pub fn blocks(&self) -> usize {
        self.poses.len() + self.beliefs.ties.count()
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

    /// Where each camera stands and how it draws.
    pub fn eyes(&self) -> Vec<Eye> {
        let eye = |(camera, pose): (usize, &Pose)| Eye {
            lens: self.lens_of(camera),
            pose: *pose,
        };
        self.poses.iter().enumerate().map(eye).collect()
    }

    /// From the world to each camera, as matrices.
    pub fn rotations(&self) -> Vec<Matrix3<f64>> {
        let matrix = |p: &Pose| p.camera_from_world.rotation.to_rotation_matrix();
        self.poses.iter().map(|p| matrix(p).into_inner()).collect()
    }

    /// The length of a direction says nothing and is held: nothing that was seen depends on it, so
    /// that no other unknown is touched. `normal` is the point's normal matrix.
    pub fn hold_length(&self, point: usize, normal: &mut Matrix3<f64>) {
        if self.motion.is_on_the_spot() {
            let direction = self.points[point];
            *normal += direction * direction.transpose() * normal.trace();
        }
    }

    /// What each shared unknown is off what is expected of it, and the precision of that.
    fn expectations(&self) -> [(f64, f64); MOST_SHARED] {
        let mut out = [(0.0, 0.0); MOST_SHARED];
        let lens = &self.lens;
        let width_px = f64::from(lens.width_px);
        let of_lens = |term: Term| match term {
            Term::K1 | Term::K2 | Term::K3 | Term::K1ByZoom => (0.0, RADIAL_EXPECTATION),
            Term::P1 | Term::P2 => (0.0, TANGENTIAL_EXPECTATION),
            Term::CentreX => (0.5 * width_px, CENTRE_EXPECTATION * width_px),
            Term::CentreY => (
                0.5 * f64::from(lens.height_px),
                CENTRE_EXPECTATION * width_px,
            ),
        };
        for (out, term) in out.iter_mut().zip(self.free.terms()) {
            let (off, sigma) = match term {
                Shared::Focal => match self.beliefs.focal_px {
                    Some((expected, sigma)) => (lens.focal_px - expected, sigma),
                    None => continue,
                },
                Shared::Lens(term) => {
                    let (expected, sigma) = of_lens(term);
                    (term.of(lens) - expected, sigma)
                }
                Shared::Readout => match &self.rolling {
                    Some(rolling) => (rolling.readout, READOUT_EXPECTATION),
                    None => continue,
                },
            };
            *out = (off, 1.0 / (sigma * sigma));
        }
        out
    }

    /// What is believed of the cameras, with derivatives.
    pub fn beliefs_of_cameras(&self) -> Vec<Belief> {
        beliefs::of_cameras(&self.poses, self.zoom.as_ref(), &self.beliefs)
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
        let of_cameras = self.beliefs_of_cameras();
        let of_cameras = of_cameras.iter().map(|b| 0.5 * b.residual * b.residual);
        let anchors = self.beliefs.anchors.iter();
        let of_points = anchors.map(|a| a.cost(&self.points[a.point as usize]));
        let of_points = of_points.sum::<f64>() + self.beliefs.ties.cost(&self.points);
        seen + expected + of_cameras.sum::<f64>() + of_points
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
