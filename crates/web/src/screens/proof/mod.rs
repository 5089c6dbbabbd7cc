//! The Proof station: guests in the plate, and how far they are expected to slip.

mod at;
pub mod findings;
mod guests;
pub mod models;
pub mod movie;
mod path;
mod placing;
mod reel;
mod slip;
pub mod view;
pub mod work;

use super::routes::{Route, delete, get, post};

/// Addresses of the station.
pub fn routes() -> Vec<Route> {
    vec![
        get("/api/shots/{shot}/guests", guests::guests),
        get("/api/shots/{shot}/guests/picture", guests::picture),
        get("/api/surface", guests::surface_of),
        get("/api/models", models::list),
        post("/api/models", models::take),
        delete("/api/models/{model}", models::forget),
        get("/api/shots/{shot}/place-guest", placing::place),
        get("/api/shots/{shot}/sun", placing::sun),
        get("/api/shots/{shot}/movie", movie::download),
        get("/api/shots/{shot}/slip", slip::slip),
        get("/api/shots/{shot}/reel", reel::reel_of),
        post("/api/shots/{shot}/reel", reel::measure),
        get("/api/shots/{shot}/path", path::path_of),
        get("/api/shots/{shot}/slip/field", slip::over_picture),
    ]
}
