//! How certain the adjusted cameras, lens and landmarks are.
//!
//! The reduced normal matrix without damping is inverted with the gauge fixed: the first
//! camera does not move and the camera farthest from it keeps its distance along the axis in
//! which it is farthest. Points follow by `V⁻¹ + (W V⁻¹)ᵀ S⁻¹ (W V⁻¹)`. All is scaled by the
//! variance factor of the residuals when that exceeds 1, so that optimistic track
//! covariances do not make the result look better than it is, and by the loss of independence
//! along the tracks: errors of a feature on neighbouring frames are alike, so that its
//! positions count for fewer. With the lag-one correlation ρ of the residuals that factor is
//! (1 + ρ) / (1 - ρ), the effective sample size of a first-order autoregression (Bartlett 1946).

use super::normal::Linearisation;
use super::reduced::Structure;
use super::{Loss, MOST_SHARED, Problem};
use faer::linalg::solvers::DenseSolveCore;
use nalgebra::{Matrix3, SMatrix};

/// Standard errors.
#[derive(Clone, Debug)]
pub struct Certainty {
    /// Standard error of the shared unknowns (focal_px, k1, k2 as far as free).
    pub shared: [f64; MOST_SHARED],
    /// One standard error of each point along the world's axes, world units.
    pub points: Vec<[f64; 3]>,
    /// Variance factor: 1 when residuals are as large as the tracks' covariances say.
    pub variance_factor: f64,
}

/// The dense inverse is made up to this many unknowns (about 400 cameras); beyond it the
/// points' errors are stated without the cameras' share.
const MOST_UNKNOWNS: usize = 2500;

/// Certainty at a minimum; `None` when the evidence does not determine all unknowns.
pub fn certainty(problem: &Problem, loss: Loss) -> Option<Certainty> {
    let structure = Structure::of(problem)?;
    let linearisation = Linearisation::at(problem, loss);
    let (system, _) = linearisation.reduce(problem, &structure, 0.0);
    let unknowns = 2.0 * problem.observations.len() as f64
        - (6 * problem.poses.len() + 3 * problem.points.len() + problem.free.count()) as f64;
    let variance_factor = (2.0 * problem.cost(loss) / unknowns.max(1.0)).max(1.0)
        * dependence(&linearisation, problem);
    let size = 6 * problem.poses.len() + problem.free.count();
    if size > MOST_UNKNOWNS {
        return Some(without_cameras(problem, &linearisation, variance_factor));
    }
    let inverse = gauge_fixed_inverse(problem, structure.dense(&system))?;
    let first_shared = 6 * problem.poses.len();
    let mut shared = [0.0; MOST_SHARED];
    for (k, s) in shared.iter_mut().enumerate().take(problem.free.count()) {
        *s = (variance_factor * inverse[(first_shared + k, first_shared + k)]).sqrt();
    }
    let points = (0..problem.points.len())
        .map(|point| point_sigma(problem, &linearisation, &inverse, point, variance_factor))
        .collect();
    Some(Certainty {
        shared,
        points,
        variance_factor,
    })
}

/// How many neighbouring positions of a track count as one, at least 1.
fn dependence(linearisation: &Linearisation, problem: &Problem) -> f64 {
    let rho = linearisation.lag_one_correlation(problem).clamp(0.0, 0.95);
    (1.0 + rho) / (1.0 - rho)
}

fn without_cameras(problem: &Problem, linearisation: &Linearisation, factor: f64) -> Certainty {
    let points = (0..problem.points.len())
        .map(|p| {
            linearisation
                .point_coupling(problem, p)
                .map_or([f64::NAN; 3], |(v, _, _)| roots(&v, factor))
        })
        .collect();
    Certainty {
        shared: [f64::NAN; MOST_SHARED],
        points,
        variance_factor: factor,
    }
}

fn gauge_fixed_inverse(problem: &Problem, mut matrix: faer::Mat<f64>) -> Option<faer::Mat<f64>> {
    let first = problem.poses.first()?.centre();
    let (far, _) = problem
        .poses
        .iter()
        .enumerate()
        .map(|(i, p)| (i, p.centre().distance(first)))
        .max_by(|a, b| a.1.total_cmp(&b.1))?;
    let axis = problem.poses[far]
        .camera_from_world
        .translation
        .vector
        .iamax();
    let fixed = (0..6).chain([6 * far + 3 + axis]);
    let size = matrix.nrows();
    for k in fixed {
        for i in 0..size {
            matrix[(i, k)] = 0.0;
            matrix[(k, i)] = 0.0;
        }
        matrix[(k, k)] = 1.0;
    }
    let factor = matrix.llt(faer::Side::Lower).ok()?;
    let mut inverse = factor.inverse();
    for k in (0..6).chain([6 * far + 3 + axis]) {
        inverse[(k, k)] = 0.0;
    }
    Some(inverse)
}

fn point_sigma(
    problem: &Problem,
    linearisation: &Linearisation,
    inverse: &faer::Mat<f64>,
    point: usize,
    factor: f64,
) -> [f64; 3] {
    let Some((own, cameras, shared)) = linearisation.point_coupling(problem, point) else {
        return [f64::NAN; 3];
    };
    let mut covariance = own;
    let first_shared = 6 * problem.poses.len();
    let count = problem.free.count();
    for (a, ya) in &cameras {
        for (b, yb) in &cameras {
            let block = SMatrix::<f64, 6, 6>::from_fn(|r, c| inverse[(6 * a + r, 6 * b + c)]);
            covariance += ya.tr_mul(&(block * yb));
        }
        let mut cross = SMatrix::<f64, 6, MOST_SHARED>::zeros();
        for s in 0..count {
            for r in 0..6 {
                cross[(r, s)] = inverse[(6 * a + r, first_shared + s)];
            }
        }
        let mixed = ya.tr_mul(&(cross * shared));
        covariance += mixed + mixed.transpose();
    }
    let mut block = SMatrix::<f64, MOST_SHARED, MOST_SHARED>::zeros();
    for r in 0..count {
        for c in 0..count {
            block[(r, c)] = inverse[(first_shared + r, first_shared + c)];
        }
    }
    covariance += shared.tr_mul(&(block * shared));
    roots(&covariance, factor)
}

fn roots(covariance: &Matrix3<f64>, factor: f64) -> [f64; 3] {
    std::array::from_fn(|i| (factor * covariance[(i, i)]).max(0.0).sqrt())
}
