//! Which way is up where the camera goes to, and which hand do its axes follow?
//!
//! Our world is right-handed with Y up, the camera looks along its -Z. A receiver may have Z
//! up and may be left-handed; there the camera looks along its +Z, so that its own axes stay a
//! rotation of the world's. `receiver_from_world` is a permutation with signs: nothing is
//! scaled, and lengths, focal lengths and pictures stay as they are.
//!
//! | receiver | takes (x, y, z) to |
//! |---|---|
//! | Y up, right-handed | (x, y, z) |
//! | Z up, right-handed | (x, -z, y) |
//! | Y up, left-handed | (x, y, -z) |
//! | Z up, left-handed | (x, z, y) |

use crate::camera::Pose;
use crate::spaces::WorldPoint;
use nalgebra::{Matrix3, Matrix4, Vector3};
use serde::{Deserialize, Serialize};
use std::fmt;

/// The axis that points up.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Up {
    /// Y, as in our own world.
    #[default]
    Y,
    /// Z.
    Z,
}

/// The hand whose thumb, first and middle finger point along X, Y and Z.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Hand {
    /// As in our own world.
    #[default]
    Right,
    /// Mirrored; the camera looks along its +Z.
    Left,
}

/// The axes of the program that receives a delivery.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct Receiver {
    /// Which axis points up.
    pub up: Up,
    /// Which hand the axes follow.
    pub hand: Hand,
}

impl Receiver {
    /// The same up axis, right-handed: what formats get that know no other hand.
    pub fn right_handed(self) -> Self {
        Self {
            hand: Hand::Right,
            ..self
        }
    }

    fn receiver_from_world(self) -> Matrix3<f64> {
        let upright = match self.up {
            Up::Y => Matrix3::identity(),
            Up::Z => Matrix3::new(1.0, 0.0, 0.0, 0.0, 0.0, -1.0, 0.0, 1.0, 0.0),
        };
        match (self.hand, self.up) {
            (Hand::Right, _) => upright,
            (Hand::Left, Up::Y) => Matrix3::from_diagonal(&Vector3::new(1.0, 1.0, -1.0)) * upright,
            (Hand::Left, Up::Z) => Matrix3::from_diagonal(&Vector3::new(1.0, -1.0, 1.0)) * upright,
        }
    }

    /// Which of the receiver's axes each of the world's is, with its sign.
    pub fn from_world(self) -> [(usize, f64); 3] {
        let order = self.receiver_from_world();
        std::array::from_fn(|axis| {
            let column = order.column(axis);
            let at = column.iamax();
            (at, column[at])
        })
    }

    /// A point in the receiver's world.
    pub fn point(self, point: &WorldPoint) -> [f64; 3] {
        (self.receiver_from_world() * point.0.coords).into()
    }

    /// Standard errors along the receiver's axes; negative ones mark what is unknown and stay so.
    pub fn sigma(self, sigma: [f64; 3]) -> [f64; 3] {
        let order = self.receiver_from_world().abs();
        (order * Vector3::from(sigma)).into()
    }

    /// 4x4 matrix from the receiver's camera space to its world.
    pub fn world_from_camera(self, pose: &Pose) -> Matrix4<f64> {
        let camera = match self.hand {
            Hand::Right => Matrix3::identity(),
            Hand::Left => Matrix3::from_diagonal(&Vector3::new(1.0, 1.0, -1.0)),
        };
        let ours = camera.to_homogeneous();
        self.receiver_from_world().to_homogeneous() * pose.world_from_camera() * ours
    }
}

impl fmt::Display for Receiver {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let up = match self.up {
            Up::Y => "Y",
            Up::Z => "Z",
        };
        let hand = match self.hand {
            Hand::Right => "right",
            Hand::Left => "left",
        };
        write!(f, "{up}, {hand}-handed")
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use nalgebra::Point3;
    use rstest::rstest;

    #[rstest]
    #[case::ours(Up::Y, Hand::Right, 1.0)]
    #[case::z_up(Up::Z, Hand::Right, 1.0)]
    #[case::y_left(Up::Y, Hand::Left, -1.0)]
    #[case::z_left(Up::Z, Hand::Left, -1.0)]
    fn up_stays_up_and_the_hand_is_as_asked(#[case] up: Up, #[case] hand: Hand, #[case] sign: f64) {
        let receiver = Receiver { up, hand };
        let above = receiver.point(&WorldPoint::new(0.0, 1.0, 0.0));
        assert_eq!(
            above,
            if up == Up::Y {
                [0.0, 1.0, 0.0]
            } else {
                [0.0, 0.0, 1.0]
            }
        );
        assert_eq!(receiver.receiver_from_world().determinant(), sign);
        // The camera's axes are a rotation of the receiver's, and a point ahead lies ahead.
        let pose = Pose::looking_at(
            &Point3::new(1.0, 1.6, 4.0),
            &Point3::new(0.2, 0.9, -1.0),
            &Vector3::y(),
        );
        let matrix = receiver.world_from_camera(&pose);
        let turn = matrix.fixed_view::<3, 3>(0, 0).into_owned();
        assert!((turn.determinant() - 1.0).abs() < 1e-12);
        let seen = Vector3::from(receiver.point(&WorldPoint::new(0.4, 0.3, -2.0)));
        let in_camera = turn.transpose() * (seen - matrix.fixed_view::<3, 1>(0, 3));
        let ours = pose.to_camera(&WorldPoint::new(0.4, 0.3, -2.0));
        let depth = if hand == Hand::Right {
            in_camera.z
        } else {
            -in_camera.z
        };
        assert!((Vector3::new(in_camera.x, in_camera.y, depth) - ours).norm() < 1e-12);
    }
}
