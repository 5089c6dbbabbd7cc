//! Reads the neutral camera file, `true-parallax/camera@1`.
//!
//! Written apart from the writer ([`crate::camera_json`]), from the description of the format in
//! `docs/api.md`, so that a receipt proves something. Whatever axes a file states, poses and
//! points come out in our world (right-handed, Y up).

use crate::camera_json::SCHEMA;
use crate::delivery::CameraStanding;
use crate::lens_json::BrownTerms;
use nalgebra::{Matrix4, Vector3};
use parallax_core::camera::{Intrinsics, Pose, Similarity};
use parallax_core::lens::Term;
use parallax_core::plate::FrameRate;
use parallax_core::scene::{Hand, Receiver, Up};
use parallax_core::solve::CameraMove;
use parallax_core::spaces::{PlatePx, WorldPoint};
use serde::Deserialize;

/// Lens terms under the name of their model.
#[derive(Clone, Copy, Debug, PartialEq, Deserialize)]
pub struct NamedDistortion {
    /// Always `brown`.
    pub model: LensModel,
    /// The terms.
    #[serde(flatten)]
    pub terms: BrownTerms,
}

/// The one distortion model there is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum LensModel {
    /// Radial and tangential terms, undistorted to distorted.
    Brown,
}

/// The camera of one frame.
#[derive(Clone, Debug, PartialEq, Deserialize)]
pub struct CameraFrame {
    /// Number as in the file name.
    pub frame: i32,
    /// Focal length, px.
    pub focal_px: f64,
    /// Its own k1; the file's where left out.
    #[serde(default)]
    pub k1: Option<f64>,
    /// Centre of projection across, px.
    pub cx: f64,
    /// Centre of projection down, px.
    pub cy: f64,
    /// 16 numbers, row by row.
    pub world_from_camera: Vec<f64>,
}

/// A landmark.
#[derive(Clone, Debug, PartialEq, Deserialize)]
pub struct CameraPoint {
    /// Name of its track.
    pub name: String,
    /// Position.
    pub xyz: [f64; 3],
    /// One standard error along each axis; `None` where it is not known.
    #[serde(default)]
    pub sigma: Option<[f64; 3]>,
    /// Root mean square of its residuals, px.
    pub residual_px: f64,
}

/// A thing that moves by itself.
#[derive(Clone, Debug, PartialEq, Deserialize)]
pub struct CameraBody {
    /// What it is called.
    pub name: String,
    /// By what its distance is known.
    #[serde(default)]
    pub distance_by: String,
    /// Whether nobody stated that.
    #[serde(default)]
    pub assumed: bool,
    /// First and last frame on which it was solved.
    pub seen: [i32; 2],
    /// Its landmarks in its own space, in the file's axes and unit.
    pub points: Vec<CameraPoint>,
    /// Where it is on each frame.
    pub frames: Vec<BodyFrame>,
}

/// Where a body is on a frame.
#[derive(Clone, Debug, PartialEq, Deserialize)]
pub struct BodyFrame {
    /// The frame.
    pub frame: i32,
    /// 16 numbers, row by row.
    pub world_from_body: Vec<f64>,
}

/// What of a camera was solved and not given.
#[derive(Clone, Debug, PartialEq, Deserialize)]
pub struct SolvedTerms {
    /// How it moves: `free`, `nodal` or `locked`.
    #[serde(rename = "move")]
    pub moves: CameraMove,
    /// Whether the focal length was.
    pub focal: bool,
    /// Whether each frame has one of its own.
    pub zooms: bool,
    /// Lens terms that were.
    pub lens: Vec<Term>,
    /// Read-out time of a rolling shutter, frames.
    pub readout_frames: Option<f64>,
    /// Whether that was solved.
    pub readout: bool,
}

/// The whole file.
#[derive(Clone, Debug, PartialEq, Deserialize)]
pub struct CameraFile {
    /// Always [`SCHEMA`].
    pub schema: String,
    /// Exact rate.
    pub fps: FrameRate,
    /// First frame's number.
    pub first_frame: i32,
    /// Picture width, px.
    pub width: u32,
    /// Picture height, px.
    pub height: u32,
    /// Width and height of the film back, mm.
    pub film_back_mm: [f64; 2],
    /// Lens terms.
    pub distortion: NamedDistortion,
    /// Metres per world unit; null while there is no scale.
    #[serde(default)]
    pub metres_per_unit: Option<f64>,
    /// The world's axes; ours when left out.
    #[serde(default)]
    pub axes: Receiver,
    /// What was solved and not given; `None` where the file does not say.
    #[serde(default)]
    pub solved: Option<SolvedTerms>,
    /// Whether nobody stated the film back.
    #[serde(default)]
    pub film_back_assumed: bool,
    /// Whether the world stands on a ground; `None` where the file does not say.
    #[serde(default)]
    pub levelled: Option<bool>,
    /// Whether the camera is good; `None` where the file does not say.
    #[serde(default)]
    pub camera: Option<CameraStanding>,
    /// What changed since the solve.
    #[serde(default)]
    pub stale: Vec<String>,
    /// How far away landmarks are set that are directions.
    #[serde(default)]
    pub directions_at: Option<f64>,
    /// Cameras, ascending by frame.
    pub frames: Vec<CameraFrame>,
    /// Landmarks.
    #[serde(default)]
    pub points: Vec<CameraPoint>,
    /// Things that move by themselves.
    #[serde(default)]
    pub bodies: Vec<CameraBody>,
}

/// Why a text is no camera file.
#[derive(Debug, thiserror::Error)]
pub enum CameraFileError {
    /// Not JSON of this shape.
    #[error("this is not a neutral camera file: {0}")]
    Json(#[from] serde_json::Error),
    /// Another schema.
    #[error("the camera file says schema `{0}`; `{SCHEMA}` is what can be read")]
    Schema(String),
    /// A scale that is none.
    #[error("the camera file says that its world is {0} times as large, which is no scale")]
    Scale(f64),
    /// A matrix that is no camera.
    #[error("the camera of frame {0} is not a rotation and a shift")]
    Matrix(i32),
}

/// A point or direction of a world with such axes, in ours, as long as it was. Readers of all formats turn by it.
pub(crate) fn in_our_world(axes: Receiver, [x, y, z]: [f64; 3]) -> Vector3<f64> {
    match (axes.up, axes.hand) {
        (Up::Y, Hand::Right) => Vector3::new(x, y, z),
        (Up::Y, Hand::Left) => Vector3::new(x, y, -z),
        (Up::Z, Hand::Right) => Vector3::new(x, z, -y),
        (Up::Z, Hand::Left) => Vector3::new(x, z, y),
    }
}

impl CameraFile {
    /// Reads and checks a file.
    pub fn read(text: &str) -> Result<Self, CameraFileError> {
        let file: Self = serde_json::from_str(text)?;
        if file.schema != SCHEMA {
            return Err(CameraFileError::Schema(file.schema));
        }
        if !file.axes.is_possible() {
            return Err(CameraFileError::Scale(file.axes.scale));
        }
        match file.frames.iter().find(|f| file.pose(f).is_none()) {
            Some(bad) => Err(CameraFileError::Matrix(bad.frame)),
            None => Ok(file),
        }
    }

    /// The pose of an entry in our world, whatever the file's axes; `None` unless the matrix
    /// is a rotation and a shift.
    pub fn pose(&self, frame: &CameraFrame) -> Option<Pose> {
        let numbers: [f64; 16] = frame.world_from_camera[..].try_into().ok()?;
        let [a, b, c, d, e, f, g, h, i, j, k, l, ..] = numbers;
        // Where the camera's right, up and back point, and where it stands.
        let back = if self.axes.hand == Hand::Left {
            -1.0
        } else {
            1.0
        };
        let columns = [
            [a, e, i],
            [b, f, j],
            [back * c, back * g, back * k],
            [d, h, l],
        ];
        let mut columns = columns.map(|column| in_our_world(self.axes, column));
        columns[3] /= self.units_of_a_metre();
        let mut matrix = Matrix4::from_columns(&columns.map(|c| c.push(0.0)));
        matrix.set_row(3, &Matrix4::from_row_slice(&numbers).row(3));
        Pose::from_world_from_camera(&matrix)
    }

    /// A place of the file's world in ours.
    pub fn in_our_world(&self, at: [f64; 3]) -> WorldPoint {
        WorldPoint((in_our_world(self.axes, at) / self.units_of_a_metre()).into())
    }

    /// Units of the file's world in a unit of ours, which is the metre where there is a scale.
    pub fn units_of_a_metre(&self) -> f64 {
        self.axes.scale / self.axes.unit.metres()
    }

    /// The place of a landmark in our world, whatever the file's axes.
    pub fn point(&self, point: &CameraPoint) -> WorldPoint {
        self.in_our_world(point.xyz)
    }

    /// The landmarks of a body on a frame in our world; `None` where its matrix is none.
    pub fn body_places(&self, body: &CameraBody, on: &BodyFrame) -> Option<Vec<WorldPoint>> {
        let there = self.there(on)?;
        let place = |p: &CameraPoint| there.transform_point(&p.xyz.into());
        let places = body.points.iter().map(|p| place(p).coords.into());
        Some(places.map(|xyz| self.in_our_world(xyz)).collect())
    }

    /// From a body's own space to the world on a frame, both in our axes; `None` where its matrix is none.
    pub fn body_move(&self, on: &BodyFrame) -> Option<Similarity> {
        let there = self.there(on)?;
        let corners = [[0.0; 3], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]];
        let own = corners.map(|xyz| self.in_our_world(xyz));
        let moved = corners.map(|xyz| there.transform_point(&xyz.into()).coords.into());
        Similarity::fitting(&own, &moved.map(|xyz| self.in_our_world(xyz)))
    }

    fn there(&self, on: &BodyFrame) -> Option<Matrix4<f64>> {
        let numbers: [f64; 16] = on.world_from_body[..].try_into().ok()?;
        let matrix = Matrix4::from_row_slice(&numbers);
        let last = [0.0, 0.0, 0.0, 1.0];
        let is_one = numbers.iter().all(|v| v.is_finite()) && numbers[12..] == last;
        is_one.then_some(matrix)
    }

    /// Standard errors of a landmark along the axes of our world, whatever the file's axes.
    pub fn sigma(&self, point: &CameraPoint) -> Option<[f64; 3]> {
        let own = point.sigma?.map(|s| s / self.units_of_a_metre());
        Some(in_our_world(self.axes, own).abs().into())
    }

    /// How the camera of one entry draws.
    pub fn intrinsics(&self, frame: &CameraFrame) -> Intrinsics {
        let mut terms = self.distortion.terms;
        terms.k1 = frame.k1.unwrap_or(terms.k1);
        Intrinsics {
            width_px: self.width,
            height_px: self.height,
            focal_px: frame.focal_px,
            centre: PlatePx::new(frame.cx, frame.cy),
            distortion: terms.into(),
        }
    }
}
