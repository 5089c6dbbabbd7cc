//! A focal length of its own for each camera, and the belief that it changes smoothly.
//!
//! The rate at which the logarithm of the focal length changes wanders: from one frame to the next
//! by a stated standard error ([`RATE_WANDERS`] in the end), over longer steps by the root of their
//! length more.
//! That is a residual for each three successive cameras. It carries a focal length over frames
//! that say little and yields to those that say more. What is stated of the first camera's is one more.

use super::beliefs::{Belief, successive};
use super::{CAMERA, FOCAL};

/// One standard error of how much the rate of ln(focal length) changes within a frame, 1/frame.
pub const RATE_WANDERS: f64 = 0.003;

/// The same while a world grows: with few cameras a zoom is hardly told from a travel along the axis,
/// and nearly steady zooms are a start from which the freer ones are found.
pub const GROWING_WANDERS: f64 = 0.0005;

/// Each camera's focal length.
#[derive(Clone, Debug, PartialEq)]
pub struct Zoom {
    /// Focal length of each camera, px.
    pub focals_px: Vec<f64>,
    /// When each camera saw what it saw, frames, ascending.
    pub times: Vec<f64>,
    /// One standard error of how much the rate changes within a frame, 1/frame.
    pub wanders: f64,
    /// What is known of the first camera's focal length: its value and one standard error, px.
    pub at_first: Option<(f64, f64)>,
}

impl Zoom {
    /// What is believed of the first focal length, and of each three successive ones.
    pub fn beliefs(&self) -> impl Iterator<Item = Belief> + '_ {
        self.of_first().into_iter().chain(self.of_threes())
    }

    fn of_first(&self) -> Option<Belief> {
        let (expected_px, sigma_px) = self.at_first?;
        let mut slopes = [[0.0; CAMERA]; 3];
        slopes[0][FOCAL] = 1.0 / sigma_px;
        Some(Belief {
            residual: (self.focals_px.first()? - expected_px) / sigma_px,
            cameras: [0; 3],
            slopes,
        })
    }

    fn of_threes(&self) -> impl Iterator<Item = Belief> + '_ {
        successive(&self.times).map(|three| {
            let [f, g, h] = three.cameras.map(|camera| self.focals_px[camera]);
            let [early, late] = three.steps;
            let scale = 1.0 / (self.wanders * three.wanders);
            let by_focal = [
                scale / (early * f),
                -scale * (1.0 / late + 1.0 / early) / g,
                scale / (late * h),
            ];
            let slopes = by_focal.map(|slope| {
                let mut slopes = [0.0; CAMERA];
                slopes[FOCAL] = slope;
                slopes
            });
            Belief {
                residual: scale * ((h / g).ln() / late - (g / f).ln() / early),
                cameras: three.cameras,
                slopes,
            }
        })
    }

    /// Half the sum of squares of all beliefs.
    pub fn cost(&self) -> f64 {
        self.beliefs().map(|b| 0.5 * b.residual * b.residual).sum()
    }

    /// Changes each focal length, by no more than half or double.
    pub fn step(&mut self, changes: impl Iterator<Item = f64>) {
        for (focal_px, change) in self.focals_px.iter_mut().zip(changes) {
            *focal_px = (*focal_px + change).clamp(0.5 * *focal_px, 2.0 * *focal_px);
        }
    }
}
