//! Tracks of points that a camera of known kind sees, without pictures.

use crate::shared;
use nalgebra::{Point3, UnitQuaternion, Vector2, Vector3};
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::lens::Distortion;
use parallax_core::solve::{Attempt, SolveOptions};
use parallax_core::spaces::{FrameNumber, TrackId, WorldPoint};
use parallax_core::tracks::{Covariance, Sample, Track, TrackKind};

pub const FRAMES: usize = 40;
pub const FOCAL_PX: f64 = 1000.0;
const NOISE_PX: f64 = 0.12;

/// What the camera does.
#[derive(Clone, Copy)]
pub enum Does {
    Walk,
    /// Rests for half of the shot, then walks.
    Start,
    /// Turns on the spot over so many degrees.
    Turn(f64),
    Rest,
}

fn pose(does: Does, k: usize) -> Pose {
    let t = k as f64 / (FRAMES - 1) as f64;
    let walk = |t: f64| {
        let eye = Point3::new(-1.5 + 3.0 * t, 1.2 + 0.1 * (9.0 * t).sin(), 6.0 - 0.8 * t);
        Pose::looking_at(&eye, &Point3::new(0.4 * t, 0.4, -3.0), &Vector3::y())
    };
    match does {
        Does::Walk => walk(t),
        Does::Start => walk((2.0 * t - 1.0).max(0.0)),
        Does::Rest => walk(0.0),
        Does::Turn(degrees) => {
            let yaw = -(t - 0.5) * degrees.to_radians();
            let turn = UnitQuaternion::from_euler_angles(0.03 * (7.0 * t).sin(), yaw, 0.0);
            let eye = Vector3::new(0.0, 1.2, 6.0);
            let rotation = turn.inverse();
            Pose::from_parts(rotation, -(rotation * eye))
        }
    }
}

/// Where the focal length stands, `zoom` times longer at the end.
fn focal_px(zoom: f64, k: usize) -> f64 {
    let share = ((k as f64 - 6.0) / 26.0).clamp(0.0, 1.0);
    FOCAL_PX * zoom.powf(share * share * (3.0 - 2.0 * share))
}

pub struct Shot {
    pub lens: Intrinsics,
    poses: Vec<Pose>,
    zoom: f64,
    points: Vec<WorldPoint>,
    pub tracks: Vec<Track>,
}

impl Shot {
    pub fn new(does: Does, zoom: f64) -> Self {
        Self::through(does, zoom, Distortion::NONE)
    }

    pub fn through(does: Does, zoom: f64, distortion: Distortion) -> Self {
        let mut random = fastrand::Rng::with_seed(17);
        let mut draw = |low: f64, high: f64| low + (high - low) * random.f64();
        let points: Vec<WorldPoint> = (0..420)
            .map(|_| WorldPoint::new(draw(-11.0, 11.0), draw(-3.5, 4.5), draw(-7.0, 1.5)))
            .collect();
        let poses: Vec<Pose> = (0..FRAMES).map(|k| pose(does, k)).collect();
        let lens = Intrinsics {
            distortion,
            ..Intrinsics::centred(1280, 720, FOCAL_PX)
        };
        let mut shot = Self {
            lens,
            poses,
            zoom,
            points,
            tracks: Vec::new(),
        };
        let mut normal = || (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
        for (id, point) in shot.points.iter().enumerate() {
            let samples: Vec<Sample> = (0..FRAMES)
                .filter_map(|k| {
                    let px = shot.seen(k, point)?;
                    Some(Sample {
                        frame: FrameNumber(k as i32 + 1),
                        px: px.moved(Vector2::new(normal(), normal()) * NOISE_PX),
                        covariance: Covariance::isotropic(NOISE_PX),
                    })
                })
                .collect();
            if samples.len() >= 3 {
                shot.tracks
                    .push(Track::new(TrackId(id as u32), TrackKind::Auto, samples));
            }
        }
        shot
    }

    fn lens_at(&self, k: usize) -> Intrinsics {
        self.lens.with_focal(focal_px(self.zoom, k))
    }

    fn seen(&self, k: usize, point: &WorldPoint) -> Option<parallax_core::spaces::PlatePx> {
        let px = self.lens_at(k).project(&self.poses[k], point)?;
        let is_inside = (0.0..1280.0).contains(&px.x) && (0.0..720.0).contains(&px.y);
        is_inside.then_some(px)
    }

    pub fn options(&self) -> SolveOptions {
        SolveOptions::nothing_known(Intrinsics::centred(1280, 720, FOCAL_PX))
    }

    pub fn solved(&self) -> Attempt {
        shared::solve(&self.tracks, &self.options()).unwrap()
    }

    /// The largest share by which a focal length is off, over all frames.
    pub fn worst_focal(&self, attempt: &Attempt) -> f64 {
        let off = |(k, f): (usize, &parallax_core::solve::SolvedFrame)| {
            (attempt.lens_at(f).focal_px / focal_px(self.zoom, k) - 1.0).abs()
        };
        let frames = attempt.frames.iter().enumerate();
        frames.map(off).fold(0.0, f64::max)
    }

    /// How far landmarks fall on every frame from where the truth sees them, px rms.
    pub fn off_px(&self, attempt: &Attempt) -> f64 {
        let mut squares = Vec::new();
        for (k, frame) in attempt.frames.iter().enumerate() {
            for landmark in &attempt.landmarks {
                let Some(truth) = self.seen(k, &self.points[landmark.track.0 as usize]) else {
                    continue;
                };
                let px = attempt.lens_at(frame).project(&frame.pose, &landmark.point);
                squares.push(px.unwrap().distance_px(truth).powi(2));
            }
        }
        (squares.iter().sum::<f64>() / squares.len() as f64).sqrt()
    }
}
