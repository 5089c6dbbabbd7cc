//! Delivering, and undistorting plates.

use crate::app::App;
use crate::error::{ApiError, Refused};
use crate::jobs::{JobProgress, Stopped, blocking};
use crate::said::words::several;
use crate::screens::{deliver, photo};
use crate::shot::world::orientation;
use crate::shot::{facts, guests, lens, solving, tracks};
use parallax_formats::undistorted;
use parallax_formats::undistorted::{UndistortError, Undistorting};
use parallax_matching::delivering::Proven;
use parallax_media::Sequence;
use parallax_store::jobs::Job;
use std::path::Path;
use std::sync::Arc;

/// Delivers; a stale solve only where that was asked for, and marked as stale.
pub async fn deliver(app: &Arc<App>, job: &Job, stale_too: bool) -> Result<String, Stopped> {
    let shot = app.store.shot(job.shot_id).await?;
    if facts::is_photograph(&shot) {
        let inputs = photo::package::delivery_inputs(&shot);
        let proven = blocking(move || Ok(photo::package::deliver(&shot)?)).await?;
        return keep_delivery(app, job, &inputs, &proven).await;
    }
    let Some(id) = shot.state.attempt else {
        return Err(ApiError::from(Refused::NoCamera).into());
    };
    let kept = app.attempt(id).await?;
    let all = tracks::of(app, &shot).await?;
    let inputs = deliver::package::delivery_inputs(&shot);
    let stale = solving::stale_since(&shot, &kept, &all);
    if !(stale.is_empty() || stale_too) {
        return Err(ApiError::from(Refused::Stale { reasons: stale }).into());
    }
    let tracks = all.all(&shot.state);
    let orientation = orientation(app, &shot, &kept).await?;
    let guests = guests::delivered(app, &shot, &kept, &orientation).await?;
    let proven = blocking(move || {
        Ok(deliver::package::deliver(
            &shot,
            &kept.attempt,
            &tracks,
            guests,
            stale,
        )?)
    })
    .await?;
    keep_delivery(app, job, &inputs, &proven).await
}

pub async fn undistort(
    app: &Arc<App>,
    job: &Job,
    progress: Arc<JobProgress>,
) -> Result<String, Stopped> {
    let shot = app.store.shot(job.shot_id).await?;
    let attempt = match shot.state.attempt {
        Some(id) => Some(app.attempt(id).await?),
        None => None,
    };
    let attempt = attempt.as_ref().map(|a| &a.attempt);
    let (frame, file) = (lens::frame(&shot, attempt)?, lens::file(&shot, attempt)?);
    let inputs = lens::undistorted_inputs(&shot, attempt);
    // One folder for the same inputs: what was broken off goes on where it stood.
    let folder = app.undistorted(shot.id, &inputs);
    let (to, kind) = (folder.clone(), shot.state.written);
    let files = app.files(&shot).await?;
    let (written, receipt) = blocking(move || {
        let sequence = Sequence::of_files(Path::new(&shot.folder), files.to_vec());
        let plate = facts::plate(&shot, &files)?;
        let renumbered_by = facts::renumbered_by(&shot);
        let (sequence, plate, frame, lens) = (&sequence, &plate, &frame, &file);
        let what = Undistorting {
            sequence,
            plate,
            frame,
            lens,
            kind,
            rate: shot.state.rate,
            renumbered_by,
        };
        undistorted::deliver(&what, &to, progress.as_ref()).map_err(|e| match e {
            UndistortError::Cancelled { .. } => Stopped::Cancelled(e.to_string()),
            other => Stopped::Failed(other.to_string()),
        })
    })
    .await?;
    let text = serde_json::to_string(&receipt)?;
    app.store
        .keep_undistortion(job.shot_id, &inputs, &folder.display().to_string(), &text)
        .await?;
    let (clearing, shot_id) = (Arc::clone(app), job.shot_id);
    blocking(move || {
        clearing.clear_undistorted(shot_id);
        Ok(())
    })
    .await?;
    let word = if receipt.proven {
        "undistorted and proven"
    } else {
        "undistorted, but not proven"
    };
    let again = receipt.frames - written;
    let kept = if again > 0 {
        format!(", {again} of them were there already")
    } else {
        String::new()
    };
    let frames = several(receipt.frames, "frame", "frames");
    Ok(format!("{frames} {word}{kept}"))
}

async fn keep_delivery(
    app: &Arc<App>,
    job: &Job,
    inputs: &str,
    proven: &Proven,
) -> Result<String, Stopped> {
    let receipt = &proven.receipt;
    let text = serde_json::to_string(receipt)?;
    let package = proven.package().map_err(ApiError::from)?;
    app.store
        .keep_delivery(job.shot_id, inputs, &text, &package)
        .await?;
    let word = match (receipt.stale.is_empty(), receipt.files_agree) {
        (true, true) => "delivered; the files agree with the solve",
        (true, false) => "delivered, but the files do not agree with the solve",
        (false, _) => "delivered as stale",
    };
    Ok(format!(
        "{word} ({:.5} px at most)",
        receipt.largest_difference_px
    ))
}
