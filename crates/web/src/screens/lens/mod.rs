//! The Lens station: straights, values, the library.

pub mod answer;
mod findings;
mod library;
mod marking;
pub mod view;

use super::routes::{Route, delete, get, post};

/// Addresses of the station.
pub fn routes() -> Vec<Route> {
    vec![
        post("/api/shots/{shot}/lens", marking::draft),
        post("/api/shots/{shot}/lens/snap", marking::snapped),
        get("/api/shots/{shot}/lens/mesh", marking::mesh),
        post("/api/shots/{shot}/lens/keep", library::keep),
        post("/api/shots/{shot}/lens/take", library::take),
        get("/api/lenses", library::list),
        post("/api/lenses", library::import),
        get("/api/lenses/{lens}", library::file),
        delete("/api/lenses/{lens}", library::forget),
    ]
}
