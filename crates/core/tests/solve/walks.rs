//! A camera that walks past points in a box: its truth, and tracks with noise.

use nalgebra::{Point3, Vector3};
use parallax_core::camera::{Intrinsics, Pose, Similarity};
use parallax_core::lens::Distortion;
use parallax_core::solve::{Attempt, LensTerms, SolveOptions};
use parallax_core::spaces::{FrameNumber, PlatePx, TrackId, WorldPoint};
use parallax_core::tracks::{Covariance, Sample, Track, TrackKind};

pub const FRAMES: i32 = 40;
pub const NOISE_PX: f64 = 0.15;

pub struct Walk {
    pub lens: Intrinsics,
    pub poses: Vec<Pose>,
    pub points: Vec<WorldPoint>,
    pub tracks: Vec<Track>,
}

impl Walk {
    pub fn new(seed: u64, focal_px: f64, distortion: Distortion) -> Self {
        let mut random = fastrand::Rng::with_seed(seed);
        let lens = Intrinsics {
            distortion,
            ..Intrinsics::centred(1280, 720, focal_px)
        };
        let poses: Vec<Pose> = (0..FRAMES)
            .map(|k| pose(f64::from(k), &mut random))
            .collect();
        let mut draw = |low: f64, high: f64| low + (high - low) * random.f64();
        let points: Vec<WorldPoint> = (0..260)
            .map(|_| WorldPoint::new(draw(-5.0, 5.0), draw(-1.5, 2.5), draw(-9.0, 1.0)))
            .collect();
        Self::of(lens, poses, points, &mut random)
    }

    /// What cameras see of points, with noise.
    pub fn of(
        lens: Intrinsics,
        poses: Vec<Pose>,
        points: Vec<WorldPoint>,
        random: &mut fastrand::Rng,
    ) -> Self {
        let mut normal = || (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
        let tracks = points
            .iter()
            .enumerate()
            .map(|(id, point)| {
                let seen = |k: usize| lens.project(&poses[k], point).filter(|px| is_inside(*px));
                let samples = (0..poses.len()).filter_map(|k| {
                    let px = seen(k)?.moved(nalgebra::Vector2::new(normal(), normal()) * NOISE_PX);
                    Some(Sample {
                        frame: FrameNumber(k as i32 + 1),
                        px,
                        covariance: Covariance::isotropic(NOISE_PX),
                    })
                });
                let samples = samples.collect();
                Track::new(TrackId(id as u32 + 1), TrackKind::Auto, samples)
            })
            .filter(|t: &Track| t.samples.len() >= 3)
            .collect();
        Self {
            lens,
            poses,
            points,
            tracks,
        }
    }

    pub fn options(&self, solve_lens: LensTerms) -> SolveOptions {
        let lens = Intrinsics {
            distortion: Distortion::NONE,
            ..self.lens
        };
        SolveOptions {
            solve_lens,
            ..SolveOptions::nothing_known(lens)
        }
    }

    /// Root mean square distance of the true points through the solved camera from where
    /// the true camera sees them, px, after the best alignment of the landmarks.
    pub fn error_px(&self, attempt: &Attempt) -> f64 {
        let truth = |id: TrackId| self.points[id.0 as usize - 1];
        let (solved, true_points): (Vec<_>, Vec<_>) = attempt
            .landmarks
            .iter()
            .map(|l| (l.point, truth(l.track)))
            .unzip();
        let to_solved = Similarity::fitting(&true_points, &solved).unwrap();
        let mut squares = Vec::new();
        for (frame, pose) in attempt.frames.iter().zip(&self.poses) {
            for point in &self.points {
                let Some(px) = self.lens.project(pose, point).filter(|px| is_inside(*px)) else {
                    continue;
                };
                let through = attempt
                    .lens
                    .project(&frame.pose, &to_solved.point(point))
                    .unwrap();
                squares.push(through.distance_px(px).powi(2));
            }
        }
        (squares.iter().sum::<f64>() / squares.len() as f64).sqrt()
    }
}

pub fn is_inside(px: PlatePx) -> bool {
    (10.0..1270.0).contains(&px.x) && (10.0..710.0).contains(&px.y)
}

pub fn pose(k: f64, random: &mut fastrand::Rng) -> Pose {
    let mut shake = || 0.02 * (random.f64() - 0.5);
    let eye = Point3::new(
        -2.0 + 0.1 * k + shake(),
        1.5 + shake(),
        6.0 - 0.03 * k + shake(),
    );
    let target = Point3::new(0.3 + 5.0 * shake(), 0.4, -3.0);
    Pose::looking_at(&eye, &target, &Vector3::y())
}
