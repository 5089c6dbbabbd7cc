//! What is handed on: camera, landmarks, stand-ins and tracks of one shot, and the files
//! that they become.
//!
//! Two statements go with it that are not one: that the files hold the camera that was solved
//! (the receipt proves it), and whether that camera is good ([`CameraStanding`]). What was
//! assumed is said, and a delivery of a solve whose facts have changed since says so in every
//! file and in their names.

pub mod colours;
mod delivered;
mod made;
pub mod naming;
pub mod package;
pub mod readme;
pub mod recipe;

pub use delivered::{Delivered, MovingBody};
pub use naming::Names;
pub use package::{NamedBytes, unzipped, zipped};
pub use recipe::{Recipe, TimeAs};

use crate::format::FormatKind;
use crate::tracks_csv::{Called, TracksError};
use crate::undistorted::UndistortReceipt;
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::lens::Term;
use parallax_core::lens::maps::Keep;
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::scene::Receiver;
use parallax_core::solve::bundle::Shared;
use parallax_core::solve::certain::PointCovariance;
use parallax_core::solve::information::SolvedShot;
use parallax_core::solve::{Attempt, CameraMove};
use parallax_core::spaces::{FrameNumber, WorldPoint};
use parallax_core::tracks::Track;
use serde::{Deserialize, Serialize};

/// The neutral camera.
pub const CAMERA_FILE: &str = "camera.json";
/// The scene as OpenUSD text.
pub const SCENE_FILE: &str = "scene.usda";
/// The tracks.
pub const TRACKS_FILE: &str = "tracks.csv";
/// The proof.
pub const RECEIPT_FILE: &str = "receipt.json";
/// The folder of the undistorted plate, beside the files.
pub const UNDISTORTED_FOLDER: &str = "undistorted";
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
    /// Axes and unit of the program that receives it.
    pub receiver: Receiver,
    /// How long the shutter is open, degrees of a full turn a frame, where it is known.
    pub shutter_deg: Option<f64>,
    /// What an undistorted picture keeps.
    pub keep: Keep,
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
    /// Landmarks that are handed on.
    pub points: Vec<Landmark>,
    /// Places of all landmarks, by which cameras are held against each other.
    pub probes: Vec<WorldPoint>,
    /// How far away landmarks were set that are directions, units; `None` where they are places.
    pub directions_at: Option<f64>,
    /// Read-out time of the rolling shutter that the cameras were solved with, frames.
    pub readout: Option<f64>,
    /// What was solved and not given; `None` of a photograph.
    pub solved: Option<Solved>,
    /// Guests.
    pub guests: Vec<Delivered>,
    /// Planes of the set, as far as their features reach.
    pub set: Vec<Delivered>,
    /// Things that move by themselves, with their landmarks.
    pub bodies: Vec<MovingBody>,
    /// Tracks as they were solved, with what they are called.
    pub tracks: Vec<(&'a Track, Called)>,
    /// Whether the world's unit is the metre.
    pub scaled: bool,
    /// Whether the world stands on a ground.
    pub levelled: bool,
    /// Statements about the world that contradict each other, and those that are not heard.
    pub astray: [usize; 2],
    /// Axes and unit of the program that receives it.
    pub receiver: Receiver,
    /// How long the shutter is open, degrees of a full turn a frame, where it is known.
    pub shutter_deg: Option<f64>,
    /// What an undistorted picture keeps.
    pub keep: Keep,
    /// Where the plate is.
    pub plate: Option<PlateAt>,
    /// What the recipe asks for and is not in it, with why, as sentences.
    pub left_out: Vec<String>,
    /// The proof of the undistorted plate that goes along, in [`UNDISTORTED_FOLDER`].
    pub undistorted: Option<UndistortReceipt>,
    /// Which files it becomes.
    pub formats: Vec<FormatKind>,
    /// How time is counted where a format leaves it open.
    pub time: TimeAs,
    /// What its files are called.
    pub names: Names,
    /// Who hands it on, and what there is to say about it; empty where nobody said.
    pub said: Said,
    /// Whether the camera is good.
    pub standing: CameraStanding,
    /// What changed since the solve; empty unless it is stale.
    pub stale: Vec<String>,
}

/// Where the plate is, as seen from the files.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PlateAt {
    /// Path of the first frame's picture, relative to the folder of the files, parts joined by `/`.
    pub first: String,
    /// The same with the frame's number as `####`.
    pub pattern: String,
}

/// Who hands a delivery on, and what there is to say about it.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Said {
    /// Name of the recipe; empty where there is none.
    pub recipe: String,
    /// Which of the deliveries by this recipe it is, from 1; 0 where they are not counted.
    pub version: u32,
    /// Who hands it on.
    pub author: String,
    /// A note to whoever receives it.
    pub note: String,
    /// Day and time at which it was made, ISO 8601 in UTC.
    pub date: String,
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
    /// Its group; empty where it is in none.
    pub group: String,
    /// What it looks like in the plate, 8 bit as shown on screens (sRGB), where that was read.
    pub colour: Option<[u8; 3]>,
    /// Where it is.
    pub place: WorldPoint,
    /// How certain that is; `None` where it is not known.
    pub covariance: Option<PointCovariance>,
    /// Root mean square of its residuals, px.
    pub residual_px: f64,
}

impl Landmark {
    /// What it looks like; grey where that was not read.
    pub fn shown(&self) -> [u8; 3] {
        self.colour.unwrap_or([128; 3])
    }
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
    /// A picture on a guest.
    #[error("a texture cannot be written: {0}")]
    Texture(String),
    /// A recipe that asks for nothing.
    #[error("the recipe {0} names no format: choose at least one")]
    NoFormat(String),
    /// A file could not be read back for the receipt.
    #[error("{file} could not be read back: {reason}. Nothing was handed on")]
    ReadBack {
        /// Which file.
        file: String,
        /// Why.
        reason: String,
    },
}

impl Delivery<'_> {
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

    /// All surfaces, guests first.
    pub fn surfaces(&self) -> impl Iterator<Item = &Delivered> {
        self.guests.iter().chain(&self.set)
    }

    /// How many landmarks have no colour; `None` where none has one.
    pub fn without_colour(&self) -> Option<usize> {
        let without = self.points.iter().filter(|p| p.colour.is_none()).count();
        (without < self.points.len()).then_some(without)
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
                    self.directions_at.unwrap_or_default() * self.receiver.per_metre()
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
        ]
        .into_iter()
        .filter_map(|(holds, text)| holds.then_some(text))
        .chain(self.bodies.iter().filter(|b| b.is_assumed).map(|body| {
            let (name, by) = (&body.name, &body.distance_by);
            format!("size and distance of {name}: {by}")
        }))
        .collect()
    }

    /// What a file of this delivery is called that is `file` by itself.
    pub fn named(&self, file: &str) -> String {
        let mark = if self.stale.is_empty() { "" } else { STALE };
        format!("{mark}{}", self.names.named(file))
    }

    /// With cameras numbered higher by so many: of a photograph, which has no tracks.
    pub fn renumbered(mut self, by: i32) -> Self {
        let frames = self.cameras.iter_mut().map(|c| &mut c.frame);
        frames.for_each(|frame| frame.0 = frame.0.saturating_add(by));
        self
    }

    /// What all files together are called.
    pub fn named_package(&self) -> String {
        let mark = if self.stale.is_empty() { "" } else { STALE };
        match self.names.package() {
            None => format!("{mark}{}-match", naming::safe(&self.shot)),
            Some(named) => format!("{mark}{named}"),
        }
    }

    /// Time of a frame after the first, s.
    pub fn seconds(&self, frame: FrameNumber) -> f64 {
        let first = self.cameras.first().map_or(frame, |c| c.frame);
        (f64::from(frame.0) - f64::from(first.0)) / self.rate.as_f64()
    }
}
