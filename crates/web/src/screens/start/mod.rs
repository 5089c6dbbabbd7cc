//! The list of shots: opened, dropped, picked.

pub mod page;
mod routes;
mod upload;

use super::routes::{Route, get, post};

/// Addresses of the list.
pub fn routes() -> Vec<Route> {
    vec![
        get("/api/shots", routes::list),
        post("/api/shots", routes::open),
        post("/api/uploads", upload::receive),
        get("/api/folders", routes::folders),
    ]
}
