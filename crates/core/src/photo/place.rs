//! Origin, scale and lengths: what turns directions into a place in metres.
//!
//! The origin is a point of the ground (y = 0) seen in the picture; the camera stands back
//! from it along its ray. A known length along an axis or across the ground gives the scale.
//! Fails for points on or above the horizon, which the ground never reaches.

use super::rails::{Axis, as_pair};
use super::{Perspective, PhotoError};
use crate::camera::Pose;
use crate::spaces::{PlatePx, WorldPoint};
use nalgebra::Point3;
use serde::{Deserialize, Serialize};

/// A length that is known, as it shows in the picture.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct KnownLength {
    /// The axis along which it runs; `None` for two points of the ground.
    #[serde(default)]
    pub axis: Option<Axis>,
    /// One end, on the ground.
    #[serde(with = "as_pair")]
    pub from: PlatePx,
    /// The other end.
    #[serde(with = "as_pair")]
    pub to: PlatePx,
    /// How long it is, m.
    pub metres: f64,
}

/// Where the world is put.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Placement {
    /// The world's origin in the picture; the lower middle of the picture when left out.
    pub origin: Option<PlatePx>,
    /// A length that is known.
    pub known: Option<KnownLength>,
}

/// The camera in its place.
#[derive(Clone, Debug, PartialEq)]
pub struct Placed {
    /// The camera.
    pub pose: Pose,
    /// Where the origin is in the picture.
    pub origin: PlatePx,
    /// Whether the world's unit is the metre.
    pub scaled: bool,
    /// Height of the camera over the ground, world units.
    pub camera_height: f64,
    /// Distance of the camera from the origin, world units.
    pub distance: f64,
    /// Standard error of the scale, share, for a length that is exact; `None` without one.
    pub scale_share_sigma: Option<f64>,
    /// The standard error of the ends of the known length that this assumes, px.
    pub scale_ends_sigma_px: Option<f64>,
    /// Px by which the known length runs beside its axis.
    pub off_axis_px: Option<f64>,
}

/// Distance of the camera from the origin as long as no length is known, world units.
const UNSCALED_DISTANCE: f64 = 10.0;
/// Rays flatter than this never reach the ground in a way that can be measured.
const LEAST_FALL: f64 = 1e-3;
/// A length that shows shorter than this says nothing, px.
const LEAST_SHOWN_PX: f64 = 4.0;

/// Which way a length is to run, in words.
fn way(axis: Axis) -> String {
    match axis {
        Axis::Y => "upright".to_owned(),
        Axis::X | Axis::Z => format!("along what runs {axis}"),
    }
}

/// Ends of a length are clicked, not fitted to an edge: no end is believed to be placed better
/// than this, px, however well the rails fit.
const LEAST_END_SIGMA_PX: f64 = 0.5;

/// A length measured in the picture.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Length {
    /// The length, world units.
    pub length: f64,
    /// Standard error from the placing of its ends, world units.
    pub sigma: f64,
    /// The standard error of each end that this assumes, px.
    pub ends_sigma_px: f64,
    /// Px by which its far end lies beside the axis.
    pub off_axis_px: f64,
}

/// Puts origin and scale into the world of a perspective.
pub fn place(perspective: &Perspective, placement: &Placement) -> Result<Placed, PhotoError> {
    let origin = match placement.origin {
        Some(px) => px,
        None => default_origin(perspective)?,
    };
    let ray = perspective.direction(origin);
    if ray.y > -LEAST_FALL {
        return Err(PhotoError::OriginAboveHorizon);
    }
    let unscaled = perspective.pose(&Point3::from(-ray * UNSCALED_DISTANCE));
    let mut placed = Placed {
        pose: unscaled,
        origin,
        scaled: false,
        camera_height: -ray.y * UNSCALED_DISTANCE,
        distance: UNSCALED_DISTANCE,
        scale_share_sigma: None,
        scale_ends_sigma_px: None,
        off_axis_px: None,
    };
    let Some(known) = placement.known else {
        return Ok(placed);
    };
    if !(known.metres.is_finite() && known.metres > 0.0 && known.metres < 1e5) {
        return Err(PhotoError::OutOfRange {
            what: "known length in metres",
            value: known.metres,
            range: "above 0",
        });
    }
    let shown = placed.measure(perspective, known.axis, known.from, known.to)?;
    let shown_px = known.from.distance_px(known.to);
    let along = known.axis.map_or_else(|| "over the ground".to_owned(), way);
    if shown_px < LEAST_SHOWN_PX || shown.length < 1e-9 || shown.off_axis_px > 0.7 * shown_px {
        let shown_px = (shown_px * shown_px - shown.off_axis_px * shown.off_axis_px)
            .max(0.0)
            .sqrt();
        return Err(PhotoError::LengthNotSeen { shown_px, along });
    }
    let scale = known.metres / shown.length;
    placed.distance *= scale;
    placed.camera_height *= scale;
    placed.pose = perspective.pose(&Point3::from(-ray * placed.distance));
    placed.scaled = true;
    placed.scale_share_sigma = Some(shown.sigma / shown.length);
    placed.scale_ends_sigma_px = Some(shown.ends_sigma_px);
    placed.off_axis_px = Some(shown.off_axis_px);
    Ok(placed)
}

/// A quarter of the way up from the lower border, or as low as the ground is seen.
fn default_origin(perspective: &Perspective) -> Result<PlatePx, PhotoError> {
    let (width, height) = (
        f64::from(perspective.lens.width_px),
        f64::from(perspective.lens.height_px),
    );
    [0.75, 0.9, 0.99, 0.5, 0.25, 0.05]
        .into_iter()
        .map(|share| PlatePx::new(0.5 * width, share * height))
        .find(|px| perspective.direction(*px).y < -0.05)
        .ok_or(PhotoError::OriginAboveHorizon)
}

impl Placed {
    /// The point of the ground seen at a place in the picture; `None` on or above the horizon.
    pub fn ground_point(&self, perspective: &Perspective, px: PlatePx) -> Option<WorldPoint> {
        let eye = self.pose.centre().0;
        let ray = perspective.direction(px);
        (ray.y < -LEAST_FALL).then(|| WorldPoint(eye - ray * (eye.y / ray.y)))
    }

    /// The point on the line through `foot` along `axis` that is seen nearest to `px`, and
    /// how far beside that line `px` lies, in px.
    pub fn point_along(
        &self,
        perspective: &Perspective,
        foot: &WorldPoint,
        axis: Axis,
        px: PlatePx,
    ) -> Option<(WorldPoint, f64)> {
        // In the picture first: the line's image runs from the foot to the vanishing point.
        let along = axis.unit();
        let foot_px = perspective.lens.project(&self.pose, foot)?;
        let v = perspective.eye().vanishing(&along);
        let towards = nalgebra::Vector2::new(v.x - v.z * foot_px.x, v.y - v.z * foot_px.y);
        if towards.norm() < 1e-9 {
            return None;
        }
        let unit = towards.normalize();
        let on_line = foot_px.moved(unit * unit.dot(&px.offset_from(foot_px)));
        let off_px = on_line.distance_px(px);
        // Then in space: where that ray passes the line.
        let eye = self.pose.centre().0;
        let ray = perspective.direction(on_line);
        let between = foot.0 - eye;
        let (b, d_along, d_ray) = (along.dot(&ray), along.dot(&between), ray.dot(&between));
        let determinant = 1.0 - b * b;
        if determinant < 1e-9 {
            return None;
        }
        let t = (b * d_ray - d_along) / determinant;
        let depth = (d_ray - b * d_along) / determinant;
        (depth > 0.0).then(|| (WorldPoint(foot.0 + along * t), off_px))
    }

    /// Length between a point of the ground and another point along an axis from it, or
    /// between two points of the ground.
    pub fn measure(
        &self,
        perspective: &Perspective,
        axis: Option<Axis>,
        from: PlatePx,
        to: PlatePx,
    ) -> Result<Length, PhotoError> {
        let (length, off_axis_px) = self.length(perspective, axis, from, to)?;
        // Moved by the error of an end across and down: the slope of the length.
        let moved = |step: f64, of: &dyn Fn(f64, f64) -> (PlatePx, PlatePx)| {
            let changes = [(step, 0.0), (0.0, step)].into_iter().map(|(dx, dy)| {
                let (f, t) = of(dx, dy);
                let changed = self.length(perspective, axis, f, t);
                changed.map_or(0.0, |(l, _)| (l - length).powi(2))
            });
            changes.sum::<f64>()
        };
        let by = nalgebra::Vector2::new;
        let end_px = perspective.end_sigma_px.max(LEAST_END_SIGMA_PX);
        // An end beside its axis is known along it no better than it lies on it.
        let far_px = end_px.hypot(off_axis_px);
        let variance = moved(end_px, &|dx, dy| (from.moved(by(dx, dy)), to))
            + moved(far_px, &|dx, dy| (from, to.moved(by(dx, dy))));
        Ok(Length {
            length,
            sigma: variance.sqrt(),
            ends_sigma_px: far_px,
            off_axis_px,
        })
    }

    fn length(
        &self,
        perspective: &Perspective,
        axis: Option<Axis>,
        from: PlatePx,
        to: PlatePx,
    ) -> Result<(f64, f64), PhotoError> {
        let foot = self
            .ground_point(perspective, from)
            .ok_or(PhotoError::NotOnGround {
                what: "first end of the length",
            })?;
        match axis {
            None => {
                let other = self
                    .ground_point(perspective, to)
                    .ok_or(PhotoError::NotOnGround {
                        what: "second end of the length",
                    })?;
                Ok((foot.distance(other), 0.0))
            }
            Some(axis) => {
                let (end, off_px) =
                    self.point_along(perspective, &foot, axis, to)
                        .ok_or_else(|| PhotoError::LengthNotSeen {
                            shown_px: from.distance_px(to),
                            along: way(axis),
                        })?;
                Ok((foot.distance(end), off_px))
            }
        }
    }
}
