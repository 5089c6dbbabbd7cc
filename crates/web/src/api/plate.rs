//! Viewing copies.

use crate::app::App;
use crate::error::ApiError;
use actix_web::{HttpResponse, web};
use parallax_core::spaces::FrameNumber;
use parallax_core::track::adjust::Adjustment;
use parallax_media::{Sequence, viewing};
use parallax_store::shots::Shot;
use serde::Deserialize;
use serde_json::json;
use std::path::PathBuf;

/// How a frame is looked at.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Look {
    /// Brighter by so many stops.
    #[serde(default)]
    stops: f64,
    /// An adjustment for following, JSON; the picture is then shown as it is followed.
    adjust: Option<String>,
}

/// The viewing copy of one frame, made on the spot when it is not there yet, or another look at it.
pub async fn frame(
    app: web::Data<App>,
    path: web::Path<(i64, i32)>,
    look: web::Query<Look>,
) -> Result<HttpResponse, ApiError> {
    let (shot, frame) = path.into_inner();
    let Look { stops, adjust } = look.into_inner();
    if !(-20.0..=20.0).contains(&stops) {
        return Err(ApiError::Refused(
            "exposure lies between -20 and 20 stops".to_owned(),
        ));
    }
    let adjust: Option<Adjustment> = adjust
        .map(|text| serde_json::from_str(&text))
        .transpose()
        .map_err(|e| ApiError::Refused(format!("that is no adjustment: {e}")))?;
    if let Some(complaint) = adjust.as_ref().and_then(Adjustment::complaint) {
        return Err(ApiError::Refused(complaint.to_owned()));
    }
    let plain = adjust.is_none() && stops == 0.0;
    let file = app.views.path((shot, frame));
    let kept = if plain {
        tokio::fs::read(&file).await.ok()
    } else {
        None
    };
    let picture = match kept {
        Some(picture) => picture,
        None => {
            let shot = app.store.shot(shot).await?;
            let made = tokio::task::spawn_blocking(move || -> Result<Vec<u8>, ApiError> {
                let number = FrameNumber(frame);
                let from = source(&shot, number)?;
                match adjust {
                    Some(by) => Ok(viewing::adjusted(&from, number, &by)?),
                    None if stops != 0.0 => Ok(viewing::shown(&from, number, stops)?),
                    None => {
                        let folder = file.parent().unwrap_or(&file);
                        std::fs::create_dir_all(folder)
                            .map_err(|e| ApiError::Failed(e.to_string()))?;
                        viewing::make(&from, &file, number)?;
                        std::fs::read(&file).map_err(|e| ApiError::Failed(e.to_string()))
                    }
                }
            });
            made.await.map_err(|e| ApiError::Failed(e.to_string()))??
        }
    };
    if plain {
        app.views.used((shot, frame));
    }
    Ok(HttpResponse::Ok()
        .content_type("image/jpeg")
        .insert_header(("cache-control", "private, max-age=3600"))
        .insert_header(("content-encoding", "identity"))
        .body(picture))
}

fn source(shot: &Shot, frame: FrameNumber) -> Result<PathBuf, ApiError> {
    let sequence = Sequence::find(std::path::Path::new(&shot.folder))?;
    let found = sequence.files.into_iter().find(|(n, _)| *n == frame);
    found
        .map(|(_, file)| file)
        .ok_or_else(|| ApiError::NotFound(format!("the plate has no frame {frame}")))
}

/// How many viewing copies there are.
pub async fn cached(app: web::Data<App>, shot: web::Path<i64>) -> Result<HttpResponse, ApiError> {
    Ok(HttpResponse::Ok().json(json!({ "count": app.views.count(*shot) })))
}
