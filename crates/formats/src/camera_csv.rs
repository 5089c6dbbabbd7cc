//! The camera as a table: one row a frame, in the receiver's axes and unit.
//!
//! Lines that begin with `#` say what the columns hold. `time` is seconds after the first frame. Rotations are degrees
//! about the receiver's fixed axes, first x, then y, then z, and take the camera's own axes (x right, y up, looking along -z; along +z in
//! a left-handed world) to the world's; they run on beyond 180 degrees where the camera does. `m00` to `m22` are the
//! same as a matrix, row by row. `centre_x`, `centre_y` are px from the upper left corner of the picture, `offset_x`,
//! `offset_y` mm by which the centre lies right of and above its middle on the film back.

use crate::camera_reader::in_our_world;
use crate::delivery::package::NamedBytes;
use crate::delivery::{Camera, Delivery, DeliveryError};
use crate::format::Format;
use crate::receipt::compare::{self, ReadCamera, straight};
use crate::receipt::{FileReceipt, Held, unreadable};
use nalgebra::{Matrix3, Matrix4, Rotation3, Vector3};
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::scene::Hand;
use parallax_core::spaces::PlatePx;
use std::collections::HashMap;
use std::fmt::Write;

/// The file.
const FILE: &str = "camera.csv";
const COLUMNS: [&str; 25] = [
    "frame",
    "time",
    "x",
    "y",
    "z",
    "rotation_x",
    "rotation_y",
    "rotation_z",
    "m00",
    "m01",
    "m02",
    "m10",
    "m11",
    "m12",
    "m20",
    "m21",
    "m22",
    "focal_mm",
    "focal_px",
    "view_x_deg",
    "view_y_deg",
    "centre_x",
    "centre_y",
    "offset_x",
    "offset_y",
];

/// The format.
pub struct Table;

/// Angles about x, y and z of a rotation that is done about fixed axes in that order, degrees, as near as can be to
/// those before.
fn angles(turn: &Matrix3<f64>, before: [f64; 3]) -> [f64; 3] {
    let (x, y, z) = Rotation3::from_matrix_unchecked(*turn).euler_angles();
    let plain = [x, y, z].map(f64::to_degrees);
    // The same rotation the other way round.
    let other = [plain[0] + 180.0, 180.0 - plain[1], plain[2] + 180.0];
    let near = |angles: [f64; 3]| -> [f64; 3] {
        std::array::from_fn(|k| angles[k] + 360.0 * ((before[k] - angles[k]) / 360.0).round())
    };
    let far =
        |angles: &[f64; 3]| -> f64 { angles.iter().zip(before).map(|(a, b)| (a - b).abs()).sum() };
    let (plain, other) = (near(plain), near(other));
    if far(&other) < far(&plain) {
        other
    } else {
        plain
    }
}

fn head(delivery: &Delivery<'_>) -> String {
    let unit = match delivery.scaled {
        true => delivery.receiver.unit.word(),
        false => "no scale",
    };
    let looks = match delivery.receiver.hand {
        Hand::Right => "-z",
        Hand::Left => "+z",
    };
    let mut text = String::new();
    for line in [
        format!("camera of {}", delivery.shot.replace(char::is_control, " ")),
        format!(
            "axes: up {}; unit: {unit}; scale: {}",
            delivery.receiver.axes(),
            delivery.receiver.scale
        ),
        format!("rate: {} frames a second", delivery.rate),
        format!(
            "film back: {} x {} mm; plate: {} x {} px",
            delivery.film_back.width_mm,
            delivery.film_back.height_mm,
            delivery.lens.width_px,
            delivery.lens.height_px
        ),
        format!(
            "rotations: degrees about the fixed axes, first x, then y, then z; the camera looks along its own {looks} with y up"
        ),
        "the camera is that of the undistorted picture; the terms of the lens are in the README"
            .to_owned(),
    ] {
        // Writing to a String cannot fail.
        let _ = writeln!(text, "# {line}");
    }
    text
}

fn write(delivery: &Delivery<'_>) -> String {
    let mut text = head(delivery);
    let _ = writeln!(text, "{}", COLUMNS.join(","));
    let lens = &delivery.lens;
    let (width, height) = (f64::from(lens.width_px), f64::from(lens.height_px));
    let mm_per_px = delivery.film_back.width_mm / width;
    let view = |side: f64, focal: f64| 2.0 * (side / (2.0 * focal)).atan().to_degrees();
    let mut before = [0.0; 3];
    for Camera {
        frame,
        pose,
        focal_px,
    } in &delivery.cameras
    {
        let m = delivery.receiver.world_from_camera(pose);
        let turn = m.fixed_view::<3, 3>(0, 0).into_owned();
        before = angles(&turn, before);
        let _ = write!(text, "{frame},{}", delivery.seconds(*frame));
        let places = [m[(0, 3)], m[(1, 3)], m[(2, 3)]].into_iter().chain(before);
        let rows = turn.transpose();
        let all = places
            .chain(rows.iter().copied())
            .chain([focal_px * mm_per_px, *focal_px])
            .chain([view(width, *focal_px), view(height, *focal_px)])
            .chain([lens.centre.x, lens.centre.y])
            .chain([
                (lens.centre.x - width / 2.0) * mm_per_px,
                (height / 2.0 - lens.centre.y) * mm_per_px,
            ]);
        for value in all {
            let _ = write!(text, ",{value}");
        }
        text.push('\n');
    }
    text
}

impl Format for Table {
    fn write(&self, delivery: &Delivery<'_>) -> Result<Vec<NamedBytes>, DeliveryError> {
        Ok(vec![(delivery.named(FILE), write(delivery).into_bytes())])
    }

    fn check(
        &self,
        delivery: &Delivery<'_>,
        files: &Held<'_>,
    ) -> Result<Vec<FileReceipt>, DeliveryError> {
        let file = delivery.named(FILE);
        let off = read_back(delivery, &file, files.text(&file)?)?;
        let said = "places of the scene through the camera of every frame, undistorted, by matrix and by angles; focal lengths, offsets and times";
        let bent = !delivery.lens.distortion.is_none();
        let receipt = FileReceipt::of(&file, files, said, off)?.lacking(
            bent,
            "lens distortion: its camera is that of the undistorted picture",
        );
        Ok(vec![receipt])
    }
}

fn read_back(delivery: &Delivery<'_>, file: &str, text: &str) -> Result<f64, DeliveryError> {
    let bad = |reason: &dyn std::fmt::Display| unreadable(file, reason);
    let stated = format!("axes: up {}", delivery.receiver.axes());
    if !text
        .lines()
        .any(|l| l.starts_with('#') && l.contains(&stated))
    {
        return Err(bad(&"it states other axes"));
    }
    let mut reader = csv::ReaderBuilder::new()
        .comment(Some(b'#'))
        .from_reader(text.as_bytes());
    let mut largest: f64 = 0.0;
    let (mut by_matrix, mut by_angles) = (Vec::new(), Vec::new());
    for row in reader.deserialize::<HashMap<String, f64>>() {
        let row = row.map_err(|e| bad(&e))?;
        let row = Row { row, delivery };
        let both = row.cameras().ok_or_else(|| bad(&"a row is incomplete"))?;
        largest = largest.max(row.disagreement().unwrap_or(f64::INFINITY));
        by_matrix.push(both.0);
        by_angles.push(both.1);
    }
    if largest > 1e-6 {
        return Err(bad(
            &"focal lengths, views, offsets or times contradict each other",
        ));
    }
    let lens = straight(&delivery.lens);
    let matrix = compare::cameras(file, delivery, &lens, &by_matrix)?;
    Ok(matrix.max(compare::cameras(file, delivery, &lens, &by_angles)?))
}

struct Row<'a> {
    row: HashMap<String, f64>,
    delivery: &'a Delivery<'a>,
}

impl Row<'_> {
    fn get(&self, name: &str) -> Option<f64> {
        self.row.get(name).copied().filter(|v| v.is_finite())
    }

    fn three(&self, names: [&str; 3]) -> Option<Vector3<f64>> {
        let [x, y, z] = names.map(|name| self.get(name));
        Some(Vector3::new(x?, y?, z?))
    }

    fn pose(&self, turn: &Matrix3<f64>) -> Option<Pose> {
        let back = if self.delivery.receiver.hand == Hand::Left {
            -1.0
        } else {
            1.0
        };
        let stands = self.three(["x", "y", "z"])? / self.delivery.receiver.per_metre();
        let columns = [
            turn.column(0).into_owned(),
            turn.column(1).into_owned(),
            turn.column(2) * back,
            stands,
        ];
        let axes = self.delivery.receiver;
        let columns = columns.map(|c| in_our_world(axes, c.into()).push(0.0));
        let mut matrix = Matrix4::from_columns(&columns);
        matrix[(3, 3)] = 1.0;
        Pose::from_world_from_camera(&matrix)
    }

    /// By the matrix and by the angles.
    fn cameras(&self) -> Option<(ReadCamera, ReadCamera)> {
        let lens = Intrinsics {
            focal_px: self.get("focal_px")?,
            centre: PlatePx::new(self.get("centre_x")?, self.get("centre_y")?),
            ..straight(&self.delivery.lens)
        };
        let rows = [
            ["m00", "m01", "m02"],
            ["m10", "m11", "m12"],
            ["m20", "m21", "m22"],
        ];
        let [a, b, c] = rows.map(|names| self.three(names));
        let matrix = Matrix3::from_columns(&[a?, b?, c?]).transpose();
        let angles = self.three(["rotation_x", "rotation_y", "rotation_z"])?;
        let about = |axis, k: usize| Rotation3::from_axis_angle(&axis, angles[k].to_radians());
        let turn =
            about(Vector3::z_axis(), 2) * about(Vector3::y_axis(), 1) * about(Vector3::x_axis(), 0);
        let frame = self.get("frame")? as i32;
        Some((
            (frame, lens, self.pose(&matrix)?),
            (frame, lens, self.pose(turn.matrix())?),
        ))
    }

    /// By how much columns that say the same differ.
    fn disagreement(&self) -> Option<f64> {
        let d = self.delivery;
        let (width, height) = (f64::from(d.lens.width_px), f64::from(d.lens.height_px));
        let mm = d.film_back.width_mm / width;
        let focal = self.get("focal_px")?;
        let first = d.cameras.first()?.frame.0;
        let time = (self.get("frame")? - f64::from(first)) * f64::from(d.rate.denominator())
            / f64::from(d.rate.numerator());
        let half = |name: &str| Some((self.get(name)? / 2.0).to_radians().tan() * 2.0 * focal);
        Some(
            [
                self.get("focal_mm")? - focal * mm,
                half("view_x_deg")? - width,
                half("view_y_deg")? - height,
                self.get("offset_x")? / mm + width / 2.0 - self.get("centre_x")?,
                height / 2.0 - self.get("offset_y")? / mm - self.get("centre_y")?,
                self.get("time")? - time,
            ]
            .into_iter()
            .map(|off| compare::known(off).abs())
            .fold(0.0, f64::max),
        )
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn angles_run_on_where_the_camera_turns_round() {
        let mut before = [0.0; 3];
        for step in 0..120 {
            let pan = f64::from(step) * 6.0;
            let turn = Rotation3::from_axis_angle(&Vector3::y_axis(), pan.to_radians())
                * Rotation3::from_axis_angle(&Vector3::x_axis(), -0.2);
            let found = angles(turn.matrix(), before);
            let moved = found.iter().zip(before).map(|(a, b)| (a - b).abs());
            assert!(
                step == 0 || moved.fold(0.0, f64::max) < 90.0,
                "{before:?} to {found:?}"
            );
            let about = |axis, k: usize| Rotation3::from_axis_angle(&axis, found[k].to_radians());
            let again = about(Vector3::z_axis(), 2)
                * about(Vector3::y_axis(), 1)
                * about(Vector3::x_axis(), 0);
            assert!((again.matrix() - turn.matrix()).norm() < 1e-9);
            before = found;
        }
    }
}
