//! The solved world as it is oriented: in space, over time, and over the plate.

use crate::app::App;
use crate::error::ApiError;
use crate::said::words::short;
use crate::shot::facts;
use crate::shot::guests::standing_all;
use crate::shot::world::orientation;
use actix_web::{HttpResponse, web};
use parallax_core::camera::{Intrinsics, Pose, Similarity};
use parallax_core::scene::overlay::{project_edge, project_horizon};
use parallax_core::scene::shapes::{Edge, box_edges, ground_grid, plane_grid, plumb_lines};
use parallax_core::solve::Attempt;
use parallax_core::solve::curves::{Curve, Curves};
use parallax_core::spaces::{FrameNumber, PlatePx, WorldPoint};
use parallax_matching::proofing::Standing;
use parallax_store::shots::Shot;
use serde::Deserialize;
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

#[derive(Deserialize)]
pub struct Frames {
    from: i32,
    to: i32,
}

/// Squares of the ground grid each way, and how many plumb lines are tall.
const SQUARES: usize = 24;
const PLUMB_SQUARES: f64 = 5.0;
/// Most frames of overlay in one answer.
const MOST_FRAMES: i32 = 64;

/// Ground grid, boxes about guests and landmarks as they fall on the plate, frame by frame: landmarks as their rows were
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
    let orientation = orientation(&app, &shot, &kept).await?;
    let change = orientation.change;
    let (landmarks, rows) = (&kept.attempt.landmarks, kept.attempt.rows());
    let ground = WorldPoint::new(0.0, orientation.ground.unwrap_or(0.0), 0.0);
    let grid = if orientation.levelled {
        ground_grid(&ground, shot.state.grid_m, SQUARES)
    } else {
        Vec::new()
    };
    let plumbs = match orientation.levelled {
        true => plumb_lines(&ground, shot.state.grid_m, SQUARES / 3, PLUMB_SQUARES),
        false => Vec::new(),
    };
    let walls: Vec<(u32, Vec<Edge>)> = orientation
        .planes
        .iter()
        .map(|p| {
            (
                p.id,
                plane_grid(&p.middle, &p.normal, shot.state.grid_m, p.reach),
            )
        })
        .collect();
    let axes = if orientation.levelled {
        origin_axes()
    } else {
        Vec::new()
    };
    let guests = standing_all(&app, &shot, &kept, &orientation).await?;
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
        let level = |rise_rad: f64| match orientation.levelled {
            true => flat(project_horizon(&lens, &pose, rise_rad)),
            false => Vec::new(),
        };
        let band = orientation.up_sigma_deg.map(f64::to_radians);
        let band: Vec<_> = band.iter().flat_map(|s| [level(-s), level(*s)]).collect();
        let drawn = json!({
            "grid": lines(&lens, &pose, &grid), "plumbs": lines(&lens, &pose, &plumbs), "walls": walls.iter().map(|(id, edges)| (id, lines(&lens, &pose, edges))).collect::<Vec<_>>(),
            "axes": axes.iter().map(|axis| lines(&lens, &pose, std::slice::from_ref(axis))).collect::<Vec<_>>(),
            "horizon": level(0.0), "horizon_band": band,
            "guests": outlines(&guests, f.frame, |edges| lines(&lens, &pose, edges)), "points": seen,
        });
        out.insert(f.frame.to_string(), drawn);
    }
    Ok(HttpResponse::Ok().json(out))
}

/// The box about each guest on a frame; of one that is hidden too, as lines to hold edges of the picture against.
fn outlines(
    guests: &[(u32, Standing)],
    frame: FrameNumber,
    drawn: impl Fn(&[Edge]) -> Vec<Vec<f64>>,
) -> Vec<(u32, Vec<Vec<f64>>)> {
    let one = |(id, standing): &(u32, Standing)| {
        let there = standing.placed(f64::from(frame.0))?;
        let bounds = standing.surface.mesh.bounds()?;
        let edges =
            box_edges(&bounds.map(|c| c.coords.cast())).map(|edge| edge.map(|p| there.point(&p)));
        Some((*id, drawn(&edges)))
    };
    guests.iter().filter_map(one).collect()
}

fn lines(lens: &Intrinsics, pose: &Pose, edges: &[Edge]) -> Vec<Vec<f64>> {
    flat(edges.iter().flat_map(|e| project_edge(lens, pose, e)))
}

/// Lines as they are sent.
fn flat(lines: impl IntoIterator<Item = Vec<PlatePx>>) -> Vec<Vec<f64>> {
    let one = |line: Vec<PlatePx>| {
        let ends = line.iter().flat_map(|p| [short(p.x, 1), short(p.y, 1)]);
        ends.collect()
    };
    lines.into_iter().map(one).collect()
}

/// The directions of the scene at the origin, along, up and across, a unit long.
fn origin_axes() -> Vec<Edge> {
    let origin = WorldPoint::new(0.0, 0.0, 0.0);
    let to = |x: f64, y: f64, z: f64| [origin, WorldPoint::new(x, y, z)];
    vec![to(1.0, 0.0, 0.0), to(0.0, 1.0, 0.0), to(0.0, 0.0, 1.0)]
}
