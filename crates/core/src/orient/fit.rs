//! The fit of all statements together, and how certain it is.
//!
//! Rows are weighed by the inverse of their covariance `J Σ Jᵀ + D` (generalised least squares): Σ that of the
//! landmarks and cameras on which they rest, each by itself, D that of the statements themselves. How flat a plane is its
//! own features have said before ([`super::flat`]), so that nothing here explains a contradiction away.
//!
//! How certain the outcome is rests on what errors of landmarks have in common as well, where that is known: with
//! the estimate `G = (AᵀWA)⁻¹AᵀW` it is `G (J Σ' Jᵀ + D) Gᵀ`, Σ' being their joint covariance. The world itself does
//! not depend on whether it is known.

use super::measure::Row;
use super::model::Model;
use super::solved::Solved;
use super::unknowns::Unknowns;
use crate::damped::{Damping, Gained, Rule, Tried, descended};
use crate::spaces::TrackId;
use nalgebra::{Cholesky, DMatrix, DVector, Dyn, Matrix3, SymmetricEigen, Vector3};

/// What came out.
pub struct Fitted {
    /// The unknowns.
    pub unknowns: Unknowns,
    /// Their covariance, zero for what nothing is said of.
    pub covariance: DMatrix<f64>,
    /// Whether each is determined.
    pub is_known: Vec<bool>,
    /// What each row is off.
    pub off: Vec<f64>,
    /// The same in standard errors of the row.
    pub errors: Vec<f64>,
}

/// Weights follow the place so many times.
const ROUNDS: usize = 3;
/// Directions of the unknowns with less than this share of the best information are not determined.
const UNKNOWN_SHARE: f64 = 1e-10;

/// Fits a model that has begun.
pub fn fit(solved: &Solved<'_>, model: &Model) -> Fitted {
    let alone = Spread::alone(solved, model);
    let mut unknowns = model.start.clone();
    let mut weights = Weights::of(model, &alone, &unknowns);
    for _ in 0..ROUNDS {
        unknowns = descend(model, unknowns, &weights);
        weights = Weights::of(model, &alone, &unknowns);
    }
    let off = values(model, &unknowns);
    let errors = weights.errors(&off);
    let in_common = Spread::together(solved, model)
        .map(|together| of_spots(model, &together, &unknowns) - of_spots(model, &alone, &unknowns));
    let (covariance, is_known) = certainty(model, &unknowns, &weights, &off, in_common);
    Fitted {
        unknowns,
        covariance,
        is_known,
        off,
        errors,
    }
}

fn values(model: &Model, unknowns: &Unknowns) -> Vec<f64> {
    let of = |row: &Row| model.value(unknowns, &model.spots, &row.measure);
    model.rows.iter().map(of).collect()
}

/// Covariance of all spots.
enum Spread {
    Together(DMatrix<f64>),
    Alone(Vec<Matrix3<f64>>),
}

impl Spread {
    fn alone(solved: &Solved<'_>, model: &Model) -> Self {
        let mut alone = vec![Matrix3::zeros(); model.spots.len()];
        for (track, spot) in &model.features {
            alone[*spot] = solved.covariance(*track);
        }
        for (spot, covariance) in &model.others {
            alone[*spot] = *covariance;
        }
        Self::Alone(alone)
    }

    /// What features have in common; `None` where that is not known.
    fn together(solved: &Solved<'_>, model: &Model) -> Option<Self> {
        let mut features: Vec<(TrackId, usize)> =
            model.features.iter().map(|(t, s)| (*t, *s)).collect();
        features.sort_unstable();
        let tracks: Vec<TrackId> = features.iter().map(|(track, _)| *track).collect();
        let joint = solved.together?.covariance(&tracks)?;
        let mut all = DMatrix::zeros(3 * model.spots.len(), 3 * model.spots.len());
        for (spot, own) in &model.others {
            let mut block = all.fixed_view_mut::<3, 3>(3 * spot, 3 * spot);
            block.copy_from(own);
        }
        for (i, (_, a)) in features.iter().enumerate() {
            for (j, (_, b)) in features.iter().enumerate() {
                let block = joint.fixed_view::<3, 3>(3 * i, 3 * j);
                all.fixed_view_mut::<3, 3>(3 * a, 3 * b).copy_from(&block);
            }
        }
        Some(Self::Together(all))
    }

    fn between(&self, a: usize, b: usize) -> Option<Matrix3<f64>> {
        match self {
            Self::Together(all) => Some(all.fixed_view::<3, 3>(3 * a, 3 * b).into_owned()),
            Self::Alone(alone) => (a == b).then(|| alone[a]),
        }
    }
}

/// The joint covariance of all rows, factored.
struct Weights {
    factor: Cholesky<f64, Dyn>,
    sigmas: Vec<f64>,
}

impl Weights {
    fn of(model: &Model, spread: &Spread, unknowns: &Unknowns) -> Self {
        let mut covariance = of_spots(model, spread, unknowns);
        let count = model.rows.len();
        for (i, row) in model.rows.iter().enumerate() {
            covariance[(i, i)] += model.own_variance(unknowns, row);
        }
        let sigmas = covariance.diagonal().iter().map(|v| v.sqrt()).collect();
        for (i, row) in model.rows.iter().enumerate() {
            covariance[(i, i)] *= row.crowd;
        }
        let mut slight = 1e-12;
        let factor = loop {
            let mut firm = covariance.clone();
            (0..count).for_each(|i| firm[(i, i)] *= 1.0 + slight);
            match Cholesky::new(firm) {
                Some(factor) => break factor,
                // Rounding: rows that rest on the same places.
                None if slight < 1.0 => slight *= 100.0,
                None => {
                    let alone = DMatrix::from_diagonal(
                        &covariance.diagonal().add_scalar(f64::MIN_POSITIVE),
                    );
                    break Cholesky::new_unchecked(alone);
                }
            }
        };
        Self { factor, sigmas }
    }

    fn errors(&self, off: &[f64]) -> Vec<f64> {
        off.iter().zip(&self.sigmas).map(|(r, s)| r / s).collect()
    }

    fn whitened(&self, mut matrix: DMatrix<f64>) -> DMatrix<f64> {
        self.factor
            .l_dirty()
            .solve_lower_triangular_mut(&mut matrix);
        matrix
    }
}

/// Covariance of all rows from that of the spots that they rest on.
fn of_spots(model: &Model, spread: &Spread, unknowns: &Unknowns) -> DMatrix<f64> {
    let mut spots = model.spots.clone();
    let mut slopes = Vec::with_capacity(model.rows.len());
    for row in &model.rows {
        slopes.push(by_spots(model, unknowns, row, &mut spots));
    }
    let count = model.rows.len();
    let mut covariance = DMatrix::zeros(count, count);
    for i in 0..count {
        for j in 0..=i {
            let mut sum = 0.0;
            for (a, by_a) in &slopes[i] {
                for (b, by_b) in &slopes[j] {
                    if let Some(block) = spread.between(*a, *b) {
                        sum += by_a.dot(&(block * by_b));
                    }
                }
            }
            covariance[(i, j)] = sum;
            covariance[(j, i)] = sum;
        }
    }
    covariance
}

/// Derivatives of a row by the spots that it rests on.
fn by_spots(
    model: &Model,
    unknowns: &Unknowns,
    row: &Row,
    spots: &mut [Vector3<f64>],
) -> Vec<(usize, Vector3<f64>)> {
    let of = |spots: &[Vector3<f64>]| model.value(unknowns, spots, &row.measure);
    let one = |spot: usize| {
        let at = spots[spot];
        let small = 1e-6 * (1.0 + at.norm());
        let slope = Vector3::from_fn(|axis, _| {
            spots[spot] = at + Vector3::ith(axis, small);
            let more = of(spots);
            spots[spot] = at - Vector3::ith(axis, small);
            let less = of(spots);
            (more - less) / (2.0 * small)
        });
        spots[spot] = at;
        (spot, slope)
    };
    model.spots_of(&row.measure).into_iter().map(one).collect()
}

/// Derivatives of all rows by the unknowns.
fn by_unknowns(model: &Model, unknowns: &Unknowns) -> DMatrix<f64> {
    let size = unknowns.size();
    let mut slopes = DMatrix::zeros(model.rows.len(), size);
    let mut step = vec![0.0; size];
    for column in 0..size {
        const SMALL: f64 = 1e-6;
        step[column] = SMALL;
        let more = values(model, &unknowns.stepped(&step));
        step[column] = -SMALL;
        let less = values(model, &unknowns.stepped(&step));
        step[column] = 0.0;
        for (row, (more, less)) in more.iter().zip(&less).enumerate() {
            slopes[(row, column)] = (more - less) / (2.0 * SMALL);
        }
    }
    slopes
}

fn cost(weights: &Weights, off: &[f64]) -> f64 {
    weights
        .whitened(DMatrix::from_column_slice(off.len(), 1, off))
        .norm_squared()
}

fn descend(model: &Model, start: Unknowns, weights: &Weights) -> Unknowns {
    let damping = Damping {
        first: 1e-3,
        rule: Rule::Factors {
            less: 0.1,
            more: 10.0,
        },
        least: 1e-12,
        most: 1e9,
    };
    let first = cost(weights, &values(model, &start));
    let step = |at: &Unknowns, damping: f64| {
        let slopes = weights.whitened(by_unknowns(model, at));
        let off = values(model, at);
        let off = weights.whitened(DMatrix::from_column_slice(off.len(), 1, &off));
        let mut normal = slopes.tr_mul(&slopes);
        let most = normal.diagonal().max();
        for i in 0..normal.nrows() {
            normal[(i, i)] += damping * normal[(i, i)] + 1e-12 * most + f64::MIN_POSITIVE;
        }
        let step = -Cholesky::new(normal)?.solve(&slopes.tr_mul(&off));
        let next = at.stepped(step.as_slice());
        let cost = cost(weights, &values(model, &next));
        Some(Tried {
            at: next,
            cost,
            length: step.norm(),
            foreseen: f64::INFINITY,
        })
    };
    let is_enough = |gained: Gained| gained.by < 1e-9 * (gained.cost + gained.by) + 1e-15;
    descended(start, first, 60, damping, step, is_enough).0
}

/// Covariance of the unknowns, and which of them are determined. Where more is left than errors explain they are so
/// much larger. `in_common` is by how much the rows' covariance differs for what errors have in common.
fn certainty(
    model: &Model,
    unknowns: &Unknowns,
    weights: &Weights,
    off: &[f64],
    in_common: Option<DMatrix<f64>>,
) -> (DMatrix<f64>, Vec<bool>) {
    let slopes = weights.whitened(by_unknowns(model, unknowns));
    let (inverse, is_known, rank) = pseudo_inverse(&slopes.tr_mul(&slopes));
    let spare = off.len().saturating_sub(rank);
    let factor = match spare {
        0 => 1.0,
        _ => (cost(weights, off) / spare as f64).max(1.0),
    };
    let mut covariance = &inverse * factor;
    if let Some(in_common) = in_common {
        // G L = (AᵀWA)⁻¹ (L⁻¹A)ᵀ, with W = (L Lᵀ)⁻¹.
        let gain = &inverse * slopes.transpose();
        let half = weights.whitened(in_common).transpose();
        covariance += &gain * weights.whitened(half) * gain.transpose();
    }
    (covariance, is_known)
}

/// The inverse of a normal matrix over what it determines, which unknowns those are, and how many.
fn pseudo_inverse(normal: &DMatrix<f64>) -> (DMatrix<f64>, Vec<bool>, usize) {
    let size = normal.nrows();
    let lengths = DVector::from_fn(size, |i, _| normal[(i, i)].max(0.0).sqrt());
    let most = lengths.max();
    let heard = |i: usize| lengths[i] > 1e-9 * most;
    // As many units of each as it is known to.
    let scaled = |matrix: &DMatrix<f64>| {
        DMatrix::from_fn(size, size, |i, j| match heard(i) && heard(j) {
            true => matrix[(i, j)] / (lengths[i] * lengths[j]),
            false => 0.0,
        })
    };
    let eigen = SymmetricEigen::new(scaled(normal));
    let greatest = eigen.eigenvalues.max();
    let mut inverse = DMatrix::zeros(size, size);
    let mut missing = DVector::zeros(size);
    let mut rank = 0;
    for (k, value) in eigen.eigenvalues.iter().enumerate() {
        let vector = eigen.eigenvectors.column(k);
        if *value > UNKNOWN_SHARE * greatest && *value > 0.0 {
            inverse += vector * vector.transpose() / *value;
            rank += 1;
        } else {
            missing += vector.component_mul(&vector);
        }
    }
    let is_known = (0..size).map(|i| heard(i) && missing[i] < 1e-6).collect();
    (scaled(&inverse), is_known, rank)
}
