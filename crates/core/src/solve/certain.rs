//! How certain is a landmark or a camera? Covariances as they are kept, and what becomes of
//! them in another world.

use crate::camera::{Pose, Similarity};
use nalgebra::{Matrix3, Matrix6, Vector3};
use serde::{Deserialize, Serialize};

/// Covariance of a place in space along the world's axes, world units squared.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(try_from = "[f64; 6]", into = "[f64; 6]")]
pub struct PointCovariance(Matrix3<f64>);

/// Covariance of a camera's turn (rad) and shift (world units), both in camera space and
/// applied as [`Pose::perturbed`] does.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(try_from = "Vec<f64>", into = "Vec<f64>")]
pub struct CameraCovariance(Matrix6<f64>);

/// Numbers that are no covariance.
#[derive(Clone, Copy, Debug, PartialEq, thiserror::Error)]
#[error("these numbers are no covariance: they are not finite, or a variance is negative")]
pub struct NoCovariance;

impl PointCovariance {
    /// Of a symmetric matrix with finite entries and no negative variance; only its upper
    /// triangle is read.
    pub fn new(matrix: &Matrix3<f64>) -> Result<Self, NoCovariance> {
        let upper = Matrix3::from_fn(|i, j| matrix[(i.min(j), i.max(j))]);
        checked(upper.iter(), upper.diagonal().iter()).map(|()| Self(upper))
    }

    /// The same standard errors along the axes, independent of each other.
    pub fn of_sigma(sigma: [f64; 3]) -> Result<Self, NoCovariance> {
        let variances = Vector3::from(sigma.map(|s| s * s));
        let possible = sigma.iter().all(|s| *s >= 0.0);
        if possible {
            Self::new(&Matrix3::from_diagonal(&variances))
        } else {
            Err(NoCovariance)
        }
    }

    /// The symmetric matrix.
    pub fn matrix(&self) -> &Matrix3<f64> {
        &self.0
    }

    /// One standard error along each of the world's axes, world units.
    pub fn sigma(&self) -> [f64; 3] {
        std::array::from_fn(|i| self.0[(i, i)].max(0.0).sqrt())
    }

    /// One standard error along a direction of unit length, world units.
    pub fn along(&self, direction: &Vector3<f64>) -> f64 {
        direction.dot(&(self.0 * direction)).max(0.0).sqrt()
    }

    /// Half axes of the ellipsoid of one standard error, world units.
    pub fn axes(&self) -> [Vector3<f64>; 3] {
        let eigen = self.0.symmetric_eigen();
        let axis = |k: usize| eigen.eigenvectors.column(k) * eigen.eigenvalues[k].max(0.0).sqrt();
        [axis(0), axis(1), axis(2)]
    }

    /// The same in another world: scaled, and turned with it.
    pub fn in_world(&self, change: &Similarity) -> Self {
        let turn = change.rotation.to_rotation_matrix().into_inner() * change.scale;
        let moved = turn * self.0 * turn.transpose();
        Self(0.5 * (moved + moved.transpose()))
    }
}

impl TryFrom<[f64; 6]> for PointCovariance {
    type Error = NoCovariance;

    fn try_from([xx, xy, xz, yy, yz, zz]: [f64; 6]) -> Result<Self, NoCovariance> {
        Self::new(&Matrix3::new(xx, xy, xz, xy, yy, yz, xz, yz, zz))
    }
}

impl From<PointCovariance> for [f64; 6] {
    fn from(PointCovariance(m): PointCovariance) -> Self {
        [
            m[(0, 0)],
            m[(0, 1)],
            m[(0, 2)],
            m[(1, 1)],
            m[(1, 2)],
            m[(2, 2)],
        ]
    }
}

impl CameraCovariance {
    /// Of a symmetric matrix with finite entries and no negative variance; only its upper
    /// triangle is read.
    pub fn new(matrix: &Matrix6<f64>) -> Result<Self, NoCovariance> {
        let upper = Matrix6::from_fn(|i, j| matrix[(i.min(j), i.max(j))]);
        checked(upper.iter(), upper.diagonal().iter()).map(|()| Self(upper))
    }

    /// The symmetric matrix: turn, then shift.
    pub fn matrix(&self) -> &Matrix6<f64> {
        &self.0
    }

    /// One standard error of the direction about the camera's right, up and back, rad.
    pub fn turn_sigma_rad(&self) -> [f64; 3] {
        std::array::from_fn(|i| self.0[(i, i)].max(0.0).sqrt())
    }

    /// Covariance of where the camera stands. Its centre is `-Rᵀ t`, which a turn ω and a shift
    /// δ in camera space move by `-Rᵀ (t × ω + δ)`.
    pub fn of_centre(&self, pose: &Pose) -> PointCovariance {
        let isometry = &pose.camera_from_world;
        let back = isometry
            .rotation
            .inverse()
            .to_rotation_matrix()
            .into_inner();
        let by_turn = back * isometry.translation.vector.cross_matrix();
        let mut slope = nalgebra::Matrix3x6::zeros();
        slope.fixed_view_mut::<3, 3>(0, 0).copy_from(&by_turn);
        slope.fixed_view_mut::<3, 3>(0, 3).copy_from(&back);
        let moved = slope * self.0 * slope.transpose();
        PointCovariance(0.5 * (moved + moved.transpose()))
    }

    /// The same in another world, for the camera that stands at `pose` in the old one. With the
    /// new translation `t' = s t - R' T` a turn ω shifts by `s δ + (R' T) × ω` (R' the new
    /// rotation, T and s those of the change).
    pub fn in_world(&self, pose: &Pose, change: &Similarity) -> Self {
        let turned = change.pose(pose).camera_from_world.rotation * change.translation;
        let mut slope = Matrix6::identity();
        slope
            .fixed_view_mut::<3, 3>(3, 0)
            .copy_from(&turned.cross_matrix());
        slope
            .fixed_view_mut::<3, 3>(3, 3)
            .copy_from(&(Matrix3::identity() * change.scale));
        let moved = slope * self.0 * slope.transpose();
        Self(0.5 * (moved + moved.transpose()))
    }
}

impl TryFrom<Vec<f64>> for CameraCovariance {
    type Error = NoCovariance;

    fn try_from(upper: Vec<f64>) -> Result<Self, NoCovariance> {
        if upper.len() != 21 {
            return Err(NoCovariance);
        }
        let mut matrix = Matrix6::zeros();
        let places = (0..6).flat_map(|i| (i..6).map(move |j| (i, j)));
        places
            .zip(upper)
            .for_each(|(place, value)| matrix[place] = value);
        Self::new(&matrix)
    }
}

impl From<CameraCovariance> for Vec<f64> {
    fn from(CameraCovariance(m): CameraCovariance) -> Self {
        (0..6)
            .flat_map(|i| (i..6).map(move |j| m[(i, j)]))
            .collect()
    }
}

fn checked<'a>(
    mut all: impl Iterator<Item = &'a f64>,
    mut variances: impl Iterator<Item = &'a f64>,
) -> Result<(), NoCovariance> {
    let possible = all.all(|v| v.is_finite()) && variances.all(|v| *v >= 0.0);
    if possible { Ok(()) } else { Err(NoCovariance) }
}

#[cfg(test)]
mod tests {
    use super::*;
    use nalgebra::{Point3, UnitQuaternion, Vector6};
    use proptest::prelude::*;
    use rstest::rstest;

    fn random_covariance(seed: u64) -> Matrix6<f64> {
        let mut random = fastrand::Rng::with_seed(seed);
        let root = Matrix6::from_fn(|_, _| random.f64() - 0.5) * 1e-3;
        root * root.transpose()
    }

    proptest! {
        /// A change of world that is applied to the camera moves small errors as it says.
        #[test]
        fn errors_of_a_camera_move_with_the_world(
            turn in prop::array::uniform3(-3.0..3.0f64),
            shift in prop::array::uniform3(-5.0..5.0f64),
            scale in 0.1..9.0f64,
            seed in 0u64..1000,
        ) {
            let change = Similarity {
                rotation: UnitQuaternion::new(turn.into()),
                translation: shift.into(),
                scale,
            };
            let pose = Pose::looking_at(
                &Point3::new(1.0, 2.0, 6.0), &Point3::origin(), &Vector3::y(),
            );
            let covariance = CameraCovariance::new(&random_covariance(seed)).unwrap();
            let moved = covariance.in_world(&pose, &change);
            // Along each principal axis of the covariance: the step, and the step in the new world.
            let eigen = covariance.matrix().symmetric_eigen();
            let mut sum = Matrix6::zeros();
            let mut of_centre = Matrix3::zeros();
            let new = change.pose(&pose);
            for (k, value) in eigen.eigenvalues.iter().enumerate() {
                let small = 1e-6;
                let step: Vector6<f64> = eigen.eigenvectors.column(k) * small;
                let stepped = pose.perturbed(step.fixed_rows::<3>(0).into(), step.fixed_rows::<3>(3).into());
                let there = change.pose(&stepped);
                let turn = (there.camera_from_world.rotation
                    * new.camera_from_world.rotation.inverse()).scaled_axis();
                let shift = there.camera_from_world.translation.vector
                    - new.camera_from_world.translation.vector;
                let slope = Vector6::new(turn.x, turn.y, turn.z, shift.x, shift.y, shift.z) / small;
                sum += slope * slope.transpose() * *value;
                let moves = (there.centre().0 - new.centre().0) / small;
                of_centre += moves * moves.transpose() * *value;
            }
            prop_assert!((sum - moved.matrix()).norm() < 1e-4 * sum.norm());
            let centre = moved.of_centre(&new);
            prop_assert!((of_centre - centre.matrix()).norm() < 1e-4 * of_centre.norm());
        }

        /// The picture of an error of a landmark is the same in every world: its length along a
        /// direction scales, and turning the world by a quarter swaps its axes.
        #[test]
        fn errors_of_a_landmark_turn_with_the_world(
            turn in prop::array::uniform3(-3.0..3.0f64), scale in 0.1..9.0f64, seed in 0u64..1000,
        ) {
            let full = random_covariance(seed);
            let covariance = PointCovariance::new(&full.fixed_view::<3, 3>(0, 0).into_owned()).unwrap();
            let change = Similarity {
                rotation: UnitQuaternion::new(turn.into()), translation: Vector3::zeros(), scale,
            };
            let direction = Vector3::new(0.3, -0.5, 0.8).normalize();
            let there = change.rotation * direction;
            let (before, after) = (covariance.along(&direction), covariance.in_world(&change).along(&there));
            prop_assert!((after - scale * before).abs() < 1e-9 * after);
        }
    }

    #[test]
    fn a_quarter_turn_swaps_the_standard_errors() {
        let covariance = PointCovariance::of_sigma([0.01, 0.02, 0.3]).unwrap();
        let quarter = Similarity {
            rotation: UnitQuaternion::from_axis_angle(
                &Vector3::y_axis(),
                std::f64::consts::FRAC_PI_2,
            ),
            translation: Vector3::zeros(),
            scale: 2.0,
        };
        let [x, y, z] = covariance.in_world(&quarter).sigma();
        assert!((x - 0.6).abs() < 1e-12 && (y - 0.04).abs() < 1e-12 && (z - 0.02).abs() < 1e-12);
    }

    #[rstest]
    #[case::not_finite([1.0, 0.0, 0.0, f64::NAN, 0.0, 1.0])]
    #[case::negative([1.0, 0.0, 0.0, -1.0, 0.0, 1.0])]
    fn what_is_no_covariance_is_refused(#[case] upper: [f64; 6]) {
        assert_eq!(PointCovariance::try_from(upper), Err(NoCovariance));
    }
}
