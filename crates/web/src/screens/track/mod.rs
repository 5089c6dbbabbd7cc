//! The Track station: features, hand tracks, mattes, and what speaks against tracks.

mod choosing;
mod files;
pub mod findings;
pub mod hands;
mod list;
mod looks;
mod mattes;
pub mod view;
pub mod work;

use super::routes::{Route, get, post};

/// Addresses of the station.
pub fn routes() -> Vec<Route> {
    vec![
        get("/api/shots/{shot}/tracks", list::list),
        get("/api/shots/{shot}/tracks.bin", list::packed),
        post("/api/shots/{shot}/tracks", choosing::note),
        post("/api/shots/{shot}/cull", choosing::cull),
        get("/api/shots/{shot}/tracks.csv", files::csv),
        get("/api/shots/{shot}/tracks.json", files::json),
        post("/api/shots/{shot}/tracks/import", files::import).up_to(files::MOST_BYTES),
        get("/api/shots/{shot}/tracks/{track}/look", looks::look),
        get("/api/shots/{shot}/features", looks::features),
        post("/api/shots/{shot}/hands", hands::hands),
        post("/api/shots/{shot}/mattes", mattes::change),
        get("/api/shots/{shot}/mattes/{frame}", mattes::mask),
    ]
}
