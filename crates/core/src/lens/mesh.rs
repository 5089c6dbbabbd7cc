//! A map on a coarse grid, for views that bend a picture while it is looked at.
//!
//! Between its vertices a view interpolates in straight lines. With 96 pieces across a picture
//! of 1920 px a strong barrel is wrong by a few hundredths of a px: right for looking, and not
//! used for anything that is kept. Beyond the radius in which the lens maps one to one the
//! vertices stay at that radius, which lies outside the plate.

use super::maps::Frame;
use crate::camera::Intrinsics;
use crate::spaces::{LensPoint, PlatePx};

/// Places of the vertices, row by row, px of the other picture.
#[derive(Clone, Debug, PartialEq)]
pub struct Mesh {
    /// Pieces across; vertices are one more.
    pub columns: u32,
    /// Pieces down.
    pub rows: u32,
    /// Where each vertex lies in the other picture.
    pub places: Vec<PlatePx>,
}

impl Mesh {
    /// A mesh over a picture with so many pieces along its longer side.
    fn over(
        width_px: u32,
        height_px: u32,
        pieces: u32,
        place: impl Fn(PlatePx) -> PlatePx,
    ) -> Self {
        let side = f64::from(width_px.max(height_px)) / f64::from(pieces.max(1));
        let count = |length: u32| ((f64::from(length) / side).round() as u32).max(1);
        let (columns, rows) = (count(width_px), count(height_px));
        let at = |i: u32, j: u32| {
            PlatePx::new(
                f64::from(width_px) * f64::from(i) / f64::from(columns),
                f64::from(height_px) * f64::from(j) / f64::from(rows),
            )
        };
        let vertices = (0..=rows).flat_map(|j| (0..=columns).map(move |i| (i, j)));
        Self {
            columns,
            rows,
            places: vertices.map(|(i, j)| place(at(i, j))).collect(),
        }
    }
}

impl Frame {
    /// From the undistorted picture to the plate.
    pub fn undistorting_mesh(&self, pieces: u32) -> Mesh {
        let (straight, limit) = (self.straight(), self.lens.distortion.valid_radius());
        Mesh::over(self.width_px, self.height_px, pieces, |px| {
            let at = plain(&straight, px);
            let shrink = (0.999 * limit / at.x.hypot(at.y).max(1e-12)).min(1.0);
            self.lens
                .plate_px(LensPoint::new(at.x * shrink, at.y * shrink))
        })
    }

    /// From the plate to the undistorted picture. Every corner of the plate has a place.
    pub fn distorting_mesh(&self, pieces: u32) -> Mesh {
        let straight = self.straight();
        let place =
            |px| straight.plate_px(self.lens.lens_point(px).unwrap_or(plain(&self.lens, px)));
        Mesh::over(self.lens.width_px, self.lens.height_px, pieces, place)
    }
}

fn plain(lens: &Intrinsics, px: PlatePx) -> LensPoint {
    LensPoint::new(
        (px.x - lens.centre.x) / lens.focal_px,
        (px.y - lens.centre.y) / lens.focal_px,
    )
}
