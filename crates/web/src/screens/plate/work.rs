//! Work on a plate: it is taken out of its movie, and viewing copies are made.

use crate::app::App;
use crate::app::Files;
use crate::error::ApiError;
use crate::jobs::{JobProgress, Stopped, blocking};
use crate::said::words::several;
use crate::view_cache::ViewCache;
use parallax_core::progress::Progress;
use parallax_media::pin::Pin;
use parallax_media::{MediaError, Movie, Sequence, viewing};
use parallax_store::jobs::Job;
use parallax_store::shots::{PlateFacts, Shot};
use rayon::prelude::*;
use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

pub async fn ingest(
    app: &Arc<App>,
    job: &Job,
    progress: Arc<JobProgress>,
) -> Result<String, Stopped> {
    let shot = app.store.shot(job.shot_id).await?;
    let app = app.clone();
    if shot.plate.movie.is_some() && !Path::new(&shot.folder).is_dir() {
        let (taken, told) = (shot.clone(), progress.clone());
        let (pin, facts) = blocking(move || taken_out(&taken, &told)).await?;
        app.store.pin_plate(shot.id, &pin, &facts).await?;
    }
    let files = app.files(&shot).await?;
    blocking(move || make_views(&shot, &files, &app.views, &progress)).await
}

/// Takes a plate out of its movie; the files that it is then.
fn taken_out(shot: &Shot, progress: &JobProgress) -> Result<(Pin, PlateFacts), Stopped> {
    let to = Path::new(&shot.folder);
    if let Some(taken) = &shot.plate.movie {
        let movie = Movie::open(Path::new(&taken.path)).map_err(ApiError::from)?;
        movie.extract(to, progress).map_err(|e| match e {
            MediaError::Cancelled => {
                Stopped::Cancelled("taking the plate out of the movie was cancelled".to_owned())
            }
            other => Stopped::Failed(other.to_string()),
        })?;
    }
    let pin = Pin::of(&Sequence::find(to).map_err(ApiError::from)?).map_err(ApiError::from)?;
    Ok((pin, shot.plate.clone()))
}

fn make_views(
    shot: &Shot,
    files: &Files,
    views: &ViewCache,
    progress: &JobProgress,
) -> Result<String, Stopped> {
    std::fs::create_dir_all(views.shot(shot.id)).map_err(|source| ApiError::Disk {
        what: "viewing copies".to_owned(),
        source,
    })?;
    let done = AtomicUsize::new(0);
    let total = files.len();
    progress.report("viewing copies", 0, total);
    files.par_iter().try_for_each(|(frame, file)| {
        if progress.is_cancelled() {
            return Err(Stopped::Cancelled(
                "making viewing copies was cancelled".to_owned(),
            ));
        }
        let copy = (shot.id, frame.0);
        let to = views.path(copy);
        if !to.exists() && !views.is_full_of(shot.id) {
            viewing::make(file, &to, *frame).map_err(ApiError::from)?;
            views.used(copy);
        }
        progress.report(
            "viewing copies",
            done.fetch_add(1, Ordering::Relaxed) + 1,
            total,
        );
        Ok(())
    })?;
    let made = views.count(shot.id);
    Ok(if made < total {
        format!(
            "{made} viewing copies of {total} frames fit into the room for them; the others are made as they are looked at"
        )
    } else {
        several(total, "viewing copy", "viewing copies")
    })
}
