//! What is handed on: camera, landmarks, stand-ins and tracks of one shot, and the files
//! that they become.

use crate::camera_json::{CameraFile, CameraFileError, CameraFrame, CameraPoint};
use crate::tracks_csv::{self, TracksError};
use crate::usda;
use parallax_core::camera::{Intrinsics, Pose, Similarity};
use parallax_core::photo::Placed;
use parallax_core::photo::perspective::Perspective;
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::scene::{Receiver, StandIn};
use parallax_core::solve::Attempt;
use parallax_core::spaces::{FrameNumber, WorldPoint};
use parallax_core::track::Track;
use std::io::Write;

/// The neutral camera.
pub const CAMERA_FILE: &str = "camera.json";
/// The scene as OpenUSD text.
pub const SCENE_FILE: &str = "scene.usda";
/// The tracks.
pub const TRACKS_FILE: &str = "tracks.csv";
/// The proof.
pub const RECEIPT_FILE: &str = "receipt.json";

/// Everything of one delivery, in our own world; the files are written in the receiver's.
pub struct Delivery<'a> {
    /// The shot's name.
    pub shot: String,
    /// Exact rate.
    pub rate: FrameRate,
    /// Film back.
    pub film_back: FilmBack,
    /// The lens of all frames.
    pub lens: Intrinsics,
    /// Cameras, ascending by frame.
    pub cameras: Vec<(FrameNumber, Pose)>,
    /// Landmarks.
    pub points: Vec<Landmark>,
    /// Stand-ins with the place of their foot.
    pub stand_ins: Vec<(StandIn, WorldPoint)>,
    /// Tracks as they were solved.
    pub tracks: Vec<&'a Track>,
    /// Whether the world's unit is the metre.
    pub scaled: bool,
    /// Axes of the program that receives it.
    pub receiver: Receiver,
}

/// A point that is handed on.
#[derive(Clone, Debug)]
pub struct Landmark {
    /// Its name.
    pub name: String,
    /// Where it is.
    pub place: WorldPoint,
    /// One standard error along each axis, negative where unknown.
    pub sigma: [f64; 3],
    /// Root mean square of its residuals, px.
    pub residual_px: f64,
}

/// Why a delivery cannot be made.
#[derive(Debug, thiserror::Error)]
pub enum DeliveryError {
    /// The camera file.
    #[error(transparent)]
    Camera(#[from] CameraFileError),
    /// The tracks.
    #[error(transparent)]
    Tracks(#[from] TracksError),
    /// The package.
    #[error("the package cannot be written: {0}")]
    Package(String),
    /// A file could not be read back for the receipt.
    #[error("{file} could not be read back: {reason}. Nothing was handed on")]
    ReadBack {
        /// Which file.
        file: String,
        /// Why.
        reason: String,
    },
}

/// A file of the delivery: name and text.
pub type NamedText = (&'static str, String);

impl<'a> Delivery<'a> {
    /// The delivery of an attempt after a change of world.
    pub fn of_attempt(
        shot: &str,
        rate: FrameRate,
        film_back: FilmBack,
        attempt: &Attempt,
        change: &Similarity,
        scaled: bool,
        tracks: &'a [Track],
    ) -> Self {
        let points = attempt
            .landmarks
            .iter()
            .map(|l| {
                let sigma = l.sigma.map(|s| if s >= 0.0 { s * change.scale } else { s });
                let (name, place) = (l.track.to_string(), change.point(&l.point));
                Landmark {
                    name,
                    place,
                    sigma,
                    residual_px: l.rms_px,
                }
            })
            .collect();
        Self {
            shot: shot.to_owned(),
            rate,
            film_back,
            lens: attempt.lens,
            cameras: attempt
                .frames
                .iter()
                .map(|f| (f.frame, change.pose(&f.pose)))
                .collect(),
            points,
            stand_ins: Vec::new(),
            tracks: tracks
                .iter()
                .filter(|t| attempt.landmark(t.id).is_some())
                .collect(),
            scaled,
            receiver: Receiver::default(),
        }
    }

    /// The delivery of a photograph: one frame, the origin and the tips of the axes as points.
    /// A photograph has no rate; 1/1 stands for it.
    pub fn of_photograph(
        shot: &str,
        film_back: FilmBack,
        perspective: &Perspective,
        placed: &Placed,
    ) -> Self {
        let tips = [
            ("origin", [0.0; 3]),
            ("x", [1.0, 0.0, 0.0]),
            ("y", [0.0, 1.0, 0.0]),
            ("z", [0.0, 0.0, 1.0]),
        ];
        let seen = |p: &WorldPoint| perspective.lens.project(&placed.pose, p).is_some();
        let points = tips
            .into_iter()
            .map(|(name, [x, y, z])| (name, WorldPoint::new(x, y, z)))
            .filter(|(_, p)| seen(p))
            .map(|(name, place)| Landmark {
                name: name.to_owned(),
                place,
                sigma: [0.0; 3],
                residual_px: 0.0,
            })
            .collect();
        Self {
            shot: shot.to_owned(),
            rate: FrameRate::STILL,
            film_back,
            lens: perspective.lens,
            cameras: vec![(FrameNumber(1), placed.pose)],
            points,
            stand_ins: Vec::new(),
            tracks: Vec::new(),
            scaled: placed.scaled,
            receiver: Receiver::default(),
        }
    }

    /// The neutral camera file.
    pub fn camera_file(&self) -> CameraFile {
        let axes = self.receiver;
        let frames = self
            .cameras
            .iter()
            .map(|(f, p)| CameraFrame::new(*f, &self.lens, p, axes))
            .collect();
        let points = self.points.iter().map(|p| CameraPoint {
            name: p.name.clone(),
            xyz: axes.point(&p.place),
            sigma: axes.sigma(p.sigma),
            residual_px: p.residual_px,
        });
        let mut file = CameraFile::new(
            self.rate,
            &self.lens,
            self.film_back,
            frames,
            points.collect(),
        );
        file.axes = axes;
        file.metres_per_unit = self.scaled.then_some(1.0);
        file
    }

    /// Camera, scene and, where there are any, tracks as text.
    pub fn files(&self) -> Result<Vec<NamedText>, DeliveryError> {
        let mut files = vec![
            (CAMERA_FILE, self.camera_file().write()?),
            (SCENE_FILE, usda::write(self)),
        ];
        if !self.tracks.is_empty() {
            files.push((
                TRACKS_FILE,
                tracks_csv::write(self.tracks.iter().copied(), tracks_csv::unnamed)?,
            ));
        }
        Ok(files)
    }
}

/// One zip archive of files.
pub fn zipped(files: &[(&str, &str)]) -> Result<Vec<u8>, DeliveryError> {
    let failed = |e: &dyn std::fmt::Display| DeliveryError::Package(e.to_string());
    let mut archive = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    let options = zip::write::SimpleFileOptions::default();
    for (name, text) in files {
        archive.start_file(*name, options).map_err(|e| failed(&e))?;
        archive.write_all(text.as_bytes()).map_err(|e| failed(&e))?;
    }
    Ok(archive.finish().map_err(|e| failed(&e))?.into_inner())
}

/// One file of a zip archive as text.
pub fn unzipped(archive: &[u8], name: &str) -> Result<String, DeliveryError> {
    use std::io::Read;
    let failed = |e: &dyn std::fmt::Display| DeliveryError::ReadBack {
        file: name.to_owned(),
        reason: e.to_string(),
    };
    let mut archive =
        zip::ZipArchive::new(std::io::Cursor::new(archive)).map_err(|e| failed(&e))?;
    let mut text = String::new();
    archive
        .by_name(name)
        .map_err(|e| failed(&e))?
        .read_to_string(&mut text)
        .map_err(|e| failed(&e))?;
    Ok(text)
}
