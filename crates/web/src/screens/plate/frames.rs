//! Viewing copies.

use crate::app::App;
use crate::error::{ApiError, Refused};
use actix_web::{HttpResponse, web};
use parallax_core::spaces::FrameNumber;
use parallax_core::track::adjust::Adjustment;
use parallax_media::viewing;
use parallax_store::Invalid;
use serde::Deserialize;
use serde_json::json;

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
        let (what, range) = ("exposure", "-20 and 20 stops");
        return Err(Refused::OutOfRange { what, range }.into());
    }
    let adjust: Option<Adjustment> = adjust
        .map(|text| serde_json::from_str(&text))
        .transpose()
        .map_err(|_| ApiError::Unreadable { what: "`adjust`" })?;
    if let Some(complaint) = adjust.as_ref().and_then(Adjustment::complaint) {
        return Err(Invalid::Adjustment(complaint).into());
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
            let number = FrameNumber(frame);
            let from = app.file_of(&shot, number).await?;
            let made = tokio::task::spawn_blocking(move || -> Result<Vec<u8>, ApiError> {
                match adjust {
                    Some(by) => Ok(viewing::adjusted(&from, number, &by)?),
                    None if stops != 0.0 => Ok(viewing::shown(&from, number, stops)?),
                    None => {
                        let folder = file.parent().unwrap_or(&file);
                        let failed = |source| ApiError::Disk {
                            what: "a viewing copy".to_owned(),
                            source,
                        };
                        std::fs::create_dir_all(folder).map_err(failed)?;
                        viewing::make(&from, &file, number)?;
                        std::fs::read(&file).map_err(failed)
                    }
                }
            });
            made.await??
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

/// How many viewing copies there are.
pub async fn cached(app: web::Data<App>, shot: web::Path<i64>) -> Result<HttpResponse, ApiError> {
    Ok(HttpResponse::Ok().json(json!({ "count": app.views.count(*shot) })))
}
