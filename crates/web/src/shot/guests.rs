//! Guests of a shot with their surfaces, where they stand, and what they meet.

use crate::app::App;
use crate::error::{ApiError, Refused};
use crate::shot::world::orientation;
use parallax_core::camera::Similarity;
use parallax_core::guest::{Guest, Mesh, What, stand_ins};
use parallax_core::orient::Orientation;
use parallax_core::render::{Cameras, Piece, Quality, Traced};
use parallax_core::solve::Attempt;
use parallax_core::spaces::{TrackId, WorldPoint};
use parallax_formats::delivery::Delivered;
use parallax_formats::model::{self, glb};
use parallax_matching::in_scene::piece_of;
use parallax_matching::proofing::{Proofing, Standing};
use parallax_store::attempts::KeptAttempt;
use parallax_store::models::NewModel;
use parallax_store::shots::Shot;
use sha2::{Digest, Sha256};
use std::sync::Arc;

/// Where a feature is in the artist's world.
pub fn anchor(attempt: &Attempt, change: &Similarity, feature: TrackId) -> Option<WorldPoint> {
    Some(change.point(&attempt.landmark(feature)?.point))
}

/// What a surface is remembered by.
fn key(what: &What) -> Result<String, ApiError> {
    Ok(serde_json::to_string(what)?)
}

/// The surface of a guest as GLB: of a model as it is kept.
pub async fn surface_file(app: &App, what: &What) -> Result<Vec<u8>, ApiError> {
    if let What::Model { model } = what {
        return Ok(app.store.model_file(*model).await?);
    }
    let made = surface(app, what).await?;
    Ok(tokio::task::spawn_blocking(move || glb::write("guest", &made.mesh)).await?)
}

/// Forgets a model; guests that are it stay without a surface.
pub async fn forget_model(app: &App, model: i64) -> Result<(), ApiError> {
    app.store.forget_model(model).await?;
    let gone = key(&What::Model { model })?;
    app.surfaces.forget(|key| *key == gone);
    Ok(())
}

/// The surface of a guest, made or read once; refused where its model is gone.
pub async fn surface(app: &App, what: &What) -> Result<Arc<Traced>, ApiError> {
    let key = key(what)?;
    if let Some(made) = app.surfaces.get(key.clone()) {
        return Ok(made);
    }
    let mesh = match what {
        What::Model { model } => model_mesh(app, *model).await?,
        other => {
            let other = other.clone();
            tokio::task::spawn_blocking(move || stand_ins::mesh(&other))
                .await?
                .unwrap_or_default()
        }
    };
    let made = Arc::new(tokio::task::spawn_blocking(move || Traced::of(Arc::new(mesh))).await?);
    app.surfaces.put(key, made.clone());
    Ok(made)
}

async fn model_mesh(app: &App, id: i64) -> Result<Mesh, ApiError> {
    let glb = app.store.model_file(id).await?;
    let read = move || model::read(&[("model.glb".to_owned(), glb)]);
    Ok(tokio::task::spawn_blocking(read)
        .await?
        .map_err(Refused::Model)?)
}

/// Keeps a model; its number.
pub async fn keep_model(app: &App, name: &str, mesh: Mesh) -> Result<i64, ApiError> {
    let named = name.to_owned();
    let written = move || {
        let size = mesh
            .bounds()
            .map(|[low, high]| high - low)
            .unwrap_or_default();
        let size_m = [size.x, size.y, size.z].map(f64::from);
        let bytes = glb::write(&named, &mesh);
        let sum = Sha256::digest(&bytes)
            .iter()
            .map(|b| format!("{b:02x}"))
            .collect::<String>();
        (mesh.triangles.len(), size_m, bytes, sum)
    };
    let (triangles, size_m, glb, sha256) = tokio::task::spawn_blocking(written).await?;
    let model = NewModel {
        name,
        sha256: &sha256,
        triangles,
        size_m,
        glb: &glb,
    };
    Ok(app.store.keep_model(&model).await?)
}

/// A guest in the artist's world.
fn standing(
    guest: &Guest,
    surface: Arc<Traced>,
    attempt: &Attempt,
    change: &Similarity,
) -> Standing {
    Standing {
        anchor: guest
            .at
            .and_then(|feature| anchor(attempt, change, feature)),
        guest: guest.clone(),
        surface,
    }
}

/// All guests with their numbers, surfaces and places, in the artist's world.
pub async fn standing_all(
    app: &App,
    shot: &Shot,
    kept: &Arc<KeptAttempt>,
    orientation: &Orientation,
) -> Result<Vec<(u32, Standing)>, ApiError> {
    let mut out = Vec::new();
    for guest in shot.state.guests.iter() {
        let surface = match surface(app, &guest.what).await {
            Ok(surface) => surface,
            // A model that is gone leaves a guest without a surface, not a shot that cannot be opened.
            Err(ApiError::Store(_) | ApiError::Refused(Refused::Model(_))) => {
                Arc::new(Traced::of(Arc::new(Mesh::default())))
            }
            Err(error) => return Err(error),
        };
        out.push((
            guest.id,
            standing(&guest.it, surface, &kept.attempt, &orientation.change),
        ));
    }
    Ok(out)
}

/// What of the set guests meet: the ground, and stated planes.
pub fn set(shot: &Shot, orientation: &Orientation) -> Vec<Piece> {
    let met = &shot.state.met;
    let ground = orientation.levelled.then(|| Piece {
        catches: met.ground_catches,
        ..Piece::ground(orientation.ground.unwrap_or(0.0))
    });
    let planes = met.planes.iter().filter_map(|plane| {
        let stands = orientation
            .planes
            .iter()
            .find(|p| p.id == plane.statement)?;
        Some(Piece {
            catches: plane.catches,
            solid: plane.solid,
            ..piece_of(stands)?
        })
    });
    ground.into_iter().chain(planes).collect()
}

/// Cameras of an attempt in the artist's world.
pub fn cameras(attempt: &Attempt, change: &Similarity) -> Cameras {
    let eye = |f: &parallax_core::solve::attempt::SolvedFrame| {
        let mut eye = attempt.eye(f);
        eye.pose = change.pose(&eye.pose);
        (f.frame, eye)
    };
    Cameras::of(
        attempt.frames.iter().map(eye),
        attempt.readout.map(|(frames, _)| frames),
    )
}

/// All that pictures with guests depend on.
pub async fn proofing(
    app: &App,
    shot: &Shot,
    kept: &Arc<KeptAttempt>,
    rays: u32,
) -> Result<Proofing, ApiError> {
    let orientation = orientation(app, shot, kept).await?;
    let guests = standing_all(app, shot, kept, &orientation).await?;
    Ok(Proofing {
        guests: guests.into_iter().map(|(_, standing)| standing).collect(),
        set: set(shot, &orientation),
        sun: shot.state.sun,
        cameras: cameras(&kept.attempt, &orientation.change),
        quality: Quality {
            rays: rays as usize,
            shutter_frames: shot.state.shutter_deg / 360.0,
        },
    })
}

/// Guests that are shown, as they are handed on: those that move on every frame of the solve.
pub async fn delivered(
    app: &App,
    shot: &Shot,
    kept: &Arc<KeptAttempt>,
    orientation: &Orientation,
) -> Result<Vec<Delivered>, ApiError> {
    let mut out = Vec::new();
    for (_, standing) in standing_all(app, shot, kept, orientation).await? {
        let frames = kept.attempt.frames.iter();
        let path = frames.map(|f| standing.placed(f64::from(f.frame.0)));
        let path: Option<Vec<Similarity>> = path.collect();
        let Some(path) = path.filter(|_| !standing.guest.hidden) else {
            continue;
        };
        let plain = stand_ins::plain(&standing.guest.what).map(Arc::new);
        let mesh = plain.unwrap_or_else(|| standing.surface.mesh.clone());
        let Some(there) = path.first().copied().filter(|_| !mesh.triangles.is_empty()) else {
            continue;
        };
        let still = Delivered::still(standing.guest.name.clone(), mesh, there);
        let moves = if standing.guest.moves() {
            path
        } else {
            Vec::new()
        };
        out.push(Delivered { moves, ..still });
    }
    Ok(out)
}
