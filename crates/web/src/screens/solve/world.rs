//! The solved world as it is oriented: in space, over time, and over the plate.

use crate::app::App;
use crate::error::ApiError;
use crate::said::words::short;
use crate::shot::facts;
use crate::shot::world::change_of;
use actix_web::{HttpResponse, web};
use parallax_core::camera::{Intrinsics, Pose, Similarity};
use parallax_core::scene::oriented;
use parallax_core::scene::overlay::project_edge;
use parallax_core::scene::shapes::{Edge, ground_grid};
use parallax_core::solve::Attempt;
use parallax_core::solve::curves::{Curve, Curves};
use parallax_core::spaces::WorldPoint;
use parallax_store::shots::Shot;
use serde::Deserialize;
use serde_json::{Value, json};

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
        Ok(o) => facts::placed_stand_ins(&kept.attempt, &shot.state, o)
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
    let back = facts::film_back(shot);
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

/// Ground grid, stand-ins and landmarks as they fall on the plate, frame by frame: landmarks as their rows were
/// read, the others as the delivered camera of the middle row draws them, which is how CG will lie there.
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
    let (landmarks, rows) = (&kept.attempt.landmarks, kept.attempt.rows());
    let grid = if orientation.levelled {
        ground_grid(&WorldPoint::new(0.0, 0.0, 0.0), shot.state.grid_m, 24)
    } else {
        Vec::new()
    };
    let boxes: Vec<Edge> = facts::placed_stand_ins(&kept.attempt, &shot.state, &orientation)
        .iter()
        .flat_map(|(s, foot)| s.edges(foot))
        .collect();
    let last = frames.to.min(frames.from.saturating_add(MOST_FRAMES));
    let mut out = serde_json::Map::new();
    let all = kept.attempt.frames.iter().enumerate();
    for (k, f) in all.filter(|(_, f)| (frames.from..=last).contains(&f.frame.0)) {
        let (pose, lens) = (change.pose(&f.pose), kept.attempt.lens_at(f));
        let seen: Vec<f64> = landmarks
            .iter()
            .filter(|l| {
                l.residuals_px
                    .binary_search_by_key(&f.frame, |r| r.0)
                    .is_ok()
            })
            .filter_map(|l| {
                let (px, _) = rows.seen(k, &l.point)?;
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
