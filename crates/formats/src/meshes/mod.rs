//! Surfaces and points in the receiver's axes and unit: guests as OBJ with MTL and as PLY, landmarks as PLY.
//!
//! None of these files knows axes, units or motion: guests stand as on the first frame, and comments say the rest. In a
//! left-handed world triangles run the other way round, so that their outsides stay outside.

mod landmarks_ply;
mod obj;
mod ply;
pub mod textures;

pub use landmarks_ply::Landmarks;
pub use obj::Obj;
pub use ply::Ply;

use crate::camera_reader;
use crate::delivery::{Delivered, Delivery, DeliveryError};
use crate::receipt::{compare, unreadable};
use nalgebra::Vector3;
use parallax_core::scene::Hand;
use parallax_core::spaces::WorldPoint;

/// What a file says of its axes, unit and scale.
fn about(delivery: &Delivery<'_>) -> String {
    let unit = match delivery.scaled {
        true => format!("one unit is a {}", delivery.receiver.unit.word()),
        false => "no scale".to_owned(),
    };
    let scale = match delivery.receiver.scale {
        1.0 => String::new(),
        times => format!(", {times} times as large"),
    };
    format!("up {}, {unit}{scale}", delivery.receiver.axes())
}

/// A corner in the receiver's world: place and normal.
fn placed(delivery: &Delivery<'_>, guest: &Delivered) -> Vec<([f32; 3], [f32; 3])> {
    let turn = guest.there.rotation;
    let normal = |n: &[f32; 3]| {
        let turned = turn * Vector3::from(*n).cast::<f64>();
        delivery.receiver.direction(&turned).map(|v| v as f32)
    };
    let points = guest.corners();
    let points = points.map(|p| delivery.receiver.point(&p).map(|v| v as f32));
    points.zip(guest.mesh.normals.iter().map(normal)).collect()
}

/// Corners of a triangle in the order of the receiver's hand.
fn wound(delivery: &Delivery<'_>, [a, b, c]: [u32; 3]) -> [u32; 3] {
    match delivery.receiver.hand {
        Hand::Right => [a, b, c],
        Hand::Left => [a, c, b],
    }
}

/// A place of the receiver's world in ours.
fn in_our_world(delivery: &Delivery<'_>, xyz: [f32; 3]) -> WorldPoint {
    let metres = xyz.map(|v| f64::from(v) / delivery.receiver.per_metre());
    WorldPoint(camera_reader::in_our_world(delivery.receiver, metres).into())
}

/// Corners and triangles of a guest as they were read, the places in the receiver's world.
struct ReadSurface {
    corners: Vec<[f32; 3]>,
    triangles: Vec<[u32; 3]>,
}

/// How far a surface that was read is from the guest, px.
fn surface_off(
    file: &str,
    delivery: &Delivery<'_>,
    guest: &Delivered,
    read: &ReadSurface,
) -> Result<f64, DeliveryError> {
    let triangles = guest.mesh.triangles.iter().map(|t| wound(delivery, *t));
    if !triangles.eq(read.triangles.iter().copied()) {
        return Err(unreadable(file, "a guest has other corners or triangles"));
    }
    let places: Vec<WorldPoint> = read
        .corners
        .iter()
        .map(|c| in_our_world(delivery, *c))
        .collect();
    let frames = if guest.moves.is_empty() {
        0..delivery.cameras.len()
    } else {
        0..1.min(delivery.cameras.len())
    };
    compare::corners(file, delivery, guest, &places, (0, frames))
}
