//! How certain is one camera against another?
//!
//! Errors of cameras in one gauge say how far off they are in the world; most of that is common to
//! neighbours and nobody sees it. What is seen is by how much one camera is off as seen from another. With the
//! turn and shift ε of each camera (camera space, applied on the left) and B from the first camera to the
//! second, that is ε₂ - Ad(B) ε₁; its covariance comes from the columns of S⁻¹ that belong to both, and does not depend on
//! the gauge. What goes with an error of the focal length is taken out: landmarks go with it as well, and
//! what is seen of it is another matter ([`crate::solve::forecast`]).

use super::Problem;
use super::covariance::Gauge;
use super::reduced::{ReducedStep, Structure};
use faer::sparse::SparseColMat;
use nalgebra::{Matrix6, Vector3, Vector6};

/// The second camera as seen from the first.
#[derive(Clone, Debug)]
pub struct Relative {
    /// Index of the first camera.
    pub first: usize,
    /// Index of the second camera.
    pub second: usize,
    /// Covariance of the second's turn (rad) and shift (world units), both in its camera space, the first
    /// being held.
    pub covariance: Matrix6<f64>,
}

/// Cameras that are looked at, spread evenly: each against those so many places on.
const MOST_CAMERAS: usize = 96;
const NEAREST_APART: usize = 6;
const PLACES_ON: [usize; 3] = [1, 3, 6];

/// Pairs of cameras at some distances, all along the shot. `matrix` is the reduced matrix with the gauge
/// held, `factor` the variance factor, `by_focal` what one standard error of the focal length comes to.
pub(super) fn along(
    problem: &Problem,
    structure: &Structure,
    (matrix, gauge): (&SparseColMat<usize, f64>, &Gauge),
    factor: f64,
    by_focal: Option<&ReducedStep>,
) -> Option<Vec<Relative>> {
    let count = problem.poses.len();
    let stride = count.div_ceil(MOST_CAMERAS).max(NEAREST_APART);
    let cameras: Vec<usize> = (0..count).step_by(stride).collect();
    let mut side = faer::Mat::<f64>::zeros(structure.size(), 6 * cameras.len());
    let unknown =
        |camera: usize, slot: usize| structure.row(camera, slot).filter(|row| !gauge.holds(*row));
    for (k, camera) in cameras.iter().enumerate() {
        for slot in 0..6 {
            if let Some(row) = unknown(*camera, slot) {
                side[(row, 6 * k + slot)] = 1.0;
            }
        }
    }
    let columns = structure.solved(matrix, &side)?;
    let block = |a: usize, b: usize| {
        Matrix6::from_fn(|row, column| {
            unknown(cameras[a], row).map_or(0.0, |row| columns[(row, 6 * b + column)])
        })
    };
    let pairs = (0..cameras.len())
        .flat_map(|a| PLACES_ON.iter().map(move |on| (a, a + on)))
        .filter(|(_, b)| *b < cameras.len());
    let relative = |(a, b): (usize, usize)| {
        let carried = carried(problem, cameras[a], cameras[b]);
        let across = carried * block(a, b);
        let covariance =
            block(b, b) + carried * block(a, a) * carried.transpose() - across - across.transpose();
        let of_focal = by_focal.map_or_else(Vector6::zeros, |step| {
            let moved = |k: usize| Vector6::from_column_slice(&step.cameras[cameras[k]][..6]);
            moved(b) - carried * moved(a)
        });
        Relative {
            first: cameras[a],
            second: cameras[b],
            covariance: 0.5 * factor * (covariance + covariance.transpose())
                - of_focal * of_focal.transpose(),
        }
    };
    Some(pairs.map(relative).collect())
}

/// What a small turn and shift in the space of one camera are in that of another.
fn carried(problem: &Problem, from: usize, to: usize) -> Matrix6<f64> {
    let between =
        problem.poses[to].camera_from_world * problem.poses[from].camera_from_world.inverse();
    let turn = between.rotation.to_rotation_matrix().into_inner();
    let shift: Vector3<f64> = between.translation.vector;
    let mut out = Matrix6::zeros();
    out.fixed_view_mut::<3, 3>(0, 0).copy_from(&turn);
    out.fixed_view_mut::<3, 3>(3, 3).copy_from(&turn);
    out.fixed_view_mut::<3, 3>(3, 0)
        .copy_from(&(shift.cross_matrix() * turn));
    out
}
