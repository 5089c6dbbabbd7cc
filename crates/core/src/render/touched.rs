//! Which px can guests touch, by their balls alone? Most of a picture shows neither a guest nor a shadow, and is told
//! so by one ray instead of many.

use super::frame::SKY_REACH;
use super::light::Light;
use super::set::Piece;
use nalgebra::{Point3, Vector3};

/// Balls are taken so much larger, for what is not followed to the last bit.
const LARGER: f64 = 1.05;
/// Planes that are seen flatter than this, as the sine, are taken as seen so.
const FLATTEST: f64 = 0.02;

/// What rays of one px have in common.
pub struct Bundle {
    /// The eye in the middle of the exposure.
    pub from: Point3<f64>,
    /// Through the middle of the px, unit length.
    pub direction: Vector3<f64>,
    /// Rays leave it by so much at most, rad: the px's size and the turn meanwhile.
    pub spread_rad: f64,
    /// The eye moves by so much meanwhile.
    pub travel: f64,
}

/// Whether a guest, its shadow or the sky that it keeps off can be seen along the rays of a px.
pub fn is_touched(
    rays: &Bundle,
    balls: &[(Point3<f64>, f64)],
    set: &[Piece],
    light: &Light,
) -> bool {
    let near = |(middle, radius): &(Point3<f64>, f64)| {
        let to = middle - rays.from;
        let along = to.dot(&rays.direction);
        let beside = (to - rays.direction * along).norm();
        let reach = radius * LARGER + rays.travel + rays.spread_rad * to.norm();
        (along > -reach && beside < reach) || to.norm() < reach
    };
    if balls.iter().any(near) {
        return true;
    }
    let catches = set.iter().filter(|p| p.catches);
    catches.into_iter().any(|piece| {
        let Some(distance) = piece.met(&rays.from, &rays.direction) else {
            return false;
        };
        let at = rays.from + rays.direction * distance;
        let flat = piece.normal.dot(&rays.direction).abs().max(FLATTEST);
        let slack = (rays.travel + rays.spread_rad * distance) / flat;
        balls.iter().any(|(middle, radius)| {
            let to = middle - at;
            let along = to.dot(&light.towards);
            let beside = (to - light.towards * along).norm();
            let reach = radius * LARGER + slack;
            let shaded = along > -reach && beside < reach + along.max(0.0) * light.disc_rad.tan();
            shaded || to.norm() < SKY_REACH * radius * LARGER + slack
        })
    })
}
