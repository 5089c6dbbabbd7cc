//! Camera bodies that are kept, and given to shots.

use crate::app::App;
use crate::edited::Edited;
use crate::error::ApiError;
use actix_web::{HttpResponse, web};
use parallax_core::bodies::FORMATS;
use parallax_core::plate::FilmBack;
use parallax_store::Invalid;
use parallax_store::bodies::Body;
use serde_json::json;

type Answer = Result<HttpResponse, ApiError>;

async fn all(app: &App) -> Answer {
    let format = |(name, film_back): &(&str, _)| Body {
        name: (*name).to_owned(),
        film_back: *film_back,
    };
    let formats: Vec<Body> = FORMATS.iter().map(format).collect();
    Ok(HttpResponse::Ok().json(json!({ "kept": app.store.bodies().await?, "formats": formats })))
}

/// Kept bodies and the common formats.
pub async fn list(app: web::Data<App>) -> Answer {
    all(&app).await
}

/// Keeps a body; one of the same name is replaced.
pub async fn keep(app: web::Data<App>, body: web::Json<Body>) -> Answer {
    app.store.keep_body(&body).await?;
    all(&app).await
}

/// Forgets a body.
pub async fn forget(app: web::Data<App>, name: web::Path<String>) -> Answer {
    app.store.forget_body(&name).await?;
    all(&app).await
}

/// States the film back of a shot: the largest part of the body's that has the picture's proportions.
pub async fn take(
    app: web::Data<App>,
    shot: web::Path<i64>,
    back: web::Json<FilmBack>,
) -> Result<Edited, ApiError> {
    if !back.is_plausible() {
        return Err(Invalid::FilmBack.into());
    }
    let size = app.store.shot(*shot).await?;
    let fitted = back.fitted(size.width_px, size.height_px);
    let patch = json!({ "film_back": fitted });
    app.store
        .edit(*shot, "state the film back", |s| s.patched(&patch))
        .await?;
    Ok(Edited::of(*shot))
}
