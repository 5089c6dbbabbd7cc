//! The reduced camera system: which blocks exist, and its sparse Cholesky solution.
//!
//! Cameras that share no point have no block, and nothing here grows with the square of the
//! number of cameras. The shared unknowns stand behind the cameras as dense last rows. The
//! pattern is analysed once per problem and its symbolic factor reused in every iteration (faer). Where
//! nearly all cameras share points, so that there is hardly a zero, it is factored as a full matrix.

use super::neighbours::around;
use super::normal::ReducedSystem;
use super::{CAMERA, MOST_SHARED, Problem, Smoothness};
use faer::dyn_stack::{MemBuffer, MemStack};
use faer::linalg::cholesky::llt;
use faer::linalg::solvers::Solve;
use faer::reborrow::ReborrowMut;
use faer::sparse::linalg::solvers::{Llt, SymbolicLlt};
use faer::sparse::{SparseColMat, SymbolicSparseColMat};
use faer::{MatMut, Side};
use nalgebra::SMatrix;
use rayon::prelude::*;
use std::collections::HashMap;
use std::sync::OnceLock;

/// What two cameras have to do with each other: rows of the later one, columns of the other.
pub type Block = SMatrix<f64, CAMERA, CAMERA>;

/// Lower triangle of blocks.
#[derive(Clone)]
pub struct Blocks(Vec<Block>);

impl Blocks {
    /// As many zero blocks as the structure has.
    pub fn zero(structure: &Structure) -> Self {
        Self(vec![Block::zeros(); structure.block_rows.len()])
    }

    /// The block of two cameras, the row not before the column.
    pub fn of(&mut self, structure: &Structure, row: usize, column: usize) -> &mut Block {
        let at = structure.column(column).partition_point(|r| *r < row);
        &mut self.0[structure.column_starts[column] + at]
    }

    /// The blocks of each column, the diagonal one first.
    pub fn columns(&mut self, structure: &Structure) -> Vec<&mut [Block]> {
        let mut rest = self.0.as_mut_slice();
        let mut out = Vec::with_capacity(structure.cameras);
        for column in structure.column_starts.windows(2) {
            let (now, later) = rest.split_at_mut(column[1] - column[0]);
            out.push(now);
            rest = later;
        }
        out
    }
}

/// Which blocks and entries the reduced system has.
pub struct Structure {
    /// Cameras, and what points are tied to.
    cameras: usize,
    shared: usize,
    /// Unknowns of each camera that are free.
    slots: &'static [usize],
    /// Start of each block column.
    column_starts: Vec<usize>,
    /// Block row of each block.
    block_rows: Vec<usize>,
    /// Made when they are first asked for.
    pattern: OnceLock<SymbolicSparseColMat<usize>>,
    symbolic: OnceLock<Option<SymbolicLlt<usize>>>,
}

/// With more than this share of blocks the matrix is taken for full.
const FULL: f64 = 0.7;

/// The solution of the reduced system.
pub struct ReducedStep {
    /// Steps of the cameras.
    pub cameras: Vec<[f64; CAMERA]>,
    /// Steps of the shared unknowns.
    pub shared: [f64; MOST_SHARED],
}

impl Structure {
    /// Finds which cameras share points.
    pub fn of(problem: &Problem) -> Self {
        let cameras = problem.blocks();
        let shared = problem.free.count();
        let (column_starts, block_rows) = columns(problem);
        Self {
            cameras,
            shared,
            slots: problem.slots(),
            column_starts,
            block_rows,
            pattern: OnceLock::new(),
            symbolic: OnceLock::new(),
        }
    }

    /// The cameras that a camera shares points with, itself and those after it, ascending: the
    /// rows of its column of blocks.
    pub fn column(&self, camera: usize) -> &[usize] {
        &self.block_rows[self.column_starts[camera]..self.column_starts[camera + 1]]
    }

    /// Row of a camera's unknown; `None` where that is not free.
    pub fn row(&self, camera: usize, slot: usize) -> Option<usize> {
        let at = self.slots.binary_search(&slot).ok()?;
        Some(self.slots.len() * camera + at)
    }

    /// Row of the first shared unknown.
    pub fn first_shared(&self) -> usize {
        self.slots.len() * self.cameras
    }

    /// Solves `system * step = -side`. `None` when the matrix is not positive definite.
    pub fn solve(&self, system: &ReducedSystem) -> Option<ReducedStep> {
        let size = self.size();
        let mut side = faer::Mat::<f64>::zeros(size, 1);
        for (camera, part) in system.camera_side.iter().enumerate() {
            for (at, slot) in self.slots.iter().enumerate() {
                side[(self.slots.len() * camera + at, 0)] = -part[*slot];
            }
        }
        for i in 0..self.shared {
            side[(self.first_shared() + i, 0)] = -system.shared_side[i];
        }
        match self.is_full() {
            true => self.step(&solved_full(side, |column, entries| {
                self.fill_column(system, column, entries);
            })?),
            false => self.step_of(&self.matrix(system), &side),
        }
    }

    fn is_full(&self) -> bool {
        let all = self.cameras * (self.cameras + 1) / 2;
        self.block_rows.len() as f64 > FULL * all as f64
    }

    fn pattern(&self) -> &SymbolicSparseColMat<usize> {
        self.pattern.get_or_init(|| {
            let blocks = (self.cameras, self.slots.len());
            pattern(blocks, self.shared, &self.column_starts, &self.block_rows)
        })
    }

    /// How many unknowns there are.
    pub fn size(&self) -> usize {
        self.first_shared() + self.shared
    }

    /// Solves `matrix * step = side` for a lower triangle of this structure.
    pub fn step_of(
        &self,
        matrix: &SparseColMat<usize, f64>,
        side: &faer::Mat<f64>,
    ) -> Option<ReducedStep> {
        self.step(&self.solved(matrix, side)?)
    }

    fn step(&self, solution: &faer::Mat<f64>) -> Option<ReducedStep> {
        let finite = (0..self.size()).all(|i| solution[(i, 0)].is_finite());
        finite.then(|| {
            let of = |camera, slot| self.row(camera, slot).map_or(0.0, |row| solution[(row, 0)]);
            let cameras = (0..self.cameras)
                .map(|c| std::array::from_fn(|slot| of(c, slot)))
                .collect();
            let mut shared = [0.0; MOST_SHARED];
            (0..self.shared).for_each(|i| shared[i] = solution[(self.first_shared() + i, 0)]);
            ReducedStep { cameras, shared }
        })
    }

    /// `matrix⁻¹ * side` for a lower triangle of this structure; `None` where it is not positive definite.
    pub fn solved(
        &self,
        matrix: &SparseColMat<usize, f64>,
        side: &faer::Mat<f64>,
    ) -> Option<faer::Mat<f64>> {
        if self.is_full() {
            let (starts, rows) = (matrix.col_ptr(), matrix.row_idx());
            return solved_full(side.clone(), |column, entries| {
                for k in starts[column]..starts[column + 1] {
                    entries[rows[k]] = matrix.val()[k];
                }
            });
        }
        let analysed = || SymbolicLlt::try_new(self.pattern().as_ref(), Side::Lower).ok();
        let symbolic = self.symbolic.get_or_init(analysed).clone()?;
        let factor = Llt::try_new_with_symbolic(symbolic, matrix.as_ref(), Side::Lower).ok()?;
        Some(factor.solve(side))
    }

    /// Entries of a column from the diagonal on.
    fn fill_column(&self, system: &ReducedSystem, column: usize, entries: &mut [f64]) {
        let slots = self.slots.len();
        if let Some(shared) = column.checked_sub(self.first_shared()) {
            for row in shared..self.shared {
                entries[self.first_shared() + row] = system.shared[(row, shared)];
            }
            return;
        }
        let (camera, c) = (column / slots, self.slots[column % slots]);
        for k in self.column_starts[camera]..self.column_starts[camera + 1] {
            let rows = &mut entries[slots * self.block_rows[k]..];
            for (entry, r) in rows.iter_mut().zip(self.slots) {
                *entry = system.blocks.0[k][(*r, c)];
            }
        }
        for s in 0..self.shared {
            entries[self.first_shared() + s] = system.camera_shared[camera][(c, s)];
        }
    }

    /// The lower triangle of the system as a sparse matrix, cameras first.
    pub fn matrix(&self, system: &ReducedSystem) -> SparseColMat<usize, f64> {
        SparseColMat::new(self.pattern().clone(), self.values(system))
    }

    /// Entries of the lower triangle in the order of the pattern.
    fn values(&self, system: &ReducedSystem) -> Vec<f64> {
        let mut values = Vec::with_capacity(self.pattern().row_idx().len());
        for camera in 0..self.cameras {
            for (at, &c) in self.slots.iter().enumerate() {
                for k in self.column_starts[camera]..self.column_starts[camera + 1] {
                    let first = if self.block_rows[k] == camera { at } else { 0 };
                    let rows = self.slots[first..].iter();
                    values.extend(rows.map(|r| system.blocks.0[k][(*r, c)]));
                }
                values.extend((0..self.shared).map(|s| system.camera_shared[camera][(c, s)]));
            }
        }
        for c in 0..self.shared {
            values.extend((c..self.shared).map(|r| system.shared[(r, c)]));
        }
        values
    }
}

/// `matrix⁻¹ * side` for a full matrix of whose columns `fill` writes the entries from the diagonal on; `None` where
/// it is not positive definite.
fn solved_full(
    mut side: faer::Mat<f64>,
    fill: impl Fn(usize, &mut [f64]) + Sync,
) -> Option<faer::Mat<f64>> {
    let size = side.nrows();
    let mut entries = vec![0.0; size * size];
    let columns = entries.par_chunks_mut(size).enumerate();
    columns.for_each(|(column, entries)| fill(column, entries));
    let mut matrix = MatMut::from_column_major_slice_mut(&mut entries, size, size);
    let par = faer::get_global_parallelism();
    let plain = llt::factor::LltRegularization::default();
    let scratch = llt::factor::cholesky_in_place_scratch::<f64>(size, par, Default::default());
    let mut memory = MemBuffer::try_new(scratch).ok()?;
    let stack = MemStack::new(&mut memory);
    llt::factor::cholesky_in_place(matrix.rb_mut(), plain, par, stack, Default::default()).ok()?;
    let scratch = llt::solve::solve_in_place_scratch::<f64>(size, side.ncols(), par);
    let mut memory = MemBuffer::try_new(scratch).ok()?;
    let stack = MemStack::new(&mut memory);
    llt::solve::solve_in_place(matrix.as_ref(), side.as_mut(), par, stack);
    Some(side)
}

/// Start of each column of blocks, and the rows of all of them.
fn columns(problem: &Problem) -> (Vec<usize>, Vec<usize>) {
    let cameras = problem.poses.len();
    let ranges = problem.ranges_by_point();
    let mut points_of: Vec<Vec<u32>> = vec![Vec::new(); problem.blocks()];
    for o in problem.observations.iter() {
        for camera in around(problem, o.camera as usize) {
            if points_of[camera].last() != Some(&o.point) {
                points_of[camera].push(o.point);
            }
        }
    }
    // Blocks that a point is tied to stand behind all cameras.
    let mut tied_to: HashMap<u32, Vec<usize>> = HashMap::new();
    for (k, points) in problem.beliefs.ties.points().enumerate() {
        for point in points {
            points_of[cameras + k].push(*point);
            tied_to.entry(*point).or_default().push(cameras + k);
        }
    }
    let (mut starts, mut rows) = (Vec::with_capacity(problem.blocks() + 1), Vec::new());
    let mut linked_to = vec![usize::MAX; problem.blocks()];
    for column in 0..problem.blocks() {
        starts.push(rows.len());
        rows.push(column);
        linked_to[column] = column;
        let first = rows.len();
        if problem.zoom.is_some() || !problem.beliefs.smooth.is_empty() {
            // What is believed of focal lengths and of movement links successive cameras.
            let next = (column + 1).min(cameras)..cameras.min(column + 3);
            linked_to[next.clone()].fill(column);
            rows.extend(next);
        }
        let linked = problem.beliefs.smooth.iter().filter_map(Smoothness::linked);
        for (first, second) in linked {
            if first == column && linked_to[second] != column {
                linked_to[second] = column;
                rows.push(second);
            }
        }
        for point in &points_of[column] {
            if rows.len() - first == problem.blocks() - column - 1 {
                // All that there can be.
                break;
            }
            let seen_by = problem.observations[ranges[*point as usize].clone()].iter();
            let tied_to = tied_to.get(point).into_iter().flatten().copied();
            let seen_by = seen_by.flat_map(|o| around(problem, o.camera as usize));
            for row in seen_by.chain(tied_to) {
                if row > column && linked_to[row] != column {
                    linked_to[row] = column;
                    rows.push(row);
                }
            }
        }
        rows[first..].sort_unstable();
    }
    starts.push(rows.len());
    (starts, rows)
}

fn pattern(
    (cameras, slots): (usize, usize),
    shared: usize,
    column_starts: &[usize],
    block_rows: &[usize],
) -> SymbolicSparseColMat<usize> {
    let size = slots * cameras + shared;
    let (mut starts, mut rows) = (Vec::with_capacity(size + 1), Vec::new());
    for camera in 0..cameras {
        for c in 0..slots {
            starts.push(rows.len());
            for &row in &block_rows[column_starts[camera]..column_starts[camera + 1]] {
                let first = if row == camera { c } else { 0 };
                rows.extend((first..slots).map(|r| slots * row + r));
            }
            rows.extend(slots * cameras..size);
        }
    }
    for c in 0..shared {
        starts.push(rows.len());
        rows.extend(slots * cameras + c..size);
    }
    starts.push(rows.len());
    SymbolicSparseColMat::new_checked(size, size, starts, None, rows)
}
