//! Open formats, read by code that shares nothing with the writer, and the delivery package with its receipt.
//!
//! - [`camera_json`]: the neutral camera file; [`camera_reader`] reads it.
//! - [`tracks_csv`]: 2D tracks as text, [`tracks_json`] as JSON; [`tracks_reader`] reads the former.
//! - [`survey_csv`]: points that were measured on the set.
//! - [`constraints_json`]: lengths and planes that are known of features.
//! - [`usda`]: OpenUSD as text; [`usda_reader`] reads it back with code of its own.
//! - [`photo_json`]: a photograph with its rails.
//! - [`lens_json`]: a lens, and the straights it was found from.
//! - [`st_map`]: maps for undistorting and distorting, as OpenEXR.
//! - [`undistorted`]: a plate undistorted into a folder, with its maps and their proof.
//! - [`delivery`]: what is handed on, and the files that it becomes.
//! - [`receipt`]: the proof that the files hold the camera that was solved.
#![deny(missing_docs)]
#![cfg_attr(test, allow(clippy::unwrap_used))]

pub mod camera_json;
pub mod camera_reader;
pub mod constraints_json;
pub mod delivery;
pub mod lens_json;
pub mod model;
pub mod path;
pub mod photo_json;
pub mod receipt;
pub mod st_map;
pub mod statements_json;
pub mod survey_csv;
pub mod tracks_csv;
pub mod tracks_json;
pub mod tracks_reader;
pub mod undistorted;
pub mod usda;
pub mod usda_reader;
