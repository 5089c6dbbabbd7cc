//! Where a place in space is seen on each frame: `true-parallax/path@1`, as comma-separated text or JSON.
//!
//! Columns `frame,x,y,undistorted_x,undistorted_y,depth,visible`: px of the plate as shot, px of the undistorted picture
//! about the same centre, depth in front of the camera in units of the world, 1 where it lies in the picture.
//! What is behind the camera has no px.

use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::spaces::{FrameNumber, LensPoint, WorldPoint};
use serde::Serialize;
use std::fmt::Write;

/// The value of the key `schema`.
pub const SCHEMA: &str = "true-parallax/path@1";

/// A place on one frame.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct OnFrame {
    /// The frame.
    pub frame: FrameNumber,
    /// px of the plate as shot.
    pub px: Option<[f64; 2]>,
    /// px of the undistorted picture.
    pub undistorted_px: Option<[f64; 2]>,
    /// Depth in front of the camera, negative behind it.
    pub depth: f64,
    /// Whether it lies in the picture; what stands before it is not known.
    pub visible: bool,
}

/// The path of a place through cameras.
pub fn path(
    cameras: impl IntoIterator<Item = (FrameNumber, Intrinsics, Pose)>,
    place: &WorldPoint,
) -> Vec<OnFrame> {
    let one = |(frame, lens, pose): (FrameNumber, Intrinsics, Pose)| {
        let own = pose.to_camera(place);
        let px = lens.project(&pose, place);
        let straight = LensPoint::of_camera_point(&own);
        let straight_px = |p: LensPoint| {
            let (x, y) = (lens.focal_px * p.x, lens.focal_px * p.y);
            [lens.centre.x + x, lens.centre.y + y]
        };
        OnFrame {
            frame,
            px: px.map(|px| [px.x, px.y]),
            undistorted_px: straight.map(straight_px),
            depth: -own.z,
            visible: px.is_some_and(|px| lens.holds(px)),
        }
    };
    cameras.into_iter().map(one).collect()
}

/// As comma-separated text.
pub fn as_csv(rows: &[OnFrame]) -> String {
    let mut text = "frame,x,y,undistorted_x,undistorted_y,depth,visible\n".to_owned();
    for row in rows {
        let two = |px: Option<[f64; 2]>| {
            px.map_or_else(|| ",".to_owned(), |[x, y]| format!("{x:.4},{y:.4}"))
        };
        let (px, straight) = (two(row.px), two(row.undistorted_px));
        let visible = u8::from(row.visible);
        // Writing to a text never fails.
        let _ = writeln!(
            text,
            "{},{px},{straight},{:.6},{visible}",
            row.frame, row.depth
        );
    }
    text
}

#[derive(Serialize)]
struct File<'a> {
    schema: &'static str,
    frames: &'a [OnFrame],
}

/// As JSON.
pub fn as_json(rows: &[OnFrame]) -> Result<String, serde_json::Error> {
    serde_json::to_string_pretty(&File {
        schema: SCHEMA,
        frames: rows,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use nalgebra::{Point3, Vector3};
    use parallax_core::lens::Distortion;

    #[test]
    fn a_place_is_seen_beside_and_behind() {
        let lens = Intrinsics {
            distortion: Distortion::radial(-0.1, 0.0),
            ..Intrinsics::centred(1280, 720, 1000.0)
        };
        let eye = |x: f64, z: f64| {
            let at = Point3::new(x, 0.0, z);
            Pose::looking_at(&at, &(at - Vector3::z()), &Vector3::y())
        };
        let cameras = [(1, eye(0.0, 5.0)), (2, eye(-4.0, 5.0)), (3, eye(0.0, -5.0))];
        let cameras = cameras.map(|(frame, pose)| (FrameNumber(frame), lens, pose));
        let rows = path(cameras, &WorldPoint::new(0.5, 0.0, 0.0));
        assert_eq!(
            rows.iter().map(|r| r.visible).collect::<Vec<_>>(),
            [true, false, false]
        );
        assert!((rows[0].depth - 5.0).abs() < 1e-12 && rows[2].depth < 0.0);
        // Undistorted 0.1 to the right, and drawn a thousandth of that nearer.
        assert!((rows[0].undistorted_px.unwrap()[0] - 740.0).abs() < 1e-9);
        assert!((rows[0].px.unwrap()[0] - (640.0 + 1000.0 * 0.1 * (1.0 - 0.001))).abs() < 1e-9);
        assert_eq!(rows[2].px, None);
        let csv = as_csv(&rows);
        let lines: Vec<&str> = csv.lines().collect();
        assert_eq!(lines[1], "1,739.9000,360.0000,740.0000,360.0000,5.000000,1");
        assert_eq!(lines[3], "3,,,,,-5.000000,0");
        let json: serde_json::Value = serde_json::from_str(&as_json(&rows).unwrap()).unwrap();
        assert_eq!(
            (&json["schema"], json["frames"][1]["frame"].as_i64()),
            (&SCHEMA.into(), Some(2))
        );
    }
}
