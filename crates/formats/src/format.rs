//! The formats of a delivery behind one trait: each writes its files, and has them read back by code that shares
//! nothing with the writer and held against the delivery.

use crate::delivery::package::NamedBytes;
use crate::delivery::{Delivery, DeliveryError};
use crate::receipt::{FileReceipt, Held};
use crate::{
    camera_csv, camera_json, gltf_scene, meshes, paths_csv, st_maps, tracks_csv, tracks_json, usd,
};
use serde::{Deserialize, Serialize};

/// One format.
pub trait Format: Sync {
    /// Its files; none where the delivery has nothing for it.
    fn write(&self, delivery: &Delivery<'_>) -> Result<Vec<NamedBytes>, DeliveryError>;

    /// What its files hold, read back and held against what was solved.
    fn check(
        &self,
        delivery: &Delivery<'_>,
        files: &Held<'_>,
    ) -> Result<Vec<FileReceipt>, DeliveryError>;
}

/// Which format.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum FormatKind {
    /// The neutral camera.
    CameraJson,
    /// OpenUSD as text, pictures beside it.
    Usd,
    /// OpenUSD as one zipped file.
    Usdz,
    /// glTF 2.0 with its bytes and pictures beside it.
    Gltf,
    /// glTF 2.0 as one file.
    Glb,
    /// Guests and set as OBJ with MTL.
    Obj,
    /// Guests and set as PLY.
    Ply,
    /// Landmarks as PLY.
    LandmarksPly,
    /// The camera as a table.
    CameraCsv,
    /// Tracks as comma-separated text.
    TracksCsv,
    /// Tracks as JSON.
    TracksJson,
    /// Where landmarks and guests are seen on each frame.
    PathsCsv,
    /// Maps that undistort the plate and distort what is added.
    StMaps,
}

impl FormatKind {
    /// All, in the order in which they are written.
    pub const ALL: [Self; 13] = [
        Self::CameraJson,
        Self::Usd,
        Self::Usdz,
        Self::Gltf,
        Self::Glb,
        Self::Obj,
        Self::Ply,
        Self::LandmarksPly,
        Self::CameraCsv,
        Self::TracksCsv,
        Self::TracksJson,
        Self::PathsCsv,
        Self::StMaps,
    ];
    /// What a delivery without a recipe is written as.
    pub const PLAIN: [Self; 3] = [Self::CameraJson, Self::Usd, Self::TracksCsv];

    /// The format itself.
    pub fn format(self) -> &'static dyn Format {
        match self {
            Self::CameraJson => &camera_json::Neutral,
            Self::Usd => &usd::Text,
            Self::Usdz => &usd::Zipped,
            Self::Gltf => &gltf_scene::Separate,
            Self::Glb => &gltf_scene::Together,
            Self::Obj => &meshes::Obj,
            Self::Ply => &meshes::Ply,
            Self::LandmarksPly => &meshes::Landmarks,
            Self::CameraCsv => &camera_csv::Table,
            Self::TracksCsv => &tracks_csv::Rows,
            Self::TracksJson => &tracks_json::Json,
            Self::PathsCsv => &paths_csv::Paths,
            Self::StMaps => &st_maps::StMaps,
        }
    }

    /// Whether it holds what landmarks look like.
    pub fn is_coloured(self) -> bool {
        matches!(self, Self::Usd | Self::Usdz | Self::LandmarksPly)
    }

    /// Whether it holds things that move by themselves.
    pub fn holds_bodies(self) -> bool {
        matches!(
            self,
            Self::CameraJson | Self::Usd | Self::Usdz | Self::Gltf | Self::Glb | Self::PathsCsv
        )
    }

    /// What it is, in a few words.
    pub fn title(self) -> &'static str {
        match self {
            Self::CameraJson => "neutral camera, JSON",
            Self::Usd => "OpenUSD, text",
            Self::Usdz => "OpenUSD, one zipped file",
            Self::Gltf => "glTF 2.0, separate files",
            Self::Glb => "glTF 2.0, one file (GLB)",
            Self::Obj => "guests and set as OBJ with MTL",
            Self::Ply => "guests and set as PLY",
            Self::LandmarksPly => "landmarks as PLY",
            Self::CameraCsv => "camera as a table, CSV",
            Self::TracksCsv => "tracks, CSV",
            Self::TracksJson => "tracks, JSON",
            Self::PathsCsv => "paths on screen, CSV",
            Self::StMaps => "ST maps, OpenEXR",
        }
    }
}
