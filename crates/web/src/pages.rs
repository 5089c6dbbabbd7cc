//! The pages and the files built into the program.

use crate::App;
use crate::error::ApiError;
use actix_web::web::{self, ServiceConfig};
use actix_web::{HttpResponse, http::header};
use askama::Template;
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "assets/"]
struct Assets;

#[derive(Template)]
#[template(path = "start.html")]
struct StartPage {
    shots: Vec<parallax_store::shots::Shot>,
    binned: Vec<parallax_store::shots::Shot>,
    plates_allowed: bool,
}

#[derive(Template)]
#[template(path = "photo.html")]
struct PhotoPage {
    id: i64,
    name: String,
}

#[derive(Template)]
#[template(path = "shot.html")]
struct ShotPage {
    id: i64,
    name: String,
}

/// Registers the pages.
pub fn routes(config: &mut ServiceConfig) {
    config
        .route("/", web::get().to(start))
        .route("/shots/{shot}", web::get().to(shot))
        .route("/assets/{file:.*}", web::get().to(asset));
}

fn page(template: &impl Template) -> Result<HttpResponse, ApiError> {
    let text = template.render()?;
    Ok(HttpResponse::Ok()
        .content_type("text/html; charset=utf-8")
        .body(text))
}

async fn start(app: web::Data<App>) -> Result<HttpResponse, ApiError> {
    page(&StartPage {
        shots: app.store.shots(false).await?,
        binned: app.store.shots(true).await?,
        plates_allowed: app.config.plates.is_some(),
    })
}

async fn shot(app: web::Data<App>, id: web::Path<i64>) -> Result<HttpResponse, ApiError> {
    let shot = app.store.shot(*id).await?;
    if crate::photo::is_photograph(&shot) {
        return page(&PhotoPage {
            id: shot.id,
            name: shot.name,
        });
    }
    page(&ShotPage {
        id: shot.id,
        name: shot.name,
    })
}

async fn asset(file: web::Path<String>) -> HttpResponse {
    let Some(found) = Assets::get(&file) else {
        return HttpResponse::NotFound().finish();
    };
    let kind = mime_guess::from_path(file.as_str()).first_or_octet_stream();
    HttpResponse::Ok()
        .content_type(kind.as_ref())
        .insert_header((header::CACHE_CONTROL, "no-cache"))
        .body(found.data.into_owned())
}
