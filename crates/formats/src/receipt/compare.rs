//! What was read back held against the solve: cameras by where they draw places of the scene, landmarks and corners of
//! guests by where they are drawn.

use super::{FileReceipt, unreadable};
use crate::delivery::package::NamedBytes;
use crate::delivery::{Delivered, Delivery, DeliveryError};
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::lens::Distortion;
use parallax_core::spaces::{PlatePx, WorldPoint};
use rayon::prelude::*;
use std::collections::HashMap;

/// Files that were written, by name.
pub struct Held<'a>(HashMap<&'a str, &'a [u8]>);

impl<'a> Held<'a> {
    /// Of files.
    pub fn of(files: &'a [NamedBytes]) -> Self {
        Self(
            files
                .iter()
                .map(|(n, b)| (n.as_str(), b.as_slice()))
                .collect(),
        )
    }

    /// The bytes of a file.
    pub fn bytes(&self, file: &str) -> Result<&'a [u8], DeliveryError> {
        let found = self.0.get(file).copied();
        found.ok_or_else(|| unreadable(file, "it is not there"))
    }

    /// A file as text.
    pub fn text(&self, file: &str) -> Result<&'a str, DeliveryError> {
        std::str::from_utf8(self.bytes(file)?).map_err(|_| unreadable(file, "it is no text"))
    }

    /// Whether it is there.
    pub fn has(&self, file: &str) -> bool {
        self.0.contains_key(file)
    }

    /// A file of which no receipt speaks.
    pub fn unchecked(&self, receipts: &[FileReceipt]) -> Option<&'a str> {
        let spoken = |file: &str| receipts.iter().any(|r| r.file == file);
        self.0.keys().copied().find(|file| !spoken(file))
    }
}

/// A camera as read back: frame, how it draws, where it stands in our world.
pub type ReadCamera = (i32, Intrinsics, Pose);

/// A lens without its distortion, for formats that hold the undistorted picture.
pub fn straight(lens: &Intrinsics) -> Intrinsics {
    Intrinsics {
        distortion: Distortion::NONE,
        ..*lens
    }
}

fn near_picture(lens: &Intrinsics, px: &PlatePx) -> bool {
    let (w, h) = (f64::from(lens.width_px), f64::from(lens.height_px));
    (-w..=2.0 * w).contains(&px.x) && (-h..=2.0 * h).contains(&px.y)
}

/// How far two drawings of a place are apart, px; nothing where the solve has it far beside the picture, where nobody
/// looks and px lose their meaning.
fn apart(lens: &Intrinsics, solved: Option<PlatePx>, read: Option<PlatePx>) -> f64 {
    match solved.filter(|px| near_picture(lens, px)) {
        Some(solved) => read.map_or(f64::INFINITY, |read| known(read.distance_px(solved))),
        None => 0.0,
    }
}

/// A distance; infinite where it is none, since the larger of two numbers is never the one that is none.
pub fn known(distance: f64) -> f64 {
    match distance.is_finite() {
        true => distance,
        false => f64::INFINITY,
    }
}

/// Largest distance between places of the scene as the solved and the read camera draw them; `lens` is the solved one,
/// without distortion for formats that hold none. A frame that is missing is an error.
pub fn cameras(
    file: &str,
    delivery: &Delivery<'_>,
    lens: &Intrinsics,
    read: &[ReadCamera],
) -> Result<f64, DeliveryError> {
    if read.len() != delivery.cameras.len() {
        return Err(unreadable(file, "frames are missing"));
    }
    let both = read.iter().zip(&delivery.cameras);
    if let Some((read, solved)) = both.clone().find(|(r, s)| r.0 != s.frame.0) {
        let said = format!(
            "frame {} stands where frame {} belongs",
            read.0, solved.frame
        );
        return Err(unreadable(file, said));
    }
    let far = reach(delivery);
    let of_frame =
        |((_, read_lens, read_pose), solved): (&ReadCamera, &crate::delivery::Camera)| {
            let lens = lens.with_focal(solved.focal_px);
            let ahead = ahead(&lens, &solved.pose, far);
            let places = delivery.probes.iter().chain(&ahead);
            let off = |place: &WorldPoint| {
                let solved = lens.project(&solved.pose, place);
                apart(&lens, solved, read_lens.project(read_pose, place))
            };
            places.map(off).fold(0.0, f64::max)
        };
    let both: Vec<_> = both.collect();
    finite(
        file,
        both.into_par_iter().map(of_frame).reduce(|| 0.0, f64::max),
    )
}

fn finite(file: &str, largest: f64) -> Result<f64, DeliveryError> {
    match largest.is_finite() {
        true => Ok(largest),
        false => Err(unreadable(file, "a place is behind the camera")),
    }
}

/// How far the scene reaches, for places in front of a camera.
fn reach(delivery: &Delivery<'_>) -> f64 {
    let first = delivery.cameras.first().map(|c| c.pose.centre());
    let far = |p: &WorldPoint| first.as_ref().map_or(1.0, |eye| eye.distance(*p));
    let far = delivery.probes.iter().map(far).fold(0.0, f64::max);
    if far > 0.0 { far } else { 10.0 }
}

/// Places in front of a camera, near and far: towards the middle and the corners of its picture.
fn ahead(lens: &Intrinsics, pose: &Pose, far: f64) -> Vec<WorldPoint> {
    let (w, h) = (f64::from(lens.width_px), f64::from(lens.height_px));
    let corners = [(0.5, 0.5), (0.0, 0.0), (1.0, 0.0), (0.0, 1.0), (1.0, 1.0)];
    let place = |(u, v): (f64, f64), depth: f64| {
        let (x, y) = (
            (u * w - lens.centre.x) / lens.focal_px,
            (v * h - lens.centre.y) / lens.focal_px,
        );
        let own = nalgebra::Point3::new(x * depth, -y * depth, -depth);
        WorldPoint(pose.camera_from_world.inverse() * own)
    };
    let depths = [0.1 * far, far];
    depths
        .into_iter()
        .flat_map(|depth| corners.map(|corner| place(corner, depth)))
        .collect()
}

/// Largest distance between landmarks as solved and as read, drawn by the solved camera on every frame.
pub fn points(
    file: &str,
    delivery: &Delivery<'_>,
    lens: &Intrinsics,
    read: &[WorldPoint],
) -> Result<f64, DeliveryError> {
    if read.len() != delivery.points.len() {
        let said = format!(
            "{} landmarks are there, {} belong",
            read.len(),
            delivery.points.len()
        );
        return Err(unreadable(file, said));
    }
    let off = |camera: &crate::delivery::Camera| {
        let lens = lens.with_focal(camera.focal_px);
        let both = read.iter().zip(&delivery.points);
        both.map(|(read, solved)| {
            let solved = lens.project(&camera.pose, &solved.place);
            apart(&lens, solved, lens.project(&camera.pose, read))
        })
        .fold(0.0, f64::max)
    };
    finite(
        file,
        delivery
            .cameras
            .par_iter()
            .map(off)
            .reduce(|| 0.0, f64::max),
    )
}

/// Largest distance between places as handed on and as read, drawn by the solved camera of a frame, counted from the
/// first.
pub fn places(
    file: &str,
    delivery: &Delivery<'_>,
    lens: &Intrinsics,
    (read, wanted): (&[WorldPoint], &[WorldPoint]),
    frame: usize,
) -> Result<f64, DeliveryError> {
    let Some(camera) = delivery
        .cameras
        .get(frame)
        .filter(|_| read.len() == wanted.len())
    else {
        return Err(unreadable(file, "places are missing"));
    };
    let lens = lens.with_focal(camera.focal_px);
    let off = |(read, wanted): (&WorldPoint, &WorldPoint)| {
        let wanted = lens.project(&camera.pose, wanted);
        apart(&lens, wanted, lens.project(&camera.pose, read))
    };
    finite(file, read.iter().zip(wanted).map(off).fold(0.0, f64::max))
}

/// Corners of a guest that are projected on every frame.
const MOST_PROJECTED: usize = 5_000;
/// Rounding of a file that holds 32 bits, share, with room.
const SINGLE: f64 = 1e-6;

/// Largest distance between corners of a guest as handed on and as read on a frame counted from the first, drawn by the
/// solved camera of each of `frames`. Every corner is compared in space; on screen as many as tell.
pub fn corners(
    file: &str,
    delivery: &Delivery<'_>,
    guest: &Delivered,
    read: &[WorldPoint],
    (at, frames): (usize, std::ops::Range<usize>),
) -> Result<f64, DeliveryError> {
    if read.len() != guest.mesh.points.len() {
        return Err(unreadable(file, "a guest has other corners or triangles"));
    }
    let lens = straight(&delivery.lens);
    let some = guest.mesh.points.len().div_ceil(MOST_PROJECTED).max(1);
    let there = guest.on(at);
    let wide = delivery.receiver.per_metre().max(1.0).recip();
    let wanted: Vec<WorldPoint> = guest.own_corners().map(|p| there.point(&p)).collect();
    let far = |(read, wanted): (&WorldPoint, &WorldPoint)| {
        let most = SINGLE * (wide + wanted.0.coords.norm() + there.translation.norm());
        known(read.distance(*wanted)) > most
    };
    if read.iter().zip(&wanted).any(far) {
        return Err(unreadable(file, "a corner of a guest lies elsewhere"));
    }
    let shown: Vec<_> = read.iter().zip(&wanted).step_by(some).collect();
    let cameras = delivery.cameras.get(frames).unwrap_or_default();
    let off = |camera: &crate::delivery::Camera| {
        let (lens, pose) = (lens.with_focal(camera.focal_px), &camera.pose);
        let one = |(read, wanted): &(&WorldPoint, &WorldPoint)| {
            let both = lens.project(pose, read).zip(lens.project(pose, wanted));
            both.filter(|(_, w)| near_picture(&lens, w))
                .map_or(0.0, |(r, w)| known(r.distance_px(w)))
        };
        shown.iter().map(one).fold(0.0, f64::max)
    };
    Ok(cameras.par_iter().map(off).reduce(|| 0.0, f64::max))
}
