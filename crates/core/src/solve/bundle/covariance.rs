//! How certain are the adjusted cameras, lens and landmarks?
//!
//! At the minimum, with U (cameras and lens), V (landmarks) and W of the normal matrix, the
//! reduced matrix is S = U - W V⁻¹ Wᵀ. Its inverse is the covariance of cameras and lens, that
//! of a landmark is `V⁻¹ + Yᵀ S⁻¹ Y` with Y = W V⁻¹ (Triggs et al. 2000, section 9). Only those
//! blocks of S⁻¹ are made that this needs ([`super::selected_inverse`]), so that a long shot
//! is as exact as a short one.
//!
//! The gauge is fixed for this: the first camera does not move, and the camera farthest from it
//! keeps its distance along the axis in which it is farthest. All is scaled by the variance
//! factor of the residuals when that exceeds 1, so that optimistic track covariances do not make
//! the result look better than it is, and by the loss of independence along the tracks: errors
//! of a feature on neighbouring frames are alike, so that its positions count for fewer. With the
//! lag-one correlation ρ of the residuals that factor is (1 + ρ) / (1 - ρ), the effective sample
//! size of a first-order autoregression (Bartlett 1946).
//!
//! Fails where the evidence does not determine all unknowns; nothing that is not finite is stated.

use super::normal::{Linearisation, PointCoupling};
use super::reduced::Structure;
use super::selected_inverse::{Reader, SelectedInverse};
use super::{Loss, MOST_SHARED, Problem};
use faer::sparse::SparseColMat;
use nalgebra::{Matrix3, Matrix6};
use rayon::prelude::*;

/// Standard errors and covariances in the fixed gauge.
#[derive(Clone, Debug)]
pub struct Certainty {
    /// Standard error of the shared unknowns (focal_px, k1, k2 as far as free).
    pub shared: [f64; MOST_SHARED],
    /// Covariance of each point along the world's axes, world units squared; `None` where its
    /// rays do not determine it.
    pub points: Vec<Option<Matrix3<f64>>>,
    /// Covariance of each camera's turn (rad) and shift (world units), both in camera space.
    pub cameras: Vec<Matrix6<f64>>,
    /// Variance factor: 1 when residuals are as large as the tracks' covariances say.
    pub variance_factor: f64,
}

/// Certainty at a minimum; `None` when the evidence does not determine all unknowns.
pub fn certainty(problem: &Problem, loss: Loss) -> Option<Certainty> {
    let structure = Structure::of(problem)?;
    let linearisation = Linearisation::at(problem, loss);
    let (system, _) = linearisation.reduce(problem, &structure, 0.0);
    let factor = variance_factor(problem, loss, &linearisation);
    let gauge = Gauge::of(problem)?;
    let inverse = SelectedInverse::of(&gauge.fixed(structure.matrix(&system)))?;
    let first_shared = 6 * problem.poses.len();
    let mut reader = inverse.reader();
    let mut shared = [0.0; MOST_SHARED];
    for (k, sigma) in shared.iter_mut().enumerate().take(problem.free.count()) {
        *sigma = (factor * reader.block(&[first_shared + k])[(0, 0)]).sqrt();
    }
    let cameras: Vec<Matrix6<f64>> = (0..problem.poses.len())
        .map(|camera| camera_covariance(&mut reader, &gauge, camera) * factor)
        .collect();
    let points = (0..problem.points.len())
        .into_par_iter()
        .with_min_len(16)
        .map_init(
            || inverse.reader(),
            |reader, point| {
                let coupling = linearisation.point_coupling(problem, point)?;
                let covariance = point_covariance(problem, reader, &gauge, &coupling) * factor;
                covariance
                    .iter()
                    .all(|c| c.is_finite())
                    .then_some(covariance)
            },
        )
        .collect();
    let finite = shared
        .iter()
        .chain(cameras.iter().flatten())
        .all(|v| v.is_finite());
    (finite && factor.is_finite()).then_some(Certainty {
        shared,
        points,
        cameras,
        variance_factor: factor,
    })
}

fn variance_factor(problem: &Problem, loss: Loss, linearisation: &Linearisation) -> f64 {
    let unknowns = 6 * problem.poses.len() + 3 * problem.points.len() + problem.free.count();
    let redundancy = 2.0 * problem.observations.len() as f64 - unknowns as f64;
    let spread = 2.0 * problem.cost(loss) / redundancy.max(1.0);
    spread.max(1.0) * dependence(linearisation, problem)
}

/// How many neighbouring positions of a track count as one, at least 1.
fn dependence(linearisation: &Linearisation, problem: &Problem) -> f64 {
    let rho = linearisation.lag_one_correlation(problem).clamp(0.0, 0.95);
    (1.0 + rho) / (1.0 - rho)
}

/// The seven unknowns that are held while the rest is asked how certain it is.
struct Gauge([usize; 7]);

impl Gauge {
    fn of(problem: &Problem) -> Option<Self> {
        let first = problem.poses.first()?.centre();
        let distance = |i: &usize| problem.poses[*i].centre().distance(first);
        let far = (0..problem.poses.len())
            .max_by(|a, b| distance(a).total_cmp(&distance(b)))
            .filter(|far| *far > 0)?;
        let shift = &problem.poses[far].camera_from_world.translation.vector;
        Some(Self([0, 1, 2, 3, 4, 5, 6 * far + 3 + shift.iamax()]))
    }

    fn holds(&self, row: usize) -> bool {
        self.0.contains(&row)
    }

    /// The matrix with rows and columns of the held unknowns replaced by those of the identity.
    fn fixed(&self, mut lower: SparseColMat<usize, f64>) -> SparseColMat<usize, f64> {
        for column in 0..lower.ncols() {
            for k in lower.col_ptr()[column]..lower.col_ptr()[column + 1] {
                let row = lower.row_idx()[k];
                if self.holds(row) || self.holds(column) {
                    lower.val_mut()[k] = f64::from(u8::from(row == column));
                }
            }
        }
        lower
    }
}

fn camera_covariance(reader: &mut Reader<'_>, gauge: &Gauge, camera: usize) -> Matrix6<f64> {
    let rows: [usize; 6] = std::array::from_fn(|i| 6 * camera + i);
    let block = reader.block(&rows);
    Matrix6::from_fn(|i, j| {
        let held = gauge.holds(rows[i]) || gauge.holds(rows[j]);
        if held { 0.0 } else { block[(i, j)] }
    })
}

fn point_covariance(
    problem: &Problem,
    reader: &mut Reader<'_>,
    gauge: &Gauge,
    (own, cameras, shared): &PointCoupling,
) -> Matrix3<f64> {
    let first_shared = 6 * problem.poses.len();
    let mut rows = Vec::with_capacity(6 * cameras.len() + MOST_SHARED);
    let mut y = Vec::with_capacity(rows.capacity());
    for (camera, coupling) in cameras {
        for i in 0..6 {
            let row = 6 * camera + i;
            if !gauge.holds(row) {
                rows.push(row);
                y.push(coupling.row(i).into_owned());
            }
        }
    }
    for k in 0..problem.free.count() {
        rows.push(first_shared + k);
        y.push(shared.row(k).into_owned());
    }
    let block = reader.block(&rows);
    let mut covariance = *own;
    for (j, right) in y.iter().enumerate() {
        let mut sum = nalgebra::RowVector3::zeros();
        for (i, left) in y.iter().enumerate() {
            sum += left * block[(i, j)];
        }
        covariance += sum.transpose() * right;
    }
    0.5 * (covariance + covariance.transpose())
}
