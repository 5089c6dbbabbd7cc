//! The Solve station: attempts, what is known beforehand, the solved world.

mod attempts;
mod beside;
pub mod figures;
pub mod findings;
mod overlay;
mod place;
mod survey;
pub mod view;
pub mod work;
mod world;

use super::routes::{Route, get, post};

/// Addresses of the station.
pub fn routes() -> Vec<Route> {
    vec![
        post(
            "/api/shots/{shot}/attempts/{attempt}",
            attempts::take_attempt,
        ),
        get("/api/shots/{shot}/attempts/{attempt}", attempts::beside),
        get("/api/shots/{shot}/limit", attempts::limit),
        get("/api/shots/{shot}/smoothing", attempts::smoothing),
        get("/api/shots/{shot}/misses", attempts::misses),
        get("/api/shots/{shot}/ellipsoids", attempts::ellipsoids),
        post("/api/shots/{shot}/survey", survey::import).up_to(survey::MOST_BYTES),
        get("/api/shots/{shot}/world", world::world),
        get("/api/shots/{shot}/curves", world::curves),
        get("/api/shots/{shot}/overlay", overlay::overlay),
        get("/api/shots/{shot}/tracks/{track}/place", place::place),
    ]
}
