//! The Plate station: files, rate, viewing copies, camera bodies.

mod bodies;
pub mod findings;
mod frames;
pub mod view;
pub mod work;

use super::routes::{Route, delete, get, post};

/// Addresses of the station.
pub fn routes() -> Vec<Route> {
    vec![
        get("/api/shots/{shot}/frames/{frame}", frames::frame),
        get("/api/shots/{shot}/cached", frames::cached),
        get("/api/bodies", bodies::list),
        post("/api/bodies", bodies::keep),
        delete("/api/bodies/{name}", bodies::forget),
        post("/api/shots/{shot}/body", bodies::take),
    ]
}
