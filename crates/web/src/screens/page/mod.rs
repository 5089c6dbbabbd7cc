//! The page of a shot: its stations put together, its edits, its work.

pub mod answer;
mod events;
pub mod jobs;
pub mod next;
pub mod routes;

pub mod template;
pub mod view;

use super::routes::{Route, get, post};

/// Addresses of a shot as a whole.
pub fn routes() -> Vec<Route> {
    vec![
        get("/api/shots/{shot}", routes::show),
        get("/api/shots/{shot}/events", events::events),
        get("/api/shots/{shot}/route", routes::route),
        post("/api/shots/{shot}", routes::deed),
        post("/api/shots/{shot}/edits", routes::edit),
        post("/api/shots/{shot}/undo", routes::undo),
        post("/api/shots/{shot}/redo", routes::redo),
        post("/api/shots/{shot}/jobs", jobs::begin),
        post("/api/jobs/{job}/cancel", jobs::cancel),
    ]
}
