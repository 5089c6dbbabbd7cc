//! A photograph while rails are under the pointer, rails on edges, rails on offer.

use super::answer::answer;
use super::drawn::Pull;
use crate::app::App;
use crate::error::{ApiError, Refused};
use crate::shot::facts;
use actix_web::{HttpResponse, web};
use parallax_core::photo::Rail;
use parallax_core::photo::settle::edges;
use parallax_core::photo::suggest::suggest;
use parallax_store::Invalid;
use parallax_store::photo::PhotoState;
use parallax_store::shots::Shot;
use parallax_store::things::Thing;
use serde::Deserialize;
use serde_json::json;

type Answer = Result<HttpResponse, ApiError>;

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Draft {
    photo: PhotoState,
    #[serde(default)]
    pull: Option<Pull>,
}

async fn photograph(app: &App, id: i64) -> Result<Shot, ApiError> {
    let shot = app.store.shot(id).await?;
    if facts::is_photograph(&shot) {
        Ok(shot)
    } else {
        Err(Refused::NotAPhotograph.into())
    }
}

/// Solves what is being laid; nothing is kept.
pub async fn solve(app: web::Data<App>, shot: web::Path<i64>, draft: web::Json<Draft>) -> Answer {
    let shot = photograph(&app, *shot).await?;
    if let Some(complaint) = draft.photo.complaint() {
        return Err(Invalid::Photo(complaint).into());
    }
    let Draft { photo, pull } = draft.into_inner();
    let answer = web::block(move || answer(&shot, &photo, pull)).await?;
    Ok(HttpResponse::Ok().json(answer))
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Laid {
    /// Its id is not asked for.
    rail: Thing<Rail>,
    #[serde(default = "default_reach")]
    reach_px: f64,
}

fn default_reach() -> f64 {
    4.0
}

/// Moves a rail on to the edge of the picture that is nearest to it, and names the others within reach; nothing
/// is kept.
pub async fn settle(app: web::Data<App>, shot: web::Path<i64>, laid: web::Json<Laid>) -> Answer {
    let shot = photograph(&app, *shot).await?;
    let picture = app.grey(&shot, shot.plate.first).await?;
    if !(1.0..=20.0).contains(&laid.reach_px) {
        let (what, range) = ("the reach of settling", "1 and 20 px");
        return Err(Refused::OutOfRange { what, range }.into());
    }
    let laid_alone = PhotoState {
        rails: [laid.rail.it].into_iter().collect(),
        ..PhotoState::default()
    };
    if let Some(complaint) = laid_alone.complaint() {
        return Err(Invalid::Photo(complaint).into());
    }
    let wanted = laid.into_inner();
    let reach_px = wanted.reach_px;
    let found = web::block(move || edges(&picture, &wanted.rail.it, reach_px)).await?;
    let Some((nearest, others)) = found.split_first() else {
        return Err(Refused::NoRail { reach_px }.into());
    };
    let others = others.iter();
    let others: Vec<_> = others
        .map(|o| json!({ "rail": o.rail, "moved_px": o.moved_px, "rms_px": o.rms_px }))
        .collect();
    Ok(HttpResponse::Ok().json(json!({
        "rail": nearest.rail, "moved_px": nearest.moved_px, "rms_px": nearest.rms_px, "others": others,
    })))
}

/// Rails that the picture itself offers.
pub async fn suggested(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    let shot = photograph(&app, *shot).await?;
    let picture = app.grey(&shot, shot.plate.first).await?;
    let focal_px = facts::stated_focal_px(&shot);
    let found = web::block(move || suggest(&picture, focal_px)).await?;
    let said = if found.rails.is_empty() {
        "The picture shows no straight edges that run with perpendicular axes. Lay rails by hand."
    } else if found.free_centre {
        "These edges fit together only with the centre of projection away from the middle: the picture was cropped. \
         Taking them all frees the centre."
    } else {
        ""
    };
    Ok(HttpResponse::Ok()
        .json(json!({ "rails": found.rails, "free_centre": found.free_centre, "said": said })))
}
