//! The coordinate spaces of the job, one type for each, so that a plate position
//! cannot be handed to something that expects a lens position.
//!
//! | type | space | unit |
//! |---|---|---|
//! | [`PlatePx`] | the picture as shot, distorted | px, y down |
//! | [`UndistortedPx`] | the undistorted picture | px, y down |
//! | [`LensPoint`] | undistorted direction, (px - centre) / focal | none, y down |
//! | [`DistortedPoint`] | the same of the plate as shot, before its distortion is removed | none, y down |
//! | [`WorldPoint`] | the solved world, right-handed, Y up | world units, metres once scaled |
//!
//! Points in the camera's own space are plain `Vector3<f64>` inside one function and
//! never leave it.

use nalgebra::{Point3, Vector2, Vector3};
use serde::{Deserialize, Serialize};

/// A position in the picture as shot, px.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct PlatePx {
    /// px to the right of the left border.
    pub x: f64,
    /// px below the upper border.
    pub y: f64,
}

impl PlatePx {
    /// A position from its two coordinates in px.
    pub const fn new(x: f64, y: f64) -> Self {
        Self { x, y }
    }

    /// The displacement from `from` to `self` in px.
    pub fn offset_from(self, from: Self) -> Vector2<f64> {
        Vector2::new(self.x - from.x, self.y - from.y)
    }

    /// Distance to another position in px.
    pub fn distance_px(self, other: Self) -> f64 {
        self.offset_from(other).norm()
    }

    /// The position displaced by `by` px.
    pub fn moved(self, by: Vector2<f64>) -> Self {
        Self::new(self.x + by.x, self.y + by.y)
    }
}

/// A position in the undistorted picture, px; never one of the plate.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct UndistortedPx {
    /// px to the right of the left border.
    pub x: f64,
    /// px below the upper border.
    pub y: f64,
}

impl UndistortedPx {
    /// A position from its two coordinates in px.
    pub const fn new(x: f64, y: f64) -> Self {
        Self { x, y }
    }
}

/// Where a direction falls after distortion, in units of the focal length from the centre, y down.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct DistortedPoint {
    /// To the right.
    pub x: f64,
    /// Downwards.
    pub y: f64,
}

impl DistortedPoint {
    /// A position from its two coordinates.
    pub const fn new(x: f64, y: f64) -> Self {
        Self { x, y }
    }
}

/// An undistorted direction: tangent of the angle to the right and down of the optical axis.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct LensPoint {
    /// Tangent to the right.
    pub x: f64,
    /// Tangent downwards.
    pub y: f64,
}

impl LensPoint {
    /// A direction from its two tangents.
    pub const fn new(x: f64, y: f64) -> Self {
        Self { x, y }
    }

    /// The ray in the camera's own space (x right, y up, looking along -Z), not normalised.
    pub fn ray(self) -> Vector3<f64> {
        Vector3::new(self.x, -self.y, -1.0)
    }

    /// The direction in which a camera-space point is seen, `None` at or behind the camera.
    pub fn of_camera_point(point: &Vector3<f64>) -> Option<Self> {
        let depth = -point.z;
        (depth > 0.0).then(|| Self::new(point.x / depth, -point.y / depth))
    }
}

/// A point of the solved world.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(transparent)]
pub struct WorldPoint(pub Point3<f64>);

impl WorldPoint {
    /// A point from its coordinates in world units.
    pub fn new(x: f64, y: f64, z: f64) -> Self {
        Self(Point3::new(x, y, z))
    }

    /// Distance to another point in world units.
    pub fn distance(self, other: Self) -> f64 {
        (self.0 - other.0).norm()
    }
}

/// A frame's number, as in its file name.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(transparent)]
pub struct FrameNumber(pub i32);

impl std::fmt::Display for FrameNumber {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        self.0.fmt(f)
    }
}

/// A track's identity inside one shot.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(transparent)]
pub struct TrackId(pub u32);

impl std::fmt::Display for TrackId {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "t{:04}", self.0)
    }
}
