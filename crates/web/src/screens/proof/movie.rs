//! The movie of a shot with its guests: made in the background, kept until it is made anew.

use crate::app::{App, fingerprint};
use crate::error::{Absent, ApiError, Refused};
use crate::jobs::{JobProgress, Stopped, blocking};
use crate::said::words::several;
use crate::shot::guests::proofing;
use crate::shot::world::current;
use actix_web::{HttpRequest, HttpResponse, web};
use parallax_core::spaces::FrameNumber;
use parallax_matching::proofing::ProofError;
use parallax_store::jobs::Job;
use parallax_store::shots::Shot;
use serde::Serialize;
use serde_json::json;
use std::path::{Path, PathBuf};
use std::sync::Arc;

/// A movie that there is.
#[derive(Serialize)]
pub struct Made {
    /// What it is called when it is handed on.
    name: String,
    /// Whether it shows the shot as it is now.
    current: bool,
}

/// So many movies of a shot are kept, so that undo leads to one that is still there.
const KEPT: usize = 2;

/// What a movie depends on.
fn inputs(shot: &Shot) -> String {
    let s = &shot.state;
    json!([
        s.attempt,
        s.stated(),
        s.guests.plain(),
        s.sun,
        s.met,
        s.shutter_deg,
        s.movie,
        s.range,
        s.rate,
        shot.name
    ])
    .to_string()
}

/// The shot's name as part of a file's.
fn plain(name: &str) -> String {
    let kept: String = name
        .chars()
        .filter(|c| c.is_ascii_alphanumeric() || "-_".contains(*c))
        .take(80)
        .collect();
    if kept.is_empty() {
        "shot".to_owned()
    } else {
        kept
    }
}

fn folder(app: &App) -> PathBuf {
    app.config.data.join("movies")
}

fn path(app: &App, shot: &Shot) -> PathBuf {
    let stem = format!("{}-{}", shot.id, &fingerprint(&inputs(shot))[..16]);
    folder(app).join(if shot.state.movie.pictures {
        stem + ".zip"
    } else {
        stem + ".mp4"
    })
}

/// Movies of a shot, the latest last.
fn all(app: &App, shot: i64) -> Vec<PathBuf> {
    let begins = format!("{shot}-");
    let is_own = |name: &str| {
        name.starts_with(&begins)
            && (name.ends_with(".mp4") || name.ends_with(".zip"))
            && !name.contains(".part")
    };
    let entries = std::fs::read_dir(folder(app))
        .into_iter()
        .flatten()
        .flatten();
    let mut own: Vec<_> = entries
        .filter(|e| is_own(&e.file_name().to_string_lossy()))
        .filter_map(|e| Some((e.metadata().ok()?.modified().ok()?, e.path())))
        .collect();
    own.sort();
    own.into_iter().map(|(_, path)| path).collect()
}

/// Pictures that movies of a shot left half drawn.
fn half_drawn(app: &App, shot: i64) -> Vec<PathBuf> {
    let begins = format!("{shot}-");
    let entries = std::fs::read_dir(folder(app))
        .into_iter()
        .flatten()
        .flatten();
    let is_own = |path: &PathBuf| {
        let name = path.file_name().unwrap_or_default().to_string_lossy();
        path.is_dir() && name.starts_with(&begins)
    };
    entries.map(|e| e.path()).filter(is_own).collect()
}

/// The movie that would be handed on: that of the shot as it is now, or else the latest.
fn found(app: &App, shot: &Shot) -> Option<(PathBuf, bool)> {
    let now = path(app, shot);
    if now.is_file() {
        return Some((now, true));
    }
    all(app, shot.id).pop().map(|path| (path, false))
}

/// The movie of a shot, if there is one.
pub fn made(app: &App, shot: &Shot) -> Option<Made> {
    let (path, current) = found(app, shot)?;
    let ending = path.extension()?.to_string_lossy().into_owned();
    let name = format!("{}-proof.{ending}", plain(&shot.name));
    Some(Made { name, current })
}

/// The movie, or the archive of its pictures.
pub async fn download(
    app: web::Data<App>,
    shot: web::Path<i64>,
    request: HttpRequest,
) -> Result<HttpResponse, ApiError> {
    let shot = app.store.shot(*shot).await?;
    let (path, _) = found(&app, &shot).ok_or(Absent::Movie)?;
    let name = made(&app, &shot).ok_or(Absent::Movie)?.name;
    let file = actix_files::NamedFile::open_async(path)
        .await
        .map_err(|_| Absent::Movie)?;
    let told = actix_web::http::header::ContentDisposition::attachment(name);
    Ok(file.set_content_disposition(told).into_response(&request))
}

/// Draws the movie.
pub async fn draw(
    app: &Arc<App>,
    job: &Job,
    progress: Arc<JobProgress>,
) -> Result<String, Stopped> {
    let (shot, kept) = current(app, job.shot_id).await?;
    let rate = shot
        .state
        .rate
        .ok_or_else(|| ApiError::from(Refused::NoRate))?;
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
    std::fs::create_dir_all(folder(app)).map_err(disk)?;
    let (to, kind, name) = (path(app, &shot), shot.state.movie, plain(&shot.name));
    let file = to.clone();
    let count = blocking(move || {
        let written = if kind.pictures {
            file.with_extension("pictures")
        } else {
            file.clone()
        };
        let failed = |e: ProofError| match e {
            ProofError::Cancelled => Stopped::Cancelled(e.to_string()),
            other => Stopped::Failed(other.to_string()),
        };
        let count = proofing
            .movie(&frames, (&name, rate, &kind), &written, progress.as_ref())
            .map_err(failed)?;
        if kind.pictures {
            archived(&written, &file).map_err(|e| failed(e.into()))?;
        }
        Ok(count)
    })
    .await?;
    let (clearing, id) = (app.clone(), shot.id);
    blocking(move || {
        let mut old = all(&clearing, id);
        old.retain(|path| *path != to);
        old.truncate(old.len().saturating_sub(KEPT - 1));
        // What cannot be removed stays, and is tried again next time.
        old.iter().for_each(|path| drop(std::fs::remove_file(path)));
        let half = half_drawn(&clearing, id);
        half.iter()
            .for_each(|path| drop(std::fs::remove_dir_all(path)));
        Ok(())
    })
    .await?;
    Ok(format!(
        "{} drawn with their guests",
        several(count, "frame", "frames")
    ))
}

/// The pictures of a folder as one archive, in the place of the folder.
fn archived(folder: &Path, to: &Path) -> std::io::Result<()> {
    let partial = to.with_extension("part");
    let mut paths: Vec<PathBuf> = std::fs::read_dir(folder)?
        .filter_map(|e| Some(e.ok()?.path()))
        .collect();
    paths.sort();
    let mut archive = zip::ZipWriter::new(std::fs::File::create(&partial)?);
    let how = zip::write::SimpleFileOptions::default()
        .compression_method(zip::CompressionMethod::Stored)
        .large_file(true);
    for path in &paths {
        let name = path.file_name().unwrap_or_default().to_string_lossy();
        archive.start_file(name, how)?;
        std::io::copy(&mut std::fs::File::open(path)?, &mut archive)?;
    }
    archive.finish()?;
    std::fs::rename(&partial, to)?;
    std::fs::remove_dir_all(folder)
}

/// Forgets the movies of a shot.
pub fn forget(app: &App, shot: i64) {
    all(app, shot)
        .iter()
        .for_each(|path| drop(std::fs::remove_file(path)));
    half_drawn(app, shot)
        .iter()
        .for_each(|path| drop(std::fs::remove_dir_all(path)));
}
