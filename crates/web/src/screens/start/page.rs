//! The page with the list of shots.

use crate::app::App;
use crate::error::ApiError;
use actix_web::{HttpResponse, web};
use askama::Template;
use parallax_store::shots::Shot;

#[derive(Template)]
#[template(path = "start/page.html")]
struct StartPage {
    shots: Vec<Shot>,
    binned: Vec<Shot>,
    plates_allowed: bool,
}

/// The list.
pub async fn page(app: web::Data<App>) -> Result<HttpResponse, ApiError> {
    let page = StartPage {
        shots: app.store.shots(false).await?,
        binned: app.store.shots(true).await?,
        plates_allowed: app.config.plates.is_some(),
    };
    Ok(HttpResponse::Ok()
        .content_type("text/html; charset=utf-8")
        .body(page.render()?))
}
