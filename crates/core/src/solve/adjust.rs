//! A world as a problem of the bundle adjustment, and what comes of that.

use super::bundle::zoom::{GROWING_WANDERS, RATE_WANDERS};
use super::bundle::{Loss, Problem, Report, Rolling, Settings, Zoom, minimise};
use super::views::{Seen, Views};
use super::world::World;
use crate::camera::Eye;
use crate::progress::Progress;

/// Which camera and point of an adjustment is which frame and track.
pub struct Back {
    /// Frame of each camera.
    pub frames: Vec<usize>,
    /// Track of each point.
    pub points: Vec<usize>,
    /// (track, index into its list) of each observation.
    pub observations: Vec<(usize, usize)>,
}

impl World {
    /// The adjustment problem of everything solved.
    pub fn problem(&self, views: &Views) -> (Problem, Back) {
        let mut camera_of = vec![usize::MAX; self.poses.len()];
        let mut back = Back {
            frames: Vec::new(),
            points: Vec::new(),
            observations: Vec::new(),
        };
        let mut poses = Vec::new();
        for (frame, pose) in self.poses.iter().enumerate() {
            if let Some(pose) = pose {
                camera_of[frame] = poses.len();
                back.frames.push(frame);
                poses.push(*pose);
            }
        }
        let (mut points, mut observations) = (Vec::new(), Vec::new());
        for (track, point) in self.points.iter().enumerate() {
            let Some(point) = point else { continue };
            let kept =
                |k: usize, s: &Seen| !self.left_out[track][k] && self.poses[s.frame].is_some();
            if views.seen[track]
                .iter()
                .enumerate()
                .filter(|(k, s)| kept(*k, s))
                .count()
                < 2
            {
                continue;
            }
            for (k, s) in views.seen[track]
                .iter()
                .enumerate()
                .filter(|(k, s)| kept(*k, s))
            {
                observations.push(views.observation(camera_of[s.frame], points.len(), s));
                back.observations.push((track, k));
            }
            back.points.push(track);
            points.push(*point);
        }
        let times = || -> Vec<f64> {
            let time = |f: &usize| f64::from(views.frames[*f].0);
            back.frames.iter().map(time).collect()
        };
        (
            Problem {
                motion: self.motion,
                lens: self.lens,
                beliefs: self
                    .believed
                    .beliefs(&poses, &back.frames, times, &back.points),
                zoom: self.zooms().then(|| Zoom {
                    focals_px: back.frames.iter().map(|f| self.focals_px[*f]).collect(),
                    times: times(),
                    wanders: if self.is_growing {
                        GROWING_WANDERS
                    } else {
                        RATE_WANDERS
                    },
                    at_first: self.believed.focal_at_first_px.filter(|_| {
                        // What grows from elsewhere has to reach the first frame before it is held there.
                        !self.is_growing && back.frames.first() == Some(&0)
                    }),
                }),
                rolling: self.readout.map(|readout| {
                    let eyes: Vec<Eye> = back.frames.iter().filter_map(|f| self.eye(*f)).collect();
                    Rolling::of(&eyes, &times(), readout, f64::from(self.lens.height_px))
                }),
                free: self.free,
                poses,
                points,
                observations: observations.into(),
            },
            back,
        )
    }

    /// Adjusts everything solved so far.
    pub fn adjust(
        &mut self,
        views: &Views,
        loss: Loss,
        (most_iterations, least_decrease): (usize, f64),
        progress: &dyn Progress,
    ) -> Report {
        let settings = Settings {
            loss,
            most_iterations,
            least_decrease,
            ..Settings::default()
        };
        let (mut problem, back) = self.problem(views);
        let report = minimise(&mut problem, &settings, progress);
        self.lens = problem.lens;
        self.readout = problem.rolling.as_ref().map(|rolling| rolling.readout);
        for (frame, pose) in back.frames.iter().zip(&problem.poses) {
            self.poses[*frame] = Some(*pose);
        }
        for (track, point) in back.points.iter().zip(&problem.points) {
            self.points[*track] = Some(*point);
        }
        if let Some(zoom) = &problem.zoom {
            for (frame, focal_px) in back.frames.iter().zip(&zoom.focals_px) {
                self.focals_px[*frame] = *focal_px;
            }
        }
        report
    }
}
