//! Straights while they are being marked, views of the lens, and the library of lenses.

use crate::app::App;
use crate::error::{ApiError, Refused};
use crate::{lens, view};
use actix_web::{HttpResponse, web};
use parallax_core::lens::edge::{filled, snap};
use parallax_core::spaces::PlatePx;
use parallax_core::track::picture::Plane;
use parallax_formats::lens_json::{LensFile, LensLabel};
use parallax_store::Invalid;
use parallax_store::attempts::KeptAttempt;
use parallax_store::lens::{LensState, Straight};
use parallax_store::lenses::KeptLens;
use parallax_store::shots::Shot;
use parallax_store::things::Thing;
use serde::Deserialize;
use serde_json::{Value, json};
use std::sync::Arc;

type Answer = Result<HttpResponse, ApiError>;

async fn with_attempt(app: &App, id: i64) -> Result<(Shot, Option<Arc<KeptAttempt>>), ApiError> {
    let shot = app.store.shot(id).await?;
    let attempt = match shot.state.attempt {
        Some(attempt) => Some(app.attempt(attempt).await?),
        None => None,
    };
    Ok((shot, attempt))
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Draft {
    lens: LensState,
}

/// The lens of marks that may still be under the pointer; nothing is kept.
pub async fn draft(app: web::Data<App>, shot: web::Path<i64>, draft: web::Json<Draft>) -> Answer {
    let (shot, attempt) = with_attempt(&app, *shot).await?;
    if let Some(complaint) = draft.lens.complaint() {
        return Err(Invalid::Lens(complaint).into());
    }
    let solve = move || lens::answer(&shot, &draft.lens, attempt.as_ref().map(|a| &a.attempt));
    Ok(HttpResponse::Ok().json(web::block(solve).await?))
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Rough {
    /// Its id is not asked for.
    straight: Thing<Straight>,
    #[serde(default = "default_reach")]
    reach_px: f64,
    /// Marks are added so far apart, px; none when left out.
    #[serde(default)]
    spacing_px: Option<f64>,
}

fn default_reach() -> f64 {
    5.0
}

/// Puts marks on the picture's edge; nothing is kept.
pub async fn snapped(app: web::Data<App>, shot: web::Path<i64>, rough: web::Json<Rough>) -> Answer {
    let shot = app.store.shot(*shot).await?;
    let Rough {
        straight,
        reach_px,
        spacing_px,
    } = rough.into_inner();
    if !(1.0..=20.0).contains(&reach_px) || spacing_px.is_some_and(|s| !(4.0..=500.0).contains(&s))
    {
        let (what, range) = (
            "the reach of marks",
            "1 and 20 px, their spacing between 4 and 500 px",
        );
        return Err(Refused::OutOfRange { what, range }.into());
    }
    let alone = LensState {
        straights: [straight.it.clone()].into_iter().collect(),
        ..LensState::default()
    };
    if let Some(complaint) = alone.complaint() {
        return Err(Invalid::Lens(complaint).into());
    }
    let picture = app.grey(&shot, straight.frame).await?;
    let snapped = web::block(move || on_edge(&picture, &straight, reach_px, spacing_px)).await??;
    Ok(HttpResponse::Ok().json(snapped))
}

/// The marks of a straight where the picture has an edge.
fn on_edge(
    picture: &Plane,
    straight: &Straight,
    reach_px: f64,
    spacing_px: Option<f64>,
) -> Result<Value, ApiError> {
    let mut marks: Vec<PlatePx> = straight
        .marks
        .iter()
        .map(|[x, y]| PlatePx::new(*x, *y))
        .collect();
    if let Some(spacing) = spacing_px {
        marks = filled(&marks, spacing);
    }
    let found = snap(picture, &marks, reach_px).ok_or(Refused::NoEdge { reach_px })?;
    // Marks between those that were set, which found nothing, say nothing either.
    let wanted = |k: &usize| spacing_px.is_none() || found.found[*k];
    let kept: Vec<[f64; 2]> = (0..marks.len())
        .filter(wanted)
        .map(|k| [found.marks[k].x, found.marks[k].y])
        .collect();
    let on_edge = found.found.iter().filter(|f| **f).count();
    Ok(json!({ "marks": kept, "on_edge": on_edge, "moved_px": found.moved_px }))
}

/// How the plate is bent into the undistorted picture and back, for views.
pub async fn mesh(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    let (shot, attempt) = with_attempt(&app, *shot).await?;
    let made = move || -> Result<Value, ApiError> {
        let frame = lens::frame(&shot, attempt.as_ref().map(|a| &a.attempt))?;
        Ok(lens::mesh(&frame))
    };
    Ok(HttpResponse::Ok().json(web::block(made).await??))
}

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
pub async fn take(app: web::Data<App>, shot: web::Path<i64>, taken: web::Json<Taken>) -> Answer {
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
    Ok(HttpResponse::Ok().json(view::shot(&app, *shot).await?))
}
