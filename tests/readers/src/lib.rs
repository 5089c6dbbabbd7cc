//! Every reader of what comes from elsewhere, behind one door: bytes go in, and whatever they are,
//! nothing panics, hangs or takes more room than a picture may. The corpus run among the tests and
//! the fuzz targets (`fuzz/`) both come through here.

use parallax_core::lens::stated::stated;
use parallax_core::lens::straights::solve_straights;
use parallax_core::photo::{place, solve};
use parallax_formats::camera_reader::CameraFile;
use parallax_formats::lens_json::{LensFile, StraightsFile};
use parallax_formats::photo_json::PhotoFile;
use parallax_formats::{tracks_json, tracks_reader, usda_reader};
use parallax_media::{exif, picture, stated_rate};
use parallax_store::ShotState;
use std::path::Path;

/// A reader.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Reader {
    /// Neutral camera files.
    Camera,
    /// Tracks as comma-separated text.
    TracksCsv,
    /// Tracks as JSON.
    TracksJson,
    /// OpenUSD text.
    Usda,
    /// Lenses.
    Lens,
    /// Straights, and the lens of them.
    Straights,
    /// Photographs with their rails, solved and placed.
    Photo,
    /// Changes of a shot's state, and the lens that comes of them.
    Patch,
    /// Pictures: header, rate, Exif, px. The ending is that of the kind.
    Picture(&'static str),
}

impl Reader {
    /// All of them.
    pub const ALL: [Self; 12] = [
        Self::Camera,
        Self::TracksCsv,
        Self::TracksJson,
        Self::Usda,
        Self::Lens,
        Self::Straights,
        Self::Photo,
        Self::Patch,
        Self::Picture("png"),
        Self::Picture("jpg"),
        Self::Picture("tif"),
        Self::Picture("exr"),
    ];

    /// Reads; what it comes to does not matter.
    pub fn read(self, bytes: &[u8]) {
        if let Self::Picture(ending) = self {
            return read_picture(bytes, ending);
        }
        let text = String::from_utf8_lossy(bytes);
        match self {
            Self::Camera => drop(CameraFile::read(&text)),
            Self::TracksCsv => drop(tracks_reader::read_csv(&text)),
            Self::TracksJson => drop(tracks_json::read(&text)),
            Self::Usda => drop(usda_reader::read(&text)),
            Self::Lens => drop(LensFile::read(&text).map(|l| l.lens_for(l.width, l.height))),
            Self::Straights => drop(serde_json::from_str::<StraightsFile>(&text)),
            Self::Photo => read_photo(&text),
            Self::Patch => read_patch(&text),
            Self::Picture(_) => {}
        }
    }
}

fn read_photo(text: &str) {
    let Ok(file) = PhotoFile::read(text) else {
        return;
    };
    if let Ok(perspective) = solve(file.width, file.height, &file.rails, &file.options()) {
        drop(place(&perspective, &file.placement()));
    }
}

fn read_patch(text: &str) {
    let Ok(patch) = serde_json::from_str(text) else {
        return;
    };
    if let Ok(state) = ShotState::new(640, 360).patched(&patch) {
        let lens = &state.lens;
        drop(stated(&lens.typed(640, 360, None), lens.values.convention));
        drop(solve_straights(
            640,
            360,
            &lens.marks(),
            &lens.options(None),
        ));
    }
}

fn read_picture(bytes: &[u8], ending: &str) {
    let Ok(folder) = tempfile::tempdir() else {
        return;
    };
    let path = folder.path().join(format!("a.0001.{ending}"));
    if std::fs::write(&path, bytes).is_ok() {
        look_at(&path);
    }
}

fn look_at(path: &Path) {
    drop(picture::size(path));
    drop(picture::coding(path));
    let _ = stated_rate::of_picture(path);
    drop(exif::stated(path));
    if let Ok(decoded) = picture::decode(path) {
        drop(picture::grey(&decoded));
    }
}
