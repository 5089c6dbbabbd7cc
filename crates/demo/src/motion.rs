//! How cameras are carried.

use crate::noise;
use nalgebra::{Point3, UnitQuaternion, Vector3};
use parallax_core::camera::Pose;

/// Smooth wandering in [-1, 1]: three slow waves whose phases belong to the seed.
pub fn wander(time_frames: f64, period_frames: f64, seed: u64) -> f64 {
    let wave = |i: u64, share: f64, speed: f64| {
        let phase = noise::unit(seed.wrapping_mul(31) ^ i) * std::f64::consts::TAU;
        share * (std::f64::consts::TAU * speed * time_frames / period_frames + phase).sin()
    };
    wave(1, 0.55, 1.0) + wave(2, 0.30, 2.3) + wave(3, 0.15, 4.1)
}

/// A walk with a camera in the hands, from one place to another while looking at a point
/// that moves as well.
#[derive(Clone, Copy, Debug)]
pub struct Walk {
    /// Where the eye starts and ends, m.
    pub eye: [Point3<f64>; 2],
    /// What is looked at at the start and at the end, m.
    pub target: [Point3<f64>; 2],
    /// Duration, frames.
    pub frames: f64,
    /// Sway of the body, m.
    pub sway_m: f64,
    /// Tremor of the hands, rad.
    pub tremor_rad: f64,
    /// Which tremor.
    pub seed: u64,
}

impl Walk {
    /// The camera at a time in frames from the first.
    pub fn pose(&self, time: f64) -> Pose {
        let share = (time / self.frames).clamp(-0.1, 1.1);
        let eased = share * share * (3.0 - 2.0 * share) * 0.5 + share * 0.5;
        let sway = |salt: u64, period: f64| self.sway_m * wander(time, period, self.seed ^ salt);
        let eye = self.eye[0]
            + (self.eye[1] - self.eye[0]) * eased
            + Vector3::new(sway(11, 34.0), 0.6 * sway(12, 17.0), sway(13, 41.0));
        let target = self.target[0] + (self.target[1] - self.target[0]) * eased;
        let steady = Pose::looking_at(&eye, &target, &Vector3::y());
        let tremor =
            |salt: u64, period: f64| self.tremor_rad * wander(time, period, self.seed ^ salt);
        let hands = UnitQuaternion::new(Vector3::new(
            tremor(21, 23.0),
            tremor(22, 29.0),
            0.6 * tremor(23, 37.0),
        ));
        let rotation = hands * steady.camera_from_world.rotation;
        Pose::from_parts(rotation, -(rotation * eye.coords))
    }
}
