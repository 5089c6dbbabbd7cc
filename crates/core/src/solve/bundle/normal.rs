//! Normal equations of the adjustment with the points eliminated.
//!
//! With U (cameras), V (points), S (shared) on the diagonal and W, the reduced system is
//! `U - Σ W V⁻¹ Wᵀ`. Work is split over points, then over a few columns of cameras at a time
//! ([`super::coupling`]): no thread writes where another does, and the sums come out the same at any
//! number of threads. Rows and columns of unknowns that are not free are made or not, and not read.

use super::coupling::{AT_ONCE, Columns, Group, Sight};
use super::derivatives::Derivatives;
use super::neighbours;
use super::products::{CameraPart, PointPart, PointSums, Sights};
use super::reduced::{Blocks, Structure};
use super::residual::Linear;
use super::rolling::MOST_NEAR;
use super::{Belief, CAMERA, Loss, MOST_SHARED, Problem, Step};
use nalgebra::{Matrix3, SMatrix, Vector2, Vector3};
use rayon::prelude::*;
use std::collections::HashMap;
use std::ops::Range;

/// All derivatives at one place.
pub struct Linearisation {
    /// Of what was seen and of ties.
    derivatives: Derivatives,
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
        let mut out = Self {
            derivatives: Derivatives::default(),
            ranges: problem.ranges_by_point(),
            ties: HashMap::new(),
        };
        out.again(problem, loss);
        out
    }

    /// The same at another place, in the same memory.
    pub fn again(&mut self, problem: &Problem, loss: Loss) {
        self.derivatives.seen_again(problem, loss);
        self.ties.clear();
        for tie in problem.beliefs.ties.linear(&problem.points) {
            let of_point = self.ties.entry(tie.point as usize).or_default();
            let at = self.derivatives.tied(tie.linear);
            of_point.push((problem.poses.len() + tie.block, at));
        }
    }

    /// Eliminates the points under Marquardt damping. `groups` is room that is kept from step to step, empty at first.
    pub fn reduce(
        &self,
        problem: &Problem,
        structure: &Structure,
        damping: f64,
        groups: &mut Vec<Group>,
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
        self.lay(problem, &points, groups);
        let ends: Vec<CameraPart> = system
            .blocks
            .columns(structure)
            .par_chunks_mut(AT_ONCE)
            .zip(&*groups)
            .flat_map_iter(|(blocks, group)| {
                let mut columns = Columns {
                    group,
                    blocks,
                    structure,
                };
                columns.subtract(groups, problem.slots());
                self.camera_parts(problem, &points, damping, columns)
            })
            .collect();
        for (camera, part) in ends.into_iter().enumerate() {
            system.camera_shared[camera] = part.shared;
            system.camera_side[camera] = part.side;
        }
        self.link_neighbours(problem, structure, groups, &mut system);
        system.believe(structure, &problem.beliefs_of_cameras());
        let (inverse, side) = points.into_iter().map(|p| (p.inverse, p.side)).unzip();
        (system, Eliminated { inverse, side })
    }

    /// What one point contributes.
    fn point_part(&self, problem: &Problem, damping: f64, point: usize) -> PointPart {
        let sights = self.all(problem, point).map(|(_, l)| l);
        let PointSums {
            normal: mut v,
            mut side,
            coupling,
            mut shared,
            mut shared_side,
        } = PointSums::of(sights, problem.free.count());
        shared += SMatrix::from_diagonal(&shared.diagonal()) * damping;
        problem.hold_length(point, &mut v);
        if let Some(anchor) = problem.beliefs.anchor(point) {
            v += anchor.normal();
            side += anchor.side(&problem.points[point]);
        }
        for i in 0..3 {
            v[(i, i)] += damping * v[(i, i)] + 1e-12;
        }
        // A point that nothing holds stays where it is.
        let factor = v.cholesky().and_then(|v| v.l().try_inverse());
        let root = factor.map_or_else(Matrix3::zeros, |l| l.transpose());
        let inverse = root * root.transpose();
        let (place, place_shared) = (inverse * side, inverse * coupling);
        shared -= coupling.tr_mul(&place_shared);
        shared_side -= coupling.tr_mul(&place);
        PointPart {
            inverse,
            root,
            side,
            place,
            place_shared,
            shared,
            shared_side,
        }
    }

    /// Lays out what points have to do with their cameras, by groups of these.
    fn lay(&self, problem: &Problem, points: &[PointPart], groups: &mut Vec<Group>) {
        let slots = problem.slots();
        if groups.is_empty() {
            let firsts = (0..problem.blocks()).step_by(AT_ONCE);
            groups.extend(firsts.map(|first| Group::new(first, slots)));
            for point in 0..points.len() {
                for sight in self.sights(problem, point) {
                    groups[sight.block / AT_ONCE].add(point, sight);
                }
            }
        }
        groups
            .par_iter_mut()
            .for_each(|group| group.lay(slots, &self.derivatives, points));
    }

    /// Adds what cameras have to do with each other by what one of them sees.
    fn link_neighbours(
        &self,
        problem: &Problem,
        structure: &Structure,
        groups: &[Group],
        system: &mut ReducedSystem,
    ) {
        if problem.rolling.is_none() {
            return;
        }
        let linked: Vec<_> = groups
            .par_iter()
            .flat_map_iter(|group| {
                let mut seen_by = vec![Vec::new(); AT_ONCE];
                let own = group.sights.iter().filter(|s| s.beside.is_none());
                own.for_each(|s| seen_by[s.block - group.first].push(s.at));
                let cameras = (group.first..problem.poses.len()).zip(seen_by);
                cameras.flat_map(|(camera, seen)| {
                    neighbours::between(&self.derivatives, problem, camera, &seen)
                })
            })
            .collect();
        for (row, column, block) in linked {
            *system.blocks.of(structure, row, column) += block;
        }
    }

    /// What is left of a group's columns of blocks; its cameras' coupling to the shared unknowns and right-hand sides.
    fn camera_parts(
        &self,
        problem: &Problem,
        points: &[PointPart],
        damping: f64,
        Columns { group, blocks, .. }: Columns<'_, '_>,
    ) -> Vec<CameraPart> {
        let sights = Sights {
            group,
            derivatives: &self.derivatives,
            points,
            shared: problem.free.count(),
        };
        let mut parts = CameraPart::of_group(sights, blocks.len());
        for (part, blocks) in parts.iter_mut().zip(blocks.iter_mut()) {
            for i in 0..CAMERA {
                part.own[(i, i)] += damping * part.own[(i, i)];
            }
            blocks[0] += part.own;
        }
        parts
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
            .zip(&self.derivatives.linear[range])
            .filter_map(|(c, l)| Some((c, l.as_ref()?)))
    }

    /// Blocks that see a point or that it is tied to, each with the place of its derivatives.
    fn places<'a>(
        &'a self,
        problem: &'a Problem,
        point: usize,
    ) -> impl Iterator<Item = (usize, usize)> + 'a {
        let seen = self.ranges[point].clone();
        let seen = seen.map(|at| (problem.observations[at].camera as usize, at));
        let ties = self.ties.get(&point).into_iter().flatten().copied();
        seen.chain(ties)
    }

    /// What a point has to do with blocks: of each place with the one that sees it, then with those beside.
    fn sights<'a>(
        &'a self,
        problem: &'a Problem,
        point: usize,
    ) -> impl Iterator<Item = Sight> + 'a {
        self.places(problem, point).flat_map(|(own, at)| {
            let sight = move |block, beside| Sight { block, at, beside };
            let beside = self.derivatives.beside(at).iter().enumerate();
            let beside = beside.filter(move |(_, b)| b.camera != own);
            let beside = beside.map(move |(k, b)| sight(b.camera, Some(k)));
            [sight(own, None)].into_iter().chain(beside)
        })
    }

    /// What steps of cameras and shared unknowns change a residual by.
    fn moved(
        &self,
        (block, at): (usize, usize),
        cameras: &[[f64; CAMERA]],
        by_shared: &SMatrix<f64, MOST_SHARED, 1>,
    ) -> Option<(&Linear, Vector2<f64>)> {
        let l = self.derivatives.linear[at].as_ref()?;
        let step = |camera: usize| SMatrix::<f64, CAMERA, 1>::from(cameras[camera]);
        let mut moved = l.camera * step(block) + l.shared * by_shared;
        for beside in self.derivatives.beside(at) {
            moved += beside.by * step(beside.camera);
        }
        Some((l, moved))
    }

    /// Derivatives of all that sees a point or that it is tied to, by block.
    fn all<'a>(
        &'a self,
        problem: &'a Problem,
        point: usize,
    ) -> impl Iterator<Item = (usize, &'a Linear)> {
        self.places(problem, point)
            .filter_map(|(block, at)| Some((block, self.derivatives.linear[at].as_ref()?)))
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
                for place in self.places(problem, point) {
                    if let Some((l, moved)) = self.moved(place, &cameras, &by_shared) {
                        side += l.point.tr_mul(&moved);
                    }
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
                self.places(problem, point)
                    .filter_map(|place| self.moved(place, &step.cameras, &by_shared))
                    .map(|(l, moved)| {
                        let after = l.residual + moved + l.point * step.points[point];
                        0.5 * (l.residual.norm_squared() - after.norm_squared())
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
        let sights = self.all(problem, point).map(|(_, l)| l);
        let PointSums {
            normal: mut v,
            coupling: shared,
            ..
        } = PointSums::of(sights, problem.free.count());
        problem.hold_length(point, &mut v);
        if let Some(anchor) = problem.beliefs.anchor(point) {
            v += anchor.normal();
        }
        let inverse = v.try_inverse()?;
        let mut cameras: Vec<(usize, SMatrix<f64, CAMERA, 3>)> = Vec::new();
        for sight in self.sights(problem, point) {
            let Some((l, by)) = self.derivatives.of(&sight) else {
                continue;
            };
            let coupling = by.tr_mul(&l.point) * inverse;
            // Cameras follow each other: one that was there is near.
            let mut before = cameras.iter_mut().rev().take(3 * MOST_NEAR);
            match before.find(|(camera, _)| *camera == sight.block) {
                Some((_, sum)) => *sum += coupling,
                None => cameras.push((sight.block, coupling)),
            }
        }
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
                            block[(r, c)] += slope * other;
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
