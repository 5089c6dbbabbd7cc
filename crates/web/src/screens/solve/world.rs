//! The solved world as it is oriented: in space and over time.

use crate::app::App;
use crate::error::ApiError;
use crate::said::words::short;
use crate::shot::facts;
use crate::shot::world::orientation;
use actix_web::{HttpResponse, web};
use nalgebra::Vector3;
use parallax_core::camera::Similarity;
use parallax_core::scene::handle;
use parallax_core::solve::Attempt;
use parallax_core::solve::curves::{Curve, Curves};
use parallax_store::shots::Shot;
use serde_json::{Value, json};

type Answer = Result<HttpResponse, ApiError>;

/// The solved world as it is oriented: cameras, landmarks and grid in space.
pub async fn world(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    let shot = app.store.shot(*shot).await?;
    let Some(id) = shot.state.attempt else {
        return Ok(HttpResponse::Ok().json(json!({ "cameras": [], "points": [] })));
    };
    let kept = app.attempt(id).await?;
    let orientation = orientation(&app, &shot, &kept).await?;
    let change = orientation.change;
    let cameras: Vec<Value> = kept
        .attempt
        .frames
        .iter()
        .map(|f| {
            let matrix: Vec<f64> = change.pose(&f.pose).world_from_camera().iter().copied().collect();
            let lens = kept.attempt.lens_at(f);
            let (d, radius) = (&lens.distortion, lens.distortion.valid_radius());
            json!({ "frame": f.frame.0, "rms": short(f.rms_px, 3), "features": f.features, "focal_px": lens.focal_px, "matrix": matrix,
                "centre": [lens.centre.x, lens.centre.y], "terms": [d.k1, d.k2, d.k3, d.p1, d.p2], "radius": radius.is_finite().then_some(radius) })
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
    let lens = &kept.attempt.lens;
    Ok(HttpResponse::Ok().json(json!({
        "cameras": cameras, "points": points, "grid_m": shot.state.grid_m,
        "levelled": orientation.levelled, "ground": orientation.ground,
        "size": [lens.width_px, lens.height_px], "handle": handle::parts().iter().map(part).collect::<Vec<_>>(),
    })))
}

/// A part of the handle that things are moved by, in lengths of an arm.
fn part(part: &handle::Part) -> Value {
    let xyz = |v: &Vector3<f64>| [v.x, v.y, v.z];
    json!({ "what": said(part.drags), "axis": part.axis, "at": xyz(&part.knob), "step": xyz(&part.step),
        "lines": part.lines.iter().map(|ends| [xyz(&ends[0]), xyz(&ends[1])]).collect::<Vec<_>>() })
}

/// What dragging a part does, as it is sent.
pub fn said(drags: handle::Drags) -> &'static str {
    match drags {
        handle::Drags::Shift => "shift",
        handle::Drags::Turn => "turn",
        handle::Drags::Scale => "scale",
    }
}

/// How the camera runs over time, each quantity with its errors and spikes; focal lengths in mm.
pub async fn curves(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    let shot = app.store.shot(*shot).await?;
    let Some(id) = shot.state.attempt else {
        return Ok(HttpResponse::Ok().json(json!({ "frames": [] })));
    };
    let kept = app.attempt(id).await?;
    let change = orientation(&app, &shot, &kept).await?.change;
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
