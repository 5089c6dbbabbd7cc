//! Where to begin: vanishing points by least squares, rotations that fit them.
//!
//! The vanishing point of a family is the point nearest to all its lines (smallest
//! eigenvector of Σ l lᵀ, weighted by length; Caprile and Torre 1990, section 3). For each
//! focal length of a coarse scan these points are directions; the nearest rotation to them
//! (Procrustes) starts the refinement.

use super::perspective::{Evidence, Eye};
use super::rails::{Axis, Rail};
use crate::rotation;
use nalgebra::{Matrix3, SymmetricEigen, UnitQuaternion, Vector3};

/// The point nearest to all lines of a family, homogeneous, plate px. `None` for fewer than two.
pub fn vanishing_point(rails: &[Rail], axis: Axis, evidence: &Evidence) -> Option<Vector3<f64>> {
    let (half, middle) = (evidence.half_diagonal_px(), evidence.middle());
    let of_axis: Vec<&Rail> = rails.iter().filter(|r| r.axis == axis).collect();
    if of_axis.len() < 2 {
        return None;
    }
    let mut sum = Matrix3::zeros();
    for rail in of_axis {
        let line = rail.line();
        // In units of half the diagonal about the middle, so that all entries weigh alike.
        let scaled = Vector3::new(
            line.x,
            line.y,
            (line.x * middle.x + line.y * middle.y + line.z) / half,
        )
        .normalize();
        sum += scaled * scaled.transpose() * (rail.length_px() / half).powi(2);
    }
    let eigen = SymmetricEigen::new(sum);
    let v = eigen
        .eigenvectors
        .column(eigen.eigenvalues.imin())
        .into_owned();
    Some(Vector3::new(
        half * v.x + middle.x * v.z,
        half * v.y + middle.y * v.z,
        v.z,
    ))
}

/// Cameras to begin the refinement with: the best of a scan, best first, at most `count`.
pub fn eyes(evidence: &Evidence, count: usize) -> Vec<Eye> {
    let points: Vec<(Axis, Vector3<f64>)> = Axis::ALL
        .into_iter()
        .filter_map(|axis| Some((axis, vanishing_point(evidence.rails, axis, evidence)?)))
        .collect();
    let focals: Vec<f64> = match evidence.focal_px {
        Some(focal_px) => vec![focal_px],
        None => (0..28)
            .map(|i| 0.2 * f64::from(evidence.width_px) * 60.0f64.powf(f64::from(i) / 27.0))
            .collect(),
    };
    let mut eyes: Vec<(f64, Eye)> = focals
        .into_iter()
        .filter_map(|focal_px| {
            let rotation = rotation_for(&points, focal_px, evidence)?;
            let eye = Eye {
                rotation,
                focal_px,
                centre: evidence.middle(),
            };
            Some((evidence.cost(&eye), eye))
        })
        .collect();
    eyes.sort_by(|a, b| a.0.total_cmp(&b.0));
    eyes.into_iter().take(count).map(|(_, eye)| eye).collect()
}

/// Camera-from-world rotation whose axes point nearest to the vanishing points: X to the
/// right, Y up, as far as these are seen.
fn rotation_for(
    points: &[(Axis, Vector3<f64>)],
    focal_px: f64,
    evidence: &Evidence,
) -> Option<UnitQuaternion<f64>> {
    let centre = evidence.middle();
    let mut columns: [Option<Vector3<f64>>; 3] = [None; 3];
    for (axis, v) in points {
        let d = Vector3::new(
            v.x - centre.x * v.z,
            -(v.y - centre.y * v.z),
            -focal_px * v.z,
        )
        .normalize();
        columns[axis.index()] = Some(d);
    }
    let turned =
        |d: Vector3<f64>, towards: Vector3<f64>| if d.dot(&towards) < 0.0 { -d } else { d };
    let (right, up, back) = (Vector3::x(), Vector3::y(), Vector3::z());
    // Nearly along the view an axis has no side in the picture: then it points to the viewer.
    let upright = |d: Vector3<f64>| turned(d, if d.y.abs() > 1e-3 { up } else { back });
    let rightward = |d: Vector3<f64>| turned(d, if d.x.abs() > 1e-3 { right } else { back });
    let perpendicular = |to: &Vector3<f64>, like: Vector3<f64>, other: Vector3<f64>| {
        let off = like - to * to.dot(&like);
        if off.norm() > 0.05 {
            off.normalize()
        } else {
            (other - to * to.dot(&other)).normalize()
        }
    };
    let axes = match columns {
        [Some(x), Some(y), z] => {
            let (x, y) = (rightward(x), upright(y));
            let third = x.cross(&y);
            [x, y, z.map_or(third, |z| turned(z, third))]
        }
        [Some(x), None, Some(z)] => {
            let x = rightward(x);
            let y = z.cross(&x);
            let z = if upright(y) == y { z } else { -z };
            [x, z.cross(&x), z]
        }
        [None, Some(y), Some(z)] => {
            let y = upright(y);
            let x = y.cross(&z);
            let z = if rightward(x) == x { z } else { -z };
            [y.cross(&z), y, z]
        }
        [Some(x), None, None] => {
            let x = rightward(x);
            let y = perpendicular(&x, up, back);
            [x, y, x.cross(&y)]
        }
        [None, Some(y), None] => {
            let y = upright(y);
            let z = perpendicular(&y, back, -up);
            [y.cross(&z), y, z]
        }
        [None, None, Some(z)] => {
            let z = turned(z, back);
            let y = perpendicular(&z, up, right);
            [y.cross(&z), y, z]
        }
        [None, None, None] => return None,
    };
    let matrix = Matrix3::from_columns(&axes);
    let nearest = rotation::nearest(&matrix)?;
    // Axes that lie in one plane, or are mirrored, are no frame.
    (nearest.signed_values.min() >= 1e-6).then_some(nearest.rotation)
}
