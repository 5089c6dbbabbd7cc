//! What is seen and asked for, a folder for each station of the route.
//!
//! A station holds its routes and what they do, its work in the background, how far it is and what is said
//! there (`view.rs`, `findings.rs`), its part of the notebook (`notes.html`) and its tests. `page` puts the
//! stations together to the page of a shot; `start` is the list of shots; `photo` has the stations of a
//! photograph. Stations do not know each other: what two of them need is in [`crate::shot`].

pub mod assets;
pub mod deliver;
pub mod described;
pub mod lens;
pub mod orient;
pub mod page;
pub mod photo;
pub mod plate;
pub mod proof;
pub mod routes;
pub mod solve;
pub mod start;
pub mod track;

use routes::Route;

/// All addresses of the API. Every one is described in `docs/api.md`; a test holds the two together.
pub fn routes() -> Vec<Route> {
    [
        vec![routes::get("/api/openapi.json", described::api)],
        start::routes(),
        page::routes(),
        plate::routes(),
        lens::routes(),
        track::routes(),
        solve::routes(),
        orient::routes(),
        proof::routes(),
        deliver::routes(),
        photo::routes(),
    ]
    .into_iter()
    .flatten()
    .collect()
}
