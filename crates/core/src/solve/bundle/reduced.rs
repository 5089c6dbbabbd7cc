//! The reduced camera system: which blocks exist, and its sparse Cholesky solution.
//!
//! Cameras that share no point have no block, and nothing here grows with the square of the
//! number of cameras. The shared unknowns stand behind the cameras as dense last rows. The
//! pattern is analysed once per problem and its symbolic factor reused in every iteration (faer).

use super::normal::ReducedSystem;
use super::{MOST_SHARED, Problem};
use faer::Side;
use faer::linalg::solvers::Solve;
use faer::sparse::linalg::solvers::{Llt, SymbolicLlt};
use faer::sparse::{SparseColMat, SymbolicSparseColMat};
use nalgebra::SMatrix;

/// Lower triangle of 6x6 blocks, column-major with rows padded to 8.
#[derive(Clone)]
pub struct Blocks(Vec<[f64; 48]>);

impl Blocks {
    /// As many zero blocks as the structure has.
    pub fn zero(structure: &Structure) -> Self {
        Self(vec![[0.0; 48]; structure.block_rows.len()])
    }

    /// The blocks of each column, the diagonal one first.
    pub fn columns(&mut self, structure: &Structure) -> Vec<&mut [[f64; 48]]> {
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

/// Adds a 6x6 matrix to a block.
pub fn add_to_block(block: &mut [f64; 48], matrix: &SMatrix<f64, 6, 6>) {
    for c in 0..6 {
        for r in 0..6 {
            block[8 * c + r] += matrix[(r, c)];
        }
    }
}

/// Which blocks and entries the reduced system has.
pub struct Structure {
    cameras: usize,
    shared: usize,
    /// Start of each block column.
    column_starts: Vec<usize>,
    /// Block row of each block.
    block_rows: Vec<usize>,
    pattern: SymbolicSparseColMat<usize>,
    symbolic: SymbolicLlt<usize>,
}

/// The solution of the reduced system.
pub struct ReducedStep {
    /// Steps of the cameras.
    pub cameras: Vec<[f64; 6]>,
    /// Steps of the shared unknowns.
    pub shared: [f64; MOST_SHARED],
}

impl Structure {
    /// Analyses which cameras share points. `None` if the analysis fails (never seen).
    pub fn of(problem: &Problem) -> Option<Self> {
        let cameras = problem.poses.len();
        let shared = problem.free.count();
        let (column_starts, block_rows) = columns(problem);
        let pattern = pattern(cameras, shared, &column_starts, &block_rows);
        let symbolic = SymbolicLlt::try_new(pattern.as_ref(), Side::Lower).ok()?;
        Some(Self {
            cameras,
            shared,
            column_starts,
            block_rows,
            pattern,
            symbolic,
        })
    }

    /// The cameras that a camera shares points with, itself and those after it, ascending: the
    /// rows of its column of blocks.
    pub fn column(&self, camera: usize) -> &[usize] {
        &self.block_rows[self.column_starts[camera]..self.column_starts[camera + 1]]
    }

    /// Solves `system * step = -side`. `None` when the matrix is not positive definite.
    pub fn solve(&self, system: &ReducedSystem) -> Option<ReducedStep> {
        let matrix = self.matrix(system);
        let factor =
            Llt::try_new_with_symbolic(self.symbolic.clone(), matrix.as_ref(), Side::Lower).ok()?;
        let size = 6 * self.cameras + self.shared;
        let mut side = faer::Mat::<f64>::zeros(size, 1);
        for (camera, part) in system.camera_side.iter().enumerate() {
            for i in 0..6 {
                side[(6 * camera + i, 0)] = -part[i];
            }
        }
        for i in 0..self.shared {
            side[(6 * self.cameras + i, 0)] = -system.shared_side[i];
        }
        let solution = factor.solve(&side);
        let finite = (0..size).all(|i| solution[(i, 0)].is_finite());
        finite.then(|| {
            let cameras = (0..self.cameras)
                .map(|c| std::array::from_fn(|i| solution[(6 * c + i, 0)]))
                .collect();
            let mut shared = [0.0; MOST_SHARED];
            (0..self.shared).for_each(|i| shared[i] = solution[(6 * self.cameras + i, 0)]);
            ReducedStep { cameras, shared }
        })
    }

    /// The lower triangle of the system as a sparse matrix, cameras first.
    pub fn matrix(&self, system: &ReducedSystem) -> SparseColMat<usize, f64> {
        SparseColMat::new(self.pattern.clone(), self.values(system))
    }

    /// Entries of the lower triangle in the order of the pattern.
    fn values(&self, system: &ReducedSystem) -> Vec<f64> {
        let mut values = Vec::with_capacity(self.pattern.row_idx().len());
        for camera in 0..self.cameras {
            for c in 0..6 {
                for k in self.column_starts[camera]..self.column_starts[camera + 1] {
                    let first = if self.block_rows[k] == camera { c } else { 0 };
                    values.extend_from_slice(&system.blocks.0[k][8 * c + first..8 * c + 6]);
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

/// Start of each column of blocks, and the rows of all of them.
fn columns(problem: &Problem) -> (Vec<usize>, Vec<usize>) {
    let cameras = problem.poses.len();
    let ranges = problem.ranges_by_point();
    let mut points_of: Vec<Vec<u32>> = vec![Vec::new(); cameras];
    for o in &problem.observations {
        points_of[o.camera as usize].push(o.point);
    }
    let (mut starts, mut rows) = (Vec::with_capacity(cameras + 1), Vec::new());
    let mut linked_to = vec![usize::MAX; cameras];
    for column in 0..cameras {
        starts.push(rows.len());
        rows.push(column);
        linked_to[column] = column;
        let first = rows.len();
        for point in &points_of[column] {
            for o in &problem.observations[ranges[*point as usize].clone()] {
                let row = o.camera as usize;
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
    cameras: usize,
    shared: usize,
    column_starts: &[usize],
    block_rows: &[usize],
) -> SymbolicSparseColMat<usize> {
    let size = 6 * cameras + shared;
    let (mut starts, mut rows) = (Vec::with_capacity(size + 1), Vec::new());
    for camera in 0..cameras {
        for c in 0..6 {
            starts.push(rows.len());
            for &row in &block_rows[column_starts[camera]..column_starts[camera + 1]] {
                let first = if row == camera { c } else { 0 };
                rows.extend((first..6).map(|r| 6 * row + r));
            }
            rows.extend(6 * cameras..size);
        }
    }
    for c in 0..shared {
        starts.push(rows.len());
        rows.extend(6 * cameras + c..size);
    }
    starts.push(rows.len());
    SymbolicSparseColMat::new_checked(size, size, starts, None, rows)
}
