//! Straights while they are being marked, and views of the lens.

use super::answer::{Meshes, answer, meshes};
use crate::app::App;
use crate::error::{ApiError, Refused};
use crate::shot::lens;
use actix_web::{HttpResponse, web};
use parallax_core::lens::edge::{filled, snap};
use parallax_core::spaces::PlatePx;
use parallax_core::track::picture::Plane;
use parallax_store::Invalid;
use parallax_store::attempts::KeptAttempt;
use parallax_store::lens::{LensState, Straight};
use parallax_store::shots::Shot;
use parallax_store::things::Thing;
use serde::{Deserialize, Serialize};
use std::sync::Arc;

type Answer = Result<HttpResponse, ApiError>;

pub(super) async fn with_attempt(
    app: &App,
    id: i64,
) -> Result<(Shot, Option<Arc<KeptAttempt>>), ApiError> {
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
    let solve = move || answer(&shot, &draft.lens, attempt.as_ref().map(|a| &a.attempt));
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

/// A straight on the picture's edge.
#[derive(Serialize)]
struct Snapped {
    /// Plate px.
    marks: Vec<[f64; 2]>,
    /// How many lie on the edge.
    on_edge: usize,
    /// How far they went, px.
    moved_px: f64,
}

/// The marks of a straight where the picture has an edge.
fn on_edge(
    picture: &Plane,
    straight: &Straight,
    reach_px: f64,
    spacing_px: Option<f64>,
) -> Result<Snapped, ApiError> {
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
    Ok(Snapped {
        marks: kept,
        on_edge,
        moved_px: found.moved_px,
    })
}

/// How the plate is bent into the undistorted picture and back, for views.
pub async fn mesh(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    let (shot, attempt) = with_attempt(&app, *shot).await?;
    let made = move || -> Result<Meshes, ApiError> {
        let frame = lens::frame(&shot, attempt.as_ref().map(|a| &a.attempt))?;
        Ok(meshes(&frame))
    };
    Ok(HttpResponse::Ok().json(web::block(made).await??))
}
