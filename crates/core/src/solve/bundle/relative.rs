//! How certain is one camera against another?
//!
//! Errors of cameras in one gauge say how far off they are in the world; most of that is common to
//! neighbours and nobody sees it. What is seen is by how much one camera is off as seen from another. With
//! the turn and shift ε of each camera (camera space, applied on the left) and D the rotation from the
//! first camera to the second, that is ε₂ - D ε₁, both halves turned, and what the second's own focal
//! length is off; its covariance comes from the columns of S⁻¹ that belong to both, and does not depend
//! on the gauge. What goes with an error of the focal length is taken out: landmarks go with it as well,
//! and what is seen of it is another matter ([`crate::solve::forecast`]).

use super::covariance::Gauge;
use super::reduced::{ReducedStep, Structure};
use super::{CAMERA, Problem};
use crate::statistics::spread;
use faer::sparse::SparseColMat;
use nalgebra::SMatrix;

/// The second camera as seen from the first.
#[derive(Clone, Debug)]
pub struct Relative {
    /// Index of the first camera.
    pub first: usize,
    /// Index of the second camera.
    pub second: usize,
    /// Covariance of the second's turn (rad) and shift (world units), both in its camera space, the first
    /// being held, and of its own focal length (px); zero where they are not free.
    pub covariance: OfCamera,
}

/// A covariance of the unknowns of a camera.
pub type OfCamera = SMatrix<f64, CAMERA, CAMERA>;

/// Cameras that are looked at, spread evenly: each against those so many places on.
const MOST_CAMERAS: usize = 96;
const NEAREST_APART: usize = 6;
const PLACES_ON: [usize; 3] = [1, 3, 6];
/// So many that see the least are looked at as well.
const POOREST: usize = 24;

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
    let mut cameras: Vec<usize> = (0..count).step_by(stride).collect();
    let spread = cameras.len();
    cameras.extend(poorest(problem));
    let mut side = faer::Mat::<f64>::zeros(structure.size(), CAMERA * cameras.len());
    let unknown =
        |camera: usize, slot: usize| structure.row(camera, slot).filter(|row| !gauge.holds(*row));
    for (k, camera) in cameras.iter().enumerate() {
        for slot in 0..CAMERA {
            if let Some(row) = unknown(*camera, slot) {
                side[(row, CAMERA * k + slot)] = 1.0;
            }
        }
    }
    let columns = structure.solved(matrix, &side)?;
    let block = |a: usize, b: usize| {
        OfCamera::from_fn(|row, column| {
            unknown(cameras[a], row).map_or(0.0, |row| columns[(row, CAMERA * b + column)])
        })
    };
    let mut pairs: Vec<(usize, usize)> = (0..spread)
        .flat_map(|a| PLACES_ON.iter().map(move |on| (a, a + on)))
        .filter(|(_, b)| *b < spread)
        .collect();
    for (k, camera) in cameras.iter().enumerate().skip(spread) {
        // From well before and well after.
        let before = (camera / stride).checked_sub(1);
        let after = Some(camera / stride + 2).filter(|after| *after < spread);
        pairs.extend(before.into_iter().chain(after).map(|a| (a, k)));
    }
    let relative = |(a, b): (usize, usize)| {
        let carried = carried(problem, cameras[a], cameras[b]);
        let across = carried * block(a, b);
        let covariance =
            block(b, b) + carried * block(a, a) * carried.transpose() - across - across.transpose();
        let of_focal = by_focal.map_or_else(SMatrix::zeros, |step| {
            let moved = |k: usize| SMatrix::<f64, CAMERA, 1>::from(step.cameras[cameras[k]]);
            moved(b) - carried * moved(a)
        });
        Relative {
            first: cameras[a],
            second: cameras[b],
            covariance: 0.5 * factor * (covariance + covariance.transpose())
                - of_focal * of_focal.transpose(),
        }
    };
    Some(pairs.into_iter().map(relative).collect())
}

/// The cameras whose features are fewest and lie closest together.
fn poorest(problem: &Problem) -> Vec<usize> {
    let mut seen = vec![Vec::new(); problem.poses.len()];
    for o in problem.observations.iter() {
        seen[o.camera as usize].push([o.px.x, o.px.y]);
    }
    let mut all: Vec<(usize, f64)> = (0..seen.len())
        .map(|camera| (camera, spread(&seen[camera])))
        .collect();
    all.sort_by(|a, b| a.1.total_cmp(&b.1));
    all.into_iter()
        .take(POOREST)
        .map(|(camera, _)| camera)
        .collect()
}

/// What a small turn and shift of one camera are in the space of another. A turn is about the world's
/// origin ([`crate::camera::Pose::perturbed`]), so that it is only turned.
fn carried(problem: &Problem, from: usize, to: usize) -> OfCamera {
    let rotation = |camera: usize| problem.poses[camera].camera_from_world.rotation;
    let turn = (rotation(to) * rotation(from).inverse())
        .to_rotation_matrix()
        .into_inner();
    let mut out = OfCamera::zeros();
    out.fixed_view_mut::<3, 3>(0, 0).copy_from(&turn);
    out.fixed_view_mut::<3, 3>(3, 3).copy_from(&turn);
    out
}
