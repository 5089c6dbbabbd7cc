//! The JSON API. Every route is listed in `docs/api.md`; a test holds the two together.

mod attempts;
mod bodies;
mod hands;
mod lens;
mod mattes;
mod photo;
mod place;
mod plate;
mod results;
mod shots;
mod survey;
mod tracks;
mod undistorted;
pub mod upload;

use actix_web::web::{self, ServiceConfig};

/// Method and path of every route.
pub const ROUTES: [(&str, &str); 55] = [
    ("GET", "/api/shots"),
    ("POST", "/api/shots"),
    ("POST", "/api/uploads"),
    ("GET", "/api/folders"),
    ("GET", "/api/shots/{shot}"),
    ("POST", "/api/shots/{shot}/edits"),
    ("POST", "/api/shots/{shot}"),
    ("POST", "/api/shots/{shot}/attempts/{attempt}"),
    ("GET", "/api/shots/{shot}/attempts/{attempt}"),
    ("GET", "/api/shots/{shot}/limit"),
    ("GET", "/api/shots/{shot}/smoothing"),
    ("GET", "/api/shots/{shot}/misses"),
    ("GET", "/api/shots/{shot}/ellipsoids"),
    ("POST", "/api/shots/{shot}/survey"),
    ("POST", "/api/shots/{shot}/undo"),
    ("POST", "/api/shots/{shot}/redo"),
    ("POST", "/api/shots/{shot}/cull"),
    ("POST", "/api/shots/{shot}/jobs"),
    ("POST", "/api/jobs/{job}/cancel"),
    ("GET", "/api/shots/{shot}/frames/{frame}"),
    ("GET", "/api/shots/{shot}/cached"),
    ("GET", "/api/shots/{shot}/tracks"),
    ("GET", "/api/shots/{shot}/world"),
    ("GET", "/api/shots/{shot}/curves"),
    ("GET", "/api/shots/{shot}/overlay"),
    ("GET", "/api/shots/{shot}/camera"),
    ("POST", "/api/shots/{shot}/tracks"),
    ("GET", "/api/shots/{shot}/tracks.csv"),
    ("GET", "/api/shots/{shot}/tracks.json"),
    ("POST", "/api/shots/{shot}/tracks/import"),
    ("GET", "/api/shots/{shot}/tracks/{track}/look"),
    ("GET", "/api/shots/{shot}/tracks/{track}/place"),
    ("GET", "/api/shots/{shot}/features"),
    ("POST", "/api/shots/{shot}/hands"),
    ("POST", "/api/shots/{shot}/mattes"),
    ("GET", "/api/shots/{shot}/mattes/{frame}"),
    ("GET", "/api/shots/{shot}/deliveries/{delivery}"),
    ("GET", "/api/shots/{shot}/undistorted/{undistorted}"),
    ("GET", "/api/shots/{shot}/undistorted/{undistorted}/{file}"),
    ("GET", "/api/bodies"),
    ("POST", "/api/bodies"),
    ("DELETE", "/api/bodies/{name}"),
    ("POST", "/api/shots/{shot}/body"),
    ("GET", "/api/lenses"),
    ("POST", "/api/lenses"),
    ("GET", "/api/lenses/{lens}"),
    ("DELETE", "/api/lenses/{lens}"),
    ("POST", "/api/shots/{shot}/lens"),
    ("POST", "/api/shots/{shot}/lens/snap"),
    ("GET", "/api/shots/{shot}/lens/mesh"),
    ("POST", "/api/shots/{shot}/lens/keep"),
    ("POST", "/api/shots/{shot}/lens/take"),
    ("POST", "/api/shots/{shot}/photo"),
    ("POST", "/api/shots/{shot}/photo/settle"),
    ("GET", "/api/shots/{shot}/photo/suggested"),
];

/// Registers all routes.
pub fn routes(config: &mut ServiceConfig) {
    config
        .route("/api/shots", web::get().to(shots::list))
        .route("/api/shots", web::post().to(shots::open))
        .route("/api/uploads", web::post().to(upload::receive))
        .route("/api/folders", web::get().to(shots::folders))
        .route("/api/shots/{shot}", web::get().to(shots::show))
        .route("/api/shots/{shot}", web::post().to(shots::deed))
        .route(
            "/api/shots/{shot}/attempts/{attempt}",
            web::post().to(shots::take_attempt),
        )
        .route(
            "/api/shots/{shot}/attempts/{attempt}",
            web::get().to(attempts::beside),
        )
        .route("/api/shots/{shot}/limit", web::get().to(attempts::limit))
        .route(
            "/api/shots/{shot}/smoothing",
            web::get().to(attempts::smoothing),
        )
        .route("/api/shots/{shot}/misses", web::get().to(attempts::misses))
        .route(
            "/api/shots/{shot}/ellipsoids",
            web::get().to(attempts::ellipsoids),
        )
        .service(
            web::resource("/api/shots/{shot}/survey")
                .app_data(web::PayloadConfig::new(survey::MOST_BYTES))
                .route(web::post().to(survey::import)),
        )
        .route("/api/shots/{shot}/edits", web::post().to(shots::edit))
        .route("/api/shots/{shot}/undo", web::post().to(shots::undo))
        .route("/api/shots/{shot}/redo", web::post().to(shots::redo))
        .route("/api/shots/{shot}/cull", web::post().to(shots::cull))
        .route("/api/shots/{shot}/jobs", web::post().to(shots::begin))
        .route("/api/jobs/{job}/cancel", web::post().to(shots::cancel))
        .route(
            "/api/shots/{shot}/frames/{frame}",
            web::get().to(plate::frame),
        )
        .route("/api/shots/{shot}/cached", web::get().to(plate::cached))
        .route("/api/shots/{shot}/tracks", web::get().to(tracks::list))
        .route("/api/shots/{shot}/tracks", web::post().to(tracks::note))
        .route("/api/shots/{shot}/world", web::get().to(results::world))
        .route("/api/shots/{shot}/curves", web::get().to(results::curves))
        .route("/api/shots/{shot}/overlay", web::get().to(results::overlay))
        .route("/api/shots/{shot}/camera", web::get().to(results::camera))
        .route("/api/shots/{shot}/tracks.csv", web::get().to(tracks::csv))
        .route("/api/shots/{shot}/tracks.json", web::get().to(tracks::json))
        .service(
            web::resource("/api/shots/{shot}/tracks/import")
                .app_data(web::PayloadConfig::new(tracks::MOST_BYTES))
                .route(web::post().to(tracks::import)),
        )
        .route(
            "/api/shots/{shot}/tracks/{track}/place",
            web::get().to(place::place),
        )
        .route(
            "/api/shots/{shot}/tracks/{track}/look",
            web::get().to(tracks::look),
        )
        .route(
            "/api/shots/{shot}/features",
            web::get().to(tracks::features),
        )
        .route("/api/shots/{shot}/hands", web::post().to(hands::hands))
        .route("/api/shots/{shot}/mattes", web::post().to(mattes::change))
        .route(
            "/api/shots/{shot}/mattes/{frame}",
            web::get().to(mattes::mask),
        )
        .route(
            "/api/shots/{shot}/deliveries/{delivery}",
            web::get().to(results::package),
        )
        .route(
            "/api/shots/{shot}/undistorted/{undistorted}",
            web::get().to(undistorted::package),
        )
        .route(
            "/api/shots/{shot}/undistorted/{undistorted}/{file}",
            web::get().to(undistorted::file),
        )
        .route("/api/bodies", web::get().to(bodies::list))
        .route("/api/bodies", web::post().to(bodies::keep))
        .route("/api/bodies/{name}", web::delete().to(bodies::forget))
        .route("/api/shots/{shot}/body", web::post().to(bodies::take))
        .route("/api/lenses", web::get().to(lens::list))
        .route("/api/lenses", web::post().to(lens::import))
        .route("/api/lenses/{lens}", web::get().to(lens::file))
        .route("/api/lenses/{lens}", web::delete().to(lens::forget))
        .route("/api/shots/{shot}/lens", web::post().to(lens::draft))
        .route("/api/shots/{shot}/lens/snap", web::post().to(lens::snapped))
        .route("/api/shots/{shot}/lens/mesh", web::get().to(lens::mesh))
        .route("/api/shots/{shot}/lens/keep", web::post().to(lens::keep))
        .route("/api/shots/{shot}/lens/take", web::post().to(lens::take))
        .route("/api/shots/{shot}/photo", web::post().to(photo::solve))
        .route(
            "/api/shots/{shot}/photo/settle",
            web::post().to(photo::settle),
        )
        .route(
            "/api/shots/{shot}/photo/suggested",
            web::get().to(photo::suggested),
        );
}
