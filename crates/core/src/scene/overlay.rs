//! World lines as they fall on the plate, lens distortion included.
//!
//! Lines are cut at the near plane and where they leave the lens's valid radius, then
//! divided so that distortion bends them.

use super::shapes::Edge;
use crate::camera::{Intrinsics, Pose};
use crate::spaces::{PlatePx, WorldPoint};

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
