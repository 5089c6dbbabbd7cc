//! How certain are the adjusted cameras, lens and landmarks?
//!
//! At the minimum, with U (cameras and lens), V (landmarks) and W of the normal matrix, the
//! reduced matrix is S = U - W V⁻¹ Wᵀ. Its inverse is the covariance of cameras and lens, that
//! of a landmark is `V⁻¹ + Yᵀ S⁻¹ Y` with Y = W V⁻¹ (Triggs et al. 2000, section 9). Only those
//! blocks of S⁻¹ are made that this needs ([`super::selected_inverse`]), so that a long shot
//! is as exact as a short one.
//!
//! The gauge is fixed for this: the first camera does not move, and the camera farthest from it
//! keeps its distance along the axis in which it is farthest, unless lengths say how large the world
//! is. All is scaled by the variance
//! factor of the residuals, not below a half (in what a solve states of itself not below 1, so that optimistic track
//! covariances do not make it look better than it is), and by the loss of independence along the tracks: errors
//! of a feature on neighbouring frames are alike, so that its positions count for fewer. With the
//! lag-one correlation ρ of the residuals that factor is (1 + ρ) / (1 - ρ), the effective sample
//! size of a first-order autoregression (Bartlett 1946).
//!
//! Fails where the evidence does not determine all unknowns; nothing that is not finite is stated.

use super::normal::{Eliminated, Linearisation, PointCoupling};
use super::reduced::{ReducedStep, Structure};
use super::relative::{self, Relative};
use super::selected_inverse::{Reader, SelectedInverse};
use super::{FOCAL, Loss, MOST_SHARED, Problem, Step};
use faer::sparse::SparseColMat;
use nalgebra::{DMatrix, Matrix3, Matrix6};
use rayon::prelude::*;

/// Standard errors and covariances in the fixed gauge.
#[derive(Clone, Debug)]
pub struct Certainty {
    /// Standard error of the shared unknowns (focal_px, k1, k2 as far as free).
    pub shared: [f64; MOST_SHARED],
    /// Covariance of each point along the world's axes, world units squared; `None` where its
    /// rays do not determine it.
    pub points: Vec<Option<Matrix3<f64>>>,
    /// Covariance of each camera's turn (rad) and shift (world units), both in camera space; zero
    /// where they are not free.
    pub cameras: Vec<Matrix6<f64>>,
    /// Standard error of each camera's own focal length, px; empty where it has none.
    pub focals_px: Vec<f64>,
    /// What all unknowns change by when the focal length (the mean of all, where it changes) is off by
    /// one standard error; `None` where it is given.
    pub by_focal: Option<Step>,
    /// Cameras against others, all along.
    pub relative: Vec<Relative>,
    /// Variance factor: 1 when residuals are as large as the tracks' covariances say.
    pub variance_factor: f64,
}

/// A problem's normal equations at a minimum, in the fixed gauge.
pub struct AtRest {
    structure: Structure,
    linearisation: Linearisation,
    eliminated: Eliminated,
    gauge: Gauge,
    matrix: SparseColMat<usize, f64>,
    /// By which covariances are scaled: how large residuals are, and how many neighbours along a track count as one.
    pub factor: f64,
    /// The same with residuals at least as large as tracks say: what verdicts hang on is rather stated too large.
    pub cautious_factor: f64,
}

impl AtRest {
    /// Of a problem; `None` where its gauge cannot be fixed.
    pub fn of(problem: &Problem, loss: Loss) -> Option<Self> {
        let structure = Structure::of(problem);
        let linearisation = Linearisation::at(problem, loss);
        let (system, eliminated) = linearisation.reduce(problem, &structure, 0.0, &mut Vec::new());
        let gauge = Gauge::of(problem, &structure)?;
        let spread = spread(problem, loss);
        let dependence = dependence(&linearisation, problem);
        Some(Self {
            matrix: gauge.fixed(structure.matrix(&system)),
            factor: spread.max(LEAST_SPREAD) * dependence,
            cautious_factor: spread.max(1.0) * dependence,
            structure,
            linearisation,
            eliminated,
            gauge,
        })
    }
}

/// Coefficients of a linear function of cameras and lens: row of the unknown, value.
pub type Functional = Vec<(usize, f64)>;

impl AtRest {
    /// Row of a camera's unknown; `None` where it is not free or held.
    pub fn row(&self, camera: usize, slot: usize) -> Option<usize> {
        let row = self.structure.row(camera, slot)?;
        (!self.gauge.holds(row)).then_some(row)
    }

    /// Row of a shared unknown, counted as [`super::FreeLens::terms`] does.
    pub fn shared_row(&self, at: usize) -> usize {
        self.structure.first_shared() + at
    }

    /// What a point follows of cameras and lens, one functional for each of its coordinates, and its covariance
    /// were these known; `None` where its rays do not determine it.
    pub fn point(
        &self,
        problem: &Problem,
        point: usize,
    ) -> Option<(Matrix3<f64>, [Functional; 3])> {
        let (own, cameras, shared) = self.linearisation.point_coupling(problem, point)?;
        let along = std::array::from_fn(|axis| {
            let of_cameras = cameras.iter().flat_map(|(camera, coupling)| {
                let slots = problem.slots().iter();
                slots.filter_map(move |slot| {
                    Some((self.row(*camera, *slot)?, -coupling[(*slot, axis)]))
                })
            });
            let of_shared =
                (0..problem.free.count()).map(|k| (self.shared_row(k), -shared[(k, axis)]));
            of_cameras.chain(of_shared).collect()
        });
        Some((own, along))
    }

    /// Covariances of functionals with each other, without [`Self::factor`]; `None` where the evidence does not
    /// determine all unknowns.
    pub fn between(&self, functionals: &[Functional]) -> Option<DMatrix<f64>> {
        let count = functionals.len();
        let mut sides = faer::Mat::<f64>::zeros(self.structure.size(), count);
        for (column, functional) in functionals.iter().enumerate() {
            for (row, value) in functional {
                sides[(*row, column)] += value;
            }
        }
        let solved = self.structure.solved(&self.matrix, &sides)?;
        let dot = |i: usize, j: usize| -> f64 {
            let of_i = functionals[i].iter();
            of_i.map(|(row, value)| value * solved[(*row, j)]).sum()
        };
        let all = DMatrix::from_fn(count, count, |i, j| 0.5 * (dot(i, j) + dot(j, i)));
        all.iter().all(|v| v.is_finite()).then_some(all)
    }
}

/// Standard errors of the shared unknowns alone, as [`certainty`] has them.
pub fn shared_sigmas(problem: &Problem, loss: Loss) -> Option<[f64; MOST_SHARED]> {
    let AtRest {
        structure,
        matrix,
        cautious_factor: factor,
        ..
    } = AtRest::of(problem, loss)?;
    let (first, count) = (structure.first_shared(), problem.free.count());
    let mut sides = faer::Mat::<f64>::zeros(structure.size(), count);
    (0..count).for_each(|k| sides[(first + k, k)] = 1.0);
    let solved = structure.solved(&matrix, &sides)?;
    let mut sigmas = [0.0; MOST_SHARED];
    for (k, sigma) in sigmas.iter_mut().enumerate().take(count) {
        *sigma = (factor * solved[(first + k, k)]).sqrt();
    }
    sigmas.iter().all(|s| s.is_finite()).then_some(sigmas)
}

/// Certainty at a minimum; `None` when the evidence does not determine all unknowns.
pub fn certainty(problem: &Problem, loss: Loss) -> Option<Certainty> {
    let AtRest {
        structure,
        linearisation,
        eliminated,
        gauge,
        matrix,
        cautious_factor: factor,
        ..
    } = AtRest::of(problem, loss)?;
    let inverse = SelectedInverse::of(&matrix)?;
    let along_focal = along_focal(problem, &structure, &matrix, factor);
    let held = (&matrix, &gauge);
    let relative = relative::along(problem, &structure, held, factor, along_focal.as_ref())?;
    let by_focal = along_focal.map(|step| {
        linearisation.substitute(problem, &eliminated.at_rest(), step.cameras, step.shared)
    });
    let first_shared = structure.first_shared();
    let mut reader = inverse.reader();
    let mut shared = [0.0; MOST_SHARED];
    for (k, sigma) in shared.iter_mut().enumerate().take(problem.free.count()) {
        *sigma = (factor * reader.block(&[first_shared + k])[(0, 0)]).sqrt();
    }
    let cameras: Vec<Matrix6<f64>> = (0..problem.poses.len())
        .map(|camera| camera_covariance(&mut reader, &structure, &gauge, camera) * factor)
        .collect();
    let own_focals = (0..problem.poses.len()).filter_map(|camera| structure.row(camera, FOCAL));
    let focals_px: Vec<f64> = own_focals
        .map(|row| (factor * reader.block(&[row])[(0, 0)]).sqrt())
        .collect();
    let points = (0..problem.points.len())
        .into_par_iter()
        .with_min_len(16)
        .map_init(
            || inverse.reader(),
            |reader, point| {
                let coupling = linearisation.point_coupling(problem, point)?;
                let covariance =
                    point_covariance(problem, reader, (&structure, &gauge), &coupling) * factor;
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
        .chain(&focals_px)
        .all(|v| v.is_finite());
    (finite && factor.is_finite()).then_some(Certainty {
        shared,
        points,
        cameras,
        focals_px,
        by_focal,
        relative,
        variance_factor: factor,
    })
}

/// The step of cameras and lens that goes with one standard error of the focal length: for a linear
/// functional g of the unknowns it is S⁻¹ g / √(gᵀ S⁻¹ g).
fn along_focal(
    problem: &Problem,
    structure: &Structure,
    matrix: &SparseColMat<usize, f64>,
    factor: f64,
) -> Option<ReducedStep> {
    let own: Vec<usize> = (0..problem.poses.len())
        .filter_map(|camera| structure.row(camera, FOCAL))
        .collect();
    let rows = match (own.is_empty(), problem.free.focal) {
        (false, _) => own,
        (true, true) => vec![structure.first_shared()],
        (true, false) => return None,
    };
    let share = 1.0 / rows.len() as f64;
    let mut side = faer::Mat::<f64>::zeros(structure.size(), 1);
    rows.iter().for_each(|row| side[(*row, 0)] = share);
    let mut step = structure.step_of(matrix, &side)?;
    let variance = match problem.zoom.is_some() {
        true => share * step.cameras.iter().map(|c| c[FOCAL]).sum::<f64>(),
        false => step.shared[0],
    };
    let scale = (factor / variance).sqrt();
    step.cameras.iter_mut().flatten().for_each(|v| *v *= scale);
    step.shared.iter_mut().for_each(|v| *v *= scale);
    scale.is_finite().then_some(step)
}

/// A position of a track is as exact as its own picture and that of its reference together allow. What the reference is
/// off by is common to the track and moves its landmark alone, so that residuals have half the variance that is said
/// of positions. Smaller ones are not believed: what drifts slowly is not seen in them.
const LEAST_SPREAD: f64 = 0.5;

/// The variance of residuals against what tracks say.
fn spread(problem: &Problem, loss: Loss) -> f64 {
    let of_point = if problem.motion.is_on_the_spot() {
        2
    } else {
        3
    };
    let unknowns = problem.slots().len() * problem.poses.len()
        + of_point * problem.points.len()
        + problem.free.count();
    let believed = problem.beliefs_of_cameras().len()
        + 3 * problem.beliefs.anchors.len()
        + problem.beliefs.ties.residuals();
    let redundancy = (2 * problem.observations.len() + believed) as f64 - unknowns as f64;
    2.0 * problem.cost(loss) / redundancy.max(1.0)
}

/// How many neighbouring positions of a track count as one, at least 1.
fn dependence(linearisation: &Linearisation, problem: &Problem) -> f64 {
    let rho = linearisation.lag_one_correlation(problem).clamp(0.0, 0.95);
    (1.0 + rho) / (1.0 - rho)
}

/// The rows of the unknowns that are held while the rest is asked how certain it is: seven, or the
/// turn of the first camera where all only turn, or none where they rest or surveyed points hold the world.
pub(super) struct Gauge(Vec<usize>);

impl Gauge {
    fn of(problem: &Problem, structure: &Structure) -> Option<Self> {
        if problem.beliefs.hold_the_world() {
            return Some(Self(Vec::new()));
        }
        let of_first = |slots: std::ops::Range<usize>| slots.filter_map(|s| structure.row(0, s));
        if problem.motion.is_on_the_spot() {
            return Some(Self(of_first(0..3).collect()));
        }
        let first = problem.poses.first()?.centre();
        let distance = |i: &usize| problem.poses[*i].centre().distance(first);
        let far = (0..problem.poses.len())
            .max_by(|a, b| distance(a).total_cmp(&distance(b)))
            .filter(|far| *far > 0)?;
        let shift = &problem.poses[far].camera_from_world.translation.vector;
        let distance = structure.row(far, 3 + shift.iamax());
        let distance = distance.filter(|_| !problem.beliefs.ties.hold_the_scale());
        Some(Self(of_first(0..6).chain(distance).collect()))
    }

    pub(super) fn holds(&self, row: usize) -> bool {
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

fn camera_covariance(
    reader: &mut Reader<'_>,
    structure: &Structure,
    gauge: &Gauge,
    camera: usize,
) -> Matrix6<f64> {
    let is_unknown = |row: &usize| !gauge.holds(*row);
    let unknown = (0..6).filter_map(|slot| {
        let row = structure.row(camera, slot).filter(is_unknown)?;
        Some((slot, row))
    });
    let (slots, rows): (Vec<usize>, Vec<usize>) = unknown.unzip();
    let block = reader.block(&rows);
    let mut covariance = Matrix6::zeros();
    for (i, row) in slots.iter().enumerate() {
        for (j, column) in slots.iter().enumerate() {
            covariance[(*row, *column)] = block[(i, j)];
        }
    }
    covariance
}

fn point_covariance(
    problem: &Problem,
    reader: &mut Reader<'_>,
    (structure, gauge): (&Structure, &Gauge),
    (own, cameras, shared): &PointCoupling,
) -> Matrix3<f64> {
    let first_shared = structure.first_shared();
    let mut rows = Vec::with_capacity(7 * cameras.len() + MOST_SHARED);
    let mut y = Vec::with_capacity(rows.capacity());
    for (camera, coupling) in cameras {
        for slot in problem.slots() {
            let row = structure.row(*camera, *slot);
            if let Some(row) = row.filter(|row| !gauge.holds(*row)) {
                rows.push(row);
                y.push(coupling.row(*slot).into_owned().into());
            }
        }
    }
    for k in 0..problem.free.count() {
        rows.push(first_shared + k);
        y.push(shared.row(k).into_owned().into());
    }
    own + reader.quadratic(&rows, &y)
}
