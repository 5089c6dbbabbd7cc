//! The Deliver station: packages that are proven, undistorted plates.

mod package;
mod packages;
mod undistorted;
pub mod view;
pub mod work;

use super::routes::{Route, get};

/// Addresses of the station.
pub fn routes() -> Vec<Route> {
    vec![
        get("/api/shots/{shot}/camera", packages::camera),
        get("/api/shots/{shot}/deliveries/{delivery}", packages::package),
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
