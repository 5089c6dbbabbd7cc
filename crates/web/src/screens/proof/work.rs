//! Drawing movies.

use super::movie::path;
use crate::app::App;
use crate::archive::Archive;
use crate::error::{ApiError, Refused};
use crate::jobs::{JobProgress, Stopped, blocking};
use crate::movies;
use crate::said::words::several;
use crate::shot::facts::file_stem;
use crate::shot::guests::proofing;
use crate::shot::world::current;
use crate::shot::{solving, tracks};
use parallax_core::spaces::FrameNumber;
use parallax_matching::proofing::ProofError;
use parallax_store::jobs::Job;
use std::fs::File;
use std::path::PathBuf;
use std::sync::Arc;

/// Draws the movie of a shot.
pub async fn movie(
    app: &Arc<App>,
    job: &Job,
    progress: Arc<JobProgress>,
) -> Result<String, Stopped> {
    let (shot, kept) = current(app, job.shot_id).await?;
    let rate = shot
        .state
        .rate
        .ok_or_else(|| ApiError::from(Refused::NoRate))?;
    let stale = solving::stale_since(&shot, &kept, &tracks::of(app, &shot).await?);
    let proofing = proofing(app, &shot, &kept, shot.state.movie.rays).await?;
    let (first, last) = shot
        .state
        .range
        .unwrap_or((shot.plate.first, shot.plate.last));
    let files = app.files(&shot).await?;
    let frames: Vec<(FrameNumber, PathBuf)> = files
        .iter()
        .filter(|(f, _)| (first..=last).contains(&f.0))
        .cloned()
        .collect();
    let disk = |source| ApiError::Disk {
        what: "the movie".to_owned(),
        source,
    };
    std::fs::create_dir_all(movies::folder(&app.config.data)).map_err(disk)?;
    let (to, kind, name) = (path(app, &shot), shot.state.movie, file_stem(&shot.name));
    let data = app.config.data.clone();
    let count = blocking(move || {
        let failed = |e: ProofError| match e {
            ProofError::Cancelled => Stopped::Cancelled(e.to_string()),
            other => Stopped::Failed(other.to_string()),
        };
        let draw =
            |to: &PathBuf| proofing.movie(&frames, (&name, rate, &kind), to, progress.as_ref());
        let count = match kind.pictures {
            false => draw(&to).map_err(failed)?,
            true => {
                let (folder, partial) = (to.with_extension("pictures"), to.with_extension("part"));
                let count = draw(&folder).map_err(failed)?;
                File::create(&partial)
                    .and_then(|file| {
                        let mut archive = Archive::to(file);
                        archive.add_folder(&folder)?;
                        archive.finish()
                    })
                    .and_then(|()| std::fs::rename(&partial, &to))
                    .map_err(|e| failed(e.into()))?;
                count
            }
        };
        movies::clear(&data, shot.id, &to);
        Ok(count)
    })
    .await?;
    let drawn = format!(
        "{} drawn with their guests",
        several(count, "frame", "frames")
    );
    Ok(match stale.is_empty() {
        true => drawn,
        false => format!("{drawn}, by a stale solve: {}", stale.join("; ")),
    })
}
