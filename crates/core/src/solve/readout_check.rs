//! Is the picture read row by row?
//!
//! With a rolling shutter what a shaking camera sees is sheared and stretched by how fast it turns, and a
//! solve that takes rows for exposed at once leaves that as residuals and bends the path. So a solve that is
//! nearly done is adjusted once more, briefly, with the read-out time free. It is believed where it is many
//! of its own standard errors long ([`super::bundle::covariance`]) and no longer than a frame.

use super::bundle::Loss;
use super::bundle::covariance::shared_sigmas;
use super::views::Views;
use super::world::World;
use crate::progress::Progress;

/// Standard errors by which it has to differ from none.
const LEAST_SIGMAS: f64 = 8.0;
/// Shorter ones matter nowhere, frames.
const SHORTEST: f64 = 0.02;
/// Nothing is read for longer, frames.
const LONGEST: f64 = 1.0;
/// Steps in which it shows.
const STEPS: (usize, f64) = (10, 1e-4);

/// The world with a read-out time where one is evident.
pub fn evident(views: &Views, world: &World, loss: Loss, progress: &dyn Progress) -> Option<World> {
    let mut freed = world.clone();
    freed.readout = Some(0.0);
    freed.free.readout = true;
    freed.adjust(views, loss, STEPS, progress);
    is_evident(views, &freed, loss).then_some(freed)
}

/// Whether the read-out time of a world in which it was free is more than chance.
pub fn is_evident(views: &Views, world: &World, loss: Loss) -> bool {
    let Some(readout) = world.readout else {
        return false;
    };
    let (problem, _) = world.problem(views);
    let last = problem.free.count() - 1;
    let sigma = || shared_sigmas(&problem, loss).map(|sigmas| sigmas[last]);
    (SHORTEST..LONGEST).contains(&readout)
        && sigma().is_some_and(|sigma| readout > LEAST_SIGMAS * sigma)
}
