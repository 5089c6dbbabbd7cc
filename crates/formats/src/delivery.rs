//! What is handed on: camera, landmarks, stand-ins and tracks of one shot, and the files
//! that they become.
//!
//! Two statements go with it that are not one: that the files hold the camera that was solved
//! (the receipt proves it), and whether that camera is good ([`CameraStanding`]). What was
//! assumed is said, and a delivery of a solve whose facts have changed since says so in every
//! file and in their names.

use crate::tracks_csv::{self, Called, TracksError};
use crate::{camera_json, usda};
use nalgebra::Point3;
use parallax_core::camera::{Intrinsics, Pose, Similarity};
use parallax_core::guest::Mesh;
use parallax_core::lens::Term;
use parallax_core::orient::Orientation;
use parallax_core::photo::Placed;
use parallax_core::photo::perspective::Perspective;
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::scene::Receiver;
use parallax_core::solve::bundle::Shared;
use parallax_core::solve::certain::PointCovariance;
use parallax_core::solve::information::SolvedShot;
use parallax_core::solve::locked::FAR;
use parallax_core::solve::{Attempt, CameraMove};
use parallax_core::spaces::{FrameNumber, TrackId, WorldPoint};
use parallax_core::tracks::Track;
use serde::{Deserialize, Serialize};
use std::collections::HashSet;
use std::io::Write;
use std::sync::Arc;

/// The neutral camera.
pub const CAMERA_FILE: &str = "camera.json";
/// The scene as OpenUSD text.
pub const SCENE_FILE: &str = "scene.usda";
/// The tracks.
pub const TRACKS_FILE: &str = "tracks.csv";
/// The proof.
pub const RECEIPT_FILE: &str = "receipt.json";
/// What the names of files of a stale solve begin with.
pub const STALE: &str = "stale-";

/// Whether the camera can be relied on, which is another thing than that files agree with it.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct CameraStanding {
    /// Nothing speaks against it.
    pub good: bool,
    /// What does.
    pub reasons: Vec<String>,
}

impl CameraStanding {
    /// By what speaks against the camera.
    pub fn doubted(reasons: Vec<String>) -> Self {
        let good = reasons.is_empty();
        Self { good, reasons }
    }
}

/// What is true of a whole shot, besides its solve.
#[derive(Clone, Debug)]
pub struct Shot {
    /// Its name.
    pub name: String,
    /// Exact rate.
    pub rate: FrameRate,
    /// Film back.
    pub film_back: FilmBack,
    /// Whether nobody stated it.
    pub film_back_assumed: bool,
    /// Axes of the program that receives it.
    pub receiver: Receiver,
}

/// What was solved and not given, so that errors can be told from the files alone.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Solved {
    /// How the camera moves.
    #[serde(rename = "move")]
    pub moves: CameraMove,
    /// Whether the focal length was.
    pub focal: bool,
    /// Whether each frame has one of its own.
    pub zooms: bool,
    /// The terms of the lens that were.
    pub lens: Vec<Term>,
    /// Read-out time of a rolling shutter, frames.
    pub readout_frames: Option<f64>,
    /// Whether that was.
    pub readout: bool,
}

impl Solved {
    fn of(attempt: &Attempt) -> Self {
        let shot = SolvedShot::of_attempt(attempt, None);
        let lens = shot.free.terms().filter_map(|term| match term {
            Shared::Lens(term) => Some(term),
            Shared::Focal | Shared::Readout => None,
        });
        Self {
            moves: attempt.moves,
            focal: shot.free.focal || (shot.zooms && attempt.focal_solved != Some(false)),
            zooms: shot.zooms,
            lens: lens.collect(),
            readout_frames: shot.readout,
            readout: shot.free.readout,
        }
    }
}

/// Everything of one delivery, in our own world; the files are written in the receiver's.
pub struct Delivery<'a> {
    /// The shot's name.
    pub shot: String,
    /// Exact rate.
    pub rate: FrameRate,
    /// Film back.
    pub film_back: FilmBack,
    /// Whether nobody stated it.
    pub film_back_assumed: bool,
    /// The lens; each camera has a focal length of its own.
    pub lens: Intrinsics,
    /// Cameras, ascending by frame.
    pub cameras: Vec<Camera>,
    /// Landmarks.
    pub points: Vec<Landmark>,
    /// How far away landmarks were set that are directions, units; `None` where they are places.
    pub directions_at: Option<f64>,
    /// Read-out time of the rolling shutter that the cameras were solved with, frames.
    pub readout: Option<f64>,
    /// What was solved and not given; `None` of a photograph.
    pub solved: Option<Solved>,
    /// Guests that stand still.
    pub guests: Vec<Delivered>,
    /// Guests that move by themselves, which these files do not hold.
    pub moving: usize,
    /// Tracks as they were solved, with what they are called.
    pub tracks: Vec<(&'a Track, Called)>,
    /// Whether the world's unit is the metre.
    pub scaled: bool,
    /// Whether the world stands on a ground.
    pub levelled: bool,
    /// Statements about the world that contradict each other, and those that are not heard.
    pub astray: [usize; 2],
    /// Axes of the program that receives it.
    pub receiver: Receiver,
    /// Whether the camera is good.
    pub standing: CameraStanding,
    /// What changed since the solve; empty unless it is stale.
    pub stale: Vec<String>,
}

/// A guest that is handed on.
#[derive(Clone, Debug)]
pub struct Delivered {
    /// Its name.
    pub name: String,
    /// Its surface.
    pub mesh: Arc<Mesh>,
    /// From its own space to the world.
    pub there: Similarity,
}

impl Delivered {
    /// Its corners in the world.
    pub fn corners(&self) -> impl Iterator<Item = WorldPoint> {
        let place = |p: &[f32; 3]| WorldPoint(Point3::from(*p).cast());
        self.mesh
            .points
            .iter()
            .map(move |p| self.there.point(&place(p)))
    }
}

/// The camera of one frame.
#[derive(Clone, Copy, Debug)]
pub struct Camera {
    /// Its frame.
    pub frame: FrameNumber,
    /// Where it stands.
    pub pose: Pose,
    /// Its focal length, px.
    pub focal_px: f64,
}

/// A point that is handed on.
#[derive(Clone, Debug)]
pub struct Landmark {
    /// Its name, no other has the same.
    pub name: String,
    /// Where it is.
    pub place: WorldPoint,
    /// How certain that is; `None` where it is not known.
    pub covariance: Option<PointCovariance>,
    /// Root mean square of its residuals, px.
    pub residual_px: f64,
}

/// Why a delivery cannot be made.
#[derive(Debug, thiserror::Error)]
pub enum DeliveryError {
    /// A JSON file.
    #[error("the files cannot be written: {0}")]
    Json(#[from] serde_json::Error),
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
pub type NamedText = (String, String);

impl<'a> Delivery<'a> {
    /// The delivery of an attempt in an oriented world; `called` is what the artist calls tracks.
    pub fn of_attempt(
        shot: &Shot,
        attempt: &Attempt,
        orientation: &Orientation,
        tracks: &'a [Track],
        called: impl Fn(TrackId) -> Called,
    ) -> Self {
        let change = &orientation.change;
        let mut taken = HashSet::new();
        let landmark = |l: &parallax_core::solve::Landmark| Landmark {
            name: unlike(&mut taken, called(l.track).name, l.track),
            place: change.point(&l.point),
            covariance: l.covariance.map(|c| c.in_world(change)),
            residual_px: l.rms_px,
        };
        let points = attempt.landmarks.iter().map(landmark).collect();
        let solved = tracks.iter().filter(|t| attempt.landmark(t.id).is_some());
        Self {
            cameras: attempt
                .frames
                .iter()
                .map(|f| Camera {
                    frame: f.frame,
                    pose: change.pose(&f.pose),
                    focal_px: attempt.lens_at(f).focal_px,
                })
                .collect(),
            points,
            directions_at: (attempt.moves != CameraMove::Free).then_some(FAR),
            readout: attempt.readout.map(|(frames, _)| frames),
            solved: Some(Solved::of(attempt)),
            tracks: solved.map(|t| (t, called(t.id))).collect(),
            scaled: orientation.scaled,
            levelled: orientation.levelled,
            astray: [
                orientation.contradicting().len(),
                orientation.unused().count(),
            ],
            standing: CameraStanding::doubted(attempt.reasons()),
            ..Self::empty(shot, attempt.lens)
        }
    }

    /// The delivery of a photograph: one frame, the origin and the tips of the axes as points,
    /// which are where they are said to be. A photograph has no rate; 1/1 stands for it.
    pub fn of_photograph(
        shot: &Shot,
        perspective: &Perspective,
        placed: &Placed,
        standing: CameraStanding,
    ) -> Self {
        let tips = [
            ("origin", WorldPoint::new(0.0, 0.0, 0.0)),
            ("x", WorldPoint::new(1.0, 0.0, 0.0)),
            ("y", WorldPoint::new(0.0, 1.0, 0.0)),
            ("z", WorldPoint::new(0.0, 0.0, 1.0)),
        ];
        let seen = |p: &WorldPoint| perspective.lens.project(&placed.pose, p).is_some();
        let points = tips
            .into_iter()
            .filter(|(_, p)| seen(p))
            .map(|(name, place)| Landmark {
                name: name.to_owned(),
                place,
                covariance: None,
                residual_px: 0.0,
            });
        Self {
            cameras: vec![Camera {
                frame: FrameNumber(1),
                pose: placed.pose,
                focal_px: perspective.lens.focal_px,
            }],
            points: points.collect(),
            scaled: placed.scaled,
            levelled: true,
            standing,
            ..Self::empty(shot, perspective.lens)
        }
    }

    /// A delivery that holds nothing yet.
    pub fn empty(shot: &Shot, lens: Intrinsics) -> Self {
        Self {
            shot: shot.name.clone(),
            rate: shot.rate,
            film_back: shot.film_back,
            film_back_assumed: shot.film_back_assumed,
            lens,
            cameras: Vec::new(),
            points: Vec::new(),
            directions_at: None,
            readout: None,
            solved: None,
            astray: [0; 2],
            guests: Vec::new(),
            moving: 0,
            tracks: Vec::new(),
            scaled: false,
            levelled: false,
            receiver: shot.receiver,
            standing: CameraStanding::default(),
            stale: Vec::new(),
        }
    }

    /// How a camera draws.
    pub fn lens_of(&self, camera: &Camera) -> Intrinsics {
        self.lens.with_focal(camera.focal_px)
    }

    /// Whether the focal length changes.
    pub fn zooms(&self) -> bool {
        self.cameras
            .windows(2)
            .any(|pair| pair[0].focal_px != pair[1].focal_px)
    }

    /// What was taken for granted because nobody stated it.
    pub fn assumptions(&self) -> Vec<String> {
        let FilmBack {
            width_mm,
            height_mm,
        } = self.film_back;
        let film_back = format!(
            "film back assumed to be {width_mm:.2} x {height_mm:.2} mm: focal lengths in mm rest on it"
        );
        [
            (self.film_back_assumed, film_back),
            (
                !self.scaled,
                "no scale: a unit of the world is no metre".to_owned(),
            ),
            (
                self.directions_at.is_some(),
                format!(
                    "landmarks are directions, set {} units away: the camera does not travel",
                    self.directions_at.unwrap_or_default()
                ),
            ),
            (
                self.readout.is_some(),
                format!(
                    "rows are read within {:.1} ms: cameras are those of the middle row, tracks as they are in the plate",
                    self.rate.ms_in_frames(self.readout.unwrap_or_default())
                ),
            ),
            (
                !self.levelled,
                "no ground: the world is as the first camera stood".to_owned(),
            ),
            (
                self.astray[0] > 0,
                "statements about the world contradict each other: it lies between them".to_owned(),
            ),
            (
                self.astray[1] > 0,
                format!("{} of the statements about the world are not heard", self.astray[1]),
            ),
            (
                self.moving > 0,
                format!("guests that move by themselves are not in the files: {}", self.moving),
            ),
        ]
        .into_iter()
        .filter_map(|(holds, text)| holds.then_some(text))
        .collect()
    }

    /// What a file of this delivery is called.
    pub fn named(&self, file: &str) -> String {
        let mark = if self.stale.is_empty() { "" } else { STALE };
        format!("{mark}{file}")
    }

    /// Camera, scene and, where there are any, tracks as text.
    pub fn files(&self) -> Result<Vec<NamedText>, DeliveryError> {
        let mut files = vec![
            (self.named(CAMERA_FILE), camera_json::write(self)?),
            (self.named(SCENE_FILE), usda::write(self)),
        ];
        if !self.tracks.is_empty() {
            let tracks = self.tracks.iter().map(|(t, called)| (*t, called));
            files.push((self.named(TRACKS_FILE), tracks_csv::write(tracks)?));
        }
        Ok(files)
    }
}

/// The name of a track, or its identity where it has none, told apart from those taken.
fn unlike(taken: &mut HashSet<String>, name: String, track: TrackId) -> String {
    let wanted = if name.is_empty() {
        track.to_string()
    } else {
        name
    };
    let name = if taken.contains(&wanted) {
        format!("{wanted} ({track})")
    } else {
        wanted
    };
    taken.insert(name.clone());
    name
}

/// One zip archive of files.
pub fn zipped(files: &[(String, String)]) -> Result<Vec<u8>, DeliveryError> {
    let failed = |e: &dyn std::fmt::Display| DeliveryError::Package(e.to_string());
    let mut archive = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    let options = zip::write::SimpleFileOptions::default();
    for (name, text) in files {
        archive
            .start_file(name.as_str(), options)
            .map_err(|e| failed(&e))?;
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
    let mut file = archive.by_name(name).map_err(|e| failed(&e))?;
    file.read_to_string(&mut text).map_err(|e| failed(&e))?;
    Ok(text)
}
