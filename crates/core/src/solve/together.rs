//! Does the shot hang together?
//!
//! Where few features carry over, cameras before and after may each fit what they see and be off
//! against each other: what stands on both sides jumps. From the covariance of cameras against each other
//! ([`super::bundle::relative`]) that is said in px, for landmarks of one camera that lie in the picture of the other.

use super::bundle::relative::{OfCamera, Relative};
use super::bundle::residual::linear;
use super::bundle::{CAMERA, Observation, Problem};
use crate::spaces::{FrameNumber, WorldPoint};
use crate::statistics::median;
use nalgebra::SMatrix;
use serde::{Deserialize, Serialize};

/// What stands on two frames may jump between them.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Jump {
    /// The earlier frame.
    pub before: FrameNumber,
    /// The later one.
    pub after: FrameNumber,
    /// One standard error, px.
    pub px: f64,
}

/// So many landmarks of one camera have to lie in the picture of the other.
const FEWEST_COMMON: usize = 6;

/// The jumps of all pairs of cameras that stand for frames.
pub fn jumps(problem: &Problem, pairs: &[Relative], frames: &[FrameNumber]) -> Vec<Jump> {
    let mut seen_by = vec![Vec::new(); problem.poses.len()];
    for o in problem.observations.iter() {
        seen_by[o.camera as usize].push(o.point);
    }
    let rotations = problem.rotations();
    let jump = |pair: &Relative| {
        let (lens, pose) = (problem.lens_of(pair.second), problem.poses[pair.second]);
        let slopes: Vec<SMatrix<f64, 2, CAMERA>> = seen_by[pair.first]
            .iter()
            .filter_map(|point| {
                let place = WorldPoint(problem.points[*point as usize].into());
                let px = lens.project(&pose, &place).filter(|px| lens.holds(*px))?;
                let seen = Observation {
                    camera: pair.second as u32,
                    point: *point,
                    px,
                    whitening: [1.0, 0.0, 1.0],
                };
                Some(linear(problem, &rotations[pair.second], &seen)?.camera)
            })
            .collect();
        if slopes.len() < FEWEST_COMMON {
            return None;
        }
        let covariance = without_scale(problem, pair, &slopes);
        let variance = |s: &SMatrix<f64, 2, CAMERA>| (s * covariance * s.transpose()).trace();
        let mut variances: Vec<f64> = slopes.iter().map(variance).collect();
        let px = median(&mut variances)?.max(0.0).sqrt();
        let (one, other) = (frames[pair.first], frames[pair.second]);
        Some(Jump {
            before: one.min(other),
            after: one.max(other),
            px,
        })
    };
    let jumps = pairs.iter().filter_map(jump);
    jumps.filter(|j| j.px.is_finite()).collect()
}

/// The greatest of some jumps.
pub fn greatest(jumps: impl IntoIterator<Item = Jump>) -> Option<Jump> {
    jumps.into_iter().max_by(|a, b| a.px.total_cmp(&b.px))
}

/// What is left of a covariance once all that the first camera sees may be larger or smaller, which
/// cannot be seen from one place: the shift between the cameras changes with it.
fn without_scale(
    problem: &Problem,
    pair: &Relative,
    slopes: &[SMatrix<f64, 2, CAMERA>],
) -> OfCamera {
    let [first, second] = [pair.first, pair.second].map(|c| problem.poses[c].camera_from_world);
    let shift = (second * first.inverse()).translation.vector;
    let mut grown = SMatrix::<f64, CAMERA, 1>::zeros();
    grown.fixed_rows_mut::<3>(3).copy_from(&shift);
    let seen: OfCamera = slopes.iter().map(|s| s.tr_mul(s)).sum();
    let along = seen * grown;
    let much = grown.dot(&along);
    if much <= 0.0 {
        return pair.covariance;
    }
    let without = OfCamera::identity() - grown * along.transpose() / much;
    without * pair.covariance * without.transpose()
}
