//! Open formats, read by code that shares nothing with the writer, and the delivery package with its receipt.
//!
//! - [`delivery`]: what is handed on, its recipes, the names of its files, and what explains them.
//! - [`format`]: the formats of a delivery behind one trait.
//! - [`receipt`]: the proof that the files hold the camera that was solved.
//! - [`camera_json`]: the neutral camera file, which [`camera_reader`] reads; [`camera_csv`]: the camera as a table.
//! - [`usd`]: OpenUSD, as text and zipped, with a reader of its own.
//! - [`gltf_scene`]: glTF 2.0.
//! - [`meshes`]: guests as OBJ and PLY, landmarks as PLY.
//! - [`tracks_csv`], [`tracks_json`]: 2D tracks; [`tracks_reader`] reads the former; [`tracks_check`] proves both.
//! - [`path`], [`paths_csv`]: where places are seen on each frame.
//! - [`model`]: models that are put into plates.
//! - [`survey_csv`]: points that were measured on the set.
//! - [`constraints_json`]: lengths and planes that are known of features; [`statements_json`]: where the world lies.
//! - [`photo_json`]: a photograph with its rails.
//! - [`lens_json`]: a lens, and the straights it was found from.
//! - [`st_map`]: maps for undistorting and distorting, as OpenEXR; [`st_maps`]: as part of a delivery.
//! - [`undistorted`]: a plate undistorted into a folder, with its maps and their proof.
#![deny(missing_docs)]
#![cfg_attr(test, allow(clippy::unwrap_used))]

pub mod camera_csv;
pub mod camera_json;
pub mod camera_reader;
pub mod constraints_json;
pub mod delivery;
pub mod format;
pub mod gltf_scene;
pub mod handed_on;
pub mod lens_json;
pub mod meshes;
pub mod model;
pub mod path;
pub mod paths_csv;
pub mod photo_json;
pub mod plate_lens;
pub mod receipt;
pub mod st_map;
pub mod st_maps;
pub mod statements_json;
pub mod survey_csv;
pub mod tracks_check;
pub mod tracks_csv;
pub mod tracks_json;
pub mod tracks_reader;
pub mod undistorted;
pub mod usd;
