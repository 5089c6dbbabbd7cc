//! Which rotation is nearest to a matrix?
//!
//! In the sense of the Frobenius norm it is `U diag(1, 1, ±1) Vᵀ` of the singular value
//! decomposition, the sign chosen so that it is no mirroring (Kabsch 1976; Umeyama 1991).

use nalgebra::{Matrix3, Rotation3, UnitQuaternion, Vector3};

/// The nearest rotation, with what it was found from.
pub struct Nearest {
    /// The rotation.
    pub rotation: UnitQuaternion<f64>,
    /// Singular values of the matrix, the last one negative where it mirrors.
    pub signed_values: Vector3<f64>,
}

/// Steps after which the decomposition is given up; it takes a handful.
const MOST_STEPS: usize = 200;

/// The rotation nearest to a matrix; `None` of one that is not finite.
pub fn nearest(matrix: &Matrix3<f64>) -> Option<Nearest> {
    if !matrix.iter().all(|v| v.is_finite()) {
        return None;
    }
    let svd = matrix.try_svd(true, true, f64::EPSILON, MOST_STEPS)?;
    let (u, v_t) = (svd.u?, svd.v_t?);
    let sign = (u * v_t).determinant().signum();
    let flip = Matrix3::from_diagonal(&Vector3::new(1.0, 1.0, sign));
    let turn = Rotation3::from_matrix_unchecked(u * flip * v_t);
    let mut signed_values = svd.singular_values;
    signed_values[2] *= sign;
    Some(Nearest {
        rotation: UnitQuaternion::from_rotation_matrix(&turn),
        signed_values,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// A rotation that is scaled and a little bent is found again.
        #[test]
        fn a_rotation_is_nearest_to_itself(
            turn in prop::array::uniform3(-3.0..3.0f64), scale in 0.1..10.0f64,
            bend in prop::array::uniform9(-1e-6..1e-6f64),
        ) {
            let rotation = UnitQuaternion::new(turn.into());
            let bent = rotation.to_rotation_matrix().into_inner() + Matrix3::from_row_slice(&bend);
            let found = nearest(&(bent * scale)).unwrap();
            prop_assert!(found.rotation.angle_to(&rotation) < 1e-5);
            prop_assert!((found.signed_values - Vector3::repeat(scale)).amax() < 1e-4 * scale);
        }
    }

    #[test]
    fn a_mirroring_gives_a_rotation_and_says_so() {
        let found = nearest(&Matrix3::from_diagonal(&Vector3::new(3.0, 2.0, -1.0))).unwrap();
        assert!(found.rotation.angle() < 1e-12);
        assert!(found.signed_values[2] < 0.0);
    }

    #[test]
    fn what_is_not_finite_has_none() {
        assert!(nearest(&Matrix3::repeat(f64::NAN)).is_none());
        assert!(nearest(&Matrix3::repeat(f64::INFINITY)).is_none());
    }
}
