//! The stations of one photograph: rails, orient, proof, deliver.

mod answer;
mod drawn;
mod figures;
mod laying;
pub mod package;
pub mod view;

use super::routes::{Route, get, post};

/// Addresses of a photograph.
pub fn routes() -> Vec<Route> {
    vec![
        post("/api/shots/{shot}/photo", laying::solve),
        post("/api/shots/{shot}/photo/settle", laying::settle),
        get("/api/shots/{shot}/photo/suggested", laying::suggested),
    ]
}
