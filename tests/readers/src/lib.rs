//! Every reader of what comes from elsewhere, behind one door: bytes go in, and whatever they are,
//! nothing panics, hangs or takes more room than a picture may. The corpus run among the tests and
//! the fuzz targets (`fuzz/`) both come through here.

use parallax_core::camera::{Eye, Intrinsics, Pose};
use parallax_core::lens::stated::stated;
use parallax_core::lens::straights::solve_straights;
use parallax_core::orient::{Solved, Stand, Stated, Statement, orient};
use parallax_core::photo::{place, solve};
use parallax_core::solve::certain::PointCovariance;
use parallax_core::spaces::{FrameNumber, TrackId, WorldPoint};
use parallax_formats::camera_reader::CameraFile;
use parallax_formats::lens_json::{LensFile, StraightsFile};
use parallax_formats::photo_json::PhotoFile;
use parallax_formats::{model, statements_json, tracks_json, tracks_reader, usd};
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
    /// Statements about a world, and the world that comes of them.
    Statements,
    /// Models that are put into plates; the ending is that of the kind.
    Model(&'static str),
    /// Pictures: header, rate, Exif, px. The ending is that of the kind.
    Picture(&'static str),
}

impl Reader {
    /// All of them.
    pub const ALL: [Self; 16] = [
        Self::Camera,
        Self::TracksCsv,
        Self::TracksJson,
        Self::Usda,
        Self::Lens,
        Self::Straights,
        Self::Photo,
        Self::Patch,
        Self::Statements,
        Self::Model("glb"),
        Self::Model("obj"),
        Self::Model("ply"),
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
        if let Self::Model(ending) = self {
            return drop(model::read(&[(format!("model.{ending}"), bytes.to_vec())]));
        }
        let text = String::from_utf8_lossy(bytes);
        match self {
            Self::Camera => drop(CameraFile::read(&text)),
            Self::TracksCsv => drop(tracks_reader::read_csv(&text)),
            Self::TracksJson => drop(tracks_json::read(&text)),
            Self::Usda => drop(usd::reader::read(&text)),
            Self::Lens => drop(LensFile::read(&text).map(|l| l.lens_for(l.width, l.height))),
            Self::Straights => drop(serde_json::from_str::<StraightsFile>(&text)),
            Self::Photo => read_photo(&text),
            Self::Patch => read_patch(&text),
            Self::Statements => read_statements(&text),
            Self::Model(_) | Self::Picture(_) => {}
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

/// A room of twelve landmarks that three cameras see; features are those whose number their name ends on.
fn read_statements(text: &str) {
    let Ok(statements) = statements_json::read(text) else {
        return;
    };
    let landmarks = (0..12u32).map(|i| {
        let at = WorldPoint::new(
            f64::from(i % 4),
            f64::from(i / 4 % 2),
            f64::from(i / 3) - 6.0,
        );
        (TrackId(i), at, PointCovariance::of_sigma([0.01; 3]).ok())
    });
    let cameras = (1..4).map(|frame| Stand {
        frame: FrameNumber(frame),
        eye: Eye {
            lens: Intrinsics::centred(640, 360, 600.0),
            pose: Pose::from_parts(
                nalgebra::UnitQuaternion::identity(),
                nalgebra::Vector3::new(f64::from(frame) * 0.3, -1.0, -2.0),
            ),
        },
        covariance: None,
    });
    let solved = Solved::new(landmarks.collect(), cameras.collect(), true, None);
    let track = |name: &String| {
        let last = name.chars().last().and_then(|c| c.to_digit(36));
        last.map(TrackId).ok_or(())
    };
    let stated: Vec<Stated> = statements
        .iter()
        .filter_map(|(id, s)| {
            let (fact, off) = (s.fact.named(track).ok()?, s.off);
            Some((*id, Statement { fact, off }))
        })
        .collect();
    let found = orient(&solved, &stated);
    let place = found.change.point(&WorldPoint::new(1.0, 2.0, 3.0)).0;
    assert!(place.iter().all(|n| n.is_finite()), "{place:?}");
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
