//! Where does a camera stand when a row is read?
//!
//! With a rolling shutter each row has a camera of its own ([`super::bundle::rolling`]); without one all
//! rows have that of their frame.

use super::bundle::Rolling;
use crate::camera::{Intrinsics, Pose};
use crate::spaces::FrameNumber;

/// Cameras of rows, by index of the frame.
pub struct RowPoses<'a> {
    poses: &'a [Option<Pose>],
    rolling: Option<(Rolling, Vec<usize>)>,
}

impl<'a> RowPoses<'a> {
    /// Of cameras by index of the frame, with the read-out time in frames where there is one.
    pub fn of(
        poses: &'a [Option<Pose>],
        frames: &[FrameNumber],
        readout: Option<f64>,
        lens: &Intrinsics,
    ) -> Self {
        let rolling = readout.map(|readout| {
            let (mut posed, mut times, mut camera_of) = (Vec::new(), Vec::new(), Vec::new());
            for (pose, frame) in poses.iter().zip(frames) {
                camera_of.push(posed.len());
                if let Some(pose) = pose {
                    posed.push(*pose);
                    times.push(f64::from(frame.0));
                }
            }
            let height_px = f64::from(lens.height_px);
            (Rolling::of(&posed, &times, readout, height_px), camera_of)
        });
        Self { poses, rolling }
    }

    /// The camera of a frame when a row is read.
    pub fn at(&self, frame: usize, row: f64) -> Option<Pose> {
        let pose = self.poses[frame]?;
        Some(match &self.rolling {
            None => pose,
            Some((rolling, camera_of)) => rolling.pose(camera_of[frame], &pose, row),
        })
    }
}
