//! One run of the camera: set, move, lens and look.

use crate::noise;
use crate::scene::Scene;
use crate::shape::Ray;
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::lens::maps::Keep;
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::scene::Receiver;
use parallax_core::spaces::{FrameNumber, PlatePx, WorldPoint};
use parallax_formats::camera_json;
use parallax_formats::camera_reader::{CameraFile, CameraFileError};
use parallax_formats::delivery::{self, CameraStanding, Delivery, Landmark};

/// What the recording adds to the light.
#[derive(Clone, Copy, Debug)]
pub struct Look {
    /// Standard deviation of the grain, levels of 255.
    pub grain_levels: f64,
    /// Share of the frame for which the shutter is open, 0 to 1.
    pub shutter: f64,
    /// Rays per pixel, a square number.
    pub rays: usize,
    /// Factor on the light.
    pub exposure: f64,
    /// Time from the exposure of the first row to that of the last, frames; the middle row is exposed
    /// when the frame is.
    pub readout: f64,
}

/// A shot that can be rendered.
pub struct Take {
    /// The shot's name.
    pub name: String,
    /// Pictures per second.
    pub rate: FrameRate,
    /// Number of the first frame.
    pub first_frame: FrameNumber,
    /// How many frames there are.
    pub frame_count: usize,
    /// The set.
    pub scene: Scene,
    /// The camera at a time in frames from the first.
    pub motion: Box<dyn Fn(f64) -> Pose + Send + Sync>,
    /// The lens, at the focal length of the first frame.
    pub lens: Intrinsics,
    /// The focal length at a time in frames from the first, as a factor on that of the first frame.
    pub zoom: Zoom,
    /// The film back.
    pub film_back: FilmBack,
    /// Grain, shutter, rays.
    pub look: Look,
    /// Seed of grain and sampling.
    pub seed: u64,
}

/// How the focal length changes: from one to a factor on it, at rest at both ends.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Zoom {
    /// Focal length at the end by that at the start.
    pub factor: f64,
    /// When it begins and when it ends, frames from the first.
    pub between: [f64; 2],
}

impl Zoom {
    /// A focal length that stays.
    pub const NONE: Self = Self {
        factor: 1.0,
        between: [0.0, 1.0],
    };

    /// The factor at a time in frames; equal steps in time are equal factors but for the ends.
    fn at(&self, time: f64) -> f64 {
        let [from, to] = self.between;
        let share = ((time - from) / (to - from)).clamp(0.0, 1.0);
        self.factor.powf(share * share * (3.0 - 2.0 * share))
    }
}

/// A camera at one moment.
#[derive(Clone, Copy, Debug)]
pub struct Eye {
    /// How it draws.
    pub lens: Intrinsics,
    /// Where it stands.
    pub pose: Pose,
}

impl Eye {
    /// The ray through a plate position; `None` beyond the lens's valid radius.
    pub fn ray(&self, px: PlatePx) -> Option<Ray> {
        let direction = self.lens.lens_point(px)?.ray().normalize();
        Some(Ray {
            origin: self.pose.centre().0,
            direction: self.pose.camera_from_world.rotation.inverse() * direction,
        })
    }
}

/// Moments at which the open shutter is sampled.
const MOMENTS: usize = 8;

impl Take {
    /// Number of the frame at an index.
    pub fn frame_number(&self, index: usize) -> FrameNumber {
        FrameNumber(self.first_frame.0 + index as i32)
    }

    /// The camera of the middle of the exposure of the frame at an index.
    pub fn pose(&self, index: usize) -> Pose {
        (self.motion)(index as f64)
    }

    /// The lens at a time in frames from the first.
    pub fn lens_at(&self, time: f64) -> Intrinsics {
        self.lens
            .with_focal(self.lens.focal_px * self.zoom.at(time))
    }

    /// Times at which the open shutter of the frame at an index is sampled.
    pub fn moments(&self, index: usize) -> impl Iterator<Item = f64> {
        let at =
            move |m| index as f64 + ((m as f64 + 0.5) / MOMENTS as f64 - 0.5) * self.look.shutter;
        (0..MOMENTS).map(at)
    }

    /// How much later than the middle row a row is exposed, frames.
    pub fn row_time(&self, y: f64) -> f64 {
        self.look.readout * (y / f64::from(self.lens.height_px) - 0.5)
    }

    /// Where a point that stands still is seen on the frame at an index: the mean over the open
    /// shutter, which is where its smear lies. Where the camera jerks, that is not where the camera
    /// of the middle of the exposure sees it. `None` behind the camera or beyond the lens.
    pub fn smeared(&self, index: usize, point: &WorldPoint) -> Option<PlatePx> {
        let middle = 0.5 * f64::from(self.lens.height_px);
        let mut seen = PlatePx::new(0.0, middle);
        // On which row it is seen depends on when, and the other way round.
        let rounds = if self.look.readout == 0.0 { 1 } else { 4 };
        for _ in 0..rounds {
            let later = self.row_time(seen.y);
            let mut sum = PlatePx::new(0.0, 0.0);
            for time in self.moments(index).map(|time| time + later) {
                let px = self.lens_at(time).project(&(self.motion)(time), point)?;
                sum = PlatePx::new(sum.x + px.x, sum.y + px.y);
            }
            seen = PlatePx::new(sum.x / MOMENTS as f64, sum.y / MOMENTS as f64);
        }
        Some(seen)
    }

    /// Where the camera stands at a time and how it draws.
    pub fn eye(&self, time: f64) -> Eye {
        Eye {
            lens: self.lens_at(time),
            pose: (self.motion)(time),
        }
    }

    /// Points on what stands still, seen from frames spread over the take.
    pub fn true_points(&self, count: usize) -> Vec<WorldPoint> {
        let (width, height) = (
            f64::from(self.lens.width_px),
            f64::from(self.lens.height_px),
        );
        let mut points = Vec::with_capacity(count);
        for attempt in 0..count * 4 {
            if points.len() == count {
                break;
            }
            let draw = |salt: u64| noise::unit(self.seed ^ ((attempt as u64) << 8) ^ salt);
            let index = ((draw(1) * self.frame_count as f64) as usize).min(self.frame_count - 1);
            let px = PlatePx::new(
                width * (0.04 + 0.92 * draw(2)),
                height * (0.04 + 0.92 * draw(3)),
            );
            let still = self.scene.at(index as f64);
            let pose = self.pose(index);
            let hit = self
                .eye(index as f64)
                .ray(px)
                .and_then(|ray| still.standing_point(&ray));
            points.extend(
                hit.filter(|p| (p - pose.centre().0).norm() < 60.0)
                    .map(WorldPoint),
            );
        }
        points
    }

    /// The truth as the text of a neutral camera file.
    pub fn truth_text(&self) -> Result<String, serde_json::Error> {
        let shot = delivery::Shot {
            name: "truth".to_owned(),
            rate: self.rate,
            film_back: self.film_back,
            film_back_assumed: false,
            receiver: Receiver::default(),
            shutter_deg: None,
            keep: Keep::All,
        };
        let points = self.true_points(400).into_iter().enumerate();
        camera_json::write(&Delivery {
            cameras: (0..self.frame_count)
                .map(|i| delivery::Camera {
                    frame: self.frame_number(i),
                    pose: self.pose(i),
                    focal_px: self.lens_at(i as f64).focal_px,
                })
                .collect(),
            points: points
                .map(|(i, place)| Landmark {
                    name: format!("truth{i:04}"),
                    place,
                    group: String::new(),
                    colour: None,
                    covariance: None,
                    residual_px: 0.0,
                })
                .collect(),
            scaled: true,
            levelled: true,
            standing: CameraStanding::doubted(Vec::new()),
            ..Delivery::empty(&shot, self.lens)
        })
    }

    /// The truth as a neutral camera file.
    pub fn truth(&self) -> Result<CameraFile, CameraFileError> {
        CameraFile::read(&self.truth_text()?)
    }
}
