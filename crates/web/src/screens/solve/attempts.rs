//! Attempts beside each other, and what a change would do before a solve is run with it.

use super::beside;
use crate::app::App;
use crate::edited::Edited;
use crate::error::{Absent, ApiError, Refused};
use crate::said::words::short;
use crate::screens::solve::figures::solve_figures;
use crate::screens::solve::world::curves_of;
use crate::shot::world::{current, current_world, orientation};
use crate::shot::{facts, solving, tracks};
use actix_web::{HttpResponse, web};
use parallax_core::progress::Silent;
use parallax_core::solve::alongside::laid_on;
use parallax_core::solve::limit::limited;
use parallax_core::solve::{Landmark, Steady};
use parallax_core::spaces::FrameNumber;
use parallax_store::{ShotState, StoreError};
use serde::Deserialize;
use serde_json::{Value, json};

type Answer = Result<HttpResponse, ApiError>;

/// An attempt of the shot beside its current one: figures, curves, path, and in what its settings differ.
pub async fn beside(app: web::Data<App>, path: web::Path<(i64, i64)>) -> Answer {
    let (shot, other) = path.into_inner();
    let (shot, now) = current(&app, shot).await?;
    let entries = app.store.attempts(shot.id).await?;
    let Some(entry) = entries.into_iter().find(|a| a.id == other) else {
        return Err(StoreError::Missing {
            what: "attempt",
            id: other,
        }
        .into());
    };
    let kept = app.attempt(other).await?;
    // In the world of the current one, where that can be said.
    let change = match laid_on(&kept.attempt, &now.attempt) {
        Some(laid) => laid.then(&orientation(&app, &shot, &now).await?.change),
        None => orientation(&app, &shot, &kept).await?.change,
    };
    let path: Vec<[f64; 3]> = kept
        .attempt
        .frames
        .iter()
        .map(|f| change.pose(&f.pose).centre().0.coords)
        .map(|c| [short(c.x, 5), short(c.y, 5), short(c.z, 5)])
        .collect();
    let back = facts::film_back(&shot);
    Ok(HttpResponse::Ok().json(json!({
        "id": other, "number": entry.number, "label": entry.label,
        "figures": solve_figures(&kept.attempt, &back, shot.state.rate),
        "curves": curves_of(&kept.attempt, &change, &shot),
        "path": path,
        "differs": beside::differs(&now.inputs, &kept.inputs),
    })))
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Limit {
    px: f64,
}

/// What a limit on residuals would leave of the current attempt.
pub async fn limit(app: web::Data<App>, shot: web::Path<i64>, limit: web::Query<Limit>) -> Answer {
    let (_, kept) = current(&app, *shot).await?;
    let left = limited(&kept.attempt, limit.px);
    Ok(HttpResponse::Ok().json(json!({ "limit": left, "said": beside::limit_said(&left) })))
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Smoothing {
    place_mm: Option<f64>,
    turn_deg: Option<f64>,
}

/// What a steadier camera would cost; nothing is kept.
pub async fn smoothing(
    app: web::Data<App>,
    shot: web::Path<i64>,
    asked: web::Query<Smoothing>,
) -> Answer {
    let (mut shot, kept) = current(&app, *shot).await?;
    shot.state.steady.place_mm = asked.place_mm;
    shot.state.steady.turn_deg = asked.turn_deg;
    let all = tracks::of(&app, &shot).await?;
    let cost = web::block(move || {
        let solving = solving::solving_beside(&shot, Some(&kept.attempt));
        let steady = solving.steady.filter(Steady::any)?;
        let tracks = all.solvable(&shot.state);
        Some(solving.smoothing_cost(tracks.candidates(), &kept.attempt, steady, &Silent))
    });
    let Some(cost) = cost.await? else {
        return Err(Refused::NothingSteady.into());
    };
    let cost = cost.map_err(|e| Refused::Unsolvable(e.to_string()))?;
    Ok(HttpResponse::Ok().json(json!({ "cost": cost, "said": beside::smoothing_said(&cost) })))
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct On {
    frame: i32,
}

/// Features that are told of on a frame.
const WORST: usize = 12;

/// The features that miss their landmarks most on a frame, px, the worst first.
pub async fn misses(app: web::Data<App>, shot: web::Path<i64>, on: web::Query<On>) -> Answer {
    let (_, kept) = current(&app, *shot).await?;
    let frame = FrameNumber(on.frame);
    let miss = |l: &Landmark| {
        let at = l.residuals_px.binary_search_by_key(&frame, |r| r.0).ok()?;
        Some((l.track.0, l.residuals_px[at].1))
    };
    let mut all: Vec<(u32, f32)> = kept.attempt.landmarks.iter().filter_map(miss).collect();
    all.sort_by(|a, b| b.1.total_cmp(&a.1));
    all.truncate(WORST);
    let all = all
        .iter()
        .map(|(id, px)| json!([id, short(f64::from(*px), 3)]));
    Ok(HttpResponse::Ok().json(json!({ "frame": on.frame, "worst": all.collect::<Vec<Value>>() })))
}

/// How uncertain each landmark's place is in the oriented world: its track, its place, and the three half axes
/// of its ellipsoid of one standard error.
pub async fn ellipsoids(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    let (_, kept, orientation) = current_world(&app, *shot).await?;
    let change = orientation.change;
    let one = |l: &Landmark| {
        let axes = l.covariance?.in_world(&change).axes();
        let place = change.point(&l.point).0;
        let numbers = [place.coords, axes[0], axes[1], axes[2]];
        let numbers: Vec<f64> = numbers.iter().flatten().map(|v| short(*v, 6)).collect();
        Some(json!([l.track.0, numbers]))
    };
    let all: Vec<Value> = kept.attempt.landmarks.iter().filter_map(one).collect();
    Ok(HttpResponse::Ok().json(json!({ "ellipsoids": all })))
}

/// Makes another attempt the current one.
pub async fn take_attempt(
    app: web::Data<App>,
    path: web::Path<(i64, i64)>,
) -> Result<Edited, ApiError> {
    let (shot, attempt) = path.into_inner();
    if !app
        .store
        .attempts(shot)
        .await?
        .iter()
        .any(|a| a.id == attempt)
    {
        return Err(Absent::Attempt(attempt).into());
    }
    let take = |state: &ShotState| {
        Ok(ShotState {
            attempt: Some(attempt),
            ..state.clone()
        })
    };
    app.store.edit(shot, "choose attempt", take).await?;
    Ok(Edited::of(shot))
}
