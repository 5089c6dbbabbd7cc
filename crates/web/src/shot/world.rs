//! The current attempt of a shot, and the artist's world.

use crate::app::App;
use crate::error::{ApiError, Refused};
use crate::shot::solving::solving;
use crate::shot::tracks::ShotTracks;
use parallax_core::orient::{Orientation, Together, oriented};
use parallax_core::slip::Joint;
use parallax_core::solve::Attempt;
use parallax_core::solve::information::{Information, SolvedShot};
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

/// The same with where the artist's world lies.
pub async fn current_world(
    app: &App,
    shot: i64,
) -> Result<(Shot, Arc<KeptAttempt>, Arc<Orientation>), ApiError> {
    let (shot, kept) = current(app, shot).await?;
    let orientation = orientation(app, &shot, &kept).await?;
    Ok((shot, kept, orientation))
}

/// Where the world of an attempt lies by what is stated.
pub fn orientation_of(attempt: &Attempt, shot: &Shot) -> Orientation {
    oriented(attempt, &shot.state.stated(), None)
}

/// The same as it is shown again and again: found once for an attempt and what is stated.
pub async fn orientation(
    app: &App,
    shot: &Shot,
    kept: &Arc<KeptAttempt>,
) -> Result<Arc<Orientation>, ApiError> {
    stated_world(app, shot, kept, Arc::new(None), "").await
}

/// The same with errors from all that was solved together.
pub async fn certain_orientation(
    app: &App,
    shot: &Shot,
    kept: &Arc<KeptAttempt>,
    tracks: &ShotTracks,
) -> Result<Arc<Orientation>, ApiError> {
    if shot.state.stated().is_empty() {
        return orientation(app, shot, kept).await;
    }
    let information = information(app, shot, kept, tracks).await?;
    stated_world(app, shot, kept, information, &tracks.fingerprint(shot)).await
}

async fn stated_world(
    app: &App,
    shot: &Shot,
    kept: &Arc<KeptAttempt>,
    information: Arc<Option<Information>>,
    tracks: &str,
) -> Result<Arc<Orientation>, ApiError> {
    let stated = shot.state.stated();
    let key = (kept.id, serde_json::to_string(&(&stated, tracks))?);
    if let Some(found) = app.orientations.get(key.clone()) {
        return Ok(found);
    }
    let kept = kept.clone();
    let finding = move || {
        let together = Option::as_ref(&information).map(|i| i as &dyn Together);
        oriented(&kept.attempt, &stated, together)
    };
    let found = Arc::new(tokio::task::spawn_blocking(finding).await?);
    app.orientations.put(key, found.clone());
    Ok(found)
}

/// The normal equations of an attempt with the tracks that there are, made once; `None` where these do not
/// determine it.
pub async fn information(
    app: &App,
    shot: &Shot,
    kept: &Arc<KeptAttempt>,
    tracks: &ShotTracks,
) -> Result<Arc<Option<Information>>, ApiError> {
    let key = key(shot, tracks);
    if let Some(made) = app.informations.get(key.clone()) {
        return Ok(made);
    }
    let about = solving(shot).focal_about_px();
    let all = tracks.all(&shot.state);
    let kept = kept.clone();
    let making = move || {
        let solved = SolvedShot::of_attempt(&kept.attempt, about);
        Information::of(&solved, &all)
    };
    let made = Arc::new(tokio::task::spawn_blocking(making).await?);
    app.informations.put(key, made.clone());
    Ok(made)
}

/// What an attempt's equations depend on: which it is, and the tracks.
fn key(shot: &Shot, tracks: &ShotTracks) -> (i64, String) {
    let attempt = shot.state.attempt.unwrap_or_default();
    (attempt, tracks.fingerprint(shot))
}

/// Cameras and lens of an attempt with their joint covariance, made once.
pub async fn joint(
    app: &App,
    shot: &Shot,
    kept: &Arc<KeptAttempt>,
    tracks: &ShotTracks,
) -> Result<Arc<Option<Joint>>, ApiError> {
    let key = key(shot, tracks);
    if let Some(made) = app.joints.get(key.clone()) {
        return Ok(made);
    }
    let information = information(app, shot, kept, tracks).await?;
    let making = move || Option::as_ref(&information).and_then(Joint::of);
    let made = Arc::new(tokio::task::spawn_blocking(making).await?);
    app.joints.put(key, made.clone());
    Ok(made)
}
