//! Is a rotation alone enough to explain what moved between two views?
//!
//! Best rotation by Kabsch (1976) on bearings, made robust by reweighting with the distance
//! left over. What remains after the best rotation is parallax.

use crate::rotation::nearest;
use crate::statistics::median;
use nalgebra::{Matrix3, UnitQuaternion, Vector3};

/// The best rotation and what it leaves.
#[derive(Clone, Copy, Debug)]
pub struct RotationFit {
    /// `second_from_first`.
    pub rotation: UnitQuaternion<f64>,
    /// Median angle that is left, rad: the parallax.
    pub median_rad: f64,
}

/// Fits a rotation to pairs of unit bearings (first, second view); `None` below three pairs.
pub fn fit_rotation(pairs: &[(Vector3<f64>, Vector3<f64>)]) -> Option<RotationFit> {
    if pairs.len() < 3 {
        return None;
    }
    let mut weights = vec![1.0; pairs.len()];
    let mut rotation = UnitQuaternion::identity();
    let mut left = vec![0.0; pairs.len()];
    for _ in 0..8 {
        let mut covariance = Matrix3::zeros();
        for ((a, b), w) in pairs.iter().zip(&weights) {
            covariance += b * a.transpose() * *w;
        }
        rotation = nearest(&covariance)?.rotation;
        for ((a, b), l) in pairs.iter().zip(left.iter_mut()) {
            *l = (rotation * a - b).norm();
        }
        let scale = median(&mut left.clone())?.max(1e-6);
        for (w, l) in weights.iter_mut().zip(&left) {
            *w = 1.0 / (1.0 + (l / scale).powi(2));
        }
    }
    Some(RotationFit {
        rotation,
        median_rad: median(&mut left)?,
    })
}
