//! Normal equations of the adjustment with the points eliminated.
//!
//! With U (cameras), V (points), S (shared) on the diagonal and W, the reduced system is
//! `U - Σ W V⁻¹ Wᵀ`. Work is split over points, then over columns of cameras: a column's
//! blocks stay in the cache while all points of its camera are subtracted, no thread writes
//! where another does, and the sums come out the same at any number of threads. Blocks are
//! column-major with rows padded to 8, so that two vector registers hold a column; rows and columns
//! of unknowns that are not free are made or not, and not read.

use super::reduced::{Block, Blocks, Structure};
use super::residual::{self, Linear};
use super::{Belief, CAMERA, Loss, MOST_SHARED, Problem, Step};
use multiversion::{multiversion, target::target_cfg_f};
use nalgebra::{Matrix3, SMatrix, Vector3};
use rayon::prelude::*;
use std::collections::HashMap;
use std::ops::Range;

/// All derivatives at one place, robustly weighted, in the order of the observations.
/// `None` marks points behind the camera.
pub struct Linearisation {
    /// Of what was seen, then of what points are tied to.
    linear: Vec<Option<Linear>>,
    ranges: Vec<Range<usize>>,
    /// Block and place in `linear` of each tie of a point, ascending by block.
    ties: HashMap<usize, Vec<(usize, usize)>>,
}

/// A camera's shared-unknown coupling.
pub type CameraShared = SMatrix<f64, CAMERA, MOST_SHARED>;

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
    pub camera_side: Vec<SMatrix<f64, CAMERA, 1>>,
    /// Right-hand side of the shared unknowns.
    pub shared_side: SMatrix<f64, MOST_SHARED, 1>,
}

/// What is needed to find the points' step from the cameras'.
pub struct Eliminated {
    inverse: Vec<Matrix3<f64>>,
    side: Vec<Vector3<f64>>,
}

impl Eliminated {
    /// For points that only follow their cameras, as at a minimum.
    pub fn at_rest(mut self) -> Self {
        self.side
            .iter_mut()
            .for_each(|side| *side = Vector3::zeros());
        self
    }
}

impl Linearisation {
    /// Residuals and derivatives of all observations.
    pub fn at(problem: &Problem, loss: Loss) -> Self {
        let rotations = problem.rotations();
        let mut linear: Vec<Option<Linear>> = problem
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
        let mut ties: HashMap<usize, Vec<(usize, usize)>> = HashMap::new();
        for tie in problem.beliefs.ties.linear(&problem.points) {
            let of_point = ties.entry(tie.point as usize).or_default();
            of_point.push((problem.poses.len() + tie.block, linear.len()));
            linear.push(Some(tie.linear));
        }
        Self {
            linear,
            ranges: problem.ranges_by_point(),
            ties,
        }
    }

    /// Eliminates the points under Marquardt damping.
    pub fn reduce(
        &self,
        problem: &Problem,
        structure: &Structure,
        damping: f64,
    ) -> (ReducedSystem, Eliminated) {
        let points: Vec<PointPart> = (0..problem.points.len())
            .into_par_iter()
            .with_min_len(32)
            .map(|point| self.point_part(problem, damping, point))
            .collect();
        let mut system = ReducedSystem::zero(problem, structure);
        for (k, (value, precision)) in problem.expectations().into_iter().enumerate() {
            system.shared[(k, k)] += precision;
            system.shared_side[k] += precision * value;
        }
        for part in &points {
            system.shared += part.shared;
            system.shared_side += part.shared_side;
        }
        let by_camera = sights_by_camera(problem, &points);
        let columns = system.blocks.columns(structure);
        let ends: Vec<CameraPart> = columns
            .into_par_iter()
            .zip(&by_camera)
            .enumerate()
            .map(|(camera, (blocks, sights))| {
                self.camera_part(problem, structure, &points, damping, camera, sights, blocks)
            })
            .collect();
        for (camera, part) in ends.into_iter().enumerate() {
            system.camera_shared[camera] = part.shared;
            system.camera_side[camera] = part.side;
        }
        system.believe(structure, &problem.beliefs_of_cameras());
        let (inverse, side) = points.into_iter().map(|p| (p.inverse, p.side)).unzip();
        (system, Eliminated { inverse, side })
    }

    /// What one point contributes, with its couplings to its cameras.
    fn point_part(&self, problem: &Problem, damping: f64, point: usize) -> PointPart {
        let mut v = Matrix3::zeros();
        let mut side = Vector3::zeros();
        let mut point_shared = SMatrix::<f64, 3, MOST_SHARED>::zeros();
        let mut shared = SMatrix::<f64, MOST_SHARED, MOST_SHARED>::zeros();
        let mut shared_side = SMatrix::<f64, MOST_SHARED, 1>::zeros();
        let count = problem.free.count();
        for (_, _, l) in self.all(problem, point) {
            v += l.point.tr_mul(&l.point);
            side += l.point.tr_mul(&l.residual);
            add_products(&mut point_shared, &l.point, &l.shared, count);
            add_products(&mut shared, &l.shared, &l.shared, count);
            add_products(&mut shared_side, &l.shared, &l.residual, 1);
        }
        shared += SMatrix::from_diagonal(&shared.diagonal()) * damping;
        problem.hold_length(point, &mut v);
        if let Some(anchor) = problem.beliefs.anchor(point) {
            v += anchor.normal();
            side += anchor.side(&problem.points[point]);
        }
        for i in 0..3 {
            v[(i, i)] += damping * v[(i, i)] + 1e-12;
        }
        let inverse = v.try_inverse().unwrap_or_else(Matrix3::zeros);
        shared -= point_shared.tr_mul(&(inverse * point_shared));
        shared_side -= point_shared.tr_mul(&(inverse * side));
        let coupling = |(block, at, l): (usize, usize, &Linear)| {
            let w = l.camera.tr_mul(&l.point);
            Coupling {
                camera: block,
                linear: at as u32,
                w: padded(&w),
                y: padded(&(w * inverse)),
            }
        };
        let couplings = self.all(problem, point).map(coupling).collect();
        PointPart {
            inverse,
            side,
            point_shared,
            shared,
            shared_side,
            couplings,
        }
    }

    /// One camera's column of blocks, its coupling to the shared unknowns, its right-hand side.
    #[allow(clippy::too_many_arguments)]
    fn camera_part(
        &self,
        problem: &Problem,
        structure: &Structure,
        points: &[PointPart],
        damping: f64,
        camera: usize,
        sights: &[(u32, u32)],
        blocks: &mut [Block],
    ) -> CameraPart {
        let mut part = CameraPart {
            shared: CameraShared::zeros(),
            side: SMatrix::zeros(),
        };
        // A camera that sees nothing stays where it is instead of making the matrix singular.
        let mut own = SMatrix::<f64, CAMERA, CAMERA>::identity() * 1e-9;
        // Columns beyond the last free unknown are not made.
        let columns = problem.slots().last().map_or(0, |last| last + 1);
        let mut block_of = vec![0; problem.blocks() - camera];
        for (block, row) in structure.column(camera).iter().enumerate() {
            block_of[row - camera] = block as u32;
        }
        for &(point, k) in sights {
            let p = &points[point as usize];
            let coupling = &p.couplings[k as usize];
            let y = coupling.y_matrix();
            part.side -= y * p.side;
            for k in 0..problem.free.count() {
                let less = y * p.point_shared.column(k);
                part.shared
                    .column_mut(k)
                    .zip_apply(&less, |sum, less| *sum -= less);
            }
            subtract_column(
                &p.couplings[k as usize..],
                &coupling.w,
                camera,
                (&block_of, columns),
                blocks,
            );
            if let Some(l) = &self.linear[coupling.linear as usize] {
                own += l.camera.tr_mul(&l.camera);
                part.side += l.camera.tr_mul(&l.residual);
                add_products(&mut part.shared, &l.camera, &l.shared, problem.free.count());
            }
        }
        for i in 0..CAMERA {
            own[(i, i)] += damping * own[(i, i)];
        }
        super::reduced::add_to_block(&mut blocks[0], &own);
        part
    }

    fn seen<'a>(
        &'a self,
        problem: &'a Problem,
        point: usize,
    ) -> impl Iterator<Item = (usize, &'a Linear)> {
        let range = self.ranges[point].clone();
        let cameras = problem.observations[range.clone()]
            .iter()
            .map(|o| o.camera as usize);
        cameras
            .zip(&self.linear[range])
            .filter_map(|(c, l)| Some((c, l.as_ref()?)))
    }

    /// The same with what the point is tied to, each with the place of its derivatives.
    fn all<'a>(
        &'a self,
        problem: &'a Problem,
        point: usize,
    ) -> impl Iterator<Item = (usize, usize, &'a Linear)> {
        let seen = self.ranges[point].clone();
        let seen = seen.map(|at| (problem.observations[at].camera as usize, at));
        let ties = self.ties.get(&point).into_iter().flatten().copied();
        seen.chain(ties)
            .filter_map(|(block, at)| Some((block, at, self.linear[at].as_ref()?)))
    }

    /// The points' step that belongs to a step of cameras and shared unknowns.
    pub fn substitute(
        &self,
        problem: &Problem,
        eliminated: &Eliminated,
        cameras: Vec<[f64; CAMERA]>,
        shared: [f64; MOST_SHARED],
    ) -> Step {
        let by_shared = SMatrix::<f64, MOST_SHARED, 1>::from(shared);
        let points = (0..problem.points.len())
            .into_par_iter()
            .with_min_len(64)
            .map(|point| {
                let mut side = eliminated.side[point];
                for (camera, _, l) in self.all(problem, point) {
                    let moved = l.camera * SMatrix::<f64, CAMERA, 1>::from(cameras[camera])
                        + l.shared * by_shared;
                    side += l.point.tr_mul(&moved);
                }
                -(eliminated.inverse[point] * side)
            })
            .collect();
        Step {
            cameras,
            points,
            shared,
        }
    }

    /// By how much the linear model expects a step to lower the cost.
    pub fn expected_decrease(&self, problem: &Problem, step: &Step) -> f64 {
        let by_shared = SMatrix::<f64, MOST_SHARED, 1>::from(step.shared);
        let parts: Vec<f64> = (0..problem.points.len())
            .into_par_iter()
            .with_min_len(64)
            .map(|point| {
                self.all(problem, point)
                    .map(|(camera, _, l)| {
                        let moved = l.camera
                            * SMatrix::<f64, CAMERA, 1>::from(step.cameras[camera])
                            + l.point * step.points[point]
                            + l.shared * by_shared;
                        0.5 * (l.residual.norm_squared() - (l.residual + moved).norm_squared())
                    })
                    .sum()
            })
            .collect();
        let beliefs = problem.beliefs_of_cameras();
        let believed = beliefs.iter().map(|b| {
            let by = |i: usize| -> f64 {
                let step = &step.cameras[b.cameras[i]];
                b.slopes[i].iter().zip(step).map(|(s, by)| s * by).sum()
            };
            let after = b.residual + (0..3).map(by).sum::<f64>();
            0.5 * (b.residual * b.residual - after * after)
        });
        let anchored = problem.beliefs.anchors.iter().map(|a| {
            let (at, by) = (a.point as usize, step.points[a.point as usize]);
            a.cost(&problem.points[at]) - a.cost(&(problem.points[at] + by))
        });
        parts.iter().sum::<f64>() + believed.sum::<f64>() + anchored.sum::<f64>()
    }

    /// Correlation of the residuals of a point between one camera and the next that sees it.
    pub fn lag_one_correlation(&self, problem: &Problem) -> f64 {
        let (mut products, mut squares) = (0.0, 0.0);
        for point in 0..problem.points.len() {
            let mut before: Option<&Linear> = None;
            for (_, l) in self.seen(problem, point) {
                if let Some(before) = before {
                    products += before.residual.dot(&l.residual);
                    squares += 0.5 * (before.residual.norm_squared() + l.residual.norm_squared());
                }
                before = Some(l);
            }
        }
        if squares > 0.0 {
            products / squares
        } else {
            0.0
        }
    }

    /// V⁻¹ of a point and its couplings W V⁻¹ to the cameras, without damping: for covariances.
    pub fn point_coupling(&self, problem: &Problem, point: usize) -> Option<PointCoupling> {
        let mut v = Matrix3::zeros();
        let mut shared = SMatrix::<f64, 3, MOST_SHARED>::zeros();
        for (_, _, l) in self.all(problem, point) {
            v += l.point.tr_mul(&l.point);
            shared += l.point.tr_mul(&l.shared);
        }
        problem.hold_length(point, &mut v);
        if let Some(anchor) = problem.beliefs.anchor(point) {
            v += anchor.normal();
        }
        let inverse = v.try_inverse()?;
        let cameras = self
            .all(problem, point)
            .map(|(c, _, l)| (c, l.camera.tr_mul(&l.point) * inverse))
            .collect();
        Some((inverse, cameras, shared.transpose() * inverse))
    }
}

/// V⁻¹, W V⁻¹ per camera, shared coupling times V⁻¹.
pub type PointCoupling = (
    Matrix3<f64>,
    Vec<(usize, SMatrix<f64, CAMERA, 3>)>,
    SMatrix<f64, MOST_SHARED, 3>,
);

impl ReducedSystem {
    /// Adds what is believed of the cameras.
    fn believe(&mut self, structure: &Structure, beliefs: &[Belief]) {
        for belief in beliefs {
            for (i, column) in belief.cameras.into_iter().enumerate() {
                let slopes = &belief.slopes[i];
                for (slot, slope) in slopes.iter().enumerate() {
                    self.camera_side[column][slot] += slope * belief.residual;
                }
                for (k, row) in belief.cameras.into_iter().enumerate().skip(i) {
                    let block = self.blocks.of(structure, row, column);
                    for (c, slope) in slopes.iter().enumerate() {
                        for (r, other) in belief.slopes[k].iter().enumerate() {
                            block[8 * c + r] += slope * other;
                        }
                    }
                }
            }
        }
    }

    fn zero(problem: &Problem, structure: &Structure) -> Self {
        let cameras = problem.blocks();
        Self {
            blocks: Blocks::zero(structure),
            camera_shared: vec![CameraShared::zeros(); cameras],
            shared: SMatrix::zeros(),
            camera_side: vec![SMatrix::zeros(); cameras],
            shared_side: SMatrix::zeros(),
        }
    }
}

/// Adds `aᵀ b`, of whose columns only the first `columns` are not zero.
fn add_products<const A: usize, const B: usize>(
    sum: &mut SMatrix<f64, A, B>,
    a: &SMatrix<f64, 2, A>,
    b: &SMatrix<f64, 2, B>,
    columns: usize,
) {
    for c in 0..columns.min(B) {
        for r in 0..A {
            sum[(r, c)] += a[(0, r)] * b[(0, c)] + a[(1, r)] * b[(1, c)];
        }
    }
}

/// One point's coupling to one of its cameras: W and Y = W V⁻¹, three columns of 8 (7 used).
struct Coupling {
    camera: usize,
    /// Where its derivatives are.
    linear: u32,
    w: [f64; 24],
    y: [f64; 24],
}

impl Coupling {
    fn y_matrix(&self) -> SMatrix<f64, CAMERA, 3> {
        SMatrix::from_fn(|r, c| self.y[8 * c + r])
    }
}

fn padded(matrix: &SMatrix<f64, CAMERA, 3>) -> [f64; 24] {
    let mut out = [0.0; 24];
    for c in 0..3 {
        for r in 0..CAMERA {
            out[8 * c + r] = matrix[(r, c)];
        }
    }
    out
}

struct PointPart {
    inverse: Matrix3<f64>,
    side: Vector3<f64>,
    point_shared: SMatrix<f64, 3, MOST_SHARED>,
    shared: SMatrix<f64, MOST_SHARED, MOST_SHARED>,
    shared_side: SMatrix<f64, MOST_SHARED, 1>,
    /// Ascending by camera, as the observations are.
    couplings: Vec<Coupling>,
}

struct CameraPart {
    shared: CameraShared,
    side: SMatrix<f64, CAMERA, 1>,
}

/// For each camera: (point, index into its couplings).
fn sights_by_camera(problem: &Problem, points: &[PointPart]) -> Vec<Vec<(u32, u32)>> {
    let mut out = vec![Vec::new(); problem.blocks()];
    for (point, part) in points.iter().enumerate() {
        for (k, coupling) in part.couplings.iter().enumerate() {
            out[coupling.camera].push((point as u32, k as u32));
        }
    }
    out
}

/// For all cameras from this one on that see the point: block(row, column) -= Y_row W_columnᵀ.
/// `block_of` is the index of the block of each row from the column on, with how many columns of a
/// block are made. A column of a block is one register where there are wide ones, and sums are fused where the
/// processor does that.
#[multiversion(targets("x86_64+avx512f+avx2+fma", "x86_64+avx2+fma"))]
fn subtract_column(
    rows: &[Coupling],
    w: &[f64; 24],
    column: usize,
    (block_of, columns): (&[u32], usize),
    blocks: &mut [Block],
) {
    let less = |from: f64, y: f64, w: f64| match target_cfg_f!(target_feature = "fma") {
        true => y.mul_add(-w, from),
        false => from - y * w,
    };
    for row in rows {
        let block = &mut blocks[block_of[row.camera - column] as usize];
        let y: [[f64; 8]; 3] = std::array::from_fn(|k| std::array::from_fn(|r| row.y[8 * k + r]));
        for (c, out) in block.chunks_exact_mut(8).take(columns).enumerate() {
            let w = [w[c], w[8 + c], w[16 + c]];
            let left: [f64; 8] = std::array::from_fn(|r| {
                less(
                    less(less(out[r], y[0][r], w[0]), y[1][r], w[1]),
                    y[2][r],
                    w[2],
                )
            });
            out.copy_from_slice(&left);
        }
    }
}
