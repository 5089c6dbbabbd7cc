//! Cameras within an exposure: between frames, and row by row.

use crate::camera::Eye;
use crate::solve::bundle::Rolling;
use crate::spaces::FrameNumber;

/// Solved cameras with what lies between them.
pub struct Cameras {
    frames: Vec<FrameNumber>,
    eyes: Vec<Eye>,
    /// Carries a camera on by time: a picture one row high that takes one frame to read.
    between: Rolling,
    readout_frames: f64,
}

impl Cameras {
    /// Of frames ascending; `readout_frames` is the time from the first row to the last.
    pub fn of(
        cameras: impl IntoIterator<Item = (FrameNumber, Eye)>,
        readout_frames: Option<f64>,
    ) -> Self {
        let (frames, eyes): (Vec<FrameNumber>, Vec<Eye>) = cameras.into_iter().unzip();
        let times: Vec<f64> = frames.iter().map(|f| f64::from(f.0)).collect();
        let between = Rolling::of(&eyes, &times, 1.0, 1.0);
        Self {
            frames,
            eyes,
            between,
            readout_frames: readout_frames.unwrap_or(0.0),
        }
    }

    /// The camera of a frame in the middle of its exposure.
    pub fn at(&self, frame: FrameNumber) -> Option<&Eye> {
        let at = self.frames.binary_search(&frame).ok()?;
        self.eyes.get(at)
    }

    /// When a row of a frame is read, frames from the middle row on.
    pub fn row_time(&self, row: f64, height_px: f64) -> f64 {
        self.readout_frames * (row / height_px - 0.5)
    }

    /// The camera so many frames after the middle of a frame's exposure.
    pub fn later(&self, frame: FrameNumber, by_frames: f64) -> Option<Eye> {
        let at = self.frames.binary_search(&frame).ok()?;
        let eye = self.eyes[at];
        match by_frames == 0.0 || self.eyes.len() < 2 {
            true => Some(eye),
            false => Some(self.between.camera(at, &eye, 0.5 + by_frames)),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::camera::{Intrinsics, Pose};
    use nalgebra::{Point3, Vector3};

    /// A camera that walks and turns steadily is between frames where it is between them.
    #[test]
    fn between_frames_a_steady_camera_is_where_it_passes() {
        let eye = |t: f64| Eye {
            lens: Intrinsics::centred(1280, 720, 1000.0),
            pose: Pose::looking_at(
                &Point3::new(0.05 * t, 1.6, 0.02 * t * t / 10.0),
                &Point3::new(0.3 * (t / 10.0).sin(), 1.0, -6.0),
                &Vector3::y(),
            ),
        };
        let cameras = Cameras::of(
            (0..9).map(|k| (FrameNumber(k), eye(f64::from(k)))),
            Some(0.5),
        );
        for by in [-0.5, -0.2, 0.25, 0.5] {
            let (found, truth) = (cameras.later(FrameNumber(4), by).unwrap(), eye(4.0 + by));
            assert!(found.pose.centre().distance(truth.pose.centre()) < 1e-4);
            assert!(found.pose.turn_to_rad(&truth.pose) < 1e-5);
        }
        assert_eq!(cameras.row_time(720.0, 720.0), 0.25);
        assert!(cameras.later(FrameNumber(20), 0.1).is_none());
    }
}
