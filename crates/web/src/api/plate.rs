//! Viewing copies.

use crate::app::App;
use crate::error::ApiError;
use actix_web::{HttpResponse, web};
use parallax_core::spaces::FrameNumber;
use parallax_media::{Sequence, viewing};
use serde_json::json;

/// The viewing copy of one frame, made on the spot when it is not there yet.
pub async fn frame(app: web::Data<App>, path: web::Path<(i64, i32)>) -> Result<HttpResponse, ApiError> {
    let (shot, frame) = path.into_inner();
    let file = app.views(shot).join(format!("{frame}.jpg"));
    let picture = match tokio::fs::read(&file).await {
        Ok(picture) => picture,
        Err(_) => {
            let shot = app.store.shot(shot).await?;
            let folder = app.views(shot.id);
            let made = tokio::task::spawn_blocking(move || -> Result<Vec<u8>, ApiError> {
                let sequence = Sequence::find(std::path::Path::new(&shot.folder))?;
                let number = FrameNumber(frame);
                let from = sequence.files.iter().find(|(n, _)| *n == number);
                let (_, from) = from.ok_or_else(|| ApiError::NotFound(format!("the plate has no frame {frame}")))?;
                std::fs::create_dir_all(&folder).map_err(|e| ApiError::Failed(e.to_string()))?;
                viewing::make(from, &file, number)?;
                std::fs::read(&file).map_err(|e| ApiError::Failed(e.to_string()))
            });
            made.await.map_err(|e| ApiError::Failed(e.to_string()))??
        }
    };
    Ok(HttpResponse::Ok()
        .content_type("image/jpeg")
        .insert_header(("cache-control", "private, max-age=3600"))
        .insert_header(("content-encoding", "identity"))
        .body(picture))
}

/// How many viewing copies there are.
pub async fn cached(app: web::Data<App>, shot: web::Path<i64>) -> Result<HttpResponse, ApiError> {
    let count = std::fs::read_dir(app.views(*shot))
        .map_or(0, |d| d.filter_map(|e| e.ok()).filter(|e| e.path().extension().is_some_and(|x| x == "jpg")).count());
    Ok(HttpResponse::Ok().json(json!({ "count": count })))
}
