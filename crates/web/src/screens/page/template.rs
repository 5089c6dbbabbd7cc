//! The page of a shot: of footage, or of a photograph.

use crate::app::App;
use crate::error::ApiError;
use crate::shot::facts;
use actix_web::{HttpResponse, web};
use askama::Template;

#[derive(Template)]
#[template(path = "page/page.html")]
struct ShotPage {
    id: i64,
    name: String,
}

#[derive(Template)]
#[template(path = "photo/page.html")]
struct PhotoPage {
    id: i64,
    name: String,
}

/// The page.
pub async fn page(app: web::Data<App>, id: web::Path<i64>) -> Result<HttpResponse, ApiError> {
    let shot = app.store.shot(*id).await?;
    let (id, name) = (shot.id, shot.name.clone());
    let text = match facts::is_photograph(&shot) {
        true => PhotoPage { id, name }.render()?,
        false => ShotPage { id, name }.render()?,
    };
    Ok(HttpResponse::Ok()
        .content_type("text/html; charset=utf-8")
        .body(text))
}
