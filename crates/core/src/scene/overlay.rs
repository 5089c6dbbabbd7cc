//! World lines as they fall on the plate, lens distortion included.
//!
//! Lines are cut at the near plane and where they leave the lens's valid radius, then
//! divided so that distortion bends them.

use super::shapes::Edge;
use crate::camera::{Intrinsics, Pose};
use crate::spaces::{LensPoint, PlatePx, WorldPoint};
use nalgebra::Vector3;

/// Pieces of one line; more where the lens bends.
const PIECES_STRAIGHT: usize = 4;
const PIECES_BENT: usize = 16;
/// Nearest depth that is drawn, world units.
const NEAR: f64 = 0.02;
/// Lines are drawn this far beyond the picture's border, in picture widths.
const MARGIN: f64 = 0.5;

/// A world line as poly-lines on the plate; empty where nothing of it is near the picture.
pub fn project_edge(lens: &Intrinsics, pose: &Pose, edge: &Edge) -> Vec<Vec<PlatePx>> {
    let Some([from, to]) = clipped(lens, pose, edge) else {
        return Vec::new();
    };
    let pieces = if lens.distortion.is_none() {
        PIECES_STRAIGHT
    } else {
        PIECES_BENT
    };
    // Perspective crowds far ends: divide evenly in the picture, not in space.
    let (near_depth, far_depth) = (-pose.to_camera(&from).z, -pose.to_camera(&to).z);
    let mut lines = Vec::new();
    let mut current: Vec<PlatePx> = Vec::new();
    for piece in 0..=pieces {
        let s = piece as f64 / pieces as f64;
        let t = s * near_depth / (far_depth + s * (near_depth - far_depth));
        let point = WorldPoint(from.0 + (to.0 - from.0) * t);
        match lens.project(pose, &point) {
            Some(px) => current.push(px),
            None if current.len() > 1 => lines.push(std::mem::take(&mut current)),
            None => current.clear(),
        }
    }
    if current.len() > 1 {
        lines.push(current);
    }
    lines
}

/// The part of a line that lies before the near plane and inside the widened view: each
/// bound is linear along the line, so that the part between is found by cutting its ends.
fn clipped(lens: &Intrinsics, pose: &Pose, [a, b]: &Edge) -> Option<Edge> {
    let widened = 1.0 + 2.0 * MARGIN;
    let across = widened * f64::from(lens.width_px) / (2.0 * lens.focal_px);
    let down = widened * f64::from(lens.height_px) / (2.0 * lens.focal_px);
    let bounds = |p: &WorldPoint| {
        let c = pose.to_camera(p);
        let depth = -c.z;
        [
            depth - NEAR,
            across * depth - c.x,
            across * depth + c.x,
            down * depth - c.y,
            down * depth + c.y,
        ]
    };
    let (mut first, mut last) = (0.0f64, 1.0f64);
    for (from, to) in bounds(a).into_iter().zip(bounds(b)) {
        match (from < 0.0, to < 0.0) {
            (true, true) => return None,
            (true, false) => first = first.max(from / (from - to)),
            (false, true) => last = last.min(from / (from - to)),
            (false, false) => {}
        }
    }
    let at = |t: f64| WorldPoint(a.0 + (b.0 - a.0) * t);
    (first < last).then(|| [at(first), at(last)])
}

/// Pieces of the horizon about the whole circle.
const PIECES_AROUND: usize = 240;

/// Where directions that rise by so much above level fall on the plate: the horizon at 0. Within the picture and
/// half its width about it.
pub fn project_horizon(lens: &Intrinsics, pose: &Pose, rise_rad: f64) -> Vec<Vec<PlatePx>> {
    let across = (1.0 + 2.0 * MARGIN) * f64::from(lens.width_px) / (2.0 * lens.focal_px);
    let at = |piece: usize| {
        let angle = std::f64::consts::TAU * piece as f64 / PIECES_AROUND as f64;
        let (level, up) = (rise_rad.cos(), rise_rad.sin());
        let direction = Vector3::new(level * angle.sin(), up, level * angle.cos());
        let seen = LensPoint::of_camera_point(&(pose.camera_from_world.rotation * direction))?;
        let within = seen.x.hypot(seen.y) < lens.distortion.valid_radius();
        (within && seen.x.abs() < across && seen.y.abs() < across).then(|| lens.plate_px(seen))
    };
    let mut lines: Vec<Vec<PlatePx>> = Vec::new();
    let mut before = false;
    // Begun behind the camera, so that no line is cut in the middle of the picture.
    let back = pose.camera_from_world.rotation.inverse() * Vector3::z();
    let first = back.x.atan2(back.z) / std::f64::consts::TAU * PIECES_AROUND as f64;
    let first = (first + PIECES_AROUND as f64) as usize;
    for piece in 0..=PIECES_AROUND {
        let px = at(first + piece);
        match (px, lines.last_mut()) {
            (Some(px), Some(line)) if before => line.push(px),
            (Some(px), _) => lines.push(vec![px]),
            (None, _) => {}
        }
        before = px.is_some();
    }
    lines.retain(|line| line.len() > 1);
    lines
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::lens::Distortion;

    #[test]
    fn a_line_from_behind_the_camera_is_cut() {
        let lens = Intrinsics::centred(1280, 720, 1000.0);
        let edge = [
            WorldPoint::new(0.2, -0.5, 5.0),
            WorldPoint::new(0.2, -0.5, -20.0),
        ];
        let drawn = project_edge(&lens, &Pose::identity(), &edge);
        assert_eq!(drawn.len(), 1);
        assert!(drawn[0][0].y > 720.0, "it comes in from below the picture");
        let end = drawn[0].last().copied();
        let far = lens.project(&Pose::identity(), &edge[1]);
        assert!(end.zip(far).is_some_and(|(a, b)| a.distance_px(b) < 1e-6));
    }

    /// The horizon is where far points at the camera's height are seen, whatever way it looks; what rises lies above.
    #[test]
    fn the_horizon_is_where_far_level_things_are_seen() {
        let lens = Intrinsics {
            distortion: Distortion::radial(-0.1, 0.0),
            ..Intrinsics::centred(1280, 720, 1000.0)
        };
        for target in [[0.3, 1.0, -5.0], [-4.0, 2.2, 0.5], [1.0, 1.2, 6.0]] {
            let eye = nalgebra::Point3::new(0.5, 1.6, 0.2);
            let pose = Pose::looking_at(&eye, &target.into(), &Vector3::y());
            let lines = project_horizon(&lens, &pose, 0.0);
            assert_eq!(lines.len(), 1);
            let risen = project_horizon(&lens, &pose, 0.01);
            for (k, px) in lines[0].iter().enumerate() {
                let ray = lens.lens_point(*px).unwrap().ray();
                let direction = pose.camera_from_world.rotation.inverse() * ray.normalize();
                assert!(direction.y.abs() < 1e-9, "{direction}");
                assert!(risen[0].get(k).is_none_or(|above| above.y < px.y - 5.0));
            }
            assert!(lines[0].first().unwrap().x.min(lines[0].last().unwrap().x) < 0.0);
            assert!(lines[0].first().unwrap().x.max(lines[0].last().unwrap().x) > 1280.0);
        }
    }

    #[test]
    fn a_bent_lens_bends_the_line() {
        let lens = Intrinsics {
            distortion: Distortion::radial(-0.2, 0.0),
            ..Intrinsics::centred(1280, 720, 1000.0)
        };
        let edge = [
            WorldPoint::new(-2.5, 1.5, -5.0),
            WorldPoint::new(2.5, 1.5, -5.0),
        ];
        let line = &project_edge(&lens, &Pose::identity(), &edge)[0];
        let (first, middle) = (line[0], line[line.len() / 2]);
        assert!(
            first.y - middle.y > 3.0,
            "the ends of an upper line hang down in a barrel lens"
        );
    }
}
