//! A camera file with the tracks beside it, as `orient`, `slip` and `path` take it.

use crate::Failure;
use clap::Args;
use parallax_formats::camera_reader::CameraFile;
use parallax_formats::tracks_reader::read_csv;
use parallax_matching::reopening::Reopened;
use std::path::{Path, PathBuf};

/// A solved camera.
#[derive(Args)]
pub struct CameraArgs {
    /// The neutral camera file, such as `match` writes.
    pub camera: PathBuf,
    /// The tracks that it was solved from; `tracks.csv` beside the camera where left out.
    #[arg(long)]
    pub tracks: Option<PathBuf>,
}

/// Reads a text file.
pub fn text_of(path: &Path) -> Result<String, Failure> {
    std::fs::read_to_string(path)
        .map_err(|e| Failure::unreadable(format!("{} cannot be read: {e}", path.display())))
}

impl CameraArgs {
    /// The text of the camera file, the file, and what it is with its tracks.
    pub fn read(&self) -> Result<(String, CameraFile, Reopened), Failure> {
        let named = |path: &Path, e: &dyn std::fmt::Display| {
            Failure::unreadable(format!("{}: {e}", path.display()))
        };
        let text = text_of(&self.camera)?;
        let file = CameraFile::read(&text).map_err(|e| named(&self.camera, &e))?;
        let beside = self.camera.with_file_name("tracks.csv");
        let path = match &self.tracks {
            Some(path) => Some(path.clone()),
            None => beside.is_file().then_some(beside),
        };
        let tracks = match path {
            Some(path) => Some(read_csv(&text_of(&path)?).map_err(|e| named(&path, &e))?),
            None => None,
        };
        let reopened = Reopened::of(&file, tracks);
        Ok((text, file, reopened))
    }
}
