//! The Deliver station: packages that are proven, undistorted plates.

mod folder;
pub mod package;
mod packages;
pub mod plate;
pub mod recipes;
mod undistorted;
pub mod view;
pub mod work;

use super::routes::{Route, get, post};

/// Addresses of the station.
pub fn routes() -> Vec<Route> {
    vec![
        get("/api/shots/{shot}/camera", packages::camera),
        get("/api/shots/{shot}/deliveries/{delivery}", packages::package),
        post("/api/shots/{shot}/recipes/from/{other}", recipes::copy),
        get(
            "/api/shots/{shot}/undistorted/{undistorted}",
            undistorted::package,
        ),
        get(
            "/api/shots/{shot}/undistorted/{undistorted}/{file}",
            undistorted::file,
        ),
    ]
}
