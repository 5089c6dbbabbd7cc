//! Models that are taken in and kept for all shots.

use crate::app::App;
use crate::error::{ApiError, Refused, TooLarge};
use crate::shot::guests::{forget_model, keep_model};
use actix_multipart::Multipart;
use actix_web::{HttpResponse, web};
use futures_util::TryStreamExt;
use parallax_core::guest::{KINDS, What};
use parallax_formats::model::{self, MOST_BYTES, Named};
use serde_json::{Value, json};

/// Most files of a model: with its textures.
const MOST_FILES: usize = 500;

/// What can be put into a plate: stand-ins as they come, and models.
async fn all(app: &App) -> Result<Value, ApiError> {
    let stand_ins: Vec<What> = KINDS.iter().filter_map(|kind| What::usual(kind)).collect();
    Ok(json!({ "stand_ins": stand_ins, "models": app.store.models().await? }))
}

/// All that can be put into a plate.
pub async fn list(app: web::Data<App>) -> Result<HttpResponse, ApiError> {
    Ok(HttpResponse::Ok().json(all(&app).await?))
}

/// Forgets a model.
pub async fn forget(app: web::Data<App>, model: web::Path<i64>) -> Result<HttpResponse, ApiError> {
    forget_model(&app, *model).await?;
    Ok(HttpResponse::Ok().json(all(&app).await?))
}

/// Takes in a model with the files that it names; nothing is kept of one that cannot be drawn.
pub async fn take(app: web::Data<App>, files: Multipart) -> Result<HttpResponse, ApiError> {
    let files = received(files).await?;
    let name = files
        .iter()
        .map(|(name, _)| name.as_str())
        .find(|name| {
            [".glb", ".gltf", ".obj", ".ply"]
                .iter()
                .any(|e| name.to_lowercase().ends_with(e))
        })
        .and_then(|name| name.rsplit_once('.'))
        .map_or("model", |(stem, _)| stem)
        .to_owned();
    let read = move || model::read(&files);
    let mesh = tokio::task::spawn_blocking(read)
        .await?
        .map_err(Refused::Model)?;
    let id = keep_model(&app, &name, mesh).await?;
    let mut answer = all(&app).await?;
    answer["model"] = json!(id);
    Ok(HttpResponse::Created().json(answer))
}

/// The files as they came, bounded; in memory, where a model is read.
async fn received(mut files: Multipart) -> Result<Vec<Named>, ApiError> {
    let broken = |e: actix_multipart::MultipartError| Refused::BrokenUpload(e.to_string());
    let (mut out, mut total): (Vec<Named>, usize) = (Vec::new(), 0);
    while let Some(mut field) = files.try_next().await.map_err(broken)? {
        let stated = field
            .content_disposition()
            .and_then(|d| d.get_filename())
            .map(str::to_owned);
        let Some(name) = stated else { continue };
        if out.len() >= MOST_FILES {
            return Err(TooLarge::Files { most: MOST_FILES }.into());
        }
        let mut bytes = Vec::new();
        while let Some(chunk) = field.try_next().await.map_err(broken)? {
            total += chunk.len();
            if total > MOST_BYTES {
                return Err(TooLarge::Drop { name }.into());
            }
            bytes.extend_from_slice(&chunk);
        }
        out.push((
            name.chars().filter(|c| !c.is_control()).take(200).collect(),
            bytes,
        ));
    }
    Ok(out)
}
