//! The application in the browser: stations, API and background work.
//!
//! From the top down; each knows only what stands below it.
//! - [`server`]: how it starts; `guard`: host and origin checks, security headers.
//! - `work`: the background workers, which hand each job to the station that it belongs to.
//! - [`screens`]: one folder a station, with its routes, its work, what it shows and says, its templates and
//!   its tests; the page that holds them, the list of shots, the photograph.
//! - `intake`: how plates come in.
//! - `shot`: what is known of a shot: facts, tracks, lens, what a solve is made from, the artist's world.
//! - `said`: how it is put: findings, standing, words.
//! - `app`: what the server holds; `jobs`, `recent`, `used`, `view_cache`, `underway`: its parts; `error`.
#![cfg_attr(test, allow(clippy::unwrap_used))]

mod app;
mod archive;
mod edited;
mod error;
mod guard;
mod intake;
mod jobs;
mod movies;
mod recent;
mod said;
pub mod screens;
mod server;
mod shot;
mod underway;
mod used;
mod view_cache;
mod work;

pub use app::{App, Config, USUAL_VIEW_BYTES};
pub use server::start;
