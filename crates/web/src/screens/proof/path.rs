//! The path of a place on screen, as a file.

use super::at::{At, NO_PLACE, none};
use crate::app::App;
use crate::error::ApiError;
use crate::shot::world::current_world;
use actix_web::{HttpResponse, web};
use parallax_core::spaces::WorldPoint;
use parallax_formats::path;
use serde::Deserialize;

/// A place and the kind of file.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Asked {
    track: Option<u32>,
    x: Option<f64>,
    y: Option<f64>,
    z: Option<f64>,
    /// `json`, or comma-separated text.
    kind: Option<String>,
}

/// Where a place is seen on each frame, as a file.
pub async fn path_of(
    app: web::Data<App>,
    shot: web::Path<i64>,
    asked: web::Query<Asked>,
) -> Result<HttpResponse, ApiError> {
    let (_, kept, orientation) = current_world(&app, *shot).await?;
    let change = orientation.change;
    let Asked { track, x, y, z, .. } = *asked;
    let place = At { track, x, y, z }.place(&kept.attempt, &change);
    let Some(place) = place else {
        return Ok(none(NO_PLACE));
    };
    // In the artist's world, so that depths are of its units.
    let there = change.point(&WorldPoint(place.into()));
    let cameras = kept.attempt.frames.iter();
    let cameras = cameras.map(|f| (f.frame, kept.attempt.lens_at(f), change.pose(&f.pose)));
    let rows = path::path(cameras, &there);
    let (kind, name, text) = match asked.kind.as_deref() {
        Some("json") => ("application/json", "path.json", path::as_json(&rows)?),
        _ => ("text/csv", "path.csv", path::as_csv(&rows)),
    };
    let named = format!("attachment; filename=\"{name}\"");
    Ok(HttpResponse::Ok()
        .content_type(kind)
        .insert_header(("content-disposition", named))
        .body(text))
}
