//! Sums of products of derivatives, in vectors.
//!
//! A step adds up products of two rows of derivatives, each too small for any library: of a point's place, its
//! residuals and what all cameras share; of a camera's unknowns by the same. Side by side in rows of a length that the
//! compiler knows they fill the vectors of the machine at hand.

use super::coupling::Group;
use super::derivatives::Derivatives;
use super::residual::Linear;
use super::{CAMERA, MOST_SHARED};
use multiversion::multiversion;
use nalgebra::{Matrix3, SMatrix, Vector3};
use std::array;

/// Columns of a point's sums: its place, then the residual, then what is shared.
const PLACE: usize = 3;
/// Columns of a camera's sums: its unknowns, then the residual, then what is shared.
const SIDE: usize = CAMERA;

/// What one point contributes to the reduced system, and what is needed to find its step.
pub struct PointPart {
    /// V⁻¹.
    pub inverse: Matrix3<f64>,
    /// A root of it: R Rᵀ = V⁻¹.
    pub root: Matrix3<f64>,
    /// Its side.
    pub side: Vector3<f64>,
    /// V⁻¹ times its side.
    pub place: Vector3<f64>,
    /// V⁻¹ times its coupling to the shared unknowns.
    pub place_shared: SMatrix<f64, 3, MOST_SHARED>,
    /// To the block of the shared unknowns.
    pub shared: SMatrix<f64, MOST_SHARED, MOST_SHARED>,
    /// To their side.
    pub shared_side: SMatrix<f64, MOST_SHARED, 1>,
}

/// Sums over all that sees a point: by its place, V, side and coupling to what is shared; block and side of that.
pub struct PointSums {
    /// V.
    pub normal: Matrix3<f64>,
    /// Its side.
    pub side: Vector3<f64>,
    /// Place by shared.
    pub coupling: SMatrix<f64, 3, MOST_SHARED>,
    /// Shared by shared.
    pub shared: SMatrix<f64, MOST_SHARED, MOST_SHARED>,
    /// Side of the shared unknowns.
    pub shared_side: SMatrix<f64, MOST_SHARED, 1>,
}

impl PointSums {
    /// Of all that sees it, with so many shared unknowns.
    pub fn of<'a>(sights: impl Iterator<Item = &'a Linear>, shared: usize) -> Self {
        match shared {
            0 => Self::from_rows(&of_point::<4, _>(sights, shared), shared),
            1..=4 => Self::from_rows(&of_point::<8, _>(sights, shared), shared),
            _ => Self::from_rows(&of_point::<16, _>(sights, shared), shared),
        }
    }

    fn from_rows<const N: usize>(rows: &[[f64; N]; N], shared: usize) -> Self {
        let mut sums = Self {
            normal: Matrix3::from_fn(|r, c| rows[r][c]),
            side: Vector3::from_fn(|r, _| rows[r][PLACE]),
            coupling: SMatrix::zeros(),
            shared: SMatrix::zeros(),
            shared_side: SMatrix::zeros(),
        };
        for (r, row) in rows.iter().enumerate().take(PLACE + 1 + shared) {
            for (k, sum) in row[PLACE + 1..].iter().take(shared).enumerate() {
                match r {
                    0..PLACE => sums.coupling[(r, k)] = *sum,
                    PLACE => sums.shared_side[k] = *sum,
                    _ => sums.shared[(r - PLACE - 1, k)] = *sum,
                }
            }
        }
        sums
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn of_point<'a, const N: usize, I: Iterator<Item = &'a Linear>>(
    sights: I,
    shared: usize,
) -> [[f64; N]; N] {
    let mut sums = [[0.0; N]; N];
    for l in sights {
        let mut by = [[0.0; N]; 2];
        for (row, by) in by.iter_mut().enumerate() {
            by[..PLACE].copy_from_slice(&array::from_fn::<_, PLACE, _>(|k| l.point[(row, k)]));
            by[PLACE] = l.residual[row];
            for (k, by) in by[PLACE + 1..].iter_mut().take(shared).enumerate() {
                *by = l.shared[(row, k)];
            }
        }
        add(&mut sums, &by, &by);
    }
    sums
}

/// What a few cameras that follow each other see.
#[derive(Clone, Copy)]
pub struct Sights<'a> {
    /// Which points, and where among the derivatives.
    pub group: &'a Group,
    /// All derivatives.
    pub derivatives: &'a Derivatives,
    /// All points.
    pub points: &'a [PointPart],
    /// How many unknowns all cameras share.
    pub shared: usize,
}

/// What is left of one camera after points took on themselves what they can.
pub struct CameraPart {
    /// Its own block.
    pub own: SMatrix<f64, CAMERA, CAMERA>,
    /// Its coupling to the shared unknowns.
    pub shared: SMatrix<f64, CAMERA, MOST_SHARED>,
    /// Its side.
    pub side: SMatrix<f64, CAMERA, 1>,
}

impl CameraPart {
    /// Of so many cameras that follow each other.
    pub fn of_group(sights: Sights, cameras: usize) -> Vec<Self> {
        match sights.shared {
            0 => Self::summed::<8>(sights, cameras),
            1..=4 => Self::summed::<12>(sights, cameras),
            _ => Self::summed::<20>(sights, cameras),
        }
    }

    fn summed<const N: usize>(sights: Sights, cameras: usize) -> Vec<Self> {
        let rows = of_cameras::<N>(sights, cameras);
        rows.iter()
            .map(|r| Self::from_rows(r, sights.shared))
            .collect()
    }

    fn from_rows<const N: usize>(rows: &[[f64; N]; CAMERA], shared: usize) -> Self {
        let mut part = Self {
            own: SMatrix::from_fn(|r, c| rows[r][c]),
            shared: SMatrix::zeros(),
            side: SMatrix::from_fn(|r, _| rows[r][SIDE]),
        };
        // A camera that sees nothing stays where it is instead of making the matrix singular.
        part.own += SMatrix::<f64, CAMERA, CAMERA>::identity() * 1e-9;
        for (r, row) in rows.iter().enumerate() {
            for (k, sum) in row[SIDE + 1..].iter().take(shared).enumerate() {
                part.shared[(r, k)] = *sum;
            }
        }
        part
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn of_cameras<const N: usize>(sights: Sights, cameras: usize) -> Vec<[[f64; N]; CAMERA]> {
    let Sights {
        group,
        derivatives,
        points,
        shared,
    } = sights;
    let mut sums = vec![[[0.0; N]; CAMERA]; cameras];
    for (point, sights) in &group.points {
        let point = &points[*point];
        for sight in &group.sights[sights.clone()] {
            let Some((l, by_camera)) = derivatives.of(sight) else {
                continue;
            };
            let mut own = [[0.0; CAMERA]; 2];
            let mut by = [[0.0; N]; 2];
            for (row, (own, by)) in own.iter_mut().zip(&mut by).enumerate() {
                let place: [f64; 3] = array::from_fn(|k| l.point[(row, k)]);
                for k in 0..CAMERA {
                    own[k] = by_camera[(row, k)];
                    by[k] = own[k];
                }
                // Without what the point takes on itself.
                let taken = |by: [f64; 3]| place[0] * by[0] + place[1] * by[1] + place[2] * by[2];
                by[SIDE] = l.residual[row] - taken(point.place.into());
                for k in 0..shared {
                    let column = array::from_fn(|r| point.place_shared[(r, k)]);
                    by[SIDE + 1 + k] = l.shared[(row, k)] - taken(column);
                }
            }
            add(&mut sums[sight.block - group.first], &own, &by);
        }
    }
    sums
}

/// Adds the products of both rows' derivatives.
#[inline(always)]
fn add<const R: usize, const N: usize>(
    sums: &mut [[f64; N]; R],
    rows: &[[f64; R]; 2],
    columns: &[[f64; N]; 2],
) {
    for r in 0..R {
        for c in 0..N {
            sums[r][c] += rows[0][r] * columns[0][c] + rows[1][r] * columns[1][c];
        }
    }
}
