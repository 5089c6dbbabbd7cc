//! Solved world, overlays, camera and packages.

use crate::app::App;
use crate::error::{ApiError, Refused};
use crate::view::short;
use crate::{flow, tracking};
use actix_web::{HttpResponse, web};
use parallax_core::camera::{Intrinsics, Pose, Similarity};
use parallax_core::scene::oriented;
use parallax_core::scene::overlay::project_edge;
use parallax_core::scene::shapes::{Edge, ground_grid};
use parallax_core::solve::Attempt;
use parallax_core::solve::curves::{Curve, Curves};
use parallax_core::spaces::WorldPoint;
use parallax_formats::camera_json;
use parallax_formats::delivery::{Delivery, DeliveryError, STALE};
use parallax_formats::receipt::Receipt;
use parallax_store::attempts::KeptAttempt;
use parallax_store::shots::Shot;
use serde::Deserialize;
use serde_json::{Value, json};
use std::sync::Arc;

type Answer = Result<HttpResponse, ApiError>;

/// The solved world as it is oriented: cameras, landmarks, grid and stand-ins in space.
pub async fn world(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    let shot = app.store.shot(*shot).await?;
    let Some(id) = shot.state.attempt else {
        return Ok(HttpResponse::Ok().json(json!({ "cameras": [], "points": [] })));
    };
    let kept = app.attempt(id).await?;
    let orientation = oriented(&kept.attempt, &shot.state.picks);
    let change = orientation
        .as_ref()
        .map_or_else(|_| Similarity::identity(), |o| o.change);
    let cameras: Vec<Value> = kept
        .attempt
        .frames
        .iter()
        .map(|f| {
            let matrix: Vec<f64> = change.pose(&f.pose).world_from_camera().iter().copied().collect();
            let focal_px = kept.attempt.lens_at(f).focal_px;
            json!({ "frame": f.frame.0, "rms": short(f.rms_px, 3), "features": f.features, "focal_px": short(focal_px, 3), "matrix": matrix })
        })
        .collect();
    let points: Vec<Value> = kept
        .attempt
        .landmarks
        .iter()
        .map(|l| {
            let p = change.point(&l.point).0;
            json!([
                l.track.0,
                short(p.x, 5),
                short(p.y, 5),
                short(p.z, 5),
                short(l.rms_px, 3)
            ])
        })
        .collect();
    let edges: Vec<Value> = match &orientation {
        Ok(o) => flow::placed_stand_ins(&kept.attempt, &shot.state, o)
            .iter()
            .flat_map(|(s, foot)| s.edges(foot))
            .map(|[a, b]| json!([a.0.x, a.0.y, a.0.z, b.0.x, b.0.y, b.0.z]))
            .collect(),
        Err(_) => Vec::new(),
    };
    let lens = &kept.attempt.lens;
    Ok(HttpResponse::Ok().json(json!({
        "cameras": cameras, "points": points, "stand_ins": edges, "grid_m": shot.state.grid_m,
        "levelled": orientation.is_ok_and(|o| o.levelled),
        "size": [lens.width_px, lens.height_px],
    })))
}

/// How the camera runs over time, each quantity with its errors and spikes; focal lengths in mm.
pub async fn curves(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    let shot = app.store.shot(*shot).await?;
    let Some(id) = shot.state.attempt else {
        return Ok(HttpResponse::Ok().json(json!({ "frames": [] })));
    };
    let kept = app.attempt(id).await?;
    let change = change_of(&kept.attempt, &shot);
    Ok(HttpResponse::Ok().json(curves_of(&kept.attempt, &change, &shot)))
}

/// The curves of an attempt in a world to which `change` leads.
pub fn curves_of(attempt: &Attempt, change: &Similarity, shot: &Shot) -> Value {
    let curves = Curves::of(attempt, change);
    let back = flow::film_back(shot);
    let mm = |px: f64| back.focal_mm(px, shot.width_px);
    let one = |c: &Curve, scale: &dyn Fn(f64) -> f64| {
        let rounded =
            |list: &[f64]| -> Vec<f64> { list.iter().map(|v| short(scale(*v), 5)).collect() };
        json!({ "values": rounded(&c.values), "sigma": rounded(&c.sigma), "spikes": c.spikes })
    };
    let plain = |c: &Curve| one(c, &|v| v);
    let frames: Vec<i32> = curves.frames.iter().map(|f| f.0).collect();
    json!({
        "frames": frames,
        "residual_px": plain(&curves.residual_px),
        "position": curves.position.iter().map(plain).collect::<Vec<_>>(),
        "rotation_deg": curves.rotation_deg.iter().map(plain).collect::<Vec<_>>(),
        "focal_mm": one(&curves.focal_px, &mm),
    })
}

#[derive(Deserialize)]
pub struct Frames {
    from: i32,
    to: i32,
}

/// Most frames of overlay in one answer.
const MOST_FRAMES: i32 = 64;

/// Ground grid, stand-ins and landmarks as they fall on the plate, frame by frame.
pub async fn overlay(
    app: web::Data<App>,
    shot: web::Path<i64>,
    frames: web::Query<Frames>,
) -> Answer {
    let shot = app.store.shot(*shot).await?;
    let Some(id) = shot.state.attempt else {
        return Ok(HttpResponse::Ok().json(json!({})));
    };
    let kept = app.attempt(id).await?;
    let Ok(orientation) = oriented(&kept.attempt, &shot.state.picks) else {
        return Ok(HttpResponse::Ok().json(json!({})));
    };
    let change = orientation.change;
    let landmarks: Vec<_> = kept
        .attempt
        .landmarks
        .iter()
        .map(|l| (l, change.point(&l.point)))
        .collect();
    let grid = if orientation.levelled {
        ground_grid(&WorldPoint::new(0.0, 0.0, 0.0), shot.state.grid_m, 24)
    } else {
        Vec::new()
    };
    let boxes: Vec<Edge> = flow::placed_stand_ins(&kept.attempt, &shot.state, &orientation)
        .iter()
        .flat_map(|(s, foot)| s.edges(foot))
        .collect();
    let last = frames.to.min(frames.from.saturating_add(MOST_FRAMES));
    let mut out = serde_json::Map::new();
    for f in kept
        .attempt
        .frames
        .iter()
        .filter(|f| (frames.from..=last).contains(&f.frame.0))
    {
        let (pose, lens) = (change.pose(&f.pose), kept.attempt.lens_at(f));
        let seen: Vec<f64> = landmarks
            .iter()
            .filter(|(l, _)| {
                l.residuals_px
                    .binary_search_by_key(&f.frame, |r| r.0)
                    .is_ok()
            })
            .filter_map(|(l, p)| {
                let px = lens.project(&pose, p)?;
                Some([f64::from(l.track.0), short(px.x, 1), short(px.y, 1)])
            })
            .flatten()
            .collect();
        let drawn = json!({ "grid": lines(&lens, &pose, &grid), "boxes": lines(&lens, &pose, &boxes), "points": seen });
        out.insert(f.frame.to_string(), drawn);
    }
    Ok(HttpResponse::Ok().json(out))
}

fn lines(lens: &Intrinsics, pose: &Pose, edges: &[Edge]) -> Vec<Vec<f64>> {
    edges
        .iter()
        .flat_map(|e| project_edge(lens, pose, e))
        .map(|line| {
            line.iter()
                .flat_map(|p| [short(p.x, 1), short(p.y, 1)])
                .collect()
        })
        .collect()
}

/// A shot with its current attempt; refused where there is none.
pub async fn current(app: &App, shot: i64) -> Result<(Shot, Arc<KeptAttempt>), ApiError> {
    let shot = app.store.shot(shot).await?;
    let id = shot.state.attempt.ok_or(Refused::NoCamera)?;
    let kept = app.attempt(id).await?;
    Ok((shot, kept))
}

/// From the world of an attempt to the artist's; none where what is picked does not orient it.
pub fn change_of(attempt: &Attempt, shot: &Shot) -> Similarity {
    oriented(attempt, &shot.state.picks).map_or_else(|_| Similarity::identity(), |o| o.change)
}

/// The neutral camera file of the current attempt, as it is oriented.
pub async fn camera(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    let (shot, kept) = current(&app, *shot).await?;
    let rate = shot.state.rate.ok_or(Refused::NoRate)?;
    let orientation = oriented(&kept.attempt, &shot.state.picks)?;
    let about = flow::delivered_shot(&shot, rate);
    let called = tracking::called(&shot.state);
    let mut delivery = Delivery::of_attempt(&about, &kept.attempt, &orientation, &[], called);
    let tracks = tracking::of(&app, &shot).await?;
    delivery.stale = flow::stale_since(&shot, &kept, &tracks);
    let text = camera_json::write(&delivery).map_err(DeliveryError::from)?;
    Ok(HttpResponse::Ok()
        .content_type("application/json")
        .body(text))
}

/// A delivered package.
pub async fn package(app: web::Data<App>, path: web::Path<(i64, i64)>) -> Answer {
    let (shot, delivery) = path.into_inner();
    let name: String = app
        .store
        .shot(shot)
        .await?
        .name
        .chars()
        .filter(|c| c.is_ascii_alphanumeric() || "-_".contains(*c))
        .collect();
    let package = app.store.package(shot, delivery).await?;
    let receipt = app.store.delivery(delivery).await?.receipt;
    let is_stale = serde_json::from_str::<Receipt>(&receipt).is_ok_and(|r| !r.stale.is_empty());
    let mark = if is_stale { STALE } else { "" };
    Ok(HttpResponse::Ok()
        .content_type("application/zip")
        .insert_header(("content-encoding", "identity"))
        .insert_header((
            "content-disposition",
            format!("attachment; filename=\"{mark}{name}-match.zip\""),
        ))
        .body(package))
}
