//! The undistorted plate that goes along with a delivery.

use crate::app::App;
use crate::error::{ApiError, Refused};
use crate::shot::lens;
use parallax_core::solve::Attempt;
use parallax_formats::delivery::Recipe;
use parallax_formats::undistorted::UndistortReceipt;
use parallax_matching::delivering::undistorts;
use parallax_store::jobs::JobKind;
use parallax_store::shots::Shot;
use std::path::PathBuf;

/// Where it is, with its proof; or why none goes along.
pub type Plate = Result<(PathBuf, UndistortReceipt), String>;

/// What it is made from; why none goes along.
fn wanted(shot: &Shot, attempt: Option<&Attempt>) -> Result<String, String> {
    undistorts(lens::of_plate(shot, attempt))?;
    Ok(lens::undistorted_inputs(shot, attempt))
}

/// The one that is there and is made from that.
async fn there(
    app: &App,
    shot: &Shot,
    inputs: &str,
) -> Result<Option<(PathBuf, UndistortReceipt)>, ApiError> {
    let Some(id) = shot.state.undistorted else {
        return Ok(None);
    };
    let kept = app.store.undistortion(shot.id, id).await?;
    let folder = PathBuf::from(&kept.folder);
    let receipt = serde_json::from_str(&kept.receipt).ok();
    let is_there = kept.inputs == inputs && folder.is_dir();
    Ok(receipt.filter(|_| is_there).map(|r| (folder, r)))
}

/// Has it made before a delivery by a recipe that asks for it, where it is not there.
pub async fn queue(app: &App, shot: i64, recipe: u32) -> Result<(), ApiError> {
    let shot = app.store.shot(shot).await?;
    let asked = shot.state.recipes.iter();
    let asked = asked.filter(|r| recipe == 0 || r.id == recipe);
    if !asked.take(1).any(|r| r.undistorted) {
        return Ok(());
    }
    let attempt = match shot.state.attempt {
        Some(id) => Some(app.attempt(id).await?),
        None => None,
    };
    let Ok(inputs) = wanted(&shot, attempt.as_ref().map(|a| &a.attempt)) else {
        return Ok(());
    };
    if there(app, &shot, &inputs).await?.is_none() {
        app.store
            .add_job_about(shot.id, JobKind::Undistort, recipe)
            .await?;
    }
    Ok(())
}

/// What goes along by a recipe; `None` where it does not ask. Refused where it was not made.
pub async fn at_hand(
    app: &App,
    shot: &Shot,
    attempt: Option<&Attempt>,
    recipe: &Recipe,
) -> Result<Option<Plate>, ApiError> {
    if !recipe.undistorted {
        return Ok(None);
    }
    let inputs = match wanted(shot, attempt) {
        Ok(inputs) => inputs,
        Err(why) => return Ok(Some(Err(why))),
    };
    let found = there(app, shot, &inputs).await?;
    Ok(Some(Ok(found.ok_or(Refused::NoUndistorted)?)))
}
