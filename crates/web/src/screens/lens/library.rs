//! The library of lenses.

use super::marking::with_attempt;
use crate::app::App;
use crate::edited::Edited;
use crate::error::{ApiError, Refused};
use crate::shot::lens;
use actix_web::{HttpResponse, web};
use parallax_formats::lens_json::{LensFile, LensLabel};
use parallax_store::lenses::KeptLens;
use serde::Deserialize;
use serde_json::{Value, json};

type Answer = Result<HttpResponse, ApiError>;

fn listed(kept: &KeptLens) -> Value {
    let file = serde_json::from_str::<LensFile>(&kept.file).ok();
    let terms = file
        .as_ref()
        .map(|f| json!({ "k1": f.terms.k1, "k2": f.terms.k2, "size": [f.width, f.height] }));
    json!({ "id": kept.id, "label": kept.label, "text": kept.label.text(), "terms": terms })
}

async fn all(app: &App) -> Answer {
    let kept: Vec<Value> = app.store.lenses().await?.iter().map(listed).collect();
    Ok(HttpResponse::Ok().json(json!({ "kept": kept })))
}

/// The library.
pub async fn list(app: web::Data<App>) -> Answer {
    all(&app).await
}

/// Takes a lens file into the library.
pub async fn import(app: web::Data<App>, text: String) -> Answer {
    let file = LensFile::read(&text).map_err(Refused::from)?;
    let label = file.label.clone().ok_or(Refused::NoLabel)?;
    keep_file(&app, label, file).await?;
    all(&app).await
}

async fn keep_file(app: &App, label: LensLabel, file: LensFile) -> Result<(), ApiError> {
    let file = LensFile {
        label: Some(label.clone()),
        ..file
    };
    let text = serde_json::to_string(&file)?;
    app.store.keep_lens(&label, &text).await?;
    Ok(())
}

/// One kept lens as a lens file.
pub async fn file(app: web::Data<App>, id: web::Path<i64>) -> Answer {
    let kept = app.store.lens(*id).await?;
    let name: String = kept
        .label
        .text()
        .chars()
        .map(|c| {
            if c.is_ascii_alphanumeric() {
                c.to_ascii_lowercase()
            } else {
                '-'
            }
        })
        .collect();
    Ok(HttpResponse::Ok()
        .content_type("application/json")
        .insert_header((
            "content-disposition",
            format!("attachment; filename=\"{name}.lens.json\""),
        ))
        .body(kept.file))
}

/// Forgets a lens; shots that were given it keep their values.
pub async fn forget(app: web::Data<App>, id: web::Path<i64>) -> Answer {
    app.store.forget_lens(*id).await?;
    all(&app).await
}

/// Keeps the lens of a shot in the library.
pub async fn keep(
    app: web::Data<App>,
    shot: web::Path<i64>,
    label: web::Json<LensLabel>,
) -> Answer {
    let (shot, attempt) = with_attempt(&app, *shot).await?;
    let attempt = attempt.as_ref().map(|a| &a.attempt);
    let file = lens::file(&shot, attempt)?;
    keep_file(&app, label.into_inner(), file).await?;
    all(&app).await
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Taken {
    lens: i64,
}

/// Gives a shot a lens of the library.
pub async fn take(
    app: web::Data<App>,
    shot: web::Path<i64>,
    taken: web::Json<Taken>,
) -> Result<Edited, ApiError> {
    let kept = app.store.lens(taken.lens).await?;
    let file = LensFile::read(&kept.file).map_err(Refused::from)?;
    let size = app.store.shot(*shot).await?;
    let found = file
        .lens_for(size.width_px, size.height_px)
        .ok_or(Refused::OtherShape {
            lens: (file.width, file.height),
            plate: (size.width_px, size.height_px),
        })?;
    let patch = json!({ "lens": { "source": "values", "values": {
        "convention": "undistorted_to_distorted", "terms": found.distortion, "focal_px": found.focal_px,
        "centre": [found.centre.x, found.centre.y], "taken_from": kept.label.text(),
    } } });
    app.store
        .edit(*shot, "take a lens from the library", |s| s.patched(&patch))
        .await?;
    Ok(Edited::of(*shot))
}
