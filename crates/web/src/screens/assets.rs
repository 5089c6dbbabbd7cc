//! The files built into the program: scripts, styles, fonts.

use actix_web::http::header;
use actix_web::{HttpResponse, web};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "assets/"]
struct Assets;

/// One of the files.
pub async fn asset(file: web::Path<String>) -> HttpResponse {
    let Some(found) = Assets::get(&file) else {
        return HttpResponse::NotFound().finish();
    };
    let kind = mime_guess::from_path(file.as_str()).first_or_octet_stream();
    HttpResponse::Ok()
        .content_type(kind.as_ref())
        .insert_header((header::CACHE_CONTROL, "no-cache"))
        .body(found.data.into_owned())
}
