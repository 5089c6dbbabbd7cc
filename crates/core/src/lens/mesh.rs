//! A map on a coarse grid, for views that bend a picture while it is looked at.
//!
//! Between its vertices a view interpolates in straight lines. With 96 pieces across a picture
//! of 1920 px a strong barrel is wrong by a few hundredths of a px: right for looking, and not
//! used for anything that is kept. Beyond the radius in which the lens maps one to one the
//! vertices stay at that radius, which lies outside the plate.

use super::maps::Frame;
use crate::spaces::{LensPoint, PlatePx, UndistortedPx};

/// Places of the vertices, row by row, px of the other picture.
#[derive(Clone, Debug, PartialEq)]
pub struct Mesh {
    /// Pieces across; vertices are one more.
    pub columns: u32,
    /// Pieces down.
    pub rows: u32,
    /// Where each vertex lies in the other picture.
    pub places: Vec<[f64; 2]>,
}

impl Mesh {
    /// A mesh over a picture with so many pieces along its longer side.
    fn over(
        width_px: u32,
        height_px: u32,
        pieces: u32,
        place: impl Fn([f64; 2]) -> [f64; 2],
    ) -> Self {
        let side = f64::from(width_px.max(height_px)) / f64::from(pieces.max(1));
        let count = |length: u32| ((f64::from(length) / side).round() as u32).max(1);
        let (columns, rows) = (count(width_px), count(height_px));
        let at = |i: u32, j: u32| {
            [
                f64::from(width_px) * f64::from(i) / f64::from(columns),
                f64::from(height_px) * f64::from(j) / f64::from(rows),
            ]
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
        let limit = self.lens.distortion.valid_radius();
        Mesh::over(self.width_px, self.height_px, pieces, |[x, y]| {
            let at = self.lens_point(UndistortedPx::new(x, y));
            let shrink = (0.999 * limit / at.x.hypot(at.y).max(1e-12)).min(1.0);
            let near = LensPoint::new(at.x * shrink, at.y * shrink);
            let px = self.lens.plate_px(near);
            [px.x, px.y]
        })
    }

    /// From the plate to the undistorted picture. Every corner of the plate has a place.
    pub fn distorting_mesh(&self, pieces: u32) -> Mesh {
        let place = |[x, y]: [f64; 2]| {
            let distorted = self.lens.distorted_point(PlatePx::new(x, y));
            let as_it_is = LensPoint::new(distorted.x, distorted.y);
            let at = self.lens.distortion.undistort(distorted);
            let px = self.undistorted_px(at.unwrap_or(as_it_is));
            [px.x, px.y]
        };
        Mesh::over(self.lens.width_px, self.lens.height_px, pieces, place)
    }
}
