//! The Orient station: the world upright and in metres.

mod proposals;
pub mod statements;
pub mod view;

use super::routes::{Route, get};

/// Addresses of the station.
pub fn routes() -> Vec<Route> {
    vec![get("/api/shots/{shot}/proposals", proposals::proposals)]
}
