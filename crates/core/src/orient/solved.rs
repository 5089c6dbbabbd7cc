//! What orienting needs of a solve: landmarks, cameras and how certain they are.

use super::statement::Sight;
use super::{Placed, Unused};
use crate::camera::Eye;
use crate::solve::certain::CameraCovariance;
use crate::solve::{Attempt, CameraMove};
use crate::spaces::{FrameNumber, PlatePx, TrackId};
use nalgebra::{DMatrix, Matrix3, Vector3};

/// Covariance of the places of several landmarks together, three rows each, in the solve's units.
pub trait Together {
    /// Of these, in their order; `None` where it is not known.
    fn covariance(&self, tracks: &[TrackId]) -> Option<DMatrix<f64>>;
}

/// A solved camera with how certain it is.
#[derive(Clone, Copy, Debug)]
pub struct Stand {
    /// Its frame.
    pub frame: FrameNumber,
    /// The camera.
    pub eye: Eye,
    /// How certain its place and turn are.
    pub covariance: Option<CameraCovariance>,
}

/// Landmarks and cameras.
pub struct Solved<'a> {
    /// Landmarks, ascending by track.
    pub landmarks: Vec<Placed>,
    /// Cameras, ascending by frame.
    pub cameras: Vec<Stand>,
    /// Whether the camera travels, so that landmarks are places.
    pub travels: bool,
    /// Whether the solve's own world is upright and headed already, as in that of a survey: what nothing is said of stays.
    pub is_upright: bool,
    /// How far landmarks are from the first camera in the median, units of the solve.
    pub depth: f64,
    /// How landmarks are certain together; each by itself where that is not known.
    pub together: Option<&'a dyn Together>,
}

/// A ray of the solve's world.
#[derive(Clone, Copy, Debug)]
pub struct Ray {
    /// Where it begins.
    pub eye: Vector3<f64>,
    /// Where it goes, unit length.
    pub direction: Vector3<f64>,
    /// How exactly it points, rad.
    pub sigma_rad: f64,
}

/// A plane through places.
pub struct FoundPlane {
    /// Its normal, of either sign.
    pub normal: Vector3<f64>,
    /// The middle of the places.
    pub middle: Vector3<f64>,
}

/// How exactly a mark is set over the plate, one standard error, px.
const POINTING_PX: f64 = 0.5;
/// Rays that differ by less do not meet, rad.
const LEAST_ANGLE_RAD: f64 = 2e-3;
/// A landmark of which nothing is said is taken for so exact, share of the depth.
const UNSAID_SHARE: f64 = 1e-3;

impl<'a> Solved<'a> {
    /// Of landmarks (ascending by track) and cameras (ascending by frame).
    pub fn new(
        landmarks: Vec<Placed>,
        cameras: Vec<Stand>,
        travels: bool,
        together: Option<&'a dyn Together>,
    ) -> Self {
        let eye = cameras.first().map(|c| c.eye.pose.centre());
        let mut far: Vec<f64> = landmarks
            .iter()
            .filter_map(|l| Some(l.1.distance(eye?)))
            .collect();
        let depth = crate::statistics::median(&mut far);
        Self {
            landmarks,
            cameras,
            travels,
            is_upright: false,
            depth: depth.filter(|d| *d > 0.0).unwrap_or(1.0),
            together,
        }
    }

    /// Of an attempt.
    pub fn of_attempt(attempt: &Attempt, together: Option<&'a dyn Together>) -> Self {
        let landmarks = attempt.landmarks.iter();
        let landmarks = landmarks.map(|l| (l.track, l.point, l.covariance));
        let cameras = attempt.frames.iter().map(|f| Stand {
            frame: f.frame,
            eye: attempt.eye(f),
            covariance: f.covariance,
        });
        let travels = attempt.moves == CameraMove::Free;
        Self {
            is_upright: attempt.is_surveyed(),
            ..Self::new(landmarks.collect(), cameras.collect(), travels, together)
        }
    }

    /// Up as cameras were held, in the mean; y where the world is upright already.
    pub fn held_up(&self) -> Vector3<f64> {
        let up = |c: &Stand| c.eye.pose.camera_from_world.rotation.inverse() * Vector3::y();
        let held = self.cameras.iter().filter(|_| !self.is_upright);
        let mean: Vector3<f64> = held.map(up).sum();
        mean.try_normalize(1e-6).unwrap_or_else(Vector3::y)
    }

    /// A landmark.
    pub fn landmark(&self, track: TrackId) -> Option<&Placed> {
        let at = self.landmarks.binary_search_by_key(&track, |l| l.0).ok()?;
        Some(&self.landmarks[at])
    }

    fn stand(&self, frame: FrameNumber) -> Result<&Stand, Unused> {
        let at = self.cameras.binary_search_by_key(&frame, |c| c.frame);
        at.map(|at| &self.cameras[at])
            .map_err(|_| Unused::NoCamera(frame))
    }

    /// Where a camera stands, and how certain that is.
    pub fn camera(&self, frame: FrameNumber) -> Option<(Vector3<f64>, Matrix3<f64>)> {
        let stand = self.stand(frame).ok()?;
        let pose = &stand.eye.pose;
        let covariance = stand
            .covariance
            .map_or(Matrix3::zeros(), |c| *c.of_centre(pose).matrix());
        Some((pose.centre().0.coords, covariance))
    }

    /// Covariance of a landmark by itself.
    pub fn covariance(&self, track: TrackId) -> Matrix3<f64> {
        let unsaid = (UNSAID_SHARE * self.depth).powi(2);
        self.landmark(track)
            .and_then(|l| l.2)
            .map_or(Matrix3::identity() * unsaid, |c| *c.matrix())
    }

    /// The ray of a mark on a frame.
    pub fn ray(&self, frame: FrameNumber, px: PlatePx) -> Result<Ray, Unused> {
        let stand = self.stand(frame)?;
        let Eye { lens, pose } = &stand.eye;
        let point = lens.lens_point(px).ok_or(Unused::BeyondLens(frame))?;
        let direction = pose.camera_from_world.rotation.inverse() * point.ray().normalize();
        let of_turn = stand.covariance.map_or(0.0, |c| {
            let [x, y, z] = c.turn_sigma_rad();
            ((x * x + y * y + z * z) / 3.0).sqrt()
        });
        Ok(Ray {
            eye: pose.centre().0.coords,
            direction,
            sigma_rad: (POINTING_PX / lens.focal_px).hypot(of_turn),
        })
    }

    /// The place of what was marked on two frames, and how certain it is.
    pub fn marked(&self, sights: &[Sight; 2]) -> Result<(Vector3<f64>, Matrix3<f64>), Unused> {
        if !self.travels {
            return Err(Unused::Directions);
        }
        let [a, b] = [
            self.ray(sights[0].frame, sights[0].px)?,
            self.ray(sights[1].frame, sights[1].px)?,
        ];
        let angle = a.direction.cross(&b.direction).norm();
        if angle < LEAST_ANGLE_RAD {
            return Err(Unused::NoMeeting);
        }
        // Where the two rays are nearest to each other, in the middle.
        let between = b.eye - a.eye;
        let cosine = a.direction.dot(&b.direction);
        let along = |ray: &Vector3<f64>, other: &Vector3<f64>| {
            (ray.dot(&between) - cosine * other.dot(&between)) / (angle * angle)
        };
        let far_a = along(&a.direction, &b.direction);
        let far_b = -along(&b.direction, &a.direction);
        if !(far_a > 0.0 && far_b > 0.0) {
            return Err(Unused::NoMeeting);
        }
        let [p, q] = [a.eye + a.direction * far_a, b.eye + b.direction * far_b];
        let sigma = |ray: &Ray, far: f64| ray.sigma_rad * far;
        let [sa, sb] = [sigma(&a, far_a), sigma(&b, far_b)];
        // Marks that miss each other by far more than they are exact are not one place.
        if (p - q).norm() > MOST_MISSED * sa.hypot(sb) {
            return Err(Unused::NoMeeting);
        }
        let square = |ray: &Ray, sigma: f64| {
            (Matrix3::identity() - ray.direction * ray.direction.transpose()) / (sigma * sigma)
        };
        let covariance = (square(&a, sa) + square(&b, sb)).try_inverse();
        Ok(((p + q) / 2.0, covariance.ok_or(Unused::NoMeeting)?))
    }
}

/// Marks of one place on two frames may miss each other by so many standard errors.
const MOST_MISSED: f64 = 12.0;
/// Places whose second extent is below this share of the first lie in one line.
const IN_LINE_SHARE: f64 = 1e-2;

/// The least-squares plane of places; `None` where they lie in one line.
pub fn plane_of(places: &[Vector3<f64>]) -> Option<FoundPlane> {
    weighted_plane(places.iter().map(|p| (*p, 1.0)))
}

/// The same of places that count by their weights.
pub fn weighted_plane(
    places: impl Iterator<Item = (Vector3<f64>, f64)> + Clone,
) -> Option<FoundPlane> {
    let all = places
        .clone()
        .map(|(_, w)| w)
        .sum::<f64>()
        .max(f64::MIN_POSITIVE);
    let middle = places.clone().map(|(p, w)| p * w).sum::<Vector3<f64>>() / all;
    let spread: Matrix3<f64> = places
        .map(|(p, w)| (p - middle) * (p - middle).transpose() * w)
        .sum();
    let eigen = spread.symmetric_eigen();
    let mut order = [0, 1, 2];
    order.sort_by(|&i, &j| eigen.eigenvalues[i].total_cmp(&eigen.eigenvalues[j]));
    let [_, second, most] = order.map(|i| eigen.eigenvalues[i].max(0.0));
    let flat = most > 0.0 && second > IN_LINE_SHARE.powi(2) * most;
    flat.then(|| FoundPlane {
        normal: eigen.eigenvectors.column(order[0]).into_owned(),
        middle,
    })
}
