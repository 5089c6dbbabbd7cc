//! What two views of the same features say: how the camera turned and shifted between
//! them, and whether it shifted at all.
//!
//! Bearings are rays in camera space (x right, y up, -z forward), so that no sign changes
//! between conventions; `E` satisfies `bᵀ E a = 0` for a bearing `a` of the first and `b`
//! of the second view, `E = [t]× R`, with R and t of `second_from_first`.

mod consensus;
mod five_point;
mod fundamental;
mod rotation;

pub use consensus::{RelativePose, RelativePoseSearch, relative_pose};
pub use five_point::essential_matrices;
pub use fundamental::{FundamentalConsensus, fundamental_consensus};
pub use rotation::{RotationFit, fit_rotation};

use nalgebra::{Matrix3, Vector3};

/// Squared Sampson distance of a bearing pair to the epipolar geometry, in units of the
/// plane at distance 1 (Hartley and Zisserman 2004, eq. 11.9).
pub fn sampson_squared(essential: &Matrix3<f64>, a: &Vector3<f64>, b: &Vector3<f64>) -> f64 {
    let (a, b) = (a / -a.z, b / -b.z);
    let ea = essential * a;
    let eb = essential.tr_mul(&b);
    let off = b.dot(&ea);
    let slope = ea.x * ea.x + ea.y * ea.y + eb.x * eb.x + eb.y * eb.y;
    if slope > 0.0 {
        off * off / slope
    } else {
        f64::INFINITY
    }
}
