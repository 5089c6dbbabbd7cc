//! The neutral camera file: `true-parallax/camera@1`, JSON, read and written.
//!
//! Rates are exact fractions, matrices row by row, `world_from_camera` takes the camera's
//! space (x right, y up, looking along -Z) to the world (right-handed, Y up). `axes` states
//! another up axis or hand where the receiver asked for it; in a left-handed world the camera
//! looks along its +Z. Pixel positions have the picture's top-left corner as origin. `sigma`
//! is one standard error along each world axis. `metres_per_unit` is null while the world has
//! no scale.

use nalgebra::{Matrix4, Vector3};
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::lens::Distortion;
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::scene::{Hand, Receiver, Up};
use parallax_core::spaces::{FrameNumber, PlatePx, WorldPoint};
use serde::{Deserialize, Serialize};

/// The value of the key `schema`.
pub const SCHEMA: &str = "true-parallax/camera@1";

/// Lens terms under the name of their model.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct NamedDistortion {
    /// Always `brown`.
    pub model: LensModel,
    /// The terms.
    #[serde(flatten)]
    pub terms: BrownTerms,
}

/// The one distortion model there is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum LensModel {
    /// Radial and tangential terms, undistorted to distorted.
    Brown,
}

/// Radial and tangential terms.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct BrownTerms {
    /// r².
    pub k1: f64,
    /// r⁴.
    pub k2: f64,
    /// r⁶.
    #[serde(default)]
    pub k3: f64,
    /// Tangential.
    #[serde(default)]
    pub p1: f64,
    /// Tangential.
    #[serde(default)]
    pub p2: f64,
}

impl From<Distortion> for BrownTerms {
    fn from(Distortion { k1, k2, k3, p1, p2 }: Distortion) -> Self {
        Self { k1, k2, k3, p1, p2 }
    }
}

impl From<BrownTerms> for Distortion {
    fn from(BrownTerms { k1, k2, k3, p1, p2 }: BrownTerms) -> Self {
        Self { k1, k2, k3, p1, p2 }
    }
}

/// The camera of one frame.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct CameraFrame {
    /// Number as in the file name.
    pub frame: i32,
    /// Focal length, px.
    pub focal_px: f64,
    /// Centre of projection across, px.
    pub cx: f64,
    /// Centre of projection down, px.
    pub cy: f64,
    /// 16 numbers, row by row.
    pub world_from_camera: Vec<f64>,
}

/// A landmark.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct CameraPoint {
    /// Name of its track.
    pub name: String,
    /// Position.
    pub xyz: [f64; 3],
    /// One standard error along each axis.
    pub sigma: [f64; 3],
    /// Root mean square of its residuals, px.
    pub residual_px: f64,
}

/// The whole file.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
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
    /// Cameras, ascending by frame.
    pub frames: Vec<CameraFrame>,
    /// Landmarks.
    #[serde(default)]
    pub points: Vec<CameraPoint>,
}

/// Why a text is no camera file.
#[derive(Debug, thiserror::Error)]
pub enum CameraFileError {
    /// Not JSON of this shape.
    #[error("this is not a neutral camera file: {0}")]
    Json(#[from] serde_json::Error),
    /// Another schema.
    #[error("the camera file says schema `{0}`; `true-parallax/camera@1` is what can be read")]
    Schema(String),
    /// A matrix that is no camera.
    #[error("the camera of frame {0} is not a rotation and a shift")]
    Matrix(i32),
}

impl CameraFrame {
    /// The entry of one frame in the receiver's world.
    pub fn new(frame: FrameNumber, lens: &Intrinsics, pose: &Pose, axes: Receiver) -> Self {
        let matrix = axes.world_from_camera(pose);
        Self {
            frame: frame.0,
            focal_px: lens.focal_px,
            cx: lens.centre.x,
            cy: lens.centre.y,
            world_from_camera: matrix.transpose().iter().copied().collect(),
        }
    }
}

/// A point or direction of a world with such axes, in ours.
fn in_our_world(axes: Receiver, [x, y, z]: [f64; 3]) -> Vector3<f64> {
    match (axes.up, axes.hand) {
        (Up::Y, Hand::Right) => Vector3::new(x, y, z),
        (Up::Y, Hand::Left) => Vector3::new(x, y, -z),
        (Up::Z, Hand::Right) => Vector3::new(x, z, -y),
        (Up::Z, Hand::Left) => Vector3::new(x, z, y),
    }
}

impl CameraPoint {
    /// The entry of one landmark.
    pub fn new(name: String, point: WorldPoint, sigma: [f64; 3], residual_px: f64) -> Self {
        Self {
            name,
            xyz: [point.0.x, point.0.y, point.0.z],
            sigma,
            residual_px,
        }
    }
}

impl CameraFile {
    /// A file without scale, in our own axes, from its parts; `frames` ascending.
    pub fn new(
        fps: FrameRate,
        lens: &Intrinsics,
        film_back: FilmBack,
        frames: Vec<CameraFrame>,
        points: Vec<CameraPoint>,
    ) -> Self {
        Self {
            schema: SCHEMA.to_owned(),
            fps,
            first_frame: frames.first().map_or(0, |f| f.frame),
            width: lens.width_px,
            height: lens.height_px,
            film_back_mm: [film_back.width_mm, film_back.height_mm],
            distortion: NamedDistortion {
                model: LensModel::Brown,
                terms: lens.distortion.into(),
            },
            metres_per_unit: None,
            axes: Receiver::default(),
            frames,
            points,
        }
    }

    /// Reads and checks a file.
    pub fn read(text: &str) -> Result<Self, CameraFileError> {
        let file: Self = serde_json::from_str(text)?;
        if file.schema != SCHEMA {
            return Err(CameraFileError::Schema(file.schema));
        }
        if let Some(bad) = file.frames.iter().find(|f| file.pose(f).is_none()) {
            return Err(CameraFileError::Matrix(bad.frame));
        }
        Ok(file)
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
        let columns = columns.map(|column| in_our_world(self.axes, column));
        let mut matrix = Matrix4::from_columns(&columns.map(|c| c.push(0.0)));
        matrix.set_row(3, &Matrix4::from_row_slice(&numbers).row(3));
        Pose::from_world_from_camera(&matrix)
    }

    /// The place of a landmark in our world, whatever the file's axes.
    pub fn point(&self, point: &CameraPoint) -> WorldPoint {
        WorldPoint(in_our_world(self.axes, point.xyz).into())
    }

    /// The text of the file, one line per frame and point.
    pub fn write(&self) -> Result<String, CameraFileError> {
        Ok(serde_json::to_string_pretty(self)?)
    }

    /// How the camera of one entry draws.
    pub fn intrinsics(&self, frame: &CameraFrame) -> Intrinsics {
        Intrinsics {
            width_px: self.width,
            height_px: self.height,
            focal_px: frame.focal_px,
            centre: PlatePx::new(frame.cx, frame.cy),
            distortion: self.distortion.terms.into(),
        }
    }
}
