//! Rows of a picture that are exposed one after the other.
//!
//! A rolling shutter reads a picture from top to bottom within its read-out time, and each row shows what the
//! camera sees by then. So a camera is carried on to the time of the row on which something is seen, along the
//! path that its neighbours show (after Hedborg, Forssén, Felsberg and Ringaby 2012; here the first two
//! derivatives of the quartic through two frames before and two after: hands shake within a few frames, and
//! with one on either side a fifth of that is missed). A zoom goes on while rows are read, and is carried in the
//! same way. The camera of a frame is that of its middle row. Paths are
//! held while an adjustment steps and made anew between adjustments; the read-out time is an unknown like
//! those of the lens, where it is not stated.

use crate::camera::{Eye, Pose};
use nalgebra::{Matrix3, Rotation3, SVector, UnitQuaternion, Vector3};

/// How rows are read.
#[derive(Clone, Debug)]
pub struct Rolling {
    /// Time from the first row to the last, frames.
    pub readout: f64,
    /// How each camera moves.
    paths: Vec<Path>,
    height_px: f64,
}

/// What a camera changes by: its turn (rotation vector in camera space), where it sees its place of the frame
/// go, and the logarithm of its focal length.
type Change = SVector<f64, 7>;

/// How a camera changes about the time of its frame: first and second derivative by time in frames.
#[derive(Clone, Copy, Debug)]
struct Path {
    speed: Change,
    bend: Change,
}

/// A camera at the time of a row, against that of its frame: what is at X in the space of the one is at
/// `turn * (X + shift)` in that of the other.
#[derive(Clone, Copy, Debug)]
pub struct Carried {
    /// Turned by.
    pub turn: Matrix3<f64>,
    /// Shifted by before that.
    pub shift: Vector3<f64>,
    /// Its focal length by that of its frame.
    pub zoom: f64,
    /// How fast it turns by then, rad per frame, times the row's share of the read-out.
    by_turn: Vector3<f64>,
    /// How fast it shifts, likewise.
    by_shift: Vector3<f64>,
    /// How fast the logarithm of its focal length changes, likewise.
    by_zoom: f64,
}

impl Rolling {
    /// Cameras at `times` in frames, ascending, that read pictures of `height_px` rows.
    pub fn of(cameras: &[Eye], times: &[f64], readout: f64, height_px: f64) -> Self {
        let path = |k: usize| {
            let near: Vec<Changed> = [-2, -1, 1, 2]
                .iter()
                .filter_map(|step| k.checked_add_signed(*step).filter(|to| *to < cameras.len()))
                .map(|to| (times[to] - times[k], change(&cameras[k], &cameras[to])))
                .collect();
            Path::through(&near)
        };
        Self {
            readout,
            paths: (0..cameras.len()).map(path).collect(),
            height_px,
        }
    }

    /// When a row is read, as a share of the read-out time from the middle row on.
    fn share(&self, row: f64) -> f64 {
        row / self.height_px - 0.5
    }

    /// A camera at the time of a row.
    pub fn carried(&self, camera: usize, row: f64) -> Carried {
        let path = &self.paths[camera];
        let share = self.share(row);
        let time = self.readout * share;
        let by = path.speed * time + path.bend * (0.5 * time * time);
        let speed = path.speed + path.bend * time;
        let turn = |of: &Change| of.fixed_rows::<3>(0).into_owned();
        let shift = |of: &Change| of.fixed_rows::<3>(3).into_owned();
        let angle = turn(&by);
        // The speed of the turn itself, to the second order of the angle.
        let turning = turn(&speed) + 0.5 * angle.cross(&turn(&speed));
        Carried {
            turn: Rotation3::new(angle).into_inner(),
            shift: shift(&by),
            zoom: by[6].exp(),
            by_turn: turning * share,
            by_shift: shift(&speed) * share,
            by_zoom: speed[6] * share,
        }
    }

    /// A camera at the time of a row, from that of its frame.
    pub fn camera(&self, camera: usize, eye: &Eye, row: f64) -> Eye {
        let carried = self.carried(camera, row);
        let turn = UnitQuaternion::from_matrix(&carried.turn);
        let pose = eye.pose.camera_from_world;
        Eye {
            lens: eye.lens.with_focal(eye.lens.focal_px * carried.zoom),
            pose: Pose::from_parts(
                turn * pose.rotation,
                carried.turn * (pose.translation.vector + carried.shift),
            ),
        }
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

    /// What the logarithm of the focal length changes by with the read-out time.
    pub fn zoom_by_readout(&self) -> f64 {
        self.by_zoom
    }
}

/// From one camera to another.
fn change(from: &Eye, to: &Eye) -> Change {
    let [a, b] = [from, to].map(|eye| eye.pose.camera_from_world);
    let turn = (b.rotation * a.rotation.inverse()).scaled_axis();
    let place = |eye: &Eye| eye.pose.centre().0.coords;
    let shift = a.rotation * (place(from) - place(to));
    let zoom = (to.lens.focal_px / from.lens.focal_px).ln();
    Change::from_column_slice(&[turn.x, turn.y, turn.z, shift.x, shift.y, shift.z, zoom])
}

/// After so many frames, by so much.
type Changed = (f64, Change);

impl Path {
    /// First and second derivative of the quartic through what a camera was and will be, where these are
    /// one and two frames off; else of the quadratic through the nearest before and after; steady where one
    /// is missing.
    fn through(near: &[Changed]) -> Self {
        if near.iter().map(|m| m.0).eq([-2.0, -1.0, 1.0, 2.0]) {
            let [a, b, c, d] = [0, 1, 2, 3].map(|i| near[i].1);
            return Self {
                speed: (a - b * 8.0 + c * 8.0 - d) / 12.0,
                bend: (b * 16.0 + c * 16.0 - a - d) / 12.0,
            };
        }
        let before = near.iter().rfind(|m| m.0 < 0.0);
        let after = near.iter().find(|m| m.0 > 0.0);
        match (before, after) {
            // x = v t + a t²/2 and y = v u + a u²/2.
            (Some(&(t, x)), Some(&(u, y))) => {
                let bend = 2.0 * (y / u - x / t) / (u - t);
                Self {
                    speed: x / t - bend * (0.5 * t),
                    bend,
                }
            }
            (Some(one), None) | (None, Some(one)) => Self {
                speed: one.1 / one.0,
                bend: Change::zeros(),
            },
            (None, None) => Self {
                speed: Change::zeros(),
                bend: Change::zeros(),
            },
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::camera::Intrinsics;
    use nalgebra::Point3;

    fn eye(time: f64) -> Eye {
        let place = Point3::new(0.3 * time, 1.5 + 0.02 * time * time, 4.0);
        let target = Point3::new(0.1 * time * time, 1.0, -3.0);
        Eye {
            lens: Intrinsics::centred(
                1600,
                1000,
                900.0 * (0.02 * time + 0.004 * time * time).exp(),
            ),
            pose: Pose::looking_at(&place, &target, &Vector3::y()),
        }
    }

    #[test]
    fn a_camera_is_carried_to_where_it_is_when_a_row_is_read() {
        let times = [0.0, 1.0, 2.0, 3.0, 4.0, 6.0];
        let eyes = times.map(eye);
        let rolling = Rolling::of(&eyes, &times, 0.6, 1000.0);
        for camera in 1..5 {
            for row in [0.0, 250.0, 500.0, 990.0] {
                let time = times[camera] + 0.6 * (row / 1000.0 - 0.5);
                let (carried, truth) = (rolling.camera(camera, &eyes[camera], row), eye(time));
                let turn = carried.pose.turn_to_rad(&truth.pose);
                let off = carried.pose.centre().distance(truth.pose.centre());
                let zoom = carried.lens.focal_px / truth.lens.focal_px - 1.0;
                assert!(
                    turn < 2e-3 && off < 4e-3 && zoom.abs() < 1e-5,
                    "{camera} {row}: {turn} rad, {off} m, {zoom} of the focal length"
                );
            }
        }
        let middle = rolling.camera(1, &eyes[1], 500.0);
        assert!(middle.pose.turn_to_rad(&eyes[1].pose) < 1e-9);
    }
}
