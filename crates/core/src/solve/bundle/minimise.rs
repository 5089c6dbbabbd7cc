//! Which cameras, lens and landmarks make the cost of all residuals least, from where they are?
//!
//! Levenberg-Marquardt over a [`Problem`] (Marquardt 1963; damping after Nielsen 1999; the loop is
//! [`crate::damped`]'s): N
//! cameras of six unknowns, what they share of the lens, M landmarks of three, which each step
//! eliminates first ([`super::reduced`]). Residuals are whitened by the covariances of their tracks,
//! so the cost is half a sum of squares without unit, under the [`Loss`] that is asked for.
//!
//! Preconditions: every landmark lies before the cameras that see it, and starts are near enough
//! for the linear model; [`super::super::grow`] sees to both. The cost never rises. A problem
//! without observations, or whose matrix cannot be factored at any damping, is left as it was and
//! says [`Stop::NoDescent`]. Only the damping holds the seven freedoms that no observation tells;
//! [`super::covariance`] fixes them to state errors.

use super::coupling::Group;
use super::normal::Linearisation;
use super::reduced::Structure;
use super::{Loss, Problem};
pub use crate::damped::Stop;
use crate::damped::{Damping, Descent, Gained, Rule, Tried, descend};
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

/// The adjustment as the common loop sees it.
struct Adjusting<'a> {
    settings: &'a Settings,
    structure: Structure,
    /// At the place where the last step started, made when one is tried; none before the first.
    linearisation: Option<Linearisation>,
    /// Whether that is where the next one starts.
    is_there: bool,
    groups: Vec<Group>,
    progress: &'a dyn Progress,
}

impl Descent for Adjusting<'_> {
    type At = Problem;

    fn step(&mut self, at: &Problem, damping: f64) -> Option<Tried<Problem>> {
        let loss = self.settings.loss;
        let is_there = std::mem::replace(&mut self.is_there, true);
        let linearisation = match &mut self.linearisation {
            Some(before) if !is_there => {
                before.again(at, loss);
                before
            }
            linearisation => linearisation.get_or_insert_with(|| Linearisation::at(at, loss)),
        };
        let groups = &mut self.groups;
        let (system, eliminated) = linearisation.reduce(at, &self.structure, damping, groups);
        let solved = self.structure.solve(&system)?;
        let step = linearisation.substitute(at, &eliminated, solved.cameras, solved.shared);
        let foreseen = linearisation.expected_decrease(at, &step);
        let next = at.stepped(&step);
        Some(Tried {
            cost: next.cost(loss),
            at: next,
            length: 0.0,
            foreseen,
        })
    }

    fn is_enough(&mut self, gained: &Gained) -> bool {
        let before = (gained.cost + gained.by).max(f64::MIN_POSITIVE);
        gained.by / before < self.settings.least_decrease
    }

    fn least(&self, cost: f64) -> f64 {
        self.settings.least_decrease * cost
    }

    fn moved(&mut self, _at: &Problem, cost: f64) -> f64 {
        self.is_there = false;
        cost
    }

    fn is_cancelled(&self) -> bool {
        self.progress.is_cancelled()
    }
}

/// Improves the problem in place; asks before each step whether to go on, and reports nothing.
pub fn minimise(problem: &mut Problem, settings: &Settings, progress: &dyn Progress) -> Report {
    let first_cost = problem.cost(settings.loss);
    let mut adjusting = Adjusting {
        settings,
        structure: Structure::of(problem),
        linearisation: None,
        is_there: false,
        groups: Vec::new(),
        progress,
    };
    let damping = Damping {
        first: settings.damping,
        rule: Rule::Foreseen,
        least: 1e-12,
        most: MOST_DAMPING,
    };
    let done = descend(
        &mut adjusting,
        problem.clone(),
        first_cost,
        settings.most_iterations,
        &damping,
    );
    *problem = done.at;
    Report {
        stop: done.stop,
        iterations: done.iterations,
        first_cost,
        last_cost: done.cost,
    }
}
