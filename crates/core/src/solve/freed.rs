//! What do unknowns gain that a finished solve did not have?

use super::SolveOptions;
use super::bundle::Loss;
use super::views::Views;
use super::world::World;
use crate::progress::Progress;

/// Steps in which they show it.
const STEPS: (usize, f64) = (24, 1e-4);

/// A finished solve that is asked.
#[derive(Clone, Copy)]
pub struct Finished<'a> {
    /// The tracks.
    pub views: &'a Views,
    /// What was stated.
    pub options: &'a SolveOptions,
    /// What was solved.
    pub world: &'a World,
    /// The loss at the end.
    pub loss: Loss,
    /// How large residuals are against what tracks say ([`super::bundle::covariance`]).
    pub variance_factor: f64,
    /// Hears of the steps.
    pub progress: &'a dyn Progress,
}

impl Finished<'_> {
    /// Adjusts briefly a world with more unknowns. Twice the fall of the cost by the variance factor of the residuals:
    /// what the unknowns that were set free gain (Wilks 1938).
    pub fn gain(&self, freed: &mut World) -> f64 {
        let Self {
            views,
            loss,
            progress,
            ..
        } = *self;
        let report = freed.adjust(views, loss, STEPS, progress);
        2.0 * (report.first_cost - report.last_cost) / self.variance_factor
    }
}
