//! Normal equations of the adjustment with the points eliminated.
//!
//! With U (cameras), V (points), S (shared) on the diagonal and W, the reduced system is
//! `U - Σ W V⁻¹ Wᵀ`. Work is split over points; every thread adds into blocks of its own.
//! Blocks are column-major 6x6 with rows padded to 8, so that two vector registers hold a column.

use super::reduced::{Blocks, Structure};
use super::residual::{self, Linear};
use super::{Loss, MOST_SHARED, Problem, Step};
use multiversion::multiversion;
use nalgebra::{Matrix3, SMatrix, Vector3};
use rayon::prelude::*;
use std::ops::Range;

/// All derivatives at one place, robustly weighted, in the order of the observations.
/// `None` marks points behind the camera.
pub struct Linearisation {
    linear: Vec<Option<Linear>>,
    ranges: Vec<Range<usize>>,
}

/// A camera's shared-unknown coupling: 6 x 3.
pub type CameraShared = SMatrix<f64, 6, MOST_SHARED>;

/// The reduced system: blocks of cameras, coupling to and block of the shared unknowns,
/// right-hand sides.
#[derive(Clone)]
pub struct ReducedSystem {
    /// Lower triangle of camera blocks.
    pub blocks: Blocks,
    /// Camera by shared.
    pub camera_shared: Vec<CameraShared>,
    /// Shared by shared.
    pub shared: SMatrix<f64, MOST_SHARED, MOST_SHARED>,
    /// Right-hand side of the cameras.
    pub camera_side: Vec<SMatrix<f64, 6, 1>>,
    /// Right-hand side of the shared unknowns.
    pub shared_side: SMatrix<f64, MOST_SHARED, 1>,
}

/// What is needed to find the points' step from the cameras'.
pub struct Eliminated {
    inverse: Vec<Matrix3<f64>>,
    side: Vec<Vector3<f64>>,
}

impl Linearisation {
    /// Residuals and derivatives of all observations.
    pub fn at(problem: &Problem, loss: Loss) -> Self {
        let rotations: Vec<Matrix3<f64>> =
            problem.poses.iter().map(|p| p.camera_from_world.rotation.to_rotation_matrix().into_inner()).collect();
        let linear = problem
            .observations
            .par_iter()
            .with_min_len(512)
            .map(|o| {
                let mut l = residual::linear(problem, &rotations[o.camera as usize], o)?;
                let root = loss.weight(l.residual.norm_squared()).sqrt();
                l.residual *= root;
                l.camera *= root;
                l.point *= root;
                l.shared *= root;
                Some(l)
            })
            .collect();
        Self { linear, ranges: problem.ranges_by_point() }
    }

    /// Eliminates the points under Marquardt damping.
    pub fn reduce(&self, problem: &Problem, structure: &Structure, damping: f64) -> (ReducedSystem, Eliminated) {
        let threads = rayon::current_num_threads().max(1);
        let shares = balanced(&self.ranges, threads);
        let parts: Vec<(ReducedSystem, Eliminated)> = shares
            .into_par_iter()
            .map(|points| self.reduce_points(problem, structure, damping, points))
            .collect();
        let mut parts = parts.into_iter();
        let (mut system, mut eliminated) =
            parts.next().unwrap_or_else(|| self.reduce_points(problem, structure, damping, 0..0));
        for (other, more) in parts {
            system.add(&other);
            eliminated.inverse.extend(more.inverse);
            eliminated.side.extend(more.side);
        }
        for (k, (value, precision)) in problem.expectations().into_iter().enumerate() {
            system.shared[(k, k)] += precision;
            system.shared_side[k] += precision * value;
        }
        (system, eliminated)
    }

    fn reduce_points(
        &self,
        problem: &Problem,
        structure: &Structure,
        damping: f64,
        points: Range<usize>,
    ) -> (ReducedSystem, Eliminated) {
        let mut system = ReducedSystem::zero(problem, structure);
        let mut eliminated = Eliminated { inverse: Vec::new(), side: Vec::new() };
        let mut scratch = PointScratch::default();
        for point in points {
            let (inverse, side) = self.reduce_point(problem, structure, damping, point, &mut system, &mut scratch);
            eliminated.inverse.push(inverse);
            eliminated.side.push(side);
        }
        (system, eliminated)
    }

    fn seen<'a>(&'a self, problem: &'a Problem, point: usize) -> impl Iterator<Item = (usize, &'a Linear)> {
        let range = self.ranges[point].clone();
        let cameras = problem.observations[range.clone()].iter().map(|o| o.camera as usize);
        cameras.zip(&self.linear[range]).filter_map(|(c, l)| Some((c, l.as_ref()?)))
    }

    fn reduce_point(
        &self,
        problem: &Problem,
        structure: &Structure,
        damping: f64,
        point: usize,
        system: &mut ReducedSystem,
        scratch: &mut PointScratch,
    ) -> (Matrix3<f64>, Vector3<f64>) {
        let mut v = Matrix3::zeros();
        let mut side = Vector3::zeros();
        let mut point_shared = SMatrix::<f64, 3, MOST_SHARED>::zeros();
        scratch.clear();
        for (camera, l) in self.seen(problem, point) {
            v += l.point.tr_mul(&l.point);
            side += l.point.tr_mul(&l.residual);
            point_shared += l.point.tr_mul(&l.shared);
            system.add_direct(structure, camera, l, damping);
            scratch.push(camera, &l.camera.tr_mul(&l.point));
        }
        for i in 0..3 {
            v[(i, i)] += damping * v[(i, i)] + 1e-12;
        }
        let inverse = v.try_inverse().unwrap_or_else(Matrix3::zeros);
        scratch.premultiply(&inverse);
        for (k, &camera) in scratch.cameras.iter().enumerate() {
            let y = scratch.y_matrix(k);
            system.camera_side[camera] -= y * side;
            system.camera_shared[camera] -= y * point_shared;
        }
        system.shared -= point_shared.tr_mul(&(inverse * point_shared));
        system.shared_side -= point_shared.tr_mul(&(inverse * side));
        subtract_pairs(scratch, structure, &mut system.blocks);
        (inverse, side)
    }

    /// The points' step that belongs to a step of cameras and shared unknowns.
    pub fn substitute(
        &self,
        problem: &Problem,
        eliminated: &Eliminated,
        cameras: Vec<[f64; 6]>,
        shared: [f64; MOST_SHARED],
    ) -> Step {
        let by_shared = SMatrix::<f64, MOST_SHARED, 1>::from(shared);
        let points = (0..problem.points.len())
            .into_par_iter()
            .with_min_len(64)
            .map(|point| {
                let mut side = eliminated.side[point];
                for (camera, l) in self.seen(problem, point) {
                    let moved = l.camera * SMatrix::<f64, 6, 1>::from(cameras[camera]) + l.shared * by_shared;
                    side += l.point.tr_mul(&moved);
                }
                -(eliminated.inverse[point] * side)
            })
            .collect();
        Step { cameras, points, shared }
    }

    /// By how much the linear model expects a step to lower the cost.
    pub fn expected_decrease(&self, problem: &Problem, step: &Step) -> f64 {
        let by_shared = SMatrix::<f64, MOST_SHARED, 1>::from(step.shared);
        let parts: Vec<f64> = (0..problem.points.len())
            .into_par_iter()
            .with_min_len(64)
            .map(|point| {
                self.seen(problem, point)
                    .map(|(camera, l)| {
                        let moved = l.camera * SMatrix::<f64, 6, 1>::from(step.cameras[camera])
                            + l.point * step.points[point]
                            + l.shared * by_shared;
                        0.5 * (l.residual.norm_squared() - (l.residual + moved).norm_squared())
                    })
                    .sum()
            })
            .collect();
        parts.iter().sum()
    }

    /// V⁻¹ of a point and its couplings W V⁻¹ to the cameras, without damping: for covariances.
    pub fn point_coupling(&self, problem: &Problem, point: usize) -> Option<PointCoupling> {
        let mut v = Matrix3::zeros();
        let mut shared = SMatrix::<f64, 3, MOST_SHARED>::zeros();
        for (_, l) in self.seen(problem, point) {
            v += l.point.tr_mul(&l.point);
            shared += l.point.tr_mul(&l.shared);
        }
        let inverse = v.try_inverse()?;
        let cameras = self.seen(problem, point).map(|(c, l)| (c, l.camera.tr_mul(&l.point) * inverse)).collect();
        Some((inverse, cameras, shared.transpose() * inverse))
    }
}

/// V⁻¹, W V⁻¹ per camera, shared coupling times V⁻¹.
pub type PointCoupling = (Matrix3<f64>, Vec<(usize, SMatrix<f64, 6, 3>)>, SMatrix<f64, MOST_SHARED, 3>);

impl ReducedSystem {
    fn zero(problem: &Problem, structure: &Structure) -> Self {
        let cameras = problem.poses.len();
        Self {
            blocks: Blocks::zero(structure),
            camera_shared: vec![CameraShared::zeros(); cameras],
            shared: SMatrix::zeros(),
            camera_side: vec![SMatrix::zeros(); cameras],
            shared_side: SMatrix::zeros(),
        }
    }

    fn add_direct(&mut self, structure: &Structure, camera: usize, l: &Linear, damping: f64) {
        let mut u = l.camera.tr_mul(&l.camera);
        for i in 0..6 {
            u[(i, i)] += damping * u[(i, i)];
        }
        self.blocks.add(structure.diagonal(camera), &u);
        self.camera_shared[camera] += l.camera.tr_mul(&l.shared);
        self.camera_side[camera] += l.camera.tr_mul(&l.residual);
        let mut shared = l.shared.tr_mul(&l.shared);
        for i in 0..MOST_SHARED {
            shared[(i, i)] += damping * shared[(i, i)];
        }
        self.shared += shared;
        self.shared_side += l.shared.tr_mul(&l.residual);
    }

    fn add(&mut self, other: &Self) {
        self.blocks.add_all(&other.blocks);
        self.camera_shared.iter_mut().zip(&other.camera_shared).for_each(|(a, b)| *a += b);
        self.camera_side.iter_mut().zip(&other.camera_side).for_each(|(a, b)| *a += b);
        self.shared += other.shared;
        self.shared_side += other.shared_side;
    }
}

/// Shares of points with about the same number of pairs of observations.
fn balanced(ranges: &[Range<usize>], shares: usize) -> Vec<Range<usize>> {
    let work = |r: &Range<usize>| r.len() * (r.len() + 8);
    let total: usize = ranges.iter().map(work).sum();
    let mut out = Vec::with_capacity(shares);
    let (mut start, mut sum) = (0, 0);
    for (i, range) in ranges.iter().enumerate() {
        sum += work(range);
        if sum * shares >= total * (out.len() + 1) {
            out.push(start..i + 1);
            start = i + 1;
        }
    }
    if start < ranges.len() {
        out.push(start..ranges.len());
    }
    out
}

/// Couplings of one point to its cameras: W and Y = W V⁻¹, three columns of 8 (6 used).
#[derive(Default)]
struct PointScratch {
    cameras: Vec<usize>,
    w: Vec<[f64; 24]>,
    y: Vec<[f64; 24]>,
}

impl PointScratch {
    fn clear(&mut self) {
        self.cameras.clear();
        self.w.clear();
        self.y.clear();
    }

    fn push(&mut self, camera: usize, w: &SMatrix<f64, 6, 3>) {
        let mut padded = [0.0; 24];
        for c in 0..3 {
            for r in 0..6 {
                padded[8 * c + r] = w[(r, c)];
            }
        }
        self.cameras.push(camera);
        self.w.push(padded);
    }

    fn premultiply(&mut self, inverse: &Matrix3<f64>) {
        for w in &self.w {
            let mut y = [0.0; 24];
            for c in 0..3 {
                for r in 0..6 {
                    y[8 * c + r] = (0..3).map(|k| w[8 * k + r] * inverse[(k, c)]).sum();
                }
            }
            self.y.push(y);
        }
    }

    fn y_matrix(&self, k: usize) -> SMatrix<f64, 6, 3> {
        SMatrix::from_fn(|r, c| self.y[k][8 * c + r])
    }
}

/// For all pairs of cameras that see the point: block(row, column) -= Y_row W_columnᵀ.
#[multiversion(targets("x86_64+avx2+fma"))]
fn subtract_pairs(scratch: &PointScratch, structure: &Structure, blocks: &mut Blocks) {
    for (i, &ci) in scratch.cameras.iter().enumerate() {
        for (j, &cj) in scratch.cameras.iter().enumerate().take(i + 1) {
            // The block of the larger camera index as row.
            let (row, column) = if ci >= cj { (i, j) } else { (j, i) };
            let block = blocks.at(structure.between(ci, cj));
            let (y, w) = (&scratch.y[row], &scratch.w[column]);
            for c in 0..6 {
                let (w0, w1, w2) = (w[c], w[8 + c], w[16 + c]);
                for r in 0..8 {
                    block[8 * c + r] -= y[r] * w0 + y[8 + r] * w1 + y[16 + r] * w2;
                }
            }
        }
    }
}
