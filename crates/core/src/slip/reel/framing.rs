//! Where crops about a place lie: over the surface on which it lies, on each frame.

use super::align::{MOST_PX, STRETCHED};
use crate::camera::Eye;
use crate::orient::solved::plane_of;
use crate::solve::bundle::residual::by_point;
use crate::spaces::{FrameNumber, PlatePx, WorldPoint};
use crate::track::picture::Plane;
use nalgebra::{Matrix2, Matrix3, Matrix3x2, Vector2, Vector3};

/// Where a frame is cropped.
#[derive(Clone, Copy, Debug)]
pub struct Framing {
    /// The frame.
    pub frame: FrameNumber,
    /// The projection of the place.
    pub px: PlatePx,
    /// px of this frame for one of the reference.
    pub shape: Matrix2<f64>,
    eye: Eye,
    place: Vector3<f64>,
    /// Steps over the plane that are one px of the reference.
    face: Matrix3x2<f64>,
}

/// A part of a picture.
pub struct Piece {
    plane: Plane,
    /// Where it begins in the picture, px.
    corner: Vector2<f64>,
}

impl Framing {
    /// What an alignment may look at of a picture, so that the whole need not be kept; `None` of what is no picture.
    pub fn piece(&self, picture: &Plane, side: usize) -> Option<Piece> {
        let far = (side as f64 * STRETCHED + MOST_PX) * self.shape.singular_values().max();
        let bound = |at: f64, most: usize| (at.max(0.0) as usize).min(most);
        let (x, y) = (self.px.x, self.px.y);
        let (left, right) = (
            bound(x - far, picture.width()),
            bound(x + far + 2.0, picture.width()),
        );
        let (top, bottom) = (
            bound(y - far, picture.height()),
            bound(y + far + 2.0, picture.height()),
        );
        let rows = (top..bottom).map(|y| picture.row_from(y, left, right - left));
        let levels: Vec<f32> = rows.collect::<Option<Vec<_>>>()?.concat();
        Some(Piece {
            plane: Plane::new(right - left, bottom - top, levels)?,
            corner: Vector2::new(left as f64, top as f64),
        })
    }

    /// Where an offset in px of the reference is seen.
    pub fn at(&self, offset: Vector2<f64>) -> PlatePx {
        let there = WorldPoint((self.place + self.face * offset).into());
        let seen = self.eye.lens.project(&self.eye.pose, &there);
        seen.unwrap_or_else(|| self.px.moved(self.shape * offset))
    }
}

/// Crops turned or scaled by more than these times do not look alike.
const LARGEST: f64 = 3.0;
/// Derivatives in px as they are.
const IN_PX: [f64; 3] = [1.0, 0.0, 1.0];
/// So many landmarks about a place tell how its surface lies.
const NEIGHBOURS: usize = 10;
/// They lie this much closer to their plane than apart on it.
const FLAT: f64 = 0.15;
/// A surface that is seen at less than this is seen edge on, sine of the angle.
const EDGE_ON: f64 = 0.12;

/// The normal of the surface on which a place lies, from the landmarks nearest to it; `None` where they lie on none.
pub fn surface(landmarks: &[Vector3<f64>], place: &Vector3<f64>) -> Option<Vector3<f64>> {
    let mut near: Vec<&Vector3<f64>> = landmarks.iter().collect();
    near.sort_by(|a, b| {
        (*a - place)
            .norm_squared()
            .total_cmp(&(*b - place).norm_squared())
    });
    let near: Vec<Vector3<f64>> = near.into_iter().take(NEIGHBOURS).copied().collect();
    if near.len() < NEIGHBOURS {
        return None;
    }
    let plane = plane_of(&near)?;
    let rms = |of: &dyn Fn(&Vector3<f64>) -> f64| {
        (near.iter().map(|p| of(p).powi(2)).sum::<f64>() / near.len() as f64).sqrt()
    };
    let off = rms(&|p| plane.normal.dot(&(p - plane.middle)));
    let apart = rms(&|p| (p - plane.middle).norm());
    (off < FLAT * apart).then_some(plane.normal)
}

/// Where cameras see a place on a surface (one that faces the reference where its normal is not known), in the shape
/// of the one at `reference`: those that have it in the picture, with its surroundings.
pub fn framings(
    cameras: &[(FrameNumber, Eye)],
    reference: usize,
    (place, normal): (&Vector3<f64>, Option<&Vector3<f64>>),
    side: usize,
) -> Vec<Framing> {
    let Some(face) = cameras.get(reference).and_then(|(_, eye)| {
        let slopes = by_point(eye, place, IN_PX)?;
        let view = (place - eye.pose.centre().0.coords).normalize();
        let seen = |n: &&Vector3<f64>| n.dot(&view).abs() > EDGE_ON;
        let normal = normal.filter(seen).unwrap_or(&view);
        // Steps over the surface that are one px there.
        let all = Matrix3::from_rows(&[
            slopes.row(0).into_owned(),
            slopes.row(1).into_owned(),
            normal.transpose() * slopes.norm(),
        ]);
        Some(all.try_inverse()?.fixed_columns::<2>(0).into_owned())
    }) else {
        return Vec::new();
    };
    let half = side as f64 / 2.0;
    let one = |(frame, eye): &(FrameNumber, Eye)| {
        let px = eye.lens.project(&eye.pose, &WorldPoint((*place).into()))?;
        let shape: Matrix2<f64> = by_point(eye, place, IN_PX)? * face;
        let corner = |x: f64, y: f64| {
            let off = shape * Vector2::new(x, y);
            eye.lens.holds(px.moved(off))
        };
        let inside = corner(-half, -half)
            && corner(half, -half)
            && corner(-half, half)
            && corner(half, half);
        let values = shape.singular_values();
        let like = values.max() < LARGEST && values.min() > 1.0 / LARGEST;
        (inside && like).then_some(Framing {
            frame: *frame,
            px,
            shape,
            eye: *eye,
            place: *place,
            face,
        })
    };
    cameras.iter().filter_map(one).collect()
}

impl Piece {
    /// The level between px by cubic convolution (Keys 1981), which hardly blurs.
    pub fn level(&self, at: PlatePx) -> f64 {
        let (x, y) = (at.x - 0.5 - self.corner.x, at.y - 0.5 - self.corner.y);
        let (column, row) = (x.floor(), y.floor());
        let weights = |t: f64| {
            [
                ((-0.5 * t + 1.0) * t - 0.5) * t,
                (1.5 * t - 2.5) * t * t + 1.0,
                ((-1.5 * t + 2.0) * t + 0.5) * t,
                (0.5 * t - 0.5) * t * t,
            ]
        };
        let (across, down) = (weights(x - column), weights(y - row));
        let mut sum = 0.0;
        for (j, by) in down.iter().enumerate() {
            for (i, bx) in across.iter().enumerate() {
                let (x, y) = (
                    column as isize + i as isize - 1,
                    row as isize + j as isize - 1,
                );
                sum += bx * by * f64::from(self.plane.clamped(x, y));
            }
        }
        sum
    }
}
