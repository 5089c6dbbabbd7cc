//! What do unknowns gain that a finished solve did not have?

use super::bundle::Loss;
use super::views::Views;
use super::world::World;
use crate::progress::Progress;

/// Steps in which they show it.
const STEPS: (usize, f64) = (8, 1e-4);

impl World {
    /// Adjusts briefly what was solved with fewer unknowns, as `held`. Twice the fall of the cost by the variance
    /// factor of the residuals: what the unknowns that were set free gain (Wilks 1938).
    pub fn likelihood_ratio(
        &mut self,
        views: &Views,
        loss: Loss,
        (held, variance_factor): (&World, f64),
        progress: &dyn Progress,
    ) -> f64 {
        let report = self.adjust(views, loss, STEPS, progress);
        // Paths of rows are made anew, which gains something by itself.
        let without = match held.readout {
            Some(_) => held.clone().adjust(views, loss, STEPS, progress).last_cost,
            None => report.first_cost,
        };
        2.0 * (without - report.last_cost) / variance_factor
    }
}
