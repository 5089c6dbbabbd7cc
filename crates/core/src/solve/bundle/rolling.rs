//! Rows of a picture that are exposed one after the other.
//!
//! A rolling shutter reads a picture from top to bottom within its read-out time, and each row shows what the
//! camera sees by then. So a camera is carried on to the time of the row on which something is seen, along the
//! path that its neighbours show (after Hedborg, Forssén, Felsberg and Ringaby 2012; here the polynomial through
//! up to seven frames: hands shake within a few of them, and with one on either side a fifth of that is missed, with
//! two still more than what features are off by). A zoom goes on while rows are read, and is carried in the
//! same way. The camera of a frame is that of its middle row. So what is seen hangs on neighbours as well
//! ([`super::neighbours`]); the read-out time is an unknown like those of the lens, where it is not stated.

use crate::camera::{Eye, Pose};
use nalgebra::{Matrix3, Rotation3, SVector, UnitQuaternion, Vector3};
use std::sync::Arc;

/// How rows are read.
#[derive(Clone, Debug)]
pub struct Rolling {
    /// Time from the first row to the last, frames.
    pub readout: f64,
    /// How each camera moves.
    paths: Vec<Path>,
    /// What each path goes through.
    near: Arc<[Vec<Near>]>,
    height_px: f64,
}

/// What a camera changes by: its turn (rotation vector in camera space), where it sees its place of the frame
/// go, and the logarithm of its focal length.
pub type Change = SVector<f64, 7>;

/// A path goes through so many neighbours at most.
pub const MOST_NEAR: usize = 6;

/// What counts in a path by power of the time in frames, from the first on.
pub type ByPower = [f64; MOST_NEAR];

/// Powers of a time, from the first on.
fn powers(time: f64) -> ByPower {
    let mut power = 1.0;
    std::array::from_fn(|_| {
        power *= time;
        power
    })
}

/// A neighbour that a path goes through.
#[derive(Clone, Copy, Debug)]
pub struct Near {
    /// Index of the neighbour.
    pub camera: usize,
    /// What the change to it counts for.
    by_power: ByPower,
}

impl Near {
    /// What the change to it counts for at a time.
    pub fn at(&self, time: f64) -> f64 {
        let powers = powers(time);
        (0..MOST_NEAR).map(|k| self.by_power[k] * powers[k]).sum()
    }
}

/// How a camera changes about the time of its frame, by power of the time in frames.
type Path = [Change; MOST_NEAR];

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
    /// Time of the row against that of the frame, frames.
    pub time: f64,
    /// Turned by, as a rotation vector.
    angle: Vector3<f64>,
    /// What the change since the time of the frame changes by with the read-out time.
    pub by_readout: Change,
}

impl Rolling {
    /// Cameras at `times` in frames, ascending, that read pictures of `height_px` rows.
    pub fn of(cameras: &[Eye], times: &[f64], readout: f64, height_px: f64) -> Self {
        let near = (0..cameras.len()).map(|k| near(times, k));
        let mut rolling = Self {
            readout,
            paths: Vec::new(),
            near: near.collect(),
            height_px,
        };
        rolling.follow(cameras);
        rolling
    }

    /// Makes paths anew, through cameras that stand elsewhere now.
    pub fn follow(&mut self, cameras: &[Eye]) {
        let path = |(k, near): (usize, &Vec<Near>)| {
            let mut path = [Change::zeros(); MOST_NEAR];
            for near in near {
                let change = change(&cameras[k], &cameras[near.camera]);
                for (of_path, counts) in path.iter_mut().zip(near.by_power) {
                    *of_path += change * counts;
                }
            }
            path
        };
        self.paths = self.near.iter().enumerate().map(path).collect();
    }

    /// What the path of a camera goes through.
    pub fn near(&self, camera: usize) -> &[Near] {
        &self.near[camera]
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
        let (mut by, mut speed) = (Change::zeros(), Change::zeros());
        for (k, of_path) in path.iter().enumerate().rev() {
            speed = speed * time + of_path * (k + 1) as f64;
            by = (by + of_path) * time;
        }
        let angle = by.fixed_rows::<3>(0).into_owned();
        Carried {
            turn: Rotation3::new(angle).into_inner(),
            shift: by.fixed_rows::<3>(3).into_owned(),
            zoom: by[6].exp(),
            time,
            angle,
            by_readout: speed * share,
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

    /// What the turn changes by, as a rotation vector applied after it, with its own rotation vector: to the second
    /// order of that.
    pub fn turn_by_angle(&self) -> Matrix3<f64> {
        let cross = self.angle.cross_matrix();
        Matrix3::identity() + cross * 0.5 + cross * cross / 6.0
    }
}

/// From one camera to another.
pub fn change(from: &Eye, to: &Eye) -> Change {
    let [a, b] = [from, to].map(|eye| eye.pose.camera_from_world);
    let turn = (b.rotation * a.rotation.inverse()).scaled_axis();
    let place = |eye: &Eye| eye.pose.centre().0.coords;
    let shift = a.rotation * (place(from) - place(to));
    let zoom = (to.lens.focal_px / from.lens.focal_px).ln();
    Change::from_column_slice(&[turn.x, turn.y, turn.z, shift.x, shift.y, shift.z, zoom])
}

/// What the path of a camera goes through: as many as can be of those that follow each other frame by frame, as many
/// before as after it where there are; else the nearest before and after. It is steady where one is missing.
fn near(times: &[f64], k: usize) -> Vec<Near> {
    let follows = |from: &usize| times[from + 1] - times[*from] == 1.0;
    let first = k - (0..k).rev().take(MOST_NEAR).take_while(follows).count();
    let last = k
        + (k..times.len() - 1)
            .take(MOST_NEAR)
            .take_while(follows)
            .count();
    let middle = k.saturating_sub(MOST_NEAR / 2);
    let from = middle
        .min((last + 1).saturating_sub(MOST_NEAR + 1))
        .max(first);
    let to = (from + MOST_NEAR).min(last);
    let neighbours: Vec<usize> = match to - from {
        0 | 1 => (k.saturating_sub(1)..(k + 2).min(times.len())).collect(),
        _ => (from..=to).collect(),
    };
    let neighbours = || neighbours.iter().copied().filter(|to| *to != k);
    let off = |to: usize| times[to] - times[k];
    let near = |camera: usize| {
        // Lagrange's polynomial: 0 at the time of the frame and at all other neighbours.
        let mut by_power = [0.0; MOST_NEAR];
        by_power[0] = 1.0 / off(camera);
        for other in neighbours().filter(|other| *other != camera) {
            let (other, apart) = (off(other), off(camera) - off(other));
            for power in (0..MOST_NEAR).rev() {
                let lower = power.checked_sub(1).map_or(0.0, |lower| by_power[lower]);
                by_power[power] = (lower - other * by_power[power]) / apart;
            }
        }
        Near { camera, by_power }
    };
    neighbours().map(near).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::camera::Intrinsics;
    use nalgebra::Point3;
    use std::f64::consts::TAU;

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

    /// Hands that shake within nine frames, by 20 px: a row is off by less than features are in the middle of a shot, and
    /// by little more on its first and last frame.
    #[test]
    fn a_path_follows_hands_that_shake() {
        let shakes = |time: f64| Eye {
            lens: Intrinsics::centred(1280, 720, 1000.0),
            pose: Pose::from_parts(
                UnitQuaternion::new(Vector3::x() * 0.02 * (TAU * time / 9.0).sin()),
                Vector3::zeros(),
            ),
        };
        let times: Vec<f64> = (0..24).map(f64::from).collect();
        let eyes: Vec<Eye> = times.iter().map(|time| shakes(*time)).collect();
        let rolling = Rolling::of(&eyes, &times, 0.5, 720.0);
        for (camera, time) in times.iter().enumerate() {
            let off_px = [0.0, 720.0].map(|row| {
                let truth = shakes(time + 0.5 * (row / 720.0 - 0.5));
                let carried = rolling.camera(camera, &eyes[camera], row);
                1000.0 * carried.pose.turn_to_rad(&truth.pose)
            });
            let most_px = if (3..21).contains(&camera) { 0.01 } else { 0.2 };
            let worst_px = off_px[0].max(off_px[1]);
            assert!(worst_px < most_px, "{worst_px} px off on frame {camera}");
        }
    }
}
