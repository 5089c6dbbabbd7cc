//! A change of world: turn, shift and scale.

use super::Pose;
use crate::rotation;
use crate::spaces::WorldPoint;
use nalgebra::{Isometry3, Matrix3, Matrix4, Point3, Translation3, UnitQuaternion, Vector3};
use serde::{Deserialize, Serialize};

/// `new = scale * rotation * old + translation`.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Similarity {
    /// Turn.
    pub rotation: UnitQuaternion<f64>,
    /// Shift, in units of the new world.
    pub translation: Vector3<f64>,
    /// Units of the new world per unit of the old, positive.
    pub scale: f64,
}

impl Similarity {
    /// No change.
    pub fn identity() -> Self {
        Self {
            rotation: UnitQuaternion::identity(),
            translation: Vector3::zeros(),
            scale: 1.0,
        }
    }

    /// The point in the new world.
    pub fn point(&self, point: &WorldPoint) -> WorldPoint {
        WorldPoint(Point3::from(
            self.rotation * point.0.coords * self.scale + self.translation,
        ))
    }

    /// The same as a matrix.
    pub fn matrix(&self) -> Matrix4<f64> {
        let turn = self.rotation.to_rotation_matrix().into_inner() * self.scale;
        let mut matrix = turn.to_homogeneous();
        matrix
            .fixed_view_mut::<3, 1>(0, 3)
            .copy_from(&self.translation);
        matrix
    }

    /// The camera in the new world; what it draws does not change.
    pub fn pose(&self, pose: &Pose) -> Pose {
        let centre = self.point(&pose.centre());
        let rotation = pose.camera_from_world.rotation * self.rotation.inverse();
        Pose {
            camera_from_world: Isometry3::from_parts(
                Translation3::from(-(rotation * centre.0.coords)),
                rotation,
            ),
        }
    }

    /// The way back.
    pub fn inverse(&self) -> Self {
        let (rotation, scale) = (self.rotation.inverse(), self.scale.recip());
        Self {
            rotation,
            translation: -(rotation * self.translation * scale),
            scale,
        }
    }

    /// First `self`, then `after`.
    pub fn then(&self, after: &Self) -> Self {
        Self {
            rotation: after.rotation * self.rotation,
            translation: after.rotation * self.translation * after.scale + after.translation,
            scale: after.scale * self.scale,
        }
    }

    /// The similarity that brings `from` nearest to `to` in the least-squares sense
    /// (Umeyama 1991). `None` with fewer than three points or all of them in one place.
    pub fn fitting(from: &[WorldPoint], to: &[WorldPoint]) -> Option<Self> {
        if from.len() < 3 || from.len() != to.len() {
            return None;
        }
        let count = from.len() as f64;
        let mean = |points: &[WorldPoint]| {
            points
                .iter()
                .fold(Vector3::zeros(), |sum, p| sum + p.0.coords)
                / count
        };
        let (mean_from, mean_to) = (mean(from), mean(to));
        let mut covariance = Matrix3::zeros();
        let mut spread = 0.0;
        for (f, t) in from.iter().zip(to) {
            covariance += (t.0.coords - mean_to) * (f.0.coords - mean_from).transpose() / count;
            spread += (f.0.coords - mean_from).norm_squared() / count;
        }
        if spread <= 0.0 {
            return None;
        }
        let nearest = rotation::nearest(&covariance)?;
        let rotation = nearest.rotation;
        let scale = nearest.signed_values.sum() / spread;
        (scale > 0.0).then(|| Self {
            rotation,
            scale,
            translation: mean_to - rotation * mean_from * scale,
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::camera::Intrinsics;
    use proptest::prelude::*;

    fn similarity() -> impl Strategy<Value = Similarity> {
        (
            prop::array::uniform3(-3.0..3.0f64),
            prop::array::uniform3(-50.0..50.0f64),
            0.01..100.0f64,
        )
            .prop_map(|(turn, shift, scale)| Similarity {
                rotation: UnitQuaternion::new(Vector3::from(turn)),
                translation: Vector3::from(shift),
                scale,
            })
    }

    proptest! {
        #[test]
        fn a_change_of_world_does_not_move_the_picture(
            change in similarity(), point in prop::array::uniform3(-1.0..1.0f64)
        ) {
            let pose = Pose::looking_at(&Point3::new(1.0, 2.0, 6.0), &Point3::origin(), &Vector3::y());
            let lens = Intrinsics::centred(1280, 720, 900.0);
            let point = WorldPoint(Point3::from(Vector3::from(point)));
            let before = lens.project(&pose, &point).unwrap();
            let after = lens.project(&change.pose(&pose), &change.point(&point)).unwrap();
            prop_assert!(before.distance_px(after) < 1e-6);
        }

        #[test]
        fn fitting_finds_the_similarity(change in similarity(), seed in prop::array::uniform12(-5.0..5.0f64)) {
            let from: Vec<_> = seed.chunks(3).map(|c| WorldPoint::new(c[0], c[1], c[2])).collect();
            let to: Vec<_> = from.iter().map(|p| change.point(p)).collect();
            let found = Similarity::fitting(&from, &to).unwrap();
            for (f, t) in from.iter().zip(&to) {
                prop_assert!(found.point(f).distance(*t) < 1e-6 * (1.0 + change.scale));
            }
        }
    }
}
