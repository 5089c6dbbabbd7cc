//! What is a camera when a row is read?
//!
//! With a rolling shutter each row has a camera of its own ([`super::bundle::rolling`]); without one all
//! rows have that of their frame.

use super::bundle::Rolling;
use crate::camera::Eye;
use crate::spaces::{FrameNumber, PlatePx, WorldPoint};

/// A row shifts what is seen by far less than the picture is high: after so many rounds it stands.
const ROUNDS: usize = 3;

/// Cameras of rows, by index of the frame.
pub struct RowCameras {
    eyes: Vec<Option<Eye>>,
    rolling: Option<(Rolling, Vec<usize>)>,
}

impl RowCameras {
    /// Of cameras by index of the frame, with the read-out time in frames where there is one.
    pub fn of(eyes: Vec<Option<Eye>>, frames: &[FrameNumber], readout: Option<f64>) -> Self {
        let height_px = eyes.iter().flatten().next().map(|eye| eye.lens.height_px);
        let rolling = readout.zip(height_px).map(|(readout, height_px)| {
            let (mut there, mut times, mut camera_of) = (Vec::new(), Vec::new(), Vec::new());
            for (eye, frame) in eyes.iter().zip(frames) {
                camera_of.push(there.len());
                if let Some(eye) = eye {
                    there.push(*eye);
                    times.push(f64::from(frame.0));
                }
            }
            let rolling = Rolling::of(&there, &times, readout, f64::from(height_px));
            (rolling, camera_of)
        });
        Self { eyes, rolling }
    }

    /// The camera of a frame when a row is read.
    pub fn at(&self, frame: usize, row: f64) -> Option<Eye> {
        let eye = self.eyes[frame]?;
        Some(match &self.rolling {
            None => eye,
            Some((rolling, camera_of)) => rolling.camera(camera_of[frame], &eye, row),
        })
    }

    /// Where a point is seen on a frame, and the camera of the row on which it is; on which row that is
    /// depends on when it is read, and the other way round. `None` behind the camera.
    pub fn seen(&self, frame: usize, point: &WorldPoint) -> Option<(PlatePx, Eye)> {
        let middle = 0.5 * f64::from(self.eyes[frame]?.lens.height_px);
        let mut eye = self.at(frame, middle)?;
        let mut px = eye.lens.project(&eye.pose, point)?;
        if self.rolling.is_some() {
            for _ in 0..ROUNDS {
                eye = self.at(frame, px.y)?;
                px = eye.lens.project(&eye.pose, point)?;
            }
        }
        Some((px, eye))
    }
}
