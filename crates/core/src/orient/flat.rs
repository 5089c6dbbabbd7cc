//! How flat is a plane by its own features, and which of them does not lie on it?
//!
//! Told from the features alone, wherever the plane is stated to stand: so that one that does not stand there is
//! missed, and not taken for a rough one. The plane is fitted again and again to those that lie near it by the median
//! of what they are off; what that exceeds the errors of the landmarks by is how rough it is.

use super::solved::{FoundPlane, plane_of};
use crate::statistics::median;
use nalgebra::{Matrix3, Vector3};

/// A plane by its features.
pub struct Flatness {
    /// Its normal.
    pub normal: Vector3<f64>,
    /// How rough it is, one standard error, units of the solve.
    pub rough: f64,
    /// What each feature is off it.
    pub off: Vec<f64>,
    /// Which of them lie far off it.
    pub far: Vec<bool>,
}

/// Features beyond so many standard errors do not lie on it.
const FAR_OFF: f64 = 3.0;
/// A plane is rough where its features say so beyond so many standard errors of that.
const EVIDENTLY: f64 = 3.0;
/// Fewer features do not tell which of them is off, or how flat their plane is.
const FEWEST_TELLING: usize = 5;
/// The plane follows what lies near it so many times.
const ROUNDS: usize = 5;
/// Standard errors by the median of absolute values, of which the square has this efficiency.
const BY_MEDIAN: f64 = 1.4826;
const EFFICIENCY: f64 = 0.37;

/// The flatness of features with the covariances of their places; `None` where they lie in one line.
pub fn flatness(places: &[Vector3<f64>], covariances: &[Matrix3<f64>]) -> Option<Flatness> {
    let off = |plane: &FoundPlane| -> Vec<f64> {
        let height = |p: &Vector3<f64>| plane.normal.dot(&(p - plane.middle));
        places.iter().map(height).collect()
    };
    let mut plane = plane_of(places)?;
    let count = places.len();
    if count < FEWEST_TELLING {
        return Some(Flatness {
            rough: 0.0,
            off: off(&plane),
            far: vec![false; count],
            normal: plane.normal,
        });
    }
    // A plane takes three features to itself.
    let spare = count as f64 / (count - 3) as f64;
    let variance = |of: &[f64]| {
        let mut sizes: Vec<f64> = of.iter().map(|v| v.abs()).collect();
        (BY_MEDIAN * median(&mut sizes).unwrap_or(0.0)).powi(2) * spare
    };
    let known = |normal: &Vector3<f64>| -> Vec<f64> {
        let along = |c: &Matrix3<f64>| normal.dot(&(c * normal)).max(0.0);
        covariances.iter().map(along).collect()
    };
    for _ in 0..ROUNDS {
        let (heights, known) = (off(&plane), known(&plane.normal));
        let usual = variance(&heights);
        let near: Vec<Vector3<f64>> = (0..count)
            .filter(|i| heights[*i].powi(2) <= FAR_OFF.powi(2) * usual.max(known[*i]))
            .map(|i| places[i])
            .collect();
        match plane_of(&near) {
            Some(better) if 2 * near.len() > count => plane = better,
            _ => break,
        }
    }
    let (off, known) = (off(&plane), known(&plane.normal));
    let seen = variance(&off);
    let usual = median(&mut known.clone()).unwrap_or(0.0);
    // The spread of so few features is itself known to this share.
    let doubt = EVIDENTLY * (2.0 / EFFICIENCY / (count - 3) as f64).sqrt();
    let rough = match seen > usual * (1.0 + doubt) {
        true => (seen - usual).sqrt(),
        false => 0.0,
    };
    let is_far = |(height, known): (&f64, &f64)| {
        height.powi(2) > FAR_OFF.powi(2) * (known + rough * rough).max(seen)
    };
    Some(Flatness {
        far: off.iter().zip(&known).map(is_far).collect(),
        normal: plane.normal,
        rough,
        off,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// Features on a floor that is rough by so much, one of them so far off it.
    fn floor(rough: f64, astray: f64, seed: u64) -> Vec<Vector3<f64>> {
        let mut random = fastrand::Rng::with_seed(seed);
        let mut normal = || (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
        let place = |k: u32| {
            let (x, z) = (f64::from(k % 6), f64::from(k / 6));
            let off = if k == 7 { astray } else { 0.0 };
            Vector3::new(x, rough * normal() + off, z)
        };
        (0..30).map(place).collect()
    }

    #[rstest]
    #[case::as_exact_as_its_landmarks(0.01, 0.0, 0.0)]
    #[case::worn(0.05, 0.0, 0.049)]
    #[case::one_on_a_table(0.01, 0.8, 0.0)]
    #[case::worn_and_one_on_a_table(0.05, 0.8, 0.049)]
    fn a_floor_is_as_rough_as_it_is(#[case] seen: f64, #[case] astray: f64, #[case] rough: f64) {
        let covariances = vec![Matrix3::identity() * 1e-4; 30];
        let mut sum = 0.0;
        for seed in 0..20 {
            let found = flatness(&floor(seen, astray, seed), &covariances).unwrap();
            assert!(found.normal.y.abs() > 0.999, "{}", found.normal);
            assert_eq!(found.far[7], astray > 0.0);
            assert!(found.far.iter().filter(|far| **far).count() <= 3);
            sum += found.rough / 20.0;
        }
        assert!((sum - rough).abs() < 0.012, "{sum} for {rough}");
    }

    #[test]
    fn a_row_of_features_is_no_plane() {
        let row: Vec<Vector3<f64>> = (0..9)
            .map(|k| Vector3::new(f64::from(k), 0.0, 0.0))
            .collect();
        assert!(flatness(&row, &[Matrix3::zeros(); 9]).is_none());
    }
}
