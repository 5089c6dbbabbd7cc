//! What is believed of cameras, lens and landmarks besides what was seen, as residuals of their own.
//!
//! - A stated focal length with its standard error.
//! - [`Smoothness`]: turn and place of the camera change steadily; how fast they change wanders from frame to
//!   frame by a stated standard error, over longer steps by the root of their length more. It carries cameras
//!   over frames that say little, and yields to those that say more.
//! - [`Anchor`]: a landmark that was surveyed, each coordinate with its standard error or not at all.
//! - [`Ties`]: lengths between landmarks, and landmarks that lie on one plane.
//!
//! Derivatives are analytic. With R the rotation from the world, t the shift and ω, v the turn and shift of a step
//! (`R' = exp(ω) R`, `t' = t + v`), the centre `c = -Rᵀ t` goes by `-Rᵀ (v + [t]× ω)`; the turn from one camera to
//! the next, `θ = log(R₂ R₁ᵀ)`, by `J⁻¹(θ) ω₂ - J⁻¹(-θ) ω₁`, J the left Jacobian of the rotations
//! (Barfoot 2017, section 7.1.5).

use super::{CAMERA, Ties, Zoom};
use crate::camera::Pose;
use nalgebra::{Matrix3, SMatrix, Vector3};
use serde::{Deserialize, Serialize};

/// All that is believed of a problem besides the focal lengths of a zoom.
#[derive(Clone, Debug, Default)]
pub struct Beliefs {
    /// The focal length that all cameras share, with its standard error, px.
    pub focal_px: Option<(f64, f64)>,
    /// How steadily the camera moves: all along, or where it sees little.
    pub smooth: Vec<Smoothness>,
    /// Surveyed points, ascending by point.
    pub anchors: Vec<Anchor>,
    /// What is believed of several points together; of places alone, not of directions.
    pub ties: Ties,
}

/// One residual that unknowns of up to three cameras answer for.
#[derive(Clone, Copy, Debug)]
pub struct Belief {
    /// What is off, standard errors.
    pub residual: f64,
    /// The cameras, ascending; the last is repeated, with no slopes, where they are fewer.
    pub cameras: [usize; 3],
    /// Derivatives by the unknowns of each.
    pub slopes: [[f64; CAMERA]; 3],
}

/// How steadily a camera moves.
#[derive(Clone, Debug)]
pub struct Smoothness {
    /// When each camera saw what it saw, frames, ascending.
    pub times: Vec<f64>,
    /// Cameras that it is for, ascending: of three successive ones one has to be among them. `None` where it is
    /// for all.
    pub only: Option<Vec<usize>>,
    /// One standard error of how much the speed of its turn changes within a frame, rad per frame.
    pub turn_rad: Option<f64>,
    /// The same of its place, world units per frame.
    pub place: Option<f64>,
    /// Two cameras whose distance is held at a value, world units: a world that shrinks would be
    /// smoother. `None` where something else holds the scale.
    pub held: Option<(usize, usize, f64)>,
}

/// The held distance is held to this share.
const HELD_TO: f64 = 1e-3;

/// A point whose place was measured.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Anchor {
    /// Index of the point.
    pub point: u32,
    /// Where it was measured, world units; a coordinate that was not measured is not read.
    pub at: Vector3<f64>,
    /// One over the standard error of each coordinate, 0 where it was not measured.
    pub precision: Vector3<f64>,
}

impl Anchor {
    /// Whether all coordinates were measured.
    pub fn is_whole(&self) -> bool {
        self.precision.min() > 0.0
    }

    /// What a place is off, standard errors.
    pub fn residual(&self, place: &Vector3<f64>) -> Vector3<f64> {
        (place - self.at).component_mul(&self.precision)
    }

    /// Its part of the point's normal matrix.
    pub fn normal(&self) -> Matrix3<f64> {
        Matrix3::from_diagonal(&self.precision.component_mul(&self.precision))
    }

    /// Its part of the point's right-hand side.
    pub fn side(&self, place: &Vector3<f64>) -> Vector3<f64> {
        self.residual(place).component_mul(&self.precision)
    }

    /// Half its squares.
    pub fn cost(&self, place: &Vector3<f64>) -> f64 {
        0.5 * self.residual(place).norm_squared()
    }
}

/// So many points hold a world, where they were measured in all coordinates.
pub const HOLDING: usize = 3;

impl Beliefs {
    /// Whether surveyed points say where the world stands, how it is turned, and how large it is: three
    /// that were measured in all coordinates. That they are not on a line is for the caller to see to.
    pub fn hold_the_world(&self) -> bool {
        self.anchors.iter().filter(|a| a.is_whole()).count() >= HOLDING
    }

    /// What is believed of a point.
    pub fn anchor(&self, point: usize) -> Option<&Anchor> {
        let at = self
            .anchors
            .binary_search_by_key(&(point as u32), |a| a.point)
            .ok()?;
        self.anchors.get(at)
    }
}

/// What is believed of the cameras.
pub fn of_cameras(poses: &[Pose], zoom: Option<&Zoom>, beliefs: &Beliefs) -> Vec<Belief> {
    let mut all: Vec<Belief> = zoom.iter().flat_map(|zoom| zoom.beliefs()).collect();
    let smooth = beliefs.smooth.iter();
    all.extend(smooth.flat_map(|smooth| smooth.beliefs(poses)));
    all
}

/// Three successive cameras, over which a rate changes from the first step to the second.
#[derive(Clone, Copy, Debug)]
pub struct Three {
    /// Their indices.
    pub cameras: [usize; 3],
    /// From the first to the second and on to the third, frames.
    pub steps: [f64; 2],
    /// How much farther than within a frame a rate wanders between the two steps.
    pub wanders: f64,
}

/// Each three successive cameras, by their times in frames.
pub fn successive(times: &[f64]) -> impl Iterator<Item = Three> + '_ {
    times.windows(3).enumerate().map(|(first, times)| {
        let steps = [times[1] - times[0], times[2] - times[1]];
        Three {
            cameras: [first, first + 1, first + 2],
            steps: steps.map(|step| step.max(1e-9)),
            wanders: (0.5 * (times[2] - times[0])).max(1e-9).sqrt(),
        }
    })
}

/// By the unknowns of a camera.
type Slopes = SMatrix<f64, 3, CAMERA>;

impl Smoothness {
    /// Cameras that it links besides successive ones.
    pub fn linked(&self) -> Option<(usize, usize)> {
        self.held.map(|(first, second, _)| (first, second))
    }

    fn is_for(&self, three: &Three) -> bool {
        let is_among = |only: &Vec<usize>| {
            let mut cameras = three.cameras.iter();
            cameras.any(|camera| only.binary_search(camera).is_ok())
        };
        self.only.as_ref().is_none_or(is_among)
    }

    fn beliefs(&self, poses: &[Pose]) -> Vec<Belief> {
        let mut all = Vec::new();
        let threes = successive(&self.times).filter(|three| self.is_for(three));
        for Three {
            cameras,
            steps,
            wanders,
        } in threes
        {
            let three = cameras.map(|k| &poses[k]);
            if let Some(sigma) = self.turn_rad {
                let (off, slopes) = turns(three, steps);
                all.extend(rows(off, &slopes, cameras, 1.0 / (sigma * wanders)));
            }
            if let Some(sigma) = self.place {
                let (off, slopes) = places(three, steps);
                all.extend(rows(off, &slopes, cameras, 1.0 / (sigma * wanders)));
            }
        }
        if let Some((first, second, distance)) = self.held {
            all.push(held([first, second], poses, distance));
        }
        all
    }
}

fn rows(
    off: Vector3<f64>,
    slopes: &[Slopes; 3],
    cameras: [usize; 3],
    scale: f64,
) -> impl Iterator<Item = Belief> {
    let slopes = slopes.map(|s| s * scale);
    (0..3).map(move |axis| Belief {
        residual: scale * off[axis],
        cameras,
        slopes: slopes.map(|s| std::array::from_fn(|slot| s[(axis, slot)])),
    })
}

/// What the centre of a camera goes by.
fn place_slopes(pose: &Pose) -> Slopes {
    let back = pose.camera_from_world.rotation.inverse();
    let back = back.to_rotation_matrix().into_inner();
    let mut slopes = Slopes::zeros();
    let by_turn = -back * pose.camera_from_world.translation.vector.cross_matrix();
    slopes.fixed_view_mut::<3, 3>(0, 0).copy_from(&by_turn);
    slopes.fixed_view_mut::<3, 3>(0, 3).copy_from(&-back);
    slopes
}

/// By how much the speed of turn (rad per frame) and centre (world units per frame) changes over three cameras.
pub fn changes(poses: [&Pose; 3], steps: [f64; 2]) -> [Vector3<f64>; 2] {
    [turns(poses, steps).0, places(poses, steps).0]
}

/// By how much the speed of the centre changes over three cameras.
fn places(poses: [&Pose; 3], [early, late]: [f64; 2]) -> (Vector3<f64>, [Slopes; 3]) {
    let [a, b, c] = poses.map(|p| p.centre().0.coords);
    let weights = [1.0 / early, -1.0 / late - 1.0 / early, 1.0 / late];
    let slopes = [0, 1, 2].map(|i| place_slopes(poses[i]) * weights[i]);
    ((c - b) / late - (b - a) / early, slopes)
}

/// By how much the speed of the turn changes over three cameras.
fn turns(poses: [&Pose; 3], [early, late]: [f64; 2]) -> (Vector3<f64>, [Slopes; 3]) {
    let turn = |from: usize, to: usize| {
        let rotation = |k: usize| poses[k].camera_from_world.rotation;
        (rotation(to) * rotation(from).inverse()).scaled_axis()
    };
    let (before, after) = (turn(0, 1), turn(1, 2));
    let by_turn = [
        inverse_jacobian(&-before) / early,
        -inverse_jacobian(&before) / early - inverse_jacobian(&-after) / late,
        inverse_jacobian(&after) / late,
    ];
    let slopes = by_turn.map(|by_turn| {
        let mut slopes = Slopes::zeros();
        slopes.fixed_view_mut::<3, 3>(0, 0).copy_from(&by_turn);
        slopes
    });
    (after / late - before / early, slopes)
}

/// Inverse of the left Jacobian of the rotations at a rotation vector.
fn inverse_jacobian(turn: &Vector3<f64>) -> Matrix3<f64> {
    let angle = turn.norm();
    let cross = turn.cross_matrix();
    let of_square = if angle < 1e-4 {
        1.0 / 12.0
    } else {
        1.0 / (angle * angle) - (1.0 + angle.cos()) / (2.0 * angle * angle.sin())
    };
    Matrix3::identity() - cross * 0.5 + cross * cross * of_square
}

fn held([first, second]: [usize; 2], poses: &[Pose], distance: f64) -> Belief {
    let apart = poses[second].centre().0 - poses[first].centre().0;
    let scale = 1.0 / (HELD_TO * distance);
    let along = apart.normalize() * scale;
    let slopes = |camera: usize, sign: f64| -> [f64; CAMERA] {
        let row = along.transpose() * place_slopes(&poses[camera]) * sign;
        std::array::from_fn(|slot| row[slot])
    };
    Belief {
        residual: scale * (apart.norm() - distance),
        cameras: [first, second, second],
        slopes: [slopes(first, -1.0), slopes(second, 1.0), [0.0; CAMERA]],
    }
}
