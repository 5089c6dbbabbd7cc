//! Guests as the page draws them: surfaces, places, cameras, light; and a picture as the movie will have it.

use crate::app::App;
use crate::error::{ApiError, Refused};
use crate::said::words::short;
use crate::shot::guests::{proofing, set, standing_all, surface_file};
use crate::shot::world::{current, current_world};
use actix_web::{HttpResponse, web};
use parallax_core::camera::Similarity;
use parallax_core::guest::What;
use parallax_core::render::light::about;
use parallax_core::render::{Light, Piece};
use parallax_core::spaces::FrameNumber;
use parallax_media::texture;
use serde::Deserialize;
use serde_json::{Value, json};

type Answer = Result<HttpResponse, ApiError>;

/// What a guest is, as JSON.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Wanted {
    what: String,
}

/// The surface of a guest as GLB.
pub async fn surface_of(app: web::Data<App>, wanted: web::Query<Wanted>) -> Answer {
    let unreadable = |_| ApiError::Unreadable { what: "query" };
    let what: What = serde_json::from_str(&wanted.what).map_err(unreadable)?;
    if !what.is_possible() {
        return Err(parallax_store::Invalid::Guest.into());
    }
    let bytes = surface_file(&app, &what).await?;
    Ok(HttpResponse::Ok()
        .content_type("model/gltf-binary")
        .body(bytes))
}

/// Row by row, as it is sent; `None` of a guest whose feature is nowhere.
fn matrix(there: Option<Similarity>) -> Option<Vec<f64>> {
    let there = there?;
    let linear = there.rotation.to_rotation_matrix().into_inner() * there.scale;
    let row = |k: usize| {
        [
            linear[(k, 0)],
            linear[(k, 1)],
            linear[(k, 2)],
            there.translation[k],
        ]
    };
    let rows = (0..3).flat_map(row).map(|v| short(v, 6));
    Some(rows.chain([0.0, 0.0, 0.0, 1.0]).collect())
}

fn piece(p: &Piece, light: &Light) -> Value {
    let (right, up) = about(&p.normal);
    // In the sun, as far as it can be.
    let lit = if p.normal.dot(&light.towards) < 0.0 {
        -p.normal
    } else {
        p.normal
    };
    let three = |v: nalgebra::Vector3<f64>| [v.x, v.y, v.z].map(|v| short(v, 6));
    let half = p.half_m.map(|h| h.is_finite().then(|| short(h, 4)));
    json!({
        "at": three(p.at.coords), "normal": three(p.normal), "right": three(right), "up": three(up),
        "half": half, "catches": p.catches, "solid": p.solid, "left": short(light.left(&lit, 0.0, 1.0), 4),
    })
}

/// All that the page needs to draw guests by itself.
pub async fn guests(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    let (shot, kept, orientation) = current_world(&app, *shot).await?;
    let all = standing_all(&app, &shot, &kept, &orientation).await?;
    let guests: Vec<Value> = all
        .iter()
        .map(|(id, standing)| {
            let at = |time: f64| matrix(standing.placed(time));
            // Of what moves a place and a lie for each frame.
            let frames: Vec<_> = match standing.guest.moves() {
                true => kept.attempt.frames.iter().map(|f| {
                    let time = f64::from(f.frame.0);
                    (f.frame.0, at(time), standing.guest.lie_at(time))
                }).collect(),
                false => Vec::new(),
            };
            let [low, high] = standing.surface.mesh.bounds().unwrap_or_default();
            let empty = standing.surface.mesh.triangles.is_empty();
            json!({
                "id": id, "what": standing.guest.what, "hidden": standing.guest.hidden, "matrix": at(0.0),
                "frames": frames, "low": [low.x, low.y, low.z], "high": [high.x, high.y, high.z], "empty": empty,
            })
        })
        .collect();
    let sun = shot.state.sun;
    let light = Light::from(&sun);
    let towards = light.towards;
    Ok(HttpResponse::Ok().json(json!({
        "guests": guests, "set": set(&shot, &orientation).iter().map(|p| piece(p, &light)).collect::<Vec<_>>(),
        "sun": { "towards": [towards.x, towards.y, towards.z], "strength": sun.strength, "sky": sun.sky, "ground": light.of_ground() },
    })))
}

/// A frame and how finely it is drawn.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Frame {
    frame: i32,
    rays: Option<u32>,
}

/// Rays a px of a single picture, and most.
const USUAL_RAYS: u32 = 16;
const MOST_RAYS: u32 = 64;

/// A frame of the plate with its guests as the movie will have it, PNG.
pub async fn picture(
    app: web::Data<App>,
    shot: web::Path<i64>,
    wanted: web::Query<Frame>,
) -> Answer {
    let (shot, kept) = current(&app, *shot).await?;
    let rays = wanted.rays.unwrap_or(USUAL_RAYS).clamp(1, MOST_RAYS);
    let proofing = proofing(&app, &shot, &kept, rays).await?;
    let files = app.files(&shot).await?;
    let frame = FrameNumber(wanted.frame);
    let file = files
        .iter()
        .find(|(f, _)| *f == frame)
        .map(|(_, path)| path.clone());
    let file = file.ok_or(crate::error::Absent::Frame(frame.0))?;
    let drawn = move || {
        let made = proofing.frame(&file, frame)?;
        Ok(texture::encode_rgb(
            made.width as u32,
            made.height as u32,
            made.rgb,
        ))
    };
    let bytes = web::block(drawn).await?.map_err(Refused::Proof)?;
    Ok(HttpResponse::Ok().content_type("image/png").body(bytes))
}
