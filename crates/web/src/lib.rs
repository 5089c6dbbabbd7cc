//! The application in the browser: stations, API and background work.
//!
//! - [`app`]: what the server holds, and how it starts.
//! - [`guard`]: host and origin checks, security headers.
//! - [`api`]: the JSON API, one file per subject; documented in `docs/api.md`.
//! - [`pages`]: the pages and the built-in files.
//! - [`work`]: the background worker.
//! - [`flow`]: what follows from what: options, fingerprints, orientation, deliveries.
//! - [`lens`]: the lens of a shot: what is found, drawn and said.
//! - [`photo`]: one photograph: what is solved, drawn and delivered.
//! - `beside`: what is said of two attempts, and of what a change would do.
//! - `underway`: what interrupted work left, so that it goes on.
//! - `view_cache`: viewing copies on disk within a budget.
//! - [`view`]: what a page shows of a shot: stations, figures, findings.
#![cfg_attr(test, allow(clippy::unwrap_used))]

pub mod api;
pub mod app;
mod beside;
pub mod error;
pub mod flow;
pub mod guard;
pub mod intake;
pub mod lens;
pub mod pages;
pub mod photo;
mod said;
pub mod tracking;
mod underway;
mod view;
mod view_cache;
pub mod work;

pub use app::{App, Config, USUAL_VIEW_BYTES, start};
