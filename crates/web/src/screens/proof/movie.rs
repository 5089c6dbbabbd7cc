//! The movie of a shot with its guests: made in the background, kept until it is made anew.

use crate::app::{App, fingerprint};
use crate::error::{Absent, ApiError};
use crate::movies;
use crate::shot::facts::file_stem;
use actix_web::{HttpRequest, HttpResponse, web};
use parallax_store::shots::Shot;
use serde::Serialize;
use serde_json::json;
use std::path::PathBuf;

/// A movie that there is.
#[derive(Serialize)]
pub struct Made {
    /// What it is called when it is handed on.
    name: String,
    /// Whether it shows the shot as it is now.
    current: bool,
}

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

/// Where the movie of a shot as it is now is, or will be.
pub fn path(app: &App, shot: &Shot) -> PathBuf {
    let ending = if shot.state.movie.pictures {
        "zip"
    } else {
        "mp4"
    };
    let name = format!("{}-{}.{ending}", shot.id, &fingerprint(&inputs(shot))[..16]);
    movies::folder(&app.config.data).join(name)
}

/// The movie that would be handed on: that of the shot as it is now, or else the latest.
fn found(app: &App, shot: &Shot) -> Option<(PathBuf, bool)> {
    let now = path(app, shot);
    if now.is_file() {
        return Some((now, true));
    }
    let latest = movies::all(&app.config.data, shot.id).pop()?;
    Some((latest, false))
}

/// The movie of a shot, if there is one.
pub fn made(app: &App, shot: &Shot) -> Option<Made> {
    let (path, current) = found(app, shot)?;
    let ending = path.extension()?.to_string_lossy().into_owned();
    let name = format!("{}-proof.{ending}", file_stem(&shot.name));
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
