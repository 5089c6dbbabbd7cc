//! How does a solved camera run over time, and where does it jump?
//!
//! Place, direction and focal length by frame in the oriented world, each with one standard error where
//! the solve states it, and its spikes: a camera that is carried changes its speed little from frame to
//! frame, so that a second difference far outside of what is usual on the same curve betrays a bad frame
//! (the rule of the median absolute deviation, Hampel 1974).

use super::Attempt;
use crate::camera::{Pose, Similarity};
use crate::spaces::FrameNumber;
use crate::statistics::median;
use serde::Serialize;

/// One quantity over the frames of an attempt.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
pub struct Curve {
    /// Its values, one for each frame.
    pub values: Vec<f64>,
    /// One standard error of each; empty where they are not known.
    pub sigma: Vec<f64>,
    /// Indices of frames at which it jumps.
    pub spikes: Vec<usize>,
}

/// All curves of an attempt.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
pub struct Curves {
    /// The frames, ascending.
    pub frames: Vec<FrameNumber>,
    /// Root mean square residual, px.
    pub residual_px: Curve,
    /// Where the camera stands along X, Y and Z of the world, units.
    pub position: [Curve; 3],
    /// Where it looks, degrees: pan to the right, tilt upwards, roll with the clock. Their errors are
    /// those about the camera's own up, right and back.
    pub rotation_deg: [Curve; 3],
    /// Focal length, px.
    pub focal_px: Curve,
}

/// A second difference so many times the usual one is a spike.
const SPIKE: f64 = 9.0;
/// Below this share of the curve's reach nothing is one.
const LEAST_SHARE: f64 = 0.01;

impl Curves {
    /// The curves of an attempt in a world to which `change` leads.
    pub fn of(attempt: &Attempt, change: &Similarity) -> Self {
        let frames = &attempt.frames;
        let poses: Vec<Pose> = frames.iter().map(|f| change.pose(&f.pose)).collect();
        let places: Vec<[f64; 3]> = poses.iter().map(|p| p.centre().0.into()).collect();
        let mut angles: Vec<[f64; 3]> = poses.iter().map(angles_deg).collect();
        unwrap(&mut angles);
        let errors: Option<Vec<([f64; 3], [f64; 3])>> = frames
            .iter()
            .map(|f| {
                let covariance = f.covariance?.in_world(&f.pose, change);
                let [right, up, back] = covariance.turn_sigma_rad().map(f64::to_degrees);
                let place = covariance.of_centre(&change.pose(&f.pose)).sigma();
                Some((place, [up, right, back]))
            })
            .collect();
        let errors = errors.unwrap_or_default();
        let curve = |values: Vec<f64>, sigma: Vec<f64>| Curve {
            spikes: spikes(&values),
            values,
            sigma,
        };
        let axis = |i: usize| {
            let sigma = errors.iter().map(|e| e.0[i]).collect();
            curve(places.iter().map(|p| p[i]).collect(), sigma)
        };
        let angle = |i: usize| {
            let sigma = errors.iter().map(|e| e.1[i]).collect();
            curve(angles.iter().map(|a| a[i]).collect(), sigma)
        };
        let focals: Vec<f64> = frames.iter().map(|f| attempt.lens_at(f).focal_px).collect();
        let own: Option<Vec<f64>> = frames.iter().map(|f| f.focal_sigma_px).collect();
        let shared = attempt.focal_sigma_px.map(|s| vec![s; frames.len()]);
        Self {
            frames: frames.iter().map(|f| f.frame).collect(),
            residual_px: Curve {
                values: frames.iter().map(|f| f.rms_px).collect(),
                ..Curve::default()
            },
            position: [axis(0), axis(1), axis(2)],
            rotation_deg: [angle(0), angle(1), angle(2)],
            focal_px: curve(focals, own.or(shared).unwrap_or_default()),
        }
    }
}

/// Pan, tilt and roll of a camera in a world with Y up, degrees.
fn angles_deg(pose: &Pose) -> [f64; 3] {
    let axes = pose
        .camera_from_world
        .rotation
        .inverse()
        .to_rotation_matrix();
    let axis = |i: usize| axes.matrix().column(i).into_owned();
    let (right, up, ahead) = (axis(0), axis(1), -axis(2));
    let pan = ahead.x.atan2(-ahead.z);
    let tilt = ahead.y.clamp(-1.0, 1.0).asin();
    // Turned with the clock as seen from behind, the right side sinks.
    let roll = (-right.y).atan2(up.y);
    [pan, tilt, roll].map(f64::to_degrees)
}

/// Takes turns of 360 degrees out of curves that pass behind.
fn unwrap(angles: &mut [[f64; 3]]) {
    for i in 1..angles.len() {
        let before = angles[i - 1];
        for (angle, before) in angles[i].iter_mut().zip(before) {
            *angle -= 360.0 * ((*angle - before) / 360.0).round();
        }
    }
}

/// Where a curve jumps off what its neighbours say.
fn spikes(values: &[f64]) -> Vec<usize> {
    let bend = |i: usize| (values[i - 1] - 2.0 * values[i] + values[i + 1]).abs();
    let inner = 1..values.len().saturating_sub(1);
    let Some(usual) = median(&mut inner.clone().map(bend).collect::<Vec<_>>()) else {
        return Vec::new();
    };
    let low = values.iter().copied().fold(f64::INFINITY, f64::min);
    let high = values.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    let limit = (SPIKE * 1.4826 * usual).max(LEAST_SHARE * (high - low));
    // The frame that jumps has the largest bend, its neighbours half of it.
    let is_spike = |i: &usize| {
        let beside = |j: usize| (1..values.len() - 1).contains(&j) && bend(j) > bend(*i);
        bend(*i) > limit && !beside(i - 1) && !beside(i + 1)
    };
    inner.filter(is_spike).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use nalgebra::{Point3, UnitQuaternion, Vector3};
    use rstest::rstest;

    #[rstest]
    #[case::ahead([0.0, 0.0, -1.0], 0.0, [0.0, 0.0, 0.0])]
    #[case::to_the_right([1.0, 0.0, -1.0], 0.0, [45.0, 0.0, 0.0])]
    #[case::upwards([0.0, 1.0, -1.0], 0.0, [0.0, 45.0, 0.0])]
    #[case::with_the_clock([0.0, 0.0, -1.0], 10.0, [0.0, 0.0, 10.0])]
    #[case::all([1.0, -1.0, -1.0], -5.0, [45.0, -35.264_389_682_754_654, -5.0])]
    fn angles_are_told_as_an_operator_would(
        #[case] ahead: [f64; 3],
        #[case] roll_deg: f64,
        #[case] expected: [f64; 3],
    ) {
        let level = Pose::looking_at(
            &Point3::origin(),
            &Point3::from(Vector3::from(ahead)),
            &Vector3::y(),
        );
        // A camera rolled with the clock sees the world turn against it.
        let roll = UnitQuaternion::from_axis_angle(&Vector3::z_axis(), roll_deg.to_radians());
        let rolled = roll * level.camera_from_world.rotation;
        let found = angles_deg(&Pose::from_parts(rolled, Vector3::zeros()));
        for (found, expected) in found.iter().zip(expected) {
            assert!((found - expected).abs() < 1e-9, "{found} for {expected}");
        }
    }

    #[test]
    fn a_turn_past_behind_goes_on() {
        let mut angles: Vec<[f64; 3]> = (0..20)
            .map(|i| {
                let turn: f64 = 30.0 * f64::from(i);
                [(turn + 180.0).rem_euclid(360.0) - 180.0, 0.0, 0.0]
            })
            .collect();
        unwrap(&mut angles);
        let pans: Vec<f64> = angles.iter().map(|a| a[0]).collect();
        assert_eq!(pans.last(), Some(&570.0));
    }

    fn shaken(i: usize) -> f64 {
        let t = i as f64;
        0.1 * t + 0.3 * (0.4 * t).sin() + 0.002 * (7.3 * t).sin()
    }

    #[rstest]
    #[case::none(None, &[])]
    #[case::one(Some(17), &[17])]
    fn a_jump_is_found_and_shaking_is_none(#[case] at: Option<usize>, #[case] expected: &[usize]) {
        let mut values: Vec<f64> = (0..40).map(shaken).collect();
        if let Some(at) = at {
            values[at] += 0.5;
        }
        assert_eq!(spikes(&values), expected);
    }

    #[rstest]
    #[case::empty(0)]
    #[case::one(1)]
    #[case::two(2)]
    fn short_curves_have_no_spikes(#[case] length: usize) {
        assert!(spikes(&vec![1.0; length]).is_empty());
    }
}
