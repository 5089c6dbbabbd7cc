//! Rows of a picture that are exposed one after the other.
//!
//! A rolling shutter reads a picture from top to bottom within its read-out time, and each row shows what the
//! camera sees by then. So a camera is carried on to the time of the row on which something is seen, along the
//! path that its neighbours show (after Hedborg, Forssén, Felsberg and Ringaby 2012; here the first two
//! derivatives of the quartic through two frames before and two after: hands shake within a few frames, and
//! with one on either side a fifth of that is missed). The pose of a frame is that of its middle row. Paths are
//! held while an adjustment steps and made anew between adjustments; the read-out time is an unknown like
//! those of the lens, where it is not stated.

use crate::camera::Pose;
use nalgebra::{Matrix3, Rotation3, UnitQuaternion, Vector3};

/// How rows are read.
#[derive(Clone, Debug)]
pub struct Rolling {
    /// Time from the first row to the last, frames.
    pub readout: f64,
    /// How each camera moves.
    paths: Vec<Path>,
    height_px: f64,
}

/// How a camera moves about the time of its frame: first and second derivative by time in frames, of its
/// turn (rotation vector in camera space) and of where it sees its place of the frame go.
#[derive(Clone, Copy, Debug)]
struct Path {
    turn: [Vector3<f64>; 2],
    shift: [Vector3<f64>; 2],
}

/// A camera at the time of a row, against that of its frame: what is at X in the space of the one is at
/// `turn * (X + shift)` in that of the other.
#[derive(Clone, Copy, Debug)]
pub struct Carried {
    /// Turned by.
    pub turn: Matrix3<f64>,
    /// Shifted by before that.
    pub shift: Vector3<f64>,
    /// How fast it turns by then, rad per frame, times the row's share of the read-out.
    by_turn: Vector3<f64>,
    /// How fast it shifts, likewise.
    by_shift: Vector3<f64>,
}

impl Rolling {
    /// Cameras at `times` in frames, ascending, that read pictures of `height_px` rows.
    pub fn of(poses: &[Pose], times: &[f64], readout: f64, height_px: f64) -> Self {
        let path = |k: usize| {
            let near: Vec<Moved> = [-2, -1, 1, 2]
                .iter()
                .filter_map(|step| k.checked_add_signed(*step).filter(|to| *to < poses.len()))
                .map(|to| moved(poses, times, k, to))
                .collect();
            Path::through(&near)
        };
        Self {
            readout,
            paths: (0..poses.len()).map(path).collect(),
            height_px,
        }
    }

    /// When a row is read, as a share of the read-out time from the middle row on.
    fn share(&self, row: f64) -> f64 {
        row / self.height_px - 0.5
    }

    /// A camera at the time of a row.
    pub fn carried(&self, camera: usize, row: f64) -> Carried {
        let Path { turn, shift } = &self.paths[camera];
        let share = self.share(row);
        let time = self.readout * share;
        let angle = turn[0] * time + turn[1] * (0.5 * time * time);
        let speed = turn[0] + turn[1] * time;
        // The speed of the turn itself, to the second order of the angle.
        let speed = speed + 0.5 * angle.cross(&speed);
        Carried {
            turn: Rotation3::new(angle).into_inner(),
            shift: shift[0] * time + shift[1] * (0.5 * time * time),
            by_turn: speed * share,
            by_shift: (shift[0] + shift[1] * time) * share,
        }
    }

    /// The pose of a camera at the time of a row.
    pub fn pose(&self, camera: usize, pose: &Pose, row: f64) -> Pose {
        let carried = self.carried(camera, row);
        let turn = UnitQuaternion::from_matrix(&carried.turn);
        Pose::from_parts(
            turn * pose.camera_from_world.rotation,
            carried.turn * (pose.camera_from_world.translation.vector + carried.shift),
        )
    }
}

impl Carried {
    /// Where a point in the space of the frame's camera is.
    pub fn point(&self, point: &Vector3<f64>) -> Vector3<f64> {
        self.turn * (point + self.shift)
    }

    /// What a point, there, changes by with the read-out time.
    pub fn by_readout(&self, point: &Vector3<f64>) -> Vector3<f64> {
        self.by_turn.cross(point) + self.turn * self.by_shift
    }
}

/// From one camera to another: time, turn and shift.
fn moved(
    poses: &[Pose],
    times: &[f64],
    from: usize,
    to: usize,
) -> (f64, Vector3<f64>, Vector3<f64>) {
    let [a, b] = [from, to].map(|k| poses[k].camera_from_world);
    let turn = (b.rotation * a.rotation.inverse()).scaled_axis();
    let place = |k: usize| poses[k].centre().0.coords;
    let shift = a.rotation * (place(from) - place(to));
    (times[to] - times[from], turn, shift)
}

type Moved = (f64, Vector3<f64>, Vector3<f64>);

impl Path {
    /// First and second derivative of the quartic through what a camera was and will be, where these are
    /// one and two frames off; else of the quadratic through the nearest before and after; steady where one
    /// is missing.
    fn through(near: &[Moved]) -> Self {
        let evenly = near.iter().map(|m| m.0).eq([-2.0, -1.0, 1.0, 2.0]);
        if evenly {
            let of = |x: fn(&Moved) -> Vector3<f64>| {
                let [a, b, c, d] = [0, 1, 2, 3].map(|i| x(&near[i]));
                [
                    (a - b * 8.0 + c * 8.0 - d) / 12.0,
                    (b * 16.0 + c * 16.0 - a - d) / 12.0,
                ]
            };
            return Self {
                turn: of(|m| m.1),
                shift: of(|m| m.2),
            };
        }
        let before = near.iter().rfind(|m| m.0 < 0.0);
        let after = near.iter().find(|m| m.0 > 0.0);
        let quadratic = |t: f64, x: Vector3<f64>, u: f64, y: Vector3<f64>| {
            // x = v t + a t²/2 and y = v u + a u²/2.
            let bend = 2.0 * (y / u - x / t) / (u - t);
            [x / t - bend * (0.5 * t), bend]
        };
        match (before, after) {
            (Some(b), Some(a)) => Self {
                turn: quadratic(b.0, b.1, a.0, a.1),
                shift: quadratic(b.0, b.2, a.0, a.2),
            },
            (Some(one), None) | (None, Some(one)) => Self {
                turn: [one.1 / one.0, Vector3::zeros()],
                shift: [one.2 / one.0, Vector3::zeros()],
            },
            (None, None) => Self {
                turn: [Vector3::zeros(); 2],
                shift: [Vector3::zeros(); 2],
            },
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use nalgebra::Point3;

    fn pose(time: f64) -> Pose {
        let eye = Point3::new(0.3 * time, 1.5 + 0.02 * time * time, 4.0);
        let target = Point3::new(0.1 * time * time, 1.0, -3.0);
        Pose::looking_at(&eye, &target, &Vector3::y())
    }

    #[test]
    fn a_camera_is_carried_to_where_it_is_when_a_row_is_read() {
        let times = [0.0, 1.0, 2.0, 3.0, 4.0, 6.0];
        let poses = times.map(pose);
        let rolling = Rolling::of(&poses, &times, 0.6, 1000.0);
        for camera in 1..5 {
            for row in [0.0, 250.0, 500.0, 990.0] {
                let time = times[camera] + 0.6 * (row / 1000.0 - 0.5);
                let carried = rolling.pose(camera, &poses[camera], row);
                let turn = carried.turn_to_rad(&pose(time));
                let off = carried.centre().distance(pose(time).centre());
                assert!(
                    turn < 2e-3 && off < 4e-3,
                    "{camera} {row}: {turn} rad, {off} m"
                );
            }
        }
        let middle = rolling.pose(1, &poses[1], 500.0);
        assert!(middle.turn_to_rad(&poses[1]) < 1e-9);
    }
}
