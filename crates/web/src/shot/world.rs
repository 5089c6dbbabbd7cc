//! The current attempt of a shot, and the artist's world.

use crate::app::App;
use crate::error::{ApiError, Refused};
use parallax_core::camera::Similarity;
use parallax_core::scene::oriented;
use parallax_core::solve::Attempt;
use parallax_store::attempts::KeptAttempt;
use parallax_store::shots::Shot;
use std::sync::Arc;

/// A shot with its current attempt; refused where there is none.
pub async fn current(app: &App, shot: i64) -> Result<(Shot, Arc<KeptAttempt>), ApiError> {
    let shot = app.store.shot(shot).await?;
    let id = shot.state.attempt.ok_or(Refused::NoCamera)?;
    let kept = app.attempt(id).await?;
    Ok((shot, kept))
}

/// From the world of an attempt to the artist's; none where what is picked does not orient it.
pub fn change_of(attempt: &Attempt, shot: &Shot) -> Similarity {
    oriented(attempt, &shot.state.picks).map_or_else(|_| Similarity::identity(), |o| o.change)
}
