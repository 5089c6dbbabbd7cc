//! The Proof station: stand-ins in the plate, and how far they are expected to slip.

mod at;
mod path;
mod reel;
mod slip;
pub mod view;

use super::routes::{Route, get};

/// Addresses of the station.
pub fn routes() -> Vec<Route> {
    vec![
        get("/api/shots/{shot}/slip", slip::slip),
        get("/api/shots/{shot}/reel", reel::reel_of),
        get("/api/shots/{shot}/path", path::path_of),
        get("/api/shots/{shot}/slip/field", slip::over_picture),
    ]
}
