//! How a camera draws: focal length, centre of projection, distortion.

use super::Pose;
use crate::lens::Distortion;
use crate::spaces::{DistortedPoint, LensPoint, PlatePx, WorldPoint};
use serde::{Deserialize, Serialize};

/// The drawing of one camera, px of the plate as shot.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Intrinsics {
    /// Picture width, px.
    pub width_px: u32,
    /// Picture height, px.
    pub height_px: u32,
    /// Focal length, px.
    pub focal_px: f64,
    /// Centre of projection and of distortion.
    pub centre: PlatePx,
    /// From undistorted to distorted lens coordinates.
    pub distortion: Distortion,
}

impl Intrinsics {
    /// A lens without distortion, centred in the picture.
    pub fn centred(width_px: u32, height_px: u32, focal_px: f64) -> Self {
        Self {
            width_px,
            height_px,
            focal_px,
            centre: PlatePx::new(f64::from(width_px) / 2.0, f64::from(height_px) / 2.0),
            distortion: Distortion::NONE,
        }
    }

    /// The same drawing at another focal length, which the distortion follows as far as that is known.
    pub fn with_focal(self, focal_px: f64) -> Self {
        Self {
            focal_px,
            distortion: self.distortion.zoomed(focal_px / self.focal_px),
            ..self
        }
    }

    /// Whether a position lies within the picture.
    pub fn holds(&self, px: PlatePx) -> bool {
        let (width, height) = (f64::from(self.width_px), f64::from(self.height_px));
        (0.0..=width).contains(&px.x) && (0.0..=height).contains(&px.y)
    }

    /// Where an undistorted direction falls in the plate.
    pub fn plate_px(&self, direction: LensPoint) -> PlatePx {
        let d = self.distortion.distort(direction);
        PlatePx::new(
            self.centre.x + self.focal_px * d.x,
            self.centre.y + self.focal_px * d.y,
        )
    }

    /// The undistorted direction of a plate position. `None` outside the radius in which
    /// the distortion can be inverted.
    pub fn lens_point(&self, px: PlatePx) -> Option<LensPoint> {
        self.distortion.undistort(self.distorted_point(px))
    }

    /// A plate position from the centre, in units of the focal length; its distortion is left as it is.
    pub fn distorted_point(&self, px: PlatePx) -> DistortedPoint {
        DistortedPoint::new(
            (px.x - self.centre.x) / self.focal_px,
            (px.y - self.centre.y) / self.focal_px,
        )
    }

    /// Where a world point falls in the plate, `None` at or behind the camera or where
    /// the distortion folds back.
    pub fn project(&self, pose: &Pose, point: &WorldPoint) -> Option<PlatePx> {
        let direction = LensPoint::of_camera_point(&pose.to_camera(point))?;
        let radius2 = direction.x * direction.x + direction.y * direction.y;
        if !self.distortion.is_none() && radius2.sqrt() > self.distortion.valid_radius() {
            return None;
        }
        Some(self.plate_px(direction))
    }

    /// Distance from the centre at which the distortion turns back, px of the plate; infinite
    /// when it never does.
    pub fn fold_px(&self) -> f64 {
        let limit = self.distortion.valid_radius();
        if limit.is_finite() {
            self.distortion.distort(LensPoint::new(limit, 0.0)).x.abs() * self.focal_px
        } else {
            f64::INFINITY
        }
    }

    /// Distance of the corner that is farthest from the centre, px.
    pub fn farthest_corner_px(&self) -> f64 {
        let (w, h) = (f64::from(self.width_px), f64::from(self.height_px));
        let corners = [(0.0, 0.0), (w, 0.0), (0.0, h), (w, h)];
        corners
            .iter()
            .map(|(x, y)| self.centre.distance_px(PlatePx::new(*x, *y)))
            .fold(0.0, f64::max)
    }

    /// Half the picture's diagonal in lens coordinates.
    pub fn corner_radius(&self) -> f64 {
        f64::from(self.width_px).hypot(f64::from(self.height_px)) / (2.0 * self.focal_px)
    }

    /// Horizontal field of view, rad, without distortion.
    pub fn horizontal_view_rad(&self) -> f64 {
        2.0 * (f64::from(self.width_px) / (2.0 * self.focal_px)).atan()
    }
}
