//! Position and direction of a camera.

use crate::spaces::WorldPoint;
use nalgebra::{Isometry3, Matrix4, Point3, Rotation3, Translation3, UnitQuaternion, Vector3};
use serde::{Deserialize, Serialize};

/// A camera's place in the world, stored as `camera_from_world`.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Pose {
    /// Takes world points into the camera's space (x right, y up, looking along -Z).
    pub camera_from_world: Isometry3<f64>,
}

impl Pose {
    /// The camera at the world's origin, looking along -Z.
    pub fn identity() -> Self {
        Self {
            camera_from_world: Isometry3::identity(),
        }
    }

    /// A pose from rotation and translation of `camera_from_world`.
    pub fn from_parts(rotation: UnitQuaternion<f64>, translation: Vector3<f64>) -> Self {
        Self {
            camera_from_world: Isometry3::from_parts(Translation3::from(translation), rotation),
        }
    }

    /// A camera at `eye` looking at `target`, its upper side towards `up`.
    pub fn looking_at(eye: &Point3<f64>, target: &Point3<f64>, up: &Vector3<f64>) -> Self {
        Self {
            camera_from_world: Isometry3::look_at_rh(eye, target, up),
        }
    }

    /// The point in the camera's own space.
    pub fn to_camera(&self, point: &WorldPoint) -> Vector3<f64> {
        (self.camera_from_world * point.0).coords
    }

    /// Where the camera stands, world units.
    pub fn centre(&self) -> WorldPoint {
        WorldPoint(
            self.camera_from_world.rotation.inverse()
                * Point3::from(-self.camera_from_world.translation.vector),
        )
    }

    /// The direction in which the camera looks, unit length, world.
    pub fn viewing_direction(&self) -> Vector3<f64> {
        self.camera_from_world.rotation.inverse() * -Vector3::z()
    }

    /// 4x4 matrix from the camera's space to the world.
    pub fn world_from_camera(&self) -> Matrix4<f64> {
        self.camera_from_world.inverse().to_homogeneous()
    }

    /// A pose from a 4x4 `world_from_camera`. `None` unless its upper left 3x3 is a
    /// rotation within 1e-4 and its last row is (0, 0, 0, 1).
    pub fn from_world_from_camera(matrix: &Matrix4<f64>) -> Option<Self> {
        let linear = matrix.fixed_view::<3, 3>(0, 0).into_owned();
        let off = (linear * linear.transpose() - nalgebra::Matrix3::identity()).norm();
        let last = matrix.row(3) - nalgebra::RowVector4::new(0.0, 0.0, 0.0, 1.0);
        if !(off < 1e-4 && linear.determinant() > 0.0 && last.norm() < 1e-9) {
            return None;
        }
        let rotation = UnitQuaternion::from_rotation_matrix(&Rotation3::from_matrix(&linear));
        let translation = Translation3::new(matrix[(0, 3)], matrix[(1, 3)], matrix[(2, 3)]);
        Some(Self {
            camera_from_world: Isometry3::from_parts(translation, rotation).inverse(),
        })
    }

    /// The pose turned by `turn_rad` (rotation vector) and shifted by `shift`, both in
    /// camera space, applied on the left: `exp(turn) * R`, `t + shift`.
    pub fn perturbed(&self, turn_rad: Vector3<f64>, shift: Vector3<f64>) -> Self {
        let rotation = UnitQuaternion::new(turn_rad) * self.camera_from_world.rotation;
        let mut rotation = rotation;
        rotation.renormalize();
        Self::from_parts(rotation, self.camera_from_world.translation.vector + shift)
    }

    /// Angle between the directions of two poses, rad.
    pub fn turn_to_rad(&self, other: &Self) -> f64 {
        self.camera_from_world
            .rotation
            .angle_to(&other.camera_from_world.rotation)
    }
}
