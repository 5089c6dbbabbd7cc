//! Which cameras, lens and landmarks make the cost of all residuals least, from where they are?
//!
//! The Levenberg-Marquardt loop over a [`Problem`] (Marquardt 1963; damping after Nielsen 1999): N
//! cameras of six unknowns, what they share of the lens, M landmarks of three, which each step
//! eliminates first ([`super::reduced`]). Residuals are whitened by the covariances of their tracks,
//! so the cost is half a sum of squares without unit, under the [`Loss`] that is asked for.
//!
//! Preconditions: every landmark lies before the cameras that see it, and starts are near enough
//! for the linear model; [`super::super::grow`] sees to both. The cost never rises. A problem
//! without observations, or whose matrix cannot be factored at any damping, is left as it was and
//! says [`Stop::NoDescent`]. Only the damping holds the seven freedoms that no observation tells;
//! [`super::covariance`] fixes them to state errors.

use super::normal::Linearisation;
use super::reduced::Structure;
use super::{Loss, Problem};
use crate::progress::Progress;

/// When to stop, and how residuals count.
#[derive(Clone, Copy, Debug)]
pub struct Settings {
    /// How residuals count.
    pub loss: Loss,
    /// Most steps that are tried.
    pub most_iterations: usize,
    /// Stop when a step lowers the cost by less than this share.
    pub least_decrease: f64,
    /// Damping to start with.
    pub damping: f64,
}

impl Default for Settings {
    fn default() -> Self {
        Self {
            loss: Loss::Squares,
            most_iterations: 30,
            least_decrease: 1e-6,
            damping: 1e-4,
        }
    }
}

/// Why it stopped.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stop {
    /// Further steps gain nothing.
    Converged,
    /// The allowed number of steps was used up.
    IterationsUsed,
    /// No step lowers the cost any more although the last one did: numerically at the end.
    NoDescent,
    /// It was told to; the problem is as the last good step left it.
    Cancelled,
}

/// What was done.
#[derive(Clone, Copy, Debug)]
pub struct Report {
    /// Why it stopped.
    pub stop: Stop,
    /// Steps tried.
    pub iterations: usize,
    /// Cost before.
    pub first_cost: f64,
    /// Cost after.
    pub last_cost: f64,
}

/// Beyond this damping a step is too short to matter.
const MOST_DAMPING: f64 = 1e12;

/// Improves the problem in place; asks before each step whether to go on, and reports nothing.
pub fn minimise(problem: &mut Problem, settings: &Settings, progress: &dyn Progress) -> Report {
    let first_cost = problem.cost(settings.loss);
    let report = |stop, iterations, last_cost| Report {
        stop,
        iterations,
        first_cost,
        last_cost,
    };
    let Some(structure) = Structure::of(problem) else {
        return report(Stop::NoDescent, 0, first_cost);
    };
    let mut cost = first_cost;
    let mut damping = settings.damping;
    let mut growth = 2.0;
    let mut linearisation = Linearisation::at(problem, settings.loss);
    for iteration in 1..=settings.most_iterations {
        if progress.is_cancelled() {
            return report(Stop::Cancelled, iteration - 1, cost);
        }
        let Some((next, expected)) = trial(problem, &linearisation, &structure, damping) else {
            damping *= growth * 4.0;
            growth *= 2.0;
            if damping > MOST_DAMPING {
                return report(Stop::NoDescent, iteration, cost);
            }
            continue;
        };
        let next_cost = next.cost(settings.loss);
        let gained = cost - next_cost;
        if gained > 0.0 {
            let share = gained / cost.max(f64::MIN_POSITIVE);
            let ratio = gained / expected.max(f64::MIN_POSITIVE);
            damping = (damping * (1.0 - (2.0 * ratio.min(1.5) - 1.0).powi(3)).max(0.1)).max(1e-12);
            growth = 2.0;
            *problem = next;
            cost = next_cost;
            if share < settings.least_decrease {
                return report(Stop::Converged, iteration, cost);
            }
            linearisation = Linearisation::at(problem, settings.loss);
        } else {
            if expected < settings.least_decrease * cost {
                return report(Stop::Converged, iteration, cost);
            }
            damping *= growth;
            growth *= 2.0;
            if damping > MOST_DAMPING {
                return report(Stop::NoDescent, iteration, cost);
            }
        }
    }
    report(Stop::IterationsUsed, settings.most_iterations, cost)
}

/// The problem after one damped step, with the decrease that the linear model expects.
fn trial(
    problem: &Problem,
    linearisation: &Linearisation,
    structure: &Structure,
    damping: f64,
) -> Option<(Problem, f64)> {
    let (system, eliminated) = linearisation.reduce(problem, structure, damping);
    let solved = structure.solve(&system)?;
    let step = linearisation.substitute(problem, &eliminated, solved.cameras, solved.shared);
    let expected = linearisation.expected_decrease(problem, &step);
    Some((problem.stepped(&step), expected))
}
